//! A part of another crate: a register for each digit behind three wires, the digit on the left sent first.

use proptest::prelude::*;
use serde::de::IgnoredAny;
use spare_tile_core::bus::spi::{self, Spi};
use spare_tile_core::bus::{Edge, Protocol, Role, Sink, Transfer};
use spare_tile_core::driver::Driver;
use spare_tile_core::face::{Element, Face};
use spare_tile_core::frame::Level;
use spare_tile_core::geometry::Geometry;
use spare_tile_core::glyph::{BitOrder, Common};
use spare_tile_core::meaning::Meaning;
use spare_tile_core::model::Model;
use spare_tile_core::part::{
    ByteCode, Display, Drive, Method, Needs, NoByte, Outside, Part, Planned, Sample,
};
use spare_tile_core::plan::{Reading, Rig};
use spare_tile_core::rig::{Controller, DriveTable, Pin, Spanned};
use spare_tile_core::schema::{JsonSchema, Schema, SchemaGenerator};
use spare_tile_core::units::Hertz;
use spare_tile_core::wiring::{Node, Wiring};

use crate::common::{Powered, frame, frames, lit};

const ORDER: &str = "dp g f e d c b a";

struct BerthBoard;

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Keys {
    #[serde(rename = "method")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _method: IgnoredAny,
    pins: Pins,
}

#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Pins {
    clock: Spanned<Pin>,
    data: Spanned<Pin>,
    select: Spanned<Pin>,
}

#[derive(Debug, Clone, PartialEq)]
struct Plan {
    digits: usize,
}

impl Method for BerthBoard {
    fn name(&self) -> &'static str {
        "berth-board"
    }

    fn common(&self) -> Option<Common> {
        Some(Common::Cathode)
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        let Keys { pins, .. } = table.read()?;
        let lines = vec![
            table.line(&pins.clock, "clock"),
            table.line(&pins.data, "data"),
            table.line(&pins.select, "select"),
        ];
        // The segments a to g and dp of a digit are on bits 0 to 7 of its register.
        let nodes = (0..8 * face.digits()).map(|element| Some(Node(element))).collect();
        Some(Planned {
            protocol: Protocol::Spi(Spi { clock: Hertz(1_000_000) }),
            lines,
            wiring: Wiring::new(nodes, 8 * face.digits()).ok()?,
            level: controller.supply_volts,
            drive: Drive::Outside(Outside::new(Plan { digits: face.digits() })),
        })
    }

    fn sample(&self) -> Option<Sample> {
        None
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![Keys::json_schema(generator)]
    }

    fn needs(&self, _: &Face) -> Option<Needs> {
        Some(Needs { pins: 3, parts: "1 berth board".to_owned() })
    }
}

impl Part for Plan {
    fn summary(&self) -> String {
        self.parts()
    }

    fn parts(&self) -> String {
        "1 berth board".to_owned()
    }

    fn explain(&self, transfer: &Transfer<'_>) -> Meaning {
        Meaning::words(format!("{} registers", transfer.bytes().len()))
    }
}

impl Display for Plan {
    fn driver(&self) -> Box<dyn Driver> {
        Box::new(Sender { shown: vec![0; self.digits], out: false })
    }

    fn model(&self, _: &Face) -> Box<dyn Model> {
        Box::new(Registers { listener: spi::Listener::default(), bytes: vec![0; self.digits], changes: 0 })
    }

    fn geometry(&self, face: &Face) -> Geometry {
        let at = |digit| (0..8).map(move |segment| Some(face.element(digit, segment)));
        Geometry::new((0..self.digits).flat_map(at).collect::<Vec<Option<Element>>>())
    }

    fn byte_code(&self, face: &Face, _: usize) -> Result<ByteCode, NoByte> {
        let order = BitOrder::parse(ORDER, face.style()).expect("an order");
        Ok(ByteCode { order, polarity: Common::Cathode })
    }

    fn full_duty(&self) -> f32 {
        1.0
    }
}

struct Sender {
    shown: Vec<u8>,
    out: bool,
}

impl Sender {
    fn send(&self, role: Role, sink: &mut dyn Sink) {
        let dark = vec![0; self.shown.len()];
        sink.put(role, Transfer::Spi { bytes: if self.out { &dark } else { &self.shown } });
    }
}

impl Driver for Sender {
    fn power_up(&mut self, sink: &mut dyn Sink) {
        self.send(Role::PowerUp, sink);
    }

    fn frame(&mut self, nodes: &[Level], sink: &mut dyn Sink) {
        let byte =
            |bits: &[Level]| (0..8).fold(0, |byte, bit| byte | u8::from(bits[bit] != Level::OFF) << bit);
        self.shown = nodes.chunks(8).map(byte).collect();
        self.send(Role::Frame, sink);
    }

    fn brightness(&mut self, _: u8, _: &mut dyn Sink) {}

    fn off(&mut self, sink: &mut dyn Sink) {
        self.out = true;
        self.send(Role::Frame, sink);
    }

    fn on(&mut self, sink: &mut dyn Sink) {
        self.out = false;
        self.send(Role::Frame, sink);
    }

    fn refresh(&mut self, sink: &mut dyn Sink) {
        self.send(Role::Refresh, sink);
    }
}

struct Registers {
    listener: spi::Listener,
    bytes: Vec<u8>,
    changes: u64,
}

impl Model for Registers {
    fn take(&mut self, edges: &[Edge]) {
        for transfer in edges.iter().filter_map(|edge| self.listener.take(edge)) {
            // Bytes shifted out of the last register are lost.
            let kept = transfer.bytes.len().saturating_sub(self.bytes.len());
            self.bytes.iter_mut().zip(&transfer.bytes[kept..]).for_each(|(own, byte)| *own = *byte);
            self.changes += 1;
        }
    }

    fn changes(&self) -> u64 {
        self.changes
    }

    fn lit(&self, nodes: &mut [f32]) {
        for (node, light) in nodes.iter_mut().enumerate() {
            *light = f32::from(self.bytes[node / 8] >> (node % 8) & 1);
        }
    }
}

fn read(digits: usize, more: &str) -> Reading {
    let source = format!(
        "[face.berth]\nkind = \"seven-segment\"\ndigits = {digits}\n[face.berth.drive]\nmethod = \"berth-board\"\n\
         pins = {{ clock = 4, data = 5, select = 6 }}\n{more}"
    );
    Rig::read_with(&source, &[&BerthBoard])
}

proptest! {
    #[test]
    fn any_frame_through_a_part_of_another_crate(
        (digits, frames) in (1..=8_usize).prop_flat_map(|digits| (Just(digits), frames(8 * digits))),
    ) {
        let rig = read(digits, "").rig.unwrap();
        let mut powered = Powered::new(&rig);
        for wanted in &frames {
            powered.show(&frame(wanted));
            prop_assert_eq!(&lit(&powered.picture()), wanted);
        }
    }
}

#[test]
fn its_errors_and_its_name_are_as_those_of_every_part() {
    let said = |reading: Reading| -> Vec<String> {
        reading.findings.iter().map(|finding| finding.trouble.to_string()).collect()
    };
    let wrong = read(2, "colour = \"red\"");
    assert!(said(wrong).iter().any(|line| line.contains("colour")));
    let source = "[face.a]\nkind = \"seven-segment\"\ndigits = 1\n[face.a.drive]\nmethod = \"berth-bord\"";
    let misspelt = said(Rig::read_with(source, &[&BerthBoard]));
    assert!(misspelt.iter().any(|line| line.contains("berth-bord")), "{misspelt:?}");
    assert!(Rig::read(source).rig.is_none());
}

#[test]
fn rigs_with_such_a_part_are_compared_by_its_plan() {
    let rig = |digits| read(digits, "").rig.unwrap();
    assert!(rig(2).faces[0].drive.display().button_names().is_empty());
    assert_eq!(rig(2), rig(2));
    assert_ne!(rig(2), rig(3));
}
