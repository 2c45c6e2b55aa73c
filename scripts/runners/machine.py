"""Stands in for the interpreter's `machine` and `time` on a controller: it records what the pins do, in time of its own.

What it writes to standard output are lines of a value change dump. The time ends when `begin` says so.
"""

import sys

import outside


class End(Exception):
    """The time that was asked for is over."""


# What a call takes, in nanoseconds.
PIN_NS = 2000
ASK_NS = 20000
IDLE_NS = 1000000

_now = 1000
_end = 0
_levels = {}
_timers = []
_is_interrupted = False


def begin(ms):
    """Says when the time ends, and writes the head of the dump."""
    global _end
    _end = ms * 1000000
    print("$timescale 1 ns $end")
    for pin in range(64):
        for name in ("", "GPIO", "GP"):
            print("$var wire 1 p%d %s%d $end" % (pin, name, pin))
    print("$enddefinitions $end\n#0")
    for pin in range(64):
        print("xp%d" % pin)


def _pass(ns):
    """Lets time pass, and what is due in it happen. Nothing interrupts what a timer calls."""
    global _now, _is_interrupted
    until = _now + ns
    while not _is_interrupted and _timers:
        timer = min(_timers, key=lambda timer: timer._next)
        if timer._next > until:
            break
        _now = max(_now, timer._next)
        timer._calls += 1
        timer._next = timer._began + timer._calls * 1000000000 // timer._freq
        _is_interrupted = True
        timer._callback(timer)
        _is_interrupted = False
    _now = max(_now, until)
    if _now >= _end and not _is_interrupted:
        print("#%d" % _now)
        raise End


def _set(pin, level):
    if _levels.get(pin) != level:
        _levels[pin] = level
        print("#%d\n%sp%d" % (_now, level, pin))


def _level(pin):
    """The level of a pin that was let go, from whoever is outside."""
    print("#%d\n$comment level p%d $end" % (_now, pin))
    return outside.level()


class Pin:
    IN = 0
    OUT = 1
    OPEN_DRAIN = 2
    PULL_UP = 1
    PULL_DOWN = 2

    def __init__(self, number, mode=-1, pull=-1, value=None):
        self._number = number
        self._mode = mode
        if mode == Pin.IN and pull in (Pin.PULL_UP, Pin.PULL_DOWN):
            _set(self._number, "z")
        if value is not None:
            self(value)

    def __call__(self, value=None):
        """Sets the level, or gives it. An open drain that is not low is let go."""
        if value is None:
            _pass(PIN_NS)
            return _level(self._number)
        if self._mode not in (Pin.OUT, Pin.OPEN_DRAIN):
            raise ValueError("pin %d is no output" % self._number)
        _set(self._number, "0" if not value else "z" if self._mode == Pin.OPEN_DRAIN else "1")
        _pass(PIN_NS)


class SPI:
    """Sends the most significant bit first, and clocks are low between transfers."""

    def __init__(self, unit, baudrate=1000000, polarity=0, phase=0, sck=None, mosi=None, miso=None):
        if polarity or phase or None in (sck, mosi, miso):
            raise ValueError("another bus")
        self._half = 500000000 // baudrate
        self._clock, self._data = sck._number, mosi._number
        _set(self._clock, "0")
        _set(self._data, "0")

    def write(self, data):
        for byte in data:
            for bit in range(7, -1, -1):
                _set(self._data, str(byte >> bit & 1))
                _pass(self._half)
                _set(self._clock, "1")
                _pass(self._half)
                _set(self._clock, "0")


class SoftI2C:
    def __init__(self, scl, sda, freq=400000):
        self._half = 500000000 // freq + 1
        self._clock, self._data = scl._number, sda._number
        _set(self._clock, "z")
        _set(self._data, "z")

    def _line(self, line, level):
        _set(line, level)
        _pass(self._half)

    def _begin(self):
        self._line(self._data, "z")
        self._line(self._clock, "z")
        self._line(self._data, "0")
        self._line(self._clock, "0")

    def _end(self):
        self._line(self._data, "0")
        self._line(self._clock, "z")
        self._line(self._data, "z")

    def _write(self, data):
        """Nobody listens, and each byte passes as acknowledged."""
        for byte in data:
            for bit in range(9):
                self._line(self._data, "z" if bit == 8 or byte << bit & 0x80 else "0")
                self._line(self._clock, "z")
                self._line(self._clock, "0")

    def writeto(self, address, data, stop=True):
        self._begin()
        self._write(bytes((address << 1,)) + data)
        if stop:
            self._end()

    def readfrom(self, address, count):
        self._begin()
        self._write(bytes((address << 1 | 1,)))
        data = bytearray(count)
        for at in range(count):
            for bit in range(9):
                is_acknowledged = bit == 8 and at + 1 < count
                self._line(self._data, "0" if is_acknowledged else "z")
                self._line(self._clock, "z")
                if bit < 8:
                    data[at] |= _level(self._data) << 7 - bit
                self._line(self._clock, "0")
        self._end()
        return data


class Timer:
    PERIODIC = 1

    def __init__(self, number=-1):
        self._number = number

    def init(self, freq, mode, callback):
        self._freq, self._callback, self._calls = freq, callback, 1
        self._began = _now
        self._next = _now + 1000000000 // freq
        _timers.append(self)


def idle():
    _pass(IDLE_NS)


class _Time:
    """The module `time`, with the count of milliseconds that begins again at 2^30."""

    PERIOD = 1 << 30

    def ticks_ms(self):
        _pass(ASK_NS)
        # Not long before it begins again.
        return (_now // 1000000 + self.PERIOD - 1500) % self.PERIOD

    def ticks_add(self, ticks, ms):
        return (ticks + ms) % self.PERIOD

    def ticks_diff(self, end, begin):
        return (end - begin + self.PERIOD // 2) % self.PERIOD - self.PERIOD // 2

    def sleep_us(self, us):
        _pass(1000 * us)


sys.modules["time"] = _Time()
