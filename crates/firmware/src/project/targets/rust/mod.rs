//! `rust`: a crate without the standard library over the traits of embedded-hal 1.0, and a whole program for the rp2040.

use std::collections::{BTreeMap, BTreeSet};

use minijinja::value::{Serde, Value};
use serde::Serialize;

use super::super::error::ProjectError;
use super::super::model::{ActionModel, BusModel, FaceModel, Line, Model, PassageModel};
use super::{File, Of, Target, Templates, Written, check_one_scan, copied, when};
use crate::project::names::of_file;

/// The target `rust`.
pub struct Rust;

/// Keywords, crates and modules that have a meaning in the crate, and variables of its programs.
const RESERVED: &str = "abstract as async await become box break const continue crate do dyn else enum extern false final fn for gen if \
impl in let loop macro match mod move mut override priv pub ref return self static struct super trait true try type typeof union \
unsafe unsized use virtual where while yield core std alloc embedded_hal main lib host over_pins hal clocks timer sio pins of now \
now_ms ms actions line watchdog turn alarm critical_section cortex_m cortex_m_rt panic_halt rp2040_hal rp2040_boot2 test digits dots fonts motion wall zone own face show number buttons keypad keypad_wiring count";

/// So late an alarm of an rp2040 may come, as near as can be said.
const ALARM_NS: u64 = 5000;

/// Eight writes to the pins' registers, and finding them, take at most so long on an rp2040, as near as can be said: twelve cycles of
/// 125 MHz each, with the flash in its cache.
const COLUMN_NS: u64 = 8 * 12 * 8;

/// What the templates have to know.
#[derive(Serialize)]
struct Facts {
    id: String,
    is_rp2040: bool,
    /// The number of each line's pin, on an rp2040.
    pins: Vec<u32>,
    /// Whether the controller scans a face.
    scan: bool,
    has_spi: bool,
    has_i2c: bool,
    has_pin_buses: bool,
    has_delay: bool,
    /// Whether each line is used by several faces, or by one that has such lines.
    cells: Vec<bool>,
    has_shared: bool,
    /// Whether a bus over plain pins reads.
    reads_i2c: bool,
    /// What keys ask of the displays: the face's name in the source, and what.
    asks: BTreeSet<(String, String)>,
    faces: BTreeMap<String, OfFace>,
}

#[derive(Serialize)]
struct OfFace {
    /// What it is given: `lines`, `spi` or `i2c`.
    kind: &'static str,
    /// Whether a blank is put on it.
    has_blank: bool,
    /// The result of sending to it that its program takes: an I2C bus over pins has errors in a person's own program.
    result: &'static str,
    /// What keys ask of it.
    asks: Vec<String>,
    /// How its steps are given the values and what keys ask: not at all, to read, or to change.
    takes: &'static str,
}

/// What keys ask of the displays of a model: the face's name in the source, and what.
fn asks(model: &Model) -> BTreeSet<(String, String)> {
    let asks = model.actions().filter_map(ActionModel::asks);
    asks.map(|(face, what)| (face.to_owned(), what.to_owned())).collect()
}

/// What a face is given.
fn kind(bus: &BusModel) -> &'static str {
    match bus.kind {
        "spi" => "spi",
        "shift" if !bus.lsb_first => "spi",
        "i2c" => "i2c",
        _ => "lines",
    }
}

/// The number of an rp2040's pin.
fn pin(line: &Line) -> Option<u32> {
    line.pin.strip_prefix("GP")?.parse().ok()
}

fn is_rp2040(model: &Model) -> bool {
    model.controller == "rp2040"
}

/// Faces on the same lines hold them in turns: which lines are meant.
fn cells(model: &Model) -> Vec<bool> {
    let shares =
        |face: &FaceModel| face.bus.lines.iter().any(|line| model.lines[line.number].names.len() > 1);
    let mut cells = vec![false; model.lines.len()];
    for face in model.faces.iter().filter(|face| shares(face)) {
        face.bus.lines.iter().for_each(|line| cells[line.number] = true);
    }
    cells
}

/// Its files, each by its template: those of every crate, and those of an rp2040.
const OWN: Templates = &[
    ("README.md", include_str!("README.md.j2")),
    ("Cargo.toml", include_str!("Cargo.toml.j2")),
    ("src/lib.rs", include_str!("lib.rs.j2")),
    ("examples/host.rs", include_str!("host.rs.j2")),
    ("src/over_pins.rs", include_str!("over_pins.rs.j2")),
    ("src/main.rs", include_str!("main.rs.j2")),
    ("memory.x", include_str!("memory.x.j2")),
    (".cargo/config.toml", include_str!("config.toml.j2")),
];

/// Source that is the same in every project of a person's own program: what moves, and the time.
const OWN_SOURCES: Templates = &[
    ("motion.rs", include_str!("../../runtime/rust/motion.rs")),
    ("wall.rs", include_str!("../../runtime/rust/wall.rs")),
];

/// The calls for digits, and for dots.
const DIGITS: Templates = &[("digits.rs", include_str!("../../runtime/rust/digits.rs"))];
const DOTS: Templates = &[("dots.rs", include_str!("../../runtime/rust/dots.rs"))];

/// When buttons count as down, and the calls for them.
const BUTTONS: Templates = &[("buttons.rs", include_str!("../../runtime/rust/buttons.rs"))];
const KEYPAD: Templates = &[("keypad.rs", include_str!("../../runtime/rust/keypad.rs"))];

/// What its files include.
const PIECES: Templates = &[
    ("rust/face.rs.j2", include_str!("face.rs.j2")),
    ("rust/bounds.rs.j2", include_str!("bounds.rs.j2")),
    ("rust/uses.rs.j2", include_str!("uses.rs.j2")),
    ("rust/image.rs.j2", include_str!("image.rs.j2")),
    ("rust/lists.rs.j2", include_str!("lists.rs.j2")),
    ("rust/given.rs.j2", include_str!("given.rs.j2")),
    ("rust/power_up.rs.j2", include_str!("power_up.rs.j2")),
    ("rust/scan.rs.j2", include_str!("scan.rs.j2")),
    ("rust/send_image.rs.j2", include_str!("send_image.rs.j2")),
    ("rust/send_list.rs.j2", include_str!("send_list.rs.j2")),
    ("rust/own_face.rs.j2", include_str!("own_face.rs.j2")),
    ("rust/own_digits.rs.j2", include_str!("own_digits.rs.j2")),
    ("rust/own_dots.rs.j2", include_str!("own_dots.rs.j2")),
    ("rust/own.rs.j2", include_str!("own.rs.j2")),
    ("rust/zone.rs.j2", include_str!("zone.rs.j2")),
    ("rust/own_calls_digits.rs.j2", include_str!("own_calls_digits.rs.j2")),
    ("rust/own_calls_dots.rs.j2", include_str!("own_calls_dots.rs.j2")),
    ("rust/fonts.rs.j2", include_str!("fonts.rs.j2")),
    ("rust/list.rs.j2", include_str!("list.rs.j2")),
    ("rust/bus.rs.j2", include_str!("bus.rs.j2")),
    ("rust/step.rs.j2", include_str!("step.rs.j2")),
    ("rust/levels.rs.j2", include_str!("levels.rs.j2")),
    ("rust/columns.rs.j2", include_str!("columns.rs.j2")),
    ("rust/piece.rs.j2", include_str!("piece.rs.j2")),
    ("rust/lines.rs.j2", include_str!("lines.rs.j2")),
    ("rust/content.rs.j2", include_str!("content.rs.j2")),
    ("rust/putting.rs.j2", include_str!("putting.rs.j2")),
    ("rust/film.rs.j2", include_str!("film.rs.j2")),
    ("rust/moving.rs.j2", include_str!("moving.rs.j2")),
    ("rust/count.rs.j2", include_str!("count.rs.j2")),
    ("rust/clock.rs.j2", include_str!("clock.rs.j2")),
    ("rust/number.rs.j2", include_str!("number.rs.j2")),
    ("rust/chosen.rs.j2", include_str!("chosen.rs.j2")),
    ("rust/follow.rs.j2", include_str!("follow.rs.j2")),
    ("rust/steady.rs.j2", include_str!("steady.rs.j2")),
    ("rust/value.rs.j2", include_str!("value.rs.j2")),
    ("rust/stopwatch.rs.j2", include_str!("stopwatch.rs.j2")),
    ("rust/jump.rs.j2", include_str!("jump.rs.j2")),
    ("rust/ask_keys.rs.j2", include_str!("ask_keys.rs.j2")),
    ("rust/pin_buttons.rs.j2", include_str!("pin_buttons.rs.j2")),
    ("rust/keypad_wiring.rs.j2", include_str!("keypad_wiring.rs.j2")),
    ("rust/buttons_begin.rs.j2", include_str!("buttons_begin.rs.j2")),
    ("rust/buttons_step.rs.j2", include_str!("buttons_step.rs.j2")),
    ("rust/due.rs.j2", include_str!("due.rs.j2")),
    ("rust/actions.rs.j2", include_str!("actions.rs.j2")),
];

impl Target for Rust {
    fn name(&self) -> &'static str {
        "rust"
    }

    fn about(&self) -> &'static str {
        "a no_std crate over embedded-hal 1.0, a program for the rp2040"
    }

    fn reserved(&self) -> (&'static str, &'static str) {
        ("Rust", RESERVED)
    }

    fn check(&self, model: &Model) -> Result<(), ProjectError> {
        let cells = cells(model);
        for face in model.faces.iter().filter(|face| face.scan.is_some()) {
            if let Some(line) = face.bus.lines.iter().find(|line| cells[line.number]) {
                let why =
                    format!("face {} is scanned, and another face is on pin {} too", face.name, line.pin);
                return Err(ProjectError::Target { target: self.name(), why });
            }
        }
        for face in model.faces.iter().filter(|_| is_rp2040(model)) {
            let Some(scan) = &face.scan else { continue };
            if scan.depth > 1 && scan.least_unit() < ALARM_NS {
                let why = format!(
                    "the shortest piece of a slot of face {} is lit for {} us, and an rp2040's alarm is {} us late: lower depth or refresh_hz",
                    face.name,
                    scan.least_unit() as f64 / 1e3,
                    ALARM_NS / 1000
                );
                return Err(ProjectError::Target { target: self.name(), why });
            }
            if face.bus.kind == "panel" && scan.least_blanking() < COLUMN_NS * scan.width as u64 {
                let why = format!(
                    "an rp2040 takes about {} ns to shift a column of face {} in: set clock_hz to {} or less",
                    COLUMN_NS,
                    face.name,
                    // A quarter more than the clock says is waited for.
                    1_250_000_000 / COLUMN_NS
                );
                return Err(ProjectError::Target { target: self.name(), why });
            }
        }
        check_one_scan(model, self.name())
    }

    fn takes_own(&self) -> bool {
        true
    }

    fn runtime(&self, model: &Model) -> Vec<Written> {
        let files = [
            when(model.is_own, OWN_SOURCES),
            when(model.has_own_digits(), DIGITS),
            when(model.has_own_dots(), DOTS),
            when(model.has_keys(), BUTTONS),
            when(model.is_own && model.has_keys(), KEYPAD),
        ];
        copied("src/", &files.concat())
    }

    fn files(&self, model: &Model) -> Vec<File> {
        let has_pin_buses = model.faces.iter().any(|face| kind(&face.bus) != "lines");
        let belongs = |name: &str| match name {
            "src/over_pins.rs" => has_pin_buses,
            "src/main.rs" | "memory.x" | ".cargo/config.toml" => is_rp2040(model),
            _ => true,
        };
        let own = OWN.iter().filter(|(name, _)| belongs(name)).map(|(name, _)| File::new(name, name));
        let of_face = |(face, of): (usize, &FaceModel)| File {
            path: format!("src/{}.rs", of.id),
            template: if model.is_own { "rust/own_face.rs.j2" } else { "rust/face.rs.j2" },
            of: Of::Face(face),
        };
        let sources = [
            when(model.has_actions(), &[("src/actions.rs", "rust/actions.rs.j2")]),
            when(model.is_own, &[("src/own.rs", "rust/own.rs.j2"), ("src/zone.rs", "rust/zone.rs.j2")]),
            when(model.pin_buttons.is_some(), &[("src/pin_buttons.rs", "rust/pin_buttons.rs.j2")]),
            when(model.is_own && model.has_keys(), &[("src/keypad_wiring.rs", "rust/keypad_wiring.rs.j2")]),
            when(model.has_own_dots(), &[("src/fonts.rs", "rust/fonts.rs.j2")]),
        ]
        .concat();
        let sources = sources.into_iter().map(|(path, template)| File::new(path, template));
        own.chain(sources).chain(model.faces.iter().enumerate().map(of_face)).collect()
    }

    fn facts(&self, model: &Model) -> Value {
        let has = |wanted: &str| model.faces.iter().any(|face| kind(&face.bus) == wanted);
        let has_blank = |passage: &PassageModel| {
            matches!(
                passage,
                PassageModel::Count { .. }
                    | PassageModel::Value { .. }
                    | PassageModel::Clock { twelve: true, .. }
            )
        };
        let asked = asks(model);
        let of_face = |face: &FaceModel| {
            let asks: Vec<_> =
                asked.iter().filter(|(of, _)| *of == face.id).map(|(_, what)| what.clone()).collect();
            let has_value = face.passages.iter().any(|of| of.value().is_some());
            let has_buttons = face.keys.is_some() && !model.is_own;
            let takes = match (has_buttons || !asks.is_empty(), has_value || face.follows) {
                (true, _) => "&mut ",
                (false, true) => "&",
                (false, false) if model.holds => "&",
                (false, false) => "",
            };
            let has_blank = face.passages.iter().any(has_blank);
            let kind = kind(&face.bus);
            let result = if model.is_own && kind == "i2c" { "_" } else { "Ok(())" };
            (face.id.clone(), OfFace { kind, has_blank, result, asks, takes })
        };
        let cells = cells(model);
        Value::from(Serde(&Facts {
            id: of_file(&model.title, "display"),
            is_rp2040: is_rp2040(model),
            pins: model.lines.iter().map(|line| pin(line).unwrap_or(0)).collect(),
            scan: model.faces.iter().any(|face| face.scan.is_some()),
            has_spi: has("spi"),
            has_i2c: has("i2c"),
            has_pin_buses: has("spi") || has("i2c"),
            has_delay: model.faces.iter().any(|face| !["pins", "panel"].contains(&face.bus.kind)),
            has_shared: cells.contains(&true),
            cells,
            reads_i2c: model.faces.iter().any(|face| face.keys.is_some() && kind(&face.bus) == "i2c"),
            asks: asked.clone(),
            faces: model.faces.iter().map(of_face).collect(),
        }))
    }

    fn list(&self) -> Option<&'static str> {
        Some("rust/list.rs.j2")
    }

    fn templates(&self) -> Templates {
        OWN
    }

    fn pieces(&self) -> Templates {
        PIECES
    }
}
