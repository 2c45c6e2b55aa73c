use crate::folder::{Folder, Run};

const GAUGE: &str = "--rig landing.toml --face gauge";

#[test]
fn a_fault_is_found_in_the_story() {
    let run = Folder::landing().run(&format!("capture gauge-dark.vcd {GAUGE}"));
    assert_eq!(run.status, 1, "{}", run.err);
    let story = run.out;
    insta::assert_snapshot!(story, @"
            16.5 us  said     display test: off
            33.5 us  said     shutdown: on, the display is dark
            50.5 us  said     decode mode: none, data bits are segments
            67.5 us  said     scan limit: digit lines 0-3
            84.5 us  said     intensity: 8, lit 17/32 of the time
           101.5 us  said     digit 3: blank
           118.5 us  said     digit 2: blank
           135.5 us  said     digit 1: blank
           152.5 us  said     digit 0: blank
           169.5 us  said     digit line 4: blank
           186.5 us  said     digit line 5: blank
           203.5 us  said     digit line 6: blank
           220.5 us  said     digit line 7: blank
           237.5 us  odd      a short transfer: 15 bits where 16 are expected; the
                              part takes it for digit line 5: g
           237.5 us  odd      part 0: digit line 5 is beyond the scan limit 3
           254.5 us  said     digit 2: 4, b c f g
           271.5 us  said     digit 1: 0., a b c d e f dp
           288.5 us  said     digit 0: -, g
    2 things were odd; at the end the display shows nothing: the parts are in
        shutdown
    ");
}

#[test]
fn a_sound_recording_ends_with_its_picture() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.answer(&format!("capture gauge.vcd {GAUGE} --final")), @r#"
    at 289.5 us  "-0.4 " at 55 % of its light
             ━━━
            ┃   ┃   ┃   ┃
     ━━━             ━━━
            ┃   ┃       ┃
             ━━━ ●
    "#);
    insta::assert_snapshot!(folder.answer(&format!("capture gauge.vcd {GAUGE} --at 280us")), @r#"
    at 280.0 us  " 0.4 " at 55 % of its light
             ━━━
            ┃   ┃   ┃   ┃
                     ━━━
            ┃   ┃       ┃
             ━━━ ●
    "#);
    let pictures = folder.answer("capture clock.vcd --rig desk.toml --face clock --pictures");
    insta::assert_snapshot!(pictures, @r#"
           105.0 us  said     display off
           215.0 us  said     write, the address counts up
           865.0 us  said     all blank
           975.0 us  said     display on, brightness 4: a pulse of 11/16
          1430.0 us  picture  "07:58" at 79 % of its light
     ━━━     ━━━     ━━━     ━━━
    ┃   ┃       ┃ ● ┃       ┃   ┃
                     ━━━     ━━━
    ┃   ┃       ┃ ●     ┃   ┃   ┃
     ━━━             ━━━     ━━━

          1445.0 us  said     digit 0: 0, a b c d e f; digit 1: 7, a b c; digit 2:
                              5, a c d f g; digit 3: 8, a b c d e f g; colon2 on
    nothing was odd; at the end the display shows "07:58" at 79 % of its light
    "#);
}

#[test]
fn json_is_a_line_for_each_thing() {
    let run = Folder::landing().run(&format!("capture gauge-dark.vcd {GAUGE} --json"));
    assert_eq!(run.status, 1, "{}", run.err);
    let lines = run.out;
    let lines: Vec<serde_json::Value> =
        lines.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let of = |kind: &str| lines.iter().filter(|line| line["kind"] == kind).count();
    assert_eq!((of("said"), of("odd"), of("picture")), (16, 2, 0));
    assert!(lines.is_sorted_by_key(|line| (line["at_us"].as_f64().unwrap() * 1e3) as u64));
}

#[test]
fn whether_a_text_was_shown_is_the_exit_status() {
    let folder = Folder::landing();
    let shown = folder.run(&format!("capture gauge.vcd {GAUGE} --expect -0.4"));
    assert_eq!((shown.status, shown.out.as_str()), (0, "\"-0.4\" was shown from 288.5 us on\n"));
    let desk = "capture desk.csv --rig desk.toml --face desk --expect";
    for (text, status) in [("TEAL 48", 0), ("TEAL 48{berth2}", 0), ("TEAL 48{berth3}", 1), ("TEAL", 1)] {
        assert_eq!(folder.run(&format!("{desk} \"{text}\"")).status, status, "{text}");
    }
    let dark = folder.run(&format!("capture gauge-dark.vcd {GAUGE} --expect -0.4 --json"));
    assert_eq!(dark.status, 1);
    assert!(dark.out.contains("\"shown\": false"), "{}", dark.out);
}

#[test]
fn the_part_and_the_wires_are_told_by_the_traffic_alone() {
    let folder = Folder::landing();
    folder.answer("bytes \"AVOCET BERTH\" --rig desk.toml --face sign --vcd sign.vcd");
    for (file, part, shows) in [
        ("gauge.vcd", "max7219", "-0.4"),
        ("clock.vcd", "tm1637", "07.58"),
        ("desk.csv", "tm1638", "tEAL 48"),
        ("sign.vcd", "ht16k33", ""),
    ] {
        // Names that say nothing, in another order, with a wire that has nothing to do with it.
        let text = folder.read(file);
        let unnamed = if file.ends_with(".vcd") {
            let text = text
                .replace(" clock $end", " D7 $end")
                .replace(" data $end", " D3 $end")
                .replace(" select $end", " D1 $end");
            text.replace("$upscope", "$var wire 1 ~ D0 $end\n$upscope")
                .replace("$dumpvars\n", "$dumpvars\n1~\n")
        } else {
            text
        };
        folder.write("unnamed", unnamed);
        let run = folder.run("capture unnamed --final");
        assert_eq!(run.status, 0, "{}", run.err);
        assert!(run.err.starts_with(&format!("looks like {part}: ")), "{file}: {}", run.err);
        assert!(run.out.contains(shows), "{file}: {}", run.out);
    }
}

#[test]
fn a_scanned_display_is_read_by_the_eye() {
    let folder = Folder::landing();
    folder.answer("scan --rig gauge.toml --vcd scan.vcd --turns 30 -0.48");
    insta::assert_snapshot!(folder.answer("capture scan.vcd --rig gauge.toml"), @r#"
             0.0 us  picture  "-0.48"
    nothing was odd; at the end the display shows "-0.48"
    "#);
}

#[test]
fn registers_and_expanders_are_told_in_words() {
    let folder = Folder::landing();
    for face in ["minutes", "crew"] {
        folder.answer(&format!("bytes 42 --rig quay.toml --face {face} --vcd {face}.vcd"));
    }
    insta::assert_snapshot!(folder.answer("capture minutes.vcd --rig quay.toml --face minutes"), @r#"
            16.5 us  said     all dark
            33.5 us  said     lit: digit 0 b c f g, digit 1 a b d e g
            33.5 us  picture  "42"
    nothing was odd; at the end the display shows "42"
    "#);
    insta::assert_snapshot!(folder.answer("capture crew.vcd --rig quay.toml --face crew"), @r#"
            93.7 us  said     all dark
           188.7 us  said     to 0x20: IODIRA 00000000, all outputs, IODIRB
                              00000000, all outputs
           283.7 us  said     all dark
           378.7 us  said     to 0x21: IODIRA 00000000, all outputs, IODIRB
                              00000000, all outputs
           470.0 us  picture  "42 "
           473.7 us  said     lit: digit 0 b c f g, digit 1 a b d e g
    nothing was odd; at the end the display shows "42 "
    "#);
}

#[test]
fn standard_input_is_read_too() {
    let folder = Folder::landing();
    let run = Run::of(
        folder
            .command()
            .args(["capture", "-", "--part", "tm1637", "--expect", "07.58"])
            .write_stdin(folder.read("clock.vcd"))
            .output()
            .unwrap(),
    );
    assert_eq!((run.status, run.err.as_str()), (0, ""));
}

#[test]
fn wires_by_hand() {
    let folder = Folder::landing();
    let map = "--map strobe=D0,clock=D1,data=D2";
    let answer = folder.answer(&format!("capture desk.csv --rig desk.toml --face desk --final {map}"));
    assert!(answer.contains("\"tEAL 48 \", berth2"), "{answer}");
    insta::assert_snapshot!(folder.complaint("capture desk.csv --rig desk.toml --face desk --map strob=D0"), @"
    error: the face has no line 'strob'
     │
     ╰ help: its lines: clock, data, strobe
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("capture desk.csv --rig desk.toml --face desk --map strobe=D0,strobe=D1"), @"
    error: the line 'strobe' has two wires: D0 and D1
     │
     ╰ help: name one wire for each line
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("capture desk.csv --rig desk.toml --face desk --map strobe=D0,clock=D0"), @"
    error: the wire D0 has two lines: strobe and clock
     │
     ╰ help: name one line for each wire
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("capture desk.csv --rig desk.toml --face desk --map strobe=D9"), @"
    error: the recording has no wire 'D9'
     │
     ╰ help: its wires: D0, D1, D2
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("capture desk.csv --part tm1639"), @"
    error: unknown part 'tm1639'
     │
     ╰ help: the parts: max7219, tm1637, tm1638, ht16k33; for others write a rig:
             --rig FILE
    [status 2]
    ");
}

#[test]
fn recordings_that_are_none() {
    let folder = Folder::landing();
    let sound = folder.read("gauge.vcd");
    let complain = |text: &str| {
        folder.write("bad", text);
        folder.complaint("capture bad --part max7219 --final")
    };
    insta::assert_snapshot!(complain(&sound[..120]), @"
    error: bad: the recording ends before its header does ($enddefinitions)
     │
     ╰ help: a value change dump begins with $ and its declarations; samples are
             rows of columns
    [status 2]
    ");
    insta::assert_snapshot!(complain(&sound.replace("#16500\n", "#16500\n1?\n")), @r#"
    error: bad: byte 529: "?" is not an identifier that the dump declares
     │
     ╰ help: a value change dump begins with $ and its declarations; samples are
             rows of columns
    [status 2]
    "#);
    insta::assert_snapshot!(complain(&sound.replace("#17500\n", "#16000\n")), @"
    error: bad: byte 542: time goes back from 17000 to 16000
     │
     ╰ help: a value change dump begins with $ and its declarations; samples are
             rows of columns
    [status 2]
    ");
    // Changes before the fault are reported.
    folder.write("bad", sound.replace("#100000\n", "#1\n"));
    let run = folder.run("capture bad --part max7219");
    assert_eq!((run.status, run.out.lines().count()), (2, 5), "{}", run.out);
    insta::assert_snapshot!(complain(""), @"
    error: bad: the recording ends before its first row
     │
     ╰ help: a value change dump begins with $ and its declarations; samples are
             rows of columns
    [status 2]
    ");
    insta::assert_snapshot!(complain("# nothing\n1,2,3\n"), @r#"
    error: bad: line 2: "2" is not a level: 0, 1, z or x
     │
     ╰ help: samples are rows of 0 and 1, with a column of times or --rate
    [status 2]
    "#);
    let wires: String = (0..2_000_000).map(|wire| format!("$var wire 1 a{wire} w{wire} $end\n")).collect();
    insta::assert_snapshot!(complain(&wires), @"
    error: bad: more than 65536 wires are declared
     │
     ╰ help: record fewer wires, or write out just the display's
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("capture none.vcd --part max7219"), @"
    error: cannot read none.vcd: No such file or directory (os error 2)
     │
     ╰ help: check the name and the folder
    [status 2]
    ");
    // Mixed line ends and an end in the middle of a change are not a fault.
    folder.write("mixed", sound.replace("#33", "\r\n#33").trim_end_matches(|c: char| c != '#'));
    assert_eq!(folder.run("capture mixed --part max7219 --final").status, 0);
}

/// A rig with one ht16k33 at this address.
fn board_at(address: &str) -> String {
    format!(
        "[face.board]\nkind = \"seven-segment\"\ndigits = 4\n[face.board.drive]\nmethod = \"ht16k33\"\n\
         pins = {{ clock = 1, data = 2 }}\naddresses = [{address}]\n"
    )
}

#[test]
fn what_was_not_understood_is_named_and_is_no_answer() {
    let folder = Folder::landing();
    let sound = folder.read("gauge.vcd");
    let told = |text: &str, options: &str| {
        folder.write("told.vcd", text);
        let run = folder.run(&format!("capture told.vcd {options}"));
        let last: Vec<_> = run.out.lines().skip_while(|line| !line.starts_with("not understood")).collect();
        format!("{}\n[status {}]", last.join("\n"), run.status)
    };
    // Select stands still: everything is clocked in, and nothing is ever taken.
    let stuck = sound.replace("\n0#", "").replace("\n1#", "").replace("$dumpvars", "$dumpvars\n1#");
    insta::assert_snapshot!(told(&stuck, GAUGE), @"
    not understood: no transfer to this face: clock changes 544 times, data changes
        53 times, select never changes
    not understood: 272 bits clocked in and never taken: select did not rise
    nothing was understood; at the end the display shows nothing: the parts are in
        shutdown
    [status 1]
    ");
    // The recording ends in the middle of a word.
    insta::assert_snapshot!(told(&sound[..sound.find("#200000").unwrap()], GAUGE), @"
    not understood: 13 bits clocked in and never taken: select did not rise
    nothing was odd in what was understood; at the end the display shows nothing:
        the parts are in shutdown
    [status 1]
    ");
    // Wires that have nothing to do with it.
    let still = "$var wire 1 ! clock $end $var wire 1 a data $end $var wire 1 b select $end $enddefinitions $end\n#0 0! 0a 1b #9 ";
    insta::assert_snapshot!(told(still, GAUGE), @"
    not understood: none of the lines ever changes: are these the right wires?
    nothing was understood; at the end the display shows nothing: the parts are in
        shutdown
    [status 1]
    ");
    // Clock and data exchanged.
    let swapped = sound
        .replace(" clock $end", " x $end")
        .replace(" data $end", " clock $end")
        .replace(" x $end", " data $end");
    insta::assert_snapshot!(told(&swapped, GAUGE), @"
    not understood: most of it makes no sense: are these the right wires and the
        right part?
    44 things were odd; at the end the display shows nothing: the parts are in
        shutdown
    [status 1]
    ");
    let aside = folder.run(&format!("capture told.vcd {GAUGE}")).err;
    assert!(
        aside.contains("more if clock is data") && aside.contains("--map clock=data,data=clock"),
        "{aside}"
    );
}

#[test]
fn addresses_are_found_given_and_missed() {
    let folder = Folder::landing();
    folder.write("at71.toml", board_at("0x71"));
    folder.write("at70.toml", board_at("0x70"));
    folder.answer("bytes 1234 --rig at71.toml --vcd at71.vcd");
    let missed = folder.run("capture at71.vcd --rig at70.toml");
    assert_eq!(missed.status, 1);
    insta::assert_snapshot!(missed.out, @"
    not understood: no transfer to this face: clock changes 680 times, data changes
        142 times; 7 transfers to 0x71: is the part strapped to another address?
    nothing was understood; at the end the display shows nothing: the parts are in
        standby: the oscillator is stopped
    ");
    let found = folder.run("capture at71.vcd --final");
    assert!(found.err.contains("spoken to: 0x71"), "{}", found.err);
    assert!(found.out.contains("\"1234"), "{}", found.out);
    for (options, status) in
        [("", 0), ("--address 0x71", 0), ("--address 0x70,0x71", 0), ("--address 0x72", 1)]
    {
        let run = folder.run(&format!("capture at71.vcd --part ht16k33 {options}"));
        assert_eq!(run.status, status, "{options}: {}", run.out);
    }
    insta::assert_snapshot!(folder.complaint("capture at71.vcd --part ht16k33 --address 0x20"), @"
    error: the ht16k33 has no such address
     │
     ╰ help: its addresses: 0x70 to 0x77
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("capture at71.vcd --address 0x71"), @"
    error: an address needs the part that has it
     │
     ╰ help: name the part: --part ht16k33
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("capture clock.vcd --part tm1637 --address 0x71"), @"
    error: the tm1637 has no address
     │
     ╰ help: leave --address out
    [status 2]
    ");
    let end = folder.run("capture at71.vcd --rig at70.toml --json").out;
    let end: serde_json::Value = serde_json::from_str(end.lines().last().unwrap()).unwrap();
    assert_eq!((&end["kind"], &end["other_addresses"][0]["address"]), (&"end".into(), &"0x71".into()));
}

#[test]
fn what_fits_no_part_is_called_none() {
    let folder = Folder::landing();
    folder.answer("bytes 42 --rig quay.toml --face minutes --vcd minutes.vcd");
    let none = folder.run("capture minutes.vcd");
    assert_eq!(none.status, 2);
    assert!(none.err.starts_with("error: no part with known traffic fits"), "{}", none.err);
}

#[test]
fn samples_with_a_byte_order_mark_and_bad_cells() {
    let folder = Folder::landing();
    let sound = folder.read("desk.csv");
    folder.write("marked.csv", format!("\u{feff}{sound}"));
    assert_eq!(
        folder.answer("capture marked.csv --part tm1638"),
        folder.answer("capture desk.csv --part tm1638")
    );
    folder.write("bad.csv", "time,D0,D1\n0,1,1\n1e-6,1,maybe\n");
    insta::assert_snapshot!(folder.complaint("capture bad.csv --part tm1637"), @r#"
    error: bad.csv: line 3: "maybe" is not a level: 0, 1, z or x
     │
     ╰ help: samples are rows of 0 and 1, with a column of times or --rate
    [status 2]
    "#);
}

/// Recorders count from a trigger: the times before it are below zero.
#[test]
fn times_below_zero_are_those_of_the_file() {
    let folder = Folder::landing();
    let sound = folder.read("desk.csv");
    let from_trigger = |row: &str| match row.split_once(',') {
        Some((time, levels)) if time.parse::<i64>().is_ok() => {
            format!("{},{levels}\n", time.parse::<i64>().unwrap() - 1000)
        }
        _ => format!("{row}\n"),
    };
    folder.write("trigger.csv", sound.lines().map(from_trigger).collect::<String>());
    let told = |line: &str| {
        let answer = folder.answer(&format!("capture {line} --part tm1638 --json"));
        let lines = answer.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
        lines.collect::<Vec<_>>()
    };
    for (sound, moved) in told("desk.csv").iter().zip(told("trigger.csv")) {
        let (before, after) = (sound["at_us"].as_f64().unwrap(), moved["at_us"].as_f64().unwrap());
        assert_eq!((before - 1000.0, &sound["kind"]), (after, &moved["kind"]), "{moved}");
    }
    let seen =
        |at: &str| folder.json(&format!("capture trigger.csv --part tm1638 --at={at}"))["reads"].clone();
    assert_eq!([seen("-900us"), seen("-0.4ms"), seen("1us")], ["        ", "tEAL 48 ", "tEAL 48 "]);
    insta::assert_snapshot!(folder.complaint("capture trigger.csv --part tm1638 --at=-2ms"), @"
    by what makes most sense: strobe is D0, clock is D1, data is D2
    error: the recording begins after the time of --at
     │
     ╰ help: write a time from -1000 us on
    [status 2]
    ");
}

/// Who draws a 9 without its tail reads it as one.
#[test]
fn own_characters_go_before_those_that_look_the_same() {
    let folder = Folder::landing();
    let rig = folder.read("quay.toml");
    folder.write("own.toml", format!("{rig}\n[face.minutes.glyphs]\n\"9\" = \"a b c f g\"\n"));
    folder.answer("bytes 9 --rig own.toml --face minutes --vcd nine.vcd");
    let own = "capture nine.vcd --rig own.toml --face minutes";
    let usual = "capture nine.vcd --rig quay.toml --face minutes";
    assert!(folder.answer(own).contains("shows \"9 \""), "{}", folder.answer(own));
    assert!(folder.answer(usual).contains("shows \"Q \""), "{}", folder.answer(usual));
}

/// An unused point need not be recorded.
#[test]
fn a_point_that_is_not_recorded_is_dark() {
    let folder = Folder::landing();
    folder.answer("scan 48.75 --rig gauge.toml --vcd all.vcd --turns 3");
    let is_point = |line: &str| matches!(line, "0(" | "1(") || line.ends_with(" ( dp $end");
    let all = folder.read("all.vcd");
    let without: Vec<_> = all.lines().filter(|line| !is_point(line)).collect();
    assert!(all.contains("1(\n") && without.len() < all.lines().count());
    folder.write("seven.vcd", without.join("\n"));
    let seen = |file: &str| folder.json(&format!("capture {file} --rig gauge.toml --final"))["reads"].clone();
    assert_eq!((seen("all.vcd"), seen("seven.vcd")), ("48.75".into(), "4875".into()));
}

/// A scan that is slower than the rig says is odd, and still seen whole.
#[test]
fn a_scan_slower_than_the_rigs() {
    let folder = Folder::landing();
    let slower = folder.read("gauge.toml").replace("refresh_hz = 120", "refresh_hz = 50");
    folder.write("slower.toml", slower);
    folder.answer("scan 48.75 --rig slower.toml --vcd slow.vcd --turns 9");
    insta::assert_snapshot!(folder.run("capture slow.vcd --rig gauge.toml").out, @r#"
             0.0 us  odd      a turn of the scan takes 20 ms; by the rig it is 8.33
                              ms: its refresh_hz is another one
             0.0 us  picture  "48.75"
    1 thing was odd; at the end the display shows "48.75"
    "#);
    assert_eq!(folder.run("capture slow.vcd --rig gauge.toml").status, 1);
    assert_eq!(folder.run("capture slow.vcd --rig slower.toml").status, 0);
}

/// The first levels of a recording are not edges.
#[test]
fn a_recording_of_a_colour_panel() {
    let folder = Folder::landing();
    folder.answer("scan TEAL --rig departures.toml --vcd panel.vcd --turns 3");
    let shown = folder.json("show TEAL --rig departures.toml")["dots"].clone();
    assert_eq!(folder.json("capture panel.vcd --rig departures.toml --final")["dots"], shown);
    let run = folder.run("capture panel.vcd --rig departures.toml");
    assert_eq!(run.status, 0, "{}", run.out);
}

/// A dump without first levels begins with a change: here the data line falls, which starts a transfer.
#[test]
fn the_first_change_of_a_dump_without_first_levels_is_an_edge() {
    let folder = Folder::landing();
    let rig = "[controller]\npart = \"rp2040\"\n[face.sign]\nkind = \"seven-segment\"\ndigits = 4\n[face.sign.drive]\n\
               method = \"ht16k33\"\npins = { data = \"GP4\", clock = \"GP5\" }\n";
    folder.write("sign.toml", rig);
    folder.answer("bytes 1234 --rig sign.toml --vcd whole.vcd");
    let whole = folder.read("whole.vcd");
    let (head, rest) = whole.split_once("#0\n$dumpvars\n").unwrap();
    let (_, changes) = rest.split_once("$end\n").unwrap();
    folder.write("changes.vcd", format!("{head}#0\n{changes}"));
    let told = |file: &str| folder.run(&format!("capture {file} --rig sign.toml")).out;
    assert!(told("whole.vcd").contains("1234"));
    assert_eq!(told("changes.vcd"), told("whole.vcd"));
}
