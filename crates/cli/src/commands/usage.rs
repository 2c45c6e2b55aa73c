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
    let own_only = command.clone().mut_args(|arg| {
        let is_shared = arg.get_help_heading().is_some() && !arg.is_positional();
        arg.hide_short_help(is_shared)
    });
    rendered(own_only, "More options, explained by --help:\n", &rest.join("\n"))
}

/// Returns the long help: every option with a line or two, and examples.
pub fn long(command: &Command) -> StyledStr {
    let about = command.get_long_about().or(command.get_about()).map(ToString::to_string).unwrap_or_default();
    let example = |text: &str| Some(text.split_once("Example: ")?.1.lines().next()?.to_owned());
    let helps = command.get_arguments().filter_map(|arg| arg.get_long_help().map(ToString::to_string));
    let mut examples: Vec<_> = helps.filter_map(|help| example(&help)).collect();
    examples.dedup();
    rendered(command.clone().about(about), "Examples:\n  ", &examples.join("\n  "))
}

/// The help of a command, with a list under its title, if there is one, before the words at the end.
fn rendered(mut command: Command, title: &str, list: &str) -> StyledStr {
    let own = command.get_after_help().map(ToString::to_string);
    let listed = (!list.is_empty()).then(|| format!("{title}{list}"));
    let after: Vec<_> = listed.into_iter().chain(own).collect();
    command = command.after_help(after.join("\n\n"));
    command.render_help()
}
