//! What keys do, and how a part is asked for them.

use std::collections::BTreeSet;

use serde::Serialize;

use super::StepModel;

/// How buttons that are read together are asked for: those of a face, or those on pins.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct KeysModel {
    /// The beginning of its functions' names in the source: the face's name, or `pin_buttons`.
    pub id: String,
    /// Whose they are: `desk`, or `the controller's pins`.
    pub of: String,
    /// True if each is on a pin of the controller.
    pub on_pins: bool,
    /// True if one does something when it goes up.
    pub releases: bool,
    /// What is asked.
    pub asks: Vec<AskModel>,
    /// What is sent after that.
    pub after: Vec<StepModel>,
    /// How many bytes come back in all.
    pub bytes: usize,
    /// The keys that do something.
    pub buttons: Vec<ButtonModel>,
    /// The values that they change.
    pub changes: BTreeSet<usize>,
    /// The names in the source of the faces of which they ask something.
    pub asks_of: BTreeSet<String>,
}

/// A transfer to which the part answers.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct AskModel {
    /// What is sent.
    pub step: StepModel,
    /// How many bytes come back.
    pub reads: usize,
}

/// A key.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ButtonModel {
    /// Its name in the rig.
    pub name: String,
    /// Its name in the source.
    pub id: String,
    /// The same in capitals.
    pub caps: String,
    /// Which byte of the answer it is in.
    pub byte: usize,
    /// Which bits of that.
    pub mask: u8,
    /// Their value while it is down.
    pub code: u8,
    /// The pin that it is on, if it is on one.
    pub contact: Option<ContactModel>,
    /// What it does.
    pub does: Vec<ActionModel>,
}

/// A pin that a button is on.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ContactModel {
    /// The line's name in the source.
    pub line: String,
    /// Its number.
    pub number: usize,
    /// The level while the button is down.
    pub is_high: bool,
    /// The controller's own pull that is switched on: `up`, `down`, or `none`.
    pub pull: &'static str,
}

/// What a key does.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum ActionModel {
    /// A value becomes 1, or 0 again.
    Toggle {
        /// Which.
        value: usize,
    },
    /// A value is 1 while it is down, and 0 when it goes up.
    Light {
        /// Which.
        value: usize,
    },
    /// It is added to.
    Add {
        /// Which value.
        value: usize,
        /// What is added.
        step: i64,
        /// The value that says at which figure, where it is not the last one: 1 at the tens.
        at: Option<usize>,
        /// Below this it becomes that.
        least: Option<(i64, i64)>,
        /// Above this it becomes that.
        most: Option<(i64, i64)>,
    },
    /// It is set.
    Set {
        /// Which value.
        value: usize,
        /// To what.
        to: i64,
    },
    /// All acts are held, or go on.
    Hold,
    /// Something happens on a face: its stopwatch runs, its clock is set, it goes on from another moment.
    Ask {
        /// The face's name in the source.
        face: String,
        /// What, as a name in the source: `start_stop`.
        what: String,
    },
}

/// A moment from which a key lets a face go on.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct JumpModel {
    /// What goes on from there, as a name in the source: `jump_4000`.
    pub what: String,
    /// It, in milliseconds.
    pub to: u32,
    /// The passage that is shown then.
    pub passage: usize,
    /// How far each passage has come: this one to that moment, those that are not shown to their beginning.
    pub states: Vec<StateModel>,
    /// For how long what is shown then still stays; none for good.
    pub left: Option<u32>,
    /// The brightness step that is set then.
    pub brightness: Option<u8>,
}

/// How far a passage has come, as it is kept while it is not shown.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(untagged)]
pub enum StateModel {
    /// Pictures, or a window along a strip.
    At {
        /// Which one is next.
        at: usize,
    },
    /// A count.
    Count {
        /// The next number.
        number: i64,
        /// How often all came.
        done: u64,
    },
    /// A clock, which begins anew.
    Clock {
        /// The time, in seconds; with those of a minute where they are not shown.
        time: u32,
        /// The same as hours, minutes and seconds as it keeps them.
        parts: [u32; 3],
        /// Ticks of the second.
        tick: u32,
        /// How long it is still shown after its first tick, and that tick as it is at the very beginning; 0 for good.
        left: u32,
    },
    /// A value.
    Value {
        /// How long it is still shown from the next look on; 0 for good.
        left: u32,
        /// Whether the figure that the cursor is on was lit.
        was_lit: bool,
    },
    /// Nothing that one could go on from.
    None,
}

impl ActionModel {
    /// The value that it changes.
    pub(in crate::project) const fn changes(&self) -> Option<usize> {
        match self {
            Self::Toggle { value }
            | Self::Light { value }
            | Self::Add { value, .. }
            | Self::Set { value, .. } => Some(*value),
            _ => None,
        }
    }

    /// What it asks of which face, both as names in the source.
    pub(in crate::project) fn asks(&self) -> Option<(&str, &str)> {
        match self {
            Self::Ask { face, what } => Some((face, what)),
            _ => None,
        }
    }
}
