//! The chips between the display and the controller: which pins each has above and below, and in which columns.

use spare_tile_core::part::ChipPin;
use spare_tile_core::plan::wires::{PowerPin, Wiring};

/// The most chips of a chain that are drawn; the rest is one box.
const MOST: usize = 4;
/// Columns between two chips.
const GAP: f32 = 1.0;

/// The connection of a lower pin of a chip.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum To {
    /// A line to the controller.
    Line(usize),
    /// The chip with this number before it, or after it, in the chain.
    Chain(usize),
}

/// A chip in the row.
pub struct Chip {
    pub title: String,
    /// Its pins at the supply and at ground.
    pub power: Vec<PowerPin>,
    /// Its first column, and how many it takes.
    pub first: f32,
    pub columns: f32,
    /// The outputs: the column, which connection of the display goes there, and the pin.
    pub above: Vec<(f32, usize, ChipPin)>,
    /// The inputs: the column, where it goes, and the pin.
    pub below: Vec<(f32, To, ChipPin)>,
}

/// The chips from left to right. `room` is how many columns the title and the power pins of a chip take.
pub fn row(wiring: &Wiring, room: impl Fn(&str, &[PowerPin]) -> usize) -> Vec<Chip> {
    let mut first = 0.0;
    let (order, titles) = order(wiring);
    let drawn = order.len();
    let mut row = Vec::new();
    for (index, title) in order.into_iter().zip(titles) {
        let outputs = wiring.display.iter().enumerate().filter_map(|(connection, wire)| {
            wire.at.filter(|at| at.chip == index).map(|at| (connection, at.pin))
        });
        let outputs: Vec<_> = outputs.collect();
        let inputs = inputs(wiring, index, drawn);
        let power = wiring.power.get(index).cloned().unwrap_or_default();
        let columns = outputs.len().max(inputs.len()).max(room(&title, &power)) as f32;
        let centred = |count: usize| first + ((columns - count as f32) / 2.0).floor();
        let (above, below) = (centred(outputs.len()), centred(inputs.len()));
        row.push(Chip {
            title,
            power,
            first,
            columns,
            above: (0_u16..)
                .zip(&outputs)
                .map(|(at, (wire, pin))| (above + f32::from(at), *wire, *pin))
                .collect(),
            below: (0_u16..).zip(&inputs).map(|(at, (to, pin))| (below + f32::from(at), *to, *pin)).collect(),
        });
        first += columns + GAP;
    }
    row
}

/// How many columns they take with what is between them.
pub fn columns(row: &[Chip]) -> f32 {
    row.last().map_or(0.0, |chip| chip.first + chip.columns)
}

/// The numbers of the chips that are drawn, and what is written on each: those with outputs as their first one comes in the
/// display, others as they are chained.
fn order(wiring: &Wiring) -> (Vec<usize>, Vec<String>) {
    let count = wiring.chips.len();
    if wiring.display.is_empty() {
        let drawn = count.min(MOST);
        let mut titles = wiring.chips[..drawn].to_vec();
        if count > MOST {
            titles[MOST - 1] = format!("{} more, each like these", count - MOST + 1);
        }
        return ((0..drawn).collect(), titles);
    }
    let appears = |chip: &usize| {
        let of_chip = |at: spare_tile_core::plan::wires::At| at.chip == *chip;
        wiring.display.iter().position(|wire| wire.at.is_some_and(of_chip)).unwrap_or(usize::MAX)
    };
    let mut order: Vec<_> = (0..count).collect();
    order.sort_by_key(appears);
    let titles = order.iter().map(|chip| wiring.chips[*chip].clone()).collect();
    (order, titles)
}

/// The lower pins of a chip, of so many that are drawn: from the one before it in the chain, the lines, and to the one
/// after.
fn inputs(wiring: &Wiring, chip: usize, drawn: usize) -> Vec<(To, ChipPin)> {
    let lines = wiring.lines.iter().enumerate().flat_map(|(line, wire)| {
        let here = wire.at.iter().filter(move |at| at.chip == chip);
        here.map(move |at| (To::Line(line), at.pin))
    });
    let from = wiring.chained.filter(|_| chip > 0).map(|(_, pin)| (To::Chain(chip - 1), pin));
    let on = wiring.chained.filter(|_| chip + 1 < drawn).map(|(pin, _)| (To::Chain(chip), pin));
    from.into_iter().chain(lines).chain(on).collect()
}
