//! A moment of a scan that is shown slowed down: what is seen, and the level of each line beside it.

use spare_tile_core::board::picture::Picture;
use spare_tile_core::rig::Line;

use super::colour::{HOUSING, Rgb};
use super::label::{self, Anchor};
use super::page::Page;
use super::{scene, terminal};
use crate::session::Session;

/// How much slower it is, in words.
pub fn speed(slowed: f64) -> String {
    match slowed {
        slowed if slowed <= 1.0 => "as it is".to_owned(),
        slowed if slowed >= 10.0 => format!("{slowed:.0} times slower"),
        slowed => format!("{slowed:.1} times slower"),
    }
}

/// For the session's output, without a newline at its end.
pub fn text(
    picture: &Picture<'_>,
    lines: &[Line],
    levels: &[Option<bool>],
    slowed: f64,
    session: &Session<'_>,
) -> String {
    format!("{}\n{}\n{}", speed(slowed), terminal(picture, session), bits(lines, levels, session.columns))
}

/// The roles of the lines, and under each its level, in as many rows as the columns ask for.
pub fn bits(lines: &[Line], levels: &[Option<bool>], columns: usize) -> String {
    let (mut rows, mut heads, mut marks) = (Vec::new(), String::new(), String::new());
    for (line, level) in lines.iter().zip(levels) {
        let width = line.role.chars().count().max(1);
        if !heads.is_empty() && heads.chars().count() + width > columns {
            rows.extend([std::mem::take(&mut heads), std::mem::take(&mut marks)]);
        }
        let mark = match level {
            Some(true) => "1",
            Some(false) => "0",
            None => "-",
        };
        heads.push_str(&format!("{:width$}  ", line.role));
        marks.push_str(&format!("{mark:width$}  "));
    }
    rows.extend([heads, marks]);
    rows.iter().map(|row| row.trim_end()).collect::<Vec<_>>().join("\n")
}

const TEXT: f32 = 8.0;
const PITCH: f32 = 34.0;
const ROW: f32 = 40.0;
const MARGIN: f32 = 12.0;
const INK: Rgb = Rgb(206, 206, 210);
const QUIET: Rgb = Rgb(52, 52, 56);
const HIGH: Rgb = Rgb(240, 206, 96);

/// As a drawing. It has no glow: that takes longer than everything else, and there are many of them.
pub fn draw(picture: &Picture<'_>, lines: &[Line], levels: &[Option<bool>], slowed: f64) -> Page {
    let scene = scene::of(picture);
    let pitch = lines.iter().map(|line| label::width(&line.role, TEXT) + 10.0).fold(PITCH, f32::max);
    let across = ((scene.width.max(420.0)) / pitch) as usize;
    let rows = lines.len().div_ceil(across.max(1));
    let width = scene.width.max(pitch * across as f32) + 2.0 * MARGIN;
    let face_top = MARGIN + TEXT + 14.0;
    let bits_top = face_top + scene.height + 10.0;
    let height = bits_top + ROW * rows as f32 + MARGIN;
    let mut page = Page::on(HOUSING, width, height, &speed(slowed));
    page.text(&speed(slowed), (MARGIN, MARGIN + TEXT), TEXT, Anchor::Left, INK);
    let left = (width - scene.width) / 2.0;
    for shape in &scene.shapes {
        let colour = shape.colour(picture.face.light.colour);
        page.fill(shape.outline.scaled(1.0, (left, face_top)), colour);
    }
    for (index, (line, level)) in lines.iter().zip(levels).enumerate() {
        let x = MARGIN + pitch * ((index % across.max(1)) as f32 + 0.5);
        let y = bits_top + ROW * (index / across.max(1)) as f32;
        let fill = if *level == Some(true) { HIGH } else { QUIET };
        page.block((x - 7.0, y), (14.0, 14.0), 2.0, fill);
        page.text(&line.role, (x, y + 20.0 + TEXT), TEXT, Anchor::Middle, INK);
    }
    page
}
