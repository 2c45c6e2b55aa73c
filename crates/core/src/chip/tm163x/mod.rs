//! The family of tm1637 and tm1638: the same commands over other wires, with memories of other shapes.
//!
//! What they share on the sending side is in `driver.rs`, on the receiving side in `model.rs`; each part's folder has its
//! figures, its keys in the rig, and what it does with the edges on its wires.

pub mod driver;
pub mod model;

use serde::de::IgnoredAny;
use serde_spanned::Spanned;

use super::grid::{GridKeys, Grids, usual_order};
use super::{brightness, check_common, check_supply, resend};
use crate::bus::Bus;
use crate::bus::watch::Limits;
use crate::drive::{Drive, Driver, Ends, Line, Model, Needs, Wire};
use crate::face::Face;
use crate::glyph::Common;
use crate::rig::{Controller, DriveTable, Place, Problem};
use crate::units::{Hertz, Nanos, Volts};

/// The figures of a part.
pub struct Facts {
    /// Its name.
    pub name: &'static str,
    /// The side of the digits that is joined.
    pub common: Common,
    /// Grids, memory bytes of each, and segment lines of each.
    pub grids: usize,
    pub bytes_a_grid: usize,
    pub lines: usize,
    /// How many bytes it answers when its keys are read.
    pub key_bytes: usize,
    /// What its wires take, and their usual clock.
    pub limits: Limits,
    pub usual_clock: u32,
    /// The lowest and the highest supply.
    pub supply: (Volts, Volts),
    /// Its supply pins, and why.
    pub wires: [(&'static str, &'static str, &'static str); 2],
}

impl Facts {
    /// Bytes of its memory.
    pub const fn bytes(&self) -> usize {
        self.grids * self.bytes_a_grid
    }

    /// What it takes to drive a face with one.
    pub fn needs(&self, face: &Face, pins: usize) -> Option<Needs> {
        let fits =
            face.dots.width == 0 && face.style.segment_count() <= self.lines && face.digits <= self.grids;
        fits.then(|| Needs { pins, parts: format!("1 {}", self.name) })
    }
}

const MAX_BRIGHTNESS: u8 = 7;

/// The keys of the drive table that both parts have, the pins aside.
#[derive(serde::Deserialize)]
pub struct Keys<P> {
    #[serde(rename = "method")]
    _method: IgnoredAny,
    pub(super) pins: P,
    clock_hz: Option<Spanned<u32>>,
}

/// How a part is different from the others once its facts are known.
pub trait Kind: Sync {
    /// Its figures.
    fn facts(&self) -> &'static Facts;
    /// The wires.
    fn bus(&self, clock: Hertz) -> Box<dyn Bus>;
    /// The receiving end, with the node of each key of the face.
    fn model(&self, keys: &[(usize, u8)]) -> Box<dyn Model>;
    /// The node of a key by its name, and the nodes that there are in words.
    fn key(&self, name: &str) -> Option<(usize, u8)>;
    /// The allowed names of keys, in words.
    fn key_names(&self) -> &'static str;
    /// Which keys an answer says are down.
    fn keys_down(&self, keys: &[(usize, u8)], answer: &[u8]) -> Vec<usize>;
    /// What a transfer says.
    fn explain(&self, bytes: &[u8]) -> String;
}

/// Plans the drive of a face on one part.
pub fn plan<P>(
    kind: &'static dyn Kind,
    face: &Face,
    controller: &Controller,
    keys: &Keys<P>,
    grid_keys: &GridKeys,
    lines: Vec<Line>,
    table: &DriveTable<'_>,
) -> Option<Drive> {
    let facts = kind.facts();
    check_common(face, facts.name, facts.common, table);
    check_supply(controller, facts.name, facts.supply, table);
    let clock = table.or_assume("clock_hz", keys.clock_hz.clone(), facts.usual_clock);
    let sound = table.check_range(&clock, 1, facts.limits.clock.0);
    let brightness = brightness(grid_keys, 4, MAX_BRIGHTNESS, table);
    let grids = Grids {
        parts: 1,
        grids: facts.grids,
        lines: facts.lines,
        grid_name: ("grid", 1),
        line_name: ("seg", 1),
    };
    let (wiring, bit_order) = grids.plan(face, grid_keys, usual_order(face.style), table)?;
    let key = |(_, node): &(&str, &Spanned<String>)| {
        let key = kind.key(node.get_ref());
        if key.is_none() {
            let (found, allowed) = (format!("{:?}", node.get_ref()), kind.key_names().to_owned());
            table.error(Place::Span(node.span()), Problem::WrongValue { found, allowed });
        }
        key
    };
    let part = Part {
        kind,
        clock: Hertz(*clock.get_ref()),
        brightness,
        keys: table.keys().iter().map(key).collect::<Option<_>>()?,
        names: table.keys().iter().map(|(name, _)| (*name).to_owned()).collect(),
        resend: resend(grid_keys, table)?,
    };
    sound.then(|| Drive { lines, wiring, bit_order, ends: Box::new(part) })
}

/// One part on its wires.
struct Part {
    kind: &'static dyn Kind,
    clock: Hertz,
    brightness: u8,
    /// The node of each key of the face.
    keys: Vec<(usize, u8)>,
    names: Vec<String>,
    resend: Option<Nanos>,
}

impl Ends for Part {
    fn summary(&self) -> String {
        format!("1 {}, clock {}", self.kind.facts().name, self.clock)
    }

    fn driver(&self) -> Box<dyn Driver> {
        Box::new(driver::Memory::new(self.kind.facts(), self.brightness, !self.keys.is_empty()))
    }

    fn bus(&self) -> Box<dyn Bus> {
        self.kind.bus(self.clock)
    }

    fn model(&self) -> Box<dyn Model> {
        self.kind.model(&self.keys)
    }

    fn explain(&self, bytes: &[u8], _: &[Line]) -> String {
        self.kind.explain(bytes)
    }

    fn max_brightness(&self) -> Option<u8> {
        Some(MAX_BRIGHTNESS)
    }

    fn step_light(&self, step: u8) -> f32 {
        const WIDTHS: [u8; 8] = [1, 2, 4, 10, 11, 12, 13, 14];
        f32::from(WIDTHS[usize::from(step.min(MAX_BRIGHTNESS))]) / 14.0
    }

    fn full_duty(&self) -> f32 {
        // Brightness 7: 14/16 of a grid's turn; all grids are always scanned.
        14.0 / 16.0 / self.kind.facts().grids as f32
    }

    fn keys_down(&self, answer: &[u8]) -> Vec<usize> {
        self.kind.keys_down(&self.keys, answer)
    }

    fn key_names(&self) -> Vec<String> {
        self.names.clone()
    }

    fn resend_every(&self) -> Option<Nanos> {
        self.resend
    }

    fn wires(&self) -> Vec<Wire> {
        let facts = self.kind.facts();
        let wire = |(pin, to, note): &(&str, &str, &str)| Wire {
            from: format!("{}, {pin}", facts.name),
            to: (*to).to_owned(),
            note: (*note).to_owned(),
        };
        facts.wires.iter().map(wire).collect()
    }
}
