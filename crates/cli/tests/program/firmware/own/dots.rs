//! Sequences of calls for dots, and the pictures that they show.

use proptest::prelude::*;
use spare_tile_core::dots::font::{Font, Setting};
use spare_tile_core::dots::{own, sprite};
use spare_tile_core::plan::Rig;

use super::{Kind, STEP_MS, Shown, case, quoted};
use crate::firmware::cases::Case;

/// Four modules in a chain, one of which was mounted upside down, so that no rule says where a dot is.
const CHAIN: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "dots"
width = 32
height = 8
[face.gauge.drive]
method = "max7219"
pins = { data = "GP7", clock = "GP6", select = "GP5" }
bus_volts = 5.0
modules = { first = "right", lines_are = "rows", except = [{ part = 2, rotate = 180 }] }
"#;

/// One module, where a dot is the sum of its column and its row.
const MODULE: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "dots"
width = 8
height = 8
[face.gauge.drive]
method = "max7219"
pins = { data = "GP7", clock = "GP6", select = "GP5" }
bus_volts = 5.0
resend = "250ms"
"#;

/// A red and a green light in each dot.
const TWO_COLOURS: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "dots"
width = 8
height = 8
colours = ["red", "green"]
[face.gauge.drive]
method = "ht16k33"
pins = { data = "GP4", clock = "GP5" }
"#;

/// Dots at the pins, which light low.
const SCANNED: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "dots"
width = 8
height = 8
common = "anode"
[face.gauge.drive]
method = "scanned"
scan = "rows"
rows = ["GP0", "GP1", "GP2", "GP3", "GP4", "GP5", "GP6", "GP7"]
columns = ["GP8", "GP9", "GP10", "GP11", "GP12", "GP13", "GP14", "GP15"]
resistor = { ohms = 330, in = "segments" }
refresh_hz = 120
blanking = "10us"
"#;

/// A panel of three colours.
const PANEL: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "dots"
width = 32
height = 16
[face.gauge.drive]
method = "rgb-panel"
panel = "32x16"
pins = { r1 = "GP0", g1 = "GP1", b1 = "GP2", r2 = "GP3", g2 = "GP4", b2 = "GP5", a = "GP6", b = "GP7", c = "GP8", clock = "GP10", latch = "GP11", enable = "GP12" }
scan = "1/8"
clock_hz = 600_000
bus_volts = 5.0
"#;

/// The time of a column of a text that passes, in milliseconds.
const COLUMN_MS: u32 = 60;

const CASES: [Case; 5] = [case(CHAIN), case(MODULE), case(TWO_COLOURS), case(SCANNED), case(PANEL)];

/// The calls of dots.
pub const DOTS: Kind<Call> = Kind {
    name: "dots",
    cases: &CASES,
    calls,
    in_c: Call::in_c,
    in_python: Call::in_python,
    in_rust: Call::in_rust,
    shows: |rig| {
        let grid = rig.faces[0].face.dots().unwrap();
        let font = own::called("small").unwrap();
        let mut wanted = Wanted {
            lights: (1 << grid.channels.count()) - 1,
            dots: vec![vec![0; grid.width]; grid.height],
            font,
        };
        Box::new(move |call| wanted.call(call))
    },
    is_blink: |call| matches!(call, Call::Blink),
};

/// A call of the program.
#[derive(Debug, Clone)]
pub enum Call {
    Clear,
    Dot(i16, i16, u8),
    Row(i16, i16, u8, u8),
    Area(i16, i16, u8, u8, u8),
    Sprite(i16, i16, u8),
    Text(String, i16, i16, u8),
    /// A text, and then a dot at the column that is the number of its characters that are missing.
    Missing(String),
    Number(i32, u8, i16, i16, u8),
    Time(u8, u8, bool, i16, i16, u8),
    Test,
    Scroll(String, i16, u8),
    Blink,
}

/// The rows of the sprite: eleven columns, of which the last five are in a byte of their own.
const SPRITE: [u16; 3] = [0b1010_0000_1110_0000, 0b0101_1111_0010_0000, 0b1000_0001_1010_0000];

impl Call {
    /// In C.
    fn in_c(&self) -> String {
        match self {
            Self::Clear => "dots_clear(&gauge);".to_owned(),
            Self::Dot(x, y, colour) => format!("dots_dot(&gauge, {x}, {y}, {colour});"),
            Self::Row(x, y, bits, colour) => format!("dots_row(&gauge, {x}, {y}, {bits}, {colour});"),
            Self::Area(x, y, width, height, colour) => {
                format!("dots_area(&gauge, {x}, {y}, {width}, {height}, {colour});")
            }
            Self::Sprite(x, y, colour) => {
                let bytes = SPRITE.map(|row| format!("{}, {}", row >> 8, row & 0xFF)).join(", ");
                format!(
                    "{{ static const uint8_t rows[] FLASH = {{ {bytes} }}; \
                     dots_sprite(&gauge, rows, 11, 3, {x}, {y}, {colour}); }}"
                )
            }
            Self::Text(words, x, y, colour) => {
                format!("dots_text(&gauge, &font_small, {}, {x}, {y}, {colour});", quoted(words))
            }
            Self::Missing(words) => {
                format!("dots_dot(&gauge, dots_text(&gauge, &font_small, {}, 0, 0, 1), 7, 1);", quoted(words))
            }
            // C has no literal of the lowest number.
            Self::Number(value, places, right, y, colour) => {
                format!(
                    "dots_number(&gauge, &font_small, {} - 1, {places}, {right}, {y}, {colour});",
                    value + 1
                )
            }
            Self::Time(hours, minutes, colon, x, y, colour) => {
                format!("dots_time(&gauge, &font_small, {hours}, {minutes}, {colon}, {x}, {y}, {colour});")
            }
            Self::Test => "dots_test(&gauge);".to_owned(),
            Self::Scroll(words, y, colour) => {
                format!("dots_scroll(&gauge, &font_small, {}, {COLUMN_MS}, 1, {y}, {colour});", quoted(words))
            }
            Self::Blink => format!("dots_blink(&gauge, {STEP_MS});"),
        }
    }

    /// In Python.
    fn in_python(&self) -> String {
        let truth = |is_true: bool| if is_true { "True" } else { "False" };
        match self {
            Self::Clear => "face.clear()".to_owned(),
            Self::Dot(x, y, colour) => format!("face.dot({x}, {y}, {colour})"),
            Self::Row(x, y, bits, colour) => format!("face.row({x}, {y}, {bits}, {colour})"),
            Self::Area(x, y, width, height, colour) => {
                format!("face.area({x}, {y}, {width}, {height}, {colour})")
            }
            Self::Sprite(x, y, colour) => {
                let bytes = SPRITE.map(|row| format!("{}, {}", row >> 8, row & 0xFF)).join(", ");
                format!("face.sprite(bytes(({bytes})), 11, 3, {x}, {y}, {colour})")
            }
            Self::Text(words, x, y, colour) => {
                format!("face.text(font, {}, {x}, {y}, {colour})", quoted(words))
            }
            Self::Missing(words) => {
                format!("face.dot(face.text(font, {}, 0, 0, 1), 7, 1)", quoted(words))
            }
            Self::Number(value, places, right, y, colour) => {
                format!("face.number(font, {value}, {places}, {right}, {y}, {colour})")
            }
            Self::Time(hours, minutes, colon, x, y, colour) => {
                format!("face.time(font, {hours}, {minutes}, {}, {x}, {y}, {colour})", truth(*colon))
            }
            Self::Test => "face.test()".to_owned(),
            Self::Scroll(words, y, colour) => {
                format!("face.scroll(font, {}, {COLUMN_MS}, 1, {y}, {colour})", quoted(words))
            }
            Self::Blink => format!("face.blink({STEP_MS})"),
        }
    }
}

/// The name of a colour in Rust.
fn colour_in_rust(colour: u8) -> &'static str {
    const NAMES: [&str; 8] = [
        "Colour::Dark",
        "Colour::Red",
        "Colour::Green",
        "Colour::Yellow",
        "Colour::Blue",
        "Colour::Magenta",
        "Colour::Cyan",
        "Colour::White",
    ];
    NAMES[usize::from(colour)]
}

impl Call {
    /// In Rust.
    fn in_rust(&self) -> String {
        let name = |colour: &u8| colour_in_rust(*colour);
        match self {
            Self::Clear => "face.clear()".to_owned(),
            Self::Dot(x, y, colour) => format!("face.dot({x}, {y}, {})", name(colour)),
            Self::Row(x, y, bits, colour) => format!("face.row({x}, {y}, {bits}, {})", name(colour)),
            Self::Area(x, y, width, height, colour) => {
                format!("face.area({x}, {y}, {width}, {height}, {})", name(colour))
            }
            Self::Sprite(x, y, colour) => {
                let bytes = SPRITE.map(|row| format!("{}, {}", row >> 8, row & 0xFF)).join(", ");
                format!("face.sprite(&[{bytes}], 11, {x}, {y}, {})", name(colour))
            }
            Self::Text(words, x, y, colour) => {
                format!("face.text(&fonts::SMALL, {}, {x}, {y}, {})", quoted(words), name(colour))
            }
            Self::Missing(words) => format!(
                "let missing = face.text(&fonts::SMALL, {}, 0, 0, Colour::Red); face.dot(missing as i32, 7, Colour::Red)",
                quoted(words)
            ),
            Self::Number(value, places, right, y, colour) => {
                format!("face.number(&fonts::SMALL, {value}, {places}, {right}, {y}, {})", name(colour))
            }
            Self::Time(hours, minutes, colon, x, y, colour) => {
                format!("face.time(&fonts::SMALL, {hours}, {minutes}, {colon}, {x}, {y}, {})", name(colour))
            }
            Self::Test => "face.test()".to_owned(),
            Self::Scroll(words, y, colour) => {
                format!(
                    "face.scroll(&fonts::SMALL, {}, {COLUMN_MS}, 1, {y}, {})",
                    quoted(words),
                    name(colour)
                )
            }
            Self::Blink => format!("face.blink({STEP_MS})"),
        }
    }
}

/// The content of a face as the calls want it: the lights of each dot, red in bit 0.
#[derive(Clone)]
struct Wanted {
    lights: u8,
    dots: Vec<Vec<u8>>,
    font: Font,
}

impl Wanted {
    fn dot(&mut self, x: i32, y: i32, colour: u8) {
        let lit = match colour & self.lights {
            0 if colour != 0 => self.lights,
            lit => lit,
        };
        let row = usize::try_from(y).ok().and_then(|y| self.dots.get_mut(y));
        if let Some(dot) = row.and_then(|row| row.get_mut(usize::try_from(x).ok()?)) {
            *dot = lit;
        }
    }

    fn fill(&mut self, colour: u8) {
        let lit = colour & self.lights;
        self.dots.iter_mut().for_each(|row| row.fill(lit));
    }

    fn text(&mut self, words: &str, x: i32, y: i32, colour: u8) {
        let line = self.font.set(words, Setting::default()).unwrap();
        line.lit().for_each(|(column, row)| self.dot(x + column as i32, y + row as i32, colour));
    }

    /// Words of which the font has each: all others are question marks.
    fn known(&self, words: &str) -> (String, usize) {
        let known = |letter: char| if self.font.glyph(letter).is_some() { letter } else { '?' };
        let missing = words.chars().filter(|letter| self.font.glyph(*letter).is_none()).count();
        (words.chars().map(known).collect(), missing)
    }

    fn width(&self, words: &str) -> i32 {
        let advance = |letter: char| self.font.glyph(letter).unwrap().advance as i32;
        // A dark column stands behind each character.
        (words.chars().map(advance).sum::<i32>() - 1).max(0)
    }

    fn call(&mut self, call: &Call) -> Shown {
        match call {
            Call::Clear => self.fill(0),
            Call::Test => self.fill(7),
            Call::Dot(x, y, colour) => self.dot((*x).into(), (*y).into(), *colour),
            Call::Row(x, y, bits, colour) => {
                for place in (0..8).filter(|place| bits >> (7 - place) & 1 == 1) {
                    self.dot(i32::from(*x) + place, (*y).into(), *colour);
                }
            }
            Call::Area(x, y, width, height, colour) => {
                for (column, row) in spare_tile_core::dots::places((*width).into(), (*height).into()) {
                    self.dot(i32::from(*x) + column as i32, i32::from(*y) + row as i32, *colour);
                }
            }
            Call::Sprite(x, y, colour) => {
                for (row, bits) in SPRITE.iter().enumerate() {
                    for column in (0..16).filter(|column| bits >> (15 - column) & 1 == 1) {
                        self.dot(i32::from(*x) + column, i32::from(*y) + row as i32, *colour);
                    }
                }
            }
            Call::Text(words, x, y, colour) => self.text(words, (*x).into(), (*y).into(), *colour),
            Call::Missing(words) => {
                let (known, missing) = self.known(words);
                self.text(&known, 0, 0, 1);
                self.dot(missing as i32, 7, 1);
            }
            Call::Number(value, places, right, y, colour) => {
                let sign = if *value < 0 { "-" } else { "" };
                let figures = format!("{:0width$}", value.unsigned_abs(), width = usize::from(*places) + 1);
                let (whole, part) = figures.split_at(figures.len() - usize::from(*places));
                let point = if part.is_empty() { "" } else { "." };
                let written = format!("{sign}{whole}{point}{part}");
                let right = i32::from(*right);
                let words = if self.width(&written) <= right { &written } else { "-" };
                self.text(words, right - self.width(words), (*y).into(), *colour);
            }
            Call::Time(hours, minutes, colon, x, y, colour) => {
                let (x, y) = (i32::from(*x), i32::from(*y));
                let before = format!("{hours:02}");
                self.text(&before, x, y, *colour);
                let middle = x + self.width(&before) + 1;
                if *colon {
                    self.text(":", middle, y, *colour);
                }
                self.text(&format!("{minutes:02}"), middle + self.width(":") + 1, y, *colour);
            }
            Call::Scroll(words, y, colour) => {
                let room = self.dots[0].len() as i32;
                // After the last step it has left.
                let last = room + self.width(words);
                let before = self.clone();
                let show = |at: i32| {
                    *self = before.clone();
                    let rows = i32::from(*y)..i32::from(*y) + self.font.height() as i32;
                    rows.for_each(|row| (0..room).for_each(|x| self.dot(x, row, 0)));
                    self.text(words, room - at, (*y).into(), *colour);
                    (at as u32 * COLUMN_MS, self.picture())
                };
                return (0..=last).map(show).collect();
            }
            Call::Blink => {
                let mut dark = self.clone();
                dark.fill(0);
                let of_half =
                    |half: u32| if half.is_multiple_of(2) { self.picture() } else { dark.picture() };
                return (0..4).map(|half| (half * STEP_MS, of_half(half))).collect();
            }
        }
        vec![(0, self.picture())]
    }

    /// The dots in the words of the chain.
    fn picture(&self) -> String {
        let letter = |lit: &u8| match (self.lights, lit) {
            (_, 0) => '.',
            (1, _) => '#',
            (_, lit) => sprite::letter([0, 1, 2].map(|light| if lit >> light & 1 == 1 { 255 } else { 0 })),
        };
        let row = |row: &Vec<u8>| format!("\"{}\"", row.iter().map(letter).collect::<String>());
        format!("1  {} ", self.dots.iter().map(row).collect::<Vec<_>>().join("\n"))
    }
}

fn calls(rig: &Rig) -> BoxedStrategy<Vec<Call>> {
    let grid = rig.faces[0].face.dots().unwrap();
    let (across, down) = (grid.width as i16, grid.height as i16);
    let x = -9..across + 4;
    let y = -9..down + 4;
    let letter = (b' '..=b'~').prop_map(char::from);
    let words =
        prop::collection::vec(letter, 0..6).prop_map(|letters| letters.into_iter().collect::<String>());
    let odd = prop::collection::vec(prop::sample::select(vec!['A', '\u{7}', '4']), 0..6)
        .prop_map(|letters| letters.into_iter().collect::<String>());
    let value = prop_oneof![3 => -99..999_i32, 2 => any::<i32>().prop_filter("C", |value| *value < i32::MAX)];
    let colour = 0..8_u8;
    let lit = 1..8_u8;
    let few = prop::collection::vec(prop::sample::select(vec!['T', 'e', '4', ' ']), 0..3)
        .prop_map(|letters| letters.into_iter().collect::<String>());
    let call = prop_oneof![
        2 => Just(Call::Clear),
        3 => (x.clone(), y.clone(), colour.clone()).prop_map(|(x, y, colour)| Call::Dot(x, y, colour)),
        2 => (x.clone(), y.clone(), any::<u8>(), colour.clone())
            .prop_map(|(x, y, bits, colour)| Call::Row(x, y, bits, colour)),
        2 => (x.clone(), y.clone(), 0..12_u8, 0..9_u8, colour.clone())
            .prop_map(|(x, y, width, height, colour)| Call::Area(x, y, width, height, colour)),
        2 => (x.clone(), y.clone(), colour.clone()).prop_map(|(x, y, colour)| Call::Sprite(x, y, colour)),
        4 => (words, x.clone(), y.clone(), colour.clone())
            .prop_map(|(words, x, y, colour)| Call::Text(words, x, y, colour)),
        1 => odd.prop_map(Call::Missing),
        3 => (value, 0..4_u8, 0..across + 1, y.clone(), lit.clone())
            .prop_map(|(value, places, right, y, colour)| Call::Number(value, places, right, y, colour)),
        2 => (0..24_u8, 0..60_u8, any::<bool>(), x, y.clone(), lit.clone())
            .prop_map(|(hours, minutes, colon, x, y, colour)| Call::Time(hours, minutes, colon, x, y, colour)),
        1 => Just(Call::Test),
        1 => (few, y, lit).prop_map(|(words, y, colour)| Call::Scroll(words, y, colour)),
        1 => Just(Call::Blink),
    ];
    prop::collection::vec(call, 4..30).boxed()
}
