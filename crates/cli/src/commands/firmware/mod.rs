//! `firmware`: what a rig shows, as a source project for its controller.

mod app;
mod calls;
mod expected;
mod folder;
mod size;

use std::ops::Range;
use std::path::{Path, PathBuf};

use clap::Args;
use jiff::Timestamp;
use jiff::tz::TimeZone;
use serde::Serialize;
use spare_tile_core::plan::Rig;
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::still::Blank;
use spare_tile_core::play::{Reel, Track};
use spare_tile_firmware::project::making::Content;
use spare_tile_firmware::project::targets::{Target, target};
use spare_tile_firmware::project::{Texts, Written, values};

use super::play::reel;
use super::rig::wires;
use crate::acts::Stage;
use crate::failure::{Failure, Outcome};
use crate::options::target_name;
use crate::programs;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use app::App;
use folder::{Folder, MANIFEST, is_users};

/// Write what a rig shows as a source project for its controller
///
/// A folder with sources, a build file, a README with what to connect and how to build and flash it, and what is to be seen when. A
/// scan runs from a timer, everything else from a count of milliseconds: no delay stops the scan. Files of other origin, and files
/// that were changed, are left alone.
#[derive(Args)]
pub struct Firmware {
    /// The target: c99, avr, setup-loop, mcs51, micropython, rust, pic-asm
    ///
    /// Example: spare-tile firmware --target c99 --app count --out gauge
    #[arg(long, value_name = "TARGET", value_parser = target_name())]
    target: String,
    /// The reel that it plays
    ///
    /// Example: spare-tile firmware --target c99 --reel morning.reel.toml --out morning
    #[arg(long, value_name = "FILE", required_unless_present = "app", conflicts_with = "app")]
    reel: Option<PathBuf>,
    #[command(flatten)]
    app: App,
    /// The folder to write
    ///
    /// Example: spare-tile firmware --target c99 --app count --out gauge
    #[arg(long, value_name = "FOLDER", required_unless_present_any = ["size", "list_calls"])]
    out: Option<PathBuf>,
    /// Report the flash and RAM that it takes; the compiler must be installed
    ///
    /// Example: spare-tile firmware --target avr --app count --size
    #[arg(long)]
    size: bool,
    /// List the calls that --app own gives your program
    ///
    /// Example: spare-tile firmware --target avr --app own --list-calls
    #[arg(long, requires = "app", conflicts_with_all = ["out", "size"])]
    list_calls: bool,
    #[command(flatten)]
    rig: FaceOfRig,
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
    let begins = args.app.begins()?;
    let (rig, program, words) = args.content(begins, session)?;
    let content = Content { program: &program, words: &words, is_own: args.app.is_own() };
    if session.is_unsound {
        let help = "mend the rig, or write the program all the same: --unsound";
        return Err(Failure::answer_is_no("no program was written for a rig with errors", help));
    }
    let mut files = files(&rig, &content, begins, &args.app.zone()?, target)?;
    if args.list_calls {
        if !content.is_own {
            let message = "only a program of your own makes calls";
            return Err(Failure::unusable(message, "ask for it: --app own --list-calls"));
        }
        return calls::tell(&files, session);
    }
    // Values that no program can keep were reported above.
    let lives = values::lives(&rig, &program).unwrap_or_default();
    for (name, value) in values::fixed(&program, &lives) {
        let words = format!(
            "note: {name} is always {value} in this program: no button changes it. With --app own your code sets texts"
        );
        session.say_aside(&words);
    }
    if let Some(out) = &args.out {
        let mut folder = Folder::open(out);
        let kept = folder.kept(&files, session.force);
        files.retain(|file| !kept.contains(&file.path));
        if !session.force {
            folder.check(&files)?;
        }
        for name in &kept {
            let why = if is_users(name) { "it is yours" } else { "you changed it; --force renews it" };
            session.say_aside(&format!("kept {}: {why}", out.join(name).display()));
        }
        for copy in folder.back_up(&files)? {
            session.say_aside(&format!("copied what was there to {}", copy.display()));
        }
        folder.write(&files, &kept, &by())?;
        if !args.size || !session.json {
            tell(out, target, &files, session)?;
        }
    }
    if args.size { size::tell(&rig, &files, target, session) } else { Ok(()) }
}

impl Firmware {
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
        let mut rig = self.rig.load(session)?;
        if self.app.is_own() {
            let faces = if self.rig.face.is_some() {
                self.rig.place(&rig).map(|face| face..face + 1)?
            } else {
                0..rig.faces.len()
            };
            return Ok((rig, dark_program(faces), "your own program".to_owned()));
        }
        let face = self.rig.place(&rig)?;
        self.app.add_glyphs(&mut rig.faces[face].face)?;
        let stage = Stage { rig: &rig, face, is_endless: false, zone: TimeZone::UTC, begins: Some(begins) };
        let program = self.app.program(&stage, session)?;
        Ok((rig, program, self.app.words().unwrap_or_default()))
    }
}

/// A program that leaves faces dark.
fn dark_program(faces: Range<usize>) -> Program {
    let tracks = faces.map(|face| Track { face, act: Box::new(Blank) }).collect();
    Program { reel: Reel { tracks }, ..Program::default() }
}

/// Who writes.
fn by() -> String {
    format!("spare-tile {}", env!("CARGO_PKG_VERSION"))
}

/// The files of a project.
///
/// # Errors
/// If the target does not support it.
fn files(
    rig: &Rig,
    content: &Content<'_>,
    begins: Timestamp,
    zone: &TimeZone,
    target: &dyn Target,
) -> Result<Vec<Written>, Failure> {
    let plays = |face: &usize| content.program.reel.tracks.iter().any(|track| track.face == *face);
    let faces = (0..rig.faces.len()).filter(plays).map(|face| &rig.faces[face]);
    let wiring = wires::text(rig, faces)?;
    let texts = Texts { program: &by(), wiring: &wiring, begins: Some(begins), zone };
    let mut files = programs::write(rig, content, target, &texts)?;
    // Nothing can be expected of a program that a person has yet to write.
    if !content.is_own {
        let text = expected::text(rig, content.program, begins)?;
        files.push(Written { path: "expected.txt".to_owned(), text });
    }
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
