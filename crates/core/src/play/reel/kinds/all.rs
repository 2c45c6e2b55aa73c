//! `all`: every character that the face can show.

use std::time::Duration;

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::scroll::{Move, Pace, Scroll};
use super::super::super::slides::{self, Change, Slide, Slides};
use super::super::keys::{LookKeys, NoKeys, time_if_any};
use super::super::making::Making;
use super::Keys;
use crate::content::lettering::Lettering;
use crate::content::text::Align;
use crate::glyph::{characters, glyph};
use crate::rig::Spanned;

/// Shows every character that the face can show: on digits page by page, on dots as a text that passes.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct AllKeys {
    /// How long each page stays, "2s" where that is not said; on dots each step, "60ms"
    every: Option<Spanned<String>>,
    /// How it looks on dots
    look: Option<LookKeys>,
}

impl Keys for AllKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let every = time_if_any(self.every.as_ref(), making)?;
        let face = making.face;
        if let Some(grid) = face.dots() {
            let look = LookKeys::look(self.look.as_ref(), "board", Align::Left, making)?;
            let plain = |character: char| match character {
                '{' => "{{".to_owned(),
                '}' => "{}".to_owned(),
                character => character.to_string(),
            };
            let words = look.font.characters().map(plain).collect();
            return match (Lettering { words, look }).strip() {
                Ok(strip) => {
                    let step = every.unwrap_or(Duration::from_millis(60));
                    let pace = Pace { step, gap: None, times: Some(1) };
                    Some(Box::new(Scroll::new(strip, Move::Left, (grid.width, grid.height), pace)))
                }
                Err(error) => making.cannot(error, None),
            };
        }
        let style = face.style();
        let glyphs: Vec<_> = characters(style).filter_map(|character| glyph(style, character)).collect();
        let page = |glyphs: &[crate::glyph::Glyph]| {
            let mut frame = face.blank();
            glyphs.iter().enumerate().for_each(|(digit, glyph)| face.put(&mut frame, digit, glyph.segments));
            Slide::of(frame)
        };
        let pages = glyphs.chunks(face.digits().max(1)).map(page).collect();
        let hold = every.unwrap_or(Duration::from_secs(2));
        let pace = slides::Pace { step: hold, hold, times: Some(1) };
        Some(Box::new(Slides::new(face, pages, Change::Cut, pace)))
    }
}
