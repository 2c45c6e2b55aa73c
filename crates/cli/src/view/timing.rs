//! The timing diagram of a scan: a lane for each line over one turn.

use spare_tile_core::bare::circuit::Circuit;
use spare_tile_core::bus::Role;
use spare_tile_core::plan::Mount;
use spare_tile_core::play::turn::Turn;
use spare_tile_core::units::Nanos;

use super::label::{self, Anchor};
use super::page::{FAINT, INK, Page, SHADE, WIRES};

const MARGIN: f32 = 28.0;
const HEADING: f32 = 13.0;
const TEXT: f32 = 9.0;
const SMALL: f32 = 7.0;
/// How wide a turn is, how high a lane and the pulse in it are.
const TURN: f32 = 960.0;
const LANE: f32 = 27.0;
const PULSE: f32 = 16.0;

/// Draws one turn. `words` is what is shown.
pub fn draw(mount: &Mount, turn: &Turn<'_>, words: &str) -> Page {
    let lines = &mount.lines;
    let circuit = mount.drive.display().circuit();
    let name = |line: usize| format!("{} {}", lines[line].role, lines[line].pin);
    let names = (0..lines.len()).map(|line| label::width(&name(line), TEXT)).fold(0.0, f32::max);
    let left = MARGIN + names + 16.0;
    let top = MARGIN + HEADING + 44.0;
    let foot = top + LANE * lines.len() as f32;
    let mut page = Page::new(left + TURN + MARGIN, foot + 52.0, &format!("scan of {}", mount.face.name));
    let heading = format!("{}: one turn of the scan, {}, showing {words}", mount.face.name, turn.length);
    page.text(&heading, (MARGIN, MARGIN + HEADING), HEADING, Anchor::Left, INK);
    let x = |at: Nanos| left + TURN * (at.0 as f32 / turn.length.0.max(1) as f32).min(1.0);

    if let Some(circuit) = circuit {
        draw_slots(circuit, turn, (top, foot), &x, &mut page);
    }
    for line in 0..lines.len() {
        let y = top + LANE * (line as f32 + 1.0) - 6.0;
        page.text(&name(line), (left - 10.0, y - 3.0), TEXT, Anchor::Right, INK);
        let height = |level: Option<bool>| match level {
            Some(true) => y - PULSE,
            Some(false) => y,
            None => y - PULSE / 2.0,
        };
        let mut level = turn.levels[line];
        let mut points = vec![(x(Nanos(0)), height(level))];
        for edge in turn.edges.iter().filter(|edge| edge.line == line) {
            points.push((x(edge.at), height(level)));
            level = Some(edge.level);
            points.push((x(edge.at), height(level)));
        }
        points.push((x(turn.length), height(level)));
        page.line(&[(left, y), (left + TURN, y)], SHADE, 1.0);
        page.line(&points, WIRES[line % WIRES.len()], 1.8);
    }
    page
}

/// The slots with what they select, where all is dark, and the time.
fn draw_slots(
    circuit: &Circuit,
    turn: &Turn<'_>,
    (top, foot): (f32, f32),
    x: &impl Fn(Nanos) -> f32,
    page: &mut Page,
) {
    let Some(timing) = circuit.timing else { return };
    for (slot, select) in circuit.selects.iter().enumerate() {
        let (begin, end) = (timing.slot_begin(slot), timing.slot_begin(slot + 1));
        page.line(&[(x(begin), top - 8.0), (x(begin), foot + 8.0)], FAINT, 1.0);
        let middle = (x(begin) + x(end)) / 2.0;
        page.text(&circuit.outputs[*select].role, (middle, top - 12.0), TEXT, Anchor::Middle, INK);
        page.text(&begin.to_string(), (x(begin), foot + 8.0 + 6.0 + SMALL), SMALL, Anchor::Middle, INK);
    }
    let end = turn.length;
    page.line(&[(x(end), top - 8.0), (x(end), foot + 8.0)], FAINT, 1.0);
    page.text(&end.to_string(), (x(end), foot + 14.0 + SMALL), SMALL, Anchor::Middle, INK);
    // From the first write of a blanking to the first of what follows it.
    let mut dark_since = None;
    for (at, role, _) in &turn.writes {
        match (role, dark_since) {
            (Role::Blank, None) => dark_since = Some(*at),
            (Role::Frame, Some(since)) => {
                page.box_at((x(since), top), ((x(*at) - x(since)).max(1.5), foot - top), SHADE, SHADE);
                dark_since = None;
            }
            _ => {}
        }
    }
    let blanking = format!("blanking {}: the shaded strips", timing.blanking);
    page.text(&blanking, (x(end), foot + 38.0), SMALL, Anchor::Right, INK);
}
