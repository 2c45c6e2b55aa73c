//! A drawing as a description: what is where, in which colour. It is written as SVG ([`super::svg`]) or painted as pixels
//! ([`super::pixels`]); neither knows what it is a drawing of.
//!
//! Lengths are in units of the drawing; x goes right, y goes down.

use super::colour::Rgb;
use super::label::{self, Anchor};
use super::scene::{Outline, Point};

/// The name of the program, by which it knows a file that it wrote.
pub const MARK: &str = "Spare Tile";

/// The paper of diagrams.
pub const PAPER: Rgb = Rgb(255, 255, 255);
/// The drawing.
pub const INK: Rgb = Rgb(34, 36, 42);
/// The references for measuring.
pub const FAINT: Rgb = Rgb(150, 154, 162);
/// The filled areas.
pub const SHADE: Rgb = Rgb(238, 240, 243);

/// Colours for lines that must be distinguished, dark enough for paper.
pub const WIRES: [Rgb; 10] = [
    Rgb(196, 30, 36),
    Rgb(26, 104, 190),
    Rgb(30, 130, 60),
    Rgb(196, 104, 10),
    Rgb(122, 60, 168),
    Rgb(8, 128, 136),
    Rgb(160, 52, 104),
    Rgb(110, 92, 20),
    Rgb(84, 84, 92),
    Rgb(60, 70, 190),
];

/// A drawing.
#[derive(Debug, Clone, PartialEq)]
pub struct Page {
    /// From its left edge to its right.
    pub width: f32,
    /// From its top to its foot.
    pub height: f32,
    /// A description for readers who cannot see it.
    pub title: String,
    /// How many millimetres a unit is in print, where it is known.
    pub unit_mm: Option<f32>,
    /// The background.
    pub ground: Rgb,
    /// From the hindmost to the foremost.
    pub items: Vec<Item>,
}

/// Something on a drawing.
#[derive(Debug, Clone, PartialEq)]
pub enum Item {
    /// A filled outline.
    Fill {
        /// Its edge.
        outline: Outline,
        /// The fill.
        colour: Rgb,
    },
    /// Strokes of one pen.
    Strokes {
        /// The points of each stroke.
        strokes: Vec<Vec<Point>>,
        /// The colour of the pen.
        colour: Rgb,
        /// The width of the pen.
        width: f32,
        /// True if the pen is round, as a writing pen is, or ends where the stroke does.
        round: bool,
    },
    /// A box with round corners.
    Box {
        /// Its upper left corner.
        at: Point,
        /// Its width and height.
        size: Point,
        /// The radius of its corners.
        radius: f32,
        /// Its colour; none where it is empty.
        fill: Option<Rgb>,
        /// The colour and the width of its edge, if it has one.
        edge: Option<(Rgb, f32)>,
    },
    /// Light that spills over: outlines of one colour, blurred.
    Glow {
        /// Each with how strong it is, from 0 to 1.
        shapes: Vec<(Outline, f32)>,
        /// Their colour.
        colour: Rgb,
        /// How far they are blurred: a standard deviation.
        blur: f32,
        /// Upper left corner and size of the area beyond which nothing spills.
        within: (Point, Point),
    },
}

impl Page {
    /// An empty sheet of paper.
    pub fn new(width: f32, height: f32, title: &str) -> Self {
        Self::on(PAPER, width, height, title)
    }

    /// An empty drawing on another ground.
    pub fn on(ground: Rgb, width: f32, height: f32, title: &str) -> Self {
        Self { width, height, title: title.to_owned(), unit_mm: None, ground, items: Vec::new() }
    }

    /// Several drawings below one another, with this much between them and this title; one alone stays as it is.
    pub fn stacked(mut pages: Vec<Self>, gap: f32, title: &str) -> Self {
        if pages.len() == 1 {
            return pages.remove(0);
        }
        let width = pages.iter().map(|page| page.width).fold(0.0, f32::max);
        let mut stack = Self::new(width, 0.0, title);
        for page in pages {
            let top = if stack.items.is_empty() { 0.0 } else { stack.height + gap };
            stack.items.extend(page.items.into_iter().map(|item| item.moved((0.0, top))));
            stack.height = top + page.height;
        }
        stack
    }

    /// A line along these points.
    pub fn line(&mut self, points: &[Point], colour: Rgb, width: f32) {
        let strokes = vec![points.to_vec()];
        self.items.push(Item::Strokes { strokes, colour, width, round: false });
    }

    /// A rectangle with rounded corners: its upper left corner, its size.
    pub fn box_at(&mut self, at: Point, size: Point, fill: Rgb, edge: Rgb) {
        let (fill, edge) = (Some(fill), Some((edge, 1.5)));
        self.items.push(Item::Box { at, size, radius: 3.0, fill, edge });
    }

    /// A filled rectangle without an edge.
    pub fn block(&mut self, at: Point, size: Point, radius: f32, fill: Rgb) {
        self.items.push(Item::Box { at, size, radius, fill: Some(fill), edge: None });
    }

    /// The edge of a rectangle, whose inside shows what is behind it.
    pub fn frame(&mut self, at: Point, size: Point, radius: f32, edge: (Rgb, f32)) {
        self.items.push(Item::Box { at, size, radius, fill: None, edge: Some(edge) });
    }

    /// A disc.
    pub fn disc(&mut self, centre: Point, radius: f32, fill: Rgb, edge: Rgb) {
        self.fill(Outline::Circle(centre, radius + 0.75), edge);
        self.fill(Outline::Circle(centre, radius - 0.75), fill);
    }

    /// A filled outline.
    pub fn fill(&mut self, outline: Outline, colour: Rgb) {
        self.items.push(Item::Fill { outline, colour });
    }

    /// A text whose capitals are `height` high and stand at the place's y.
    pub fn text(&mut self, text: &str, at: Point, height: f32, anchor: Anchor, ink: Rgb) {
        let strokes = label::strokes_of(text, at, height, anchor);
        if !strokes.is_empty() {
            let width = label::pen(height);
            self.items.push(Item::Strokes { strokes, colour: ink, width, round: true });
        }
    }
}

impl Item {
    /// The same in another place.
    fn moved(self, (right, down): Point) -> Self {
        let place = |(x, y): Point| (x + right, y + down);
        let outline = |outline: &Outline| outline.scaled(1.0, (right, down));
        match self {
            Self::Fill { outline: edge, colour } => Self::Fill { outline: outline(&edge), colour },
            Self::Strokes { strokes, colour, width, round } => {
                let strokes = strokes.into_iter().map(|points| points.into_iter().map(place).collect());
                Self::Strokes { strokes: strokes.collect(), colour, width, round }
            }
            Self::Box { at, size, radius, fill, edge } => {
                Self::Box { at: place(at), size, radius, fill, edge }
            }
            Self::Glow { shapes, colour, blur, within: (at, size) } => {
                let shapes = shapes.iter().map(|(shape, strength)| (outline(shape), *strength)).collect();
                Self::Glow { shapes, colour, blur, within: (place(at), size) }
            }
        }
    }

    /// The least upright box around it: left, top, right, bottom.
    pub fn bounds(&self) -> (f32, f32, f32, f32) {
        match self {
            Self::Fill { outline, .. } => outline.bounds(),
            Self::Strokes { strokes, width, .. } => {
                let (left, top, right, foot) =
                    Outline::Polygon(strokes.iter().flatten().copied().collect()).bounds();
                (left - width, top - width, right + width, foot + width)
            }
            Self::Box { at: (x, y), size: (width, height), edge, .. } => {
                let pen = edge.map_or(0.0, |(_, width)| width);
                (x - pen, y - pen, x + width + pen, y + height + pen)
            }
            Self::Glow { within: ((x, y), (width, height)), .. } => (*x, *y, x + width, y + height),
        }
    }
}
