//! Parallel data lines under one clock, with a latch, an output enable and address lines, as colour panels have them.
//!
//! ```text
//!  data 0..n  <c0><c1><c2> ...          one column a clock, all lines at once
//!  clock      _/'\_/'\_/'\ ... _
//!  latch      ___________________/'\_   the row takes what was shifted in
//!  enable     ''''''''''''''''''''''\_  lit while it is low
//! ```
//!
//! A burst shifts columns; the bit of a column above its data is the level of the output enable meanwhile, so that a row can
//! be lit for fewer clocks than the next one's data take. Latch, enable and address lines are set as ports are, with the
//! bits that [`Controls`] gives them.

use super::Wires;
use crate::units::{Hertz, Nanos};

/// The number of each line: the clock.
pub const CLOCK: usize = 0;
/// The latch.
pub const LATCH: usize = 1;
/// Output enable, active low.
pub const ENABLE: usize = 2;
/// The first address line; the data lines follow the last.
pub const ADDRESS: usize = 3;

/// The lines beside clock and data, as bits of a byte: bit 0 is the latch, bit 1 the output enable, the bits from 2 on are
/// the address lines.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Controls {
    /// How many address lines there are, at most 5.
    pub address_lines: usize,
}

impl Controls {
    /// The bits that are lines.
    #[must_use]
    pub const fn all(&self) -> u8 {
        ((1_u16 << (2 + self.address_lines)) - 1) as u8
    }

    /// The byte for these levels.
    #[must_use]
    pub const fn levels(&self, latch: bool, enable: bool, address: u8) -> u8 {
        latch as u8 | (enable as u8) << 1 | address << 2 & self.all()
    }

    /// The content of a byte: the levels of latch and enable, and the address.
    #[must_use]
    pub const fn read(&self, byte: u8) -> (bool, bool, u8) {
        let byte = byte & self.all();
        (byte & 1 == 1, byte >> 1 & 1 == 1, byte >> 2)
    }
}

/// The controller's end of the lines.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Panel {
    /// The clock rate.
    pub clock: Hertz,
    /// How many address lines there are, at most 5.
    pub address_lines: usize,
    /// How many data lines there are, at most 7.
    pub data_lines: usize,
}

impl Panel {
    /// The lines between transfers: dark.
    #[must_use]
    pub fn idle(&self) -> Vec<Option<bool>> {
        let mut idle = vec![Some(false); ADDRESS + self.address_lines + self.data_lines];
        idle[ENABLE] = Some(true);
        idle
    }

    /// Shifts columns in. Returns when the last clock has fallen.
    pub fn burst(&self, columns: &[u8], mut at: Nanos, wires: &mut impl Wires) -> Nanos {
        let half = self.clock.half_period();
        let first = ADDRESS + self.address_lines;
        for column in columns {
            for line in 0..self.data_lines.min(7) {
                wires.drive(at, first + line, Some(column >> line & 1 == 1));
            }
            wires.drive(at, ENABLE, Some(column >> self.data_lines.min(7) & 1 == 1));
            wires.drive(at + half, CLOCK, Some(true));
            at = at + half + half;
            wires.drive(at, CLOCK, Some(false));
        }
        at
    }

    /// Returns the time for a number of columns.
    #[must_use]
    pub const fn length(&self, columns: usize) -> Nanos {
        Nanos(2 * self.clock.half_period().0 * columns as u64)
    }

    /// Sets latch, output enable and address lines. Returns when the next transfer may begin.
    pub fn set(&self, mask: &[u8], levels: &[u8], at: Nanos, wires: &mut impl Wires) -> Nanos {
        let (Some(mask), Some(levels)) = (mask.first(), levels.first()) else { return at };
        for bit in (0..2 + self.address_lines.min(5)).filter(|bit| mask >> bit & 1 == 1) {
            wires.drive(at, LATCH + bit, Some(levels >> bit & 1 == 1));
        }
        at + self.clock.half_period()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bus::{Protocol, Reply, Transfer, Unanswered};

    #[test]
    fn columns_are_there_as_the_clock_rises_and_controls_only_where_they_are_meant() {
        let panel = Panel { clock: Hertz(10_000_000), address_lines: 4, data_lines: 6 };
        let protocol = Protocol::Panel(panel);
        let mut wires = Unanswered::of(&protocol);
        let Reply { ended, .. } =
            protocol.send(Transfer::Burst { columns: &[0b10_0001, 0, 0b111_1111] }, Nanos(0), &mut wires);
        assert_eq!(ended, Nanos(300));
        let (mut data, mut sampled, mut lit) = (0_u8, Vec::new(), Vec::new());
        for edge in wires.edges.drain(..) {
            match edge.line {
                ENABLE => lit.push((edge.at, edge.level)),
                CLOCK if edge.level => sampled.push(data),
                line if line >= ADDRESS + 4 => {
                    let bit = 1 << (line - ADDRESS - 4);
                    data = if edge.level { data | bit } else { data & !bit };
                }
                _ => {}
            }
        }
        assert_eq!(sampled, [0b10_0001, 0, 0b11_1111]);
        assert_eq!(lit, [(Nanos(0), false), (Nanos(200), true)], "two clocks long");
        let set = Transfer::Ports { mask: &[0b00_0111], levels: &[0b11_1101] };
        protocol.send(set, ended, &mut wires);
        let lines: Vec<_> = wires.edges.iter().map(|edge| (edge.line, edge.level)).collect();
        assert_eq!(lines, [(LATCH, true), (ENABLE, false), (ADDRESS, true)]);
    }

    #[test]
    fn controls_are_bits_of_a_byte() {
        let controls = Controls { address_lines: 4 };
        assert_eq!((controls.all(), controls.levels(true, false, 0b1010)), (0b11_1111, 0b10_1001));
        assert_eq!(controls.read(0b10_1001), (true, false, 0b1010));
        assert_eq!(controls.levels(false, true, 0xFF), 0b11_1110, "an address has no more bits than lines");
    }
}
