//! Drafts of rigs: from a kind of display to a rig file that is sound, its pins chosen, its resistors
//! worked out, and every other key in it as a comment with its default.
//!
//! Each draft is read again before it is returned: `rig check` finds no error in it.

pub mod choice;
pub mod kinds;
mod text;

use std::collections::BTreeMap;

use choice::{Pins, TooFewPins};
use kinds::{Kind, Size, Way};

use crate::glyph::{Common, Style};
use crate::part::{Part, rgb_panel};
use crate::plan::budget::{self, Excess, Goal};
use crate::plan::{Mount, Reading, Rig, unfit_name};
use crate::rig::{Bus, Controller, Document, Finding, Pin, Problem, Severity, value};
use crate::units::{Milliamps, Ohms, Volts, counted};

/// The request.
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
    /// The supply of the display, where it is decided.
    pub supply: Option<Volts>,
}

impl Wish {
    /// A display of a kind, everything else left open.
    #[must_use]
    pub const fn of(kind: &'static Kind) -> Self {
        Self { kind, size: None, common: None, name: None, pins: BTreeMap::new(), supply: None }
    }
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
    #[error("the rig has a supply already, which all its faces share")]
    Supply,
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

/// Something to try: what feeds the display, which side of the lights is joined, what switches the digits.
#[derive(Debug, Clone, Copy)]
struct Trial {
    /// The supply; `None` for the usual one.
    supply: Option<Volts>,
    common: Common,
    switch: Option<&'static str>,
    /// The resistor of a bare display; `None` where the part limits the current.
    ohms: Option<Ohms>,
    /// True if a level converter stands before the part.
    converter: bool,
}

/// A trial as it was built and read.
struct Tried {
    trial: Trial,
    reading: Reading,
    /// The findings against it.
    against: Vec<Finding>,
    /// The average current of a light of a bare display.
    light: Milliamps,
    /// True if the current depends little on the differences between lights and switches.
    is_steady: bool,
}

/// A resistor to begin with, before the one that suits is known.
const PROVISIONAL: Ohms = Ohms(1000.0);

/// The supply of displays where nothing else is said.
const USUAL_SUPPLY: Volts = Volts(5.0);

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
    let sections = |trial: &Trial, amps: Option<f64>| {
        let mut sections = vec![text::controller(part, trial.supply, amps)];
        sections.extend(text::face(wish.kind, size, &site, trial));
        sections
    };
    let built = |sections: &[text::Section]| {
        let mut rig = Document::default();
        text::add_to(&mut rig, sections);
        rig
    };
    let supplies = match wish.supply {
        Some(volts) => vec![Some(volts)],
        // The usual supply, and that of the controller where it is lower.
        None if controller.logic_volts < USUAL_SUPPLY => vec![None, Some(controller.logic_volts)],
        None => vec![None],
    };
    let build = |trial: &Trial| built(&sections(trial, None));
    let Tried { mut trial, reading: Reading { rig, mut findings }, .. } =
        best(wish, &controller, &trials(wish, &supplies), &[], build)?;
    let mut amps = None;
    // A display that needs more current than every supply gives must state its supply.
    if let Some((volts, Excess::SupplyUnsaid { current, .. })) =
        rig.as_ref().and_then(|rig| Some((rig.controller.supply_volts, budget::of_supply(rig)?)))
    {
        (trial.supply, amps) = (Some(volts), Some(budget::supply_for(current)));
        findings = Rig::of(&built(&sections(&trial, amps))).findings;
    }
    Ok(text::rig(&sections(&trial, amps), &findings))
}

/// Adds a face below a rig, which stays unchanged to the last byte: on an existing bus if the part allows it,
/// else on pins that are free.
///
/// # Errors
/// Why there is none; besides what [`rig`] may say, that the rig itself is not sound.
pub fn added(wish: &Wish, source: &str) -> Result<String, DraftError> {
    let size = checked(wish)?;
    if wish.supply.is_some() {
        return Err(DraftError::Supply);
    }
    let broken = |findings: &[Finding]| {
        let error = findings.iter().find(|finding| finding.severity == Severity::Error);
        DraftError::Broken { reason: error.map_or_else(String::new, |error| error.trouble.to_string()) }
    };
    let document = Document::read(source).map_err(|findings| broken(&findings))?;
    let there = Rig::of(&document);
    let Some(rig) = &there.rig else { return Err(broken(&there.findings)) };
    let mut wish = wish.clone();
    let (_, methods) = wish.kind.way.shares();
    let host = rig.faces.iter().find(|mount| methods.contains(&mount.method));
    let (shared, taken) = (shared(&wish, host), addresses_on(host, rig));
    let is_decided = shared.keys().any(|role| wish.pins.contains_key(role));
    let of_faces = rig.faces.iter().flat_map(|mount| &mount.lines);
    let of_buttons = rig.pin_buttons().iter().map(|button| &button.line);
    let mut used: Vec<_> = of_faces.chain(of_buttons).map(|line| line.known.clone()).collect();
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
    // Where the faces are values in braces, a heading cannot add to them.
    if Document::read(&format!("{source}{gap}[face.{}]", value::Key(&site.name))).is_err() {
        return Err(DraftError::NoHeadings);
    }
    let sections = |trial: &Trial| text::face(wish.kind, size, &site, trial);
    let build = |trial: &Trial| {
        let mut rig = document.clone();
        text::add_to(&mut rig, &sections(trial));
        rig
    };
    let tried = best(&wish, &rig.controller, &trials(&wish, &[None]), &there.findings, build)?;
    Ok(format!("{source}{gap}{}", text::commented(&sections(&tried.trial), &tried.reading.findings)))
}

/// The best trial, built and read: one with nothing against it. Not held against it are what was said of the
/// rig before, what the supply gives (any face of its kind would take it), and warnings of pins that the person has chosen.
///
/// # Errors
/// When something speaks against each: what is left where the least does.
fn best(
    wish: &Wish,
    controller: &Controller,
    trials: &[Trial],
    before: &[Finding],
    build: impl Fn(&Trial) -> Document,
) -> Result<Tried, DraftError> {
    let said = before.iter().map(|finding| finding.trouble.to_string());
    let said: Vec<_> = said.chain(warnings_of_pins(wish, controller)).collect();
    let mut tried: Vec<Tried> = Vec::new();
    for trial in trials {
        let ohms = trial.ohms.and_then(|_| brightest(&Rig::of(&build(trial))));
        let trial = Trial { ohms: ohms.or(trial.ohms), ..*trial };
        tried.push(read_trial(trial, Rig::of(&build(&trial)), &said));
    }
    let gravity = |tried: &Tried| {
        let errors = tried.against.iter().filter(|finding| finding.severity == Severity::Error).count();
        (errors, tried.against.len())
    };
    let least = tried.iter().map(gravity).min().unwrap_or_default();
    tried.retain(|tried| gravity(tried) == least);
    let gravest = tried.first().and_then(|tried| tried.against.iter().min_by_key(|finding| finding.severity));
    if let Some(gravest) = gravest {
        return Err(DraftError::Unsound {
            kind: wish.kind.name,
            controller: controller.called().to_owned(),
            reason: gravest.trouble.to_string(),
        });
    }
    brightest_of(tried).ok_or_else(|| DraftError::Broken { reason: String::new() })
}

/// The warnings about chosen pins that can be used but have another purpose as well.
fn warnings_of_pins(wish: &Wish, controller: &Controller) -> impl Iterator<Item = String> {
    decided(wish, controller).into_iter().filter_map(|pin| {
        let reserved = controller.reserved(&pin).filter(|reserved| !reserved.forbids())?;
        Some(Problem::ReservedPin { pin: pin.to_string(), reserved }.to_string())
    })
}

/// A trial as it reads.
fn read_trial(trial: Trial, reading: Reading, said: &[String]) -> Tried {
    /// With less across the resistor, lights whose voltage differs by a tenth of a volt differ visibly in brightness.
    const STEADY: Volts = Volts(0.8);
    let supply = reading.rig.as_ref().and_then(budget::of_supply).map(|excess| excess.to_string());
    let is_against = |finding: &&Finding| {
        let words = finding.trouble.to_string();
        finding.severity != Severity::Note && !said.contains(&words) && supply.as_ref() != Some(&words)
    };
    let against = reading.findings.iter().filter(is_against).cloned().collect();
    let budget = reading.rig.as_ref().and_then(|rig| budget::of(rig.faces.last()?, &rig.controller));
    Tried {
        light: budget
            .as_ref()
            .and_then(|budget| budget.flow.as_ref())
            .map_or(Milliamps(0.0), |flow| flow.average),
        is_steady: budget.is_some_and(|budget| budget.across >= STEADY),
        trial,
        reading,
        against,
    }
}

/// The resistor with which the last face of a rig is the brightest within every limit.
fn brightest(reading: &Reading) -> Option<Ohms> {
    let rig = reading.rig.as_ref()?;
    let advice = budget::advise(rig, rig.faces.len().checked_sub(1)?);
    let brightest = advice.into_iter().find(|advice| advice.goal == Goal::Brightest)?;
    brightest.choice.map(|choice| choice.e12.0)
}

/// The first trial with nearly as much light as any: steady ones before others. Which side of the lights is joined is not
/// decided by brightness.
fn brightest_of(mut tried: Vec<Tried>) -> Option<Tried> {
    /// The least share of the light that still looks as bright.
    const ALIKE: f64 = 0.75;
    let common = tried.first()?.trial.common;
    tried.retain(|tried| tried.trial.common == common);
    if tried.iter().any(|tried| tried.is_steady) {
        tried.retain(|tried| tried.is_steady);
    }
    let most = tried.iter().map(|tried| tried.light.0).fold(0.0, f64::max);
    tried.into_iter().find(|tried| tried.light.0 >= ALIKE * most)
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

/// The choices, in the order in which they are tried.
fn trials(wish: &Wish, supplies: &[Option<Volts>]) -> Vec<Trial> {
    let kind = wish.kind;
    let is_bare = kind.leaves_common_open();
    let commons = match (kind.common, wish.common) {
        (Some(common), _) => vec![common],
        (None, _) if !is_bare => vec![Common::Cathode],
        (None, Some(common)) => vec![common],
        (None, None) => vec![Common::Cathode, Common::Anode],
    };
    let switches: &[Option<&str>] = match kind.way {
        Way::Scanned => &[Some("npn"), Some("pnp"), None],
        _ => &[None],
    };
    // A part may need higher levels than the controller gives.
    let has_part = !matches!(kind.way, Way::Static | Way::Scanned);
    let converters: &[bool] = if has_part { &[false, true] } else { &[false] };
    let ohms = is_bare.then_some(PROVISIONAL);
    let mut trials = Vec::new();
    for common in commons {
        for supply in supplies {
            for switch in switches {
                let trial = |converter: &bool| Trial {
                    supply: *supply,
                    common,
                    switch: *switch,
                    ohms,
                    converter: *converter,
                };
                trials.extend(converters.iter().map(trial));
            }
        }
    }
    trials
}
