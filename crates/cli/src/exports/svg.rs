//! SVG: a drawing as shapes, still or moving.

use std::fmt::Write;
use std::time::Duration;

use super::{Format, Moving, NOTHING, Still, has_mark};
use crate::view::colour::Rgb;
use crate::view::page::{Item, MARK, Page};
use crate::view::scene::{Outline, Point};

/// An SVG of one drawing.
pub struct Svg;

impl Format for Svg {
    fn wrote(&self, bytes: &[u8]) -> bool {
        bytes.starts_with(b"<svg") && has_mark(bytes, MARK)
    }
}

impl Still for Svg {
    fn write(&self, page: &Page) -> Result<Vec<u8>, String> {
        Ok(write(page).into_bytes())
    }
}

/// The whole drawing.
pub fn write(page: &Page) -> String {
    let mut svg = head(page);
    for (number, item) in page.items.iter().enumerate() {
        write_item(item, number, &mut svg);
    }
    svg.push_str("</svg>\n");
    svg
}

/// A drawing whose fills change their colours with time: SVG's own animation (SMIL), a step at a time.
#[derive(Default)]
pub struct MovingSvg {
    first: Option<Page>,
    /// By item, its colours and their times; empty if the item is not a fill.
    colours: Vec<Vec<(Duration, Rgb)>>,
    changes: usize,
}

/// As many changes as a browser can be asked to keep.
const MOST_CHANGES: usize = 200_000;

impl Format for MovingSvg {
    fn wrote(&self, bytes: &[u8]) -> bool {
        Svg.wrote(bytes)
    }
}

impl Moving for MovingSvg {
    fn show(&mut self, page: Page, at: Duration) -> Result<(), String> {
        self.colours.resize_with(page.items.len(), Vec::new);
        for (item, colours) in page.items.iter().zip(&mut self.colours) {
            let Item::Fill { colour, .. } = item else { continue };
            if colours.last().is_some_and(|(_, last)| last == colour) {
                continue;
            }
            // A picture that was shown for no time was not seen.
            if colours.last().is_some_and(|(since, _)| *since == at) {
                colours.pop();
            }
            colours.push((at, *colour));
            self.changes += 1;
        }
        self.first.get_or_insert(page);
        if self.changes <= MOST_CHANGES {
            return Ok(());
        }
        Err(format!("more than {MOST_CHANGES} lights change in this SVG"))
    }

    fn finish(&mut self, end: Duration) -> Result<Vec<u8>, String> {
        let page = self.first.as_ref().ok_or(NOTHING)?;
        let mut svg = head(page);
        for ((number, item), colours) in page.items.iter().enumerate().zip(&self.colours) {
            match (item, colours.as_slice()) {
                (Item::Fill { outline, .. }, [(_, first), _, ..]) => {
                    let (name, shape) = shape_of(outline);
                    let _ = writeln!(
                        svg,
                        "<{name} {shape} fill=\"{}\">{}</{name}>",
                        first.hex(),
                        animated(colours, end)
                    );
                }
                (Item::Fill { outline, .. }, [(_, colour)]) => {
                    write_outline(outline, &colour.hex(), None, &mut svg)
                }
                _ => write_item(item, number, &mut svg),
            }
        }
        svg.push_str("</svg>\n");
        Ok(svg.into_bytes())
    }
}

/// The element that lets a fill change.
fn animated(colours: &[(Duration, Rgb)], length: Duration) -> String {
    let whole = length.as_secs_f64();
    let join = |words: Vec<String>| words.join(";");
    // The first one holds from the beginning.
    let share = |(place, (at, _)): (usize, &(Duration, Rgb))| match place {
        0 => "0".to_owned(),
        _ => format!("{:.6}", at.as_secs_f64() / whole),
    };
    let times = join(colours.iter().enumerate().map(share).collect());
    let values = join(colours.iter().map(|(_, colour)| colour.hex()).collect());
    format!(
        "<animate attributeName=\"fill\" calcMode=\"discrete\" dur=\"{whole}s\" repeatCount=\"indefinite\" \
         keyTimes=\"{times}\" values=\"{values}\"/>"
    )
}

/// The head of the file: the size, the title and the ground.
fn head(page: &Page) -> String {
    let Page { width, height, .. } = page;
    let mut svg = String::new();
    // In print it has its own size, where that is known.
    let side = |length: &f32| match page.unit_mm {
        Some(unit) => format!("{:.2}mm", length * unit),
        None => format!("{length:.1}"),
    };
    let (print_width, print_height) = (side(width), side(height));
    // Writing to a string cannot fail, here and below.
    let _ = writeln!(
        svg,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {width:.1} {height:.1}\" width=\"{print_width}\" \
         height=\"{print_height}\">\n<!-- {MARK} -->\n<title>{}</title>\n<rect width=\"{width:.1}\" height=\"{height:.1}\" fill=\"{}\"/>",
        escape(&page.title),
        page.ground.hex()
    );
    svg
}

fn write_item(item: &Item, number: usize, svg: &mut String) {
    match item {
        Item::Fill { outline, colour } => write_outline(outline, &colour.hex(), None, svg),
        Item::Strokes { strokes, colour, width, round } => {
            let cap = if *round { " stroke-linecap=\"round\"" } else { "" };
            let _ = writeln!(
                svg,
                "<path d=\"{}\" fill=\"none\" stroke=\"{}\" stroke-width=\"{width:.2}\"{cap} stroke-linejoin=\"round\"/>",
                path(strokes),
                colour.hex()
            );
        }
        Item::Box { at: (x, y), size: (width, height), radius, fill, edge } => {
            let fill = fill.map_or_else(|| "none".to_owned(), Rgb::hex);
            let edge = edge.map_or_else(String::new, |(colour, width)| {
                format!(" stroke=\"{}\" stroke-width=\"{width}\"", colour.hex())
            });
            let _ = writeln!(
                svg,
                "<rect x=\"{x:.1}\" y=\"{y:.1}\" width=\"{width:.1}\" height=\"{height:.1}\" rx=\"{radius}\" \
                 fill=\"{fill}\"{edge}/>"
            );
        }
        Item::Glow { shapes, colour, blur, within: ((x, y), (width, height)) } => {
            let _ = writeln!(
                svg,
                "<filter id=\"glow{number}\" filterUnits=\"userSpaceOnUse\" x=\"{x:.1}\" y=\"{y:.1}\" width=\"{width:.1}\" \
                 height=\"{height:.1}\" color-interpolation-filters=\"sRGB\"><feGaussianBlur stdDeviation=\"{blur}\"/>\
                 </filter>\n<g filter=\"url(#glow{number})\">"
            );
            for (outline, strength) in shapes {
                write_outline(outline, &colour.hex(), Some(*strength), svg);
            }
            svg.push_str("</g>\n");
        }
    }
}

fn path(strokes: &[Vec<Point>]) -> String {
    let mut path = String::new();
    for stroke in strokes {
        for (index, (x, y)) in stroke.iter().enumerate() {
            let _ = write!(path, "{}{x:.1} {y:.1}", if index == 0 { 'M' } else { 'L' });
        }
    }
    path
}

fn write_outline(outline: &Outline, fill: &str, opacity: Option<f32>, svg: &mut String) {
    let opacity = opacity.map(|opacity| format!(" opacity=\"{opacity:.2}\"")).unwrap_or_default();
    let (name, shape) = shape_of(outline);
    let _ = writeln!(svg, "<{name} {shape} fill=\"{fill}\"{opacity}/>");
}

/// The element of an outline, and what says where it is.
fn shape_of(outline: &Outline) -> (&'static str, String) {
    match outline {
        Outline::Circle((x, y), r) => ("circle", format!("cx=\"{x:.2}\" cy=\"{y:.2}\" r=\"{r:.2}\"")),
        Outline::Polygon(corners) => {
            let corners: Vec<_> = corners.iter().map(|(x, y)| format!("{x:.2},{y:.2}")).collect();
            ("polygon", format!("points=\"{}\"", corners.join(" ")))
        }
    }
}

/// Text as XML takes it: without control characters, and without the two that no XML may have.
fn escape(text: &str) -> String {
    let is_fit = |character: &char| !character.is_control() && !matches!(character, '\u{FFFE}' | '\u{FFFF}');
    text.chars().filter(is_fit).fold(String::new(), |mut escaped, character| {
        match character {
            '&' => escaped.push_str("&amp;"),
            '<' => escaped.push_str("&lt;"),
            '>' => escaped.push_str("&gt;"),
            _ => escaped.push(character),
        }
        escaped
    })
}
