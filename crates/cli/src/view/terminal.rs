//! A terminal that the program has taken for itself: keys come one by one, and the cursor is hidden. Who takes the whole screen
//! gets one of its own, and the mouse.
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
use crossterm::event::{
    self, DisableMouseCapture, EnableMouseCapture, Event, KeyCode, KeyEvent, KeyModifiers, MouseEvent,
};
use crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen};
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

/// What is heard from a terminal.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Heard {
    /// A key that was pressed.
    Key(KeyEvent),
    /// The mouse was moved, pressed, or let go.
    Mouse(MouseEvent),
    /// The system wants the program to end at once.
    Interrupt,
    /// The terminal has another size, or others have written on it.
    Redraw,
}

/// How much of the screen is taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Screen {
    /// As many lines as are written, below what is there.
    Lines,
    /// All of it, with the mouse; what was there comes back in the end.
    Whole,
}

/// The signals that were sent since they were last looked at.
struct Sent {
    ends: Arc<AtomicBool>,
    stops: Arc<AtomicBool>,
    continues: Arc<AtomicBool>,
}

/// How the terminal is taken, if it is: whoever gives it back does so once.
static TAKEN: Mutex<Option<Screen>> = Mutex::new(None);

/// The guard.
pub struct Terminal {
    sent: &'static Sent,
    screen: Screen,
}

impl Terminal {
    /// Takes the terminal.
    ///
    /// # Errors
    /// When it does not obey.
    pub fn take(screen: Screen) -> io::Result<Self> {
        static SENT: OnceLock<Sent> = OnceLock::new();
        let sent = match SENT.get() {
            Some(sent) => sent,
            None => {
                let sent = listen()?;
                SENT.get_or_init(|| sent)
            }
        };
        enter(screen)?;
        Ok(Self { sent, screen })
    }

    /// Waits until something is heard, at most so long, for good where that is not said. None when the time is over. Even when it
    /// is over already, a key that was pressed is heard first.
    ///
    /// # Errors
    /// When the terminal does not answer.
    pub fn hear(&self, left: impl Fn() -> Option<Duration>) -> io::Result<Option<Heard>> {
        loop {
            if self.sent.ends.load(Ordering::Relaxed) {
                return Ok(Some(Heard::Interrupt));
            }
            if self.sent.stops.swap(false, Ordering::Relaxed) {
                self.stop()?;
                return Ok(Some(Heard::Redraw));
            }
            if self.sent.continues.swap(false, Ordering::Relaxed) {
                // It was stopped in a way that cannot be seen coming.
                enter(self.screen)?;
                return Ok(Some(Heard::Redraw));
            }
            let left = left();
            if !event::poll(left.unwrap_or(LOOK_EVERY).min(LOOK_EVERY))? {
                if left == Some(Duration::ZERO) {
                    return Ok(None);
                }
                continue;
            }
            match event::read()? {
                Event::Resize(..) => return Ok(Some(Heard::Redraw)),
                Event::Key(key) if is_stop(key) => {
                    self.stop()?;
                    return Ok(Some(Heard::Redraw));
                }
                Event::Key(key) => return Ok(Some(Heard::Key(key))),
                Event::Mouse(mouse) => return Ok(Some(Heard::Mouse(mouse))),
                _ => {}
            }
        }
    }

    /// Waits for a wish, as [`Self::hear`] does.
    ///
    /// # Errors
    /// When the terminal does not answer.
    pub fn wait(&self, left: impl Fn() -> Option<Duration>) -> io::Result<Option<Wish>> {
        Ok(self.hear(left)?.map(|heard| match heard {
            Heard::Key(key) => wish(key),
            Heard::Mouse(_) => Wish::GoOn,
            Heard::Interrupt => Wish::Interrupt,
            Heard::Redraw => Wish::Redraw,
        }))
    }

    /// Stops as Ctrl-Z asks, and goes on when told to.
    fn stop(&self) -> io::Result<()> {
        leave();
        emulate_default_handler(SIGTSTP)?;
        enter(self.screen)
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
fn enter(screen: Screen) -> io::Result<()> {
    let mut taken = TAKEN.lock().unwrap_or_else(PoisonError::into_inner);
    terminal::enable_raw_mode()?;
    *taken = Some(screen);
    if screen == Screen::Whole {
        execute!(io::stdout(), EnterAlternateScreen, EnableMouseCapture)?;
    }
    execute!(io::stdout(), Hide)
}

/// Gives it back.
fn leave() {
    let mut taken = TAKEN.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(screen) = taken.take() {
        // Not by way of the standard output's lock: the main thread holds it as long as the program runs.
        let out = io::stdout().as_fd().try_clone_to_owned().map(File::from);
        // On the way out nothing more can be done when the terminal does not answer.
        let _ = out.and_then(|mut out| {
            if screen == Screen::Whole {
                execute!(out, DisableMouseCapture, LeaveAlternateScreen)?;
            }
            execute!(out, Show)
        });
        let _ = terminal::disable_raw_mode();
    }
}

fn is_stop(key: KeyEvent) -> bool {
    key.code == KeyCode::Char('z') && key.modifiers.contains(KeyModifiers::CONTROL)
}

/// Whether a key asks to end at once: Ctrl-C or what ends a program otherwise.
pub fn is_interrupt(key: KeyEvent) -> bool {
    matches!(key.code, KeyCode::Char('c' | '\\' | '4')) && key.modifiers.contains(KeyModifiers::CONTROL)
}

/// What a key asks for.
fn wish(key: KeyEvent) -> Wish {
    match key.code {
        _ if is_interrupt(key) => Wish::Interrupt,
        KeyCode::Char('q' | 'Q') | KeyCode::Esc => Wish::Quit,
        _ => Wish::GoOn,
    }
}
