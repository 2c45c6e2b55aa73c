"""Push buttons that are read together: which are down, when their contacts have settled."""

import time

LOOK_MS = 10
SETTLED_LOOKS = 2  # contacts bounce: a state counts once this number of further looks saw the same


class Buttons:
    """Buttons, a bit each."""

    def __init__(self):
        self.down = 0
        self._last = 0  # the state at the last look
        self._alike = 0  # the number of looks that saw the same
        self._asked = time.ticks_ms()

    def begin(self):
        """Counts the time from now on."""
        self._asked = time.ticks_ms()

    def is_due(self):
        """Returns True if it is time for a look, which must then follow."""
        now = time.ticks_ms()
        if time.ticks_diff(now, self._asked) < LOOK_MS:
            return False
        self._asked = now
        return True

    def take(self, seen):
        """Takes what a look sees. Returns the bits of those that have gone down or up."""
        if seen != self._last:
            self._last = seen
            self._alike = 0
            return 0
        if self._alike == SETTLED_LOOKS:
            return 0
        self._alike += 1
        if self._alike != SETTLED_LOOKS:
            return 0
        changed = seen ^ self.down
        self.down = seen
        return changed
