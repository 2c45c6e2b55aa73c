//! Where everything of a face is: the outlines of its elements, as on the real part.
//!
//! Lengths are in hundredths of a digit's height; x goes right, y goes down.

use spare_tile_core::board::picture::Picture;
use spare_tile_core::face::{Channels, Colour, ExtraKind, Face, Grid};
use spare_tile_core::glyph::{Segments, Style};

use super::colour::{self, Rgb};

/// A point of the plane.
pub type Point = (f32, f32);

/// The outline of one element.
#[derive(Debug, Clone, PartialEq)]
pub enum Outline {
    /// Corners in order.
    Polygon(Vec<Point>),
    /// A centre and a radius.
    Circle(Point, f32),
}

/// An element in its place, or the elements of a dot, with its light from 0 to 1.
pub struct Shape {
    /// Its edge.
    pub outline: Outline,
    /// From 0 to 1.
    pub light: f32,
    /// Its own colour as it is seen, where it has several lights.
    pub mixed: Option<Rgb>,
}

impl Shape {
    const fn plain(outline: Outline, light: f32) -> Self {
        Self { outline, light, mixed: None }
    }

    /// How it looks on a face of this colour.
    pub fn colour(&self, of_face: Colour) -> Rgb {
        self.mixed.unwrap_or_else(|| colour::shade(of_face, self.light))
    }
}

/// A picture laid out.
pub struct Scene {
    /// From the left edge of the lens to its right.
    pub width: f32,
    /// From the top of the lens to its foot.
    pub height: f32,
    /// All elements; none overlap.
    pub shapes: Vec<Shape>,
}

impl Scene {
    /// Lets dots reach as far as their neighbours, and puts them a whole dot from the edge: where a dot is as large as a pixel or two it
    /// fills those and no others.
    pub fn in_whole_dots(&mut self) {
        const HALF: f32 = DOT_PITCH / 2.0;
        let centres = self.shapes.iter().filter_map(|shape| match shape.outline {
            Outline::Circle(centre, _) => Some(centre),
            Outline::Polygon(_) => None,
        });
        let corner = |a: Point, b: Point| (a.0.min(b.0), a.1.min(b.1));
        let Some(first) = centres.reduce(corner) else { return };
        let (left, top) = (first.0 - HALF - DOT_PITCH, first.1 - HALF - DOT_PITCH);
        let mut last = (0.0_f32, 0.0_f32);
        for shape in &mut self.shapes {
            if let Outline::Circle((x, y), _) = shape.outline {
                let (x, y) = (x - left, y - top);
                last = (last.0.max(x), last.1.max(y));
                let (left, right, top, foot) = (x - HALF, x + HALF, y - HALF, y + HALF);
                shape.outline =
                    Outline::Polygon(vec![(left, top), (right, top), (right, foot), (left, foot)]);
            }
        }
        (self.width, self.height) = (last.0 + HALF + DOT_PITCH, last.1 + HALF + DOT_PITCH);
    }
}

/// The height of a digit.
pub const DIGIT_HEIGHT: f32 = 100.0;
/// Between the digits and the edge of the lens.
pub const MARGIN: f32 = 18.0;

/// Half the gap between two segments.
const GAP: f32 = 1.5;
/// How much is taken off the outer corners.
const BEVEL: f32 = 2.0;
/// How far the top leans to the right, for each unit of height: about 8 degrees.
const SLANT: f32 = 0.14;
/// Between the last upright and the point.
const POINT_GAP: f32 = 4.0;
/// The radius of the point.
const POINT: f32 = 7.5;
/// Between the point of one digit and the next digit.
const SPACE: f32 = 15.0;

/// The measures of a digit, without its slant and point.
struct Measures {
    /// The width.
    width: f32,
    /// The thickness of a bar.
    thick: f32,
}

impl Measures {
    const fn of(style: Style) -> Self {
        match style {
            Style::Seven => Self { width: 56.0, thick: 13.0 },
            Style::Fourteen | Style::Sixteen => Self { width: 66.0, thick: 9.5 },
        }
    }

    /// From one digit's left edge to the next one's.
    const fn pitch(&self) -> f32 {
        self.width + POINT_GAP + 2.0 * POINT + SPACE
    }
}

/// From one digit's left edge to the next one's.
pub const fn pitch(style: Style) -> f32 {
    Measures::of(style).pitch()
}

/// The radius of a colon's dots and of a lamp.
const COLON: f32 = 6.0;
const LAMP: f32 = 7.0;
/// The height that a row of lamps adds.
const LAMP_ROW: f32 = 26.0;

/// Lays a row of digits out, from `first` on, at most `count`, with the colons between them. The lamps stand
/// in a row below the last digits.
pub fn of_digits(picture: &Picture<'_>, first: usize, count: usize) -> Scene {
    let style = picture.face.style();
    let (outlines, measures) = (outlines(style), Measures::of(style));
    let digits = first..picture.face.digits().min(first + count);
    let columns = digits.len();
    let mut shapes = Vec::with_capacity(columns * outlines.len());
    for (column, digit) in digits.enumerate() {
        let shift = (MARGIN + measures.pitch() * column as f32, MARGIN);
        for (segment, outline) in outlines.iter().enumerate() {
            let light = picture.segment(digit, segment);
            // A face without points has none to be seen dark.
            if segment != style.point_index() || picture.face.points || light > 0.0 {
                shapes.push(Shape::plain(outline.placed(shift), light));
            }
        }
    }
    let width = 2.0 * MARGIN + measures.pitch() * columns as f32 - SPACE;
    let mut height = DIGIT_HEIGHT + 2.0 * MARGIN;
    let last = first + columns;
    let mut lamp_x = MARGIN + measures.width / 2.0;
    for (place, extra) in picture.face.extras.iter().enumerate() {
        let light = picture.extra(place);
        match extra.kind {
            ExtraKind::Colon { after } if (first + 1..=last).contains(&after) => {
                let x = measures.pitch() * (after - first) as f32 - (measures.pitch() - measures.width) / 2.0;
                let dot = |y| Outline::Circle((x, y), COLON).placed((MARGIN, MARGIN));
                shapes.extend([33.0, 67.0].map(|y| Shape::plain(dot(y), light)));
            }
            ExtraKind::Lamp if last == picture.face.digits() => {
                height = DIGIT_HEIGHT + 2.0 * MARGIN + LAMP_ROW;
                let outline = Outline::Circle((lamp_x, height - MARGIN - LAMP), LAMP);
                shapes.push(Shape::plain(outline, light));
                lamp_x += lamp_pitch(picture, &measures);
            }
            _ => {}
        }
    }
    Scene { width, height, shapes }
}

/// From one lamp to the next: a lamp a digit, or closer when there are more.
fn lamp_pitch(picture: &Picture<'_>, measures: &Measures) -> f32 {
    let lamps = picture.face.extras.iter().filter(|extra| extra.kind == ExtraKind::Lamp).count();
    let room = measures.pitch() * picture.face.digits() as f32;
    measures.pitch().min(room / lamps.max(1) as f32)
}

/// Lays the whole face out: all digits in one row, or all dots.
pub fn of(picture: &Picture<'_>) -> Scene {
    match picture.face.dots() {
        Some(grid) => of_dots(picture, grid),
        None => of_digits(picture, 0, picture.face.digits()),
    }
}

/// From one dot to the next, and the radius of one.
pub const DOT_PITCH: f32 = 12.5;
const DOT: f32 = 5.0;

/// Lays all dots out.
fn of_dots(picture: &Picture<'_>, grid: Grid) -> Scene {
    let Grid { width, height, .. } = grid;
    let shape = |index: usize| {
        let (x, y) = (index % width, index / width);
        let centre = |place: usize| MARGIN + DOT_PITCH * (place as f32 + 0.5);
        let mixed = (grid.channels != Channels::One).then(|| colour::mixed(picture.colour_of_dot(x, y)));
        Shape { outline: Outline::Circle((centre(x), centre(y)), DOT), light: picture.dot(x, y), mixed }
    };
    let side = |count: usize| 2.0 * MARGIN + DOT_PITCH * count as f32;
    Scene { width: side(width), height: side(height), shapes: (0..width * height).map(shape).collect() }
}

/// The outline of each element of a face that is all dark, and the size of them all together.
pub fn outlines_of(face: &Face) -> Vec<Outline> {
    let dark = Picture { face, light: vec![0.0; face.element_count()] };
    of(&dark).shapes.into_iter().map(|shape| shape.outline).collect()
}

/// From edge to edge of the lens.
pub fn size(face: &Face) -> (f32, f32) {
    let scene = of(&Picture { face, light: vec![0.0; face.element_count()] });
    (scene.width, scene.height)
}

/// A single digit with these segments lit, alone on its lens.
pub fn alone(style: Style, lit: Segments) -> Scene {
    let width = 2.0 * MARGIN + pitch(style) - SPACE;
    let shapes = digit(style, lit, (MARGIN, MARGIN), 1.0).collect();
    Scene { width, height: DIGIT_HEIGHT + 2.0 * MARGIN, shapes }
}

/// A single digit with these segments lit, its upper left corner at a point, at a scale.
pub fn digit(style: Style, lit: Segments, at: Point, scale: f32) -> impl Iterator<Item = Shape> {
    let outlines = outlines(style).into_iter().enumerate();
    outlines.map(move |(segment, outline)| {
        let light = if lit.has_index(segment) { 1.0 } else { 0.0 };
        Shape::plain(outline.placed((0.0, 0.0)).scaled(scale, at), light)
    })
}

impl Outline {
    /// Scaled about the origin, then moved.
    pub fn scaled(&self, scale: f32, shift: Point) -> Self {
        let place = |(x, y): Point| (x * scale + shift.0, y * scale + shift.1);
        match self {
            Self::Polygon(corners) => Self::Polygon(corners.iter().copied().map(place).collect()),
            Self::Circle(centre, radius) => Self::Circle(place(*centre), radius * scale),
        }
    }

    /// Slanted, and moved to its place.
    fn placed(&self, shift: Point) -> Self {
        let place = |(x, y): Point| (x + (DIGIT_HEIGHT - y) * SLANT + shift.0, y + shift.1);
        match self {
            Self::Polygon(corners) => Self::Polygon(corners.iter().copied().map(place).collect()),
            Self::Circle(centre, radius) => Self::Circle(place(*centre), *radius),
        }
    }

    /// Returns true if a point is inside.
    pub fn has(&self, (x, y): Point) -> bool {
        match self {
            Self::Circle((cx, cy), radius) => (x - cx).powi(2) + (y - cy).powi(2) <= radius * radius,
            Self::Polygon(corners) => {
                // A ray to the right crosses the edge of what it begins in an odd number of times.
                let edges = corners.iter().zip(corners.iter().cycle().skip(1));
                let crossings = edges.filter(|((ax, ay), (bx, by))| {
                    (ay > &y) != (by > &y) && x < ax + (bx - ax) * (y - ay) / (by - ay)
                });
                crossings.count() % 2 == 1
            }
        }
    }

    /// The least upright box around it: left, top, right, bottom.
    pub fn bounds(&self) -> (f32, f32, f32, f32) {
        match self {
            Self::Circle((x, y), r) => (x - r, y - r, x + r, y + r),
            Self::Polygon(corners) => corners.iter().fold(
                (f32::MAX, f32::MAX, f32::MIN, f32::MIN),
                |(left, top, right, bottom), (x, y)| {
                    (left.min(*x), top.min(*y), right.max(*x), bottom.max(*y))
                },
            ),
        }
    }
}

/// The outlines of an upright digit at the origin, in the style's segment order.
fn outlines(style: Style) -> Vec<Outline> {
    let bars = Bars::new(&Measures::of(style));
    let polygons = match style {
        Style::Seven => bars.seven(),
        Style::Fourteen => bars.fourteen(),
        Style::Sixteen => bars.sixteen(),
    };
    let point = Outline::Circle((bars.right + POINT_GAP + POINT, bars.foot - POINT), POINT);
    polygons.into_iter().map(Outline::Polygon).chain([point]).collect()
}

/// Corners in order.
type Bar = Vec<Point>;

/// The lines that the bars of a digit keep to. The upper left of each kind is drawn; the others mirror it.
struct Bars {
    right: f32,
    foot: f32,
    centre: Point,
    /// The inner edge of an outer bar.
    inner: f32,
    /// Half the thickness.
    half: f32,
    /// The gap between two bars along a mitre, which runs at 45 degrees.
    cut: f32,
}

impl Bars {
    fn new(measures: &Measures) -> Self {
        Self {
            right: measures.width,
            foot: DIGIT_HEIGHT,
            centre: (measures.width / 2.0, DIGIT_HEIGHT / 2.0),
            inner: measures.thick,
            half: measures.thick / 2.0,
            cut: GAP * std::f32::consts::SQRT_2,
        }
    }

    /// To the other side of the upright middle.
    fn across(&self, bar: &[Point]) -> Bar {
        bar.iter().map(|(x, y)| (self.right - x, *y)).collect()
    }

    /// To the other side of the level middle.
    fn down(&self, bar: &[Point]) -> Bar {
        bar.iter().map(|(x, y)| (*x, self.foot - y)).collect()
    }

    fn top(&self) -> Bar {
        let Self { right, inner, cut, .. } = *self;
        vec![
            (cut + BEVEL, BEVEL),
            (cut + 2.5 * BEVEL, 0.0),
            (right - cut - 2.5 * BEVEL, 0.0),
            (right - cut - BEVEL, BEVEL),
            (right - inner - cut, inner),
            (inner + cut, inner),
        ]
    }

    fn top_left_half(&self) -> Bar {
        let Self { inner, cut, centre, .. } = *self;
        let end = centre.0 - GAP;
        vec![(cut + BEVEL, BEVEL), (cut + 2.5 * BEVEL, 0.0), (end, 0.0), (end, inner), (inner + cut, inner)]
    }

    fn upper_left(&self) -> Bar {
        let Self { inner, half, cut, centre: (_, middle), .. } = *self;
        vec![
            (0.0, cut + 2.5 * BEVEL),
            (BEVEL, cut + BEVEL),
            (inner, inner + cut),
            (inner, middle - half - cut),
            (half, middle - cut),
            (0.0, middle - GAP),
        ]
    }

    /// The middle bar from `half` of the left upright to `end`, pointed at both ends.
    fn middle(&self, end: f32) -> Bar {
        let Self { half, cut, centre: (_, middle), .. } = *self;
        vec![
            (half + cut, middle),
            (2.0 * half + cut, middle - half),
            (end - half, middle - half),
            (end, middle),
            (end - half, middle + half),
            (2.0 * half + cut, middle + half),
        ]
    }

    /// From the top bar down to the centre.
    fn centre_upright(&self) -> Bar {
        let Self { inner, half, cut, centre: (x, middle), .. } = *self;
        let top = inner + 2.0 * GAP;
        vec![
            (x - half, top),
            (x + half, top),
            (x + half, middle - half - cut),
            (x, middle - cut),
            (x - half, middle - half - cut),
        ]
    }

    /// From the upper left corner to the centre.
    fn diagonal(&self) -> Bar {
        let Self { inner, half, centre, .. } = *self;
        let (left, top) = (inner + 2.0 * GAP, inner + 2.0 * GAP);
        let (right, foot) = (centre.0 - half - 2.0 * GAP, centre.1 - half - 2.0 * GAP);
        let wide = half * 1.1;
        let high = wide * (foot - top) / (right - left);
        vec![
            (left, top),
            (left + wide, top),
            (right, foot - high),
            (right, foot),
            (right - wide, foot),
            (left, top + high),
        ]
    }

    fn seven(&self) -> Vec<Bar> {
        let (a, f, g) = (self.top(), self.upper_left(), self.middle(self.right - self.half - self.cut));
        let (b, d, e) = (self.across(&f), self.down(&a), self.down(&f));
        let c = self.down(&b);
        vec![a, b, c, d, e, f, g]
    }

    /// b, c, e and f, then g1 to m: what fourteen and sixteen segments have in common.
    fn strokes(&self) -> ([Bar; 4], [Bar; 8]) {
        let (f, g1) = (self.upper_left(), self.middle(self.centre.0 - self.cut));
        let (h, i) = (self.diagonal(), self.centre_upright());
        let (b, e, g2, j) = (self.across(&f), self.down(&f), self.across(&g1), self.across(&h));
        let (c, k, l, m) = (self.down(&b), self.down(&h), self.down(&i), self.down(&j));
        ([b, c, e, f], [g1, g2, h, i, j, k, l, m])
    }

    fn fourteen(&self) -> Vec<Bar> {
        let ([b, c, e, f], rest) = self.strokes();
        let a = self.top();
        let d = self.down(&a);
        [a, b, c, d, e, f].into_iter().chain(rest).collect()
    }

    fn sixteen(&self) -> Vec<Bar> {
        let ([b, c, e, f], rest) = self.strokes();
        let a1 = self.top_left_half();
        let (a2, d1) = (self.across(&a1), self.down(&a1));
        let d2 = self.down(&a2);
        [a1, a2, b, c, d1, d2, e, f].into_iter().chain(rest).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_segment_has_an_outline_and_none_overlap() {
        for style in Style::ALL {
            let outlines = outlines(*style);
            assert_eq!(outlines.len(), style.segment_count());
            for x in 0..160 {
                for y in 0..=200 {
                    let point = (x as f32 / 2.0, y as f32 / 2.0);
                    let owners = outlines.iter().filter(|outline| outline.has(point)).count();
                    assert!(owners <= 1, "{style}: {owners} segments at {point:?}");
                }
            }
        }
    }
}
