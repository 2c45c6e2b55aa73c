//! The surroundings of a run: where answers go, how they may look, and where rigs come from.

use std::borrow::Cow;
use std::fs::File;
use std::io::{self, BufWriter, IsTerminal, Read, Write};
use std::path::Path;
use std::process::ExitCode;

use serde::Serialize;

use crate::failure::{Complaint, Failure, Outcome};
use crate::files;
use crate::manners::{Manners, When};
use crate::visible::{EscapedJson, Guarded, visible_lines};
use crate::wrapping::hung;

/// The width of an output that is not a terminal.
const USUAL_COLUMNS: usize = 80;

/// How many colours an output shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Depth {
    /// None: plain text.
    Plain,
    /// The 16 of a console.
    Sixteen,
    /// The 256 of most terminals.
    Indexed,
    /// Red, green and blue of eight bits each.
    True,
}

impl Depth {
    /// Of a terminal with these values of TERM and COLORTERM. One that says nothing of its colours has 256: nearly all do.
    fn of_terminal(term: &str, colours: &str) -> Self {
        let is_of_few = ["linux", "ansi", "cygwin"].contains(&term)
            || term.starts_with("vt")
            || ["-16color", "-color", "-8color"].iter().any(|end| term.ends_with(end));
        match colours {
            "truecolor" | "24bit" => Self::True,
            _ if is_of_few => Self::Sixteen,
            _ => Self::Indexed,
        }
    }
}

/// Where files come from that people write.
pub trait Shelf {
    /// The text of a file; `what` is the word for its kind.
    fn read(&self, path: &Path, what: &'static str) -> Result<String, Failure>;

    /// Returns true if there is a file of this name.
    fn has(&self, path: &Path) -> bool;

    /// A recording, to be read piece by piece.
    fn open(&self, path: &Path) -> Result<Box<dyn Read>, Failure>;
}

/// The file system.
struct Disk;

impl Shelf for Disk {
    fn read(&self, path: &Path, what: &'static str) -> Result<String, Failure> {
        files::read_text(path, what)
    }

    fn has(&self, path: &Path) -> bool {
        path.exists()
    }

    fn open(&self, path: &Path) -> Result<Box<dyn Read>, Failure> {
        let file = File::open(path).map_err(|error| {
            let message = format!("cannot read {}: {error}", path.display());
            Failure::unusable(message, "check the name and the folder")
        })?;
        Ok(Box::new(file))
    }
}

/// The surroundings of a run.
pub struct Session<'s> {
    /// Where answers go.
    pub out: Guarded<Box<dyn Write + 's>>,
    /// Where rig files come from.
    pub shelf: Box<dyn Shelf + 's>,
    /// True if the answer is wanted in JSON.
    pub json: bool,
    /// True if drawings keep to ASCII.
    pub ascii: bool,
    /// True if drawings on a terminal have only what is lit.
    pub lit_only: bool,
    /// True if files may be replaced that the program did not write.
    pub force: bool,
    /// How many colours answers may use.
    pub depth: Depth,
    /// True if a person watches: the answers go to a terminal.
    pub live: bool,
    /// True if a rig has errors that were not accepted with `--unsound`: then the exit status is 1.
    pub is_unsound: bool,
    /// The width of the output in columns.
    pub columns: usize,
    /// True if the person has said how wide it is.
    is_width_given: bool,
    /// True if nothing is said aside.
    is_quiet: bool,
    errors_in_colour: bool,
}

impl<'s> Session<'s> {
    /// The same surroundings with answers kept in memory.
    pub fn into_buffer<'b>(self, buffer: &'b mut Vec<u8>) -> Session<'b>
    where
        's: 'b,
    {
        Session { out: Guarded::new(Box::new(buffer)), ..self }
    }

    /// The surroundings of this process.
    pub fn of_process(manners: &Manners) -> Self {
        let (out, errors) = (io::stdout(), io::stderr());
        // A dumb terminal is as good as a file: it moves no cursor and shows no colour.
        let is_dumb = std::env::var_os("TERM").is_some_and(|term| term == "dumb");
        let live = out.is_terminal() && !is_dumb;
        let no_colour = std::env::var_os("NO_COLOR").is_some_and(|value| !value.is_empty());
        let wanted = |terminal: bool| match manners.color {
            When::Auto => terminal && !no_colour && !is_dumb,
            When::Always => true,
            When::Never => false,
        };
        let variable = |name| std::env::var(name).unwrap_or_default();
        let depth = if wanted(live) {
            Depth::of_terminal(&variable("TERM"), &variable("COLORTERM"))
        } else {
            Depth::Plain
        };
        let mut session = Self {
            errors_in_colour: wanted(errors.is_terminal()),
            out: Guarded::new(Box::new(BufWriter::new(out.lock()))),
            shelf: Box::new(Disk),
            json: manners.json,
            ascii: manners.ascii,
            lit_only: manners.lit_only,
            force: manners.force,
            depth,
            live,
            is_unsound: false,
            columns: manners.width.map_or(USUAL_COLUMNS, usize::from),
            is_width_given: manners.width.is_some(),
            is_quiet: manners.quiet,
        };
        session.measure();
        session
    }

    /// Surroundings for a text file: 80 columns, no colour, nobody watches.
    pub fn of_text(buffer: &mut Vec<u8>) -> Session<'_> {
        Session {
            errors_in_colour: false,
            out: Guarded::new(Box::new(buffer)),
            shelf: Box::new(Disk),
            json: false,
            ascii: false,
            lit_only: false,
            force: false,
            depth: Depth::Plain,
            live: false,
            is_unsound: false,
            columns: USUAL_COLUMNS,
            is_width_given: true,
            is_quiet: true,
        }
    }

    /// Takes the width of the terminal as it is now; without one lines are as wide as on a small one.
    pub fn measure(&mut self) {
        if let Some(Ok((columns, _))) = self.live.then(crossterm::terminal::size)
            && columns > 0
            && !self.is_width_given
        {
            self.columns = usize::from(columns);
        }
    }

    /// The same surroundings with rigs from elsewhere.
    pub fn with_shelf(&mut self, shelf: impl Shelf + 'static) -> Session<'_> {
        Session { out: Guarded::new(Box::new(self.out.unguarded())), shelf: Box::new(shelf), ..*self }
    }

    /// Writes one JSON value, indented for a person and ended by a newline.
    pub fn write_json(&mut self, value: &impl Serialize) -> Outcome {
        serde_json::to_writer_pretty(EscapedJson(&mut self.out), value).map_err(io::Error::from)?;
        Ok(writeln!(self.out)?)
    }

    /// Writes one JSON value on a line of its own.
    pub fn write_json_line(&mut self, value: &impl Serialize) -> Outcome {
        serde_json::to_writer(EscapedJson(&mut self.out), value).map_err(io::Error::from)?;
        Ok(writeln!(self.out)?)
    }

    /// The text in bold, where colour is allowed.
    pub fn bold<'t>(&self, text: &'t str) -> Cow<'t, str> {
        if self.depth == Depth::Plain { text.into() } else { format!("\u{1b}[1m{text}\u{1b}[0m").into() }
    }

    /// Writes a name in bold and what there is to say of it, its further lines hanging.
    pub fn write_named(&mut self, name: &str, words: &str) -> Outcome {
        let text = hung(&format!("{name}: {words}"), self.columns, 4);
        let rest = text.strip_prefix(name).unwrap_or_default().to_owned();
        let name = self.bold(name).into_owned();
        Ok(writeln!(self.out, "{name}{rest}")?)
    }

    /// The complaint as it belongs among the answers.
    pub fn render(&self, complaint: &Complaint) -> String {
        complaint.render(self.depth != Depth::Plain, self.ascii, self.columns)
    }

    /// Writes a message to standard error: it is not part of the answer. The answer so far comes first.
    pub fn say_aside(&mut self, text: &str) {
        if self.is_quiet {
            return;
        }
        let lines: Vec<_> = visible_lines(text).lines().map(|line| hung(line, self.columns, 4)).collect();
        self.write_aside(&lines.join("\n"));
    }

    /// Writes something aside that is safe to print.
    fn write_aside(&mut self, text: &str) {
        let _ = self.out.flush();
        // When even standard error is gone there is nobody left to tell.
        let _ = writeln!(io::stderr(), "{text}");
    }

    /// Tells complaints aside that do not end the run.
    pub fn warn(&mut self, complaints: &[Complaint]) {
        for complaint in complaints {
            let words = complaint.render(self.errors_in_colour, self.ascii, self.columns);
            self.write_aside(&words);
        }
    }

    /// Ends the run: writes what is left, tells what went wrong, and gives the exit status.
    pub fn close(mut self, outcome: Outcome) -> ExitCode {
        let outcome = outcome.and_then(|()| Ok(self.out.flush()?));
        let outcome = outcome.and(if self.is_unsound { Err(Failure::no()) } else { Ok(()) });
        let Err(failure) = outcome else { return ExitCode::SUCCESS };
        self.warn(&failure.complaints);
        ExitCode::from(failure.exit as u8)
    }
}
