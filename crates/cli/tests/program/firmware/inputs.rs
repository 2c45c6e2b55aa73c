//! Keys, values and readings: what their sources say, what is refused, and what a person's own code shows.

use std::time::Duration;

use spare_tile_core::content::number::Decimal;
use spare_tile_core::play::reading::{Of, Reading, Smooth};
use spare_tile_core::play::{Inputs, Value};

use super::cases::{CASES, Case};
use super::chain::{difference, picture_at, recorded};
use super::runners::{RUNNERS, Running, on_mcs51_with};
use crate::folder::Folder;

fn keyed() -> &'static Case {
    CASES.iter().find(|case| !case.presses.is_empty()).unwrap()
}

/// The code for buttons, in each language: a changed template shows its effect here.
#[test]
fn what_keys_do_reads_so() {
    for (target, name) in [
        ("c99", "actions.c"),
        ("c99", "actions.h"),
        ("micropython", "actions.py"),
        ("rust", "src/actions.rs"),
    ] {
        let runner = RUNNERS.iter().find(|runner| runner.target == target).unwrap();
        let folder = super::write(runner, keyed());
        let snapshot = format!("keys_{}", name.replace(['/', '.'], "_"));
        insta::assert_snapshot!(snapshot, folder.read(&format!("out/{name}")));
    }
}

/// How a face goes on from where a key jumps to, and with the time that went on meanwhile.
#[test]
fn a_jump_reads_so() {
    let case = CASES.iter().find(|case| case.reel.contains("jump = \"800ms\"")).unwrap();
    let mut told = String::new();
    for (target, name) in [("c99", "desk.c"), ("micropython", "desk.py"), ("rust", "src/desk.rs")] {
        let runner = RUNNERS.iter().find(|runner| runner.target == target).unwrap();
        let source = super::write(runner, case).read(&format!("out/{name}"));
        // All paragraphs that speak of it, and of the tick that the clock is at.
        let speaks = |paragraph: &&str| paragraph.contains("jump_800") || paragraph.contains("next_tick_0");
        let of_it = source.split("\n\n").filter(speaks).collect::<Vec<_>>().join("\n\n");
        told.push_str(&format!("-- {name}\n{of_it}\n"));
    }
    insta::assert_snapshot!(told);
}

#[test]
fn what_no_program_does_is_refused() {
    let folder = Folder::landing();
    let refused = |reel: &str| {
        folder.write("this.reel.toml", reel);
        folder.complaint("firmware --target c99 --rig desk.toml --reel this.reel.toml --out out")
    };
    let desk = |keys: &str, act: &str| {
        format!(
            "[variables]\nminutes = 12\nplace = 0\n[buttons]\n{keys}\n[[track]]\nface = \"desk\"\n[[track.act]]\n{act}\n"
        )
    };
    let jump = "\"desk.call1\" = { jump = \"1500ms\" }";
    insta::assert_snapshot!(refused(&desk(jump, "stopwatch = { start = \"desk.call2\" }")), @"
    error: face desk: buttons run or set what is shown, and a button jumps to
           another moment of it
    [status 2]
    ");
    insta::assert_snapshot!(refused(&desk(jump, "reading = { of = \"minutes\", median = \"1s\" }")), @"
    error: face desk: a button jumps to another moment, and a reading is made of
           several looks
    [status 2]
    ");
    insta::assert_snapshot!(refused(&desk(jump, "reading = { of = \"minutes\", band = 2 }")), @"
    error: face desk: a button jumps to the middle of a reading that stays within a
           band
    [status 2]
    ");
    let without_end = "\"desk.call1\" = { to = \"place\", add = 1 }\n\
                       \"desk.call2\" = { to = \"minutes\", add = 1, at = \"place\", least = 0, most = 99 }";
    insta::assert_snapshot!(refused(&desk(without_end, "number = { value = \"{minutes}\" }")), @"
    error: buttons of face desk: the figure at which one adds has no end: say least
           and most of it
    [status 2]
    ");
    let lit = "\"desk.call1\" = { toggle = \"berth1\" }";
    insta::assert_snapshot!(refused(&desk(lit, "lamps = { on = [\"berth1\"] }")), @"
    error: face desk: a button switches berth1, and an act lights it too
    [status 2]
    ");
    let after = "[[track]]\nface = \"desk\"\n[[track.act]]\ntext = { say = \"TEAL\", for = \"1s\" }\n[[track.act]]\n\
                 stopwatch = { start = \"desk.call1\" }\n";
    insta::assert_snapshot!(refused(after), @"
    error: face desk: buttons run a stopwatch or set a clock, which is not alone on
           its face
    [status 2]
    ");
    let held = "number = { value = \"{minutes}\", cursor = \"place\" }";
    insta::assert_snapshot!(refused(&desk("\"desk.call2\" = { to = \"minutes\", add = 1 }", held)), @"
    error: face desk: variable minutes: it has a cursor, and no button moves the
           cursor or changes the value
    [status 2]
    ");
    folder.write("wide.toml", WIDE);
    folder.write(
        "this.reel.toml",
        "[variables]\ntide = 1\n[[track]]\n[[track.act]]\nreading = { of = \"tide\", places = 1, mean = \"1s\" }\n",
    );
    insta::assert_snapshot!(folder.complaint("firmware --target mcs51 --rig wide.toml --reel this.reel.toml --out out"), @"
    error: not supported by the target mcs51: the mean of a value of more than 16
           bits needs a division of 64 bits, which its compiler lacks: show the
           median
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    assert!(!folder.path("out").exists());
}

/// Six figures on an 8051.
const WIDE: &str = r#"
[controller]
part = "mcs51"
[face.gauge]
kind = "seven-segment"
digits = 6
[face.gauge.drive]
method = "tm1637"
pins = { data = "P1.0", clock = "P1.1" }
"#;

/// The simulator of an 8051 cannot be asked at each look: a button that is down from the beginning counts once there, and another one
/// that is up does not count. The display is sent again and again: the simulator stops only as a port is written.
#[test]
#[ignore = "needs a simulator: scripts/chains runs it"]
fn an_8051_hears_a_button_on_a_pin() {
    const RIG: &str = "[controller]\npart = \"mcs51\"\n[buttons.up]\npin = \"P1.0\"\n[buttons.down]\npin = \"P1.1\"\n\
        [face.gauge]\nkind = \"seven-segment\"\ndigits = 4\n[face.gauge.drive]\nmethod = \"max7219\"\n\
        pins = { data = \"P1.2\", clock = \"P1.3\", select = \"P1.4\" }\nresend = \"50ms\"\n";
    const REEL: &str = "[variables]\nlevel = 40\n[buttons]\nup = { to = \"level\", add = 1, most = 99 }\n\
        down = { to = \"level\", add = -10, least = 0 }\n[[track]]\n[[track.act]]\nnumber = { value = \"{level}\" }\n";
    for (pins, shown) in
        [("port[1] 0xfe", "41"), ("port[1] 0xfd", "30"), ("port[1] 0xfc", "31"), ("port[1] 0xff", "40")]
    {
        let folder = Folder::empty();
        folder.write("this.toml", RIG);
        folder.write("this.reel.toml", REEL);
        folder.answer("firmware --target mcs51 --unsound --rig this.toml --reel this.reel.toml --out out");
        on_mcs51_with(&Running { folder: &folder, project: "out", ms: 300, presses: &[] }, pins);
        let told = folder.answer("capture trace.vcd --rig this.toml --final");
        assert!(told.contains(&format!("{shown}\"")), "{pins}: {told}");
    }
}

/// A clock without a time begins at the time of the command line.
#[test]
fn a_clock_begins_when_it_is_written() {
    let folder = Folder::landing();
    folder.write(
        "this.reel.toml",
        "[[track]]\nface = \"clock\"\n[[track.act]]\nclock = { zone = \"+01:00\" }\n",
    );
    folder.answer("firmware --target c99 --rig desk.toml --reel this.reel.toml --time 11:58:30 --out out");
    assert!(folder.read("out/clock.c").contains("time_0 = { 12, 58, 30, 0 };"), "an hour on, as its zone is");
}

/// Values from the user's code are shown as `play` shows them: values within the band stay, and others that do not fit are dashes.
#[test]
fn what_is_read_is_shown() {
    const SHOWN: [&str; 6] = ["1.0", "1.3", "-0.4", "1000.0", "-100.0", "99.9"];
    const READ: &str = "
    /* Tenths, for half a second each; the second one is too near to be shown. */
    static const int16_t tide[] = { 10, 11, 13, -4, 10000, -1000, 999 };
    uint32_t half = hw_now_ms() / 500;

    return tide[half < 6 ? half : 6];
";
    let folder = Folder::landing();
    let rig = folder.read("gauge.toml");
    let reel = |first: &str| {
        format!(
            "[variables]\ntide = {first}\n[[track]]\n[[track.act]]\n\
             reading = {{ of = \"tide\", places = 1, band = 0.2, keep = \"50ms\" }}\n"
        )
    };
    folder.write("this.toml", rig);
    folder.write("this.reel.toml", reel("0.0"));
    folder.answer("firmware --target c99 --unsound --rig this.toml --reel this.reel.toml --out out");
    let own = folder
        .read("out/readings.c")
        .replace("\n    return 0;\n", READ)
        .replace("#include", "#include \"hw.h\"\n#include");
    folder.write("out/readings.c", own);
    let runner = RUNNERS.iter().find(|runner| runner.target == "c99").unwrap();
    (runner.run)(&Running { folder: &folder, project: "out", ms: 3600, presses: &[] });
    let case = Case { rig: "", faces: &["gauge"], reel: "", ms: 3600, presses: &[] };
    let seen = recorded(&folder, &case, "gauge", 3600.0).unwrap();
    // The second value of seven is not shown, so that the first one stands for a second.
    let moments = [0.0, 1000.0, 1500.0, 2000.0, 2500.0, 3000.0];
    let wanted: Vec<_> = SHOWN
        .iter()
        .zip(moments)
        .map(|(value, at)| {
            folder.write("this.reel.toml", reel(value));
            picture_at(&folder, &case, "gauge", at)
        })
        .collect();
    // Dashes for both that do not fit.
    assert_eq!(wanted[3].picture, wanted[4].picture);
    let wanted: Vec<_> =
        wanted.into_iter().enumerate().filter(|(nth, _)| *nth != 4).map(|(_, seen)| seen).collect();
    assert_eq!(difference(&wanted, &seen, 80.0, 1), None);
}

/// Values that are smoothed over several polls are smoothed as `play` does, in every language.
#[test]
fn what_is_read_is_made_steady() {
    /// Tenths, one at each look.
    const TIDE: [i64; 14] = [10, 31, -20, -25, 12, 12, 90, 14, -3, -60, 48, 5, 5, 5];
    const GAUGE: &str = include_str!("../../../demo/gauge.toml");
    const LOOK: Duration = Duration::from_millis(100);
    let told = TIDE.map(|tenths| tenths.to_string()).join(", ");
    // The code that a user writes in place of the constant value: file, old text and new text.
    let own = [
        (
            "c99",
            "readings.c",
            "    return 0;\n",
            format!(
                "    static const int16_t tide[] = {{ {told} }};\n    static uint8_t look;\n\n\
                 \x20   return tide[look < 13 ? look++ : 13];\n"
            ),
        ),
        (
            "rust",
            "src/actions.rs",
            "read_tide: || 0,",
            format!(
                // The rp2040 has no atomic addition.
                "read_tide: || {{\n                use core::sync::atomic::{{AtomicUsize, Ordering::Relaxed}};\n\
                 \x20               static LOOK: AtomicUsize = AtomicUsize::new(0);\n\
                 \x20               let look = LOOK.load(Relaxed);\n\
                 \x20               LOOK.store(look + 1, Relaxed);\n\
                 \x20               [{told}][look.min(13)]\n            }},"
            ),
        ),
        (
            "micropython",
            "readings.py",
            "    return 0\n",
            format!("    return next(tide)\n\n\ntide = iter(({told}) + 99 * (5,))\n"),
        ),
    ];
    let window = Duration::from_millis(450);
    let ways = [
        ("mean = \"450ms\"", Of::Last, Smooth::Mean(window)),
        ("median = \"450ms\"", Of::Last, Smooth::Median(window)),
        ("show = \"least\"", Of::Least, Smooth::Not),
        ("show = \"most\"", Of::Most, Smooth::Not),
    ];
    for runner in RUNNERS.iter().filter(|runner| runner.is_there()) {
        let Some((_, file, always, own)) = own.iter().find(|(target, ..)| *target == runner.target) else {
            continue;
        };
        for (way, of, smooth) in ways {
            let folder = Folder::landing();
            let case = Case { rig: GAUGE, faces: &["gauge"], reel: "", ms: 1350, presses: &[] };
            folder.write("this.toml", runner.rig(&case));
            let reel = |first: &str, way: &str| {
                let act = format!("reading = {{ of = \"tide\", places = 1, keep = \"100ms\", {way} }}");
                format!("[variables]\ntide = {first}\n[[track]]\n[[track.act]]\n{act}\n")
            };
            folder.write("this.reel.toml", reel("0.0", way));
            folder.answer(&format!(
                "firmware --target {} --unsound --rig this.toml --reel this.reel.toml --out out",
                runner.target
            ));
            let source = folder.read(&format!("out/{file}"));
            assert!(source.contains(always), "{source}");
            folder.write(&format!("out/{file}"), source.replace(always, own));
            (runner.run)(&Running { folder: &folder, project: "out", ms: case.ms, presses: &[] });
            let seen = recorded(&folder, &case, "gauge", f64::from(case.ms)).unwrap();
            let (mut inputs, mut wanted) = (Inputs::default(), Vec::new());
            let reading = Reading { of, smooth, ..Reading::of("tide".to_owned()) };
            for (look, tenths) in (0..).zip(TIDE) {
                let at = look * LOOK;
                inputs.note("tide", at, Value::Number(Decimal::new(tenths.into(), 1)));
                let shown = reading.value_at(at, &inputs).unwrap().in_units(1);
                let sign = if shown < 0 { "-" } else { "" };
                let first = format!("{sign}{}.{}", shown.abs() / 10, shown.abs() % 10);
                folder.write("this.reel.toml", reel(&first, ""));
                wanted.push(picture_at(&folder, &case, "gauge", at.as_secs_f64() * 1e3));
            }
            wanted.dedup_by(|next, before| next.picture == before.picture);
            wanted.retain(|wanted| wanted.at_ms < f64::from(case.ms));
            assert!(wanted.len() > 2, "{way}: {wanted:?}");
            assert_eq!(difference(&wanted, &seen, 40.0, 1), None, "{}, {way}", runner.target);
        }
    }
}
