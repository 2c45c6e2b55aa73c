//! Recordings: what a driver sent is found again in the dump of its edges, and nothing that comes over the lines can
//! bring a model down.

use proptest::prelude::*;
use spare_tile_core::board::{Board, End};
use spare_tile_core::bus::Edge;
use spare_tile_core::capture::read::Dump;
use spare_tile_core::capture::story::{Follower, Happening, Wanted};
use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::capture::{Change, Reader, guess};
use spare_tile_core::plan::Rig;
use spare_tile_core::units::Nanos;

use crate::common::{Powered, frame, frames, lit};

/// A dump of power-up and these frames, each followed by a rest.
fn dump(rig: &Rig, frames: &[Vec<bool>]) -> String {
    let mount = &rig.faces[0];
    let mut board = Board::new(rig);
    board.record();
    let (levels, lines) = (board.levels(), board.lines_of(mount).to_vec());
    let mut powered = Powered::on(rig, board);
    for wanted in frames {
        powered.show(&frame(wanted));
        let rest = powered.scheduler.now() + Nanos(5_000_000);
        powered.scheduler.run_until(rest).unwrap();
    }
    let end = powered.scheduler.now();
    let edges = powered.scheduler.link_mut().recorded().into_iter();
    let line = |net| lines.iter().position(|line| *line == net).unwrap();
    let edges: Vec<_> = edges.map(|edge| Edge { line: line(edge.line), ..edge }).collect();
    let mut text = Vec::new();
    let scope = Scope {
        name: &mount.face.name,
        lines: mount.lines.iter().map(|line| line.role.as_str()).collect(),
        levels: lines.iter().map(|net| levels[*net]).collect(),
        edges: &edges,
    };
    vcd::write(&mut text, &[scope], end).unwrap();
    String::from_utf8(text).unwrap()
}

fn follow<'r>(rig: &'r Rig, text: &str, wanted: Wanted, piece: usize) -> (Vec<Happening<'r>>, Vec<bool>) {
    let mount = &rig.faces[0];
    let (mut reader, mut changes, mut happened) = (Dump::default(), Vec::new(), Vec::new());
    let mut follower: Option<Follower<'_>> = None;
    for piece in text.as_bytes().chunks(piece) {
        reader.feed(piece, &mut changes).unwrap();
        if changes.is_empty() {
            continue;
        }
        let map = || guess::by_names(mount, reader.wires()).unwrap();
        follower
            .get_or_insert_with(|| Follower::new(rig, mount, map(), wanted))
            .take(&changes, &mut happened);
        changes.clear();
    }
    let mut follower = follower.unwrap();
    follower.finish(reader.now(), &mut happened);
    let last = lit(&follower.picture());
    (happened, last)
}

/// The pictures that differ from the one before; the first from a dark face.
fn distinct(frames: &[Vec<bool>]) -> Vec<Vec<bool>> {
    let dark = vec![false; frames[0].len()];
    let mut before = &dark;
    let mut distinct = Vec::new();
    for frame in frames {
        if frame != before {
            distinct.push(frame.clone());
        }
        before = frame;
    }
    distinct
}

/// One part of each method that can be recognised by its traffic.
fn samples() -> Vec<guess::Candidate> {
    guess::candidates().iter().map(|candidate| guess::sample(candidate.method, &[]).unwrap()).collect()
}

/// Traffic that fits no part is reported as such: shift registers, expanders, and the lines of a scan.
#[test]
fn traffic_for_other_parts_fits_none() {
    let quay = Rig::read(include_str!("../../../cli/demo/quay.toml")).rig.unwrap();
    let gauge = Rig::read(include_str!("../../../cli/demo/gauge.toml")).rig.unwrap();
    let words = ["12", "48", "07", "99", "-4", "30"];
    let faces = (0..quay.faces.len()).map(|face| (&quay, face)).chain([(&gauge, 0)]);
    for (rig, face) in faces {
        let alone = Rig { faces: vec![rig.faces[face].clone()], ..rig.clone() };
        let mount = &alone.faces[0];
        let frames = words.map(|words| {
            let frame = crate::common::saying(&alone, words);
            frame.levels().iter().map(|level| level.0 > 0).collect()
        });
        let (mut reader, mut changes) = (Dump::default(), Vec::new());
        reader.feed(dump(&alone, &frames).as_bytes(), &mut changes).unwrap();
        assert!(changes.len() > 100);
        for candidate in guess::candidates() {
            let wires = reader.wires().len();
            let guess = guess::by_activity(&candidate.rig, &candidate.rig.faces[0], wires, &changes);
            let fits = guess.filter(guess::Guess::fits);
            assert!(fits.is_none(), "{} fits {}: {:?}", candidate.method, mount.face.name, fits);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn every_picture_is_found_again(frames in frames(64), part in 0..4_usize, piece in 10..5_000_usize) {
        let candidates = samples();
        let mount = &candidates[part].rig.faces[0];
        let elements = mount.face.element_count();
        let frames: Vec<Vec<bool>> = frames.iter().map(|frame| frame[..elements].to_vec()).collect();
        let text = dump(&candidates[part].rig, &frames);
        let (happened, last) = follow(&candidates[part].rig, &text, Wanted::Story, piece);
        let pictures: Vec<_> = happened.iter().filter_map(|happening| match happening {
            Happening::Picture(_, picture) => Some(lit(picture)),
            Happening::Note(note) => {
                assert!(!note.odd, "{}", note.words);
                None
            }
        }).collect();
        prop_assert_eq!(pictures, distinct(&frames));
        prop_assert_eq!(&last, frames.last().unwrap());
        prop_assert!(happened.is_sorted_by_key(|happening| happening.at()));
        prop_assert_eq!(follow(&candidates[part].rig, &text, Wanted::Last, piece).1, last);
    }

    #[test]
    fn the_part_is_told_from_its_traffic(frames in frames(64), part in 0..4_usize) {
        let candidates = samples();
        let mount = &candidates[part].rig.faces[0];
        let elements = mount.face.element_count();
        let frames: Vec<Vec<bool>> = frames.iter().map(|frame| frame[..elements].to_vec()).collect();
        let (mut reader, mut changes) = (Dump::default(), Vec::new());
        reader.feed(dump(&candidates[part].rig, &frames).as_bytes(), &mut changes).unwrap();
        let fits: Vec<_> = candidates.iter().filter_map(|candidate| {
            let guess = guess::by_activity(&candidate.rig, &candidate.rig.faces[0], reader.wires().len(), &changes)?;
            guess.fits().then_some((guess.score(), candidate.method))
        }).collect();
        prop_assert_eq!(fits.iter().max().map(|(_, method)| *method), Some(candidates[part].method), "{:?}", fits);
    }

    #[test]
    fn any_edges_on_any_part_are_survived(edges in prop::collection::vec((0..5_usize, any::<bool>(), 0..3_000_u64), 0..600)) {
        let bare = [include_str!("../../../cli/demo/quay.toml"), include_str!("../../../cli/demo/gauge.toml"), include_str!("../../../cli/demo/desk.toml")];
        let rigs = bare.iter().map(|source| Rig::read(source).rig.unwrap());
        let rigs: Vec<_> = rigs.chain(guess::candidates().into_iter().map(|candidate| candidate.rig)).collect();
        for mount in rigs.iter().flat_map(|rig| &rig.faces) {
            let mut end = End::new(mount);
            end.model_mut().listen();
            let mut at = Nanos(0);
            for (line, level, gap) in &edges {
                at = at + Nanos(*gap);
                end.take(&[Edge { at, line: *line, level: *level }]);
            }
            prop_assert!(end.light().iter().all(|light| (0.0..=1.0).contains(light)));
            prop_assert!(end.heard().len() <= 4 * edges.len() + 4);
        }
    }

    #[test]
    fn any_changes_are_followed(changes in prop::collection::vec((0..6_u32, 0..4_usize, 0..5_000_000_u64), 0..200)) {
        use spare_tile_core::capture::Level::{High, Low, Open, Unknown};
        let rig = Rig::read(include_str!("../../../cli/demo/gauge.toml")).rig.unwrap();
        let mut at = Nanos(0);
        let changes: Vec<_> = changes.into_iter().map(|(wire, level, gap)| {
            at = at + Nanos(gap);
            Change { at, wire, level: [Low, High, Open, Unknown][level] }
        }).collect();
        let map = vec![Some(0), Some(8), None, Some(9), Some(3)];
        let mut follower = Follower::new(&rig, &rig.faces[0], map, Wanted::Story);
        let mut happened = Vec::new();
        follower.take(&changes, &mut happened);
        follower.finish(at, &mut happened);
        prop_assert!(happened.is_sorted_by_key(|happening| happening.at()));
    }
}
