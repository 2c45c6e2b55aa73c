//! How sets of segments become bytes: style, polarity and bit order, from options or from a rig.

use std::path::PathBuf;

use clap::Args;
use clap_complete::ArgValueCompleter;
use spare_tile_core::face::{Colour, Face, Layout, Light};
use spare_tile_core::glyph::{BitOrder, Common, OwnGlyphs, Segments, Style, nearest, other_form, readings};
use spare_tile_core::part::{ByteCode, NoByte};
use spare_tile_core::plan::{Mount, Rig};

use crate::complete;
use crate::failure::Failure;
use crate::options::word;
use crate::rigs::{FaceOfRig, GlyphFile};
use crate::session::Session;

/// Style, polarity and bit order. With --rig they are taken from a face, and the other options still override
/// them.
#[derive(Args)]
#[command(next_help_heading = "Coding")]
pub struct CodingArgs {
    /// The number of segments of a digit: seven, fourteen or sixteen [default: seven]
    ///
    /// Example: spare-tile encode TEAL --style fourteen
    #[arg(long, value_parser = style)]
    style: Option<Style>,
    /// The common side of a digit: with a common cathode a 1 lights, with a common anode a 0
    ///
    /// Example: spare-tile encode 8 --common anode
    #[arg(long, value_parser = word::<Common>())]
    common: Option<Common>,
    /// The segments on the bits, most significant first, - for an unused bit [default: dp g f e d c b a]
    ///
    /// Example: spare-tile encode 8 --bit-order "a b c d e f g dp"
    #[arg(long, value_name = "NAMES", allow_hyphen_values = true)]
    bit_order: Option<String>,
    /// Take style, polarity, bit order and own glyphs from the wiring of a face of this rig file: the byte that is printed is
    /// the byte that is sent
    ///
    /// Example: spare-tile table --rig gauge.toml
    #[arg(short, long, value_name = "FILE")]
    rig: Option<PathBuf>,
    /// The face of the rig
    ///
    /// Example: spare-tile encode 8 --rig quay.toml --face minutes
    #[arg(short, long, value_name = "NAME", requires = "rig", add = ArgValueCompleter::new(complete::faces))]
    face: Option<String>,
    /// The digit of the face, from 0 at the left, if its digits are wired differently
    ///
    /// Example: spare-tile encode 8 --rig quay.toml --face crew --of-digit 1
    #[arg(long = "of-digit", value_name = "N", requires = "rig")]
    digit: Option<usize>,
    #[command(flatten)]
    glyphs: GlyphFile,
}

fn style(name: &str) -> Result<Style, String> {
    let known = Style::ALL.iter().find(|style| style.name() == name);
    let names = || Style::ALL.iter().map(|style| style.name()).collect::<Vec<_>>().join(", ");
    known.copied().ok_or_else(|| format!("the styles are {}", names()))
}

/// How a set of segments becomes bytes.
pub struct Coding {
    pub order: BitOrder,
    /// The polarity: with a common cathode a 1 lights, with an anode a 0.
    pub polarity: Common,
    /// The rig's face, or one made up that is as long as a text may be.
    ///
    /// Example: spare-tile encode 8 --rig quay.toml --face minutes
    pub face: Face,
}

impl Coding {
    pub const fn style(&self) -> Style {
        self.order.style()
    }

    /// The common side and what lights, in words.
    pub fn polarity_words(&self) -> String {
        format!("common {}: a {} lights", self.face.common.name(), u8::from(self.polarity.lit_level()))
    }
}

/// How a character is read off segments.
impl Coding {
    /// The characters that these segments may be, own ones first and other forms of digits last; the point is none of them.
    pub fn characters_of(&self, segments: Segments) -> Vec<char> {
        let own = self.face.own_glyphs.readings(segments);
        let known = readings(self.style(), segments).into_iter().map(|(character, _)| character);
        own.chain(known).chain(other_form(self.style(), segments)).collect()
    }

    /// The characters that these segments may be, or the nearest one, in words.
    pub fn read_words(&self, segments: Segments) -> String {
        let style = self.style();
        let (bare, point) = (segments.less(style.point()), segments.has(style.point()));
        let read: Vec<_> =
            self.characters_of(bare).iter().map(|character| format!("'{character}'")).collect();
        let point = if point { " and the point" } else { "" };
        match nearest(style, bare) {
            _ if !read.is_empty() => format!("{}{point}", read.join(" or ")),
            Some((character, wanted)) => {
                let parts = differences(wanted.less(bare), bare.less(wanted), style);
                format!("no character{point}; nearest '{character}', {parts}")
            }
            None => format!("no character{point}"),
        }
    }
}

/// The separator of two patterns, in words.
pub fn differences(lacks: Segments, extra: Segments, style: Style) -> String {
    let name = |verb: &str, group: Segments| {
        let names: Vec<_> = group.names(style).collect();
        (!names.is_empty())
            .then(|| format!("{verb} segment{} {}", if names.len() == 1 { "" } else { "s" }, names.join(" ")))
    };
    let parts: Vec<_> = [name("lacks", lacks), name("has", extra)].into_iter().flatten().collect();
    let extra = if extra == Segments::NONE { "" } else { " too much" };
    format!("{}{extra}", parts.join(" and "))
}

impl CodingArgs {
    /// Returns true if a style is asked for.
    pub const fn has_style(&self) -> bool {
        self.style.is_some()
    }

    /// The coding that the options ask for, and for what they leave open the rig's face, or the usual one.
    pub fn coding(&self, session: &Session<'_>) -> Result<Coding, Failure> {
        let mut coding = match self.of_face(session)? {
            Some(coding) => coding,
            None => made_up(self.style.unwrap_or(Style::Seven)),
        };
        if let Some(style) = self.style.filter(|style| *style != coding.style()) {
            let (common, polarity) = (coding.face.common, coding.polarity);
            coding = Coding { polarity, ..made_up(style) };
            coding.face.common = common;
        }
        if let Some(names) = &self.bit_order {
            coding.order = BitOrder::parse(names, coding.style())
                .map_err(|error| Failure::unusable_plainly(format!("--bit-order: {error}")))?;
            coding.face.points = coding.order.bit_of(coding.style().point_index()).is_some();
        }
        if let Some(common) = self.common {
            (coding.face.common, coding.polarity) = (common, common);
        }
        self.glyphs.add_to(&mut coding.face)?;
        Ok(coding)
    }

    /// The rig that the options name.
    pub fn rig(&self, session: &Session<'_>) -> Result<Option<Rig>, Failure> {
        self.face_of_rig().map(|face_of_rig| face_of_rig.read(session)?.into_rig()).transpose()
    }

    /// The face of it that they pick.
    pub fn mount<'r>(&self, rig: &'r Rig) -> Result<&'r Mount, Failure> {
        self.face_of_rig().unwrap_or_else(|| FaceOfRig::of(PathBuf::new(), None)).pick(rig)
    }

    fn face_of_rig(&self) -> Option<FaceOfRig> {
        Some(FaceOfRig::of(self.rig.clone()?, self.face.clone()))
    }

    fn of_face(&self, session: &Session<'_>) -> Result<Option<Coding>, Failure> {
        let Some(rig) = self.rig(session)? else { return Ok(None) };
        let mount = self.mount(&rig)?;
        // An order and a side of one's own ask for nothing that the wiring says.
        if self.bit_order.is_some() && self.common.is_some() {
            let order = BitOrder::usual(mount.face.style());
            return Ok(Some(Coding { order, polarity: mount.face.common, face: mount.face.clone() }));
        }
        let ByteCode { order, polarity } = self.byte_code(mount)?;
        Ok(Some(Coding { order, polarity, face: mount.face.clone() }))
    }

    /// How the digits of a face stand in the bytes that are sent, or why they do not.
    fn byte_code(&self, mount: &Mount) -> Result<ByteCode, Failure> {
        let (face, name) = (&mount.face, &mount.face.name);
        let code = |digit| mount.drive.display().byte_code(face, digit);
        let no_byte = |error: NoByte| {
            let message = format!("face {name} has no byte for a digit: {error}");
            let help = match error {
                NoByte::Dots => "pick a face with digits",
                _ => "see what is sent: spare-tile bytes TEXT; or give --bit-order and --common yourself",
            };
            Failure::unusable(message, help)
        };
        if let Some(digit) = self.digit {
            if digit >= face.digits() {
                let message = format!("face {name} has no digit {digit}");
                let help = format!("use 0 to {}", face.digits().saturating_sub(1));
                return Err(Failure::unusable(message, help));
            }
            return code(digit).map_err(no_byte);
        }
        let first = code(0).map_err(no_byte)?;
        for digit in 1..face.digits() {
            if code(digit).map_err(no_byte)? != first {
                let message = format!("the digits of face {name} are wired differently: 0 and {digit}");
                return Err(Failure::unusable(message, "pick one, such as --of-digit 0"));
            }
        }
        Ok(first)
    }
}

/// The usual order, on a face of common-cathode digits.
fn made_up(style: Style) -> Coding {
    let face = Face {
        name: "text".to_owned(),
        layout: Layout::Digits { style, count: Face::MAX_DIGITS },
        extras: Vec::new(),
        points: true,
        own_glyphs: OwnGlyphs::default(),
        common: Common::Cathode,
        light: Light::of(Colour::default()),
        pitch_mm: None,
    };
    Coding { order: BitOrder::usual(style), polarity: Common::Cathode, face }
}
