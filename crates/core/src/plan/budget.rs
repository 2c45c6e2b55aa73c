//! The electrical budget of bare displays: what flows where, and what the parts can take.
//!
//! The current of a light is what is left of the rail after the light and the switches, over the resistor:
//! `I = (V - Vf - drops) / R`. The resistance of the pins themselves is left out, so the figures are the most
//! that can flow.

use std::fmt;

use super::{Mount, Rig};
use crate::bare::circuit::{Circuit, Resistor, ResistorPlace, Switch, SwitchKind};
use crate::bare::ratings::Ratings;
use crate::glyph::{Common, glyph};
use crate::rig::{Controller, Finding, Severity, Trouble};
use crate::units::{E12, E24, Milliamps, Ohms, Volts, nearest};

/// What flows in a face.
#[derive(Debug, Clone, PartialEq)]
pub struct Budget {
    /// The rail that feeds the anodes.
    pub rail: Volts,
    /// What feeds it: `supply`, `pins of the rp2040`.
    pub fed_by: String,
    /// Across a lit light.
    pub forward: Volts,
    /// Across the switches in its way.
    pub drops: Volts,
    /// What is left for the resistor.
    pub across: Volts,
    /// The resistor, when the rig says.
    pub resistor: Option<Resistor>,
    /// The share of time that a light gets in a scan.
    pub duty: f64,
    /// What flows; none where nothing limits it or the voltage does not reach.
    pub flow: Option<Flow>,
    /// Resistors that would suit.
    pub advice: Vec<Advice>,
}

/// Currents of a face.
#[derive(Debug, Clone, PartialEq)]
pub struct Flow {
    /// Of one light while it is lit.
    pub peak: Milliamps,
    /// Of one light in the mean.
    pub average: Milliamps,
    /// Of the joined side of a digit, row or column with all its lights lit.
    pub joined: Milliamps,
    /// Of the whole face with everything lit.
    pub face: Milliamps,
    /// How many times as bright a 1 is as an 8; 1 with a resistor for each segment.
    pub one_to_eight: f64,
    /// Each current and what it may be.
    pub loads: Vec<Load>,
}

/// A current and its limit.
#[derive(Debug, Clone, PartialEq)]
pub struct Load {
    /// What carries it.
    pub what: String,
    /// At most.
    pub current: Milliamps,
    /// What it should stay below, where that is known.
    pub limit: Option<Milliamps>,
    /// What it must stay below, where that is another figure.
    pub absolute: Option<Milliamps>,
}

/// A resistor for a goal.
#[derive(Debug, Clone, PartialEq)]
pub struct Advice {
    /// What is wanted, in words.
    pub goal: String,
    /// The exact value.
    pub exact: Ohms,
    /// The nearest values of the series, with the peak current that they give.
    pub e12: (Ohms, Milliamps),
    /// The same for the finer series.
    pub e24: (Ohms, Milliamps),
}

/// What the currents and voltages of a rig break.
#[derive(Debug, Clone, PartialEq)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum Excess {
    NoResistor,
    NoVoltage { rail: Volts, forward: Volts, drops: Volts },
    Load { load: Load, absolute: bool, most: Milliamps },
    Total { part: String, current: Milliamps, limit: Milliamps },
    Supply { current: Milliamps, limit: Milliamps },
    NotDark { supply: Volts, logic: Volts, forward: Volts },
    NotOff { kind: SwitchKind, supply: Volts, logic: Volts },
    SharedResistor { one_to_eight: f64 },
}

impl fmt::Display for Excess {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::NoResistor => {
                f.write_str("no resistor is stated: nothing that the rig knows of limits the current")
            }
            Self::NoVoltage { rail, forward, drops } => write!(
                f,
                "{rail} does not reach for a light of {forward} and {drops} across switches: it stays dark"
            ),
            Self::Load { load, absolute: true, most } => {
                write!(f, "{} carries {}; its absolute maximum is {most}", load.what, load.current)
            }
            Self::Load { load, most, .. } => {
                write!(f, "{} carries {}; it should not carry more than {most}", load.what, load.current)
            }
            Self::Total { part, current, limit } => {
                write!(f, "the pins of the {part} carry {current} together; {limit} is the most")
            }
            Self::Supply { current, limit } => {
                write!(f, "the faces take up to {current} together; the supply gives {limit}")
            }
            Self::NotDark { supply, logic, forward } => write!(
                f,
                "a dark segment has {} across it, from the {supply} supply to a pin at {logic}, and {forward} light \
                 it: segments that should be dark may glow, and the pin is pulled above its own supply",
                Volts(round(supply.0 - logic.0))
            ),
            Self::NotOff { kind, supply, logic } => write!(
                f,
                "a {} switch at {supply} is told to stop by {logic}: it goes on conducting",
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
            Self::Load { .. } => {
                "take a larger resistor, or put switches between: digit_switch or segment_switch, \"npn\" or \"pnp\"".into()
            }
            Self::Total { .. } => "take larger resistors, or feed the lights through switches or a driver part".into(),
            Self::Supply { .. } => "take larger resistors, or a supply that gives more".into(),
            Self::NotDark { .. } => {
                "feed the common side from the controller's own supply, or put switches or a register between".into()
            }
            Self::NotOff { .. } => {
                "drive it through a small npn or nmos and write { kind = \"pnp\", active = \"high\" }, or feed the lights \
                 from the controller's own supply"
                    .into()
            }
            Self::SharedResistor { .. } => "put a resistor in the line of each segment".into(),
        })
    }
}

impl Excess {
    const fn severity(&self) -> Severity {
        match self {
            Self::NoVoltage { .. } | Self::Load { absolute: true, .. } => Severity::Error,
            _ => Severity::Warning,
        }
    }
}

fn round(value: f64) -> f64 {
    (value * 10.0).round() / 10.0
}

/// The budget of a face; none where it is not bare.
#[must_use]
pub fn of(mount: &Mount, controller: &Controller) -> Option<Budget> {
    let circuit = mount.drive.display().circuit()?;
    let ratings = mount.drive.display().ratings()?;
    let light = &mount.face.light;
    let (rail, fed_by) = rail(circuit, &ratings, controller);
    let drops = Volts(circuit.line_switch.drop.0 + circuit.select_switch.drop.0);
    let across = rail - light.forward - drops;
    let duty = circuit.timing.map_or(1.0, |timing| timing.duty());
    let flow = circuit.resistor.filter(|resistor| across.0 > 0.0 && resistor.ohms.0 > 0.0);
    let flow =
        flow.map(|resistor| flow_through(mount, circuit, &ratings, current(across, resistor.ohms), duty));
    let mut advice = Vec::new();
    if across.0 > 0.0 {
        if let Some(wanted) = light.wanted {
            advice.push(advise(
                format!("for {wanted} in each light on average"),
                across,
                wanted * (1.0 / duty),
            ));
        }
        if let (Some(flow), Some(_)) = (&flow, circuit.timing)
            && circuit.resistor.is_some_and(|resistor| resistor.place == ResistorPlace::Segments)
        {
            let goal = format!("for {} on average, as if it were not scanned", flow.peak);
            advice.push(advise(goal, across, flow.peak * (1.0 / duty)));
        }
    }
    Some(Budget {
        rail,
        fed_by,
        forward: light.forward,
        drops,
        across,
        resistor: circuit.resistor,
        duty,
        flow,
        advice,
    })
}

fn current(across: Volts, ohms: Ohms) -> Milliamps {
    Milliamps(1e3 * across.0 / ohms.0)
}

/// What feeds the anodes.
fn rail(circuit: &Circuit, ratings: &Ratings, controller: &Controller) -> (Volts, String) {
    let from_outputs = match circuit.common {
        Common::Cathode => circuit.line_switch.kind == SwitchKind::None,
        Common::Anode => circuit.select_switch.kind == SwitchKind::None && !circuit.selects.is_empty(),
    };
    match (from_outputs, ratings.high) {
        (true, Some(high)) => (high, format!("outputs of the {}", ratings.part)),
        (true, None) => (controller.logic_volts, format!("pins of the {}", ratings.part)),
        (false, _) => (controller.supply_volts, "supply".to_owned()),
    }
}

/// The currents when one resistor carries `through`.
fn flow_through(mount: &Mount, circuit: &Circuit, ratings: &Ratings, through: Milliamps, duty: f64) -> Flow {
    let shared = circuit.resistor.is_some_and(|resistor| resistor.place == ResistorPlace::Digits);
    let sides = circuit.lights.iter().map(|light| light.joined + 1).max().unwrap_or(0);
    let lights_of = |joined: usize| {
        circuit.lights.iter().filter(|light| light.joined == joined && light.line.is_some()).count()
    };
    let joined_of = |joined: usize| match (shared, lights_of(joined)) {
        (_, 0) => Milliamps(0.0),
        (true, _) => through,
        (false, lights) => through * lights as f64,
    };
    let all: Vec<_> = (0..sides).map(joined_of).collect();
    let joined = all.iter().copied().fold(Milliamps(0.0), |a, b| if b > a { b } else { a });
    let face =
        if circuit.selects.is_empty() { Milliamps(all.iter().map(|side| side.0).sum()) } else { joined };
    let segments = |character| {
        glyph(mount.face.style(), character).map_or(1, |glyph| glyph.segments.0.count_ones()).max(1)
    };
    let one_to_eight = f64::from(segments('8')) / f64::from(segments('1'));
    Flow {
        peak: through,
        average: through * duty,
        joined,
        face,
        one_to_eight: if shared && mount.face.digits() > 0 { one_to_eight } else { 1.0 },
        loads: loads(circuit, ratings, through, joined),
    }
}

/// The current of the outputs and groups of outputs. A switch takes its output's load off it.
fn loads(circuit: &Circuit, ratings: &Ratings, through: Milliamps, joined: Milliamps) -> Vec<Load> {
    let is_straight = |switch: &Switch| switch.kind == SwitchKind::None;
    let lines_give = circuit.common == Common::Cathode;
    let limit = |gives: bool| if gives { ratings.output_source.or(ratings.output) } else { ratings.output };
    let load = |what: String, current, gives| Load {
        what,
        current,
        limit: limit(gives),
        absolute: ratings.output_absolute,
    };
    let mut loads = Vec::new();
    let is_select = |output: &usize| circuit.selects.contains(output);
    if is_straight(&circuit.line_switch) {
        let line = circuit.outputs.iter().enumerate().find(|(output, _)| !is_select(output));
        let what = line.map_or(String::new(), |(_, output)| format!("the output of {}", output.role));
        loads.push(load(format!("{what}, like every line,"), through, lines_give));
    }
    if let Some(select) = circuit.selects.first()
        && is_straight(&circuit.select_switch)
    {
        let role = &circuit.outputs[*select].role;
        loads.push(load(format!("the output of {role}, like every select,"), joined, !lines_give));
    }
    for (name, limit, outputs) in &ratings.groups {
        let lines = outputs.iter().filter(|output| !is_select(output)).count();
        let selects = outputs.iter().any(is_select);
        let mut current = Milliamps(0.0);
        if is_straight(&circuit.line_switch) {
            current.0 += (through * lines as f64).0;
        }
        if is_straight(&circuit.select_switch) && selects {
            current.0 = current.0.max(joined.0);
        }
        if current.0 > 0.0 {
            loads.push(Load { what: name.clone(), current, limit: Some(*limit), absolute: None });
        }
    }
    loads
}

fn advise(goal: String, across: Volts, peak: Milliamps) -> Advice {
    let exact = Ohms(1e3 * across.0 / peak.0);
    let nearest_with = |series: &[f64]| {
        let ohms = nearest(exact, series);
        (ohms, current(across, ohms))
    };
    Advice { goal, exact, e12: nearest_with(&E12), e24: nearest_with(&E24) }
}

/// What the currents of a rig break, as findings in its file.
#[must_use]
pub fn check(rig: &Rig) -> Vec<Finding> {
    let mut findings = Vec::new();
    let (mut in_total, mut of_pins, mut last_pins) = (0.0, 0.0, 0..0);
    for mount in &rig.faces {
        let (Some(circuit), Some(ratings)) =
            (mount.drive.display().circuit(), mount.drive.display().ratings())
        else {
            continue;
        };
        let Some(budget) = of(mount, &rig.controller) else { continue };
        let mut add = |span: &std::ops::Range<usize>, excess: Excess| {
            let severity = excess.severity();
            findings.push(Finding::new(severity, span.clone(), excess));
        };
        let places = &circuit.places;
        for excess in voltages(circuit, &ratings, &budget, &rig.controller) {
            add(&places.selects, excess);
        }
        match &budget.flow {
            None if budget.across.0 <= 0.0 => {
                let Budget { rail, forward, drops, .. } = budget;
                add(&places.lines, Excess::NoVoltage { rail, forward, drops });
            }
            None => add(&places.drive, Excess::NoResistor),
            Some(flow) => {
                if flow.one_to_eight > 1.0 {
                    add(&places.resistor, Excess::SharedResistor { one_to_eight: flow.one_to_eight });
                }
                for load in &flow.loads {
                    let over = |limit: Option<Milliamps>| limit.filter(|limit| load.current > *limit);
                    let excess = match (over(load.absolute), over(load.limit)) {
                        (Some(most), _) => Excess::Load { load: load.clone(), absolute: true, most },
                        (None, Some(most)) => Excess::Load { load: load.clone(), absolute: false, most },
                        (None, None) => continue,
                    };
                    add(&places.resistor, excess);
                }
                in_total += flow.face.0;
                let straight = circuit.line_switch.kind == SwitchKind::None
                    || circuit.select_switch.kind == SwitchKind::None && !circuit.selects.is_empty();
                if ratings.high.is_none() && straight {
                    of_pins += flow.face.0;
                    last_pins = places.resistor.clone();
                }
            }
        }
    }
    let mut add = |excess: Excess| {
        findings.push(Finding::new(Severity::Warning, last_pins.clone(), excess));
    };
    if let Some(limit) = rig.controller.limits.total.filter(|limit| of_pins > limit.0) {
        let part = rig.controller.part.unwrap_or("controller").to_owned();
        add(Excess::Total { part, current: Milliamps(of_pins), limit });
    }
    if let Some(limit) = rig.controller.supply_current.filter(|limit| in_total > limit.0) {
        add(Excess::Supply { current: Milliamps(in_total), limit });
    }
    findings
}

/// What is wrong with voltages though current flows.
fn voltages(circuit: &Circuit, ratings: &Ratings, budget: &Budget, controller: &Controller) -> Vec<Excess> {
    let (supply, logic) = (controller.supply_volts, ratings.high.unwrap_or(controller.logic_volts));
    let mut found = Vec::new();
    let lines_sink_straight = circuit.common == Common::Anode && circuit.line_switch.kind == SwitchKind::None;
    if lines_sink_straight && budget.fed_by == "supply" && supply > logic {
        // Light begins well below the forward voltage of full light.
        const GLOW: f64 = 0.4;
        if supply.0 - logic.0 > budget.forward.0 - GLOW {
            found.push(Excess::NotDark { supply, logic, forward: budget.forward });
        }
    }
    for (switch, to_high) in [
        (&circuit.line_switch, circuit.common == Common::Cathode),
        (&circuit.select_switch, circuit.common == Common::Anode),
    ] {
        // The base or gate of a p kind must come within half a volt of its rail to stop.
        let is_p = matches!(switch.kind, SwitchKind::Pnp | SwitchKind::Pmos);
        if is_p && to_high && !switch.active && supply.0 - logic.0 > 0.5 {
            found.push(Excess::NotOff { kind: switch.kind, supply, logic });
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_nearest_of_the_series() {
        for (exact, e12, e24) in
            [(68.0, 68.0, 68.0), (74.0, 68.0, 75.0), (9.5, 10.0, 9.1), (1250.0, 1200.0, 1300.0)]
        {
            assert_eq!(
                (nearest(Ohms(exact), &E12), nearest(Ohms(exact), &E24)),
                (Ohms(e12), Ohms(e24)),
                "{exact}"
            );
        }
    }
}
