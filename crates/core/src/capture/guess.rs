//! Which wire is which line, and which part the traffic is for, where nobody says: every arrangement is tried on the
//! beginning of the recording, and the one that makes the most sense of it is taken.

use super::story::{Follower, Happening, Wanted};
use super::{Change, Wire};
use crate::part::{Method, Sample, method, methods};
use crate::plan::{Mount, Rig};

/// An arrangement and what it makes of the traffic.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Guess {
    /// The line of each wire.
    pub map: Vec<Option<usize>>,
    /// How many transactions made sense.
    pub said: usize,
    /// How much was odd.
    pub odd: usize,
}

impl Guess {
    /// The higher, the more sense it makes: oddities weigh more than what may be chance.
    #[must_use]
    pub fn score(&self) -> i64 {
        self.said as i64 - 4 * self.odd as i64
    }
}

/// What lines are called on analysers and in data sheets.
const NAMES: [(&str, &[&str]); 7] = [
    ("clock", &["clock", "clk", "scl", "sck", "sclk", "srclk", "c"]),
    ("data", &["data", "dio", "din", "sda", "mosi", "sdi", "ser", "d"]),
    ("select", &["select", "cs", "load", "ss", "ce"]),
    ("strobe", &["strobe", "stb"]),
    ("latch", &["latch", "rclk", "st_cp"]),
    ("enable", &["enable", "oe"]),
    ("", &[]),
];

/// The line of each wire by their names; none unless every line is found.
#[must_use]
pub fn by_names(mount: &Mount, wires: &[Wire]) -> Option<Vec<Option<usize>>> {
    let mut map = vec![None; wires.len()];
    for (line, of_line) in mount.lines.iter().enumerate() {
        let known = NAMES.iter().find(|(role, _)| *role == of_line.role).map_or(&[][..], |(_, names)| *names);
        // A dump has no blanks in names.
        let role = of_line.role.replace(' ', "_").to_lowercase();
        let pin = of_line.pin.to_string().to_lowercase();
        let wire = wires.iter().position(|wire| {
            let name = wire.name.to_lowercase();
            name == role || name == pin || known.contains(&name.as_str())
        })?;
        map[wire] = Some(line);
    }
    Some(map)
}

/// The most wires that are tried in every order.
const MOST: usize = 6;

/// The best arrangement of the wires that change, tried in every order on these changes.
#[must_use]
pub fn by_activity(rig: &Rig, mount: &Mount, wires: usize, changes: &[Change]) -> Option<Guess> {
    let mut activity = vec![0_usize; wires];
    for change in changes {
        if let Some(count) = activity.get_mut(change.wire as usize) {
            *count += 1;
        }
    }
    let mut active: Vec<usize> = (0..wires).filter(|wire| activity[*wire] > 1).collect();
    active.sort_by_key(|wire| std::cmp::Reverse(activity[*wire]));
    active.truncate(MOST);
    let lines = mount.lines.len();
    if lines > active.len() || lines > 4 {
        return None;
    }
    let mut best: Option<Guess> = None;
    let mut chosen = Vec::new();
    arrange(&active, lines, &mut chosen, &mut |chosen| {
        let mut map = vec![None; wires];
        for (line, wire) in chosen.iter().enumerate() {
            map[*wire] = Some(line);
        }
        let guess = judge(rig, mount, map, changes);
        if best.as_ref().is_none_or(|best| guess.score() > best.score()) {
            best = Some(guess);
        }
    });
    best
}

/// Calls `found` with every way of choosing so many of these in an order.
fn arrange(from: &[usize], count: usize, chosen: &mut Vec<usize>, found: &mut impl FnMut(&[usize])) {
    if chosen.len() == count {
        return found(chosen);
    }
    for wire in from {
        if !chosen.contains(wire) {
            chosen.push(*wire);
            arrange(from, count, chosen, found);
            chosen.pop();
        }
    }
}

/// What an arrangement makes of the traffic.
#[must_use]
pub fn judge(rig: &Rig, mount: &Mount, map: Vec<Option<usize>>, changes: &[Change]) -> Guess {
    let mut follower = Follower::new(rig, mount, map.clone(), Wanted::Story);
    let mut happened = Vec::new();
    follower.take(changes, &mut happened);
    let notes = || {
        happened.iter().filter_map(|happening| match happening {
            Happening::Note(note) => Some(note.odd),
            Happening::Picture(..) => None,
        })
    };
    let odd = notes().filter(|odd| *odd).count();
    Guess { map, said: notes().count() - odd, odd }
}

/// A part that traffic may be for, on a face of the part's usual size.
pub struct Candidate {
    /// The method's name.
    pub method: &'static str,
    /// A rig with one such part.
    pub rig: Rig,
}

/// A rig with one part of this method; none where there is nothing usual.
#[must_use]
pub fn sample(name: &str) -> Option<Candidate> {
    let method = method(name)?;
    let (name, Sample { face, drive }) = (method.name(), method.sample()?);
    let source = format!(
        "[controller]\nlogic_volts = 5.0\n[face.{name}]\n{face}[face.{name}.drive]\nmethod = \"{name}\"\n{drive}"
    );
    Rig::read(&source).rig.map(|rig| Candidate { method: name, rig })
}

/// Every part that traffic may be for.
#[must_use]
pub fn candidates() -> Vec<Candidate> {
    methods().map(Method::name).filter_map(sample).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_sample_is_a_sound_rig() {
        let names: Vec<_> = candidates().iter().map(|candidate| candidate.method).collect();
        assert_eq!(names, ["max7219", "tm1637", "tm1638", "ht16k33"]);
    }
}
