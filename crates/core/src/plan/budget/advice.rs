//! Which resistor to take: only one with which every limit of the rig holds.

use super::excess::{self, Excess};
use super::{Rig, of};
use crate::bare::circuit::{Resistor, ResistorPlace};
use crate::units::{E12, E24, Milliamps, Ohms, nearest, values};

/// A light that gets less on average is hardly seen by day: no resistor for it is any help.
const LEAST_AVERAGE: Milliamps = Milliamps(0.1);

/// A resistor for a goal.
#[derive(Debug, Clone, PartialEq)]
pub struct Advice {
    /// The wish.
    pub goal: Goal,
    /// The exact value; none where the series alone gives it.
    pub exact: Option<Ohms>,
    /// The value of the series; `None` if a limit forbids every value.
    pub choice: Option<Choice>,
    /// The limit that the exact value would break; where no value will do, the one that even a dim light breaks.
    pub breaks: Option<Excess>,
}

/// The purpose of a resistor.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Goal {
    /// So much in each light on average.
    Average(Milliamps),
    /// The most light that every limit allows.
    Brightest,
}

/// Values of the two series, with the peak current of a light that each gives.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Choice {
    /// Of the common series.
    pub e12: (Ohms, Milliamps),
    /// Of the finer series.
    pub e24: (Ohms, Milliamps),
}

/// Returns the resistors that suit a face, by its index in [`Rig::faces`]; `None` if it is not bare or no voltage is left
/// for a resistor.
#[must_use]
pub fn advise(rig: &Rig, face: usize) -> Vec<Advice> {
    let Some(mount) = rig.faces.get(face) else { return Vec::new() };
    let Some(budget) = of(mount, &rig.controller).filter(|budget| budget.across.0 > 0.0) else {
        return Vec::new();
    };
    let place = budget.resistor.map_or(ResistorPlace::Segments, |resistor| resistor.place);
    let breaks = |ohms: Ohms| {
        let of_face = |index, own| if index == face { Some(Resistor { ohms, place }) } else { own };
        let found = excess::all(rig, &|index, circuit| of_face(index, circuit.resistor));
        let mut of_face = found.into_iter().filter(|found| found.face.is_none_or(|of| of == face));
        of_face.find(|found| found.excess.is_overload()).map(|found| found.excess)
    };
    let with_peak = |ohms: Ohms| (ohms, ohms.passes(budget.across));
    let dimmest = Ohms(1e3 * budget.across.0 * budget.duty / LEAST_AVERAGE.0);
    let choice = |exact: Option<Ohms>| {
        let will_do = |ohms: Ohms| (ohms <= dimmest || exact.is_some()) && breaks(ohms).is_none();
        let of = |series| least(series, exact, &will_do).map(with_peak);
        Some(Choice { e12: of(&E12)?, e24: of(&E24)? })
    };
    let mut advice = Vec::new();
    if let Some(wanted) = mount.face.light.wanted {
        let exact = Ohms(1e3 * budget.across.0 * budget.duty / wanted.0);
        let goal = Goal::Average(wanted);
        advice.push(Advice { goal, exact: Some(exact), choice: choice(Some(exact)), breaks: breaks(exact) });
    }
    let brightest = choice(None);
    let breaks = if brightest.is_none() { breaks(dimmest) } else { None };
    advice.push(Advice { goal: Goal::Brightest, exact: None, choice: brightest, breaks });
    advice
}

/// The value of a series that is nearest to the wanted one, or else the least above it, that will do; where none is
/// wanted, the least of all.
fn least(series: &[f64], wanted: Option<Ohms>, will_do: &dyn Fn(Ohms) -> bool) -> Option<Ohms> {
    // From 1 ohm to a megohm: beyond that the current is negligible.
    let start = wanted.map_or(Ohms(1.0), |exact| nearest(exact, series));
    values(series, -1..6).find(|ohms| *ohms >= start && will_do(*ohms))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_nearest_of_the_series() {
        for (exact, e12, e24) in
            [(68.0, 68.0, 68.0), (74.0, 68.0, 75.0), (9.5, 10.0, 9.1), (1250.0, 1200.0, 1300.0)]
        {
            assert_eq!(
                (nearest(Ohms(exact), &E12), nearest(Ohms(exact), &E24)),
                (Ohms(e12), Ohms(e24)),
                "{exact}"
            );
        }
    }

    #[test]
    fn the_least_that_will_do() {
        let over = |least: f64| move |ohms: Ohms| ohms.0 >= least;
        assert_eq!(least(&E12, Some(Ohms(74.0)), &over(0.0)), Some(Ohms(68.0)));
        assert_eq!(least(&E12, Some(Ohms(74.0)), &over(70.0)), Some(Ohms(82.0)));
        assert_eq!(least(&E24, None, &over(109.0)), Some(Ohms(110.0)));
        assert_eq!(least(&E24, None, &|_| false), None);
    }
}
