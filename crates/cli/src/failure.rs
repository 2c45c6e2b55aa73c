//! When the answer is not "done": why, where, and what to do next.

use std::io::{self, Write};
use std::ops::Range;
use std::process::ExitCode;
use std::sync::Arc;

use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use spare_tile_core::content::ContentError;
use spare_tile_core::content::lettering::LetteringError;
use spare_tile_core::content::markup::{self, MarkupError};
use spare_tile_core::content::number::NumberError;
use spare_tile_core::content::text::TextError;
use spare_tile_core::dots::font::FontError;
use spare_tile_core::link::{LinkError, LinkErrorKind};
use spare_tile_core::rig::{Finding, Severity, nearest};

use crate::visible::{visible, visible_lines};

/// The result of a command.
pub type Outcome = Result<(), Failure>;

/// The exit status of the program.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Exit {
    /// The reader of the answer has closed it: nothing went wrong.
    Enough = 0,
    /// The answer is no.
    No = 1,
    /// Unusable input or options.
    Unusable = 2,
    /// A device, link or network failed.
    Device = 3,
    /// Stopped by the person or the system.
    Interrupted = 130,
}

/// Why a command did not end in "done".
#[derive(Debug)]
pub struct Failure {
    pub exit: Exit,
    pub complaints: Vec<Complaint>,
}

/// Further complaints are only counted: fixing the first ones often fixes others.
const MOST_COMPLAINTS: usize = 20;

/// One thing to complain about.
#[derive(Debug)]
pub struct Complaint {
    severity: Severity,
    message: String,
    place: Option<Place>,
    help: Option<String>,
}

/// A place in a text.
#[derive(Debug)]
struct Place {
    /// The file, or what else the text is.
    origin: String,
    /// Its text, which all complaints about it share.
    source: Arc<str>,
    span: Range<usize>,
    also: Option<(Range<usize>, String)>,
}

impl Failure {
    /// Tells it where there is no session to do so, and gives the exit status.
    pub fn tell(&self) -> ExitCode {
        for complaint in &self.complaints {
            // When even standard error is gone there is nobody left to tell.
            let _ = writeln!(io::stderr(), "{}", complaint.render(false, false, 80));
        }
        ExitCode::from(self.exit as u8)
    }

    /// Returns the reasons in a line.
    pub fn words(&self) -> String {
        self.complaints.iter().map(Complaint::words).collect::<Vec<_>>().join("; ")
    }

    /// As many of the complaints as a person reads, and how many are left.
    pub fn of_many(exit: Exit, mut complaints: Vec<Complaint>) -> Self {
        let more = complaints.len().saturating_sub(MOST_COMPLAINTS);
        complaints.truncate(MOST_COMPLAINTS);
        complaints.extend(Complaint::of_more(more));
        Self { exit, complaints }
    }

    /// Unusable input or options, with the next step.
    pub fn unusable(message: impl Into<String>, help: impl Into<String>) -> Self {
        Self::of_message(message.into(), Some(help.into()))
    }

    /// The same where the message says all there is to do.
    pub fn unusable_plainly(message: impl Into<String>) -> Self {
        Self::of_message(message.into(), None)
    }

    fn of_message(message: String, help: Option<String>) -> Self {
        let severity = Severity::Error;
        Self { exit: Exit::Unusable, complaints: vec![Complaint { severity, message, place: None, help }] }
    }

    /// The answer is no, for a reason, with the next step.
    pub fn answer_is_no(message: impl Into<String>, help: impl Into<String>) -> Self {
        Self { exit: Exit::No, ..Self::unusable(message, help) }
    }

    /// The answer is no, and has been given.
    pub fn no() -> Self {
        Self { exit: Exit::No, complaints: Vec::new() }
    }

    /// Stopped by the person or the system.
    pub fn interrupted() -> Self {
        Self { exit: Exit::Interrupted, complaints: Vec::new() }
    }

    /// Content that the face cannot show.
    pub fn of_content(error: &ContentError, face: &str) -> Self {
        match error {
            ContentError::Text { error, words } => Self::of_text(error, words),
            ContentError::NotANumber(error) => Self::unusable_plainly(error.to_string()),
            ContentError::Number(error) => Self::unusable(error.to_string(), number_help(error)),
            ContentError::Lettering(error) => {
                let help = match error {
                    LetteringError::Font(FontError::Missing { .. }) => {
                        "see what a font has: spare-tile fonts FONT; or name another with --font"
                    }
                    LetteringError::Font(FontError::RightToLeft { .. }) => {
                        "write it from left to right, in the order in which it is seen"
                    }
                    LetteringError::TooWide { .. } | LetteringError::TooHigh { .. } => {
                        "shorten it, take a smaller font, or say --fit cut, ellipsis or wrap; or let it move: \
                         spare-tile play text"
                    }
                    LetteringError::NoDots => "pick a face with dots",
                    LetteringError::Markup(MarkupError::Unknown { .. }) => {
                        let known: Vec<_> = markup::names().collect();
                        let help = format!("the names: {}, or a colour as #ff8000", known.join(", "));
                        return Self::unusable(format!("face {face} cannot show this: {error}"), help);
                    }
                    LetteringError::Markup(_) => {
                        "write {red:TEAL} for a colour, {small:TEAL} for a font, and {{ or {} for a brace"
                    }
                };
                Self::unusable(format!("face {face} cannot show this: {error}"), help)
            }
            ContentError::Dots(error) => Self::unusable(
                format!("face {face} shows rows of dots: {error}"),
                "write the dots in rows: \".##./#..#\"",
            ),
        }
    }

    /// A text that the face cannot show.
    pub fn of_text(error: &TextError, text: &str) -> Self {
        let help = match error {
            TextError::NoGlyph { .. } => "see what each character lights: spare-tile encode TEXT",
            TextError::NoColon { .. } => "put the text where the colon is: --start DIGIT, or --align right",
            TextError::UnknownSegment { .. } | TextError::Unclosed { .. } => {
                "write segments between braces, such as {a d g}, and {{ or }} for a brace itself"
            }
            TextError::TooLong { .. } if text.contains(':') => {
                "a colon that the rig does not name takes a digit: write colons = [{ after = 2, node = ... }] in the \
                 face, or shorten the text"
            }
            TextError::TooLong { .. } => {
                "shorten the text, or let it pass: spare-tile play text; where digits have points, one after a \
                 character takes no digit of its own"
            }
        };
        let length = match error {
            TextError::NoGlyph { .. } | TextError::Unclosed { .. } | TextError::NoColon { .. } => 1,
            TextError::UnknownSegment { found, .. } => found.chars().count() + 2,
            TextError::TooLong { .. } => usize::MAX,
        };
        let (message, position) = (error.to_string(), error.position());
        let complaint = Complaint::in_text(Severity::Error, message, text, position, length, help);
        Self { exit: Exit::Unusable, complaints: vec![complaint] }
    }
}

/// A link failed.
impl From<LinkError> for Failure {
    fn from(error: LinkError) -> Self {
        let help = match error.kind {
            LinkErrorKind::NoDevice => "check the name, and whether it is plugged in",
            LinkErrorKind::Permission => "let your user use it, and start again",
            LinkErrorKind::Disconnected => "plug it in again, and start again",
            LinkErrorKind::Timeout => "check power and wires, and whether another program uses it",
            LinkErrorKind::NotAcknowledged => "check the address, power, and the wires of clock and data",
            LinkErrorKind::Protocol => "check that both ends use the same speed and protocol",
            _ => return Self { exit: Exit::Device, ..Self::unusable_plainly(error.to_string()) },
        };
        Self { exit: Exit::Device, ..Self::unusable(error.to_string(), help) }
    }
}

/// Standard output failed. A reader that closes it early (`| head -1`) is not a failure.
impl From<io::Error> for Failure {
    fn from(error: io::Error) -> Self {
        if error.kind() == io::ErrorKind::BrokenPipe {
            return Self { exit: Exit::Enough, complaints: Vec::new() };
        }
        let help = "make room, or send the output elsewhere";
        Self {
            exit: Exit::Device,
            ..Self::unusable(format!("cannot write to standard output: {error}"), help)
        }
    }
}

impl Complaint {
    /// About some characters of a text that was given on the command line.
    pub fn in_text(
        severity: Severity,
        message: String,
        text: &str,
        position: usize,
        length: usize,
        help: impl Into<String>,
    ) -> Self {
        let byte = |position: usize| text.char_indices().nth(position).map_or(text.len(), |(byte, _)| byte);
        let span = byte(position)..byte(position.saturating_add(length));
        let place = Place { origin: "text".into(), source: text.into(), span, also: None };
        Self { severity, message, place: Some(place), help: Some(help.into()) }
    }

    /// Returns complaints about the first few, and a note with the number of the others.
    pub fn of_first<T>(found: &[T], complain: impl FnMut(&T) -> Self) -> Vec<Self> {
        let more = Self::of_more(found.len().saturating_sub(MOST_COMPLAINTS));
        found.iter().take(MOST_COMPLAINTS).map(complain).chain(more).collect()
    }

    /// Returns a note with the number of further complaints, if there are any.
    fn of_more(more: usize) -> Option<Self> {
        let message = if more == 1 { "and 1 more".to_owned() } else { format!("and {more} more") };
        let help = Some("mend these first: others may go with them".to_owned());
        (more > 0).then_some(Self { severity: Severity::Note, message, place: None, help })
    }

    /// Returns the message, behind the file and the line if it has a place.
    fn words(&self) -> String {
        let Some(Place { origin, source, span, .. }) = &self.place else { return self.message.clone() };
        let line = source.get(..span.start).unwrap_or_default().matches('\n').count() + 1;
        format!("{origin}, line {line}: {}", self.message)
    }

    /// Something to look out for that is at no place.
    pub fn warning(message: String, help: impl Into<String>) -> Self {
        Self::plain(Severity::Warning, message, help)
    }

    /// Something that is at no place.
    pub fn plain(severity: Severity, message: String, help: impl Into<String>) -> Self {
        Self { severity, message, place: None, help: Some(help.into()) }
    }

    /// About a place in a file or other text.
    pub fn at(message: String, origin: &str, source: &str, span: Range<usize>) -> Self {
        let place = Place { origin: origin.to_owned(), source: source.into(), span, also: None };
        Self { severity: Severity::Error, message, place: Some(place), help: None }
    }

    /// A finding in a rig file.
    pub fn of_finding(finding: &Finding, origin: &str, source: &Arc<str>) -> Self {
        Self {
            severity: finding.severity,
            message: finding.trouble.to_string(),
            place: Some(Place {
                origin: origin.to_owned(),
                source: Arc::clone(source),
                span: finding.span.clone(),
                also: finding.also.clone(),
            }),
            help: finding.trouble.fix(),
        }
    }

    /// The complaint as a person reads it, with its place in the source.
    pub fn render(&self, colour: bool, ascii: bool, columns: usize) -> String {
        let level = match self.severity {
            Severity::Error => Level::ERROR,
            Severity::Warning => Level::WARNING,
            Severity::Note => Level::NOTE,
        };
        let message = wrapped(&self.message, columns, self.severity.name());
        let title = level.primary_title(message.as_str());
        let excerpt = self.place.as_ref().map(Excerpt::of);
        let origin = self.place.as_ref().map_or("".into(), |place| visible(&place.origin));
        let mut report = match &excerpt {
            None => Group::with_title(title),
            Some(excerpt) => {
                let marked = AnnotationKind::Primary.span(excerpt.span.clone());
                let mut snippet = Snippet::source(excerpt.source.as_str())
                    .line_start(excerpt.first_line)
                    .path(&*origin)
                    .annotation(marked);
                if let Some((span, label)) = &excerpt.also {
                    snippet =
                        snippet.annotation(AnnotationKind::Context.span(span.clone()).label(label.as_str()));
                }
                title.element(snippet)
            }
        };
        // Under a snippet help stands behind its line numbers.
        let gutter = excerpt.as_ref().map_or(1, |excerpt| excerpt.last_line().to_string().len());
        let help = self.help.as_deref().map(|help| wrapped(help, columns.saturating_sub(gutter + 3), "help"));
        if let Some(help) = &help {
            report = report.element(Level::HELP.message(help.as_str()));
        }
        let renderer = if colour { Renderer::styled() } else { Renderer::plain() };
        let decor = if ascii {
            annotate_snippets::renderer::DecorStyle::Ascii
        } else {
            annotate_snippets::renderer::DecorStyle::Unicode
        };
        renderer.decor_style(decor).term_width(columns).render(&[report])
    }
}

/// Writes a safe text behind a word and a colon, in a number of columns, broken between words.
fn wrapped(text: &str, columns: usize, behind: &str) -> String {
    let width = columns.saturating_sub(behind.len() + 2).max(20);
    textwrap::wrap(&visible(text), width).join("\n")
}

/// The lines of a source that a complaint is about, safe to print.
struct Excerpt {
    source: String,
    first_line: usize,
    span: Range<usize>,
    also: Option<(Range<usize>, String)>,
}

impl Excerpt {
    fn last_line(&self) -> usize {
        self.first_line + self.source.matches('\n').count()
    }

    fn of(place: &Place) -> Self {
        let source = &*place.source;
        let within = |at: usize| source.floor_char_boundary(at.min(source.len()));
        let clamp = |span: &Range<usize>| within(span.start)..within(span.end.max(span.start));
        let span = clamp(&place.span);
        let also = place.also.as_ref().map(|(span, label)| (clamp(span), label));
        let first = also.as_ref().map_or(span.start, |(also, _)| also.start.min(span.start));
        let last = also.as_ref().map_or(span.end, |(also, _)| also.end.max(span.end));
        let begin = source[..first].rfind('\n').map_or(0, |newline| newline + 1);
        let end = source[last..].find('\n').map_or(source.len(), |newline| last + newline);
        // An escaped character may be longer than the original: places are counted again.
        let length = |range: Range<usize>| visible_lines(&source[range]).len();
        let moved = |span: &Range<usize>| {
            let start = length(begin..span.start);
            start..start + length(span.clone())
        };
        Self {
            source: visible_lines(&source[begin..end]).into_owned(),
            first_line: source[..begin].matches('\n').count() + 1,
            span: moved(&span),
            also: also.map(|(also, label)| (moved(&also), visible(label).into_owned())),
        }
    }
}

/// The way out of a number that cannot be written.
fn number_help(error: &NumberError) -> &'static str {
    match error {
        NumberError::TooLong { number, .. } if number.contains('.') => {
            "give it more digits, fewer places, --shortest or --engineering"
        }
        NumberError::TooLong { .. } => "give it more digits, or --engineering",
        NumberError::NoPlaces => "leave out --places, or write it in decimal",
        NumberError::NotWhole { .. } => "write it in decimal, or a whole number",
    }
}

/// The first of several options that is given.
pub fn first_given(options: &[(bool, &'static str)]) -> Option<&'static str> {
    options.iter().find_map(|(is_given, option)| is_given.then_some(*option))
}

/// The question whether another word was meant, where one is near; nothing where none is. It ends in a blank.
pub fn did_you_mean<'w>(found: &str, known: impl Iterator<Item = &'w str>) -> String {
    nearest(found, known).map_or_else(String::new, |name| format!("did you mean {name}? "))
}
