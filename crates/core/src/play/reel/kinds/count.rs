//! `count`: one number after another.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::count::{Count, EVERY, Pace, Range};
use super::super::keys::{LookKeys, checked_form, time, time_if_any};
use super::super::making::Making;
use super::Keys;
use crate::content::number::{Decimal, NumberFormat};
use crate::content::text::Align;
use crate::rig::Spanned;

/// Counts from one number to another.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct CountKeys {
    /// The first number; 0 where that is not said
    from: Option<Decimal>,
    /// The last one; where that is not said it goes on as long as numbers fit, and begins again
    to: Option<Decimal>,
    /// How far each step goes; 1 where that is not said
    step: Option<Decimal>,
    /// How long each number stays; "1s" where that is not said
    every: Option<Spanned<String>>,
    /// How long the last one stays; as long as the others where that is not said
    hold: Option<Spanned<String>>,
    /// How it looks on dots
    look: Option<LookKeys>,
}

impl Keys for CountKeys {
    type Form = NumberFormat;

    fn act(&self, form: &NumberFormat, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let every = self.every.as_ref().map_or(Some(EVERY), |every| time(every, making))?;
        let hold = time_if_any(self.hold.as_ref(), making)?.unwrap_or(every);
        let or = |given: Option<Decimal>, usual: i64| given.unwrap_or_else(|| usual.into());
        let range = Range { from: or(self.from, 0), to: self.to, step: or(self.step, 1) };
        let look = LookKeys::on_dots(self.look.as_ref(), "board", Align::Right, making)?;
        let pace = Pace { every, hold, again: false };
        let format = checked_form(form, look.as_ref(), making)?;
        match Count::new(range, pace, format, look, making.face) {
            Ok(count) => Some(Box::new(count)),
            Err(error) => making.cannot(error, Some("count between shorter numbers, or give it more room")),
        }
    }
}
