//! `sprite`: the frames of a sprite or of a moving picture.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::animation::Animation;
use super::super::keys::NoKeys;
use super::super::making::{CannotPlay, Making};
use super::Keys;
use crate::dots::reduce::{Dither, DitherWord, Fit, Inks, Reduction, Sampling};
use crate::rig::Spanned;

/// Plays a sprite, or a picture, once; give `times` or `for` to play it on.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SpriteKeys {
    /// The file: a sprite, or a PNG, GIF, PBM, PGM or PPM picture
    file: Spanned<String>,
    /// The column and the row of its upper left corner
    shift: Option<[i16; 2]>,
    /// How a picture is laid on the dots where it has other proportions
    lay: Option<Fit>,
    /// Which of the pixels that a dot covers give it its shade
    sample: Option<Sampling>,
    /// How shades are shown by dots that are lit or dark
    dither: Option<DitherWord>,
}

impl Keys for SpriteKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let Some(grid) = making.face.dots() else {
            return making.cannot("it has digits and no dots", Some("pick a face with dots"));
        };
        let dither = self.dither.unwrap_or_default().with_threshold(0.5);
        let is_dithered = !matches!(dither, Dither::Threshold(_));
        let inks = making.mount.inks().unwrap_or(Inks::One);
        let reduction = Reduction {
            size: (grid.width, grid.height),
            fit: self.lay.unwrap_or_default(),
            sampling: self.sample.unwrap_or_default(),
            dither,
            inks: if is_dithered { inks.dithered() } else { inks },
        };
        let is_asked = self.lay.is_some() || self.sample.is_some() || self.dither.is_some();
        let sprite = match making.sources.sprite(self.file.get_ref(), &reduction, is_asked) {
            Ok(sprite) => sprite,
            Err(message) => {
                return making.findings.stop(self.file.span(), CannotPlay { message, fix: None });
            }
        };
        let [left, top] = self.shift.unwrap_or_default().map(isize::from);
        Some(Box::new(Animation { sprite, times: Some(making.times.take().unwrap_or(1)), at: (left, top) }))
    }
}
