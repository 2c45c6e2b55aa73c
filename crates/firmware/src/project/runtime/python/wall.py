"""The time of the day, as a clock on the wall shows it. The controller counts from the moment that your program sets."""

import time
from collections import namedtuple

import zone

DAY = 86400

# A time in the zone: weekday 1 is Monday, 7 is Sunday.
Time = namedtuple("Time", ("year", "month", "day", "weekday", "hours", "minutes", "seconds"))

_now = 0
_counted = time.ticks_ms()
_is_set = False


def set(seconds):
    """Sets the clock: seconds since the beginning of 1970 in UTC, as a time server, a radio clock or a computer tells them."""
    global _now, _counted, _is_set
    _now = seconds
    _counted = time.ticks_ms()
    _is_set = True


def set_local(year, month, day, hours, minutes, seconds=0):
    """Sets the clock to a time in the zone, as buttons do.

    If clocks are put back and a time comes twice, the first one is meant; if they are put forward and it is left out, the time is
    an hour later.
    """
    days = day - 1
    days += sum(_days_of_year(of) for of in range(1970, year))
    days += sum(_days_of_month(year, of) for of in range(1, month))
    local = days * DAY + hours * 3600 + minutes * 60 + seconds
    # As if clocks had not changed since the day before; if they have, as they are on the day after.
    utc = local - _ahead_at(local - DAY)
    later = local - _ahead_at(local + DAY)
    if utc + _ahead_at(utc) != local and later + _ahead_at(later) == local:
        utc = later
    set(utc)


def is_set():
    """Returns True once the clock has been set."""
    return _is_set


def seconds():
    """Returns the seconds since the beginning of 1970 in UTC.

    Ask for them or for the time at least once an hour: the clock counts only then.
    """
    global _now, _counted
    passed = time.ticks_diff(time.ticks_ms(), _counted) // 1000
    _now += passed
    _counted = time.ticks_add(_counted, 1000 * passed)
    return _now


def read():
    """Returns the time in the zone."""
    utc = seconds()
    days, rest = divmod(utc + _ahead_at(utc), DAY)
    weekday = (days + 3) % 7 + 1  # the first day was a Thursday
    year = 1970
    while days >= _days_of_year(year):
        days -= _days_of_year(year)
        year += 1
    month = 1
    while days >= _days_of_month(year, month):
        days -= _days_of_month(year, month)
        month += 1
    return Time(year, month, days + 1, weekday, rest // 3600, rest // 60 % 60, rest % 60)


def _ahead_at(utc):
    """How far the clocks of the zone are ahead of UTC at a moment, in seconds."""
    minutes = zone.CHANGES[0][1]
    for begins, ahead in zone.CHANGES:
        if begins <= utc:
            minutes = ahead
    return 60 * minutes


def _is_leap(year):
    return year % 4 == 0 and (year % 100 != 0 or year % 400 == 0)


def _days_of_year(year):
    return 366 if _is_leap(year) else 365


def _days_of_month(year, month):
    if month == 2:
        return 29 if _is_leap(year) else 28
    return 30 if month in (4, 6, 9, 11) else 31
