//! Source for controllers, through the public face of the crate.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

/// Rigs and frames that the tests of the core share.
#[allow(dead_code, reason = "each uses some of it")]
#[path = "../../../core/tests/core/common.rs"]
mod common;
mod data;
/// The imports between folders.
#[allow(dead_code, reason = "the layers of the core use more of it")]
#[path = "../../../core/tests/core/folders.rs"]
mod folders;
mod projects;
