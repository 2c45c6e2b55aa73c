//! The subject of a recording: the face or part, and the wire of each of its lines.

use std::path::Path;

use spare_tile_core::capture::guess::{self, Candidate, Found};
use spare_tile_core::capture::story::Account;
use spare_tile_core::capture::{Change, Wire};
use spare_tile_core::part::{method as method_of, methods};
use spare_tile_core::plan::{Mount, Rig};
use spare_tile_core::units::counted;

use super::Capture;
use crate::failure::Failure;
use crate::rigs::FaceOfRig;
use crate::session::Session;

/// A face and the line of each wire.
pub struct Subject {
    pub rig: Rig,
    /// The face, by its place in the rig.
    face: usize,
    pub map: Vec<Option<usize>>,
}

impl Subject {
    pub fn mount(&self) -> &Mount {
        &self.rig.faces[self.face]
    }
}

/// In words: `tm1638: 6 transfers make sense, nothing is odd`.
fn words_of(found: &Found) -> String {
    let Account { said, odd, doubts, .. } = found.guess.account;
    let odd = match odd + doubts {
        0 => "nothing is odd".to_owned(),
        odd => counted(odd, "thing is odd", "things are odd"),
    };
    let sense = counted(said, "transfer makes sense", "transfers make sense");
    format!("{}: {sense}, {odd}", found.candidate.method)
}

/// The part that fits traffic best, if any does.
fn identify(wires: &[Wire], beginning: &[Change], session: &mut Session<'_>) -> Result<Subject, Failure> {
    const MOST: usize = 3;
    let mut ranked = guess::ranked(wires, beginning);
    if !ranked.first().is_some_and(|best| best.guess.fits()) {
        let message = "no part with known traffic fits this recording";
        let tried: Vec<_> = ranked.iter().take(MOST).map(words_of).collect();
        let tried = if tried.is_empty() { String::new() } else { format!(" (as {})", tried.join("; as ")) };
        let help =
            "name the rig: --rig FILE, or the part: --part NAME; and the wires: --map clock=D0,data=D1";
        return Err(Failure::unusable(format!("{message}{tried}"), help));
    }
    let best = ranked.remove(0);
    let (method, map) = (best.candidate.method, best.guess.map.clone());
    let mut rig = best.candidate.rig;
    let known = guess::addresses_of(method);
    let addresses = guess::spoken_to(method, known, &map, beginning);
    if addresses.len() < known.len()
        && let Some(narrower) = guess::sample(method, &addresses)
    {
        rig = narrower.rig;
    }
    let best = Found { candidate: Candidate { method, rig: rig.clone() }, guess: best.guess };
    let words = map_words(&rig.faces[0], &map, wires);
    session.say_aside(&format!("looks like {}; {words}", words_of(&best)));
    for next in ranked.iter().take(1) {
        session.say_aside(&format!("next likely: {}", words_of(next)));
    }
    if !known.is_empty() {
        let list: Vec<_> = addresses.iter().map(|address| format!("{address:#04x}")).collect();
        session.say_aside(&format!("spoken to: {}", list.join(", ")));
    }
    Ok(Subject { rig, face: 0, map })
}

/// Why the lines are not found among the wires.
fn cannot_tell(mount: &Mount, wires: &[Wire], changing: usize) -> Failure {
    let names: Vec<_> = wires.iter().take(24).map(|wire| wire.name.as_str()).collect();
    let lines: Vec<_> = mount.lines.iter().map(|line| line.role.as_str()).collect();
    let (needed, lines) = (lines.len(), lines.join(", "));
    let why = if changing < needed {
        let change = counted(changing, "wire changes", "wires change");
        format!(": {change} in this recording, and there are {needed} lines")
    } else {
        String::new()
    };
    let message = format!("cannot tell which of the wires {} are the lines {lines}{why}", names.join(", "));
    Failure::unusable(message, "say it: --map LINE=WIRE,LINE=WIRE")
}

/// A map as an option.
fn map_option(mount: &Mount, map: &[Option<usize>], wires: &[Wire]) -> String {
    let pairs = map.iter().enumerate().filter_map(|(wire, line)| {
        Some(format!("{}={}", mount.lines.get((*line)?)?.role, wires.get(wire)?.name))
    });
    format!("--map {}", pairs.collect::<Vec<_>>().join(","))
}

fn map_words(mount: &Mount, map: &[Option<usize>], wires: &[Wire]) -> String {
    let pairs = map.iter().enumerate().filter_map(|(wire, line)| {
        Some(format!("{} is {}", mount.lines.get((*line)?)?.role, wires.get(wire)?.name))
    });
    pairs.collect::<Vec<_>>().join(", ")
}

impl Capture {
    /// The subject of the recording: the rig or the part that is named, or the one that fits best.
    pub fn subject(
        &self,
        wires: &[Wire],
        beginning: &[Change],
        session: &mut Session<'_>,
    ) -> Result<Subject, Failure> {
        if let Some(part) = &self.part {
            let known = guess::addresses_of(part);
            let wanted = if self.address.is_empty() { known } else { &self.address[..] };
            let candidate = self.sample(part, wanted)?;
            let map = self.map_of(&candidate.rig, &candidate.rig.faces[0], wires, beginning, session)?;
            let addresses = if self.address.is_empty() {
                guess::spoken_to(part, known, &map, beginning)
            } else {
                self.address.clone()
            };
            return Ok(Subject { rig: self.sample(part, &addresses)?.rig, face: 0, map });
        }
        if !self.address.is_empty() {
            let message = "an address needs the part that has it";
            return Err(Failure::unusable(message, "name the part: --part ht16k33"));
        }
        if let Some(file) = &self.rig {
            let file = self.face_of_rig(file);
            let rig = file.read(session)?.into_rig()?;
            let face = file.place(&rig)?;
            let map = self.map_of(&rig, &rig.faces[face], wires, beginning, session)?;
            return Ok(Subject { rig, face, map });
        }
        identify(wires, beginning, session)
    }

    fn sample(&self, part: &str, addresses: &[u8]) -> Result<Candidate, Failure> {
        guess::sample(part, addresses).ok_or_else(|| {
            let known = guess::addresses_of(part);
            if let (Some(first), Some(last)) = (known.first(), known.last()) {
                let message = format!("the {part} has no such address");
                return Failure::unusable(message, format!("its addresses: {first:#04x} to {last:#04x}"));
            }
            if method_of(part).is_some_and(|method| method.sample().is_some()) {
                return Failure::unusable(format!("the {part} has no address"), "leave --address out");
            }
            let known: Vec<_> =
                methods().filter(|method| method.sample().is_some()).map(|method| method.name()).collect();
            Failure::unusable(
                format!("unknown part '{part}'"),
                format!("the parts: {}; for others write a rig: --rig FILE", known.join(", ")),
            )
        })
    }

    fn face_of_rig(&self, rig: &Path) -> FaceOfRig {
        FaceOfRig::of(rig.to_owned(), self.face.clone())
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
        let look = guess::beginning_of(beginning);
        if let Some(map) = guess::by_names(mount, wires) {
            let named = guess::judge(rig, mount, map, look);
            if !named.fits()
                && let Some(other) = guess::by_activity(rig, mount, wires.len(), look)
                && other.fits()
                && other.score() > named.score()
            {
                let (is, option) =
                    (map_words(mount, &other.map, wires), map_option(mount, &other.map, wires));
                session.say_aside(&format!(
                    "by their names the wires make little sense; they make more if {is}: {option}"
                ));
            }
            return Ok(named.map);
        }
        let guess = guess::by_activity(rig, mount, wires.len(), look)
            .ok_or_else(|| cannot_tell(mount, wires, guess::changing(wires.len(), look).len()))?;
        session.say_aside(&format!("by what makes most sense: {}", map_words(mount, &guess.map, wires)));
        Ok(guess.map)
    }

    fn written_map(&self, mount: &Mount, wires: &[Wire]) -> Result<Vec<Option<usize>>, Failure> {
        let mut map = vec![None; wires.len()];
        for pair in &self.map {
            let (line, wire) = pair.split_once('=').ok_or_else(|| {
                Failure::unusable(
                    format!("'{pair}' is not a pair of line and wire"),
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
            let is_wire = |known: &Wire| known.is_called(|name| name == wire.trim());
            let place = wires.iter().position(is_wire).ok_or_else(|| {
                let names: Vec<_> = wires.iter().take(24).map(|wire| wire.name.as_str()).collect();
                let help = format!("its wires: {}", names.join(", "));
                Failure::unusable(format!("the recording has no wire '{wire}'"), help)
            })?;
            if let Some(known) =
                map.iter().position(|taken| *taken == Some(line)).filter(|known| *known != place)
            {
                let (first, second) = (&wires[known].name, &wires[place].name);
                let message = format!("the line '{}' has two wires: {first} and {second}", roles[line]);
                return Err(Failure::unusable(message, "name one wire for each line"));
            }
            if let Some(other) = map[place].replace(line).filter(|other| *other != line) {
                let (first, second) = (roles[other], roles[line]);
                let message = format!("the wire {} has two lines: {first} and {second}", wires[place].name);
                return Err(Failure::unusable(message, "name one line for each wire"));
            }
        }
        Ok(map)
    }
}
