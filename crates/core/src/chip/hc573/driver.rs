//! Levels to writes of the shared port: data first, then a pulse on the latch enable that is to take it.

use super::{Control, Latches, WIDTH};
use crate::bus::pins::PinBits;
use crate::bus::{Ops, Role};
use crate::drive::bare::places::values;
use crate::drive::bare::port;

/// Writes a latch when its outputs are to change.
pub struct Writer {
    pin_bits: PinBits,
    /// By latch: what its two control pins hang on.
    latch_enables: Vec<Control>,
    output_enables: Vec<Control>,
    places: Vec<usize>,
    /// The level of each line.
    lines: Vec<bool>,
    /// What each latch holds, and what it is to hold.
    held: Vec<Option<u16>>,
    wanted: Vec<u16>,
}

impl Writer {
    pub(super) fn new(latches: &Latches) -> Self {
        let parts = latches.controls.len();
        Self {
            pin_bits: latches.pin_bits.clone(),
            latch_enables: latches.controls.iter().map(|pins| pins.latch_enable).collect(),
            output_enables: latches.controls.iter().map(|pins| pins.output_enable).collect(),
            places: latches.places.clone(),
            lines: vec![false; latches.lines],
            held: vec![None; parts],
            wanted: vec![0; parts],
        }
    }

    fn push(&self, role: Role, ops: &mut Ops) {
        ops.push(role, self.pin_bits.bytes(false, |line| self.lines.get(line).copied().unwrap_or(false)));
    }

    /// Sets every driven output enable; whether that changed any.
    fn set_outputs_off(&mut self, off: bool) -> bool {
        let mut changed = false;
        for control in &self.output_enables {
            if let Control::Line(line) = control {
                changed |= std::mem::replace(&mut self.lines[*line], off) != off;
            }
        }
        changed
    }
}

impl port::Writer for Writer {
    fn power_up(&mut self, levels: &[bool], ops: &mut Ops) {
        self.set_outputs_off(true);
        self.push(Role::PowerUp, ops);
        self.write(Role::PowerUp, levels, ops);
    }

    fn write(&mut self, role: Role, levels: &[bool], ops: &mut Ops) {
        values(&self.places, levels, WIDTH, &mut self.wanted);
        for latch in 0..self.held.len() {
            if self.held[latch] == Some(self.wanted[latch]) {
                continue;
            }
            self.held[latch] = Some(self.wanted[latch]);
            for bit in 0..WIDTH {
                self.lines[bit] = self.wanted[latch] >> bit & 1 == 1;
            }
            self.push(role, ops);
            if let Control::Line(line) = self.latch_enables[latch] {
                self.lines[line] = true;
                self.push(role, ops);
                self.lines[line] = false;
                self.push(role, ops);
            }
        }
        if self.set_outputs_off(false) {
            self.push(role, ops);
        }
    }

    fn forget(&mut self) {
        self.held.fill(None);
    }

    fn blank(&mut self, rest: &[bool], ops: &mut Ops) {
        let all_driven = self.output_enables.iter().all(|control| matches!(control, Control::Line(_)));
        if !all_driven {
            self.write(Role::Blank, rest, ops);
        } else if self.set_outputs_off(true) {
            self.push(Role::Blank, ops);
        }
    }
}
