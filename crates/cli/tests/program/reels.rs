//! `play FILE`, `play clock` and `play number`: what is read off the faces, moment by moment.

use crate::folder::Folder;
use crate::window::Window;

/// When a face is read as what.
fn read(folder: &Folder, line: &str) -> Vec<(f64, String, String)> {
    let answer = folder.answer(&format!("{line} --json"));
    let frames = answer.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
    let text = |frame: &serde_json::Value, key: &str| frame[key].as_str().unwrap().to_owned();
    frames
        .map(|f| (f["t_us"].as_f64().unwrap() / 1e3, text(&f, "face"), text(&f["picture"], "reads")))
        .collect()
}

fn of_face(folder: &Folder, line: &str) -> Vec<(f64, String)> {
    read(folder, line).into_iter().map(|(at, _, reads)| (at, reads)).collect()
}

fn seen(moments: &[(f64, &str)]) -> Vec<(f64, String)> {
    moments.iter().map(|(at, reads)| (*at, (*reads).to_owned())).collect()
}

#[test]
fn a_clock_shows_the_time_it_is_told() {
    let folder = Folder::landing();
    let clock = "play clock --rig desk.toml --face clock --zone UTC --time 7:57:58.5";
    assert_eq!(
        of_face(&folder, &format!("{clock} --for 2500ms")),
        seen(&[(0.0, "0757"), (500.0, "07:57"), (1000.0, "0757"), (1500.0, "07:58"), (2000.0, "0758")])
    );
    assert_eq!(
        of_face(&folder, &format!("{clock} --colon steady --rate 60 --for 2500ms")),
        seen(&[(0.0, "07:57"), (25.0, "07:58"), (1025.0, "07:59"), (2025.0, "08:00")])
    );
    let until = "play clock --rig desk.toml --face clock --zone Europe/Lisbon --time 2026-07-01T07:55 --colon steady --for 150s";
    assert_eq!(
        of_face(&folder, &format!("{until} --until 7:57")),
        seen(&[(0.0, "00:02"), (60_000.0, "00:01"), (120_000.0, "00:00")])
    );
    let since = of_face(&folder, &format!("{until} --since 2026-07-01T05:00Z"));
    assert_eq!(since[0].1, "01:55", "summer time is an hour ahead");
    // The desk has points and no colon, and room for the seconds.
    let desk = of_face(
        &folder,
        "play clock --rig desk.toml --face desk --zone UTC --time 13:05:09 --seconds --twelve --afternoon berth8 --for 1s",
    );
    assert_eq!(desk[0].1.trim(), "1.05.09");
    insta::assert_snapshot!(folder.complaint("play clock --rig desk.toml --face clock --zone Quillmoor"), @"
    error: unknown time zone 'Quillmoor'; write a name such as Europe/Lisbon, UTC,
           or an offset such as +02:00
     │
     ╰ help: spare-tile help play clock has examples
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play clock --rig desk.toml --face clock --seconds --for 1s"), @"
    error: the figures take 6 digits; face clock has 4
     │
     ╰ help: leave out --seconds or the year, or pick a face with more digits
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play clock --rig desk.toml --face clock --twelve --afternoon point"), @"
    error: face clock has no light 'point' beside its figures
     │
     ╰ help: its lights: colon2
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play clock --rig desk.toml --face clock --rate 0"), @"
    error: invalid value '0' for '--rate <N>': write a number from 0.001 to 100000, with three places at most, such as 60 or 0.5; found 0

    For more information, try '--help'.
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play clock --rig desk.toml --face clock --until noon"), @"
    error: 'noon' is not a time; write 07:58, 2026-11-28T07:58, or with an offset
           2026-11-28T07:58:30+01:00
     │
     ╰ help: spare-tile help play clock has examples
    [status 2]
    ");
}

#[test]
fn numbers_come_one_after_another() {
    let folder = Folder::landing();
    folder.write("levels.txt", "2.1\nno news\n-0.4\n");
    let levels = seen(&[(0.0, "  2.1"), (500.0, "----"), (1000.0, " -0.4")]);
    let run = folder
        .command()
        .args("play number - --every 500ms --rig gauge.toml --json".split(' '))
        .write_stdin(folder.read("levels.txt"))
        .output()
        .unwrap();
    let answer = String::from_utf8(run.stdout).unwrap();
    let reads: Vec<_> = answer
        .lines()
        .map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap())
        .map(|f| (f["t_us"].as_f64().unwrap() / 1e3, f["picture"]["reads"].as_str().unwrap().to_owned()))
        .collect();
    assert_eq!(reads, levels);
    let number = |line: &str| of_face(&folder, &format!("play number {line} --rig gauge.toml"));
    assert_eq!(number("2.1 2.3 2.2 --show most"), seen(&[(0.0, "  2.1"), (1000.0, "  2.3")]));
    assert_eq!(number("2.1 9.9 2.3 --median 3s"), seen(&[(0.0, "  2.1"), (2000.0, "  2.3")]));
    assert_eq!(number("2.10 2.12 2.20 --band 0.05"), seen(&[(0.0, " 2.10"), (2000.0, " 2.20")]));
    assert_eq!(number("1 2 3 4 --keep 2s"), seen(&[(0.0, "   1"), (2000.0, "   3")]));
    assert_eq!(number("7 --stale 300ms"), seen(&[(0.0, "   7"), (300.0, "----")]));
    insta::assert_snapshot!(folder.complaint("play number 2.1 many --rig gauge.toml"), @"
    error: 'many' is not a number; write digits with at most one point, such as 48,
           -0.4 or 0x1F, 27 digits at most
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play number 123456 --rig gauge.toml"), @"
    error: 123456 takes 6 digits; there are 4
     │
     ╰ help: give it more digits, or --engineering
    [status 2]
    ");
}

/// On a terminal the lines of standard input are shown as they come, and the keys are heard beside them.
#[test]
fn lines_are_shown_as_they_come() {
    let folder = Folder::landing();
    folder.write("levels.txt", "4.2\n");
    let mut window =
        Window::open(&folder, (24, 80), "play number - --rig gauge.toml --ascii --inline < levels.txt");
    // A four and a point, then a two.
    let screen = window.see("|   |       |");
    let figures: Vec<_> = screen.lines().take(5).collect();
    assert_eq!(
        figures,
        [
            "                         ---",
            "                |   |       |",
            "                 ---     ---",
            "                    |   |",
            "                     o   ---"
        ]
    );
    window.press("q");
    assert_eq!(window.status(), 0);
}

#[test]
fn a_reel_plays_on_all_faces() {
    let folder = Folder::landing();
    let play = "play morning.reel.toml --rig desk.toml";
    let all = read(&folder, &format!("{play} --set boat=KNOT --set minutes=7 --for 12s"));
    let at = |face: &str, at_ms: f64| {
        let mut of_face = all.iter().filter(|(at, name, _)| name == face && *at <= at_ms);
        of_face.next_back().unwrap().2.clone()
    };
    // K cannot be drawn with seven segments as it is with fourteen.
    assert_eq!(
        (at("desk", 1000.0).trim_end_matches('7').trim(), at("desk", 9000.0)),
        ("Kn0t", "      40".to_owned())
    );
    assert_eq!((at("clock", 7100.0), at("clock", 8400.0)), ("07:56".to_owned(), "07:57".to_owned()));
    assert_eq!(at("sign", 2500.0), "    KNOT    ");
    insta::assert_snapshot!(folder.complaint(&format!("{play} --set bota=KNOT")), @"
    error: the reel has no variable 'bota'
     │
     ╰ help: its variables: boat, minutes
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint(&format!("{play} --set boat")), @"
    error: invalid value 'boat' for '--set <NAME=VALUE>': write a variable and its value, such as minutes=7

    For more information, try '--help'.
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint(&format!("{play} --frames")), @"
    error: this plays forever, and the output is not a terminal
     │
     ╰ help: say how long: --for 15s
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play cuont"), @"
    error: there is no reel file and no act cuont
     │
     ╰ help: did you mean count? the acts: count, clock, number, test, text,
             sprite; or name a reel file, such as morning.reel.toml
    [status 2]
    ");
    folder.write(
        "none.reel.toml",
        "[[track]]\nface = \"sign\"\n[[track.act]]\nsprite = { file = \"gul.dots\" }\n",
    );
    insta::assert_snapshot!(folder.complaint("play none.reel.toml --rig desk.toml --check"), @r#"
    error: face sign cannot show this: it has digits and no dots
      ╭▸ none.reel.toml:4:10
      │
    4 │ sprite = { file = "gul.dots" }
      │          ━━━━━━━━━━━━━━━━━━━━━
      │
      ╰ help: pick a face with dots
    [status 2]
    "#);
    folder.write("gull.reel.toml", "[[track]]\n[[track.act]]\nsprite = { file = \"gul.dots\" }\n[[track.act]]\ntext = { say = \"TEAL\", look = { font = \"bord\" } }\n");
    insta::assert_snapshot!(folder.complaint("play gull.reel.toml --rig board.toml"), @r#"
    error: there is no sprite file gul.dots
      ╭▸ gull.reel.toml:3:19
      │
    3 │ sprite = { file = "gul.dots" }
      ╰╴                  ━━━━━━━━━━
    error: there is no font 'bord'
      ╭▸ gull.reel.toml:5:40
      │
    5 │ text = { say = "TEAL", look = { font = "bord" } }
      │                                        ━━━━━━
      │
      ╰ help: ours: board, bold, tall, small, clock, clock-tall; or name a BDF file
    [status 2]
    "#);
    let plan: serde_json::Value =
        serde_json::from_str(&folder.answer(&format!("{play} --check --json"))).unwrap();
    assert_eq!(
        plan[1],
        serde_json::json!({ "track": 0, "face": "desk", "act": "count", "begins_ms": 4000.0, "ends_ms": 10_125.0 })
    );
}

/// A played reel goes over the lines too, and into a film.
#[test]
fn a_reel_is_sent_and_filmed() {
    let folder = Folder::landing();
    let sent = folder.answer("play morning.reel.toml --rig desk.toml --ops --for 1s");
    for face in ["desk", "clock", "sign"] {
        assert!(
            !sent.is_empty()
                && folder.answer("play morning.reel.toml --rig desk.toml --check").contains(face)
        );
    }
    folder.answer("play morning.reel.toml --rig desk.toml --face sign --gif sign.gif --for 1s");
    assert!(folder.names().contains(&"sign.gif".to_owned()));
}

/// The lines of a dump, read back, give the pictures that were shown.
#[test]
fn a_dump_of_what_plays_is_read_back() {
    let folder = Folder::landing();
    for (face, for_ms, reads) in
        [("clock", 9300, "07:57"), ("desk", 6100, "      16"), ("sign", 2600, "    TEAL    ")]
    {
        let line = format!("--rig desk.toml --face {face}");
        folder.answer(&format!("play morning.reel.toml {line} --for {for_ms}ms --vcd play.vcd"));
        let told: serde_json::Value =
            serde_json::from_str(&folder.answer(&format!("capture play.vcd {line} --final --json"))).unwrap();
        assert_eq!(told["reads"], reads, "{face}: {told}");
    }
    insta::assert_snapshot!(folder.complaint("play morning.reel.toml --rig desk.toml --face clock --for 2m --gif play.gif --vcd play.vcd"), @"
    error: a dump of 120 s is too long
     │
     ╰ help: say how long: --for 10s; a minute at most
    [status 2]
    ");
    assert!(!folder.names().contains(&"play.gif".to_owned()), "all is refused before anything is written");
}

/// The time as it is begins when it is said to, and goes on beside what takes turns with it.
#[test]
fn a_reel_begins_at_a_time() {
    let folder = Folder::landing();
    let reel = "[[track]]\nface = \"clock\"\nloop = true\n[[track.act]]\nclock = { colon = \"steady\", for = \"1s\" }\n\
                [[track.act]]\ntext = { say = \"TEAL\", for = \"1s\" }\n";
    folder.write("turns.reel.toml", reel);
    let line = "play turns.reel.toml --rig desk.toml --face clock --time 07:57:58 --for 4s --json";
    let frames = folder.answer(line);
    let of_clock = frames.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
    let of_clock = of_clock.filter(|frame| frame["face"] == "clock");
    let told = of_clock.map(|frame| format!("{} us {}\n", frame["t_us"], frame["picture"]["reads"]));
    insta::assert_snapshot!(told.collect::<String>(), @r#"
    0.0 us "07:57"
    1000000.0 us "tEAL"
    2000000.0 us "07:58"
    3000000.0 us "tEAL"
    "#);
}

#[test]
fn a_sheet_has_every_picture() {
    let folder = Folder::landing();
    folder.answer("play count --rig berth.toml --to 7 --png-sheet count.png");
    let image = image::open(folder.path("count.png")).unwrap();
    folder.answer("play count --rig berth.toml --to 3 --png-sheet half.png");
    let half = image::open(folder.path("half.png")).unwrap();
    // Eight digits stand in one row, four in half of it.
    assert!(
        image.width() > half.width() && image.height() == half.height(),
        "{}x{}",
        image.width(),
        image.height()
    );
    insta::assert_snapshot!(folder.complaint("play count --rig gauge.toml --to 999 --png-sheet count.png"), @"
    error: a sheet has 240 pictures at most; these are more
     │
     ╰ help: ask for less with --for, or for some with --stills 1s,2s
    [status 2]
    ");
}

/// Without a rig file there is a face to play on.
#[test]
fn a_face_of_its_own_needs_no_rig() {
    let folder = Folder::landing();
    assert_eq!(of_face(&folder, "play number 7.5 --on seven:4"), seen(&[(0.0, "  7.5")]));
    let board = folder.answer("show TEAL --rig board.toml --ascii");
    assert_eq!(folder.answer("show TEAL --on dots:32x8 --ascii"), board);
    assert_eq!(folder.answer("show 12 --on seven:12 --json").matches("\"lit\"").count(), 12);
    insta::assert_snapshot!(folder.complaint("show 8 --on seven:99"), @"
    error: invalid value 'seven:99' for '--on <STYLE:SIZE>': write seven:1 to seven:64, or dots:8x8 to dots:256x256 in eights

    For more information, try '--help'.
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show 8 --on nine:9"), @"
    error: invalid value 'nine:9' for '--on <STYLE:SIZE>': write seven:1 to seven:64, or dots:8x8 to dots:256x256 in eights

    For more information, try '--help'.
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show 8 --on seven:4 --rig board.toml"), @"
    error: a face is on a rig file, or on one of its own
     │
     ╰ help: leave out --rig, or --on
    [status 2]
    ");
    let by_variable =
        folder.command().args(["show", "8", "--on", "seven:1"]).env("SPARE_TILE_RIG", "board.toml").output();
    assert!(by_variable.unwrap().status.success());
}

/// `--at` means the same in `play REEL`, `play clock` and `firmware`: dates count, offsets count, and a time without one is in the
/// zone of this computer.
#[test]
fn a_time_means_the_same_everywhere() {
    let folder = Folder::landing();
    folder.write(
        "zone.reel.toml",
        "[[track]]\nface = \"clock\"\n[[track.act]]\nclock = { zone = \"Europe/Lisbon\", colon = \"steady\" }\n",
    );
    let first = |zone: &str, line: &str| {
        let mut command = folder.command();
        command.env("TZ", zone).args(line.split(' ')).args(["--for", "1s", "--json"]);
        let run = crate::folder::Run::of(command.output().unwrap());
        assert_eq!(run.status, 0, "{line}: {}", run.err);
        let frame: serde_json::Value = serde_json::from_str(run.out.lines().next().unwrap()).unwrap();
        frame.to_string()
    };
    let reel =
        |zone: &str, at: &str| first(zone, &format!("play zone.reel.toml --rig desk.toml --time {at}"));
    let clock = |zone: &str, at: &str| {
        first(
            zone,
            &format!(
                "play clock --rig desk.toml --face clock --zone Europe/Lisbon --colon steady --time {at}"
            ),
        )
    };
    let shown = |frame: &str, text: &str| {
        let frame: serde_json::Value = serde_json::from_str(frame).unwrap();
        frame.to_string().contains(&format!("\"{text}\""))
    };
    // Summer: Lisbon is an hour ahead of UTC.
    for (at, text) in
        [("2026-07-01T12:00Z", "13:00"), ("2026-12-01T12:00Z", "12:00"), ("2026-07-01T12:00+02:00", "11:00")]
    {
        let (of_reel, of_clock) = (reel("UTC", at), clock("UTC", at));
        assert_eq!(of_reel, of_clock, "{at}");
        assert!(shown(&of_reel, text), "{at}: {of_reel}");
        // Where this computer is does not matter then.
        assert_eq!(reel("Asia/Tokyo", at), of_reel, "{at}");
    }
    // Without an offset it does.
    assert!(shown(&reel("Europe/Paris", "2026-07-01T12:00"), "11:00"));
    assert_eq!(reel("Europe/Paris", "2026-07-01T12:00"), reel("UTC", "2026-07-01T10:00"));
    for line in [
        "play zone.reel.toml --rig desk.toml --time noon",
        "firmware --target c99 --app clock --rig desk.toml --face clock --out out --time noon",
        "play clock --rig desk.toml --face clock --time noon",
    ] {
        let told = folder.complaint(line);
        assert!(told.contains("'noon' is not a time; write 07:58, 2026-11-28T07:58"), "{told}");
    }
}

#[test]
fn time_zones_are_listed_completed_and_guessed() {
    let folder = Folder::landing();
    for (wrong, meant) in
        [("Lisbon", "Europe/Lisbon"), ("Europe/Lisboa", "Europe/Lisbon"), ("utc+1", "Etc/GMT+1")]
    {
        let told = folder.complaint(&format!("play clock --rig desk.toml --face clock --zone {wrong}"));
        assert!(told.contains(&format!("unknown time zone '{wrong}'")), "{told}");
        if !wrong.contains('+') {
            assert!(told.contains(&format!("did you mean '{meant}'?")), "{told}");
        }
    }
    let listed = folder.answer("help zones");
    assert!(listed.contains("Europe/Lisbon") && listed.lines().all(|line| line.chars().count() <= 80));
    let names = folder.json("help zones");
    assert!(names.as_array().unwrap().len() > 300);
}

/// The readings of a face, each with the millisecond at which it begins.
fn read_by(folder: &Folder, line: &str) -> Vec<(u64, String)> {
    let frames = folder.answer(&format!("{line} --json"));
    let frames = frames.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
    frames
        .map(|frame| {
            let at = (frame["t_us"].as_f64().unwrap() / 1e3) as u64;
            (at, frame["picture"]["reads"].as_str().unwrap().trim().to_owned())
        })
        .collect()
}

fn reads(expected: &[(u64, &str)]) -> Vec<(u64, String)> {
    expected.iter().map(|(at, text)| (*at, (*text).to_owned())).collect()
}

#[test]
fn an_act_that_plays_longer_than_its_times_holds_its_end() {
    let folder = Folder::landing();
    folder.write(
        "twice.reel.toml",
        "[[track]]\nface = \"desk\"\n[[track.act]]\n\
         count = { from = 0, to = 2, every = \"100ms\", times = 2, for = \"2s\" }\n",
    );
    assert_eq!(
        read_by(&folder, "play twice.reel.toml --rig desk.toml --for 3s"),
        reads(&[(0, "0"), (100, "1"), (200, "2"), (300, "0"), (400, "1"), (500, "2"), (2000, "")])
    );
}

#[test]
fn only_the_characters_of_a_text_are_typed() {
    let folder = Folder::landing();
    for align in ["left", "centre", "right"] {
        let line = format!(
            "play text HL --rig desk.toml --face desk --motion type --every 200ms --hold 1s --align {align} --for 3s"
        );
        let typed = read_by(&folder, &line);
        // Two steps, whatever blanks the digits are filled up with.
        let times: Vec<_> = typed.iter().map(|(at, text)| (*at, text.as_str())).collect();
        assert_eq!(times, [(0, ""), (200, "H"), (400, "HL")], "{align}");
    }
}

#[test]
fn a_text_blinks_for_as_long_as_it_is_held() {
    let folder = Folder::landing();
    let line =
        "play text HL LH --rig desk.toml --face desk --motion blink --every 250ms --hold 1s --for 1400ms";
    assert_eq!(
        read_by(&folder, line),
        reads(&[(0, "HL"), (250, ""), (500, "HL"), (750, ""), (1000, "LH"), (1250, "")])
    );
}

#[test]
fn a_unit_that_cannot_be_shown_is_an_error() {
    let folder = Folder::landing();
    for act in [
        "reading = { of = \"n\", unit = \"Ж\" }",
        "number = { value = \"{n}\", over = \"Ж\" }",
        "count = { to = 3, unit = \"Ж\" }",
    ] {
        folder.write(
            "unit.reel.toml",
            format!("[variables]\nn = 4\n[[track]]\nface = \"desk\"\n[[track.act]]\n{act}\n"),
        );
        let told = folder.complaint("play unit.reel.toml --rig desk.toml --for 1s");
        assert!(told.contains("cannot show") && told.contains('Ж') && told.ends_with("[status 2]"), "{told}");
    }
    for line in ["play count --to 3 --unit Ж", "play number - --unit Ж"] {
        let told = folder.complaint(&format!("{line} --rig desk.toml --face desk"));
        assert!(told.contains("cannot show 'Ж'"), "{told}");
    }
}

/// Times under a microsecond are refused: playing them would never end.
#[test]
fn times_too_short_to_be_played_are_refused() {
    let folder = Folder::landing();
    for every in ["1ns", "999ns"] {
        folder.write(
            "plot.reel.toml",
            format!("[variables]\nn = 4\n[[track]]\nface = \"board\"\n[[track.act]]\nplot = {{ value = \"{{n}}\", from = 0, to = 9, every = \"{every}\" }}\n"),
        );
        let told = folder.complaint("play plot.reel.toml --rig board.toml --for 1s");
        assert!(told.contains("expected 1us or more"), "{told}");
        let told =
            folder.complaint(&format!("play count --to 9 --rig desk.toml --face desk --every {every}"));
        assert!(told.contains("write a time of 1us or more"), "{told}");
    }
}

/// Without `--face` pictures show all faces; a sheet can show given moments.
#[test]
fn all_faces_in_one_picture() {
    let folder = Folder::landing();
    quillmoor(&folder);
    let play = "play quillmoor.reel.toml --rig quillmoor.toml --time 2026-11-28T07:55";
    let size = |file: &str| {
        let png = std::fs::read(folder.path(file)).unwrap();
        let side = |at: usize| u32::from_be_bytes(png[at..at + 4].try_into().unwrap());
        (side(16), side(20))
    };
    folder.answer(&format!("{play} --stills 1s,9s,20s --png-sheet all.png"));
    folder.answer(&format!("{play} --stills 1s,9s,20s --face board --png-sheet board.png"));
    assert!(size("all.png").1 > 2 * size("board.png").1, "{:?} {:?}", size("all.png"), size("board.png"));
    folder.answer(&format!("{play} --for 2s --gif all.gif"));
    folder.answer(&format!("{play} --for 2s --gif board.gif --face board"));
    let shape = |file: &str| {
        let gif = std::fs::read(folder.path(file)).unwrap();
        f64::from(u16::from_le_bytes([gif[8], gif[9]])) / f64::from(u16::from_le_bytes([gif[6], gif[7]]))
    };
    assert!(shape("all.gif") > 1.5 * shape("board.gif"));
}

/// The whole landing, and its morning.
fn quillmoor(folder: &Folder) {
    folder.write("quillmoor.toml", include_str!("../../demo/quillmoor.toml"));
    folder.write("quillmoor.reel.toml", include_str!("../../demo/quillmoor.reel.toml"));
}

/// `--check --target` reports what a firmware target refuses.
#[test]
fn a_check_for_a_target() {
    let folder = Folder::landing();
    quillmoor(&folder);
    folder.write(
        "tide.reel.toml",
        "[[track]]\nface = \"gauge\"\n[[track.act]]\ncount = { from = 0, to = 4, every = \"1s\" }\n",
    );
    let check = |reel: &str| folder.run(&format!("play {reel} --check --target c99 --rig quillmoor.toml"));
    let sound = check("tide.reel.toml");
    assert!(sound.status == 0 && sound.out.ends_with("c99: a program can play it\n"), "{}", sound.out);
    let run = check("quillmoor.reel.toml");
    insta::assert_snapshot!(format!("{}[status {}]", run.err, run.status), @"
    error: no program for c99 can play this: face desk: a button switches berth2,
           and an act lights it too
     │
     ╰ help: change that, or write it for another target: see docs/guide/firmware-
             targets.md
    [status 1]
    ");
}

/// A text stands over the picture of an earlier track, in the colours of both.
#[test]
fn a_text_over_a_picture() {
    let folder = Folder::landing();
    folder.write("sea.ppm", "P3 2 1 255  0 0 255  0 64 128\n");
    let track = |act: &str| format!("[[track]]\n[[track.act]]\n{act}\n");
    let sea = track("sprite = { file = \"sea.ppm\", lay = \"stretch\", for = \"9s\" }");
    let colours = |tracks: &[String]| -> Vec<Vec<String>> {
        folder.write("over.reel.toml", tracks.concat());
        let answer = folder.answer("play over.reel.toml --rig departures.toml --stills 1s --json");
        let frame: serde_json::Value = serde_json::from_str(&answer).unwrap();
        serde_json::from_value(frame["picture"]["colours"].clone()).unwrap()
    };
    for motion in ["cut", "wipe", "type", "push"] {
        let text = track(&format!(
            "text = {{ say = \"TEAL\", motion = \"{motion}\", every = \"1ms\", for = \"9s\", look = {{ ink = \"red\" }} }}"
        ));
        let (alone, below) = (colours(std::slice::from_ref(&text)), colours(std::slice::from_ref(&sea)));
        let both = colours(&[sea.clone(), text]);
        let mut letters = 0;
        for (y, row) in both.iter().enumerate() {
            for (x, colour) in row.iter().enumerate() {
                let text = &alone[y][x];
                letters += usize::from(text != "000000");
                assert_eq!(colour, if text == "000000" { &below[y][x] } else { text }, "{motion} {x},{y}");
            }
        }
        assert!(letters > 20, "{motion}");
    }
}
