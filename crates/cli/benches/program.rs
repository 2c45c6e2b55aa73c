//! How fast the program is: `cargo bench -p spare-tile`.
#![allow(missing_docs, clippy::unwrap_used, clippy::expect_used)]

use std::path::PathBuf;
use std::process::{Command, Stdio};
use std::sync::OnceLock;
use std::time::Duration;

use divan::Bencher;
use spare_tile::exports::gif::Film;
use spare_tile::exports::png::Png;
use spare_tile::exports::{Moving, Still};
use spare_tile::view::page::Page;
use spare_tile::view::{picture, pixels};
use spare_tile_core::board::Board;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::content::Canvas;
use spare_tile_core::content::text::Align;
use spare_tile_core::plan::Rig;
use spare_tile_core::play::scheduler::Scheduler;

fn main() {
    divan::main();
}

const LANDING: &str = include_str!("../demo/landing.toml");

/// A drawing of what eight digits show.
fn drawing(words: &str) -> Page {
    let rig = Rig::read(LANDING).rig.expect("a sound rig");
    let face = &rig.faces[0].face;
    let mut frame = face.blank();
    Canvas::whole(face, &mut frame).write(words, Align::Left).unwrap();
    let mut scheduler = Scheduler::new(&rig, Board::new(&rig));
    scheduler.power_up(0).unwrap();
    scheduler.show(0, &frame).unwrap();
    picture::draw(&scheduler.expose(0).unwrap())
}

/// From a drawing of eight digits to the bytes of a PNG.
#[divan::bench]
fn drawing_to_png(bencher: Bencher<'_, '_>) {
    let page = drawing("tEAL 07.5");
    bencher.bench_local(|| Png.write(&page).unwrap());
}

/// A frame of an animation in which one digit of a scan has changed.
#[divan::bench]
fn next_frame_of_an_animation(bencher: Bencher<'_, '_>) {
    let without_glow = |words| {
        let mut page = drawing(words);
        page.items.retain(|item| !matches!(item, spare_tile::view::page::Item::Glow { .. }));
        page
    };
    let pages = [without_glow("tEAL 07.5"), without_glow("tEAL 07.6")];
    let mut canvas = pixels::Canvas::new(&pages[0], 0.8).unwrap();
    canvas.show(pages[0].clone());
    let mut next = 0;
    bencher.bench_local(|| {
        next = 1 - next;
        canvas.show(pages[next].clone())
    });
}

/// A minute of a colour panel of 64x32 at fifty pictures a second, every dot of which changes each time.
#[divan::bench(sample_count = 3)]
fn a_minute_of_a_colour_panel_as_gif(bencher: Bencher<'_, '_>) {
    const PICTURES: usize = 3_000;
    let rig = Rig::read(include_str!("../demo/departures.toml")).rig.expect("a sound rig");
    let face = &rig.faces[0].face;
    let grid = face.dots().unwrap();
    bencher.bench_local(|| {
        let mut film = Film::of_dots(grid, Duration::from_secs(60));
        for number in 0..PICTURES {
            // Bands of colour that move across.
            let light = |element: usize| {
                let (dot, channel) = (element / 3, element % 3);
                let phase = (dot % 64 + dot / 64 + number + 21 * channel) % 64;
                (phase / 8) as f32 / 8.0
            };
            let light = (0..face.element_count()).map(light).collect();
            let at = Duration::from_millis(20 * number as u64);
            film.show(picture::draw(&Picture { face, light }), at).unwrap();
        }
        film.finish(Duration::from_secs(60)).unwrap()
    });
}

/// Whole processes: the yardstick is a Rust program that does nothing.
#[divan::bench(sample_count = 300)]
fn process_empty(bencher: Bencher<'_, '_>) {
    bencher.bench_local(|| run(Command::new(empty_program())));
}

#[divan::bench(sample_count = 300)]
fn process_encode_8(bencher: Bencher<'_, '_>) {
    bencher.bench_local(|| spare_tile(&["encode", "8"]));
}

/// A hundred rows of bits in text, and the search over all wirings.
#[divan::bench]
fn process_table_ascii(bencher: Bencher<'_, '_>) {
    bencher.bench_local(|| spare_tile(&["table", "--set", "ascii"]));
}

#[divan::bench]
fn process_decode_expect(bencher: Bencher<'_, '_>) {
    let line = "decode 3F 06 5B 4F 66 6D 7D 07 7F 6F --guess --expect 0123456789";
    let words: Vec<_> = line.split(' ').collect();
    bencher.bench_local(|| spare_tile(&words));
}

fn spare_tile(words: &[&str]) {
    let mut command = Command::new(env!("CARGO_BIN_EXE_spare-tile"));
    command.args(words);
    run(command);
}

fn run(mut command: Command) {
    assert!(command.stdout(Stdio::null()).status().unwrap().success());
}

/// An empty Rust program, compiled once for this run.
fn empty_program() -> &'static PathBuf {
    static PROGRAM: OnceLock<PathBuf> = OnceLock::new();
    PROGRAM.get_or_init(|| {
        let folder = tempfile::tempdir().unwrap().keep();
        let (source, program) = (folder.join("empty.rs"), folder.join("empty"));
        std::fs::write(&source, "fn main() {}").unwrap();
        let rustc = Command::new("rustc").arg("-O").arg(&source).arg("-o").arg(&program).status().unwrap();
        assert!(rustc.success());
        program
    })
}
