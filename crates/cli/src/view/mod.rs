//! Views of a picture.
//!
//! [`scene`] places the outlines of all elements of a face; [`blocks`] paints them on a colour terminal, and [`lines`] draws
//! a digit with characters where there is no colour. [`rows`] lists a table of patterns with a small drawing in each row.
//! [`live`] redraws in place, and [`prompt`] asks there; [`whole`] has the whole screen, [`easel`] is an editor on it, [`theatre`] shows all
//! faces there.
//!
//! Drawings for files are described on a [`page`]: [`mod@picture`] a face, [`chart`] a table of patterns, [`wiring`] what to
//! connect to what, [`pinout`] the pins of a controller, [`timing`] the lines of a scan, [`slow`] a moment of it, [`specimen`] lines of a
//! font, [`sheet`] pictures side by side, with labels in our own strokes ([`label`]).
//! [`pixels`] paints such a page, [`mod@png`] makes a file of that.

pub mod blocks;
pub mod cells;
pub mod chart;
pub mod colour;
pub mod columns;
pub mod easel;
pub mod graphics;
pub mod label;
pub mod lines;
pub mod live;
pub mod page;
pub mod picture;
pub mod pinout;
pub mod pixels;
pub mod png;
pub mod prompt;
pub mod rows;
pub mod scene;
pub mod sheet;
pub mod slow;
pub mod specimen;
pub mod terminal;
pub mod theatre;
pub mod timing;
pub mod whole;
pub mod wiring;

use spare_tile_core::board::picture::Picture;

use crate::session::Session;
use easel::Pens;

/// The picture for the session's output, without a newline at its end.
pub fn terminal(picture: &Picture<'_>, session: &Session<'_>) -> String {
    let pens = Pens::of(session);
    if pens.has_colours() {
        blocks::draw(picture, pens, session.columns)
    } else {
        lines::draw(picture, lines::Pens::for_terminal(pens), session.columns)
    }
}
