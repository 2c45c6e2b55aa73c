//! The requests of `rig new` and `rig add`, and the reasons why they cannot be met.

use clap::Args;
use clap_complete::ArgValueCompleter;
use spare_tile_core::draft::kinds::{KINDS, Kind, Size, kind};
use spare_tile_core::draft::{DraftError, Wish, roles};
use spare_tile_core::glyph::Common;
use spare_tile_core::rig::{Pin, controllers};
use spare_tile_core::units::Volts;

use crate::complete;
use crate::failure::{Failure, did_you_mean};
use crate::options::word;

/// How large the display is, what it is called, and which pins are decided.
#[derive(Args)]
pub struct WishArgs {
    /// The number of digits [default: the usual number]
    ///
    /// Example: spare-tile rig new i2c-digits --digits 8
    #[arg(short, long, value_name = "N", conflicts_with = "size")]
    digits: Option<usize>,
    /// The number of dots across and down
    ///
    /// Example: spare-tile rig new chain-dots --size 64x8
    #[arg(long, value_name = "WxH", value_parser = parse_size)]
    size: Option<Size>,
    /// The common side of the lights, if the part drives both
    ///
    /// Example: spare-tile rig new bare-digits --common anode
    #[arg(long, value_parser = word::<Common>())]
    common: Option<Common>,
    /// The name of the face
    ///
    /// Example: spare-tile rig new clock-module --name landing-clock
    #[arg(short, long, value_name = "NAME")]
    name: Option<String>,
    /// The pins of some lines; the others are chosen
    ///
    /// Example: spare-tile rig new clock-module --pins clock=GP10,data=GP11
    #[arg(short, long, value_name = "ROLE=PIN,...", value_delimiter = ',', value_parser = parse_pair,
          add = ArgValueCompleter::new(complete::pins))]
    pins: Vec<(String, Pin)>,
    /// The supply of the display in volts [default: 5; for bare displays the controller's if 5 V does not work]
    ///
    /// Example: spare-tile rig new bare-digit --controller rp2040 --common anode --supply 3.3
    #[arg(long, value_name = "VOLTS", value_parser = parse_volts)]
    supply: Option<f64>,
}

impl WishArgs {
    /// The same with the kind of this name.
    pub fn of_kind(&self, name: &str) -> Result<Wish, Failure> {
        Ok(self.over(Wish::of(known(name)?)))
    }

    /// A wish with what was given on the command line in place of what was answered.
    pub fn over(&self, wish: Wish) -> Wish {
        Wish {
            kind: wish.kind,
            size: self.size.or(self.digits.map(Size::Digits)).or(wish.size),
            common: self.common.or(wish.common),
            name: self.name.clone().or(wish.name),
            pins: self.pins.iter().cloned().collect(),
            supply: self.supply.map(Volts).or(wish.supply),
        }
    }
}

fn known(name: &str) -> Result<&'static Kind, Failure> {
    kind(name).ok_or_else(|| {
        let meant = did_you_mean(name, KINDS.iter().map(|kind| kind.name));
        let help = format!("{meant}list them: spare-tile rig new");
        Failure::unusable(format!("there is no kind '{name}' to begin with"), help)
    })
}

pub fn parse_size(text: &str) -> Result<Size, String> {
    let sides = text
        .split_once(['x', 'X'])
        .and_then(|(width, height)| Some((width.parse().ok()?, height.parse().ok()?)));
    let (width, height) = sides.ok_or("write dots across and down, such as 32x8")?;
    Ok(Size::Dots(width, height))
}

fn parse_volts(text: &str) -> Result<f64, String> {
    let number = text.trim().trim_end_matches(['v', 'V']).trim().parse::<f64>().ok();
    number
        .filter(|volts| (1.0..=24.0).contains(volts))
        .ok_or_else(|| "write volts from 1 to 24, such as 3.3".to_owned())
}

fn parse_pair(text: &str) -> Result<(String, Pin), String> {
    let pair = text
        .split_once('=')
        .and_then(|(role, pin)| Some((role.trim().to_ascii_lowercase(), Pin::parse(pin.trim())?)));
    pair.ok_or_else(|| "write a role and its pin, such as clock=GP10".to_owned())
}

/// A controller that is not known.
pub fn unknown_controller(found: &str) -> Failure {
    let known: Vec<_> = controllers::names().collect();
    let meant = did_you_mean(found, controllers::names());
    let help = format!(
        "{meant}the controllers: {}; or leave --controller out and spell yours out in the rig",
        known.join(", ")
    );
    Failure::unusable(format!("there is no controller '{found}'"), help)
}

/// Why there is no such rig, and what to do.
pub fn unusable(error: &DraftError, wish: &Wish) -> Failure {
    let help = match error {
        DraftError::UnknownController { found } => return unknown_controller(found),
        DraftError::Size { .. } => "take fewer, or split the display into two faces".to_owned(),
        DraftError::OtherSize { is_digits: true, .. } => "give --digits".to_owned(),
        DraftError::OtherSize { is_digits: false, .. } => "give --size".to_owned(),
        DraftError::Common { .. } => "leave --common out, or take another kind".to_owned(),
        DraftError::Name { .. } => "give another --name".to_owned(),
        DraftError::NameTaken { .. } => "give another --name, or none: then one is made".to_owned(),
        DraftError::Pins(_) => {
            "take another controller, or a kind with fewer lines: shifted-digits, chain-digits".to_owned()
        }
        DraftError::UnknownRole { .. } => {
            let size = wish.size.unwrap_or(wish.kind.size.0);
            format!("such as {}=PIN", roles(wish.kind, size).first().map_or("clock", String::as_str))
        }
        DraftError::Unsound { .. } => {
            "take another controller, or another kind: spare-tile rig new lists them".to_owned()
        }
        DraftError::Supply => "leave --supply out; to change it, edit supply in [controller]".to_owned(),
        DraftError::Broken { .. } => "see its errors: spare-tile rig check".to_owned(),
        DraftError::NoAddress { .. } => {
            "give it a bus of its own: --pins clock=PIN,data=PIN, or take fewer digits".to_owned()
        }
        DraftError::NoHeadings => {
            "give each table a heading of its own, [face.NAME] and [face.NAME.drive]".to_owned()
        }
    };
    Failure::unusable(error.to_string(), help)
}
