//! From a character to the segments it lights, and back.
//!
//! [`segments`] names the segments and holds sets of them, [`seven`] draws the characters, [`text`] lays a
//! text out on a face, and [`order`] turns a set of segments into the byte that a port or register wants.

pub mod order;
pub mod segments;
pub mod seven;
pub mod text;

pub use order::{BitOrder, Common};
pub use segments::{Segments, Style};
