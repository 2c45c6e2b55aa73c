//! The kinds of acts that a reel file has, a file each.

mod all;
mod blank;
mod brightness;
mod clock;
mod count;
mod gauge;
mod lamps;
mod number;
mod plot;
mod reading;
mod reel;
mod sprite;
mod stopwatch;
mod test;
mod text;

use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::DeserializeOwned;

use super::super::Act;
use super::keys::CommonKeys;
use super::making::Making;

/// A kind of act: the keys of its table, and the act that is made of them.
pub trait Keys: DeserializeOwned + JsonSchema {
    /// Further keys of its table, such as the form of numbers.
    type Form: DeserializeOwned + JsonSchema;

    /// The act; `None` when something is wrong, which is then said. Where it plays `times` by itself, that is done with.
    fn act(&self, form: &Self::Form, making: &mut Making<'_>) -> Option<Box<dyn Act>>;
}

/// A kind of act by its name.
pub struct Kind {
    /// How a file names it.
    pub name: &'static str,
    /// Makes one of a table.
    pub make: fn(&crate::rig::value::Value, &mut Making<'_>) -> Option<Box<dyn Act>>,
    /// The schemas of its tables.
    #[cfg_attr(not(feature = "schema"), allow(dead_code, reason = "only a schema asks for them"))]
    pub schemas: fn(&mut SchemaGenerator) -> Vec<Schema>,
}

fn make<K: Keys>(value: &crate::rig::value::Value, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
    let (keys, form, _) = crate::rig::reader::read_three::<K, K::Form, CommonKeys>(
        value,
        making.span.clone(),
        making.findings,
    )?;
    keys.act(&form, making)
}

fn schemas<K: Keys>(generator: &mut SchemaGenerator) -> Vec<Schema> {
    vec![K::json_schema(generator), K::Form::json_schema(generator), CommonKeys::json_schema(generator)]
}

const fn kind<K: Keys>(name: &'static str) -> Kind {
    Kind { name, make: make::<K>, schemas: schemas::<K> }
}

/// All of them.
pub const KINDS: [Kind; 15] = [
    kind::<count::CountKeys>("count"),
    kind::<clock::ClockKeys>("clock"),
    kind::<stopwatch::StopwatchKeys>("stopwatch"),
    kind::<number::NumberKeys>("number"),
    kind::<reading::ReadingKeys>("reading"),
    kind::<text::TextKeys>("text"),
    kind::<sprite::SpriteKeys>("sprite"),
    kind::<gauge::GaugeKeys>("gauge"),
    kind::<plot::PlotKeys>("plot"),
    kind::<lamps::LampsKeys>("lamps"),
    kind::<brightness::BrightnessKeys>("brightness"),
    kind::<test::TestKeys>("test"),
    kind::<all::AllKeys>("all"),
    kind::<blank::BlankKeys>("blank"),
    kind::<reel::InnerReelKeys>("reel"),
];
