//! The source of the lines: the controller, its pins and limits, its supply and its levels.

use super::spanned::{FilePlace, Spanned};

use super::controllers::{
    self, Facts, Group, I2cPins, KnownPin, LimitKeys, MOST_PINS, ReservedKeys, SpiPins,
};
use super::finding::{Findings, Problem};
use super::pin::{Pin, Reserved};
use crate::units::{Milliamps, Volts};

/// The controller at the sending end.
#[derive(Debug, Clone, PartialEq)]
pub struct Controller {
    /// The part number, when the file names one.
    pub part: Option<String>,
    /// The known facts; `None` if the file names neither a known part nor pins of its own.
    pub facts: Option<Facts>,
    /// The supply of the display side.
    pub supply_volts: Volts,
    /// The rating of the supply, if the file gives it.
    pub supply_current: Option<Milliamps>,
    /// The place of the supply in the file.
    pub supply_place: FilePlace,
    /// The high level at the controller's pins.
    pub logic_volts: Volts,
    /// The limits of its pins.
    pub limits: Limits,
    /// Its pins, where they are known.
    pins: Vec<KnownPin>,
}

/// The currents that a controller's pins can take, where they are known.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Limits {
    /// A pin, for long.
    pub pin: Option<Milliamps>,
    /// A pin, at the absolute most, where that is another figure.
    pub pin_absolute: Option<Milliamps>,
    /// A pin that sinks current, at the absolute most, where that is another figure.
    pub pin_sink_absolute: Option<Milliamps>,
    /// A pin that gives current, where it gives less than it takes.
    pub pin_source: Option<Milliamps>,
    /// A pin after a reset, where more takes a drive strength that the program sets.
    pub pin_after_reset: Option<Milliamps>,
    /// All pins of a port.
    pub port: Option<Milliamps>,
    /// All pins of port 0, where that is another figure.
    pub port_0: Option<Milliamps>,
    /// All pins together.
    pub total: Option<Milliamps>,
    /// All pins together, at the absolute most.
    pub total_absolute: Option<Milliamps>,
}

/// The keys of the controller table. They override those of a known part; an unknown part is described by them.
#[derive(Default, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Keys {
    /// The part number of a known controller, or a name of your own for one that is spelled out here.
    part: Option<Spanned<String>>,
    /// The supply of the displays.
    supply: Option<Spanned<Supply>>,
    /// The high level at its pins.
    logic_volts: Option<f64>,
    /// True if its inputs stand 5 V though its own supply is lower.
    five_volt_tolerant: Option<bool>,
    /// Its clock.
    clock_hz: Option<u32>,
    /// The memory for programs and tables.
    flash_bytes: Option<u64>,
    /// The memory for variables.
    ram_bytes: Option<u64>,
    /// The limits of its pins, in milliamperes.
    #[serde(default)]
    limits: LimitKeys,
    /// Its pins, those that one takes first before the others.
    pins: Option<Spanned<Vec<Group>>>,
    /// Its hardware buses for shift registers and driver chips.
    spi: Option<Vec<SpiPins>>,
    /// Its hardware two-wire buses.
    i2c: Option<Vec<I2cPins>>,
    /// The pins that had better be left alone: their names, each by the reason.
    reserved: Option<ReservedKeys>,
}

/// The keys of the supply.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Supply {
    /// Its voltage.
    volts: f64,
    /// The current that it can give, in amperes.
    amps: Option<f64>,
}

impl Controller {
    /// From the keys, with what was assumed noted. `None` when an error was found.
    pub fn plan(keys: Option<Spanned<Keys>>, findings: &Findings) -> Option<Self> {
        let (table, mut keys) = keys.map_or((0..0, Keys::default()), |keys| (keys.span(), keys.into_inner()));
        let facts = facts(&mut keys, findings)?;
        let assume = |key: &str, volts: f64| {
            let assumed = Problem::Assumed { key: format!("controller.{key}"), value: volts.to_string() };
            findings.note(table.clone(), assumed);
            volts
        };
        let supply_place = FilePlace(keys.supply.as_ref().map_or(table.clone(), Spanned::span));
        let (volts, amps) = keys.supply.map_or((None, None), |supply| {
            let Supply { volts, amps } = supply.into_inner();
            (Some(volts), amps)
        });
        let supply = volts.unwrap_or_else(|| assume("supply.volts", 5.0));
        let at_pins = || assume("logic_volts", facts.as_ref().map_or(5.0, |facts| facts.logic_volts));
        let known = facts.as_ref().map_or_else(LimitKeys::default, |facts| facts.limits);
        Some(Self {
            part: keys.part.map(Spanned::into_inner),
            supply_volts: Volts(supply),
            supply_current: amps.map(|amps| Milliamps(1e3 * amps)),
            supply_place,
            logic_volts: Volts(keys.logic_volts.unwrap_or_else(at_pins)),
            limits: Limits::of(&keys.limits, &known),
            pins: facts.iter().flat_map(Facts::pins).collect(),
            facts,
        })
    }

    /// A controller by its part number, with nothing else said of it; `None` where there is no such part.
    #[must_use]
    pub fn called_by(part: Option<&str>) -> Option<Self> {
        let part = part.map(|part| Spanned::new(0..0, part.to_owned()));
        let keys = Keys { part, ..Keys::default() };
        Self::plan(Some(Spanned::new(0..0, keys)), &Findings::default())
    }

    /// Its part number, or what else to call it.
    #[must_use]
    pub fn called(&self) -> &str {
        self.part.as_deref().unwrap_or("controller")
    }

    /// Its pins by their data sheet, the preferred ones first; empty if they are unknown.
    #[must_use]
    pub fn pins(&self) -> &[KnownPin] {
        &self.pins
    }

    /// The pin by the name that the data sheet has for it; on a controller that is not known, as it is.
    ///
    /// # Errors
    /// The existing pins in words, if it is not one of them.
    pub fn pin(&self, pin: &Pin) -> Result<Pin, String> {
        let Some(facts) = &self.facts else { return Ok(pin.clone()) };
        let is_called = |known: &&KnownPin| {
            known.pin == *pin || known.also.iter().any(|name| name.eq_ignore_ascii_case(pin.name()))
        };
        self.pins.iter().find(is_called).map(|known| known.pin.clone()).ok_or_else(|| facts.pin_words())
    }

    /// The other name of a pin, besides the one by which a rig calls it: the data sheet's, or the one that is printed on the usual
    /// board, if that is more than another way to write the same number.
    #[must_use]
    pub fn other_name(&self, written: &Pin) -> Option<&str> {
        let known = self.pin(written).ok()?;
        let known = self.pins.iter().find(|pin| pin.pin == known)?;
        if known.pin != *written {
            return Some(known.pin.name());
        }
        let number = |name: &str| {
            let letters = name.trim_end_matches(|c: char| c.is_ascii_digit()).len();
            name[letters..].parse::<u32>().ok()
        };
        let is_of_port = known.pin.port_bit().is_some();
        let is_other = |name: &&String| {
            name.parse::<u32>().is_err() && (is_of_port || number(name) != number(known.pin.name()))
        };
        known.also.iter().find(is_other).map(String::as_str)
    }

    /// The voltage that a pin stands as an input: 5.5 V if it is tolerant, else a little more than its own supply (usual in
    /// absolute maximum ratings).
    #[must_use]
    pub fn stands(&self, pin: &Pin) -> Volts {
        const TOLERANT: Volts = Volts(5.5);
        const ABOVE: f64 = 0.3;
        let is_tolerant = self.facts.as_ref().is_some_and(|facts| facts.stands_five_volts(pin));
        if is_tolerant { TOLERANT } else { Volts(((self.logic_volts.0 + ABOVE) * 10.0).round() / 10.0) }
    }

    /// Why a pin had better be left alone, if there is a reason.
    #[must_use]
    pub fn reserved(&self, pin: &Pin) -> Option<Reserved> {
        self.pins.iter().find(|known| known.pin == *pin)?.reserved
    }
}

/// Returns the facts about the controller that the keys name or describe. `None` after an error.
fn facts(keys: &mut Keys, findings: &Findings) -> Option<Option<Facts>> {
    let known = keys.part.as_ref().and_then(|part| controllers::known(part.get_ref()));
    let Some(pins) = keys.pins.take() else {
        return match (&keys.part, known) {
            (Some(part), None) => {
                let names: Vec<_> = controllers::names().collect();
                findings.stop(part.span(), Problem::unknown_name("controller", part.get_ref(), &names))
            }
            (_, known) => Some(known.map(|known| known.with(keys))),
        };
    };
    if known.is_some() {
        let allowed = "no pins for a known controller: leave them out, or give the part another name";
        let found = "the pins of a known controller".to_owned();
        return findings.stop(pins.span(), Problem::WrongValue { found, allowed: allowed.to_owned() });
    }
    let span = pins.span();
    let own = Facts::own(pins.into_inner(), keys);
    let found = own.pins().len();
    if found > MOST_PINS {
        return findings.stop(span, Problem::TooMany { what: "pins or more", found, most: MOST_PINS });
    }
    Some(Some(own))
}

impl Limits {
    /// Merges the keys of the rig over the known facts. A limit for pins in the rig replaces all known ones.
    fn of(own: &LimitKeys, known: &LimitKeys) -> Self {
        let of_pins = if own.pin.is_some() { own } else { known };
        let of_all = if own.total.is_some() { own } else { known };
        let of_ports = if own.port.is_some() { own } else { known };
        Self {
            pin: of_pins.pin.map(Milliamps),
            pin_absolute: own.pin_absolute.or(of_pins.pin_absolute).map(Milliamps),
            pin_sink_absolute: own.pin_sink_absolute.or(of_pins.pin_sink_absolute).map(Milliamps),
            pin_after_reset: own.pin_after_reset.or(of_pins.pin_after_reset).map(Milliamps),
            pin_source: own.pin_source.or(of_pins.pin_source).map(Milliamps),
            port: of_ports.port.map(Milliamps),
            port_0: own.port_0.or(of_ports.port_0).map(Milliamps),
            total: of_all.total.map(Milliamps),
            total_absolute: own.total_absolute.or(of_all.total_absolute).map(Milliamps),
        }
    }
}

impl Facts {
    /// A known controller, with the values that the rig overrides.
    fn with(self, keys: &mut Keys) -> Self {
        Self {
            five_volt_tolerant: keys.five_volt_tolerant.unwrap_or(self.five_volt_tolerant),
            clock_hz: keys.clock_hz.or(self.clock_hz),
            flash_bytes: keys.flash_bytes.or(self.flash_bytes),
            ram_bytes: keys.ram_bytes.or(self.ram_bytes),
            spi: keys.spi.take().unwrap_or(self.spi),
            i2c: keys.i2c.take().unwrap_or(self.i2c),
            reserved: keys.reserved.take().unwrap_or(self.reserved),
            ..self
        }
    }

    /// A controller that the rig describes. 5 V by default.
    fn own(pins: Vec<Group>, keys: &mut Keys) -> Self {
        Self {
            logic_volts: keys.logic_volts.unwrap_or(5.0),
            five_volt_tolerant: keys.five_volt_tolerant.unwrap_or(false),
            three_volt_only: Vec::new(),
            open_drain: Vec::new(),
            pulled_up: None,
            inner_pulls: None,
            groups: Vec::new(),
            clock_hz: keys.clock_hz,
            circuit: Vec::new(),
            components: Vec::new(),
            flash_bytes: keys.flash_bytes,
            ram_bytes: keys.ram_bytes,
            limits: keys.limits,
            pins,
            spi: keys.spi.take().unwrap_or_default(),
            i2c: keys.i2c.take().unwrap_or_default(),
            reserved: keys.reserved.take().unwrap_or_default(),
        }
    }
}
