//! Fonts as files: the Glyph Bitmap Distribution Format, version 2.1, as far as it matters for dots.
//!
//! A file has a head with the font's metrics, and for each character its code, how far the pen goes on (`DWIDTH`), its box
//! (`BBX width height left bottom`, from the pen and the line that it stands on), and its rows in hex.

use std::fmt::Write;

use super::Bitmap;
use super::font::{Font, Glyph};
use crate::units::counted;

/// The most characters of a font, and columns or rows of a character: more is a mistake.
const MOST_GLYPHS: usize = 65_536;
const MOST_SIDE: usize = 256;

/// The reason why a file is not a font.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {problem}")]
pub struct BdfError {
    /// Where, from 1.
    pub line: usize,
    /// The error.
    pub problem: BdfProblem,
}

/// An error in such a file.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum BdfProblem {
    #[error("this is not a BDF file: one begins with STARTFONT")]
    NoStart,
    #[error("{keyword} wants {wants}")]
    Numbers { keyword: &'static str, wants: &'static str },
    #[error("the character has no {keyword}")]
    NoMetric { keyword: &'static str },
    #[error("a character of {width}x{height} dots; {MOST_SIDE} is the most for either side")]
    TooLarge { width: usize, height: usize },
    #[error("more than {MOST_GLYPHS} characters")]
    TooMany,
    #[error("'{found}' is not a row of {width} dots in hex")]
    Row { found: String, width: usize },
    #[error("the bitmap has {}; its box has {height}", counted(*found, "row", "rows"))]
    Rows { found: usize, height: usize },
    #[error("the file ends within a character")]
    Ends,
    #[error("the font has no characters with a code of Unicode")]
    NoGlyphs,
}

/// A character that is being read.
#[derive(Default)]
struct Draft {
    code: Option<u32>,
    advance: Option<usize>,
    /// Width, height, left, bottom.
    bounds: Option<(usize, usize, isize, isize)>,
}

/// Reads a font. What it has besides the dots (names, sizes in points, other properties) is passed over.
///
/// # Errors
/// Where the file is none, and why.
pub fn read(source: &str) -> Result<Font, BdfError> {
    let at = |line: usize, problem| BdfError { line: line + 1, problem };
    let mut lines = source.lines().map(str::trim).enumerate();
    if !lines.next().is_some_and(|(_, first)| first.starts_with("STARTFONT")) {
        return Err(at(0, BdfProblem::NoStart));
    }
    let mut font = Font::empty(String::new(), 0, 0);
    let (mut ascent, mut descent, mut bounds) = (None, None, None);
    let mut draft: Option<Draft> = None;
    let mut last = 0;
    while let Some((number, line)) = lines.next() {
        last = number;
        let (keyword, rest) = line.split_once(char::is_whitespace).unwrap_or((line, ""));
        let rest = rest.trim();
        match (keyword, &mut draft) {
            ("FONT", None) => font.name = rest.replace(char::is_control, " "),
            ("FONT_ASCENT", None) => {
                ascent = Some(number_of(rest, "FONT_ASCENT", "a number of rows", number)?);
            }
            ("FONT_DESCENT", None) => {
                descent = Some(number_of(rest, "FONT_DESCENT", "a number of rows", number)?);
            }
            ("FONTBOUNDINGBOX", None) => bounds = Some(bounds_of(rest, "FONTBOUNDINGBOX", number)?),
            ("STARTCHAR", _) => draft = Some(Draft::default()),
            ("ENCODING", Some(draft)) => {
                // A character without a code has -1, and perhaps another number after it.
                draft.code = rest.split_whitespace().next().and_then(|code| code.parse().ok());
            }
            ("DWIDTH", Some(draft)) => {
                let first = rest.split_whitespace().next().unwrap_or_default();
                draft.advance = Some(number_of(first, "DWIDTH", "how far the pen goes on", number)?);
            }
            ("BBX", Some(draft)) => {
                let found @ (width, height, ..) = bounds_of(rest, "BBX", number)?;
                if width > MOST_SIDE || height > MOST_SIDE {
                    return Err(at(number, BdfProblem::TooLarge { width, height }));
                }
                draft.bounds = Some(found);
            }
            ("BITMAP", Some(begun)) => {
                let Some((width, height, left, bottom)) = begun.bounds else {
                    return Err(at(number, BdfProblem::NoMetric { keyword: "BBX" }));
                };
                let Some(advance) = begun.advance else {
                    return Err(at(number, BdfProblem::NoMetric { keyword: "DWIDTH" }));
                };
                let code = begun.code;
                let bitmap = bitmap(&mut lines, width, height, &mut last)?;
                draft = None;
                if let Some(character) = code.and_then(char::from_u32) {
                    if font.glyphs.len() >= MOST_GLYPHS {
                        return Err(at(number, BdfProblem::TooMany));
                    }
                    let glyph = Glyph { bitmap, left, rise: bottom + height as isize, advance };
                    font.draw(character, glyph);
                }
            }
            ("ENDCHAR", Some(_)) => return Err(at(number, BdfProblem::NoMetric { keyword: "BITMAP" })),
            ("ENDFONT", None) => break,
            _ => {}
        }
    }
    if draft.is_some() {
        return Err(at(last, BdfProblem::Ends));
    }
    if font.glyphs.is_empty() {
        return Err(at(last, BdfProblem::NoGlyphs));
    }
    // Where the properties are missing the box of the whole font tells.
    let (_, height, _, bottom) = bounds.unwrap_or((0, 0, 0, 0));
    let below = usize::try_from(-bottom).unwrap_or(0);
    font.descent = descent.unwrap_or(below).min(MOST_SIDE);
    font.ascent = ascent.unwrap_or_else(|| height.saturating_sub(below)).min(MOST_SIDE);
    Ok(font)
}

/// The rows of a character, up to its end.
fn bitmap<'s>(
    lines: &mut impl Iterator<Item = (usize, &'s str)>,
    width: usize,
    height: usize,
    last: &mut usize,
) -> Result<Bitmap, BdfError> {
    let mut bitmap = Bitmap::dark(width, height);
    for (rows, (number, line)) in lines.enumerate() {
        *last = number;
        let at = |problem| BdfError { line: number + 1, problem };
        if line == "ENDCHAR" {
            let problem = BdfProblem::Rows { found: rows, height };
            return if rows == height { Ok(bitmap) } else { Err(at(problem)) };
        }
        let wrong = || at(BdfProblem::Row { found: line.chars().take(80).collect(), width });
        // A row has whole bytes; some files have more of them than the box needs.
        if line.len() < 2 * width.div_ceil(8) || !line.bytes().all(|digit| digit.is_ascii_hexdigit()) {
            return Err(wrong());
        }
        for (place, digit) in line.chars().enumerate().take(width.div_ceil(4)) {
            let bits = digit.to_digit(16).unwrap_or(0);
            for bit in 0..4 {
                bitmap.set(4 * place + bit, rows, bits >> (3 - bit) & 1 == 1);
            }
        }
    }
    Err(BdfError { line: *last + 1, problem: BdfProblem::Ends })
}

fn number_of(text: &str, keyword: &'static str, wants: &'static str, line: usize) -> Result<usize, BdfError> {
    let number: Option<usize> = text.parse().ok().filter(|number| *number <= 4 * MOST_SIDE);
    number.ok_or(BdfError { line: line + 1, problem: BdfProblem::Numbers { keyword, wants } })
}

/// Width, height, left and bottom of a box.
fn bounds_of(
    text: &str,
    keyword: &'static str,
    line: usize,
) -> Result<(usize, usize, isize, isize), BdfError> {
    const MOST: isize = 4 * MOST_SIDE as isize;
    let numbers: Vec<isize> = text
        .split_whitespace()
        .filter_map(|number| number.parse().ok().filter(|number| (-MOST..=MOST).contains(number)))
        .collect();
    if let [width, height, left, bottom] = numbers[..]
        && let (Ok(width), Ok(height)) = (usize::try_from(width), usize::try_from(height))
    {
        return Ok((width, height, left, bottom));
    }
    let wants = "four numbers: width, height, left and bottom";
    Err(BdfError { line: line + 1, problem: BdfProblem::Numbers { keyword, wants } })
}

/// Writes a font.
#[must_use]
pub fn write(font: &Font) -> String {
    let mut text = String::new();
    let widest = font.glyphs.values().map(|glyph| glyph.bitmap.width()).max().unwrap_or(0);
    let (height, descent) = (font.height(), font.descent);
    // Writing to a string does not fail.
    let _ = write!(
        text,
        "STARTFONT 2.1\nFONT {}\nSIZE {height} 75 75\nFONTBOUNDINGBOX {widest} {height} 0 -{descent}\n\
         STARTPROPERTIES 2\nFONT_ASCENT {}\nFONT_DESCENT {descent}\nENDPROPERTIES\nCHARS {}\n",
        font.name,
        font.ascent,
        font.glyphs.len()
    );
    for (character, glyph) in &font.glyphs {
        let code = u32::from(*character);
        let (width, height) = (glyph.bitmap.width(), glyph.bitmap.height());
        let _ = write!(
            text,
            "STARTCHAR U+{code:04X}\nENCODING {code}\nSWIDTH {} 0\nDWIDTH {} 0\nBBX {width} {height} {} {}\nBITMAP\n",
            glyph.advance * 1000 / font.height().max(1),
            glyph.advance,
            glyph.left,
            glyph.rise - height as isize
        );
        for y in 0..height {
            for byte in 0..width.div_ceil(8) {
                let bits =
                    (0..8).fold(0_u8, |bits, bit| bits << 1 | u8::from(glyph.bitmap.get(8 * byte + bit, y)));
                let _ = write!(text, "{bits:02X}");
            }
            text.push('\n');
        }
        text.push_str("ENDCHAR\n");
    }
    text.push_str("ENDFONT\n");
    text
}
