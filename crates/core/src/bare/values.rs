//! The values of a circuit that are not wiring: switches, times, and where the rig says so.

use std::ops::Range;

use crate::rig::Spanned;

use super::circuit::{Places, Switch, SwitchKind, Timing};
use super::keys::{CircuitKeys, LevelKey, SwitchKey};
use crate::rig::{DriveTable, FilePlace, Problem, Written};
use crate::units::{Hertz, Milliamps, Nanos, Volts, parse_duration};

/// The most bits of a light: with more, the shortest piece of a slot is shorter than a controller's write.
pub const MAX_DEPTH: u8 = 6;

/// Reads them from the keys.
pub struct Values<'v> {
    pub keys: &'v CircuitKeys,
    pub table: &'v DriveTable<'v>,
}

impl Values<'_> {
    /// A switch whose end goes to the high rail, or to the low one.
    pub fn switch(&self, name: &str, key: Option<&Spanned<SwitchKey>>, to_high: bool) -> Option<Switch> {
        let (kind, written) = match key.map(|key| key.get_ref()) {
            None => {
                self.table.assume(name, "\"none\"");
                return Some(Switch::none(to_high));
            }
            Some(SwitchKey::Kind(kind)) => (*kind, None),
            Some(SwitchKey::Table(written)) => (written.kind, Some(written)),
        };
        let active = kind.conducts_at().unwrap_or(to_high);
        let follows = kind.follows(to_high);
        let has_values = kind != SwitchKind::None;
        let turn_off = match written.and_then(|written| written.turn_off.as_ref()) {
            Some(text) => self.duration(text)?,
            None => kind.usual_turn_off(),
        };
        let drop = written.and_then(|written| written.drop_volts);
        if has_values && drop.is_none() {
            self.table.assume(&format!("{name}.drop_volts"), kind.usual_drop(follows).0.to_string());
        }
        if has_values && written.is_none_or(|written| written.turn_off.is_none()) {
            let written = turn_off.to_string().replace(' ', "");
            self.table.assume(&format!("{name}.turn_off"), written.written());
        }
        Some(Switch {
            kind,
            active: written.and_then(|w| w.active).map_or(active, |level| level == LevelKey::High),
            follows,
            most: written.and_then(|written| written.most_ma).map_or(kind.usual_most(), Milliamps),
            drop: drop.map_or(kind.usual_drop(follows), Volts),
            turn_off,
        })
    }

    fn duration(&self, text: &Spanned<String>) -> Option<Nanos> {
        match parse_duration(text.get_ref()) {
            Ok(duration) => Some(duration.into()),
            Err(error) => {
                let allowed = "a duration, such as \"30us\"".to_owned();
                self.table.error(text.span(), Problem::WrongValue { found: error.found, allowed });
                None
            }
        }
    }

    pub fn timing(&self, slots: usize) -> Option<Timing> {
        let (keys, table) = (self.keys, self.table);
        let refresh = table.or_assume("refresh_hz", keys.refresh_hz.clone(), 120);
        let blanking = table.or_assume("blanking", keys.blanking.clone(), "20us".to_owned());
        let write = table.or_assume("write", keys.write.clone(), "1us".to_owned());
        if !table.check_range(&refresh, 1, 100_000) {
            return None;
        }
        let refresh_hz = Hertz(*refresh.get_ref());
        let timing = Timing {
            slots,
            refresh: refresh_hz,
            blanking: self.duration(&blanking)?,
            write: self.duration(&write)?,
            depth: self.depth()?,
        };
        let pieces = u64::from(timing.depth);
        if timing.blanking.0.saturating_mul(pieces) >= timing.slot().0 {
            let found = format!("a blanking of {}", timing.blanking);
            let least = Nanos(timing.slot().0 / pieces);
            let allowed = format!("less than a piece of a slot, which at {refresh_hz} is {least}");
            let allowed = match pieces {
                1 => format!("less than a slot, which at {refresh_hz} is {}", timing.slot()),
                _ => allowed,
            };
            table.error(blanking.span(), Problem::WrongValue { found, allowed });
            return None;
        }
        if timing.write >= timing.slot() {
            let found = format!("a write of {}", timing.write);
            let allowed = format!("less than a slot, which at {refresh_hz} is {}", timing.slot());
            table.error(write.span(), Problem::WrongValue { found, allowed });
            return None;
        }
        let least = timing.piece() - timing.blanking;
        if pieces > 1 && timing.write >= least {
            let found = format!("a write of {}", timing.write);
            let allowed = format!("less than the shortest piece is lit, which at {pieces} bits is {least}");
            table.error(write.span(), Problem::WrongValue { found, allowed });
            return None;
        }
        Some(timing)
    }

    /// How many bits the light of an element has; there is nothing to say where it is one.
    fn depth(&self) -> Option<u8> {
        let Some(depth) = &self.keys.depth else { return Some(1) };
        self.table.check_range(depth, 1, MAX_DEPTH).then(|| *depth.get_ref())
    }

    /// By which power light follows from a level.
    pub fn gamma(&self, timing: Option<&Timing>) -> Option<f64> {
        let written = self.keys.gamma.clone();
        if timing.is_none_or(|timing| timing.depth == 1) && written.is_none() {
            return Some(1.0);
        }
        let gamma = self.table.or_assume("gamma", written, 2.2);
        self.table.check_range(&gamma, 1.0, 4.0).then(|| *gamma.get_ref())
    }

    pub fn places(&self) -> Places {
        let keys = self.keys;
        let or_drive = |span: Option<Range<usize>>| FilePlace(span.unwrap_or_else(|| self.table.place()));
        let pins = keys.package_pins.as_ref().map(Spanned::span);
        Places {
            drive: FilePlace(self.table.place()),
            lines: or_drive(keys.segments.as_ref().map(Spanned::span).or(pins.clone())),
            selects: or_drive(
                keys.digits.as_ref().map(Spanned::span).or(keys.rows.as_ref().map(Spanned::span)).or(pins),
            ),
            resistor: or_drive(keys.resistor.as_ref().map(Spanned::span)),
            refresh: or_drive(keys.refresh_hz.as_ref().map(Spanned::span)),
            blanking: or_drive(keys.blanking.as_ref().map(Spanned::span)),
        }
    }
}
