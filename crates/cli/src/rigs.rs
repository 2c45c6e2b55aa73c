//! Loading rigs and picking faces: what most commands begin with.

use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use clap::Args;
use clap_complete::ArgValueCompleter;
use spare_tile_core::dots::sprite;
use spare_tile_core::face::Face;
use spare_tile_core::glyph::{OwnGlyphs, Style};
use spare_tile_core::plan::{Mount, Reading, Rig};
use spare_tile_core::rig::value::Value;
use spare_tile_core::rig::{Document, Finding, Severity, glyphs};

use crate::complete;
use crate::failure::{Complaint, Exit, Failure};
use crate::files;
use crate::input;
use crate::session::Session;

/// Which rig file.
#[derive(Args)]
#[command(next_help_heading = "Rig")]
pub struct RigFile {
    /// The rig file; - is standard input
    ///
    /// Example: spare-tile show 7 --rig berth.toml
    #[arg(short, long, value_name = "FILE", env = VARIABLE, default_value = USUAL)]
    pub rig: PathBuf,
}

/// The variable that names a rig file, and the file to use otherwise.
const VARIABLE: &str = "SPARE_TILE_RIG";
const USUAL: &str = "rig.toml";

impl RigFile {
    /// Returns true if the command line names it.
    fn is_named(&self) -> bool {
        self.rig != std::env::var_os(VARIABLE).map_or_else(|| PathBuf::from(USUAL), PathBuf::from)
    }
}

/// Which face of which rig.
#[derive(Args)]
#[command(next_help_heading = "Rig")]
pub struct FaceOfRig {
    #[command(flatten)]
    pub file: RigFile,
    /// The name of the face in the rig [default: the only one]
    ///
    /// Example: spare-tile show 7:58 --face clock
    #[arg(short, long, value_name = "NAME", add = ArgValueCompleter::new(complete::faces))]
    pub face: Option<String>,
    /// A face without a rig file: seven:4 for digits, dots:32x8 for dots, on a chain of max7219
    ///
    /// Example: spare-tile play count --on seven:4
    #[arg(long, value_name = "STYLE:SIZE", value_parser = on)]
    pub on: Option<Document>,
    /// Accept a rig with errors: they do not change the exit status
    ///
    /// Example: spare-tile show 7 --rig berth.toml --unsound
    #[arg(long)]
    pub unsound: bool,
}

/// The rig that a face without a file stands for.
fn on(text: &str) -> Result<Document, String> {
    let wrong = || "write seven:1 to seven:64, or dots:8x8 to dots:256x256 in eights".to_owned();
    let (style, size) = text.split_once(':').ok_or_else(wrong)?;
    let mut rig = Document::default();
    let mut set = |key: &[&str], value: Value| rig.set(&[&["face", style], key].concat(), value);
    match style {
        "seven" => {
            let digits = size.parse::<u8>().ok().filter(|digits| (1..=64).contains(digits));
            set(&["kind"], "seven-segment".into());
            set(&["digits"], digits.ok_or_else(wrong)?.into());
        }
        "dots" => {
            let (width, height) = sprite::parse_size(size).ok_or_else(wrong)?;
            if width % 8 != 0 || height % 8 != 0 || width > 256 {
                return Err(wrong());
            }
            set(&["kind"], "dots".into());
            set(&["width"], width.into());
            set(&["height"], height.into());
        }
        _ => return Err(wrong()),
    }
    set(&["drive", "method"], "max7219".into());
    set(&["drive", "pins"], Value::table([("clock", 1_i64), ("data", 2), ("select", 3)]));
    Ok(rig)
}

/// A rig file that was read, sound or not.
pub struct RigText {
    /// The file's name, for messages.
    pub origin: String,
    pub source: Arc<str>,
    pub reading: Reading,
}

impl RigText {
    /// Reads a rig file.
    pub fn read(file: &RigFile, session: &Session<'_>) -> Result<Self, Failure> {
        Ok(Self::of(&file.rig, session.shelf.read(&file.rig, "rig")?))
    }

    /// The text of a rig file, read.
    pub fn of(path: &Path, source: String) -> Self {
        Self { origin: input::called(path), reading: Rig::read(&source), source: source.into() }
    }

    /// A finding as a person reads it.
    pub fn complaint(&self, finding: &Finding) -> Complaint {
        Complaint::of_finding(finding, &self.origin, &self.source)
    }

    /// The errors of the rig, as a person reads them.
    fn errors(&self) -> Vec<Complaint> {
        let errors = self.reading.findings.iter().filter(|finding| finding.severity == Severity::Error);
        errors.map(|finding| self.complaint(finding)).collect()
    }

    /// The rig, if it can be used.
    pub fn into_rig(self) -> Result<Rig, Failure> {
        let errors = self.errors();
        self.reading.rig.ok_or_else(|| Failure::of_many(Exit::Unusable, errors))
    }
}

/// The hardware as built, if it differs from the rig
#[derive(Args)]
#[command(next_help_heading = "Rig")]
pub struct BuiltFile {
    /// The hardware as built, if it differs from the rig
    ///
    /// Another rig file with the same faces; what it leaves out is taken from the rig. The rig says what is sent, this file
    /// what receives it: the picture shows what the eye would see.
    ///
    /// Example: spare-tile show 1234 --built turned.toml
    #[arg(long, value_name = "FILE")]
    built: Option<PathBuf>,
}

impl BuiltFile {
    /// Loads the hardware of a rig: the rig itself where none is named.
    pub fn load(&self, of: &FaceOfRig, rig: &Rig, session: &mut Session<'_>) -> Result<Option<Rig>, Failure> {
        let Some(path) = &self.built else { return Ok(None) };
        let over: Arc<str> = session.shelf.read(path, "hardware")?.into();
        let (origin, base) = of.text(session)?;
        let said = Document::read(&over)
            .map_err(|findings| failure_of_findings(&findings, &input::called(path), &over))?;
        // It was read when the rig was loaded.
        let rest = Document::read(&base).unwrap_or_default();
        let idle = said.sent_only(&rest).into_iter().map(|key| {
            let message = format!("{}: {key} does nothing here: it says what is sent", input::called(path));
            Complaint::warning(message, "leave it out, or write it in the rig")
        });
        session.warn(&idle.collect::<Vec<_>>());
        let said = rig.with_circuits_kept(said);
        let reading = Rig::of(&said.completed(&rest.moved(over.len())));
        let files = [(input::called(path), Arc::clone(&over)), (origin, base)];
        let errors = reading.findings.into_iter().filter(|finding| finding.severity == Severity::Error);
        let errors = errors.map(|finding| complaint_of_two(finding, over.len(), &files)).collect();
        let built = reading.rig.ok_or_else(|| Failure::of_many(Exit::Unusable, errors))?;
        let built = built.as_built_for(rig).map_err(|error| {
            let help = "the hardware has the same faces as the rig; only their wiring and drive may differ";
            Failure::unusable(format!("{}: {error}", input::called(path)), help)
        })?;
        Ok(Some(built))
    }
}

/// A finding of a rig of which the first file says one part, and a second file the rest: its places begin where the first ends.
fn complaint_of_two(mut finding: Finding, end: usize, files: &[(String, Arc<str>); 2]) -> Complaint {
    let is_in_second = finding.span.start >= end;
    let moved = |span: &Range<usize>| {
        let is_alike = (span.start >= end) == is_in_second;
        let begin = if is_in_second { end } else { 0 };
        is_alike.then(|| span.start - begin..span.end - begin)
    };
    finding.also = finding.also.and_then(|(span, words)| Some((moved(&span)?, words)));
    finding.span = moved(&finding.span).unwrap_or_default();
    let (origin, source) = &files[usize::from(is_in_second)];
    Complaint::of_finding(&finding, origin, source)
}

impl FaceOfRig {
    /// A face of a rig file, by its name; the only one if the name is not given.
    pub fn of(rig: PathBuf, face: Option<String>) -> Self {
        Self { file: RigFile { rig }, face, on: None, unsound: false }
    }

    /// The name of the rig's file for messages, and its text.
    fn text(&self, session: &Session<'_>) -> Result<(String, Arc<str>), Failure> {
        match &self.on {
            Some(_) if self.file.is_named() => {
                let message = "a face is on a rig file, or on one of its own";
                Err(Failure::unusable(message, "leave out --rig, or --on"))
            }
            Some(rig) => Ok(("--on".to_owned(), rig.to_string().into())),
            None => Ok((input::called(&self.file.rig), session.shelf.read(&self.file.rig, "rig")?.into())),
        }
    }

    /// Reads the rig, sound or not.
    pub fn read(&self, session: &Session<'_>) -> Result<RigText, Failure> {
        let (origin, source) = self.text(session)?;
        let reading = self.on.as_ref().map_or_else(|| Rig::read(&source), Rig::of);
        Ok(RigText { origin, source, reading })
    }

    /// Loads the rig. Errors with which it can be used are reported, and make the exit status 1 unless they are accepted.
    pub fn load(&self, session: &mut Session<'_>) -> Result<Rig, Failure> {
        let text = self.read(session)?;
        let errors = text.errors();
        let rig = text.into_rig()?;
        if !errors.is_empty() {
            session.warn(&errors);
            session.is_unsound |= !self.unsound;
        }
        Ok(rig)
    }

    /// Picks the face.
    pub fn pick<'r>(&self, rig: &'r Rig) -> Result<&'r Mount, Failure> {
        self.place(rig).map(|place| &rig.faces[place])
    }

    /// The face that is named, or all of them.
    pub fn pick_all<'r>(&self, rig: &'r Rig) -> Result<Vec<&'r Mount>, Failure> {
        match self.face {
            Some(_) => Ok(vec![self.pick(rig)?]),
            None => Ok(rig.faces.iter().collect()),
        }
    }

    /// The place of the face in the rig.
    pub fn place(&self, rig: &Rig) -> Result<usize, Failure> {
        let names: Vec<_> = rig.faces.iter().map(|mount| mount.face.name.as_str()).collect();
        match (&self.face, &names[..]) {
            (Some(name), _) => names.iter().position(|known| known == name).ok_or_else(|| {
                let message = format!("the rig has no face '{name}'");
                Failure::unusable(message, format!("its faces: {}", names.join(", ")))
            }),
            (None, [_]) => Ok(0),
            (None, _) => {
                let message = format!("the rig has {} faces: {}", names.len(), names.join(", "));
                Err(Failure::unusable(message, format!("pick one, such as --face {}", names[0])))
            }
        }
    }
}

/// A file of glyphs, for any command that shows characters.
#[derive(Args)]
pub struct GlyphFile {
    /// Add your own characters from this file: a line such as "~" = "a d g" for each
    ///
    /// Example: spare-tile show "~~" --glyphs waves.toml
    #[arg(long, value_name = "FILE")]
    glyphs: Option<PathBuf>,
}

impl GlyphFile {
    /// Adds the file's characters to those of a face.
    pub fn add_to(&self, face: &mut Face) -> Result<(), Failure> {
        let Some(path) = &self.glyphs else { return Ok(()) };
        let source: Arc<str> = files::read_text(path, "glyph")?.into();
        face.own_glyphs.add(&own_glyphs(&input::called(path), &source, face.style())?);
        Ok(())
    }
}

/// The characters of a glyph file.
pub fn own_glyphs(origin: &str, source: &Arc<str>, style: Style) -> Result<OwnGlyphs, Failure> {
    glyphs::read(source, style).map_err(|findings| failure_of_findings(&findings, origin, source))
}

/// Everything that is wrong with a file.
pub fn failure_of_findings(findings: &[Finding], origin: &str, source: &Arc<str>) -> Failure {
    let complain = |finding: &Finding| Complaint::of_finding(finding, origin, source);
    Failure::of_many(Exit::Unusable, findings.iter().map(complain).collect())
}
