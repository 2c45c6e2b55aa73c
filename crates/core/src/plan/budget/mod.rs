//! The electrical budget of a rig: what flows where, and what the parts can take.
//!
//! The current of a light is what is left of the rail after the light and the switches, over the resistor:
//! `I = (V - Vf - drops) / R`. The resistance of the outputs themselves is left out, so the figures are the most
//! that can flow.

mod advice;
mod currents;
mod excess;
mod totals;

use crate::bare::circuit::{Circuit, Resistor, ResistorPlace, Switch, SwitchKind};
use crate::bare::ratings::Ratings;
use crate::glyph::{Common, glyph};
use crate::rig::{Controller, Finding};
use crate::units::{Milliamps, Ohms, Volts};

use super::{Mount, Rig};

pub use advice::{Advice, Choice, Goal, advise};
pub use currents::{Carrier, Load};
pub use excess::{Excess, of_supply, supply_for};
pub use totals::totals;

/// The currents of a face.
#[derive(Debug, Clone, PartialEq)]
pub struct Budget {
    /// The voltage that the anodes are fed from.
    pub rail: Volts,
    /// Their supply.
    pub feed: Feed,
    /// Across a lit light.
    pub forward: Volts,
    /// Across the switches in its way.
    pub drops: Volts,
    /// The voltage across the resistor.
    pub across: Volts,
    /// The resistor, when the rig says.
    pub resistor: Option<Resistor>,
    /// The share of time that a light gets in a scan.
    pub duty: f64,
    /// The current; `None` if nothing limits it or the voltage is too low.
    pub flow: Option<Flow>,
}

/// The supply of the anodes of a bare display.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Feed {
    /// The supply, straight or through switches that short their two ends.
    Supply,
    /// Outputs of this part or controller.
    Outputs(String),
    /// Switches between supply and lights that stay below what outputs of this part or controller give them.
    Followers(String),
}

impl std::fmt::Display for Feed {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Supply => f.write_str("the supply"),
            Self::Outputs(part) => write!(f, "the outputs of the {part}"),
            Self::Followers(part) => write!(f, "the outputs of the {part}, which the switches follow"),
        }
    }
}

/// Currents of a face.
#[derive(Debug, Clone, PartialEq)]
pub struct Flow {
    /// Of one light while it is lit.
    pub peak: Milliamps,
    /// The same where the outputs in its way drop as much as their data sheets allow; none where there are none, or no figure.
    pub least: Option<Milliamps>,
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

/// Returns the budget of a face; `None` if it is not bare.
#[must_use]
pub fn of(mount: &Mount, controller: &Controller) -> Option<Budget> {
    let circuit = mount.drive.display().circuit()?;
    Some(with(mount, controller, circuit, &mount.drive.display().ratings()?, circuit.resistor))
}

/// The current that takes a drive strength which the program sets, and what the pins give after a reset; `None` where that is
/// enough, or the pins carry no lights.
#[must_use]
pub fn drive_strength(mount: &Mount, controller: &Controller) -> Option<(Milliamps, Milliamps)> {
    // The outputs of a part are not the controller's.
    mount.drive.display().ratings().filter(|ratings| ratings.high.is_none())?;
    let (budget, after_reset) = (of(mount, controller)?, controller.limits.pin_after_reset?);
    let loads = budget.flow.iter().flat_map(|flow| &flow.loads);
    let outputs = loads.filter(|load| {
        matches!(load.carrier, Carrier::Line { .. } | Carrier::Select { .. } | Carrier::Base { .. })
    });
    let most = currents::most(outputs.map(|load| load.current));
    (most > after_reset).then_some((most, after_reset))
}

/// The budget of a face if it had this resistor.
fn with(
    mount: &Mount,
    controller: &Controller,
    circuit: &Circuit,
    ratings: &Ratings,
    resistor: Option<Resistor>,
) -> Budget {
    let forward = mount.face.light.forward;
    let (rail, feed) = rail(circuit, ratings, controller);
    let drops = Volts(circuit.line_switch.drop.0 + circuit.select_switch.drop.0);
    let across = rail - forward - drops;
    let duty = circuit.timing.map_or(1.0, |timing| timing.duty());
    let limits = resistor.filter(|resistor| across.0 > 0.0 && resistor.ohms.0 > 0.0);
    let flow = limits.map(|resistor| {
        let peak = resistor.ohms.passes(across);
        let is_shared = resistor.place == ResistorPlace::Digits;
        let currents = currents::Currents { circuit, peak, is_shared };
        let shares = is_shared && mount.face.digits() > 0;
        Flow {
            peak,
            least: least(&currents, across, resistor, ratings),
            average: peak * duty,
            joined: currents.of_fullest_side(),
            face: currents.of_all(),
            one_to_eight: if shares { one_to_eight(mount) } else { 1.0 },
            loads: currents.loads(ratings, duty, mount.face.light.peak),
        }
    });
    Budget { rail, feed, forward, drops, across, resistor, duty, flow }
}

/// The most that an output drops at the current for which it is rated: V_OL, or the supply less V_OH, of usual CMOS parts (0.5 V
/// in the data sheets of the rp2040 and the 74hc595, 0.4 V in that of the stm32f103).
const OUTPUT_DROP: Volts = Volts(0.5);

/// The least current of a light if lines or selects are outputs, which drop in proportion to their current.
fn least(
    currents: &currents::Currents<'_>,
    across: Volts,
    resistor: Resistor,
    ratings: &Ratings,
) -> Option<Milliamps> {
    let circuit = currents.circuit;
    let ohms = OUTPUT_DROP.0 / (ratings.output?.0 / 1e3);
    let is_straight = |switch: &Switch| switch.kind == SwitchKind::None;
    let line = if is_straight(&circuit.line_switch) { 1.0 } else { 0.0 };
    let joined = currents.of_fullest_side().0 / currents.peak.0.max(f64::MIN_POSITIVE);
    let select =
        if is_straight(&circuit.select_switch) && !circuit.selects.is_empty() { joined } else { 0.0 };
    (line + select > 0.0).then(|| Ohms(resistor.ohms.0 + ohms * (line + select)).passes(across))
}

/// How many times as many lights an 8 has as a 1, which is how much more light each has of one resistor.
fn one_to_eight(mount: &Mount) -> f64 {
    let segments = |character| {
        glyph(mount.face.style(), character).map_or(1, |glyph| glyph.segments.0.count_ones()).max(1)
    };
    f64::from(segments('8')) / f64::from(segments('1'))
}

/// The supply of the anodes, and its voltage.
fn rail(circuit: &Circuit, ratings: &Ratings, controller: &Controller) -> (Volts, Feed) {
    let supply = controller.supply_volts;
    let outputs = ratings.high.unwrap_or(controller.logic_volts);
    let straight_to_supply = circuit.common == Common::Anode && circuit.selects.is_empty();
    let switch = anode_switch(circuit);
    match switch.kind {
        _ if straight_to_supply => (supply, Feed::Supply),
        SwitchKind::None => (outputs, Feed::Outputs(ratings.part.clone())),
        // A stage before it that turns it round brings its base or gate up to the supply.
        _ if switch.follows && !switch.is_turned_round() && outputs < supply => {
            (outputs, Feed::Followers(ratings.part.clone()))
        }
        _ => (supply, Feed::Supply),
    }
}

/// The switch between the anodes and what feeds them.
const fn anode_switch(circuit: &Circuit) -> &Switch {
    match circuit.common {
        Common::Cathode => &circuit.line_switch,
        Common::Anode => &circuit.select_switch,
    }
}

/// Returns the limits that the currents of a rig exceed, as findings in its file.
#[must_use]
pub fn check(rig: &Rig) -> Vec<Finding> {
    let found = excess::all(rig, &|_, circuit| circuit.resistor);
    found.into_iter().map(|found| Finding::new(found.excess.severity(), found.place, found.excess)).collect()
}
