//! The chips between the controller and the lights, as a person has them in the hand: what is connected to which pin.

use std::fmt;

use crate::units::{Microfarads, Ohms};

/// A pin of a chip: its name, and its number where all packages have the same.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ChipPin(pub &'static str, pub Option<u8>);

impl fmt::Display for ChipPin {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.1 {
            Some(number) => write!(f, "{} ({number})", self.0),
            None => f.write_str(self.0),
        }
    }
}

impl ChipPin {
    /// Which of several equal chips an output is at, and its pin, by the names and numbers of one chip's outputs.
    #[must_use]
    pub fn of_output(names: &[&'static str], numbers: &[u8], place: usize) -> (usize, Self) {
        let (chip, output) = (place / names.len(), place % names.len());
        (chip, Self(names[output], numbers.get(output).copied()))
    }
}

/// Something small that a chip needs beside it.
#[derive(Debug, Clone, Copy, PartialEq)]
#[allow(missing_docs, reason = "the words say it")]
#[non_exhaustive]
pub enum Component {
    Capacitor(Microfarads),
    Resistor(Ohms),
    Diode,
}

impl fmt::Display for Component {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Capacitor(capacitance) => capacitance.fmt(f),
            Self::Resistor(resistance) => resistance.fmt(f),
            Self::Diode => f.write_str("small signal diode"),
        }
    }
}

/// Nearly every chip needs this at its supply pins: without it, its own switching looks like a signal.
pub const DECOUPLING: &[Component] = &[Component::Capacitor(Microfarads(0.1))];

/// One chip between the controller and the lights.
#[derive(Debug, Clone, PartialEq)]
pub struct Chip {
    /// Its part number; nothing where it is the display itself.
    pub part: &'static str,
    /// Its name: `74hc595 part 0`.
    pub name: String,
    /// The parts that it needs beside it, by its data sheet.
    pub beside: Vec<Component>,
    /// The lines of the drive that arrive at it, by their place, and the pin of each.
    pub lines: Vec<(usize, ChipPin)>,
}

/// One connection that a person makes besides the lines.
#[derive(Debug, Clone, PartialEq)]
pub struct Wire {
    /// At what it begins: `74hc595 part 0`.
    pub chip: String,
    /// Its pin: `OE (13)`.
    pub pin: String,
    /// The other end.
    pub to: WireEnd,
    /// Why, or what comes of leaving it out.
    pub note: String,
}

/// Where a connection ends.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum WireEnd {
    /// At the supply.
    Supply,
    /// At ground.
    Ground,
    /// At the supply, through a resistor.
    SupplyThrough(Ohms),
    /// At something else, in words: `DIN (1) of the next`.
    Other(String),
}

impl fmt::Display for WireEnd {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Supply => f.write_str("supply"),
            Self::Ground => f.write_str("ground"),
            Self::SupplyThrough(ohms) => write!(f, "supply through {ohms}"),
            Self::Other(words) => f.write_str(words),
        }
    }
}

impl fmt::Display for Wire {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}, {}", self.chip, self.pin)
    }
}

impl Wire {
    /// From a pin of a chip to something, with a remark.
    #[must_use]
    pub fn of(chip: &str, pin: &str, to: WireEnd, note: &str) -> Self {
        Self { chip: chip.to_owned(), pin: pin.to_owned(), to, note: note.to_owned() }
    }

    /// From a pin of a chip to the supply, with what is to be close to it.
    #[must_use]
    pub fn fed(chip: &str, pin: &str, note: &str, close: &[Component]) -> Self {
        let close: Vec<_> = close.iter().map(ToString::to_string).collect();
        let close = format!("with {} close to the part", close.join(" and "));
        let note = if note.is_empty() { close } else { format!("{note}, {close}") };
        Self::of(chip, pin, WireEnd::Supply, &note)
    }
}

/// The row of pins by which a module with a chip is connected. It carries what the chip needs beside it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Header {
    /// The pins of its supply and of ground, as they are printed on it.
    pub power: (&'static str, &'static str),
    /// The range of the supply, in words.
    pub feed: &'static str,
    /// The pin of each line of the drive, by its place.
    pub lines: &'static [(usize, &'static str)],
    /// The pins by which a module feeds the next: of the one before, and of the one after.
    pub chained: Option<(&'static str, &'static str)>,
}

impl Header {
    /// The name of a module with this chip: `max7219 module 0` for the chip `max7219 part 0`.
    fn name_of(chip: &Chip) -> String {
        let rest = chip.name.strip_prefix(chip.part).unwrap_or_default();
        format!("{} module{}", chip.part, rest.strip_prefix(" part").unwrap_or(rest))
    }

    /// The module with this chip in place of it.
    #[must_use]
    pub fn module(&self, chip: &Chip) -> Chip {
        let pin = |(place, _): &(usize, ChipPin)| {
            let (_, name) = self.lines.iter().find(|(line, _)| line == place)?;
            Some((*place, ChipPin(name, None)))
        };
        let lines = chip.lines.iter().filter_map(pin).collect();
        Chip { name: Self::name_of(chip), lines, beside: Vec::new(), part: chip.part }
    }

    /// The connections of such modules besides the lines, of those of their chips: the straps of an address stay.
    #[must_use]
    pub fn wires(&self, chips: &[Chip], wires: &[Wire]) -> Vec<Wire> {
        let of_chip = |chip: &Chip| {
            let name = Self::name_of(chip);
            let power = [
                Wire::of(&name, self.power.0, WireEnd::Supply, self.feed),
                Wire::of(&name, self.power.1, WireEnd::Ground, ""),
            ];
            let is_strap = |wire: &&Wire| wire.chip == chip.name && matches!(wire.to, WireEnd::Other(_));
            let straps =
                wires.iter().filter(is_strap).map(|wire| Wire { chip: name.clone(), ..wire.clone() });
            power.into_iter().chain(straps).collect::<Vec<_>>()
        };
        chips.iter().flat_map(of_chip).collect()
    }
}
