//! A page to be drawn on, and to be printed: dark lines on white.

use std::fmt::Write;

use super::colour::Rgb;
use super::label::{self, Anchor};
use super::scene::Point;

/// The paper.
pub const PAPER: Rgb = Rgb(255, 255, 255);
/// What is drawn on it.
pub const INK: Rgb = Rgb(34, 36, 42);
/// What is there to be measured by.
pub const FAINT: Rgb = Rgb(150, 154, 162);
/// What is filled.
pub const SHADE: Rgb = Rgb(238, 240, 243);

/// Colours for lines that have to be told apart, dark enough for paper.
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

/// An SVG in the making.
pub struct Page {
    svg: String,
}

impl Page {
    /// An empty page of this size.
    pub fn new(width: f32, height: f32, title: &str) -> Self {
        let mut svg = String::new();
        // Writing to a string cannot fail.
        let _ = writeln!(
            svg,
            "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {width:.1} {height:.1}\" width=\"{width:.1}\" \
             height=\"{height:.1}\">\n<title>{}</title>\n<rect width=\"{width:.1}\" height=\"{height:.1}\" fill=\"{}\"/>",
            super::svg::escape(title),
            PAPER.hex()
        );
        Self { svg }
    }

    /// A line along these points.
    pub fn line(&mut self, points: &[Point], colour: Rgb, width: f32) {
        let mut path = String::new();
        for (index, (x, y)) in points.iter().enumerate() {
            let _ = write!(path, "{}{x:.1} {y:.1}", if index == 0 { 'M' } else { 'L' });
        }
        let _ = writeln!(
            self.svg,
            "<path d=\"{path}\" fill=\"none\" stroke=\"{}\" stroke-width=\"{width}\" stroke-linejoin=\"round\"/>",
            colour.hex()
        );
    }

    /// A rectangle with rounded corners: its upper left corner, its size.
    pub fn box_at(&mut self, (x, y): Point, (width, height): Point, fill: Rgb, edge: Rgb) {
        let _ = writeln!(
            self.svg,
            "<rect x=\"{x:.1}\" y=\"{y:.1}\" width=\"{width:.1}\" height=\"{height:.1}\" rx=\"3\" fill=\"{}\" \
             stroke=\"{}\" stroke-width=\"1.5\"/>",
            fill.hex(),
            edge.hex()
        );
    }

    /// A disc.
    pub fn disc(&mut self, (x, y): Point, radius: f32, fill: Rgb, edge: Rgb) {
        let _ = writeln!(
            self.svg,
            "<circle cx=\"{x:.1}\" cy=\"{y:.1}\" r=\"{radius:.1}\" fill=\"{}\" stroke=\"{}\" stroke-width=\"1.5\"/>",
            fill.hex(),
            edge.hex()
        );
    }

    /// A text whose capitals are `height` high and stand at the place's y.
    pub fn text(&mut self, text: &str, at: Point, height: f32, anchor: Anchor, ink: Rgb) {
        label::write(text, at, height, anchor, ink, &mut self.svg);
    }

    /// Something that draws SVG itself.
    pub fn draw(&mut self, draw: impl FnOnce(&mut String)) {
        draw(&mut self.svg);
    }

    /// The finished SVG.
    pub fn finish(mut self) -> String {
        self.svg.push_str("</svg>\n");
        self.svg
    }
}
