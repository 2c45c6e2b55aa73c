//! Sprites from files, turned and moved as options say.

use std::path::Path;

use clap::{Args, ValueEnum};
use spare_tile_core::content::Canvas;
use spare_tile_core::content::pictures as placing;
use spare_tile_core::content::text::Align;
use spare_tile_core::dots::raster::Raster;
use spare_tile_core::dots::reduce::{Inks, Reduction};
use spare_tile_core::dots::sprite::{self, MOST_HEIGHT, MOST_WIDTH, Sprite};
use spare_tile_core::face::{Face, Grid};
use spare_tile_core::frame::Frame;
use spare_tile_core::plan::Mount;
use spare_tile_core::units::counted;

use crate::failure::{Complaint, Failure};
use crate::files;
use crate::input;
use crate::pictures::{self, Crop, Reading};

/// The changes to a sprite before it is shown, in this order.
#[derive(Args, Default)]
#[command(next_help_heading = "Sprites")]
pub struct Changes {
    /// Exchange left and right
    ///
    /// Example: spare-tile play sprite gull.dots --mirror
    #[arg(long)]
    mirror: bool,
    /// Turn it clockwise by this angle in degrees
    ///
    /// Example: spare-tile play sprite gull.dots --turn 90
    #[arg(long, value_enum, value_name = "DEGREES", default_value = "0")]
    turn: TurnArg,
    /// Invert it: light dark dots, and darken lit ones
    ///
    /// Example: spare-tile play sprite gull.dots --negative
    #[arg(long)]
    negative: bool,
    /// Move it by this number of dots to the right and down, or to the left and up if negative
    ///
    /// Example: spare-tile play sprite gull.dots --shift 3,-1
    #[arg(long, value_name = "RIGHT,DOWN", allow_hyphen_values = true, value_parser = parse_shift)]
    shift: Option<(i16, i16)>,
    /// Let dots that leave at one edge of the sprite while it is moved enter at the opposite edge
    ///
    /// Example: spare-tile play sprite gull.dots --shift 3,0 --around
    #[arg(long, requires = "shift")]
    around: bool,
}

/// A quarter, on the command line.
#[derive(ValueEnum, Clone, Copy, Default)]
enum TurnArg {
    #[default]
    #[value(name = "0")]
    Not,
    #[value(name = "90")]
    Quarter,
    #[value(name = "180")]
    Half,
    #[value(name = "270")]
    ThreeQuarters,
}

fn parse_shift(text: &str) -> Result<(i16, i16), String> {
    let sides = text
        .split_once(',')
        .and_then(|(right, down)| Some((right.trim().parse().ok()?, down.trim().parse().ok()?)));
    sides.ok_or_else(|| "write dots to the right and down, such as 3,-1".to_owned())
}

impl Changes {
    /// Returns true if any of the options is there.
    pub const fn any(&self) -> bool {
        self.mirror || self.negative || self.shift.is_some() || !matches!(self.turn, TurnArg::Not)
    }

    /// The sprite with what the options ask for, and the place of its upper left corner.
    pub fn apply(&self, sprite: &Sprite) -> (Sprite, (isize, isize)) {
        (sprite.map(|raster| self.change(raster)), self.place())
    }

    /// One picture with what the options ask for.
    fn change(&self, raster: &Raster) -> Raster {
        let mirrored = if self.mirror { raster.mirrored() } else { raster.clone() };
        let turned = mirrored.turned(self.turn as u32);
        let negative = if self.negative { turned.inverted() } else { turned };
        let (right, down) = self.moved();
        if self.around { negative.shifted(right, down, true) } else { negative }
    }

    /// The place of its upper left corner: what goes around stays where it is.
    fn place(&self) -> (isize, isize) {
        if self.around { (0, 0) } else { self.moved() }
    }

    fn moved(&self) -> (isize, isize) {
        self.shift.map_or((0, 0), |(right, down)| (isize::from(right), isize::from(down)))
    }

    /// Returns the part of the changed sprite that a face cuts off, unless it was moved there by hand.
    pub fn cut(&self, changed: &Sprite, face: &Face) -> Option<Complaint> {
        let back = |dots: usize| -(dots as isize);
        let help = |(columns, rows)| format!("--shift {},{} shows the other end", back(columns), back(rows));
        if self.shift.is_none() { cut(changed, face, help) } else { None }
    }

    /// The same within the size that the sprite then has: what is moved beyond it is lost.
    pub fn apply_within(&self, sprite: &Sprite) -> Sprite {
        let (sprite, (right, down)) = self.apply(sprite);
        sprite.map(|raster| raster.shifted(right, down, false))
    }
}

/// The form to which a picture is reduced: at most this many dots across and down, in these colours.
#[derive(Clone, Copy)]
pub struct Target {
    pub size: (usize, usize),
    pub inks: Inks,
}

impl Target {
    /// The dots of a face, and what they can show.
    pub fn of(mount: &Mount) -> Result<Self, Failure> {
        let face = &mount.face;
        let of_grid = |(grid, inks): (Grid, Inks)| Self { size: (grid.width, grid.height), inks };
        face.dots().zip(mount.inks()).map(of_grid).ok_or_else(|| {
            let message = format!("face {} has digits: it shows no sprites", face.name);
            Failure::unusable(message, "pick a face with dots")
        })
    }
}

/// Reads a sprite file, or a picture, which is brought down to that.
pub fn load(path: &Path, reading: &Reading, target: Target) -> Result<Sprite, Failure> {
    load_reduced(path, reading.crop(), &reading.reduction(target.size, target.inks), reading.any())
}

/// Reads a sprite file, or a picture, of which a part is brought down; `is_asked` where something was said of how.
pub fn load_reduced(
    path: &Path,
    crop: Option<Crop>,
    reduction: &Reduction,
    is_asked: bool,
) -> Result<Sprite, Failure> {
    let (name, bytes) = (input::called(path), files::read_bytes(path, "sprite")?);
    if let Some(format) = pictures::format(&bytes) {
        return pictures::read(&name, &bytes, format, crop, reduction);
    }
    let sprite = parse(&name, &files::text(path, "sprite", bytes)?)?;
    if is_asked {
        let message = format!("{name} is a sprite: its dots stay as they are");
        return Err(Failure::unusable(message, "leave out what is for pictures, such as --dither"));
    }
    Ok(sprite)
}

/// The sprite of a file's text.
pub fn parse(name: &str, source: &str) -> Result<Sprite, Failure> {
    sprite::read(files::unsealed(source)).map_err(|error| {
        Failure::unusable(format!("{name}, {error}"), "the format of sprites is in docs/dots-file.md")
    })
}

/// Reads a size on the command line.
pub fn parse_size(text: &str) -> Result<(usize, usize), String> {
    sprite::parse_size(text)
        .ok_or_else(|| format!("write a size from 1x1 to {MOST_WIDTH}x{MOST_HEIGHT}, such as 32x8"))
}

/// Returns the part of a sprite that a smaller face cuts off.
pub fn cut(sprite: &Sprite, face: &Face, help: impl Fn((usize, usize)) -> String) -> Option<Complaint> {
    let grid = face.dots()?;
    let (width, height) = sprite.size();
    let beyond = (width.saturating_sub(grid.width), height.saturating_sub(grid.height));
    let columns = counted(beyond.0, "column at its right", "columns at its right");
    let rows = counted(beyond.1, "row at its foot", "rows at its foot");
    let loses = match beyond {
        (0, 0) => return None,
        (_, 0) => columns,
        (0, _) => rows,
        _ => format!("{columns} and {rows}"),
    };
    let message = format!(
        "the sprite has {width}x{height} dots and face {} {}x{}: it loses {loses}",
        face.name, grid.width, grid.height
    );
    Some(Complaint::warning(message, help(beyond)))
}

/// The frame of a face that shows one picture of a sprite: `FILE`, or `FILE:FRAME` by name or number. A narrower one stands
/// where `align` says; of a larger one there is a warning with it.
pub fn frame(
    named: &str,
    reading: &Reading,
    changes: &Changes,
    align: Align,
    mount: &Mount,
) -> Result<(Frame, Option<Complaint>), Failure> {
    let face = &mount.face;
    let whole = Path::new(named);
    let (path, name) = match named.rsplit_once(':') {
        Some((file, name)) if !whole.exists() => (Path::new(file), Some(name)),
        _ => (whole, None),
    };
    let target = Target::of(mount)?;
    let sprite = load(path, reading, target)?;
    let (changed, (right, down)) = changes.apply(&sprite);
    let at = (right + align.start(changed.size().0, target.size.0) as isize, down);
    let shot = changed.shot(name.unwrap_or("0")).ok_or_else(|| {
        let message = format!("{} has no frame {}", input::called(path), name.unwrap_or_default());
        let names = changed
            .shots
            .iter()
            .enumerate()
            .map(|(number, shot)| shot.name.clone().unwrap_or_else(|| number.to_string()));
        Failure::unusable(message, format!("its frames: {}", names.collect::<Vec<_>>().join(", ")))
    })?;
    let mut frame = face.blank();
    placing::place(&mut Canvas::whole(face, &mut frame), &shot.raster, at);
    Ok((frame, changes.cut(&changed, face)))
}

/// The frame of a face that shows a text with what the options ask for: in the middle of the height, where `align` says.
pub fn of_text(text: &Raster, changes: &Changes, align: Align, face: &Face) -> Frame {
    let (changed, (right, down)) = (changes.change(text), changes.place());
    let (width, height) = (changed.width(), changed.height());
    let (across, rows) = face.dots().map_or((0, 0), |grid| (grid.width, grid.height));
    let top = (rows as isize - height as isize).div_euclid(2);
    let at = (right + align.start(width, across) as isize, down + top);
    let mut frame = face.blank();
    placing::place(&mut Canvas::whole(face, &mut frame), &changed, at);
    frame
}
