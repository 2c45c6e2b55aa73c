//! Lamps and colons that are lit, or blink.

use std::time::Duration;

use super::{Act, Inputs};
use crate::content::Canvas;
use crate::frame::Level;

/// Lights of a face beside its digits.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Lamps {
    /// Their places in [`Face::extras`](crate::face::Face::extras).
    pub lamps: Vec<usize>,
    /// How long it takes them to blink once, half of it lit; they stay lit where that is not said.
    pub blink: Option<Duration>,
}

impl Lamps {
    /// Half of the time that blinking takes, in nanoseconds.
    fn half(&self) -> Option<u128> {
        self.blink.map(|blink| (blink.as_nanos() / 2).max(1))
    }
}

impl Act for Lamps {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        if self.half().is_some_and(|half| elapsed.as_nanos() / half % 2 == 1) {
            return;
        }
        for lamp in &self.lamps {
            let element = canvas.face().extra(*lamp).0;
            canvas.levels_mut().get_mut(element).into_iter().for_each(|level| *level = Level::FULL);
        }
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        let half = self.half()?;
        let next = (elapsed.as_nanos() / half + 1) * half;
        Some(Duration::from_nanos(u64::try_from(next).ok()?))
    }

    fn length(&self) -> Option<Duration> {
        None
    }
}
