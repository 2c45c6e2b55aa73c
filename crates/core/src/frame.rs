//! A frame: what should be lit at one moment.

/// How strongly an element should be lit: 0 is off, 255 is full.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Level(pub u8);

impl Level {
    /// Not lit.
    pub const OFF: Self = Self(0);
    /// Lit fully.
    pub const FULL: Self = Self(255);
}

/// A level for each [element](crate::face::Element) of a face.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Frame {
    levels: Vec<Level>,
}

impl Frame {
    /// A frame of `elements` elements with nothing lit.
    #[must_use]
    pub fn dark(elements: usize) -> Self {
        Self { levels: vec![Level::OFF; elements] }
    }

    /// The levels, by element.
    #[must_use]
    pub fn levels(&self) -> &[Level] {
        &self.levels
    }

    /// The levels, by element, to be changed.
    pub fn levels_mut(&mut self) -> &mut [Level] {
        &mut self.levels
    }

    /// Puts everything out, keeping the memory.
    pub fn clear(&mut self) {
        self.levels.fill(Level::OFF);
    }
}
