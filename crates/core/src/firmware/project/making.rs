//! From a rig and what plays on it to the model of a project.

use super::lines::bus_model;
use super::model::{FaceModel, Line, Model, PassageModel, ResendModel, ScanModel};
use super::names::Names;
use super::passage::{Passage, Runs};
use super::putting::{Putting, seats_model};
use super::sending::{Sending, Step, Unlearnt};
use super::story::{CannotWrite, Story};
use super::transfers::{pieces, step_model};
use crate::plan::teller::Teller;
use crate::plan::{Mount, Rig};
use crate::play::Inputs;
use crate::play::reel::Program;

/// Why there is no project.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[allow(missing_docs, reason = "the messages say what the fields are")]
pub enum ProjectError {
    #[error("face {face}: {why}")]
    Drive { face: String, why: Unlearnt },
    #[error("face {face}: {why}")]
    Content { face: String, why: CannotWrite },
    #[error("face {face}: figures are put on it one by one, and its digits or dots are not all wired alike")]
    Mixed { face: String },
    #[error("{found:?} is no name in {language}, whichever letters are left out: call the {what} otherwise")]
    Name { what: &'static str, found: String, language: &'static str },
    #[error("keys of face {face} do something here, and no program reads keys yet")]
    Keys { face: String },
    #[error("face {face} is scanned, and a list is sent once")]
    Scanned { face: String },
    #[error("no lines that send a list are written for {target}")]
    List { target: &'static str },
    #[error("nothing plays on any face")]
    Nothing,
    #[error("{target} cannot hold it: {why}")]
    Target { target: &'static str, why: String },
}

impl Model {
    /// The project of a rig and what plays on it, with names as a language has them.
    ///
    /// # Errors
    /// When a face's drive or content cannot be written as a program.
    pub fn of(rig: &Rig, program: &Program, content: &str, names: &mut Names) -> Result<Self, ProjectError> {
        if let Some(face) = program.heard.first().and_then(|face| rig.faces.get(*face)) {
            return Err(ProjectError::Keys { face: face.face.name.clone() });
        }
        let mut inputs = Inputs::default();
        program.begin(&mut inputs);
        let mut lines: Vec<Line> = Vec::new();
        let mut faces = Vec::new();
        for (place, mount) in rig.faces.iter().enumerate() {
            let tracks: Vec<_> = program.reel.tracks.iter().filter(|track| track.face == place).collect();
            if tracks.is_empty() {
                continue;
            }
            let acts: Vec<_> = tracks.iter().map(|track| &*track.act).collect();
            let face = || mount.face.name.clone();
            let story = Story::of(&acts, mount, &inputs)
                .map_err(|why| ProjectError::Content { face: face(), why })?;
            let sending = Sending::of(mount).map_err(|why| ProjectError::Drive { face: face(), why })?;
            faces.push(face_model(rig, mount, (&sending, &story), (names, &mut lines))?);
        }
        if faces.is_empty() {
            return Err(ProjectError::Nothing);
        }
        let long_times = faces.iter().any(FaceModel::has_long_times);
        Ok(Self {
            title: rig.name.clone().unwrap_or_else(|| "display".to_owned()),
            content: content.to_owned(),
            controller: rig.controller.part.clone().unwrap_or_else(|| "the controller".to_owned()),
            clock: rig.controller.facts.as_ref().and_then(|facts| facts.clock_hz),
            flash: rig.controller.facts.as_ref().and_then(|facts| facts.flash_bytes),
            ram: rig.controller.facts.as_ref().and_then(|facts| facts.ram_bytes),
            lines,
            faces,
            long_times,
        })
    }
}

fn face_model(
    rig: &Rig,
    mount: &Mount,
    (sending, story): (&Sending, &Story),
    (names, lines): (&mut Names, &mut Vec<Line>),
) -> Result<FaceModel, ProjectError> {
    let face = &mount.face;
    let id = names.make("face", &face.name)?;
    let bus = bus_model(rig, mount, &id, (names, lines))?;
    let teller = Teller::new(mount);
    let told = |step: &Step| step_model(step, &bus, &teller);
    let mut putting = Putting { face, sending, sets: Vec::new(), patterns: Vec::new() };
    let (mut stills, mut strips) = (Vec::new(), Vec::new());
    let mut passages = Vec::new();
    let mixed = || ProjectError::Mixed { face: face.name.clone() };
    for passage in &story.passages {
        passages.push(match passage {
            Passage::Film(film) => {
                let shown = film.shown.iter().map(|shown| {
                    let image = sending.image(&shown.frame);
                    let still = stills.iter().position(|still| *still == image).unwrap_or_else(|| {
                        stills.push(image);
                        stills.len() - 1
                    });
                    (still, shown.lasts.unwrap_or(0), shown.brightness)
                });
                let shown: Vec<_> = shown.collect();
                PassageModel::Film { dims: shown.iter().any(|(.., light)| light.is_some()), shown }
            }
            Passage::Moving(moving) => {
                let columns =
                    moving.strip.iter().map(|column| putting.column(*column, 0)).collect::<Option<Vec<_>>>();
                strips.push(columns.ok_or_else(mixed)?);
                let (windows, to_left, step) = (moving.windows, moving.to_left, moving.step);
                PassageModel::Moving { strip: strips.len() - 1, windows, to_left, step }
            }
            Passage::Count(count) => {
                let to = count.from + count.step * (count.numbers - 1) as i64;
                let figures = &count.figures;
                let set = putting.set(&figures.field, figures.minus.as_ref()).ok_or_else(mixed)?;
                let least = figures.field.seats.len();
                // One step further must be counted too.
                let span = [count.from, to].into_iter().flat_map(|end| [end, end + count.step]);
                let most = span.map(i64::unsigned_abs).max().unwrap_or(0);
                PassageModel::Count {
                    from: count.from,
                    to,
                    step: count.step,
                    every: count.every,
                    hold: count.hold,
                    times: count.times.unwrap_or(0),
                    set,
                    seats: seats_model(&figures.field),
                    least: figures.least.min(least),
                    marks: putting.marks(&figures.field.marks),
                    negative: figures.minus.is_some(),
                    bits: if most < 1 << 15 { 16 } else { 32 },
                }
            }
            Passage::Clock(clock) => PassageModel::Clock {
                set: putting.set(&clock.field, None).ok_or_else(mixed)?,
                seats: seats_model(&clock.field),
                marks: putting.marks(&clock.field.marks),
                colon: putting.marks(&clock.colon),
                afternoon: clock.twelve.as_ref().map(|lights| putting.marks(lights)).unwrap_or_default(),
                twelve: clock.twelve.is_some(),
                runs: match clock.runs {
                    Runs::Day => "day",
                    Runs::Up => "up",
                    Runs::Down => "down",
                },
                seconds: clock.seconds,
                first: clock.first,
                passed: clock.passed,
                start: clock.start(),
                ticks: clock.ticks,
                ticked: clock.ticked,
                tick: clock.tick,
                first_tick: clock.first_tick,
                blinks: clock.blinks,
                lasts: clock.lasts.unwrap_or(0),
            },
        });
    }
    let puts = !putting.sets.is_empty() || !strips.is_empty();
    let dims = passages.iter().any(|passage| matches!(passage, PassageModel::Film { dims: true, .. }));
    let brightness = sending.brightness.iter().filter(|_| dims);
    let brightness = brightness.map(|steps| steps.iter().map(told).collect()).collect();
    Ok(FaceModel {
        name: face.name.clone(),
        caps: id.to_uppercase(),
        id,
        about: face.summary(),
        drive: mount.drive.display().summary(),
        power_up: sending.power_up.iter().map(told).collect(),
        frame: pieces(sending, &told),
        scan: sending.scan.as_ref().map(|scan| ScanModel {
            slots: scan.slots,
            width: scan.width,
            refresh: 1e9 / scan.turn.0 as f64,
            slot_ns: scan.turn.0 / scan.slots as u64,
            blanking_ns: scan.blanking.0,
            blank: scan.blank.iter().map(told).collect(),
            depth: scan.depth,
        }),
        dark: sending.dark.clone(),
        digits: if puts { putting.digits() } else { None },
        dots: if puts { putting.dots() } else { None },
        sets: putting.sets,
        stills,
        strips,
        passages,
        has_end: story
            .passages
            .iter()
            .any(|passage| passage.length().is_none() && matches!(passage, Passage::Film(_))),
        brightness,
        resend: mount.drive.display().resend_every().map(|every| {
            let fixed = |steps: &[Step]| steps.iter().filter(|step| !step.has_image()).map(told).collect();
            let picture = sending.resend.iter().position(Step::has_image).unwrap_or(0);
            let (before, behind) = sending.resend.split_at(picture);
            ResendModel { every: (every.0 / 1_000_000) as u32, before: fixed(before), behind: fixed(behind) }
        }),
        bus,
    })
}
