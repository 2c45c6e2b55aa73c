//! What the lines come from: the controller, its pins and limits, its supply and its levels.

use std::ops::Range;

use serde_spanned::Spanned;

use super::finding::{Findings, Problem};
use super::pin::{Pin, Reserved};
use crate::units::{Milliamps, Volts};

/// The controller at the sending end.
#[derive(Debug, Clone, PartialEq)]
pub struct Controller {
    /// The part number, when the file names one.
    pub part: Option<&'static str>,
    /// The supply of the display side.
    pub supply_volts: Volts,
    /// What the supply can give, when the file says.
    pub supply_current: Option<Milliamps>,
    /// Where the file tells of the supply, or might.
    pub supply_place: Range<usize>,
    /// The high level at the controller's pins.
    pub logic_volts: Volts,
    /// What its pins can take.
    pub limits: Limits,
}

/// The currents that a controller's pins can take, where they are known.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Limits {
    /// A pin, for long.
    pub pin: Option<Milliamps>,
    /// A pin, at the absolute most, where that is another figure.
    pub pin_absolute: Option<Milliamps>,
    /// A pin that gives current, where it gives less than it takes.
    pub pin_source: Option<Milliamps>,
    /// All pins of a port.
    pub port: Option<Milliamps>,
    /// All pins of port 0, where that is another figure.
    pub port_0: Option<Milliamps>,
    /// All pins together.
    pub total: Option<Milliamps>,
}

/// The keys of the controller table.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Keys {
    part: Option<Spanned<String>>,
    supply: Option<Spanned<Supply>>,
    logic_volts: Option<f64>,
    #[serde(default)]
    limits: LimitKeys,
}

/// The keys of the supply.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Supply {
    volts: f64,
    amps: Option<f64>,
}

/// The keys of own limits, in milliamperes.
#[derive(Default, serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct LimitKeys {
    pin: Option<f64>,
    port: Option<f64>,
    total: Option<f64>,
}

/// A known controller.
struct Part {
    name: &'static str,
    logic: Volts,
    limits: Limits,
    /// Its pins in words.
    pins: &'static str,
    /// The pin by a name as people write it, in capitals.
    pin: fn(&str) -> Option<String>,
    reserved: fn(&str) -> Option<Reserved>,
}

const NO_LIMITS: Limits =
    Limits { pin: None, pin_absolute: None, pin_source: None, port: None, port_0: None, total: None };

/// The known controllers, with the figures of their data sheets.
const PARTS: [Part; 5] = [
    Part {
        name: "atmega328p",
        logic: Volts(5.0),
        limits: Limits {
            pin: Some(Milliamps(20.0)),
            pin_absolute: Some(Milliamps(40.0)),
            total: Some(Milliamps(200.0)),
            ..NO_LIMITS
        },
        pins: "PB0 to PB7, PC0 to PC6, PD0 to PD7, or a board's 0 to 13 and A0 to A5",
        pin: |name| {
            let number: Option<usize> = name.strip_prefix('D').unwrap_or(name).parse().ok();
            match (number, name.strip_prefix('A').and_then(|number| number.parse::<usize>().ok())) {
                (Some(number @ 0..=7), _) => Some(format!("PD{number}")),
                (Some(number @ 8..=13), _) => Some(format!("PB{}", number - 8)),
                (_, Some(number @ 0..=5)) => Some(format!("PC{number}")),
                _ => one_of(name, &[("PB", 0..=7), ("PC", 0..=6), ("PD", 0..=7)]),
            }
        },
        reserved: |pin| matches!(pin, "PD0" | "PD1").then_some(Reserved::Serial),
    },
    Part {
        name: "rp2040",
        logic: Volts(3.3),
        limits: Limits { pin: Some(Milliamps(12.0)), total: Some(Milliamps(50.0)), ..NO_LIMITS },
        pins: "GP0 to GP29",
        pin: |name| gpio(name, "GP", 29),
        reserved: |_| None,
    },
    Part {
        name: "esp32",
        logic: Volts(3.3),
        limits: Limits { pin: Some(Milliamps(20.0)), pin_absolute: Some(Milliamps(40.0)), ..NO_LIMITS },
        pins: "GPIO0 to GPIO39",
        pin: |name| gpio(name, "GPIO", 39),
        reserved: |pin| match pin.strip_prefix("GPIO").and_then(|number| number.parse::<usize>().ok()) {
            Some(34..=39) => Some(Reserved::InputOnly),
            Some(6..=11) => Some(Reserved::Flash),
            Some(0 | 2 | 5 | 12 | 15) => Some(Reserved::Strap),
            Some(1 | 3) => Some(Reserved::Serial),
            _ => None,
        },
    },
    Part {
        name: "mcs51",
        logic: Volts(5.0),
        limits: Limits {
            pin: Some(Milliamps(10.0)),
            pin_source: Some(Milliamps(0.1)),
            port: Some(Milliamps(15.0)),
            port_0: Some(Milliamps(26.0)),
            total: Some(Milliamps(71.0)),
            ..NO_LIMITS
        },
        pins: "P0.0 to P3.7",
        pin: |name| one_of(name, &[("P0.", 0..=7), ("P1.", 0..=7), ("P2.", 0..=7), ("P3.", 0..=7)]),
        reserved: |pin| matches!(pin, "P3.0" | "P3.1").then_some(Reserved::Serial),
    },
    Part {
        name: "pic16f54",
        logic: Volts(5.0),
        limits: Limits { pin: Some(Milliamps(25.0)), ..NO_LIMITS },
        pins: "RA0 to RA3, RB0 to RB7",
        pin: |name| one_of(name, &[("RA", 0..=3), ("RB", 0..=7)]),
        reserved: |_| None,
    },
];

/// A name with one of these prefixes and a number in its range.
fn one_of(name: &str, groups: &[(&str, std::ops::RangeInclusive<usize>)]) -> Option<String> {
    groups.iter().find_map(|(prefix, numbers)| {
        let number: usize = name.strip_prefix(prefix)?.parse().ok()?;
        numbers.contains(&number).then(|| format!("{prefix}{number}"))
    })
}

/// A pin that is known by its number, with or without a prefix.
fn gpio(name: &str, prefix: &str, last: usize) -> Option<String> {
    let number = ["GPIO", "GP", "IO"].iter().find_map(|known| name.strip_prefix(known)).unwrap_or(name);
    let number: usize = number.parse().ok()?;
    (number <= last).then(|| format!("{prefix}{number}"))
}

impl Controller {
    /// From the keys, with what was assumed noted. `None` when an error was found.
    pub fn plan(keys: Option<Spanned<Keys>>, findings: &Findings) -> Option<Self> {
        let (table, keys) = match keys {
            Some(keys) => (keys.span(), keys.into_inner()),
            None => {
                (0..0, Keys { part: None, supply: None, logic_volts: None, limits: LimitKeys::default() })
            }
        };
        let known = match &keys.part {
            None => None,
            Some(part) => match PARTS.iter().find(|known| known.name == part.get_ref()) {
                Some(known) => Some(known),
                None => {
                    let problem =
                        Problem::unknown_name("controller", part.get_ref(), &PARTS.map(|known| known.name));
                    return findings.stop(part.span(), problem);
                }
            },
        };
        let assume = |key: &str, volts: f64| {
            let assumed = Problem::Assumed { key: format!("controller.{key}"), value: volts.to_string() };
            findings.note(table.clone(), assumed);
            volts
        };
        let supply_place = keys.supply.as_ref().map_or(table.clone(), Spanned::span);
        let (volts, amps) = keys.supply.map_or((None, None), |supply| {
            let Supply { volts, amps } = supply.into_inner();
            (Some(volts), amps)
        });
        let supply = volts.unwrap_or_else(|| assume("supply.volts", 5.0));
        let at_pins = || assume("logic_volts", known.map_or(5.0, |part| part.logic.0));
        let limits = known.map_or(NO_LIMITS, |part| part.limits);
        let own_pin = keys.limits.pin.map(Milliamps);
        let own_port = keys.limits.port.map(Milliamps);
        Some(Self {
            part: known.map(|part| part.name),
            supply_volts: Volts(supply),
            supply_current: amps.map(|amps| Milliamps(1e3 * amps)),
            supply_place,
            logic_volts: Volts(keys.logic_volts.unwrap_or_else(at_pins)),
            limits: Limits {
                pin: own_pin.or(limits.pin),
                pin_absolute: if own_pin.is_some() { None } else { limits.pin_absolute },
                pin_source: if own_pin.is_some() { None } else { limits.pin_source },
                port: own_port.or(limits.port),
                port_0: own_port.or(limits.port_0),
                total: keys.limits.total.map(Milliamps).or(limits.total),
            },
        })
    }

    fn known(&self) -> Option<&'static Part> {
        PARTS.iter().find(|part| Some(part.name) == self.part)
    }

    /// The pin by the name that the data sheet has for it; on a controller that is not known, as it is.
    ///
    /// # Errors
    /// The pins that there are, in words, when it is none of them.
    pub fn pin(&self, pin: &Pin) -> Result<Pin, &'static str> {
        let Some(part) = self.known() else { return Ok(pin.clone()) };
        (part.pin)(pin.name()).and_then(|name| Pin::parse(&name)).ok_or(part.pins)
    }

    /// Why a pin had better be left alone, if there is a reason.
    #[must_use]
    pub fn reserved(&self, pin: &Pin) -> Option<Reserved> {
        (self.known()?.reserved)(pin.name())
    }
}
