//! The push buttons of a rig: those beside a face, which its part reads, and those on pins of the controller.

use std::collections::BTreeMap;

use super::face::MAX_NAME;
use super::{Bus, Device, DeviceId, Rig};
use crate::bus::inputs::Inputs;
use crate::bus::{Protocol, Transfer};
use crate::rig::button::ButtonKeys;
use crate::rig::{
    Active, Claims, Controller, Finding, Findings, Line, Problem, Pull, Severity, Spanned, Wanted, Written,
};
use crate::units::Ohms;

/// The most push buttons on pins of the controller: a program keeps a bit for each.
pub const MAX_BUTTONS: usize = 32;

/// The resistor that keeps a button's pin at a level, where the controller does not.
pub const PULL: Ohms = Ohms(10_000.0);

/// Push buttons that are read together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Keypad {
    /// Those beside a face, by its place in the rig.
    Face(usize),
    /// Those on pins of the controller.
    Pins,
}

/// A push button of a rig.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ButtonId {
    /// The buttons among which it is.
    pub keypad: Keypad,
    /// Its place among them.
    pub button: usize,
}

/// A push button on a pin of the controller.
#[derive(Debug, Clone, PartialEq)]
pub struct PinButton {
    /// Its name.
    pub name: String,
    /// The pin.
    pub line: Line,
    /// The level of the pin while it is pressed.
    pub active: Active,
    /// The source of the other level meanwhile.
    pub pull: Pull,
}

impl PinButton {
    /// The level at which the controller itself keeps the pin.
    #[must_use]
    pub fn pulled_inside(&self) -> Option<bool> {
        (self.pull == Pull::Controller).then_some(!self.active.level())
    }

    /// The level at which a resistor keeps it.
    #[must_use]
    pub fn pulled_outside(&self) -> Option<bool> {
        (self.pull == Pull::Resistor).then_some(!self.active.level())
    }
}

/// The push buttons on pins of the controller.
#[derive(Debug, Clone, PartialEq)]
pub struct PinButtons {
    /// In the order of the file.
    pub buttons: Vec<PinButton>,
    /// Where their pins are among the buses.
    pub device: DeviceId,
}

impl PinButtons {
    /// Puts the pins of buttons on a bus of their own; `None` if there are no buttons.
    pub(super) fn seat(buttons: Vec<PinButton>, buses: &mut Vec<Bus>) -> Option<Self> {
        if buttons.is_empty() {
            return None;
        }
        let pins: Vec<_> = buttons.iter().map(|button| button.line.known.clone()).collect();
        let pulls = buttons.iter().map(PinButton::pulled_inside).collect();
        let protocol = Protocol::Inputs(Inputs { pulls });
        let device = Device { protocol, lines: (0..pins.len()).collect() };
        buses.push(Bus { pins, devices: vec![device] });
        Some(Self { buttons, device: DeviceId { bus: buses.len() - 1, device: 0 } })
    }

    /// The transfer that reads the pins.
    #[must_use]
    pub fn transfer(&self) -> Transfer<'static> {
        Transfer::Inputs { reads: self.buttons.len().div_ceil(8) }
    }

    /// The buttons that are down, told from the levels of the pins, eight a byte, the first in bit 0; places in the list.
    #[must_use]
    pub fn down(&self, levels: &[u8]) -> Vec<usize> {
        let is_down = |(place, button): &(usize, &PinButton)| {
            levels.get(place / 8).is_some_and(|byte| (byte >> (place % 8) & 1 == 1) == button.active.level())
        };
        self.buttons.iter().enumerate().filter(is_down).map(|(place, _)| place).collect()
    }
}

impl Rig {
    /// The names of buttons, in their order.
    #[must_use]
    pub fn button_names(&self, keypad: Keypad) -> Vec<&str> {
        match keypad {
            Keypad::Face(face) => {
                let names = self.faces.get(face).map(|mount| mount.drive.display().button_names());
                names.unwrap_or_default().iter().map(String::as_str).collect()
            }
            Keypad::Pins => self.pin_buttons().iter().map(|button| button.name.as_str()).collect(),
        }
    }

    /// The push buttons on pins of the controller.
    #[must_use]
    pub fn pin_buttons(&self) -> &[PinButton] {
        self.buttons.as_ref().map_or(&[], |buttons| &buttons.buttons)
    }

    /// All buttons: those on pins, then those of the faces.
    pub fn all_buttons(&self) -> impl Iterator<Item = ButtonId> {
        let keypads = [Keypad::Pins].into_iter().chain((0..self.faces.len()).map(Keypad::Face));
        keypads.flat_map(|keypad| {
            (0..self.button_names(keypad).len()).map(move |button| ButtonId { keypad, button })
        })
    }

    /// The name of a button as a reel has it: `desk.call1`, or of one on a pin `up`.
    #[must_use]
    pub fn button_name(&self, id: ButtonId) -> Option<String> {
        let name = *self.button_names(id.keypad).get(id.button)?;
        Some(match id.keypad {
            Keypad::Face(face) => format!("{}.{name}", self.faces.get(face)?.face.name),
            Keypad::Pins => name.to_owned(),
        })
    }
}

/// Plans the push buttons on pins. `None` after an error that leaves nothing to plan.
pub(super) fn plan(
    keys: BTreeMap<Spanned<String>, ButtonKeys>,
    controller: &Controller,
    claims: &Claims,
    findings: &Findings,
) -> Option<Vec<PinButton>> {
    let mut in_order: Vec<_> = keys.into_iter().collect();
    in_order.sort_by_key(|(name, _)| name.span().start);
    if let Some((name, _)) = in_order.get(MAX_BUTTONS) {
        let problem = Problem::TooMany { what: "buttons", found: in_order.len(), most: MAX_BUTTONS };
        return findings.stop(name.span(), problem);
    }
    let button = |(name, keys): (Spanned<String>, ButtonKeys)| {
        // A reel writes FACE.BUTTON for one beside a face, so that a point is none of the letters.
        let is_fit = |c: char| c.is_alphanumeric() || c == '-' || c == '_';
        if name.get_ref().is_empty() || name.get_ref().len() > MAX_NAME || !name.get_ref().chars().all(is_fit)
        {
            let found = format!("the name {:?}", name.get_ref());
            let allowed = "letters, digits, - and _, up to 64 of them".to_owned();
            return findings.stop(name.span(), Problem::WrongValue { found, allowed });
        }
        let ButtonKeys { pin, active, pull } = keys;
        let user = format!("button {}", name.get_ref());
        let known = claims.take(&pin, Wanted { user, shared: None, drives: false }, controller, findings);
        let assume = |key: &str, value: String| {
            let key = format!("buttons.{}.{key}", name.get_ref());
            findings.note(name.span(), Problem::Assumed { key, value });
        };
        let active = active.map(Spanned::into_inner).unwrap_or_else(|| {
            assume("active", Active::default().written());
            Active::default()
        });
        let facts = controller.facts.as_ref();
        let is_pulled = facts.and_then(|facts| facts.pulls_inside(&known, active)).unwrap_or(true);
        let place = pull.as_ref().map_or_else(|| name.span(), Spanned::span);
        let pull = pull.map(Spanned::into_inner).unwrap_or_else(|| {
            let usual = if is_pulled { Pull::Controller } else { Pull::Resistor };
            assume("pull", usual.written());
            usual
        });
        let defect = |problem: Problem| findings.add(Finding::new(Severity::Error, place.clone(), problem));
        if pull == Pull::Controller && !is_pulled {
            defect(Problem::NoPull { pin: known.to_string(), pull: active.pull() });
        }
        if active == Active::High && facts.is_some_and(|facts| facts.is_always_pulled_up(&known)) {
            defect(Problem::AlwaysPulledUp { pin: known.to_string() });
        }
        let line = Line { role: name.get_ref().clone(), pin: pin.into_inner(), known };
        Some(PinButton { name: name.into_inner(), line, active, pull })
    };
    in_order.into_iter().map(button).collect()
}
