//! The plan of one face: its layout, its colons and lamps, and what its method makes of the drive table.

use crate::bare::circuit::{Circuit, SwitchKind};
use crate::bus::Protocol;
use crate::face::{Channels, Colour, Extra, ExtraKind, Face, Grid, Layout, Light};
use crate::glyph::{Common, Style};
use crate::part::trouble::PartTrouble;
use crate::part::{Drive, Method, Part, Planned, methods};
use crate::rig::face::{FaceKeys, Hue, MethodKey};
use crate::rig::value::{Table, Value};
use crate::rig::{
    Claims, Controller, DriveTable, Findings, Line, Package, Place, Problem, Spanned, Written, glyphs, reader,
};
use crate::units::{Milliamps, Volts};
use crate::wiring::Wiring;

/// The longest name of a face or a button.
pub(super) const MAX_NAME: usize = 64;
/// The most colons, lamps and keys of a face.
const MAX_EXTRAS: usize = 1024;

/// A planned face that has no place on a bus yet.
pub struct Unseated {
    pub face: Face,
    pub method: &'static str,
    pub drives: Option<Common>,
    pub package: Option<Package>,
    pub is_module: bool,
    pub protocol: Protocol,
    pub lines: Vec<Line>,
    pub wiring: Wiring,
    pub level: Volts,
    pub drive: Drive,
}

/// The facts of the rest of the rig that planning a face needs.
pub struct FacePlan<'t> {
    pub root: &'t Table,
    pub findings: &'t Findings,
    pub claims: &'t Claims,
    pub controller: &'t Controller,
    pub outside: &'t [&'static dyn Method],
}

impl FacePlan<'_> {
    /// Plans the face of this name.
    pub fn mount(&self, name: &str, value: &toml::Spanned<Value>) -> Option<Unseated> {
        if let Some(allowed) = unfit_name(name) {
            let problem =
                Problem::WrongValue { found: format!("the name {name:?}"), allowed: allowed.into() };
            return self.findings.stop(value.span(), problem);
        }
        let keys: FaceKeys = reader::read(value.get_ref(), value.span(), self.findings)?;
        let drive = value.get_ref().as_table()?.get("drive")?;
        let method_of_face = self.method(drive)?;
        let layout = self.layout(&keys, value.span(), method_of_face)?;
        // Own glyphs are drawn with segments; on dots there are none to draw with.
        let style = keys.kind.style().unwrap_or(Style::Seven);
        let assume = |key: &str, value: String| {
            let assumed = Problem::Assumed { key: format!("face.{name}.light.{key}"), value };
            self.findings.note(value_span(self.root, name), assumed);
        };
        let has_colours = matches!(layout, Layout::Dots(grid) if grid.channels != Channels::One);
        let colour = keys.light.colour.unwrap_or_else(|| {
            // Dots with several lights have those colours.
            if !has_colours {
                assume("colour", Colour::default().written());
            }
            Colour::default()
        });
        let mut face = Face {
            name: name.to_owned(),
            layout,
            points: true,
            extras: self.extras(&keys, layout)?,
            own_glyphs: glyphs::plan(&keys.glyphs, style, self.findings)?,
            common: self.common(name, keys.common, keys.kind.style().is_none(), method_of_face, value)?,
            light: Light {
                colour,
                forward: keys.light.forward_volts.map_or(colour.usual_forward(), Volts),
                wanted: keys.light.milliamps.map(Milliamps),
                peak: keys.light.peak_milliamps.map(Milliamps),
            },
            pitch_mm: self.pitch(&keys, layout)?,
        };
        let package = Package::plan(keys.package.as_ref(), &face, self.findings);
        let colons = keys.colons.iter().map(|colon| &colon.node);
        let extras = colons.chain(keys.lamps.iter().map(|lamp| &lamp.node)).collect();
        let table = DriveTable {
            drive,
            extras,
            keys: keys.buttons.iter().map(|key| (key.name.get_ref().as_str(), &key.node)).collect(),
            face: name,
            root: self.root,
            controller: self.controller,
            package: package.as_ref(),
            findings: self.findings,
            claims: self.claims,
        };
        let planned = method_of_face.plan(&face, self.controller, &table)?;
        let display = planned.drive.display();
        if let Some(key) = keys.buttons.first().filter(|_| display.button_names().is_empty()) {
            let problem = PartTrouble::NoKeys { method: method_of_face.name() };
            return self.findings.stop(key.name.span(), problem);
        }
        let module = keys.module.as_ref().filter(|module| *module.get_ref());
        if let Some(module) = module.filter(|_| planned.drive.header().is_none()) {
            return self
                .findings
                .stop(module.span(), PartTrouble::NoModule { method: method_of_face.name() });
        }
        let extras =
            keys.colons.iter().map(|colon| &colon.node).chain(keys.lamps.iter().map(|lamp| &lamp.node));
        if let Some(extra) =
            { extras }.next().filter(|_| planned.wiring.element_count() < face.element_count())
        {
            return self.findings.stop(extra.span(), PartTrouble::NoExtras { method: method_of_face.name() });
        }
        if display.circuit().is_some() && keys.light.forward_volts.is_none() {
            assume("forward_volts", face.light.forward.0.to_string());
        }
        self.check_open_drain(&planned, &table);
        let point = face.style().point_index();
        face.points = (0..face.digits()).all(|digit| planned.wiring.has(face.element(digit, point)));
        Some(Unseated {
            face,
            method: method_of_face.name(),
            drives: method_of_face.common(),
            package,
            is_module: module.is_some(),
            protocol: planned.protocol,
            lines: planned.lines,
            wiring: planned.wiring,
            level: planned.level,
            drive: planned.drive,
        })
    }

    /// Warns of lines that need a high level at pins that drive none. Lights that such a pin pulls low need none.
    fn check_open_drain(&self, planned: &Planned, table: &DriveTable<'_>) {
        let display = planned.drive.display();
        let is_straight = |circuit: &Circuit| {
            circuit.common == Common::Anode && circuit.line_switch.kind == SwitchKind::None
        };
        let is_of_pins = display.ratings().is_some_and(|ratings| ratings.high.is_none());
        let sinks = display.circuit().filter(|_| is_of_pins).is_some_and(is_straight);
        let selects = display.circuit().map_or(&[][..], |circuit| &circuit.selects);
        let Some(facts) = &self.controller.facts else { return };
        let needs_high = |(place, line): &(usize, &Line)| {
            facts.is_open_drain(&line.known) && (!sinks || selects.contains(place))
        };
        let pins: Vec<_> = planned
            .lines
            .iter()
            .enumerate()
            .filter(needs_high)
            .map(|(_, line)| line.pin.to_string())
            .collect();
        if !pins.is_empty() {
            table.warn(Place::Drive("pins"), Problem::OpenDrain { pins: pins.join(", ") });
        }
    }

    /// The method that the drive table names.
    fn method(&self, drive: &toml::Spanned<Value>) -> Option<&'static dyn Method> {
        let MethodKey { method: written } =
            reader::read_loosely(drive.get_ref(), drive.span(), self.findings)?;
        let all = || methods().chain(self.outside.iter().copied());
        let known = || all().map(Method::name).collect::<Vec<_>>();
        let Some(written) = written else {
            return self.findings.stop(drive.span(), Problem::NoMethod { methods: known() });
        };
        let found = all().find(|method| method.name() == written.get_ref());
        if found.is_none() {
            let problem = Problem::unknown_name("method", written.get_ref(), &known());
            return self.findings.stop(written.span(), problem);
        }
        found
    }

    /// How many digits, or how many dots and what each can show.
    fn layout(&self, keys: &FaceKeys, face: std::ops::Range<usize>, method: &dyn Method) -> Option<Layout> {
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
        let Some(style) = keys.kind.style() else {
            stray(&keys.digits, "width and height, on a face of dots");
            let width = count(&keys.width, "width", Face::MAX_WIDTH);
            let height = count(&keys.height, "height", Face::MAX_HEIGHT);
            let channels = self.channels(keys, method)?;
            return Some(Layout::Dots(Grid { width: width?, height: height?, channels }));
        };
        if let Some(colours) = &keys.colours {
            let found = "the colours of dots".to_owned();
            let problem = Problem::WrongValue { found, allowed: "digits, on a face of segments".into() };
            self.findings.error(colours.span(), problem);
        }
        stray(&keys.width, "digits, on a face of segments");
        stray(&keys.height, "digits, on a face of segments");
        Some(Layout::Digits { style, count: count(&keys.digits, "digits", Face::MAX_DIGITS)? })
    }

    /// How far the dots are apart, where the file says it.
    fn pitch(&self, keys: &FaceKeys, layout: Layout) -> Option<Option<f64>> {
        let Some(pitch) = &keys.pitch_mm else { return Some(None) };
        let found = *pitch.get_ref();
        if !matches!(layout, Layout::Dots(_)) || !(0.5..=100.0).contains(&found) {
            let allowed = "on a face of dots, from 0.5 to 100 millimetres".to_owned();
            return self
                .findings
                .stop(pitch.span(), Problem::WrongValue { found: found.to_string(), allowed });
        }
        Some(Some(found))
    }

    /// Returns the colours of each dot: those in the file, or the usual ones of the method.
    fn channels(&self, keys: &FaceKeys, method: &dyn Method) -> Option<Channels> {
        let Some(colours) = &keys.colours else { return method.channels().first().copied() };
        let channels = match colours.get_ref()[..] {
            [Hue::Red, Hue::Green] => Channels::Two,
            [Hue::Red, Hue::Green, Hue::Blue] => Channels::Three,
            _ => {
                let allowed = "[\"red\", \"green\"] or [\"red\", \"green\", \"blue\"]".to_owned();
                let problem = Problem::WrongValue { found: "other colours".to_owned(), allowed };
                return self.findings.stop(colours.span(), problem);
            }
        };
        if !method.channels().contains(&channels) {
            let problem = Problem::OtherColours { method: method.name(), has: method.channels() };
            return self.findings.stop(colours.span(), problem);
        }
        Some(channels)
    }

    /// The colons, then the lamps, in the file's order.
    fn extras(&self, keys: &FaceKeys, layout: Layout) -> Option<Vec<Extra>> {
        let (style, digits) = match layout {
            Layout::Digits { style, count } => (Some(style), count),
            Layout::Dots(_) => (None, 0),
        };
        let found = keys.colons.len() + keys.lamps.len() + keys.buttons.len();
        if found > MAX_EXTRAS {
            let place = keys.lamps.first().or(keys.buttons.first()).map_or(0..0, |lamp| lamp.name.span());
            let what = "colons, lamps and buttons";
            return self.findings.stop(place, Problem::TooMany { what, found, most: MAX_EXTRAS });
        }
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
        let is_plain =
            |name: &str| !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || "-_".contains(c));
        if let Some(key) = keys.buttons.iter().find(|key| !is_plain(key.name.get_ref())) {
            let found = format!("{:?}", key.name.get_ref());
            let problem = Problem::WrongValue { found, allowed: "letters, digits, - and _".into() };
            return self.findings.stop(key.name.span(), problem);
        }
        for lamp in &keys.lamps {
            let name = lamp.name.get_ref();
            if !is_plain(name) || style.is_some_and(|style| style.segment_index(name).is_some()) {
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
        is_dots: bool,
        method: &dyn Method,
        value: &toml::Spanned<Value>,
    ) -> Option<Common> {
        if let Some(common) = written.or(method.common()) {
            // Of dots nothing follows from it: their two sides can change places.
            if written.is_none() && !is_dots {
                let (key, value) = (format!("face.{face}.common"), format!("\"{}\"", common.name()));
                self.findings.note(value_span(self.root, face), Problem::Assumed { key, value });
            }
            return Some(common);
        }
        self.findings.stop(value.span(), Problem::MissingKey { key: "common" })
    }
}

/// The allowed characters of the name of a face: it is used in messages, drawings and sources.
#[must_use]
pub fn unfit_name(name: &str) -> Option<&'static str> {
    let is_fit = |c: char| c.is_alphanumeric() || "-_. ".contains(c);
    let fits = !name.trim().is_empty() && name.chars().count() <= MAX_NAME && name.chars().all(is_fit);
    (!fits).then_some("letters, digits, blanks and - _ . up to 64 of them")
}

/// Where a face's table stands.
fn value_span(root: &Table, face: &str) -> std::ops::Range<usize> {
    let table = root.get("face").and_then(|faces| faces.get_ref().as_table()?.get(face));
    table.map_or(0..0, toml::Spanned::span)
}
