//! Rigs to begin with: each is sound, or it is said why there is none.

use std::collections::HashSet;

use proptest::prelude::*;
use proptest::sample::select;
use spare_tile_core::board::Board;
use spare_tile_core::bus::Ops;
use spare_tile_core::draft::kinds::{KINDS, Kind, Size, kind};
use spare_tile_core::draft::{DraftError, Wish, added, rig as draft, roles};
use spare_tile_core::glyph::Common;
use spare_tile_core::part::Part;
use spare_tile_core::plan::Rig;
use spare_tile_core::plan::budget::{self, Goal};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::rig::{Finding, Pin, Severity, controllers};
use spare_tile_core::units::Volts;

use crate::common::{Powered, frame, lit};

fn wish(kind: &'static Kind, size: Option<Size>) -> Wish {
    Wish { size, ..Wish::of(kind) }
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
            match draft(&wish(kind, None), controller) {
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
    295 sound
    bare-digit attiny85: it takes 8 free pins, and the attiny85 has 5
    bare-digit esp8266: it takes 8 free pins, and the esp8266 has 6
    bare-digits attiny84: it takes 12 free pins, and the attiny84 has 11
    bare-digits attiny85: it takes 12 free pins, and the attiny85 has 5
    bare-digits esp32c3: it takes 12 free pins, and the esp32c3 has 8
    bare-digits esp8266: it takes 12 free pins, and the esp8266 has 6
    latched-digit attiny85: it takes 9 free pins, and the attiny85 has 5
    latched-digit esp32c3: it takes 9 free pins, and the esp32c3 has 8
    latched-digit esp8266: it takes 9 free pins, and the esp8266 has 6
    bare-dots attiny84: it takes 16 free pins, and the attiny84 has 11
    bare-dots attiny85: it takes 16 free pins, and the attiny85 has 5
    bare-dots pic16f54: it takes 16 free pins, and the pic16f54 has 12
    bare-dots esp32: it takes 16 free pins, and the esp32 has 13
    bare-dots esp32c3: it takes 16 free pins, and the esp32c3 has 8
    bare-dots esp8266: it takes 16 free pins, and the esp8266 has 6
    colour-panel attiny84: it takes 13 free pins, and the attiny84 has 11
    colour-panel attiny85: it takes 13 free pins, and the attiny85 has 5
    colour-panel pic16f54: it takes 13 free pins, and the pic16f54 has 12
    colour-panel esp32c3: it takes 13 free pins, and the esp32c3 has 8
    colour-panel esp8266: it takes 13 free pins, and the esp8266 has 6
    ");
}

/// A wish with pins that are decided.
fn with_pins(name: &str, pins: &[(&str, &str)]) -> Wish {
    let pins = pins.iter().map(|(role, pin)| ((*role).to_owned(), Pin::parse(pin).unwrap()));
    Wish { pins: pins.collect(), ..Wish::of(kind(name).unwrap()) }
}

#[test]
fn pins_that_are_decided_are_used_and_warned_of() {
    for (wish, controller, told) in [
        (
            with_pins("chain-dots", &[("data", "GPIO23"), ("clock", "GPIO18"), ("select", "GPIO5")]),
            "esp32",
            "pin GPIO5 is read at start-up",
        ),
        (with_pins("bare-digit", &[("a", "PD1")]), "atmega328p", "pin PD1 is the serial port"),
        (with_pins("clock-module", &[("data", "GPIO2")]), "esp32", "pin GPIO2 is read at start-up"),
    ] {
        let source = draft(&wish, Some(controller)).unwrap();
        let reading = Rig::read(&source);
        let against: Vec<_> =
            reading.findings.iter().filter(|finding| finding.severity != Severity::Note).collect();
        let [Finding { severity: Severity::Warning, trouble, .. }] = against[..] else {
            panic!("{against:?}\n{source}")
        };
        assert!(trouble.to_string().starts_with(told), "{trouble}");
        let rig = reading.rig.unwrap();
        for (role, pin) in &wish.pins {
            assert!(rig.faces[0].lines.iter().any(|line| line.role == *role && line.pin == *pin), "{source}");
        }
    }
    // A failure names its true cause.
    let wish = with_pins("clock-module", &[("data", "GPIO34")]);
    let error = draft(&wish, Some("esp32")).unwrap_err().to_string();
    assert!(error.contains("pin GPIO34 is an input only"), "{error}");
}

/// Of a bare display either side may be common, on every controller that has the pins; and no resistor that the check
/// suggests is brighter than the one that was chosen.
#[test]
fn any_common_side_is_as_bright_as_the_check_says() {
    for name in
        ["bare-digit", "bare-digits", "latched-digit", "shifted-digits", "expander-digits", "bare-dots"]
    {
        for common in [Common::Cathode, Common::Anode] {
            for controller in controllers::names().map(Some).chain([None]) {
                let wish = Wish { common: Some(common), ..Wish::of(kind(name).unwrap()) };
                let source = match draft(&wish, controller) {
                    Ok(source) => source,
                    Err(DraftError::Pins(_)) => continue,
                    // Quasi-bidirectional pins source next to nothing, whatever the resistor.
                    Err(DraftError::Unsound { reason, .. }) if reason.contains("0.1 mA at a high level") => {
                        continue;
                    }
                    Err(error) => panic!("{name} {common:?} {controller:?}: {error}"),
                };
                let rig = check(&source);
                let budget = budget::of(&rig.faces[0], &rig.controller).unwrap();
                let advice = budget::advise(&rig, 0);
                let brightest = advice.iter().find(|advice| advice.goal == Goal::Brightest).unwrap();
                assert_eq!(budget.resistor.unwrap().ohms, brightest.choice.unwrap().e12.0, "{source}");
                let flow = budget.flow.unwrap();
                assert!(flow.peak.0 >= 1.5, "{name} {common:?} {controller:?}: {} {source}", flow.peak);
            }
        }
    }
}

#[test]
fn a_supply_that_is_decided_is_taken() {
    let wish = Wish {
        common: Some(Common::Anode),
        supply: Some(Volts(3.3)),
        ..Wish::of(kind("bare-digit").unwrap())
    };
    let rig = check(&draft(&wish, Some("atmega328p")).unwrap());
    assert_eq!(rig.controller.supply_volts, Volts(3.3));
    let error = added(&wish, &draft(&Wish::of(kind("clock-module").unwrap()), None).unwrap());
    assert_eq!(error, Err(DraftError::Supply));
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
        match draft(&wish(&KINDS[place], Some(size)), controller) {
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

/// Checks that every face of a rig shows a frame of its own while the others show theirs.
fn check_together(rig: &Rig) {
    let mut scheduler = Scheduler::new(rig, Board::new(rig));
    let wanted: Vec<Vec<bool>> = rig
        .faces
        .iter()
        .enumerate()
        .map(|(face, mount)| (0..mount.face.element_count()).map(|light| light % (face + 2) != 0).collect())
        .collect();
    for face in 0..rig.faces.len() {
        scheduler.power_up(face).unwrap();
    }
    for (face, wanted) in wanted.iter().enumerate() {
        scheduler.show(face, &frame(wanted)).unwrap();
    }
    for (face, wanted) in wanted.iter().enumerate() {
        let shown = lit(&scheduler.expose(face).unwrap());
        let differs = wanted.iter().zip(&shown).filter(|(wanted, shown)| wanted != shown).count();
        // A colon on the point of a digit is that digit's point.
        assert!(differs <= 1, "{}", rig.faces[face].face.name);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn what_is_added_is_sound_beside_what_is_there(
        kinds in prop::collection::vec((0..KINDS.len(), 1..10_usize), 2..6),
        controller in select(vec!["atmega2560", "rp2040", "esp32s3", "stm32f103", "attiny85"]),
    ) {
        let mut source = String::new();
        for (place, digits) in kinds {
            let size = matches!(KINDS[place].size.0, Size::Digits(_)).then_some(Size::Digits(digits));
            let wish = wish(&KINDS[place], size);
            let longer = if source.is_empty() {
                draft(&wish, Some(controller))
            } else {
                added(&wish, &source)
            };
            // Where there is no room left it is said, and nothing is lost.
            if let Ok(longer) = longer {
                prop_assert!(longer.starts_with(&source));
                source = longer;
            }
        }
        if !source.is_empty() {
            let reading = Rig::read(&source);
            // Several faces may take more than the supply gives, which is for the person to say.
            let is_against = |finding: &&Finding| {
                finding.severity != Severity::Note && !finding.trouble.to_string().contains("with everything lit")
            };
            let against = reading.findings.iter().find(is_against);
            prop_assert!(against.is_none(), "{:?}\n{}", against, source);
            check_together(&reading.rig.unwrap());
        }
    }
}

/// The pins of the last face by role, and its addresses.
fn last(source: &str) -> (Vec<String>, Vec<u8>) {
    let rig = Rig::read(source).rig.unwrap();
    let mount = rig.faces.last().unwrap();
    let pins = mount.lines.iter().map(|line| format!("{} {}", line.role, line.pin));
    (pins.collect(), mount.drive.addresses().to_vec())
}

#[test]
fn a_bus_that_is_there_is_shared() {
    let first = draft(&wish(kind("i2c-letters").unwrap(), None), Some("rp2040")).unwrap();
    let second = added(&wish(kind("i2c-digits").unwrap(), Some(Size::Digits(9))), &first).unwrap();
    assert_eq!(last(&second), (vec!["clock GP5".to_owned(), "data GP4".to_owned()], vec![0x71, 0x72]));
    let third = added(&wish(kind("expander-letters").unwrap(), None), &second).unwrap();
    assert_eq!(last(&third), (vec!["clock GP5".to_owned(), "data GP4".to_owned()], vec![0x20, 0x21]));
    // Five more parts than the bus has room for.
    let full = added(&wish(kind("i2c-digits").unwrap(), Some(Size::Digits(48))), &third);
    let refused = DraftError::NoAddress { kind: "i2c-digits", needs: 6, has: 5 };
    assert_eq!(full, Err(refused));
    // On a bus of its own all addresses are free.
    let mut apart = wish(kind("i2c-digits").unwrap(), Some(Size::Digits(48)));
    apart.pins.insert("clock".to_owned(), Pin::parse("GP9").unwrap());
    apart.pins.insert("data".to_owned(), Pin::parse("GP8").unwrap());
    assert_eq!(last(&added(&apart, &third).unwrap()).1, [0x70, 0x71, 0x72, 0x73, 0x74, 0x75]);
    // A chain of its own on the same clock and data.
    let chains = draft(&wish(kind("chain-digits").unwrap(), None), Some("rp2040")).unwrap();
    let chains = added(&wish(kind("chain-dots").unwrap(), None), &chains).unwrap();
    assert_eq!(last(&chains).0, ["clock GP18", "data GP19", "select GP0"]);
}

#[test]
fn what_nothing_can_be_added_to_is_said() {
    let clock = kind("clock-module").unwrap();
    let named = |name: &str| Wish { name: Some(name.to_owned()), ..wish(clock, None) };
    let source = draft(&named("quay clock"), Some("rp2040")).unwrap();
    assert!(source.contains("[face.\"quay clock\".drive]\n"), "{source}");
    assert!(source.contains("# brightness = 4"), "{source}");
    let taken = added(&named("quay clock"), &source);
    assert_eq!(taken, Err(DraftError::NameTaken { name: "quay clock".to_owned() }));
    assert!(matches!(added(&named("a\"b"), &source), Err(DraftError::Name { .. })));
    assert!(matches!(added(&named("x"), "[face.y]\n"), Err(DraftError::Broken { .. })));
    let inline = "face = { desk = { kind = \"seven-segment\", digits = 8, drive = { method = \"max7219\", \
                  pins = { clock = 1, data = 2, select = 3 } } } }";
    assert_eq!(added(&named("x"), inline), Err(DraftError::NoHeadings));
    // Dotted keys can be added to.
    let dotted = "face.desk.kind = \"seven-segment\"\nface.desk.digits = 8\nface.desk.drive.method = \"max7219\"\n\
                  face.desk.drive.pins = { clock = 1, data = 2, select = 3 }";
    assert_eq!(last(&added(&named("x"), dotted).unwrap()).0, ["clock 4", "data 5"]);
}

/// Every default is in the file as a comment; written out it changes nothing, and no default is left.
#[test]
fn the_comments_are_the_defaults() {
    for kind in KINDS {
        let source = draft(&wish(kind, None), Some("atmega2560")).unwrap();
        let comments = source.lines().filter(|line| line.starts_with("# ") && line.contains(" = ")).count();
        assert!(comments >= 3, "{source}");
        let written: Vec<_> = source
            .lines()
            .map(|line| line.strip_prefix("# ").filter(|rest| rest.contains(" = ")).unwrap_or(line))
            .collect();
        let written = Rig::read(&written.join("\n"));
        let open = written.findings.iter().filter_map(|finding| finding.trouble.assumed());
        // A key inside a written value cannot stand beside it.
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
        let rig = check(&draft(&wish(kind(name).unwrap(), None), Some(controller)).unwrap());
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
        let mut wish = wish(clock, None);
        wish.pins.insert(role.to_owned(), Pin::parse(pin).unwrap());
        draft(&wish, Some("rp2040"))
    };
    let rig = check(&decided("data", "GP0").unwrap());
    let pins: Vec<_> = rig.faces[0].lines.iter().map(|line| line.pin.to_string()).collect();
    assert_eq!(pins, ["GP1", "GP0"]);
    assert_eq!(roles(clock, clock.size.0), ["clock", "data"]);
    assert!(matches!(decided("select", "GP0"), Err(DraftError::UnknownRole { .. })));
    assert!(matches!(decided("data", "GP77"), Err(DraftError::Unsound { .. })));
}

/// A bus on which parts answer goes on while a panel is sent a row, whichever of them takes longer.
#[test]
fn a_slow_panel_does_not_disturb_a_bus_beside_it() {
    let panel = draft(&wish(kind("colour-panel").unwrap(), None), Some("atmega2560")).unwrap();
    let crew = added(&wish(kind("expander-digits").unwrap(), Some(Size::Digits(1))), &panel).unwrap();
    let source = added(&wish(kind("i2c-digits").unwrap(), Some(Size::Digits(9))), &crew).unwrap();
    for clock in (700..2400).step_by(50) {
        let rig = Rig::read(&source.replace("1500000", &format!("{clock}000"))).rig;
        rig.iter().for_each(check_together);
    }
}
