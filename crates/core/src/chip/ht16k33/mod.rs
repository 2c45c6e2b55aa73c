//! `ht16k33`: eight commons of sixteen rows, common cathode, with keys, on I2C.
//!
//! ```toml
//! [face.sign]
//! kind = "fourteen-segment"
//! [face.sign.drive]
//! method = "ht16k33"
//! pins = { clock = "GP5", data = "GP4" }
//! addresses = [0x70, 0x71]        # up to eight parts, from left to right
//! clock_hz = 400_000              # at most 400 kHz
//! bus_volts = 5.0                 # the high level at the part, after any level converter
//! brightness = 8                  # 0 to 15
//! blink_hz = 0                    # 0, 0.5, 1 or 2: the part's own blinking
//! segments = "dp m l k j i h g2 g1 f e d c b a"   # which segment is on the rows, the highest first
//! digits = ["com0", "com1", "com3", "com4"]       # of several parts "part1.com0"
//! resend = "10s"                  # send everything again so often
//! ```
//!
//! The node of a colon or lamp is a common and a row, `com2.row1`; that of a key its bit in the six bytes that the
//! part answers, `byte0.bit3`, of several parts in those of all one after another.

mod driver;
mod model;

use serde::de::IgnoredAny;
use serde_spanned::Spanned;

use super::grid::{GridKeys, Grids, usual_order};
use super::{brightness, check_logic, resend};
use crate::bus::watch::Limits;
use crate::bus::{Bus, i2c};
use crate::drive::{Drive, Driver, Ends, Line, Method, Model, Needs, Wire};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Pin, Place, Problem};
use crate::units::{Hertz, Nanos, Volts};

/// The method `ht16k33`.
pub struct Ht16k33;

/// Commons of a part, and rows of each.
const COMMONS: usize = 8;
const ROWS: usize = 16;
const MAX_BRIGHTNESS: u8 = 15;
/// Bytes that a part answers when its keys are read.
const KEY_BYTES: usize = 6;
const LIMITS: Limits = Limits { clock: Hertz(400_000), setup: Nanos(100), hold: Nanos(0) };
const SUPPLY: (Volts, Volts) = (Volts(4.5), Volts(5.5));

#[derive(serde::Deserialize)]
struct Keys {
    #[serde(rename = "method")]
    _method: IgnoredAny,
    pins: Pins,
    addresses: Option<Spanned<Vec<Spanned<u8>>>>,
    clock_hz: Option<Spanned<u32>>,
    blink_hz: Option<Spanned<f64>>,
}

#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Pins {
    clock: Spanned<Pin>,
    data: Spanned<Pin>,
}

/// The blink rates of the part, by the bits of its display command.
const BLINK: [f64; 4] = [0.0, 2.0, 1.0, 0.5];

impl Method for Ht16k33 {
    fn name(&self) -> &'static str {
        "ht16k33"
    }

    fn common(&self) -> Option<Common> {
        Some(Common::Cathode)
    }

    fn sample(&self) -> Option<&'static str> {
        Some("kind = \"seven-segment\"\ndigits = 8\n[face.ht16k33.drive]\npins = { clock = 1, data = 2 }\n")
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        let (keys, grid_keys): (Keys, GridKeys) = table.read_both()?;
        super::check_common(face, self.name(), Common::Cathode, table);
        super::check_supply(controller, self.name(), SUPPLY, table);
        check_logic(controller, self.name(), &grid_keys, table);
        let clock = table.or_assume("clock_hz", keys.clock_hz, 400_000);
        let mut sound = table.check_range(&clock, 1, LIMITS.clock.0);
        let brightness = brightness(&grid_keys, 8, MAX_BRIGHTNESS, table);
        let blink = keys.blink_hz.map_or(Some(0), |written| {
            let bits = BLINK.iter().position(|rate| rate == written.get_ref());
            if bits.is_none() {
                let allowed = "0, 0.5, 1 or 2".to_owned();
                let found = written.get_ref().to_string();
                table.error(written.span(), Problem::WrongValue { found, allowed });
            }
            bits
        })?;
        let addresses = match keys.addresses {
            Some(written) => written.into_inner(),
            None => {
                let wanted = face.digits.div_ceil(COMMONS).clamp(1, COMMONS) as u8;
                (0..wanted).map(|part| Spanned::new(table.place(), 0x70 + part)).collect()
            }
        };
        for address in &addresses {
            if (0x70..=0x77).contains(address.get_ref()) {
                table.claim_address(
                    address,
                    &format!("{} and {}", keys.pins.clock.get_ref(), keys.pins.data.get_ref()),
                );
            } else {
                let found = i64::from(*address.get_ref());
                let allowed = "0x70 to 0x77, with 24 pins to 0x73, with 20 pins only 0x70";
                table.error(address.span(), Problem::Address { part: "ht16k33", found, allowed });
                sound = false;
            }
        }
        if addresses.is_empty() {
            let allowed = "the address of each part".to_owned();
            table.error(
                Place::Drive("addresses"),
                Problem::WrongValue { found: "an empty list".into(), allowed },
            );
            return None;
        }
        let grids = Grids {
            parts: addresses.len(),
            grids: COMMONS,
            lines: ROWS,
            grid_name: ("com", 0),
            line_name: ("row", 0),
        };
        let (wiring, bit_order) = grids.plan(face, &grid_keys, usual_order(face.style), table)?;
        let bits = key_bits(addresses.len(), table)?;
        table.claim_shared(&keys.pins.clock, "clock");
        table.claim_shared(&keys.pins.data, "data");
        let parts = Parts {
            addresses: addresses.iter().map(|address| *address.get_ref()).collect(),
            clock: Hertz(*clock.get_ref()),
            brightness,
            blink: blink as u8,
            bits,
            names: table.keys().iter().map(|(name, _)| (*name).to_owned()).collect(),
            resend: resend(&grid_keys, table)?,
        };
        let lines = vec![Line::new("clock", &keys.pins.clock), Line::new("data", &keys.pins.data)];
        sound.then(|| Drive { lines, wiring, bit_order, ends: Box::new(parts) })
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        // A common a character, whose sixteen rows hold all segments but the point of the widest kind.
        let parts = face.digits.div_ceil(COMMONS);
        let fits = face.dots.width == 0 && face.style.point_index() <= ROWS && parts <= 8;
        fits.then(|| Needs { pins: 2, parts: format!("{parts} ht16k33") })
    }
}

/// Byte and bit of each key of the face.
fn key_bits(parts: usize, table: &DriveTable<'_>) -> Option<Vec<(usize, u8)>> {
    let bytes = parts * KEY_BYTES;
    let bit = |(_, node): &(&str, &Spanned<String>)| {
        let found = super::parse_key_bit(node.get_ref()).filter(|(byte, _)| *byte < bytes);
        if found.is_none() {
            let found = format!("{:?}", node.get_ref());
            let allowed =
                format!("a bit of what the parts answer, from \"byte0.bit0\" to \"byte{}.bit7\"", bytes - 1);
            table.error(Place::Span(node.span()), Problem::WrongValue { found, allowed });
        }
        found
    };
    table.keys().iter().map(bit).collect()
}

/// Parts on one bus.
struct Parts {
    addresses: Vec<u8>,
    clock: Hertz,
    brightness: u8,
    blink: u8,
    bits: Vec<(usize, u8)>,
    names: Vec<String>,
    resend: Option<Nanos>,
}

impl Ends for Parts {
    fn summary(&self) -> String {
        let addresses: Vec<_> = self.addresses.iter().map(|address| format!("{address:02X}")).collect();
        format!("{} ht16k33 at {} hex, clock {}", addresses.len(), addresses.join(" "), self.clock)
    }

    fn driver(&self) -> Box<dyn Driver> {
        let has_keys = !self.bits.is_empty();
        Box::new(driver::Memories::new(&self.addresses, self.brightness, self.blink, has_keys))
    }

    fn bus(&self) -> Box<dyn Bus> {
        Box::new(i2c::I2c::new(self.clock, self.addresses.clone()))
    }

    fn model(&self) -> Box<dyn Model> {
        Box::new(model::Parts::new(&self.addresses, self.bits.clone()))
    }

    fn explain(&self, bytes: &[u8], _: &[Line]) -> String {
        model::explain(bytes)
    }

    fn max_brightness(&self) -> Option<u8> {
        Some(MAX_BRIGHTNESS)
    }

    fn step_light(&self, step: u8) -> f32 {
        (f32::from(step.min(MAX_BRIGHTNESS)) + 1.0) / 16.0
    }

    fn full_duty(&self) -> f32 {
        1.0 / COMMONS as f32
    }

    fn keys_down(&self, answer: &[u8]) -> Vec<usize> {
        super::keys_down(&self.bits, answer)
    }

    fn key_names(&self) -> Vec<String> {
        self.names.clone()
    }

    fn resend_every(&self) -> Option<Nanos> {
        self.resend
    }

    fn wires(&self) -> Vec<Wire> {
        let of_part = |address: &u8| {
            let wire = |pin: &str, to: &str, note: &str| Wire {
                from: format!("ht16k33 at {address:02X}, {pin}"),
                to: to.to_owned(),
                note: note.to_owned(),
            };
            [
                wire("VDD", "supply", "4.5 to 5.5 V, with 100 nF close to the part"),
                wire("VSS", "ground", ""),
                wire("A0 A1 A2", "COM0 through a diode, or open", "the address, its lowest bit at A0"),
            ]
        };
        let pull_up = |line: &str| Wire {
            from: format!("bus, {line}"),
            to: "supply through 4.7 kilohm".to_owned(),
            note: "open drain: without the pull-up nothing is ever high; many boards have it".to_owned(),
        };
        self.addresses.iter().flat_map(of_part).chain(["SCL", "SDA"].map(pull_up)).collect()
    }
}
