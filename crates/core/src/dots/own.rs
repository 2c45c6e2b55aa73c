//! The fonts that ship with the tool. Each is drawn in a text beside its file, from which a test makes the file.

use super::bdf;
use super::font::Font;

/// The purpose of a font, and its file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Own {
    /// Its name.
    pub name: &'static str,
    /// Its purpose, in a line.
    pub about: &'static str,
    /// True if it has letters, and not only figures.
    pub has_letters: bool,
    file: &'static str,
}

/// All of them, the one for most faces first.
pub const FONTS: &[Own] = &[
    Own {
        name: "board",
        about: "5x7, proportional: messages on eight rows",
        has_letters: true,
        file: include_str!("fonts/board.bdf"),
    },
    Own {
        name: "bold",
        about: "6x8, proportional: messages that are read from afar",
        has_letters: true,
        file: include_str!("fonts/bold.bdf"),
    },
    Own {
        name: "tall",
        about: "8x16, proportional: messages on sixteen rows",
        has_letters: true,
        file: include_str!("fonts/tall.bdf"),
    },
    Own {
        name: "small",
        about: "3x5, proportional: panels of few dots",
        has_letters: true,
        file: include_str!("fonts/small.bdf"),
    },
    Own {
        name: "clock",
        about: "figures of eight rows, all of one width",
        has_letters: false,
        file: include_str!("fonts/clock.bdf"),
    },
    Own {
        name: "clock-tall",
        about: "figures of sixteen rows, all of one width",
        has_letters: false,
        file: include_str!("fonts/clock-tall.bdf"),
    },
];

impl Own {
    /// The font; `None` never, which a test holds.
    #[must_use]
    pub fn load(&self) -> Option<Font> {
        bdf::read(self.file).ok()
    }
}

/// The font of this name.
#[must_use]
pub fn called(name: &str) -> Option<Font> {
    FONTS.iter().find(|font| font.name == name)?.load()
}
