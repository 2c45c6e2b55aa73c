//! Package pinouts: which pin of a bare display is what, pins counted as on any DIL package seen from the front.

use std::ops::RangeInclusive;

use super::Spanned;
use super::finding::{Findings, Problem};
use super::text_or_list::TextOrList;
use crate::face::Face;
use crate::glyph::Style;

/// The connection of a pin inside a display.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Function {
    /// A segment, by its place in the style's order; of all digits, where they are joined.
    Segment(usize),
    /// The common side of a digit, counted from the left.
    Digit(usize),
    /// The lights of a row of dots, counted from the top.
    Row(usize),
    /// The lights of a column of dots, counted from the left.
    Column(usize),
    /// The common side of the only digit.
    Common,
    /// Nothing.
    Nothing,
}

/// The pins of a display.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Package {
    /// `quad-12`, or `own` for a table in the rig.
    pub name: String,
    /// The function of each pin, pin 1 first.
    pub pins: Vec<Function>,
}

/// The built-in packages, pin 1 first. The digits and rows and columns of a data sheet count from 1, ours from 0.
const BUILT_IN: [(&str, &str); 3] = [
    ("single-10", "e d common c dp b a common f g"),
    ("quad-12", "e d dp c g digit3 b digit2 digit1 f a digit0"),
    (
        "dots-16",
        "row4 row6 column1 column2 row7 column4 row5 row2 row0 column3 column5 row3 column0 row1 column6 column7",
    ),
];

/// The key `package`: the name of a built-in one, or what its pins are from pin 1 on.
pub type Key = TextOrList<Spanned<String>>;

impl Function {
    /// A function by its name: a segment, `digit0`, `row0`, `column0`, `common`, or `-`.
    fn parse(name: &str, style: Style) -> Option<Self> {
        let numbered = |prefix: &str| name.strip_prefix(prefix)?.parse().ok();
        match name {
            "-" => Some(Self::Nothing),
            "common" => Some(Self::Common),
            _ => style
                .segment_index(name)
                .map(Self::Segment)
                .or_else(|| numbered("digit").map(Self::Digit))
                .or_else(|| numbered("row").map(Self::Row))
                .or_else(|| numbered("column").map(Self::Column)),
        }
    }

    /// The name, as in a rig.
    #[must_use]
    pub fn name(self, style: Style) -> String {
        match self {
            Self::Segment(index) => style.segment_names().get(index).copied().unwrap_or("-").to_owned(),
            Self::Digit(digit) => format!("digit{digit}"),
            Self::Row(row) => format!("row{row}"),
            Self::Column(column) => format!("column{column}"),
            Self::Common => "common".to_owned(),
            Self::Nothing => "-".to_owned(),
        }
    }

    /// Returns true if a face has it.
    fn is_of(self, face: &Face) -> bool {
        match self {
            Self::Segment(_) => face.digits() > 0,
            // Several digits may each have a package of their own.
            Self::Common => face.digits() > 0,
            // A colon may have a common side of its own, beyond the digits.
            Self::Digit(digit) => face.digits() > 1 && digit <= face.digits(),
            Self::Row(row) => face.dots().is_some_and(|grid| row < grid.height),
            Self::Column(column) => face.dots().is_some_and(|grid| column < grid.width),
            Self::Nothing => true,
        }
    }
}

impl Package {
    /// The built-in package of this name.
    #[must_use]
    pub fn built_in(name: &str) -> Option<Self> {
        let (_, pins) = BUILT_IN.iter().find(|(known, _)| *known == name)?;
        let pins = pins.split(' ').filter_map(|pin| Function::parse(pin, Style::Seven)).collect();
        Some(Self { name: name.to_owned(), pins })
    }

    /// From the key of a face. `None` when it was left out or an error was found.
    pub fn plan(key: Option<&Spanned<Key>>, face: &Face, findings: &Findings) -> Option<Self> {
        let key = key?;
        let package = match key.get_ref() {
            Key::Text(name) => Self::built_in(name).or_else(|| {
                let names = BUILT_IN.map(|(name, _)| name);
                findings.stop(key.span(), Problem::unknown_name("package", name, &names))
            })?,
            Key::List(pins) => {
                let function = |pin: &Spanned<String>| {
                    let function = Function::parse(pin.get_ref(), face.style());
                    if function.is_none() {
                        let allowed = "a segment, digit0, row0, column0, common, or - for nothing".into();
                        let found = format!("{:?}", pin.get_ref());
                        findings.error(pin.span(), Problem::WrongValue { found, allowed });
                    }
                    function
                };
                let pins = pins.iter().map(function).collect::<Option<_>>()?;
                Self { name: "own".to_owned(), pins }
            }
        };
        if let Some(stray) = package.pins.iter().find(|function| !function.is_of(face)) {
            let function = stray.name(face.style());
            return findings
                .stop(key.span(), Problem::PackageOfOther { package: package.name.clone(), function });
        }
        package.check(key, face, findings).then_some(package)
    }

    /// Reports what the face needs and the package lacks, and what is at more pins than can be; returns true if it is sound.
    fn check(&self, key: &Spanned<Key>, face: &Face, findings: &Findings) -> bool {
        let count = |function| self.pins_of(function).count();
        let style = face.style();
        let has_digits = self.pins.iter().any(|function| matches!(function, Function::Digit(_)));
        // Each function with the least and the most pins that it may have. The point may be missing, and a common side may
        // be at several pins.
        let mut needed: Vec<(Function, RangeInclusive<usize>)> = Vec::new();
        if let Some(grid) = face.dots() {
            needed.extend((0..grid.height).map(|row| (Function::Row(row), 1..=1)));
            needed.extend((0..grid.width).map(|column| (Function::Column(column), 1..=1)));
        } else {
            let least = |segment| usize::from(segment != style.point_index());
            needed.extend(
                (0..style.segment_count()).map(|segment| (Function::Segment(segment), least(segment)..=1)),
            );
            if has_digits {
                needed.extend((0..face.digits()).map(|digit| (Function::Digit(digit), 1..=usize::MAX)));
                needed.push((Function::Common, 0..=0));
            } else {
                needed.push((Function::Common, 1..=usize::MAX));
            }
        }
        let mut is_sound = true;
        for (function, allowed) in needed {
            let found = count(function);
            if !allowed.contains(&found) {
                is_sound = false;
                let (package, function) = (self.name.clone(), function.name(style));
                findings.error(key.span(), Problem::PackageCount { package, function, found });
            }
        }
        is_sound
    }

    /// Returns true if each digit of the face has such a package of its own.
    #[must_use]
    pub fn is_of_each_digit(&self, face: &Face) -> bool {
        face.digits() > 1 && !self.pins.iter().any(|function| matches!(function, Function::Digit(_)))
    }

    /// The pins with this function, counted from 1.
    pub fn pins_of(&self, function: Function) -> impl Iterator<Item = usize> {
        let pins = self.pins.iter().enumerate();
        pins.filter(move |(_, found)| **found == function).map(|(pin, _)| pin + 1)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_quad_of_twelve_pins() {
        let quad = Package::built_in("quad-12").unwrap();
        let pins: Vec<_> = "abcdefg"
            .chars()
            .map(|name| {
                let segment = Style::Seven.segment_index(&name.to_string()).unwrap();
                quad.pins_of(Function::Segment(segment)).next().unwrap()
            })
            .collect();
        assert_eq!(pins, [11, 7, 4, 2, 1, 10, 5]);
        let digits: Vec<_> = (0..4).flat_map(|digit| quad.pins_of(Function::Digit(digit))).collect();
        assert_eq!(digits, [12, 9, 8, 6]);
    }

    #[test]
    fn every_line_of_the_dots_has_a_pin() {
        let dots = Package::built_in("dots-16").unwrap();
        let rows: Vec<_> = (0..8).flat_map(|row| dots.pins_of(Function::Row(row))).collect();
        let columns: Vec<_> = (0..8).flat_map(|column| dots.pins_of(Function::Column(column))).collect();
        assert_eq!((rows, columns), (vec![9, 14, 8, 12, 1, 7, 2, 5], vec![13, 3, 4, 10, 6, 11, 15, 16]));
    }

    #[test]
    fn a_single_digit_has_two_common_pins() {
        let single = Package::built_in("single-10").unwrap();
        assert_eq!(single.pins_of(Function::Common).collect::<Vec<_>>(), [3, 8]);
    }
}
