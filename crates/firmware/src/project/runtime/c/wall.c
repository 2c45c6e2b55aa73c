#include "wall.h"

#include "hw.h"
#include "zone.h"

#define MINUTE 60
#define DAY 86400

/* Seconds in UTC, and the millisecond at which the last of them began. */
static uint32_t now;
static uint16_t counted;
static bool is_set;

void wall_set(uint32_t seconds)
{
    now = seconds;
    counted = (uint16_t)hw_now_ms();
    is_set = true;
}

bool wall_is_set(void)
{
    return is_set;
}

uint32_t wall_seconds(void)
{
    while ((uint16_t)((uint16_t)hw_now_ms() - counted) >= 1000) {
        counted = (uint16_t)(counted + 1000);
        now++;
    }
    return now;
}

/* How far the clocks of the zone are ahead of UTC at a moment, in seconds. */
static int32_t ahead_at(uint32_t utc)
{
    uint8_t change = ZONE_CHANGES;

    do {
        change--;
    } while (change != 0 && FLASH_LONG(&zone_from[change]) > utc);
    return (int32_t)(int16_t)FLASH_WORD(&zone_minutes[change]) * MINUTE;
}

static bool is_leap(uint16_t year)
{
    return year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);
}

static uint16_t days_of_year(uint16_t year)
{
    return is_leap(year) ? 366 : 365;
}

static uint8_t days_of_month(uint16_t year, uint8_t month)
{
    if (month == 2) {
        return is_leap(year) ? 29 : 28;
    }
    return month == 4 || month == 6 || month == 9 || month == 11 ? 30 : 31;
}

void wall_read(wall_time *time)
{
    uint32_t utc = wall_seconds();
    uint32_t local = utc + (uint32_t)ahead_at(utc);
    uint16_t days = (uint16_t)(local / DAY);
    uint32_t rest = local % DAY;

    time->hours = (uint8_t)(rest / 3600);
    rest %= 3600;
    time->minutes = (uint8_t)(rest / MINUTE);
    time->seconds = (uint8_t)(rest % MINUTE);
    time->weekday = (uint8_t)((days + 3) % 7 + 1); /* the first day was a Thursday */
    time->year = 1970;
    while (days >= days_of_year(time->year)) {
        days = (uint16_t)(days - days_of_year(time->year));
        time->year++;
    }
    time->month = 1;
    while (days >= days_of_month(time->year, time->month)) {
        days = (uint16_t)(days - days_of_month(time->year, time->month));
        time->month++;
    }
    time->day = (uint8_t)(days + 1);
}

void wall_set_local(const wall_time *time)
{
    uint32_t days = time->day - 1u;
    uint32_t local;
    uint32_t utc;
    uint32_t later;

    for (uint16_t year = 1970; year < time->year; year++) {
        days += days_of_year(year);
    }
    for (uint8_t month = 1; month < time->month; month++) {
        days += days_of_month(time->year, month);
    }
    local = days * DAY + time->hours * (uint32_t)3600 + time->minutes * (uint32_t)MINUTE + time->seconds;
    /* As if clocks had not changed since the day before; if they have, as they are on the day after. */
    utc = local - (uint32_t)ahead_at(local - DAY);
    later = local - (uint32_t)ahead_at(local + DAY);
    if (utc + (uint32_t)ahead_at(utc) != local && later + (uint32_t)ahead_at(later) == local) {
        utc = later;
    }
    wall_set(utc);
}
