//! What the eye gets when the program that does the scan blocks.
//!
//! The blocking begins after a whole turn, as in a loop that refreshes the display and then does something
//! else: the digit that was lit last stays lit, the others dark.

use super::eye::Sight;
use crate::face::Element;
use crate::frame::Frame;
use crate::pipeline::Pipeline;
use crate::rig::Mount;
use crate::units::{Nanos, parse_duration};

/// How a program blocks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stall {
    /// For how long.
    pub length: Nanos,
    /// How often: the time from one blocking to the next. None for once.
    pub every: Option<Nanos>,
}

/// Why a text is not a stall.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum StallError {
    /// It is not of the form.
    #[error("'{found}' does not say how long and how often; write it as \"40ms every 1s\"")]
    Form {
        /// The text.
        found: String,
    },
    /// It blocks for longer than there is time.
    #[error("{length} every {every} leaves no time for the scan")]
    NoTime {
        /// How long.
        length: Nanos,
        /// How often.
        every: Nanos,
    },
}

impl std::str::FromStr for Stall {
    type Err = StallError;

    /// From `40ms every 1s`.
    fn from_str(text: &str) -> Result<Self, StallError> {
        let form = || StallError::Form { found: text.to_owned() };
        let (length, every) = text.split_once(" every ").ok_or_else(form)?;
        let length: Nanos = parse_duration(length).map_err(|_| form())?.into();
        let every: Nanos = parse_duration(every).map_err(|_| form())?.into();
        if every <= length {
            return Err(StallError::NoTime { length, every });
        }
        Ok(Self { length, every: Some(every) })
    }
}

/// What becomes of a select.
#[derive(Debug, Clone, PartialEq)]
pub struct Fate {
    /// Which: `digit 2`.
    pub name: String,
    /// What is seen of its brightest light without the blocking.
    pub usual: Sight,
    /// What is seen with it.
    pub stalled: Sight,
}

impl Fate {
    /// Whether it is lit for longer without a break than it should ever be.
    #[must_use]
    pub fn burns(&self) -> bool {
        self.stalled.longest_lit > self.usual.longest_lit + self.usual.longest_lit
    }

    /// Whether it goes dark for long enough to be seen.
    #[must_use]
    pub fn goes_dark(&self) -> bool {
        // The flash rate at which lights fuse for everyone is 60 Hz; a longer gap is seen.
        const SEEN: Nanos = Nanos(1_000_000_000 / 60);
        self.stalled.longest_dark > SEEN && self.stalled.longest_dark > self.usual.longest_dark
    }

    /// Its mean brightness, 1 being the usual.
    #[must_use]
    pub fn brightness(&self) -> f64 {
        if self.usual.light > 0.0 { self.stalled.light / self.usual.light } else { 0.0 }
    }
}

/// How long one blocking is looked at, with the scan around it.
const ONCE: Nanos = Nanos(1_000_000_000);
/// The longest window: beyond that the answer does not change.
const WINDOW_MOST: Nanos = Nanos(20_000_000_000);

/// What becomes of each select when the program blocks; none where the controller does no scan, or the frame has
/// nothing lit.
#[must_use]
pub fn fates(mount: &Mount, frame: &Frame, stall: Stall) -> Option<Vec<Fate>> {
    let circuit = mount.drive.ends.circuit()?;
    let turn = circuit.timing?.turn();
    let usual = watch(mount, frame, turn, |pipeline| {
        for _ in 0..4 {
            pipeline.turn();
        }
    });
    let window = stall.every.unwrap_or(ONCE + stall.length).min(WINDOW_MOST + stall.length);
    let stalled = watch(mount, frame, turn, |pipeline| {
        let end = pipeline.now() + (window - stall.length);
        while pipeline.now() < end {
            pipeline.turn();
        }
        let until = pipeline.now() + stall.length;
        pipeline.wait_until(until);
        // The scan goes on: what was dark ends being so.
        pipeline.turn();
    });
    let select_of = |element: usize| {
        let node = mount.drive.wiring.node(Element(element))?;
        circuit.lights.get(node.0)?.select
    };
    let mut fates: Vec<Option<Fate>> = vec![None; circuit.selects.len()];
    for (element, usual) in usual.iter().enumerate().filter(|(_, usual)| usual.light > 0.0) {
        let Some(select) = select_of(element) else { continue };
        let fate = Fate {
            name: circuit.outputs[circuit.selects[select]].role.clone(),
            usual: *usual,
            stalled: stalled[element],
        };
        let brighter = |known: &Fate| known.usual.light >= fate.usual.light;
        if !fates[select].as_ref().is_some_and(brighter) {
            fates[select] = Some(fate);
        }
    }
    let fates: Vec<_> = fates.into_iter().flatten().collect();
    (!fates.is_empty()).then_some(fates)
}

fn watch(mount: &Mount, frame: &Frame, turn: Nanos, run: impl Fn(&mut Pipeline<'_>)) -> Vec<Sight> {
    let mut pipeline = Pipeline::new(mount);
    pipeline.power_up();
    let begin = pipeline.now() + turn;
    pipeline.wait_until(begin);
    pipeline.show(frame);
    pipeline.open_eye();
    run(&mut pipeline);
    pipeline.sights()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_stall_in_words() {
        let stall = Stall { length: Nanos(40_000_000), every: Some(Nanos(1_000_000_000)) };
        assert_eq!("40ms every 1s".parse(), Ok(stall));
        assert!("40ms".parse::<Stall>().is_err());
        assert!("2s every 1s".parse::<Stall>().is_err());
    }
}
