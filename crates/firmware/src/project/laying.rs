//! Passages as a template reads them: pictures, strips and figures laid out as bytes of the image.

use super::error::ProjectError;
use super::model::{PassageModel, ValueModel};
use super::passage::{Chosen, Counting, Figures, Film, Moving, Passage, Runs, Stopping, Telling, Valued};
use super::putting::{Putting, seats_model};
use super::sending::Sending;
use spare_tile_core::face::{Face, Grid};
use spare_tile_core::frame::Frame;
use spare_tile_core::play::cursor::BLINK;

/// A figure with a cursor is drawn again so often, lit and dark in turns, in milliseconds.
const HALF_BLINK: u32 = (BLINK.as_millis() / 2) as u32;

/// The passages of a face being laid out.
pub(super) struct Laying<'a> {
    pub putting: Putting<'a>,
    pub stills: Vec<Vec<u8>>,
    pub strips: Vec<Vec<Vec<u8>>>,
    values: &'a [ValueModel],
}

impl<'a> Laying<'a> {
    /// Nothing yet.
    pub fn of(face: &'a Face, sending: &'a Sending, values: &'a [ValueModel]) -> Self {
        let putting = Putting { face, sending, sets: Vec::new(), patterns: Vec::new(), colours: Vec::new() };
        Self { putting, stills: Vec::new(), strips: Vec::new(), values }
    }

    pub fn passage(&mut self, passage: &Passage) -> Result<PassageModel, ProjectError> {
        let laid = match passage {
            Passage::Film(film) => Some(self.film(film)),
            Passage::Moving(moving) => self.moving(moving),
            Passage::Count(count) => self.count(count),
            Passage::Clock(clock) => self.clock(clock),
            Passage::Value(value) => self.value(value),
            Passage::Chosen(chosen) => self.chosen(chosen),
            Passage::Stopwatch(watch) => self.stopwatch(watch),
        };
        laid.ok_or_else(|| ProjectError::Mixed { face: self.putting.face.name.clone() })
    }

    /// The number of a still picture.
    fn still(&mut self, frame: &Frame) -> usize {
        let image = match self.putting.panel() {
            Some(grid) => self.painted(frame, grid),
            None => self.putting.sending.image(frame),
        };
        self.stills.iter().position(|still| *still == image).unwrap_or_else(|| {
            self.stills.push(image);
            self.stills.len() - 1
        })
    }

    /// The colours of dots, row by row: how many there are of one, and its number.
    fn painted(&mut self, frame: &Frame, grid: Grid) -> Vec<u8> {
        let mut runs: Vec<(u8, u8)> = Vec::new();
        for dot in frame.levels().chunks(grid.channels.count()).take(grid.width * grid.height) {
            let number = self.putting.ink(dot).and_then(|ink| u8::try_from(ink).ok()).unwrap_or(u8::MAX);
            match runs.last_mut() {
                Some((count, last)) if *last == number && *count < u8::MAX => *count += 1,
                _ => runs.push((1, number)),
            }
        }
        runs.into_iter().flat_map(|(count, colour)| [count, colour]).collect()
    }

    fn film(&mut self, film: &Film) -> PassageModel {
        let shown = film.shown.iter();
        let mut laid: Vec<(usize, u32, Option<u8>)> = Vec::new();
        for (still, lasts, brightness) in
            { shown }.map(|shown| (self.still(&shown.frame), shown.lasts.unwrap_or(0), shown.brightness))
        {
            match laid.last_mut() {
                // Greys that differ by less than a step of the scan are one picture.
                Some((before, length, _)) if *before == still && brightness.is_none() && *length > 0 => {
                    *length = if lasts == 0 { 0 } else { *length + lasts };
                }
                _ => laid.push((still, lasts, brightness)),
            }
        }
        PassageModel::Film { dims: laid.iter().any(|(.., light)| light.is_some()), shown: laid }
    }

    fn moving(&mut self, moving: &Moving) -> Option<PassageModel> {
        let columns = moving.strip.iter().map(|column| self.putting.column(*column, 0));
        self.strips.push(columns.collect::<Option<Vec<_>>>()?);
        let (windows, to_left, step) = (moving.windows, moving.to_left, moving.step);
        let ink = self.putting.ink(&moving.ink);
        Some(PassageModel::Moving { strip: self.strips.len() - 1, windows, to_left, step, ink })
    }

    /// The set of a number's figures, and how many of them are always written.
    fn number(&mut self, figures: &Figures) -> Option<(usize, usize)> {
        let set = self.putting.set(&figures.field, figures.minus.as_ref())?;
        Some((set, figures.least.min(figures.field.seats.len())))
    }

    fn count(&mut self, count: &Counting) -> Option<PassageModel> {
        let steps = i64::try_from(count.numbers - 1).ok()?;
        let to = count.step.checked_mul(steps)?.checked_add(count.from)?;
        let (set, least) = self.number(&count.figures)?;
        let field = &count.figures.field;
        // One step further must be counted too.
        let most = [count.from, to, to.checked_add(count.step)?].map(i64::unsigned_abs).into_iter().max()?;
        Some(PassageModel::Count {
            from: count.from,
            to,
            step: count.step,
            every: count.every,
            hold: count.hold,
            times: count.times.unwrap_or(0),
            set,
            seats: seats_model(field),
            least,
            marks: self.putting.marks(&field.marks, &field.ink),
            negative: count.figures.minus.is_some(),
            bits: match most {
                0..0x8000 => 16,
                0x8000..0x8000_0000 => 32,
                _ => 64,
            },
        })
    }

    fn clock(&mut self, clock: &Telling) -> Option<PassageModel> {
        let afternoon = clock.twelve.as_ref().map(|lights| self.putting.marks(lights, &clock.field.ink));
        Some(PassageModel::Clock {
            set: self.putting.set(&clock.field, None)?,
            seats: seats_model(&clock.field),
            marks: self.putting.marks(&clock.field.marks, &clock.field.ink),
            colon: self.putting.marks(&clock.colon, &clock.field.ink),
            afternoon: afternoon.unwrap_or_default(),
            twelve: clock.twelve.is_some(),
            runs: match clock.runs {
                Runs::Day => "day",
                Runs::Up => "up",
                Runs::Down => "down",
            },
            seconds: clock.seconds,
            first: clock.first,
            passed: clock.passed,
            start: clock.start(),
            ticks: clock.ticks,
            ticked: clock.ticked,
            tick: clock.tick,
            first_tick: clock.first_tick,
            blinks: clock.blinks,
            lasts: clock.lasts.unwrap_or(0),
            is_set: clock.is_set,
            is_wall: clock.is_wall,
            goes_on: false,
        })
    }

    fn value(&mut self, value: &Valued) -> Option<PassageModel> {
        let own = self.number_of(&value.variable)?;
        let cursor = value.cursor.as_deref().map(|cursor| self.number_of(cursor));
        // The figures after the point are counted, too.
        let cursor = cursor.map(|cursor| Some((cursor?, i64::from(value.places))));
        let (set, least) = self.number(&value.figures)?;
        let field = &value.figures.field;
        let under = value.under.as_ref().map(|frame| (value.from, self.still(frame)));
        let over = value.over.as_ref().map(|frame| (value.to, self.still(frame)));
        Some(PassageModel::Value {
            value: own,
            set,
            seats: seats_model(field),
            least,
            marks: self.putting.marks(&field.marks, &field.ink),
            negative: value.figures.minus.is_some(),
            bits: self.values[own].bits,
            under,
            over,
            steadied: value.steadied,
            band: value.band,
            every: if cursor.is_some() { HALF_BLINK } else { value.every.unwrap_or(0) },
            cursor: cursor.unwrap_or(None),
            lasts: value.lasts.unwrap_or(0),
        })
    }

    fn chosen(&mut self, chosen: &Chosen) -> Option<PassageModel> {
        let value = self.number_of(&chosen.variable)?;
        let pictures = chosen.pictures.iter().map(|(from, frame)| (*from, self.still(frame)));
        Some(PassageModel::Chosen {
            value,
            pictures: pictures.collect(),
            bits: self.values[value].bits,
            every: chosen.every.unwrap_or(0),
            lasts: chosen.lasts.unwrap_or(0),
        })
    }

    /// The number of a variable's value.
    fn number_of(&self, variable: &str) -> Option<usize> {
        self.values.iter().position(|of| of.variable == variable)
    }

    fn stopwatch(&mut self, watch: &Stopping) -> Option<PassageModel> {
        Some(PassageModel::Stopwatch {
            set: self.putting.set(&watch.field, None)?,
            seats: seats_model(&watch.field),
            marks: self.putting.marks(&watch.field.marks, &watch.field.ink),
            hundredths: watch.hundredths,
            unit: if watch.hundredths { 10 } else { 1000 },
            over: self.still(&watch.over),
        })
    }
}
