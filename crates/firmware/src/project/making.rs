//! From a rig and what plays on it to the model of a project.

use std::collections::BTreeSet;
use std::time::Duration;

use jiff::Timestamp;

use super::error::{CannotWrite, ProjectError};
use super::hearing::{Hearing, hearings};
use super::jumping;
use super::keys::Keys;
use super::laying::Laying;
use super::lines::bus_model;
use super::model::{
    FaceModel, FontModel, JumpModel, KeysModel, LampModel, Line, Model, OwnModel, PassageModel, ResendModel,
    ScanModel, StepModel, ValueModel,
};
use super::names::Names;
use super::of_panel::SHORTEST;
use super::passage::Millis;
use super::sending::{Scan, Sending, Step, Unlearnt};
use super::story::{Story, Writing};
use super::transfers::{pieces, step_model};
use super::values::{self, Lives};
use spare_tile_core::frame::Level;
use spare_tile_core::plan::buttons::MAX_BUTTONS;
use spare_tile_core::plan::teller::Teller;
use spare_tile_core::plan::{Keypad, Mount, Rig};
use spare_tile_core::play::gauge::{Bar, Gauge, Source};
use spare_tile_core::play::reel::{Doing, Program};
use spare_tile_core::play::still::Blank;
use spare_tile_core::play::{Act, Inputs, Kind};

impl Model {
    /// The project of a rig and what plays on it, with names as a language has them. A clock that is not said to begin at a time
    /// `begins` then.
    ///
    /// # Errors
    /// When a face's drive or content cannot be written as a program.
    pub fn of(
        rig: &Rig,
        content: &Content<'_>,
        begins: Option<Timestamp>,
        names: &mut Names,
    ) -> Result<Self, ProjectError> {
        let mut making = Making::of(rig, content, begins, names)?;
        let faces = making.playing.clone().into_iter().map(|face| making.face(face));
        let mut faces = faces.collect::<Result<Vec<_>, _>>()?;
        if faces.is_empty() {
            return Err(ProjectError::Nothing);
        }
        let (of_faces, on_pins) = making.keys(&faces)?;
        faces.iter_mut().zip(of_faces).for_each(|(face, keys)| face.keys = keys);
        let facts = rig.controller.facts.as_ref();
        Ok(Self {
            title: rig.name.clone().unwrap_or_else(|| "display".to_owned()),
            content: content.words.to_owned(),
            controller: rig.controller.part.clone().unwrap_or_else(|| "the controller".to_owned()),
            clock: facts.and_then(|facts| facts.clock_hz),
            flash: facts.and_then(|facts| facts.flash_bytes),
            ram: facts.and_then(|facts| facts.ram_bytes),
            long_times: faces.iter().any(FaceModel::has_long_times),
            fonts: FontModel::all(faces.iter().filter_map(FaceModel::own_height).max().unwrap_or(0)),
            faces,
            pin_buttons: on_pins,
            holds: making.holds(),
            fixed: values::fixed(content.program, &making.lives)
                .map(|(name, value)| (name.to_owned(), value.to_string()))
                .collect(),
            is_own: content.is_own,
            lines: making.lines,
            values: making.values,
        })
    }
}

/// Colours are numbered by a byte.
const MOST_COLOURS: usize = 255;

/// The content of a project.
#[derive(Clone, Copy)]
pub struct Content<'a> {
    /// The reel that plays.
    pub program: &'a Program,
    /// The same in words.
    pub words: &'a str,
    /// True if a person's own program decides what is shown; the reel then only names the faces.
    pub is_own: bool,
}

/// A project being made.
struct Making<'a> {
    rig: &'a Rig,
    program: &'a Program,
    is_own: bool,
    begins: Option<Timestamp>,
    inputs: Inputs,
    lives: Lives,
    values: Vec<ValueModel>,
    hearings: Vec<Hearing>,
    /// The faces that show something or have keys that do, by their places in the rig.
    playing: Vec<usize>,
    /// By face of the rig: its name in the source; nothing of those that do not play.
    ids: Vec<String>,
    names: &'a mut Names,
    lines: Vec<Line>,
}

impl<'a> Making<'a> {
    fn of(
        rig: &'a Rig,
        content: &Content<'a>,
        begins: Option<Timestamp>,
        names: &'a mut Names,
    ) -> Result<Self, ProjectError> {
        let Content { program, is_own, .. } = *content;
        let mut inputs = Inputs::default();
        program.begin(&mut inputs);
        let lives = values::lives(rig, program).map_err(ProjectError::Value)?;
        let tracks = &program.reel.tracks;
        let hearings = tracks.iter().flat_map(|track| hearings(track.face, &*track.act)).collect();
        let of_tracks = tracks.iter().map(|track| track.face);
        let heard = program.heard.iter().filter_map(|keypad| match *keypad {
            Keypad::Face(face) => Some(face),
            Keypad::Pins => None,
        });
        let playing: BTreeSet<_> = of_tracks.chain(heard).collect();
        let mut ids = vec![String::new(); rig.faces.len()];
        for face in &playing {
            ids[*face] = names.make("face", &rig.faces[*face].face.name)?;
        }
        let value = |(variable, live): (&String, &values::Live)| {
            Ok(ValueModel {
                id: names
                    .make("value", &format!("{} {variable}", if live.is_given { "read" } else { "value" }))?,
                first: live.first,
                places: live.places,
                bits: live.bits(),
                is_given: live.is_given,
                means: live.meaning(is_toggled(variable, program)),
                variable: variable.clone(),
            })
        };
        let values = lives.iter().map(value).collect::<Result<Vec<_>, ProjectError>>()?;
        let playing = playing.into_iter().collect();
        let lines = Vec::new();
        Ok(Self { rig, program, is_own, begins, inputs, lives, values, hearings, playing, ids, names, lines })
    }

    fn face(&mut self, place: usize) -> Result<FaceModel, ProjectError> {
        let (rig, program) = (self.rig, self.program);
        let mount = &rig.faces[place];
        let face = &mount.face;
        let content = |why| ProjectError::Content { face: face.name.clone(), why };
        let acts = program.reel.tracks.iter().filter(|track| track.face == place).map(|track| &*track.act);
        // What keys switch lies over what plays.
        let (switched, mut acts): (Vec<_>, Vec<_>) =
            acts.partition(|act| switched_lamp(*act, program).is_some());
        if acts.is_empty() {
            acts.push(&Blank);
        }
        let writing = Writing { mount, inputs: &self.inputs, lives: &self.lives, begins: self.begins };
        let story = Story::of(&acts, &writing).map_err(content)?;
        let sending = Sending::of(mount, story.has_greys())
            .map_err(|why| ProjectError::Drive { face: face.name.clone(), why })?;
        let id = self.ids[place].clone();
        let has_buttons = || !mount.drive.display().button_names().is_empty();
        let asks = program.heard.contains(&Keypad::Face(place)) || self.is_own && has_buttons();
        let bus = bus_model(rig, mount, &id, asks, (self.names, &mut self.lines))?;
        let teller = Teller::new(mount);
        let told = |step: &Step| step_model(step, &bus, &teller);
        let mut laying = Laying::of(face, &sending, &self.values);
        let passages = story.passages.iter().map(|passage| laying.passage(passage));
        let mut passages = passages.collect::<Result<Vec<_>, _>>()?;
        let keeps_time = passages.len() > 1 || self.holds();
        passages.iter_mut().for_each(|passage| passage.keep_time(keeps_time));
        let lamps = switched.iter().filter_map(|act| switched_lamp(*act, program)).map(|(lamp, variable)| {
            let name = face.extras[lamp].name.clone();
            let element = face.extra(lamp);
            if story.lights(element) {
                return Err(content(CannotWrite::Lamp { lamp: name }));
            }
            let value = self.values.iter().position(|value| value.variable == variable).unwrap_or(0);
            Ok(LampModel {
                name,
                value,
                marks: laying.putting.marks(&BTreeSet::from([element]), &vec![Level::FULL]),
            })
        });
        let lamps = lamps.collect::<Result<Vec<_>, _>>()?;
        let Laying { putting, stills, strips, .. } = laying;
        let puts = !putting.sets.is_empty() || !strips.is_empty() || !putting.colours.is_empty();
        let passages_follow = passages.iter().any(|passage| passage.follows(&self.values));
        let is_heard = passages.iter().any(PassageModel::is_heard);
        let has_beyond = passages.iter().any(PassageModel::has_beyond);
        let may_lag = passages.iter().any(PassageModel::is_quick);
        let dims = passages.iter().any(|passage| passage.dims());
        if putting.colours.len() > MOST_COLOURS {
            return Err(content(CannotWrite::Colours { most: MOST_COLOURS }));
        }
        let mut jumps = self.jumps(&acts, mount, &passages).map_err(content)?;
        let mut scan = sending.scan.as_ref().map(|scan| scan_model(scan, &told));
        if let Some(scan) = scan.as_mut().filter(|scan| !scan.dims.is_empty()) {
            if self.is_own {
                scan.keep_dims_from(SHORTEST.0);
            } else {
                scan.keep_dims(&mut passages, &mut jumps);
            }
            if scan.least_unit() < SHORTEST.0 {
                return Err(ProjectError::Drive { face: face.name.clone(), why: Unlearnt::Slow });
            }
        }
        let own = self.is_own.then(|| OwnModel::of(face, &sending, &id, self.names)).transpose()?;
        let brightness = sending.brightness.iter().filter(|_| dims || self.is_own);
        let brightness: Vec<Vec<StepModel>> =
            brightness.map(|steps| steps.iter().map(told).collect()).collect();
        let dims = scan.as_ref().map_or(0, |scan| scan.dims.len());
        Ok(FaceModel {
            name: face.name.clone(),
            caps: id.to_uppercase(),
            id,
            about: face.summary(),
            drive: mount.drive.display().summary(),
            power_up: sending.power_up.iter().map(told).collect(),
            frame: pieces(&sending, &told),
            scan,
            dark: sending.dark.clone(),
            digits: if puts { putting.digits() } else { None },
            dots: if puts { putting.dots() } else { None },
            sets: putting.sets,
            stills,
            colours: putting.colours,
            strips,
            has_end: passages.iter().any(PassageModel::rests),
            shows: PassageModel::names(&passages),
            passages,
            brightness_steps: if dims > 0 { dims } else { brightness.len() },
            brightness,
            resend: mount.drive.display().resend_every().map(|every| {
                let fixed =
                    |steps: &[Step]| steps.iter().filter(|step| !step.has_image()).map(told).collect();
                let picture = sending.resend.iter().position(Step::has_image).unwrap_or(0);
                let (before, behind) = sending.resend.split_at(picture);
                ResendModel {
                    every: (every.0 / 1_000_000) as u32,
                    before: fixed(before),
                    behind: fixed(behind),
                }
            }),
            follows: !lamps.is_empty() || passages_follow,
            is_heard,
            has_beyond,
            may_lag,
            own,
            keys: None,
            jumps,
            lamps,
            bus,
        })
    }

    /// Whether a key holds what plays.
    fn holds(&self) -> bool {
        self.program.bindings.iter().any(|binding| binding.doing == Doing::Pause)
    }

    /// The moments from which keys let a face go on.
    fn jumps(
        &self,
        acts: &[&dyn Act],
        mount: &Mount,
        passages: &[PassageModel],
    ) -> Result<Vec<JumpModel>, CannotWrite> {
        let moments = self.program.bindings.iter().filter_map(|binding| match &binding.doing {
            Doing::Jump(to) => Some(*to),
            _ => None,
        });
        let moments = moments.map(jumping::moment).collect::<Result<BTreeSet<_>, _>>();
        let moments = moments.map_err(CannotWrite::Jump)?;
        let jump = |to: Millis| {
            let moment = Duration::from_millis(to.into());
            let lights = acts.iter().rev().filter_map(|act| act.brightness(moment, &self.inputs));
            let light = lights.map(|light| light.step(mount)).next().flatten();
            jumping::jump(passages, to, light).map_err(CannotWrite::Jump)
        };
        moments.into_iter().filter_map(|to| jump(to).transpose()).collect()
    }

    /// By face of these: its buttons, where they do something; and those on pins.
    fn keys(
        &mut self,
        faces: &[FaceModel],
    ) -> Result<(Vec<Option<KeysModel>>, Option<KeysModel>), ProjectError> {
        let (rig, program, hearings, lives) = (self.rig, self.program, &self.hearings, &self.lives);
        let (is_own, values, ids) = (self.is_own, &self.values, &self.ids);
        let known = Keys { rig, is_own, program, hearings, lives, values, ids, faces };
        let of_face = |(place, face): (&usize, &FaceModel)| {
            let teller = Teller::new(&rig.faces[*place]);
            known.of_face(*place, &|step| step_model(step, &face.bus, &teller), self.names)
        };
        let of_faces = self.playing.iter().zip(faces).map(of_face).collect::<Result<Vec<_>, _>>()?;
        let on_pins = known.on_pins(self.names, &mut self.lines)?;
        // A person's own program numbers all of them together.
        let all = of_faces.iter().flatten().chain(&on_pins).map(|keys| keys.buttons.len()).sum::<usize>();
        if is_own && all > MAX_BUTTONS {
            return Err(ProjectError::OwnButtons { found: all, most: MAX_BUTTONS });
        }
        Ok((of_faces, on_pins))
    }
}

fn scan_model(scan: &Scan, told: &dyn Fn(&Step) -> StepModel) -> ScanModel {
    ScanModel {
        slots: scan.slots,
        width: scan.width,
        refresh: 1e9 / scan.turn.0 as f64,
        slot_ns: scan.turn.0 / scan.slots as u64,
        blanking_ns: scan.blanking.0,
        blank: scan.blank.iter().map(told).collect(),
        depth: scan.depth,
        unit_ns: scan.unit.0,
        in_pieces: scan.depth > 1 || !scan.dims.is_empty(),
        dims: scan.dims.iter().map(|(blanking, unit)| (blanking.0, unit.0)).collect(),
        dimmed: scan.dimmed,
    }
}

/// The lamp that an act lights while a key has switched it on, and the variable that says so.
fn switched_lamp<'a>(act: &'a dyn Act, program: &Program) -> Option<(usize, &'a str)> {
    let Kind::Gauge(Gauge { source: Source::Variable(variable), bar: Bar::Lamps(lamps), .. }) = act.kind()
    else {
        return None;
    };
    lamps.first().filter(|_| is_toggled(variable, program)).map(|lamp| (*lamp, variable.as_str()))
}

/// Returns true if a button lights a lamp by a variable.
fn is_toggled(variable: &str, program: &Program) -> bool {
    let lamps = program.bindings.iter().filter_map(|binding| binding.doing.lamp());
    { lamps }.any(|lamp| lamp.variable == variable)
}
