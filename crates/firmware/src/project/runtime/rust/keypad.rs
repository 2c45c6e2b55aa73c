//! The push buttons of the rig, by the numbers in `keypad_wiring`.

use crate::buttons::Buttons;
use crate::keypad_wiring::COUNT;

/// The buttons, and the presses that your program has not asked for.
pub struct Keypad {
    buttons: Buttons,
    gone_down: u32,
    gone_up: u32,
    /// When each went down.
    since: [u32; COUNT],
    now: u32,
}

impl Keypad {
    /// All up, from this moment on.
    #[must_use]
    pub const fn new(now: u32) -> Self {
        Self {
            buttons: Buttons::new(now),
            gone_down: 0,
            gone_up: 0,
            since: [now; COUNT],
            now,
        }
    }

    /// Returns true if it is time for a look; `now` counts milliseconds. The program asks before each step of yours.
    pub const fn is_due(&mut self, now: u32) -> bool {
        self.now = now;
        self.buttons.are_due(now)
    }

    /// Takes what a look sees: a bit for each button.
    pub fn take(&mut self, seen: u32) {
        let (pressed, released) = self.buttons.take(seen);
        self.gone_down |= pressed;
        self.gone_up |= released;
        for (button, since) in self.since.iter_mut().enumerate() {
            if pressed & bit(button) != 0 {
                *since = self.now;
            }
        }
    }

    /// Returns true while a button is down; contacts that bounce do not count.
    #[must_use]
    pub const fn is_down(&self, button: usize) -> bool {
        self.buttons.down() & bit(button) != 0
    }

    /// Returns true if a button has gone down since you last asked: once for each press.
    pub const fn went_down(&mut self, button: usize) -> bool {
        let went = self.gone_down & bit(button) != 0;
        self.gone_down &= !bit(button);
        went
    }

    /// Returns true if a button has gone up since you last asked.
    pub const fn went_up(&mut self, button: usize) -> bool {
        let went = self.gone_up & bit(button) != 0;
        self.gone_up &= !bit(button);
        went
    }

    /// Returns for how many milliseconds a button has been down: 0 if it is up.
    #[must_use]
    pub fn down_ms(&self, button: usize) -> u32 {
        match self.since.get(button) {
            Some(since) if self.is_down(button) => self.now.wrapping_sub(*since),
            _ => 0,
        }
    }
}

/// The bit of a button; none of one that does not exist.
const fn bit(button: usize) -> u32 {
    if button < COUNT { 1 << button } else { 0 }
}
