//! Source for controllers: tables of patterns that compile as they are.
//!
//! A form is one file behind the trait [`Form`]; a new one is that file and a line in [`FORMS`].

mod avr_c;
mod c;
pub mod data;
mod mcs51_c;
mod micropython;
pub mod ops;
mod pic_asm;
pub mod project;
mod rust;

use std::fmt::Write;

use crate::glyph::{BitOrder, Common, OwnGlyphs, Segments};
use crate::units::counted;
use data::Data;

/// Every form in which a table can be written.
pub const FORMS: &[&dyn Form] =
    &[&c::C, &avr_c::AvrC, &mcs51_c::Mcs51C, &rust::Rust, &micropython::MicroPython, &pic_asm::PicAsm];

/// What happens to an index past the end of a table. It never reads beyond it.
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
    /// What it lights.
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
    /// What becomes of an index past the end.
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
}

/// A way to write a table as source.
pub trait Form: Sync {
    /// The word for it on the command line.
    fn name(&self) -> &'static str;

    /// The whole source.
    ///
    /// # Errors
    /// When the form has no way to say this table.
    fn write(&self, table: &Table) -> Result<String, TableError>;

    /// The whole source of a font or sprite.
    ///
    /// # Errors
    /// When the form has no way to say it.
    fn write_data(&self, data: &Data) -> Result<String, TableError>;
}

/// The form of this name.
#[must_use]
pub fn form(name: &str) -> Option<&'static dyn Form> {
    FORMS.iter().copied().find(|form| form.name() == name)
}

/// Words that are no names in one or another of the languages.
const RESERVED: &str = "\
and as asm assert async auto await bit bool break case char class code const continue crate data def default del \
do double dyn elif else enum except extern false finally float fn for from global goto if impl import in inline int \
interrupt is lambda let long loop match mod move mut nonlocal not or org pass pub raise ref register restrict \
return self sfr short signed sizeof static struct super switch trait true try type typedef union unsafe unsigned \
use using void volatile where while with xdata yield w f";

/// A name that is one in every language.
fn checked(name: &str) -> Result<String, TableError> {
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
    fn word_bits(&self) -> usize {
        8 * self.order.byte_count().next_power_of_two()
    }

    /// Refuses a name that is one of a form's own words.
    fn check_name(&self, form: &'static str, words: &str) -> Result<(), TableError> {
        let is_word = words.split(' ').any(|word| word == self.name.to_ascii_lowercase());
        if is_word { Err(TableError::Taken { form, found: self.name.clone() }) } else { Ok(()) }
    }

    /// Refuses a table that a form cannot hold.
    fn check_length(&self, form: &'static str, most: usize) -> Result<(), TableError> {
        let found = self.length();
        if found > most { Err(TableError::TooLong { form, found, most }) } else { Ok(()) }
    }

    /// Each entry with the comment of its row, blanks after the last one included.
    fn rows(&self) -> impl Iterator<Item = (u32, String)> {
        let entries = self.entries.iter().map(|entry| (entry.bits, shown(entry.character)));
        let blanks = std::iter::repeat_with(|| (self.blank(), "blank".to_owned()));
        entries.chain(blanks.take(self.length() - self.entries.len()))
    }

    /// What the comment over a table says, line by line.
    fn description(&self) -> Vec<String> {
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

    /// The description as a block comment of C.
    fn c_comment(&self) -> String {
        format!("/* {} */\n", self.description().join("\n   "))
    }

    /// The rows of an array in C.
    fn c_rows(&self) -> String {
        let digits = self.word_bits() / 4;
        self.rows().fold(String::new(), |mut rows, (bits, shown)| {
            // Writing to a string cannot fail.
            let _ = writeln!(rows, "    0x{bits:0digits$X}, /* {shown} */");
            rows
        })
    }

    /// The name in capitals.
    fn capitals(&self) -> String {
        self.name.to_ascii_uppercase()
    }
}

/// A character in a comment: in ASCII, and never the end of one.
fn shown(character: char) -> String {
    match character {
        ' '..='~' => format!("'{character}'"),
        _ => format!("U+{:04X}", u32::from(character)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::glyph::Style;

    fn table(name: &str, characters: &str, index: Index) -> Result<Table, TableError> {
        let characters: Vec<_> = characters.chars().collect();
        let order = BitOrder::usual(Style::Seven);
        Table::new(name, &characters, order, Common::Cathode, index, &OwnGlyphs::default())
    }

    #[test]
    fn names_that_would_not_compile_are_refused() {
        for name in ["", "7seg", "a-b", "int", "Fn", "def", "\u{e9}", "_", "_Bool"] {
            assert_eq!(table(name, "0", Index::Checked), Err(TableError::Name { found: name.into() }));
        }
    }

    #[test]
    fn names_that_a_language_has_given_away_are_refused() {
        let told =
            |name: &str, language| form(language).unwrap().write(&table(name, "0", Index::Masked).unwrap());
        for (language, name) in [
            ("c", "index"),
            ("c", "uint8_t"),
            ("c", "NULL"),
            ("avr-c", "PROGMEM"),
            ("mcs51-c", "main"),
            ("pic-asm", "PCL"),
            ("pic-asm", "movlw"),
        ] {
            let found = name.to_owned();
            let form = form(language).unwrap().name();
            assert_eq!(told(name, language), Err(TableError::Taken { form, found }), "{language} {name}");
        }
        assert!(
            told("index", "rust").is_ok() && told("index", "micropython").is_ok(),
            "the table's name is in capitals"
        );
        // A name that has one in it is as good as any.
        let masked = told("my_index", "c").unwrap();
        assert!(masked.contains("return my_index[index & (unsigned)0x0u];"), "{masked}");
    }

    #[test]
    fn a_masked_table_is_filled_up_with_blanks() {
        let masked = table("digits", "0123456789", Index::Masked).unwrap();
        assert_eq!(masked.length(), 16);
        assert_eq!(masked.rows().skip(10).map(|(bits, _)| bits).collect::<Vec<_>>(), [0; 6]);
        assert_eq!(table("digits", "", Index::Masked), Err(TableError::Empty));
    }

    #[test]
    fn a_table_that_its_index_cannot_reach_is_refused() {
        let long = table("signs", &"0".repeat(300), Index::Checked).unwrap();
        let told = |name| form(name).unwrap().write(&long).map(|_| ());
        assert_eq!(told("avr-c"), Err(TableError::TooLong { form: "avr-c", found: 300, most: 256 }));
        assert_eq!(told("pic-asm"), Err(TableError::MaskedOnly { form: "pic-asm" }));
        assert_eq!(told("c"), Ok(()));
    }

    #[test]
    fn every_form_has_a_name_of_its_own() {
        let names: std::collections::BTreeSet<_> = FORMS.iter().map(|form| form.name()).collect();
        assert_eq!(names.len(), FORMS.len(), "{names:?}");
    }
}
