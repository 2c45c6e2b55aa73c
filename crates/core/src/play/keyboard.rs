//! Push buttons beside a display: from what a part says is down to what a person did.
//!
//! Contacts bounce for some milliseconds; a key counts as down or up once it has been so for as long. Every key is
//! looked at by itself, so any number may be down at once.

use crate::units::Nanos;

/// The event of a button.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum KeyEvent {
    /// It was pressed.
    Down,
    /// It was let go.
    Up,
    /// It is still down after the time that counts as long.
    Held,
}

/// The keys of a face.
#[derive(Debug, Clone)]
pub struct Keyboard {
    keys: Vec<Key>,
    debounce: Nanos,
    hold: Nanos,
}

#[derive(Debug, Clone, Default)]
struct Key {
    /// The last answer of the part, and its time.
    raw: bool,
    since: Nanos,
    /// The debounced state.
    down: bool,
    /// When it went down, while it is not yet held.
    pressed: Option<Nanos>,
}

impl Keyboard {
    /// How long contacts bounce, usually.
    pub const USUAL_DEBOUNCE: Nanos = Nanos(20_000_000);
    /// How long is long, usually.
    pub const USUAL_HOLD: Nanos = Nanos(800_000_000);

    /// Buttons, all up. A change counts after `debounce`, a press as held after `hold`.
    #[must_use]
    pub fn new(keys: usize, debounce: Nanos, hold: Nanos) -> Self {
        Self { keys: vec![Key::default(); keys], debounce, hold }
    }

    /// Returns true if nothing happens as long as the part says what it said last.
    #[must_use]
    pub fn is_settled(&self) -> bool {
        self.keys.iter().all(|key| key.raw == key.down && key.pressed.is_none())
    }

    /// Takes which keys a part says are down at a moment, no earlier than the one before; what that means for each,
    /// in the order of the keys.
    pub fn take(&mut self, at: Nanos, down: &[usize]) -> Vec<(usize, KeyEvent)> {
        let mut events = Vec::new();
        for (index, key) in self.keys.iter_mut().enumerate() {
            let raw = down.contains(&index);
            if raw != key.raw {
                (key.raw, key.since) = (raw, at);
            }
            if key.raw != key.down && at - key.since >= self.debounce {
                key.down = key.raw;
                key.pressed = key.down.then_some(key.since);
                events.push((index, if key.down { KeyEvent::Down } else { KeyEvent::Up }));
            }
            if key.down && key.pressed.is_some_and(|pressed| at - pressed >= self.hold) {
                key.pressed = None;
                events.push((index, KeyEvent::Held));
            }
        }
        events
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ms(ms: u64) -> Nanos {
        Nanos(ms * 1_000_000)
    }

    #[test]
    fn bounces_are_no_presses_and_several_keys_go_their_own_ways() {
        let mut keyboard = Keyboard::new(3, ms(20), ms(800));
        let mut told = Vec::new();
        for (at, down) in [
            (0, &[0][..]),
            (5, &[]),
            (8, &[0]),
            (20, &[0]),
            (30, &[0, 2]),
            (60, &[0, 2]),
            (300, &[2]),
            (330, &[2]),
            (835, &[2]),
            (900, &[2]),
            (950, &[]),
            (960, &[1]),
            (972, &[]),
            (2000, &[]),
        ] {
            told.extend(keyboard.take(ms(at), down).into_iter().map(|(key, event)| (at, key, event)));
        }
        use KeyEvent::{Down, Held, Up};
        assert_eq!(told, [(30, 0, Down), (60, 2, Down), (330, 0, Up), (835, 2, Held), (972, 2, Up)]);
    }
}
