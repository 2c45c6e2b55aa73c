//! The tools that compile and run a project of each target, and record its lines in `trace.vcd`.
//!
//! Portable C runs wherever the tests do. The others take cross compilers and simulators, which scripts/toolchains installs: they are
//! asked for by the variable `SPARE_TILE_CHAINS`, as scripts/chains does.

use std::path::{Path, PathBuf};
use std::process::Command;

use super::answering::answered;
use super::cases::{Case, Press};
use crate::folder::Folder;

pub struct Runner {
    /// The target.
    pub target: &'static str,
    /// True if it takes more than this computer has by itself.
    pub is_asked_for: bool,
    /// The controller, and its pins in the order in which they are given to a rig of another one.
    pub controller: Option<(&'static str, &'static [&'static str])>,
    /// How late a picture may come: a look at the clock, transfers of all faces, a turn of a scan.
    pub late_ms: f64,
    /// For how long it is watched at most: some simulators are slow.
    pub most_ms: u32,
    /// Compiles a project and runs it.
    pub run: fn(&Running<'_>),
}

/// A project to be run.
pub struct Running<'r> {
    /// Where its rig is, and where its trace goes.
    pub folder: &'r Folder,
    /// Its own folder there.
    pub project: &'r str,
    /// For how long, in milliseconds.
    pub ms: u32,
    /// The keys that are pressed, and when in milliseconds.
    pub presses: &'r [Press],
}

const AVR_PINS: &[&str] = &[
    "PB0", "PB1", "PB2", "PB3", "PB4", "PB5", "PC0", "PC1", "PC2", "PC3", "PC4", "PC5", "PD2", "PD3", "PD4",
    "PD5", "PD6", "PD7",
];

const MEGA_PINS: &[&str] = &[
    "PA0", "PA1", "PA2", "PA3", "PA4", "PA5", "PA6", "PA7", "PC7", "PC6", "PC5", "PC4", "PC3", "PC2", "PC1",
    "PC0", "PL7", "PL6",
];

const TINY_PINS: &[&str] = &["PB0", "PB1", "PB2", "PB3", "PB4"];

const PIC_OPEN_PINS: &[&str] = &["RA0", "RA1", "RB2", "RA2", "RA3", "RB0", "RB1"];

const PIC_PINS: &[&str] =
    &["RB0", "RB1", "RB2", "RB3", "RB4", "RB5", "RB6", "RB7", "RA0", "RA1", "RA2", "RA3"];

/// Pins of the demo's atmega328p and those of an rp2040 that stand in for them; other numbers mean a pin of both.
const RP2040_PINS: [(&str, &str); 13] = [
    ("A0", "GP12"),
    ("A1", "GP13"),
    ("A2", "GP14"),
    ("A4", "GP16"),
    ("A5", "GP17"),
    ("PD2", "GP2"),
    ("PD3", "GP3"),
    ("PD4", "GP4"),
    ("PD5", "GP5"),
    ("PD6", "GP6"),
    ("PD7", "GP7"),
    ("PB0", "GP8"),
    ("PB1", "GP9"),
];

const MCS51_PINS: &[&str] = &[
    "P1.0", "P1.1", "P1.2", "P1.3", "P1.4", "P1.5", "P1.6", "P1.7", "P2.0", "P2.1", "P2.2", "P2.3", "P2.4",
    "P2.5", "P2.6", "P2.7", "P3.2", "P3.3",
];

/// The framework's calls take a hundred times as long as the pins.
const SLOW_CALLS_MS: f64 = 60.0;

pub const RUNNERS: &[Runner] = &[
    Runner {
        target: "c99",
        is_asked_for: false,
        controller: None,
        late_ms: 25.0,
        most_ms: 8000,
        run: on_host,
    },
    Runner {
        target: "rust",
        is_asked_for: false,
        controller: None,
        late_ms: 25.0,
        most_ms: 8000,
        run: on_host_in_rust,
    },
    Runner {
        target: "rust",
        is_asked_for: true,
        controller: Some(("rp2040", &[])),
        late_ms: 25.0,
        most_ms: 8000,
        run: for_rp2040,
    },
    Runner {
        target: "avr",
        is_asked_for: true,
        controller: Some(("atmega328p", AVR_PINS)),
        late_ms: 25.0,
        most_ms: 8000,
        run: on_avr,
    },
    Runner {
        target: "avr",
        is_asked_for: true,
        controller: Some(("atmega2560", MEGA_PINS)),
        late_ms: 25.0,
        most_ms: 8000,
        run: on_mega,
    },
    Runner {
        target: "avr",
        is_asked_for: true,
        controller: Some(("attiny85", TINY_PINS)),
        late_ms: 60.0,
        most_ms: 4000,
        run: on_tiny,
    },
    Runner {
        target: "c99",
        is_asked_for: true,
        controller: None,
        late_ms: 25.0,
        most_ms: 8000,
        run: on_host_by_clang,
    },
    Runner {
        target: "setup-loop",
        is_asked_for: true,
        controller: Some(("atmega328p", AVR_PINS)),
        late_ms: SLOW_CALLS_MS,
        most_ms: 8000,
        run: |run| on_board(run, "atmega328p"),
    },
    Runner {
        target: "setup-loop",
        is_asked_for: true,
        controller: Some(("atmega2560", MEGA_PINS)),
        late_ms: SLOW_CALLS_MS,
        most_ms: 8000,
        run: |run| on_board(run, "atmega2560"),
    },
    Runner {
        target: "setup-loop",
        is_asked_for: true,
        controller: None,
        late_ms: SLOW_CALLS_MS,
        most_ms: 8000,
        run: with_recording_calls,
    },
    Runner {
        target: "mcs51",
        is_asked_for: true,
        controller: Some(("mcs51", MCS51_PINS)),
        late_ms: 120.0,
        most_ms: 1600,
        run: on_mcs51,
    },
    Runner {
        target: "pic-asm",
        is_asked_for: true,
        controller: Some(("pic16f54", PIC_PINS)),
        late_ms: 60.0,
        most_ms: 8000,
        run: on_pic,
    },
    Runner {
        target: "micropython",
        is_asked_for: true,
        controller: Some(("rp2040", &[])),
        late_ms: SLOW_CALLS_MS,
        most_ms: 8000,
        run: in_interpreter,
    },
];

/// The variable that asks for targets, with commas between them.
const ASKED: &str = "SPARE_TILE_CHAINS";

/// The targets that are asked for. An unknown name fails the test.
fn targets(asked: &str) -> Vec<&str> {
    let asked: Vec<_> = asked.split(',').collect();
    let is_known = |target: &&str| RUNNERS.iter().any(|runner| runner.target == *target);
    let unknown: Vec<_> = asked.iter().filter(|target| !is_known(target)).collect();
    assert!(unknown.is_empty(), "{ASKED} names no target: {unknown:?}");
    asked
}

#[test]
#[should_panic(expected = "SPARE_TILE_CHAINS names no target: [\"arv\"]")]
fn a_target_that_is_misspelt_is_a_mistake() {
    targets("c99,arv");
}

impl Runner {
    /// Returns true if it runs: without the variable, if it needs no tools; with it, if its target is asked for. A target's
    /// runners without tools are skipped if it has others.
    pub fn is_there(&self) -> bool {
        let Ok(asked) = std::env::var(ASKED) else { return !self.is_asked_for };
        let has_tools = RUNNERS.iter().any(|other| other.target == self.target && other.is_asked_for);
        targets(&asked).contains(&self.target) && self.is_asked_for == has_tools
    }

    /// Returns true if its controllers can hold a case.
    pub fn takes(&self, case: &Case) -> bool {
        let pins = pins_of(case.rig);
        // One AVR is enough for what reads a line, and the 8051's simulator takes too long to be answered.
        let reads = ["c99", "avr", "setup-loop", "micropython", "rust"].contains(&self.target);
        let is_second = self.controller.is_some_and(|(controller, _)| controller == "atmega2560");
        if !case.presses.is_empty() && (!reads || is_second) {
            return false;
        }
        // One compiler lacks divisions of 64 bits, and a 12-bit core counts 16.
        if ["mcs51", "pic-asm"].contains(&self.target) && case.reel.contains("4294967293") {
            return false;
        }
        // Its pins give no current to rows of dots.
        if self.target == "mcs51" && case.rig.contains("scan = \"rows\"") {
            return false;
        }
        // They lack the speed for a panel.
        let is_fast = self.target == "c99" || self.target == "rust" && case.rig.contains("clock_hz");
        if case.has_panel() && !is_fast {
            return false;
        }
        // The interpreter's timers are too late, and so are calls of a hundred times their length; and a 12-bit core lacks memory.
        let is_slow = ["micropython", "pic-asm", "setup-loop"].contains(&self.target);
        if case.grey_steps() > 1 && is_slow && (self.target != "setup-loop" || case.faces[0] == "beacon") {
            return false;
        }
        // Where calls are slow, those of a slow bus take longer than a slot.
        if case.rig.contains("clock_hz = 40_000")
            && ["setup-loop", "mcs51", "micropython"].contains(&self.target)
        {
            return false;
        }
        // It has 25 bytes of memory: one face, what counts and moves on its digits, a clock that goes from a time, and no part that is
        // both dimmed and healed.
        if self.target == "pic-asm" {
            let asks_more = ["clock = { for", "[buttons]"].iter().any(|word| case.reel.contains(word))
                || case.has_brightness() && case.rig.contains("resend");
            let is_larger = case.faces.len() > 1 || ["board", "desk"].contains(&case.faces[0]);
            return !asks_more && !is_larger && !pins.is_empty() && pins.len() <= PIC_PINS.len();
        }
        match self.controller {
            Some(("rp2040", _)) => true,
            // Pins of a rig that has such a controller already stay as they are.
            Some((controller, own)) => {
                pins.len() <= own.len() && (!pins.is_empty() || case.rig.contains(controller))
            }
            // The calls that record know pins by their numbers.
            None => !self.is_asked_for || !pins.is_empty(),
        }
    }

    /// The rig of a case on a controller of the target, pin for pin.
    pub fn rig(&self, case: &Case) -> String {
        let Some((controller, own)) = self.controller else { return case.rig.to_owned() };
        if controller == "rp2040" {
            let mut rig = case.rig.replace("\"atmega328p\"", "\"rp2040\"");
            if self.target == "rust" {
                // The interpreter runs on an esp32 as well, and a whole program in Rust does not.
                rig = rig.replace("\"esp32\"", "\"rp2040\"");
                rig = rig.replace("\"GPIO32\"", "\"GP10\"").replace("\"GPIO33\"", "\"GP11\"");
            }
            let renamed = |rig: String, (pin, own): &(&str, &str)| {
                rig.replace(&format!("\"{pin}\""), &format!("\"{own}\""))
            };
            return RP2040_PINS.iter().fold(rig, renamed);
        }
        let part = |line: &str| match line.strip_prefix("part = ") {
            Some(part) if is_controller(part) => format!("part = \"{controller}\""),
            _ => line.to_owned(),
        };
        let mut rig: String = case.rig.lines().map(|line| part(line) + "\n").collect();
        if self.target == "mcs51" {
            // Its pins take current and give none.
            rig = rig.replace("common = \"cathode\"", "common = \"anode\"").replace("\"npn\"", "\"pnp\"");
        }
        // Its simulator only sees inputs with pull-up on port A.
        let own = if self.target == "pic-asm" && has_open_lines(&rig) { PIC_OPEN_PINS } else { own };
        for (pin, own) in pins_of(case.rig).iter().zip(own) {
            rig = rig.replace(&format!("\"{pin}\""), &format!("\"{own}\""));
        }
        rig
    }
}

/// Returns true if lines of a rig are inputs with pull-up.
fn has_open_lines(rig: &str) -> bool {
    ["tm1637", "pcf8574", "ht16k33"].iter().any(|part| rig.contains(part))
}

fn is_controller(part: &str) -> bool {
    ["rp2040", "esp32", "atmega328p"].iter().any(|known| part.starts_with(&format!("\"{known}\"")))
}

/// The pins of rigs with another controller, each once.
fn pins_of(rig: &str) -> Vec<&str> {
    let is_pin = |word: &&str| {
        let number = word.strip_prefix("GPIO").or_else(|| word.strip_prefix("GP"));
        number.is_some_and(|number| !number.is_empty() && number.chars().all(|c| c.is_ascii_digit()))
    };
    let mut pins: Vec<_> = rig.split('"').filter(is_pin).collect();
    let mut seen = std::collections::BTreeSet::new();
    pins.retain(|pin| seen.insert(*pin));
    pins
}

/// Runs a command in a folder; it must go well.
pub fn must(command: &mut Command) {
    let run = command.output().unwrap_or_else(|error| panic!("{command:?}: {error}"));
    assert!(run.status.success(), "{command:?}: {}", String::from_utf8_lossy(&run.stderr));
}

pub fn make(folder: &Folder, project: &str, arguments: &[&str]) {
    must(Command::new("make").arg("-s").args(arguments).current_dir(folder.path(project)));
}

fn on_host(run: &Running<'_>) {
    let Running { folder, project, ms, .. } = *run;
    make(folder, project, &["host"]);
    answered(Command::new(folder.path(project).join("host")).arg(ms.to_string()), run);
}

fn on_host_by_clang(run: &Running<'_>) {
    let Running { folder, project, ms, .. } = *run;
    make(folder, project, &["host", "CC=clang"]);
    answered(Command::new(folder.path(project).join("host")).arg(ms.to_string()), run);
}

/// Compiles Rust without a network: embedded-hal is what these tests were built with.
pub fn rustc(folder: PathBuf, arguments: &[&str]) {
    let built = std::env::current_exe().unwrap().parent().unwrap().to_owned();
    let is_hal = |path: &PathBuf| {
        let name = path.file_name().unwrap_or_default().to_string_lossy();
        name.starts_with("libembedded_hal-") && name.ends_with(".rlib")
    };
    let hals = std::fs::read_dir(built).unwrap().map(|entry| entry.unwrap().path()).filter(is_hal);
    let hal = hals.max_by_key(|path| path.metadata().unwrap().modified().unwrap()).expect("embedded-hal");
    let mut rustc = Command::new("rustc");
    rustc.args(["--edition", "2024", "-D", "warnings", "-C", "debuginfo=0", "--out-dir", "."]);
    must(rustc.arg(format!("--extern=embedded_hal={}", hal.display())).args(arguments).current_dir(folder));
}

/// Compiles a crate and what drives it here, and runs that.
fn on_host_in_rust(run: &Running<'_>) {
    let Running { folder, project, ms, .. } = *run;
    let manifest = folder.read(&format!("{project}/Cargo.toml"));
    let name = manifest.split('"').nth(1).unwrap();
    let uses = format!("--extern={name}=lib{name}.rlib");
    rustc(folder.path(project), &["--crate-type", "lib", "--crate-name", name, "src/lib.rs"]);
    rustc(folder.path(project), &["--crate-type", "bin", "--crate-name", "host", &uses, "examples/host.rs"]);
    answered(Command::new(folder.path(project).join("host")).arg(ms.to_string()), run);
}

/// Builds the program for an rp2040, has everything looked at by clippy, and runs what drives the crate here.
fn for_rp2040(run: &Running<'_>) {
    let Running { folder, project, .. } = *run;
    let cargo = |arguments: &[&str]| {
        let mut cargo = Command::new("cargo");
        cargo.args(arguments).env("CARGO_TARGET_DIR", runner("rust")).current_dir(folder.path(project));
        // The size does not decide whether it links.
        cargo.env("CARGO_PROFILE_RELEASE_LTO", "off");
        must(cargo.env_remove("CARGO_MANIFEST_DIR"));
    };
    let on_board = ["--target", "thumbv6m-none-eabi", "--features", "rp2040"];
    cargo(&["clippy", "-q", "--all-targets", "--", "-D", "warnings"]);
    cargo(&[&["clippy", "-q", "--release"], &on_board[..], &["--", "-D", "warnings"]].concat());
    cargo(&[&["build", "-q", "--release"], &on_board[..]].concat());
    on_host_in_rust(run);
}

/// The file of a folder that has this ending.
fn only(folder: &Path, ending: &str) -> PathBuf {
    let files = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let mut found = files.filter(|path| path.extension().is_some_and(|of| of == ending));
    found.next().unwrap_or_else(|| panic!("no .{ending} in {}", folder.display()))
}

/// A runner of scripts/runners, compiled once by scripts/toolchains.
fn runner(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/runners").join(name)
}

/// A script of scripts/runners.
fn script(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../scripts/runners").join(name)
}

fn on_avr(run: &Running<'_>) {
    let Running { folder, project, .. } = *run;
    make(folder, project, &[]);
    simulate_avr(run, &only(&folder.path(project), "elf"), "atmega328p");
}

/// Runs a program for an AVR with this clock.
pub fn on_avr_at(run: &Running<'_>, mcu: &str, hertz: u32) {
    let Running { folder, project, ms, .. } = *run;
    make(folder, project, &[]);
    let mut command = Command::new(runner("avr"));
    command.arg(only(&folder.path(project), "elf")).args([mcu, &hertz.to_string(), &ms.to_string()]);
    must(command.arg(folder.path("trace.vcd")));
}

/// Runs a program for an AVR with an interrupt after each of its instructions. Returns what its pins did, with the line `interrupt`.
pub fn interrupted_everywhere(folder: &Folder, mcu: &str) -> String {
    make(folder, "out", &[]);
    let program = only(&folder.path("out"), "elf");
    let trace = folder.path("trace.vcd");
    must(Command::new(runner("avr")).arg(program).args([mcu, "16000000", "1500"]).arg(trace).arg("every"));
    folder.read("trace.vcd")
}

/// How many interrupts of the scan there are in a second of a program for an AVR, and how many cycles they take.
pub fn interrupts(folder: &Folder, target: &str) -> (u64, u64) {
    let (program, ticks) = if target == "avr" {
        make(folder, "out", &[]);
        (only(&folder.path("out"), "elf"), 0)
    } else {
        (sketch(folder, "out", "atmega328p"), FRAMEWORK_TICKS)
    };
    let trace = folder.path("trace.vcd");
    let run =
        Command::new(runner("avr")).arg(program).args(["atmega328p", "16000000", "1000"]).arg(trace).output();
    let said = String::from_utf8(run.unwrap().stdout).unwrap();
    let words: Vec<_> = said.lines().last().unwrap().split(' ').collect();
    let (interrupts, cycles): (u64, u64) = (words[1].parse().unwrap(), words[5].parse().unwrap());
    (interrupts - ticks, cycles - ticks * FRAMEWORK_TICK_CYCLES)
}

/// The framework counts its milliseconds in an interrupt of its own: how often a second, and for how many cycles.
const FRAMEWORK_TICKS: u64 = 976;
const FRAMEWORK_TICK_CYCLES: u64 = 70;

fn on_mega(run: &Running<'_>) {
    let Running { folder, project, .. } = *run;
    make(folder, project, &[]);
    simulate_avr(run, &only(&folder.path(project), "elf"), "atmega2560");
}

fn on_tiny(run: &Running<'_>) {
    let Running { folder, project, .. } = *run;
    make(folder, project, &[]);
    simulate_avr(run, &only(&folder.path(project), "elf"), "attiny85");
}

fn simulate_avr(run: &Running<'_>, program: &Path, mcu: &str) {
    let Running { folder, ms, .. } = *run;
    let hertz = if mcu == "attiny85" { "8000000" } else { "16000000" };
    let mut command = Command::new(runner("avr"));
    command.arg(program).args([mcu, hertz, &ms.to_string()]);
    if run.presses.is_empty() {
        must(command.arg(folder.path("trace.vcd")));
    } else {
        answered(command.arg("-"), run);
    }
}

/// Compiles a sketch with the framework's own core, and runs it.
fn on_board(run: &Running<'_>, mcu: &str) {
    let program = sketch(run.folder, run.project, mcu);
    simulate_avr(run, &program, mcu);
}

/// Compiles a sketch with the framework's own core.
fn sketch(folder: &Folder, project: &str, mcu: &str) -> PathBuf {
    let program = folder.path("sketch.elf");
    must(Command::new(script("setup-loop")).arg(folder.path(project)).arg(mcu).arg(&program));
    program
}

/// Compiles a sketch with calls that record, as for a board of any kind.
fn with_recording_calls(run: &Running<'_>) {
    let Running { folder, project, ms, .. } = *run;
    let program = folder.path("sketch");
    must(Command::new(script("setup-loop")).arg(folder.path(project)).arg("host").arg(&program));
    answered(Command::new(program).arg(ms.to_string()), run);
}

/// Runs modules in the interpreter, with what stands in for its `machine`.
fn in_interpreter(run: &Running<'_>) {
    let Running { folder, project, ms, .. } = *run;
    let mut command = Command::new("node");
    command.arg(script("micropython.mjs")).arg(folder.path(project)).arg(ms.to_string());
    if run.presses.is_empty() {
        must(command.arg(folder.path("trace.vcd")));
    } else {
        answered(command.arg("-"), run);
    }
}

/// Assembles a program and runs it on the simulator of a 12-bit core.
fn on_pic(run: &Running<'_>) {
    let Running { folder, project, ms, .. } = *run;
    make(folder, project, &[]);
    let program = only(&folder.path(project), "asm");
    let mut command = Command::new(script("pic"));
    // Inputs with pull-up are on port A.
    if std::fs::read_to_string(&program).unwrap().contains("\ndirections ") {
        command.env("OPEN", "yes");
    }
    must(command.arg(program).args(["4000000", &ms.to_string()]).arg(folder.path("trace.vcd")));
}

/// An 8051 that reads a whole port reads its pins: one that a part pulls low would stay low with the next write.
fn writes_latches_only(project: &Path) {
    let mut written = 0;
    for file in std::fs::read_dir(project).unwrap().map(|entry| entry.unwrap().path()) {
        if file.extension().is_none_or(|ending| ending != "asm") {
            continue;
        }
        for line in std::fs::read_to_string(&file).unwrap().lines() {
            let mut operands = line.split([',', '\t', ' ']).filter(|word| !word.is_empty()).skip(1);
            let is_port = |word: &str| ["_P0", "_P1", "_P2", "_P3"].contains(&word);
            written += usize::from(operands.next().is_some_and(is_port));
            assert!(!operands.any(is_port), "{}: {line}", file.display());
        }
    }
    assert!(written > 0);
}

fn on_mcs51(run: &Running<'_>) {
    on_mcs51_with(run, "");
}

/// Runs a program for an 8051 while something outside holds pins low: `port[1] 0xfe` holds P1.0.
pub fn on_mcs51_with(run: &Running<'_>, pins: &str) {
    let Running { folder, project, ms, .. } = *run;
    make(folder, project, &[]);
    writes_latches_only(&folder.path(project));
    let program = only(&folder.path(project), "ihx");
    let mut command = Command::new(script("mcs51"));
    command.env("PINS", pins);
    // Only a scan takes the timer that plain parts lack.
    let part = if folder.read(&format!("{project}/hw.h")).contains("<8051.h>") { "C51" } else { "C52" };
    must(command.arg(program).args(["12000000", &ms.to_string()]).arg(folder.path("trace.vcd")).arg(part));
}
