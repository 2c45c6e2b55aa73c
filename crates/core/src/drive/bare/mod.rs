//! Bare displays: lights with nothing of their own between them and the lines that switch them.
//!
//! ```text
//!  frame --wiring--> nodes --driver--> levels of the outputs --Port--> ops --Bus--> edges
//!                                                                                     |
//!                    lights <--model-- levels of the outputs <--Port's receiver-------+
//! ```
//!
//! A [`circuit::Circuit`] says which light hangs on which outputs: with a line of its own (static), or at the
//! crossing of a line and a select (scanned). Outputs are controller pins, or the pins of latches, shift
//! registers and port expanders; a [`port::Port`] stands for those. So a method is a circuit on a port, and a
//! new kind of part with outputs needs to bring no more than its port.

pub mod circuit;
mod driver;
pub mod expander;
mod keys;
mod model;
pub mod pins;
pub mod places;
mod plan;
pub mod port;
mod values;

pub use keys::CircuitKeys;
pub use plan::{Planned, plan};

use circuit::Circuit;
use port::{Port, Ratings};

use super::{Drive, Driver, Ends, Line, Model, Wire};
use crate::bus::Bus;

/// A circuit on a port: what stands at the ends of a bare display's lines.
pub struct Bare {
    circuit: Circuit,
    port: Box<dyn Port>,
}

/// The drive of a planned circuit on its port.
pub fn drive(planned: Planned, lines: Vec<Line>, port: Box<dyn Port>) -> Drive {
    let Planned { circuit, wiring, bit_order } = planned;
    Drive { lines, wiring, bit_order, ends: Box::new(Bare { circuit, port }) }
}

impl Ends for Bare {
    fn summary(&self) -> String {
        format!("{}, {}", self.port.summary(), self.circuit.summary())
    }

    fn driver(&self) -> Box<dyn Driver> {
        Box::new(driver::Scanner::new(&self.circuit, self.port.writer()))
    }

    fn bus(&self) -> Box<dyn Bus> {
        self.port.bus()
    }

    fn model(&self) -> Box<dyn Model> {
        Box::new(model::Lights::new(&self.circuit, self.port.receiver()))
    }

    fn explain(&self, bytes: &[u8], _: &[Line]) -> String {
        let mut levels = vec![None; self.circuit.outputs.len()];
        match self.port.explain(bytes, &mut levels) {
            Some(words) => words,
            None => self.circuit.words(&levels),
        }
    }

    fn max_brightness(&self) -> Option<u8> {
        None
    }

    fn full_duty(&self) -> f32 {
        self.circuit.timing.as_ref().map_or(1.0, |timing| timing.duty() as f32)
    }

    fn circuit(&self) -> Option<&Circuit> {
        Some(&self.circuit)
    }

    fn ratings(&self) -> Option<Ratings> {
        Some(self.port.ratings())
    }

    fn wires(&self) -> Vec<Wire> {
        self.port.wires()
    }
}
