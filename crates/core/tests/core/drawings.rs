//! Drawing by hand: drawn dots are there, and every change can be undone.

use std::time::Duration;

use proptest::prelude::*;
use spare_tile_core::dots::raster::{OFF, Raster};
use spare_tile_core::dots::sprite::{self, SpriteProblem};
use spare_tile_core::drawing::film::{CannotDraw, Film, line};
use spare_tile_core::drawing::sheet::Sheet;
use spare_tile_core::glyph::{OwnGlyphs, Segments, Style, glyph};

const RED: [u8; 3] = [255, 0, 0];
const WHITE: [u8; 3] = [255; 3];
const STAYS: Duration = Duration::from_millis(250);

fn drawn(film: &Film) -> Vec<String> {
    sprite::rows(&film.shot().raster)
}

#[test]
fn a_stroke_is_undone_as_a_whole() {
    let mut film = Film::dark((4, 2), STAYS);
    film.stroke([(0, 0)], WHITE, false);
    film.stroke(line((0, 0), (3, 1)), WHITE, true);
    assert_eq!(drawn(&film), ["##..", "..##"]);
    film.stroke([(0, 0)], OFF, false);
    assert!(film.undo());
    assert_eq!(drawn(&film), ["##..", "..##"]);
    assert!(film.undo() && !film.undo());
    assert!(!film.is_changed());
    assert!(film.redo() && film.redo() && !film.redo());
    assert_eq!(drawn(&film), [".#..", "..##"]);
}

/// A stroke that begins where nothing changes is none of what was done before it.
#[test]
fn a_stroke_over_what_is_drawn_already_is_a_stroke_of_its_own() {
    let mut film = Film::dark((3, 1), STAYS);
    film.stroke([(0, 0)], WHITE, false);
    film.stroke([(0, 0)], WHITE, false);
    film.stroke([(1, 0)], WHITE, true);
    assert!(film.undo());
    assert_eq!(drawn(&film), ["#.."]);
    film.stroke([(2, 0)], WHITE, true);
    assert!(film.undo());
    assert_eq!(drawn(&film), ["#.."]);
}

#[test]
fn who_undoes_a_change_is_shown_where_it_was() {
    let mut film = Film::dark((1, 1), STAYS);
    film.insert(true).unwrap();
    film.insert(true).unwrap();
    film.go_to(1);
    film.stroke([(0, 0)], RED, false);
    film.go_to(0);
    assert!(film.undo());
    assert_eq!((film.at(), film.shots().len()), (1, 3));
    assert!(film.undo());
    assert_eq!((film.at(), film.shots().len()), (1, 2));
}

#[test]
fn a_fill_stops_at_what_has_another_colour() {
    let walls = sprite::read("dots 5x4\nframe\n..#..\n.#...\n#....\n....#\n").unwrap();
    let mut film = Film::of(&walls);
    film.fill((0, 0), RED);
    assert_eq!(drawn(&film), ["rr#..", "r#...", "#....", "....#"]);
    film.fill((9, 9), RED);
    assert_eq!(drawn(&film)[3], "....#");
}

#[test]
fn what_cannot_be_drawn() {
    let mut film = Film::dark((2, 1), STAYS);
    assert_eq!(film.remove(), Err(CannotDraw::LastFrame));
    assert_eq!(film.change(|raster| raster.turned(1)), Err(CannotDraw::NotSquare));
    assert_eq!(film.set_time(Duration::ZERO), Err(SpriteProblem::NoTime.into()));
    film.set_name("up").unwrap();
    film.insert(false).unwrap();
    assert_eq!(film.shot().name, None, "a copy has no name of its own");
    assert_eq!(film.set_name("up"), Err(SpriteProblem::NameTwice { name: "up".into() }.into()));
    assert_eq!(film.set_name("9 o'clock"), Err(SpriteProblem::Name { found: "9 o'clock".into() }.into()));
    film.set_name("").unwrap();
}

#[test]
fn another_size_says_what_is_lost() {
    let mut film = Film::of(&sprite::read("dots 3x2\nframe\n#.#\n..#\nframe\n...\n#..\n").unwrap());
    assert_eq!(film.resize((2, 1)), 3);
    assert_eq!(drawn(&film), ["#."]);
    assert!(film.undo());
    assert_eq!(film.resize((4, 3)), 0);
    assert_eq!(drawn(&film), ["#.#.", "..#.", "...."]);
}

/// The actions on a film.
#[derive(Debug, Clone)]
enum Deed {
    Stroke((usize, usize), (usize, usize), bool),
    Fill((usize, usize)),
    Negative,
    Insert(bool),
    Remove,
    Exchange(bool),
    Time(u64),
    Name(String),
    Resize((usize, usize)),
    GoTo(usize),
}

fn deeds() -> impl Strategy<Value = Deed> {
    let dot = || (0..9_usize, 0..9_usize);
    prop_oneof![
        4 => (dot(), dot(), any::<bool>()).prop_map(|(from, to, goes_on)| Deed::Stroke(from, to, goes_on)),
        1 => dot().prop_map(Deed::Fill),
        1 => Just(Deed::Negative),
        2 => any::<bool>().prop_map(Deed::Insert),
        1 => Just(Deed::Remove),
        1 => any::<bool>().prop_map(Deed::Exchange),
        1 => (0..900_u64).prop_map(Deed::Time),
        1 => "[a-c]?".prop_map(Deed::Name),
        1 => (1..9_usize, 1..9_usize).prop_map(Deed::Resize),
        2 => (0..5_usize).prop_map(Deed::GoTo),
    ]
}

fn act(film: &mut Film, deed: &Deed) {
    // Impossible actions change nothing.
    let _ = match deed.clone() {
        Deed::Stroke(from, to, goes_on) => {
            film.stroke(line(from, to), RED, goes_on);
            Ok(())
        }
        Deed::Fill(dot) => {
            film.fill(dot, WHITE);
            Ok(())
        }
        Deed::Negative => film.change(Raster::inverted),
        Deed::Insert(is_dark) => film.insert(is_dark),
        Deed::Remove => film.remove(),
        Deed::Exchange(with_next) => {
            film.exchange(with_next);
            Ok(())
        }
        Deed::Time(millis) => film.set_time(Duration::from_millis(millis)),
        Deed::Name(name) => film.set_name(&name),
        Deed::Resize(size) => {
            film.resize(size);
            Ok(())
        }
        Deed::GoTo(at) => {
            film.go_to(at);
            Ok(())
        }
    };
}

proptest! {
    /// After anything that was done there is a sprite whose file is read; undone it is as at the beginning, and made again as at
    /// the end.
    #[test]
    fn all_that_is_done_can_be_undone(deeds in prop::collection::vec(deeds(), 0..40)) {
        let mut film = Film::dark((4, 3), STAYS);
        let begun = film.sprite();
        for deed in &deeds {
            act(&mut film, deed);
            prop_assert!(film.at() < film.shots().len());
            let sprite = film.sprite();
            prop_assert_eq!(sprite::read(&sprite::write(&sprite)), Ok(sprite));
        }
        let ended = film.sprite();
        while film.undo() {
            prop_assert!(film.at() < film.shots().len());
        }
        prop_assert_eq!(film.sprite(), begun);
        prop_assert!(!film.is_changed());
        while film.redo() {}
        prop_assert_eq!(film.sprite(), ended);
    }

    #[test]
    fn a_line_has_both_ends_and_no_gap(from in (0..40_usize, 0..40_usize), to in (0..40_usize, 0..40_usize)) {
        let dots: Vec<_> = line(from, to).collect();
        prop_assert_eq!((dots[0], dots[dots.len() - 1]), (from, to));
        for pair in dots.windows(2) {
            prop_assert!(pair[0].0.abs_diff(pair[1].0) <= 1 && pair[0].1.abs_diff(pair[1].1) <= 1);
        }
    }

    /// Whatever is done to characters can be undone too, and the one that is looked at is there.
    #[test]
    fn characters_can_be_undone(deeds in prop::collection::vec((0..6_u8, 0..18_usize, "[a-d]"), 0..60)) {
        let mut own = OwnGlyphs::default();
        own.draw('~', Segments(0b100_1001));
        let mut sheet = Sheet::of(Style::Sixteen, &own);
        let begun = sheet.characters().to_vec();
        for (deed, segment, name) in &deeds {
            match deed {
                0 | 1 => sheet.toggle(*segment),
                2 => sheet.name(name.chars().next().unwrap()),
                3 => sheet.remove(),
                _ => sheet.go_on(*deed == 4),
            }
            prop_assert_eq!(sheet.character().is_some(), sheet.at().is_some());
            prop_assert!(sheet.pattern().0 < 1 << Style::Sixteen.segment_count());
        }
        let ended = sheet.characters().to_vec();
        while sheet.undo() {}
        prop_assert_eq!(sheet.characters(), &begun[..]);
        while sheet.redo() {}
        prop_assert_eq!(sheet.characters(), &ended[..]);
    }
}

#[test]
fn a_pattern_becomes_a_character_when_it_is_named() {
    let mut sheet = Sheet::of(Style::Seven, &OwnGlyphs::default());
    assert_eq!((sheet.character(), sheet.pattern()), (None, Segments::NONE));
    sheet.toggle(0);
    sheet.toggle(6);
    assert!(!sheet.is_changed(), "it is not a character yet");
    sheet.name('~');
    assert_eq!(sheet.characters(), [('~', Segments(0b100_0001))]);
    // Another begins as the style draws it.
    sheet.name('8');
    assert_eq!(sheet.pattern(), glyph(Style::Seven, '8').unwrap().segments);
    sheet.toggle(6);
    sheet.name('~');
    assert_eq!((sheet.at(), sheet.characters().len()), (Some(0), 2));
    sheet.go_on(false);
    assert_eq!((sheet.at(), sheet.pattern()), (None, Segments::NONE));
    sheet.go_on(false);
    assert_eq!(sheet.character(), Some('8'));
    assert!(sheet.is_changed());
    sheet.mark_saved();
    assert!(!sheet.is_changed());
}
