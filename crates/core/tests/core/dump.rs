//! The value change dump says the same as the edges that it was made from.

use std::collections::HashMap;

use crate::common::{berth, max7219};
use spare_tile_core::bus::Edge;
use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::glyph::text;
use spare_tile_core::pipeline::Pipeline;
use spare_tile_core::rig::{Mount, Rig};
use spare_tile_core::units::Nanos;

fn edges(mount: &Mount, words: &str) -> Vec<Edge> {
    let edges = std::cell::RefCell::new(Vec::new());
    let mut frame = mount.face.blank();
    text::write(words, &mount.face, text::Field::whole(&mount.face, text::Align::Left), &mut frame).unwrap();
    let mut pipeline =
        Pipeline::new(mount).with_tap(|_: Nanos, _: spare_tile_core::bus::Op<'_>, new: &[Edge]| {
            edges.borrow_mut().extend_from_slice(new);
        });
    pipeline.power_up();
    pipeline.show(&frame);
    drop(pipeline);
    edges.into_inner()
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
    let edges: Vec<_> = faces.iter().map(|(rig, words)| edges(&rig.faces[0], words)).collect();
    let scopes: Vec<_> = faces
        .iter()
        .zip(&edges)
        .map(|((rig, _), edges)| Scope {
            mount: &rig.faces[0],
            levels: rig.faces[0].drive.ends.bus().idle(),
            edges,
        })
        .collect();
    let mut dump = String::new();
    vcd::write(&mut dump, &scopes, Nanos(9_000_000)).unwrap();

    let changes = read(&dump);
    let (idle, changes) = changes.split_at(3 + 8);
    let idle: String = idle.iter().map(|(_, _, level)| level).collect();
    assert_eq!(idle, "001zzzzzzzz", "clock and data low, select high, bare pins not driven");
    for (scope, edges) in scopes.iter().zip(&edges) {
        let name =
            |edge: &Edge| format!("{}.{}", scope.mount.face.name, scope.mount.drive.lines[edge.line].role);
        let wanted = edges.iter().map(|edge| (edge.at.0, name(edge), if edge.level { '1' } else { '0' }));
        let prefix = format!("{}.", scope.mount.face.name);
        let found = changes.iter().filter(|(_, wire, _)| wire.starts_with(&prefix)).cloned();
        assert!(wanted.eq(found), "scope {prefix}");
    }
    assert!(dump.ends_with("#9000000\n"));
}
