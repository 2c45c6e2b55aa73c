//! `plot`: a graph of what a value has been.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::gauge::Plot;
use super::super::keys::{GivenOrName, NoKeys, time};
use super::super::making::Making;
use super::Keys;
use super::gauge::scale;
use crate::content::number::Decimal;
use crate::rig::Spanned;

/// Draws a value on dots, a column for each step of time, the last at the right.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct PlotKeys {
    /// The number, or a variable: "{level}"
    value: Spanned<GivenOrName>,
    /// The foot of the graph
    from: Decimal,
    /// Its top
    to: Decimal,
    /// How much time a column is: "1m"
    every: Spanned<String>,
    /// True if columns are filled from the foot
    filled: Option<bool>,
}

impl Keys for PlotKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        if making.face.dots().is_none() {
            return making.cannot("a graph needs dots", Some("pick a face with dots"));
        }
        let source = making.source(&self.value)?;
        let scale = scale(self.from, self.to, making)?;
        let every = time(&self.every, making)?;
        Some(Box::new(Plot { source, scale, every, filled: self.filled.unwrap_or(false) }))
    }
}
