//! Time: acts, the reel that plays them on faces, and the clock that sends what comes of it.
//!
//! An [`Act`] is a pure function of elapsed time and inputs, so it can be sampled at any moment in any order and never
//! drifts. It also says when its picture changes next: a player sleeps until that moment, counted from the start, and an
//! export jumps there. [`clock`], [`count`], [`reading`], [`stopwatch`] and [`gauge`] show what the time or a
//! value is, [`scroll`] moves pictures across dots and texts across digits, [`animation`] plays the frames of a
//! sprite, [`slides`] lets one content follow another. A [`sequence`] lets acts follow one another, [`place`] gives one a part of a face.
//! [`mod@reel`] reads reel files. A [`Reel`] holds tracks; a [`Player`] draws them and hands the frames that changed to the [`scheduler`], the one
//! clock of the rig. [`turn`] and [`slow`] look closely at a scan, [`stall`] at a program that blocks it, [`keyboard`] makes
//! events of push buttons.

pub mod animation;
pub mod clock;
pub mod count;
pub mod cursor;
pub mod dimming;
mod figures;
pub mod gauge;
mod inputs;
pub mod keyboard;
pub mod lamps;
pub mod look;
pub mod place;
mod player;
pub mod reading;
pub mod reel;
pub mod repeated;
pub mod replay;
pub mod say;
pub mod scheduler;
pub mod scroll;
pub mod selftest;
pub mod sequence;
pub mod slides;
pub mod slow;
pub mod stall;
pub mod still;
pub mod stopwatch;
pub mod timeline;
pub mod together;
pub mod transport;
pub mod turn;

use std::time::Duration;

use crate::board::picture::Picture;
use crate::content::Canvas;
use crate::link::LinkError;
use crate::plan::Rig;
use dimming::Light;
use together::longest;

pub use inputs::{Inputs, KeyMoment, Value};
pub use player::Player;

/// Returns a time of this many nanoseconds, or the longest possible one.
pub fn duration(nanos: u128) -> Duration {
    Duration::from_nanos(u64::try_from(nanos).unwrap_or(u64::MAX))
}

/// The shortest time that anything stands in an act: no display shows a shorter one, and playing would take for ever.
pub const SHORTEST: Duration = Duration::from_micros(1);

/// Timed content of a region of a face.
///
/// An implementer guarantees that [`Act::draw`] depends on nothing but its arguments, and that with the same inputs it
/// draws the same from one [`Act::next_change`] to just before the next.
pub trait Act {
    /// Draws what is seen at `elapsed` since the act began onto a dark canvas. What it draws after its end nobody
    /// sees.
    fn draw(&self, elapsed: Duration, inputs: &Inputs, canvas: &mut Canvas<'_>);

    /// Returns the first moment after `elapsed` at which it may look different; `None` if it never changes again.
    fn next_change(&self, elapsed: Duration, inputs: &Inputs) -> Option<Duration>;

    /// How long the act lasts; `None` when it never ends.
    fn length(&self) -> Option<Duration>;

    /// Returns the brightness for its face, if it sets one.
    fn brightness(&self, elapsed: Duration, inputs: &Inputs) -> Option<Light> {
        let _ = (elapsed, inputs);
        None
    }

    /// The variables that it shows.
    fn variables(&self) -> Vec<&str> {
        Vec::new()
    }

    /// Returns the kind of act, for code that writes programs.
    fn kind(&self) -> Kind<'_> {
        Kind::Drawn
    }
}

/// The kind of an act.
#[derive(Clone, Copy)]
#[allow(missing_docs, reason = "the acts say what they are")]
pub enum Kind<'a> {
    /// Pictures that follow from the time alone, unless it shows variables.
    Drawn,
    Count(&'a count::Count),
    Clock(&'a clock::Clock),
    Stopwatch(&'a stopwatch::Stopwatch),
    Reading(&'a reading::Reading),
    Cursor(&'a cursor::Cursor),
    Gauge(&'a gauge::Gauge),
    Placed(&'a place::Placed),
    Sequence(&'a sequence::Sequence),
}

/// Something that plays on a board, moment by moment.
pub trait Playing<'p> {
    /// Lets everything happen that is due up to `until`, that moment included. Whether any face looks different.
    ///
    /// # Errors
    /// When the link fails.
    fn advance(&mut self, until: Duration) -> Result<bool, LinkError>;

    /// Goes to a moment that is all that anybody looks at: pictures before it need not be drawn. Where keys are polled they are,
    /// because what they do depends on each.
    ///
    /// # Errors
    /// When the link fails.
    fn skip_to(&mut self, at: Duration) -> Result<bool, LinkError> {
        self.advance(at)
    }

    /// How long it has been playing.
    fn elapsed(&self) -> Duration;

    /// The moment of what plays: less or more than [elapsed](Self::elapsed) where it is held, sought or played at another speed.
    fn act_time(&self) -> Duration {
        self.elapsed()
    }

    /// The next moment at which something is due.
    fn next_moment(&self) -> Option<Duration>;

    /// Lets the eye watch what plays for as long as it takes to see it, whatever is due meanwhile. Returns when it has.
    ///
    /// # Errors
    /// When the board cannot be spoken to.
    fn expose(&mut self) -> Result<Duration, LinkError>;

    /// Lets the eye watch what plays until something else is due, but for what is due from `end` on. Whether it has seen all of it: a
    /// part of a scan cycle is not reported.
    ///
    /// # Errors
    /// When the board cannot be spoken to.
    fn watch(&mut self, end: Duration) -> Result<bool, LinkError>;

    /// Returns the pictures of the faces that play.
    fn pictures(&mut self) -> Vec<Picture<'p>>;

    /// Puts every face out.
    ///
    /// # Errors
    /// When the link fails.
    fn off(&mut self) -> Result<(), LinkError>;
}

/// For how long the eye watches from a moment on, as a frame is shown from the next turn of a scan on, or where rows are shifted in ahead of
/// time from so much later: from when, so that it is opened late enough where there is time, and until when.
fn exposure(
    begin: Duration,
    (turn, ahead): (Duration, Duration),
    until: Option<Duration>,
) -> (Duration, Duration) {
    let end = begin + 2 * turn + ahead;
    let end = until.map_or(end, |until| end.min(until)).max(begin);
    (begin.max(end.saturating_sub(turn)), end)
}

/// The content of a face.
pub struct Track {
    /// The face, by its place in the rig.
    pub face: usize,
    /// Its act.
    pub act: Box<dyn Act>,
}

/// Tracks that begin together.
#[derive(Default)]
pub struct Reel {
    /// In the order in which they are drawn: a later one draws over an earlier one.
    pub tracks: Vec<Track>,
}

impl Reel {
    /// Returns true if it ends with every face dark.
    #[must_use]
    pub fn ends_dark(&self, rig: &Rig, inputs: &Inputs) -> bool {
        let Some(length) = self.length() else { return false };
        self.tracks.iter().all(|track| {
            let Some(mount) = rig.faces.get(track.face) else { return true };
            let mut frame = mount.face.blank();
            track.act.draw(length, inputs, &mut Canvas::whole(&mount.face, &mut frame));
            frame == mount.face.blank()
        })
    }

    /// When the last track ends; `None` when one never does.
    #[must_use]
    pub fn length(&self) -> Option<Duration> {
        longest(self.tracks.iter().map(|track| track.act.length()))
    }
}
