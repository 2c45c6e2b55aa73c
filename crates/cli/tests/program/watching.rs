//! Playing on the whole screen of a pseudo-terminal: the faces, and keys to hold, step, hurry, press and leave.

use std::time::Duration;

use rexpect::process::Signal;

use crate::folder::Folder;
use crate::window::Window;

const SIZE: (u16, u16) = (30, 90);

fn play(folder: &Folder, line: &str) -> Window {
    let window = Window::open(folder, SIZE, &format!("play {line} --ascii"));
    window.see("leave");
    window
}

#[test]
fn all_faces_are_seen_under_their_names() {
    let folder = Folder::landing();
    let mut window = play(&folder, "morning.reel.toml --rig desk.toml");
    let screen = window.see("the morning at Quillmoor");
    let lines: Vec<_> = screen.lines().collect();
    for name in ["desk", "clock", "sign"] {
        assert!(lines.contains(&name), "{screen}");
    }
    window.press("o");
    window.see("plays: desk text, desk number, clock clock, sign text");
    // Of each part what its lines do and what it holds: the letters of the boat are in it.
    window.see("desk: clock 1  data 0  strobe 1   on, pulse 12/16; 78 00 79 00 77 00 38 00");
    window.press("q");
    assert_eq!(window.status(), 0);
}

/// A held reel does not move, and steps go from change to change, back too.
#[test]
fn it_is_held_and_stepped_through() {
    let folder = Folder::landing();
    let mut window = play(&folder, "count --rig berth.toml --from 0 --to 9 --every 10s");
    window.press(".");
    window.see("0:10.000   held");
    // A 1 has its right strokes alone.
    let one = window
        .see_that("a 1", |screen| screen.contents().lines().nth(4).is_some_and(|line| line.trim() == "|"));
    assert!(!one.contains("---"), "{one}");
    window.press("..");
    window.see("0:30.000   held");
    window.press(",");
    window.see("0:20.000   held");
    window.press("\u{1b}[C\u{1b}[C\u{1b}[D");
    window.see("0:21.000   held");
    window.press(",,");
    window.see("0:00.000   held");
    window.press(",");
    window.see("this is the beginning");
    window.press("\u{1b}[H..........");
    window.see("nothing changes any more");
    window.press("q");
    assert_eq!(window.status(), 0);
}

#[test]
fn it_is_slowed_down_and_hurried() {
    let folder = Folder::landing();
    let mut window = play(&folder, "count --rig berth.toml --from 0 --to 9 --every 1s --again");
    window.press("--");
    window.see("1/4 as fast");
    window.press("+++++++++++++++");
    window.see("64 times as fast");
    // A minute is over in one second.
    window.see_that("minutes", |screen| {
        screen.contents().contains("   64 times") && !screen.contents().starts_with("0:")
    });
    window.press("q");
    assert_eq!(window.status(), 0);
}

/// A key of the keyboard is a key of the face: pressed on the board, heard over the bus, it lights its lamp.
#[test]
fn keys_of_the_face_are_pressed() {
    let folder = Folder::landing();
    let mut window = play(&folder, "morning.reel.toml --rig desk.toml");
    window.see(". berth2");
    window.press("2");
    window.see("desk.call2");
    window.see("o berth2");
    // Until the key is up again.
    std::thread::sleep(Duration::from_millis(300));
    window.press("2");
    window.see(". berth2");
    window.press("q");
    assert_eq!(window.status(), 0);
    let mut window = play(&folder, "count --rig berth.toml");
    window.press("1");
    window.see("the rig has no buttons");
    window.press("\u{1b}[B");
    window.see("no face has a brightness");
    window.press("q");
    assert_eq!(window.status(), 0);
}

#[test]
fn brightness_goes_by_the_steps_of_the_part() {
    let folder = Folder::landing();
    let mut window = play(&folder, "number 2.1 --rig landing.toml --face gauge --places 1");
    window.press("\u{1b}[B\u{1b}[B");
    window.see("brightness: desk 13 of 15, gauge 13 of 15");
    window.press("q");
    assert_eq!(window.status(), 0);
}

/// A line or a list without enough room is marked.
#[test]
fn a_line_that_is_cut_says_so() {
    let folder = Folder::landing();
    let mut window = play(&folder, "morning.reel.toml --rig desk.toml");
    window.see("leave");
    window.resize((24, 40));
    window.see_that("a mark at the end of the title", |screen| {
        screen.rows(0, 40).next().is_some_and(|title| title.chars().count() == 40 && title.ends_with('>'))
    });
    window.resize((14, 40));
    window.press("o");
    window.see("lines more");
    window.press("q");
    assert_eq!(window.status(), 0);
}

#[test]
fn another_size_is_drawn_anew_and_a_small_one_does_no_harm() {
    let folder = Folder::landing();
    let mut window = play(&folder, "morning.reel.toml --rig desk.toml");
    for size in [(12, 40), (2, 3), (1, 1), (50, 160)] {
        window.resize(size);
    }
    let screen = window.see("leave");
    assert!(screen.lines().count() > 20, "{screen}");
    window.press("q");
    assert_eq!(window.status(), 0);
}

#[test]
fn its_end_and_a_signal_give_the_screen_back() {
    let folder = Folder::landing();
    let window = Window::open(&folder, SIZE, "play count --rig berth.toml --to 3 --every 100ms --ascii");
    assert_eq!(window.status(), 0);
    for signal in [Signal::SIGTERM, Signal::SIGINT] {
        let mut window = play(&folder, "count --rig berth.toml");
        window.signal(signal);
        assert_eq!(window.status(), 130);
    }
    let mut window = play(&folder, "count --rig berth.toml");
    window.press("\u{3}");
    assert_eq!(window.status(), 130);
}

/// In colour each face is painted; nothing is printed that the terminal would not understand.
#[test]
fn faces_are_painted_in_colour() {
    let folder = Folder::landing();
    let mut window =
        Window::open_with(&folder, SIZE, "play morning.reel.toml --rig desk.toml --color always", &[]);
    window.see("leave");
    let screen = window.see_that("blocks", |screen| screen.contents().contains('\u{2584}'));
    assert!(screen.contains("sign"), "{screen}");
    window.press("q");
    assert_eq!(window.status(), 0);
}

/// While it is watched a reel is read again when it is saved; a mistake keeps the last good picture.
#[test]
fn a_reel_is_read_again_when_it_is_saved() {
    let folder = Folder::landing();
    let reel = |words: &str| format!("[[track]]\n[[track.act]]\ntext = {{ say = \"{words}\" }}\n");
    folder.write("word.reel.toml", reel("8"));
    let mut window = play(&folder, "word.reel.toml --rig berth.toml --watch");
    window.see(" ---\n|   |\n ---\n|   |\n ---");
    folder.write("word.reel.toml", reel("1"));
    window.see("read again");
    window.see_that("a 1", |screen| !screen.contents().contains("---"));
    folder.write("word.reel.toml", reel("12"));
    window.see("word.reel.toml, line 3: face berth cannot show this");
    window.see_that("a 1 as before", |screen| !screen.contents().contains("---"));
    folder.write("word.reel.toml", reel("8"));
    window.see(" ---\n|   |\n ---\n|   |\n ---");
    // Without the rig there is nothing to be shown on.
    std::fs::remove_file(folder.path("berth.toml")).unwrap();
    window.see("there is no rig file berth.toml");
    window.press("q");
    assert_eq!(window.status(), 0);
    insta::assert_snapshot!(folder.complaint("play word.reel.toml --rig beacon.toml --watch"), @"
    error: files are watched while someone watches the whole screen
     │
     ╰ help: leave out --watch, or the option that writes a file
    [status 2]
    ");
}

/// Buttons of the face jump and hold as the reel says, and the screen shows it.
#[test]
fn the_demo_is_the_morning_with_its_keys() {
    let folder = Folder::empty();
    let mut window = Window::open(&folder, (34, 120), "demo --ascii");
    window.see("leave");
    let screen = window.see("a morning at Quillmoor");
    for name in ["gauge", "clock", "desk"] {
        assert!(screen.lines().any(|line| line.contains(name)), "{screen}");
    }
    window.see("no room for ");
    window.press("3");
    window.see("desk.call3");
    window.press("o");
    // The lamp of the third berth is line 9 of the third grid.
    window.see_that("its lamp", |screen| {
        let contents = screen.contents();
        let desk = contents.lines().find(|line| line.starts_with("desk: clock")).map(str::to_owned);
        desk.is_some_and(|line| line.split("; ").nth(1).is_some_and(|bytes| &bytes[15..17] == "01"))
    });
    window.press("7");
    window.see("held");
    window.press("7");
    window.see("as time goes");
    window.press("q");
    assert_eq!(window.status(), 0);
}

/// A button that is pressed again is released in between, long enough to be polled, whenever the keyboard is struck.
#[test]
fn a_key_may_be_struck_again_at_any_moment() {
    let folder = Folder::empty();
    let mut window = Window::open(&folder, (34, 120), "demo --ascii");
    window.see("a morning at Quillmoor");
    for pause in (30..100).step_by(7) {
        window.press("7");
        window.see("held");
        std::thread::sleep(Duration::from_millis(pause));
        window.press("7");
        window.see("as time goes");
    }
    window.press("q");
    assert_eq!(window.status(), 0);
}

#[test]
fn it_begins_as_fast_as_is_said() {
    let folder = Folder::landing();
    let mut window = play(&folder, "count --rig berth.toml --from 0 --to 9 --every 10s --speed 1/4");
    window.see("1/4 as fast");
    window.press("+");
    window.see("1/2 as fast");
    window.press("++");
    window.see("2 times as fast");
    window.press("q");
    assert_eq!(window.status(), 0);
}

/// Values on standard input change the display; a line that is not a value is reported.
#[test]
fn values_of_a_reel_come_line_by_line() {
    let folder = Folder::landing();
    folder.write("told.txt", "boat=KNOT\nminutes=5\nberth=3\n");
    let line = "play morning.reel.toml --rig desk.toml --feed --ascii < told.txt";
    let mut window = Window::open(&folder, (30, 110), line);
    window.see("a line came for 'berth'; the variables: boat, minutes");
    window.press("o");
    // k, n, o and t, and a 5 on the last digit.
    window.see("on, pulse 12/16; 75 00 54 00 3F 00 78 00");
    window.see("6D 00");
    window.press("q");
    assert_eq!(window.status(), 0);
    // Below the prompt too.
    let inline = "play morning.reel.toml --rig desk.toml --feed --ascii --inline < told.txt";
    let mut window = Window::open(&folder, (40, 110), inline);
    window.see("a line came for 'berth'; the variables: boat, minutes");
    window.press("q");
    assert_eq!(window.status(), 0);
    insta::assert_snapshot!(folder.complaint("play morning.reel.toml --rig desk.toml --feed --ops"), @"
    error: --feed shows values as they come, and this is written at once
     │
     ╰ help: leave out --feed, and give the variables with --set
    [status 2]
    ");
}

/// Off a terminal values are shown when they come; a reel without end ends with its input.
#[test]
fn values_come_off_a_terminal_too() {
    let folder = Folder::landing();
    folder.write(
        "level.reel.toml",
        "[variables]\nlevel = 0\n[[track]]\n[[track.act]]\nreading = { of = \"level\", places = 1 }\n",
    );
    let mut run = folder.command();
    run.args("play level.reel.toml --rig gauge.toml --feed --json".split(' '));
    let output = run.write_stdin("level=2.1\nno\nlevel=3\n").output().unwrap();
    let (out, err) = (String::from_utf8(output.stdout).unwrap(), String::from_utf8(output.stderr).unwrap());
    let last: serde_json::Value = serde_json::from_str(out.lines().last().unwrap()).unwrap();
    assert_eq!(last["picture"]["reads"], "  3.0", "{out}");
    assert!(err.contains("a line is not NAME=VALUE"), "{err}");
    assert_eq!(output.status.code(), Some(0));
}
