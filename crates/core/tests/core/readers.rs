//! Every reader against hostile input: it answers with the place, and anything that it accepts can be
//! used to the end.

use proptest::prelude::*;
use proptest::sample::select;
use spare_tile_core::board::Board;
use spare_tile_core::capture::csv::Samples;
use spare_tile_core::capture::read::Dump;
use spare_tile_core::capture::{Change, MAX_AT_ONCE, ReadError, Reader};
use spare_tile_core::content::Canvas;
use spare_tile_core::content::dots::Dots;
use spare_tile_core::content::number::Decimal;
use spare_tile_core::content::text::Align;
use spare_tile_core::glyph::literals::{self, BareBase};
use spare_tile_core::glyph::{BitOrder, Style};
use spare_tile_core::plan::{Rig, budget, scan, wires};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::play::stall::Stall;
use spare_tile_core::rig::{Finding, Severity, glyphs};
use spare_tile_core::units::{Hertz, Nanos, parse_duration};

use crate::common::{LANDING, frame, rig};

const CAPTURES: [&str; 2] = [
    include_str!("../../../cli/demo/captures/gauge.vcd"),
    include_str!("../../../cli/demo/captures/clock.vcd"),
];
const SAMPLES: &str = include_str!("../../../cli/demo/captures/desk.csv");
/// The text that is put in place of a word, or between two.
const WORDS: [&str; 40] = [
    "0",
    "1",
    "-1",
    "7",
    "8",
    "65",
    "256",
    "4294967296",
    "18446744073709551616",
    "1e308",
    "-0.0",
    "nan",
    "inf",
    "true",
    "\"\"",
    "\"low\"",
    "\"high\"",
    "\"open\"",
    "\"npn\"",
    "\"pnp\"",
    "\"cathode\"",
    "\"anode\"",
    "\"scanned\"",
    "\"dots\"",
    "\"sixteen-segment\"",
    "\"GP2\"",
    "\"P1.0\"",
    "\"part1.QA\"",
    "\"grid1.seg1\"",
    "\"digits\"",
    "[]",
    "{}",
    "\"1us\"",
    "\"\\u0007\"",
    "\n",
    "=",
    "[face.x]",
    "\u{202e}",
    "\u{e9}",
    "$end",
];

/// A change to a text: at which share of it, how much goes, and what comes.
type Edit = (f64, usize, String);

fn edits() -> impl Strategy<Value = Vec<Edit>> {
    let comes =
        prop_oneof![select(WORDS.to_vec()).prop_map(str::to_owned), "\\PC{0,3}", Just(String::new()),];
    prop::collection::vec((0.0..1.0, 0..12_usize, comes), 0..4)
}

/// The text with its changes.
fn edited(text: &str, edits: &[Edit]) -> String {
    let mut text: Vec<char> = text.chars().collect();
    for (share, goes, comes) in edits {
        let mut at = (text.len() as f64 * share) as usize;
        // Mostly a whole word is changed.
        if goes % 2 == 0 {
            at = text[..at].iter().rposition(|c| c.is_whitespace()).map_or(0, |space| space + 1);
            let word = text[at..].iter().take_while(|c| !c.is_whitespace()).count();
            text.splice(at..at + word, comes.chars());
        } else {
            let end = (at + goes).min(text.len());
            text.splice(at..end, comes.chars());
        }
    }
    text.into_iter().collect()
}

/// Findings have words, and places in the text.
fn check_findings(source: &str, findings: &[Finding]) -> Result<(), TestCaseError> {
    for finding in findings {
        prop_assert!(!finding.trouble.to_string().trim().is_empty());
        prop_assert!(finding.trouble.fix().is_none_or(|fix| !fix.trim().is_empty()));
        prop_assert!(
            source.get(finding.span.clone()).is_some(),
            "{:?} in {} bytes",
            finding.span,
            source.len()
        );
    }
    Ok(())
}

/// Everything that a plan can do.
fn use_up(rig: &Rig) -> Result<(), TestCaseError> {
    let mut scheduler = Scheduler::new(rig, Board::new(rig));
    for (face, mount) in rig.faces.iter().enumerate() {
        let flow = budget::of(mount, &rig.controller).and_then(|budget| budget.flow);
        prop_assert!(flow.is_none_or(|flow| flow.peak.0 >= 0.0 && flow.peak.0.is_finite()));
        let lines = wires::list(rig, mount).lines.len();
        prop_assert!(lines == 0 || lines == mount.lines.len());
        prop_assert!(!scan::plan(rig, mount).ways.is_empty());
        for digit in 0..mount.face.digits() {
            let _ = mount.drive.display().byte_code(&mount.face, digit);
        }
        scheduler.power_up(face).unwrap();
        scheduler.show(face, &frame(&vec![true; mount.face.element_count()])).unwrap();
        let picture = scheduler.expose(face).unwrap();
        prop_assert!(picture.light.iter().all(|light| (0.0..=1.0).contains(light)), "{:?}", picture.light);
    }
    let later = scheduler.now() + Nanos(1_000_000);
    scheduler.run_until(later).unwrap();
    Ok(())
}

/// Reads a recording in pieces of a size; the names, the changes, and what was wrong.
fn read_in(
    mut reader: impl Reader,
    bytes: &[u8],
    piece: usize,
) -> (Vec<String>, Vec<Change>, Option<ReadError>) {
    let (mut all, mut changes, mut error) = (Vec::new(), Vec::new(), None);
    'pieces: for piece in bytes.chunks(piece) {
        let mut rest = piece;
        while !rest.is_empty() {
            match reader.feed(rest, &mut changes) {
                Ok(taken) => rest = &rest[taken..],
                Err(wrong) => {
                    error = Some(wrong);
                    break 'pieces;
                }
            }
            assert!(changes.len() < 2 * MAX_AT_ONCE, "{} changes at once", changes.len());
            all.append(&mut changes);
        }
    }
    if error.is_none() {
        error = reader.finish(&mut changes).err();
    }
    all.append(&mut changes);
    (reader.wires().iter().map(|wire| wire.name.clone()).collect(), all, error)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn rigs(source in (select(LANDING.to_vec()), edits()).prop_map(|(text, edits)| edited(text, &edits))) {
        let reading = Rig::read(&source);
        check_findings(&source, &reading.findings)?;
        match &reading.rig {
            Some(rig) => use_up(rig)?,
            None => prop_assert!(reading.findings.iter().any(|finding| finding.severity == Severity::Error)),
        }
    }

    #[test]
    fn glyph_files(edits in edits(), style in select(vec![Style::Seven, Style::Fourteen, Style::Sixteen])) {
        let source = edited("\"~\" = \"a d g\"\n\"\u{e4}\" = \"b c\"\n", &edits);
        if let Err(findings) = glyphs::read(&source, style) {
            prop_assert!(!findings.is_empty());
            check_findings(&source, &findings)?;
        }
    }

    #[test]
    fn tables_of_bytes(
        edits in edits(),
        bare in select(vec![BareBase::Hex, BareBase::Binary, BareBase::Decimal]),
        bits in select(vec![8_usize, 16, 17]),
    ) {
        let table = "const T: [u8; 4] = [0x3F, 0b0110, /* 2 */ 91, 4Fh]; // end\n  db 0C0h, H'F9'\n  retlw B'01'\n";
        let source = edited(table, &edits);
        match literals::parse(&source, bare, bits) {
            Ok(values) => prop_assert!(values.iter().all(|value| u64::from(*value) < 1 << bits)),
            Err(error) => {
                prop_assert!(source.get(error.span.clone()).is_some(), "{error:?}");
                prop_assert!(!error.to_string().is_empty());
            }
        }
    }

    /// A recording says the same in pieces of any size, up to where it breaks its form.
    #[test]
    fn dumps(text in select(CAPTURES.to_vec()), edits in edits(), piece in 1..300_usize) {
        let source = edited(text, &edits);
        let whole = read_in(Dump::default(), source.as_bytes(), source.len().max(1));
        prop_assert_eq!(&whole, &read_in(Dump::default(), source.as_bytes(), piece));
        prop_assert!(whole.1.is_sorted_by_key(|change| change.at));
        prop_assert!(whole.1.iter().all(|change| (change.wire as usize) < whole.0.len()));
    }

    #[test]
    fn samples(edits in edits(), piece in 1..300_usize, rate in prop::option::of(1..10_000_000_u32)) {
        let source = edited(SAMPLES, &edits);
        let reader = || Samples::new(rate.map(Hertz));
        let whole = read_in(reader(), source.as_bytes(), source.len().max(1));
        prop_assert_eq!(&whole, &read_in(reader(), source.as_bytes(), piece));
        prop_assert!(whole.1.is_sorted_by_key(|change| change.at));
        prop_assert!(whole.1.iter().all(|change| (change.wire as usize) < whole.0.len()));
    }

    /// Short forms: numbers, times, rates, orders, rows, stalls, and texts with braces.
    #[test]
    fn short_forms(
        base in select(vec!["-0.4", "0x1F", "1_000", "250ms", "1.5s", "400kHz", "dp g f e d c b a", "#.#/.#.", "40ms every 1s",
                            "4{a d}2:{{ebb}", "12:34.", "\u{b0}C"]),
        edits in edits(),
    ) {
        let text = edited(base, &edits);
        let _ = text.parse::<Hertz>().map_err(|error| error.to_string());
        let _ = text.parse::<Stall>().map_err(|error| error.to_string());
        let _ = Dots::parse(&text).map_err(|error| error.to_string());
        if let Ok(number) = text.parse::<Decimal>() {
            prop_assert!(text.chars().any(|c| c.is_ascii_hexdigit()), "{text:?} is {number:?}");
        }
        if let Ok(time) = parse_duration(&text) {
            prop_assert!(text.chars().any(|c| c.is_ascii_digit()), "{text:?} is {time:?}");
        }
        for style in [Style::Seven, Style::Fourteen, Style::Sixteen] {
            if let Ok(order) = BitOrder::parse(&text, style) {
                prop_assert_eq!(BitOrder::parse(&order.to_string(), style), Ok(order));
            }
        }
        let clock = rig(LANDING[4]);
        for mount in &clock.faces {
            let mut frame = mount.face.blank();
            if let Err(error) = Canvas::whole(&mount.face, &mut frame).write(&text, Align::Left) {
                prop_assert!(!error.to_string().is_empty());
            }
        }
    }
}
