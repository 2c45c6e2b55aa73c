//! Live values: lines of standard input, as they come.

use std::cell::Cell;
use std::io::{self, BufRead};
use std::sync::mpsc::{self, Receiver, TryRecvError};
use std::thread;

use spare_tile_core::play::Value;

/// The longest line that is taken for a value.
const LONGEST: usize = 4096;

/// Values of variables that come while something plays.
pub struct Feed {
    lines: Receiver<String>,
    fed: Fed,
    is_over: Cell<bool>,
}

/// Which variables are fed.
enum Fed {
    /// This one: a line is its value.
    One(String),
    /// These: a line is `NAME=VALUE`.
    Named(Vec<String>),
}

impl Feed {
    /// Lines of standard input, each a value of this variable.
    pub fn of_one(variable: &str) -> Self {
        Self::of(Fed::One(variable.to_owned()))
    }

    /// Lines of standard input, each `NAME=VALUE` for one of these variables.
    pub fn of_named(variables: impl IntoIterator<Item = String>) -> Self {
        Self::of(Fed::Named(variables.into_iter().collect()))
    }

    fn of(fed: Fed) -> Self {
        Self { lines: lines(), fed, is_over: Cell::new(false) }
    }

    /// Returns the lines since the last call: a variable and its value, or an error.
    pub fn take(&self) -> impl Iterator<Item = Result<(String, Value), String>> + '_ {
        std::iter::from_fn(|| match self.lines.try_recv() {
            Ok(line) => Some(self.fed.read(&line)),
            Err(error) => {
                self.is_over.set(error == TryRecvError::Disconnected);
                None
            }
        })
    }

    /// Returns true if standard input has ended, and all its lines were taken.
    pub const fn is_over(&self) -> bool {
        self.is_over.get()
    }
}

impl Fed {
    fn read(&self, line: &str) -> Result<(String, Value), String> {
        match self {
            Self::One(variable) => Ok((variable.clone(), Value::of(line))),
            Self::Named(names) => {
                let (name, value) = line.split_once('=').ok_or("a line is not NAME=VALUE")?;
                let name = name.trim();
                if names.iter().any(|known| known == name) {
                    return Ok((name.to_owned(), Value::of(value)));
                }
                Err(format!("a line came for '{name}'; the variables: {}", names.join(", ")))
            }
        }
    }
}

fn lines() -> Receiver<String> {
    let (send, lines) = mpsc::sync_channel(1024);
    // Ends with the input, or when nobody takes its lines any more.
    thread::spawn(move || {
        for line in io::stdin().lock().split(b'\n') {
            let Ok(mut line) = line else { return };
            line.truncate(LONGEST);
            let words = String::from_utf8_lossy(&line);
            if send.send(words.trim_end_matches('\r').to_owned()).is_err() {
                return;
            }
        }
    });
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_is_for_a_variable_that_there_is() {
        let fed = Fed::Named(vec!["boat".to_owned(), "minutes".to_owned()]);
        assert_eq!(fed.read("boat=KNOT"), Ok(("boat".to_owned(), Value::Words("KNOT".to_owned()))));
        assert_eq!(fed.read(" minutes =7"), Ok(("minutes".to_owned(), Value::Number(7.into()))));
        assert_eq!(fed.read("boat=A=B"), Ok(("boat".to_owned(), Value::Words("A=B".to_owned()))));
        assert_eq!(fed.read("KNOT"), Err("a line is not NAME=VALUE".to_owned()));
        assert_eq!(
            fed.read("berth=2"),
            Err("a line came for 'berth'; the variables: boat, minutes".to_owned())
        );
        assert_eq!(Fed::One("level".to_owned()).read("a=b").unwrap().1, Value::Words("a=b".to_owned()));
    }
}
