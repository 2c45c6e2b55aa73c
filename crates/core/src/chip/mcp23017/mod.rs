//! mcp23017: sixteen pins in two ports on I2C, with registers behind a pointer.

mod driver;
mod model;

use std::ops::RangeInclusive;

use crate::bus::{Ops, Role};
use crate::drive::bare::expander::{Part, PartModel};
use crate::glyph::Common;
use crate::units::{Hertz, Milliamps};

/// The part.
pub struct Mcp23017;

impl Part for Mcp23017 {
    fn name(&self) -> &'static str {
        "mcp23017"
    }

    fn outputs(&self) -> &'static [&'static str] {
        &[
            "GPA0", "GPA1", "GPA2", "GPA3", "GPA4", "GPA5", "GPA6", "GPA7", "GPB0", "GPB1", "GPB2", "GPB3",
            "GPB4", "GPB5", "GPB6", "GPB7",
        ]
    }

    fn addresses(&self) -> (&'static [RangeInclusive<u8>], &'static str) {
        (&[0x20..=0x27], "0x20 to 0x27")
    }

    fn max_clock(&self) -> Hertz {
        Hertz(1_700_000)
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn ratings(&self) -> (Milliamps, Milliamps, Milliamps) {
        // All together: 150 mA out to ground, 125 mA in from the supply; the check uses the lower.
        (Milliamps(25.0), Milliamps(25.0), Milliamps(125.0))
    }

    fn wires(&self) -> &'static [(&'static str, &'static str, &'static str)] {
        &[
            ("VDD (9)", "supply", "with 100 nF close to the part"),
            ("VSS (10)", "ground", ""),
            ("RESET (18)", "supply", "forgotten, the part resets now and then and the display goes dark"),
            ("A0 A1 A2 (15 16 17)", "ground or supply", "the address, its lowest bit at A0"),
        ]
    }

    fn power_up(&self, address: u8, value: u16, ops: &mut Ops) {
        driver::power_up(address, value, ops);
    }

    fn write(&self, role: Role, address: u8, value: u16, ops: &mut Ops) {
        driver::write(role, address, value, ops);
    }

    fn model(&self) -> Box<dyn PartModel> {
        Box::new(model::Registers::default())
    }

    fn explain(&self, data: &[u8]) -> String {
        model::explain(data)
    }
}
