//! The limits that the currents and voltages of a rig exceed.

use std::fmt;
use std::ops::Range;

use super::currents::{Carrier, Load};
use super::totals::{UNSAID, is_straight, with_resistors};
use super::{Budget, Feed, with};
use crate::bare::circuit::{Circuit, Resistor, SwitchKind};
use crate::bare::ratings::Ratings;
use crate::glyph::Common;
use crate::plan::Rig;
use crate::rig::{Controller, Severity, Trouble};
use crate::units::{Milliamps, Volts};

/// Something that a rig breaks.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum Excess {
    NoResistor,
    NoVoltage { rail: Volts, forward: Volts, drops: Volts },
    Load { load: Load, absolute: bool, most: Milliamps },
    Total { load: Load, absolute: bool, most: Milliamps },
    Supply { current: Milliamps, limit: Milliamps },
    SupplyUnsaid { volts: Volts, current: Milliamps },
    NotDark { supply: Volts, logic: Volts, forward: Volts },
    NotTolerant { controller: String, found: Volts, most: Volts },
    NotOff { kind: SwitchKind, supply: Volts, logic: Volts },
    WeakBase { part: String, source: Milliamps },
    NoGate { kind: SwitchKind, anode: bool, logic: Volts },
    OnlyLow { kind: SwitchKind },
    SharedResistor { one_to_eight: f64 },
}

impl fmt::Display for Excess {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::NoResistor => f.write_str("no resistor is given: nothing in the rig limits the current"),
            Self::NoVoltage { rail, forward, drops } => write!(
                f,
                "{rail} is not enough for a light of {forward} and {drops} across switches: it stays dark"
            ),
            Self::Load { load, absolute: true, most } => {
                write!(f, "{}; its absolute maximum is {most}", load.sentence())
            }
            Self::Load { load, most, .. } => write!(f, "{}; the most for it is {most}", load.sentence()),
            Self::Total { load, absolute: true, most } => {
                write!(f, "{}; the absolute maximum is {most}", load.sentence())
            }
            Self::Total { load, most, .. } => write!(f, "{}; {most} is the most", load.sentence()),
            Self::SupplyUnsaid { current, .. } => write!(
                f,
                "with everything lit the faces take {current} together, and the rig does not say what the supply gives"
            ),
            Self::NotTolerant { controller, found, most } => write!(
                f,
                "through dark lights a pin of the {controller} sees up to {found} before the program has set it; \
                 it stands {most}"
            ),
            Self::Supply { current, limit } => {
                write!(f, "with everything lit the faces take {current} together; the supply gives {limit}")
            }
            Self::NotDark { supply, logic, forward } => write!(
                f,
                "a dark segment has {} across it, from the {supply} supply to a pin at {logic}, and {forward} light \
                 it: segments that should be dark may glow, and the pin is pulled above its own supply",
                Volts(round(supply.0 - logic.0))
            ),
            Self::NotOff { kind, supply, logic } => write!(
                f,
                "a {} switch at {supply} cannot be switched off by {logic}: it keeps conducting",
                kind.name()
            ),
            Self::WeakBase { part, source } => write!(
                f,
                "the {part} gives {source} at a high level, too little for the base of an npn or darlington switch: it hardly \
                 conducts"
            ),
            Self::NoGate { kind, anode: true, logic } => write!(
                f,
                "an {} switch between the supply and the lights needs its gate well above the lights' anodes, and \
                 gets {logic}: it hardly conducts",
                kind.name()
            ),
            Self::NoGate { kind, .. } => write!(
                f,
                "a {} switch between the lights and ground needs its gate well below the lights' cathodes, and gets \
                 0 V: it hardly conducts",
                kind.name()
            ),
            Self::OnlyLow { kind } => write!(
                f,
                "a {} switch only pulls low, and here it would connect lights with the supply: they stay dark",
                kind.name()
            ),
            Self::SharedResistor { one_to_eight } => write!(
                f,
                "the lights of a digit share one resistor: a 1 is {} times as bright as an 8",
                round(*one_to_eight)
            ),
        }
    }
}

impl std::error::Error for Excess {}

impl Trouble for Excess {
    fn fix(&self) -> Option<String> {
        Some(match self {
            Self::NoResistor => "write resistor = { ohms = 220, in = \"segments\" }, with your value".into(),
            Self::NoVoltage { .. } => "feed the lights from a higher supply through switches, or take lights of a lower \
                                       forward voltage"
                .into(),
            Self::Load { load: Load { carrier: Carrier::Base { .. }, .. }, .. } => {
                "take nmos or pmos switches, whose gates take no current, or a larger resistor".into()
            }
            Self::Load { load: Load { carrier: Carrier::Switch { .. }, .. }, .. } => {
                "take a larger resistor, or a switch that carries more and write { kind = \"...\", most_ma = ... }".into()
            }
            Self::Load { .. } => {
                "take a larger resistor, or put switches between: digit_switch or segment_switch, \"npn\" or \"pnp\"".into()
            }
            Self::Total { .. } => "take larger resistors, or feed the lights through switches or a driver part".into(),
            Self::Supply { .. } => {
                "take a supply that gives more, larger resistors, or a lower brightness".into()
            }
            Self::SupplyUnsaid { volts, current } => format!(
                "write supply = {{ volts = {:.1}, amps = {:.1} }} in [controller], and take one that gives that",
                volts.0,
                supply_for(*current)
            ),
            Self::NotDark { .. } | Self::NotTolerant { .. } => {
                "feed the common side from the controller's own supply, or put switches or a register between".into()
            }
            Self::NotOff { .. } => {
                "drive it through a small npn or nmos and write { kind = \"pnp\", active = \"high\" }, or feed the lights \
                 from the controller's own supply"
                    .into()
            }
            Self::WeakBase { .. } => {
                "take pnp or pmos switches, which the outputs pull low, or an nmos, whose gate takes no current".into()
            }
            Self::OnlyLow { .. } => "put a pmos or pnp between the supply and the lights".into(),
            Self::NoGate { anode: true, .. } => {
                "put a pmos or pnp between the supply and the lights, or an npn, which follows its base".into()
            }
            Self::NoGate { .. } => "put an nmos or npn between the lights and ground".into(),
            Self::SharedResistor { .. } => "put a resistor in the line of each segment".into(),
        })
    }
}

impl Excess {
    /// How grave it is.
    pub const fn severity(&self) -> Severity {
        match self {
            Self::NoVoltage { .. }
            | Self::OnlyLow { .. }
            | Self::Load { absolute: true, .. }
            | Self::Total { absolute: true, .. }
            | Self::NotTolerant { .. } => Severity::Error,
            _ => Severity::Warning,
        }
    }

    /// The remedy if a resistor does not help.
    #[must_use]
    pub const fn instead(&self) -> &'static str {
        match self {
            Self::Load { load: Load { carrier: Carrier::Select { .. }, .. }, .. } => {
                "put a switch between the outputs and the digits: digit_switch"
            }
            Self::Load { load: Load { carrier: Carrier::Line { .. }, .. }, .. } => {
                "put switches between the outputs and the segments: segment_switch; or a register or a driver part"
            }
            Self::Load { load: Load { carrier: Carrier::Base { .. }, .. }, .. } => {
                "take nmos or pmos switches, whose gates take no current"
            }
            Self::Load { .. } | Self::Total { .. } => "put a register or a driver part between, or switches",
            Self::Supply { .. } => "take a supply that gives more",
            _ => "put switches or a driver part between, or take a larger supply",
        }
    }

    /// Returns true if it is a current over its limit.
    pub const fn is_overload(&self) -> bool {
        matches!(self, Self::Load { .. } | Self::Total { .. } | Self::Supply { .. })
    }
}

fn round(value: f64) -> f64 {
    (value * 10.0).round() / 10.0
}

/// An excess, whose it is, and where in the file its cause is.
pub struct Found {
    /// The face, by its place in [`Rig::faces`]; none where it is of all together.
    pub face: Option<usize>,
    pub place: Range<usize>,
    pub excess: Excess,
}

/// The resistor that a face has, or would have.
pub type ResistorOf<'r> = &'r dyn Fn(usize, &Circuit) -> Option<Resistor>;

/// Everything that a rig with these resistors breaks.
pub fn all(rig: &Rig, resistor_of: ResistorOf<'_>) -> Vec<Found> {
    let mut found = Vec::new();
    let mut last_pins = 0..0;
    for (face, mount) in rig.faces.iter().enumerate() {
        let display = mount.drive.display();
        let (Some(circuit), Some(ratings)) = (display.circuit(), display.ratings()) else { continue };
        let budget = with(mount, &rig.controller, circuit, &ratings, resistor_of(face, circuit));
        let of_face = of_face(circuit, &ratings, &budget, &rig.controller);
        found.extend(of_face.into_iter().map(|(place, excess)| Found { face: Some(face), place, excess }));
        if budget.flow.is_some() && is_straight(mount) {
            last_pins = circuit.places.resistor.0.clone();
        }
    }
    for load in with_resistors(rig, resistor_of) {
        let current = load.current;
        let (place, excess) = match (&load.carrier, load.limit) {
            (Carrier::Pins { .. }, _) => {
                let Some((most, absolute)) = over(&load) else { continue };
                (last_pins.clone(), Excess::Total { load, absolute, most })
            }
            (Carrier::Supply, Some(limit)) if current > limit => {
                (rig.controller.supply_place.0.clone(), Excess::Supply { current, limit })
            }
            (Carrier::Supply, None) if current > UNSAID => (
                rig.controller.supply_place.0.clone(),
                Excess::SupplyUnsaid { volts: rig.controller.supply_volts, current },
            ),
            _ => continue,
        };
        found.push(Found { face: None, place, excess });
    }
    found
}

/// The limits of the supply that a rig exceeds, or leaves open.
#[must_use]
pub fn of_supply(rig: &Rig) -> Option<Excess> {
    let found = all(rig, &|_, circuit| circuit.resistor).into_iter().map(|found| found.excess);
    found.into_iter().find(|excess| matches!(excess, Excess::Supply { .. } | Excess::SupplyUnsaid { .. }))
}

/// Returns the current that a supply for such a load should give, in amperes: a usual size with a fifth to spare.
#[must_use]
pub fn supply_for(current: Milliamps) -> f64 {
    const SIZES: [f64; 9] = [0.5, 1.0, 2.0, 3.0, 4.0, 5.0, 8.0, 10.0, 20.0];
    let wanted = current.0 * 1.2 / 1e3;
    SIZES.into_iter().find(|amps| *amps >= wanted).unwrap_or_else(|| wanted.ceil())
}

/// The limits that a bare face exceeds, each with its place.
fn of_face(
    circuit: &Circuit,
    ratings: &Ratings,
    budget: &Budget,
    controller: &Controller,
) -> Vec<(Range<usize>, Excess)> {
    let places = &circuit.places;
    let voltages = voltages(circuit, ratings, budget, controller);
    let has_gates = !voltages.iter().any(|excess| matches!(excess, Excess::NoGate { .. }));
    let mut found: Vec<_> = voltages.into_iter().map(|excess| (places.selects.0.clone(), excess)).collect();
    let Budget { rail, forward, drops, .. } = *budget;
    match &budget.flow {
        None if budget.across.0 <= 0.0 && has_gates => {
            found.push((places.lines.0.clone(), Excess::NoVoltage { rail, forward, drops }));
        }
        None if budget.across.0 <= 0.0 => {}
        None => found.push((places.drive.0.clone(), Excess::NoResistor)),
        Some(flow) => {
            if flow.one_to_eight > 1.0 {
                let excess = Excess::SharedResistor { one_to_eight: flow.one_to_eight };
                found.push((places.resistor.0.clone(), excess));
            }
            let overloads = flow.loads.iter().filter_map(overload);
            found.extend(overloads.map(|excess| (places.resistor.0.clone(), excess)));
        }
    }
    found
}

/// The limits that a load exceeds, the graver first.
fn overload(load: &Load) -> Option<Excess> {
    let (most, absolute) = over(load)?;
    Some(Excess::Load { load: load.clone(), absolute, most })
}

/// The limit that a load is over, the graver first, and whether that is the absolute maximum.
fn over(load: &Load) -> Option<(Milliamps, bool)> {
    // A current at the limit is allowed, also where the last bit of a float says otherwise.
    let over = |limit: Option<Milliamps>| limit.filter(|limit| load.current.0 > limit.0 * (1.0 + 1e-9));
    let absolute = over(load.absolute).map(|most| (most, true));
    absolute.or_else(|| over(load.limit).map(|most| (most, false)))
}

/// The errors of voltages that let a current flow.
fn voltages(circuit: &Circuit, ratings: &Ratings, budget: &Budget, controller: &Controller) -> Vec<Excess> {
    let (supply, logic) = (controller.supply_volts, ratings.high.unwrap_or(controller.logic_volts));
    let mut found = Vec::new();
    let lines_sink_straight = circuit.common == Common::Anode && circuit.line_switch.kind == SwitchKind::None;
    if lines_sink_straight && budget.feed == Feed::Supply && supply > logic {
        // Light begins well below the forward voltage of full light.
        const GLOW: f64 = 0.4;
        if supply.0 - logic.0 > budget.forward.0 - GLOW {
            found.push(Excess::NotDark { supply, logic, forward: budget.forward });
        }
        let pins = circuit.outputs.iter().filter_map(|output| controller.pin(&output.pin).ok());
        let most = Volts(pins.map(|pin| controller.stands(&pin).0).fold(f64::INFINITY, f64::min));
        let exposed = Volts(round(supply.0 - budget.forward.0 + GLOW));
        if ratings.high.is_none() && exposed > most {
            let controller = controller.called().to_owned();
            found.push(Excess::NotTolerant { controller, found: exposed, most });
        }
    }
    for (switch, at_anode) in [
        (&circuit.line_switch, circuit.common == Common::Cathode),
        (&circuit.select_switch, circuit.common == Common::Anode && !circuit.selects.is_empty()),
    ] {
        let kind = switch.kind;
        // The base of a pnp, or the gate of a small pmos, must come within 0.4 V of its rail to stop.
        let is_p = matches!(kind, SwitchKind::Pnp | SwitchKind::Pmos);
        if is_p && at_anode && !switch.is_turned_round() && supply.0 - logic.0 > 0.4 {
            found.push(Excess::NotOff { kind, supply, logic });
        }
        // The current from a high level of quasi-bidirectional pins: a twentieth of what such a switch could carry.
        if let Some(source) = ratings.weak_source()
            && kind.takes_from_output()
            && !switch.is_turned_round()
        {
            found.push(Excess::WeakBase { part: ratings.part.clone(), source });
        }
        if at_anode && kind.only_pulls_low() {
            found.push(Excess::OnlyLow { kind });
        }
        if switch.follows && matches!(kind, SwitchKind::Nmos | SwitchKind::Pmos) {
            let logic = if switch.is_turned_round() { supply } else { logic };
            found.push(Excess::NoGate { kind, anode: at_anode, logic });
        }
    }
    found
}
