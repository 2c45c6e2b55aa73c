//! A table of patterns, as it is written for a controller.

use spare_tile_core::glyph::{BitOrder, Common, OwnGlyphs, Segments};
use spare_tile_core::units::counted;

/// The handling of an index past the end of a table. It never reads beyond the table.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Index {
    /// It is cut to the bits of the last index; the table is filled up with blanks to a power of two.
    Masked,
    /// It is compared, and gives a blank.
    Checked,
}

/// One entry of a table.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Entry {
    /// The character.
    pub character: char,
    /// The lit segments.
    pub segments: Segments,
    /// Its bits.
    pub bits: u32,
}

/// A table of patterns.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Table {
    /// Its name in the source.
    pub name: String,
    /// Which segment sits on which bit.
    pub order: BitOrder,
    /// Which level lights.
    pub common: Common,
    /// The handling of an index past the end.
    pub index: Index,
    /// The entries, at least one.
    pub entries: Vec<Entry>,
}

/// Why a table cannot be made or written.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum TableError {
    #[error(
        "'{found}' cannot name a table; use a letter, then letters, digits and underscores, but no word of the language"
    )]
    Name { found: String },
    #[error("'{found}' cannot name a {form} table: it already means something there")]
    Taken { form: &'static str, found: String },
    #[error("{} segments cannot show {character:?}", order.style())]
    NoGlyph { character: char, order: BitOrder },
    #[error("the table has no character")]
    Empty,
    #[error("the font {font} has no {character:?} that a table could hold")]
    NotInFont { font: String, character: char },
    #[error("it has more than 65535 bytes of dots")]
    TooManyDots,
    #[error("{form} tables have at most {most} entries; this one has {found}")]
    TooLong { form: &'static str, found: usize, most: usize },
    #[error("{form} tables are indexed masked: a check costs a register that the table cannot know of")]
    MaskedOnly { form: &'static str },
    #[error("a template cannot be filled: {0}")]
    Template(String),
}

/// Keywords of the languages, which cannot be names.
const RESERVED: &str = "\
and as asm assert async auto await bit bool break case char class code const continue crate data def default del \
do double dyn elif else enum except extern false finally float fn for from global goto if impl import in inline int \
interrupt is lambda let long loop match mod move mut nonlocal not or org pass pub raise ref register restrict \
return self sfr short signed sizeof static struct super switch trait true try type typedef union unsafe unsigned \
use using void volatile where while with xdata yield w f";

/// A name that is one in every language.
pub(super) fn checked(name: &str) -> Result<String, TableError> {
    let mut letters = name.chars();
    // A name that begins with an underscore is the compiler's own.
    let first = letters.next().is_some_and(|c| c.is_ascii_alphabetic());
    let rest = letters.all(|c| c.is_ascii_alphanumeric() || c == '_');
    let reserved = RESERVED.split(' ').any(|word| word == name.to_ascii_lowercase());
    if first && rest && !reserved {
        Ok(name.to_owned())
    } else {
        Err(TableError::Name { found: name.to_owned() })
    }
}

impl Table {
    /// A table of these characters.
    ///
    /// # Errors
    /// When the name is none, there is no character, or one cannot be shown.
    pub fn new(
        name: &str,
        characters: &[char],
        order: BitOrder,
        common: Common,
        index: Index,
        own: &OwnGlyphs,
    ) -> Result<Self, TableError> {
        let name = checked(name)?;
        let entry = |character: &char| {
            let no_glyph = || TableError::NoGlyph { character: *character, order: order.clone() };
            let segments = own.glyph(order.style(), *character).ok_or_else(no_glyph)?.segments;
            Ok(Entry { character: *character, segments, bits: order.bits(segments, common) })
        };
        let entries: Vec<_> = characters.iter().map(entry).collect::<Result<_, _>>()?;
        if entries.is_empty() {
            return Err(TableError::Empty);
        }
        Ok(Self { name, order, common, index, entries })
    }

    /// The bits with nothing lit.
    #[must_use]
    pub fn blank(&self) -> u32 {
        self.order.bits(Segments::NONE, self.common)
    }

    /// How many entries stand in the source: masked, the next power of two.
    #[must_use]
    pub fn length(&self) -> usize {
        match self.index {
            Index::Masked => self.entries.len().next_power_of_two(),
            Index::Checked => self.entries.len(),
        }
    }

    /// How many bits an entry takes in a language with words of 8, 16 and 32.
    pub(super) fn word_bits(&self) -> usize {
        8 * self.order.byte_count().next_power_of_two()
    }

    /// Each entry with the comment of its row, blanks after the last one included.
    pub(super) fn rows(&self) -> impl Iterator<Item = (u32, String)> {
        let entries = self.entries.iter().map(|entry| (entry.bits, shown(entry.character)));
        let blanks = std::iter::repeat_with(|| (self.blank(), "blank".to_owned()));
        entries.chain(blanks.take(self.length() - self.entries.len()))
    }

    /// The comment above a table, line by line.
    pub(super) fn description(&self) -> Vec<String> {
        let (first, last) = (&self.entries[0], &self.entries[self.entries.len() - 1]);
        let past = match self.index {
            Index::Masked => format!(
                "an index is cut to {}",
                counted(self.length().trailing_zeros() as usize, "bit", "bits")
            ),
            Index::Checked => "an index past the end gives a blank".to_owned(),
        };
        vec![
            format!("Patterns for {} segments, {}.", self.order.style(), self.common.polarity()),
            format!("Bits, most significant first: {}.", self.order),
            format!(
                "{} characters from {} to {}; {past}.",
                self.entries.len(),
                shown(first.character),
                shown(last.character)
            ),
        ]
    }
}

/// A character in a comment: in ASCII, and never the end of one.
pub(super) fn shown(character: char) -> String {
    match character {
        ' '..='~' => format!("'{character}'"),
        _ => format!("U+{:04X}", u32::from(character)),
    }
}
