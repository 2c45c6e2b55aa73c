//! `bytes`: the bus traffic of power-up, frames and whatever else a driver sends, explained.

use std::borrow::Cow;
use std::path::{Path, PathBuf};

use clap::{Args, ValueEnum};
use serde::Serialize;
use spare_tile_core::board::Board;
use spare_tile_core::bus::{Clocking, Edge, Op, Protocol, Reply};
use spare_tile_core::capture::vcd::Scope;
use spare_tile_core::frame::Frame;
use spare_tile_core::link::{Link, LinkError, Tap};
use spare_tile_core::part::Part;
use spare_tile_core::plan::teller::Teller;
use spare_tile_core::plan::{BothRigs, ButtonId, DeviceId, Keypad, Mount};
use spare_tile_core::play::scheduler::Scheduler;
use spare_tile_core::units::{Nanos, counted};
use spare_tile_firmware::ops::{self, Listed};
use spare_tile_firmware::project;

use crate::brightness::Brightness;
use crate::commands::rig::check::pins;
use crate::exports::dump;
use crate::failure::{Failure, Outcome};
use crate::options::Base;
use crate::rigs::{BuiltFile, FaceOfRig};
use crate::session::Session;
use crate::shown::Shown;
use crate::view::columns::broken;

/// List the bus traffic of power-up and one frame, explained
///
/// Updates are as short as the part allows: see them with --from. With --then the list goes on.
#[derive(Args)]
#[command(mut_arg("text", |text| text.required_unless_present("sprite")))]
pub struct Bytes {
    /// Only the update from this text
    ///
    /// Example: spare-tile bytes 48 --from 47
    #[arg(long, value_name = "TEXT", allow_hyphen_values = true)]
    from: Option<String>,
    /// Send everything again instead of the frame
    ///
    /// Example: spare-tile bytes 48 --refresh
    #[arg(long)]
    refresh: bool,
    /// The steps after the frame
    ///
    /// Example: spare-tile bytes 48 --then brightness,off --at-brightness 3
    #[arg(long, value_name = "STEP,...", value_delimiter = ',', value_enum)]
    then: Vec<Step>,
    /// The level of the step brightness, in the part's own steps or as 50%
    ///
    /// Example: spare-tile bytes 48 --then brightness --at-brightness 50%
    #[arg(long, value_name = "N")]
    at_brightness: Option<Brightness>,
    /// Buttons that are down while they are read, by their names in the rig
    ///
    /// Example: spare-tile bytes 48 --then buttons --press call1,call3
    #[arg(long, value_name = "KEY,...", value_delimiter = ',', requires = "then")]
    press: Vec<String>,
    /// The base of the printed bytes
    ///
    /// Example: spare-tile bytes 48 --base bin
    #[arg(long, value_enum, default_value = "hex")]
    base: Base,
    /// Also list every level on the lines
    ///
    /// Example: spare-tile bytes 48 --bits
    #[arg(long)]
    bits: bool,
    /// Write the list as data, with the lines that send it: c, rust or micropython; json without
    ///
    /// Example: spare-tile bytes 48 --as c
    #[arg(long = "as", value_name = "LANGUAGE", value_parser = ["json", "c", "rust", "micropython"])]
    language: Option<String>,
    /// Also write the edges as a value change dump (IEEE 1364) for a waveform viewer
    ///
    /// Example: spare-tile bytes 48 --vcd power-up.vcd
    #[arg(long, help_heading = "Files", value_name = "FILE")]
    vcd: Option<PathBuf>,
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    built: BuiltFile,
    #[command(flatten)]
    shown: Shown,
}

/// The steps that a driver can send after a frame.
#[derive(ValueEnum, Clone, Copy, PartialEq, Eq)]
enum Step {
    Brightness,
    Off,
    On,
    Refresh,
    Buttons,
    Test,
}

/// One operation that was sent.
struct Sent {
    at: Nanos,
    /// When the bus was free again.
    ended: Nanos,
    listed: Listed,
    /// The answer.
    answered: Vec<u8>,
    edges: Vec<Edge>,
}

/// Everything that was sent for a request.
struct Traffic {
    sent: Vec<Sent>,
    /// The level of each line of the face before that.
    levels: Vec<Option<bool>>,
    /// The push buttons that were down, where they were read.
    down: Vec<usize>,
}

#[derive(Serialize)]
struct SentAnswer<'a> {
    at_us: f64,
    bus: &'a str,
    face: &'a str,
    role: &'a str,
    bytes: Vec<String>,
    #[serde(skip_serializing_if = "is_zero")]
    reads: usize,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    answered: Vec<String>,
    note: &'a str,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    edges: Vec<EdgeAnswer<'a>>,
}

#[derive(Serialize)]
struct EdgeAnswer<'a> {
    at_us: f64,
    line: &'a str,
    level: u8,
}

#[derive(Serialize)]
struct TransferAnswer<'a> {
    role: &'a str,
    bytes: &'a [u8],
    reads: usize,
    not_before_ns: u64,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde asks for a reference")]
fn is_zero(number: &usize) -> bool {
    *number == 0
}

/// Runs `bytes`.
pub fn run(bytes: &Bytes, session: &mut Session<'_>) -> Outcome {
    let rig = bytes.rig.load(session)?;
    let face = bytes.rig.place(&rig)?;
    let other = bytes.built.load(&bytes.rig, &rig, session)?;
    let mount = &rig.faces[face];
    let asked = Asked {
        frame: bytes.shown.frame(mount, session)?,
        from: bytes.from.as_deref().map(|from| bytes.shown.frame_of(from, &mount.face)).transpose()?,
        brightness: bytes.at_brightness.map(|brightness| brightness.step(mount)).transpose()?,
        pressed: pressed(&bytes.press, mount)?,
        refresh: bytes.refresh,
        then: &bytes.then,
    };
    let traffic = asked.traffic(BothRigs::new(&rig, other.as_ref()), face)?;
    let protocol = rig.protocol(mount).map_or("", Protocol::name);
    match bytes.language.as_deref() {
        None if session.json => session.write_json(&answer(&traffic.sent, mount, protocol, bytes))?,
        None => {
            print(&traffic, mount, rig.protocol(mount).and_then(Protocol::clocking), bytes, session)?;
            if bytes.then.contains(&Step::Buttons) {
                print_keys(&traffic.down, mount, session)?;
            }
        }
        Some("json") => {
            session.write_json(&traffic.sent.iter().map(TransferAnswer::of).collect::<Vec<_>>())?;
        }
        Some(language) => {
            let listed: Vec<_> = traffic.sent.iter().map(|sent| sent.listed.clone()).collect();
            let about = format!("face {}: {}", mount.face.name, mount.drive.summary());
            let name = name_of(&mount.face.name);
            let source = ops::write(language, &name, &about, &listed)
                .map_err(|error| Failure::unusable(error.to_string(), "write --as rust or micropython"))?;
            write!(session.out, "{source}")?;
            let target = ops::target_of(language);
            let list = (&*name, listed.iter().any(|listed| listed.reads > 0));
            match target.map(|target| project::sender(&rig, face, target, list)) {
                Some(Ok(sender)) => write!(session.out, "\n{sender}")?,
                Some(Err(error)) => session.say_aside(&format!("nothing that sends the list: {error}")),
                None => {}
            }
        }
    }
    match &bytes.vcd {
        Some(path) => write_dump(path, &traffic, mount, session),
        None => Ok(()),
    }
}

/// The places of these keys among the face's.
fn pressed(names: &[String], mount: &Mount) -> Result<Vec<usize>, Failure> {
    let known = mount.drive.display().button_names();
    let place = |name: &String| {
        known.iter().position(|known| known == name).ok_or_else(|| {
            let help = if known.is_empty() {
                "it has none".to_owned()
            } else {
                format!("its buttons: {}", known.join(", "))
            };
            Failure::unusable(format!("face {} has no button '{name}'", mount.face.name), help)
        })
    };
    names.iter().map(place).collect()
}

fn print_keys(down: &[usize], mount: &Mount, session: &mut Session<'_>) -> Outcome {
    let names = mount.drive.display().button_names();
    if names.is_empty() {
        return Ok(writeln!(session.out, "the face has no buttons")?);
    }
    let down: Vec<_> = down.iter().filter_map(|key| names.get(*key)).map(String::as_str).collect();
    let words =
        if down.is_empty() { "no button is down".to_owned() } else { format!("down: {}", down.join(", ")) };
    Ok(writeln!(session.out, "{words}")?)
}

/// A face's name as a name in a language.
fn name_of(face: &str) -> String {
    let name: String =
        face.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '_' }).collect();
    if name.starts_with(|c: char| c.is_ascii_alphabetic()) { name } else { format!("face_{name}") }
}

/// The request.
struct Asked<'a> {
    frame: Frame,
    from: Option<Frame>,
    brightness: Option<u8>,
    pressed: Vec<usize>,
    refresh: bool,
    then: &'a [Step],
}

impl Asked<'_> {
    /// Sends it to a board and notes what goes over the lines.
    fn traffic(&self, rigs: BothRigs<'_>, face: usize) -> Result<Traffic, Failure> {
        let rig = rigs.described;
        let mount = &rig.faces[face];
        let mut board = Board::built_as(rigs);
        board.record();
        let teller = Teller::new(mount);
        let mut sent: Vec<Sent> = Vec::new();
        let tell = |_: DeviceId, op: &Op<'_>, reply: &Reply, board: &mut Board<'_>| {
            let edges = board.recorded_of(mount);
            let listed = Listed {
                role: op.role,
                bytes: op.transfer.on_the_wire().collect(),
                reads: op.transfer.reads(),
                not_before: op.not_before,
                words: teller.of_transfer(&op.transfer),
            };
            sent.push(Sent {
                at: reply.began,
                ended: reply.ended,
                listed,
                answered: reply.bytes.clone(),
                edges,
            });
        };
        let mut scheduler = Scheduler::new(rig, Tap { link: board, tell });
        let mut begin = (Nanos(0), scheduler.link().link.levels_of(mount));
        scheduler.power_up(face)?;
        // Just the update is asked for, or what heals: time begins with that.
        if self.from.is_some() || self.refresh {
            show(&mut scheduler, face, self.from.as_ref().unwrap_or(&self.frame))?;
            begin = (scheduler.now(), scheduler.link().link.levels_of(mount));
        }
        if self.from.is_some() || !self.refresh {
            show(&mut scheduler, face, &self.frame)?;
        }
        if self.refresh {
            scheduler.refresh(face)?;
        }
        let mut down = Vec::new();
        for step in self.then {
            match step {
                Step::Brightness => {
                    let most = mount.drive.display().max_brightness().unwrap_or(0);
                    scheduler.brightness(face, self.brightness.unwrap_or(most))?;
                }
                Step::Off => scheduler.off(face)?,
                Step::On => scheduler.on(face)?,
                Step::Refresh => scheduler.refresh(face)?,
                Step::Buttons => {
                    let keypad = Keypad::Face(face);
                    for button in self.pressed.iter().copied() {
                        scheduler.link_mut().link.press(ButtonId { keypad, button }, true);
                    }
                    down = scheduler.buttons(keypad)?;
                }
                Step::Test => {
                    scheduler.test(face, true)?;
                    scheduler.test(face, false)?;
                }
            }
        }
        drop(scheduler);
        let (begun, levels) = begin;
        sent.retain(|sent| sent.at >= begun);
        let mut free = begun;
        for sent in &mut sent {
            // A moment is worth a word where the bus would have been free before.
            let waits = sent.listed.not_before > free;
            free = sent.ended;
            sent.listed.not_before = if waits { sent.listed.not_before - begun } else { Nanos(0) };
            sent.at = sent.at - begun;
            sent.edges.iter_mut().for_each(|edge| edge.at = edge.at - begun);
        }
        Ok(Traffic { sent, levels, down })
    }
}

/// Shows a frame; where the controller does the scan, one turn of it.
fn show<L: Link>(scheduler: &mut Scheduler<'_, L>, face: usize, frame: &Frame) -> Result<(), LinkError> {
    scheduler.show(face, frame)?;
    scheduler.run_turn(face).map(|_| ())
}

impl<'a> TransferAnswer<'a> {
    fn of(sent: &'a Sent) -> Self {
        let Listed { role, bytes, reads, not_before, .. } = &sent.listed;
        Self { role: role.name(), bytes, reads: *reads, not_before_ns: not_before.0 }
    }
}

fn answer<'a>(sent: &'a [Sent], mount: &'a Mount, bus: &'a str, bytes: &Bytes) -> Vec<SentAnswer<'a>> {
    let edge = |edge: &Edge| EdgeAnswer {
        at_us: edge.at.as_micros(),
        line: mount.lines.get(edge.line).map_or("", |line| line.role.as_str()),
        level: u8::from(edge.level),
    };
    let answer = |sent: &'a Sent| SentAnswer {
        at_us: sent.at.as_micros(),
        bus,
        face: &mount.face.name,
        role: sent.listed.role.name(),
        bytes: sent.listed.bytes.iter().map(|byte| bytes.base.write(*byte)).collect(),
        reads: sent.listed.reads,
        answered: sent.answered.iter().map(|byte| bytes.base.write(*byte)).collect(),
        note: &sent.listed.words,
        edges: if bytes.bits { sent.edges.iter().map(edge).collect() } else { Vec::new() },
    };
    sent.iter().map(answer).collect()
}

/// More of a column of bytes goes on the next line.
const BYTES_MOST: usize = 24;

fn print(
    traffic: &Traffic,
    mount: &Mount,
    clocking: Option<Clocking>,
    options: &Bytes,
    session: &mut Session<'_>,
) -> Outcome {
    let sent = &traffic.sent;
    session.write_named(&mount.face.name, &format!("{}; {}", mount.drive.summary(), pins(mount)))?;
    let reads = |sent: &Sent| match sent.listed.reads {
        0 => String::new(),
        reads if sent.answered.is_empty() => format!(" +{reads}"),
        _ => format!(" > {}", options.base.write_all(&sent.answered)),
    };
    let bytes: Vec<_> = sent
        .iter()
        .map(|sent| format!("{}{}", options.base.write_all(&sent.listed.bytes), reads(sent)))
        .collect();
    let widest = bytes.iter().map(String::len).max().unwrap_or(0).min(BYTES_MOST).max("bytes".len());
    let heading = format!("{:>10}     {:10}  {:widest$}  says", "at", "role", "bytes");
    writeln!(session.out, "{}", session.bold(&heading))?;
    let mut levels = traffic.levels.clone();
    for (sent, bytes) in sent.iter().zip(bytes) {
        let before = format!("{:>10.1} us  {:10}  ", sent.at.as_micros(), sent.listed.role);
        let room = session.columns.saturating_sub(before.len() + widest + 2).max(20);
        let (bytes, words) = (broken(&bytes, widest), broken(&sent.listed.words, room));
        for line in 0..bytes.len().max(words.len()) {
            let cell = |cells: &[Cow<'_, str>]| cells.get(line).map_or(String::new(), ToString::to_string);
            let before = if line == 0 { before.as_str() } else { "" };
            let text = format!("{before:27}{:widest$}  {}", cell(&bytes), cell(&words));
            writeln!(session.out, "{}", text.trim_end())?;
        }
        if options.bits {
            print_bits(sent, mount, clocking, &mut levels, session)?;
        }
    }
    if options.from.is_some() {
        let total: usize = sent.iter().map(|sent| sent.listed.bytes.len()).sum();
        let transfers = counted(sent.len(), "transfer", "transfers");
        writeln!(session.out, "{} in {transfers}", counted(total, "byte", "bytes"))?;
    }
    Ok(())
}

/// The level of every line at each moment at which one changes, and which bit of which byte is read there.
fn print_bits(
    sent: &Sent,
    mount: &Mount,
    clocking: Option<Clocking>,
    levels: &mut [Option<bool>],
    session: &mut Session<'_>,
) -> Outcome {
    let mut clocks = 0;
    for moment in sent.edges.chunk_by(|a, b| a.at == b.at) {
        let mut mark = String::new();
        for edge in moment {
            if let Some(clocking) = clocking.filter(|clocking| edge.line == clocking.clock && edge.level) {
                mark = bit_mark(sent, clocking, clocks);
                clocks += 1;
            }
            if let Some(level) = levels.get_mut(edge.line) {
                *level = Some(edge.level);
            }
        }
        let lines: Vec<_> = mount
            .lines
            .iter()
            .zip(levels.iter())
            .map(|(line, level)| {
                let level = match level {
                    Some(true) => '1',
                    Some(false) => '0',
                    None => '-',
                };
                format!("{} {level}", line.role)
            })
            .collect();
        let text = format!("{:>10.2} us      {}  {mark}", moment[0].at.as_micros(), lines.join("  "));
        writeln!(session.out, "{}", text.trim_end())?;
    }
    Ok(())
}

/// Which bit a clock reads: `3F bit 7`.
fn bit_mark(sent: &Sent, clocking: Clocking, clock: usize) -> String {
    let (byte, bit) = clocking.place(clock);
    let written = &sent.listed.bytes;
    let byte = written.get(byte).or_else(|| sent.answered.get(byte.checked_sub(written.len())?));
    match (byte, bit) {
        (Some(byte), Some(bit)) => format!("{byte:02X} bit {bit}"),
        (Some(byte), None) => format!("{byte:02X} acknowledged"),
        // The clock of a stop, or of an address that is sent again to read.
        (None, _) => String::new(),
    }
}

/// Writes the edges of all operations as a dump.
fn write_dump(path: &Path, traffic: &Traffic, mount: &Mount, session: &mut Session<'_>) -> Outcome {
    let edges: Vec<_> = traffic.sent.iter().flat_map(|sent| sent.edges.iter().copied()).collect();
    let end = edges.last().map_or(Nanos(0), |edge| edge.at + Nanos(1_000));
    dump::write(path, Scope::of(mount, traffic.levels.clone(), &edges), end, session)
}
