//! Where everything of a wiring drawing stands. From the top down:
//!
//! ```text
//!      around the display: wires of its upper pins
//!   +---------------------+
//!   |       display       |
//!   +---------------------+
//!      joints: pins that are one connection       each on a track of its own
//!      rails: common sides at ground or supply
//!      channel: wires on their way to the chips   tracks again
//!      way: resistors and switches
//!   +--------+   +--------+
//!   | chip 0 |   | chip 1 |                       or the controller itself
//!   +--------+   +--------+
//!      bus: lines and the chain                   tracks again
//!   +---------------------+
//!   |   level converter   |                       where the levels differ
//!   +---------------------+
//!   +---------------------+
//!   |     controller      |
//!   +---------------------+
//! ```
//!
//! Wires may cross, and never run along each other: every upright has a column of its own, those at the chips half a
//! column beside those at the display and at the controller, and every level is a track of its own.

use spare_tile_core::part::ChipPin;
use spare_tile_core::plan::wires::{Connection, LineWire, PowerPin, Wiring};
use spare_tile_core::rig::Package;
use spare_tile_core::units::Volts;

use super::chips::{self, Chip, To};
use super::{HEADING, SMALL};
use crate::view::label;
use crate::view::scene::Point;

/// Around the page.
pub const MARGIN: f32 = 30.0;
/// From one level to the next.
const TRACK: f32 = 11.0;
/// The display: how high it is, and the length of its pins.
pub const DISPLAY: f32 = 170.0;
pub const PIN: f32 = 12.0;
/// How high the room for rails is, and that for resistors and switches.
const RAILS: f32 = 76.0;
const WAY: f32 = 160.0;
/// The height of the box of a controller or chip.
pub const BOX: f32 = 80.0;

/// A pin of the display.
pub struct DisplayPin {
    /// Its number; none where the rig does not tell.
    pub number: Option<usize>,
    /// Which connection it is of.
    pub connection: usize,
    pub is_upper: bool,
    /// From its end to where its connection goes on.
    pub path: Vec<Point>,
    /// True if it meets there another pin of the same connection.
    pub is_joined: bool,
}

/// A connection of the display on its way from where its pins meet.
pub struct Run {
    pub path: Vec<Point>,
    /// From which height on there is a resistor, and a switch.
    pub way: f32,
}

/// A pin of a box: where it is, its name, its number, and its other name.
pub struct BoxPin {
    pub x: f32,
    pub name: String,
    pub number: Option<u8>,
    pub also: Option<String>,
}

impl BoxPin {
    fn of_chip(x: f32, pin: &ChipPin) -> Self {
        Self { x, name: pin.0.to_owned(), number: pin.1, also: None }
    }

    fn named(x: f32, name: impl Into<String>, also: Option<&String>) -> Self {
        Self { x, name: name.into(), number: None, also: also.cloned() }
    }
}

/// A box with pins above and below, and its power pins beside.
pub struct ChipBox {
    pub title: String,
    pub power: Vec<PowerPin>,
    pub left: f32,
    pub right: f32,
    pub top: f32,
    pub above: Vec<BoxPin>,
    pub below: Vec<BoxPin>,
}

impl ChipBox {
    /// How wide the names of power pins are at its left edge, where the supply is, and at its right one.
    pub fn beside(power: &[PowerPin]) -> (f32, f32) {
        let widest = |is_supply: bool| {
            let names = power.iter().filter(|pin| pin.is_supply == is_supply);
            names.map(|pin| label::width(&pin.pin, SMALL) + 8.0).fold(0.0, f32::max)
        };
        (widest(true), widest(false))
    }

    /// How wide its title is together with what is beside it.
    fn inside(title: &str, power: &[PowerPin]) -> f32 {
        let (left, right) = Self::beside(power);
        label::width(title, HEADING) + left + right + 2.0 * PIN
    }
}

/// A line of the bus, or a link of the chain.
pub struct Net {
    /// Its role; a link of the chain carries data.
    pub role: String,
    /// Where that is written.
    pub role_at: Option<Point>,
    pub strokes: Vec<Vec<Point>>,
    /// Where more than two strokes meet.
    pub dots: Vec<Point>,
}

/// Everything in its place.
pub struct Layout {
    pub width: f32,
    /// Where the notes may begin.
    pub foot: f32,
    /// Left edge, top and width, if the rig describes the display.
    pub display: Option<(f32, f32, f32)>,
    pub pins: Vec<DisplayPin>,
    /// By connection.
    pub runs: Vec<Run>,
    pub boxes: Vec<ChipBox>,
    pub nets: Vec<Net>,
}

/// From columns to places on the page.
#[derive(Clone, Copy)]
struct Grid {
    /// The left edge of column 0, the display's first.
    origin: f32,
    pitch: f32,
    /// By how many columns the chips, and with them the controller, are moved to stand in the middle.
    chips: f32,
}

impl Grid {
    fn x(&self, column: f32) -> f32 {
        self.origin + (column + 0.5) * self.pitch
    }

    fn chip_x(&self, column: f32) -> f32 {
        self.x(column + self.chips)
    }
}

/// A pin of the display in the grid.
struct Stand {
    number: Option<usize>,
    connection: usize,
    /// The column in which it goes down.
    column: f32,
    /// Of an upper pin: the column where it is, and how far out it goes around.
    upper: Option<(f32, f32)>,
}

/// Lays a wiring out. `pitch` is from one column to the next, `least` the least width of the page, `top` where it begins.
pub fn of(wiring: &Wiring, package: Option<&Package>, pitch: f32, least: f32, top: f32) -> Layout {
    let row =
        chips::row(wiring, |title, power| (ChipBox::inside(title, power) / pitch + 0.2).ceil() as usize);
    let stands = stands(wiring, package, &row);
    let upper = package.map_or(0, |package| package.pins.len() / 2);
    let beside = upper.div_ceil(2) as f32;
    let own = stands.iter().filter(|stand| stand.upper.is_none()).map(|stand| stand.column + 1.0);
    let display_columns = match package {
        Some(package) => (package.pins.len() - upper) as f32,
        None => own.fold(chips::columns(&row), f32::max),
    };
    let lines = wiring.lines.len() as f32;
    let columns = (display_columns + 2.0 * beside).max(chips::columns(&row) + 1.0).max(lines + 1.0);
    let width = (columns * pitch + 2.0 * MARGIN).max(least);
    let moved = ((display_columns - chips::columns(&row)) / 2.0).floor() + 0.5;
    let grid = Grid {
        origin: (width - display_columns * pitch) / 2.0,
        pitch,
        chips: if package.is_some() { moved } else { 0.0 },
    };

    let has_display = !wiring.display.is_empty();
    let display_top = top + TRACK * beside + PIN;
    let joints_top = if has_display { display_top + DISPLAY + PIN } else { top };
    let extra = stands.len().saturating_sub(wiring.display.len());
    let rails_top = joints_top + TRACK * extra as f32;
    let has_rails = wiring.display.iter().any(|connection| connection.is_rail);
    let channel_top = rails_top + if has_rails { RAILS } else { 0.0 };

    let (begins, ends) = ends(wiring, &stands, &row, &grid);
    let moving: Vec<_> = begins.iter().zip(&ends).map(|(begin, end)| (*begin, *end)).collect();
    let (levels, used) = tracks(&moving);
    let way = channel_top + TRACK * used as f32;
    let box_top = if has_display { way + WAY } else { top };
    let run = |(index, connection): (usize, &Connection)| {
        let (begin, end) = (begins[index], ends[index]);
        if connection.is_rail {
            return Run { path: vec![(begin, rails_top), (begin, rails_top + RAILS - 22.0)], way: rails_top };
        }
        let mut path = vec![(begin, rails_top)];
        if let Some(level) = levels[index] {
            let level = channel_top + TRACK * (level as f32 + 0.5);
            path.extend([(begin, level), (end, level)]);
        }
        path.push((end, box_top));
        Run { path, way }
    };
    let runs: Vec<_> = wiring.display.iter().enumerate().map(run).collect();
    let pins = pins(&stands, &begins, &grid, (display_top, joints_top, rails_top));
    let display = has_display.then_some((grid.origin, display_top, display_columns * pitch));
    let (boxes, nets, foot) = if row.is_empty() {
        let at_controller = wiring.display.iter().zip(&ends).filter(|(connection, _)| !connection.is_rail);
        let above = at_controller
            .map(|(connection, x)| BoxPin::named(*x, &connection.to, connection.also.as_ref()))
            .collect();
        let title = wiring.outputs_of.clone();
        let controller = boxed(title, controller_power(wiring), above, Vec::new(), pitch, box_top);
        (vec![controller], Vec::new(), box_top + BOX)
    } else {
        below(wiring, &row, &grid, box_top)
    };
    Layout { width, foot, display, pins, runs, boxes, nets }
}

/// Every pin of the display in its column.
fn stands(wiring: &Wiring, package: Option<&Package>, row: &[Chip]) -> Vec<Stand> {
    let Some(package) = package else {
        // Its pins stand as those of the chips do, what leads to none of them after that.
        let mut free = chips::columns(row).max(0.0);
        let each = wiring.display.iter().enumerate().map(|(connection, wire)| {
            let column = output_column(row, connection).unwrap_or_else(|| {
                free += 1.0;
                free - 1.0
            });
            let number = wire.package_pins.first().copied().filter(|_| !wire.is_rail);
            Stand { number, connection, column, upper: None }
        });
        return each.collect();
    };
    let upper = package.pins.len() / 2;
    let lower = package.pins.len() - upper;
    let each = wiring
        .display
        .iter()
        .enumerate()
        .flat_map(|(connection, wire)| wire.package_pins.iter().map(move |number| (connection, *number)));
    let mut stands: Vec<_> = each
        .map(|(connection, number)| {
            let stand = |column: f32, upper| Stand { number: Some(number), connection, column, upper };
            if number <= lower {
                return stand((number.saturating_sub(1)) as f32, None);
            }
            // Upper pins run from the right to the left.
            let from_left = upper.saturating_sub(number - lower);
            let from_right = upper.saturating_sub(1 + from_left);
            if from_left < upper.div_ceil(2) {
                stand(-(from_left as f32) - 1.0, Some((from_left as f32, from_left as f32)))
            } else {
                stand((lower + from_right) as f32, Some((from_left as f32, from_right as f32)))
            }
        })
        .collect();
    stands.sort_by_key(|stand| stand.number);
    stands
}

/// The column of the chip's output that a connection leads to.
fn output_column(row: &[Chip], connection: usize) -> Option<f32> {
    row.iter()
        .flat_map(|chip| &chip.above)
        .find(|(_, wire, _)| *wire == connection)
        .map(|(column, ..)| *column)
}

/// Where each connection begins, at the first of its pins, and where it ends.
fn ends(wiring: &Wiring, stands: &[Stand], row: &[Chip], grid: &Grid) -> (Vec<f32>, Vec<f32>) {
    let begin = |index| {
        stands
            .iter()
            .find(|stand| stand.connection == index)
            .map_or(grid.origin, |stand| grid.x(stand.column))
    };
    let begins: Vec<_> = (0..wiring.display.len()).map(begin).collect();
    let end = |index: usize| output_column(row, index).map_or(begins[index], |column| grid.chip_x(column));
    let ends = (0..begins.len()).map(end).collect();
    (begins, ends)
}

/// A track for everything that moves aside, so that no two overlap on one; and how many there are.
fn tracks(spans: &[(f32, f32)]) -> (Vec<Option<usize>>, usize) {
    const APART: f32 = 4.0;
    let mut order: Vec<usize> =
        (0..spans.len()).filter(|index| (spans[*index].0 - spans[*index].1).abs() > 0.1).collect();
    let left = |index: usize| spans[index].0.min(spans[index].1);
    order.sort_by(|a, b| left(*a).total_cmp(&left(*b)));
    // Where each track is free from.
    let mut free: Vec<f32> = Vec::new();
    let mut levels = vec![None; spans.len()];
    for index in order {
        let right = spans[index].0.max(spans[index].1);
        let level = match free.iter().position(|from| *from + APART < left(index)) {
            Some(level) => level,
            None => {
                free.push(0.0);
                free.len() - 1
            }
        };
        free[level] = right;
        levels[index] = Some(level);
    }
    (levels, free.len())
}

/// The pins with their ways: around the display, and to the first pin of the same connection.
fn pins(
    stands: &[Stand],
    begins: &[f32],
    grid: &Grid,
    (top, joints, rails): (f32, f32, f32),
) -> Vec<DisplayPin> {
    let mut is_first = vec![true; begins.len()];
    let mut joint = 0.0;
    let mut pins = Vec::new();
    for Stand { number, connection, column, upper } in stands {
        let down = grid.x(*column);
        let mut path = match upper {
            None => vec![(down, joints)],
            Some((stands_at, far)) => {
                let (x, level) = (grid.x(*stands_at), top - PIN - TRACK * (far + 0.6));
                vec![(x, top - PIN), (x, level), (down, level)]
            }
        };
        let is_joined = !std::mem::replace(&mut is_first[*connection], false);
        if is_joined {
            let level = joints + TRACK * (joint + 0.6);
            joint += 1.0;
            path.extend([(down, level), (begins[*connection], level)]);
        } else {
            path.push((down, rails));
        }
        pins.push(DisplayPin {
            number: *number,
            connection: *connection,
            is_upper: upper.is_some(),
            path,
            is_joined,
        });
    }
    pins
}

/// A power pin of something of which only the purpose is known.
const fn unnamed(is_supply: bool) -> PowerPin {
    PowerPin { pin: String::new(), is_supply }
}

/// The power pins of the controller: its ground, which all share, and the supply where it has the same voltage.
fn controller_power(wiring: &Wiring) -> Vec<PowerPin> {
    let shares = wiring.supply == wiring.logic;
    shares.then(|| unnamed(true)).into_iter().chain([unnamed(false)]).collect()
}

/// A box around these pins, with its title and its power pins.
fn boxed(
    title: String,
    power: Vec<PowerPin>,
    above: Vec<BoxPin>,
    below: Vec<BoxPin>,
    pitch: f32,
    top: f32,
) -> ChipBox {
    let places = || above.iter().chain(&below).map(|pin| pin.x);
    let left = places().fold(f32::MAX, f32::min) - pitch / 2.0;
    let right = places().fold(f32::MIN, f32::max) + pitch / 2.0;
    let wider = ((ChipBox::inside(&title, &power) - (right - left)) / 2.0).max(0.0);
    let (left, right) = (left - wider, right + wider);
    ChipBox { title, power, left, right, top, above, below }
}

/// The chips, the lines below them, and the controller; and where all that ends.
fn below(wiring: &Wiring, row: &[Chip], grid: &Grid, top: f32) -> (Vec<ChipBox>, Vec<Net>, f32) {
    let mut boxes: Vec<_> = row
        .iter()
        .map(|chip| {
            let label = |column: f32, pin: &ChipPin| BoxPin::of_chip(grid.chip_x(column), pin);
            ChipBox {
                title: chip.title.clone(),
                power: chip.power.clone(),
                left: grid.chip_x(chip.first - 0.4),
                right: grid.chip_x(chip.first + chip.columns - 0.6),
                top,
                above: chip.above.iter().map(|(column, _, pin)| label(*column, pin)).collect(),
                below: chip.below.iter().map(|(column, _, pin)| label(*column, pin)).collect(),
            }
        })
        .collect();
    // Half a column beside those of the chips.
    let first = ((chips::columns(row) - wiring.lines.len() as f32) / 2.0).floor() + 0.5;
    let controller: Vec<_> = (0..wiring.lines.len()).map(|line| grid.chip_x(first + line as f32)).collect();
    let meets = |to: To| {
        let pins = row.iter().flat_map(|chip| &chip.below).filter(move |(_, found, _)| *found == to);
        pins.map(|(column, ..)| grid.chip_x(*column)).collect::<Vec<_>>()
    };
    // Of parts that are not chained there are no links.
    let links = (1..row.len()).map(|after| (None, meets(To::Chain(after - 1))));
    let lines = (0..wiring.lines.len()).map(|line| (Some(line), meets(To::Line(line))));
    let all: Vec<_> = lines.chain(links.filter(|(_, pins)| pins.len() > 1)).collect();
    let spans: Vec<_> = all
        .iter()
        .map(|(line, pins)| {
            let places = || pins.iter().copied().chain(line.map(|line| controller[line]));
            (places().fold(f32::MAX, f32::min), places().fold(f32::MIN, f32::max))
        })
        .collect();
    let (levels, used) = tracks(&spans);
    let bus_top = top + BOX + PIN;
    let bus_foot = bus_top + TRACK * used as f32 + 34.0;
    let controller_top = bus_foot + if wiring.converter.is_some() { BOX + 34.0 } else { 0.0 };
    let net = |(place, (line, pins)): (usize, &(Option<usize>, Vec<f32>))| {
        let level = bus_top + TRACK * (levels[place].unwrap_or(0) as f32 + 0.5);
        let mut strokes: Vec<_> = pins.iter().map(|x| vec![(*x, top + BOX), (*x, level)]).collect();
        strokes.extend(line.map(|line| vec![(controller[line], level), (controller[line], bus_foot)]));
        let on = line.filter(|_| wiring.converter.is_some());
        strokes.extend(
            on.map(|line| vec![(controller[line], bus_foot + BOX), (controller[line], controller_top)]),
        );
        let (left, right) = spans[place];
        strokes.push(vec![(left, level), (right, level)]);
        let is_inner = |x: &f32| *x > left + 0.1 && *x < right - 0.1;
        let meets = pins.iter().copied().chain(line.map(|line| controller[line]));
        let dots = meets.filter(is_inner).map(|x| (x, level)).collect();
        let role = line.map_or_else(|| "data".to_owned(), |line| wiring.lines[line].role.clone());
        let role_at = line.map(|line| (controller[line] + 5.0, controller_top - 8.0));
        Net { role, role_at, strokes, dots }
    };
    let nets = all.iter().enumerate().map(net).collect();
    if let Some(converter) = wiring.converter {
        // Each side says its voltage once, at its first line.
        let side = |volts: Volts| {
            let name = |line: usize| if line == 0 { volts.to_string() } else { String::new() };
            controller.iter().enumerate().map(|(line, x)| BoxPin::named(*x, name(line), None)).collect()
        };
        let (from, to) = converter.volts;
        let (title, power) = (converter.to_string(), vec![unnamed(false)]);
        boxes.push(boxed(title, power, side(to), side(from), grid.pitch, bus_foot));
    }
    let pin = |(line, x): (&LineWire, &f32)| BoxPin::named(*x, &line.pin, line.also.as_ref());
    let above = wiring.lines.iter().zip(&controller).map(pin).collect();
    boxes.push(boxed(
        wiring.controller.clone(),
        controller_power(wiring),
        above,
        Vec::new(),
        grid.pitch,
        controller_top,
    ));
    (boxes, nets, controller_top + BOX)
}

#[cfg(test)]
mod tests;
