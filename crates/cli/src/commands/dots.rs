//! `dots`: a sprite out of a picture or of another sprite, checked, changed, and put together with a third.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use serde::Serialize;
use spare_tile_core::dots::raster::{Combine, Shot};
use spare_tile_core::dots::reduce::Inks;
use spare_tile_core::dots::sprite::{self, MOST_HEIGHT, MOST_WIDTH, Sprite};

use crate::exports::{self, sprite::SpriteFile};
use crate::failure::{Failure, Outcome};
use crate::files;
use crate::pictures::Reading;
use crate::session::Session;
use crate::sprites::{self, Changes, Target};
use crate::visible::visible_lines;

/// Make a sprite of a picture, or of another sprite
///
/// Pictures are PNG, GIF, PBM, PGM and PPM; each frame of a moving one keeps its time. The answer is a sprite file, a
/// text that shows the dots: docs/dots-file.md. What is wrong in a sprite file is said with its line.
#[derive(Args)]
pub struct Dots {
    /// The sprite or picture file; - is standard input
    ///
    /// Example: spare-tile dots gull.dots
    #[arg(value_name = "FILE")]
    file: PathBuf,
    /// The size for a picture in dots, across and down [default: its pixels, 1024x256 at most]
    ///
    /// Example: spare-tile dots ferry.png --size 32x8
    #[arg(long, value_name = "WxH", value_parser = sprites::parse_size)]
    size: Option<(usize, usize)>,
    /// Use eight colours for a picture, not one
    ///
    /// Example: spare-tile dots ferry.png --size 32x8 --colours
    #[arg(long)]
    colours: bool,
    /// Combine it with another sprite or picture, frame by frame, aligned at the upper left corner
    ///
    /// Example: spare-tile dots gull.dots --with cloud.dots
    #[arg(long, value_name = "FILE")]
    with: Option<PathBuf>,
    /// The way in which the two are combined
    ///
    /// Example: spare-tile dots gull.dots --with cloud.dots --combine xor
    #[arg(long, value_enum, value_name = "HOW", default_value = "or", requires = "with")]
    combine: By,
    /// Write the sprite to a file
    ///
    /// Example: spare-tile dots ferry.png --size 32x8 --out ferry.dots
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
    #[command(flatten)]
    reading: Reading,
    #[command(flatten)]
    changes: Changes,
}

/// How two sprites are put together, on the command line.
#[derive(ValueEnum, Clone, Copy)]
enum By {
    /// Lit where either is
    Or,
    /// Lit where both are
    And,
    /// Lit where one is, but not both
    Xor,
    /// The first, where the second is lit
    Mask,
}

#[derive(Serialize)]
struct SpriteAnswer<'a> {
    width: usize,
    height: usize,
    frames: Vec<FrameAnswer<'a>>,
}

#[derive(Serialize)]
struct FrameAnswer<'a> {
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<&'a str>,
    seconds: f64,
    rows: Vec<String>,
}

impl<'a> FrameAnswer<'a> {
    fn of(shot: &'a Shot) -> Self {
        Self {
            name: shot.name.as_deref(),
            seconds: shot.stays.as_secs_f64(),
            rows: sprite::rows(&shot.raster),
        }
    }
}

/// Runs `dots`.
pub fn run(dots: &Dots, session: &mut Session<'_>) -> Outcome {
    let inks = if dots.colours { Inks::Eight } else { Inks::One };
    let target = Target { size: dots.size.unwrap_or((MOST_WIDTH, MOST_HEIGHT)), inks };
    let first = sprites::load(&dots.file, &dots.reading, target)?;
    let sprite = match &dots.with {
        Some(other) => together(&first, &sprites::load(other, &dots.reading, target)?, dots.combine),
        None => first,
    };
    let sprite = dots.changes.apply_within(&sprite);
    let (width, height) = sprite.size();
    if width > MOST_WIDTH || height > MOST_HEIGHT {
        let message = format!("a sprite of {width}x{height} dots is too large");
        return Err(Failure::unusable(message, format!("{MOST_WIDTH}x{MOST_HEIGHT} at most: give a --size")));
    }
    if let Some(path) = &dots.out {
        let text = files::sealed(&sprite::write(&sprite));
        return exports::write_and_tell(path, &SpriteFile, session, |out| out.write_all(text.as_bytes()));
    }
    if !session.json {
        write!(session.out, "{}", visible_lines(&sprite::write(&sprite)))?;
        return Ok(());
    }
    let frames = sprite.shots.iter().map(FrameAnswer::of).collect();
    session.write_json(&SpriteAnswer { width, height, frames })
}

/// Each frame with one of another sprite, which begins again where it has fewer.
fn together(sprite: &Sprite, other: &Sprite, by: By) -> Sprite {
    let how = match by {
        By::Or => Combine::Or,
        By::And => Combine::And,
        By::Xor => Combine::Xor,
        By::Mask => Combine::Mask,
    };
    let with = |(shot, other): (&Shot, &Shot)| shot.showing(shot.raster.combined(&other.raster, how));
    Sprite { shots: sprite.shots.iter().zip(other.shots.iter().cycle()).map(with).collect() }
}
