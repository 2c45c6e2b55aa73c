//! The first pictures of a project, from the same board that `play` shows.

use std::time::Duration;

use jiff::Timestamp;
use spare_tile_core::board::Board;
use spare_tile_core::plan::Rig;
use spare_tile_core::play::Player;
use spare_tile_core::play::reel::Program;

use crate::commands::play::frames::Frames;
use crate::failure::Failure;
use crate::session::Session;

/// The most pictures in the file.
const MOST: usize = 10;
/// The time after which no more changes are expected.
const LONGEST: Duration = Duration::from_secs(60);

/// The text of the file.
pub fn text(rig: &Rig, program: &Program, begins: Timestamp) -> Result<String, Failure> {
    let length = program.length().map_or(LONGEST, |length| length.min(LONGEST));
    let new_player = || -> Result<_, Failure> {
        let mut player = Player::of_program(rig, program, Board::new(rig))?;
        player.inputs_mut().set_wall(Duration::ZERO, begins);
        Ok(player)
    };
    let mut moments = Vec::new();
    let mut player = new_player()?;
    let mut elapsed = Duration::ZERO;
    while moments.len() < MOST && elapsed < length {
        if player.advance(elapsed)? {
            moments.push(elapsed);
        }
        match player.next_moment() {
            Some(next) => elapsed = next,
            None => break,
        }
    }
    let mut text = b"What is to be seen, from when on.\n\n".to_vec();
    let mut player = new_player()?;
    let mut session = Session::of_text(&mut text);
    session.ascii = true;
    Frames::new(None).write_stills(&mut player, &moments, &mut session)?;
    drop(session);
    Ok(String::from_utf8_lossy(&text).into_owned())
}
