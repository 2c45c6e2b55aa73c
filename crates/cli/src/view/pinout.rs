//! The pins of a controller, drawn: a box with all of them along its sides, and beside each what takes it, what it can be,
//! or why it is better left alone. Not the places on the package: these differ from board to board.

use super::colour::Rgb;
use super::label::{self, Anchor};
use super::page::{FAINT, INK, PAPER, Page, SHADE, WIRES};

/// A pin of the drawing.
pub struct Pin {
    /// Its names, the data sheet's first.
    pub name: String,
    /// The function: a line of a bus.
    pub can: String,
    /// A remark.
    pub state: State,
}

/// The function of a pin.
pub enum State {
    /// These lines take it.
    Taken(String),
    /// Nothing takes it.
    Left,
    /// It is better left alone: it does this.
    BetterNot(&'static str),
}

const MARGIN: f32 = 30.0;
const HEADING: f32 = 13.0;
const TEXT: f32 = 9.0;
const SMALL: f32 = 7.0;
/// From one pin to the next.
const PITCH: f32 = 27.0;
/// The length of a pin's wire, and between it and its words.
const WIRE: f32 = 26.0;
const GAP: f32 = 9.0;
/// The colour of what is better left alone.
const WARNING: Rgb = Rgb(176, 60, 20);

/// Draws them: the first half down the left side, the others down the right.
pub fn draw(title: &str, pins: &[Pin]) -> Page {
    let half = pins.len().div_ceil(2);
    let (left, right) = pins.split_at(half);
    let widest = |pins: &[Pin], words: fn(&Pin) -> f32| pins.iter().map(words).fold(0.0, f32::max);
    let inner = |pin: &Pin| label::width(&pin.name, TEXT);
    let outer = |pin: &Pin| label::width(words(pin), TEXT).max(label::width(&pin.can, SMALL));
    let width = (widest(left, inner) + widest(right, inner) + 5.0 * GAP).max(120.0);
    let box_left = MARGIN + widest(left, outer) + GAP + WIRE;
    let box_right = box_left + width;
    let page_width = (box_right + WIRE + GAP + widest(right, outer) + MARGIN)
        .max(2.0 * MARGIN + label::width(title, HEADING));
    let top = MARGIN + HEADING + 24.0;
    let height = half as f32 * PITCH + GAP;
    let mut page = Page::new(page_width, top + height + MARGIN, title);
    page.text(title, (MARGIN, MARGIN + HEADING), HEADING, Anchor::Left, INK);
    page.box_at((box_left, top), (width, height), SHADE, INK);
    let mut taken = 0;
    for (side, pins) in [(Side::Left, left), (Side::Right, right)] {
        for (place, pin) in pins.iter().enumerate() {
            let edge = if side == Side::Left { box_left } else { box_right };
            let y = top + (GAP + PITCH) / 2.0 + place as f32 * PITCH;
            draw_pin(pin, side, (edge, y), WIRES[taken % WIRES.len()], &mut page);
            taken += usize::from(matches!(pin.state, State::Taken(_)));
        }
    }
    page
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Side {
    Left,
    Right,
}

/// The text beside a pin.
fn words(pin: &Pin) -> &str {
    match &pin.state {
        State::Taken(by) => by,
        State::Left => "",
        State::BetterNot(why) => why,
    }
}

fn draw_pin(pin: &Pin, side: Side, (edge, y): (f32, f32), colour: Rgb, page: &mut Page) {
    // Outwards and the two anchors.
    let (out, inside, outside) = match side {
        Side::Left => (-1.0, Anchor::Left, Anchor::Right),
        Side::Right => (1.0, Anchor::Right, Anchor::Left),
    };
    page.text(&pin.name, (edge - out * GAP, y + TEXT / 2.0), TEXT, inside, INK);
    let end = edge + out * WIRE;
    let (wire, pen, ink) = match &pin.state {
        State::Taken(_) => (colour, 3.0, INK),
        State::Left => (FAINT, 1.5, FAINT),
        State::BetterNot(_) => (WARNING, 1.5, WARNING),
    };
    page.line(&[(edge, y), (end, y)], wire, pen);
    match &pin.state {
        State::Taken(_) => page.disc((end, y), 3.0, wire, wire),
        State::Left => page.disc((end, y), 3.0, PAPER, FAINT),
        // A cross: nothing goes here.
        State::BetterNot(_) => {
            for turn in [-1.0, 1.0] {
                page.line(&[(end - 4.0, y - 4.0 * turn), (end + 4.0, y + 4.0 * turn)], WARNING, 1.5);
            }
        }
    }
    let beside = end + out * GAP;
    let above = if pin.can.is_empty() { y + TEXT / 2.0 } else { y - 1.0 };
    page.text(words(pin), (beside, above), TEXT, outside, ink);
    let under = if words(pin).is_empty() { y + SMALL / 2.0 } else { y + SMALL + 4.0 };
    page.text(&pin.can, (beside, under), SMALL, outside, FAINT);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_leaves_the_page_and_no_two_pins_share_a_place() {
        let states = [
            || State::Taken("desk strobe, clock data".to_owned()),
            || State::Left,
            || State::BetterNot("is read at start-up and chooses how the controller starts"),
        ];
        for count in [0, 1, 2, 7, 60] {
            let pin = |number: usize| Pin {
                name: format!("GPIO{number} (IO{number})"),
                can: if number.is_multiple_of(2) { "SPI clock, I2C data".to_owned() } else { String::new() },
                state: states[number % 3](),
            };
            let pins: Vec<_> = (0..count).map(pin).collect();
            let page = draw("a controller", &pins);
            for item in &page.items {
                let (left, top, right, foot) = item.bounds();
                assert!(left >= 0.0 && top >= 0.0 && right <= page.width && foot <= page.height, "{item:?}");
            }
            let wires = page.items.iter().filter_map(|item| match item {
                super::super::page::Item::Strokes { strokes, round: false, .. } if strokes[0].len() == 2 => {
                    let (a, b) = (strokes[0][0], strokes[0][1]);
                    (a.1 == b.1).then_some((a.0.min(b.0).to_bits(), a.1.to_bits()))
                }
                _ => None,
            });
            let places: std::collections::HashSet<_> = wires.collect();
            assert_eq!(places.len(), count);
        }
    }
}
