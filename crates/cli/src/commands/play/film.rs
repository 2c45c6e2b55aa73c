//! Playing into a moving picture.

use std::path::Path;
use std::time::Duration;

use spare_tile_core::board::picture::Picture;
use spare_tile_core::play::Playing;

use super::frames::{Playtime, Whose, walk_faces};
use crate::exports::{self, Moving, gif::Film, svg::MovingSvg};
use crate::failure::{Failure, Outcome};
use crate::session::Session;
use crate::view::page::{Item, Page};
use crate::view::picture;

/// The longest GIF: more frames than this no viewer keeps in memory.
const LONGEST_GIF: Duration = Duration::from_secs(600);

/// Writes the pictures of a face as GIF, each for as long as it is visible.
pub fn gif<'p>(
    player: &mut dyn Playing<'p>,
    time: Playtime,
    whose: Whose<'_>,
    path: &Path,
    session: &mut Session<'_>,
) -> Outcome {
    let length = time.length;
    if length > LONGEST_GIF {
        let message = format!("a GIF of {} s is too long", length.as_secs());
        return Err(Failure::unusable(message, "say how long: --for 60s; ten minutes at most"));
    }
    let film = |pictures: &[&Picture<'_>]| match pictures {
        [picture] => picture.face.dots().map_or_else(Film::default, |grid| Film::of_dots(grid, length)),
        _ => Film::default(),
    };
    write(player, time, whose, film, path, session)
}

/// Writes the pictures of a face as SVG whose lights change at their moments, and which repeats.
pub fn svg<'p>(
    player: &mut dyn Playing<'p>,
    time: Playtime,
    whose: Whose<'_>,
    path: &Path,
    session: &mut Session<'_>,
) -> Outcome {
    write(player, time, whose, |_| MovingSvg::default(), path, session)
}

/// Writes the pictures of a face in a format that is begun with the first of them.
fn write<'p, M: Moving>(
    player: &mut dyn Playing<'p>,
    time: Playtime,
    whose: Whose<'_>,
    begin: impl Fn(&[&Picture<'_>]) -> M,
    path: &Path,
    session: &mut Session<'_>,
) -> Outcome {
    let mut moving = None;
    walk_faces(player, time.that_begins_again(), whose, |pictures, time| match pictures {
        [] => Ok(()),
        pictures => moving
            .get_or_insert_with(|| begin(pictures))
            .show(without_glow(pictures), time.start)
            .map_err(too_much),
    })?;
    exports::write_moving(path, &mut moving.unwrap_or_else(|| begin(&[])), time.length, session)
}

/// More than a viewer can be asked to take.
fn too_much(message: String) -> Failure {
    Failure::unusable(message, "ask for less with --for, or for fewer with --every or --step")
}

/// The drawing of pictures below one another, without light that spills over: it would take more colours than a GIF has, and
/// most of the time that a viewer has for a frame.
fn without_glow(pictures: &[&Picture<'_>]) -> Page {
    const BETWEEN: f32 = 8.0;
    let pages = pictures.iter().map(|picture| picture::draw(picture)).collect();
    let mut page = Page::stacked(pages, BETWEEN, Whose::All.title());
    page.items.retain(|item| !matches!(item, Item::Glow { .. }));
    page
}
