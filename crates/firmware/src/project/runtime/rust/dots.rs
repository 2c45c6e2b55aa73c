//! The calls for a display of dots. Every call returns at once; the display's `step` shows what has changed, and goes on
//! with what moves. Columns count from 0 at the left, rows from 0 at the top; what lies beyond the display is left out.

use crate::motion::{Passing, Showing};

/// A text that passes may have this number of characters; the rest is left out.
pub const LONGEST_TEXT: usize = 64;

/// A colour. A display with lights of one colour shows all but the first of them alike.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Colour {
    Dark,
    Red,
    Green,
    Yellow,
    Blue,
    Magenta,
    Cyan,
    White,
}

/// A font: `fonts` has them.
pub struct Font {
    /// Rows.
    pub height: usize,
    /// Dark columns behind each character.
    pub room: usize,
    /// The first column of each character from the blank on, and the end of the last one.
    pub(crate) begins: &'static [u16; 96],
    /// Each with the top row in the lowest bit.
    pub(crate) columns: &'static [u16],
}

impl Font {
    /// The columns of a character; none if the font lacks it.
    fn columns_of(&self, character: char) -> &'static [u16] {
        let place = u32::from(character).wrapping_sub(u32::from(' ')) as usize;
        let span = self
            .begins
            .get(place)
            .zip(self.begins.get(place.wrapping_add(1)));
        span.map_or(&[], |(begin, end)| {
            &self.columns[usize::from(*begin)..usize::from(*end)]
        })
    }

    /// The same, or those of the question mark, and whether the font has the character.
    fn known(&self, character: char) -> (&'static [u16], bool) {
        match self.columns_of(character) {
            [] => (self.columns_of('?'), false),
            columns => (columns, true),
        }
    }

    /// How many columns characters take, with the dark ones behind each.
    fn columns(&self, text: impl Iterator<Item = char>) -> usize {
        text.map(|character| self.known(character).0.len()).sum()
    }

    /// Returns how many columns a text takes.
    #[must_use]
    pub fn width(&self, text: &str) -> usize {
        self.columns(text.chars()).saturating_sub(self.room)
    }
}

/// Where a light of a dot is in the image: eight times the byte, and the bit.
#[allow(dead_code, reason = "a display has the one or the other")]
pub(crate) enum Places {
    /// Row by row, dot by dot, each light of it.
    Table(&'static [u16]),
    /// The sum of three numbers: of its column, of its row and of its light.
    Sums {
        across: &'static [u16],
        down: &'static [u16],
        of_light: &'static [u16],
    },
}

/// How a display is made of its rig; its own module has it.
pub(crate) struct Wiring {
    pub(crate) width: usize,
    pub(crate) height: usize,
    /// Of a dot: one, or red and green, or red, green and blue.
    pub(crate) lights: usize,
    /// A bit is 0 while its light is lit.
    pub(crate) is_low: bool,
    pub(crate) places: Places,
}

impl Wiring {
    fn place(&self, x: usize, y: usize, light: usize) -> usize {
        let place = match &self.places {
            Places::Table(places) => places[(y * self.width + x) * self.lights + light],
            Places::Sums {
                across,
                down,
                of_light,
            } => across[x]
                .wrapping_add(down[y])
                .wrapping_add(of_light[light]),
        };
        place.into()
    }

    /// The lights of a colour. If a display has none of them, all of its own stand for it.
    fn lit(&self, colour: Colour) -> u8 {
        let all = (1 << self.lights) - 1;
        match colour as u8 & all {
            0 if colour != Colour::Dark => all,
            lit => lit,
        }
    }
}

/// A text that passes.
struct Strip {
    font: &'static Font,
    text: [char; LONGEST_TEXT],
    length: usize,
    y: i32,
    colour: Colour,
    passing: Passing,
}

/// A display whose image has `BYTES` bytes. Its own module makes one of it.
pub struct Dots<const BYTES: usize> {
    wiring: &'static Wiring,
    image: [u8; BYTES],
    strip: Option<Strip>,
    showing: Showing,
}

impl<const BYTES: usize> Dots<BYTES> {
    pub(crate) const fn new(
        wiring: &'static Wiring,
        dark: [u8; BYTES],
        brightness_steps: u8,
    ) -> Self {
        Self {
            wiring,
            image: dark,
            strip: None,
            showing: Showing::new(brightness_steps),
        }
    }

    /// Returns how many columns the display has.
    #[must_use]
    pub fn width(&self) -> usize {
        self.wiring.width
    }

    /// Returns how many rows the display has.
    #[must_use]
    pub fn height(&self) -> usize {
        self.wiring.height
    }

    /// Darkens all dots, and ends what moves.
    pub fn clear(&mut self) {
        self.strip = None;
        self.showing.blink(0);
        self.fill(Colour::Dark);
    }

    /// Lights a dot in a colour, or darkens it.
    pub fn dot(&mut self, x: i32, y: i32, colour: Colour) {
        let wiring = self.wiring;
        let column = usize::try_from(x).ok().filter(|x| *x < wiring.width);
        let Some((x, y)) = column.zip(usize::try_from(y).ok().filter(|y| *y < wiring.height))
        else {
            return;
        };
        let lit = wiring.lit(colour);
        for light in 0..wiring.lights {
            let place = wiring.place(x, y, light);
            let (byte, bit) = (&mut self.image[place >> 3], 1 << (place & 7));
            *byte = if (lit >> light & 1 != 0) != wiring.is_low {
                *byte | bit
            } else {
                *byte & !bit
            };
        }
        self.showing.is_changed = true;
    }

    /// Lights dots of a row in a colour, one for each 1 of `bits`, the highest bit at column x. The others stay as they are.
    pub fn row(&mut self, x: i32, y: i32, bits: u8, colour: Colour) {
        for column in (0..8).filter(|column| bits << column & 0x80 != 0) {
            self.dot(x + column, y, colour);
        }
    }

    /// Fills an area with a colour, or darkens it.
    pub fn area(&mut self, x: i32, y: i32, width: u16, height: u16, colour: Colour) {
        for row in 0..i32::from(height) {
            for column in 0..i32::from(width) {
                self.dot(x + column, y + row, colour);
            }
        }
    }

    /// Lights a sprite in a colour, its upper left dot at x and y. It has its rows from the top, each in whole bytes with the first
    /// dot in the highest bit. Its dark dots stay as they are.
    pub fn sprite(&mut self, rows: &[u8], width: u8, x: i32, y: i32, colour: Colour) {
        let bytes = usize::from(width.div_ceil(8).max(1));
        for (row, bits) in (0..).zip(rows.chunks_exact(bytes)) {
            for (byte, bits) in (0..).zip(bits) {
                self.row(x + 8 * byte, y + row, *bits, colour);
            }
        }
    }

    /// Lights a text in a colour, its upper left corner at x and y. The dots between stay as they are.
    ///
    /// Returns how many of its characters the font lacks: each is a question mark.
    pub fn text(&mut self, font: &Font, text: &str, x: i32, y: i32, colour: Colour) -> usize {
        self.characters(font, text.chars(), x, y, colour)
    }

    /// Lights a number with this many places after the point, up to 9: 2150 with 2 places is 21.50. It ends before the column
    /// `right`.
    ///
    /// Returns false if it does not fit; then a dash stands there.
    pub fn number(
        &mut self,
        font: &Font,
        number: i32,
        places: u8,
        right: i32,
        y: i32,
        colour: Colour,
    ) -> bool {
        const MOST_PLACES: u8 = 9;
        let places = places.min(MOST_PLACES);
        // Ten figures, sign and point, from the right.
        let (mut written, mut count, mut rest) = ([b'-'; 12], 0, number.unsigned_abs());
        let mut put = |character: u8| {
            written[written.len() - 1 - count] = character;
            count += 1;
        };
        let mut figures = 0;
        while rest != 0 || figures <= places {
            if places != 0 && figures == places {
                put(b'.');
            }
            put(b'0' + (rest % 10) as u8);
            rest /= 10;
            figures += 1;
        }
        if number < 0 {
            put(b'-');
        }
        let text = core::str::from_utf8(&written[written.len() - count..]).unwrap_or_default();
        let width = |text: &str| font.width(text) as i32;
        let fits = width(text) <= right;
        let text = if fits { text } else { "-" };
        self.text(font, text, right - width(text), y, colour);
        fits
    }

    /// Lights hours and minutes, their upper left corner at x and y, with the colon lit or dark.
    #[expect(
        clippy::too_many_arguments,
        reason = "as the other calls: what, where and in which colour"
    )]
    pub fn time(
        &mut self,
        font: &Font,
        hours: u8,
        minutes: u8,
        colon: bool,
        x: i32,
        y: i32,
        colour: Colour,
    ) {
        let figures =
            |value: u8| [value / 10 % 10, value % 10].map(|figure| char::from(b'0' + figure));
        let (hours, minutes) = (figures(hours), figures(minutes));
        let middle = x + font.columns(hours.into_iter()) as i32;
        self.characters(font, hours.into_iter(), x, y, colour);
        if colon {
            self.text(font, ":", middle, y, colour);
        }
        self.characters(
            font,
            minutes.into_iter(),
            middle + font.columns(":".chars()) as i32,
            y,
            colour,
        );
    }

    /// Lights every dot in white.
    pub fn test(&mut self) {
        self.fill(Colour::White);
    }

    /// Lets a text pass from right to left, a column in `every_ms` milliseconds; `passes` times, or forever if `passes` is 0. It has
    /// the rows from y on for itself.
    ///
    /// Returns how many characters are not shown: those that the font lacks, and those behind [`LONGEST_TEXT`].
    pub fn scroll(
        &mut self,
        font: &'static Font,
        text: &str,
        every_ms: u32,
        passes: u8,
        y: i32,
        colour: Colour,
    ) -> usize {
        let (mut kept, mut length, mut missing) = ([' '; LONGEST_TEXT], 0, 0);
        for character in text.chars() {
            match kept.get_mut(length) {
                Some(free) => {
                    *free = character;
                    length += 1;
                    missing += usize::from(!font.known(character).1);
                }
                None => missing += 1,
            }
        }
        let columns = font.columns(kept[..length].iter().copied());
        let passing = Passing::new(
            self.wiring.width + columns.saturating_sub(font.room),
            every_ms,
            passes,
        );
        let strip = Strip {
            font,
            text: kept,
            length,
            y,
            colour,
            passing,
        };
        self.put(&strip);
        self.strip = Some(strip);
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
        if let Some(mut strip) = self.strip.take() {
            let mut goes_on = true;
            if strip.passing.is_due(now) {
                goes_on = strip.passing.step();
                self.put(&strip);
            }
            self.strip = goes_on.then_some(strip);
        }
        self.showing.step(now, is_answered)
    }

    /// Lights what is lit in a dark image.
    pub(crate) fn draw(&self, image: &mut [u8; BYTES]) {
        if !self.showing.is_dark() {
            *image = self.image;
        }
    }

    fn fill(&mut self, colour: Colour) {
        for y in 0..self.wiring.height as i32 {
            for x in 0..self.wiring.width as i32 {
                self.dot(x, y, colour);
            }
        }
    }

    /// Lights characters. Returns how many of them the font lacks.
    fn characters(
        &mut self,
        font: &Font,
        text: impl Iterator<Item = char>,
        mut x: i32,
        y: i32,
        colour: Colour,
    ) -> usize {
        let mut missing = 0;
        for character in text {
            let (columns, is_known) = font.known(character);
            missing += usize::from(!is_known);
            for bits in columns {
                for row in (0..16).filter(|row| bits >> row & 1 != 0) {
                    self.dot(x, y + row, colour);
                }
                x += 1;
            }
        }
        missing
    }

    /// Draws a text that passes: it comes in from the right, and leaves at the left.
    fn put(&mut self, strip: &Strip) {
        let width = self.wiring.width;
        let x = width as i32 - strip.passing.at as i32;
        self.area(
            0,
            strip.y,
            width as u16,
            strip.font.height as u16,
            Colour::Dark,
        );
        self.characters(
            strip.font,
            strip.text[..strip.length].iter().copied(),
            x,
            strip.y,
            strip.colour,
        );
    }
}
