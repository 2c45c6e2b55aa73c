//! `capture`: what a recorded bus put on the display, when, and what was odd.

mod recording;
mod subject;
mod telling;

use std::path::PathBuf;

use clap::Args;
use clap_complete::ArgValueCompleter;
use spare_tile_core::capture::Change;
use spare_tile_core::capture::story::{Follower, Wanted};
use spare_tile_core::units::Hertz;

use crate::complete;
use crate::failure::Outcome;
use crate::session::Session;

use recording::{FileTime, Recording};
use subject::Subject;
use telling::{Ending, Teller, expected};

/// Tell what a recorded bus put on the display, and what was odd
///
/// Reads a value change dump (IEEE 1364) or samples in columns (CSV), of any length, also from standard input.
#[derive(Args)]
pub struct Capture {
    /// The recording; - is standard input
    ///
    /// Example: spare-tile capture gauge.vcd --rig gauge.toml
    #[arg(value_name = "FILE")]
    file: PathBuf,
    /// The rig whose lines were recorded
    ///
    /// Example: spare-tile capture gauge.vcd --rig gauge.toml
    #[arg(short, long, value_name = "FILE", env = "SPARE_TILE_RIG")]
    rig: Option<PathBuf>,
    /// The name of the face [default: the only one]
    ///
    /// Example: spare-tile capture desk.csv --rig desk.toml --face clock
    #[arg(short, long, value_name = "NAME", add = ArgValueCompleter::new(complete::faces))]
    face: Option<String>,
    /// The part on the bus, instead of a rig: max7219, tm1637, tm1638, ht16k33
    ///
    /// Example: spare-tile capture desk.csv --part tm1638
    #[arg(long, value_name = "PART")]
    part: Option<String>,
    /// The addresses of that part, if it has any: 0x70,0x71 [default: every address in the recording]
    ///
    /// Example: spare-tile capture bus.vcd --part ht16k33 --address 0x70,0x71
    #[arg(long, value_name = "ADDRESS,...", value_delimiter = ',', value_parser = address)]
    address: Vec<u8>,
    /// The wire of each line: clock=D0,data=D1 [default: by name, or the most likely one]
    ///
    /// Example: spare-tile capture desk.csv --part tm1637 --map clock=D0,data=D1
    #[arg(long, value_name = "LINE=WIRE,...", value_delimiter = ',')]
    map: Vec<String>,
    /// The rate of samples without times, such as 24MHz
    ///
    /// Example: spare-tile capture samples.csv --part tm1637 --rate 24MHz
    #[arg(long, value_name = "RATE")]
    rate: Option<Hertz>,
    /// Draw each picture
    ///
    /// Example: spare-tile capture gauge.vcd --rig gauge.toml --pictures
    #[arg(long)]
    pictures: bool,
    /// Only the picture at this time, such as 12.5ms, or -1ms before a trigger
    ///
    /// Example: spare-tile capture gauge.vcd --rig gauge.toml --at 12.5ms
    #[arg(long, value_name = "TIME", value_parser = FileTime::parse, allow_hyphen_values = true, conflicts_with = "last")]
    at: Option<FileTime>,
    /// Only the picture at the end
    ///
    /// Example: spare-tile capture gauge.vcd --rig gauge.toml --final
    #[arg(long = "final")]
    last: bool,
    /// Check that this text was shown; the exit status is 1 if it was not
    ///
    /// Example: spare-tile capture gauge.vcd --rig gauge.toml --expect 2.1
    #[arg(long, value_name = "TEXT", allow_hyphen_values = true, conflicts_with_all = ["last", "at"])]
    expect: Option<String>,
}

/// A 7-bit address, as `0x70` or in decimal.
fn address(text: &str) -> Result<u8, String> {
    let number = match text.strip_prefix("0x") {
        Some(digits) => u8::from_str_radix(digits, 16).ok(),
        None => text.parse().ok(),
    };
    number.filter(|address| *address < 0x80).ok_or_else(|| "write a 7-bit address such as 0x70".to_owned())
}

/// Runs `capture`.
pub fn run(capture: &Capture, session: &mut Session<'_>) -> Outcome {
    let mut recording = Recording::open(&capture.file, capture.rate, session)?;
    let beginning = recording.beginning()?;
    let subject = capture.subject(recording.wires(), &beginning, session);
    // The cause that broke the recording is more useful than the beginning that was not understood.
    let subject = subject.or_else(|failure| recording.check().and(Err(failure)))?;
    follow(capture, &subject, recording, &beginning, session)
}

impl Capture {
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

/// Follows the recording to its end, or to the moment that is asked for.
fn follow(
    capture: &Capture,
    subject: &Subject,
    mut recording: Recording,
    beginning: &[Change],
    session: &mut Session<'_>,
) -> Outcome {
    let mount = subject.mount();
    let expected = capture.expect.as_deref().map(|words| expected(words, mount)).transpose()?;
    let zero = recording.zero();
    let until = capture.at.map(|at| zero.moment(at)).transpose()?;
    let mut follower = Follower::new(&subject.rig, mount, subject.map.clone(), capture.wanted());
    let mut teller = Teller::new(capture, expected, zero, session);
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
    let now = until.unwrap_or_else(|| recording.now());
    follower.finish(now, &mut happened);
    teller.tell(&mut happened)?;
    recording.check()?;
    let ending = Ending { mount, zero, now, account: follower.account(), picture: follower.picture() };
    teller.end(&ending)
}
