//! Text from outside, made safe to print: what a terminal would obey is shown as a picture of itself.

use std::borrow::Cow;
use std::io::{self, Write};

/// Whether a terminal obeys a character, or turns the text around with it, instead of showing it.
fn is_obeyed(character: char) -> bool {
    character.is_control() || turns_text(character)
}

/// The marks that change the direction of text (Unicode, bidirectional formatting characters).
const fn turns_text(character: char) -> bool {
    matches!(
        character,
        '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' | '\u{61c}'
    )
}

/// The picture of a character that a terminal obeys.
fn picture(character: char) -> char {
    match u32::from(character) {
        code @ 0..0x20 => char::from_u32(0x2400 + code).unwrap_or(char::REPLACEMENT_CHARACTER),
        0x7F => '\u{2421}',
        _ => char::REPLACEMENT_CHARACTER,
    }
}

/// A text with nothing in it that a terminal obeys, line ends included.
pub fn visible(text: &str) -> Cow<'_, str> {
    visible_but(text, &[])
}

/// The same, with line ends and tabs left as they are.
pub fn visible_lines(text: &str) -> Cow<'_, str> {
    visible_but(text, &['\n', '\t'])
}

fn visible_but<'t>(text: &'t str, kept: &[char]) -> Cow<'t, str> {
    let is_bad = |character: &char| is_obeyed(*character) && !kept.contains(character);
    if !text.chars().any(|character| is_bad(&character)) {
        return text.into();
    }
    text.chars().map(|character| if is_bad(&character) { picture(character) } else { character }).collect()
}

/// JSON on its way to a terminal. What it would obey is escaped, as JSON allows for every character of a string.
pub struct EscapedJson<W>(pub W);

impl<W: Write> Write for EscapedJson<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        // JSON has a character in one piece.
        let text = str::from_utf8(bytes).map_err(io::Error::other)?;
        let mut plain_from = 0;
        for (at, character) in text.char_indices() {
            // Line ends between the values stay; in strings they are escaped already.
            if is_obeyed(character) && character != '\n' {
                self.0.write_all(&bytes[plain_from..at])?;
                write!(self.0, "\\u{:04x}", u32::from(character))?;
                plain_from = at + character.len_utf8();
            }
        }
        self.0.write_all(&bytes[plain_from..])?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn json_says_the_same_without_what_a_terminal_would_obey() {
        let text = "a\u{7f}\u{9b}31m\u{202e}\u{85}\n\u{1b}\u{e4}\u{1f6a2}";
        let mut json = Vec::new();
        serde_json::to_writer_pretty(EscapedJson(&mut json), &[text]).unwrap();
        let json = String::from_utf8(json).unwrap();
        assert!(json.contains("a\\u007f\\u009b31m\\u202e\\u0085\\n\\u001b\u{e4}\u{1f6a2}"), "{json}");
        assert_eq!(serde_json::from_str::<Vec<String>>(&json).unwrap(), [text]);
    }

    #[test]
    fn what_a_terminal_would_obey_is_shown() {
        assert_eq!(visible("plain \u{e4} \u{1f6a2}"), "plain \u{e4} \u{1f6a2}");
        assert_eq!(visible("\u{1b}[2J\r\n\u{7f}"), "\u{241b}[2J\u{240d}\u{240a}\u{2421}");
        assert_eq!(visible("\u{9b}31m\u{202e}abc"), "\u{fffd}31m\u{fffd}abc");
        assert_eq!(visible_lines("a\tb\r\nc"), "a\tb\u{240d}\nc");
    }
}
