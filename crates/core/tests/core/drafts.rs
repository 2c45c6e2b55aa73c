//! Rigs to begin with: each is sound, or it is said why there is none.

use std::collections::{BTreeMap, HashSet};

use proptest::prelude::*;
use proptest::sample::select;
use spare_tile_core::bus::Ops;
use spare_tile_core::draft::kinds::{KINDS, Kind, Size, kind};
use spare_tile_core::draft::{DraftError, Wish, rig as draft, roles};
use spare_tile_core::part::Part;
use spare_tile_core::plan::Rig;
use spare_tile_core::rig::{Pin, Severity, controllers};

use crate::common::{Powered, frame, lit};

fn wish(kind: &'static Kind, size: Option<Size>, controller: Option<&str>) -> Wish {
    Wish { kind, size, controller: controller.map(str::to_owned), pins: BTreeMap::new() }
}

/// The rig, which nothing may be said against, and which shows any frame.
fn check(source: &str) -> Rig {
    let reading = Rig::read(source);
    let against = reading.findings.iter().find(|finding| finding.severity != Severity::Note);
    assert!(against.is_none(), "{against:?}\n{source}");
    let rig = reading.rig.unwrap();
    let elements = rig.faces[0].face.element_count();
    let wanted: Vec<bool> = (0..elements).map(|element| element % 3 != 1).collect();
    let mut powered = Powered::new(&rig);
    powered.show(&frame(&wanted));
    let shown = lit(&powered.picture());
    // A colon on the point of a digit is that digit's point.
    let differs = wanted.iter().zip(&shown).filter(|(wanted, shown)| wanted != shown).count();
    assert!(differs <= 1, "{source}");
    rig
}

#[test]
fn every_kind_on_every_controller_is_sound_or_said_to_be_impossible() {
    let (mut sound, mut impossible) = (0, Vec::new());
    for kind in KINDS {
        for controller in controllers::names().map(Some).chain([None]) {
            match draft(&wish(kind, None, controller)) {
                Ok(source) => {
                    let rig = check(&source);
                    assert_eq!(rig.controller.part.as_deref(), controller);
                    let lines = &rig.faces[0].lines;
                    let pins: HashSet<_> = lines.iter().map(|line| line.known.clone()).collect();
                    assert_eq!(pins.len(), lines.len(), "{source}");
                    for line in lines {
                        assert_eq!(
                            rig.controller.reserved(&line.known),
                            None,
                            "{} of {controller:?}",
                            line.pin
                        );
                    }
                    sound += 1;
                }
                Err(error) => {
                    impossible.push(format!("{} {}: {error}", kind.name, controller.unwrap_or("-")))
                }
            }
        }
    }
    insta::assert_snapshot!(format!("{sound} sound\n{}", impossible.join("\n")), @"
    234 sound
    bare-digit attiny85: it takes 8 free pins, and the attiny85 has 5
    bare-digit esp8266: it takes 8 free pins, and the esp8266 has 6
    bare-digits attiny85: it takes 12 free pins, and the attiny85 has 5
    bare-digits esp32c3: it takes 12 free pins, and the esp32c3 has 8
    bare-digits esp8266: it takes 12 free pins, and the esp8266 has 6
    latched-digit attiny85: it takes 9 free pins, and the attiny85 has 5
    latched-digit esp32c3: it takes 9 free pins, and the esp32c3 has 8
    latched-digit esp8266: it takes 9 free pins, and the esp8266 has 6
    bare-dots attiny85: it takes 16 free pins, and the attiny85 has 5
    bare-dots pic16f54: it takes 16 free pins, and the pic16f54 has 12
    bare-dots esp32: it takes 16 free pins, and the esp32 has 15
    bare-dots esp32c3: it takes 16 free pins, and the esp32c3 has 8
    bare-dots esp8266: it takes 16 free pins, and the esp8266 has 6
    ");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn any_size_on_any_controller(
        place in 0..KINDS.len(),
        controller in select(controllers::names().map(Some).chain([None]).collect::<Vec<_>>()),
        digits in 1..80_usize,
        side in 1..20_usize,
        dots in any::<bool>(),
    ) {
        let size = if dots { Size::Dots(8 * side, 8) } else { Size::Digits(digits) };
        match draft(&wish(&KINDS[place], Some(size), controller)) {
            Ok(source) => {
                let rig = check(&source);
                let face = &rig.faces[0].face;
                match size {
                    Size::Digits(digits) => prop_assert_eq!(face.digits(), digits),
                    Size::Dots(width, height) => {
                        let grid = face.dots().unwrap();
                        prop_assert_eq!((grid.width, grid.height), (width, height));
                    }
                }
            }
            Err(error) => prop_assert!(!error.to_string().is_empty()),
        }
    }
}

/// What is left open stands in the file as a comment; written out it changes nothing, and nothing is left open.
#[test]
fn the_comments_are_the_defaults() {
    for kind in KINDS {
        let source = draft(&wish(kind, None, Some("atmega2560"))).unwrap();
        let comments = source.lines().filter(|line| line.starts_with("# ") && line.contains(" = ")).count();
        assert!(comments >= 3, "{source}");
        let written: Vec<_> = source
            .lines()
            .map(|line| line.strip_prefix("# ").filter(|rest| rest.contains(" = ")).unwrap_or(line))
            .collect();
        let written = Rig::read(&written.join("\n"));
        let open = written.findings.iter().filter_map(|finding| finding.trouble.assumed());
        // What is inside of a value that is written cannot stand beside it.
        let inner = [".light.forward_volts", "_switch.drop_volts", "_switch.turn_off", "].output_enable"];
        let open: Vec<_> = open.filter(|(key, _)| !inner.iter().any(|inner| key.ends_with(inner))).collect();
        assert!(open.is_empty(), "{open:?}\n{source}");
        let (left_open, written) = (Rig::read(&source).rig.unwrap(), written.rig.unwrap());
        let power_up = |rig: &Rig| {
            let mut ops = Ops::default();
            rig.faces[0].drive.display().driver().power_up(&mut ops);
            ops
        };
        assert_eq!(power_up(&left_open), power_up(&written), "{source}");
        assert_eq!(left_open.faces[0].drive.summary(), written.faces[0].drive.summary());
    }
}

#[test]
fn a_bus_gets_the_pins_of_a_bus_and_lines_that_change_together_a_port() {
    let pins = |name: &str, controller: &str| -> Vec<String> {
        let rig = check(&draft(&wish(kind(name).unwrap(), None, Some(controller))).unwrap());
        rig.faces[0].lines.iter().map(|line| line.pin.to_string()).collect()
    };
    assert_eq!(pins("chain-digits", "rp2040"), ["GP18", "GP19", "GP17"]);
    assert_eq!(pins("i2c-letters", "atmega328p"), ["PC5", "PC4"]);
    let port: Vec<_> = (0..8).map(|bit| format!("PA{bit}")).collect();
    assert_eq!(pins("bare-digit", "atmega2560"), port);
    assert_eq!(
        pins("latched-digit", "mcs51")[..8],
        (0..8).map(|bit| format!("P1.{bit}")).collect::<Vec<_>>()
    );
}

#[test]
fn pins_that_are_decided_stay_and_the_others_avoid_them() {
    let clock = kind("clock-module").unwrap();
    let decided = |role: &str, pin: &str| {
        let mut wish = wish(clock, None, Some("rp2040"));
        wish.pins.insert(role.to_owned(), Pin::parse(pin).unwrap());
        draft(&wish)
    };
    let rig = check(&decided("data", "GP0").unwrap());
    let pins: Vec<_> = rig.faces[0].lines.iter().map(|line| line.pin.to_string()).collect();
    assert_eq!(pins, ["GP1", "GP0"]);
    assert_eq!(roles(clock, clock.size.0), ["clock", "data"]);
    assert!(matches!(decided("select", "GP0"), Err(DraftError::UnknownRole { .. })));
    assert!(matches!(decided("data", "GP77"), Err(DraftError::Unsound { .. })));
}
