//! Rows of a table, each with a small drawing of a digit before its middle line.

use spare_tile_core::glyph::{Segments, Style};

use super::lines;

/// The columns that come before the text of a row.
pub fn indent(style: Style) -> usize {
    3 + lines::small(Segments::NONE, style)[0].chars().count() + 3
}

/// A row: the drawing, and the lines of text beside it, the first on its middle line.
pub fn row(lit: Segments, style: Style, texts: &[String]) -> String {
    let drawing = lines::small(lit, style);
    let middle = drawing.len() / 2;
    let blank = " ".repeat(indent(style) - 6);
    let line = |place: usize| {
        let line = drawing.get(place).unwrap_or(&blank);
        let text = place.checked_sub(middle).and_then(|text| texts.get(text)).map_or("", String::as_str);
        format!("   {line}   {text}").trim_end().to_owned()
    };
    (0..drawing.len().max(middle + texts.len())).map(line).collect::<Vec<_>>().join("\n")
}

/// The bits of a pattern of this width, most significant first.
pub fn bits(bits: u32, width: usize) -> impl Iterator<Item = u32> {
    (0..width).rev().map(move |place| bits >> place & 1)
}

/// Each bit under the last letter of its segment's name.
pub fn bits_under(names: &[&str], pattern: u32) -> String {
    let columns = names.iter().zip(bits(pattern, names.len()));
    let columns = columns.map(|(name, bit)| format!("{bit:>width$}", width = name.len()));
    columns.collect::<Vec<_>>().join(" ")
}
