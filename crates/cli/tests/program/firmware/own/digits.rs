//! Sequences of calls for digits, and the pictures that they show.

use proptest::prelude::*;
use spare_tile_core::content::number::{Decimal, NumberFormat, Room};
use spare_tile_core::content::text::{self, Align, Shows};
use spare_tile_core::glyph::{Segments, Style, characters};
use spare_tile_core::plan::Rig;

use super::{Kind, STEP_MS, case, quoted};
use crate::firmware::cases::{self, Case};

/// Two wires, with a colon that is a point of the part.
pub const COLON: &str = r#"
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

/// The calls of digits.
pub const DIGITS: Kind<Call> = Kind {
    name: "digits",
    cases: &CASES,
    calls,
    in_c: Call::in_c,
    in_python: Call::in_python,
    in_rust: Call::in_rust,
    shows: |rig| {
        let face = &rig.faces[0].face;
        let mut wanted =
            Wanted { rig, cells: vec![Segments::NONE; face.digits()], lamps: vec![false; face.extras.len()] };
        Box::new(move |call| wanted.call(call))
    },
    is_blink: |call| matches!(call, Call::Blink),
};

/// A call of the program.
#[derive(Debug, Clone)]
pub enum Call {
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
        let truth = |is_true: bool| if is_true { "True" } else { "False" };
        match self {
            Self::Clear => "face.clear()".to_owned(),
            Self::Segments(digit, bits) => format!("face.segments({digit}, {bits})"),
            Self::Text(words, align) => {
                format!("face.text({}, digits.{})", quoted(words), format!("{align:?}").to_uppercase())
            }
            Self::Missing(words) => format!("face.number(face.text({}))", quoted(words)),
            Self::Number(value, places) => format!("face.number({value}, {places})"),
            Self::Padded(value, figures, base) => format!("face.padded({value}, {figures}, {base})"),
            Self::Time(hours, minutes, colon) => {
                format!("face.time({hours}, {minutes}, {})", truth(*colon))
            }
            Self::Lamp(lamp, is_on) => format!("face.lamp({lamp}, {})", truth(*is_on)),
            Self::Test => "face.test()".to_owned(),
            Self::Scroll(words) => format!("face.scroll({}, {STEP_MS}, 1)", quoted(words)),
            Self::Blink => format!("face.blink({STEP_MS})"),
        }
    }
}

impl Call {
    /// In Rust.
    fn in_rust(&self) -> String {
        match self {
            Self::Clear => "face.clear()".to_owned(),
            Self::Segments(digit, bits) => format!("face.segments({digit}, {bits})"),
            Self::Text(words, align) => format!("face.text({}, Align::{align:?})", quoted(words)),
            Self::Missing(words) => {
                format!(
                    "let missing = face.text({}, Align::Left); face.number(missing as i32, 0)",
                    quoted(words)
                )
            }
            Self::Number(value, places) => format!("face.number({value}, {places})"),
            Self::Padded(value, figures, base) => format!("face.padded({value}, {figures}, {base})"),
            Self::Time(hours, minutes, colon) => format!("face.time({hours}, {minutes}, {colon})"),
            Self::Lamp(lamp, is_on) => format!("face.lamp({lamp}, {is_on})"),
            Self::Test => "face.test()".to_owned(),
            Self::Scroll(words) => format!("face.scroll({}, {STEP_MS}, 1)", quoted(words)),
            Self::Blink => format!("face.blink({STEP_MS})"),
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

fn calls(rig: &Rig) -> BoxedStrategy<Vec<Call>> {
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
    prop::collection::vec(call, 4..30).boxed()
}
