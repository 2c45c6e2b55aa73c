//! The time of the day, as a clock on the wall shows it. The controller counts from the moment that your program sets.

use crate::zone::CHANGES;

const DAY: u32 = 86_400;

/// A time in the zone.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Time {
    pub year: u16,
    /// 1 to 12.
    pub month: u8,
    /// 1 to 31.
    pub day: u8,
    /// 1 is Monday, 7 is Sunday.
    pub weekday: u8,
    pub hours: u8,
    pub minutes: u8,
    pub seconds: u8,
}

/// A clock.
pub struct Wall {
    /// Seconds in UTC, and the millisecond at which the last of them began.
    now: u32,
    counted: u32,
    is_set: bool,
}

impl Wall {
    /// One that has not been set.
    #[must_use]
    pub const fn new() -> Self {
        Self {
            now: 0,
            counted: 0,
            is_set: false,
        }
    }

    /// Sets the clock at this millisecond: seconds since the beginning of 1970 in UTC, as a time server, a radio clock or a
    /// computer tells them.
    pub fn set(&mut self, seconds: u32, now: u32) {
        *self = Self {
            now: seconds,
            counted: now,
            is_set: true,
        };
    }

    /// Sets the clock to a time in the zone, as buttons do; the weekday does not count. If clocks are put back and a time comes
    /// twice, the first one is meant; if they are put forward and it is left out, the time is an hour later.
    pub fn set_local(&mut self, time: Time, now: u32) {
        let years = (1970..time.year).map(days_of_year).sum::<u32>();
        let months = (1..time.month)
            .map(|month| days_of_month(time.year, month))
            .sum::<u32>();
        let days = years + months + u32::from(time.day.saturating_sub(1));
        let [hours, minutes, seconds] = [time.hours, time.minutes, time.seconds].map(u32::from);
        let local = days * DAY + 3600 * hours + 60 * minutes + seconds;
        // As if clocks had not changed since the day before; if they have, as they are on the day after.
        let by = |moment: u32| local.wrapping_add_signed(-ahead_at(moment));
        let (earlier, later) = (by(local.saturating_sub(DAY)), by(local.saturating_add(DAY)));
        let is_right = |utc: u32| utc.wrapping_add_signed(ahead_at(utc)) == local;
        self.set(
            if !is_right(earlier) && is_right(later) {
                later
            } else {
                earlier
            },
            now,
        );
    }

    /// Returns true once the clock has been set.
    #[must_use]
    pub const fn is_set(&self) -> bool {
        self.is_set
    }

    /// Returns the seconds since the beginning of 1970 in UTC. Ask for them or for the time at least once a month: the clock counts
    /// only then.
    pub fn seconds(&mut self, now: u32) -> u32 {
        let passed = now.wrapping_sub(self.counted) / 1000;
        self.now = self.now.wrapping_add(passed);
        self.counted = self.counted.wrapping_add(1000 * passed);
        self.now
    }

    /// Returns the time in the zone.
    pub fn read(&mut self, now: u32) -> Time {
        let utc = self.seconds(now);
        let local = utc.wrapping_add_signed(ahead_at(utc));
        let (mut days, rest) = (local / DAY, local % DAY);
        let weekday = ((days + 3) % 7 + 1) as u8; // the first day was a Thursday
        let mut year = 1970;
        while days >= days_of_year(year) {
            days -= days_of_year(year);
            year += 1;
        }
        let mut month = 1;
        while days >= days_of_month(year, month) {
            days -= days_of_month(year, month);
            month += 1;
        }
        let [hours, minutes, seconds] =
            [rest / 3600, rest / 60 % 60, rest % 60].map(|part| part as u8);
        Time {
            year,
            month,
            day: days as u8 + 1,
            weekday,
            hours,
            minutes,
            seconds,
        }
    }
}

impl Default for Wall {
    fn default() -> Self {
        Self::new()
    }
}

/// How far the clocks of the zone are ahead of UTC at a moment, in seconds.
fn ahead_at(utc: u32) -> i32 {
    let change = CHANGES
        .iter()
        .rev()
        .find(|(begins, _)| *begins <= utc)
        .unwrap_or(&CHANGES[0]);
    60 * i32::from(change.1)
}

fn is_leap(year: u16) -> bool {
    year.is_multiple_of(4) && (!year.is_multiple_of(100) || year.is_multiple_of(400))
}

fn days_of_year(year: u16) -> u32 {
    if is_leap(year) { 366 } else { 365 }
}

fn days_of_month(year: u16, month: u8) -> u32 {
    match month {
        2 if is_leap(year) => 29,
        2 => 28,
        4 | 6 | 9 | 11 => 30,
        _ => 31,
    }
}
