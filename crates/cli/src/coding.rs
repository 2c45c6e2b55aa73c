//! How sets of segments become bytes: style, polarity and bit order, from options or from a rig.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use spare_tile_core::face::{Colour, Face, Grid, Light};
use spare_tile_core::glyph::{BitOrder, Common, OwnGlyphs, Style};

use crate::failure::Failure;
use crate::rigs::{FaceOfRig, GlyphFile, RigFile};
use crate::session::Session;

/// Style, polarity and bit order. With --rig they are taken from a face, and the other options still override
/// them.
#[derive(Args)]
pub struct CodingArgs {
    /// How many segments a digit has: seven, fourteen or sixteen [default: seven]
    #[arg(long, value_parser = style)]
    style: Option<Style>,
    /// Which side of the digit's lights is joined: with a common cathode a 1 lights, with an anode a 0
    #[arg(long, value_enum)]
    common: Option<CommonSide>,
    /// The segments on the bits, most significant first, - for an unused bit [default: dp g f e d c b a]
    #[arg(long, value_name = "NAMES")]
    bit_order: Option<String>,
    /// Take style, common side, bit order and own glyphs from a face of this rig file
    #[arg(short, long, value_name = "FILE")]
    rig: Option<PathBuf>,
    /// The face of the rig
    #[arg(short, long, value_name = "NAME", requires = "rig")]
    face: Option<String>,
    #[command(flatten)]
    glyphs: GlyphFile,
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
pub struct Coding {
    pub order: BitOrder,
    /// The rig's face, or one made up that is as long as a text may be.
    pub face: Face,
}

impl Coding {
    pub const fn style(&self) -> Style {
        self.order.style()
    }
}

impl CodingArgs {
    /// The coding that the options ask for, and for what they leave open the rig's face, or the usual one.
    pub fn coding(&self, session: &Session<'_>) -> Result<Coding, Failure> {
        let mut coding = match self.of_face(session)? {
            Some(coding) => coding,
            None => made_up(self.style.unwrap_or(Style::Seven)),
        };
        if let Some(style) = self.style.filter(|style| *style != coding.style()) {
            let common = coding.face.common;
            coding = made_up(style);
            coding.face.common = common;
        }
        if let Some(names) = &self.bit_order {
            coding.order = BitOrder::parse(names, coding.style())
                .map_err(|error| Failure::unusable_plainly(format!("--bit-order: {error}")))?;
            coding.face.points = coding.order.bit_of(coding.style().point_index()).is_some();
        }
        match self.common {
            Some(CommonSide::Cathode) => coding.face.common = Common::Cathode,
            Some(CommonSide::Anode) => coding.face.common = Common::Anode,
            None => {}
        }
        self.glyphs.add_to(&mut coding.face)?;
        Ok(coding)
    }

    fn of_face(&self, session: &Session<'_>) -> Result<Option<Coding>, Failure> {
        let Some(rig) = self.rig.clone() else { return Ok(None) };
        let face_of_rig = FaceOfRig { file: RigFile { rig }, face: self.face.clone() };
        let rig = face_of_rig.load(session)?;
        let mount = face_of_rig.pick(&rig)?;
        Ok(Some(Coding { order: mount.drive.bit_order.clone(), face: mount.face.clone() }))
    }
}

/// The usual order, on a face of common-cathode digits.
fn made_up(style: Style) -> Coding {
    let face = Face {
        name: "text".to_owned(),
        style,
        digits: Face::MAX_DIGITS,
        dots: Grid::default(),
        extras: Vec::new(),
        points: true,
        own_glyphs: OwnGlyphs::default(),
        common: Common::Cathode,
        light: Light::of(Colour::default()),
    };
    Coding { order: BitOrder::usual(style), face }
}
