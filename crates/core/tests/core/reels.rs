//! Reel files: read for the desk of the landing, played to any moment, and refused with the place.

use std::cell::Cell;
use std::time::Duration;

use proptest::prelude::*;
use proptest::sample::select;
use spare_tile_core::board::Board;
use spare_tile_core::board::seen::Sight;
use spare_tile_core::bus::{Op, Reply, Role};
use spare_tile_core::content::Canvas;
use spare_tile_core::content::lettering::{Lettering, Look};
use spare_tile_core::content::text::Align;
use spare_tile_core::dots::own;
use spare_tile_core::link::{Link, Tap};
use spare_tile_core::plan::{ButtonId, DeviceId, Keypad, Rig};
use spare_tile_core::play::reel::{Program, read};
use spare_tile_core::play::{Inputs, Player, Value};
use spare_tile_core::units::Nanos;

use crate::common::{OneSprite, program, rig};

const DESK: &str = include_str!("../../../cli/demo/desk.toml");
const BOARD: &str = include_str!("../../../cli/demo/board.toml");

/// On the desk: a boat and its minutes, the time, and words that pass.
const MORNING: &str = r#"
name = "before the first boat"
loop = true

[variables]
boat = "TEAL"
minutes = 12

[buttons]
"desk.call1" = { toggle = "berth1" }
"desk.call2" = { to = "minutes", add = -1 }
"desk.call3" = { to = "minutes", set = 30 }

[[track]]
face = "desk"
[[track.act]]
text = { say = "{boat} {minutes}", align = "left", for = "4s" }
[[track.act]]
count = { from = 0, to = 4, every = "500ms", place = { start = 0, length = 2 } }
[[track.act]]
number = { value = "{minutes}", for = "1s", at = "7s" }

[[track]]
face = "clock"
[[track.act]]
clock = { time = "2026-11-28T07:57:58", colon = "steady", for = "6s" }

[[track]]
face = "sign"
[[track.act]]
text = { say = "FERRY {boat}", way = "left", every = "100ms" }
"#;

/// On the desk, run by keys: boats out of another reel, a number with a cursor, and a clock that is set.
const BY_KEYS: &str = r#"
[variables]
boat = "BRENT"
minutes = 12
place = 0
[buttons]
"desk.call1" = { to = "place", add = 1, least = 0, most = 2, wrap = true }
"desk.call2" = { to = "minutes", add = 1, at = "place", least = 0, most = 199 }
"desk.call3" = { to = "minutes", reset = true }
"desk.call4" = { jump = "2s" }
"desk.call5" = { pause = true }
[[track]]
face = "desk"
[[track.act]]
reel = { file = "boats.reel.toml", place = { start = 0, length = 5 }, times = 3 }
[[track]]
face = "desk"
[[track.act]]
number = { value = "{minutes}", cursor = "place", place = { start = 5, length = 3 }, for = "9s" }
[[track]]
face = "clock"
[[track.act]]
clock = { time = "2026-11-28T07:58:20", colon = "steady", set = { hours = "desk.call6", minutes = "desk.call7", seconds = "desk.call8" } }
"#;

/// On dots: every kind of act that they have.
const ON_DOTS: &str = r##"
[variables]
level = 2.5
[[track]]
loop = true
[[track.act]]
gauge = { value = "{level}", from = 0, to = 9, way = "up", for = "1s", place = { left = 0, top = 0, width = 4, height = 8 } }
[[track.act]]
plot = { value = "{level}", from = 0, to = 9, every = "200ms", filled = true, for = "2s" }
[[track.act]]
sprite = { file = "gull.dots", times = 2, shift = [3, 0] }
[[track.act]]
text = { say = ["TEAL", "DUNLIN"], motion = "wipe", hold = "700ms", look = { font = "small", ink = "#ff8000", spacing = 1 } }
[[track.act]]
reading = { of = "level", show = "most", mean = "2s", band = 0.1, keep = "300ms", stale = "5s", places = 1, for = "1s" }
[[track.act]]
all = { every = "10ms", for = "500ms" }
[[track.act]]
blank = { for = "300ms" }
[[track.act]]
number = { value = -0.4, places = 1, for = "1s" }
"##;

const TESTS: &str = "[[track]]\nface = \"desk\"\n[[track.act]]\ntest = { every = \"20ms\" }\n[[track.act]]\nall = { every = \"100ms\" }\n\
                     [[track.act]]\nlamps = { on = [\"berth2\"], blink = \"400ms\", for = \"2s\" }\n\
                     [[track.act]]\ngauge = { value = 3, from = 0, to = 8, lamps = [\"berth1\", \"berth2\", \"berth3\"], for = \"1s\" }\n";

/// Reels that are read.
pub const SOUND: [&str; 5] =
    [MORNING, ON_DOTS, TESTS, include_str!("../../../cli/demo/morning.reel.toml"), BY_KEYS];

/// The errors of a reel for the desk, each with the text at its place.
fn wrong(source: &str) -> Vec<String> {
    let (program, findings) = read(source, &rig(DESK), &OneSprite, &[]);
    assert!(program.is_none());
    findings.iter().map(|finding| format!("{}: {}", &source[finding.span.clone()], finding.trouble)).collect()
}

/// Where there is nothing to choose from, that is said.
#[test]
fn a_name_among_none_is_told_so() {
    let reel = "[buttons]\n\"sign.call1\" = { pause = true }\n[[track]]\nface = \"sign\"\n[[track.act]]\ncount = {}\n";
    let (_, findings) = read(reel, &rig(DESK), &OneSprite, &[]);
    let fixes: Vec<_> = findings.iter().map(|finding| finding.trouble.fix()).collect();
    assert_eq!(fixes, [Some("there is none here".to_owned())]);
}

#[test]
fn acts_follow_one_another_in_tracks() {
    let rig = rig(DESK);
    let program = program(MORNING, &rig);
    assert_eq!((program.name.as_deref(), program.reel.length()), (Some("before the first boat"), None));
    let planned: Vec<_> = program
        .plan
        .iter()
        .map(|planned| {
            (planned.track, planned.kind, planned.begins.as_millis(), planned.ends.unwrap().as_millis())
        })
        .collect();
    assert_eq!(
        planned,
        [
            (0, "text", 0, 4000),
            (0, "count", 4000, 6500),
            (0, "number", 7000, 8000),
            (1, "clock", 0, 6000),
            (2, "text", 0, 2200)
        ]
    );
    let mut player = Player::of_program(&rig, &program, Board::new(&rig)).unwrap();
    let mut reads = |millis| -> Vec<String> {
        let at = Duration::from_millis(millis);
        player.advance(at).unwrap();
        player.expose().unwrap();
        player.pictures().iter().map(|picture| picture.reading()).collect()
    };
    assert_eq!(reads(500), ["tEAL 12 ", "07:57", "       FERRY"]);
    assert_eq!(reads(4600), [" 1      ", "07:58", "            "]);
    assert_eq!(reads(6700)[0], "        ");
    assert_eq!(reads(7500), ["      12", "    ", "            "]);
    // All of it begins again after the longest track.
    assert_eq!(reads(8500)[..2], ["tEAL 12 ", "07:57"]);
}

/// A key lights a lamp, another one counts: pressed on the board, heard over the bus.
#[test]
fn keys_do_what_the_reel_says() {
    let rig = rig(DESK);
    let program = program(MORNING, &rig);
    let mut player = Player::of_program(&rig, &program, Board::new(&rig)).unwrap();
    let mut press = |key: usize, at: u64| {
        for (down, moment) in [(true, at), (false, at + 60)] {
            player.advance(Duration::from_millis(moment)).unwrap();
            player.scheduler_mut().link_mut().press(ButtonId { keypad: Keypad::Face(0), button: key }, down);
        }
        player.advance(Duration::from_millis(at + 150)).unwrap();
        player.expose().unwrap();
        let pictures = player.pictures();
        (pictures[0].reading(), pictures[0].extra(0) > 0.0)
    };
    assert_eq!(press(0, 300), ("tEAL 12 ".to_owned(), true));
    assert_eq!(press(1, 600), ("tEAL 11 ".to_owned(), true));
    assert_eq!(press(0, 900), ("tEAL 11 ".to_owned(), false));
    assert_eq!(press(2, 1200), ("tEAL 30 ".to_owned(), false));
    assert_eq!(press(1, 1500), ("tEAL 29 ".to_owned(), false));
}

/// Presses keys of the desk one after another, a tenth of a second each from a moment on, and lets time pass up to another.
/// The text at that time.
fn typed(keys: &[usize], from_ms: u64, until_ms: u64) -> Vec<String> {
    let rig = rig(DESK);
    let program = program(BY_KEYS, &rig);
    let mut player = Player::of_program(&rig, &program, Board::new(&rig)).unwrap();
    let mut at = Duration::from_millis(from_ms);
    for key in keys {
        for down in [true, false] {
            player.advance(at).unwrap();
            player.scheduler_mut().link_mut().press(ButtonId { keypad: Keypad::Face(0), button: *key }, down);
            at += Duration::from_millis(50);
        }
    }
    player.advance(Duration::from_millis(until_ms)).unwrap();
    player.expose().unwrap();
    player.pictures()[..2].iter().map(|picture| picture.reading()).collect()
}

#[test]
fn a_cursor_says_which_figure_a_key_changes() {
    assert_eq!(typed(&[], 0, 400)[0], "brEnt 12");
    assert_eq!(typed(&[1, 1], 0, 400)[0], "brEnt 14");
    // One place to the left: the tens.
    assert_eq!(typed(&[0, 1, 1], 0, 1300)[0], "brEnt 32");
    // The hundreds, which end at 199, and round to the ones again.
    assert_eq!(typed(&[0, 0, 1, 1], 0, 1300)[0], "brEnt199");
    assert_eq!(typed(&[0, 0, 0, 1], 0, 1300)[0], "brEnt 13");
    assert_eq!(typed(&[1, 1, 2], 0, 1300)[0], "brEnt 12", "set back");
    // In the second half of each second its figure is dark.
    assert_eq!(typed(&[], 0, 700)[0], "brEnt 1 ");
    assert_eq!(typed(&[0], 0, 700)[0], "brEnt  2");
}

#[test]
fn keys_jump_and_hold() {
    // The boat has two seconds, then its berth one. The jump leaves what was set as it is.
    assert_eq!(typed(&[7, 1, 3], 0, 600)[0], "    3 13");
    assert_eq!(typed(&[7, 1], 0, 1200)[0], "brEnt 13");
    // Held at half a second; two seconds later the boat still stands. Let go, it has gone on as if nothing had been.
    assert_eq!(typed(&[4], 300, 2600)[0], "brEnt 12");
    assert_eq!(typed(&[4], 300, 2600)[1], "07:58");
    assert_eq!(typed(&[4, 4], 300, 2200)[0], "    2 12");
}

#[test]
fn a_clock_is_set_by_keys() {
    let clock = |keys: &[usize], until| typed(keys, 100, until)[1].clone();
    assert_eq!(clock(&[5, 5, 6], 600), "09:59");
    assert_eq!(clock(&[5; 17], 3000), "00:58", "hours go on within the day");
    assert_eq!(clock(&[6, 6], 3000), "07:00", "minutes within the hour");
    // At 20 seconds past the nearest full minute is the one before: the next one is a minute off.
    assert_eq!((clock(&[7], 59_000), clock(&[7], 60_500)), ("07:58".to_owned(), "07:59".to_owned()));
    assert_eq!((clock(&[], 39_000), clock(&[], 40_500)), ("07:58".to_owned(), "07:59".to_owned()));
}

#[test]
fn a_reel_inside_a_reel_brings_what_it_needs() {
    let rig = rig(DESK);
    let program = program(BY_KEYS, &rig);
    let boat = program.variables["boat"].clone();
    assert_eq!(boat, Value::Words("BRENT".to_owned()), "the reel around it says what its variables are");
    assert_eq!(program.variables["berth"], Value::Number(2.into()));
    assert_eq!(program.plan[0].ends, Some(Duration::from_secs(9)));
    let inside = |file: &str| {
        wrong(&format!("[[track]]\nface = \"clock\"\n[[track.act]]\nreel = {{ file = \"{file}\" }}\n"))
    };
    insta::assert_debug_snapshot!((inside("itself.reel.toml"), inside("none.reel.toml")), @r#"
    (
        [
            "\"itself.reel.toml\": itself.reel.toml has no track for face clock",
        ],
        [
            "\"none.reel.toml\": there is no reel file none.reel.toml",
        ],
    )
    "#);
    insta::assert_debug_snapshot!(wrong("[[track]]\nface = \"desk\"\n[[track.act]]\nreel = { file = \"itself.reel.toml\" }\n"), @r#"
    [
        "\"itself.reel.toml\": this reel is played within itself",
    ]
    "#);
}

/// A stopwatch on the clock, whose keys are on the desk, where nothing plays.
#[test]
fn a_stopwatch_is_run_by_keys() {
    let rig = rig(DESK);
    let source = "[[track]]\nface = \"clock\"\n[[track.act]]\nstopwatch = { start = \"desk.call1\", lap = \"desk.call2\" }\n";
    let program = program(source, &rig);
    let mut player = Player::of_program(&rig, &program, Board::new(&rig)).unwrap();
    let mut reads = |press: Option<usize>, at: u64| {
        player.advance(Duration::from_millis(at)).unwrap();
        if let Some(key) = press {
            player.scheduler_mut().link_mut().press(ButtonId { keypad: Keypad::Face(0), button: key }, true);
            player.advance(Duration::from_millis(at + 60)).unwrap();
            player.scheduler_mut().link_mut().press(ButtonId { keypad: Keypad::Face(0), button: key }, false);
            player.advance(Duration::from_millis(at + 150)).unwrap();
        }
        player.expose().unwrap();
        player.pictures().iter().map(|picture| picture.reading()).collect::<Vec<_>>().remove(1)
    };
    assert_eq!(reads(None, 3000), "00:00");
    assert_eq!(reads(Some(0), 5000), "00:00");
    assert_eq!(reads(None, 8200), "00:03");
    // A lap stands while it runs on.
    assert_eq!(reads(Some(1), 9200), "00:04");
    assert_eq!(reads(None, 68_000), "00:04");
    assert_eq!(reads(Some(1), 70_100), "01:05");
    assert_eq!(reads(Some(0), 72_100), "01:07");
    assert_eq!(reads(None, 90_000), "01:07");
    assert_eq!(reads(Some(1), 91_000), "00:00");
}

/// A ramp goes by the steps of the part, and the day's plan by the clock on the wall.
#[test]
fn brightness_goes_up_and_follows_the_day() {
    let rig = rig(DESK);
    let dimmed = |act: &str, wall: Option<&str>, moments: &[u64]| -> Vec<f32> {
        let text = "[[track]]\nface = \"desk\"\n[[track.act]]\ntext = { say = \"8\" }\n";
        let source = format!("{text}[[track]]\nface = \"desk\"\n[[track.act]]\nbrightness = {act}\n");
        let program = program(&source, &rig);
        let mut player = Player::of_program(&rig, &program, Board::new(&rig)).unwrap();
        if let Some(wall) = wall {
            player.inputs_mut().set_wall(Duration::ZERO, wall.parse().unwrap());
        }
        let light = |at: &u64| {
            player.advance(Duration::from_millis(*at)).unwrap();
            player.expose().unwrap();
            player.pictures()[0].light.iter().copied().fold(0.0, f32::max)
        };
        moments.iter().map(light).collect()
    };
    // The eight steps of a tm1638 have 1, 2, 4, 10, 11, 12, 13 and 14 sixteenths.
    let steps =
        dimmed("{ from = \"0%\", to = \"100%\", over = \"10s\" }", None, &[100, 2000, 5500, 9900, 12_000]);
    let sixteenths: Vec<_> = steps.iter().map(|light| (14.0 * light).round() as u32).collect();
    assert_eq!(sixteenths, [1, 2, 10, 14, 14]);
    let day = "{ daily = { \"06:00\" = \"100%\", \"22:00\" = \"10%\" }, zone = \"Europe/Lisbon\" }";
    let evening = dimmed(day, Some("2026-07-01T20:59:58Z"), &[1000, 3000]);
    assert_eq!(evening.iter().map(|light| (14.0 * light).round() as u32).collect::<Vec<_>>(), [14, 1]);
    assert_eq!((14.0 * dimmed(day, Some("2026-07-01T03:00:00Z"), &[10])[0]).round() as u32, 1);
}

/// Braces in a value are braces, and what a value cannot be shown as leaves the place dark.
#[test]
fn a_variable_is_no_markup() {
    let rig = rig(BOARD);
    let source = "[variables]\nboat = \"{red:X}\"\n[[track]]\n[[track.act]]\ntext = { say = \"{boat}\", look = { font = \"small\" } }\n";
    let program = program(source, &rig);
    let face = &rig.faces[0].face;
    let mut frame = face.blank();
    let mut inputs = Default::default();
    program.begin(&mut inputs);
    let mut canvas = Canvas::whole(face, &mut frame);
    program.reel.tracks[0].act.draw(Duration::ZERO, &inputs, &mut canvas);
    let mut expected = face.blank();
    let look = Look { align: Align::Centre, ..Look::of(own::called("small").unwrap()) };
    let plain = Lettering { words: "{{red:X{}".to_owned(), look };
    plain.draw(&mut Canvas::whole(face, &mut expected)).unwrap();
    assert_eq!(frame, expected);
}

#[test]
fn what_is_wrong_is_said_at_its_place() {
    let act = |act: &str| {
        wrong(&format!("[variables]\nboat = \"TEAL\"\n[[track]]\nface = \"desk\"\n[[track.act]]\n{act}\n"))
    };
    insta::assert_debug_snapshot!([
        wrong("name = \"nothing\"\n"),
        wrong("[[track]]\nface = \"dsk\"\n[[track.act]]\nblank = {}\n"),
        wrong("[[track]]\n[[track.act]]\nblank = {}\n"),
        wrong("[[track]]\nface = \"desk\"\nact = [{ blank = {}, all = {} }]\n"),
        wrong("loop = true\n[[track]]\nface = \"desk\"\nact = [{ blank = {} }]\n"),
        wrong("[[track]]\nface = \"desk\"\nact = [{ blank = {} }, { blank = {} }]\n"),
        wrong(
            "[[track]]\nface = \"desk\"\nact = [{ blank = { for = \"2s\" } }, { blank = { at = \"1s\" } }]\n"
        ),
        wrong(
            "[buttons]\n\"desk.call9\" = { toggle = \"berth1\" }\n\"desk.call1\" = { toggle = \"berth9\" }\n\"desk.call2\" = { add = 1 }\n\"desk.call3\" = { to = \"level\", add = 1 }\n[[track]]\nface = \"desk\"\nact = [{ blank = {} }]\n"
        ),
        wrong(
            "[variables]\nn = 3\n[buttons]\n\"desk.call1\" = { to = \"n\", add = 1, least = 5, most = 2 }\n\"desk.call2\" = { jump = \"soon\" }\n\"desk.call3\" = { pause = true, jump = \"0s\" }\n\"desk.call4\" = { to = \"n\", set = 1, wrap = true }\n\"desk.call5\" = { to = \"n\", reset = false }\n\"desk.call6\" = { pause = true }\n[[track]]\nface = \"desk\"\nact = [{ number = { value = 3, cursor = \"n\" } }]\n"
        ),
        wrong("[variables]\n\"two words\" = 3\nlist = []\n[[track]]\nface = \"desk\"\nact = []\n"),
        act("coutn = { from = 0 }"),
        act("count = { from = 0, too = 8, for = \"1s\" }"),
        act("count = { from = 123456789 }"),
        act("count = { every = \"0s\" }"),
        act("count = { from = \"many\" }"),
        act("number = { value = \"{level}\" }"),
        act("number = { value = 8, places = 9 }"),
        act("text = { say = \"{boat} and more than fits\" }"),
        act("text = { say = \"TEAL\", motion = \"fade\" }"),
        act("text = { say = \"TEAL\", way = \"up\" }"),
        act("text = { say = [\"TEAL\", \"KNOT\"], way = \"left\" }"),
        act("text = { say = \"TEAL\", times = 3 }"),
        act("text = { say = \"TEAL\", times = 0, way = \"left\" }"),
        act("text = { say = \"TEAL\", place = { start = 6, length = 4 } }"),
        act("text = { say = \"TEAL\", place = { left = 0, top = 0, width = 8, height = 8 } }"),
        act("clock = { zone = \"Quillmoor\" }"),
        act("clock = { until = \"07:58\" }"),
        act("clock = { until = \"2026-11-28\", show = \"time\" }"),
        act("clock = { twelve = true, afternoon = \"moon\" }"),
        act("gauge = { value = 3, from = 0, to = 9 }"),
        act("gauge = { value = 3, from = 1, to = 1.0, lamps = [\"berth1\"] }"),
        act("plot = { value = 3, from = 0, to = 9, every = \"1s\" }"),
        act("sprite = { file = \"gull.dots\" }"),
        act("lamps = { on = [\"berth9\"] }"),
        act("test = { place = { start = 0, length = 2 } }"),
        act("brightness = { to = \"much\" }"),
        act("brightness = { from = \"0%\", to = \"50%\" }"),
        act("brightness = { daily = { noon = \"50%\" } }"),
        act("brightness = { over = \"1s\" }"),
        act("stopwatch = { start = \"call9\" }"),
        act("stopwatch = { start = \"call1\", lap = \"sign.call1\" }"),
        act("stopwatch = { start = \"call1\", hundredths = true, place = { start = 0, length = 4 } }"),
        act("reading = { of = \"boat\", mean = \"1s\", median = \"1s\" }"),
    ], @r#"
    [
        [
            ": found no track; expected a table [[track]] with its acts",
        ],
        [
            "\"dsk\": unknown face 'dsk'",
        ],
        [
            "[[track]]: the key 'face' is missing",
        ],
        [
            "{ blank = {}, all = {} }: found 2 acts; expected one act, such as text = { say = \"TEAL\" }; there are count, clock, stopwatch, number, reading, text, sprite, gauge, plot, lamps, brightness, test, all, blank, reel",
        ],
        [
            "true: a track of this reel plays forever, so that it never begins again",
        ],
        [
            "{}: the act before this one plays forever",
        ],
        [
            "{ at = \"1s\" }: this act begins before the one before it ends",
        ],
        [
            "\"desk.call9\": unknown button 'call9'",
            "\"berth9\": unknown lamp 'berth9'",
            "{ add = 1 }: found something else; expected { toggle = \"LAMP\" }, { light = \"LAMP\" }, { to = \"VARIABLE\", add = 1 } with at, least, most and wrap, { to = \"VARIABLE\", set = 0 }, { to = \"VARIABLE\", reset = true }, { jump = \"0s\" } or { pause = true }",
            "\"level\": unknown variable 'level'",
        ],
        [
            "{ to = \"n\", add = 1, least = 5, most = 2 }: found most = 2; expected more than least = 5",
            "\"soon\": found the text \"soon\"; expected a time such as 250ms, 1.5s or 2m",
            "{ pause = true, jump = \"0s\" }: found something else; expected { toggle = \"LAMP\" }, { light = \"LAMP\" }, { to = \"VARIABLE\", add = 1 } with at, least, most and wrap, { to = \"VARIABLE\", set = 0 }, { to = \"VARIABLE\", reset = true }, { jump = \"0s\" } or { pause = true }",
            "{ to = \"n\", set = 1, wrap = true }: found something else; expected { toggle = \"LAMP\" }, { light = \"LAMP\" }, { to = \"VARIABLE\", add = 1 } with at, least, most and wrap, { to = \"VARIABLE\", set = 0 }, { to = \"VARIABLE\", reset = true }, { jump = \"0s\" } or { pause = true }",
            "{ to = \"n\", reset = false }: found something else; expected { toggle = \"LAMP\" }, { light = \"LAMP\" }, { to = \"VARIABLE\", add = 1 } with at, least, most and wrap, { to = \"VARIABLE\", set = 0 }, { to = \"VARIABLE\", reset = true }, { jump = \"0s\" } or { pause = true }",
            "\"n\": a cursor changes a variable, and this number stays as it is",
        ],
        [
            "[]: found a list; expected a number or a text",
        ],
        [
            "coutn: unknown act 'coutn'",
        ],
        [
            "too: unknown key 'too'",
        ],
        [
            "{ from = 123456789 }: face desk cannot show this: 123456789 takes 9 digits; there are 8",
        ],
        [
            "\"0s\": found the text \"0s\"; expected a time such as 250ms, 1.5s or 2m",
        ],
        [
            "\"many\": found the text \"many\"; expected a number",
        ],
        [
            "\"{level}\": unknown variable 'level'",
        ],
        [
            "{ value = 8, places = 9 }: face desk cannot show this: 8.000000000 takes 10 digits; there are 8",
        ],
        [
            "{ say = \"{boat} and more than fits\" }: face desk cannot show this: the text takes 23 digits; there are 8",
        ],
        [
            "{ say = \"TEAL\", motion = \"fade\" }: face desk cannot show this: there are no greys: lights are lit or dark, and nothing fades",
        ],
        [
            "{ say = \"TEAL\", way = \"up\" }: face desk cannot show this: there is one row of digits: a text moves to the left or right",
        ],
        [
            "{ say = [\"TEAL\", \"KNOT\"], way = \"left\" }: face desk cannot show this: one text passes at a time",
        ],
        [
            "{ say = \"TEAL\", times = 3 }: this act plays forever, so that it cannot play several times",
        ],
        [
            "0: found 0; expected 1 to 1000000",
        ],
        [
            "{ start = 6, length = 4 }: found another place; expected start and length within 8 digits",
        ],
        [
            "{ left = 0, top = 0, width = 8, height = 8 }: found another place; expected start and length within 8 digits",
        ],
        [
            "\"Quillmoor\": unknown time zone 'Quillmoor'; write a name such as Europe/Lisbon, UTC, or an offset such as +02:00",
        ],
        [
            "\"07:58\": found 07:58; expected a time with its date",
        ],
        [
            "{ until = \"2026-11-28\", show = \"time\" }: face desk cannot show this: a clock shows one thing",
        ],
        [
            "\"moon\": unknown lamp 'moon'",
        ],
        [
            "{ value = 3, from = 0, to = 9 }: face desk cannot show this: a bar needs dots or lamps",
        ],
        [
            "{ value = 3, from = 1, to = 1.0, lamps = [\"berth1\"] }: face desk cannot show this: a scale from a number to the same has no length",
        ],
        [
            "{ value = 3, from = 0, to = 9, every = \"1s\" }: face desk cannot show this: a graph needs dots",
        ],
        [
            "{ file = \"gull.dots\" }: face desk cannot show this: it has digits and no dots",
        ],
        [
            "\"berth9\": unknown lamp 'berth9'",
        ],
        [
            "{ place = { start = 0, length = 2 } }: face desk cannot show this: a test is of the whole face",
        ],
        [
            "\"much\": found the text \"much\"; expected 0% to 100%",
        ],
        [
            "{ from = \"0%\", to = \"50%\" }: the key 'over' is missing",
        ],
        [
            "noon: found the text \"noon\"; expected a time of day such as 06:00",
        ],
        [
            "{ over = \"1s\" }: found something else; expected to; or from, to and over; or daily with a time at least",
        ],
        [
            "\"call9\": unknown button 'call9'",
        ],
        [
            "\"sign.call1\": unknown button 'call1'",
        ],
        [
            "{ start = \"call1\", hundredths = true, place = { start = 0, length = 4 } }: face desk cannot show this: the text takes 6 digits; there are 4",
        ],
        [
            "{ of = \"boat\", mean = \"1s\", median = \"1s\" }: found a mean and a median; expected one of them",
        ],
    ]
    "#);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Seeking to a moment gives the same as playing to it, in any steps.
    #[test]
    fn seeking_is_playing(which in 0..5_usize, at_ms in 0..20_000_u64, steps in prop::collection::vec(1..4000_u64, 0..8)) {
        let rig = rig([DESK, BOARD, DESK, DESK, DESK][which]);
        let program = program(SOUND[which], &rig);
        let seen = |stops: &[u64]| {
            let mut player = Player::of_program(&rig, &program, Board::new(&rig)).unwrap();
            for stop in stops {
                player.advance(Duration::from_millis(*stop)).unwrap();
            }
            player.advance(Duration::from_millis(at_ms)).unwrap();
            let drawn: Vec<_> = program.reel.tracks.iter().map(|track| {
                let face = &rig.faces[track.face].face;
                let mut frame = face.blank();
                track.act.draw(Duration::from_millis(at_ms), player.inputs(), &mut Canvas::whole(face, &mut frame));
                frame
            }).collect();
            let lights: Vec<_> = player.pictures().into_iter().map(|picture| picture.light).collect();
            (drawn, lights)
        };
        let mut stops: Vec<u64> = steps;
        stops.sort_unstable();
        stops.retain(|stop| *stop <= at_ms);
        prop_assert_eq!(seen(&stops), seen(&[]));
    }
}

/// Plays with these presses and pauses between; what came in, and what was seen of each face.
fn watched<'r, L: Link>(
    rig: &'r Rig,
    program: &Program,
    link: L,
    board: impl Fn(&mut L) -> &mut Board<'r>,
    (with_keys, presses): (usize, &[(u64, usize, bool)]),
) -> (Inputs, Vec<Vec<Sight>>) {
    let mut player = Player::of_program(rig, program, link).unwrap();
    let mut at = Duration::ZERO;
    for (after_us, key, down) in presses {
        at += Duration::from_micros(*after_us);
        player.advance(at).unwrap();
        board(player.scheduler_mut().link_mut())
            .press(ButtonId { keypad: Keypad::Face(with_keys), button: *key }, *down);
    }
    // The scheduler's own time depends on whether the last poll was skipped.
    let until = Nanos::from(at + Duration::from_millis(50));
    let inputs = player.inputs().clone();
    let board = board(player.scheduler_mut().link_mut());
    (inputs, (0..rig.faces.len()).map(|face| board.sights(face, until)).collect())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Looks at the keys that are left out, because they would find what the last one found, are not missed by anybody.
    #[test]
    fn looks_at_keys_that_are_left_out_change_nothing(
        presses in prop::collection::vec((0..2_000_000_u64, 0..8_usize, any::<bool>()), 1..20),
        which in select(vec![0_usize, 3, 4]),
    ) {
        let rig = rig(DESK);
        let program = program(SOUND[which], &rig);
        let skipping = watched(&rig, &program, Board::new(&rig), |board| board, (0, &presses));
        // A tap gets every operation.
        let asked = Cell::new(0_u32);
        let tell = |_: DeviceId, op: &Op<'_>, _: &Reply, _: &mut Board<'_>| {
            asked.set(asked.get() + u32::from(op.role == Role::Buttons));
        };
        let tap = Tap { link: Board::new(&rig), tell };
        let looking = watched(&rig, &program, tap, |tap| &mut tap.link, (0, &presses));
        prop_assert_eq!(&skipping, &looking);
        let played: u64 = presses.iter().map(|(after, ..)| after).sum();
        prop_assert!(u64::from(asked.get()) >= 2 * (played / 10_000));
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(6))]

    /// The same where faces on other buses change meanwhile.
    #[test]
    fn looks_at_keys_are_left_out_beside_other_faces(
        presses in prop::collection::vec((0..1_500_000_u64, 0..8_usize, any::<bool>()), 1..6),
    ) {
        let rig = rig(include_str!("../../../cli/demo/quillmoor.toml"));
        let program = program(include_str!("../../../cli/demo/quillmoor.reel.toml"), &rig);
        let desk = rig.faces.iter().position(|mount| mount.face.name == "desk").unwrap();
        let skipping = watched(&rig, &program, Board::new(&rig), |board| board, (desk, &presses));
        let tell = |_: DeviceId, _: &Op<'_>, _: &Reply, _: &mut Board<'_>| {};
        let tap = Tap { link: Board::new(&rig), tell };
        let looking = watched(&rig, &program, tap, |tap| &mut tap.link, (desk, &presses));
        prop_assert_eq!(&skipping, &looking);
    }
}

proptest! {
    #[test]
    fn any_file_is_read_or_refused(at in 0..1200_usize, cut in 0..30_usize, put in "[a-z0-9{}=\". \n\\[\\]]{0,12}", which in 0..5_usize) {
        let source = SOUND[which];
        let text: String = source.chars().take(at).chain(put.chars()).chain(source.chars().skip(at + cut)).collect();
        let rig = rig([DESK, BOARD, DESK, DESK, DESK][which]);
        let (program, findings) = read(&text, &rig, &OneSprite, &[]);
        prop_assert!(program.is_some() || !findings.is_empty());
    }
}
