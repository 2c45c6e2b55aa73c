//! Frames to the levels of the outputs: once for each frame, or slot by slot.

use super::circuit::{Circuit, Light, Timing};
use crate::bus::{Role, Sink};
use crate::driver::{Driver, Writer};
use crate::frame::Level;
use crate::units::Nanos;

/// Sets the outputs of a circuit.
pub struct Scanner {
    writer: Box<dyn Writer>,
    lights: Vec<Light>,
    selects: Vec<usize>,
    select_active: bool,
    timing: Option<Timing>,
    /// The levels at which all is dark.
    rest: Vec<bool>,
    /// The level of each light; `None` before the first frame.
    shown: Option<Vec<Level>>,
    is_on: bool,
    /// The light of each level in steps: bit `b` is that of the piece `b` of a slot.
    steps: [u8; 256],
    /// The piece that comes next, counted through all slots.
    next: usize,
    /// Kept between writes, so that a write costs no allocation.
    levels: Vec<bool>,
    spare: Vec<Level>,
}

impl Scanner {
    /// A scanner of this circuit that writes through `writer`.
    #[must_use]
    pub fn new(circuit: &Circuit, writer: Box<dyn Writer>) -> Self {
        let rest = circuit.rest();
        Self {
            writer,
            lights: circuit.lights.clone(),
            selects: circuit.selects.clone(),
            select_active: circuit.select_switch.active,
            timing: circuit.timing,
            shown: None,
            is_on: true,
            steps: match circuit.timing {
                Some(timing) if timing.depth > 1 => Level::steps(timing.depth, circuit.gamma),
                // Without greys whatever is not dark is lit.
                _ => std::array::from_fn(|level| u8::from(level > 0)),
            },
            next: 0,
            levels: rest.clone(),
            spare: Vec::with_capacity(circuit.lights.len()),
            rest,
        }
    }

    /// The levels at which the lights of one slot are lit that have this bit of their light, and those that need no select.
    fn set_levels(&mut self, slot: Option<usize>, bit: u8) {
        self.levels.copy_from_slice(&self.rest);
        let shown = self.shown.as_deref().unwrap_or_default();
        for (light, level) in self.lights.iter().zip(shown) {
            if self.steps[usize::from(level.0)] >> bit & 1 == 1
                && (light.select.is_none() || light.select == slot)
                && let Some(line) = light.line
            {
                self.levels[line] = light.active;
            }
        }
        if let Some(select) = slot.and_then(|slot| self.selects.get(slot)) {
            self.levels[*select] = self.select_active;
        }
    }

    fn write_still(&mut self, role: Role, sink: &mut dyn Sink) {
        self.set_levels(None, 0);
        self.writer.write(role, &self.levels, sink);
    }
}

impl Driver for Scanner {
    fn power_up(&mut self, sink: &mut dyn Sink) {
        self.is_on = true;
        self.writer.power_up(&self.rest, sink);
    }

    fn frame(&mut self, nodes: &[Level], sink: &mut dyn Sink) {
        let mut shown = self.shown.take().unwrap_or_else(|| std::mem::take(&mut self.spare));
        shown.clear();
        shown.extend_from_slice(nodes);
        self.shown = Some(shown);
        if self.timing.is_none() && self.is_on {
            self.write_still(Role::Frame, sink);
        }
    }

    fn brightness(&mut self, _: u8, _: &mut dyn Sink) {}

    fn off(&mut self, sink: &mut dyn Sink) {
        self.is_on = false;
        self.writer.write(Role::Off, &self.rest, sink);
    }

    fn on(&mut self, sink: &mut dyn Sink) {
        self.is_on = true;
        if self.timing.is_none() && self.shown.is_some() {
            self.write_still(Role::On, sink);
        }
    }

    fn refresh(&mut self, sink: &mut dyn Sink) {
        if self.timing.is_none() && self.is_on {
            self.set_levels(None, 0);
            self.writer.heal(&self.levels, sink);
        } else {
            self.writer.heal(&self.rest, sink);
        }
    }

    fn slot(&mut self, sink: &mut dyn Sink) -> Option<Nanos> {
        let timing = self.timing.filter(|_| self.is_on && self.shown.is_some())?;
        let depth = usize::from(timing.depth);
        let (slot, bit) = (self.next / depth, self.next % depth);
        if timing.blanking.0 > 0 {
            self.writer.blank(&self.rest, sink);
            sink.not_before(timing.blanking);
        }
        self.set_levels(Some(slot), bit as u8);
        self.writer.write(Role::Frame, &self.levels, sink);
        let begin = timing.piece_begin(slot, bit as u8);
        self.next = (self.next + 1) % (timing.slots * depth);
        Some(timing.piece_begin((slot * depth + bit + 1) / depth, ((bit + 1) % depth) as u8) - begin)
    }

    fn begins_turn(&self) -> bool {
        self.next == 0
    }
}
