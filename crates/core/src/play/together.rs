//! Acts that play on one face at the same time.

use std::ops::Deref;
use std::time::Duration;

use super::dimming::Light;
use super::{Act, Inputs};
use crate::content::Canvas;

/// Acts that begin together; a later one draws over an earlier one.
pub struct Together<A>(pub Vec<A>);

impl<A: Deref<Target: Act>> Act for Together<A> {
    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        self.0.iter().for_each(|act| act.draw(elapsed, inputs, canvas));
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        self.0.iter().filter_map(|act| act.next_change(elapsed, inputs)).min()
    }

    fn length(&self) -> Option<Duration> {
        longest(self.0.iter().map(|act| act.length()))
    }

    fn variables(&self) -> Vec<&str> {
        self.0.iter().flat_map(|act| act.variables()).collect()
    }

    fn brightness(&self, elapsed: Duration, inputs: &Inputs) -> Option<Light> {
        self.0.iter().rev().find_map(|act| act.brightness(elapsed, inputs))
    }
}

/// How long the longest is; `None` where one never ends.
pub(super) fn longest(mut lengths: impl Iterator<Item = Option<Duration>>) -> Option<Duration> {
    lengths.try_fold(Duration::ZERO, |longest, length| Some(longest.max(length?)))
}
