use crate::folder::Folder;

#[test]
fn the_plan_and_what_the_eye_gets() {
    insta::assert_snapshot!(Folder::landing().answer("scan --rig gauge.toml -0.4"), @"
    gauge: 4 seven-segment digits, 12 controller pins, 4 selects scanned through npn
        switches, common cathode

    the scan
    a turn    8.33 ms  120 of them a second
    slots     4        of 2.08 ms each
    blanking  30 us    1.4 % of the time
    on-time   2.05 ms  a duty of 24.6 %
    writes    960 /s   busy 0.1 % of the time

    the eye, of  light   flashes  percent  flicker  longest dark  ghosts
    -0.4                          flicker  index
    digit 0      24.6 %  120 /s   100      0.75     6.28 ms       none
    digit 1      24.6 %  120 /s   100      0.75     6.28 ms       none
    digit 2      24.6 %  120 /s   100      0.75     6.28 ms       none
    digit 3      dark                                             none

    other ways        pins  and
    static            32
    scanned, as here  12
    latched           10    2 74hc573
    shifted           3     2 74hc595
    expander          2     2 mcp23017
    max7219           3     1 max7219
    tm1638            3     1 tm1638
    ht16k33           2     1 ht16k33

    warning: 120 Hz beats with a camera of 50 frames a second: in its pictures the
             display pulses 20 times a second
     │
     ╰ help: if it is to be filmed, take a multiple of both 50 and 60: 300 or 600
    ");
}

#[test]
fn what_blocking_does() {
    let answer = Folder::landing().answer("scan --rig gauge.toml --stall \"40ms every 1s\"");
    let (_, stall) = answer.split_once("blocked for").unwrap();
    insta::assert_snapshot!(stall, @"
     40 ms  mean light  longest lit  longest dark
    every 1 s
    digit 0            96 %        2.05 ms      46.3 ms       seen to go dark
    digit 1            96 %        2.05 ms      46.3 ms       seen to go dark
    digit 2            96 %        2.05 ms      46.3 ms       seen to go dark
    digit 3            112 %       42.1 ms      6.28 ms       burns at its peak
    mean light: over 1 s, as a share of what it is without blocking

    warning: the scan stands still while the program blocks
     │
     ╰ help: do the scan in a timer interrupt every 2.08 ms, or cut the work into
             pieces shorter than that, or put a part between that scans by itself
             (max7219) or holds (74hc573, 74hc595)
    ");
    let once = Folder::landing().json("scan --rig gauge.toml --stall-for 200ms");
    let digits = once["stall"]["digits"].as_array().unwrap();
    let burns: Vec<_> = digits.iter().map(|digit| digit["burns"].as_bool().unwrap()).collect();
    assert_eq!(burns, [false, false, false, true]);
    let dark = digits[0]["longest_dark_us"].as_f64().unwrap();
    assert!((200_000.0..210_000.0).contains(&dark), "{dark}");
}

#[test]
fn a_face_without_a_scan_is_told_its_ways() {
    insta::assert_snapshot!(Folder::landing().answer("scan --rig landing.toml --face desk"), @"
    desk: 8 seven-segment digits, 1 max7219, clock 1 MHz

    The controller does not scan this face: it sets the lights, and they stay.

    other ways        pins  and
    static            64
    scanned           16
    latched           10    2 74hc573
    shifted           3     2 74hc595
    expander          2     4 mcp23017
    max7219, as here  3     1 max7219
    tm1638            3     1 tm1638
    ht16k33           2     1 ht16k33
    ");
    insta::assert_snapshot!(Folder::landing().complaint("scan --rig landing.toml --face desk --json --vcd x.vcd").lines().count(), @"5");
}

#[test]
fn json_has_the_plan_the_eye_and_the_warnings() {
    let json = Folder::landing().json("scan --rig gauge.toml 8.8.8.8.");
    assert_eq!(json["scan"]["writes_a_second"], 960);
    assert_eq!(json["eye"][3]["flashes_hz"].as_f64().unwrap().round(), 120.0);
    let light = json["eye"][0]["light"].as_f64().unwrap();
    assert!((light - json["scan"]["duty"].as_f64().unwrap()).abs() < 1e-4);
    assert_eq!(json["ways"].as_array().unwrap().len(), 8);
    assert_eq!(json["warnings"].as_array().unwrap().len(), 1);
}

#[test]
fn a_slow_switch_without_blanking_is_warned_of_and_seen() {
    let folder = Folder::landing();
    let slow = folder.read("gauge.toml").replace("\"npn\" ", "{ kind = \"npn\", turn_off = \"9us\" } ");
    folder.write("slow.toml", slow.replace("30us", "0us"));
    let json = folder.json("scan --rig slow.toml \"1 8 \"");
    let ghosts: Vec<_> =
        json["eye"].as_array().unwrap().iter().map(|seen| seen["ghost"].as_f64().unwrap()).collect();
    assert!(ghosts[0] == 0.0 && ghosts[1] > 0.003 && ghosts[1] < 0.006, "{ghosts:?}");
    let warnings = json["warnings"].to_string();
    assert!(warnings.contains("ghost") && warnings.contains("9 us"), "{warnings}");
}

#[test]
fn the_files_are_whole() {
    let folder = Folder::landing();
    folder
        .answer("scan --rig gauge.toml --png a.png --svg a.svg --vcd a.vcd --turns 2 --gif a.gif --slow 4x");
    let read = |name: &str| std::fs::read(folder.path(name)).unwrap();
    assert_eq!(&read("a.png")[..4], b"\x89PNG");
    assert_eq!(&read("a.gif")[..6], b"GIF89a");
    let svg = folder.read("a.svg");
    assert!(svg.starts_with("<svg") && svg.ends_with("</svg>\n") && !svg.contains("NaN"));
    let dump = folder.read("a.vcd");
    assert_eq!(dump.matches("$var wire 1").count(), 12);
    assert!(dump.contains("digit_0") && dump.trim_end().ends_with("#16666666"), "{dump}");
}

#[test]
fn slow_motion_off_a_terminal_is_one_turn() {
    let answer = Folder::landing().answer("scan --rig gauge.toml --slow 200x 1234");
    assert_eq!(answer.matches("200 times slower").count(), 4, "a moment a digit: {answer}");
    let json = Folder::landing().answer("scan --rig gauge.toml --slow 200x 1234 --json");
    let digits = |bits: &serde_json::Value| -> String {
        (0..4).filter(|digit| bits[format!("digit {digit}")] == true).map(|digit| digit.to_string()).collect()
    };
    let selected: Vec<_> = json
        .lines()
        .map(|line| digits(&serde_json::from_str::<serde_json::Value>(line).unwrap()["bits"]))
        .filter(|digits| !digits.is_empty())
        .collect();
    assert_eq!(selected, ["0", "1", "2", "3"]);
}

#[test]
fn options_without_sense() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.complaint("scan --rig gauge.toml --stall 40ms"), @r#"
    error: invalid value '40ms' for '--stall <STALL>': '40ms' does not say how long and how often; write it as "40ms every 1s"

    For more information, try '--help'.
    [status 2]
    "#);
    insta::assert_snapshot!(folder.complaint("scan --rig gauge.toml --slow 0"), @"
    error: invalid value '0' for '--slow <TIMES>': write how many times slower, from 1x to 100000x, such as 200x

    For more information, try '--help'.
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("scan --rig beacon.toml 123"), @"
    error: face beacon cannot show this: the text takes 15 columns in the font
           board; there are 8
     │
     ╰ help: shorten it, take a smaller font, or say --fit cut, ellipsis or wrap;
             or let it move: spare-tile play text
    [status 2]
    ");
}

/// The plan is of the rig, what the eye gets of what was built.
#[test]
fn the_eye_looks_at_what_was_built() {
    let folder = Folder::landing();
    folder.write("slow.toml", "[face.gauge.drive]\ndigit_switch = { kind = \"npn\", turn_off = \"90us\" }\n");
    let ghosts = |more: &str| {
        let json = folder.json(&format!("scan --rig gauge.toml 1888{more}"));
        let eye = json["eye"].as_array().unwrap().clone();
        (json["scan"].clone(), eye.iter().map(|digit| digit["ghost"].as_f64().unwrap()).fold(0.0, f64::max))
    };
    let (plan, none) = ghosts("");
    let (same, some) = ghosts(" --built slow.toml");
    assert_eq!(plan, same);
    // 60 us of the 90 fall after the blanking of 30, into the slot of the next digit.
    assert!(none == 0.0 && (0.02..0.04).contains(&some), "{none} {some}");
}

/// Texts and pictures are scanned too.
#[test]
fn what_is_shown_on_dots() {
    let folder = Folder::landing();
    let seen = |line: &str| {
        let scan = folder.json(&format!("scan {line} --rig beacon.toml"));
        let lit =
            scan["eye"].as_array().unwrap().iter().map(|select| select["light"].as_f64().unwrap() > 0.0);
        (scan["shows"].clone(), lit.collect::<Vec<_>>())
    };
    folder.write(
        "foot.dots",
        "dots 8x8\nframe\n........\n........\n........\n........\n........\n........\n........\n#######.\n",
    );
    let (shows, foot) = seen("--sprite foot.dots");
    assert_eq!(shows, "foot.dots");
    let (shows, letter) = seen("I --font board");
    assert_eq!(shows, "I");
    assert_ne!(foot, letter);
    assert_ne!(foot, seen("").1);
}
