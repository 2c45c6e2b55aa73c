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
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Wire {
    /// At what it begins: `74hc595 part 0`.
    pub chip: String,
    /// Its pin: `OE (13)`.
    pub pin: String,
    /// The other end: `ground`, `GP4`.
    pub to: String,
    /// Why, or what comes of leaving it out.
    pub note: String,
}

impl fmt::Display for Wire {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}, {}", self.chip, self.pin)
    }
}

impl Wire {
    /// From a pin of a chip to something, with a remark.
    #[must_use]
    pub fn of(chip: &str, pin: &str, to: &str, note: &str) -> Self {
        Self { chip: chip.to_owned(), pin: pin.to_owned(), to: to.to_owned(), note: note.to_owned() }
    }

    /// From a pin of a chip to the supply, with what is to be close to it.
    #[must_use]
    pub fn fed(chip: &str, pin: &str, note: &str, close: &[Component]) -> Self {
        let close: Vec<_> = close.iter().map(ToString::to_string).collect();
        let close = format!("with {} close to the part", close.join(" and "));
        let note = if note.is_empty() { close } else { format!("{note}, {close}") };
        Self::of(chip, pin, "supply", &note)
    }
}
