//! Driver chips: any sequence of frames, brightness changes, offs and refreshes, drawn from the edges by the model, is
//! what was asked at each step; and updates are as short as the part allows.

use proptest::prelude::*;
use spare_tile_core::board::Board;
use spare_tile_core::bus::Ops;
use spare_tile_core::frame::Level;
use spare_tile_core::plan::{ButtonId, Keypad, Mount, Rig};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::rig::Severity;

use crate::common::{Powered, frame, lit, rig, saying};
use crate::rig_findings::findings;

#[derive(Debug, Clone)]
enum Step {
    Show(Vec<bool>),
    Brightness(u8),
    Off,
    On,
    Refresh,
}

fn steps(elements: usize, most: u8) -> impl Strategy<Value = Vec<Step>> {
    let step = prop_oneof![
        4 => prop::collection::vec(any::<bool>(), elements).prop_map(Step::Show),
        2 => (0..=most).prop_map(Step::Brightness),
        1 => Just(Step::Off),
        1 => Just(Step::On),
        1 => Just(Step::Refresh),
    ];
    prop::collection::vec(step, 1..12)
}

/// Does the steps and compares each with what the model lights, brightness included. A second driver that sends
/// everything each time must lead to the same lights.
fn check(rig: &Rig, steps: &[Step]) -> Result<(), TestCaseError> {
    let mount = &rig.faces[0];
    let display = mount.drive.display();
    let mut powered = Powered::new(rig);
    let mut wanted = vec![false; mount.face.element_count()];
    let (mut is_on, mut light) = (true, None);
    prop_assert!(lit(&powered.picture()).iter().all(|lit| !lit), "dark after power-up");
    for step in steps {
        match step {
            Step::Show(lit) => {
                powered.show(&frame(lit));
                wanted.clone_from(lit);
            }
            Step::Brightness(step) => {
                powered.scheduler.brightness(0, *step).unwrap();
                light = Some(display.step_light(*step));
            }
            Step::Off => {
                powered.scheduler.off(0).unwrap();
                is_on = false;
            }
            Step::On => {
                powered.scheduler.on(0).unwrap();
                is_on = true;
            }
            Step::Refresh => {
                // A display that was switched off stays off.
                powered.scheduler.refresh(0).unwrap();
            }
        }
        let picture = powered.picture();
        let expected: Vec<_> = wanted.iter().map(|lit| *lit && is_on).collect();
        prop_assert_eq!(&lit(&picture), &expected, "{:?}", step);
        if let Some(light) = light {
            for seen in picture.light.iter().filter(|seen| **seen > 0.0) {
                prop_assert!((seen - light).abs() < 1e-4, "{} {}", seen, light);
            }
        }
        let before = picture.light;
        let mut refreshed = Powered::new(rig);
        refreshed.show(&frame(&wanted));
        refreshed.scheduler.refresh(0).unwrap();
        if is_on && light.is_none() {
            prop_assert_eq!(&before, &refreshed.picture().light);
        }
    }
    Ok(())
}

fn on_part(method: &str, digits: usize, kind: &str, keys: &str) -> Rig {
    rig(&format!(
        "[controller]\nlogic_volts = 5.0\n[face.f]\nkind = \"{kind}\"\ndigits = {digits}\n[face.f.drive]\nmethod = \"{method}\"\n{keys}\n"
    ))
}

const TWO: &str = "pins = { clock = 1, data = 2 }";
const THREE: &str = "pins = { clock = 1, data = 2, strobe = 3 }";

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn tm1637((digits, steps) in (1..=6_usize).prop_flat_map(|digits| (Just(digits), steps(8 * digits, 7))), hz in 1_000..=250_000_u32) {
        check(&on_part("tm1637", digits, "seven-segment", &format!("{TWO}\nclock_hz = {hz}")), &steps)?;
    }

    #[test]
    fn tm1638((digits, steps) in (1..=8_usize).prop_flat_map(|digits| (Just(digits), steps(8 * digits, 7))), hz in 1_000..=1_000_000_u32) {
        check(&on_part("tm1638", digits, "seven-segment", &format!("{THREE}\nclock_hz = {hz}")), &steps)?;
    }

    #[test]
    fn ht16k33((digits, steps) in (1..=20_usize).prop_flat_map(|digits| (Just(digits), steps(15 * digits, 15)))) {
        check(&on_part("ht16k33", digits, "fourteen-segment", TWO), &steps)?;
    }

    #[test]
    fn max7219((digits, steps) in (1..=40_usize).prop_flat_map(|digits| (Just(digits), steps(8 * digits, 15)))) {
        check(&crate::common::max7219(digits, ""), &steps)?;
    }

    #[test]
    fn dots_in_any_orientation(
        steps in steps(16 * 16, 15),
        first in prop::sample::select(&["left", "right"]),
        lines in prop::sample::select(&["rows", "columns"]),
        rotate in prop::sample::select(&[0, 90, 180, 270]),
        flip in prop::sample::select(&["none", "horizontal", "vertical"]),
        row in prop::sample::select(&["top", "bottom"]),
        serpentine in any::<bool>(),
        (other, other_rotate, other_flip) in (0..4_usize, prop::sample::select(&[0, 90, 180, 270]), prop::sample::select(&["none", "vertical"])),
    ) {
        let modules = format!(
            "first = \"{first}\", lines_are = \"{lines}\", rotate = {rotate}, flip = \"{flip}\", first_row = \"{row}\", \
             serpentine = {serpentine}, except = [{{ part = {other}, rotate = {other_rotate}, flip = \"{other_flip}\" }}]"
        );
        check(&board(16, 16, &modules), &steps)?;
    }
}

fn board(width: usize, height: usize, modules: &str) -> Rig {
    rig(&format!(
        "[face.board]\nkind = \"dots\"\nwidth = {width}\nheight = {height}\n[face.board.drive]\nmethod = \"max7219\"\n\
         pins = {{ data = 1, clock = 2, select = 3 }}\nmodules = {{ {modules} }}\n"
    ))
}

/// How many bytes go out for the second of two frames.
fn update_bytes(mount: &Mount, from: &[Level], to: &[Level]) -> usize {
    let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
    let (mut driver, mut ops) = (mount.drive.display().driver(), Ops::default());
    driver.power_up(&mut ops);
    mount.wiring.to_nodes(from, &mut nodes);
    driver.frame(&nodes, &mut ops);
    ops.clear();
    mount.wiring.to_nodes(to, &mut nodes);
    driver.frame(&nodes, &mut ops);
    ops.iter().map(|op| op.transfer.on_the_wire().count()).sum()
}

fn text_update(rig: &Rig, from: &str, to: &str) -> usize {
    let mount = &rig.faces[0];
    update_bytes(mount, saying(rig, from).levels(), saying(rig, to).levels())
}

#[test]
fn one_digit_of_eight() {
    for (rig, bytes) in [
        (crate::common::max7219(8, ""), 2),
        (on_part("tm1638", 8, "seven-segment", THREE), 2),
        (on_part("ht16k33", 8, "seven-segment", TWO), 3),
    ] {
        assert_eq!(text_update(&rig, "00000048", "00000049"), bytes, "{}", rig.faces[0].method);
        assert_eq!(text_update(&rig, "00000048", "00000048"), 0);
    }
    assert_eq!(text_update(&on_part("tm1637", 6, "seven-segment", TWO), "000048", "000049"), 2);
}

#[test]
fn the_minute_of_a_clock() {
    let clock = |method: &str, pins: &str| on_part(method, 4, "seven-segment", pins);
    // 07:59 to 08:00: three digits.
    for (method, pins, bytes) in [
        ("tm1637", TWO, 1 + 3),
        ("tm1638", THREE, 3 * 2),
        ("ht16k33", TWO, 2 + 5),
        ("max7219", "pins = { data = 1, clock = 2, select = 3 }", 6),
    ] {
        let bytes = if method == "tm1638" { 1 + 5 } else { bytes };
        assert_eq!(text_update(&clock(method, pins), "0759", "0800"), bytes, "{method}");
    }
}

#[test]
fn one_dot_and_a_scroll_step_of_a_board() {
    let rig = board(32, 8, "");
    let mount = &rig.faces[0];
    let dark = mount.face.blank();
    let mut dot = dark.clone();
    dot.levels_mut()[mount.face.dot(5, 3).unwrap().0] = Level::FULL;
    // One transfer of a word for each of the four parts.
    assert_eq!(update_bytes(mount, dark.levels(), dot.levels()), 8);
    let column = |shift: usize| {
        let mut frame = mount.face.blank();
        for (x, y) in (0..32).flat_map(|x| (0..8).map(move |y| (x, y))) {
            if (x + shift).is_multiple_of(3) {
                frame.levels_mut()[mount.face.dot(x, y).unwrap().0] = Level::FULL;
            }
        }
        frame
    };
    assert_eq!(update_bytes(mount, column(0).levels(), column(1).levels()), 8 * 8);
}

#[test]
fn keys_are_read_through_edges_and_several_at_once() {
    let keys: Vec<_> = (0..8)
        .map(|key| format!("{{ name = \"call{key}\", node = \"byte{}.bit{}\" }}", key % 4, key / 4 * 4))
        .collect();
    let rig = rig(&format!(
        "[face.desk]\nkind = \"seven-segment\"\ndigits = 8\nbuttons = [{}]\n[face.desk.drive]\nmethod = \"tm1638\"\n{THREE}\n",
        keys.join(", ")
    ));
    let mut powered = Powered::new(&rig);
    let press = |powered: &mut Powered<'_>, button, down| {
        powered.scheduler.link_mut().press(ButtonId { keypad: Keypad::Face(0), button }, down);
        powered.scheduler.buttons(Keypad::Face(0)).unwrap()
    };
    assert!(powered.scheduler.buttons(Keypad::Face(0)).unwrap().is_empty());
    press(&mut powered, 2, true);
    assert_eq!(press(&mut powered, 7, true), [2, 7]);
    assert_eq!(press(&mut powered, 2, false), [7]);
    // Reading leaves the display as it was.
    powered.show(&frame(&[true; 64]));
    powered.scheduler.buttons(Keypad::Face(0)).unwrap();
    powered.show(&frame(&[false; 64]));
    assert!(lit(&powered.picture()).iter().all(|lit| !lit));
}

#[test]
fn each_part_answers_for_its_own_keys() {
    let rig = rig(&format!(
        "[controller]\nlogic_volts = 5.0\n[face.sign]\nkind = \"seven-segment\"\ndigits = 16\n\
         buttons = [{{ name = \"first\", node = \"byte0.bit3\" }}, {{ name = \"second\", node = \"byte7.bit2\" }}]\n\
         [face.sign.drive]\nmethod = \"ht16k33\"\n{TWO}\naddresses = [0x70, 0x71]\n"
    ));
    let mut powered = Powered::new(&rig);
    let board = powered.scheduler.link_mut();
    board.end(0).unwrap().model_mut().listen();
    board.press(ButtonId { keypad: Keypad::Face(0), button: 1 }, true);
    assert_eq!(powered.scheduler.buttons(Keypad::Face(0)).unwrap(), [1]);
    powered.scheduler.link_mut().press(ButtonId { keypad: Keypad::Face(0), button: 0 }, true);
    assert_eq!(powered.scheduler.buttons(Keypad::Face(0)).unwrap(), [0, 1]);
    // The notes on the transfers name the part.
    let heard = powered.scheduler.link_mut().end(0).unwrap().heard();
    let answers: Vec<_> = heard
        .into_iter()
        .map(|note| note.meaning.plainly())
        .filter(|words| words.contains("answers"))
        .collect();
    assert_eq!(
        answers,
        [
            "0x70: answers: no button is down",
            "0x71: answers: buttons byte1.bit2 down",
            "0x70: answers: buttons byte0.bit3 down",
            "0x71: answers: buttons byte1.bit2 down"
        ]
    );
}

#[test]
fn a_decoding_part_shows_what_code_b_has() {
    let decoding = on_part(
        "max7219",
        8,
        "seven-segment",
        "pins = { data = 1, clock = 2, select = 3 }\ndecode = \"code-b\"",
    );
    let mut powered = Powered::new(&decoding);
    powered.show(&saying(&decoding, "-0.4HELP7"));
    assert_eq!(powered.picture().reading(), "-0.4HELP7");
}

#[test]
fn the_test_mode_lights_all_and_gives_the_picture_back() {
    let rig = crate::common::max7219(8, "");
    let mut powered = Powered::new(&rig);
    powered.scheduler.test(0, true).unwrap();
    assert!(lit(&powered.picture()).iter().all(|lit| *lit));
    powered.scheduler.test(0, false).unwrap();
    assert!(lit(&powered.picture()).iter().all(|lit| !lit));
}

/// A node's part counts along the whole chain, as `first_part` does, and not from the face's own first.
#[test]
fn the_node_of_a_lamp_counts_parts_along_the_whole_chain() {
    let desk = |node: &str| {
        format!(
            "[face.desk]\nkind = \"seven-segment\"\ndigits = 4\nlamps = [{{ name = \"ebb\", node = \"{node}\" }}]\n\
             [face.desk.drive]\nmethod = \"max7219\"\npins = {{ data = 1, clock = 2, select = 3 }}\n\
             chain = {{ parts = 4, first_part = 2 }}\n"
        )
    };
    let lit = |node: &str| {
        let rig = rig(&desk(node));
        let mut powered = Powered::new(&rig);
        let mut wanted = vec![false; 33];
        wanted[32] = true;
        powered.show(&frame(&wanted));
        lit(&powered.picture()) == wanted
    };
    assert!(lit("part2.digit6.a") && lit("digit6.a"));
    let error = findings(&desk("part0.digit6.a"), Severity::Error);
    assert!(error.contains("a node from \"part2.digit0.a\" to \"part2.digit7.dp\""), "{error}");
}

#[test]
fn digits_and_dots_share_a_chain_and_leave_each_other_alone() {
    let rig =
        rig("[face.desk]\nkind = \"seven-segment\"\ndigits = 8\n[face.desk.drive]\nmethod = \"max7219\"\n\
         pins = { data = 1, clock = 2, select = 3 }\nchain = { parts = 5, first_part = 0 }\n\
         [face.board]\nkind = \"dots\"\nwidth = 32\nheight = 8\n[face.board.drive]\nmethod = \"max7219\"\n\
         pins = { data = 1, clock = 2, select = 3 }\nchain = { parts = 5, first_part = 1 }\n");
    let digits: Vec<bool> = (0..64).map(|element| element % 3 == 0).collect();
    let dots: Vec<bool> = (0..256).map(|element| element % 7 == 0).collect();
    let mut scheduler = Scheduler::new(&rig, Board::new(&rig));
    for (face, wanted) in [(0, &digits), (1, &dots)] {
        scheduler.power_up(face).unwrap();
        scheduler.show(face, &frame(wanted)).unwrap();
    }
    for (face, wanted) in [(0, &digits), (1, &dots)] {
        assert_eq!(&lit(&scheduler.expose(face).unwrap()), wanted);
    }
}

/// An answer is low so long after the falling clock before it: each part's own latest, by its data sheet.
#[test]
fn parts_answer_as_late_as_they_may() {
    let i2c = |method: &str, more: &str, clock: u32| {
        let drive =
            format!("method = \"{method}\"\npins = {{ clock = 1, data = 2 }}\nclock_hz = {clock}\n{more}");
        format!(
            "[face.crew]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"COMMON\"\n[face.crew.drive]\n{drive}"
        )
    };
    let expander = |part: &str, clock, common: &str| {
        let more = format!(
            "part = \"{part}\"\naddresses = [0x20]\nresistor = {{ ohms = 1000, in = \"segments\" }}\n"
        );
        (i2c("expander", &more, clock).replace("COMMON", common), part.to_owned())
    };
    let cases = [
        ((i2c("tm1637", "", 100_000).replace("COMMON", "anode"), "tm1637".to_owned()), 300),
        ((i2c("ht16k33", "", 400_000).replace("COMMON", "cathode"), "ht16k33".to_owned()), 900),
        (expander("pcf8574", 100_000, "anode"), 3_400),
        (expander("mcp23017", 100_000, "cathode"), 3_500),
        (expander("mcp23017", 400_000, "cathode"), 900),
        (expander("mcp23017", 1_700_000, "cathode"), 150),
    ];
    for ((source, part), delay) in cases {
        let rig = rig(&source);
        let mut board = Board::new(&rig);
        board.record();
        let mut scheduler = Scheduler::new(&rig, board);
        scheduler.power_up(0).unwrap();
        scheduler.show(0, &saying(&rig, "7")).unwrap();
        let edges = scheduler.link_mut().recorded();
        let [clock, data] = [0, 1].map(|line| scheduler.link().lines_of(&rig.faces[0])[line]);
        let mut fell = None;
        let mut delays = Vec::new();
        for edge in &edges {
            match (edge.line == clock, edge.line == data, edge.level) {
                (true, _, level) => fell = (!level).then_some(edge.at),
                (_, true, false) => delays.extend(fell.map(|fell| (edge.at - fell).0)),
                _ => {}
            }
        }
        // The controller's own bits come at other times. Where the last bit was low the answer makes no edge.
        assert!(delays.contains(&delay), "{part}: {delays:?}");
    }
}
