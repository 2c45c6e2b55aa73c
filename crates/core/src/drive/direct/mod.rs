//! `static`: each segment of one digit at its own controller pin.
//!
//! ```toml
//! [face.berth]
//! kind = "seven-segment"
//! digits = 1
//! common = "anode"
//! [face.berth.drive]
//! method = "static"
//! segments = { a = "GP2", b = "GP3", c = "GP4", d = "GP5", e = "GP6", f = "GP7", g = "GP8", dp = "GP9" }
//! ```
//!
//! The point may be left out. The node of a colon or lamp is its pin.
//!
//! The model is the digit itself: a segment lights when its pin is at the level that its common side is not.

mod driver;
mod model;

use std::collections::BTreeMap;

use serde::de::IgnoredAny;
use serde_spanned::Spanned;

use super::{Drive, Driver, Ends, Line, Method, Model};
use crate::bus::{Bus, pins::Pins};
use crate::face::Face;
use crate::glyph::{BitOrder, Common};
use crate::rig::{Controller, DriveTable, Pin, Place, Problem};
use crate::wiring::{Node, Wiring};

/// The method `static`.
pub struct Direct;

/// The drive table's keys.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Keys {
    #[serde(rename = "method")]
    _method: IgnoredAny,
    /// The pin of each segment.
    segments: Spanned<BTreeMap<Spanned<String>, Spanned<Pin>>>,
}

impl Method for Direct {
    fn name(&self) -> &'static str {
        "static"
    }

    fn common(&self) -> Option<Common> {
        None
    }

    fn plan(&self, face: &Face, _: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        let keys: Keys = table.read()?;
        if face.digits != 1 {
            table.error(Place::Face("digits"), Problem::StaticDigits { found: face.digits });
            return None;
        }
        let names = face.style.segment_names();
        let mut pins: Vec<Option<Pin>> = vec![None; names.len()];
        for (name, pin) in keys.segments.get_ref() {
            match face.style.segment_index(name.get_ref()) {
                Some(index) => {
                    table.claim(pin, name.get_ref());
                    pins[index] = Some(pin.get_ref().clone());
                }
                None => table.error(name.span(), Problem::unknown_name("segment", name.get_ref(), names)),
            }
        }
        // The point stands last and may have no pin.
        let has_point = pins.last().is_some_and(Option::is_some);
        let needed = if has_point { names.len() } else { names.len() - 1 };
        for (name, _) in names.iter().zip(&pins).take(needed).filter(|(_, pin)| pin.is_none()) {
            table.error(keys.segments.span(), Problem::SegmentWithoutPin { segment: name });
        }
        let segments = names.iter().zip(pins).take(needed);
        let segments = segments.map(|(role, pin)| Some(Line { role: (*role).to_owned(), pin: pin? }));
        let extras = face.extras.iter().zip(table.extras()).map(|(extra, node)| {
            let pin = Spanned::new(node.span(), pin_of(node, table)?);
            table.claim(&pin, &extra.name);
            Some(Line { role: extra.name.clone(), pin: pin.into_inner() })
        });
        let lines: Vec<_> = segments.chain(extras).collect::<Option<_>>()?;
        // Line i is node i: the segments, less a point that has no pin, then the colons and lamps.
        let nodes = (0..needed).map(Node).chain((needed..names.len()).map(|_| Node::NOWHERE));
        let nodes = nodes.chain((needed..lines.len()).map(Node)).collect();
        Some(Drive {
            wiring: Wiring::new(nodes, lines.len()).ok()?,
            bit_order: BitOrder::usual(face.style),
            ends: Box::new(Pinned { pins: lines.len(), common: face.common }),
            lines,
        })
    }
}

/// The pin that is the node of a colon or lamp.
fn pin_of(node: &Spanned<String>, table: &DriveTable<'_>) -> Option<Pin> {
    let pin = Pin::parse(node.get_ref());
    if pin.is_none() {
        let found = format!("{:?}", node.get_ref());
        table.error(node.span(), Problem::WrongValue { found, allowed: "the name of a pin".into() });
    }
    pin
}

/// A digit with a pin for each segment.
struct Pinned {
    pins: usize,
    common: Common,
}

impl Ends for Pinned {
    fn summary(&self) -> String {
        format!("{} controller pins, common {}", self.pins, self.common.name())
    }

    fn driver(&self) -> Box<dyn Driver> {
        Box::new(driver::PortWriter::new(self.pins, self.common))
    }

    fn bus(&self) -> Box<dyn Bus> {
        Box::new(Pins::new(self.pins))
    }

    fn model(&self) -> Box<dyn Model> {
        Box::new(model::Digit::new(self.pins, self.common))
    }

    fn explain(&self, bytes: &[u8], lines: &[Line]) -> String {
        let at_level = |wanted: bool| {
            let high = |index: usize| bytes.get(index / 8).is_some_and(|byte| byte >> (index % 8) & 1 == 1);
            let lines = lines.iter().enumerate().filter(move |(index, _)| high(*index) == wanted);
            lines.map(|(_, line)| format!("{} {}", line.role, line.pin)).collect::<Vec<_>>().join(", ")
        };
        let lit = self.common.lit_level();
        let word = if lit { "high" } else { "low" };
        match at_level(lit) {
            pins if pins.is_empty() => format!("no pin {word}: all dark"),
            pins => format!("{word}, so lit: {pins}"),
        }
    }

    fn max_brightness(&self) -> Option<u8> {
        None
    }

    fn full_duty(&self) -> f32 {
        1.0
    }
}
