//! Push buttons that are pressed at moments known beforehand, as a link around a board.

use std::time::Duration;

use super::{Board, OnBoard};
use crate::bus::{Op, Reply};
use crate::link::{Link, LinkError, Simulated, passed_on};
use crate::plan::{ButtonId, DeviceId};
use crate::units::Nanos;

/// A push button that is pressed, and let go again after [`PRESS`].
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Press {
    /// The button.
    pub button: ButtonId,
    /// When, since playing began.
    pub at: Duration,
}

/// How long a button is held down.
pub const PRESS: Duration = Duration::from_millis(100);

/// Presses of the push buttons of a board, moment by moment.
#[derive(Debug)]
pub struct Fingers {
    /// The presses to come, the latest first: time, button, and whether it goes down.
    to_come: Vec<(Duration, ButtonId, bool)>,
    /// When playing began: with the first question for keys.
    origin: Option<Nanos>,
}

impl Fingers {
    /// Those that make these presses.
    #[must_use]
    pub fn of(presses: &[Press]) -> Self {
        let both = |press: &Press| {
            let Press { button, at } = *press;
            [(at, button, true), (at + PRESS, button, false)]
        };
        let mut to_come: Vec<_> = presses.iter().flat_map(both).collect();
        to_come.sort_by_key(|(at, ..)| std::cmp::Reverse(*at));
        Self { to_come, origin: None }
    }

    /// Does what is due before keys are asked for at a moment.
    pub fn come_to(&mut self, at: Nanos, board: &mut Board<'_>) {
        let origin = *self.origin.get_or_insert(at);
        let now = Duration::from(at - origin);
        while let Some((due, button, down)) = self.to_come.pop_if(|(due, ..)| *due <= now) {
            board.press_at(origin + Nanos::from(due), button, down);
        }
    }
}

/// A link whose board has its buttons pressed.
pub struct Presses<L> {
    link: L,
    fingers: Fingers,
}

impl<L> Presses<L> {
    /// These presses on the board behind a link.
    #[must_use]
    pub fn new(link: L, presses: &[Press]) -> Self {
        Self { link, fingers: Fingers::of(presses) }
    }
}

impl<'b, L: OnBoard<'b>> Link for Presses<L> {
    fn transfer(&mut self, device: DeviceId, op: &Op<'_>) -> Result<Reply, LinkError> {
        if op.transfer.reads() > 0 {
            self.fingers.come_to(op.not_before, self.link.board());
        }
        self.link.transfer(device, op)
    }

    passed_on!();

    fn simulated(&mut self) -> Option<&mut dyn Simulated> {
        match self.link.simulated() {
            Some(_) => Some(self),
            None => None,
        }
    }
}

impl<'b, L: OnBoard<'b>> Simulated for Presses<L> {
    fn mark(&mut self, now: Nanos) -> bool {
        self.link.board().mark(now)
    }

    fn is_as_marked(&mut self, now: Nanos) -> bool {
        self.link.board().is_as_marked(now)
    }

    fn repeat(&mut self, times: u64, span: Nanos) {
        self.link.board().repeat(times, span);
    }

    fn answers_alike(&mut self) -> bool {
        self.fingers.to_come.is_empty() && self.link.board().answers_alike()
    }
}

impl<'b, L: OnBoard<'b>> OnBoard<'b> for Presses<L> {
    fn board(&mut self) -> &mut Board<'b> {
        self.link.board()
    }
}
