/* How a display of dots is made of its rig: for its own source, for fonts.c, and for dots.c. */
#ifndef DOTS_WIRING_H
#define DOTS_WIRING_H

#include "dots.h"
#include "motion.h"

/* The characters of a font, from the blank to the tilde. */
#define FONT_CHARACTERS 95

struct dots_font {
    uint8_t height;         /* rows */
    uint8_t room;           /* dark columns behind each character */
    const uint16_t *begins; /* in flash: the first column of each character, and the end of the last one */
    const uint8_t *columns; /* in flash: each with the top row in the lowest bit; two bytes from nine rows on */
};

/* What changes while the program runs. */
struct dots_state {
    bool is_changed; /* the image has to be sent */
    bool is_scrolling;
    bool is_blinking;
    bool is_dark;    /* it is the dark half of a blink */
};

/* What moves: only a program that lets something move has it. */
struct dots_motion {
    const dots_font *font;
    const char *text;  /* that passes */
    struct passing passing;
    int16_t y;
    uint8_t colour;
    uint16_t half_ms;  /* half of a blink */
    uint16_t blinked;  /* when the last half began */
};

/* The facts of a display. A light's place in the image is eight times the byte, and the bit: from a table of all lights, or as the
   sum of three numbers, those of its column, of its row and of its colour. */
struct dots {
    uint16_t width;
    uint16_t height;
    uint8_t lights;           /* of a dot: one, or red and green, or red, green and blue */
    bool is_low;              /* a bit is 0 while its light is lit */
    uint16_t image_bytes;
    const uint16_t *places;   /* in flash: row by row, dot by dot; 0 if they are sums */
    const uint16_t *across;   /* in flash: for each column */
    const uint16_t *down;     /* in flash: for each row */
    const uint16_t *of_light; /* in flash: for each light of a dot */
    volatile uint8_t *image;
    volatile uint8_t *kept;   /* the image meanwhile, in the dark half of a blink */
    struct dots_state *state;
    struct dots_motion *motion;
    void (*send)(void);       /* sends the image; 0 if a scan shows it */
    void (*tend)(void);       /* what else is to be done again and again; 0 if nothing is */
};

#endif
