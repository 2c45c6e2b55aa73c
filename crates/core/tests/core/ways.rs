//! Other methods for a face: every offered one can be built, and has the stated needs.

use spare_tile_core::part::{method, methods};
use spare_tile_core::plan::{Rig, scan};
use spare_tile_core::rig::{Finding, Severity};

/// The request: kind, names of the segments, digits and common side.
struct Wanted {
    kind: &'static str,
    segments: Vec<&'static str>,
    digits: usize,
    common: &'static str,
}

impl Wanted {
    fn rig(&self, method: &str, drive: &str) -> String {
        let Self { kind, digits, common, .. } = self;
        format!(
            "[face.sign]\nkind = \"{kind}\"\ndigits = {digits}\ncommon = \"{common}\"\n[face.sign.drive]\n\
             method = \"{method}\"\n{drive}\n"
        )
    }

    /// The segments on outputs from the first on, and the digits on those after them, as one would write it.
    fn scanned_on(&self, output: impl Fn(usize) -> String) -> String {
        let lines = self.segments.len();
        let digits: Vec<_> = (lines..lines + self.digits).map(&output).collect();
        let digits =
            if self.digits > 1 { format!("digits = [{}]\n", digits.join(", ")) } else { String::new() };
        format!("segments = {}\n{digits}", self.table(0, output))
    }

    fn table(&self, first: usize, output: impl Fn(usize) -> String) -> String {
        let wires = self.segments.iter().enumerate();
        let wires: Vec<_> = wires.map(|(at, name)| format!("{name} = {}", output(first + at))).collect();
        format!("{{ {} }}", wires.join(", "))
    }

    /// The drive of a method with so many parts.
    fn drive(&self, name: &str, parts: usize) -> String {
        let pin = |pin: usize| (pin + 40).to_string();
        match name {
            "static" => {
                let tables = (0..self.digits).map(|digit| self.table(digit * self.segments.len(), pin));
                format!("segments = [{}]", tables.collect::<Vec<_>>().join(", "))
            }
            "scanned" => self.scanned_on(pin),
            "latched" => {
                let latches: Vec<_> =
                    (0..parts).map(|latch| format!("{{ latch_enable = {latch} }}")).collect();
                let wires = self.scanned_on(|output| format!("\"latch{}.Q{}\"", output / 8, output % 8));
                format!(
                    "data = [20, 21, 22, 23, 24, 25, 26, 27]\nlatches = [{}]\n{wires}",
                    latches.join(", ")
                )
            }
            "shifted" => {
                let stage = |output: usize| char::from(b'A' + (output % 8) as u8);
                let wires = self.scanned_on(|output| format!("\"part{}.Q{}\"", output / 8, stage(output)));
                format!("pins = {{ data = 1, clock = 2, latch = 3 }}\n{wires}")
            }
            "expander" => {
                let addresses: Vec<_> = (0..parts).map(|part| (0x20 + part).to_string()).collect();
                format!(
                    "part = \"mcp23017\"\npins = {{ data = 1, clock = 2 }}\naddresses = [{}]",
                    addresses.join(", ")
                )
            }
            "rgb-panel" => String::new(),
            _ => format!("pins = {}", method(name).unwrap().sample().unwrap().pins()),
        }
    }
}

fn errors(findings: &[Finding]) -> Vec<String> {
    let errors = findings.iter().filter(|finding| finding.severity == Severity::Error);
    errors.map(|finding| finding.trouble.to_string()).collect()
}

#[test]
fn all_that_is_offered_can_be_built_and_nothing_else() {
    let kinds = [
        ("seven-segment", "a b c d e f g dp"),
        ("fourteen-segment", "a b c d e f g1 g2 h i j k l m dp"),
        ("sixteen-segment", "a1 a2 b c d1 d2 e f g1 g2 h i j k l m dp"),
    ];
    let (mut built, mut refused) = (0, 0);
    for (kind, segments) in kinds {
        for digits in [1, 2, 4, 6, 8, 9, 16] {
            for common in ["anode", "cathode"] {
                let segments: Vec<_> = segments.split(' ').collect();
                let wanted = Wanted { kind, segments, digits, common };
                let pins: usize = wanted.segments.len() * digits;
                let own = Rig::read(&wanted.rig("static", &wanted.drive("static", 0))).rig.unwrap();
                let ways = scan::plan(&own, &own.faces[0]).ways;
                assert_eq!(ways.iter().find(|(name, _)| *name == "static").unwrap().1.pins, pins);
                for name in methods().map(|method| method.name()) {
                    let way = ways.iter().find(|(offered, _)| *offered == name);
                    let count = |parts: &str| parts.split(' ').next().unwrap().parse().unwrap_or(0);
                    let parts = way.map_or(digits, |(_, needs)| count(&needs.parts));
                    let source = wanted.rig(name, &wanted.drive(name, parts));
                    let reading = Rig::read(&source);
                    let found = errors(&reading.findings);
                    let Some((_, needs)) = way else {
                        // One digit can be scanned and is better not.
                        assert!(
                            !found.is_empty() || (name, digits) == ("scanned", 1),
                            "not offered:\n{source}"
                        );
                        refused += 1;
                        continue;
                    };
                    assert!(found.is_empty(), "{found:?}\n{source}");
                    let rig = reading.rig.unwrap();
                    let mount = &rig.faces[0];
                    assert_eq!(mount.drive.display().parts(), needs.parts, "{source}");
                    assert_eq!(mount.lines.len(), needs.pins, "{source}");
                    built += 1;
                }
            }
        }
    }
    assert!(built > 200 && refused > 50, "{built} built, {refused} refused");
}

/// The two sides of dots can change places: what is a row of one side is a column of the other.
#[test]
fn dots_of_either_side_suit_a_part_that_sinks_its_digit_lines() {
    let drive = "method = \"max7219\"\npins = { data = 1, clock = 2, select = 3 }\n";
    for common in ["anode", "cathode"] {
        let beacon =
            include_str!("../../../cli/demo/beacon.toml").replace("\"anode\"", &format!("\"{common}\""));
        let beacon = Rig::read(&beacon).rig.unwrap();
        let ways = scan::plan(&beacon, &beacon.faces[0]).ways;
        assert!(ways.iter().any(|(name, _)| *name == "max7219"), "{common}: {ways:?}");
        let source = format!(
            "[face.board]\nkind = \"dots\"\nwidth = 8\nheight = 8\ncommon = \"{common}\"\n[face.board.drive]\n{drive}"
        );
        assert_eq!(errors(&Rig::read(&source).findings), Vec::<String>::new());
    }
}
