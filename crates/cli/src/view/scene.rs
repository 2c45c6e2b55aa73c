//! Where everything of a face is: the outlines of its elements, as on the real part.
//!
//! Lengths are in hundredths of a digit's height; x goes right, y goes down.

use spare_tile_core::glyph::Style;
use spare_tile_core::picture::Picture;

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

/// An element in its place, with its light from 0 to 1.
pub struct Shape {
    /// Its edge.
    pub outline: Outline,
    /// From 0 to 1.
    pub light: f32,
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

/// The height of a digit.
pub const DIGIT_HEIGHT: f32 = 100.0;
/// From one digit's left edge to the next one's.
pub const PITCH: f32 = 90.0;
/// Between the digits and the edge of the lens.
pub const MARGIN: f32 = 18.0;

/// The width of a digit, without its slant and point.
const WIDTH: f32 = 56.0;
/// The thickness of a segment.
const THICK: f32 = 13.0;
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

/// Lays a row of digits out, from `first` on, at most `count`.
pub fn of_digits(picture: &Picture<'_>, first: usize, count: usize) -> Scene {
    let style = picture.face.style;
    let outlines = outlines(style);
    let digits = first..picture.face.digits.min(first + count);
    let columns = digits.len();
    let mut shapes = Vec::with_capacity(columns * outlines.len());
    for (column, digit) in digits.enumerate() {
        let shift = (MARGIN + PITCH * column as f32, MARGIN);
        for (segment, outline) in outlines.iter().enumerate() {
            shapes.push(Shape { outline: outline.placed(shift), light: picture.segment(digit, segment) });
        }
    }
    let width = 2.0 * MARGIN + PITCH * columns as f32 - (PITCH - WIDTH - SLANT * DIGIT_HEIGHT - POINT);
    Scene { width, height: DIGIT_HEIGHT + 2.0 * MARGIN, shapes }
}

/// Lays all digits out in one row.
pub fn of(picture: &Picture<'_>) -> Scene {
    of_digits(picture, 0, picture.face.digits)
}

impl Outline {
    /// Slanted, and moved to its place.
    fn placed(&self, shift: Point) -> Self {
        let place = |(x, y): Point| (x + (DIGIT_HEIGHT - y) * SLANT + shift.0, y + shift.1);
        match self {
            Self::Polygon(corners) => Self::Polygon(corners.iter().copied().map(place).collect()),
            Self::Circle(centre, radius) => Self::Circle(place(*centre), *radius),
        }
    }

    /// Whether a point is inside.
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
    match style {
        Style::Seven => seven(),
    }
}

/// Seven bars with mitred ends and a round point.
fn seven() -> Vec<Outline> {
    let (right, foot, middle) = (WIDTH, DIGIT_HEIGHT, DIGIT_HEIGHT / 2.0);
    let (inner, half) = (THICK, THICK / 2.0);
    // Along a mitre the gap between two bars runs at 45 degrees.
    let cut = GAP * std::f32::consts::SQRT_2;
    let a = vec![
        (cut + BEVEL, BEVEL),
        (cut + 2.5 * BEVEL, 0.0),
        (right - cut - 2.5 * BEVEL, 0.0),
        (right - cut - BEVEL, BEVEL),
        (right - inner - cut, inner),
        (inner + cut, inner),
    ];
    let f = vec![
        (0.0, cut + 2.5 * BEVEL),
        (BEVEL, cut + BEVEL),
        (inner, inner + cut),
        (inner, middle - half - cut),
        (half, middle - cut),
        (0.0, middle - GAP),
    ];
    let g = vec![
        (half + cut, middle),
        (inner + cut, middle - half),
        (right - inner - cut, middle - half),
        (right - half - cut, middle),
        (right - inner - cut, middle + half),
        (inner + cut, middle + half),
    ];
    let across = |bar: &[Point]| bar.iter().map(|(x, y)| (right - x, *y)).collect::<Vec<_>>();
    let down = |bar: &[Point]| bar.iter().map(|(x, y)| (*x, foot - y)).collect::<Vec<_>>();
    let (b, d, e) = (across(&f), down(&a), down(&f));
    let c = down(&b);
    let mut outlines: Vec<_> = [a, b, c, d, e, f, g].into_iter().map(Outline::Polygon).collect();
    outlines.push(Outline::Circle((right + POINT_GAP + POINT, foot - POINT), POINT));
    outlines
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
