#include "keypad.h"

#include "buttons.h"
#include "hw.h"

#define MOST_MS 60000

static struct buttons buttons;
static button_bits gone_down;
static button_bits gone_up;
static uint16_t down_ms[BUTTON_COUNT];
static uint16_t asked;

static button_bits bit(uint8_t button)
{
    return (button_bits)((button_bits)1 << button);
}

void keypad_start(void)
{
    keypad_set_up();
    asked = (uint16_t)hw_now_ms();
}

void keypad_step(void)
{
    uint16_t passed = (uint16_t)((uint16_t)hw_now_ms() - asked);
    button_bits changed;

    if (passed < BUTTONS_LOOK_MS) {
        return;
    }
    asked = (uint16_t)(asked + passed);
    for (uint8_t button = 0; button < BUTTON_COUNT; button++) {
        if ((buttons.down & bit(button)) == 0) {
            down_ms[button] = 0;
        } else {
            down_ms[button] = passed < MOST_MS - down_ms[button] ? (uint16_t)(down_ms[button] + passed) : MOST_MS;
        }
    }
    changed = buttons_take(&buttons, keypad_ask());
    gone_down |= changed & buttons.down;
    gone_up |= changed & (button_bits)~buttons.down;
}

bool button_is_down(uint8_t button)
{
    return (buttons.down & bit(button)) != 0;
}

bool button_went_down(uint8_t button)
{
    bool went = (gone_down & bit(button)) != 0;

    gone_down &= (button_bits)~bit(button);
    return went;
}

bool button_went_up(uint8_t button)
{
    bool went = (gone_up & bit(button)) != 0;

    gone_up &= (button_bits)~bit(button);
    return went;
}

uint16_t button_down_ms(uint8_t button)
{
    return button_is_down(button) ? down_ms[button] : 0;
}
