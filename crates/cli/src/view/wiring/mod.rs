//! The wiring as a drawing: the display from the front with its pins numbered, resistors and switches on the
//! wires, every chip between with its pins numbered, the controller, and where the modules of a chain hang. The colour of a
//! wire tells its purpose.

pub mod buttons;
mod chain;
mod chips;
mod layout;
mod pens;

use spare_tile_core::face::Face;
use spare_tile_core::part::{Wire, WireEnd};
use spare_tile_core::plan::Mount;
use spare_tile_core::plan::wires::{Connection, Switching, Through, Wiring};
use spare_tile_core::units::Ohms;

use self::layout::{BOX, BoxPin, ChipBox, DISPLAY, DisplayPin, Layout, MARGIN, Net, PIN, Run};
use super::colour::Rgb;
use super::label::{self, Anchor};
use super::page::{INK, PAPER, Page, SHADE, WIRES};
use super::scene::{self, Point};

/// The heights of texts: a heading, a label, and a remark.
const HEADING: f32 = 13.0;
const TEXT: f32 = 9.0;
const SMALL: f32 = 7.0;
/// From one wire to the next at least.
const PITCH: f32 = 46.0;
/// Where things are on the way down: resistors, switches, the resistors before their bases.
const RESISTOR: f32 = 16.0;
const SWITCH: f32 = 80.0;
const BASE: f32 = 110.0;
const LINE: f32 = 17.0;
const RESISTOR_FILL: Rgb = Rgb(250, 240, 214);
/// The colour of the supply.
const SUPPLY: Rgb = WIRES[0];

/// Draws the wiring of a face.
pub fn draw(mount: &Mount, wiring: &Wiring) -> Page {
    let (name, common) = (&mount.face.name, mount.face.common.name());
    let heading = format!("{name}: {}, common {common}", mount.face.summary());
    let notes = notes(wiring);
    let widths = notes.iter().map(|note| label::width(note, TEXT));
    let longest = widths.fold(label::width(&heading, HEADING), f32::max);
    let least = (longest + 2.0 * MARGIN).max(420.0);
    let top = MARGIN + HEADING + 22.0;
    // Of several packages the pins are numbered, and the digits drawn as one box.
    let package = mount.package.as_ref().filter(|package| !package.is_of_each_digit(&mount.face));
    let layout = layout::of(wiring, package, pitch(wiring), least, top);
    let space = (notes.len() + 1) as f32 * LINE;
    let views = chain::Views::of(&wiring.hung, layout.width);
    let foot = layout.foot + space;
    let (wide, high) =
        views.as_ref().map_or((0.0, 0.0), |views| (views.width(), views.height() + 2.0 * LINE));
    let mut page = Page::new(layout.width.max(wide), foot + high + MARGIN, &format!("wiring of {name}"));
    page.text(&heading, (MARGIN, MARGIN + HEADING), HEADING, Anchor::Left, INK);
    if let Some((left, top, width)) = layout.display {
        draw_display(&mount.face, (left, top), width, &mut page);
        if package.is_some() {
            // Pin 1, as packages mark it: at the lower left.
            page.disc((left + 7.0, top + DISPLAY - 7.0), 3.0, INK, INK);
        }
    }
    draw_wires(&layout, wiring, &mut page);
    for chip in &layout.boxes {
        draw_box(chip, &mut page);
    }
    for (index, note) in notes.iter().enumerate() {
        let y = layout.foot + LINE * (index as f32 + 2.0);
        page.text(note, (MARGIN, y), TEXT, Anchor::Left, INK);
    }
    if let Some(views) = views {
        views.draw(&wiring.hung, foot + 2.0 * LINE, &mut page);
    }
    page
}

/// From one wire to the next, so that the names fit beside each other.
fn pitch(wiring: &Wiring) -> f32 {
    let at = wiring.display.iter().map(|connection| match connection.at {
        Some(at) => label::width(at.pin.0, TEXT),
        None => label::width(&connection.to, TEXT),
    });
    let functions = wiring.display.iter().map(|connection| label::width(&short(&connection.function), SMALL));
    let lines =
        wiring.lines.iter().map(|line| label::width(&line.pin, TEXT).max(label::width(&line.role, SMALL)));
    at.chain(functions).chain(lines).map(|width| width + 10.0).fold(PITCH, f32::max)
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

/// The short name of a pin inside the display.
fn short(function: &str) -> String {
    if function.starts_with("common") {
        return "common".to_owned();
    }
    function.strip_prefix("segment ").unwrap_or(function).replace("column ", "col ")
}

fn draw_wires(layout: &Layout, wiring: &Wiring, page: &mut Page) {
    for pin in &layout.pins {
        draw_pin(pin, &wiring.display[pin.connection], page);
    }
    for (run, connection) in layout.runs.iter().zip(&wiring.display) {
        draw_run(run, connection, page);
    }
    for net in &layout.nets {
        draw_net(net, page);
    }
}

/// A pin of the display, and its way to where its connection goes on.
fn draw_pin(pin: &DisplayPin, connection: &Connection, page: &mut Page) {
    let colour = pens::of(&connection.function);
    page.line(&pin.path, colour, 2.0);
    if let Some(end) = pin.path.last().filter(|_| pin.is_joined) {
        page.disc(*end, 3.0, colour, colour);
    }
    let Some((x, y)) = pin.path.first().copied() else { return };
    let name = short(&connection.function);
    let (inner, name_at, number_at) = if pin.is_upper {
        (y + PIN, y + PIN + 10.0 + 2.0 * TEXT, y + PIN + 5.0 + TEXT)
    } else {
        let name = if pin.number.is_some() { y - PIN - 10.0 - TEXT } else { y - PIN - 6.0 };
        (y - PIN, name, y - PIN - 6.0)
    };
    page.line(&[(x, inner), (x, y)], INK, 4.0);
    page.text(&name, (x, name_at), SMALL, Anchor::Middle, INK);
    if let Some(number) = pin.number {
        page.text(&number.to_string(), (x, number_at), TEXT, Anchor::Middle, INK);
    }
}

/// A connection with what is on its way.
fn draw_run(run: &Run, connection: &Connection, page: &mut Page) {
    let Some(end) = run.path.last().copied() else { return };
    page.line(&run.path, pens::of(&connection.function), 2.0);
    for through in &connection.through {
        match through {
            Through::Resistor(ohms) => draw_resistor((end.0, run.way + RESISTOR), *ohms, page),
            Through::Base(ohms) => draw_resistor((end.0, run.way + BASE), *ohms, page),
            Through::Switch(switching) => draw_switch((end.0, run.way + SWITCH), switching, page),
        }
    }
    if connection.is_rail {
        draw_rail(end, connection.to == "supply", page);
    }
}

/// A switch on a wire, with the initials of its terminals.
fn draw_switch((x, y): Point, switching: &Switching, page: &mut Page) {
    const RADIUS: f32 = 14.0;
    page.disc((x, y), RADIUS, PAPER, INK);
    page.text(switching.kind.name(), (x, y + 2.5), 5.0, Anchor::Middle, INK);
    page.line(&[(x + RADIUS, y), (x + 21.0, y), (x + 21.0, y + 8.0)], INK, 1.5);
    draw_rail((x + 21.0, y + 8.0), switching.to_supply, page);
    let [at_output, at_lights, at_rail] = switching.terminals().map(initial);
    for (letter, at) in [
        (at_output, (x + 4.0, y + RADIUS + SMALL + 3.0)),
        (at_lights, (x + 4.0, y - RADIUS - 4.0)),
        (at_rail, (x + RADIUS + 3.0, y - 4.0)),
    ] {
        page.text(&letter, at, SMALL, Anchor::Left, INK);
    }
}

/// The letter by which a terminal is marked.
fn initial(terminal: &str) -> String {
    terminal.chars().take(1).map(|first| first.to_ascii_uppercase()).collect()
}

/// A line of the bus or a link of the chain.
fn draw_net(net: &Net, page: &mut Page) {
    let colour = pens::of(&net.role);
    for stroke in &net.strokes {
        page.line(stroke, colour, 2.0);
    }
    for dot in &net.dots {
        page.disc(*dot, 3.0, colour, colour);
    }
    if let Some(at) = net.role_at {
        page.text(&net.role, at, SMALL, Anchor::Left, INK);
    }
}

/// A resistor on a wire, from its upper end on.
fn draw_resistor((x, top): Point, ohms: Ohms, page: &mut Page) {
    page.box_at((x - 6.0, top), (12.0, 28.0), RESISTOR_FILL, INK);
    let value = ohms.to_string();
    let value = value.trim_end_matches(" ohm").replace(" kilohm", "k").replace(" megohm", "M");
    page.text(&value, (x + 9.0, top + 18.0), SMALL, Anchor::Left, INK);
}

/// The sign of ground below the end of a line.
fn draw_ground((x, y): Point, page: &mut Page) {
    for (index, half) in [7.0, 4.5, 2.0].into_iter().enumerate() {
        let y = y + 3.0 * index as f32;
        page.line(&[(x - half, y), (x + half, y)], INK, 1.5);
    }
}

/// The sign of the supply at the end of a line; `down` is how far below it the plus stands, less than 0 where that is above it.
fn draw_supply((x, y): Point, down: f32, page: &mut Page) {
    page.line(&[(x - 6.0, y), (x + 6.0, y)], SUPPLY, 2.0);
    page.text("+", (x, y + down), HEADING, Anchor::Middle, SUPPLY);
}

/// The sign of a rail below the end of a line.
fn draw_rail(end: Point, is_supply: bool, page: &mut Page) {
    if is_supply { draw_supply(end, 3.0 + HEADING, page) } else { draw_ground(end, page) }
}

/// A controller or chip: the names of its pins inside, their numbers at the wires.
fn draw_box(chip: &ChipBox, page: &mut Page) {
    let ChipBox { title, power, left, right, top, above, below } = chip;
    page.frame((*left, *top), (right - left, BOX), 4.0, (INK, 2.0));
    let middle = if below.is_empty() { top + BOX - 20.0 } else { top + (BOX + HEADING) / 2.0 };
    let beside = ChipBox::beside(power);
    page.text(title, ((left + beside.0 + right - beside.1) / 2.0, middle), HEADING, Anchor::Middle, INK);
    for (is_supply, edge) in [(true, *left), (false, *right)] {
        let names: Vec<_> =
            power.iter().filter(|pin| pin.is_supply == is_supply).map(|pin| pin.pin.as_str()).collect();
        // Between the names of the pins above and below.
        let room = |pins: &[BoxPin]| if pins.is_empty() { 0.0 } else { 2.0 * TEXT };
        let y = top + (BOX + room(above) - room(below)) / 2.0;
        draw_power(&names, is_supply, (edge, y), page);
    }
    let foot = top + BOX;
    for (pins, name_at, number_at) in
        [(above, top + 10.0 + TEXT, top - 4.0), (below, foot - 10.0, foot + 4.0 + SMALL)]
    {
        for BoxPin { x, name, number, also } in pins {
            page.text(name, (*x, name_at), TEXT, Anchor::Middle, INK);
            if let Some(also) = also {
                page.text(also, (*x, name_at + SMALL + 5.0), SMALL, Anchor::Middle, INK);
            }
            if let Some(number) = number {
                page.text(&number.to_string(), (x + 4.0, number_at), SMALL, Anchor::Left, INK);
            }
        }
    }
}

/// The pins of a box at the supply, on its left edge, or at ground, on its right one; `y` is in their middle.
fn draw_power(names: &[&str], is_supply: bool, (edge, y): Point, page: &mut Page) {
    const APART: f32 = 13.0;
    const REACH: f32 = 12.0;
    if names.is_empty() {
        return;
    }
    let (out, anchor) = if is_supply { (-1.0, Anchor::Left) } else { (1.0, Anchor::Right) };
    let far = edge + out * REACH;
    let first = y - APART * (names.len() - 1) as f32 / 2.0;
    let last = first + APART * (names.len() - 1) as f32;
    for (place, name) in names.iter().enumerate() {
        let at = first + APART * place as f32;
        page.line(&[(edge, at), (far, at)], INK, 1.5);
        page.text(name, (edge - out * 5.0, at + SMALL / 2.0), SMALL, anchor, INK);
    }
    let (from, to) = if is_supply { (last, first - 8.0) } else { (first, last + 8.0) };
    page.line(&[(far, from), (far, to)], INK, 1.5);
    if is_supply { draw_supply((far, to), -3.0, page) } else { draw_ground((far, to), page) }
}

/// The signs and letters of a drawing in words, and the connections that are not drawn.
fn notes(wiring: &Wiring) -> Vec<String> {
    let mut notes =
        vec![format!("+ is the supply of {}; all grounds are connected with each other", wiring.supply)];
    if wiring.supply != wiring.logic {
        notes.push(format!("the {} itself runs at {}", wiring.controller, wiring.logic));
    }
    for through in wiring.display.iter().flat_map(|connection| &connection.through) {
        let Through::Switch(switching) = through else { continue };
        let terminals = switching.terminals().map(|terminal| format!("{} {terminal}", initial(terminal)));
        let note = format!("{}: {}", switching.kind.name(), terminals.join(", "));
        if !notes.contains(&note) {
            notes.push(note);
        }
    }
    // Power pins are drawn.
    let is_drawn = |tie: &&Wire| tie.note.is_empty() && matches!(tie.to, WireEnd::Supply | WireEnd::Ground);
    notes.extend(wiring.ties.iter().filter(|tie| !is_drawn(tie)).map(tie_words));
    notes
}

fn tie_words(tie: &Wire) -> String {
    if tie.note.is_empty() {
        format!("{tie} to {}", tie.to)
    } else {
        format!("{tie} to {}: {}", tie.to, tie.note)
    }
}
