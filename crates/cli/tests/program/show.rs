use crate::folder::Folder;

#[test]
fn the_picture_in_lines_and_in_ascii() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.answer("show -0.4 --rig landing.toml --face gauge"), @"
            ━━━
           ┃   ┃   ┃   ┃
    ━━━             ━━━
           ┃   ┃       ┃
            ━━━ ●
    ");
    insta::assert_snapshot!(folder.answer("show -0.4 --rig landing.toml --face gauge --ascii"), @"
            ---
           |   |   |   |
    ---             ---
           |   |       |
            --- o
    ");
    insta::assert_snapshot!(folder.answer("show 48 --rig landing.toml --face desk --align right --ascii"), @"
             ---
    |   |   |   |
     ---     ---
        |   |   |
             ---
    ");
}

#[test]
fn letters_of_fourteen_segments() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.answer("show KNOT.7{boarding} --rig sign.toml"), @"
                     ━━━     ━━━     ━━━
    ┃  ╱    ┃╲  ┃   ┃   ┃     ┃         ┃
     ━
    ┃  ╲    ┃  ╲┃   ┃   ┃     ┃         ┃
                     ━━━         ●
    ● boarding
    ");
    assert_eq!(folder.json("show Brent --rig sign.toml")["reads"], "Brent ");
}

#[test]
fn colour_only_when_it_is_wanted() {
    let folder = Folder::landing();
    let show = "show 2 --rig berth.toml";
    assert!(!folder.answer(show).contains('\u{1b}'), "off a terminal there is none");
    let coloured = folder.answer(&format!("{show} --color always"));
    assert!(coloured.contains("\u{1b}[48;5;"), "256 colours");
    let mut command = folder.command();
    command.env("NO_COLOR", "1").env("COLORTERM", "truecolor");
    let run = command.args(["show", "2", "--rig", "berth.toml", "--color", "always"]).output().unwrap();
    assert!(String::from_utf8(run.stdout).unwrap().contains("\u{1b}[48;2;"), "the option is stronger");
}

#[test]
fn a_wide_face_is_wrapped() {
    let folder = Folder::empty();
    folder.write("rig.toml", include_str!("../../demo/landing.toml").replace("digits = 8", "digits = 64"));
    let words = "0123456789".repeat(6);
    let lines = folder.answer(&format!("show {words} --face desk --ascii")).lines().map(str::len).max();
    assert!(lines.unwrap() <= 80, "{lines:?}");
    assert_eq!(folder.json(&format!("show {words} --face desk"))["reads"], format!("{words}    "));
}

#[test]
fn svg_and_png_are_written() {
    let folder = Folder::landing();
    let run = folder.run("show 2. --rig berth.toml --svg berth.svg --png berth.png");
    assert_eq!(run.err, "wrote berth.svg\nwrote berth.png\n");
    insta::assert_snapshot!(folder.read("berth.svg"), @r##"
    <svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 131.0 156.0" width="131.0" height="156.0">
    <!-- Spare Tile -->
    <title>berth: 2.</title>
    <rect width="131.0" height="156.0" fill="#ffffff"/>
    <rect x="0.0" y="0.0" width="131.0" height="156.0" rx="7" fill="#0c0b0c"/>
    <rect x="10.0" y="10.0" width="111.0" height="136.0" rx="3" fill="#1a1415"/>
    <filter id="glow2" filterUnits="userSpaceOnUse" x="10.0" y="10.0" width="111.0" height="136.0" color-interpolation-filters="sRGB"><feGaussianBlur stdDeviation="6"/></filter>
    <g filter="url(#glow2)">
    <polygon points="45.84,30.00 49.12,28.00 90.88,28.00 93.60,30.00 81.06,41.00 55.30,41.00" fill="#ffa412" opacity="0.60"/>
    <polygon points="97.00,35.12 95.42,32.12 82.88,43.12 79.21,69.38 84.80,75.88 91.21,76.50" fill="#ffa412" opacity="0.60"/>
    <polygon points="32.40,126.00 35.12,128.00 76.88,128.00 80.16,126.00 70.70,115.00 44.94,115.00" fill="#ffa412" opacity="0.60"/>
    <polygon points="29.00,120.88 30.58,123.88 43.12,112.88 46.79,86.62 41.20,80.12 34.79,79.50" fill="#ffa412" opacity="0.60"/>
    <polygon points="43.62,78.00 51.03,71.50 76.79,71.50 82.38,78.00 74.97,84.50 49.21,84.50" fill="#ffa412" opacity="0.60"/>
    <circle cx="96.55" cy="120.50" r="7.50" fill="#ffa412" opacity="0.60"/>
    </g>
    <polygon points="45.84,30.00 49.12,28.00 90.88,28.00 93.60,30.00 81.06,41.00 55.30,41.00" fill="#ffa412"/>
    <polygon points="97.00,35.12 95.42,32.12 82.88,43.12 79.21,69.38 84.80,75.88 91.21,76.50" fill="#ffa412"/>
    <polygon points="85.00,120.88 82.58,123.88 73.12,112.88 76.79,86.62 84.20,80.12 90.79,79.50" fill="#3c312b"/>
    <polygon points="32.40,126.00 35.12,128.00 76.88,128.00 80.16,126.00 70.70,115.00 44.94,115.00" fill="#ffa412"/>
    <polygon points="29.00,120.88 30.58,123.88 43.12,112.88 46.79,86.62 41.20,80.12 34.79,79.50" fill="#ffa412"/>
    <polygon points="41.00,35.12 43.42,32.12 52.88,43.12 49.21,69.38 41.80,75.88 35.21,76.50" fill="#3c312b"/>
    <polygon points="43.62,78.00 51.03,71.50 76.79,71.50 82.38,78.00 74.97,84.50 49.21,84.50" fill="#ffa412"/>
    <circle cx="96.55" cy="120.50" r="7.50" fill="#ffa412"/>
    </svg>
    "##);
    let png = std::fs::read(folder.path("berth.png")).unwrap();
    assert_eq!(&png[..8], b"\x89PNG\r\n\x1a\n");
    let size = |at: usize| u32::from_be_bytes(png[at..at + 4].try_into().unwrap());
    assert_eq!((size(16), size(20)), (262, 312));
}

#[test]
fn brightness_dims_the_light() {
    let folder = Folder::landing();
    let light = |options: &str| {
        let json = folder.json(&format!("show 8 --rig landing.toml --face desk {options}"));
        json["digits"][0]["light"].as_f64().unwrap()
    };
    assert_eq!(light("--at-brightness 15"), 1.0);
    assert!((light("--at-brightness 0") - 1.0 / 31.0).abs() < 1e-6);
    assert!((light("") - 21.0 / 31.0).abs() < 1e-6, "the rig's own step, 10");
    insta::assert_snapshot!(folder.complaint("show 8 --rig landing.toml --face desk --at-brightness 16"), @"
    error: brightness 16 is beyond the steps of the max7219
     │
     ╰ help: use 0 to 15
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show 8 --rig berth.toml --at-brightness 3"), @"
    error: face berth has no brightness: the method static has no steps
     │
     ╰ help: leave --at-brightness out
    [status 2]
    ");
}

#[test]
fn json_says_what_is_lit_and_read() {
    insta::assert_snapshot!(Folder::landing().answer("show 2. --rig berth.toml --json"), @r#"
    {
      "face": "berth",
      "reads": "2.",
      "digits": [
        {
          "lit": [
            "a",
            "b",
            "d",
            "e",
            "g",
            "dp"
          ],
          "reads": "2",
          "point": true,
          "light": 1.0
        }
      ],
      "extras": []
    }
    "#);
}

#[test]
fn the_rig_may_come_from_the_environment() {
    let folder = Folder::landing();
    let run =
        folder.command().env("SPARE_TILE_RIG", "berth.toml").args(["show", "2", "--json"]).output().unwrap();
    assert!(String::from_utf8(run.stdout).unwrap().contains("\"face\": \"berth\""));
}

#[test]
fn a_clock_with_its_colon_and_lamps() {
    let folder = Folder::empty();
    folder.write(
        "rig.toml",
        r#"
        [face.clock]
        kind = "seven-segment"
        digits = 4
        colons = [{ after = 2, node = "digit2.dp" }]
        lamps = [{ name = "ebb", node = "digit4.a" }, { name = "flood", node = "digit4.g" }]
        [face.clock.drive]
        method = "max7219"
        pins = { data = 11, clock = 13, select = 10 }
        "#,
    );
    insta::assert_snapshot!(folder.answer("show 07:58{flood}"), @"
     ━━━     ━━━     ━━━     ━━━
    ┃   ┃       ┃ ● ┃       ┃   ┃
                     ━━━     ━━━
    ┃   ┃       ┃ ●     ┃   ┃   ┃
     ━━━             ━━━     ━━━
    ○ ebb  ● flood
    ");
    insta::assert_snapshot!(folder.answer("show 07:58 --ascii"), @"
     ---     ---     ---     ---
    |   |       | o |       |   |
                     ---     ---
    |   |       | o     |   |   |
     ---             ---     ---
    . ebb  . flood
    ");
    insta::assert_snapshot!(folder.complaint("show 7:58"), @"
    error: the face has no colon after digit 1; it has one after digit 2
      ╭▸ text:1:2
      │
    1 │ 7:58
      │  ━
      │
      ╰ help: put the text where the colon is: --start DIGIT, or --align right
    [status 2]
    ");
    assert_eq!(folder.run("show 07:58 --strict").err, "", "the face's own colon is in no doubt");
    assert_eq!(folder.json("show 07:58{ebb}")["reads"], "07:58");
    assert_eq!(folder.json("show 07:58{ebb}")["extras"][1]["name"], "ebb");
    insta::assert_snapshot!(folder.answer("encode 7{colon2} --rig rig.toml"), @"
    seven segments, common cathode: a 1 lights
                   lit               dp a b c d e f g   hex   read
        _
         |    '7'  a b c              0 1 1 1 0 0 0 0   70    exact
         |

                   colon2                                     beside the digits
    ");
}

#[test]
fn characters_of_one_s_own() {
    let folder = Folder::landing();
    folder.write("waves.toml", "\"~\" = \"a d g\"\n");
    assert_eq!(folder.answer("encode ~ --plain --glyphs waves.toml"), "49\n");
    assert_eq!(folder.json("show ~ --rig berth.toml --glyphs waves.toml")["digits"][0]["lit"][2], "g");
    assert!(folder.answer("decode 49 --glyphs waves.toml").contains("'~'"));
    folder.write("wrong.toml", "\"~\" = \"a x\"\n");
    insta::assert_snapshot!(folder.complaint("encode ~ --glyphs wrong.toml"), @r#"
    error: unknown segment 'x'
      ╭▸ wrong.toml:1:7
      │
    1 │ "~" = "a x"
      │       ━━━━━
      │
      ╰ help: allowed: a, b, c, d, e, f, g, dp
    [status 2]
    "#);
}

#[test]
fn a_text_in_a_field_of_the_face() {
    let folder = Folder::landing();
    let reads =
        |line: &str| folder.json(&format!("show --rig landing.toml --face desk {line}"))["reads"].clone();
    assert_eq!(reads("48 --start 2 --length 4 --align centre"), "   48   ");
    assert_eq!(reads("4.25 --number --places 1"), "      4.3");
    assert_eq!(reads("4.25 --number --places 1 --length 3"), " 4.3     ");
    insta::assert_snapshot!(folder.complaint("show 48 --rig landing.toml --face desk --start 8"), @"
    error: --start 8 is beyond the face, which has 8 digits
     │
     ╰ help: use 0 to 7
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show 48 --rig landing.toml --face desk --start 7 --length 2"), @"
    error: --length 2 from digit 7 goes beyond the face of 8 digits
     │
     ╰ help: use at most 1
    [status 2]
    ");
}

/// The bytes follow from the rig, the picture from what was built.
#[test]
fn hardware_that_is_wired_otherwise_shows_what_it_would() {
    let folder = Folder::landing();
    let cathode = "[face.berth]\ncommon = \"cathode\"\n";
    folder.write("cathode.toml", cathode);
    folder.write("turned.toml", format!("{cathode}drive = {{ wired_for = \"cathode\" }}\n"));
    let reads = |more: &str| folder.json(&format!("show 4 --rig berth.toml{more}"))["reads"].clone();
    assert_eq!((reads(""), reads(" --built cathode.toml")), ("4".into(), " ".into()));
    assert_eq!(reads(" --built turned.toml"), "?.");
    let bytes = |more: &str| folder.answer(&format!("bytes 4 --rig berth.toml{more}"));
    assert_eq!(bytes(""), bytes(" --built cathode.toml"));
    let told = folder.run("show 4 --rig berth.toml --built cathode.toml").err;
    assert!(told.contains("the hardware is not wired as the rig says"), "{told}");
    assert_eq!(folder.run("show 4 --rig berth.toml").err, "");
    // Without output enable a shift register shows nothing, and the words say why.
    folder.write("open.toml", "[face.minutes.drive]\noutput_enable = \"open\"\n");
    let open = folder.run("show 24 --rig quay.toml --face minutes --built open.toml");
    assert!(open.out.trim().is_empty() && open.err.contains("OE is left open"), "{}{}", open.out, open.err);
    folder.write("pier.toml", "[face.pier]\nkind = \"seven-segment\"\ndigits = 1\n");
    insta::assert_snapshot!(folder.complaint("show 4 --rig berth.toml --built pier.toml"), @"
    error: the key 'drive' is missing
      ╭▸ pier.toml:1:1
      │
    1 │ [face.pier]
      │ ━━━━━━━━━━━
      │
      ╰ help: write a table [face.NAME.drive] with a method
    [status 2]
    ");
    folder.write("two.toml", "[face.berth]\ndigits = 2\n");
    insta::assert_snapshot!(folder.complaint("show 4 --rig berth.toml --built two.toml"), @r#"
    error: the segments of one digit are wired; the face has 2 digits
       ╭▸ berth.toml:14:12
       │
    14 │ …ts = { a = "PD2", b = "PD3", c = "PD4", d = "PD5", e = "PD6", f = "PD7", g = "PB0", dp = "PB1" }
       │       ━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━
       │
       ╰ help: write one for each, from left to right, or from top to bottom
    [status 2]
    "#);
    insta::assert_snapshot!(folder.complaint("show 4 --rig berth.toml --built nowhere.toml"), @"
    error: there is no hardware file nowhere.toml
     │
     ╰ help: check the name and the folder
    [status 2]
    ");
}

/// A face that uses a point as its colon has no colon in the picture, not even a dark one.
#[test]
fn a_clock_without_points_shows_none() {
    let folder = Folder::landing();
    let circles = |line: &str| {
        folder.answer(&format!("show --rig desk.toml {line} --svg out.svg"));
        folder.read("out.svg").matches("<circle").count()
    };
    let (colon, points, lamps) = (2, 8, 8);
    // Glowing lights are drawn once more, blurred.
    assert_eq!(circles("--face clock 1234"), colon);
    assert_eq!(circles("--face desk 1234"), points + lamps);
}

/// The hardware of a face without a rig file is described as that of a rig.
#[test]
fn a_face_without_a_file_may_be_built_otherwise() {
    let folder = Folder::empty();
    folder.write("turned.toml", "[face.seven.drive]\nsegments = \"a b c d e f g dp\"\n");
    let run = folder.run("show 7 --on seven:1 --built turned.toml --ascii");
    assert!(run.err.contains("the hardware is not wired as the rig says"), "{}", run.err);
    assert_ne!(run.out, folder.answer("show 7 --on seven:1 --ascii"));
    folder.write("wrong.toml", "[face.seven.drive]\nwrong = 1\n");
    let told = folder.complaint("show 7 --on seven:1 --built wrong.toml");
    assert!(told.contains("wrong.toml:2:1"), "{told}");
}
