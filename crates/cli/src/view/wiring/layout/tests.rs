use proptest::prelude::*;
use spare_tile_core::plan::{Rig, wires};

use super::*;

/// Everything that belongs to one wire, as strokes.
fn wires_of(layout: &Layout) -> Vec<Vec<Vec<Point>>> {
    let mut all: Vec<Vec<Vec<Point>>> = layout.runs.iter().map(|run| vec![run.path.clone()]).collect();
    for pin in &layout.pins {
        all[pin.connection].push(pin.path.clone());
    }
    all.extend(layout.nets.iter().map(|net| net.strokes.clone()));
    all
}

/// The pieces of a wire, each from a point to one further right or down.
fn pieces(wire: &[Vec<Point>]) -> Vec<(Point, Point)> {
    let ends = wire.iter().flat_map(|stroke| stroke.windows(2)).map(|ends| (ends[0], ends[1]));
    ends.map(|(a, b)| if (a.0 + a.1) <= (b.0 + b.1) { (a, b) } else { (b, a) }).collect()
}

/// Returns true if two pieces run along each other.
fn overlap(a: (Point, Point), b: (Point, Point)) -> bool {
    let close = |a: f32, b: f32| (a - b).abs() < 1.0;
    let shared = |a: (f32, f32), b: (f32, f32)| a.1.min(b.1) - a.0.max(b.0) > 1.0;
    let upright = |piece: (Point, Point)| close(piece.0.0, piece.1.0);
    match (upright(a), upright(b)) {
        (true, true) => close(a.0.0, b.0.0) && shared((a.0.1, a.1.1), (b.0.1, b.1.1)),
        (false, false) => close(a.0.1, b.0.1) && shared((a.0.0, a.1.0), (b.0.0, b.1.0)),
        _ => false,
    }
}

fn check(source: &str) {
    let reading = Rig::read(source);
    let rig = reading.rig.unwrap_or_else(|| panic!("{:#?}\n{source}", reading.findings));
    for mount in &rig.faces {
        let wiring = wires::list(&rig, mount);
        let layout = of(&wiring, mount.package.as_ref(), 50.0, 400.0, 60.0);
        let wires = wires_of(&layout);
        for (index, wire) in wires.iter().enumerate() {
            let others = wires[index + 1..].iter();
            for (a, b) in others.flat_map(|other| {
                pieces(wire).into_iter().flat_map(|a| pieces(other).into_iter().map(move |b| (a, b)))
            }) {
                assert!(!overlap(a, b), "{a:?} runs along {b:?}\n{source}");
            }
            for (x, y) in wire.iter().flatten() {
                assert!(
                    (0.0..=layout.width).contains(x) && (0.0..=layout.foot).contains(y),
                    "({x}, {y}) is off the page"
                );
            }
        }
        // Every end is at a pin of a box, and every pin of a box at an end.
        let ends: Vec<Point> = wires
            .iter()
            .flatten()
            .flat_map(|stroke| [stroke.first(), stroke.last()])
            .flatten()
            .copied()
            .collect();
        for chip in &layout.boxes {
            let pins = chip
                .above
                .iter()
                .map(|pin| (pin.x, chip.top))
                .chain(chip.below.iter().map(|pin| (pin.x, chip.top + BOX)));
            for pin in pins {
                assert!(chip.left <= pin.0 && pin.0 <= chip.right, "{}: a pin beside it", chip.title);
                assert!(ends.contains(&pin), "{}: nothing at {pin:?}\n{source}", chip.title);
            }
        }
        for (connection, run) in
            wiring.display.iter().zip(&layout.runs).filter(|(connection, _)| !connection.is_rail)
        {
            let end = run.path.last().copied().unwrap();
            let is_at = |chip: &ChipBox| chip.top == end.1 && chip.above.iter().any(|pin| pin.x == end.0);
            assert!(layout.boxes.iter().any(is_at), "{} ends at nothing", connection.function);
        }
    }
}

#[test]
fn no_two_wires_of_the_landing_run_along_each_other() {
    for rig in [
        include_str!("../../../../demo/berth.toml"),
        include_str!("../../../../demo/beacon.toml"),
        include_str!("../../../../demo/board.toml"),
        include_str!("../../../../demo/desk.toml"),
        include_str!("../../../../demo/gauge.toml"),
        include_str!("../../../../demo/landing.toml"),
        include_str!("../../../../demo/quay.toml"),
        include_str!("../../../../demo/sign.toml"),
    ] {
        check(rig);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Registers in any number behind a display whose pins are in any order, common pins doubled.
    #[test]
    fn nor_of_any_display(
        order in Just((0..12_usize).collect::<Vec<_>>()).prop_shuffle(),
        outputs in Just((0..24_usize).collect::<Vec<_>>()).prop_shuffle(),
        again in 8..12_usize,
        resistor in prop_oneof!["segments", "digits"],
    ) {
        const FUNCTIONS: [&str; 12] =
            ["a", "b", "c", "d", "e", "f", "g", "dp", "digit0", "digit1", "digit2", "digit3"];
        let mut package: Vec<_> = order.iter().map(|pin| format!("{:?}", FUNCTIONS[*pin])).collect();
        package.push("\"-\"".to_owned());
        package.push(format!("{:?}", FUNCTIONS[again]));
        let output = |place: usize| {
            let stage = char::from(b'A' + (outputs[place] % 8) as u8);
            format!("\"part{}.Q{stage}\"", outputs[place] / 8)
        };
        let segments: Vec<_> = (0..8).map(|at| format!("{} = {}", FUNCTIONS[at], output(at))).collect();
        let digits: Vec<_> = (8..12).map(output).collect();
        check(&format!(
            "[face.tide]\nkind = \"seven-segment\"\ndigits = 4\ncommon = \"cathode\"\npackage = [{}]\n\
             [face.tide.drive]\nmethod = \"shifted\"\npins = {{ data = 1, clock = 2, latch = 3, enable = 4 }}\n\
             segments = {{ {} }}\ndigits = [{}]\nresistor = {{ ohms = 330, in = \"{resistor}\" }}\n",
            package.join(", "), segments.join(", "), digits.join(", ")
        ));
    }

    /// Chains of any length, longer ones than are drawn chip by chip included.
    #[test]
    fn nor_of_any_chain(digits in 1..64_usize, doubled in prop::collection::vec(any::<bool>(), 3)) {
        let pins: Vec<_> = doubled.iter().enumerate().map(|(pin, long)| if *long { format!("\"GPIO{pin}\"") } else { pin.to_string() }).collect();
        check(&format!(
            "[face.desk]\nkind = \"seven-segment\"\ndigits = {digits}\n[face.desk.drive]\nmethod = \"max7219\"\n\
             pins = {{ data = {}, clock = {}, select = {} }}\n", pins[0], pins[1], pins[2]
        ));
    }
}
