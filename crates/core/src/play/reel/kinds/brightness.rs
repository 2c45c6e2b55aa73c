//! `brightness`: how bright the face is.

use std::collections::BTreeMap;
use std::time::Duration;

use jiff::civil::Time;
use serde::Deserialize;

use super::super::super::Act;
use super::super::super::dimming::{Dimming, Light};
use super::super::keys::{NoKeys, time_if_any};
use super::super::making::Making;
use super::Keys;
use crate::rig::{Problem, Spanned};

/// Sets the brightness of the face, lets it go from one to another, or follow the time of day. It draws nothing: give it a track of
/// its own.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct BrightnessKeys {
    /// To which share of the light: "30%"
    to: Option<Spanned<String>>,
    /// From which; at once to the other where that is not said
    from: Option<Spanned<String>>,
    /// How long it takes from one to the other
    over: Option<Spanned<String>>,
    /// From which time of day on which share of the light: { "06:00" = "100%", "22:00" = "10%" }
    daily: Option<BTreeMap<Spanned<String>, Spanned<String>>>,
    /// The time zone of the day; UTC where that is not said
    zone: Option<Spanned<String>>,
}

/// A share of the light.
fn light(text: &Spanned<String>, making: &Making<'_>) -> Option<Light> {
    let percent = text.get_ref().strip_suffix('%').and_then(|number| number.trim().parse::<f32>().ok());
    match percent.filter(|percent| (0.0..=100.0).contains(percent)) {
        Some(percent) => Some(Light((10.0 * percent).round() as u16)),
        None => {
            let (found, allowed) = (format!("the text {:?}", text.get_ref()), "0% to 100%".to_owned());
            making.findings.stop(text.span(), Problem::WrongValue { found, allowed })
        }
    }
}

impl Keys for BrightnessKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        if making.mount.drive.display().max_brightness().is_none() {
            let message = format!("it has no brightness: the method {} has no steps", making.mount.method);
            return making.cannot(message, Some("leave the act out"));
        }
        let over = time_if_any(self.over.as_ref(), making)?;
        Some(Box::new(match (&self.from, &self.to, &self.daily) {
            (None, Some(to), None) if over.is_none() => {
                let to = light(to, making)?;
                Dimming::Ramp { from: to, to, over: Duration::ZERO }
            }
            (Some(from), Some(to), None) => {
                let Some(over) = over else {
                    return making.findings.stop(making.span.clone(), Problem::MissingKey { key: "over" });
                };
                Dimming::Ramp { from: light(from, making)?, to: light(to, making)?, over }
            }
            (None, None, Some(daily)) if !daily.is_empty() && over.is_none() => self.daily(daily, making)?,
            _ => {
                let found = "something else".to_owned();
                let allowed = "to; or from, to and over; or daily with a time at least".to_owned();
                return making.findings.stop(making.span.clone(), Problem::WrongValue { found, allowed });
            }
        }))
    }
}

impl BrightnessKeys {
    fn daily(
        &self,
        daily: &BTreeMap<Spanned<String>, Spanned<String>>,
        making: &Making<'_>,
    ) -> Option<Dimming> {
        let zone = making.zone(self.zone.as_ref())?;
        let mut moments = Vec::new();
        for (time, share) in daily {
            let Ok(from) = time.get_ref().parse::<Time>() else {
                let (found, allowed) =
                    (format!("the text {:?}", time.get_ref()), "a time of day such as 06:00".to_owned());
                return making.findings.stop(time.span(), Problem::WrongValue { found, allowed });
            };
            moments.push((from, light(share, making)?));
        }
        moments.sort_by_key(|(from, _)| *from);
        Some(Dimming::Daily { zone, moments })
    }
}
