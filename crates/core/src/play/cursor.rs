//! A cursor on a number: one of its figures blinks, and keys change that one.

use std::time::Duration;

use super::reading::Reading;
use super::{Act, Inputs, Kind, duration};
use crate::content::{Canvas, Region};
use crate::frame::Level;

/// A variable on digits, with a cursor.
#[derive(Debug, Clone, PartialEq)]
pub struct Cursor {
    /// The variable that is shown.
    pub reading: Reading,
    /// The variable that says at which figure the cursor is: 0 is the ones, 1 the tens, -1 the tenths.
    pub at: String,
}

/// The cursor is dark for the second half of each of these.
pub const BLINK: Duration = Duration::from_secs(1);

impl Cursor {
    /// The digit that the cursor is on, counted from the last; `None` where it is on none.
    fn digit(&self, elapsed: Duration, inputs: &Inputs) -> Option<usize> {
        let figure = inputs.value(&self.at, elapsed)?.number()?.in_units(0);
        let value = self.reading.value_at(elapsed, inputs)?;
        let places = self.reading.format.places.unwrap_or(value.places());
        usize::try_from(figure + i128::from(places)).ok()
    }
}

impl Act for Cursor {
    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        self.reading.draw(elapsed, inputs, canvas);
        let is_dark = elapsed.as_nanos() % BLINK.as_nanos() >= BLINK.as_nanos() / 2;
        let (Region::Digits { start, length }, true) = (canvas.region(), is_dark) else { return };
        let Some(before) = self.digit(elapsed, inputs).and_then(|digit| length.checked_sub(digit + 1)) else {
            return;
        };
        // The last segment of a digit is its point, which does not belong to the figure.
        let segments = canvas.face().style().segment_count();
        let first = (start + before) * segments;
        canvas.levels_mut()[first..first + segments - 1].fill(Level::OFF);
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        let half = BLINK.as_nanos() / 2;
        let blink = duration((elapsed.as_nanos() / half + 1) * half);
        let moved = inputs.next_value(&self.at, elapsed);
        [Some(blink), moved, self.reading.next_change(elapsed, inputs)].into_iter().flatten().min()
    }

    fn length(&self) -> Option<Duration> {
        None
    }

    fn variables(&self) -> Vec<&str> {
        vec![&self.reading.variable, &self.at]
    }

    fn kind(&self) -> Kind<'_> {
        Kind::Cursor(self)
    }
}
