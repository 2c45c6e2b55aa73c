//! A chart of patterns: each character drawn as the display shows it, under it the character and its byte.
//!
//! The labels are drawn with our own strokes, so that a PNG needs no font.

use spare_tile_core::face::Colour;
use spare_tile_firmware::table::{Entry, Table};

use super::colour::{self, LENS, Rgb};
use super::label::Anchor;
use super::page::Page;
use super::scene;

/// Cells in a row.
const ACROSS: usize = 16;
/// The scale of the digits, and how high the labels are.
const DIGIT: f32 = 0.6;
const LABEL: f32 = 13.0;
/// The height of a cell, and where its labels stand.
const CELL_HEIGHT: f32 = 112.0;
const CHARACTER_FOOT: f32 = 82.0;
const BYTES_FOOT: f32 = 99.0;
/// The bytes beside the character.
const BYTE_SCALE: f32 = 0.8;
const MARGIN: f32 = 14.0;
const INK: Rgb = Rgb(196, 196, 200);

/// Draws the chart.
pub fn draw(table: &Table) -> Page {
    let style = table.order.style();
    let cell_width = scene::pitch(style) * DIGIT + 10.0;
    let across = table.entries.len().min(ACROSS);
    let rows = table.entries.len().div_ceil(ACROSS);
    let (width, height) = (cell_width * across as f32 + MARGIN, CELL_HEIGHT * rows as f32 + MARGIN);
    let title = format!("{style} segments, common {}, bits {}", table.common.name(), table.order);
    let mut page = Page::on(LENS, width, height, &title);
    for (place, entry) in table.entries.iter().enumerate() {
        let x = MARGIN + cell_width * (place % ACROSS) as f32;
        let y = MARGIN + CELL_HEIGHT * (place / ACROSS) as f32;
        draw_cell(table, entry, (x, y), &mut page);
    }
    page
}

fn draw_cell(table: &Table, entry: &Entry, (x, y): scene::Point, page: &mut Page) {
    let style = table.order.style();
    for shape in scene::digit(style, entry.segments, (x, y), DIGIT) {
        page.fill(shape.outline, colour::shade(Colour::Red, shape.light));
    }
    let bytes: Vec<_> = table.order.bytes(entry.bits).map(|byte| format!("{byte:02X}")).collect();
    page.text(&entry.character.to_string(), (x, y + CHARACTER_FOOT), LABEL, Anchor::Left, INK);
    page.text(&bytes.join(""), (x, y + BYTES_FOOT), LABEL * BYTE_SCALE, Anchor::Left, INK);
}
