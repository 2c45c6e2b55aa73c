//! Operations on the lines: described, logged and replayed.

use std::fs;
use std::io;
use std::path::Path;
use std::time::Duration;

use serde::Serialize;
use spare_tile_core::board::Board;
use spare_tile_core::bus::{Op, Reply};
use spare_tile_core::link::Tap;
use spare_tile_core::plan::teller::Teller;
use spare_tile_core::plan::{BothRigs, DeviceId, Mount, Rig};
use spare_tile_core::play::Player;
use spare_tile_core::play::reel::Program;
use spare_tile_core::play::replay::{self, Log, Replay};

use super::frames::{Playtime, micros};
use super::how::{How, New, whose, write_films};
use super::inline;
use super::outlet::Terms;
use super::outside;
use crate::exports::{self, ops::OpsLog};
use crate::failure::{Failure, Outcome};
use crate::files;
use crate::input;
use crate::options::Base;
use crate::rigs::FaceOfRig;
use crate::session::Session;

/// An operation in words.
#[derive(Serialize)]
pub struct Told {
    pub role: &'static str,
    pub bytes: String,
    /// The bytes that the part answered.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub answered: String,
    pub note: String,
}

/// An operation of a face at a moment.
#[derive(Serialize)]
struct OpAnswer<'a> {
    t_us: f64,
    face: &'a str,
    #[serde(flatten)]
    told: Told,
}

/// Puts operations of a rig into words.
pub struct Telling<'r>(Vec<(&'r Mount, Teller<'r>)>);

impl<'r> Telling<'r> {
    pub fn of(rig: &'r Rig) -> Self {
        Self(rig.faces.iter().map(|mount| (mount, Teller::new(mount))).collect())
    }

    /// The face of a device, and what puts its operations into words.
    pub fn of_device(&self, id: DeviceId) -> Option<&(&'r Mount, Teller<'r>)> {
        self.0.iter().find(|(mount, _)| mount.device == id)
    }
}

impl Told {
    pub fn of(teller: &Teller<'_>, op: &Op<'_>, reply: &Reply) -> Self {
        let bytes: Vec<u8> = op.transfer.on_the_wire().collect();
        let (bytes, answered) = (Base::Hex.write_all(&bytes), Base::Hex.write_all(&reply.bytes));
        Self { role: op.role.name(), bytes, answered, note: teller.of_transfer(&op.transfer) }
    }
}

/// Plays a program and hands on every operation as it goes over the buses, of all faces in the order of their moments.
fn every_op(
    rigs: BothRigs<'_>,
    program: &Program,
    time: Playtime,
    mut take: impl FnMut(DeviceId, &Op<'_>, &Reply) -> Outcome,
) -> Outcome {
    let mut taken: Outcome = Ok(());
    let tell = |id: DeviceId, op: &Op<'_>, reply: &Reply, _: &mut Board<'_>| {
        if taken.is_ok() {
            taken = take(id, op, reply);
        }
    };
    let link = Tap { link: Board::built_as(rigs).at_rest(), tell };
    let mut player = outside::begin(rigs.described, program, link)?;
    player.advance(time.last())?;
    drop(player);
    taken
}

/// Writes the operations in words.
pub fn tell(rigs: BothRigs<'_>, program: &Program, time: Playtime, session: &mut Session<'_>) -> Outcome {
    let telling = Telling::of(rigs.described);
    every_op(rigs, program, time, |id, op, reply| {
        let Some((mount, teller)) = telling.of_device(id) else { return Ok(()) };
        let (told, at) = (Told::of(teller, op, reply), Duration::from(reply.began));
        if session.json {
            let answer = OpAnswer { t_us: micros(at), face: &mount.face.name, told };
            return session.write_json_line(&answer);
        }
        let Told { role, mut bytes, answered, note } = told;
        if !answered.is_empty() {
            bytes = format!("{bytes} > {answered}");
        }
        Ok(writeln!(session.out, "{:>11.6} s  {role:8}  {bytes}  {note}", at.as_secs_f64())?)
    })
}

/// Writes the operations down, to be played again.
pub fn write_down(
    rigs: BothRigs<'_>,
    program: &Program,
    time: Playtime,
    path: &Path,
    session: &mut Session<'_>,
) -> Outcome {
    let telling = Telling::of(rigs.described);
    let powered = Player::of_program(rigs.described, program, Board::built_as(rigs).at_rest())?;
    let begins = powered.moment(Duration::ZERO);
    exports::write_and_tell(path, &OpsLog, session, |out| {
        writeln!(out, "{}", replay::head(begins, time.length))?;
        let written = every_op(rigs, program, time, |id, op, reply| {
            let Some((mount, _)) = telling.of_device(id) else { return Ok(()) };
            Ok(writeln!(out, "{}", replay::line(&mount.face.name, op, reply.began))?)
        });
        written.map_err(|failure| io::Error::other(failure.words()))
    })
}

/// Returns true if a file to be played is a log of operations, not a reel.
pub fn is_log(path: &Path) -> bool {
    let begins = |path: &Path| {
        let mut first = [0];
        let read = fs::File::open(path).and_then(|mut file| io::Read::read(&mut file, &mut first));
        read.is_ok_and(|read| read == 1) && first == *b"{"
    };
    !input::is_named(path) && path.is_file() && begins(path)
}

/// Plays operations that were written down.
pub fn play_again(path: &Path, file: &FaceOfRig, how: &How, session: &mut Session<'_>) -> Outcome {
    let rig = file.load(session)?;
    let text = files::read_bytes(path, "ops").and_then(|bytes| files::text(path, "ops", bytes))?;
    let log = Log::read(&text, &rig).map_err(|error| {
        let help = "write one with --ops=FILE, for a rig with the same faces";
        Failure::unusable(format!("{}: {error}", path.display()), help)
    })?;
    let other = how.built.load(file, &rig, session)?;
    let time = how.playtime(log.length(), || true);
    how.refuse_for_log()?;
    let board = || Board::built_as(BothRigs::new(&rig, other.as_ref())).at_rest();
    if how.is_watched(session) {
        let terms = Terms::new(Some(time.length), None, &|_, _| None);
        return inline::play(&mut Replay::new(&rig, &log, board()), &terms, how.leave, session);
    }
    if how.has_film() {
        let new: &New<'_, '_> = &|| Ok(Box::new(Replay::new(&rig, &log, board())));
        return write_films(new, whose(file, &rig)?, time, how, session);
    }
    let frames = how.frames();
    let mut replay = Replay::new(&rig, &log, frames.listen(&rig, board()));
    match how.stills.as_slice() {
        [] => frames.write(&mut replay, time, session),
        stills => frames.write_stills(&mut replay, stills, session),
    }
}
