//! What outputs can take.

use crate::units::{Milliamps, Volts};

/// What the outputs of a controller or a part can take.
#[derive(Debug, Clone, PartialEq)]
pub struct Ratings {
    /// Whose outputs they are: `rp2040`, `74hc595`.
    pub part: String,
    /// The voltage of a high level; `None` for the controller's own.
    pub high: Option<Volts>,
    /// An output, for long.
    pub output: Option<Milliamps>,
    /// An output, at the absolute most, where that is another figure.
    pub output_absolute: Option<Milliamps>,
    /// An output that gives current, where it gives less than it takes.
    pub output_source: Option<Milliamps>,
    /// Groups of outputs with a limit together: their name, the limit, and the outputs.
    pub groups: Vec<(String, Milliamps, Vec<usize>)>,
}
