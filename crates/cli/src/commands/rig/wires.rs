//! `rig wires`: what to connect to what.

use clap::Args;
use serde::Serialize;
use spare_tile_core::plan::wires::{self, At, ButtonWire, LineWire, Wiring};
use spare_tile_core::plan::{Mount, Rig};
use spare_tile_core::rig::controllers::CircuitWire;

use crate::exports::DrawingFiles;
use crate::failure::{Failure, Outcome};
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::view;
use crate::view::columns::Columns;
use crate::view::page::Page;
use crate::wrapping::hung;

/// List what to connect to what, in the order in which one would plug it
///
/// Of a rig with several faces it lists all, or the one that --face names.
#[derive(Args)]
pub struct Wires {
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    drawing: DrawingFiles,
}

#[derive(Serialize)]
struct Answer<'a> {
    face: &'a str,
    package: Option<&'a str>,
    /// True if it is a module, connected by a row of pins.
    module: bool,
    display: Vec<ConnectionAnswer<'a>>,
    /// Between the part and the controller.
    lines: Vec<LineAnswer<'a>>,
    /// In each of these lines, where the levels differ.
    converter: Option<ConverterAnswer>,
    ties: Vec<TieAnswer<'a>>,
    /// Cautions about pins that have another purpose.
    cautions: &'a [String],
    /// The wires of push buttons on pins of the controller.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    buttons: Vec<ButtonAnswer>,
    /// The wires of a controller that is usually used without a board.
    controller: Vec<ControllerAnswer>,
}

#[derive(Serialize)]
struct ControllerAnswer {
    pins: String,
    to: String,
    note: String,
}

#[derive(Serialize)]
struct ConnectionAnswer<'a> {
    pins: &'a [usize],
    function: &'a str,
    through: Vec<String>,
    to: &'a str,
    /// The other name of a controller pin: `D9` for `PB1`.
    also: Option<&'a str>,
    at: Option<AtAnswer<'a>>,
}

#[derive(Serialize)]
struct ConverterAnswer {
    from_volts: f64,
    to_volts: f64,
    both_ways: bool,
}

/// A pin of a chip.
#[derive(Serialize)]
struct AtAnswer<'a> {
    chip: &'a str,
    pin: &'a str,
    number: Option<u8>,
}

impl<'a> AtAnswer<'a> {
    fn of(at: &At, wiring: &'a Wiring) -> Self {
        Self { chip: &wiring.chips[at.chip], pin: at.pin.0, number: at.pin.1 }
    }
}

#[derive(Serialize)]
struct LineAnswer<'a> {
    role: &'a str,
    pin: &'a str,
    /// Its other name: `D9` for `PB1`.
    also: Option<&'a str>,
    at: Vec<AtAnswer<'a>>,
}

#[derive(Serialize)]
struct TieAnswer<'a> {
    from: String,
    to: String,
    note: &'a str,
}

/// A push button on a pin of the controller.
#[derive(Serialize)]
pub struct ButtonAnswer {
    name: String,
    pin: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    also: Option<String>,
    to: String,
    pull: String,
}

impl ButtonAnswer {
    /// The answer for its wires.
    pub fn of(wire: ButtonWire) -> Self {
        let ButtonWire { name, pin, also, to, pull, .. } = wire;
        Self { name, pin, also, to, pull }
    }
}

/// Runs `rig wires`.
pub fn run(args: &Wires, session: &mut Session<'_>) -> Outcome {
    let rig = args.rig.load(session)?;
    let wirings: Vec<_> =
        args.rig.pick_all(&rig)?.into_iter().map(|mount| (mount, wires::list(&rig, mount))).collect();
    match &wirings[..] {
        [(mount, wiring)] if session.json => session.write_json(&answer(&rig, mount, wiring))?,
        several if session.json => {
            let answers: Vec<_> = several.iter().map(|(mount, wiring)| answer(&rig, mount, wiring)).collect();
            session.write_json(&answers)?;
        }
        wirings => print_all(&rig, wirings.iter().map(|(mount, _)| *mount), session)?,
    }
    let draw = || {
        let faces = wirings.iter().map(|(mount, wiring)| view::wiring::draw(mount, wiring));
        let buttons = wires::buttons(&rig);
        let of_buttons =
            (!buttons.is_empty()).then(|| view::wiring::buttons::draw(rig.controller.called(), &buttons));
        Page::stacked(faces.chain(of_buttons).collect(), BETWEEN, "wiring")
    };
    args.drawing.write(draw, session)
}

/// Between the drawings of two faces.
const BETWEEN: f32 = 24.0;

/// The wires of faces, and those of the controller itself, as text.
///
/// # Errors
/// If memory cannot be written, which it always can.
pub fn text<'r>(rig: &Rig, mounts: impl Iterator<Item = &'r Mount>) -> Result<String, Failure> {
    let mut text = Vec::new();
    let mut session = Session::of_text(&mut text);
    print_all(rig, mounts, &mut session)?;
    drop(session);
    Ok(String::from_utf8_lossy(&text).into_owned())
}

/// Prints the wires of push buttons on pins of the controller.
fn print_buttons(rig: &Rig, session: &mut Session<'_>) -> Outcome {
    let buttons = wires::buttons(rig);
    if buttons.is_empty() {
        return Ok(());
    }
    let mut table = Columns::new(&["button", "from", "to", "while nobody presses"]);
    for ButtonWire { name, pin, also, to, pull, .. } in buttons {
        table.row([name, with_other(&pin, also.as_deref()), to, pull]);
    }
    Ok(write!(session.out, "\n{}", table.text(0, session))?)
}

/// Prints the wires of faces and of buttons, and those of the controller itself.
fn print_all<'r>(rig: &Rig, mounts: impl Iterator<Item = &'r Mount>, session: &mut Session<'_>) -> Outcome {
    for (place, mount) in mounts.enumerate() {
        if place > 0 {
            writeln!(session.out)?;
        }
        print(mount, &wires::list(rig, mount), session)?;
    }
    print_buttons(rig, session)?;
    print_controller(rig, session)
}

fn print(mount: &Mount, wiring: &Wiring, session: &mut Session<'_>) -> Outcome {
    let summary = format!("{}, common {}", mount.face.summary(), mount.face.common.name());
    session.write_named(&mount.face.name, &summary)?;
    if !wiring.display.is_empty() {
        let mut table =
            Columns::new(&["display pin", "function", "through", &format!("to {}", wiring.outputs_of)]);
        for connection in &wiring.display {
            let pins: Vec<_> = connection.package_pins.iter().map(usize::to_string).collect();
            let through: Vec<_> = connection.through.iter().map(ToString::to_string).collect();
            let pins = if pins.is_empty() { "-".to_owned() } else { pins.join(", ") };
            let number = connection.at.and_then(|at| at.pin.1);
            let beside = number.map(|number| number.to_string()).or_else(|| connection.also.clone());
            let to = with_other(&connection.to, beside.as_deref());
            table.row([pins, connection.function.clone(), through.join(", "), to]);
        }
        write!(session.out, "\n{}", table.text(0, session))?;
    }
    if !wiring.lines.is_empty() {
        let mut table = Columns::new(&["line", "from", &format!("to {}", wiring.controller)]);
        wiring.lines.iter().for_each(|line| {
            table.row([
                line.role.clone(),
                arrives(line, &wiring.chips),
                with_other(&line.pin, line.also.as_deref()),
            ])
        });
        write!(session.out, "\n{}", table.text(0, session))?;
        if let Some(converter) = wiring.converter {
            writeln!(session.out, "in each of them: {converter}")?;
        }
    }
    if !wiring.ties.is_empty() {
        let mut table = Columns::new(&["and besides", "to", ""]);
        wiring.ties.iter().for_each(|tie| table.row([tie.to_string(), tie.to.to_string(), tie.note.clone()]));
        write!(session.out, "\n{}", table.text(0, session))?;
    }
    if !wiring.cautions.is_empty() {
        writeln!(session.out)?;
    }
    for caution in &wiring.cautions {
        writeln!(session.out, "{}", hung(&format!("mind: {caution}"), session.columns, 4))?;
    }
    Ok(())
}

/// The wires of a controller that is usually used without a board.
fn print_controller(rig: &Rig, session: &mut Session<'_>) -> Outcome {
    let Some(facts) = rig.controller.facts.as_ref().filter(|facts| !facts.circuit.is_empty()) else {
        return Ok(());
    };
    let name = rig.controller.part.as_deref().unwrap_or("controller");
    let mut table = Columns::new(&[&format!("the {name} itself"), "to", ""]);
    for CircuitWire { pins, to, note } in facts.own_circuit().0 {
        table.row([pins, to, note]);
    }
    Ok(write!(session.out, "\n{}", table.text(0, session))?)
}

/// A pin with its number or its other name: `PB1 (D9)`.
fn with_other(pin: &str, other: Option<&str>) -> String {
    other.map_or_else(|| pin.to_owned(), |other| format!("{pin} ({other})"))
}

/// Where a line arrives, in words: `SRCLK (11) of each`.
fn arrives(line: &LineWire, chips: &[String]) -> String {
    let mut words: Vec<String> = Vec::new();
    for (index, at) in line.at.iter().enumerate() {
        let is_alike = |other: &At| other.pin == at.pin;
        if chips.len() > 1 && line.at.iter().filter(|other| is_alike(other)).count() == chips.len() {
            if line.at.iter().position(is_alike) == Some(index) {
                words.push(format!("{} of each", at.pin));
            }
        } else if chips.len() > 1 {
            words.push(format!("{} of {}", at.pin, chips[at.chip]));
        } else {
            words.push(at.pin.to_string());
        }
    }
    words.join(", ")
}

fn answer<'a>(rig: &Rig, mount: &'a Mount, wiring: &'a Wiring) -> Answer<'a> {
    let own = rig.controller.facts.iter().flat_map(|facts| facts.own_circuit().0);
    Answer {
        face: &mount.face.name,
        package: mount.package.as_ref().map(|package| package.name.as_str()),
        module: mount.is_module,
        display: wiring
            .display
            .iter()
            .map(|connection| ConnectionAnswer {
                pins: &connection.package_pins,
                function: &connection.function,
                through: connection.through.iter().map(ToString::to_string).collect(),
                to: &connection.to,
                also: connection.also.as_deref(),
                at: connection.at.as_ref().map(|at| AtAnswer::of(at, wiring)),
            })
            .collect(),
        lines: wiring
            .lines
            .iter()
            .map(|line| LineAnswer {
                role: &line.role,
                pin: &line.pin,
                also: line.also.as_deref(),
                at: line.at.iter().map(|at| AtAnswer::of(at, wiring)).collect(),
            })
            .collect(),
        converter: wiring.converter.map(|converter| ConverterAnswer {
            from_volts: converter.volts.0.0,
            to_volts: converter.volts.1.0,
            both_ways: converter.is_two_way,
        }),
        ties: wiring
            .ties
            .iter()
            .map(|tie| TieAnswer { from: tie.to_string(), to: tie.to.to_string(), note: &tie.note })
            .collect(),
        cautions: &wiring.cautions,
        buttons: wires::buttons(rig).into_iter().map(ButtonAnswer::of).collect(),
        controller: own.map(|CircuitWire { pins, to, note }| ControllerAnswer { pins, to, note }).collect(),
    }
}
