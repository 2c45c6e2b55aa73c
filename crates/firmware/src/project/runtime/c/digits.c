#include "digits.h"

#include "digits_wiring.h"
#include "hw.h"

#define NO_LAMP 255

/* Set by the first text that passes and the first blink, and never again: a program without them is built without them. */
static void (*scroll)(const digits *display);
static void (*blink)(const digits *display);

/* The time of this step, in milliseconds. */
static uint16_t now;

/* ---- cells: what each digit is to show ---- */

static void put(const digits *display, uint8_t digit, digits_cell segments)
{
    display->cells[digit] = segments;
    display->state->is_changed = true;
}

static void put_all(const digits *display, digits_cell segments)
{
    for (uint8_t digit = 0; digit < display->count; digit++) {
        put(display, digit, segments);
    }
}

/* New content: what passed ends, and the colons go out. */
static void begin(const digits *display)
{
    display->state->is_scrolling = false;
    for (uint8_t digit = 0; digit <= display->count; digit++) {
        uint8_t colon = FLASH_BYTE(&display->colons[digit]);

        if (colon != NO_LAMP) {
            digits_lamp(display, colon, false);
        }
    }
}

static digits_cell point_of(const digits *display)
{
    return (digits_cell)(1u << (display->segments - 1));
}

void digits_clear(const digits *display)
{
    display->state->is_scrolling = false;
    display->state->is_blinking = false;
    display->state->is_dark = false;
    display->state->lamps = 0;
    put_all(display, 0);
}

void digits_segments(const digits *display, uint8_t digit, digits_cell segments)
{
    display->state->is_scrolling = false;
    if (digit < display->count) {
        put(display, digit, segments);
    }
}

void digits_lamp(const digits *display, uint8_t lamp, bool is_on)
{
    uint16_t bit = (uint16_t)(1u << lamp);

    if (lamp < display->lamps) {
        display->state->lamps = (uint16_t)(is_on ? display->state->lamps | bit : display->state->lamps & ~bit);
        display->state->is_changed = true;
    }
}

void digits_test(const digits *display)
{
    begin(display);
    display->state->lamps = 0xFFFF;
    put_all(display, (digits_cell)~0u);
}

/* ---- texts ---- */

/* A part of a text: a character with the point behind it, or a colon of the display. */
struct part {
    digits_cell segments;
    bool is_colon;
    bool is_shown; /* the segments can form it */
};

/* Reads the part of a text that begins here. Returns where the next one does. */
static const char *next_part(const digits *display, const char *text, struct part *part)
{
    char first = *text++;

    part->segments = 0;
    part->is_colon = first == ':' && display->has_colons;
    part->is_shown = true;
    if (part->is_colon) {
        return text;
    }
    if (first == '.' && display->has_points) {
        part->segments = point_of(display);
        return text;
    }
    if (first == '.') {
        first = ',';
    }
    part->is_shown = first >= ' ' && first <= '~';
    if (part->is_shown) {
        part->segments = FLASH_CELL(&display->glyphs[first - ' ']);
        part->is_shown = part->segments != 0 || first == ' ';
    }
    if (!part->is_shown) {
        part->segments = FLASH_CELL(&display->glyphs['_' - ' ']);
    }
    if (first != ':' && *text == '.' && display->has_points) {
        text++;
        part->segments |= point_of(display);
    }
    return text;
}

/* How many digits a text takes. */
static uint16_t length_of(const digits *display, const char *text)
{
    struct part part;
    uint16_t length = 0;

    while (*text != 0) {
        text = next_part(display, text, &part);
        length = (uint16_t)(length + !part.is_colon);
    }
    return length;
}

uint8_t digits_text(const digits *display, const char *text, digits_align align)
{
    uint16_t length = align == DIGITS_LEFT ? display->count : length_of(display, text);
    uint8_t spare = length < display->count ? (uint8_t)(display->count - length) : 0;
    uint8_t digit = align == DIGITS_CENTRE ? spare / 2 : spare;
    uint8_t missing = 0;

    begin(display);
    put_all(display, 0);
    while (*text != 0) {
        struct part part;
        uint8_t colon;

        text = next_part(display, text, &part);
        colon = part.is_colon ? FLASH_BYTE(&display->colons[digit]) : NO_LAMP;

        if (part.is_colon && colon != NO_LAMP) {
            digits_lamp(display, colon, true);
        } else if (!part.is_colon && digit < display->count) {
            put(display, digit++, part.segments);
            missing = (uint8_t)(missing + !part.is_shown);
        } else if (missing < 255) {
            missing++;
        }
    }
    return missing;
}

/* ---- numbers ---- */

static digits_cell figure(const digits *display, uint8_t value)
{
    return FLASH_CELL(&display->figures[value]);
}

/* Writes figures from the right, at least so many, with a point before the last places. */
static bool put_number(const digits *display, uint32_t rest, bool is_negative, uint8_t least, uint8_t places, uint8_t base)
{
    uint8_t digit = display->count;
    bool fits = true;

    begin(display);
    for (uint8_t written = 0; fits && (rest != 0 || written < least); written++) {
        digits_cell segments = figure(display, (uint8_t)(rest % base));

        if (places != 0 && written == places) {
            if (display->has_points) {
                segments |= point_of(display);
            } else if (digit != 0) {
                put(display, --digit, FLASH_CELL(&display->glyphs[',' - ' ']));
            }
        }
        fits = digit != 0;
        if (fits) {
            put(display, --digit, segments);
        }
        rest /= base;
    }
    if (fits && is_negative) {
        fits = digit != 0;
        if (fits) {
            put(display, --digit, figure(display, MINUS_FIGURE));
        }
    }
    if (!fits) {
        put_all(display, figure(display, MINUS_FIGURE));
        return false;
    }
    while (digit != 0) {
        put(display, --digit, 0);
    }
    return true;
}

bool digits_number(const digits *display, int32_t number, uint8_t places)
{
    uint32_t magnitude = number < 0 ? 0 - (uint32_t)number : (uint32_t)number;

    return put_number(display, magnitude, number < 0, (uint8_t)(places + 1), places, 10);
}

bool digits_padded(const digits *display, uint32_t number, uint8_t figures, uint8_t base)
{
    return put_number(display, number, false, figures == 0 ? 1 : figures, 0, base);
}

bool digits_time(const digits *display, uint8_t hours, uint8_t minutes, bool colon)
{
    uint8_t digit = (uint8_t)(display->count - 4) / 2;
    uint8_t lamp;

    begin(display);
    if (display->count < 4 || hours > 99 || minutes > 99) {
        put_all(display, figure(display, MINUS_FIGURE));
        return false;
    }
    put_all(display, 0);
    put(display, digit, figure(display, hours / 10));
    put(display, (uint8_t)(digit + 1), figure(display, hours % 10));
    put(display, (uint8_t)(digit + 2), figure(display, minutes / 10));
    put(display, (uint8_t)(digit + 3), figure(display, minutes % 10));
    lamp = FLASH_BYTE(&display->colons[digit + 2]);
    if (lamp != NO_LAMP) {
        digits_lamp(display, lamp, colon);
    } else if (colon && display->has_points) {
        put(display, (uint8_t)(digit + 1), display->cells[digit + 1] | point_of(display));
    }
    return true;
}

/* ---- what moves ---- */

/* Draws the digits of a text that passes: it comes in from the right, and leaves at the left. */
static void put_passing(const digits *display)
{
    const char *text = display->motion->text;
    uint16_t step = display->motion->at;

    put_all(display, 0);
    for (uint16_t column = display->count; *text != 0;) {
        struct part part;

        text = next_part(display, text, &part);
        if (part.is_colon) {
            continue;
        }
        if (column >= step && column - step < display->count) {
            put(display, (uint8_t)(column - step), part.segments);
        }
        column++;
    }
}

static void scroll_on(const digits *display)
{
    struct digits_motion *motion = display->motion;

    if ((uint16_t)(now - motion->stepped) < motion->every_ms) {
        return;
    }
    motion->stepped = (uint16_t)(motion->stepped + motion->every_ms);
    motion->at++;
    if (motion->at == motion->length) {
        motion->at = 0;
        display->state->is_scrolling = motion->passes != 1;
        if (motion->passes != 0) {
            motion->passes--;
        }
    }
    put_passing(display);
}

void digits_scroll(const digits *display, const char *text, uint16_t every_ms, uint8_t passes)
{
    struct digits_motion *motion = display->motion;

    begin(display);
    put_all(display, 0);
    motion->text = text;
    motion->at = 0;
    motion->length = (uint16_t)(length_of(display, text) + display->count);
    motion->every_ms = every_ms == 0 ? 1 : every_ms;
    motion->stepped = (uint16_t)hw_now_ms();
    motion->passes = passes;
    display->state->is_scrolling = true;
    scroll = scroll_on;
}

bool digits_is_scrolling(const digits *display)
{
    return display->state->is_scrolling;
}

static void blink_on(const digits *display)
{
    struct digits_motion *motion = display->motion;

    if ((uint16_t)(now - motion->blinked) >= motion->half_ms) {
        motion->blinked = (uint16_t)(motion->blinked + motion->half_ms);
        display->state->is_dark = !display->state->is_dark;
        display->state->is_changed = true;
    }
}

void digits_blink(const digits *display, uint16_t half_ms)
{
    struct digits_state *state = display->state;

    display->motion->half_ms = half_ms;
    display->motion->blinked = (uint16_t)hw_now_ms();
    state->is_changed = state->is_changed || state->is_dark;
    state->is_dark = false;
    state->is_blinking = half_ms != 0;
    blink = blink_on;
}

/* ---- the image ---- */

/* Sets one light of the image. */
static void draw_light(const digits *display, uint16_t place, bool is_lit)
{
    uint16_t byte = (place & PLACE_BITS) >> 3;
    uint8_t bit = (uint8_t)(1u << (place & 7));
    uint16_t next = (place & IN_EVERY_SLOT) != 0 ? display->slot_bytes : display->image_bytes;
    bool level = is_lit != ((place & LIT_LOW) != 0);

    for (; byte < display->image_bytes; byte = (uint16_t)(byte + next)) {
        if (level) {
            display->image[byte] |= bit;
        } else {
            display->image[byte] &= (uint8_t)~bit;
        }
    }
}

/* Sets lights of the image, one for each bit. */
static void draw_lights(const digits *display, const uint16_t *places, uint8_t count, uint16_t lights)
{
    for (; count != 0; count--) {
        uint16_t place = FLASH_WORD(places++);

        if (place != NO_PLACE) {
            draw_light(display, place, (lights & 1) != 0);
        }
        lights >>= 1;
    }
}

static void draw(const digits *display)
{
    const uint16_t *places = display->places;

    for (uint8_t digit = 0; digit < display->count; digit++) {
        draw_lights(display, places, display->segments, display->state->is_dark ? 0 : display->cells[digit]);
        places += display->segments;
    }
    draw_lights(display, places, display->lamps, display->state->is_dark ? 0 : display->state->lamps);
}

void digits_step(const digits *display)
{
    struct digits_state *state = display->state;

    now = (uint16_t)hw_now_ms(); /* it counts only if it is asked for often enough */
    if (scroll != 0 && state->is_scrolling) {
        scroll(display);
    }
    if (blink != 0 && state->is_blinking) {
        blink(display);
    }
    if (state->is_changed) {
        state->is_changed = false;
        draw(display);
        if (display->send != 0) {
            display->send();
        }
    }
    if (display->tend != 0) {
        display->tend();
    }
}
