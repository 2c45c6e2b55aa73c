//! Fonts and sprites as source for a controller.

use std::path::Path;

use spare_tile_core::dots::reduce::Inks;
use spare_tile_core::dots::sprite::{MOST_HEIGHT, MOST_WIDTH};
use spare_tile_core::firmware::data::{Data, Packing};
use spare_tile_core::firmware::{Form, TableError};
use spare_tile_core::plan::Mount;

use super::{Bit0, By, Form as Wanted, Table, failure};
use crate::failure::{Failure, Outcome};
use crate::lettering;
use crate::pictures::Reading;
use crate::session::Session;
use crate::sprites;

/// Writes a font or a sprite.
pub fn run(table: &Table, session: &mut Session<'_>) -> Outcome {
    let Wanted::Source(form) = table.form else {
        let help = "write --as c, avr-c, mcs51-c, rust, micropython or pic-asm; to look at a font: spare-tile fonts FONT";
        return Err(Failure::unusable("fonts and sprites are written as source", help));
    };
    let rig = table.coding.rig(session)?;
    let mount = rig.as_ref().map(|rig| table.coding.mount(rig)).transpose()?;
    let of_rig = mount.and_then(Packing::of);
    let packing = Packing {
        by_columns: table
            .by
            .map_or_else(|| of_rig.unwrap_or(Packing::USUAL).by_columns, |by| by == By::Columns),
        from_first: match (table.bit_0, of_rig) {
            (Some(bit_0), _) => bit_0 == Bit0::First,
            (None, Some(packing)) => packing.from_first,
            (None, None) => true,
        },
    };
    let data = match (&table.font, &table.sprite) {
        (Some(font), _) => of_font(table, font, packing),
        (None, Some(path)) => of_sprite(table, path, mount, packing, session),
        (None, None) => return Ok(()),
    };
    write(form, &data?, session)
}

fn write(form: &dyn Form, data: &Data, session: &mut Session<'_>) -> Outcome {
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

/// The frames of a sprite: of a face whose parts have a memory, as that has them.
fn of_sprite(
    table: &Table,
    path: &Path,
    mount: Option<&Mount>,
    packing: Packing,
    session: &mut Session<'_>,
) -> Result<Data, Failure> {
    let failed = |error: TableError| failure(&error);
    let reading = Reading::default();
    if let Some(mount) = mount {
        let sprite = sprites::load(path, &reading, sprites::goal(mount)?)?;
        if let Some(data) = Data::of_memory(&table.name, mount, &sprite) {
            let help = |_| "leave out the rig to have all of its dots".to_owned();
            session.warn(sprites::cut(&sprite, &mount.face, help).as_slice());
            return data.map_err(failed);
        }
        return Data::of_sprite(&table.name, &sprite, packing).map_err(failed);
    }
    let largest = (MOST_WIDTH, MOST_HEIGHT);
    let sprite = sprites::load(path, &reading, (largest, Inks::One))?;
    Data::of_sprite(&table.name, &sprite, packing).map_err(failed)
}
