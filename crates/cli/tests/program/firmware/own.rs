//! A person's own program: any sequence of calls shows what the core draws.

use std::fmt::Write as _;

use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::{Config, TestRunner};
use spare_tile_core::content::number::{Decimal, NumberFormat, Room};
use spare_tile_core::content::text::{self, Align, Shows};
use spare_tile_core::glyph::{Segments, Style, characters};
use spare_tile_core::plan::Rig;

use super::cases::{self, Case};
use super::chain::{Seen, difference, recorded, settled};
use super::runners::{RUNNERS, Runner, Running};
use crate::folder::Folder;

/// Two wires, with a colon that is a point of the part.
const COLON: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 4
colons = [{ after = 2, node = "grid2.seg8" }]
[face.gauge.drive]
method = "tm1637"
pins = { data = "GP6", clock = "GP7" }
bus_volts = 5.0
"#;

/// Lamps beside eight digits.
const LAMPS: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 8
lamps = [{ name = "berth1", node = "grid1.seg9" }, { name = "berth2", node = "grid2.seg9" }]
[face.gauge.drive]
method = "tm1638"
pins = { strobe = "GP8", clock = "GP9", data = "GP10" }
bus_volts = 5.0
"#;

/// Letters.
const LETTERS: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "fourteen-segment"
digits = 4
[face.gauge.drive]
method = "ht16k33"
pins = { data = "GP4", clock = "GP5" }
"#;

/// The rigs of the programs: every kind of bus, and a scan.
const CASES: [Case; 8] = [
    case(cases::SHIFTED),
    case(cases::HEALED),
    case(COLON),
    case(LAMPS),
    case(LETTERS),
    case(cases::LATCHED),
    case(cases::EXPANDED),
    case(cases::BUSSED),
];

const fn case(rig: &'static str) -> Case {
    Case { rig, faces: &["gauge"], reel: "", ms: 8000, presses: &[] }
}

/// The time from a call to the next one, in milliseconds.
const GAP_MS: u32 = 200;
/// The time of a step of what moves, and of half a blink.
const STEP_MS: u32 = 150;

/// A call of the program.
#[derive(Debug, Clone)]
enum Call {
    Clear,
    Segments(u8, u16),
    Text(String, Align),
    /// A text, and then how many of its characters are missing.
    Missing(String),
    Number(i32, u8),
    Padded(u32, u8, u8),
    Time(u8, u8, bool),
    Lamp(u8, bool),
    Test,
    Scroll(String),
    Blink,
}

impl Call {
    /// In C.
    fn in_c(&self) -> String {
        let quoted = |words: &str| format!("\"{}\"", words.replace('\\', "\\\\").replace('"', "\\\""));
        match self {
            Self::Clear => "digits_clear(&gauge);".to_owned(),
            Self::Segments(digit, bits) => format!("digits_segments(&gauge, {digit}, (digits_cell){bits});"),
            Self::Text(words, align) => {
                let align = format!("{align:?}").to_uppercase();
                format!("digits_text(&gauge, {}, DIGITS_{align});", quoted(words))
            }
            Self::Missing(words) => {
                format!("digits_number(&gauge, digits_text(&gauge, {}, DIGITS_LEFT), 0);", quoted(words))
            }
            // C has no literal of the lowest number.
            Self::Number(value, places) => format!("digits_number(&gauge, {} - 1, {places});", value + 1),
            Self::Padded(value, figures, base) => {
                format!("digits_padded(&gauge, {value}u, {figures}, {base});")
            }
            Self::Time(hours, minutes, colon) => format!("digits_time(&gauge, {hours}, {minutes}, {colon});"),
            Self::Lamp(lamp, is_on) => format!("digits_lamp(&gauge, {lamp}, {is_on});"),
            Self::Test => "digits_test(&gauge);".to_owned(),
            Self::Scroll(words) => format!("digits_scroll(&gauge, {}, {STEP_MS}, 1);", quoted(words)),
            Self::Blink => format!("digits_blink(&gauge, {STEP_MS});"),
        }
    }
}

impl Call {
    /// In Python.
    fn in_python(&self) -> String {
        let quoted = |words: &str| format!("\"{}\"", words.replace('\\', "\\\\").replace('"', "\\\""));
        let truth = |is_true: bool| if is_true { "True" } else { "False" };
        match self {
            Self::Clear => "display.clear()".to_owned(),
            Self::Segments(digit, bits) => format!("display.segments({digit}, {bits})"),
            Self::Text(words, align) => {
                format!("display.text({}, digits.{})", quoted(words), format!("{align:?}").to_uppercase())
            }
            Self::Missing(words) => format!("display.number(display.text({}))", quoted(words)),
            Self::Number(value, places) => format!("display.number({value}, {places})"),
            Self::Padded(value, figures, base) => format!("display.padded({value}, {figures}, {base})"),
            Self::Time(hours, minutes, colon) => {
                format!("display.time({hours}, {minutes}, {})", truth(*colon))
            }
            Self::Lamp(lamp, is_on) => format!("display.lamp({lamp}, {})", truth(*is_on)),
            Self::Test => "display.test()".to_owned(),
            Self::Scroll(words) => format!("display.scroll({}, {STEP_MS}, 1)", quoted(words)),
            Self::Blink => format!("display.blink({STEP_MS})"),
        }
    }
}

/// The content of a face as the calls want it.
struct Wanted<'r> {
    rig: &'r Rig,
    cells: Vec<Segments>,
    lamps: Vec<bool>,
}

impl Wanted<'_> {
    fn style(&self) -> Style {
        self.rig.faces[0].face.style()
    }

    /// Starts again. Lamps stay as they are, colons go out.
    fn begin(&mut self) {
        let face = &self.rig.faces[0].face;
        self.cells.fill(Segments::NONE);
        (0..=face.digits()).filter_map(|after| face.colon(after)).for_each(|colon| self.lamps[colon] = false);
    }

    fn text(&mut self, words: &str, align: Align) -> usize {
        let face = &self.rig.faces[0].face;
        self.begin();
        let mut at = align.start(text::digits(words, face), face.digits());
        let mut missing = 0;
        for cell in text::cells(words, face.points) {
            if cell.shows == Shows::Character(':') && face.has_colons() {
                match face.colon(at) {
                    Some(colon) => self.lamps[colon] = true,
                    None => missing += 1,
                }
            } else if at < face.digits() {
                self.cells[at] = cell.segments(self.style(), &face.own_glyphs).unwrap();
                at += 1;
            } else {
                missing += 1;
            }
        }
        missing
    }

    fn dashes(&mut self) {
        let dash = text::cells("-", false).next().unwrap();
        let face = &self.rig.faces[0].face;
        let dash = dash.segments(self.style(), &face.own_glyphs).unwrap();
        self.begin();
        self.cells.fill(dash);
    }

    fn right(&mut self, written: &str) {
        let face = &self.rig.faces[0].face;
        if text::digits(written, face) > face.digits() {
            self.dashes();
        } else {
            self.text(written, Align::Right);
        }
    }

    fn number(&mut self, value: i32, places: u8) {
        let sign = if value < 0 { "-" } else { "" };
        let figures = format!("{:0width$}", value.unsigned_abs(), width = usize::from(places) + 1);
        let (whole, part) = figures.split_at(figures.len() - usize::from(places));
        let decimal: Decimal = format!("{sign}{whole}.{part}0").parse().unwrap();
        let face = &self.rig.faces[0].face;
        let format = NumberFormat { places: Some(places.into()), ..NumberFormat::default() };
        match format.write(decimal, Room { digits: face.digits(), points: face.points }) {
            Ok(written) => self.right(&written),
            Err(_) => self.dashes(),
        }
    }

    /// Makes a call, and returns the pictures that it shows, each with the time since the call; the last one stays.
    fn call(&mut self, call: &Call) -> Vec<(u32, String)> {
        let face = &self.rig.faces[0].face;
        match call {
            Call::Clear => {
                self.cells.fill(Segments::NONE);
                self.lamps.fill(false);
            }
            Call::Segments(digit, bits) => {
                if let Some(cell) = self.cells.get_mut(usize::from(*digit)) {
                    *cell = Segments(u32::from(*bits) & ((1 << face.style().segment_count()) - 1));
                }
            }
            Call::Text(words, align) => drop(self.text(words, *align)),
            Call::Missing(words) => {
                let missing = self.text(words, Align::Left);
                self.number(missing as i32, 0);
            }
            Call::Number(value, places) => self.number(*value, *places),
            Call::Padded(value, figures, base) => {
                let width = usize::from(*figures).max(1);
                let written = match base {
                    2 => format!("{value:0width$b}"),
                    8 => format!("{value:0width$o}"),
                    10 => format!("{value:0width$}"),
                    _ => format!("{value:0width$X}"),
                };
                self.right(&written);
            }
            Call::Time(hours, minutes, colon) => {
                if face.digits() < 4 {
                    self.dashes();
                } else {
                    let start = (face.digits() - 4) / 2;
                    let middle = match (face.colon(start + 2), colon) {
                        (Some(_), true) => ":",
                        (None, true) if face.points => ".",
                        _ => "",
                    };
                    self.text(&format!("{hours:02}{middle}{minutes:02}"), Align::Centre);
                }
            }
            Call::Lamp(lamp, is_on) => {
                if let Some(lamp) = self.lamps.get_mut(usize::from(*lamp)) {
                    *lamp = *is_on;
                }
            }
            Call::Test => {
                self.cells.fill(Segments((1 << face.style().segment_count()) - 1));
                self.lamps.fill(true);
            }
            Call::Scroll(words) => return self.scroll(words),
            Call::Blink => {
                let dark = Wanted { rig: self.rig, cells: vec![Segments::NONE; 8], lamps: vec![false; 16] };
                let dark = dark.picture();
                return (0..4)
                    .map(|half| (half * STEP_MS, if half % 2 == 0 { self.picture() } else { dark.clone() }))
                    .collect();
            }
        }
        vec![(0, self.picture())]
    }

    fn scroll(&mut self, words: &str) -> Vec<(u32, String)> {
        let face = &self.rig.faces[0].face;
        self.begin();
        let strip: Vec<_> = text::cells(words, face.points)
            .filter(|cell| cell.shows != Shows::Character(':') || !face.has_colons())
            .map(|cell| cell.segments(face.style(), &face.own_glyphs).unwrap())
            .collect();
        let room = face.digits();
        let steps = 0..=strip.len() + room;
        let pictures = steps.map(|step| {
            let lit = |digit: usize| (digit + step).checked_sub(room).and_then(|column| strip.get(column));
            self.cells = (0..room).map(|digit| lit(digit).copied().unwrap_or_default()).collect();
            (step as u32 * STEP_MS, self.picture())
        });
        pictures.collect()
    }

    /// The lights that are wired, in the words of the chain.
    fn picture(&self) -> String {
        let mount = &self.rig.faces[0];
        let face = &mount.face;
        let digit = |digit: usize| {
            let is_lit = |segment: &usize| {
                self.cells[digit].has_index(*segment) && mount.wiring.has(face.element(digit, *segment))
            };
            let lit = (0..face.style().segment_count()).filter(is_lit);
            let names: Vec<_> = lit.map(|segment| face.style().segment_names()[segment]).collect();
            serde_json::to_string(&names).unwrap()
        };
        let digits: Vec<_> = (0..face.digits()).map(digit).collect();
        let lamps = face.extras.iter().zip(&self.lamps).filter(|(_, is_on)| **is_on);
        let lamps: Vec<_> = lamps.map(|(extra, _)| format!("\"{}\"", extra.name)).collect();
        format!("1 {}  {}", digits.join(" "), lamps.join(" "))
    }
}

/// The characters that the segments of a face can form, but for those with a meaning of their own.
fn letters(style: Style) -> Vec<char> {
    characters(style).filter(|letter| letter.is_ascii_graphic() && !".:{}".contains(*letter)).collect()
}

fn calls(rig: &Rig) -> impl Strategy<Value = Vec<Call>> + use<> {
    let letters = letters(rig.faces[0].face.style());
    let letter = prop_oneof![6 => prop::sample::select(letters), 2 => Just('.'), 1 => Just(' ')];
    let words =
        prop::collection::vec(letter, 0..9).prop_map(|letters| letters.into_iter().collect::<String>());
    let align = prop::sample::select(vec![Align::Left, Align::Centre, Align::Right]);
    let value = prop_oneof![
        4 => -120..1200_i32, 2 => -99_999..999_999_i32, 1 => prop::sample::select(vec![0, i32::MIN + 1, i32::MAX - 1]),
    ];
    let call = prop_oneof![
        1 => Just(Call::Clear),
        1 => (0..9_u8, any::<u16>()).prop_map(|(digit, bits)| Call::Segments(digit, bits)),
        3 => (words.clone(), align).prop_map(|(words, align)| Call::Text(words, align)),
        1 => words.clone().prop_map(Call::Missing),
        4 => (value, 0..4_u8).prop_map(|(value, places)| Call::Number(value, places)),
        2 => (any::<u32>(), 0..32_u32, 0..9_u8, prop::sample::select(vec![2_u8, 8, 10, 16]))
            .prop_map(|(value, right, figures, base)| Call::Padded(value >> right, figures, base)),
        2 => (0..24_u8, 0..60_u8, any::<bool>()).prop_map(|(hours, minutes, colon)| Call::Time(hours, minutes, colon)),
        1 => (0..3_u8, any::<bool>()).prop_map(|(lamp, is_on)| Call::Lamp(lamp, is_on)),
        1 => Just(Call::Test),
        1 => words.prop_map(Call::Scroll),
        1 => Just(Call::Blink),
    ];
    prop::collection::vec(call, 4..30)
}

/// The calls with their moments, the pictures that they show, and how long that takes; as many of the calls as there is time for.
fn plan(
    rig: &Rig,
    calls: &[Call],
    most_ms: u32,
    write: fn(&Call) -> String,
) -> (Vec<(u32, String)>, Vec<Seen>, u32) {
    let face = &rig.faces[0].face;
    let mut wanted =
        Wanted { rig, cells: vec![Segments::NONE; face.digits()], lamps: vec![false; face.extras.len()] };
    let (mut made, mut seen, mut at) = (Vec::new(), Vec::new(), GAP_MS);
    for call in calls {
        let pictures = wanted.call(call);
        let lasts = pictures.last().map_or(0, |(after, _)| *after);
        if at + lasts + 2 * GAP_MS > most_ms {
            break;
        }
        made.push((at, write(call)));
        let of_call = pictures.into_iter().map(|(after, picture)| {
            let is_dark = !picture.contains("[\"") && !picture.trim_end().ends_with('"');
            Seen { at_ms: (at + after).into(), picture, greys: Vec::new(), share: 0.0, is_dark }
        });
        seen.extend(of_call);
        if matches!(call, Call::Blink) {
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
fn c_source(made: &[(u32, String)]) -> String {
    let due = made.iter().map(|(at, _)| format!("{at}, ")).collect::<String>();
    let mut cases = String::new();
    for (number, (_, code)) in made.iter().enumerate() {
        writeln!(cases, "    case {number}:\n        {code}\n        break;").unwrap();
    }
    format!(
        "#include \"own.h\"\n#include <stdbool.h>\n#include <stdint.h>\n#include \"gauge.h\"\n#include \"hw.h\"\n\n\
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
fn python_source(made: &[(u32, String)]) -> String {
    let calls = made.iter().map(|(at, code)| format!("    ({at}, lambda: {code}),\n")).collect::<String>();
    format!(
        "import time\nimport digits\nfrom gauge import display\n\nCALLS = [\n{calls}]\nbegun = 0\n\n\n\
         def begin():\n    global begun\n    begun = time.ticks_ms()\n\n\n\
         def step():\n    if CALLS and time.ticks_diff(time.ticks_ms(), begun) >= CALLS[0][0]:\n        CALLS.pop(0)[1]()\n"
    )
}

/// Where a program shows anything else than the core draws, after a change of the source of its calls.
fn fault(runner: &Runner, case: &Case, calls: &[Call], change: &dyn Fn(String) -> String) -> Option<String> {
    let folder = Folder::empty();
    let source = runner.rig(case);
    folder.write("this.toml", &source);
    let rig = Rig::read(&source).rig.unwrap();
    let target = runner.target;
    folder.answer(&format!("firmware --app own --target {target} --unsound --rig this.toml --out out"));
    let is_python = target == "micropython";
    let write = if is_python { Call::in_python } else { Call::in_c };
    let (made, seen, ms) = plan(&rig, calls, runner.most_ms, write);
    let (path, source, runtime) = match target {
        "micropython" => ("out/own.py", python_source(&made), "out/digits.py"),
        "setup-loop" => ("out/display/own.c", c_source(&made), "out/display/digits.c"),
        _ => ("out/own.c", c_source(&made), "out/digits.c"),
    };
    assert!(folder.read(path).contains("step"));
    folder.write(path, source);
    folder.write(runtime, change(folder.read(runtime)));
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

proptest! {
    #![proptest_config(Config { cases: 4, ..Config::default() })]

    #[test]
    fn any_sequence_of_calls_in_portable_c((case, calls) in (0..CASES.len()).prop_flat_map(|case| {
        (Just(case), calls(&Rig::read(CASES[case].rig).rig.unwrap()))
    })) {
        let fault = fault(&RUNNERS[0], &CASES[case], &calls, &|source| source);
        prop_assert!(fault.is_none(), "{}", fault.unwrap_or_default());
    }
}

#[test]
fn the_same_sequences_on_every_target() {
    const OF_EACH: usize = 3;
    let mut runner_of_calls = TestRunner::deterministic();
    for runner in RUNNERS.iter().filter(|runner| runner.is_there() && has_calls(runner)) {
        for case in CASES.iter().filter(|case| runner.takes(case)) {
            let rig = Rig::read(&runner.rig(case)).rig.unwrap();
            for _ in 0..OF_EACH {
                let calls = calls(&rig).new_tree(&mut runner_of_calls).unwrap().current();
                let fault = fault(runner, case, &calls, &|source| source);
                assert_eq!(fault, None, "{}: {}\n{calls:#?}", runner.target, case.rig);
            }
        }
    }
}

/// Returns true if a target has the calls.
fn has_calls(runner: &Runner) -> bool {
    ["c99", "avr", "setup-loop", "micropython"].contains(&runner.target)
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
fn a_mistake_in_the_source_is_seen() {
    const MISTAKES: [(&str, &str); 4] = [
        // The point joins the digit behind it.
        ("if (first != ':' && *text == '.'", "if (first != ':' && *text == ','"),
        // A number stands a digit too far left.
        (
            "uint8_t digit = display->count;\n    bool fits",
            "uint8_t digit = display->count - 1;\n    bool fits",
        ),
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
    assert_eq!(fault(&RUNNERS[0], &CASES[0], &calls, &|source| source), None);
    for (right, wrong) in MISTAKES {
        let change = |source: String| {
            assert!(source.contains(right), "{right}");
            source.replace(right, wrong)
        };
        assert!(fault(&RUNNERS[0], &CASES[0], &calls, &change).is_some(), "nobody saw it: {wrong}");
    }
}

/// The program in Python on the page shows what the one in C does.
#[test]
fn the_page_has_a_thermometer_in_python() {
    let page = std::fs::read_to_string(crate::docs::project().join("docs/guide/own-program.md")).unwrap();
    let (_, source) = page.split_once("```python\n").unwrap();
    let (source, _) = source.split_once("```").unwrap();
    assert!(source.lines().count() < 40 && source.contains("def step():"));
    let Some(runner) = RUNNERS.iter().find(|runner| runner.target == "micropython" && runner.is_there())
    else {
        return;
    };
    let folder = Folder::landing();
    folder.answer("firmware --app own --target micropython --rig gauge.toml --out out");
    folder.write("out/own.py", source);
    (runner.run)(&Running { folder: &folder, project: "out", ms: 2400, presses: &[] });
    let told = folder.answer("capture trace.vcd --rig gauge.toml --final");
    assert!(told.contains("\"  0.8\"") || told.contains("\"  0.9\""), "{told}");
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
        "bool digits_number(const digits *display, int32_t number, uint8_t places);",
        "void digits_step(const digits *display);",
        "void desk_start(void);",
        "void desk_brightness(uint8_t step);",
    ] {
        assert!(in_c.contains(call), "{call}\n{in_c}");
    }
    assert!(in_c.contains("Returns how many characters are not shown") || in_c.contains("Returns how many"));
    assert!(in_c.lines().all(|line| line.len() <= 80), "{in_c}");
    let in_python = ask("micropython");
    for call in ["number(number, places=0)", "lamp(lamp, is_on)", "start()", "set_brightness(step)"] {
        assert!(in_python.lines().any(|line| line.trim() == call), "{call}\n{in_python}");
    }
    assert!(!in_python.contains("_draw"));
    let refused =
        folder.complaint("firmware --app count --target c99 --rig desk.toml --face desk --list-calls");
    assert!(refused.contains("--app own"), "{refused}");
}
