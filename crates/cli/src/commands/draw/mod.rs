//! `draw`: an editor in the terminal, for the frames of a sprite or for characters of segments.

mod digit;
mod film;
mod recovery;

use std::path::{Path, PathBuf};
use std::time::Duration;

use clap::Args;
use crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseEvent};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;

use crate::coding::CodingArgs;
use crate::failure::{Failure, Outcome};
use crate::files;
use crate::input;
use crate::session::Session;
use crate::sprites;
use crate::view::easel::{Pens, Surround};
use crate::view::terminal::{Heard, is_interrupt};
use crate::view::whole::WholeScreen;
use crate::visible::visible;

/// Draw a sprite or a character in the terminal
///
/// The dots of a sprite, frame by frame, with the bytes of the frame beside them: with --rig in the order of that face's
/// parts. With --style, or where the file ends in .toml, the segments of characters, with the byte, its bit order and the
/// nearest character; the file is one for --glyphs. Keys and mouse draw; the foot of the screen names the keys. Nothing
/// is written before you save.
#[derive(Args)]
#[command(mut_arg("glyphs", |glyphs| glyphs.hide(true)))]
pub struct Draw {
    /// The sprite or glyph file; a new one begins dark
    ///
    /// Example: spare-tile draw gull.dots
    #[arg(value_name = "FILE")]
    file: PathBuf,
    /// The dots of a frame, across and down [default: the size of the file; otherwise the size of the face, or 8x8]
    ///
    /// Example: spare-tile draw gull.dots --size 16x8
    #[arg(long, value_name = "WxH", value_parser = sprites::parse_size)]
    size: Option<(usize, usize)>,
    #[command(flatten)]
    coding: CodingArgs,
}

/// The subject of the editor: a film or a sheet, with the hand that draws.
trait Work {
    /// The message at the beginning.
    fn greeting(&self) -> &str {
        ""
    }

    /// The text at the top, behind the name of the file.
    fn title(&self) -> String;

    /// The keys and what they do.
    fn keys(&self) -> &'static [(&'static str, &'static str)];

    /// Draws the work itself.
    fn draw(&self, area: Rect, buffer: &mut Buffer, pens: Pens);

    /// Does what a key asks for.
    fn key(&mut self, key: KeyEvent) -> Answer;

    /// Does what the mouse asks for.
    fn mouse(&mut self, mouse: MouseEvent, area: Rect, pens: Pens);

    /// Takes an answer to a question; what is wrong with it.
    fn take(&mut self, question: Question, answer: &str) -> Result<(), String>;

    /// The time until something changes by itself, if anything does.
    fn rests(&self) -> Option<Duration> {
        None
    }

    /// Returns true if every key means the same to it: to stop.
    fn is_playing(&self) -> bool {
        false
    }

    /// Takes the last change back; whether there was one.
    fn undo(&mut self) -> bool;

    /// Makes again what was undone; whether there was something.
    fn redo(&mut self) -> bool;

    /// Returns true if something is to be saved.
    fn is_changed(&self) -> bool;

    /// The text of the file.
    fn text(&self) -> Result<String, Failure>;

    /// Takes note that this text was saved.
    fn mark_saved(&mut self, text: String);
}

/// The effect of a key.
enum Answer {
    /// It was done, or there was nothing to do.
    Done,
    /// It was done, or could not be; that is to be said.
    Say(String),
    /// Something must be known first. The answer begins as a text.
    Ask(Question, String),
}

/// The questions.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Question {
    Time,
    Name,
    Character,
}

impl Question {
    const fn words(self) -> &'static str {
        match self {
            Self::Time => "the frame stays for (such as 250ms): ",
            Self::Name => "the frame is called: ",
            Self::Character => "which character? ",
        }
    }

    /// Returns true if a single character is the whole answer.
    const fn is_short(self) -> bool {
        matches!(self, Self::Character)
    }
}

/// Runs `draw`.
pub fn run(draw: &Draw, session: &mut Session<'_>) -> Outcome {
    let path = &draw.file;
    if input::is_named(path) {
        return Err(Failure::unusable_plainly("draw needs a file that it can save: name one"));
    }
    if !session.live {
        let help = format!("to check or rewrite a sprite: spare-tile dots {}", path.display());
        return Err(Failure::unusable("draw needs a terminal with a screen and keys", help));
    }
    let taken = recovery::offered(path, session)?;
    let source = taken.as_deref().unwrap_or(path);
    let is_new = !source.exists();
    let has_segments =
        draw.coding.has_style() || path.extension().is_some_and(|extension| extension == "toml");
    if has_segments {
        if draw.size.is_some() {
            return Err(Failure::unusable("a digit has no --size", "leave it out, or leave --style out"));
        }
        let text = if is_new { String::new() } else { files::read_text(source, "glyph")? };
        let coding = draw.coding.coding(session)?;
        return edit(&mut digit::Digit::new(path, text, coding)?, path, taken.is_some(), session);
    }
    let rig = draw.coding.rig(session)?;
    let mount = rig.as_ref().map(|rig| draw.coding.mount(rig)).transpose()?;
    edit(&mut film::Pen::new(source, is_new, draw.size, mount)?, path, taken.is_some(), session)
}

/// How it stands with the person.
enum Mood {
    Drawing,
    /// Something was asked; this is the answer so far.
    Asked(Question, String),
    /// The person would leave what is not saved.
    Leaving,
    /// The person would save over a file that another program has changed; and leave after that.
    Replacing {
        leaves: bool,
    },
}

/// The result of the editor.
enum Next {
    GoOn,
    Leave,
    Interrupt,
}

/// An editor at work.
struct Editor<'w, W: Work> {
    work: &'w mut W,
    path: &'w Path,
    pens: Pens,
    mood: Mood,
    message: String,
    /// The file as it was read or saved last; `None` where there was none.
    known: Option<Vec<u8>>,
    /// True for the work of an interrupted session until it is saved.
    is_recovered: bool,
    has_saved: bool,
}

/// The file as it is now, if there is one.
fn on_disk(path: &Path) -> Option<Vec<u8>> {
    std::fs::read(path).ok()
}

/// Shows the work and does what keys and mouse ask for, until the person leaves.
fn edit<W: Work>(work: &mut W, path: &Path, is_recovered: bool, session: &mut Session<'_>) -> Outcome {
    session.out.flush()?;
    let pens = Pens::of(session);
    let message = work.greeting().to_owned();
    let known = on_disk(path);
    let mut editor =
        Editor { work, path, pens, mood: Mood::Drawing, message, known, is_recovered, has_saved: false };
    let next = editor.run(session);
    if editor.has_saved {
        session.say_aside(&format!("wrote {}", path.display()));
    }
    match next {
        Ok(Next::Interrupt) | Err(_) if editor.is_changed() => {
            let kept = recovery::keep(path, &editor.work.text()?)?;
            session.say_aside(&format!(
                "not saved: the work is in {}; the next `spare-tile draw` of this file offers it",
                kept.display()
            ));
        }
        Ok(_) if is_recovered => recovery::remove(path),
        _ => {}
    }
    match next? {
        Next::Interrupt => Err(Failure::interrupted()),
        _ => Ok(()),
    }
}

impl<W: Work> Editor<'_, W> {
    fn run(&mut self, session: &mut Session<'_>) -> Result<Next, Failure> {
        let mut screen = WholeScreen::take(session.out.unguarded())?;
        loop {
            let window = screen.draw(|window, buffer| self.draw(window, buffer))?;
            let rests = self.work.rests();
            let began = std::time::Instant::now();
            let left = || rests.map(|rests| rests.saturating_sub(began.elapsed()));
            let next = match screen.hear(left)? {
                Some(Heard::Key(key)) => self.key(key),
                Some(Heard::Mouse(mouse)) => {
                    let title = self.title();
                    let middle = self.surround(&title).middle(window);
                    self.work.mouse(mouse, middle, self.pens);
                    Next::GoOn
                }
                Some(Heard::Interrupt) => Next::Interrupt,
                Some(Heard::Redraw) | None => Next::GoOn,
            };
            if !matches!(next, Next::GoOn) {
                return Ok(next);
            }
        }
    }

    /// Returns true if something is to be saved.
    fn is_changed(&self) -> bool {
        self.work.is_changed() || self.is_recovered
    }

    fn title(&self) -> String {
        let changed = if self.is_changed() { "   not saved" } else { "" };
        let path = self.path.display().to_string();
        format!("{}   {}{changed}", visible(&path), self.work.title())
    }

    fn surround<'a>(&'a self, title: &'a str) -> Surround<'a> {
        Surround { title, message: &self.message, keys: self.work.keys() }
    }

    fn draw(&self, window: Rect, buffer: &mut Buffer) {
        let title = self.title();
        let asked;
        let mut surround = self.surround(&title);
        match &self.mood {
            Mood::Asked(question, answer) => {
                asked = format!("{}{answer}_", question.words());
                surround.message = &asked;
            }
            Mood::Leaving => {
                surround.message =
                    "not saved: s saves and leaves, q leaves all the same, any other key goes on";
            }
            Mood::Replacing { .. } => {
                surround.message =
                    "another program has changed this file: o writes over it, any other key goes on";
            }
            Mood::Drawing => {}
        }
        surround.draw(window, buffer);
        self.work.draw(surround.middle(window), buffer, self.pens);
    }

    fn key(&mut self, key: KeyEvent) -> Next {
        match std::mem::replace(&mut self.mood, Mood::Drawing) {
            Mood::Asked(question, answer) => {
                self.answer_key(key, question, answer);
                Next::GoOn
            }
            Mood::Leaving => match key.code {
                KeyCode::Char('s') if self.save_or_ask(true) => Next::Leave,
                KeyCode::Char('q') => Next::Leave,
                _ if is_interrupt(key) => Next::Interrupt,
                _ => Next::GoOn,
            },
            Mood::Replacing { leaves } => match key.code {
                KeyCode::Char('o') if self.save() && leaves => Next::Leave,
                _ => Next::GoOn,
            },
            Mood::Drawing => {
                self.message.clear();
                self.drawing_key(key)
            }
        }
    }

    fn drawing_key(&mut self, key: KeyEvent) -> Next {
        let is_leaving = is_interrupt(key) || matches!(key.code, KeyCode::Char('q') | KeyCode::Esc);
        match key.code {
            _ if self.work.is_playing() => {
                self.work.key(key);
            }
            _ if is_leaving && self.is_changed() => self.mood = Mood::Leaving,
            _ if is_interrupt(key) => return Next::Interrupt,
            _ if is_leaving => return Next::Leave,
            KeyCode::Char('s') => {
                self.save_or_ask(false);
            }
            KeyCode::Char('u') if !self.work.undo() => self.message = "nothing to undo".to_owned(),
            KeyCode::Char('U') if !self.work.redo() => self.message = "nothing to redo".to_owned(),
            KeyCode::Char('u' | 'U') => {}
            _ => match self.work.key(key) {
                Answer::Done => {}
                Answer::Say(words) => self.message = words,
                Answer::Ask(question, answer) => self.mood = Mood::Asked(question, answer),
            },
        }
        Next::GoOn
    }

    /// A key while a question waits: it is a part of the answer, or ends it.
    fn answer_key(&mut self, key: KeyEvent, question: Question, mut answer: String) {
        match key.code {
            KeyCode::Esc => return,
            _ if is_interrupt(key) => return,
            KeyCode::Enter => return self.take(question, &answer),
            KeyCode::Backspace => {
                answer.pop();
            }
            KeyCode::Char('u') if key.modifiers.contains(KeyModifiers::CONTROL) => answer.clear(),
            KeyCode::Char(letter) if !key.modifiers.contains(KeyModifiers::CONTROL) => {
                answer.push(letter);
                if question.is_short() {
                    return self.take(question, &answer);
                }
            }
            _ => {}
        }
        self.mood = Mood::Asked(question, answer);
    }

    fn take(&mut self, question: Question, answer: &str) {
        // A blank is a character, but no part of a time or a name.
        let answer = if question.is_short() { answer } else { answer.trim_matches(' ') };
        if let Err(problem) = self.work.take(question, answer) {
            self.message = problem;
        }
    }

    /// Writes the file, or asks first if another program has changed it; returns true if it was written.
    fn save_or_ask(&mut self, leaves: bool) -> bool {
        if on_disk(self.path) != self.known {
            self.mood = Mood::Replacing { leaves };
            return false;
        }
        self.save()
    }

    /// Writes the file; whether it could.
    fn save(&mut self) -> bool {
        let saved = self.work.text().and_then(|text| {
            files::write_whole(self.path, |out| out.write_all(text.as_bytes()))?;
            Ok(text)
        });
        match saved {
            Ok(text) => {
                self.known = Some(text.as_bytes().to_vec());
                if self.is_recovered {
                    recovery::remove(self.path);
                    self.is_recovered = false;
                }
                self.work.mark_saved(text);
                self.has_saved = true;
                self.message = format!("saved {}", self.path.display());
                true
            }
            Err(failure) => {
                self.message = failure.words();
                false
            }
        }
    }
}
