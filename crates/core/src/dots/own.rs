//! The fonts that ship with the tool. Each is drawn in a text beside its file, from which a test makes the file.

use super::bdf;
use super::font::Font;

/// What a font is for, and its file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Own {
    /// What it is called.
    pub name: &'static str,
    /// What it is for, in a line.
    pub about: &'static str,
    file: &'static str,
}

/// All of them, the one for most faces first.
pub const FONTS: &[Own] = &[Own {
    name: "board",
    about: "5x7, proportional: messages on eight rows",
    file: include_str!("fonts/board.bdf"),
}];

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
