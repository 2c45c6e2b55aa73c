//! `completions` and `man`: files for shells and for readers of manuals, made from the definitions of the commands.

use std::io::Write;
use std::path::{Path, PathBuf};

use clap::builder::PossibleValuesParser;
use clap::{Args, CommandFactory};
use clap_complete::env::Shells;

use crate::commands::cli::Cli;
use crate::complete::ASKS;
use crate::exports::{self, manual::ManualPage};
use crate::failure::{Failure, Outcome};
use crate::session::Session;

const PROGRAM: &str = "spare-tile";

/// Write the completions of a shell
///
/// They ask the program itself, so that faces of the rig, kinds of displays, controllers and their pins are completed too.
///
/// Example: spare-tile completions bash > ~/.local/share/bash-completion/completions/spare-tile
#[derive(Args)]
pub struct Completions {
    /// The shell
    ///
    /// Example: spare-tile completions zsh
    #[arg(value_parser = PossibleValuesParser::new(Shells::builtins().names()))]
    shell: String,
}

/// Write the manual pages, one for each command
///
/// Example: spare-tile man --out ~/.local/share/man/man1
#[derive(Args)]
pub struct Man {
    /// The folder to write them to; without one the page of the program itself is printed
    ///
    /// Example: spare-tile man --out man1
    #[arg(short, long, value_name = "DIR")]
    out: Option<PathBuf>,
}

/// Runs `completions`.
pub fn run(args: &Completions, session: &mut Session<'_>) -> Outcome {
    let shells = Shells::builtins();
    let Some(shell) = shells.completer(&args.shell) else {
        return Err(Failure::unusable_plainly(format!("there are no completions for {}", args.shell)));
    };
    Ok(shell.write_registration(ASKS, PROGRAM, PROGRAM, PROGRAM, &mut session.out)?)
}

/// Runs `man`.
pub fn run_man(args: &Man, session: &mut Session<'_>) -> Outcome {
    let mut program = Cli::command();
    program.build();
    let Some(folder) = &args.out else {
        return Ok(clap_mangen::Man::new(program).render(&mut session.out)?);
    };
    let mut pages = Vec::new();
    collect(&program, PROGRAM, &mut pages)?;
    std::fs::create_dir_all(folder).map_err(|error| {
        let message = format!("cannot make the folder {}: {error}", folder.display());
        Failure::unusable(message, "name a folder that can be written to")
    })?;
    for (name, page) in &pages {
        exports::write_ours(&folder.join(name), &ManualPage, session, |out| out.write_all(page))?;
    }
    session.say_aside(&format!("wrote {} manual pages to {}", pages.len(), Path::new(folder).display()));
    Ok(())
}

/// The page of a command and those of the commands below it.
fn collect(command: &clap::Command, name: &str, pages: &mut Vec<(String, Vec<u8>)>) -> Outcome {
    let mut page = Vec::new();
    clap_mangen::Man::new(command.clone()).render(&mut page)?;
    page.flush()?;
    pages.push((format!("{name}.1"), page));
    for below in command.get_subcommands().filter(|below| !below.is_hide_set()) {
        collect(below, &format!("{name}-{}", below.get_name()), pages)?;
    }
    Ok(())
}
