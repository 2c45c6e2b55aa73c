//! How fast the program is: `cargo bench -p spare-tile`.
#![allow(missing_docs, clippy::unwrap_used, clippy::expect_used)]

use std::path::PathBuf;
use std::process::{Command, Stdio};
use std::sync::OnceLock;

use divan::Bencher;
use spare_tile::view::{raster, svg};
use spare_tile_core::glyph::text::{self, Align};
use spare_tile_core::pipeline::Pipeline;
use spare_tile_core::rig::Rig;

fn main() {
    divan::main();
}

const LANDING: &str = include_str!("../../../demo/landing.toml");

/// From a picture of eight digits to the bytes of a PNG.
#[divan::bench]
fn picture_to_png(bencher: Bencher<'_, '_>) {
    let rig = Rig::read(LANDING).rig.expect("a sound rig");
    let desk = rig.face("desk").expect("a desk");
    let mut frame = desk.face.blank();
    text::write("tEAL 07.5", &desk.face, text::Field::whole(&desk.face, Align::Left), &mut frame).unwrap();
    let mut pipeline = Pipeline::new(desk);
    pipeline.power_up();
    pipeline.show(&frame);
    let picture = pipeline.picture();
    bencher.bench_local(|| raster::png(&svg::draw(&picture)).unwrap());
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
