//! Parsers for the values of options.

use std::time::Duration;

use clap::ValueEnum;
use clap::builder::{PossibleValue, PossibleValuesParser, TypedValueParser};
use spare_tile_core::play::SHORTEST;
use spare_tile_core::units::parse_duration;
use spare_tile_core::words::Word;
use spare_tile_firmware::project::targets::TARGETS;

/// Returns a parser for one of a few words, with the meaning of each for the help.
pub fn word<T: Word + Send + Sync>() -> impl TypedValueParser<Value = T> {
    let values = T::ALL.iter().map(|value| PossibleValue::new(value.word()).help(value.about()));
    PossibleValuesParser::new(values).try_map(|word| T::of_word(&word).ok_or("unknown word"))
}

/// Reads the time that something takes.
pub fn every(text: &str) -> Result<Duration, String> {
    match parse_duration(text).map_err(|error| error.to_string())? {
        every if every >= SHORTEST => Ok(every),
        _ => Err("write a time of 1us or more, such as 1s".to_owned()),
    }
}

/// Returns a parser for the names of firmware targets.
pub fn target_name() -> PossibleValuesParser {
    PossibleValuesParser::new(TARGETS.iter().map(|target| target.name()))
}

/// How bytes are written.
#[derive(ValueEnum, Clone, Copy)]
pub enum Base {
    /// Two upper-case hex digits.
    Hex,
    /// Eight binary digits.
    Bin,
    /// A decimal number.
    Dec,
}

impl Base {
    /// The word for it, as a heading.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Hex => "hex",
            Self::Bin => "binary",
            Self::Dec => "decimal",
        }
    }

    /// A byte in this base.
    pub fn write(self, byte: u8) -> String {
        match self {
            Self::Hex => format!("{byte:02X}"),
            Self::Bin => format!("{byte:08b}"),
            Self::Dec => byte.to_string(),
        }
    }

    /// Bytes in this base, a space between.
    pub fn write_all(self, bytes: &[u8]) -> String {
        bytes.iter().map(|byte| self.write(*byte)).collect::<Vec<_>>().join(" ")
    }
}
