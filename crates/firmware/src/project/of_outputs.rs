//! What a bare display sends behind whatever has its outputs, learnt from the writer of those: each output alone changes a bit, and a
//! light is a bit of the slot in which it is selected.

use std::collections::BTreeMap;

use super::sending::{Carried, Cell, Place, Scan, Sending, Step, carried, fixed, set, steps};
use spare_tile_core::bus::{Ops, Role};
use spare_tile_core::driver::Writer;
use spare_tile_core::face::Element;
use spare_tile_core::part::Bare;
use spare_tile_core::plan::Mount;
use spare_tile_core::units::Nanos;

/// A writer that knows nothing of what its outputs are.
fn fresh(bare: &Bare) -> Box<dyn Writer> {
    bare.outputs.outputs().writer(!bare.circuit.line_switch.active)
}

/// What darkens the outputs.
fn blanked(bare: &Bare) -> Ops {
    let mut ops = Ops::default();
    fresh(bare).blank(&bare.circuit.rest(), &mut ops);
    ops
}

/// Everything that brings outputs to these levels, whatever they were before: a writer leaves out what is there already.
fn written(bare: &Bare, levels: &[bool]) -> Ops {
    let (mut straight, mut after_blank) = (Ops::default(), Ops::default());
    fresh(bare).write(Role::Frame, levels, &mut straight);
    let mut writer = fresh(bare);
    writer.blank(&bare.circuit.rest(), &mut after_blank);
    after_blank.clear();
    writer.write(Role::Frame, levels, &mut after_blank);
    if after_blank.len() > straight.len() { after_blank } else { straight }
}

/// A bare display behind outputs.
pub(super) fn of_outputs(mount: &Mount, bare: &Bare, has_greys: bool) -> Sending {
    let circuit = &bare.circuit;
    let rest = circuit.rest();
    let dark = written(bare, &rest);
    // Which output is each bit of each transfer; several transfers may carry the same one.
    let mut bits: BTreeMap<(usize, usize, u8), usize> = BTreeMap::new();
    for output in 0..rest.len() {
        let mut levels = rest.clone();
        levels[output] = !levels[output];
        let flipped = written(bare, &levels);
        for (number, (dark, lit)) in dark.iter().zip(flipped.iter()).enumerate() {
            for (byte, (dark, lit)) in dark.transfer.bytes().iter().zip(lit.transfer.bytes()).enumerate() {
                let changed = dark ^ lit;
                bits.extend(
                    (0..8).filter(|bit| changed >> bit & 1 == 1).map(|bit| ((number, byte, bit), output)),
                );
            }
        }
    }
    let mut numbers: BTreeMap<Vec<Option<(usize, u8)>>, usize> = BTreeMap::new();
    let mut first_dark = Vec::new();
    let mut homes: BTreeMap<usize, (usize, u8)> = BTreeMap::new();
    let mut frame = Vec::new();
    for (number, op) in dark.iter().enumerate() {
        let mut carried = carried(&op.transfer);
        let output = |byte: usize, bit: u8| bits.get(&(number, byte, bit)).copied();
        let of_outputs = |byte: usize| {
            (0..8).filter(|bit| output(byte, *bit).is_some()).fold(0, |mask, bit| mask | 1 << bit)
        };
        if let Carried::Levels(mask) = &mut carried {
            if number > 0 {
                changing(&dark, number, &bits, mask);
            }
            // Lines that are no outputs, such as those of a latch, are set apart from those that are.
            let own: Vec<u8> = mask.iter().enumerate().map(|(byte, mask)| mask & !of_outputs(byte)).collect();
            mask.iter_mut().zip(&own).for_each(|(mask, own)| *mask &= !own);
            let cells = op.transfer.bytes().iter().map(|byte| Cell::Fixed(*byte)).collect();
            frame.push(Step { role: Role::Frame, carried: Carried::Levels(own), cells });
        }
        let cells = op.transfer.bytes().iter().enumerate().map(|(byte, value)| {
            // Bytes that carry the same outputs on the same bits are one byte of the image.
            let outputs: Vec<_> = (0..8).map(|bit| output(byte, bit).map(|output| (output, bit))).collect();
            let (is_sent, own) = match &carried {
                Carried::Levels(mask) => (mask[byte] != 0, of_outputs(byte)),
                _ => (true, u8::MAX),
            };
            if outputs.iter().all(Option::is_none) || !is_sent {
                return Cell::Fixed(*value);
            }
            let place = *numbers.entry(outputs.clone()).or_insert_with(|| {
                first_dark.push(value & own);
                first_dark.len() - 1
            });
            for (output, bit) in outputs.into_iter().flatten() {
                homes.entry(output).or_insert((place, bit));
            }
            Cell::Image(place)
        });
        frame.push(Step { role: Role::Frame, cells: cells.collect(), carried });
    }
    frame.retain(|step| !step.changes_nothing());
    let (width, slots) = (first_dark.len(), circuit.selects.len().max(1));
    let depth = circuit.timing.filter(|_| has_greys).map_or(1, |timing| timing.depth);
    let mut image = Vec::new();
    for slot in 0..slots {
        let mut of_piece = first_dark.clone();
        if let Some((place, bit)) = circuit.selects.get(slot).and_then(|select| homes.get(select)) {
            set(&mut of_piece[*place], *bit, circuit.select_switch.active);
        }
        (0..depth).for_each(|_| image.extend(&of_piece));
    }
    let places = (0..mount.face.element_count()).map(|element| {
        let node = mount.wiring.node(Element(element))?;
        let light = circuit.lights.get(node.0)?;
        let (place, bit) = *homes.get(&light.line?)?;
        let byte = light.select.unwrap_or(0) * usize::from(depth) * width + place;
        Some(Place { byte, bit, lit: light.active, in_all: light.select.is_none() && slots > 1 })
    });
    let places = places.collect();
    let mut driver = mount.drive.display().driver();
    let mut power_up = Ops::default();
    driver.power_up(&mut power_up);
    let scan = circuit.timing.map(|timing| Scan {
        slots,
        width,
        turn: timing.turn(),
        blanking: timing.blanking,
        blank: if timing.blanking.0 > 0 { reduced(fixed(&blanked(bare))) } else { Vec::new() },
        depth,
        unit: Nanos((timing.slot().0 - timing.blanking.0 * u64::from(depth)) / ((1 << depth) - 1)),
        steps: steps(depth, circuit.gamma),
        dims: Vec::new(),
        dimmed: 0,
    });
    Sending {
        power_up: reduced(fixed(&power_up)),
        resend: frame.clone(),
        frame,
        brightness: Vec::new(),
        scan,
        dark: image,
        places,
    }
}

/// Writes of pins that are always the same, without what the one before has set already.
fn reduced(mut steps: Vec<Step>) -> Vec<Step> {
    let mut held: Option<Vec<Cell>> = None;
    for step in &mut steps {
        let Carried::Levels(mask) = &mut step.carried else { return steps };
        if let Some(held) = &held {
            for ((mask, before), now) in mask.iter_mut().zip(held).zip(&step.cells) {
                if let (Cell::Fixed(before), Cell::Fixed(now)) = (before, now) {
                    *mask &= before ^ now;
                }
            }
        }
        held = Some(step.cells.clone());
    }
    steps.retain(|step| !step.changes_nothing());
    steps
}

/// Leaves in the mask of a write of pins only those that it may change: the others stand from the write before.
fn changing(ops: &Ops, number: usize, bits: &BTreeMap<(usize, usize, u8), usize>, mask: &mut [u8]) {
    let (Some(before), Some(now)) = (ops.get(number - 1), ops.get(number)) else { return };
    let levels = before.transfer.bytes().iter().zip(now.transfer.bytes());
    for ((byte, mask), (before, now)) in mask.iter_mut().enumerate().zip(levels) {
        let stays = |bit: &u8| {
            let (earlier, later) = (bits.get(&(number - 1, byte, *bit)), bits.get(&(number, byte, *bit)));
            earlier == later && before >> bit & 1 == now >> bit & 1
        };
        *mask &= (0..8).filter(|bit| !stays(bit)).fold(0, |changing, bit| changing | 1 << bit);
    }
}
