//! Things that all commands have in common: help, completions, manual pages, standard input, width and quiet.

use crate::folder::{Folder, Run};

/// Runs the program with this on standard input.
fn fed(folder: &Folder, input: &str, words: &[&str]) -> Run {
    Run::of(folder.command().args(words).write_stdin(input).output().unwrap())
}

#[test]
fn a_topic_and_a_command_are_explained() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.answer("help"), @"
    topics:
        bit-orders  which segment sits on which bit, and polarity
        numbers     how numbers are formatted, rounded and limited
        rigs        how the hardware is described, and what follows from that
        captures    recordings of a bus, read back into pictures
        zones       the names of the time zones

    read one: spare-tile help TOPIC; on a command: spare-tile help COMMAND
    ");
    insta::assert_snapshot!(folder.answer("help bit-orders"), @r#"
    BIT ORDERS

    A digit has segments, a byte has bits. A bit order says which segment sits on
    which bit. It is always written out, most significant bit first, as a list of
    segment names:

        dp g f e d c b a

    is the usual one: dp on bit 7, a on bit 0. With it a 0 is 3F, a 1 is 06, an 8 is
    7F. Written the other way round, a b c d e f g dp, the same 0 is FC. A - stands
    for a bit with nothing on it.

        spare-tile encode 0 --bit-order "a b c d e f g dp"

    With a common cathode a 1 lights a segment; with a common anode a 0 does, so
    that every bit is turned round: 0 is C0 there.

        spare-tile encode 0 --common anode

    Fourteen segments are named a b c d e f g1 g2 h i j k l m dp: h i j are the
    upper left diagonal, the upper upright and the upper right diagonal, k l m the
    same below. Sixteen have a1 a2 and d1 d2 in place of a and d.

    With a rig the order follows from the wiring, and every command means that:

        spare-tile encode 0 --rig gauge.toml

    Bytes from elsewhere can be read without knowing their order: the text that they
    should show finds it.

        spare-tile decode FC 60 DA --expect 012
    "#);
    assert_eq!(folder.answer("help rig new"), folder.answer("rig new --help"));
    insta::assert_snapshot!(folder.complaint("help bit-order"), @"
    error: there is no help on 'bit-order'
     │
     ╰ help: did you mean bit-orders? the topics: bit-orders, numbers, rigs,
             captures, zones; the commands: rig, encode, decode, table, show,
             bytes, scan, capture, play, firmware, fonts, dots, draw, demo, help,
             completions, man
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("help rig neu"), @"
    error: there is no help on 'neu'
     │
     ╰ help: did you mean new? the commands: new, add, check, wires, pins, parts,
             schema
    [status 2]
    ");
}

/// The short help of every command fits a screen; the long one is a table and a list of examples.
#[test]
fn help_fits_the_screen() {
    let folder = Folder::empty();
    let names = |above: &str| -> Vec<String> {
        let help = folder.answer(&format!("{above}-h --width 200"));
        let lines = help.lines().skip_while(|line| *line != "Commands:").skip(1);
        let names =
            lines.take_while(|line| !line.is_empty()).filter_map(|line| line.split_whitespace().next());
        names.map(|name| format!("{above}{name} ")).collect()
    };
    let mut commands = names("");
    commands.extend(["rig ", "play "].into_iter().flat_map(names));
    assert!(commands.len() > 25, "{commands:?}");
    for command in commands {
        let (short, long) =
            (folder.answer(&format!("{command}-h")), folder.answer(&format!("{command}--help")));
        let lines = (short.lines().count(), long.lines().count());
        assert!(lines.0 <= 45 && lines.1 <= 210, "{command}: {lines:?}");
        // The long help explains the options that the short one names.
        for option in short.split_whitespace().filter(|word| word.starts_with("--")) {
            assert!(long.contains(option.trim_end_matches(':')), "{command}: {option}");
        }
    }
    let alone = folder.run("");
    assert_eq!((alone.status, alone.out), (0, folder.answer("-h")));
}

/// The bytes on a page are those of the program.
#[test]
fn the_pages_tell_the_truth() {
    let folder = Folder::landing();
    let page = folder.answer("help bit-orders");
    for (line, byte) in [
        ("encode 0 --plain", "3F"),
        ("encode 1 --plain", "06"),
        ("encode 8 --plain", "7F"),
        ("encode 0 --plain --bit-order \"a b c d e f g dp\"", "FC"),
        ("encode 0 --plain --common anode", "C0"),
    ] {
        assert_eq!(folder.answer(line).trim(), byte, "{line}");
        assert!(page.contains(byte), "{byte}");
    }
    let numbers = folder.answer("help numbers");
    assert!(
        numbers.contains("2.675\nto two places is 2.68") && numbers.contains("12500 as\n12.5k")
            || numbers.contains("12500 as 12.5k"),
        "{numbers}"
    );
    assert_eq!(folder.answer("encode 2.675 --places 2 --plain"), folder.answer("encode 2.68 --plain"));
    assert_eq!(
        folder.answer("encode 12500 --engineering --digits 4 --plain"),
        folder.answer("encode 12.5k --plain")
    );
    for number in ["48", "0x30", "0b110000", "0o60"] {
        assert!(numbers.contains(number), "{number}");
        assert_eq!(folder.answer(&format!("encode {number} --number --plain")), "66 7F\n", "{number}");
    }
}

#[test]
fn every_option_stands_under_its_heading() {
    let folder = Folder::empty();
    let headings = |line: &str, option: &str| -> String {
        let help = folder.answer(&format!("{line} --help"));
        let before = help.split(&format!("  {option}")).next().unwrap().to_owned();
        let heading =
            before.lines().rev().find(|line| line.ends_with(':') && !line.starts_with(' ')).unwrap();
        heading.to_owned()
    };
    for (line, option, heading) in [
        ("encode", "    --style", "Coding:"),
        ("encode", "    --base", "Options:"),
        ("show", "    --start", "Text:"),
        ("show", "    --at-brightness", "Options:"),
        ("bytes", "    --places", "Numbers:"),
        ("bytes", "    --vcd", "Files:"),
        ("bytes", "    --glyphs", "Text:"),
        ("play count", "    --for ", "Playing:"),
        ("rig pins", "-r, --rig", "Rig:"),
        ("table", "    --json", "Output:"),
        ("table", "    --force", "Output:"),
    ] {
        assert_eq!(headings(line, option), heading, "{line} {option}");
    }
}

/// The completions for the last of these words.
fn completed(folder: &Folder, words: &[&str]) -> Vec<String> {
    let mut command = folder.command();
    command.env("SPARE_TILE_COMPLETE", "bash").env("_CLAP_IFS", "\n").env("_CLAP_COMPLETE_COMP_TYPE", "9");
    command.env("_CLAP_COMPLETE_INDEX", words.len().to_string()).env("_CLAP_COMPLETE_SPACE", "true");
    let run = Run::of(command.args(["--", "spare-tile"]).args(words).output().unwrap());
    assert_eq!((run.status, run.err.as_str()), (0, ""));
    run.out.lines().map(str::to_owned).collect()
}

#[test]
fn shells_complete_what_the_rig_and_the_controller_have() {
    let folder = Folder::landing();
    assert_eq!(completed(&folder, &["sho"]), ["show"]);
    assert_eq!(
        completed(&folder, &["show", "7", "--rig", "desk.toml", "--face", ""]),
        ["desk", "clock", "sign"]
    );
    assert_eq!(completed(&folder, &["encode", "7", "-r", "quay.toml", "-f", "m"]), ["minutes"]);
    assert_eq!(completed(&folder, &["rig", "new", "chain-"]), ["chain-digits", "chain-dots"]);
    assert_eq!(completed(&folder, &["rig", "new", "clock-module", "-c", "rp"]), ["rp2040", "rp2350"]);
    let pins = ["rig", "new", "button-panel", "-c", "esp8266", "--pins", "strobe="];
    let pins = completed(&folder, &pins);
    assert!(pins.contains(&"strobe=GPIO4".to_owned()), "{pins:?}");
    // It is read at start-up.
    assert!(!pins.contains(&"strobe=GPIO0".to_owned()), "{pins:?}");
    // Without a rig, with a broken one: nothing, and no complaint.
    folder.write("rig.toml", "[face");
    assert_eq!(completed(&folder, &["show", "7", "--face", ""]), Vec::<String>::new());
    assert_eq!(completed(&folder, &["show", "7", "-r", "none.toml", "--face", ""]), Vec::<String>::new());
    for shell in ["bash", "zsh", "fish", "elvish", "powershell"] {
        assert!(folder.answer(&format!("completions {shell}")).contains("SPARE_TILE_COMPLETE"), "{shell}");
    }
    assert_eq!(folder.run("completions tcsh").status, 2);
}

#[test]
fn every_command_has_a_manual_page() {
    let folder = Folder::empty();
    let run = folder.run("man --out man1");
    assert_eq!(run.status, 0, "{}", run.err);
    let pages = std::fs::read_dir(folder.path("man1")).unwrap().count();
    assert_eq!(run.err, format!("wrote {pages} manual pages to man1\n"));
    for (page, words) in [
        ("spare-tile.1", "spare\\-tile\\-encode(1)"),
        ("spare-tile-rig-new.1", "\\fBspare\\-tile rig new\\fR"),
        ("spare-tile-show.1", "\\-\\-at\\-brightness"),
    ] {
        let text = folder.read(&format!("man1/{page}"));
        assert!(text.starts_with(".ie") && text.contains(words), "{page}: {text}");
    }
    assert_eq!(folder.answer("man"), folder.read("man1/spare-tile.1"));
}

#[test]
fn standard_input_stands_for_any_file_and_any_text() {
    let folder = Folder::landing();
    let gauge = folder.read("gauge.toml");
    let of_file = folder.answer("show 12.34 --rig gauge.toml");
    assert_eq!(fed(&folder, &gauge, &["show", "12.34", "--rig", "-"]).out, of_file);
    assert_eq!(fed(&folder, "12.34\n", &["show", "-", "--rig", "gauge.toml"]).out, of_file);
    assert_eq!(
        fed(&folder, "12.34\r\n", &["encode", "-", "--plain"]).out,
        folder.answer("encode 12.34 --plain")
    );
    // The hardware as built is completed from the rig.
    let turned = "[face.gauge.drive]\ndigits = [\"GP13\", \"GP12\", \"GP11\", \"GP10\"]\n";
    folder.write("turned.toml", turned);
    let built = fed(&folder, turned, &["show", "1234", "--rig", "gauge.toml", "--built", "-"]);
    assert_eq!(built.out, folder.answer("show 1234 --rig gauge.toml --built turned.toml"));
    // Both from the one input: the same file.
    assert_eq!(fed(&folder, &gauge, &["show", "12.34", "--rig", "-", "--built", "-"]).out, of_file);
    assert_eq!(fed(&folder, "3F, 06", &["decode", "-"]).out, folder.answer("decode 3F 06"));
    assert_eq!(fed(&folder, "3F, 06", &["decode", "--file", "-"]).out, folder.answer("decode 3F 06"));
    let scanned = fed(&folder, "12.34\n", &["scan", "-", "--rig", "gauge.toml"]);
    assert_eq!(scanned.out, folder.answer("scan 12.34 --rig gauge.toml"));
    let glyphs = fed(&folder, "\"~\" = \"a d g\"\n", &["encode", "~", "--plain", "--glyphs", "-"]);
    assert_eq!(glyphs.out, "49\n");
    // A minus alone is written by its segment.
    assert_eq!(folder.answer("encode {g} --plain"), "40\n");
    let broken = fed(&folder, "[face", &["rig", "check", "--rig", "-"]);
    assert_eq!(broken.status, 1);
    assert!(broken.out.contains("standard input:1:"), "{}", broken.out);
    let long = "x".repeat(1024 * 1024 + 1);
    let refused = fed(&folder, &long, &["rig", "check", "--rig", "-"]);
    assert!(refused.err.contains("standard input is larger than 1 MiB"), "{}", refused.err);
    let binary = Run::of(folder.command().args(["show", "-"]).write_stdin(vec![0xFF]).output().unwrap());
    assert_eq!(binary.status, 2);
}

#[test]
fn lines_are_as_wide_as_is_said_and_quiet_says_only_the_answer() {
    let folder = Folder::landing();
    for width in [60, 80, 110] {
        let out = folder.answer(&format!("rig check --explain --rig quay.toml --width {width}"));
        let widest = out.lines().map(|line| line.chars().count()).max().unwrap();
        assert!(widest <= width && widest > width - 20, "{width}: {widest}");
    }
    for refused in ["19", "1001", "wide"] {
        assert_eq!(folder.run(&format!("rig check --rig quay.toml --width {refused}")).status, 2);
    }
    let quiet = folder.run("rig new clock-module --out clock.toml --quiet");
    assert_eq!((quiet.status, quiet.out.as_str(), quiet.err.as_str()), (0, "", ""));
    assert!(folder.read("clock.toml").contains("tm1637"));
    // Warnings and errors are not suppressed.
    assert!(!folder.run("show KNOT --rig gauge.toml --quiet").err.is_empty());
    assert!(!folder.run("show 12345 --rig gauge.toml --quiet").err.is_empty());
}

/// A name with a blank, or with characters that a shell obeys, is completed as one word.
#[test]
fn names_are_quoted_for_bash() {
    let folder = Folder::empty();
    folder.answer("rig new clock-module -c rp2040 --name \"quay clock\" --quiet");
    let names = completed(&folder, &["show", "7", "--face", "qu"]);
    assert!(names.iter().any(|name| name.starts_with("quay\\ clock")), "{names:?}");
    let names = completed(&folder, &["show", "7", "--face", "quay\\ c"]);
    assert!(names.iter().any(|name| name.starts_with("quay\\ clock")), "{names:?}");
}
