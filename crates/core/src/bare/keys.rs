//! The keys of a drive table that say how a bare display is wired.

use std::collections::BTreeMap;
use std::fmt;

use crate::rig::Spanned;
use serde::de::{Deserialize, Deserializer, MapAccess, SeqAccess, Visitor, value::MapAccessDeserializer};

use super::circuit::{ResistorPlace, SwitchKind};
use crate::glyph::Common;
use crate::rig::{DriveTable, Function, Pin};
use crate::words::words;

/// The keys that all bare methods have.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct CircuitKeys {
    /// The output of each segment.
    pub(super) segments: Option<Spanned<Segments>>,
    /// The output that selects each digit, from left to right.
    pub(super) digits: Option<Spanned<Vec<Spanned<Pin>>>>,
    /// The output of each row of dots, from top to bottom.
    pub(super) rows: Option<Spanned<Vec<Spanned<Pin>>>>,
    /// The output of each column of dots, from left to right.
    pub(super) columns: Option<Spanned<Vec<Spanned<Pin>>>>,
    /// The lines that are selected one after another: rows or columns.
    pub(super) scan: Option<Spanned<ScanBy>>,
    /// The output at each pin of the display's package.
    pub(super) package_pins: Option<Spanned<BTreeMap<Spanned<String>, Spanned<Pin>>>>,
    /// The common side for which the circuit is made, where the display has the other one: it is wired the wrong way round.
    pub(super) wired_for: Option<Spanned<Common>>,
    /// The switches between the outputs and the common sides of the digits.
    pub(super) digit_switch: Option<Spanned<SwitchKey>>,
    /// The switches between the outputs and the lines of the segments.
    pub(super) segment_switch: Option<Spanned<SwitchKey>>,
    /// The level that selects a digit.
    pub(super) digits_active: Option<Spanned<LevelKey>>,
    /// The part that limits the current.
    pub(super) resistor: Option<Spanned<ResistorKey>>,
    /// How often a second every digit has its turn.
    pub(super) refresh_hz: Option<Spanned<u32>>,
    /// How long all is dark at the beginning of each slot.
    pub(super) blanking: Option<Spanned<String>>,
    /// How long the controller takes for each write.
    pub(super) write: Option<Spanned<String>>,
    /// How many bits the light of each element has, 1 to 6: more than 1 make greys.
    pub(super) depth: Option<Spanned<u8>>,
    /// With greys: light = level to the power of this.
    pub(super) gamma: Option<Spanned<f64>>,
}

words! {
    /// The lines that are selected one after another.
    pub enum ScanBy {
        /// One row after another.
        Rows = "rows",
        /// One column after another.
        Columns = "columns",
    }
}

words! {
    /// A level by its name.
    pub enum LevelKey {
        /// 0 V.
        Low = "low",
        /// The supply voltage of the controller.
        High = "high",
    }
}

impl From<bool> for LevelKey {
    fn from(is_high: bool) -> Self {
        if is_high { Self::High } else { Self::Low }
    }
}

/// The keys of a resistor.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ResistorKey {
    /// Of each.
    pub(super) ohms: Spanned<f64>,
    /// Where they are: in the line of each segment, or in each common line.
    #[serde(rename = "in")]
    pub(super) place: Option<ResistorPlace>,
}

/// A switch: its kind, or a table of what is known of it.
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "schema", schemars(untagged))]
pub enum SwitchKey {
    Kind(SwitchKind),
    Table(SwitchTable),
}

/// The keys of a switch.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct SwitchTable {
    /// Its kind.
    pub(super) kind: SwitchKind,
    /// The level at the output that makes it conduct.
    pub(super) active: Option<LevelKey>,
    /// The voltage across it while it conducts.
    pub(super) drop_volts: Option<f64>,
    /// The time for which it conducts after it is switched off: `"2us"`.
    pub(super) turn_off: Option<Spanned<String>>,
    /// The most that it may carry, in milliamperes.
    pub(super) most_ma: Option<f64>,
}

impl<'de> Deserialize<'de> for SwitchKey {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct SwitchVisitor;
        impl<'de> Visitor<'de> for SwitchVisitor {
            type Value = SwitchKey;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("none, npn, pnp, nmos or pmos, or a table with a kind")
            }
            fn visit_str<E: serde::de::Error>(self, word: &str) -> Result<SwitchKey, E> {
                let word: serde::de::value::StrDeserializer<'_, E> =
                    serde::de::IntoDeserializer::into_deserializer(word);
                SwitchKind::deserialize(word).map(SwitchKey::Kind)
            }
            fn visit_map<A: MapAccess<'de>>(self, map: A) -> Result<SwitchKey, A::Error> {
                SwitchTable::deserialize(MapAccessDeserializer::new(map)).map(SwitchKey::Table)
            }
        }
        deserializer.deserialize_any(SwitchVisitor)
    }
}

/// Which outputs the segments are at.
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "schema", schemars(untagged))]
pub enum Segments {
    /// In this order on the bits of a part, most significant first: `dp g f e d c b a`; or of a port of the
    /// controller, which is named before: `P1: dp g f e d c b a`.
    Order(String),
    /// By segment.
    Table(Table),
    /// By segment, a table a digit.
    Tables(Vec<Spanned<Table>>),
}

/// Outputs by the name of their segment.
pub type Table = BTreeMap<Spanned<String>, Spanned<Pin>>;

impl<'de> Deserialize<'de> for Segments {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct SegmentsVisitor;
        impl<'de> Visitor<'de> for SegmentsVisitor {
            type Value = Segments;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a table of segments and their pins, a list of such tables, or a bit order")
            }
            fn visit_str<E: serde::de::Error>(self, order: &str) -> Result<Segments, E> {
                Ok(Segments::Order(order.to_owned()))
            }
            fn visit_map<A: MapAccess<'de>>(self, map: A) -> Result<Segments, A::Error> {
                Table::deserialize(MapAccessDeserializer::new(map)).map(Segments::Table)
            }
            fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Segments, A::Error> {
                let mut tables = Vec::new();
                while let Some(table) = list.next_element()? {
                    tables.push(table);
                }
                Ok(Segments::Tables(tables))
            }
        }
        deserializer.deserialize_any(SegmentsVisitor)
    }
}

impl CircuitKeys {
    /// Returns true if the keys ask for a scan: there is something to select.
    #[must_use]
    pub fn is_scanned(&self, table: &DriveTable<'_>) -> bool {
        let by_package = || {
            let functions = table.package().map(|package| &package.pins);
            self.package_pins.is_some()
                && functions.is_some_and(|pins| {
                    pins.iter().any(|pin| matches!(pin, Function::Digit(_) | Function::Row(_)))
                })
        };
        self.digits.is_some() || self.rows.is_some() || by_package()
    }
}
