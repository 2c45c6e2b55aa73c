/* Push buttons that are read together: which are down, when their contacts have settled. */
#ifndef BUTTONS_H
#define BUTTONS_H

#include <stdint.h>

#include "buttons_size.h"

/* The time between two looks. Contacts bounce for some milliseconds: a state counts once this number of further looks saw the same. */
#define BUTTONS_LOOK_MS 10
#define BUTTONS_SETTLED_LOOKS 2

struct buttons {
    button_bits down; /* a bit for each that is down */
    button_bits last; /* the state at the last look */
    uint8_t alike;    /* the number of looks that saw the same */
};

/* Takes what a look sees. Returns the bits of those that have gone down or up. */
button_bits buttons_take(struct buttons *of, button_bits seen);

#endif
