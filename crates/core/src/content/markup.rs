//! Colours and fonts within a text on dots.
//!
//! ```text
//! {amber:TEAL} 07:58 {small:BERTH {red:2}}       {{ and {} are braces
//! ```
//!
//! A name in braces and a colon begin a part of the text that has this colour, or this font, up to the closing brace. Parts
//! may stand within one another. Where none is open, `}}` is a brace too, as on digits.

use std::sync::Arc;

use crate::dots::font::Font;
use crate::dots::own::{self, FONTS};
use crate::dots::raster::Colour;

/// The colours by their names.
pub const COLOURS: [(&str, Colour); 9] = [
    ("red", [255, 0, 0]),
    ("orange", [255, 96, 0]),
    ("amber", [255, 160, 0]),
    ("yellow", [255, 255, 0]),
    ("green", [0, 255, 0]),
    ("cyan", [0, 255, 255]),
    ("blue", [0, 0, 255]),
    ("magenta", [255, 0, 255]),
    ("white", [255, 255, 255]),
];

/// How characters look.
#[derive(Debug, Clone, PartialEq)]
pub struct Style {
    /// Their font.
    pub font: Arc<Font>,
    /// Their colour.
    pub colour: Colour,
}

/// A character with its style.
pub type Styled = (char, Style);

/// Why a text with braces cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum MarkupError {
    /// A name that is neither a colour nor a font.
    #[error("'{found}' in braces is not a colour or a font")]
    Unknown {
        /// The name that was found.
        found: String,
    },
    /// A brace without a name and a colon behind it.
    #[error("a brace opens here and no name with a colon follows: {found:?}")]
    NoName {
        /// The text from there on.
        found: String,
    },
    /// A brace that closes nothing.
    #[error("a closing brace has no opening one")]
    Stray,
    /// A brace that is not closed.
    #[error("a brace is not closed")]
    Open,
}

/// A colour by its name, or by its levels: `#ff8000`.
#[must_use]
pub fn colour(name: &str) -> Option<Colour> {
    if let Some(digits) = name.strip_prefix('#').filter(|digits| digits.len() == 6 && digits.is_ascii()) {
        let level = |at: usize| u8::from_str_radix(&digits[at..at + 2], 16).ok();
        return Some([level(0)?, level(2)?, level(4)?]);
    }
    COLOURS.iter().find(|(known, _)| *known == name).map(|(_, colour)| *colour)
}

/// The names that may stand in braces.
pub fn names() -> impl Iterator<Item = &'static str> {
    COLOURS.iter().map(|(name, _)| *name).chain(FONTS.iter().map(|font| font.name))
}

/// Reads a text: its characters with their styles, that of `usual` where nothing else is said.
///
/// # Errors
/// When its braces say nothing.
pub fn read(text: &str, usual: &Style) -> Result<Vec<Styled>, MarkupError> {
    let mut styles = vec![usual.clone()];
    let mut read = Vec::new();
    let mut rest = text;
    while let Some(character) = rest.chars().next() {
        let style = styles.last().unwrap_or(usual).clone();
        let brace = match rest.as_bytes() {
            [b'{', brace @ (b'{' | b'}'), ..] => Some(char::from(*brace)),
            [b'}', b'}', ..] if styles.len() == 1 => Some('}'),
            _ => None,
        };
        if let Some(brace) = brace {
            read.push((brace, style));
            rest = &rest[2..];
        } else if !['{', '}'].contains(&character) {
            read.push((character, style));
            rest = &rest[character.len_utf8()..];
        } else if character == '}' {
            if styles.len() == 1 {
                return Err(MarkupError::Stray);
            }
            styles.pop();
            rest = &rest[1..];
        } else {
            let no_name = || MarkupError::NoName { found: rest.chars().take(12).collect() };
            let (name, behind) = rest[1..].split_once(':').ok_or_else(no_name)?;
            if name.contains(['{', '}']) {
                return Err(no_name());
            }
            styles.push(styled(name, &style)?);
            rest = behind;
        }
    }
    if styles.len() > 1 { Err(MarkupError::Open) } else { Ok(read) }
}

/// A style with what a name changes of it.
fn styled(name: &str, style: &Style) -> Result<Style, MarkupError> {
    if let Some(colour) = colour(name) {
        return Ok(Style { colour, ..style.clone() });
    }
    let font = own::called(name).ok_or_else(|| MarkupError::Unknown { found: name.to_owned() })?;
    Ok(Style { font: Arc::new(font), ..style.clone() })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::dots::inked::WHITE;

    fn usual() -> Style {
        Style { font: Arc::new(own::called("board").unwrap()), colour: WHITE }
    }

    /// Characters in a row that look alike: their colour, their font, and they.
    fn parts(text: &str) -> Result<Vec<(Colour, String, String)>, MarkupError> {
        let mut parts: Vec<(Colour, String, String)> = Vec::new();
        for (character, Style { font, colour }) in read(text, &usual())? {
            match parts.last_mut() {
                Some((known, name, words)) if *known == colour && *name == font.name => words.push(character),
                _ => parts.push((colour, font.name.clone(), character.to_string())),
            }
        }
        Ok(parts)
    }

    #[test]
    fn colours_and_fonts_stand_within_one_another() {
        let found = parts("{amber:TEAL} 07:58 {small:BERTH {#0a0B0c:2}}").unwrap();
        let part = |colour, font: &str, words: &str| (colour, font.to_owned(), words.to_owned());
        let expected = [
            part([255, 160, 0], "board", "TEAL"),
            part(WHITE, "board", " 07:58 "),
            part(WHITE, "small", "BERTH "),
            part([10, 11, 12], "small", "2"),
        ];
        assert_eq!(found, expected);
        assert_eq!(parts("a {{b}} {red:}c").unwrap(), [part(WHITE, "board", "a {b} c")]);
        assert_eq!(parts("{red:{{b{}}").unwrap(), [part([255, 0, 0], "board", "{b}")]);
    }

    #[test]
    fn what_braces_do_not_say_is_told() {
        assert_eq!(parts("{berth:2}"), Err(MarkupError::Unknown { found: "berth".into() }));
        assert_eq!(parts("{#ff80:2}"), Err(MarkupError::Unknown { found: "#ff80".into() }));
        assert_eq!(parts("{TEAL}"), Err(MarkupError::NoName { found: "{TEAL}".into() }));
        assert_eq!(parts("{TEAL} {red:2}"), Err(MarkupError::NoName { found: "{TEAL} {red:".into() }));
        assert_eq!(parts("TEAL}"), Err(MarkupError::Stray));
        assert_eq!(parts("{red:TEAL"), Err(MarkupError::Open));
    }
}
