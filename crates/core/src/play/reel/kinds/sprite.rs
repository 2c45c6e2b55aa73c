//! `sprite`: the frames of a sprite or of a moving picture.

use schemars::JsonSchema;
use serde::Deserialize;

use super::super::super::Act;
use super::super::super::animation::Animation;
use super::super::keys::NoKeys;
use super::super::making::{CannotPlay, Making};
use super::Keys;
use crate::rig::Spanned;

/// Plays a sprite, or a picture, once; give `times` or `for` to play it on.
#[derive(Deserialize, JsonSchema)]
pub struct SpriteKeys {
    /// The file: a sprite, or a PNG, GIF, PBM, PGM or PPM picture
    file: Spanned<String>,
    /// The column and the row of its upper left corner
    shift: Option<[i16; 2]>,
}

impl Keys for SpriteKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let Some(grid) = making.face.dots() else {
            return making.cannot("it has digits and no dots", Some("pick a face with dots"));
        };
        let sprite = match making.sources.sprite(self.file.get_ref(), grid) {
            Ok(sprite) => sprite,
            Err(message) => {
                return making.findings.stop(self.file.span(), CannotPlay { message, fix: None });
            }
        };
        let [left, top] = self.shift.unwrap_or_default().map(isize::from);
        Some(Box::new(Animation { sprite, times: Some(making.times.take().unwrap_or(1)), at: (left, top) }))
    }
}
