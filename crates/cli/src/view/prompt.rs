//! Questions on the lines of a terminal: one of several, a line of text, yes or no. The answer stays, the choices do not.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::live::Live;
use super::terminal::{Heard, is_interrupt};
use crate::failure::Failure;
use crate::session::Session;

/// The most choices on the screen at a time.
const PAGE: usize = 12;

/// The state of a question after a key.
enum Step<T> {
    /// It is asked on.
    Open,
    /// This is the answer, and the words for it.
    Answered(T, String),
}

/// Asks which of several; returns its place.
///
/// # Errors
/// When the person or the system interrupts.
pub fn choose(question: &str, choices: &[String], session: &mut Session<'_>) -> Result<usize, Failure> {
    let mark = if session.ascii { '>' } else { '\u{203a}' };
    let mut at = 0;
    let last = choices.len().saturating_sub(1);
    ask(
        question,
        session,
        |at: &usize| {
            let first = at.saturating_sub(PAGE / 2).min(choices.len().saturating_sub(PAGE));
            let shown = choices.iter().enumerate().skip(first).take(PAGE);
            let line = |(place, words): (usize, &String)| {
                format!("\n{} {words}", if place == *at { mark } else { ' ' })
            };
            let more = if choices.len() > PAGE { "; there are more above or below" } else { "" };
            format!("{}\n[up and down choose, enter takes{more}]", shown.map(line).collect::<String>())
        },
        &mut at,
        |at, key| {
            match key.code {
                KeyCode::Up => *at = at.checked_sub(1).unwrap_or(last),
                KeyCode::Down => *at = if *at == last { 0 } else { *at + 1 },
                KeyCode::Home | KeyCode::PageUp => *at = 0,
                KeyCode::End | KeyCode::PageDown => *at = last,
                KeyCode::Enter => return Step::Answered(*at, choices.get(*at).cloned().unwrap_or_default()),
                _ => {}
            }
            Step::Open
        },
    )
}

/// A line of text being typed, and what was wrong with it when it was last sent.
#[derive(Default)]
struct Typed {
    text: String,
    problem: String,
}

/// Asks for a line of text, until one can be read. Nothing typed is the default.
///
/// # Errors
/// When the person or the system interrupts.
pub fn text<T>(
    question: &str,
    default: &str,
    read: impl Fn(&str) -> Result<T, String>,
    session: &mut Session<'_>,
) -> Result<T, Failure> {
    ask(
        &format!("{question} ({default})"),
        session,
        |typed: &Typed| {
            let problem =
                if typed.problem.is_empty() { String::new() } else { format!("\n{}", typed.problem) };
            format!(" {}_{problem}", typed.text)
        },
        &mut Typed::default(),
        |typed, key| {
            match key.code {
                KeyCode::Backspace => {
                    typed.text.pop();
                }
                KeyCode::Char('u') if key.modifiers.contains(KeyModifiers::CONTROL) => typed.text.clear(),
                KeyCode::Char(letter) if !key.modifiers.contains(KeyModifiers::CONTROL) => {
                    typed.text.push(letter)
                }
                KeyCode::Enter => {
                    let text = if typed.text.trim().is_empty() { default } else { typed.text.trim() };
                    match read(text) {
                        Ok(answer) => return Step::Answered(answer, text.to_owned()),
                        Err(problem) => typed.problem = problem,
                    }
                }
                _ => {}
            }
            Step::Open
        },
    )
}

/// Asks yes or no.
///
/// # Errors
/// When the person or the system interrupts.
pub fn confirm(question: &str, default: bool, session: &mut Session<'_>) -> Result<bool, Failure> {
    let said = |answer: bool| if answer { "yes" } else { "no" };
    ask(
        &format!("{question} (y or n, enter is {})", said(default)),
        session,
        |answer: &Option<bool>| answer.map_or_else(String::new, |answer| format!(" {}", said(answer))),
        &mut None,
        |answer, key| {
            match key.code {
                KeyCode::Char('y' | 'Y') => *answer = Some(true),
                KeyCode::Char('n' | 'N') => *answer = Some(false),
                KeyCode::Backspace => *answer = None,
                KeyCode::Enter => {
                    let answer = answer.unwrap_or(default);
                    return Step::Answered(answer, said(answer).to_owned());
                }
                _ => {}
            }
            Step::Open
        },
    )
}

/// Asks until there is an answer: `draw` says what stands behind the question, `take` what a key does.
fn ask<S, T>(
    question: &str,
    session: &mut Session<'_>,
    draw: impl Fn(&S) -> String,
    state: &mut S,
    mut take: impl FnMut(&mut S, KeyEvent) -> Step<T>,
) -> Result<T, Failure> {
    let mut live = Live::begin(session)?;
    let asked = format!("? {}", session.bold(question));
    loop {
        live.draw(&format!("{asked}{}", draw(state)), session)?;
        match live.hear(session)? {
            Heard::Key(key) if is_interrupt(key) || key.code == KeyCode::Esc => break,
            Heard::Interrupt => break,
            Heard::Key(key) => {
                if let Step::Answered(answer, words) = take(state, key) {
                    live.draw(&format!("{asked} {words}"), session)?;
                    live.end(session)?;
                    return Ok(answer);
                }
            }
            Heard::Mouse(_) | Heard::Redraw => {}
        }
    }
    live.end(session)?;
    Err(Failure::interrupted())
}
