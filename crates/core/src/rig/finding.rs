//! What there is to say about a rig file, each with its place.

use std::cell::RefCell;
use std::ops::Range;

use super::controller::Reserved;
use crate::drive::METHODS;
use crate::glyph::Common;
use crate::glyph::order::BitOrderError;
use crate::scan::budget::Excess;
use crate::units::{Milliamps, Ohms, Volts};

/// How grave a finding is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// The rig cannot be used.
    Error,
    /// The rig can be used, but the hardware may not behave.
    Warning,
    /// Something that was taken for granted.
    Note,
}

impl Severity {
    /// The word for it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Error => "error",
            Self::Warning => "warning",
            Self::Note => "note",
        }
    }
}

/// One thing to say about a place in a rig file.
#[derive(Debug, Clone, PartialEq)]
pub struct Finding {
    /// How grave it is.
    pub severity: Severity,
    /// The place, in bytes from the start of the file.
    pub span: Range<usize>,
    /// Another place that has to do with it, and what stands there.
    pub also: Option<(Range<usize>, String)>,
    /// What it is.
    pub problem: Problem,
}

/// Everything that can be said about a rig file. The text is the reason; [`Problem::fix`] is the way out.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum Problem {
    #[error("this is not TOML: {message}")]
    Syntax { message: String },
    #[error("unknown key '{found}'")]
    UnknownKey { found: String, allowed: Vec<&'static str> },
    #[error("the key '{key}' is missing")]
    MissingKey { key: &'static str },
    #[error("found {found}; allowed is {allowed}")]
    WrongValue { found: String, allowed: String },
    #[error("unknown {what} '{found}'")]
    UnknownName { what: &'static str, found: String, allowed: Vec<String> },
    #[error("the rig has no face")]
    NoFaces,
    #[error("pin {pin} is used twice: it is {first} and {second}")]
    PinTwice { pin: String, first: String, second: String },
    #[error("there are two of {name}")]
    NameTwice { name: String },
    #[error("node {node} is segment {segment} of a digit")]
    NodeTaken { node: String, segment: &'static str },
    #[error("node {node} is given to two lights")]
    NodeTwice { node: String },
    #[error("the controller has no pin {pin}; its pins are {allowed}")]
    NoSuchPin { pin: String, allowed: String },
    #[error("pin {pin} {}", reserved.reason())]
    ReservedPin { pin: String, reserved: Reserved },
    #[error("this method drives digits, not dots")]
    NoDots,
    #[error("the method {method} reads no keys")]
    NoKeys { method: &'static str },
    #[error("{light} has no wire")]
    NoWire { light: String },
    #[error("{line} is wired and lights nothing")]
    NoLight { line: String },
    #[error("{found} are wired; the face has {needed}")]
    WrongCount { found: String, needed: String },
    #[error("the package {package} has {function}, which this face has not")]
    PackageOfOther { package: String, function: String },
    #[error("the package {package} has no pin {pin}")]
    NoPackagePin { package: String, pin: String },
    #[error(
        "the digits stand in mirrored order: by its package the leftmost is at {first}, here it is at {written}"
    )]
    MirroredDigits { first: String, written: String },
    #[error("digit {digit} is at {by_package} by its package and at {written} here")]
    OtherThanPackage { digit: usize, by_package: String, written: String },
    #[error(
        "common {}, digits straight at the pins: a digit is selected by a {} level; \"{written}\" would be right for \
         common {}",
        common.name(), level_word(!common.lit_level()), opposite(*common).name()
    )]
    SelectLevel { common: Common, written: &'static str },
    #[error("{part}: {pin} is {tied}: {effect}")]
    ControlPin { part: String, pin: &'static str, tied: String, effect: &'static str },
    #[error("{part} at address {found:#04x}; it answers at {allowed}")]
    Address { part: &'static str, found: i64, allowed: &'static str },
    #[error("address {address:#04x} is given to two parts")]
    AddressTwice { address: u8 },
    #[error("the {part} gives {source_most} at a high level: lights with a common cathode stay dark")]
    WeakSource { part: String, source_most: Milliamps },
    #[error("RSET {found} gives a segment current of {given}; {wanted} is wanted")]
    Rset { found: Ohms, given: Milliamps, wanted: Milliamps, nearest: Ohms },
    #[error("{0}")]
    Budget(Excess),
    #[error("{0}")]
    BitOrder(BitOrderError),
    #[error("the {method} drives digits with common {}", wants.name())]
    WrongCommon { method: &'static str, wants: Common },
    #[error("the bus is at {found}; the {part} needs {least} for a sure high at this supply")]
    LowLevel { part: &'static str, found: Volts, least: Volts },
    #[error("the supply is {found}; the {part} needs {least} to {most}")]
    Supply { part: &'static str, found: Volts, least: Volts, most: Volts },
    #[error(
        "a max7219 that scans {lines} of 8 digit lines gives each a larger share of the current and may overheat"
    )]
    FewDigits { lines: usize },
    #[error("assumed {key} = {value}")]
    Assumed { key: String, value: String },
}

impl Problem {
    /// A name that is none of the allowed ones.
    pub fn unknown_name(what: &'static str, found: &str, allowed: &[&str]) -> Self {
        let allowed = allowed.iter().map(|name| (*name).to_owned()).collect();
        Self::UnknownName { what, found: found.to_owned(), allowed }
    }

    /// The next step, where there is one to name.
    #[must_use]
    pub fn fix(&self) -> Option<String> {
        Some(match self {
            Self::UnknownKey { found, allowed } => suggestion(found, allowed.iter().copied(), "keys here"),
            Self::UnknownName { found, allowed, .. } => {
                suggestion(found, allowed.iter().map(String::as_str), "allowed")
            }
            Self::MissingKey { key: "common" } => {
                "write common = \"cathode\" or common = \"anode\": the wrong one lights every segment that should \
                 be dark"
                    .into()
            }
            Self::MissingKey { key: "kind" } => "write the kind of display, such as kind = \"seven-segment\"".into(),
            Self::MissingKey { key: "drive" } => "write a table [face.NAME.drive] with a method".into(),
            Self::MissingKey { key: "method" } => {
                let methods = METHODS.iter().map(|method| method.name()).collect::<Vec<_>>().join(", ");
                format!("write method = \"...\"; the methods: {methods}")
            }
            Self::MissingKey { key } => format!("write '{key} = ...' in this table"),
            Self::NoFaces => "write a table [face.NAME] with kind, digits and a [face.NAME.drive]".into(),
            Self::PinTwice { .. } => "give each line a pin of its own".into(),
            Self::NameTwice { .. } => "give each a place and a name of its own".into(),
            Self::NodeTaken { .. } => {
                "a colon or lamp may take the dp of a digit, which then has no point, or a digit line that is free".into()
            }
            Self::NodeTwice { .. } => "give each light a node of its own".into(),
            Self::NoSuchPin { .. } => "write the pin as its data sheet or its board names it".into(),
            Self::ReservedPin { reserved, .. } if reserved.forbids() => "choose another pin".into(),
            Self::ReservedPin { reserved: Reserved::Serial, .. } => {
                "choose another pin, or take the wire off while a program is uploaded".into()
            }
            Self::ReservedPin { .. } => "choose another pin, or make sure that the display leaves its level alone at start-up".into(),
            Self::NoDots => "write method = \"scanned\" for bare dots, or \"shifted\" or \"latched\" with rows and columns".into(),
            Self::NoKeys { .. } => "put the keys on a tm1637, tm1638 or ht16k33, or take them out".into(),
            Self::NoWire { light } => format!("wire {light}, or the segment will be missing in every character"),
            Self::NoLight { .. } => "take the wire out, or give the face what it is for".into(),
            Self::WrongCount { .. } => "write one for each, from left to right, or from top to bottom".into(),
            Self::PackageOfOther { .. } => "choose the package of this display, or list its pins yourself: package = [\"e\", \"d\", ...]".into(),
            Self::NoPackagePin { .. } => "pins count from 1, from the lower left around to the upper left".into(),
            Self::MirroredDigits { .. } => "turn the list round: digits are written from left to right as seen".into(),
            Self::OtherThanPackage { .. } => "one of the two is wrong: follow the wire and mend it".into(),
            Self::SelectLevel { common, .. } => format!(
                "write common = \"{}\" if that is what you have, or digits_active = \"{}\", or name the switch between: \
                 digit_switch = \"npn\"",
                opposite(*common).name(),
                level_word(!common.lit_level())
            ),
            Self::ControlPin { pin: "OE", .. } => "tie OE to ground: output_enable = \"low\", or drive it from a pin".into(),
            Self::ControlPin { pin: "SRCLR", .. } => "tie SRCLR to the supply: clear = \"high\"".into(),
            Self::ControlPin { .. } => "drive LE from a pin of its own: latch_enable = \"PIN\"; for a plain buffer tie it to \"high\"".into(),
            Self::Address { .. } => "set the straps of the part and write the address that they make".into(),
            Self::AddressTwice { .. } => "strap each part to an address of its own".into(),
            Self::WeakSource { .. } => {
                "use a display with common anode, which the pins only have to pull low, or put a buffer between".into()
            }
            Self::Rset { nearest, .. } => format!("take {nearest} for RSET"),
            Self::Budget(excess) => excess.fix(),
            Self::WrongCommon { wants, .. } => {
                format!("use digits with common {0} and write common = \"{0}\"", wants.name())
            }
            Self::LowLevel { .. } => {
                "put a level converter between and write bus_volts = 5.0; without one it may work and glitch".into()
            }
            Self::Supply { least, most, .. } => format!("feed the display from {least} to {most}"),
            Self::FewDigits { .. } => "raise RSET so that the segment current is lower, or scan 3 digits".into(),
            Self::Syntax { .. } | Self::WrongValue { .. } | Self::BitOrder(_) | Self::Assumed { .. } => return None,
        })
    }
}

/// A level in words.
const fn level_word(high: bool) -> &'static str {
    if high { "high" } else { "low" }
}

const fn opposite(common: Common) -> Common {
    match common {
        Common::Cathode => Common::Anode,
        Common::Anode => Common::Cathode,
    }
}

fn suggestion<'a>(found: &str, allowed: impl Iterator<Item = &'a str> + Clone, label: &str) -> String {
    let all = allowed.clone().collect::<Vec<_>>().join(", ");
    match nearest(found, allowed) {
        Some(name) => format!("did you mean '{name}'? {label}: {all}"),
        None => format!("{label}: {all}"),
    }
}

/// The name that was most likely meant, if one is near enough.
pub fn nearest<'a>(found: &str, allowed: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    const NEAR: f64 = 0.75;
    let alike = |name: &&str| strsim::jaro_winkler(&found.to_lowercase(), name);
    let best = allowed.max_by(|a, b| alike(a).total_cmp(&alike(b)))?;
    (alike(&best) >= NEAR).then_some(best)
}

/// Findings as they come in. Shared by everyone who reads a part of the file, so it is added to in place.
#[derive(Debug, Default)]
pub struct Findings(RefCell<Vec<Finding>>);

impl Findings {
    /// Adds an error.
    pub fn error(&self, span: Range<usize>, problem: Problem) {
        self.add(Finding { severity: Severity::Error, span, also: None, problem });
    }

    /// Adds an error that leaves nothing to go on with.
    pub(super) fn stop<T>(&self, span: Range<usize>, problem: Problem) -> Option<T> {
        self.error(span, problem);
        None
    }

    /// Adds a note, once.
    pub fn note(&self, span: Range<usize>, problem: Problem) {
        if self.0.borrow().iter().any(|known| known.problem == problem) {
            return;
        }
        self.add(Finding { severity: Severity::Note, span, also: None, problem });
    }

    /// Adds a finding.
    pub fn add(&self, finding: Finding) {
        self.0.borrow_mut().push(finding);
    }

    /// Whether any is an error.
    #[must_use]
    pub fn has_errors(&self) -> bool {
        self.0.borrow().iter().any(|finding| finding.severity == Severity::Error)
    }

    fn sort_key(finding: &Finding) -> (usize, Severity) {
        (finding.span.start, finding.severity)
    }

    /// All findings by place, the gravest first where they share one.
    #[must_use]
    pub fn in_order(self) -> Vec<Finding> {
        let mut findings = self.0.into_inner();
        findings.sort_by_key(Self::sort_key);
        findings
    }
}
