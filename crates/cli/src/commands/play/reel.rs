//! `play FILE`: a reel.

use std::cell::RefCell;
use std::fs;
use std::path::{Path, PathBuf};
use std::rc::Rc;
use std::sync::Arc;
use std::time::{Duration, SystemTime};

use jiff::Timestamp;
use jiff::tz::TimeZone;
use serde::Serialize;
use spare_tile_core::board::presses::Press;
use spare_tile_core::dots::font::Font;
use spare_tile_core::dots::reduce::Reduction;
use spare_tile_core::dots::sprite::Sprite;
use spare_tile_core::plan::{BothRigs, ButtonId, Keypad, Rig};
use spare_tile_core::play::Value;
use spare_tile_core::play::reel::{self, Planned, Program, Sources};
use spare_tile_core::rig::Finding;
use spare_tile_firmware::project::Texts;
use spare_tile_firmware::project::making::Content;
use spare_tile_firmware::project::targets::{Target, target};

use super::how::{How, play_fed};
use super::outlet::End;
use super::{ops, watch};
use crate::failure::{Complaint, Exit, Failure, Outcome, did_you_mean};
use crate::feed::Feed;
use crate::files;
use crate::input;
use crate::lettering;
use crate::programs;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::sprites;
use crate::view::columns::Columns;

/// Files that were read.
#[derive(Clone, Default)]
struct Seen(Rc<RefCell<Vec<SeenFile>>>);

/// A file, and when it had been changed last, as far as the system tells.
struct SeenFile {
    path: PathBuf,
    changed: Option<SystemTime>,
}

impl Seen {
    fn changed(path: &Path) -> Option<SystemTime> {
        fs::metadata(path).and_then(|found| found.modified()).ok()
    }

    /// Takes note of a file that is about to be read.
    fn note(&self, path: &Path) {
        self.0.borrow_mut().push(SeenFile { path: path.to_owned(), changed: Self::changed(path) });
    }

    /// Returns true if any has been changed since.
    fn have_changed(&self) -> bool {
        self.0.borrow().iter().any(|file| Self::changed(&file.path) != file.changed)
    }
}

/// Files that a reel names, from its own folder.
struct Folder {
    path: PathBuf,
    seen: Seen,
}

impl Folder {
    /// The folder of a file.
    fn of(file: &Path, seen: &Seen) -> Self {
        Self { path: file.parent().map(Path::to_owned).unwrap_or_default(), seen: seen.clone() }
    }

    fn place(&self, name: &str) -> PathBuf {
        let path = self.path.join(name);
        self.seen.note(&path);
        path
    }
}

impl Sources for Folder {
    fn sprite(&self, name: &str, reduction: &Reduction, is_asked: bool) -> Result<Sprite, String> {
        sprites::load_reduced(&self.place(name), None, reduction, is_asked).map_err(|failure| failure.words())
    }

    fn font(&self, name: &str) -> Result<Font, String> {
        let path = self.place(name);
        let name = if path.exists() { path.to_string_lossy().into_owned() } else { name.to_owned() };
        lettering::font(&name).map_err(|failure| failure.words())
    }

    fn reel(&self, name: &str) -> Result<(String, Box<dyn Sources>), String> {
        let path = self.place(name);
        let text = files::read_text(&path, "reel").map_err(|failure| failure.words())?;
        Ok((text, Box::new(Self::of(&path, &self.seen))))
    }
}

#[derive(Serialize)]
struct PlanAnswer<'a> {
    track: usize,
    face: &'a str,
    act: &'a str,
    begins_ms: f64,
    #[serde(skip_serializing_if = "Option::is_none")]
    ends_ms: Option<f64>,
}

/// A moment in milliseconds, exact where that is a whole number of nanoseconds.
fn millis(at: Duration) -> f64 {
    at.as_nanos() as f64 / 1e6
}

/// A reel file and the rig for it.
struct Files<'f> {
    reel: &'f Path,
    rig: &'f FaceOfRig,
    settings: &'f [(String, Value)],
    presses: &'f [(String, Duration)],
    begins: Option<Timestamp>,
    seen: Seen,
}

impl Files<'_> {
    /// Reads both files; returns their warnings too.
    fn read(&self, session: &mut Session<'_>) -> Result<(Rig, Program, Vec<Complaint>), Failure> {
        self.seen.0.borrow_mut().clear();
        [self.reel, &self.rig.file.rig].into_iter().for_each(|path| self.seen.note(path));
        let source: Arc<str> = session.shelf.read(self.reel, "reel")?.into();
        let rig = self.rig.load(session)?;
        let folder = Folder::of(self.reel, &self.seen);
        let (program, findings) = reel::read(&source, &rig, &folder, self.settings);
        let origin = input::called(self.reel);
        let complain = |finding: &Finding| Complaint::of_finding(finding, &origin, &source);
        let complaints = findings.iter().map(complain).collect();
        let Some(mut program) = program else { return Err(Failure::of_many(Exit::Unusable, complaints)) };
        let mut settings = self.settings.iter();
        if let Some((name, _)) = settings.find(|(name, _)| !program.variables.contains_key(name)) {
            let names = program.variables.keys().filter(|name| !name.contains('.'));
            let names: Vec<_> = names.map(String::as_str).collect();
            let help = match names.is_empty() {
                true => "it has none".to_owned(),
                false => format!("its variables: {}", names.join(", ")),
            };
            return Err(Failure::unusable(format!("the reel has no variable '{name}'"), help));
        }
        let presses = self.presses.iter().map(|(key, at)| press(&rig, key, *at));
        program.presses = presses.collect::<Result<_, _>>()?;
        program.begins = self.begins;
        Ok((rig, program, complaints))
    }
}

/// A button of a rig that is pressed at a moment: `desk.call1`, `up` on a pin, or `call1` where one face has buttons.
fn press(rig: &Rig, key: &str, at: Duration) -> Result<Press, Failure> {
    let named: Vec<_> =
        rig.all_buttons().filter_map(|button| Some((rig.button_name(button)?, button))).collect();
    let mut of_faces: Vec<_> = named.iter().map(|(_, button)| button.keypad).collect();
    of_faces.retain(|keypad| *keypad != Keypad::Pins);
    of_faces.dedup();
    let only = if let [only] = of_faces[..] { Some(only) } else { None };
    // Of the only face that has buttons its name may be left out.
    let is_short = |(name, button): &&(String, ButtonId)| {
        Some(button.keypad) == only && name.split_once('.').is_some_and(|(_, button)| button == key)
    };
    let found = named.iter().find(|(name, _)| name == key).or_else(|| named.iter().find(is_short));
    found.map(|(_, button)| Press { button: *button, at }).ok_or_else(|| {
        let names = named.iter().map(|(name, _)| name.clone()).collect::<Vec<_>>();
        let help = match names.is_empty() {
            true => "it has none".to_owned(),
            false => {
                let meant = did_you_mean(key, names.iter().map(String::as_str));
                format!("{meant}its buttons: {}", names.join(", "))
            }
        };
        Failure::unusable(format!("the rig has no button '{key}'"), help)
    })
}

/// Reads a reel file and its rig; returns their warnings too.
pub fn load(
    path: &Path,
    rig: &FaceOfRig,
    session: &mut Session<'_>,
) -> Result<(Rig, Program, Vec<Complaint>), Failure> {
    Files { reel: path, rig, settings: &[], presses: &[], begins: None, seen: Seen::default() }.read(session)
}

/// The request to play a reel.
pub struct Asked<'a> {
    pub rig: &'a FaceOfRig,
    pub how: &'a How,
    pub settings: &'a [(String, Value)],
    /// Keys that are pressed, and when.
    pub presses: &'a [(String, Duration)],
    /// The time at which it begins, where that is not now.
    pub begins: Option<Timestamp>,
    /// True if it is just told what plays when.
    pub checks: bool,
    /// The target by whose programs it is to be played.
    pub target: Option<&'a str>,
    /// True if files are read again when they change.
    pub watches: bool,
    /// True if values come over standard input.
    pub is_fed: bool,
}

/// Runs `play FILE`.
pub fn run(path: &Path, asked: &Asked<'_>, session: &mut Session<'_>) -> Outcome {
    if !input::is_named(path) && !session.shelf.has(path) {
        return Err(no_file(path));
    }
    if ops::is_log(path) {
        return run_log(path, asked, session);
    }
    if !asked.presses.is_empty() && asked.how.is_watched(session) && !asked.how.inline {
        let message = "on the whole screen buttons are pressed by hand";
        return Err(Failure::unusable(message, "leave out --press, or draw with --inline or --frames"));
    }
    let Asked { rig, settings, presses, begins, .. } = *asked;
    let files = Files { reel: path, rig, settings, presses, begins, seen: Seen::default() };
    let (rig, program, complaints) = files.read(session)?;
    session.warn(&complaints);
    if asked.checks {
        tell_plan(&rig, &program, session)?;
        return asked
            .target
            .and_then(target)
            .map_or(Ok(()), |target| check_for(target, &rig, &program, session));
    }
    let feed = match asked.is_fed {
        true => Some(feed(path, &program, asked.how)?),
        false => None,
    };
    if asked.watches {
        return watch_files(&files, rig, program, asked.how, feed.as_ref(), session);
    }
    play_fed(&rig, &program, asked.rig, asked.how, feed.as_ref(), session)
}

/// Values of a reel's variables from standard input.
fn feed(path: &Path, program: &Program, how: &How) -> Result<Feed, Failure> {
    if how.is_recorded() {
        let message = "--feed shows values as they come, and this is written at once";
        return Err(Failure::unusable(message, "leave out --feed, and give the variables with --set"));
    }
    if input::is_named(path) {
        return Err(Failure::unusable(
            "standard input cannot be the reel and its values",
            "name a reel file",
        ));
    }
    // Those of keys have a point in their names.
    Ok(Feed::of_named(program.variables.keys().filter(|name| !name.contains('.')).cloned()))
}

/// Plays operations that were written down, of which a reel's options ask nothing.
fn run_log(path: &Path, asked: &Asked<'_>, session: &mut Session<'_>) -> Outcome {
    let is_of_reels = !asked.settings.is_empty() || !asked.presses.is_empty() || asked.begins.is_some();
    if asked.checks || asked.watches || asked.is_fed || is_of_reels {
        let message = format!("{} is a log of operations, not a reel", path.display());
        return Err(Failure::unusable(
            message,
            "leave out --check, --watch, --set, --press, --time and --feed",
        ));
    }
    ops::play_again(path, asked.rig, asked.how, session)
}

/// Plays, and reads the files again when they change. After a mistake the last good version stays, with the error below it.
fn watch_files(
    files: &Files<'_>,
    mut rig: Rig,
    mut program: Program,
    how: &How,
    feed: Option<&Feed>,
    session: &mut Session<'_>,
) -> Outcome {
    if !how.is_watched(session) || how.inline {
        let message = "files are watched while someone watches the whole screen";
        return Err(Failure::unusable(message, "leave out --watch, or the option that writes a file"));
    }
    let (mut begins, mut notice) = (Duration::ZERO, String::new());
    loop {
        let built = how.built.load(files.rig, &rig, session)?;
        let has_changed = || files.seen.have_changed();
        let view = watch::View {
            length: how.length.or(program.length()),
            feed,
            speed: how.speed_at_first(),
            begins,
            notice: &notice,
            has_changed: &has_changed,
        };
        match watch::run(BothRigs::new(&rig, built.as_ref()), &program, view, session)? {
            End::Changed(at) => begins = at,
            end => return end.outcome(),
        }
        notice = match files.read(session) {
            Ok((new_rig, new_program, _)) => {
                (rig, program) = (new_rig, new_program);
                "read again".to_owned()
            }
            Err(failure) => failure.words(),
        };
    }
}

/// A missing file may be a misspelt act.
fn no_file(path: &Path) -> Failure {
    const ACTS: [&str; 6] = ["count", "clock", "number", "test", "text", "sprite"];
    let name = path.to_string_lossy();
    let meant = did_you_mean(&name, ACTS.into_iter());
    let help =
        format!("{meant}the acts: {}; or name a reel file, such as morning.reel.toml", ACTS.join(", "));
    Failure::unusable(format!("there is no reel file and no act {name}"), help)
}

/// Reports that a program for a target can play it.
///
/// # Errors
/// If it cannot, with the reason.
fn check_for(target: &dyn Target, rig: &Rig, program: &Program, session: &mut Session<'_>) -> Outcome {
    let name = target.name();
    let texts = Texts { program: "", wiring: "", begins: Some(Timestamp::UNIX_EPOCH), zone: &TimeZone::UTC };
    let content = Content { program, words: "", is_own: false };
    programs::write(rig, &content, target, &texts).map_err(|failure| {
        let why = failure.words();
        let help = "change that, or write it for another target: see docs/guide/firmware-targets.md";
        Failure::answer_is_no(format!("no program for {name} can play this: {why}"), help)
    })?;
    if session.json { Ok(()) } else { Ok(writeln!(session.out, "{name}: a program can play it")?) }
}

/// Prints when each track shows which act, and the total length.
fn tell_plan(rig: &Rig, program: &Program, session: &mut Session<'_>) -> Outcome {
    let face = |planned: &Planned| rig.faces[planned.face].face.name.as_str();
    if session.json {
        let answers: Vec<_> = program
            .plan
            .iter()
            .map(|planned| PlanAnswer {
                track: planned.track,
                face: face(planned),
                act: planned.kind,
                begins_ms: millis(planned.begins),
                ends_ms: planned.ends.map(millis),
            })
            .collect();
        return session.write_json(&answers);
    }
    let mut table = Columns::new(&["track", "face", "from", "to", "act"]);
    let seconds = |time: Duration| format!("{:.3} s", time.as_secs_f64());
    for planned in &program.plan {
        let ends = planned.ends.map_or_else(|| "-".to_owned(), seconds);
        let (track, kind) = (planned.track.to_string(), planned.kind.to_owned());
        table.row([track, face(planned).to_owned(), seconds(planned.begins), ends, kind]);
    }
    write!(session.out, "{}", table.text(0, session))?;
    let ends = program.plan.iter().map(|planned| planned.ends);
    let whole = ends.clone().try_fold(Duration::ZERO, |longest, ends| Some(longest.max(ends?)));
    let words = match (whole, program.reel.length()) {
        (Some(whole), None) => format!("{} in all, then again", seconds(whole)),
        (Some(whole), Some(_)) => format!("{} in all", seconds(whole)),
        (None, _) => "it repeats forever".to_owned(),
    };
    Ok(writeln!(session.out, "{words}")?)
}
