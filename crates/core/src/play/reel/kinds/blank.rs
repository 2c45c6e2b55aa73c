//! `blank`: nothing.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::still::Blank;
use super::super::keys::NoKeys;
use super::super::making::Making;
use super::Keys;

/// Shows nothing; say for how long.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct BlankKeys {}

impl Keys for BlankKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, _: &mut Making<'_>) -> Option<Box<dyn Act>> {
        Some(Box::new(Blank))
    }
}
