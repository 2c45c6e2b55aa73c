//! The chain: which of its parts are the face's, and how they are connected.

use crate::bus::spi;
use crate::part::{Chip, ChipPin, Component, Header, Wire, WireEnd};
use crate::units::{Microfarads, Ohms};

/// The pins by which a part feeds the next.
const OUT: ChipPin = ChipPin("DOUT", Some(24));
const IN: ChipPin = ChipPin("DIN", Some(1));

/// The data sheet requires these close to V+.
const CAPACITORS: [Component; 2] =
    [Component::Capacitor(Microfarads(10.0)), Component::Capacitor(Microfarads(0.1))];

/// The pins of a module, as they are printed on most.
pub(super) const HEADER: Header = Header {
    power: ("VCC", "GND"),
    feed: "4.0 to 5.5 V",
    lines: &[(spi::DATA, "DIN"), (spi::SELECT, "CS"), (spi::CLOCK, "CLK")],
    chained: Some(("DOUT", "DIN")),
};

/// Where a face's parts are in their chain.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Share {
    /// The face's own parts.
    pub parts: usize,
    /// All parts of the chain.
    pub of: usize,
    /// How many come before the face's own, counted from the one that the controller feeds.
    pub before: usize,
}

impl Share {
    /// The face's own parts.
    pub(super) fn chips(&self, rset: Ohms) -> Vec<Chip> {
        let beside: Vec<_> = CAPACITORS.iter().copied().chain([Component::Resistor(rset)]).collect();
        let of_part = |part: usize| {
            let mut lines =
                vec![(spi::CLOCK, ChipPin("CLK", Some(13))), (spi::SELECT, ChipPin("LOAD", Some(12)))];
            if part == 0 {
                lines.push((spi::DATA, IN));
            }
            Chip { part: "max7219", name: format!("max7219 part {part}"), beside: beside.clone(), lines }
        };
        (self.before..self.before + self.parts).map(of_part).collect()
    }

    /// How a part feeds the next.
    pub(super) fn chained(&self) -> Option<(ChipPin, ChipPin)> {
        (self.of > 1).then_some((OUT, IN))
    }

    /// Returns the connections besides the three lines.
    pub(super) fn wires(&self, rset: Ohms) -> Vec<Wire> {
        let of_part = |part: usize| {
            let chip = format!("max7219 part {part}");
            let wire = |pin, to, note| Wire::of(&chip, pin, to, note);
            [
                Wire::fed(&chip, "V+ (19)", "4.0 to 5.5 V", &CAPACITORS),
                wire("GND (4)", WireEnd::Ground, "both ground pins are needed"),
                wire("GND (9)", WireEnd::Ground, "both ground pins are needed"),
                wire(
                    "ISET (18)",
                    WireEnd::SupplyThrough(rset),
                    "RSET, the one resistor that sets the segment current",
                ),
            ]
        };
        (self.before..self.before + self.parts).flat_map(of_part).collect()
    }
}
