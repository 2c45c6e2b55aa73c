//! A rig in the making: from what lies on the bench to a rig file that is found sound, its pins chosen, its resistors
//! worked out, and every other key in it as a comment with its default.
//!
//! What is written is read again before it is given away: nothing leaves here that `rig check` would find fault with.

pub mod choice;
pub mod kinds;
mod text;

use std::collections::BTreeMap;

use choice::{Pins, TooFewPins};
use kinds::{Kind, Size, Way};

use crate::glyph::{Common, Style};
use crate::plan::Rig;
use crate::rig::{Bus, Controller, Pin, Severity};

/// What is asked for.
#[derive(Debug, Clone, PartialEq)]
pub struct Wish {
    /// The kind of display.
    pub kind: &'static Kind,
    /// Its size; the usual one where that is not said.
    pub size: Option<Size>,
    /// The controller's part number; none where that is open.
    pub controller: Option<String>,
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

/// The steps of the resistors that are tried, the brightest first (E12).
const OHMS: [u32; 26] = [
    150, 180, 220, 270, 330, 390, 470, 560, 680, 820, 1_000, 1_200, 1_500, 1_800, 2_200, 2_700, 3_300, 3_900,
    4_700, 5_600, 6_800, 8_200, 10_000, 12_000, 15_000, 18_000,
];

/// Writes the rig.
///
/// # Errors
/// Why there is none: pins that the controller has not, or limits that nothing keeps.
pub fn rig(wish: &Wish) -> Result<String, DraftError> {
    let size = checked_size(wish)?;
    let head = text::controller(wish.controller.as_deref());
    let Some(controller) = Controller::called_by(wish.controller.as_deref()) else {
        return Err(DraftError::UnknownController { found: wish.controller.clone().unwrap_or_default() });
    };
    let decided: Vec<_> =
        wish.pins.values().map(|pin| controller.pin(pin).unwrap_or_else(|_| pin.clone())).collect();
    let pins = assigned(wish, size, Pins::of(&controller, &decided))?;
    let mut reason = String::new();
    for trial in trials(wish.kind) {
        let source = format!("{head}{}", text::face(wish.kind, size, &pins, &trial));
        let reading = Rig::read(&source);
        match reading.findings.iter().find(|finding| finding.severity != Severity::Note) {
            None => return Ok(text::taught(&source, &reading.findings)),
            Some(finding) if reason.is_empty() => reason = finding.trouble.to_string(),
            Some(_) => {}
        }
    }
    Err(DraftError::Unsound { kind: wish.kind.name, controller: controller.called().to_owned(), reason })
}

/// The size, where the kind can have it.
fn checked_size(wish: &Wish) -> Result<Size, DraftError> {
    let (usual, most) = wish.kind.size;
    let name = wish.kind.name;
    let size = wish.size.unwrap_or(usual);
    let fits = match (size, most) {
        (Size::Digits(digits), Size::Digits(most)) => (1..=most).contains(&digits),
        (Size::Dots(width, height), Size::Dots(most_width, most_height)) => {
            let of_modules = width % 8 == 0 && height % 8 == 0;
            of_modules && (8..=most_width).contains(&width) && (8..=most_height).contains(&height)
        }
        _ => return Err(DraftError::OtherSize { kind: name, is_digits: matches!(most, Size::Digits(_)) }),
    };
    if fits { Ok(size) } else { Err(DraftError::Size { kind: name, most }) }
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
fn trials(kind: &Kind) -> Vec<Trial> {
    let commons = match kind.common {
        Some(common) => return of_part(common),
        None if kind.way == Way::Max7219 => return of_part(Common::Cathode),
        None => [Common::Cathode, Common::Anode],
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
                trials.extend(OHMS.map(|ohms| Trial {
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
