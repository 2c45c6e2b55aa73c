//! Numbers that a program draws again as their values change.

use std::collections::BTreeSet;
use std::time::Duration;

use super::counting::stride;
use super::error::CannotWrite;
use super::passage::{Figures, Millis, Steadied, Valued};
use super::story::{Onto, Writing, millis};
use super::values::Live;
use spare_tile_core::content::number::{Decimal, NumberFormat, Radix};
use spare_tile_core::frame::Frame;
use spare_tile_core::play::reading::{Of, Reading, Smooth};

/// How often a value that is given is asked for, where the reel does not say it.
pub(super) const LOOK_EVERY: Millis = 100;

/// Of more looks a small controller does not keep the values.
const MOST_LOOKS: usize = 32;

impl Writing<'_> {
    /// A variable as a number; a figure of it blinks where a cursor says which.
    pub(super) fn value(
        &self,
        reading: &Reading,
        cursor: Option<&str>,
        onto: &Onto<'_>,
        length: Option<Duration>,
    ) -> Result<Valued, CannotWrite> {
        let variable = &reading.variable;
        let cannot = |why| Err(CannotWrite::Value { variable: variable.clone(), why });
        let Some(live) = self.lives.get(variable) else { return cannot("it is no variable") };
        if reading.stale.is_some() {
            return cannot("it is given up after a time, and a program asks for it whenever it looks");
        }
        let format = &reading.format;
        if format.radix != Radix::Decimal || format.thousands || format.engineering || format.shortest {
            return cannot("it is not a plain decimal number");
        }
        if format.places.unwrap_or(0) < live.places {
            return cannot("it has more places than are shown: say places");
        }
        let places = live.places;
        let draw_with = |reading: &Reading, units: i128| {
            onto(&|canvas| reading.draw_value(Some(Decimal::new(units, places)), canvas))
        };
        // Figures are learnt from numbers beyond its limits, too.
        let unlimited =
            Reading { format: NumberFormat { least: None, most: None, ..format.clone() }, ..reading.clone() };
        let draw = |units: i128| draw_with(&unlimited, units);
        let in_units = |end: Option<Decimal>| end.and_then(|end| i64::try_from(end.in_units(places)).ok());
        let (least, most) = (in_units(format.least), in_units(format.most));
        let clipped = |(from, to): (i64, i64)| {
            let from = [live.least, least].into_iter().flatten().fold(from, i64::max);
            (from, [live.most, most].into_iter().flatten().fold(to, i64::min))
        };
        // From the most figures that there may be room for to the fewest; with and without those below 0.
        let spans = (1..=9_u32).rev().flat_map(|figures| {
            let most = 10_i64.pow(figures) - 1;
            [(-(most / 10), most), (0, most)]
        });
        let learnt = spans.map(clipped).filter(|(from, to)| from <= to).find_map(|(from, to)| {
            let numbers: Vec<i128> = some_between(from, to).collect();
            Some(((from, to), Figures::learn(self.mount, &numbers, &draw, places as usize)?))
        });
        let Some(((from, to), figures)) = learnt else {
            return cannot("its figures have no places of their own");
        };
        let (is_under, is_over) =
            (live.least.is_none_or(|least| least < from), live.most.is_none_or(|most| to < most));
        let beyond = |end: i64, way: i128| {
            let far = (0..6).map(|power| i128::from(end) + way * 10_i128.pow(power));
            let frames: Vec<Frame> = far.map(|units| draw_with(reading, units)).collect();
            frames.windows(2).all(|pair| pair[0] == pair[1]).then(|| frames[0].clone())
        };
        let alike = |frame: Option<Frame>| {
            let why = "what does not fit is not always shown alike";
            frame.ok_or_else(|| CannotWrite::Value { variable: variable.clone(), why })
        };
        let under = is_under.then(|| alike(beyond(from, -1))).transpose()?;
        let over = is_over.then(|| alike(beyond(to, 1))).transpose()?;
        if let Some(at) = cursor {
            let is_kept = |live: &Live| !live.is_given && live.places == 0;
            if live.is_given || !self.lives.get(at).is_some_and(is_kept) {
                return cannot("it has a cursor, and no button moves the cursor or changes the value");
            }
            if is_under || is_over {
                return cannot("a cursor is on it, and it may not fit: give it limits, least and most");
            }
        }
        let every = match reading.every {
            Some(every) => Some(millis(every)?.max(1)),
            None => live.is_given.then_some(LOOK_EVERY),
        };
        let steadied = steadied(reading, every.unwrap_or(LOOK_EVERY));
        let steadied = steadied.map_err(|why| CannotWrite::Value { variable: variable.clone(), why })?;
        if !live.is_given && (reading.every.is_some() || reading.band.is_some() || steadied.is_some()) {
            return cannot("buttons change it, and it is polled or held: show it as a number");
        }
        if steadied.is_some() && length.is_some() {
            return cannot("it is made of earlier values, and shown for a time: show it all the time");
        }
        Ok(Valued {
            variable: variable.clone(),
            places,
            figures,
            from,
            to,
            under,
            over,
            steadied,
            // The least and the most go one way, and are not held.
            band: in_units(reading.band).filter(|_| reading.of == Of::Last).unwrap_or(0),
            every,
            cursor: cursor.map(ToOwned::to_owned),
            lasts: length.map(millis).transpose()?,
        })
    }
}

/// What a reading makes of the values of several looks, of which there is one so often.
fn steadied(reading: &Reading, every: Millis) -> Result<Option<Steadied>, &'static str> {
    let looks = |window: Duration| {
        let looks = window.as_nanos().div_ceil(u128::from(every) * 1_000_000).max(1);
        let looks = usize::try_from(looks).ok().filter(|looks| *looks <= MOST_LOOKS);
        looks.ok_or("it is smoothed over more than 32 looks: give the time for which a value is kept, keep")
    };
    Ok(match (reading.of, reading.smooth) {
        (Of::Last, Smooth::Not) => None,
        (Of::Last, Smooth::Mean(_)) if reading.format.places.is_none() => {
            return Err("a mean has more places than are shown: say places");
        }
        // It would be held by what is rounded, and is by what is not.
        (Of::Last, Smooth::Mean(_)) if reading.band.is_some() => {
            return Err("it is smoothed by a mean and held: let it be one of them");
        }
        (Of::Last, Smooth::Mean(window)) => Some(Steadied::Mean(looks(window)?)),
        (Of::Last, Smooth::Median(window)) => Some(Steadied::Median(looks(window)?)),
        (Of::Least, Smooth::Not) => Some(Steadied::Least),
        (Of::Most, Smooth::Not) => Some(Steadied::Most),
        _ => return Err("it is the least or the most of what is smoothed: let it be one of them"),
    })
}

/// All between two numbers, or where they are very many some, with those around each further figure.
fn some_between(from: i64, to: i64) -> impl Iterator<Item = i128> {
    let step = stride((to - from).unsigned_abs(), 2000) as i64;
    let steps = (0..=(to - from) / step).map(move |nth| from + nth * step);
    let powers = (0..10_u32).flat_map(|power| {
        let ten = 10_i64.pow(power);
        [-ten, -ten + 1, -1, 0, 1, ten - 1, ten]
    });
    let all: BTreeSet<i64> =
        steps.chain(powers).chain([from, to]).filter(|n| (from..=to).contains(n)).collect();
    all.into_iter().map(i128::from)
}
