//! A program that runs where its lines end at a board: whenever it asks for the level of a line, the board answers.
//!
//! It writes a value change dump to standard output, and where it reads a line a comment that asks for its level: `$comment level ID
//! $end`. The board has been given everything before that, so it answers as the parts would.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write as _;
use std::io::{BufRead, BufReader, Write as _};
use std::process::{Command, Stdio};
use std::time::Duration;

use spare_tile_core::board::Board;
use spare_tile_core::board::presses::{self, Fingers};
use spare_tile_core::plan::{ButtonId, PinButton, Rig};
use spare_tile_core::rig::Pull;
use spare_tile_core::units::Nanos;

use super::cases::Press;
use super::runners::Running;

/// A press of a case, on a rig.
fn press(rig: &Rig, (name, ms): &Press) -> presses::Press {
    let named = |button: &ButtonId| rig.button_name(*button).is_some_and(|known| known == *name);
    let button = rig.all_buttons().find(named).unwrap();
    presses::Press { button, at: Duration::from_millis(u64::from(*ms)) }
}

/// Runs a program, answers it, and writes what its lines did into `trace.vcd`.
pub fn answered(command: &mut Command, run: &Running<'_>) {
    let rig = Rig::read(&run.folder.read("this.toml")).rig.unwrap();
    let mut board = Board::new(&rig);
    let presses: Vec<_> = run.presses.iter().map(|of| press(&rig, of)).collect();
    let mut fingers = Fingers::of(&presses);
    let place_of =
        |button: &&PinButton| board.pins().iter().position(|pin| *pin == button.line.known).unwrap();
    let inside = rig.pin_buttons().iter().filter(|button| button.pull == Pull::Controller);
    let pulled: BTreeMap<usize, &PinButton> = inside.map(|button| (place_of(&button), button)).collect();
    let mut let_go = BTreeSet::new();
    let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().unwrap();
    let mut answers = child.stdin.take().unwrap();
    let lines = BufReader::new(child.stdout.take().unwrap()).lines();
    let (mut trace, mut now, mut pins) = (String::new(), 0, BTreeMap::new());
    // A simulator may say what it has loaded before.
    for line in lines.map(Result::unwrap).skip_while(|line| !line.starts_with('$')) {
        let words: Vec<_> = line.split_whitespace().collect();
        match words[..] {
            ["$comment", "level", id, "$end"] => {
                fingers.come_to(Nanos(now), &mut board);
                let level = pins.get(id).is_none_or(|pin| board.read(Nanos(now), *pin));
                // Without the pull inside that the rig asks for, a pin is at no level: taken as if its button were down.
                let floats = pins.get(id).and_then(|pin| pulled.get(pin)).filter(|_| !let_go.contains(id));
                let level = floats.map_or(level, |button| button.active.level());
                answers.write_all(if level { b"1" } else { b"0" }).unwrap();
                answers.flush().unwrap();
                continue;
            }
            ["$var", "wire", "1", id, name, "$end"] => {
                if let Some(pin) = board.pins().iter().position(|pin| pin.to_string() == name) {
                    pins.insert(id.to_owned(), pin);
                }
            }
            [change] if change.starts_with('#') => now = change[1..].parse().unwrap(),
            [change] if change.starts_with(['0', '1', 'x', 'z']) => {
                let level = match &change[..1] {
                    "0" => Some(false),
                    "1" => Some(true),
                    _ => None,
                };
                if let Some(id) = change.strip_prefix('z') {
                    let_go.insert(id.to_owned());
                }
                if let Some(pin) = pins.get(&change[1..]) {
                    board.drive(Nanos(now), *pin, level);
                }
            }
            _ => {}
        }
        writeln!(trace, "{line}").unwrap();
    }
    assert!(child.wait().unwrap().success());
    run.folder.write("trace.vcd", trace);
}
