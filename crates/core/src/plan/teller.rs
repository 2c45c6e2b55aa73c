//! Says what a transfer shows on a face: `digit 1: 2, a b d e g; colon on`.
//!
//! The words come from the receiving side: the places of the lights at the written nodes, whatever they were
//! meant for.

use std::collections::BTreeMap;

use super::Mount;
use crate::bus::Transfer;
use crate::face::{Element, Face};
use crate::geometry::Geometry;
use crate::glyph::Segments;
use crate::meaning::{Meaning, Written};
use crate::part::Part;

/// More dots in a row than this are counted and not drawn.
const MOST_DOTS: usize = 64;

/// Describes the transfers to one face.
pub struct Teller<'r> {
    mount: &'r Mount,
    geometry: Geometry,
    /// How many lights each digit has.
    lights: Vec<usize>,
}

impl<'r> Teller<'r> {
    /// For the transfers to this face.
    #[must_use]
    pub fn new(mount: &'r Mount) -> Self {
        let geometry = mount.geometry();
        let mut lights = vec![0; mount.face.digits()];
        let elements = (0..geometry.node_count()).filter_map(|node| geometry.element(node));
        for (digit, _) in elements.filter_map(|element| segment_of(&mount.face, element)) {
            lights[digit] += 1;
        }
        Self { mount, geometry, lights }
    }

    /// The meaning of a transfer.
    #[must_use]
    pub fn of_transfer(&self, transfer: &Transfer<'_>) -> String {
        self.words(&self.mount.drive.explain(transfer))
    }

    /// A meaning in words.
    #[must_use]
    pub fn words(&self, meaning: &Meaning) -> String {
        match meaning {
            Meaning::Words(words) => words.clone(),
            Meaning::Levels(levels) => match self.mount.drive.display().circuit() {
                Some(circuit) => circuit.words(levels),
                None => meaning.plainly(),
            },
            Meaning::Memory(written) => self.memory(written).unwrap_or_else(|| meaning.plainly()),
        }
    }

    /// The written values, by digits, colons, lamps and dots; `None` if it writes no light of the face.
    fn memory(&self, written: &[Written]) -> Option<String> {
        let face = &self.mount.face;
        let mut digits: BTreeMap<usize, (Segments, usize)> = BTreeMap::new();
        let (mut extras, mut dots) = (BTreeMap::new(), BTreeMap::new());
        let (mut astray, mut blank) = (Vec::new(), true);
        for place in written {
            let mut lights_nothing = false;
            for (node, lit) in &place.nodes {
                blank &= !lit;
                let Some(element) = self.geometry.element(*node) else {
                    lights_nothing |= *lit;
                    continue;
                };
                if let Some((digit, segment)) = segment_of(face, element) {
                    let (segments, lights) = digits.entry(digit).or_insert((Segments::NONE, 0));
                    *lights += 1;
                    if *lit {
                        *segments = segments.union(Segments(1 << segment));
                    }
                } else if let Some(extra) = element.0.checked_sub(face.extra(0).0) {
                    extras.insert(extra, *lit);
                } else if let Some(grid) = face.dots() {
                    let dot = element.0 / grid.channels.count();
                    dots.insert((dot / grid.width, dot % grid.width), *lit);
                }
            }
            if lights_nothing {
                astray.push(format!("{} in part lights nothing ({})", place.place, place.data));
            }
        }
        if digits.is_empty() && extras.is_empty() && dots.is_empty() {
            return None;
        }
        let places = digits.len() + extras.len() + written.len().min(dots.len());
        if blank && places > 2 {
            return Some("all blank".to_owned());
        }
        let digits: Vec<_> = digits.into_iter().collect();
        let mut said = Vec::new();
        for run in digits.chunk_by(|a, b| self.is_blank(a) && self.is_blank(b) && a.0 + 1 == b.0) {
            match run {
                [(first, _), .., (last, _)] => said.push(format!("digits {first}-{last}: blank")),
                run => {
                    said.extend(run.iter().map(|(digit, (lit, lights))| self.digit(*digit, *lit, *lights)))
                }
            }
        }
        let is_lone = extras.len() == 1;
        let extra = |(extra, lit): (&usize, &bool)| {
            (*lit || is_lone)
                .then(|| format!("{} {}", face.extras[*extra].name, if *lit { "on" } else { "off" }))
        };
        said.extend(extras.iter().filter_map(extra));
        said.extend(lines_of_dots(&dots));
        said.extend(astray);
        Some(said.join("; "))
    }

    /// Returns true if all lights of a digit were written, and none is lit.
    fn is_blank(&self, (digit, (lit, lights)): &(usize, (Segments, usize))) -> bool {
        *lit == Segments::NONE && *lights == self.lights[*digit]
    }

    /// A digit of which so many lights were written.
    fn digit(&self, digit: usize, lit: Segments, lights: usize) -> String {
        let style = self.mount.face.style();
        let names: Vec<_> = lit.names(style).collect();
        let names = names.join(" ");
        if lights < self.lights[digit] {
            let names = if names.is_empty() { "blank".to_owned() } else { names };
            return format!("part of digit {digit}: {names}");
        }
        let figure = lit.less(style.point());
        match self.mount.face.own_glyphs.reading(style, figure) {
            _ if lit == Segments::NONE => format!("digit {digit}: blank"),
            Some(character) if figure != Segments::NONE => {
                let point = if lit == figure { "" } else { "." };
                format!("digit {digit}: {character}{point}, {names}")
            }
            _ => format!("digit {digit}: {names}"),
        }
    }
}

/// The digit and the segment that an element is, if it is one.
fn segment_of(face: &Face, element: Element) -> Option<(usize, usize)> {
    let count = face.style().segment_count();
    let digit = element.0 / count;
    (digit < face.digits()).then_some((digit, element.0 % count))
}

/// Dots by row and column, in rows or columns, whichever are fewer: `row 3: .##.`.
fn lines_of_dots(dots: &BTreeMap<(usize, usize), bool>) -> Vec<String> {
    let mut rows: BTreeMap<usize, Vec<(usize, bool)>> = BTreeMap::new();
    let mut columns: BTreeMap<usize, Vec<(usize, bool)>> = BTreeMap::new();
    for ((y, x), lit) in dots {
        rows.entry(*y).or_default().push((*x, *lit));
        columns.entry(*x).or_default().push((*y, *lit));
    }
    let (word, lines) = if rows.len() <= columns.len() { ("row", rows) } else { ("column", columns) };
    let line = |(number, dots): (usize, Vec<(usize, bool)>)| {
        let first = dots.first().map_or(0, |(first, _)| *first);
        let last = dots.last().map_or(0, |(last, _)| *last);
        let range = if first == 0 { String::new() } else { format!(" from {first}") };
        if last - first >= MOST_DOTS {
            let lit = dots.iter().filter(|(_, lit)| *lit).count();
            return format!("{word} {number}{range}: {lit} of {} dots", dots.len());
        }
        let mut drawn = vec![' '; last - first + 1];
        for (place, lit) in dots {
            drawn[place - first] = if lit { '#' } else { '.' };
        }
        format!("{word} {number}{range}: {}", drawn.into_iter().collect::<String>())
    };
    lines.into_iter().map(line).collect()
}
