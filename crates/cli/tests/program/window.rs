//! The program on a terminal of its own, here a pseudo-terminal, whose screen an emulator reads.

use std::fs::File;
use std::io::{Read, Write};
use std::num::NonZero;
use std::process::Command;
use std::sync::{Arc, Mutex};
use std::thread::{self, JoinHandle};
use std::time::{Duration, Instant};

use rexpect::process::{PtyProcess, Signal};
use tempfile::NamedTempFile;

use crate::folder::Folder;

/// A screen that changes all the time is taken as it is after so long.
const RESTLESS: Duration = Duration::from_millis(300);
/// How long a screen may take to show what is waited for.
const PATIENCE: Duration = Duration::from_secs(30);

pub struct Window {
    process: PtyProcess,
    keys: File,
    screen: Arc<Mutex<vt100::Parser>>,
    /// Who reads what the program writes, until there is no more.
    reader: Mutex<Option<JoinHandle<()>>>,
    /// A file with the name of the terminal.
    name: NamedTempFile,
}

fn some(count: u16) -> NonZero<u16> {
    // A terminal may say that it has no rows; the emulator cannot.
    NonZero::new(count.max(1)).unwrap()
}

impl Window {
    /// Runs the program with the words of a line in a window of this many rows and columns.
    pub fn open(folder: &Folder, (rows, columns): (u16, u16), line: &str) -> Self {
        Self::open_with(folder, (rows, columns), line, &[("NO_COLOR", "1")])
    }

    /// The same with variables of the environment.
    pub fn open_with(
        folder: &Folder,
        (rows, columns): (u16, u16),
        line: &str,
        variables: &[(&str, &str)],
    ) -> Self {
        let program = assert_cmd::cargo::cargo_bin!("spare-tile");
        let mut command = Command::new("sh");
        command.current_dir(folder.path("")).env("TERM", "xterm").env_remove("SPARE_TILE_RIG");
        command.env_remove("NO_COLOR").envs(variables.iter().copied());
        let name = NamedTempFile::new().unwrap();
        let script = format!(
            "tty > '{}'; stty rows {rows} columns {columns}; exec {} {line}",
            name.path().display(),
            program.display()
        );
        command.arg("-c").arg(script);
        let process = PtyProcess::new(command).unwrap();
        let keys = process.get_file_handle().unwrap();
        let mut output = process.get_file_handle().unwrap();
        let screen = Arc::new(Mutex::new(vt100::Parser::new(some(rows), some(columns), 0)));
        let seen = Arc::clone(&screen);
        // Ends with the process: then there is nothing more to read.
        let reader = thread::spawn(move || {
            let mut bytes = [0; 4096];
            while let Ok(count @ 1..) = output.read(&mut bytes) {
                seen.lock().unwrap().process(&bytes[..count]);
            }
        });
        Self { process, keys, screen, reader: Mutex::new(Some(reader)), name }
    }

    /// Presses keys, or sends what a terminal sends for others.
    pub fn press(&mut self, keys: &str) {
        self.keys.write_all(keys.as_bytes()).unwrap();
    }

    /// Sends bytes that are not a complete key.
    pub fn press_bytes(&mut self, bytes: &[u8]) {
        self.keys.write_all(bytes).unwrap();
    }

    /// Presses the left button of the mouse at a column and row of the screen, both from 0, drags it to another, and lets it go.
    pub fn drag(&mut self, from: (u16, u16), to: (u16, u16)) {
        let at = |(column, row): (u16, u16)| format!("{};{}", column + 1, row + 1);
        // The reports of xterm, mode 1006: a press, a move with the button down, a release.
        self.press(&format!("\u{1b}[<0;{}M\u{1b}[<32;{}M\u{1b}[<0;{}m", at(from), at(to), at(to)));
    }

    /// Waits until the screen shows a text; the whole screen.
    pub fn see(&self, text: &str) -> String {
        self.see_that(text, |screen| screen.contents().contains(text))
    }

    /// Waits until the screen is as something says, and drawn to its end; the whole screen.
    pub fn see_that(&self, what: &str, is_so: impl Fn(&vt100::Screen) -> bool) -> String {
        let deadline = Instant::now() + PATIENCE;
        // A drawing arrives in pieces: two looks must agree, unless it never comes to rest.
        let mut before: Option<(Instant, String)> = None;
        loop {
            {
                let parser = self.screen.lock().unwrap();
                let (screen, contents) = (parser.screen(), parser.screen().contents());
                if is_so(screen) {
                    match &before {
                        Some((since, seen)) if *seen == contents || since.elapsed() > RESTLESS => {
                            return contents;
                        }
                        Some((since, _)) => before = Some((*since, contents)),
                        None => before = Some((Instant::now(), contents)),
                    }
                } else {
                    before = None;
                    if Instant::now() >= deadline {
                        drop(parser);
                        panic!("not seen: {what}\n{contents}");
                    }
                }
            }
            thread::sleep(Duration::from_millis(10));
        }
    }

    /// Waits until the program has taken the terminal, or has ended: signals end it in good order from here on.
    pub fn taken(&self) {
        let is_over = || self.reader.lock().unwrap().as_ref().is_none_or(JoinHandle::is_finished);
        self.see_that("the terminal taken", |screen| screen.hide_cursor() || is_over());
    }

    /// Gives the window another size.
    pub fn resize(&self, (rows, columns): (u16, u16)) {
        self.screen.lock().unwrap().screen_mut().set_size(some(rows), some(columns));
        let name = std::fs::read_to_string(self.name.path()).unwrap();
        let terminal = File::open(name.trim()).unwrap();
        let size = ["rows", &rows.to_string(), "columns", &columns.to_string()].map(str::to_owned);
        assert!(Command::new("stty").args(size).stdin(terminal).status().unwrap().success());
    }

    pub fn signal(&mut self, signal: Signal) {
        self.process.signal(signal).unwrap();
    }

    /// Waits until the program has ended; its exit status. The terminal must be as it was.
    pub fn status(&self) -> i32 {
        // The only form in which the process gives it: `Exited(Pid(7), 130)`.
        let ended = self.ends();
        ended.rsplit(' ').next().unwrap().trim_end_matches(')').parse().unwrap()
    }

    /// Waits until the program has ended, in whatever way; how it did. The terminal must be as it was.
    pub fn ends(&self) -> String {
        let ended = format!("{:?}", self.process.wait().unwrap());
        self.reader.lock().unwrap().take().into_iter().for_each(|reader| reader.join().unwrap());
        self.see_that("the screen that was there before, and the cursor", |screen| {
            !screen.alternate_screen()
                && !screen.hide_cursor()
                && screen.mouse_protocol_mode() == vt100::MouseProtocolMode::None
        });
        ended
    }
}
