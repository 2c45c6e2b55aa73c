//! A brightness as a person gives it: a step of the part, or a share of its light.

use std::str::FromStr;

use spare_tile_core::plan::Mount;

use crate::failure::Failure;

/// A brightness.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Brightness {
    /// In the part's own steps.
    Step(u8),
    /// In percent of its most light.
    Percent(f32),
}

impl FromStr for Brightness {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let percent = text
            .strip_suffix('%')
            .map(|number| number.trim().parse().ok().filter(|p| (0.0..=100.0).contains(p)));
        match percent {
            Some(Some(percent)) => Ok(Self::Percent(percent)),
            None => text
                .parse()
                .map(Self::Step)
                .map_err(|_| "write a step, such as 8, or a share of light, such as 50%".to_owned()),
            Some(None) => Err("a share of light is from 0% to 100%".to_owned()),
        }
    }
}

impl Brightness {
    /// The step of a face's part; for a share the one whose light is nearest.
    pub fn step(self, mount: &Mount) -> Result<u8, Failure> {
        let (name, method, display) = (&mount.face.name, mount.method, mount.drive.display());
        let Some(most) = display.max_brightness() else {
            let message = format!("face {name} has no brightness: the method {method} has no steps");
            return Err(Failure::unusable(message, "leave --at-brightness out"));
        };
        match self {
            Self::Step(step) if step > most => {
                let message = format!("brightness {step} is beyond the steps of the {method}");
                Err(Failure::unusable(message, format!("use 0 to {most}")))
            }
            Self::Step(step) => Ok(step),
            Self::Percent(percent) => {
                let away = |step: &u8| (100.0 * display.step_light(*step) - percent).abs();
                Ok((0..=most).min_by(|a, b| away(a).total_cmp(&away(b))).unwrap_or(most))
            }
        }
    }
}
