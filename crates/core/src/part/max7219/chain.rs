//! The chain: which of its parts are the face's, and how they are connected.

use crate::part::Wire;

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
    /// What to connect besides the three lines.
    pub(super) fn wires(&self) -> Vec<Wire> {
        let wire =
            |from: String, to: &str, note: &str| Wire { from, to: to.to_owned(), note: note.to_owned() };
        let of_part = |part: usize| {
            let pin = move |name: &str| format!("max7219 part {part}, {name}");
            let next = (part + 1 < self.before + self.parts)
                .then(|| wire(pin("DOUT (24)"), &format!("part {}, DIN (1)", part + 1), "the chain goes on"));
            [
                wire(pin("V+ (19)"), "supply", "4.0 to 5.5 V, with 10 uF and 100 nF close to the part"),
                wire(pin("GND (4)"), "ground", "both ground pins are needed"),
                wire(pin("GND (9)"), "ground", "both ground pins are needed"),
                wire(
                    pin("ISET (18)"),
                    "supply through RSET",
                    "the one resistor that sets the segment current",
                ),
            ]
            .into_iter()
            .chain(next)
        };
        (self.before..self.before + self.parts).flat_map(of_part).collect()
    }
}
