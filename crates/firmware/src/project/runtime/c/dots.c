#include "dots.h"

#include "dots_wiring.h"
#include "hw.h"

/* Set by the first text that passes and the first blink, and never again: a program without them is built without them. */
static void (*scroll)(const dots *face);
static void (*blink)(const dots *face);
static volatile uint8_t *(*canvas)(const dots *face);

/* The time of this step, in milliseconds. */
static uint16_t now;

/* ---- dots ---- */

/* The place in the image of a light of a dot on the display. */
static uint16_t place_of(const dots *face, uint16_t x, uint16_t y, uint8_t light)
{
    uint16_t sum;

    if (face->places != 0) {
        return FLASH_WORD(&face->places[(uint16_t)(y * face->width + x) * face->lights + light]);
    }
    sum = (uint16_t)(FLASH_WORD(&face->across[x]) + FLASH_WORD(&face->down[y]));
    return face->lights == 1 ? sum : (uint16_t)(sum + FLASH_WORD(&face->of_light[light]));
}

/* The lights of a colour. If a display has none of them, all of its own stand for it. */
static uint8_t lights_of(const dots *face, uint8_t colour)
{
    uint8_t all = (uint8_t)((1u << face->lights) - 1);

    return colour != DOTS_DARK && (colour & all) == 0 ? all : colour & all;
}

void dots_dot(const dots *face, int16_t x, int16_t y, uint8_t colour)
{
    volatile uint8_t *image = canvas != 0 ? canvas(face) : face->image;
    uint8_t lit;

    if (x < 0 || y < 0 || (uint16_t)x >= face->width || (uint16_t)y >= face->height) {
        return;
    }
    lit = lights_of(face, colour);
    for (uint8_t light = 0; light < face->lights; light++) {
        uint16_t place = place_of(face, (uint16_t)x, (uint16_t)y, light);
        uint8_t bit = (uint8_t)(1u << (place & 7));

        if (((lit & 1) != 0) != face->is_low) {
            image[place >> 3] |= bit;
        } else {
            image[place >> 3] &= (uint8_t)~bit;
        }
        lit >>= 1;
    }
    face->state->is_changed = true;
}

void dots_row(const dots *face, int16_t x, int16_t y, uint8_t bits, uint8_t colour)
{
    for (; bits != 0; bits = (uint8_t)(bits << 1)) {
        if ((bits & 0x80) != 0) {
            dots_dot(face, x, y, colour);
        }
        x++;
    }
}

void dots_area(const dots *face, int16_t x, int16_t y, uint16_t width, uint16_t height, uint8_t colour)
{
    for (uint16_t row = 0; row < height; row++) {
        for (uint16_t column = 0; column < width; column++) {
            dots_dot(face, (int16_t)(x + (int16_t)column), (int16_t)(y + (int16_t)row), colour);
        }
    }
}

static void fill(const dots *face, uint8_t colour)
{
    dots_area(face, 0, 0, face->width, face->height, colour);
}

void dots_clear(const dots *face)
{
    face->state->is_scrolling = false;
    face->state->is_blinking = false;
    face->state->is_dark = false;
    fill(face, DOTS_DARK);
}

void dots_test(const dots *face)
{
    fill(face, DOTS_WHITE);
}

void dots_sprite(const dots *face, const uint8_t *rows, uint8_t width, uint8_t height, int16_t x, int16_t y, uint8_t colour)
{
    uint8_t bytes = (uint8_t)((width + 7) / 8);

    for (uint8_t row = 0; row < height; row++) {
        for (uint8_t byte = 0; byte < bytes; byte++) {
            dots_row(face, (int16_t)(x + 8 * byte), (int16_t)(y + row), FLASH_BYTE(rows++), colour);
        }
    }
}

/* ---- texts ---- */

/* The first column of a character in its font, and the column behind its last. */
struct span {
    uint16_t begin;
    uint16_t end;
};

static struct span span_of(const dots_font *font, char character)
{
    struct span span = { 0, 0 };

    if (character >= ' ' && character <= '~') {
        const uint16_t *begins = &font->begins[character - ' '];

        span.begin = FLASH_WORD(begins);
        span.end = FLASH_WORD(begins + 1);
    }
    return span;
}

/* The same, or that of the question mark if the font lacks the character. Counts those. */
static struct span known_span(const dots_font *font, char character, uint8_t *missing)
{
    struct span span = span_of(font, character);

    if (span.begin == span.end) {
        span = span_of(font, '?');
        if (*missing < 255) {
            ++*missing;
        }
    }
    return span;
}

/* Lights columns of a font. Returns the column behind them. */
static int16_t put_columns(const dots *face, const dots_font *font, struct span span, int16_t x, int16_t y, uint8_t colour)
{
    uint8_t bytes = font->height > 8 ? 2 : 1;
    const uint8_t *column = &font->columns[bytes * span.begin];

    for (; span.begin != span.end; span.begin++) {
        uint16_t bits = FLASH_BYTE(column++);

        if (bytes == 2) {
            bits |= (uint16_t)((uint16_t)FLASH_BYTE(column++) << 8);
        }
        for (int16_t row = y; bits != 0; row++) {
            if ((bits & 1) != 0) {
                dots_dot(face, x, row, colour);
            }
            bits >>= 1;
        }
        x++;
    }
    return x;
}

uint8_t dots_text(const dots *face, const dots_font *font, const char *text, int16_t x, int16_t y, uint8_t colour)
{
    uint8_t missing = 0;

    while (*text != 0) {
        x = put_columns(face, font, known_span(font, *text++, &missing), x, y, colour);
    }
    return missing;
}

uint16_t dots_width(const dots_font *font, const char *text)
{
    uint8_t missing = 0;
    uint16_t width = 0;

    while (*text != 0) {
        struct span span = known_span(font, *text++, &missing);

        width = (uint16_t)(width + span.end - span.begin);
    }
    return width > font->room ? (uint16_t)(width - font->room) : 0;
}

/* ---- numbers ---- */

#define MOST_PLACES 9

bool dots_number(const dots *face, const dots_font *font, int32_t number, uint8_t places, int16_t right, int16_t y, uint8_t colour)
{
    char text[MOST_PLACES + 5]; /* ten figures, sign, point and end */
    char *first = &text[sizeof text - 1];
    uint32_t rest = number < 0 ? 0 - (uint32_t)number : (uint32_t)number;
    uint8_t written = 0;
    bool fits;

    *first = 0;
    places = places > MOST_PLACES ? MOST_PLACES : places;
    while (rest != 0 || written <= places) {
        if (places != 0 && written == places) {
            *--first = '.';
        }
        *--first = (char)('0' + rest % 10);
        rest /= 10;
        written++;
    }
    if (number < 0) {
        *--first = '-';
    }
    fits = (int16_t)dots_width(font, first) <= right;
    if (!fits) {
        first = &text[sizeof text - 2];
        *first = '-';
    }
    dots_text(face, font, first, (int16_t)(right - (int16_t)dots_width(font, first)), y, colour);
    return fits;
}

void dots_time(const dots *face, const dots_font *font, uint8_t hours, uint8_t minutes, bool colon, int16_t x, int16_t y, uint8_t colour)
{
    const uint8_t values[2] = { hours, minutes };

    for (uint8_t nth = 0; nth < 2; nth++) {
        uint8_t value = values[nth] % 100;
        char figures[3] = { (char)('0' + value / 10), (char)('0' + value % 10), 0 };

        dots_text(face, font, figures, x, y, colour);
        x = (int16_t)(x + (int16_t)dots_width(font, figures) + font->room);
        if (nth == 0) {
            if (colon) {
                dots_text(face, font, ":", x, y, colour);
            }
            x = (int16_t)(x + (int16_t)dots_width(font, ":") + font->room);
        }
    }
}

/* ---- what moves ---- */

/* Draws the text that passes: it comes in from the right, and leaves at the left. */
static void put_passing(const dots *face)
{
    struct dots_motion *motion = face->motion;
    int16_t x = (int16_t)(face->width - motion->passing.at);

    dots_area(face, 0, motion->y, face->width, motion->font->height, DOTS_DARK);
    dots_text(face, motion->font, motion->text, x, motion->y, motion->colour);
}

static void scroll_on(const dots *face)
{
    struct passing *passing = &face->motion->passing;

    if (is_over(&passing->stepped, passing->every_ms, now)) {
        face->state->is_scrolling = step_passing(passing);
        put_passing(face);
    }
}

void dots_scroll(const dots *face, const dots_font *font, const char *text, uint16_t every_ms, uint8_t passes, int16_t y, uint8_t colour)
{
    struct dots_motion *motion = face->motion;

    motion->font = font;
    motion->text = text;
    begin_passing(&motion->passing, (uint16_t)(face->width + dots_width(font, text)), every_ms, passes, (uint16_t)hw_now_ms());
    motion->y = y;
    motion->colour = colour;
    face->state->is_scrolling = true;
    scroll = scroll_on;
    put_passing(face);
}

bool dots_is_scrolling(const dots *face)
{
    return face->state->is_scrolling;
}

/* In the dark half of a blink the image is dark, and what is drawn is kept. */
static volatile uint8_t *canvas_of(const dots *face)
{
    return face->state->is_dark ? face->kept : face->image;
}

static void copy(const dots *face, volatile uint8_t *to, const volatile uint8_t *from)
{
    for (uint16_t byte = 0; byte < face->image_bytes; byte++) {
        to[byte] = from[byte];
    }
    face->state->is_changed = true;
}

static void set_dark(const dots *face, bool is_dark)
{
    struct dots_state *state = face->state;

    if (is_dark && !state->is_dark) {
        copy(face, face->kept, face->image);
        fill(face, DOTS_DARK);
    } else if (!is_dark && state->is_dark) {
        copy(face, face->image, face->kept);
    }
    state->is_dark = is_dark;
}

static void blink_on(const dots *face)
{
    struct dots_motion *motion = face->motion;

    if (is_over(&motion->blinked, motion->half_ms, now)) {
        set_dark(face, !face->state->is_dark);
    }
}

void dots_blink(const dots *face, uint16_t half_ms)
{
    face->motion->half_ms = half_ms;
    face->motion->blinked = (uint16_t)hw_now_ms();
    set_dark(face, false);
    face->state->is_blinking = half_ms != 0;
    blink = blink_on;
    canvas = canvas_of;
}

void dots_step(const dots *face)
{
    struct dots_state *state = face->state;

    now = (uint16_t)hw_now_ms(); /* it counts only if it is asked for often enough */
    if (scroll != 0 && state->is_scrolling) {
        scroll(face);
    }
    if (blink != 0 && state->is_blinking) {
        blink(face);
    }
    if (state->is_changed) {
        state->is_changed = false;
        if (face->send != 0) {
            face->send();
        }
    }
    if (face->tend != 0) {
        face->tend();
    }
}
