//! The core on its own, through its public face.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod acts;
mod bare;
mod bare_findings;
mod bare_levels;
mod budget;
mod by_hand;
mod captures;
mod chip_findings;
mod chips;
mod clock;
mod closed_loop;
mod common;
mod contacts;
mod documents;
mod drafts;
mod drawings;
mod dump;
mod extras;
mod faults;
mod folders;
mod fonts;
mod glyphs;
mod greys;
mod grid_dots;
mod layers;
mod lettering;
mod links;
mod outside;
mod panels;
mod readers;
mod reels;
mod replay;
mod rig_findings;
#[cfg(feature = "schema")]
mod schema;
mod shopping;
mod sides;
mod slides;
mod sprites;
mod teller;
mod two_rigs;
mod ways;
mod whole;
mod wires;
