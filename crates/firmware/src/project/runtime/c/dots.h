/* What your program says to a display of dots. Every call returns at once; dots_step() does what is due. Columns count from 0 at
   the left, rows from 0 at the top; what lies beyond the display is left out. */
#ifndef DOTS_H
#define DOTS_H

#include <stdbool.h>
#include <stdint.h>

/* A display. Its own header names it, and has its size and the calls that set it up. */
typedef struct dots dots;

/* A font: fonts.h has them. */
typedef struct dots_font dots_font;

/* Colours. A display with lights of one colour shows all but the first of them alike. */
enum { DOTS_DARK, DOTS_RED, DOTS_GREEN, DOTS_YELLOW, DOTS_BLUE, DOTS_MAGENTA, DOTS_CYAN, DOTS_WHITE };

/* Shows what has changed, and goes on with what moves. Call it again and again, at least every 20 ms. */
void dots_step(const dots *face);

/* Darkens all dots, and ends what moves. */
void dots_clear(const dots *face);

/* Lights a dot in a colour, or darkens it. */
void dots_dot(const dots *face, int16_t x, int16_t y, uint8_t colour);

/* Lights dots of a row in a colour, one for each 1 of bits, the highest bit at column x. The others stay as they are. */
void dots_row(const dots *face, int16_t x, int16_t y, uint8_t bits, uint8_t colour);

/* Fills an area with a colour, or darkens it. */
void dots_area(const dots *face, int16_t x, int16_t y, uint16_t width, uint16_t height, uint8_t colour);

/* Lights a sprite in a colour, its upper left dot at x and y. It has its rows from the top, each in whole bytes with the first
   dot in the highest bit, in a table that is marked FLASH. Its dark dots stay as they are. */
void dots_sprite(const dots *face, const uint8_t *rows, uint8_t width, uint8_t height, int16_t x, int16_t y, uint8_t colour);

/* Lights a text in a colour, its upper left corner at x and y. The dots between stay as they are.
   Returns how many of its characters the font lacks: each is a question mark. */
uint8_t dots_text(const dots *face, const dots_font *font, const char *text, int16_t x, int16_t y, uint8_t colour);

/* Returns how many columns a text takes. */
uint16_t dots_width(const dots_font *font, const char *text);

/* Lights a number with this many places after the point, up to 9: 2150 with 2 places is 21.50. It ends before the column right.
   Returns false if it does not fit; then a dash stands there. */
bool dots_number(const dots *face, const dots_font *font, int32_t number, uint8_t places, int16_t right, int16_t y, uint8_t colour);

/* Lights hours and minutes, their upper left corner at x and y, with the colon lit or dark. */
void dots_time(const dots *face, const dots_font *font, uint8_t hours, uint8_t minutes, bool colon, int16_t x, int16_t y, uint8_t colour);

/* Lights every dot in white. */
void dots_test(const dots *face);

/* Lets a text pass from right to left, a column in every_ms milliseconds; passes times, or forever if passes is 0. It has the rows
   from y on for itself. The text must stay where it is as long as it passes. */
void dots_scroll(const dots *face, const dots_font *font, const char *text, uint16_t every_ms, uint8_t passes, int16_t y, uint8_t colour);

/* Returns true as long as a text passes. */
bool dots_is_scrolling(const dots *face);

/* Lets what is shown blink: lit for this long, dark for as long. 0 ends it. */
void dots_blink(const dots *face, uint16_t half_ms);

#endif
