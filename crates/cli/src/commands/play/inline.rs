//! Playing below what is on the terminal already.

use std::time::Duration;

use spare_tile_core::board::OnBoard;
use spare_tile_core::play::{Player, Playing};

use super::outside::{LOOK_AT_FEED, LOOK_AT_WALL, follow_wall, take_values};
use crate::failure::{Failure, Outcome};
use crate::feed::Feed;
use crate::session::Session;
use crate::view;
use crate::view::live::{Live, Woken};
use crate::visible::visible;

/// How it is watched.
pub struct Watching<'w> {
    /// The playing time; `None` if it plays forever.
    pub length: Option<Duration>,
    /// True if the last picture stays when someone stops it.
    pub leaves: bool,
    /// Values that come meanwhile.
    pub feed: Option<&'w Feed>,
}

/// Plays a program on a terminal.
pub fn play<'p>(
    mut player: Player<'p, impl OnBoard<'p>>,
    watching: &Watching<'_>,
    session: &mut Session<'_>,
) -> Outcome {
    run(&mut player, watching, session, |player, now| {
        follow_wall(player, now);
        take_values(player, watching.feed, now)
    })
}

/// Shows on a terminal what plays. Each picture is what the eye has got by the time it is drawn.
pub fn run<'p, P: Playing<'p>>(
    player: &mut P,
    Watching { length, leaves, feed }: &Watching<'_>,
    session: &mut Session<'_>,
    mut look_outside: impl FnMut(&mut P, Duration) -> Option<String>,
) -> Outcome {
    let look = if feed.is_some() { LOOK_AT_FEED } else { LOOK_AT_WALL };
    let mut live = Live::begin(session)?;
    let mut elapsed = Duration::ZERO;
    // The last line of the feed that was not a value.
    let mut wrong = None;
    loop {
        let new_wrong = look_outside(player, live.elapsed());
        let looks_different = player.advance(elapsed)?;
        if looks_different {
            elapsed = elapsed.max(player.expose()?);
        }
        if looks_different || new_wrong.is_some() {
            wrong = new_wrong.or(wrong);
            live.draw(&drawing(player, wrong.as_deref(), session), session)?;
        }
        // Everything that was due meanwhile is drawn once, in its current state.
        let next = player.next_moment().map(|next| next.max(live.elapsed()).max(elapsed));
        let next = next.into_iter().chain(*length).chain([live.elapsed() + look]).min();
        let stop = loop {
            match live.wait_until(next, session)? {
                Woken::Redraw => live.draw(&drawing(player, wrong.as_deref(), session), session)?,
                Woken::Due => break None,
                stop => break Some(stop),
            }
        };
        if let Some(stop) = stop {
            if !leaves {
                player.off()?;
                player.expose()?;
                live.draw(&drawing(player, wrong.as_deref(), session), session)?;
            }
            live.end(session)?;
            return if stop == Woken::Quit { Ok(()) } else { Err(Failure::interrupted()) };
        }
        match next {
            Some(next) if length.is_none_or(|length| next < length) => elapsed = next,
            _ => return live.end(session),
        }
    }
}

fn drawing<'p>(player: &mut impl Playing<'p>, wrong: Option<&str>, session: &Session<'_>) -> String {
    let pictures = player.pictures();
    let mut drawings: Vec<_> = pictures.iter().map(|picture| view::terminal(picture, session)).collect();
    drawings.extend(wrong.map(|wrong| visible(wrong).into_owned()));
    drawings.join("\n")
}
