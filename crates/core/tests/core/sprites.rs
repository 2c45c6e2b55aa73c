//! Sprites: the file, and its frames in time.

use std::time::Duration;

use proptest::prelude::*;
use spare_tile_core::content::Canvas;
use spare_tile_core::content::pictures::place;
use spare_tile_core::dots::raster::{Raster, Shot};
use spare_tile_core::dots::sprite::{self, Sprite};
use spare_tile_core::frame::Level;
use spare_tile_core::play::animation::Animation;
use spare_tile_core::play::{Act, Inputs};

use crate::common::rig;

const GULL: &str = "dots 5x3 250ms\n; the gull over the landing\nframe up\n#...#\n.#.#.\n..#..\n\nframe down 1.5s\n.....\n##r##\n#...#\n";

#[test]
fn a_sprite_is_read_as_it_is_drawn() {
    let gull = sprite::read(GULL).unwrap();
    assert_eq!((gull.size(), gull.length()), ((5, 3), Duration::from_millis(1750)));
    let down = gull.shot("down").unwrap();
    assert_eq!((down.stays, down.raster.get(2, 1)), (Duration::from_millis(1500), [255, 0, 0]));
    assert_eq!(gull.shot("0"), gull.shot("up"));
    assert_eq!((gull.shot("2"), gull.shot("left")), (None, None));
    assert_eq!(sprite::write(&gull), GULL.replace("\n\n", "\n").replace("1.5s", "1500ms"));
}

#[test]
fn files_that_are_no_sprites() {
    let told = |found: &str, instead: &str| {
        assert!(GULL.contains(found), "{found}");
        sprite::read(&GULL.replacen(found, instead, 1)).unwrap_err().to_string()
    };
    insta::assert_debug_snapshot!([
        sprite::read("").unwrap_err().to_string(),
        told("dots 5x3 250ms\n", ""),
        told("5x3", "5"),
        told("5x3", "5x999"),
        told("250ms", "250"),
        told("250ms", "0s"),
        told("frame up\n", ""),
        told("#...#\n", "#...\n"),
        told("#...#\n", "#...x\n"),
        told("..#..\n\n", ""),
        told("..#..\n\n", "..#..\n..#..\n"),
        told("##r##\n#...#\n", "##r##\n"),
        told("frame down 1.5s", "frame down 1.5s slowly"),
        told("frame down", "frame up"),
        told("frame down", "frame d,n"),
        sprite::read("dots 1x1\n").unwrap_err().to_string(),
    ], @r#"
    [
        "line 1: a sprite begins with its size and perhaps a time: dots 8x8 250ms",
        "line 2: a sprite begins with its size and perhaps a time: dots 8x8 250ms",
        "line 1: 5 is not a size from 1x1 to 1024x256",
        "line 1: 5x999 is not a size from 1x1 to 1024x256",
        "line 1: '250' is not a duration; write a number and a unit: 30us, 250ms, 1.5s, 2m or 1h",
        "line 1: a frame must stay for some time",
        "line 3: a row before the first frame: write a line 'frame' above it",
        "line 4: a row of 4 dots; the sprite is 5 wide",
        "line 4: 'x' is not a dot; write . for dark, # for lit, or a colour: r g b y c m w",
        "line 5: the frame has 2 rows; the sprite is 3 high",
        "line 7: the frame has 4 rows; the sprite is 3 high",
        "line 10: the frame has 2 rows; the sprite is 3 high",
        "line 8: a frame line has a name and a time at most",
        "line 8: two frames are called up",
        "line 8: 'd,n' is not a name: write a letter, then letters, digits and -",
        "line 1: it has no frames",
    ]
    "#);
}

/// Any sprite of a few frames.
fn sprites() -> impl Strategy<Value = Sprite> {
    let shot = (prop::option::of("[a-z][a-z0-9-]{0,5}"), 1..5_000_000_u64, any::<u64>());
    (1..6_usize, 1..5_usize, prop::collection::vec(shot, 1..5)).prop_map(|(width, height, shots)| {
        let mut names = std::collections::HashSet::new();
        let shots = shots.into_iter().map(|(name, micros, seed)| {
            let mut raster = Raster::dark(width, height);
            for y in 0..height {
                for x in 0..width {
                    let bits = seed.rotate_left((5 * x + 17 * y) as u32);
                    raster.set(x, y, [0, 1, 2].map(|channel| if bits >> channel & 1 == 1 { 255 } else { 0 }));
                }
            }
            let name = name.filter(|name| names.insert(name.clone()));
            Shot { name, ..Shot::of(raster, Duration::from_micros(micros)) }
        });
        Sprite { shots: shots.collect() }
    })
}

proptest! {
    #[test]
    fn what_is_written_is_read(sprite in sprites()) {
        prop_assert_eq!(sprite::read(&sprite::write(&sprite)), Ok(sprite));
    }

    #[test]
    fn any_file_is_read_or_refused(at in 0..90_usize, cut in 0..20_usize, put in "[a-z0-9#. \n;x]{0,12}") {
        let text: String = GULL.chars().take(at).chain(put.chars()).chain(GULL.chars().skip(at + cut)).collect();
        if let Ok(sprite) = sprite::read(&text) {
            prop_assert_eq!(sprite::read(&sprite::write(&sprite)), Ok(sprite));
        }
    }

    /// At any moment the frame is the one whose time it is, told by adding the times up.
    #[test]
    fn a_sprite_plays_by_its_times(sprite in sprites(), times in prop::option::of(1..4_u32), at_us in 0..40_000_000_u64) {
        let rig = rig("[face.board]\nkind = \"dots\"\nwidth = 8\nheight = 8\n[face.board.drive]\nmethod = \"max7219\"\n\
                       pins = { clock = 1, data = 2, select = 3 }\n");
        let face = &rig.faces[0].face;
        let animation = Animation { sprite: sprite.clone(), times, at: (1, -1) };
        let shown = |at| {
            let mut frame = face.blank();
            animation.draw(at, &Inputs::default(), &mut Canvas::whole(face, &mut frame));
            frame
        };
        let length: u64 = sprite.shots.iter().map(|shot| shot.stays.as_micros() as u64).sum();
        let is_over = times.is_some_and(|times| at_us >= length * u64::from(times));
        let mut left = if is_over { length - 1 } else { at_us % length };
        let current = sprite.shots.iter().find(|shot| {
            let stays = shot.stays.as_micros() as u64;
            let is_current = left < stays;
            left = left.saturating_sub(stays);
            is_current
        });
        let mut expected = face.blank();
        place(&mut Canvas::whole(face, &mut expected), &current.unwrap().raster, (1, -1));
        let at = Duration::from_micros(at_us);
        prop_assert_eq!(&shown(at), &expected);
        // One light for three colours, cut at the top.
        let raster = &current.unwrap().raster;
        for x in 0..8 {
            let lit = expected.levels()[face.dot(x, 0).unwrap().0] != Level::OFF;
            prop_assert_eq!(lit, x > 0 && raster.get(x - 1, 1) != [0; 3]);
        }
        if let Some(next) = animation.next_change(at, &Inputs::default()) {
            prop_assert!(next > at);
            prop_assert_eq!(shown(next - Duration::from_nanos(1)), shown(at));
        } else {
            prop_assert_eq!(shown(at + Duration::from_secs(99)), shown(at));
        }
    }
}
