//! Source for controllers: tables of patterns that compile as they are, lists of what is sent, whole projects.
//!
//! It knows the rigs, drivers and acts of [the core](spare_tile_core), which does not know it.
//!
//! All of it is written by [templates](template): those of [`forms`] say a table, a font or a list in a language, those of a
//! [target](project::targets) a whole project.

pub mod data;
pub mod forms;
pub mod ops;
pub mod project;
pub mod table;
pub mod template;
