//! `stopwatch`: run by keys of a face.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::stopwatch::Stopwatch;
use super::super::keys::{LookKeys, NoKeys};
use super::super::making::Making;
use super::Keys;
use crate::content::text::Align;
use crate::rig::Spanned;

/// Shows minutes, seconds and hundredths that keys start, stop and hold.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct StopwatchKeys {
    /// The key that lets it run and stop: "desk.call1"
    start: Spanned<String>,
    /// The key that holds the figures while it runs, and sets them back while it stands
    lap: Option<Spanned<String>>,
    /// True if hundredths are shown; where there is room for them if that is not said
    hundredths: Option<bool>,
    /// How it looks on dots
    look: Option<LookKeys>,
}

impl Keys for StopwatchKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let start = making.button(&self.start)?;
        let lap = match &self.lap {
            Some(lap) => Some(making.button(lap)?),
            None => None,
        };
        let look = LookKeys::on_dots(self.look.as_ref(), "clock", Align::Centre, making)?;
        let hundredths = Stopwatch { start, lap, hundredths: true, look };
        let has_room = hundredths.check(making.face).is_ok();
        let watch = Stopwatch { hundredths: self.hundredths.unwrap_or(has_room), ..hundredths };
        match watch.check(making.face) {
            Ok(()) => Some(Box::new(watch)),
            Err(error) => making.cannot(error, Some("leave hundredths out, or give it more room")),
        }
    }
}
