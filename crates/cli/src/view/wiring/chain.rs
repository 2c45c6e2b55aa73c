//! A chain of modules from the front and from the back, with the way of the data through it.

use spare_tile_core::part::modules::Hung;

use super::super::label::Anchor;
use super::super::page::{FAINT, INK, Page, SHADE};
use super::super::scene::Point;
use super::{HEADING, MARGIN, SMALL, TEXT, pens};

/// Between two modules.
const GAP: f32 = 16.0;
/// The largest side of a module, and the smallest in which its number can be read.
const LARGEST: f32 = 78.0;
const LEAST: f32 = 22.0;
/// The space above the modules of a view, for its name and the incoming wire.
const HEAD: f32 = 34.0;

/// Where the views go, and how large their modules are.
pub struct Views {
    side: f32,
    size: (usize, usize),
}

impl Views {
    /// The views of a chain on a page so wide.
    pub fn of(hung: &[Hung], width: f32) -> Option<Self> {
        let last = |place: fn(&Hung) -> usize| hung.iter().map(place).max().map(|last| last + 1);
        let size = (last(|module| module.place.0)?, last(|module| module.place.1)?);
        let room = width - 2.0 * MARGIN - 4.0 * GAP;
        let side = (room / size.0 as f32 - GAP).clamp(LEAST, LARGEST);
        Some(Self { side, size })
    }

    /// How high one view is.
    fn view(&self) -> f32 {
        HEAD + (self.side + GAP) * self.size.1 as f32 + GAP
    }

    /// How high both are together.
    pub fn height(&self) -> f32 {
        2.0 * self.view()
    }

    /// How wide they are.
    pub fn width(&self) -> f32 {
        (self.side + GAP) * self.size.0 as f32 + 4.0 * GAP + 2.0 * MARGIN
    }

    /// Draws both, one below the other.
    pub fn draw(&self, hung: &[Hung], top: f32, page: &mut Page) {
        self.draw_view("from the front", hung, false, top, page);
        self.draw_view("from the back", hung, true, top + self.view(), page);
    }

    fn draw_view(&self, name: &str, hung: &[Hung], is_behind: bool, top: f32, page: &mut Page) {
        let title = format!("the chain {name}: a bar is at each module's own top");
        page.text(&title, (MARGIN, top + HEADING), TEXT, Anchor::Left, INK);
        let corner = |module: &Hung| -> Point {
            let (column, row) = module.place;
            let column = if is_behind { self.size.0 - 1 - column } else { column };
            let step = self.side + GAP;
            (MARGIN + 2.0 * GAP + step * column as f32, top + HEAD + step * row as f32)
        };
        let middle = |module: &Hung| {
            let (x, y) = corner(module);
            (x + self.side / 2.0, y + self.side / 2.0)
        };
        for (number, module) in hung.iter().enumerate() {
            let at = corner(module);
            page.box_at(at, (self.side, self.side), SHADE, INK);
            self.draw_top(at, module, is_behind, page);
            let (x, y) = middle(module);
            // Beside the wires that run up and down.
            page.text(
                &number.to_string(),
                (x - self.side * 0.25, y - self.side * 0.08),
                TEXT,
                Anchor::Middle,
                INK,
            );
        }
        // The way of the data runs below the numbers.
        let below = |(x, y): Point| (x, y + self.side * 0.2);
        let Some(first) = hung.first() else { return };
        let enters_right = first.from_right != is_behind;
        let reach = self.side / 2.0 + 1.6 * GAP;
        let begin = below(middle(first));
        let begin = (if enters_right { begin.0 + reach } else { begin.0 - reach }, begin.1);
        let way: Vec<Point> =
            std::iter::once(begin).chain(hung.iter().map(|module| below(middle(module)))).collect();
        let colour = pens::of("data");
        page.line(&way, colour, 2.0);
        for place in way.iter().skip(1) {
            page.disc(*place, 3.0, colour, colour);
        }
        page.text("in", (begin.0, begin.1 - 6.0), SMALL, Anchor::Middle, INK);
    }

    /// A bar along the edge that is a module's own top, and how far it is turned.
    fn draw_top(&self, (x, y): Point, module: &Hung, is_behind: bool, page: &mut Page) {
        let (near, far) = (4.0, self.side - 4.0);
        // Seen from behind what points to the right points to the left.
        let degrees = match (module.turn.degrees(), is_behind) {
            (90, true) => 270,
            (270, true) => 90,
            (degrees, _) => degrees,
        };
        let (from, to) = match degrees {
            90 => ((far, near), (far, far)),
            180 => ((near, far), (far, far)),
            270 => ((near, near), (near, far)),
            _ => ((near, near), (far, near)),
        };
        page.line(&[(x + from.0, y + from.1), (x + to.0, y + to.1)], FAINT, 3.0);
    }
}
