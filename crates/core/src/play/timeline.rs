//! The values of something over time.

use std::time::Duration;

/// Values in order of time. Between two of them the earlier one holds.
///
/// An act that reads a timeline depends on it and on the moment only: seeking gives the same as playing.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Timeline<T> {
    moments: Vec<(Duration, T)>,
}

/// The most values that are kept; beyond that the older half is forgotten.
const MOST: usize = 1 << 17;

impl<T> Default for Timeline<T> {
    fn default() -> Self {
        Self { moments: Vec::new() }
    }
}

impl<T> Timeline<T> {
    /// Notes a value from a moment on. What was noted for that moment or a later one is forgotten: who has gone back goes on from
    /// there.
    pub fn note(&mut self, at: Duration, value: T) {
        let earlier = self.moments.partition_point(|(noted, _)| *noted < at);
        self.moments.truncate(earlier);
        if self.moments.len() >= MOST {
            self.moments.drain(..MOST / 2);
        }
        self.moments.push((at, value));
    }

    /// Returns the values up to a moment, that one included, each with its moment.
    #[must_use]
    pub fn up_to(&self, at: Duration) -> &[(Duration, T)] {
        &self.moments[..self.moments.partition_point(|(noted, _)| *noted <= at)]
    }

    /// Returns the value at a moment, and its beginning.
    #[must_use]
    pub fn at(&self, at: Duration) -> Option<&(Duration, T)> {
        self.up_to(at).last()
    }

    /// When it next becomes another after a moment.
    #[must_use]
    pub fn next_after(&self, at: Duration) -> Option<Duration> {
        self.moments.get(self.up_to(at).len()).map(|(noted, _)| *noted)
    }

    /// The first that was noted.
    #[must_use]
    pub fn first(&self) -> Option<&(Duration, T)> {
        self.moments.first()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_earlier_value_holds_until_the_next() {
        let second = Duration::from_secs;
        let mut level = Timeline::default();
        assert_eq!((level.at(second(9)), level.next_after(second(0))), (None, None));
        for (at, value) in [(2, 'a'), (5, 'b'), (5, 'c'), (7, 'd'), (9, 'x'), (7, 'e')] {
            level.note(second(at), value);
        }
        let at = |seconds| level.at(second(seconds)).map(|(_, value)| *value);
        assert_eq!(
            [at(1), at(2), at(4), at(5), at(6), at(7), at(9)],
            [None, Some('a'), Some('a'), Some('c'), Some('c'), Some('e'), Some('e')]
        );
        assert_eq!(level.next_after(second(2)), Some(second(5)));
        assert_eq!(level.next_after(second(7)), None);
    }

    #[test]
    fn what_is_kept_is_bounded() {
        let mut level = Timeline::default();
        (0..3 * MOST as u64).for_each(|at| level.note(Duration::from_nanos(at), at));
        assert!(level.moments.len() <= MOST);
        assert_eq!(level.at(Duration::MAX).unwrap().1, 3 * MOST as u64 - 1);
    }
}
