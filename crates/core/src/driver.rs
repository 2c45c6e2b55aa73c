//! The sending end: from what should be lit to operations.
//!
//! ```text
//!  frame --wiring--> nodes --Driver--> ops
//!                      |                |
//!                      +--scan--> levels of outputs --Writer--> ops
//! ```
//!
//! A [`Driver`] is for a part with a display memory, or for a whole bare display; a [`Writer`] for a part that is nothing
//! but outputs. Both know the part's data sheet as a programmer reads it, put operations into the sink that the caller
//! gives, and allocate nothing once they are made.

use crate::bus::{Role, Sink};
use crate::frame::Level;
use crate::units::Nanos;

/// The sending end of a face's drive.
pub trait Driver {
    /// Everything from power-up to running and dark, with no flash of garbage between.
    fn power_up(&mut self, sink: &mut dyn Sink);

    /// Shows the nodes at these levels. Where the controller does the scan, they are shown from the next slot on.
    fn frame(&mut self, nodes: &[Level], sink: &mut dyn Sink);

    /// Sets a brightness step; a higher one than the highest is taken as that. Does nothing where the drive has no
    /// brightness.
    fn brightness(&mut self, step: u8, sink: &mut dyn Sink);

    /// Puts the display out.
    fn off(&mut self, sink: &mut dyn Sink);

    /// Lights the display again as it was before [`Self::off`].
    fn on(&mut self, sink: &mut dyn Sink);

    /// Sends everything again, whatever the part is thought to hold: it heals one that lost power or took a glitch. A
    /// display that was put out stays out.
    fn refresh(&mut self, sink: &mut dyn Sink);

    /// Reads the keys; nothing where there are none.
    fn keys(&mut self, sink: &mut dyn Sink) {
        let _ = sink;
    }

    /// Puts the part's own test on or off; nothing where it has none.
    fn test(&mut self, on: bool, sink: &mut dyn Sink) {
        let _ = (on, sink);
    }

    /// The next slot of the scan, where the controller does the scan. Returns how long it is; none where there is no
    /// scan, or the display is out.
    fn slot(&mut self, sink: &mut dyn Sink) -> Option<Nanos> {
        let _ = sink;
        None
    }

    /// Returns true if the next slot is the first of a turn.
    fn begins_turn(&self) -> bool {
        true
    }
}

/// The sending end of something with outputs: levels to operations.
pub trait Writer {
    /// Brings the outputs from power-up to these levels, with nothing else between.
    fn power_up(&mut self, levels: &[bool], sink: &mut dyn Sink);

    /// Brings the outputs to these levels.
    fn write(&mut self, role: Role, levels: &[bool], sink: &mut dyn Sink);

    /// Heals a part that lost power: sends everything that these levels need.
    fn heal(&mut self, levels: &[bool], sink: &mut dyn Sink) {
        self.write(Role::Refresh, levels, sink);
    }

    /// Darkens between two digits of a scan; `rest` are the levels at which all is dark.
    fn blank(&mut self, rest: &[bool], sink: &mut dyn Sink) {
        self.write(Role::Blank, rest, sink);
    }
}
