//! Rigs and frames that the tests share.

use proptest::prelude::*;
use spare_tile_core::board::Board;
use spare_tile_core::board::picture::Picture;
use spare_tile_core::content::Canvas;
use spare_tile_core::content::text::{Align, TextError};
use spare_tile_core::dots::font::Font;
use spare_tile_core::dots::reduce::Reduction;
use spare_tile_core::dots::sprite::{self, Sprite};
use spare_tile_core::frame::{Frame, Level};
use spare_tile_core::glyph::{BitOrder, Common, Grade, Style, characters, glyph};
use spare_tile_core::plan::{BothRigs, Rig};
use spare_tile_core::play::reel::{Program, Sources, read};
use spare_tile_core::play::scheduler::Scheduler;

/// A rig that must be sound.
pub fn rig(source: &str) -> Rig {
    let reading = Rig::read(source);
    reading.rig.unwrap_or_else(|| panic!("{:#?}\n{source}", reading.findings))
}

/// A face of `digits` behind as many max7219 as it takes, with these lines added to its drive.
pub fn max7219(digits: usize, drive: &str) -> Rig {
    rig(&format!(
        r#"
        [face.desk]
        kind = "seven-segment"
        digits = {digits}
        [face.desk.drive]
        method = "max7219"
        pins = {{ data = "GP19", clock = "GP18", select = "GP17" }}
        {drive}
        "#
    ))
}

/// A face of fourteen or sixteen segments behind max7219, with these lines added to its drive.
pub fn wide(kind: &str, digits: usize, drive: &str) -> Rig {
    rig(&format!(
        r#"
        [face.sign]
        kind = "{kind}"
        digits = {digits}
        [face.sign.drive]
        method = "max7219"
        pins = {{ data = 11, clock = 13, select = 10 }}
        {drive}
        "#
    ))
}

/// One digit with a pin for each segment.
pub fn berth(common: &str) -> Rig {
    rig(&format!(
        r#"
        [face.berth]
        kind = "seven-segment"
        digits = 1
        common = "{common}"
        [face.berth.drive]
        method = "static"
        segments = {{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8, dp = 9 }}
        "#
    ))
}

/// A frame in which just the elements marked true are lit.
pub fn frame(lit: &[bool]) -> Frame {
    let mut frame = Frame::dark(lit.len());
    for (level, lit) in frame.levels_mut().iter_mut().zip(lit) {
        *level = if *lit { Level::FULL } else { Level::OFF };
    }
    frame
}

/// Which elements of a picture give light.
pub fn lit(picture: &Picture<'_>) -> Vec<bool> {
    picture.light.iter().map(|light| *light > 0.0).collect()
}

/// The rigs of the landing, in the order of their names.
pub const LANDING: [&str; 9] = [
    include_str!("../../../cli/demo/beacon.toml"),
    include_str!("../../../cli/demo/berth.toml"),
    include_str!("../../../cli/demo/board.toml"),
    include_str!("../../../cli/demo/departures.toml"),
    include_str!("../../../cli/demo/desk.toml"),
    include_str!("../../../cli/demo/gauge.toml"),
    include_str!("../../../cli/demo/landing.toml"),
    include_str!("../../../cli/demo/quay.toml"),
    include_str!("../../../cli/demo/sign.toml"),
];

/// Some frames of a face with so many elements.
pub fn frames(elements: usize) -> impl Strategy<Value = Vec<Vec<bool>>> {
    prop::collection::vec(prop::collection::vec(any::<bool>(), elements), 1..4)
}

/// The first face of a rig on a board, with power.
pub struct Powered<'r> {
    pub scheduler: Scheduler<'r, Board<'r>>,
}

impl<'r> Powered<'r> {
    /// Built as it is described; the power-up sequence was sent.
    pub fn new(rig: &'r Rig) -> Self {
        Self::built_as(rig, rig)
    }

    /// Described as one rig says, built as another.
    pub fn built_as(described: &'r Rig, built: &'r Rig) -> Self {
        Self::on(described, Board::built_as(BothRigs { described, built }))
    }

    /// On this board.
    pub fn on(described: &'r Rig, board: Board<'r>) -> Self {
        let mut scheduler = Scheduler::new(described, board);
        scheduler.power_up(0).unwrap();
        Self { scheduler }
    }

    pub fn show(&mut self, frame: &Frame) {
        self.scheduler.show(0, frame).unwrap();
    }

    pub fn say(&mut self, words: &str, align: Align) -> Result<(), TextError> {
        let face = &self.scheduler.rig().faces[0].face;
        let mut frame = face.blank();
        Canvas::whole(face, &mut frame).write(words, align)?;
        self.show(&frame);
        Ok(())
    }

    pub fn picture(&mut self) -> Picture<'r> {
        self.scheduler.expose(0).unwrap()
    }
}

/// The frame of the first face that shows words from the left.
pub fn saying(rig: &Rig, words: &str) -> Frame {
    let face = &rig.faces[0].face;
    let mut frame = face.blank();
    Canvas::whole(face, &mut frame).write(words, Align::Left).unwrap();
    frame
}

/// Any style.
pub fn style() -> impl Strategy<Value = Style> {
    prop::sample::select(Style::ALL)
}

/// Either polarity.
pub fn common() -> impl Strategy<Value = Common> {
    prop::sample::select(&[Common::Cathode, Common::Anode])
}

/// Any order of all segments of a style.
pub fn order(style: Style) -> impl Strategy<Value = BitOrder> {
    let indices: Vec<_> = (0..style.segment_count()).collect();
    Just(indices).prop_shuffle().prop_map(move |indices| BitOrder::of_indices(style, indices).unwrap())
}

/// Any style, with an order of its segments.
pub fn style_and_order() -> impl Strategy<Value = (Style, BitOrder)> {
    style().prop_flat_map(|style| (Just(style), order(style)))
}

/// The characters graded exact, without those that a text cannot hold plainly.
pub fn exact(style: Style) -> Vec<char> {
    let is_exact =
        |character: &char| glyph(style, *character).is_some_and(|glyph| glyph.grade == Grade::Exact);
    characters(style).filter(is_exact).filter(|character| !"{}.".contains(*character)).collect()
}

/// A reel for two faces, to be played inside another.
pub const BOATS: &str = r#"
[variables]
boat = "TEAL"
berth = 2
[buttons]
"desk.call8" = { to = "berth", add = 1 }
[[track]]
[[track.act]]
text = { say = "{boat}", for = "2s" }
[[track.act]]
number = { value = "{berth}", for = "1s" }
[[track]]
face = "sign"
[[track.act]]
text = { say = "FERRY {boat}", for = "2s" }
"#;

/// A reel that plays itself.
const ITSELF: &str = "[[track]]\nface = \"desk\"\n[[track.act]]\nreel = { file = \"itself.reel.toml\" }\n";

/// A folder with one sprite.
pub struct OneSprite;

impl Sources for OneSprite {
    fn sprite(&self, name: &str, _: &Reduction, _: bool) -> Result<Sprite, String> {
        match name {
            "gull.dots" => Ok(sprite::read(include_str!("../../../cli/demo/gull.dots")).unwrap()),
            _ => Err(format!("there is no sprite file {name}")),
        }
    }

    fn font(&self, name: &str) -> Result<Font, String> {
        Err(format!("there is no font '{name}'"))
    }

    fn reel(&self, name: &str) -> Result<(String, Box<dyn Sources>), String> {
        match name {
            "boats.reel.toml" => Ok((BOATS.to_owned(), Box::new(Self))),
            "itself.reel.toml" => Ok((ITSELF.to_owned(), Box::new(Self))),
            _ => Err(format!("there is no reel file {name}")),
        }
    }
}

/// The program of a reel that must be sound.
pub fn program(source: &str, rig: &Rig) -> Program {
    let (program, findings) = read(source, rig, &OneSprite, &[]);
    program
        .unwrap_or_else(|| panic!("{:?}", findings.iter().map(|f| f.trouble.to_string()).collect::<Vec<_>>()))
}
