//! What there is to say about a rig file, each with its place.

use std::cell::RefCell;
use std::ops::Range;

use crate::drive::METHODS;
use crate::glyph::Common;
use crate::glyph::order::BitOrderError;
use crate::units::Volts;

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
    UnknownKey { found: String, allowed: &'static [&'static str] },
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
    #[error("segment {segment} has no pin")]
    SegmentWithoutPin { segment: &'static str },
    #[error("the method static drives one digit; this face has {found}")]
    StaticDigits { found: usize },
    #[error("{0}")]
    BitOrder(BitOrderError),
    #[error("the {method} drives digits with common {}", wants.name())]
    WrongCommon { method: &'static str, wants: Common },
    #[error("the bus is at {found}; the {part} needs {least} for a sure high at a 5 V supply")]
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
            Self::SegmentWithoutPin { segment } => format!("add {segment} = \"PIN\""),
            Self::StaticDigits { .. } => "write digits = 1, or put a max7219 between".into(),
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

    /// Adds a note.
    pub fn note(&self, span: Range<usize>, problem: Problem) {
        self.add(Finding { severity: Severity::Note, span, also: None, problem });
    }

    /// Adds a finding.
    pub fn add(&self, finding: Finding) {
        self.0.borrow_mut().push(finding);
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
