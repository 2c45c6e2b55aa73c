//! A counter: one number after another, at even steps of time.

use std::time::Duration;

use super::{Act, Inputs};
use crate::content::Canvas;
use crate::content::number::{NumberError, NumberFormat, Room};
use crate::content::text::Align;
use crate::face::Face;

/// Counts from one number to another, up or down as they lie, right-aligned on the face.
///
/// Each number stays for `every`, the last one for `hold`. When the step does not divide the way, the last
/// step is shorter, so that the count always ends on `to`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Count {
    /// The first number.
    pub from: i64,
    /// The last number.
    pub to: i64,
    /// How far each step goes, at least 1; its direction follows from `from` and `to`.
    pub step: u64,
    /// How long each number but the last stays; more than zero.
    pub every: Duration,
    /// How long the last number stays.
    pub hold: Duration,
    /// How the numbers are written.
    pub format: NumberFormat,
    /// Whether it begins again after the hold.
    pub again: bool,
}

impl Count {
    /// Checks that the numbers that come fit the face.
    ///
    /// # Errors
    /// When one does not.
    pub fn check(&self, face: &Face) -> Result<(), NumberError> {
        // The ends are the longest numbers that come.
        for end in [self.from, self.to] {
            self.format.write(end.into(), Room::of(face))?;
        }
        Ok(())
    }

    /// How many steps lead to the last number.
    fn steps(&self) -> u64 {
        self.from.abs_diff(self.to).div_ceil(self.step.max(1))
    }

    /// The number after `steps` steps.
    fn number(&self, steps: u64) -> i64 {
        let way = self.from.abs_diff(self.to).min(steps.saturating_mul(self.step.max(1)));
        if self.from <= self.to {
            self.from.saturating_add_unsigned(way)
        } else {
            self.from.saturating_sub_unsigned(way)
        }
    }

    fn every_nanos(&self) -> u128 {
        self.every.as_nanos().max(1)
    }

    /// The length of one run, in nanoseconds.
    fn run(&self) -> u128 {
        u128::from(self.steps()).saturating_mul(self.every_nanos()).saturating_add(self.hold.as_nanos())
    }

    /// When the current run began, and how many steps have been taken since.
    fn place(&self, elapsed: Duration) -> (u128, u64) {
        let (elapsed, run) = (elapsed.as_nanos(), self.run());
        let began = if self.again && run > 0 { elapsed - elapsed % run } else { 0 };
        let taken = (elapsed - began) / self.every_nanos();
        (began, u64::try_from(taken).unwrap_or(u64::MAX).min(self.steps()))
    }

    /// The number at a moment.
    #[must_use]
    pub fn number_at(&self, elapsed: Duration) -> i64 {
        self.number(self.place(elapsed).1)
    }
}

impl Act for Count {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        let number = self.format.write_live(self.number_at(elapsed).into(), canvas.room());
        // A unit or word that the face cannot show leaves it dark: there is nobody to tell.
        if canvas.write(&number, Align::Right).is_err() {
            canvas.clear();
        }
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        let (began, taken) = self.place(elapsed);
        let next = if taken < self.steps() {
            began.saturating_add((u128::from(taken) + 1).saturating_mul(self.every_nanos()))
        } else if self.again && self.steps() > 0 {
            began.saturating_add(self.run())
        } else {
            return None;
        };
        Some(from_nanos(next))
    }

    fn length(&self) -> Option<Duration> {
        (!self.again).then(|| from_nanos(self.run()))
    }
}

/// A duration of so many nanoseconds, or the longest there is.
fn from_nanos(nanos: u128) -> Duration {
    const SECOND: u128 = 1_000_000_000;
    u64::try_from(nanos / SECOND)
        .map_or(Duration::MAX, |seconds| Duration::new(seconds, (nanos % SECOND) as u32))
}

#[cfg(test)]
mod tests {
    use super::*;

    const SECOND: Duration = Duration::from_secs(1);

    fn count(from: i64, to: i64) -> Count {
        Count {
            from,
            to,
            step: 1,
            every: SECOND,
            hold: 3 * SECOND,
            format: NumberFormat::default(),
            again: false,
        }
    }

    /// The numbers and the moments at which they appear, as a player would see them.
    fn shown(count: &Count, moments: usize) -> Vec<(u64, i64)> {
        let times = std::iter::successors(Some(Duration::ZERO), |elapsed| {
            count.next_change(*elapsed, &Inputs::default())
        });
        times.take(moments).map(|elapsed| (elapsed.as_secs(), count.number_at(elapsed))).collect()
    }

    #[test]
    fn it_counts_down_and_holds_the_end() {
        let down = count(2, 0);
        assert_eq!(shown(&down, 9), [(0, 2), (1, 1), (2, 0)]);
        assert_eq!(down.length(), Some(5 * SECOND));
        assert_eq!(down.number_at(100 * SECOND), 0);
    }

    #[test]
    fn again_begins_after_the_hold() {
        let again = Count { again: true, ..count(0, 1) };
        assert_eq!(shown(&again, 5), [(0, 0), (1, 1), (4, 0), (5, 1), (8, 0)]);
        assert_eq!(again.length(), None);
    }

    #[test]
    fn the_last_step_is_shortened_to_end_on_the_goal() {
        let uneven = Count { step: 4, ..count(-5, 5) };
        assert_eq!(shown(&uneven, 9), [(0, -5), (1, -1), (2, 3), (3, 5)]);
    }

    #[test]
    fn extremes_do_not_overflow() {
        let vast = Count { every: Duration::MAX, again: true, ..count(i64::MIN, i64::MAX) };
        assert_eq!(vast.number_at(Duration::MAX), i64::MIN + 1);
        assert_eq!(vast.next_change(Duration::MAX, &Inputs::default()), Some(Duration::MAX));
        let still = Count { hold: Duration::ZERO, again: true, ..count(7, 7) };
        assert_eq!((still.number_at(SECOND), still.next_change(SECOND, &Inputs::default())), (7, None));
    }
}
