//! The tables of a rig file as they are written: the top of the file, a face, its lights, colons, lamps and buttons.

use std::collections::BTreeMap;

use serde::de::IgnoredAny;

use super::button::ButtonKeys;
use super::{Spanned, controller, glyphs, package};
use crate::face::Colour;
use crate::glyph::{Common, Style};

/// The keys at the top of the file.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct RigKeys {
    /// A name for it.
    pub name: Option<String>,
    /// The source of the lines: the controller, its pins and limits, its supply and its levels.
    #[serde(default)]
    pub controller: Option<Spanned<controller::Keys>>,
    /// Push buttons on pins of the controller, each by a name of your own.
    #[serde(default)]
    pub buttons: BTreeMap<Spanned<String>, ButtonKeys>,
    /// Read face by face.
    #[serde(rename = "face")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _face: Option<IgnoredAny>,
}

/// The keys of a face.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct FaceKeys {
    /// Its layout.
    pub kind: Kind,
    /// Of a face of segments.
    pub digits: Option<Spanned<i64>>,
    /// Of a face of dots.
    pub width: Option<Spanned<i64>>,
    /// Of a face of dots.
    pub height: Option<Spanned<i64>>,
    /// From the middle of one dot to that of the next, in millimetres: drawings are printed to that scale.
    pub pitch_mm: Option<Spanned<f64>>,
    /// Of a face of dots with several lights each: `["red", "green"]` or `["red", "green", "blue"]`.
    pub colours: Option<Spanned<Vec<Hue>>>,
    /// Which side of the lights is joined; of dots that of a row.
    pub common: Option<Common>,
    /// The display's own pins.
    pub package: Option<Spanned<package::Key>>,
    /// True if it is a module: display, chip and what the chip needs on one board, connected by a row of pins.
    pub module: Option<Spanned<bool>>,
    /// Its lights.
    #[serde(default)]
    pub light: LightKeys,
    /// Its colons, each after a number of digits.
    #[serde(default)]
    pub colons: Vec<ColonKeys>,
    /// Single lights beside the digits.
    #[serde(default)]
    pub lamps: Vec<LampKeys>,
    /// Push buttons, described by the same keys as lamps.
    #[serde(default)]
    pub buttons: Vec<LampKeys>,
    /// Own glyphs: a character and the names of its segments.
    #[serde(default)]
    pub glyphs: glyphs::Keys,
    /// Read by the method that it names.
    #[serde(rename = "drive")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _drive: IgnoredAny,
}

/// The keys of a colon.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ColonKeys {
    /// After how many digits it stands.
    pub after: Spanned<i64>,
    /// Where it is wired: `digit2.dp`, `grid2.seg8`, by the words of the method.
    pub node: Spanned<String>,
}

/// The keys of a lamp or push button.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct LampKeys {
    /// Its name: `{name}` in a text lights a lamp.
    pub name: Spanned<String>,
    /// Where it is wired: `digit4.a`, `grid1.seg9`, of a push button `byte0.bit0`, by the words of the method.
    pub node: Spanned<String>,
}

/// The kinds of face.
#[derive(Clone, Copy, PartialEq, Eq, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum Kind {
    #[serde(rename = "seven-segment")]
    Seven,
    #[serde(rename = "fourteen-segment")]
    Fourteen,
    #[serde(rename = "sixteen-segment")]
    Sixteen,
    #[serde(rename = "dots")]
    Dots,
}

impl Kind {
    /// The style of its digits; `None` where it has dots.
    pub const fn style(self) -> Option<Style> {
        match self {
            Self::Dots => None,
            Self::Seven => Some(Style::Seven),
            Self::Fourteen => Some(Style::Fourteen),
            Self::Sixteen => Some(Style::Sixteen),
        }
    }
}

/// One of the lights of a dot that has several.
#[derive(Clone, Copy, PartialEq, Eq, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum Hue {
    Red,
    Green,
    Blue,
}

/// The keys of a face's lights.
#[derive(Default, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct LightKeys {
    /// Their colour, which decides their usual voltage.
    pub colour: Option<Colour>,
    /// The voltage across a lit one, as its data sheet says.
    pub forward_volts: Option<f64>,
    /// The mean current that a light is wanted to get.
    pub milliamps: Option<f64>,
    /// The absolute maximum in a pulse, as its data sheet says.
    pub peak_milliamps: Option<f64>,
}

/// A drive table as far as any method's goes.
#[derive(serde::Deserialize)]
pub struct MethodKey {
    pub method: Option<Spanned<String>>,
}
