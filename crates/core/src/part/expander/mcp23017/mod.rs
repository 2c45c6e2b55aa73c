//! mcp23017: sixteen pins in two ports on I2C, with registers behind a pointer.

mod driver;
mod model;

use super::Facts;
use crate::part::WireEnd;
use crate::units::{Hertz, Milliamps, Volts};

/// The figures of its data sheet.
pub(super) static FACTS: Facts = Facts {
    name: "mcp23017",
    outputs: &[
        "GPA0", "GPA1", "GPA2", "GPA3", "GPA4", "GPA5", "GPA6", "GPA7", "GPB0", "GPB1", "GPB2", "GPB3",
        "GPB4", "GPB5", "GPB6", "GPB7",
    ],
    numbers: &[21, 22, 23, 24, 25, 26, 27, 28, 1, 2, 3, 4, 5, 6, 7, 8],
    bus: (12, 13),
    addresses: (&[0x20..=0x27], "0x20 to 0x27"),
    supply: (Volts(1.8), Volts(5.5)),
    input_high: 0.8,
    max_clock: Hertz(1_700_000),
    common: None,
    sink: Milliamps(25.0),
    source: Milliamps(25.0),
    total: (Milliamps(150.0), Milliamps(125.0)),
    straps: "A0 (15), A1 (16), A2 (17)",
    feed: ("VDD (9)", ""),
    wires: &[
        ("VSS (10)", WireEnd::Ground, ""),
        (
            "RESET (18)",
            WireEnd::Supply,
            "if forgotten, the part resets now and then and the display goes dark",
        ),
    ],
    set_up: driver::set_up,
    write: driver::write,
    model: || Box::new(model::Registers::default()),
    explain: model::explain,
    sets: model::sets,
};
