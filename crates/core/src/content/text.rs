//! A text laid out on the digits of a face.
//!
//! A character takes a digit. A point folds into the digit before it, where digits have points. Names in
//! braces say a pattern by its segments: `{a d g}`; `{{` and `}}` are the braces themselves. A colon lights the
//! face's colon where it has any, and takes no digit; nor do colons and lamps that are named in braces.

use crate::face::Face;
use crate::frame::Frame;
use crate::glyph::segments::names_in;
use crate::glyph::{OwnGlyphs, Segments, Style};
use crate::words::words;

/// The content of one digit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Cell<'t> {
    /// Its character or segments.
    pub shows: Shows<'t>,
    /// True if a point was folded into it.
    pub point: bool,
    /// Its place in the text, counted in characters from 0.
    pub position: usize,
}

/// The content of a cell without its point.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shows<'t> {
    /// A character; a blank where a point stands alone.
    Character(char),
    /// Segments by name, as they stood between braces.
    Named(&'t str),
    /// A brace that is never closed.
    Unclosed,
}

impl Cell<'_> {
    /// The segments that the cell lights.
    ///
    /// # Errors
    /// When the style cannot show the character or has no such segment.
    #[inline]
    pub fn segments(self, style: Style, own: &OwnGlyphs) -> Result<Segments, TextError> {
        let drawn = match self.shows {
            Shows::Character(character) => own.glyph(style, character).map(|glyph| glyph.segments),
            _ => None,
        };
        let segments = match drawn {
            Some(segments) => segments,
            None => self.named(style)?,
        };
        Ok(if self.point { segments.union(style.point()) } else { segments })
    }

    /// The segments of a cell that is not a character with a glyph.
    #[cold]
    fn named(self, style: Style) -> Result<Segments, TextError> {
        let position = self.position;
        match self.shows {
            Shows::Named(names) => Segments::parse(names, style).map_err(|found| TextError::UnknownSegment {
                found: found.to_owned(),
                position,
                style,
                lamps: Vec::new(),
            }),
            Shows::Unclosed => Err(TextError::Unclosed { position }),
            Shows::Character(character) => Err(TextError::NoGlyph { character, position, style }),
        }
    }
}

words! {
    /// Where a text stands on a face that is wider than it.
    #[derive(Default)]
    pub enum Align {
        /// At the left.
        #[default]
        Left = "left",
        /// At the right.
        Right = "right",
        /// In the middle; half a place over goes to the right.
        Centre = "centre",
    }
}

impl Align {
    /// The digit at which `used` of `digits` begin.
    #[must_use]
    pub const fn start(self, used: usize, digits: usize) -> usize {
        let spare = digits.saturating_sub(used);
        match self {
            Self::Left => 0,
            Self::Right => spare,
            Self::Centre => spare / 2,
        }
    }
}

/// Why a text cannot be shown.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum TextError {
    /// A character without a glyph.
    #[error("{style} segments cannot show {character:?}, character {} of the text", position + 1)]
    NoGlyph {
        /// The character.
        character: char,
        /// Its place in the text, counted in characters from 0.
        position: usize,
        /// The style that lacks it.
        style: Style,
    },
    /// A name between braces that is not a segment.
    #[error(
        "there is no segment '{found}'; {style} segments are {}{}", style.segment_names().join(" "), also(lamps)
    )]
    UnknownSegment {
        /// The name.
        found: String,
        /// The place of the brace.
        position: usize,
        /// The style.
        style: Style,
        /// The colons and lamps that could be named too.
        lamps: Vec<String>,
    },
    /// A colon where the face has none, though it has others.
    #[error("the face has no colon after digit {}; it has one after digit {}", after, has.join(", "))]
    NoColon {
        /// After how many digits one was wanted.
        after: usize,
        /// After how many there is one.
        has: Vec<String>,
        /// The place of the character.
        position: usize,
    },
    /// An opening brace without its closing one.
    #[error("a brace is opened and not closed; write {{{{ for the brace itself")]
    Unclosed {
        /// The place of the brace.
        position: usize,
    },
    /// A text longer than its face.
    #[error("the text takes {needed} digits; there are {digits}")]
    TooLong {
        /// The digits that the text takes.
        needed: usize,
        /// The digits that the face has.
        digits: usize,
        /// The place of the first character that has no digit, counted in characters from 0.
        position: usize,
    },
}

/// Colons and lamps behind a list of segments.
fn also(lamps: &[String]) -> String {
    if lamps.is_empty() { String::new() } else { format!(", lamps and colons {}", lamps.join(" ")) }
}

impl TextError {
    /// The same, with the names that the face has besides.
    fn on(mut self, face: &Face) -> Self {
        if let Self::UnknownSegment { lamps, .. } = &mut self {
            *lamps = face.extras.iter().map(|extra| extra.name.clone()).collect();
        }
        self
    }

    /// The place in the text that the error is about, counted in characters from 0.
    #[must_use]
    pub const fn position(&self) -> usize {
        match self {
            Self::NoGlyph { position, .. }
            | Self::UnknownSegment { position, .. }
            | Self::NoColon { position, .. }
            | Self::Unclosed { position }
            | Self::TooLong { position, .. } => *position,
        }
    }
}

/// Parts a text into cells, for digits that have points or not.
///
/// A point folds into the digit before it, if that has none yet; otherwise it takes a digit of its own. On
/// digits without points it always does, and looks like a comma.
#[inline]
pub fn cells(text: &str, points: bool) -> impl Iterator<Item = Cell<'_>> {
    let mut rest = text.chars();
    let mut position = 0;
    std::iter::from_fn(move || {
        let first = rest.next()?;
        let (shows, taken) = match first {
            '.' if points => (Shows::Character(' '), 1),
            '.' => (Shows::Character(','), 1),
            '{' | '}' => {
                // By value, so that the iterator of every plain text can stay in registers.
                let (shows, taken, after) = braced(first, rest.as_str());
                rest = after.chars();
                (shows, taken)
            }
            character => (Shows::Character(character), 1),
        };
        let folds = !matches!(first, '.' | ':') && points && rest.as_str().starts_with('.');
        let cell = Cell { shows, point: folds || (first == '.' && points), position };
        position += taken;
        if folds {
            rest.next();
            position += 1;
        }
        Some(cell)
    })
}

/// Returns the content that a brace begins, its length in characters with the brace, and the text after it.
#[cold]
fn braced(brace: char, rest: &str) -> (Shows<'_>, usize, &str) {
    if let Some(after) = rest.strip_prefix(brace) {
        return (Shows::Character(brace), 2, after);
    }
    if brace == '}' {
        return (Shows::Character(brace), 1, rest);
    }
    match rest.split_once('}') {
        Some((names, after)) => (Shows::Named(names), names.chars().count() + 2, after),
        None => (Shows::Unclosed, rest.chars().count() + 1, ""),
    }
}

/// A run of digits of a face, and where a text stands in it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Field {
    /// Its first digit.
    pub start: usize,
    /// How many digits it has.
    pub length: usize,
    /// Where a shorter text stands.
    pub align: Align,
}

impl Field {
    /// All digits of a face.
    #[must_use]
    pub const fn whole(face: &Face, align: Align) -> Self {
        Self { start: 0, length: face.digits(), align }
    }
}

/// Where a cell goes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Spot {
    /// Onto the next digit.
    Digit(Segments),
    /// Onto these colons and lamps, by their places in [`Face::extras`]; it takes no digit.
    Extras(Vec<usize>),
}

/// Returns the place of a cell behind this number of digits of the face.
///
/// # Errors
/// When the face cannot show it.
pub fn spot(cell: Cell<'_>, face: &Face, before: usize) -> Result<Spot, TextError> {
    match extras(cell, face, before)? {
        Some(extras) => Ok(Spot::Extras(extras)),
        None => match cell.segments(face.style(), &face.own_glyphs) {
            Ok(segments) => Ok(Spot::Digit(segments)),
            Err(error) => Err(error.on(face)),
        },
    }
}

/// The colons and lamps that a cell lights, when it is for them.
fn extras(cell: Cell<'_>, face: &Face, before: usize) -> Result<Option<Vec<usize>>, TextError> {
    match cell.shows {
        Shows::Character(':') if face.has_colons() => match face.colon(before) {
            Some(colon) => Ok(Some(vec![colon])),
            None => {
                let has = face.colons().map(|after| after.to_string()).collect();
                Err(TextError::NoColon { after: before, has, position: cell.position })
            }
        },
        Shows::Named(names) => {
            let extra = |name| face.extras.iter().position(|extra| extra.name == name);
            let extras: Option<Vec<_>> = names_in(names).map(extra).collect();
            Ok(extras.filter(|extras| !extras.is_empty()))
        }
        _ => Ok(None),
    }
}

/// How many digits a text takes on a face.
#[must_use]
pub fn digits(text: &str, face: &Face) -> usize {
    let takes_none = |cell: &Cell<'_>| match cell.shows {
        Shows::Character(':') => face.has_colons(),
        Shows::Named(_) => matches!(extras(*cell, face, 0), Ok(Some(_))),
        _ => false,
    };
    cells(text, face.points).filter(|cell| !takes_none(cell)).count()
}

/// Writes a text into a field of a frame; digits that it does not reach stay as they are. Returns how many
/// digits it took.
///
/// # Errors
/// When a character cannot be shown or the text is longer than the field; the frame is then half written.
pub fn write(text: &str, face: &Face, field: Field, frame: &mut Frame) -> Result<usize, TextError> {
    let inset = match field.align {
        Align::Left => 0,
        align => align.start(digits(text, face), field.length),
    };
    let (mut used, rest, passed) = write_plain(text, face, field, inset, frame);
    for cell in cells(rest, face.points) {
        let cell = Cell { position: cell.position + passed, ..cell };
        if let Some(extras) = extras(cell, face, field.start + used)? {
            extras.into_iter().for_each(|extra| face.put_extra(frame, extra));
            continue;
        }
        if used == field.length {
            let (needed, digits) = (digits(text, face), field.length);
            return Err(TextError::TooLong { needed, digits, position: cell.position });
        }
        let segments = cell.segments(face.style(), &face.own_glyphs).map_err(|error| error.on(face))?;
        face.put(frame, field.start + used, segments);
        used += 1;
    }
    Ok(used - inset)
}

/// Writes a text from its beginning for as long as it is plain characters that the style draws, which most
/// texts are to their end. Returns how far the field is used, the rest of the text, and how many characters
/// stand before that. It does nothing that [`cells`] would not do, but twice as fast.
fn write_plain<'t>(
    text: &'t str,
    face: &Face,
    field: Field,
    inset: usize,
    frame: &mut Frame,
) -> (usize, &'t str, usize) {
    let (mut used, mut passed, mut rest) = (inset, 0, text.chars());
    if !face.own_glyphs.is_empty() {
        return (used, text, passed);
    }
    while used < field.length {
        let before = rest.as_str();
        let glyph = match rest.next() {
            Some('.' | ':' | '{' | '}') | None => return (used, before, passed),
            Some(character) => crate::glyph::glyph(face.style(), character),
        };
        let Some(glyph) = glyph else { return (used, before, passed) };
        passed += 1;
        let mut segments = glyph.segments;
        if face.points && rest.as_str().starts_with('.') {
            rest.next();
            passed += 1;
            segments = segments.union(face.style().point());
        }
        face.put(frame, field.start + used, segments);
        used += 1;
    }
    (used, rest.as_str(), passed)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn layout(text: &str, points: bool) -> Vec<(Shows<'_>, bool)> {
        cells(text, points).map(|cell| (cell.shows, cell.point)).collect()
    }

    const fn lit(character: char) -> (Shows<'static>, bool) {
        (Shows::Character(character), true)
    }

    const fn dark(character: char) -> (Shows<'static>, bool) {
        (Shows::Character(character), false)
    }

    #[test]
    fn a_point_folds_into_the_digit_before_it() {
        assert_eq!(layout("3.14", true), [lit('3'), dark('1'), dark('4')]);
        assert_eq!(layout("1.", true), [lit('1')]);
    }

    #[test]
    fn a_point_with_no_digit_to_fold_into_takes_its_own() {
        assert_eq!(layout(".5", true), [lit(' '), dark('5')]);
        assert_eq!(layout("1..2", true), [lit('1'), lit(' '), dark('2')]);
        assert_eq!(layout("...", true), [lit(' '), lit(' '), lit(' ')]);
        assert_eq!(layout("3.1", false), [dark('3'), dark(','), dark('1')]);
    }

    #[test]
    fn an_error_behind_plain_text_has_its_place() {
        let rig = crate::plan::Rig::read(
            "[face.desk]\nkind = \"seven-segment\"\ndigits = 4\n[face.desk.drive]\nmethod = \"max7219\"\n\
             pins = { data = 1, clock = 2, select = 3 }",
        );
        let face = &rig.rig.unwrap().faces[0].face;
        let position = |text| {
            let field = Field::whole(face, Align::Left);
            write(text, face, field, &mut face.blank()).map_err(|error| error.position())
        };
        assert_eq!(position("1.2.\u{20ac}"), Err(4));
        assert_eq!(position("1.2{x}"), Err(3));
        assert_eq!(position("1234.5"), Err(5));
        assert_eq!(position("12..{a}"), Ok(4));
    }

    #[test]
    fn braces_name_segments_or_stand_for_themselves() {
        assert_eq!(layout("{b c}.7", true), [(Shows::Named("b c"), true), dark('7')]);
        assert_eq!(layout("{{7}}", true), [dark('{'), dark('7'), dark('}')]);
        assert_eq!(layout("7{a", true), [dark('7'), (Shows::Unclosed, false)]);
        let segments = |text| {
            let cell = cells(text, true).next().unwrap();
            cell.segments(Style::Seven, &OwnGlyphs::default())
        };
        assert_eq!(segments("{a d,g}"), Ok(Segments(0b100_1001)));
        assert_eq!(segments("{}"), Ok(Segments::NONE));
        let unknown = TextError::UnknownSegment {
            found: "x".into(),
            position: 0,
            style: Style::Seven,
            lamps: Vec::new(),
        };
        assert_eq!(segments("{a x}"), Err(unknown));
    }

    #[test]
    fn alignment_leaves_the_spare_digits_where_it_says() {
        assert_eq!(Align::Left.start(3, 8), 0);
        assert_eq!(Align::Right.start(3, 8), 5);
        assert_eq!(Align::Centre.start(3, 8), 2);
        assert_eq!(Align::Right.start(9, 8), 0);
    }
}
