//! Frames to bursts of columns, plane by plane and row by row.
//!
//! There are two copies of the planes: the one that is being scanned, and the one that comes. They change places where a
//! turn begins, so that a turn never has dots of both.

use super::facts;
use super::layout::LINES;
use super::times::Times;
use crate::bus::panel::Controls;
use crate::bus::{Role, Sink, Transfer};
use crate::driver::Driver;
use crate::frame::Level;
use crate::units::Nanos;

/// Scans a chain of panels.
pub struct Scanner {
    times: Times,
    controls: Controls,
    /// The light of each level, in steps of the depth.
    steps: [u8; 256],
    /// By address, plane and column: the levels of the data lines.
    shown: Vec<u8>,
    coming: Vec<u8>,
    has_coming: bool,
    /// True if there is anything to show.
    has_frame: bool,
    brightness: u8,
    coming_brightness: u8,
    is_on: bool,
    /// True if the data of the next slot have been shifted in.
    is_fed: bool,
    /// The slot that comes next.
    next: usize,
    /// The address of the slot before.
    address: u8,
    /// Kept between slots, so that one costs no allocation.
    burst: Vec<u8>,
}

impl Scanner {
    pub fn new(times: Times, gamma: f64, brightness: u8) -> Self {
        let planes = vec![0; times.addresses * usize::from(times.depth) * times.columns];
        Self {
            times,
            controls: Controls { address_lines: facts::address_lines(times.addresses) },
            steps: Level::steps(times.depth, gamma),
            coming: planes.clone(),
            shown: planes,
            has_coming: false,
            has_frame: false,
            brightness,
            coming_brightness: brightness,
            is_on: false,
            is_fed: false,
            next: 0,
            address: 0,
            burst: vec![0; times.columns],
        }
    }

    /// Sets the lines beside clock and data.
    fn set(&self, role: Role, is_latched: bool, address: u8, sink: &mut dyn Sink) {
        let levels = self.controls.levels(is_latched, true, address);
        sink.put(role, Transfer::Ports { mask: &[self.controls.all()], levels: &[levels] });
    }

    /// Replaces the shown picture by the next one. Only at the beginning of a scan cycle.
    fn change(&mut self) {
        if std::mem::take(&mut self.has_coming) {
            std::mem::swap(&mut self.shown, &mut self.coming);
        }
        self.brightness = self.coming_brightness;
    }

    fn slots(&self) -> usize {
        self.times.addresses * usize::from(self.times.depth)
    }

    /// Shifts the data of a slot in, while what was latched is lit for so many clocks.
    fn shift(&mut self, slot: usize, lit: u64, sink: &mut dyn Sink) {
        let columns = self.times.columns;
        self.burst.copy_from_slice(&self.shown[slot * columns..(slot + 1) * columns]);
        let lit = usize::try_from(lit).unwrap_or(columns).min(columns);
        // Output enable goes with the columns, in the bit above the data.
        self.burst[lit..].iter_mut().for_each(|column| *column |= 1 << LINES);
        sink.put(Role::Frame, Transfer::Burst { columns: &self.burst });
    }
}

/// Bytes to planes: bit `l` of byte `p` of the result is bit `p` of byte `l`, the lowest byte being byte 0.
const fn planes_of(bytes: u64) -> u64 {
    let mut x = bytes;
    let mut t = (x ^ (x >> 7)) & 0x00AA_00AA_00AA_00AA;
    x ^= t ^ (t << 7);
    t = (x ^ (x >> 14)) & 0x0000_CCCC_0000_CCCC;
    x ^= t ^ (t << 14);
    t = (x ^ (x >> 28)) & 0x0000_0000_F0F0_F0F0;
    x ^ t ^ (t << 28)
}

impl Driver for Scanner {
    fn power_up(&mut self, sink: &mut dyn Sink) {
        self.is_on = true;
        self.is_fed = false;
        self.next = 0;
        self.set(Role::PowerUp, false, 0, sink);
    }

    fn frame(&mut self, nodes: &[Level], sink: &mut dyn Sink) {
        // It is shown from the next turn on.
        let _ = sink;
        let (columns, depth) = (self.times.columns, usize::from(self.times.depth));
        let rows = nodes.chunks_exact(columns * LINES).zip(self.coming.chunks_exact_mut(columns * depth));
        for (nodes, planes) in rows {
            for (column, lights) in nodes.as_chunks::<LINES>().0.iter().enumerate() {
                let bytes = lights
                    .iter()
                    .rev()
                    .fold(0, |bytes, level| bytes << 8 | u64::from(self.steps[usize::from(level.0)]));
                for (plane, lines) in planes_of(bytes).to_le_bytes().into_iter().take(depth).enumerate() {
                    planes[plane * columns + column] = lines;
                }
            }
        }
        (self.has_coming, self.has_frame) = (true, true);
    }

    fn brightness(&mut self, step: u8, _: &mut dyn Sink) {
        self.coming_brightness = step.min(facts::MAX_BRIGHTNESS);
    }

    fn off(&mut self, sink: &mut dyn Sink) {
        (self.is_on, self.is_fed, self.next) = (false, false, 0);
        self.set(Role::Off, false, self.address, sink);
    }

    fn on(&mut self, _: &mut dyn Sink) {
        self.is_on = true;
    }

    fn refresh(&mut self, _: &mut dyn Sink) {
        // Everything is sent again many times a second.
    }

    fn slot(&mut self, sink: &mut dyn Sink) -> Option<Nanos> {
        if !self.is_on || !self.has_frame {
            return None;
        }
        let times = self.times;
        if !self.is_fed {
            // The contents of the panels are unknown: the first data are shifted in in the dark.
            self.change();
            self.shift(0, 0, sink);
            self.is_fed = true;
            return Some(Nanos(times.period().0 * times.columns as u64));
        }
        let (address, plane) = (self.next / usize::from(times.depth), self.next % usize::from(times.depth));
        let lit = times.lit_at(plane as u8, self.brightness);
        let next = (self.next + 1) % self.slots();
        if next == 0 {
            self.change();
        }
        self.set(Role::Blank, false, self.address, sink);
        self.address = address as u8;
        self.set(Role::Frame, true, self.address, sink);
        self.set(Role::Frame, false, self.address, sink);
        sink.not_before(times.gap());
        self.shift(next, lit, sink);
        if lit >= times.columns as u64 && lit < times.lit(plane as u8) {
            sink.not_before(times.gap() + Nanos(times.period().0 * lit));
            self.set(Role::Blank, false, self.address, sink);
        }
        self.next = next;
        Some(times.slot(plane as u8))
    }

    fn begins_turn(&self) -> bool {
        self.next == 0
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::bus::Ops;
    use crate::units::Hertz;

    const TIMES: Times = Times {
        addresses: 4,
        columns: 2,
        depth: 2,
        unit: 1,
        clock: Hertz(10_000_000),
        blanking: Nanos(1_000),
        spare: Nanos(0),
    };

    #[test]
    fn a_slot_is_dark_latched_and_lit_while_the_next_is_shifted_in() {
        let mut scanner = Scanner::new(TIMES, 1.0, facts::MAX_BRIGHTNESS);
        let mut ops = Ops::default();
        scanner.power_up(&mut ops);
        assert_eq!(scanner.slot(&mut ops), None, "nothing to show yet");
        let mut nodes = vec![Level::OFF; 4 * 2 * LINES];
        // Row 0, the second column: R1 at two thirds, B2 full.
        (nodes[LINES], nodes[LINES + 5]) = (Level(170), Level::FULL);
        scanner.frame(&nodes, &mut ops);
        ops.clear();
        assert_eq!(scanner.slot(&mut ops), Some(Nanos(200)));
        assert_eq!(ops.get(0).unwrap().transfer, Transfer::Burst { columns: &[0x40, 0x60] }, "plane 0, dark");
        ops.clear();
        assert_eq!(scanner.slot(&mut ops), Some(Nanos(1_200)));
        let listed: Vec<_> = ops.iter().map(|op| (op.role, op.transfer, op.not_before.0)).collect();
        let set = |levels| Transfer::Ports { mask: &[0b1111], levels };
        assert_eq!(
            listed,
            [
                (Role::Blank, set(&[0b0010]), 0),
                (Role::Frame, set(&[0b0011]), 0),
                (Role::Frame, set(&[0b0010]), 0),
                // Plane 1 has both; of plane 0 one clock is lit.
                (Role::Frame, Transfer::Burst { columns: &[0x00, 0x61] }, 1_000),
            ]
        );
    }

    #[test]
    fn a_frame_that_comes_in_the_middle_waits_for_the_next_turn() {
        let mut scanner = Scanner::new(TIMES, 1.0, facts::MAX_BRIGHTNESS);
        let mut ops = Ops::default();
        scanner.power_up(&mut ops);
        scanner.frame(&[Level::OFF; 4 * 2 * LINES], &mut ops);
        for _ in 0..4 {
            scanner.slot(&mut ops);
        }
        scanner.frame(&[Level::FULL; 4 * 2 * LINES], &mut ops);
        let mut turns = Vec::new();
        for _ in 0..9 {
            ops.clear();
            scanner.slot(&mut ops);
            let burst = ops.iter().last().unwrap().transfer.bytes().to_vec();
            turns.push(burst.iter().all(|column| column & 0x3F == 0x3F));
        }
        // Slots 3 to 6 feed what is old; slot 7 feeds the first of the next turn.
        assert_eq!(turns, [false, false, false, false, true, true, true, true, true]);
    }

    proptest! {
        #[test]
        fn planes_are_the_bits_of_bytes(bytes in any::<[u8; 8]>()) {
            let planes = planes_of(u64::from_le_bytes(bytes)).to_le_bytes();
            for (plane, lines) in planes.iter().enumerate() {
                for (line, byte) in bytes.iter().enumerate() {
                    prop_assert_eq!(lines >> line & 1, byte >> plane & 1);
                }
            }
        }
    }
}
