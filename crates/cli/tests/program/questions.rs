//! The questions of `rig new` on a terminal, here a pseudo-terminal.

use std::process::Command;

use rexpect::session::{PtySession, spawn_command};

use crate::folder::Folder;

const DOWN: &str = "\u{1b}[B";

/// `rig new` on a terminal, which asks.
fn asked(folder: &Folder, words: &[&str]) -> PtySession {
    let mut command = Command::new(assert_cmd::cargo::cargo_bin!("spare-tile"));
    command
        .current_dir(folder.path(""))
        .env("NO_COLOR", "1")
        .env("TERM", "xterm")
        .env_remove("SPARE_TILE_RIG");
    spawn_command(
        {
            command.args(["rig", "new", "--ascii"]).args(words);
            command
        },
        Some(10_000),
    )
    .unwrap()
}

/// Waits for a question, and answers with these keys.
fn answer(session: &mut PtySession, question: &str, keys: &str) {
    session.exp_string(question).unwrap();
    session.send(keys).unwrap();
    session.send("\r").unwrap();
    session.flush().unwrap();
}

/// The exit status, and what was said since the last question.
fn ended(mut session: PtySession) -> (String, String) {
    let said = session.exp_eof().unwrap();
    let ended = format!("{:?}", session.process().wait().unwrap());
    (ended.rsplit(' ').next().unwrap().trim_end_matches(')').to_owned(), said)
}

#[test]
fn the_answers_become_the_rig_that_the_options_would_make() {
    let folder = Folder::empty();
    let mut session = asked(&folder, &[]);
    answer(&mut session, "What do you see?", "");
    // Of the chips the first is none; then latch, register, expander, clock module.
    answer(&mut session, "What does the chip say?", &DOWN.repeat(4));
    answer(&mut session, "How many digits?", "");
    answer(&mut session, "Which controller?", "");
    // The understood answers, with everything lit.
    session.exp_string("4 seven-segment digits, 1 tm1637").unwrap();
    answer(&mut session, "Write this to rig.toml?", "");
    let (status, said) = ended(session);
    assert!(status == "0" && said.contains("wrote rig.toml"), "{status}: {said}");
    assert_eq!(folder.read("rig.toml"), folder.answer("rig new clock-module -c atmega328p --out -"));
}

#[test]
fn pins_of_the_package_and_the_joined_side_are_asked_of_bare_displays() {
    let folder = Folder::empty();
    let mut session = asked(&folder, &["--controller", "rp2040", "--out", "gauge.toml"]);
    answer(&mut session, "What do you see?", "");
    answer(&mut session, "What does the chip say?", "");
    answer(&mut session, "How many pins has the package?", DOWN);
    answer(&mut session, "How many digits?", "");
    answer(&mut session, "Which side of the lights is joined?", DOWN);
    answer(&mut session, "Write this to gauge.toml?", "");
    assert_eq!(ended(session).0, "0");
    let options = "rig new bare-digits --controller rp2040 --common anode --out -";
    assert_eq!(folder.read("gauge.toml"), folder.answer(options));
}

#[test]
fn what_cannot_be_is_asked_again() {
    let folder = Folder::empty();
    let mut session = asked(&folder, &["-c", "rp2040"]);
    answer(&mut session, "What do you see?", &DOWN.repeat(2));
    answer(&mut session, "What does the chip say?", "");
    // Backspaces over nothing, then a wrong size, then another.
    answer(&mut session, "How many dots across and down?", "33x8");
    session.exp_string("128x32 dots at most").unwrap();
    session.send(&"\u{7f}".repeat(4)).unwrap();
    session.flush().unwrap();
    answer(&mut session, "How many dots", "16x8");
    answer(&mut session, "Write this to rig.toml?", "");
    assert_eq!(ended(session).0, "0");
    assert_eq!(folder.read("rig.toml"), folder.answer("rig new chain-dots -c rp2040 --size 16x8 --out -"));
}

#[test]
fn a_file_that_is_there_stays_unless_the_person_says_so() {
    let folder = Folder::empty();
    folder.write("rig.toml", "mine");
    for (keys, written) in [("", false), ("n", false), ("y", true)] {
        let mut session = asked(&folder, &["-c", "rp2040"]);
        answer(&mut session, "What do you see?", DOWN);
        answer(&mut session, "What does the chip say?", DOWN);
        answer(&mut session, "How many digits?", "");
        answer(&mut session, "rig.toml exists: write over it?", keys);
        let (status, said) = ended(session);
        assert_eq!(status, "0", "{said}");
        assert_eq!(folder.read("rig.toml") != "mine", written, "{keys:?}");
    }
}

#[test]
fn escape_and_interrupt_leave_everything_as_it_was() {
    let folder = Folder::empty();
    for key in ["\u{1b}", "\u{3}"] {
        let mut session = asked(&folder, &[]);
        session.exp_string("What do you see?").unwrap();
        session.send(key).unwrap();
        session.flush().unwrap();
        assert_eq!(ended(session).0, "130", "{key:?}");
    }
    assert_eq!(folder.names(), Vec::<String>::new());
}

/// A stop (Ctrl-Z) and a signal give the terminal back as it was.
#[test]
fn signals_leave_the_terminal_as_it_was() {
    use crate::window::Window;
    use rexpect::process::Signal;
    let folder = Folder::empty();
    for signal in [Signal::SIGTERM, Signal::SIGINT, Signal::SIGHUP] {
        let mut window = Window::open(&folder, (24, 80), "rig new --ascii");
        window.see("What do you see?");
        window.signal(signal);
        assert_eq!(window.status(), 130, "{signal:?}");
    }
    assert_eq!(folder.names(), Vec::<String>::new());
}
