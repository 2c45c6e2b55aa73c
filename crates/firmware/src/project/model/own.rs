//! The tables from which hand-written source draws for a person's own program.

use serde::Serialize;

use crate::project::error::{CannotWrite, ProjectError};
use crate::project::names::Names;
use crate::project::sending::{Place, Sending};
use spare_tile_core::face::{Element, Face};

/// The most lamps and colons that a program counts by the bits of a word.
const MOST_LAMPS: usize = 16;
/// The largest image whose bits a place can name.
const MOST_BYTES: usize = 0x3FFF / 8;
/// In place of the lamp of a colon that is not there.
const NO_LAMP: u8 = 255;
/// The place of a light without a wire; bits that a place may have besides.
const NO_PLACE: u16 = 0xFFFF;
const IN_EVERY_SLOT: u16 = 0x8000;
const LIT_LOW: u16 = 0x4000;

/// The tables of a display of digits.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct OwnModel {
    /// How many digits.
    pub count: usize,
    /// How many segments each has, with its point.
    pub segments: usize,
    /// True if every digit has a point.
    pub has_points: bool,
    /// True if a colon in a text takes no digit.
    pub has_colons: bool,
    /// Where each segment of each digit is in the image, digit by digit, and behind them each lamp: eight times the byte and the bit,
    /// with what a place may have besides.
    pub places: Vec<Vec<u16>>,
    /// Before each digit and behind the last: the lamp that is a colon there.
    pub colons: Vec<u8>,
    /// The lamps and colons.
    pub lamps: Vec<OwnLamp>,
    /// The segments of the figures 0 to F, and of the minus.
    pub figures: Vec<u32>,
    /// The segments of the printable characters, from the blank on; none of what the segments cannot form.
    pub glyphs: Vec<u32>,
    /// The bytes of a slot, where the image has several.
    pub slot_bytes: usize,
}

/// A lamp or colon.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct OwnLamp {
    /// Its name in the rig.
    pub name: String,
    /// Its name in the source.
    pub id: String,
}

impl OwnModel {
    /// The tables of a face with digits.
    ///
    /// # Errors
    /// If it has dots, more lamps than fit a word, or a larger image than a place can name.
    pub(in crate::project) fn of(
        face: &Face,
        sending: &Sending,
        id: &str,
        names: &mut Names,
    ) -> Result<Self, ProjectError> {
        let cannot = |why| ProjectError::Content { face: face.name.clone(), why };
        if face.dots().is_some() {
            return Err(cannot(CannotWrite::OwnDots));
        }
        if face.extras.len() > MOST_LAMPS {
            return Err(cannot(CannotWrite::OwnLamps { found: face.extras.len(), most: MOST_LAMPS }));
        }
        if sending.dark.len() > MOST_BYTES {
            return Err(cannot(CannotWrite::OwnImage { most: MOST_BYTES }));
        }
        let place = |element: Element| sending.place(element).map_or(NO_PLACE, place_word);
        let segments = face.style().segment_count();
        let of_digit =
            |digit: usize| (0..segments).map(|segment| place(face.element(digit, segment))).collect();
        let mut places: Vec<Vec<u16>> = (0..face.digits()).map(of_digit).collect();
        if !face.extras.is_empty() {
            places.push((0..face.extras.len()).map(|extra| place(face.extra(extra))).collect());
        }
        let colon =
            |before: usize| face.colon(before).and_then(|lamp| u8::try_from(lamp).ok()).unwrap_or(NO_LAMP);
        let lamps = face.extras.iter().map(|extra| {
            let id = names.make("lamp", &format!("{id} {}", extra.name))?.to_uppercase();
            Ok(OwnLamp { name: extra.name.clone(), id })
        });
        let lit = |character: char| -> u32 {
            face.own_glyphs.glyph(face.style(), character).map_or(0, |glyph| glyph.segments.0)
        };
        let [slots, slot, ..] = sending.strides();
        Ok(Self {
            count: face.digits(),
            segments,
            has_points: face.points,
            has_colons: face.has_colons(),
            places,
            colons: (0..=face.digits()).map(colon).collect(),
            lamps: lamps.collect::<Result<_, ProjectError>>()?,
            figures: "0123456789ABCDEF-".chars().map(lit).collect(),
            glyphs: (' '..='~').map(lit).collect(),
            slot_bytes: if slots > 1 { slot } else { 0 },
        })
    }
}

/// A place in a word.
fn place_word(place: Place) -> u16 {
    let bit = (8 * place.byte) as u16 | u16::from(place.bit);
    let every = if place.in_all { IN_EVERY_SLOT } else { 0 };
    bit | every | if place.lit { 0 } else { LIT_LOW }
}
