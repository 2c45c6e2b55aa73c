//! From the drive table to the plan.

use crate::schema::{JsonSchema, Schema, SchemaGenerator};
use serde::de::IgnoredAny;

use super::layout::{Fold, FoldKey, LINES, Layout, PanelsKey};
use super::times::Times;
use super::trouble::PanelTrouble;
use super::{Plan, facts};
use crate::bus::{Protocol, panel};
use crate::face::{Channels, Face, Grid};
use crate::glyph::Common;
use crate::part::modules::{self, RowEnd, Turn};
use crate::part::{Drive, Method, Needs, Planned, check_logic, check_supply};
use crate::rig::{Controller, DriveTable, End, Line, Pin, Place, Problem, Spanned};
use crate::units::{Hertz, Milliamps, Nanos, parse_duration};

/// The method `rgb-panel`.
pub struct RgbPanel;

/// The drive table's keys.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Keys {
    #[serde(rename = "method")]
    #[cfg_attr(feature = "schema", schemars(skip))]
    _method: IgnoredAny,
    /// The controller pins of the connector's lines.
    pins: Pins,
    /// The size of one upright panel: `"64x32"`.
    panel: Option<Spanned<String>>,
    /// How many rows have their turn one after another: `"1/16"`.
    scan: Option<Spanned<String>>,
    /// How several panels hang.
    panels: Option<PanelsKey>,
    /// How a panel leads its chain through several rows of an address.
    fold: Option<FoldKey>,
    /// Which colours the lines R, G and B light: `"rgb"`.
    colour_order: Option<Spanned<String>>,
    /// The clock rate.
    clock_hz: Option<Spanned<u32>>,
    /// How many bits each colour has, 1 to 8.
    depth: Option<Spanned<u8>>,
    /// How light follows from a level: light = level to the power of this.
    gamma: Option<Spanned<f64>>,
    /// How often a second all rows have their turn, at least.
    refresh_hz: Option<Spanned<u32>>,
    /// How long all is dark while a row takes its data and the address changes.
    blanking: Option<Spanned<String>>,
    /// For how much of its time a row is lit, 0 (a sixteenth) to 15.
    brightness: Option<Spanned<u8>>,
    /// The current of a lit light.
    column_milliamps: Option<Spanned<f64>>,
    /// The high level at the panel, after any level converter.
    bus_volts: Option<Spanned<f64>>,
}

/// The controller pins of the lines.
#[derive(serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
struct Pins {
    /// R1: red of the upper half.
    r1: Spanned<Pin>,
    /// G1.
    g1: Spanned<Pin>,
    /// B1.
    b1: Spanned<Pin>,
    /// R2: red of the lower half.
    r2: Spanned<Pin>,
    /// G2.
    g2: Spanned<Pin>,
    /// B2.
    b2: Spanned<Pin>,
    /// A: the address line of the least weight.
    a: Option<Spanned<Pin>>,
    /// B.
    b: Option<Spanned<Pin>>,
    /// C.
    c: Option<Spanned<Pin>>,
    /// D.
    d: Option<Spanned<Pin>>,
    /// E.
    e: Option<Spanned<Pin>>,
    /// CLK.
    clock: Spanned<Pin>,
    /// LAT or STB.
    latch: Spanned<Pin>,
    /// OE: low lights.
    enable: Spanned<Pin>,
}

impl Method for RgbPanel {
    fn name(&self) -> &'static str {
        "rgb-panel"
    }

    fn channels(&self) -> &'static [Channels] {
        &[Channels::Three]
    }

    fn common(&self) -> Option<Common> {
        // The rows are switched to the supply.
        Some(Common::Anode)
    }

    fn keys(&self, generator: &mut SchemaGenerator) -> Vec<Schema> {
        vec![Keys::json_schema(generator)]
    }

    fn needs(&self, face: &Face) -> Option<Needs> {
        let grid = face.dots().filter(|grid| grid.channels == Channels::Three)?;
        let (width, height) = usual_panel(grid)?;
        let panels = grid.width / width * (grid.height / height);
        let pins = LINES + facts::address_lines(height / 2) + 3;
        Some(Needs { pins, parts: super::parts(panels, (width, height)) })
    }

    fn plan(&self, face: &Face, controller: &Controller, table: &DriveTable<'_>) -> Option<Planned> {
        let keys: Keys = table.read()?;
        let Some(grid) = face.dots() else {
            let allowed = "kind = \"dots\"".to_owned();
            table.error(Place::Face("kind"), Problem::WrongValue { found: "digits".to_owned(), allowed });
            return None;
        };
        let layout = layout(grid, &keys, table)?;
        let lines = lines(&keys.pins, layout.scan, table)?;
        let level = check_logic(controller, self.name(), keys.bus_volts.clone(), table);
        check_supply(controller, self.name(), facts::SUPPLY, table);
        let (times, gamma) = times(&layout, &keys, table)?;
        let brightness = table.or_assume("brightness", keys.brightness.clone(), facts::MAX_BRIGHTNESS);
        let column = table.or_assume("column_milliamps", keys.column_milliamps.clone(), facts::USUAL_COLUMN);
        let is_sound =
            table.check_range(&brightness, 0, facts::MAX_BRIGHTNESS) & table.check_range(&column, 1.0, 60.0);
        let wiring = layout.wiring((grid.width, grid.height))?;
        let protocol = Protocol::Panel(panel::Panel {
            clock: times.clock,
            address_lines: facts::address_lines(layout.scan),
            data_lines: LINES,
        });
        let plan = Plan {
            layout,
            times,
            gamma,
            wanted: Hertz(keys.refresh_hz.map_or(USUAL_REFRESH, |refresh| *refresh.get_ref())),
            brightness: *brightness.get_ref(),
            column: Milliamps(*column.get_ref()),
        };
        is_sound.then_some(Planned { protocol, lines, wiring, level, drive: Drive::RgbPanel(plan) })
    }
}

/// How often a second all rows have their turn where the rig does not say.
const USUAL_REFRESH: u32 = 120;

/// The lines that the usual panels of a wall of this size have, by the names of their pins in a rig.
#[must_use]
pub fn lines_for((width, height): (usize, usize)) -> Vec<&'static str> {
    let rows = usual_panel(Grid::plain(width, height)).map_or(2, |(_, height)| height / 2);
    let address = &facts::ADDRESS_LINES[..facts::address_lines(rows)];
    [&facts::DATA_LINES[..], address, &["clock", "latch", "enable"]].concat()
}

/// The largest panel of which a whole number makes the face.
fn usual_panel(grid: Grid) -> Option<(usize, usize)> {
    let whole =
        |sides: &[usize], side: usize| sides.iter().rev().copied().find(|part| side.is_multiple_of(*part));
    Some((whole(&facts::WIDTHS, grid.width)?, whole(&facts::HEIGHTS, grid.height)?))
}

/// How the panels are made and hang.
fn layout(grid: Grid, keys: &Keys, table: &DriveTable<'_>) -> Option<Layout> {
    let none = PanelsKey::default();
    let hanging = keys.panels.as_ref().unwrap_or(&none);
    let rotate = table.or_assume("panels.rotate", hanging.rotate.clone(), 0);
    let turn = Turn::read(&rotate, table)?;
    let panel = panel_size(grid, keys, turn, table)?;
    let (wide, high) = if turn.is_upright() { (panel.1, panel.0) } else { panel };
    let (across, down) = (grid.width / wide, grid.height / high);
    if across * down > facts::MAX_CHAIN {
        let trouble = PanelTrouble::LongChain { panels: across * down, most: facts::MAX_CHAIN };
        table.error(Place::Face("width"), trouble);
        return None;
    }
    let first = table.or_assume("panels.first", hanging.first.clone(), End::Right);
    let written = hanging.first_row.as_ref();
    let (first_row, serpentine) = modules::rows(down, "panels", written, hanging.serpentine.as_ref(), table);
    let of_panel = |number: usize| {
        let row = number / across;
        if serpentine && row % 2 == 1 { turn.on_its_head() } else { turn }
    };
    let mut turns: Vec<_> = (0..across * down).map(of_panel).collect();
    for except in &hanging.except {
        let (number, rotate) = (&except.get_ref().panel, &except.get_ref().rotate);
        let own = Turn::read(rotate, table)?;
        let Some(hung) = turns.get_mut(*number.get_ref()) else {
            let allowed = format!("a panel of this face, 0 to {}", across * down - 1);
            table.error(number.span(), Problem::WrongValue { found: number.get_ref().to_string(), allowed });
            return None;
        };
        if own.is_upright() != turn.is_upright() {
            table.error(rotate.span(), PanelTrouble::Mixed);
            return None;
        }
        *hung = own;
    }
    let scan = scan(panel, keys, table)?;
    Some(Layout {
        panel,
        across,
        down,
        first: *first.get_ref(),
        first_row,
        serpentine,
        turns,
        scan,
        fold: fold(panel, scan, keys, table)?,
        lights: lights(keys, table)?,
    })
}

/// The size of one panel, which a whole number of must make the face.
fn panel_size(grid: Grid, keys: &Keys, turn: Turn, table: &DriveTable<'_>) -> Option<(usize, usize)> {
    let upright =
        if turn.is_upright() { Grid { width: grid.height, height: grid.width, ..grid } } else { grid };
    let usual = usual_panel(upright).map(|(width, height)| format!("{width}x{height}"));
    let written = match (&keys.panel, usual) {
        (Some(written), _) => written.clone(),
        (None, Some(usual)) => table.or_assume("panel", None, usual),
        (None, None) => {
            let found = format!("{}x{}", grid.width, grid.height);
            table.error(Place::Face("width"), PanelTrouble::Size { found });
            return None;
        }
    };
    let side = |side: &str| side.trim().parse::<usize>().ok();
    let size = written.get_ref().split_once('x').and_then(|(width, height)| side(width).zip(side(height)));
    let known =
        |(width, height): &(usize, usize)| facts::WIDTHS.contains(width) && facts::HEIGHTS.contains(height);
    let Some((width, height)) = size.filter(known) else {
        table.error(written.span(), PanelTrouble::Size { found: format!("{:?}", written.get_ref()) });
        return None;
    };
    if upright.width % width != 0 || upright.height % height != 0 {
        let (face_width, face_height) = (upright.width, upright.height);
        table.error(written.span(), PanelTrouble::Wall { face_width, face_height, width, height });
        return None;
    }
    Some((width, height))
}

/// How many addresses a panel has.
fn scan((_, height): (usize, usize), keys: &Keys, table: &DriveTable<'_>) -> Option<usize> {
    let half = height / 2;
    let written = table.or_assume("scan", keys.scan.clone(), format!("1/{half}"));
    let scan = written.get_ref().strip_prefix("1/").and_then(|scan| scan.trim().parse::<usize>().ok());
    let fits = |scan: &usize| facts::SCANS.contains(scan) && half.is_multiple_of(*scan);
    let Some(scan) = scan.filter(fits) else {
        let allowed: Vec<_> =
            facts::SCANS.iter().filter(|scan| fits(scan)).map(|scan| format!("\"1/{scan}\"")).collect();
        let (found, allowed) = (format!("{:?}", written.get_ref()), allowed.join(" or "));
        table.error(written.span(), PanelTrouble::Scan { found, height, allowed });
        return None;
    };
    Some(scan)
}

/// How the chain leads through the rows of an address; of one row there is nothing to say.
fn fold((width, height): (usize, usize), scan: usize, keys: &Keys, table: &DriveTable<'_>) -> Option<Fold> {
    let plain = Fold { block: width, first: RowEnd::Top, serpentine: false };
    let none = FoldKey::default();
    let fold = keys.fold.as_ref().unwrap_or(&none);
    if height / 2 == scan {
        if let Some(block) = &fold.block {
            let allowed = "no fold: each address lights one row of a half".to_owned();
            table.error(block.span(), Problem::WrongValue { found: block.get_ref().to_string(), allowed });
        }
        return Some(plain);
    }
    let block = table.or_assume("fold.block", fold.block.clone(), 8);
    let first = table.or_assume("fold.first", fold.first.clone(), RowEnd::Top);
    let serpentine = table.or_assume("fold.serpentine", fold.serpentine.clone(), false);
    let columns = *block.get_ref() as usize;
    if columns == 0 || width % columns != 0 {
        let allowed = format!("a number of columns that {width} is a multiple of");
        table.error(block.span(), Problem::WrongValue { found: columns.to_string(), allowed });
        return None;
    }
    Some(Fold { block: columns, first: *first.get_ref(), serpentine: *serpentine.get_ref() })
}

/// Which colours the lines light.
fn lights(keys: &Keys, table: &DriveTable<'_>) -> Option<[usize; 3]> {
    let order = table.or_assume("colour_order", keys.colour_order.clone(), "rgb".to_owned());
    let colours: Vec<_> = order.get_ref().chars().filter_map(|letter| "rgb".find(letter)).collect();
    let lights =
        <[usize; 3]>::try_from(colours).ok().filter(|lights| (0..3).all(|colour| lights.contains(&colour)));
    if lights.is_none() || order.get_ref().len() != 3 {
        table.error(order.span(), PanelTrouble::Colours);
        return None;
    }
    lights
}

/// The lines of the connector, numbered as the bus says.
fn lines(pins: &Pins, scan: usize, table: &DriveTable<'_>) -> Option<Vec<Line>> {
    let control = [("clock", &pins.clock), ("latch", &pins.latch), ("enable", &pins.enable)];
    let mut lines: Vec<_> = control.into_iter().map(|(role, pin)| table.line(pin, role)).collect();
    let needed = facts::address_lines(scan);
    let address = [&pins.a, &pins.b, &pins.c, &pins.d, &pins.e];
    for (place, (line, pin)) in facts::ADDRESS_LINES.into_iter().zip(address).enumerate() {
        match pin {
            Some(pin) if place < needed => lines.push(table.line(pin, line)),
            Some(pin) => table.warn(pin.span(), PanelTrouble::SpareAddress { scan, line }),
            None if place < needed => {
                table.error(Place::Drive("pins"), PanelTrouble::NoAddress { scan, line });
                return None;
            }
            None => {}
        }
    }
    let data = [&pins.r1, &pins.g1, &pins.b1, &pins.r2, &pins.g2, &pins.b2];
    lines.extend(facts::DATA_LINES.into_iter().zip(data).map(|(line, pin)| table.line(pin, line)));
    Some(lines)
}

/// When rows are lit, and the gamma.
fn times(layout: &Layout, keys: &Keys, table: &DriveTable<'_>) -> Option<(Times, f64)> {
    let clock = table.or_assume("clock_hz", keys.clock_hz.clone(), 10_000_000);
    let depth = table.or_assume("depth", keys.depth.clone(), 6);
    let gamma = table.or_assume("gamma", keys.gamma.clone(), 2.2);
    let refresh = table.or_assume("refresh_hz", keys.refresh_hz.clone(), USUAL_REFRESH);
    let written = table.or_assume("blanking", keys.blanking.clone(), "1us".to_owned());
    let blanking = parse_duration(written.get_ref()).ok().map(Nanos::from);
    let Some(blanking) = blanking.filter(|blanking| blanking.0 <= 1_000_000) else {
        let allowed = "a duration up to 1ms, such as \"1us\"".to_owned();
        table.error(
            written.span(),
            Problem::WrongValue { found: format!("{:?}", written.get_ref()), allowed },
        );
        return None;
    };
    let is_sound = table.check_range(&clock, 100_000, facts::MAX_CLOCK.0)
        & table.check_range(&depth, 1, facts::MAX_DEPTH)
        & table.check_range(&gamma, 1.0, 4.0)
        & table.check_range(&refresh, 1, 10_000);
    if !is_sound {
        return None;
    }
    if blanking < facts::ROW_TURN_OFF {
        let trouble = PanelTrouble::Ghosts { blanking, turn_off: facts::ROW_TURN_OFF };
        table.warn(Place::Drive("blanking"), trouble);
    }
    let wanted = Hertz(*refresh.get_ref());
    let times = Times {
        addresses: layout.scan,
        columns: layout.columns(),
        depth: *depth.get_ref(),
        unit: 1,
        clock: Hertz(*clock.get_ref()),
        blanking,
        spare: Nanos(0),
    }
    .refreshed(wanted);
    if times.refresh() < f64::from(wanted.0) {
        let reaches = |times: &Times| times.refresh() >= f64::from(wanted.0);
        let enough = times.depths(wanted).filter(reaches).map(|times| times.depth).last();
        let (depth, reached) = (times.depth, times.refresh());
        table.error(Place::Drive("depth"), PanelTrouble::Slow { depth, reached, wanted, enough });
        return None;
    }
    Some((times, *gamma.get_ref()))
}
