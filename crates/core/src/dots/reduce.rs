//! Pictures of many shades, brought down to the size of a face and to dots that are lit or dark.
//!
//! All reckoning is in linear light: a field where half the dots are lit sends out half the light, so that shades keep
//! their brightness. The transfer function is that of IEC 61966-2-1 (sRGB), luminance is weighted as in ITU-R BT.709.

use std::sync::LazyLock;

use super::places;
use super::raster::{Colour, Raster};
use crate::words::words;

words! {
    /// How a picture is laid on a size of other proportions.
    #[derive(Default)]
    pub enum Fit {
        /// All of it is shown; a picture that is small enough keeps its size.
        #[default]
        Whole = "whole",
        /// It fills the dots, and what is beyond them is cut off.
        Cover = "cover",
        /// It fills the dots, with other proportions.
        Stretch = "stretch",
    }
}

words! {
    /// How a dot gets its shade from the part of the picture that it covers.
    #[derive(Default)]
    pub enum Sampling {
        /// The pixel in the middle.
        Nearest = "nearest",
        /// The mean of all pixels.
        #[default]
        Mean = "mean",
    }
}

/// How shades become dots that are lit or dark.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Dither {
    /// Lit from this share of full brightness on, as the eye judges it, from 0 to 1.
    Threshold(f32),
    /// By a fixed pattern of 8x8 thresholds: what moves does not flicker.
    Ordered,
    /// The error of a dot is passed on to those to the right and below (7, 3, 5 and 1
    /// sixteenths).
    Diffusion,
}

words! {
    /// How shades are shown by dots that are lit or dark.
    #[derive(Default)]
    pub enum DitherWord {
        /// A dot is lit where the picture is bright enough.
        #[default]
        None = "none",
        /// By a fixed pattern, which suits moving pictures.
        Ordered = "ordered",
        /// By passing on the error of each dot, which suits photographs.
        Diffusion = "diffusion",
    }
}

impl DitherWord {
    /// Returns the dither; without one a dot is lit from the threshold on.
    #[must_use]
    pub const fn with_threshold(self, threshold: f32) -> Dither {
        match self {
            Self::None => Dither::Threshold(threshold),
            Self::Ordered => Dither::Ordered,
            Self::Diffusion => Dither::Diffusion,
        }
    }
}

/// Which colours the dots have.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Inks {
    /// One: what counts is the brightness.
    One,
    /// Three lights that mix to eight colours, each for itself.
    Eight,
    /// One of any brightness: nothing is dithered.
    Greys,
    /// Three lights of any brightness: nothing is dithered.
    Shades,
}

impl Inks {
    /// The same where shades are shown by dots that are lit or dark.
    #[must_use]
    pub const fn dithered(self) -> Self {
        match self {
            Self::Shades => Self::Eight,
            Self::Greys => Self::One,
            inks => inks,
        }
    }
}

/// The target of a reduction.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reduction {
    /// How many columns and rows there are.
    pub size: (usize, usize),
    /// How it is laid on them.
    pub fit: Fit,
    /// How it is sampled.
    pub sampling: Sampling,
    /// The dither of its shades.
    pub dither: Dither,
    /// The colours there are.
    pub inks: Inks,
}

/// The part of a picture that is seen, in its pixels.
#[derive(Clone, Copy)]
struct Part {
    left: f64,
    top: f64,
    width: f64,
    height: f64,
}

/// The light of a dot's three channels, from 0 to 1.
type Light = [f32; 3];

impl Reduction {
    /// The picture, of the size or smaller, in the colours there are.
    #[must_use]
    pub fn apply(&self, picture: &Raster) -> Raster {
        let (width, height) = self.size_of((picture.width(), picture.height()));
        let part = self.part(picture);
        let mut lights: Vec<Light> = Vec::with_capacity(width * height);
        for y in 0..height {
            for x in 0..width {
                let dot = Part {
                    left: part.left + part.width * x as f64 / width as f64,
                    top: part.top + part.height * y as f64 / height as f64,
                    width: part.width / width as f64,
                    height: part.height / height as f64,
                };
                lights.push(match self.sampling {
                    Sampling::Nearest => middle(picture, dot),
                    Sampling::Mean => mean(picture, dot),
                });
            }
        }
        match self.inks {
            Inks::Shades => return shades(&lights, (width, height)),
            Inks::Greys => {
                let greys: Vec<_> = lights.iter().map(|light| [luminance(*light); 3]).collect();
                return shades(&greys, (width, height));
            }
            Inks::One | Inks::Eight => {}
        }
        let of_channel = |channel: usize| lights.iter().map(|light| light[channel]).collect();
        let planes: Vec<Vec<f32>> = match self.inks {
            Inks::One => vec![lights.iter().copied().map(luminance).collect()],
            _ => (0..3).map(of_channel).collect(),
        };
        let lit: Vec<_> = planes.into_iter().map(|plane| self.dither.lit(plane, width)).collect();
        let mut reduced = Raster::dark(width, height);
        for (x, y) in places(width, height) {
            // One plane is that of all three lights.
            let is_lit = |channel: usize| lit[channel % lit.len()][y * width + x];
            reduced.set(x, y, [0, 1, 2].map(|channel| if is_lit(channel) { 255 } else { 0 }));
        }
        reduced
    }

    /// The size that a picture of so many pixels across and down gets.
    #[must_use]
    pub fn size_of(&self, (across, down): (usize, usize)) -> (usize, usize) {
        let (width, height) = self.size;
        match self.fit {
            Fit::Cover | Fit::Stretch => self.size,
            Fit::Whole if across <= width && down <= height => (across, down),
            Fit::Whole => {
                let scale = (width as f64 / across as f64).min(height as f64 / down as f64);
                let side = |side: usize| ((side as f64 * scale).round() as usize).max(1);
                (side(across), side(down))
            }
        }
    }

    /// The part of it that is seen.
    fn part(&self, picture: &Raster) -> Part {
        let (width, height) = (picture.width() as f64, picture.height() as f64);
        let whole = Part { left: 0.0, top: 0.0, width, height };
        if self.fit != Fit::Cover {
            return whole;
        }
        let scale = (width / self.size.0 as f64).min(height / self.size.1 as f64);
        let (seen, high) = (scale * self.size.0 as f64, scale * self.size.1 as f64);
        Part { left: (width - seen) / 2.0, top: (height - high) / 2.0, width: seen, height: high }
    }
}

impl Dither {
    /// Which dots of a channel are lit, row by row.
    fn lit(self, mut plane: Vec<f32>, width: usize) -> Vec<bool> {
        match self {
            Self::Threshold(share) => {
                let least = linear(share);
                plane.into_iter().map(|light| light >= least).collect()
            }
            Self::Ordered => {
                let is_lit = |(place, light): (usize, f32)| light > ordered(place % width, place / width);
                plane.into_iter().enumerate().map(is_lit).collect()
            }
            Self::Diffusion => {
                let mut lit = Vec::with_capacity(plane.len());
                for place in 0..plane.len() {
                    let is_lit = plane[place] >= 0.5;
                    lit.push(is_lit);
                    let error = plane[place] - if is_lit { 1.0 } else { 0.0 };
                    let column = place % width;
                    let mut pass_on = |is_there: bool, to: usize, sixteenths: f32| {
                        if let Some(light) = plane.get_mut(to).filter(|_| is_there) {
                            *light += error * sixteenths / 16.0;
                        }
                    };
                    pass_on(column + 1 < width, place + 1, 7.0);
                    pass_on(column > 0, place + width - 1, 3.0);
                    pass_on(true, place + width, 5.0);
                    pass_on(column + 1 < width, place + width + 1, 1.0);
                }
                lit
            }
        }
    }
}

/// The threshold of a dot in the pattern of 8x8: each power of two of them is spread as evenly as can be.
fn ordered(x: usize, y: usize) -> f32 {
    let rank = (0..3).fold(0, |rank, bit| rank << 2 | ((x ^ y) >> bit & 1) << 1 | y >> bit & 1);
    (rank as f32 + 0.5) / 64.0
}

/// The light of a level from 0 to 1, as sRGB counts them.
fn linear(level: f32) -> f32 {
    if level <= 0.04045 { level / 12.92 } else { ((level + 0.055) / 1.055).powf(2.4) }
}

/// The light of each level of a channel: a picture has millions of them.
static LIGHTS: LazyLock<[f32; 256]> =
    LazyLock::new(|| std::array::from_fn(|level| linear(level as f32 / 255.0)));

/// The level of a light, as sRGB counts them: the inverse of [`linear`].
fn level(light: f32) -> u8 {
    let light = light.clamp(0.0, 1.0);
    let level = if light <= 0.003_130_8 { 12.92 * light } else { 1.055 * light.powf(1.0 / 2.4) - 0.055 };
    (255.0 * level).round() as u8
}

/// A picture of these lights, row by row.
fn shades(lights: &[Light], (width, height): (usize, usize)) -> Raster {
    let mut raster = Raster::dark(width, height);
    for (place, light) in lights.iter().enumerate() {
        raster.set(place % width, place / width, light.map(level));
    }
    raster
}

fn light_of(colour: Colour) -> Light {
    colour.map(|level| LIGHTS[usize::from(level)])
}

fn luminance([red, green, blue]: Light) -> f32 {
    0.2126 * red + 0.7152 * green + 0.0722 * blue
}

/// The light in the middle of a part.
fn middle(picture: &Raster, part: Part) -> Light {
    let at =
        |begin: f64, length: f64, most: usize| ((begin + length / 2.0) as usize).min(most.saturating_sub(1));
    let x = at(part.left, part.width, picture.width());
    light_of(picture.get(x, at(part.top, part.height, picture.height())))
}

/// The mean light of a part; a pixel that lies in it with a share counts with that share.
fn mean(picture: &Raster, part: Part) -> Light {
    let shares = |begin: f64, length: f64, most: usize| {
        let end = (begin + length).min(most as f64);
        (begin as usize..(end.ceil() as usize).min(most)).map(move |pixel| {
            let share = end.min(pixel as f64 + 1.0) - begin.max(pixel as f64);
            (pixel, share.max(0.0))
        })
    };
    let (mut sum, mut whole) = ([0.0_f64; 3], 0.0);
    for (y, down) in shares(part.top, part.height, picture.height()) {
        for (x, across) in shares(part.left, part.width, picture.width()) {
            let share = down * across;
            let light = light_of(picture.get(x, y));
            for (sum, light) in sum.iter_mut().zip(light) {
                *sum += f64::from(light) * share;
            }
            whole += share;
        }
    }
    sum.map(|sum| if whole > 0.0 { (sum / whole) as f32 } else { 0.0 })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::super::raster::OFF;
    use super::*;

    const DITHERS: [Dither; 3] = [Dither::Threshold(0.5), Dither::Ordered, Dither::Diffusion];

    fn reduction(size: (usize, usize), fit: Fit) -> Reduction {
        let (sampling, dither) = (Sampling::Mean, Dither::Threshold(0.5));
        Reduction { size, fit, sampling, dither, inks: Inks::One }
    }

    fn of_art(rows: &[&str]) -> Raster {
        let mut raster = Raster::dark(rows[0].len(), rows.len());
        for (y, row) in rows.iter().enumerate() {
            for (x, dot) in row.chars().enumerate().filter(|(_, dot)| *dot != '.') {
                raster.set(x, y, if dot == 'r' { [255, 0, 0] } else { [255; 3] });
            }
        }
        raster
    }

    fn filled(width: usize, height: usize, colour: Colour) -> Raster {
        let mut raster = Raster::dark(width, height);
        for place in 0..width * height {
            raster.set(place % width, place / width, colour);
        }
        raster
    }

    fn lit(raster: &Raster) -> usize {
        let places = (0..raster.height()).flat_map(|y| (0..raster.width()).map(move |x| (x, y)));
        places.filter(|(x, y)| raster.get(*x, *y) != OFF).count()
    }

    #[test]
    fn proportions_are_kept_covered_or_left() {
        // A ring of 8x4, twice too large for 4x4.
        let ring = of_art(&["########", "#......#", "#......#", "########"]);
        let size = |fit| {
            let reduced = reduction((4, 4), fit).apply(&ring);
            (reduced.width(), reduced.height())
        };
        assert_eq!([size(Fit::Whole), size(Fit::Cover), size(Fit::Stretch)], [(4, 2), (4, 4), (4, 4)]);
        // Covered, the ring loses its sides; stretched, each dot has the mean of two pixels beside each other.
        assert_eq!(reduction((4, 4), Fit::Cover).apply(&ring), of_art(&["####", "....", "....", "####"]));
        let stretched = Reduction { sampling: Sampling::Nearest, ..reduction((4, 4), Fit::Stretch) };
        assert_eq!(stretched.apply(&ring), of_art(&["####", "...#", "...#", "####"]));
    }

    #[test]
    fn half_the_light_is_more_than_half_the_level() {
        // Half the light is level 188 of 255 in sRGB, which a dither lights half the dots for.
        let half = filled(8, 8, [188; 3]);
        for dither in [Dither::Ordered, Dither::Diffusion] {
            let reduced = Reduction { dither, ..reduction((8, 8), Fit::Whole) }.apply(&half);
            assert_eq!(lit(&reduced), 32, "{dither:?}");
        }
        // A threshold is what the eye takes for half: level 128.
        let lit_at = |level: u8| lit(&reduction((1, 1), Fit::Whole).apply(&filled(1, 1, [level; 3])));
        assert_eq!((lit_at(127), lit_at(128)), (0, 1));
    }

    #[test]
    fn shades_stay_what_they_are_and_mix_by_their_light() {
        let shades = Reduction { inks: Inks::Shades, ..reduction((4, 1), Fit::Whole) };
        let mut picture = Raster::dark(4, 1);
        for (x, colour) in [[0, 1, 2], [10, 11, 12], [127, 128, 129], [253, 254, 255]].into_iter().enumerate()
        {
            picture.set(x, 0, colour);
        }
        assert_eq!(shades.apply(&picture), picture);
        // White and black side by side give half the light, which is level 188.
        let mut both = Raster::dark(2, 1);
        both.set(0, 0, [255; 3]);
        let mixed = Reduction { size: (1, 1), fit: Fit::Stretch, ..shades }.apply(&both);
        assert_eq!(mixed.get(0, 0), [188; 3]);
    }

    #[test]
    fn the_pattern_is_that_of_the_textbooks() {
        let rank = |x, y| (ordered(x, y) * 64.0 - 0.5) as usize;
        // The first of 8x8, and all of 2x2 by quarters.
        assert_eq!([0, 1, 2, 3, 4, 5, 6, 7].map(|x| rank(x, 0)), [0, 32, 8, 40, 2, 34, 10, 42]);
        assert_eq!([rank(0, 0), rank(1, 0), rank(0, 1), rank(1, 1)].map(|rank| rank / 16), [0, 2, 3, 1]);
        let mut all: Vec<_> = (0..64).map(|place| rank(place % 8, place / 8)).collect();
        all.sort_unstable();
        assert!(all.into_iter().eq(0..64));
    }

    #[test]
    fn colours_count_by_their_light_or_each_for_itself() {
        let red = filled(1, 1, [255, 0, 0]);
        let one = reduction((1, 1), Fit::Whole);
        // 21 % of the light of white, which the eye takes for half.
        assert_eq!(one.apply(&red).get(0, 0), OFF);
        let lower = Reduction { dither: Dither::Threshold(0.45), ..one };
        assert_eq!(lower.apply(&red).get(0, 0), [255; 3]);
        let pink = filled(1, 1, [255, 100, 200]);
        assert_eq!(Reduction { inks: Inks::Eight, ..one }.apply(&pink).get(0, 0), [255, 0, 255]);
    }

    proptest! {
        /// Dots that are lit or dark stay as they are, whatever the way.
        #[test]
        fn a_drawing_that_fits_stays(dots in prop::collection::vec(any::<bool>(), 48), way in 0..3_usize) {
            let mut drawing = Raster::dark(8, 6);
            for (place, _) in dots.iter().enumerate().filter(|(_, lit)| **lit) {
                drawing.set(place % 8, place / 8, [255; 3]);
            }
            let reduction = Reduction { dither: DITHERS[way], ..reduction((16, 8), Fit::Whole) };
            prop_assert_eq!(reduction.apply(&drawing), drawing);
        }

        /// A dither lights as many dots as there is light.
        #[test]
        fn a_dither_keeps_the_light(level in any::<u8>()) {
            let grey = filled(32, 32, [level; 3]);
            let share = f64::from(linear(f32::from(level) / 255.0));
            for dither in [Dither::Ordered, Dither::Diffusion] {
                let reduced = Reduction { dither, ..reduction((32, 32), Fit::Whole) }.apply(&grey);
                let found = lit(&reduced) as f64 / 1024.0;
                prop_assert!((found - share).abs() < 0.03, "{dither:?}: {found} for {share}");
            }
        }

        /// However large or thin it is, nothing goes beyond the size.
        #[test]
        fn every_picture_fits(
            (width, height) in (1..60_usize, 1..60_usize),
            size in (1..20_usize, 1..20_usize),
            fit in 0..3_usize,
            way in 0..3_usize,
            nearest in any::<bool>(),
        ) {
            let reduction = Reduction {
                fit: [Fit::Whole, Fit::Cover, Fit::Stretch][fit],
                dither: DITHERS[way],
                sampling: if nearest { Sampling::Nearest } else { Sampling::Mean },
                ..reduction(size, Fit::Whole)
            };
            let reduced = reduction.apply(&filled(width, height, [255; 3]));
            prop_assert!(reduced.width() <= size.0 && reduced.height() <= size.1);
            // White is white to the edges: no pixel beyond them is counted.
            prop_assert_eq!(lit(&reduced), reduced.width() * reduced.height());
        }
    }
}
