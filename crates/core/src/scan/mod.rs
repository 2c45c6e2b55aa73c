//! The scan: how a controller shares its lines among digits, what a person gets to see of it, and what the
//! currents come to.
//!
//! [`plan`] works the slots, duties and pins out from the rig. [`eye`] knows nothing of the plan: it watches
//! a model's lights, whatever the edges were, and says what is perceived. [`stall`] lets the program block
//! and asks the eye. [`recording`] keeps one turn, to be drawn or played slowed down by the timetable of [`slow`].
//! [`budget`] adds up currents.

pub mod budget;
pub mod eye;
pub mod plan;
pub mod recording;
pub mod slow;
pub mod stall;
