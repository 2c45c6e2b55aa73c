//! Digits on the parts: which digit is which digit line of which part.

use super::facts;
use crate::glyph::BitOrder;
use crate::rig::End;

/// How digits, colons and lamps are wired.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DigitPlan {
    /// How many digits there are.
    pub digits: usize,
    /// Which end of the chain the controller feeds.
    pub first: End,
    /// Where digit line 0 of each part stands.
    pub digit_0: End,
    /// Which segment sits on which data bit, for a wide digit over two digit lines.
    pub order: BitOrder,
    /// True if the parts decode code B.
    pub decodes: bool,
    /// The place of each colon and lamp.
    pub extras: Vec<ExtraNode>,
}

/// The place of a colon or lamp, by the data sheet's names.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ExtraNode {
    /// The part, counted from the fed end.
    pub part: usize,
    /// The digit line.
    pub line: usize,
    /// The segment line.
    pub segment: &'static str,
}

impl DigitPlan {
    /// How many digit lines a digit takes: 1 or 2.
    fn lines_per_digit(&self) -> usize {
        if self.order.width() > facts::SEGMENTS { 2 } else { 1 }
    }

    /// How many digits a part has when all its lines are used.
    fn digits_per_part(&self) -> usize {
        facts::DIGITS / self.lines_per_digit()
    }

    /// How many parts there are.
    pub fn parts(&self) -> usize {
        self.digits.div_ceil(self.digits_per_part())
    }

    /// How many digit lines every part scans. All scan the same number, as a part that scans fewer is brighter. A line
    /// that has nothing but a lamp is scanned too.
    pub fn scanned(&self) -> usize {
        let of_digits = self.digits.min(self.digits_per_part()) * self.lines_per_digit();
        self.extras.iter().map(|extra| extra.line + 1).fold(of_digits, usize::max)
    }

    /// A place by its name: `digit4.a`, in a chain `part1.digit4.a`. Parts count from the one that the controller feeds;
    /// the given number of them come before the face's own.
    pub fn parse_extra(&self, name: &str, before: usize) -> Option<ExtraNode> {
        let (part, rest) = match name.strip_prefix("part") {
            Some(rest) => {
                let (part, rest) = rest.split_once('.')?;
                (part.parse::<usize>().ok()?.checked_sub(before)?, rest)
            }
            None => (0, name),
        };
        let (line, segment) = rest.strip_prefix("digit")?.split_once('.')?;
        let line: usize = line.parse().ok()?;
        let segment = facts::BIT_ORDER.split(' ').find(|known| *known == segment)?;
        (part < self.parts() && line < facts::DIGITS).then_some(ExtraNode { part, line, segment })
    }

    /// Part and first digit line of a digit counted from the left.
    pub(super) fn place(&self, digit: usize) -> (usize, usize) {
        let from_first = match self.first {
            End::Left => digit,
            End::Right => self.digits - 1 - digit,
        };
        let full = self.digits_per_part();
        let part = from_first / full;
        let on_part = (self.digits - part * full).min(full);
        let within = from_first % full;
        let place = if self.first == self.digit_0 { within } else { on_part - 1 - within };
        (part, place * self.lines_per_digit())
    }

    /// By part: the digit lines that have a digit, a bit each. Lines of lamps are not decoded.
    pub fn decoded(&self) -> Vec<u8> {
        let mut lines = vec![0; self.parts()];
        for (part, line) in (0..self.digits).map(|digit| self.place(digit)) {
            lines[part] |= 1 << line;
        }
        lines
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::glyph::Style;

    fn plan(style: Style, digits: usize, first: End, digit_0: End) -> DigitPlan {
        let order = BitOrder::parse(facts::bit_order(style), style).unwrap();
        DigitPlan { digits, first, digit_0, order, decodes: false, extras: Vec::new() }
    }

    fn places(digits: usize, first: End, digit_0: End) -> Vec<(usize, usize)> {
        let plan = plan(Style::Seven, digits, first, digit_0);
        (0..digits).map(|digit| plan.place(digit)).collect()
    }

    #[test]
    fn one_part_runs_from_the_end_where_digit_0_stands() {
        assert_eq!(places(3, End::Right, End::Right), [(0, 2), (0, 1), (0, 0)]);
        assert_eq!(places(3, End::Right, End::Left), [(0, 0), (0, 1), (0, 2)]);
        assert_eq!(places(3, End::Left, End::Right), [(0, 2), (0, 1), (0, 0)]);
    }

    #[test]
    fn a_wide_digit_takes_two_lines() {
        let plan = plan(Style::Fourteen, 6, End::Left, End::Left);
        let places: Vec<_> = (0..6).map(|digit| plan.place(digit)).collect();
        assert_eq!(places, [(0, 0), (0, 2), (0, 4), (0, 6), (1, 0), (1, 2)]);
        assert_eq!((plan.parts(), plan.scanned()), (2, 8));
    }

    #[test]
    fn the_last_fed_part_has_the_digits_that_are_left() {
        let right = places(10, End::Right, End::Right);
        assert_eq!(right[..3], [(1, 1), (1, 0), (0, 7)]);
        let left = places(10, End::Left, End::Right);
        assert_eq!(left[6..], [(0, 1), (0, 0), (1, 1), (1, 0)]);
    }
}
