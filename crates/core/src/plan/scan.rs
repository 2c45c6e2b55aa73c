//! The plan of a scan: slots, duty, pins and processor time, and what is wrong with them.

use std::fmt;

use super::{Mount, Rig};
use crate::bare::circuit::SwitchKind;
use crate::bus::{Ops, Unanswered};
use crate::face::Grid;
use crate::frame::Level;
use crate::part::{Depth, Method, Needs, ScanTimes, methods};
use crate::units::{Hertz, Nanos, counted};

/// A plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// The timing; none where nothing is scanned by the controller.
    pub scan: Option<Scan>,
    /// The needs of this and every other method of driving the face.
    pub ways: Vec<(&'static str, Needs)>,
    /// The controller pins that the rig uses for it.
    pub pins: usize,
}

/// The timing of a scan.
#[derive(Debug, Clone, PartialEq)]
pub struct Scan {
    /// As in the rig.
    pub times: ScanTimes,
    /// The share of time that all is dark.
    pub blanking_share: f64,
    /// Operations a second.
    pub writes_a_second: u64,
    /// The share of the time that the writes keep the bus, and mostly the controller, busy.
    pub busy_share: f64,
    /// The result of every depth of colours or greys, if the controller makes them.
    pub depths: Vec<Depth>,
    /// Its problems.
    pub doubts: Vec<Doubt>,
}

/// Something about a scan that will be seen.
#[derive(Debug, Clone, Copy, PartialEq)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
#[non_exhaustive]
pub enum Doubt {
    Flickers { refresh: Hertz },
    FlickersAside { refresh: Hertz },
    Ghosts { blanking: Nanos, turn_off: Nanos, kind: SwitchKind },
    TooShort { lit: Nanos, turn_off: Nanos, kind: SwitchKind },
    Beats { refresh: Hertz, camera: Hertz, beat: Hertz },
    Busy { share: f64 },
}

/// Below this a steady light flickers for everyone.
const STEADY: Hertz = Hertz(60);
/// Below this it flickers in the corner of the eye, and for an eye that moves.
const STEADY_ASIDE: Hertz = Hertz(100);

impl fmt::Display for Doubt {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Flickers { refresh } => {
                write!(f, "all digits are refreshed at {refresh}: below {STEADY} everyone sees them flicker")
            }
            Self::FlickersAside { refresh } => write!(
                f,
                "all digits are refreshed at {refresh}: below {STEADY_ASIDE} they flicker in the corner of the eye"
            ),
            Self::Ghosts { blanking, turn_off, kind } => write!(
                f,
                "the {} switches conduct for {turn_off} after they are switched off, and the blanking is {blanking}: \
                 the next digit's segments ghost on this one",
                kind.name()
            ),
            Self::TooShort { lit, turn_off, kind } => write!(
                f,
                "a digit is lit for {lit}, no longer than the {turn_off} that the {} switches need to stop",
                kind.name()
            ),
            Self::Beats { refresh, camera, beat } => write!(
                f,
                "{refresh} beats with a camera of {} frames a second: in its pictures the display pulses {} a second",
                camera.0,
                counted(beat.0 as usize, "time", "times")
            ),
            Self::Busy { share } => {
                write!(f, "the writes take {:.0} % of the time", 100.0 * share)
            }
        }
    }
}

impl Doubt {
    /// The way out.
    #[must_use]
    pub fn fix(&self) -> &'static str {
        match self {
            Self::Flickers { .. } | Self::FlickersAside { .. } => "raise refresh_hz, to 120 or more",
            Self::Ghosts { .. } => "raise the blanking above the time that the switches need to stop",
            Self::TooShort { .. } => "lower refresh_hz, or take faster switches",
            Self::Beats { .. } => "if it is to be filmed, take a multiple of both 50 and 60: 300 or 600",
            Self::Busy { .. } => "write whole ports, take a faster clock, or leave the scan to a driver part",
        }
    }
}

/// Works the plan of a face out.
#[must_use]
pub fn plan(rig: &Rig, mount: &Mount) -> Plan {
    let ways = methods().filter_map(|method| Some((method.name(), way(method, mount)?)));
    let display = mount.drive.display();
    let scan = display.scan().map(|times| {
        let (writes, busy) = turn(rig, mount);
        let busy_share = busy.0 as f64 / times.turn.0 as f64;
        Scan {
            times,
            blanking_share: times.blanking.0 as f64 * times.slots as f64 / times.turn.0 as f64,
            writes_a_second: (writes as f64 * times.refresh()).round() as u64,
            busy_share,
            depths: display.depths(),
            doubts: doubts(&times, busy_share),
        }
    });
    Plan { scan, ways: ways.collect(), pins: mount.lines.len() }
}

/// Returns the needs of a face with a method; those of its own method are the present ones. `None` if the method cannot drive it.
fn way(method: &dyn Method, mount: &Mount) -> Option<Needs> {
    if method.name() == mount.method {
        return Some(Needs { pins: mount.lines.len(), parts: mount.drive.display().parts() });
    }
    // The common side of digits is fixed; the two sides of dots can change places.
    let suits = |common| mount.face.dots().is_some() || common == mount.face.common;
    let shows = |grid: Grid| method.channels().contains(&grid.channels);
    let can = mount.face.dots().is_none_or(shows) && method.common().is_none_or(suits);
    method.needs(&mount.face).filter(|_| can)
}

/// How many writes a turn has with everything lit, and how long the bus is busy with them.
fn turn(rig: &Rig, mount: &Mount) -> (usize, Nanos) {
    let (mut driver, mut ops) = (mount.drive.display().driver(), Ops::default());
    driver.power_up(&mut ops);
    driver.frame(&vec![Level::FULL; mount.wiring.node_count()], &mut ops);
    // The first turn may bring parts into step; the second is as all others are.
    for _ in 0..2 {
        ops.clear();
        while driver.slot(&mut ops).is_some() && !driver.begins_turn() {}
    }
    let Some(protocol) = rig.protocol(mount) else { return (0, Nanos(0)) };
    let mut wires = Unanswered::of(protocol);
    let busy = ops.iter().map(|op| protocol.send(op.transfer, Nanos(0), &mut wires).ended.0).sum();
    (ops.len(), Nanos(busy))
}

fn doubts(times: &ScanTimes, busy_share: f64) -> Vec<Doubt> {
    let refresh = Hertz(times.refresh().round() as u32);
    let (kind, turn_off) = times.switch;
    let (lit, blanking) = (times.slot - times.blanking, times.blanking);
    let mut doubts = Vec::new();
    if refresh < STEADY {
        doubts.push(Doubt::Flickers { refresh });
    } else if refresh < STEADY_ASIDE {
        doubts.push(Doubt::FlickersAside { refresh });
    }
    if lit <= turn_off {
        doubts.push(Doubt::TooShort { lit, turn_off, kind });
    } else if blanking < turn_off {
        doubts.push(Doubt::Ghosts { blanking, turn_off, kind });
    }
    doubts.extend(
        [50, 60]
            .into_iter()
            .filter_map(|camera| beat(refresh.0, camera))
            .map(|(camera, beat)| Doubt::Beats { refresh, camera, beat }),
    );
    if busy_share > 0.5 {
        doubts.push(Doubt::Busy { share: busy_share });
    }
    doubts
}

/// The slow pulse that a camera makes of a refresh, when it can be seen: its pictures hold some turns and a
/// part of one, and the part comes and goes. With many turns to a picture the part does not matter.
fn beat(refresh: u32, camera: u32) -> Option<(Hertz, Hertz)> {
    const MANY_TURNS: u32 = 10;
    const SEEN: u32 = 25;
    let over = refresh % camera;
    let beat = over.min(camera - over);
    (beat > 0 && beat <= SEEN && refresh / camera < MANY_TURNS).then_some((Hertz(camera), Hertz(beat)))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn doubts_at(refresh: u32, blanking: u64, kind: SwitchKind) -> Vec<Doubt> {
        let turn = Nanos(1_000_000_000 / u64::from(refresh));
        let (slot, blanking) = (Nanos(turn.0 / 4), Nanos(blanking));
        let switch = (kind, kind.usual_turn_off());
        doubts(
            &ScanTimes { turn, slots: 4, slot, blanking, lit: slot - blanking, ahead: Nanos(0), switch },
            0.01,
        )
    }

    #[test]
    fn a_refresh_has_to_be_fast_and_a_multiple_of_the_cameras() {
        assert_eq!(doubts_at(300, 20_000, SwitchKind::Npn), []);
        let (refresh, flicker) = (Hertz(50), |doubt: &Doubt| matches!(doubt, Doubt::Flickers { .. }));
        assert!(doubts_at(refresh.0, 20_000, SwitchKind::None).iter().any(flicker));
        assert!(matches!(doubts_at(99, 20_000, SwitchKind::None)[0], Doubt::FlickersAside { .. }));
        assert_eq!((beat(120, 60), beat(120, 50)), (None, Some((Hertz(50), Hertz(20)))));
        assert_eq!((beat(61, 60), beat(1001, 50)), (Some((Hertz(60), Hertz(1))), None));
    }

    #[test]
    fn a_blanking_shorter_than_the_switch_ghosts() {
        let ghosts = Doubt::Ghosts { blanking: Nanos(500), turn_off: Nanos(2_000), kind: SwitchKind::Npn };
        assert_eq!(doubts_at(300, 500, SwitchKind::Npn), [ghosts]);
        assert_eq!(doubts_at(300, 0, SwitchKind::None), []);
        let short = doubts_at(100_000, 0, SwitchKind::Pnp);
        assert!(matches!(short[0], Doubt::Ghosts { .. }), "2.5 us lit, 2 us to stop: {short:?}");
    }
}
