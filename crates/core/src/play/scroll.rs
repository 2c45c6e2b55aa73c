//! A picture that moves across a face of dots: it enters from beyond one edge and leaves wholly beyond the other.

use std::time::Duration;

use super::{Act, Inputs};
use crate::content::lettering::paint;
use crate::content::{Canvas, Region};
use crate::dots::Bitmap;
use crate::frame::Level;

/// The way it moves.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[allow(missing_docs, reason = "the words say it")]
pub enum Move {
    Left,
    Right,
    Up,
    Down,
}

/// A picture that moves dot by dot.
#[derive(Debug, Clone, PartialEq)]
pub struct Scroll {
    /// What moves.
    pub strip: Bitmap,
    /// Which way.
    pub way: Move,
    /// How long it stands before each dot further: more than nothing.
    pub step: Duration,
    /// Dots between its end and its next beginning; none where it leaves wholly before it comes again.
    pub gap: Option<usize>,
    /// How often it passes; none without end.
    pub times: Option<u32>,
    /// The width and height of the face, or of its part, that it moves across.
    pub room: (usize, usize),
}

impl Scroll {
    /// From its entry to where its next entry is due, in dots.
    fn passage(&self) -> u64 {
        let (own, room) = match self.way {
            Move::Left | Move::Right => (self.strip.width(), self.room.0),
            Move::Up | Move::Down => (self.strip.height(), self.room.1),
        };
        (own + self.gap.unwrap_or(room)) as u64
    }

    /// How far the face is, in the direction of the move.
    fn across(&self) -> u64 {
        match self.way {
            Move::Left | Move::Right => self.room.0 as u64,
            Move::Up | Move::Down => self.room.1 as u64,
        }
    }

    /// How many dots it has moved; the last is that at which it has left for good.
    fn moved(&self, elapsed: Duration) -> u64 {
        let moved = elapsed.as_nanos() / self.step.as_nanos().max(1);
        let moved = u64::try_from(moved).unwrap_or(u64::MAX);
        self.last().map_or(moved, |last| moved.min(last))
    }

    /// After how many dots it has left for good.
    fn last(&self) -> Option<u64> {
        let times = u64::from(self.times?);
        // The last passage ends when its end has crossed the whole face.
        let own = self.passage() - self.gap.map_or(self.across(), |gap| gap as u64);
        Some(times.saturating_sub(1) * self.passage() + own + self.across())
    }

    /// How long it takes, where it ends.
    fn whole(&self) -> Option<Duration> {
        let nanos = u128::from(self.last()?) * self.step.as_nanos();
        Some(Duration::from_nanos(u64::try_from(nanos).unwrap_or(u64::MAX)))
    }
}

impl Act for Scroll {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        let Region::Dots { width, height, .. } = canvas.region() else { return };
        let (moved, passage) = (self.moved(elapsed), self.passage().max(1));
        // Each passage that may be in sight: where one with a gap follows, more than one.
        let first = moved.saturating_sub(self.across() + passage) / passage;
        for number in first..=moved / passage {
            if self.times.is_some_and(|times| number >= u64::from(times)) {
                break;
            }
            let since = (moved - number * passage) as isize;
            let (own_width, own_height) = (self.strip.width() as isize, self.strip.height() as isize);
            let middle = |room: usize, own: isize| (room as isize - own).div_euclid(2);
            let place = match self.way {
                Move::Left => (width as isize - since, middle(height, own_height)),
                Move::Right => (since - own_width, middle(height, own_height)),
                Move::Up => (middle(width, own_width), height as isize - since),
                Move::Down => (middle(width, own_width), since - own_height),
            };
            paint(canvas, &self.strip, place, Level::FULL);
        }
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        let next = self.moved(elapsed) + 1;
        if self.last().is_some_and(|last| next > last) {
            return None;
        }
        let nanos = u128::from(next) * self.step.as_nanos().max(1);
        Some(Duration::from_nanos(u64::try_from(nanos).ok()?))
    }

    fn length(&self) -> Option<Duration> {
        self.whole()
    }
}
