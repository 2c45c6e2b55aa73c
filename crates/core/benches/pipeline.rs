//! How fast the pipeline is: `cargo bench -p spare-tile-core`.
//!
//! Throughput is in items a second: characters, edges. The allocation figures show that a frame costs none
//! once its buffers stand.
#![allow(missing_docs, clippy::unwrap_used, clippy::expect_used)]

use divan::counter::ItemsCount;
use divan::{AllocProfiler, Bencher, black_box};
use spare_tile_core::bus::{Edge, Ops};
use spare_tile_core::frame::Level;
use spare_tile_core::glyph::text::{self, Align};
use spare_tile_core::glyph::{BitOrder, Common, Style, glyph, guess};
use spare_tile_core::rig::Rig;
use spare_tile_core::scan::eye::Eye;
use spare_tile_core::scan::plan;
use spare_tile_core::scan::recording::Recording;
use spare_tile_core::units::Nanos;

#[global_allocator]
static ALLOCATOR: AllocProfiler = AllocProfiler::system();

fn main() {
    divan::main();
}

fn desk(digits: usize) -> Rig {
    let rig = format!(
        r#"
        [face.desk]
        kind = "seven-segment"
        digits = {digits}
        [face.desk.drive]
        method = "max7219"
        pins = {{ data = "GP19", clock = "GP18", select = "GP17" }}
        clock_hz = 10_000_000
        "#
    );
    Rig::read(&rig).rig.expect("a sound rig")
}

fn words(digits: usize) -> String {
    "TEAL 0758.BERTH 2 48 AbOArd ".chars().cycle().filter(|c| *c != '.').take(digits).collect()
}

/// From text through glyphs and wiring to the levels of the nodes, into memory that is there already.
#[divan::bench(args = [8, 64])]
fn text_to_nodes(bencher: Bencher<'_, '_>, digits: usize) {
    let (rig, words) = (desk(digits), words(digits));
    let mount = &rig.faces[0];
    let mut frame = mount.face.blank();
    let mut nodes = vec![Level::OFF; mount.drive.wiring.node_count()];
    bencher.counter(ItemsCount::new(digits)).bench_local(|| {
        text::write(black_box(&words), &mount.face, text::Field::whole(&mount.face, Align::Left), &mut frame)
            .unwrap();
        mount.drive.wiring.to_nodes(frame.levels(), &mut nodes);
        black_box(&nodes);
    });
}

/// The same with a new frame each time: its one allocation.
#[divan::bench(args = [8, 64])]
fn text_to_new_frame(bencher: Bencher<'_, '_>, digits: usize) {
    let (rig, words) = (desk(digits), words(digits));
    let face = &rig.faces[0].face;
    bencher.counter(ItemsCount::new(digits)).bench_local(|| {
        let mut frame = face.blank();
        text::write(black_box(&words), face, text::Field::whole(face, Align::Left), &mut frame).unwrap();
        frame
    });
}

/// From the levels of the nodes through driver and bus to edges.
#[divan::bench(args = [8, 64])]
fn nodes_to_edges(bencher: Bencher<'_, '_>, digits: usize) {
    let (rig, words) = (desk(digits), words(digits));
    let mount = &rig.faces[0];
    let (mut ops, mut edges) = (Ops::default(), Vec::new());
    let count = frame_edges(&rig, &words, &mut edges);
    let mut nodes = vec![Level::OFF; mount.drive.wiring.node_count()];
    let (mut driver, mut bus) = (mount.drive.ends.driver(), mount.drive.ends.bus());
    nodes.iter_mut().step_by(3).for_each(|level| *level = Level::FULL);
    bencher.counter(ItemsCount::new(count)).bench_local(|| {
        ops.clear();
        driver.frame(black_box(&nodes), &mut ops);
        let mut at = Nanos(0);
        for op in ops.iter() {
            edges.clear();
            at = bus.send(op.bytes, at, &mut edges);
            black_box(&edges);
        }
    });
}

/// Edges through the model.
#[divan::bench(args = [8, 64])]
fn edges_through_model(bencher: Bencher<'_, '_>, digits: usize) {
    let rig = desk(digits);
    let mut edges = Vec::new();
    let count = frame_edges(&rig, &words(digits), &mut edges);
    let mut model = rig.faces[0].drive.ends.model();
    bencher.counter(ItemsCount::new(count)).bench_local(|| model.take(black_box(&edges)));
}

/// Fills in the edges of one frame and returns how many there are.
fn frame_edges(rig: &Rig, words: &str, edges: &mut Vec<Edge>) -> usize {
    let mount = &rig.faces[0];
    let mut frame = mount.face.blank();
    text::write(words, &mount.face, text::Field::whole(&mount.face, Align::Left), &mut frame).unwrap();
    let mut nodes = vec![Level::OFF; mount.drive.wiring.node_count()];
    mount.drive.wiring.to_nodes(frame.levels(), &mut nodes);
    let (mut ops, mut at, mut bus) = (Ops::default(), Nanos(0), mount.drive.ends.bus());
    mount.drive.ends.driver().frame(&nodes, &mut ops);
    for op in ops.iter() {
        at = bus.send(op.bytes, at, edges);
    }
    edges.len()
}

/// The bare four-digit gauge of the demo, scanned at 120 Hz.
fn gauge() -> Rig {
    Rig::read(include_str!("../../../demo/gauge.toml")).rig.expect("a sound rig")
}

/// An hour of a scan through the eye, as a stream: the edges of one turn, again and again.
#[divan::bench(sample_count = 3)]
fn an_hour_of_scan_through_the_eye(bencher: Bencher<'_, '_>) {
    let (rig, turns) = (gauge(), 3600 * 120_u64);
    let mount = &rig.faces[0];
    let mut frame = mount.face.blank();
    text::write("48.75", &mount.face, text::Field::whole(&mount.face, Align::Left), &mut frame).unwrap();
    let turn = Recording::of(mount, &frame).expect("a scan");
    let edges = turns * turn.edges.len() as u64;
    bencher.counter(ItemsCount::new(edges)).bench_local(|| {
        let mut eye = Eye::new(mount.drive.ends.model(), mount.drive.wiring.node_count());
        let mut shifted = turn.edges.clone();
        for index in 0..turns {
            let begin = Nanos(turn.length.0 * index);
            for (edge, of_turn) in shifted.iter_mut().zip(&turn.edges) {
                edge.at = begin + of_turn.at;
            }
            eye.take(&shifted);
        }
        eye.sights(Nanos(turn.length.0 * turns))
    });
}

/// The writes of one turn of the scan: frames a second, and no allocation.
#[divan::bench]
fn a_turn_of_the_scan(bencher: Bencher<'_, '_>) {
    let rig = gauge();
    let mount = &rig.faces[0];
    let mut driver = mount.drive.ends.driver();
    let (nodes, mut ops) = (vec![Level::FULL; mount.drive.wiring.node_count()], Ops::default());
    driver.frame(&nodes, &mut ops);
    let writes = ops.len();
    bencher.counter(ItemsCount::new(writes)).bench_local(|| {
        ops.clear();
        driver.turn(&mut ops);
        black_box(&ops);
    });
}

/// The plan: timing, pins of every way, doubts.
#[divan::bench]
fn plan_of_a_scan(bencher: Bencher<'_, '_>) {
    let rig = gauge();
    bencher.bench_local(|| plan::plan(black_box(&rig.faces[0])));
}

/// The search over all 8! wirings in both polarities, with one wrong entry.
#[divan::bench]
fn guess_seven_expecting_digits(bencher: Bencher<'_, '_>) {
    let table = [0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x6D, 0x07, 0x7F, 0x6F];
    bencher.bench_local(|| guess::guess_expecting(black_box(&table), "0123456789", Style::Seven));
}

/// The same over all 17! wirings of sixteen segments and their point.
#[divan::bench]
fn guess_sixteen_expecting_letters(bencher: Bencher<'_, '_>) {
    let letters: String = ('A'..='Z').collect();
    let usual = BitOrder::usual(Style::Sixteen);
    let bits = |letter| usual.bits(glyph(Style::Sixteen, letter).unwrap().segments, Common::Cathode);
    let table: Vec<_> = letters.chars().map(bits).collect();
    bencher.bench_local(|| guess::guess_expecting(black_box(&table), &letters, Style::Sixteen));
}
