//! The known controllers. Each is a data file beside this one, in the keys that a rig has for a controller of one's own.

use serde::Deserialize;

use super::button::Active;
use super::pin::{Pin, Reserved};
use crate::units::{Hertz, Milliamps};

/// Names the controllers, each by its file.
macro_rules! controllers {
    ($($name:literal)*) => {
        /// The part numbers, in the order of their families, and the file of each.
        const FILES: &[(&str, &str)] = &[$(($name, include_str!(concat!($name, ".toml")))),*];
    };
}

controllers! {
    "atmega328p" "atmega168" "atmega2560" "atmega32u4" "attiny84" "attiny85" "mcs51" "pic16f54"
    "rp2040" "rp2350" "esp32" "esp32s3" "esp32c3" "esp8266" "nrf51822" "nrf52833" "samd21" "stm32f103" "stm32f205"
    "linux"
}

/// The known facts about a controller.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Facts {
    /// The high level at its pins.
    pub logic_volts: f64,
    /// True if its inputs stand 5 V though its own supply is lower.
    #[serde(default)]
    pub five_volt_tolerant: bool,
    /// The pins of such a controller that do not stand 5 V.
    #[serde(default)]
    pub(super) three_volt_only: Vec<String>,
    /// The pins that drive no high level: it takes a pull-up.
    #[serde(default)]
    pub(super) open_drain: Vec<String>,
    /// Pins with a fixed pull-up on the board.
    #[serde(default)]
    pub(super) pulled_up: Option<PullUpKeys>,
    /// The pull-ups and pull-downs inside, where they are known.
    #[serde(default)]
    pub(super) inner_pulls: Option<InnerPullKeys>,
    /// Pins with an absolute maximum together.
    #[serde(default)]
    pub(super) groups: Vec<GroupKeys>,
    /// The clock of the usual board.
    pub clock_hz: Option<u32>,
    /// The memory for programs and tables.
    pub flash_bytes: Option<u64>,
    /// The memory for variables.
    pub ram_bytes: Option<u64>,
    /// The limits of its pins, in milliamperes.
    #[serde(default)]
    pub limits: LimitKeys,
    /// Its pins, those that one takes first before the others.
    pub(super) pins: Vec<Group>,
    /// Its hardware buses for shift registers and driver chips.
    #[serde(default)]
    pub spi: Vec<SpiPins>,
    /// Its hardware two-wire buses.
    #[serde(default)]
    pub i2c: Vec<I2cPins>,
    /// The pins that had better be left alone.
    #[serde(default)]
    pub(super) reserved: ReservedKeys,
    /// The wires of a chip that is usually used without a board.
    #[serde(default)]
    pub circuit: Vec<CircuitWire>,
    /// The components for them.
    #[serde(default)]
    pub components: Vec<CircuitComponent>,
}

/// A wire of a chip that is used without a board.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CircuitWire {
    /// Its pins, with their numbers.
    pub pins: String,
    /// The other end, and the components on the way; `{clock}` is the clock rate.
    pub to: String,
    /// Its purpose.
    #[serde(default)]
    pub note: String,
}

/// A component that such a chip needs.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CircuitComponent {
    /// How many.
    pub count: usize,
    /// Its kind.
    pub kind: ComponentKind,
    /// Its value; `{clock}` is the clock rate.
    pub what: String,
    /// Its purpose.
    pub note: String,
}

/// The kind of such a component.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum ComponentKind {
    Resistor,
    Capacitor,
    Crystal,
    Header,
}

impl Facts {
    /// The circuit of a chip that is usually used without a board: its wires and components, with its clock rate.
    #[must_use]
    pub fn own_circuit(&self) -> (Vec<CircuitWire>, Vec<CircuitComponent>) {
        let clock = self.clock_hz.map_or_else(String::new, |hertz| Hertz(hertz).to_string());
        let filled = |text: &str| text.replace("{clock}", &clock);
        let wire = |wire: &CircuitWire| CircuitWire { to: filled(&wire.to), ..wire.clone() };
        let component = |of: &CircuitComponent| CircuitComponent { what: filled(&of.what), ..of.clone() };
        (self.circuit.iter().map(wire).collect(), self.components.iter().map(component).collect())
    }
}

/// The pull-ups and pull-downs inside a controller.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct InnerPullKeys {
    /// True if its pins have pull-ups.
    #[serde(default)]
    up: bool,
    /// True if they have pull-downs.
    #[serde(default)]
    down: bool,
    /// True if nothing switches the pull-ups off.
    #[serde(default, rename = "fixed")]
    is_fixed: bool,
    /// The pins that have none.
    #[serde(default)]
    without: Vec<String>,
}

/// Pins with an absolute maximum together, in milliamperes.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct GroupKeys {
    names: Vec<String>,
    sink: Option<f64>,
    source: Option<f64>,
}

/// Pins with an absolute maximum together.
#[derive(Debug, Clone, PartialEq)]
pub struct Together {
    /// The pins in words: `the group PB0-PB7, PD5-PD7`.
    pub words: String,
    /// The pins.
    pub pins: Vec<Pin>,
    /// The most that they sink together.
    pub sink: Option<Milliamps>,
    /// The most that they source together.
    pub source: Option<Milliamps>,
}

/// The keys of pins that had better be left alone: their names, each by the reason.
#[derive(Debug, Clone, Default, PartialEq, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct ReservedKeys {
    /// Drive nothing.
    input_only: Vec<String>,
    /// Belong to the memory that holds the program.
    flash: Vec<String>,
    /// Are the serial port through which programs are uploaded.
    serial: Vec<String>,
    /// Are read at start-up and choose how the controller starts.
    strap: Vec<String>,
    /// Carry USB.
    usb: Vec<String>,
    /// Are the debugger's.
    debug: Vec<String>,
    /// Carry the crystal.
    crystal: Vec<String>,
    /// Reset the controller.
    reset: Vec<String>,
    /// Belong to the antenna for near fields.
    nfc: Vec<String>,
    /// Are used by the board itself, or not led out.
    board: Vec<String>,
}

impl ReservedKeys {
    /// Every name, and why.
    fn names(&self) -> Vec<(String, Reserved)> {
        let reasons = [
            (&self.input_only, Reserved::InputOnly),
            (&self.flash, Reserved::Flash),
            (&self.serial, Reserved::Serial),
            (&self.strap, Reserved::Strap),
            (&self.usb, Reserved::Usb),
            (&self.debug, Reserved::Debug),
            (&self.crystal, Reserved::Crystal),
            (&self.reset, Reserved::Reset),
            (&self.nfc, Reserved::Nfc),
            (&self.board, Reserved::Board),
        ];
        let of_reason = |(names, why): (&'_ Vec<String>, Reserved)| {
            names
                .iter()
                .flat_map(|names| range(names))
                .take(MOST_PINS)
                .map(|name| (name, why))
                .collect::<Vec<_>>()
        };
        reasons.into_iter().flat_map(of_reason).collect()
    }
}

/// The keys of limits, in milliamperes.
#[derive(Debug, Clone, Copy, Default, PartialEq, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct LimitKeys {
    /// A pin, for long.
    pub pin: Option<f64>,
    /// A pin, at the absolute most.
    pub pin_absolute: Option<f64>,
    /// A pin that sinks current, at the absolute most, where that is another figure.
    pub pin_sink_absolute: Option<f64>,
    /// A pin that gives current, where it gives less than it takes.
    pub pin_source: Option<f64>,
    /// A pin after a reset, where more takes a drive strength that the program sets.
    pub pin_after_reset: Option<f64>,
    /// All pins of a port.
    pub port: Option<f64>,
    /// All pins of port 0, where that is another figure.
    pub port_0: Option<f64>,
    /// All pins together.
    pub total: Option<f64>,
    /// All pins together, at the absolute most.
    pub total_absolute: Option<f64>,
}

/// Pins with a fixed pull-up each.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct PullUpKeys {
    /// The pins.
    names: Vec<String>,
    /// The resistor of each.
    ohms: u32,
}

/// Pins that are named alike.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Group {
    /// The data sheet's names: `PD0-PD7`.
    names: String,
    /// The names that boards print for the same pins, in the same order: `D0-D7`.
    #[serde(default)]
    also: Vec<String>,
}

/// The pins of a bus with a clock, data and a select.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct SpiPins {
    /// The pin of the clock.
    pub clock: String,
    /// The pin of the data that it sends.
    pub data: String,
    /// The pin of the select.
    pub select: String,
}

/// The pins of a bus with a clock and data.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct I2cPins {
    /// The pin of SCL.
    pub clock: String,
    /// The pin of SDA.
    pub data: String,
}

/// A pin of a controller.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KnownPin {
    /// By its data sheet.
    pub pin: Pin,
    /// The names on boards.
    pub also: Vec<String>,
    /// Why it had better be left alone.
    pub reserved: Option<Reserved>,
}

/// The part numbers.
pub fn names() -> impl Iterator<Item = &'static str> + Clone {
    FILES.iter().map(|(name, _)| *name)
}

/// The known facts about a controller by its part number.
#[must_use]
pub fn known(part: &str) -> Option<Facts> {
    let (_, file) = FILES.iter().find(|(name, _)| *name == part)?;
    // A test reads every file.
    toml::from_str(file).ok()
}

/// The kinds of hardware buses.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Bus {
    /// Clock, data and a select: shift registers and driver parts.
    Spi,
    /// Two open-drain wires.
    I2c,
}

impl Facts {
    /// The hardware buses of a kind: of each the lines by role, and the pin of each.
    #[must_use]
    pub fn buses(&self, bus: Bus) -> Vec<Vec<(&'static str, &str)>> {
        match bus {
            Bus::Spi => self
                .spi
                .iter()
                .map(|bus| vec![("clock", &*bus.clock), ("data", &*bus.data), ("select", &*bus.select)])
                .collect(),
            Bus::I2c => {
                self.i2c.iter().map(|bus| vec![("clock", &*bus.clock), ("data", &*bus.data)]).collect()
            }
        }
    }

    /// Returns true if a pin stands 5 V.
    #[must_use]
    pub fn stands_five_volts(&self, pin: &Pin) -> bool {
        self.five_volt_tolerant && !is_among(&self.three_volt_only, pin)
    }

    /// The fixed pull-up of a pin on the usual board, in ohms.
    #[must_use]
    pub fn pull_up(&self, pin: &Pin) -> Option<u32> {
        self.pulled_up
            .as_ref()
            .filter(|pulled_up| is_among(&pulled_up.names, pin))
            .map(|pulled_up| pulled_up.ohms)
    }

    /// Returns true if a pin has a pull of its own inside for a button that is active at a level; `None` where that is not known.
    #[must_use]
    pub fn pulls_inside(&self, pin: &Pin, active: Active) -> Option<bool> {
        let keys = self.inner_pulls.as_ref()?;
        let has_way = if active.level() { keys.down } else { keys.up };
        Some(has_way && !is_among(&keys.without, pin))
    }

    /// Returns true if a pin is always pulled up inside, whatever the program says.
    #[must_use]
    pub fn is_always_pulled_up(&self, pin: &Pin) -> bool {
        self.inner_pulls.as_ref().is_some_and(|keys| keys.is_fixed && !is_among(&keys.without, pin))
    }

    /// Returns true if a pin drives no high level.
    #[must_use]
    pub fn is_open_drain(&self, pin: &Pin) -> bool {
        is_among(&self.open_drain, pin)
    }

    /// The pins that have an absolute maximum together.
    #[must_use]
    pub fn together(&self) -> Vec<Together> {
        let of = |keys: &GroupKeys| Together {
            words: format!("the group {}", keys.names.join(", ")),
            pins: keys
                .names
                .iter()
                .flat_map(|names| range(names))
                .filter_map(|name| Pin::parse(&name))
                .collect(),
            sink: keys.sink.map(Milliamps),
            source: keys.source.map(Milliamps),
        };
        self.groups.iter().map(of).collect()
    }

    /// Its pins, each with its other names.
    #[must_use]
    pub fn pins(&self) -> Vec<KnownPin> {
        let reserved = self.reserved.names();
        let of_group = |group: &Group| {
            let also: Vec<_> = group.also.iter().map(|names| range(names)).collect();
            let pin = |(place, name): (usize, String)| {
                Some(KnownPin {
                    reserved: reserved.iter().find(|(of, _)| *of == name).map(|(_, why)| *why),
                    pin: Pin::parse(&name)?,
                    also: also
                        .iter()
                        .filter_map(|names| names.get(place).cloned())
                        .filter(|also| *also != name)
                        .collect(),
                })
            };
            range(&group.names).into_iter().enumerate().filter_map(pin).collect::<Vec<_>>()
        };
        self.pins.iter().flat_map(of_group).take(MOST_PINS + 1).collect()
    }

    /// The pins in words: `GP0 to GP29`.
    #[must_use]
    pub fn pin_words(&self) -> String {
        // A range that runs down is named from its lower end.
        let words = |names: &String| {
            let all = range(names);
            let ends = all.first().zip(all.last()).filter(|(first, last)| first != last);
            ends.map_or_else(
                || names.clone(),
                |(first, last)| {
                    let (first, last) =
                        if number(first) <= number(last) { (first, last) } else { (last, first) };
                    format!("{first} to {last}")
                },
            )
        };
        let own: Vec<_> = self.pins.iter().map(|group| words(&group.names)).collect();
        let printed: Vec<_> = self.pins.iter().filter_map(|group| group.also.first()).map(words).collect();
        match &printed[..] {
            [] => own.join(", "),
            printed => format!("{}, or a board's {}", own.join(", "), printed.join(", ")),
        }
    }
}

/// Returns true if a pin is among names and ranges of names.
fn is_among(names: &[String], pin: &Pin) -> bool {
    names.iter().flat_map(|names| range(names)).any(|name| name == pin.name())
}

/// The most pins of a controller: a longer list is a mistake.
pub(super) const MOST_PINS: usize = 512;

/// The number that a name ends with.
fn number(name: &str) -> Option<usize> {
    name.trim_start_matches(|c: char| !c.is_ascii_digit()).rsplit('.').next()?.parse().ok()
}

/// The names from one to another with everything between: `PB5-PB7`, downwards too; a name alone is itself. No more of them
/// than any controller has.
fn range(names: &str) -> Vec<String> {
    let split = |name: &str| {
        let digits = name.len() - name.bytes().rev().take_while(u8::is_ascii_digit).count();
        let number: Option<usize> = name[digits..].parse().ok();
        number.map(|number| (name[..digits].to_owned(), number, name.len() - digits))
    };
    let ends = names.split_once('-').and_then(|(first, last)| Some((split(first)?, split(last)?)));
    let Some(((prefix, first, width), (_, last, _))) = ends else { return vec![names.to_owned()] };
    let name = |number: usize| format!("{prefix}{number:0width$}");
    let numbers: Box<dyn Iterator<Item = usize>> =
        if first <= last { Box::new(first..=last) } else { Box::new((last..=first).rev()) };
    numbers.take(MOST_PINS + 1).map(name).collect()
}

#[cfg(test)]
mod tests {
    use std::collections::HashSet;

    use super::*;

    #[test]
    fn every_file_can_be_read_and_names_each_pin_once() {
        for name in names() {
            let file = FILES.iter().find(|(of, _)| *of == name).unwrap().1;
            let facts: Facts = toml::from_str(file).unwrap_or_else(|error| panic!("{name}: {error}"));
            let pins = facts.pins();
            let mut seen = HashSet::new();
            for pin in &pins {
                assert!(seen.insert(pin.pin.name().to_owned()), "{name}: {} twice", pin.pin);
            }
            for also in pins.iter().flat_map(|pin| &pin.also) {
                let is_new = seen.insert(also.to_ascii_uppercase());
                assert!(is_new, "{name}: {also} is two pins");
            }
            for group in &facts.pins {
                let count = range(&group.names).len();
                assert!(group.also.iter().all(|also| range(also).len() == count), "{name}: {group:?}");
            }
            let has = |wanted: &str| pins.iter().any(|pin| pin.pin.name() == wanted);
            let spi = facts.spi.iter().flat_map(|bus| [&bus.clock, &bus.data, &bus.select]);
            let i2c = facts.i2c.iter().flat_map(|bus| [&bus.clock, &bus.data]);
            let reserved: Vec<_> = facts.reserved.names().into_iter().map(|(name, _)| name).collect();
            for pin in spi.chain(i2c).chain(&reserved) {
                assert!(has(pin), "{name} has no {pin}");
            }
            // A bus on a pin that must be left alone would be no help; any other pin selects as well.
            let buses = facts.spi.iter().flat_map(|bus| [&bus.clock, &bus.data]);
            assert!(buses.clone().all(|pin| !reserved.contains(pin)), "{name}: a bus on a reserved pin");
            assert!(
                facts
                    .limits
                    .pin
                    .is_some_and(|most| facts.limits.pin_absolute.is_none_or(|absolute| most <= absolute))
            );
            assert!(
                file.starts_with("# ") && file.contains("Currents: "),
                "{name}: figures without a source"
            );
        }
    }

    #[test]
    fn ranges_count_up_and_down_and_keep_their_zeros() {
        assert_eq!(range("PB5-PB7"), ["PB5", "PB6", "PB7"]);
        assert_eq!(range("PC7-PC5"), ["PC7", "PC6", "PC5"]);
        assert_eq!(range("P0.08-P0.10"), ["P0.08", "P0.09", "P0.10"]);
        assert_eq!(range("RESET"), ["RESET"]);
        assert_eq!(range("0-2"), ["0", "1", "2"]);
    }

    /// The wires of a bare chip and the list of its components name the same values.
    #[test]
    fn circuits_have_their_components() {
        let mut known = 0;
        for (name, file) in FILES {
            let facts: Facts = toml::from_str(file).unwrap();
            let (wires, components) = facts.own_circuit();
            known += usize::from(!wires.is_empty());
            assert_eq!(wires.is_empty(), components.is_empty(), "{name}");
            let words: Vec<String> = wires.iter().map(|wire| format!("{} {}", wire.to, wire.note)).collect();
            for CircuitComponent { kind, what, .. } in &components {
                let what = if *kind == ComponentKind::Header { "header" } else { what };
                assert!(words.iter().any(|words| words.contains(what)), "{name}: no wire has {what}");
            }
            let values = ["kilohm", "uF", "nF", "pF", "MHz"].map(|unit| format!(" {unit}"));
            for (words, unit) in words.iter().flat_map(|words| values.iter().map(move |unit| (words, unit))) {
                for before in words.split(&**unit).filter(|_| words.contains(&**unit)) {
                    let Some(number) = before.split_whitespace().last() else { continue };
                    let value = format!("{number}{unit}");
                    let is_listed = components.iter().any(|component| component.what == value);
                    assert!(is_listed || !words.contains(&value), "{name}: {value} is not listed");
                }
            }
        }
        assert_eq!(known, 4);
    }
}
