//! What a chain of colour panels sends, learnt from its scanner: which bit of which column of which row is which light.
//!
//! Lights are told apart by pictures in which those are lit whose number has a bit, one picture for each bit, so that a dozen turns tell
//! all of them. A program keeps what the scanner shifts in, piece by piece, and lights each row between two shifts instead of during the
//! next: so it needs no clock that goes on while it does something else.

use super::sending::{Carried, Cell, Place, Scan, Sending, Step, Unlearnt, fixed};
use crate::bus::panel::Controls;
use crate::bus::{Ops, Role, Transfer};
use crate::driver::Driver;
use crate::face::Element;
use crate::frame::Level;
use crate::part::rgb_panel::Plan;
use crate::plan::Mount;
use crate::units::Nanos;

/// What the first piece of each row shifts in for a picture, row by row, in the order of the rows' addresses.
fn rows(plan: &Plan, nodes: &[Level], controls: Controls) -> Option<Vec<Vec<u8>>> {
    let display: &dyn crate::part::Display = plan;
    let mut driver = display.driver();
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

/// A chain of colour panels.
pub(super) fn of_panel(mount: &Mount, plan: &Plan, has_greys: bool) -> Result<Sending, Unlearnt> {
    let times = plan.times;
    let count = mount.wiring.node_count();
    let controls = Controls { address_lines: mount.lines.len() - crate::bus::panel::ADDRESS - LINES };
    let width = times.columns;
    // Where only full colours are shown one piece does, for as long as all of them.
    let depth = if has_greys { times.depth } else { 1 };
    let turn = times.turn();
    // A quarter more than the clock says, for what a controller does between two columns.
    let shift = Nanos(times.period().0 * width as u64 * 5 / 4 + times.blanking.0 + LATCHING.0);
    let lit = (turn.0 / times.addresses as u64).checked_sub(shift.0 * u64::from(depth));
    let unit = lit.map(|lit| Nanos(lit / ((1 << depth) - 1))).filter(|unit| *unit >= SHORTEST);
    let unit = unit.ok_or(Unlearnt::Slow)?;
    // The number of each node, from 1 on, bit by bit; 0 of what is no light.
    let mut numbers = vec![0_usize; times.addresses * width * LINES];
    for bit in 0..usize::BITS - count.leading_zeros() {
        let nodes: Vec<_> =
            (1..=count).map(|node| if node >> bit & 1 == 1 { Level::FULL } else { Level::OFF }).collect();
        let rows = rows(plan, &nodes, controls).ok_or(Unlearnt::Panel)?;
        for (number, column) in numbers.chunks_exact_mut(LINES).zip(rows.concat()) {
            for (line, number) in number.iter_mut().enumerate() {
                *number |= usize::from(column >> line & 1) << bit;
            }
        }
    }
    let mut homes = vec![None; count];
    for (at, number) in numbers.into_iter().enumerate().filter(|(_, number)| *number > 0) {
        let (column, line) = (at / LINES, at % LINES);
        let (row, column) = (column / width, column % width);
        let byte = row * usize::from(depth) * width + column;
        let place = Place { byte, bit: line as u8, lit: true, in_all: false };
        *homes.get_mut(number - 1).ok_or(Unlearnt::Panel)? = Some(place);
    }
    let place = |element| homes.get(mount.wiring.node(Element(element))?.0).copied().flatten();
    let places = (0..mount.face.element_count()).map(place).collect();
    let mut power_up = Ops::default();
    mount.drive.display().driver().power_up(&mut power_up);
    // What ends the dark is the output enable alone.
    let enable = controls.levels(false, true, 0);
    let frame =
        vec![Step { role: Role::Frame, carried: Carried::Levels(vec![enable]), cells: vec![Cell::Fixed(0)] }];
    let steps = if depth > 1 {
        Level::steps(depth, plan.gamma).to_vec()
    } else {
        (0..=u8::MAX).map(|level| u8::from(level > 0)).collect()
    };
    Ok(Sending {
        power_up: fixed(&power_up),
        resend: frame.clone(),
        frame,
        brightness: Vec::new(),
        scan: Some(Scan {
            slots: times.addresses,
            width,
            turn,
            blanking: shift,
            blank: Vec::new(),
            depth,
            unit,
            steps,
        }),
        dark: vec![0; times.addresses * usize::from(depth) * width],
        places,
    })
}

/// To set the lines beside clock and data, and to enter an interrupt.
const LATCHING: Nanos = Nanos(2_000);

/// A shorter piece is lost between two interrupts.
const SHORTEST: Nanos = Nanos(500);

/// The data lines of a connector.
const LINES: usize = 6;
