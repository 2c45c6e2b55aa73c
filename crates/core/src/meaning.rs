//! The meaning of a transfer, from its bytes alone: in the part's own names, with the nodes that it changes. The names of these
//! is on a face, [`plan::teller`](crate::plan::teller) knows.

/// The meaning of a transfer.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum Meaning {
    /// In words.
    Words(String),
    /// It sets outputs to these levels and leaves those without one alone.
    Levels(Vec<Option<bool>>),
    /// It writes into places of a display memory.
    Memory(Vec<Written>),
}

/// A write to a place of a display memory.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Written {
    /// The place, by the data sheet's name: `grid 2`, `part 1: digit 0`.
    pub place: String,
    /// The data, by the data sheet's names: `seg 1 2 4`, `code B 5`, `blank`.
    pub data: String,
    /// The nodes that it changes, and whether each is lit from now on.
    pub nodes: Vec<(usize, bool)>,
}

impl Meaning {
    /// In words.
    #[must_use]
    pub fn words(words: impl Into<String>) -> Self {
        Self::Words(words.into())
    }

    /// In the part's own words, as someone reads them who knows of no face.
    #[must_use]
    pub fn plainly(&self) -> String {
        match self {
            Self::Words(words) => words.clone(),
            Self::Levels(levels) => {
                levels.iter().map(|level| level.map_or('-', |high| if high { '1' } else { '0' })).collect()
            }
            Self::Memory(written) => {
                let one = |written: &Written| format!("{}: {}", written.place, written.data);
                written.iter().map(one).collect::<Vec<_>>().join(", ")
            }
        }
    }
}

/// Names of lines that are lit behind a word for them, `seg 1 2 4`, or `blank` where none is.
#[must_use]
pub fn lines_or_blank(word: &str, lines: &[String]) -> String {
    if lines.is_empty() {
        "blank".to_owned()
    } else {
        format!("{word} {}", lines.join(" ")).trim_start().to_owned()
    }
}
