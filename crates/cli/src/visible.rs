//! Text from outside, made safe to print: what a terminal would obey is shown as a picture of itself.

use std::borrow::Cow;

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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_terminal_would_obey_is_shown() {
        assert_eq!(visible("plain \u{e4} \u{1f6a2}"), "plain \u{e4} \u{1f6a2}");
        assert_eq!(visible("\u{1b}[2J\r\n\u{7f}"), "\u{241b}[2J\u{240d}\u{240a}\u{2421}");
        assert_eq!(visible("\u{9b}31m\u{202e}abc"), "\u{fffd}31m\u{fffd}abc");
        assert_eq!(visible_lines("a\tb\r\nc"), "a\tb\u{240d}\nc");
    }
}
