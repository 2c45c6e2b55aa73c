//! Texts on dots: fonts, still and moving.

use crate::folder::Folder;

/// A board of 32x8 dots.
fn board() -> Folder {
    let folder = Folder::empty();
    folder.answer("rig new chain-dots --controller rp2040");
    folder
}

#[test]
fn fonts_are_listed_drawn_and_asked() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.answer("fonts"), @"
    font        what it is for                                  rows  characters
    board       5x7, proportional: messages on eight rows       8     191
    bold        6x8, proportional: messages that are read from  8     191
                afar
    tall        8x16, proportional: messages on sixteen rows    16    191
    small       3x5, proportional: panels of few dots           7     175
    clock       figures of eight rows, all of one width         8     18
    clock-tall  figures of sixteen rows, all of one width       16    17
    ");
    insta::assert_snapshot!(folder.answer("fonts board --say \"Düne 7°\""), @"
    board: 7 rows above the line, 1 below, 191 characters

    █▀▀▀▄ ▀ ▀                ▀▀▀▀█ ▄▀▄
    █   █ █  █ █▀▀▄ ▄▀▀▄       ▄▀   ▀
    █   █ █  █ █  █ █▀▀▀       █
    ▀▀▀▀   ▀▀▀ ▀  ▀  ▀▀▀       ▀
    ");
    insta::assert_snapshot!(folder.answer("fonts board --say LT --ascii"), @"
    board: 7 rows above the line, 1 below, 191 characters

    #..#####
    #....#..
    #....#..
    #....#..
    #....#..
    #....#..
    ####.#..
    ........
    ");
    assert_eq!(folder.answer("fonts board --covers \"Düne 7°\""), "board: has every character of the text\n");
    let lacks = folder.run("fonts board --covers \"d漢字\"");
    assert_eq!((lacks.status, lacks.out.as_str()), (1, "board: lacks 漢 (U+6F22), 字 (U+5B57)\n"));
    let json = folder.json("fonts board");
    assert_eq!((&json["ascent"], &json["descent"]), (&7.into(), &1.into()));
    // Every character is drawn: as many columns as they take, in lines that fit.
    let lines = json["lines"].as_array().unwrap();
    assert!(lines.len() > 10 && lines.iter().all(|line| line[0].as_str().unwrap().len() <= 76));
    assert_eq!(json["characters"].as_str().unwrap().chars().count(), folder.json("fonts")[0]["characters"]);
    folder.answer("fonts board --png board.png --svg board.svg");
    assert!(folder.read("board.svg").starts_with("<svg"));
    insta::assert_snapshot!(folder.complaint("fonts bord"), @"
    error: there is no font 'bord'
     │
     ╰ help: did you mean board? ours: board, bold, tall, small, clock, clock-tall;
             or name a BDF file
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("fonts none.bdf"), @"
    error: there is no font file none.bdf
     │
     ╰ help: check the name and the folder
    [status 2]
    ");
    folder.write("cut.bdf", "STARTFONT 2.1\nSTARTCHAR a\nENCODING 97\nDWIDTH 4 0\nBBX 3 2 0 0\nBITMAP\nE0\n");
    insta::assert_snapshot!(folder.complaint("fonts cut.bdf"), @"
    error: cut.bdf, line 7: the file ends within a character
     │
     ╰ help: a font is a file in the Glyph Bitmap Distribution Format (BDF 2.1)
    [status 2]
    ");
}

#[test]
fn a_text_on_dots() {
    let folder = board();
    insta::assert_snapshot!(folder.answer("show Teal --ascii"), @"
    o o o o o . . . . . . . . . o . . . . . . . . . . . . . . . . .
    . . o . . . . . . . . . . . o . . . . . . . . . . . . . . . . .
    . . o . . o o . . . o o . . o . . . . . . . . . . . . . . . . .
    . . o . o . . o . . . . o . o . . . . . . . . . . . . . . . . .
    . . o . o o o o . . o o o . o . . . . . . . . . . . . . . . . .
    . . o . o . . . . o . . o . o . . . . . . . . . . . . . . . . .
    . . o . . o o o . . o o o . . o . . . . . . . . . . . . . . . .
    . . . . . . . . . . . . . . . . . . . . . . . . . . . . . . . .
    ");
    let rows = |line: &str| folder.json(line)["dots"].clone();
    // A font of one's own: an a of two rows.
    let font = "STARTFONT 2.1\nFONT own\nFONTBOUNDINGBOX 3 2 0 0\nSTARTCHAR a\nENCODING 97\nDWIDTH 4 0\nBBX 3 2 0 0\n\
                BITMAP\nE0\nA0\nENDCHAR\nENDFONT\n";
    folder.write("own.bdf", font);
    let own = rows("show aa --font own.bdf");
    assert!(own[3].as_str().unwrap().starts_with("###.###."), "{own}");
    assert!(own[4].as_str().unwrap().starts_with("#.#.#.#."), "{own}");
    // Rows of dots are still rows of dots.
    assert!(rows("show #.#/.#.")[0].as_str().unwrap().starts_with("#.#."));
    assert_eq!(rows("show -0.44 --places 1"), rows("show -0.4 --align right --apart"));
    insta::assert_snapshot!(folder.complaint("show \"TEAL 07:58\""), @"
    error: face board cannot show this: the text takes 52 columns in the font board;
           there are 32
     │
     ╰ help: shorten it, take a smaller font, or say --fit cut, ellipsis or wrap;
             or let it move: spare-tile play text
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show 漢字"), @"
    error: face board cannot show this: the font board has no '漢', '字'
     │
     ╰ help: see what a font has: spare-tile fonts FONT; or name another with
             --font
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show שלום"), @"
    error: face board cannot show this: 'ש' is written from right to left, which no
           line here is
     │
     ╰ help: write it from left to right, in the order in which it is seen
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show TEAL --start 2"), @"
    error: face board has dots and no digits
     │
     ╰ help: leave --start and --length out; move a text by --offset
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show TEAL --font bord"), @"
    error: there is no font 'bord'
     │
     ╰ help: did you mean board? ours: board, bold, tall, small, clock, clock-tall;
             or name a BDF file
    [status 2]
    ");
    // On digits no font is looked for.
    let digits = Folder::landing();
    assert_eq!(digits.run("show 12 --rig gauge.toml --font bord").status, 0);
}

/// A sprite is sent as the same dots are in a text, changed in the same way.
#[test]
fn a_sprite_is_sent_as_its_dots_are() {
    let folder = Folder::landing();
    folder.write("bow.dots", "dots 4x2\nframe\n....\n....\nframe bow\n.##.\n#..#\n");
    let text = folder.answer("bytes \".##./#..#\" --rig board.toml --from TEAL --align left --json");
    let sprite = folder.answer("bytes --sprite bow.dots:bow --rig board.toml --from TEAL --json");
    assert!(text.contains("\"bytes\""));
    assert_eq!(text, sprite);
    let lowered =
        folder.answer("bytes --sprite bow.dots:bow --shift 0,3 --rig board.toml --from TEAL --json");
    assert_ne!(sprite, lowered);
    // A text stands over it: its lit dots are lit, the others show the sprite.
    let rows = |line: &str| -> Vec<String> {
        serde_json::from_value(folder.json(&format!("show {line} --rig board.toml"))["dots"].clone()).unwrap()
    };
    let [text, sprite, both] = ["TEAL", "--sprite bow.dots:bow", "TEAL --sprite bow.dots:bow"].map(rows);
    let over = |(text, sprite): (char, char)| if text == '#' { '#' } else { sprite };
    let each = text.iter().zip(&sprite);
    let expected: Vec<String> =
        each.map(|(text, sprite)| text.chars().zip(sprite.chars()).map(over).collect()).collect();
    assert_eq!(both, expected);
    assert!(both != text && both != sprite);
    insta::assert_snapshot!(folder.complaint("bytes --rig board.toml"), @"
    error: the following required arguments were not provided:
      <TEXT>

    Usage: spare-tile bytes --rig <FILE> <TEXT>

    For more information, try '--help'.
    [status 2]
    ");
}

#[test]
fn a_text_passes() {
    let folder = board();
    let frames = |line: &str| -> Vec<serde_json::Value> {
        folder.answer(line).lines().map(|line| serde_json::from_str(line).unwrap()).collect()
    };
    let frames = frames("play text I --every 100ms --json");
    // Three columns and the 32 of the board: dark, 35 steps, dark again at the last.
    assert_eq!(frames.len(), 36);
    assert_eq!(frames[7]["t_us"], 700_000.0);
    assert!(frames[7]["picture"]["dots"][0].as_str().unwrap().ends_with(".###...."), "{}", frames[7]);
    let up = folder.answer("play text I --way up --every 100ms --ascii");
    assert!(up.contains("0.800 s"), "{up}");
    insta::assert_snapshot!(folder.complaint("play text TEAL --gap 4 --times 2000"), @"
    error: invalid value '2000' for '--times <N>': 2000 is not in 1..=1000

    For more information, try '--help'.
    [status 2]
    ");
    // Dots wide gap: the second follows the first before that has left.
    let both = folder.answer("play text I --gap 2 --times 2 --every 10ms --ascii");
    assert!(both.contains("o o o . . o o o"), "{both}");
}

#[test]
fn a_text_passes_on_digits() {
    let folder = Folder::landing();
    let reads = |line: &str| -> Vec<(u64, String)> {
        let frames = folder.answer(line);
        let frames = frames.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
        frames
            .map(|f| {
                (
                    (f["t_us"].as_f64().unwrap() / 1e3) as u64,
                    f["picture"]["reads"].as_str().unwrap().to_owned(),
                )
            })
            .collect()
    };
    let read = |line: &str| -> Vec<String> { reads(line).into_iter().map(|(_, reads)| reads).collect() };
    let left = ["    ", "   H", "  H4.", " H4.2", "H4.2 ", "4.2  ", "2   ", "    "];
    assert_eq!(read("play text H4.2 --rig gauge.toml --json"), left);
    let right = ["    ", "2   ", "4.2  ", "H4.2 ", " H4.2", "  H4.", "   H", "    "];
    assert_eq!(read("play text H4.2 --way right --rig gauge.toml --json"), right);
    let parted = ["    ", "   4", "  4 .", " 4 .2", "4 .2 ", " .2  ", "2   ", "    "];
    assert_eq!(read("play text 4.2 --part-points --rig gauge.toml --json"), parted);
    insta::assert_snapshot!(folder.complaint("play text 4.2 --part-points --rig board.toml"), @"
    error: --part-points is for a text that passes across digits
     │
     ╰ help: leave it out, or pick a face with digits and no other --motion
    [status 2]
    ");
    let times: Vec<u64> =
        reads("play text 42 --every 70ms --rig gauge.toml --json").iter().map(|(at, _)| *at).collect();
    assert_eq!(times, [0, 70, 140, 210, 280, 350, 420]);
    let again = read("play text 7 --gap 1 --times 2 --rig gauge.toml --json");
    assert_eq!(again, ["    ", "   7", "  7 ", " 7 7", "7 7 ", " 7  ", "7   ", "    "]);
    insta::assert_snapshot!(folder.complaint("play text HI --way up --rig gauge.toml"), @"
    error: face gauge has one row of digits: a text moves to the left or right
     │
     ╰ help: leave out --way, or write --way right
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play text h\u{2603} --rig gauge.toml"), @"
    error: seven segments cannot show '☃', character 2 of the text
      ╭▸ text:1:2
      │
    1 │ h☃
      │  ━
      │
      ╰ help: see what each character lights: spare-tile encode TEXT
    [status 2]
    ");
    insta::assert_snapshot!(folder.run("play text WE --rig gauge.toml --for 0s").err, @"
    warning: seven segments have no form for 'W'; a stand-in is shown
      ╭▸ text:1:1
      │
    1 │ WE
      │ ━
      │
      ╰ help: choose another word, or draw it yourself: {a d g} in the text, or
              glyphs in the rig
    ");
}

/// The frames of a GIF: how long each stays, in hundredths of a second.
fn delays(bytes: &[u8]) -> Vec<u16> {
    let mut reader = gif::DecodeOptions::new().read_info(bytes).unwrap();
    let mut delays = Vec::new();
    while let Some(frame) = reader.read_next_frame().unwrap() {
        delays.push(frame.delay);
    }
    delays
}

#[test]
fn a_gif_keeps_time() {
    let folder = board();
    let run = folder.run("play text I --every 33ms --gif i.gif");
    assert_eq!((run.status, run.err.as_str()), (0, "wrote i.gif\n"));
    let delays = delays(&std::fs::read(folder.path("i.gif")).unwrap());
    // 35 steps of 33 ms are 1.155 s, to the nearest hundredth; no step is more than one off.
    assert_eq!(delays.iter().map(|delay| u32::from(*delay)).sum::<u32>(), 116);
    assert!(delays.iter().all(|delay| (3..=4).contains(delay)), "{delays:?}");
    insta::assert_snapshot!(folder.complaint("play text I --for 2h --gif long.gif"), @"
    error: a GIF of 7200 s is too long
     │
     ╰ help: say how long: --for 60s; ten minutes at most
    [status 2]
    ");
    // Steps that are too short for a viewer are passed over, and the time stays true.
    folder.answer("play text I --every 3ms --gif swift.gif");
    let delays = self::delays(&std::fs::read(folder.path("swift.gif")).unwrap());
    assert!(delays.iter().all(|delay| (2..=3).contains(delay)), "{delays:?}");
    assert!((10..=12).contains(&delays.iter().sum::<u16>()), "{delays:?}");
    // A still picture is one frame for its whole time.
    let digits = Folder::landing();
    digits.answer("play count --rig berth.toml --to 1 --every 1500ms --gif count.gif");
    assert_eq!(self::delays(&std::fs::read(digits.path("count.gif")).unwrap()), [150, 150]);
}

const GULL: &str = "dots 5x3 250ms\nframe up\n#...#\n.#.#.\n..#..\nframe down 1s\n.....\n#####\n#...#\n";

#[test]
fn a_sprite_still_and_moving() {
    let folder = board();
    folder.write("gull.dots", GULL);
    let rows = |line: &str| -> Vec<String> {
        let rows = folder.json(line)["dots"].as_array().unwrap().clone();
        rows.iter().take(5).map(|row| row.as_str().unwrap()[..8].to_owned()).collect()
    };
    assert_eq!(rows("show --sprite gull.dots"), ["#...#...", ".#.#....", "..#.....", "........", "........"]);
    assert_eq!(rows("show --sprite gull.dots:down"), rows("show --sprite gull.dots:1"));
    assert_eq!(rows("show --sprite gull.dots:down")[1], "#####...");
    assert_eq!(rows("show --sprite gull.dots --turn 180")[0], "..#.....");
    assert_eq!(
        rows("show --sprite gull.dots --turn 90"),
        ["..#.....", ".#......", "#.......", ".#......", "..#....."]
    );
    assert_eq!(rows("show --sprite gull.dots --negative")[0], ".###....");
    assert_eq!(rows("show --sprite gull.dots --shift 2,1")[1], "..#...#.");
    assert_eq!(rows("show --sprite gull.dots --shift -1,0")[0], "...#....");
    assert_eq!(rows("show --sprite gull.dots --shift -1,0 --around")[0], "...##...");
    let last = |line: &str| folder.json(line)["dots"][0].as_str().unwrap()[24..].to_owned();
    assert_eq!(last("show --sprite gull.dots --align right"), "...#...#");
    assert_eq!(last("show --sprite gull.dots --align right --shift -2,0"), ".#...#..");
    let middle = folder.json("show --sprite gull.dots --align centre");
    assert_eq!(middle["dots"][0], format!("{}#...#{}", ".".repeat(13), ".".repeat(14)));
    // Played: each frame at its moment, once where nobody watches.
    let times = |line: &str| -> Vec<f64> {
        let lines = folder.answer(line);
        let at = |line: &str| {
            serde_json::from_str::<serde_json::Value>(line).unwrap()["t_us"].as_f64().unwrap() / 1e3
        };
        lines.lines().map(at).collect()
    };
    assert_eq!(times("play sprite gull.dots --json"), [0.0, 250.0]);
    assert_eq!(times("play sprite gull.dots --json --times 2"), [0.0, 250.0, 1250.0, 1500.0]);
    folder.answer("play sprite gull.dots --gif gull.gif");
    assert_eq!(delays(&std::fs::read(folder.path("gull.gif")).unwrap()), [25, 100]);
}

#[test]
fn a_sprite_larger_than_the_face_says_what_it_loses() {
    let folder = board();
    folder.write("wake.dots", format!("dots 40x9\nframe\n{}", format!("{}#\n", ".".repeat(39)).repeat(9)));
    let warned = |line: &str| folder.run(line).err.split_whitespace().collect::<Vec<_>>().join(" ");
    insta::assert_snapshot!(folder.run("show --sprite wake.dots").err, @"
    warning: the sprite has 40x9 dots and face board 32x8: it loses 8 columns at its
             right and 1 row at its foot
     │
     ╰ help: --shift -8,-1 shows the other end
    ");
    // Of what is turned, the size that it then has counts.
    let turned = warned("play sprite wake.dots --turn 90 --json");
    assert!(turned.contains("9x40") && turned.contains("32 rows at its foot"), "{turned}");
    let table = warned("table --sprite wake.dots --rig rig.toml --as c");
    assert!(table.contains("8 columns at its right and 1 row at its foot"), "{table}");
    // Who says where it stands wants it so.
    let moved = folder.run("show --sprite wake.dots --shift -8,-1 --json");
    assert!(moved.err.is_empty() && moved.out.contains("...#"), "{}", moved.err);
}

#[test]
fn sprites_that_cannot_be_shown() {
    let folder = board();
    folder.write("gull.dots", GULL);
    folder.write("ragged.dots", GULL.replace("#####", "####"));
    insta::assert_snapshot!(folder.complaint("show --sprite gull.dots:left"), @"
    error: gull.dots has no frame left
     │
     ╰ help: its frames: up, down
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play sprite ragged.dots"), @"
    error: ragged.dots, line 8: a row of 4 dots; the sprite is 5 wide
     │
     ╰ help: the format of sprites is in docs/dots-file.md
    [status 2]
    ");
    // An option without effect beside another is an error.
    for option in ["--font small", "--fit cut", "--places 1", "--number", "--unit m", "--start 1", "--strict"]
    {
        let run = folder.run(&format!("show --sprite gull.dots {option}"));
        assert!(run.status == 2 && run.err.contains("is for texts"), "{option}: {}", run.err);
    }
    insta::assert_snapshot!(folder.complaint("show TEAL --dither ordered"), @"
    error: a text is not brought down to dots: that is for pictures
     │
     ╰ help: name one with --sprite FILE
    [status 2]
    ");
    assert_eq!(folder.run("show TEAL --dither ordered").status, 2);
    insta::assert_snapshot!(folder.complaint("show --sprite none.dots"), @"
    error: there is no sprite file none.dots
     │
     ╰ help: check the name and the folder
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show"), @"
    error: there is nothing to be shown
     │
     ╰ help: give a text, or a sprite with --sprite FILE
    [status 2]
    ");
    assert_eq!(folder.run("show --sprite gull.dots --around").status, 2);
    let digits = Folder::landing();
    digits.write("gull.dots", GULL);
    insta::assert_snapshot!(digits.complaint("show --sprite gull.dots --rig gauge.toml"), @"
    error: face gauge has digits: it shows no sprites
     │
     ╰ help: pick a face with dots
    [status 2]
    ");
}

/// A text that is turned takes the rows of its columns; mirrored twice it is as it was.
#[test]
fn texts_are_turned_and_mirrored_like_sprites() {
    let folder = Folder::landing();
    let rows = |options: &str| -> Vec<String> {
        let json = folder.json(&format!("show --rig board.toml {options}"));
        json["dots"].as_array().unwrap().iter().map(|row| row.as_str().unwrap().to_owned()).collect()
    };
    let (upright, mirrored) = (rows("7 --align left"), rows("7 --align right --mirror"));
    let back: Vec<String> = mirrored.iter().map(|row| row.chars().rev().collect()).collect();
    assert_eq!(back, upright);
    // Eight rows and columns of the face are a square: turned by a quarter, column 0 is the top row, from the foot up.
    let turned = rows("7 --align left --turn 90");
    for (x, y) in (0..8).flat_map(|y| (0..5).map(move |x| (x, y))) {
        let dot = |rows: &[String], x: usize, y: usize| rows[y].as_bytes()[x] == b'#';
        // Five columns become five rows, in the middle of the eight.
        assert_eq!(dot(&upright, x, y), dot(&turned, 7 - y, x + 1), "{x},{y}");
    }
    assert!(folder.complaint("show 7 --rig gauge.toml --turn 90").contains("only a text on dots"));
}

#[test]
fn drawings_show_seams_and_are_printed_to_scale() {
    let folder = Folder::landing();
    let board = folder.read("board.toml").replace("width = 32", "width = 32\npitch_mm = 4.0");
    folder.write("wide.toml", board);
    folder.answer("show TEAL --rig wide.toml --svg plain.svg --png plain.png");
    folder.answer("show TEAL --rig wide.toml --svg seams.svg --seams");
    let (plain, seams) = (folder.read("plain.svg"), folder.read("seams.svg"));
    // Four modules in a row meet three times.
    assert_eq!(seams.matches("<path").count() - plain.matches("<path").count(), 3);
    // 32 dots of 4 mm, and around them the lens and the housing: 28 units of 12.5 to a pitch at each side.
    let width = 4.0 * (32.0 + 2.0 * 28.0 / 12.5);
    assert!(plain.contains(&format!("width=\"{width:.2}mm\"")), "{}", &plain[..200]);
    // Pixels to a metre stand in the PNG too.
    let png = std::fs::read(folder.path("plain.png")).unwrap();
    let at = png.windows(4).position(|bytes| bytes == b"pHYs").unwrap() + 4;
    let a_metre = u32::from_be_bytes(png[at..at + 4].try_into().unwrap());
    let pixels = u32::from_be_bytes(png[16..20].try_into().unwrap());
    assert!((f64::from(pixels) / f64::from(a_metre) - width / 1000.0).abs() < 0.001, "{pixels} at {a_metre}");
    assert!(
        folder.complaint("rig check --rig bad.toml").contains("bad.toml") && {
            folder.write(
                "bad.toml",
                folder.read("gauge.toml").replace("digits = 4", "digits = 4\npitch_mm = 4.0"),
            );
            folder.run("rig check --rig bad.toml").status == 1
        }
    );
}

/// The panel of the demo: its letters by their colours, and what a picture's shades become.
#[test]
fn a_colour_panel_shows_texts_and_pictures_in_their_colours() {
    let folder = Folder::landing();
    let said = folder.json("show --rig departures.toml --font small {red:T}{#8000ff:E}");
    let row = said["dots"][13].as_str().unwrap();
    assert!(row.starts_with("rrr.mmm."), "{row}");
    assert_eq!(said["colours"][13][1], "ff0000");
    // Half of red at six bits: light 0.2193 of 63 steps is 14, which is 14/63.
    assert_eq!(said["colours"][13][4].as_str().unwrap(), "8100ff");
    let written = |name: &str, colour: [u8; 3]| {
        let pixels = [colour; 64 * 32].concat();
        folder.write(name, [b"P6 64 32 255\n".as_slice(), &pixels].concat());
    };
    written("sea.ppm", [0, 128, 255]);
    let shown = folder.json("show --rig departures.toml --picture sea.ppm");
    assert_eq!(shown["colours"][31][63], "0081ff");
    let check = folder.json("rig check --rig departures.toml --electrical --picture sea.ppm");
    let takes = check["electrical"]["showing"][0]["ma"].as_f64().unwrap();
    let all = check["electrical"]["totals"][0]["ma"].as_f64().unwrap();
    // Of three channels one is full and one gives 14/63 of its light; 100 mA are the panel's own.
    assert!(((takes - 100.0) / (all - 100.0) - (1.0 + 14.0 / 63.0) / 3.0).abs() < 1e-3, "{takes} of {all}");
    assert!(check["faces"][0]["remarks"][0].as_str().unwrap().contains("A B C D; E (8) is ground"));
}

#[test]
fn texts_follow_one_another_as_they_are_asked_to() {
    let folder = Folder::landing();
    let lit = |line: &str| -> Vec<(f64, usize)> {
        let answer = folder.answer(&format!("{line} --json"));
        let count = |frame: &serde_json::Value| {
            let rows = frame["picture"]["dots"].as_array().unwrap().iter();
            rows.map(|row| row.as_str().unwrap().chars().filter(|dot| *dot != '.').count()).sum()
        };
        let frames = answer.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap());
        frames.map(|frame| (frame["t_us"].as_f64().unwrap() / 1e3, count(&frame))).collect()
    };
    let typed = lit("play text TEAL --rig board.toml --motion type --every 100ms --hold 1s");
    assert_eq!(typed.iter().map(|(at, _)| at.round()).collect::<Vec<_>>(), [0.0, 100.0, 200.0, 300.0, 400.0]);
    assert!(typed.windows(2).all(|pair| pair[0].1 < pair[1].1), "{typed:?}");
    let blink = lit("play text TEAL --rig board.toml --motion blink --times 2");
    assert_eq!(blink.iter().map(|(_, lit)| *lit > 0).collect::<Vec<_>>(), [true, false, true, false]);
    insta::assert_snapshot!(folder.complaint("play text TEAL --rig board.toml --motion fade"), @"
    error: face board has no greys: its lights are lit or dark, and nothing fades
     │
     ╰ help: if the controller scans it, write depth = 4 in its drive; or choose
             --motion wipe
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play text TEAL KNOT --rig board.toml"), @"
    error: one text passes at a time
     │
     ╰ help: join them, or choose how the next one comes: --motion push, wipe,
             type, fade or cut
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play text TEAL --rig board.toml --hold 2s"), @"
    error: a text that passes stands nowhere: --hold and --align are for the other
           motions
     │
     ╰ help: choose one: --motion push, wipe, type, fade, cut or blink
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("play text tEAL --rig gauge.toml --motion push --way up"), @"
    error: face gauge has one row of digits: a text moves to the left or right
     │
     ╰ help: leave out --way, or write --way right
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("show {berth:2} --rig board.toml"), @"
    error: face board cannot show this: 'berth' in braces is not a colour or a font
     │
     ╰ help: the names: red, orange, amber, yellow, green, cyan, blue, magenta,
             white, board, bold, tall, small, clock, clock-tall, or a colour as
             #ff8000
    [status 2]
    ");
    let counted = folder.json("play count --from 7 --to 7 --rig board.toml --font small");
    assert_eq!(counted["picture"]["dots"].as_array().unwrap().len(), 8);
}

/// Four panels in a row take 256 columns, more than a list in C can say; and they are bought as panels.
#[test]
fn a_wall_of_panels_is_bought_by_the_panel_and_its_bursts_are_long() {
    let folder = Folder::landing();
    let wall = folder
        .read("departures.toml")
        .replace("width = 64", "width = 256")
        .replace("amps = 6.0", "amps = 40.0");
    folder.write("wall.toml", wall.replace("depth = 6", "panel = \"64x32\"\ndepth = 3"));
    insta::assert_snapshot!(folder.complaint("bytes TEAL --rig wall.toml --as c"), @"
    error: a transfer of 256 bytes; in c a list has 254 bytes in each at most
     │
     ╰ help: write --as rust or micropython
    [status 2]
    ");
    let parts = folder.json("rig parts --rig wall.toml");
    let display = parts.as_array().or_else(|| parts["parts"].as_array()).unwrap().iter();
    let display: Vec<_> = display.filter(|item| item["kind"] == "display").collect();
    assert_eq!((display.len(), &display[0]["count"]), (1, &serde_json::json!(4)), "{parts}");
    assert!(!parts.to_string().contains("chip"), "{parts}");
}

/// The cells of a specimen stand apart, each with its character; a drawing has the code points too.
#[test]
fn a_specimen_names_its_characters() {
    let folder = Folder::empty();
    let specimen = folder.answer("fonts clock");
    let names = specimen.lines().nth(2).unwrap();
    assert!(
        names.split_whitespace().eq(["SP", "-", ".", "0", "1", "2", "3"]) || names.contains('0'),
        "{names}"
    );
    assert!(specimen.lines().all(|line| line.chars().count() <= 80), "{specimen}");
    folder.answer("fonts small --svg small.svg");
    // u, v and w differ: the first has a foot, the second a point, the last is wider.
    let rows = |text: &str| {
        let lines = folder.json(&format!("fonts small --say {text}"))["lines"][0].clone();
        lines.as_array().unwrap().iter().map(|row| row.as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    let differing = |one: &str, other: &str| {
        let (one, other) = (rows(one).concat(), rows(other).concat());
        one.chars().zip(other.chars()).filter(|(a, b)| a != b).count()
    };
    assert!(differing("u", "v") >= 2, "{:?} {:?}", rows("u"), rows("v"));
    assert!(rows("w")[0].len() > rows("v")[0].len());
}
