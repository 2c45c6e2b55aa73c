//! The help of a command: on one screen with `-h`, every option in one table with `--help`.

use clap::Command;
use clap::builder::StyledStr;

use crate::wrapping::hung;

/// The columns that help takes at most, as clap does by default.
const MOST_COLUMNS: usize = 100;

/// Returns the short help: the command's own options, and the names of those that it shares with others.
pub fn short(command: &Command, columns: usize) -> StyledStr {
    let mut groups: Vec<(&str, Vec<String>)> = Vec::new();
    for arg in command.get_arguments().filter(|arg| !arg.is_hide_set()) {
        let (Some(heading), Some(name)) = (arg.get_help_heading(), arg.get_long()) else { continue };
        let place = groups.iter().position(|(known, _)| *known == heading).unwrap_or_else(|| {
            groups.push((heading, Vec::new()));
            groups.len() - 1
        });
        groups[place].1.push(format!("--{name}"));
    }
    let rest: Vec<_> = groups
        .iter()
        .map(|(heading, names)| {
            let words = format!("  {heading}: {}", names.join(" "));
            hung(&words, columns.min(MOST_COLUMNS), 4)
        })
        .collect();
    let own = command.get_after_help().map(ToString::to_string);
    let more = (!rest.is_empty()).then(|| format!("More options, explained by --help:\n{}", rest.join("\n")));
    let after: Vec<_> = more.into_iter().chain(own).collect();
    command
        .clone()
        .mut_args(|arg| {
            let is_shared = arg.get_help_heading().is_some() && !arg.is_positional();
            arg.hide_short_help(is_shared)
        })
        .after_help(after.join("\n\n"))
        .render_help()
}

/// Returns the long help: every option with a line or two, and examples.
pub fn long(command: &Command) -> StyledStr {
    let about = command.get_long_about().or(command.get_about()).map(ToString::to_string).unwrap_or_default();
    let example = |text: &str| Some(text.split_once("Example: ")?.1.lines().next()?.to_owned());
    let helps = command.get_arguments().filter_map(|arg| arg.get_long_help().map(ToString::to_string));
    let mut examples: Vec<_> = helps.filter_map(|help| example(&help)).collect();
    examples.dedup();
    let own = command.get_after_long_help().or(command.get_after_help()).map(ToString::to_string);
    let listed = (!examples.is_empty()).then(|| format!("Examples:\n  {}", examples.join("\n  ")));
    let after: Vec<_> = listed.into_iter().chain(own).collect();
    command.clone().about(about).after_help(after.join("\n\n")).render_help()
}
