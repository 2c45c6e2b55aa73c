//! What the targets in C have in common: a source for each face.

use std::collections::{BTreeMap, BTreeSet};

use serde::Serialize;

use super::{File, Of, Templates, Written, copied, when};
use crate::project::model::{Model, Piece};

/// Names that mean something in C, in its standard headers, or in every project.
pub const RESERVED: &str = "auto break case char const continue default do double else enum extern float for goto if inline \
int long register restrict return short signed sizeof static struct switch typedef union unsigned void volatile while bool \
true false main host hw flash program image due passage next send_image blank minus slots image_bytes slot_bytes piece pieces units piece_ends begin_piece fill_pieces buttons buttons_size keypad keypad_wiring button_count asm near far actions readings own digits dots fonts motion wall zone \
interrupt bit data code xdata idata pdata sfr sbit using";

/// The templates.
pub const TEMPLATES: Templates = &[
    ("c/face.h.j2", include_str!("face.h.j2")),
    ("c/face.c.j2", include_str!("face.c.j2")),
    ("c/bus.c.j2", include_str!("bus.c.j2")),
    ("c/image.c.j2", include_str!("image.c.j2")),
    ("c/output.c.j2", include_str!("output.c.j2")),
    ("c/heal.c.j2", include_str!("heal.c.j2")),
    ("c/power_up.c.j2", include_str!("power_up.c.j2")),
    ("c/own_face.h.j2", include_str!("own_face.h.j2")),
    ("c/own_face.c.j2", include_str!("own_face.c.j2")),
    ("c/own_digits.c.j2", include_str!("own_digits.c.j2")),
    ("c/own_dots.c.j2", include_str!("own_dots.c.j2")),
    ("c/own_calls_digits.c.j2", include_str!("own_calls_digits.c.j2")),
    ("c/own_calls_dots.c.j2", include_str!("own_calls_dots.c.j2")),
    ("c/fonts.h.j2", include_str!("fonts.h.j2")),
    ("c/fonts.c.j2", include_str!("fonts.c.j2")),
    ("c/scan.h.j2", include_str!("scan.h.j2")),
    ("c/own.h.j2", include_str!("own.h.j2")),
    ("c/zone.h.j2", include_str!("zone.h.j2")),
    ("c/own.c.j2", include_str!("own.c.j2")),
    ("c/digits_size.h.j2", include_str!("digits_size.h.j2")),
    ("c/fixed.c.j2", include_str!("fixed.c.j2")),
    ("c/piece.c.j2", include_str!("piece.c.j2")),
    ("c/columns.c.j2", include_str!("columns.c.j2")),
    ("c/sender.c.j2", include_str!("sender.c.j2")),
    ("c/list.c.j2", include_str!("list.c.j2")),
    ("c/putting.c.j2", include_str!("putting.c.j2")),
    ("c/passages.c.j2", include_str!("passages.c.j2")),
    ("c/film.c.j2", include_str!("film.c.j2")),
    ("c/moving.c.j2", include_str!("moving.c.j2")),
    ("c/count.c.j2", include_str!("count.c.j2")),
    ("c/clock.c.j2", include_str!("clock.c.j2")),
    ("c/number.c.j2", include_str!("number.c.j2")),
    ("c/chosen.c.j2", include_str!("chosen.c.j2")),
    ("c/follow.c.j2", include_str!("follow.c.j2")),
    ("c/port.c.j2", include_str!("port.c.j2")),
    ("c/show.c.j2", include_str!("show.c.j2")),
    ("c/steady.c.j2", include_str!("steady.c.j2")),
    ("c/value.c.j2", include_str!("value.c.j2")),
    ("c/stopwatch.c.j2", include_str!("stopwatch.c.j2")),
    ("c/jump.c.j2", include_str!("jump.c.j2")),
    ("c/ask_keys.c.j2", include_str!("ask_keys.c.j2")),
    ("c/ask_pins.c.j2", include_str!("ask_pins.c.j2")),
    ("c/look.c.j2", include_str!("look.c.j2")),
    ("c/keypad_wiring.h.j2", include_str!("keypad_wiring.h.j2")),
    ("c/keypad_wiring.c.j2", include_str!("keypad_wiring.c.j2")),
    ("c/buttons_start.c.j2", include_str!("buttons_start.c.j2")),
    ("c/buttons_step.c.j2", include_str!("buttons_step.c.j2")),
    ("c/hw_pull.h.j2", include_str!("hw_pull.h.j2")),
    ("c/buttons_size.h.j2", include_str!("buttons_size.h.j2")),
    ("c/actions.h.j2", include_str!("actions.h.j2")),
    ("c/actions.c.j2", include_str!("actions.c.j2")),
    ("c/readings.c.j2", include_str!("readings.c.j2")),
    ("c/units.j2", include_str!("units.j2")),
    ("c/inputs.md.j2", include_str!("inputs.md.j2")),
];

/// What the templates in C ask of a target.
#[derive(Debug, Clone, Serialize)]
pub struct Manner {
    /// Before the type of a table.
    pub constant: &'static str,
    /// Shorter waits than this are left out: a change of a line takes as long.
    pub least_wait_ns: u32,
    /// Whether the target's own sources call the scan.
    pub has_timer: bool,
    /// How the functions of a scan begin, where they are interrupts: that which darkens, and that which lights.
    pub blank_interrupt: Option<String>,
    pub light_interrupt: Option<String>,
    /// Templates of what is done as a slot begins, and as its blanking is over.
    pub slot_begins: Option<&'static str>,
    /// What it needs for the pieces of a slot, where there are several.
    pub pieces: Option<&'static str>,
    pub blanking_ends: Option<&'static str>,
    /// The register that sets each port, where ports are written whole.
    pub registers: BTreeMap<String, String>,
    /// Whether there are such writes.
    pub writes_ports: bool,
    /// The registers that the scan writes in an interrupt, and the main program too: an interrupt must not divide its writes.
    pub shared: BTreeSet<String>,
}

impl Default for Manner {
    /// As where the pins are set one by one, and interrupts are the board's.
    fn default() -> Self {
        Self {
            constant: "const",
            least_wait_ns: 0,
            has_timer: false,
            blank_interrupt: None,
            light_interrupt: None,
            slot_begins: None,
            pieces: None,
            blanking_ends: None,
            registers: BTreeMap::new(),
            writes_ports: false,
            shared: BTreeSet::new(),
        }
    }
}

impl Manner {
    /// Ports are written whole, each by a register.
    pub fn with_ports(self, model: &Model, register: impl Fn(&str) -> String) -> Self {
        let ports = model.lines.iter().filter_map(|line| line.port.as_ref());
        let is_port_write = |piece: &Piece| matches!(piece, Piece::Levels { .. });
        Self {
            registers: ports.map(|port| (port.clone(), register(port))).collect(),
            writes_ports: model.faces.iter().any(|face| face.frame.iter().any(is_port_write)),
            ..self
        }
    }
}

/// Source that is the same in every project in which a person's own program writes on digits.
const DIGITS: [(&str, &str); 3] = [
    ("digits.h", include_str!("../../runtime/c/digits.h")),
    ("digits.c", include_str!("../../runtime/c/digits.c")),
    ("digits_wiring.h", include_str!("../../runtime/c/digits_wiring.h")),
];

/// The same for dots.
const DOTS: [(&str, &str); 3] = [
    ("dots.h", include_str!("../../runtime/c/dots.h")),
    ("dots.c", include_str!("../../runtime/c/dots.c")),
    ("dots_wiring.h", include_str!("../../runtime/c/dots_wiring.h")),
];

/// The rest of such a project: what moves, and the time.
const OWN: [(&str, &str); 3] = [
    ("motion.h", include_str!("../../runtime/c/motion.h")),
    ("wall.h", include_str!("../../runtime/c/wall.h")),
    ("wall.c", include_str!("../../runtime/c/wall.c")),
];

/// The same where there are push buttons.
const BUTTONS: [(&str, &str); 2] = [
    ("buttons.h", include_str!("../../runtime/c/buttons.h")),
    ("buttons.c", include_str!("../../runtime/c/buttons.c")),
];

/// The same where a person's own program asks for them.
const KEYPAD: [(&str, &str); 2] = [
    ("keypad.h", include_str!("../../runtime/c/keypad.h")),
    ("keypad.c", include_str!("../../runtime/c/keypad.c")),
];

/// That source, as a project needs it, in a folder of the project.
pub fn runtime(model: &Model, folder: &str) -> Vec<Written> {
    let files = [
        when(model.has_own_digits(), &DIGITS),
        when(model.has_own_dots(), &DOTS),
        when(model.is_own, &OWN),
        when(model.has_keys(), &BUTTONS),
        when(model.is_own && model.has_keys(), &KEYPAD),
    ];
    copied(folder, &files.concat())
}

/// The files of a project: those of the target by their names, and those in C.
pub fn files(own: Templates, model: &Model) -> Vec<File> {
    own.iter().map(|(name, _)| File::new(name, name)).chain(sources(model)).collect()
}

/// What keys do and the values that are shown, where there are any, and the source and the header of each face.
pub fn sources(model: &Model) -> impl Iterator<Item = File> {
    let inputs = [
        when(model.has_actions(), &[("actions.h", "c/actions.h.j2"), ("actions.c", "c/actions.c.j2")]),
        when(model.has_readings(), &[("readings.c", "c/readings.c.j2")]),
        when(model.is_own, &[("own.c", "c/own.c.j2"), ("own.h", "c/own.h.j2"), ("zone.h", "c/zone.h.j2")]),
        when(model.has_keys(), &[("buttons_size.h", "c/buttons_size.h.j2")]),
        when(
            model.is_own && model.has_keys(),
            &[("keypad_wiring.h", "c/keypad_wiring.h.j2"), ("keypad_wiring.c", "c/keypad_wiring.c.j2")],
        ),
        when(model.has_own_digits(), &[("digits_size.h", "c/digits_size.h.j2")]),
        when(model.has_own_dots(), &[("fonts.h", "c/fonts.h.j2"), ("fonts.c", "c/fonts.c.j2")]),
    ]
    .concat();
    inputs.into_iter().map(|(path, template)| File::new(path, template)).chain(faces(model))
}

/// The source and the header of each face.
fn faces(model: &Model) -> impl Iterator<Item = File> {
    let templates = if model.is_own {
        [("c", "c/own_face.c.j2"), ("h", "c/own_face.h.j2")]
    } else {
        [("c", "c/face.c.j2"), ("h", "c/face.h.j2")]
    };
    model.faces.iter().enumerate().flat_map(move |(face, of)| {
        templates.map(|(ending, template)| File {
            path: format!("{}.{ending}", of.id),
            template,
            of: Of::Face(face),
        })
    })
}
