//! How fast the pipeline is: `cargo bench -p spare-tile-core`.
//!
//! Throughput is in items a second: characters, edges. The allocation figures show that a frame costs none
//! once its buffers stand.
#![allow(missing_docs, clippy::unwrap_used, clippy::expect_used)]

use std::time::Duration;

use divan::counter::ItemsCount;
use divan::{AllocProfiler, Bencher, black_box};
use spare_tile_core::board::Board;
use spare_tile_core::board::eye::Eye;
use spare_tile_core::bus::{Edge, Ops, Unanswered};
use spare_tile_core::content::Canvas;
use spare_tile_core::content::guess;
use spare_tile_core::content::text::{self, Align};
use spare_tile_core::dots::font::{Font, Setting};
use spare_tile_core::dots::own;
use spare_tile_core::dots::raster::Raster;
use spare_tile_core::dots::reduce::{Dither, Fit, Inks, Reduction, Sampling};
use spare_tile_core::dots::sprite::Sprite;
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::glyph::{BitOrder, Common, Style, glyph};
use spare_tile_core::plan::{BothRigs, Rig, scan};
use spare_tile_core::play::reel::{self, Sources};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::play::scroll::{Move, Pace, Scroll};
use spare_tile_core::play::turn::Turn;
use spare_tile_core::play::{Act, Inputs, Player, Reel, Track};
use spare_tile_core::rig::Document;
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
    let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
    bencher.counter(ItemsCount::new(digits)).bench_local(|| {
        text::write(black_box(&words), &mount.face, text::Field::whole(&mount.face, Align::Left), &mut frame)
            .unwrap();
        mount.wiring.to_nodes(frame.levels(), &mut nodes);
        black_box(&nodes);
    });
}

/// A step of a text that passes across 32x8 dots: from the text, set once, to the words for the chain.
#[divan::bench]
fn a_step_of_a_passing_text(bencher: Bencher<'_, '_>) {
    let source = "[face.board]\nkind = \"dots\"\nwidth = 32\nheight = 8\n[face.board.drive]\nmethod = \"max7219\"\n\
                  pins = { data = 1, clock = 2, select = 3 }\n";
    let rig = Rig::read(source).rig.expect("a sound rig");
    let mount = &rig.faces[0];
    let font = own::called("board").expect("our font");
    let strip = font.set("TEAL  07:58  BERTH 2", Setting::default()).expect("a line");
    let step = Duration::from_millis(60);
    let scroll = Scroll::new(strip, Move::Left, (32, 8), Pace { step, gap: None, times: None });
    let (mut frame, mut driver) = (mount.face.blank(), mount.drive.display().driver());
    let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
    let (mut ops, mut at, inputs) = (Ops::default(), Duration::ZERO, Inputs::default());
    bencher.bench_local(|| {
        at += step;
        frame.clear();
        scroll.draw(at, &inputs, &mut Canvas::whole(&mount.face, &mut frame));
        mount.wiring.to_nodes(frame.levels(), &mut nodes);
        ops.clear();
        driver.frame(black_box(&nodes), &mut ops);
        black_box(&ops);
    });
}

/// A photograph of this width, with two thirds as many rows, reduced to 32x8 dots.
#[divan::bench(args = [480, 1920])]
fn photograph_to_dots(bencher: Bencher<'_, '_>, width: usize) {
    let height = width * 2 / 3;
    let mut photograph = Raster::dark(width, height);
    for (x, y) in (0..height).flat_map(|y| (0..width).map(move |x| (x, y))) {
        photograph.set(x, y, [x * 255 / width, y * 255 / height, (x ^ y) % 256].map(|level| level as u8));
    }
    let reduction = Reduction {
        size: (32, 8),
        fit: Fit::Stretch,
        sampling: Sampling::Mean,
        dither: Dither::Diffusion,
        inks: Inks::One,
    };
    let pixels = ItemsCount::new(width * height);
    bencher.counter(pixels).bench_local(|| black_box(reduction.apply(black_box(&photograph))));
}

/// A text to a new frame each time: its one allocation.
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
    let rig = desk(digits);
    let mount = &rig.faces[0];
    let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
    let (mut driver, protocol) = (mount.drive.display().driver(), rig.protocol(mount).unwrap());
    let (mut ops, mut wires) = (Ops::default(), Unanswered::of(protocol));
    let mut frame = move |wires: &mut Unanswered| {
        // Another frame each time: what stays is not sent.
        nodes.iter_mut().step_by(3).for_each(|level| *level = Level(255 - level.0));
        ops.clear();
        wires.edges.clear();
        driver.frame(black_box(&nodes), &mut ops);
        let mut at = Nanos(0);
        for op in ops.iter() {
            at = protocol.send(op.transfer, at, wires).ended;
        }
    };
    frame(&mut wires);
    bencher.counter(ItemsCount::new(wires.edges.len())).bench_local(|| {
        frame(&mut wires);
        black_box(&wires.edges);
    });
}

/// Edges through the model.
#[divan::bench(args = [8, 64])]
fn edges_through_model(bencher: Bencher<'_, '_>, digits: usize) {
    let rig = desk(digits);
    let (mount, edges) = (&rig.faces[0], frame_edges(&rig, &words(digits)));
    let mut model = mount.drive.display().model(&mount.face);
    bencher.counter(ItemsCount::new(edges.len())).bench_local(|| model.take(black_box(&edges)));
}

/// Frames through scheduler, board and eye, every second one different.
#[divan::bench(args = [8, 64])]
fn frames_through_the_board(bencher: Bencher<'_, '_>, digits: usize) {
    use spare_tile_core::play::scheduler::Scheduler;
    let rig = desk(digits);
    let edges = frame_edges(&rig, &words(digits)).len();
    let face = &rig.faces[0].face;
    let (mut said, dark) = (face.blank(), face.blank());
    Canvas::whole(face, &mut said).write(&words(digits), Align::Left).unwrap();
    let mut scheduler = Scheduler::new(&rig, Board::new(&rig));
    scheduler.power_up(0).unwrap();
    let mut lit = false;
    bencher.counter(ItemsCount::new(edges)).bench_local(|| {
        lit = !lit;
        scheduler.show(0, if lit { &said } else { &dark }).unwrap();
    });
}

/// The edges of one frame after power-up.
fn frame_edges(rig: &Rig, words: &str) -> Vec<Edge> {
    let mount = &rig.faces[0];
    let mut frame = mount.face.blank();
    Canvas::whole(&mount.face, &mut frame).write(words, Align::Left).unwrap();
    let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
    mount.wiring.to_nodes(frame.levels(), &mut nodes);
    let protocol = rig.protocol(mount).unwrap();
    let (mut ops, mut wires) = (Ops::default(), Unanswered::of(protocol));
    mount.drive.display().driver().frame(&nodes, &mut ops);
    let mut at = Nanos(0);
    for op in ops.iter() {
        at = protocol.send(op.transfer, at, &mut wires).ended;
    }
    wires.edges
}

/// The bare four-digit gauge of the demo, scanned at 120 Hz.
fn gauge() -> Rig {
    Rig::read(include_str!("../../cli/demo/gauge.toml")).rig.expect("a sound rig")
}

/// A rig as a value, changed and planned: what a search through wirings does thousands of times a second.
#[divan::bench]
fn a_rig_from_a_value(bencher: Bencher<'_, '_>) {
    let mut document = Document::read(include_str!("../../cli/demo/gauge.toml")).expect("a rig");
    let mut turned = false;
    bencher.bench_local(|| {
        turned = !turned;
        document.set(&["face", "gauge", "drive", "segments", "a"], if turned { "GP14" } else { "GP2" });
        Rig::of(&document)
    });
}

/// An hour of a scan through the eye, as a stream: the edges of one turn, again and again.
#[divan::bench(sample_count = 3)]
fn an_hour_of_scan_through_the_eye(bencher: Bencher<'_, '_>) {
    let (rig, turns) = (gauge(), 3600 * 120_u64);
    let mount = &rig.faces[0];
    let mut frame = mount.face.blank();
    Canvas::whole(&mount.face, &mut frame).write("48.75", Align::Left).unwrap();
    let turn = Turn::record(BothRigs::new(&rig, None), 0, &frame).unwrap().expect("a scan");
    let edges = turns * turn.edges.len() as u64;
    let display = mount.drive.display();
    bencher.counter(ItemsCount::new(edges)).bench_local(|| {
        let nodes = display.geometry(&mount.face).node_count();
        let mut eye = Eye::new(display.model(&mount.face), nodes);
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

/// A clock that shows hours and minutes, its point blinking.
struct Clock;

impl Act for Clock {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        let minutes = elapsed.as_secs() / 60;
        let point = if elapsed.subsec_millis() < 500 { "." } else { "" };
        let words = format!("{:02}{point}{:02}", minutes / 60 % 24, minutes % 60);
        canvas.write(&words, Align::Left).unwrap();
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        Some(Duration::from_millis((elapsed.as_millis() as u64 / 500 + 1) * 500))
    }

    fn length(&self) -> Option<Duration> {
        None
    }
}

/// A day of a scanned four-digit clock through player, scheduler, board and eye.
#[divan::bench(sample_count = 3)]
fn a_day_of_a_scanned_clock(bencher: Bencher<'_, '_>) {
    let rig = gauge();
    let reel = Reel { tracks: vec![Track { face: 0, act: Box::new(Clock) }] };
    bencher.bench_local(|| {
        let mut player = Player::new(&rig, &reel, Board::new(&rig)).unwrap();
        player.advance(Duration::from_secs(24 * 3600)).unwrap();
        let now = player.scheduler().now();
        player.scheduler_mut().link_mut().sights(0, now)
    });
}

/// No files.
struct NoFiles;

impl Sources for NoFiles {
    fn sprite(&self, name: &str, _: &Reduction, _: bool) -> Result<Sprite, String> {
        Err(name.to_owned())
    }

    fn font(&self, name: &str) -> Result<Font, String> {
        Err(name.to_owned())
    }

    fn reel(&self, name: &str) -> Result<(String, Box<dyn Sources>), String> {
        Err(format!("there is no reel file {name}"))
    }
}

const DESK: [&str; 2] =
    [include_str!("../../cli/demo/desk.toml"), include_str!("../../cli/demo/morning.reel.toml")];
const LANDING: [&str; 2] =
    [include_str!("../../cli/demo/quillmoor.toml"), include_str!("../../cli/demo/quillmoor.reel.toml")];

/// A rig and a reel of the demo, so long, while the keys are asked for every ten milliseconds.
fn morning(bencher: Bencher<'_, '_>, [rig, reel]: [&str; 2], length: Duration) {
    let rig = Rig::read(rig).rig.unwrap();
    let program = reel::read(reel, &rig, &NoFiles, &[]).0.unwrap();
    bencher.bench_local(|| {
        let mut player = Player::of_program(&rig, &program, Board::new(&rig).at_rest()).unwrap();
        player.advance(length).unwrap();
        player.pictures().len()
    });
}

/// A day of the desk's morning, through operations and board.
#[divan::bench(sample_count = 1)]
fn a_day_of_the_desk(bencher: Bencher<'_, '_>) {
    morning(bencher, DESK, Duration::from_secs(24 * 3600));
}

/// A day of the landing's morning, on all its faces.
#[divan::bench(sample_count = 1)]
fn a_day_of_the_landing(bencher: Bencher<'_, '_>) {
    morning(bencher, LANDING, Duration::from_secs(24 * 3600));
}

/// The writes of one turn of the scan: frames a second, and no allocation.
#[divan::bench]
fn a_turn_of_the_scan(bencher: Bencher<'_, '_>) {
    let rig = gauge();
    let mount = &rig.faces[0];
    let mut driver = mount.drive.display().driver();
    let (nodes, mut ops) = (vec![Level::FULL; mount.wiring.node_count()], Ops::default());
    driver.frame(&nodes, &mut ops);
    let mut turn = move |ops: &mut Ops| {
        ops.clear();
        while driver.slot(ops).is_some() && !driver.begins_turn() {}
    };
    turn(&mut ops);
    bencher.counter(ItemsCount::new(ops.len())).bench_local(|| {
        turn(&mut ops);
        black_box(&ops);
    });
}

/// The plan: timing, pins of every way, doubts.
#[divan::bench]
fn plan_of_a_scan(bencher: Bencher<'_, '_>) {
    let rig = gauge();
    bencher.bench_local(|| scan::plan(black_box(&rig), &rig.faces[0]));
}

/// A colour panel of 64x64 at a scan of 1/32 with eight bits a colour.
fn panel() -> Rig {
    let rig = r#"
        [face.departures]
        kind = "dots"
        width = 64
        height = 64
        [face.departures.drive]
        method = "rgb-panel"
        pins = { r1 = 0, g1 = 1, b1 = 2, r2 = 3, g2 = 4, b2 = 5, a = 6, b = 7, c = 8, d = 9, e = 10, clock = 11, latch = 12, enable = 13 }
        clock_hz = 20_000_000
        depth = 8
        refresh_hz = 50
        bus_volts = 5.0
        "#;
    Rig::read(rig).rig.expect("a sound rig")
}

/// A photograph, as far as its levels go: none is like its neighbours.
fn photograph(rig: &Rig) -> Frame {
    let mut frame = rig.faces[0].face.blank();
    for (place, level) in frame.levels_mut().iter_mut().enumerate() {
        *level = Level(((place * 2_654_435_761) >> 13) as u8);
    }
    frame
}

/// From levels to the bit planes that are shifted out.
#[divan::bench]
fn a_panel_picture_to_planes(bencher: Bencher<'_, '_>) {
    let rig = panel();
    let (mount, frame) = (&rig.faces[0], photograph(&rig));
    let (mut driver, mut ops) = (mount.drive.display().driver(), Ops::default());
    let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
    bencher.counter(ItemsCount::new(1_u32)).bench_local(|| {
        mount.wiring.to_nodes(black_box(frame.levels()), &mut nodes);
        driver.frame(&nodes, &mut ops);
    });
}

/// The time to copy the planes of a picture, for comparison.
#[divan::bench]
fn a_copy_of_the_planes_of_a_panel(bencher: Bencher<'_, '_>) {
    let (from, mut to) = (vec![0x2A_u8; 32 * 8 * 64], vec![0_u8; 32 * 8 * 64]);
    bencher
        .counter(ItemsCount::new(1_u32))
        .bench_local(|| black_box(&mut to).copy_from_slice(black_box(&from)));
}

/// A turn of the scan over the lines of a board, watched by the eye: one picture.
#[divan::bench]
fn a_panel_picture_through_board_and_eye(bencher: Bencher<'_, '_>) {
    let rig = panel();
    let mut scheduler = Scheduler::new(&rig, Board::new(&rig));
    scheduler.power_up(0).unwrap();
    scheduler.show(0, &photograph(&rig)).unwrap();
    scheduler.settle(0).unwrap();
    bencher.counter(ItemsCount::new(1_u32)).bench_local(|| {
        let now = scheduler.now();
        scheduler.link_mut().open_eyes(now);
        scheduler.run_turn(0).unwrap();
        let now = scheduler.now();
        scheduler.link_mut().picture(0, now)
    });
}

/// The search over all 8! wirings in both polarities, with one wrong entry.
#[divan::bench]
fn guess_seven_expecting_digits(bencher: Bencher<'_, '_>) {
    let table = [0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x6D, 0x07, 0x7F, 0x6F];
    let usual = BitOrder::usual(Style::Seven);
    bencher.bench_local(|| guess::guess_expecting(black_box(&table), "0123456789", &usual, Common::Cathode));
}

/// The same over all 17! wirings of sixteen segments and their point.
#[divan::bench]
fn guess_sixteen_expecting_letters(bencher: Bencher<'_, '_>) {
    let letters: String = ('A'..='Z').collect();
    let usual = BitOrder::usual(Style::Sixteen);
    let bits = |letter| usual.bits(glyph(Style::Sixteen, letter).unwrap().segments, Common::Cathode);
    let table: Vec<_> = letters.chars().map(bits).collect();
    let usual = BitOrder::usual(Style::Sixteen);
    bencher.bench_local(|| guess::guess_expecting(black_box(&table), &letters, &usual, Common::Cathode));
}
