//! `rig check`: what a rig file says, and what is wrong with it.

use clap::Args;
use serde::Serialize;
use spare_tile_core::part::Part;
use spare_tile_core::plan::Mount;
use spare_tile_core::rig::{Finding, Severity};

use super::electrical;
use crate::failure::{Failure, Outcome};
use crate::rigs::{RigFile, RigText};
use crate::session::Session;
use crate::view::counted;

/// Check a rig file: every rule it breaks, with the fix
#[derive(Args)]
pub struct Check {
    #[command(flatten)]
    file: RigFile,
    /// Also print what was assumed where the file leaves it open
    #[arg(long)]
    explain: bool,
    /// Also print the electrical budget: what flows where, and what it may be
    #[arg(long)]
    electrical: bool,
}

#[derive(Serialize)]
struct Answer<'a> {
    sound: bool,
    rig: Option<&'a str>,
    faces: Vec<FaceAnswer<'a>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    electrical: Option<Vec<electrical::BudgetAnswer<'a>>>,
    findings: Vec<FindingAnswer>,
}

#[derive(Serialize)]
struct FaceAnswer<'a> {
    name: &'a str,
    kind: String,
    style: &'a str,
    digits: usize,
    common: &'a str,
    method: &'a str,
    drive: String,
    pins: Vec<PinAnswer<'a>>,
}

#[derive(Serialize)]
struct PinAnswer<'a> {
    role: &'a str,
    pin: String,
}

#[derive(Serialize)]
struct FindingAnswer {
    severity: &'static str,
    line: usize,
    column: usize,
    message: String,
    fix: Option<String>,
}

/// Runs `rig check`.
pub fn run(check: &Check, session: &mut Session<'_>) -> Outcome {
    let text = RigText::read(&check.file, session)?;
    let wanted = |finding: &&Finding| check.explain || finding.severity != Severity::Note;
    if session.json {
        session.write_json(&answer(&text, check.electrical, wanted))?;
    } else {
        print(&text, check, session)?;
    }
    let is_error = |finding: &Finding| finding.severity == Severity::Error;
    if text.reading.findings.iter().any(is_error) { Err(Failure::no()) } else { Ok(()) }
}

fn print(text: &RigText, check: &Check, session: &mut Session<'_>) -> Outcome {
    let (assumed, found): (Vec<_>, Vec<_>) =
        text.reading.findings.iter().partition(|finding| finding.severity == Severity::Note);
    for finding in found {
        let complaint = session.render(&text.complaint(finding));
        writeln!(session.out, "{complaint}\n")?;
    }
    if check.explain && !assumed.is_empty() {
        let heading = session.bold("where the file leaves it open").into_owned();
        writeln!(session.out, "{heading}")?;
        for finding in assumed {
            writeln!(session.out, "    {}", finding.trouble)?;
        }
        writeln!(session.out)?;
    }
    for mount in text.reading.rig.iter().flat_map(|rig| &rig.faces) {
        let name = session.bold(&mount.face.name).into_owned();
        writeln!(session.out, "{name}: {}, {}", mount.face.summary(), mount.drive.summary())?;
        writeln!(session.out, "    {}", pins(mount))?;
    }
    if check.electrical {
        text.reading.rig.iter().try_for_each(|rig| electrical::print(rig, session))?;
    }
    let count =
        |severity| text.reading.findings.iter().filter(|finding| finding.severity == severity).count();
    let (errors, warnings) = (count(Severity::Error), count(Severity::Warning));
    let verdict = match (errors, warnings) {
        (0, 0) => "sound".to_owned(),
        (0, warnings) => format!("usable, with {}", counted(warnings, "warning", "warnings")),
        (errors, 0) => format!("not sound: {}", counted(errors, "error", "errors")),
        (errors, warnings) => {
            format!(
                "not sound: {}, {}",
                counted(errors, "error", "errors"),
                counted(warnings, "warning", "warnings")
            )
        }
    };
    Ok(writeln!(session.out, "{}: {verdict}", text.origin)?)
}

/// The pins of a drive in a line: `data GP19, clock GP18`.
pub fn pins(mount: &Mount) -> String {
    let pins = mount.lines.iter().map(|line| format!("{} {}", line.role, line.pin));
    pins.collect::<Vec<_>>().join(", ")
}

fn answer(text: &RigText, electrical: bool, wanted: impl Fn(&&Finding) -> bool) -> Answer<'_> {
    let rig = text.reading.rig.as_ref();
    let findings = text.reading.findings.iter().filter(wanted);
    Answer {
        sound: !text.reading.findings.iter().any(|finding| finding.severity == Severity::Error),
        rig: rig.and_then(|rig| rig.name.as_deref()),
        faces: rig.iter().flat_map(|rig| &rig.faces).map(FaceAnswer::of).collect(),
        electrical: rig.filter(|_| electrical).map(electrical::answer),
        findings: findings.map(|finding| FindingAnswer::of(finding, &text.source)).collect(),
    }
}

impl<'a> FaceAnswer<'a> {
    fn of(mount: &'a Mount) -> Self {
        let pins = mount.lines.iter();
        Self {
            name: &mount.face.name,
            kind: mount.face.summary(),
            style: mount.face.style().name(),
            digits: mount.face.digits(),
            common: mount.face.common.name(),
            method: mount.method,
            drive: mount.drive.summary(),
            pins: pins.map(|line| PinAnswer { role: &line.role, pin: line.pin.to_string() }).collect(),
        }
    }
}

impl FindingAnswer {
    fn of(finding: &Finding, source: &str) -> Self {
        let before = source.get(..finding.span.start).unwrap_or(source);
        let line_start = before.rfind('\n').map_or(0, |newline| newline + 1);
        Self {
            severity: finding.severity.name(),
            line: before.matches('\n').count() + 1,
            column: before[line_start..].chars().count() + 1,
            message: finding.trouble.to_string(),
            fix: finding.trouble.fix(),
        }
    }
}
