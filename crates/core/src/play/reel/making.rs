//! The context of an act: its face, the variables, and the source of files.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::ops::Range;
use std::time::Duration;

use jiff::tz::TimeZone;

use super::super::clock::parse_zone;
use super::super::gauge::Source;
use super::super::{Act, Inputs, Value};
use super::binding::Binding;
use super::keys::{GivenOrName, place_in, place_of};
use super::nested::Nesting;
use crate::content::Canvas;
use crate::dots::font::Font;
use crate::dots::own;
use crate::dots::reduce::Reduction;
use crate::dots::sprite::Sprite;
use crate::face::Face;
use crate::plan::{ButtonId, Keypad, Mount, Rig};
use crate::rig::{Findings, Spanned, Trouble};

/// Where the files of a reel come from. The reasons why one cannot be had are said at the line that names it.
pub trait Sources {
    /// A sprite, or a picture brought down to dots; `is_asked` where the reel says how pictures are brought down.
    ///
    /// # Errors
    /// Why it cannot be had.
    fn sprite(&self, name: &str, reduction: &Reduction, is_asked: bool) -> Result<Sprite, String>;

    /// A font that is none of ours.
    ///
    /// # Errors
    /// Why it cannot be had.
    fn font(&self, name: &str) -> Result<Font, String>;

    /// The text of another reel, and where the files come from that it names.
    ///
    /// # Errors
    /// Why it cannot be had.
    fn reel(&self, name: &str) -> Result<(String, Box<dyn Sources>), String>;
}

/// The context of acts.
pub struct Making<'m> {
    /// The face, or the part of it, that the act has.
    pub face: &'m Face,
    /// The mount of the face.
    pub mount: &'m Mount,
    /// The rig that it is of.
    pub rig: &'m Rig,
    /// The additions of the act to the reel.
    pub brought: Brought,
    /// How often the act is to play.
    pub times: Option<u32>,
    /// The variables, and what they are at first.
    pub variables: &'m BTreeMap<String, Value>,
    /// The first values of variables that are given on the command line.
    pub settings: &'m [(String, Value)],
    /// Files.
    pub sources: &'m dyn Sources,
    /// The findings.
    pub findings: &'m Findings,
    /// The table of the act.
    pub span: Range<usize>,
    /// The reels within which it is, from the outermost on.
    pub within: &'m Nesting,
}

/// The additions of an act to its reel.
#[derive(Default)]
pub struct Brought {
    /// The buttons that are wanted.
    pub heard: Vec<Keypad>,
    /// The actions of buttons.
    pub bindings: Vec<Binding>,
    /// Variables, and what they are at first.
    pub variables: BTreeMap<String, Value>,
}

/// Something that cannot be shown, with the reason.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{message}")]
pub struct CannotPlay {
    /// Why.
    pub message: String,
    /// The next step.
    pub fix: Option<String>,
}

impl Trouble for CannotPlay {
    fn fix(&self) -> Option<String> {
        self.fix.clone()
    }
}

impl Making<'_> {
    /// Says that the act cannot be played, and why.
    pub fn cannot<T>(&self, message: impl ToString, fix: Option<&str>) -> Option<T> {
        let message = format!("face {} cannot show this: {}", self.mount.face.name, message.to_string());
        self.findings.stop(self.span.clone(), CannotPlay { message, fix: fix.map(str::to_owned) })
    }

    /// A font by its name among ours, or its file.
    pub fn font(&self, name: &Spanned<String>) -> Option<Font> {
        if let Some(font) = own::called(name.get_ref()) {
            return Some(font);
        }
        match self.sources.font(name.get_ref()) {
            Ok(font) => Some(font),
            Err(message) => self.findings.stop(name.span(), CannotPlay { message, fix: Some(font_names()) }),
        }
    }

    /// Returns a time zone; UTC by default.
    pub fn zone(&self, name: Option<&Spanned<String>>) -> Option<TimeZone> {
        let Some(name) = name else { return Some(TimeZone::UTC) };
        match parse_zone(name.get_ref()) {
            Ok(zone) => Some(zone),
            Err(error) => {
                self.findings.stop(name.span(), CannotPlay { message: error.to_string(), fix: None })
            }
        }
    }

    /// A lamp or colon of the face, by its place.
    pub fn lamp(&self, name: &Spanned<String>) -> Option<usize> {
        place_of("lamp", name, self.face.extras.iter().map(|extra| extra.name.as_str()), self.findings)
    }

    /// A button: `desk.call1`, of the act's own face `call1`, or one on a pin. It is then listened to.
    pub fn button(&mut self, name: &Spanned<String>) -> Option<ButtonId> {
        let button = find_button(self.rig, name, Some(&self.mount.face.name), self.findings)?;
        self.brought.heard.push(button.keypad);
        Some(button)
    }

    /// Checks that a variable of this name exists, and reports it if it is missing.
    pub fn knows(&self, name: &str, span: Range<usize>) -> Option<()> {
        let names = self.variables.keys().map(String::as_str);
        place_in("variable", name, span, names, self.findings).map(|_| ())
    }

    /// Where a value comes from.
    pub fn source(&self, given: &Spanned<GivenOrName>) -> Option<Source> {
        Some(match given.get_ref() {
            GivenOrName::Number(number) => Source::Fixed(*number),
            GivenOrName::Name(name) => {
                self.knows(name, given.span())?;
                Source::Variable(name.clone())
            }
        })
    }

    /// The names of variables that stand in braces in a text.
    pub fn names_in(&self, text: &str) -> Vec<String> {
        let is_there = |name: &&String| text.contains(&format!("{{{name}}}"));
        self.variables.keys().filter(is_there).cloned().collect()
    }
}

/// Returns the button of this name: `desk.call1`, `up` on a pin, or `call1` of the usual face; reports it if it is missing.
pub fn find_button(
    rig: &Rig,
    name: &Spanned<String>,
    usual: Option<&str>,
    findings: &Findings,
) -> Option<ButtonId> {
    let on_pins = rig.pin_buttons().iter().map(|button| button.name.as_str());
    if let Some(button) = on_pins.clone().position(|known| known == name.get_ref()) {
        return Some(ButtonId { keypad: Keypad::Pins, button });
    }
    let only = if let [only] = &rig.faces[..] { Some(only.face.name.as_str()) } else { None };
    let (face, button) = match name.get_ref().split_once('.') {
        Some((face, button)) => (Some(face), button),
        None => (usual.or(only), name.get_ref().as_str()),
    };
    if face.is_none() && !rig.pin_buttons().is_empty() {
        place_in("button", button, name.span(), on_pins, findings)?;
        return None;
    }
    let faces = rig.faces.iter().map(|mount| mount.face.name.as_str());
    let face = place_in("face", face.unwrap_or_default(), name.span(), faces, findings)?;
    let keypad = Keypad::Face(face);
    let has_dot = name.get_ref().contains('.');
    let buttons = rig.button_names(keypad).into_iter().chain(on_pins.filter(|_| !has_dot));
    let button = place_in("button", button, name.span(), buttons, findings)?;
    Some(ButtonId { keypad, button })
}

fn font_names() -> String {
    let ours: Vec<_> = own::FONTS.iter().map(|font| font.name).collect();
    format!("ours: {}; or name a BDF file", ours.join(", "))
}

/// An act whose words have variables: it is built again when one of them changes.
pub struct Varying {
    names: Vec<String>,
    first: Vec<Value>,
    make: Box<Make>,
    /// The last that was made.
    made: RefCell<Made>,
}

/// Makes the act of what the variables are; `None` where that cannot be shown.
type Make = dyn Fn(&[Value]) -> Option<Box<dyn Act>>;

/// An act, and the values that it was made of.
struct Made {
    values: Vec<Value>,
    act: Option<Box<dyn Act>>,
}

impl Varying {
    /// An act made of these variables; `first` is what they are at first.
    #[must_use]
    pub fn new(
        names: Vec<String>,
        first: Vec<Value>,
        make: impl Fn(&[Value]) -> Option<Box<dyn Act>> + 'static,
    ) -> Self {
        let made = Made { values: first.clone(), act: make(&first) };
        Self { names, made: RefCell::new(made), first, make: Box::new(make) }
    }

    fn with<T>(&self, elapsed: Duration, inputs: &Inputs, ask: impl FnOnce(&dyn Act) -> T) -> Option<T> {
        let now = self.names.iter().zip(&self.first);
        let now: Vec<Value> =
            now.map(|(name, first)| inputs.value(name, elapsed).unwrap_or(first).clone()).collect();
        let mut made = self.made.borrow_mut();
        if made.values != now {
            *made = Made { act: (self.make)(&now), values: now };
        }
        made.act.as_deref().map(ask)
    }
}

impl Act for Varying {
    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>) {
        self.with(elapsed, inputs, |act| act.draw(elapsed, inputs, canvas));
    }

    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration> {
        let own = self.with(elapsed, inputs, |act| act.next_change(elapsed, inputs)).flatten();
        let values = self.names.iter().filter_map(|name| inputs.next_value(name, elapsed));
        own.into_iter().chain(values).min()
    }

    fn variables(&self) -> Vec<&str> {
        self.names.iter().map(String::as_str).collect()
    }

    fn length(&self) -> Option<Duration> {
        self.with(Duration::ZERO, &Inputs::default(), |act| act.length()).flatten()
    }
}
