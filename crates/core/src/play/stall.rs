//! The perceived light when the program that scans blocks.
//!
//! The blocking begins after a whole turn, as in a loop that refreshes the display and then does something
//! else: the digit that was lit last stays lit, the others dark.

use super::scheduler::Scheduler;
use crate::board::Board;
use crate::board::seen::Sight;
use crate::face::Element;
use crate::frame::Frame;
use crate::link::LinkError;
use crate::plan::BothRigs;
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
#[non_exhaustive]
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

impl Stall {
    /// How long is looked at: from one blocking to the next, or a second of scan with one that comes once; no more than
    /// twenty seconds beside it.
    #[must_use]
    pub fn window(&self) -> Nanos {
        self.every.unwrap_or(ONCE + self.length).min(WINDOW_MOST + self.length)
    }
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

/// The effect on a select.
#[derive(Debug, Clone, PartialEq)]
pub struct Fate {
    /// Which: `digit 2`.
    pub name: String,
    /// The perceived brightness of its brightest light without the blocking.
    pub usual: Sight,
    /// The same with it.
    pub stalled: Sight,
}

impl Fate {
    /// Returns true if it is lit for longer without a break than it should ever be.
    #[must_use]
    pub fn burns(&self) -> bool {
        self.stalled.longest_lit > self.usual.longest_lit + self.usual.longest_lit
    }

    /// Returns true if it goes dark for long enough to be seen.
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

/// Returns the effect on each select when the program blocks; empty if the controller does not scan, or the frame has
/// nothing lit.
///
/// # Errors
/// When the board cannot be spoken to.
pub fn fates(
    rigs: BothRigs<'_>,
    face: usize,
    frame: &Frame,
    stall: Stall,
) -> Result<Option<Vec<Fate>>, LinkError> {
    let described = rigs.described;
    let mount = &described.faces[face];
    let display = mount.drive.display();
    let Some(turn) = display.scan().map(|scan| scan.turn) else { return Ok(None) };
    let watch = |run: &dyn Fn(&mut Scheduler<'_, Board<'_>>) -> Result<(), LinkError>| {
        let mut scheduler = Scheduler::new(described, Board::built_as(rigs));
        scheduler.power_up(face)?;
        let begin = scheduler.now() + turn;
        scheduler.run_until(begin)?;
        scheduler.show(face, frame)?;
        scheduler.settle(face)?;
        run(&mut scheduler)?;
        let now = scheduler.now();
        Ok(scheduler.link_mut().sights(face, now))
    };
    let usual = watch(&|scheduler| {
        let until = scheduler.now() + Nanos(4 * turn.0);
        scheduler.run_until(until)
    })?;
    let window = stall.window();
    let stalled = watch(&|scheduler| {
        // Whole turns, so that the last digit is the one that stays lit.
        let turns = (window - stall.length).0.div_ceil(turn.0);
        let until = scheduler.now() + Nanos(turns * turn.0);
        scheduler.run_until(until)?;
        scheduler.block(stall.length)?;
        // The scan goes on: what was dark ends being so.
        let until = until + stall.length + turn;
        scheduler.run_until(until)
    })?;
    let fate = |(name, elements): (String, Vec<Element>)| {
        let lit = elements.into_iter().map(|Element(element)| (usual[element], stalled[element]));
        let lit = lit.filter(|(usual, _)| usual.light > 0.0);
        // Of those that are equally bright the first.
        let brightest = lit.reduce(|known, other| if other.0.light > known.0.light { other } else { known });
        brightest.map(|(usual, stalled)| Fate { name, usual, stalled })
    };
    let fates: Vec<_> = display.selected(&mount.face).into_iter().filter_map(fate).collect();
    Ok((!fates.is_empty()).then_some(fates))
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
