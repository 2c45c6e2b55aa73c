//! The answers of `scan` in JSON.

use serde::Serialize;
use spare_tile_core::board::seen::Sight;
use spare_tile_core::part::Depth;
use spare_tile_core::plan::Mount;
use spare_tile_core::plan::scan::Plan;
use spare_tile_core::play::stall::{Fate, Stall};
use spare_tile_core::units::Nanos;

use super::Seen;

/// A moment of the slow motion.
#[derive(Serialize)]
pub struct SlowAnswer<'a> {
    pub at_ms: f64,
    pub scan_us: f64,
    pub bits: std::collections::BTreeMap<&'a str, Option<bool>>,
}

/// The plan, what is seen of it, and what becomes of it when the program blocks.
#[derive(Serialize)]
pub struct Answer<'a> {
    face: &'a str,
    method: &'a str,
    shows: &'a str,
    scan: Option<ScanAnswer>,
    pins: usize,
    ways: Vec<WayAnswer<'a>>,
    eye: Option<Vec<SeenAnswer<'a>>>,
    stall: Option<StallAnswer<'a>>,
    warnings: Vec<WarningAnswer>,
}

#[derive(Serialize)]
struct ScanAnswer {
    refresh_hz: f64,
    slots: usize,
    turn_us: f64,
    slot_us: f64,
    blanking_us: f64,
    lit_us: f64,
    duty: f64,
    blanking_share: f64,
    writes_a_second: u64,
    busy_share: f64,
    /// Where the controller makes colours or greys: what more or fewer bits give.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    depths: Vec<DepthAnswer>,
}

#[derive(Serialize)]
struct DepthAnswer {
    bits: u8,
    fastest_hz: f64,
    lit_share: Option<f64>,
    chosen: bool,
}

impl DepthAnswer {
    const fn of(depth: &Depth) -> Self {
        let Depth { bits, fastest, lit, is_chosen } = *depth;
        Self { bits, fastest_hz: fastest, lit_share: lit, chosen: is_chosen }
    }
}

#[derive(Serialize)]
struct WayAnswer<'a> {
    method: &'a str,
    pins: usize,
    parts: &'a str,
}

#[derive(Serialize)]
struct SeenAnswer<'a> {
    name: &'a str,
    #[serde(flatten)]
    sight: SightAnswer,
    ghost: f64,
}

#[derive(Serialize)]
struct SightAnswer {
    light: f64,
    flashes_hz: f64,
    percent_flicker: f64,
    flicker_index: f64,
    longest_lit_us: f64,
    longest_dark_us: f64,
}

#[derive(Serialize)]
struct StallAnswer<'a> {
    length_us: f64,
    every_us: Option<f64>,
    digits: Vec<FateAnswer<'a>>,
}

#[derive(Serialize)]
struct FateAnswer<'a> {
    name: &'a str,
    brightness: f64,
    burns: bool,
    goes_dark: bool,
    #[serde(flatten)]
    sight: SightAnswer,
}

#[derive(Serialize)]
struct WarningAnswer {
    message: String,
    fix: &'static str,
}

impl SightAnswer {
    fn of(sight: &Sight) -> Self {
        Self {
            light: sight.light,
            flashes_hz: sight.flashes_hz,
            percent_flicker: sight.percent_flicker,
            flicker_index: sight.flicker_index,
            longest_lit_us: sight.longest_lit.as_micros(),
            longest_dark_us: sight.longest_dark.as_micros(),
        }
    }
}

impl<'a> Answer<'a> {
    pub fn of(
        mount: &'a Mount,
        plan: &'a Plan,
        eye: Option<&'a [Seen]>,
        fates: Option<&'a (Stall, Option<Vec<Fate>>)>,
        words: &'a str,
    ) -> Self {
        let scan = plan.scan.as_ref();
        Self {
            face: &mount.face.name,
            method: mount.method,
            shows: words,
            scan: scan.map(|scan| ScanAnswer {
                refresh_hz: scan.times.refresh(),
                slots: scan.times.slots,
                turn_us: scan.times.turn.as_micros(),
                slot_us: scan.times.slot.as_micros(),
                blanking_us: scan.times.blanking.as_micros(),
                lit_us: scan.times.lit.as_micros(),
                duty: scan.times.duty(),
                depths: scan.depths.iter().map(DepthAnswer::of).collect(),
                blanking_share: scan.blanking_share,
                writes_a_second: scan.writes_a_second,
                busy_share: scan.busy_share,
            }),
            pins: plan.pins,
            ways: plan
                .ways
                .iter()
                .map(|(method, needs)| WayAnswer { method, pins: needs.pins, parts: &needs.parts })
                .collect(),
            eye: eye.map(|eye| {
                eye.iter()
                    .map(|seen| SeenAnswer {
                        name: &seen.name,
                        sight: SightAnswer::of(&seen.sight),
                        ghost: seen.ghost,
                    })
                    .collect()
            }),
            stall: fates.map(|(stall, fates)| StallAnswer {
                length_us: stall.length.as_micros(),
                every_us: stall.every.map(Nanos::as_micros),
                digits: fates.iter().flatten().map(FateAnswer::of).collect(),
            }),
            warnings: scan
                .iter()
                .flat_map(|scan| &scan.doubts)
                .map(|doubt| WarningAnswer { message: doubt.to_string(), fix: doubt.fix() })
                .collect(),
        }
    }
}

impl<'a> FateAnswer<'a> {
    fn of(fate: &'a Fate) -> Self {
        Self {
            name: &fate.name,
            brightness: fate.brightness(),
            burns: fate.burns(),
            goes_dark: fate.goes_dark(),
            sight: SightAnswer::of(&fate.stalled),
        }
    }
}
