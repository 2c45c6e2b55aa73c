//! Push buttons that are read together: which are down, when their contacts have settled.

/// The time between two looks, in milliseconds. Contacts bounce: a state counts once this number of further looks saw the same.
const LOOK_MS: u32 = 10;
const SETTLED_LOOKS: u8 = 2;

/// Buttons, a bit each.
pub struct Buttons {
    down: u32,
    /// The state at the last look, and the number of looks that saw the same.
    last: u32,
    alike: u8,
    asked: u32,
}

impl Buttons {
    /// All up, from this moment on.
    #[must_use]
    pub const fn new(now: u32) -> Self {
        Self {
            down: 0,
            last: 0,
            alike: 0,
            asked: now,
        }
    }

    /// Returns true if it is time for a look, which must then follow.
    pub const fn are_due(&mut self, now: u32) -> bool {
        let is_due = now.wrapping_sub(self.asked) >= LOOK_MS;
        if is_due {
            self.asked = now;
        }
        is_due
    }

    /// Takes what a look sees. Returns those that have gone down, and those that have gone up.
    pub const fn take(&mut self, seen: u32) -> (u32, u32) {
        if seen != self.last {
            (self.last, self.alike) = (seen, 0);
            return (0, 0);
        }
        if self.alike == SETTLED_LOOKS {
            return (0, 0);
        }
        self.alike += 1;
        if self.alike != SETTLED_LOOKS {
            return (0, 0);
        }
        let (pressed, released) = (seen & !self.down, self.down & !seen);
        self.down = seen;
        (pressed, released)
    }

    /// Returns those that are down.
    #[must_use]
    pub const fn down(&self) -> u32 {
        self.down
    }
}
