//! The command line: the commands, and the options that all of them share.

use std::borrow::Cow;
use std::ffi::OsString;
use std::io::{self, IsTerminal, Write};
use std::process::ExitCode;

use clap::builder::StyledStr;
use clap::error::{ContextKind, ContextValue, ErrorKind};
use clap::{CommandFactory, FromArgMatches, Parser, Subcommand};
use clap_complete::env::CompleteEnv;

use super::{
    bytes, capture, completions, decode, demo, dots, draw, encode, firmware, fonts, help, play, rig, scan,
    show, table, usage,
};
use crate::complete::{self, ASKS};
use crate::failure::{Exit, Failure};
use crate::manners::Manners;
use crate::visible::{visible, visible_lines};

/// Describe a display once; get its bytes and a picture of what the hardware really lights.
#[derive(Parser)]
#[command(name = "spare-tile", version, about, disable_help_subcommand = true)]
#[command(after_help = "Begin with: spare-tile demo")]
pub struct Cli {
    #[command(subcommand)]
    pub command: Command,
    #[command(flatten)]
    pub manners: Manners,
}

/// The commands. The options of a command are only built when that command is called: the whole tree
/// takes longer than most answers.
#[derive(Subcommand)]
#[command(defer = true)]
pub enum Command {
    #[command(subcommand)]
    Rig(rig::Rig),
    /// Show each character's segments, bits and bytes
    Encode(encode::Encode),
    /// Show what bytes light, and which characters that is
    Decode(decode::Decode),
    /// Write the truth table of a character set
    Table(table::Table),
    /// Show one still picture of what the display lights
    Show(show::Show),
    /// List the bus traffic of power-up and one frame, explained
    Bytes(bytes::Bytes),
    /// Plan the scan of a face, and see what the eye gets of it
    Scan(scan::Scan),
    /// Tell what a recorded bus put on the display, and what was odd
    Capture(capture::Capture),
    /// Play moving content: an act, or a reel file
    Play(Box<play::Play>),
    /// Write what a rig shows as a source project for its controller
    Firmware(Box<firmware::Firmware>),
    /// List the fonts for dots, or draw a specimen of one
    Fonts(fonts::Fonts),
    /// Make a sprite of a picture, or of another sprite
    Dots(Box<dots::Dots>),
    /// Draw a sprite or a character in the terminal
    Draw(Box<draw::Draw>),
    /// Watch a morning at Quillmoor landing, or walk through the whole pipeline there
    Demo(demo::Demo),
    /// Explain a topic or a command
    Help(help::Help),
    /// Write the completions of a shell
    Completions(completions::Completions),
    /// Write the manual pages, one for each command
    Man(completions::Man),
}

/// Answers a shell that asks for completions and ends the process; otherwise does nothing.
pub fn answer_shell() {
    if let Ok(shell) = std::env::var(ASKS) {
        // The completer removes the variable before it asks for candidates.
        complete::begin(&shell);
        CompleteEnv::with_factory(Cli::command).var(ASKS).complete();
    }
}

impl Cli {
    /// Reads the command line of this process. Prints help and errors; the result is then an exit
    /// status.
    pub fn read() -> Result<Self, ExitCode> {
        // Without a terminal there is no width to be had: lines are as long as on a small one.
        let narrow = (!io::stdout().is_terminal()).then_some(80);
        let width = width_asked_for().or(narrow);
        let mut command = Self::command();
        if let Some(width) = width {
            command = command.term_width(width);
        }
        let parsed = command
            .try_get_matches_from_mut(std::env::args_os())
            .and_then(|mut matches| Self::from_arg_matches_mut(&mut matches));
        let help = parsed.as_ref().err().and_then(|error| help_asked_for(error, &command, width));
        // Taking the tree apart would take longer than most answers, and the process ends soon.
        std::mem::forget(command);
        if let Some(help) = help {
            return Err(print_help(&help));
        }
        parsed.map_err(|error| {
            // The line is repeated in the complaint: a terminal is to show it, not to obey it.
            let is_plain = std::env::args_os().all(|word| match word.to_str() {
                Some(word) => matches!(visible(word), Cow::Borrowed(_)),
                None => false,
            });
            if error.use_stderr() {
                let told = if let Some(text) = text_with_a_minus(&error) {
                    let failure = Failure::unusable(
                        format!("'{text}' begins like an option"),
                        format!(
                            "write a text that begins with a minus last, after two of them: -- \"{text}\""
                        ),
                    );
                    return failure.tell();
                } else if let Some((old, new)) = renamed(&error) {
                    return Failure::unusable(format!("{old} is called {new} now"), format!("write {new}"))
                        .tell();
                } else if is_plain {
                    error.print()
                } else {
                    write!(io::stderr(), "{}", visible_lines(&error.render().to_string()))
                };
                // When even standard error is gone there is nobody left to tell.
                let _ = told;
                return ExitCode::from(Exit::Unusable as u8);
            }
            match error.print().and_then(|()| io::stdout().flush()) {
                Ok(()) => ExitCode::SUCCESS,
                Err(error) => Failure::from(error).tell(),
            }
        })
    }

    /// Every option and argument of every command, with what its long help says.
    #[cfg(test)]
    fn all_help() -> Vec<(String, String)> {
        fn of(command: &clap::Command, path: &str, all: &mut Vec<(String, String)>) {
            for arg in
                command.get_arguments().filter(|arg| !matches!(arg.get_id().as_str(), "help" | "version"))
            {
                let help = arg.get_long_help().map(ToString::to_string).unwrap_or_default();
                all.push((format!("{path} {}", arg.get_id()), help));
            }
            command
                .get_subcommands()
                .for_each(|below| of(below, &format!("{path} {}", below.get_name()), all));
        }
        let mut command = Self::command();
        command.build();
        let mut all = Vec::new();
        of(&command, "", &mut all);
        all
    }

    /// Reads a command line that the program itself wrote, as `demo` does.
    pub fn of_words<'w>(words: impl IntoIterator<Item = &'w str>) -> Result<Self, clap::Error> {
        let program = OsString::from("spare-tile");
        Self::try_parse_from(std::iter::once(program).chain(words.into_iter().map(OsString::from)))
    }
}

/// The help that a line asks for, which may be without a word.
fn help_asked_for(error: &clap::Error, command: &clap::Command, width: Option<usize>) -> Option<StyledStr> {
    let words: Vec<_> = std::env::args_os().skip(1).collect();
    if error.kind() != ErrorKind::DisplayHelp && !words.is_empty() {
        return None;
    }
    let mut asked = command;
    for word in words.iter().filter_map(|word| word.to_str()) {
        asked = asked.find_subcommand(word).unwrap_or(asked);
    }
    let is_long = words.iter().any(|word| word == "--help");
    Some(if is_long { usage::long(asked) } else { usage::short(asked, width.unwrap_or(80)) })
}

/// Prints help, in colour on a terminal that is not asked for plain text.
fn print_help(help: &StyledStr) -> ExitCode {
    let mut out = io::stdout();
    let is_styled = out.is_terminal() && std::env::var_os("NO_COLOR").is_none_or(|value| value.is_empty());
    let printed = if is_styled { write!(out, "{}", help.ansi()) } else { write!(out, "{help}") };
    match printed.and_then(|()| out.flush()) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => Failure::from(error).tell(),
    }
}

/// Options that were renamed: their commands, the old name and the new one.
const RENAMED: [(&str, &str, &str); 5] = [
    ("play text", "--step", "--every"),
    ("play clock", "--at", "--time"),
    ("play", "--at", "--time"),
    ("firmware", "--at", "--time"),
    ("dots", "--by", "--combine"),
];

/// Returns the old and the new name of an option, if the one that was not found has been renamed.
fn renamed(error: &clap::Error) -> Option<(&'static str, &'static str)> {
    let Some(ContextValue::String(found)) = error.get(ContextKind::InvalidArg) else { return None };
    let words: Vec<_> =
        std::env::args_os().skip(1).take(2).map(|word| word.to_string_lossy().into_owned()).collect();
    let command = words.join(" ");
    let is_it = |(of, old, _): &&(&str, &str, &str)| *old == found && command.starts_with(of);
    RENAMED.iter().find(is_it).map(|(_, old, new)| (*old, *new))
}

/// The text that was taken for an option: it begins with a minus and a figure, such as -9°C.
fn text_with_a_minus(error: &clap::Error) -> Option<String> {
    let begins_so = |word: &String| {
        let mut signs = word.chars();
        signs.next() == Some('-') && signs.next().is_some_and(|sign| sign.is_ascii_digit() || sign == '.')
    };
    let is_unknown = error.kind() == ErrorKind::UnknownArgument;
    let mut words = std::env::args_os().filter_map(|word| word.into_string().ok());
    is_unknown.then(|| words.find(begins_so)).flatten()
}

/// The width that the line asks for. Help is written before the line is read as a whole.
fn width_asked_for() -> Option<usize> {
    let words: Vec<_> = std::env::args_os().map(|word| word.to_string_lossy().into_owned()).collect();
    let of_word = |(place, word): (usize, &String)| match word.strip_prefix("--width")? {
        "" => words.get(place + 1)?.parse().ok(),
        rest => rest.strip_prefix('=')?.parse().ok(),
    };
    words.iter().enumerate().find_map(of_word).filter(|columns| (20..=1000).contains(columns))
}

/// Reads a command line from help or docs; the test fails if it cannot be read.
#[cfg(test)]
pub fn check_example(line: &str) {
    let line = line.split(" > ").next().unwrap_or(line);
    let words = line.split('"').enumerate().flat_map(|(part, text)| match part % 2 {
        0 => text.split_whitespace().map(str::to_owned).collect::<Vec<_>>(),
        _ => vec![text.to_owned()],
    });
    let words: Vec<_> = words.collect();
    assert_eq!(words[0], "spare-tile", "{line}");
    if let Err(error) = Cli::of_words(words[1..].iter().map(String::as_str)) {
        panic!("{line}: {error}");
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_option_has_an_example_that_can_be_read() {
        let all = Cli::all_help();
        assert!(all.len() > 100);
        for (option, help) in all {
            let Some((_, example)) = help.split_once("Example: ") else {
                panic!("{option} has no example: {help}")
            };
            check_example(example.lines().next().unwrap());
        }
    }
}
