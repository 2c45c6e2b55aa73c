//! Digits drawn with characters: where there is no colour, and beside the bytes in a table.

use spare_tile_core::glyph::{Segments, Style};
use spare_tile_core::picture::Picture;

/// The characters that strokes are drawn with.
#[derive(Clone, Copy)]
pub struct Pens {
    bar: char,
    upright: char,
    falling: char,
    rising: char,
    point: char,
}

/// Heavy box-drawing lines.
pub const UNICODE: Pens =
    Pens { bar: '\u{2501}', upright: '\u{2503}', falling: '\u{2572}', rising: '\u{2571}', point: '\u{25cf}' };
/// Plain ASCII.
pub const ASCII: Pens = Pens { bar: '-', upright: '|', falling: '\\', rising: '/', point: 'o' };

/// How a digit is drawn in five lines: in each column the segment it belongs to, or none.
type Layout = [[&'static str; 6]; 5];

const SEVEN: Layout = [
    ["", "a", "a", "a", "", ""],
    ["f", "", "", "", "b", ""],
    ["", "g", "g", "g", "", ""],
    ["e", "", "", "", "c", ""],
    ["", "d", "d", "d", "", "dp"],
];

const FOURTEEN: Layout = [
    ["", "a", "a", "a", "", ""],
    ["f", "h", "i", "j", "b", ""],
    ["", "g1", "", "g2", "", ""],
    ["e", "k", "l", "m", "c", ""],
    ["", "d", "d", "d", "", "dp"],
];

const SIXTEEN: Layout = [
    ["", "a1", "", "a2", "", ""],
    ["f", "h", "i", "j", "b", ""],
    ["", "g1", "", "g2", "", ""],
    ["e", "k", "l", "m", "c", ""],
    ["", "d1", "", "d2", "", "dp"],
];

impl Pens {
    /// The pen for a segment.
    fn of(self, segment: &str) -> char {
        match segment {
            "b" | "c" | "e" | "f" | "i" | "l" => self.upright,
            "h" | "m" => self.falling,
            "j" | "k" => self.rising,
            "dp" => self.point,
            _ => self.bar,
        }
    }
}

/// Draws the face in as many rows of digits as the columns ask for.
pub fn draw(picture: &Picture<'_>, pens: Pens, columns: usize) -> String {
    const DIGIT_COLUMNS: usize = 8;
    let in_row = (columns / DIGIT_COLUMNS).max(1);
    let digits: Vec<_> = (0..picture.face.digits).map(|digit| picture.lit(digit)).collect();
    let rows = digits.chunks(in_row).map(|row| draw_row(row, picture.face.style, pens));
    rows.collect::<Vec<_>>().join("\n\n")
}

fn draw_row(digits: &[Segments], style: Style, pens: Pens) -> String {
    let drawn: Vec<_> = digits.iter().map(|digit| draw_digit(*digit, style, pens)).collect();
    let lines = (0..5).map(|line| {
        let digits = drawn.iter().map(|digit| digit[line].as_str());
        digits.collect::<Vec<_>>().join("  ").trim_end().to_owned()
    });
    lines.collect::<Vec<_>>().join("\n")
}

fn draw_digit(lit: Segments, style: Style, pens: Pens) -> [String; 5] {
    let layout = match style {
        Style::Seven => SEVEN,
        Style::Fourteen => FOURTEEN,
        Style::Sixteen => SIXTEEN,
    };
    let is_lit = |segment: &str| style.segment_index(segment).is_some_and(|index| lit.has_index(index));
    layout
        .map(|line| line.iter().map(|segment| if is_lit(segment) { pens.of(segment) } else { ' ' }).collect())
}

/// A drawing for a row of a table, all lines of the same width: three lines for seven segments, else five.
pub fn small(lit: Segments, style: Style) -> Vec<String> {
    const SMALL: [[(&str, char); 4]; 3] = [
        [("", ' '), ("a", '_'), ("", ' '), ("", ' ')],
        [("f", '|'), ("g", '_'), ("b", '|'), ("", ' ')],
        [("e", '|'), ("d", '_'), ("c", '|'), ("dp", '.')],
    ];
    if style != Style::Seven {
        return draw_digit(lit, style, ASCII).to_vec();
    }
    let is_lit = |name: &str| style.segment_index(name).is_some_and(|index| lit.has_index(index));
    let line = |line: [(&str, char); 4]| {
        line.iter().map(|(name, pen)| if is_lit(name) { *pen } else { ' ' }).collect()
    };
    SMALL.map(line).to_vec()
}

#[cfg(test)]
mod tests {
    use super::*;
    use spare_tile_core::glyph::glyph;

    #[test]
    fn the_small_drawing_shows_every_segment_in_its_place() {
        let five = glyph(Style::Seven, '5').unwrap().segments;
        assert_eq!(small(Segments(0xFF), Style::Seven), [" _  ", "|_| ", "|_|."]);
        assert_eq!(small(five, Style::Seven), [" _  ", "|_  ", " _| "]);
    }

    #[test]
    fn every_segment_of_every_style_is_drawn() {
        for style in Style::ALL {
            for index in 0..style.segment_count() {
                let drawing = draw_digit(Segments(1 << index), *style, ASCII);
                let strokes = drawing.iter().flat_map(|line| line.chars()).filter(|pen| *pen != ' ').count();
                assert!(strokes > 0, "{style}: {}", style.segment_names()[index]);
            }
        }
    }
}
