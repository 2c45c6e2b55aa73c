//! `bytes`: the bus traffic of power-up, frames and whatever else a driver sends, explained.

use std::cell::RefCell;
use std::path::{Path, PathBuf};

use clap::{Args, ValueEnum};
use serde::Serialize;
use spare_tile_core::bus::{Edge, Op};
use spare_tile_core::capture::vcd::Scope;
use spare_tile_core::firmware::ops::{self, Transfer};
use spare_tile_core::frame::Frame;
use spare_tile_core::pipeline::Pipeline;
use spare_tile_core::rig::Mount;
use spare_tile_core::units::Nanos;

use crate::args::Base;
use crate::brightness::Brightness;
use crate::commands::rig::check::pins;
use crate::failure::{Failure, Outcome};
use crate::files;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::words::{Placing, Words};

/// List the bus traffic of power-up and one frame, explained
///
/// Updates are as short as the part allows: see them with --from. With --then the list goes on.
#[derive(Args)]
pub struct Bytes {
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    words: Words,
    #[command(flatten)]
    placing: Placing,
    /// Just the update from this text
    #[arg(long, value_name = "TEXT", allow_hyphen_values = true)]
    from: Option<String>,
    /// Send everything again in place of the frame
    #[arg(long)]
    refresh: bool,
    /// What comes after the frame
    #[arg(long, value_name = "STEP,...", value_delimiter = ',', value_enum)]
    then: Vec<Step>,
    /// The brightness of the step of that name, in the part's own steps or as 50%
    #[arg(long, value_name = "N")]
    at_brightness: Option<Brightness>,
    /// Keys that are down while the keys are read, by their names in the rig
    #[arg(long, value_name = "KEY,...", value_delimiter = ',')]
    press: Vec<String>,
    /// How bytes are written
    #[arg(long, value_enum, default_value = "hex")]
    base: Base,
    /// Also list every level on the lines
    #[arg(long)]
    bits: bool,
    /// Write the list as data: json, c, rust or micropython
    #[arg(long = "as", value_name = "LANGUAGE", value_parser = ["json", "c", "rust", "micropython"])]
    language: Option<String>,
    /// Also write the edges as a value change dump (IEEE 1364) for a waveform viewer
    #[arg(long, value_name = "FILE")]
    vcd: Option<PathBuf>,
}

/// What a driver can be asked to send besides.
#[derive(ValueEnum, Clone, Copy, PartialEq, Eq)]
enum Step {
    Brightness,
    Off,
    On,
    Refresh,
    Keys,
    Test,
}

/// One operation that was sent.
struct Sent {
    at: Nanos,
    transfer: Transfer,
    edges: Vec<Edge>,
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
    let mount = bytes.rig.pick(&rig)?;
    let frame = bytes.words.frame(&bytes.placing, &mount.face, session)?;
    let from = bytes
        .from
        .as_deref()
        .map(|from| bytes.words.frame_of(from, &bytes.placing, &mount.face))
        .transpose()?;
    let brightness = bytes.at_brightness.map(|brightness| brightness.step(mount)).transpose()?;
    let pressed = pressed(&bytes.press, mount)?;
    let (sent, down) = traffic(bytes, from.as_ref(), &frame, brightness, &pressed, mount);
    match bytes.language.as_deref() {
        None if session.json => session.write_json(&answer(&sent, mount, bytes))?,
        None => {
            print(&sent, mount, bytes, session)?;
            if bytes.then.contains(&Step::Keys) {
                print_keys(&down, mount, session)?;
            }
        }
        Some("json") => session.write_json(&sent.iter().map(TransferAnswer::of).collect::<Vec<_>>())?,
        Some(language) => {
            let transfers: Vec<_> = sent.iter().map(|sent| sent.transfer.clone()).collect();
            let about = format!("face {}: {}", mount.face.name, mount.drive.ends.summary());
            let source = ops::write(language, &name_of(&mount.face.name), &about, &transfers);
            write!(session.out, "{}", source.unwrap_or_default())?;
        }
    }
    match &bytes.vcd {
        Some(path) => write_dump(path, &sent, mount, session),
        None => Ok(()),
    }
}

/// The places of these keys among the face's.
fn pressed(names: &[String], mount: &Mount) -> Result<Vec<usize>, Failure> {
    let known = mount.drive.ends.key_names();
    let place = |name: &String| {
        known.iter().position(|known| known == name).ok_or_else(|| {
            let help = if known.is_empty() {
                "it has none".to_owned()
            } else {
                format!("its keys: {}", known.join(", "))
            };
            Failure::unusable(format!("face {} has no key '{name}'", mount.face.name), help)
        })
    };
    names.iter().map(place).collect()
}

fn print_keys(down: &[usize], mount: &Mount, session: &mut Session<'_>) -> Outcome {
    let names = mount.drive.ends.key_names();
    if names.is_empty() {
        return Ok(writeln!(session.out, "the face has no keys")?);
    }
    let down: Vec<_> = down.iter().filter_map(|key| names.get(*key)).map(String::as_str).collect();
    let words =
        if down.is_empty() { "no key is down".to_owned() } else { format!("down: {}", down.join(", ")) };
    Ok(writeln!(session.out, "{words}")?)
}

/// A face's name as a name in a language.
fn name_of(face: &str) -> String {
    let name: String =
        face.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '_' }).collect();
    if name.starts_with(|c: char| c.is_ascii_alphabetic()) { name } else { format!("face_{name}") }
}

fn traffic(
    bytes: &Bytes,
    from: Option<&Frame>,
    frame: &Frame,
    brightness: Option<u8>,
    pressed: &[usize],
    mount: &Mount,
) -> (Vec<Sent>, Vec<usize>) {
    let heard = RefCell::new(Vec::new());
    let begun = RefCell::new(Nanos(0));
    let tap = |at: Nanos, op: Op<'_>, edges: &[Edge]| {
        let transfer = Transfer {
            role: op.role,
            bytes: op.bytes.to_vec(),
            reads: op.reads,
            not_before: op.not_before,
            words: mount.drive.explain(op.bytes),
        };
        let at = at - *begun.borrow();
        let edges = edges.iter().map(|edge| Edge { at: edge.at - *begun.borrow(), ..*edge }).collect();
        heard.borrow_mut().push(Sent { at, transfer, edges });
    };
    let mut pipeline = Pipeline::new(mount).with_tap(tap);
    pipeline.power_up();
    if let Some(from) = from {
        pipeline.show(from);
        // Just the update is asked for: time begins with it.
        heard.borrow_mut().clear();
        *begun.borrow_mut() = pipeline.now();
    }
    if bytes.refresh && from.is_none() {
        pipeline.show(frame);
        heard.borrow_mut().clear();
        *begun.borrow_mut() = pipeline.now();
        pipeline.refresh();
    } else {
        pipeline.show(frame);
        if bytes.refresh {
            pipeline.refresh();
        }
    }
    let mut down = Vec::new();
    for step in &bytes.then {
        match step {
            Step::Brightness => {
                let most = mount.drive.ends.max_brightness().unwrap_or(0);
                pipeline.brightness(brightness.unwrap_or(most));
            }
            Step::Off => pipeline.off(),
            Step::On => pipeline.on(),
            Step::Refresh => pipeline.refresh(),
            Step::Keys => {
                pressed.iter().for_each(|key| pipeline.press(*key, true));
                down = pipeline.keys();
            }
            Step::Test => {
                pipeline.test(true);
                pipeline.test(false);
            }
        }
    }
    drop(pipeline);
    (heard.into_inner(), down)
}

impl<'a> TransferAnswer<'a> {
    fn of(sent: &'a Sent) -> Self {
        let Transfer { role, bytes, reads, not_before, .. } = &sent.transfer;
        Self { role: role.name(), bytes, reads: *reads, not_before_ns: not_before.0 }
    }
}

fn answer<'a>(sent: &'a [Sent], mount: &'a Mount, bytes: &Bytes) -> Vec<SentAnswer<'a>> {
    let bus = mount.drive.ends.bus().name();
    let edge = |edge: &Edge| EdgeAnswer {
        at_us: edge.at.as_micros(),
        line: mount.drive.lines.get(edge.line).map_or("", |line| line.role.as_str()),
        level: u8::from(edge.level),
    };
    let answer = |sent: &'a Sent| SentAnswer {
        at_us: sent.at.as_micros(),
        bus,
        face: &mount.face.name,
        role: sent.transfer.role.name(),
        bytes: sent.transfer.bytes.iter().map(|byte| bytes.base.write(*byte)).collect(),
        reads: sent.transfer.reads,
        note: &sent.transfer.words,
        edges: if bytes.bits { sent.edges.iter().map(edge).collect() } else { Vec::new() },
    };
    sent.iter().map(answer).collect()
}

fn print(sent: &[Sent], mount: &Mount, options: &Bytes, session: &mut Session<'_>) -> Outcome {
    let name = session.bold(&mount.face.name).into_owned();
    writeln!(session.out, "{name}: {}; {}", mount.drive.ends.summary(), pins(mount))?;
    let reads = |transfer: &Transfer| {
        if transfer.reads > 0 { format!(" +{}", transfer.reads) } else { String::new() }
    };
    let bytes: Vec<_> = sent
        .iter()
        .map(|sent| format!("{}{}", options.base.write_all(&sent.transfer.bytes), reads(&sent.transfer)))
        .collect();
    let width = bytes.iter().map(String::len).max().unwrap_or(0).max("bytes".len());
    let heading = format!("{:>10}     {:10}  {:width$}  says", "at", "role", "bytes");
    writeln!(session.out, "{}", session.bold(&heading))?;
    let mut levels = mount.drive.ends.bus().idle();
    for (sent, bytes) in sent.iter().zip(bytes) {
        let (at, role) = (sent.at.as_micros(), sent.transfer.role);
        writeln!(session.out, "{at:>10.1} us  {role:10}  {bytes:width$}  {}", sent.transfer.words)?;
        if options.bits {
            print_bits(sent, mount, &mut levels, session)?;
        }
    }
    if options.from.is_some() {
        let total: usize = sent.iter().map(|sent| sent.transfer.bytes.len()).sum();
        let (transfers, plural) = (sent.len(), if sent.len() == 1 { "" } else { "s" });
        writeln!(session.out, "{total} bytes in {transfers} transfer{plural}")?;
    }
    Ok(())
}

/// The level of every line at each moment at which one changes.
fn print_bits(sent: &Sent, mount: &Mount, levels: &mut [Option<bool>], session: &mut Session<'_>) -> Outcome {
    for moment in sent.edges.chunk_by(|a, b| a.at == b.at) {
        for edge in moment {
            if let Some(level) = levels.get_mut(edge.line) {
                *level = Some(edge.level);
            }
        }
        let lines: Vec<_> = mount
            .drive
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
        writeln!(session.out, "{:>10.2} us      {}", moment[0].at.as_micros(), lines.join("  "))?;
    }
    Ok(())
}

/// Writes the edges of all operations as a dump.
fn write_dump(path: &Path, sent: &[Sent], mount: &Mount, session: &mut Session<'_>) -> Outcome {
    let edges: Vec<_> = sent.iter().flat_map(|sent| sent.edges.iter().copied()).collect();
    let end = edges.last().map_or(Nanos(0), |edge| edge.at + Nanos(1_000));
    let scope = Scope { mount, levels: mount.drive.ends.bus().idle(), edges: &edges };
    files::write_dump(path, scope, end, session)
}
