//! What the lines come from: the controller, its supply and its levels.

use serde_spanned::Spanned;

use super::finding::{Findings, Problem};
use crate::units::Volts;

/// The controller at the sending end.
#[derive(Debug, Clone, PartialEq)]
pub struct Controller {
    /// The part number, when the file names one.
    pub part: Option<&'static str>,
    /// The supply of the display side.
    pub supply_volts: Volts,
    /// The high level at the controller's pins.
    pub logic_volts: Volts,
}

/// The keys of the controller table.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Keys {
    part: Option<Spanned<String>>,
    supply: Option<Supply>,
    logic_volts: Option<f64>,
}

/// The keys of the supply.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Supply {
    volts: f64,
    #[serde(rename = "amps")]
    _amps: Option<f64>,
}

/// The known controllers and the high level at their pins, in volts.
const PARTS: [(&str, f64); 5] =
    [("atmega328p", 5.0), ("rp2040", 3.3), ("esp32", 3.3), ("mcs51", 5.0), ("pic16f54", 5.0)];

impl Controller {
    /// From the keys, with what was assumed noted. `None` when an error was found.
    pub(super) fn plan(keys: Option<Spanned<Keys>>, findings: &Findings) -> Option<Self> {
        let (table, keys) = match keys {
            Some(keys) => (keys.span(), keys.into_inner()),
            None => (0..0, Keys { part: None, supply: None, logic_volts: None }),
        };
        let known = match &keys.part {
            None => None,
            Some(part) => match PARTS.iter().find(|(name, _)| name == part.get_ref()) {
                Some(known) => Some(known),
                None => {
                    let names: Vec<_> = PARTS.iter().map(|(name, _)| *name).collect();
                    let problem = Problem::unknown_name("controller", part.get_ref(), &names);
                    return findings.stop(part.span(), problem);
                }
            },
        };
        let assume = |key: &str, volts: f64| {
            let assumed = Problem::Assumed { key: format!("controller.{key}"), value: volts.to_string() };
            findings.note(table.clone(), assumed);
            volts
        };
        let supply = keys.supply.map(|supply| supply.volts).unwrap_or_else(|| assume("supply.volts", 5.0));
        let at_pins = || assume("logic_volts", known.map_or(5.0, |(_, volts)| *volts));
        Some(Self {
            part: known.map(|(name, _)| *name),
            supply_volts: Volts(supply),
            logic_volts: Volts(keys.logic_volts.unwrap_or_else(at_pins)),
        })
    }
}
