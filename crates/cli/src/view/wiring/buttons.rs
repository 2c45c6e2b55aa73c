//! The push buttons on pins of the controller: for each its pin, its contact, and the resistor that keeps the pin at a level.

use spare_tile_core::plan::wires::ButtonWire;

use super::super::label::{self, Anchor};
use super::super::page::{INK, Page, SHADE};
use super::super::scene::Point;
use super::{HEADING, LINE, MARGIN, SMALL, SUPPLY, TEXT, draw_resistor, pens};

/// From one button to the next.
const ROW: f32 = 104.0;
/// From the controller to the contact, and from there to the rail.
const WIRE: f32 = 90.0;
/// Between the terminals of a contact.
const CONTACT: f32 = 34.0;
/// From the wire up to the end of a resistor, where its rail is named.
const RISE: f32 = 56.0;

/// Draws the buttons at a controller of this name.
pub fn draw(controller: &str, buttons: &[ButtonWire]) -> Page {
    let pin = |button: &ButtonWire| match &button.also {
        Some(also) => format!("{} ({also})", button.pin),
        None => button.pin.clone(),
    };
    let widest = |texts: &mut dyn Iterator<Item = String>, height: f32| {
        texts.map(|text| label::width(&text, height)).fold(0.0, f32::max)
    };
    let pins = widest(&mut buttons.iter().map(pin), TEXT).max(label::width(controller, TEXT)) + 24.0;
    let rails = widest(&mut buttons.iter().map(|button| button.to.clone()), TEXT);
    let kept = widest(&mut buttons.iter().map(said), SMALL);
    let heading = "push buttons on pins";
    let right = MARGIN + pins + 2.0 * WIRE + CONTACT + rails + 12.0;
    let left = label::width(heading, HEADING).max(pins + kept + 24.0);
    let top = MARGIN + HEADING + LINE;
    let high = ROW * buttons.len() as f32 + LINE;
    let mut page = Page::new(right.max(left + MARGIN) + MARGIN, top + high + MARGIN, heading);
    page.text(heading, (MARGIN, MARGIN + HEADING), HEADING, Anchor::Left, INK);
    page.box_at((MARGIN, top), (pins, high), SHADE, INK);
    page.text(controller, (MARGIN + pins / 2.0, top + LINE), TEXT, Anchor::Middle, INK);
    for (row, button) in buttons.iter().enumerate() {
        let at = (MARGIN + pins, top + ROW * (row + 1) as f32 - 12.0);
        page.text(&pin(button), (at.0 - 8.0, at.1 + TEXT / 2.0), TEXT, Anchor::Right, INK);
        draw_button(button, at, &mut page);
    }
    page
}

/// The note of a button without a resistor: the pull inside the controller. A drawn resistor says it itself.
fn said(button: &ButtonWire) -> String {
    if button.resistor.is_some() { String::new() } else { button.pull.clone() }
}

/// Draws a button from the edge of the controller on.
fn draw_button(button: &ButtonWire, (left, y): Point, page: &mut Page) {
    let colour = pens::of(&button.name);
    let contact = left + WIRE;
    page.line(&[(left, y), (contact, y)], colour, 2.0);
    // Two terminals, and the bar that joins them while somebody presses.
    page.disc((contact, y), 3.0, colour, colour);
    page.disc((contact + CONTACT, y), 3.0, colour, colour);
    page.line(&[(contact - 2.0, y - 10.0), (contact + CONTACT + 2.0, y - 10.0)], INK, 2.0);
    page.line(&[(contact + CONTACT / 2.0, y - 10.0), (contact + CONTACT / 2.0, y - 17.0)], INK, 2.0);
    page.text(&button.name, (contact + CONTACT / 2.0, y - 22.0), TEXT, Anchor::Middle, INK);
    let rail = |to: &str| if to == "ground" { INK } else { SUPPLY };
    let end = contact + CONTACT + WIRE / 2.0;
    page.line(&[(contact + CONTACT, y), (end, y)], rail(&button.to), 2.0);
    page.text(&button.to, (end + 6.0, y + TEXT / 2.0), TEXT, Anchor::Left, INK);
    if let Some((ohms, to)) = &button.resistor {
        let x = left + 24.0;
        page.line(&[(x, y), (x, y - RISE)], rail(to), 2.0);
        page.disc((x, y), 3.0, colour, colour);
        draw_resistor((x, y - RISE + 8.0), *ohms, page);
        page.text(to, (x, y - RISE - 4.0), SMALL, Anchor::Middle, INK);
    }
    page.text(&said(button), (left + 8.0, y + LINE), SMALL, Anchor::Left, INK);
}

#[cfg(test)]
mod tests {
    use super::*;
    use spare_tile_core::plan::{Rig, wires};

    /// Whatever the names and rails, nothing is drawn beyond the page, and each button adds to it.
    #[test]
    fn all_buttons_are_on_the_page() {
        let rig = |buttons: usize| {
            let button = |nth: usize| {
                let (active, pull) =
                    [("low", "controller"), ("high", "resistor"), ("low", "resistor")][nth % 3];
                let name = format!("a-button-with-a-long-name-{nth}");
                format!("[buttons.{name}]\npin = \"GP{nth}\"\nactive = \"{active}\"\npull = \"{pull}\"\n")
            };
            let buttons: String = (0..buttons).map(button).collect();
            let face = "[face.gauge]\nkind = \"seven-segment\"\ndigits = 4\n[face.gauge.drive]\nmethod = \"max7219\"\n\
                        bus_volts = 5.0\npins = { data = \"GP19\", clock = \"GP18\", select = \"GP17\" }\n";
            let source = format!("[controller]\npart = \"rp2040\"\n{buttons}{face}");
            Rig::read(&source).rig.expect("a sound rig")
        };
        let mut items = 0;
        for count in [1, 2, 3, 16] {
            let rig = rig(count);
            let page = draw(rig.controller.called(), &wires::buttons(&rig));
            for item in &page.items {
                let (left, top, right, foot) = item.bounds();
                assert!(left >= 0.0 && top >= 0.0 && right <= page.width && foot <= page.height, "{count}");
            }
            assert!(page.items.len() > items, "{count}");
            items = page.items.len();
        }
    }
}
