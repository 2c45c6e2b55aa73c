//! Contents that do not move.

use std::time::Duration;

use super::{Act, Inputs};
use crate::content::{Canvas, Content};

/// A text, a number or dots that stand.
#[derive(Debug, Clone, PartialEq)]
pub struct Still(pub Content);

impl Act for Still {
    fn draw(&self, _: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        // A region that cannot show it stays dark: an act cannot report errors.
        if self.0.draw(canvas).is_err() {
            canvas.clear();
        }
    }

    fn next_change(&self, _: Duration, _: &Inputs) -> Option<Duration> {
        None
    }

    fn length(&self) -> Option<Duration> {
        None
    }
}

/// Nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Blank;

impl Act for Blank {
    fn draw(&self, _: Duration, _: &Inputs, _: &mut Canvas<'_>) {}

    fn next_change(&self, _: Duration, _: &Inputs) -> Option<Duration> {
        None
    }

    fn length(&self) -> Option<Duration> {
        None
    }
}
