use crate::folder::Folder;

#[test]
fn a_usable_rig_with_a_warning() {
    insta::assert_snapshot!(Folder::landing().answer("rig check --rig landing.toml"), @"
    warning: the bus is at 3.3 V; at this supply the max7219 needs 3.5 V for a
             reliable high
       ╭▸ landing.toml:25:1
       │
    25 │ [face.gauge.drive]
       │ ━━━━━━━━━━━━━━━━━━
       │
       ╰ help: put a level converter in between and write bus_volts = 5.0; without
               one it may seem to work, and glitch

    desk: 8 seven-segment digits, 1 max7219, clock 1 MHz
        clock GP18, data GP19, select GP17
    gauge: 4 seven-segment digits, 1 max7219, clock 1 MHz
        clock GP10, data GP11, select GP9
    landing.toml: usable, with 1 warning
    ");
}

#[test]
fn a_sound_rig_in_json() {
    let json = Folder::landing().json("rig check --rig landing.toml");
    insta::assert_snapshot!(serde_json::to_string_pretty(&json).unwrap(), @r#"
    {
      "faces": [
        {
          "common": "cathode",
          "digits": 8,
          "drive": "1 max7219, clock 1 MHz",
          "kind": "8 seven-segment digits",
          "method": "max7219",
          "name": "desk",
          "pins": [
            {
              "pin": "GP18",
              "role": "clock"
            },
            {
              "pin": "GP19",
              "role": "data"
            },
            {
              "pin": "GP17",
              "role": "select"
            }
          ],
          "style": "seven"
        },
        {
          "common": "cathode",
          "digits": 4,
          "drive": "1 max7219, clock 1 MHz",
          "kind": "4 seven-segment digits",
          "method": "max7219",
          "name": "gauge",
          "pins": [
            {
              "pin": "GP10",
              "role": "clock"
            },
            {
              "pin": "GP11",
              "role": "data"
            },
            {
              "pin": "GP9",
              "role": "select"
            }
          ],
          "style": "seven"
        }
      ],
      "findings": [
        {
          "column": 1,
          "fix": "put a level converter in between and write bus_volts = 5.0; without one it may seem to work, and glitch",
          "line": 25,
          "message": "the bus is at 3.3 V; at this supply the max7219 needs 3.5 V for a reliable high",
          "severity": "warning"
        }
      ],
      "rig": "Quillmoor landing",
      "sound": true
    }
    "#);
}

#[test]
fn what_was_assumed_is_explained() {
    insta::assert_snapshot!(Folder::landing().answer("rig check --rig landing.toml --explain"), @r#"
    warning: the bus is at 3.3 V; at this supply the max7219 needs 3.5 V for a
             reliable high
       ╭▸ landing.toml:25:1
       │
    25 │ [face.gauge.drive]
       │ ━━━━━━━━━━━━━━━━━━
       │
       ╰ help: put a level converter in between and write bus_volts = 5.0; without
               one it may seem to work, and glitch

    where the file leaves it open
        assumed controller.logic_volts = 3.3
        assumed face.desk.common = "cathode"
        assumed face.desk.drive.rset_ohms = 10000
        assumed face.desk.drive.digit_0 = "right"
        assumed face.desk.drive.first = "right"
        assumed face.desk.drive.segments = "dp a b c d e f g"
        assumed face.desk.drive.decode = "none"
        assumed face.gauge.common = "cathode"
        assumed face.gauge.drive.clock_hz = 1000000
        assumed face.gauge.drive.bus_volts = 3.3
        assumed face.gauge.drive.brightness = 8
        assumed face.gauge.drive.rset_ohms = 10000
        assumed face.gauge.drive.digit_0 = "right"
        assumed face.gauge.drive.first = "right"
        assumed face.gauge.drive.segments = "dp a b c d e f g"
        assumed face.gauge.drive.decode = "none"

    desk: 8 seven-segment digits, 1 max7219, clock 1 MHz
        clock GP18, data GP19, select GP17
    gauge: 4 seven-segment digits, 1 max7219, clock 1 MHz
        clock GP10, data GP11, select GP9
    landing.toml: usable, with 1 warning
    "#);
}

#[test]
fn a_broken_rig_is_answered_with_no() {
    let folder = Folder::empty();
    folder.write(
        "rig.toml",
        r#"[face.desk]
kind = "seven-segment"
digits = 65
[face.desk.drive]
method = "max7219"

[face.gauge]
kind = "seven-segment"
digitz = 4
digits = 4
[face.gauge.drive]
method = "max7219"
pins = { data = "GP9", clock = "GP10", select = "GP9" }
"#,
    );
    let run = folder.run("rig check");
    assert_eq!(run.status, 1);
    assert_eq!(run.err, "");
    insta::assert_snapshot!(run.out, @r#"
    error: found 65; expected a whole number from 1 to 64
      ╭▸ rig.toml:3:10
      │
    3 │ digits = 65
      ╰╴         ━━

    error: unknown key 'digitz'
      ╭▸ rig.toml:9:1
      │
    9 │ digitz = 4
      │ ━━━━━━
      │
      ╰ help: did you mean 'digits'? keys here: kind, digits, width, height,
              pitch_mm, colours, common, package, module, light, colons, lamps,
              buttons, glyphs, drive

    error: pin GP9 is used twice: it is data of face gauge and select of face gauge
       ╭▸ rig.toml:13:49
       │
    13 │ pins = { data = "GP9", clock = "GP10", select = "GP9" }
       │                 ┬────                           ━━━━━
       │                 │
       │                 here it is data of face gauge
       │
       ╰ help: give each line a pin of its own

    rig.toml: not sound: 3 errors
    "#);
    insta::assert_snapshot!(folder.run("rig check --ascii").out.lines().next().unwrap(), @"error: found 65; expected a whole number from 1 to 64");
    assert_eq!(folder.run("rig check --json").status, 1);
    assert_eq!(folder.run("show 2 --face gauge").status, 2, "other commands cannot use it");
}

/// Puts a value into a table at its path; a switch that was a word becomes a table of that kind.
fn put(into: &mut toml::Table, from: toml::Table) {
    for (key, value) in from {
        match (into.get_mut(&key), value) {
            (Some(toml::Value::Table(inner)), toml::Value::Table(value)) => put(inner, value),
            (Some(word @ toml::Value::String(_)), toml::Value::Table(value)) => {
                let kind = std::mem::replace(word, toml::Value::Table(toml::Table::new()));
                let inner = word.as_table_mut().unwrap();
                inner.insert("kind".to_owned(), kind);
                put(inner, value);
            }
            (None, value) => {
                into.insert(key, value);
            }
            (Some(found), value) => panic!("{key} is {found}, and assumed to be {value}"),
        }
    }
}

/// All assumptions are listed, and they are true: written into the rig they change nothing, and nothing is left
/// to be assumed.
#[test]
fn what_was_assumed_can_be_written_into_the_rig() {
    const DOTS: &str = "[face.board]\nkind = \"dots\"\nwidth = 32\nheight = 8\n[face.board.drive]\nmethod = \"max7219\"\n\
                        pins = { data = 1, clock = 2, select = 3 }\n";
    const LETTERS: &str = "[face.sign]\nkind = \"fourteen-segment\"\ndigits = 4\n[face.sign.drive]\nmethod = \"ht16k33\"\n\
                           pins = { data = 1, clock = 2 }\n";
    const BARE: &str = "[face.gauge]\nkind = \"seven-segment\"\ndigits = 2\ncommon = \"anode\"\n[face.gauge.drive]\n\
                        method = \"shifted\"\npins = { data = 1, clock = 2, latch = 3 }\nresistor = { ohms = 470 }\n";
    let folder = Folder::landing();
    folder.write("dots.toml", DOTS);
    folder.write("letters.toml", LETTERS);
    folder.write("bare.toml", BARE);
    let rigs = ["landing", "berth", "sign", "gauge", "quay", "beacon", "desk", "dots", "letters", "bare"];
    for rig in rigs {
        let answer: serde_json::Value =
            serde_json::from_str(&folder.answer(&format!("rig check --explain --json -r {rig}.toml")))
                .unwrap();
        let mut whole: toml::Table = folder.read(&format!("{rig}.toml")).parse().unwrap();
        let mut assumed = 0;
        for finding in answer["findings"].as_array().unwrap() {
            if let Some(line) = finding["message"].as_str().unwrap().strip_prefix("assumed ") {
                put(&mut whole, line.parse().unwrap());
                assumed += 1;
            }
        }
        assert!(assumed > 2, "{rig}: {assumed}");
        folder.write("whole.toml", toml::to_string(&whole).unwrap());
        let explained = folder.answer("rig check --explain -r whole.toml");
        assert!(!explained.contains("assumed"), "{rig}: {explained}");
        let budget = |rig: &str| -> serde_json::Value {
            let answer = folder.answer(&format!("rig check --electrical --json -r {rig}.toml"));
            // The faces of the written file come in the order of their names.
            let mut faces =
                serde_json::from_str::<serde_json::Value>(&answer).unwrap()["electrical"]["faces"].take();
            faces.as_array_mut().unwrap().sort_by_key(|face| face["face"].to_string());
            faces
        };
        assert_eq!(budget(rig), budget("whole"), "{rig}");
        for face in answer["faces"].as_array().unwrap() {
            let name = face["name"].as_str().unwrap();
            for command in ["rig wires", "show 8", "bytes 8"] {
                let of = |rig: &str| folder.run(&format!("{command} --face {name} -r {rig}.toml"));
                let (written, whole) = (of(rig), of("whole"));
                assert_eq!(written.out, whole.out, "{rig}, {name}: {command}");
                assert_eq!(written.status, whole.status, "{rig}, {name}: {command}");
            }
        }
    }
}
