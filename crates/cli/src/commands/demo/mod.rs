//! `demo`: a morning at Quillmoor landing, and a tour through the pipeline.

mod shelf;
mod tour;

use std::path::PathBuf;

use clap::Args;

use crate::failure::Outcome;
use crate::session::Session;
use crate::wrapping::hung;
use shelf::DemoFiles;

/// Watch a morning at Quillmoor landing, or walk through the whole pipeline there
///
/// On a terminal the morning plays on all faces: boats come and go, 1 to 6 light lamps on the desk, 7 holds all, 8 begins
/// again, q leaves. Elsewhere some stills of it are printed.
#[derive(Args)]
pub struct Demo {
    /// Walk through the pipeline instead: the answer of each command, a screen at a time
    ///
    /// Example: spare-tile demo --tour
    #[arg(long)]
    tour: bool,
    /// Write the demo's rigs, reels and recordings to this folder, and do not play
    ///
    /// Example: spare-tile demo --out landing
    #[arg(long, value_name = "DIR")]
    out: Option<PathBuf>,
}

/// The morning.
const MORNING: [&str; 4] = ["play", "quillmoor.reel.toml", "--rig", "quillmoor.toml"];
/// Moments of it at which there is something to see.
const STILLS: [&str; 2] = ["--stills", "4s,12.2s,31s"];

/// Runs `demo`.
pub fn run(demo: &Demo, session: &mut Session<'_>) -> Outcome {
    if let Some(folder) = &demo.out {
        shelf::write_all(folder, session)?;
        if !demo.tour {
            session.say_aside(&format!("play with them: cd {}", folder.display()));
            return Ok(());
        }
    }
    if demo.tour {
        return tour::walk(session);
    }
    if session.live && !session.json {
        tour::run_command(&MORNING, &mut session.with_shelf(DemoFiles))?;
        session.say_aside("what stands behind it, command by command: spare-tile demo --tour");
        return Ok(());
    }
    let stills = [&MORNING[..], &STILLS].concat();
    if !session.json {
        let words = "A morning at Quillmoor landing, ten times as fast as ours. On a terminal it plays, and \
                     `spare-tile demo --tour` walks through the pipeline behind it.";
        writeln!(session.out, "{}", hung(words, session.columns, 0))?;
        writeln!(session.out, "\n{}", session.bold(&tour::typed(&stills)))?;
    }
    tour::run_command(&stills, &mut session.with_shelf(DemoFiles))
}
