//! Frames to the levels of the outputs, slot by slot.

use super::circuit::{Circuit, Light, Timing};
use super::port::Writer;
use crate::bus::{Ops, Role};
use crate::drive::Driver;
use crate::frame::Level;

/// Sets the outputs of a circuit: once for each frame, or once for each slot of a scan.
pub struct Scanner {
    writer: Box<dyn Writer>,
    lights: Vec<Light>,
    selects: Vec<usize>,
    line_active: bool,
    select_active: bool,
    timing: Option<Timing>,
    /// The levels at which all is dark.
    rest: Vec<bool>,
    /// What is shown, by node; nothing while the display is out.
    shown: Option<Vec<Level>>,
    // Kept between writes, so that a write costs no allocation.
    nodes: Vec<Level>,
    levels: Vec<bool>,
}

impl Scanner {
    pub fn new(circuit: &Circuit, writer: Box<dyn Writer>) -> Self {
        let rest = circuit.rest();
        Self {
            writer,
            lights: circuit.lights.clone(),
            selects: circuit.selects.clone(),
            line_active: circuit.line_switch.active,
            select_active: circuit.select_switch.active,
            timing: circuit.timing,
            shown: None,
            nodes: vec![Level::OFF; circuit.lights.len()],
            levels: rest.clone(),
            rest,
        }
    }

    /// Writes the lights of one slot, and those that need no select.
    fn write_slot(&mut self, slot: Option<usize>, nodes: &[Level], ops: &mut Ops) {
        self.levels.copy_from_slice(&self.rest);
        for (light, level) in self.lights.iter().zip(nodes) {
            if *level != Level::OFF
                && (light.select.is_none() || light.select == slot)
                && let Some(line) = light.line
            {
                self.levels[line] = self.line_active;
            }
        }
        if let Some(select) = slot.and_then(|slot| self.selects.get(slot)) {
            self.levels[*select] = self.select_active;
        }
        self.writer.write(Role::Frame, &self.levels, ops);
    }
}

impl Driver for Scanner {
    fn power_up(&mut self, ops: &mut Ops) {
        self.writer.power_up(&self.rest, ops);
    }

    fn frame(&mut self, nodes: &[Level], ops: &mut Ops) {
        let mut shown = self.shown.take().unwrap_or_else(|| std::mem::take(&mut self.nodes));
        shown.clear();
        shown.extend_from_slice(nodes);
        if self.timing.is_none() {
            self.write_slot(None, nodes, ops);
        }
        self.shown = Some(shown);
        self.turn(ops);
    }

    fn brightness(&mut self, _: u8, _: &mut Ops) {}

    fn off(&mut self, ops: &mut Ops) {
        if let Some(shown) = self.shown.take() {
            self.nodes = shown;
        }
        self.writer.write(Role::Off, &self.rest, ops);
    }

    fn on(&mut self, ops: &mut Ops) {
        if self.shown.is_none() {
            let nodes = self.nodes.clone();
            self.frame(&nodes, ops);
        }
    }

    fn refresh(&mut self, ops: &mut Ops) {
        self.writer.forget();
        match self.shown.clone() {
            Some(shown) => self.frame(&shown, ops),
            None => self.writer.write(Role::Refresh, &self.rest, ops),
        }
    }

    fn turn(&mut self, ops: &mut Ops) {
        let Some(timing) = self.timing else { return };
        let Some(shown) = self.shown.take() else { return };
        for slot in 0..timing.slots {
            let begin = timing.slot_begin(slot);
            ops.not_before(begin);
            if timing.blanking.0 > 0 {
                self.writer.blank(&self.rest, ops);
                ops.not_before(begin + timing.blanking);
            }
            self.write_slot(Some(slot), &shown, ops);
        }
        ops.not_before(timing.turn());
        self.shown = Some(shown);
    }
}
