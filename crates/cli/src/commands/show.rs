//! `show`: one still picture of what the display lights.

use clap::Args;
use serde::Serialize;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::face::Channels;
use spare_tile_core::plan::BothRigs;
use spare_tile_core::play::look::Look;

use crate::brightness::Brightness;
use crate::exports::DrawingFiles;
use crate::failure::{Complaint, Outcome};
use crate::rigs::{BuiltFile, FaceOfRig};
use crate::session::Session;
use crate::shown::Shown;
use crate::view;
use crate::view::graphics::Graphics;

/// Show one still picture of what the display lights
///
/// The text goes through the rig's wiring, driver and bus; the picture is drawn from what a model of the
/// receiving part lights.
#[derive(Args)]
pub struct Show {
    /// The brightness, in the part's own steps, or as a share of its light: 50%
    ///
    /// Example: spare-tile show 7 --at-brightness 50%
    #[arg(long, value_name = "N")]
    at_brightness: Option<Brightness>,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    built: BuiltFile,
    #[command(flatten)]
    shown: Shown,
    /// Draw the borders between the modules of a face of dots
    ///
    /// Example: spare-tile show TEAL --face board --png board.png --seams
    #[arg(long, help_heading = "Files")]
    seams: bool,
    #[command(flatten)]
    drawing: DrawingFiles,
}

/// A dot at this level or above it is fully lit: a scan may be late by a little.
const NEARLY_FULL: u8 = 250;

/// A picture of a face in words.
#[derive(Serialize)]
pub struct PictureAnswer<'a> {
    face: &'a str,
    #[serde(flatten)]
    seen: SeenAnswer<'a>,
}

/// The visible content of a face, in words.
#[derive(Serialize)]
pub struct SeenAnswer<'a> {
    /// The text that can be read, with `?` for lit segments that are not a character.
    reads: String,
    digits: Vec<DigitAnswer>,
    /// The rows of a face of dots, `#` for a lit one, or a letter for its colour.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    dots: Vec<String>,
    /// Of dots with several lights, and of others where one is lit but not fully: by row the level of each light as the eye
    /// judges it, `ff8000` or `80`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    colours: Vec<Vec<String>>,
    /// The colons and lamps.
    extras: Vec<ExtraAnswer<'a>>,
}

#[derive(Serialize)]
struct ExtraAnswer<'a> {
    name: &'a str,
    light: f32,
}

#[derive(Serialize)]
struct DigitAnswer {
    lit: Vec<&'static str>,
    reads: Option<char>,
    point: bool,
    /// The light of the brightest segment, 1 being the brightest that the drive can make.
    light: f32,
}

impl<'a> PictureAnswer<'a> {
    pub fn of(picture: &Picture<'a>) -> Self {
        Self { face: &picture.face.name, seen: SeenAnswer::of(picture) }
    }
}

impl<'a> SeenAnswer<'a> {
    pub fn of(picture: &Picture<'a>) -> Self {
        let style = picture.face.style();
        let digit = |digit: usize| {
            let (reads, point) = picture.read(digit);
            let lights = (0..style.segment_count()).map(|segment| picture.segment(digit, segment));
            DigitAnswer {
                lit: picture.lit(digit).names(style).collect(),
                reads,
                point,
                light: lights.fold(0.0, f32::max),
            }
        };
        let extras = picture.face.extras.iter().enumerate();
        let face = picture.face;
        let (width, height) = face.dots().map_or((0, 0), |grid| (grid.width, grid.height));
        let has_colours = face.dots().is_some_and(|grid| grid.channels != Channels::One);
        let dot = |x, y| match picture.dot(x, y) > 0.0 {
            true if has_colours => picture.letter(x, y),
            true => '#',
            false => '.',
        };
        let is_dim = |x, y| (1..NEARLY_FULL).contains(&picture.colour_of_dot(x, y)[0]);
        let has_greys = !has_colours && (0..height).any(|y| (0..width).any(|x| is_dim(x, y)));
        let lights = if has_colours { 3 } else { 1 };
        let colour = |x, y| {
            let levels = picture.colour_of_dot(x, y);
            levels[..lights].iter().map(|level| format!("{level:02x}")).collect::<String>()
        };
        let rows = if has_colours || has_greys { height } else { 0 };
        Self {
            reads: picture.reading(),
            digits: (0..picture.face.digits()).map(digit).collect(),
            dots: (0..height).map(|y| (0..width).map(|x| dot(x, y)).collect()).collect(),
            colours: (0..rows).map(|y| (0..width).map(|x| colour(x, y)).collect()).collect(),
            extras: extras
                .map(|(place, extra)| ExtraAnswer { name: &extra.name, light: picture.extra(place) })
                .collect(),
        }
    }
}

/// Writes the picture with real pixels on a terminal that takes them, otherwise with characters.
fn write_picture(picture: &Picture<'_>, session: &mut Session<'_>) -> Outcome {
    if let Some(graphics) = Graphics::of(session) {
        return graphics.show(view::picture::bare(picture), session);
    }
    let drawing = view::terminal(picture, session);
    Ok(writeln!(session.out, "{drawing}")?)
}

/// Runs `show`.
pub fn run(show: &Show, session: &mut Session<'_>) -> Outcome {
    let rig = show.rig.load(session)?;
    let face = show.rig.place(&rig)?;
    let other = show.built.load(&show.rig, &rig, session)?;
    let rigs = BothRigs::new(&rig, other.as_ref());
    let mount = &rig.faces[face];
    let frame = show.shown.frame(mount, session)?;
    let brightness = show.at_brightness.map(|brightness| brightness.step(mount)).transpose()?;
    let look = Look::at(rigs, face, &frame, brightness)?;
    let picture = &look.picture;
    if session.json {
        session.write_json(&PictureAnswer::of(picture))?;
    } else {
        write_picture(picture, session)?;
    }
    if !look.is_as_meant {
        tell_why(&look, mount.lacks(&frame).is_empty(), session);
    }
    let draw = || {
        let mut page = view::picture::draw(picture);
        if let (true, Some(module), Some(grid)) =
            (show.seams, rigs.built.faces[face].drive.display().module(), mount.face.dots())
        {
            view::picture::draw_seams(&mut page, grid, module);
        }
        page
    };
    show.drawing.write(draw, session)
}

/// Explains why the picture differs from the intended one, if possible. `was_whole` unless a message has explained what
/// the face cannot show.
fn tell_why(look: &Look<'_>, was_whole: bool, session: &mut Session<'_>) {
    const MOST: usize = 3;
    let mut reasons = look.handicaps.clone();
    reasons.extend(look.odd.iter().take(MOST).map(|note| format!("the part found this odd: {note}")));
    if look.odd.len() > MOST {
        reasons.push(format!("the part found {} more things odd", look.odd.len() - MOST));
    }
    if reasons.is_empty() && was_whole {
        reasons.push("the hardware is not wired as the rig says".to_owned());
    }
    let complaints: Vec<_> = reasons
        .into_iter()
        .map(|reason| {
            let message = format!("this is not what was meant: {reason}");
            Complaint::warning(message, "compare the rig with the hardware: spare-tile rig wires")
        })
        .collect();
    session.warn(&complaints);
}
