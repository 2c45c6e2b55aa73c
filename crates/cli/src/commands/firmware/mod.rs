//! `firmware`: what a rig shows, as a source project for its controller.

mod app;
mod expected;
mod folder;
mod size;

use std::path::{Path, PathBuf};

use clap::Args;
use clap::builder::PossibleValuesParser;
use jiff::Timestamp;
use serde::Serialize;
use spare_tile_core::firmware::project::error::ProjectError;
use spare_tile_core::firmware::project::targets::{TARGETS, Target, target};
use spare_tile_core::firmware::project::{self, Texts, WriteError, Written};
use spare_tile_core::plan::Rig;
use spare_tile_core::play::reel::Program;

use super::play::outside::moment;
use super::play::reel;
use super::rig::wires;
use crate::failure::{Failure, Outcome};
use crate::rigs::FaceOfRig;
use crate::session::Session;
use app::App;
use folder::{Folder, MANIFEST};

/// Write what a rig shows as a source project for its controller
///
/// A folder with sources, a build file, a README with what to connect and how to build and flash it, and what is to be seen when. The
/// content is a reel, or one act on one face. A scan runs from a timer, everything else from a count of milliseconds: no delay stops
/// the scan. Files that somebody else wrote or changed are left alone.
#[derive(Args)]
pub struct Firmware {
    /// What it is for: c99, avr, setup-loop, mcs51, micropython, rust, pic-asm
    ///
    /// Example: spare-tile firmware --target c99 --app count --out gauge
    #[arg(long, value_name = "TARGET", value_parser = target_names())]
    target: String,
    /// The reel that it plays
    ///
    /// Example: spare-tile firmware --target c99 --reel morning.reel.toml --out morning
    #[arg(long, value_name = "FILE", required_unless_present = "app", conflicts_with = "app")]
    reel: Option<PathBuf>,
    /// An act that it plays on one face: count, clock, text, still, test
    ///
    /// Example: spare-tile firmware --target c99 --app clock --out clock
    #[arg(long, value_enum)]
    app: Option<App>,
    /// What the app text or still shows
    ///
    /// Example: spare-tile firmware --target c99 --app text --say "TEAL 07:58" --out sign
    #[arg(long, value_name = "TEXT", requires = "app")]
    say: Option<String>,
    /// The time, in UTC, with which a clock begins that says none [default: the one it is]
    ///
    /// Example: spare-tile firmware --target c99 --app clock --at 07:57 --out clock
    #[arg(long, value_name = "TIME", value_parser = moment)]
    at: Option<Timestamp>,
    /// The folder to write
    ///
    /// Example: spare-tile firmware --target c99 --app count --out gauge
    #[arg(long, value_name = "FOLDER", required_unless_present = "size")]
    out: Option<PathBuf>,
    /// Tell how much flash and RAM it takes; the compiler must be installed
    ///
    /// Example: spare-tile firmware --target avr --app count --size
    #[arg(long)]
    size: bool,
    #[command(flatten)]
    rig: FaceOfRig,
}

/// The names of the targets, for the command line.
pub fn target_names() -> PossibleValuesParser {
    PossibleValuesParser::new(TARGETS.iter().map(|target| target.name()))
}

#[derive(Serialize)]
struct Answer<'a> {
    target: &'a str,
    folder: String,
    files: Vec<&'a str>,
}

/// Runs `firmware`.
pub fn run(args: &Firmware, session: &mut Session<'_>) -> Outcome {
    let Some(target) = target(&args.target) else { return Ok(()) };
    let begins = args.begins();
    let (rig, program, content) = args.content(begins, session)?;
    if session.is_unsound {
        let help = "mend the rig, or write the program all the same: --unsound";
        return Err(Failure::answer_is_no("no program was written for a rig with errors", help));
    }
    let files = files(&rig, (&program, &content), begins, target)?;
    if let Some(out) = &args.out {
        let mut folder = Folder::open(out);
        if !session.force {
            folder.check(&files)?;
        }
        folder.write(&files, &by())?;
        if !args.size || !session.json {
            tell(out, target, &files, session)?;
        }
    }
    if args.size { size::tell(&rig, &files, target, session) } else { Ok(()) }
}

impl Firmware {
    /// When clocks begin that do not say it: now, or when it is said to be, to the second.
    fn begins(&self) -> Timestamp {
        let begins = self.at.unwrap_or_else(Timestamp::now);
        Timestamp::from_second(begins.as_second()).unwrap_or(begins)
    }

    /// The rig, what plays on it, and what that is in words.
    fn content(
        &self,
        begins: Timestamp,
        session: &mut Session<'_>,
    ) -> Result<(Rig, Program, String), Failure> {
        if let Some(path) = &self.reel {
            let (rig, program, complaints) = reel::load(path, &self.rig, session)?;
            session.warn(&complaints);
            let name = program.name.clone().unwrap_or_else(|| path.display().to_string());
            return Ok((rig, program, format!("the reel {name}")));
        }
        let rig = self.rig.load(session)?;
        let face = &self.rig.pick(&rig)?.face.name;
        let app = self.app.unwrap_or(App::Count);
        let source = app.reel(face, self.say.as_deref(), begins)?;
        let program = reel::of_text(&source, &rig)?;
        let content = match &self.say {
            Some(words) => format!("the app {}: {words}", app.name()),
            None => format!("the app {}", app.name()),
        };
        Ok((rig, program, content))
    }
}

/// Who writes.
fn by() -> String {
    format!("spare-tile {}", env!("CARGO_PKG_VERSION"))
}

/// The files of a project.
///
/// # Errors
/// If the target does not support it.
pub fn files(
    rig: &Rig,
    (program, content): (&Program, &str),
    begins: Timestamp,
    target: &dyn Target,
) -> Result<Vec<Written>, Failure> {
    let plays = |face: &usize| program.reel.tracks.iter().any(|track| track.face == *face);
    let faces = (0..rig.faces.len()).filter(plays).map(|face| &rig.faces[face]);
    let wiring = faces.map(|mount| wires::text(rig, mount)).collect::<Result<Vec<_>, _>>()?.join("\n");
    let texts = Texts { program: &by(), content, wiring: &wiring, begins: Some(begins) };
    let mut files = project::write(rig, program, target, &texts).map_err(|error| {
        let help = "other targets: c99 runs on anything; see the list in docs/guide/firmware.md";
        match error {
            WriteError::Project(error @ ProjectError::Target { .. }) => {
                Failure::unusable(error.to_string(), help)
            }
            error => Failure::unusable_plainly(error.to_string()),
        }
    })?;
    files.push(Written { path: "expected.txt".to_owned(), text: expected::text(rig, program, begins)? });
    Ok(files)
}

fn tell(out: &Path, target: &dyn Target, files: &[Written], session: &mut Session<'_>) -> Outcome {
    let folder = out.display().to_string();
    if session.json {
        let files = files.iter().map(|file| file.path.as_str()).collect();
        return session.write_json(&Answer { target: target.name(), folder, files });
    }
    writeln!(session.out, "{folder}: {}", target.about())?;
    for file in files {
        writeln!(session.out, "  {}", file.path)?;
    }
    writeln!(session.out, "  {MANIFEST}")?;
    Ok(())
}
