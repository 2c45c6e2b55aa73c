//! The frames of a sprite, one after another.

use std::time::Duration;

use super::{Act, Inputs, duration};
use crate::content::Canvas;
use crate::content::pictures::place;
use crate::dots::sprite::Sprite;

/// A sprite that plays.
#[derive(Debug, Clone, PartialEq)]
pub struct Animation {
    /// The sprite.
    pub sprite: Sprite,
    /// How often; none without end.
    pub times: Option<u32>,
    /// The left column and the top row of its place on the face.
    pub at: (isize, isize),
}

impl Animation {
    /// The time within the sprite, and the moment at which this playing of it began; after the end the last frame stays.
    fn within(&self, elapsed: Duration) -> (Duration, Duration) {
        let length = self.sprite.length().as_nanos().max(1);
        let elapsed = match self.length() {
            Some(whole) if elapsed >= whole => whole.saturating_sub(Duration::from_nanos(1)),
            _ => elapsed,
        };
        let within = elapsed.as_nanos() % length;
        let within = duration(within);
        (within, elapsed - within)
    }
}

impl Act for Animation {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        if let Some((frame, _)) = self.sprite.at(self.within(elapsed).0) {
            place(canvas, &self.sprite.shots[frame].raster, self.at);
        }
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        let (within, began) = self.within(elapsed);
        let next = began.checked_add(self.sprite.at(within)?.1)?;
        let is_over = self.length().is_some_and(|length| next >= length);
        // A sprite of one frame never looks different.
        (!is_over && self.sprite.shots.len() > 1 && next > elapsed).then_some(next)
    }

    fn length(&self) -> Option<Duration> {
        self.sprite.length().checked_mul(self.times?)
    }
}
