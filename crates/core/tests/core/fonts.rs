//! Fonts: ours against their drawings, files against what was written, lines against what a person would set.

use std::collections::BTreeMap;
use std::path::PathBuf;

use proptest::prelude::*;
use spare_tile_core::dots::Bitmap;
use spare_tile_core::dots::bdf;
use spare_tile_core::dots::font::{Fitting, Font, FontError, Glyph, Setting};
use spare_tile_core::dots::own::{self, FONTS};

/// Reads a drawing of a font: heads, blocks of characters side by side, and characters put together of others.
fn drawn(art: &str) -> Font {
    let mut pieces: BTreeMap<String, Vec<String>> = BTreeMap::new();
    let mut head: BTreeMap<&str, &str> = BTreeMap::new();
    let mut composed = Vec::new();
    let mut lines = art.lines().peekable();
    let rows_of = |head: &BTreeMap<&str, &str>| {
        let number = |key| head[key].parse::<usize>().unwrap();
        number("ascent") + number("descent")
    };
    while let Some(line) = lines.next() {
        let words: Vec<_> = line.split_whitespace().collect();
        match &words[..] {
            [] | ["#", ..] if head.len() < 4 => {}
            [] => {}
            [key @ ("name" | "ascent" | "descent" | "spacing"), value] => {
                head.insert(key, value);
            }
            ["=", whole, parts @ ..] => composed
                .push(((*whole).to_owned(), parts.iter().map(|part| (*part).to_owned()).collect::<Vec<_>>())),
            names => {
                for _ in 0..rows_of(&head) {
                    let row: Vec<_> = lines.next().unwrap().split_whitespace().collect();
                    assert_eq!(row.len(), names.len(), "{line}");
                    for (name, row) in names.iter().zip(row) {
                        pieces.entry((*name).to_owned()).or_default().push(row.to_owned());
                    }
                }
            }
        }
    }
    for (whole, parts) in composed {
        pieces.insert(whole, over(&parts.iter().map(|part| &pieces[part]).collect::<Vec<_>>()));
    }
    let number = |key| head[key].parse::<usize>().unwrap();
    let mut font = Font::empty(head["name"].to_owned(), number("ascent"), number("descent"));
    for (name, rows) in pieces {
        let character = match name.strip_prefix("U+") {
            Some(code) => char::from_u32(u32::from_str_radix(code, 16).unwrap()).unwrap(),
            None if name.chars().count() == 1 => name.chars().next().unwrap(),
            None => continue,
        };
        let bitmap = Bitmap::of_art(rows.iter().map(String::as_str)).unwrap_or_else(|| panic!("{name}"));
        let advance = bitmap.width() + number("spacing");
        let rise = font.ascent as isize;
        font.draw(character, Glyph { bitmap, left: 0, rise, advance });
    }
    // A blank is as wide as a narrow letter.
    let width = font.height().div_ceil(3);
    let blank = Bitmap::dark(width, font.height());
    let rise = font.ascent as isize;
    font.draw(' ', Glyph { bitmap: blank, left: 0, rise, advance: width + number("spacing") });
    font
}

/// Drawings over one another, each in the middle of the widest.
fn over(parts: &[&Vec<String>]) -> Vec<String> {
    let width = parts.iter().map(|part| part[0].len()).max().unwrap();
    (0..parts[0].len())
        .map(|row| {
            (0..width)
                .map(|x| {
                    let is_lit = |part: &&&Vec<String>| {
                        let left = (width - part[row].len()) / 2;
                        x >= left && part[row].as_bytes().get(x - left) == Some(&b'#')
                    };
                    if parts.iter().any(|part| is_lit(&part)) { '#' } else { '.' }
                })
                .collect()
        })
        .collect()
}

fn folder() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("src/dots/fonts")
}

#[test]
fn the_files_of_our_fonts_are_made_of_their_drawings() {
    for own in FONTS {
        let art = std::fs::read_to_string(folder().join(format!("{}.txt", own.name))).unwrap();
        let font = drawn(&art);
        let path = folder().join(format!("{}.bdf", own.name));
        if std::env::var_os("SPARE_TILE_WRITE_DOCS").is_some() {
            std::fs::write(&path, bdf::write(&font)).unwrap();
        }
        let file = std::fs::read_to_string(path).unwrap();
        assert!(file == bdf::write(&font), "{}: write it again with SPARE_TILE_WRITE_DOCS=1", own.name);
        assert_eq!(bdf::read(&file), Ok(font));
        assert_eq!(own::called(own.name).unwrap().name, own.name);
    }
}

#[test]
fn our_fonts_have_ascii_and_the_letters_of_latin_1() {
    let ascii: String = (' '..='~').collect();
    let latin: String = ('\u{C0}'..='\u{FF}').collect();
    for own in FONTS {
        let font = own.load().unwrap();
        assert_eq!(font.missing("0123456789:.,-+° "), [], "{}", own.name);
        if own.has_letters {
            assert_eq!(font.missing(&ascii), [], "{}", own.name);
            assert_eq!(font.missing(&latin), [], "{}", own.name);
            assert_eq!(font.missing("°←↑→↓€±µ½"), [], "{}", own.name);
        } else {
            let widths: Vec<_> = ('0'..='9').map(|figure| font.glyph(figure).unwrap().advance).collect();
            assert!(widths.iter().all(|width| *width == widths[0]), "{}: {widths:?}", own.name);
        }
        // No two characters look alike, but for those that do everywhere.
        let mut seen: BTreeMap<String, char> = BTreeMap::new();
        for character in font.characters().filter(|character| !" \u{A0}".contains(*character)) {
            let glyph = font.glyph(character).unwrap();
            let look = format!("{}{}", glyph.rise, glyph.bitmap);
            if let Some(other) = seen.insert(look, character) {
                panic!("{}: {character} and {other} look alike", own.name);
            }
        }
    }
}

fn set(text: &str, fitting: Fitting) -> String {
    own::called("board").unwrap().set(text, Setting { spacing: 0, fitting }).unwrap().to_string()
}

#[test]
fn a_line_is_as_a_person_would_set_it() {
    insta::assert_snapshot!(set("Teal 7°", Fitting::Plain), @"
    #####...........#......#####..#.
    ..#.............#..........#.#.#
    ..#....##...##..#.........#...#.
    ..#...#..#....#.#........#......
    ..#...####..###.#........#......
    ..#...#....#..#.#........#......
    ..#....###..###..#.......#......
    ................................
    ");
    // The arm of the T comes over the foot of the L, and no dot touches another's.
    insta::assert_snapshot!(set("LTA", Fitting::Kerned), @"
    #..#####..###.
    #....#...#...#
    #....#...#...#
    #....#...#####
    #....#...#...#
    #....#...#...#
    ####.#...#...#
    ..............
    ");
    assert_eq!(set("HI", Fitting::Kerned), set("HI", Fitting::Plain));
    let wide =
        own::called("board").unwrap().set("AB", Setting { spacing: 3, fitting: Fitting::Plain }).unwrap();
    assert_eq!(wide.width(), 5 + 1 + 3 + 5);
    let together =
        own::called("board").unwrap().set("AB", Setting { spacing: -9, fitting: Fitting::Plain }).unwrap();
    assert_eq!(together.width(), 8);
    assert_eq!(own::called("board").unwrap().set("", Setting::default()).unwrap().width(), 0);
}

#[test]
fn what_cannot_be_set_is_said_once() {
    let font = own::called("board").unwrap();
    let said = |text: &str| font.set(text, Setting::default()).unwrap_err().to_string();
    insta::assert_snapshot!(said("a漢b字漢"), @"the font board has no '漢', '字'");
    insta::assert_snapshot!(said("שלום"), @"'ש' is written from right to left, which no line here is");
    assert!(matches!(font.set("x\u{627}", Setting::default()), Err(FontError::RightToLeft { .. })));
}

#[test]
fn a_file_from_elsewhere() {
    // A character with a box of its own, another without a code, properties that say nothing here.
    let file = "STARTFONT 2.1\nCOMMENT made by hand\nFONT -x-quay-medium\nSIZE 8 75 75\nFONTBOUNDINGBOX 9 8 0 -2\n\
                STARTPROPERTIES 1\nCOPYRIGHT \"none\"\nENDPROPERTIES\nCHARS 2\n\
                STARTCHAR j\nENCODING 106\nSWIDTH 500 0\nDWIDTH 4 0\nBBX 9 3 -1 -2\nBITMAP\n\
                8080\n0100\n4000\nENDCHAR\n\
                STARTCHAR none\nENCODING -1 7\nDWIDTH 4 0\nBBX 1 1 0 0\nBITMAP\n80\nENDCHAR\nENDFONT\n";
    let font = bdf::read(file).unwrap();
    assert_eq!((font.ascent, font.descent, font.characters().collect::<String>()), (6, 2, "j".to_owned()));
    let glyph = font.glyph('j').unwrap();
    assert_eq!((glyph.left, glyph.rise, glyph.advance), (-1, 1, 4));
    assert_eq!(glyph.bitmap.to_string(), "#.......#\n.......#.\n.#.......\n");
}

#[test]
fn files_that_are_no_fonts() {
    let one = "STARTFONT 2.1\nSTARTCHAR a\nENCODING 97\nDWIDTH 4 0\nBBX 3 2 0 0\nBITMAP\nE0\nA0\nENDCHAR\nENDFONT\n";
    assert!(bdf::read(one).is_ok());
    let told = |found: &str, instead: &str| {
        assert!(one.contains(found), "{found}");
        bdf::read(&one.replacen(found, instead, 1)).unwrap_err().to_string()
    };
    insta::assert_debug_snapshot!([
        told("STARTFONT", "BEGINFONT"),
        told("DWIDTH 4 0\n", ""),
        told("BBX 3 2 0 0\n", ""),
        told("BBX 3 2 0 0", "BBX 3 2 0"),
        told("BBX 3 2 0 0", "BBX 3 -2 0 0"),
        told("BBX 3 2 0 0", "BBX 3 999 0 0"),
        told("DWIDTH 4 0", "DWIDTH four 0"),
        told("BITMAP\nE0\nA0\n", ""),
        told("E0\n", ""),
        told("E0\n", "E0\nE0\n"),
        told("E0", "XY"),
        told("E0", "E"),
        told("A0\nENDCHAR\nENDFONT\n", ""),
        told("ENCODING 97", "ENCODING -1"),
    ], @r#"
    [
        "line 1: this is not a BDF file: one begins with STARTFONT",
        "line 5: the character has no DWIDTH",
        "line 5: the character has no BBX",
        "line 5: BBX wants four numbers: width, height, left and bottom",
        "line 5: BBX wants four numbers: width, height, left and bottom",
        "line 5: a character of 3x999 dots; 256 is the most for either side",
        "line 4: DWIDTH wants how far the pen goes on",
        "line 6: the character has no BITMAP",
        "line 8: the bitmap has 1 row; its box has 2",
        "line 10: the bitmap has 3 rows; its box has 2",
        "line 7: 'XY' is not a row of 3 dots in hex",
        "line 7: 'E' is not a row of 3 dots in hex",
        "line 7: the file ends within a character",
        "line 10: the font has no characters with a code of Unicode",
    ]
    "#);
    assert!(bdf::read("").is_err());
}

/// Any character, as a file may have it.
fn glyph() -> impl Strategy<Value = Glyph> {
    (0..20_usize, 0..12_usize, -3..3_isize, -3..12_isize, 0..20_usize, any::<u64>()).prop_map(
        |(width, height, left, rise, advance, seed)| {
            let mut bitmap = Bitmap::dark(width, height);
            for y in 0..height {
                for x in 0..width {
                    bitmap.set(x, y, seed.rotate_left((7 * x + 13 * y) as u32) & 1 == 1);
                }
            }
            Glyph { bitmap, left, rise, advance }
        },
    )
}

proptest! {
    #[test]
    fn what_is_written_is_read(glyphs in prop::collection::btree_map(any::<char>(), glyph(), 1..8), ascent in 0..12_usize, descent in 0..4_usize) {
        let mut font = Font::empty("any".to_owned(), ascent, descent);
        glyphs.into_iter().for_each(|(character, glyph)| font.draw(character, glyph));
        prop_assert_eq!(bdf::read(&bdf::write(&font)), Ok(font));
    }

    /// A file with some of its text changed is read or refused, and a line can be set in what was read.
    #[test]
    fn any_file_is_read_or_refused(at in 0..3_000_usize, cut in 0..40_usize, put in "[A-Z0-9 \n-]{0,12}") {
        let file = std::fs::read_to_string(folder().join("board.bdf")).unwrap();
        let head: String = file.chars().take(3_000).collect();
        let text: String = head.chars().take(at).chain(put.chars()).chain(head.chars().skip(at + cut)).collect();
        if let Ok(font) = bdf::read(&text) {
            let text: String = font.characters().filter(|character| !font.missing(&character.to_string()).contains(character)).collect();
            let _ = font.set(&text, Setting { spacing: -2, fitting: Fitting::Kerned });
        }
    }

    /// Kerned or not, a line has every dot of its characters, and none touches its neighbour's that did not before.
    #[test]
    fn characters_come_nearer_and_never_touch(text in "[A-Za-z0-9.,:;]{2}") {
        let font = own::called("board").unwrap();
        let dots = |text: &str, fitting| font.set(text, Setting { spacing: 0, fitting }).unwrap().lit().count();
        let apart = dots(&text, Fitting::Plain);
        prop_assert_eq!(dots(&text, Fitting::Kerned), apart, "a dot is lost where two meet");
        let line = font.set(&text, Setting { spacing: 0, fitting: Fitting::Kerned }).unwrap();
        let first = font.glyph(text.chars().next().unwrap()).unwrap();
        let own: Vec<_> = first.bitmap.lit().collect();
        for (x, y) in line.lit().filter(|dot| !own.contains(dot)) {
            let touches = own.iter().any(|(a, b)| a.abs_diff(x) <= 1 && b.abs_diff(y) <= 1);
            prop_assert!(!touches, "({x}, {y}) in\n{line}");
        }
    }
}
