/* How a text passes: shared by displays of digits and of dots. */
#ifndef MOTION_H
#define MOTION_H

#include <stdbool.h>
#include <stdint.h>

/* A text that passes, step by step. */
struct passing {
    uint16_t at;       /* the steps that it has taken */
    uint16_t length;   /* the steps that it takes */
    uint16_t every_ms;
    uint16_t stepped;  /* when it took the last one */
    uint8_t passes;    /* that are left; 0 is forever */
};

/* Returns true if so many milliseconds have passed since then, and moves then on by them. */
static inline bool is_over(uint16_t *then, uint16_t every_ms, uint16_t now)
{
    if ((uint16_t)(now - *then) < every_ms) {
        return false;
    }
    *then = (uint16_t)(*then + every_ms);
    return true;
}

/* Begins. */
static inline void begin_passing(struct passing *passing, uint16_t length, uint16_t every_ms, uint8_t passes, uint16_t now)
{
    passing->at = 0;
    passing->length = length;
    passing->every_ms = every_ms == 0 ? 1 : every_ms;
    passing->stepped = now;
    passing->passes = passes;
}

/* Takes a step. Returns false if it was the last one. */
static inline bool step_passing(struct passing *passing)
{
    bool goes_on = true;

    passing->at++;
    if (passing->at == passing->length) {
        passing->at = 0;
        goes_on = passing->passes != 1;
        if (passing->passes != 0) {
            passing->passes--;
        }
    }
    return goes_on;
}

#endif
