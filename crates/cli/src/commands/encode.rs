//! `encode`: each character's segments, bits and bytes.

use clap::Args;
use serde::Serialize;
use spare_tile_core::glyph::number::Room;
use spare_tile_core::glyph::text::{self, Cell, Shows, TextError};
use spare_tile_core::glyph::{Grade, Segments, legibility};

use crate::args::Base;
use crate::coding::{Coding, CodingArgs};
use crate::failure::{Failure, Outcome};
use crate::session::Session;
use crate::view::rows;
use crate::words::Words;

/// Show each character's segments, bits and bytes
///
/// Needs no rig file. A character that another may be taken for, or that the style cannot draw, is said to be.
#[derive(Args)]
pub struct Encode {
    #[command(flatten)]
    words: Words,
    #[command(flatten)]
    coding: CodingArgs,
    /// How many digits a number may take
    #[arg(long, value_name = "N", requires = "number", default_value = "64", hide_default_value = true)]
    digits: usize,
    /// How bytes are written
    #[arg(long, value_enum, default_value = "hex")]
    base: Base,
    /// Print the bytes alone, on one line
    #[arg(long)]
    plain: bool,
}

/// One cell, encoded.
struct Encoded {
    /// The character, or the names in their braces.
    name: String,
    point: bool,
    position: usize,
    segments: Segments,
    bits: u32,
    /// How well a character is read; a pattern in braces needs no reading.
    grade: Option<Grade>,
    mistaken_for: Vec<char>,
}

#[derive(Serialize)]
struct Answer<'a> {
    style: &'a str,
    common: &'a str,
    bit_order: Vec<&'a str>,
    characters: Vec<CharacterAnswer<'a>>,
}

#[derive(Serialize)]
struct CharacterAnswer<'a> {
    character: &'a str,
    point: bool,
    position: usize,
    segments: Vec<&'a str>,
    bits: String,
    bytes: Vec<String>,
    grade: Option<&'a str>,
    mistaken_for: &'a [char],
}

/// Runs `encode`.
pub fn run(encode: &Encode, session: &mut Session<'_>) -> Outcome {
    let coding = encode.coding.coding(session)?;
    let words = encode.words.text(Room { digits: encode.digits, points: coding.has_point() })?;
    let encoded = encode_text(&words, &coding).map_err(|error| Failure::of_text(&error, &words))?;
    encode.words.check_legible(&words, coding.style(), &coding.own_glyphs, session)?;
    if session.json {
        session.write_json(&answer(&encoded, &coding, encode.base))
    } else if encode.plain {
        let bytes: Vec<_> = encoded.iter().flat_map(|encoded| coding.order.bytes(encoded.bits)).collect();
        Ok(writeln!(session.out, "{}", encode.base.write_all(&bytes))?)
    } else {
        print(&encoded, &coding, encode.base, session)
    }
}

fn encode_text(words: &str, coding: &Coding) -> Result<Vec<Encoded>, TextError> {
    text::cells(words, coding.has_point()).map(|cell| encode_cell(cell, coding)).collect()
}

fn encode_cell(cell: Cell<'_>, coding: &Coding) -> Result<Encoded, TextError> {
    let style = coding.style();
    let segments = cell.segments(style, &coding.own_glyphs)?;
    let (name, grade, mistaken_for) = match cell.shows {
        Shows::Character(character) => {
            let own = coding.own_glyphs.has(character);
            let clashes = if own { Vec::new() } else { legibility::mistaken_for(style, character) };
            let glyph = coding.own_glyphs.glyph(style, character);
            (character.to_string(), glyph.map(|glyph| glyph.grade), clashes)
        }
        Shows::Named(names) => (format!("{{{names}}}"), None, Vec::new()),
        Shows::Unclosed => (String::new(), None, Vec::new()),
    };
    let bits = coding.order.bits(segments, coding.common);
    Ok(Encoded { name, point: cell.point, position: cell.position, segments, bits, grade, mistaken_for })
}

fn answer<'a>(encoded: &'a [Encoded], coding: &'a Coding, base: Base) -> Answer<'a> {
    let style = coding.style();
    let characters = encoded.iter().map(|encoded| CharacterAnswer {
        character: &encoded.name,
        point: encoded.point,
        position: encoded.position,
        segments: encoded.segments.names(style).collect(),
        bits: format!("{:0width$b}", encoded.bits, width = coding.order.width()),
        bytes: coding.order.bytes(encoded.bits).map(|byte| base.write(byte)).collect(),
        grade: encoded.grade.map(Grade::name),
        mistaken_for: &encoded.mistaken_for,
    });
    Answer {
        style: style.name(),
        common: coding.common.name(),
        bit_order: coding.order.names().collect(),
        characters: characters.collect(),
    }
}

/// A row a character, as high as its drawing.
fn print(encoded: &[Encoded], coding: &Coding, base: Base, session: &mut Session<'_>) -> Outcome {
    let style = coding.style();
    writeln!(session.out, "{style} segments, {}", coding.polarity())?;
    let names: Vec<_> = coding.order.names().collect();
    let lit = |encoded: &Encoded| encoded.segments.names(style).collect::<Vec<_>>().join(" ");
    let lit_width = encoded.iter().map(|encoded| lit(encoded).len()).max().unwrap_or(0).max(15);
    let bytes = |encoded: &Encoded| base.write_all(&coding.order.bytes(encoded.bits).collect::<Vec<_>>());
    let byte_width = encoded.first().map_or(0, |encoded| bytes(encoded).len()).max(base.name().len());
    let (indent, order) = (rows::indent(style), names.join(" "));
    let heading =
        format!("{:indent$}     {:lit_width$}   {order}   {:byte_width$}   read", "", "lit", base.name());
    writeln!(session.out, "{}", session.bold(&heading))?;
    for encoded in encoded {
        let name = if encoded.grade.is_some() { format!("'{}'", encoded.full_name()) } else { String::new() };
        let bits = rows::bits_under(&names, encoded.bits);
        let (lit, bytes, read) = (lit(encoded), bytes(encoded), encoded.read());
        let text = format!("{name:4} {lit:lit_width$}   {bits}   {bytes:byte_width$}   {read}");
        writeln!(session.out, "{}", rows::row(encoded.segments, style, &text))?;
    }
    Ok(())
}

impl Encoded {
    fn full_name(&self) -> String {
        format!("{}{}", self.name, if self.point { "." } else { "" })
    }

    /// How it is read, in words.
    fn read(&self) -> String {
        let clashes: Vec<_> = self.mistaken_for.iter().map(char::to_string).collect();
        match (self.grade, clashes.is_empty()) {
            (None, _) => "as written".to_owned(),
            (Some(grade), true) => grade.name().to_owned(),
            (Some(grade), false) => format!("{}; like {}", grade.name(), clashes.join(" ")),
        }
    }
}
