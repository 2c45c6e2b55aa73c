//! Playing where nobody watches: picture by picture.

use std::cell::RefCell;
use std::collections::VecDeque;
use std::ops::Range;
use std::time::{Duration, Instant};

use serde::Serialize;
use spare_tile_core::board::Board;
use spare_tile_core::board::link::Glance;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::bus::{Op, Reply, Role};
use spare_tile_core::plan::{DeviceId, Mount, Rig};
use spare_tile_core::play::Playing;
use spare_tile_core::play::clock::Speed;

use super::ops::{Telling, Told};
use crate::commands::show::SeenAnswer;
use crate::failure::{Failure, Outcome};
use crate::session::Session;
use crate::view;

/// A moment in microseconds, exact where that is a whole number of nanoseconds.
pub fn micros(at: Duration) -> f64 {
    at.as_nanos() as f64 / 1e3
}

/// What is seen of a face from a moment on.
#[derive(Serialize)]
struct FrameAnswer<'a> {
    t_us: f64,
    face: &'a str,
    picture: SeenAnswer<'a>,
    /// What was sent to it since its last picture, the last of it where that is much, but for what asks for its keys. Nothing of a face that
    /// the controller scans, to which something is sent all the time.
    ops: Vec<Told>,
}

/// Goes from moment to moment without waiting: what is to be seen anew, which may be nothing, and for how long it stays.
fn walk<'p>(
    player: &mut dyn Playing<'p>,
    length: Duration,
    mut seen: impl FnMut(&[Picture<'_>], Range<Duration>) -> Outcome,
) -> Outcome {
    let mut elapsed = Duration::ZERO;
    let mut is_owed = false;
    loop {
        is_owed |= player.advance(elapsed)?;
        let mut pictures = Vec::new();
        // What nobody had the time to see is seen with what comes next.
        if is_owed && player.watch(length)? {
            pictures = player.pictures();
            is_owed = false;
        }
        let next = player.next_moment().filter(|next| *next < length);
        seen(&pictures, elapsed..next.unwrap_or(length))?;
        match next {
            Some(next) => elapsed = next,
            None => return Ok(()),
        }
    }
}

/// The same of one face by its name: its picture where something is to be seen anew.
pub fn walk_face<'p>(
    player: &mut dyn Playing<'p>,
    length: Duration,
    face: &str,
    mut seen: impl FnMut(Option<&Picture<'_>>, Range<Duration>) -> Outcome,
) -> Outcome {
    walk(player, length, |pictures, time| {
        seen(pictures.iter().find(|picture| picture.face.name == face), time)
    })
}

/// Where pictures go, with what was sent for them.
pub struct Frames {
    /// When it began, and how fast it goes, where it is not as fast as can be.
    pace: Option<(Instant, Speed)>,
    /// What was sent, each after the name of its face.
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
        let tell = move |id: DeviceId, op: &Op<'_>, _: &Reply| {
            let is_scanned = |mount: &Mount| mount.drive.display().scan().is_some();
            let Some(teller) = telling.of_device(id).filter(|of| op.role != Role::Keys && !is_scanned(of.0))
            else {
                return;
            };
            let mut sent = self.sent.borrow_mut();
            if sent.len() >= MOST_OPS {
                sent.pop_front();
            }
            sent.push_back((teller.0.face.name.clone(), Told::of(&teller.1, op)));
        };
        Glance { link: board, tell }
    }

    /// Writes the picture of each face that looks different, as they come.
    pub fn write<'p>(
        &self,
        player: &mut impl Playing<'p>,
        length: Duration,
        session: &mut Session<'_>,
    ) -> Outcome {
        let mut written: Vec<Vec<f32>> = Vec::new();
        walk(player, length, |pictures, time| {
            written.resize(pictures.len().max(written.len()), Vec::new());
            for (picture, before) in pictures.iter().zip(&mut written) {
                if *before == picture.light {
                    continue;
                }
                before.clone_from(&picture.light);
                self.wait(time.start, session)?;
                self.write_one(picture, time.start, session)?;
            }
            Ok(())
        })?;
        self.wait(length, session)
    }

    /// Writes what is seen of all faces at some moments.
    pub fn write_stills<'p>(
        &self,
        player: &mut impl Playing<'p>,
        moments: &[Duration],
        session: &mut Session<'_>,
    ) -> Outcome {
        let mut moments = moments.to_vec();
        moments.sort_unstable();
        for at in moments {
            player.advance(at)?;
            player.expose()?;
            for picture in player.pictures() {
                self.write_one(&picture, at, session)?;
            }
        }
        Ok(())
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
