//! `rig new`: a rig file to begin with.

use std::path::{Path, PathBuf};

use clap::Args;
use clap_complete::ArgValueCompleter;
use serde::Serialize;
use spare_tile_core::draft;
use spare_tile_core::draft::kinds::{KINDS, Kind};
use spare_tile_core::rig::{Finding, Severity, controllers};

use super::questions::{self, Answers};
use super::wish::{WishArgs, unusable};
use crate::complete;
use crate::exports;
use crate::failure::Outcome;
use crate::files;
use crate::rigs::RigText;
use crate::session::Session;
use crate::view::columns::Columns;
use crate::view::prompt;

/// Write a rig file to begin with, pins and resistors chosen
///
/// Without a kind it asks what lies on the bench, or lists the kinds where there is no terminal. The file is found sound by
/// `rig check`; every key that it leaves open is in it as a comment with its default. Pins are free ones that nothing else
/// needs, those of the controller's own bus if the part uses one, and on one port if that saves writes.
///
/// Example: spare-tile rig new clock-module --controller rp2040
#[derive(Args)]
pub struct New {
    /// The kind of display; `spare-tile rig new` lists the kinds
    ///
    /// Example: spare-tile rig new bare-digits
    #[arg(add = ArgValueCompleter::new(complete::kinds))]
    kind: Option<String>,
    /// The controller's part number
    ///
    /// Example: spare-tile rig new clock-module --controller rp2040
    #[arg(short, long, value_name = "PART", add = ArgValueCompleter::new(complete::controllers))]
    controller: Option<String>,
    /// The file to write; - is standard output
    ///
    /// Example: spare-tile rig new clock-module --out clock.toml
    #[arg(short, long, value_name = "FILE", default_value = "rig.toml")]
    out: PathBuf,
    #[command(flatten)]
    wish: WishArgs,
}

#[derive(Serialize)]
struct KindAnswer {
    name: &'static str,
    about: &'static str,
    usual: String,
    most: String,
}

#[derive(Serialize)]
struct NewAnswer<'a> {
    /// Where it was written; null for standard output.
    file: Option<String>,
    faces: Vec<String>,
    warnings: Vec<String>,
    rig: &'a str,
}

/// Runs `rig new`.
pub fn run(new: &New, session: &mut Session<'_>) -> Outcome {
    let Some(name) = &new.kind else {
        return if questions::can_be_asked(session) { ask(new, session) } else { list(session) };
    };
    let wish = new.wish.of_kind(name)?;
    let text = draft::rig(&wish, new.controller.as_deref()).map_err(|error| unusable(&error, &wish))?;
    if new.out == Path::new("-") {
        if session.json {
            return answer(None, &RigText::of(&new.out, text), session);
        }
        return Ok(write!(session.out, "{text}")?);
    }
    exports::refuse_existing(&new.out, session)?;
    write(&new.out, text, session)
}

/// Asks what lies on the bench, shows what was understood, and writes it if that is right.
fn ask(new: &New, session: &mut Session<'_>) -> Outcome {
    let Answers { wish, controller } = questions::ask(new.controller.as_deref(), session)?;
    let wish = new.wish.over(wish);
    let text = draft::rig(&wish, controller.as_deref()).map_err(|error| unusable(&error, &wish))?;
    questions::show(&text, session)?;
    if new.out == Path::new("-") {
        return Ok(write!(session.out, "{text}")?);
    }
    let name = new.out.display();
    let is_there = new.out.exists();
    let question =
        if is_there { format!("{name} exists: write over it?") } else { format!("Write this to {name}?") };
    if prompt::confirm(&question, !is_there || session.force, session)? {
        write(&new.out, text, session)
    } else {
        session.say_aside("nothing was written");
        Ok(())
    }
}

/// Writes the file and says what to do next.
fn write(out: &Path, text: String, session: &mut Session<'_>) -> Outcome {
    files::write_whole(out, |out| out.write_all(text.as_bytes()))?;
    // Pins that the person has chosen may cause warnings.
    let written = RigText::of(out, text);
    let found: Vec<_> = grave(&written).map(|finding| written.complaint(finding)).collect();
    session.warn(&found);
    if session.json {
        return answer(Some(out), &written, session);
    }
    session.say_aside(&format!("wrote {}", out.display()));
    let rig = if out == Path::new("rig.toml") { String::new() } else { format!(" --rig {}", out.display()) };
    session.say_aside(&format!("see what to connect: spare-tile rig wires{rig}"));
    Ok(())
}

/// The findings that are more than notes.
fn grave(rig: &RigText) -> impl Iterator<Item = &Finding> {
    rig.reading.findings.iter().filter(|finding| finding.severity != Severity::Note)
}

/// Writes the new rig as JSON.
fn answer(file: Option<&Path>, written: &RigText, session: &mut Session<'_>) -> Outcome {
    let mounts = written.reading.rig.iter().flat_map(|rig| &rig.faces);
    session.write_json(&NewAnswer {
        file: file.map(|file| file.display().to_string()),
        faces: mounts.map(|mount| mount.face.name.clone()).collect(),
        warnings: grave(written).map(|finding| finding.trouble.to_string()).collect(),
        rig: &written.source,
    })
}

/// The kinds, each with one line.
fn list(session: &mut Session<'_>) -> Outcome {
    if session.json {
        let answer = |kind: &Kind| KindAnswer {
            name: kind.name,
            about: kind.about,
            usual: kind.size.0.words(),
            most: kind.size.1.words(),
        };
        return session.write_json(&KINDS.iter().map(answer).collect::<Vec<_>>());
    }
    let mut table = Columns::new(&["kind", "what lies on the bench", "usually"]);
    for kind in KINDS {
        table.row([kind.name.to_owned(), kind.about.to_owned(), kind.size.0.words()]);
    }
    write!(session.out, "{}", table.text(0, session))?;
    let known: Vec<_> = controllers::names().collect();
    session.say_aside(&format!(
        "begin with one: spare-tile rig new clock-module --controller rp2040\nthe controllers: {}",
        known.join(", ")
    ));
    Ok(())
}
