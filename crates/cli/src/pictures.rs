//! Pictures from PNG, GIF and PNM files, brought down to dots.

use std::io::Cursor;
use std::panic::{self, AssertUnwindSafe};
use std::time::Duration;

use clap::Args;
use image::codecs::gif::GifDecoder;
use image::codecs::png::PngDecoder;
use image::{AnimationDecoder, ImageDecoder, ImageError, ImageFormat, ImageReader, Limits, RgbaImage};
use spare_tile_core::dots::raster::{Raster, Shot};
use spare_tile_core::dots::reduce::{DitherWord, Fit, Inks, Reduction, Sampling};
use spare_tile_core::dots::sprite::{MOST_DOTS, Sprite};

use crate::failure::Failure;
use crate::options::word;

/// The longest side of a picture that is read, in pixels.
const MAX_SIDE: u32 = 4096;
/// The most frames of a picture that is read.
const MOST_FRAMES: usize = 1000;
/// The most pixels of all frames together: what is read in seconds.
const MOST_PIXELS: u64 = 250_000_000;
/// How long a frame stays that has no time of its own, as viewers show it.
const USUAL: Duration = Duration::from_millis(100);
/// How long a picture stays that does not move.
const STILL: Duration = Duration::from_secs(1);

/// How a picture is brought down to dots.
#[derive(Args, Default)]
#[command(next_help_heading = "Pictures")]
pub struct Reading {
    /// Use only a part of it: its upper left corner and its size in pixels
    ///
    /// Example: spare-tile show --picture ferry.png --crop 40,8,64x16
    #[arg(long, value_name = "X,Y,WxH", value_parser = parse_crop)]
    crop: Option<Crop>,
    /// The way in which it is fitted to dots with other proportions [default: whole]
    ///
    /// Example: spare-tile show --picture ferry.png --lay cover
    #[arg(long, value_name = "HOW", value_parser = word::<Fit>())]
    lay: Option<Fit>,
    /// The pixels that give a dot its shade [default: mean]
    ///
    /// Example: spare-tile show --picture ferry.png --sample nearest
    #[arg(long, value_name = "HOW", value_parser = word::<Sampling>())]
    sample: Option<Sampling>,
    /// The dither for dots that are lit or dark [default: none; a face with shades shows them]
    ///
    /// Example: spare-tile show --picture ferry.png --dither diffusion
    #[arg(long, value_name = "HOW", value_parser = word::<DitherWord>())]
    dither: Option<DitherWord>,
    /// The share of full brightness from which a dot is lit without dither [default: 50%]
    ///
    /// Example: spare-tile show --picture ferry.png --threshold 30%
    #[arg(long, value_name = "PERCENT", value_parser = parse_share, conflicts_with = "dither")]
    threshold: Option<f32>,
}

/// A part of a picture, in pixels.
#[derive(Clone, Copy)]
pub struct Crop {
    left: u32,
    top: u32,
    width: u32,
    height: u32,
}

fn parse_crop(text: &str) -> Result<Crop, String> {
    let numbers = || {
        let (left, rest) = text.split_once(',')?;
        let (top, size) = rest.split_once(',')?;
        let (width, height) = size.split_once('x')?;
        let number = |text: &str| text.trim().parse::<u32>().ok();
        Some(Crop { left: number(left)?, top: number(top)?, width: number(width)?, height: number(height)? })
    };
    let crop = numbers().filter(|crop| crop.width > 0 && crop.height > 0);
    crop.ok_or_else(|| "write the corner and the size in pixels, such as 40,8,64x16".to_owned())
}

fn parse_share(text: &str) -> Result<f32, String> {
    let share = text.strip_suffix('%').and_then(|number| number.trim().parse::<f32>().ok());
    let share = share.filter(|share| (0.0..=100.0).contains(share));
    share.map(|share| share / 100.0).ok_or_else(|| "write a share from 0% to 100%".to_owned())
}

impl Reading {
    /// Returns true if any of the options is there.
    pub const fn any(&self) -> bool {
        self.crop.is_some()
            || self.lay.is_some()
            || self.sample.is_some()
            || self.dither.is_some()
            || self.threshold.is_some()
    }

    /// The part that is taken, where not all of it is.
    pub const fn crop(&self) -> Option<Crop> {
        self.crop
    }

    /// How it is brought down to a size.
    pub fn reduction(&self, size: (usize, usize), inks: Inks) -> Reduction {
        let dither = self.dither.unwrap_or_default();
        let is_dithered = self.threshold.is_some() || dither != DitherWord::None;
        Reduction {
            size,
            inks: if is_dithered { inks.dithered() } else { inks },
            fit: self.lay.unwrap_or_default(),
            sampling: self.sample.unwrap_or_default(),
            dither: dither.with_threshold(self.threshold.unwrap_or(0.5)),
        }
    }
}

/// Returns the format of a picture, if these bytes are one.
pub fn format(bytes: &[u8]) -> Option<ImageFormat> {
    image::guess_format(bytes).ok()
}

/// How many frames a picture has, and how many pixels each, before any of them is decoded.
fn extent(bytes: &[u8], format: ImageFormat) -> Option<(usize, (u32, u32))> {
    match format {
        ImageFormat::Gif => {
            let mut options = gif::DecodeOptions::new();
            options.skip_frame_decoding(true);
            let mut decoder = options.read_info(Cursor::new(bytes)).ok()?;
            let mut frames = 0;
            while frames <= MOST_FRAMES && matches!(decoder.next_frame_info(), Ok(Some(_))) {
                frames += 1;
            }
            Some((frames, (decoder.width().into(), decoder.height().into())))
        }
        ImageFormat::Png => {
            let reader = png::Decoder::new(Cursor::new(bytes)).read_info().ok()?;
            let info = reader.info();
            let frames = info.animation_control().map_or(1, |control| control.num_frames as usize);
            Some((frames, (info.width, info.height)))
        }
        _ => None,
    }
}

/// Runs a decoder; returns an error if it panics, as it does for some broken pictures.
fn contained<T>(name: &str, decode: impl FnOnce() -> Result<T, Failure>) -> Result<T, Failure> {
    let before = panic::take_hook();
    // The failure says what went wrong.
    panic::set_hook(Box::new(|_| {}));
    let decoded = panic::catch_unwind(AssertUnwindSafe(decode));
    panic::set_hook(before);
    decoded.unwrap_or_else(|_| {
        Err(Failure::unusable(
            format!("{name} cannot be read as a picture: its decoder gave up"),
            "open and save it in a program for pictures",
        ))
    })
}

/// A picture as a sprite of at most a size; each frame of a moving one with its own time. `name` is the file.
pub fn read(
    name: &str,
    bytes: &[u8],
    format: ImageFormat,
    crop: Option<Crop>,
    reduction: &Reduction,
) -> Result<Sprite, Failure> {
    contained(name, || decode(name, bytes, format, crop, reduction))
}

/// Refuses a picture that would take too much time or memory.
fn check_extent(
    name: &str,
    bytes: &[u8],
    format: ImageFormat,
    crop: Option<Crop>,
    reduction: &Reduction,
) -> Result<(), Failure> {
    let Some((frames, (width, height))) = extent(bytes, format) else { return Ok(()) };
    if frames > MOST_FRAMES {
        let message = format!("{name} has more than {MOST_FRAMES} frames");
        return Err(Failure::unusable(message, "cut it into shorter ones first"));
    }
    let pixels = u64::from(width) * u64::from(height);
    if frames as u64 * pixels > MOST_PIXELS {
        let message = format!("{name} has more than {MOST_PIXELS} pixels in its frames");
        return Err(Failure::unusable(message, "make it smaller or shorter first"));
    }
    let part = crop.map_or((width, height), |crop| (crop.width, crop.height));
    let (across, down) = reduction.size_of((part.0 as usize, part.1 as usize));
    if frames * across * down > MOST_DOTS {
        let message = format!("{frames} frames of {across}x{down} dots are more than {MOST_DOTS} dots");
        return Err(Failure::unusable(message, "give a smaller --size, such as 64x32"));
    }
    Ok(())
}

fn decode(
    name: &str,
    bytes: &[u8],
    format: ImageFormat,
    crop: Option<Crop>,
    reduction: &Reduction,
) -> Result<Sprite, Failure> {
    let broken = |error: ImageError| {
        let help = format!("PNG, GIF, PBM, PGM and PPM are read, of {MAX_SIDE}x{MAX_SIDE} pixels at most");
        Failure::unusable(format!("{name} cannot be read as a picture: {error}"), help)
    };
    check_extent(name, bytes, format, crop, reduction)?;
    let mut shots: Vec<Shot> = Vec::new();
    let mut take = |pixels: &RgbaImage, stays: Duration| {
        let raster = reduction.apply(&raster(pixels, crop).map_err(|problem| {
            Failure::unusable(
                format!("{name}: {problem}"),
                "the corner is counted from 0,0 at the upper left",
            )
        })?);
        shots.push(Shot::of(raster, stays));
        Ok::<(), Failure>(())
    };
    let mut limits = Limits::default();
    limits.max_image_width = Some(MAX_SIDE);
    limits.max_image_height = Some(MAX_SIDE);
    let frames = match format {
        ImageFormat::Gif => {
            let mut decoder = GifDecoder::new(Cursor::new(bytes)).map_err(broken)?;
            decoder.set_limits(limits.clone()).map_err(broken)?;
            Some(decoder.into_frames())
        }
        ImageFormat::Png => {
            let decoder = PngDecoder::with_limits(Cursor::new(bytes), limits.clone()).map_err(broken)?;
            let moves = decoder.is_apng().map_err(broken)?;
            moves.then(|| decoder.apng().map(AnimationDecoder::into_frames)).transpose().map_err(broken)?
        }
        _ => None,
    };
    if let Some(frames) = frames {
        for frame in frames {
            let frame = frame.map_err(broken)?;
            let stays = Duration::from(frame.delay());
            take(frame.buffer(), if stays.is_zero() { USUAL } else { stays })?;
        }
    } else {
        let mut reader = ImageReader::with_format(Cursor::new(bytes), format);
        reader.limits(limits);
        take(&reader.decode().map_err(broken)?.into_rgba8(), STILL)?;
    }
    if shots.is_empty() {
        return Err(Failure::unusable(format!("{name} has no picture in it"), "name another file"));
    }
    Ok(Sprite { shots })
}

/// The pixels of a part; what one can see through is dark.
fn raster(pixels: &RgbaImage, crop: Option<Crop>) -> Result<Raster, String> {
    let (width, height) = pixels.dimensions();
    let part = crop.unwrap_or(Crop { left: 0, top: 0, width, height });
    let is_within =
        |from: u32, length: u32, most: u32| from.checked_add(length).is_some_and(|end| end <= most);
    if !is_within(part.left, part.width, width) || !is_within(part.top, part.height, height) {
        let Crop { left, top, width: across, height: down } = part;
        return Err(format!("{left},{top},{across}x{down} is not within its {width}x{height} pixels"));
    }
    let mut raster = Raster::dark(part.width as usize, part.height as usize);
    for y in 0..part.height {
        for x in 0..part.width {
            let [red, green, blue, alpha] = pixels.get_pixel(part.left + x, part.top + y).0;
            let seen = |level: u8| (u16::from(level) * u16::from(alpha) / 255) as u8;
            raster.set(x as usize, y as usize, [red, green, blue].map(seen));
        }
    }
    Ok(raster)
}
