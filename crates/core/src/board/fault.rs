//! Faults that can be put on a board: what a loose or wrong wire, a dead part or a dead light does.
//!
//! A wrong setting is not a fault of the board: it is another [plan](crate::plan::Rig) that it is built from. An operation
//! that is spoiled on its way is a [`Faulty`](crate::link::Faulty) link.

use crate::face::Element;
use crate::rig::Pin;

/// Something that is wrong with the hardware.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum Fault {
    /// The line at a controller pin is held at a level, whatever drives it.
    Stuck {
        /// The pin, by its data sheet's name.
        pin: Pin,
        /// The level.
        high: bool,
    },
    /// The wire from a controller pin leads nowhere: at its other end the line floats.
    Open {
        /// The pin.
        pin: Pin,
    },
    /// The wires at two controller pins are exchanged.
    Swapped {
        /// One pin.
        first: Pin,
        /// The other.
        second: Pin,
    },
    /// The lines at two controller pins touch: a low on either pulls both.
    Shorted {
        /// One pin.
        first: Pin,
        /// The other.
        second: Pin,
    },
    /// One pulse of a line is too short to be seen.
    LostPulse {
        /// The pin.
        pin: Pin,
        /// Which rise of it, counted from 0.
        rise: u64,
    },
    /// The parts of a face have no supply.
    Unpowered {
        /// The face, by its place in the rig.
        face: usize,
    },
    /// A light is broken.
    DeadLight {
        /// The face, by its place in the rig.
        face: usize,
        /// The light.
        element: Element,
    },
}
