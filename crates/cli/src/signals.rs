//! Signals that end the program. What is half done is cleaned up first: a terminal is given back, an unfinished file is removed.

use std::io;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};
use std::thread;
use std::time::Duration;

use signal_hook::consts::{SIGCONT, SIGHUP, SIGINT, SIGQUIT, SIGTERM, SIGTSTP};
use signal_hook::flag;
use signal_hook::iterator::Signals;
use signal_hook::low_level::emulate_default_handler;

/// The signals that end the program.
const ENDING: [i32; 4] = [SIGTERM, SIGINT, SIGQUIT, SIGHUP];

/// True once a signal to end has arrived. Its handler sets this, before the thread that waits for signals has seen it.
static ENDS: OnceLock<Arc<AtomicBool>> = OnceLock::new();
/// The signals that were sent since they were last looked at.
static STOPS: AtomicBool = AtomicBool::new(false);
static CONTINUES: AtomicBool = AtomicBool::new(false);

/// How long the main thread has to end the program after a hang-up, when it may be stuck at a terminal that is gone.
const AFTER_HANG_UP: Duration = Duration::from_secs(1);

/// How long it has after a second signal: if it ends the program itself, it does not write to a terminal that was given back.
const AFTER_SECOND: Duration = Duration::from_millis(300);

/// True while the main thread polls the signals itself.
static POLLED: AtomicBool = AtomicBool::new(false);

/// The functions to call before the program ends.
static CLEANERS: Mutex<Vec<fn()>> = Mutex::new(Vec::new());

/// Calls a function before a signal ends the program. Calling this again with the same function changes nothing.
///
/// # Errors
/// When the signals cannot be caught.
pub fn clean_up_with(clean: fn()) -> io::Result<()> {
    listen()?;
    let mut cleaners = CLEANERS.lock().unwrap_or_else(PoisonError::into_inner);
    if !cleaners.contains(&clean) {
        cleaners.push(clean);
    }
    Ok(())
}

/// Sets whether the main thread polls the signals itself. While it does, a first signal is left to it; a second one ends the
/// program if the main thread does not do so soon.
pub fn poll(polls: bool) {
    POLLED.store(polls, Ordering::SeqCst);
}

/// Returns true once a signal has asked the program to end.
pub fn ends() -> bool {
    ENDS.get().is_some_and(|ends| ends.load(Ordering::SeqCst))
}

/// Returns true if a signal has asked the program to stop since the last call.
pub fn stops() -> bool {
    STOPS.swap(false, Ordering::SeqCst)
}

/// Returns true if the program was continued after a stop since the last call.
pub fn continues() -> bool {
    CONTINUES.swap(false, Ordering::SeqCst)
}

/// Stops the process as SIGTSTP does by default; returns when it is continued. A process that is to end does not stop: the signal
/// that would continue it may have come with the one that ends it.
///
/// # Errors
/// When the system does not stop it.
pub fn stop() -> io::Result<()> {
    if ends() { Ok(()) } else { emulate_default_handler(SIGTSTP) }
}

/// Starts the thread that waits for signals, once.
fn listen() -> io::Result<()> {
    static LISTENS: OnceLock<()> = OnceLock::new();
    if LISTENS.get().is_some() {
        return Ok(());
    }
    let ends = ENDS.get_or_init(Arc::default);
    for signal in ENDING {
        flag::register(signal, Arc::clone(ends))?;
    }
    let mut signals = Signals::new(ENDING.into_iter().chain([SIGCONT, SIGTSTP]))?;
    thread::spawn(move || {
        let mut is_first = true;
        for signal in signals.forever() {
            take(signal, is_first);
            is_first &= !ENDING.contains(&signal);
        }
    });
    LISTENS.get_or_init(|| ());
    Ok(())
}

/// Acts on a signal; `is_first` until one has asked the program to end.
fn take(signal: i32, is_first: bool) {
    let is_polled = POLLED.load(Ordering::SeqCst);
    match signal {
        SIGCONT => CONTINUES.store(true, Ordering::SeqCst),
        // Signals that came together are taken in any order: a stop after the end would never be continued.
        SIGTSTP if ends() => {}
        SIGTSTP if is_polled => STOPS.store(true, Ordering::SeqCst),
        SIGTSTP => {
            // The thread goes on when the process is continued.
            let _ = emulate_default_handler(signal);
        }
        _ => {
            match (is_polled, is_first, signal) {
                (true, true, SIGHUP) => thread::sleep(AFTER_HANG_UP),
                (true, true, _) => return,
                (true, false, _) => thread::sleep(AFTER_SECOND),
                (false, ..) => {}
            }
            let cleaners = CLEANERS.lock().unwrap_or_else(PoisonError::into_inner).clone();
            cleaners.iter().for_each(|clean| clean());
            let _ = emulate_default_handler(signal);
        }
    }
}
