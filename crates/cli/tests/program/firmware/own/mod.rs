//! A person's own program: any sequence of calls shows what the core draws.

mod digits;
mod dots;
mod keypad;
mod wall;

use std::fmt::{Debug, Write as _};

use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::{Config, TestRunner};
use spare_tile_core::content::text::Align;
use spare_tile_core::plan::Rig;

use super::cases::{self, Case};
use super::chain::{Seen, difference, recorded, settled, wire_id};
use super::runners::{RUNNERS, Runner, Running};
use crate::folder::Folder;
use digits::{Call, DIGITS};
use dots::DOTS;

/// Pictures, each with the time since a call; the last one stays.
type Shown = Vec<(u32, String)>;

/// Makes a call. Returns the pictures that it shows, after those before it.
type Shows<'r, C> = Box<dyn FnMut(&C) -> Shown + 'r>;

/// The calls of a kind of display, and what they show.
struct Kind<C: 'static> {
    /// The name of its header and of its module.
    name: &'static str,
    /// The rigs of the programs.
    cases: &'static [Case],
    /// Sequences of calls.
    calls: fn(&Rig) -> BoxedStrategy<Vec<C>>,
    in_c: fn(&C) -> String,
    in_python: fn(&C) -> String,
    in_rust: fn(&C) -> String,
    /// A display before its first call.
    shows: for<'r> fn(&'r Rig) -> Shows<'r, C>,
    is_blink: fn(&C) -> bool,
}

const fn case(rig: &'static str) -> Case {
    Case { rig, faces: &["gauge"], reel: "", ms: 8000, presses: &[] }
}

/// Words in quotes, as C and Python read them.
fn quoted(words: &str) -> String {
    format!("\"{}\"", words.replace('\\', "\\\\").replace('"', "\\\""))
}

/// The time from a call to the next one, in milliseconds.
const GAP_MS: u32 = 200;
/// The time of a step of what moves, and of half a blink.
const STEP_MS: u32 = 150;

/// The calls with their moments, the pictures that they show, and how long that takes; as many of the calls as there is time for.
fn plan<C>(
    kind: &Kind<C>,
    rig: &Rig,
    calls: &[C],
    most_ms: u32,
    write: fn(&C) -> String,
) -> (Vec<(u32, String)>, Vec<Seen>, u32) {
    let mut shows = (kind.shows)(rig);
    let (mut made, mut seen, mut at) = (Vec::new(), Vec::new(), GAP_MS);
    for call in calls {
        let pictures = shows(call);
        let lasts = pictures.last().map_or(0, |(after, _)| *after);
        if at + lasts + 2 * GAP_MS > most_ms {
            break;
        }
        made.push((at, write(call)));
        let of_call = pictures.into_iter().map(|(after, picture)| {
            // Segments and lamps are named; dots are a letter each.
            let is_dark =
                !picture.chars().skip(1).any(|letter| letter == '#' || letter.is_ascii_alphabetic());
            Seen { at_ms: (at + after).into(), picture, greys: Vec::new(), share: 0.0, is_dark }
        });
        seen.extend(of_call);
        if (kind.is_blink)(call) {
            // It ends in its dark half.
            at += lasts + STEP_MS - 50;
            made.push((at, write(call).replace(&STEP_MS.to_string(), "0")));
            seen.push(Seen { at_ms: at.into(), is_dark: false, ..seen[seen.len() - 2].clone() });
            at += GAP_MS;
        } else {
            at += lasts + GAP_MS;
        }
    }
    (made, seen, at)
}

/// A program in C that makes calls at these moments.
fn c_source(kind: &str, made: &[(u32, String)]) -> String {
    let due = made.iter().map(|(at, _)| format!("{at}, ")).collect::<String>();
    let fonts = if kind == "dots" { "#include \"fonts.h\"\n" } else { "" };
    let mut cases = String::new();
    for (number, (_, code)) in made.iter().enumerate() {
        writeln!(cases, "    case {number}:\n        {code}\n        break;").unwrap();
    }
    format!(
        "#include \"own.h\"\n#include <stdbool.h>\n#include <stdint.h>\n#include \"gauge.h\"\n{fonts}#include \"hw.h\"\n\n\
         static const uint16_t due[] = {{ {due}0 }};\nstatic uint16_t begun;\nstatic uint8_t next;\n\n\
         void own_begin(void)\n{{\n    begun = (uint16_t)hw_now_ms();\n}}\n\n\
         static void call(uint8_t number)\n{{\n    switch (number) {{\n{cases}    default:\n        break;\n    }}\n}}\n\n\
         void own_step(void)\n{{\n    \
         uint16_t passed = (uint16_t)((uint16_t)hw_now_ms() - begun);\n\n    \
         if (next < {} && passed >= due[next]) {{\n        call(next++);\n    }}\n}}\n",
        made.len(),
    )
}

/// The same in Python.
fn python_source(kind: &str, made: &[(u32, String)]) -> String {
    let fonts = if kind == "dots" { "from font_small import font\n" } else { "" };
    let calls = made.iter().map(|(at, code)| format!("    ({at}, lambda: {code}),\n")).collect::<String>();
    format!(
        "import time\nimport {kind}\nfrom gauge import face\n{fonts}\nCALLS = [\n{calls}]\nbegun = 0\n\n\n\
         def begin():\n    global begun\n    begun = time.ticks_ms()\n\n\n\
         def step():\n    if CALLS and time.ticks_diff(time.ticks_ms(), begun) >= CALLS[0][0]:\n        CALLS.pop(0)[1]()\n"
    )
}

/// The same in Rust.
fn rust_source(kind: &str, made: &[(u32, String)]) -> String {
    let uses = if kind == "dots" {
        "use crate::dots::Colour;\nuse crate::fonts;\n"
    } else {
        "use crate::digits::Align;\n"
    };
    let due = made.iter().map(|(at, _)| format!("{at}, ")).collect::<String>();
    let mut calls = String::new();
    for (number, (_, code)) in made.iter().enumerate() {
        writeln!(calls, "        {number} => {{ {code}; }}").unwrap();
    }
    format!(
        "#![allow(unused_imports)]\n{uses}use crate::gauge::Face;\n\nconst DUE: [u32; {}] = [{due}];\n\n\
         pub struct Own {{\n    begun: u32,\n    next: usize,\n}}\n\n\
         fn call(number: usize, face: &mut Face) {{\n    match number {{\n{calls}        _ => {{}}\n    }}\n}}\n\n\
         impl Own {{\n    pub fn begin(now: u32, _face: &mut Face) -> Self {{\n        Self {{ begun: now, next: 0 }}\n    }}\n\n    \
         pub fn step(&mut self, now: u32, face: &mut Face) {{\n        \
         if DUE.get(self.next).is_some_and(|due| now.wrapping_sub(self.begun) >= *due) {{\n            \
         call(self.next, face);\n            self.next += 1;\n        }}\n    }}\n}}\n",
        made.len()
    )
}

/// A language of the calls.
struct Language<C> {
    /// Where the sources are in a project.
    place: &'static str,
    ending: &'static str,
    /// A call.
    write: fn(&C) -> String,
    /// A program that makes calls at these moments.
    source: fn(&str, &[(u32, String)]) -> String,
}

/// The language of a target.
fn language<C>(kind: &Kind<C>, target: &str) -> Language<C> {
    let in_c = |place| Language { place, ending: "c", write: kind.in_c, source: c_source };
    match target {
        "micropython" => {
            Language { place: "out", ending: "py", write: kind.in_python, source: python_source }
        }
        "rust" => Language { place: "out/src", ending: "rs", write: kind.in_rust, source: rust_source },
        "setup-loop" => in_c("out/display"),
        _ => in_c("out"),
    }
}

/// Where a program shows anything else than the core draws, after a change of the source of its calls.
fn fault<C>(
    kind: &Kind<C>,
    runner: &Runner,
    case: &Case,
    calls: &[C],
    change: &dyn Fn(String) -> String,
) -> Option<String> {
    let folder = Folder::empty();
    let rig = runner.rig(case);
    folder.write("this.toml", &rig);
    let rig = Rig::read(&rig).rig.unwrap();
    let target = runner.target;
    folder.answer(&format!("firmware --app own --target {target} --unsound --rig this.toml --out out"));
    let Language { place, ending, write, source } = language(kind, target);
    let (made, seen, ms) = plan(kind, &rig, calls, runner.most_ms, write);
    // The first call may take longer than there is time.
    if made.is_empty() {
        return None;
    }
    let path = format!("{place}/own.{ending}");
    assert!(folder.read(&path).contains("step"));
    folder.write(&path, source(kind.name, &made));
    let runtime = format!("{place}/{}.{ending}", kind.name);
    folder.write(&runtime, change(folder.read(&runtime)));
    (runner.run)(&Running { folder: &folder, project: "out", ms, presses: &[] });
    let end = f64::from(ms);
    let wanted = settled(seen, end, 1);
    if wanted.iter().all(|seen| seen.is_dark) {
        return None;
    }
    match recorded(&folder, case, "gauge", end) {
        Ok(recorded) => difference(&wanted, &recorded, runner.late_ms, 1),
        Err(odd) => Some(odd),
    }
}

/// A case of a kind, and calls for its face.
fn sequences<C: Clone + Debug>(kind: &'static Kind<C>) -> impl Strategy<Value = (usize, Vec<C>)> {
    (0..kind.cases.len())
        .prop_flat_map(|case| (Just(case), (kind.calls)(&Rig::read(kind.cases[case].rig).rig.unwrap())))
}

proptest! {
    #![proptest_config(Config { cases: 4, ..Config::default() })]

    #[test]
    fn any_sequence_of_calls_for_digits_in_portable_c((case, calls) in sequences(&DIGITS)) {
        let fault = fault(&DIGITS, &RUNNERS[0], &DIGITS.cases[case], &calls, &|source| source);
        prop_assert!(fault.is_none(), "{}", fault.unwrap_or_default());
    }

    #[test]
    fn any_sequence_of_calls_for_dots_in_portable_c((case, calls) in sequences(&DOTS)) {
        let fault = fault(&DOTS, &RUNNERS[0], &DOTS.cases[case], &calls, &|source| source);
        prop_assert!(fault.is_none(), "{}", fault.unwrap_or_default());
    }
}

#[test]
fn the_same_sequences_for_digits_on_every_target() {
    on_every_target(&DIGITS);
}

#[test]
fn the_same_sequences_for_dots_on_every_target() {
    on_every_target(&DOTS);
}

fn on_every_target<C: Debug>(kind: &Kind<C>) {
    const OF_EACH: usize = 3;
    let mut runner_of_calls = TestRunner::deterministic();
    for runner in RUNNERS.iter().filter(|runner| runner.is_there() && has_calls(runner)) {
        for case in kind.cases.iter().filter(|case| runner.takes(case)) {
            let rig = Rig::read(&runner.rig(case)).rig.unwrap();
            for _ in 0..OF_EACH {
                let calls = (kind.calls)(&rig).new_tree(&mut runner_of_calls).unwrap().current();
                let fault = fault(kind, runner, case, &calls, &|source| source);
                assert_eq!(fault, None, "{}: {}\n{calls:#?}", runner.target, case.rig);
            }
        }
    }
}

/// Returns true if a target has the calls.
fn has_calls(runner: &Runner) -> bool {
    ["c99", "avr", "setup-loop", "micropython", "rust"].contains(&runner.target)
}

#[test]
fn what_a_person_wrote_stays_and_the_rest_is_renewed() {
    let folder = Folder::landing();
    let write = "firmware --app own --target c99 --rig landing.toml --face gauge --out out";
    folder.answer(write);
    let own = folder.read("out/own.c").replace("SHOWS_MS 3000", "SHOWS_MS 500");
    folder.write("out/own.c", &own);
    for _ in 0..2 {
        let run = folder.run(&format!("{write} --force"));
        assert!(run.err.contains("kept out/own.c: it is yours"), "{}", run.err);
        assert_eq!(folder.read("out/own.c"), own);
    }
    // Another rig: its files are new, and the program is still there.
    let run = folder.run("firmware --app own --target c99 --rig landing.toml --face desk --out out");
    assert_eq!(run.status, 0, "{}", run.err);
    assert_eq!(folder.read("out/own.c"), own);
    assert!(folder.read("out/desk.h").contains("extern const digits desk"));
    assert!(!folder.path("out/gauge.h").exists());
    // A file of other origin is refused.
    std::fs::create_dir(folder.path("other")).unwrap();
    folder.write("other/own.c", "int x;");
    let run = folder.run("firmware --app own --target c99 --rig landing.toml --face gauge --out other");
    assert_ne!(run.status, 0);
    assert_eq!(folder.read("other/own.c"), "int x;");
}

#[test]
fn a_mistake_in_the_source_for_digits_is_seen() {
    const MISTAKES: [(&str, &str); 4] = [
        // The point joins the digit behind it.
        ("if (first != ':' && *text == '.'", "if (first != ':' && *text == ','"),
        // A number stands a digit too far left.
        ("uint8_t digit = face->count;\n    bool fits", "uint8_t digit = face->count - 1;\n    bool fits"),
        // The text is a step ahead.
        ("if (column >= step &&", "if (column > step &&"),
        // A blink that is dark first.
        ("state->is_dark = false;\n    state->is_blinking", "state->is_dark = true;\n    state->is_blinking"),
    ];
    let calls = [
        Call::Text("3.14".to_owned(), Align::Left),
        Call::Number(-215, 1),
        Call::Scroll("TEAL".to_owned()),
        Call::Text("48".to_owned(), Align::Right),
        Call::Blink,
    ];
    mistakes_are_seen(&DIGITS, &RUNNERS[0], &calls, &MISTAKES);
    const IN_RUST: [(&str, &str); 4] = [
        ("self.rest.as_str().starts_with('.')", "self.rest.as_str().starts_with(',')"),
        ("cells.iter_mut().rev()", "cells.iter_mut().rev().skip(1)"),
        ("(digit + strip.passing.at)", "(digit + strip.passing.at + 1)"),
        ("if self.showing.is_dark() {", "if !self.showing.is_dark() {"),
    ];
    mistakes_are_seen(&DIGITS, in_rust(), &calls, &IN_RUST);
}

/// The runner of crates on this computer.
fn in_rust() -> &'static Runner {
    RUNNERS.iter().find(|runner| runner.target == "rust").unwrap()
}

#[test]
fn a_mistake_in_the_source_for_dots_is_seen() {
    use dots::Call;

    const MISTAKES: [(&str, &str); 5] = [
        // The rows of a character are upside down.
        (
            "if ((bits & 1) != 0) {\n                dots_dot",
            "if ((bits & 0x40) != 0) {\n                dots_dot",
        ),
        // The last column is beyond the display.
        ("(uint16_t)x >= face->width", "(uint16_t)x >= face->width - 1"),
        // A sprite of more than eight columns has bytes that follow one another in a column.
        ("(int16_t)(x + 8 * byte)", "x"),
        // A number begins where it should end.
        ("(int16_t)(right - (int16_t)dots_width(font, first))", "right"),
        // Lit dots stay lit in the dark half.
        (
            "copy(face, face->kept, face->image);\n        fill",
            "copy(face, face->kept, face->image);\n        (void)sizeof fill",
        ),
    ];
    let calls = [
        Call::Text("T7".to_owned(), 0, 0, 1),
        Call::Clear,
        Call::Area(24, 0, 8, 8, 1),
        Call::Clear,
        Call::Sprite(2, 2, 1),
        Call::Clear,
        Call::Number(-21, 1, 30, 1, 1),
        Call::Blink,
    ];
    mistakes_are_seen(&DOTS, &RUNNERS[0], &calls, &MISTAKES);
    const IN_RUST: [(&str, &str); 4] = [
        ("bits >> row & 1", "bits >> (15 - row) & 1"),
        ("filter(|x| *x < wiring.width)", "filter(|x| *x < wiring.width - 1)"),
        ("self.row(x + 8 * byte, ", "self.row(x + byte, "),
        ("right - width(text)", "right"),
    ];
    mistakes_are_seen(&DOTS, in_rust(), &calls, &IN_RUST);
}

/// Each change of the runtime, a right and a wrong piece of source, shows other pictures.
fn mistakes_are_seen<C>(kind: &Kind<C>, runner: &Runner, calls: &[C], mistakes: &[(&str, &str)]) {
    assert_eq!(fault(kind, runner, &kind.cases[0], calls, &|source| source), None);
    for (right, wrong) in mistakes {
        let change = |source: String| {
            assert!(source.contains(right), "{right}");
            source.replace(right, wrong)
        };
        let seen = fault(kind, runner, &kind.cases[0], calls, &change);
        assert!(seen.is_some(), "nobody saw it: {wrong}");
    }
}

/// The programs in Python and in Rust on the page show what those in C do.
#[test]
fn the_page_has_the_programs_in_python_and_rust_too() {
    // A rig and its face, how long the program runs, and a part of its last picture.
    const PROGRAMS: [(&str, &str, u32, &[&str]); 4] = [
        ("gauge.toml", "gauge", 2400, &["\"  0.8\"", "\"  0.9\""]),
        ("quillmoor.toml", "clock", 3200, &["\"03:01\""]),
        ("quillmoor.toml", "clock", 3900, &["\"00:00\"", "nothing"]),
        ("board.toml", "board", 1600, &["· · ● · · · ●"]),
    ];
    let page = std::fs::read_to_string(crate::docs::project().join("docs/guide/own-program.md")).unwrap();
    for (fence, target, path) in
        [("```python\n", "micropython", "out/own.py"), ("```rust\n", "rust", "out/src/own.rs")]
    {
        let sources: Vec<&str> =
            page.split(fence).skip(1).map(|rest| rest.split_once("```").unwrap().0).collect();
        assert_eq!(sources.len(), PROGRAMS.len());
        assert!(sources.iter().all(|source| source.lines().count() < 40 && source.contains("step(")));
        let runner = match target {
            "rust" => Some(in_rust()),
            _ => RUNNERS.iter().find(|runner| runner.target == target && runner.is_there()),
        };
        let Some(runner) = runner else { continue };
        for (source, (rig, face, ms, last)) in sources.iter().zip(PROGRAMS) {
            let folder = Folder::empty();
            folder.answer("demo --out landing");
            folder.write("this.toml", folder.read(&format!("landing/{rig}")));
            folder.answer(&format!(
                "firmware --app own --target {target} --rig this.toml --face {face} --out out"
            ));
            folder.write(path, source);
            (runner.run)(&Running { folder: &folder, project: "out", ms, presses: &[] });
            let told = folder.answer(&format!("capture trace.vcd --rig this.toml --face {face} --final"));
            assert!(last.iter().any(|last| told.contains(last)), "{rig}: {told}");
        }
    }
}

/// A program can ask whether its display is there.
#[test]
fn an_absent_display_is_told_from_one_that_answers() {
    const ASKS: &str = "#include \"own.h\"\n#include <stdint.h>\n#include \"gauge.h\"\n#include \"hw.h\"\n\n\
        static uint8_t asked;\n\nvoid own_begin(void)\n{\n    digits_number(&gauge, 48, 0);\n}\n\n\
        void own_step(void)\n{\n    if (asked == 0 && (uint16_t)hw_now_ms() >= 200) {\n        asked = 1;\n        \
        digits_number(&gauge, gauge_answers() ? 1 : 2, 0);\n    }\n}\n";
    const IN_RUST: &str = "use crate::gauge::Face;\n\npub struct Own {\n    is_asked: bool,\n}\n\nimpl Own {\n    \
        pub fn begin(_now: u32, gauge: &mut Face) -> Self {\n        gauge.number(48, 0);\n        Self { is_asked: false }\n    }\n\n    \
        pub fn step(&mut self, now: u32, gauge: &mut Face) {\n        if !self.is_asked && now >= 200 {\n            \
        self.is_asked = true;\n            gauge.number(if gauge.answers() { 1 } else { 2 }, 0);\n        }\n    }\n}\n";
    let in_c = [cases::BUSSED, cases::EXPANDED, digits::COLON].map(|rig| (rig, &RUNNERS[0], "own.c", ASKS));
    // Over pins, where the wires of a tm1637 are not listened to in Rust.
    let in_rust = [cases::BUSSED, cases::EXPANDED].map(|rig| (rig, in_rust(), "src/own.rs", IN_RUST));
    for (rig, runner, path, asks) in in_c.into_iter().chain(in_rust) {
        let (folder, target) = (Folder::empty(), runner.target);
        folder.write("this.toml", rig);
        folder.answer(&format!("firmware --app own --target {target} --unsound --rig this.toml --out out"));
        folder.write(&format!("out/{path}"), asks);
        // The board as the rig says: its part acknowledges.
        (runner.run)(&Running { folder: &folder, project: "out", ms: 500, presses: &[] });
        let told = folder.answer("capture trace.vcd --rig this.toml --final");
        assert!(told.contains("1\""), "{target}, {rig}: {told}");
        // No part pulls the lines low.
        let silent =
            "yes 1 | tr -d '\\n' | ./host 500 > ../absent.vcd; grep -v level ../absent.vcd > ../heard.vcd";
        let run =
            std::process::Command::new("sh").args(["-c", silent]).current_dir(folder.path("out")).status();
        assert!(run.unwrap().success());
        let told = folder.answer("capture heard.vcd --rig this.toml --final");
        assert!(told.contains("2\""), "{target}, {rig}: {told}");
    }
}

/// A part that holds data low is clocked until it lets go, before anything is sent.
#[test]
fn a_stuck_bus_is_freed() {
    let folder = Folder::empty();
    folder.write("this.toml", cases::BUSSED);
    folder.answer("firmware --app own --target c99 --unsound --rig this.toml --out out");
    super::make(&folder, "out", &["host"]);
    let clocks_with = |answers: &str| {
        let run = format!("({answers}; yes 1 | tr -d '\\n') | ./host 5 > ../trace.vcd");
        let run =
            std::process::Command::new("sh").args(["-c", &run]).current_dir(folder.path("out")).status();
        assert!(run.unwrap().success());
        let trace = folder.read("trace.vcd");
        let [data, clock] = ["GP4", "GP5"].map(|pin| wire_id(&trace, pin));
        let (_, changes) = trace.split_once("$enddefinitions $end").unwrap();
        let before_data = changes.lines().take_while(|change| *change != format!("0{data}"));
        before_data.filter(|change| *change == format!("0{clock}")).count()
    };
    // Even an idle bus gets a stop, for which the clock falls once.
    assert_eq!(
        [clocks_with("printf 1"), clocks_with("printf 0001"), clocks_with("printf 0000000000")],
        [1, 3, 9]
    );
}

/// The list has the calls that the sources declare.
#[test]
fn the_calls_are_listed() {
    let folder = Folder::landing();
    let ask = |target: &str| {
        folder
            .answer(&format!("firmware --app own --target {target} --rig desk.toml --face desk --list-calls"))
    };
    let in_c = ask("c99");
    for call in [
        "bool digits_number(const digits *face, int32_t number, uint8_t places);",
        "void digits_step(const digits *face);",
        "void desk_start(void);",
        "void desk_at_brightness(uint8_t step);",
    ] {
        assert!(in_c.contains(call), "{call}\n{in_c}");
    }
    assert!(in_c.contains("Returns how many characters are not shown") || in_c.contains("Returns how many"));
    assert!(in_c.lines().all(|line| line.len() <= 80), "{in_c}");
    assert!(in_c.contains("extern const digits desk;"), "{in_c}");
    let in_python = ask("micropython");
    for call in ["number(number, places=0)", "lamp(lamp, is_on)", "start()", "at_brightness(step)"] {
        assert!(in_python.lines().any(|line| line.trim() == call), "{call}\n{in_python}");
    }
    assert!(!in_python.contains("_draw"));
    let in_rust = ask("rust");
    for call in
        ["fn number(&mut self, number: i32, places: u8) -> bool", "fn at_brightness(&mut self, step: u8)"]
    {
        assert!(in_rust.lines().any(|line| line.trim() == call), "{call}\n{in_rust}");
    }
    assert!(!in_rust.contains("fn step"));
    for (target, words) in [
        ("c99", ["extern const dots_font font_board;", "enum { DOTS_DARK, DOTS_RED,"]),
        ("micropython", ["font_board.py", "DARK, RED, GREEN, YELLOW, BLUE, MAGENTA, CYAN, WHITE = range(8)"]),
        (
            "rust",
            ["static BOARD: Font", "enum Colour { Dark, Red, Green, Yellow, Blue, Magenta, Cyan, White }"],
        ),
    ] {
        let told =
            folder.answer(&format!("firmware --app own --target {target} --rig board.toml --list-calls"));
        assert!(words.iter().all(|words| told.contains(words)), "{target}: {told}");
        assert!(!told.contains("Places") && !told.contains("Wiring"), "{told}");
    }
    let refused =
        folder.complaint("firmware --app count --target c99 --rig desk.toml --face desk --list-calls");
    assert!(refused.contains("--app own"), "{refused}");
}
