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

/// The text of a glyph file with other characters: lines of those that stay are changed where they stand, lines of others go, and
/// new ones come at the end. Remarks stay.
///
/// # Errors
/// With everything that is wrong with the file.
pub fn rewrite(source: &str, glyphs: &OwnGlyphs, style: Style) -> Result<String, Vec<Finding>> {
    let old = read(source, style)?;
    let findings = Findings::default();
    let keys = reader::parse(source, &findings)
        .and_then(|(root, whole)| reader::read::<Keys>(&root, whole, &findings))
        .ok_or_else(|| findings.in_order())?;
    let segments_of = |character| glyphs.all().find(|(known, _)| *known == character).map(|(_, lit)| lit);
    let mut changes: Vec<(std::ops::Range<usize>, String)> = Vec::new();
    for (name, value) in &keys {
        let character = name.get_ref().chars().next();
        match character.and_then(segments_of) {
            Some(lit) if character.is_some_and(|character| old.has_as(character, lit)) => {}
            Some(lit) => changes.push((value.span(), quoted_names(lit, style))),
            None => {
                let begin = source[..name.span().start].rfind('\n').map_or(0, |end| end + 1);
                let end = source[value.span().end..].find('\n').map(|at| value.span().end + at + 1);
                changes.push((begin..end.unwrap_or(source.len()), String::new()));
            }
        }
    }
    changes.sort_by_key(|(span, _)| span.start);
    let mut text = source.to_owned();
    for (span, instead) in changes.into_iter().rev() {
        text.replace_range(span, &instead);
    }
    let added = glyphs.all().filter(|(character, _)| !old.has(*character));
    for (character, lit) in added {
        if !text.is_empty() && !text.ends_with('\n') {
            text.push('\n');
        }
        let name = toml::Value::String(character.to_string());
        text.push_str(&format!("{name} = {}\n", quoted_names(lit, style)));
    }
    Ok(text)
}

/// The names of segments as a value of the file.
fn quoted_names(lit: Segments, style: Style) -> String {
    format!("\"{}\"", lit.names(style).collect::<Vec<_>>().join(" "))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

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

    #[test]
    fn remarks_stay_where_they_are() {
        let source = "# waves\n'~' = \"a d g\" # three\n\n# for the berth\n\"q\"  =  \"a b\"\n8 = \"b c\"";
        let mut glyphs = OwnGlyphs::default();
        for (character, lit) in [('q', 0b111), ('8', 0b110), ('"', 0b10), ('\\', 0)] {
            glyphs.draw(character, Segments(lit));
        }
        insta::assert_snapshot!(rewrite(source, &glyphs, Style::Seven).unwrap(), @r#"
        # waves

        # for the berth
        "q"  =  "a b c"
        8 = "b c"
        '"' = "b"
        '\' = ""
        "#);
    }

    /// Any characters of any style.
    fn any_glyphs(style: Style) -> impl Strategy<Value = OwnGlyphs> {
        let most = 1_u32 << style.segment_count();
        let glyph = ("[ -~\u{a1}-\u{ff}\u{4e00}]", 0..most);
        prop::collection::vec(glyph, 0..6).prop_map(|all| {
            let mut glyphs = OwnGlyphs::default();
            all.iter().for_each(|(name, lit)| glyphs.draw(name.chars().next().unwrap(), Segments(*lit)));
            glyphs
        })
    }

    proptest! {
        #[test]
        fn what_is_written_over_a_file_is_read((first, second) in (any_glyphs(Style::Sixteen), any_glyphs(Style::Sixteen))) {
            let sorted = |glyphs: &OwnGlyphs| {
                let mut all: Vec<_> = glyphs.all().collect();
                all.sort_unstable();
                all
            };
            let style = Style::Sixteen;
            let written = rewrite("# the landing's own\n", &first, style).unwrap();
            prop_assert_eq!(sorted(&read(&written, style).unwrap()), sorted(&first));
            let again = rewrite(&written, &second, style).unwrap();
            prop_assert_eq!(sorted(&read(&again, style).unwrap()), sorted(&second));
            prop_assert!(again.starts_with("# the landing's own\n"));
            // As it is, it stays to the byte.
            prop_assert_eq!(&rewrite(&again, &second, style).unwrap(), &again);
        }
    }
}
