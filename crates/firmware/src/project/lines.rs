//! The lines of a face and its bus, as a template reads them.

use super::error::ProjectError;
use super::model::{BusLine, BusModel, ContactModel, Line};
use super::names::Names;
use spare_tile_core::bus::Protocol;
use spare_tile_core::bus::panel::LATCH;
use spare_tile_core::plan::{Mount, PinButton, Rig};
use spare_tile_core::rig::Pin;

/// The name of a pin on the usual board: its number there, also on an edge connector, or `A0`; the data sheet's if no pin has a number.
/// `None` if other pins have numbers, or if the name is none that a program can write.
fn board_pin(rig: &Rig, pin: &Pin) -> Option<String> {
    let known = rig.controller.pins().iter().find(|known| known.pin == *pin);
    let also = known.map(|known| &known.also[..]).unwrap_or_default();
    let is_of_digits = |name: &str| !name.is_empty() && name.chars().all(|c| c.is_ascii_digit());
    let number = |name: &String| {
        let number = name.strip_prefix("EDGE").unwrap_or(name);
        is_of_digits(number).then(|| number.to_owned())
    };
    let is_analog = |name: &&String| name.strip_prefix('A').is_some_and(is_of_digits);
    let has_numbers =
        rig.controller.pins().iter().any(|known| known.also.iter().any(|name| number(name).is_some()));
    let is_word = |name: &String| name.chars().all(|c| c.is_ascii_alphanumeric());
    let numbered = also.iter().find(is_analog).cloned().or_else(|| also.iter().find_map(number));
    numbered.or_else(|| Some(pin.to_string()).filter(|name| !has_numbers && is_word(name)))
}

/// The number of a pin's line, which is new if the pin has none.
fn numbered(rig: &Rig, pin: &Pin, lines: &mut Vec<Line>) -> usize {
    let name = pin.to_string();
    lines.iter().position(|known| known.pin == name).unwrap_or_else(|| {
        let port = pin.port_bit();
        lines.push(Line {
            number: lines.len(),
            pin: name,
            names: Vec::new(),
            is_open: false,
            input: None,
            is_high: false,
            port: port.map(|(port, _)| port.to_owned()),
            bit: port.map(|(_, bit)| bit),
            board_pin: board_pin(rig, pin),
        });
        lines.len() - 1
    })
}

/// The line of a push button, which is only read.
pub(super) fn contact(
    rig: &Rig,
    button: &PinButton,
    (names, lines): (&mut Names, &mut Vec<Line>),
) -> Result<ContactModel, ProjectError> {
    let line = names.make("line", &format!("{} pin", button.name))?.to_uppercase();
    let number = numbered(rig, &button.line.known, lines);
    let pull = match button.pulled_inside() {
        Some(true) => "up",
        Some(false) => "down",
        None => "none",
    };
    lines[number].names.push(line.clone());
    (lines[number].is_open, lines[number].input) = (true, Some(pull));
    Ok(ContactModel { line, number, is_high: button.active.level(), pull })
}

/// The lines of a face and its bus; it is let go where the program asks for keys on it.
pub(super) fn bus_model(
    rig: &Rig,
    mount: &Mount,
    id: &str,
    asks: bool,
    (names, lines): (&mut Names, &mut Vec<Line>),
) -> Result<BusModel, ProjectError> {
    let protocol = rig.protocol(mount);
    let turns_round = protocol.and_then(Protocol::answer_line).filter(|_| asks);
    let idle = protocol.map(Protocol::idle).unwrap_or_default();
    let mut own = Vec::new();
    for (place, line) in mount.lines.iter().enumerate() {
        let pin = line.known.to_string();
        let name = names.make("line", &format!("{id} {}", line.role))?.to_uppercase();
        let number = numbered(rig, &line.known, lines);
        lines[number].names.push(name.clone());
        let is_open =
            matches!(protocol, Some(Protocol::I2c(_) | Protocol::TwoWire(_))) || turns_round == Some(place);
        lines[number].is_open |= is_open;
        let idle = idle.get(place).copied().flatten().filter(|_| !is_open);
        lines[number].is_high |= idle == Some(true);
        own.push(BusLine { role: line.role.clone(), name, number, pin, idle });
    }
    let mut bus = BusModel {
        kind: "pins",
        lines: own,
        half_ns: 0,
        low_ns: 0,
        high_ns: 0,
        pause_ns: 0,
        lsb_first: false,
        has_enable: false,
        bits: Vec::new(),
        ports: Vec::new(),
    };
    let half = |clock: spare_tile_core::units::Hertz| clock.half_period().0;
    match protocol {
        Some(Protocol::Spi(spi)) => (bus.kind, bus.half_ns) = ("spi", half(spi.clock)),
        Some(Protocol::I2c(i2c)) => {
            bus.kind = "i2c";
            let (low, high) = i2c.times();
            (bus.low_ns, bus.high_ns) = (low.0, high.0);
        }
        Some(Protocol::TwoWire(two_wire)) => {
            (bus.kind, bus.half_ns, bus.lsb_first) = ("two_wire", half(two_wire.clock), true);
        }
        Some(Protocol::Strobe(strobe)) => {
            (bus.kind, bus.half_ns, bus.lsb_first) = ("strobe", half(strobe.clock), true);
            bus.pause_ns = strobe.pause().0;
        }
        Some(Protocol::Shift(shift)) => {
            (bus.kind, bus.half_ns, bus.lsb_first) = ("shift", half(shift.clock), shift.lsb_first);
            bus.has_enable = shift.has_enable;
        }
        Some(Protocol::Pins(pins)) => {
            let place = |line: usize| pins.bits.place(line).map(|(byte, bit)| (byte, bit, line));
            bus.bits = (0..pins.lines()).filter_map(place).collect();
            let port_of = |(_, bit, line): &(usize, u8, usize)| {
                let line = &lines[bus.lines.get(*line)?.number];
                line.port.clone().filter(|_| line.bit == Some(*bit))
            };
            let of_byte = |byte: usize| {
                let ports: Vec<_> = bus.bits.iter().filter(|(of, ..)| *of == byte).map(port_of).collect();
                let first = ports.first().cloned().flatten();
                first.filter(|first| ports.iter().all(|port| port.as_ref() == Some(first)))
            };
            bus.ports = (0..pins.bits.byte_count()).map(of_byte).collect();
        }
        Some(Protocol::Panel(panel)) => {
            (bus.kind, bus.half_ns) = ("panel", half(panel.clock));
            // Latch, output enable and address lines are the bits of a byte.
            bus.bits = (0..2 + panel.address_lines).map(|bit| (0, bit as u8, LATCH + bit)).collect();
            bus.ports = vec![None];
        }
        Some(Protocol::Inputs(_)) | None => {}
    }
    Ok(bus)
}
