//! A drafted rig: its tables with a remark beside a key, as a document and as a text.

use std::collections::BTreeMap;

use super::kinds::{Kind, Size, Way};
use super::{Site, Trial, roles};
use crate::bare::trouble::opposite;
use crate::glyph::Style;
use crate::rig::value::{self, Value};
use crate::rig::{Document, Finding, Pin};
use crate::units::{Ohms, Volts};

/// The meaning of a key, or of a key with a value that begins so, for the comment beside its default.
const MEANINGS: &[(&str, &str)] = &[
    ("supply.volts", "of the display"),
    ("logic_volts", "the high level at the controller's pins"),
    ("light.forward_volts", "by the colour, where the data sheet is not at hand"),
    ("common", "the part drives no other"),
    ("refresh_hz", "how often a second every digit or row has its turn"),
    ("blanking", "how long all is dark before each turn"),
    ("write", "how long the controller takes for each write"),
    ("digits_active", "the level that selects a digit or row"),
    ("digit_switch", "between outputs and digits: npn, pnp, nmos, pmos"),
    ("segment_switch", "between outputs and segments"),
    ("scan = \"1/", "the share of rows that are lit at once: 16S on its back is 1/16"),
    ("scan", "or \"columns\": what is selected in turn"),
    ("segments", "which segment is on which bit, the highest first"),
    ("digits", "from left to right"),
    ("clock_hz", "of the bus"),
    ("bus_volts", "the high level at the part, after any level converter"),
    ("brightness", "the part's step at power-up"),
    ("blink_hz", "0.5, 1 or 2 blink"),
    ("rset_ohms", "the resistor at ISET: most modules carry 10 kilohm"),
    ("digit_0", "where the part's digit line 0 stands"),
    ("first", "which end is fed"),
    ("decode", "or \"code-b\": the part draws the digits itself"),
    ("modules.first", "which end is fed"),
    ("modules.lines_are", "or \"columns\": what the digit lines are"),
    ("modules.rotate", "90, 180 or 270, clockwise"),
    ("modules.flip", "or \"horizontal\", \"vertical\""),
    ("panel", "the size of one upright panel"),
    ("panels.first", "which end is fed, as seen from the front"),
    ("panels.rotate", "90, 180 or 270, clockwise"),
    ("panels.first_row", "or \"bottom\": the row that is fed first"),
    ("panels.serpentine", "true where every other row runs back, on its head"),
    ("colour_order", "or \"rbg\": which colours the lines R, G and B light"),
    ("depth", "bits of each colour, 1 to 8"),
    ("gamma", "light = level ^ gamma"),
    ("column_milliamps", "what a light gets while it is lit"),
    ("sent", "or \"lsb-first\": how bytes go to the serial port"),
    ("output_enable", "how OE is tied"),
    ("clear", "how SRCLR is tied"),
    ("addresses", "of each part"),
    ("latches[0].output_enable", "how OE of the latch is tied"),
];

/// A table of a draft.
pub struct Section {
    /// A remark before its heading.
    about: Option<String>,
    path: Vec<String>,
    keys: Vec<Key>,
}

/// A key of a draft.
struct Key {
    name: &'static str,
    value: Value,
    remark: Option<String>,
    /// True if it is only shown, as a comment, for the person to decide.
    is_open: bool,
}

impl Key {
    fn new(name: &'static str, value: impl Into<Value>) -> Self {
        Self { name, value: value.into(), remark: None, is_open: false }
    }

    fn but(self, remark: impl Into<String>) -> Self {
        Self { remark: Some(remark.into()), ..self }
    }

    fn open(self) -> Self {
        Self { is_open: true, ..self }
    }

    /// The lines of the file.
    fn lines(&self) -> String {
        /// A list of more tables than this has a line for each.
        const MOST_ABREAST: usize = 4;
        let value = match &self.value {
            Value::List(items) if self.name == "addresses" => {
                let address = |value: &Value| match value {
                    Value::Whole(address) => format!("{address:#04x}"),
                    other => other.to_string(),
                };
                let items: Vec<_> = items.iter().map(|item| address(item.get_ref())).collect();
                format!("[{}]", items.join(", "))
            }
            Value::List(items)
                if items.len() > MOST_ABREAST
                    && items.iter().all(|item| item.get_ref().as_table().is_some()) =>
            {
                let items = items.iter().map(|item| format!("    {},\n", item.get_ref()));
                format!("[\n{}]", items.collect::<String>())
            }
            value => value.to_string(),
        };
        let mark = if self.is_open { "# " } else { "" };
        let remark = self.remark.as_ref().map(|remark| format!("   # {remark}")).unwrap_or_default();
        format!("{mark}{} = {value}{remark}\n", self.name)
    }
}

impl Section {
    fn new(path: &[&str], keys: Vec<Key>) -> Self {
        Self { about: None, path: path.iter().map(|key| (*key).to_owned()).collect(), keys }
    }

    /// The keys that are written, not only shown.
    fn written(&self) -> impl Iterator<Item = &Key> {
        self.keys.iter().filter(|key| !key.is_open)
    }
}

/// Adds tables to a document.
pub fn add_to(document: &mut Document, sections: &[Section]) {
    for section in sections {
        let path: Vec<_> = section.path.iter().map(String::as_str).collect();
        for key in section.written() {
            document.set(&[&path[..], &[key.name]].concat(), key.value.clone());
        }
    }
}

/// The controller's table.
pub fn controller(part: Option<&str>, volts: Option<Volts>, amps: Option<f64>) -> Section {
    let part = match part {
        Some(part) => Key::new("part", part),
        None => Key::new("part", "rp2040").but("its part number").open(),
    };
    let supply = volts.map(|volts| {
        let mut supply = value::Table::of([("volts", volts.0)]);
        let Some(amps) = amps else { return Key::new("supply", supply).but("of the display") };
        supply.set("amps", (amps * 10.0).round() / 10.0);
        Key::new("supply", supply).but("of the display: what it takes with everything lit")
    });
    Section::new(&["controller"], [Some(part), supply].into_iter().flatten().collect())
}

/// A pin as a file gives it: a number, or a name.
fn pin(pins: &BTreeMap<String, Pin>, role: &str) -> Value {
    let name = pins.get(role).map_or_else(String::new, ToString::to_string);
    let is_number = !name.is_empty() && name.bytes().all(|byte| byte.is_ascii_digit());
    name.parse::<i64>().ok().filter(|_| is_number).map_or(Value::Text(name), Value::Whole)
}

fn list(pins: &BTreeMap<String, Pin>, what: &str, count: usize) -> Value {
    Value::list((0..count).map(|number| pin(pins, &format!("{what}{number}"))))
}

fn table(pins: &BTreeMap<String, Pin>, roles: &[&str]) -> Value {
    Value::table(roles.iter().map(|role| (*role, pin(pins, role))))
}

/// The face and its drive.
pub(super) fn face(kind: &Kind, size: Size, site: &Site, trial: &Trial) -> [Section; 2] {
    let about = if size == kind.size.0 {
        kind.about.to_owned()
    } else {
        format!("{}; here {}", kind.about, size.words())
    };
    let mut keys = vec![Key::new("kind", kind.kind)];
    match size {
        Size::Digits(digits) => keys.push(Key::new("digits", digits)),
        Size::Dots(width, height) => keys.extend([Key::new("width", width), Key::new("height", height)]),
    }
    if kind.leaves_common_open() {
        let other = opposite(trial.common).name();
        let remark = format!("or \"{other}\": which side of the lights is joined");
        keys.push(Key::new("common", trial.common.name()).but(remark));
    }
    if kind.way != Way::RgbPanel {
        keys.push(Key::new("light", Value::table([("colour", kind.colour)])));
    }
    if kind.way.is_on_module() {
        keys.push(
            Key::new("module", true)
                .but("display and chip on one board; false if you wire the chip yourself"),
        );
    }
    if let Some(package) = package(kind, size) {
        let remark = "how its pins are numbered: check it against the data sheet";
        keys.push(Key::new("package", package).but(remark));
    }
    keys.extend(extras(kind, size));
    let mut drive = drive(kind, size, site);
    if let Some(switch) = trial.switch {
        drive.push(Key::new("digit_switch", switch).but("a transistor for each digit or row"));
    }
    if let Some(Ohms(ohms)) = trial.ohms {
        let ohms = if ohms.fract() == 0.0 { Value::Whole(ohms as i64) } else { Value::Number(ohms) };
        let resistor = Value::table([("ohms", ohms), ("in", "segments".into())]);
        drive.push(Key::new("resistor", resistor).but("the brightest that all limits allow"));
    }
    if trial.converter {
        let remark = "through a level converter, which a part at 5 V needs here";
        drive.push(Key::new("bus_volts", 5.0).but(remark));
    }
    let about = Some(format!("{}.", capitalised(&about)));
    let face = Section { about, ..Section::new(&["face", &site.name], keys) };
    [face, Section::new(&["face", &site.name, "drive"], drive)]
}

fn capitalised(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

/// The usual package of a bare display.
fn package(kind: &Kind, size: Size) -> Option<&'static str> {
    match (kind.way, size) {
        (Way::Static | Way::Latched | Way::Shifted | Way::Expander, Size::Digits(_))
            if kind.kind == "seven-segment" =>
        {
            Some("single-10")
        }
        (Way::Scanned, Size::Digits(4)) => Some("quad-12"),
        (Way::Scanned, Size::Dots(8, 8)) => Some("dots-16"),
        _ => None,
    }
}

/// Colons, lamps and buttons of modules that have them.
fn extras(kind: &Kind, size: Size) -> Vec<Key> {
    let named = |name: String, node: String| Value::table([("name", name), ("node", node)]);
    let colon = |node: &str| Value::list([Value::table([("after", Value::Whole(2)), ("node", node.into())])]);
    match (kind.way, size) {
        (Way::Tm1637, Size::Digits(4)) => {
            vec![Key::new("colons", colon("grid2.seg8")).but("on the point of the second digit")]
        }
        (Way::Ht16k33, Size::Digits(4)) if kind.kind == "seven-segment" => {
            vec![Key::new("colons", colon("com4.row1")).but("where the module has one").open()]
        }
        (Way::Tm1638, _) => {
            let lamps = (1..=8).map(|lamp| named(format!("lamp{lamp}"), format!("grid{lamp}.seg9")));
            let button = |button: usize| {
                named(format!("button{}", button + 1), format!("byte{}.bit{}", button % 4, button / 4 * 4))
            };
            vec![Key::new("lamps", Value::list(lamps)), Key::new("buttons", Value::list((0..8).map(button)))]
        }
        _ => Vec::new(),
    }
}

fn drive(kind: &Kind, size: Size, site: &Site) -> Vec<Key> {
    let segments = Style::Seven.segment_names();
    let pins = &site.pins;
    let addresses = || Key::new("addresses", Value::list(site.addresses.iter().copied()));
    let is_usual = kind.way.addresses().is_some_and(|usual| usual.zip(&site.addresses).all(|(a, b)| a == *b));
    let mut keys = vec![Key::new("method", kind.way.method())];
    keys.extend(match (kind.way, size) {
        (Way::Static, _) => vec![Key::new("segments", table(pins, segments))],
        (Way::Scanned, Size::Digits(digits)) => vec![
            Key::new("segments", table(pins, segments)),
            Key::new("digits", list(pins, "digit", digits)).but("from left to right"),
        ],
        (Way::Scanned, Size::Dots(width, height)) => vec![
            Key::new("rows", list(pins, "row", height)).but("from the top"),
            Key::new("columns", list(pins, "column", width)).but("from the left"),
        ],
        (Way::Latched, Size::Digits(digits)) => {
            let latch = |latch| Value::table([("latch_enable", pin(pins, &format!("latch{latch}")))]);
            vec![
                Key::new("data", list(pins, "d", 8)).but("D0 to D7"),
                Key::new("latches", Value::list((0..digits).map(latch))),
            ]
        }
        (Way::Latched, Size::Dots(..)) => Vec::new(),
        (Way::Shifted, _) => vec![Key::new("pins", table(pins, &["data", "clock", "latch"]))],
        (Way::Max7219, size) => {
            let mut keys = vec![Key::new("pins", table(pins, &["data", "clock", "select"]))];
            // With few digits each is lit for a larger share of the time (data sheet, selecting RSET).
            if let Size::Digits(digits @ 1..=3) = size {
                let ohms: i64 = [68_000, 33_000, 18_000][digits - 1];
                let remark = "for so few digits; most modules carry 10 kilohm";
                keys.push(Key::new("rset_ohms", ohms).but(remark));
            }
            keys
        }
        (Way::Tm1638, _) => vec![Key::new("pins", table(pins, &["data", "clock", "strobe"]))],
        (Way::Expander, _) => {
            vec![Key::new("part", "mcp23017"), Key::new("pins", table(pins, &["data", "clock"])), addresses()]
        }
        (Way::Ht16k33, _) if !is_usual => {
            vec![Key::new("pins", table(pins, &["data", "clock"])), addresses()]
        }
        (Way::Tm1637 | Way::Ht16k33, _) => vec![Key::new("pins", table(pins, &["data", "clock"]))],
        (Way::RgbPanel, _) => {
            let roles = roles(kind, size);
            let pins = Key::new("pins", table(pins, &roles.iter().map(String::as_str).collect::<Vec<_>>()));
            let clock = Key::new("clock_hz", Value::Whole(1_500_000))
                .but("what a program can do that sets pins; a unit of its own does more");
            // A longer chain is not fast enough with that.
            let is_one_panel = matches!(size, Size::Dots(width, height) if width * height <= 64 * 32);
            [Some(pins), is_one_panel.then_some(clock)].into_iter().flatten().collect()
        }
    });
    keys
}

/// A whole rig with what was left open as comments.
pub fn rig(sections: &[Section], findings: &[Finding]) -> String {
    format!(
        "# Keys that are left out have the values in their comments. Check it: spare-tile rig check\n\n{}",
        commented(sections, findings)
    )
}

/// The tables with every key that was left open as a comment with its default, below those of its table.
pub fn commented(sections: &[Section], findings: &[Finding]) -> String {
    let paths: Vec<String> = sections.iter().map(|section| section.path.join(".")).collect();
    let mut comments: BTreeMap<usize, String> = BTreeMap::new();
    for (key, value) in findings.iter().filter_map(|finding| finding.trouble.assumed()) {
        // The longest path that the key begins with is its table's.
        let rest = |place: usize| key.strip_prefix(paths[place].as_str())?.strip_prefix('.');
        let of_key = (0..paths.len()).filter(|place| rest(*place).is_some());
        let Some(place) = of_key.max_by_key(|place| paths[*place].len()) else { continue };
        let name = rest(place).unwrap_or_default();
        // A value inside of one that is written cannot stand alone.
        let first = name.split(['.', '[']).next();
        let is_written = || sections.iter().flat_map(Section::written).any(|key| Some(key.name) == first);
        if name.contains(['.', '[']) && is_written() {
            continue;
        }
        let line = format!("{name} = {value}");
        let is_meant =
            |(known, _): &&(&str, &str)| *known == name || known.contains('=') && line.starts_with(known);
        let meaning = MEANINGS.iter().find(is_meant).map(|(_, meaning)| format!("   # {meaning}"));
        let comment = format!("# {line}{}\n", meaning.unwrap_or_default());
        comments.entry(place).or_default().push_str(&comment);
    }
    let tables = sections.iter().enumerate().map(|(place, section)| {
        let path: Vec<_> = section.path.iter().map(|key| value::Key(key).to_string()).collect();
        let about = section.about.as_ref().map(|about| format!("# {about}\n")).unwrap_or_default();
        let keys: String = section.keys.iter().map(Key::lines).collect();
        format!("{about}[{}]\n{keys}{}", path.join("."), comments.remove(&place).unwrap_or_default())
    });
    tables.collect::<Vec<_>>().join("\n")
}

impl Way {
    /// The method of a rig.
    const fn method(self) -> &'static str {
        match self {
            Self::Static => "static",
            Self::Scanned => "scanned",
            Self::Latched => "latched",
            Self::Shifted => "shifted",
            Self::Expander => "expander",
            Self::Max7219 => "max7219",
            Self::Tm1637 => "tm1637",
            Self::Tm1638 => "tm1638",
            Self::Ht16k33 => "ht16k33",
            Self::RgbPanel => "rgb-panel",
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::draft::kinds::KINDS;
    use crate::glyph::Common;

    #[test]
    fn the_text_says_what_the_document_says() {
        for kind in KINDS {
            let size = kind.size.0;
            let numbered = roles(kind, size).into_iter().zip(2..);
            let pins = numbered.map(|(role, pin)| (role, Pin::parse(&i32::to_string(&pin)).unwrap()));
            let addresses = kind.way.addresses().into_iter().flatten().skip(1).take(kind.chips(size));
            let site =
                Site { name: "the landing".to_owned(), pins: pins.collect(), addresses: addresses.collect() };
            let trial = Trial {
                supply: Some(Volts(3.3)),
                common: Common::Anode,
                switch: Some("pnp"),
                ohms: Some(Ohms(8.2)),
                converter: true,
            };
            let mut sections = vec![controller(Some("rp2040"), trial.supply, Some(2.04))];
            sections.extend(face(kind, size, &site, &trial));
            let mut document = Document::default();
            add_to(&mut document, &sections);
            assert_eq!(Document::read(&rig(&sections, &[])).unwrap(), document, "{}", kind.name);
        }
    }
}
