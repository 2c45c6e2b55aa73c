//! A rig in the making: from what lies on the bench to a rig file that is found sound, its pins chosen, its resistors
//! worked out, and every other key in it as a comment with its default.
//!
//! What is written is read again before it is given away: nothing leaves here that `rig check` would find fault with.

pub mod choice;
pub mod kinds;
mod text;

use std::collections::BTreeMap;
use std::ops::RangeInclusive;

use choice::{Pins, TooFewPins};
use kinds::{Kind, Size, Way};

use crate::glyph::{Common, Style};
use crate::part::{Part, rgb_panel};
use crate::plan::budget::{self, Excess};
use crate::plan::{Mount, Reading, Rig, unfit_name};
use crate::rig::{Bus, Controller, Finding, Pin, Severity};
use crate::units::{E12, counted, values};

/// What is asked for.
#[derive(Debug, Clone, PartialEq)]
pub struct Wish {
    /// The kind of display.
    pub kind: &'static Kind,
    /// Its size; the usual one where that is not said.
    pub size: Option<Size>,
    /// Which side of the lights is joined, where the person knows it and the part drives both.
    pub common: Option<Common>,
    /// The name of the face; the usual one of its kind where that is not said.
    pub name: Option<String>,
    /// Pins that are decided, by role.
    pub pins: BTreeMap<String, Pin>,
}

/// Why there is no such rig.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum DraftError {
    #[error("there is no controller '{found}'")]
    UnknownController { found: String },
    #[error("{kind} has {} at most", most.words())]
    Size { kind: &'static str, most: Size },
    #[error("{kind} is counted in {}", if *is_digits { "digits" } else { "dots" })]
    OtherSize { kind: &'static str, is_digits: bool },
    #[error("{0}")]
    Pins(#[from] TooFewPins),
    #[error("{kind} has no line '{role}'; its lines are {}", lines.join(", "))]
    UnknownRole { kind: &'static str, role: String, lines: Vec<String> },
    #[error("no rig of {kind} on the {controller} is sound: {reason}")]
    Unsound { kind: &'static str, controller: String, reason: String },
    #[error("the rig is not sound as it is: {reason}")]
    Broken { reason: String },
    #[error("{kind} has its {}s joined: its part drives no other", drives.name())]
    Common { kind: &'static str, drives: Common },
    #[error("a face cannot be called {found:?}: a name is {allowed}")]
    Name { found: String, allowed: &'static str },
    #[error("the rig has a face '{name}' already")]
    NameTaken { name: String },
    #[error("the bus has {} left for such parts, and {kind} takes {needs}", counted(*has, "address", "addresses"))]
    NoAddress { kind: &'static str, needs: usize, has: usize },
    #[error("the faces of this file are not written as tables with headings, such as [face.gauge]")]
    NoHeadings,
}

impl Size {
    /// In words: `4 digits`, `32x8 dots`.
    #[must_use]
    pub fn words(&self) -> String {
        match self {
            Self::Digits(1) => "1 digit".to_owned(),
            Self::Digits(digits) => format!("{digits} digits"),
            Self::Dots(width, height) => format!("{width}x{height} dots"),
        }
    }
}

/// Something to try: which side of the lights is joined, what switches the digits, and a resistor.
#[derive(Debug, Clone, Copy)]
struct Trial {
    common: Common,
    switch: Option<&'static str>,
    /// 0 where it takes none.
    ohms: u32,
    /// Whether a level converter stands before the part.
    converter: bool,
}

/// The least and the largest resistor that is tried, in ohms.
const TRIED: RangeInclusive<u32> = 150..=18_000;

/// The resistors that are tried, the brightest first.
fn resistors() -> impl Iterator<Item = u32> {
    values(&E12, 2..5).map(|ohms| ohms.0 as u32).filter(|ohms| TRIED.contains(ohms))
}

/// Where a face goes: its name, its pins by role, and the addresses of its parts.
struct Site {
    name: String,
    pins: BTreeMap<String, Pin>,
    addresses: Vec<u8>,
}

/// Writes a rig with one face; the controller by its part number, or none where that is open.
///
/// # Errors
/// Why there is none: pins that the controller has not, or limits that nothing keeps.
pub fn rig(wish: &Wish, controller: Option<&str>) -> Result<String, DraftError> {
    let size = checked(wish)?;
    let part = controller;
    let Some(controller) = Controller::called_by(part) else {
        return Err(DraftError::UnknownController { found: part.unwrap_or_default().to_owned() });
    };
    let site = Site {
        name: wish.name.clone().unwrap_or_else(|| wish.kind.face.to_owned()),
        pins: assigned(wish, size, Pins::of(&controller, &decided(wish, &controller)))?,
        addresses: addresses(wish.kind, size, &[])?,
    };
    let face = |trial: &Trial| text::face(wish.kind, size, &site, trial);
    let head = text::controller(part, None);
    let (face, Reading { rig, mut findings }) = first_sound(wish, &controller, &head, &[], face)?;
    let mut source = format!("{head}{face}");
    // What takes more than any supply is sure to give must say what its supply gives.
    if let Some(Excess::SupplyUnsaid { current, .. }) = rig.as_ref().and_then(budget::of_supply) {
        source = format!("{}{face}", text::controller(part, Some(budget::supply_for(current))));
        findings = Rig::read(&source).findings;
    }
    Ok(text::rig(&source, &findings))
}

/// Writes one face more below a rig, which stays as it is to the last byte: on a bus that is there where the part allows it,
/// else on pins that are free.
///
/// # Errors
/// Why there is none; besides what [`rig`] may say, that the rig itself is not sound.
pub fn added(wish: &Wish, source: &str) -> Result<String, DraftError> {
    let size = checked(wish)?;
    let there = Rig::read(source);
    let Some(rig) = &there.rig else {
        let error = there.findings.iter().find(|finding| finding.severity == Severity::Error);
        return Err(DraftError::Broken {
            reason: error.map_or_else(String::new, |error| error.trouble.to_string()),
        });
    };
    let mut wish = wish.clone();
    let (_, methods) = wish.kind.way.shares();
    let host = rig.faces.iter().find(|mount| methods.contains(&mount.method));
    let (shared, taken) = (shared(&wish, host), addresses_on(host, rig));
    let is_decided = shared.keys().any(|role| wish.pins.contains_key(role));
    let mut used: Vec<_> =
        rig.faces.iter().flat_map(|mount| &mount.lines).map(|line| line.known.clone()).collect();
    used.extend(decided(&wish, &rig.controller));
    if !is_decided {
        wish.pins.extend(shared);
    }
    let site = Site {
        name: face_name(&wish, rig)?,
        pins: assigned(&wish, size, Pins::of(&rig.controller, &used))?,
        addresses: addresses(wish.kind, size, if is_decided { &[] } else { &taken })?,
    };
    let gap = if source.ends_with('\n') { "\n" } else { "\n\n" };
    let head = format!("{source}{gap}");
    // Where the faces are values in braces, a heading cannot add to them.
    if format!("{head}[face.{}]", text::heading(&site.name)).parse::<toml::Table>().is_err() {
        return Err(DraftError::NoHeadings);
    }
    let face = |trial: &Trial| text::face(wish.kind, size, &site, trial);
    let (face, reading) = first_sound(&wish, &rig.controller, &head, &there.findings, face)?;
    Ok(format!("{head}{}", text::commented(&face, &reading.findings)))
}

/// The first face below this head that is found sound, and the reading of the whole. What was said of the rig before is
/// not held against it, nor what the supply gives: any face of its kind would take it.
fn first_sound(
    wish: &Wish,
    controller: &Controller,
    head: &str,
    before: &[Finding],
    face: impl Fn(&Trial) -> String,
) -> Result<(String, Reading), DraftError> {
    let said: Vec<_> = before.iter().map(|finding| finding.trouble.to_string()).collect();
    let mut worst: Option<Finding> = None;
    for trial in trials(wish) {
        let face = face(&trial);
        let reading = Rig::read(&format!("{head}{face}"));
        // The gravest is told: it is what no trial gets rid of.
        let supply = reading.rig.as_ref().and_then(budget::of_supply).map(|excess| excess.to_string());
        let is_against = |finding: &&Finding| {
            let words = finding.trouble.to_string();
            finding.severity != Severity::Note && !said.contains(&words) && supply.as_ref() != Some(&words)
        };
        let gravest = reading.findings.iter().filter(is_against).min_by_key(|finding| finding.severity);
        let Some(found) = gravest else { return Ok((face, reading)) };
        if worst.as_ref().is_none_or(|worst| found.severity < worst.severity) {
            worst = Some(found.clone());
        }
    }
    let reason = worst.map_or_else(String::new, |worst| worst.trouble.to_string());
    Err(DraftError::Unsound { kind: wish.kind.name, controller: controller.called().to_owned(), reason })
}

/// The pins that are decided, by the controller's own names.
fn decided(wish: &Wish, controller: &Controller) -> Vec<Pin> {
    wish.pins.values().map(|pin| controller.pin(pin).unwrap_or_else(|_| pin.clone())).collect()
}

/// The name of a further face: the usual one of its kind, with a number where that is taken.
fn face_name(wish: &Wish, rig: &Rig) -> Result<String, DraftError> {
    if let Some(name) = &wish.name {
        let is_free = rig.face(name).is_none();
        return if is_free { Ok(name.clone()) } else { Err(DraftError::NameTaken { name: name.clone() }) };
    }
    let usual = wish.kind.face;
    let further = (2..).map(|number| format!("{usual}{number}"));
    let mut names = std::iter::once(usual.to_owned()).chain(further);
    // There are fewer faces than names.
    Ok(names.find(|name| rig.face(name).is_none()).unwrap_or_default())
}

/// The lines of a face that is there which a further part may share, by role.
fn shared(wish: &Wish, host: Option<&Mount>) -> BTreeMap<String, Pin> {
    let (roles, _) = wish.kind.way.shares();
    let lines = host.iter().flat_map(|mount| &mount.lines);
    let of_bus = lines.filter(|line| roles.contains(&&*line.role));
    of_bus.map(|line| (line.role.clone(), line.pin.clone())).collect()
}

/// The addresses that are taken on the bus that a further part may share.
fn addresses_on(host: Option<&Mount>, rig: &Rig) -> Vec<u8> {
    let Some(host) = host else { return Vec::new() };
    let neighbours = rig.faces.iter().filter(|mount| mount.device.bus == host.device.bus);
    neighbours.flat_map(|mount| mount.drive.addresses()).copied().collect()
}

/// Free addresses for the parts of a kind; none where its parts have none.
fn addresses(kind: &Kind, size: Size, taken: &[u8]) -> Result<Vec<u8>, DraftError> {
    let Some(allowed) = kind.way.addresses() else { return Ok(Vec::new()) };
    let needs = kind.chips(size);
    let free: Vec<_> = allowed.filter(|address| !taken.contains(address)).collect();
    let has = free.len();
    if has < needs {
        return Err(DraftError::NoAddress { kind: kind.name, needs, has });
    }
    Ok(free.into_iter().take(needs).collect())
}

/// The size, where the kind can have it, and the name is fit for one.
fn checked(wish: &Wish) -> Result<Size, DraftError> {
    if let Some((name, allowed)) = wish.name.as_ref().and_then(|name| Some((name, unfit_name(name)?))) {
        return Err(DraftError::Name { found: name.clone(), allowed });
    }
    if let (Some(wanted), Some(drives)) = (wish.common, wish.kind.common)
        && wanted != drives
    {
        return Err(DraftError::Common { kind: wish.kind.name, drives });
    }
    let (usual, most) = wish.kind.size;
    let name = wish.kind.name;
    let size = wish.size.unwrap_or(usual);
    let is_digits = matches!(most, Size::Digits(_));
    if matches!(size, Size::Digits(_)) != is_digits {
        return Err(DraftError::OtherSize { kind: name, is_digits });
    }
    if wish.kind.can_be(size) { Ok(size) } else { Err(DraftError::Size { kind: name, most }) }
}

/// The roles of the lines that a kind needs, in the order in which their pins are chosen.
#[must_use]
pub fn roles(kind: &Kind, size: Size) -> Vec<String> {
    let owned = |names: &[&str]| names.iter().map(|name| (*name).to_owned()).collect::<Vec<_>>();
    let numbered =
        |what: &str, count: usize| (0..count).map(|number| format!("{what}{number}")).collect::<Vec<_>>();
    match (kind.way, size) {
        (Way::Static, _) => owned(Style::Seven.segment_names()),
        (Way::Scanned, Size::Digits(digits)) => {
            [owned(Style::Seven.segment_names()), numbered("digit", digits)].concat()
        }
        (Way::Scanned, Size::Dots(width, height)) => {
            [numbered("column", width), numbered("row", height)].concat()
        }
        (Way::Latched, size) => {
            let latches = if let Size::Digits(digits) = size { digits } else { 1 };
            [numbered("d", 8), numbered("latch", latches)].concat()
        }
        (Way::Shifted, _) => owned(&["clock", "data", "latch"]),
        (Way::Max7219, _) => owned(&["clock", "data", "select"]),
        (Way::Tm1638, _) => owned(&["clock", "data", "strobe"]),
        (Way::Tm1637 | Way::Expander | Way::Ht16k33, _) => owned(&["clock", "data"]),
        (Way::RgbPanel, size) => {
            let grid = if let Size::Dots(width, height) = size { (width, height) } else { (0, 0) };
            owned(&rgb_panel::lines_for(grid))
        }
    }
}

/// A pin for each role.
fn assigned(wish: &Wish, size: Size, mut pins: Pins<'_>) -> Result<BTreeMap<String, Pin>, DraftError> {
    let roles = roles(wish.kind, size);
    if let Some(role) = wish.pins.keys().find(|role| !roles.contains(role)) {
        return Err(DraftError::UnknownRole { kind: wish.kind.name, role: role.clone(), lines: roles });
    }
    let mut assigned = wish.pins.clone();
    let open: Vec<_> = roles.iter().filter(|role| !wish.pins.contains_key(*role)).cloned().collect();
    pins.suffice_for(open.len())?;
    let chosen = match wish.kind.way {
        // A bus is taken whole, or not at all.
        Way::Shifted | Way::Max7219 | Way::Tm1638 if open.len() == roles.len() => pins.bus(Bus::Spi)?,
        Way::Expander | Way::Ht16k33 if open.len() == roles.len() => pins.bus(Bus::I2c)?,
        // The lines that change together come first, and on one port where they can.
        _ => {
            let together = open.len().min(8);
            let mut chosen = pins.lines(together)?;
            chosen.extend(pins.lines(open.len() - together)?);
            chosen
        }
    };
    assigned.extend(open.into_iter().zip(chosen));
    Ok(assigned)
}

/// What is tried, in this order.
fn trials(wish: &Wish) -> Vec<Trial> {
    let kind = wish.kind;
    let commons = match (kind.common, wish.common) {
        (Some(common), _) => return of_part(common),
        (None, _) if kind.way == Way::Max7219 => return of_part(Common::Cathode),
        (None, Some(common)) => vec![common],
        (None, None) => vec![Common::Cathode, Common::Anode],
    };
    let switches: &[Option<&str>] = match kind.way {
        Way::Scanned => &[Some("npn"), Some("pnp"), None],
        _ => &[None],
    };
    let mut trials = Vec::new();
    for common in commons {
        for switch in switches {
            // Parts between may want higher levels than the controller gives.
            let has_part = matches!(kind.way, Way::Latched | Way::Shifted | Way::Expander);
            let converters: &[bool] = if has_part { &[false, true] } else { &[false] };
            for converter in converters {
                trials.extend(resistors().map(|ohms| Trial {
                    common,
                    switch: *switch,
                    ohms,
                    converter: *converter,
                }));
            }
        }
    }
    trials
}

/// A driver part limits its currents itself; some want higher levels than the controller gives.
fn of_part(common: Common) -> Vec<Trial> {
    [false, true].map(|converter| Trial { common, switch: None, ohms: 0, converter }).to_vec()
}
