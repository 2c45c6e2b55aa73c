//! Figures of the part, from its data sheet.

use crate::bus::watch::Limits;
use crate::glyph::Style;
use crate::units::{Hertz, Milliamps, Nanos, Ohms, Volts};

/// Digit lines, and so digits, of one part.
pub const DIGITS: usize = 8;
/// Segment lines of one part.
pub const SEGMENTS: usize = 8;
/// Nodes of one part: node `64 p + 8 d + b` is data bit `b` of digit line `d` of part `p`, part 0 being the
/// one that the controller feeds.
pub const NODES: usize = DIGITS * SEGMENTS;
/// The highest step of the intensity register.
pub const MAX_INTENSITY: u8 = 15;
/// The fastest clock (f_CLK).
pub const MAX_CLOCK: Hertz = Hertz(10_000_000);
/// The lowest input voltage that is surely a high at a 5 V supply (V_IH).
pub const INPUT_HIGH: Volts = Volts(3.5);
/// The lowest and the highest supply (V+).
pub const SUPPLY: (Volts, Volts) = (Volts(4.0), Volts(5.5));
/// The most current of a segment where 1, 2 or 3 digits are scanned (data sheet, selecting RSET): with more digits each has a
/// smaller share of the time.
const FEW_DIGITS: [Milliamps; 3] = [Milliamps(10.0), Milliamps(20.0), Milliamps(30.0)];

/// The most current of a segment where so few digits are scanned; `None` where their number does not limit it.
#[must_use]
pub fn most_current(scanned: usize) -> Option<Milliamps> {
    FEW_DIGITS.get(scanned.checked_sub(1)?).copied()
}
/// The segments on data bits 7 to 0, undecoded.
pub const BIT_ORDER: &str = "dp a b c d e f g";
/// The most parts in a chain: a transfer to all of them still fits a frame of a moving picture.
pub const MAX_CHAIN: usize = 64;
/// The most digit lines that one character takes.
pub const MAX_LINES: usize = 2;

/// The segments of a character on its data bits where the rig does not say: for seven segments the data
/// sheet's; for more, two digit lines together have 16 bits, the even line the lower eight. There is no data
/// sheet for that: ours runs upwards, and sixteen segments leave no bit for the point.
#[must_use]
pub const fn bit_order(style: Style) -> &'static str {
    match style {
        Style::Seven => BIT_ORDER,
        Style::Fourteen => "- dp m l k j i h g2 g1 f e d c b a",
        Style::Sixteen => "m l k j i h g2 g1 f e d2 d1 c b a2 a1",
    }
}

/// The limits of the serial input (f_CLK, t_DS, t_DH).
pub const LIMITS: Limits = Limits { clock: MAX_CLOCK, setup: Nanos(25), hold: Nanos(0) };

/// The least RSET: it gives a segment 40 mA (data sheet, selecting RSET).
pub const MIN_RSET: Ohms = Ohms(9_530.0);
/// The RSET where the rig does not say: what most modules carry.
pub const USUAL_RSET: f64 = 10_000.0;
/// The lowest segment current of the data sheet's table.
pub const MIN_TABLED: Milliamps = Milliamps(10.0);
/// The current of a part without lights (I+, all segments off).
pub const OWN_CURRENT: Milliamps = Milliamps(8.0);

/// RSET in kilohms for a segment current, by the forward voltage of the lights (data sheet, RSET table).
const RSET_VOLTS: [f64; 5] = [1.5, 2.0, 2.5, 3.0, 3.5];
const RSET: [(f64, [f64; 5]); 4] = [
    (40.0, [12.2, 11.8, 11.0, 10.6, 9.69]),
    (30.0, [17.8, 17.1, 15.8, 15.0, 14.0]),
    (20.0, [29.8, 28.0, 25.9, 24.5, 22.6]),
    (10.0, [66.7, 63.7, 59.3, 55.4, 51.2]),
];

/// Each current of the table with its RSET at a forward voltage, between the columns on a straight line.
fn rset_column(forward: Volts) -> [(f64, f64); 4] {
    let volts = forward.0.clamp(RSET_VOLTS[0], RSET_VOLTS[4]);
    let column = RSET_VOLTS.iter().rposition(|known| *known <= volts).unwrap_or(0).min(3);
    let share = (volts - RSET_VOLTS[column]) / 0.5;
    RSET.map(|(current, row)| (current, row[column] + (row[column + 1] - row[column]) * share))
}

/// The two rows of the table that are nearest around a value, and their line in logarithms: current falls about as the
/// inverse of RSET.
fn between(
    rows: [(f64, f64); 4],
    x: impl Fn(&(f64, f64)) -> f64,
    y: impl Fn(&(f64, f64)) -> f64,
    at: f64,
) -> f64 {
    let above = rows.windows(2).find(|pair| (x(&pair[0]) - at) * (x(&pair[1]) - at) <= 0.0);
    let pair = above.map_or_else(
        || {
            if (x(&rows[0]) - at).abs() < (x(&rows[3]) - at).abs() {
                [rows[0], rows[1]]
            } else {
                [rows[2], rows[3]]
            }
        },
        |pair| [pair[0], pair[1]],
    );
    let (x0, x1, y0, y1) = (x(&pair[0]).ln(), x(&pair[1]).ln(), y(&pair[0]).ln(), y(&pair[1]).ln());
    (y0 + (y1 - y0) * (at.ln() - x0) / (x1 - x0)).exp()
}

/// The RSET for a segment current.
#[must_use]
pub fn rset_for(current: Milliamps, forward: Volts) -> Ohms {
    Ohms(1e3 * between(rset_column(forward), |row| row.0, |row| row.1, current.0))
}

/// The segment current that an RSET gives.
#[must_use]
pub fn current_of(rset: Ohms, forward: Volts) -> Milliamps {
    Milliamps(between(rset_column(forward), |row| row.1, |row| row.0, rset.0.max(1.0) / 1e3))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rset_by_the_table_and_between() {
        assert!((rset_for(Milliamps(20.0), Volts(2.0)).0 - 28_000.0).abs() < 1.0);
        assert!((current_of(Ohms(17_100.0), Volts(2.0)).0 - 30.0).abs() < 0.01);
        let between = current_of(Ohms(22_000.0), Volts(1.9)).0;
        assert!(between > 20.0 && between < 30.0, "{between}");
        assert!(rset_for(Milliamps(5.0), Volts(9.0)).0 > 51_200.0);
    }
}
