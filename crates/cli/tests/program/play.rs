use crate::folder::Folder;

#[test]
fn off_a_terminal_the_frames_come_one_after_another() {
    let folder = Folder::landing();
    insta::assert_snapshot!(
        folder.answer("play count --rig berth.toml --from 2 --to 0 --every 1s --hold 3s --ascii"), @"
    0.000 s  berth
     ---
        |
     ---
    |
     ---
    1.000 s  berth

        |

        |

    2.000 s  berth
     ---
    |   |

    |   |
     ---
    ");
}

#[test]
fn json_lines_say_when_and_what_is_read() {
    let folder = Folder::landing();
    let answer = folder.answer(
        "play count --rig landing.toml --face desk --from -1 --to 1 --every 250ms --again --for 1s --json",
    );
    let frames: Vec<serde_json::Value> =
        answer.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let told: Vec<_> =
        frames.iter().map(|frame| format!("{} {}", frame["t_us"], frame["picture"]["reads"])).collect();
    assert_eq!(
        told,
        ["0.0 \"      -1\"", "250000.0 \"       0\"", "500000.0 \"       1\"", "750000.0 \"      -1\""]
    );
}

#[test]
fn the_count_takes_the_form_of_any_number() {
    let folder = Folder::landing();
    let play = "play count --rig landing.toml --face desk --from 999 --to 1000 --every 1s --json";
    let reads = |form: &str| {
        let answer = folder.answer(&format!("{play} {form}"));
        let frame: serde_json::Value = serde_json::from_str(answer.lines().last().unwrap()).unwrap();
        frame["picture"]["reads"].clone()
    };
    assert_eq!(reads("--zeros"), "00001000");
    assert_eq!(reads("--thousands"), "    1.000");
    assert_eq!(reads("--most 999 --over HI"), "      HI");
}

#[test]
fn a_text_that_has_passed_leaves_the_face_dark() {
    let folder = Folder::landing();
    let last = |line: &str| {
        let answer = folder.answer(line);
        let frame: serde_json::Value = serde_json::from_str(answer.lines().last().unwrap()).unwrap();
        format!("{} {}", frame["t_us"], frame["picture"]["reads"])
    };
    let play = "play text HI --rig landing.toml --face desk --every 100ms";
    assert_eq!(last(&format!("{play} --json")), "1000000.0 \"        \"");
    // With `--for` it stops before its end.
    assert_eq!(last(&format!("{play} --for 1s --json")), "900000.0 \"I       \"");
    folder.answer(&format!("{play} --ops=hi.ops --quiet"));
    assert_eq!(last("play hi.ops --rig landing.toml --json"), "1000000.0 \"        \"");
}

#[test]
fn an_hour_takes_no_time() {
    let folder = Folder::landing();
    let answer =
        folder.answer("play count --rig landing.toml --face gauge --from 0 --to 3600 --for 1h --json");
    assert_eq!(answer.lines().count(), 3600);
}

#[test]
fn what_cannot_be_played() {
    let folder = Folder::landing();
    let play = |line: &str| folder.complaint(&format!("play count --rig berth.toml {line}"));
    insta::assert_snapshot!(play("--from 9 --to 10"), @"
    error: this cannot be counted on face berth: 10 takes 2 digits; there are 1
     │
     ╰ help: count between shorter numbers, or pick a wider face
    [status 2]
    ");
    insta::assert_snapshot!(play("--to 9 --again"), @"
    error: this plays forever, and the output is not a terminal
     │
     ╰ help: say how long: --for 15s
    [status 2]
    ");
    insta::assert_snapshot!(play("--to 9 --every 0s"), @"
    error: invalid value '0s' for '--every <TIME>': write a time of 1us or more, such as 1s

    For more information, try '--help'.
    [status 2]
    ");
    insta::assert_snapshot!(play("--to 9 --every 5"), @"
    error: invalid value '5' for '--every <TIME>': '5' is not a duration; write a number and a unit: 30us, 250ms, 1.5s, 2m or 1h

    For more information, try '--help'.
    [status 2]
    ");
    insta::assert_snapshot!(play("--to 9 --step 0"), @"
    error: this cannot be counted on face berth: a step of 0 has no effect
     │
     ╰ help: give a step such as 1, 0.5 or -1
    [status 2]
    ");
}

#[test]
fn the_test_shows_each_light_and_what_goes_over_the_lines() {
    let folder = Folder::landing();
    let frames = folder.answer("play test --rig berth.toml --json");
    // Eight lights alone, eight going out, ten digits, all on.
    assert_eq!(frames.lines().count(), 8 + 8 + 10 + 1);
    // The eye sees a frame's own turn of a scan: never what was lit before it.
    let scanned = folder.answer("play test --rig gauge.toml --json");
    for (place, line) in scanned.lines().take(32).enumerate() {
        let frame: serde_json::Value = serde_json::from_str(line).unwrap();
        let segment = ["a", "b", "c", "d", "e", "f", "g", "dp"][place % 8];
        for digit in 0..4 {
            let lit = if digit == place / 8 { serde_json::json!([segment]) } else { serde_json::json!([]) };
            assert_eq!(frame["picture"]["digits"][digit]["lit"], lit, "frame {place}: {line}");
        }
    }
    let ops = folder.answer("play test --rig berth.toml --ops");
    insta::assert_snapshot!(ops.lines().take(4).collect::<Vec<_>>().join("\n"), @"
    0.000000 s  power-up  FF FF  all dark
    0.000002 s  frame     FF FB  lit: a
    0.250002 s  frame     FF F7  lit: b
    0.500002 s  frame     FF EF  lit: c
    ");
    let scanned = folder.answer("play test --rig gauge.toml --ops --for 250ms");
    insta::assert_snapshot!(scanned.lines().take(5).collect::<Vec<_>>().join("\n"), @"
    0.000000 s  power-up  00 00  all dark
    0.000001 s  blank     00 00  all dark
    0.000031 s  frame     01 01  digit 0: a
    0.002084 s  blank     00 00  all dark
    0.002114 s  frame     00 02  digit 1: blank
    ");
}

/// Described as one rig says, built as another: what plays is what the hardware would show.
#[test]
fn a_reel_plays_on_hardware_that_is_wired_otherwise() {
    let folder = Folder::landing();
    folder.write("left.toml", "[face.gauge.drive]\ndigit_0 = \"left\"\n");
    let reading =
        |line: &str| serde_json::from_str::<serde_json::Value>(line).unwrap()["picture"]["reads"].clone();
    let play = "play count --rig landing.toml --face gauge --from 1230 --to 1231 --json";
    let frames =
        |more: &str| folder.answer(&format!("{play}{more}")).lines().map(reading).collect::<Vec<_>>();
    assert_eq!(frames(""), ["1230", "1231"]);
    assert_eq!(frames(" --built left.toml"), ["0321", "1321"]);
}

#[test]
fn nobody_waits_for_more_than_a_day() {
    let folder = Folder::landing();
    let run = folder.run("play count --rig berth.toml --from 0 --to 2 --for 25h");
    assert_eq!(run.status, 2);
    assert!(run.err.contains("25h is more than a day; write 24h or less"), "{}", run.err);
    folder.answer("play count --rig berth.toml --from 0 --to 2 --for 24h");
    let run = folder.run("play count --rig berth.toml --most 8 --to 18446744073709551615");
    assert!(
        run.err.contains("this plays for more than a day, and the output is not a terminal"),
        "{}",
        run.err
    );
}

/// The operations of a picture are those that `--ops` lists.
#[test]
fn each_picture_comes_with_what_was_sent_for_it() {
    let folder = Folder::landing();
    let lines = |line: &str| -> Vec<serde_json::Value> {
        folder.answer(line).lines().map(|line| serde_json::from_str(line).unwrap()).collect()
    };
    let play = "play morning.reel.toml --rig desk.toml --for 2s --json";
    let (frames, listed) = (lines(play), lines(&format!("{play} --ops")));
    for face in ["desk", "clock", "sign"] {
        let of_face = |all: &[serde_json::Value]| -> Vec<_> {
            all.iter().filter(|line| line["face"] == face).cloned().collect()
        };
        let with_pictures: Vec<_> =
            of_face(&frames).iter().flat_map(|frame| frame["ops"].as_array().unwrap().clone()).collect();
        let told = |op: &serde_json::Value| (op["role"].clone(), op["bytes"].clone(), op["note"].clone());
        let of_list = of_face(&listed);
        // Lights that do not change come with the next picture, and there is none.
        let all: Vec<_> = of_list.iter().filter(|op| op["role"] != "buttons").map(told).collect();
        let seen: Vec<_> = with_pictures.iter().map(told).collect();
        assert!(seen.len() > 4 && all.starts_with(&seen), "{face}: {} of {}", seen.len(), all.len());
    }
    // To a face that the controller scans something is sent all the time.
    let scanned = lines("play count --to 3 --every 100ms --rig gauge.toml --json");
    assert!(scanned.len() == 4 && scanned.iter().all(|frame| frame["ops"].as_array().unwrap().is_empty()));
}

#[test]
fn stills_are_what_is_seen_at_their_moments() {
    let folder = Folder::landing();
    let play = "play count --rig landing.toml --face gauge --every 1s";
    let stills = folder.answer(&format!("{play} --stills 2.5s,0s,7s --json"));
    let told: Vec<String> = stills
        .lines()
        .map(|line| {
            let still: serde_json::Value = serde_json::from_str(line).unwrap();
            format!("{} {}", still["t_us"], still["picture"]["reads"])
        })
        .collect();
    assert_eq!(told, ["0.0 \"   0\"", "2500000.0 \"   2\"", "7000000.0 \"   7\""]);
}

/// At a speed that is named, pictures come no earlier than their time.
#[test]
fn a_speed_is_kept_off_a_terminal_too() {
    let folder = Folder::landing();
    let play = "play count --rig landing.toml --face gauge --to 2 --every 500ms";
    let began = std::time::Instant::now();
    let paced = folder.answer(&format!("{play} --speed 5"));
    assert!(began.elapsed() >= std::time::Duration::from_millis(300), "1.5 s at five times the speed");
    assert_eq!(paced, folder.answer(play), "the pictures are the same");
    assert_eq!(paced, folder.answer(&format!("{play} --speed max")));
    insta::assert_snapshot!(folder.complaint(&format!("{play} --speed 0")), @"
    error: invalid value '0' for '--speed <TIMES>': write max, or how many times as fast, from 1/1000 to 1000: 2, 0.5, 1/4

    For more information, try '--help'.
    [status 2]
    ");
}

/// Operations that were written down light what they lit, whatever the rig.
#[test]
fn operations_are_played_again() {
    let folder = Folder::landing();
    for (rig, act) in [
        ("landing.toml --face desk", "count --to 3 --every 250ms --for 1s"),
        ("gauge.toml", "count --from -1 --to 2 --every 250ms --for 1s"),
        ("desk.toml --face sign", "text FERRY --way left --every 50ms --times 1"),
    ] {
        folder.answer(&format!("play {act} --rig {rig} --ops=played.ops"));
        let at = "--stills 5ms,410ms,840ms";
        let played = folder.answer(&format!("play {act} --rig {rig} {at}"));
        let again = folder.answer(&format!("play played.ops --rig {rig} {at}"));
        assert_eq!(again, played, "{rig}");
        folder.answer(&format!("play played.ops --rig {rig} --svg again.svg --for 1s"));
    }
    insta::assert_snapshot!(folder.complaint("play played.ops --rig board.toml"), @"
    error: played.ops: line 2: the rig has no face 'sign'
     │
     ╰ help: write one with --ops=FILE, for a rig with the same faces
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play played.ops --rig desk.toml --set boat=KNOT"), @"
    error: played.ops is a log of operations, not a reel
     │
     ╰ help: leave out --check, --watch, --set, --press, --time and --feed
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play played.ops --rig desk.toml --speed 2 --frames"), @"
    error: --speed is for acts and reels, and this file has operations
     │
     ╰ help: leave it out, or play the reel itself
    [status 2]
    ");
    folder.write(
        "cut.ops",
        "{\"spare_tile_ops\":1,\"begins_ns\":0,\"length_ns\":5}\n{\"at_ns\":0,\"face\":\"desk\"",
    );
    insta::assert_snapshot!(folder.complaint("play cut.ops --rig desk.toml"), @"
    error: cut.ops: line 2: this is not JSON: EOF while parsing an object
     │
     ╰ help: write one with --ops=FILE, for a rig with the same faces
    [status 2]
    ");
}

/// Each light of a moving SVG has at each moment the colour of the still drawing.
#[test]
fn a_moving_svg_shows_what_stills_show() {
    let folder = Folder::landing();
    folder.answer("play count --rig gauge.toml --from 8 --to 11 --every 250ms --svg moving.svg");
    let fills = |svg: &str| -> Vec<String> {
        let shapes = svg.lines().filter(|line| line.starts_with("<polygon") || line.starts_with("<circle"));
        shapes.map(str::to_owned).collect()
    };
    let moving = fills(&folder.read("moving.svg"));
    let between = |text: &str, name: &str| {
        let (_, rest) = text.split_once(&format!("{name}=\"")).unwrap();
        rest.split_once('"').unwrap().0.to_owned()
    };
    for (step, number) in [8, 9, 10, 11].into_iter().enumerate() {
        folder.answer(&format!("show {number} --rig gauge.toml --align right --svg still.svg"));
        // The glow of a still comes first, each of its shapes with an opacity.
        let still: Vec<_> =
            fills(&folder.read("still.svg")).into_iter().filter(|line| !line.contains("opacity")).collect();
        assert_eq!(still.len(), moving.len());
        for (moving, still) in moving.iter().zip(&still) {
            let seen = if moving.contains("<animate") {
                let times = between(moving, "keyTimes");
                let values = between(moving, "values");
                let now = (step as f64 + 0.5) / 4.0;
                let steps = times.split(';').zip(values.split(';'));
                let come = steps.filter(|(time, _)| time.parse::<f64>().unwrap() <= now);
                come.last().unwrap().1.to_owned()
            } else {
                between(moving, "fill")
            };
            assert_eq!(seen, between(still, "fill"), "{number}");
        }
    }
}

/// Keys that are pressed at moments do what keys do; what is not said well is refused.
#[test]
fn keys_are_pressed_at_their_moments() {
    let folder = Folder::landing();
    folder.write(
        "call.reel.toml",
        "[variables]\nminutes = 12\n[buttons]\n\"desk.call1\" = { toggle = \"berth1\" }\n\
         \"desk.call7\" = { to = \"minutes\", add = -1 }\n[[track]]\nface = \"desk\"\n[[track.act]]\nnumber = { value = \"{minutes}\" }\n",
    );
    let play = |rest: &str| format!("play call.reel.toml --rig desk.toml --face desk {rest}");
    let pressed = "--press call7@1s,desk.call1@1500ms,call7@1100ms,call7@2s --for 3s";
    let frames = folder.answer(&play(&format!("{pressed} --json")));
    let told = frames.lines().map(|line| {
        let frame: serde_json::Value = serde_json::from_str(line).unwrap();
        let of = &frame["picture"];
        let read: String =
            of["digits"].as_array().unwrap().iter().filter_map(|digit| digit["reads"].as_str()).collect();
        let lit =
            of["extras"].as_array().unwrap().iter().filter(|lamp| lamp["light"].as_f64().unwrap() > 0.0);
        let lit: Vec<_> = lit.map(|lamp| lamp["name"].as_str().unwrap()).collect();
        format!("{} {} {}", frame["t_us"], read.trim(), lit.join(" ")).trim().to_owned()
    });
    // A key that is pressed again before it was let go has been pressed once.
    insta::assert_snapshot!(told.collect::<Vec<_>>().join("\n"), @"
    0.0 12
    1030100.0 11
    1530100.0 11 berth1
    2030100.0 10 berth1
    ");
    // The same goes over the lines.
    let ops = folder.answer(&play(&format!("{pressed} --ops")));
    assert!(ops.contains("berth1"), "{ops}");
    insta::assert_snapshot!(folder.complaint(&play("--press call9@1s --for 1s")), @"
    error: the rig has no button 'call9'
     │
     ╰ help: its buttons: desk.call1, desk.call2, desk.call3, desk.call4,
             desk.call5, desk.call6, desk.call7, desk.call8
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint(&play("--press call7 --for 1s")), @"
    error: invalid value 'call7' for '--press <BUTTON@TIME>': write a button and when, such as desk.call1@1.2s

    For more information, try '--help'.
    [status 2]
    ");
}

/// The answers of a part are listed with the request.
#[test]
fn the_answers_of_keys_are_listed() {
    let folder = Folder::landing();
    let play = "play morning.reel.toml --rig desk.toml --press desk.call1@40ms --for 200ms --ops";
    let listed = folder.answer(&format!("{play} --json"));
    let listed = listed.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
    let keys: Vec<_> = listed.filter(|op| op["role"] == "buttons").map(|op| op["answered"].clone()).collect();
    assert!(keys.contains(&"00 00 00 00".into()) && keys.contains(&"01 00 00 00".into()), "{keys:?}");
    assert!(folder.answer(play).contains("42 > 01 00 00 00"));
}

/// The hardware does not depend on the order in which a serial port sends bits.
#[test]
fn a_key_of_the_sender_does_nothing_as_built() {
    let folder = Folder::landing();
    let rig = folder.read("quay.toml");
    folder.write("built.toml", "[face.minutes.drive]\nsent = \"lsb-first\"\n");
    assert!(rig.contains("method = \"shifted\""));
    insta::assert_snapshot!(folder.run("show 48 --face minutes --rig quay.toml --built built.toml --ascii --quiet").err, @"
    warning: built.toml: face.minutes.drive.sent does nothing here: it says what is
             sent
     |
     = help: leave it out, or write it in the rig
    ");
}

/// The error for the old name of an option shows the new one.
#[test]
fn old_names_of_options_lead_to_the_new_ones() {
    let folder = Folder::landing();
    for (line, told) in [
        ("play clock --rig gauge.toml --at 07:57", "--at is called --time now"),
        ("play text TEAL --rig gauge.toml --step 1s", "--step is called --every now"),
        ("play morning.reel.toml --rig desk.toml --at 07:57", "--at is called --time now"),
        ("firmware --target c99 --app clock --at 07:57 --out out", "--at is called --time now"),
        ("dots gull.dots --with gull.dots --by xor", "--by is called --combine now"),
    ] {
        let run = folder.run(line);
        assert_eq!(run.status, 2, "{line}");
        assert!(run.err.contains(told), "{line}: {}", run.err);
    }
    for (old, new) in [
        ("text = { say = \"TEAL\", move = \"left\" }", "way"),
        ("text = { say = \"TEAL\", step = \"1s\" }", "every"),
        ("clock = { from = \"2026-11-28T07:57\" }", "time"),
        ("clock = { speed = 60 }", "rate"),
    ] {
        folder.write("old.reel.toml", format!("[[track]]\nface = \"desk\"\n[[track.act]]\n{old}\n"));
        let run = folder.run("play old.reel.toml --rig desk.toml --check");
        assert!(run.err.contains(&format!("it is called '{new}' now")), "{old}: {}", run.err);
    }
    folder.write(
        "old.reel.toml",
        "[keys]\n\"desk.call1\" = { pause = true }\n[[track]]\nface = \"desk\"\n[[track.act]]\nblank = {}\n",
    );
    let run = folder.run("play old.reel.toml --rig desk.toml --check");
    assert!(run.err.contains("it is called 'buttons' now"), "{}", run.err);
}

#[test]
fn numbers_take_characters_of_a_glyph_file() {
    let folder = Folder::landing();
    folder.write("waves.toml", "\"~\" = \"a d g\"\n");
    let lit = folder.json("play number 4 --unit ~ --rig gauge.toml --glyphs waves.toml --stills 0s");
    assert_eq!(lit["picture"]["digits"][3]["lit"], serde_json::json!(["a", "d", "g"]));
}
