//! The one loop in which something plays as time passes, wherever it is seen.

use std::time::Duration;

use spare_tile_core::board::OnBoard;
use spare_tile_core::play::{Player, Playing};

use super::outside::{follow_wall, take_values};
use crate::failure::{Failure, Outcome};
use crate::feed::Feed;
use crate::view::live::Woken;

/// Where it is seen: on the whole screen of a terminal, below what is on it, or one picture after another in an output.
pub trait Outlet<P> {
    /// The time since it began.
    fn elapsed(&self) -> Duration;

    /// Does to the player what the user has asked for by now.
    fn act(&mut self, player: &mut P) {
        let _ = player;
    }

    /// Tells the user of a mistake in what came from outside.
    fn complain(&mut self, wrong: String);

    /// Draws what plays; `is_new` if it looks different.
    fn draw(&mut self, player: &mut P, is_new: bool) -> Outcome;

    /// Waits for a pause, or until something is due before its end, or until the user acts.
    fn wait(&mut self, player: &mut P, pause: Pause) -> Result<Woken, Failure>;
}

/// How long to wait.
#[derive(Debug, Clone, Copy)]
pub struct Pause {
    /// The next moment at which something changes.
    pub due: Option<Duration>,
    /// The time to which playing has come already: looking takes some. No wait ends before.
    pub ahead: Duration,
    /// How often values from outside are looked at.
    pub most: Duration,
}

impl Pause {
    /// The moment at which a wait ends that begins now and is not shorter than `least`.
    pub fn end(self, now: Duration, least: Duration) -> Duration {
        let earliest = (now + least).max(self.ahead);
        self.due.map_or(earliest + self.most, |due| due.clamp(earliest, earliest + self.most))
    }
}

/// The reason why it ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum End {
    /// It was over.
    Over,
    /// It was ended by the user or the input.
    Quit,
    /// The user or the system asks the program to end at once.
    Interrupt,
    /// Its files have changed; the moment of the acts that it had come to.
    Changed(Duration),
}

impl End {
    /// The end as the result of a command.
    pub fn outcome(self) -> Outcome {
        if self == Self::Interrupt { Err(Failure::interrupted()) } else { Ok(()) }
    }
}

/// Inputs from outside, and the reasons to end.
pub struct Terms<'t, P> {
    /// The playing time; `None` if it plays forever.
    pub length: Option<Duration>,
    /// Returns true if its files have changed.
    pub has_changed: &'t dyn Fn() -> bool,
    /// Takes what has come from outside.
    pub look_outside: &'t LookOutside<'t, P>,
    /// How often it is looked at.
    pub look_every: Duration,
}

impl<'t, P> Terms<'t, P> {
    /// Of files that do not change, with values from a feed if there is one.
    pub fn new(length: Option<Duration>, feed: Option<&Feed>, look_outside: &'t LookOutside<'t, P>) -> Self {
        /// How often the clock of this computer is looked at, and how often the values of a feed.
        const LOOK: Duration = Duration::from_millis(100);
        const LOOK_AT_FEED: Duration = Duration::from_millis(20);
        let look_every = if feed.is_some() { LOOK_AT_FEED } else { LOOK };
        Self { length, has_changed: &|| false, look_outside, look_every }
    }
}

/// A look at what has come from outside by a moment, with the last mistake in it.
pub type LookOutside<'t, P> = dyn Fn(&mut P, Duration) -> Option<String> + 't;

/// A look at the clock of this computer, and at the values of a feed.
pub fn looking<'p, L: OnBoard<'p>>(
    feed: Option<&Feed>,
) -> impl Fn(&mut Player<'p, L>, Duration) -> Option<String> {
    move |player, now| {
        follow_wall(player, now);
        take_values(player, feed, now)
    }
}

/// Plays until it ends or is ended.
pub fn play<'p, P: Playing<'p>>(
    player: &mut P,
    outlet: &mut impl Outlet<P>,
    terms: &Terms<'_, P>,
) -> Result<End, Failure> {
    let mut is_new = true;
    loop {
        outlet.act(player);
        if let Some(wrong) = (terms.look_outside)(player, outlet.elapsed()) {
            outlet.complain(wrong);
        }
        // Everything that was due meanwhile is drawn once, in its current state.
        is_new |= player.advance(outlet.elapsed().max(player.elapsed()))?;
        if terms.length.is_some_and(|length| player.act_time() >= length) {
            return Ok(End::Over);
        }
        if (terms.has_changed)() {
            return Ok(End::Changed(player.act_time()));
        }
        if is_new {
            player.expose()?;
        }
        outlet.draw(player, is_new)?;
        let pause = Pause { due: player.next_moment(), ahead: player.elapsed(), most: terms.look_every };
        let woken = outlet.wait(player, pause)?;
        is_new = woken == Woken::Redraw;
        match woken {
            Woken::Due | Woken::Redraw => {}
            Woken::Quit => return Ok(End::Quit),
            Woken::Interrupt => return Ok(End::Interrupt),
        }
    }
}
