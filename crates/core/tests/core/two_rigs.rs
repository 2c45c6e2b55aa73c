//! The rig as described drives the sending side, the rig as built the receiving side. Literal vectors check each side by itself,
//! as a person works them out at the bench; then the two are set against each other.

use proptest::prelude::*;
use spare_tile_core::board::Board;
use spare_tile_core::board::fault::Fault;
use spare_tile_core::content::text::Align;
use spare_tile_core::face::Element;
use spare_tile_core::glyph::Style;
use spare_tile_core::link::{FanOut, Faulty, Link, LinkErrorKind, OpFault};
use spare_tile_core::part::Part;
use spare_tile_core::plan::{BothRigs, BuiltError, Mount, Rig};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::rig::{Document, Pin};
use spare_tile_core::wiring::Node;

use crate::common::{Powered, frame, max7219, rig, saying};

/// The element whose light is at a node, and the node that the element is wired to: each side's own answer.
fn both_ways(mount: &Mount, node: usize) -> (Option<Element>, Option<Node>) {
    let there = mount.drive.display().geometry(&mount.face).element(node);
    let back = there.and_then(|element| mount.wiring.node(element));
    (there, back)
}

fn dots(width: usize, height: usize, modules: &str) -> Rig {
    rig(&format!(
        "[face.board]\nkind = \"dots\"\nwidth = {width}\nheight = {height}\n[face.board.drive]\nmethod = \"max7219\"\n\
         pins = {{ data = 1, clock = 2, select = 3 }}\nmodules = {{ {modules} }}\n"
    ))
}

/// Where three lights of a module are: the one at digit line 0 and data bit 7, the one at bit 6 beside it, and the one at
/// digit line 1 and bit 7. With rows as digit lines the module, as it lies, has them at the top left, one to the right of
/// that, and one below. It is flipped first, then turned clockwise.
type Corner = [(usize, usize); 3];
const ROWS: [(&str, u32, Corner); 12] = [
    ("none", 0, [(0, 0), (1, 0), (0, 1)]),
    ("none", 90, [(7, 0), (7, 1), (6, 0)]),
    ("none", 180, [(7, 7), (6, 7), (7, 6)]),
    ("none", 270, [(0, 7), (0, 6), (1, 7)]),
    ("horizontal", 0, [(7, 0), (6, 0), (7, 1)]),
    ("horizontal", 90, [(7, 7), (7, 6), (6, 7)]),
    ("horizontal", 180, [(0, 7), (1, 7), (0, 6)]),
    ("horizontal", 270, [(0, 0), (0, 1), (1, 0)]),
    ("vertical", 0, [(0, 7), (1, 7), (0, 6)]),
    ("vertical", 90, [(0, 0), (0, 1), (1, 0)]),
    ("vertical", 180, [(7, 0), (6, 0), (7, 1)]),
    ("vertical", 270, [(7, 7), (7, 6), (6, 7)]),
];

#[test]
fn every_orientation_of_a_module() {
    for (flip, rotate, [corner, beside, below]) in ROWS {
        // With columns as digit lines, bit 6 is below bit 7 and line 1 to the right of line 0.
        for (lines, places) in [("rows", [corner, beside, below]), ("columns", [corner, below, beside])] {
            let rig = dots(8, 8, &format!("lines_are = \"{lines}\", rotate = {rotate}, flip = \"{flip}\""));
            let mount = &rig.faces[0];
            for (node, (x, y)) in [7, 6, 8 + 7].into_iter().zip(places) {
                let dot = mount.face.dot(x, y);
                assert_eq!(both_ways(mount, node), (dot, Some(Node(node))), "{lines} {flip} {rotate} {node}");
            }
        }
    }
}

#[test]
fn either_end_of_a_chain_of_modules() {
    for (first, order) in [("left", [0, 1, 2, 3, 4, 5]), ("right", [2, 1, 0, 5, 4, 3])] {
        let rig = dots(24, 16, &format!("first = \"{first}\""));
        let mount = &rig.faces[0];
        for (part, place) in order.into_iter().enumerate() {
            let upper_left = mount.face.dot(8 * (place % 3), 8 * (place / 3));
            assert_eq!(
                both_ways(mount, 64 * part + 7),
                (upper_left, Some(Node(64 * part + 7))),
                "{first} {part}"
            );
        }
    }
}

/// Six modules, three across and two down: where the part of each number hangs, counted row by row from the upper left.
#[test]
fn every_way_of_a_chain_through_rows_of_modules() {
    for (first, row, serpentine, order) in [
        ("left", "top", false, [0, 1, 2, 3, 4, 5]),
        ("left", "top", true, [0, 1, 2, 5, 4, 3]),
        ("right", "top", true, [2, 1, 0, 3, 4, 5]),
        ("left", "bottom", false, [3, 4, 5, 0, 1, 2]),
        ("right", "bottom", false, [5, 4, 3, 2, 1, 0]),
        ("left", "bottom", true, [3, 4, 5, 2, 1, 0]),
        ("right", "bottom", true, [5, 4, 3, 0, 1, 2]),
    ] {
        let modules = format!("first = \"{first}\", first_row = \"{row}\", serpentine = {serpentine}");
        let rig = dots(24, 16, &modules);
        let mount = &rig.faces[0];
        for (part, place) in order.into_iter().enumerate() {
            let upper_left = mount.face.dot(8 * (place % 3), 8 * (place / 3));
            let node = 64 * part + 7;
            assert_eq!(both_ways(mount, node), (upper_left, Some(Node(node))), "{modules} {part}");
        }
    }
}

#[test]
fn a_module_that_hangs_upside_down_is_told_alone() {
    let rig = dots(
        24,
        8,
        "first = \"left\", except = [{ part = 1, rotate = 180 }, { part = 2, lines_are = \"columns\" }]",
    );
    let mount = &rig.faces[0];
    let dot = |x, y| mount.face.dot(x, y);
    // Digit line 0 and bit 6: beside the corner as it lies, turned by half, and below it with columns as lines.
    for (part, place) in [(0, (1, 0)), (1, (8 + 6, 7)), (2, (16, 1))] {
        let node = 64 * part + 6;
        assert_eq!(both_ways(mount, node), (dot(place.0, place.1), Some(Node(node))), "{part}");
    }
    // Built without knowing of it, just that module is upside down.
    let told = dots(24, 8, "first = \"left\"");
    let built = dots(24, 8, "first = \"left\", except = [{ part = 1, rotate = 180 }]");
    let mut powered = Powered::built_as(&told, &built);
    let lit: Vec<bool> = (0..24 * 8).map(|dot| dot % 5 == 0).collect();
    powered.show(&frame(&lit));
    let seen = crate::common::lit(&powered.picture());
    for (place, shown) in seen.iter().enumerate() {
        let (x, y) = (place % 24, place / 24);
        let from = if x / 8 == 1 { (7 - y) * 24 + 8 + 7 - x % 8 } else { place };
        assert_eq!(*shown, lit[from], "({x}, {y})");
    }
}

#[test]
fn either_end_of_a_chain_of_digits_and_of_its_parts() {
    // Ten digits: eight on the part that is fed, two on the next. From the left: part and digit line.
    let (of_eight, of_two): (Vec<_>, Vec<_>) = ((0..8).collect(), (0..2).collect());
    let row = |part: usize, lines: &[usize], from_left: bool| -> Vec<(usize, usize)> {
        let mut row: Vec<_> = lines.iter().map(|line| (part, *line)).collect();
        if !from_left {
            row.reverse();
        }
        row
    };
    for (first, digit_0) in [("left", "left"), ("left", "right"), ("right", "left"), ("right", "right")] {
        let from_left = digit_0 == "left";
        let (fed, next) = (row(0, &of_eight, from_left), row(1, &of_two, from_left));
        let standing = if first == "left" { [fed, next].concat() } else { [next, fed].concat() };
        let rig = max7219(10, &format!("first = \"{first}\"\ndigit_0 = \"{digit_0}\""));
        let mount = &rig.faces[0];
        for (digit, (part, line)) in standing.into_iter().enumerate() {
            // Bits 7 to 0 are dp a b c d e f g: the style has a at 0 and dp at 7.
            for (bit, segment) in [(7, 7), (6, 0), (5, 1), (4, 2), (3, 3), (2, 4), (1, 5), (0, 6)] {
                let node = 64 * part + 8 * line + bit;
                let element = mount.face.element(digit, segment);
                assert_eq!(
                    both_ways(mount, node),
                    (Some(element), Some(Node(node))),
                    "{first} {digit_0} {digit}"
                );
            }
        }
    }
}

#[test]
fn grids_and_lines_by_their_names() {
    let clock = rig(
        "[face.clock]\nkind = \"seven-segment\"\ndigits = 2\ncolons = [{ after = 1, node = \"grid6.seg3\" }]\n\
         [face.clock.drive]\nmethod = \"tm1637\"\npins = { clock = 1, data = 2 }\n\
         digits = [\"grid4\", \"grid1\"]\nsegments = \"a b c d e f g dp\"\n",
    );
    let mount = &clock.faces[0];
    let at = |grid: usize, seg: usize| both_ways(mount, 8 * (grid - 1) + seg - 1);
    // The first name is on the highest line: a on seg8, dp on seg1.
    assert_eq!(at(4, 8), (Some(mount.face.element(0, 0)), Some(Node(31))));
    assert_eq!(at(4, 1), (Some(mount.face.element(0, 7)), Some(Node(24))));
    assert_eq!(at(1, 2), (Some(mount.face.element(1, 6)), Some(Node(1))));
    assert_eq!(at(6, 3), (Some(mount.face.extra(0)), Some(Node(42))));
    assert_eq!(at(2, 1), (None, None));
}

/// Returns the text of the first face, described as in one rig and built as in another.
fn reading(described: &Rig, built: &Rig, words: &str) -> String {
    let mut powered = Powered::built_as(described, built);
    powered.say(words, Align::Left).unwrap();
    powered.picture().reading()
}

/// A rig with a piece of its text exchanged.
fn but(source: &str, found: &str, instead: &str) -> Rig {
    assert!(source.contains(found), "{found}");
    rig(&source.replace(found, instead))
}

const CLOCK: &str = "[controller]\nlogic_volts = 5.0\n[face.clock]\nkind = \"seven-segment\"\ndigits = 4\n\
                     [face.clock.drive]\nmethod = \"tm1637\"\npins = { clock = 1, data = 2 }\n\
                     digits = [\"grid1\", \"grid2\", \"grid3\", \"grid4\"]\n";
const GAUGE: &str = "[face.gauge]\nkind = \"seven-segment\"\ndigits = 4\ncommon = \"cathode\"\n[face.gauge.drive]\n\
                     method = \"scanned\"\nsegments = \"P1: dp g f e d c b a\"\n\
                     digits = [\"P2.0\", \"P2.1\", \"P2.2\", \"P2.3\"]\n";
const MINUTES: &str = "[face.minutes]\nkind = \"seven-segment\"\ndigits = 2\ncommon = \"cathode\"\n\
                       [face.minutes.drive]\nmethod = \"shifted\"\npins = { data = 1, clock = 2, latch = 3 }\n\
                       first = \"right\"\noutput_enable = \"low\"\n";

#[test]
fn digits_in_another_order_are_read_in_it() {
    assert_eq!(reading(&rig(CLOCK), &rig(CLOCK), "0758"), "0758");
    let reversed = "[\"grid4\", \"grid3\", \"grid2\", \"grid1\"]";
    let built = but(CLOCK, "[\"grid1\", \"grid2\", \"grid3\", \"grid4\"]", reversed);
    assert_eq!(reading(&rig(CLOCK), &built, "0758"), "8570");
    let built =
        but(GAUGE, "[\"P2.0\", \"P2.1\", \"P2.2\", \"P2.3\"]", "[\"P2.1\", \"P2.0\", \"P2.2\", \"P2.3\"]");
    assert_eq!(reading(&rig(GAUGE), &built, "0758"), "7058");
    let built = but(MINUTES, "first = \"right\"", "first = \"left\"");
    assert_eq!(reading(&rig(MINUTES), &built, "48"), "84");
}

#[test]
fn segments_in_another_order_show_other_segments() {
    // As built a is where g is said to be, and so on backwards: a 7 (a b c) lights g f e.
    let built = but(GAUGE, "P1: dp g f e d c b a", "P1: dp a b c d e f g");
    let mut powered = Powered::built_as(Box::leak(Box::new(rig(GAUGE))), &built);
    powered.say("7", Align::Left).unwrap();
    let names: Vec<_> = powered.picture().lit(0).names(Style::Seven).collect();
    assert_eq!(names, ["e", "f", "g"]);
}

#[test]
fn the_other_common_side() {
    let (described, built) = (rig(GAUGE), but(GAUGE, "\"cathode\"", "\"anode\""));
    let mut powered = Powered::built_as(&described, &built);
    powered.say("1 8 ", Align::Left).unwrap();
    powered.picture();
    let now = powered.scheduler.now();
    let sights = powered.scheduler.link_mut().sights(0, now);
    // A digit that is not selected has a high level at its anodes: it lights what the selected one leaves out. Digit 2
    // leaves b out while digit 0 shows its 1, and lights it beside the two blanks; a it lights beside all three. While it
    // is selected itself it is dark. The blanking lights everything, for a fiftieth of the time.
    let light = |digit: usize, segment: usize| sights[8 * digit + segment].light;
    assert!(
        (light(2, 1) - 0.5).abs() < 0.03 && (light(2, 0) - 0.75).abs() < 0.03,
        "{} {}",
        light(2, 1),
        light(2, 0)
    );
    assert!((light(0, 1) - 0.5).abs() < 0.03 && (light(1, 1) - 0.25).abs() < 0.03);
    // A single digit at its own pins shows the complement.
    let berth = |common| crate::common::berth(common);
    let (described, built) = (berth("cathode"), berth("anode"));
    let mut powered = Powered::built_as(&described, &built);
    powered.say("7", Align::Left).unwrap();
    let names: Vec<_> = powered.picture().lit(0).names(Style::Seven).collect();
    assert_eq!(names, ["d", "e", "f", "g", "dp"]);
}

#[test]
fn a_part_drives_no_lights_that_are_the_other_way_round() {
    let desk = "[face.desk]\nkind = \"seven-segment\"\ndigits = 8\ncommon = \"cathode\"\n[face.desk.drive]\n\
                method = \"max7219\"\npins = { data = 1, clock = 2, select = 3 }\n";
    assert_eq!(reading(&rig(desk), &but(desk, "cathode", "anode"), "8"), " ".repeat(8));
}

#[test]
fn control_pins_that_are_open_or_tied_wrongly() {
    for (tie, why) in [
        (
            "open",
            "every 74hc595: OE is left open: a floating pin may be low or high at any time, and with it the display dark",
        ),
        ("high", "every 74hc595: OE is tied high: its outputs are off and the display stays dark"),
    ] {
        let built = but(MINUTES, "output_enable = \"low\"", &format!("output_enable = \"{tie}\""));
        assert_eq!(reading(&rig(MINUTES), &built, "48"), "  ");
        assert_eq!(built.faces[0].drive.handicaps(), [why]);
    }
    assert!(rig(MINUTES).faces[0].drive.handicaps().is_empty());
}

#[test]
fn crossed_wires_and_another_address() {
    let desk = "[face.desk]\nkind = \"seven-segment\"\ndigits = 8\n[face.desk.drive]\nmethod = \"max7219\"\n\
                pins = { data = 1, clock = 2, select = 3 }\n";
    let crossed = but(desk, "data = 1, clock = 2", "data = 2, clock = 1");
    assert_eq!(reading(&rig(desk), &crossed, "8888"), " ".repeat(8));
    let sign = "[face.sign]\nkind = \"seven-segment\"\ndigits = 8\n[face.sign.drive]\nmethod = \"ht16k33\"\n\
                pins = { data = 1, clock = 2 }\naddresses = [0x70]\n";
    assert_eq!(reading(&rig(sign), &rig(sign), "TEAL"), "tEAL    ");
    assert_eq!(reading(&rig(sign), &but(sign, "0x70", "0x71"), "TEAL"), " ".repeat(8));
}

#[test]
fn hardware_of_another_kind_is_refused() {
    let order = "digits = [\"grid1\", \"grid2\", \"grid3\", \"grid4\"]\n";
    let (four, three) = (rig(CLOCK), rig(&CLOCK.replace(order, "").replace("digits = 4", "digits = 3")));
    let told = three.as_built_for(&four).unwrap_err();
    let (described, built) = ("4 seven-segment digits".to_owned(), "3 seven-segment digits".to_owned());
    assert_eq!(told, BuiltError::OtherFace { face: "clock".into(), described, built });
    let named = but(CLOCK, "face.clock", "face.tide").as_built_for(&four).unwrap_err();
    assert_eq!(named, BuiltError::NoFace { face: "clock".into() });
}

/// Turns every 8x8 module of some rows of dots clockwise by a number of quarters, as with one's hands.
fn turned(rows: &[Vec<bool>], quarters: u32) -> Vec<Vec<bool>> {
    (0..quarters).fold(rows.to_vec(), |rows, _| {
        let mut turned = rows.clone();
        for (y, row) in rows.iter().enumerate() {
            for (x, lit) in row.iter().enumerate() {
                let (module_x, module_y) = (x / 8 * 8, y / 8 * 8);
                // The top row becomes the right column.
                turned[module_y + x % 8][module_x + 7 - y % 8] = *lit;
            }
        }
        turned
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn turned_modules_show_the_picture_turned(
        lit in prop::collection::vec(any::<bool>(), 16 * 16),
        described in 0..4_u32,
        more in 0..4_u32,
        lines in prop::sample::select(&["rows", "columns"]),
    ) {
        let of = |quarters: u32| dots(16, 16, &format!("lines_are = \"{lines}\", rotate = {}", 90 * (quarters % 4)));
        let (rig, built) = (of(described), of(described + more));
        let mut powered = Powered::built_as(&rig, &built);
        powered.show(&frame(&lit));
        let rows: Vec<Vec<bool>> = lit.chunks(16).map(<[bool]>::to_vec).collect();
        prop_assert_eq!(crate::common::lit(&powered.picture()), turned(&rows, more).concat());
    }

    #[test]
    fn a_chain_fed_at_the_other_end_shows_its_modules_in_the_other_order(
        lit in prop::collection::vec(any::<bool>(), 32 * 8),
    ) {
        let (rig, built) = (dots(32, 8, "first = \"left\""), dots(32, 8, "first = \"right\""));
        let mut powered = Powered::built_as(&rig, &built);
        powered.show(&frame(&lit));
        let seen = crate::common::lit(&powered.picture());
        for (place, lit) in lit.iter().enumerate() {
            let (x, y) = (place % 32, place / 32);
            prop_assert_eq!(seen[y * 32 + (24 - x / 8 * 8) + x % 8], *lit);
        }
    }

    #[test]
    fn any_wiring_of_any_part_and_its_geometry_are_inverse(
        part in 0..5_usize,
        order in Just(vec!["dp", "g", "f", "e", "d", "c", "b", "a"]).prop_shuffle(),
        shuffle in Just((0..6_usize).collect::<Vec<_>>()).prop_shuffle(),
        ends in (any::<bool>(), any::<bool>()),
    ) {
        let end = |left: bool| if left { "left" } else { "right" };
        let order = order.join(" ");
        let named = |prefix: &str, first: usize| {
            shuffle.iter().map(|grid| format!("\"{prefix}{}\"", grid + first)).collect::<Vec<_>>().join(", ")
        };
        let (method, drive) = match part {
            0 => ("tm1637", format!("pins = {{ clock = 1, data = 2 }}\ndigits = [{}]", named("grid", 1))),
            1 => ("tm1638", format!("pins = {{ clock = 1, data = 2, strobe = 3 }}\ndigits = [{}]", named("grid", 1))),
            2 => ("ht16k33", format!("pins = {{ clock = 1, data = 2 }}\ndigits = [{}]", named("com", 0))),
            _ => ("max7219", format!(
                "pins = {{ clock = 1, data = 2, select = 3 }}\nfirst = \"{}\"\ndigit_0 = \"{}\"", end(ends.0), end(ends.1)
            )),
        };
        let rig = rig(&format!(
            "[face.f]\nkind = \"seven-segment\"\ndigits = 6\n[face.f.drive]\nmethod = \"{method}\"\nsegments = \"{order}\"\n{drive}\n"
        ));
        let mount = &rig.faces[0];
        let geometry = mount.drive.display().geometry(&mount.face);
        prop_assert_eq!(geometry.node_count(), mount.wiring.node_count());
        for element in (0..mount.face.element_count()).map(Element) {
            let node = mount.wiring.node(element).unwrap();
            prop_assert_eq!(geometry.element(node.0), Some(element));
        }
        let taken = (0..geometry.node_count()).filter(|node| geometry.element(*node).is_some()).count();
        prop_assert_eq!(taken, mount.face.element_count());
    }
}

fn pin(name: &str) -> Pin {
    Pin::parse(name).unwrap()
}

/// Returns the text of a gauge on bare pins with a fault.
fn with(fault: Fault, words: &str) -> String {
    let rig = rig(GAUGE);
    let mut board = Board::new(&rig);
    board.put(&fault);
    let mut powered = Powered::on(&rig, board);
    powered.say(words, Align::Left).unwrap();
    powered.picture().reading()
}

#[test]
fn faults_of_wires_parts_and_lights() {
    assert_eq!(with(Fault::Open { pin: pin("P2.1") }, "1234"), "1 34");
    // Segment c, on P1.2, never goes out: a 2 becomes an 8 without f, and a blank a lone c.
    let stuck = Fault::Stuck { pin: pin("P1.2"), high: true };
    assert_eq!(with(stuck, "0134"), "0134");
    assert_eq!(with(Fault::Stuck { pin: pin("P1.6"), high: false }, "8888"), "0000");
    let swapped = Fault::Swapped { first: pin("P2.0"), second: pin("P2.3") };
    assert_eq!(with(swapped, "1234"), "4231");
    // The digits' selects touch: both are low while either is, so that each shows both characters.
    let shorted = Fault::Shorted { first: pin("P2.2"), second: pin("P2.3") };
    assert_eq!(with(shorted, "  1 "), "  11");
    assert_eq!(with(Fault::Unpowered { face: 0 }, "1234"), "    ");
    let dead = Fault::DeadLight { face: 0, element: Element(6) };
    assert_eq!(with(dead, "8888"), "0888");
}

#[test]
fn a_lost_clock_shifts_what_follows_it() {
    let desk = max7219(8, "");
    let mut board = Board::new(&desk);
    // The last power-up word, 0C01, lets the part run. Without the clock of its first 1 it is 0401, digit data.
    board.put(&Fault::LostPulse { pin: pin("GP18"), rise: 13 * 16 + 4 });
    let mut powered = Powered::on(&desk, board);
    powered.say("BERTH 2", Align::Left).unwrap();
    assert_eq!(powered.picture().reading(), " ".repeat(8));
}

#[test]
fn faults_of_operations_and_a_link_to_two_boards() {
    let rig = max7219(8, "");
    let frame = saying(&rig, "BERTH 2");
    let read = |board: &mut Board<'_>, now| board.picture(0, now).unwrap().reading();
    let mut boards = [Board::new(&rig), Board::new(&rig)];
    let [sound, spoiled] = &mut boards;
    // The thirteenth word of power-up is the one that lets the part run.
    let faulty = Faulty::new(spoiled, OpFault::Lost, 13);
    let mut scheduler = Scheduler::new(&rig, FanOut { first: sound, second: faulty });
    scheduler.power_up(0).unwrap();
    scheduler.show(0, &frame).unwrap();
    let now = scheduler.now();
    drop(scheduler);
    assert_eq!(read(&mut boards[0], now), "bErtH 2 ");
    assert_eq!(read(&mut boards[1], now), " ".repeat(8));
    let flipped = |bit| {
        let mut board = Board::new(&rig);
        let mut scheduler = Scheduler::new(&rig, Faulty::new(&mut board, OpFault::Flipped { bit }, 14));
        scheduler.power_up(0).unwrap();
        scheduler.show(0, &saying(&rig, "8")).unwrap();
        let now = scheduler.now();
        drop(scheduler);
        read(&mut board, now)
    };
    // The second byte is the segments: its bit 0 is g.
    assert_eq!(flipped(8), "0       ");
}

#[test]
fn a_board_that_lacks_a_device_says_so() {
    let (one, two) = (rig(GAUGE), rig(&format!("{GAUGE}{CLOCK}")));
    let mut board = Board::new(&one);
    let stranger = two.faces[1].device;
    let op = spare_tile_core::bus::Op {
        role: spare_tile_core::bus::Role::Frame,
        transfer: spare_tile_core::bus::Transfer::TwoWire { bytes: &[0x40], reads: 0 },
        not_before: Default::default(),
    };
    let error = board.transfer(stranger, &op).unwrap_err();
    assert_eq!(error.kind, LinkErrorKind::NoDevice);
    assert_eq!(error.to_string(), format!("there is no device {} on bus {}", stranger.device, stranger.bus));
}

/// A display of the other common side: its LEDs are the wrong way round in the same circuit.
#[test]
fn another_common_side_in_the_same_circuit() {
    let show = |described: &str, change: &str, text: &str| {
        let rig = rig(described);
        let change = rig.with_circuits_kept(Document::read(change).unwrap());
        let built = Rig::of(&change.completed(&Document::read(described).unwrap()));
        let built = built.rig.unwrap_or_else(|| panic!("{:?}", built.findings));
        let mut board = Board::built_as(BothRigs { described: &rig, built: &built });
        let mut scheduler = Scheduler::new(&rig, &mut board);
        scheduler.power_up(0).unwrap();
        scheduler.show(0, &saying(&rig, text)).unwrap();
        (0..2).for_each(|_| assert!(scheduler.run_turn(0).is_ok()));
        let now = scheduler.now();
        drop(scheduler);
        let picture = board.picture(0, now).unwrap();
        // Less is what straight pins make of the blanking between two digits.
        (0..8).filter(|segment| picture.segment(0, *segment) > 0.1).collect::<Vec<_>>()
    };
    let pins = "a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8, dp = 9";
    let still = format!(
        "[face.berth]\nkind = \"seven-segment\"\ndigits = 1\ncommon = \"anode\"\n[face.berth.drive]\nmethod = \"static\"\n\
         segments = {{ {pins} }}\nresistor = {{ ohms = 330 }}\n"
    );
    let scanned = |switch: &str| {
        still.replace("digits = 1", "digits = 2").replace(
            "\"static\"\n",
            &format!("\"scanned\"\ndigits = [10, 11]\ndigit_switch = \"{switch}\"\n"),
        )
    };
    let (one, all) = (vec![1, 2], (0..8).collect::<Vec<_>>());
    assert_eq!(show(&still, "", "1"), one);
    let cathode = "[face.berth]\ncommon = \"cathode\"\n";
    assert!(show(&still, cathode, "1").is_empty(), "both ends at the supply");
    // With the circuit turned round too, what should be dark is lit.
    let turned = format!("{cathode}drive = {{ wired_for = \"cathode\" }}\n");
    assert_eq!(show(&still, &turned, "1"), [0, 3, 4, 5, 6, 7]);
    // A switch connects only its own rail. Straight pins also drive backwards: while the other digit is selected this one is lit where
    // that one has dark segments.
    assert_eq!(show(&scanned("pnp"), "", "1 "), one);
    assert!(show(&scanned("pnp"), cathode, "1 ").is_empty());
    assert_eq!(show(&scanned("none"), cathode, "1 "), all);
    assert_eq!(show(&scanned("none"), cathode, "18"), [7]);
}
