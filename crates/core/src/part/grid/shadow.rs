//! The shortest way to bring a display memory up to date.

use std::ops::Range;

/// The memory of a part as its driver knows it.
#[derive(Debug, Clone)]
pub struct Shadow {
    held: Vec<Option<u8>>,
    wanted: Vec<u8>,
}

impl Shadow {
    /// Creates a memory of this many bytes with unknown contents.
    #[must_use]
    pub fn new(bytes: usize) -> Self {
        Self { held: vec![None; bytes], wanted: vec![0; bytes] }
    }

    /// The intended byte.
    pub fn wanted_mut(&mut self) -> &mut [u8] {
        &mut self.wanted
    }

    /// The intended bytes.
    #[must_use]
    pub fn wanted(&self) -> &[u8] {
        &self.wanted
    }

    /// It holds what it is to hold: all was sent.
    pub fn sent(&mut self) {
        for (held, wanted) in self.held.iter_mut().zip(&self.wanted) {
            *held = Some(*wanted);
        }
    }

    /// The next run of bytes from `from` on that has to be sent. Runs with no more than `gap` unchanged bytes between
    /// are one, since a run of its own would take that many bytes for its beginning.
    #[must_use]
    pub fn next_run(&self, from: usize, gap: usize) -> Option<Range<usize>> {
        let changed = |index: &usize| self.held[*index] != Some(self.wanted[*index]);
        let begin = (from..self.held.len()).find(changed)?;
        let mut end = begin + 1;
        while let Some(next) = (end..self.held.len().min(end + gap + 1)).find(changed) {
            end = next + 1;
        }
        Some(begin..end)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn runs(held: &[u8], wanted: &[u8], gap: usize) -> Vec<Range<usize>> {
        let mut shadow = Shadow::new(held.len());
        shadow.wanted_mut().copy_from_slice(held);
        shadow.sent();
        shadow.wanted_mut().copy_from_slice(wanted);
        let mut runs: Vec<Range<usize>> = Vec::new();
        while let Some(run) = shadow.next_run(runs.last().map_or(0, |run| run.end), gap) {
            runs.push(run);
        }
        runs
    }

    #[test]
    fn runs_are_joined_where_that_is_no_longer() {
        assert!(runs(&[0; 6], &[0; 6], 1).is_empty());
        assert_eq!(runs(&[0; 6], &[1, 0, 1, 0, 0, 1], 1), [0..3, 5..6]);
        assert_eq!(runs(&[0; 6], &[1, 0, 1, 0, 0, 1], 2).first(), Some(&(0..6)));
        assert_eq!(runs(&[0; 6], &[0, 0, 0, 0, 0, 1], 9).first(), Some(&(5..6)));
    }
}
