//! `max7219`: eight digits a part, common cathode, chainable, fed over three wires.
//!
//! ```toml
//! [face.desk.drive]
//! method = "max7219"
//! pins = { data = "GP19", clock = "GP18", select = "GP17" }
//! clock_hz = 1_000_000            # at most 10 MHz
//! bus_volts = 5.0                 # the high level at the part, after any level converter
//! brightness = 8                  # 0 to 15
//! digit_0 = "right"               # where digit line 0 of each part stands, as seen
//! first = "right"                 # which end of the chain the controller feeds
//! segments = "dp a b c d e f g"   # which segment sits on data bits 7 to 0
//! decode = "none"                 # or "code-b": the parts draw 0-9, minus, E, H, L, P themselves
//! rset_ohms = 10_000              # the resistor at ISET, checked against the wanted current
//! resend = "10s"                  # send everything again so often
//! chain = { parts = 5, first_part = 1 }           # where several faces share one chain
//! modules = { first = "right", lines_are = "rows", rotate = 0, flip = "none" }   # of dots
//! ```
//!
//! The node of a colon or lamp is a digit line and a segment line by the data sheet's names, `digit4.a`, in a
//! chain with the part before, counted from the one that the controller feeds: `part1.digit4.a`. It may be the dp
//! of a digit, which then has no point.
//!
//! A face of more than eight digits takes a chain of parts: all but the last fed have eight digits each. A
//! digit of fourteen or sixteen segments takes two digit lines, of which the even one has the lower eight bits
//! of `segments`; a part then has four digits.

mod dots;
mod driver;
pub mod facts;
mod model;

use serde::de::IgnoredAny;
use serde_spanned::Spanned;

use crate::bus::{Bus, spi};
use crate::drive::{Drive, Driver, Ends, Line, Method, Model, Needs, Wire};
use crate::face::Face;
use crate::glyph::{BitOrder, Common};
use crate::rig::{Controller, DriveTable, End, Pin, Place, Problem};
use crate::units::{Hertz, Nanos, Ohms, Volts};
use crate::wiring::{Node, Wiring, WiringError};

/// The method `max7219`.
pub struct Max7219;

/// The drive table's keys.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Keys {
    #[serde(rename = "method")]
    _method: IgnoredAny,
    pins: Pins,
    clock_hz: Option<Spanned<u32>>,
    bus_volts: Option<Spanned<f64>>,
    brightness: Option<Spanned<u8>>,
    digit_0: Option<Spanned<End>>,
    first: Option<Spanned<End>>,
    segments: Option<Spanned<String>>,
    decode: Option<Spanned<Decode>>,
    modules: Option<Spanned<dots::Modules>>,
    rset_ohms: Option<Spanned<f64>>,
    resend: Option<Spanned<String>>,
    chain: Option<Spanned<ChainKey>>,
}

/// The place of a face's parts in a chain that it shares with other faces.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct ChainKey {
    /// How many parts the whole chain has.
    parts: usize,
    /// The first part of this face, counted from the one that the controller feeds.
    first_part: usize,
}

/// Where a face's parts are in their chain.
#[derive(Debug, Clone, Copy)]
struct Share {
    /// The face's own parts.
    parts: usize,
    /// All parts of the chain, and how many come before the face's own.
    of: usize,
    before: usize,
}

/// What the parts make of digit data.
#[derive(Clone, Copy, PartialEq, Eq, serde::Deserialize)]
enum Decode {
    #[serde(rename = "none")]
    None,
    #[serde(rename = "code-b")]
    CodeB,
}

/// The controller pins of the three wires.
#[derive(serde::Deserialize)]
#[serde(deny_unknown_fields)]
struct Pins {
    data: Spanned<Pin>,
    clock: Spanned<Pin>,
    select: Spanned<Pin>,
}

impl Method for Max7219 {
    fn name(&self) -> &'static str {
        "max7219"
    }

    fn common(&self) -> Option<Common> {
        Some(Common::Cathode)
    }

    fn sample(&self) -> Option<&'static str> {
        Some(
            "kind = \"seven-segment\"\ndigits = 8\n[face.max7219.drive]\npins = { clock = 1, data = 2, select = 3 }\n",
        )
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        // Digit lines, each with eight lights of one digit, one row of dots, or lamps.
        let of_digits = face.digits * face.style.point_index().div_ceil(facts::SEGMENTS);
        let of_dots = face.dots.height * face.dots.width.div_ceil(facts::SEGMENTS);
        let parts = (of_digits + of_dots).div_ceil(facts::DIGITS);
        Some(Needs { pins: 3, parts: format!("{parts} max7219") })
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Drive> {
        let keys: Keys = table.read()?;
        let clock = table.or_assume("clock_hz", keys.clock_hz, 1_000_000);
        let bus_volts = table.or_assume("bus_volts", keys.bus_volts, controller.logic_volts.0);
        let brightness = table.or_assume("brightness", keys.brightness, 8);
        let digit_0 = table.or_assume("digit_0", keys.digit_0, End::Right);
        let first = table.or_assume("first", keys.first, End::Right);
        let segments = table.or_assume("segments", keys.segments, facts::bit_order(face.style).to_owned());

        // Clock and data may be shared with other parts: each has its own select.
        table.claim_shared(&keys.pins.data, "data");
        table.claim_shared(&keys.pins.clock, "clock");
        if keys.chain.is_some() {
            table.claim_shared(&keys.pins.select, "select of a chain");
        } else {
            table.claim(&keys.pins.select, "select");
        }
        check_rset(face, keys.rset_ohms.as_ref(), table);
        let resend = match &keys.resend {
            None => None,
            Some(written) => Some(super::parse_resend(written, table)?),
        };
        let decodes = keys.decode.as_ref().is_some_and(|decode| *decode.get_ref() == Decode::CodeB);
        check_levels(controller, &bus_volts, table);
        let clock_sound = table.check_range(&clock, 1, facts::MAX_CLOCK.0);
        table.check_range(&brightness, 0, facts::MAX_INTENSITY);
        super::check_common(face, self.name(), Common::Cathode, table);
        let order = BitOrder::parse(segments.get_ref(), face.style)
            .map_err(|error| table.error(segments.span(), Problem::BitOrder(error)))
            .ok()?;
        if !clock_sound {
            return None;
        }

        let lines_per_digit = order.byte_count();
        if lines_per_digit > facts::MAX_LINES {
            let allowed = format!("at most {} bits", 8 * facts::MAX_LINES);
            let found = format!("{} bits", order.width());
            table.error(segments.span(), Problem::WrongValue { found, allowed });
            return None;
        }
        if face.dots.width > 0 {
            let arrangement = dots::Arrangement::plan(face, keys.modules.as_ref(), table)?;
            let parts = dots::Arrangement::parts(face);
            let ends = Chain {
                share: share(parts, keys.chain.as_ref(), table)?,
                scanned: facts::DIGITS,
                clock: Hertz(*clock.get_ref()),
                brightness: *brightness.get_ref(),
                decodes: false,
                resend,
            };
            let (wiring, lines) = (arrangement.wiring(face)?, lines(&keys.pins));
            return Some(Drive { lines, wiring, bit_order: order, ends: Box::new(ends) });
        }
        let layout = Layout {
            digits: face.digits,
            lines_per_digit,
            first: *first.get_ref(),
            digit_0: *digit_0.get_ref(),
        };
        let extras: Vec<Node> =
            table.extras().iter().map(|node| layout.extra(node, table)).collect::<Option<_>>()?;
        // A line that has nothing but a lamp is scanned too.
        let lamp_lines = extras.iter().map(|node| node.0 % facts::NODES / facts::SEGMENTS + 1);
        let scanned = lamp_lines.fold(layout.scanned(), usize::max);
        if scanned < facts::MIN_COOL_DIGITS {
            table.warn(Place::Face("digits"), Problem::FewDigits { lines: scanned });
        }
        let ends = Chain {
            share: share(layout.parts(), keys.chain.as_ref(), table)?,
            scanned,
            clock: Hertz(*clock.get_ref()),
            brightness: *brightness.get_ref(),
            decodes,
            resend,
        };
        Some(Drive {
            lines: lines(&keys.pins),
            wiring: layout.wiring(face, &order, &extras, table)?,
            bit_order: order,
            ends: Box::new(ends),
        })
    }
}

/// The place of so many parts in their chain, which is all of it unless the rig says otherwise.
fn share(parts: usize, key: Option<&Spanned<ChainKey>>, table: &DriveTable<'_>) -> Option<Share> {
    let Some(key) = key else { return Some(Share { parts, of: parts, before: 0 }) };
    let ChainKey { parts: of, first_part: before } = *key.get_ref();
    if of > facts::MAX_CHAIN || before.checked_add(parts).is_none_or(|end| end > of) {
        let found = format!("{parts} parts from part {before} on in a chain of {of}");
        let allowed = format!("parts that lie in the chain, which has at most {}", facts::MAX_CHAIN);
        table.error(key.span(), Problem::WrongValue { found, allowed });
        return None;
    }
    Some(Share { parts, of, before })
}

/// The three lines in their places.
fn lines(pins: &Pins) -> Vec<Line> {
    let mut lines = vec![Line::new("data", &pins.data); 3];
    lines[spi::CLOCK] = Line::new("clock", &pins.clock);
    lines[spi::SELECT] = Line::new("select", &pins.select);
    lines
}

/// Warns when the resistor at ISET gives another current than is wanted.
fn check_rset(face: &Face, written: Option<&Spanned<f64>>, table: &DriveTable<'_>) {
    let (Some(written), Some(wanted)) = (written, face.light.wanted) else { return };
    let forward = face.light.forward;
    let (needed, given) =
        (facts::rset_for(wanted, forward), facts::current_of(Ohms(*written.get_ref()), forward));
    // A fifth is nothing that a person sees.
    if (given.0 / wanted.0 - 1.0).abs() > 0.2 {
        let nearest = crate::scan::budget::nearest_e12(needed);
        table.warn(written.span(), Problem::Rset { found: Ohms(*written.get_ref()), given, wanted, nearest });
    }
}

/// Warns of levels and supplies that the part does not take for sure.
fn check_levels(controller: &Controller, bus_volts: &Spanned<f64>, table: &DriveTable<'_>) {
    let found = Volts(*bus_volts.get_ref());
    if found < facts::INPUT_HIGH {
        table.warn(bus_volts.span(), Problem::LowLevel { part: "max7219", found, least: facts::INPUT_HIGH });
    }
    super::check_supply(controller, "max7219", facts::SUPPLY, table);
}

/// Which digit of the face is which digit line of which part.
struct Layout {
    digits: usize,
    /// How many digit lines a digit takes: 1 or 2.
    lines_per_digit: usize,
    first: End,
    digit_0: End,
}

impl Layout {
    /// How many digits a part has, when all its lines are used.
    fn digits_per_part(&self) -> usize {
        facts::DIGITS / self.lines_per_digit
    }

    fn parts(&self) -> usize {
        self.digits.div_ceil(self.digits_per_part())
    }

    /// How many digit lines every part scans. All scan the same number, as a part that scans fewer is
    /// brighter.
    fn scanned(&self) -> usize {
        self.digits.min(self.digits_per_part()) * self.lines_per_digit
    }

    /// Part and first digit line of a digit counted from the left.
    fn place(&self, digit: usize) -> (usize, usize) {
        let from_first = match self.first {
            End::Left => digit,
            End::Right => self.digits - 1 - digit,
        };
        let full = self.digits_per_part();
        let part = from_first / full;
        let on_part = (self.digits - part * full).min(full);
        let within = from_first % full;
        let place = if self.first == self.digit_0 { within } else { on_part - 1 - within };
        (part, place * self.lines_per_digit)
    }

    /// The node of a colon or lamp by its name.
    fn extra(&self, name: &Spanned<String>, table: &DriveTable<'_>) -> Option<Node> {
        let node = self.parse_node(name.get_ref());
        if node.is_none() {
            let found = format!("{:?}", name.get_ref());
            let parts = self.parts();
            let allowed = match parts {
                1 => "a node from \"digit0.a\" to \"digit7.dp\"".to_owned(),
                _ => format!("a node from \"part0.digit0.a\" to \"part{}.digit7.dp\"", parts - 1),
            };
            table.error(name.span(), Problem::WrongValue { found, allowed });
        }
        node
    }

    fn parse_node(&self, name: &str) -> Option<Node> {
        let (part, rest) = match name.strip_prefix("part") {
            Some(rest) => {
                let (part, rest) = rest.split_once('.')?;
                (part.parse().ok()?, rest)
            }
            None => (0, name),
        };
        let (line, segment) = rest.strip_prefix("digit")?.split_once('.')?;
        let line: usize = line.parse().ok()?;
        let place = facts::BIT_ORDER.split(' ').rev().position(|known| known == segment)?;
        let exists = part < self.parts() && line < facts::DIGITS;
        exists.then_some(Node(part * facts::NODES + line * facts::SEGMENTS + place))
    }

    /// The wiring of the digits, then of the colons and lamps. One of those may take the point of a digit.
    fn wiring(
        &self,
        face: &Face,
        order: &BitOrder,
        extras: &[Node],
        table: &DriveTable<'_>,
    ) -> Option<Wiring> {
        let names = face.style.segment_names();
        let mut nodes = Vec::with_capacity(face.element_count());
        for digit in 0..face.digits {
            let (part, line) = self.place(digit);
            let first = part * facts::NODES + line * facts::SEGMENTS;
            for (segment, name) in names.iter().enumerate() {
                let node = order.bit_of(segment).map_or(Node::NOWHERE, |bit| Node(first + bit));
                match extras.iter().position(|extra| *extra == node) {
                    None => nodes.push(node),
                    Some(_) if *name == "dp" => nodes.push(Node::NOWHERE),
                    Some(extra) => {
                        let name_of_node = table.extras()[extra];
                        let node = name_of_node.get_ref().clone();
                        table.error(name_of_node.span(), Problem::NodeTaken { node, segment: name });
                        return None;
                    }
                }
            }
        }
        let first_extra = nodes.len();
        nodes.extend(extras);
        let wiring = Wiring::new(nodes, self.parts() * facts::NODES);
        // The digits have nodes of their own, so a node that is shared is one of the extras'.
        if let Err(WiringError::Shared { second, .. }) = wiring
            && let Some(name) = second.0.checked_sub(first_extra).and_then(|extra| table.extras().get(extra))
        {
            table.error(name.span(), Problem::NodeTwice { node: name.get_ref().clone() });
        }
        wiring.ok()
    }
}

/// A chain of parts behind three wires.
struct Chain {
    share: Share,
    /// How many digits every part scans.
    scanned: usize,
    clock: Hertz,
    brightness: u8,
    decodes: bool,
    resend: Option<Nanos>,
}

impl Ends for Chain {
    fn summary(&self) -> String {
        let Share { parts, of, before } = self.share;
        match (parts, of) {
            (1, 1) => format!("1 max7219, clock {}", self.clock),
            (parts, of) if parts == of => format!("{parts} max7219 in a chain, clock {}", self.clock),
            (parts, of) => {
                format!("{parts} max7219 from part {before} on in a chain of {of}, clock {}", self.clock)
            }
        }
    }

    fn driver(&self) -> Box<dyn Driver> {
        Box::new(driver::Chain::new(self.share, self.scanned, self.brightness, self.decodes))
    }

    fn bus(&self) -> Box<dyn Bus> {
        Box::new(spi::Spi::new(self.clock))
    }

    fn model(&self) -> Box<dyn Model> {
        Box::new(model::Chain::of(self.share.of, self.share.before))
    }

    fn explain(&self, bytes: &[u8], _: &[Line]) -> String {
        model::explain(bytes)
    }

    fn max_brightness(&self) -> Option<u8> {
        Some(facts::MAX_INTENSITY)
    }

    fn step_light(&self, step: u8) -> f32 {
        (2.0 * f32::from(step.min(facts::MAX_INTENSITY)) + 1.0) / 31.0
    }

    fn resend_every(&self) -> Option<Nanos> {
        self.resend
    }

    fn full_duty(&self) -> f32 {
        // Intensity register at F: 31/32 of a digit's turn in the scan.
        31.0 / 32.0 / self.scanned as f32
    }

    fn wires(&self) -> Vec<Wire> {
        let wire =
            |from: String, to: &str, note: &str| Wire { from, to: to.to_owned(), note: note.to_owned() };
        let of_part = |part: usize| {
            let pin = move |name: &str| format!("max7219 part {part}, {name}");
            let next = (part + 1 < self.share.before + self.share.parts)
                .then(|| wire(pin("DOUT (24)"), &format!("part {}, DIN (1)", part + 1), "the chain goes on"));
            [
                wire(pin("V+ (19)"), "supply", "4.0 to 5.5 V, with 10 uF and 100 nF close to the part"),
                wire(pin("GND (4)"), "ground", "both ground pins are needed"),
                wire(pin("GND (9)"), "ground", "both ground pins are needed"),
                wire(
                    pin("ISET (18)"),
                    "supply through RSET",
                    "the one resistor that sets the segment current",
                ),
            ]
            .into_iter()
            .chain(next)
        };
        (self.share.before..self.share.before + self.share.parts).flat_map(of_part).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn places(digits: usize, first: End, digit_0: End) -> Vec<(usize, usize)> {
        let layout = Layout { digits, lines_per_digit: 1, first, digit_0 };
        (0..digits).map(|digit| layout.place(digit)).collect()
    }

    #[test]
    fn one_part_runs_from_the_end_where_digit_0_stands() {
        assert_eq!(places(3, End::Right, End::Right), [(0, 2), (0, 1), (0, 0)]);
        assert_eq!(places(3, End::Right, End::Left), [(0, 0), (0, 1), (0, 2)]);
        assert_eq!(places(3, End::Left, End::Right), [(0, 2), (0, 1), (0, 0)]);
    }

    #[test]
    fn a_wide_digit_takes_two_lines() {
        let layout = Layout { digits: 6, lines_per_digit: 2, first: End::Left, digit_0: End::Left };
        let places: Vec<_> = (0..6).map(|digit| layout.place(digit)).collect();
        assert_eq!(places, [(0, 0), (0, 2), (0, 4), (0, 6), (1, 0), (1, 2)]);
        assert_eq!((layout.parts(), layout.scanned()), (2, 8));
    }

    #[test]
    fn the_last_fed_part_has_the_digits_that_are_left() {
        let right = places(10, End::Right, End::Right);
        assert_eq!(right[..3], [(1, 1), (1, 0), (0, 7)]);
        let left = places(10, End::Left, End::Right);
        assert_eq!(left[6..], [(0, 1), (0, 0), (1, 1), (1, 0)]);
    }
}
