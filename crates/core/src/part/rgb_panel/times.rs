//! When a panel's rows are lit: binary code modulation.
//!
//! ```text
//!  slot of plane p   | gap | data of the next slot is shifted in ...      |
//!  output enable     ''''''\______________________/'''''''''''''''''''''''
//!                          |<- unit x 2^p clocks ->|
//! ```
//!
//! A row has a slot for each bit of the colour depth, in which it is lit for twice as long as in the one before. In the gap
//! all is dark: the row takes its data, and the address changes. The data of a slot are shifted in during the one before,
//! so that a slot is never shorter than that takes.

use super::facts;
use crate::units::{Hertz, Nanos};

/// The times of a scan.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Times {
    /// How many addresses have their turn one after another.
    pub addresses: usize,
    /// How many columns are shifted for each.
    pub columns: usize,
    /// How many planes there are, one for each bit of a colour, from 1 to 8.
    pub depth: u8,
    /// For how many clocks the least plane is lit, at least 1.
    pub unit: u32,
    /// The clock.
    pub clock: Hertz,
    /// How long all is to be dark at the beginning of a slot.
    pub blanking: Nanos,
    /// How much longer it is dark there, so that a turn takes just as long as wanted.
    pub spare: Nanos,
}

impl Times {
    /// The times with the longest unit at which the scan still comes round so often, and what is left of the time spread over
    /// the slots; the shortest unit where none is short enough.
    #[must_use]
    pub fn refreshed(self, wanted: Hertz) -> Self {
        let turn = Nanos(1_000_000_000 / u64::from(wanted.0.max(1)));
        let with = |unit: u32| Self { unit, spare: Nanos(0), ..self };
        let reaches = |unit: u32| with(unit).turn() <= turn;
        // Up by doubling, then by halves between: a turn only gets longer with the unit.
        let mut least = 1;
        while least < 1 << 24 && reaches(2 * least) {
            least *= 2;
        }
        let mut step = least;
        while step > 0 {
            if reaches(least + step) {
                least += step;
            }
            step /= 2;
        }
        let times = with(least);
        let slots = self.addresses as u64 * u64::from(self.depth);
        Self { spare: Nanos((turn - times.turn()).0 / slots.max(1)), ..times }
    }

    /// A clock.
    #[must_use]
    pub const fn period(&self) -> Nanos {
        Nanos(2 * self.clock.half_period().0)
    }

    /// For how many clocks a plane is lit at the highest brightness.
    #[must_use]
    pub const fn lit(&self, plane: u8) -> u64 {
        (self.unit as u64) << plane
    }

    /// The same at a brightness step, to the nearest clock.
    #[must_use]
    pub const fn lit_at(&self, plane: u8, brightness: u8) -> u64 {
        let sixteenths = brightness as u64 + 1;
        (self.lit(plane) * sixteenths + 8) / 16
    }

    /// How long all is dark at the beginning of a slot: at least as long as it takes to set the lines three times.
    #[must_use]
    pub fn gap(&self) -> Nanos {
        self.blanking.max(Nanos(3 * self.clock.half_period().0)) + self.spare
    }

    /// How long the slot of a plane is.
    #[must_use]
    pub fn slot(&self, plane: u8) -> Nanos {
        self.gap() + Nanos(self.period().0 * self.lit(plane).max(self.columns as u64))
    }

    /// How long all rows together take.
    #[must_use]
    pub fn turn(&self) -> Nanos {
        let row: u64 = (0..self.depth).map(|plane| self.slot(plane).0).sum();
        Nanos(row * self.addresses as u64)
    }

    /// How often a second all rows have their turn.
    #[must_use]
    pub fn refresh(&self) -> f64 {
        1e9 / self.turn().0 as f64
    }

    /// The share of time that a white dot is lit at the highest brightness.
    #[must_use]
    pub fn duty(&self) -> f64 {
        let clocks: u64 = (0..self.depth).map(|plane| self.lit(plane)).sum();
        (clocks * self.period().0) as f64 / self.turn().0 as f64
    }

    /// Returns the results of this and every other depth.
    pub fn depths(&self, wanted: Hertz) -> impl Iterator<Item = Self> + use<> {
        let this = *self;
        (1..=facts::MAX_DEPTH).map(move |depth| Self { depth, ..this }.refreshed(wanted))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const PANEL: Times = Times {
        addresses: 16,
        columns: 64,
        depth: 8,
        unit: 1,
        clock: Hertz(10_000_000),
        blanking: Nanos(1_000),
        spare: Nanos(0),
    };

    #[test]
    fn a_turn_is_that_of_the_formula() {
        // refresh = 1 / (s x sum over planes of (gap + max(shift, lit))), shift being 6.4 us.
        let lit = [0.1, 0.2, 0.4, 0.8, 1.6, 3.2, 6.4, 12.8];
        let row: f64 = lit.iter().map(|lit: &f64| 1.0 + lit.max(6.4)).sum();
        assert!((PANEL.refresh() - 1e6 / (16.0 * row)).abs() < 1e-6);
        assert_eq!(PANEL.turn().0, (16.0 * row * 1e3).round() as u64);
        assert!((PANEL.duty() - 25.5 / (16.0 * row)).abs() < 1e-9);
    }

    #[test]
    fn the_unit_is_as_long_as_the_refresh_allows_and_no_longer() {
        for wanted in [60, 100, 200, 400] {
            let times = PANEL.refreshed(Hertz(wanted));
            let (refresh, wanted) = (times.refresh(), f64::from(wanted));
            assert!(refresh >= wanted && refresh < 1.0001 * wanted, "{refresh}");
            let longer = Times { unit: times.unit + 1, spare: Nanos(0), ..times };
            assert!(longer.refresh() < wanted);
        }
        let too_much = PANEL.refreshed(Hertz(5_000));
        assert_eq!(too_much.unit, 1);
        assert!(too_much.refresh() < 5_000.0);
    }

    #[test]
    fn brightness_is_in_sixteenths_of_the_time() {
        let times = Times { unit: 16, ..PANEL };
        assert_eq!([0, 7, 15].map(|step| times.lit_at(3, step)), [8, 64, 128]);
        assert_eq!(times.lit_at(0, 15), times.lit(0));
    }
}
