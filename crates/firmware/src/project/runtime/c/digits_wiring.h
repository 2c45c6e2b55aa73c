/* How a display of digits is made of its rig: for its own source, and for digits.c. */
#ifndef DIGITS_WIRING_H
#define DIGITS_WIRING_H

#include "digits.h"
#include "motion.h"

/* The place of a light in the image: eight times the byte, and the bit, and what goes for it besides. */
#define NO_PLACE 0xFFFF      /* it has no wire */
#define IN_EVERY_SLOT 0x8000 /* of a scan: nothing selects it */
#define LIT_LOW 0x4000       /* its bit is 0 while it is lit */
#define PLACE_BITS 0x3FFF
/* The figures 0 to F come first, then this. */
#define MINUS_FIGURE 16

/* What changes while the program runs. */
struct digits_state {
    uint16_t lamps;    /* the lamps and colons that are on, the first one in bit 0 */
    bool is_changed;   /* the image has to be drawn */
    bool is_scrolling;
    bool is_blinking;
    bool is_dark;      /* it is the dark half of a blink */
};

/* What moves: only a program that lets something move has it. */
struct digits_motion {
    const char *text;  /* that passes */
    struct passing passing;
    uint16_t half_ms;  /* half of a blink */
    uint16_t blinked;  /* when the last half began */
};

/* The facts of a display. */
struct digits {
    uint8_t count;             /* digits */
    uint8_t segments;          /* of a digit, its point included */
    uint8_t lamps;             /* lamps and colons */
    bool has_points;           /* every digit has one */
    bool has_colons;           /* a colon in a text takes no digit */
    uint16_t image_bytes;
    uint16_t slot_bytes;       /* of a scanned image */
    const uint16_t *places;    /* in flash: of each segment of each digit, then of each lamp */
    const uint8_t *colons;     /* in flash: before each digit the lamp that is a colon there, or 255 */
    const digits_cell *figures; /* in flash: 0 to F and the minus */
    const digits_cell *glyphs; /* in flash: the printable characters, from the blank on; 0 if there is none */
    volatile uint8_t *image;
    digits_cell *cells;        /* what each digit is to show */
    struct digits_state *state;
    struct digits_motion *motion;
    void (*send)(void);        /* sends the image; 0 if a scan shows it */
    void (*tend)(void);        /* what else is to be done again and again; 0 if nothing is */
};

#endif
