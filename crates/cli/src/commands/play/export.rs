//! Playing into files that stand still: a contact sheet, and a dump of the lines.

use std::io;
use std::path::Path;
use std::time::Duration;

use spare_tile_core::board::Board;
use spare_tile_core::board::OnBoard;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::capture::vcd::{Dump, Scope};
use spare_tile_core::plan::BothRigs;
use spare_tile_core::play::Playing;
use spare_tile_core::play::reel::Program;

use super::frames::{Playtime, Whose, at_moments, walk_faces};
use super::outside;
use crate::exports::{self, dump::ValueChanges, png::Png};
use crate::failure::{Failure, Outcome};
use crate::session::Session;
use crate::view::sheet::{self, Still};

/// The most pictures of a sheet.
const MOST_STILLS: usize = 240;
/// The longest dump: a minute of a scan is millions of edges.
const LONGEST_DUMP: Duration = Duration::from_secs(60);

/// The size of the buffer.
const PIECE: Duration = Duration::from_millis(5);

/// Writes pictures as a contact sheet: those of some moments, or else every one that differs, each with the moment from which on
/// it is seen.
pub fn sheet<'p>(
    player: &mut dyn Playing<'p>,
    time: Playtime,
    moments: &[Duration],
    whose: Whose<'_>,
    path: &Path,
    session: &mut Session<'_>,
) -> Outcome {
    let mut stills: Vec<Still> = Vec::new();
    let mut add = |pictures: &[&Picture<'_>], at| {
        stills.push(Still::of(pictures, at));
        if stills.len() <= MOST_STILLS {
            return Ok(());
        }
        let message = format!("a sheet has {MOST_STILLS} pictures at most; these are more");
        Err(Failure::unusable(message, "ask for less with --for, or for some with --stills 1s,2s"))
    };
    if moments.is_empty() {
        let mut seen: Vec<Vec<f32>> = Vec::new();
        walk_faces(player, time, whose, |pictures, time| {
            let lights = || pictures.iter().map(|picture| &picture.light);
            if pictures.is_empty() || lights().eq(&seen) {
                return Ok(());
            }
            seen = lights().cloned().collect();
            add(pictures, time.start)
        })?;
    } else {
        at_moments(player, moments, whose, add)?;
    }
    let page = sheet::draw(&stills, whose.title());
    exports::write_drawing(path, &Png, &page, session)
}

/// Checks that a dump of this length can be written.
pub fn check_dump(length: Duration) -> Outcome {
    if length > LONGEST_DUMP {
        let message = format!("a dump of {} s is too long", length.as_secs());
        return Err(Failure::unusable(message, "say how long: --for 10s; a minute at most"));
    }
    Ok(())
}

/// Writes what the lines of a face do, from power-up on.
pub fn dump(
    rigs: BothRigs<'_>,
    program: &Program,
    time: Playtime,
    face: usize,
    path: &Path,
    session: &mut Session<'_>,
) -> Outcome {
    let rig = rigs.described;
    let mount = &rig.faces[face];
    let mut board = Board::built_as(rigs).at_rest();
    let levels = board.levels_of(mount);
    board.record();
    let mut player = outside::begin(rig, program, board)?;
    let last = time.last();
    exports::write_and_tell(path, &ValueChanges, session, |out| {
        let mut dump = Dump::begin(out, &[Scope::of(mount, levels, &[])])?;
        let mut at = Duration::ZERO;
        // Piece by piece: a second of a panel is millions of edges.
        loop {
            player.advance(at).map_err(io::Error::other)?;
            for edge in player.scheduler_mut().link_mut().board().recorded_of(mount) {
                dump.change(edge.at, edge.line, edge.level)?;
            }
            if at >= last {
                return dump.end(player.scheduler().now());
            }
            at = last.min(at + PIECE);
        }
    })
}
