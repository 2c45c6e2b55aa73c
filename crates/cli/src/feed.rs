//! Live values: lines of standard input, as they come.

use std::io::{self, BufRead};
use std::sync::mpsc::{self, Receiver};
use std::thread;

use spare_tile_core::play::Value;

/// The longest line that is taken for a value.
const LONGEST: usize = 4096;

/// Values of a variable that come while it plays.
pub struct Feed {
    /// The variable.
    pub variable: String,
    values: Receiver<Value>,
}

impl Feed {
    /// Lines of standard input.
    pub fn of_input(variable: &str) -> Self {
        let (send, values) = mpsc::sync_channel(1024);
        // Ends with the input, or when nobody takes its values any more.
        thread::spawn(move || {
            for line in io::stdin().lock().split(b'\n') {
                let Ok(mut line) = line else { return };
                line.truncate(LONGEST);
                let words = String::from_utf8_lossy(&line);
                if send.send(Value::of(words.trim_end_matches('\r'))).is_err() {
                    return;
                }
            }
        });
        Self { variable: variable.to_owned(), values }
    }

    /// What has come since it was last asked.
    pub fn take(&self) -> impl Iterator<Item = Value> + '_ {
        self.values.try_iter()
    }
}
