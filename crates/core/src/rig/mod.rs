//! The rig: one TOML file that describes the hardware.
//!
//! Reading goes in three steps, each apart: the text becomes a tree in which every key knows its place
//! ([`mod@reader`] turns parts of the tree into the structs that state their keys), the keys are checked
//! (each method checks its own), and the [`Rig`] is planned. Whatever is wrong becomes a [`Finding`] with
//! its place in the file; reading goes on to find more.

mod controller;
mod finding;
mod reader;
mod table;

pub use controller::Controller;
pub use finding::{Finding, Findings, Problem, Severity};
pub use table::{DriveTable, End, Pin, Place};

use std::collections::BTreeMap;

use serde::de::IgnoredAny;
use serde_spanned::Spanned;
use toml::de::{DeTable, DeValue};

use crate::drive::{self, Drive};
use crate::face::{Colour, Face};
use crate::glyph::{Common, OwnGlyphs, Segments, Style};
use table::Claims;

/// The hardware: a controller and its faces.
pub struct Rig {
    /// What the file calls it.
    pub name: Option<String>,
    /// What the lines come from.
    pub controller: Controller,
    /// The faces in the file's order.
    pub faces: Vec<Mount>,
}

/// A face on its drive.
pub struct Mount {
    /// What a person looks at.
    pub face: Face,
    /// The method's name, as in the file.
    pub method: &'static str,
    /// How it is driven.
    pub drive: Drive,
}

/// What came of reading a rig file.
pub struct Reading {
    /// The rig, when no finding is an error.
    pub rig: Option<Rig>,
    /// Everything there is to say about the file, in the order of its places.
    pub findings: Vec<Finding>,
}

/// The keys at the top of the file.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct RigKeys {
    name: Option<String>,
    #[serde(default)]
    controller: Option<Spanned<controller::Keys>>,
    /// Read face by face below.
    #[serde(rename = "face")]
    _face: Option<IgnoredAny>,
}

/// The keys of a face.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct FaceKeys {
    kind: Kind,
    digits: Spanned<i64>,
    common: Option<Common>,
    #[serde(default)]
    light: LightKeys,
    /// Own glyphs: a character and the names of its segments.
    #[serde(default)]
    glyphs: BTreeMap<Spanned<String>, Spanned<String>>,
    /// Read by the method that it names.
    #[serde(rename = "drive")]
    _drive: IgnoredAny,
}

/// The kinds of face.
#[derive(Clone, Copy, serde::Deserialize)]
#[serde(rename_all = "kebab-case")]
enum Kind {
    SevenSegment,
    FourteenSegment,
    SixteenSegment,
}

impl Kind {
    const fn style(self) -> Style {
        match self {
            Self::SevenSegment => Style::Seven,
            Self::FourteenSegment => Style::Fourteen,
            Self::SixteenSegment => Style::Sixteen,
        }
    }
}

/// The keys of a face's lights.
#[derive(Default, serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct LightKeys {
    #[serde(default)]
    colour: Colour,
    #[serde(rename = "forward_volts")]
    _forward_volts: Option<f64>,
}

/// The one key of a drive table that every method has.
#[derive(serde::Deserialize)]
struct MethodKey {
    method: Spanned<String>,
}

impl Rig {
    /// Reads and checks a rig file.
    #[must_use]
    pub fn read(source: &str) -> Reading {
        let findings = Findings::default();
        let rig = Self::plan(source, &findings);
        let findings = findings.in_order();
        let sound = !findings.iter().any(|finding| finding.severity == Severity::Error);
        Reading { rig: rig.filter(|_| sound), findings }
    }

    /// The face of this name.
    #[must_use]
    pub fn face(&self, name: &str) -> Option<&Mount> {
        self.faces.iter().find(|mount| mount.face.name == name)
    }

    fn plan(source: &str, findings: &Findings) -> Option<Self> {
        let (root, errors) = DeTable::parse_recoverable(source);
        for error in &errors {
            let place = error.span().unwrap_or(0..0);
            findings.error(place, Problem::Syntax { message: error.message().to_owned() });
        }
        if !errors.is_empty() {
            return None;
        }
        let whole = root.span();
        let root = DeValue::Table(root.into_inner());
        let keys: RigKeys = reader::read(&root, whole, findings)?;
        let controller = Controller::plan(keys.controller, findings)?;

        let root = root.as_table()?;
        let faces = match root.get("face").map(|face| (face.get_ref(), face.span())) {
            Some((DeValue::Table(faces), _)) if !faces.is_empty() => faces,
            Some((DeValue::Table(_), span)) => return findings.stop(span, Problem::NoFaces),
            Some((other, span)) => {
                let found = reader::describe(other);
                return findings
                    .stop(span, Problem::WrongValue { found, allowed: "a table of faces".into() });
            }
            None => return findings.stop(0..0, Problem::NoFaces),
        };
        let mut faces: Vec<_> = faces.iter().collect();
        faces.sort_by_key(|(name, _)| name.span().start);
        let claims = Claims::default();
        let planned: Vec<_> = faces
            .into_iter()
            .map(|(name, value)| {
                let plan = FacePlan { root, findings, claims: &claims, controller: &controller };
                plan.mount(name.get_ref(), value)
            })
            .collect();
        let faces = planned.into_iter().collect::<Option<_>>()?;
        Some(Self { name: keys.name, controller, faces })
    }
}

/// What planning a face needs to know of the rest of the rig.
struct FacePlan<'t> {
    root: &'t DeTable<'t>,
    findings: &'t Findings,
    claims: &'t Claims,
    controller: &'t Controller,
}

impl FacePlan<'_> {
    fn mount(&self, name: &str, value: &Spanned<DeValue<'_>>) -> Option<Mount> {
        let keys: FaceKeys = reader::read(value.get_ref(), value.span(), self.findings)?;
        let drive = value.get_ref().as_table()?.get("drive")?;
        let MethodKey { method } = reader::read_loosely(drive.get_ref(), drive.span(), self.findings)?;
        let Some(method_of_face) = drive::method(method.get_ref()) else {
            let known: Vec<_> = drive::METHODS.iter().map(|method| method.name()).collect();
            let problem = Problem::unknown_name("method", method.get_ref(), &known);
            return self.findings.stop(method.span(), problem);
        };
        let digits = *keys.digits.get_ref();
        let Some(digits) = usize::try_from(digits).ok().filter(|n| (1..=Face::MAX_DIGITS).contains(n)) else {
            let allowed = format!("a whole number from 1 to {}", Face::MAX_DIGITS);
            let problem = Problem::WrongValue { found: digits.to_string(), allowed };
            return self.findings.stop(keys.digits.span(), problem);
        };
        let mut face = Face {
            name: name.to_owned(),
            style: keys.kind.style(),
            digits,
            points: true,
            own_glyphs: self.own_glyphs(keys.kind.style(), &keys.glyphs)?,
            common: self.common(name, keys.common, method_of_face, value)?,
            colour: keys.light.colour,
        };
        let table =
            DriveTable { drive, face: name, root: self.root, findings: self.findings, claims: self.claims };
        let drive = method_of_face.plan(&face, self.controller, &table)?;
        face.points = drive.wiring.has(face.element(0, face.style.segment_count() - 1));
        Some(Mount { face, method: method_of_face.name(), drive })
    }

    fn own_glyphs(
        &self,
        style: Style,
        keys: &BTreeMap<Spanned<String>, Spanned<String>>,
    ) -> Option<OwnGlyphs> {
        let mut own = OwnGlyphs::default();
        for (name, segments) in keys {
            let mut characters = name.get_ref().chars();
            let (Some(character), None) = (characters.next(), characters.next()) else {
                let found = format!("{:?}", name.get_ref());
                let problem = Problem::WrongValue { found, allowed: "a single character".into() };
                return self.findings.stop(name.span(), problem);
            };
            match Segments::parse(segments.get_ref(), style) {
                Ok(segments) => own.set(character, segments),
                Err(found) => {
                    let problem = Problem::unknown_name("segment", found, style.segment_names());
                    return self.findings.stop(segments.span(), problem);
                }
            }
        }
        Some(own)
    }

    /// The common side that the file gives, or the one that the method has by itself. Where both kinds of
    /// digit can be driven there is no safe guess: the wrong one lights the complement.
    fn common(
        &self,
        face: &str,
        written: Option<Common>,
        method: &dyn drive::Method,
        value: &Spanned<DeValue<'_>>,
    ) -> Option<Common> {
        if let Some(common) = written.or(method.common()) {
            if written.is_none() {
                let (key, value) = (format!("face.{face}.common"), format!("\"{}\"", common.name()));
                self.findings.note(value_span(self.root, face), Problem::Assumed { key, value });
            }
            return Some(common);
        }
        self.findings.stop(value.span(), Problem::MissingKey { key: "common" })
    }
}

/// Where a face's table stands.
fn value_span(root: &DeTable<'_>, face: &str) -> std::ops::Range<usize> {
    let table = root.get("face").and_then(|faces| faces.get_ref().as_table()?.get(face));
    table.map_or(0..0, Spanned::span)
}
