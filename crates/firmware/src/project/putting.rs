//! Where figures and columns go in the image of a face, as a template reads it.

use std::collections::{BTreeMap, BTreeSet};

use super::field::{Field, Ink, Pattern};
use super::model::{DigitsModel, DotsModel, GlyphModel, MarkModel, SeatsModel, SetModel};
use super::sending::{Place, Sending};
use spare_tile_core::face::{Element, Face, Grid, Layout};
use spare_tile_core::frame::Level;

/// What puts figures on the image of a face.
pub(super) struct Putting<'a> {
    pub face: &'a Face,
    pub sending: &'a Sending,
    pub sets: Vec<SetModel>,
    pub patterns: Vec<Vec<Pattern>>,
    /// Colours that are shown, dark first: for each piece of a slot which lights of a dot are lit, the lowest line in bit 0. None where dots
    /// have one light.
    pub colours: Vec<Vec<u8>>,
}

pub(super) fn seats_model(field: &Field) -> SeatsModel {
    let list: Vec<_> = field.seats.iter().map(|seat| seat.first()).collect();
    let pitch = match &list[..] {
        [first, second, ..] if list.windows(2).all(|pair| pair[1] - pair[0] == second - first) => {
            Some(second - first)
        }
        [_] => Some(0),
        _ => None,
    };
    SeatsModel { list, pitch }
}

impl Putting<'_> {
    /// The set of these figures; made where it is not there yet.
    pub fn set(&mut self, field: &Field, minus: Option<&Pattern>) -> Option<usize> {
        let blank = Pattern { columns: vec![0; field.width()] };
        let mut patterns = field.figures.clone();
        patterns.push(blank);
        patterns.extend(minus.cloned());
        // One that has a minus too does for another that has none.
        let ink = self.ink(&field.ink);
        let known = self
            .patterns
            .iter()
            .zip(&self.sets)
            .position(|(known, set)| known.starts_with(&patterns) && set.ink == ink);
        if let Some(known) = known {
            return Some(known);
        }
        let names = (0..=9).map(|figure| figure.to_string()).chain(["blank".to_owned(), "minus".to_owned()]);
        let glyphs = patterns.iter().zip(names).map(|(pattern, name)| {
            let columns = pattern.columns.iter().map(|column| self.column(*column, field.seats[0].first()));
            Some(GlyphModel { name, bytes: columns.collect::<Option<Vec<_>>>()?.concat() })
        });
        let glyphs = glyphs.collect::<Option<_>>()?;
        let number = self.sets.len();
        let id = if number == 0 { "figures".to_owned() } else { format!("figures_{}", number + 1) };
        self.sets.push(SetModel { id, width: field.width(), glyphs, ink });
        self.patterns.push(patterns);
        Some(number)
    }

    /// The bytes of a column: of a digit as the image has them, of dots one bit a dot.
    pub fn column(&self, bits: u32, digit: usize) -> Option<Vec<u8>> {
        match self.face.layout {
            Layout::Digits { .. } => {
                let shape = self.shape(digit).filter(|_| self.is_even())?;
                let mut bytes = vec![0; shape.bytes.len()];
                for (segment, (byte, bit, lit)) in &shape.segments {
                    if (bits >> segment & 1 == 1) == *lit {
                        bytes[*byte] |= 1 << bit;
                    }
                }
                Some(bytes)
            }
            Layout::Dots(grid) => {
                self.dots()?;
                Some(bits.to_le_bytes()[..grid.height.div_ceil(8)].to_vec())
            }
        }
    }

    /// Where the segments of a digit are in the image.
    fn shape(&self, digit: usize) -> Option<Shape> {
        let face = self.face;
        let places: Vec<_> = (0..face.style().segment_count())
            .filter_map(|segment| Some((segment, self.sending.place(face.element(digit, segment))?)))
            .collect();
        let bytes: BTreeSet<_> = places.iter().map(|(_, place)| place.byte).collect();
        let bytes: Vec<_> = bytes.into_iter().collect();
        let segments = places.iter().filter(|(_, place)| !place.in_all).map(|(segment, place)| {
            let byte = bytes.iter().position(|byte| *byte == place.byte)?;
            Some((*segment, (byte, place.bit, place.lit)))
        });
        Some(Shape { segments: segments.collect::<Option<_>>()?, bytes })
    }

    /// Whether every digit stands in its bytes as the others do. One may lack a light, such as a point that is a colon there.
    fn is_even(&self) -> bool {
        let count = self.face.digits();
        let shapes: Vec<_> = (0..count).filter_map(|digit| self.shape(digit)).collect();
        let agree = |one: &Shape, other: &Shape| {
            one.bytes.len() == other.bytes.len()
                && one
                    .segments
                    .iter()
                    .all(|(segment, place)| other.segments.get(segment).is_none_or(|of| of == place))
        };
        shapes.windows(2).all(|pair| agree(&pair[0], &pair[1]))
    }

    pub fn digits(&self) -> Option<DigitsModel> {
        let Layout::Digits { count, .. } = self.face.layout else { return None };
        let shapes: Vec<_> = (0..count).map(|digit| self.shape(digit)).collect::<Option<_>>()?;
        let at: Vec<_> = shapes.iter().map(|shape| shape.bytes.clone()).collect();
        let shape = shapes.first()?;
        let mut masks = vec![0; shape.bytes.len()];
        shape.segments.values().for_each(|(byte, bit, _)| masks[*byte] |= 1 << bit);
        let own: BTreeSet<_> = at.iter().flatten().collect();
        let others = self.sending.places.iter().skip(self.face.extra(0).0).flatten();
        let has_others = others.into_iter().any(|place| own.contains(&place.byte));
        let in_dark = at.iter().flatten().zip(masks.iter().cycle());
        let has_fixed = in_dark.into_iter().any(|(byte, mask)| self.sending.dark[*byte] & !mask != 0);
        let joined = at.iter().flatten().count() != own.len();
        let far = |digit: usize, byte: usize| at[digit][byte] as isize;
        let apart = if count > 1 { far(1, 0) - far(0, 0) } else { 0 };
        let offsets: Vec<_> = (0..masks.len()).map(|byte| far(0, byte) - far(0, 0)).collect();
        let is_rule = (0..count).all(|digit| {
            (0..masks.len())
                .all(|byte| far(digit, byte) == far(0, 0) + apart * digit as isize + offsets[byte])
        });
        Some(DigitsModel {
            rule: is_rule.then_some((at[0][0], apart)),
            offsets,
            masks,
            shared: has_others || has_fixed || joined,
            at,
        })
    }

    /// The place of a dot: of one with several lights that of its lowest line.
    fn dot(&self, x: usize, y: usize) -> Option<Place> {
        let Layout::Dots(grid) = self.face.layout else { return None };
        let Element(first) = self.face.dot(x, y)?;
        let lights = (first..first + grid.channels.count()).map(|light| self.sending.place(Element(light)));
        lights.collect::<Option<Vec<_>>>()?.into_iter().min_by_key(|place| place.bit)
    }

    /// The number of a colour; nothing of it where dots have one light.
    pub fn ink(&mut self, levels: &[Level]) -> Option<usize> {
        self.panel()?;
        if self.colours.is_empty() {
            self.colours.push(self.pieces(&[]));
        }
        let colour = self.pieces(levels);
        let known = self.colours.iter().position(|known| *known == colour);
        Some(known.unwrap_or_else(|| {
            self.colours.push(colour);
            self.colours.len() - 1
        }))
    }

    /// For each piece of a slot, which lights of a dot are lit at these levels, the lowest line in bit 0.
    fn pieces(&self, levels: &[Level]) -> Vec<u8> {
        let lowest = self.dot(0, 0).map_or(0, |place| place.bit);
        let lights = levels.iter().enumerate().filter_map(|(light, level)| {
            Some((self.sending.place(Element(light))?.bit - lowest, self.steps(*level)))
        });
        let lights: Vec<_> = lights.collect();
        let [.., pieces, _] = self.sending.strides();
        let is_lit = |piece: usize| lights.iter().filter(move |(_, steps)| steps >> piece & 1 == 1);
        (0..pieces).map(|piece| is_lit(piece).fold(0, |lit, (line, _)| lit | 1 << line)).collect()
    }

    /// The pieces of a slot in which a light of this level is lit.
    fn steps(&self, level: Level) -> u8 {
        self.sending.scan.as_ref().map_or(0, |scan| scan.steps[usize::from(level.0)])
    }

    /// The dots of a colour panel; nothing of another face.
    pub fn panel(&self) -> Option<Grid> {
        self.face.dots().filter(|grid| grid.channels.count() > 1 && self.sending.scan.is_some())
    }

    pub fn dots(&self) -> Option<DotsModel> {
        let Layout::Dots(grid) = self.face.layout else { return None };
        let place = |x: usize, y: usize| self.dot(x, y);
        let lit = place(0, 0)?.lit;
        let mut places = Vec::new();
        for x in 0..grid.width {
            for y in 0..grid.height {
                let place = place(x, y).filter(|place| place.lit == lit)?;
                places.push(place.byte * 8 + usize::from(place.bit));
            }
        }
        Some(DotsModel {
            width: grid.width,
            height: grid.height,
            places,
            lit,
            bytes: grid.height.div_ceil(8),
        })
    }

    /// The bits of the image that light these.
    pub fn marks(&self, lights: &BTreeSet<Element>, ink: &Ink) -> Vec<MarkModel> {
        let mut marks: BTreeMap<(usize, bool), u8> = BTreeMap::new();
        let [slots, slot, pieces, piece] = self.sending.strides();
        if self.panel().is_some() {
            // A dot is told by its first light.
            let of_dot = |Element(first): &Element| {
                let first = *first;
                let place = move |light: usize| self.sending.place(Element(first + light));
                ink.iter()
                    .enumerate()
                    .filter_map(move |(light, level)| Some((place(light)?, self.steps(*level))))
            };
            for (Place { byte, bit, lit, .. }, steps) in lights.iter().flat_map(of_dot) {
                for of_slot in (0..pieces).filter(|of_slot| steps >> of_slot & 1 == 1) {
                    *marks.entry((byte + of_slot * piece, lit)).or_default() |= 1 << bit;
                }
            }
            return marks.into_iter().map(|((byte, lit), mask)| MarkModel { byte, mask, lit }).collect();
        }
        for Place { byte, bit, lit, in_all } in lights.iter().filter_map(|light| self.sending.place(*light)) {
            for number in 0..if in_all { slots } else { 1 } {
                for of_slot in 0..pieces {
                    *marks.entry((byte + number * slot + of_slot * piece, lit)).or_default() |= 1 << bit;
                }
            }
        }
        marks.into_iter().map(|((byte, lit), mask)| MarkModel { byte, mask, lit }).collect()
    }
}

/// How a digit stands in the image.
#[derive(Debug, PartialEq, Eq)]
struct Shape {
    /// By segment: which of its bytes, which bit, and the level that lights it.
    segments: BTreeMap<usize, (usize, u8, bool)>,
    bytes: Vec<usize>,
}
