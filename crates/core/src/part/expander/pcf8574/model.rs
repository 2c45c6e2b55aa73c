//! The pins as the bytes leave them.

use crate::part::expander::PartModel;
use crate::units::{Hertz, Nanos};

/// The quasi-bidirectional pins: every byte of a write replaces them.
pub struct Latch(pub u8);

impl PartModel for Latch {
    fn begin(&mut self) {}

    fn byte(&mut self, value: u8) {
        self.0 = value;
    }

    fn levels(&self, levels: &mut [Option<bool>]) {
        for (pin, level) in levels.iter_mut().enumerate() {
            let pulls_low = self.0 & (1 << pin) == 0;
            *level = pulls_low.then_some(false);
        }
    }

    fn pulls_up(&self) -> bool {
        true
    }

    /// The data output valid time at 100 kHz, its fastest clock (data sheet, I2C interface timing; from memory, not confirmed
    /// elsewhere).
    fn answer_delay(&self, _: Hertz) -> Nanos {
        Nanos(3_400)
    }
}

/// The last byte stays at the pins.
pub fn sets(data: &[u8]) -> Vec<(usize, bool)> {
    data.last().map_or_else(Vec::new, |byte| (0..8).map(|pin| (pin, byte >> pin & 1 == 1)).collect())
}

/// The words for the bytes of a transfer after its address.
pub fn explain(data: &[u8]) -> String {
    match data {
        [] => "no data".to_owned(),
        data => data.iter().map(|byte| format!("pins {byte:08b}")).collect::<Vec<_>>().join(", then "),
    }
}
