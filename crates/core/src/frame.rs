//! A frame: what should be lit at one moment.

/// How strongly an element should be lit: 0 is off, 255 is full.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Level(pub u8);

impl Level {
    /// Not lit.
    pub const OFF: Self = Self(0);
    /// Lit fully.
    pub const FULL: Self = Self(255);

    /// Returns its light in steps of this many bits: `(level / 255) ^ gamma`, rounded.
    #[must_use]
    pub fn step(self, bits: u8, gamma: f64) -> u8 {
        let most = f64::from((1_u16 << bits) - 1);
        ((f64::from(self.0) / 255.0).powf(gamma) * most).round() as u8
    }

    /// The step of every level.
    #[must_use]
    pub fn steps(bits: u8, gamma: f64) -> [u8; 256] {
        std::array::from_fn(|level| Self(level as u8).step(bits, gamma))
    }
}

/// A level for each [element](crate::face::Element) of a face.
#[derive(Debug, Clone, Eq)]
pub struct Frame {
    levels: Vec<Level>,
}

impl PartialEq for Frame {
    fn eq(&self, other: &Self) -> bool {
        // No early end: the compiler compares many levels at once.
        let differing = |(one, two): (&Level, &Level)| one.0 ^ two.0;
        self.levels.len() == other.levels.len()
            && self.levels.iter().zip(&other.levels).map(differing).fold(0, |all, bits| all | bits) == 0
    }
}

impl Frame {
    /// A frame of `elements` elements with nothing lit.
    #[must_use]
    pub fn dark(elements: usize) -> Self {
        Self { levels: vec![Level::OFF; elements] }
    }

    /// A frame of these levels, by element.
    #[must_use]
    pub const fn of_levels(levels: Vec<Level>) -> Self {
        Self { levels }
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

#[cfg(test)]
mod tests {
    use super::Level;

    #[test]
    fn levels_are_light_by_the_gamma() {
        assert_eq!(Level::steps(8, 1.0).map(usize::from).to_vec(), (0..256).collect::<Vec<_>>());
        let of_two = Level::steps(8, 2.0);
        assert_eq!([0, 51, 128, 255].map(|level| of_two[level]), [0, 10, 64, 255]);
        assert_eq!([0, 127, 128, 255].map(|level| Level(level).step(1, 1.0)), [0, 0, 1, 1]);
    }
}
