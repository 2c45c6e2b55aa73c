//! Acts that show a value otherwise than figure by figure, as a bar or within a text: a picture for each of its values.

use std::collections::BTreeSet;
use std::time::Duration;

use super::error::CannotWrite;
use super::hearing::each_act;
use super::passage::{Chosen, Film, Passage, Shown};
use super::story::{Writing, millis};
use super::values::Live;
use super::valuing::LOOK_EVERY;
use spare_tile_core::frame::Frame;
use spare_tile_core::play::gauge::{Gauge, Scale, Source};
use spare_tile_core::play::reading::{Of, Reading, Smooth};
use spare_tile_core::play::together::Together;
use spare_tile_core::play::{Act, Kind};

/// More pictures of one value than most of these controllers have the memory for.
const MOST_PICTURES: usize = 256;
/// A value that goes farther is written as a number.
const MOST_VALUES: i64 = 4096;

impl Writing<'_> {
    /// What acts show together, a picture for each value of the one variable that they look at; `None` where they look at none.
    pub(super) fn chosen(
        &self,
        acts: &Together<&dyn Act>,
        length: Option<Duration>,
    ) -> Result<Option<Passage>, CannotWrite> {
        let shown = acts.variables();
        let variables: BTreeSet<&str> = shown.iter().copied().collect();
        let mut lives = { variables }.into_iter().filter_map(|variable| self.lives.get_key_value(variable));
        let Some((variable, live)) = lives.next() else { return Ok(None) };
        let cannot = |why| CannotWrite::Value { variable: variable.clone(), why };
        if lives.next().is_some() {
            return Err(cannot("it is shown together with another one that changes: give each its own face"));
        }
        let (mut scales, mut is_plain) = (Vec::new(), true);
        acts.0.iter().for_each(|act| {
            each_act(*act, &mut |kind| match kind {
                Kind::Gauge(Gauge { source: Source::Variable(of), scale, .. }) if of == variable => {
                    scales.push(*scale);
                }
                Kind::Reading(reading) => is_plain &= shows_at_once(reading),
                _ => {}
            });
        });
        if !is_plain {
            return Err(cannot("it is smoothed, held or given up, and shown together with something else"));
        }
        let times = shown.iter().filter(|of| *of == variable).count();
        let bar = match scales[..] {
            [scale] if times == 1 => Some(scale),
            _ => None,
        };
        let (from, to) =
            span(live, bar).filter(|(from, to)| bar.is_some() || to - from <= MOST_VALUES).ok_or_else(
                || cannot("it has a picture for each of its values: give the buttons that change it a least and a most"),
            )?;
        let draw = |units: i64| self.picture(acts, length, (variable, live, units)).map_err(cannot);
        let pictures = if bar.is_some() { where_changed(from, to, &draw)? } else { each(from, to, &draw)? };
        if pictures.len() > MOST_PICTURES {
            return Err(cannot("it has more than 256 pictures: show it as a number"));
        }
        let lasts = length.map(millis).transpose()?;
        if let [(_, frame)] = &pictures[..] {
            let shown = vec![Shown { frame: frame.clone(), brightness: None, lasts }];
            return Ok(Some(Passage::Film(Film { shown })));
        }
        let (variable, every) = (variable.clone(), live.is_given.then_some(LOOK_EVERY));
        Ok(Some(Passage::Chosen(Box::new(Chosen { variable, pictures, every, lasts }))))
    }

    /// The one picture of a value, in units of its last place.
    fn picture(
        &self,
        acts: &Together<&dyn Act>,
        length: Option<Duration>,
        (variable, live, units): (&str, &Live, i64),
    ) -> Result<Frame, &'static str> {
        let mut inputs = self.inputs.clone();
        inputs.note(variable, Duration::ZERO, live.value_of(units));
        let film = self.film_with(acts, (length, None), &inputs);
        match film.map(|(film, _)| film.shown) {
            Ok(mut shown) if shown.len() == 1 && shown[0].brightness.is_none() => Ok(shown.remove(0).frame),
            _ => Err("what shows it changes with the time, too"),
        }
    }
}

/// The least and the most of a value that look different, in units of its last place: as far as keys take it, or as a bar goes. `None`
/// where neither has an end.
fn span(live: &Live, bar: Option<Scale>) -> Option<(i64, i64)> {
    // Programs keep no more than 32 bits.
    let of_bar = |bar: Scale| {
        let [from, to] = [bar.from, bar.to].map(|end| end.in_units(live.places));
        let within = |end: i128| end.clamp(i128::from(-i32::MAX), i128::from(i32::MAX)) as i64;
        (within(from.min(to)), within(from.max(to)))
    };
    let of_keys = live.within().filter(|ends| [ends.0, ends.1].iter().all(|end| i32::try_from(*end).is_ok()));
    of_keys.or(bar.map(of_bar))
}

/// Whether a reading shows what came last as soon as it has come.
fn shows_at_once(reading: &Reading) -> bool {
    (reading.smooth, reading.of) == (Smooth::Not, Of::Last)
        && reading.band.is_none()
        && reading.stale.is_none()
        && reading.every.is_none()
}

/// The pictures from a value to another, each with the first value that has it, found by drawing all.
fn each<E>(from: i64, to: i64, draw: &dyn Fn(i64) -> Result<Frame, E>) -> Result<Vec<(i64, Frame)>, E> {
    let mut pictures: Vec<(i64, Frame)> = Vec::new();
    for units in from..=to {
        let frame = draw(units)?;
        if pictures.last().is_none_or(|(_, last)| *last != frame) {
            pictures.push((units, frame));
        }
    }
    Ok(pictures)
}

/// The same of what goes one way as the value does: between two values that look alike nothing is otherwise.
fn where_changed<E>(
    from: i64,
    to: i64,
    draw: &dyn Fn(i64) -> Result<Frame, E>,
) -> Result<Vec<(i64, Frame)>, E> {
    let mut pictures = vec![(from, draw(from)?)];
    // Spans still to be looked at, the lowest last: the picture before each is the last one found.
    let mut spans = vec![(from, to, draw(to)?)];
    while let Some((below, at, frame)) = spans.pop() {
        let is_like = pictures.last().is_some_and(|(_, last)| *last == frame);
        if is_like || below == at {
            continue;
        }
        if at - below == 1 {
            pictures.push((at, frame));
            continue;
        }
        let middle = below + (at - below) / 2;
        spans.push((middle, at, frame));
        spans.push((below, middle, draw(middle)?));
    }
    Ok(pictures)
}

#[cfg(test)]
mod tests {
    use super::*;
    use spare_tile_core::frame::Level;

    /// Both ways find the same where a value goes one way.
    #[test]
    fn halving_finds_what_drawing_all_finds() {
        for (from, to, steps) in [(-7, 300, 8), (0, 1, 3), (5, 5, 8), (-50, -49, 1), (0, 40, 40), (3, 999, 1)]
        {
            let draw = |units: i64| -> Result<Frame, ()> {
                let lit = (units - from) * steps / (to - from).max(1);
                let mut frame = Frame::dark(64);
                frame.levels_mut()[..lit as usize].fill(Level::FULL);
                Ok(frame)
            };
            let (all, halved) = (each(from, to, &draw), where_changed(from, to, &draw));
            assert_eq!(all, halved, "{from} to {to} in {steps} steps");
            assert_eq!(all.unwrap().len() as i64, if from == to { 1 } else { (to - from).min(steps) + 1 });
        }
    }
}
