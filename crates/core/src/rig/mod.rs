//! The rig file: from its text to typed tables whose entries know their places.
//!
//! [`mod@reader`] turns parts of the text's tree into the structs that state their keys. Whatever is wrong becomes a
//! [`Finding`] with its place; reading goes on to find more. What the tables mean is planned above, in
//! [`plan`](crate::plan) and by the parts.

pub(crate) mod button;
pub mod controller;
pub mod controllers;
pub mod document;
pub(crate) mod face;
mod finding;
pub mod glyphs;
pub mod package;
mod pin;
pub mod reader;
mod spanned;
mod table;
mod text_or_list;
pub mod value;

pub use button::{Active, Pull};
pub use controller::{Controller, Limits};
pub use controllers::{Bus, Facts, KnownPin};
pub use document::Document;
pub use finding::{Finding, Findings, Problem, Severity, Trouble, nearest};
pub use package::{Function, Package};
pub use pin::{Pin, Reserved};
pub use spanned::{FilePlace, Spanned};
pub use table::{Claims, DriveTable, End, Line, Place, Wanted, Written};
pub use text_or_list::TextOrList;
