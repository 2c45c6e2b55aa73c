//! Contents that come one after another: what is seen at each moment, on dots and on digits.

use std::time::Duration;

use proptest::prelude::*;
use proptest::sample::select;
use spare_tile_core::content::Canvas;
use spare_tile_core::content::lettering::{Lettering, Look};
use spare_tile_core::content::text::Align;
use spare_tile_core::dots::own;
use spare_tile_core::face::{Element, Face};
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::play::scroll::Move;
use spare_tile_core::play::slides::{Change, Pace, Slide, Slides};
use spare_tile_core::play::{Act, Inputs};

use crate::common::{max7219, rig};

const STEP: Duration = Duration::from_millis(10);
const HOLD: Duration = Duration::from_millis(100);

fn pace(times: Option<u32>) -> Pace {
    Pace { step: STEP, hold: HOLD, times }
}

fn board() -> Face {
    let source = "[controller]\nsupply = { volts = 5.0, amps = 9.0 }\n[face.board]\nkind = \"dots\"\nwidth = 24\nheight = 8\n\
                  [face.board.drive]\nmethod = \"max7219\"\npins = { clock = 1, data = 2, select = 3 }\n";
    rig(source).faces.remove(0).face
}

fn shown(act: &Slides, face: &Face, at: Duration) -> Frame {
    let mut frame = face.blank();
    act.draw(at, &Inputs::default(), &mut Canvas::whole(face, &mut frame));
    frame
}

fn said(face: &Face, words: &str) -> Frame {
    let mut frame = face.blank();
    Canvas::whole(face, &mut frame).write(words, Align::Left).unwrap();
    frame
}

/// Returns the text of a frame of the desk.
fn read(face: &Face, frame: &Frame) -> String {
    (0..face.digits())
        .map(|digit| spare_tile_core::glyph::reading(face.style(), face.lit(frame, digit)).unwrap_or('?'))
        .collect()
}

#[test]
fn texts_on_digits_are_typed_pushed_and_wiped() {
    let rig = max7219(4, "");
    let face = &rig.faces[0].face;
    let slides = |change| {
        let slides = ["tEAL", "48"].map(|words| Slide::on_digits(face, said(face, words)));
        Slides::new(face, slides.into(), change, pace(Some(1)))
    };
    let at = |act: &Slides, ms: u64| read(face, &shown(act, face, Duration::from_millis(ms)));
    let typed = slides(Change::Type);
    let moments = [0, 10, 25, 40, 139, 140, 150, 160, 259, 9999].map(|ms| at(&typed, ms));
    assert_eq!(moments, ["    ", "t   ", "tE  ", "tEAL", "tEAL", "    ", "4   ", "48  ", "48  ", "48  "]);
    // The blanks that fill the second up are not typed.
    assert_eq!(typed.length(), Some(Duration::from_millis(40 + 100 + 20 + 100)));
    let pushed = slides(Change::Push(Move::Left));
    let moments = [0, 10, 20, 40, 140, 150, 160, 170, 180].map(|ms| at(&pushed, ms));
    assert_eq!(moments, ["    ", "   t", "  tE", "tEAL", "tEAL", "EAL4", "AL48", "L48 ", "48  "]);
    let wiped = slides(Change::Wipe);
    assert_eq!([140, 150, 160, 180].map(|ms| at(&wiped, ms)), ["tEAL", "4EAL", "48AL", "48  "]);
    let cut = slides(Change::Cut);
    assert_eq!([0, 99, 100, 199].map(|ms| at(&cut, ms)), ["tEAL", "tEAL", "48  ", "48  "]);
}

#[test]
fn a_text_on_dots_is_typed_character_by_character() {
    let face = board();
    let look = Look { align: Align::Centre, ..Look::of(own::called("small").unwrap()) };
    let lettering = |words: &str| Lettering { words: words.into(), look: look.clone() };
    let act = Slides::new(
        &face,
        vec![Slide::on_dots(&face, &lettering("EHE")).unwrap()],
        Change::Type,
        pace(Some(1)),
    );
    // Each beginning stands where it stands at the end: at the left edge of the whole.
    let whole = lettering("EHE").strip().unwrap().width();
    for (count, words) in ["", "E", "EH", "EHE"].iter().enumerate() {
        let mut wanted = face.blank();
        let left = ((24 - whole) / 2) as isize;
        let beginning =
            Lettering { look: Look { align: Align::Left, offset: left, ..look.clone() }, ..lettering(words) };
        beginning.draw(&mut Canvas::whole(&face, &mut wanted)).unwrap();
        assert_eq!(shown(&act, &face, STEP * count as u32), wanted, "{words}");
    }
}

#[test]
fn a_fade_goes_through_the_levels_between() {
    let face = board();
    let level = |level: u8| {
        let mut frame = face.blank();
        frame.levels_mut().fill(Level(level));
        Slide::of(frame)
    };
    let act = Slides::new(&face, vec![level(200), level(40)], Change::Fade(4), pace(None));
    let at = |ms: u64| shown(&act, &face, Duration::from_millis(ms)).levels()[5].0;
    assert_eq!([0, 10, 20, 30, 40, 139].map(at), [0, 50, 100, 150, 200, 200]);
    assert_eq!([150, 160, 170, 180].map(at), [160, 120, 80, 40]);
    // Round again, from the last to the first.
    assert_eq!([290, 300, 320].map(at), [80, 120, 200]);
}

proptest! {
    /// A push is at any moment a part of the two pictures side by side, worked out here dot by dot.
    #[test]
    fn what_pushes_is_both_side_by_side(
        way in select(vec![Move::Left, Move::Right, Move::Up, Move::Down]),
        (one, two) in (prop::collection::vec(any::<u8>(), 192), prop::collection::vec(any::<u8>(), 192)),
        come in 0..24_usize,
    ) {
        let face = board();
        let frame = |levels: &[u8]| {
            let mut frame = face.blank();
            frame.levels_mut().iter_mut().zip(levels).for_each(|(slot, level)| *slot = Level(*level));
            frame
        };
        let act = Slides::new(&face, vec![Slide::of(frame(&one)), Slide::of(frame(&two))], Change::Push(way), pace(Some(1)));
        let (size, sideways) = if matches!(way, Move::Left | Move::Right) { (24, true) } else { (8, false) };
        prop_assume!(come <= size);
        let begin = STEP * size as u32 + HOLD;
        let seen = shown(&act, &face, begin + STEP * come as u32);
        for (x, y) in (0..8_isize).flat_map(|y| (0..24_isize).map(move |x| (x, y))) {
            let come = come as isize;
            let (from_x, from_y) = match way {
                Move::Left => (x + come, y),
                Move::Right => (x - come, y),
                Move::Up => (x, y + come),
                Move::Down => (x, y - come),
            };
            let is_old = (0..24).contains(&from_x) && (0..8).contains(&from_y);
            let (from_x, from_y) = (from_x.rem_euclid(24), from_y.rem_euclid(8));
            let wanted = if is_old { &one } else { &two }[(from_y * 24 + from_x) as usize];
            let Element(dot) = face.dot(x as usize, y as usize).unwrap();
            prop_assert_eq!(seen.levels()[dot].0, wanted, "{},{} {}", x, y, sideways);
        }
    }

    /// Between two changes nothing changes, and the changes come in order up to the end.
    #[test]
    fn it_stands_between_two_changes(
        change in select(vec![Change::Cut, Change::Type, Change::Wipe, Change::Push(Move::Up), Change::Fade(5)]),
        levels in prop::collection::vec(any::<u8>(), 192),
        times in 1..3_u32,
    ) {
        let face = board();
        let mut frame = face.blank();
        frame.levels_mut().iter_mut().zip(&levels).for_each(|(slot, level)| *slot = Level(*level));
        let act = Slides::new(&face, vec![Slide::of(frame), Slide::of(face.blank())], change, pace(Some(times)));
        let (mut at, inputs) = (Duration::ZERO, Inputs::default());
        while let Some(next) = act.next_change(at, &inputs) {
            prop_assert!(next > at);
            let last = next - Duration::from_nanos(1);
            prop_assert_eq!(shown(&act, &face, at), shown(&act, &face, last));
            at = next;
        }
        let length = act.length().unwrap();
        prop_assert!(at < length);
        prop_assert_eq!(shown(&act, &face, at), shown(&act, &face, length * 3));
    }
}
