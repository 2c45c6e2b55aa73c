//! Operations that were written down, and what they show when they are sent again.
//!
//! The form is JSON Lines. The first line says what the file is, when playing begins, all faces being powered up by then, and how
//! long it plays; each line after it is an operation with the moment at which it began. Moments count from power.
//!
//! ```text
//! {"spare_tile_ops":1,"begins_ns":880000,"length_ns":9000000000}
//! {"at_ns":0,"face":"clock","role":"power-up","bus":"two-wire","bytes":"40"}
//! {"at_ns":211000,"face":"clock","role":"frame","bus":"two-wire","bytes":"C0 3F 06"}
//! ```

use std::time::Duration;

use serde::{Deserialize, Serialize};
use serde_json::error::Category;

use super::{Playing, exposure};
use crate::board::OnBoard;
use crate::board::picture::Picture;
use crate::bus::{Op, Ops, Role, Sink, Transfer};
use crate::link::{Link, LinkError};
use crate::model::hex;
use crate::plan::Rig;
use crate::units::Nanos;

/// The version of the form.
const VERSION: u32 = 1;

/// The first line.
#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Head {
    spare_tile_ops: u32,
    begins_ns: u64,
    length_ns: u64,
}

/// A line of an operation.
#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Line {
    at_ns: u64,
    face: String,
    role: String,
    bus: Bus,
    #[serde(skip_serializing_if = "Option::is_none")]
    address: Option<u8>,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    mask: String,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    bytes: String,
    #[serde(default, skip_serializing_if = "is_none")]
    reads: usize,
}

/// The kind of transfer.
#[derive(Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
enum Bus {
    Spi,
    I2c,
    TwoWire,
    Strobe,
    Shift,
    OutputsOff,
    Ports,
    Burst,
    Inputs,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde calls it so")]
const fn is_none(reads: &usize) -> bool {
    *reads == 0
}

/// The first line of a file in which playing begins at a moment and goes on for so long.
#[must_use]
pub fn head(begins: Nanos, length: Duration) -> String {
    let length_ns = u64::try_from(length.as_nanos()).unwrap_or(u64::MAX);
    // Neither struct has anything in it that JSON cannot say.
    serde_json::to_string(&Head { spare_tile_ops: VERSION, begins_ns: begins.0, length_ns })
        .unwrap_or_default()
}

/// The line of an operation of a face that began at a moment.
#[must_use]
pub fn line(face: &str, op: &Op<'_>, began: Nanos) -> String {
    let (bus, address) = match op.transfer {
        Transfer::Spi { .. } => (Bus::Spi, None),
        Transfer::I2c { address, .. } => (Bus::I2c, Some(address)),
        Transfer::TwoWire { .. } => (Bus::TwoWire, None),
        Transfer::Strobe { .. } => (Bus::Strobe, None),
        Transfer::Shift { .. } => (Bus::Shift, None),
        Transfer::OutputsOff => (Bus::OutputsOff, None),
        Transfer::Ports { .. } => (Bus::Ports, None),
        Transfer::Burst { .. } => (Bus::Burst, None),
        Transfer::Inputs { .. } => (Bus::Inputs, None),
    };
    let mask = if let Transfer::Ports { mask, .. } = op.transfer { hex(mask) } else { String::new() };
    let line = Line {
        at_ns: began.0,
        face: face.to_owned(),
        role: op.role.name().to_owned(),
        bus,
        address,
        mask,
        bytes: hex(op.transfer.bytes()),
        reads: op.transfer.reads(),
    };
    serde_json::to_string(&line).unwrap_or_default()
}

/// The reason why a file is not a list of operations for a rig.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("line {line}: {message}")]
pub struct LogError {
    /// The line, from 1.
    pub line: usize,
    /// The error.
    pub message: String,
}

/// Operations in the order of their moments.
#[derive(Debug, Clone, Default)]
pub struct Log {
    ops: Ops,
    /// Whose each is: the place of the face in the rig.
    faces: Vec<usize>,
    /// The faces that have any, in the order of the rig.
    seen: Vec<usize>,
    begins: Nanos,
    length: Duration,
}

impl Log {
    /// Reads a file of operations for the faces of a rig.
    ///
    /// # Errors
    /// At the first line that is none.
    pub fn read(text: &str, rig: &Rig) -> Result<Self, LogError> {
        let mut lines = text.lines().zip(1..).filter(|(line, _)| !line.trim().is_empty());
        let wrong = |line: usize, message: String| LogError { line, message };
        let (first, number) = lines.next().ok_or_else(|| wrong(1, "there is nothing in it".to_owned()))?;
        let head: Head = serde_json::from_str(first).map_err(|error| wrong(number, not_so(&error)))?;
        if head.spare_tile_ops != VERSION {
            let message =
                format!("version {} of the form; this program reads {VERSION}", head.spare_tile_ops);
            return Err(wrong(number, message));
        }
        let mut log = Self {
            begins: Nanos(head.begins_ns),
            length: Duration::from_nanos(head.length_ns),
            ..Self::default()
        };
        let mut ops = Vec::new();
        for (text, number) in lines {
            let line: Line = serde_json::from_str(text).map_err(|error| wrong(number, not_so(&error)))?;
            ops.push((line, number));
        }
        // Buses go side by side: what one was given later may have begun earlier.
        ops.sort_by_key(|(line, _)| line.at_ns);
        for (line, number) in &ops {
            log.add(line, rig).map_err(|message| wrong(*number, message))?;
        }
        log.seen = (0..rig.faces.len()).filter(|face| log.faces.contains(face)).collect();
        Ok(log)
    }

    fn add(&mut self, line: &Line, rig: &Rig) -> Result<(), String> {
        let face = rig.faces.iter().position(|mount| mount.face.name == line.face);
        let face = face.ok_or_else(|| format!("the rig has no face '{}'", line.face))?;
        let role = Role::ALL.into_iter().find(|role| role.name() == line.role);
        let role = role.ok_or_else(|| format!("'{}' is not a role of an operation", line.role))?;
        let (bytes, mask, reads) = (bytes_of(&line.bytes)?, bytes_of(&line.mask)?, line.reads);
        if reads > MOST_READS {
            return Err(format!("{reads} bytes to be read; {MOST_READS} at most"));
        }
        let transfer = match (line.bus, line.address) {
            (Bus::I2c, Some(address @ 0..=0x7F)) => Transfer::I2c { address, bytes: &bytes, reads },
            (Bus::I2c, _) => return Err("an i2c transfer has an address from 0 to 127".to_owned()),
            (_, Some(_)) => return Err("only an i2c transfer has an address".to_owned()),
            (Bus::Spi, _) => Transfer::Spi { bytes: &bytes },
            (Bus::TwoWire, _) => Transfer::TwoWire { bytes: &bytes, reads },
            (Bus::Strobe, _) => Transfer::Strobe { bytes: &bytes, reads },
            (Bus::Shift, _) => Transfer::Shift { bytes: &bytes },
            (Bus::OutputsOff, _) => Transfer::OutputsOff,
            (Bus::Ports, _) if mask.len() == bytes.len() => Transfer::Ports { mask: &mask, levels: &bytes },
            (Bus::Ports, _) => return Err("the mask of ports is as long as their bytes".to_owned()),
            (Bus::Burst, _) => Transfer::Burst { columns: &bytes },
            (Bus::Inputs, _) => Transfer::Inputs { reads },
        };
        self.ops.not_before(Nanos(line.at_ns));
        self.ops.put(role, transfer);
        self.faces.push(face);
        Ok(())
    }

    /// How long it plays.
    #[must_use]
    pub const fn length(&self) -> Duration {
        self.length
    }
}

/// More bytes are read by no transfer.
const MOST_READS: usize = 64;

fn not_so(error: &serde_json::Error) -> String {
    // The place that it names is one within the line.
    let words = error.to_string();
    let words = words.split(" at line ").next().unwrap_or_default();
    match error.classify() {
        Category::Data => words.to_owned(),
        _ => format!("this is not JSON: {words}"),
    }
}

/// Bytes of two hexadecimal digits each.
fn bytes_of(text: &str) -> Result<Vec<u8>, String> {
    let byte = |word: &str| match word.len() {
        2 => u8::from_str_radix(word, 16).ok(),
        _ => None,
    };
    let wrong = |word: &str| format!("'{word}' is not a byte of two hexadecimal digits");
    text.split_whitespace().map(|word| byte(word).ok_or_else(|| wrong(word))).collect()
}

/// A log that is sent over a link, each operation at its moment. It plays from where playing began; what powers up the faces is done
/// by then.
pub struct Replay<'p, L> {
    rig: &'p Rig,
    log: &'p Log,
    link: L,
    /// How many have been sent, and up to when time has come.
    sent: usize,
    now: Nanos,
}

impl<'p, L: Link> Replay<'p, L> {
    /// Before its first operation, as power comes.
    pub const fn new(rig: &'p Rig, log: &'p Log, link: L) -> Self {
        Self { rig, log, link, sent: 0, now: Nanos(0) }
    }

    /// The link.
    pub const fn link_mut(&mut self) -> &mut L {
        &mut self.link
    }
}

impl<L: Link> Replay<'_, L> {
    fn is_scanned(&self, face: usize) -> bool {
        self.rig.faces[face].drive.display().scan().is_some()
    }

    /// Returns true if the next operation of one of these faces began as soon as its bus was free: both belong to one update,
    /// and a picture between the two would show half of it.
    fn any_goes_on(&self, faces: &[usize]) -> bool {
        let free = |face: usize| self.link.free_at(self.rig.faces[face].device);
        let Some(last) = faces.iter().map(|face| free(*face)).max() else { return false };
        let coming = self.log.faces.iter().enumerate().skip(self.sent);
        let coming = coming.map_while(|(place, face)| Some((*face, self.log.ops.get(place)?.not_before)));
        let mut until_free = coming.take_while(|(_, at)| *at <= last);
        until_free.any(|(face, at)| faces.contains(&face) && at <= free(face))
    }
}

impl<'p, L: OnBoard<'p>> Replay<'p, L> {
    fn expose_until(&mut self, until: Option<Duration>) -> Result<Duration, LinkError> {
        let turns = self.rig.faces.iter().filter_map(|mount| mount.drive.display().scan());
        let times = turns.map(|scan| (scan.turn, scan.ahead)).max().unwrap_or_default();
        let (opened, end) = exposure(self.elapsed(), (times.0.into(), times.1.into()), until);
        self.advance(opened)?;
        self.link.board().open_eyes_on_scans(self.now);
        self.advance(end)?;
        Ok(end)
    }
}

impl<'p, L: OnBoard<'p>> Playing<'p> for Replay<'p, L> {
    fn advance(&mut self, until: Duration) -> Result<bool, LinkError> {
        let mut changed = self.now == Nanos(0) && self.sent == 0;
        let mut until = (self.log.begins + Nanos::from(until)).max(self.now);
        let mut begun = Vec::new();
        while let Some(op) = self.log.ops.get(self.sent) {
            let face = self.log.faces[self.sent];
            if op.not_before > until && !self.any_goes_on(&begun) {
                break;
            }
            let reply = self.link.transfer(self.rig.faces[face].device, &op)?;
            changed |= op.role != Role::Buttons;
            self.sent += 1;
            if !self.is_scanned(face) {
                until = until.max(reply.ended);
                if !begun.contains(&face) {
                    begun.push(face);
                }
            }
        }
        self.now = until;
        self.link.flush(until)?;
        Ok(changed)
    }

    fn elapsed(&self) -> Duration {
        (self.now.max(self.log.begins) - self.log.begins).into()
    }

    fn next_moment(&self) -> Option<Duration> {
        self.log.ops.get(self.sent).map(|op| (op.not_before.max(self.log.begins) - self.log.begins).into())
    }

    fn expose(&mut self) -> Result<Duration, LinkError> {
        self.expose_until(None)
    }

    fn watch(&mut self, end: Duration) -> Result<bool, LinkError> {
        let next = self.next_moment().filter(|next| *next < end);
        self.expose_until(next).map(|_| true)
    }

    fn pictures(&mut self) -> Vec<Picture<'p>> {
        let (now, board) = (self.now, self.link.board());
        self.log.seen.iter().filter_map(|face| board.picture(*face, now)).collect()
    }

    fn off(&mut self) -> Result<(), LinkError> {
        Ok(())
    }
}
