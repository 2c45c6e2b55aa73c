//! Characters of a user's own: in a rig's face, or in a file of their own.

use std::collections::BTreeMap;

use super::Spanned;

use super::finding::{Finding, Findings, Problem};
use super::reader;
use crate::glyph::{OwnGlyphs, Segments, Style};

/// A character and the names of its segments, for each.
pub type Keys = BTreeMap<Spanned<String>, Spanned<String>>;

/// The glyphs of a table; `None` when an error was found.
pub fn plan(keys: &Keys, style: Style, findings: &Findings) -> Option<OwnGlyphs> {
    let mut own = OwnGlyphs::default();
    for (name, segments) in keys {
        let mut characters = name.get_ref().chars();
        let (Some(character), None) = (characters.next(), characters.next()) else {
            let found = format!("{:?}", name.get_ref());
            let problem = Problem::WrongValue { found, allowed: "a single character".into() };
            return findings.stop(name.span(), problem);
        };
        if character.is_control() {
            let (found, allowed) = (format!("{character:?}"), "a visible character".to_owned());
            return findings.stop(name.span(), Problem::WrongValue { found, allowed });
        }
        match Segments::parse(segments.get_ref(), style) {
            Ok(segments) => own.draw(character, segments),
            Err(found) => {
                let problem = Problem::unknown_name("segment", found, style.segment_names());
                return findings.stop(segments.span(), problem);
            }
        }
    }
    Some(own)
}

/// Reads a glyph file: TOML with a line such as `"~" = "a d g"` for each character.
///
/// # Errors
/// With everything that is wrong with it.
pub fn read(source: &str, style: Style) -> Result<OwnGlyphs, Vec<Finding>> {
    let findings = Findings::default();
    let glyphs = reader::parse(source, &findings)
        .and_then(|(root, whole)| reader::read::<Keys>(&root, whole, &findings))
        .and_then(|keys| plan(&keys, style, &findings));
    glyphs.ok_or_else(|| findings.in_order())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_glyph_file_is_read_or_refused() {
        let glyphs = read("\"~\" = \"a d g\"\n8 = \"b c\"", Style::Seven).unwrap();
        assert_eq!(glyphs.glyph(Style::Seven, '~').unwrap().segments, Segments(0b100_1001));
        assert_eq!(glyphs.glyph(Style::Seven, '8').unwrap().segments, Segments(0b110));
        for wrong in ["ab = \"a\"", "a = \"x\"", "a = 3", "a ="] {
            assert_eq!(read(wrong, Style::Seven).unwrap_err().len(), 1, "{wrong}");
        }
    }
}
