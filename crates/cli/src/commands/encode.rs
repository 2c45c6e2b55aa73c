//! `encode`: each character's segments, bits and bytes.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use serde::Serialize;
use spare_tile_core::glyph::{BitOrder, Common, Segments, Style, text};

use crate::args::Base;
use crate::failure::{Failure, Outcome};
use crate::rigs::{FaceOfRig, RigFile};
use crate::session::Session;
use crate::view::lines;

/// Show each character's segments, bits and bytes
///
/// Needs no rig file; with --rig the face's style, common side and bit order are taken from it, and the
/// options below still override them.
#[derive(Args)]
pub struct Encode {
    /// What to encode
    #[arg(allow_negative_numbers = true)]
    text: String,
    /// How many segments a digit has
    #[arg(long, value_parser = style)]
    style: Option<Style>,
    /// Which side of the digit's lights is joined: with a common cathode a 1 lights, with an anode a 0
    #[arg(long, value_enum)]
    common: Option<CommonSide>,
    /// The segments on the bits, most significant first [default: dp g f e d c b a]
    #[arg(long, value_name = "NAMES")]
    bit_order: Option<String>,
    /// How bytes are written
    #[arg(long, value_enum, default_value = "hex")]
    base: Base,
    /// Print the bytes alone, on one line
    #[arg(long)]
    plain: bool,
    /// Take style, common side and bit order from a face of this rig file
    #[arg(short, long, value_name = "FILE")]
    rig: Option<PathBuf>,
    /// The face of the rig
    #[arg(short, long, value_name = "NAME", requires = "rig")]
    face: Option<String>,
}

/// Which side of a digit's lights is joined, on the command line.
#[derive(ValueEnum, Clone, Copy)]
enum CommonSide {
    Cathode,
    Anode,
}

fn style(name: &str) -> Result<Style, String> {
    let known = Style::ALL.iter().find(|style| style.name() == name);
    let names = || Style::ALL.iter().map(|style| style.name()).collect::<Vec<_>>().join(", ");
    known.copied().ok_or_else(|| format!("the styles are {}", names()))
}

/// How a set of segments becomes bytes.
struct Coding {
    order: BitOrder,
    common: Common,
}

/// One character, encoded.
struct Encoded {
    cell: text::Cell,
    segments: Segments,
    bits: u32,
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
    character: char,
    point: bool,
    position: usize,
    segments: Vec<&'a str>,
    bits: String,
    bytes: Vec<String>,
}

/// Runs `encode`.
pub fn run(encode: &Encode, session: &mut Session<'_>) -> Outcome {
    let coding = coding(encode, session)?;
    let encoded =
        encode_text(&encode.text, &coding).map_err(|error| Failure::of_text(&error, &encode.text))?;
    if session.json {
        session.write_json(&answer(&encoded, &coding, encode.base))
    } else if encode.plain {
        let bytes: Vec<_> = encoded.iter().flat_map(|encoded| coding.bytes(encoded.bits)).collect();
        Ok(writeln!(session.out, "{}", encode.base.write_all(&bytes))?)
    } else {
        print(&encoded, &coding, encode.base, session)
    }
}

/// The coding that the options ask for, and for what they leave open the rig's face, or the usual one.
fn coding(encode: &Encode, session: &Session<'_>) -> Result<Coding, Failure> {
    let face_of_rig =
        encode.rig.clone().map(|rig| FaceOfRig { file: RigFile { rig }, face: encode.face.clone() });
    let of_face = match &face_of_rig {
        None => None,
        Some(face_of_rig) => {
            let rig = face_of_rig.load(session)?;
            let mount = face_of_rig.pick(&rig)?;
            Some(Coding { order: mount.drive.bit_order.clone(), common: mount.face.common })
        }
    };
    let mut coding =
        of_face.unwrap_or_else(|| Coding { order: BitOrder::usual(Style::Seven), common: Common::Cathode });
    if let Some(style) = encode.style.filter(|style| *style != coding.order.style()) {
        coding.order = BitOrder::usual(style);
    }
    if let Some(names) = &encode.bit_order {
        coding.order = BitOrder::parse(names, coding.order.style())
            .map_err(|error| Failure::unusable_plainly(format!("--bit-order: {error}")))?;
    }
    match encode.common {
        Some(CommonSide::Cathode) => coding.common = Common::Cathode,
        Some(CommonSide::Anode) => coding.common = Common::Anode,
        None => {}
    }
    Ok(coding)
}

impl Coding {
    /// The bytes of some bits, most significant first.
    fn bytes(&self, bits: u32) -> impl Iterator<Item = u8> + use<> {
        let count = self.order.width().div_ceil(8);
        bits.to_be_bytes().into_iter().skip(4 - count)
    }
}

fn encode_text(text: &str, coding: &Coding) -> Result<Vec<Encoded>, text::TextError> {
    let encode = |cell: text::Cell| {
        let segments = cell.segments(coding.order.style())?;
        Ok(Encoded { cell, segments, bits: coding.order.bits(segments, coding.common) })
    };
    text::cells(text).map(encode).collect()
}

fn answer<'a>(encoded: &[Encoded], coding: &'a Coding, base: Base) -> Answer<'a> {
    let style = coding.order.style();
    let characters = encoded.iter().map(|encoded| CharacterAnswer {
        character: encoded.cell.character,
        point: encoded.cell.point,
        position: encoded.cell.position,
        segments: encoded.segments.names(style).collect(),
        bits: format!("{:0width$b}", encoded.bits, width = coding.order.width()),
        bytes: coding.bytes(encoded.bits).map(|byte| base.write(byte)).collect(),
    });
    Answer {
        style: style.name(),
        common: coding.common.name(),
        bit_order: coding.order.names().collect(),
        characters: characters.collect(),
    }
}

/// A row a character, each three lines high for its drawing.
fn print(encoded: &[Encoded], coding: &Coding, base: Base, session: &mut Session<'_>) -> Outcome {
    let style = coding.order.style();
    let level = if coding.common.lit_level() { "1 lights" } else { "0 lights" };
    writeln!(session.out, "{style} segments, common {}: {level}", coding.common.name())?;
    let names: Vec<_> = coding.order.names().collect();
    let lit_width = style.segment_names().join(" ").len();
    let heading = format!("{:15}{:lit_width$}   {}   {}", "", "lit", names.join(" "), base.name());
    writeln!(session.out, "{}", session.bold(&heading))?;
    for encoded in encoded {
        let [top, middle, foot] = lines::small(encoded.segments);
        let name = format!("'{}{}'", encoded.cell.character, if encoded.cell.point { "." } else { "" });
        let lit: Vec<_> = encoded.segments.names(style).collect();
        let lit = lit.join(" ");
        let bits = bits_under(&names, encoded.bits);
        let bytes = base.write_all(&coding.bytes(encoded.bits).collect::<Vec<_>>());
        writeln!(session.out, "{}", format!("   {top}").trim_end())?;
        writeln!(session.out, "   {middle}   {name:4} {lit:lit_width$}   {bits}   {bytes}")?;
        writeln!(session.out, "{}", format!("   {foot}").trim_end())?;
    }
    Ok(())
}

/// Each bit under the last letter of its segment's name.
fn bits_under(names: &[&str], bits: u32) -> String {
    let bit = |place: usize| bits >> (names.len() - 1 - place) & 1;
    let columns = names.iter().enumerate().map(|(place, name)| format!("{:>1$}", bit(place), name.len()));
    columns.collect::<Vec<_>>().join(" ")
}
