//! The targets, a folder each: which files a project has, and the templates that they are written from.
//!
//! A new target is a folder and a line in [`TARGETS`].

mod avr;
mod c;
mod c99;
mod mcs51;
mod micropython;
mod pic_asm;
mod rust;
mod setup_loop;

use super::Written;
use super::error::ProjectError;
use super::model::{FaceModel, Line, Model, Piece, Run, ScanModel, StepModel};

pub use crate::template::Templates;

/// Every target.
pub const TARGETS: &[&dyn Target] = &[
    &c99::C99,
    &avr::Avr,
    &setup_loop::SetupLoop,
    &mcs51::Mcs51,
    &micropython::MicroPython,
    &rust::Rust,
    &pic_asm::PicAsm,
];

/// What a project is written for.
pub trait Target: Sync {
    /// The word for it on the command line.
    fn name(&self) -> &'static str;

    /// What it is, in a few words.
    fn about(&self) -> &'static str;

    /// The language, and the words that are no names in it, parted by blanks.
    fn reserved(&self) -> (&'static str, &'static str);

    /// Whether it can hold the project.
    ///
    /// # Errors
    /// Why it cannot.
    fn check(&self, model: &Model) -> Result<(), ProjectError> {
        let _ = model;
        Ok(())
    }

    /// Whether what was written fits, where that is not known before.
    ///
    /// # Errors
    /// Why it does not.
    fn check_written(&self, files: &[Written]) -> Result<(), ProjectError> {
        let _ = files;
        Ok(())
    }

    /// The files.
    fn files(&self, model: &Model) -> Vec<File>;

    /// The files that are copied as they are.
    fn runtime(&self, model: &Model) -> Vec<Written> {
        let _ = model;
        Vec::new()
    }

    /// Returns true if a person's own program can decide what is shown.
    fn takes_own(&self) -> bool {
        false
    }

    /// The template of what sends a list of transfers, where it has one.
    fn list(&self) -> Option<&'static str> {
        None
    }

    /// The templates of its files, by name.
    fn templates(&self) -> Templates;

    /// What they include.
    fn pieces(&self) -> Templates {
        &[]
    }

    /// Those that it shares with others.
    fn shared(&self) -> Templates {
        &[]
    }

    /// For each face that the controller scans, how many cycles its interrupts take in a slot, as near as can be said without compiling
    /// them.
    fn loads(&self, model: &Model) -> Vec<Load> {
        let _ = model;
        Vec::new()
    }

    /// How much memory a project takes is told by `make size`; `None` where the tools are the person's own.
    fn sizing(&self) -> Option<Sizing> {
        None
    }

    /// What its templates have to know beside the model.
    fn facts(&self, model: &Model) -> minijinja::Value {
        let _ = model;
        minijinja::Value::from(())
    }
}

/// Files, if they are needed.
const fn when(is_needed: bool, files: Templates) -> Templates {
    if is_needed { files } else { &[] }
}

/// Files that are copied into a folder of a project as they are, by their names.
fn copied(folder: &str, files: &[(&str, &str)]) -> Vec<Written> {
    let written =
        |(name, text): &(&str, &str)| Written { path: format!("{folder}{name}"), text: (*text).to_owned() };
    files.iter().map(written).collect()
}

/// What a scan takes of a controller.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Load {
    /// The face, by its name in the rig.
    pub face: String,
    /// The cycles that the interrupts of a slot take.
    pub cycles: u64,
    /// The cycles of a slot.
    pub of: u64,
    /// Where a slot has several pieces: what the interrupts of one take, and the cycles of the shortest.
    pub shortest: Option<(u64, u64)>,
}

impl Load {
    /// That of a face on which the interrupts of a piece of a slot take so many cycles of a clock; `None` where it is not scanned.
    fn of(face: &FaceModel, cycles: u64, clock: u64) -> Option<Self> {
        let scan = face.scan.as_ref()?;
        let in_cycles = |nanos: u64| nanos * clock / 1_000_000_000;
        let pieces = u64::from(scan.depth);
        Some(Self {
            face: face.name.clone(),
            cycles: pieces * cycles,
            of: in_cycles(scan.slot_ns),
            shortest: (pieces > 1).then(|| (cycles, in_cycles(scan.blanking_ns + scan.unit_ns))),
        })
    }
}

/// How the size of a compiled project is told.
#[derive(Clone, Copy)]
pub struct Sizing {
    /// The compiler that it takes.
    pub compiler: &'static str,
    /// Reads what `make size` says.
    pub read: fn(&str) -> Option<Size>,
}

/// How much memory a program takes, in bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Size {
    /// For itself and its tables.
    pub flash: u64,
    /// For its variables, without the stack.
    pub ram: u64,
}

/// The subject of a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Of {
    /// All of it.
    Project,
    /// A face, by its place in the model.
    Face(usize),
    /// A font, by its place there.
    Font(usize),
}

/// A file of a project.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct File {
    /// Its path within the project.
    pub path: String,
    /// Its template.
    pub template: &'static str,
    /// Its subject.
    pub of: Of,
}

impl File {
    /// A file of the whole project.
    fn new(path: &str, template: &'static str) -> Self {
        Self { path: path.to_owned(), template, of: Of::Project }
    }
}

/// The target of this name.
#[must_use]
pub fn target(name: &str) -> Option<&'static dyn Target> {
    TARGETS.iter().copied().find(|target| target.name() == name)
}

/// Refuses another controller than those that a target is written for.
fn check_controller(model: &Model, target: &'static str, known: &[&str]) -> Result<(), ProjectError> {
    if known.contains(&model.controller.as_str()) {
        return Ok(());
    }
    let (found, known) = (&model.controller, known.join(", "));
    let why = format!("the rig's controller is {found}, and it is written for {known}");
    Err(ProjectError::Target { target, why })
}

/// Refuses a pin that is no bit of a port.
fn check_ports(model: &Model, target: &'static str) -> Result<(), ProjectError> {
    let has_no_port = |line: &&Line| line.port.is_none();
    match model.lines.iter().find(has_no_port) {
        Some(line) => Err(ProjectError::Target { target, why: format!("it has no pin {}", line.pin) }),
        None => Ok(()),
    }
}

/// Refuses greys, and says why the pieces of a slot cannot be of several lengths.
fn check_no_greys(model: &Model, target: &'static str, because: &str) -> Result<(), ProjectError> {
    let has_greys = |face: &&FaceModel| face.scan.as_ref().is_some_and(|scan| scan.depth > 1);
    match model.faces.iter().find(has_greys) {
        Some(face) => {
            let why = format!("face {} shows greys, and {because}", face.name);
            Err(ProjectError::Target { target, why })
        }
        None => Ok(()),
    }
}

/// Refuses a colour panel, and says why.
fn check_no_panel(model: &Model, target: &'static str, because: &str) -> Result<(), ProjectError> {
    match model.faces.iter().find(|face| face.bus.kind == "panel") {
        Some(face) => {
            let why = format!("face {} is a colour panel, and {because}", face.name);
            Err(ProjectError::Target { target, why })
        }
        None => Ok(()),
    }
}

/// Why small controllers drive no panel.
const TOO_SMALL: &str = "its memory and its speed are not enough for one";

/// Refuses keys and values that are not known beforehand.
fn check_no_inputs(model: &Model, target: &'static str) -> Result<(), ProjectError> {
    if model.has_actions() {
        let why = "its programs cannot read buttons, or show values that are not known beforehand".to_owned();
        return Err(ProjectError::Target { target, why });
    }
    Ok(())
}

/// What a piece of a slot takes in all: its interrupts so much each, and what is sent in them by what levels of pins, of these bits, or
/// so many bytes take.
fn piece_cycles(
    face: &FaceModel,
    scan: &ScanModel,
    interrupt: u64,
    takes: impl Fn(Option<&[u8]>, usize) -> u64,
) -> u64 {
    let of_step = |step: &StepModel| takes(step.mask.as_deref(), step.bytes.len());
    let of_piece = |piece: &Piece| match piece {
        Piece::Fixed { step } => of_step(step),
        Piece::Levels { mask, .. } => takes(Some(mask), 0),
        Piece::Transfer { runs, .. } => takes(None, runs.iter().map(Run::bytes).sum()),
        Piece::Registers { count, parts, .. } => takes(None, 2 * count * parts),
    };
    let interrupts = if scan.blanking_ns > 0 { 2 } else { 1 };
    let sent: u64 = scan.blank.iter().map(of_step).chain(face.frame.iter().map(of_piece)).sum();
    interrupts * interrupt + sent
}

/// Refuses a scan that leaves too little time for everything else, or takes longer than its shortest piece.
fn check_loads(model: &Model, target: &dyn Target) -> Result<(), ProjectError> {
    let cannot = |why| Err(ProjectError::Target { target: target.name(), why });
    for Load { face, cycles, of, shortest } in target.loads(model) {
        if let Some((cycles, of)) = shortest.filter(|(cycles, of)| cycles * 5 > of * 4) {
            let why = format!(
                "a piece of a slot of face {face} takes about {cycles} cycles, and the shortest one has {of}: lower depth or refresh_hz"
            );
            return cannot(why);
        }
        if cycles * 5 > of * 4 {
            return cannot(format!(
                "a slot of face {face} takes about {cycles} of the {of} available cycles"
            ));
        }
    }
    Ok(())
}

/// Refuses a second face that the controller would scan.
fn check_one_scan(model: &Model, target: &'static str) -> Result<(), ProjectError> {
    let mut scanned = model.faces.iter().filter(|face| face.scan.is_some());
    if let Some(second) = scanned.nth(1) {
        let why = format!("face {} is the second one that it would have to scan", second.name);
        return Err(ProjectError::Target { target, why });
    }
    Ok(())
}

/// Templates of every target's README.
pub const READMES: Templates = &[
    ("readme/wiring.md.j2", include_str!("readme/wiring.md.j2")),
    ("readme/fixed.md.j2", include_str!("readme/fixed.md.j2")),
    ("readme/clock.md.j2", include_str!("readme/clock.md.j2")),
    ("readme/licence.md.j2", include_str!("readme/licence.md.j2")),
];
