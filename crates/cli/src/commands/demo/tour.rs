//! The tour through the whole pipeline.
//!
//! Each step runs real commands on rigs that are part of the program: what stands behind the `$` can be
//! typed as it is, once `--out` has written the rigs to a folder.

use std::path::Path;

use serde::Serialize;
use serde_json::Value;

use super::shelf::DemoFiles;
use crate::commands::cli::Cli;
use crate::failure::{Exit, Failure, Outcome};
use crate::session::Session;
use crate::view::live;
use crate::wrapping::hung;

/// One screen.
struct Step {
    title: &'static str,
    /// The point of the step.
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
        look: "Dots show texts in a font. One of the four modules hangs upside down: the rig says so, and the picture is right.",
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

#[derive(Serialize)]
struct StepAnswer {
    title: &'static str,
    look: &'static str,
    commands: Vec<CommandAnswer>,
}

#[derive(Serialize)]
struct CommandAnswer {
    command: String,
    /// The answer of the command, a value for each line if it answers line by line.
    answers: Vec<Value>,
}

/// Walks through all steps, or answers them at once.
pub fn walk(session: &mut Session<'_>) -> Outcome {
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
            run_command(command, &mut session.with_shelf(DemoFiles))?;
        }
        writeln!(session.out)?;
        if session.live && place + 1 < STEPS.len() && !live::ask_to_go_on(session)? {
            break;
        }
    }
    Ok(())
}

/// The command as a person would type it.
pub fn typed(command: &[&str]) -> String {
    let quoted = |word: &&str| if word.contains(' ') { format!("\"{word}\"") } else { (*word).to_owned() };
    let words = command.iter().map(quoted).collect::<Vec<_>>().join(" ");
    if command[0] == "cat" { format!("$ {words}") } else { format!("$ spare-tile {words}") }
}

pub fn run_command(command: &[&str], session: &mut Session<'_>) -> Outcome {
    if let ["cat", name] = command {
        let text = session.shelf.read(Path::new(name), "file")?;
        return if session.json { session.write_json(&text) } else { Ok(write!(session.out, "{text}")?) };
    }
    let cli = Cli::of_words(command.iter().copied())
        .map_err(|error| Failure::unusable_plainly(format!("the demo's own command is wrong: {error}")))?;
    match crate::commands::run(&cli.command, session) {
        // An answer of no, such as a recording in which something was odd, is part of the story.
        Err(Failure { exit: Exit::No, complaints }) if complaints.is_empty() => Ok(()),
        outcome => outcome,
    }
}

fn answer(step: &Step, session: &mut Session<'_>) -> Result<StepAnswer, Failure> {
    let commands = step.commands.iter().map(|command| {
        let mut json = Vec::new();
        run_command(command, &mut session.with_shelf(DemoFiles).into_buffer(&mut json))?;
        let answers = serde_json::Deserializer::from_slice(&json).into_iter().collect::<Result<_, _>>();
        let answers = answers.map_err(std::io::Error::from)?;
        Ok(CommandAnswer { command: typed(command), answers })
    });
    Ok(StepAnswer { title: step.title, look: step.look, commands: commands.collect::<Result<_, Failure>>()? })
}
