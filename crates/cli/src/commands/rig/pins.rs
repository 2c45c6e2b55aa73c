//! `rig pins`: the controller's pins, taken and free.

use clap::Args;
use clap_complete::ArgValueCompleter;
use serde::Serialize;
use spare_tile_core::plan::Rig;
use spare_tile_core::rig::{Bus, Controller, Facts, KnownPin, Pin};
use spare_tile_core::units::counted;

use super::wish::unknown_controller as unknown;
use crate::complete;
use crate::exports::DrawingFiles;
use crate::failure::{Failure, Outcome};
use crate::rigs::{RigFile, RigText};
use crate::session::Session;
use crate::view::columns::Columns;
use crate::view::pinout::{self, State};

/// List the controller's pins: what each can do, which are taken, and which are better left alone
#[derive(Args)]
pub struct Pins {
    /// Only list free pins without another function
    ///
    /// Example: spare-tile rig pins --left
    #[arg(long)]
    left: bool,
    /// The part number of a controller, instead of the controller of a rig
    ///
    /// Example: spare-tile rig pins --controller esp32
    #[arg(short, long, value_name = "PART", add = ArgValueCompleter::new(complete::controllers))]
    controller: Option<String>,
    #[command(flatten)]
    file: RigFile,
    #[command(flatten)]
    drawing: DrawingFiles,
}

#[derive(Serialize)]
struct PinAnswer<'a> {
    pin: String,
    also: &'a [String],
    can: Vec<String>,
    /// The lines of its own buses that it can be, which is the part of that that its name does not tell.
    #[serde(skip)]
    buses: Vec<String>,
    taken_by: Vec<String>,
    better_not: Option<&'static str>,
}

impl Pins {
    /// The controller, and the pins that are taken.
    fn controller(&self, session: &Session<'_>) -> Result<(Controller, Vec<Taken>), Failure> {
        if let Some(part) = &self.controller {
            let controller = Controller::called_by(Some(part));
            return controller.map(|controller| (controller, Vec::new())).ok_or_else(|| unknown(part));
        }
        let text = RigText::read(&self.file, session)?;
        // A rig without a face has a controller all the same.
        if let Some(controller) = Rig::controller_alone(&text.source) {
            return Ok((controller, Vec::new()));
        }
        text.into_rig().map(|rig| {
            let taken = Taken::all(&rig);
            (rig.controller, taken)
        })
    }
}

/// A pin that something of the rig takes.
struct Taken {
    pin: Pin,
    /// For what: `gauge clock`.
    by: String,
}

impl Taken {
    fn all(rig: &Rig) -> Vec<Self> {
        let of_faces = rig.faces.iter().flat_map(|mount| mount.lines.iter().map(move |line| (mount, line)));
        let of_faces = of_faces.map(|(mount, line)| Self {
            pin: line.known.clone(),
            by: format!("{} {}", mount.face.name, line.role),
        });
        let of_buttons = rig
            .pin_buttons()
            .iter()
            .map(|button| Self { pin: button.line.known.clone(), by: format!("button {}", button.name) });
        of_faces.chain(of_buttons).collect()
    }
}

/// Runs `rig pins`.
pub fn run(pins: &Pins, session: &mut Session<'_>) -> Outcome {
    let (controller, taken) = pins.controller(session)?;
    let controller = &controller;
    let Some(facts) = &controller.facts else {
        let help = "write its part number: part = \"rp2040\" in [controller], or spell its pins out there";
        return Err(Failure::unusable("the rig does not say which controller it has", help));
    };
    let all: Vec<_> = controller.pins().iter().map(|pin| answer(pin, facts, &taken)).collect();
    let is_left = |pin: &&PinAnswer<'_>| pin.taken_by.is_empty() && pin.better_not.is_none();
    let shown: Vec<_> = all.iter().filter(|pin| !pins.left || is_left(pin)).collect();
    let draw = || {
        pinout::draw(
            &format!("pins of the {}", controller.called()),
            &shown.iter().map(drawn).collect::<Vec<_>>(),
        )
    };
    if session.json {
        session.write_json(&shown)?;
        return pins.drawing.write(draw, session);
    }
    session.write_named(controller.called(), &summary(controller, facts))?;
    let mut table = Columns::new(&["pin", "also", "can be", "taken by", "better not: it"]);
    for pin in &shown {
        table.row([
            pin.pin.clone(),
            pin.also.first().cloned().unwrap_or_default(),
            pin.can.join(", "),
            pin.taken_by.join(", "),
            pin.better_not.unwrap_or_default().to_owned(),
        ]);
    }
    write!(session.out, "\n{}", table.text(0, session))?;
    let (used, left) =
        (all.iter().filter(|pin| !pin.taken_by.is_empty()).count(), all.iter().filter(is_left).count());
    writeln!(session.out, "\n{} taken, {left} left", counted(used, "pin", "pins"))?;
    pins.drawing.write(draw, session)
}

/// A pin as it is drawn.
fn drawn(pin: &&PinAnswer<'_>) -> pinout::Pin {
    pinout::Pin {
        name: match pin.also.first() {
            Some(also) => format!("{} ({also})", pin.pin),
            None => pin.pin.clone(),
        },
        can: pin.buses.join(", "),
        state: match pin.better_not {
            _ if !pin.taken_by.is_empty() => State::Taken(pin.taken_by.join(", ")),
            Some(why) => State::BetterNot(why),
            None => State::Left,
        },
    }
}

/// A short quote from the data sheet of the controller.
fn summary(controller: &Controller, facts: &Facts) -> String {
    let mut words = vec![format!("{} at its pins", controller.logic_volts)];
    if facts.five_volt_tolerant {
        words.push("stands 5 V".to_owned());
    }
    let limits = &controller.limits;
    for (limit, words_for) in [
        (limits.pin, "a pin"),
        (limits.pin_absolute, "a pin at the absolute most"),
        (limits.pin_source, "a pin that gives"),
        (limits.port, "a port"),
        (limits.total, "in all"),
    ] {
        words.extend(limit.map(|limit| format!("{limit} {words_for}")));
    }
    let kib = |bytes: u64| {
        if bytes.is_multiple_of(1024) { format!("{} KiB", bytes / 1024) } else { format!("{bytes} bytes") }
    };
    words.extend(facts.flash_bytes.map(|bytes| format!("{} of flash", kib(bytes))));
    words.extend(facts.ram_bytes.map(|bytes| format!("{} of RAM", kib(bytes))));
    words.join(", ")
}

fn answer<'a>(known: &'a KnownPin, facts: &Facts, taken: &[Taken]) -> PinAnswer<'a> {
    let is = |name: &str| name.eq_ignore_ascii_case(known.pin.name());
    let mut buses = Vec::new();
    for (name, bus) in [("SPI", Bus::Spi), ("I2C", Bus::I2c)] {
        let own = facts.buses(bus);
        for (number, lines) in own.iter().enumerate() {
            let number = if own.len() > 1 { format!(" {number}") } else { String::new() };
            let here = lines.iter().filter(|(_, pin)| is(pin));
            buses.extend(here.map(|(role, _)| format!("{name}{number} {role}")));
        }
    }
    let port = known.pin.port_bit().map(|(port, bit)| format!("port {port} bit {bit}"));
    PinAnswer {
        pin: known.pin.to_string(),
        also: &known.also,
        can: buses.iter().cloned().chain(port).collect(),
        buses,
        taken_by: taken.iter().filter(|of| of.pin == known.pin).map(|of| of.by.clone()).collect(),
        better_not: known.reserved.map(|reserved| reserved.reason()),
    }
}
