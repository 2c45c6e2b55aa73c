//! Playing into a moving picture.

use std::path::Path;
use std::time::Duration;

use spare_tile_core::board::picture::Picture;
use spare_tile_core::play::Playing;

use super::frames::{Playtime, Whose, walk_faces};
use crate::exports;
use crate::failure::{Failure, Outcome};
use crate::session::Session;
use crate::view::gif::Film;
use crate::view::page::{Item, Page};
use crate::view::picture;
use crate::view::svg::MovingSvg;

/// The longest GIF: more frames than this no viewer keeps in memory.
const LONGEST_GIF: Duration = Duration::from_secs(600);

/// Writes the pictures of a face as GIF, each for as long as it is to be seen.
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
    let mut film: Option<Film> = None;
    walk_faces(player, time.that_begins_again(), whose, |pictures, time| {
        if !pictures.is_empty() {
            let film = film.get_or_insert_with(|| film_of(pictures, length));
            film.show(without_glow(pictures)).map_err(too_much)?;
        }
        if let Some(film) = &mut film {
            film.wait(time.end - time.start);
        }
        Ok(())
    })?;
    let gif = film.unwrap_or_default().finish().map_err(Failure::unusable_plainly)?;
    exports::write_and_tell(path, exports::Kind::Gif, session, |out| out.write_all(&gif))
}

fn film_of(pictures: &[&Picture<'_>], length: Duration) -> Film {
    match pictures {
        [picture] => picture.face.dots().map_or_else(Film::default, |grid| Film::of_dots(grid, length)),
        _ => Film::default(),
    }
}

/// Writes the pictures of a face as SVG whose lights change at their moments, and which begins again at its end.
pub fn svg<'p>(
    player: &mut dyn Playing<'p>,
    time: Playtime,
    whose: Whose<'_>,
    path: &Path,
    session: &mut Session<'_>,
) -> Outcome {
    let mut moving = MovingSvg::default();
    walk_faces(player, time.that_begins_again(), whose, |pictures, time| match pictures {
        [] => Ok(()),
        pictures => moving.show(without_glow(pictures), time.start).map_err(too_much),
    })?;
    let svg = moving.finish(time.length);
    exports::write_and_tell(path, exports::Kind::Svg, session, |out| out.write_all(svg.as_bytes()))
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
