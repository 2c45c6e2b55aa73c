//! `demo`: the whole pipeline, at Quillmoor landing.
//!
//! Each step runs real commands on rigs that are part of the program: what stands behind the `$` can be
//! typed as it is, once `--out` has written the rigs to a folder.

use std::fs;
use std::io::Read;
use std::path::{Path, PathBuf};

use clap::Args;
use serde::Serialize;
use serde_json::Value;

use crate::args::Cli;
use crate::failure::{Failure, Outcome};
use crate::files;
use crate::session::{Session, Shelf};
use crate::view::columns::hung;
use crate::view::live;

/// Walk through the whole pipeline at Quillmoor landing
#[derive(Args)]
pub struct Demo {
    /// Also write the demo's rig files and recordings to this folder, to play with
    ///
    /// Example: spare-tile demo --out landing
    #[arg(long, value_name = "DIR")]
    out: Option<PathBuf>,
    /// Write them even over files of these names that were changed
    ///
    /// Example: spare-tile demo --out landing --force
    #[arg(long, requires = "out")]
    force: bool,
}

/// The rigs and recordings of the demo, by file name.
const FILES: [(&str, &str); 15] = [
    ("landing.toml", include_str!("../../../../demo/landing.toml")),
    ("berth.toml", include_str!("../../../../demo/berth.toml")),
    ("sign.toml", include_str!("../../../../demo/sign.toml")),
    ("gauge.toml", include_str!("../../../../demo/gauge.toml")),
    ("quay.toml", include_str!("../../../../demo/quay.toml")),
    ("beacon.toml", include_str!("../../../../demo/beacon.toml")),
    ("desk.toml", include_str!("../../../../demo/desk.toml")),
    ("board.toml", include_str!("../../../../demo/board.toml")),
    ("departures.toml", include_str!("../../../../demo/departures.toml")),
    ("morning.reel.toml", include_str!("../../../../demo/morning.reel.toml")),
    ("gull.dots", include_str!("../../../../demo/gull.dots")),
    ("captures/gauge.vcd", include_str!("../../../../demo/captures/gauge.vcd")),
    ("captures/gauge-dark.vcd", include_str!("../../../../demo/captures/gauge-dark.vcd")),
    ("captures/clock.vcd", include_str!("../../../../demo/captures/clock.vcd")),
    ("captures/desk.csv", include_str!("../../../../demo/captures/desk.csv")),
];

/// One screen.
struct Step {
    title: &'static str,
    /// What to look at.
    look: &'static str,
    commands: &'static [&'static [&'static str]],
}

const STEPS: [Step; 12] = [
    Step {
        title: "The rig",
        look: "One file says what is wired to what; everything that follows is worked out from it.",
        commands: &[&["cat", "landing.toml"]],
    },
    Step {
        title: "The check",
        look: "The gauge has no level converter: look at the warning, its place in the file and its way out.",
        commands: &[&["rig", "check", "--rig", "landing.toml"]],
    },
    Step {
        title: "The patterns",
        look: "The same 4.2 twice: where the anodes are joined, every bit of the byte is turned round.",
        commands: &[&["encode", "4.2"], &["encode", "4.2", "--common", "anode"]],
    },
    Step {
        title: "The bytes",
        look: "The part wakes in shutdown with one digit scanned; see how the last power-up word lets it run.",
        commands: &[&["bytes", "-0.4", "--rig", "landing.toml", "--face", "gauge"]],
    },
    Step {
        title: "The picture",
        look: "Drawn from what a model of the part lit after those bytes, not from the text.",
        commands: &[
            &["show", "-0.4", "--rig", "landing.toml", "--face", "gauge"],
            &["show", "AVOCET{boarding}", "--rig", "sign.toml"],
        ],
    },
    Step {
        title: "The board",
        look: "Dots show texts in a font. One of the four modules hangs upside down: the rig knows, and nobody else sees it.",
        commands: &[&["show", "Teal 2", "--rig", "board.toml", "--align", "centre"]],
    },
    Step {
        title: "The panel",
        look: "A colour panel has no memory: the picture is what the eye gets of a whole turn of its scan, bit by bit of each \
               colour.",
        commands: &[&[
            "show",
            "{amber:TEAL} 07:58 {green:2}",
            "--rig",
            "departures.toml",
            "--font",
            "small",
            "--align",
            "centre",
        ]],
    },
    Step {
        title: "The beacon",
        look: "Bare dots at the controller's own pins, a row at a time: sixteen wires and no part between.",
        commands: &[&[
            "show",
            "...##.../..####../.######./##.##.##/...##.../...##.../...##.../...##...",
            "--rig",
            "beacon.toml",
        ]],
    },
    Step {
        title: "The wires",
        look: "The old gauge is a bare display on twelve pins: what to plug where, through what, pin by pin.",
        commands: &[&["rig", "wires", "--rig", "gauge.toml"]],
    },
    Step {
        title: "The scan",
        look: "Four digits share eight lines. See what the eye gets, and what is left of it when the program blocks.",
        commands: &[&["scan", "--rig", "gauge.toml", "--stall", "40ms every 1s", "--", "-0.4"]],
    },
    Step {
        title: "The fault",
        look: "One morning the gauge stays dark. Its bus was recorded: one clock is missing in the last power-up word, so \
               the part never left shutdown. Beside it a morning on which all was well.",
        commands: &[
            &["capture", "captures/gauge-dark.vcd", "--rig", "landing.toml", "--face", "gauge"],
            &["capture", "captures/gauge.vcd", "--part", "max7219", "--final"],
        ],
    },
    Step {
        title: "The count",
        look: "The last passengers go aboard the Teal; each number comes at its moment, counted from the start.",
        commands: &[&[
            "play",
            "count",
            "--rig",
            "landing.toml",
            "--face",
            "desk",
            "--from",
            "43",
            "--to",
            "48",
            "--every",
            "500ms",
            "--hold",
            "1s",
        ]],
    },
];

/// The demo's rigs as if they were files.
struct DemoRigs;

impl Shelf for DemoRigs {
    fn read(&self, path: &Path) -> Result<String, Failure> {
        text_of(path).map(str::to_owned)
    }

    fn open(&self, path: &Path) -> Result<Box<dyn Read>, Failure> {
        Ok(Box::new(text_of(path)?.as_bytes()))
    }
}

fn text_of(path: &Path) -> Result<&'static str, Failure> {
    let file = FILES.iter().find(|(name, _)| Path::new(name) == path);
    file.map(|(_, text)| *text)
        .ok_or_else(|| Failure::unusable_plainly(format!("the demo has no {}", path.display())))
}

#[derive(Serialize)]
struct StepAnswer {
    title: &'static str,
    look: &'static str,
    commands: Vec<CommandAnswer>,
}

#[derive(Serialize)]
struct CommandAnswer {
    command: String,
    /// What the command answers, a value each where it answers line by line.
    answers: Vec<Value>,
}

/// Runs `demo`.
pub fn run(demo: &Demo, session: &mut Session<'_>) -> Outcome {
    if let Some(folder) = &demo.out {
        write_rigs(folder, demo.force, session)?;
    }
    if session.json {
        let answers: Vec<_> =
            STEPS.iter().map(|step| answer(step, session)).collect::<Result<_, Failure>>()?;
        return session.write_json(&answers);
    }
    for (place, step) in STEPS.iter().enumerate() {
        let title = format!("{} of {}: {}", place + 1, STEPS.len(), step.title);
        writeln!(session.out, "{}\n{}", session.bold(&title), hung(step.look, session.columns, 0))?;
        for command in step.commands {
            writeln!(session.out, "\n{}", session.bold(&typed(command)))?;
            run_command(command, &mut session.with_shelf(DemoRigs))?;
        }
        writeln!(session.out)?;
        if session.live && place + 1 < STEPS.len() && !live::ask_to_go_on(session)? {
            break;
        }
    }
    Ok(())
}

fn write_rigs(folder: &Path, force: bool, session: &mut Session<'_>) -> Outcome {
    let is_other = |(name, text): &&(&str, &str)| {
        fs::read(folder.join(name)).is_ok_and(|found| found != text.as_bytes())
    };
    if let Some((name, _)) = FILES.iter().find(is_other).filter(|_| !force) {
        let message = format!("{} exists and was changed: nothing was written", folder.join(name).display());
        return Err(Failure::unusable(message, "name another folder, or write over it: --force"));
    }
    fs::create_dir_all(folder.join("captures")).map_err(|error| {
        let message = format!("cannot make the folder {}: {error}", folder.display());
        Failure::unusable(message, "name a folder in a place that can be written to")
    })?;
    for (name, text) in FILES {
        let path = folder.join(name);
        files::write_whole(&path, |out| out.write_all(text.as_bytes()))?;
        session.say_aside(&format!("wrote {}", path.display()));
    }
    Ok(())
}

/// The command as a person would type it.
fn typed(command: &[&str]) -> String {
    let quoted = |word: &&str| if word.contains(' ') { format!("\"{word}\"") } else { (*word).to_owned() };
    let words = command.iter().map(quoted).collect::<Vec<_>>().join(" ");
    if command[0] == "cat" { format!("$ {words}") } else { format!("$ spare-tile {words}") }
}

fn run_command(command: &[&str], session: &mut Session<'_>) -> Outcome {
    if let ["cat", name] = command {
        let text = session.shelf.read(Path::new(name))?;
        return if session.json { session.write_json(&text) } else { Ok(write!(session.out, "{text}")?) };
    }
    let cli = Cli::of_words(command.iter().copied())
        .map_err(|error| Failure::unusable_plainly(format!("the demo's own command is wrong: {error}")))?;
    super::run(&cli.command, session)
}

fn answer(step: &Step, session: &mut Session<'_>) -> Result<StepAnswer, Failure> {
    let commands = step.commands.iter().map(|command| {
        let mut json = Vec::new();
        run_command(command, &mut session.with_shelf(DemoRigs).into_buffer(&mut json))?;
        let answers = serde_json::Deserializer::from_slice(&json).into_iter().collect::<Result<_, _>>();
        let answers = answers.map_err(std::io::Error::from)?;
        Ok(CommandAnswer { command: typed(command), answers })
    });
    Ok(StepAnswer { title: step.title, look: step.look, commands: commands.collect::<Result<_, Failure>>()? })
}
