//! Where the figures of a number or a time stand on a face, and what they look like: learnt by having them drawn.
//!
//! ```text
//!  drawn     8 8 . 8        the same with another figure in one place: what changes is that figure's seat
//!            |_|   |_|      seats, and the lights that always stay are marks: a point, a unit
//! ```

use std::collections::BTreeSet;

use spare_tile_core::face::{Element, Face, Layout};
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::plan::Mount;

/// Where one figure stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Seat {
    /// A digit.
    Digit(usize),
    /// Columns of dots from one on; how many, the patterns say.
    Column(usize),
}

/// A figure or sign, from the left column of its seat on or as segments.
#[derive(Debug, Clone, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Pattern {
    /// Of dots each column from the left, the uppermost dot in bit 0; of segments one value with a bit each, in the style's order.
    pub columns: Vec<u32>,
}

/// Figures in their seats.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Field {
    /// From the left.
    pub seats: Vec<Seat>,
    /// The figures from 0 to 9.
    pub figures: Vec<Pattern>,
    /// What is lit beside them.
    pub marks: BTreeSet<Element>,
    /// How all of that is lit.
    pub ink: Ink,
}

/// The levels of the lights of every dot that is lit, or full light.
pub type Ink = Vec<Level>;

/// Whether a light is between dark and full.
pub(super) fn is_grey(level: Level) -> bool {
    ![Level::OFF, Level::FULL].contains(&level)
}

/// A face in columns: digits, or columns of dots.
pub(super) struct Columns<'f> {
    face: &'f Face,
    /// Whether they can be told.
    are_told: bool,
    /// Whether lights may be between dark and full.
    has_greys: bool,
    width: usize,
    /// By element: its column and its bit there. Colons and lamps have none.
    places: Vec<(usize, usize)>,
}

impl<'f> Columns<'f> {
    pub(super) fn of(mount: &'f Mount) -> Self {
        let face = &mount.face;
        let (width, count) = match face.layout {
            Layout::Digits { style, count } => (count, count * style.segment_count()),
            Layout::Dots(grid) => (grid.width, grid.element_count()),
        };
        let has_greys = mount.drive.display().grey_steps() > 1;
        let are_told = has_columns(mount);
        let mut columns = Self { face, are_told, has_greys, width, places: vec![(0, 0); count] };
        for column in 0..width {
            for bit in 0..u32::BITS as usize {
                let Some(Element(first)) = columns.element(column, bit) else { continue };
                let lights = face.dots().map_or(1, |grid| grid.channels.count());
                columns.places.iter_mut().skip(first).take(lights).for_each(|place| *place = (column, bit));
            }
        }
        columns
    }

    fn place(&self, element: Element) -> Option<(usize, usize)> {
        self.places.get(element.0).copied()
    }

    fn element(&self, column: usize, bit: usize) -> Option<Element> {
        match self.face.layout {
            Layout::Digits { style, count } => {
                (bit < style.segment_count() && column < count).then(|| self.face.element(column, bit))
            }
            Layout::Dots(_) => self.face.dot(column, bit),
        }
    }

    const fn are_digits(&self) -> bool {
        matches!(self.face.layout, Layout::Digits { .. })
    }

    /// What is lit; a dot with several lights is told by its first one.
    pub(super) fn lit(&self, frame: &Frame) -> BTreeSet<Element> {
        let lit = frame.levels().iter().enumerate().filter(|(_, level)| **level != Level::OFF);
        let first = |element: usize| match self.place(Element(element)) {
            Some((column, bit)) => self.element(column, bit).unwrap_or(Element(element)),
            None => Element(element),
        };
        lit.map(|(element, _)| first(element)).collect()
    }

    /// How all is lit that is lit in a frame: fully, or on dots with several lights each in the same colour. The inner one is `None` of a dark
    /// frame, the outer one where lights differ.
    pub(super) fn ink(&self, frame: &Frame) -> Option<Option<Ink>> {
        let lights = self.face.dots().map_or(1, |grid| grid.channels.count());
        if lights == 1 && !self.has_greys {
            return Some(Some(vec![Level::FULL]));
        }
        let mut lit =
            frame.levels().chunks(lights).filter(|dot| dot.iter().any(|level| *level != Level::OFF));
        let Some(ink) = lit.next() else { return Some(None) };
        let is_full = lights > 1 || ink == [Level::FULL];
        (is_full && lit.all(|dot| dot == ink)).then(|| Some(ink.to_vec()))
    }

    /// Whether a frame is lit as an ink says, or dark.
    pub(super) fn is_in(&self, frame: &Frame, ink: &Ink) -> bool {
        self.ink(frame).is_some_and(|of| of.is_none_or(|of| of == *ink))
    }

    /// A frame in columns: the pattern of each digit, or of each column of dots.
    pub(super) fn of_frame(&self, frame: &Frame) -> Vec<u32> {
        self.cut(&self.lit(frame), (0, self.width)).columns
    }

    /// Whether a frame lights anything but digits and dots.
    pub(super) fn has_extras(&self, frame: &Frame) -> bool {
        self.lit(frame).iter().any(|element| self.place(*element).is_none())
    }

    /// What is lit in some columns.
    fn cut(&self, lights: &BTreeSet<Element>, (first, width): (usize, usize)) -> Pattern {
        let mut cut = vec![0; width];
        for (column, bit) in lights.iter().filter_map(|element| self.place(*element)) {
            if (first..first + width).contains(&column) {
                cut[column - first] |= 1 << bit;
            }
        }
        Pattern { columns: cut }
    }

    /// The elements that a pattern lights from a column on.
    fn elements(&self, pattern: &Pattern, first: usize) -> impl Iterator<Item = Element> {
        let lit = |(column, bits): (usize, &u32)| {
            let bits = *bits;
            (0..u32::BITS as usize).filter(move |bit| bits >> bit & 1 == 1).map(move |bit| (column, bit))
        };
        let lit = pattern.columns.iter().enumerate().flat_map(lit);
        lit.filter_map(move |(column, bit)| self.element(first + column, bit))
    }
}

/// Whether the columns of a face can be told: its dots have one light, or those of a panel, and a column has at most 32 of them.
#[must_use]
pub fn has_columns(mount: &Mount) -> bool {
    let is_panel = mount.drive.display().scan().is_some();
    mount
        .face
        .dots()
        .is_none_or(|grid| (grid.channels.count() == 1 || is_panel) && grid.height <= u32::BITS as usize)
}

impl Field {
    /// Learns a field of so many figures from whoever draws them. `None` where they have no seats of their own: figures of unequal width,
    /// several colours or greys.
    pub(super) fn learn(columns: &Columns<'_>, count: usize, draw: &dyn Fn(&[u8]) -> Frame) -> Option<Self> {
        if !columns.are_told {
            return None;
        }
        let eights = vec![8; count];
        let drawn = draw(&eights);
        let ink = columns.ink(&drawn)??;
        let base = columns.lit(&drawn);
        let mut boxes = Vec::new();
        for seat in 0..count {
            let mut changing = BTreeSet::new();
            // A first figure of 0 may be left out.
            for figure in 1..=9 {
                let mut figures = eights.clone();
                figures[seat] = figure;
                let drawn = columns.lit(&draw(&figures));
                changing
                    .extend(base.symmetric_difference(&drawn).filter_map(|element| columns.place(*element)));
            }
            let first = changing.iter().map(|(column, _)| *column).min()?;
            let last = changing.iter().map(|(column, _)| *column).max()?;
            boxes.push((first, last));
        }
        let width = boxes.iter().map(|(first, last)| last - first + 1).max()?;
        let parted = boxes.windows(2).all(|pair| pair[0].0 + width <= pair[1].0);
        if !parted || boxes.last()?.0 + width > columns.width || (columns.are_digits() && width > 1) {
            return None;
        }
        let last = boxes.last()?.0;
        let figures = (0..=9).map(|figure| {
            let mut figures = eights.clone();
            *figures.last_mut()? = figure;
            Some(columns.cut(&columns.lit(&draw(&figures)), (last, width)))
        });
        let figures: Vec<_> = figures.collect::<Option<_>>()?;
        let eight = figures[8].clone();
        let mut marks = base;
        for (first, _) in &boxes {
            for element in columns.elements(&eight, *first) {
                marks.remove(&element);
            }
        }
        let seat = |(first, _): (usize, usize)| {
            if columns.are_digits() { Seat::Digit(first) } else { Seat::Column(first) }
        };
        Some(Self { seats: boxes.into_iter().map(seat).collect(), figures, marks, ink })
    }

    /// How many columns a seat has.
    #[must_use]
    pub fn width(&self) -> usize {
        self.figures.first().map_or(1, |figure| figure.columns.len())
    }

    /// The pattern of these lights in a seat; `None` where some of them are elsewhere.
    pub(super) fn pattern(
        &self,
        columns: &Columns<'_>,
        lights: &BTreeSet<Element>,
        seat: Seat,
    ) -> Option<Pattern> {
        let first = seat.first();
        let pattern = columns.cut(lights, (first, self.width()));
        (columns.elements(&pattern, first).collect::<BTreeSet<_>>() == *lights).then_some(pattern)
    }

    /// What is lit with these patterns in their seats.
    pub(super) fn compose<'p>(
        &self,
        columns: &Columns<'_>,
        seated: impl Iterator<Item = (Seat, &'p Pattern)>,
    ) -> BTreeSet<Element> {
        let mut lights = self.marks.clone();
        seated.for_each(|(seat, pattern)| lights.extend(columns.elements(pattern, seat.first())));
        lights
    }
}

impl Seat {
    /// Its digit, or its first column.
    #[must_use]
    pub const fn first(self) -> usize {
        match self {
            Self::Digit(first) | Self::Column(first) => first,
        }
    }
}
