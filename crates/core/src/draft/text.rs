//! The text of a drafted rig.

use std::collections::BTreeMap;
use std::fmt::Write;

use super::kinds::{Kind, Size, Way};
use super::{Site, Trial, roles};
use crate::bare::trouble::opposite;
use crate::glyph::Style;
use crate::rig::{Finding, Pin};
use crate::units::Volts;

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

/// The controller's table.
pub fn controller(part: Option<&str>, volts: Option<Volts>, amps: Option<f64>) -> String {
    let part = part.map_or_else(
        || "# part = \"rp2040\"   # its part number\n".to_owned(),
        |part| format!("part = \"{part}\"\n"),
    );
    let volts = volts.map(|volts| format!("{:?}", volts.0));
    let supply = match (volts, amps) {
        (Some(volts), Some(amps)) => {
            format!(
                "supply = {{ volts = {volts}, amps = {amps:.1} }}   # of the display: what it takes with everything lit\n"
            )
        }
        (Some(volts), None) => format!("supply = {{ volts = {volts} }}   # of the display\n"),
        (None, _) => String::new(),
    };
    format!("[controller]\n{part}{supply}\n")
}

/// A pin as it is written in a file: a number, or a name in quotes.
fn pin(pins: &BTreeMap<String, Pin>, role: &str) -> String {
    let name = pins.get(role).map_or_else(String::new, ToString::to_string);
    if name.bytes().all(|byte| byte.is_ascii_digit()) { name } else { format!("\"{name}\"") }
}

fn list(pins: &BTreeMap<String, Pin>, what: &str, count: usize) -> String {
    let names: Vec<_> = (0..count).map(|number| pin(pins, &format!("{what}{number}"))).collect();
    format!("[{}]", names.join(", "))
}

fn table(pins: &BTreeMap<String, Pin>, roles: &[&str]) -> String {
    let wires: Vec<_> = roles.iter().map(|role| format!("{role} = {}", pin(pins, role))).collect();
    format!("{{ {} }}", wires.join(", "))
}

/// The face and its drive.
pub(super) fn face(kind: &Kind, size: Size, site: &Site, trial: &Trial) -> String {
    let mut text = String::new();
    let name = heading(&site.name);
    // Writing to a string does not fail.
    let about = if size == kind.size.0 {
        kind.about.to_owned()
    } else {
        format!("{}; here {}", kind.about, size.words())
    };
    let _ = writeln!(text, "# {}.\n[face.{name}]\nkind = \"{}\"", capitalised(&about), kind.kind);
    let _ = match size {
        Size::Digits(digits) => writeln!(text, "digits = {digits}"),
        Size::Dots(width, height) => writeln!(text, "width = {width}\nheight = {height}"),
    };
    if kind.common.is_none() && !(kind.way == Way::Max7219) {
        let _ = writeln!(
            text,
            "common = \"{}\"   # or \"{}\": which side of the lights is joined",
            trial.common.name(),
            opposite(trial.common).name()
        );
    }
    if kind.way != Way::RgbPanel {
        let _ = writeln!(text, "light = {{ colour = \"{}\" }}", kind.colour);
    }
    if let Some(package) = package(kind, size) {
        let _ = writeln!(
            text,
            "package = \"{package}\"   # how its pins are numbered: check it against the data sheet"
        );
    }
    extras(kind, size, &mut text);
    let _ = writeln!(text, "\n[face.{name}.drive]\nmethod = \"{}\"", kind.way.method());
    drive(kind, size, site, &mut text);
    if let Some(switch) = trial.switch {
        let _ = writeln!(text, "digit_switch = \"{switch}\"   # a transistor for each digit or row");
    }
    if let Some(ohms) = trial.ohms {
        let _ = writeln!(
            text,
            "resistor = {{ ohms = {}, in = \"segments\" }}   # the brightest that all limits allow",
            ohms.0
        );
    }
    if trial.converter {
        let _ =
            writeln!(text, "bus_volts = 5.0   # through a level converter, which a part at 5 V needs here");
    }
    text
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

/// Colons, lamps and keys of modules that have them.
fn extras(kind: &Kind, size: Size, text: &mut String) {
    let _ = match (kind.way, size) {
        (Way::Tm1637, Size::Digits(4)) => {
            writeln!(
                text,
                "colons = [{{ after = 2, node = \"grid2.seg8\" }}]   # on the point of the second digit"
            )
        }
        (Way::Ht16k33, Size::Digits(4)) if kind.kind == "seven-segment" => {
            writeln!(text, "# colons = [{{ after = 2, node = \"com4.row1\" }}]   # where the module has one")
        }
        (Way::Tm1638, _) => {
            let lamps: Vec<_> = (1..=8)
                .map(|lamp| format!("    {{ name = \"lamp{lamp}\", node = \"grid{lamp}.seg9\" }},\n"))
                .collect();
            let keys = (0..8).map(|key| {
                format!(
                    "    {{ name = \"button{}\", node = \"byte{}.bit{}\" }},\n",
                    key + 1,
                    key % 4,
                    key / 4 * 4
                )
            });
            writeln!(text, "lamps = [\n{}]\nbuttons = [\n{}]", lamps.concat(), keys.collect::<String>())
        }
        _ => Ok(()),
    };
}

fn drive(kind: &Kind, size: Size, site: &Site, text: &mut String) {
    let segments = Style::Seven.segment_names();
    let pins = &site.pins;
    let addresses: Vec<_> = site.addresses.iter().map(|address| format!("{address:#04x}")).collect();
    let addresses = addresses.join(", ");
    let is_usual = kind.way.addresses().is_some_and(|usual| usual.zip(&site.addresses).all(|(a, b)| a == *b));
    let _ = match (kind.way, size) {
        (Way::Static, _) => writeln!(text, "segments = {}", table(pins, segments)),
        (Way::Scanned, Size::Digits(digits)) => {
            writeln!(
                text,
                "segments = {}\ndigits = {}   # from left to right",
                table(pins, segments),
                list(pins, "digit", digits)
            )
        }
        (Way::Scanned, Size::Dots(width, height)) => {
            writeln!(
                text,
                "rows = {}      # from the top\ncolumns = {}   # from the left",
                list(pins, "row", height),
                list(pins, "column", width)
            )
        }
        (Way::Latched, Size::Digits(digits)) => {
            let latches: Vec<_> = (0..digits)
                .map(|latch| format!("{{ latch_enable = {} }}", pin(pins, &format!("latch{latch}"))))
                .collect();
            writeln!(text, "data = {}   # D0 to D7\nlatches = [{}]", list(pins, "d", 8), latches.join(", "))
        }
        (Way::Shifted, _) => writeln!(text, "pins = {}", table(pins, &["data", "clock", "latch"])),
        (Way::Max7219, size) => {
            let _ = writeln!(text, "pins = {}", table(pins, &["data", "clock", "select"]));
            // With few digits each is lit for a larger share of the time (data sheet, selecting RSET).
            match size {
                Size::Digits(digits @ 1..=3) => {
                    let ohms = [68_000, 33_000, 18_000][digits - 1];
                    writeln!(text, "rset_ohms = {ohms}   # for so few digits; most modules carry 10 kilohm")
                }
                _ => Ok(()),
            }
        }
        (Way::Tm1638, _) => writeln!(text, "pins = {}", table(pins, &["data", "clock", "strobe"])),
        (Way::Expander, _) => {
            let pins = table(pins, &["data", "clock"]);
            writeln!(text, "part = \"mcp23017\"\npins = {pins}\naddresses = [{addresses}]")
        }
        (Way::Ht16k33, _) if !is_usual => {
            writeln!(text, "pins = {}\naddresses = [{addresses}]", table(pins, &["data", "clock"]))
        }
        (Way::Tm1637 | Way::Ht16k33, _) => writeln!(text, "pins = {}", table(pins, &["data", "clock"])),
        (Way::RgbPanel, _) => {
            let roles = roles(kind, size);
            writeln!(text, "pins = {}", table(pins, &roles.iter().map(String::as_str).collect::<Vec<_>>()))
        }
        (Way::Latched, Size::Dots(..)) => Ok(()),
    };
}

/// A name as it is written in a heading: bare if TOML allows it, otherwise in quotes.
pub fn heading(name: &str) -> String {
    let is_bare = name.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"-_".contains(&byte));
    if is_bare { name.to_owned() } else { format!("\"{name}\"") }
}

/// A whole rig with what was left open as comments.
pub fn rig(source: &str, findings: &[Finding]) -> String {
    format!(
        "# Keys that are left out have the values in their comments. Check it: spare-tile rig check\n\n{}",
        commented(source, findings)
    )
}

/// The tables with every key that was left open as a comment with its default, below those of its table.
pub fn commented(source: &str, findings: &[Finding]) -> String {
    let mut comments: BTreeMap<&str, Vec<String>> = BTreeMap::new();
    // A name in quotes stands without them in the keys.
    let headings: Vec<String> = source
        .lines()
        .filter_map(|line| Some(line.strip_prefix('[')?.strip_suffix(']')?.replace('"', "")))
        .collect();
    for (key, value) in findings.iter().filter_map(|finding| finding.trouble.assumed()) {
        // The longest heading that the key begins with is its table.
        let of_key =
            |heading: &&String| key.strip_prefix(heading.as_str()).is_some_and(|rest| rest.starts_with('.'));
        let Some(heading) = headings.iter().filter(of_key).max_by_key(|heading| heading.len()) else {
            continue;
        };
        let name = &key[heading.len() + 1..];
        // A value inside of one that is written cannot stand alone.
        let is_written = |line: &str| {
            name.split(['.', '[']).next().is_some_and(|first| line.starts_with(&format!("{first} =")))
        };
        if name.contains(['.', '[']) && source.lines().any(is_written) {
            continue;
        }
        let line = format!("{name} = {value}");
        let is_meant =
            |(known, _): &&(&str, &str)| *known == name || known.contains('=') && line.starts_with(known);
        let meaning = MEANINGS.iter().find(is_meant).map_or("", |(_, meaning)| meaning);
        let comment =
            if meaning.is_empty() { format!("# {line}") } else { format!("# {line}   # {meaning}") };
        comments.entry(heading).or_default().push(comment);
    }
    let mut text = String::new();
    let mut table = String::new();
    let mut pending: Vec<&str> = Vec::new();
    for line in source.lines().chain([""]) {
        let heading = line.strip_prefix('[').and_then(|line| line.strip_suffix(']'));
        // Blank lines and comments before a heading belong to it.
        if line.is_empty() || line.starts_with("# ") && !line.contains(" = ") {
            pending.push(line);
            continue;
        }
        if let Some(heading) = heading {
            end_table(&mut text, comments.remove(table.as_str()));
            table = heading.replace('"', "");
        }
        for line in pending.drain(..) {
            text.push_str(line);
            text.push('\n');
        }
        text.push_str(line);
        text.push('\n');
    }
    end_table(&mut text, comments.remove(table.as_str()));
    text
}

fn end_table(text: &mut String, comments: Option<Vec<String>>) {
    for comment in comments.iter().flatten() {
        text.push_str(comment);
        text.push('\n');
    }
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
