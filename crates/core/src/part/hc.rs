//! 74HC parts with eight outputs: their supply, their ratings, and control pins that are tied.

use super::{DECOUPLING, DriveTable, Wire, WireEnd, check_logic, check_supply};
use crate::bare::ratings::{Ratings, by_part};
use crate::rig::{Controller, Spanned};
use crate::units::{Milliamps, Volts};
use crate::words::words;

/// The outputs of one part.
pub const WIDTH: usize = 8;
/// The lowest and the highest supply (recommended operating conditions).
const SUPPLY: (Volts, Volts) = (Volts(2.0), Volts(6.0));
/// The most that an output may carry (data sheet, absolute maximum ratings).
const OUTPUT_MOST: Milliamps = Milliamps(35.0);
/// The most that all outputs of a part may carry together.
const PART_MOST: Milliamps = Milliamps(70.0);

words! {
    /// The connection of a control pin that is not driven.
    pub enum Tie {
        /// Tied to ground.
        Low = "low",
        /// Tied to the supply.
        High = "high",
        /// Not connected.
        Open = "open",
    }
}

impl Tie {
    /// The connection in words.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Low => "tied low",
            Self::High => "tied high",
            Self::Open => "left open",
        }
    }

    /// The level at the pin; `None` if it floats.
    pub const fn level(self) -> Option<bool> {
        match self {
            Self::Low => Some(false),
            Self::High => Some(true),
            Self::Open => None,
        }
    }

    /// The other end of the pin's wire.
    pub fn end(self) -> WireEnd {
        match self {
            Self::Low => WireEnd::Ground,
            Self::High => WireEnd::Supply,
            Self::Open => WireEnd::Other("nothing".into()),
        }
    }
}

/// Checks the levels and the supply of a part. Returns the high level on its inputs.
pub fn check(
    controller: &Controller,
    part: &'static str,
    bus_volts: Option<Spanned<f64>>,
    table: &DriveTable<'_>,
) -> Volts {
    let level = check_logic(controller, part, bus_volts, table);
    check_supply(controller, part, SUPPLY, table);
    level
}

/// The wires of a chip to the supply.
pub fn fed(chip: &str, supply: &str, ground: &str) -> [Wire; 2] {
    [Wire::fed(chip, supply, "", DECOUPLING), Wire::of(chip, ground, WireEnd::Ground, "")]
}

/// The ratings of parts by their names, where each output has its place.
pub fn ratings(
    part: &'static str,
    names: impl Iterator<Item = String>,
    places: &[usize],
    supply: Volts,
) -> Ratings {
    Ratings {
        part: part.into(),
        high: Some(supply),
        output: Some(OUTPUT_MOST),
        output_absolute: Some(OUTPUT_MOST),
        output_sink_absolute: None,
        output_source: None,
        groups: by_part(names, places, WIDTH, PART_MOST, PART_MOST),
    }
}
