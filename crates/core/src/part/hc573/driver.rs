//! Levels to writes of the shared port: data first, then a pulse on the latch enable that is to take it.

use super::{Control, Plan, WIDTH};
use crate::bare::places::values;
use crate::bus::pins::PinBits;
use crate::bus::{Role, Sink, Transfer};
use crate::driver;

/// Writes a latch when its outputs are to change.
pub struct Writer {
    bits: PinBits,
    /// By latch: what its two control pins hang on.
    latch_enables: Vec<Control>,
    output_enables: Vec<Control>,
    places: Vec<usize>,
    unused: bool,
    /// The level of each line.
    lines: Vec<bool>,
    /// The content of each latch, and the intended content.
    held: Vec<Option<u16>>,
    wanted: Vec<u16>,
    mask: Vec<u8>,
    levels: Vec<u8>,
}

impl Writer {
    pub(super) fn new(plan: &Plan, unused: bool) -> Self {
        let parts = plan.controls.len();
        let mut mask = vec![0; plan.bits.byte_count()];
        plan.bits.write_mask(&mut mask);
        let driven = |control: Control| match control {
            Control::Line(line) => line + 1,
            Control::Tied(_) => 0,
        };
        let lines =
            plan.controls.iter().map(|pins| driven(pins.latch_enable).max(driven(pins.output_enable)));
        Self {
            latch_enables: plan.controls.iter().map(|pins| pins.latch_enable).collect(),
            output_enables: plan.controls.iter().map(|pins| pins.output_enable).collect(),
            places: plan.places.clone(),
            unused,
            lines: vec![false; lines.fold(WIDTH, usize::max)],
            held: vec![None; parts],
            wanted: vec![0; parts],
            levels: vec![0; mask.len()],
            mask,
            bits: plan.bits.clone(),
        }
    }

    fn put(&mut self, role: Role, sink: &mut dyn Sink) {
        let level = |line: usize| self.lines.get(line).copied().unwrap_or(false);
        self.bits.write_levels(false, level, &mut self.levels);
        sink.put(role, Transfer::Ports { mask: &self.mask, levels: &self.levels });
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

impl driver::Writer for Writer {
    fn power_up(&mut self, levels: &[bool], sink: &mut dyn Sink) {
        self.held.fill(None);
        self.set_outputs_off(true);
        self.put(Role::PowerUp, sink);
        self.write(Role::PowerUp, levels, sink);
    }

    fn write(&mut self, role: Role, levels: &[bool], sink: &mut dyn Sink) {
        values(&self.places, levels, WIDTH, self.unused, &mut self.wanted);
        for latch in 0..self.held.len() {
            if self.held[latch].replace(self.wanted[latch]) == Some(self.wanted[latch]) {
                continue;
            }
            for bit in 0..WIDTH {
                self.lines[bit] = self.wanted[latch] >> bit & 1 == 1;
            }
            self.put(role, sink);
            if let Control::Line(line) = self.latch_enables[latch] {
                self.lines[line] = true;
                self.put(role, sink);
                self.lines[line] = false;
                self.put(role, sink);
            }
        }
        if self.set_outputs_off(false) {
            self.put(role, sink);
        }
    }

    fn heal(&mut self, levels: &[bool], sink: &mut dyn Sink) {
        self.held.fill(None);
        self.write(Role::Refresh, levels, sink);
    }

    fn blank(&mut self, rest: &[bool], sink: &mut dyn Sink) {
        let all_driven = self.output_enables.iter().all(|control| matches!(control, Control::Line(_)));
        if !all_driven {
            self.write(Role::Blank, rest, sink);
        } else if self.set_outputs_off(true) {
            self.put(Role::Blank, sink);
        }
    }
}
