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
        let near = |value: u8| (0..6).min_by_key(|step| STEPS[*step].abs_diff(value)).unwrap_or(0);
        let (r, g, b) = (near(self.0), near(self.1), near(self.2));
        let cube = (Self(STEPS[r], STEPS[g], STEPS[b]), (16 + 36 * r + 6 * g + b) as u8);
        let grey = (u16::from(self.0) + u16::from(self.1) + u16::from(self.2)) / 3;
        let step = (grey.saturating_sub(3) / 10).min(23) as u8;
        let level = 8 + 10 * step;
        let grey = (Self(level, level, level), 232 + step);
        if self.distance(grey.0) < self.distance(cube.0) { grey.1 } else { cube.1 }
    }

    fn distance(self, other: Self) -> u32 {
        let square = |a: u8, b: u8| u32::from(a.abs_diff(b)).pow(2);
        square(self.0, other.0) + square(self.1, other.1) + square(self.2, other.2)
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
    }

    #[test]
    fn less_light_is_darker_but_seen() {
        let (full, low, none) = (shade(Colour::Red, 1.0), shade(Colour::Red, 0.03), shade(Colour::Red, 0.0));
        assert_eq!(full, lit(Colour::Red));
        assert!(full.0 > low.0 && low.0 > none.0 + 20);
    }
}
