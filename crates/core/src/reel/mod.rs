//! Time: acts, and the reel that plays them on faces.
//!
//! An [`Act`] is a pure function of elapsed time, so it can be sampled at any moment in any order and never
//! drifts. It also says when its picture changes next: a player sleeps until that moment, counted from the
//! start, and an export jumps there. A [`Reel`] holds a track for each face; a [`Player`] sends the frames
//! that changed through the faces' pipelines.

pub mod count;
pub mod selftest;

use std::time::Duration;

use crate::face::Face;
use crate::frame::Frame;
use crate::pipeline::Pipeline;
use crate::rig::Mount;

/// Timed content of one face.
///
/// An implementer guarantees that [`Act::draw`] depends on nothing but its arguments, and that it draws the
/// same frame from one [`Act::next_change`] to just before the next.
pub trait Act {
    /// Draws the frame at `elapsed` since the act began into a dark frame of the face. After the end it
    /// draws what was last shown.
    fn draw(&self, elapsed: Duration, face: &Face, frame: &mut Frame);

    /// The first moment after `elapsed` at which the frame may differ; `None` when it stays for good.
    fn next_change(&self, elapsed: Duration) -> Option<Duration>;

    /// How long the act lasts; `None` when it never ends.
    fn length(&self) -> Option<Duration>;
}

/// What plays on one face.
pub struct Track<'r> {
    /// The face and its drive.
    pub mount: &'r Mount,
    /// What it shows.
    pub act: Box<dyn Act>,
}

/// Tracks that begin together.
pub struct Reel<'r> {
    /// A track for each face that plays.
    pub tracks: Vec<Track<'r>>,
}

impl Reel<'_> {
    /// The first moment after `elapsed` at which any face may change.
    #[must_use]
    pub fn next_change(&self, elapsed: Duration) -> Option<Duration> {
        self.tracks.iter().filter_map(|track| track.act.next_change(elapsed)).min()
    }

    /// When the last track ends; `None` when one never does.
    #[must_use]
    pub fn length(&self) -> Option<Duration> {
        self.tracks
            .iter()
            .map(|track| track.act.length())
            .try_fold(Duration::ZERO, |longest, length| Some(longest.max(length?)))
    }
}

/// How often everything is sent again to a track's face.
fn resend_every(track: &Track<'_>) -> Option<Duration> {
    track.mount.drive.ends.resend_every().map(|every| Duration::from_nanos(every.0))
}

/// A reel on powered faces.
pub struct Player<'p> {
    reel: &'p Reel<'p>,
    stages: Vec<Stage<'p>>,
}

/// One face of a player: its pipeline and the frame it shows.
struct Stage<'p> {
    pipeline: Pipeline<'p>,
    shown: Frame,
    /// The next frame is drawn here, then swapped in.
    drawn: Frame,
    fresh: bool,
    /// When everything is sent again, where the rig asks for it.
    resend_at: Option<Duration>,
}

impl<'p> Player<'p> {
    /// Powers the faces up.
    #[must_use]
    pub fn new(reel: &'p Reel<'p>) -> Self {
        let stages = reel.tracks.iter().map(|track| {
            let mut pipeline = Pipeline::new(track.mount);
            pipeline.power_up();
            let dark = track.mount.face.blank();
            let resend_at = resend_every(track);
            Stage { pipeline, shown: dark.clone(), drawn: dark, fresh: true, resend_at }
        });
        Self { reel, stages: stages.collect() }
    }

    /// Draws every track at `elapsed` and sends the frames that differ from what is shown. Returns whether
    /// there was any; the first call always sends.
    pub fn show_at(&mut self, elapsed: Duration) -> bool {
        let mut changed = false;
        for (track, stage) in self.reel.tracks.iter().zip(&mut self.stages) {
            stage.drawn.clear();
            track.act.draw(elapsed, &track.mount.face, &mut stage.drawn);
            if stage.fresh || stage.drawn != stage.shown {
                std::mem::swap(&mut stage.drawn, &mut stage.shown);
                stage.fresh = false;
                stage.pipeline.wait_until(elapsed.into());
                stage.pipeline.show(&stage.shown);
                changed = true;
            }
            if stage.resend_at.is_some_and(|resend| resend <= elapsed) {
                stage.pipeline.wait_until(elapsed.into());
                stage.pipeline.refresh();
                stage.resend_at = resend_every(track).map(|every| elapsed + every);
            }
        }
        changed
    }

    /// The first moment after `elapsed` at which there is something to send.
    #[must_use]
    pub fn next_change(&self, elapsed: Duration) -> Option<Duration> {
        let resends = self.stages.iter().filter_map(|stage| stage.resend_at);
        self.reel.next_change(elapsed).into_iter().chain(resends).min()
    }

    /// Puts every face out.
    pub fn off(&mut self) {
        for stage in &mut self.stages {
            stage.pipeline.off();
        }
    }

    /// The pipelines, one a track.
    pub fn pipelines(&mut self) -> impl Iterator<Item = &mut Pipeline<'p>> {
        self.stages.iter_mut().map(|stage| &mut stage.pipeline)
    }
}
