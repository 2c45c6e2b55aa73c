//! `test`: the self-test.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::selftest::{EVERY, SelfTest};
use super::super::keys::{NoKeys, time_if_any};
use super::super::making::Making;
use super::Keys;
use crate::rig::Spanned;

/// Tests the whole face: each light alone, all going out in turn, 0 to 9 on each digit, all on. On more than 128 dots, rows and
/// columns light in each colour instead of single dots.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct TestKeys {
    /// How long each step stays; "250ms" where that is not said
    every: Option<Spanned<String>>,
}

impl Keys for TestKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        if making.face.element_count() != making.mount.face.element_count() {
            return making.cannot("a test is of the whole face", Some("leave out place"));
        }
        let every = time_if_any(self.every.as_ref(), making)?.unwrap_or(EVERY);
        Some(Box::new(SelfTest::of(making.mount, every, false)))
    }
}
