//! How much memory a project takes, told by its compiler.

use std::io;
use std::process::Command;

use serde::Serialize;
use spare_tile_core::plan::Rig;
use spare_tile_core::rig::Severity;
use spare_tile_firmware::project::Written;
use spare_tile_firmware::project::targets::{Size, Target};

use super::by;
use super::folder::Folder;
use crate::failure::{Complaint, Exit, Failure, Outcome};
use crate::session::Session;

#[derive(Serialize)]
struct Answer<'a> {
    target: &'a str,
    flash_bytes: u64,
    ram_bytes: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    flash_of: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    ram_of: Option<u64>,
}

/// Compiles a project in a folder of its own, and tells what it takes.
pub fn tell(rig: &Rig, files: &[Written], target: &dyn Target, session: &mut Session<'_>) -> Outcome {
    let Some(sizing) = target.sizing() else {
        let message = format!("{} is compiled by tools of your own, which tell its size", target.name());
        return Err(Failure::unusable(message, "write it with --out, and compile it"));
    };
    let folder = tempfile::tempdir().map_err(|error| cannot(&error))?;
    Folder::open(folder.path()).write(files, &[], &by())?;
    let run = Command::new("make").args(["-s", "size"]).current_dir(folder.path()).output();
    let run = run.map_err(|_| missing("make"))?;
    let said = String::from_utf8_lossy(&run.stdout);
    let Some(size) = (sizing.read)(&said).filter(|_| run.status.success()) else {
        let is_there = Command::new(sizing.compiler).arg("--version").output().is_ok();
        return Err(if is_there {
            failed(&String::from_utf8_lossy(&run.stderr))
        } else {
            missing(sizing.compiler)
        });
    };
    let facts = rig.controller.facts.as_ref();
    let (flash_of, ram_of) =
        (facts.and_then(|facts| facts.flash_bytes), facts.and_then(|facts| facts.ram_bytes));
    if session.json {
        let Size { flash, ram } = size;
        let answer = Answer { target: target.name(), flash_bytes: flash, ram_bytes: ram, flash_of, ram_of };
        return session.write_json(&answer);
    }
    writeln!(session.out, "flash  {}", share(size.flash, flash_of))?;
    Ok(writeln!(session.out, "RAM    {}, and what the stack takes", share(size.ram, ram_of))?)
}

/// A number of bytes, and the number that is available.
fn share(bytes: u64, of: Option<u64>) -> String {
    match of.filter(|of| *of > 0) {
        Some(of) => format!("{bytes} of {of} bytes ({:.1} %)", 100.0 * bytes as f64 / of as f64),
        None => format!("{bytes} bytes"),
    }
}

fn cannot(error: &io::Error) -> Failure {
    Failure::unusable(
        format!("cannot write the project to compile it: {error}"),
        "make room for temporary files",
    )
}

fn missing(program: &str) -> Failure {
    let message = format!("the compiler {program}, which reports the size, is not installed");
    of_tool(message, format!("install {program}, or write the project with --out"))
}

fn failed(said: &str) -> Failure {
    let first = said.lines().next().unwrap_or("it said nothing").to_owned();
    of_tool(format!("the compiler refused the project: {first}"), "write it with --out and look".to_owned())
}

/// Another program failed us.
fn of_tool(message: String, help: String) -> Failure {
    Failure::of_many(Exit::Device, vec![Complaint::plain(Severity::Error, message, help)])
}
