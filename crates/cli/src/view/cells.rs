//! A face drawn for the cells of a terminal, two pixels to a cell: every edge of a segment is the edge of a pixel, so that nothing is
//! half lit.

use std::ops::Range;

use spare_tile_core::board::picture::Picture;
use spare_tile_core::face::{Channels, ExtraKind, Face, Grid};
use spare_tile_core::glyph::Style;

use super::colour::{self, LENS, Rgb};
use super::easel::Dark;

/// Pixels of a face, row by row; an even number of rows.
pub struct Drawing {
    /// Pixels in a row.
    pub columns: usize,
    /// All of them.
    pub pixels: Vec<Rgb>,
}

/// The height of the smallest digits that can be read, in pixels.
pub const SMALLEST: usize = 7;
/// The heights of digits, up to the largest that is of use.
const HEIGHTS: Range<usize> = SMALLEST..48;
/// From this height on, the dark segments of fourteen and sixteen are drawn: on smaller digits they hide the lit ones.
const DARK_DIAGONALS: usize = 26;
/// Dots of at least this size have a dark line between them.
const PARTED: usize = 3;

/// The heights of digits, the largest first: those whose halves are alike.
pub fn heights() -> impl Iterator<Item = usize> {
    HEIGHTS.rev().filter(|height| (height - 3 * thickness(*height)).is_multiple_of(2))
}

const fn thickness(height: usize) -> usize {
    let thick = (height + 2) / 7;
    if thick == 0 { 1 } else { thick }
}

/// The measures of digits of one height, in pixels.
#[derive(Clone, Copy)]
struct Measures {
    height: usize,
    width: usize,
    /// Of a bar.
    thick: usize,
    /// From one digit to the next.
    pitch: usize,
    /// Columns that a colon adds to the space between two digits.
    colon: usize,
    /// The point, from the digit's corner.
    point: (usize, usize),
    margin: (usize, usize),
}

impl Measures {
    fn of(style: Style, height: usize) -> Self {
        let thick = thickness(height);
        let wide = match style {
            Style::Seven => (height * 4).div_ceil(7),
            // As many columns on either side of the centre.
            Style::Fourteen | Style::Sixteen => {
                let width = (height * 5).div_ceil(7);
                width + (width - thick) % 2
            }
        };
        let is_smallest = height == SMALLEST;
        let beside = if style == Style::Seven { 2 } else { 1 };
        Self {
            height,
            width: wide,
            thick,
            pitch: wide + if is_smallest { beside } else { 1 + 2 * thick },
            colon: if is_smallest { 3 - beside } else { 0 },
            // On the smallest digits it would touch the bar beside it, and is below.
            point: if is_smallest { (wide, height) } else { (wide + 1, height - thick) },
            margin: (thick, if is_smallest { 0 } else { thick.div_ceil(2) }),
        }
    }

    /// The rows between two bars.
    const fn gap(&self) -> usize {
        (self.height - 3 * self.thick) / 2
    }

    /// The rows that digits take.
    const fn rows(&self) -> usize {
        let below = if self.point.1 == self.height { self.thick } else { 0 };
        self.height + below + 2 * self.margin.1
    }

    /// The pixels of a segment, from the digit's corner.
    fn strokes(&self, name: &str) -> Vec<Stroke> {
        let (thick, gap, right) = (self.thick, self.gap(), self.width - self.thick);
        let centre = right / 2;
        let (middle, foot) = (thick + gap, self.height - thick);
        let bar =
            |from: usize, to: usize, y: usize| vec![Stroke { x: from, y, width: to - from, height: thick }];
        let upright = |x: usize, y: usize| vec![Stroke { x, y, width: thick, height: gap }];
        let inner = thick..right;
        // From the outer upper corner of a quarter to the centre; of the lower quarters from below.
        let slash = |from_left: bool, from_top: bool| -> Vec<Stroke> {
            let way = centre - inner.start.min(centre);
            let row = |row: usize| {
                let along = (way * row + (gap - 1) / 2) / (gap - 1).max(1);
                let x = if from_left { inner.start + along } else { inner.end - thick - along };
                let y = if from_top { thick + row } else { foot - 1 - row };
                Stroke { x, y, width: thick, height: 1 }
            };
            (0..gap).map(row).collect()
        };
        match name {
            "a" => bar(inner.start, inner.end, 0),
            "a1" => bar(inner.start, centre, 0),
            "a2" => bar(centre + thick, inner.end, 0),
            "d" => bar(inner.start, inner.end, foot),
            "d1" => bar(inner.start, centre, foot),
            "d2" => bar(centre + thick, inner.end, foot),
            "g" => bar(inner.start, inner.end, middle),
            "g1" => bar(inner.start, centre, middle),
            "g2" => bar(centre + thick, inner.end, middle),
            "f" => upright(0, thick),
            "b" => upright(right, thick),
            "e" => upright(0, middle + thick),
            "c" => upright(right, middle + thick),
            "i" => upright(centre, thick),
            "l" => upright(centre, middle + thick),
            "h" => slash(true, true),
            "j" => slash(false, true),
            "k" => slash(true, false),
            "m" => slash(false, false),
            "dp" => vec![Stroke { x: self.point.0, y: self.point.1, width: thick, height: thick }],
            _ => Vec::new(),
        }
    }

    /// Where bars meet, with the names of those that light it.
    fn joints(&self) -> [(Stroke, &'static [&'static str]); 9] {
        let (thick, right) = (self.thick, self.width - self.thick);
        let (middle, foot, centre) = (thick + self.gap(), self.height - thick, right / 2);
        let at = |x: usize, y: usize| Stroke { x, y, width: thick, height: thick };
        [
            (at(0, 0), &["a", "a1", "f"]),
            (at(right, 0), &["a", "a2", "b"]),
            (at(0, middle), &["f", "e", "g", "g1"]),
            (at(right, middle), &["b", "c", "g", "g2"]),
            (at(0, foot), &["d", "d1", "e"]),
            (at(right, foot), &["d", "d2", "c"]),
            (at(centre, middle), &["g1", "g2", "h", "i", "j", "k", "l", "m"]),
            (at(centre, 0), &["a1", "a2"]),
            (at(centre, foot), &["d1", "d2"]),
        ]
    }
}

/// A rectangle of pixels.
#[derive(Clone, Copy)]
struct Stroke {
    x: usize,
    y: usize,
    width: usize,
    height: usize,
}

impl Drawing {
    fn dark(columns: usize, rows: usize) -> Self {
        Self { columns, pixels: vec![LENS; columns * rows.next_multiple_of(2)] }
    }

    fn fill(&mut self, stroke: Stroke, (left, top): (usize, usize), colour: Rgb) {
        for y in (top + stroke.y)..(top + stroke.y + stroke.height) {
            for x in (left + stroke.x)..(left + stroke.x + stroke.width).min(self.columns) {
                if let Some(pixel) = self.pixels.get_mut(y * self.columns + x) {
                    *pixel = colour;
                }
            }
        }
    }
}

/// The columns and rows that some digits of a face take, from `first` on, at most `count`.
pub fn size_of_digits(face: &Face, height: usize, first: usize, count: usize) -> (usize, usize) {
    let layout = Layout::of(face, height, first, count);
    (layout.columns, layout.rows)
}

/// The number of digits of a face that fit in a row of this width; at least one.
pub fn digits_in_row(face: &Face, height: usize, columns: usize) -> usize {
    let fits = |count: &usize| size_of_digits(face, height, 0, *count).0 <= columns;
    (1..=face.digits()).rev().find(fits).unwrap_or(1)
}

/// The character of a cell with two pixels, in the colour of the lower one on that of the upper one. Where they are alike it is blank:
/// in many fonts a block leaves a line of the background free.
pub fn halves<T: PartialEq>(upper: T, lower: T) -> &'static str {
    if upper == lower { " " } else { "\u{2584}" }
}

/// Where digits, colons and lamps of a row are.
struct Layout {
    measures: Measures,
    digits: Range<usize>,
    /// The left edge of each digit.
    lefts: Vec<usize>,
    columns: usize,
    rows: usize,
    /// The row of the lamps, if there are any here.
    lamps: Option<usize>,
}

impl Layout {
    fn of(face: &Face, height: usize, first: usize, count: usize) -> Self {
        let measures = Measures::of(face.style(), height);
        let digits = first..face.digits().min(first + count);
        let has_colon = |after: usize| {
            face.extras
                .iter()
                .any(|extra| matches!(extra.kind, ExtraKind::Colon { after: place } if place == after))
        };
        let mut left = measures.margin.0;
        let mut lefts = Vec::new();
        for digit in digits.clone() {
            if digit > first && has_colon(digit) {
                left += measures.colon;
            }
            lefts.push(left);
            left += measures.pitch;
        }
        let is_last = digits.end == face.digits();
        let has_lamps = is_last && face.extras.iter().any(|extra| extra.kind == ExtraKind::Lamp);
        let lamps = has_lamps.then(|| measures.rows() + 1);
        let rows = lamps.map_or(measures.rows(), |row| row + measures.thick + measures.margin.1);
        // The point of the last digit needs its room.
        Self { measures, digits, lefts, columns: left + measures.margin.0, rows, lamps }
    }
}

/// Draws digits of a face, from `first` on, at most `count`, with their colons. The lamps are below the last digits.
pub fn digits(picture: &Picture<'_>, height: usize, (first, count): (usize, usize), dark: Dark) -> Drawing {
    let face = picture.face;
    let (style, of_face) = (face.style(), face.light.colour);
    let layout = Layout::of(face, height, first, count);
    let measures = layout.measures;
    let mut drawing = Drawing::dark(layout.columns, layout.rows);
    let strokes: Vec<_> = style.segment_names().iter().map(|name| measures.strokes(name)).collect();
    let joints = measures.joints().map(|(joint, names)| {
        let segments = names.iter().filter_map(|name| style.segment_index(name));
        (joint, segments.collect::<Vec<_>>())
    });
    let shows_dark = dark == Dark::Faint && (style == Style::Seven || height >= DARK_DIAGONALS);
    for (digit, left) in layout.digits.clone().zip(&layout.lefts) {
        let at = (*left, measures.margin.1);
        let light = |segment: usize| picture.segment(digit, segment);
        // Lit ones last: they cover what they share with dark ones.
        for is_lit in [false, true] {
            for (segment, strokes) in strokes.iter().enumerate() {
                let is_seen = is_lit || shows_dark && (segment != style.point_index() || face.points);
                if is_seen && (light(segment) > 0.0) == is_lit {
                    let colour = colour::shade(of_face, light(segment));
                    strokes.iter().for_each(|stroke| drawing.fill(*stroke, at, colour));
                }
            }
        }
        for (joint, segments) in &joints {
            let light = segments.iter().map(|segment| light(*segment)).fold(0.0, f32::max);
            if light > 0.0 {
                drawing.fill(*joint, at, colour::shade(of_face, light));
            }
        }
    }
    extras(picture, &layout, dark, &mut drawing);
    drawing
}

/// Draws colons and lamps.
fn extras(picture: &Picture<'_>, layout: &Layout, dark: Dark, drawing: &mut Drawing) {
    let (face, measures) = (picture.face, layout.measures);
    let lamps = face.extras.iter().filter(|extra| extra.kind == ExtraKind::Lamp).count();
    let room = layout.columns - 2 * measures.margin.0;
    let lamp_pitch = measures.pitch.min(room / lamps.max(1));
    let mut lamp = 0;
    for (place, extra) in face.extras.iter().enumerate() {
        let light = picture.extra(place);
        let colour = if dark.shows(light) { colour::shade(face.light.colour, light) } else { LENS };
        let thick = measures.thick;
        match (extra.kind, layout.lamps) {
            (ExtraKind::Colon { after }, _)
                if (layout.digits.start + 1..=layout.digits.end).contains(&after) =>
            {
                let before = layout.lefts[after - 1 - layout.digits.start] + measures.width;
                let next = layout.lefts.get(after - layout.digits.start);
                let space = next.map_or(measures.pitch - measures.width, |next| next - before);
                let x = before + (space - thick).div_ceil(2).min(space - thick);
                let upper = measures.height / 3 - thick / 2;
                for y in [upper, measures.height - thick - upper] {
                    let dot = Stroke { x, y, width: thick, height: thick };
                    drawing.fill(dot, (0, measures.margin.1), colour);
                }
            }
            (ExtraKind::Lamp, Some(row)) => {
                let width = thick.max(2);
                let x = measures.margin.0
                    + lamp * lamp_pitch
                    + measures.width.min(lamp_pitch).saturating_sub(width) / 2;
                drawing.fill(Stroke { x, y: row, width, height: thick }, (0, 0), colour);
                lamp += 1;
            }
            _ => {}
        }
    }
}

/// The columns and rows that dots take, each of so many pixels.
pub const fn size_of_dots(grid: Grid, each: usize) -> (usize, usize) {
    (each * grid.width + 2, each * grid.height + 2)
}

/// Draws the dots of a face, each of so many pixels.
pub fn dots(picture: &Picture<'_>, grid: Grid, each: usize, dark: Dark) -> Drawing {
    let (columns, rows) = size_of_dots(grid, each);
    let mut drawing = Drawing::dark(columns, rows);
    let side = if each >= PARTED { each - 1 } else { each };
    for y in 0..grid.height {
        for x in 0..grid.width {
            let (colour, light) = match grid.channels {
                Channels::One => {
                    let light = picture.dot(x, y);
                    (colour::shade(picture.face.light.colour, light), light)
                }
                _ => {
                    let levels = picture.colour_of_dot(x, y);
                    (colour::mixed(levels), levels.into_iter().map(f32::from).sum())
                }
            };
            if dark.shows(light) {
                let dot = Stroke { x: each * x, y: each * y, width: side, height: side };
                drawing.fill(dot, (1, 1), colour);
            }
        }
    }
    drawing
}

#[cfg(test)]
mod tests {
    use spare_tile_core::plan::Rig;

    use super::*;

    /// A face of digits, drawn with one segment lit after another: each lights pixels of its own, and none outside.
    #[test]
    fn every_segment_can_be_told_from_the_others() {
        for kind in ["seven-segment", "fourteen-segment", "sixteen-segment"] {
            let rig = Rig::read(&format!(
                "[face.desk]\nkind = \"{kind}\"\ndigits = 2\n[face.desk.drive]\nmethod = \"max7219\"\n\
                 pins = {{ data = 11, clock = 13, select = 10 }}\n"
            ));
            let rig = rig.rig.unwrap();
            let face = &rig.faces[0].face;
            for height in heights() {
                let (columns, rows) = size_of_digits(face, height, 0, 2);
                let mut seen = Vec::new();
                for segment in 0..face.style().segment_count() {
                    let mut light = vec![0.0; face.element_count()];
                    light[face.element(1, segment).0] = 1.0;
                    let drawing = digits(&Picture { face, light }, height, (0, 2), Dark::Faint);
                    assert_eq!(drawing.columns, columns);
                    assert_eq!(drawing.pixels.len(), columns * rows.next_multiple_of(2));
                    let full = colour::lit(face.light.colour);
                    let lit: Vec<_> =
                        (0..drawing.pixels.len()).filter(|at| drawing.pixels[*at] == full).collect();
                    assert!(!lit.is_empty() && !seen.contains(&lit), "{kind} {height} {segment}");
                    seen.push(lit);
                }
            }
        }
    }

    #[test]
    fn digits_grow_evenly() {
        let heights: Vec<_> = heights().collect();
        assert_eq!((heights.first(), heights.last()), (Some(&47), Some(&SMALLEST)));
        assert!(heights.windows(2).all(|pair| pair[0] > pair[1] && pair[0] - pair[1] <= 3), "{heights:?}");
    }
}
