//! Clocks that a program lets go by itself.

use std::collections::BTreeSet;
use std::time::Duration;

use super::error::CannotWrite;
use super::field::{Columns, Field};
use super::passage::{Millis, Runs, Stopping, Telling};
use super::story::{Onto, Writing, millis};
use spare_tile_core::face::Element;
use spare_tile_core::frame::Frame;
use spare_tile_core::play::clock::{Clock, Colon, Shows, Speed};
use spare_tile_core::play::stopwatch::Stopwatch;

impl Writing<'_> {
    pub(super) fn clock(
        &self,
        clock: &Clock,
        onto: &Onto<'_>,
        length: Option<Duration>,
    ) -> Result<Telling, CannotWrite> {
        const DAY: i128 = 86_400_000;
        let cannot = |why| Err(CannotWrite::Clock(why));
        let Some(from) = clock.from.map_or(self.begins, Some) else {
            return cannot("it needs the time at which it begins");
        };
        let is_set = !clock.setters.is_empty();
        if is_set && (length.is_some() || !matches!(clock.shows, Shows::Time)) {
            return cannot("buttons set it, and it does not always show the time of day");
        }
        let style = &clock.style;
        // In thousandths of a second of its own time.
        let start = from.as_nanosecond().div_euclid(1_000_000);
        let (runs, shown) = match clock.shows {
            Shows::Date(_) => return cannot("it shows the date"),
            Shows::Time => {
                let local = clock.local(from.as_nanosecond());
                let seconds = i128::from(local.hour()) * 3600
                    + i128::from(local.minute()) * 60
                    + i128::from(local.second());
                (Runs::Day, seconds * 1000 + start.rem_euclid(1000))
            }
            Shows::Until(moment) => (Runs::Down, moment.as_millisecond() as i128 - start),
            Shows::Since(moment) => (Runs::Up, start - moment.as_millisecond() as i128),
        };
        if shown < 0 {
            return cannot("its moment is not yet, or over");
        }
        let Speed { shown: fast, passed } = clock.speed;
        let (blinks, half) = match style.colon {
            Colon::Blinking(period) => (true, millis(period)? / 2),
            Colon::Steady | Colon::Dark => (false, 1000),
        };
        if half == 0 || 1000 % half != 0 || (blinks && (1000 / half) % 2 != 0) {
            return cannot("its colon blinks at another pace than the seconds");
        }
        let scaled = |own: u64| {
            let real = own * u64::from(passed);
            real.is_multiple_of(u64::from(fast)).then_some((real / u64::from(fast)) as Millis)
        };
        let Some(tick) = scaled(u64::from(half)) else {
            return cannot("its seconds are no whole milliseconds");
        };
        // What is left counts as a whole unit while any of it is left.
        let unit = if style.seconds { 1000 } else { 60_000 };
        let into = if runs == Runs::Down { (unit - shown % unit) % unit } else { shown % unit };
        let units = if runs == Runs::Down { (shown + unit - 1) / unit } else { shown / unit };
        let seconds = units * unit / 1000;
        let hours = seconds / 3600;
        if hours > 99 {
            return cannot("it begins with more than 99 hours");
        }
        if runs == Runs::Up && length.is_none_or(|length| shown + length.as_millis() as i128 >= 4 * DAY) {
            return cannot("it may come to more than 99 hours: say for how long it is shown");
        }
        let (ticked, over) = ((into % 1000) / i128::from(half), (into % 1000) % i128::from(half));
        let Some(over) = scaled(over as u64) else { return cannot("it begins between two milliseconds") };
        let groups = if style.seconds { 3 } else { 2 };
        let draw = |figures: &[u8], lit: bool, afternoon: bool| {
            let words = figures.chunks(2).map(|two| format!("{}{}", two[0], two[1])).collect::<Vec<_>>();
            onto(&|canvas| clock.draw_groups(words.clone(), lit, afternoon, canvas))
        };
        let none = "its figures have no places of their own";
        let columns = Columns::of(self.mount);
        let learnt = of_groups(&columns, groups, &|figures| draw(figures, false, false));
        let Some(mut field) = learnt else { return cannot(none) };
        let eights = vec![8; 2 * groups];
        let dark = columns.lit(&draw(&eights, false, false));
        let more =
            |frame: Frame| -> BTreeSet<Element> { columns.lit(&frame).difference(&dark).copied().collect() };
        let mut colon = more(draw(&eights, true, false));
        if style.colon == Colon::Steady {
            field.marks.extend(std::mem::take(&mut colon));
        }
        if style.colon == Colon::Dark {
            colon.clear();
        }
        let twelve = style.twelve.map(|_| more(draw(&eights, false, true)));
        if twelve.is_some() {
            // A blank in place of a first 0 must be as wide as a figure.
            let blank = onto(&|canvas| {
                clock.draw_groups(
                    vec![" 8".to_owned(), "88".to_owned(), "88".to_owned()][..groups].to_vec(),
                    false,
                    false,
                    canvas,
                )
            });
            let seated = field.seats[1..].iter().map(|seat| (*seat, &field.figures[8]));
            let expected: BTreeSet<_> = match style.colon {
                Colon::Steady => field
                    .compose(&columns, seated)
                    .difference(&more(draw(&eights, true, false)))
                    .copied()
                    .collect(),
                _ => field.compose(&columns, seated),
            };
            if columns.lit(&blank) != expected {
                return cannot(none);
            }
        }
        Ok(Telling {
            field,
            first: [hours as u8, (seconds / 60 % 60) as u8, (seconds % 60) as u8],
            runs,
            seconds: style.seconds,
            twelve,
            ticks: 1000 / half,
            blinks: blinks && !colon.is_empty(),
            colon,
            ticked: ticked as u32,
            passed: if style.seconds { 0 } else { (into / 1000) as u8 },
            tick,
            first_tick: tick - over,
            lasts: length.map(millis).transpose()?,
            is_set,
            is_wall: clock.from.is_none(),
        })
    }

    pub(super) fn stopwatch(&self, watch: &Stopwatch, onto: &Onto<'_>) -> Option<Stopping> {
        let groups = if watch.hundredths { 3 } else { 2 };
        let draw = |figures: &[u8]| {
            let words = figures.chunks(2).map(|two| format!("{}{}", two[0], two[1])).collect::<Vec<_>>();
            onto(&|canvas| watch.draw_groups(words.clone(), canvas))
        };
        Some(Stopping {
            field: of_groups(&Columns::of(self.mount), groups, &draw)?,
            hundredths: watch.hundredths,
            over: onto(&|canvas| watch.draw_groups(vec!["--".to_owned(); groups], canvas)),
        })
    }
}

/// The field of groups of two figures each. `None` where they have no places of their own: a figure may be cut off by the edge of the
/// face.
fn of_groups(columns: &Columns<'_>, groups: usize, draw: &dyn Fn(&[u8]) -> Frame) -> Option<Field> {
    let field = Field::learn(columns, 2 * groups, draw)?;
    let is_as_drawn = |(group, value): (usize, u8)| {
        let mut figures = vec![8; 2 * groups];
        (figures[2 * group], figures[2 * group + 1]) = (value / 10, value % 10);
        let patterns = figures.iter().map(|figure| &field.figures[usize::from(*figure)]);
        let seated = field.seats.iter().copied().zip(patterns);
        let drawn = draw(&figures);
        columns.is_in(&drawn, &field.ink) && field.compose(columns, seated) == columns.lit(&drawn)
    };
    let all = (0..groups).flat_map(|group| (0..=99).map(move |value| (group, value)));
    { all }.all(is_as_drawn).then_some(field)
}
