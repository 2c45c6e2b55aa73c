//! Push buttons in a person's own program, on pins and beside a display.

use super::super::cases::{CONTACTS, Case, Press};
use super::super::runners::{RUNNERS, Running};
use crate::folder::Folder;

const PRESSES: &[Press] =
    &[("up", 300), ("gauge.k1", 500), ("up", 700), ("gauge.k1", 900), ("up", 1100), ("down", 1300)];

/// Thousands count how often `up` went down, hundreds how often it went up, tens how often `k1` went down; the ones are 1 once
/// `down` was down for 60 ms.
const SHOWN: &str = "3321";

const IN_C: &str = "#include \"own.h\"\n#include <stdint.h>\n#include \"gauge.h\"\n#include \"keypad.h\"\n\n\
    static uint16_t number;\n\nvoid own_begin(void)\n{\n    digits_number(&gauge, 0, 0);\n}\n\n\
    void own_step(void)\n{\n    uint16_t more = 0;\n\n    \
    if (button_went_down(BUTTON_UP)) {\n        more += 1000;\n    }\n    \
    if (button_went_up(BUTTON_UP)) {\n        more += 100;\n    }\n    \
    if (button_went_down(GAUGE_K1)) {\n        more += 10;\n    }\n    \
    if (button_is_down(BUTTON_DOWN) && button_down_ms(BUTTON_DOWN) >= 60 && number % 10 == 0) {\n        more += 1;\n    }\n    \
    if (more != 0) {\n        number = (uint16_t)(number + more);\n        digits_number(&gauge, number, 0);\n    }\n}\n";

const IN_PYTHON: &str = "import keypad\nimport keypad_wiring as wiring\nfrom gauge import face\n\nnumber = 0\n\n\n\
    def begin():\n    face.number(0)\n\n\ndef step():\n    global number\n    \
    more = 1000 * keypad.went_down(wiring.BUTTON_UP) + 100 * keypad.went_up(wiring.BUTTON_UP)\n    \
    more += 10 * keypad.went_down(wiring.GAUGE_K1)\n    \
    if keypad.is_down(wiring.BUTTON_DOWN) and keypad.down_ms(wiring.BUTTON_DOWN) >= 60 and number % 10 == 0:\n        \
    more += 1\n    if more:\n        number += more\n        face.number(number)\n";

const IN_RUST: &str = "use crate::gauge::Face;\nuse crate::keypad::Keypad;\n\
    use crate::keypad_wiring::{BUTTON_DOWN, BUTTON_UP, GAUGE_K1};\n\n\
    pub struct Own {\n    number: i32,\n}\n\nimpl Own {\n    \
    pub fn begin(_now: u32, _keypad: &mut Keypad, gauge: &mut Face) -> Self {\n        gauge.number(0, 0);\n        Self { number: 0 }\n    }\n\n    \
    pub fn step(&mut self, _now: u32, keypad: &mut Keypad, gauge: &mut Face) {\n        \
    let mut more = 1000 * i32::from(keypad.went_down(BUTTON_UP)) + 100 * i32::from(keypad.went_up(BUTTON_UP));\n        \
    more += 10 * i32::from(keypad.went_down(GAUGE_K1));\n        \
    if keypad.is_down(BUTTON_DOWN) && keypad.down_ms(BUTTON_DOWN) >= 60 && self.number % 10 == 0 {\n            more += 1;\n        }\n        \
    if more != 0 {\n            self.number += more;\n            gauge.number(self.number, 0);\n        }\n    }\n}\n";

/// The picture of a program at the end, after a change of a file of its project.
fn shown(place: usize, change: Option<(&str, &str, &str)>) -> Option<String> {
    let runner = &RUNNERS[place];
    let case = Case { rig: CONTACTS, faces: &["gauge"], reel: "", ms: 1600, presses: PRESSES };
    let (path, source) = match runner.target {
        "micropython" => ("out/own.py", IN_PYTHON),
        "rust" => ("out/src/own.rs", IN_RUST),
        "setup-loop" => ("out/display/own.c", IN_C),
        "c99" | "avr" => ("out/own.c", IN_C),
        _ => return None,
    };
    if !runner.takes(&case) {
        return None;
    }
    let (folder, target) = (Folder::empty(), runner.target);
    folder.write("this.toml", runner.rig(&case));
    folder.answer(&format!("firmware --app own --target {target} --unsound --rig this.toml --out out"));
    folder.write(path, source);
    if let Some((file, right, wrong)) = change {
        let source = folder.read(&format!("out/{file}"));
        assert!(source.contains(right), "{file}: {right}\n{source}");
        folder.write(&format!("out/{file}"), source.replace(right, wrong));
    }
    (runner.run)(&Running { folder: &folder, project: "out", ms: case.ms, presses: PRESSES });
    Some(folder.answer("capture trace.vcd --rig this.toml --final"))
}

#[test]
fn a_program_of_ones_own_hears_every_press_once() {
    let mut ran = 0;
    for place in (0..RUNNERS.len()).filter(|place| RUNNERS[*place].is_there()) {
        if let Some(told) = shown(place, None) {
            assert!(told.contains(&format!("\"{SHOWN}\"")), "{}: {told}", RUNNERS[place].target);
            ran += 1;
        }
    }
    // Of the targets that are asked for, these have no calls for a program of one's own.
    let all: Vec<_> = RUNNERS.iter().filter(|runner| runner.is_there()).map(|runner| runner.target).collect();
    assert!(ran > 0 || all.iter().all(|target| ["mcs51", "pic-asm"].contains(target)), "{all:?}");
}

#[test]
fn a_mistake_in_the_source_for_buttons_is_seen() {
    for mistake in [
        ("keypad.c", "    gone_down &= (button_bits)~bit(button);\n", ""),
        (
            "keypad.c",
            "gone_up |= changed & (button_bits)~buttons.down;",
            "gone_up |= changed & buttons.down & 1u;",
        ),
        ("keypad.c", "(uint16_t)(down_ms[button] + passed)", "(uint16_t)(down_ms[button] + 1)"),
        ("buttons.c", "    of->down = seen;\n", ""),
        ("keypad_wiring.c", "    hw_input(UP_PIN, HW_PULL_UP);\n", ""),
    ] {
        if let Some(told) = RUNNERS[0].is_there().then(|| shown(0, Some(mistake))).flatten() {
            assert!(!told.contains(&format!("\"{SHOWN}\"")), "nobody saw it: {mistake:?}");
        }
    }
}

/// Buttons of all kinds are numbered together, a bit each.
#[test]
fn more_buttons_than_bits_are_refused() {
    let folder = Folder::empty();
    let complaint = |on_pins: usize| {
        let button = |nth: usize| format!("[buttons.b{nth}]\npin = \"X{nth}\"\n");
        let buttons: String = (0..on_pins).map(button).collect();
        let face = &CONTACTS[CONTACTS.find("[face.gauge]").unwrap()..];
        folder.write("this.toml", format!("{buttons}{face}"));
        folder.run("firmware --app own --target c99 --unsound --rig this.toml --out out --force")
    };
    assert_eq!(complaint(31).status, 0);
    let run = complaint(32);
    assert_eq!(run.status, 2);
    assert!(
        run.err.contains("there are 33 buttons, and a program of your own asks for at most 32"),
        "{}",
        run.err
    );
}
