//! Playing below what is on the terminal already.

use std::time::Duration;

use spare_tile_core::play::Playing;

use super::outlet::{self, End, Outlet, Pause, Terms};
use crate::failure::{Failure, Outcome};
use crate::session::Session;
use crate::view;
use crate::view::live::{Live, Woken};
use crate::visible::visible;

/// Lines of a terminal that are drawn over and over.
struct Below<'s, 'o> {
    live: Live,
    session: &'s mut Session<'o>,
    /// The last line of the feed that was not a value, and whether it is new.
    wrong: Option<String>,
    is_other_wrong: bool,
}

/// Plays on a terminal. Unless the last picture stays, a stop puts it out.
pub fn play<'p, P: Playing<'p>>(
    player: &mut P,
    terms: &Terms<'_, P>,
    leaves: bool,
    session: &mut Session<'_>,
) -> Outcome {
    let mut below = Below { live: Live::begin(session)?, session, wrong: None, is_other_wrong: false };
    let end = outlet::play(player, &mut below, terms)?;
    if end != End::Over && !leaves {
        player.off()?;
        player.expose()?;
        below.draw(player, true)?;
    }
    let Below { live, session, .. } = below;
    live.end(session)?;
    end.outcome()
}

impl<'p, P: Playing<'p>> Outlet<P> for Below<'_, '_> {
    fn elapsed(&self) -> Duration {
        self.live.elapsed()
    }

    fn complain(&mut self, wrong: String) {
        self.is_other_wrong = true;
        self.wrong = Some(wrong);
    }

    /// Each picture is what the eye has got by the time it is drawn.
    fn draw(&mut self, player: &mut P, is_new: bool) -> Outcome {
        let is_other_wrong = std::mem::take(&mut self.is_other_wrong);
        if !is_new && !is_other_wrong {
            return Ok(());
        }
        let pictures = player.pictures();
        let mut drawings: Vec<_> =
            pictures.iter().map(|picture| view::terminal(picture, self.session)).collect();
        drawings.extend(self.wrong.as_deref().map(|wrong| visible(wrong).into_owned()));
        self.live.draw(&drawings.join("\n"), self.session)
    }

    fn wait(&mut self, _: &mut P, pause: Pause) -> Result<Woken, Failure> {
        let end = pause.end(self.live.elapsed(), Duration::ZERO);
        self.live.wait_until(Some(end), self.session)
    }
}
