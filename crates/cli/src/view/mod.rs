//! Views of a picture.
//!
//! [`scene`] places the outlines of all elements; [`svg`] writes them, [`raster`] makes a PNG of that, and
//! [`blocks`] paints them on a colour terminal. [`lines`] draws a digit with characters where there is no
//! colour. [`chart`] draws a table of patterns, [`rows`] lists one with a small drawing in each row. [`wiring`]
//! draws what to connect to what, [`timing`] the lines of a scan; both on a [`page`], with labels in our own
//! strokes ([`label`]). [`live`] redraws in place.

pub mod blocks;
pub mod chart;
pub mod colour;
pub mod columns;
pub mod gif;
pub mod label;
pub mod lines;
pub mod live;
pub mod page;
pub mod raster;
pub mod rows;
pub mod scene;
pub mod slow;
pub mod svg;
pub mod timing;
pub mod wiring;

use spare_tile_core::picture::Picture;

use crate::session::{Depth, Session};

/// The picture for the session's output, without a newline at its end.
pub fn terminal(picture: &Picture<'_>, session: &Session<'_>) -> String {
    match (session.ascii, session.depth) {
        (true, _) => lines::draw(picture, lines::ASCII, session.columns),
        (false, Depth::Plain) => lines::draw(picture, lines::UNICODE, session.columns),
        (false, depth) => blocks::draw(picture, depth, session.columns),
    }
}
