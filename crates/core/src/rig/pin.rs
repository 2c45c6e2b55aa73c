//! Pins of the controller, by their names.

use std::fmt::{self, Display};
use std::hash::{Hash, Hasher};

#[cfg(feature = "schema")]
use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::{Deserialize, Deserializer, Visitor};

/// A controller pin by the name on its data sheet or board: `GP2`, `P1.0`, `13`; or an output of a part. Upper and
/// lower case are the same pin.
#[derive(Debug, Clone)]
pub struct Pin {
    written: String,
    /// The same in capitals.
    name: String,
}

impl PartialEq for Pin {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name
    }
}

impl Eq for Pin {}

impl Hash for Pin {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.name.hash(state);
    }
}

impl Pin {
    /// A pin by its name: printable ASCII without blanks.
    #[must_use]
    pub fn parse(name: &str) -> Option<Self> {
        let sound = !name.is_empty() && name.chars().all(|c| c.is_ascii_graphic());
        sound.then(|| Self { written: name.to_owned(), name: name.to_ascii_uppercase() })
    }

    /// The name, in capitals.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The port and the bit of a pin that is named by them: `P1.0`, `PB5`, `RA3`.
    #[must_use]
    pub fn port_bit(&self) -> Option<(&str, u8)> {
        let (port, bit) = self.name.split_at_checked(self.name.len().checked_sub(1)?)?;
        let bit = bit.parse().ok().filter(|bit| *bit < 8)?;
        let dotted = port.strip_suffix('.').filter(|port| {
            port.strip_prefix('P').is_some_and(|number| number.len() == 1 && number.parse::<u8>().is_ok())
        });
        let lettered = || {
            let mut letters = port.chars();
            let of_port =
                matches!(letters.next(), Some('P' | 'R')) && matches!(letters.next(), Some('A'..='L'));
            (of_port && letters.next().is_none()).then_some(port)
        };
        dotted.or_else(lettered).map(|port| (port, bit))
    }

    /// A bit of a port by name: bit 0 of `P1` is `P1.0`, of `PB` is `PB0`.
    #[must_use]
    pub fn of_port(port: &str, bit: usize) -> Option<Self> {
        let dot = if port.ends_with(|end: char| end.is_ascii_digit()) { "." } else { "" };
        Self::parse(&format!("{port}{dot}{bit}"))
    }
}

#[cfg(feature = "schema")]
impl JsonSchema for Pin {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Pin".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        schemars::json_schema!({
            "description": "A pin by the name on its data sheet or board, or by its number",
            "type": ["string", "integer"],
            "minLength": 1,
            "minimum": 0
        })
    }
}

impl Display for Pin {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.written)
    }
}

impl<'de> Deserialize<'de> for Pin {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct PinVisitor;
        impl Visitor<'_> for PinVisitor {
            type Value = Pin;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("the name of a pin, such as \"GP2\" or 13")
            }
            fn visit_str<E: serde::de::Error>(self, name: &str) -> Result<Pin, E> {
                Pin::parse(name).ok_or_else(|| E::invalid_value(serde::de::Unexpected::Str(name), &self))
            }
            fn visit_i64<E: serde::de::Error>(self, number: i64) -> Result<Pin, E> {
                let wrong = || E::invalid_value(serde::de::Unexpected::Signed(number), &self);
                if number < 0 { Err(wrong()) } else { Pin::parse(&number.to_string()).ok_or_else(wrong) }
            }
        }
        deserializer.deserialize_any(PinVisitor)
    }
}

/// Why a pin had better be left alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Reserved {
    /// It cannot drive anything.
    InputOnly,
    /// The program itself is stored behind it.
    Flash,
    /// The program is uploaded through it.
    Serial,
    /// Its level at start-up chooses how the controller starts.
    Strap,
    /// It carries USB.
    Usb,
    /// The debugger is at it.
    Debug,
    /// It carries the crystal.
    Crystal,
    /// It resets the controller.
    Reset,
    /// It belongs to the antenna for near fields.
    Nfc,
    /// Usual boards need it for themselves, or do not lead it out.
    Board,
}

impl Reserved {
    /// Returns true if the pin cannot be used at all.
    #[must_use]
    pub const fn forbids(self) -> bool {
        matches!(self, Self::InputOnly | Self::Flash)
    }

    /// The reason in words.
    #[must_use]
    pub const fn reason(self) -> &'static str {
        match self {
            Self::InputOnly => "is an input only and drives nothing",
            Self::Flash => "belongs to the flash memory that holds the program",
            Self::Serial => "is the serial port through which programs are uploaded",
            Self::Strap => "is read at start-up and chooses how the controller starts",
            Self::Usb => "carries USB",
            Self::Debug => "is the debugger's",
            Self::Crystal => "carries the crystal on most boards",
            Self::Reset => "resets the controller",
            Self::Nfc => "belongs to the NFC antenna until the program changes that",
            Self::Board => "is used by usual boards themselves, or not led out",
        }
    }
}
