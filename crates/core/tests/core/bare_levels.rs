//! Bare displays, pin by pin: which levels light which segment. The tables here are what a person works out from the
//! circuit with a pencil; each side is held to them by itself.

use std::collections::BTreeSet;

use spare_tile_core::board::Board;
use spare_tile_core::bus::Edge;
use spare_tile_core::content::Canvas;
use spare_tile_core::content::text::Align;
use spare_tile_core::plan::Rig;
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::units::Nanos;

use crate::common::rig;

/// The receiving side: what is lit while these pins are high and the others low.
fn lit_while_high(rig: &Rig, high: &[&str]) -> Vec<String> {
    let mount = &rig.faces[0];
    let mut model = mount.drive.display().model(&mount.face);
    let level = |line: usize| high.contains(&mount.lines[line].pin.to_string().as_str());
    let at = Nanos(1_000);
    let edges: Vec<_> = (0..mount.lines.len()).map(|line| Edge { at, line, level: level(line) }).collect();
    model.take(&edges);
    // Long after every switch has followed.
    while let Some(at) = model.next_change() {
        model.pass(at);
    }
    let geometry = mount.drive.display().geometry(&mount.face);
    let mut nodes = vec![0.0; geometry.node_count()];
    model.lit(&mut nodes);
    let lit = nodes.iter().enumerate().filter(|(_, light)| **light > 0.0);
    lit.filter_map(|(node, _)| geometry.element(node)).map(|element| mount.face.name_of(element)).collect()
}

/// The sending side: each set of pins that is high at some moment of a turn while words are shown, in order of time.
fn high_while_showing(rig: &Rig, words: &str) -> Vec<BTreeSet<String>> {
    let mount = &rig.faces[0];
    let mut frame = mount.face.blank();
    Canvas::whole(&mount.face, &mut frame).write(words, Align::Left).unwrap();
    let mut scheduler = Scheduler::new(rig, Board::new(rig));
    scheduler.power_up(0).unwrap();
    scheduler.show(0, &frame).unwrap();
    let length = scheduler.turn(0).unwrap_or(Nanos(1_000_000));
    scheduler.run_turn(0).unwrap();
    let begin = scheduler.now();
    let mut seen: Vec<BTreeSet<String>> = Vec::new();
    for step in 0..200 {
        scheduler.run_until(begin + Nanos(length.0 * step / 200)).unwrap();
        let board = scheduler.link_mut();
        let names = board.pins().iter().map(ToString::to_string);
        let high = names
            .zip(board.levels())
            .filter(|(_, level)| *level == Some(true))
            .map(|(name, _)| name)
            .collect();
        if seen.last() != Some(&high) {
            seen.push(high);
        }
    }
    seen
}

fn set(names: &[&str]) -> BTreeSet<String> {
    names.iter().map(|name| (*name).to_owned()).collect()
}

const SEGMENTS: [&str; 8] = ["a", "b", "c", "d", "e", "f", "g", "dp"];

/// One digit at P1.0 to P1.7, a to dp, with this common side and these lines in its drive.
fn digit(common: &str, drive: &str) -> Rig {
    rig(&format!(
        "[face.wait]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"{common}\"\n\
         [face.wait.drive]\nmethod = \"static\"\n{drive}\n"
    ))
}

/// Each pin lights its segment, at the level that the circuit wants.
#[test]
fn the_level_that_lights_a_segment() {
    let order = "segments = \"P1: dp g f e d c b a\"\n";
    // A transistor lets current through on a high when it is npn or nmos, on a low when it is pnp or pmos.
    for (common, switch, lights) in [
        ("cathode", "", true),
        ("anode", "", false),
        ("cathode", "segment_switch = \"pnp\"", false),
        ("cathode", "segment_switch = \"pmos\"", false),
        ("anode", "segment_switch = \"npn\"", true),
        ("anode", "segment_switch = \"nmos\"", true),
        ("anode", "segment_switch = { kind = \"npn\", active = \"low\" }", false),
    ] {
        let rig = digit(common, &format!("{order}{switch}"));
        for (bit, segment) in SEGMENTS.into_iter().enumerate() {
            let pin = format!("P1.{bit}");
            let others: Vec<_> =
                (0..8).filter(|other| *other != bit).map(|bit| format!("P1.{bit}")).collect();
            let others: Vec<_> = others.iter().map(String::as_str).collect();
            let high = if lights { vec![pin.as_str()] } else { others };
            let name = format!("0.{segment}");
            let lit = lit_while_high(&rig, &high);
            assert!(lit.len() == 1 && lit[0].ends_with(segment), "{common} {switch}: {lit:?} is not {name}");
            let sent = high_while_showing(&rig, &format!("{{{segment}}}"));
            assert_eq!(sent, [set(&high)], "{common} {switch} {segment}");
        }
    }
}

/// An order on a port is written from the highest bit down.
#[test]
fn an_order_on_a_port() {
    for (order, pins) in [
        ("P1: dp g f e d c b a", [0, 1, 2, 3, 4, 5, 6, 7]),
        ("P1: a b c d e f g dp", [7, 6, 5, 4, 3, 2, 1, 0]),
        ("P1: c g dp a f b e d", [4, 2, 7, 0, 1, 3, 6, 5]),
    ] {
        let rig = digit("cathode", &format!("segments = \"{order}\""));
        for (segment, bit) in SEGMENTS.into_iter().zip(pins) {
            let pin = format!("P1.{bit}");
            let lit = lit_while_high(&rig, &[&pin]);
            assert!(
                lit.len() == 1 && lit[0].ends_with(segment),
                "{order}: {pin} lights {lit:?}, not {segment}"
            );
            assert_eq!(
                high_while_showing(&rig, &format!("{{{segment}}}")),
                [set(&[&pin])],
                "{order}: {segment}"
            );
        }
    }
}

/// The pins of a package of one digit, from the lower left: e d common c dp, then b a common f g.
#[test]
fn the_pins_of_a_package() {
    let wires = "package_pins = { 1 = \"P1.0\", 2 = \"P1.1\", 4 = \"P1.2\", 5 = \"P1.3\", 6 = \"P1.4\", 7 = \"P1.5\", \
                 9 = \"P1.6\", 10 = \"P1.7\" }";
    let rig = rig(&format!(
        "[face.wait]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"cathode\"\n\
         package = \"single-10\"\n[face.wait.drive]\nmethod = \"static\"\n{wires}\n"
    ));
    for (bit, segment) in ["e", "d", "c", "dp", "b", "a", "f", "g"].into_iter().enumerate() {
        let pin = format!("P1.{bit}");
        let lit = lit_while_high(&rig, &[&pin]);
        assert!(lit.len() == 1 && lit[0].ends_with(segment), "{pin} lights {lit:?}, not {segment}");
        assert_eq!(high_while_showing(&rig, &format!("{{{segment}}}")), [set(&[&pin])], "{segment}");
    }
}

/// Two digits scanned, a to dp on P1, the selects on P2.0 (the left one) and P2.1.
fn scanned(common: &str, drive: &str) -> Rig {
    rig(&format!(
        "[face.wait]\nkind = \"seven-segment\"\ndigits = 2\ncommon = \"{common}\"\n\
         [face.wait.drive]\nmethod = \"scanned\"\nsegments = \"P1: dp g f e d c b a\"\ndigits = [\"P2.0\", \"P2.1\"]\n\
         {drive}\n"
    ))
}

/// "7_": a b c on the left digit, d on the right one.
#[test]
fn the_levels_of_a_scan() {
    let all: Vec<String> = (0..8).map(|bit| format!("P1.{bit}")).collect();
    for (common, switch, segment_lights, digit_selects) in [
        // The joined cathodes are pulled low by the pin itself.
        ("cathode", "", true, false),
        ("cathode", "digit_switch = \"npn\"", true, true),
        ("cathode", "digit_switch = \"nmos\"", true, true),
        ("anode", "", false, true),
        ("anode", "digit_switch = \"pnp\"", false, false),
        ("anode", "digit_switch = \"pmos\"", false, false),
        ("anode", "digit_switch = { kind = \"pnp\", active = \"high\" }", false, true),
        ("anode", "digit_switch = \"pnp\"\nsegment_switch = \"npn\"", true, false),
    ] {
        let rig = scanned(common, switch);
        let high = |segments: &[usize], digit: Option<usize>| {
            let mut high = BTreeSet::new();
            high.extend(
                all.iter()
                    .enumerate()
                    .filter(|(bit, _)| segments.contains(bit) == segment_lights)
                    .map(|(_, pin)| pin.clone()),
            );
            high.extend(
                (0..2)
                    .filter(|place| (Some(*place) == digit) == digit_selects)
                    .map(|place| format!("P2.{place}")),
            );
            high
        };
        let (left, right, dark) = (high(&[0, 1, 2], Some(0)), high(&[3], Some(1)), high(&[], None));
        let lit = |high: &BTreeSet<String>| {
            lit_while_high(&rig, &high.iter().map(String::as_str).collect::<Vec<_>>())
        };
        let digit_0 = lit(&left);
        assert_eq!(digit_0.len(), 3, "{common} {switch}: {digit_0:?}");
        let digit_1 = lit(&right);
        assert!(digit_1.len() == 1 && digit_1[0].contains('1') && digit_1[0].ends_with('d'), "{digit_1:?}");
        assert!(digit_0.iter().all(|name| name.contains('0')), "{digit_0:?}");
        assert_eq!(lit(&dark), Vec::<String>::new(), "{common} {switch}");
        let sent = high_while_showing(&rig, "7_");
        for (what, high) in [("left", &left), ("right", &right)] {
            assert!(sent.contains(high), "{common} {switch} {what}: {high:?} not in {sent:?}");
        }
        let others: Vec<_> = sent.iter().filter(|high| ![&left, &right, &dark].contains(high)).collect();
        assert!(others.is_empty(), "{common} {switch}: {others:?}");
    }
}

/// A face of dots, two rows and three columns: which crossing is which dot, by rows and by columns.
#[test]
fn the_crossings_of_dots() {
    for (common, row_lights) in [("cathode", false), ("anode", true)] {
        for scan in ["rows", "columns"] {
            let rig = rig(&format!(
                "[face.wait]\nkind = \"dots\"\nwidth = 3\nheight = 2\ncommon = \"{common}\"\n\
                 [face.wait.drive]\nmethod = \"scanned\"\nrows = [\"P1.0\", \"P1.1\"]\ncolumns = [\"P2.0\", \"P2.1\", \"P2.2\"]\n\
                 scan = \"{scan}\"\n"
            ));
            let dot = |x: usize, y: usize| {
                let face = &rig.faces[0].face;
                face.name_of(face.dot(x, y).unwrap())
            };
            for y in 0..2 {
                for x in 0..3 {
                    let rows = (0..2).filter(|row| (*row == y) == row_lights).map(|row| format!("P1.{row}"));
                    let columns = (0..3)
                        .filter(|column| (*column == x) != row_lights)
                        .map(|column| format!("P2.{column}"));
                    let high: Vec<String> = rows.chain(columns).collect();
                    let high: Vec<&str> = high.iter().map(String::as_str).collect();
                    assert_eq!(lit_while_high(&rig, &high), [dot(x, y)], "{common} {scan} {x} {y}");
                }
            }
        }
    }
}

/// The pins of an mcs51 pull low; their high is a weak pull-up, which lights nothing and leaves a gate high.
#[test]
fn pins_that_only_pull_up() {
    let on_mcs51 = |common: &str, switch: &str| {
        rig(&format!(
            "[controller]\npart = \"mcs51\"\n[face.wait]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"{common}\"\n\
             [face.wait.drive]\nmethod = \"static\"\nsegments = \"P1: dp g f e d c b a\"\n{switch}\n"
        ))
    };
    let all: Vec<_> = (0..8).map(|bit| format!("P1.{bit}")).collect();
    let all: Vec<_> = all.iter().map(String::as_str).collect();
    assert_eq!(lit_while_high(&on_mcs51("cathode", ""), &all), Vec::<String>::new());
    assert_eq!(lit_while_high(&on_mcs51("anode", ""), &all[1..]).len(), 1);
    assert_eq!(
        lit_while_high(&on_mcs51("anode", "segment_switch = \"npn\""), &all[..1]),
        Vec::<String>::new()
    );
    assert_eq!(lit_while_high(&on_mcs51("anode", "segment_switch = \"nmos\""), &all[..1]).len(), 1);
}

/// Port 0 is open drain: it does not even leave a gate high.
#[test]
fn pins_that_do_not_pull_up() {
    let on_port = |port: u8| {
        let rig = rig(&format!(
            "[controller]\npart = \"mcs51\"\n[face.wait]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"anode\"\n\
             [face.wait.drive]\nmethod = \"static\"\nsegments = \"P{port}: dp g f e d c b a\"\nsegment_switch = \"nmos\"\n"
        ));
        lit_while_high(&rig, &[&format!("P{port}.0")])
    };
    assert_eq!((on_port(1).len(), on_port(0).len()), (1, 0));
}

/// A darlington array pulls low with its input high, and lights nothing from the supply.
#[test]
fn darlington_arrays_only_pull_low() {
    let selected = |common: &str| {
        let rig = rig(&format!(
            "[controller]\npart = \"rp2040\"\n[face.wait]\nkind = \"seven-segment\"\ndigits = 2\ncommon = \"{common}\"\n\
             [face.wait.drive]\nmethod = \"scanned\"\nsegments = {{ a = \"GP2\", b = \"GP3\", c = \"GP4\", d = \"GP5\", e = \"GP6\", f = \"GP7\", g = \"GP8\" }}\n\
             digits = [\"GP10\", \"GP11\"]\ndigit_switch = \"darlington\"\n"
        ));
        let segments: &[&str] = if common == "cathode" { &["GP2", "GP10"] } else { &["GP10"] };
        lit_while_high(&rig, segments).len()
    };
    assert!(selected("cathode") > 0);
    assert_eq!(selected("anode"), 0);
}
