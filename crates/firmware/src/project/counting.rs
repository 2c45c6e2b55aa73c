//! Counts that a program counts by itself, and how it writes numbers.

use std::collections::BTreeSet;
use std::time::Duration;

use super::error::CannotWrite;
use super::field::{Columns, Field};
use super::passage::{Counting, Figures};
use super::story::{Onto, Writing, millis};
use spare_tile_core::content::number::{Decimal, Radix};
use spare_tile_core::face::Element;
use spare_tile_core::frame::Frame;
use spare_tile_core::plan::Mount;
use spare_tile_core::play::count::Count;

impl Writing<'_> {
    pub(super) fn count(
        &self,
        count: &Count,
        onto: &Onto<'_>,
        (length, period): (Option<Duration>, Option<Duration>),
    ) -> Result<Option<Counting>, CannotWrite> {
        let plan = count.plan();
        let whole = |number: i128| i64::try_from(number).ok();
        let last = plan.from + plan.step * i128::from(plan.numbers - 1);
        let (Some(from), Some(step), Some(_)) = (whole(plan.from), whole(plan.step), whole(last)) else {
            return Ok(None);
        };
        let (every, hold) = (millis(plan.every)?, millis(plan.hold)?);
        let (mut numbers, mut hold, mut times) =
            (plan.numbers, hold, if plan.again { None } else { Some(1) });
        if let Some(length) = length {
            let length = millis(length)?;
            let run = u64::from(every) * (numbers - 1) + u64::from(hold);
            if run == 0 {
                return Ok(None);
            }
            if u64::from(length) <= run {
                // It is cut short.
                let whole = u64::from(length.saturating_sub(1)).checked_div(u64::from(every)).unwrap_or(0);
                let shown = (whole + 1).min(numbers);
                hold = length - every * (shown - 1) as u32;
                (numbers, times) = (shown, Some(1));
            } else if u64::from(length) % run == 0 && (plan.again || period.is_some()) {
                times = Some((u64::from(length) / run) as u32);
            } else {
                return Ok(None);
            }
        } else if period.is_some() {
            times = None;
        }
        let number = |units: i128| Decimal::new(units, plan.places);
        let draw = |units: i128| onto(&|canvas| count.draw_number(number(units), canvas));
        let format = count.format();
        if format.radix != Radix::Decimal || format.thousands {
            return Ok(None);
        }
        let all: Vec<i128> = some_of(numbers).map(|n| plan.from + plan.step * i128::from(n)).collect();
        let figures = Figures::learn(self.mount, &all, &draw, plan.places as usize);
        Ok(figures.map(|figures| Counting { from, step, numbers, every, hold, times, figures }))
    }
}

impl Figures {
    /// Learns how numbers are written from whoever draws them, and checks it on these numbers. `None` where they are not written
    /// figure by figure from the right.
    pub(super) fn learn(
        mount: &Mount,
        numbers: &[i128],
        draw: &dyn Fn(i128) -> Frame,
        places: usize,
    ) -> Option<Self> {
        // A sign has a seat before the figures.
        let seats_of = |number: &i128| {
            number.unsigned_abs().to_string().len().max(places + 1) + usize::from(*number < 0)
        };
        let most = numbers.iter().map(seats_of).max()?;
        let value = |figures: &[u8]| figures.iter().fold(0, |value, figure| value * 10 + i128::from(*figure));
        let columns = Columns::of(mount);
        let of_seats = |count: usize| Field::learn(&columns, count, &|figures| draw(value(figures)));
        // Where numbers are filled up with zeros there are more seats than figures.
        let shortest = columns.lit(&draw(1));
        let is_filled_up = |field: &Field| {
            let seats = field.seats.len();
            let zeros = field.seats[..seats - 1].iter().map(|seat| (*seat, &field.figures[0]));
            let last = std::iter::once((field.seats[seats - 1], &field.figures[1]));
            field.compose(&columns, zeros.chain(last)) == shortest
        };
        let filled_up =
            (most + 1..=mount.face.digits()).rev().find_map(|count| of_seats(count).filter(is_filled_up));
        let field = filled_up.or_else(|| of_seats(most))?;
        let minus = if numbers.iter().any(|number| *number < 0) {
            let lights = columns.lit(&draw(-8 * 10_i128.pow(places as u32)));
            let plain = columns.lit(&draw(8 * 10_i128.pow(places as u32)));
            let sign: BTreeSet<_> = lights.difference(&plain).copied().collect();
            // It stands in the seat before the first figure, where there is one.
            let before = field.seats.len().checked_sub(places + 2)?;
            Some(field.pattern(&columns, &sign, field.seats[before])?)
        } else {
            None
        };
        let fits = |least: usize| {
            let figures = Self { field: field.clone(), least, minus: minus.clone() };
            numbers
                .iter()
                .all(|number| {
                    let drawn = draw(*number);
                    columns.is_in(&drawn, &figures.field.ink)
                        && figures.compose(&columns, *number) == Some(columns.lit(&drawn))
                })
                .then_some(figures)
        };
        fits(places + 1).or_else(|| fits(field.seats.len()))
    }

    /// What is lit for a number, as the program lights it; `None` where it has too few seats.
    fn compose(&self, columns: &Columns<'_>, number: i128) -> Option<BTreeSet<Element>> {
        let (mut rest, mut seats) = (number.unsigned_abs(), self.field.seats.iter().rev());
        let (mut seated, mut written) = (Vec::new(), 0);
        while rest > 0 || written < self.least {
            seated.push((*seats.next()?, &self.field.figures[(rest % 10) as usize]));
            rest /= 10;
            written += 1;
        }
        if number < 0 {
            seated.push((*seats.next()?, self.minus.as_ref()?));
        }
        Some(self.field.compose(columns, seated.into_iter()))
    }
}

/// All of so many, or where they are very many the first, the last and some between, whose last figures are all there are.
fn some_of(count: u64) -> impl Iterator<Item = u64> {
    let step = usize::try_from(stride(count, 1000)).unwrap_or(usize::MAX);
    (0..count).step_by(step).chain([count - 1])
}

/// How far to go at a time through so many numbers, so that about `most` of them are met and all last figures among them: strides of ten,
/// of two or of five would leave some out.
pub(super) fn stride(count: u64, most: u64) -> u64 {
    (1..=count / most).rev().find(|step| step % 2 > 0 && step % 5 > 0).unwrap_or(1)
}
