//! A terminal that the program has taken for itself: keys come one by one, and the cursor is hidden. Who takes the whole screen
//! gets one of its own, and the mouse.
//!
//! One guard owns it. Whichever way out is taken, the end, an error, a signal or a stop (Ctrl-Z), the terminal
//! is given back as it was, and after a stop it is taken again.

use std::fs::File;
use std::io;
use std::os::fd::AsFd;
use std::sync::mpsc::{self, Receiver, RecvTimeoutError, Sender};
use std::sync::{Mutex, OnceLock, PoisonError};
use std::thread::{self, Thread};
use std::time::Duration;

use crossterm::cursor::{Hide, Show};
use crossterm::event::{
    self, DisableMouseCapture, EnableMouseCapture, Event, KeyCode, KeyEvent, KeyModifiers, MouseEvent,
};
use crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen};
use crossterm::{execute, terminal};

use crate::signals;

/// How long a wait may go without a look at the signals.
const LOOK_EVERY: Duration = Duration::from_millis(100);

/// A request of the user at the terminal, or of the system.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Wish {
    /// Any key but those that end.
    GoOn,
    /// The person has seen enough.
    Quit,
    /// The user or the system asks the program to end at once.
    Interrupt,
    /// The terminal has another size, or others have written on it.
    Redraw,
}

/// An event from a terminal.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Heard {
    /// A key that was pressed.
    Key(KeyEvent),
    /// The mouse was moved, pressed, or let go.
    Mouse(MouseEvent),
    /// The system asks the program to end at once.
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

/// The part of the terminal that is taken, if any; it is given back once.
static TAKEN: Mutex<Option<Screen>> = Mutex::new(None);

/// The guard.
pub struct Terminal {
    screen: Screen,
    events: &'static Events,
}

impl Terminal {
    /// Takes the terminal.
    ///
    /// # Errors
    /// When the terminal does not obey.
    pub fn take(screen: Screen) -> io::Result<Self> {
        signals::clean_up_with(leave_for_good)?;
        let events = events();
        enter(screen)?;
        events.thread.unpark();
        Ok(Self { screen, events })
    }

    /// Waits until something is heard, at most so long; without a limit if there is none. Returns `None` when the time is
    /// over. A key that was pressed before is returned even then.
    ///
    /// # Errors
    /// When the terminal does not answer.
    pub fn hear(&self, left: impl Fn() -> Option<Duration>) -> io::Result<Option<Heard>> {
        loop {
            if signals::ends() {
                return Ok(Some(Heard::Interrupt));
            }
            if signals::stops() {
                return self.stop().map(Some);
            }
            if signals::continues() {
                // SIGSTOP gives no warning: take the terminal again.
                enter(self.screen)?;
                return Ok(Some(Heard::Redraw));
            }
            let left = left();
            let event = match self.events.next(left.unwrap_or(LOOK_EVERY).min(LOOK_EVERY)) {
                Ok(event) => event?,
                Err(RecvTimeoutError::Timeout) if left == Some(Duration::ZERO) => return Ok(None),
                Err(RecvTimeoutError::Timeout) => continue,
                Err(RecvTimeoutError::Disconnected) => return Err(io::ErrorKind::UnexpectedEof.into()),
            };
            match event {
                Event::Resize(..) => return Ok(Some(Heard::Redraw)),
                Event::Key(key) if is_stop(key) => return self.stop().map(Some),
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

    /// Stops as Ctrl-Z asks, and goes on when told to, or to end.
    fn stop(&self) -> io::Result<Heard> {
        leave();
        // A signal that ends the stopped program is polled below.
        signals::poll(true);
        signals::stop()?;
        // Continuing is known here: there is no need to redraw twice.
        signals::continues();
        if signals::ends() {
            return Ok(Heard::Interrupt);
        }
        enter(self.screen)?;
        Ok(Heard::Redraw)
    }
}

impl Drop for Terminal {
    fn drop(&mut self) {
        leave();
    }
}

/// The events of the terminal, read by a thread of their own: reading blocks after the beginning of a sequence that is never
/// finished, and the program must go on meanwhile.
struct Events {
    receiver: Mutex<Receiver<io::Result<Event>>>,
    thread: Thread,
}

impl Events {
    /// Waits for the next event, at most so long.
    fn next(&self, most: Duration) -> Result<io::Result<Event>, RecvTimeoutError> {
        self.receiver.lock().unwrap_or_else(PoisonError::into_inner).recv_timeout(most)
    }
}

fn events() -> &'static Events {
    static EVENTS: OnceLock<Events> = OnceLock::new();
    EVENTS.get_or_init(|| {
        let (sender, receiver) = mpsc::channel();
        let thread = thread::spawn(move || while read_event(&sender).is_ok() {});
        Events { receiver: Mutex::new(receiver), thread: thread.thread().clone() }
    })
}

/// Passes on the next event, if there is one soon.
///
/// # Errors
/// When no more events will come, or nobody waits for them.
fn read_event(events: &Sender<io::Result<Event>>) -> Result<(), ()> {
    // While the terminal is not taken its input belongs to others.
    if !is_taken() {
        thread::park_timeout(LOOK_EVERY);
        return Ok(());
    }
    let event = match event::poll(LOOK_EVERY) {
        Ok(false) => return Ok(()),
        Ok(true) => event::read(),
        Err(error) => Err(error),
    };
    let is_last = event.is_err();
    let sent = events.send(event).map_err(|_| ());
    if is_last { Err(()) } else { sent }
}

fn is_taken() -> bool {
    TAKEN.lock().unwrap_or_else(PoisonError::into_inner).is_some()
}

/// Takes the terminal, or takes it again.
fn enter(screen: Screen) -> io::Result<()> {
    let mut taken = TAKEN.lock().unwrap_or_else(PoisonError::into_inner);
    terminal::enable_raw_mode()?;
    *taken = Some(screen);
    signals::poll(true);
    if screen == Screen::Whole {
        execute!(io::stdout(), EnterAlternateScreen, EnableMouseCapture)?;
    }
    execute!(io::stdout(), Hide)
}

/// Gives it back.
fn leave() {
    give_back(&mut TAKEN.lock().unwrap_or_else(PoisonError::into_inner));
}

/// Gives it back before a signal ends the program; nobody can take it again.
fn leave_for_good() {
    let mut taken = TAKEN.lock().unwrap_or_else(PoisonError::into_inner);
    give_back(&mut taken);
    // The main thread waits for the lock until the program ends.
    std::mem::forget(taken);
}

fn give_back(taken: &mut Option<Screen>) {
    if let Some(screen) = taken.take() {
        // Not by way of the standard output's lock: the main thread holds it as long as the program runs.
        let out = io::stdout().as_fd().try_clone_to_owned().map(File::from);
        signals::poll(false);
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

/// Returns true if a key asks to end at once: Ctrl-C or what ends a program otherwise.
pub fn is_interrupt(key: KeyEvent) -> bool {
    matches!(key.code, KeyCode::Char('c' | '\\' | '4')) && key.modifiers.contains(KeyModifiers::CONTROL)
}

/// Returns the request for a key.
fn wish(key: KeyEvent) -> Wish {
    match key.code {
        _ if is_interrupt(key) => Wish::Interrupt,
        KeyCode::Char('q' | 'Q') | KeyCode::Esc => Wish::Quit,
        _ => Wish::GoOn,
    }
}
