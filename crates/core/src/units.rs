//! Units as types, and durations as people write them.

use std::fmt;
use std::ops::Range;
use std::time::Duration;

/// A number of things: `1 byte`, `2 bytes`.
#[must_use]
pub fn counted(count: usize, one: &str, several: &str) -> String {
    format!("{count} {}", if count == 1 { one } else { several })
}

/// A frequency in hertz.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Hertz(pub u32);

impl Hertz {
    /// Half a period, rounded up to whole nanoseconds so that a clock is never faster than it says.
    #[must_use]
    pub const fn half_period(self) -> Nanos {
        Nanos(1_000_000_000_u64.div_ceil(2 * self.0 as u64))
    }
}

impl fmt::Display for Hertz {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.0 {
            hz if hz >= 1_000_000 => write!(f, "{} MHz", f64::from(hz) / 1e6),
            hz if hz >= 1_000 => write!(f, "{} kHz", f64::from(hz) / 1e3),
            hz => write!(f, "{hz} Hz"),
        }
    }
}

/// Why a text is not a frequency.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("'{found}' is not a frequency; write a number and a unit: 400kHz, 1MHz, 24MHz")]
pub struct HertzError {
    /// The text as it was found.
    pub found: String,
}

impl std::str::FromStr for Hertz {
    type Err = HertzError;

    /// From `400kHz`, `1.5 MHz`, `100Hz`, up to 4 GHz.
    fn from_str(text: &str) -> Result<Self, HertzError> {
        let error = || HertzError { found: text.to_owned() };
        let digits = text.trim_end_matches(|c: char| c.is_alphabetic());
        let factor = match text[digits.len()..].to_ascii_lowercase().as_str() {
            "hz" => 1.0,
            "khz" => 1e3,
            "mhz" => 1e6,
            _ => return Err(error()),
        };
        let hertz = digits.trim().parse::<f64>().map_err(|_| error())? * factor;
        if (1.0..=4e9).contains(&hertz) { Ok(Self(hertz.round() as u32)) } else { Err(error()) }
    }
}

/// A time on a bus, in nanoseconds since the first operation. 64 bits last 584 years.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Nanos(pub u64);

impl Nanos {
    /// The same time in microseconds, with its fraction.
    #[must_use]
    pub fn as_micros(self) -> f64 {
        self.0 as f64 / 1e3
    }

    /// As [`parse_duration`] reads it, in the largest unit in which it is a whole number: `250ms`.
    #[must_use]
    pub fn written(self) -> String {
        let units = [("s", 1_000_000_000), ("ms", 1_000_000), ("us", 1_000)];
        let whole = units.iter().find(|(_, nanos)| self.0.is_multiple_of(*nanos));
        whole.map_or_else(|| format!("{}ns", self.0), |(unit, nanos)| format!("{}{unit}", self.0 / nanos))
    }
}

impl fmt::Display for Nanos {
    /// In the unit that suits it: `30 us`, `2.08 ms`, three digits and no more.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let nanos = self.0 as f64;
        let (value, unit) = match self.0 {
            0..1_000 => return write!(f, "{} ns", self.0),
            1_000..1_000_000 => (nanos / 1e3, "us"),
            1_000_000..1_000_000_000 => (nanos / 1e6, "ms"),
            _ => (nanos / 1e9, "s"),
        };
        let places = if value < 9.995 { 2 } else { usize::from(value < 99.95) };
        let text = format!("{value:.places$}");
        let text = if places > 0 { text.trim_end_matches('0').trim_end_matches('.') } else { &text };
        write!(f, "{text} {unit}")
    }
}

impl std::ops::Add for Nanos {
    type Output = Self;
    fn add(self, later: Self) -> Self {
        Self(self.0.saturating_add(later.0))
    }
}

impl std::ops::Sub for Nanos {
    type Output = Self;
    /// The time between; zero when `earlier` is the later one.
    fn sub(self, earlier: Self) -> Self {
        Self(self.0.saturating_sub(earlier.0))
    }
}

impl From<Duration> for Nanos {
    fn from(duration: Duration) -> Self {
        Self(u64::try_from(duration.as_nanos()).unwrap_or(u64::MAX))
    }
}

impl From<Nanos> for Duration {
    fn from(nanos: Nanos) -> Self {
        Self::from_nanos(nanos.0)
    }
}

/// A voltage in volts.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct Volts(pub f64);

impl std::ops::Sub for Volts {
    type Output = Self;
    fn sub(self, other: Self) -> Self {
        Self(self.0 - other.0)
    }
}

/// A current in milliamperes.
#[derive(Debug, Clone, Copy, Default, PartialEq, PartialOrd)]
pub struct Milliamps(pub f64);

impl std::ops::Mul<f64> for Milliamps {
    type Output = Self;
    fn mul(self, factor: f64) -> Self {
        Self(self.0 * factor)
    }
}

impl fmt::Display for Milliamps {
    /// With three digits at most: `0.12 mA`, `8.6 mA`, `112 mA`, `2.98 A`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.0.abs() >= 999.5 {
            return write!(f, "{} A", (self.0 / 10.0).round() / 100.0);
        }
        let places = match self.0.abs() {
            size if size < 0.995 => 2,
            size if size < 99.95 => 1,
            _ => 0,
        };
        let text = format!("{:.places$}", self.0);
        let text = if places > 0 { text.trim_end_matches('0').trim_end_matches('.') } else { &text };
        write!(f, "{text} mA")
    }
}

/// A resistance in ohms.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct Ohms(pub f64);

impl Ohms {
    /// The current that flows through it with so much voltage across it (Ohm's law).
    #[must_use]
    pub fn passes(self, across: Volts) -> Milliamps {
        Milliamps(1e3 * across.0 / self.0)
    }
}

impl fmt::Display for Ohms {
    /// `220 ohm`, `4.7 kilohm`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.0 {
            ohms if ohms >= 1e6 => write!(f, "{} megohm", ohms / 1e6),
            ohms if ohms >= 1e3 => write!(f, "{} kilohm", ohms / 1e3),
            ohms => write!(f, "{ohms} ohm"),
        }
    }
}

/// A capacitance in microfarads.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct Microfarads(pub f64);

impl fmt::Display for Microfarads {
    /// `100 nF`, `10 uF`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.0 < 1.0 { write!(f, "{} nF", (self.0 * 1e3).round()) } else { write!(f, "{} uF", self.0) }
    }
}

impl fmt::Display for Volts {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} V", self.0)
    }
}

/// Why a text is not a duration.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("'{found}' is not a duration; write a number and a unit: 30us, 250ms, 1.5s, 2m or 1h")]
pub struct DurationError {
    /// The text as it was found.
    pub found: String,
}

/// The units of a duration, each with its length in nanoseconds. The longer names come first, so that
/// `ms` is not read as minutes.
const DURATION_UNITS: [(&str, f64); 6] =
    [("ns", 1.0), ("us", 1e3), ("ms", 1e6), ("s", 1e9), ("m", 60e9), ("h", 3600e9)];

/// Reads a duration such as `30us`, `250ms`, `1.5s` or `2m`, exact to the nanosecond, up to a hundred years.
///
/// # Errors
/// When the unit is missing or unknown, or the number is negative, not a number or too large.
pub fn parse_duration(text: &str) -> Result<Duration, DurationError> {
    let error = || DurationError { found: text.to_owned() };
    let text = text.trim();
    let digits = text.trim_end_matches(|c: char| c.is_alphabetic());
    let (number, unit) = text.split_at(digits.len());
    let (_, nanos) = DURATION_UNITS.iter().find(|(name, _)| *name == unit).ok_or_else(error)?;
    let number: f64 = number.trim_end().parse().map_err(|_| error())?;
    const HUNDRED_YEARS_NS: f64 = 100.0 * 365.25 * 86_400e9;
    let nanos = (number * nanos).round();
    if !(0.0..=HUNDRED_YEARS_NS).contains(&nanos) {
        return Err(error());
    }
    Ok(Duration::from_nanos(nanos as u64))
}

/// The preferred values of a decade (IEC 60063).
pub const E12: [f64; 12] = [1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2];
/// The finer series.
pub const E24: [f64; 24] = [
    1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8,
    7.5, 8.2, 9.1,
];

/// All values of a series in these decades of ohms, the smallest first.
pub fn values(series: &[f64], decades: Range<i32>) -> impl Iterator<Item = Ohms> {
    let values = decades.flat_map(|decade| series.iter().map(move |value| value * 10_f64.powi(decade)));
    // The decades are powers of ten, which binary fractions only come near to.
    values.map(|value| Ohms((value * 1e3).round() / 1e3))
}

/// The value of the series E12 that is nearest by ratio.
#[must_use]
pub fn nearest_e12(ohms: Ohms) -> Ohms {
    nearest(ohms, &E12)
}

/// The value of a series that is nearest by ratio.
#[must_use]
pub fn nearest(ohms: Ohms, series: &[f64]) -> Ohms {
    let decade = ohms.0.log10().floor() as i32;
    let tried =
        (decade - 1..=decade + 1).flat_map(|decade| series.iter().map(move |v| v * 10_f64.powi(decade)));
    let away = |value: &f64| (value / ohms.0).ln().abs();
    let value = tried.min_by(|a, b| away(a).total_cmp(&away(b))).unwrap_or(ohms.0);
    // The decades are powers of ten, which binary fractions only come near to.
    Ohms((value * 1e3).round() / 1e3)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn durations_are_read_with_their_unit() {
        for (text, nanos) in
            [("30us", 30_000), ("250ms", 250_000_000), ("1.5s", 1_500_000_000), ("2 m", 120_000_000_000)]
        {
            assert_eq!(parse_duration(text).unwrap(), Duration::from_nanos(nanos), "{text}");
        }
    }

    #[test]
    fn a_duration_without_unit_or_sense_is_refused() {
        for text in ["", "5", "s", "-1s", "1e99s", "NaNs", "infs", "1.5 fortnights"] {
            assert_eq!(parse_duration(text).unwrap_err().found, text);
        }
    }

    #[test]
    fn frequencies_are_read_with_their_unit() {
        assert_eq!(("400kHz".parse(), "1.5 MHz".parse()), (Ok(Hertz(400_000)), Ok(Hertz(1_500_000))));
        assert!(
            ["", "5", "Hz", "0Hz", "-1Hz", "9999999MHz"].iter().all(|text| text.parse::<Hertz>().is_err())
        );
    }

    #[test]
    fn a_clock_is_never_faster_than_it_says() {
        assert_eq!(Hertz(10_000_000).half_period(), Nanos(50));
        assert_eq!(Hertz(3_000_000).half_period(), Nanos(167));
        assert_eq!(Hertz(1_000_000).to_string(), "1 MHz");
    }
}
