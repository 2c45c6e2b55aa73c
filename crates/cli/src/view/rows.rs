//! Rows of a table, each with a small drawing of a digit before its middle line.

use spare_tile_core::glyph::{Segments, Style};

use super::lines;

/// The columns that come before the text of a row.
pub fn indent(style: Style) -> usize {
    3 + lines::small(Segments::NONE, style)[0].chars().count() + 3
}

/// A row: the drawing, and the text on its middle line.
pub fn row(lit: Segments, style: Style, text: &str) -> String {
    let drawing = lines::small(lit, style);
    let middle = drawing.len() / 2;
    let line = |(place, line): (usize, &String)| {
        let text = if place == middle { text } else { "" };
        format!("   {line}   {text}").trim_end().to_owned()
    };
    drawing.iter().enumerate().map(line).collect::<Vec<_>>().join("\n")
}

/// Each bit under the last letter of its segment's name.
pub fn bits_under(names: &[&str], bits: u32) -> String {
    let bit = |place: usize| bits >> (names.len() - 1 - place) & 1;
    let columns = names.iter().enumerate().map(|(place, name)| format!("{:>1$}", bit(place), name.len()));
    columns.collect::<Vec<_>>().join(" ")
}
