//! `play FILE`: a reel.

use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;

use serde::Serialize;
use spare_tile_core::dots::font::Font;
use spare_tile_core::dots::reduce::Inks;
use spare_tile_core::dots::sprite::Sprite;
use spare_tile_core::face::{Channels, Grid};
use spare_tile_core::plan::Rig;
use spare_tile_core::play::Value;
use spare_tile_core::play::reel::{self, Planned, Program, Sources};
use spare_tile_core::rig::Finding;

use super::{How, millis, play_program};
use crate::failure::{Complaint, Exit, Failure, Outcome, did_you_mean};
use crate::files;
use crate::input;
use crate::lettering;
use crate::pictures::Reading;
use crate::rigs::FaceOfRig;
use crate::session::Session;
use crate::sprites;
use crate::view::columns::Columns;

/// Files that a reel names, from its own folder.
struct Folder {
    path: PathBuf,
}

impl Folder {
    fn place(&self, name: &str) -> PathBuf {
        self.path.join(name)
    }
}

impl Sources for Folder {
    fn sprite(&self, name: &str, grid: Grid) -> Result<Sprite, String> {
        let inks = if grid.channels == Channels::One { Inks::One } else { Inks::Eight };
        let goal = ((grid.width, grid.height), inks);
        sprites::load(&self.place(name), &Reading::default(), goal).map_err(|failure| failure.words())
    }

    fn font(&self, name: &str) -> Result<Font, String> {
        let path = self.place(name);
        let name = if path.exists() { path.to_string_lossy().into_owned() } else { name.to_owned() };
        lettering::font(&name).map_err(|failure| failure.words())
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

/// Runs `play FILE`.
pub fn run(
    path: &Path,
    (rig_file, how): (&FaceOfRig, &How),
    (settings, checks): (&[(String, Value)], bool),
    session: &mut Session<'_>,
) -> Outcome {
    if !input::is_named(path) && !path.exists() {
        return Err(no_file(path));
    }
    let source: Arc<str> = files::read_text(path, "reel")?.into();
    let rig = rig_file.load(session)?;
    let folder = Folder { path: path.parent().map(Path::to_owned).unwrap_or_default() };
    let (program, findings) = reel::read(&source, &rig, &folder, settings);
    let origin = input::called(path);
    let complain = |finding: &Finding| Complaint::of_finding(finding, &origin, &source);
    let Some(program) = program else {
        return Err(Failure::of_many(Exit::Unusable, findings.iter().map(complain).collect()));
    };
    session.warn(&findings.iter().map(complain).collect::<Vec<_>>());
    if let Some((name, _)) = settings.iter().find(|(name, _)| !program.variables.contains_key(name)) {
        let names = program.variables.keys().filter(|name| !name.contains('.'));
        let names: Vec<_> = names.map(String::as_str).collect();
        let help = if names.is_empty() {
            "it has none".to_owned()
        } else {
            format!("its variables: {}", names.join(", "))
        };
        return Err(Failure::unusable(format!("the reel has no variable '{name}'"), help));
    }
    if checks {
        return tell_plan(&rig, &program, session);
    }
    play_program(&rig, &program, rig_file, how, session)
}

/// What was meant for a file that is not there may be an act.
fn no_file(path: &Path) -> Failure {
    const ACTS: [&str; 6] = ["count", "clock", "number", "test", "text", "sprite"];
    let name = path.to_string_lossy();
    let meant = did_you_mean(&name, ACTS.into_iter());
    let help =
        format!("{meant}the acts: {}; or name a reel file, such as morning.reel.toml", ACTS.join(", "));
    Failure::unusable(format!("there is no reel file and no act {name}"), help)
}

/// What each track shows when, and how long all of it is.
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
        let ends = planned.ends.map_or_else(|| "for good".to_owned(), seconds);
        let (track, kind) = (planned.track.to_string(), planned.kind.to_owned());
        table.row([track, face(planned).to_owned(), seconds(planned.begins), ends, kind]);
    }
    write!(session.out, "{}", table.text(0, session))?;
    let ends = program.plan.iter().map(|planned| planned.ends);
    let whole = ends.clone().try_fold(Duration::ZERO, |longest, ends| Some(longest.max(ends?)));
    let words = match (whole, program.reel.length()) {
        (Some(whole), None) => format!("{} in all, then again", seconds(whole)),
        (Some(whole), Some(_)) => format!("{} in all", seconds(whole)),
        (None, _) => "it goes on for good".to_owned(),
    };
    Ok(writeln!(session.out, "{words}")?)
}
