//! The self-test: everything a face can light, in an order in which a person sees what is wrong.
//!
//! First each light alone, in the order of the segments: a wrong wire shows as a wrong place, two wires in touch
//! as two lights. Then all of them, going out one after another: a light that cannot go out stays. Then 0 to 9 on
//! each digit: the table. Last all on: the supply.
//!
//! Large dot displays would take half an hour that way. There each row lights, then each column, then all dots, in one
//! colour after another: a wrong address line shows as a wrong row, a wrong select or data line as wrong columns or colours.

use std::time::Duration;

use super::{Act, Inputs};
use crate::content::Canvas;
use crate::face::{Element, Grid};
use crate::frame::Level;
use crate::glyph::glyph;
use crate::plan::Mount;

/// The self-test of one face.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SelfTest {
    /// The elements that are wired.
    wired: Vec<usize>,
    /// The elements that light together in each of the first steps.
    groups: Vec<Vec<usize>>,
    /// How many lights then go out in turn: all that are wired, or none.
    going_out: usize,
    digits: usize,
    /// How long each step stays; more than zero.
    step: Duration,
    again: bool,
}

/// The time for each step by default.
pub const EVERY: Duration = Duration::from_millis(250);

/// The most dots that are tested one by one: two modules of 8x8. At the default speed that takes about a minute.
const MOST_ALONE: usize = 128;

/// The content of a step.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Step {
    /// One group of lights.
    Group(usize),
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
        let wired: Vec<_> = elements.filter(|element| mount.wiring.has(Element(*element))).collect();
        let large = mount.face.dots().filter(|_| wired.len() > MOST_ALONE);
        let groups = match large {
            Some(grid) => rows_and_columns(&grid, &wired),
            None => wired.iter().map(|element| vec![*element]).collect(),
        };
        let going_out = if large.is_some() { 0 } else { wired.len() };
        let step = step.max(Duration::from_nanos(1));
        Self { wired, groups, going_out, digits: mount.face.digits(), step, again }
    }

    /// How many steps it has.
    #[must_use]
    pub fn steps(&self) -> usize {
        self.groups.len() + self.going_out + 10 * self.digits + 1
    }

    /// Returns the content of a step; the last one for any later step.
    fn step(&self, index: usize) -> Step {
        if index < self.groups.len() {
            return Step::Group(index);
        }
        let index = index - self.groups.len();
        if index < self.going_out {
            return Step::Without(index + 1);
        }
        let index = index - self.going_out;
        match char::from_digit((index % 10) as u32, 10) {
            Some(digit) if index < 10 * self.digits => Step::Shows(digit, index / 10),
            _ => Step::All,
        }
    }

    /// The step at a moment.
    fn step_at(&self, elapsed: Duration) -> Step {
        let taken = elapsed.as_nanos() / self.step.as_nanos();
        let steps = self.steps() as u128;
        let index = if self.again { taken % steps } else { taken.min(steps - 1) };
        self.step(index as usize)
    }
}

/// Each row, each column, and all dots, in each colour; then each lamp. Rows and columns without a wired light are left out.
fn rows_and_columns(grid: &Grid, wired: &[usize]) -> Vec<Vec<usize>> {
    let colours = grid.channels.count();
    let (dots, lamps) = wired.split_at(wired.partition_point(|element| *element < grid.element_count()));
    let mut groups = Vec::new();
    for colour in 0..colours {
        let mut lines = vec![Vec::new(); grid.height + grid.width + 1];
        for element in dots.iter().filter(|element| *element % colours == colour) {
            let dot = element / colours;
            let (row, column) = (dot / grid.width, grid.height + dot % grid.width);
            for line in [row, column, grid.height + grid.width] {
                lines[line].push(*element);
            }
        }
        groups.extend(lines.into_iter().filter(|lights| !lights.is_empty()));
    }
    groups.extend(lamps.iter().map(|lamp| vec![*lamp]));
    groups
}

impl Act for SelfTest {
    fn draw(&self, elapsed: Duration, _: &Inputs, canvas: &mut Canvas<'_>) {
        let lit: &[usize] = match self.step_at(elapsed) {
            Step::Group(group) => &self.groups[group],
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
    use crate::face::Channels;

    const STEP: Duration = Duration::from_secs(1);

    #[test]
    fn every_light_alone_then_going_out_then_the_digits_then_all() {
        let test = SelfTest {
            wired: vec![0, 1, 7],
            groups: vec![vec![0], vec![1], vec![7]],
            going_out: 3,
            digits: 1,
            step: STEP,
            again: false,
        };
        let steps: Vec<_> = (0..test.steps()).map(|step| test.step(step)).collect();
        let digits: Vec<_> = ('0'..='9').map(|digit| Step::Shows(digit, 0)).collect();
        let lights = [
            Step::Group(0),
            Step::Group(1),
            Step::Group(2),
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
        assert_eq!((again.step_at(Duration::from_secs(17)), again.length()), (Step::Group(0), None));
    }

    #[test]
    fn rows_and_columns_light_in_each_colour_and_then_lamps() {
        let grid = Grid { width: 2, height: 2, channels: Channels::Three };
        // The dot on the lower left is not wired.
        let wired = [0, 1, 2, 3, 4, 5, 9, 10, 11, 12];
        let groups = rows_and_columns(&grid, &wired);
        let of_colour = |colour: usize| {
            [vec![0_usize, 3], vec![9], vec![0], vec![3, 9], vec![0, 3, 9]]
                .map(|group| group.iter().map(|red| red + colour).collect::<Vec<usize>>())
        };
        let lamp = vec![vec![12]];
        assert_eq!(groups, [&of_colour(0)[..], &of_colour(1), &of_colour(2), &lamp].concat());
    }
}
