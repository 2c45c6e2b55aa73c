//! Texts on dots: where each dot stands, what becomes of what does not fit, and what moves.

use std::time::Duration;

use proptest::prelude::*;
use proptest::sample::select;
use spare_tile_core::content::dots::Dots;
use spare_tile_core::content::lettering::{Fit, Lettering, LetteringError, Look};
use spare_tile_core::content::number::NumberFormat;
use spare_tile_core::content::text::Align;
use spare_tile_core::content::{Canvas, Content};
use spare_tile_core::dots::Bitmap;
use spare_tile_core::dots::font::{Fitting, Setting};
use spare_tile_core::dots::own;
use spare_tile_core::face::Face;
use spare_tile_core::frame::Level;
use spare_tile_core::plan::Rig;
use spare_tile_core::play::scroll::{Move, Pace, PassingText, Points, Scroll};
use spare_tile_core::play::{Act, Inputs};

use crate::common::Powered;

fn board(width: usize, height: usize) -> Rig {
    let source = format!(
        "[controller]\nsupply = {{ volts = 5.0, amps = 9.0 }}\n[face.board]\nkind = \"dots\"\nwidth = {width}\n\
         height = {height}\n[face.board.drive]\nmethod = \"max7219\"\npins = {{ clock = 1, data = 2, select = 3 }}\n"
    );
    Rig::read(&source).rig.unwrap()
}

fn look() -> Look {
    Look::of(own::called("board").unwrap())
}

/// Returns the lit dots after drawing something, as rows.
fn drawn(face: &Face, draw: impl FnOnce(&mut Canvas<'_>)) -> String {
    let mut frame = face.blank();
    draw(&mut Canvas::whole(face, &mut frame));
    let grid = face.dots().unwrap();
    let mut bitmap = Bitmap::dark(grid.width, grid.height);
    for y in 0..grid.height {
        for x in 0..grid.width {
            bitmap.set(x, y, frame.levels()[face.dot(x, y).unwrap().0] != Level::OFF);
        }
    }
    bitmap.to_string()
}

fn said(words: &str, look: Look) -> Result<String, LetteringError> {
    let rig = board(32, 8);
    let lettering = Lettering { words: words.to_owned(), look };
    let mut result = Ok(());
    let rows = drawn(&rig.faces[0].face, |canvas| result = lettering.draw(canvas));
    result.map(|()| rows)
}

#[test]
fn a_text_stands_where_it_is_put() {
    insta::assert_snapshot!(said("Teal", look()).unwrap(), @"
    #####.........#.................
    ..#...........#.................
    ..#..##...##..#.................
    ..#.#..#....#.#.................
    ..#.####..###.#.................
    ..#.#....#..#.#.................
    ..#..###..###..#................
    ................................
    ");
    let place = |align, offset| {
        let rows = said("I", Look { align, offset, ..look() }).unwrap();
        rows.lines().next().unwrap().find("###")
    };
    assert_eq!(
        (place(Align::Left, 0), place(Align::Right, 0), place(Align::Centre, 0)),
        (Some(0), Some(29), Some(14))
    );
    assert_eq!((place(Align::Left, 5), place(Align::Right, -2)), (Some(5), Some(27)));
    // Beyond the edges it is cut.
    let cut = said("I", Look { offset: -1, ..look() }).unwrap();
    assert!(cut.starts_with("##....") && !cut.contains("###"));
    // Inverse: what was lit is dark and all else lit.
    let (plain, inverse) =
        (said("Teal", look()).unwrap(), said("Teal", Look { inverse: true, ..look() }).unwrap());
    let turned: String = plain
        .chars()
        .map(|dot| match dot {
            '#' => '.',
            '.' => '#',
            other => other,
        })
        .collect();
    assert_eq!(inverse, turned);
}

proptest! {
    #[test]
    fn an_ellipsis_keeps_as_much_as_fits(words in "[A-Zil ]{1,40}", repeated in select(vec![1, 2, 20])) {
        let words = words.repeat(repeated);
        let plain = look();
        let strip = |words: &str| Lettering { words: words.to_owned(), look: plain.clone() }.strip().unwrap();
        let shortened = said(&words, Look { fit: Fit::Ellipsis, ..plain.clone() }).unwrap();
        let start = &words[..words.len().min(40)];
        let expected = if strip(&words).width() <= 32 {
            words.clone()
        } else {
            let kept = |end: usize| format!("{}...", start[..end].trim_end());
            (0..start.len()).rev().map(kept).find(|line| strip(line).width() <= 32).unwrap()
        };
        prop_assert_eq!(shortened, said(&expected, plain).unwrap());
    }
}

#[test]
fn what_is_typed_beyond_the_edge_takes_no_time() {
    let typed = |words: &str| {
        let look = Look { fit: Fit::Cut, ..look() };
        Lettering { words: words.to_owned(), look }.stops((32, 8)).unwrap()
    };
    let (short, long) = (typed("TEAL 07:58"), typed(&"TEAL 07:58 ".repeat(100)));
    assert_eq!(short.iter().map(|stop| stop.from).collect::<Vec<_>>(), [0, 5, 11, 17, 22, 26]);
    assert_eq!(short, long);
}

#[test]
fn what_does_not_fit() {
    let fit = |words: &str, fit| said(words, Look { fit, ..look() });
    assert_eq!(
        fit("TEAL 07:58", Fit::Whole).unwrap_err().to_string(),
        "the text takes 52 columns in the font board; there are 32"
    );
    let whole = said("TEAL 07:58", Look { fit: Fit::Cut, ..look() }).unwrap();
    assert!(whole.starts_with("#####.#####..###..#.........###."), "{whole}");
    insta::assert_snapshot!(fit("TEAL 07:58", Fit::Ellipsis).unwrap(), @"
    #####.#####..###..#.............
    ..#...#.....#...#.#.............
    ..#...#.....#...#.#.............
    ..#...####..#####.#.............
    ..#...#.....#...#.#.............
    ..#...#.....#...#.#.............
    ..#...#####.#...#.####.#.#.#....
    ................................
    ");
    // Two lines of eight rows want sixteen.
    let found = fit("TEAL 07:58", Fit::Wrap).unwrap_err();
    assert_eq!(found, LetteringError::TooHigh { font: "board".into(), found: 16, height: 8 });
    let rig = board(32, 16);
    let lettering = |words: &str| Lettering {
        words: words.to_owned(),
        look: Look { fit: Fit::Wrap, align: Align::Centre, ..look() },
    };
    let two = drawn(&rig.faces[0].face, |canvas| lettering("TEAL 07:58").draw(canvas).unwrap());
    insta::assert_snapshot!(two, @"
    .....#####.#####..###..#........
    .......#...#.....#...#.#........
    .......#...#.....#...#.#........
    .......#...####..#####.#........
    .......#...#.....#...#.#........
    .......#...#.....#...#.#........
    .......#...#####.#...#.####.....
    ................................
    ....###..#####...#####..###.....
    ...#...#.....#...#.....#...#....
    ...#..##....#..#.####..#...#....
    ...#.#.#...#.........#..###.....
    ...##..#...#.........#.#...#....
    ...#...#...#...#.#...#.#...#....
    ....###....#......###...###.....
    ................................
    ");
    let lines = drawn(&rig.faces[0].face, |canvas| lettering("TEAL\n07:58").draw(canvas).unwrap());
    assert_eq!(lines, two, "a line that is broken by hand");
    // A word that is wider than the face cannot be wrapped.
    assert!(matches!(fit("MMMMMMMMM", Fit::Wrap), Err(LetteringError::TooWide { .. })));
    assert!(matches!(fit("漢", Fit::Cut), Err(LetteringError::Font(_))));
}

#[test]
fn words_are_taken_for_what_they_are() {
    let rig = board(32, 8);
    let face = &rig.faces[0].face;
    let content = |words: &str, number: Option<&NumberFormat>| {
        Content::of_words(words, number, None, Some(&look()), face).unwrap()
    };
    assert!(matches!(content("#..#/.##.", None), Content::Dots(_)));
    assert!(matches!(content("7:58", None), Content::Lettering(_)));
    assert!(
        Dots::is_drawing("./.")
            && Dots::is_drawing("#")
            && !Dots::is_drawing("...")
            && !Dots::is_drawing("# 4")
    );
    // Numbers stand right, in their form.
    let places = NumberFormat { places: Some(1), ..NumberFormat::default() };
    let shown = drawn(face, |canvas| content("-0.44", Some(&places)).draw(canvas).unwrap());
    let number = |words: &str| {
        let number = Lettering::of_number(words.to_owned(), &Look { align: Align::Right, ..look() });
        drawn(face, |canvas| number.draw(canvas).unwrap())
    };
    let expected = number("-0.4");
    assert_eq!(shown, expected);
    // The room is counted in figures: 32 columns have five of six, with a point of two between.
    let shortest = NumberFormat { shortest: true, ..NumberFormat::default() };
    let shown = drawn(face, |canvas| content("3.14159265", Some(&shortest)).draw(canvas).unwrap());
    assert_eq!(shown, number("3.1416"));
    // A 1 takes as much room as any figure, so that the others stay where they are.
    let left = |words: &str| number(words).lines().map(|row| row[..26].to_owned()).collect::<Vec<_>>();
    assert_eq!(left("41"), left("48"));
    assert_eq!(number("1"), said("1", Look { align: Align::Right, offset: -1, ..look() }).unwrap());
}

/// A text whose braces are meant as such.
fn escaped(words: &str) -> String {
    words
        .chars()
        .map(|character| match character {
            '{' => "{{".to_owned(),
            '}' => "{}".to_owned(),
            other => other.to_string(),
        })
        .collect()
}

#[test]
fn colours_and_fonts_of_one_line_stand_on_one_line() {
    let source = "[controller]\nsupply = { volts = 5.0, amps = 9.0 }\n[face.beacon]\nkind = \"dots\"\nwidth = 24\nheight = 8\n\
                  colours = [\"red\", \"green\"]\n[face.beacon.drive]\nmethod = \"ht16k33\"\npins = { clock = 1, data = 2 }\n";
    let rig = Rig::read(source).rig.unwrap();
    let mut powered = Powered::new(&rig);
    let face = &rig.faces[0].face;
    let mut frame = face.blank();
    let lettering = Lettering { words: "{red:E}{small:{green:E}}4".into(), look: look() };
    lettering.draw(&mut Canvas::whole(face, &mut frame)).unwrap();
    powered.show(&frame);
    let picture = powered.picture();
    let row = |y| (0..24).map(|x| picture.letter(x, y)).collect::<String>();
    let rows: Vec<_> = (0..8).map(row).collect();
    insta::assert_snapshot!(rows.join("\n"), @"
    rrrrr........y..........
    r...........yy..........
    r.....ggg..y.y..........
    rrrr..g...y..y..........
    r.....gg..yyyyy.........
    r.....g......y..........
    rrrrr.ggg....y..........
    ........................
    ");
    assert_eq!(lettering.plainly(), "EE4");
    // Without the braces' colours it is as wide as its parts.
    let strip = lettering.strip().unwrap();
    assert_eq!((strip.height(), strip.layers().count()), (8, 3));
}

proptest! {
    /// From the text over the wires of the chain to the lights: what the model shows is the line that the font sets.
    #[test]
    fn a_text_comes_back_from_the_edges(words in "[ -~]{0,8}", modules in 1..5_usize, spacing in -1..3_isize) {
        let rig = board(8 * modules, 8);
        let setting = Setting { spacing, fitting: Fitting::Kerned };
        let look = Look { setting, fit: Fit::Cut, ..look() };
        let line = look.font.set(&words, setting).unwrap();
        let face = &rig.faces[0].face;
        let mut frame = face.blank();
        Lettering { words: escaped(&words), look }.draw(&mut Canvas::whole(face, &mut frame)).unwrap();
        let mut powered = Powered::new(&rig);
        powered.show(&frame);
        let picture = powered.picture();
        for y in 0..8 {
            for x in 0..8 * modules {
                prop_assert_eq!(picture.dot(x, y) > 0.0, line.get(x, y), "({}, {})", x, y);
            }
        }
    }

    /// At any moment asked for, in any order, a scroll is where its steps have brought it; between two changes it stands.
    #[test]
    fn what_moves_is_exact_at_any_moment(
        words in "[A-Z]{1,3}",
        way in select(vec![Move::Left, Move::Right, Move::Up, Move::Down]),
        gap in prop::option::of(0..20_usize),
        times in prop::option::of(1..4_u32),
        step_ms in 1..200_u64,
        at_ms in 0..60_000_u64,
    ) {
        let rig = board(16, 8);
        let face = &rig.faces[0].face;
        let strip = look().font.set(&words, Setting::default()).unwrap();
        let step = Duration::from_millis(step_ms);
        let scroll = Scroll::new(strip.clone(), way, (16, 8), Pace { step, gap, times });
        let shown = |at| drawn(face, |canvas| scroll.draw(at, &Inputs::default(), canvas));
        let at = Duration::from_millis(at_ms);
        // Dot by dot: each passage by itself, told by where its first column or row stands.
        let mut expected = Bitmap::dark(16, 8);
        let (own, room) = match way {
            Move::Left | Move::Right => (strip.width(), 16),
            Move::Up | Move::Down => (strip.height(), 8),
        };
        let moved = (at_ms / step_ms) as isize;
        for passage in 0..times.unwrap_or(100_000).min(100_000) as isize {
            let since = moved - passage * (own + gap.unwrap_or(room)) as isize;
            if since < 0 {
                break;
            }
            if since > (own + room) as isize {
                continue;
            }
            let (middle_x, middle_y) = ((16 - strip.width() as isize).div_euclid(2), (8 - strip.height() as isize).div_euclid(2));
            match way {
                Move::Left => expected.add(&strip, 16 - since, middle_y),
                Move::Right => expected.add(&strip, since - own as isize, middle_y),
                Move::Up => expected.add(&strip, middle_x, 8 - since),
                Move::Down => expected.add(&strip, middle_x, since - own as isize),
            }
        }
        prop_assert_eq!(shown(at), expected.to_string());
        match scroll.next_change(at, &Inputs::default()) {
            Some(next) => {
                prop_assert!(next > at && next <= at + step);
                prop_assert_eq!(shown(next - Duration::from_nanos(1)), shown(at));
            }
            None => {
                prop_assert!(at + step > scroll.length().unwrap());
                prop_assert_eq!(shown(at + 99 * step), shown(at));
            }
        }
        // It begins and ends in the dark.
        let dark = Bitmap::dark(16, 8).to_string();
        prop_assert_eq!(shown(Duration::ZERO), dark.clone());
        if let Some(length) = scroll.length() {
            prop_assert_eq!(shown(length), dark);
            prop_assert_eq!(scroll.next_change(length, &Inputs::default()), None);
        } else {
            prop_assert_eq!(times, None);
        }
    }
}

proptest! {
    /// A text that passes across digits is, at any moment, the visible piece of the text with blanks around it. If points are
    /// parted each is a piece of its own.
    #[test]
    fn a_text_passes_digit_by_digit(
        words in "[A-F0-9.]{0,11}[A-F0-9]",
        points in select(vec![Points::Joined, Points::Parted]),
        to_the_right in any::<bool>(),
        times in prop::option::of(1..4_u32),
        step_ms in 1..200_u64,
        at_ms in 0..20_000_u64,
    ) {
        let words = if points == Points::Joined { words.replace('.', "") } else { words };
        let rig = Rig::read(include_str!("../../../cli/demo/gauge.toml")).rig.unwrap();
        let face = &rig.faces[0].face;
        let pace = Pace { step: Duration::from_millis(step_ms), gap: None, times };
        let passing = PassingText::new(&words, face, 4, to_the_right, points, pace).unwrap();
        let at = Duration::from_millis(at_ms);
        let mut frame = face.blank();
        passing.draw(at, &Inputs::default(), &mut Canvas::whole(face, &mut frame));
        let whole = words.len() + 4;
        let moved = (at_ms / step_ms) as usize;
        let is_over = times.is_some_and(|times| moved >= whole * times as usize);
        let come = if is_over { 0 } else { moved % whole };
        let paper: Vec<char> = format!("    {words}    ").chars().collect();
        let from = if to_the_right { whole - come } else { come };
        // A blank and a point are a digit with nothing but its point.
        let piece = |character: &char| if *character == '.' { " .".to_owned() } else { character.to_string() };
        let seen: String = paper[from..from + 4].iter().map(piece).collect();
        let mut expected = face.blank();
        Canvas::whole(face, &mut expected).write(&seen, Align::Left).unwrap();
        prop_assert_eq!(frame, expected);
        let length = times.map(|times| pace.step * (whole as u32 * times));
        prop_assert_eq!(passing.length(), length);
    }
}
