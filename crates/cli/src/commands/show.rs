//! `show`: one still picture of what the display lights.

use clap::Args;
use serde::Serialize;
use spare_tile_core::picture::Picture;
use spare_tile_core::pipeline::Pipeline;
use spare_tile_core::rig::Mount;

use crate::brightness::Brightness;
use crate::failure::{Failure, Outcome};
use crate::files::DrawingFiles;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::view;
use crate::words::{Placing, Words};

/// Show one still picture of what the display lights
///
/// The text goes through the rig's wiring, driver and bus; the picture is drawn from what a model of the
/// receiving part lights.
#[derive(Args)]
pub struct Show {
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    words: Words,
    #[command(flatten)]
    placing: Placing,
    /// The brightness, in the part's own steps, or as a share of its light: 50%
    #[arg(long, value_name = "N")]
    at_brightness: Option<Brightness>,
    #[command(flatten)]
    drawing: DrawingFiles,
}

/// A picture in words.
#[derive(Serialize)]
pub struct PictureAnswer<'a> {
    face: &'a str,
    /// What a person reads off the face, `?` where the lit segments are no character.
    reads: String,
    digits: Vec<DigitAnswer>,
    /// The rows of a face of dots, `#` for a lit one.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    dots: Vec<String>,
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
        let style = picture.face.style;
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
        let dot = |x, y| picture.light.get(face.dot(x, y).0).is_some_and(|light| *light > 0.0);
        let row = |y| (0..face.dots.width).map(|x| if dot(x, y) { '#' } else { '.' }).collect();
        Self {
            face: &picture.face.name,
            reads: picture.reading(),
            digits: (0..picture.face.digits).map(digit).collect(),
            dots: (0..face.dots.height).map(row).collect(),
            extras: extras
                .map(|(place, extra)| ExtraAnswer { name: &extra.name, light: picture.extra(place) })
                .collect(),
        }
    }
}

/// Runs `show`.
pub fn run(show: &Show, session: &mut Session<'_>) -> Outcome {
    let rig = show.rig.load(session)?;
    let mount = show.rig.pick(&rig)?;
    let picture = picture(show, mount, session)?;
    if session.json {
        session.write_json(&PictureAnswer::of(&picture))?;
    } else {
        let drawing = view::terminal(&picture, session);
        writeln!(session.out, "{drawing}")?;
    }
    show.drawing.write(|| view::svg::draw(&picture), session)
}

fn picture<'r>(show: &Show, mount: &'r Mount, session: &mut Session<'_>) -> Result<Picture<'r>, Failure> {
    let frame = show.words.frame(&show.placing, &mount.face, session)?;
    let mut pipeline = Pipeline::new(mount);
    pipeline.power_up();
    pipeline.show(&frame);
    if let Some(brightness) = show.at_brightness {
        pipeline.brightness(brightness.step(mount)?);
    }
    Ok(pipeline.picture())
}
