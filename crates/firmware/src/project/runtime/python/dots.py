"""What your program says to a display of dots. Every call returns at once; step() does what is due.

Columns count from 0 at the left, rows from 0 at the top; what lies beyond the display is left out.
"""

import time

# Colours. A display with lights of one colour shows all but the first of them alike.
DARK, RED, GREEN, YELLOW, BLUE, MAGENTA, CYAN, WHITE = range(8)


class Font:
    """A font: fonts.py has them."""

    def __init__(self, height, room, begins, columns):
        self.height = height
        self.room = room  # dark columns behind each character
        self.begins = begins  # the first column of each character from the blank on, and the end of the last one
        self.columns = columns  # each with the top row in the lowest bit

    def columns_of(self, text):
        """The columns of a text, and how many of its characters the font lacks: each is a question mark."""
        columns = []
        missing = 0
        for character in text:
            span = self._span(character)
            if span[0] == span[1]:
                span = self._span("?")
                missing += 1
            columns += self.columns[span[0] : span[1]]
        return columns, missing

    def width(self, text):
        """Returns how many columns a text takes."""
        return max(len(self.columns_of(text)[0]) - self.room, 0)

    def _span(self, character):
        place = ord(character) - ord(" ")
        if not 0 <= place < len(self.begins) - 1:
            return 0, 0
        return self.begins[place], self.begins[place + 1]


class Dots:
    """A display. Its own module makes one of it, and has the calls that set it up."""

    def __init__(self, width, height, lights, is_low, place_of, image, send):
        self.width = width
        self.height = height
        self.lights = (1 << lights) - 1
        self.is_low = is_low
        self.place_of = place_of
        self.image = image
        self.send = send
        self.canvas = image
        self.is_changed = False
        self.half_ms = 0
        self.strip = None

    def clear(self):
        """Darkens all dots, and ends what moves."""
        self.strip = None
        self.half_ms = 0
        self._set_dark(False)
        self._fill(DARK)

    def dot(self, x, y, colour):
        """Lights a dot in a colour, or darkens it."""
        if not (0 <= x < self.width and 0 <= y < self.height):
            return
        lit = colour & self.lights
        if lit == 0 and colour != DARK:
            lit = self.lights
        light = 0
        while self.lights >> light:
            place = self.place_of(x, y, light)
            bit = 1 << (place & 7)
            if (lit >> light & 1 == 1) != self.is_low:
                self.canvas[place >> 3] |= bit
            else:
                self.canvas[place >> 3] &= ~bit & 0xFF
            light += 1
        self.is_changed = True

    def row(self, x, y, bits, colour):
        """Lights dots of a row in a colour, one for each 1 of eight bits, the highest at column x. The others stay."""
        for place in range(8):
            if bits >> (7 - place) & 1:
                self.dot(x + place, y, colour)

    def area(self, x, y, width, height, colour):
        """Fills an area with a colour, or darkens it."""
        for row in range(max(y, 0), min(y + height, self.height)):
            for column in range(max(x, 0), min(x + width, self.width)):
                self.dot(column, row, colour)

    def sprite(self, rows, width, height, x, y, colour):
        """Lights a sprite in a colour, its upper left dot at x and y.

        It has its rows from the top, each in whole bytes with the first dot in the highest bit. Its dark dots stay as
        they are.
        """
        across = (width + 7) // 8
        for place in range(across * height):
            self.row(x + 8 * (place % across), y + place // across, rows[place], colour)

    def text(self, font, text, x, y, colour):
        """Lights a text in a colour, its upper left corner at x and y. The dots between stay as they are.

        Returns how many of its characters the font lacks: each is a question mark.
        """
        columns, missing = font.columns_of(text)
        self._put(columns, x, y, colour)
        return missing

    def number(self, font, number, places, right, y, colour):
        """Lights a number with this many places after the point: 2150 with 2 places is 21.50. It ends before the column right.

        Returns False if it does not fit; then a dash stands there.
        """
        figures = str(abs(number))
        figures = "0" * (places + 1 - len(figures)) + figures
        if places:
            figures = figures[:-places] + "." + figures[-places:]
        text = ("-" if number < 0 else "") + figures
        fits = font.width(text) <= right
        if not fits:
            text = "-"
        self.text(font, text, right - font.width(text), y, colour)
        return fits

    def time(self, font, hours, minutes, colon, x, y, colour):
        """Lights hours and minutes, their upper left corner at x and y, with the colon lit or dark."""
        before, after = "%02d" % (hours % 100), "%02d" % (minutes % 100)
        self.text(font, before, x, y, colour)
        x += font.width(before) + font.room
        if colon:
            self.text(font, ":", x, y, colour)
        self.text(font, after, x + font.width(":") + font.room, y, colour)

    def test(self):
        """Lights every dot in white."""
        self._fill(WHITE)

    def scroll(self, font, text, every_ms=60, passes=1, y=0, colour=WHITE):
        """Lets a text pass from right to left, a column in every_ms milliseconds; passes times, or forever if passes is 0.

        It has the rows from y on for itself.
        """
        self.strip = font.columns_of(text)[0]
        self.length = self.width + max(len(self.strip) - font.room, 0)
        self.rows = (y, font.height, colour)
        self.at = 0
        self.every_ms = max(every_ms, 1)
        self.passes = passes
        self.stepped = time.ticks_ms()
        self._put_passing(self.strip)

    def is_scrolling(self):
        """Returns True as long as a text passes."""
        return self.strip is not None

    def blink(self, half_ms):
        """Lets what is shown blink: lit for this long, dark for as long. 0 ends it."""
        self.half_ms = half_ms
        self.blinked = time.ticks_ms()
        self._set_dark(False)

    def step(self):
        """Shows what has changed, and goes on with what moves. Call it again and again."""
        now = time.ticks_ms()
        if self.strip is not None and time.ticks_diff(now, self.stepped) >= self.every_ms:
            self.stepped = time.ticks_add(self.stepped, self.every_ms)
            self._pass()
        if self.half_ms and time.ticks_diff(now, self.blinked) >= self.half_ms:
            self.blinked = time.ticks_add(self.blinked, self.half_ms)
            self._set_dark(self.canvas is self.image)
        if self.is_changed:
            self.is_changed = False
            if self.send is not None:
                self.send()

    def _fill(self, colour):
        self.area(0, 0, self.width, self.height, colour)

    def _put(self, columns, x, y, colour):
        for bits in columns:
            if 0 <= x < self.width:
                row = y
                while bits:
                    if bits & 1:
                        self.dot(x, row, colour)
                    bits >>= 1
                    row += 1
            x += 1

    def _put_passing(self, strip):
        y, height, colour = self.rows
        self.area(0, y, self.width, height, DARK)
        self._put(strip, self.width - self.at, y, colour)

    def _pass(self):
        strip = self.strip
        self.at += 1
        if self.at == self.length:
            if self.passes == 1:
                self.strip = None
            self.passes = max(self.passes - 1, 0)
            self.at = 0
        self._put_passing(strip)

    def _set_dark(self, is_dark):
        """In the dark half of a blink the image is dark, and what is drawn is kept."""
        if is_dark == (self.canvas is not self.image):
            return
        if is_dark:
            kept = bytearray(self.image)
            self._fill(DARK)
            self.canvas = kept
        else:
            self.image[:] = self.canvas
            self.canvas = self.image
        self.is_changed = True
