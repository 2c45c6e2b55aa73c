//! What is sent, as a template reads it: transfers that are alike are taken together.

use super::model::{BusModel, Piece, Run, StepModel};
use super::sending::{Carried, Cell, Sending, Step};
use spare_tile_core::bus::Transfer;
use spare_tile_core::plan::teller::Teller;

pub(super) fn step_model(step: &Step, bus: &BusModel, teller: &Teller<'_>) -> StepModel {
    let byte = |cell: &Cell| if let Cell::Fixed(byte) = cell { *byte } else { 0 };
    let bytes: Vec<_> = step.cells.iter().map(byte).collect();
    let (address, mask) = match &step.carried {
        Carried::To(address) => (Some(*address), None),
        Carried::Levels(mask) => (None, Some(mask.clone())),
        Carried::Bytes | Carried::OutputsOff => (None, None),
    };
    let transfer = match (&step.carried, bus.kind) {
        (Carried::To(address), _) => Transfer::I2c { address: *address, bytes: &bytes, reads: 0 },
        (Carried::OutputsOff, _) => Transfer::OutputsOff,
        (Carried::Levels(mask), _) => Transfer::Ports { mask, levels: &bytes },
        (Carried::Bytes, "two_wire") => Transfer::TwoWire { bytes: &bytes, reads: 0 },
        (Carried::Bytes, "strobe") => Transfer::Strobe { bytes: &bytes, reads: 0 },
        (Carried::Bytes, "shift") => Transfer::Shift { bytes: &bytes },
        (Carried::Bytes, _) => Transfer::Spi { bytes: &bytes },
    };
    let words = teller.of_transfer(&transfer);
    StepModel { address, mask, outputs_off: step.carried == Carried::OutputsOff, words, bytes: bytes.clone() }
}

/// The transfers of a picture, where they are alike taken together.
pub(super) fn pieces(sending: &Sending, told: &dyn Fn(&Step) -> StepModel) -> Vec<Piece> {
    if let Some(registers) = registers(&sending.frame) {
        return vec![registers];
    }
    let piece = |step: &Step| {
        if let Carried::Levels(mask) = &step.carried {
            let fixed = step.cells.iter().map(|cell| if let Cell::Fixed(byte) = cell { *byte } else { 0 });
            let image =
                step.cells.iter().map(|cell| if let Cell::Image(place) = cell { Some(*place) } else { None });
            return Piece::Levels { mask: mask.clone(), fixed: fixed.collect(), image: image.collect() };
        }
        if !step.has_image() {
            return Piece::Fixed { step: told(step) };
        }
        let address = if let Carried::To(address) = step.carried { Some(address) } else { None };
        Piece::Transfer { address, runs: runs(&step.cells) }
    };
    sending.frame.iter().map(piece).collect()
}

/// Bytes in runs.
fn runs(cells: &[Cell]) -> Vec<Run> {
    let mut runs = Vec::new();
    for cell in cells {
        match (*cell, runs.last_mut()) {
            (Cell::Fixed(byte), Some(Run::Fixed { bytes })) => bytes.push(byte),
            (Cell::Fixed(byte), _) => runs.push(Run::Fixed { bytes: vec![byte] }),
            (Cell::Image(place), Some(Run::Image { from, count })) if *from + *count == place => *count += 1,
            (Cell::Image(place), _) => runs.push(Run::Image { from: place, count: 1 }),
        }
    }
    runs
}

/// Transfers of pairs, a register that counts up from one to the next and a byte of the image.
fn registers(steps: &[Step]) -> Option<Piece> {
    let of_step = |step: &Step| -> Option<(u8, usize, usize, usize, usize)> {
        if step.carried != Carried::Bytes || !step.cells.len().is_multiple_of(2) {
            return None;
        }
        let pairs: Vec<_> = step.cells.chunks(2).collect();
        let is_own = |pair: &&[Cell]| matches!(pair, [Cell::Fixed(_), Cell::Image(_)]);
        let before = pairs.iter().take_while(|pair| !is_own(pair)).count();
        let own: Vec<_> = pairs[before..].iter().take_while(|pair| is_own(pair)).collect();
        let after = pairs.len() - before - own.len();
        let nothing = [Cell::Fixed(0), Cell::Fixed(0)];
        let others = pairs[..before].iter().chain(&pairs[before + own.len()..]);
        if others.into_iter().any(|pair| **pair != nothing) {
            return None;
        }
        let [Cell::Fixed(register), Cell::Image(from)] = own.first()? else { return None };
        let follows = |(part, pair): (usize, &&&[Cell])| matches!(pair, [Cell::Fixed(other), Cell::Image(place)] if other == register && *place == from + part);
        own.iter().enumerate().all(follows).then_some((*register, *from, own.len(), before, after))
    };
    let all: Vec<_> = steps.iter().map(of_step).collect::<Option<_>>()?;
    let (first, from, parts, before, after) = *all.first()?;
    let follows = |(number, step): (usize, &(u8, usize, usize, usize, usize))| {
        usize::from(step.0) == usize::from(first) + number
            && step.1 == from + number * parts
            && (step.2, step.3, step.4) == (parts, before, after)
    };
    let is_run = all.iter().enumerate().all(follows);
    is_run.then_some(Piece::Registers { first, count: all.len(), parts, before, after, from })
}
