//! `capture`: what a recorded bus put on the display, when, and what was odd.

use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::time::Duration;

use clap::Args;
use serde::Serialize;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::capture::csv::Samples;
use spare_tile_core::capture::guess::{self, Guess};
use spare_tile_core::capture::read::Dump;
use spare_tile_core::capture::story::{Follower, Happening, Wanted};
use spare_tile_core::capture::{Change, ReadError, Reader, Wire};
use spare_tile_core::content::text::{self, Align, Field};
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::part::methods;
use spare_tile_core::plan::{Mount, Rig};
use spare_tile_core::units::{Hertz, Nanos, parse_duration};

use crate::commands::show::PictureAnswer;
use crate::failure::{Failure, Outcome};
use crate::rigs::{FaceOfRig, RigFile};
use crate::session::Session;
use crate::view;

/// Tell what a recorded bus put on the display, and what was odd
///
/// Reads a value change dump (IEEE 1364) or samples in columns (CSV), of any length, also from standard input.
#[derive(Args)]
pub struct Capture {
    /// The recording; - is standard input
    #[arg(value_name = "FILE")]
    file: PathBuf,
    /// The rig whose lines were recorded
    #[arg(short, long, value_name = "FILE", env = "SPARE_TILE_RIG")]
    rig: Option<PathBuf>,
    /// The face, by its name in the rig; may be left out where there is one
    #[arg(short, long, value_name = "NAME")]
    face: Option<String>,
    /// The part that was spoken to, in place of a rig: max7219, tm1637, tm1638, ht16k33
    #[arg(long, value_name = "PART")]
    part: Option<String>,
    /// Which line is on which wire: clock=D0,data=D1 [default: told by names, or by what makes most sense]
    #[arg(long, value_name = "LINE=WIRE,...", value_delimiter = ',')]
    map: Vec<String>,
    /// The rate of samples that have no times, such as 24MHz
    #[arg(long, value_name = "RATE")]
    rate: Option<Hertz>,
    /// Draw each picture
    #[arg(long)]
    pictures: bool,
    /// Just the picture at this time, such as 12.5ms
    #[arg(long, value_name = "TIME", value_parser = parse_duration, conflicts_with = "last")]
    at: Option<Duration>,
    /// Just the picture at the end
    #[arg(long = "final")]
    last: bool,
    /// Whether this text was ever shown; the exit status is 1 when it was not
    #[arg(long, value_name = "TEXT", allow_hyphen_values = true, conflicts_with_all = ["last", "at"])]
    expect: Option<String>,
}

/// How much of a recording is looked at to tell wires and part.
const LOOK_AT: usize = 20_000;
/// How much is read at once.
const PIECE: usize = 64 * 1024;

/// Runs `capture`.
pub fn run(capture: &Capture, session: &mut Session<'_>) -> Outcome {
    let mut recording = Recording::open(capture, session)?;
    let beginning = recording.beginning()?;
    let known = capture.known(session)?;
    let subject = match &known {
        Some(rig) => {
            let mount = capture.pick(rig)?;
            let map = capture.map_of(rig, mount, recording.reader.wires(), &beginning, session)?;
            Subject { rig, mount, map }
        }
        None => {
            let message = "this traffic looks like no part that the tool knows";
            let help =
                "name the rig: --rig FILE, or the part: --part NAME; and the wires: --map clock=D0,data=D1";
            return match identify(&recording, &beginning) {
                None => Err(Failure::unusable(message, help)),
                Some(found) => {
                    let mount = &found.rig.faces[0];
                    found.tell(recording.reader.wires(), session);
                    follow(
                        capture,
                        Subject { rig: &found.rig, mount, map: found.guess.map.clone() },
                        recording,
                        &beginning,
                        session,
                    )
                }
            };
        }
    };
    follow(capture, subject, recording, &beginning, session)
}

/// A face and the line of each wire.
struct Subject<'r> {
    rig: &'r Rig,
    mount: &'r Mount,
    map: Vec<Option<usize>>,
}

/// What unknown traffic is.
struct Found {
    rig: Rig,
    method: &'static str,
    guess: Guess,
    /// What the runner-up made of it.
    next: Option<(&'static str, Guess)>,
}

impl Found {
    fn tell(&self, wires: &[Wire], session: &mut Session<'_>) {
        let Guess { said, odd, .. } = &self.guess;
        let than = self.next.as_ref().map_or_else(String::new, |(method, guess)| {
            format!("; as {method} {} would, with {} oddities", guess.said, guess.odd)
        });
        let map = map_words(&self.rig.faces[0], &self.guess.map, wires);
        session.say_aside(&format!(
            "looks like a {}: {said} transfers make sense, {odd} oddities{than}; {map}",
            self.method
        ));
    }
}

fn map_words(mount: &Mount, map: &[Option<usize>], wires: &[Wire]) -> String {
    let pairs = map.iter().enumerate().filter_map(|(wire, line)| {
        Some(format!("{} is {}", mount.lines.get((*line)?)?.role, wires.get(wire)?.name))
    });
    pairs.collect::<Vec<_>>().join(", ")
}

/// Tries every part with every arrangement of wires on the beginning of a recording.
fn identify(recording: &Recording, beginning: &[Change]) -> Option<Found> {
    let wires = recording.reader.wires();
    let look = &beginning[..beginning.len().min(LOOK_AT / 10)];
    let mut found: Vec<_> = guess::candidates()
        .into_iter()
        .filter_map(|candidate| {
            let mount = &candidate.rig.faces[0];
            let by_names =
                guess::by_names(mount, wires).map(|map| guess::judge(&candidate.rig, mount, map, look));
            let by_activity = guess::by_activity(&candidate.rig, mount, wires.len(), look);
            let best = by_names.into_iter().chain(by_activity).max_by_key(Guess::score)?;
            (best.said > 0).then_some((candidate, best))
        })
        .collect();
    found.sort_by_key(|(_, guess)| std::cmp::Reverse(guess.score()));
    let mut found = found.into_iter();
    let (candidate, guess) = found.next()?;
    let next = found.next().map(|(candidate, guess)| (candidate.method, guess));
    Some(Found { rig: candidate.rig, method: candidate.method, guess, next })
}

impl Capture {
    /// The rig that is named, or made up for the part that is.
    fn known(&self, session: &Session<'_>) -> Result<Option<Rig>, Failure> {
        let Some(part) = &self.part else {
            return self.rig.as_ref().map(|rig| self.face_of_rig(rig).load(session)).transpose();
        };
        let candidate = guess::sample(part).ok_or_else(|| {
            let known: Vec<_> =
                methods().filter(|method| method.sample().is_some()).map(|method| method.name()).collect();
            Failure::unusable(
                format!("there is no part '{part}' to look at traffic by"),
                format!("the parts: {}; for others write a rig: --rig FILE", known.join(", ")),
            )
        })?;
        Ok(Some(candidate.rig))
    }

    fn face_of_rig(&self, rig: &Path) -> FaceOfRig {
        FaceOfRig { file: RigFile { rig: rig.to_owned() }, face: self.face.clone() }
    }

    fn pick<'r>(&self, rig: &'r Rig) -> Result<&'r Mount, Failure> {
        match self.rig.as_ref().filter(|_| self.part.is_none()) {
            Some(file) => self.face_of_rig(file).pick(rig),
            None => Ok(&rig.faces[0]),
        }
    }

    /// The line of each wire: as it is written, by the names, or by what makes most sense.
    fn map_of(
        &self,
        rig: &Rig,
        mount: &Mount,
        wires: &[Wire],
        beginning: &[Change],
        session: &mut Session<'_>,
    ) -> Result<Vec<Option<usize>>, Failure> {
        if !self.map.is_empty() {
            return self.written_map(mount, wires);
        }
        if let Some(map) = guess::by_names(mount, wires) {
            return Ok(map);
        }
        let look = &beginning[..beginning.len().min(LOOK_AT / 10)];
        let guess = guess::by_activity(rig, mount, wires.len(), look).ok_or_else(|| {
            let names: Vec<_> = wires.iter().take(24).map(|wire| wire.name.as_str()).collect();
            let lines: Vec<_> = mount.lines.iter().map(|line| line.role.as_str()).collect();
            Failure::unusable(
                format!(
                    "cannot tell which of the wires {} are the lines {}",
                    names.join(", "),
                    lines.join(", ")
                ),
                "say it: --map LINE=WIRE,LINE=WIRE",
            )
        })?;
        session.say_aside(&format!("by what makes most sense: {}", map_words(mount, &guess.map, wires)));
        Ok(guess.map)
    }

    fn written_map(&self, mount: &Mount, wires: &[Wire]) -> Result<Vec<Option<usize>>, Failure> {
        let mut map = vec![None; wires.len()];
        for pair in &self.map {
            let (line, wire) = pair.split_once('=').ok_or_else(|| {
                Failure::unusable(
                    format!("'{pair}' is no pair of line and wire"),
                    "write --map clock=D0,data=D1",
                )
            })?;
            let roles: Vec<_> = mount.lines.iter().map(|line| line.role.as_str()).collect();
            let line = roles.iter().position(|role| *role == line.trim()).ok_or_else(|| {
                Failure::unusable(
                    format!("the face has no line '{line}'"),
                    format!("its lines: {}", roles.join(", ")),
                )
            })?;
            let place = wires.iter().position(|known| known.name == wire.trim()).ok_or_else(|| {
                let names: Vec<_> = wires.iter().take(24).map(|wire| wire.name.as_str()).collect();
                let help = format!("its wires: {}", names.join(", "));
                Failure::unusable(format!("the recording has no wire '{wire}'"), help)
            })?;
            map[place] = Some(line);
        }
        Ok(map)
    }

    fn wanted(&self) -> Wanted {
        if self.last {
            Wanted::Last
        } else if self.at.is_some() || self.expect.is_some() {
            Wanted::Pictures
        } else {
            Wanted::Story
        }
    }
}

/// A recording that is being read.
struct Recording {
    name: String,
    source: Box<dyn Read>,
    reader: Box<dyn Reader>,
    piece: Vec<u8>,
    ended: bool,
    /// What broke the form: what came before it is still told.
    broken: Option<ReadError>,
}

impl Recording {
    fn open(capture: &Capture, session: &Session<'_>) -> Result<Self, Failure> {
        let name = capture.file.display().to_string();
        let mut source: Box<dyn Read> =
            if name == "-" { Box::new(io::stdin().lock()) } else { session.shelf.open(&capture.file)? };
        // The first byte that is no blank tells the form: a dump begins with a keyword.
        let mut piece = vec![0_u8; PIECE];
        let mut filled = 0;
        while filled < PIECE && !piece[..filled].iter().any(|byte| !byte.is_ascii_whitespace()) {
            match source.read(&mut piece[filled..]).map_err(|error| cannot_read(&name, &error))? {
                0 => break,
                read => filled += read,
            }
        }
        let first = piece[..filled].iter().find(|byte| !byte.is_ascii_whitespace());
        let reader: Box<dyn Reader> = match first {
            Some(b'$') => Box::new(Dump::default()),
            _ => Box::new(Samples::new(capture.rate)),
        };
        let source = Box::new(io::Cursor::new(piece[..filled].to_vec()).chain(source));
        Ok(Self { name, source, reader, piece, ended: false, broken: None })
    }

    /// Reads a piece; whether there may be more.
    fn read(&mut self, changes: &mut Vec<Change>) -> Result<bool, Failure> {
        if self.ended {
            return Ok(false);
        }
        let read = self.source.read(&mut self.piece).map_err(|error| cannot_read(&self.name, &error))?;
        let outcome = if read == 0 {
            self.ended = true;
            self.reader.finish(changes)
        } else {
            self.reader.feed(&self.piece[..read], changes)
        };
        if let Err(error) = outcome {
            self.ended = true;
            self.broken = Some(error);
        }
        Ok(!self.ended)
    }

    /// Whether it was sound so far.
    fn check(&self) -> Outcome {
        self.broken.as_ref().map_or(Ok(()), |error| Err(broken(&self.name, error)))
    }

    /// The first changes, enough to tell wires and part.
    fn beginning(&mut self) -> Result<Vec<Change>, Failure> {
        let mut changes = Vec::new();
        while changes.len() < LOOK_AT && self.read(&mut changes)? {}
        if changes.is_empty() {
            self.check()?;
        }
        Ok(changes)
    }
}

fn cannot_read(name: &str, error: &io::Error) -> Failure {
    Failure::unusable_plainly(format!("cannot read {name}: {error}"))
}

fn broken(name: &str, error: &ReadError) -> Failure {
    let help = match error {
        ReadError::Cell { .. } => "samples are rows of 0 and 1, with a column of times or --rate",
        ReadError::TooManyWires => "record fewer wires, or write out just the display's",
        _ => "a value change dump begins with $ and its declarations; samples are rows of columns",
    };
    Failure::unusable(format!("{name}: {error}"), help)
}

#[derive(Serialize)]
struct NoteAnswer<'a> {
    at_us: f64,
    kind: &'a str,
    words: &'a str,
}

#[derive(Serialize)]
struct PictureAtAnswer<'a> {
    at_us: f64,
    kind: &'a str,
    #[serde(flatten)]
    picture: PictureAnswer<'a>,
}

/// Follows the recording to its end, or to the moment that is asked for.
fn follow(
    capture: &Capture,
    subject: Subject<'_>,
    mut recording: Recording,
    beginning: &[Change],
    session: &mut Session<'_>,
) -> Outcome {
    let Subject { rig, mount, map } = subject;
    let expected = capture.expect.as_deref().map(|words| expected(words, mount)).transpose()?;
    let until = capture.at.map(Nanos::from);
    let mut follower = Follower::new(rig, mount, map, capture.wanted());
    let mut teller = Teller { capture, expected, shown: None, odd: 0, session };
    let (mut happened, mut changes) = (Vec::new(), beginning.to_vec());
    let mut more = true;
    while more {
        let end = until.map_or(changes.len(), |until| changes.partition_point(|change| change.at <= until));
        follower.take(&changes[..end], &mut happened);
        teller.tell(&mut happened)?;
        if end < changes.len() {
            break;
        }
        changes.clear();
        more = recording.read(&mut changes)? || !changes.is_empty();
    }
    let now = until.unwrap_or_else(|| recording.reader.now());
    follower.finish(now, &mut happened);
    teller.tell(&mut happened)?;
    recording.check()?;
    teller.end(now, &follower.picture())
}

/// The pictures that a text would make, wherever it stands.
fn expected(words: &str, mount: &Mount) -> Result<Vec<Vec<bool>>, Failure> {
    let face = &mount.face;
    let frame = |align| -> Result<Frame, Failure> {
        let mut frame = face.blank();
        text::write(words, face, Field::whole(face, align), &mut frame)
            .map_err(|error| Failure::of_text(&error, words))?;
        Ok(frame)
    };
    let lit = |frame: Frame| frame.levels().iter().map(|level| *level != Level::OFF).collect();
    [Align::Left, Align::Right, Align::Centre].into_iter().map(|align| frame(align).map(lit)).collect()
}

/// Tells what happened as it comes.
struct Teller<'t, 's> {
    capture: &'t Capture,
    expected: Option<Vec<Vec<bool>>>,
    /// When what is expected was first shown.
    shown: Option<Nanos>,
    odd: usize,
    session: &'t mut Session<'s>,
}

impl Teller<'_, '_> {
    fn tell(&mut self, happened: &mut Vec<Happening<'_>>) -> Outcome {
        for happening in happened.drain(..) {
            match happening {
                Happening::Note(note) => {
                    self.odd += usize::from(note.odd);
                    let kind = if note.odd { "odd" } else { "said" };
                    let at_us = note.at.as_micros();
                    if self.session.json {
                        self.session.write_json_line(&NoteAnswer { at_us, kind, words: &note.words })?;
                    } else if note.odd {
                        let words = self.session.bold(&note.words).into_owned();
                        writeln!(self.session.out, "{at_us:>12.1} us  odd      {words}")?;
                    } else {
                        writeln!(self.session.out, "{at_us:>12.1} us  said     {}", note.words)?;
                    }
                }
                Happening::Picture(at, picture) => self.picture(at, &picture)?,
            }
        }
        Ok(())
    }

    fn picture(&mut self, at: Nanos, picture: &Picture<'_>) -> Outcome {
        if let Some(expected) = &self.expected {
            // Colons and lamps that the text says nothing of may be lit or not.
            let extras = picture.face.extra(0).0;
            let agrees = |(element, (wanted, light)): (usize, (&bool, &f32))| {
                let lit = *light > 0.0;
                *wanted == lit || (element >= extras && lit)
            };
            let is_shown = |wanted: &Vec<bool>| wanted.iter().zip(&picture.light).enumerate().all(agrees);
            if self.shown.is_none() && expected.iter().any(is_shown) {
                self.shown = Some(at);
            }
            return Ok(());
        }
        if self.capture.at.is_some() {
            return Ok(());
        }
        let at_us = at.as_micros();
        if self.session.json {
            let picture = PictureAnswer::of(picture);
            return self.session.write_json_line(&PictureAtAnswer { at_us, kind: "picture", picture });
        }
        writeln!(self.session.out, "{at_us:>12.1} us  picture  {}", seen(picture))?;
        if self.capture.pictures {
            let drawing = view::terminal(picture, self.session);
            writeln!(self.session.out, "{drawing}\n")?;
        }
        Ok(())
    }

    fn end(self, now: Nanos, picture: &Picture<'_>) -> Outcome {
        let session = self.session;
        if let Some(words) = &self.capture.expect {
            #[derive(Serialize)]
            struct Expected<'a> {
                expected: &'a str,
                shown: bool,
                at_us: Option<f64>,
            }
            let at_us = self.shown.map(Nanos::as_micros);
            if session.json {
                session.write_json(&Expected { expected: words, shown: at_us.is_some(), at_us })?;
            } else {
                match at_us {
                    Some(at) => writeln!(session.out, "{words:?} was shown from {at:.1} us on")?,
                    None => writeln!(session.out, "{words:?} was never shown")?,
                }
            }
            return if at_us.is_some() { Ok(()) } else { Err(Failure::no()) };
        }
        if self.capture.at.is_some() || self.capture.last {
            let at_us = now.as_micros();
            if session.json {
                let picture = PictureAnswer::of(picture);
                return session.write_json(&PictureAtAnswer { at_us, kind: "picture", picture });
            }
            let drawing = view::terminal(picture, session);
            return Ok(writeln!(session.out, "at {at_us:.1} us  {}\n{drawing}", seen(picture))?);
        }
        if !session.json {
            let words = match self.odd {
                0 => "nothing was odd".to_owned(),
                1 => "1 thing was odd".to_owned(),
                odd => format!("{odd} things were odd"),
            };
            writeln!(session.out, "{words}; at the end the display shows {}", seen(picture))?;
        }
        Ok(())
    }
}

/// A picture in a line of words, with its light where that is not full.
fn seen(picture: &Picture<'_>) -> String {
    let light = picture.light.iter().copied().fold(0.0, f32::max);
    let percent = if light > 0.0 && light < 0.995 {
        format!(" at {:.0} % of its light", 100.0 * light)
    } else {
        String::new()
    };
    let face = picture.face;
    let reads = if face.dots().is_some() {
        format!("{} dots", picture.light.iter().filter(|light| **light > 0.0).count())
    } else {
        format!("{:?}", picture.reading())
    };
    let lamps: Vec<_> = face
        .extras
        .iter()
        .enumerate()
        .filter(|(place, extra)| {
            picture.extra(*place) > 0.0 && extra.kind == spare_tile_core::face::ExtraKind::Lamp
        })
        .map(|(_, extra)| extra.name.as_str())
        .collect();
    let lamps = if lamps.is_empty() { String::new() } else { format!(", {}", lamps.join(" ")) };
    if light == 0.0 { "nothing".to_owned() } else { format!("{reads}{lamps}{percent}") }
}
