#include "buttons.h"

button_bits buttons_take(struct buttons *of, button_bits seen)
{
    button_bits changed;

    if (seen != of->last) {
        of->last = seen;
        of->alike = 0;
        return 0;
    }
    if (of->alike == BUTTONS_SETTLED_LOOKS || ++of->alike != BUTTONS_SETTLED_LOOKS) {
        return 0;
    }
    changed = seen ^ of->down;
    of->down = seen;
    return changed;
}
