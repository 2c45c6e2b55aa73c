//! Tells what happened in a recording as it comes, and how it ended.

use std::collections::BTreeMap;

use serde::Serialize;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::capture::story::{Account, Happening};
use spare_tile_core::content::text::{self, Align, Field};
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::plan::Mount;
use spare_tile_core::units::{Nanos, counted};

use super::Capture;
use super::recording::Zero;
use crate::commands::show::PictureAnswer;
use crate::failure::{Failure, Outcome};
use crate::session::Session;
use crate::view;
use crate::wrapping::hung;

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

/// The pictures that a text would make, wherever it stands.
pub fn expected(words: &str, mount: &Mount) -> Result<Vec<Vec<bool>>, Failure> {
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
pub struct Teller<'t, 's> {
    capture: &'t Capture,
    expected: Option<Vec<Vec<bool>>>,
    zero: Zero,
    /// When what is expected was first shown.
    shown: Option<Nanos>,
    session: &'t mut Session<'s>,
}

impl<'t, 's> Teller<'t, 's> {
    pub fn new(
        capture: &'t Capture,
        expected: Option<Vec<Vec<bool>>>,
        zero: Zero,
        session: &'t mut Session<'s>,
    ) -> Self {
        Self { capture, expected, zero, shown: None, session }
    }

    pub fn tell(&mut self, happened: &mut Vec<Happening<'_>>) -> Outcome {
        for happening in happened.drain(..) {
            match happening {
                Happening::Note(note) => {
                    let kind = if note.odd { "odd" } else { "said" };
                    let at_us = self.zero.micros(note.at);
                    if self.session.json {
                        self.session.write_json_line(&NoteAnswer { at_us, kind, words: &note.words })?;
                    } else {
                        self.say(at_us, kind, &note.words)?;
                    }
                }
                Happening::Picture(at, picture) => self.picture(at, &picture)?,
            }
        }
        Ok(())
    }

    /// A line of the story, what is odd in bold, its further lines hanging.
    fn say(&mut self, at_us: f64, kind: &str, words: &str) -> Outcome {
        const BEFORE: usize = 26;
        let told = hung(&format!("{at_us:>12.1} us  {kind:7}  {words}"), self.session.columns, BEFORE);
        let (before, words) = told.split_at_checked(BEFORE).unwrap_or((&told, ""));
        let words = if kind == "odd" { self.session.bold(words) } else { words.into() };
        Ok(writeln!(self.session.out, "{before}{words}")?)
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
        let at_us = self.zero.micros(at);
        if self.session.json {
            let picture = PictureAnswer::of(picture);
            return self.session.write_json_line(&PictureAtAnswer { at_us, kind: "picture", picture });
        }
        self.say(at_us, "picture", &seen(picture))?;
        if self.capture.pictures {
            let drawing = view::terminal(picture, self.session);
            writeln!(self.session.out, "{drawing}\n")?;
        }
        Ok(())
    }

    pub fn end(self, ending: &Ending<'_>) -> Outcome {
        let Ending { zero, now, picture, .. } = ending;
        let session = self.session;
        if let Some(words) = &self.capture.expect {
            #[derive(Serialize)]
            struct Expected<'a> {
                expected: &'a str,
                shown: bool,
                at_us: Option<f64>,
            }
            let at_us = self.shown.map(|at| zero.micros(at));
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
            let at_us = zero.micros(*now);
            if session.json {
                let picture = PictureAnswer::of(picture);
                return session.write_json(&PictureAtAnswer { at_us, kind: "picture", picture });
            }
            let drawing = view::terminal(picture, session);
            return Ok(writeln!(session.out, "at {at_us:.1} us  {}\n{drawing}", seen(picture))?);
        }
        ending.tell(session)
    }
}

/// How a recording ended.
pub struct Ending<'r> {
    pub mount: &'r Mount,
    pub zero: Zero,
    pub now: Nanos,
    pub account: Account,
    pub picture: Picture<'r>,
}

#[derive(Serialize)]
struct EndAnswer<'a> {
    at_us: f64,
    kind: &'a str,
    understood: usize,
    odd: usize,
    not_understood: &'a [String],
    other_addresses: Vec<OtherAnswer>,
}

#[derive(Serialize)]
struct OtherAnswer {
    address: String,
    transfers: usize,
}

impl Ending<'_> {
    /// Reports how it ended.
    ///
    /// # Errors
    /// The exit status is 1 if something was odd or not understood.
    fn tell(&self, session: &mut Session<'_>) -> Outcome {
        let Account { said, odd, others, why_dark, .. } = &self.account;
        let gaps = self.gaps();
        let verdict = if gaps.is_empty() && *odd == 0 { Ok(()) } else { Err(Failure::no()) };
        if session.json {
            let others = others.iter().map(|(address, transfers)| OtherAnswer {
                address: format!("{address:#04x}"),
                transfers: *transfers,
            });
            session.write_json_line(&EndAnswer {
                at_us: self.zero.micros(self.now),
                kind: "end",
                understood: *said,
                odd: *odd,
                not_understood: &gaps,
                other_addresses: others.collect(),
            })?;
            return verdict;
        }
        for gap in &gaps {
            let gap = hung(&format!("not understood: {gap}"), session.columns, 4);
            writeln!(session.out, "{}", session.bold(&gap))?;
        }
        if *said > 0 && !others.is_empty() {
            let others = hung(&format!("left alone: {}", others_words(others)), session.columns, 4);
            writeln!(session.out, "{others}")?;
        }
        let odd = match odd {
            0 if gaps.is_empty() => "nothing was odd".to_owned(),
            0 if *said == 0 => "nothing was understood".to_owned(),
            0 => "nothing was odd in what was understood".to_owned(),
            odd => counted(*odd, "thing was odd", "things were odd"),
        };
        let dark = why_dark.filter(|_| self.picture.light.iter().all(|light| *light == 0.0));
        let dark = dark.map_or_else(String::new, |why| format!(": {why}"));
        let end = format!("{odd}; at the end the display shows {}{dark}", seen(&self.picture));
        writeln!(session.out, "{}", hung(&end, session.columns, 4))?;
        verdict
    }

    /// Traffic that was not understood.
    fn gaps(&self) -> Vec<String> {
        let Account { said, odd, edges, others, pending, .. } = &self.account;
        let lines = self.mount.lines.iter().map(|line| line.role.as_str()).zip(edges);
        let mut gaps = Vec::new();
        if edges.iter().all(|edges| *edges == 0) {
            gaps.push("none of the lines ever changes: are these the right wires?".to_owned());
            return gaps;
        }
        // A bare display or a panel has no bus whose transfers could be missed.
        let has_bus = !self.mount.drive.display().follows_lines() || *said > 0 || pending.is_some();
        if *said == 0 && *odd == 0 && has_bus {
            let changes: Vec<_> = lines
                .clone()
                .map(|(role, edges)| match edges {
                    0 => format!("{role} never changes"),
                    edges => format!("{role} changes {}", counted(*edges, "time", "times")),
                })
                .collect();
            let elsewhere = if others.is_empty() {
                String::new()
            } else {
                format!("; {}: is the part strapped to another address?", others_words(others))
            };
            gaps.push(format!("no transfer to this face: {}{elsewhere}", changes.join(", ")));
        } else if has_bus {
            let still = lines.filter(|(_, edges)| **edges == 0).map(|(role, _)| role);
            gaps.extend(still.map(|role| format!("{role} never changes")));
        }
        if odd > said && has_bus {
            gaps.push("most of it makes no sense: are these the right wires and the right part?".to_owned());
        }
        gaps.extend(pending.clone());
        gaps
    }
}

/// Transfers to other addresses: `12 transfers to 0x71`.
fn others_words(others: &BTreeMap<u8, usize>) -> String {
    let one = |(address, transfers): (&u8, &usize)| {
        format!("{} to {address:#04x}", counted(*transfers, "transfer", "transfers"))
    };
    others.iter().map(one).collect::<Vec<_>>().join(", ")
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
