//! The built program, driven on files in a temporary folder.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod bad_input;
mod bytes;
mod capture;
mod decode;
mod demo;
mod docs;
mod dots;
mod drawing;
mod encode;
mod firmware;
mod folder;
#[path = "../../../core/tests/core/folders.rs"]
mod folders;
mod hostile;
mod live;
mod manners;
mod pictures;
mod play;
mod questions;
mod reels;
mod rig_check;
mod rig_new;
mod scan;
mod show;
mod table;
mod watching;
mod window;
mod wires;
