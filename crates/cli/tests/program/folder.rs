//! A temporary folder with the demo's rigs, and the program run in it.

use std::path::PathBuf;
use std::process::Output;

use assert_cmd::Command;
use tempfile::TempDir;

pub struct Folder(TempDir);

/// The result of a run.
pub struct Run {
    pub status: i32,
    pub out: String,
    pub err: String,
}

impl Folder {
    /// An empty folder.
    pub fn empty() -> Self {
        Self(tempfile::tempdir().unwrap())
    }

    /// A folder with the rigs of the demo.
    pub fn landing() -> Self {
        let folder = Self::empty();
        folder.write("landing.toml", include_str!("../../demo/landing.toml"));
        folder.write("board.toml", include_str!("../../demo/board.toml"));
        folder.write("departures.toml", include_str!("../../demo/departures.toml"));
        folder.write("morning.reel.toml", include_str!("../../demo/morning.reel.toml"));
        folder.write("gull.dots", include_str!("../../demo/gull.dots"));
        folder.write("berth.toml", include_str!("../../demo/berth.toml"));
        folder.write("sign.toml", include_str!("../../demo/sign.toml"));
        folder.write("gauge.toml", include_str!("../../demo/gauge.toml"));
        folder.write("quay.toml", include_str!("../../demo/quay.toml"));
        folder.write("beacon.toml", include_str!("../../demo/beacon.toml"));
        folder.write("desk.toml", include_str!("../../demo/desk.toml"));
        folder.write("gauge.vcd", include_str!("../../demo/captures/gauge.vcd"));
        folder.write("gauge-dark.vcd", include_str!("../../demo/captures/gauge-dark.vcd"));
        folder.write("clock.vcd", include_str!("../../demo/captures/clock.vcd"));
        folder.write("desk.csv", include_str!("../../demo/captures/desk.csv"));
        folder
    }

    pub fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    pub fn write(&self, name: &str, text: impl AsRef<[u8]>) {
        std::fs::write(self.path(name), text).unwrap();
    }

    pub fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.path(name)).unwrap()
    }

    pub fn names(&self) -> Vec<String> {
        let entries = std::fs::read_dir(self.0.path()).unwrap();
        let mut names: Vec<_> =
            entries.map(|entry| entry.unwrap().file_name().to_string_lossy().into_owned()).collect();
        names.sort();
        names
    }

    /// The program, ready to be run in the folder.
    pub fn command(&self) -> Command {
        let mut command = Command::cargo_bin("spare-tile").unwrap();
        command
            .current_dir(self.0.path())
            .env_remove("NO_COLOR")
            .env_remove("SPARE_TILE_RIG")
            .env("TZ", "UTC");
        command
    }

    /// Runs the program with the words of a line; a word in quotes may have spaces.
    pub fn run(&self, line: &str) -> Run {
        let words = line.split('"').enumerate().flat_map(|(part, text)| match part % 2 {
            0 => text.split_whitespace().map(str::to_owned).collect::<Vec<_>>(),
            _ => vec![text.to_owned()],
        });
        Run::of(self.command().args(words).output().unwrap())
    }

    /// Returns the output of the program, which must succeed.
    pub fn answer(&self, line: &str) -> String {
        let run = self.run(line);
        assert_eq!(run.status, 0, "{line}: {}", run.err);
        run.out
    }

    /// The answer as JSON.
    pub fn json(&self, line: &str) -> serde_json::Value {
        serde_json::from_str(&self.answer(&format!("{line} --json"))).unwrap()
    }

    /// Returns the error of the program, with its status; it must not write an answer.
    pub fn complaint(&self, line: &str) -> String {
        let run = self.run(line);
        assert_eq!(run.out, "", "{line}");
        format!("{}\n[status {}]", run.err.trim_end(), run.status)
    }
}

impl Run {
    pub fn of(output: Output) -> Self {
        Self {
            status: output.status.code().expect("an exit status"),
            out: String::from_utf8(output.stdout).unwrap(),
            err: String::from_utf8(output.stderr).unwrap(),
        }
    }
}
