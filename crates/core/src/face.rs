//! A face: one display that a person looks at.

use crate::frame::{Frame, Level};
use crate::glyph::{Common, OwnGlyphs, Segments, Style};
use crate::units::{Milliamps, Volts};

/// Anything of a face that can light, by number. On a segment face the elements are the segments of digit 0
/// in the style's order, then those of digit 1, and so on; after the digits come the dots, row by row, and
/// then the colons and lamps.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Element(pub usize);

/// The colour of a face's lights.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
#[allow(missing_docs, reason = "the colours say what they are")]
pub enum Colour {
    #[default]
    Red,
    Orange,
    Amber,
    Yellow,
    Green,
    Blue,
    White,
}

impl Colour {
    /// The forward voltage that such a light usually has, where its data sheet is not at hand.
    #[must_use]
    pub const fn usual_forward(self) -> Volts {
        match self {
            Self::Red => Volts(1.9),
            Self::Orange | Self::Amber => Volts(2.0),
            Self::Yellow | Self::Green => Volts(2.1),
            Self::Blue | Self::White => Volts(3.1),
        }
    }
}

/// What is known of the lights of a face.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Light {
    /// What they look like.
    pub colour: Colour,
    /// The voltage across a lit one.
    pub forward: Volts,
    /// The mean current that one is wanted to get.
    pub wanted: Option<Milliamps>,
}

impl Light {
    /// A usual light of this colour.
    #[must_use]
    pub const fn of(colour: Colour) -> Self {
        Self { colour, forward: colour.usual_forward(), wanted: None }
    }
}

/// How many dots a face has.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Grid {
    /// From left to right.
    pub width: usize,
    /// From top to bottom.
    pub height: usize,
}

/// A light of a face that is no segment of a digit.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Extra {
    /// How a text names it in braces: `colon2`, or the lamp's own name.
    pub name: String,
    /// What it is.
    pub kind: ExtraKind,
}

/// What a light is that is no segment.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ExtraKind {
    /// A colon that stands after so many digits.
    Colon {
        /// How many, from 1.
        after: usize,
    },
    /// A single light beside the digits.
    Lamp,
}

/// One display that a person looks at: its digits, left to right as seen, or its dots.
#[derive(Debug, Clone, PartialEq)]
pub struct Face {
    /// The name that the rig gives it.
    pub name: String,
    /// How many segments a digit has.
    pub style: Style,
    /// How many digits, up to [`Face::MAX_DIGITS`]; none on a face of dots.
    pub digits: usize,
    /// The dots; none on a face of digits.
    pub dots: Grid,
    /// Its colons and lamps.
    pub extras: Vec<Extra>,
    /// Whether all its digits have points.
    pub points: bool,
    /// Characters of the rig's own.
    pub own_glyphs: OwnGlyphs,
    /// Which side of each digit's lights is joined, or of each row of dots.
    pub common: Common,
    /// Its lights.
    pub light: Light,
}

impl Face {
    /// The most digits that a face may have.
    pub const MAX_DIGITS: usize = 64;
    /// The most dots that a face may have in either direction.
    pub const MAX_DOTS: usize = 64;

    /// How many elements the face has.
    #[must_use]
    pub fn element_count(&self) -> usize {
        self.extra(0).0 + self.extras.len()
    }

    /// What it is, in words: `4 seven-segment digits`, `8x8 dots`.
    #[must_use]
    pub fn summary(&self) -> String {
        let Grid { width, height } = self.dots;
        match self.digits {
            0 => format!("{width}x{height} dots"),
            1 => format!("1 {}-segment digit", self.style),
            digits => format!("{digits} {}-segment digits", self.style),
        }
    }

    /// The dot in this column and row, counted from the top left.
    #[must_use]
    pub const fn dot(&self, x: usize, y: usize) -> Element {
        Element(self.digits * self.style.segment_count() + y * self.dots.width + x)
    }

    /// What an element is, in words: `digit 2 dp`, `dot 3,0`, or the name of a colon or lamp.
    #[must_use]
    pub fn name_of(&self, element: Element) -> String {
        let (count, dots) = (self.style.segment_count(), self.digits * self.style.segment_count());
        let extras = self.extra(0).0;
        match element.0 {
            index if index < dots => {
                format!("digit {} {}", index / count, self.style.segment_names()[index % count])
            }
            index if index < extras => {
                format!("dot {},{}", (index - dots) % self.dots.width, (index - dots) / self.dots.width)
            }
            index => self.extras.get(index - extras).map_or_else(String::new, |extra| extra.name.clone()),
        }
    }

    /// The element that is colon or lamp `extra`, by its place in [`Self::extras`].
    #[must_use]
    pub const fn extra(&self, extra: usize) -> Element {
        Element(self.digits * self.style.segment_count() + self.dots.width * self.dots.height + extra)
    }

    /// The colon after so many digits, by its place in [`Self::extras`].
    #[must_use]
    pub fn colon(&self, digits: usize) -> Option<usize> {
        self.extras.iter().position(|extra| extra.kind == ExtraKind::Colon { after: digits })
    }

    /// After how many digits colons stand.
    pub fn colons(&self) -> impl Iterator<Item = usize> {
        self.extras.iter().filter_map(|extra| match extra.kind {
            ExtraKind::Colon { after } => Some(after),
            ExtraKind::Lamp => None,
        })
    }

    /// Whether it has any colon.
    #[must_use]
    pub fn has_colons(&self) -> bool {
        self.colons().next().is_some()
    }

    /// Lights a colon or lamp fully; one that the face has not is left out.
    pub fn put_extra(&self, frame: &mut Frame, extra: usize) {
        if let Some(level) = frame.levels_mut().get_mut(self.extra(extra).0) {
            *level = Level::FULL;
        }
    }

    /// The element that is segment `segment` of digit `digit`.
    #[must_use]
    pub const fn element(&self, digit: usize, segment: usize) -> Element {
        Element(digit * self.style.segment_count() + segment)
    }

    /// A frame of this face with nothing lit.
    #[must_use]
    pub fn blank(&self) -> Frame {
        Frame::dark(self.element_count())
    }

    /// Lights just these segments of a digit, fully; a digit that the face has not is left out.
    #[inline]
    pub fn put(&self, frame: &mut Frame, digit: usize, segments: Segments) {
        let count = self.style.segment_count();
        let segments_end = self.digits * count;
        let levels = frame.levels_mut().get_mut(digit * count..segments_end).unwrap_or_default();
        match self.style {
            Style::Seven => put_levels::<{ Style::Seven.segment_count() }>(levels, segments),
            Style::Fourteen => put_levels::<{ Style::Fourteen.segment_count() }>(levels, segments),
            Style::Sixteen => put_levels::<{ Style::Sixteen.segment_count() }>(levels, segments),
        }
    }

    /// The segments of a digit that are lit at all.
    #[must_use]
    pub fn lit(&self, frame: &Frame, digit: usize) -> Segments {
        let count = self.style.segment_count();
        let levels = frame.levels().iter().skip(digit * count).take(count).enumerate();
        levels.filter(|(_, level)| **level != Level::OFF).map(|(index, _)| index).collect()
    }
}

/// The levels of eight segments, by their bits: faster than bit by bit.
static SPREAD: [[Level; 8]; 256] = spread();

const fn spread() -> [[Level; 8]; 256] {
    let mut table = [[Level::OFF; 8]; 256];
    let mut bits = 0;
    while bits < 256 {
        let mut index = 0;
        while index < 8 {
            if bits >> index & 1 == 1 {
                table[bits][index] = Level::FULL;
            }
            index += 1;
        }
        bits += 1;
    }
    table
}

/// Sets the first `N` levels. The number is known when compiling, so that no loop is left of it.
#[inline]
fn put_levels<const N: usize>(levels: &mut [Level], segments: Segments) {
    let Some(levels) = levels.first_chunk_mut::<N>() else { return };
    let bytes = segments.0.to_le_bytes().map(usize::from);
    let (eights, rest) = levels.as_chunks_mut::<8>();
    for (eight, bits) in eights.iter_mut().zip(bytes) {
        *eight = SPREAD[bits];
    }
    rest.copy_from_slice(&SPREAD[bytes[N / 8]][..N % 8]);
}
