#include "digits.h"

#include "digits_wiring.h"
#include "hw.h"

#define NO_LAMP 255

/* Set by the first text that passes and the first blink, and never again: a program without them is built without them. */
static void (*scroll)(const digits *face);
static void (*blink)(const digits *face);

/* The time of this step, in milliseconds. */
static uint16_t now;

/* ---- cells: what each digit is to show ---- */

static void put(const digits *face, uint8_t digit, digits_cell segments)
{
    face->cells[digit] = segments;
    face->state->is_changed = true;
}

static void put_all(const digits *face, digits_cell segments)
{
    for (uint8_t digit = 0; digit < face->count; digit++) {
        put(face, digit, segments);
    }
}

/* New content: what passed ends, and the colons go out. */
static void begin(const digits *face)
{
    face->state->is_scrolling = false;
    for (uint8_t digit = 0; digit <= face->count; digit++) {
        uint8_t colon = FLASH_BYTE(&face->colons[digit]);

        if (colon != NO_LAMP) {
            digits_lamp(face, colon, false);
        }
    }
}

static digits_cell point_of(const digits *face)
{
    return (digits_cell)(1u << (face->segments - 1));
}

void digits_clear(const digits *face)
{
    face->state->is_scrolling = false;
    face->state->is_blinking = false;
    face->state->is_dark = false;
    face->state->lamps = 0;
    put_all(face, 0);
}

void digits_segments(const digits *face, uint8_t digit, digits_cell segments)
{
    face->state->is_scrolling = false;
    if (digit < face->count) {
        put(face, digit, segments);
    }
}

void digits_lamp(const digits *face, uint8_t lamp, bool is_on)
{
    uint16_t bit = (uint16_t)(1u << lamp);

    if (lamp < face->lamps) {
        face->state->lamps = (uint16_t)(is_on ? face->state->lamps | bit : face->state->lamps & ~bit);
        face->state->is_changed = true;
    }
}

void digits_test(const digits *face)
{
    begin(face);
    face->state->lamps = 0xFFFF;
    put_all(face, (digits_cell)~0u);
}

/* ---- texts ---- */

/* A part of a text: a character with the point behind it, or a colon of the display. */
struct part {
    digits_cell segments;
    bool is_colon;
    bool is_shown; /* the segments can form it */
};

/* Reads the part of a text that begins here. Returns where the next one does. */
static const char *next_part(const digits *face, const char *text, struct part *part)
{
    char first = *text++;

    part->segments = 0;
    part->is_colon = first == ':' && face->has_colons;
    part->is_shown = true;
    if (part->is_colon) {
        return text;
    }
    if (first == '.' && face->has_points) {
        part->segments = point_of(face);
        return text;
    }
    if (first == '.') {
        first = ',';
    }
    part->is_shown = first >= ' ' && first <= '~';
    if (part->is_shown) {
        part->segments = FLASH_CELL(&face->glyphs[first - ' ']);
        part->is_shown = part->segments != 0 || first == ' ';
    }
    if (!part->is_shown) {
        part->segments = FLASH_CELL(&face->glyphs['_' - ' ']);
    }
    if (first != ':' && *text == '.' && face->has_points) {
        text++;
        part->segments |= point_of(face);
    }
    return text;
}

/* How many digits a text takes. */
static uint16_t length_of(const digits *face, const char *text)
{
    struct part part;
    uint16_t length = 0;

    while (*text != 0) {
        text = next_part(face, text, &part);
        length = (uint16_t)(length + !part.is_colon);
    }
    return length;
}

uint8_t digits_text(const digits *face, const char *text, digits_align align)
{
    uint16_t length = align == DIGITS_LEFT ? face->count : length_of(face, text);
    uint8_t spare = length < face->count ? (uint8_t)(face->count - length) : 0;
    uint8_t digit = align == DIGITS_CENTRE ? spare / 2 : spare;
    uint8_t missing = 0;

    begin(face);
    put_all(face, 0);
    while (*text != 0) {
        struct part part;
        uint8_t colon;

        text = next_part(face, text, &part);
        colon = part.is_colon ? FLASH_BYTE(&face->colons[digit]) : NO_LAMP;

        if (part.is_colon && colon != NO_LAMP) {
            digits_lamp(face, colon, true);
        } else if (!part.is_colon && digit < face->count) {
            put(face, digit++, part.segments);
            missing = (uint8_t)(missing + !part.is_shown);
        } else if (missing < 255) {
            missing++;
        }
    }
    return missing;
}

/* ---- numbers ---- */

static digits_cell figure(const digits *face, uint8_t value)
{
    return FLASH_CELL(&face->figures[value]);
}

/* Writes figures from the right, at least so many, with a point before the last places. */
static bool put_number(const digits *face, uint32_t rest, bool is_negative, uint8_t least, uint8_t places, uint8_t base)
{
    uint8_t digit = face->count;
    bool fits = true;

    begin(face);
    for (uint8_t written = 0; fits && (rest != 0 || written < least); written++) {
        digits_cell segments = figure(face, (uint8_t)(rest % base));

        if (places != 0 && written == places) {
            if (face->has_points) {
                segments |= point_of(face);
            } else if (digit != 0) {
                put(face, --digit, FLASH_CELL(&face->glyphs[',' - ' ']));
            }
        }
        fits = digit != 0;
        if (fits) {
            put(face, --digit, segments);
        }
        rest /= base;
    }
    if (fits && is_negative) {
        fits = digit != 0;
        if (fits) {
            put(face, --digit, figure(face, MINUS_FIGURE));
        }
    }
    if (!fits) {
        put_all(face, figure(face, MINUS_FIGURE));
        return false;
    }
    while (digit != 0) {
        put(face, --digit, 0);
    }
    return true;
}

bool digits_number(const digits *face, int32_t number, uint8_t places)
{
    uint32_t magnitude = number < 0 ? 0 - (uint32_t)number : (uint32_t)number;

    return put_number(face, magnitude, number < 0, (uint8_t)(places + 1), places, 10);
}

bool digits_padded(const digits *face, uint32_t number, uint8_t figures, uint8_t base)
{
    return put_number(face, number, false, figures == 0 ? 1 : figures, 0, base);
}

bool digits_time(const digits *face, uint8_t hours, uint8_t minutes, bool colon)
{
    uint8_t digit = (uint8_t)(face->count - 4) / 2;
    uint8_t lamp;

    begin(face);
    if (face->count < 4 || hours > 99 || minutes > 99) {
        put_all(face, figure(face, MINUS_FIGURE));
        return false;
    }
    put_all(face, 0);
    put(face, digit, figure(face, hours / 10));
    put(face, (uint8_t)(digit + 1), figure(face, hours % 10));
    put(face, (uint8_t)(digit + 2), figure(face, minutes / 10));
    put(face, (uint8_t)(digit + 3), figure(face, minutes % 10));
    lamp = FLASH_BYTE(&face->colons[digit + 2]);
    if (lamp != NO_LAMP) {
        digits_lamp(face, lamp, colon);
    } else if (colon && face->has_points) {
        put(face, (uint8_t)(digit + 1), face->cells[digit + 1] | point_of(face));
    }
    return true;
}

/* ---- what moves ---- */

/* Draws the digits of a text that passes: it comes in from the right, and leaves at the left. */
static void put_passing(const digits *face)
{
    const char *text = face->motion->text;
    uint16_t step = face->motion->passing.at;

    put_all(face, 0);
    for (uint16_t column = face->count; *text != 0;) {
        struct part part;

        text = next_part(face, text, &part);
        if (part.is_colon) {
            continue;
        }
        if (column >= step && column - step < face->count) {
            put(face, (uint8_t)(column - step), part.segments);
        }
        column++;
    }
}

static void scroll_on(const digits *face)
{
    struct passing *passing = &face->motion->passing;

    if (is_over(&passing->stepped, passing->every_ms, now)) {
        face->state->is_scrolling = step_passing(passing);
        put_passing(face);
    }
}

void digits_scroll(const digits *face, const char *text, uint16_t every_ms, uint8_t passes)
{
    struct digits_motion *motion = face->motion;

    begin(face);
    put_all(face, 0);
    motion->text = text;
    begin_passing(&motion->passing, (uint16_t)(length_of(face, text) + face->count), every_ms, passes, (uint16_t)hw_now_ms());
    face->state->is_scrolling = true;
    scroll = scroll_on;
}

bool digits_is_scrolling(const digits *face)
{
    return face->state->is_scrolling;
}

static void blink_on(const digits *face)
{
    struct digits_motion *motion = face->motion;

    if (is_over(&motion->blinked, motion->half_ms, now)) {
        face->state->is_dark = !face->state->is_dark;
        face->state->is_changed = true;
    }
}

void digits_blink(const digits *face, uint16_t half_ms)
{
    struct digits_state *state = face->state;

    face->motion->half_ms = half_ms;
    face->motion->blinked = (uint16_t)hw_now_ms();
    state->is_changed = state->is_changed || state->is_dark;
    state->is_dark = false;
    state->is_blinking = half_ms != 0;
    blink = blink_on;
}

/* ---- the image ---- */

/* Sets one light of the image. */
static void draw_light(const digits *face, uint16_t place, bool is_lit)
{
    uint16_t byte = (place & PLACE_BITS) >> 3;
    uint8_t bit = (uint8_t)(1u << (place & 7));
    uint16_t next = (place & IN_EVERY_SLOT) != 0 ? face->slot_bytes : face->image_bytes;
    bool level = is_lit != ((place & LIT_LOW) != 0);

    for (; byte < face->image_bytes; byte = (uint16_t)(byte + next)) {
        if (level) {
            face->image[byte] |= bit;
        } else {
            face->image[byte] &= (uint8_t)~bit;
        }
    }
}

/* Sets lights of the image, one for each bit. */
static void draw_lights(const digits *face, const uint16_t *places, uint8_t count, uint16_t lights)
{
    for (; count != 0; count--) {
        uint16_t place = FLASH_WORD(places++);

        if (place != NO_PLACE) {
            draw_light(face, place, (lights & 1) != 0);
        }
        lights >>= 1;
    }
}

static void draw(const digits *face)
{
    const uint16_t *places = face->places;

    for (uint8_t digit = 0; digit < face->count; digit++) {
        draw_lights(face, places, face->segments, face->state->is_dark ? 0 : face->cells[digit]);
        places += face->segments;
    }
    draw_lights(face, places, face->lamps, face->state->is_dark ? 0 : face->state->lamps);
}

void digits_step(const digits *face)
{
    struct digits_state *state = face->state;

    now = (uint16_t)hw_now_ms(); /* it counts only if it is asked for often enough */
    if (scroll != 0 && state->is_scrolling) {
        scroll(face);
    }
    if (blink != 0 && state->is_blinking) {
        blink(face);
    }
    if (state->is_changed) {
        state->is_changed = false;
        draw(face);
        if (face->send != 0) {
            face->send();
        }
    }
    if (face->tend != 0) {
        face->tend();
    }
}
