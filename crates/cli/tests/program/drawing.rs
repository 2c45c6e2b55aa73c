//! `draw`: the editor, on a pseudo-terminal.

use std::fs;

use rexpect::process::Signal;

use crate::docs;
use crate::folder::Folder;
use crate::window::Window;

const SIZE: (u16, u16) = (24, 80);

pub fn draw(folder: &Folder, line: &str) -> Window {
    let window = Window::open(folder, SIZE, &format!("draw {line} --ascii"));
    window.see("q leave");
    window
}

#[test]
fn a_sprite_is_drawn_typed_and_saved() {
    let folder = Folder::empty();
    let mut window = draw(&folder, "wave.dots --size 5x3");
    // Letters are dots, as in the file; then a stroke of the mouse from the lower left corner to the right.
    window.press(".##.r");
    window.drag((4, 5), (12, 5));
    window.see("dot 4,2");
    insta::assert_snapshot!(window.see("not saved"), @"
    wave.dots   5x3   frame 0 of 1, 250ms   ink r   not saved

        0           dot 4,2: byte 4 bit 2, byte 9 bit 2, byte 14
      0 . # # . r     bit 2  
      1 . . . . .   5x3 dots.                                  
      2 r r r r r   Each byte is a column, from the left; bit 0
                      is at the top.
                    Of each frame first the red dots, then the
                      green, then the blue.

                        0  04 05 05 04 05 00 01 01
                        8  00 00 00 01 01 00 00






     0 250ms 
                
    arrows move   space dot   . # dark, lit   r g b y c m w colours   f fill
    u U undo, redo   [ ] frame   n copy it   N new one   x take it out
    < > exchange   t time   + - longer, shorter   e name   o onion skin   p play
    i negative   h v mirror   T turn   shift arrows shift   s save   q leave
    ");
    window.press("s");
    window.see("saved wave.dots");
    assert_eq!(folder.read("wave.dots"), "dots 5x3 250ms\nframe\n.##.r\n.....\nrrrrr\n");
    window.press("q");
    assert_eq!(window.status(), 0);
    window.see("wrote wave.dots");
}

#[test]
fn frames_are_copied_named_timed_and_taken_out() {
    let folder = Folder::landing();
    let mut window = draw(&folder, "gull.dots");
    window.see("frame 0 up of 4, 180ms");
    window.press("n");
    window.see("frame 1 of 5, 180ms");
    window.press("egliding\r");
    window.see("frame 1 gliding of 5");
    window.press("t\u{15}1.5sx\u{7f}\r");
    window.see("frame 1 gliding of 5, 1500ms");
    window.press("e\u{15}up\r");
    window.see("two frames are called up");
    window.press("t\u{15}0s\r");
    window.see("frame 1 gliding of 5, 1500ms");
    window.press(">");
    window.see("frame 2 gliding of 5");
    window.press("[x");
    window.see("frame 1 gliding of 4");
    // Only the changed parts are compared: the two that change places again.
    window.press("uu");
    window.see("frame 2 level of 5");
    window.see("1 gliding 1500ms   2 level 180ms");
    window.press("s");
    window.see("saved gull.dots");
    let written = folder.read("gull.dots");
    assert!(written.starts_with("dots 11x7 180ms\n; a gull over the landing\nframe up\n"), "{written}");
    assert!(written.contains("frame gliding 1500ms\n..#.....#..\n"), "{written}");
    window.press("q");
    assert_eq!(window.status(), 0);
}

/// The bytes beside the dots are those of the table, and the marked one is that of the dot.
#[test]
fn the_bytes_are_those_of_the_table() {
    let folder = Folder::landing();
    let mut window = draw(&folder, "gull.dots --rig board.toml");
    let bytes_of_table = || -> Vec<String> {
        let source = folder.answer("table --sprite gull.dots --rig board.toml --as c --name gull");
        let (_, dots) = source.split_once("gull_dots[").unwrap();
        let words = dots.split(|c: char| !c.is_ascii_alphanumeric());
        words.filter_map(|word| word.strip_prefix("0x")).map(str::to_owned).collect()
    };
    let bytes = bytes_of_table();
    assert_eq!(bytes.len(), 4 * 32);
    let screen = window.see("frame 0");
    for row in bytes[..32].chunks(8) {
        assert!(screen.contains(&row.join(" ")), "{row:?}\n{screen}");
    }
    // The dot that the cursor is on is dark; lit, it changes the byte that is marked, by the bit that is said.
    let said = screen.split("dot 0,0: byte ").nth(1).unwrap();
    let mut said = said.split_whitespace();
    let byte: usize = said.next().unwrap().parse().unwrap();
    let bit: u32 = said.nth(1).unwrap().parse().unwrap();
    window.press(" ");
    window.see("not saved");
    window.press("s");
    window.see("saved gull.dots");
    let after = bytes_of_table();
    for place in 0..32 {
        let of = |bytes: &[String]| u8::from_str_radix(&bytes[place], 16).unwrap();
        let expected = if place == byte { 1 << bit } else { 0 };
        assert_eq!(of(&bytes) ^ of(&after), expected, "byte {place}");
    }
}

/// The screen in the guide is the one that its command shows.
#[test]
fn the_guide_shows_the_screen_as_it_is() {
    let folder = Folder::landing();
    let window = draw(&folder, "gull.dots --rig board.toml");
    let found: String = window.see("q leave").lines().map(|line| format!("{}\n", line.trim_end())).collect();
    let path = docs::project().join("docs/guide/drawing.md");
    let page = fs::read_to_string(&path).unwrap();
    let (before, rest) = page.split_once("```text\n").unwrap();
    let (shown, after) = rest.split_once("```\n").unwrap();
    if std::env::var_os(docs::WRITE).is_some() {
        fs::write(&path, format!("{before}```text\n{found}```\n{after}")).unwrap();
    } else {
        assert_eq!(shown, found);
    }
}

#[test]
fn what_was_lit_before_shines_through_and_a_film_plays() {
    let folder = Folder::empty();
    folder.write("two.dots", "dots 3x1\nframe 200ms\n#..\nframe 200ms\n..#\n");
    let mut window = draw(&folder, "two.dots");
    window.press("]");
    window.see("  0 + . #");
    window.press("o");
    window.see("  0 . . #");
    window.press("p");
    for _ in 0..3 {
        window.see("  0 # . .");
        window.see("  0 . . #");
    }
    window.press("q");
    window.see("ink #");
    window.press("q");
    assert_eq!(window.status(), 0);
}

/// Of a sprite that is larger than the window the page with the cursor is shown, while it plays too.
#[test]
fn a_large_sprite_is_shown_page_by_page() {
    let folder = Folder::empty();
    let mut window = draw(&folder, "sea.dots --size 200x100");
    window.see("dot 0,0: byte 0 bit 0");
    window.press("\u{1b}[F\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\r\u{1b}[F#");
    let screen = window.see("dot 0,20: byte");
    assert!(screen.lines().any(|line| line.starts_with(" 20 ")), "{screen}");
    window.press("\u{1b}[D\u{1b}[F");
    window.see("dot 199,20: byte 2589 bit 4");
    window.press("p");
    let playing = window.see("any key stops");
    assert!(playing.contains("184"), "{playing}");
    window.press(" qq");
    assert_eq!(window.status(), 0);
}

#[test]
fn what_is_not_saved_is_not_lost_by_chance() {
    let folder = Folder::empty();
    let mut window = draw(&folder, "wave.dots");
    window.press("#q");
    window.see("not saved: s saves and leaves");
    window.press(" ");
    window.see("f fill");
    window.press("\u{3}");
    window.see("not saved: s saves and leaves");
    window.press("s");
    assert_eq!(window.status(), 0);
    assert!(folder.read("wave.dots").contains("#......."));

    let mut window = draw(&folder, "wave.dots");
    window.press("xx#qq");
    assert_eq!(window.status(), 0);
    assert!(folder.read("wave.dots").contains("#......."));
    // Undone, it is as it was saved.
    let mut window = draw(&folder, "wave.dots");
    window.press(".uq");
    assert_eq!(window.status(), 0);
    let mut window = draw(&folder, "wave.dots");
    window.press("\u{3}");
    assert_eq!(window.status(), 130);
}

#[test]
fn a_signal_gives_the_screen_back() {
    let folder = Folder::landing();
    let mut window = draw(&folder, "gull.dots");
    window.signal(Signal::SIGTERM);
    assert_eq!(window.status(), 130);
}

#[test]
fn another_size_of_the_window_is_drawn_anew() {
    let folder = Folder::landing();
    let window = draw(&folder, "gull.dots --rig board.toml");
    window.resize((30, 40));
    // The text beside the dots is below them now.
    let below = window.see_that("the facts below", |screen| {
        screen.contents().lines().any(|line| line.starts_with("dot 0,0: byte"))
    });
    assert!(below.contains("shift arrows shift"), "{below}");
    for tiny in [(1, 1), (2, 3), (5, 20), (24, 80)] {
        window.resize(tiny);
    }
    window.see("q leave");
}

#[test]
fn segments_are_toggled_by_key_and_mouse_and_saved_beside_remarks() {
    let folder = Folder::empty();
    folder.write("waves.toml", "# the landing's own\n\"~\" = \"a g\" # two\n");
    let mut window = draw(&folder, "waves.toml --style seven --common anode");
    window.see("'~'   1 of 1");
    window.press("d");
    window.see("no character; nearest ':'");
    insta::assert_snapshot!(window.see("lit: a d g"), @"
    waves.toml   seven segments   dp g f e d c b a   not saved

                                     '~'   1 of 1
                                     lit: a d g
              ############
            .. #####a#### .          dp g f e d c b a
            ....        ...           1 0 1 1 0 1 1 0
            .f.        ..b.          hex B6
            ...        ....          binary 10110110
           ....        ...           decimal 182
           ..  #######  ..           common anode: a 0 lights
           .  ####g#### ..
          ....        ....           read as no character; nearest ':', has segment
          ....        ...              g too much
          .e.        ..c.
          ...        ....            > '~'   B6  a d g
         ... ######## ..  dp.
          ######d######   ...




    a to g segments   . point   mouse either   v negative   u U undo, redo
    n another character   [ ] those of the file   x take it out   s save   q leave
    ");
    // The same as the table says of that character.
    let encoded = folder.answer("encode \"{a d g}\" --common anode --plain");
    window.see(&format!("hex {}", encoded.trim()));
    window.press("n9");
    window.see("read as '9'");
    window.press("a");
    window.see("lit: b c d f g");
    window.press("s");
    window.see("saved waves.toml");
    assert_eq!(
        folder.read("waves.toml"),
        "# the landing's own\n\"~\" = \"a d g\" # two\n\"9\" = \"b c d f g\"\n"
    );
    assert_eq!(folder.answer("encode 9 --glyphs waves.toml --plain").trim(), "6E");
    // A blank is a character too.
    window.press("n ");
    window.see("' '   3 of 3");
    window.press("x");
    window.see("'9'   2 of 2");
    window.press("]");
    window.see("no character yet");
    window.press("q");
    assert_eq!(window.status(), 0);
}

/// A click on the name of each segment lights that segment.
#[test]
fn a_click_finds_the_segment_that_is_seen() {
    for (style, colour) in [("seven", false), ("fourteen", false), ("sixteen", false), ("sixteen", true)] {
        let folder = Folder::empty();
        let look = if colour { "--color always" } else { "--ascii" };
        let line = format!("draw new.toml --style {style} {look}");
        let mut window = Window::open_with(&folder, (40, 110), &line, &[]);
        window.see("lit: nothing");
        let names: Vec<_> = match style {
            "seven" => "a b c d e f g dp",
            "fourteen" => "a b c d e f g1 g2 h i j k l m dp",
            _ => "a1 a2 b c d1 d2 e f g1 g2 h i j k l m dp",
        }
        .split(' ')
        .collect();
        let screen = window.see("q leave");
        let rows: Vec<_> = screen.lines().collect();
        // The facts are to the right of the digit.
        let facts = rows.iter().find_map(|line| line.split_once("no character yet"));
        let facts = facts.unwrap().0.chars().count();
        let place_of = |name: &str| {
            let found = rows.iter().enumerate().skip(1).take(33).find_map(|(row, line)| {
                let digit: String = line.chars().take(facts).collect();
                let words = digit.split(|c: char| !c.is_ascii_alphanumeric()).collect::<Vec<_>>();
                words.contains(&name).then(|| {
                    let bytes = digit
                        .match_indices(name)
                        .find(|(at, _)| {
                            let beside = |c: Option<char>| c.is_none_or(|c| !c.is_ascii_alphanumeric());
                            beside(digit[..*at].chars().next_back())
                                && beside(digit[at + name.len()..].chars().next())
                        })
                        .unwrap()
                        .0;
                    (digit[..bytes].chars().count() as u16, row as u16)
                })
            });
            found.unwrap_or_else(|| panic!("{style}: no {name} in\n{screen}"))
        };
        for place in 0..names.len() {
            let at = place_of(names[place]);
            window.drag(at, at);
            window.see(&format!("lit: {}", names[..=place].join(" ")));
        }
    }
}

#[test]
fn what_cannot_be_drawn_is_said() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.complaint("draw gull.dots"), @"
    error: draw needs a terminal with a screen and keys
     │
     ╰ help: to check or rewrite a sprite: spare-tile dots gull.dots
    [status 2]
    ");
    folder.write("few.dots", "dots 3x1\nframe\n##\n");
    let wrong = |line: &str| {
        let window = Window::open(&folder, SIZE, &format!("draw {line}"));
        assert_eq!(window.status(), 2, "{line}");
        window.see("error").trim().to_owned()
    };
    insta::assert_snapshot!(wrong("few.dots"), @"
    error: few.dots, line 3: a row of 2 dots; the sprite is 3 wide
     │
     ╰ help: the format of sprites is in docs/dots-file.md
    ");
    insta::assert_snapshot!(wrong("gull.dots --size 0x3"), @"
    error: invalid value '0x3' for '--size <WxH>': write a size from 1x1 to 1024x256, such as 32x8

    For more information, try '--help'.
    ");
    insta::assert_snapshot!(wrong("gull.dots --style seven"), @"
    error: gull.dots is a sprite and no glyph file
     │
     ╰ help: leave out what is for segments, such as --style
    ");
    insta::assert_snapshot!(wrong("waves.toml --size 8x8"), @"
    error: a digit has no --size
     │
     ╰ help: leave it out, or leave --style out
    ");
    insta::assert_snapshot!(wrong("gull.dots --rig sign.toml"), @"
    error: face sign has digits: it shows no sprites
     │
     ╰ help: pick a face with dots
    ");
    insta::assert_snapshot!(wrong("-"), @"error: draw needs a file that it can save: name one");
    folder.answer("show TEAL --rig board.toml --png teal.png");
    insta::assert_snapshot!(wrong("teal.png"), @"
    error: teal.png is a picture and no sprite
     │
     ╰ help: make a sprite of it first: spare-tile dots teal.png --out teal.dots
    ");
}

#[test]
fn a_file_that_cannot_be_saved_keeps_the_drawing() {
    let folder = Folder::empty();
    let mut window = draw(&folder, "nowhere/wave.dots");
    window.press("#s");
    window.see("cannot write nowhere/wave.dots");
    window.see("not saved");
    window.press("qq");
    assert_eq!(window.status(), 0);
}
