//! GIF: moving drawings as pixels.
//!
//! Each picture is written when the next one comes: just the area that differs, with the colours that it has. So the memory
//! does not grow with the film.

use std::sync::mpsc::{self, SyncSender};
use std::thread::{self, JoinHandle};
use std::time::Duration;

use gif::{AnyExtension, DisposalMethod, Encoder, EncodingError, Extension, Frame, Repeat};

use spare_tile_core::face::Grid;

use super::{Format, Moving, NOTHING, has_mark};
use crate::view::page::{MARK, Page};
use crate::view::pixels::{Area, Canvas};
use crate::view::scene;

/// The longest side of a picture in pixels, where nothing else is said.
const MAX_SIDE: f32 = 640.0;
/// The colours of a picture.
const MOST_COLOURS: usize = 256;

/// The shortest time that a picture stays, in hundredths of a second, which a GIF counts: what is to stay for one or
/// none, many viewers show for ten.
const SHORTEST: u128 = 2;
/// The pixels of all changes together: as many as a viewer can be asked to unpack.
const MOST_PIXELS: usize = 1_000_000_000;

/// A part of the picture that changes, and how long it stays so.
struct Change {
    area: Area,
    indexed: Indexed,
    hundredths: u128,
}

/// A GIF that is being written: drawings of one size, and the time between them.
#[derive(Default)]
pub struct Film {
    /// Pixels to a unit of the drawings; by the longest side where that is not said.
    scale: Option<f32>,
    canvas: Option<Canvas>,
    writer: Option<Writer>,
    /// The change that has not been written: the time for which it stays may grow.
    last: Option<Change>,
    pixels: usize,
    count: usize,
    shown: Option<Page>,
    began: Duration,
    now: Duration,
}

impl Film {
    /// A film of a face of dots that takes so long. Each dot has whole pixels, so that all look alike; in a long film fewer, so
    /// that it stays a file that one sends to others.
    pub fn of_dots(grid: Grid, length: Duration) -> Self {
        const SHORT: Duration = Duration::from_secs(15);
        let pixels = if length <= SHORT { 100_000 } else { 40_000 };
        let pitch = (pixels / (grid.width * grid.height)).isqrt().clamp(3, 16);
        Self { scale: Some(pitch as f32 / scene::DOT_PITCH), ..Self::default() }
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
        let scale = self.scale.unwrap_or_else(|| MAX_SIDE / page.width.max(page.height));
        let canvas = match &mut self.canvas {
            Some(canvas) => canvas,
            none => none.insert(Canvas::crisp(&page, scale, self.scale.is_some())?),
        };
        let changed = canvas.show(page);
        match (changed, self.last.as_mut()) {
            // Unchanged areas need not be written again.
            (None, Some(last)) => last.hundredths += hundredths,
            (None, None) => {}
            (Some(area), _) => {
                let pixels = canvas.cut(area);
                self.pixels += pixels.len();
                self.count += 1;
                if self.pixels > MOST_PIXELS {
                    return Err(format!("{} pictures of this size are too many for a GIF", self.count));
                }
                let indexed = Indexed::of(&pixels);
                self.write_last()?;
                self.last = Some(Change { area, indexed, hundredths });
            }
        }
        Ok(())
    }

    fn write_last(&mut self) -> Result<(), String> {
        let Some(last) = self.last.take() else { return Ok(()) };
        let Some(canvas) = &self.canvas else { return Ok(()) };
        let writer = self.writer.get_or_insert_with(|| Writer::begin(canvas.size()));
        let Change { area, indexed: Indexed { palette, indices }, hundredths } = last;
        let frame = Frame {
            left: area.left as u16,
            top: area.top as u16,
            width: area.width as u16,
            height: area.height as u16,
            delay: u16::try_from(hundredths).unwrap_or(u16::MAX),
            dispose: DisposalMethod::Keep,
            palette: Some(palette),
            buffer: indices.into(),
            ..Frame::default()
        };
        writer.write(frame);
        Ok(())
    }
}

impl Format for Film {
    fn wrote(&self, bytes: &[u8]) -> bool {
        bytes.starts_with(b"GIF8") && has_mark(bytes, MARK)
    }
}

impl Moving for Film {
    /// A drawing that was visible for a shorter time than a GIF can express is replaced.
    fn show(&mut self, page: Page, at: Duration) -> Result<(), String> {
        self.now = at;
        if self.passed() >= SHORTEST {
            self.develop()?;
        }
        self.shown = Some(page);
        Ok(())
    }

    fn finish(&mut self, end: Duration) -> Result<Vec<u8>, String> {
        self.now = end;
        self.develop()?;
        self.write_last()?;
        self.writer.take().ok_or(NOTHING)?.finish()
    }
}

/// Writes pictures while the next ones are drawn.
struct Writer {
    pictures: SyncSender<Frame<'static>>,
    thread: JoinHandle<Result<Vec<u8>, EncodingError>>,
}

impl Writer {
    /// As many pictures wait to be written, no more: the memory does not grow.
    const WAITING: usize = 8;

    fn begin((width, height): (u32, u32)) -> Self {
        let (pictures, waiting) = mpsc::sync_channel(Self::WAITING);
        let thread = thread::spawn(move || {
            let mut encoder = Encoder::new(Vec::new(), width as u16, height as u16, &[])?;
            encoder.write_raw_extension(AnyExtension(Extension::Comment as u8), &[MARK.as_bytes()])?;
            encoder.set_repeat(Repeat::Infinite)?;
            for picture in waiting {
                encoder.write_frame(&picture)?;
            }
            encoder.into_inner()
        });
        Self { pictures, thread }
    }

    fn write(&self, picture: Frame<'static>) {
        // If the thread has given up, its error is returned at the end.
        let _ = self.pictures.send(picture);
    }

    fn finish(self) -> Result<Vec<u8>, String> {
        drop(self.pictures);
        let written = self.thread.join().map_err(|_| "cannot form the GIF".to_owned())?;
        written.map_err(|error| format!("cannot form the GIF: {error}"))
    }
}

/// Pixels by the places of their colours. A drawing has few colours, and shades of them along its edges; where those are too
/// many, near ones are taken for one.
struct Indexed {
    /// Red, green and blue of each colour.
    palette: Vec<u8>,
    indices: Vec<u8>,
}

/// Slots of a table from colours to their places: a power of two, several times the number of colours.
const SLOTS: usize = 4 * MOST_COLOURS;

impl Indexed {
    /// These pixels, with as few bits of their colours left out as will do.
    fn of(pixels: &[[u8; 3]]) -> Self {
        let mut coarse = 0;
        loop {
            // With two bits left there are 64 colours.
            match Self::with(coarse, pixels) {
                Some(found) => return found,
                None => coarse += 1,
            }
        }
    }

    /// Returns these pixels without a number of the lowest bits of their colours; `None` if there are too many colours.
    fn with(coarse: u8, pixels: &[[u8; 3]]) -> Option<Self> {
        let (mut palette, mut indices) = (Vec::new(), Vec::with_capacity(pixels.len()));
        // By hash, one beside the other: the colour, and its place.
        let mut table = [None::<(u32, u8)>; SLOTS];
        let mut last = None;
        for pixel in pixels {
            // Most pixels are like the one before.
            if let Some((known, index)) = last
                && known == *pixel
            {
                indices.push(index);
                continue;
            }
            let key = pixel.iter().fold(0, |key, value| key << 8 | u32::from(value >> coarse));
            let mut slot = (key.wrapping_mul(0x9E37_79B1) >> 22) as usize % SLOTS;
            let index = loop {
                match table[slot] {
                    Some((known, index)) if known == key => break index,
                    Some(_) => slot = (slot + 1) % SLOTS,
                    None => {
                        let index = u8::try_from(palette.len() / 3).ok()?;
                        table[slot] = Some((key, index));
                        palette.extend(pixel);
                        break index;
                    }
                }
            };
            last = Some((*pixel, index));
            indices.push(index);
        }
        Some(Self { palette, indices })
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::view::colour::Rgb;

    /// A drawing that is this grey all over.
    fn grey(value: u8) -> Page {
        let ground = Rgb(value, value, value);
        Page::on(ground, 10.0, 10.0, "")
    }

    #[test]
    fn a_film_refuses_what_no_viewer_unpacks() {
        // There is room for two of these, less a pixel.
        let mut film = Film { pixels: MOST_PIXELS - 2 * 640 * 640 + 1, ..Film::default() };
        let refused =
            (0..4_u8).map(|value| film.show(grey(value), Duration::from_secs(u64::from(value))).is_err());
        // Each is developed when the next comes.
        assert_eq!(refused.collect::<Vec<_>>(), [false, false, true, false]);
    }

    #[test]
    fn the_last_of_what_is_too_short_stays() {
        let mut film = Film::default();
        for (value, at) in [(10, 0), (20, 4), (30, 8)] {
            film.show(grey(value), Duration::from_millis(at)).unwrap();
        }
        let bytes = film.finish(Duration::from_millis(12)).unwrap();
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
            let Indexed { palette, indices } = Indexed::of(&pixels);
            let coarse = (0..8).find(|coarse| Indexed::with(*coarse, &pixels).is_some()).unwrap();
            prop_assert!(palette.len() <= 3 * MOST_COLOURS && indices.len() == pixels.len());
            for (pixel, index) in pixels.iter().zip(indices) {
                let colour = &palette[3 * usize::from(index)..][..3];
                for (found, wanted) in colour.iter().zip(pixel) {
                    prop_assert_eq!(found >> coarse, wanted >> coarse);
                }
            }
            // Few colours are kept to the last bit.
            let distinct: std::collections::HashSet<_> = pixels.iter().collect();
            prop_assert_eq!(coarse == 0, distinct.len() <= MOST_COLOURS);
        }
    }
}
