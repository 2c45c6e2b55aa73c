//! The core on its own, through its public face.

mod closed_loop;
mod common;
mod dump;
mod faults;
mod rig_findings;
