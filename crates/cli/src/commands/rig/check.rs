//! `rig check`: what a rig file says, and what is wrong with it.

use clap::Args;
use serde::Serialize;
use spare_tile_core::part::Part;
use spare_tile_core::plan::wires::{self, ButtonWire};
use spare_tile_core::plan::{Mount, Rig};
use spare_tile_core::rig::{Finding, Severity};
use spare_tile_core::units::counted;
use spare_tile_firmware::project;
use spare_tile_firmware::project::targets::{Load, target};

use super::electrical;
use super::wires::ButtonAnswer;
use crate::failure::{Complaint, Failure, Outcome};
use crate::options::target_name;
use crate::rigs::{RigFile, RigText};
use crate::session::Session;
use crate::visible::visible;
use crate::wrapping::{hung, together};

/// Check a rig file: every rule it breaks, with the fix
#[derive(Args)]
pub struct Check {
    /// Also print the defaults that were assumed
    ///
    /// Example: spare-tile rig check --explain
    #[arg(long)]
    explain: bool,
    /// Also print the electrical budget: the currents and their limits
    ///
    /// Example: spare-tile rig check --electrical
    #[arg(long)]
    electrical: bool,
    /// With the budget, also print the currents of faces of dots for this sprite or picture
    ///
    /// Example: spare-tile rig check --electrical --picture ferry.png
    #[arg(long, visible_alias = "sprite", value_name = "FILE[:FRAME]", requires = "electrical")]
    picture: Option<String>,
    /// Also check that a program for this target can drive it: c99, avr, setup-loop, mcs51, micropython, rust, pic-asm
    ///
    /// Example: spare-tile rig check --target avr
    #[arg(long, value_name = "TARGET", value_parser = target_name())]
    target: Option<String>,
    #[command(flatten)]
    file: RigFile,
}

#[derive(Serialize)]
struct Answer<'a> {
    sound: bool,
    rig: Option<&'a str>,
    faces: Vec<FaceAnswer<'a>>,
    /// The push buttons on pins of the controller.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    buttons: Vec<ButtonAnswer>,
    #[serde(skip_serializing_if = "Option::is_none")]
    electrical: Option<electrical::RigAnswer<'a>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    target: Option<TargetAnswer>,
    findings: Vec<FindingAnswer>,
}

/// The answer for a firmware target.
#[derive(Serialize)]
struct TargetAnswer {
    name: &'static str,
    obstacles: Vec<String>,
    scans: Vec<LoadAnswer>,
}

#[derive(Serialize)]
struct LoadAnswer {
    face: String,
    slot_cycles: u64,
    of: u64,
    /// Where a slot has several pieces.
    #[serde(skip_serializing_if = "Option::is_none")]
    shortest_piece: Option<PieceAnswer>,
}

#[derive(Serialize)]
struct PieceAnswer {
    cycles: u64,
    of: u64,
}

impl TargetAnswer {
    /// Of a sound rig, where somebody asks.
    fn of(check: &Check, rig: Option<&Rig>) -> Option<Self> {
        let target = target(check.target.as_deref()?)?;
        let (obstacles, loads) = project::outlook(rig?, target);
        let load = |Load { face, cycles, of, shortest }: Load| LoadAnswer {
            face,
            slot_cycles: cycles,
            of,
            shortest_piece: shortest.map(|(cycles, of)| PieceAnswer { cycles, of }),
        };
        Some(Self {
            name: target.name(),
            obstacles: obstacles.iter().map(ToString::to_string).collect(),
            scans: loads.into_iter().map(load).collect(),
        })
    }

    fn print(&self, session: &mut Session<'_>) -> Outcome {
        for obstacle in &self.obstacles {
            let complaint = Complaint::plain(
                Severity::Error,
                obstacle.clone(),
                "see what runs where: docs/guide/firmware-targets.md",
            );
            let complaint = session.render(&complaint);
            writeln!(session.out, "{complaint}\n")?;
        }
        if self.obstacles.is_empty() {
            writeln!(session.out, "{}: a program can drive it", self.name)?;
        }
        for LoadAnswer { face, slot_cycles, of, shortest_piece } in &self.scans {
            let share = 100.0 * *slot_cycles as f64 / (*of).max(1) as f64;
            writeln!(
                session.out,
                "{face}: a slot of its scan takes about {slot_cycles} of {of} cycles ({share:.1} %)"
            )?;
            if let Some(PieceAnswer { cycles, of }) = shortest_piece {
                writeln!(session.out, "{face}: its shortest piece takes about {cycles} of {of} cycles")?;
            }
        }
        Ok(())
    }
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
    /// Prints what to know before connecting it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    remarks: Vec<String>,
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
    let target = TargetAnswer::of(check, text.reading.rig.as_ref());
    let has_obstacles = target.as_ref().is_some_and(|target| !target.obstacles.is_empty());
    if session.json {
        session.write_json(&Answer { target, ..answer(&text, check, wanted)? })?;
    } else {
        print(&text, check, session)?;
        target.map_or(Ok(()), |target| target.print(session))?;
    }
    let is_error = |finding: &Finding| finding.severity == Severity::Error;
    if has_obstacles || text.reading.findings.iter().any(is_error) { Err(Failure::no()) } else { Ok(()) }
}

fn print(text: &RigText, check: &Check, session: &mut Session<'_>) -> Outcome {
    let (assumed, found): (Vec<_>, Vec<_>) =
        text.reading.findings.iter().partition(|finding| finding.severity == Severity::Note);
    for complaint in Complaint::of_first(&found, |finding| text.complaint(finding)) {
        let complaint = session.render(&complaint);
        writeln!(session.out, "{complaint}\n")?;
    }
    if check.explain && !assumed.is_empty() {
        let heading = session.bold("where the file leaves it open").into_owned();
        writeln!(session.out, "{heading}")?;
        for finding in assumed {
            let assumed = hung(&format!("    {}", finding.trouble), session.columns, 8);
            writeln!(session.out, "{assumed}")?;
        }
        writeln!(session.out)?;
    }
    for mount in text.reading.rig.iter().flat_map(|rig| &rig.faces) {
        let summary = format!("{}, {}", mount.face.summary(), mount.drive.summary());
        session.write_named(&mount.face.name, &summary)?;
        let pins = hung(&format!("    {}", pins(mount)), session.columns, 4);
        writeln!(session.out, "{pins}")?;
        for remark in mount.drive.display().remarks() {
            let remark = hung(&format!("    {remark}"), session.columns, 8);
            writeln!(session.out, "{remark}")?;
        }
    }
    let buttons = text.reading.rig.as_ref().map(wires::buttons).unwrap_or_default();
    if !buttons.is_empty() {
        session.write_named("buttons", &format!("{} on pins", buttons.len()))?;
        for ButtonWire { name, pin, to, pull, .. } in buttons {
            let line = hung(&format!("    {name} {pin} to {to}, {pull}"), session.columns, 8);
            writeln!(session.out, "{line}")?;
        }
    }
    if check.electrical {
        text.reading
            .rig
            .iter()
            .try_for_each(|rig| electrical::print(rig, check.picture.as_deref(), session))?;
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
    Ok(writeln!(session.out, "{}: {verdict}", visible(&text.origin))?)
}

/// The pins of a drive in a line to be hung: `data GP19, clock GP18`.
pub fn pins(mount: &Mount) -> String {
    let pins = mount.lines.iter().map(|line| together(&format!("{} {}", line.role, line.pin)));
    pins.collect::<Vec<_>>().join(", ")
}

fn answer<'a>(
    text: &'a RigText,
    check: &Check,
    wanted: impl Fn(&&Finding) -> bool,
) -> Result<Answer<'a>, Failure> {
    let rig = text.reading.rig.as_ref();
    let findings = text.reading.findings.iter().filter(wanted);
    let lines = Lines::of(&text.source);
    let electrical = rig.filter(|_| check.electrical);
    let electrical = electrical.map(|rig| electrical::answer(rig, check.picture.as_deref())).transpose()?;
    Ok(Answer {
        target: None,
        sound: !text.reading.findings.iter().any(|finding| finding.severity == Severity::Error),
        rig: rig.and_then(|rig| rig.name.as_deref()),
        faces: rig.iter().flat_map(|rig| &rig.faces).map(FaceAnswer::of).collect(),
        buttons: rig.into_iter().flat_map(wires::buttons).map(ButtonAnswer::of).collect(),
        electrical,
        findings: findings.map(|finding| FindingAnswer::of(finding, &lines)).collect(),
    })
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
            remarks: mount.drive.display().remarks(),
        }
    }
}

impl FindingAnswer {
    fn of(finding: &Finding, lines: &Lines<'_>) -> Self {
        let (line, column) = lines.place(finding.span.start);
        Self {
            severity: finding.severity.name(),
            line,
            column,
            message: finding.trouble.to_string(),
            fix: finding.trouble.fix(),
        }
    }
}

/// The lines of a text, by where they begin.
struct Lines<'t> {
    text: &'t str,
    begins: Vec<usize>,
}

impl<'t> Lines<'t> {
    fn of(text: &'t str) -> Self {
        let after = text.match_indices('\n').map(|(newline, _)| newline + 1);
        Self { text, begins: std::iter::once(0).chain(after).collect() }
    }

    /// The line and the column of a byte, each from 1.
    fn place(&self, byte: usize) -> (usize, usize) {
        let line = self.begins.partition_point(|begin| *begin <= byte);
        let begin = self.begins[line - 1];
        let before = self.text.get(begin..byte).unwrap_or_default();
        (line, before.chars().count() + 1)
    }
}
