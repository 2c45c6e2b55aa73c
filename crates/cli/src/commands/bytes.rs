//! `bytes`: the bus traffic of power-up and one frame, explained.

use std::cell::RefCell;
use std::path::PathBuf;

use clap::Args;
use serde::Serialize;
use spare_tile_core::bus::{Edge, Op, Role};
use spare_tile_core::capture::vcd::{self, Scope};
use spare_tile_core::frame::Frame;
use spare_tile_core::pipeline::Pipeline;
use spare_tile_core::rig::Mount;
use spare_tile_core::units::Nanos;

use crate::args::Base;
use crate::commands::rig::check::pins;
use crate::failure::{Failure, Outcome};
use crate::files;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::words::{Placing, Words};

/// List the bus traffic of power-up and one frame, explained
#[derive(Args)]
pub struct Bytes {
    #[command(flatten)]
    rig: FaceOfRig,
    #[command(flatten)]
    words: Words,
    #[command(flatten)]
    placing: Placing,
    /// How bytes are written
    #[arg(long, value_enum, default_value = "hex")]
    base: Base,
    /// Also write the edges as a value change dump (IEEE 1364) for a waveform viewer
    #[arg(long, value_name = "FILE")]
    vcd: Option<PathBuf>,
}

/// One operation that was sent.
struct Sent {
    at: Nanos,
    role: Role,
    bytes: Vec<u8>,
}

/// What passed over a face's bus.
#[derive(Default)]
struct Traffic {
    sent: Vec<Sent>,
    edges: Vec<Edge>,
}

#[derive(Serialize)]
struct SentAnswer<'a> {
    at_us: f64,
    bus: &'a str,
    face: &'a str,
    role: &'a str,
    bytes: Vec<String>,
    note: String,
}

/// Runs `bytes`.
pub fn run(bytes: &Bytes, session: &mut Session<'_>) -> Outcome {
    let rig = bytes.rig.load(session)?;
    let mount = bytes.rig.pick(&rig)?;
    let frame = bytes.words.frame(&bytes.placing, &mount.face, session)?;
    let traffic = traffic(&frame, mount);
    if session.json {
        session.write_json(&answer(&traffic, mount, bytes.base))?;
    } else {
        print(&traffic, mount, bytes.base, session)?;
    }
    match &bytes.vcd {
        Some(path) => files::write_and_tell(path, dump(&traffic, mount)?.as_bytes(), session),
        None => Ok(()),
    }
}

fn traffic(frame: &Frame, mount: &Mount) -> Traffic {
    let traffic = RefCell::new(Traffic::default());
    let tap = |at: Nanos, op: Op<'_>, edges: &[Edge]| {
        let mut traffic = traffic.borrow_mut();
        traffic.sent.push(Sent { at, role: op.role, bytes: op.bytes.to_vec() });
        traffic.edges.extend_from_slice(edges);
    };
    let mut pipeline = Pipeline::new(mount).with_tap(tap);
    pipeline.power_up();
    pipeline.show(frame);
    drop(pipeline);
    traffic.into_inner()
}

fn answer<'a>(traffic: &Traffic, mount: &'a Mount, base: Base) -> Vec<SentAnswer<'a>> {
    let bus = mount.drive.ends.bus().name();
    let answer = |sent: &Sent| SentAnswer {
        at_us: sent.at.as_micros(),
        bus,
        face: &mount.face.name,
        role: sent.role.name(),
        bytes: sent.bytes.iter().map(|byte| base.write(*byte)).collect(),
        note: mount.drive.explain(&sent.bytes),
    };
    traffic.sent.iter().map(answer).collect()
}

fn print(traffic: &Traffic, mount: &Mount, base: Base, session: &mut Session<'_>) -> Outcome {
    let name = session.bold(&mount.face.name).into_owned();
    writeln!(session.out, "{name}: {}; {}", mount.drive.ends.summary(), pins(mount))?;
    let bytes: Vec<_> = traffic.sent.iter().map(|sent| base.write_all(&sent.bytes)).collect();
    let width = bytes.iter().map(String::len).max().unwrap_or(0).max("bytes".len());
    let heading = format!("{:>10}     {:8}  {:width$}  says", "at", "role", "bytes");
    writeln!(session.out, "{}", session.bold(&heading))?;
    for (sent, bytes) in traffic.sent.iter().zip(bytes) {
        let (at, note) = (sent.at.as_micros(), mount.drive.explain(&sent.bytes));
        writeln!(session.out, "{at:>10.1} us  {:8}  {bytes:width$}  {note}", sent.role)?;
    }
    Ok(())
}

fn dump(traffic: &Traffic, mount: &Mount) -> Result<String, Failure> {
    let mut dump = String::new();
    let scope = Scope { mount, levels: mount.drive.ends.bus().idle(), edges: &traffic.edges };
    let end = traffic.edges.last().map_or(Nanos(0), |edge| edge.at + Nanos(1_000));
    vcd::write(&mut dump, &[scope], end)
        .map_err(|error| Failure::unusable_plainly(format!("cannot form the dump: {error}")))?;
    Ok(dump)
}
