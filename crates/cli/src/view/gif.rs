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

/// The shortest time that a picture stays, in hundredths of a second, which a GIF counts: what is to stay for one or
/// none, many viewers show for ten.
const SHORTEST: u128 = 2;
/// The pixels of all changes together: as many as a viewer can be asked to unpack.
const MOST_PIXELS: usize = 64_000_000;

/// A part of the picture that changes, and how long it stays so.
struct Change {
    area: Area,
    pixels: Vec<[u8; 3]>,
    hundredths: u128,
}

/// A GIF in the making: drawings, all of one size, and the time that passes between them.
#[derive(Default)]
pub struct Film {
    canvas: Option<Canvas>,
    changes: Vec<Change>,
    pixels: usize,
    shown: Option<Page>,
    began: Duration,
    now: Duration,
}

impl Film {
    /// From now on this drawing is to be seen. One that has been seen for less than a GIF can tell gives way to it.
    ///
    /// # Errors
    /// When the drawing before cannot be made or the GIF gets too long, in words.
    pub fn show(&mut self, page: Page) -> Result<(), String> {
        if self.passed() >= SHORTEST {
            self.develop()?;
        }
        self.shown = Some(page);
        Ok(())
    }

    /// Time passes.
    pub fn wait(&mut self, time: Duration) {
        self.now += time;
    }

    /// The GIF, which plays again and again.
    ///
    /// # Errors
    /// When nothing was shown, or a drawing cannot be made, in words.
    pub fn finish(mut self) -> Result<Vec<u8>, String> {
        self.develop()?;
        let canvas = self.canvas.ok_or("there is nothing to be shown")?;
        let (width, height) = canvas.size();
        write(&self.changes, width as u16, height as u16)
            .map_err(|error| format!("cannot form the GIF: {error}"))
    }

    /// How long the drawing has been seen. Each begins at the nearest hundredth, and none is rounded off on its own.
    fn passed(&self) -> u128 {
        let hundredths = |time: Duration| (time.as_micros() + 5_000) / 10_000;
        hundredths(self.now) - hundredths(self.began)
    }

    fn develop(&mut self) -> Result<(), String> {
        let hundredths = self.passed().max(SHORTEST);
        self.began = self.now;
        let Some(page) = self.shown.take() else { return Ok(()) };
        let canvas = match &mut self.canvas {
            Some(canvas) => canvas,
            none => none.insert(Canvas::new(&page, MAX_SIDE / page.width.max(page.height))?),
        };
        match (canvas.show(&page), self.changes.last_mut()) {
            // What stays as it was need not be told again.
            (None, Some(last)) => last.hundredths += hundredths,
            (None, None) => {}
            (Some(area), _) => {
                let pixels = canvas.cut(area);
                let pixels: Vec<_> =
                    pixels.chunks_exact(4).map(|pixel| [pixel[0], pixel[1], pixel[2]]).collect();
                self.pixels += pixels.len();
                if self.pixels > MOST_PIXELS {
                    return Err(format!(
                        "{} pictures of this size are too many for a GIF",
                        self.changes.len() + 1
                    ));
                }
                self.changes.push(Change { area, pixels, hundredths });
            }
        }
        Ok(())
    }
}

fn write(changes: &[Change], width: u16, height: u16) -> Result<Vec<u8>, gif::EncodingError> {
    let palette = Palette::of(changes);
    let mut bytes = Vec::new();
    let mut encoder = Encoder::new(&mut bytes, width, height, &palette.colours)?;
    encoder.set_repeat(Repeat::Infinite)?;
    for Change { area, pixels, hundredths } in changes {
        let frame = Frame {
            left: area.left as u16,
            top: area.top as u16,
            width: area.width as u16,
            height: area.height as u16,
            delay: u16::try_from(*hundredths).unwrap_or(u16::MAX),
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

    use super::super::colour::Rgb;
    use super::*;

    /// A drawing that is this grey all over.
    fn grey(value: u8) -> Page {
        let ground = Rgb(value, value, value);
        Page { width: 10.0, height: 10.0, title: String::new(), ground, items: Vec::new() }
    }

    #[test]
    fn a_film_refuses_what_no_viewer_unpacks() {
        // There is room for two of these, less a pixel.
        let mut film = Film { pixels: MOST_PIXELS - 2 * 640 * 640 + 1, ..Film::default() };
        let refused =
            (0..4).map(|value| film.show(grey(value)).map(|()| film.wait(Duration::from_secs(1))).is_err());
        // Each is developed when the next comes.
        assert_eq!(refused.collect::<Vec<_>>(), [false, false, true, false]);
    }

    #[test]
    fn the_last_of_what_is_too_short_stays() {
        let mut film = Film::default();
        for value in [10, 20, 30] {
            film.show(grey(value)).unwrap();
            film.wait(Duration::from_millis(4));
        }
        let bytes = film.finish().unwrap();
        let mut reader = gif::DecodeOptions::new();
        reader.set_color_output(gif::ColorOutput::RGBA);
        let mut reader = reader.read_info(&bytes[..]).unwrap();
        let frame = reader.read_next_frame().unwrap().unwrap();
        assert_eq!((frame.delay, &frame.buffer[..3]), (2, &[30, 30, 30][..]));
        assert!(reader.read_next_frame().unwrap().is_none());
    }

    proptest! {
        /// Every pixel gets a colour that is its own but for the bits that are left out, however many colours there are.
        #[test]
        fn colours_stay_what_they_are(runs in prop::collection::vec((any::<[u8; 3]>(), 1..40_usize), 1..600)) {
            let pixels: Vec<[u8; 3]> =
                runs.iter().flat_map(|(pixel, length)| std::iter::repeat_n(*pixel, *length)).collect();
            let area = Area { left: 0, top: 0, width: pixels.len() as u32, height: 1 };
            let changes = [Change { area, pixels: pixels.clone(), hundredths: 0 }];
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
