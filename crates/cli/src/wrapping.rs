//! Texts in a number of columns.

use textwrap::{Options, wrap};

/// A space at which a line is not broken.
const NO_BREAK: char = '\u{a0}';

/// Wraps a text to a number of columns, further lines indented.
pub fn hung(text: &str, columns: usize, indent: usize) -> String {
    let margin = " ".repeat(indent);
    let lines = wrap(text, Options::new(columns).subsequent_indent(&margin).break_words(false));
    lines.join("\n").replace(NO_BREAK, " ")
}

/// Words that belong on one line when they are [`hung`].
pub fn together(words: &str) -> String {
    words.replace(' ', &NO_BREAK.to_string())
}
