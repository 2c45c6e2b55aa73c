//! Texts that a person may misread.

use super::text::{self, Cell, Shows};
use crate::face::Face;
use crate::glyph::{Glyph, Grade, Style, characters, glyph};

/// Something in a text that a person may misread.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Doubt {
    /// A character that the style cannot draw.
    #[error("{style} segments have no form for {character:?}; a stand-in is shown")]
    StandIn {
        /// The character.
        character: char,
        /// Its place in the text, counted in characters from 0.
        position: usize,
        /// The style.
        style: Style,
    },
    /// A colon on a face that has none.
    #[error("the face has no colon; a stand-in takes a digit of its own")]
    NoColon {
        /// Its place in the text.
        position: usize,
    },
    /// A point on a face whose digits have none.
    #[error("the digits of the face have no points; it takes a digit of its own, like a comma")]
    NoPoint {
        /// Its place in the text.
        position: usize,
    },
    /// A word that can be taken for a number.
    #[error("'{word}' can be read as the number {number}")]
    ReadsAsNumber {
        /// The word.
        word: String,
        /// The number that it looks like.
        number: String,
        /// The place of its first character.
        position: usize,
    },
}

impl Doubt {
    /// The place in the text, counted in characters from 0, and how many characters it takes.
    #[must_use]
    pub fn place(&self) -> (usize, usize) {
        match self {
            Self::StandIn { position, .. } | Self::NoColon { position } | Self::NoPoint { position } => {
                (*position, 1)
            }
            Self::ReadsAsNumber { position, word, .. } => (*position, word.chars().count()),
        }
    }
}

/// Pairs that differ by a segment or lie on different sides of the digit, and are yet taken for each other
/// on seven segments.
const NEARLY_ALIKE: [(char, char); 9] = [
    ('I', '1'),
    ('i', '1'),
    ('l', '1'),
    ('|', '1'),
    ('B', '8'),
    ('D', '0'),
    ('q', '9'),
    ('G', '6'),
    ('Y', '4'),
];

/// The characters that this one may be mistaken for: those of the same form, and on seven segments those of
/// nearly the same.
#[must_use]
pub fn mistaken_for(style: Style, character: char) -> Vec<char> {
    let Some(Glyph { segments, .. }) = glyph(style, character) else { return Vec::new() };
    let alike = |other: &char| glyph(style, *other).is_some_and(|glyph| glyph.segments == segments);
    let same_letter = |other: &char| other.eq_ignore_ascii_case(&character);
    let mut others: Vec<_> = characters(style).filter(|other| !same_letter(other)).filter(alike).collect();
    if style == Style::Seven {
        for (one, other) in NEARLY_ALIKE {
            let nearly = if one == character { other } else { one };
            if [one, other].contains(&character) && !others.contains(&nearly) {
                others.push(nearly);
            }
        }
    }
    others
}

/// The digit that has the very form of this character.
fn digit_alike(style: Style, character: char) -> Option<char> {
    let segments = glyph(style, character)?.segments;
    let alike = |digit: &char| glyph(style, *digit).is_some_and(|glyph| glyph.segments == segments);
    ('0'..='9').find(alike)
}

/// given, and a colon of the face is not a glyph.
/// Returns the parts of a text on a face that may be misread, in order. Patterns in braces are as they were
#[must_use]
pub fn doubts(words: &str, face: &Face) -> Vec<Doubt> {
    let style = face.style();
    let is_glyph = |cell: &Cell<'_>| !(face.has_colons() && cell.shows == Shows::Character(':'));
    let cells: Vec<_> = text::cells(words, face.points).filter(is_glyph).collect();
    let characters: Vec<char> = words.chars().collect();
    let stand_in = |cell: &Cell<'_>| match cell.shows {
        Shows::Character(character) => {
            let position = cell.position;
            if character == ',' && !face.points && characters.get(position) == Some(&'.') {
                return Some(Doubt::NoPoint { position });
            }
            let glyph = face.own_glyphs.glyph(style, character)?;
            (glyph.grade == Grade::StandIn).then_some(match character {
                ':' => Doubt::NoColon { position },
                character => Doubt::StandIn { character, position, style },
            })
        }
        _ => None,
    };
    let mut doubts: Vec<_> = cells.iter().filter_map(stand_in).collect();
    let blank = |cell: &Cell<'_>| cell.shows == Shows::Character(' ') && !cell.point;
    doubts.extend(cells.split(blank).filter_map(|word| read_as_number(word, style)));
    doubts.sort_by_key(Doubt::place);
    doubts
}

/// The number that a word with letters can be taken for, when every one of its characters can.
fn read_as_number(cells: &[Cell<'_>], style: Style) -> Option<Doubt> {
    let (mut word, mut number) = (String::new(), String::new());
    for cell in cells {
        let Shows::Character(character) = cell.shows else { return None };
        word.push(character);
        number.push(if character == '-' { character } else { digit_alike(style, character)? });
        if cell.point {
            word.push('.');
            number.push('.');
        }
    }
    let position = cells.first()?.position;
    (word.chars().any(char::is_alphabetic) && number != word).then_some(Doubt::ReadsAsNumber {
        word,
        number,
        position,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_clashes_that_people_know() {
        let clash = |one, other| mistaken_for(Style::Seven, one).contains(&other);
        for (one, other) in
            [('S', '5'), ('Z', '2'), ('O', '0'), ('I', 'l'), ('I', '1'), ('l', '1'), ('B', '8'), ('g', '9')]
        {
            assert!(clash(one, other) && clash(other, one), "{one} and {other}");
        }
        assert_eq!(mistaken_for(Style::Fourteen, 'S'), []);
    }

    /// A face of seven segments, with these keys added.
    fn desk(keys: &str) -> Face {
        let rig = crate::plan::Rig::read(&format!(
            "[face.desk]\nkind = \"seven-segment\"\ndigits = 4\n{keys}\n[face.desk.drive]\n\
             method = \"max7219\"\npins = {{ data = 1, clock = 2, select = 3 }}"
        ));
        rig.rig.unwrap().faces.remove(0).face
    }

    #[test]
    fn a_colon_that_the_face_has_is_in_no_doubt() {
        let clock = desk("colons = [{ after = 2, node = \"digit4.a\" }]");
        assert_eq!(doubts("07:58", &clock), []);
        assert_eq!(doubts("07:58", &desk("")), [Doubt::NoColon { position: 2 }]);
    }

    #[test]
    fn doubts_name_what_and_where() {
        let desk = desk("");
        let doubts = |text| doubts(text, &desk);
        let stand_in = |character, position| Doubt::StandIn { character, position, style: Style::Seven };
        assert_eq!(doubts("KNOT 7"), [stand_in('K', 0)]);
        let number = |word: &str, number: &str, position| Doubt::ReadsAsNumber {
            word: word.into(),
            number: number.into(),
            position,
        };
        assert_eq!(doubts("go SOS.5 7"), [number("SOS.5", "505.5", 3)]);
        assert_eq!(doubts("07.58 - AbC"), []);
        assert_eq!(doubts("{a d g} {b}"), []);
    }
}
