//! `firmware`: projects are written, compiled and run, and show what `play` shows.

mod cases;
mod chain;
mod runners;

use crate::folder::Folder;
use cases::{CASES, Case};
use chain::{difference, played, recorded};
use runners::{RUNNERS, Runner};

/// Writes a case's project, runs it, and says where a face shows anything else than `play`.
fn fault(runner: &Runner, case: &Case) -> Option<String> {
    let folder = Folder::landing();
    folder.write("this.toml", runner.rig(case));
    folder.write("this.reel.toml", case.reel);
    folder
        .answer(&format!("firmware --for {} --rig this.toml --reel this.reel.toml --out out", runner.target));
    let ms = case.ms.min(runner.most_ms);
    (runner.run)(&folder, "out", ms);
    shows_otherwise(&folder, case, (ms, runner.late_ms))
}

/// Where a face shows anything else than `play`, by the recording in `trace.vcd`.
fn shows_otherwise(folder: &Folder, case: &Case, (ms, late_ms): (u32, f64)) -> Option<String> {
    let end = f64::from(ms);
    case.faces.iter().find_map(|face| {
        let played = played(folder, "this.toml", "this.reel.toml", face, end);
        assert!(played.len() > 1, "{}, {face}: {played:#?}", case.rig);
        let recorded = recorded(folder, "this.toml", "trace.vcd", face, end);
        difference(&played, &recorded, late_ms).map(|difference| format!("{face}: {difference}"))
    })
}

#[test]
fn a_program_shows_what_play_shows() {
    for runner in RUNNERS.iter().filter(|runner| runner.is_there()) {
        for case in CASES.iter().filter(|case| runner.takes(case)) {
            assert_eq!(fault(runner, case), None, "{}", runner.target);
        }
    }
}
