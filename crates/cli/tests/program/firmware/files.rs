//! The files of a project: what they say, what they are called, and what is left alone.

use std::process::Command;

use super::cases::CASES;
use super::runners::RUNNERS;
use crate::folder::Folder;

/// All files of a project but for what its compilers leave, each under its name.
fn whole(folder: &Folder, names: &[&str]) -> String {
    let text = |name: &&str| format!("==== {name}\n{}", folder.read(&format!("out/{name}")));
    names.iter().map(text).collect::<Vec<_>>().join("\n")
}

/// One project for each target: who changes a template sees here what becomes of the sources.
#[test]
fn a_project_reads_so() {
    let files: [(&str, &[&str]); 7] = [
        ("c99", &["README.md", "Makefile", "hw.h", "main.c", "gauge.c", "gauge.h", "expected.txt"]),
        ("avr", &["README.md", "Makefile", "hw.h", "hw.c", "main.c", "gauge.c", "gauge.h"]),
        (
            "setup-loop",
            &[
                "README.md",
                "quillmoor_old_gauge/quillmoor_old_gauge.ino",
                "quillmoor_old_gauge/hw.h",
                "quillmoor_old_gauge/gauge.c",
            ],
        ),
        ("mcs51", &["README.md", "Makefile", "hw.h", "hw.c", "main.c", "gauge.c", "gauge.h"]),
        ("micropython", &["README.md", "hw.py", "main.py", "gauge.py"]),
        (
            "rust",
            &[
                "README.md",
                "Cargo.toml",
                "src/lib.rs",
                "src/main.rs",
                "src/gauge.rs",
                "examples/host.rs",
                "memory.x",
            ],
        ),
        ("pic-asm", &["README.md", "Makefile", "quillmoor_old_gauge.asm"]),
    ];
    for (target, names) in files {
        let runner = RUNNERS.iter().find(|runner| runner.target == target).unwrap();
        let folder = super::write(runner, &CASES[0]);
        insta::assert_snapshot!(format!("project_{}", target.replace('-', "_")), whole(&folder, names));
    }
}

#[test]
fn what_somebody_else_wrote_is_left_alone() {
    let folder = Folder::landing();
    let line = "firmware --target c99 --rig berth.toml --app count --out out";
    folder.answer(line);
    let before = folder.read("out/berth.c");
    // Nothing was changed: it is written again.
    folder.answer(line);
    folder.write("out/berth.c", before.clone() + "/* mine */\n");
    let run = folder.run(line);
    assert_eq!(run.status, 0, "{}", run.err);
    assert!(run.err.contains("kept out/berth.c: you changed it; --force renews it"), "{}", run.err);
    assert!(folder.read("out/berth.c").ends_with("/* mine */\n"));
    // It counts as changed the next time too, and what is renewed is copied before.
    for copy in ["out/berth.c.bak", "out/berth.c.bak2"] {
        folder.answer(line);
        let run = folder.run(&format!("{line} --force"));
        assert!(run.err.contains(&format!("copied what was there to {copy}")), "{}", run.err);
        assert_eq!(folder.read("out/berth.c"), before);
        assert!(folder.read(copy).ends_with("/* mine */\n"));
        folder.write("out/berth.c", before.clone() + "/* mine */\n");
    }
    // A folder that holds a file of the same name.
    std::fs::create_dir(folder.path("other")).unwrap();
    folder.write("other/main.c", "int main(void) { return 0; }\n");
    insta::assert_snapshot!(folder.complaint("firmware --target c99 --rig berth.toml --app count --out other"), @"
    error: other/main.c was not written here: nothing was written
     │
     ╰ help: write into another folder, or renew it with --force
    [status 2]
    ");
    assert_eq!(folder.read("other/main.c"), "int main(void) { return 0; }\n");
    assert!(!folder.path("other/berth.c").exists());
}

#[test]
fn files_of_another_project_go_where_nobody_has_changed_them() {
    let folder = Folder::landing();
    folder.answer("firmware --target c99 --rig berth.toml --app count --out out");
    folder.write("out/mine.c", "int mine;\n");
    folder.answer("firmware --target c99 --rig gauge.toml --app count --out out");
    assert!(!folder.path("out/berth.c").exists() && folder.path("out/gauge.c").exists());
    assert_eq!(folder.read("out/mine.c"), "int mine;\n");
}

/// Names and texts of a rig and a reel stay names and texts, whatever stands in them.
#[test]
fn nothing_leaves_its_comment() {
    let folder = Folder::empty();
    folder.write(
        "odd.toml",
        r#"
name = "*/ int main(void) { } /* \" `x` \\ $(rm -rf x) — é"
[controller]
part = "atmega328p"
[face."int"]
kind = "seven-segment"
digits = 2
[face."int".drive]
method = "max7219"
pins = { data = "PB3", clock = "PB5", select = "PB2" }
[face."7 seg"]
kind = "seven-segment"
digits = 2
[face."7 seg".drive]
method = "max7219"
pins = { data = "PB3", clock = "PB5", select = "PB1" }
"#,
    );
    folder.write(
        "odd.reel.toml",
        "name = \"*/ #error\"\n[[track]]\nface = \"int\"\n[[track.act]]\ncount = {}\n[[track]]\nface = \"7 seg\"\n[[track.act]]\ncount = {}\n",
    );
    folder.answer("firmware --target c99 --rig odd.toml --reel odd.reel.toml --out out");
    super::runners::make(&folder, "out", &["trace.vcd", "MS=10"]);
    let header = folder.read("out/hw.h");
    assert!(
        header.contains("#define FACE_INT_CLOCK 0") && header.contains("#define FACE_7_SEG_CLOCK 0"),
        "{header}"
    );
    assert!(
        folder.read("out/main.c").starts_with("/* '/ int main(void) { } /' "),
        "{}",
        folder.read("out/main.c")
    );
}

/// An image of more than 255 bytes and columns, and more pictures than that.
#[test]
fn what_is_many_is_counted_by_wide_numbers() {
    let folder = Folder::empty();
    folder.write(
        "wall.toml",
        "[controller]\npart = \"rp2040\"\n[face.board]\nkind = \"dots\"\nwidth = 320\nheight = 8\n[face.board.drive]\n\
         method = \"max7219\"\npins = { data = \"GP7\", clock = \"GP6\", select = \"GP5\" }\nbus_volts = 5.0\n",
    );
    folder.write(
        "many.reel.toml",
        "[[track]]\nloop = true\n[[track.act]]\ncount = { from = 7, to = 8, every = \"100ms\" }\n\
         [[track.act]]\ncount = { to = 300, every = \"40ms\", thousands = true }\n",
    );
    folder.answer("firmware --target c99 --rig wall.toml --reel many.reel.toml --out out");
    assert!(folder.read("out/board.c").contains("stills[301]"));
    super::runners::make(&folder, "out", &["trace.vcd", "MS=10635"]);
    let told = |line: &str| -> serde_json::Value { serde_json::from_str(&folder.answer(line)).unwrap() };
    let is_alike = |how: &str, at_ms: u32| {
        let seen = &told(&format!("capture out/trace.vcd --rig wall.toml --json {how}"))["dots"];
        let still = format!("play many.reel.toml --rig wall.toml --stills {at_ms}ms --json");
        assert!(seen.is_array());
        assert_eq!(*seen, told(&still)["picture"]["dots"], "{at_ms}");
    };
    is_alike("--at 70ms", 50);
    is_alike("--final", 10600);
}

/// Two lines that write down what a bus does: starts `S`, stops `P`, and the bits between them. Nothing pulls data low.
const LISTENER: &str = r#"
use std::cell::RefCell;
use std::convert::Infallible;

use embedded_hal::delay::DelayNs;
use embedded_hal::digital::{ErrorType, InputPin, OutputPin};
use embedded_hal::i2c::{I2c, Operation};

#[derive(Default)]
struct Bus {
    levels: [bool; 2],
    bit: Option<bool>,
    heard: String,
}

thread_local! {
    static BUS: RefCell<Bus> = RefCell::new(Bus { levels: [true; 2], ..Bus::default() });
}

struct Pin(usize);

impl ErrorType for Pin {
    type Error = Infallible;
}

impl Pin {
    fn set(&self, level: bool) {
        BUS.with_borrow_mut(|bus| {
            if bus.levels[self.0] == level {
                return;
            }
            bus.levels[self.0] = level;
            match (self.0, level, bus.levels[0]) {
                (0, true, _) => bus.bit = Some(bus.levels[1]),
                (0, false, _) => {
                    let bit = bus.bit.take().map(|bit| if bit { '1' } else { '0' });
                    bus.heard.extend(bit);
                }
                (_, _, true) => {
                    bus.bit = None;
                    bus.heard.push(if level { 'P' } else { 'S' });
                }
                _ => {}
            }
        });
    }
}

impl OutputPin for Pin {
    fn set_low(&mut self) -> Result<(), Infallible> {
        self.set(false);
        Ok(())
    }

    fn set_high(&mut self) -> Result<(), Infallible> {
        self.set(true);
        Ok(())
    }
}

impl InputPin for Pin {
    fn is_high(&mut self) -> Result<bool, Infallible> {
        Ok(BUS.with_borrow(|bus| bus.levels[self.0]))
    }

    fn is_low(&mut self) -> Result<bool, Infallible> {
        self.is_high().map(|is_high| !is_high)
    }
}

struct Now;

impl DelayNs for Now {
    fn delay_ns(&mut self, _: u32) {}
}

fn main() {
    let mut bus = project::over_pins::PinI2c { lines: [Pin(0), Pin(1)], delay: Now, low_ns: 1, high_ns: 1 };
    bus.transaction(0x70, &mut OPERATIONS).unwrap();
    println!("{}", BUS.with_borrow(|bus| bus.heard.clone()));
}
"#;

/// Writes that follow one another are one transfer on a bus of plain pins; what is read has a start of its own.
#[test]
fn a_bus_of_pins_keeps_the_contract_of_its_trait() {
    let heard = |rig: &str, reel: &str, operations: &str| {
        let folder = Folder::landing();
        folder.write("this.toml", rig);
        folder.write("this.reel.toml", reel);
        folder.answer("firmware --target rust --unsound --rig this.toml --reel this.reel.toml --out out");
        folder.write("out/listener.rs", LISTENER.replace("OPERATIONS", operations));
        let project = ["--crate-type", "lib", "--crate-name", "project", "src/lib.rs"];
        super::runners::rustc(folder.path("out"), &project);
        let listener = ["--crate-type", "bin", "--extern=project=libproject.rlib", "listener.rs"];
        super::runners::rustc(folder.path("out"), &listener);
        let run = Command::new(folder.path("out/listener")).output().unwrap();
        String::from_utf8(run.stdout).unwrap().trim().to_owned()
    };
    let counts = "[[track]]\n[[track.act]]\ncount = {}\n";
    let touched = "[variables]\nberth = 7\n[buttons]\n\"gauge.up\" = { to = \"berth\", add = 1 }\n\
                   [[track]]\nface = \"gauge\"\n[[track.act]]\nnumber = { value = \"{berth}\" }\n";
    // Each byte is followed by its acknowledge.
    let written = "S11100000 1 00000001 1 00000010 1 00000011 1".replace(' ', "");
    let writes = "Operation::Write(&[1]), Operation::Write(&[2, 3])";
    assert_eq!(heard(super::cases::BUSSED, counts, &format!("[{writes}]")), format!("{written}P"));
    // The last byte that is read is not acknowledged.
    let read = "S11100001 1 11111111 0 11111111 0 11111111 1".replace(' ', "");
    let reads = "Operation::Read(&mut [0]), Operation::Read(&mut [0; 2])";
    let all = heard(super::cases::KEYED, touched, &format!("[{writes}, {reads}]"));
    assert_eq!(all, format!("{written}{read}P"));
}

/// Pins of boards with an edge connector have its numbers, which are not those of the ports.
#[test]
fn a_sketch_names_pins_as_the_board_does() {
    let folder = Folder::empty();
    let rig = |select: &str| {
        format!(
            "[controller]\npart = \"nrf52833\"\n[face.gauge]\nkind = \"seven-segment\"\ndigits = 4\n[face.gauge.drive]\n\
             method = \"max7219\"\npins = {{ data = \"EDGE15\", clock = \"P0.17\", select = \"{select}\" }}\nbus_volts = 5.0\n"
        )
    };
    let write = "firmware --target setup-loop --unsound --rig this.toml --app count --out out";
    folder.write("this.toml", rig("P0.12"));
    folder.answer(write);
    let sketch = folder.read("out/display/display.ino");
    for pin in
        ["    13, // GAUGE_CLOCK: P0.17", "    15, // GAUGE_DATA: P0.13", "    12, // GAUGE_SELECT: P0.12"]
    {
        assert!(sketch.contains(pin), "{sketch}");
    }
    folder.write("this.toml", rig("P0.05"));
    let refused = folder.run(write);
    assert!(refused.status == 2 && refused.err.contains("no number for pin P0.05"), "{}", refused.err);
}

#[test]
fn what_a_controller_cannot_do_is_said() {
    let folder = Folder::landing();
    let refused = |line: &str| folder.complaint(&format!("firmware {line} --out out"));
    insta::assert_snapshot!(refused("--target avr --rig gauge.toml --app count"), @"
    error: not supported by the target avr: the rig's controller is rp2040, and it
           is written for atmega328p, atmega168, atmega2560, atmega32u4, attiny84,
           attiny85
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    let rig = |pins: &str| {
        format!(
            "[controller]\npart = \"pic16f54\"\n[face.gauge]\nkind = \"seven-segment\"\ndigits = 8\n[face.gauge.drive]\n\
             method = \"max7219\"\npins = {{ data = \"RB0\", clock = \"RB1\", select = \"RB2\" }}\n{pins}"
        )
    };
    folder.write("small.toml", rig(""));
    let moves =
        |words: String| format!("[[track]]\n[[track.act]]\ntext = {{ say = \"{words}\", way = \"left\" }}\n");
    folder.write("long.reel.toml", moves("TEAL ".repeat(30)));
    insta::assert_snapshot!(refused("--target pic-asm --rig small.toml --reel long.reel.toml"), @"
    error: not supported by the target pic-asm: it takes 524 of the 512 words of its
           memory
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    folder.write("wide.toml", super::cases::WIDE.replace("rp2040", "mcs51").replace("GP", "P1."));
    insta::assert_snapshot!(refused("--target mcs51 --rig wide.toml --app count --to 4294967296 --step 2147483648"), @"
    error: not supported by the target mcs51: a count beyond 2147483647 needs a
           division of 64 bits, which its compiler lacks: count less far
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    folder.write("small.toml", rig("resend = \"1s\"\n"));
    let dims = "[[track]]\n[[track.act]]\ntext = { say = \"TEAL\" }\n[[track]]\nloop = true\n[[track.act]]\n\
                brightness = { to = \"25%\", for = \"1s\" }\n[[track.act]]\nbrightness = { to = \"100%\", for = \"1s\" }\n";
    folder.write("dims.reel.toml", dims);
    insta::assert_snapshot!(refused("--target pic-asm --rig small.toml --reel dims.reel.toml"), @"
    error: not supported by the target pic-asm: sending again is not written for it
           where the brightness changes, as that of face gauge does
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    folder.write("small.toml", rig(""));
    let turns = "[[track]]\nloop = true\n[[track.act]]\nclock = { for = \"1s\" }\n[[track.act]]\ntext = { say = \"TEAL\", for = \"1s\" }\n";
    folder.write("turns.reel.toml", turns);
    insta::assert_snapshot!(refused("--target pic-asm --rig small.toml --reel turns.reel.toml"), @"
    error: not supported by the target pic-asm: face gauge shows the time as it is
           and then something else, and it does not count on meanwhile: say from
           when its clock goes
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    insta::assert_snapshot!(refused("--target micropython --rig small.toml --app count"), @"
    error: not supported by the target micropython: it knows pins by numbers, as GP2
           and GPIO2 are, and RB1 has none on pic16f54
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    let beacon = include_str!("../../../demo/beacon.toml").replace("blanking", "depth = 6\nblanking");
    folder.write("grey.toml", beacon.replace("refresh_hz = 150", "refresh_hz = 500"));
    let fade = "[[track]]\n[[track.act]]\ntext = { say = [\"T\", \"K\"], motion = \"fade\" }\n";
    folder.write("grey.reel.toml", fade);
    insta::assert_snapshot!(refused("--target rust --rig grey.toml --reel grey.reel.toml"), @"
    error: not supported by the target rust: the shortest piece of a slot of face
           beacon is lit for 3.015 us, and an rp2040's alarm is 5 us late: lower
           depth or refresh_hz
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    insta::assert_snapshot!(refused("--target micropython --rig grey.toml --reel grey.reel.toml"), @"
    error: not supported by the target micropython: face beacon shows greys, and its
           timers come too late for their short pieces of a slot
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    insta::assert_snapshot!(refused("--target micropython --rig departures.toml --app count"), @"
    error: not supported by the target micropython: face departures is a colour
           panel, and an interpreter shifts no row of it in time
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    insta::assert_snapshot!(refused("--target rust --rig departures.toml --app count"), @"
    error: not supported by the target rust: an rp2040 takes about 768 ns to shift a
           column of face departures in: set clock_hz to 1627604 or less
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    insta::assert_snapshot!(refused("--target setup-loop --rig departures.toml --app count"), @"
    error: not supported by the target setup-loop: face departures is a colour
           panel, and the framework's calls take too long for its rows: c99 has a
           program for your own
     │
     ╰ help: other targets: c99 runs on anything; see the list in
             docs/guide/firmware-targets.md
    [status 2]
    ");
    insta::assert_snapshot!(refused("--target c99 --rig gauge.toml --app text"), @r#"
    error: the app text needs a text
     │
     ╰ help: give it: --say "TEAL 07:58"
    [status 2]
    "#);
    insta::assert_snapshot!(refused("--target c99 --rig gauge.toml --app count --say 7"), @"
    error: the app count does not show a text
     │
     ╰ help: leave out --say, or choose another app: --app text
    [status 2]
    ");
    insta::assert_snapshot!(refused("--target c99 --rig gauge.toml"), @"
    error: the following required arguments were not provided:
      --reel <FILE>

    Usage: spare-tile firmware --target <TARGET> --rig <FILE> --out <FOLDER> --reel <FILE>

    For more information, try '--help'.
    [status 2]
    ");
    assert!(!folder.path("out").exists());
}

#[test]
fn a_check_says_what_stands_in_the_way() {
    let folder = Folder::empty();
    let rig = |drive: &str| {
        let face = "[controller]\npart = \"atmega328p\"\n[face.gauge]\nkind = \"seven-segment\"\ndigits = 4\ncommon = \"cathode\"\n[face.gauge.drive]\n";
        folder.write("rig.toml", format!("{face}{drive}"));
    };
    let said = || folder.json("rig check --target avr")["target"].to_string();
    let shifted = |rest: &str| {
        rig(&format!(
            "method = \"shifted\"\npins = {{ data = \"PB0\", clock = \"PB1\", latch = \"PB2\" }}\nsegments = \"dp g f e d c b a\"\n\
             digits = [\"part1.QA\", \"part1.QB\", \"part1.QC\", \"part1.QD\"]\ndigit_switch = \"npn\"\n\
             resistor = {{ ohms = 680, in = \"segments\" }}\n{rest}"
        ));
    };
    shifted("refresh_hz = 120\nblanking = \"30us\"\n");
    insta::assert_snapshot!(said(), @r#"{"name":"avr","obstacles":[],"scans":[{"face":"gauge","of":33333,"slot_cycles":1184}]}"#);
    shifted("refresh_hz = 5000\nblanking = \"2us\"\n");
    let run = folder.run("rig check --target avr --json");
    let told: serde_json::Value = serde_json::from_str(&run.out).unwrap();
    insta::assert_snapshot!(told["target"], @r#"
    {"name":"avr","obstacles":["not supported by the target avr: a slot of face gauge takes about 1184 of the 800 available cycles"],"scans":[{"face":"gauge","of":800,"slot_cycles":1184}]}
    "#);
    assert_eq!(run.status, 1);
}

/// An app has the options of its act, and shows what `play` shows.
#[test]
fn an_app_has_the_options_of_its_act() {
    let folder = Folder::landing();
    folder.write("waves.toml", "\"~\" = \"a d g\"\n");
    for (app, act) in [
        (
            "count --from 40 --to 48 --step 4 --radix hex --every 250ms",
            "count --from 40 --to 48 --step 4 --radix hex --every 250ms",
        ),
        ("clock --time 07:57 --colon steady", "clock --time 07:57 --zone UTC --colon steady"),
        (
            "text --say HL~ --every 100ms --glyphs waves.toml",
            "text HL~ --every 100ms --times 9 --glyphs waves.toml",
        ),
        ("still --say 42 --align right", "text 42 --motion cut --align right"),
        ("test --every 50ms", "test --every 50ms"),
    ] {
        folder.answer(&format!("firmware --target c99 --rig gauge.toml --app {app} --force --out out"));
        let expected = folder.read("out/expected.txt");
        let moments: Vec<_> = expected.lines().filter_map(|line| line.strip_suffix(" s  gauge")).collect();
        let stills = moments.join("s,");
        let played = folder.answer(&format!("play {act} --rig gauge.toml --ascii --stills {stills}s"));
        let pictures = expected.split_once("\n\n").unwrap().1;
        assert_eq!(pictures, played, "{app}");
    }
    insta::assert_snapshot!(folder.complaint("firmware --target c99 --rig gauge.toml --app count --zone UTC --out no"), @"
    error: --zone is an option of --app clock, own
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("firmware --target c99 --rig gauge.toml --app clock --time soon --out no"), @"
    error: 'soon' is not a time; write 07:58, 2026-11-28T07:58, or with an offset
           2026-11-28T07:58:30+01:00
     │
     ╰ help: write a time of today, such as 07:57, or with its date
    [status 2]
    ");
}

#[test]
fn a_drafted_colour_panel_is_written_for_its_controller_as_it_is() {
    let folder = Folder::empty();
    folder.answer("rig new colour-panel -c rp2040");
    let told = folder.answer("firmware --target rust --app test --out panel");
    assert!(told.contains("src/departures.rs"), "{told}");
    // The interrupt of its scan writes to registers: calls that look the pin up are too slow for a row.
    assert!(folder.read("panel/src/main.rs").contains("gpio_out_set()"));
}
