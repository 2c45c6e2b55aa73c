//! The ratings of outputs.

use crate::units::{Milliamps, Volts};

/// Outputs with a limit together.
#[derive(Debug, Clone, PartialEq)]
pub struct Group {
    /// Their name: `port P1`, `74hc595 part 0`.
    pub name: String,
    /// The most that they sink together, through the part's ground, where that is limited.
    pub sink: Option<Milliamps>,
    /// The most that they source together, from the part's supply, where that is limited.
    pub source: Option<Milliamps>,
    /// True if that is the absolute maximum, and not only what is sensible.
    pub is_absolute: bool,
    /// Which they are.
    pub outputs: Vec<usize>,
}

/// The ratings of the outputs of a controller or a part.
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
    /// An output that sinks, at the absolute most, where that is another figure.
    pub output_sink_absolute: Option<Milliamps>,
    /// An output that gives current, where it gives less than it takes.
    pub output_source: Option<Milliamps>,
    /// Groups of outputs with a limit together.
    pub groups: Vec<Group>,
}

impl Ratings {
    /// The current that an output sources, if it is below 1 mA: a pull-up rather than a driven level.
    #[must_use]
    pub fn weak_source(&self) -> Option<Milliamps> {
        self.output_source.filter(|source| source.0 < 1.0)
    }
}

/// The outputs of equal parts by the part that they belong to: `width` places a part, and what all of one together sink
/// and source at the absolute most.
pub fn by_part(
    names: impl IntoIterator<Item = String>,
    places: &[usize],
    width: usize,
    sink: Milliamps,
    source: Milliamps,
) -> Vec<Group> {
    let group = |(part, name)| {
        let of_part = places.iter().enumerate().filter(|(_, place)| **place / width == part);
        let (sink, source) = (Some(sink), Some(source));
        Group { name, sink, source, is_absolute: true, outputs: of_part.map(|(output, _)| output).collect() }
    };
    names.into_iter().enumerate().map(group).collect()
}
