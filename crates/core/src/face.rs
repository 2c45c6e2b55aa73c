//! A face: one display that a person looks at.

use crate::frame::{Frame, Level};
use crate::glyph::{Common, OwnGlyphs, Segments, Style};
use crate::units::{Milliamps, Volts};
use crate::words::words;

/// Anything of a face that can light, by number. On a segment face the elements are the segments of digit 0
/// in the style's order, then those of digit 1, and so on; on a face of dots they are the dots, row by row, each
/// with its red, green and blue where it has several. The colons and lamps come last.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Element(pub usize);

words! {
    /// The colour of a face's lights.
    #[derive(Default)]
    pub enum Colour {
        /// Red.
        #[default]
        Red = "red",
        /// Orange.
        Orange = "orange",
        /// Amber.
        Amber = "amber",
        /// Yellow.
        Yellow = "yellow",
        /// Green.
        Green = "green",
        /// Blue.
        Blue = "blue",
        /// White.
        White = "white",
    }
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

/// The facts about the lights of a face.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Light {
    /// Their look.
    pub colour: Colour,
    /// The voltage across a lit one.
    pub forward: Volts,
    /// The mean current that one is wanted to get.
    pub wanted: Option<Milliamps>,
    /// The absolute maximum in a pulse, where the rig tells what the data sheet says.
    pub peak: Option<Milliamps>,
}

impl Light {
    /// A usual light of this colour.
    #[must_use]
    pub const fn of(colour: Colour) -> Self {
        Self { colour, forward: colour.usual_forward(), wanted: None, peak: None }
    }
}

/// The layout of a face.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Layout {
    /// Digits in a row.
    Digits {
        /// How many segments each has.
        style: Style,
        /// How many there are, from 1 to [`Face::MAX_DIGITS`].
        count: usize,
    },
    /// Dots in rows and columns.
    Dots(Grid),
}

impl Layout {
    /// A short description: `4 seven-segment digits`.
    #[must_use]
    pub fn summary(&self) -> String {
        match *self {
            Self::Dots(Grid { width, height, channels: Channels::One }) => format!("{width}x{height} dots"),
            Self::Dots(Grid { width, height, channels: Channels::Two }) => {
                format!("{width}x{height} dots in red and green")
            }
            Self::Dots(Grid { width, height, .. }) => format!("{width}x{height} dots in colour"),
            Self::Digits { style, count: 1 } => format!("1 {style}-segment digit"),
            Self::Digits { style, count } => format!("{count} {style}-segment digits"),
        }
    }
}

/// The dots of a face.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Grid {
    /// From left to right, up to [`Face::MAX_WIDTH`].
    pub width: usize,
    /// From top to bottom, up to [`Face::MAX_HEIGHT`].
    pub height: usize,
    /// The colours of each dot.
    pub channels: Channels,
}

/// The colours of a dot.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum Channels {
    /// One light: on, off, or grey.
    #[default]
    One,
    /// Two lights, red and green.
    Two,
    /// Three lights, red, green and blue.
    Three,
}

impl Channels {
    /// How many elements a dot has.
    #[must_use]
    pub const fn count(self) -> usize {
        match self {
            Self::One => 1,
            Self::Two => 2,
            Self::Three => 3,
        }
    }

    /// Returns the name for dots with these colours.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::One => "dots of one colour",
            Self::Two => "dots of red and green",
            Self::Three => "dots of red, green and blue",
        }
    }

    /// The colours of the lights, in the order of a dot's elements; none where there is one light.
    #[must_use]
    pub const fn names(self) -> &'static [&'static str] {
        match self {
            Self::One => &[],
            Self::Two => &["red", "green"],
            Self::Three => &["red", "green", "blue"],
        }
    }
}

impl Grid {
    /// Dots of one light each.
    #[must_use]
    pub const fn plain(width: usize, height: usize) -> Self {
        Self { width, height, channels: Channels::One }
    }

    /// How many elements all dots have.
    #[must_use]
    pub const fn element_count(&self) -> usize {
        self.width * self.height * self.channels.count()
    }
}

/// A light of a face that is not a segment of a digit.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Extra {
    /// How a text names it in braces: `colon2`, or the lamp's own name.
    pub name: String,
    /// Its kind.
    pub kind: ExtraKind,
}

/// The kind of a light that is not a segment.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum ExtraKind {
    /// A colon after this number of digits.
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
    /// Its digits or dots.
    pub layout: Layout,
    /// Its colons and lamps.
    pub extras: Vec<Extra>,
    /// True if all its digits have points.
    pub points: bool,
    /// Characters of the rig's own.
    pub own_glyphs: OwnGlyphs,
    /// Which side of each digit's lights is joined, or of each row of dots.
    pub common: Common,
    /// Its lights.
    pub light: Light,
    /// From the middle of one dot to that of the next, in millimetres, where the rig says it.
    pub pitch_mm: Option<f64>,
}

impl Face {
    /// The most digits that a face may have.
    pub const MAX_DIGITS: usize = 64;
    /// The most dots that a face may have from left to right.
    pub const MAX_WIDTH: usize = 1024;
    /// The most dots that a face may have from top to bottom.
    pub const MAX_HEIGHT: usize = 256;

    /// How many digits it has; none on a face of dots.
    #[must_use]
    #[inline]
    pub const fn digits(&self) -> usize {
        match self.layout {
            Layout::Digits { count, .. } => count,
            Layout::Dots(_) => 0,
        }
    }

    /// The style of its digits; on a face of dots, which has none to draw, seven segments.
    #[must_use]
    #[inline]
    pub const fn style(&self) -> Style {
        match self.layout {
            Layout::Digits { style, .. } => style,
            Layout::Dots(_) => Style::Seven,
        }
    }

    /// Its dots; `None` on a face of digits.
    #[must_use]
    pub const fn dots(&self) -> Option<Grid> {
        match self.layout {
            Layout::Digits { .. } => None,
            Layout::Dots(grid) => Some(grid),
        }
    }

    /// How many elements the face has.
    #[must_use]
    pub fn element_count(&self) -> usize {
        self.extra(0).0 + self.extras.len()
    }

    /// Describes it in words: `4 seven-segment digits`, `8x8 dots`.
    #[must_use]
    pub fn summary(&self) -> String {
        self.layout.summary()
    }

    /// The dot in this column and row, counted from the top left; where it has three lights, the red one, which the
    /// green and the blue follow. `None` where the face has no such dot.
    #[must_use]
    pub const fn dot(&self, x: usize, y: usize) -> Option<Element> {
        match self.layout {
            Layout::Dots(grid) if x < grid.width && y < grid.height => {
                Some(Element((y * grid.width + x) * grid.channels.count()))
            }
            _ => None,
        }
    }

    /// Describes an element in words: `digit 2 dp`, `dot 3,0`, `dot 3,0 red`, or the name of a colon or lamp.
    #[must_use]
    pub fn name_of(&self, element: Element) -> String {
        let Element(index) = element;
        if let Some(extra) = index.checked_sub(self.extra(0).0) {
            return self.extras.get(extra).map_or_else(String::new, |extra| extra.name.clone());
        }
        match self.layout {
            Layout::Digits { style, .. } => {
                let count = style.segment_count();
                format!("digit {} {}", index / count, style.segment_names()[index % count])
            }
            Layout::Dots(Grid { width, channels, .. }) => {
                let dot = index / channels.count();
                let place = format!("dot {},{}", dot % width, dot / width);
                match channels.names().get(index % channels.count()) {
                    None => place,
                    Some(colour) => format!("{place} {colour}"),
                }
            }
        }
    }

    /// The element that is colon or lamp `extra`, by its place in [`Self::extras`].
    #[must_use]
    pub const fn extra(&self, extra: usize) -> Element {
        let before = match self.layout {
            Layout::Digits { style, count } => count * style.segment_count(),
            Layout::Dots(grid) => grid.element_count(),
        };
        Element(before + extra)
    }

    /// The colon after this number of digits, by its place in [`Self::extras`].
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

    /// Returns true if it has any colon.
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
        Element(digit * self.style().segment_count() + segment)
    }

    /// A frame of this face with nothing lit.
    #[must_use]
    pub fn blank(&self) -> Frame {
        Frame::dark(self.element_count())
    }

    /// Lights just these segments of a digit, fully; a digit that the face has not is left out.
    #[inline]
    pub fn put(&self, frame: &mut Frame, digit: usize, segments: Segments) {
        let count = self.style().segment_count();
        let segments_end = self.digits() * count;
        let levels = frame.levels_mut().get_mut(digit * count..segments_end).unwrap_or_default();
        match self.style() {
            Style::Seven => put_levels::<{ Style::Seven.segment_count() }>(levels, segments),
            Style::Fourteen => put_levels::<{ Style::Fourteen.segment_count() }>(levels, segments),
            Style::Sixteen => put_levels::<{ Style::Sixteen.segment_count() }>(levels, segments),
        }
    }

    /// The segments of a digit that are lit at all.
    #[must_use]
    pub fn lit(&self, frame: &Frame, digit: usize) -> Segments {
        let count = self.style().segment_count();
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
