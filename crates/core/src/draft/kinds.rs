//! The kinds of displays to begin with, by their look and by the marks on their chips.

use std::ops::RangeInclusive;

use crate::glyph::Common;

/// How many digits, or dots across and down.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Size {
    /// Digits in a row.
    Digits(usize),
    /// Dots: width and height.
    Dots(usize, usize),
}

/// Their drive.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Way {
    /// Every segment at a pin of the controller.
    Static,
    /// Lines shared by all digits or rows, and one more for each digit or row.
    Scanned,
    /// A parallel latch.
    Latched,
    /// A chain of shift registers, one for each digit.
    Shifted,
    /// Port expanders on I2C.
    Expander,
    /// A driver part on three wires, chained.
    Max7219,
    /// A driver part on two wires of its own.
    Tm1637,
    /// A driver part on three wires, with keys.
    Tm1638,
    /// A driver part on I2C.
    Ht16k33,
    /// The connector of colour panels.
    RgbPanel,
}

/// A kind of display.
#[derive(Debug, PartialEq, Eq)]
pub struct Kind {
    /// Its name.
    pub name: &'static str,
    /// A description, in a line.
    pub about: &'static str,
    /// As in a rig.
    pub kind: &'static str,
    /// Its drive.
    pub way: Way,
    /// Its usual size, and the largest.
    pub size: (Size, Size),
    /// The name of the face where the rig has no other.
    pub face: &'static str,
    /// The usual colour of its lights.
    pub colour: &'static str,
    /// The side of the lights that is joined, where the part decides it.
    pub common: Option<Common>,
    /// How many pins the package of a bare display usually has, in words, where that tells it from others.
    pub pins: Option<&'static str>,
}

/// The look of a display.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs, reason = "the words say it")]
pub enum Shows {
    Digits,
    Letters,
    Dots,
    Colours,
}

/// All kinds, the simplest first.
pub const KINDS: &[Kind] = &[
    Kind {
        name: "bare-digit",
        about: "one bare digit with ten pins, each segment at a pin",
        kind: "seven-segment",
        way: Way::Static,
        size: (Size::Digits(1), Size::Digits(1)),
        face: "berth",
        colour: "red",
        common: None,
        pins: Some("ten"),
    },
    Kind {
        name: "bare-digits",
        about: "several bare digits that share their segment lines; four of them have twelve pins",
        kind: "seven-segment",
        way: Way::Scanned,
        size: (Size::Digits(4), Size::Digits(8)),
        face: "gauge",
        colour: "red",
        common: None,
        pins: Some("twelve, or more"),
    },
    Kind {
        name: "latched-digit",
        about: "a bare digit behind a latch, 74hc573",
        kind: "seven-segment",
        way: Way::Latched,
        size: (Size::Digits(1), Size::Digits(4)),
        face: "berth",
        colour: "red",
        common: None,
        pins: None,
    },
    Kind {
        name: "shifted-digits",
        about: "bare digits behind shift registers, a 74hc595 for each",
        kind: "seven-segment",
        way: Way::Shifted,
        size: (Size::Digits(2), Size::Digits(16)),
        face: "minutes",
        colour: "amber",
        common: None,
        pins: None,
    },
    Kind {
        name: "expander-digits",
        about: "bare digits behind I2C port expanders, an mcp23017 for two",
        kind: "seven-segment",
        way: Way::Expander,
        size: (Size::Digits(2), Size::Digits(16)),
        face: "crew",
        colour: "red",
        common: None,
        pins: None,
    },
    Kind {
        name: "expander-letters",
        about: "bare letters of fourteen segments behind I2C port expanders, an mcp23017 for each",
        kind: "fourteen-segment",
        way: Way::Expander,
        size: (Size::Digits(2), Size::Digits(8)),
        face: "crew",
        colour: "red",
        common: None,
        pins: None,
    },
    Kind {
        name: "clock-module",
        about: "four digits and a colon on two wires: the chip says tm1637",
        kind: "seven-segment",
        way: Way::Tm1637,
        size: (Size::Digits(4), Size::Digits(6)),
        face: "clock",
        colour: "red",
        common: Some(Common::Anode),
        pins: None,
    },
    Kind {
        name: "button-panel",
        about: "eight digits, eight lamps and eight buttons on three wires: the chip says tm1638",
        kind: "seven-segment",
        way: Way::Tm1638,
        size: (Size::Digits(8), Size::Digits(8)),
        face: "desk",
        colour: "red",
        common: Some(Common::Cathode),
        pins: None,
    },
    Kind {
        name: "i2c-digits",
        about: "digits on I2C: the chip says ht16k33",
        kind: "seven-segment",
        way: Way::Ht16k33,
        size: (Size::Digits(4), Size::Digits(64)),
        face: "gauge",
        colour: "red",
        common: Some(Common::Cathode),
        pins: None,
    },
    Kind {
        name: "i2c-letters",
        about: "letters of fourteen segments on I2C: the chip says ht16k33",
        kind: "fourteen-segment",
        way: Way::Ht16k33,
        size: (Size::Digits(4), Size::Digits(64)),
        face: "sign",
        colour: "green",
        common: Some(Common::Cathode),
        pins: None,
    },
    Kind {
        name: "chain-digits",
        about: "digits on three wires in a chain: the chip says max7219",
        kind: "seven-segment",
        way: Way::Max7219,
        size: (Size::Digits(8), Size::Digits(64)),
        face: "desk",
        colour: "red",
        common: Some(Common::Cathode),
        pins: None,
    },
    Kind {
        name: "chain-dots",
        about: "modules of 8x8 dots in a chain: each chip says max7219",
        kind: "dots",
        way: Way::Max7219,
        size: (Size::Dots(32, 8), Size::Dots(128, 32)),
        face: "board",
        colour: "red",
        common: None,
        pins: None,
    },
    Kind {
        name: "i2c-dots",
        about: "8x8 or 16x8 dots on I2C, or several side by side: the chip says ht16k33",
        kind: "dots",
        way: Way::Ht16k33,
        size: (Size::Dots(8, 8), Size::Dots(128, 8)),
        face: "beacon",
        colour: "red",
        common: Some(Common::Cathode),
        pins: None,
    },
    Kind {
        name: "bare-dots",
        about: "bare 8x8 dots with sixteen pins",
        kind: "dots",
        way: Way::Scanned,
        size: (Size::Dots(8, 8), Size::Dots(8, 8)),
        face: "beacon",
        colour: "red",
        common: None,
        pins: None,
    },
    Kind {
        name: "colour-panel",
        about: "panels of dots in all colours, fed over a connector with sixteen pins",
        kind: "dots",
        way: Way::RgbPanel,
        size: (Size::Dots(64, 32), Size::Dots(256, 128)),
        face: "departures",
        colour: "white",
        common: Some(Common::Anode),
        pins: None,
    },
];

impl Way {
    /// Returns true if such displays are usually sold on a board with their chip.
    pub(super) const fn is_on_module(self) -> bool {
        matches!(self, Self::Max7219 | Self::Tm1637 | Self::Tm1638 | Self::Ht16k33)
    }

    /// The lines that a further part may share with an existing one, by role, and the methods of those.
    pub(super) const fn shares(self) -> (&'static [&'static str], &'static [&'static str]) {
        match self {
            Self::Expander | Self::Ht16k33 => (&["clock", "data"], &["expander", "ht16k33"]),
            Self::Max7219 => (&["clock", "data"], &["max7219"]),
            Self::Tm1638 => (&["clock", "data"], &["tm1638"]),
            Self::Tm1637 => (&["clock"], &["tm1637"]),
            Self::Static | Self::Scanned | Self::Latched | Self::Shifted | Self::RgbPanel => (&[], &[]),
        }
    }

    /// The addresses that its parts may have; `None` where they have none.
    pub(super) const fn addresses(self) -> Option<RangeInclusive<u8>> {
        match self {
            Self::Expander => Some(0x20..=0x27),
            Self::Ht16k33 => Some(0x70..=0x77),
            _ => None,
        }
    }
}

impl Kind {
    /// Its look.
    #[must_use]
    pub fn shows(&self) -> Shows {
        match (self.size.0, self.kind) {
            (Size::Dots(..), _) if self.way == Way::RgbPanel => Shows::Colours,
            (Size::Dots(..), _) => Shows::Dots,
            (Size::Digits(_), "seven-segment") => Shows::Digits,
            (Size::Digits(_), _) => Shows::Letters,
        }
    }

    /// The mark on its chip; `None` if the pins of the controller drive it, or if its chip is hidden.
    #[must_use]
    pub const fn chip(&self) -> Option<&'static str> {
        match self.way {
            Way::Static | Way::Scanned | Way::RgbPanel => None,
            Way::Latched => Some("74hc573"),
            Way::Shifted => Some("74hc595"),
            Way::Expander => Some("mcp23017"),
            Way::Max7219 => Some("max7219"),
            Way::Tm1637 => Some("tm1637"),
            Way::Tm1638 => Some("tm1638"),
            Way::Ht16k33 => Some("ht16k33"),
        }
    }

    /// Returns true if its lights may have either side joined: neither the part decides it, nor can the two sides change places as
    /// those of dots.
    #[must_use]
    pub fn leaves_common_open(&self) -> bool {
        self.common.is_none() && self.way != Way::Max7219
    }

    /// Returns true if it can have this size.
    #[must_use]
    pub fn can_be(&self, size: Size) -> bool {
        match (size, self.size.1) {
            (Size::Digits(digits), Size::Digits(most)) => (1..=most).contains(&digits),
            (Size::Dots(width, height), Size::Dots(most_width, most_height)) => {
                let (across, down) = if self.way == Way::RgbPanel { (32, 16) } else { (8, 8) };
                let of_modules = width % across == 0 && height % down == 0;
                of_modules && (8..=most_width).contains(&width) && (8..=most_height).contains(&height)
            }
            _ => false,
        }
    }

    /// How many parts with an address it takes.
    pub(super) fn chips(&self, size: Size) -> usize {
        let digits = match size {
            Size::Digits(digits) => digits,
            Size::Dots(width, _) => return width.div_ceil(16),
        };
        match (self.way, self.kind) {
            (Way::Expander, "seven-segment") => digits.div_ceil(2),
            (Way::Expander, _) => digits,
            _ => digits.div_ceil(8),
        }
    }
}

/// The kind of this name.
#[must_use]
pub fn kind(name: &str) -> Option<&'static Kind> {
    KINDS.iter().find(|kind| kind.name == name)
}
