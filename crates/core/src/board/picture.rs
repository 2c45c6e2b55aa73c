//! The picture that a person sees of the lights of a model.

use crate::dots::raster::Colour;
use crate::dots::sprite;
use crate::face::Face;
use crate::glyph::Segments;

/// The light of each element of a face, from 0 (dark) to 1 (the brightest that its drive can make it).
///
/// The values are proportional to light, not to perceived lightness; a view applies the curve of its medium.
#[derive(Debug, Clone, PartialEq)]
pub struct Picture<'f> {
    /// The face that is looked at.
    pub face: &'f Face,
    /// By element.
    pub light: Vec<f32>,
}

/// Light below this part of the brightest is lost beside it: what a switch lets through in the two microseconds that it
/// takes to stop is measured by the [eye](super::eye), and seen by nobody.
const SEEN: f32 = 1.0 / 200.0;

impl<'f> Picture<'f> {
    /// Returns a picture of these lights by element, exposed so that a light of `full` is 1. If a drive has that many steps of
    /// grey, what is less than half of the least is lost.
    #[must_use]
    pub fn exposed(face: &'f Face, mut light: Vec<f32>, full: f32, grey_steps: u32) -> Self {
        let seen = SEEN.min(0.5 / grey_steps.max(1) as f32);
        let lost = seen * light.iter().copied().fold(0.0, f32::max);
        for light in &mut light {
            *light = if *light < lost { 0.0 } else { (*light / full).min(1.0) };
        }
        Self { face, light }
    }
}

impl Picture<'_> {
    /// The light of segment `segment` of digit `digit`.
    #[must_use]
    pub fn segment(&self, digit: usize, segment: usize) -> f32 {
        self.light.get(self.face.element(digit, segment).0).copied().unwrap_or(0.0)
    }

    /// The light of the dot in this column and row, counted from the top left: that of its brightest channel.
    #[must_use]
    pub fn dot(&self, x: usize, y: usize) -> f32 {
        self.lights_of_dot(x, y).iter().copied().fold(0.0, f32::max)
    }

    /// The light of each channel of the dot in this column and row; none where the face has no such dot.
    #[must_use]
    pub fn lights_of_dot(&self, x: usize, y: usize) -> &[f32] {
        let channels = self.face.dots().map_or(1, |grid| grid.channels.count());
        let lights = self.face.dot(x, y).and_then(|first| self.light.get(first.0..first.0 + channels));
        lights.unwrap_or_default()
    }

    /// The level of each channel of a dot as the eye judges it, 0 to 255: the inverse of a screen's usual gamma of 2.2.
    #[must_use]
    pub fn colour_of_dot(&self, x: usize, y: usize) -> Colour {
        let lights = self.lights_of_dot(x, y);
        let level = |light: f32| (255.0 * light.clamp(0.0, 1.0).powf(1.0 / 2.2)).round() as u8;
        match *lights {
            [one] => [level(one); 3],
            _ => [0, 1, 2].map(|channel| lights.get(channel).map_or(0, |light| level(*light))),
        }
    }

    /// The letter by which a sprite file tells the colour of a dot: of the channels that look at least half as bright as the
    /// brightest.
    #[must_use]
    pub fn letter(&self, x: usize, y: usize) -> char {
        let colour = self.colour_of_dot(x, y).map(u16::from);
        let most = colour.into_iter().max().unwrap_or(0).max(1);
        sprite::letter(colour.map(|level| if 2 * level >= most { 255 } else { 0 }))
    }

    /// The light of a colon or lamp, by its place in [`Face::extras`].
    #[must_use]
    pub fn extra(&self, extra: usize) -> f32 {
        self.light.get(self.face.extra(extra).0).copied().unwrap_or(0.0)
    }

    /// Returns true if the colon after this number of digits gives any light.
    #[must_use]
    pub fn has_colon(&self, digits: usize) -> bool {
        self.face.colon(digits).is_some_and(|colon| self.extra(colon) > 0.0)
    }

    /// The segments of a digit that give any light.
    #[must_use]
    pub fn lit(&self, digit: usize) -> Segments {
        (0..self.face.style().segment_count()).filter(|segment| self.segment(digit, *segment) > 0.0).collect()
    }

    /// Returns the character of a digit, or an empty text if the lit segments are not a character, and
    /// whether the point is lit.
    #[must_use]
    pub fn read(&self, digit: usize) -> (Option<char>, bool) {
        let lit = self.lit(digit);
        (self.face.own_glyphs.reading(self.face.style(), lit), lit.has(self.face.style().point()))
    }

    /// Returns the text of the face, with `?` for lit segments that are not a character.
    #[must_use]
    pub fn reading(&self) -> String {
        let mut reading = String::new();
        for digit in 0..self.face.digits() {
            let (character, point) = self.read(digit);
            reading.push(character.unwrap_or('?'));
            if point {
                reading.push('.');
            }
            if self.has_colon(digit + 1) {
                reading.push(':');
            }
        }
        reading
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::plan::Rig;

    #[test]
    fn a_ghost_beside_a_bright_light_is_lost_and_a_dim_face_is_not() {
        let rig = Rig::read(include_str!("../../../cli/demo/gauge.toml")).rig.unwrap();
        let face = &rig.faces[0].face;
        let with = |light: &[f32]| {
            let mut all = face.blank().levels().iter().map(|_| 0.0).collect::<Vec<_>>();
            all[..light.len()].copy_from_slice(light);
            Picture::exposed(face, all, 0.25, 1).light[..light.len()].to_vec()
        };
        assert_eq!(with(&[0.25, 0.0002, 0.0025]), [1.0, 0.0, 0.01]);
        assert_eq!(with(&[0.0002, 0.0002]), [0.0008, 0.0008]);
    }
}
