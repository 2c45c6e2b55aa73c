//! `setup-loop`: a sketch in C++ for the board frameworks that call `setup()` and `loop()`.

use minijinja::value::{Serde, Value};
use serde::Serialize;

use super::super::error::ProjectError;
use super::super::model::{BusModel, FaceModel, Model};
use super::{
    File, Load, Target, Templates, Written, c, check_loads, check_no_panel, check_one_scan, piece_cycles,
};
use crate::project::names::of_file;

/// The target `setup-loop`.
pub struct SetupLoop;

/// What the templates have to know.
#[derive(Serialize)]
struct Facts {
    id: String,
    #[serde(flatten)]
    manner: c::Manner,
}

/// The name of the sketch, and so of its folder.
fn id(model: &Model) -> String {
    of_file(&model.title, "sketch")
}

/// Its files, each by its template.
const OWN: Templates = &[
    ("README.md", include_str!("README.md.j2")),
    ("sketch.ino", include_str!("sketch.ino.j2")),
    ("hw.h", include_str!("hw.h.j2")),
];

/// The controllers on whose boards a call's time is known.
const MEASURED: [&str; 4] = ["atmega2560", "atmega328p", "atmega32u4", "attiny85"];

/// The cycles of a call that sets a pin on these boards, and those to enter and leave an interrupt.
const CALL: u64 = 100;
const INTERRUPT: u64 = 60;

/// How many pins are set to send levels of pins, or so many bytes.
fn calls(bus: &BusModel, mask: Option<&[u8]>, bytes: usize) -> u64 {
    let of_bit = if bus.kind == "i2c" { 4 } else { 3 };
    match mask {
        Some(mask) => mask.iter().map(|bits| u64::from(bits.count_ones())).sum(),
        None => 8 * of_bit * bytes as u64 + 3,
    }
}

impl Target for SetupLoop {
    fn name(&self) -> &'static str {
        "setup-loop"
    }

    fn about(&self) -> &'static str {
        "C++ for the board frameworks with setup() and loop()"
    }

    fn reserved(&self) -> (&'static str, &'static str) {
        ("C", c::RESERVED)
    }

    fn check(&self, model: &Model) -> Result<(), ProjectError> {
        if let Some(line) = model.lines.iter().find(|line| line.board_pin.is_none()) {
            let why =
                format!("the usual board of an {} has no number for pin {}", model.controller, line.pin);
            return Err(ProjectError::Target { target: self.name(), why });
        }
        check_no_panel(
            model,
            self.name(),
            "the framework's calls take too long for its rows: c99 has a program for your own",
        )?;
        check_one_scan(model, self.name())?;
        check_loads(model, self)
    }

    fn loads(&self, model: &Model) -> Vec<Load> {
        let is_known = MEASURED.contains(&&*model.controller);
        let Some(clock) = model.clock.filter(|_| is_known) else {
            return Vec::new();
        };
        let of_face = |face: &FaceModel| {
            let scan = face.scan.as_ref()?;
            let takes = |mask: Option<&[u8]>, bytes| calls(&face.bus, mask, bytes) * CALL;
            let cycles = piece_cycles(face, scan, INTERRUPT, takes);
            Load::of(face, cycles, u64::from(clock))
        };
        model.faces.iter().filter_map(of_face).collect()
    }

    fn takes_own(&self) -> bool {
        true
    }

    fn runtime(&self, model: &Model) -> Vec<Written> {
        c::runtime(model, &format!("{}/", id(model)))
    }

    fn files(&self, model: &Model) -> Vec<File> {
        let id = id(model);
        let within = |file: File| File { path: format!("{id}/{}", file.path), ..file };
        let mut files = vec![
            File::new("README.md", "README.md"),
            within(File::new(&format!("{id}.ino"), "sketch.ino")),
            within(File::new("hw.h", "hw.h")),
        ];
        files.extend(c::sources(model).map(within));
        files
    }

    fn facts(&self, model: &Model) -> Value {
        Value::from(Serde(&Facts { id: id(model), manner: c::Manner::default() }))
    }

    fn templates(&self) -> Templates {
        OWN
    }

    fn shared(&self) -> Templates {
        c::TEMPLATES
    }
}
