//! The files of the demo, which are part of the program.

use std::fs;
use std::io::Read;
use std::path::Path;

use crate::failure::{Failure, Outcome};
use crate::files;
use crate::session::{Session, Shelf};

/// The rigs and recordings of the demo, by file name.
const FILES: [(&str, &str); 17] = [
    ("landing.toml", include_str!("../../../demo/landing.toml")),
    ("berth.toml", include_str!("../../../demo/berth.toml")),
    ("sign.toml", include_str!("../../../demo/sign.toml")),
    ("gauge.toml", include_str!("../../../demo/gauge.toml")),
    ("quay.toml", include_str!("../../../demo/quay.toml")),
    ("beacon.toml", include_str!("../../../demo/beacon.toml")),
    ("desk.toml", include_str!("../../../demo/desk.toml")),
    ("board.toml", include_str!("../../../demo/board.toml")),
    ("departures.toml", include_str!("../../../demo/departures.toml")),
    ("quillmoor.toml", include_str!("../../../demo/quillmoor.toml")),
    ("quillmoor.reel.toml", include_str!("../../../demo/quillmoor.reel.toml")),
    ("morning.reel.toml", include_str!("../../../demo/morning.reel.toml")),
    ("gull.dots", include_str!("../../../demo/gull.dots")),
    ("captures/gauge.vcd", include_str!("../../../demo/captures/gauge.vcd")),
    ("captures/gauge-dark.vcd", include_str!("../../../demo/captures/gauge-dark.vcd")),
    ("captures/clock.vcd", include_str!("../../../demo/captures/clock.vcd")),
    ("captures/desk.csv", include_str!("../../../demo/captures/desk.csv")),
];

/// The files of the demo as if they were on a disk.
pub struct DemoFiles;

impl Shelf for DemoFiles {
    fn read(&self, path: &Path, _: &'static str) -> Result<String, Failure> {
        text_of(path).map(str::to_owned)
    }

    fn has(&self, path: &Path) -> bool {
        text_of(path).is_ok()
    }

    fn open(&self, path: &Path) -> Result<Box<dyn Read>, Failure> {
        Ok(Box::new(text_of(path)?.as_bytes()))
    }
}

fn text_of(path: &Path) -> Result<&'static str, Failure> {
    let file = FILES.iter().find(|(name, _)| Path::new(name) == path);
    file.map(|(_, text)| *text)
        .ok_or_else(|| Failure::unusable_plainly(format!("the demo has no {}", path.display())))
}

/// Writes them to a folder.
pub fn write_all(folder: &Path, session: &mut Session<'_>) -> Outcome {
    let is_other = |(name, text): &&(&str, &str)| {
        fs::read(folder.join(name)).is_ok_and(|found| found != text.as_bytes())
    };
    if let Some((name, _)) = FILES.iter().find(is_other).filter(|_| !session.force) {
        let message = format!("{} exists and was changed: nothing was written", folder.join(name).display());
        return Err(Failure::unusable(message, "name another folder, or write over it: --force"));
    }
    fs::create_dir_all(folder.join("captures")).map_err(|error| {
        let message = format!("cannot make the folder {}: {error}", folder.display());
        Failure::unusable(message, "name a folder in a place that can be written to")
    })?;
    for (name, text) in FILES {
        let path = folder.join(name);
        files::write_whole(&path, |out| out.write_all(text.as_bytes()))?;
        session.say_aside(&format!("wrote {}", path.display()));
    }
    Ok(())
}
