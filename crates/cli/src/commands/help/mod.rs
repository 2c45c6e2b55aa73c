//! `help`: pages about what several commands have in common, and the help of each command.

use clap::{Args, CommandFactory};
use spare_tile_core::play::clock::zones;

use crate::commands::cli::Cli;
use crate::commands::usage;
use crate::failure::{Failure, Outcome, did_you_mean};
use crate::session::Session;
use crate::wrapping::hung;

/// The pages, each with a line of what it is about.
const TOPICS: [(&str, &str, &str); 4] = [
    ("bit-orders", "which segment sits on which bit, and polarity", include_str!("bit-orders.txt")),
    ("numbers", "how numbers are formatted, rounded and limited", include_str!("numbers.txt")),
    ("rigs", "how the hardware is described, and what follows from that", include_str!("rigs.txt")),
    ("captures", "recordings of a bus, read back into pictures", include_str!("captures.txt")),
];

/// The topic that is a list of names.
const ZONES: &str = "zones";

/// Explain a topic or a command
///
/// Without a word it lists the topics.
///
/// Example: spare-tile help bit-orders
#[derive(Args)]
pub struct Help {
    /// A topic, or a command
    ///
    /// Example: spare-tile help rig new
    words: Vec<String>,
}

/// Runs `help`.
pub fn run(help: &Help, session: &mut Session<'_>) -> Outcome {
    let [first, rest @ ..] = &help.words[..] else { return list(session) };
    if let Some((.., page)) = TOPICS.iter().find(|(name, ..)| name == first && rest.is_empty()) {
        return print(page, session);
    }
    if first == ZONES && rest.is_empty() {
        return list_zones(session);
    }
    let mut cli = Cli::command().term_width(session.columns);
    cli.build();
    let mut command = &mut cli;
    for word in &help.words {
        let known: Vec<_> = command.get_subcommands().map(|known| known.get_name().to_owned()).collect();
        if !known.contains(word) {
            let is_first = std::ptr::eq(word, first);
            return Err(unknown(word, &known, is_first));
        }
        let Some(found) = command.find_subcommand_mut(word) else { return list(session) };
        command = found;
    }
    Ok(write!(session.out, "{}", usage::long(command))?)
}

fn unknown(word: &str, commands: &[String], may_be_topic: bool) -> Failure {
    let topics = TOPICS.iter().map(|(name, ..)| *name).chain([ZONES]).filter(|_| may_be_topic);
    let known = topics.clone().chain(commands.iter().map(String::as_str));
    let meant = did_you_mean(word, known);
    let topics = topics.collect::<Vec<_>>().join(", ");
    let topics = if may_be_topic { format!("the topics: {topics}; ") } else { String::new() };
    let help = format!("{meant}{topics}the commands: {}", commands.join(", "));
    Failure::unusable(format!("there is no help on '{word}'"), help)
}

/// The time zones, in columns.
fn list_zones(session: &mut Session<'_>) -> Outcome {
    let zones = zones();
    if session.json {
        return session.write_json(&zones);
    }
    let (title, columns) = (session.bold("ZONES").into_owned(), session.columns);
    let words = "Names of time zones, for --zone and for the key zone of a reel. An offset such as +02:00 is a zone as well.";
    writeln!(session.out, "{title}\n\n{}\n", hung(words, columns, 0))?;
    let width = zones.iter().map(String::len).max().unwrap_or(0) + 2;
    let across = (session.columns / width).max(1);
    // Down each column, as names are listed.
    let down = zones.len().div_ceil(across);
    for row in 0..down {
        let names = zones.iter().skip(row).step_by(down.max(1));
        let line: String = names.map(|name| format!("{name:width$}")).collect();
        writeln!(session.out, "{}", line.trim_end())?;
    }
    Ok(())
}

/// The topics, each with its line.
fn list(session: &mut Session<'_>) -> Outcome {
    writeln!(session.out, "topics:")?;
    for (name, about, _) in TOPICS {
        writeln!(session.out, "    {name:<12}{about}")?;
    }
    writeln!(session.out, "    {ZONES:<12}the names of the time zones")?;
    Ok(writeln!(session.out, "\nread one: spare-tile help TOPIC; on a command: spare-tile help COMMAND")?)
}

/// A page: its paragraphs as wide as the output, what is indented as it is.
fn print(page: &str, session: &mut Session<'_>) -> Outcome {
    for (place, line) in page.lines().enumerate() {
        let line = match place {
            0 => session.bold(line).into_owned(),
            _ if line.starts_with(' ') => line.to_owned(),
            _ => hung(line, session.columns, 0),
        };
        writeln!(session.out, "{line}")?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_command_on_a_page_can_be_read() {
        for (name, _, page) in TOPICS {
            let lines: Vec<_> = page.lines().filter(|line| line.trim().starts_with("spare-tile ")).collect();
            assert!(lines.len() > 2, "{name}");
            for line in lines {
                crate::commands::cli::check_example(line.trim());
            }
        }
    }
}
