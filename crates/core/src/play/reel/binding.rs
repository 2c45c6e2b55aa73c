//! What keys of a face do.

use std::collections::BTreeMap;
use std::ops::Range;

use schemars::JsonSchema;
use serde::Deserialize;

use super::super::keyboard::KeyEvent;
use super::super::{Inputs, KeyMoment, Value};
use super::keys::Given;
use crate::content::number::Decimal;
use crate::plan::Mount;
use crate::rig::{Findings, Problem, Spanned};

/// A key, and what it does when it is pressed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Binding {
    /// The face, by its place in the rig.
    pub face: usize,
    /// The button, by its place on the face.
    pub button: usize,
    /// What it does.
    pub doing: Doing,
}

/// What a key does.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Doing {
    /// It lights a lamp, or puts it out: a variable of its own goes from 0 to 1 and back.
    Toggle {
        /// The lamp, by its place in [`Face::extras`](crate::face::Face::extras).
        lamp: usize,
        /// The variable.
        variable: String,
    },
    /// It adds to a variable.
    Add {
        /// The variable.
        variable: String,
        /// What is added.
        step: Decimal,
    },
    /// It sets a variable.
    Set {
        /// The variable.
        variable: String,
        /// To what.
        value: Decimal,
    },
}

/// What a key does, as a reel file says it: one of these.
#[derive(Deserialize, JsonSchema)]
pub struct DoKeys {
    /// Lights this lamp of the same face, or puts it out
    toggle: Option<Spanned<String>>,
    /// The variable that is added to or set
    to: Option<Spanned<String>>,
    /// Adds so much to it
    add: Option<Given>,
    /// Sets it to this
    set: Option<Given>,
}

impl DoKeys {
    /// What that is; `None` when something is wrong, which is then said.
    pub fn doing(
        &self,
        span: Range<usize>,
        mount: &Mount,
        variables: &BTreeMap<String, Value>,
        findings: &Findings,
    ) -> Option<Doing> {
        let variable = |to: &Spanned<String>| {
            if variables.contains_key(to.get_ref()) {
                return Some(to.get_ref().clone());
            }
            let names: Vec<_> = variables.keys().map(String::as_str).collect();
            findings.stop(to.span(), Problem::unknown_name("variable", to.get_ref(), &names))
        };
        match (&self.toggle, &self.to, self.add, self.set) {
            (Some(lamp), None, None, None) => {
                let extras = &mount.face.extras;
                let Some(place) = extras.iter().position(|extra| extra.name == *lamp.get_ref()) else {
                    let names: Vec<_> = extras.iter().map(|extra| extra.name.as_str()).collect();
                    return findings.stop(lamp.span(), Problem::unknown_name("lamp", lamp.get_ref(), &names));
                };
                // No variable of a file has a point in its name.
                let variable = format!("{}.{}", mount.face.name, lamp.get_ref());
                Some(Doing::Toggle { lamp: place, variable })
            }
            (None, Some(to), Some(Given(step)), None) => Some(Doing::Add { variable: variable(to)?, step }),
            (None, Some(to), None, Some(Given(value))) => Some(Doing::Set { variable: variable(to)?, value }),
            _ => {
                let found = "something else".to_owned();
                let allowed =
                    "{ toggle = \"LAMP\" }, { to = \"VARIABLE\", add = 1 } or { to = \"VARIABLE\", set = 0 }"
                        .to_owned();
                findings.stop(span, Problem::WrongValue { found, allowed })
            }
        }
    }
}

impl Binding {
    /// Does what the key does, when this is the key and it was pressed.
    pub fn hear(&self, key: &KeyMoment, inputs: &mut Inputs) {
        if (key.face, key.button, key.event) != (self.face, self.button, KeyEvent::Down) {
            return;
        }
        let now = |inputs: &Inputs, variable: &str| {
            let value = inputs.value(variable, key.at).and_then(Value::number);
            value.unwrap_or_else(|| 0.into())
        };
        let (variable, value) = match &self.doing {
            Doing::Toggle { variable, .. } => {
                let is_lit = !now(inputs, variable).compared(&0.into()).is_eq();
                (variable, Decimal::from(i64::from(!is_lit)))
            }
            Doing::Add { variable, step } => (variable, now(inputs, variable).plus(*step)),
            Doing::Set { variable, value } => (variable, *value),
        };
        inputs.note(variable, key.at, Value::Number(value));
    }
}
