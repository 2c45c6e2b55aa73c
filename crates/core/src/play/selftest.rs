//! The self-test: everything a face can light, in an order in which a person sees what is wrong.
//!
//! First each light alone, in the order of the segments: a wrong wire shows as a wrong place, two wires in touch
//! as two lights. Then all of them, going out one after another: a light that cannot go out stays. Then 0 to 9 on
//! each digit: the table. Last all on: the supply.

use std::time::Duration;

use super::{Act, Inputs};
use crate::content::Canvas;
use crate::face::Element;
use crate::frame::Level;
use crate::glyph::glyph;
use crate::plan::Mount;

/// The self-test of one face.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SelfTest {
    /// The elements that are wired.
    wired: Vec<usize>,
    digits: usize,
    /// How long each step stays; more than zero.
    step: Duration,
    again: bool,
}

/// The time for each step by default.
pub const EVERY: Duration = Duration::from_millis(250);

/// The content of a step.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Step {
    /// One light alone, by its element.
    Alone(usize),
    /// All wired lights except the first ones.
    Without(usize),
    /// A character on a digit.
    Shows(char, usize),
    /// All lights.
    All,
}

impl SelfTest {
    /// The test of a face, each step of which stays for `step`.
    #[must_use]
    pub fn of(mount: &Mount, step: Duration, again: bool) -> Self {
        let elements = 0..mount.face.element_count();
        let wired = elements.filter(|element| mount.wiring.has(Element(*element)));
        let step = step.max(Duration::from_nanos(1));
        Self { wired: wired.collect(), digits: mount.face.digits(), step, again }
    }

    /// How many steps it has.
    #[must_use]
    pub fn steps(&self) -> usize {
        2 * self.wired.len() + 10 * self.digits + 1
    }

    /// Returns the content of a step; the last one for any later step.
    #[must_use]
    pub fn step(&self, index: usize) -> Step {
        let lights = self.wired.len();
        if let Some(element) = self.wired.get(index) {
            return Step::Alone(*element);
        }
        let index = index - lights;
        if index < lights {
            return Step::Without(index + 1);
        }
        let index = index - lights;
        match char::from_digit((index % 10) as u32, 10) {
            Some(digit) if index < 10 * self.digits => Step::Shows(digit, index / 10),
            _ => Step::All,
        }
    }

    /// The step at a moment.
    #[must_use]
    pub fn step_at(&self, elapsed: Duration) -> Step {
        let taken = elapsed.as_nanos() / self.step.as_nanos();
        let steps = self.steps() as u128;
        let index = if self.again { taken % steps } else { taken.min(steps - 1) };
        self.step(index as usize)
    }
}

impl Act for SelfTest {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        let lit: &[usize] = match self.step_at(elapsed) {
            Step::Alone(element) => &[element],
            Step::Without(out) => &self.wired[out..],
            Step::All => &self.wired,
            Step::Shows(character, digit) => {
                if let Some(glyph) = glyph(canvas.face().style(), character) {
                    canvas.put(digit, glyph.segments);
                }
                return;
            }
        };
        for element in lit {
            if let Some(level) = canvas.levels_mut().get_mut(*element) {
                *level = Level::FULL;
            }
        }
    }

    fn next_change(&self, elapsed: Duration, _: &Inputs) -> Option<Duration> {
        let next = elapsed.as_nanos() / self.step.as_nanos() + 1;
        let ended = !self.again && next >= self.steps() as u128;
        let next = u64::try_from(next.saturating_mul(self.step.as_nanos())).ok();
        next.filter(|_| !ended).map(Duration::from_nanos)
    }

    fn length(&self) -> Option<Duration> {
        let steps = u32::try_from(self.steps()).unwrap_or(u32::MAX);
        (!self.again).then(|| self.step.saturating_mul(steps))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_light_alone_then_going_out_then_the_digits_then_all() {
        let test = SelfTest { wired: vec![0, 1, 7], digits: 1, step: Duration::from_secs(1), again: false };
        let steps: Vec<_> = (0..test.steps()).map(|step| test.step(step)).collect();
        let digits: Vec<_> = ('0'..='9').map(|digit| Step::Shows(digit, 0)).collect();
        let lights = [
            Step::Alone(0),
            Step::Alone(1),
            Step::Alone(7),
            Step::Without(1),
            Step::Without(2),
            Step::Without(3),
        ];
        assert_eq!(steps, [&lights[..], &digits, &[Step::All]].concat());
        assert_eq!(test.length(), Some(Duration::from_secs(17)));
        assert_eq!(test.step_at(Duration::from_secs(500)), Step::All);
        assert_eq!(
            test.next_change(Duration::from_millis(2500), &Inputs::default()),
            Some(Duration::from_secs(3))
        );
        assert_eq!(test.next_change(Duration::from_secs(16), &Inputs::default()), None);
        let again = SelfTest { again: true, ..test };
        assert_eq!((again.step_at(Duration::from_secs(17)), again.length()), (Step::Alone(0), None));
    }
}
