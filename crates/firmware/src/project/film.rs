//! Acts as pictures: drawn now, and where they move by a column at a step, one long strip over which a window goes.

use std::collections::BTreeSet;
use std::time::Duration;

use jiff::Timestamp;

use super::error::CannotWrite;
use super::field::{Columns, has_columns};
use super::passage::{Film, Moving, Passage, Shown};
use super::story::{Writing, millis};
use spare_tile_core::frame::Frame;
use spare_tile_core::play::{Act, Inputs, duration};

/// More pictures than the memory of any of these controllers holds.
const MOST_SHOWN: usize = 20_000;
/// An act that is looked at so often, and may still change, goes on for ever: more often than each second of two days.
const MOST_LOOKS: usize = 200_000;
/// All pictures together have at most so many lights: each takes a byte until they are stored.
const MOST_LEVELS: usize = 50_000_000;
/// A moving strip of fewer windows is no shorter than its pictures.
const FEWEST_WINDOWS: usize = 4;

impl Writing<'_> {
    /// The pictures of an act until its end; whether they then begin again.
    pub(super) fn film(
        &self,
        act: &dyn Act,
        length: Option<Duration>,
        period: Option<Duration>,
    ) -> Result<(Film, bool), CannotWrite> {
        // Whoever looks at the clock on the wall shows something else at another time.
        let at = |seconds: i64| {
            let mut inputs = self.inputs.clone();
            inputs.set_wall(Duration::ZERO, Timestamp::from_second(seconds).unwrap_or_default());
            self.film_with(act, (length, period), &inputs)
        };
        let (now, later) = (at(1_000_000_000)?, at(1_234_567_890)?);
        if now == later { Ok(now) } else { Err(CannotWrite::Wall) }
    }

    /// The same with values as they are.
    pub(super) fn film_with(
        &self,
        act: &dyn Act,
        (length, period): (Option<Duration>, Option<Duration>),
        inputs: &Inputs,
    ) -> Result<(Film, bool), CannotWrite> {
        let end = length.or(period);
        let period = if length.is_some() { period } else { None };
        let mut shown: Vec<(Duration, Frame, Option<u8>)> = Vec::new();
        let most = MOST_SHOWN.min(MOST_LEVELS / self.face().element_count().max(1));
        let (mut now, mut looks) = (Duration::ZERO, 0);
        let stays = loop {
            looks += 1;
            if end.is_some_and(|end| now >= end) {
                break false;
            }
            // An act that is repeated begins anew.
            let within = period.map_or(now, |period| duration(now.as_nanos() % period.as_nanos().max(1)));
            let frame = self.whole(&|canvas| act.draw(within, &inputs.since(now - within), canvas));
            let light =
                act.brightness(within, &inputs.since(now - within)).and_then(|light| light.step(self.mount));
            let is_new = shown.last().is_none_or(|(_, last, step)| *last != frame || *step != light);
            if is_new {
                shown.push((now, frame, light));
            }
            if shown.len() > most || looks > MOST_LOOKS {
                return Err(CannotWrite::TooLong { most });
            }
            let next = act.next_change(within, &inputs.since(now - within)).map(|next| now - within + next);
            let again = period.map(|period| now - within + period);
            match next.into_iter().chain(again).min() {
                Some(next) if next > now => now = next,
                Some(_) => now += Duration::from_millis(1),
                None => break end.is_none(),
            }
        };
        let end = end.map(millis).transpose()?;
        let begins = shown.iter().map(|(at, ..)| millis(*at)).collect::<Result<Vec<_>, _>>()?;
        let mut before = None;
        let shown = shown.into_iter().enumerate().map(|(number, (_, frame, light))| {
            let ends = begins.get(number + 1).copied().or(end);
            let brightness = if light == before { None } else { light };
            before = light;
            Shown { frame, brightness, lasts: ends.map(|ends| ends.saturating_sub(begins[number])) }
        });
        let shown = shown.filter(|shown| shown.lasts != Some(0)).collect();
        Ok((Film { shown }, !stays && length.is_none()))
    }

    /// A film in pieces: those that move by a column at a step become strips.
    pub(super) fn with_windows(&self, passage: Passage) -> Vec<Passage> {
        let film = match passage {
            Passage::Film(film) if has_columns(self.mount) => film,
            other => return vec![other],
        };
        let of_face = Columns::of(self.mount);
        let columns: Vec<_> = film.shown.iter().map(|shown| of_face.of_frame(&shown.frame)).collect();
        let steps = |first: usize, to_left: bool| {
            let follows = |number: &usize| {
                let (before, after) = (&film.shown[number - 1], &film.shown[*number]);
                let (old, new) = (&columns[number - 1], &columns[*number]);
                let moved =
                    if to_left { old[1..] == new[..new.len() - 1] } else { old[..old.len() - 1] == new[1..] };
                moved && before.lasts.is_some() && before.lasts == after.lasts && after.brightness.is_none()
            };
            1 + (first + 1..film.shown.len()).take_while(follows).count()
        };
        let plain = |shown: &Shown| !of_face.has_extras(&shown.frame) && of_face.ink(&shown.frame).is_some();
        let (mut pieces, mut number) = (Vec::new(), 0);
        let mut stills: Vec<Shown> = Vec::new();
        while number < film.shown.len() {
            let (left, right) = (steps(number, true), steps(number, false));
            let (windows, to_left) = if left >= right { (left, true) } else { (right, false) };
            let run = &film.shown[number..number + windows];
            let (first, step) = (&film.shown[number], film.shown[number].lasts);
            let inks: BTreeSet<_> =
                run.iter().filter_map(|shown| of_face.ink(&shown.frame).flatten()).collect();
            let Some(step) = step.filter(|_| {
                windows >= FEWEST_WINDOWS
                    && inks.len() <= 1
                    && columns[number].len() > 1
                    && first.brightness.is_none()
                    && run.iter().all(plain)
            }) else {
                stills.push(film.shown[number].clone());
                number += 1;
                continue;
            };
            if !stills.is_empty() {
                pieces.push(Passage::Film(Film { shown: std::mem::take(&mut stills) }));
            }
            let edge =
                |of: usize| if to_left { columns[of].last().copied() } else { columns[of].first().copied() };
            let entering = (number + 1..number + windows).filter_map(edge);
            let strip = if to_left {
                columns[number].iter().copied().chain(entering).collect()
            } else {
                let mut entering: Vec<_> = entering.collect();
                entering.reverse();
                entering.into_iter().chain(columns[number].iter().copied()).collect()
            };
            pieces.push(Passage::Moving(Moving {
                strip,
                windows,
                to_left,
                step,
                ink: inks.into_iter().next().unwrap_or_default(),
            }));
            number += windows;
        }
        if !stills.is_empty() {
            pieces.push(Passage::Film(Film { shown: stills }));
        }
        pieces
    }
}
