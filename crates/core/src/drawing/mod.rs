//! Drawings by hand: the frames of a sprite, dot by dot, and characters, segment by segment.
//!
//! A [`film::Film`] and a [`sheet::Sheet`] are what an editor changes; both keep all states in a [`history::History`], so that
//! every change can be undone. Nothing here knows of keys, a mouse or a screen.

pub mod film;
pub mod history;
pub mod sheet;
