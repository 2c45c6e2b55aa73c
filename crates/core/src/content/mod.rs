//! Content: what is to be said, from its words to the lit elements.
//!
//! Words are taken once for what they are, [`Content`]: a text, a number, or dots. It is drawn on a [`Canvas`], a region of
//! a frame, so that several may share a face. [`text`] lays texts out on digits, [`number`] makes texts of numbers,
//! [`lettering`] sets texts on dots, in the colours and fonts that [`markup`] says, [`dots`] draws rows of dots, [`guess`] finds the wiring under which a table shows a text, [`legibility`] says what may be misread.

pub mod dots;
pub mod guess;
pub mod legibility;
pub mod lettering;
pub mod markup;
pub mod number;
pub mod pictures;
pub mod text;
pub mod written;

use std::ops::Range;

use crate::dots::places;
use crate::face::{Element, Face, Grid};
use crate::frame::{Frame, Level};

use dots::{Dots, DotsError};
use lettering::{Lettering, LetteringError, Look};
use number::{Decimal, DecimalError, NumberError, NumberFormat, Room};
use text::{Align, Field, TextError};

/// A part of a face.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Region {
    /// Digits side by side.
    Digits {
        /// The first.
        start: usize,
        /// How many.
        length: usize,
    },
    /// Dots in a rectangle.
    Dots {
        /// Its left column and top row.
        left: usize,
        /// Its top row.
        top: usize,
        /// How many columns and rows it has.
        width: usize,
        /// How many rows.
        height: usize,
    },
}

impl Region {
    /// All of a face.
    #[must_use]
    pub const fn whole(face: &Face) -> Self {
        match face.dots() {
            None => Self::Digits { start: 0, length: face.digits() },
            Some(Grid { width, height, .. }) => Self::Dots { left: 0, top: 0, width, height },
        }
    }
}

/// A region of a frame that content is drawn into. Nothing outside it changes, but for colons and lamps, which belong to
/// the caller.
pub struct Canvas<'c> {
    face: &'c Face,
    frame: &'c mut Frame,
    region: Region,
}

impl<'c> Canvas<'c> {
    /// A region of a frame of this face.
    pub const fn new(face: &'c Face, frame: &'c mut Frame, region: Region) -> Self {
        Self { face, frame, region }
    }

    /// The whole frame.
    pub const fn whole(face: &'c Face, frame: &'c mut Frame) -> Self {
        let region = Region::whole(face);
        Self { face, frame, region }
    }

    /// The face that is drawn on.
    #[must_use]
    pub const fn face(&self) -> &'c Face {
        self.face
    }

    /// The region.
    #[must_use]
    pub const fn region(&self) -> Region {
        self.region
    }

    /// The digits of the region, and where a shorter text stands in them; none on dots.
    #[must_use]
    pub const fn field(&self, align: Align) -> Field {
        match self.region {
            Region::Digits { start, length } => Field { start, length, align },
            Region::Dots { .. } => Field { start: 0, length: 0, align },
        }
    }

    /// The room for a number.
    #[must_use]
    pub const fn room(&self) -> Room {
        Room { digits: self.field(Align::Left).length, points: self.face.points }
    }

    /// The levels of the whole frame, by element.
    pub fn levels_mut(&mut self) -> &mut [Level] {
        self.frame.levels_mut()
    }

    /// Writes a text. Returns how many digits it took.
    ///
    /// # Errors
    /// When it cannot be shown or is longer than the region.
    pub fn write(&mut self, words: &str, align: Align) -> Result<usize, TextError> {
        let field = self.field(align);
        text::write(words, self.face, field, self.frame)
    }

    /// Lights just these segments of a digit of the region, counted from its first.
    pub fn put(&mut self, digit: usize, segments: crate::glyph::Segments) {
        if let Region::Digits { start, length } = self.region
            && digit < length
        {
            self.face.put(self.frame, start + digit, segments);
        }
    }

    /// Sets every light of a dot of the region, counted from its upper left corner; one beyond it is left out.
    pub fn set_dot(&mut self, x: usize, y: usize, level: Level) {
        if let Some(lights) = self.lights(x, y) {
            lights.fill(level);
        }
    }

    /// The lights of a dot of the region; `None` beyond it.
    fn lights(&mut self, x: usize, y: usize) -> Option<&mut [Level]> {
        let Region::Dots { left, top, width, height } = self.region else { return None };
        let Element(first) = self.face.dot(left + x, top + y).filter(|_| x < width && y < height)?;
        let channels = self.face.dots().map_or(1, |grid| grid.channels.count());
        self.frame.levels_mut().get_mut(first..first + channels)
    }

    /// The columns and rows in sight of a picture of this size, whose upper left corner is at a place that may lie beyond
    /// the region: a long text has many that are not.
    fn in_sight(
        &self,
        (own_width, own_height): (usize, usize),
        (left, top): (isize, isize),
    ) -> (Range<usize>, Range<usize>) {
        let Region::Dots { width, height, .. } = self.region else { return (0..0, 0..0) };
        let seen = |own: usize, room: usize, at: isize| {
            let first = usize::try_from(-at).unwrap_or(0);
            first..usize::try_from(room as isize - at).unwrap_or(0).min(own).max(first)
        };
        (seen(own_width, width, left), seen(own_height, height, top))
    }

    /// Gives a dot of the region a colour, counted from its upper left corner; one beyond it is left out. Where a dot has one
    /// light it gets the most of the three.
    pub fn set_colour(&mut self, x: usize, y: usize, colour: [u8; 3]) {
        self.set_colour_of(y, std::iter::once(x), colour);
    }

    /// The same for several dots of a row.
    pub fn set_colour_of(&mut self, y: usize, columns: impl Iterator<Item = usize>, colour: [u8; 3]) {
        let Region::Dots { left, top, width, height } = self.region else { return };
        let (Some(grid), Some(Element(first))) = (self.face.dots(), self.face.dot(left, top + y)) else {
            return;
        };
        let (channels, across) = (grid.channels.count(), width.min(grid.width - left));
        let row = self.frame.levels_mut().get_mut(first..first + channels * across).filter(|_| y < height);
        let Some(row) = row else { return };
        let [red, green, blue] = colour;
        let most = Level(red.max(green).max(blue));
        for x in columns {
            match row.get_mut(channels * x..channels * (x + 1)) {
                None => {}
                Some([one]) => *one = most,
                Some(several) => {
                    several.iter_mut().zip(colour).for_each(|(light, level)| *light = Level(level));
                }
            }
        }
    }

    /// Puts every light of the region out, keeping colons and lamps.
    pub fn clear(&mut self) {
        match self.region {
            Region::Digits { start, length } => {
                for digit in start..start + length {
                    self.face.put(self.frame, digit, crate::glyph::Segments::NONE);
                }
            }
            Region::Dots { width, height, .. } => {
                for (x, y) in places(width, height) {
                    self.set_dot(x, y, Level::OFF);
                }
            }
        }
    }
}

/// Something to be shown.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Content {
    /// A text on digits.
    Text {
        /// The words.
        words: String,
        /// Where they stand in a wider region.
        align: Align,
    },
    /// A number on digits.
    Number {
        /// Its value.
        value: Decimal,
        /// How it is written.
        format: NumberFormat,
        /// Where it stands in a wider region.
        align: Align,
    },
    /// Rows of dots, from the upper left corner.
    Dots(Dots),
    /// A text on dots.
    Lettering(Lettering),
    /// A number on dots.
    Figures {
        /// Its value.
        value: Decimal,
        /// How it is written.
        format: NumberFormat,
        /// How it looks.
        look: Look,
    },
}

/// Why something cannot be shown.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum ContentError {
    /// The text.
    #[error("{error}")]
    Text {
        /// The error.
        error: TextError,
        /// The text that was to be shown: a number's, once it is written.
        words: String,
    },
    /// The words are not a number.
    #[error("{0}")]
    NotANumber(#[from] DecimalError),
    /// The number does not fit.
    #[error("{0}")]
    Number(#[from] NumberError),
    /// The dots.
    #[error("{0}")]
    Dots(#[from] DotsError),
    /// The text on dots.
    #[error("{0}")]
    Lettering(#[from] LetteringError),
}

impl Content {
    /// Checks that a face can show the words of a form of numbers: its unit, and what stands in place of numbers out of range.
    ///
    /// # Errors
    /// When it cannot show one of them.
    pub fn check_form(format: &NumberFormat, look: Option<&Look>, face: &Face) -> Result<(), ContentError> {
        for words in [&format.unit, &format.under, &format.over].into_iter().filter(|words| !words.is_empty())
        {
            let content = match look.filter(|_| face.dots().is_some()) {
                Some(look) => Self::Lettering(Lettering { words: words.clone(), look: look.clone() }),
                None => Self::of_words(words, None, Some(Align::Right), None, face)?,
            };
            content.draw(&mut Canvas::whole(face, &mut face.blank()))?;
        }
        Ok(())
    }

    /// Takes words for what they are on a face: a number where its form is given, on dots also rows of them where they look
    /// like such, or else a text. On dots it is set as `look` says, on digits numbers stand right where nothing else is
    /// said.
    ///
    /// # Errors
    /// When they are not that.
    pub fn of_words(
        words: &str,
        number: Option<&NumberFormat>,
        align: Option<Align>,
        look: Option<&Look>,
        face: &Face,
    ) -> Result<Self, ContentError> {
        if face.dots().is_some() {
            return match (look, number) {
                (Some(look), Some(format)) => {
                    let look = Look { align: align.unwrap_or(Align::Right), ..look.clone() };
                    Ok(Self::Figures { value: words.parse()?, format: format.clone(), look })
                }
                (Some(look), None) if !Dots::is_drawing(words) => {
                    let look = Look { align: align.unwrap_or(look.align), ..look.clone() };
                    Ok(Self::Lettering(Lettering { words: words.to_owned(), look }))
                }
                _ => Ok(Self::Dots(Dots::parse(words)?)),
            };
        }
        Ok(match number {
            Some(format) => Self::Number {
                value: words.parse()?,
                format: format.clone(),
                align: align.unwrap_or(Align::Right),
            },
            None => Self::Text { words: words.to_owned(), align: align.unwrap_or(Align::Left) },
        })
    }

    /// The room for its words on a canvas: of a number on dots by the width of its figures.
    #[must_use]
    pub fn room(&self, canvas: &Canvas<'_>) -> Room {
        match (self, canvas.region()) {
            (Self::Figures { look, .. }, Region::Dots { width, .. }) => {
                Room { digits: look.digits_in(width), points: true }
            }
            _ => canvas.room(),
        }
    }

    /// The text that is written: a number's in its form; none of dots.
    ///
    /// # Errors
    /// When a number does not fit the room.
    pub fn words(&self, room: Room) -> Result<Option<String>, ContentError> {
        Ok(match self {
            Self::Text { words, .. } => Some(words.clone()),
            Self::Number { value, format, .. } | Self::Figures { value, format, .. } => {
                Some(format.write(*value, room)?)
            }
            Self::Dots(_) => None,
            Self::Lettering(lettering) => Some(lettering.plainly()),
        })
    }

    /// Draws it on a canvas. What it does not reach stays as it is.
    ///
    /// # Errors
    /// When the canvas cannot show it; it is then half drawn.
    pub fn draw(&self, canvas: &mut Canvas<'_>) -> Result<(), ContentError> {
        let words = self.words(self.room(canvas))?;
        match self {
            Self::Dots(dots) => Ok(dots.draw(canvas)?),
            Self::Lettering(lettering) => Ok(lettering.draw(canvas)?),
            Self::Figures { look, .. } => {
                let words = words.unwrap_or_default();
                Ok(Lettering::of_number(words, look).draw(canvas)?)
            }
            Self::Text { align, .. } | Self::Number { align, .. } => {
                let words = words.unwrap_or_default();
                let written = canvas.write(&words, *align);
                written.map(|_| ()).map_err(|error| ContentError::Text { error, words })
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::face::{Channels, Colour, Layout, Light};
    use crate::glyph::{Common, OwnGlyphs, Style};

    fn face(layout: Layout) -> Face {
        Face {
            name: "f".into(),
            layout,
            extras: Vec::new(),
            points: true,
            own_glyphs: OwnGlyphs::default(),
            common: Common::Cathode,
            light: Light::of(Colour::Red),
            pitch_mm: None,
        }
    }

    #[test]
    fn several_share_a_face() {
        let face = face(Layout::Digits { style: Style::Seven, count: 6 });
        let mut frame = face.blank();
        let clock = Content::of_words("0758", None, None, None, &face).unwrap();
        let level = Content::of_words("-4", Some(&NumberFormat::default()), None, None, &face).unwrap();
        clock.draw(&mut Canvas::new(&face, &mut frame, Region::Digits { start: 0, length: 4 })).unwrap();
        let mut right = Canvas::new(&face, &mut frame, Region::Digits { start: 4, length: 2 });
        level.draw(&mut right).unwrap();
        let mut whole = face.blank();
        Canvas::whole(&face, &mut whole).write("0758-4", Align::Left).unwrap();
        assert_eq!(frame, whole);
        let mut narrow = Canvas::new(&face, &mut frame, Region::Digits { start: 1, length: 2 });
        assert!(matches!(clock.draw(&mut narrow), Err(ContentError::Text { .. })));
        narrow.clear();
        assert_eq!(face.lit(&frame, 1), crate::glyph::Segments::NONE);
        assert_eq!(face.lit(&frame, 0), face.lit(&whole, 0));
    }

    #[test]
    fn dots_are_drawn_in_their_region_in_every_channel() {
        let grid = Grid { width: 4, height: 2, channels: Channels::Three };
        let face = face(Layout::Dots(grid));
        let mut frame = face.blank();
        let content = Content::of_words("#./.#", None, None, None, &face).unwrap();
        let region = Region::Dots { left: 2, top: 0, width: 2, height: 2 };
        content.draw(&mut Canvas::new(&face, &mut frame, region)).unwrap();
        let lit: Vec<_> = (0..24).filter(|index| frame.levels()[*index] == Level::FULL).collect();
        assert_eq!(lit, [6, 7, 8, 21, 22, 23]);
        let small = Region::Dots { left: 0, top: 0, width: 1, height: 2 };
        let error = content.draw(&mut Canvas::new(&face, &mut frame, small)).unwrap_err();
        assert_eq!(error, ContentError::Dots(DotsError::TooWide { row: 0, found: 2, width: 1 }));
    }
}
