//! Records of what happened on the lines.

pub mod vcd;
