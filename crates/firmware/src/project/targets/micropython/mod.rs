//! `micropython`: a module for each face, for the interpreter of that name.

use std::collections::BTreeMap;

use minijinja::value::{Serde, Value};
use serde::Serialize;

use super::super::error::ProjectError;
use super::super::model::{FaceModel, Line, Model};
use super::{File, Of, Target, Templates, Written, check_no_greys, check_no_panel, copied, when};

/// The target `micropython`.
pub struct MicroPython;

/// Keywords of the language, modules that the programs import, and names of their own.
const RESERVED: &str = "false none true and as assert async await break class continue def del elif else except finally for from \
global if import in is lambda nonlocal not or pass raise return try while with yield array builtins collections errno framebuf gc \
hashlib io json machine math micropython network os platform random re select socket ssl struct sys time uctypes esp esp32 rp2 \
main boot actions readings own digits dots fonts wall zone face hw buttons keypad keypad_wiring count pin timer image dark due shown start step stills bytes bytearray range zip int min max abs print";

/// Differences between moments of the interpreter's count of milliseconds are true up to this (its documentation, `ticks_diff`): half
/// of 2^30.
const LONGEST_MS: u32 = (1 << 29) - 1;

/// What a call of the scan takes, and a change of a pin in it, in microseconds: on the slow side of what controllers of some
/// 100 MHz need, so that a scan that passes leaves time for everything else.
const CALL_US: u64 = 60;
const CHANGE_US: u64 = 2;

/// What the templates have to know.
#[derive(Serialize)]
struct Facts {
    /// The interpreter's number of each line.
    pins: Vec<u32>,
    /// SPI units and pairs of I2C lines, each once.
    buses: Vec<Bus>,
    /// Lines that a bus of these drives.
    on_bus: Vec<usize>,
    /// What each face uses, by its name in the source.
    faces: BTreeMap<String, Uses>,
    /// Whether timers have numbers.
    has_timer_numbers: bool,
    imports: &'static str,
}

/// A bus that is an object of the interpreter.
#[derive(Serialize, Clone, PartialEq, Eq)]
struct Bus {
    name: String,
    kind: &'static str,
    /// Its number, where units have one.
    unit: u32,
    clock: usize,
    data: usize,
    /// The pin that is its input, to which nothing is connected.
    input: Option<u32>,
    hertz: u64,
}

#[derive(Serialize)]
struct Uses {
    /// The bus; none where the lines are set one by one.
    bus: Option<String>,
    /// Which of the scanned faces it is.
    scan: usize,
}

/// The interpreter's number of a line.
fn pin(line: &Line) -> Option<u32> {
    let number = line.pin.strip_prefix("GPIO").or_else(|| line.pin.strip_prefix("GP"))?;
    number.parse().ok()
}

/// The SPI unit of these pins, and a free pin that can be its input: a bus object asks for one.
fn spi_unit(controller: &str, clock: u32, data: u32, taken: &[u32]) -> Option<(u32, u32)> {
    let free = |pin: &u32| !taken.contains(pin);
    match controller {
        // rp2040 and rp2350 data sheets, GPIO functions: receive, select, clock and transmit follow one another, and units take
        // turns every eight pins.
        "rp2040" | "rp2350" => {
            let unit = |pin: u32| pin / 8 % 2;
            let fits = clock % 4 == 2 && data % 4 == 3 && unit(clock) == unit(data);
            let input =
                [16, 20, 0, 4, 8, 12, 24, 28].into_iter().find(|pin| unit(*pin) == unit(clock) && free(pin));
            input.filter(|_| fits).map(|input| (unit(clock), input))
        }
        // Any pin can be a line of its units.
        "esp32" => [19, 12, 13, 4].into_iter().find(free).map(|input| (2, input)),
        _ => None,
    }
}

/// The bus of a face as an object; none where the interpreter has no such thing for its lines.
fn bus(model: &Model, face: &FaceModel) -> Option<Bus> {
    let line = |place: usize| face.bus.lines.get(place).map(|line| line.number);
    let (clock, data) = (line(0)?, line(1)?);
    let number = |line: usize| pin(model.lines.get(line)?);
    match face.bus.kind {
        "i2c" => Some(Bus {
            name: String::new(),
            kind: "i2c",
            unit: 0,
            clock,
            data,
            input: None,
            hertz: 1_000_000_000 / (face.bus.low_ns + face.bus.high_ns),
        }),
        "spi" | "shift" if !face.bus.lsb_first && face.bus.lines[0].idle == Some(false) => {
            let taken: Vec<_> = model.lines.iter().filter_map(pin).collect();
            let (unit, input) = spi_unit(&model.controller, number(clock)?, number(data)?, &taken)?;
            let hertz = 500_000_000 / face.bus.half_ns.max(1);
            Some(Bus { name: String::new(), kind: "spi", unit, clock, data, input: Some(input), hertz })
        }
        _ => None,
    }
}

/// The buses, and for each face which one it uses. Faces on the same lines share one, as fast as the slowest of them.
fn buses(model: &Model) -> (Vec<Bus>, Vec<Option<usize>>) {
    let mut all: Vec<Bus> = Vec::new();
    let mut used = Vec::new();
    for face in &model.faces {
        let own = bus(model, face);
        used.push(own.and_then(|own| {
            let known = all.iter().position(|bus| (bus.clock, bus.data) == (own.clock, own.data));
            if let Some(known) = known {
                let is_same = all[known].kind == own.kind;
                all[known].hertz = all[known].hertz.min(own.hertz);
                return is_same.then_some(known);
            }
            // A unit has one pair of lines.
            if own.kind == "spi" && all.iter().any(|bus| bus.kind == "spi" && bus.unit == own.unit) {
                return None;
            }
            all.push(own);
            Some(all.len() - 1)
        }));
    }
    for kind in ["spi", "i2c"] {
        let of_kind: Vec<_> = (0..all.len()).filter(|bus| all[*bus].kind == kind).collect();
        for (nth, bus) in of_kind.iter().enumerate() {
            let name = format!("{}_BUS", kind.to_uppercase());
            all[*bus].name = if of_kind.len() == 1 { name } else { format!("{name}_{}", nth + 1) };
        }
    }
    (all, used)
}

/// Its files, each by its template.
const OWN: Templates = &[
    ("README.md", include_str!("README.md.j2")),
    ("hw.py", include_str!("hw.py.j2")),
    ("main.py", include_str!("main.py.j2")),
];

/// What its files include.
const PIECES: Templates = &[
    ("micropython/face.py.j2", include_str!("face.py.j2")),
    ("micropython/lists.py.j2", include_str!("lists.py.j2")),
    ("micropython/healing.py.j2", include_str!("healing.py.j2")),
    ("micropython/output.py.j2", include_str!("output.py.j2")),
    ("micropython/heal.py.j2", include_str!("heal.py.j2")),
    ("micropython/power_up.py.j2", include_str!("power_up.py.j2")),
    ("micropython/own_face.py.j2", include_str!("own_face.py.j2")),
    ("micropython/own.py.j2", include_str!("own.py.j2")),
    ("micropython/zone.py.j2", include_str!("zone.py.j2")),
    ("micropython/own_digits.py.j2", include_str!("own_digits.py.j2")),
    ("micropython/own_dots.py.j2", include_str!("own_dots.py.j2")),
    ("micropython/own_calls_digits.py.j2", include_str!("own_calls_digits.py.j2")),
    ("micropython/own_calls_dots.py.j2", include_str!("own_calls_dots.py.j2")),
    ("micropython/font.py.j2", include_str!("font.py.j2")),
    ("micropython/lines.py.j2", include_str!("lines.py.j2")),
    ("micropython/list.py.j2", include_str!("list.py.j2")),
    ("micropython/bus.py.j2", include_str!("bus.py.j2")),
    ("micropython/step.py.j2", include_str!("step.py.j2")),
    ("micropython/pieces.py.j2", include_str!("pieces.py.j2")),
    ("micropython/putting.py.j2", include_str!("putting.py.j2")),
    ("micropython/film.py.j2", include_str!("film.py.j2")),
    ("micropython/moving.py.j2", include_str!("moving.py.j2")),
    ("micropython/count.py.j2", include_str!("count.py.j2")),
    ("micropython/clock.py.j2", include_str!("clock.py.j2")),
    ("micropython/number.py.j2", include_str!("number.py.j2")),
    ("micropython/chosen.py.j2", include_str!("chosen.py.j2")),
    ("micropython/follow.py.j2", include_str!("follow.py.j2")),
    ("micropython/show.py.j2", include_str!("show.py.j2")),
    ("micropython/steady.py.j2", include_str!("steady.py.j2")),
    ("micropython/value.py.j2", include_str!("value.py.j2")),
    ("micropython/stopwatch.py.j2", include_str!("stopwatch.py.j2")),
    ("micropython/jump.py.j2", include_str!("jump.py.j2")),
    ("micropython/ask_keys.py.j2", include_str!("ask_keys.py.j2")),
    ("micropython/ask_pins.py.j2", include_str!("ask_pins.py.j2")),
    ("micropython/look.py.j2", include_str!("look.py.j2")),
    ("micropython/keypad_wiring.py.j2", include_str!("keypad_wiring.py.j2")),
    ("micropython/actions.py.j2", include_str!("actions.py.j2")),
    ("micropython/readings.py.j2", include_str!("readings.py.j2")),
];

impl Target for MicroPython {
    fn name(&self) -> &'static str {
        "micropython"
    }

    fn about(&self) -> &'static str {
        "modules for the interpreter on rp2040, rp2350 and the esp family"
    }

    fn reserved(&self) -> (&'static str, &'static str) {
        ("MicroPython", RESERVED)
    }

    fn check(&self, model: &Model) -> Result<(), ProjectError> {
        let cannot = |why: String| Err(ProjectError::Target { target: "micropython", why });
        if let Some(line) = model.lines.iter().find(|line| pin(line).is_none()) {
            return cannot(format!(
                "it knows pins by numbers, as GP2 and GPIO2 are, and {} has none on {}",
                line.pin, model.controller
            ));
        }
        for face in &model.faces {
            if face.longest() > LONGEST_MS {
                return cannot(format!("face {} shows something for longer than 149 hours", face.name));
            }
            let Some(scan) = &face.scan else { continue };
            let changes = 2 * face.bus.lines.len() as u64;
            let takes = CALL_US + CHANGE_US * changes + scan.blanking_ns / 1000;
            let slot = scan.slot_ns / 1000;
            if takes * 5 > slot * 4 {
                return cannot(format!(
                    "a slot of face {} takes about {takes} of the {slot} us that there are",
                    face.name
                ));
            }
        }
        check_no_panel(model, self.name(), "an interpreter shifts no row of it in time")?;
        check_no_greys(model, self.name(), "its timers come too late for their short pieces of a slot")
    }

    fn takes_own(&self) -> bool {
        true
    }

    fn runtime(&self, model: &Model) -> Vec<Written> {
        let files = [
            when(model.is_own, &[("wall.py", include_str!("../../runtime/python/wall.py"))]),
            when(model.has_keys(), &[("buttons.py", include_str!("../../runtime/python/buttons.py"))]),
            when(
                model.is_own && model.has_keys(),
                &[("keypad.py", include_str!("../../runtime/python/keypad.py"))],
            ),
            when(model.has_own_digits(), &[("digits.py", include_str!("../../runtime/python/digits.py"))]),
            when(model.has_own_dots(), &[("dots.py", include_str!("../../runtime/python/dots.py"))]),
        ];
        copied("", &files.concat())
    }

    fn files(&self, model: &Model) -> Vec<File> {
        let of_face = |(face, of): (usize, &FaceModel)| File {
            path: format!("{}.py", of.id),
            template: if model.is_own { "micropython/own_face.py.j2" } else { "micropython/face.py.j2" },
            of: Of::Face(face),
        };
        let own = OWN.iter().map(|(name, _)| File::new(name, name));
        let modules = [
            when(model.is_own, &[("own.py", "micropython/own.py.j2"), ("zone.py", "micropython/zone.py.j2")]),
            when(model.has_actions(), &[("actions.py", "micropython/actions.py.j2")]),
            when(
                model.is_own && model.has_keys(),
                &[("keypad_wiring.py", "micropython/keypad_wiring.py.j2")],
            ),
            when(model.has_readings(), &[("readings.py", "micropython/readings.py.j2")]),
        ]
        .concat();
        let modules = modules.into_iter().map(|(path, template)| File::new(path, template));
        let fonts = model.fonts.iter().enumerate().map(|(place, font)| File {
            path: format!("{}.py", font.id),
            template: "micropython/font.py.j2",
            of: Of::Font(place),
        });
        own.chain(modules).chain(fonts).chain(model.faces.iter().enumerate().map(of_face)).collect()
    }

    fn facts(&self, model: &Model) -> Value {
        let (buses, used) = buses(model);
        let mut scans = 0;
        let mut faces = BTreeMap::new();
        for (face, bus) in model.faces.iter().zip(used) {
            let uses = Uses { bus: bus.map(|bus| buses[bus].name.clone()), scan: scans };
            scans += usize::from(face.scan.is_some());
            faces.insert(face.id.clone(), uses);
        }
        let has = |kind: &str| buses.iter().any(|bus| bus.kind == kind);
        Value::from(Serde(&Facts {
            pins: model.lines.iter().map(|line| pin(line).unwrap_or(0)).collect(),
            on_bus: buses.iter().flat_map(|bus| [bus.clock, bus.data]).collect(),
            imports: match (has("i2c"), has("spi")) {
                (false, false) => "Pin",
                (false, true) => "SPI, Pin",
                (true, false) => "Pin, SoftI2C",
                (true, true) => "SPI, Pin, SoftI2C",
            },
            buses,
            faces,
            has_timer_numbers: !matches!(&*model.controller, "rp2040" | "rp2350"),
        }))
    }

    fn list(&self) -> Option<&'static str> {
        Some("micropython/list.py.j2")
    }

    fn templates(&self) -> Templates {
        OWN
    }

    fn pieces(&self) -> Templates {
        PIECES
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Pins of the two units by the data sheets' tables of pin functions.
    #[test]
    fn units_have_their_pins() {
        assert_eq!(spi_unit("rp2040", 18, 19, &[18, 19, 17]), Some((0, 16)));
        assert_eq!(spi_unit("rp2040", 10, 11, &[10, 11]), Some((1, 8)));
        assert_eq!(spi_unit("rp2040", 10, 19, &[]), None);
        assert_eq!(spi_unit("rp2040", 19, 18, &[]), None);
        assert_eq!(spi_unit("rp2040", 2, 3, &[2, 3, 16, 20, 0, 4]), None);
        assert_eq!(spi_unit("esp32", 18, 23, &[19]), Some((2, 12)));
        assert_eq!(spi_unit("esp8266", 14, 13, &[]), None);
    }
}
