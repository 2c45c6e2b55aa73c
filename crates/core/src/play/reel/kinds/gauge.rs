//! `gauge`: a value as a bar.

use serde::Deserialize;

use super::super::super::Act;
use super::super::super::gauge::{Bar, Gauge, Scale};
use super::super::super::scroll::Move;
use super::super::keys::{GivenOrName, NoKeys};
use super::super::making::Making;
use super::Keys;
use crate::content::number::Decimal;
use crate::rig::Spanned;

/// Shows a value as a bar of dots, or of lamps.
#[derive(Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct GaugeKeys {
    /// The number, or a variable: "{level}"
    value: Spanned<GivenOrName>,
    /// Where nothing is lit
    from: Decimal,
    /// Where all is lit
    to: Decimal,
    /// The way in which a bar of dots grows [default: right]
    way: Option<Move>,
    /// The lamps of a bar, the first lit first; dots where that is not said
    lamps: Option<Vec<Spanned<String>>>,
}

impl Keys for GaugeKeys {
    type Form = NoKeys;

    fn act(&self, _: &NoKeys, making: &mut Making<'_>) -> Option<Box<dyn Act>> {
        let source = making.source(&self.value)?;
        let scale = scale(self.from, self.to, making)?;
        let bar = match &self.lamps {
            Some(names) => Bar::Lamps(names.iter().map(|name| making.lamp(name)).collect::<Option<_>>()?),
            None if making.face.dots().is_some() => Bar::Dots(self.way.unwrap_or(Move::Right)),
            None => return making.cannot("a bar needs dots or lamps", Some("write lamps = [\"...\"]")),
        };
        Some(Box::new(Gauge { source, scale, bar }))
    }
}

/// The ends of a scale, which are two.
pub fn scale(from: Decimal, to: Decimal, making: &Making<'_>) -> Option<Scale> {
    if from.compared(&to).is_eq() {
        return making.cannot("a scale from a number to the same has no length", Some("give two numbers"));
    }
    Some(Scale { from, to })
}
