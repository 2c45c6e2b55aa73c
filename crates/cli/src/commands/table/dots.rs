//! Fonts and sprites as source for a controller.

use std::path::Path;

use spare_tile_core::dots::reduce::Inks;
use spare_tile_core::dots::sprite::{MOST_HEIGHT, MOST_WIDTH};
use spare_tile_core::plan::Mount;
use spare_tile_firmware::data::{Data, Order, Packing};
use spare_tile_firmware::forms::Form;

use super::{Bit0, By, Form as Wanted, Table, failure};
use crate::failure::{Failure, Outcome};
use crate::lettering;
use crate::pictures::Reading;
use crate::session::Session;
use crate::sprites::{self, Target};

/// Writes a font or a sprite.
pub fn run(table: &Table, session: &mut Session<'_>) -> Outcome {
    let Wanted::Source(form) = table.form else {
        let help = "write --as c, avr-c, mcs51-c, mcs51-asm, rust, micropython or pic-asm; to look at a font: spare-tile fonts FONT";
        return Err(Failure::unusable("fonts and sprites are written as source", help));
    };
    let rig = table.coding.rig(session)?;
    let mount = rig.as_ref().map(|rig| table.coding.mount(rig)).transpose()?;
    let data = match (&table.font, &table.sprite) {
        (Some(font), _) => of_font(table, font, packing(table, mount)),
        (None, Some(path)) => of_sprite(table, path, mount, session),
        (None, None) => return Ok(()),
    };
    write(form, &data?, session)
}

/// As the options say, and where they say nothing as the modules of the rig have it.
fn packing(table: &Table, mount: Option<&Mount>) -> Packing {
    let of_rig = mount.and_then(Packing::of).unwrap_or(Packing::USUAL);
    Packing {
        by_columns: table.by.map_or(of_rig.by_columns, |by| by == By::Columns),
        from_first: table.bit_0.map_or(of_rig.from_first, |bit_0| bit_0 == Bit0::First),
    }
}

fn write(form: &Form, data: &Data, session: &mut Session<'_>) -> Outcome {
    let source = form.write_data(data).map_err(|error| failure(&error))?;
    Ok(write!(session.out, "{source}")?)
}

/// The characters of a text, or all of the font.
fn of_font(table: &Table, font: &str, packing: Packing) -> Result<Data, Failure> {
    let font = lettering::font(font)?;
    let characters: Vec<char> = match &table.only_used {
        Some(text) => text.chars().collect(),
        None => table.set.as_deref().and_then(super::set).unwrap_or_else(|| font.characters().collect()),
    };
    Data::of_font(&table.name, &font, &characters, packing).map_err(|error| failure(&error))
}

/// The frames of a sprite, in the order of a face's memory unless the options say another.
fn of_sprite(
    table: &Table,
    path: &Path,
    mount: Option<&Mount>,
    session: &mut Session<'_>,
) -> Result<Data, Failure> {
    let is_asked_for = table.by.is_some() || table.bit_0.is_some();
    let order = if is_asked_for { Order::Packed(packing(table, mount)) } else { Order::of(mount) };
    let most = Target { size: (MOST_WIDTH, MOST_HEIGHT), inks: Inks::One };
    let target = mount.map_or(Ok(most), Target::of)?;
    let sprite = sprites::load(path, &Reading::default(), target)?;
    if let Order::Memory(mount) = order {
        let help = |_| "leave out the rig to have all of its dots".to_owned();
        session.warn(sprites::cut(&sprite, &mount.face, help).as_slice());
    }
    Data::of_sprite(&table.name, &sprite, order).map_err(|error| failure(&error))
}
