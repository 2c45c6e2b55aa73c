//! An act that plays several times, and then stays as it was at its end.

use std::time::Duration;

use super::dimming::Light;
use super::{Act, Inputs, duration};
use crate::content::Canvas;

/// An act that plays a number of times.
pub struct Repeated {
    act: Box<dyn Act>,
    /// How long it is once: more than nothing.
    once: Duration,
    times: u32,
}

impl Repeated {
    /// An act that takes so long once, `times` times: at least once.
    #[must_use]
    pub fn new(act: Box<dyn Act>, once: Duration, times: u32) -> Self {
        Self { act, once: once.max(Duration::from_nanos(1)), times: times.max(1) }
    }

    /// The time within the current playing, when that began, and whether it is the last one.
    fn within(&self, elapsed: Duration) -> (Duration, Duration, bool) {
        let last = u128::from(self.times) - 1;
        let run = (elapsed.as_nanos() / self.once.as_nanos()).min(last);
        let began = duration(run * self.once.as_nanos());
        (elapsed - began, began, run == last)
    }
}

impl Act for Repeated {
    fn variables(&self) -> Vec<&str> {
        self.act.variables()
    }

    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        let (within, began, _) = self.within(elapsed);
        self.act.draw(within, &inputs.since(began), canvas);
    }

    fn brightness(&self, elapsed: Duration, inputs: &Inputs) -> Option<Light> {
        let (within, began, _) = self.within(elapsed);
        self.act.brightness(within, &inputs.since(began))
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        let (within, began, is_last) = self.within(elapsed);
        let next =
            self.act.next_change(within, &inputs.since(began)).and_then(|next| began.checked_add(next));
        let again = began.checked_add(self.once).filter(|_| !is_last);
        next.into_iter().chain(again).min()
    }

    fn length(&self) -> Option<Duration> {
        Some(self.once.saturating_mul(self.times))
    }
}
