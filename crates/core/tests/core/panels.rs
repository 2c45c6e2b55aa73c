//! Colour panels: any picture through any chain, the picture of panels that hang otherwise, and when it changes.

use crate::common::{Powered, rig};
use proptest::prelude::*;
use spare_tile_core::board::Board;
use spare_tile_core::board::fault::Fault;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::bus::{Op, Reply, Transfer};
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::link::Tap;
use spare_tile_core::part;
use spare_tile_core::plan::{BothRigs, DeviceId, Rig};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::rig::{Pin, Severity};
use spare_tile_core::units::Nanos;

const PINS: &str =
    "pins = { r1 = 0, g1 = 1, b1 = 2, r2 = 3, g2 = 4, b2 = 5, clock = 6, latch = 7, enable = 8, ";

/// A wall of panels with these lines added to its drive.
fn wall((width, height): (usize, usize), scan: usize, drive: &str) -> Rig {
    rig(&source((width, height), scan, drive))
}

fn source((width, height): (usize, usize), scan: usize, drive: &str) -> String {
    let address: Vec<_> = "abcde"
        .chars()
        .zip(9..)
        .take(scan.ilog2() as usize)
        .map(|(line, pin)| format!("{line} = {pin}"))
        .collect();
    format!(
        "[controller]\nsupply = {{ volts = 5.0, amps = 60.0 }}\n[face.departures]\nkind = \"dots\"\nwidth = {width}\nheight = {height}\n[face.departures.drive]\n\
         method = \"rgb-panel\"\n{PINS}{} }}\nscan = \"1/{scan}\"\nbus_volts = 5.0\nclock_hz = 20_000_000\n{drive}\n",
        address.join(", ")
    )
}

/// A picture of as many levels, which looks like nothing.
fn levels(count: usize, seed: u64) -> Vec<u8> {
    let mut state = seed | 1;
    let next = |_| {
        // The multiplier of a usual linear congruential generator: any will do.
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 56) as u8
    };
    (0..count).map(next).collect()
}

fn frame(levels: &[u8]) -> Frame {
    let mut frame = Frame::dark(levels.len());
    frame.levels_mut().iter_mut().zip(levels).for_each(|(slot, level)| *slot = Level(*level));
    frame
}

/// The intended light of each element: a step of the depth.
fn wanted(level: u8, depth: u32, gamma: f64) -> u32 {
    let steps = f64::from(2_u32.pow(depth) - 1);
    ((f64::from(level) / 255.0).powf(gamma) * steps).round() as u32
}

/// The light of each element, in steps of the depth; it must be near one.
fn seen(picture: &Picture<'_>, depth: u32) -> Vec<u32> {
    let steps = (2_u32.pow(depth) - 1) as f32;
    let step = |light: &f32| {
        let found = light * steps;
        assert!((found - found.round()).abs() < 0.02, "{found} is between two steps");
        found.round() as u32
    };
    picture.light.iter().map(step).collect()
}

/// A panel with a scan, and how many hang side by side and one below the other.
fn arrangement() -> impl Strategy<Value = ((usize, usize), usize, (usize, usize))> {
    let panel = prop::sample::select(&[
        ((32, 16), 8),
        ((32, 16), 4),
        ((64, 32), 16),
        ((64, 32), 8),
        ((32, 32), 16),
        ((64, 64), 32),
        ((32, 64), 16),
    ]);
    (panel, (1..=3_usize, 1..=3_usize)).prop_map(|((panel, scan), hung)| (panel, scan, hung))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn any_picture_through_any_chain_comes_back_to_the_depth(
        (panel, scan, (across, down)) in arrangement(),
        (first, first_row, serpentine, upright) in (any::<bool>(), any::<bool>(), any::<bool>(), any::<bool>()),
        (on_its_head, quarter) in (any::<usize>(), any::<bool>()),
        (block, fold_first, fold_serpentine) in (prop::sample::select(&[4, 8, 16, 32]), any::<bool>(), any::<bool>()),
        order in prop::sample::select(&["rgb", "rbg", "grb", "gbr", "brg", "bgr"]),
        (depth, gamma) in (1..=8_u32, prop::sample::select(&[1.0, 2.2, 2.8])),
        seed in any::<u64>(),
    ) {
        let word = |is: bool, one: &'static str, other: &'static str| if is { one } else { other };
        let rotate = if upright { 90 } else { 0 } + if quarter { 180 } else { 0 };
        let panels = format!(
            "panels = {{ first = \"{}\", first_row = \"{}\", serpentine = {serpentine}, rotate = {rotate}, except = [{{ panel = {}, rotate = {} }}] }}",
            word(first, "left", "right"), word(first_row, "top", "bottom"), on_its_head % (across * down), (rotate + 180) % 360,
        );
        let fold = format!(
            "fold = {{ block = {block}, first = \"{}\", serpentine = {fold_serpentine} }}", word(fold_first, "top", "bottom")
        );
        let folds = panel.1 / 2 / scan;
        let (wide, high) = if upright { (panel.1, panel.0) } else { panel };
        let rig = wall((wide * across, high * down), scan, &format!(
            "panel = \"{}x{}\"\ncolour_order = \"{order}\"\ndepth = {depth}\ngamma = {gamma:?}\nrefresh_hz = 5\n{panels}\n{}",
            panel.0, panel.1, if folds > 1 { fold } else { String::new() },
        ));
        let levels = levels(rig.faces[0].face.element_count(), seed);
        let mut powered = Powered::new(&rig);
        powered.show(&frame(&levels));
        let wanted: Vec<_> = levels.iter().map(|level| wanted(*level, depth, gamma)).collect();
        prop_assert_eq!(seen(&powered.picture(), depth), wanted);
    }

    #[test]
    fn a_frame_never_shows_half_drawn_however_late_it_comes(late in 0.0..3.0_f64) {
        let rig = wall((32, 16), 8, "depth = 2\ngamma = 1.0");
        let count = rig.faces[0].face.element_count();
        // The last data that were shifted in and, by latch, the address and the data that it lights.
        let (mut shifted, mut latched) = (0, Vec::new());
        let tell = |_: DeviceId, op: &Op<'_>, _: &Reply, _: &mut Board<'_>| match op.transfer {
            Transfer::Burst { columns } => shifted = columns[0] & 0x3F,
            Transfer::Ports { levels, .. } if levels[0] & 1 == 1 => latched.push((levels[0] >> 2, shifted)),
            _ => {}
        };
        let mut scheduler = Scheduler::new(&rig, Tap { link: Board::new(&rig), tell });
        scheduler.power_up(0).unwrap();
        // Of the old frame only the lower plane is lit, of the new one only the upper.
        scheduler.show(0, &frame(&vec![85; count])).unwrap();
        let turn = scheduler.turn(0).unwrap();
        let at = scheduler.now() + Nanos((late * turn.0 as f64) as u64);
        scheduler.run_until(at).unwrap();
        scheduler.show(0, &frame(&vec![170; count])).unwrap();
        scheduler.run_until(at + Nanos(3 * turn.0)).unwrap();
        drop(scheduler);
        // Each address is latched twice, first with its lower plane.
        let is_new: Vec<_> = latched.iter().enumerate().map(|(place, (_, lines))| (*lines == 0x3F) == (place % 2 == 1)).collect();
        prop_assert!(latched.iter().all(|(_, lines)| [0, 0x3F].contains(lines)));
        let first = is_new.iter().position(|is_new| *is_new).unwrap();
        prop_assert!(is_new[first..].iter().all(|is_new| *is_new), "never back");
        prop_assert_eq!((first % 2, latched[first].0), (0, 0), "from the first row on");
    }

    #[test]
    fn panels_that_hang_otherwise_show_the_picture_turned_as_they_hang(seed in any::<u64>()) {
        let drive = "depth = 3\ngamma = 1.0\n";
        let described = wall((64, 16), 8, &format!("{drive}panel = \"32x16\""));
        let levels = levels(64 * 16 * 3, seed);
        let shown = |built: &str| {
            let built = wall((64, 16), 8, &format!("{drive}panel = \"32x16\"\n{built}"));
            let mut powered = Powered::built_as(&described, &built);
            powered.show(&frame(&levels));
            seen(&powered.picture(), 3)
        };
        let at = |x: usize, y: usize, colour: usize| wanted(levels[(y * 64 + x) * 3 + colour], 3, 1.0);
        let expected = |from: &dyn Fn(usize, usize, usize) -> u32| -> Vec<u32> {
            (0..16).flat_map(|y| (0..64).flat_map(move |x| [0, 1, 2].map(|colour| from(x, y, colour)))).collect()
        };
        // The panel that the controller feeds, at the right, on its head.
        let on_its_head = shown("panels = { except = [{ panel = 0, rotate = 180 }] }");
        prop_assert_eq!(on_its_head, expected(&|x, y, colour| if x < 32 { at(x, y, colour) } else { at(95 - x, 15 - y, colour) }));
        // Fed at the other end: the chain runs the other way, and every panel too.
        let at_the_left = shown("panels = { first = \"left\" }");
        prop_assert_eq!(at_the_left, expected(&|x, y, colour| at(63 - x, y, colour)));
        // Green and blue exchanged in the panel.
        let exchanged = shown("colour_order = \"rbg\"");
        prop_assert_eq!(exchanged, expected(&|x, y, colour| at(x, y, [0, 2, 1][colour])));
    }
}

#[test]
fn a_burst_in_one_piece_is_the_same_as_edge_by_edge() {
    let rig = wall((64, 32), 16, "depth = 5\nbrightness = 9");
    let levels = levels(rig.faces[0].face.element_count(), 48);
    let seen = |records: bool| {
        let mut board = Board::new(&rig);
        // A recorder gets every edge.
        if records {
            board.record();
        }
        let mut powered = Powered::on(&rig, board);
        powered.show(&frame(&levels));
        let picture = powered.picture();
        let now = powered.scheduler.now();
        let board = powered.scheduler.link_mut();
        (picture.light, board.sights(0, now), board.levels(), board.recorded().len())
    };
    let (in_one_piece, edge_by_edge) = (seen(false), seen(true));
    assert!(in_one_piece.0 == edge_by_edge.0 && in_one_piece.1 == edge_by_edge.1);
    assert_eq!(in_one_piece.2, edge_by_edge.2);
    assert!(in_one_piece.3 == 0 && edge_by_edge.3 > 10_000);
}

/// The lights of a picture that are at least so bright, dot by dot.
fn bright(picture: &Picture<'_>) -> Vec<bool> {
    picture.light.chunks(3).map(|lights| lights.iter().any(|light| *light > 0.25)).collect()
}

/// A frame of a 32x16 panel with one white row.
fn row(y: usize) -> Frame {
    let mut levels = vec![0; 32 * 16 * 3];
    levels[y * 96..(y + 1) * 96].fill(255);
    frame(&levels)
}

/// The rows of a 32x16 panel in which any dot is bright.
fn bright_rows(picture: &Picture<'_>) -> Vec<usize> {
    bright(picture).chunks(32).enumerate().filter(|(_, row)| row.contains(&true)).map(|(y, _)| y).collect()
}

#[test]
fn a_loose_address_line_shows_two_rows_on_one() {
    let rig = wall((32, 16), 8, "depth = 2");
    let mut board = Board::new(&rig);
    // Line C has the weight of four rows: rows 4 to 7 come out on rows 0 to 3.
    board.put(&Fault::Open { pin: Pin::parse("11").unwrap() });
    let mut powered = Powered::on(&rig, board);
    powered.show(&row(5));
    assert_eq!(bright_rows(&powered.picture()), [1]);
    powered.show(&row(14));
    assert_eq!(bright_rows(&powered.picture()), [10]);
}

#[test]
fn a_panel_of_another_scan_is_noticed() {
    let described = wall((32, 32), 16, "depth = 1");
    let built = wall((32, 32), 8, "depth = 1");
    let mut board = Board::built_as(BothRigs { described: &described, built: &built });
    board.end(0).unwrap().model_mut().listen();
    let mut powered = Powered::on(&described, board);
    powered.show(&frame(&vec![255; 32 * 32 * 3]));
    powered.picture();
    let heard = powered.scheduler.link_mut().end(0).unwrap().heard();
    let odd: Vec<_> = heard.iter().filter(|note| note.odd).map(|note| note.meaning.plainly()).collect();
    assert_eq!(odd[0], "a latch after 32 clocks; the panels have 64 columns for an address");
}

#[test]
fn too_short_a_blanking_ghosts_on_the_row_before() {
    let ghost = |blanking: &str| {
        let rig = wall((32, 16), 8, &format!("depth = 1\nblanking = \"{blanking}\""));
        let mut powered = Powered::new(&rig);
        powered.show(&row(5));
        powered.picture();
        let now = powered.scheduler.now();
        let sights = powered.scheduler.link_mut().sights(0, now);
        let of_row = |y: usize| sights[y * 96].light;
        // The intended row, the row before, and any other.
        (of_row(5), of_row(4), of_row(6) + of_row(13) + of_row(3))
    };
    let (meant, before, others) = ghost("100ns");
    assert!(before > 0.0 && before < 0.05 * meant && others == 0.0, "{before} of {meant}");
    let (_, before, others) = ghost("600ns");
    assert_eq!((before, others), (0.0, 0.0));
}

#[test]
fn brightness_dims_all_shades_alike() {
    let rig = wall((32, 16), 8, "depth = 4\ngamma = 1.0\nrefresh_hz = 60");
    let count = rig.faces[0].face.element_count();
    let mut powered = Powered::new(&rig);
    powered.show(&frame(&(0..count).map(|place| (place % 16 * 17) as u8).collect::<Vec<_>>()));
    let full = powered.picture().light;
    powered.scheduler.brightness(0, 3).unwrap();
    powered.scheduler.settle(0).unwrap();
    let dimmed = powered.picture().light;
    for (full, dimmed) in full.iter().zip(&dimmed) {
        assert!((full * 0.25 - dimmed).abs() < 0.002, "{full} {dimmed}");
    }
    powered.scheduler.off(0).unwrap();
    powered.scheduler.settle(0).unwrap();
    assert!(powered.picture().light.iter().all(|light| *light == 0.0));
    powered.scheduler.on(0).unwrap();
    assert_eq!(powered.picture().light, dimmed);
}

#[test]
fn every_brightness_lights_each_plane_for_its_clocks() {
    // Planes of 4 to 128 clocks and 32 columns: some end before the columns do, some after, and at step 7 one just then.
    let rig = wall((32, 16), 8, "depth = 6\ngamma = 1.0\nrefresh_hz = 5500");
    let planes = [4.0, 8.0, 16.0, 32.0, 64.0, 128.0_f64];
    let mut powered = Powered::new(&rig);
    powered.show(&frame(&vec![255; rig.faces[0].face.element_count()]));
    for step in 0..=15_u8 {
        powered.scheduler.brightness(0, step).unwrap();
        powered.scheduler.settle(0).unwrap();
        let clocks = planes.map(|clocks| (clocks * f64::from(step + 1) / 16.0).round());
        let share = clocks.iter().sum::<f64>() / planes.iter().sum::<f64>();
        for light in powered.picture().light {
            assert!((f64::from(light) - share).abs() < 0.002, "step {step}: {light}, not {share}");
        }
    }
}

/// The findings about a panel, without the notes.
fn findings(drive: &str) -> Vec<String> {
    let reading = Rig::read(&source((64, 32), 16, drive));
    let found = reading.findings.iter().filter(|finding| finding.severity != Severity::Note);
    found
        .map(|finding| format!("{} / {}", finding.trouble, finding.trouble.fix().unwrap_or_default()))
        .collect()
}

#[test]
fn what_is_wrong_with_a_panel_is_told() {
    assert_eq!(findings(""), Vec::<String>::new());
    let first = |drive: &str| findings(drive)[0].clone();
    assert!(first("panel = \"64x33\"").starts_with("\"64x33\" is not a size of a panel"));
    assert!(
        first("panel = \"128x32\"")
            .starts_with("the face has 64x32 dots, which is not a whole number of panels of 128x32")
    );
    assert!(first("colour_order = \"rgg\"").starts_with("each colour is lit by one of the lines"));
    assert!(first("depth = 9").starts_with("found 9; expected a number from 1 to 8"));
    assert!(
        first("blanking = \"200ns\"")
            .contains("each row ghosts on the one before / write blanking = \"500 ns\" or more")
    );
    assert!(first("refresh_hz = 2000\ndepth = 8").contains("/ write depth = "));
    assert!(
        first("panels = { except = [{ panel = 1, rotate = 180 }] }")
            .starts_with("found 1; expected a panel of this face, 0 to 0")
    );
    assert!(
        first("panels = { except = [{ panel = 0, rotate = 90 }] }")
            .starts_with("a wall of panels that stand upright")
    );
    assert!(first("fold = { block = 8 }").contains("no fold"));
}

#[test]
fn address_lines_are_those_of_the_scan() {
    let with = |scan: usize, pins: &str| {
        let source = source((64, 32), 16, "").replace("1/16", &format!("1/{scan}"));
        let (head, rest) = source.split_once("a = 9").unwrap();
        let (_, tail) = rest.split_once('}').unwrap();
        let reading = Rig::read(&format!("{head}{pins} }}{tail}"));
        let found = reading.findings.into_iter().find(|finding| finding.severity != Severity::Note);
        found.map(|finding| finding.trouble.to_string())
    };
    assert_eq!(with(16, "a = 9, b = 10, c = 11, d = 12"), None);
    assert_eq!(
        with(16, "a = 9, b = 10, c = 11").unwrap(),
        "scan 1/16 needs address line d, and it is not wired"
    );
    assert_eq!(with(8, "a = 9, b = 10, c = 11"), None);
    let spare = with(16, "a = 9, b = 10, c = 11, d = 12, e = 13").unwrap();
    assert_eq!(spare, "scan 1/16 does not use address line e");
    assert!(
        with(32, "a = 9, b = 10, c = 11, d = 12, e = 13")
            .unwrap()
            .starts_with("\"1/32\" is not a scan of a panel 32 rows high")
    );
}

/// Thirteen lines by the connector: six of colours, four of the address, clock, latch and enable.
#[test]
fn a_panel_needs_its_connector_and_has_a_slot_for_each_bit_of_a_row() {
    let rig = wall((64, 32), 16, "depth = 3\n");
    let mount = &rig.faces[0];
    let needs = part::method("rgb-panel").and_then(|method| method.needs(&mount.face)).unwrap();
    assert_eq!((needs.pins, mount.lines.len()), (13, 13));
    assert_eq!(mount.drive.display().scan().unwrap().slots, 16 * 3);
}
