//! The value change dump says the same as the edges that it was made from.

use std::collections::HashMap;

use crate::common::{Powered, berth, max7219, saying};
use spare_tile_core::board::Board;
use spare_tile_core::bus::Edge;
use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::plan::Rig;
use spare_tile_core::units::Nanos;

/// The levels at power-up and the edges of a rig's face, numbered as its lines.
fn traffic(rig: &Rig, words: &str) -> (Vec<Option<bool>>, Vec<Edge>) {
    let mut board = Board::new(rig);
    board.record();
    let (levels, lines) = (board.levels(), board.lines_of(&rig.faces[0]).to_vec());
    let mut powered = Powered::on(rig, board);
    powered.show(&saying(rig, words));
    let edges = powered.scheduler.link_mut().recorded().into_iter();
    let line = |net| lines.iter().position(|line| *line == net).unwrap();
    let edges = edges.map(|edge| Edge { line: line(edge.line), ..edge }).collect();
    (lines.iter().map(|net| levels[*net]).collect(), edges)
}

/// Reads a dump as the standard has it, without a look at how it was written: scopes, wires and changes.
fn read(dump: &str) -> Vec<(u64, String, char)> {
    let (mut names, mut changes) = (HashMap::new(), Vec::new());
    let (mut scope, mut now) = ("", 0);
    for line in dump.lines() {
        let words: Vec<_> = line.split_whitespace().collect();
        match words[..] {
            ["$scope", "module", name, "$end"] => scope = name,
            ["$var", "wire", "1", code, name, "$end"] => {
                names.insert(code.to_owned(), format!("{scope}.{name}"));
            }
            [time] if time.starts_with('#') => {
                let later = time[1..].parse().unwrap();
                assert!(later >= now, "time runs back at {line}");
                now = later;
            }
            [change] if change.starts_with(['0', '1', 'z']) => {
                changes.push((now, names[&change[1..]].clone(), change.chars().next().unwrap()));
            }
            _ => {}
        }
    }
    changes
}

#[test]
fn every_edge_of_every_face_is_in_the_dump() {
    let desk = max7219(8, "clock_hz = 3_000_000");
    let berth = berth("anode");
    let faces: Vec<(&Rig, &str)> = vec![(&desk, "48"), (&berth, "2")];
    let traffic: Vec<_> = faces.iter().map(|(rig, words)| traffic(rig, words)).collect();
    let scopes: Vec<_> = faces
        .iter()
        .zip(&traffic)
        .map(|((rig, _), (levels, edges))| Scope {
            name: &rig.faces[0].face.name,
            lines: rig.faces[0].lines.iter().map(|line| line.role.as_str()).collect(),
            levels: levels.clone(),
            edges,
        })
        .collect();
    let mut dump = Vec::new();
    vcd::write(&mut dump, &scopes, Nanos(9_000_000)).unwrap();
    let dump = String::from_utf8(dump).unwrap();

    let changes = read(&dump);
    let (idle, changes) = changes.split_at(3 + 8);
    let idle: String = idle.iter().map(|(_, _, level)| level).collect();
    assert_eq!(idle, "001zzzzzzzz", "clock and data low, select high, bare pins not driven");
    for (scope, (_, edges)) in scopes.iter().zip(&traffic) {
        let name = |edge: &Edge| format!("{}.{}", scope.name, scope.lines[edge.line]);
        let wanted = edges.iter().map(|edge| (edge.at.0, name(edge), if edge.level { '1' } else { '0' }));
        let prefix = format!("{}.", scope.name);
        let found = changes.iter().filter(|(_, wire, _)| wire.starts_with(&prefix)).cloned();
        assert!(wanted.eq(found), "scope {prefix}");
    }
    assert!(dump.ends_with("#9000000\n"));
}
