//! Files and keys that mean harm, signals at a bad moment, and files that others change meanwhile.

use std::fs;
use std::process::{Command, Stdio};
use std::thread;
use std::time::Duration;

use rexpect::process::Signal;

use crate::drawing::draw;
use crate::folder::{Folder, Run};
use crate::window::Window;

/// A font whose name would leave a comment of any language, and set the title of a window.
fn hostile_font(name: &str) -> String {
    format!(
        "STARTFONT 2.1\nFONT {name}\nFONTBOUNDINGBOX 3 3 0 0\nSTARTPROPERTIES 2\nFONT_ASCENT 3\nFONT_DESCENT 0\n\
         ENDPROPERTIES\nCHARS 1\nSTARTCHAR A\nENCODING 65\nDWIDTH 4 0\nBBX 3 3 0 0\nBITMAP\nE0\nA0\nE0\nENDCHAR\nENDFONT\n"
    )
}

const NAMES: [&str; 6] = [
    "*/ int run(void) { return 1; } /*",
    "x\rimport os",
    "\u{1b}]0;title\u{7}\u{1b}[2J",
    "\u{9b}31m\u{202e}",
    "ends with \\",
    "\"\"\" + exec('x') + \"\"\"",
];

/// The lines that differ between two texts of as many lines.
fn differing<'t>(one: &'t str, other: &'t str) -> Vec<(&'t str, &'t str)> {
    assert_eq!(one.lines().count(), other.lines().count(), "{one}");
    one.lines().zip(other.lines()).filter(|(a, b)| a != b).collect()
}

#[test]
fn the_name_of_a_font_changes_nothing_but_a_comment() {
    let folder = Folder::empty();
    folder.write("plain.bdf", hostile_font("plain"));
    for form in ["c", "avr-c", "mcs51-c", "rust", "micropython", "pic-asm"] {
        let plain = folder.answer(&format!("table --font plain.bdf --as {form} --name letters"));
        for name in NAMES {
            folder.write("bad.bdf", hostile_font(name));
            let source = folder.answer(&format!("table --font bad.bdf --as {form} --name letters"));
            assert!(source.chars().all(|c| c == '\n' || (' '..='~').contains(&c)), "{form}: {source}");
            let differing = differing(&plain, &source);
            let [(before, after)] = differing[..] else { panic!("{form} {name}: {differing:?}") };
            let (begin, end) = before.split_once("plain").unwrap();
            assert!(after.starts_with(begin) && after.ends_with(end), "{form}: {after}");
            let name = after.strip_prefix(begin).unwrap().strip_suffix(end).unwrap();
            assert!(!name.contains("*/") && !name.contains("/*"), "{form}: {name}");
        }
    }
}

#[test]
fn a_terminal_obeys_nothing_that_a_file_says() {
    let folder = Folder::empty();
    for name in NAMES {
        folder.write("bad.bdf", hostile_font(name));
        for line in [
            "fonts bad.bdf",
            "fonts bad.bdf --covers AB",
            "fonts bad.bdf --json",
            "fonts bad.bdf --color always",
        ] {
            let run = folder.run(line);
            let is_obeyed =
                |text: &str| text.contains(['\u{9b}', '\r', '\u{7}', '\u{202e}']) || text.contains("\u{1b}]");
            assert!(!is_obeyed(&run.out) && !is_obeyed(&run.err), "{line}: {:?}", run.out);
        }
    }
    // The name of a folder comes from the person, or from a script that took it from somewhere else.
    let out = "bad\u{1b}]0;title\u{7}";
    let run = Run::of(
        folder
            .command()
            .args(["firmware", "--target", "c99", "--app", "count", "--rig", "gauge.toml", "--out", out])
            .output()
            .unwrap(),
    );
    assert!(!run.out.contains('\u{1b}') && !run.err.contains('\u{1b}'), "{}{}", run.out, run.err);
}

/// Everything that is printed goes through the guard of the session: no file of the program prints on its own.
#[test]
fn nothing_is_printed_past_the_guard() {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut found = Vec::new();
    crate::folders::files_below(&root, &mut found);
    assert!(found.len() > 80);
    // Who may, and why: the session makes the guard, the command line is read before there is one, and the others write the
    // sequences of a terminal, or words of a failure that are made visible.
    let allowed = [
        ("stdout()", &["session.rs", "commands/cli.rs", "view/terminal.rs"][..]),
        ("stderr()", &["session.rs", "commands/cli.rs", "failure.rs"]),
        ("println!", &[]),
        ("print!", &[]),
        (
            "unguarded()",
            &[
                "session.rs",
                "visible.rs",
                "view/graphics.rs",
                "view/live.rs",
                "commands/draw/mod.rs",
                "commands/play/watch.rs",
            ],
        ),
    ];
    for path in found {
        let text = fs::read_to_string(&path).unwrap();
        let name = path.strip_prefix(&root).unwrap().to_string_lossy().replace('\\', "/");
        for (word, files) in allowed {
            let is_used =
                text.lines().any(|line| line.contains(word) && !line.trim_start().starts_with("//"));
            assert!(!is_used || files.contains(&name.as_str()), "{name} writes with {word}");
        }
    }
}

#[test]
fn files_of_others_are_replaced_only_when_that_is_asked_for() {
    let folder = Folder::landing();
    folder.write("photo.pgm", "P2 2 1 255\n255 0\n");
    for (name, mine, command) in [
        ("notes.asm", "; my program\n    MOVLW 1\n", "dots photo.pgm --out notes.asm"),
        ("mine.dots", "dots 2x1 100ms\nframe\n##\n", "dots photo.pgm --out mine.dots"),
        ("zone.db", "$ORIGIN quillmoor.example.\n", "bytes 2 --rig berth.toml --vcd zone.db"),
        (
            "logo.svg",
            "<svg xmlns=\"http://www.w3.org/2000/svg\"/>\n",
            "show 2 --rig berth.toml --svg logo.svg",
        ),
        ("photo.png", "\u{89}PNG\r\n mine", "show 2 --rig berth.toml --png photo.png"),
        ("walk.gif", "GIF89a mine", "play count --rig berth.toml --to 3 --gif walk.gif"),
        ("man/spare-tile.1", ".TH other 1\n", "man --out man"),
    ] {
        fs::create_dir_all(folder.path("man")).unwrap();
        folder.write(name, mine);
        let told = folder.run(command).err;
        assert!(told.contains("Spare Tile did not write it") && told.contains("--force"), "{told}");
        assert_eq!(folder.read(name), mine, "{command}");
        assert_eq!(folder.run(&format!("{command} --force")).status, 0, "{command}");
        let ours = fs::read(folder.path(name)).unwrap();
        assert_ne!(ours, mine.as_bytes(), "{command}");
        // Its own files it replaces without a word.
        assert_eq!(folder.run(command).status, 0, "{command}");
        if name.ends_with(".dots") || name.ends_with(".asm") {
            // One that was changed since is a person's.
            folder.write(name, [b"dots 2x1 100ms\nframe\n.#\n", &ours[..]].concat());
            assert_eq!(folder.run(command).status, 2, "{command}");
        }
    }
}

#[test]
#[cfg(unix)]
fn a_write_protected_file_is_unchanged() {
    use std::os::unix::fs::PermissionsExt;
    let folder = Folder::landing();
    folder.answer("show 2 --rig berth.toml --svg a.svg");
    let before = folder.read("a.svg");
    let rig = folder.read("board.toml");
    for name in ["a.svg", "board.toml"] {
        fs::set_permissions(folder.path(name), fs::Permissions::from_mode(0o444)).unwrap();
    }
    for line in ["show 4 --rig berth.toml --svg a.svg", "show 4 --rig berth.toml --svg a.svg --force"] {
        let told = folder.run(line).err;
        assert!(told.contains("cannot write a.svg: it is write-protected"), "{told}");
    }
    let told = folder.run("rig add clock-module --rig board.toml").err;
    assert!(told.contains("write-protected"), "{told}");
    assert_eq!((folder.read("a.svg"), folder.read("board.toml")), (before, rig));
}

#[test]
fn faces_added_at_once_are_all_there() {
    let folder = Folder::empty();
    folder.answer("rig new clock-module --controller rp2040 --quiet");
    let adding = |_| {
        let mut command = Command::new(assert_cmd::cargo::cargo_bin!("spare-tile"));
        command.current_dir(folder.path("")).args(["rig", "add", "clock-module", "--quiet"]);
        command.stderr(Stdio::piped()).spawn().unwrap()
    };
    let adding: Vec<_> = (0..6).map(adding).collect();
    for child in adding {
        let output = child.wait_with_output().unwrap();
        assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    }
    let faces = folder.read("rig.toml").matches("[face.clock").count();
    // Each face has a heading of its own and one of its drive.
    assert_eq!(faces, 2 * 7, "{}", folder.read("rig.toml"));
}

#[test]
fn a_project_that_was_not_finished_is_written_again() {
    let folder = Folder::landing();
    let line = "firmware --target c99 --app count --rig gauge.toml --out gauge";
    folder.answer(line);
    // The folder after a run that was stopped: some files exist, the list names all.
    let manifest: serde_json::Value = serde_json::from_str(&folder.read("gauge/written.json")).unwrap();
    let unfinished =
        serde_json::json!({ "by": manifest["by"], "files": {}, "unfinished": manifest["files"] });
    folder.write("gauge/written.json", unfinished.to_string());
    fs::remove_file(folder.path("gauge/README.md")).unwrap();
    folder.answer(line);
    assert_eq!(
        serde_json::from_str::<serde_json::Value>(&folder.read("gauge/written.json")).unwrap(),
        manifest
    );
    // A run that fails half-way: a folder is where a file should be.
    fs::remove_dir_all(folder.path("gauge")).unwrap();
    fs::create_dir_all(folder.path("gauge/README.md")).unwrap();
    let told = folder.run(&format!("{line} --force"));
    assert_eq!(told.status, 2, "{}", told.err);
    fs::remove_dir(folder.path("gauge/README.md")).unwrap();
    folder.answer(line);
}

/// A signal while a file is written leaves nothing behind.
#[test]
#[cfg(unix)]
fn an_unfinished_file_is_removed() {
    let folder = Folder::landing();
    let before = folder.names();
    for signal in ["TERM", "INT", "HUP"] {
        let mut command = Command::new(assert_cmd::cargo::cargo_bin!("spare-tile"));
        command.current_dir(folder.path(""));
        // A dump of half a gigabyte.
        command.args(["play", "test", "--rig", "departures.toml", "--for", "20s", "--vcd", "long.vcd"]);
        let mut child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
        let is_begun = || folder.names().iter().any(|name| name.starts_with(".tmp"));
        for _ in 0..3000 {
            if is_begun() {
                break;
            }
            thread::sleep(Duration::from_millis(10));
        }
        assert!(is_begun(), "nothing was written: {:?}", folder.names());
        let pid = child.id().to_string();
        assert!(Command::new("kill").args(["-s", signal, &pid]).status().unwrap().success());
        assert!(!child.wait().unwrap().success());
        assert_eq!(folder.names(), before, "{signal}");
    }
}

const SIZE: (u16, u16) = (24, 80);

#[test]
fn a_file_that_changed_meanwhile_is_not_saved_over() {
    let folder = Folder::empty();
    let theirs = "dots 3x1 100ms\nframe\n##.\n";
    for (name, first) in [("wave.dots", Some("dots 3x1 100ms\nframe\n...\n")), ("new.dots", None)] {
        first.into_iter().for_each(|text| folder.write(name, text));
        let mut window = draw(&folder, &format!("{name} --size 3x1"));
        window.press("#");
        window.see("not saved");
        folder.write(name, theirs);
        window.press("s");
        window.see("another program has changed this file");
        window.press("x");
        assert_eq!(folder.read(name), theirs);
        window.press("qs");
        window.see("another program has changed this file");
        window.press("o");
        assert_eq!(window.status(), 0);
        assert!(folder.read(name).contains("#.."), "{}", folder.read(name));
    }
}

#[test]
fn unsaved_work_survives_signals() {
    let folder = Folder::empty();
    for signal in [Signal::SIGTERM, Signal::SIGINT, Signal::SIGQUIT, Signal::SIGHUP] {
        let mut window = draw(&folder, "wave.dots --size 3x1");
        window.press("##");
        window.see("not saved");
        window.signal(signal);
        assert_eq!(window.status(), 130, "{signal:?}");
        assert_eq!(folder.names(), [".wave.dots.unsaved"], "{signal:?}");
        let mut window = Window::open(&folder, SIZE, "draw wave.dots --ascii");
        window.see("y takes that work");
        window.press("y");
        window.see("not saved");
        window.press("s");
        window.see("saved wave.dots");
        window.press("q");
        assert_eq!(window.status(), 0);
        assert_eq!(folder.names(), ["wave.dots"], "{signal:?}");
        assert!(folder.read("wave.dots").contains("##."));
        fs::remove_file(folder.path("wave.dots")).unwrap();
    }
}

/// After the beginning of a sequence that never ends the program still obeys the system, and the next keys.
#[test]
fn an_unfinished_sequence_of_keys_stops_nothing() {
    let folder = Folder::landing();
    for bytes in [&b"\x1b["[..], b"\xe4", b"\xc3", b"\xff", b"\x9b"] {
        let mut window = draw(&folder, "gull.dots");
        window.press_bytes(bytes);
        thread::sleep(Duration::from_millis(50));
        window.signal(Signal::SIGTERM);
        assert_eq!(window.status(), 130, "{bytes:?}");
    }
    // A moving picture keeps moving.
    let mut window =
        Window::open(&folder, SIZE, "play count --rig gauge.toml --to 9999 --every 20ms --ascii --inline");
    window.see("\n");
    window.press_bytes(b"\x1b[");
    let seen = window.see("\n");
    window.see_that("another picture", |screen| screen.contents() != seen);
    window.signal(Signal::SIGTERM);
    assert_eq!(window.status(), 130);
}

#[test]
fn two_signals_at_once_leave_the_terminal_as_it_was() {
    let folder = Folder::landing();
    for _ in 0..5 {
        let mut window = draw(&folder, "gull.dots");
        window.signal(Signal::SIGINT);
        window.signal(Signal::SIGTERM);
        window.ends();
    }
}

#[test]
fn a_terminal_without_rows_or_columns_is_no_reason_to_panic() {
    let folder = Folder::landing();
    for size in [(0, 0), (0, 80), (24, 0), (1, 1), (2, 3)] {
        for line in
            ["draw gull.dots", "draw letters.toml --style seven", "play count --rig gauge.toml --to 9999"]
        {
            let mut window = Window::open(&folder, (24, 80), line);
            window.see_that("something", |screen| !screen.contents().trim().is_empty());
            window.taken();
            window.resize(size);
            thread::sleep(Duration::from_millis(150));
            window.signal(Signal::SIGTERM);
            assert_eq!(window.status(), 130, "{line} {size:?}");
            let mut window = Window::open(&folder, size, line);
            window.taken();
            window.signal(Signal::SIGTERM);
            let status = window.status();
            assert!([0, 2, 130].contains(&status), "{line} {size:?}: {status}");
        }
    }
}

/// A chunk of a PNG file, with a checksum that fits.
fn chunk(kind: &[u8; 4], data: &[u8]) -> Vec<u8> {
    let mut sum = crc32fast::Hasher::new();
    sum.update(kind);
    sum.update(data);
    let length = u32::try_from(data.len()).unwrap();
    [&length.to_be_bytes()[..], kind, data, &sum.finalize().to_be_bytes()].concat()
}

#[test]
fn a_broken_palette_is_an_error() {
    let folder = Folder::empty();
    // A line of no filter and two pixels in a block that is stored as it is, with its sum (RFC 1950, 1951).
    let data = [0x78, 0x01, 0x01, 0x06, 0x00, 0xF9, 0xFF, 0, 0, 1, 0, 1, 5, 0x00, 0x11, 0x00, 0x08];
    for length in [0, 1, 2, 3, 4, 5, 767, 769, 1000] {
        let header = [&2_u32.to_be_bytes()[..], &2_u32.to_be_bytes(), &[8, 3, 0, 0, 0]].concat();
        let parts = [
            chunk(b"IHDR", &header),
            chunk(b"PLTE", &vec![7; length]),
            chunk(b"IDAT", &data),
            chunk(b"IEND", &[]),
        ];
        folder.write("palette.png", [&b"\x89PNG\r\n\x1a\n"[..], &parts.concat()].concat());
        let run = folder.run("dots palette.png");
        assert!(
            [0, 2].contains(&run.status) && !run.err.contains("panicked"),
            "{length}: {} {}",
            run.status,
            run.err
        );
    }
}

#[test]
fn a_flood_of_frames_is_refused_before_it_is_decoded() {
    let folder = Folder::empty();
    let flood = |(width, height): (u16, u16), frames: usize| {
        let mut bytes = Vec::new();
        let mut encoder = gif::Encoder::new(&mut bytes, width, height, &[0, 0, 0, 255, 255, 255]).unwrap();
        // Each frame is a single pixel; its picture is the whole canvas all the same.
        for _ in 0..frames {
            let frame = gif::Frame { width: 1, height: 1, buffer: vec![1].into(), ..gif::Frame::default() };
            encoder.write_frame(&frame).unwrap();
        }
        drop(encoder);
        bytes
    };
    for (size, frames, told) in [
        ((1024, 256), 900, "900 frames of 1024x256 dots are more than 8000000 dots"),
        ((4096, 4096), 900, "more than 250000000 pixels"),
        ((8, 8), 1001, "more than 1000 frames"),
    ] {
        folder.write("flood.gif", flood(size, frames));
        let complaint = folder.complaint("dots flood.gif");
        assert!(complaint.contains(told), "{complaint}");
    }
    folder.write("flood.gif", flood((1024, 256), 2));
    folder.answer("dots flood.gif --out flood.dots");
    folder.answer("dots flood.dots --json");
    folder.write("flood.gif", flood((1024, 256), 40));
    folder.answer("dots flood.gif --size 64x32 --sample nearest");
}

/// A specimen of a long text would take too much memory.
#[test]
fn a_specimen_has_an_end() {
    let folder = Folder::empty();
    let say = |length: usize| {
        let text = "8".repeat(length);
        folder.command().args(["fonts", "board", "--say", &text]).output().unwrap().status.code()
    };
    assert_eq!((say(4_000), say(4_001)), (Some(0), Some(2)));
}
