//! The pull-ups of an I2C bus: by its speed, and by how much hangs on it.

use super::{Mount, Rig};
use crate::bus::Protocol;
use crate::part::Part;
use crate::rig::Line;
use crate::units::{E12, Hertz, Ohms, Volts, values};

/// The capacitance of each pin on the bus in farads, at most (I2C-bus specification, C_i).
const PIN: f64 = 10e-12;
/// The capacitance of the wires: half a metre of them, or a board and a short cable.
const WIRES: f64 = 50e-12;
/// The current that every part can pull low, in amperes, and the level that it reaches (specification, I_OL, V_OL).
const SINK: (f64, Volts) = (3e-3, Volts(0.4));
/// More than this picks up noise, though the bus may be slow enough for it.
const MOST: Ohms = Ohms(10_000.0);

/// The fixed pull-up of a line's pin on the board.
pub(super) fn of_board(rig: &Rig, line: &Line) -> Option<Ohms> {
    let facts = rig.controller.facts.as_ref()?;
    facts.pull_up(&line.known).map(|ohms| Ohms(ohms.into()))
}

/// The resistor from each line of the face's bus to its high level; `None` if the bus is not I2C.
#[must_use]
pub fn of(rig: &Rig, mount: &Mount) -> Option<Ohms> {
    // Where the board has them no more are wanted.
    if !mount.lines.is_empty() && mount.lines.iter().all(|line| of_board(rig, line).is_some()) {
        return None;
    }
    let on_bus = |of: &&Mount| of.device.bus == mount.device.bus;
    let is_i2c = |of: &Mount| matches!(rig.protocol(of), Some(Protocol::I2c(_)));
    if !is_i2c(mount) {
        return None;
    }
    let neighbours = || rig.faces.iter().filter(on_bus).filter(|of| is_i2c(of));
    let parts = neighbours().map(|of| of.drive.addresses().len()).sum();
    let clocks = neighbours().filter_map(|of| match rig.protocol(of)? {
        Protocol::I2c(i2c) => Some(i2c.clock),
        _ => None,
    });
    Some(value(clocks.max()?, parts, mount.level))
}

/// The largest value of E12 with which the lines rise in time, or the least that the parts can pull low.
fn value(clock: Hertz, parts: usize, high: Volts) -> Ohms {
    // From 0.3 to 0.7 of the high level (specification, t_r).
    let rise = match clock.0 {
        ..=100_000 => 1000e-9,
        100_001..=400_000 => 300e-9,
        _ => 120e-9,
    };
    let capacitance = WIRES + PIN * (parts + 1) as f64;
    let most = Ohms((rise / (0.8473 * capacitance)).min(MOST.0));
    let least = Ohms((high - SINK.1).0 / SINK.0);
    let in_time = values(&E12, 1..5).filter(|ohms| (least..=most).contains(ohms)).last();
    in_time.or_else(|| values(&E12, 1..5).find(|ohms| *ohms >= least)).unwrap_or(MOST)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn by_speed_and_count() {
        // 300 ns / (0.8473 x 70 pF) = 5058 ohm: 4.7 kilohm.
        assert_eq!(value(Hertz(400_000), 1, Volts(5.0)), Ohms(4_700.0));
        // 300 ns / (0.8473 x 140 pF) = 2529 ohm: 2.2 kilohm.
        assert_eq!(value(Hertz(400_000), 8, Volts(5.0)), Ohms(2_200.0));
        // 1 us / (0.8473 x 70 pF) = 16.9 kilohm: no more than 10.
        assert_eq!(value(Hertz(100_000), 1, Volts(3.3)), Ohms(10_000.0));
        // 120 ns / (0.8473 x 140 pF) = 1012 ohm, and (5 V - 0.4 V) / 3 mA = 1533 ohm: the parts come first.
        assert_eq!(value(Hertz(1_000_000), 8, Volts(5.0)), Ohms(1_800.0));
    }
}
