//! `encode`: each character's segments, bits and bytes.

use clap::Args;
use serde::Serialize;
use spare_tile_core::content::legibility;
use spare_tile_core::content::number::Room;
use spare_tile_core::content::text::{self, Cell, Shows, Spot, TextError};
use spare_tile_core::glyph::{Grade, Segments};

use crate::coding::{Coding, CodingArgs};
use crate::failure::{Failure, Outcome};
use crate::options::Base;
use crate::session::Session;
use crate::view::columns::broken;
use crate::view::rows;
use crate::words::Words;

/// Show each character's segments, bits and bytes
///
/// Needs no rig file. A character that another may be taken for, or that the style cannot draw, is said to be.
#[derive(Args)]
#[command(mut_arg("text", |text| text.required(true)))]
pub struct Encode {
    /// The most digits of a number, up to 64
    ///
    /// Example: spare-tile encode 3.14159 --shortest --digits 4
    #[arg(long, value_name = "N", default_value = "64", hide_default_value = true,
          value_parser = clap::value_parser!(u8).range(1..=64))]
    digits: u8,
    /// How bytes are written
    ///
    /// Example: spare-tile encode 8 --base bin
    #[arg(long, value_enum, default_value = "hex")]
    base: Base,
    /// Print the bytes alone, on one line
    ///
    /// Example: spare-tile encode "07:58" --plain
    #[arg(long)]
    plain: bool,
    #[command(flatten)]
    words: Words,
    #[command(flatten)]
    coding: CodingArgs,
}

/// One cell, encoded.
struct Encoded {
    /// The character, or the names in their braces.
    name: String,
    point: bool,
    position: usize,
    lights: Lights,
    /// How well a character is read; a pattern in braces needs no reading.
    grade: Option<Grade>,
    mistaken_for: Vec<char>,
}

/// The segments of a cell.
enum Lights {
    /// A digit: its segments, and their bits.
    Digit(Segments, u32),
    /// Colons and lamps, which have no place in a digit's byte.
    Extras(Vec<String>),
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
    let words = encode
        .words
        .text(&coding.face, Room { digits: usize::from(encode.digits), points: coding.face.points })?;
    let encoded = encode_text(&words, &coding).map_err(|error| Failure::of_text(&error, &words))?;
    encode.words.check_legible(&words, &coding.face, session)?;
    if session.json {
        session.write_json(&answer(&encoded, &coding, encode.base))
    } else if encode.plain {
        let bytes: Vec<_> = encoded.iter().flat_map(|encoded| encoded.bytes(&coding)).collect();
        Ok(writeln!(session.out, "{}", encode.base.write_all(&bytes))?)
    } else {
        print(&encoded, &coding, encode.base, session)
    }
}

fn encode_text(words: &str, coding: &Coding) -> Result<Vec<Encoded>, TextError> {
    let mut digits = 0;
    let encode = |cell: Cell<'_>| {
        let lights = match text::spot(cell, &coding.face, digits)? {
            Spot::Digit(segments) => {
                digits += 1;
                Lights::Digit(segments, coding.order.bits(segments, coding.polarity))
            }
            Spot::Extras(extras) => Lights::Extras(
                extras.into_iter().map(|extra| coding.face.extras[extra].name.clone()).collect(),
            ),
        };
        Ok(encode_cell(cell, lights, coding))
    };
    text::cells(words, coding.face.points).map(encode).collect()
}

fn encode_cell(cell: Cell<'_>, lights: Lights, coding: &Coding) -> Encoded {
    let (style, own) = (coding.style(), &coding.face.own_glyphs);
    let (name, grade, mistaken_for) = match (cell.shows, &lights) {
        (Shows::Character(character), Lights::Digit(..)) => {
            let clashes =
                if own.has(character) { Vec::new() } else { legibility::mistaken_for(style, character) };
            let grade = own.glyph(style, character).map(|glyph| glyph.grade);
            (character.to_string(), grade, clashes)
        }
        (Shows::Character(character), Lights::Extras(_)) => (character.to_string(), None, Vec::new()),
        (Shows::Named(names), _) => (format!("{{{names}}}"), None, Vec::new()),
        (Shows::Unclosed, _) => (String::new(), None, Vec::new()),
    };
    Encoded { name, point: cell.point, position: cell.position, lights, grade, mistaken_for }
}

fn answer<'a>(encoded: &'a [Encoded], coding: &'a Coding, base: Base) -> Answer<'a> {
    let style = coding.style();
    let characters = encoded.iter().map(|encoded| CharacterAnswer {
        character: &encoded.name,
        point: encoded.point,
        position: encoded.position,
        segments: encoded.lit(coding),
        bits: match encoded.lights {
            Lights::Digit(_, bits) => format!("{bits:0width$b}", width = coding.order.width()),
            Lights::Extras(_) => String::new(),
        },
        bytes: encoded.bytes(coding).into_iter().map(|byte| base.write(byte)).collect(),
        grade: encoded.grade.map(Grade::name),
        mistaken_for: &encoded.mistaken_for,
    });
    Answer {
        style: style.name(),
        common: coding.face.common.name(),
        bit_order: coding.order.names().collect(),
        characters: characters.collect(),
    }
}

/// A row a character, as high as its drawing. Where all does not fit beside it on one line, what it lights comes below.
fn print(encoded: &[Encoded], coding: &Coding, base: Base, session: &mut Session<'_>) -> Outcome {
    let style = coding.style();
    writeln!(session.out, "{style} segments, {}", coding.polarity_words())?;
    let names: Vec<_> = coding.order.names().collect();
    let lit = |encoded: &Encoded| encoded.lit(coding).join(" ");
    let lit_width = encoded.iter().map(|encoded| lit(encoded).len()).max().unwrap_or(0).max(15);
    let byte_width = (base.write(0xFF).len() + 1) * coding.order.byte_count() - 1;
    let byte_width = byte_width.max(base.name().len());
    let (indent, order) = (rows::indent(style), names.join(" "));
    let read_width = encoded.iter().map(|encoded| encoded.read().len()).max().unwrap_or(0).max("read".len());
    let width = indent + 5 + lit_width + 3 + order.len() + 3 + byte_width + 3 + read_width;
    let fits = width <= session.columns;
    // Sixteen segments in binary do not even leave room for their bytes.
    let bytes_fit = indent + 5 + order.len() + 3 + byte_width <= session.columns;
    let heading = if fits {
        format!("{:indent$}     {:lit_width$}   {order}   {:byte_width$}   read", "", "lit", base.name())
    } else {
        format!("{:indent$}     {order}   {}", "", if bytes_fit { base.name() } else { "" })
            .trim_end()
            .to_owned()
    };
    writeln!(session.out, "{}", session.bold(&heading))?;
    for encoded in encoded {
        let name =
            if encoded.name.starts_with('{') { String::new() } else { format!("'{}'", encoded.full_name()) };
        let (segments, bits) = match encoded.lights {
            Lights::Digit(segments, bits) => (segments, rows::bits_under(&names, bits)),
            Lights::Extras(_) => (Segments::NONE, " ".repeat(order.len())),
        };
        let (lit, bytes, read) = (lit(encoded), base.write_all(&encoded.bytes(coding)), encoded.read());
        let texts = if fits {
            vec![format!("{name:4} {lit:lit_width$}   {bits}   {bytes:byte_width$}   {read}")]
        } else {
            let beside = if bytes_fit { bytes.as_str() } else { "" };
            let below = if bytes_fit { format!("{lit}; {read}") } else { format!("{bytes}; {lit}; {read}") };
            let below = broken(&below, session.columns.saturating_sub(indent + 5))
                .into_iter()
                .map(|line| format!("{:4} {line}", ""))
                .collect::<Vec<_>>();
            std::iter::once(format!("{name:4} {bits}   {beside}")).chain(below).collect()
        };
        writeln!(session.out, "{}", rows::row(segments, style, &texts))?;
    }
    Ok(())
}

impl Encoded {
    /// The names of what it lights.
    fn lit<'a>(&'a self, coding: &Coding) -> Vec<&'a str> {
        match &self.lights {
            Lights::Digit(segments, _) => segments.names(coding.style()).collect(),
            Lights::Extras(names) => names.iter().map(String::as_str).collect(),
        }
    }

    fn bytes(&self, coding: &Coding) -> Vec<u8> {
        match self.lights {
            Lights::Digit(_, bits) => coding.order.bytes(bits).collect(),
            Lights::Extras(_) => Vec::new(),
        }
    }

    fn full_name(&self) -> String {
        format!("{}{}", self.name, if self.point { "." } else { "" })
    }

    /// How it is read, in words.
    fn read(&self) -> String {
        let clashes: Vec<_> = self.mistaken_for.iter().map(char::to_string).collect();
        match (self.grade, clashes.is_empty()) {
            (None, _) if matches!(self.lights, Lights::Extras(_)) => "beside the digits".to_owned(),
            (None, _) => "as written".to_owned(),
            (Some(grade), true) => grade.name().to_owned(),
            (Some(grade), false) => format!("{}; like {}", grade.name(), clashes.join(" ")),
        }
    }
}
