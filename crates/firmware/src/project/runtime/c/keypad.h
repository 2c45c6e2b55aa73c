/* The push buttons of the rig, by the names in keypad_wiring.h. */
#ifndef KEYPAD_H
#define KEYPAD_H

#include <stdbool.h>
#include <stdint.h>

#include "keypad_wiring.h"

/* Sets the pins up. main.c calls it once. */
void keypad_start(void);

/* Looks at the buttons. main.c calls it again and again, before own_step(). */
void keypad_step(void);

/* Returns true while a button is down; contacts that bounce do not count. */
bool button_is_down(uint8_t button);

/* Returns true if a button has gone down since you last asked: once for each press. */
bool button_went_down(uint8_t button);

/* Returns true if a button has gone up since you last asked. */
bool button_went_up(uint8_t button);

/* Returns for how many milliseconds a button has been down: 0 if it is up, and at most 60000. */
uint16_t button_down_ms(uint8_t button);

#endif
