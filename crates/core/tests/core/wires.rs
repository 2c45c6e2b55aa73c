//! The wiring list: every pin of a chip has one duty, every line arrives somewhere, and nothing is said twice.

use std::collections::BTreeMap;

use spare_tile_core::part::{Part, Wire, WireEnd};
use spare_tile_core::plan::Rig;
use spare_tile_core::plan::wires::{self, Through, Wiring};
use spare_tile_core::rig::{Controller, Pin};
use spare_tile_core::units::Ohms;

use crate::common::rig;

const QUAY: &str = include_str!("../../../cli/demo/quay.toml");
const QUILLMOOR: &str = include_str!("../../../cli/demo/quillmoor.toml");

fn wiring(rig: &Rig, face: usize) -> Wiring {
    wires::list(rig, &rig.faces[face])
}

/// Bare digits behind I2C expanders at these addresses.
fn expanders(part: &str, addresses: &str, digits: usize) -> Rig {
    rig(&format!(
        "[face.crew]\nkind = \"seven-segment\"\ndigits = {digits}\ncommon = \"anode\"\n[face.crew.drive]\nmethod = \"expander\"\n\
         part = \"{part}\"\npins = {{ clock = 1, data = 2 }}\naddresses = {addresses}\nresistor = {{ ohms = 680 }}\n"
    ))
}

/// The numbers in brackets: `A0 (15), A1 (16)`.
fn numbers(pin: &str) -> Vec<u8> {
    pin.split('(').skip(1).filter_map(|rest| rest.split(')').next()?.parse().ok()).collect()
}

/// The purpose of each pin of one chip's package, by everything in the list.
fn duties(rig: &Rig, face: usize, chip: usize) -> BTreeMap<u8, Vec<String>> {
    let (list, all) = (wiring(rig, face), rig.faces[face].drive.wires());
    let name = &list.chips[chip];
    let mut duties: BTreeMap<u8, Vec<String>> = BTreeMap::new();
    let mut add = |number: u8, what: String| duties.entry(number).or_default().push(what);
    for connection in &list.display {
        if let Some(at) = connection.at.filter(|at| at.chip == chip) {
            add(at.pin.1.unwrap(), connection.function.clone());
        }
    }
    for line in &list.lines {
        for at in line.at.iter().filter(|at| at.chip == chip) {
            add(at.pin.1.unwrap(), line.role.clone());
        }
    }
    for wire in all.iter().filter(|wire| wire.chip == *name) {
        numbers(&wire.pin).into_iter().for_each(|number| add(number, wire.to.to_string()));
    }
    if let Some((out, into)) = list.chained {
        let (is_last, is_first) = (chip + 1 == list.chips.len(), chip == 0);
        if !is_last {
            add(out.1.unwrap(), "to the next".to_owned());
        }
        if !is_first {
            add(into.1.unwrap(), "from the one before".to_owned());
        }
    }
    duties
}

#[test]
fn every_pin_of_a_package_has_one_duty() {
    let quay = rig(QUAY);
    let (pcf, mcp) = (expanders("pcf8574", "[0x20, 0x21]", 2), expanders("mcp23017", "[0x27]", 2));
    let chain = crate::common::max7219(16, "");
    // The part, the pins of its package, and those that need no connection.
    for (rig, face, pins, free) in [
        (&quay, 0, 20, 0),
        (&quay, 1, 16, 0),
        // NC twice, and the interrupts.
        (&mcp, 0, 28, 4),
        // The interrupt.
        (&pcf, 0, 16, 1),
        // Eight digit and eight segment lines are the display's, of which the rig does not tell.
        (&chain, 0, 24, 16),
    ] {
        for chip in 0..wiring(rig, face).chips.len() {
            let duties = duties(rig, face, chip);
            for (number, what) in &duties {
                assert!((1..=pins).contains(number), "pin {number} of {pins}");
                assert_eq!(what.len(), 1, "pin {number}: {what:?}");
            }
            // The last of a chain has one pin more that is free; outputs that light nothing are free too.
            let bound = usize::from(pins) - free;
            assert!(
                duties.len() <= bound && duties.len() + 5 >= bound,
                "{} of {bound}: {duties:?}",
                duties.len()
            );
        }
    }
}

#[test]
fn every_line_arrives_and_data_enters_a_chain_once() {
    for source in
        [QUAY, include_str!("../../../cli/demo/desk.toml"), include_str!("../../../cli/demo/sign.toml")]
    {
        let rig = rig(source);
        for face in 0..rig.faces.len() {
            let list = wiring(&rig, face);
            for line in &list.lines {
                assert!(!line.at.is_empty(), "{} arrives nowhere", line.role);
                let enters_once = line.role == "data" && list.chained.is_some();
                let expected = if enters_once || line.role.contains("enable") { 1 } else { list.chips.len() };
                assert_eq!(line.at.len(), expected, "{}", line.role);
            }
        }
    }
}

#[test]
fn straps_make_the_address() {
    let straps = |address: &str| -> String {
        let rig = expanders("mcp23017", &format!("[{address}]"), 1);
        let list = wiring(&rig, 0);
        list.ties.iter().find(|tie| tie.pin.starts_with("A0")).unwrap().to.to_string()
    };
    assert_eq!(straps("0x20"), "ground, ground, ground");
    assert_eq!(straps("0x21"), "supply, ground, ground");
    assert_eq!(straps("0x26"), "ground, supply, supply");
    assert_eq!(straps("0x27"), "supply, supply, supply");
}

#[test]
fn what_is_the_same_at_each_chip_is_said_once() {
    let one = wiring(&crate::common::max7219(8, ""), 0).ties;
    let five = wiring(&crate::common::max7219(40, ""), 0).ties;
    assert_eq!(one[0], Wire::of("max7219 part 0", "V+ (19)", WireEnd::Supply, &one[0].note));
    assert!(five.iter().all(|tie| tie.chip.starts_with("each chip")), "{five:?}");
    // And how they are chained.
    assert_eq!(five.len(), one.len() + 1);
    assert_eq!(
        (five[4].pin.as_str(), five[4].to.to_string()),
        ("DOUT (24)", "DIN (1) of the next".to_owned())
    );
    let two = wiring(&expanders("pcf8574", "[0x20, 0x21]", 2), 0).ties;
    let straps = two.iter().filter(|tie| tie.pin.starts_with("A0"));
    assert_eq!(
        straps.map(|tie| tie.chip.as_str()).collect::<Vec<_>>(),
        ["pcf8574 at 0x20", "pcf8574 at 0x21"]
    );
}

/// Of a module only its row of pins is connected: each pin once, and what its chip needs beside it is on it.
#[test]
fn a_module_is_connected_by_its_row_of_pins() {
    let landing = rig(QUILLMOOR);
    let headers = [
        ("gauge", "VCC GND DIN CS CLK"),
        ("clock", "VCC GND CLK DIO"),
        ("desk", "VCC GND CLK DIO STB"),
        ("sign", "VCC GND SCL SDA"),
    ];
    for (name, header) in headers {
        let face = landing.faces.iter().position(|mount| mount.face.name == name).unwrap();
        let list = wiring(&landing, face);
        for (chip, called) in list.chips.iter().enumerate() {
            assert!(called.contains(" module"), "{called}");
            let power = list.power[chip].iter().map(|pin| pin.pin.as_str());
            let lines = list.lines.iter().flat_map(|line| &line.at).filter(|at| at.chip == chip);
            let pins: Vec<_> = power.chain(lines.map(|at| at.pin.0)).collect();
            assert_eq!(pins.join(" "), header, "{called}");
        }
        assert!(list.ties.iter().all(|tie| !tie.pin.contains("ISET") && !tie.note.contains("nF")));
    }
    let of_chips = list_without_modules(&landing);
    assert!(of_chips.iter().any(|tie| tie.pin.contains("ISET")), "the chips themselves need more");
}

/// The ties of the same rig with bare chips.
fn list_without_modules(landing: &Rig) -> Vec<Wire> {
    let bare = rig(&QUILLMOOR.replace("module = true", "module = false"));
    assert_eq!(bare.faces.len(), landing.faces.len());
    (0..bare.faces.len()).flat_map(|face| wiring(&bare, face).ties).collect()
}

#[test]
fn a_bare_display_is_no_module() {
    let source = QUAY.replace("digits = 4", "module = true\ndigits = 4");
    let reading = Rig::read(&source);
    let finding = reading
        .findings
        .iter()
        .find(|finding| finding.trouble.to_string().contains("no modules for the method latched"));
    assert!(reading.rig.is_none() && finding.is_some(), "{:?}", reading.findings);
}

#[test]
fn a_pin_is_called_by_its_other_name_too() {
    let of_part = |part: &str| Controller::called_by(Some(part)).unwrap();
    for (part, pin, other) in [
        ("atmega328p", "PB1", Some("D9")),
        ("atmega328p", "D9", Some("PB1")),
        ("atmega328p", "9", Some("PB1")),
        ("atmega328p", "PD0", Some("D0")),
        ("esp8266", "GPIO14", Some("D5")),
        ("samd21", "PA02", Some("A0")),
        // Only another way to write the same.
        ("esp32", "GPIO21", None),
        ("rp2040", "GP2", None),
        ("samd21", "PB03", None),
        ("mcs51", "P1.0", None),
    ] {
        assert_eq!(of_part(part).other_name(&Pin::parse(pin).unwrap()), other, "{part} {pin}");
    }
}

#[test]
fn a_resistor_in_the_common_leg_is_one() {
    let digit = |place: &str| {
        let rig = rig(&format!(
            "[face.berth]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"anode\"\npackage = \"single-10\"\n\
             [face.berth.drive]\nmethod = \"static\"\n\
             segments = {{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8, dp = 9 }}\n\
             resistor = {{ ohms = 330, in = \"{place}\" }}\n"
        ));
        let list = wiring(&rig, 0);
        let common = list.display.iter().find(|connection| connection.is_rail).unwrap();
        assert_eq!(common.package_pins, [3, 8]);
        let resistors = list.display.iter().flat_map(|connection| &connection.through);
        let resistors = resistors.filter(|through| **through == Through::Resistor(Ohms(330.0))).count();
        (resistors, common.through.len())
    };
    assert_eq!(digit("segments"), (8, 0));
    assert_eq!(digit("digits"), (1, 1));
}

/// The places that the drawing shows are those at which the lights of each part are, as the receiving side knows them.
#[test]
fn modules_hang_where_their_lights_are() {
    for first in ["left", "right"] {
        for first_row in ["top", "bottom"] {
            for serpentine in [false, true] {
                let source = format!(
                    "[controller]\nsupply = {{ volts = 5.0, amps = 9.0 }}\n[face.board]\nkind = \"dots\"\nwidth = 24\nheight = 16\n\
                     [face.board.drive]\nmethod = \"max7219\"\npins = {{ clock = 1, data = 2, select = 3 }}\n\
                     modules = {{ first = \"{first}\", first_row = \"{first_row}\", serpentine = {serpentine} }}\n"
                );
                let rig = rig(&source);
                let mount = &rig.faces[0];
                let (hung, geometry) = (wires::list(&rig, mount).hung, mount.geometry());
                assert_eq!(hung.len(), 6);
                for (part, module) in hung.iter().enumerate() {
                    for node in 64 * part..64 * (part + 1) {
                        let element = geometry.element(node).unwrap().0;
                        assert_eq!(
                            (element % 24 / 8, element / 24 / 8),
                            module.place,
                            "part {part} of {source}"
                        );
                    }
                }
                // Along a row the chain goes on beside, and from row to row it does not jump in a serpentine.
                for pair in hung.windows(2) {
                    let [(x0, y0), (x1, y1)] = [pair[0].place, pair[1].place];
                    assert!(x0.abs_diff(x1) + y0.abs_diff(y1) == 1 || !serpentine, "{pair:?}");
                    assert!(y0 != y1 || (x1 < x0) == pair[1].from_right, "{pair:?}");
                }
            }
        }
    }
}
