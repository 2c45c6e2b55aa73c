//! `firmware`: projects are written, compiled and run, and show what `play` shows.

mod answering;
mod cases;
mod chain;
mod files;
mod inputs;
mod lists;
mod own;
mod runners;

use std::ops::Range;
use std::process::Command;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::thread;

use crate::folder::Folder;
use cases::{CASES, Case};
use chain::{difference, played, recorded, wire_id};
use runners::{RUNNERS, Runner, Running, make};

/// When a clock begins that shows the time as it is: a full hour comes soon.
const BEGINS: &str = "07:59:57";

/// Writes a case's project into the folder `out`.
fn write(runner: &Runner, case: &Case) -> Folder {
    let folder = Folder::landing();
    folder.write("this.toml", runner.rig(case));
    folder.write("this.reel.toml", case.reel);
    let target = runner.target;
    folder.answer(&format!(
        "firmware --target {target} --unsound --rig this.toml --reel this.reel.toml --time {BEGINS} --out out"
    ));
    folder
}

/// Where a project, compiled and run, shows anything else than `play`.
fn fault(folder: &Folder, runner: &Runner, case: &Case) -> Option<String> {
    let ms = case.ms.min(runner.most_ms);
    (runner.run)(&Running { folder, project: "out", ms, presses: case.presses });
    let end = f64::from(ms);
    case.faces.iter().find_map(|face| {
        let played = played(folder, case, face, end);
        assert!(played.len() > 1, "{}, {face}: {played:#?}", case.rig);
        let difference = match recorded(folder, case, face, end) {
            Ok(recorded) => difference(&played, &recorded, runner.late_ms, case.grey_steps()),
            Err(odd) => Some(odd),
        };
        difference.map(|difference| format!("{face}: {difference}"))
    })
}

#[test]
fn a_program_shows_what_play_shows() {
    let there = RUNNERS.iter().filter(|runner| runner.is_there());
    let jobs: Vec<_> = there
        .flat_map(|runner| CASES.iter().filter(|case| runner.takes(case)).map(move |case| (runner, case)))
        .collect();
    assert!(!jobs.is_empty(), "nothing is run");
    let next = AtomicUsize::new(0);
    // As many at once as there are cores: most of it is waiting for compilers and simulators.
    let work = || {
        while let Some((runner, case)) = jobs.get(next.fetch_add(1, Ordering::Relaxed)) {
            let folder = write(runner, case);
            assert_eq!(fault(&folder, runner, case), None, "{}: {}\n{}", runner.target, case.rig, case.reel);
        }
    };
    let cores = thread::available_parallelism().map_or(1, usize::from);
    thread::scope(|scope| (0..cores).for_each(|_| drop(scope.spawn(work))));
}

/// Everything is said again as often as the rig asks for it, with what sets the part up.
#[test]
fn a_part_is_healed() {
    let case = CASES.iter().find(|case| case.rig.contains("resend = \"250ms\"") && !case.has_brightness());
    let case = case.unwrap();
    for runner in RUNNERS.iter().filter(|runner| runner.is_there() && runner.takes(case)) {
        let folder = write(runner, case);
        (runner.run)(&Running { folder: &folder, project: "out", ms: case.ms, presses: case.presses });
        let run = folder.run("capture trace.vcd --rig this.toml --json");
        assert!(run.status <= 1, "{}: {}", runner.target, run.err);
        let told = run.out;
        let told = told.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
        let set_up =
            told.filter(|told| told["words"].as_str().is_some_and(|words| words.starts_with("decode")));
        let at: Vec<_> = set_up.map(|told| told["at_us"].as_f64().unwrap() / 1e3).collect();
        assert_eq!(at.len(), 5, "{}: {at:?}", runner.target);
        let is_due = |(nth, at): (usize, &f64)| (at - 250.0 * nth as f64).abs() < runner.late_ms;
        assert!(at.iter().enumerate().all(is_due), "{}: {at:?}", runner.target);
    }
}

/// A controller that is too slow for the content shows it slower. It never stands still.
#[test]
fn a_slow_controller_never_stands_still() {
    const MS: u64 = 80_000;
    let folder = Folder::landing();
    folder.answer(
        "firmware --app count --every 1ms --again --rig landing.toml --face gauge --target c99 --out out",
    );
    // A frame takes about twenty times as long as it is shown.
    let host = folder.read("out/host.c");
    let slow = host.replace("#define WRITE_NS 100\n", "#define WRITE_NS 200000\n");
    assert_ne!(host, slow);
    folder.write("out/host.c", slow);
    make(&folder, "out", &["host"]);
    let run = Command::new(folder.path("out/host")).arg(MS.to_string()).output().unwrap();
    let trace = String::from_utf8(run.stdout).unwrap();
    let moments: Vec<u64> = trace.lines().filter_map(|line| line.strip_prefix('#')?.parse().ok()).collect();
    let longest = moments.windows(2).map(|pair| pair[1] - pair[0]).max().unwrap();
    assert!(longest < 100_000_000, "nothing is sent for {} ms", longest / 1_000_000);
    assert!(moments.last().unwrap() / 1_000_000 >= MS - 1);
}

/// A mistake of a user: file, old text and new text.
type Mistake = (&'static str, &'static str, &'static str);

#[test]
fn a_mistake_in_a_program_is_seen() {
    const MISTAKES: [Mistake; 5] = [
        // Two pins swapped.
        (
            "hw.h",
            "#define GAUGE_A 0 /* GP2 */\n#define GAUGE_B 1 /* GP3 */",
            "#define GAUGE_A 1 /* GP2 */\n#define GAUGE_B 0 /* GP3 */",
        ),
        // A table off by one.
        ("gauge.c", "    0x3F, /* 0 */\n", ""),
        // A delay of 50 ms in the scan.
        (
            "gauge.c",
            "    const volatile uint8_t *levels = &image[first];\n",
            "    const volatile uint8_t *levels = &image[first];\n    for (int wait = 0; wait < 2500; wait++) { hw_now_ms(); }\n",
        ),
        // A digit line that is never let go.
        ("gauge.c", "hw_write(GAUGE_DIGIT_3, (levels[1] & 0x08) != 0);", "hw_write(GAUGE_DIGIT_3, true);"),
        // A step that is a tenth too slow.
        ("gauge.c", "    return 200;\n", "    return 220;\n"),
    ];
    // Of the program that reads keys.
    const OF_KEYS: [Mistake; 4] = [
        // The bit of another key.
        ("desk.c", "if ((answer[1] & 0x01) != 0)", "if ((answer[1] & 0x02) != 0)"),
        // Data is not let go for the answer.
        ("desk.c", "    hw_release(DESK_DATA);\n    hw_wait_ns(1000);\n", "    hw_wait_ns(1000);\n"),
        // A value goes round one too early.
        ("actions.c", "sum = 99;", "sum = 98;"),
        // Every look at a key that is down counts.
        (
            "desk.c",
            "desk_pressed(changed & buttons.down)",
            "desk_pressed((button_bits)(changed | buttons.down))",
        ),
    ];
    // Of one that scans in pieces of a slot.
    const OF_GREYS: [Mistake; 2] = [
        // Each piece is as long as the one before.
        ("beacon.c", "    return now;\n", "    return (uint8_t)(1 + 0 * now);\n"),
        // A piece is shown in place of the next one.
        ("beacon.c", "static uint8_t first = IMAGE_BYTES - PIECE_BYTES;", "static uint8_t first = 0;"),
    ];
    // Of one that drives a panel.
    const OF_PANEL: [Mistake; 3] = [
        // Red and green are swapped.
        (
            "departures.c",
            "hw_write(DEPARTURES_R1, (lights & 0x01)",
            "hw_write(DEPARTURES_R1, (lights & 0x02)",
        ),
        // A row is lit with another one's columns.
        ("departures.c", "(PIECES * PIECE_BYTES) & 0x01) != 0", "(PIECES * PIECE_BYTES) & 0x01) == 0"),
        // Nothing is latched.
        ("departures.c", "    hw_write(DEPARTURES_LATCH, true); /* the row takes them */\n", ""),
    ];
    // Of one that dims it: the least step is never set.
    const OF_DIMS: Mistake =
        ("departures.c", "    brightness = step;\n", "    brightness = step == 0 ? 1 : step;\n");
    // Of one that jumps: to the number after.
    const OF_JUMPS: Mistake = ("desk.c", "    number_0 = 3;\n", "    number_0 = 4;\n");
    // Of a clock that has its turns: one tick has passed, however many have.
    const OF_TURNS: Mistake = ("gauge.c", "    while ((uint32_t)(wall", "    if ((uint32_t)(wall");
    let case = |is_it: fn(&Case) -> bool| CASES.iter().find(|case| is_it(case)).unwrap();
    let keyed = case(|case| !case.presses.is_empty());
    let grey = case(|case| case.faces == ["beacon"] && case.depth() > 1);
    let panel = case(|case| case.has_panel() && case.depth() == 2);
    let of_keys = OF_KEYS.iter().map(|mistake| (keyed, mistake));
    let of_greys = OF_GREYS.iter().map(|mistake| (grey, mistake));
    let of_panel = OF_PANEL.iter().map(|mistake| (panel, mistake));
    let of_scans = of_greys.chain(of_panel);
    // Of buttons on pins: a pull-up that is forgotten, a level the other way round, and one that stays down after its release.
    let contacts = case(|case| case.rig.contains("[buttons.hold]") && case.reel.contains("light"));
    const OF_CONTACTS: [Mistake; 3] = [
        ("actions.c", "    hw_input(UP_PIN, HW_PULL_UP);\n", ""),
        ("actions.c", "(hw_read(DOWN_PIN))", "(!hw_read(DOWN_PIN))"),
        (
            "actions.c",
            "    pin_buttons_released(changed & (button_bits)~buttons.down);\n",
            "    pin_buttons_released(0);\n",
        ),
    ];
    let of_contacts = OF_CONTACTS.iter().map(|mistake| (contacts, mistake));
    let of_time = [
        (case(|case| case.has_panel() && case.has_brightness()), &OF_DIMS),
        (case(|case| case.reel.contains("jump = \"2300ms\"")), &OF_JUMPS),
        (case(|case| case.reel.contains("clock = { for = \"700ms\"")), &OF_TURNS),
    ];
    let runner = &RUNNERS[0];
    for (case, (file, right, wrong)) in MISTAKES
        .iter()
        .map(|mistake| (&CASES[0], mistake))
        .chain(of_keys)
        .chain(of_contacts)
        .chain(of_scans)
        .chain(of_time)
    {
        let folder = write(runner, case);
        let source = folder.read(&format!("out/{file}"));
        assert!(source.contains(right), "{file}: {right}\n{source}");
        folder.write(&format!("out/{file}"), source.replace(right, wrong));
        assert!(fault(&folder, runner, case).is_some(), "nobody saw it: {right} became {wrong}");
    }
}

/// The stated time of a scan and the time of its interrupts on the simulator differ by less than half.
#[test]
#[ignore = "needs a simulator: scripts/chains runs it"]
fn a_scan_takes_what_is_said() {
    for target in ["avr", "setup-loop"] {
        scans_take_what_is_said(RUNNERS.iter().find(|runner| runner.target == target).unwrap());
    }
}

/// The levels of data at the clock edges after which a tm1637 acknowledges: `z` is an input with pull-up.
fn before_acknowledges(trace: &str, [data, clock]: [&str; 2]) -> Vec<char> {
    let [data, clock] = [data, clock].map(|pin| wire_id(trace, pin));
    let (mut data_level, mut clock_level, mut rises, mut found) = ('z', 'z', 0, Vec::new());
    let (_, changes) = trace.split_once("$enddefinitions $end").unwrap();
    for change in changes.lines().filter(|line| !line.is_empty() && !line.starts_with('#')) {
        let (level, id) = (change.chars().next().unwrap(), &change[1..]);
        if id == data {
            // A start, or a stop.
            if clock_level != '0' {
                rises = 0;
            }
            data_level = level;
        } else if id == clock {
            match (clock_level, level) {
                ('0', _) => rises += 1,
                (_, '0') if rises % 9 == 8 => found.push(data_level),
                _ => {}
            }
            clock_level = level;
        }
    }
    found
}

/// Data is released or low before the part pulls it low: a pin that drove it high would fight the part.
#[test]
fn no_pin_fights_an_acknowledge() {
    let case = CASES.iter().find(|case| case.faces == ["berth"] && case.rig.contains("tm1637")).unwrap();
    // A high pin of an 8051 fights nothing: it only has a weak pull-up.
    let drives = |runner: &&Runner| runner.target != "mcs51" && runner.is_there() && runner.takes(case);
    for runner in RUNNERS.iter().filter(drives) {
        let folder = write(runner, case);
        (runner.run)(&Running { folder: &folder, project: "out", ms: 600, presses: &[] });
        let rig: toml::Table = runner.rig(case).parse().unwrap();
        let pins = &rig["face"]["berth"]["drive"]["pins"];
        let pin = |line: &str| pins[line].as_str().unwrap().to_owned();
        let trace = folder.read("trace.vcd");
        let (data, clock) = (pin("data"), pin("clock"));
        let levels = before_acknowledges(&trace, [&data, &clock]);
        assert!(levels.len() > 20 && levels.contains(&'z'), "{}: {levels:?}", runner.target);
        assert!(!levels.contains(&'1'), "{}: {levels:?}", runner.target);
    }
}

/// A digit at pins of its own, and digits on a bus, on the ports of a scanned face.
fn neighbours(controller: &str, [first, second]: [&str; 2]) -> String {
    format!(
        "[controller]\npart = \"{controller}\"\n\
         [face.gauge]\nkind = \"seven-segment\"\ndigits = 2\ncommon = \"cathode\"\n[face.gauge.drive]\nmethod = \"scanned\"\n\
         segments = {{ {} }}\ndigits = [\"{second}4\", \"{second}5\"]\ndigit_switch = \"npn\"\n\
         resistor = {{ ohms = 680, in = \"segments\" }}\nrefresh_hz = 120\nblanking = \"30us\"\n\
         [face.berth]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"cathode\"\n[face.berth.drive]\nmethod = \"static\"\n\
         segments = {{ {} }}\nresistor = {{ ohms = 680, in = \"segments\" }}\n\
         [face.tide]\nkind = \"seven-segment\"\ndigits = 4\n[face.tide.drive]\nmethod = \"tm1637\"\n\
         pins = {{ data = \"{second}6\", clock = \"{second}7\" }}\n",
        segments(&[(first, 0..4), (second, 0..4)]),
        segments(&[(first, 4..8), ("PC", 0..4)]),
    )
}

/// The pins of ports: `PB0`.
fn pins(ports: &[(&str, Range<u8>)]) -> Vec<String> {
    ports.iter().flat_map(|(port, bits)| bits.clone().map(move |bit| format!("{port}{bit}"))).collect()
}

/// Segments on pins of ports, in TOML.
fn segments(ports: &[(&str, Range<u8>)]) -> String {
    let names = ["a", "b", "c", "d", "e", "f", "g", "dp"];
    let wired = names.iter().zip(pins(ports)).map(|(name, pin)| format!("{name} = \"{pin}\""));
    wired.collect::<Vec<_>>().join(", ")
}

/// Returns how often pins changed in the main program and how often in interrupts.
fn changes_of(trace: &str, pins: &[String]) -> (usize, usize) {
    let (mut in_main, mut in_interrupts, mut is_interrupt) = (0, 0, false);
    let ids: Vec<String> = pins.iter().map(|pin| wire_id(trace, pin)).collect();
    let (_, changes) = trace.split_once("$enddefinitions $end\n#0\n").unwrap();
    // Before the first interrupt the pins are set up.
    for change in changes.lines().skip_while(|line| *line != "1!") {
        match change.split_at(1) {
            (level, "!") => is_interrupt = level == "1",
            (_, id) if ids.iter().any(|own| own == id) && is_interrupt => in_interrupts += 1,
            (_, id) if ids.iter().any(|own| own == id) => in_main += 1,
            _ => {}
        }
    }
    (in_main, in_interrupts)
}

/// A millisecond is one, whatever the crystal.
#[test]
#[ignore = "needs a simulator: scripts/chains runs it"]
fn time_is_true_at_every_clock() {
    const EVERY_MS: f64 = 250.0;
    let runner = RUNNERS.iter().find(|runner| runner.target == "avr").unwrap();
    if !runner.is_there() {
        return;
    }
    let on_a_bus = "method = \"max7219\"\npins = { data = \"PB3\", clock = \"PB5\", select = \"PB2\" }\n";
    let scanned = "method = \"scanned\"\nsegments = \"PD: dp g f e d c b a\"\ndigits = [\"PB0\", \"PB1\"]\n\
                   digit_switch = \"npn\"\nresistor = { ohms = 680, in = \"segments\" }\nblanking = \"30us\"\n";
    for hertz in [1_000_000, 8_000_000, 11_059_200, 12_000_000, 16_000_000, 20_000_000] {
        for (drive, common) in [(on_a_bus, ""), (scanned, "common = \"cathode\"\n")] {
            let folder = Folder::landing();
            let rig = format!(
                "[controller]\npart = \"atmega328p\"\nclock_hz = {hertz}\n\
                 [face.gauge]\nkind = \"seven-segment\"\ndigits = 2\n{common}[face.gauge.drive]\n{drive}"
            );
            folder.write("this.toml", &rig);
            folder.answer(
                "firmware --target avr --unsound --rig this.toml --app count --every 250ms --out out",
            );
            let running = Running { folder: &folder, project: "out", ms: 8_000, presses: &[] };
            runners::on_avr_at(&running, "atmega328p", hertz);
            let case = Case { rig: "", faces: &["gauge"], reel: "", ms: 8_000, presses: &[] };
            let seen = recorded(&folder, &case, "gauge", 8_000.0).unwrap();
            assert!(seen.len() > 28, "{hertz}: {seen:#?}");
            // The last step is seven seconds after the first: a thousandth is 7 ms.
            let ran = seen.last().unwrap().at_ms - seen[1].at_ms;
            let wanted = EVERY_MS * (seen.len() - 2) as f64;
            assert!((ran - wanted).abs() < 4.0, "{hertz} {drive}: {ran} ms in place of {wanted}");
        }
    }
}

/// The controllers of one family differ in the names of their ports, timers and interrupts.
#[test]
#[ignore = "needs a simulator: scripts/chains runs it"]
fn every_avr_shows_what_play_shows() {
    let runner = RUNNERS.iter().find(|runner| runner.target == "avr").unwrap();
    if !runner.is_there() {
        return;
    }
    for (mcu, hertz, bus, segments, digits) in [
        ("atmega168", 16_000_000, ["PB3", "PB5", "PB2"], "PD", ["PB0", "PB1"]),
        ("atmega32u4", 16_000_000, ["PB2", "PB1", "PB0"], "PB", ["PD0", "PD1"]),
        ("attiny84", 8_000_000, ["PA5", "PA4", "PA7"], "PA", ["PB0", "PB1"]),
    ] {
        let on_a_bus = format!(
            "method = \"max7219\"\npins = {{ data = \"{}\", clock = \"{}\", select = \"{}\" }}\n",
            bus[0], bus[1], bus[2]
        );
        let scanned = format!(
            "method = \"scanned\"\nsegments = \"{segments}: dp g f e d c b a\"\ndigits = [\"{}\", \"{}\"]\n\
             digit_switch = \"npn\"\nresistor = {{ ohms = 1200, in = \"segments\" }}\nblanking = \"30us\"\n",
            digits[0], digits[1]
        );
        for (drive, common) in [(on_a_bus, ""), (scanned, "common = \"cathode\"\n")] {
            let rig = format!(
                "[controller]\npart = \"{mcu}\"\n[face.gauge]\nkind = \"seven-segment\"\ndigits = 2\n{common}\
                 [face.gauge.drive]\n{drive}"
            );
            let folder = Folder::landing();
            folder.write("this.toml", &rig);
            let reel = "[[track]]\nloop = true\n[[track.act]]\ncount = { to = 12, every = \"200ms\" }\n";
            folder.write("this.reel.toml", reel);
            folder.answer("firmware --target avr --unsound --rig this.toml --reel this.reel.toml --out out");
            let running = Running { folder: &folder, project: "out", ms: 4_000, presses: &[] };
            runners::on_avr_at(&running, mcu, hertz);
            let case = Case { rig: "", faces: &["gauge"], reel: "", ms: 4_000, presses: &[] };
            let played = played(&folder, &case, "gauge", 4_000.0);
            let recorded = recorded(&folder, &case, "gauge", 4_000.0).unwrap();
            assert!(played.len() > 15);
            assert_eq!(difference(&played, &recorded, runner.late_ms, 1), None, "{mcu} {drive}");
        }
    }
}

/// A 12-bit core has no interrupts: the slots of its scan are of one length as long as no count takes longer.
#[test]
#[ignore = "needs a simulator: scripts/chains runs it"]
fn the_slots_of_a_polled_scan_are_even() {
    let runner = RUNNERS.iter().find(|runner| runner.target == "pic-asm").unwrap();
    if !runner.is_there() {
        return;
    }
    let folder = Folder::landing();
    let rig = |refresh: u32| {
        format!(
            "[controller]\npart = \"pic16f54\"\n[face.gauge]\nkind = \"seven-segment\"\ndigits = 4\ncommon = \"cathode\"\n\
             [face.gauge.drive]\nmethod = \"scanned\"\nsegments = \"RB: dp g f e d c b a\"\n\
             digits = [\"RA0\", \"RA1\", \"RA2\", \"RA3\"]\ndigit_switch = \"npn\"\n\
             resistor = {{ ohms = 1200, in = \"segments\" }}\nrefresh_hz = {refresh}\nblanking = \"30us\"\n"
        )
    };
    // Two numbers of which the second takes longest.
    let reel = "[[track]]\nloop = true\n[[track.act]]\ncount = { from = 8999, to = 9999, step = 1000, every = \"50ms\" }\n";
    folder.write("this.reel.toml", reel);
    let write = "firmware --target pic-asm --unsound --rig this.toml --reel this.reel.toml --out out";
    folder.write("this.toml", rig(500));
    let refused = folder.run(write);
    assert!(refused.status == 2 && refused.err.contains("lower refresh_hz"), "{}", refused.err);
    folder.write("this.toml", rig(450));
    folder.answer(write);
    (runner.run)(&Running { folder: &folder, project: "out", ms: 600, presses: &[] });
    let trace = folder.read("trace.vcd");
    let digits: Vec<String> =
        ["RA0", "RA1", "RA2", "RA3"].map(|pin| format!("1{}", wire_id(&trace, pin))).into();
    let (mut now, mut lit) = (0_u64, Vec::new());
    for line in trace.lines() {
        if let Some(at) = line.strip_prefix('#') {
            now = at.parse().unwrap();
        } else if digits.iter().any(|digit| digit == line) {
            lit.push(now);
        }
    }
    assert!(lit.len() > 800, "{}", lit.len());
    let slots = lit[8..].windows(2).map(|pair| pair[1] - pair[0]);
    let (shortest, longest) = (slots.clone().min().unwrap(), slots.max().unwrap());
    assert!(longest - shortest < 40_000, "from {shortest} to {longest} ns");
}

/// Faces that share ports change their own pins only, wherever an interrupt comes.
#[test]
#[ignore = "needs a simulator: scripts/chains runs it"]
fn neighbours_on_a_port_leave_each_other_alone() {
    let runner = RUNNERS.iter().find(|runner| runner.target == "avr").unwrap();
    if !runner.is_there() {
        return;
    }
    // Of the second controller's ports H and L no single pin can be set by one instruction.
    for (controller, ports) in [("atmega328p", ["PD", "PB"]), ("atmega2560", ["PH", "PL"])] {
        let folder = Folder::landing();
        folder.write("this.toml", neighbours(controller, ports));
        folder.write(
            "this.reel.toml",
            "[[track]]\nface = \"gauge\"\nloop = true\n[[track.act]]\ncount = { to = 99, every = \"20ms\" }\n\
             [[track]]\nface = \"berth\"\nloop = true\n[[track.act]]\ncount = { to = 9, every = \"10ms\" }\n\
             [[track]]\nface = \"tide\"\nloop = true\n[[track.act]]\ncount = { to = 999, every = \"10ms\" }\n",
        );
        folder.answer("firmware --target avr --unsound --rig this.toml --reel this.reel.toml --out out");
        let trace = runners::interrupted_everywhere(&folder, controller);
        let [first, second] = ports;
        let scanned = changes_of(&trace, &pins(&[(first, 0..4), (second, 0..6)]));
        let alone = changes_of(&trace, &pins(&[(first, 4..8), ("PC", 0..4)]));
        assert!(scanned.0 == 0 && scanned.1 > 1000, "{controller}, the scanned face: {scanned:?}");
        assert!(alone.0 > 20 && alone.1 == 0, "{controller}, the digit beside it: {alone:?}");
        let bus = changes_of(&trace, &pins(&[(second, 6..8)]));
        assert!(bus.0 > 100 && bus.1 == 0, "{controller}, the bus beside it: {bus:?}");
    }
}

fn scans_take_what_is_said(runner: &Runner) {
    for case in CASES.iter().filter(|case| case.is_scanned() && runner.is_there() && runner.takes(case)) {
        let folder = write(runner, case);
        // Whatever else there is to say of the rig.
        let check = format!("rig check --target {} --rig this.toml --json", runner.target);
        let told: serde_json::Value = serde_json::from_str(&folder.run(&check).out).unwrap();
        let scans = &told["target"]["scans"];
        let Some(said) = scans[0]["slot_cycles"].as_f64() else { panic!("{scans}") };
        let (interrupts, cycles) = runners::interrupts(&folder, runner.target);
        // One darkens a piece of a slot where there is blanking, one lights it.
        let of_piece = if case.rig.contains("blanking = \"0us\"") { 1 } else { 2 };
        let took = f64::from(of_piece * case.depth()) * cycles as f64 / interrupts as f64;
        assert!(took > said / 2.0 && took < said * 1.5, "{}: {said} said, {took} taken", case.rig);
    }
}
