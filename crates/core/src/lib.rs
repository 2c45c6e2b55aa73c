//! The heart of Spare Tile.
//!
//! One description of the hardware, the [rig](rig), gives everything between what is said and what is
//! seen. The way through is a pipeline, and each module is one step of it:
//!
//! ```text
//!  text            glyph      which segments a character lights
//!   | glyph        face       what a person looks at
//!  frame           frame      a level for each element
//!   | wiring       wiring     elements to nodes and back
//!  nodes           drive      a face's method: its driver, bus and model
//!   | drive        chip       the parts, a folder each
//!  ops             bus        operations as data, and the edges they become
//!   | bus
//!  edges           capture    edges written as a value change dump
//!   | model
//!  lights          scan       the plan of a scan, what the eye sees of it, and its currents
//!   | eye
//!  picture         picture    what the lights look like
//! ```
//!
//! [`pipeline::Pipeline`] joins the steps for one face; [`reel`] adds time. [`capture`] goes the way from edges to
//! pictures for recordings, [`firmware`] writes tables and operations as source, [`keys`] reads push buttons.
//! Nothing here does I/O, reads a clock or knows of a terminal: text comes in as `&str`, time as elapsed time.
//!
//! ```
//! use spare_tile_core::{glyph::text, pipeline::Pipeline, rig::Rig};
//!
//! let rig = Rig::read(r#"
//!     [face.desk]
//!     kind = "seven-segment"
//!     digits = 8
//!     [face.desk.drive]
//!     method = "max7219"
//!     pins = { data = "GP19", clock = "GP18", select = "GP17" }
//! "#).rig.expect("a sound rig");
//! let desk = &rig.faces[0];
//!
//! let mut frame = desk.face.blank();
//! text::write("tEAL 48", &desk.face, text::Field::whole(&desk.face, text::Align::Left), &mut frame)?;
//! let mut pipeline = Pipeline::new(desk);
//! pipeline.power_up();
//! pipeline.show(&frame);
//! assert_eq!(pipeline.picture().reading(), "tEAL 48 ");
//! # Ok::<(), text::TextError>(())
//! ```

pub mod bus;
pub mod capture;
pub mod chip;
pub mod dots;
pub mod drive;
pub mod face;
pub mod firmware;
pub mod frame;
pub mod glyph;
pub mod keys;
pub mod picture;
pub mod pipeline;
pub mod reel;
pub mod rig;
pub mod scan;
pub mod units;
pub mod wiring;
