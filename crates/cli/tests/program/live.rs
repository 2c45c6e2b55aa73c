//! Playing on a real terminal, here a pseudo-terminal.

use std::process::Command;

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
    let mut command = Command::new(assert_cmd::cargo::cargo_bin!("spare-tile"));
    command.current_dir(folder.path("")).env("NO_COLOR", "1");
    command.args([
        "play",
        "count",
        "--rig",
        "berth.toml",
        "--from",
        "2",
        "--to",
        "0",
        "--every",
        every,
        "--again",
        "--ascii",
    ]);
    let mut session = spawn_command(command, Some(10_000)).unwrap();
    session.exp_string(HIDE_CURSOR).unwrap();
    session.exp_string("---").unwrap();
    session
}

/// The exit status, from the only form in which the process gives it: `Exited(Pid(7), 130)`.
fn status(session: &PtySession) -> String {
    let ended = format!("{:?}", session.process().wait().unwrap());
    ended.rsplit(' ').next().unwrap().trim_end_matches(')').to_owned()
}

#[test]
fn q_ends_it_and_the_terminal_is_as_before() {
    let folder = Folder::landing();
    let mut session = count(&folder);
    session.send("q").unwrap();
    session.flush().unwrap();
    session.exp_string(SHOW_CURSOR).unwrap();
    session.exp_eof().unwrap();
    assert_eq!(status(&session), "0");
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
    use rexpect::process::Signal;
    let folder = Folder::landing();
    let mut session = count(&folder);
    // What the system sends to the programs of a terminal that was closed.
    session.process_mut().signal(Signal::SIGHUP).unwrap();
    let ended = format!("{:?}", session.process().wait().unwrap());
    assert!(ended.contains("SIGHUP"), "{ended}");
}
