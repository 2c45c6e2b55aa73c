//! Digits drawn with characters: where there is no colour, and beside the bytes in a table.

use spare_tile_core::board::picture::Picture;
use spare_tile_core::face::{Channels, ExtraKind, Grid};
use spare_tile_core::glyph::{Segments, Style};

use super::easel::{self, Dark};

/// The characters that strokes are drawn with.
#[derive(Clone, Copy)]
pub struct Pens {
    bar: char,
    upright: char,
    falling: char,
    rising: char,
    point: char,
    /// A lamp without light.
    dark: char,
    /// A dot without light.
    dark_dot: char,
}

/// Heavy box-drawing lines.
pub const UNICODE: Pens = Pens {
    bar: '\u{2501}',
    upright: '\u{2503}',
    falling: '\u{2572}',
    rising: '\u{2571}',
    point: '\u{25cf}',
    dark: '\u{25cb}',
    dark_dot: '\u{b7}',
};
/// Plain ASCII.
pub const ASCII: Pens =
    Pens { bar: '-', upright: '|', falling: '\\', rising: '/', point: 'o', dark: '.', dark_dot: '.' };

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
    /// Those for a terminal.
    pub fn for_terminal(pens: easel::Pens) -> Self {
        let strokes = if pens.ascii { ASCII } else { UNICODE };
        match pens.dark {
            Dark::Faint => strokes,
            Dark::Hidden => Self { dark: ' ', dark_dot: ' ', ..strokes },
        }
    }

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

/// Draws the face in as many rows of digits as the columns ask for, or its dots.
pub fn draw(picture: &Picture<'_>, pens: Pens, columns: usize) -> String {
    if let Some(grid) = picture.face.dots() {
        return draw_dots(picture, grid, pens, columns);
    }
    const DIGIT_COLUMNS: usize = 8;
    let in_row = (columns / DIGIT_COLUMNS).max(1);
    let firsts = (0..picture.face.digits()).step_by(in_row);
    let rows = firsts.map(|first| draw_row(picture, first, in_row, pens)).collect::<Vec<_>>().join("\n\n");
    let extras = picture.face.extras.iter().enumerate();
    let lamps = extras.filter(|(_, extra)| extra.kind == ExtraKind::Lamp).map(|(place, extra)| {
        let lamp = if picture.extra(place) > 0.0 { pens.point } else { pens.dark };
        format!("{lamp} {}", extra.name)
    });
    match lamps.collect::<Vec<_>>().join("  ") {
        none if none.is_empty() => rows,
        lamps => format!("{rows}\n{lamps}"),
    }
}

/// A row of the face a line. Of dots with several lights a letter tells the colour, as in sprite files.
fn draw_dots(picture: &Picture<'_>, grid: Grid, pens: Pens, columns: usize) -> String {
    let lit = |x, y| if grid.channels == Channels::One { pens.point } else { picture.letter(x, y) };
    let dot = |x, y| if picture.dot(x, y) > 0.0 { lit(x, y) } else { pens.dark_dot }.to_string();
    // A blank between two makes them as far apart as they are high, where there is room.
    let between = if 2 * grid.width > columns + 1 { "" } else { " " };
    let row = |y| (0..grid.width).map(|x| dot(x, y)).collect::<Vec<_>>().join(between);
    (0..grid.height).map(row).collect::<Vec<_>>().join("\n")
}

/// The digits from `first` on, at most `count`, with the colons between them.
fn draw_row(picture: &Picture<'_>, first: usize, count: usize, pens: Pens) -> String {
    let digits = first..picture.face.digits().min(first + count);
    let drawn: Vec<_> = digits
        .map(|digit| {
            let lines = draw_digit(picture.lit(digit), picture.face.style(), pens);
            (lines, picture.has_colon(digit + 1))
        })
        .collect();
    let line = |line: usize| {
        let digits = drawn.iter().map(|(digit, colon)| {
            let gap =
                if *colon && [1, 3].contains(&line) { format!("{} ", pens.point) } else { "  ".to_owned() };
            format!("{}{gap}", digit[line])
        });
        digits.collect::<String>().trim_end().to_owned()
    };
    (0..5).map(line).collect::<Vec<_>>().join("\n")
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
