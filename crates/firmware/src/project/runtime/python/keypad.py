"""The push buttons of the rig, by the numbers in keypad_wiring."""

import time

import keypad_wiring
from buttons import Buttons

_buttons = Buttons()
_gone_down = 0
_gone_up = 0
_since = [0] * keypad_wiring.COUNT  # when each went down


def step():
    """Looks at the buttons. main.py calls it again and again, before own.step()."""
    global _gone_down, _gone_up
    if not _buttons.is_due():
        return
    changed = _buttons.take(keypad_wiring.ask())
    _gone_down |= changed & _buttons.down
    _gone_up |= changed & ~_buttons.down
    for button in range(keypad_wiring.COUNT):
        if changed & _buttons.down & 1 << button:
            _since[button] = time.ticks_ms()


def is_down(button):
    """Returns True while a button is down; contacts that bounce do not count."""
    return _buttons.down >> button & 1 == 1


def went_down(button):
    """Returns True if a button has gone down since you last asked: once for each press."""
    global _gone_down
    went = _gone_down >> button & 1 == 1
    _gone_down &= ~(1 << button)
    return went


def went_up(button):
    """Returns True if a button has gone up since you last asked."""
    global _gone_up
    went = _gone_up >> button & 1 == 1
    _gone_up &= ~(1 << button)
    return went


def down_ms(button):
    """Returns for how many milliseconds a button has been down: 0 if it is up."""
    return time.ticks_diff(time.ticks_ms(), _since[button]) if is_down(button) else 0
