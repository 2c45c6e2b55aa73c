//! What a chain of colour panels sends, learnt from its scanner: which bit of which column of which row is which light.
//!
//! Lights are told apart by pictures in which those are lit whose number has a bit, one picture for each bit, so that a dozen turns tell
//! all of them. A program keeps what the scanner shifts in, piece by piece, and lights each row between two shifts instead of during the
//! next: so it needs no clock that goes on while it does something else.

use super::sending::{Carried, Cell, Place, Scan, Sending, Step, Unlearnt, fixed, steps};
use spare_tile_core::bus::panel::{ADDRESS, Controls};
use spare_tile_core::bus::{Ops, Role, Transfer};
use spare_tile_core::driver::Driver;
use spare_tile_core::face::Element;
use spare_tile_core::frame::Level;
use spare_tile_core::part::Display;
use spare_tile_core::part::rgb_panel::Plan;
use spare_tile_core::plan::Mount;
use spare_tile_core::units::Nanos;

/// The data lines of a connector.
const LINES: usize = 6;

/// To set the lines beside clock and data, and to enter an interrupt.
const LATCHING: Nanos = Nanos(2_000);

/// A shorter piece is lost between two interrupts.
pub(super) const SHORTEST: Nanos = Nanos(500);

/// What the first piece of each row shifts in for a picture, row by row, in the order of the rows' addresses.
fn rows(plan: &Plan, nodes: &[Level], controls: Controls) -> Option<Vec<Vec<u8>>> {
    let mut driver = plan.driver();
    let mut ops = Ops::default();
    driver.power_up(&mut ops);
    driver.frame(nodes, &mut ops);
    let mut shifted = next_row(&mut *driver, &mut ops)?.0;
    let mut rows = Vec::new();
    for slot in 0..plan.times.addresses * usize::from(plan.times.depth) {
        let (following, levels) = next_row(&mut *driver, &mut ops)?;
        let (_, _, address) = controls.read(levels);
        if usize::from(address) != slot / usize::from(plan.times.depth) {
            return None;
        }
        if slot.is_multiple_of(usize::from(plan.times.depth)) {
            rows.push(std::mem::take(&mut shifted));
        }
        shifted = following;
    }
    Some(rows)
}

/// The columns that a slot of the scanner shifts in, and the levels of its other lines while it latches.
fn next_row(driver: &mut dyn Driver, ops: &mut Ops) -> Option<(Vec<u8>, u8)> {
    ops.clear();
    driver.slot(ops)?;
    let bursts = ops.iter().filter_map(|op| match op.transfer {
        Transfer::Burst { columns } => Some(columns.to_vec()),
        _ => None,
    });
    let levels = ops.iter().filter_map(|op| match op.transfer {
        Transfer::Ports { levels, .. } => levels.first().copied(),
        _ => None,
    });
    Some((bursts.last()?, levels.last().unwrap_or_default()))
}

/// Where each node is in the image, whose rows are `row` bytes long.
fn homes(mount: &Mount, plan: &Plan, row: usize) -> Option<Vec<Option<Place>>> {
    let (count, width) = (mount.wiring.node_count(), plan.times.columns);
    let controls = Controls { address_lines: mount.lines.len() - ADDRESS - LINES };
    // The number of each node, from 1 on, bit by bit; 0 of what is no light.
    let mut numbers = vec![0_usize; plan.times.addresses * width * LINES];
    for bit in 0..usize::BITS - count.leading_zeros() {
        let nodes: Vec<_> =
            (1..=count).map(|node| if node >> bit & 1 == 1 { Level::FULL } else { Level::OFF }).collect();
        for (number, column) in numbers.chunks_exact_mut(LINES).zip(rows(plan, &nodes, controls)?.concat()) {
            for (line, number) in number.iter_mut().enumerate() {
                *number |= usize::from(column >> line & 1) << bit;
            }
        }
    }
    let mut homes = vec![None; count];
    for (at, number) in numbers.into_iter().enumerate().filter(|(_, number)| *number > 0) {
        let (column, line) = (at / LINES, at % LINES);
        let byte = column / width * row + column % width;
        *homes.get_mut(number - 1)? = Some(Place { byte, bit: line as u8, lit: true, in_all: false });
    }
    Some(homes)
}

/// A chain of colour panels.
pub(super) fn of_panel(mount: &Mount, plan: &Plan, has_greys: bool) -> Result<Sending, Unlearnt> {
    let (times, turn) = (plan.times, plan.times.turn());
    let (slots, width) = (times.addresses, times.columns);
    // Where only full colours are shown one piece does, for as long as all of them.
    let depth = if has_greys { times.depth } else { 1 };
    // A quarter more than the clock says, for what a controller does between two columns.
    let shift = Nanos(times.period().0 * width as u64 * 5 / 4 + times.blanking.0 + LATCHING.0);
    let pieces = u64::from(depth);
    let bright = (turn.0 / slots as u64).checked_sub(shift.0 * pieces).ok_or(Unlearnt::Slow)?;
    // At a lower brightness step it is dark for longer before each piece.
    let dim = |step: u8| {
        let lit = (bright as f64 * f64::from(plan.step_light(step))) as u64;
        (Nanos(shift.0 + (bright - lit) / pieces), Nanos(lit / ((1 << depth) - 1)))
    };
    let (blanking, unit) = dim(plan.brightness);
    if unit < SHORTEST {
        return Err(Unlearnt::Slow);
    }
    let row = usize::from(depth) * width;
    let homes = homes(mount, plan, row).ok_or(Unlearnt::Panel)?;
    let place = |element| homes.get(mount.wiring.node(Element(element))?.0).copied().flatten();
    let places = (0..mount.face.element_count()).map(place).collect();
    let mut power_up = Ops::default();
    mount.drive.display().driver().power_up(&mut power_up);
    // What ends the dark is the output enable alone.
    let enable = Carried::Levels(vec![Controls { address_lines: 0 }.levels(false, true, 0)]);
    let frame = vec![Step { role: Role::Frame, carried: enable, cells: vec![Cell::Fixed(0)] }];
    let scan = Scan {
        slots,
        width,
        turn,
        blanking,
        blank: Vec::new(),
        depth,
        unit,
        steps: steps(depth, plan.gamma),
        dims: (0..=plan.max_brightness().unwrap_or(0)).map(dim).collect(),
        dimmed: plan.brightness,
    };
    Ok(Sending {
        power_up: fixed(&power_up),
        resend: frame.clone(),
        frame,
        brightness: Vec::new(),
        scan: Some(scan),
        dark: vec![0; slots * row],
        places,
    })
}
