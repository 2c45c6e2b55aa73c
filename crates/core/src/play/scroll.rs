//! Contents that move across a face: they enter from beyond one edge and leave wholly beyond the other, a picture dot by dot or a
//! text digit by digit.

use std::time::Duration;

use super::{Act, Inputs, duration};
use crate::content::lettering::paint;
use crate::content::text::{self, TextError};
use crate::content::{Canvas, Region};
use crate::dots::inked::Inked;
use crate::face::Face;
use crate::glyph::Segments;
use crate::words::words;

words! {
    /// The way it moves.
    pub enum Move {
        /// To the left.
        Left = "left",
        /// To the right.
        Right = "right",
        /// Upwards.
        Up = "up",
        /// Downwards.
        Down = "down",
    }
}

/// How fast and how often it passes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Pace {
    /// How long it stands before each place further: more than nothing.
    pub step: Duration,
    /// Places between its end and its next beginning; none where it leaves wholly before it comes again.
    pub gap: Option<usize>,
    /// How often it passes; none without end.
    pub times: Option<u32>,
}

/// When what is so long is where on what it crosses, counted in places: dots, or digits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Passage {
    own: u64,
    room: u64,
    pace: Pace,
}

impl Passage {
    const fn new(own: usize, room: usize, pace: Pace) -> Self {
        Self { own: own as u64, room: room as u64, pace }
    }

    /// From its entry to where its next entry is due; at least one place.
    fn period(&self) -> u64 {
        (self.own + self.pace.gap.map_or(self.room, |gap| gap as u64)).max(1)
    }

    /// Returns how far it has moved; the last step is the one at which it has left.
    fn moved(&self, elapsed: Duration) -> u64 {
        let moved = elapsed.as_nanos() / self.pace.step.as_nanos().max(1);
        let moved = u64::try_from(moved).unwrap_or(u64::MAX);
        self.last().map_or(moved, |last| moved.min(last))
    }

    /// Returns the number of places after which it has left: its end has crossed the whole room.
    fn last(&self) -> Option<u64> {
        let times = u64::from(self.pace.times?);
        Some(times.saturating_sub(1) * self.period() + self.own + self.room)
    }

    /// How far each has come that may be in sight: where one with a gap follows, more than one.
    fn in_sight(&self, elapsed: Duration) -> impl Iterator<Item = isize> {
        let (moved, period) = (self.moved(elapsed), self.period());
        let first = moved.saturating_sub(self.own + self.room) / period;
        let last = self.pace.times.map_or(u64::MAX, |times| u64::from(times).saturating_sub(1));
        (first..=(moved / period).min(last)).map(move |number| (moved - number * period) as isize)
    }

    fn next_change(&self, elapsed: Duration) -> Option<Duration> {
        let next = self.moved(elapsed) + 1;
        if self.last().is_some_and(|last| next > last) {
            return None;
        }
        let nanos = u128::from(next) * self.pace.step.as_nanos().max(1);
        Some(Duration::from_nanos(u64::try_from(nanos).ok()?))
    }

    /// How long it takes, where it ends.
    fn length(&self) -> Option<Duration> {
        let nanos = u128::from(self.last()?) * self.pace.step.as_nanos();
        Some(duration(nanos))
    }
}

/// A picture that moves dot by dot.
#[derive(Debug, Clone, PartialEq)]
pub struct Scroll {
    strip: Inked,
    way: Move,
    passage: Passage,
}

impl Scroll {
    /// A picture that crosses a face, or a part of one, of this width and height.
    #[must_use]
    pub fn new(strip: impl Into<Inked>, way: Move, room: (usize, usize), pace: Pace) -> Self {
        let strip = strip.into();
        let passage = match way {
            Move::Left | Move::Right => Passage::new(strip.width(), room.0, pace),
            Move::Up | Move::Down => Passage::new(strip.height(), room.1, pace),
        };
        Self { strip, way, passage }
    }
}

impl Act for Scroll {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        let Region::Dots { width, height, .. } = canvas.region() else { return };
        let (own_width, own_height) = (self.strip.width() as isize, self.strip.height() as isize);
        let middle = |room: usize, own: isize| (room as isize - own).div_euclid(2);
        for come in self.passage.in_sight(elapsed) {
            let place = match self.way {
                Move::Left => (width as isize - come, middle(height, own_height)),
                Move::Right => (come - own_width, middle(height, own_height)),
                Move::Up => (middle(width, own_width), height as isize - come),
                Move::Down => (middle(width, own_width), come - own_height),
            };
            paint(canvas, &self.strip, place, None);
        }
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        self.passage.next_change(elapsed)
    }

    fn length(&self) -> Option<Duration> {
        self.passage.length()
    }
}

/// Where the points of a text are that passes across digits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Points {
    /// Each with the character before it: the text moves a character at a time.
    Joined,
    /// Each on a digit of its own: the text moves a character or a point at a time.
    Parted,
}

/// A text that moves digit by digit.
#[derive(Debug, Clone, PartialEq)]
pub struct PassingText {
    cells: Vec<Segments>,
    to_the_right: bool,
    passage: Passage,
}

impl PassingText {
    /// A text that crosses a number of digits of a face. A colon takes a digit: those of the face do not move.
    ///
    /// # Errors
    /// When the digits cannot show a character of it.
    pub fn new(
        text: &str,
        face: &Face,
        room: usize,
        to_the_right: bool,
        points: Points,
        pace: Pace,
    ) -> Result<Self, TextError> {
        let style = face.style();
        let mut cells = Vec::new();
        for cell in text::cells(text, face.points) {
            let (lit, point) = (cell.segments(style, &face.own_glyphs)?, cell.point);
            let bare = lit.less(style.point());
            if points == Points::Parted && point && bare != Segments::NONE {
                cells.extend([bare, style.point()]);
            } else {
                cells.push(lit);
            }
        }
        let passage = Passage::new(cells.len(), room, pace);
        Ok(Self { cells, to_the_right, passage })
    }
}

impl Act for PassingText {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        let Region::Digits { length, .. } = canvas.region() else { return };
        for come in self.passage.in_sight(elapsed) {
            let first =
                if self.to_the_right { come - self.cells.len() as isize } else { length as isize - come };
            for (place, segments) in self.cells.iter().enumerate() {
                if let Ok(digit) = usize::try_from(first + place as isize) {
                    canvas.put(digit, *segments);
                }
            }
        }
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        self.passage.next_change(elapsed)
    }

    fn length(&self) -> Option<Duration> {
        self.passage.length()
    }
}
