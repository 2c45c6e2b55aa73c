//! Whole projects for controllers: what a rig shows, as source that is compiled and flashed as it is.
//!
//! ```text
//!  rig's drive --learn--> sending --+
//!                                   +--> model --templates of a target--> files
//!  reel's acts --write--> story   --+
//! ```
//!
//! [`sending`] learns from a face's driver what goes over its lines, [`story`] turns acts into [passages](passage) that a small
//! program can play, [`making`] lays both out as a [`model`], plain data with names of the language, and a [target](targets) says it
//! in a language. Nothing is worked out in a template, and no source stands in Rust.

mod choosing;
mod counting;
pub mod error;
pub mod field;
mod film;
mod hearing;
mod jumping;
mod keys;
mod laying;
mod lines;
pub mod making;
pub mod model;
pub mod names;
mod of_outputs;
mod of_panel;
mod of_part;
pub mod passage;
mod putting;
pub mod sending;
pub mod story;
pub mod targets;
mod telling;
mod transfers;
pub mod values;
mod valuing;

use std::collections::BTreeSet;
use std::ops::Range;
use std::time::Duration;

use jiff::Timestamp;
use jiff::tz::TimeZone;
use minijinja::value::{Serde, Value};
use minijinja::{Environment, Error, context};

use super::template::environment;
use error::ProjectError;
use making::Content;
use model::{Model, PassageModel, ZoneModel};
use names::Names;
use spare_tile_core::content::Canvas;
use spare_tile_core::frame::Level;
use spare_tile_core::plan::Rig;
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::still::Blank;
use spare_tile_core::play::{Act, Inputs, Reel, Track};
use targets::{Load, Of, READMES, Target};

/// A file of a project, as it is to be written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Written {
    /// Its path within the project, with `/` between folders.
    pub path: String,
    /// What stands in it.
    pub text: String,
}

/// What a project says beside what is in the rig and the reel.
#[derive(Debug, Clone, Copy)]
pub struct Texts<'a> {
    /// Who wrote it: the program and its version.
    pub program: &'a str,
    /// What to connect to what, as text.
    pub wiring: &'a str,
    /// When clocks begin that are not said to begin at a time.
    pub begins: Option<Timestamp>,
    /// The zone of the time in a person's own program.
    pub zone: &'a TimeZone,
}

/// Why a project was not written.
#[derive(Debug, thiserror::Error)]
pub enum WriteError {
    /// What it is to show, or on what, cannot be written.
    #[error(transparent)]
    Project(#[from] ProjectError),
    /// A template is wrong: a mistake of ours.
    #[error("a template cannot be filled: {0}")]
    Template(#[from] Error),
}

/// Writes what plays on a rig as a project for a target.
///
/// # Errors
/// If the target does not support it.
pub fn write(
    rig: &Rig,
    content: &Content<'_>,
    target: &dyn Target,
    texts: &Texts<'_>,
) -> Result<Vec<Written>, WriteError> {
    let (language, reserved) = target.reserved();
    if content.is_own && !target.takes_own() {
        let why =
            "it plays what is fixed when it is written: it has no calls for a program of your own".to_owned();
        return Err(ProjectError::Target { target: target.name(), why }.into());
    }
    let mut names = Names::of(language, reserved);
    let model = Model::of(rig, content, texts.begins, &mut names)?;
    target.check(&model)?;
    let environment = filled(target)?;
    let all = context(&model, target, texts);
    let file = |file: targets::File| {
        let (face, font) = match file.of {
            Of::Project => (None, None),
            Of::Face(face) => (model.faces.get(face), None),
            Of::Font(font) => (None, model.fonts.get(font)),
        };
        let text = environment.get_template(file.template)?.render(context! {
            face => face.map(|face| Value::from(Serde(face))),
            font => font.map(|font| Value::from(Serde(font))),
            ..all.clone()
        })?;
        Ok(Written { path: file.path, text })
    };
    let mut files = target.files(&model).into_iter().map(file).collect::<Result<Vec<_>, WriteError>>()?;
    files.extend(target.runtime(&model));
    target.check_written(&files)?;
    Ok(files)
}

/// What sends a list of transfers that stands before it, of this name, on the lines of a face. It reads nothing; `reads` says that the
/// list asks for it.
///
/// # Errors
/// When the target cannot send on them.
pub fn sender(
    rig: &Rig,
    face: usize,
    target: &dyn Target,
    (list, reads): (&str, bool),
) -> Result<String, WriteError> {
    let (language, reserved) = target.reserved();
    let model = dark(rig, face..face + 1, &mut Names::of(language, reserved))?;
    target.check(&model)?;
    let template = target.list().ok_or(ProjectError::List { target: target.name() })?;
    if let Some(face) = model.faces.iter().find(|face| face.scan.is_some()) {
        return Err(ProjectError::Scanned { face: face.name.clone() }.into());
    }
    let texts = Texts { program: "", wiring: "", begins: None, zone: &TimeZone::UTC };
    let all = context(&model, target, &texts);
    Ok(filled(target)?.get_template(template)?.render(context! { list, reads, ..all })?)
}

/// Lights that are lit half.
struct Glimmer;

impl Act for Glimmer {
    fn draw(&self, _: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        canvas.levels_mut().fill(Level(128));
    }

    fn next_change(&self, _: Duration, _: &Inputs) -> Option<Duration> {
        None
    }

    fn length(&self) -> Option<Duration> {
        None
    }
}

/// A project in which nothing is shown, or on faces that have them greys.
fn dark(rig: &Rig, faces: Range<usize>, names: &mut Names) -> Result<Model, ProjectError> {
    let content = Content { program: &dark_program(rig, faces), words: "", is_own: false };
    Model::of(rig, &content, None, names)
}

fn dark_program(rig: &Rig, faces: Range<usize>) -> Program {
    let act = |face: usize| -> Box<dyn Act> {
        if rig.faces[face].drive.display().grey_steps() > 1 { Box::new(Glimmer) } else { Box::new(Blank) }
    };
    let reel = Reel { tracks: faces.map(|face| Track { face, act: act(face) }).collect() };
    Program { reel, ..Program::default() }
}

/// What the templates are given.
fn context(model: &Model, target: &dyn Target, texts: &Texts<'_>) -> Value {
    let releases = model.faces.iter().any(|face| ["i2c", "two_wire"].contains(&face.bus.kind));
    let pulls: BTreeSet<_> = model.lines.iter().filter_map(|line| line.input).collect();
    let asks = model.faces.iter().any(|face| face.keys.is_some()) || model.hears_acknowledges();
    let releases = releases || asks;
    let reads = asks || !pulls.is_empty();
    let waits = model.faces.iter().any(|face| face.bus.kind != "pins");
    let scans = model.faces.iter().any(|face| face.scan.is_some());
    let more: usize = [releases, waits, scans, reads, !pulls.is_empty()].map(usize::from).iter().sum();
    let calls = ["two", "three", "four", "five", "six", "seven"][more];
    let begins = texts.begins.unwrap_or_default();
    let is_clock = |passage: &PassageModel| matches!(passage, PassageModel::Clock { .. });
    let is_set_clock = |passage: &PassageModel| matches!(passage, PassageModel::Clock { is_set: true, .. });
    context! {
        program => texts.program,
        wiring => texts.wiring,
        target => target.facts(model),
        uses => context! {
            release => releases,
            wait => waits,
            scan => scans,
            read => reads,
            pull_down => pulls.contains("down"),
            inputs => !pulls.is_empty(),
        },
        inputs => context! {
            actions => model.has_actions(),
            readings => model.has_readings(),
            figures => model.steps_at_figures(),
            buttons => model.has_keys(),
            button_bits => model.key_bits(),
            own => model.is_own,
        },
        calls,
        keypads => Value::from(Serde(model.keypads().collect::<Vec<_>>())),
        begins => begins.as_second(),
        zone => model.is_own.then(|| Value::from(Serde(ZoneModel::of(texts.zone, begins)))),
        has_set_clock => model.faces.iter().any(|face| face.passages.iter().any(is_set_clock)),
        has_clock => model.faces.iter().any(|face| face.passages.iter().any(is_clock)),
        ..Value::from(Serde(model))
    }
}

/// What stands in the way of a program for a target, whatever it shows, and what the scans take of the controller.
#[must_use]
pub fn outlook(rig: &Rig, target: &dyn Target) -> (Vec<ProjectError>, Vec<Load>) {
    let (language, reserved) = target.reserved();
    let model_of = |faces: Range<usize>| dark(rig, faces, &mut Names::of(language, reserved));
    let checked = |model: Model| target.check(&model).map(|()| model);
    let alone = (0..rig.faces.len()).filter_map(|face| model_of(face..face + 1).and_then(checked).err());
    let mut obstacles: Vec<_> = alone.collect();
    let together = model_of(0..rig.faces.len());
    let loads = together.as_ref().map(|model| target.loads(model)).unwrap_or_default();
    // Only together they ask too much.
    if obstacles.is_empty() {
        obstacles.extend(together.and_then(checked).err());
    }
    // The memory that the sources take is only known once they are written.
    if obstacles.is_empty() {
        let texts = Texts { program: "", wiring: "", begins: None, zone: &TimeZone::UTC };
        let content = Content { program: &dark_program(rig, 0..rig.faces.len()), words: "", is_own: false };
        let written = write(rig, &content, target, &texts);
        if let Err(WriteError::Project(error)) = written {
            obstacles.push(error);
        }
    }
    obstacles.dedup();
    (obstacles, loads)
}

/// What fills the templates of a target.
fn filled(target: &dyn Target) -> Result<Environment<'static>, Error> {
    environment([READMES, target.shared(), target.pieces(), target.templates()].concat())
}
