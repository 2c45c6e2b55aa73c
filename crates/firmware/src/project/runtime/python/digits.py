"""What your program says to a display of digits. Every call returns at once; step() does what is due."""

import time

# Where a text stands that is shorter than the display.
LEFT, CENTRE, RIGHT = range(3)

# Beside a place in the image, which is eight times the byte, and the bit.
NO_PLACE = 0xFFFF  # it has no wire
IN_EVERY_SLOT = 0x8000  # of a scan: nothing selects it
LIT_LOW = 0x4000  # its bit is 0 while it is lit
PLACE_BITS = 0x3FFF

NO_LAMP = 255
MINUS = 16  # behind the figures 0 to F


class Digits:
    """A display. Its own module makes one of it, and has the calls that set it up."""

    def __init__(self, count, segments, lamps, has_points, has_colons, slot_bytes, tables, image, send):
        self.count = count
        self.segments_of_digit = segments
        self.lamp_count = lamps
        self.has_colons = has_colons
        self.slot_bytes = slot_bytes
        self.places, self.colons, self.figures, self.glyphs = tables
        self.image = image
        self.send = send
        self.point = 1 << (segments - 1) if has_points else 0
        self.cells = [0] * count
        self.lamps = 0
        self.is_changed = False
        self.is_dark = False
        self.half_ms = 0
        self.strip = None

    def clear(self):
        """Darkens all digits, lamps and colons, and ends what moves."""
        self.strip = None
        self.half_ms = 0
        self.is_dark = False
        self.lamps = 0
        self._show([0] * self.count)

    def segments(self, digit, lit):
        """Lights these segments of a digit, the first digit being 0: segment a is bit 0, and the point is the last bit."""
        self.strip = None
        if 0 <= digit < self.count:
            self.cells[digit] = lit
            self.is_changed = True

    def text(self, text, align=LEFT):
        """Shows a text. A point joins the digit before it; a colon lights the display's own colon, if it has one.

        Returns how many characters are not shown: one that the segments cannot form is an underscore, and the end of a
        text that is too long is left out.
        """
        parts, missing = self._parts(text)
        length = sum(1 for part in parts if part is not None)
        spare = max(self.count - length, 0)
        self._begin()
        cells = [0] * ((0, spare // 2, spare)[align])
        for part in parts:
            if part is not None:
                cells.append(part)
            elif len(cells) <= self.count and self.colons[len(cells)] != NO_LAMP:
                self.lamp(self.colons[len(cells)], True)
            else:
                missing += 1
        missing += max(len(cells) - self.count, 0)
        self._show((cells + [0] * self.count)[: self.count])
        return missing

    def number(self, number, places=0):
        """Shows a number at the right, with this many places after the point: 2150 with 2 places is 21.50.

        Returns False if it does not fit; then each digit shows a dash.
        """
        return self._number(abs(number), number < 0, places + 1, places, 10)

    def padded(self, number, figures, base=10):
        """Shows a whole number at the right, with leading zeros up to this many figures; base is 2 to 16.

        Returns False if it does not fit; then each digit shows a dash.
        """
        return self._number(number, False, max(figures, 1), 0, base)

    def time(self, hours, minutes, colon=True):
        """Shows hours and minutes in the middle, with the colon lit or dark. A point stands for a colon that the display lacks.

        Returns False if there are fewer than four digits; then each shows a dash.
        """
        self._begin()
        if self.count < 4 or hours > 99 or minutes > 99:
            self._show([self.figures[MINUS]] * self.count)
            return False
        start = (self.count - 4) // 2
        cells = [0] * self.count
        cells[start : start + 4] = [
            self.figures[figure] for figure in (hours // 10, hours % 10, minutes // 10, minutes % 10)
        ]
        if self.colons[start + 2] != NO_LAMP:
            self.lamp(self.colons[start + 2], colon)
        elif colon:
            cells[start + 1] |= self.point
        self._show(cells)
        return True

    def lamp(self, lamp, is_on):
        """Lights a lamp or colon, or puts it out; the display's module has their names."""
        if 0 <= lamp < self.lamp_count:
            self.lamps = self.lamps | 1 << lamp if is_on else self.lamps & ~(1 << lamp)
            self.is_changed = True

    def test(self):
        """Lights every segment, lamp and colon."""
        self._begin()
        self.lamps = 0xFFFF
        self._show([0xFFFF] * self.count)

    def scroll(self, text, every_ms=300, passes=1):
        """Lets a text pass from right to left, a digit in every_ms milliseconds; passes times, or forever if passes is 0.

        Other content ends it.
        """
        parts, _ = self._parts(text)
        self._begin()
        self._show([0] * self.count)
        dark = [0] * self.count
        self.strip = dark + [part for part in parts if part is not None] + dark
        self.at = 0
        self.every_ms = max(every_ms, 1)
        self.passes = passes
        self.stepped = time.ticks_ms()

    def is_scrolling(self):
        """Returns True as long as a text passes."""
        return self.strip is not None

    def blink(self, half_ms):
        """Lets what is shown blink: lit for this long, dark for as long. 0 ends it."""
        self.half_ms = half_ms
        self.blinked = time.ticks_ms()
        self.is_changed = self.is_changed or self.is_dark
        self.is_dark = False

    def step(self):
        """Shows what has changed, and goes on with what moves. Call it again and again."""
        now = time.ticks_ms()
        if self.strip is not None and time.ticks_diff(now, self.stepped) >= self.every_ms:
            self.stepped = time.ticks_add(self.stepped, self.every_ms)
            self._pass()
        if self.half_ms and time.ticks_diff(now, self.blinked) >= self.half_ms:
            self.blinked = time.ticks_add(self.blinked, self.half_ms)
            self.is_dark = not self.is_dark
            self.is_changed = True
        if self.is_changed:
            self.is_changed = False
            self._draw()
            if self.send is not None:
                self.send()

    def _begin(self):
        """New content: what passed ends, and the colons go out."""
        self.strip = None
        for colon in self.colons:
            if colon != NO_LAMP:
                self.lamp(colon, False)

    def _show(self, cells):
        self.cells = cells
        self.is_changed = True

    def _parts(self, text):
        """What each digit of a text lights, and None for a colon; and how many characters the segments cannot form."""
        parts = []
        missing = 0
        joins = False  # a point joins the digit before
        for character in text:
            if character == "." and joins:
                parts[-1] |= self.point
                joins = False
                continue
            if character == ":" and self.has_colons:
                parts.append(None)
                joins = False
                continue
            if character == "." and self.point:
                parts.append(self.point)
                joins = False
                continue
            code = ord("," if character == "." else character) - ord(" ")
            lit = self.glyphs[code] if 0 <= code < len(self.glyphs) else 0
            if lit == 0 and code != 0:
                lit = self.glyphs[ord("_") - ord(" ")]
                missing += 1
            parts.append(lit)
            joins = self.point != 0 and character != ":"
        return parts, missing

    def _number(self, rest, is_negative, least, places, base):
        """Writes figures from the right, at least so many, with a point before the last places."""
        cells = []  # from the right
        written = 0
        while rest or written < least:
            lit = self.figures[rest % base]
            if places and written == places:
                if self.point:
                    lit |= self.point
                else:
                    cells.append(self.glyphs[ord(",") - ord(" ")])
            cells.append(lit)
            rest //= base
            written += 1
        if is_negative:
            cells.append(self.figures[MINUS])
        self._begin()
        if len(cells) > self.count:
            self._show([self.figures[MINUS]] * self.count)
            return False
        cells += [0] * (self.count - len(cells))
        self._show(list(reversed(cells)))
        return True

    def _pass(self):
        self.at += 1
        strip = self.strip
        if self.at == len(strip) - self.count:
            if self.passes == 1:
                self.strip = None
            self.passes = max(self.passes - 1, 0)
            self.at = 0
        self._show(strip[self.at : self.at + self.count])

    def _draw(self):
        lights = [cell >> segment & 1 for cell in self.cells for segment in range(self.segments_of_digit)]
        lights += [self.lamps >> lamp & 1 for lamp in range(self.lamp_count)]
        for place, is_lit in zip(self.places, lights):
            if place != NO_PLACE:
                self._draw_light(place, is_lit and not self.is_dark)

    def _draw_light(self, place, is_lit):
        byte = (place & PLACE_BITS) >> 3
        bit = 1 << (place & 7)
        step = self.slot_bytes if place & IN_EVERY_SLOT else len(self.image)
        while byte < len(self.image):
            if is_lit == bool(place & LIT_LOW):
                self.image[byte] &= ~bit & 0xFF
            else:
                self.image[byte] |= bit
            byte += step
