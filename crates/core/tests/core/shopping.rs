//! The shopping list against the wiring list, and against what a person counts.

use spare_tile_core::draft::kinds::{KINDS, Way};
use spare_tile_core::draft::{Wish, added, rig as draft};
use spare_tile_core::part::Component;
use spare_tile_core::plan::parts::{self, Item, Kind};
use spare_tile_core::plan::wires::{self, Through};
use spare_tile_core::plan::{Rig, pull_ups};
use spare_tile_core::rig::controllers::ComponentKind;

fn count(items: &[Item], kind: Kind) -> impl Iterator<Item = (usize, &str, &str)> {
    let of_kind = items.iter().filter(move |item| item.kind == kind);
    of_kind.map(|item| (item.count, item.what.as_str(), item.note.as_str()))
}

/// Everything that a wiring drawing shows is bought once, on every kind of display; a module is one thing to buy.
#[test]
fn what_is_wired_is_on_the_list() {
    for kind in KINDS {
        let wish = Wish::of(kind);
        for controller in ["rp2040", "atmega2560", "mcs51"] {
            let drafted = draft(&wish, Some(controller)).unwrap();
            for source in [drafted.clone(), with_bare_chips(&drafted)] {
                let rig = Rig::read(&source).rig.unwrap();
                let (mount, items) = (&rig.faces[0], parts::list(&rig));
                let wiring = wires::list(&rig, mount);
                let on_the_way: Vec<_> = wiring.display.iter().flat_map(|wire| &wire.through).collect();
                let beside: Vec<_> = mount.chips().into_iter().flat_map(|chip| chip.beside).collect();
                let sum = |kind| count(&items, kind).map(|(count, ..)| count).sum::<usize>();
                // The controller's own, of a chip without a board.
                let components = rig.controller.facts.as_ref().unwrap().own_circuit().1;
                let own =
                    |kind| components.iter().filter(|of| of.kind == kind).map(|of| of.count).sum::<usize>();
                let switches = on_the_way.iter().filter(|way| matches!(way, Through::Switch(..))).count();
                let resistors = on_the_way.len() - switches
                    + beside.iter().filter(|part| matches!(part, Component::Resistor(_))).count()
                    + 2 * usize::from(pull_ups::of(&rig, mount).is_some())
                    + own(ComponentKind::Resistor);
                assert_eq!(sum(Kind::Switch), switches, "{}", kind.name);
                assert_eq!(sum(Kind::Resistor), resistors, "{}", kind.name);
                let capacitors = beside.iter().filter(|part| matches!(part, Component::Capacitor(_))).count();
                assert_eq!(sum(Kind::Capacitor), capacitors + own(ComponentKind::Capacitor), "{}", kind.name);
                // The boxes of a panel's wiring are the panels themselves, and those of modules the modules.
                let is_display = kind.way == Way::RgbPanel || mount.is_module;
                let bought = if is_display { sum(Kind::Display) } else { sum(Kind::Chip) };
                assert_eq!(bought, wiring.chips.len(), "{}", kind.name);
                assert!(!is_display || sum(Kind::Chip) == 0, "{}", kind.name);
                assert_eq!(sum(Kind::Converter), usize::from(wiring.converter.is_some()), "{}", kind.name);
            }
        }
    }
}

/// The same rig with chips that are not on modules.
fn with_bare_chips(source: &str) -> String {
    source.replace("module = true", "module = false")
}

#[test]
fn resistors_stand_twice_their_heat() {
    let rig = |ohms: u32, volts: f64| {
        let source = format!(
            "[controller]\nsupply = {{ volts = {volts:.1}, amps = 3.0 }}\n[face.berth]\nkind = \"seven-segment\"\n\
             digits = 1\ncommon = \"anode\"\nlight = {{ forward_volts = 2.0 }}\n[face.berth.drive]\nmethod = \"static\"\n\
             segments = {{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }}\n\
             resistor = {{ ohms = {ohms}, in = \"segments\" }}\n"
        );
        let rig = Rig::read(&source).rig.unwrap();
        let items = parts::list(&rig);
        count(&items, Kind::Resistor)
            .map(|(count, what, note)| format!("{count} {what} {note}"))
            .collect::<Vec<_>>()
    };
    // (5 - 2) V squared over 330 ohm are 27 mW; (12 - 2) V squared over 470 ohm are 213 mW, over 68 ohm 1.47 W.
    assert_eq!(rig(330, 5.0), ["7 330 ohm 1/8 W"]);
    assert_eq!(rig(470, 12.0), ["7 470 ohm 1/2 W"]);
    assert_eq!(rig(68, 12.0), ["7 68 ohm 3 W"]);
    // Twice 90 mW are more than 1/8 W: 3 V squared over 100 ohm.
    assert_eq!(rig(100, 5.0), ["7 100 ohm 1/4 W"]);
}

#[test]
fn a_bus_has_its_pull_ups_and_its_converter_once() {
    let wish = |name: &str| Wish::of(KINDS.iter().find(|kind| kind.name == name).unwrap());
    let mut source = draft(&wish("i2c-letters"), Some("rp2040")).unwrap();
    for kind in ["i2c-digits", "expander-digits", "chain-digits"] {
        source = added(&wish(kind), &source).unwrap();
    }
    let items = parts::list(&Rig::read(&with_bare_chips(&source)).rig.unwrap());
    // Three parts at 400 kHz: 300 ns / (0.8473 x 90 pF) = 3.9 kilohm.
    let resistors: Vec<_> = count(&items, Kind::Resistor).map(|(count, what, _)| (count, what)).collect();
    assert_eq!(resistors, [(16, "470 ohm"), (1, "10 kilohm"), (2, "3.9 kilohm")]);
    // SCL and SDA once, and the three lines of the chain; one box for both buses.
    assert_eq!(
        count(&items, Kind::Converter).collect::<Vec<_>>(),
        [(1, "3.3 V to 5 V, both ways", "for 5 lines")]
    );
    // Address 0x71 takes a diode.
    assert_eq!(
        count(&items, Kind::Diode).collect::<Vec<_>>(),
        [(1, "small signal diode", "for the address")]
    );
    let faces: Vec<_> =
        items.iter().filter(|item| item.kind == Kind::Capacitor).map(|item| &item.faces).collect();
    assert_eq!(faces[0], &["sign", "gauge", "crew", "desk"]);
}
