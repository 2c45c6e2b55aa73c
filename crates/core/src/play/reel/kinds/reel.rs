//! `reel`: the tracks of another reel.

use serde::Deserialize;

use super::super::super::Act;
use super::super::keys::NoKeys;
use super::super::making::Making;
use super::super::nested;
use super::Keys;
use crate::rig::Spanned;

/// Plays the tracks of another reel that are for this face, or for none by name.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct InnerReelKeys {
    /// The reel file
    file: Spanned<String>,
}

impl Keys for InnerReelKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        nested::tracks_of(&self.file, making)
    }
}
