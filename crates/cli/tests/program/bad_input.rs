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
     ╰ help: name another with --rig FILE, begin one: spare-tile rig new; or try
             the demo files: spare-tile demo --out quillmoor
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
      ╰ help: shorten the text, or let it pass: spare-tile play text; where digits
              have points, one after a character takes no digit of its own
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("bytes 48.5.2.1 --rig berth.toml"), @"
    error: the text takes 5 digits; there are 1
      ╭▸ text:1:2
      │
    1 │ 48.5.2.1
      │  ━━━━━━━
      │
      ╰ help: shorten the text, or let it pass: spare-tile play text; where digits
              have points, one after a character takes no digit of its own
    [status 2]
    ");
}

#[test]
fn a_long_text_with_many_stand_ins_gives_a_few_warnings() {
    let folder = Folder::landing();
    let text = "K".repeat(33);
    let run = folder.run(&format!("play text {text} --rig berth.toml --for 1s"));
    assert_eq!((run.status, run.err.matches("warning:").count()), (0, 20), "{}", run.err);
    assert!(run.err.contains("and 13 more"), "{}", run.err);
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
        .args(["play", "count", "--rig", "landing.toml", "--face", "desk", "--to", "80000", "--json"])
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
    for words in [&["encode", "8"][..], &["--help"]] {
        let full = std::fs::OpenOptions::new().write(true).open("/dev/full").unwrap();
        let status = std::process::Command::new(assert_cmd::cargo::cargo_bin!("spare-tile"))
            .args(words)
            .stdout(full)
            .stderr(Stdio::null())
            .status()
            .unwrap();
        assert_eq!(status.code(), Some(3), "{words:?}");
    }
}

#[test]
fn commands_that_are_none() {
    let folder = Folder::empty();
    assert_eq!(folder.run("encod 8").status, 2);
    assert_eq!(folder.run("encode").status, 2);
    assert_eq!(folder.run("--version").status, 0);
}

#[test]
fn the_list_of_commands_says_of_each_what_the_command_says_itself() {
    assert_eq!(check_list(""), 17);
    assert_eq!(check_list("rig "), 7);
    assert_eq!(check_list("play "), 6);
}

/// Checks what a list of commands says of each, and counts them.
fn check_list(above: &str) -> usize {
    let folder = Folder::empty();
    let help = folder.answer(&format!("{above}--help --width 200"));
    let commands =
        help.lines().skip_while(|line| *line != "Commands:").skip(1).take_while(|line| !line.is_empty());
    let mut count = 0;
    for line in commands {
        let (name, about) = line.trim().split_once(' ').unwrap();
        let own = folder.answer(&format!("{above}{name} -h --width 200"));
        assert_eq!(own.lines().next(), Some(about.trim()), "{name}");
        count += 1;
    }
    count
}

/// Someone's work is never written over by a drawing, and a file stays what it was to those who may read it.
#[test]
#[cfg(unix)]
fn files_that_are_there_stay_what_they_are() {
    use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
    let folder = Folder::landing();
    let before = folder.read("berth.toml");
    for option in ["--svg", "--png"] {
        let told = folder.run(&format!("show 2 --rig berth.toml {option} berth.toml")).err;
        assert!(told.contains("berth.toml exists and Spare Tile did not write it"), "{told}");
    }
    let told = folder.run("bytes 2 --rig berth.toml --vcd berth.toml").err;
    assert!(told.contains("Spare Tile did not write it"), "{told}");
    assert_eq!(folder.read("berth.toml"), before);
    // Its mode, its other names and its being a link.
    folder.answer("show 2 --rig berth.toml --svg a.svg");
    std::fs::set_permissions(folder.path("a.svg"), std::fs::Permissions::from_mode(0o600)).unwrap();
    std::fs::hard_link(folder.path("a.svg"), folder.path("b.svg")).unwrap();
    symlink("a.svg", folder.path("link.svg")).unwrap();
    symlink("new.svg", folder.path("ahead.svg")).unwrap();
    for name in ["a.svg", "link.svg", "ahead.svg"] {
        folder.answer(&format!("show 4 --rig berth.toml --svg {name}"));
    }
    assert_eq!(folder.read("a.svg"), folder.read("b.svg"));
    assert_eq!(folder.read("new.svg"), folder.read("a.svg"));
    let found = std::fs::symlink_metadata(folder.path("link.svg")).unwrap();
    assert!(found.is_symlink() && std::fs::symlink_metadata(folder.path("ahead.svg")).unwrap().is_symlink());
    let found = std::fs::metadata(folder.path("a.svg")).unwrap();
    assert_eq!((found.mode() & 0o777, found.nlink()), (0o600, 2));
}

#[test]
fn the_demo_leaves_what_was_changed() {
    let folder = Folder::empty();
    folder.answer("demo --out quillmoor --json");
    folder.answer("demo --out quillmoor --json");
    folder.write("quillmoor/sign.toml", "# mine\n");
    folder.write("quillmoor/berth.toml", folder.read("quillmoor/berth.toml"));
    insta::assert_snapshot!(folder.complaint("demo --out quillmoor"), @"
    error: quillmoor/sign.toml exists and was changed: nothing was written
     │
     ╰ help: name another folder, or write over it: --force
    [status 2]
    ");
    assert_eq!(folder.read("quillmoor/sign.toml"), "# mine\n");
    folder.answer("demo --out quillmoor --force --json");
    assert_ne!(folder.read("quillmoor/sign.toml"), "# mine\n");
}

#[test]
fn what_a_terminal_would_obey_is_shown() {
    let folder = Folder::landing();
    for word in ["\u{1b}[31mred", "\u{9b}31mred", "\u{202e}der"] {
        for line in [
            vec!["encode", word],
            vec![word],
            vec!["encode", "8", "--bit-order", word],
            vec!["show", "8", "--rig", word],
            vec!["show", "8", "--rig", "landing.toml", "--face", word],
            vec!["table", "--name", word, "--as", "c"],
            vec!["capture", "gauge.vcd", "--part", word],
            vec!["capture", "gauge.vcd", "--part", "max7219", "--map", word],
            vec!["bytes", "8", "--rig", "desk.toml", "--face", "desk", "--press", word],
        ] {
            let run = Run::of(folder.command().args(&line).output().unwrap());
            assert_ne!(run.status, 0, "{line:?}");
            let obeyed = |c: char| (c.is_control() && c != '\n') || c == '\u{202e}';
            assert!(!run.out.contains(obeyed) && !run.err.contains(obeyed), "{line:?}: {:?}", run.err);
        }
    }
    folder.write("odd.toml", folder.read("berth.toml").replace("face.berth", "face.\"a\\u001b[31m\""));
    folder.write("raw.toml", folder.read("berth.toml").replace("common", "com\u{9b}mon"));
    for rig in ["odd.toml", "raw.toml"] {
        let run = folder.run(&format!("rig check --rig {rig}"));
        assert_eq!(run.status, 1);
        assert!(!(run.out + &run.err).contains(|c: char| c.is_control() && c != '\n'), "{rig}");
    }
}

/// The program reports what it can read of any input, and stays within limits.
#[test]
fn very_many_faults_are_counted() {
    let folder = Folder::landing();
    folder.write("lines.toml", "e\n".repeat(10_000));
    folder.write("keys.toml", (0..20_000).map(|key| format!("k{key} = 1\n")).collect::<String>());
    folder.write("faces.toml", (0..10_000).map(|face| format!("[face.f{face}]\n")).collect::<String>());
    for (file, told) in [("lines", "9980 more"), ("keys", "19981 more"), ("faces", "64 is the most")] {
        let run = folder.run(&format!("rig check --rig {file}.toml"));
        let told = if file == "lines" { "81 more" } else { told };
        assert_eq!(run.status, 1, "{file}");
        assert!(run.out.contains(told) && run.out.lines().count() < 200, "{file}: {}", run.out);
        let shown = folder.run(&format!("show 2 --rig {file}.toml"));
        assert!(shown.status == 2 && shown.err.lines().count() < 200, "{file}");
    }
    let dump = folder.run("show 2 --rig gauge.vcd");
    assert_eq!(dump.status, 2);
}

/// Whatever is asked, the answer keeps to the width of a small terminal.
#[test]
fn every_line_fits_80_columns() {
    let folder = Folder::landing();
    for line in [
        "rig wires --rig gauge.toml",
        "rig wires --rig quay.toml --face tide",
        "rig wires --rig quay.toml --face crew",
        "rig wires --rig desk.toml --face sign",
        "rig wires --rig beacon.toml",
        "rig check --rig quay.toml --electrical --explain",
        "rig check --rig desk.toml --electrical --explain",
        "rig check --rig gauge.toml --electrical --explain",
        "bytes \"{berth1}1234\" --rig desk.toml --face desk --then buttons,brightness",
        "bytes \"AVOCET BERTH\" --rig desk.toml --face sign",
        "bytes 8 --rig berth.toml --base bin",
        "scan 1234 --rig gauge.toml --stall \"40ms every 1s\"",
        "scan --rig desk.toml --face desk",
        "encode \"8B@%\" --style sixteen --base bin",
        "encode 8B --style fourteen",
        "decode 3F0A 1234 --style fourteen",
        "decode 123456 --style sixteen --guess",
        "table --style sixteen --set letters",
        "capture desk.csv",
        "capture gauge-dark.vcd",
        "play test --rig berth.toml --ops",
        "demo",
        "--help",
        "bytes --help",
        "encode --help",
        "scan --help",
        "capture --help",
        "play count --help",
        "table --help",
    ] {
        let run = folder.run(line);
        for told in run.out.lines().chain(run.err.lines()) {
            // The lines of a file stand as they are.
            let is_excerpt = told.starts_with("$ ")
                || told.contains('\u{2502}')
                || told.contains('\u{2501}')
                || told.contains(" = ");
            assert!(told.chars().count() <= 80 || is_excerpt, "{line}: {told}");
        }
    }
}

/// An option without effect is reported, never ignored.
#[test]
fn an_option_that_would_do_nothing_is_an_error() {
    let folder = Folder::landing();
    for (line, told) in [
        ("fonts --svg fonts.svg", "no font was named"),
        ("fonts --covers AB", "no font was named"),
        ("bytes 5 --rig desk.toml --face desk --press call1", "--then"),
        ("show 5 --rig desk.toml --face desk --built nosuch.toml", "there is no hardware file nosuch.toml"),
        ("show -9°C --rig desk.toml --face desk", "write a text that begins with a minus last"),
        ("show 18:25 --on seven:4", "colons ="),
    ] {
        let complaint = folder.complaint(line);
        assert!(complaint.contains(told) && complaint.ends_with("[status 2]"), "{line}: {complaint}");
    }
    assert!(!folder.names().contains(&"fonts.svg".to_owned()));
    folder.answer("show --rig desk.toml --face desk -- -9°C");
    // A single dark row is written with its end.
    let dark = folder.answer("show ...../ --rig beacon.toml --ascii");
    assert_eq!(dark, folder.answer("show ...../..... --rig beacon.toml --ascii"));
}

#[test]
fn a_new_rig_is_answered_in_json() {
    let folder = Folder::empty();
    let answer = folder.json("rig new clock-module -c esp32 --pins data=GPIO2 --out clock.toml");
    assert_eq!((&answer["file"], &answer["faces"]), (&"clock.toml".into(), &serde_json::json!(["clock"])));
    assert!(answer["warnings"][0].as_str().unwrap().contains("GPIO2"));
    assert_eq!(answer["rig"].as_str().unwrap(), folder.read("clock.toml"));
    assert!(folder.json("rig new bare-digit -c rp2040 --out -")["file"].is_null());
}

#[test]
fn pins_are_listed_without_a_face() {
    let folder = Folder::empty();
    folder.write("bare.toml", "[controller]\npart = \"esp8266\"\n");
    assert_eq!(folder.answer("rig pins --rig bare.toml"), folder.answer("rig pins --controller esp8266"));
    assert!(folder.complaint("rig pins --controller esp8267").contains("did you mean esp8266"));
    folder.write("wrong.toml", "[face.a]\nkind = \"seven-segment\"\ndigits = 1\n[face.a.drive]\nmethod = \"tm1637\"\npins = { clock = \"GPIO99\", data = 5 }\n[controller]\npart = \"esp8266\"\n");
    let told = folder.complaint("show 1 --rig wrong.toml");
    assert!(told.contains("GPIO4 to GPIO5"), "{told}");
}
