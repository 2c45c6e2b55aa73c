//! Digits drawn with characters: where there is no colour, and beside the bytes in a table.

use spare_tile_core::glyph::{Segments, Style};
use spare_tile_core::picture::Picture;

/// The characters of a drawing five lines high.
#[derive(Clone, Copy)]
pub struct Pens {
    bar: char,
    upright: char,
    point: char,
}

/// Heavy box-drawing lines.
pub const UNICODE: Pens = Pens { bar: '\u{2501}', upright: '\u{2503}', point: '\u{25cf}' };
/// Plain ASCII.
pub const ASCII: Pens = Pens { bar: '-', upright: '|', point: 'o' };

/// Each line of a digit: a character for each column, the name of the segment that it belongs to, or a
/// blank. Bars are drawn with the bar's pen, uprights with theirs.
const SEVEN: [[&str; 6]; 5] = [
    [" ", "a", "a", "a", " ", " "],
    ["f", " ", " ", " ", "b", " "],
    [" ", "g", "g", "g", " ", " "],
    ["e", " ", " ", " ", "c", " "],
    [" ", "d", "d", "d", " ", "dp"],
];

/// Draws the face in as many rows of digits as the columns ask for.
pub fn draw(picture: &Picture<'_>, pens: Pens, columns: usize) -> String {
    const DIGIT_COLUMNS: usize = 8;
    let in_row = (columns / DIGIT_COLUMNS).max(1);
    let digits: Vec<_> = (0..picture.face.digits).map(|digit| picture.lit(digit)).collect();
    let rows = digits.chunks(in_row).map(|row| draw_row(row, picture.face.style, pens));
    rows.collect::<Vec<_>>().join("\n\n")
}

fn draw_row(digits: &[Segments], style: Style, pens: Pens) -> String {
    let lines = SEVEN.iter().map(|line| {
        let digits = digits.iter().map(|digit| draw_line(line, *digit, style, pens));
        digits.collect::<Vec<_>>().join("  ").trim_end().to_owned()
    });
    lines.collect::<Vec<_>>().join("\n")
}

fn draw_line(line: &[&str; 6], lit: Segments, style: Style, pens: Pens) -> String {
    let draw = |name: &&str| match style.segment_index(name) {
        Some(index) if lit.has_index(index) => match *name {
            "a" | "g" | "d" => pens.bar,
            "dp" => pens.point,
            _ => pens.upright,
        },
        _ => ' ',
    };
    line.iter().map(draw).collect()
}

/// A drawing three lines high and four columns wide, in ASCII.
pub fn small(lit: Segments) -> [String; 3] {
    const SMALL: [[(&str, char); 4]; 3] = [
        [(" ", ' '), ("a", '_'), (" ", ' '), (" ", ' ')],
        [("f", '|'), ("g", '_'), ("b", '|'), (" ", ' ')],
        [("e", '|'), ("d", '_'), ("c", '|'), ("dp", '.')],
    ];
    let is_lit = |name: &str| Style::Seven.segment_index(name).is_some_and(|index| lit.has_index(index));
    SMALL.map(|line| line.iter().map(|(name, pen)| if is_lit(name) { *pen } else { ' ' }).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use spare_tile_core::glyph::seven;

    #[test]
    fn the_small_drawing_shows_every_segment_in_its_place() {
        assert_eq!(small(Segments(0xFF)), [" _  ", "|_| ", "|_|."]);
        assert_eq!(small(seven::glyph('5').unwrap()), [" _  ", "|_  ", " _| "]);
    }
}
