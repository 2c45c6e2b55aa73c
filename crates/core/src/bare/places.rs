//! Outputs of parts by name: `part1.QA`, `latch0.Q3`.

use std::collections::HashMap;

use crate::rig::Spanned;

use super::PlannedCircuit;
use super::trouble::CircuitTrouble;
use crate::rig::{DriveTable, Pin, Problem};

/// How the outputs of several equal parts are named.
pub struct OutputNames {
    /// Before the number of the part: `part`.
    pub prefix: &'static str,
    /// The name of one, and of several.
    pub what: (&'static str, &'static str),
    /// The outputs of one part, by the data sheet's names, in capitals.
    pub names: &'static [&'static str],
}

impl OutputNames {
    /// The name of an output by its place: outputs of part 0, then of part 1, and so on.
    #[must_use]
    pub fn pin(&self, place: usize) -> Option<Pin> {
        let (part, output) = (place / self.names.len(), place % self.names.len());
        Pin::parse(&format!("{}{part}.{}", self.prefix, self.names[output]))
    }

    /// The place of an output by its name; a part that is not named is part 0.
    fn place(&self, pin: &Pin) -> Option<usize> {
        let (part, output) = match pin.name().split_once('.') {
            Some((part, output)) => {
                (part.strip_prefix(&self.prefix.to_ascii_uppercase())?.parse().ok()?, output)
            }
            None => (0_usize, pin.name()),
        };
        let output = self.names.iter().position(|name| *name == output)?;
        part.checked_mul(self.names.len())?.checked_add(output)
    }

    /// The place of a segment that a rig gives as a bit: digits take whole parts.
    pub fn numbered(&self, digit: usize, bit: usize, bits: usize) -> Option<Pin> {
        let for_each = bits.div_ceil(self.names.len());
        self.pin(digit * for_each * self.names.len() + bit)
    }

    /// The place of every output of a plan, each within `parts` and used once.
    pub fn places(
        &self,
        planned: &PlannedCircuit,
        parts: usize,
        table: &DriveTable<'_>,
    ) -> Option<Vec<usize>> {
        let mut users: HashMap<usize, String> = HashMap::new();
        // The first that is not there says enough.
        planned
            .circuit
            .outputs
            .iter()
            .map(|output| {
                let pin = Spanned::new(output.place.0.clone(), output.pin.clone());
                let is_written = pin.span() != table.place();
                let Some(place) = self.place(pin.get_ref()).filter(|place| *place < parts * self.names.len())
                else {
                    if !is_written {
                        let needs = self.parts(planned);
                        table.error(
                            pin.span(),
                            CircuitTrouble::FewParts { what: self.what, has: parts, needs },
                        );
                        return None;
                    }
                    let first = self.pin(0).map(|pin| pin.to_string()).unwrap_or_default();
                    let last = self.pin(parts * self.names.len() - 1).map(|pin| pin.to_string());
                    let allowed = format!("an output from {first} to {}", last.unwrap_or_default());
                    table
                        .error(pin.span(), Problem::WrongValue { found: pin.get_ref().to_string(), allowed });
                    return None;
                };
                if let Some(first) = users.insert(place, output.role.clone()) {
                    let (pin_name, second) = (pin.get_ref().to_string(), output.role.clone());
                    table.error(pin.span(), Problem::PinTwice { pin: pin_name, first, second });
                    return None;
                }
                Some(place)
            })
            .collect()
    }

    /// How many parts the outputs of a plan need.
    #[must_use]
    pub fn parts(&self, planned: &PlannedCircuit) -> usize {
        let places = planned.circuit.outputs.iter().filter_map(|output| self.place(&output.pin));
        places.max().map_or(1, |place| place / self.names.len() + 1).min(MAX_PARTS)
    }
}

/// The most parts of a face: a larger number is a mistake, and refused.
const MAX_PARTS: usize = 256;

/// The value of each part's outputs, the first in bit 0; outputs that are not used are at `unused`.
pub fn values(places: &[usize], levels: &[bool], width: usize, unused: bool, values: &mut [u16]) {
    values.fill(if unused { u16::MAX >> (16 - width) } else { 0 });
    for (place, level) in places.iter().zip(levels) {
        if let Some(value) = values.get_mut(place / width) {
            let bit = 1 << (place % width);
            *value = if *level { *value | bit } else { *value & !bit };
        }
    }
}
