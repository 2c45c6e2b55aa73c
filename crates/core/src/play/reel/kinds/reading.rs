//! `reading`: a variable, made steady enough to be read.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::reading::{Of, Reading, Smooth};
use super::super::keys::{LookKeys, checked_form, time_if_any};
use super::super::making::Making;
use super::Keys;
use crate::content::number::{Decimal, NumberFormat};
use crate::content::text::Align;
use crate::rig::{Problem, Spanned};

/// Shows a variable: the last value, the least or the most, smoothed and held.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct ReadingKeys {
    /// The variable
    of: Spanned<String>,
    /// The value that is shown [default: last]
    show: Option<Of>,
    /// Show the mean of all values that came within this time
    mean: Option<Spanned<String>>,
    /// Show the median of all values that came within this time
    median: Option<Spanned<String>>,
    /// Keep the shown value until one comes that differs by more than this
    band: Option<Decimal>,
    /// How long a shown value is kept before the variable is polled again
    keep: Option<Spanned<String>>,
    /// After so long without a new value there are dashes
    stale: Option<Spanned<String>>,
    /// How it looks on dots
    look: Option<LookKeys>,
}

impl Keys for ReadingKeys {
    type Form = NumberFormat;

    fn act(&self, form: &NumberFormat, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        making.knows(self.of.get_ref(), self.of.span())?;
        let mean = time_if_any(self.mean.as_ref(), making)?;
        let median = time_if_any(self.median.as_ref(), making)?;
        let smooth = match (mean, median) {
            (None, None) => Smooth::Not,
            (Some(mean), None) => Smooth::Mean(mean),
            (None, Some(median)) => Smooth::Median(median),
            (Some(_), Some(_)) => {
                let (found, allowed) = ("a mean and a median".to_owned(), "one of them".to_owned());
                return making.findings.stop(making.span.clone(), Problem::WrongValue { found, allowed });
            }
        };
        let look = LookKeys::on_dots(self.look.as_ref(), "board", Align::Right, making)?;
        Some(Box::new(Reading {
            of: self.show.unwrap_or_default(),
            smooth,
            band: self.band,
            every: time_if_any(self.keep.as_ref(), making)?,
            stale: time_if_any(self.stale.as_ref(), making)?,
            format: checked_form(form, look.as_ref(), making)?,
            look,
            ..Reading::of(self.of.get_ref().clone())
        }))
    }
}
