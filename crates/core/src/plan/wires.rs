//! The wiring list: what to connect to what, in the order in which one would plug it.

use std::fmt;

use super::budget::{self, Flow};
use super::{Mount, PinButton, Rig, buttons, pull_ups};
use crate::bare::circuit::{Circuit, Hangs, Output, ResistorPlace, SwitchKind};
use crate::bus::Protocol;
use crate::glyph::Common;
use crate::part::modules::Hung;
use crate::part::{ChipPin, Wire, WireEnd};
use crate::rig::{Function, Line, Pin, Problem, Pull, Trouble};
use crate::units::{Milliamps, Ohms, Volts, nearest_e12};

/// One connection of the display.
#[derive(Debug, Clone, PartialEq)]
pub struct Connection {
    /// The pins of the display's package; none where the rig does not tell its package.
    pub package_pins: Vec<usize>,
    /// Their purpose: `segment a`, `digit 2`.
    pub function: String,
    /// The parts between.
    pub through: Vec<Through>,
    /// A controller pin, an output of a part, or a rail.
    pub to: String,
    /// The other name of a controller pin: `D9` for `PB1`.
    pub also: Option<String>,
    /// Where an output of a part is.
    pub at: Option<At>,
    /// True if that is a rail.
    pub is_rail: bool,
    /// True if it selects a digit, row or column, and carries the current of all its lights.
    pub is_select: bool,
}

/// A pin of one of the [chips](Wiring::chips).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct At {
    /// Which chip.
    pub chip: usize,
    /// Which of its pins.
    pub pin: ChipPin,
}

/// A line between the controller and the chips.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LineWire {
    /// Its purpose: `clock`.
    pub role: String,
    /// The controller's pin.
    pub pin: String,
    /// Its other name: `D9` for `PB1`.
    pub also: Option<String>,
    /// Where it arrives.
    pub at: Vec<At>,
}

/// Something on the way of a wire.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Through {
    /// A resistor.
    Resistor(Ohms),
    /// A switch to a rail.
    Switch(Switching),
    /// The resistor between a switch's base and its output.
    Base(Ohms),
}

/// A switch on the way of a wire.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Switching {
    /// Its kind.
    pub kind: SwitchKind,
    /// True if it connects with the supply, and not with ground.
    pub to_supply: bool,
    /// True if it follows its base or gate: its emitter or source is then at the lights.
    pub follows: bool,
}

impl Switching {
    /// Its terminals: at the output, at the lights and at the rail.
    #[must_use]
    pub const fn terminals(&self) -> [&'static str; 3] {
        match (self.kind, self.follows) {
            (SwitchKind::Npn | SwitchKind::Pnp, false) => ["base", "collector", "emitter"],
            (SwitchKind::Npn | SwitchKind::Pnp, true) => ["base", "emitter", "collector"],
            (SwitchKind::Nmos | SwitchKind::Pmos, false) => ["gate", "drain", "source"],
            (SwitchKind::Nmos | SwitchKind::Pmos, true) => ["gate", "source", "drain"],
            (SwitchKind::Darlington | SwitchKind::None, _) => ["input", "output", "ground"],
        }
    }
}

impl fmt::Display for Through {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Resistor(ohms) => write!(f, "{ohms}"),
            Self::Switch(Switching { kind, to_supply, .. }) => {
                let rail = if *to_supply { "the supply" } else { "ground" };
                write!(f, "{} switch to {rail}", kind.name())
            }
            Self::Base(ohms) => write!(f, "its base through {ohms}"),
        }
    }
}

/// Everything to connect for a face.
#[derive(Debug, Clone, PartialEq)]
pub struct Wiring {
    /// The display's pins; none where a part drives a display of which the rig does not tell the pins.
    pub display: Vec<Connection>,
    /// The other end of the display's connections: the controller's part number, or the part between.
    pub outputs_of: String,
    /// The controller's part number, or what else to call it.
    pub controller: String,
    /// The chips between, by name, the one that the controller feeds first; none where the display is at the controller
    /// itself.
    pub chips: Vec<String>,
    /// The lines from the chips to the controller.
    pub lines: Vec<LineWire>,
    /// The pins by which each chip feeds the next: of the one before, and of the one after.
    pub chained: Option<(ChipPin, ChipPin)>,
    /// The converter between the controller and the chips if their levels differ.
    pub converter: Option<Converter>,
    /// The other needs of the parts.
    pub ties: Vec<Wire>,
    /// The pins of each chip that are at the supply or ground, in the order of the chips.
    pub power: Vec<Vec<PowerPin>>,
    /// The voltage of the supply.
    pub supply: Volts,
    /// The high level at the controller's pins.
    pub logic: Volts,
    /// A caution for each of the controller's pins that has another purpose.
    pub cautions: Vec<String>,
    /// The modules of a chain in their places, in its order; none where there are fewer than two.
    pub hung: Vec<Hung>,
}

/// A pin of a chip that is at a rail.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PowerPin {
    /// Its name, with its number where all packages have the same: `VCC (16)`.
    pub pin: String,
    /// True if it is at the supply, and not at ground.
    pub is_supply: bool,
}

/// A level converter in all lines of a face.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Converter {
    /// The high level at the controller, and at the chips.
    pub volts: (Volts, Volts),
    /// True if the chips answer through it.
    pub is_two_way: bool,
}

impl Converter {
    /// The one that a face needs; `None` where the levels are the same.
    #[must_use]
    pub fn of(rig: &Rig, mount: &Mount) -> Option<Self> {
        let volts = (rig.controller.logic_volts, mount.level);
        let answers =
            matches!(rig.protocol(mount)?, Protocol::I2c(_) | Protocol::TwoWire(_) | Protocol::Strobe(_));
        (volts.0 != volts.1).then_some(Self { volts, is_two_way: answers })
    }

    /// Its conversion: `3.3 V to 5.0 V, both ways`.
    #[must_use]
    pub fn levels(&self) -> String {
        let Self { volts: (from, to), is_two_way } = self;
        let both = if *is_two_way { ", both ways" } else { "" };
        format!("{from} to {to}{both}")
    }
}

impl fmt::Display for Converter {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "level converter {}", self.levels())
    }
}

/// The wires of a push button on a pin of the controller.
#[derive(Debug, Clone, PartialEq)]
pub struct ButtonWire {
    /// The button's name.
    pub name: String,
    /// The pin to which one of its contacts goes.
    pub pin: String,
    /// The pin's other name: `D9` for `PB1`.
    pub also: Option<String>,
    /// The rail to which the other contact goes: `ground`, or the controller's high level.
    pub to: String,
    /// The pull that keeps the pin at its level while nobody presses, in words.
    pub pull: String,
    /// The resistor that does it, and the rail to which that goes; `None` if the controller's own pull does.
    pub resistor: Option<(Ohms, String)>,
}

/// The wires of the push buttons on pins of the controller.
#[must_use]
pub fn buttons(rig: &Rig) -> Vec<ButtonWire> {
    let controller = &rig.controller;
    let wire = |button: &PinButton| {
        let rail =
            |is_high: bool| if is_high { controller.logic_volts.to_string() } else { "ground".to_owned() };
        let resistor = (button.pull == Pull::Resistor).then(|| (buttons::PULL, rail(!button.active.level())));
        let pull = match &resistor {
            Some((ohms, rail)) => format!("{ohms} from the pin to {rail}"),
            None => format!("{} inside the controller", button.active.pull()),
        };
        ButtonWire {
            name: button.name.clone(),
            pin: button.line.pin.to_string(),
            also: controller.other_name(&button.line.pin).map(str::to_owned),
            to: rail(button.active.level()),
            pull,
            resistor,
        }
    };
    rig.pin_buttons().iter().map(wire).collect()
}

/// The wiring list of a face.
#[must_use]
pub fn list(rig: &Rig, mount: &Mount) -> Wiring {
    let controller = &rig.controller;
    let controller_name = controller.called().to_owned();
    let drive = mount.drive.display();
    let (chips, wires) = (mount.chips(), mount.wires());
    let line = |(place, line): (usize, &Line)| {
        let arrives = chips.iter().enumerate().flat_map(|(index, chip)| {
            let of_line = chip.lines.iter().filter(move |(known, _)| *known == place);
            of_line.map(move |(_, pin)| At { chip: index, pin: *pin })
        });
        let also = controller.other_name(&line.pin).map(str::to_owned);
        LineWire { role: line.role.clone(), pin: line.pin.to_string(), also, at: arrives.collect() }
    };
    // Without chips the lines are the display's own.
    let mut own: Vec<_> = mount.lines.iter().enumerate().filter(|_| !chips.is_empty()).collect();
    if let Some(header) = mount.header() {
        own.sort_by_key(|(place, _)| header.lines.iter().position(|(line, _)| line == place));
    }
    let lines = own.into_iter().map(line).collect();
    let (display, outputs_of) = match (drive.circuit(), drive.ratings()) {
        (Some(circuit), Some(ratings)) => {
            let high = ratings.high.unwrap_or(controller.logic_volts);
            let flow = budget::of(mount, controller).and_then(|budget| budget.flow);
            let other_name = |pin: &Pin| controller.other_name(pin).map(str::to_owned);
            (display(mount, circuit, flow.as_ref(), high, other_name), ratings.part)
        }
        _ => (Vec::new(), mount.method.to_owned()),
    };
    let ties = ties(mount, chips.len(), &wires).into_iter().chain(pulled_up(rig, mount)).collect();
    Wiring {
        display,
        outputs_of,
        controller: controller_name,
        power: chips.iter().map(|chip| power(&chip.name, &wires)).collect(),
        supply: controller.supply_volts,
        logic: controller.logic_volts,
        chips: chips.into_iter().map(|chip| chip.name).collect(),
        lines,
        chained: mount.chained(),
        converter: Converter::of(rig, mount),
        ties,
        cautions: cautions(rig, mount),
        hung: drive.hung().into_iter().filter(|_| drive.hung().len() > 1).collect(),
    }
}

/// The pins of a chip that are at a rail, among these connections.
fn power(chip: &str, wires: &[Wire]) -> Vec<PowerPin> {
    let of_chip = wires.iter().filter(|wire| wire.chip == chip);
    let at_rail = of_chip.filter_map(|wire| {
        let is_supply = match wire.to {
            WireEnd::Supply => true,
            WireEnd::Ground => false,
            WireEnd::SupplyThrough(_) | WireEnd::Other(_) => return None,
        };
        Some(PowerPin { pin: wire.pin.clone(), is_supply })
    });
    at_rail.collect()
}

/// A caution for each pin of a face that has another purpose.
fn cautions(rig: &Rig, mount: &Mount) -> Vec<String> {
    let controller = &rig.controller;
    let caution = |line: &Line| {
        let problem =
            Problem::ReservedPin { pin: line.known.to_string(), reserved: controller.reserved(&line.known)? };
        Some(format!("{problem}: {}", problem.fix()?))
    };
    let mut cautions: Vec<_> = mount.lines.iter().filter_map(caution).collect();
    cautions.dedup();
    let is_i2c = matches!(rig.protocol(mount), Some(Protocol::I2c(_)));
    for line in mount.lines.iter().filter(|_| !is_i2c) {
        if let Some(ohms) = pull_ups::of_board(rig, line) {
            let (pin, logic) = (&line.known, controller.logic_volts);
            cautions.push(format!(
                "{pin} has a fixed pull-up of {ohms} to {logic} on the board: it is high until the program runs"
            ));
        }
    }
    if let Some((most, after_reset)) = budget::drive_strength(mount, controller) {
        let part = controller.called();
        cautions.push(format!(
            "a pin of the {part} gives {after_reset} for sure after a reset, and {most} are needed: the program must set \
             its drive strength"
        ));
    }
    cautions
}

/// The pull-ups of a face's bus, where it needs any.
fn pulled_up(rig: &Rig, mount: &Mount) -> Option<Wire> {
    let ohms = pull_ups::of(rig, mount)?;
    let is_supply = mount.level == rig.controller.supply_volts;
    let high = if is_supply { "supply".to_owned() } else { mount.level.to_string() };
    let note =
        "open drain: without pull-ups nothing is ever high; once for the bus, and many boards have them";
    let to = WireEnd::Other(format!("{high}, each through {ohms}"));
    Some(Wire::of("bus", "SCL and SDA", to, note))
}

/// Returns the connections besides the lines; equal ones at several chips are listed once.
fn ties(mount: &Mount, chips: usize, all: &[Wire]) -> Vec<Wire> {
    let is_alike = |a: &Wire, b: &Wire| (&a.pin, &a.to, &a.note) == (&b.pin, &b.to, &b.note);
    let mut ties: Vec<Wire> = Vec::new();
    let one = if mount.is_module { "module" } else { "chip" };
    for wire in all {
        let is_everywhere = chips > 1 && all.iter().filter(|other| is_alike(other, wire)).count() == chips;
        if !is_everywhere {
            ties.push(wire.clone());
        } else if !ties.iter().any(|said| is_alike(said, wire)) {
            ties.push(Wire { chip: format!("each {one}"), ..wire.clone() });
        }
    }
    if let Some((out, into)) = mount.chained() {
        let to = WireEnd::Other(format!("{into} of the next"));
        ties.push(Wire::of(&format!("each {one} but the last"), &out.to_string(), to, "the chain goes on"));
    }
    ties
}

/// The resistor to a base that takes this current.
fn base_resistor(current: Milliamps, high: Volts) -> Option<Ohms> {
    const BASE_EMITTER: f64 = 0.7;
    let base = current.0 / 1e3;
    (base > 0.0 && high.0 > BASE_EMITTER).then(|| nearest_e12(Ohms((high.0 - BASE_EMITTER) / base)))
}

/// The connections of a bare display. `other_name` is that of a controller pin; an output of a part has none.
fn display(
    mount: &Mount,
    circuit: &Circuit,
    flow: Option<&Flow>,
    high: Volts,
    other_name: impl Fn(&Pin) -> Option<String>,
) -> Vec<Connection> {
    let drive = mount.drive.display();
    let is_select = |output: usize| circuit.selects.contains(&output);
    let resistor_in = |place| circuit.resistor.filter(|resistor| resistor.place == place);
    let anodes_joined = circuit.common == Common::Anode;
    let of_output = |(index, output): (usize, &Output)| {
        let (switch, place, to_high) = if is_select(index) {
            (&circuit.select_switch, ResistorPlace::Digits, anodes_joined)
        } else {
            (&circuit.line_switch, ResistorPlace::Segments, !anodes_joined)
        };
        let resistor = resistor_in(place).map(|resistor| Through::Resistor(resistor.ohms));
        // A follower takes at its base only what it needs.
        let switched = flow.map(|flow| if is_select(index) { flow.joined } else { flow.peak });
        let has_base = !switch.follows && switch.has_base_resistor();
        let base = switched.filter(|_| has_base).and_then(|switched| switch.base(switched));
        let base = base.and_then(|base| base_resistor(base, high));
        let base = base.map(Through::Base);
        let switching = Switching { kind: switch.kind, to_supply: to_high, follows: switch.follows };
        let switch = (switch.kind != SwitchKind::None).then_some(Through::Switch(switching));
        let is_segment = mount.face.style().segment_index(&output.role).is_some();
        Connection {
            package_pins: output.package_pins.clone(),
            function: if is_segment { format!("segment {}", output.role) } else { output.role.clone() },
            through: resistor.into_iter().chain(switch).chain(base).collect(),
            to: output.pin.to_string(),
            also: other_name(&output.pin),
            at: drive.output_at(index).map(|(chip, pin)| At { chip, pin }),
            is_rail: false,
            is_select: is_select(index),
        }
    };
    let mut list: Vec<_> = circuit.outputs.iter().enumerate().map(of_output).collect();
    if circuit.selects.is_empty() {
        let resistor = resistor_in(ResistorPlace::Digits).map(|resistor| Through::Resistor(resistor.ohms));
        let commons = mount.package.iter().flat_map(|package| package.pins_of(Function::Common)).collect();
        list.push(Connection {
            package_pins: commons,
            function: if mount.face.digits() > 1 { "common of every digit".into() } else { "common".into() },
            through: resistor.into_iter().collect(),
            to: if anodes_joined { "supply".into() } else { "ground".into() },
            also: None,
            at: None,
            is_rail: true,
            is_select: false,
        });
    }
    // As the package counts its pins, where it is known; of several packages one after another.
    let package_of = |connection: &Connection| {
        let output = circuit.outputs.iter().find(|output| output.pin.to_string() == connection.to);
        match output.map(|output| output.hangs) {
            Some(Hangs::SegmentOf { digit, .. }) => digit,
            _ if mount.face.digits() > 1 && connection.is_rail => usize::MAX,
            _ => 0,
        }
    };
    list.sort_by_key(|connection| {
        (package_of(connection), connection.package_pins.first().copied().unwrap_or(usize::MAX))
    });
    list
}
