//! Inputs while it plays on a terminal: values, and the clock of this computer.

use std::time::Duration;

use jiff::Timestamp;
use spare_tile_core::board::OnBoard;
use spare_tile_core::board::presses::Presses;
use spare_tile_core::link::{Link, LinkError};
use spare_tile_core::plan::Rig;
use spare_tile_core::play::Player;
use spare_tile_core::play::reel::Program;

use crate::feed::Feed;

/// How far the clock of this computer may be from where it should be by now; beyond that it was set.
const SET_BY: Duration = Duration::from_millis(50);

/// A player of a program, which begins at the time that it is. Its keys are pressed as the program says.
pub fn begin<'p, L: OnBoard<'p>>(
    rig: &'p Rig,
    program: &'p Program,
    link: L,
) -> Result<Player<'p, Presses<L>>, LinkError> {
    let mut player = Player::of_program(rig, program, Presses::new(link, &program.presses))?;
    follow_wall(&mut player, Duration::ZERO);
    Ok(player)
}

/// Takes note of the values that have come by now; what was wrong with the last one that was none.
pub fn take_values<L: Link>(
    player: &mut Player<'_, L>,
    feed: Option<&Feed>,
    now: Duration,
) -> Option<String> {
    let feed = feed.filter(|_| !player.transport().is_held())?;
    let act = player.transport().act_time(now);
    let (mut came, mut wrong) = (false, None);
    for line in feed.take() {
        match line {
            Ok((variable, value)) => player.inputs_mut().note(&variable, act, value),
            Err(message) => wrong = Some(message),
        }
        came = true;
    }
    if came {
        player.look_again();
    }
    wrong
}

/// Takes note of the clock of this computer, when playing begins and whenever it was set since. While the acts are held or hurried
/// their time is not ours, and neither is that of a program which begins at a time of its own.
pub fn follow_wall<L: Link>(player: &mut Player<'_, L>, now: Duration) {
    if !player.transport().is_true() || player.has_own_wall() {
        return;
    }
    let (act, time) = (player.transport().act_time(now), Timestamp::now());
    let off = time.as_nanosecond() - player.inputs().wall(act);
    if !player.inputs().has_wall() || off.unsigned_abs() > SET_BY.as_nanos() {
        player.inputs_mut().set_wall(act, time);
        player.look_again();
    }
}
