//! The actions of push buttons.

use std::collections::BTreeMap;
use std::ops::Range;
use std::time::Duration;

use serde::Deserialize;

use super::super::keyboard::KeyEvent;
use super::super::{Inputs, KeyMoment, Value};
use super::FirstValue;
use super::keys::{moment, place_in, place_of};
use crate::content::number::Decimal;
use crate::plan::{ButtonId, Keypad, Rig};
use crate::rig::{Findings, Problem, Spanned};

/// A button, and what it does when it is pressed.
#[derive(Debug, Clone, PartialEq)]
pub struct Binding {
    /// The button.
    pub button: ButtonId,
    /// Its action.
    pub doing: Doing,
}

/// The action of a button.
#[derive(Debug, Clone, PartialEq)]
pub enum Doing {
    /// It lights a lamp, or puts it out: a variable of its own goes from 0 to 1 and back.
    Toggle(LampOf),
    /// It lights a lamp for as long as it is down.
    Light(LampOf),
    /// It adds to a variable.
    Add {
        /// The variable.
        variable: String,
        /// The number that is added.
        step: Decimal,
        /// The variable that says at which figure: 0 is the ones, 1 the tens.
        at: Option<String>,
        /// How far the variable goes.
        limits: Limits,
    },
    /// It sets a variable.
    Set {
        /// The variable.
        variable: String,
        /// To what.
        value: Value,
    },
    /// The acts go on from another moment. Variables stay as they are.
    Jump(Duration),
    /// The acts are held, or go on.
    Pause,
}

impl Doing {
    /// The lamp that it switches, if it switches one.
    #[must_use]
    pub const fn lamp(&self) -> Option<&LampOf> {
        match self {
            Self::Toggle(lamp) | Self::Light(lamp) => Some(lamp),
            _ => None,
        }
    }
}

/// A lamp that a button switches.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LampOf {
    /// The face that it is on, by its place in the rig.
    pub face: usize,
    /// The lamp, by its place in [`Face::extras`](crate::face::Face::extras).
    pub lamp: usize,
    /// The variable that is 1 while it is lit.
    pub variable: String,
}

/// How far a variable goes when keys add to it.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Limits {
    /// The least that it is.
    pub least: Option<Decimal>,
    /// The most that it is.
    pub most: Option<Decimal>,
    /// Beyond one end it begins at the other; else it stays at the end.
    pub wrap: bool,
}

impl Limits {
    fn within(&self, value: Decimal) -> Decimal {
        let is_below = self.least.is_some_and(|least| value.is_less(least));
        let is_above = self.most.is_some_and(|most| most.is_less(value));
        let (below, above) = if self.wrap { (self.most, self.least) } else { (self.least, self.most) };
        match (is_below, is_above) {
            (true, _) => below.unwrap_or(value),
            (_, true) => above.unwrap_or(value),
            _ => value,
        }
    }
}

/// A request of a button to the player.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Wish {
    /// To go on from another moment of the acts.
    Jump(Duration),
    /// To hold the acts, or to let them go on.
    Pause,
}

/// The action of a button in a reel file: one of these.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct DoKeys {
    /// Lights this lamp, or puts it out: "berth1" of the button's face, or "desk.berth1"
    toggle: Option<Spanned<String>>,
    /// Lights this lamp for as long as the button is down
    light: Option<Spanned<String>>,
    /// The variable that is added to, set, or set back
    to: Option<Spanned<String>>,
    /// Adds so much to it
    add: Option<Decimal>,
    /// Adds at the figure that this variable says: 0 is the ones, 1 the tens
    at: Option<Spanned<String>>,
    /// The least that adding makes of it
    least: Option<Decimal>,
    /// The most that adding makes of it
    most: Option<Decimal>,
    /// Beyond one end it begins at the other
    wrap: Option<bool>,
    /// Sets it to this number or text
    set: Option<FirstValue>,
    /// Sets it to what it was at first
    reset: Option<bool>,
    /// The acts go on from this moment: "0s" is the beginning
    jump: Option<Spanned<String>>,
    /// Holds the acts, or lets them go on
    pause: Option<bool>,
}

/// The keys that may be combined, by the first one.
const FORMS: &str = "{ toggle = \"LAMP\" }, { light = \"LAMP\" }, { to = \"VARIABLE\", add = 1 } with at, least, most and wrap, \
                     { to = \"VARIABLE\", set = 0 }, { to = \"VARIABLE\", reset = true }, { jump = \"0s\" } or \
                     { pause = true }";

impl DoKeys {
    /// Returns the action; `None` after an error, which is reported.
    pub fn doing(&self, span: Range<usize>, bound: &Bound<'_>, findings: &Findings) -> Option<Doing> {
        let variables = bound.variables;
        let wrong = || {
            let (found, allowed) = ("something else".to_owned(), FORMS.to_owned());
            findings.stop(span.clone(), Problem::WrongValue { found, allowed })
        };
        let variable = |to: &Spanned<String>| {
            place_of("variable", to, variables.keys().map(String::as_str), findings)?;
            Some(to.get_ref().clone())
        };
        let has_limits =
            self.at.is_some() || self.least.is_some() || self.most.is_some() || self.wrap.is_some();
        if has_limits && self.add.is_none() {
            return wrong();
        }
        if self.toggle.is_some() && self.light.is_some() {
            return wrong();
        }
        let lamp = self.toggle.as_ref().or(self.light.as_ref());
        match (&self.to, lamp, self.add, &self.set, self.reset, &self.jump, self.pause) {
            (None, Some(lamp), None, None, None, None, None) => {
                let lamp = bound.lamp(lamp, findings)?;
                Some(if self.light.is_some() { Doing::Light(lamp) } else { Doing::Toggle(lamp) })
            }
            (Some(to), None, Some(step), None, None, None, None) => {
                let sum = variable(to)?;
                let at = match &self.at {
                    Some(at) => Some(variable(at)?),
                    None => None,
                };
                let limits = self.limits(span.clone(), findings)?;
                Some(Doing::Add { variable: sum, step, at, limits })
            }
            (Some(to), None, None, Some(value), None, None, None) => {
                let (variable, value) = (variable(to)?, Value::from(value.clone()));
                let is_number = |value: &Value| value.number().is_some();
                if variables.get(&variable).is_some_and(|first| is_number(first) != is_number(&value)) {
                    let kind = if is_number(&value) { "a text" } else { "a number" };
                    let (found, allowed) = (value.to_string(), format!("{kind}, as {variable} is at first"));
                    return findings.stop(span, Problem::WrongValue { found, allowed });
                }
                Some(Doing::Set { variable, value })
            }
            (Some(to), None, None, None, Some(true), None, None) => {
                let variable = variable(to)?;
                let value = variables.get(&variable)?.clone();
                Some(Doing::Set { variable, value })
            }
            (None, None, None, None, None, Some(jump), None) => moment(jump, findings).map(Doing::Jump),
            (None, None, None, None, None, None, Some(true)) => Some(Doing::Pause),
            _ => wrong(),
        }
    }

    /// How far adding goes.
    fn limits(&self, span: Range<usize>, findings: &Findings) -> Option<Limits> {
        let limits = Limits { least: self.least, most: self.most, wrap: self.wrap.unwrap_or(false) };
        if let (Some(least), Some(most)) = (limits.least, limits.most)
            && !least.is_less(most)
        {
            let (found, allowed) = (format!("most = {most}"), format!("more than least = {least}"));
            return findings.stop(span, Problem::WrongValue { found, allowed });
        }
        Some(limits)
    }
}

/// The things that an action may refer to.
pub struct Bound<'b> {
    /// The rig.
    pub rig: &'b Rig,
    /// Where the button is.
    pub keypad: Keypad,
    /// The variables, and what they are at first.
    pub variables: &'b BTreeMap<String, Value>,
}

impl Bound<'_> {
    /// The lamp of this name: `berth1` of the button's own face or the only one, or `desk.berth1`.
    fn lamp(&self, name: &Spanned<String>, findings: &Findings) -> Option<LampOf> {
        let faces = &self.rig.faces;
        let own = match self.keypad {
            Keypad::Face(face) => faces.get(face),
            Keypad::Pins => faces.first().filter(|_| faces.len() == 1),
        };
        let (face, lamp) = match (name.get_ref().split_once('.'), own) {
            (Some((face, lamp)), _) => (face, lamp),
            (None, Some(own)) => (own.face.name.as_str(), name.get_ref().as_str()),
            (None, None) => {
                let (found, allowed) = (name.get_ref().clone(), "a lamp with its face: FACE.LAMP".to_owned());
                return findings.stop(name.span(), Problem::WrongValue { found, allowed });
            }
        };
        let names = faces.iter().map(|mount| mount.face.name.as_str());
        let face = place_in("face", face, name.span(), names, findings)?;
        let extras = faces[face].face.extras.iter().map(|extra| extra.name.as_str());
        let place = place_in("lamp", lamp, name.span(), extras, findings)?;
        // No variable of a file has a point in its name.
        Some(LampOf { face, lamp: place, variable: format!("{}.{lamp}", faces[face].face.name) })
    }
}

impl Binding {
    /// Does what the button does, when this is the button; what it wants beyond its variables.
    pub fn hear(&self, key: &KeyMoment, inputs: &mut Inputs) -> Option<Wish> {
        let does = match key.event {
            KeyEvent::Down => true,
            KeyEvent::Up => matches!(self.doing, Doing::Light(_)),
            KeyEvent::Held => false,
        };
        if key.button != self.button || !does {
            return None;
        }
        let now = |inputs: &Inputs, variable: &str| {
            let value = inputs.value(variable, key.at).and_then(Value::number);
            value.unwrap_or_else(|| 0.into())
        };
        let (variable, value) = match &self.doing {
            Doing::Light(LampOf { variable, .. }) => {
                (variable, Value::Number(i64::from(key.event == KeyEvent::Down).into()))
            }
            Doing::Toggle(LampOf { variable, .. }) => {
                let is_lit = !now(inputs, variable).compared(&0.into()).is_eq();
                (variable, Value::Number(i64::from(!is_lit).into()))
            }
            Doing::Add { variable, step, at, limits } => {
                let figure = at.as_ref().map_or(0, |at| now(inputs, at).in_units(0));
                let sum = now(inputs, variable).plus(step.times_ten(figure));
                (variable, Value::Number(limits.within(sum)))
            }
            Doing::Set { variable, value } => (variable, value.clone()),
            Doing::Jump(to) => return Some(Wish::Jump(*to)),
            Doing::Pause => return Some(Wish::Pause),
        };
        inputs.note(variable, key.at, value);
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_value_stays_at_its_end_or_begins_at_the_other() {
        let of = |wrap| Limits { least: Some(0.into()), most: Some(59.into()), wrap };
        let within = |wrap, value: i64| of(wrap).within(value.into());
        assert_eq!([within(false, -1), within(false, 60), within(false, 7)], [0.into(), 59.into(), 7.into()]);
        assert_eq!([within(true, -1), within(true, 60), within(true, 59)], [59.into(), 0.into(), 59.into()]);
        let open = Limits { most: None, ..of(true) };
        assert_eq!(open.within((-3).into()), (-3).into(), "there is no other end");
    }
}
