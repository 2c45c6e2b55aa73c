//! pcf8574: eight pins on I2C. One byte is the pins.
//!
//! A pin at 0 takes 25 mA; at 1 it gives no more than a tenth of a milliampere, which lights nothing. So it drives
//! common anode only. After power-up all pins are at 1.

use std::ops::RangeInclusive;

use crate::bus::{Ops, Role};
use crate::drive::bare::expander::{Part, PartModel};
use crate::glyph::Common;
use crate::units::{Hertz, Milliamps};

/// The part.
pub struct Pcf8574;

impl Part for Pcf8574 {
    fn name(&self) -> &'static str {
        "pcf8574"
    }

    fn outputs(&self) -> &'static [&'static str] {
        &["P0", "P1", "P2", "P3", "P4", "P5", "P6", "P7"]
    }

    fn addresses(&self) -> (&'static [RangeInclusive<u8>], &'static str) {
        (&[0x20..=0x27, 0x38..=0x3F], "0x20 to 0x27, the A variant at 0x38 to 0x3F")
    }

    fn max_clock(&self) -> Hertz {
        Hertz(100_000)
    }

    fn common(&self) -> Option<Common> {
        Some(Common::Anode)
    }

    fn ratings(&self) -> (Milliamps, Milliamps, Milliamps) {
        (Milliamps(25.0), Milliamps(0.1), Milliamps(100.0))
    }

    fn wires(&self) -> &'static [(&'static str, &'static str, &'static str)] {
        &[
            ("VDD (16)", "supply", "2.5 to 6 V, with 100 nF close to the part"),
            ("VSS (8)", "ground", ""),
            ("A0 A1 A2 (1 2 3)", "ground or supply", "the address, its lowest bit at A0"),
        ]
    }

    fn power_up(&self, address: u8, value: u16, ops: &mut Ops) {
        self.write(Role::PowerUp, address, value, ops);
    }

    fn write(&self, role: Role, address: u8, value: u16, ops: &mut Ops) {
        ops.push(role, [address << 1, value as u8]);
    }

    fn model(&self) -> Box<dyn PartModel> {
        Box::new(Latch(0xFF))
    }

    fn explain(&self, data: &[u8]) -> String {
        match data {
            [] => "no data".to_owned(),
            data => data.iter().map(|byte| format!("pins {byte:08b}")).collect::<Vec<_>>().join(", then "),
        }
    }
}

/// The quasi-bidirectional pins: every byte of a write replaces them.
struct Latch(u8);

impl PartModel for Latch {
    fn begin(&mut self) {}

    fn byte(&mut self, value: u8) {
        self.0 = value;
    }

    fn levels(&self, levels: &mut [Option<bool>]) {
        for (pin, level) in levels.iter_mut().enumerate() {
            let pulls_low = self.0 & (1 << pin) == 0;
            *level = pulls_low.then_some(false);
        }
    }
}
