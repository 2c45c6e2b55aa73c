//! A counter: one number after another, at even steps of time.

use std::time::Duration;

use super::{Act, Inputs, Kind};
use crate::content::Canvas;
use crate::content::lettering::{Lettering, LetteringError, Look};
use crate::content::number::{Decimal, NumberError, NumberFormat, Room};
use crate::content::text::Align;
use crate::face::Face;

/// The time for each number by default.
pub const EVERY: Duration = Duration::from_secs(1);

/// The numbers of a count.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Range {
    /// The first number.
    pub from: Decimal,
    /// Where it ends; none where it goes on as long as numbers fit the face.
    pub to: Option<Decimal>,
    /// How far each step goes. Towards an end its sign does not matter.
    pub step: Decimal,
}

/// Counts from one number to another, up or down as they lie, right-aligned on the face.
///
/// Each number stays for `every`, the last one for `hold`. The last one is the end, or where the step does not divide the
/// way, the last whole step before it.
#[derive(Debug, Clone, PartialEq)]
pub struct Count {
    /// The first number, in units of the last place.
    from: i128,
    /// How far each step goes, in the same units.
    step: i128,
    /// How many steps lead to the last number.
    steps: u64,
    /// How many places the numbers have.
    places: u32,
    /// How long each number but the last stays; more than zero.
    every: Duration,
    /// How long the last number stays.
    hold: Duration,
    /// How the numbers are written.
    format: NumberFormat,
    /// How they look on dots.
    look: Option<Look>,
    /// True if it begins again after the hold.
    again: bool,
}

/// A count as numbers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CountPlan {
    /// The first number, in units of the last place.
    pub from: i128,
    /// How far each step goes, in the same units.
    pub step: i128,
    /// How many numbers come.
    pub numbers: u64,
    /// How many places they have.
    pub places: u32,
    /// How long each stays but the last.
    pub every: Duration,
    /// How long the last one stays.
    pub hold: Duration,
    /// True if it begins again after that.
    pub again: bool,
}

/// How long numbers stay.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Pace {
    /// Each number but the last; more than zero.
    pub every: Duration,
    /// The last number.
    pub hold: Duration,
    /// True if it begins again after that. A count without an end always does.
    pub again: bool,
}

/// Why something cannot be counted.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say it")]
pub enum CountError {
    #[error("a step of 0 has no effect")]
    NoStep,
    #[error("{0}")]
    Number(#[from] NumberError),
    #[error("{0}")]
    Lettering(#[from] LetteringError),
}

/// More steps than anybody watches.
const MOST_STEPS: u64 = 1_000_000_000_000;

impl Count {
    /// A count on a face; on dots it looks as `look` says.
    ///
    /// # Errors
    /// When a number that comes does not fit the face.
    pub fn new(
        range: Range,
        pace: Pace,
        format: NumberFormat,
        look: Option<Look>,
        face: &Face,
    ) -> Result<Self, CountError> {
        let look = look.filter(|_| face.dots().is_some()).map(|look| Look { align: Align::Right, ..look });
        let Range { from, to, step } = range;
        let places = from.places().max(step.places()).max(to.map_or(0, Decimal::places));
        let (first, last) = (from.in_units(places), to.map(|to| to.in_units(places)));
        let step = match (step.in_units(places), last) {
            (0, _) => return Err(CountError::NoStep),
            (step, Some(last)) if last < first => -step.abs(),
            (step, Some(_)) => step.abs(),
            (step, None) => step,
        };
        let mut count = Self {
            from: first,
            step,
            steps: 0,
            places,
            every: pace.every,
            hold: if last.is_some() { pace.hold } else { pace.every },
            format,
            look,
            again: pace.again || last.is_none(),
        };
        let room = count.room(face);
        if let Some(look) = &count.look {
            // Whatever the figures, the font must have them, and its rows are the face's.
            let words = count.format.write(count.number(0), room)?;
            Lettering::of_number(words, look).draw(&mut Canvas::whole(face, &mut face.blank()))?;
        }
        count.format.write(count.number(0), room)?;
        let fits = |steps: u64| count.format.write(count.number(steps), room).map(|_| ());
        count.steps = match last {
            Some(last) => {
                let steps = first.abs_diff(last) / step.unsigned_abs();
                let steps = u64::try_from(steps).unwrap_or(u64::MAX).min(MOST_STEPS);
                // The ends are the longest numbers that come.
                fits(steps)?;
                steps
            }
            None => most_that(|steps| fits(steps).is_ok()),
        };
        Ok(count)
    }

    /// The room for its numbers on a face: on dots by the width of the figures.
    fn room(&self, face: &Face) -> Room {
        match (&self.look, face.dots()) {
            (Some(look), Some(grid)) => Room { digits: look.digits_in(grid.width), points: true },
            _ => Room::of(face),
        }
    }

    /// The number after `steps` steps.
    const fn number(&self, steps: u64) -> Decimal {
        let way = self.step.saturating_mul(steps as i128);
        Decimal::new(self.from.saturating_add(way), self.places)
    }

    /// The last number.
    #[must_use]
    pub const fn last(&self) -> Decimal {
        self.number(self.steps)
    }

    fn every_nanos(&self) -> u128 {
        self.every.as_nanos().max(1)
    }

    /// The length of one run, in nanoseconds.
    fn run(&self) -> u128 {
        u128::from(self.steps).saturating_mul(self.every_nanos()).saturating_add(self.hold.as_nanos())
    }

    /// When the current run began, and how many steps have been taken since.
    fn place(&self, elapsed: Duration) -> (u128, u64) {
        let (elapsed, run) = (elapsed.as_nanos(), self.run());
        let began = if self.again && run > 0 { elapsed - elapsed % run } else { 0 };
        let taken = (elapsed - began) / self.every_nanos();
        (began, u64::try_from(taken).unwrap_or(u64::MAX).min(self.steps))
    }

    /// The numbers that come, one every so long, the last one for another time; and whether it then begins again.
    #[must_use]
    pub const fn plan(&self) -> CountPlan {
        CountPlan {
            from: self.from,
            step: self.step,
            numbers: self.steps + 1,
            places: self.places,
            every: self.every,
            hold: self.hold,
            again: self.again,
        }
    }

    /// How the numbers are written.
    #[must_use]
    pub const fn format(&self) -> &NumberFormat {
        &self.format
    }

    /// Draws one number as it draws those that it counts.
    pub fn draw_number(&self, number: Decimal, canvas: &mut Canvas<'_>) {
        if let Some(look) = &self.look {
            let words = self.format.write_live(number, self.room(canvas.face()));
            if Lettering::of_number(words, look).draw(canvas).is_err() {
                canvas.clear();
            }
            return;
        }
        let number = self.format.write_live(number, canvas.room());
        // A unit or word that the face cannot show leaves it dark: there is nobody to tell.
        if canvas.write(&number, Align::Right).is_err() {
            canvas.clear();
        }
    }

    /// The number at a moment.
    #[must_use]
    pub fn number_at(&self, elapsed: Duration) -> Decimal {
        self.number(self.place(elapsed).1)
    }
}

impl Act for Count {
    fn kind(&self) -> Kind<'_> {
        Kind::Count(self)
    }

    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        self.draw_number(self.number_at(elapsed), canvas);
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        let (began, taken) = self.place(elapsed);
        let next = if taken < self.steps {
            began.saturating_add((u128::from(taken) + 1).saturating_mul(self.every_nanos()))
        } else if self.again && self.steps > 0 {
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

/// The most steps that will do, where fewer always do too.
fn most_that(will_do: impl Fn(u64) -> bool) -> u64 {
    let mut too_many = 1;
    while too_many < MOST_STEPS && will_do(too_many) {
        too_many *= 2;
    }
    let (mut least, mut most) = (too_many / 2, too_many.min(MOST_STEPS));
    while most - least > 1 {
        let middle = least + (most - least) / 2;
        if will_do(middle) { least = middle } else { most = middle }
    }
    least
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

    const PACE: Pace = Pace { every: SECOND, hold: Duration::from_secs(3), again: false };

    fn desk() -> Face {
        let rig = crate::plan::Rig::read(
            "[face.desk]\nkind = \"seven-segment\"\ndigits = 4\n[face.desk.drive]\nmethod = \"max7219\"\n\
             pins = { data = 1, clock = 2, select = 3 }",
        );
        rig.rig.unwrap().faces.remove(0).face
    }

    fn count(from: &str, to: Option<&str>, step: &str, pace: Pace) -> Result<Count, CountError> {
        let decimal = |text: &str| text.parse().unwrap();
        let range = Range { from: decimal(from), to: to.map(decimal), step: decimal(step) };
        Count::new(range, pace, NumberFormat::default(), None, &desk())
    }

    /// The numbers and the moments at which they appear, as a player would see them.
    fn shown(count: &Count, moments: usize) -> Vec<(u64, String)> {
        let times = std::iter::successors(Some(Duration::ZERO), |elapsed| {
            count.next_change(*elapsed, &Inputs::default())
        });
        let room = Room::of(&desk());
        let number = |elapsed| count.format.write(count.number_at(elapsed), room).unwrap();
        times.take(moments).map(|elapsed| (elapsed.as_secs(), number(elapsed))).collect()
    }

    fn moments(expected: &[(u64, &str)]) -> Vec<(u64, String)> {
        expected.iter().map(|(at, number)| (*at, (*number).to_owned())).collect()
    }

    #[test]
    fn it_counts_down_and_holds_the_end() {
        let down = count("2", Some("0"), "1", PACE).unwrap();
        assert_eq!(shown(&down, 9), moments(&[(0, "2"), (1, "1"), (2, "0")]));
        assert_eq!(down.length(), Some(5 * SECOND));
        assert_eq!(down.number_at(100 * SECOND), Decimal::new(0, 0));
    }

    #[test]
    fn again_begins_after_the_hold() {
        let again = count("0", Some("1"), "1", Pace { again: true, ..PACE }).unwrap();
        assert_eq!(shown(&again, 5), moments(&[(0, "0"), (1, "1"), (4, "0"), (5, "1"), (8, "0")]));
        assert_eq!(again.length(), None);
    }

    #[test]
    fn steps_are_never_shortened() {
        let uneven = count("-5", Some("5"), "4", PACE).unwrap();
        assert_eq!(shown(&uneven, 9), moments(&[(0, "-5"), (1, "-1"), (2, "3")]));
        assert_eq!(uneven.last(), Decimal::new(3, 0));
        let tenths = count("0", Some("-0.5"), "0.25", PACE).unwrap();
        assert_eq!(shown(&tenths, 9), moments(&[(0, "0.00"), (1, "-0.25"), (2, "-0.50")]));
        assert_eq!(count("1", Some("9"), "0.0", PACE), Err(CountError::NoStep));
    }

    #[test]
    fn without_an_end_it_goes_on_while_numbers_fit_and_then_begins_again() {
        let up = count("9998", None, "1", PACE).unwrap();
        assert_eq!(shown(&up, 4), moments(&[(0, "9998"), (1, "9999"), (2, "9998"), (3, "9999")]));
        let down = count("-997", None, "-1", PACE).unwrap();
        assert_eq!((down.last(), down.length()), (Decimal::new(-999, 0), None));
        assert!(matches!(count("-1000", None, "1", PACE), Err(CountError::Number(_))));
    }

    #[test]
    fn extremes_do_not_overflow() {
        let vast = Pace { every: Duration::MAX, again: true, ..PACE };
        let vast = count("-999", Some("9999"), "1", vast).unwrap();
        assert_eq!(vast.number_at(Duration::MAX), Decimal::new(-998, 0));
        assert_eq!(vast.next_change(Duration::MAX, &Inputs::default()), Some(Duration::MAX));
        let still = count("7", Some("7"), "1", Pace { hold: Duration::ZERO, again: true, ..PACE }).unwrap();
        assert_eq!(
            (still.number_at(SECOND), still.next_change(SECOND, &Inputs::default())),
            (Decimal::new(7, 0), None)
        );
        let long = "123456789012345678901234567";
        assert!(count(long, None, long, PACE).is_err());
        assert!(count("0", Some("1"), long, PACE).unwrap().length() == Some(3 * SECOND));
    }
}
