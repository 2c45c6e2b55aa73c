//! Finds the wire of each line, and the part that the traffic is for, if they are not given: every arrangement is tried on the
//! beginning of the recording, and the one that makes the most sense of it is taken.

use super::story::{Account, Follower, Wanted};
use super::{Change, Wire};
use crate::part::{Method, method, methods};
use crate::plan::{Mount, Rig};
use crate::rig::Document;
use crate::rig::value::Value;

/// An arrangement and what it makes of the traffic.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Guess {
    /// The line of each wire.
    pub map: Vec<Option<usize>>,
    /// How much was understood.
    pub account: Account,
}

impl Guess {
    /// The higher, the more sense it makes: what is odd or doubtful weighs more than what may be chance.
    #[must_use]
    pub fn score(&self) -> i64 {
        let Account { said, odd, doubts, .. } = self.account;
        said as i64 - 4 * (odd + doubts) as i64
    }

    /// Returns true if the traffic can be taken for what the arrangement makes of it: most of it makes sense, and it says more
    /// than one sort of thing, which noise seldom does.
    #[must_use]
    pub fn fits(&self) -> bool {
        self.score() > 0 && self.account.said > 1 && self.account.kinds > 1
    }
}

/// The names of lines on analysers and in data sheets.
const NAMES: [(&str, &[&str]); 7] = [
    ("clock", &["clock", "clk", "scl", "sck", "sclk", "srclk", "c"]),
    ("data", &["data", "dio", "din", "sda", "mosi", "sdi", "ser", "d"]),
    ("select", &["select", "cs", "load", "ss", "ce"]),
    ("strobe", &["strobe", "stb"]),
    ("latch", &["latch", "rclk", "st_cp"]),
    ("enable", &["enable", "oe"]),
    ("", &[]),
];

/// The line of each wire by their names; none unless every line is found. The point of a bare display may have none: who does not
/// use it does not record it.
#[must_use]
pub fn by_names(mount: &Mount, wires: &[Wire]) -> Option<Vec<Option<usize>>> {
    let mut map = vec![None; wires.len()];
    for (line, of_line) in mount.lines.iter().enumerate() {
        let known = NAMES.iter().find(|(role, _)| *role == of_line.role).map_or(&[][..], |(_, names)| *names);
        // A dump has no blanks in names.
        let role = of_line.role.replace(' ', "_").to_lowercase();
        // As the rig writes it, or by the data sheet's name.
        let pins = [&of_line.pin, &of_line.known].map(|pin| pin.to_string().to_lowercase());
        let wire = wires.iter().position(|wire| {
            wire.is_called(|name| {
                let name = name.to_lowercase();
                name == role || pins.contains(&name) || known.contains(&name.as_str())
            })
        });
        match wire {
            Some(wire) => map[wire] = Some(line),
            None if role == POINT && mount.drive.display().follows_lines() => {}
            None => return None,
        }
    }
    Some(map)
}

/// The line of the points of a bare display.
const POINT: &str = "dp";

/// The most wires that are tried in every order.
const MOST: usize = 6;

/// The best arrangement of the wires that change, tried in every order on these changes.
#[must_use]
pub fn by_activity(rig: &Rig, mount: &Mount, wires: usize, changes: &[Change]) -> Option<Guess> {
    let mut active = changing(wires, changes);
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

/// The wires that change, the busiest first.
#[must_use]
pub fn changing(wires: usize, changes: &[Change]) -> Vec<usize> {
    let mut levels = vec![None; wires];
    let mut activity = vec![0_usize; wires];
    for change in changes {
        let wire = change.wire as usize;
        let before = levels.get_mut(wire).and_then(|level: &mut Option<_>| level.replace(change.level));
        // The first levels of a recording are not changes.
        if before.is_some_and(|before| before != change.level) {
            activity[wire] += 1;
        }
    }
    let mut active: Vec<usize> = (0..wires).filter(|wire| activity[*wire] > 0).collect();
    active.sort_by_key(|wire| std::cmp::Reverse(activity[*wire]));
    active
}

/// Calls `found` with every ordered choice of this many items.
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

/// The meaning of the traffic with an arrangement.
#[must_use]
pub fn judge(rig: &Rig, mount: &Mount, map: Vec<Option<usize>>, changes: &[Change]) -> Guess {
    let mut follower = Follower::new(rig, mount, map.clone(), Wanted::Story);
    follower.take(changes, &mut Vec::new());
    Guess { map, account: follower.account() }
}

/// A part that traffic may be for, on a face of the part's usual size.
pub struct Candidate {
    /// The method's name.
    pub method: &'static str,
    /// A rig with one such part.
    pub rig: Rig,
}

/// A rig with parts of this method, one for each address where it has any; none where there is nothing usual, or where no
/// such part has the address.
#[must_use]
pub fn sample(name: &str, addresses: &[u8]) -> Option<Candidate> {
    let method = method(name)?;
    let (name, sample) = (method.name(), method.sample()?);
    let mut rig = Document::default();
    rig.set(&["controller", "logic_volts"], 5.0);
    rig.set(&["face", name, "kind"], "seven-segment");
    rig.set(&["face", name, "digits"], sample.digits * addresses.len().max(1));
    rig.set(&["face", name, "drive", "method"], name);
    rig.set(&["face", name, "drive", "pins"], sample.pins());
    if !addresses.is_empty() {
        rig.set(&["face", name, "drive", "addresses"], Value::list(addresses.iter().copied()));
    }
    Rig::of(&rig).rig.map(|rig| Candidate { method: name, rig })
}

/// Every part that traffic may be for, those with addresses at every one.
#[must_use]
pub fn candidates() -> Vec<Candidate> {
    let all = |method: &dyn Method| sample(method.name(), method.sample()?.addresses);
    methods().filter_map(all).collect()
}

/// How many changes of a recording are tried with every arrangement of wires.
const TRY_ON: usize = 2_000;

/// The meaning that a part gives to traffic.
pub struct Found {
    /// The part.
    pub candidate: Candidate,
    /// The wires, and how much was understood.
    pub guess: Guess,
}

/// The part of a recording that is searched for wires and part.
#[must_use]
pub fn beginning_of(changes: &[Change]) -> &[Change] {
    &changes[..changes.len().min(TRY_ON)]
}

/// The meaning that every part gives to the beginning of a recording, with the best arrangement of wires, the best first.
#[must_use]
pub fn ranked(wires: &[Wire], beginning: &[Change]) -> Vec<Found> {
    let look = beginning_of(beginning);
    let judged = |candidate: Candidate| {
        let mount = &candidate.rig.faces[0];
        let by_names = by_names(mount, wires).map(|map| judge(&candidate.rig, mount, map, look));
        let by_activity = by_activity(&candidate.rig, mount, wires.len(), look);
        let guess =
            by_names.into_iter().chain(by_activity).max_by_key(|guess| (guess.fits(), guess.score()))?;
        (guess.account.said > 0).then_some(Found { candidate, guess })
    };
    let mut found: Vec<_> = candidates().into_iter().filter_map(judged).collect();
    found.sort_by_key(|found| std::cmp::Reverse((found.guess.fits(), found.guess.score())));
    found
}

/// Just the addresses of a part that something was said to; all where nothing was.
#[must_use]
pub fn spoken_to(method: &str, addresses: &[u8], map: &[Option<usize>], beginning: &[Change]) -> Vec<u8> {
    let is_spoken_to = |address: &u8| {
        sample(method, &[*address]).is_some_and(|candidate| {
            let mount = &candidate.rig.faces[0];
            judge(&candidate.rig, mount, map.to_vec(), beginning_of(beginning)).account.said > 0
        })
    };
    let spoken: Vec<_> = addresses.iter().copied().filter(is_spoken_to).collect();
    if spoken.is_empty() { addresses.to_vec() } else { spoken }
}

/// The addresses that parts of a method may have.
#[must_use]
pub fn addresses_of(name: &str) -> &'static [u8] {
    method(name).and_then(Method::sample).map_or(&[], |sample| sample.addresses)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_sample_is_a_sound_rig() {
        let names: Vec<_> = candidates().iter().map(|candidate| candidate.method).collect();
        assert_eq!(names, ["max7219", "tm1637", "tm1638", "ht16k33"]);
        assert_eq!(sample("ht16k33", &[0x71, 0x70]).unwrap().rig.faces[0].face.digits(), 16);
        assert!(sample("ht16k33", &[0x20]).is_none());
    }
}
