//! An act in a part of a face.

use std::time::Duration;

use super::dimming::Light;
use super::{Act, Inputs, Kind};
use crate::content::{Canvas, Region};
use crate::dots::places;
use crate::face::{Element, Extra, ExtraKind, Face, Grid, Layout};
use crate::frame::Level;

/// An act that has a part of a face for its own: it plays as on a face of that size, and nothing that was drawn there before shines
/// through. Lamps belong to the acts that name them.
pub struct Placed {
    act: Box<dyn Act>,
    region: Region,
    part: Part,
}

/// A part of a face, as a face.
#[derive(Debug, Clone, PartialEq)]
pub struct Part {
    /// The face.
    pub face: Face,
    /// The places of its colons and lamps among those of the whole.
    extras: Vec<usize>,
}

impl Part {
    /// The part of a face that a region is, with the colons between its digits and with all lamps.
    #[must_use]
    pub fn of(face: &Face, region: Region) -> Self {
        let (layout, first, last) = match (region, face.layout) {
            (Region::Digits { start, length }, Layout::Digits { style, .. }) => {
                (Layout::Digits { style, count: length }, start, start + length)
            }
            (Region::Dots { width, height, .. }, Layout::Dots(grid)) => {
                (Layout::Dots(Grid { width, height, ..grid }), 0, 0)
            }
            // A region of another kind of face is none of it.
            (_, layout) => (layout, 0, face.digits()),
        };
        let moved = |extra: &Extra| match extra.kind {
            ExtraKind::Lamp => Some(extra.clone()),
            ExtraKind::Colon { after } => (first < after && after <= last)
                .then(|| Extra { kind: ExtraKind::Colon { after: after - first }, ..extra.clone() }),
        };
        let kept = face.extras.iter().enumerate().filter_map(|(place, extra)| Some((place, moved(extra)?)));
        let (extras, own): (Vec<_>, Vec<_>) = kept.unzip();
        Self { face: Face { layout, extras: own, ..face.clone() }, extras }
    }
}

impl Placed {
    /// An act in a region. It must have been made for that [`Part`] of the face.
    #[must_use]
    pub fn new(act: Box<dyn Act>, part: Part, region: Region) -> Self {
        Self { act, region, part }
    }

    /// The act, and the face that it plays on.
    #[must_use]
    pub fn inner(&self) -> (&dyn Act, &Face) {
        (&*self.act, &self.part.face)
    }

    /// Puts what is drawn on the part in its place.
    pub fn place(&self, canvas: &mut Canvas<'_>, draw: &dyn Fn(&mut Canvas<'_>)) {
        let own = &self.part.face;
        let mut frame = own.blank();
        draw(&mut Canvas::whole(own, &mut frame));
        let whole = canvas.face();
        let levels = canvas.levels_mut();
        let mut copy = |from: Element, to: Element, count: usize| {
            if let (Some(from), Some(to)) =
                (frame.levels().get(from.0..from.0 + count), levels.get_mut(to.0..to.0 + count))
            {
                to.copy_from_slice(from);
            }
        };
        match self.region {
            Region::Digits { start, length } => {
                let count = own.style().segment_count();
                copy(own.element(0, 0), whole.element(start, 0), length * count);
            }
            Region::Dots { left, top, width, height } => {
                let count = own.dots().map_or(1, |grid| grid.channels.count());
                for (x, y) in places(width, height) {
                    if let (Some(from), Some(to)) = (own.dot(x, y), whole.dot(left + x, top + y)) {
                        copy(from, to, count);
                    }
                }
            }
        }
        for (own_place, place) in self.part.extras.iter().enumerate() {
            let lit = frame.levels()[own.extra(own_place).0];
            if let (true, Some(level)) = (lit != Level::OFF, levels.get_mut(whole.extra(*place).0)) {
                *level = lit;
            }
        }
    }
}

impl Act for Placed {
    fn variables(&self) -> Vec<&str> {
        self.act.variables()
    }

    fn kind(&self) -> Kind<'_> {
        Kind::Placed(self)
    }

    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        self.place(canvas, &|own| self.act.draw(elapsed, inputs, own));
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        self.act.next_change(elapsed, inputs)
    }

    fn length(&self) -> Option<Duration> {
        self.act.length()
    }

    fn brightness(&self, elapsed: Duration, inputs: &Inputs) -> Option<Light> {
        self.act.brightness(elapsed, inputs)
    }
}
