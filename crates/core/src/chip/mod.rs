//! The parts, a folder each.
//!
//! A part's folder reads like its data sheet: `facts.rs` the figures, `driver.rs` the words to send as a
//! programmer reads them, `model.rs` what the part does with the edges it gets, and `mod.rs` the keys of its
//! drive table. `driver.rs` and `model.rs` share no code, so that each can catch the other's mistakes. A part of
//! one register has it all in `mod.rs`.

pub mod hc573;
pub mod hc595;
pub mod max7219;
pub mod mcp23017;
pub mod pcf8574;
