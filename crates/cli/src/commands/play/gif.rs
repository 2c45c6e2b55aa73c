//! Playing into a GIF.

use std::path::Path;
use std::time::Duration;

use spare_tile_core::board::Board;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::play::Player;

use super::walk;
use crate::failure::{Failure, Outcome};
use crate::files;
use crate::session::Session;
use crate::view::gif::Film;
use crate::view::page::Item;
use crate::view::picture;

/// The longest GIF: more frames than this no viewer keeps in memory.
const LONGEST_GIF: Duration = Duration::from_secs(600);

/// Writes the pictures of a face as GIF, each for as long as it is to be seen.
pub fn write<'p>(
    player: Player<'p, Board<'p>>,
    length: Duration,
    (face, path): (&str, &Path),
    session: &mut Session<'_>,
) -> Outcome {
    if length > LONGEST_GIF {
        let message = format!("a GIF of {} s is too long", length.as_secs());
        return Err(Failure::unusable(message, "say how long: --for 60s; ten minutes at most"));
    }
    let unusable =
        |message| Failure::unusable(message, "ask for less with --for, or for fewer with --every or --step");
    let mut film: Option<Film> = None;
    walk(player, length, |pictures, time| {
        if let Some(picture) = pictures.iter().find(|picture| picture.face.name == face) {
            let mut page = picture::draw(picture);
            // Light that spills over would take more colours than a GIF has.
            page.items.retain(|item| !matches!(item, Item::Glow { .. }));
            film.get_or_insert_with(|| of_face(picture, length)).show(page).map_err(unusable)?;
        }
        if let Some(film) = &mut film {
            film.wait(time.end - time.start);
        }
        Ok(())
    })?;
    let gif = film.unwrap_or_default().finish().map_err(Failure::unusable_plainly)?;
    files::write_and_tell(path, files::Kind::Gif, session, |out| out.write_all(&gif))
}

fn of_face(picture: &Picture<'_>, length: Duration) -> Film {
    picture.face.dots().map_or_else(Film::default, |grid| Film::of_dots(grid, length))
}
