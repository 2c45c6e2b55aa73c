//! From the drive table to the plan.

use crate::rig::Spanned;
use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::IgnoredAny;

use super::dots::{ModulePlan, Modules};
use super::trouble::Max7219Trouble;
use super::{COMMON, DigitPlan, Plan, Share, Wired, facts};
use crate::bus::{Protocol, spi};
use crate::face::Face;
use crate::glyph::{BitOrder, Common, Style};
use crate::part::trouble::PartTrouble;
use crate::part::{Drive, Method, Needs, Planned, Sample, check_common, check_supply, resend};
use crate::rig::{Controller, DriveTable, End, Line, Pin, Problem};
use crate::units::{Hertz, Ohms, Volts, nearest_e12};
use crate::wiring::Wiring;
use crate::words::words;

/// The method `max7219`.
pub struct Max7219;

/// The drive table's keys.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Keys {
    #[serde(rename = "method")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _method: IgnoredAny,
    /// The controller pins of its lines.
    pins: Pins,
    /// The clock rate.
    clock_hz: Option<Spanned<u32>>,
    /// The high level at the part, after any level converter.
    bus_volts: Option<Spanned<f64>>,
    /// The intensity at power-up, 0 to 15.
    brightness: Option<Spanned<u8>>,
    /// Where digit line 0 of each part stands, as seen.
    digit_0: Option<Spanned<End>>,
    /// Which end of the chain the controller feeds.
    first: Option<Spanned<End>>,
    /// Which segment sits on which data bit, the highest first, - for none.
    segments: Option<Spanned<String>>,
    /// `"code-b"`: the parts draw 0-9, minus, E, H, L and P themselves.
    decode: Option<Spanned<Decode>>,
    /// Of dots: how the modules lie.
    modules: Option<Spanned<Modules>>,
    /// The resistor at ISET, which sets the current of the segments.
    rset_ohms: Option<Spanned<f64>>,
    /// How often everything is sent again: `"10s"`.
    resend: Option<Spanned<String>>,
    /// Where several faces share one chain.
    chain: Option<Spanned<ChainKey>>,
}

/// The place of a face's parts in a chain that it shares with other faces.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct ChainKey {
    /// How many parts the whole chain has.
    parts: usize,
    /// The first part of this face, counted from the one that the controller feeds.
    first_part: usize,
}

words! {
    /// The use of digit data.
    enum Decode {
        /// Each bit lights a segment.
        None = "none",
        /// The part decodes figures (code B).
        CodeB = "code-b",
    }
}

/// The controller pins of the three wires.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Pins {
    /// DIN.
    data: Spanned<Pin>,
    /// CLK.
    clock: Spanned<Pin>,
    /// LOAD/CS.
    select: Spanned<Pin>,
}

impl Method for Max7219 {
    fn name(&self) -> &'static str {
        "max7219"
    }

    fn common(&self) -> Option<Common> {
        Some(COMMON)
    }

    fn sample(&self) -> Option<Sample> {
        Some(Sample { digits: 8, lines: &["clock", "data", "select"], addresses: &[] })
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![Keys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        // Digit lines, each with eight lights of one digit, one row of dots, or lamps.
        let lines = match face.dots() {
            None => face.digits() * face.style().point_index().div_ceil(facts::SEGMENTS),
            Some(grid) => grid.height * grid.width.div_ceil(facts::SEGMENTS),
        };
        let parts = lines.div_ceil(facts::DIGITS);
        Some(Needs { pins: 3, parts: format!("{parts} max7219") })
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        let keys: Keys = table.read()?;
        let clock = table.or_assume("clock_hz", keys.clock_hz.clone(), 1_000_000);
        let bus_volts = table.or_assume("bus_volts", keys.bus_volts.clone(), controller.logic_volts.0);
        let brightness = table.or_assume("brightness", keys.brightness.clone(), 8);
        let lines = lines(&keys, table);
        let rset = table.or_assume("rset_ohms", keys.rset_ohms.clone(), facts::USUAL_RSET);
        check_rset(face, &rset, keys.rset_ohms.is_some(), table);
        let resend = resend(keys.resend.as_ref(), table)?;
        let level = check_levels(controller, &bus_volts, table);
        let clock_sound = table.check_range(&clock, 1, facts::MAX_CLOCK.0);
        table.check_range(&brightness, 0, facts::MAX_INTENSITY);
        // Of dots either side may be joined in rows: the digit lines are rows or columns.
        if face.dots().is_none() {
            check_common(face, self.name(), COMMON, table);
        }
        let (wired, parts, scanned, wiring) = match face.dots() {
            Some(grid) => {
                let before = keys.chain.as_ref().map_or(0, |chain| chain.get_ref().first_part);
                let modules = ModulePlan::plan(grid, keys.modules.as_ref(), before, table)?;
                let (parts, wiring) = (modules.parts(), modules.wiring()?);
                (Wired::Modules(modules), parts, facts::DIGITS, wiring)
            }
            None => {
                let (digits, wiring) = digits(face, &keys, table)?;
                let (parts, scanned) = (digits.parts(), digits.scanned());
                let given = facts::current_of(Ohms(*rset.get_ref()), face.light.forward);
                if let Some(most) = facts::most_current(scanned).filter(|most| given > *most) {
                    let least = facts::rset_for(most, face.light.forward);
                    table.warn(rset.span(), Max7219Trouble::FewDigits { scanned, given, most, least });
                }
                (Wired::Digits(digits), parts, scanned, wiring)
            }
        };
        let clock = Hertz(*clock.get_ref());
        let plan = Plan {
            share: share(parts, keys.chain.as_ref(), &lines[spi::SELECT], table)?,
            scanned,
            clock,
            brightness: *brightness.get_ref(),
            rset: Ohms(*rset.get_ref()),
            segment: facts::current_of(Ohms(*rset.get_ref()), face.light.forward),
            resend,
            wired,
        };
        let protocol = Protocol::Spi(spi::Spi { clock });
        clock_sound.then_some(Planned { protocol, lines, wiring, level, drive: Drive::Max7219(plan) })
    }
}

/// The digits of a face, and their wiring.
fn digits(face: &Face, keys: &Keys, table: &DriveTable<'_>) -> Option<(DigitPlan, Wiring)> {
    let digit_0 = table.or_assume("digit_0", keys.digit_0.clone(), End::Right);
    let first = table.or_assume("first", keys.first.clone(), End::Right);
    let usual = facts::bit_order(face.style()).to_owned();
    let segments = table.or_assume("segments", keys.segments.clone(), usual);
    let order = BitOrder::parse(segments.get_ref(), face.style())
        .map_err(|error| table.error(segments.span(), Problem::BitOrder(error)))
        .ok()?;
    if order.byte_count() > facts::MAX_LINES {
        let allowed = format!("at most {} bits", 8 * facts::MAX_LINES);
        let found = format!("{} bits", order.width());
        table.error(segments.span(), Problem::WrongValue { found, allowed });
        return None;
    }
    if face.style() == Style::Seven {
        table.or_assume("decode", keys.decode.clone(), Decode::None);
    }
    check_code_b(face, keys.decode.as_ref(), &order, table)?;
    let mut plan = DigitPlan {
        digits: face.digits(),
        first: *first.get_ref(),
        digit_0: *digit_0.get_ref(),
        order,
        decodes: keys.decode.as_ref().is_some_and(|decode| *decode.get_ref() == Decode::CodeB),
        extras: Vec::new(),
    };
    let before = keys.chain.as_ref().map_or(0, |chain| chain.get_ref().first_part);
    let extra = |name: &&Spanned<String>| {
        let place = plan.parse_extra(name.get_ref(), before);
        if place.is_none() {
            let found = format!("{:?}", name.get_ref());
            let allowed = match (plan.parts(), before) {
                (1, 0) => "a node from \"digit0.a\" to \"digit7.dp\"".to_owned(),
                (parts, _) => {
                    let last = before.saturating_add(parts - 1);
                    format!("a node from \"part{before}.digit0.a\" to \"part{last}.digit7.dp\"")
                }
            };
            table.error(name.span(), Problem::WrongValue { found, allowed });
        }
        place
    };
    let extras = table.extras().iter().map(extra).collect::<Option<_>>()?;
    plan.extras = extras;
    let wiring = plan.wiring(face, table)?;
    Some((plan, wiring))
}

/// Code B draws seven segments, and on its own lines.
fn check_code_b(
    face: &Face,
    decode: Option<&Spanned<Decode>>,
    order: &BitOrder,
    table: &DriveTable<'_>,
) -> Option<()> {
    let Some(decode) = decode.filter(|decode| *decode.get_ref() == Decode::CodeB) else { return Some(()) };
    if face.style() != Style::Seven {
        let allowed = "\"none\": code B draws seven segments".to_owned();
        table.error(decode.span(), Problem::WrongValue { found: "\"code-b\"".to_owned(), allowed });
        return None;
    }
    if order.to_string() != facts::BIT_ORDER {
        table.warn(decode.span(), Max7219Trouble::Scrambled { order: order.to_string() });
    }
    Some(())
}

/// The three lines in their places. Clock and data may be shared with other parts: each has its own select, unless it is
/// a chain that several faces share.
fn lines(keys: &Keys, table: &DriveTable<'_>) -> Vec<Line> {
    let Pins { data, clock, select } = &keys.pins;
    let data = table.shared_line(data, "data");
    let clock = table.shared_line(clock, "clock");
    let select = if keys.chain.is_some() {
        Line { role: "select".to_owned(), ..table.shared_line(select, "select of a chain") }
    } else {
        table.line(select, "select")
    };
    let mut lines = vec![data.clone(); 3];
    (lines[spi::CLOCK], lines[spi::DATA], lines[spi::SELECT]) = (clock, data, select);
    lines
}

/// Returns the place of these parts in their chain; they are the whole chain unless the rig says otherwise.
fn share(
    parts: usize,
    key: Option<&Spanned<ChainKey>>,
    select: &Line,
    table: &DriveTable<'_>,
) -> Option<Share> {
    let Some(key) = key else { return Some(Share { parts, of: parts, before: 0 }) };
    let ChainKey { parts: of, first_part: before } = *key.get_ref();
    if of > facts::MAX_CHAIN || before.checked_add(parts).is_none_or(|end| end > of) {
        let found = format!("{parts} parts from part {before} on in a chain of {of}");
        let allowed = format!("parts that lie in the chain, which has at most {}", facts::MAX_CHAIN);
        table.error(key.span(), Problem::WrongValue { found, allowed });
        return None;
    }
    table.claim_chain(of, &select.known, key.span());
    (before..before + parts).for_each(|part| table.claim_chain_part(part, &select.known, key.span()));
    Some(Share { parts, of, before })
}

/// Reports a resistor at ISET of which the data sheet says nothing, and warns of one that gives another current than is wanted.
fn check_rset(face: &Face, rset: &Spanned<f64>, is_written: bool, table: &DriveTable<'_>) {
    let (found, forward) = (Ohms(*rset.get_ref()), face.light.forward);
    let most = Ohms(facts::rset_for(facts::MIN_TABLED, forward).0.round());
    if !(facts::MIN_RSET..=most).contains(&found) {
        let least = facts::MIN_RSET;
        table.defect(rset.span(), Max7219Trouble::RsetRange { found, least, most });
    } else if let Some(wanted) = face.light.wanted.filter(|_| is_written) {
        let (needed, given) = (facts::rset_for(wanted, forward), facts::current_of(found, forward));
        // A fifth is nothing that a person sees.
        if (given.0 / wanted.0 - 1.0).abs() > 0.2 {
            let nearest = nearest_e12(needed);
            table.warn(rset.span(), Max7219Trouble::Rset { found, given, wanted, nearest });
        }
    }
}

/// Warns of levels and supplies that the part does not take for sure.
fn check_levels(controller: &Controller, bus_volts: &Spanned<f64>, table: &DriveTable<'_>) -> Volts {
    let found = Volts(*bus_volts.get_ref());
    if found < facts::INPUT_HIGH {
        table.warn(
            bus_volts.span(),
            PartTrouble::LowLevel { part: "max7219", found, least: facts::INPUT_HIGH },
        );
    }
    check_supply(controller, "max7219", facts::SUPPLY, table);
    found
}
