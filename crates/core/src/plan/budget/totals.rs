//! The total currents of a rig: the pins of its controller together, each of its parts, and its supply.

use super::currents::{Carrier, Load};
use super::excess::ResistorOf;
use super::with;
use crate::bare::circuit::{Circuit, Resistor, SwitchKind};
use crate::plan::{Mount, Rig};
use crate::units::Milliamps;

/// More than this, and a rig should say what its supply gives: a usual USB port gives half an ampere.
pub const UNSAID: Milliamps = Milliamps(400.0);

/// Returns the total currents with everything lit: the faces in their order, then the controller's pins together, if they
/// feed lights, and last the supply.
#[must_use]
pub fn totals(rig: &Rig) -> Vec<Load> {
    with_resistors(rig, &|_, circuit| circuit.resistor)
}

/// The same with these resistors.
pub(super) fn with_resistors(rig: &Rig, resistor_of: ResistorOf<'_>) -> Vec<Load> {
    let plain = |carrier, current| Load { carrier, current, limit: None, absolute: None };
    let (mut loads, mut in_all, mut of_pins) = (Vec::new(), 0.0, 0.0);
    for (face, mount) in rig.faces.iter().enumerate() {
        let Some(of_face) = of_face(rig, mount, &|circuit| resistor_of(face, circuit)) else { continue };
        let parts = mount.drive.display().chips().len();
        let face = mount.face.name.clone();
        loads.push(match mount.drive.display().circuit() {
            Some(_) => plain(Carrier::Lights { face }, of_face),
            None => plain(
                Carrier::Part { face, part: mount.method, parts },
                Milliamps(of_face.0 / parts.max(1) as f64),
            ),
        });
        in_all += of_face.0;
        if is_straight(mount) {
            of_pins += of_face.0;
        }
    }
    let limits = &rig.controller.limits;
    if of_pins > 0.0 {
        loads.push(Load {
            carrier: Carrier::Pins { controller: rig.controller.called().to_owned() },
            current: Milliamps(of_pins),
            limit: limits.total,
            absolute: limits.total_absolute,
        });
    }
    if in_all > 0.0 {
        let limit = rig.controller.supply_current;
        loads.push(Load { limit, ..plain(Carrier::Supply, Milliamps(in_all)) });
    }
    loads
}

/// Returns the current of a face with everything lit, on average if a part sets it; `None` if it is unknown.
fn of_face(
    rig: &Rig,
    mount: &Mount,
    resistor_of: &dyn Fn(&Circuit) -> Option<Resistor>,
) -> Option<Milliamps> {
    let display = mount.drive.display();
    if let Some(draws) = display.draws(mount.wiring.wired()) {
        return Some(draws);
    }
    let (circuit, ratings) = (display.circuit()?, display.ratings()?);
    Some(with(mount, &rig.controller, circuit, &ratings, resistor_of(circuit)).flow?.face)
}

/// Returns true if the controller's own pins carry the current of the lights.
pub(super) fn is_straight(mount: &Mount) -> bool {
    let display = mount.drive.display();
    let (Some(circuit), Some(ratings)) = (display.circuit(), display.ratings()) else { return false };
    ratings.high.is_none()
        && (circuit.line_switch.kind == SwitchKind::None
            || circuit.select_switch.kind == SwitchKind::None && !circuit.selects.is_empty())
}
