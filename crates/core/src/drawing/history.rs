//! States that follow one another, so that a change can be undone.

use std::collections::VecDeque;

/// The most changes that can be undone.
pub const MOST: usize = 256;

/// A state, those before it, and those that were undone. Each has the place at which it was changed, so that who undoes a change
/// is shown it.
#[derive(Debug, Clone)]
pub struct History<T, P> {
    /// The earlier states, the latest last, each with the place of the change that ended it.
    before: VecDeque<(T, P)>,
    now: T,
    /// The undone states, the latest first to come back last, each with the place of its change.
    undone: Vec<(T, P)>,
    /// True if the last that was done is a change that can go on.
    is_open: bool,
}

impl<T: PartialEq, P: Copy> History<T, P> {
    /// Begins with a state.
    #[must_use]
    pub const fn new(now: T) -> Self {
        Self { before: VecDeque::new(), now, undone: Vec::new(), is_open: false }
    }

    /// The state as it is.
    #[must_use]
    pub const fn now(&self) -> &T {
        &self.now
    }

    /// Adds a state, which was made at a place, and drops the undone ones. An equal state is not a change. Returns true if
    /// it was one.
    pub fn change(&mut self, next: T, place: P) -> bool {
        self.is_open = next != self.now;
        if !self.is_open {
            return false;
        }
        if self.before.len() >= MOST {
            self.before.pop_front();
        }
        self.before.push_back((std::mem::replace(&mut self.now, next), place));
        self.undone.clear();
        true
    }

    /// Goes on to another state as a part of the last change, so that both are undone together. Where the last that was done is
    /// none, it is a change of its own.
    pub fn amend(&mut self, next: T, place: P) {
        if self.is_open {
            self.now = next;
        } else {
            self.change(next, place);
        }
    }

    /// Takes the last change back; the place at which it was made. `None` where there was none.
    pub fn undo(&mut self) -> Option<P> {
        self.is_open = false;
        let (earlier, place) = self.before.pop_back()?;
        self.undone.push((std::mem::replace(&mut self.now, earlier), place));
        Some(place)
    }

    /// Makes again what was undone last; the place at which it is made. `None` where nothing was.
    pub fn redo(&mut self) -> Option<P> {
        self.is_open = false;
        let (later, place) = self.undone.pop()?;
        self.before.push_back((std::mem::replace(&mut self.now, later), place));
        Some(place)
    }
}
