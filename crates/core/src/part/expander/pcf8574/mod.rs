//! pcf8574: eight pins on I2C. One byte is the pins.
//!
//! A pin at 0 takes 25 mA; at 1 it gives no more than a tenth of a milliampere, which lights nothing. So it drives
//! common anode only. After power-up all pins are at 1.

mod driver;
mod model;

use super::Facts;
use crate::glyph::Common;
use crate::part::WireEnd;
use crate::units::{Hertz, Milliamps, Volts};

/// The figures of its data sheet.
pub(super) static FACTS: Facts = Facts {
    name: "pcf8574",
    outputs: &["P0", "P1", "P2", "P3", "P4", "P5", "P6", "P7"],
    numbers: &[4, 5, 6, 7, 9, 10, 11, 12],
    bus: (14, 15),
    addresses: (&[0x20..=0x27, 0x38..=0x3F], "0x20 to 0x27, the A variant at 0x38 to 0x3F"),
    supply: (Volts(2.5), Volts(6.0)),
    input_high: 0.7,
    max_clock: Hertz(100_000),
    common: Some(Common::Anode),
    sink: Milliamps(25.0),
    source: Milliamps(0.1),
    total: (Milliamps(100.0), Milliamps(100.0)),
    straps: "A0 (1), A1 (2), A2 (3)",
    feed: ("VDD (16)", "2.5 to 6 V"),
    wires: &[("VSS (8)", WireEnd::Ground, "")],
    set_up: driver::write,
    write: driver::write,
    model: || Box::new(model::Latch(0xFF)),
    explain: model::explain,
    sets: model::sets,
};
