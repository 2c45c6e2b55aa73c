//! `lamps`: lamps that are lit or blink.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::lamps::Lamps;
use super::super::keys::{NoKeys, time_if_any};
use super::super::making::Making;
use super::Keys;
use crate::rig::Spanned;

/// Lights lamps and colons.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct LampsKeys {
    /// Their names in the rig
    on: Vec<Spanned<String>>,
    /// How long it takes them to blink once, half of it lit
    blink: Option<Spanned<String>>,
}

impl Keys for LampsKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let lamps = self.on.iter().map(|name| making.lamp(name)).collect::<Option<_>>()?;
        Some(Box::new(Lamps { lamps, blink: time_if_any(self.blink.as_ref(), making)? }))
    }
}
