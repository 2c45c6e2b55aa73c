//! The rules of a time zone for the coming years, as a table.

use jiff::Timestamp;
use jiff::tz::TimeZone;
use serde::Serialize;

/// For so many years the table has the changes of the clocks.
const YEARS: i16 = 10;

/// A time zone.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ZoneModel {
    /// Its name.
    pub name: String,
    /// Up to when it is known, as a sentence.
    pub until: String,
    /// The changes of the clocks, the earliest first.
    pub changes: Vec<ZoneChange>,
}

/// From a moment on, how far the clocks are ahead.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct ZoneChange {
    /// The moment, in seconds since the beginning of 1970.
    pub from: u32,
    /// How far, in minutes.
    pub minutes: i16,
    /// The moment in words.
    pub words: String,
}

impl ZoneModel {
    /// The zone from a moment on.
    pub(in crate::project) fn of(zone: &TimeZone, begins: Timestamp) -> Self {
        let last = zone.to_datetime(begins).year() + YEARS;
        let name = zone.iana_name().map_or_else(|| zone.to_offset(begins).to_string(), str::to_owned);
        let first = ZoneChange::of(0, zone.to_offset(begins).seconds(), "at first".to_owned());
        let coming =
            zone.following(begins).take_while(|change| zone.to_datetime(change.timestamp()).year() <= last);
        let later = coming.filter_map(|change| {
            let moment = change.timestamp();
            let from = u32::try_from(moment.as_second()).ok()?;
            Some(ZoneChange::of(
                from,
                change.offset().seconds(),
                moment.strftime("%Y-%m-%d %H:%M UTC").to_string(),
            ))
        });
        let mut changes = vec![first];
        for change in later {
            // A zone may change its name alone.
            if changes.last().is_none_or(|last: &ZoneChange| last.minutes != change.minutes) {
                changes.push(change);
            }
        }
        let until = if changes.len() > 1 {
            format!("The rules are known up to the end of {last}, as they were when this was written.")
        } else {
            "Its clocks do not change, as far as was known when this was written.".to_owned()
        };
        Self { name, until, changes }
    }
}

impl ZoneChange {
    fn of(from: u32, seconds: i32, words: String) -> Self {
        // No zone is more than 26 hours ahead or behind.
        let minutes = (seconds / 60) as i16;
        Self { from, minutes, words }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_zone_is_its_changes() {
        let begins: Timestamp = "2026-12-02T10:00:00Z".parse().unwrap();
        let lisbon = ZoneModel::of(&TimeZone::posix("WET0WEST,M3.5.0/1,M10.5.0").unwrap(), begins);
        assert_eq!(lisbon.changes.len(), 21);
        let [first, second, third] = &lisbon.changes[..3] else { panic!() };
        assert_eq!((first.from, first.minutes), (0, 0));
        assert_eq!((second.minutes, &*second.words), (60, "2027-03-28 01:00 UTC"));
        assert_eq!((third.minutes, &*third.words), (0, "2027-10-31 01:00 UTC"));
        let newfoundland = ZoneModel::of(&TimeZone::posix("NST3:30NDT,M3.2.0,M11.1.0").unwrap(), begins);
        assert_eq!(newfoundland.changes[0].minutes, -210);
        assert_eq!(ZoneModel::of(&TimeZone::UTC, begins).changes.len(), 1);
        assert_eq!(ZoneModel::of(&TimeZone::fixed(jiff::tz::offset(2)), begins).name, "+02");
    }
}
