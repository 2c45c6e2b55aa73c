//! The heart of Spare Tile.
//!
//! One description of the hardware, the [rig], gives everything between what is said and what is seen. The way
//! through is a pipeline with two sides that share no code: what is *described* drives the sending side, what is *built* is
//! the receiving side.
//!
//! ```text
//!         sending side: the rig as described                    receiving side: the rig as built
//!  words, number, dots
//!    | content
//!  canvas of a frame                                      picture
//!    | wiring                                                ^ eye
//!  nodes                                                  lights
//!    | driver (a part's, or the scan of a bare display)      ^ geometry
//!  ops, typed -------------------- link ----------------> nodes lit
//!                                                            ^ model
//!                                      bus: ops to edges ----+
//! ```
//!
//! From the bottom up, each module building on those before it:
//!
//! | module | what it knows |
//! | --- | --- |
//! | [`units`], [`words`], [`schema`] | quantities; lists in words; the schemas of keys |
//! | [`frame`], [`glyph`], [`face`] | what should be lit; what characters light; what a person looks at |
//! | [`drawing`] | sprites and characters drawn by hand, change by change |
//! | [`content`] | texts, numbers and dots, drawn on a canvas |
//! | [`rig`] | the rig as a value, read from a file or built; controllers, packages, pins |
//! | [`bus`] | typed transfers, and what they do on the lines |
//! | [`wiring`], [`driver`] | the sending side: elements to nodes, nodes to operations |
//! | [`geometry`], [`model`] | the receiving side: edges to lit nodes, and where those lights are |
//! | [`bare`], [`part`] | circuits of bare displays, and the parts, a folder each |
//! | [`plan`] | the whole rig as plain data; findings, currents, the timing of a scan, the wiring list |
//! | [`link`] | where operations go, and what can fail there |
//! | [`board`] | the receiving side of a whole rig, as a link; faults; the eye and its pictures |
//! | [`play`] | time: the one clock, acts, reels, the scan looked at closely |
//! | [`capture`] | recordings of buses |
//!
//! Two features are on by default: `schema`, the JSON Schemas of rig and reel files (module [`schema`]), and `zones`, the
//! time zones of the world. A program that needs glyphs, wiring and pictures can leave both out.
//!
//! Nothing here does I/O, reads a clock or knows of a terminal: text comes in as `&str`, time as elapsed time.
//!
//! # Text to bytes
//!
//! ```
//! use spare_tile_core::content::text;
//! use spare_tile_core::glyph::{BitOrder, Common, OwnGlyphs, Style};
//!
//! let (style, own) = (Style::Seven, OwnGlyphs::default());
//! let order = BitOrder::parse("dp g f e d c b a", style)?;
//! let digits = text::cells("4.8", true).map(|cell| cell.segments(style, &own));
//! let bytes: Vec<_> =
//!     digits.map(|lit| Ok(order.bits(lit?, Common::Cathode))).collect::<Result<_, text::TextError>>()?;
//! assert_eq!(bytes, [0xE6, 0x7F]);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # Rig to picture
//!
//! ```
//! use spare_tile_core::board::Board;
//! use spare_tile_core::content::{Canvas, text};
//! use spare_tile_core::plan::Rig;
//! use spare_tile_core::play::scheduler::Scheduler;
//!
//! let rig = Rig::read(r#"
//!     [face.desk]
//!     kind = "seven-segment"
//!     digits = 8
//!     [face.desk.drive]
//!     method = "max7219"
//!     pins = { data = "GP19", clock = "GP18", select = "GP17" }
//! "#).rig.expect("a sound rig");
//! let face = &rig.faces[0].face;
//!
//! let mut frame = face.blank();
//! Canvas::whole(face, &mut frame).write("tEAL 48", text::Align::Left)?;
//! let mut scheduler = Scheduler::new(&rig, Board::new(&rig));
//! scheduler.power_up(0)?;
//! scheduler.show(0, &frame)?;
//! let now = scheduler.now();
//! assert_eq!(scheduler.link_mut().picture(0, now).expect("a face").reading(), "tEAL 48 ");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # A rig without TOML
//!
//! ```
//! use spare_tile_core::plan::Rig;
//! use spare_tile_core::rig::Document;
//! use spare_tile_core::rig::value::Value;
//!
//! let mut document = Document::default();
//! document.set(&["face", "clock", "kind"], "seven-segment");
//! document.set(&["face", "clock", "digits"], 4_i64);
//! document.set(&["face", "clock", "drive", "method"], "tm1637");
//! document.set(&["face", "clock", "drive", "pins"], Value::table([("clock", 22_i64), ("data", 21)]));
//! let rig = Rig::of(&document).rig.expect("a sound rig");
//! assert_eq!(rig.faces[0].lines[0].pin.to_string(), "22");
//! // The same rig, as its file would be.
//! assert_eq!(Rig::read(&document.to_string()).rig.expect("the same"), rig);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod bare;
pub mod board;
pub mod bus;
pub mod capture;
pub mod content;
pub mod dots;
pub mod draft;
pub mod drawing;
pub mod driver;
pub mod face;
pub mod frame;
pub mod geometry;
pub mod glyph;
pub mod link;
pub mod meaning;
pub mod model;
pub mod part;
pub mod plan;
pub mod play;
pub mod rig;
pub mod schema;
pub mod units;
pub mod wiring;
pub mod words;
