//! `rig wires`: what to connect to what.

use clap::Args;
use serde::Serialize;
use spare_tile_core::plan::Mount;
use spare_tile_core::plan::wires::{self, Wiring};

use crate::failure::Outcome;
use crate::files::DrawingFiles;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::view;
use crate::view::columns::Columns;

/// List what to connect to what, in the order in which one would plug it
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
    display: Vec<ConnectionAnswer<'a>>,
    /// Between the part and the controller.
    lines: Vec<LineAnswer<'a>>,
    ties: Vec<TieAnswer<'a>>,
}

#[derive(Serialize)]
struct ConnectionAnswer<'a> {
    pins: &'a [usize],
    function: &'a str,
    through: Vec<String>,
    to: &'a str,
}

#[derive(Serialize)]
struct LineAnswer<'a> {
    role: &'a str,
    pin: &'a str,
}

#[derive(Serialize)]
struct TieAnswer<'a> {
    from: &'a str,
    to: &'a str,
    note: &'a str,
}

/// Runs `rig wires`.
pub fn run(args: &Wires, session: &mut Session<'_>) -> Outcome {
    let rig = args.rig.load(session)?;
    let mount = args.rig.pick(&rig)?;
    let wiring = wires::list(mount, &rig.controller);
    if session.json {
        session.write_json(&answer(mount, &wiring))?;
    } else {
        print(mount, &wiring, session)?;
    }
    args.drawing.write(|| view::wiring::draw(mount, &wiring), session)
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
            table.row([pins, connection.function.clone(), through.join(", "), connection.to.clone()]);
        }
        write!(session.out, "\n{}", table.text(0, session))?;
    }
    if !wiring.lines.is_empty() {
        let mut table = Columns::new(&["line", &format!("to {}", wiring.controller)]);
        wiring.lines.iter().for_each(|(role, pin)| table.row([role.clone(), pin.clone()]));
        write!(session.out, "\n{}", table.text(0, session))?;
    }
    if !wiring.ties.is_empty() {
        let mut table = Columns::new(&["and besides", "to", ""]);
        wiring.ties.iter().for_each(|tie| table.row([tie.from.clone(), tie.to.clone(), tie.note.clone()]));
        write!(session.out, "\n{}", table.text(0, session))?;
    }
    Ok(())
}

fn answer<'a>(mount: &'a Mount, wiring: &'a Wiring) -> Answer<'a> {
    Answer {
        face: &mount.face.name,
        package: mount.package.as_ref().map(|package| package.name.as_str()),
        display: wiring
            .display
            .iter()
            .map(|connection| ConnectionAnswer {
                pins: &connection.package_pins,
                function: &connection.function,
                through: connection.through.iter().map(ToString::to_string).collect(),
                to: &connection.to,
            })
            .collect(),
        lines: wiring.lines.iter().map(|(role, pin)| LineAnswer { role, pin }).collect(),
        ties: wiring
            .ties
            .iter()
            .map(|tie| TieAnswer { from: &tie.from, to: &tie.to, note: &tie.note })
            .collect(),
    }
}
