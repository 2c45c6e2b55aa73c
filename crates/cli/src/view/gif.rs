//! Moving pictures as GIF.

use std::collections::HashMap;
use std::time::Duration;

use gif::{DisposalMethod, Encoder, Frame, Repeat};

use super::page::Page;
use super::pixels::{Area, Canvas};

/// The longest side of a picture in pixels.
const MAX_SIDE: f32 = 640.0;
/// The colours of a GIF.
const MOST_COLOURS: usize = 256;

/// A part of the picture that changes, and how long it stays so.
struct Change {
    area: Area,
    pixels: Vec<[u8; 3]>,
    stays: Duration,
}

/// A GIF of drawings, all of one size, each with the time that it stays. It plays again and again.
///
/// # Errors
/// When there is none, or a drawing cannot be made, in words.
pub fn encode(drawings: impl IntoIterator<Item = (Page, Duration)>) -> Result<Vec<u8>, String> {
    let mut drawings = drawings.into_iter().peekable();
    let (first, _) = drawings.peek().ok_or("there is nothing to be shown")?;
    let mut canvas = Canvas::new(first, MAX_SIDE / first.width.max(first.height))?;
    let mut changes: Vec<Change> = Vec::new();
    for (page, stays) in drawings {
        match (canvas.show(&page), changes.last_mut()) {
            // What stays as it was need not be told again.
            (None, Some(last)) => last.stays += stays,
            (None, None) => {}
            (Some(area), _) => {
                let pixels = canvas.cut(area);
                let pixels = pixels.chunks_exact(4).map(|pixel| [pixel[0], pixel[1], pixel[2]]).collect();
                changes.push(Change { area, pixels, stays });
            }
        }
    }
    let (width, height) = canvas.size();
    write(&changes, width as u16, height as u16).map_err(|error| format!("cannot form the GIF: {error}"))
}

fn write(changes: &[Change], width: u16, height: u16) -> Result<Vec<u8>, gif::EncodingError> {
    let palette = Palette::of(changes);
    let mut bytes = Vec::new();
    let mut encoder = Encoder::new(&mut bytes, width, height, &palette.colours)?;
    encoder.set_repeat(Repeat::Infinite)?;
    // A GIF counts hundredths of a second: each picture begins at the nearest, and none is rounded off on its own.
    let mut begins = Duration::ZERO;
    let hundredths = |time: Duration| (time.as_micros() + 5_000) / 10_000;
    for Change { area, pixels, stays } in changes {
        let ends = begins + *stays;
        let delay = hundredths(ends) - hundredths(begins);
        begins = ends;
        let frame = Frame {
            left: area.left as u16,
            top: area.top as u16,
            width: area.width as u16,
            height: area.height as u16,
            delay: u16::try_from(delay).unwrap_or(u16::MAX),
            dispose: DisposalMethod::Keep,
            buffer: palette.indices(pixels).into(),
            ..Frame::default()
        };
        encoder.write_frame(&frame)?;
    }
    drop(encoder);
    Ok(bytes)
}

/// The colours of all pictures. A drawing has few, and shades of them along its edges; where those are too many, near ones
/// are taken for one.
struct Palette {
    colours: Vec<u8>,
    indices: HashMap<[u8; 3], u8>,
    /// How many of the lowest bits of a colour are left out.
    coarse: u8,
}

impl Palette {
    fn of(changes: &[Change]) -> Self {
        let mut palette = Self { colours: Vec::new(), indices: HashMap::new(), coarse: 0 };
        while !palette.take(changes) {
            palette = Self { colours: Vec::new(), indices: HashMap::new(), coarse: palette.coarse + 1 };
        }
        palette
    }

    /// Whether there is room for all colours.
    fn take(&mut self, changes: &[Change]) -> bool {
        let mut last = None;
        for pixel in changes.iter().flat_map(|change| &change.pixels) {
            // Most pixels are like the one before.
            if last.replace(pixel) == Some(pixel) {
                continue;
            }
            let colour = self.coarsened(*pixel);
            if self.indices.contains_key(&colour) {
                continue;
            }
            let Ok(index) = u8::try_from(self.indices.len()) else { return false };
            debug_assert!(usize::from(index) < MOST_COLOURS);
            self.indices.insert(colour, index);
            self.colours.extend(pixel);
        }
        true
    }

    fn coarsened(&self, pixel: [u8; 3]) -> [u8; 3] {
        pixel.map(|value| value >> self.coarse)
    }

    /// The place of each pixel's colour.
    fn indices(&self, pixels: &[[u8; 3]]) -> Vec<u8> {
        let mut last = ([0; 3], self.index([0; 3]));
        let index = |pixel: &[u8; 3]| {
            if last.0 != *pixel {
                last = (*pixel, self.index(*pixel));
            }
            last.1
        };
        pixels.iter().map(index).collect()
    }

    fn index(&self, pixel: [u8; 3]) -> u8 {
        self.indices.get(&self.coarsened(pixel)).copied().unwrap_or(0)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Every pixel gets a colour that is its own but for the bits that are left out, however many colours there are.
        #[test]
        fn colours_stay_what_they_are(runs in prop::collection::vec((any::<[u8; 3]>(), 1..40_usize), 1..600)) {
            let pixels: Vec<[u8; 3]> =
                runs.iter().flat_map(|(pixel, length)| std::iter::repeat_n(*pixel, *length)).collect();
            let area = Area { left: 0, top: 0, width: pixels.len() as u32, height: 1 };
            let changes = [Change { area, pixels: pixels.clone(), stays: Duration::ZERO }];
            let palette = Palette::of(&changes);
            prop_assert!(palette.colours.len() <= 3 * MOST_COLOURS);
            for (pixel, index) in pixels.iter().zip(palette.indices(&pixels)) {
                let colour = &palette.colours[3 * usize::from(index)..][..3];
                for (found, wanted) in colour.iter().zip(pixel) {
                    prop_assert_eq!(found >> palette.coarse, wanted >> palette.coarse);
                }
            }
            // Few colours are kept to the last bit.
            let distinct: std::collections::HashSet<_> = pixels.iter().collect();
            prop_assert_eq!(palette.coarse == 0, distinct.len() <= MOST_COLOURS);
        }
    }
}
