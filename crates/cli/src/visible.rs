//! Text from outside, made safe to print: what a terminal would obey is shown as a picture of itself.

use std::borrow::Cow;
use std::fmt;
use std::io::{self, Write};

/// Returns true if a terminal obeys a character, or turns the text around with it, instead of showing it.
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

/// An output that may be a terminal. Of control characters only line ends, tabs and the sequences for colours and bold
/// (`ESC [ ... m`) pass; every other is shown as a picture of itself. So a name in a file cannot move the cursor, set the
/// title of the window or hide what was written before.
pub struct Guarded<W: Write> {
    out: W,
    /// The beginning of a character or sequence whose rest is still to come.
    begun: Vec<u8>,
}

impl<W: Write> Guarded<W> {
    /// Guards an output.
    pub const fn new(out: W) -> Self {
        Self { out, begun: Vec::new() }
    }

    /// The output itself, for sequences that the program sends on purpose.
    pub const fn unguarded(&mut self) -> &mut W {
        &mut self.out
    }

    /// Writes formatted text, for `write!` without the trait in scope.
    pub fn write_fmt(&mut self, text: fmt::Arguments<'_>) -> io::Result<()> {
        Write::write_fmt(self, text)
    }

    /// Flushes the output.
    pub fn flush(&mut self) -> io::Result<()> {
        Write::flush(self)
    }

    /// Writes a text; returns what it ends with if that is the beginning of a sequence.
    fn pass<'t>(&mut self, text: &'t str) -> io::Result<&'t str> {
        let mut rest = text;
        while let Some(at) = rest.find(|c: char| is_obeyed(c) && !matches!(c, '\n' | '\t')) {
            let (plain, obeyed) = rest.split_at(at);
            self.out.write_all(plain.as_bytes())?;
            let length = match style_at(obeyed) {
                Style::Begun => return Ok(obeyed),
                Style::Whole(length) => {
                    self.out.write_all(&obeyed.as_bytes()[..length])?;
                    length
                }
                Style::Other => {
                    let length = obeyed.chars().next().map_or(0, char::len_utf8);
                    self.out.write_all(visible(&obeyed[..length]).as_bytes())?;
                    length
                }
            };
            rest = &obeyed[length..];
        }
        self.out.write_all(rest.as_bytes())?;
        Ok("")
    }
}

/// The beginning of a text.
enum Style {
    /// A sequence for colours or bold, with its length in bytes.
    Whole(usize),
    /// An incomplete sequence.
    Begun,
    Other,
}

/// The sequence for colours or bold that a text begins with.
fn style_at(text: &str) -> Style {
    /// No sequence for colours is longer.
    const MOST: usize = 40;
    let is_parameter = |c: char| c.is_ascii_digit() || c == ';';
    let Some(parameters) = text.strip_prefix("\u{1b}[") else {
        return if text == "\u{1b}" { Style::Begun } else { Style::Other };
    };
    match parameters.find(|c| !is_parameter(c)) {
        None if text.len() < MOST => Style::Begun,
        Some(end) if parameters[end..].starts_with('m') => Style::Whole(end + 3),
        _ => Style::Other,
    }
}

impl<W: Write> Write for Guarded<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        // Nearly every piece is whole: then nothing is copied.
        let all = if self.begun.is_empty() {
            Cow::Borrowed(bytes)
        } else {
            Cow::Owned([std::mem::take(&mut self.begun).as_slice(), bytes].concat())
        };
        let mut chunks = all.utf8_chunks().peekable();
        while let Some(chunk) = chunks.next() {
            let (is_last, invalid) = (chunks.peek().is_none(), chunk.invalid());
            let begun = self.pass(chunk.valid())?;
            let is_incomplete = str::from_utf8(invalid).is_err_and(|error| error.error_len().is_none());
            if is_last && (invalid.is_empty() || is_incomplete) {
                self.begun = [begun.as_bytes(), invalid].concat();
            } else {
                self.out.write_all(visible(begun).as_bytes())?;
                self.out.write_all(if invalid.is_empty() { "" } else { "\u{fffd}" }.as_bytes())?;
            }
        }
        Ok(bytes.len())
    }

    /// An incomplete sequence is shown as it is.
    fn flush(&mut self) -> io::Result<()> {
        let begun = std::mem::take(&mut self.begun);
        self.out.write_all(visible(&String::from_utf8_lossy(&begun)).as_bytes())?;
        self.out.flush()
    }
}

impl<W: Write> Drop for Guarded<W> {
    fn drop(&mut self) {
        let _ = self.flush();
    }
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

    /// The output of the guard for a text that is written in pieces of this length.
    fn guarded(text: &[u8], piece: usize) -> String {
        let mut kept = Vec::new();
        let mut out = Guarded::new(&mut kept);
        text.chunks(piece).for_each(|piece| out.write_all(piece).unwrap());
        drop(out);
        String::from_utf8(kept).unwrap()
    }

    #[test]
    fn the_guard_passes_colours_and_shows_everything_else() {
        for piece in 1..12 {
            for (text, shown) in [
                ("plain \u{e4}\u{1f6a2}\n\tx", "plain \u{e4}\u{1f6a2}\n\tx"),
                ("\u{1b}[1mbold\u{1b}[0m", "\u{1b}[1mbold\u{1b}[0m"),
                ("\u{1b}[38;2;1;2;3mred", "\u{1b}[38;2;1;2;3mred"),
                ("\u{1b}]0;title\u{7}", "\u{241b}]0;title\u{2407}"),
                ("a\u{1b}[2Jb\r\u{9b}", "a\u{241b}[2Jb\u{240d}\u{fffd}"),
                ("ends with \u{1b}[3", "ends with \u{241b}[3"),
            ] {
                assert_eq!(guarded(text.as_bytes(), piece), shown, "{piece}");
            }
            assert_eq!(guarded(b"a\xffb\xe4", piece), "a\u{fffd}b\u{fffd}", "{piece}");
        }
    }

    #[test]
    fn what_a_terminal_would_obey_is_shown() {
        assert_eq!(visible("plain \u{e4} \u{1f6a2}"), "plain \u{e4} \u{1f6a2}");
        assert_eq!(visible("\u{1b}[2J\r\n\u{7f}"), "\u{241b}[2J\u{240d}\u{240a}\u{2421}");
        assert_eq!(visible("\u{9b}31m\u{202e}abc"), "\u{fffd}31m\u{fffd}abc");
        assert_eq!(visible_lines("a\tb\r\nc"), "a\tb\u{240d}\nc");
    }
}
