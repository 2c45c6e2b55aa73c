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
    let told: Vec<_> = frames.iter().map(|frame| format!("{} {}", frame["at_ms"], frame["reads"])).collect();
    assert_eq!(told, ["0.0 \"      -1\"", "250.0 \"       0\"", "500.0 \"       1\"", "750.0 \"      -1\""]);
}

#[test]
fn the_count_takes_the_form_of_any_number() {
    let folder = Folder::landing();
    let play = "play count --rig landing.toml --face desk --from 999 --to 1000 --every 1s --json";
    let reads = |form: &str| {
        let answer = folder.answer(&format!("{play} {form}"));
        let frame: serde_json::Value = serde_json::from_str(answer.lines().last().unwrap()).unwrap();
        frame["reads"].clone()
    };
    assert_eq!(reads("--zeros"), "00001000");
    assert_eq!(reads("--thousands"), "    1.000");
    assert_eq!(reads("--most 999 --over HI"), "      HI");
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
    error: invalid value '0s' for '--every <TIME>': each number must stay for some time, such as 1s

    For more information, try '--help'.
    [status 2]
    ");
    insta::assert_snapshot!(play("--to 9 --every 5"), @"
    error: invalid value '5' for '--every <TIME>': '5' is not a duration; write a number and a unit: 30us, 250ms, 1.5s, 2m or 1h

    For more information, try '--help'.
    [status 2]
    ");
    insta::assert_snapshot!(play("--to 9 --step 0"), @"
    error: this cannot be counted on face berth: a step of 0 gets nowhere
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
            assert_eq!(frame["digits"][digit]["lit"], lit, "frame {place}: {line}");
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
    let reading = |line: &str| serde_json::from_str::<serde_json::Value>(line).unwrap()["reads"].clone();
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
