//! Push buttons on pins of the controller: what a rig says of them, what the board makes of them, and what a reel hears.

use std::time::Duration;

use proptest::prelude::*;
use spare_tile_core::board::Board;
use spare_tile_core::board::presses::{Press, Presses};
use spare_tile_core::bus::{Op, Role};
use spare_tile_core::draft::kinds::KINDS;
use spare_tile_core::draft::{self, Wish};
use spare_tile_core::link::Link;
use spare_tile_core::plan::wires;
use spare_tile_core::plan::{BothRigs, ButtonId, Keypad, Rig};
use spare_tile_core::play::keyboard::KeyEvent;
use spare_tile_core::play::{Player, Value};
use spare_tile_core::units::Nanos;

use crate::common::program;

/// A gauge with these buttons.
fn source(buttons: &str) -> String {
    format!(
        r#"
        [controller]
        part = "atmega328p"
        {buttons}
        [face.gauge]
        kind = "seven-segment"
        digits = 4
        lamps = [{{ name = "full", node = "digit5.a" }}]
        [face.gauge.drive]
        method = "max7219"
        pins = {{ data = "PB3", clock = "PB5", select = "PB2" }}
        "#
    )
}

fn rig(buttons: &str) -> Rig {
    crate::common::rig(&source(buttons))
}

/// The findings of such a rig, with the next step of each.
fn findings(source: &str) -> Vec<String> {
    let told = |finding: &spare_tile_core::rig::Finding| {
        format!("{}: {}", finding.trouble, finding.trouble.fix().unwrap_or_default())
    };
    Rig::read(source).findings.iter().map(told).collect()
}

const LOW: &str = "[buttons.up]\npin = \"PD2\"\nactive = \"low\"\npull = \"controller\"\n";
const HIGH: &str = "[buttons.up]\npin = \"PD2\"\nactive = \"high\"\npull = \"resistor\"\n";
const UP: ButtonId = ButtonId { keypad: Keypad::Pins, button: 0 };

/// The answers to whether the button is down, before it is pressed, while it is, and after that.
fn read(described: &Rig, built: &Rig) -> [bool; 3] {
    let mut board = Board::built_as(BothRigs::new(described, Some(built)));
    let pins = described.buttons.as_ref().unwrap();
    let mut at = 0;
    [None, Some(true), Some(false)].map(|press| {
        at += 1_000_000;
        press.into_iter().for_each(|down| board.press_at(Nanos(at), UP, down));
        let op = Op { role: Role::Buttons, transfer: pins.transfer(), not_before: Nanos(at) };
        !pins.down(&board.transfer(pins.device, &op).unwrap().bytes).is_empty()
    })
}

#[test]
fn a_button_reads_as_it_is_described_and_built() {
    let (low, high) = (rig(LOW), rig(HIGH));
    assert_eq!(read(&low, &low), [false, true, false]);
    assert_eq!(read(&high, &high), [false, true, false]);
    // Built the other way round: never down, as the pull inside and the button agree; and a resistor reverses it.
    let turned = rig(&HIGH.replace("resistor", "controller"));
    assert_eq!(read(&low, &high), [true, false, true]);
    assert_eq!(read(&low, &turned), [false, false, false]);
    // The resistor that is described is missing: the pin stays at the level that it was last at.
    let missing = rig(&LOW.replace("controller", "resistor"));
    assert_eq!(read(&missing, &low), [false, true, true]);
    // On another pin than described nobody hears it.
    assert_eq!(read(&low, &rig(&LOW.replace("PD2", "PD4"))), [false, false, false]);
}

/// The hardware may list its buttons in any order, and has all of them.
#[test]
fn buttons_as_built_are_found_by_their_names() {
    use spare_tile_core::plan::BuiltError;
    let down = LOW.replace("buttons.up", "buttons.down").replace("PD2", "PD3");
    let described = rig(&format!("{LOW}{down}"));
    let built = rig(&format!("{down}{LOW}")).as_built_for(&described).unwrap();
    let names = |rig: &Rig| rig.pin_buttons().iter().map(|button| button.name.clone()).collect::<Vec<_>>();
    assert_eq!(names(&built), ["up", "down"]);
    assert_eq!(read(&described, &built), [false, true, false]);
    let missing = |buttons: &str| rig(buttons).as_built_for(&described).unwrap_err();
    assert_eq!(missing(LOW), BuiltError::NoButton { button: "down".to_owned() });
    assert_eq!(missing(""), BuiltError::NoButton { button: "up".to_owned() });
}

/// A further display leaves the pins of buttons alone.
#[test]
fn a_drafted_face_takes_no_pin_of_a_button() {
    let mut added = 0;
    for kind in KINDS {
        let add = |buttons: &str| {
            let source = draft::added(&Wish::of(kind), &source(buttons)).ok()?;
            let reading = Rig::read(&source);
            Some(reading.rig.unwrap_or_else(|| panic!("{:?}\n{source}", reading.findings)))
        };
        // The first pin that it takes by itself is a button's the next time.
        let Some(alone) = add("") else { continue };
        let Some(pin) = alone.faces[1]
            .lines
            .iter()
            .map(|line| &line.known)
            .find(|pin| alone.faces[0].lines.iter().all(|line| line.known != **pin))
        else {
            continue;
        };
        if let Some(rig) = add(&LOW.replace("PD2", &pin.to_string())) {
            assert!(rig.faces[1].lines.iter().all(|line| line.known != *pin), "{}", kind.name);
            added += 1;
        }
    }
    assert!(added > 3, "{added}");
}

#[test]
fn what_is_left_out_is_assumed_by_the_controller() {
    let assumed = |part: &str, pin: &str, keys: &str| {
        let buttons = format!("[buttons.up]\npin = \"{pin}\"\n{keys}\n");
        let source = source(&buttons).replace("atmega328p", part);
        // The display is on pins of another controller then.
        let told = findings(&source).into_iter().filter(|finding| finding.contains("button"));
        told.map(|finding| finding.trim_end_matches(": ").to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(
        assumed("atmega328p", "D2", ""),
        ["assumed buttons.up.active = \"low\"", "assumed buttons.up.pull = \"controller\""]
    );
    // It has no pull-downs.
    assert_eq!(assumed("atmega328p", "D2", "active = \"high\""), ["assumed buttons.up.pull = \"resistor\""]);
    assert_eq!(assumed("rp2040", "GP2", "active = \"high\""), ["assumed buttons.up.pull = \"controller\""]);
    assert_eq!(assumed("pic16f54", "RA0", "active = \"low\""), ["assumed buttons.up.pull = \"resistor\""]);
    assert_eq!(assumed("mcs51", "P0.1", "active = \"low\""), ["assumed buttons.up.pull = \"resistor\""]);
    assert_eq!(assumed("mcs51", "P1.1", "active = \"low\""), ["assumed buttons.up.pull = \"controller\""]);
}

#[test]
fn buttons_that_cannot_work_are_findings() {
    let of = |buttons: &str| {
        let all = findings(&source(buttons));
        all.into_iter().filter(|finding| !finding.starts_with("assumed")).collect::<Vec<_>>()
    };
    assert_eq!(of(LOW), [""; 0]);
    assert_eq!(
        of(&HIGH.replace("resistor", "controller")),
        [
            "PD2 has no pull-down of its own: while nobody presses its level is whatever comes along: write pull = \
          \"resistor\" and connect one of 10 kilohm, or choose another pin"
        ]
    );
    assert_eq!(
        of(&LOW.replace("PD2", "PB3")),
        ["pin PB3 is used twice: it is data of face gauge and button up: give each line a pin of its own"]
    );
    let twice = format!("{LOW}{}", LOW.replace("buttons.up", "buttons.down").replace("PD2", "D2"));
    assert_eq!(
        of(&twice),
        ["pin PD2 is used twice: it is button up and button down: give each line a pin of its own"]
    );
    assert_eq!(of(&LOW.replace("PD2", "PX9")).len(), 1);
    assert_eq!(of(&LOW.replace("buttons.up", "buttons.\"u.p\"")).len(), 1);
    assert_eq!(of(&LOW.replace("\"low\"", "\"left\"")).len(), 1);
    let many: String = (0..33).map(|nth| LOW.replace("buttons.up", &format!("buttons.b{nth}"))).collect();
    assert!(of(&many)[0].starts_with("there are 33 buttons; 32 is the most"), "{:?}", of(&many));
    // A pin that is an input only can read a button.
    let esp = "[controller]\npart = \"esp32\"\n[buttons.up]\npin = \"GPIO34\"\npull = \"resistor\"\n\
               [face.gauge]\nkind = \"seven-segment\"\ndigits = 4\n[face.gauge.drive]\nmethod = \"max7219\"\n\
               pins = { data = \"GPIO23\", clock = \"GPIO18\", select = \"GPIO22\" }\nbus_volts = 5.0\n";
    assert!(!findings(esp).iter().any(|finding| finding.contains("GPIO34")), "{:?}", findings(esp));
}

#[test]
fn wires_and_parts_say_the_same() {
    let rig = rig(&format!("{LOW}{}", HIGH.replace("up", "down").replace("PD2", "PD3")));
    let wires = wires::buttons(&rig);
    let told: Vec<_> = wires.iter().map(|wire| (&*wire.pin, &*wire.to, &*wire.pull)).collect();
    assert_eq!(
        told,
        [
            ("PD2", "ground", "pull-up inside the controller"),
            ("PD3", "5 V", "10 kilohm from the pin to ground")
        ]
    );
    let parts = spare_tile_core::plan::parts::list(&rig);
    let count = |note: &str| {
        let of_note = parts.iter().filter(|item| item.note.contains(note));
        of_note.map(|item| item.count).sum::<usize>()
    };
    assert_eq!(count("on pins of the controller"), wires.len());
    let resistors = wires.iter().filter(|wire| wire.pull.contains("kilohm")).count();
    assert_eq!(count("at push buttons"), resistors);
}

/// The values of a variable as a reel plays with these presses, each with its time in milliseconds.
fn values(rig: &Rig, reel: &str, variable: &str, presses: &[(u64, ButtonId)]) -> Vec<(u128, String)> {
    let program = program(reel, rig);
    let press = |(at, button): &(u64, ButtonId)| Press { button: *button, at: Duration::from_millis(*at) };
    let presses: Vec<_> = presses.iter().map(press).collect();
    let mut player = Player::of_program(rig, &program, Presses::new(Board::new(rig), &presses)).unwrap();
    player.advance(Duration::from_secs(4)).unwrap();
    let values = player.inputs().values(variable, Duration::MAX);
    values.iter().map(|(at, value)| (at.as_millis(), value.to_string())).collect()
}

const REEL: &str = r#"
[variables]
level = 8
boat = "TEAL"
[buttons]
up = { to = "level", add = 1, most = 9 }
down = { light = "full" }
say = { to = "boat", set = "KNOT" }
[[track]]
[[track.act]]
text = { say = "{boat}" }
"#;

fn three() -> Rig {
    let more = HIGH.replace("buttons.up", "buttons.down").replace("PD2", "PD3");
    rig(&format!("{LOW}{more}{}", LOW.replace("buttons.up", "buttons.say").replace("PD2", "PD4")))
}

#[test]
fn a_reel_hears_them() {
    let rig = three();
    let of = |button| ButtonId { keypad: Keypad::Pins, button };
    let presses = [(500, of(0)), (1000, of(1)), (1500, of(2)), (2000, of(0))];
    // Seen at the next look, and settled 20 ms later.
    let level = values(&rig, REEL, "level", &presses);
    assert_eq!(level, [(0, "8".to_owned()), (530, "9".to_owned()), (2030, "9".to_owned())]);
    let lit = values(&rig, REEL, "gauge.full", &presses);
    assert_eq!(lit, [(0, "0".to_owned()), (1030, "1".to_owned()), (1130, "0".to_owned())]);
    let boat = values(&rig, REEL, "boat", &presses);
    assert_eq!(boat, [(0, "\"TEAL\"".to_owned()), (1530, "\"KNOT\"".to_owned())]);
}

#[test]
fn a_reel_that_names_no_button_or_lamp_is_refused() {
    use spare_tile_core::play::reel::read;
    let rig = three();
    let complaint = |from: &str, to: &str| {
        let sources = crate::common::OneSprite;
        let (program, findings) = read(&REEL.replace(from, to), &rig, &sources, &[]);
        assert!(program.is_none());
        format!("{}: {}", findings[0].trouble, findings[0].trouble.fix().unwrap_or_default())
            .trim()
            .to_owned()
    };
    let all = [
        complaint("up = {", "upp = {"),
        complaint("light = \"full\"", "light = \"empty\""),
        complaint("light = \"full\"", "light = \"gauge.empty\""),
        complaint("light = \"full\"", "light = \"full\", toggle = \"full\""),
        complaint("set = \"KNOT\"", "set = 4"),
        complaint("add = 1, most = 9", "set = \"nine\""),
    ];
    insta::assert_snapshot!(all.join("\n"), @r#"
    unknown button 'upp': did you mean 'up'? allowed: up, down, say
    unknown lamp 'empty': allowed: full
    unknown lamp 'empty': allowed: full
    found something else; expected { toggle = "LAMP" }, { light = "LAMP" }, { to = "VARIABLE", add = 1 } with at, least, most and wrap, { to = "VARIABLE", set = 0 }, { to = "VARIABLE", reset = true }, { jump = "0s" } or { pause = true }:
    found 4; expected a text, as boat is at first:
    found "nine"; expected a number, as level is at first:
    "#);
    // With the face's name it is the same lamp.
    let (program, _) =
        read(&REEL.replace("\"full\"", "\"gauge.full\""), &rig, &crate::common::OneSprite, &[]);
    assert!(program.is_some());
}

proptest! {
    /// Every press that lasts is heard once down and once up, whatever the buttons are like, and no more.
    #[test]
    fn every_press_is_heard_once(
        kinds in prop::collection::vec((any::<bool>(), any::<bool>()), 1..8),
        presses in prop::collection::vec((0..40_u64, 0..8_usize), 0..12),
    ) {
        let button = |(nth, (is_high, is_resistor)): (usize, &(bool, bool))| {
            let (active, pull) = (["low", "high"][usize::from(*is_high)], ["controller", "resistor"][usize::from(*is_resistor)]);
            format!("[buttons.b{nth}]\npin = \"GP{nth}\"\nactive = \"{active}\"\npull = \"{pull}\"\n")
        };
        let buttons: String = kinds.iter().enumerate().map(button).collect();
        let source = format!(
            "[controller]\npart = \"rp2040\"\n{buttons}[face.gauge]\nkind = \"seven-segment\"\ndigits = 4\n\
             [face.gauge.drive]\nmethod = \"max7219\"\npins = {{ data = \"GP19\", clock = \"GP18\", select = \"GP17\" }}\nbus_volts = 5.0\n"
        );
        let rig = crate::common::rig(&source);
        let binding = |nth| format!("b{nth} = {{ to = \"n\", add = 1 }}\n");
        let bound: String = (0..kinds.len()).map(binding).collect();
        let reel = format!("[variables]\nn = 0\n[buttons]\n{bound}[[track]]\n[[track.act]]\nnumber = {{ value = \"{{n}}\" }}\n");
        let program = program(&reel, &rig);
        // Far enough apart that no press of a button touches its next one.
        let mut moments: Vec<_> = presses.iter().map(|(at, button)| (at * 200, button % kinds.len())).collect();
        moments.sort_unstable();
        moments.dedup();
        let of = |button| ButtonId { keypad: Keypad::Pins, button };
        let press = |(at, button): &(u64, usize)| Press { button: of(*button), at: Duration::from_millis(*at) };
        let presses: Vec<_> = moments.iter().map(press).collect();
        let mut player = Player::of_program(&rig, &program, Presses::new(Board::new(&rig), &presses)).unwrap();
        player.advance(Duration::from_secs(10)).unwrap();
        for event in [KeyEvent::Down, KeyEvent::Up] {
            let heard = player.inputs().keys(Duration::MAX).iter().filter(|key| key.event == event);
            let mut heard: Vec<_> = heard.map(|key| (key.at.as_millis() as u64, key.button.button)).collect();
            heard.sort_unstable();
            let late = if event == KeyEvent::Down { 20 } else { 120 };
            let near = |((at, button), (heard_at, of)): (&(u64, usize), &(u64, usize))| {
                button == of && (late..=late + 20).contains(&(heard_at - at))
            };
            prop_assert_eq!(heard.len(), moments.len());
            prop_assert!(moments.iter().zip(&heard).all(near), "{:?} {:?}", moments, heard);
        }
        let number = player.inputs().value("n", Duration::MAX).and_then(Value::number);
        prop_assert_eq!(number, Some((moments.len() as i64).into()));
    }
}
