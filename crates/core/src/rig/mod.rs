//! The rig: one TOML file that describes the hardware.
//!
//! Reading goes in three steps, each apart: the text becomes a tree in which every key knows its place
//! ([`mod@reader`] turns parts of the tree into the structs that state their keys), the keys are checked
//! (each method checks its own), and the [`Rig`] is planned. Whatever is wrong becomes a [`Finding`] with
//! its place in the file; reading goes on to find more.

mod controller;
mod finding;
pub mod glyphs;
pub mod package;
mod reader;
mod table;
mod text_or_list;
pub mod wires;

pub use controller::{Controller, Limits, Reserved};
pub use finding::{Finding, Findings, Problem, Severity};
pub use package::{Function, Package};
pub use table::{DriveTable, End, Pin, Place, Written};
pub use text_or_list::TextOrList;

use serde::de::IgnoredAny;
use serde_spanned::Spanned;
use toml::de::{DeTable, DeValue};

use crate::drive::{self, Drive};
use crate::face::{Colour, Extra, ExtraKind, Face, Grid, Light};
use crate::glyph::{Common, Style};
use crate::scan::budget;
use crate::units::{Milliamps, Volts};
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
    /// The pins of the display itself, where the file tells.
    pub package: Option<Package>,
    /// How it is driven.
    pub drive: Drive,
}

/// What came of reading a rig file.
pub struct Reading {
    /// The rig, when no finding keeps it from being used: with currents that are too high it can be.
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
    /// Of a face of segments.
    digits: Option<Spanned<i64>>,
    /// Of a face of dots.
    width: Option<Spanned<i64>>,
    height: Option<Spanned<i64>>,
    common: Option<Common>,
    /// The display's own pins.
    package: Option<Spanned<package::Key>>,
    #[serde(default)]
    light: LightKeys,
    #[serde(default)]
    colons: Vec<ColonKeys>,
    #[serde(default)]
    lamps: Vec<LampKeys>,
    /// Push buttons: the same keys as of a lamp.
    #[serde(default)]
    keys: Vec<LampKeys>,
    /// Own glyphs: a character and the names of its segments.
    #[serde(default)]
    glyphs: glyphs::Keys,
    /// Read by the method that it names.
    #[serde(rename = "drive")]
    _drive: IgnoredAny,
}

/// The keys of a colon.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct ColonKeys {
    /// After how many digits it stands.
    after: Spanned<i64>,
    node: Spanned<String>,
}

/// The keys of a lamp or push button.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct LampKeys {
    name: Spanned<String>,
    node: Spanned<String>,
}

/// The kinds of face.
#[derive(Clone, Copy, serde::Deserialize)]
enum Kind {
    #[serde(rename = "seven-segment")]
    Seven,
    #[serde(rename = "fourteen-segment")]
    Fourteen,
    #[serde(rename = "sixteen-segment")]
    Sixteen,
    #[serde(rename = "dots")]
    Dots,
}

impl Kind {
    const fn style(self) -> Style {
        match self {
            // The style of the digits that a face of dots has not.
            Self::Seven | Self::Dots => Style::Seven,
            Self::Fourteen => Style::Fourteen,
            Self::Sixteen => Style::Sixteen,
        }
    }
}

/// The keys of a face's lights.
#[derive(Default, serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct LightKeys {
    #[serde(default)]
    colour: Colour,
    forward_volts: Option<f64>,
    /// The mean current that a light is wanted to get.
    milliamps: Option<f64>,
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
        let rig = Self::plan(source, &findings).filter(|_| !findings.has_errors());
        rig.iter().flat_map(budget::check).for_each(|finding| findings.add(finding));
        Reading { rig, findings: findings.in_order() }
    }

    /// The face of this name.
    #[must_use]
    pub fn face(&self, name: &str) -> Option<&Mount> {
        self.faces.iter().find(|mount| mount.face.name == name)
    }

    fn plan(source: &str, findings: &Findings) -> Option<Self> {
        let (root, whole) = reader::parse(source, findings)?;
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
        let (digits, dots) = self.size(&keys, value.span())?;
        let colour = keys.light.colour;
        let mut face = Face {
            name: name.to_owned(),
            style: keys.kind.style(),
            digits,
            dots,
            points: true,
            extras: self.extras(&keys, digits)?,
            own_glyphs: glyphs::plan(&keys.glyphs, keys.kind.style(), self.findings)?,
            common: self.common(name, keys.common, method_of_face, value)?,
            light: Light {
                colour,
                forward: keys.light.forward_volts.map_or(colour.usual_forward(), Volts),
                wanted: keys.light.milliamps.map(Milliamps),
            },
        };
        let package = Package::plan(keys.package.as_ref(), &face, self.findings);
        let colons = keys.colons.iter().map(|colon| &colon.node);
        let extras = colons.chain(keys.lamps.iter().map(|lamp| &lamp.node)).collect();
        let table = DriveTable {
            drive,
            extras,
            keys: keys.keys.iter().map(|key| (key.name.get_ref().as_str(), &key.node)).collect(),
            face: name,
            root: self.root,
            controller: self.controller,
            package: package.as_ref(),
            findings: self.findings,
            claims: self.claims,
        };
        let drive = method_of_face.plan(&face, self.controller, &table)?;
        if let Some(key) = keys.keys.first().filter(|_| drive.ends.key_names().is_empty()) {
            let problem = Problem::NoKeys { method: method_of_face.name() };
            return self.findings.stop(key.name.span(), problem);
        }
        if drive.ends.circuit().is_some() && keys.light.forward_volts.is_none() {
            let value = face.light.forward.0.to_string();
            let assumed = Problem::Assumed { key: format!("face.{name}.light.forward_volts"), value };
            self.findings.note(value_span(self.root, name), assumed);
        }
        let point = face.style.point_index();
        face.points = (0..face.digits).all(|digit| drive.wiring.has(face.element(digit, point)));
        Some(Mount { face, method: method_of_face.name(), package, drive })
    }

    /// How many digits, and how many dots.
    fn size(&self, keys: &FaceKeys, face: std::ops::Range<usize>) -> Option<(usize, Grid)> {
        let count = |written: &Option<Spanned<i64>>, key: &'static str, most: usize| {
            let Some(written) = written else {
                return self.findings.stop(face.clone(), Problem::MissingKey { key });
            };
            let found = *written.get_ref();
            let count = usize::try_from(found).ok().filter(|count| (1..=most).contains(count));
            if count.is_none() {
                let allowed = format!("a whole number from 1 to {most}");
                let problem = Problem::WrongValue { found: found.to_string(), allowed };
                self.findings.error(written.span(), problem);
            }
            count
        };
        let stray = |written: &Option<Spanned<i64>>, allowed: &str| {
            if let Some(written) = written {
                let found = "a size of another kind of display".to_owned();
                let problem = Problem::WrongValue { found, allowed: allowed.to_owned() };
                self.findings.error(written.span(), problem);
            }
        };
        if matches!(keys.kind, Kind::Dots) {
            stray(&keys.digits, "width and height, on a face of dots");
            let width = count(&keys.width, "width", Face::MAX_DOTS);
            let height = count(&keys.height, "height", Face::MAX_DOTS);
            return Some((0, Grid { width: width?, height: height? }));
        }
        stray(&keys.width, "digits, on a face of segments");
        stray(&keys.height, "digits, on a face of segments");
        Some((count(&keys.digits, "digits", Face::MAX_DIGITS)?, Grid::default()))
    }

    /// The colons, then the lamps, in the file's order.
    fn extras(&self, keys: &FaceKeys, digits: usize) -> Option<Vec<Extra>> {
        let mut extras: Vec<Extra> = Vec::new();
        for colon in &keys.colons {
            let found = *colon.after.get_ref();
            let Some(after) = usize::try_from(found).ok().filter(|after| (1..=digits).contains(after)) else {
                let allowed = format!("a number of digits from 1 to {digits}");
                let problem = Problem::WrongValue { found: found.to_string(), allowed };
                return self.findings.stop(colon.after.span(), problem);
            };
            let colon_there = Extra { name: format!("colon{after}"), kind: ExtraKind::Colon { after } };
            if extras.contains(&colon_there) {
                return self.findings.stop(colon.after.span(), Problem::NameTwice { name: colon_there.name });
            }
            extras.push(colon_there);
        }
        for lamp in &keys.lamps {
            let name = lamp.name.get_ref();
            let style = keys.kind.style();
            let plain = !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || "-_".contains(c));
            if !plain || style.segment_index(name).is_some() {
                let allowed = "letters and digits, and no name of a segment".into();
                let problem = Problem::WrongValue { found: format!("{name:?}"), allowed };
                return self.findings.stop(lamp.name.span(), problem);
            }
            if extras.iter().any(|extra| extra.name == *name) {
                return self.findings.stop(lamp.name.span(), Problem::NameTwice { name: name.clone() });
            }
            extras.push(Extra { name: name.clone(), kind: ExtraKind::Lamp });
        }
        Some(extras)
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
