//! The tables from which hand-written source draws for a person's own program.

use serde::Serialize;

use crate::project::error::{CannotWrite, ProjectError};
use crate::project::names::Names;
use crate::project::sending::{Place, Sending};
use spare_tile_core::dots;
use spare_tile_core::dots::font::{Font, Glyph};
use spare_tile_core::dots::own::{FONTS, Own};
use spare_tile_core::face::{Element, Face, Grid};

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

/// The tables of a display.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum OwnModel {
    /// Of one of digits.
    Digits(OwnDigits),
    /// Of one of dots.
    Dots(OwnDots),
}

impl OwnModel {
    /// The tables of a face.
    ///
    /// # Errors
    /// If it has more lamps than fit a word, or a larger image than a place can name.
    pub(in crate::project) fn of(
        face: &Face,
        sending: &Sending,
        id: &str,
        names: &mut Names,
    ) -> Result<Self, ProjectError> {
        match face.dots() {
            Some(grid) => OwnDots::of(grid, sending)
                .map(Self::Dots)
                .map_err(|why| ProjectError::Content { face: face.name.clone(), why }),
            None => OwnDigits::of(face, sending, id, names).map(Self::Digits),
        }
    }
}

/// The tables of a display of digits.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct OwnDigits {
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

impl OwnDigits {
    fn of(face: &Face, sending: &Sending, id: &str, names: &mut Names) -> Result<Self, ProjectError> {
        let cannot = |why| Err(ProjectError::Content { face: face.name.clone(), why });
        if face.extras.len() > MOST_LAMPS {
            return cannot(CannotWrite::OwnLamps { found: face.extras.len(), most: MOST_LAMPS });
        }
        if sending.dark.len() > MOST_BYTES {
            return cannot(CannotWrite::OwnImage { most: MOST_BYTES });
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

/// The largest image of dots, whose bits a place of 16 bits can name.
const MOST_DOT_BYTES: usize = 0x1_0000 / 8;

/// The tables of a display of dots.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct OwnDots {
    /// How many columns.
    pub width: usize,
    /// How many rows.
    pub height: usize,
    /// How many lights a dot has: one, red and green, or red, green and blue.
    pub lights: usize,
    /// True if a bit of the image is 0 while its light is lit.
    pub is_low: bool,
    /// Where each light of each dot is in the image, row by row: eight times the byte, and the bit. Empty if they are sums.
    pub places: Vec<Vec<u16>>,
    /// The parts of those sums, in 16 bits: of each column.
    pub across: Vec<u16>,
    /// Of each row.
    pub down: Vec<u16>,
    /// Of each light of a dot.
    pub of_light: Vec<u16>,
}

impl OwnDots {
    fn of(grid: Grid, sending: &Sending) -> Result<Self, CannotWrite> {
        let too_large = || CannotWrite::OwnImage { most: MOST_DOT_BYTES };
        let (Grid { width, height, .. }, lights) = (grid, grid.channels.count());
        let all: Vec<Place> = (0..width * height * lights)
            .map(|element| sending.place(Element(element)).ok_or(CannotWrite::OwnWiring))
            .collect::<Result<_, _>>()?;
        if all.iter().any(|place| place.in_all || place.lit != all[0].lit) {
            return Err(CannotWrite::OwnWiring);
        }
        let bit =
            |place: &Place| u16::try_from(8 * place.byte + usize::from(place.bit)).map_err(|_| too_large());
        let bits: Vec<u16> = all.iter().map(bit).collect::<Result<_, _>>()?;
        let at = |x: usize, y: usize, light: usize| bits[(y * width + x) * lights + light];
        // From the first light of the first dot: how much further each column, row and light is.
        let further = |place: u16| place.wrapping_sub(bits[0]);
        let across: Vec<u16> = (0..width).map(|x| at(x, 0, 0)).collect();
        let down: Vec<u16> = (0..height).map(|y| further(at(0, y, 0))).collect();
        let of_light: Vec<u16> = (0..lights).map(|light| further(at(0, 0, light))).collect();
        let sum = |(x, y): (usize, usize), light: usize| {
            across[x].wrapping_add(down[y]).wrapping_add(of_light[light])
        };
        let are_sums = dots::places(width, height)
            .all(|place| (0..lights).all(|light| at(place.0, place.1, light) == sum(place, light)));
        let places =
            if are_sums { Vec::new() } else { bits.chunks(width * lights).map(<[u16]>::to_vec).collect() };
        Ok(Self { width, height, lights, is_low: !all[0].lit, places, across, down, of_light })
    }
}

/// A font, for programs that write on dots.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct FontModel {
    /// Its name.
    pub name: &'static str,
    /// Its name in the source.
    pub id: String,
    /// Its purpose.
    pub about: &'static str,
    /// How many rows.
    pub height: usize,
    /// How many dark columns stand behind each character.
    pub room: usize,
    /// The first column of each character from the blank to the tilde, and the end of the last one.
    pub begins: Vec<u32>,
    /// The columns, each with the top row in the lowest bit.
    pub columns: Vec<u32>,
}

impl FontModel {
    /// The fonts that are at most this high.
    pub(in crate::project) fn all(height: usize) -> Vec<Self> {
        let fonts = FONTS.iter().filter_map(|own| Some((own, own.load()?)));
        fonts.filter(|(_, font)| font.height() <= height).map(|(own, font)| Self::of(own, &font)).collect()
    }

    fn of(own: &Own, font: &Font) -> Self {
        let (mut begins, mut columns) = (vec![0], Vec::new());
        for character in ' '..='~' {
            if let Some(glyph) = font.glyph(character) {
                columns.extend((0..glyph.advance).map(|column| column_of(font, glyph, column)));
            }
            begins.push(columns.len() as u32);
        }
        let room = |glyph: &Glyph| glyph.advance.saturating_sub(glyph.bitmap.width());
        Self {
            name: own.name,
            id: format!("font_{}", own.name.replace('-', "_")),
            about: own.about,
            height: font.height(),
            room: font.glyph('0').map_or(0, room),
            begins,
            columns,
        }
    }
}

/// A column of a character, counted from where the pen stands.
fn column_of(font: &Font, glyph: &Glyph, column: usize) -> u32 {
    let bitmap = &glyph.bitmap;
    let is_lit = |row: usize| {
        let x = usize::try_from(column as isize - glyph.left).ok().filter(|x| *x < bitmap.width());
        let y = usize::try_from(row as isize - font.ascent as isize + glyph.rise)
            .ok()
            .filter(|y| *y < bitmap.height());
        x.zip(y).is_some_and(|(x, y)| bitmap.get(x, y))
    };
    (0..font.height()).fold(0, |bits, row| bits | u32::from(is_lit(row)) << row)
}

#[cfg(test)]
mod tests {
    use spare_tile_core::dots::font::Setting;

    use super::*;

    /// No character of our fonts leaves the room of its advance, so that columns side by side are the text as the core sets it.
    #[test]
    fn fonts_are_columns_side_by_side() {
        for own in FONTS {
            let font = own.load().unwrap();
            let model = FontModel::of(own, &font);
            for character in (' '..='~').filter(|character| font.glyph(*character).is_some()) {
                let set = font.set(&character.to_string(), Setting::default()).unwrap();
                let place = character as usize - ' ' as usize;
                let [begin, end] = [place, place + 1].map(|place| model.begins[place] as usize);
                for (x, column) in model.columns[begin..end].iter().enumerate() {
                    let lit = (0..font.height()).map(|y| x < set.width() && set.get(x, y));
                    let bits = lit.enumerate().fold(0, |bits, (row, lit)| bits | u32::from(lit) << row);
                    assert_eq!(*column, bits, "{character:?} of {}, column {x}", own.name);
                }
                assert!(set.width() <= end - begin, "{character:?} of {}", own.name);
            }
        }
    }
}
