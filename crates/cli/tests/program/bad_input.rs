//! Whatever comes in, there is a clear complaint with the place and the fix, and the status of the manners.

use std::ffi::OsStr;
use std::io::Read;
use std::process::Stdio;

use crate::folder::{Folder, Run};

#[test]
fn rig_files_that_are_none() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.complaint("show 2"), @"
    error: there is no rig file rig.toml
     │
     ╰ help: name another with --rig FILE, or get one to start from: spare-tile
             demo --out DIR
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show 2 --rig ."), @"
    error: . is a directory
     │
     ╰ help: name the rig file in it
    [status 2]
    ");
    folder.write("empty.toml", "");
    insta::assert_snapshot!(folder.complaint("show 2 --rig empty.toml"), @"
    error: the rig has no face
      ╭▸ empty.toml:1:1
      │
    1 │
      │ ━
      │
      ╰ help: write a table [face.NAME] with kind, digits and a [face.NAME.drive]
    [status 2]
    ");
    folder.write("binary.toml", [0x7F, b'E', 0xFF, 0xFE]);
    insta::assert_snapshot!(folder.complaint("show 2 --rig binary.toml"), @"
    error: binary.toml is not text: byte 3 is not UTF-8
     │
     ╰ help: a rig file is text in UTF-8
    [status 2]
    ");
    folder.write("vast.toml", vec![b'#'; 5 << 20]);
    insta::assert_snapshot!(folder.complaint("show 2 --rig vast.toml"), @"
    error: vast.toml is larger than 1 MiB, too large for a rig file
     │
     ╰ help: name the rig file itself
    [status 2]
    ");
    folder.write("deep.toml", format!("a = {}", "[".repeat(100_000)));
    assert_eq!(folder.run("show 2 --rig deep.toml").status, 2);
}

#[test]
fn faces_that_are_not_there() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.complaint("show 2 --rig landing.toml"), @"
    error: the rig has 2 faces: desk, gauge
     │
     ╰ help: pick one, such as --face desk
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show 2 --rig landing.toml --face board"), @"
    error: the rig has no face 'board'
     │
     ╰ help: its faces: desk, gauge
    [status 2]
    ");
}

#[test]
fn texts_that_do_not_fit() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.complaint("show --rig landing.toml --face gauge -- -0.45.2"), @"
    error: the text takes 5 digits; there are 4
      ╭▸ text:1:7
      │
    1 │ -0.45.2
      │       ━
      │
      ╰ help: shorten the text; where digits have points, one after a character
              takes no digit of its own
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("bytes 48.5.2.1 --rig berth.toml"), @"
    error: the text takes 5 digits; there are 1
      ╭▸ text:1:2
      │
    1 │ 48.5.2.1
      │  ━━━━━━━
      │
      ╰ help: shorten the text; where digits have points, one after a character
              takes no digit of its own
    [status 2]
    ");
}

#[test]
fn outputs_that_cannot_be_written() {
    let folder = Folder::landing();
    let before = folder.names();
    for line in ["show 2 --rig berth.toml --png no/such/folder.png", "show 2 --rig berth.toml --svg ."] {
        let run = folder.run(line);
        assert_eq!(run.status, 2);
        assert!(run.err.contains("cannot write") && run.err.contains("help"), "{}", run.err);
    }
    let run = folder.run("demo --out berth.toml");
    assert_eq!(run.status, 2, "{}", run.err);
    assert_eq!(folder.names(), before, "no half-written file");
}

#[test]
#[cfg(unix)]
fn an_argument_that_is_not_text() {
    use std::os::unix::ffi::OsStrExt;
    let folder = Folder::landing();
    let run = Run::of(folder.command().arg("encode").arg(OsStr::from_bytes(b"4\xFF8")).output().unwrap());
    assert_eq!(run.status, 2);
    assert!(run.err.contains("invalid UTF-8"), "{}", run.err);
}

#[test]
#[cfg(unix)]
fn a_closed_pipe_ends_quietly() {
    let folder = Folder::landing();
    let mut child = std::process::Command::new(assert_cmd::cargo::cargo_bin!("spare-tile"))
        .current_dir(folder.path(""))
        .args(["play", "count", "--rig", "landing.toml", "--face", "desk", "--to", "9999999", "--json"])
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    let mut first = [0];
    child.stdout.take().unwrap().read_exact(&mut first).unwrap();
    let run = Run::of(child.wait_with_output().unwrap());
    assert_eq!((run.status, run.err.as_str()), (0, ""));
}

#[test]
#[cfg(target_os = "linux")]
fn a_full_disk_is_told() {
    let folder = Folder::landing();
    let full = std::fs::OpenOptions::new().write(true).open("/dev/full").unwrap();
    let status = std::process::Command::new(assert_cmd::cargo::cargo_bin!("spare-tile"))
        .current_dir(folder.path(""))
        .args(["encode", "8"])
        .stdout(full)
        .stderr(Stdio::null())
        .status()
        .unwrap();
    assert_eq!(status.code(), Some(3));
}

#[test]
fn commands_that_are_none() {
    let folder = Folder::empty();
    assert_eq!(folder.run("").status, 2);
    assert_eq!(folder.run("encod 8").status, 2);
    assert_eq!(folder.run("encode").status, 2);
    assert_eq!(folder.run("--version").status, 0);
}

#[test]
fn the_list_of_commands_says_of_each_what_the_command_says_itself() {
    let folder = Folder::empty();
    let help = folder.answer("--help");
    let commands =
        help.lines().skip_while(|line| *line != "Commands:").skip(1).take_while(|line| !line.is_empty());
    let mut count = 0;
    for line in commands {
        let (name, about) = line.trim().split_once(' ').unwrap();
        let own = folder.answer(&format!("{name} -h"));
        assert_eq!(own.lines().next(), Some(about.trim()), "{name}");
        count += 1;
    }
    assert_eq!(count, 10);
}
