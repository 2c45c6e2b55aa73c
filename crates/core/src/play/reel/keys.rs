//! Common keys of the tables of a reel file: times, places, looks and forms of numbers.

use std::ops::Range;
use std::time::Duration;

#[cfg(feature = "schema")]
use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::Deserialize;
use serde::de::Deserializer;

use super::super::SHORTEST;
use super::making::Making;
use crate::content::Content;
use crate::content::lettering::{Fit, Look};
use crate::content::markup;
use crate::content::number::{Decimal, NumberFormat};
use crate::content::text::Align;
use crate::content::written::{NumberOrText, number_or_text};
use crate::dots::font::{Fitting, Setting};
use crate::dots::inked::WHITE;
use crate::rig::{Findings, Problem, Spanned};
use crate::units::parse_duration;

/// The keys that every act has.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct CommonKeys {
    /// How long it plays: "3s". What is shorter stays as it was at its end
    pub r#for: Option<Spanned<String>>,
    /// How often it plays
    pub times: Option<Spanned<u32>>,
    /// When it begins, counted from the beginning of the track; after the act before it where that is not said
    pub at: Option<Spanned<String>>,
    /// The digits or dots that it has for its own; all of the face where that is not said
    pub place: Option<Spanned<PlaceKeys>>,
}

/// A part of a face: digits, or a rectangle of dots.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct PlaceKeys {
    /// The first digit, from 0 at the left
    pub start: Option<usize>,
    /// How many digits
    pub length: Option<usize>,
    /// The left column of dots, from 0
    pub left: Option<usize>,
    /// The top row of dots, from 0
    pub top: Option<usize>,
    /// How many columns of dots
    pub width: Option<usize>,
    /// How many rows of dots
    pub height: Option<usize>,
}

/// How a text on dots looks.
#[derive(Debug, Default, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct LookKeys {
    /// The font: one of ours, or a BDF file
    pub font: Option<Spanned<String>>,
    /// The colour: a name, or levels such as "#ff8000"
    pub ink: Option<Spanned<String>>,
    /// Columns more between characters
    pub spacing: Option<isize>,
    /// Columns further to the right
    pub offset: Option<isize>,
    /// Keep characters apart where their shapes would leave room, as an L and a T do
    pub apart: Option<bool>,
    /// Dark letters on a lit ground
    pub inverse: Option<bool>,
    /// The handling of a text that does not fit
    pub fit: Option<Fit>,
}

/// Returns a form of numbers, if the face can show its words.
pub fn checked_form(format: &NumberFormat, look: Option<&Look>, making: &Making<'_>) -> Option<NumberFormat> {
    match Content::check_form(format, look, making.face) {
        Ok(()) => Some(format.clone()),
        Err(error) => making
            .cannot(error, Some("write the unit, and the words for under and over, in other characters")),
    }
}

/// No keys of this kind.
#[derive(Debug, Default, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct NoKeys {}

/// A number that stays, or the name of a variable.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum GivenOrName {
    /// The number.
    Number(Decimal),
    /// The name in braces.
    Name(String),
}

impl NumberOrText for GivenOrName {
    const EXPECTED: &'static str = "a number, or a variable in braces such as \"{level}\"";

    fn of_number(number: Decimal) -> Self {
        Self::Number(number)
    }

    fn of_text(text: &str) -> Option<Self> {
        match text.strip_prefix('{').and_then(|rest| rest.strip_suffix('}')) {
            Some(name) => Some(Self::Name(name.to_owned())),
            None => text.parse().map(Self::Number).ok(),
        }
    }
}

impl<'de> Deserialize<'de> for GivenOrName {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        number_or_text(deserializer)
    }
}

#[cfg(feature = "schema")]
impl JsonSchema for GivenOrName {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "GivenOrName".into()
    }

    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        Decimal::json_schema(generator)
    }
}

/// Returns the index of a name; reports an error and returns `None` if it is unknown.
pub fn place_of<'n>(
    what: &'static str,
    name: &Spanned<String>,
    names: impl Iterator<Item = &'n str>,
    findings: &Findings,
) -> Option<usize> {
    place_in(what, name.get_ref(), name.span(), names, findings)
}

/// The same of a name that stands somewhere in a text.
pub fn place_in<'n>(
    what: &'static str,
    name: &str,
    span: Range<usize>,
    names: impl Iterator<Item = &'n str>,
    findings: &Findings,
) -> Option<usize> {
    let names: Vec<_> = names.collect();
    let place = names.iter().position(|known| *known == name);
    place.or_else(|| findings.stop(span, Problem::unknown_name(what, name, &names)))
}

/// A length of time that can be seen.
pub fn time(text: &Spanned<String>, making: &Making<'_>) -> Option<Duration> {
    match parse_duration(text.get_ref()) {
        Ok(time) if time >= SHORTEST => Some(time),
        Ok(time) if !time.is_zero() => {
            let (found, allowed) = (format!("the text {:?}", text.get_ref()), "1us or more".to_owned());
            making.findings.stop(text.span(), Problem::WrongValue { found, allowed })
        }
        _ => no_time(text, making.findings),
    }
}

/// A moment, which may be the beginning.
pub fn moment(text: &Spanned<String>, findings: &Findings) -> Option<Duration> {
    parse_duration(text.get_ref()).ok().or_else(|| no_time(text, findings))
}

fn no_time(text: &Spanned<String>, findings: &Findings) -> Option<Duration> {
    let found = format!("the text {:?}", text.get_ref());
    let allowed = "a time such as 250ms, 1.5s or 2m".to_owned();
    findings.stop(text.span(), Problem::WrongValue { found, allowed })
}

/// The same where it may be left out; `None` when it is wrong.
#[allow(clippy::option_option, reason = "left out and wrong are two things")]
pub fn time_if_any(text: Option<&Spanned<String>>, making: &Making<'_>) -> Option<Option<Duration>> {
    match text {
        Some(text) => time(text, making).map(Some),
        None => Some(None),
    }
}

impl LookKeys {
    /// The look, where the face has dots; `None` when something is wrong with it.
    #[allow(clippy::option_option, reason = "no dots and something wrong are two things")]
    pub fn on_dots(
        keys: Option<&Self>,
        usual_font: &str,
        align: Align,
        making: &Making<'_>,
    ) -> Option<Option<Look>> {
        match making.face.dots() {
            Some(_) => Self::look(keys, usual_font, align, making).map(Some),
            None => Some(None),
        }
    }

    /// The look on dots; `None` when something is wrong with it.
    pub fn look(keys: Option<&Self>, usual_font: &str, align: Align, making: &Making<'_>) -> Option<Look> {
        let none = Self::default();
        let keys = keys.unwrap_or(&none);
        let font = match &keys.font {
            Some(name) => making.font(name)?,
            None => crate::dots::own::called(usual_font)?,
        };
        let ink = match &keys.ink {
            None => WHITE,
            Some(name) => match markup::colour(name.get_ref()) {
                Some(colour) => colour,
                None => {
                    let names = markup::COLOURS.iter().map(|(name, _)| *name);
                    return place_of("colour", name, names, making.findings).and(None);
                }
            },
        };
        Some(Look {
            ink,
            setting: Setting {
                spacing: keys.spacing.unwrap_or(0),
                fitting: if keys.apart == Some(true) { Fitting::Plain } else { Fitting::Kerned },
            },
            offset: keys.offset.unwrap_or(0),
            inverse: keys.inverse.unwrap_or(false),
            align,
            fit: keys.fit.unwrap_or_default(),
            ..Look::of(font)
        })
    }
}
