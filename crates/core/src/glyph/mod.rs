//! From a character to the segments it lights, and back.
//!
//! [`segments`] names the segments and holds sets of them; `seven`, `fourteen` and `sixteen` draw the
//! characters; [`order`] turns a set of segments into the byte that a port or register wants, and [`literals`] reads
//! bytes as people paste them.

mod fourteen;
pub mod literals;
pub mod order;
pub mod segments;
mod seven;
mod sheet;
mod sixteen;

pub use order::{BitOrder, Common};
pub use segments::{Segments, Style};
pub use sheet::{Glyph, Grade};

/// The glyph of a character in a style; `None` where the style has nothing to show for it.
#[must_use]
#[inline]
pub fn glyph(style: Style, character: char) -> Option<Glyph> {
    let table = match style {
        Style::Seven => &seven::TABLE,
        Style::Fourteen => &fourteen::TABLE,
        Style::Sixteen => &sixteen::TABLE,
    };
    table.get(character as usize).copied().flatten()
}

/// Every character that a style draws, digits first.
pub fn characters(style: Style) -> impl Iterator<Item = char> {
    let sheet: &'static sheet::Sheet = match style {
        Style::Seven => &seven::SHEET,
        Style::Fourteen => &fourteen::SHEET,
        Style::Sixteen => &sixteen::SHEET,
    };
    sheet::characters(sheet)
}

/// The characters that these very segments may be, the best grade first and digits before letters.
#[must_use]
pub fn readings(style: Style, segments: Segments) -> Vec<(char, Grade)> {
    let glyphs = characters(style).filter_map(|character| Some((character, glyph(style, character)?)));
    let mut readings: Vec<_> = glyphs
        .filter(|(_, glyph)| glyph.segments == segments)
        .map(|(character, glyph)| (character, glyph.grade))
        .collect();
    readings.sort_by_key(|(_, grade)| *grade);
    readings
}

/// The character that these segments are read as; the point is left out of account.
#[must_use]
pub fn reading(style: Style, segments: Segments) -> Option<char> {
    readings(style, segments.less(style.point())).first().map(|(character, _)| *character)
}

/// The forms in which digits are often drawn, though not by us: a 6 or 9 without its tail, a 7 with one.
#[must_use]
pub const fn other_forms(style: Style) -> &'static [(char, Segments)] {
    match style {
        Style::Seven => &seven::OTHER_FORMS,
        Style::Fourteen | Style::Sixteen => &[],
    }
}

/// The digit that is often drawn like this, though not by us.
#[must_use]
pub fn other_form(style: Style, segments: Segments) -> Option<char> {
    other_forms(style).iter().find(|(_, form)| *form == segments).map(|(digit, _)| *digit)
}

/// The character from which the fewest segments differ, digits first, and what it lights; the point is left out of
/// account.
#[must_use]
pub fn nearest(style: Style, segments: Segments) -> Option<(char, Segments)> {
    let bare = segments.less(style.point());
    let glyphs = characters(style)
        .filter(|character| *character != ' ')
        .filter_map(|character| Some((character, glyph(style, character)?.segments.less(style.point()))));
    glyphs
        .filter(|(_, glyph)| *glyph != Segments::NONE)
        .min_by_key(|(_, glyph)| (glyph.0 ^ bare.0).count_ones())
}

/// Characters of a user's own, by their segments; they go before the style's.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct OwnGlyphs {
    glyphs: Vec<(char, Segments)>,
}

impl OwnGlyphs {
    /// Adds or replaces a character.
    pub fn draw(&mut self, character: char, segments: Segments) {
        self.glyphs.retain(|(known, _)| *known != character);
        self.glyphs.push((character, segments));
    }

    /// Adds or replaces all of another's characters.
    pub fn add(&mut self, others: &Self) {
        for (character, segments) in &others.glyphs {
            self.draw(*character, *segments);
        }
    }

    /// The glyph of a character: an own one, which counts as exact, or the style's.
    #[must_use]
    #[inline]
    pub fn glyph(&self, style: Style, character: char) -> Option<Glyph> {
        if self.glyphs.is_empty() {
            return glyph(style, character);
        }
        let own = self.glyphs.iter().find(|(known, _)| *known == character);
        own.map(|(_, segments)| Glyph { segments: *segments, grade: Grade::Exact })
            .or_else(|| glyph(style, character))
    }

    /// The characters that these very segments are.
    pub fn readings(&self, segments: Segments) -> impl Iterator<Item = char> {
        let glyphs = self.glyphs.iter().filter(move |(_, known)| *known == segments);
        glyphs.map(|(character, _)| *character)
    }

    /// The character that these segments are read as, an own one before the style's; the point is left out of account.
    #[must_use]
    pub fn reading(&self, style: Style, segments: Segments) -> Option<char> {
        let bare = segments.less(style.point());
        let own = self.readings(segments).chain(self.readings(bare)).next();
        own.or_else(|| reading(style, bare))
    }

    /// All of them, in the order in which they were drawn.
    pub fn all(&self) -> impl Iterator<Item = (char, Segments)> + '_ {
        self.glyphs.iter().copied()
    }

    /// Returns true if there is none.
    #[must_use]
    pub const fn is_empty(&self) -> bool {
        self.glyphs.is_empty()
    }

    /// Returns true if a character is one of them and lights these very segments.
    #[must_use]
    pub fn has_as(&self, character: char, segments: Segments) -> bool {
        self.glyphs.contains(&(character, segments))
    }

    /// Returns true if a character is one of them.
    #[must_use]
    pub fn has(&self, character: char) -> bool {
        self.glyphs.iter().any(|(known, _)| *known == character)
    }
}

#[cfg(test)]
mod tests {
    use std::collections::HashMap;

    use super::*;

    fn lit(style: Style, character: char) -> String {
        let names: Vec<_> = glyph(style, character).unwrap().segments.names(style).collect();
        names.join(" ")
    }

    #[test]
    fn drawings_are_read_as_segments() {
        assert_eq!(lit(Style::Seven, '4'), "b c f g");
        assert_eq!(lit(Style::Seven, 't'), "d e f g");
        assert_eq!(lit(Style::Seven, '\u{b0}'), "a b f g");
        assert_eq!(lit(Style::Seven, '!'), "b dp");
        assert_eq!(lit(Style::Fourteen, 'K'), "e f g1 j m");
        assert_eq!(lit(Style::Fourteen, '*'), "g1 g2 h i j k l m");
        assert_eq!(lit(Style::Sixteen, '['), "a2 d2 i l");
        assert_eq!(lit(Style::Sixteen, '0'), "a1 a2 b c d1 d2 e f j k");
    }

    #[test]
    fn every_printable_character_and_the_degree_sign_has_a_glyph_in_every_style() {
        for style in Style::ALL {
            for character in (' '..='~').chain(['\u{b0}']) {
                assert!(glyph(*style, character).is_some(), "{style}: {character:?}");
            }
            assert_eq!(glyph(*style, '\u{20ac}'), None);
        }
    }

    #[test]
    fn a_glyph_graded_exact_is_one_character_s_alone() {
        for style in Style::ALL {
            let mut exact = HashMap::new();
            for character in characters(*style) {
                let glyph = glyph(*style, character).unwrap();
                if glyph.grade == Grade::Exact {
                    assert_eq!(exact.insert(glyph.segments, character), None, "{style}: {character:?}");
                    assert_eq!(readings(*style, glyph.segments)[0].0, character, "{style}");
                }
            }
        }
    }

    #[test]
    fn characters_that_people_confuse_differ_where_the_style_can() {
        for style in [Style::Fourteen, Style::Sixteen] {
            for (one, other) in [
                ('0', 'O'),
                ('1', 'I'),
                ('1', 'l'),
                ('I', 'l'),
                ('5', 'S'),
                ('2', 'Z'),
                ('B', '8'),
                ('D', '0'),
            ] {
                assert_ne!(lit(style, one), lit(style, other), "{style}: {one} and {other}");
            }
        }
    }

    /// A form that we drew ourselves would be no other form, and its digit would be listed twice.
    #[test]
    fn other_forms_are_no_digits_of_ours() {
        for (digit, form) in seven::OTHER_FORMS {
            assert_eq!(other_form(Style::Seven, form), Some(digit));
            assert_eq!((form.0 ^ glyph(Style::Seven, digit).unwrap().segments.0).count_ones(), 1, "{digit}");
            assert!(readings(Style::Seven, form).iter().all(|(character, _)| !character.is_ascii_digit()));
        }
        assert_eq!(other_form(Style::Fourteen, seven::OTHER_FORMS[0].1), None);
    }

    #[test]
    fn one_case_serves_for_both() {
        let seven = |character| glyph(Style::Seven, character).unwrap();
        assert_eq!(seven('B').segments, seven('b').segments);
        assert_eq!((seven('b').grade, seven('B').grade), (Grade::Exact, Grade::InContext));
        assert_ne!(seven('C'), seven('c'), "both are drawn");
    }

    #[test]
    fn a_digit_is_read_before_a_letter_of_the_same_form() {
        for character in "0123456789AbCdEF- ".chars() {
            assert_eq!(
                reading(Style::Seven, glyph(Style::Seven, character).unwrap().segments),
                Some(character)
            );
        }
        assert_eq!(reading(Style::Seven, glyph(Style::Seven, 'S').unwrap().segments), Some('5'));
        assert_eq!(reading(Style::Seven, Segments(0b0101_0101)), None);
    }

    #[test]
    fn own_glyphs_go_first() {
        let mut own = OwnGlyphs::default();
        own.draw('~', Segments(0b1));
        own.draw('~', Segments(0b11));
        assert_eq!(own.glyph(Style::Seven, '~').unwrap().segments, Segments(0b11));
        assert_eq!(own.glyph(Style::Seven, '8'), glyph(Style::Seven, '8'));
    }
}
