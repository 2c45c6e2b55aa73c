/* The time of the day, as a clock on the wall shows it. The controller counts from the moment that your program sets. */
#ifndef WALL_H
#define WALL_H

#include <stdbool.h>
#include <stdint.h>

/* A time in the zone of zone.h. */
typedef struct {
    uint16_t year;
    uint8_t month;   /* 1 to 12 */
    uint8_t day;     /* 1 to 31 */
    uint8_t weekday; /* 1 is Monday, 7 is Sunday */
    uint8_t hours;
    uint8_t minutes;
    uint8_t seconds;
} wall_time;

/* Sets the clock: seconds since the beginning of 1970 in UTC, as a time server, a radio clock or a computer tells them. */
void wall_set(uint32_t seconds);

/* Sets the clock to a time in the zone, as buttons do; weekday does not count. If clocks are put back and a time comes twice, the
   first one is meant; if they are put forward and it is left out, the time is an hour later. */
void wall_set_local(const wall_time *time);

/* Returns true once the clock has been set. */
bool wall_is_set(void);

/* Returns the seconds since the beginning of 1970 in UTC. Ask for them or for the time at least once a minute: the clock counts
   only then. */
uint32_t wall_seconds(void);

/* Tells the time in the zone. */
void wall_read(wall_time *time);

#endif
