//! Numbers as texts for a few digits.
//!
//! One formatter serves every command and act. Values are decimal and exact, so that 0.1 is 0.1; rounding
//! takes ties away from zero, as people do on paper (2.5 becomes 3, -2.5 becomes -3), and a number that
//! rounds to zero has no sign (-0.04 at one place is 0.0). A number is never cut: it fits, or the
//! caller gets an error.

use std::fmt;
use std::str::FromStr;

use serde::Deserialize;

use super::text;
use crate::face::Face;
use crate::words::words;

/// A decimal number: `mantissa / 10^scale`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Decimal {
    mantissa: i128,
    scale: u32,
}

/// The most decimal digits that a [`Decimal`] holds; sums and scalings of it then stay within 128 bits.
const MAX_DIGITS: usize = 27;

/// Why a text is not a number.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "'{found}' is not a number; write digits with at most one point, such as 48, -0.4 or 0x1F, {MAX_DIGITS} digits at most"
)]
pub struct DecimalError {
    /// The text as it was found.
    pub found: String,
}

impl From<i64> for Decimal {
    fn from(value: i64) -> Self {
        Self { mantissa: value.into(), scale: 0 }
    }
}

impl FromStr for Decimal {
    type Err = DecimalError;

    fn from_str(text: &str) -> Result<Self, DecimalError> {
        let error = || DecimalError { found: text.to_owned() };
        let unsigned = text.strip_prefix(['-', '+']).unwrap_or(text);
        let sign = if text.starts_with('-') { -1 } else { 1 };
        let bases = [("0x", 16), ("0X", 16), ("0b", 2), ("0B", 2), ("0o", 8)];
        if let Some((digits, radix)) =
            bases.iter().find_map(|(mark, radix)| Some((unsigned.strip_prefix(mark)?, radix)))
        {
            let sound = !digits.starts_with(['-', '+']);
            let size = u64::from_str_radix(digits, *radix).ok().filter(|_| sound).ok_or_else(error)?;
            return Ok(Self { mantissa: sign * i128::from(size), scale: 0 });
        }
        let (whole, fraction) = unsigned.split_once('.').unwrap_or((unsigned, ""));
        let digits = format!("{whole}{fraction}");
        let sound = !digits.is_empty() && digits.bytes().all(|byte| byte.is_ascii_digit());
        if !sound || digits.len() > MAX_DIGITS {
            return Err(error());
        }
        let mantissa: i128 = digits.parse().map_err(|_| error())?;
        Ok(Self { mantissa: sign * mantissa, scale: fraction.len() as u32 })
    }
}

impl Decimal {
    /// The number `mantissa / 10^scale`.
    #[must_use]
    pub const fn new(mantissa: i128, scale: u32) -> Self {
        Self { mantissa, scale }
    }

    /// How many places it was given with.
    #[must_use]
    pub const fn places(self) -> u32 {
        self.scale
    }

    /// The number in units of `10^-places`, of which there are at least as many as it was given with.
    #[must_use]
    pub fn in_units(self, places: u32) -> i128 {
        self.rounded(places)
    }

    /// The number in units of `10^-places`, rounded, ties away from zero.
    fn rounded(self, places: u32) -> i128 {
        match places.checked_sub(self.scale) {
            Some(more) => self.mantissa.saturating_mul(power_of_ten(more)),
            None => {
                let divisor = power_of_ten(self.scale - places);
                let (quotient, rest) = (self.mantissa / divisor, self.mantissa % divisor);
                let away = rest.unsigned_abs() * 2 >= divisor.unsigned_abs();
                quotient + if away { self.mantissa.signum() } else { 0 }
            }
        }
    }

    /// The number times a power of ten, from -18 to 18.
    #[must_use]
    pub fn times_ten(self, power: i128) -> Self {
        let powers = power.unsigned_abs().min(18) as u32;
        if power < 0 {
            return self.shifted(powers);
        }
        Self { mantissa: self.mantissa.saturating_mul(power_of_ten(powers)), ..self }
    }

    /// The number divided by `10^powers`.
    const fn shifted(self, powers: u32) -> Self {
        Self { scale: self.scale + powers, ..self }
    }

    /// Returns true if it is less than another.
    #[must_use]
    pub fn is_less(self, other: Self) -> bool {
        self.compared(&other).is_lt()
    }

    /// Which of two is less. Numbers of the same size written with other places are equal, which `==` does not say of them.
    #[must_use]
    pub fn compared(&self, other: &Self) -> std::cmp::Ordering {
        let scale = self.scale.max(other.scale);
        self.rounded(scale).cmp(&other.rounded(scale))
    }

    /// The sum of the two.
    #[must_use]
    pub fn plus(self, other: Self) -> Self {
        let scale = self.scale.max(other.scale);
        Self { mantissa: self.rounded(scale).saturating_add(other.rounded(scale)), scale }
    }

    /// How far it is from another.
    #[must_use]
    pub fn distance(self, other: Self) -> Self {
        let scale = self.scale.max(other.scale);
        Self { mantissa: self.rounded(scale).saturating_sub(other.rounded(scale)).saturating_abs(), scale }
    }
}

const fn power_of_ten(power: u32) -> i128 {
    10_i128.saturating_pow(power)
}

words! {
    /// The base in which a whole number is written.
    #[derive(Default)]
    pub enum Radix {
        /// Base 10.
        #[default]
        Decimal = "decimal",
        /// Base 16.
        Hex = "hex",
        /// Base 8.
        Octal = "octal",
        /// Base 2.
        Binary = "binary",
    }
}

/// The form in which a number is written. The doc comments describe the keys of a reel file too.
#[derive(Debug, Clone, Default, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default)]
pub struct NumberFormat {
    /// Places after the point [default: the places of the number itself]
    pub places: Option<u32>,
    /// The base of a whole number
    pub radix: Radix,
    /// Fill up with leading zeros
    pub zeros: bool,
    /// Write a plus before a number that is not negative
    pub plus: bool,
    /// Write a point after each three digits of a whole number
    pub thousands: bool,
    /// The unit behind the number: "m"
    pub unit: String,
    /// Drop places until the number fits
    pub shortest: bool,
    /// From a thousand on, write three digits and k, M, G or T
    pub engineering: bool,
    /// The lowest number that is shown; `under` is shown below it
    pub least: Option<Decimal>,
    /// The highest number that is shown; `over` is shown above it
    pub most: Option<Decimal>,
    /// The text for numbers below `least`, and for negative ones that are too long [default: dashes]
    pub under: String,
    /// The text for numbers above `most`, and for others that are too long [default: dashes]
    pub over: String,
}

/// Why a number is not shown.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum NumberError {
    /// It needs more digits than there are.
    #[error("{number} takes {needed} digits; there are {digits}")]
    TooLong {
        /// The number as it would be written.
        number: String,
        /// The digits it takes.
        needed: usize,
        /// The digits there are.
        digits: usize,
    },
    /// Places in a base other than ten.
    #[error("only a decimal number has places; a base other than ten has none")]
    NoPlaces,
    /// A base other than ten for a number that is not whole.
    #[error("only a whole number can be written in this base; found {number}")]
    NotWhole {
        /// The number in decimal.
        number: String,
    },
}

/// The room for a number: the number of digits, and whether their points can be lit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Room {
    /// How many digits.
    pub digits: usize,
    /// True if a point folds into the digit before it.
    pub points: bool,
}

impl Room {
    /// All digits of a face.
    #[must_use]
    pub const fn of(face: &Face) -> Self {
        Self { digits: face.digits(), points: face.points }
    }

    /// How many digits a text takes.
    fn taken(self, text: &str) -> usize {
        text::cells(text, self.points).count()
    }
}

impl NumberFormat {
    /// Writes a number that must fit.
    ///
    /// # Errors
    /// When it takes more digits than there are, or is not whole where it must be. A number beyond the limits
    /// is not an error: its words, or dashes, are written.
    pub fn write(&self, value: Decimal, room: Room) -> Result<String, NumberError> {
        if self.least.is_some_and(|least| value.is_less(least)) {
            return Ok(stand_in(&self.under, room));
        }
        if self.most.is_some_and(|most| most.is_less(value)) {
            return Ok(stand_in(&self.over, room));
        }
        if self.radix != Radix::Decimal && self.places.is_some_and(|places| places > 0) {
            return Err(NumberError::NoPlaces);
        }
        let most = self.places.unwrap_or(value.scale);
        let fewest = if self.shortest { 0 } else { most };
        let mut number = String::new();
        for places in (fewest..=most).rev() {
            number = self.at_places(value, places, room)?;
            if room.taken(&number) <= room.digits {
                return Ok(number);
            }
        }
        let needed = room.taken(&number);
        Err(NumberError::TooLong { number, needed, digits: room.digits })
    }

    /// Writes a number in live content, where there is nobody to tell: what does not fit is replaced by the
    /// words for its side, or by dashes over the whole room. Never by a part of the number.
    #[must_use]
    pub fn write_live(&self, value: Decimal, room: Room) -> String {
        let words = if value.mantissa < 0 { &self.under } else { &self.over };
        self.write(value, room).unwrap_or_else(|_| stand_in(words, room))
    }

    fn at_places(&self, value: Decimal, places: u32, room: Room) -> Result<String, NumberError> {
        let (units, places, suffix) = match self.engineering.then(|| engineering(value, places)).flatten() {
            Some(shortened) => shortened,
            None if self.radix == Radix::Decimal => (value.rounded(places), places, ""),
            None => (value.rounded(0), 0, ""),
        };
        let sign = match units {
            ..0 => "-",
            _ if self.plus => "+",
            _ => "",
        };
        let size = units.unsigned_abs();
        let digits = match self.radix {
            Radix::Decimal => with_point(size, places),
            _ if value.scale > 0
                && value.rounded(0).saturating_mul(power_of_ten(value.scale)) != value.mantissa =>
            {
                return Err(NumberError::NotWhole { number: value.to_string() });
            }
            Radix::Hex => format!("{size:X}"),
            Radix::Octal => format!("{size:o}"),
            Radix::Binary => format!("{size:b}"),
        };
        let filled = |zeros: usize| {
            let digits = format!("{}{digits}", "0".repeat(zeros));
            let digits = if self.thousands && places == 0 { with_thousands(&digits) } else { digits };
            format!("{sign}{digits}{suffix}{}", self.unit)
        };
        if !self.zeros {
            return Ok(filled(0));
        }
        // Where points take digits of their own, a zero more may take two.
        let spare = room.digits.saturating_sub(room.taken(&filled(0)));
        let fits = |zeros: &usize| room.taken(&filled(*zeros)) <= room.digits;
        Ok(filled((0..=spare).rev().find(fits).unwrap_or(0)))
    }
}

impl fmt::Display for Decimal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let sign = if self.mantissa < 0 { "-" } else { "" };
        write!(f, "{sign}{}", with_point(self.mantissa.unsigned_abs(), self.scale))
    }
}

/// The word, where it fits, or dashes over the whole room.
fn stand_in(word: &str, room: Room) -> String {
    if word.is_empty() || room.taken(word) > room.digits { "-".repeat(room.digits) } else { word.to_owned() }
}

/// A size in units of `10^-places` with its point.
fn with_point(size: u128, places: u32) -> String {
    let places = places as usize;
    if places == 0 {
        return size.to_string();
    }
    let digits = format!("{size:0>width$}", width = places + 1);
    let (whole, fraction) = digits.split_at(digits.len() - places);
    format!("{whole}.{fraction}")
}

fn with_thousands(digits: &str) -> String {
    let first = digits.len() % 3;
    let mut grouped = digits[..first].to_owned();
    for group in digits.as_bytes()[first..].chunks(3) {
        if !grouped.is_empty() {
            grouped.push('.');
        }
        grouped.extend(group.iter().map(|byte| char::from(*byte)));
    }
    grouped
}

/// A number that is a thousand or more at so many places, by its three leading digits: units, places and suffix.
fn engineering(value: Decimal, places: u32) -> Option<(i128, u32, &'static str)> {
    const SUFFIXES: [(&str, u32); 4] = [("k", 3), ("M", 6), ("G", 9), ("T", 12)];
    if value.rounded(places).unsigned_abs() < power_of_ten(places).unsigned_abs().saturating_mul(1000) {
        return None;
    }
    let forms = SUFFIXES.iter().flat_map(|(suffix, powers)| {
        (0..=2).rev().map(move |places| (value.shifted(*powers).rounded(places), places, *suffix))
    });
    // The first form of three digits at most; rounding may make 999.9k four, and then it is 1.00M.
    forms.into_iter().find(|(units, _, _)| units.unsigned_abs() < 1000)
}

#[cfg(test)]
mod tests {
    use super::*;

    const ROOM: Room = Room { digits: 8, points: true };

    fn decimal(text: &str) -> Decimal {
        text.parse().unwrap()
    }

    fn at(places: u32, value: &str) -> String {
        NumberFormat { places: Some(places), ..NumberFormat::default() }.write(decimal(value), ROOM).unwrap()
    }

    #[test]
    fn ties_go_away_from_zero_and_nothing_has_no_sign() {
        assert_eq!(at(0, "2.5"), "3");
        assert_eq!(at(0, "-2.5"), "-3");
        assert_eq!(at(0, "2.49999"), "2");
        assert_eq!(at(1, "-0.04"), "0.0");
        assert_eq!(at(1, "-0.05"), "-0.1");
        assert_eq!(at(2, "1.005"), "1.01", "exact, unlike a binary fraction");
        assert_eq!(at(3, "7"), "7.000");
        assert_eq!(at(1, ".5"), "0.5");
    }

    #[test]
    fn what_is_not_a_number_is_refused() {
        for text in
            ["", "-", ".", "1.2.3", "0x", "0x-1", "0b12", "1e3", "NaN", " 1", "1234567890123456789012345678"]
        {
            assert_eq!(text.parse::<Decimal>().unwrap_err().found, text);
        }
    }

    #[test]
    fn no_place_is_dropped_unless_places_say_so() {
        let write = |format: NumberFormat, value| format.write(decimal(value), ROOM).unwrap();
        let usual = NumberFormat::default;
        assert_eq!(write(usual(), "3.7"), "3.7");
        assert_eq!(write(NumberFormat { unit: "m".into(), ..usual() }, "4.20"), "4.20m");
        assert_eq!(write(NumberFormat { places: Some(0), ..usual() }, "3.7"), "4");
        let engineering = |places, value| write(NumberFormat { places, engineering: true, ..usual() }, value);
        assert_eq!(engineering(Some(2), "999.5"), "999.50");
        assert_eq!(engineering(Some(0), "999.5"), "1.00k");
        assert_eq!(engineering(None, "999.5"), "999.5");
    }

    #[test]
    fn units_signs_zeros_and_bases() {
        let write = |format: NumberFormat, value| format.write(decimal(value), ROOM).unwrap();
        let usual = NumberFormat::default;
        assert_eq!(write(NumberFormat { places: Some(1), unit: "m".into(), ..usual() }, "4.2"), "4.2m");
        assert_eq!(write(NumberFormat { unit: "\u{b0}C".into(), plus: true, ..usual() }, "12"), "+12\u{b0}C");
        assert_eq!(write(NumberFormat { zeros: true, ..usual() }, "-48"), "-0000048");
        assert_eq!(write(NumberFormat { zeros: true, places: Some(2), ..usual() }, "1.5"), "000001.50");
        assert_eq!(write(NumberFormat { radix: Radix::Hex, ..usual() }, "-31"), "-1F");
        assert_eq!(write(NumberFormat { radix: Radix::Octal, ..usual() }, "8.0"), "10");
        assert_eq!(write(NumberFormat { radix: Radix::Binary, zeros: true, ..usual() }, "5"), "00000101");
        assert_eq!(write(NumberFormat { thousands: true, ..usual() }, "-1234567"), "-1.234.567");
        assert_eq!(write(NumberFormat { thousands: true, ..usual() }, "123"), "123");
        assert_eq!(write(NumberFormat { thousands: true, zeros: true, ..usual() }, "1234"), "00.001.234");
        let commas = Room { digits: 8, points: false };
        let grouped = NumberFormat { thousands: true, zeros: true, ..usual() };
        assert_eq!(
            grouped.write(decimal("1234"), commas).unwrap(),
            "001.234",
            "another zero would take two digits"
        );
        assert_eq!(write(NumberFormat { radix: Radix::Hex, ..usual() }, "0xBEEF"), "BEEF");
        assert_eq!(write(usual(), "-0b101"), "-5");
        let placed = NumberFormat { radix: Radix::Hex, places: Some(1), ..usual() };
        assert_eq!(placed.write(decimal("31"), ROOM), Err(NumberError::NoPlaces));
        let hex = NumberFormat { radix: Radix::Hex, ..usual() };
        assert_eq!(hex.write(decimal("1.5"), ROOM), Err(NumberError::NotWhole { number: "1.5".into() }));
    }

    #[test]
    fn large_counts_by_their_three_leading_digits() {
        let engineering = NumberFormat { engineering: true, ..NumberFormat::default() };
        for (value, text) in [
            ("999", "999"),
            ("1000", "1.00k"),
            ("12345", "12.3k"),
            ("-999949", "-1.00M"),
            ("999499", "999k"),
            ("123456789012", "123G"),
        ] {
            assert_eq!(engineering.write(decimal(value), ROOM).unwrap(), text);
        }
    }

    #[test]
    fn the_shortest_form_that_fits() {
        let shortest = NumberFormat { places: Some(3), shortest: true, ..NumberFormat::default() };
        let write = |value, digits| shortest.write(decimal(value), Room { digits, points: true });
        assert_eq!(write("3.14159", 4).unwrap(), "3.142");
        assert_eq!(write("31.4159", 4).unwrap(), "31.42");
        assert_eq!(write("-314.159", 4).unwrap(), "-314");
        assert!(matches!(write("31415.9", 4), Err(NumberError::TooLong { needed: 5, digits: 4, .. })));
    }

    #[test]
    fn a_number_is_never_cut() {
        let room = Room { digits: 3, points: true };
        let plain = NumberFormat::default();
        assert_eq!(plain.write_live(decimal("1234"), room), "---");
        let words = NumberFormat { under: "LO".into(), over: "HI".into(), ..NumberFormat::default() };
        assert_eq!(words.write_live(decimal("1234"), room), "HI");
        assert_eq!(words.write_live(decimal("-123"), room), "LO");
        let limited = NumberFormat { least: Some(decimal("-0.5")), most: Some(decimal("9.9")), ..words };
        assert_eq!(limited.write(decimal("-0.51"), room).unwrap(), "LO");
        assert_eq!(limited.write(decimal("9.91"), room).unwrap(), "HI");
        assert_eq!(limited.write(decimal("9.9"), room).unwrap(), "9.9");
    }

    #[test]
    fn a_point_without_a_light_takes_a_digit() {
        let tenth = NumberFormat { places: Some(1), ..NumberFormat::default() };
        let room = |points| Room { digits: 2, points };
        assert_eq!(tenth.write(decimal("4.2"), room(true)).unwrap(), "4.2");
        assert!(tenth.write(decimal("4.2"), room(false)).is_err());
    }
}
