//! How bright a face is, over time.

use std::time::Duration;

use jiff::Timestamp;
use jiff::civil::Time;
use jiff::tz::TimeZone;

use super::{Act, Inputs};
use crate::content::Canvas;
use crate::plan::Mount;

/// A brightness in thousandths of the most light that the part can make.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Light(pub u16);

impl Light {
    /// The brightness step of a face's part whose light is nearest; `None` where it has no steps.
    #[must_use]
    pub fn step(self, mount: &Mount) -> Option<u8> {
        let display = mount.drive.display();
        let most = display.max_brightness()?;
        let away = |step: &u8| (1000.0 * display.step_light(*step) - f32::from(self.0)).abs();
        (0..=most).min_by(|a, b| away(a).total_cmp(&away(b)))
    }
}

/// A brightness that changes; it draws nothing.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Dimming {
    /// From one to another in so long a time, evenly.
    Ramp {
        /// At its beginning.
        from: Light,
        /// At its end, and after it.
        to: Light,
        /// How long it takes.
        over: Duration,
    },
    /// By the time of day on the clock on the wall.
    Daily {
        /// Whose time.
        zone: TimeZone,
        /// From when on which, in order of time; at least one. Before the first it is as after the last.
        moments: Vec<(Time, Light)>,
    },
}

impl Dimming {
    /// How bright it is at a moment.
    #[must_use]
    pub fn light(&self, elapsed: Duration, inputs: &Inputs) -> Option<Light> {
        match self {
            Self::Ramp { from, to, over } => Some(if elapsed >= *over {
                *to
            } else {
                let way = i128::from(to.0) - i128::from(from.0);
                let come = (way.abs() * elapsed.as_nanos() as i128) / (over.as_nanos() as i128).max(1);
                Light((i128::from(from.0) + come * way.signum()) as u16)
            }),
            Self::Daily { zone, moments } => {
                let now = Timestamp::from_nanosecond(inputs.wall(elapsed)).ok()?;
                let time = zone.to_datetime(now).time();
                let last = moments.iter().rfind(|(from, _)| *from <= time).or(moments.last());
                last.map(|(_, light)| *light)
            }
        }
    }
}

impl Act for Dimming {
    fn draw(&self, _: Duration, _: &Inputs, _: &mut Canvas<'_>) {}

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        match self {
            Self::Ramp { from, to, over } => {
                if elapsed >= *over {
                    return None;
                }
                let way = u128::from(from.0.abs_diff(to.0));
                if way == 0 {
                    return None;
                }
                let whole = over.as_nanos();
                let come = way * elapsed.as_nanos() / whole.max(1);
                let next = ((come + 1) * whole).div_ceil(way).min(whole);
                Some(Duration::from_nanos(u64::try_from(next).ok()?))
            }
            Self::Daily { zone, .. } => {
                let now = Timestamp::from_nanosecond(inputs.wall(elapsed)).ok()?;
                let local = zone.to_datetime(now);
                // It changes with a full second, if it does.
                let left = 1_000_000_000 - local.subsec_nanosecond().unsigned_abs();
                let next = elapsed + Duration::from_nanos(left.into());
                inputs.wall_is_set(elapsed).into_iter().chain([next]).min()
            }
        }
    }

    fn length(&self) -> Option<Duration> {
        match self {
            Self::Ramp { over, .. } if !over.is_zero() => Some(*over),
            _ => None,
        }
    }

    fn brightness(&self, elapsed: Duration, inputs: &Inputs) -> Option<Light> {
        self.light(elapsed, inputs)
    }
}
