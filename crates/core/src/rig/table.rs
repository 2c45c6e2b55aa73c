//! The drive table of a face, as a method reads and checks it.

use std::cell::RefCell;
use std::collections::HashMap;
use std::fmt::Display;
use std::ops::Range;

use serde::de::DeserializeOwned;

use super::controller::Controller;
use super::finding::{Finding, Findings, Problem, Severity, Trouble};
use super::package::Package;
use super::pin::{Pin, Reserved};
use super::reader;
use super::spanned::Spanned;
use super::value::{Table, Value};
use crate::words::{Word, words};

/// A line between controller and part.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Line {
    /// The function of the line, in the trade's word: `clock`, `data`, `select`, or the name of a segment or lamp.
    pub role: String,
    /// The controller pin that drives it, as the rig writes it.
    pub pin: Pin,
    /// The same by its data sheet's name.
    pub known: Pin,
}

words! {
    /// An end of a row, as seen from the front.
    pub enum End {
        /// At the left.
        Left = "left",
        /// At the right.
        Right = "right",
    }
}

/// A value that can be shown as it would stand in the file.
pub trait Written {
    /// The value in TOML.
    fn written(&self) -> String;
}

impl<T: Word> Written for T {
    fn written(&self) -> String {
        format!("{:?}", self.word())
    }
}

impl Written for String {
    fn written(&self) -> String {
        format!("{self:?}")
    }
}

/// Numbers, and true and false, are written as they print.
macro_rules! written_as_number {
    ($($number:ty)*) => { $(impl Written for $number {
        fn written(&self) -> String { self.to_string() }
    })* };
}
written_as_number!(u8 u32 f64 bool);

/// Something that only one part of the rig can have.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
enum Claim {
    /// A controller pin, by its data sheet's name.
    Pin(Pin),
    /// An address on the bus with these pins.
    Address { clock: Pin, data: Pin, address: u8 },
    /// The chain behind a select.
    Chain { select: Pin },
    /// A part of it.
    ChainPart { select: Pin, part: usize },
}

/// The claims, with their owners and places.
#[derive(Default)]
pub struct Claims(RefCell<HashMap<Claim, Holder>>);

/// The purpose of a controller pin.
pub struct Wanted {
    /// Who wants it, in words: `clock of face desk`.
    pub user: String,
    /// The role in which others may have it too.
    pub shared: Option<String>,
    /// True if the controller drives it.
    pub drives: bool,
}

impl Claims {
    /// Takes a controller pin, by its data sheet's name. It is an error when the controller has no such pin or another line has
    /// it, and worth a word when it has another duty.
    pub fn take(
        &self,
        pin: &Spanned<Pin>,
        wanted: Wanted,
        controller: &Controller,
        findings: &Findings,
    ) -> Pin {
        let written = pin.get_ref();
        let known = match controller.pin(written) {
            Ok(known) => known,
            Err(allowed) => {
                findings.error(pin.span(), Problem::NoSuchPin { pin: written.to_string(), allowed });
                return written.clone();
            }
        };
        let Wanted { user, shared, drives } = wanted;
        let reserved = controller.reserved(&known);
        if let Some(reserved) = reserved.filter(|why| drives || *why != Reserved::InputOnly) {
            let problem = Problem::ReservedPin { pin: known.to_string(), reserved };
            if reserved.forbids() {
                findings.error(pin.span(), problem);
            } else {
                findings.add(Finding::new(Severity::Warning, pin.span(), problem));
            }
        }
        let mut claims = self.0.borrow_mut();
        match claims.get(&Claim::Pin(known.clone())) {
            Some(first) if shared.is_some() && first.shared == shared => {}
            Some(first) => {
                let also = Some((first.place.clone(), format!("here it is {}", first.user)));
                let (pin_name, first) = (known.to_string(), first.user.clone());
                findings.error(pin.span(), Problem::PinTwice { pin: pin_name, first, second: user });
                findings.tell_also(also);
            }
            None => {
                claims.insert(Claim::Pin(known.clone()), Holder { place: pin.span(), user, shared });
            }
        }
        known
    }
}

/// Who has something.
struct Holder {
    place: Range<usize>,
    user: String,
    /// The role in which others may have it too.
    shared: Option<String>,
}

/// Where in the file a finding belongs.
#[derive(Clone)]
pub enum Place<'k> {
    /// Just here.
    Span(Range<usize>),
    /// At this key of the face, or at the face where the key was left out.
    Face(&'k str),
    /// At this key of the drive, or at the drive where it was left out.
    Drive(&'k str),
    /// At this key of the controller, or at the face where it was left out.
    Controller(&'k str),
}

impl From<Range<usize>> for Place<'_> {
    fn from(span: Range<usize>) -> Self {
        Self::Span(span)
    }
}

/// The drive table of one face. A method reads its keys from it and reports through it what is wrong.
pub struct DriveTable<'t> {
    pub(crate) extras: Vec<&'t Spanned<String>>,
    pub(crate) keys: Vec<(&'t str, &'t Spanned<String>)>,
    pub(crate) drive: &'t toml::Spanned<Value>,
    pub(crate) face: &'t str,
    pub(crate) root: &'t Table,
    pub(crate) controller: &'t Controller,
    pub(crate) package: Option<&'t Package>,
    pub(crate) findings: &'t Findings,
    pub(crate) claims: &'t Claims,
}

impl DriveTable<'_> {
    /// The nodes of the face's colons and lamps, as the file names them, in the order of
    /// [`crate::face::Face::extras`]. What a node is called is the method's affair.
    #[must_use]
    pub fn extras(&self) -> &[&Spanned<String>] {
        &self.extras
    }

    /// The face's push buttons by name, and the node of each.
    #[must_use]
    pub fn keys(&self) -> &[(&str, &Spanned<String>)] {
        &self.keys
    }

    /// Reads the table into a struct that states its keys. Unknown keys are reported and passed over; when a
    /// key is missing or of a wrong type that is reported and there is no result.
    pub fn read<T: DeserializeOwned>(&self) -> Option<T> {
        reader::read(self.drive.get_ref(), self.drive.span(), self.findings)
    }

    /// The written value, or the default, which is then noted as assumed.
    pub fn or_assume<T: Written>(&self, key: &str, written: Option<Spanned<T>>, default: T) -> Spanned<T> {
        written.unwrap_or_else(|| {
            self.assume(key, default.written());
            Spanned::new(self.drive.span(), default)
        })
    }

    /// Notes what a key that was left out is taken to be, as it would be written.
    pub fn assume(&self, key: &str, value: impl Into<String>) {
        let key = format!("face.{}.drive.{key}", self.face);
        self.findings.note(self.drive.span(), Problem::Assumed { key, value: value.into() });
    }

    /// The same into two structs that each state some of the keys.
    pub fn read_both<A: DeserializeOwned, B: DeserializeOwned>(&self) -> Option<(A, B)> {
        reader::read_both(self.drive.get_ref(), self.drive.span(), self.findings)
    }

    /// The pins of the display itself, where the rig tells its package.
    #[must_use]
    pub const fn package(&self) -> Option<&Package> {
        self.package
    }

    /// Where the drive table stands.
    #[must_use]
    pub fn place(&self) -> Range<usize> {
        self.drive.span()
    }

    /// Takes a controller pin for a line of this face, by its data sheet's name. It is an error when the
    /// controller has no such pin or another line has it, and worth a word when it has another duty.
    pub fn claim(&self, pin: &Spanned<Pin>, role: &str) -> Pin {
        self.claim_for(pin, role, false)
    }

    /// Takes a controller pin for a line of this face, as [`Self::claim`] does.
    pub fn line(&self, pin: &Spanned<Pin>, role: &str) -> Line {
        Line { role: role.to_owned(), pin: pin.get_ref().clone(), known: self.claim(pin, role) }
    }

    /// The same for a line of a bus that several parts may share, each in the same role.
    pub fn shared_line(&self, pin: &Spanned<Pin>, role: &str) -> Line {
        Line { role: role.to_owned(), pin: pin.get_ref().clone(), known: self.claim_for(pin, role, true) }
    }

    /// Takes an address for a part of this face on the bus with these pins, both as they were [claimed](Self::claim).
    pub fn claim_address(&self, address: &Spanned<u8>, clock: &Pin, data: &Pin) {
        let claim = Claim::Address { clock: clock.clone(), data: data.clone(), address: *address.get_ref() };
        self.claim_alone(claim, address.span(), Problem::AddressTwice { address: *address.get_ref() });
    }

    /// Says how many parts a chain has; all faces on it must say the same. `place` is where the file says so.
    pub fn claim_chain(&self, parts: usize, select: &Pin, place: Range<usize>) {
        let claim = Claim::Chain { select: select.clone() };
        let holder = Holder {
            place: place.clone(),
            user: format!("face {}", self.face),
            shared: Some(parts.to_string()),
        };
        let mut claims = self.claims.0.borrow_mut();
        let first = claims.entry(claim).or_insert(holder);
        let said = first.shared.clone().unwrap_or_default();
        if said != parts.to_string() {
            let also = Some((first.place.clone(), format!("here it has {said}, of {}", first.user)));
            self.findings.error(place, Problem::ChainLength { parts });
            self.findings.tell_also(also);
        }
    }

    /// Takes a part of a chain for this face; `place` is where the file says so.
    pub fn claim_chain_part(&self, part: usize, select: &Pin, place: Range<usize>) {
        let claim = Claim::ChainPart { select: select.clone(), part };
        self.claim_alone(claim, place, Problem::ChainPartTwice { part });
    }

    fn claim_alone(&self, claim: Claim, place: Range<usize>, problem: Problem) {
        let user = format!("a part of face {}", self.face);
        let holder = Holder { place: place.clone(), user, shared: None };
        if let Some(first) = self.claims.0.borrow_mut().insert(claim, holder) {
            let also = Some((first.place, format!("here it is {}", first.user)));
            self.findings.error(place.clone(), problem);
            self.findings.tell_also(also);
        }
    }

    fn claim_for(&self, pin: &Spanned<Pin>, role: &str, shared: bool) -> Pin {
        let user = format!("{role} of face {}", self.face);
        let shared = shared.then(|| role.to_owned());
        self.claims.take(pin, Wanted { user, shared, drives: true }, self.controller, self.findings)
    }

    /// Returns true if a value is within its range; reports it when not.
    pub fn check_range<T: PartialOrd + Display + Copy>(&self, value: &Spanned<T>, least: T, most: T) -> bool {
        let found = *value.get_ref();
        let sound = (least..=most).contains(&found);
        if !sound {
            let allowed = format!("a number from {least} to {most}");
            self.error(value.span(), Problem::WrongValue { found: found.to_string(), allowed });
        }
        sound
    }

    /// Reports an error that keeps the rig from being used.
    pub fn error<'k>(&self, place: impl Into<Place<'k>>, trouble: impl Trouble + 'static) {
        self.findings.error(self.span(place.into()), trouble);
    }

    /// Reports an error with which the rig can be used: the picture is what such hardware would show.
    pub fn defect<'k>(&self, place: impl Into<Place<'k>>, trouble: impl Trouble + 'static) {
        self.findings.add(Finding::new(Severity::Error, self.span(place.into()), trouble));
    }

    /// Reports a warning.
    pub fn warn<'k>(&self, place: impl Into<Place<'k>>, trouble: impl Trouble + 'static) {
        self.findings.add(Finding::new(Severity::Warning, self.span(place.into()), trouble));
    }

    /// Where in the file that is.
    #[must_use]
    pub fn span(&self, place: Place<'_>) -> Range<usize> {
        let path = match place {
            Place::Span(span) => return span,
            Place::Face(key) => ["face", self.face, key],
            Place::Drive(key) => {
                let value = self.drive.get_ref().as_table().and_then(|drive| drive.get(key));
                return value.map_or_else(|| self.drive.span(), toml::Spanned::span);
            }
            Place::Controller(key) => ["controller", key, ""],
        };
        let (mut table, mut span) = (Some(self.root), self.drive.span());
        for key in path {
            let Some(value) = table.and_then(|table| table.get(key)) else { break };
            (table, span) = (value.get_ref().as_table(), value.span());
        }
        span
    }
}
