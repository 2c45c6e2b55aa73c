//! A drawing as pixels.

use std::collections::HashMap;
use std::ops::Range;
use std::rc::Rc;

use tiny_skia::{
    Color, FillRule, LineCap, LineJoin, Paint, Path, PathBuilder, Pixmap, Shader, Stroke, Transform,
};

use super::colour::Rgb;
use super::page::{Item, Page};
use super::scene::{Outline, Point};

/// Pixels that show one drawing after another. Where a drawing is like the one before, just what differs is painted.
pub struct Canvas {
    pixels: Pixmap,
    scale: f32,
    shown: Option<Page>,
    discs: Discs,
}

/// A rectangle of pixels.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Area {
    /// Its left column.
    pub left: u32,
    /// Its top row.
    pub top: u32,
    /// How many columns it has, at least 1.
    pub width: u32,
    /// How many rows it has, at least 1.
    pub height: u32,
}

impl Canvas {
    /// A canvas for drawings of this one's size.
    ///
    /// # Errors
    /// When that is too large for memory, in words.
    pub fn new(page: &Page, scale: f32) -> Result<Self, String> {
        let side = |length: f32| ((length * scale).ceil() as u32).max(1);
        let pixels = Pixmap::new(side(page.width), side(page.height))
            .ok_or("the drawing is too large for a picture")?;
        Ok(Self { pixels, scale, shown: None, discs: Discs::default() })
    }

    /// The same, whose discs have no shades along their edges where that is asked for: then there are no more colours than
    /// the drawing has.
    ///
    /// # Errors
    /// When that is too large for memory, in words.
    pub fn crisp(page: &Page, scale: f32, is_crisp: bool) -> Result<Self, String> {
        let discs = Discs { is_crisp, ..Discs::default() };
        Ok(Self { discs, ..Self::new(page, scale)? })
    }

    /// A canvas with a drawing on it.
    ///
    /// # Errors
    /// When that is too large for memory, in words.
    pub fn painted(page: &Page, scale: f32) -> Result<Self, String> {
        let mut canvas = Self::new(page, scale)?;
        canvas.paint(page, canvas.whole());
        Ok(canvas)
    }

    /// How many pixels it has side by side, and one below the other.
    pub fn size(&self) -> (u32, u32) {
        (self.pixels.width(), self.pixels.height())
    }

    /// Red, green and blue of each pixel of an area.
    pub fn cut(&self, area: Area) -> Vec<[u8; 3]> {
        let row = 4 * self.pixels.width() as usize;
        let begin = |y: u32| row * y as usize + 4 * area.left as usize;
        let mut cut = Vec::with_capacity((area.width * area.height) as usize);
        for y in area.top..area.top + area.height {
            let pixels = &self.pixels.data()[begin(y)..begin(y) + 4 * area.width as usize];
            cut.extend(pixels.as_chunks::<4>().0.iter().map(|[red, green, blue, _]| [*red, *green, *blue]));
        }
        cut
    }

    /// Shows a drawing. Returns the area in which it differs from the one before, if any.
    pub fn show(&mut self, page: Page) -> Option<Area> {
        let area = match &self.shown {
            None => Some(self.whole()),
            Some(shown) if *shown == page => None,
            Some(shown) => self.difference(shown, &page),
        };
        if let Some(area) = area {
            self.paint(&page, area);
            self.shown = Some(page);
        }
        area
    }

    /// The area of all pixels.
    pub fn whole(&self) -> Area {
        Area { left: 0, top: 0, width: self.pixels.width(), height: self.pixels.height() }
    }

    /// Where two drawings differ: around the items that do. With other items in between everything may.
    fn difference(&self, before: &Page, now: &Page) -> Option<Area> {
        if before.items.len() != now.items.len() || before.ground != now.ground {
            return Some(self.whole());
        }
        let mut around: Option<(f32, f32, f32, f32)> = None;
        for (before, now) in before.items.iter().zip(&now.items).filter(|(before, now)| before != now) {
            for (left, top, right, foot) in [before.bounds(), now.bounds()] {
                let known = around.unwrap_or((left, top, right, foot));
                around = Some((known.0.min(left), known.1.min(top), known.2.max(right), known.3.max(foot)));
            }
        }
        around.and_then(|around| self.area(around))
    }

    /// The pixels that something within these bounds touches; none where that is outside.
    fn area(&self, (left, top, right, foot): (f32, f32, f32, f32)) -> Option<Area> {
        let least = |length: f32| (length * self.scale - 1.0).floor().max(0.0) as u32;
        let most = |length: f32, side: u32| ((length * self.scale + 1.0).ceil().max(0.0) as u32).min(side);
        let (left, top) = (least(left), least(top));
        let (right, foot) = (most(right, self.pixels.width()), most(foot, self.pixels.height()));
        (right > left && foot > top).then(|| Area { left, top, width: right - left, height: foot - top })
    }

    /// Paints what of a drawing is in an area.
    fn paint(&mut self, page: &Page, area: Area) {
        let placed = Transform::from_scale(self.scale, self.scale);
        if area == self.whole() {
            self.pixels.fill(colour(page.ground));
            for item in &page.items {
                match self.discs.stamp_of(item, self.scale) {
                    Some(stamp) => stamp.put((0, 0), &mut self.pixels),
                    None => paint_item(item, placed, &mut self.pixels),
                }
            }
            return;
        }
        let Some(mut part) = Pixmap::new(area.width, area.height) else { return };
        part.fill(colour(page.ground));
        let placed = placed.post_translate(-(area.left as f32), -(area.top as f32));
        for item in &page.items {
            if self.area(item.bounds()).is_some_and(|of_item| of_item.meets(area)) {
                match self.discs.stamp_of(item, self.scale) {
                    Some(stamp) => stamp.put((area.left, area.top), &mut part),
                    None => paint_item(item, placed, &mut part),
                }
            }
        }
        let row = 4 * self.pixels.width() as usize;
        let rows = part.data().chunks_exact(4 * area.width as usize);
        for (y, pixels) in rows.enumerate() {
            let begin = row * (area.top as usize + y) + 4 * area.left as usize;
            self.pixels.data_mut()[begin..begin + pixels.len()].copy_from_slice(pixels);
        }
    }
}

/// Small discs, which a face of dots has thousands of: each kind is drawn once.
#[derive(Default)]
struct Discs {
    drawn: HashMap<DiscKind, Rc<Disc>>,
    /// The one that was asked for last: mostly all are alike.
    last: Option<(DiscKind, Rc<Disc>)>,
    is_crisp: bool,
}

/// Radius, and where in its pixel the middle is, in sixteenths of a pixel.
type DiscKind = (i32, i32, i32);

/// How much of each pixel a disc covers, in sixteenths.
struct Disc {
    /// Pixels from the middle's to each edge.
    reach: i32,
    covered: Vec<u8>,
    /// Where all are covered wholly or not at all: by row those that are.
    runs: Option<Vec<(i32, Range<usize>)>>,
}

/// A disc in its place.
struct Stamp {
    disc: Rc<Disc>,
    /// The pixel of its middle.
    at: (i32, i32),
    colour: Rgb,
}

impl Discs {
    /// The largest radius in pixels.
    const LARGEST: f32 = 12.0;
    /// The samples of a pixel along each side.
    const PARTS: f32 = 16.0;

    /// The stamp for an item that is a small disc.
    fn stamp_of(&mut self, item: &Item, scale: f32) -> Option<Stamp> {
        let Item::Fill { outline: Outline::Circle((x, y), radius), colour } = item else { return None };
        let (x, y, radius) = (x * scale, y * scale, radius * scale);
        if radius > Self::LARGEST {
            return None;
        }
        let part = |length: f32| ((length - length.floor()) * Self::PARTS) as i32;
        let key = ((radius * Self::PARTS) as i32, part(x), part(y));
        let disc = match &self.last {
            Some((known, disc)) if *known == key => Rc::clone(disc),
            _ => {
                let disc = self.drawn.entry(key).or_insert_with(|| Rc::new(Disc::new(key, self.is_crisp)));
                self.last = Some((key, Rc::clone(disc)));
                Rc::clone(disc)
            }
        };
        Some(Stamp { disc, at: (x.floor() as i32, y.floor() as i32), colour: *colour })
    }
}

impl Disc {
    fn new((radius, x, y): DiscKind, is_crisp: bool) -> Self {
        /// Samples along each side of a pixel.
        const SAMPLES: i32 = 4;
        let unit = Discs::PARTS as i32;
        let reach = radius / unit + 1;
        let is_inside = |column: i32, row: i32, sample: i32| {
            // In halves of parts, so that the samples are in the middle of theirs.
            let step = 2 * unit / SAMPLES;
            let across = 2 * unit * column + step * (sample % SAMPLES) + step / 2 - (2 * x + 1);
            let down = 2 * unit * row + step * (sample / SAMPLES) + step / 2 - (2 * y + 1);
            across * across + down * down <= (2 * radius + 1) * (2 * radius + 1)
        };
        let covered = |column, row| {
            let covered =
                (0..SAMPLES * SAMPLES).filter(|sample| is_inside(column, row, *sample)).count() as u8;
            match is_crisp {
                false => covered,
                true if covered >= 8 => 16,
                true => 0,
            }
        };
        let side = -reach..=reach;
        let covered: Vec<u8> =
            side.clone().flat_map(|row| side.clone().map(move |column| covered(column, row))).collect();
        let runs = is_crisp.then(|| {
            let rows = (0..).zip(covered.chunks_exact(2 * reach as usize + 1));
            let of_row = |(row, shares): (i32, &[u8])| {
                let first = shares.iter().position(|share| *share > 0)?;
                // A disc has no holes.
                let end = shares.iter().rposition(|share| *share > 0)? + 1;
                Some((row, first..end))
            };
            rows.filter_map(of_row).collect()
        });
        Self { reach, covered, runs }
    }
}

impl Stamp {
    /// Puts it on pixels of which this is the first.
    fn put(&self, (left, top): (u32, u32), pixels: &mut Pixmap) {
        let (width, height) = (pixels.width() as i32, pixels.height() as i32);
        let Disc { reach, covered, runs } = &*self.disc;
        let side = (2 * reach + 1) as usize;
        let Rgb(red, green, blue) = self.colour;
        let (first_x, first_y) = (self.at.0 - left as i32 - reach, self.at.1 - top as i32 - reach);
        let is_within =
            first_x >= 0 && first_y >= 0 && first_x + side as i32 <= width && first_y + side as i32 <= height;
        if let Some(runs) = runs.as_ref().filter(|_| is_within) {
            let pixels = pixels.data_mut().as_chunks_mut::<4>().0;
            for (row, columns) in runs {
                let begin = ((first_y + row) * width + first_x) as usize;
                pixels[begin + columns.start..begin + columns.end].fill([red, green, blue, 255]);
            }
            return;
        }
        for (row, shares) in covered.chunks_exact(side).enumerate() {
            let y = first_y + row as i32;
            if !(0..height).contains(&y) {
                continue;
            }
            for (column, share) in shares.iter().enumerate().filter(|(_, share)| **share > 0) {
                let x = first_x + column as i32;
                if (0..width).contains(&x) {
                    let begin = 4 * (y * width + x) as usize;
                    for (value, full) in
                        pixels.data_mut()[begin..begin + 3].iter_mut().zip([red, green, blue])
                    {
                        let (ground, share) = (i32::from(*value), i32::from(*share));
                        *value = (ground + (i32::from(full) - ground) * share / 16) as u8;
                    }
                }
            }
        }
    }
}

impl Area {
    const fn meets(self, other: Self) -> bool {
        self.left < other.left + other.width
            && other.left < self.left + self.width
            && self.top < other.top + other.height
            && other.top < self.top + self.height
    }
}

fn colour(Rgb(red, green, blue): Rgb) -> Color {
    Color::from_rgba8(red, green, blue, 255)
}

fn plain(rgb: Rgb) -> Paint<'static> {
    Paint { shader: Shader::SolidColor(colour(rgb)), ..Paint::default() }
}

fn paint_item(item: &Item, placed: Transform, pixels: &mut Pixmap) {
    match item {
        Item::Fill { outline, colour } => {
            if let Some(path) = path_of(outline) {
                pixels.fill_path(&path, &plain(*colour), FillRule::Winding, placed, None);
            }
        }
        Item::Strokes { strokes, colour, width, round } => {
            let cap = if *round { LineCap::Round } else { LineCap::Butt };
            let stroke =
                Stroke { width: *width, line_cap: cap, line_join: LineJoin::Round, ..Stroke::default() };
            if let Some(path) = path_along(strokes) {
                pixels.stroke_path(&path, &plain(*colour), &stroke, placed, None);
            }
        }
        Item::Box { at, size, radius, fill, edge } => {
            let Some(path) = path_around(*at, *size, *radius) else { return };
            if let Some(fill) = fill {
                pixels.fill_path(&path, &plain(*fill), FillRule::Winding, placed, None);
            }
            if let Some((colour, width)) = edge {
                let stroke = Stroke { width: *width, line_join: LineJoin::Round, ..Stroke::default() };
                pixels.stroke_path(&path, &plain(*colour), &stroke, placed, None);
            }
        }
        Item::Glow { shapes, colour, blur, within } => {
            paint_glow(shapes, *colour, *blur, *within, placed, pixels);
        }
    }
}

/// Paints a glow small, blurs it there, and lays it on at full size, which no eye tells from blurring it large.
fn paint_glow(
    shapes: &[(Outline, f32)],
    rgb: Rgb,
    blur: f32,
    (at, size): (Point, Point),
    placed: Transform,
    pixels: &mut Pixmap,
) {
    /// Pixels to a standard deviation of the blur.
    const FINE: f32 = 3.0;
    let small = FINE / blur;
    let side = |length: f32| ((length * small).ceil() as u32).max(1);
    let Some(mut drawn) = Pixmap::new(side(size.0), side(size.1)) else { return };
    let to_glow = Transform::from_scale(small, small).pre_translate(-at.0, -at.1);
    for (outline, strength) in shapes {
        if let Some(path) = path_of(outline) {
            let mut colour = colour(rgb);
            colour.set_alpha(strength.clamp(0.0, 1.0));
            let paint = Paint { shader: Shader::SolidColor(colour), ..Paint::default() };
            drawn.fill_path(&path, &paint, FillRule::Winding, to_glow, None);
        }
    }
    let mut glow = Glow {
        width: drawn.width() as usize,
        opacity: drawn.data().chunks_exact(4).map(|pixel| pixel[3]).collect(),
    };
    // Three boxes one after another come near a bell: their deviation is that of one, times the root of three.
    let radius = ((12.0 * FINE * FINE / 3.0 + 1.0).sqrt() / 2.0).round() as usize;
    for _ in 0..3 {
        glow.blur(radius);
    }
    let step = small / placed.sx;
    let first = |at: f32, moved: f32| (0.5 - moved) * step - at * small - 0.5;
    glow.lay_on(rgb, (first(at.0, placed.tx), first(at.1, placed.ty)), step, pixels);
}

/// How opaque a glow is, pixel by pixel.
struct Glow {
    width: usize,
    opacity: Vec<u8>,
}

impl Glow {
    fn blur(&mut self, radius: usize) {
        let mut line = Vec::with_capacity(self.opacity.len());
        for row in 0..self.opacity.len() / self.width {
            let begin = row * self.width;
            blur_line(&mut self.opacity[begin..begin + self.width], 1, radius, &mut line);
        }
        for column in 0..self.width {
            blur_line(&mut self.opacity[column..], self.width, radius, &mut line);
        }
    }

    /// Lays it on pixels, the first of which is at `first` in the glow, each next one `step` further.
    fn lay_on(&self, Rgb(red, green, blue): Rgb, first: (f32, f32), step: f32, pixels: &mut Pixmap) {
        let height = self.opacity.len() / self.width;
        let between = |place: f32, count: usize| {
            let whole = place.floor();
            let part = ((place - whole) * 256.0) as u32;
            (whole >= 0.0 && whole + 1.0 < count as f32).then_some((whole as usize, part))
        };
        let columns: Vec<_> =
            (0..pixels.width()).map(|x| between((x as f32).mul_add(step, first.0), self.width)).collect();
        let row_bytes = 4 * pixels.width() as usize;
        let mut mixed = vec![0_u32; self.width];
        for (y, row) in pixels.data_mut().chunks_exact_mut(row_bytes).enumerate() {
            let Some((above, part)) = between((y as f32).mul_add(step, first.1), height) else { continue };
            let (upper, lower) = self.opacity[above * self.width..].split_at(self.width);
            for ((mixed, upper), lower) in mixed.iter_mut().zip(upper).zip(lower) {
                *mixed = u32::from(*upper) * (256 - part) + u32::from(*lower) * part;
            }
            for (pixel, column) in row.chunks_exact_mut(4).zip(&columns) {
                let Some((left, part)) = *column else { continue };
                // 255 with sixteen places behind the point, and of 65 536.
                let opacity = mixed[left] * (256 - part) + mixed[left + 1] * part;
                let opacity = (opacity / 255) as i32;
                if opacity == 0 {
                    continue;
                }
                for (value, full) in pixel.iter_mut().zip([red, green, blue]) {
                    let ground = i32::from(*value);
                    *value = (ground + (((i32::from(full) - ground) * opacity + 32_768) >> 16)) as u8;
                }
            }
        }
    }
}

/// The mean of each value's neighbours along a line, `step` values from one to the next.
fn blur_line(values: &mut [u8], step: usize, radius: usize, before: &mut Vec<u8>) {
    before.clear();
    before.extend(values.iter().step_by(step));
    let size = 2 * radius as u32 + 1;
    let mut sum: u32 = before.iter().take(radius).map(|value| u32::from(*value)).sum();
    for (place, value) in values.iter_mut().step_by(step).enumerate() {
        sum += before.get(place + radius).map_or(0, |value| u32::from(*value));
        *value = (sum / size) as u8;
        sum -= place.checked_sub(radius).map_or(0, |past| u32::from(before[past]));
    }
}

fn path_of(outline: &Outline) -> Option<Path> {
    let mut path = PathBuilder::new();
    match outline {
        Outline::Circle((x, y), radius) => path.push_circle(*x, *y, *radius),
        Outline::Polygon(corners) => {
            along(corners, &mut path);
            path.close();
        }
    }
    path.finish()
}

fn path_along(strokes: &[Vec<Point>]) -> Option<Path> {
    let mut path = PathBuilder::new();
    strokes.iter().for_each(|stroke| along(stroke, &mut path));
    path.finish()
}

fn along(points: &[Point], path: &mut PathBuilder) {
    for (index, (x, y)) in points.iter().enumerate() {
        // A stroke that goes nowhere is a dot.
        let nudge = if index > 0 && points[0] == (*x, *y) && points.len() == 2 { 0.01 } else { 0.0 };
        if index == 0 { path.move_to(*x, *y) } else { path.line_to(x + nudge, *y) }
    }
}

/// A rectangle with round corners.
fn path_around((x, y): Point, (width, height): Point, radius: f32) -> Option<Path> {
    let radius = radius.min(width / 2.0).min(height / 2.0);
    let (right, foot) = (x + width, y + height);
    let mut path = PathBuilder::new();
    path.move_to(x + radius, y);
    path.line_to(right - radius, y);
    path.quad_to(right, y, right, y + radius);
    path.line_to(right, foot - radius);
    path.quad_to(right, foot, right - radius, foot);
    path.line_to(x + radius, foot);
    path.quad_to(x, foot, x, foot - radius);
    path.line_to(x, y + radius);
    path.quad_to(x, y, x + radius, y);
    path.close();
    path.finish()
}

#[cfg(test)]
mod tests {
    use super::*;

    const RED: Rgb = Rgb(200, 0, 0);

    fn page(places: &[f32]) -> Page {
        let mut page = Page::on(Rgb(0, 0, 0), 100.0, 50.0, "dots");
        for place in places {
            page.fill(Outline::Circle((*place, 25.0), 5.0), RED);
        }
        page
    }

    fn pixel(canvas: &Canvas, left: u32, top: u32) -> Vec<[u8; 3]> {
        canvas.cut(Area { left, top, width: 1, height: 1 })
    }

    #[test]
    fn what_differs_is_painted_and_nothing_else() {
        let mut canvas = Canvas::new(&page(&[20.0]), 2.0).unwrap();
        assert_eq!(canvas.show(page(&[20.0, 60.0])), Some(canvas.whole()));
        assert_eq!(pixel(&canvas, 40, 50), [[200, 0, 0]]);
        assert_eq!(canvas.show(page(&[20.0, 60.0])), None);
        let area = canvas.show(page(&[20.0, 80.0])).unwrap();
        assert!(area.left > 100 && area.left + area.width <= 172 && area.height < 26, "{area:?}");
        let mut fresh = Canvas::new(&page(&[]), 2.0).unwrap();
        fresh.show(page(&[20.0, 80.0]));
        assert_eq!(
            canvas.cut(canvas.whole()),
            fresh.cut(fresh.whole()),
            "as if it had been painted from the start"
        );
    }

    #[test]
    fn a_glow_fades_from_its_shape_and_stays_within() {
        let mut page = page(&[]);
        let shapes = vec![(Outline::Circle((50.0, 25.0), 8.0), 1.0)];
        let within = ((30.0, 5.0), (40.0, 40.0));
        page.items.push(Item::Glow { shapes, colour: RED, blur: 6.0, within });
        let mut canvas = Canvas::new(&page, 2.0).unwrap();
        canvas.show(page);
        let red = |x| pixel(&canvas, x, 50)[0][0];
        assert!(red(100) > red(118) && red(118) > red(130), "{} {} {}", red(100), red(118), red(130));
        assert_eq!(red(20), 0);
    }
}
