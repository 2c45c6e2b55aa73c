//! Playing where nobody watches: picture by picture.

use std::cell::RefCell;
use std::collections::VecDeque;
use std::ops::Range;
use std::time::{Duration, Instant};

use serde::Serialize;
use spare_tile_core::board::Board;
use spare_tile_core::board::OnBoard;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::bus::{Op, Reply, Role};
use spare_tile_core::link::Glance;
use spare_tile_core::plan::{DeviceId, Mount, Rig};
use spare_tile_core::play::clock::Speed;
use spare_tile_core::play::{Player, Playing};

use super::ops::{Telling, Told};
use super::outlet::{self, Outlet, Pause, Terms};
use crate::commands::show::SeenAnswer;
use crate::failure::{Failure, Outcome};
use crate::feed::Feed;
use crate::session::Session;
use crate::view;
use crate::view::live::Woken;

/// A moment in microseconds, exact where that is a whole number of nanoseconds.
pub fn micros(at: Duration) -> f64 {
    at.as_nanos() as f64 / 1e3
}

/// The picture of a face from a moment on.
#[derive(Serialize)]
struct FrameAnswer<'a> {
    t_us: f64,
    face: &'a str,
    picture: SeenAnswer<'a>,
    /// The operations that were sent to it since its last picture, only the last ones if there are many, without polls of its buttons. Nothing of a face that
    /// the controller scans, to which something is sent all the time.
    ops: Vec<Told>,
}

/// How long something plays where nobody watches.
#[derive(Debug, Clone, Copy)]
pub struct Playtime {
    pub length: Duration,
    /// True if the picture at the very end is written too: the dark face after a text that has passed.
    pub with_end: bool,
}

impl Playtime {
    /// Returns true if a change at this moment is still written.
    fn reaches(self, at: Duration) -> bool {
        at <= self.last()
    }

    /// The same where it begins again at its end, so that what comes there has no time to be seen.
    pub fn that_begins_again(self) -> Self {
        Self { with_end: false, ..self }
    }

    /// The last moment that is played.
    pub fn last(self) -> Duration {
        if self.with_end { self.length } else { self.length.saturating_sub(Duration::from_nanos(1)) }
    }
}

/// Goes from moment to moment without waiting; passes on the pictures that changed, and how long they stay.
fn walk<'p>(
    player: &mut dyn Playing<'p>,
    time: Playtime,
    mut seen: impl FnMut(&[Picture<'_>], Range<Duration>) -> Outcome,
) -> Outcome {
    let mut elapsed = Duration::ZERO;
    let mut is_owed = false;
    loop {
        is_owed |= player.advance(elapsed)?;
        let mut pictures = Vec::new();
        // A picture that had no time to be seen is shown with the next one.
        if is_owed && player.watch(time.length)? {
            pictures = player.pictures();
            is_owed = false;
        }
        let next = player.next_moment().filter(|next| time.reaches(*next));
        seen(&pictures, elapsed..next.unwrap_or(time.length))?;
        match next {
            Some(next) => elapsed = next,
            None => return Ok(()),
        }
    }
}

/// The faces of which pictures are written into a file.
#[derive(Debug, Clone, Copy)]
pub enum Whose<'a> {
    /// One, by its name.
    Face(&'a str),
    /// All that play.
    All,
}

impl Whose<'_> {
    /// Its pictures among those of all faces.
    fn among<'s, 'p>(self, pictures: &'s [Picture<'p>]) -> Vec<&'s Picture<'p>> {
        let is_one = |picture: &&Picture<'_>| match self {
            Self::Face(name) => picture.face.name == name,
            Self::All => true,
        };
        pictures.iter().filter(is_one).collect()
    }

    /// The title of a file with their pictures.
    pub const fn title(&self) -> &str {
        match self {
            Self::Face(name) => name,
            Self::All => "all faces",
        }
    }
}

/// The same for some faces.
pub fn walk_faces<'p>(
    player: &mut dyn Playing<'p>,
    time: Playtime,
    whose: Whose<'_>,
    mut seen: impl FnMut(&[&Picture<'_>], Range<Duration>) -> Outcome,
) -> Outcome {
    walk(player, time, |pictures, time| seen(&whose.among(pictures), time))
}

/// The pictures of some faces at some moments, in order of time.
pub fn at_moments<'p>(
    player: &mut dyn Playing<'p>,
    moments: &[Duration],
    whose: Whose<'_>,
    mut seen: impl FnMut(&[&Picture<'_>], Duration) -> Outcome,
) -> Outcome {
    let mut moments = moments.to_vec();
    moments.sort_unstable();
    moments.into_iter().try_for_each(|at| {
        player.skip_to(at)?;
        player.expose()?;
        seen(&whose.among(&player.pictures()), at)
    })
}

/// Where pictures go, with what was sent for them.
pub struct Frames {
    /// The time at which it began and its speed, unless it is as fast as possible.
    pace: Option<(Instant, Speed)>,
    /// The operations that were sent, each with the name of its face.
    sent: RefCell<VecDeque<(String, Told)>>,
}

/// No more of what was sent is kept for the next picture.
const MOST_OPS: usize = 2_000;

impl Frames {
    pub fn new(pace: Option<Speed>) -> Self {
        Self { pace: pace.map(|speed| (Instant::now(), speed)), sent: RefCell::default() }
    }

    /// A board that tells what it is sent.
    pub fn listen<'b, 't>(
        &'t self,
        rig: &'t Rig,
        board: Board<'b>,
    ) -> Glance<Board<'b>, impl FnMut(DeviceId, &Op<'_>, &Reply) + use<'b, 't>> {
        let telling = Telling::of(rig);
        let tell = move |id: DeviceId, op: &Op<'_>, reply: &Reply| {
            let is_scanned = |mount: &Mount| mount.drive.display().scan().is_some();
            let Some(teller) =
                telling.of_device(id).filter(|of| op.role != Role::Buttons && !is_scanned(of.0))
            else {
                return;
            };
            let mut sent = self.sent.borrow_mut();
            if sent.len() >= MOST_OPS {
                sent.pop_front();
            }
            sent.push_back((teller.0.face.name.clone(), Told::of(&teller.1, op, reply)));
        };
        Glance { link: board, tell }
    }

    /// Writes the picture of each face that looks different, as they come.
    pub fn write<'p>(
        &self,
        player: &mut impl Playing<'p>,
        time: Playtime,
        session: &mut Session<'_>,
    ) -> Outcome {
        let mut written: Vec<Vec<f32>> = Vec::new();
        walk(player, time, |pictures, time| self.write_changed(pictures, &mut written, time.start, session))?;
        self.wait(time.length, session)
    }

    /// Writes the picture of each face that looks different, as time goes, while values come. Ends at `length`, or without one
    /// when the values have ended.
    pub fn write_fed<'p>(
        &self,
        player: &mut Player<'p, impl OnBoard<'p>>,
        length: Option<Duration>,
        feed: &Feed,
        session: &mut Session<'_>,
    ) -> Outcome {
        let ends_with = length.is_none().then_some(feed);
        let mut fed = Fed { frames: self, ends_with, session, now: Duration::ZERO, written: Vec::new() };
        let look = outlet::looking(Some(feed));
        outlet::play(player, &mut fed, &Terms::new(length, Some(feed), &look))?.outcome()
    }

    /// Writes those of some pictures that look different from the last written ones.
    fn write_changed(
        &self,
        pictures: &[Picture<'_>],
        written: &mut Vec<Vec<f32>>,
        at: Duration,
        session: &mut Session<'_>,
    ) -> Outcome {
        written.resize(pictures.len().max(written.len()), Vec::new());
        for (picture, before) in pictures.iter().zip(written) {
            if *before == picture.light {
                continue;
            }
            before.clone_from(&picture.light);
            self.wait(at, session)?;
            self.write_one(picture, at, session)?;
        }
        Ok(())
    }

    /// Writes what is seen of all faces at some moments.
    pub fn write_stills<'p>(
        &self,
        player: &mut impl Playing<'p>,
        moments: &[Duration],
        session: &mut Session<'_>,
    ) -> Outcome {
        at_moments(player, moments, Whose::All, |pictures, at| {
            pictures.iter().try_for_each(|picture| self.write_one(picture, at, session))
        })
    }

    /// Waits until a moment has come, where pictures come as time goes.
    fn wait(&self, at: Duration, session: &mut Session<'_>) -> Result<(), Failure> {
        if let Some((began, Speed { shown, passed })) = self.pace {
            session.out.flush()?;
            let due = at.mul_f64(f64::from(passed) / f64::from(shown.max(1)));
            std::thread::sleep(due.saturating_sub(began.elapsed()));
        }
        Ok(())
    }

    /// A time of this computer as a time of what plays.
    fn paced(&self, time: Duration) -> Duration {
        self.pace.map_or(time, |(_, Speed { shown, passed })| {
            time.mul_f64(f64::from(shown) / f64::from(passed.max(1)))
        })
    }

    fn write_one(&self, picture: &Picture<'_>, at: Duration, session: &mut Session<'_>) -> Outcome {
        let face = picture.face.name.as_str();
        if session.json {
            let mut sent = self.sent.borrow_mut();
            let (of_face, of_others): (VecDeque<_>, _) = sent.drain(..).partition(|(name, _)| name == face);
            *sent = of_others;
            let ops = of_face.into_iter().map(|(_, told)| told).collect();
            let answer = FrameAnswer { t_us: micros(at), face, picture: SeenAnswer::of(picture), ops };
            return session.write_json_line(&answer);
        }
        let drawing = view::terminal(picture, session);
        Ok(writeln!(session.out, "{:.3} s  {face}\n{drawing}", at.as_secs_f64())?)
    }
}

/// Pictures that are written as time goes, each at the moment from which on it is seen.
struct Fed<'f, 's, 'o> {
    frames: &'f Frames,
    /// The values with which it ends.
    ends_with: Option<&'f Feed>,
    session: &'s mut Session<'o>,
    now: Duration,
    written: Vec<Vec<f32>>,
}

impl<'p, P: Playing<'p>> Outlet<P> for Fed<'_, '_, '_> {
    fn elapsed(&self) -> Duration {
        self.now
    }

    fn complain(&mut self, wrong: String) {
        self.session.say_aside(&wrong);
    }

    fn draw(&mut self, player: &mut P, is_new: bool) -> Outcome {
        if !is_new {
            return Ok(());
        }
        self.frames.write_changed(&player.pictures(), &mut self.written, self.now, self.session)
    }

    fn wait(&mut self, _: &mut P, pause: Pause) -> Result<Woken, Failure> {
        if self.ends_with.is_some_and(Feed::is_over) {
            return Ok(Woken::Quit);
        }
        let most = self.frames.paced(pause.most);
        self.now = Pause { most, ..pause }.end(self.now, Duration::ZERO);
        self.frames.wait(self.now, self.session)?;
        Ok(Woken::Due)
    }
}
