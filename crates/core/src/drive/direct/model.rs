//! The digit itself: pin levels and polarity.

use crate::bus::Edge;
use crate::drive::Model;
use crate::glyph::Common;

/// A digit whose common side is tied to the rail that its kind wants.
pub struct Digit {
    /// The voltage across each light needs its pin at the rail opposite to the common side's.
    common_is_high: bool,
    /// The level at each segment's pin; `None` while nothing drives it, and then no current flows.
    pins: Vec<Option<bool>>,
}

impl Digit {
    pub fn new(segments: usize, common: Common) -> Self {
        Self { common_is_high: common == Common::Anode, pins: vec![None; segments] }
    }
}

impl Model for Digit {
    fn take(&mut self, edges: &[Edge]) {
        for edge in edges {
            if let Some(pin) = self.pins.get_mut(edge.line) {
                *pin = Some(edge.level);
            }
        }
    }

    fn lit(&self, nodes: &mut [f32]) {
        for (node, pin) in nodes.iter_mut().zip(&self.pins) {
            let current_flows = pin.is_some_and(|high| high != self.common_is_high);
            *node = if current_flows { 1.0 } else { 0.0 };
        }
    }
}
