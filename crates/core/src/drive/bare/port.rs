//! Ports: what a bare display's outputs belong to.
//!
//! A new part with outputs implements [`Port`] with a writer and a receiver that share no code.

use super::super::{Note, Wire};
use crate::bus::{Bus, Edge, Ops, Role};
use crate::units::{Milliamps, Volts};

/// Something with outputs that a controller sets: its own pins, or parts. Outputs are numbered as in
/// [`super::circuit::Circuit::outputs`].
pub trait Port {
    /// What it is, for a reader: `2 74hc595 in a chain`.
    fn summary(&self) -> String;
    /// The wires: operations to edges.
    fn bus(&self) -> Box<dyn Bus>;
    /// The sending end.
    fn writer(&self) -> Box<dyn Writer>;
    /// The receiving end.
    fn receiver(&self) -> Box<dyn Receiver>;
    /// What an operation says, told from its bytes alone: in words, or, where it just sets outputs, as their
    /// levels, which stay `None` where it leaves them alone.
    fn explain(&self, bytes: &[u8], levels: &mut [Option<bool>]) -> Option<String>;
    /// What its outputs can take.
    fn ratings(&self) -> Ratings;
    /// What to connect besides its lines.
    fn wires(&self) -> Vec<Wire> {
        Vec::new()
    }
}

/// What the outputs of a port can take.
#[derive(Debug, Clone, PartialEq)]
pub struct Ratings {
    /// Whose outputs they are: `rp2040`, `74hc595`.
    pub part: String,
    /// The voltage of a high level; `None` for the controller's own.
    pub high: Option<Volts>,
    /// An output, for long.
    pub output: Option<Milliamps>,
    /// An output, at the absolute most, where that is another figure.
    pub output_absolute: Option<Milliamps>,
    /// An output that gives current, where it gives less than it takes.
    pub output_source: Option<Milliamps>,
    /// Groups of outputs with a limit together: their name, the limit, and the outputs.
    pub groups: Vec<(String, Milliamps, Vec<usize>)>,
}

/// The sending end of a port: levels to operations.
pub trait Writer {
    /// Brings the outputs from power-up to these levels, with nothing else between.
    fn power_up(&mut self, levels: &[bool], ops: &mut Ops);
    /// Brings the outputs to these levels.
    fn write(&mut self, role: Role, levels: &[bool], ops: &mut Ops);
    /// Forgets what the outputs are thought to hold, so that the next write sends all.
    fn forget(&mut self) {}
    /// Darkens between two digits of a scan; `rest` are the levels at which all is dark.
    fn blank(&mut self, rest: &[bool], ops: &mut Ops) {
        self.write(Role::Blank, rest, ops);
    }
}

/// The receiving end of a port: edges to levels. Whatever the edges, it does not panic.
pub trait Receiver {
    /// Takes edges in order of time.
    fn take(&mut self, edges: &[Edge]);
    /// The level of each output; `None` where nothing drives it, or too weakly to light anything.
    fn levels(&self) -> &[Option<bool>];
    /// Begins to note down what is heard.
    fn listen(&mut self) {}
    /// What was heard since it was last asked, in order of time.
    fn heard(&mut self) -> Vec<Note> {
        Vec::new()
    }
}
