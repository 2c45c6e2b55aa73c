//! Fonts and sprites as arrays for controllers.
//!
//! A font is three arrays: the code points of its characters in rising order, where the dots of each begin, and the dots. A
//! sprite is two: how long each frame stays, and the dots. Nothing is read beyond their ends.

use super::table::{TableError, checked, shown};
use spare_tile_core::content::Canvas;
use spare_tile_core::content::pictures::place;
use spare_tile_core::dots::font::Font;
use spare_tile_core::dots::raster::Raster;
use spare_tile_core::dots::sprite::Sprite;
use spare_tile_core::dots::{Bitmap, places};
use spare_tile_core::face::Element;
use spare_tile_core::frame::Level;
use spare_tile_core::plan::Mount;
use spare_tile_core::units::counted;

/// Arrays with what there is to say of them.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Data {
    /// Their name in the source, before that of each.
    pub name: String,
    /// A description, line by line.
    pub about: Vec<String>,
    /// The arrays.
    pub arrays: Vec<Array>,
    /// The array that is searched for a code point, where there is one.
    pub searched: Option<&'static str>,
}

/// One array.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Array {
    /// The suffix of its name: `dots`.
    pub suffix: &'static str,
    /// A description, in a line.
    pub about: String,
    /// Bits of each value: 8 or 16.
    pub bits: usize,
    /// Its values, row by row, each row with a word for it.
    pub rows: Vec<(Vec<u16>, String)>,
}

/// Values in a line of source.
const IN_LINE: usize = 8;

impl Array {
    /// Its values by lines of source, no longer than a page is wide, with the word for the row where one begins.
    pub(super) fn lines(&self) -> impl Iterator<Item = (Vec<String>, &str)> {
        let width = self.bits / 4;
        self.rows.iter().flat_map(move |(values, words)| {
            values.chunks(IN_LINE).enumerate().map(move |(number, values)| {
                let values = values.iter().map(|value| format!("0x{value:0width$X},")).collect();
                (values, if number == 0 { words.as_str() } else { "" })
            })
        })
    }

    /// How many values it has.
    #[must_use]
    pub fn length(&self) -> usize {
        self.rows.iter().map(|(values, _)| values.len()).sum()
    }
}

/// How dots are put into bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Packing {
    /// True if a byte is a piece of a column, or else of a row.
    pub by_columns: bool,
    /// True if bit 0 is the first of its dots, the topmost or leftmost, or else the last.
    pub from_first: bool,
}

impl Packing {
    /// Columns with the top dot in bit 0.
    pub const USUAL: Self = Self { by_columns: true, from_first: true };

    /// That of a part's own memory, told from where the dots of its upper left corner are; `None` where its bytes hold no
    /// dots beside each other.
    #[must_use]
    pub fn of(mount: &Mount) -> Option<Self> {
        let node = |x: usize, y: usize| {
            let Element(first) = mount.face.dot(x, y)?;
            mount.wiring.node(Element(first)).map(|node| node.0)
        };
        let (corner, right, below) = (node(0, 0)?, node(1, 0)?, node(0, 1)?);
        let is_beside = |other: usize| other.abs_diff(corner) == 1;
        match (is_beside(right), is_beside(below)) {
            (true, false) => Some(Self { by_columns: false, from_first: right > corner }),
            (false, true) => Some(Self { by_columns: true, from_first: below > corner }),
            _ => None,
        }
    }

    /// In words: `columns from the left, bit 0 at the top`.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match (self.by_columns, self.from_first) {
            (true, true) => "Each byte is a column, from the left; bit 0 is at the top.",
            (true, false) => "Each byte is a column, from the left; bit 7 is at the top.",
            (false, true) => "Each byte is a row, from the top; bit 0 is at the left.",
            (false, false) => "Each byte is a row, from the top; bit 7 is at the left.",
        }
    }

    /// The bytes of a bitmap: of each column, or row, as many as it takes, the first eight dots first.
    #[must_use]
    pub fn pack(self, bitmap: &Bitmap) -> Vec<u8> {
        let (strips, length) = match self.by_columns {
            true => (bitmap.width(), bitmap.height()),
            false => (bitmap.height(), bitmap.width()),
        };
        let is_lit = |strip: usize, at: usize| match self.by_columns {
            true => bitmap.get(strip, at),
            false => bitmap.get(at, strip),
        };
        let byte = |strip: usize, begin: usize| {
            let bit = |place: usize| if self.from_first { place } else { 7 - place };
            (0..8).filter(|place| is_lit(strip, begin + place)).map(|place| 1 << bit(place)).sum()
        };
        (0..strips)
            .flat_map(|strip| (0..length).step_by(8).map(move |begin| (strip, begin)))
            .map(|(strip, begin)| byte(strip, begin))
            .collect()
    }
}

/// The order in which the dots of a frame stand in bytes.
#[derive(Clone, Copy)]
pub enum Order<'m> {
    /// That of the memory of a face's parts.
    Memory(&'m Mount),
    /// Packed, of as many colours as there are one after another.
    Packed(Packing),
}

impl<'m> Order<'m> {
    /// That of the memory of a face's parts; where they have none that holds dots, or there is no face, packed.
    #[must_use]
    pub fn of(mount: Option<&'m Mount>) -> Self {
        match mount {
            Some(mount) if mount.drive.display().memory_words().is_some() => Self::Memory(mount),
            mount => Self::Packed(mount.and_then(Packing::of).unwrap_or(Packing::USUAL)),
        }
    }

    /// The bytes of a frame; packed ones for each of three colours, where the sprite has colours.
    #[must_use]
    pub fn bytes(self, raster: &Raster, has_colours: bool) -> Vec<u8> {
        match self {
            Self::Packed(packing) => {
                let planes = if has_colours { 3 } else { 1 };
                (0..planes).flat_map(|plane| packing.pack(&plane_of(raster, plane, planes))).collect()
            }
            Self::Memory(mount) => {
                let mut frame = mount.face.blank();
                place(&mut Canvas::whole(&mount.face, &mut frame), raster, (0, 0));
                let mut nodes = vec![Level::OFF; mount.wiring.node_count()];
                mount.wiring.to_nodes(frame.levels(), &mut nodes);
                mount.drive.display().memory(&nodes).unwrap_or_default()
            }
        }
    }

    /// Describes the bytes of frames of a size, line by line.
    #[must_use]
    pub fn words(self, (width, height): (usize, usize), has_colours: bool) -> Vec<String> {
        match self {
            Self::Packed(packing) => {
                let mut about = vec![format!("{width}x{height} dots."), packing.words().to_owned()];
                if has_colours {
                    about.push("Of each frame first the red dots, then the green, then the blue.".to_owned());
                }
                about
            }
            Self::Memory(mount) => {
                let whose = format!("For face {}: {}.", mount.face.name, mount.face.summary());
                std::iter::once(whose)
                    .chain(mount.drive.display().memory_words().map(str::to_owned))
                    .collect()
            }
        }
    }
}

impl Data {
    /// These characters of a font, each as wide as the pen goes on, so that they stand side by side as they are.
    ///
    /// # Errors
    /// When the name is none, there is no character, the font lacks one, or its code point takes more than 16 bits.
    pub fn of_font(
        name: &str,
        font: &Font,
        characters: &[char],
        packing: Packing,
    ) -> Result<Self, TableError> {
        let name = checked(name)?;
        let mut characters = characters.to_vec();
        characters.sort_unstable();
        characters.dedup();
        if characters.is_empty() {
            return Err(TableError::Empty);
        }
        let (mut codes, mut starts, mut dots) = (Vec::new(), Vec::new(), Vec::new());
        let mut begun = 0_usize;
        for character in characters.iter().copied() {
            let missing = || TableError::NotInFont { font: font.name.clone(), character };
            let glyph = font.glyph(character).ok_or_else(missing)?;
            let code = u16::try_from(u32::from(character)).map_err(|_| missing())?;
            let mut cell = Bitmap::dark(glyph.advance, font.height());
            cell.add(&glyph.bitmap, glyph.left.max(0), font.ascent as isize - glyph.rise);
            let bytes: Vec<_> = packing.pack(&cell).into_iter().map(u16::from).collect();
            codes.push((vec![code], shown(character)));
            starts.push((vec![u16::try_from(begun).map_err(|_| TableError::TooManyDots)?], shown(character)));
            begun += bytes.len();
            dots.push((bytes, shown(character)));
        }
        let end = u16::try_from(begun).map_err(|_| TableError::TooManyDots)?;
        starts.push((vec![end, end], "the end, twice: what is not there is empty".to_owned()));
        let strip = font.height().div_ceil(8);
        let extent = if packing.by_columns {
            format!(
                "A character is the columns from its start to the next one's, {}.",
                counted(strip, "byte a column", "bytes a column")
            )
        } else {
            "A character is the rows from its start to the next one's, each of whole bytes for its width."
                .to_owned()
        };
        let mut arrays = vec![
            Array { suffix: "codes", about: "The code points, rising.".into(), bits: 16, rows: codes },
            Array { suffix: "starts", about: "Where the dots of each begin.".into(), bits: 16, rows: starts },
        ];
        if !packing.by_columns {
            let width = |character: &char| font.glyph(*character).map_or(0, |glyph| glyph.advance) as u16;
            let mut rows: Vec<_> =
                characters.iter().map(|character| (vec![width(character)], shown(*character))).collect();
            rows.push((vec![0], "what is not there".to_owned()));
            arrays.push(Array {
                suffix: "widths",
                about: "How many columns each has.".into(),
                bits: 8,
                rows,
            });
        }
        arrays.push(Array { suffix: "dots", about: "The dots.".into(), bits: 8, rows: dots });
        Ok(Self {
            about: vec![
                format!(
                    "Font {}, {} rows high: {}.",
                    font.name,
                    font.height(),
                    counted(characters.len(), "character", "characters")
                ),
                packing.words().to_owned(),
                extent,
            ],
            name,
            arrays,
            searched: Some("codes"),
        })
    }

    /// The frames of a sprite.
    ///
    /// # Errors
    /// When the name is none, or there are more dots than an index reaches.
    pub fn of_sprite(name: &str, sprite: &Sprite, order: Order<'_>) -> Result<Self, TableError> {
        let name = checked(name)?;
        let has_colours = sprite.has_colours();
        let named = |number: usize| {
            let shot = &sprite.shots[number];
            let name = shot.name.as_ref().map_or_else(String::new, |name| format!(", {name}"));
            format!("frame {number}{name}")
        };
        let rows: Vec<(Vec<u16>, String)> = sprite
            .shots
            .iter()
            .enumerate()
            .map(|(number, shot)| {
                let bytes = order.bytes(&shot.raster, has_colours);
                (bytes.into_iter().map(u16::from).collect(), named(number))
            })
            .collect();
        if rows.iter().map(|(bytes, _)| bytes.len()).sum::<usize>() > usize::from(u16::MAX) {
            return Err(TableError::TooManyDots);
        }
        let stays = sprite.shots.iter().enumerate().map(|(number, shot)| {
            (vec![u16::try_from(shot.stays.as_millis()).unwrap_or(u16::MAX)], named(number))
        });
        let in_frame = rows.first().map_or(0, |(bytes, _)| bytes.len());
        let mut about = order.words(sprite.size(), has_colours);
        about.push(format!(
            "{} of {} each.",
            counted(sprite.shots.len(), "frame", "frames"),
            counted(in_frame, "byte", "bytes")
        ));
        let times = Array {
            suffix: "times",
            about: "How long each frame stays, in milliseconds.".into(),
            bits: 16,
            rows: stays.collect(),
        };
        let dots = Array { suffix: "dots", about: "The dots, frame by frame.".into(), bits: 8, rows };
        Ok(Self { name, about, arrays: vec![times, dots], searched: None })
    }
}

/// The dots of one colour that count as lit, or of all where there is one plane.
fn plane_of(raster: &Raster, plane: usize, planes: usize) -> Bitmap {
    let mut bitmap = Bitmap::dark(raster.width(), raster.height());
    for ((x, y), colour) in places(raster.width(), raster.height()).zip(raster.colours()) {
        let level = if planes == 1 { colour.into_iter().max().unwrap_or(0) } else { colour[plane] };
        bitmap.set(x, y, level >= 128);
    }
    bitmap
}

#[cfg(test)]
mod tests {
    use super::*;
    use spare_tile_core::dots::own;

    #[test]
    fn bytes_by_columns_and_rows() {
        let arrow = Bitmap::of_art(["#..", ".#.", "#.."]).unwrap();
        let pack = |by_columns, from_first| Packing { by_columns, from_first }.pack(&arrow);
        assert_eq!(pack(true, true), [0b101, 0b010, 0]);
        assert_eq!(pack(true, false), [0b1010_0000, 0b0100_0000, 0]);
        assert_eq!(pack(false, true), [0b001, 0b010, 0b001]);
        assert_eq!(pack(false, false), [0b1000_0000, 0b0100_0000, 0b1000_0000]);
        // Of ten rows a column takes two bytes.
        let mut tall = Bitmap::dark(1, 10);
        tall.set(0, 9, true);
        assert_eq!(Packing::USUAL.pack(&tall), [0, 0b10]);
    }

    #[test]
    fn a_font_has_the_characters_that_are_used_and_no_others() {
        let font = own::called("board").unwrap();
        let data = Data::of_font("board", &font, &['T', 'E', 'A', 'T'], Packing::USUAL).unwrap();
        let values = |suffix| {
            let array = data.arrays.iter().find(|array| array.suffix == suffix).unwrap();
            array.rows.iter().flat_map(|(values, _)| values.clone()).collect::<Vec<_>>()
        };
        assert_eq!(values("codes"), [65, 69, 84]);
        let starts = values("starts");
        assert_eq!((starts.len(), starts[3], starts[4]), (5, starts[4], values("dots").len() as u16));
        // The A stands as the font draws it.
        let glyph = font.glyph('A').unwrap();
        let columns = &values("dots")[..usize::from(starts[1])];
        for (x, y) in (0..glyph.advance).flat_map(|x| (0..font.height()).map(move |y| (x, y))) {
            let own = (x as isize - glyph.left, y as isize + glyph.rise - font.ascent as isize);
            let is_lit = usize::try_from(own.0).ok().zip(usize::try_from(own.1).ok());
            let is_lit = is_lit.is_some_and(|(x, y)| glyph.bitmap.get(x, y));
            assert_eq!(columns[x] >> y & 1 == 1, is_lit, "{x},{y}");
        }
        let missing = Data::of_font("board", &font, &['\u{4e00}'], Packing::USUAL);
        assert!(matches!(missing, Err(TableError::NotInFont { character: '\u{4e00}', .. })));
    }
}
