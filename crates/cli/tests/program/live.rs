//! Playing on a real terminal, here a pseudo-terminal.

use std::process::Command;
use std::thread;
use std::time::{Duration, Instant};

use rexpect::process::Signal;
use rexpect::session::{PtySession, spawn_command};

use crate::folder::Folder;

const HIDE_CURSOR: &str = "\u{1b}[?25l";
const UP_5: &str = "\u{1b}[5A";
const SHOW_CURSOR: &str = "\u{1b}[?25h";

/// Counts for ever on the berth sign, and waits until it is drawn.
fn count(folder: &Folder) -> PtySession {
    count_every(folder, "50ms")
}

fn count_every(folder: &Folder, every: &str) -> PtySession {
    let mut session = count_after(":", every, folder);
    session.exp_string(HIDE_CURSOR).unwrap();
    session.exp_string("---").unwrap();
    session
}

/// Counts for ever, started by a shell that does something before.
fn count_after(first: &str, every: &str, folder: &Folder) -> PtySession {
    let program = assert_cmd::cargo::cargo_bin!("spare-tile");
    let mut command = Command::new("sh");
    command.current_dir(folder.path("")).env("NO_COLOR", "1").env("TERM", "xterm").arg("-c").arg(format!(
        "{first}; exec {} play count --rig berth.toml --from 2 --to 0 --every {every} --again --ascii --inline",
        program.display(),
    ));
    spawn_command(command, Some(10_000)).unwrap()
}

/// Presses q; the terminal is as it was, and all went well.
fn quit(mut session: PtySession) {
    session.send("q").unwrap();
    session.flush().unwrap();
    session.exp_string(SHOW_CURSOR).unwrap();
    session.exp_eof().unwrap();
    assert_eq!(status(&session), "0");
}

/// The exit status, from the only form in which the process gives it: `Exited(Pid(7), 130)`.
fn status(session: &PtySession) -> String {
    let ended = format!("{:?}", session.process().wait().unwrap());
    ended.rsplit(' ').next().unwrap().trim_end_matches(')').to_owned()
}

#[test]
fn q_ends_it_and_the_terminal_is_as_before() {
    let folder = Folder::landing();
    quit(count(&folder));
}

/// Frames that come faster than any terminal draws them are left out, and the keyboard is heard all the same.
#[test]
fn q_is_heard_when_frames_come_too_fast() {
    let folder = Folder::landing();
    let mut session = count_every(&folder, "10us");
    session.exp_string(UP_5).unwrap();
    session.send("q").unwrap();
    session.flush().unwrap();
    session.exp_eof().unwrap();
    assert_eq!(status(&session), "0");
}

#[test]
fn every_frame_is_drawn_over_the_one_before() {
    let folder = Folder::landing();
    let mut session = count(&folder);
    // A 1 leaves the foot of the digit dark, and yet its drawing has five lines.
    for _ in 0..4 {
        let frame = session.exp_string(UP_5).unwrap();
        assert_eq!(frame.matches('\n').count() % 5, 0, "{frame:?}");
        assert!(!frame.contains("\u{1b}[4A"), "{frame:?}");
    }
    session.send("q").unwrap();
    session.flush().unwrap();
    session.exp_eof().unwrap();
}

#[test]
fn ctrl_c_blanks_the_display_and_says_interrupted() {
    let folder = Folder::landing();
    let mut session = count(&folder);
    session.send_control('c').unwrap();
    let last = session.exp_string(SHOW_CURSOR).unwrap();
    let blanked = last.rsplit(UP_5).next().unwrap();
    assert!(blanked.matches('\n').count() == 5 && !blanked.contains(['-', '|']), "{blanked:?}");
    session.exp_eof().unwrap();
    assert_eq!(status(&session), "130");
}

#[test]
fn a_terminal_that_goes_away_ends_it() {
    let folder = Folder::landing();
    let mut session = count(&folder);
    // The signal that the system sends to the programs of a closed terminal.
    session.process_mut().signal(Signal::SIGHUP).unwrap();
    let ended = format!("{:?}", session.process().wait().unwrap());
    assert!(ended.contains("SIGHUP") || ended.ends_with("130)"), "{ended}");
}

/// A request to end gives a dark display, and the terminal as it was.
#[test]
fn a_signal_that_ends_it_gives_the_terminal_back() {
    for signal in [Signal::SIGTERM, Signal::SIGINT, Signal::SIGQUIT] {
        let folder = Folder::landing();
        let mut session = count(&folder);
        session.process_mut().signal(signal).unwrap();
        let last = session.exp_string(SHOW_CURSOR).unwrap();
        let blanked = last.rsplit(UP_5).next().unwrap();
        assert!(!blanked.contains(['-', '|']), "{signal:?}: {blanked:?}");
        session.exp_eof().unwrap();
        assert_eq!(status(&session), "130", "{signal:?}");
    }
}

/// Waits until the system says that a process is stopped.
fn wait_until_stopped(id: &str) {
    let deadline = Instant::now() + Duration::from_secs(10);
    loop {
        let stat = std::fs::read_to_string(format!("/proc/{id}/stat")).unwrap();
        if stat.rsplit(')').next().unwrap().trim_start().starts_with('T') {
            return;
        }
        assert!(Instant::now() < deadline, "it did not stop");
        thread::sleep(Duration::from_millis(5));
    }
}

#[test]
fn a_stop_gives_the_terminal_back_until_it_goes_on() {
    let folder = Folder::landing();
    for by_key in [true, false] {
        let mut session = count_after("echo process $$.", "50ms", &folder);
        let (_, id) = session.exp_regex(r"process \d+\.").unwrap();
        session.exp_string("---").unwrap();
        if by_key {
            session.send_control('z').unwrap();
        } else {
            session.process_mut().signal(Signal::SIGTSTP).unwrap();
        }
        session.exp_string(SHOW_CURSOR).unwrap();
        wait_until_stopped(id.trim_matches(|c: char| !c.is_ascii_digit()));
        session.process_mut().signal(Signal::SIGCONT).unwrap();
        session.exp_string(HIDE_CURSOR).unwrap();
        session.exp_string("---").unwrap();
        // The keys are its own again.
        quit(session);
    }
}

/// Of a drawing that is higher than the window the top is shown, and every frame stays in its place.
#[test]
fn a_low_window_says_how_much_it_leaves_out() {
    let folder = Folder::landing();
    let mut session = count_after("stty rows 4 columns 80", "50ms", &folder);
    session.exp_string("(3 more lines: the window is too low)").unwrap();
    session.exp_string("\u{1b}[3A").unwrap();
    session.send("q").unwrap();
    session.flush().unwrap();
    session.exp_eof().unwrap();
}

#[test]
fn a_dumb_terminal_gets_every_frame_below_the_one_before() {
    let folder = Folder::landing();
    let mut command = Command::new(assert_cmd::cargo::cargo_bin!("spare-tile"));
    command.current_dir(folder.path("")).env("TERM", "dumb").env_remove("NO_COLOR");
    command.args(["play", "count", "--rig", "berth.toml", "--from", "2", "--to", "0", "--ascii", "--inline"]);
    let mut session = spawn_command(command, Some(10_000)).unwrap();
    let all = session.exp_eof().unwrap();
    assert!(!all.contains('\u{1b}'), "{all:?}");
    assert_eq!(status(&session), "0");
}

/// Between two steps of the demo the terminal is in the same hands.
#[test]
fn the_demo_can_be_ended_between_its_steps() {
    let prompt = "any key goes on, q ends ";
    let start = || {
        let mut command = Command::new(assert_cmd::cargo::cargo_bin!("spare-tile"));
        command.args(["demo", "--tour"]).env("TERM", "xterm").env("NO_COLOR", "1");
        let mut session = spawn_command(command, Some(10_000)).unwrap();
        session.exp_string(prompt).unwrap();
        session
    };
    let mut session = start();
    session.process_mut().signal(Signal::SIGTERM).unwrap();
    session.exp_string(SHOW_CURSOR).unwrap();
    session.exp_eof().unwrap();
    assert_eq!(status(&session), "130");

    quit(start());
}

/// Shows a digit on a terminal of all colours.
fn show_in_colour(more: &[&str]) -> PtySession {
    let program = assert_cmd::cargo::cargo_bin!("spare-tile");
    let mut command = Command::new(program);
    command.args(["show", "8", "--on", "seven:1"]).args(more).env_remove("NO_COLOR");
    command.env("TERM", "xterm-256color").env("COLORTERM", "truecolor");
    spawn_command(command, Some(10_000)).unwrap()
}

/// The same on one that says these features of itself.
fn show_to_one_that_answers(features: &str) -> PtySession {
    let mut session = show_in_colour(&[]);
    session.exp_string("\u{1b}[c").unwrap();
    session.send(features).unwrap();
    session.flush().unwrap();
    session
}

/// Pixels would show the dark segments too: nothing is asked.
#[test]
fn who_wants_only_lit_segments_gets_cells() {
    let mut session = show_in_colour(&["--lit-only"]);
    let before = session.exp_string("\u{1b}[48;2;").unwrap();
    assert!(!before.contains("\u{1b}[c"), "{before:?}");
    session.exp_eof().unwrap();
    assert_eq!(status(&session), "0");
}

#[test]
fn a_terminal_that_shows_pictures_gets_pixels() {
    let mut kitty = show_to_one_that_answers("\u{1b}_Gi=1;OK\u{1b}\\\u{1b}[6;20;10t\u{1b}[?62;22c");
    kitty.exp_string("\u{1b}_Ga=T,f=100,").unwrap();
    // A PNG begins so.
    kitty.exp_string("iVBORw0KGgo").unwrap();
    kitty.exp_eof().unwrap();
    let mut sixel = show_to_one_that_answers("\u{1b}[?62;4;22c");
    sixel.exp_string("\u{1b}P").unwrap();
    sixel.exp_eof().unwrap();
    let mut neither = show_to_one_that_answers("\u{1b}[?62;22c");
    neither.exp_string("\u{1b}[48;2;").unwrap();
    neither.exp_eof().unwrap();
    for session in [kitty, sixel, neither] {
        assert_eq!(status(&session), "0");
    }
}
