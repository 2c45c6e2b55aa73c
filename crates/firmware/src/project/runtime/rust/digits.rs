//! The calls for a display of digits. Every call returns at once; the display's `step` shows what has changed, and goes
//! on with what moves.

use crate::motion::{Passing, Showing};

/// Segments of a digit: segment a is bit 0, and the point is the last bit.
pub type Cell = u16;

/// A text that passes may take this number of digits; the rest is left out.
pub const LONGEST_TEXT: usize = 64;

/// Where a text stands that is shorter than the display.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Align {
    /// At the first digit.
    Left,
    /// In the middle.
    Centre,
    /// At the last digit.
    Right,
}

// Beside the place of a light in the image, which is eight times the byte, and the bit.
const NO_PLACE: u16 = 0xFFFF; // it has no wire
const IN_EVERY_SLOT: u16 = 0x8000; // of a scan: nothing selects it
const LIT_LOW: u16 = 0x4000; // its bit is 0 while it is lit
const PLACE_BITS: u16 = 0x3FFF;

const NO_LAMP: u8 = 255;
/// Behind the figures 0 to F.
const MINUS: usize = 16;

/// How a display is made of its rig; its own module has it.
pub(crate) struct Wiring {
    /// Segments of a digit, its point included.
    pub(crate) segments: usize,
    /// Every digit has a point.
    pub(crate) has_points: bool,
    /// A colon in a text takes no digit.
    pub(crate) has_colons: bool,
    pub(crate) lamps: usize,
    /// Bytes of a slot of a scanned image; otherwise 0.
    pub(crate) slot_bytes: usize,
    /// Of each segment of each digit, then of each lamp.
    pub(crate) places: &'static [u16],
    /// Before each digit and behind the last the lamp that is a colon there, or 255.
    pub(crate) colons: &'static [u8],
    /// 0 to F and the minus.
    pub(crate) figures: &'static [Cell; 17],
    /// The printable characters from the blank on; 0 if the segments cannot form it.
    pub(crate) glyphs: &'static [Cell; 95],
}

impl Wiring {
    fn point(&self) -> Cell {
        if self.has_points {
            1 << (self.segments - 1)
        } else {
            0
        }
    }

    /// None if the segments cannot form it.
    fn glyph(&self, character: char) -> Option<Cell> {
        let place = u32::from(character).checked_sub(u32::from(' '))?;
        let segments = *self.glyphs.get(place as usize)?;
        (segments != 0 || character == ' ').then_some(segments)
    }

    /// Characters that the segments cannot form are underscores.
    fn underscore(&self) -> Cell {
        self.glyphs[usize::from(b'_' - b' ')]
    }

    fn comma(&self) -> Cell {
        self.glyphs[usize::from(b',' - b' ')]
    }

    fn parts<'t>(&'t self, text: &'t str) -> Parts<'t> {
        Parts {
            wiring: self,
            rest: text.chars(),
        }
    }
}

/// A part of a text.
enum Part {
    /// A character with the point behind it, and whether the segments can form it.
    Digit(Cell, bool),
    /// A colon of the display.
    Colon,
}

/// The parts of a text.
struct Parts<'t> {
    wiring: &'t Wiring,
    rest: core::str::Chars<'t>,
}

impl Iterator for Parts<'_> {
    type Item = Part;

    fn next(&mut self) -> Option<Part> {
        let (first, point) = (self.rest.next()?, self.wiring.point());
        if first == ':' && self.wiring.has_colons {
            return Some(Part::Colon);
        }
        if first == '.' && point != 0 {
            return Some(Part::Digit(point, true));
        }
        let glyph = self.wiring.glyph(if first == '.' { ',' } else { first });
        let mut segments = glyph.unwrap_or(self.wiring.underscore());
        if first != ':' && point != 0 && self.rest.as_str().starts_with('.') {
            self.rest.next();
            segments |= point;
        }
        Some(Part::Digit(segments, glyph.is_some()))
    }
}

/// A text that passes.
struct Strip {
    cells: [Cell; LONGEST_TEXT],
    length: usize,
    passing: Passing,
}

/// A display of `COUNT` digits. Its own module makes one of it.
pub struct Digits<const COUNT: usize> {
    wiring: &'static Wiring,
    cells: [Cell; COUNT],
    /// The lamps and colons that are on, the first one in bit 0.
    lamps: u16,
    strip: Option<Strip>,
    showing: Showing,
}

impl<const COUNT: usize> Digits<COUNT> {
    pub(crate) const fn new(wiring: &'static Wiring, brightness_steps: u8) -> Self {
        Self {
            wiring,
            cells: [0; COUNT],
            lamps: 0,
            strip: None,
            showing: Showing::new(brightness_steps),
        }
    }

    /// Darkens all digits, lamps and colons, and ends what moves.
    pub fn clear(&mut self) {
        self.strip = None;
        self.showing.blink(0);
        self.lamps = 0;
        self.show([0; COUNT]);
    }

    /// Lights these segments of a digit, the first digit being 0: segment a is bit 0, and the point is the last bit.
    pub fn segments(&mut self, digit: usize, segments: Cell) {
        self.strip = None;
        if let Some(cell) = self.cells.get_mut(digit) {
            *cell = segments;
            self.showing.is_changed = true;
        }
    }

    /// Shows a text. A point joins the digit before it; a colon lights the display's own colon, if it has one.
    ///
    /// Returns how many characters are not shown: one that the segments cannot form is an underscore, and the end of a text that is
    /// too long is left out.
    pub fn text(&mut self, text: &str, align: Align) -> usize {
        let wiring = self.wiring;
        let length = wiring
            .parts(text)
            .filter(|part| matches!(part, Part::Digit(..)))
            .count();
        let spare = COUNT.saturating_sub(length);
        let mut digit = match align {
            Align::Left => 0,
            Align::Centre => spare / 2,
            Align::Right => spare,
        };
        let mut missing = 0;
        self.begin();
        self.show([0; COUNT]);
        for part in wiring.parts(text) {
            match part {
                Part::Colon => missing += usize::from(!self.colon(digit, true)),
                Part::Digit(segments, is_known) => match self.cells.get_mut(digit) {
                    Some(cell) => {
                        *cell = segments;
                        digit += 1;
                        missing += usize::from(!is_known);
                    }
                    None => missing += 1,
                },
            }
        }
        missing
    }

    /// Shows a number at the right, with this many places after the point: 2150 with 2 places is 21.50.
    ///
    /// Returns false if it does not fit; then each digit shows a dash.
    pub fn number(&mut self, number: i32, places: u8) -> bool {
        self.figures(
            number.unsigned_abs(),
            number < 0,
            usize::from(places) + 1,
            usize::from(places),
            10,
        )
    }

    /// Shows a whole number at the right, with leading zeros up to this many figures; base is 2 to 16.
    ///
    /// Returns false if it does not fit; then each digit shows a dash.
    pub fn padded(&mut self, number: u32, figures: u8, base: u8) -> bool {
        self.figures(
            number,
            false,
            usize::from(figures.max(1)),
            0,
            base.clamp(2, 16).into(),
        )
    }

    /// Shows hours and minutes in the middle, with the colon lit or dark. A point stands for a colon that the display lacks.
    ///
    /// Returns false if there are fewer than four digits; then each shows a dash.
    pub fn time(&mut self, hours: u8, minutes: u8, colon: bool) -> bool {
        self.begin();
        if COUNT < 4 || hours > 99 || minutes > 99 {
            self.show([self.wiring.figures[MINUS]; COUNT]);
            return false;
        }
        let first = (COUNT - 4) / 2;
        let mut cells = [0; COUNT];
        for (cell, figure) in
            cells[first..]
                .iter_mut()
                .zip([hours / 10, hours % 10, minutes / 10, minutes % 10])
        {
            *cell = self.wiring.figures[usize::from(figure)];
        }
        if !self.colon(first + 2, colon) && colon {
            cells[first + 1] |= self.wiring.point();
        }
        self.show(cells);
        true
    }

    /// Lights a lamp or colon, or puts it out; the display's module has their names.
    pub fn lamp(&mut self, lamp: u8, is_on: bool) {
        if usize::from(lamp) < self.wiring.lamps {
            let bit = 1 << lamp;
            self.lamps = if is_on {
                self.lamps | bit
            } else {
                self.lamps & !bit
            };
            self.showing.is_changed = true;
        }
    }

    /// Lights every segment, lamp and colon.
    pub fn test(&mut self) {
        self.begin();
        self.lamps = u16::MAX;
        self.show([Cell::MAX; COUNT]);
    }

    /// Lets a text pass from right to left, a digit in `every_ms` milliseconds; `passes` times, or forever if `passes` is 0. Other
    /// content ends it.
    ///
    /// Returns how many characters are not shown: those that the segments cannot form, and those behind [`LONGEST_TEXT`] digits.
    pub fn scroll(&mut self, text: &str, every_ms: u32, passes: u8) -> usize {
        self.begin();
        self.show([0; COUNT]);
        let (mut cells, mut length, mut missing) = ([0; LONGEST_TEXT], 0, 0);
        for part in self.wiring.parts(text) {
            let Part::Digit(segments, is_known) = part else {
                continue;
            };
            match cells.get_mut(length) {
                Some(cell) => {
                    *cell = segments;
                    length += 1;
                    missing += usize::from(!is_known);
                }
                None => missing += 1,
            }
        }
        self.strip = Some(Strip {
            cells,
            length,
            passing: Passing::new(length + COUNT, every_ms, passes),
        });
        missing
    }

    /// Returns true as long as a text passes.
    #[must_use]
    pub fn is_scrolling(&self) -> bool {
        self.strip.is_some()
    }

    /// Lets what is shown blink: lit for this long, dark for as long. 0 ends it.
    pub fn blink(&mut self, half_ms: u32) {
        self.showing.blink(half_ms);
    }

    /// Sets the brightness: 0 is the lowest, and the highest is one less than [`Self::brightness_steps`].
    pub fn at_brightness(&mut self, step: u8) {
        self.showing.at_brightness(step);
    }

    /// Returns how many steps the brightness has; 0 if it cannot be set.
    #[must_use]
    pub fn brightness_steps(&self) -> u8 {
        self.showing.brightness_steps
    }

    /// Returns true if the display acknowledged the last picture, or if its bus has no acknowledge. If not, it has no power, another
    /// address or a loose wire.
    #[must_use]
    pub fn answers(&self) -> bool {
        self.showing.is_answered
    }

    /// Goes on with what moves. Returns whether the image is new, and the step of the brightness if it was set since the last step.
    pub(crate) fn step(&mut self, now: u32, is_answered: bool) -> (bool, Option<u8>) {
        self.pass(now);
        self.showing.step(now, is_answered)
    }

    /// Lights what is lit in a dark image.
    pub(crate) fn draw(&self, image: &mut [u8]) {
        if self.showing.is_dark() {
            return;
        }
        let wiring = self.wiring;
        let (of_digits, of_lamps) = wiring.places.split_at(COUNT * wiring.segments);
        for (places, cell) in of_digits.chunks_exact(wiring.segments).zip(self.cells) {
            wiring.light(places, cell, image);
        }
        wiring.light(of_lamps, self.lamps, image);
    }

    /// New content: what passed ends, and the colons go out.
    fn begin(&mut self) {
        self.strip = None;
        let colons = self.wiring.colons;
        for colon in colons.iter().filter(|colon| **colon != NO_LAMP) {
            self.lamp(*colon, false);
        }
    }

    fn show(&mut self, cells: [Cell; COUNT]) {
        self.cells = cells;
        self.showing.is_changed = true;
    }

    /// Lights the colon before a digit, or puts it out. Returns false if there is none.
    fn colon(&mut self, digit: usize, is_on: bool) -> bool {
        let colon = self
            .wiring
            .colons
            .get(digit)
            .copied()
            .filter(|colon| *colon != NO_LAMP);
        if let Some(lamp) = colon {
            self.lamp(lamp, is_on);
        }
        colon.is_some()
    }

    /// Writes figures from the right, at least so many, with a point before the last places.
    fn figures(
        &mut self,
        mut rest: u32,
        is_negative: bool,
        least: usize,
        places: usize,
        base: u32,
    ) -> bool {
        let (wiring, point) = (self.wiring, self.wiring.point());
        let mut cells = [0; COUNT];
        let mut free = cells.iter_mut().rev();
        let mut put = |segments| free.next().map(|cell| *cell = segments).is_some();
        let (mut written, mut fits) = (0, true);
        while fits && (rest != 0 || written < least) {
            let mut segments = wiring.figures[(rest % base) as usize];
            if places != 0 && written == places {
                segments |= point;
                fits = point != 0 || put(wiring.comma());
            }
            fits = fits && put(segments);
            rest /= base;
            written += 1;
        }
        fits = fits && (!is_negative || put(wiring.figures[MINUS]));
        self.begin();
        self.show(if fits {
            cells
        } else {
            [wiring.figures[MINUS]; COUNT]
        });
        fits
    }

    /// A text comes in from the right, and leaves at the left.
    fn pass(&mut self, now: u32) {
        let Some(strip) = &mut self.strip else { return };
        if !strip.passing.is_due(now) {
            return;
        }
        let goes_on = strip.passing.step();
        for (digit, cell) in self.cells.iter_mut().enumerate() {
            let column = (digit + strip.passing.at)
                .checked_sub(COUNT)
                .filter(|column| *column < strip.length);
            *cell = column.map_or(0, |column| strip.cells[column]);
        }
        self.showing.is_changed = true;
        if !goes_on {
            self.strip = None;
        }
    }
}

impl Wiring {
    /// Lights of the image, one for each bit.
    fn light(&self, places: &[u16], lit: Cell, image: &mut [u8]) {
        for (nth, place) in places
            .iter()
            .enumerate()
            .filter(|(_, place)| **place != NO_PLACE)
        {
            if lit >> nth & 1 == 0 {
                continue;
            }
            let (first, bit) = (usize::from((place & PLACE_BITS) >> 3), 1 << (place & 7));
            let step = if place & IN_EVERY_SLOT != 0 {
                self.slot_bytes.max(1)
            } else {
                image.len()
            };
            for byte in image[first..].iter_mut().step_by(step) {
                *byte = if place & LIT_LOW != 0 {
                    *byte & !bit
                } else {
                    *byte | bit
                };
            }
        }
    }
}
