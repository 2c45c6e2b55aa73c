//! Figures of colour panels. There is no one data sheet: these hold for the constant-current shift drivers and row switches
//! that nearly all of them are built of.

use crate::bus::watch::Limits;
use crate::units::{Hertz, Milliamps, Nanos, Volts};

/// The sizes of one panel in dots.
pub const WIDTHS: [usize; 4] = [32, 64, 96, 128];
/// Likewise from top to bottom.
pub const HEIGHTS: [usize; 3] = [16, 32, 64];
/// How many addresses a scan may have: `1/4` lights one row pair of four.
pub const SCANS: [usize; 4] = [4, 8, 16, 32];
/// The most panels in a chain.
pub const MAX_CHAIN: usize = 64;
/// The fastest clock of usual column drivers at 5 V.
pub const MAX_CLOCK: Hertz = Hertz(25_000_000);
/// The limits of their serial inputs.
pub const LIMITS: Limits = Limits { clock: MAX_CLOCK, setup: Nanos(5), hold: Nanos(5) };
/// How long the switch of a row goes on conducting after another is addressed: a small p-channel transistor behind a
/// decoder, the gate of which discharges through a resistor.
pub const ROW_TURN_OFF: Nanos = Nanos(500);
/// The lowest and the highest supply.
pub const SUPPLY: (Volts, Volts) = (Volts(4.5), Volts(5.5));
/// The current of a light while it is lit, unless the rig gives it: 10 to 20 mA are usual.
pub const USUAL_COLUMN: f64 = 12.0;
/// The current of a panel with every light dark.
pub const OWN_CURRENT: Milliamps = Milliamps(100.0);
/// The most planes of a colour: each bit doubles what a turn takes.
pub const MAX_DEPTH: u8 = 8;
/// The highest brightness step; the lowest lights for a sixteenth of the time.
pub const MAX_BRIGHTNESS: u8 = 15;

/// The address lines in the order of their weight.
pub const ADDRESS_LINES: [&str; 5] = ["a", "b", "c", "d", "e"];
/// The data lines: of the upper half, then of the lower.
pub const DATA_LINES: [&str; 6] = ["r1", "g1", "b1", "r2", "g2", "b2"];

/// The pins of the connector that have signals, by the name of the line, in the order that most panels print.
pub const CONNECTOR: [(&str, &str, u8); 14] = [
    ("r1", "R1", 1),
    ("g1", "G1", 2),
    ("b1", "B1", 3),
    ("r2", "R2", 5),
    ("g2", "G2", 6),
    ("b2", "B2", 7),
    ("e", "E", 8),
    ("a", "A", 9),
    ("b", "B", 10),
    ("c", "C", 11),
    ("d", "D", 12),
    ("clock", "CLK", 13),
    ("latch", "LAT", 14),
    ("enable", "OE", 15),
];

/// How many address lines it takes to tell so many addresses.
#[must_use]
pub const fn address_lines(scan: usize) -> usize {
    scan.ilog2() as usize
}
