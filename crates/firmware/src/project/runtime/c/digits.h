/* What your program says to a display of digits. Every call returns at once; digits_step() does what is due. */
#ifndef DIGITS_H
#define DIGITS_H

#include <stdbool.h>
#include <stdint.h>

#include "digits_size.h"

/* A display. Its own header names it, and has the calls that set it up. */
typedef struct digits digits;

/* Where a text stands that is shorter than the display. */
typedef enum { DIGITS_LEFT, DIGITS_CENTRE, DIGITS_RIGHT } digits_align;

/* Shows what has changed, and goes on with what moves. Call it again and again, at least every 20 ms. */
void digits_step(const digits *face);

/* Darkens all digits, lamps and colons, and ends what moves. */
void digits_clear(const digits *face);

/* Lights these segments of a digit, the first digit being 0: segment a is bit 0, and the point is the last bit. */
void digits_segments(const digits *face, uint8_t digit, digits_cell segments);

/* Shows a text. A point joins the digit before it; a colon lights the display's own colon, if it has one.
   Returns how many characters are not shown: one that the segments cannot form is an underscore, and the end of a text
   that is too long is left out. */
uint8_t digits_text(const digits *face, const char *text, digits_align align);

/* Shows a number at the right, with this many places after the point: 2150 with 2 places is 21.50.
   Returns false if it does not fit; then each digit shows a dash. */
bool digits_number(const digits *face, int32_t number, uint8_t places);

/* Shows a whole number at the right, with leading zeros up to this many figures; base is 2 to 16.
   Returns false if it does not fit; then each digit shows a dash. */
bool digits_padded(const digits *face, uint32_t number, uint8_t figures, uint8_t base);

/* Shows hours and minutes in the middle, with the colon lit or dark. A point stands for a colon that the display lacks.
   Returns false if there are fewer than four digits; then each shows a dash. */
bool digits_time(const digits *face, uint8_t hours, uint8_t minutes, bool colon);

/* Lights a lamp or colon, or puts it out; the display's header has their names. */
void digits_lamp(const digits *face, uint8_t lamp, bool is_on);

/* Lights every segment, lamp and colon. */
void digits_test(const digits *face);

/* Lets a text pass from right to left, a digit in every_ms milliseconds; passes times, or forever if passes is 0.
   The text must stay where it is as long as it passes. Other content ends it. */
void digits_scroll(const digits *face, const char *text, uint16_t every_ms, uint8_t passes);

/* Returns true as long as a text passes. */
bool digits_is_scrolling(const digits *face);

/* Lets what is shown blink: lit for this long, dark for as long. 0 ends it. */
void digits_blink(const digits *face, uint16_t half_ms);

#endif
