//! Colours of lights, and the curve from light to what a screen shows.

use spare_tile_core::face::Colour;

/// Red, green and blue as a screen takes them (sRGB), 0 to 255.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Rgb(pub u8, pub u8, pub u8);

/// The lens over the digits.
pub const LENS: Rgb = Rgb(26, 20, 21);
/// The housing around the lens.
pub const HOUSING: Rgb = Rgb(12, 11, 12);
/// The mask between dots of several colours, which is black so that it adds none.
pub const MASK: Rgb = Rgb(17, 17, 18);
/// A segment without light, seen through the lens.
const UNLIT: Rgb = Rgb(50, 43, 44);

/// How a light of this colour looks at full.
pub const fn lit(colour: Colour) -> Rgb {
    match colour {
        Colour::Red => Rgb(255, 56, 40),
        Colour::Orange => Rgb(255, 122, 26),
        Colour::Amber => Rgb(255, 164, 18),
        Colour::Yellow => Rgb(255, 218, 38),
        Colour::Green => Rgb(84, 245, 98),
        Colour::Blue => Rgb(72, 138, 255),
        Colour::White => Rgb(244, 247, 255),
    }
}

/// How an element of this colour looks that gives `light`, from 0 to 1.
pub fn shade(colour: Colour, light: f32) -> Rgb {
    let unlit = mix(UNLIT, lit(colour), 0.05);
    mix(unlit, lit(colour), lightness(light))
}

/// How a dot of several lights looks whose channels have these levels, as the eye judges them: a dark one can just be seen.
pub fn mixed(levels: [u8; 3]) -> Rgb {
    const DARK: Rgb = Rgb(38, 37, 39);
    let Rgb(red, green, blue) = DARK;
    Rgb(levels[0].max(red), levels[1].max(green), levels[2].max(blue))
}

/// The screen value for an amount of light: the inverse of a screen's usual gamma of 2.2.
pub fn lightness(light: f32) -> f32 {
    light.clamp(0.0, 1.0).powf(1.0 / 2.2)
}

/// A colour between two.
pub fn mix(from: Rgb, to: Rgb, share: f32) -> Rgb {
    let mix = |from: u8, to: u8| (f32::from(from) + (f32::from(to) - f32::from(from)) * share).round() as u8;
    Rgb(mix(from.0, to.0), mix(from.1, to.1), mix(from.2, to.2))
}

impl Rgb {
    /// The notation of SVG and CSS.
    pub fn hex(self) -> String {
        format!("#{:02x}{:02x}{:02x}", self.0, self.1, self.2)
    }

    /// The nearest of a terminal's 256 colours: the 6x6x6 cube from 16, the greys from 232.
    pub fn indexed(self) -> u8 {
        const STEPS: [u8; 6] = [0, 95, 135, 175, 215, 255];
        // The steps below and above each channel.
        let near = |value: u8| {
            let above = STEPS.iter().position(|step| *step >= value).unwrap_or(5);
            [above.saturating_sub(1), above]
        };
        let [reds, greens, blues] = [self.0, self.1, self.2].map(near);
        let cube = reds.into_iter().flat_map(|r| greens.map(|g| (r, g))).flat_map(|(r, g)| {
            blues.map(|b| (Self(STEPS[r], STEPS[g], STEPS[b]), (16 + 36 * r + 6 * g + b) as u8))
        });
        let grey = (u16::from(self.0) + u16::from(self.1) + u16::from(self.2)) / 3;
        let step = (grey.saturating_sub(3) / 10).min(23) as u8;
        let level = 8 + 10 * step;
        let grey = (Self(level, level, level), 232 + step);
        let nearest = cube.chain([grey]).min_by_key(|(colour, _)| self.distance(*colour));
        nearest.map_or(grey.1, |(_, index)| index)
    }

    /// The nearest of the 16 colours of a console: eight, and the same brighter. The dark grey is for everything that is dark and can
    /// be seen.
    pub fn of_sixteen(self) -> u8 {
        const PALETTE: [Rgb; 16] = [
            Rgb(0, 0, 0),
            Rgb(205, 0, 0),
            Rgb(0, 205, 0),
            Rgb(205, 205, 0),
            Rgb(0, 0, 238),
            Rgb(205, 0, 205),
            Rgb(0, 205, 205),
            Rgb(229, 229, 229),
            Rgb(127, 127, 127),
            Rgb(255, 0, 0),
            Rgb(0, 255, 0),
            Rgb(255, 255, 0),
            Rgb(92, 92, 255),
            Rgb(255, 0, 255),
            Rgb(0, 255, 255),
            Rgb(255, 255, 255),
        ];
        const BLACK: u8 = 0;
        const GREY: u8 = 8;
        let brightest = self.0.max(self.1).max(self.2);
        match brightest {
            0..34 => BLACK,
            34..90 => GREY,
            _ => {
                let coloured = (0_u8..).zip(PALETTE).filter(|(index, _)| *index != BLACK);
                coloured.min_by_key(|(_, colour)| self.distance(*colour)).map_or(GREY, |(index, _)| index)
            }
        }
    }

    /// How different two colours look. The differences between channels count as well, which are the hue: red must not become orange.
    fn distance(self, other: Self) -> u32 {
        let parts = |Self(r, g, b): Self| {
            let [r, g, b] = [r, g, b].map(i32::from);
            [r, g, b, r - g, g - b, r - b]
        };
        let pairs = parts(self).into_iter().zip(parts(other));
        pairs.map(|(one, other)| one.abs_diff(other).pow(2)).sum()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_nearest_of_256_colours() {
        assert_eq!(Rgb(255, 0, 0).indexed(), 196);
        assert_eq!(Rgb(0, 0, 0).indexed(), 16);
        assert_eq!(Rgb(58, 58, 58).indexed(), 237);
        assert_eq!(Rgb(255, 255, 255).indexed(), 231);
        // The red 215, 0, 0, and not the orange 255, 95, 0.
        assert_eq!(lit(Colour::Red).indexed(), 160);
    }

    #[test]
    fn sixteen_colours_tell_the_lights_apart() {
        let full = [Colour::Red, Colour::Amber, Colour::Yellow, Colour::Green, Colour::Blue, Colour::White];
        assert_eq!(full.map(|colour| lit(colour).of_sixteen()), [1, 3, 3, 2, 12, 15]);
        assert_eq!([LENS, MASK, HOUSING].map(Rgb::of_sixteen), [0; 3]);
        assert_eq!(
            [shade(Colour::Red, 0.0), mixed([0; 3])].map(Rgb::of_sixteen),
            [8; 2],
            "dark ones are seen"
        );
    }

    #[test]
    fn less_light_is_darker_but_seen() {
        let (full, low, none) = (shade(Colour::Red, 1.0), shade(Colour::Red, 0.03), shade(Colour::Red, 0.0));
        assert_eq!(full, lit(Colour::Red));
        assert!(full.0 > low.0 && low.0 > none.0 + 20);
    }
}
