//! A terminal that the program has taken for itself: keys come one by one, and the cursor is hidden.
//!
//! One guard owns it. Whichever way out is taken, the end, an error, a signal or a stop (Ctrl-Z), the terminal
//! is given back as it was, and after a stop it is taken again.

use std::fs::File;
use std::io;
use std::os::fd::AsFd;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};
use std::thread;
use std::time::Duration;

use crossterm::cursor::{Hide, Show};
use crossterm::event::{self, Event, KeyCode, KeyEvent, KeyModifiers};
use crossterm::{execute, terminal};
use signal_hook::consts::{SIGCONT, SIGHUP, SIGINT, SIGQUIT, SIGTERM, SIGTSTP};
use signal_hook::low_level::emulate_default_handler;
use signal_hook::{flag, iterator::Signals};

use crate::failure::Exit;

/// How long a wait may go without a look at the signals.
const LOOK_EVERY: Duration = Duration::from_millis(100);

/// What someone at the terminal, or the system, wants.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Wish {
    /// Any key but those that end.
    GoOn,
    /// The person has seen enough.
    Quit,
    /// The person or the system wants the program to end at once.
    Interrupt,
    /// The terminal has another size, or others have written on it.
    Redraw,
}

/// The signals that were sent since they were last looked at.
struct Sent {
    ends: Arc<AtomicBool>,
    stops: Arc<AtomicBool>,
    continues: Arc<AtomicBool>,
}

/// Whether the terminal is taken: whoever gives it back does so once.
static TAKEN: Mutex<bool> = Mutex::new(false);

/// The guard.
pub struct Terminal {
    sent: &'static Sent,
}

impl Terminal {
    /// Takes the terminal.
    ///
    /// # Errors
    /// When it does not obey.
    pub fn take() -> io::Result<Self> {
        static SENT: OnceLock<Sent> = OnceLock::new();
        let sent = match SENT.get() {
            Some(sent) => sent,
            None => {
                let sent = listen()?;
                SENT.get_or_init(|| sent)
            }
        };
        enter()?;
        Ok(Self { sent })
    }

    /// Waits for a wish, at most so long, for good where that is not said. None when the time is over. Even when it is over
    /// already, a key that was pressed is heard first.
    ///
    /// # Errors
    /// When the terminal does not answer.
    pub fn wait(&self, left: impl Fn() -> Option<Duration>) -> io::Result<Option<Wish>> {
        loop {
            if self.sent.ends.load(Ordering::Relaxed) {
                return Ok(Some(Wish::Interrupt));
            }
            if self.sent.stops.swap(false, Ordering::Relaxed) {
                stop()?;
                return Ok(Some(Wish::Redraw));
            }
            if self.sent.continues.swap(false, Ordering::Relaxed) {
                // It was stopped in a way that cannot be seen coming.
                enter()?;
                return Ok(Some(Wish::Redraw));
            }
            let left = left();
            if !event::poll(left.unwrap_or(LOOK_EVERY).min(LOOK_EVERY))? {
                if left == Some(Duration::ZERO) {
                    return Ok(None);
                }
                continue;
            }
            match event::read()? {
                Event::Resize(..) => return Ok(Some(Wish::Redraw)),
                Event::Key(key) if is_stop(key) => {
                    stop()?;
                    return Ok(Some(Wish::Redraw));
                }
                Event::Key(key) => return Ok(Some(wish(key))),
                _ => {}
            }
        }
    }
}

impl Drop for Terminal {
    fn drop(&mut self) {
        leave();
    }
}

/// Hears the signals from here on.
fn listen() -> io::Result<Sent> {
    let sent = Sent { ends: Arc::default(), stops: Arc::default(), continues: Arc::default() };
    for signal in [SIGTERM, SIGINT, SIGQUIT] {
        // A second signal ends at once what the first could not.
        flag::register_conditional_shutdown(signal, Exit::Interrupted as i32, Arc::clone(&sent.ends))?;
        flag::register(signal, Arc::clone(&sent.ends))?;
    }
    flag::register(SIGTSTP, Arc::clone(&sent.stops))?;
    flag::register(SIGCONT, Arc::clone(&sent.continues))?;
    // With the terminal gone whoever waits for its keys waits for ever: another thread hears of that.
    let mut hang_ups = Signals::new([SIGHUP])?;
    thread::spawn(move || {
        for signal in hang_ups.forever() {
            leave();
            // It ends as any program that was left alone.
            let _ = emulate_default_handler(signal);
        }
    });
    Ok(sent)
}

/// Takes the terminal, or takes it again.
fn enter() -> io::Result<()> {
    let mut taken = TAKEN.lock().unwrap_or_else(PoisonError::into_inner);
    terminal::enable_raw_mode()?;
    *taken = true;
    execute!(io::stdout(), Hide)
}

/// Gives it back.
fn leave() {
    let mut taken = TAKEN.lock().unwrap_or_else(PoisonError::into_inner);
    if std::mem::take(&mut *taken) {
        // On the way out nothing more can be done when the terminal does not answer.
        let _ = terminal::disable_raw_mode();
        // Not by way of the standard output's lock: the main thread holds it as long as the program runs.
        if let Ok(out) = io::stdout().as_fd().try_clone_to_owned() {
            let mut out = File::from(out);
            let _ = execute!(out, Show);
        }
    }
}

/// Stops as Ctrl-Z asks, and goes on when told to.
fn stop() -> io::Result<()> {
    leave();
    emulate_default_handler(SIGTSTP)?;
    enter()
}

fn is_stop(key: KeyEvent) -> bool {
    key.code == KeyCode::Char('z') && key.modifiers.contains(KeyModifiers::CONTROL)
}

/// What a key asks for.
fn wish(key: KeyEvent) -> Wish {
    match key.code {
        KeyCode::Char('c' | '\\' | '4') if key.modifiers.contains(KeyModifiers::CONTROL) => Wish::Interrupt,
        KeyCode::Char('q' | 'Q') | KeyCode::Esc => Wish::Quit,
        _ => Wish::GoOn,
    }
}
