//! Bare displays: lights with nothing of their own between them and the lines that switch them.
//!
//! ```text
//!  frame --wiring--> lights --Scanner--> levels of the outputs --Writer--> ops
//!                                                                           |
//!  elements <--geometry-- lights <--Lights-- levels of the outputs <--Model-+
//! ```
//!
//! A [`circuit::Circuit`] says what hangs on which output: a light with a line of its own (static), or lines and digits
//! that cross (scanned). Outputs are controller pins, or the pins of latches, shift registers and port expanders; those
//! are parts, and this module knows nothing of them. The sending side keeps for each element the outputs that light it;
//! the [receiving side](lights) works out from what hangs on the outputs which lights there are and where.

pub mod circuit;
mod keys;
pub mod lights;
pub mod places;
mod plan;
pub mod ratings;
mod scanner;
pub mod trouble;
mod values;

pub use keys::CircuitKeys;
pub use plan::{PlannedCircuit, plan};
pub use scanner::Scanner;
pub use values::MAX_DEPTH;
