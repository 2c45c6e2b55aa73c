//! Findings about a rig file, each with its place.

use std::cell::{Cell, RefCell};
use std::collections::BTreeSet;
use std::ops::Range;
use std::sync::Arc;

use super::pin::Reserved;
use crate::face::Channels;
use crate::glyph::order::BitOrderError;
use crate::units::counted;

/// How grave a finding is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Severity {
    /// The hardware cannot work as it is described.
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
#[derive(Debug, Clone)]
pub struct Finding {
    /// How grave it is.
    pub severity: Severity,
    /// The place, in bytes from the start of the file.
    pub span: Range<usize>,
    /// Another place that has to do with it, and what stands there.
    pub also: Option<(Range<usize>, String)>,
    /// Its kind.
    pub trouble: Arc<dyn Trouble>,
}

/// Something that can be said about a rig file: its text is the reason. Each module has its own.
pub trait Trouble: std::error::Error + Send + Sync {
    /// The next step, where there is one to name.
    fn fix(&self) -> Option<String> {
        None
    }

    /// The missing key and its default, if the finding is only about that.
    fn assumed(&self) -> Option<(&str, &str)> {
        None
    }
}

/// Errors that any rig file can have.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum Problem {
    #[error("this is not TOML: {message}")]
    Syntax { message: String },
    #[error("from here on {more} more places are not TOML: is this a rig file?")]
    HardlyToml { more: usize },
    #[error("there are {found} {what}; {most} is the most")]
    TooMany { what: &'static str, found: usize, most: usize },
    #[error("unknown key '{found}'")]
    UnknownKey { found: String, allowed: Vec<&'static str> },
    #[error("the key '{key}' is missing")]
    MissingKey { key: &'static str },
    #[error("found {found}; expected {allowed}")]
    WrongValue { found: String, allowed: String },
    #[error("unknown {what} '{found}'")]
    UnknownName { what: &'static str, found: String, allowed: Vec<String> },
    #[error("the key 'method' is missing")]
    NoMethod { methods: Vec<&'static str> },
    #[error("the rig has no face")]
    NoFaces,
    #[error("pin {pin} is used twice: it is {first} and {second}")]
    PinTwice { pin: String, first: String, second: String },
    #[error("{name} is defined twice")]
    NameTwice { name: String },
    #[error("node {node} is segment {segment} of a digit")]
    NodeTaken { node: String, segment: &'static str },
    #[error("node {node} is used by two lights")]
    NodeTwice { node: String },
    #[error("the controller has no pin {pin}; its pins are {allowed}")]
    NoSuchPin { pin: String, allowed: String },
    #[error("pin {pin} {}", reserved.reason())]
    ReservedPin { pin: String, reserved: Reserved },
    #[error("{pins} cannot drive a high level: open drain")]
    OpenDrain { pins: String },
    #[error("{pin} has no {pull} of its own: while nobody presses its level is whatever comes along")]
    NoPull { pin: String, pull: &'static str },
    #[error(
        "{pin} is always pulled up inside, and a button to the high level shows only against a strong pull-down"
    )]
    AlwaysPulledUp { pin: String },
    #[error("this method drives digits, not dots")]
    NoDots,
    #[error("the method {method} drives {}", has.iter().map(|channels| channels.words()).collect::<Vec<_>>().join(", or "))]
    OtherColours { method: &'static str, has: &'static [Channels] },
    #[error("{light} has no wire")]
    NoWire { light: String },
    #[error("{line} is wired and lights nothing")]
    NoLight { line: String },
    #[error("{found} are wired; the face has {needed}")]
    WrongCount { found: String, needed: String },
    #[error("the package {package} has {function}, which this face does not have")]
    PackageOfOther { package: String, function: String },
    #[error("the package {package} {}", package_count(function, *found))]
    PackageCount { package: String, function: String, found: usize },
    #[error("the package {package} has no pin {pin}")]
    NoPackagePin { package: String, pin: String },
    #[error("address {address:#04x} is used by two parts")]
    AddressTwice { address: u8 },
    #[error("this chain has {parts} parts here, and a different number for another face")]
    ChainLength { parts: usize },
    #[error("part {part} of this chain is used by two faces")]
    ChainPartTwice { part: usize },
    #[error("{0}")]
    BitOrder(BitOrderError),
    #[error("assumed {key} = {value}")]
    Assumed { key: String, value: String },
}

impl Problem {
    /// A name that is none of the allowed ones.
    pub fn unknown_name(what: &'static str, found: &str, allowed: &[&str]) -> Self {
        let allowed = allowed.iter().map(|name| (*name).to_owned()).collect();
        Self::UnknownName { what, found: found.to_owned(), allowed }
    }
}

impl Trouble for Problem {
    fn assumed(&self) -> Option<(&str, &str)> {
        match self {
            Self::Assumed { key, value } => Some((key, value)),
            _ => None,
        }
    }

    fn fix(&self) -> Option<String> {
        Some(match self {
            Self::UnknownKey { found, allowed } => suggestion(found, allowed.iter().copied(), "keys here"),
            Self::UnknownName { allowed, .. } if allowed.is_empty() => "there is none here".to_owned(),
            Self::UnknownName { found, allowed, .. } => {
                suggestion(found, allowed.iter().map(String::as_str), "allowed")
            }
            Self::MissingKey { key: "common" } => {
                "write common = \"cathode\" or common = \"anode\": the wrong one lights every segment that should \
                 be dark"
                    .into()
            }
            Self::MissingKey { key: "kind" } => {
                "write the kind of display, such as kind = \"seven-segment\"".into()
            }
            Self::MissingKey { key: "drive" } => "write a table [face.NAME.drive] with a method".into(),
            Self::NoMethod { methods } => {
                format!("write method = \"...\"; the methods: {}", methods.join(", "))
            }
            Self::MissingKey { key } => format!("write '{key} = ...' in this table"),
            Self::NoFaces => "write a table [face.NAME] with kind, digits and a [face.NAME.drive]".into(),
            Self::PinTwice { .. } => "give each line a pin of its own".into(),
            Self::NameTwice { .. } => "give each a place and a name of its own".into(),
            Self::NodeTaken { .. } => {
                "a colon or lamp may take the dp of a digit, which then has no point, or a digit line that is free"
                    .into()
            }
            Self::NodeTwice { .. } => "give each light a node of its own".into(),
            Self::NoSuchPin { .. } => "write the pin as its data sheet or its board names it".into(),
            Self::ReservedPin { reserved, .. } if reserved.forbids() => "choose another pin".into(),
            Self::ReservedPin { reserved: Reserved::Serial, .. } => {
                "choose another pin, or take the wire off while a program is uploaded".into()
            }
            Self::ReservedPin { reserved: Reserved::Strap, .. } => {
                "choose another pin, or make sure that the display leaves its level alone at start-up".into()
            }
            Self::ReservedPin { .. } => "choose another pin, or make sure that it is free on your board".into(),
            Self::OpenDrain { .. } => "give each of these lines a pull-up of 10 kilohm to the supply, or choose other pins".into(),
            Self::NoPull { .. } => "write pull = \"resistor\" and connect one of 10 kilohm, or choose another pin".into(),
            Self::AlwaysPulledUp { .. } => "connect the button with ground, and write active = \"low\"".into(),
            Self::NoDots => {
                "write method = \"scanned\" for bare dots, or \"shifted\" or \"latched\" with rows and columns"
                    .into()
            }
            Self::OtherColours { .. } => {
                "leave colours out; two colours want method = \"ht16k33\", three \"rgb-panel\"".into()
            }
            Self::NoWire { light } => {
                format!("wire {light}, or the segment will be missing in every character")
            }
            Self::NoLight { .. } => "take the wire out, or give the face what it is for".into(),
            Self::WrongCount { .. } => "write one for each, from left to right, or from top to bottom".into(),
            Self::PackageOfOther { .. } => {
                "choose the package of this display, or list its pins yourself: package = [\"e\", \"d\", ...]"
                    .into()
            }
            Self::PackageCount { .. } => {
                "list each pin once, pin 1 first; - stands for a pin that is connected to nothing".into()
            }
            Self::NoPackagePin { .. } => {
                "pins are numbered from 1, counter-clockwise from the lower left".into()
            }
            Self::AddressTwice { .. } => "strap each part to an address of its own".into(),
            Self::ChainLength { .. } => "write how many parts the whole chain has, for each face the same".into(),
            Self::ChainPartTwice { .. } => {
                "give each face its own parts: chain = { parts = ..., first_part = ... }".into()
            }
            Self::HardlyToml { .. } => "name the rig file itself: --rig FILE".into(),
            Self::TooMany { .. } => "leave some out, or spread them over several rigs".into(),
            Self::Syntax { .. } | Self::WrongValue { .. } | Self::BitOrder(_) | Self::Assumed { .. } => {
                return None;
            }
        })
    }
}

/// How often a package has a function, where that cannot be.
fn package_count(function: &str, found: usize) -> String {
    match found {
        0 => format!("has no pin for {function}"),
        found => format!("has {function} at {}", counted(found, "pin", "pins")),
    }
}

/// Names that were changed: the old one and the new one.
const RENAMED: [(&str, &str); 6] = [
    ("every", "keep"),
    ("from", "time"),
    ("keys", "buttons"),
    ("move", "way"),
    ("speed", "rate"),
    ("step", "every"),
];

fn suggestion<'a>(found: &str, allowed: impl Iterator<Item = &'a str> + Clone, label: &str) -> String {
    let all = allowed.clone().collect::<Vec<_>>().join(", ");
    let renamed = RENAMED.iter().find(|(old, new)| *old == found && allowed.clone().any(|name| name == *new));
    match (renamed, nearest(found, allowed)) {
        (Some((_, new)), _) => format!("it is called '{new}' now; {label}: {all}"),
        (None, Some(name)) => format!("did you mean '{name}'? {label}: {all}"),
        (None, None) => format!("{label}: {all}"),
    }
}

/// The name that was most likely meant, if one is near enough: one that begins so, or one that is a slip of
/// the fingers or two away.
pub fn nearest<'a>(found: &str, allowed: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    /// The share of the letters that must be right. Half of them are right by chance (`pico` is not `pic16f54`).
    const NEAR: f64 = 0.6;
    /// The fewest letters that identify a name by its beginning.
    const BEGINNING: usize = 3;
    let found = found.to_lowercase();
    let alike = |name: &&str| {
        if found.len() >= BEGINNING && name.starts_with(&found) {
            return 1.0;
        }
        strsim::normalized_damerau_levenshtein(&found, name)
    };
    let best = allowed.max_by(|a, b| alike(a).total_cmp(&alike(b)))?;
    (alike(&best) >= NEAR).then_some(best)
}

/// Findings as they come in. Shared by everyone who reads a part of the file, so it is added to in place.
#[derive(Debug, Default)]
pub struct Findings {
    found: RefCell<Vec<Finding>>,
    /// The note in words.
    noted: RefCell<BTreeSet<String>>,
    /// True if any of them keeps the rig from being used.
    blocked: Cell<bool>,
}

impl Findings {
    /// Adds an error that keeps the rig from being used.
    pub fn error(&self, span: Range<usize>, trouble: impl Trouble + 'static) {
        self.blocked.set(true);
        self.add(Finding::new(Severity::Error, span, trouble));
    }

    /// Adds an error that leaves nothing to go on with.
    pub fn stop<T>(&self, span: Range<usize>, trouble: impl Trouble + 'static) -> Option<T> {
        self.error(span, trouble);
        None
    }

    /// Adds a note, once.
    pub fn note(&self, span: Range<usize>, trouble: impl Trouble + 'static) {
        if self.noted.borrow_mut().insert(trouble.to_string()) {
            self.add(Finding::new(Severity::Note, span, trouble));
        }
    }

    /// Adds a finding that lets the rig be used: with what it breaks, the picture is what the hardware would show.
    pub fn add(&self, finding: Finding) {
        self.found.borrow_mut().push(finding);
    }

    /// Adds another place, and what stands there, to the last finding.
    pub(super) fn tell_also(&self, also: Option<(Range<usize>, String)>) {
        if let Some(last) = self.found.borrow_mut().last_mut() {
            last.also = also;
        }
    }

    /// Returns true if any keeps the rig from being used.
    #[must_use]
    pub const fn are_blocking(&self) -> bool {
        self.blocked.get()
    }

    fn sort_key(finding: &Finding) -> (usize, Severity) {
        (finding.span.start, finding.severity)
    }

    /// All findings by place, the gravest first where they share one.
    #[must_use]
    pub fn in_order(self) -> Vec<Finding> {
        let mut findings = self.found.into_inner();
        findings.sort_by_key(Self::sort_key);
        findings
    }
}

impl Finding {
    /// A finding about one place.
    pub fn new(severity: Severity, span: Range<usize>, trouble: impl Trouble + 'static) -> Self {
        Self { severity, span, also: None, trouble: Arc::new(trouble) }
    }
}

#[cfg(test)]
mod tests {
    use super::nearest;

    #[test]
    fn a_name_is_suggested_only_when_it_may_have_been_meant() {
        let parts = ["pic16f54", "max7219", "ht16k33", "esp32", "segments", "digit_switch"];
        for (found, meant) in [
            ("pico", None),
            ("colour", None),
            ("nano", None),
            ("pic16", Some("pic16f54")),
            ("max7221", Some("max7219")),
            ("MAX7291", Some("max7219")),
            ("esp", Some("esp32")),
            ("segmets", Some("segments")),
            ("digitswitch", Some("digit_switch")),
            ("", None),
        ] {
            assert_eq!(nearest(found, parts.into_iter()), meant, "{found}");
        }
    }
}
