//! The family of tm1637 and tm1638: the same commands over other wires, with memories of other shapes.
//!
//! The common sending code is in `driver.rs`, the receiving code in `model.rs`; each part's folder has its
//! figures, its keys in the rig, and what it does with the edges on its wires.

pub mod driver;
pub mod model;

use crate::rig::Spanned;
use serde::de::IgnoredAny;

use super::grid::{GridKeys, Grids, Wired, usual_order};
use super::{
    Button, ByteCode, Chip, ChipPin, Component, DECOUPLING, Display, Drive, Header, Needs, NoByte, Part,
    Planned, Wire, WireEnd, brightness, buttons, check_common, check_logic, check_pulled_up, check_supply,
    mean_current, resend,
};
use crate::bus::watch::Limits;
use crate::bus::{Protocol, Transfer};
use crate::driver::Driver;
use crate::face::Face;
use crate::frame::Level;
use crate::geometry::Geometry;
use crate::glyph::Common;
use crate::meaning::Meaning;
use crate::model::Model;
use crate::rig::{Controller, DriveTable, Line};
use crate::units::{Hertz, Milliamps, Nanos, Ohms, Volts};

/// The differences between the parts: figures and functions.
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
    /// The limits of its wires, and their usual clock.
    pub limits: Limits,
    pub usual_clock: u32,
    /// The lowest and the highest supply.
    pub supply: (Volts, Volts),
    /// Where its lines arrive.
    pub pins: &'static [(usize, ChipPin)],
    /// Its supply pin, and what there is to say of it; its ground pin.
    pub feed: (&'static str, &'static str),
    pub ground: &'static str,
    /// The pins of a module with it.
    pub header: Header,
    /// The pins that it only pulls low.
    pub pulled_up: &'static [&'static str],
    /// The drive that a plan of it is.
    pub drive: fn(Plan) -> Drive,
    /// The wires at a clock rate.
    pub protocol: fn(Hertz) -> Protocol,
    /// A transfer of these bytes, and how many to read after them.
    pub transfer: for<'b> fn(&'b [u8], usize) -> Transfer<'b>,
    /// The receiving end, with the place of each push button of the face.
    pub model: fn(&[Button]) -> Box<dyn Model>,
    /// The place of a push button by its name; the allowed names in words.
    pub button: fn(&str) -> Option<Button>,
    pub button_names: &'static str,
    /// Which buttons an answer says are down.
    pub buttons_down: fn(&[Button], &[u8]) -> Vec<usize>,
    /// The meaning of a transfer.
    pub explain: fn(&[u8]) -> Meaning,
}

impl Facts {
    /// Bytes of its memory.
    pub const fn bytes(&self) -> usize {
        self.grids * self.bytes_a_grid
    }

    /// The needs of a face with this part.
    pub fn needs(&self, face: &Face, pins: usize) -> Option<Needs> {
        let fits = match face.dots() {
            None => face.style().segment_count() <= self.lines && face.digits() <= self.grids,
            Some(grid) => grid.width <= self.lines && grid.height <= self.grids,
        };
        fits.then(|| Needs { pins, parts: format!("1 {}", self.name) })
    }
}

impl PartialEq for Facts {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name
    }
}

impl std::fmt::Debug for Facts {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.name)
    }
}

const MAX_BRIGHTNESS: u8 = 7;
/// The pull-ups of its open-drain lines (data sheets, application circuits).
const PULL_UP: Ohms = Ohms(10_000.0);
/// The current of a segment line while its grid is selected (data sheet, I_OH1, typical).
const LINE_CURRENT: Milliamps = Milliamps(25.0);

/// The keys of the drive table that both parts have, the pins aside.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Keys<P> {
    #[serde(rename = "method")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _method: IgnoredAny,
    /// The controller pins of its lines.
    pub(super) pins: P,
    /// The clock rate.
    clock_hz: Option<Spanned<u32>>,
}

/// One part, as a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// Which part.
    pub facts: &'static Facts,
    /// Its wiring.
    pub wired: Wired,
    /// The clock rate.
    pub clock: Hertz,
    /// The brightness at power-up.
    pub brightness: u8,
    /// The push buttons of the face, and the place of each in what the part answers.
    pub button_names: Vec<String>,
    /// The same.
    pub buttons: Vec<Button>,
    /// How often everything is sent again.
    pub resend: Option<Nanos>,
}

/// Plans the drive of a face on one part.
pub fn plan<P>(
    facts: &'static Facts,
    face: &Face,
    controller: &Controller,
    keys: &Keys<P>,
    grid_keys: &GridKeys,
    lines: Vec<Line>,
    table: &DriveTable<'_>,
) -> Option<Planned> {
    let level = check_logic(controller, facts.name, grid_keys.bus_volts.clone(), table);
    // Of dots either side may be joined in rows: what is a row of one side is a column of the other.
    if face.dots().is_none() {
        check_common(face, facts.name, facts.common, table);
    }
    check_supply(controller, facts.name, facts.supply, table);
    let is_pulled_up = |index: usize| {
        facts.pins.iter().any(|(line, pin)| *line == index && facts.pulled_up.contains(&pin.0))
    };
    let pulled_up = lines.iter().enumerate().filter(|(index, _)| is_pulled_up(*index)).map(|(_, line)| line);
    check_pulled_up(controller, facts.name, level, pulled_up, table);
    let clock = table.or_assume("clock_hz", keys.clock_hz.clone(), facts.usual_clock);
    let sound = table.check_range(&clock, 1, facts.limits.clock.0);
    let brightness = brightness(grid_keys, 4, MAX_BRIGHTNESS, table);
    let memory = Grids {
        parts: 1,
        grids: facts.grids,
        lines: facts.lines,
        grid_name: ("grid", 1),
        line_name: ("seg", 1),
    };
    let (wired, wiring) = Wired::plan(memory, face, grid_keys, usual_order(face.style()), table)?;
    let clock = Hertz(*clock.get_ref());
    let plan = Plan {
        facts,
        wired,
        clock,
        brightness,
        buttons: buttons(facts.button, facts.button_names, table)?,
        button_names: table.keys().iter().map(|(name, _)| (*name).to_owned()).collect(),
        resend: resend(grid_keys.resend.as_ref(), table)?,
    };
    let (protocol, drive) = ((facts.protocol)(clock), (facts.drive)(plan));
    sound.then_some(Planned { protocol, lines, wiring, level, drive })
}

impl Part for Plan {
    fn summary(&self) -> String {
        format!("{}, clock {}", self.parts(), self.clock)
    }

    fn parts(&self) -> String {
        format!("1 {}", self.facts.name)
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        (self.facts.explain)(transfer.bytes())
    }

    fn chips(&self) -> Vec<Chip> {
        let Facts { name, pins, pulled_up, .. } = self.facts;
        let pull_ups = pulled_up.iter().map(|_| Component::Resistor(PULL_UP));
        vec![Chip {
            part: name,
            name: (*name).to_owned(),
            beside: DECOUPLING.iter().copied().chain(pull_ups).collect(),
            lines: pins.to_vec(),
        }]
    }

    fn header(&self) -> Option<Header> {
        Some(self.facts.header)
    }

    fn wires(&self) -> Vec<Wire> {
        let Facts { name, feed: (pin, note), ground, pulled_up, .. } = self.facts;
        let supply = [Wire::fed(name, pin, note, DECOUPLING), Wire::of(name, ground, WireEnd::Ground, "")];
        let note = "the part only pulls it low; most modules carry it";
        let pull_up = |pin: &&str| Wire::of(name, pin, WireEnd::SupplyThrough(PULL_UP), note);
        supply.into_iter().chain(pulled_up.iter().map(pull_up)).collect()
    }
}

impl Display for Plan {
    fn driver(&self) -> Box<dyn Driver> {
        Box::new(driver::Memory::new(self.facts, self.brightness, !self.buttons.is_empty()))
    }

    fn model(&self, _: &Face) -> Box<dyn Model> {
        (self.facts.model)(&self.buttons)
    }

    fn geometry(&self, face: &Face) -> Geometry {
        self.wired.geometry(face)
    }

    fn byte_code(&self, _: &Face, _: usize) -> Result<ByteCode, NoByte> {
        self.wired.byte_code()
    }

    fn memory_words(&self) -> Option<&'static str> {
        Some("The display memory from address 0 on.")
    }

    fn memory(&self, nodes: &[Level]) -> Option<Vec<u8>> {
        Some(super::packed(nodes, self.facts.lines))
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
        14.0 / 16.0 / self.facts.grids as f32
    }

    fn buttons_down(&self, answer: &[u8]) -> Vec<usize> {
        (self.facts.buttons_down)(&self.buttons, answer)
    }

    fn button_names(&self) -> &[String] {
        &self.button_names
    }

    fn draws(&self, lights: usize) -> Option<Milliamps> {
        Some(mean_current(self, lights, LINE_CURRENT, self.brightness))
    }

    fn resend_every(&self) -> Option<Nanos> {
        self.resend
    }
}
