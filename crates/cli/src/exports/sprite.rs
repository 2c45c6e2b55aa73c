//! Sprites: dots as text.

use super::Format;
use crate::files::is_sealed;

/// A file of a sprite.
pub struct SpriteFile;

impl Format for SpriteFile {
    fn wrote(&self, bytes: &[u8]) -> bool {
        str::from_utf8(bytes).is_ok_and(is_sealed)
    }
}
