//! How a text on dots looks, from options.

use std::path::Path;

use clap::Args;
use spare_tile_core::content::lettering::{Fit, Look};
use spare_tile_core::content::markup;
use spare_tile_core::dots::bdf;
use spare_tile_core::dots::font::{Fitting, Font, Setting};
use spare_tile_core::dots::inked::WHITE;
use spare_tile_core::dots::own::{self, FONTS};
use spare_tile_core::dots::raster::Colour;
use spare_tile_core::face::Face;

use crate::failure::{Failure, did_you_mean, first_given};
use crate::files;
use crate::input;
use crate::options::word;

/// The font unless the options give one.
const USUAL_FONT: &str = "board";

/// How a text on dots looks.
#[derive(Args)]
#[command(next_help_heading = "Dots")]
pub struct LookArgs {
    /// The font of texts on dots: one of ours, or a BDF file; `spare-tile fonts` lists ours [default: board; clock for clocks]
    ///
    /// Example: spare-tile show TEAL --face board --font board
    #[arg(long, value_name = "FONT")]
    font: Option<String>,
    /// The colour of texts on dots that have several lights: a name, or levels such as #ff8000; {red:TEAL} in a text
    /// colours a part of it [default: white]
    ///
    /// Example: spare-tile show TEAL --face departures --ink amber
    #[arg(long, value_name = "COLOUR", value_parser = ink)]
    ink: Option<Colour>,
    /// Columns by which texts on dots are moved to the right, or to the left if negative
    ///
    /// Example: spare-tile show TEAL --face board --offset -3
    #[arg(long, value_name = "COLUMNS", default_value = "0", allow_negative_numbers = true)]
    offset: i16,
    /// Extra columns between characters; fewer columns if negative
    ///
    /// Example: spare-tile show TEAL --face board --spacing 1
    #[arg(long, value_name = "COLUMNS", default_value = "0", allow_negative_numbers = true)]
    spacing: i16,
    /// Keep characters apart where their shapes would leave room, as an L and a T do
    ///
    /// Example: spare-tile show LT --face board --apart
    #[arg(long)]
    apart: bool,
    /// Dark letters on a lit ground
    ///
    /// Example: spare-tile show TEAL --face board --inverse
    #[arg(long)]
    inverse: bool,
    /// The way in which a text that does not fit is shown [default: whole]
    ///
    /// Example: spare-tile show "TEAL BERTH 2" --face board --fit ellipsis
    #[arg(long, value_parser = word::<Fit>())]
    fit: Option<Fit>,
}

fn ink(name: &str) -> Result<Colour, String> {
    markup::colour(name).ok_or_else(|| {
        let names: Vec<_> = markup::COLOURS.iter().map(|(name, _)| *name).collect();
        format!("the colours are {}, or levels such as #ff8000", names.join(", "))
    })
}

impl LookArgs {
    /// The first option that is not as it is where nobody gives it.
    pub fn first_option(&self) -> Option<&'static str> {
        let said = [
            (self.font.is_some(), "--font"),
            (self.ink.is_some(), "--ink"),
            (self.offset != 0, "--offset"),
            (self.spacing != 0, "--spacing"),
            (self.apart, "--apart"),
            (self.inverse, "--inverse"),
            (self.fit.is_some(), "--fit"),
        ];
        first_given(&said)
    }

    /// Returns the look for a face, if it has dots.
    pub fn on(&self, face: &Face) -> Result<Option<Look>, Failure> {
        self.on_with(face, USUAL_FONT)
    }

    /// Returns the look for a face, if it has dots; `usual` is the font unless the options give one.
    pub fn on_with(&self, face: &Face, usual: &str) -> Result<Option<Look>, Failure> {
        face.dots().map(|_| self.look(usual)).transpose()
    }

    fn look(&self, usual: &str) -> Result<Look, Failure> {
        Ok(Look {
            setting: Setting {
                spacing: self.spacing.into(),
                fitting: if self.apart { Fitting::Plain } else { Fitting::Kerned },
            },
            ink: self.ink.unwrap_or(WHITE),
            offset: self.offset.into(),
            inverse: self.inverse,
            fit: self.fit.unwrap_or_default(),
            ..Look::of(font(self.font.as_deref().unwrap_or(usual))?)
        })
    }
}

/// A font by its name among ours, or its file.
pub fn font(name: &str) -> Result<Font, Failure> {
    if let Some(font) = own::called(name) {
        return Ok(font);
    }
    let path = Path::new(name);
    // A name without a dot or folder is more likely a font than a file.
    if !path.exists() && !input::is_named(path) && !name.contains(['.', '/']) {
        let names = FONTS.iter().map(|font| font.name);
        let meant = did_you_mean(name, names.clone());
        let ours: Vec<_> = names.collect();
        let help = format!("{meant}ours: {}; or name a BDF file", ours.join(", "));
        return Err(Failure::unusable(format!("there is no font '{name}'"), help));
    }
    let source = files::read_text(path, "font")?;
    let mut font = bdf::read(&source).map_err(|error| {
        let message = format!("{}, {error}", input::called(path));
        Failure::unusable(message, "a font is a file in the Glyph Bitmap Distribution Format (BDF 2.1)")
    })?;
    if font.name.is_empty() {
        font.name = input::called(path);
    }
    Ok(font)
}
