//! What to connect to what, drawn: the display from the front with its pins numbered, resistors and switches on
//! the wires, and the controller, or the part between, with its pins. No two wires cross: pins of the upper edge go
//! around the display, the outermost the furthest.

use spare_tile_core::face::Face;
use spare_tile_core::plan::Mount;
use spare_tile_core::plan::wires::{Connection, Through, Wiring};
use spare_tile_core::rig::Package;
use spare_tile_core::units::Ohms;

use super::colour::Rgb;
use super::label::{self, Anchor};
use super::page::{INK, PAPER, Page, SHADE, WIRES};
use super::scene::{self, Point};

/// The heights of texts: a heading, a label, and a remark.
const HEADING: f32 = 13.0;
const TEXT: f32 = 9.0;
const SMALL: f32 = 7.0;
/// Around the page, from one wire to the next at least, and between two that go around.
const MARGIN: f32 = 30.0;
const PITCH: f32 = 46.0;
const AROUND: f32 = 11.0;
/// The display: how high it is, and the length of its pins.
const DISPLAY: f32 = 170.0;
const PIN: f32 = 12.0;
/// Where things are on the way down from the display: resistors, switches, the controller.
const RESISTOR: f32 = 24.0;
const SWITCH: f32 = 84.0;
const BASE: f32 = 114.0;
const WAY: f32 = 160.0;
/// The height of the box of a controller or part.
const BOX: f32 = 66.0;
const LINE: f32 = 17.0;
const RESISTOR_FILL: Rgb = Rgb(250, 240, 214);

/// A wire of the display: where it begins, where it ends, and which connection it is.
struct Run<'w> {
    connection: &'w Connection,
    /// The pin of the package; none where the rig does not tell.
    pin: Option<usize>,
    from: Point,
    /// Where it stands on the page's way down.
    x: f32,
    /// The height at which it goes around the display; none for pins of the lower edge.
    around: Option<f32>,
    colour: Rgb,
}

/// Draws the wiring of a face.
pub fn draw(mount: &Mount, wiring: &Wiring) -> Page {
    let pitch = pitch(wiring);
    let pins = pins(wiring, mount.package.as_ref());
    let upper = mount.package.as_ref().map_or(0, |package| package.pins.len() / 2);
    let (left, right) = (upper.div_ceil(2), upper / 2);
    // Pins that nothing is connected to have their place too.
    let lower = mount.package.as_ref().map_or(pins.len(), |package| package.pins.len() - upper);
    let columns = lower.max(if wiring.display.is_empty() { wiring.lines.len() } else { lower });
    let body = pitch * columns as f32;
    let notes = wiring.ties.len() as f32 * LINE + if wiring.ties.is_empty() { 0.0 } else { 2.0 * LINE };
    let (name, common) = (&mount.face.name, mount.face.common.name());
    let heading = format!("{name}: {}, common {common}", mount.face.summary());
    let longest = wiring
        .ties
        .iter()
        .map(|tie| label::width(&tie_words(tie), TEXT))
        .fold(label::width(&heading, HEADING), f32::max);
    let width = (body + pitch * (left + right) as f32 + 2.0 * MARGIN).max(longest + 2.0 * MARGIN).max(420.0);
    let display_left = ((width - body) / 2.0).max(MARGIN + pitch * left as f32);
    let display_top = MARGIN + HEADING + 22.0 + AROUND * left.max(right) as f32 + PIN;
    let way_top =
        if wiring.display.is_empty() { MARGIN + HEADING + 10.0 } else { display_top + DISPLAY + PIN };
    let box_top = if wiring.display.is_empty() { way_top } else { way_top + WAY };
    let controller_top = box_top + BOX + 60.0;
    let foot = if wiring.lines.is_empty() { box_top + BOX } else { controller_top + BOX };
    let height = foot + notes + MARGIN;

    let mut page = Page::new(width, height, &format!("wiring of {}", mount.face.name));
    page.text(&heading, (MARGIN, MARGIN + HEADING), HEADING, Anchor::Left, INK);

    let place = |index: usize, pin: &(Option<usize>, &'_ Connection)| -> (Point, f32, Option<f32>) {
        let (column, level) = match pin.0 {
            Some(number) if number > lower => {
                // Upper pins run from the right to the left.
                let from_left = upper - (number - lower);
                let x = display_left + pitch * (from_left as f32 + 0.5);
                let (far, column) = if from_left < left {
                    (from_left, display_left - pitch * (from_left as f32 + 0.5))
                } else {
                    let from_right = upper - 1 - from_left;
                    (from_right, display_left + body + pitch * (from_right as f32 + 0.5))
                };
                let level = display_top - PIN - AROUND * (far as f32 + 0.6);
                return ((x, display_top - PIN), column, Some(level));
            }
            Some(number) => (number - 1, None),
            None => (index, None),
        };
        let x = display_left + pitch * (column as f32 + 0.5);
        ((x, way_top), x, level)
    };
    let mut runs: Vec<_> = pins
        .iter()
        .enumerate()
        .map(|(index, pin)| {
            let (from, x, around) = place(index, pin);
            Run { connection: pin.1, pin: pin.0, from, x, around, colour: WIRES[index % WIRES.len()] }
        })
        .collect();
    runs.sort_by(|a, b| a.x.total_cmp(&b.x));

    if !runs.is_empty() {
        draw_display(&mount.face, (display_left, display_top), body, &mut page);
        for run in &runs {
            draw_run(run, way_top, box_top, &mut page);
        }
        let ends: Vec<_> = runs.iter().filter(|run| !run.connection.is_rail).map(|run| run.x).collect();
        draw_box(&wiring.outputs_of, &ends, pitch, box_top, &mut page);
    } else {
        let middle = width / 2.0;
        draw_box(&wiring.outputs_of, &spread(wiring.lines.len(), middle, pitch), pitch, box_top, &mut page);
    }
    if !wiring.lines.is_empty() {
        draw_lines(wiring, width / 2.0, pitch, box_top + BOX, controller_top, &mut page);
    }
    draw_ties(wiring, foot + 2.0 * LINE, &mut page);
    page
}

/// From one wire to the next, so that the names fit beside each other.
fn pitch(wiring: &Wiring) -> f32 {
    let names = wiring.display.iter().map(|connection| connection.to.as_str());
    let lines = wiring.lines.iter().flat_map(|(role, pin)| [role.as_str(), pin.as_str()]);
    names.chain(lines).map(|name| label::width(name, TEXT) + 10.0).fold(PITCH, f32::max)
}

/// Each pin with its connection, in the package's order, or in the list's where there is no package.
fn pins<'w>(wiring: &'w Wiring, package: Option<&Package>) -> Vec<(Option<usize>, &'w Connection)> {
    match package {
        None => wiring.display.iter().map(|connection| (None, connection)).collect(),
        Some(_) => {
            let each = |connection: &'w Connection| {
                connection.package_pins.iter().map(move |pin| (Some(*pin), connection)).collect::<Vec<_>>()
            };
            let mut pins: Vec<_> = wiring.display.iter().flat_map(each).collect();
            pins.sort_by_key(|(pin, _)| *pin);
            pins
        }
    }
}

fn draw_display(face: &Face, (left, top): Point, width: f32, page: &mut Page) {
    page.box_at((left, top), (width, DISPLAY), SHADE, INK);
    // Room for the names of the pins along both edges.
    const NAMES: f32 = 34.0;
    let room = (width - 24.0, DISPLAY - 2.0 * NAMES);
    let size = scene::size(face);
    let scale = (room.0 / size.0).min(room.1 / size.1);
    let at = (left + (width - size.0 * scale) / 2.0, top + NAMES + (room.1 - size.1 * scale) / 2.0);
    let unlit = Rgb(206, 210, 217);
    for outline in scene::outlines_of(face) {
        page.fill(outline.scaled(scale, at), unlit);
    }
    // The segments of the first digit by name, where they are large enough.
    if face.digits() > 0 && face.style().segment_count() <= 8 {
        for (index, name) in face.style().segment_names().iter().enumerate() {
            let Some(outline) = scene::outlines_of(face).into_iter().nth(face.element(0, index).0) else {
                continue;
            };
            let (x0, y0, x1, y1) = outline.scaled(scale, at).bounds();
            let middle = ((x0 + x1) / 2.0, (y0 + y1) / 2.0 + SMALL / 2.0);
            if *name != "dp" {
                page.text(name, middle, SMALL, Anchor::Middle, INK);
            }
        }
    }
}

/// What a pin is called inside the display: short, for there is little room.
fn short(function: &str) -> String {
    if function.starts_with("common") {
        return "common".to_owned();
    }
    function
        .strip_prefix("segment ")
        .unwrap_or(function)
        .replace("digit ", "dig")
        .replace("column ", "col")
        .replace("row ", "row")
}

fn draw_run(run: &Run<'_>, way_top: f32, box_top: f32, page: &mut Page) {
    let (x, y) = run.from;
    let name = short(&run.connection.function);
    let down = match run.around {
        Some(level) => {
            page.line(&[(x, y + PIN), (x, y)], INK, 4.0);
            page.line(&[(x, y), (x, level), (run.x, level), (run.x, box_top)], run.colour, 2.0);
            page.text(&name, (x, y + PIN + 10.0 + 2.0 * TEXT), SMALL, Anchor::Middle, INK);
            y + PIN + 5.0 + TEXT
        }
        None => {
            page.line(&[(x, y - PIN), (x, y)], INK, 4.0);
            page.line(&[(x, y), (x, box_top)], run.colour, 2.0);
            let line = if run.pin.is_some() { y - PIN - 10.0 - TEXT } else { y - PIN - 6.0 };
            page.text(&name, (x, line), SMALL, Anchor::Middle, INK);
            y - PIN - 6.0
        }
    };
    if let Some(pin) = run.pin {
        page.text(&pin.to_string(), (x, down), TEXT, Anchor::Middle, INK);
    }
    for through in &run.connection.through {
        match through {
            Through::Resistor(ohms) => {
                draw_resistor((run.x, way_top + RESISTOR), *ohms, page);
            }
            Through::Base(ohms) => draw_resistor((run.x, way_top + BASE), *ohms, page),
            Through::Switch(kind, to_supply) => {
                let y = way_top + SWITCH;
                page.disc((run.x, y), 14.0, PAPER, INK);
                page.text(kind.name(), (run.x, y + 2.5), 5.0, Anchor::Middle, INK);
                page.line(&[(run.x + 14.0, y), (run.x + 21.0, y), (run.x + 21.0, y + 8.0)], INK, 1.5);
                draw_rail((run.x + 21.0, y + 8.0), *to_supply, page);
            }
        }
    }
    if run.connection.is_rail {
        page.line(&[(run.x, box_top - 24.0), (run.x, box_top)], PAPER, 4.0);
        draw_rail((run.x, box_top - 24.0), run.connection.to == "supply", page);
    } else {
        let to = &run.connection.to;
        page.text(to, (run.x, box_top + 10.0 + TEXT), TEXT, Anchor::Middle, INK);
    }
}

/// A resistor on a wire, from its upper end on.
fn draw_resistor((x, top): Point, ohms: Ohms, page: &mut Page) {
    page.box_at((x - 6.0, top), (12.0, 28.0), RESISTOR_FILL, INK);
    let value = ohms.to_string();
    let value = value.trim_end_matches(" ohm").replace(" kilohm", "k").replace(" megohm", "M");
    page.text(&value, (x + 9.0, top + 18.0), SMALL, Anchor::Left, INK);
}

/// The sign of ground, or of the supply.
fn draw_rail((x, y): Point, supply: bool, page: &mut Page) {
    if supply {
        page.line(&[(x - 6.0, y), (x + 6.0, y)], INK, 1.5);
        page.text("+", (x, y + 3.0 + HEADING), HEADING, Anchor::Middle, INK);
    } else {
        for (index, half) in [7.0, 4.5, 2.0].into_iter().enumerate() {
            let y = y + 3.0 * index as f32;
            page.line(&[(x - half, y), (x + half, y)], INK, 1.5);
        }
    }
}

/// A controller or part that these wires end at. The names of its pins are written by the wires.
fn draw_box(title: &str, ends: &[f32], pitch: f32, top: f32, page: &mut Page) {
    let left = ends.iter().copied().fold(f32::MAX, f32::min) - pitch / 2.0;
    let right = ends.iter().copied().fold(f32::MIN, f32::max) + pitch / 2.0;
    // The wires come down onto it, and the names are inside.
    page.frame((left, top), (right - left, BOX), 4.0, (INK, 2.0));
    page.text(title, ((left + right) / 2.0, top + BOX - 14.0), HEADING, Anchor::Middle, INK);
}

/// Places beside each other around a middle.
fn spread(count: usize, middle: f32, pitch: f32) -> Vec<f32> {
    (0..count).map(|index| middle + pitch * (index as f32 - (count as f32 - 1.0) / 2.0)).collect()
}

/// The lines between a part and the controller.
fn draw_lines(wiring: &Wiring, middle: f32, pitch: f32, from: f32, to: f32, page: &mut Page) {
    let places = spread(wiring.lines.len(), middle, pitch);
    for (index, ((role, pin), x)) in wiring.lines.iter().zip(&places).enumerate() {
        page.line(&[(*x, from), (*x, to)], WIRES[index % WIRES.len()], 2.0);
        page.text(role, (*x + 5.0, from + 14.0 + LINE * (index % 2) as f32), SMALL, Anchor::Left, INK);
        page.text(pin, (*x, to + 10.0 + TEXT), TEXT, Anchor::Middle, INK);
    }
    draw_box(wiring.controller, &places, pitch, to, page);
}

fn tie_words(tie: &spare_tile_core::part::Wire) -> String {
    if tie.note.is_empty() {
        format!("{} to {}", tie.from, tie.to)
    } else {
        format!("{} to {}: {}", tie.from, tie.to, tie.note)
    }
}

fn draw_ties(wiring: &Wiring, top: f32, page: &mut Page) {
    if wiring.ties.is_empty() {
        return;
    }
    page.text("and besides:", (MARGIN, top), TEXT, Anchor::Left, INK);
    for (index, tie) in wiring.ties.iter().enumerate() {
        let y = top + LINE * (index as f32 + 1.0);
        page.text(&tie_words(tie), (MARGIN, y), TEXT, Anchor::Left, INK);
    }
}
