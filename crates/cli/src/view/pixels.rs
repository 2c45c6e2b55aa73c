//! A drawing as pixels, and as PNG.

use tiny_skia::{
    Color, FillRule, FilterQuality, GradientStop, LineCap, LineJoin, LinearGradient, Paint, Path,
    PathBuilder, Pixmap, PixmapPaint, Shader, SpreadMode, Stroke, Transform,
};

use super::colour::Rgb;
use super::page::{Item, Page};
use super::scene::{Outline, Point};

/// How many pixels a unit of the drawing takes, where the picture stays within [`MAX_SIDE`].
const SCALE: f32 = 2.0;
/// The longest side of a PNG in pixels.
const MAX_SIDE: f32 = 2400.0;

/// A PNG of a drawing.
///
/// # Errors
/// When it is too large for memory, in words.
pub fn png(page: &Page) -> Result<Vec<u8>, String> {
    let scale = SCALE.min(MAX_SIDE / page.width.max(page.height));
    let mut canvas = Canvas::new(page, scale)?;
    canvas.show(page);
    let wrong = |error: png::EncodingError| format!("cannot form the PNG: {error}");
    let pixels = &canvas.pixels;
    // The ground is opaque, and so is everything on it.
    let rgb: Vec<u8> = pixels.data().chunks_exact(4).flat_map(|pixel| &pixel[..3]).copied().collect();
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, pixels.width(), pixels.height());
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_compression(png::Compression::Fast);
    let mut writer = encoder.write_header().map_err(wrong)?;
    writer.write_image_data(&rgb).map_err(wrong)?;
    writer.finish().map_err(wrong)?;
    Ok(bytes)
}

/// Pixels that show one drawing after another. Where a drawing is like the one before, just what differs is painted.
pub struct Canvas {
    pixels: Pixmap,
    scale: f32,
    shown: Option<Page>,
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
        Ok(Self { pixels, scale, shown: None })
    }

    /// How many pixels it has side by side, and one below the other.
    pub fn size(&self) -> (u32, u32) {
        (self.pixels.width(), self.pixels.height())
    }

    /// Red, green, blue and opacity of each pixel of an area.
    pub fn cut(&self, area: Area) -> Vec<u8> {
        let row = 4 * self.pixels.width() as usize;
        let begin = |y: u32| row * y as usize + 4 * area.left as usize;
        let rows = area.top..area.top + area.height;
        rows.flat_map(|y| &self.pixels.data()[begin(y)..begin(y) + 4 * area.width as usize])
            .copied()
            .collect()
    }

    /// Shows a drawing. Returns the area in which it differs from the one before; none where it does not.
    pub fn show(&mut self, page: &Page) -> Option<Area> {
        let area = match &self.shown {
            None => Some(self.whole()),
            Some(shown) if shown == page => None,
            Some(shown) => self.difference(shown, page),
        };
        if let Some(area) = area {
            self.paint(page, area);
            self.shown = Some(page.clone());
        }
        area
    }

    fn whole(&self) -> Area {
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
        let Some(mut part) = Pixmap::new(area.width, area.height) else { return };
        part.fill(colour(page.ground));
        let to_part = Transform::from_translate(-(area.left as f32), -(area.top as f32));
        let placed = to_part.pre_scale(self.scale, self.scale);
        for item in &page.items {
            let touches = self.area(item.bounds()).is_some_and(|of_item| {
                of_item.left < area.left + area.width
                    && area.left < of_item.left + of_item.width
                    && of_item.top < area.top + area.height
                    && area.top < of_item.top + of_item.height
            });
            if touches {
                paint_item(item, placed, self.scale, &mut part);
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

fn colour(Rgb(red, green, blue): Rgb) -> Color {
    Color::from_rgba8(red, green, blue, 255)
}

fn plain(rgb: Rgb) -> Paint<'static> {
    Paint { shader: Shader::SolidColor(colour(rgb)), ..Paint::default() }
}

fn paint_item(item: &Item, placed: Transform, scale: f32, pixels: &mut Pixmap) {
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
            if let Some((top, foot)) = fill {
                let paint = Paint { shader: shade(*at, *size, *top, *foot), ..Paint::default() };
                pixels.fill_path(&path, &paint, FillRule::Winding, placed, None);
            }
            if let Some((colour, width)) = edge {
                let stroke = Stroke { width: *width, line_join: LineJoin::Round, ..Stroke::default() };
                pixels.stroke_path(&path, &plain(*colour), &stroke, placed, None);
            }
        }
        Item::Glow { shapes, colour, blur, within } => {
            paint_glow(shapes, *colour, *blur, *within, (placed, scale), pixels);
        }
    }
}

fn shade((x, y): Point, (_, height): Point, top: Rgb, foot: Rgb) -> Shader<'static> {
    if top == foot {
        return Shader::SolidColor(colour(top));
    }
    let stops = vec![GradientStop::new(0.0, colour(top)), GradientStop::new(1.0, colour(foot))];
    let (from, to) = (tiny_skia::Point::from_xy(x, y), tiny_skia::Point::from_xy(x, y + height));
    LinearGradient::new(from, to, stops, SpreadMode::Pad, Transform::identity())
        .unwrap_or(Shader::SolidColor(colour(foot)))
}

/// Paints a glow small and blurs it there, which no eye tells from blurring it large.
fn paint_glow(
    shapes: &[(Outline, f32)],
    rgb: Rgb,
    blur: f32,
    (at, size): (Point, Point),
    (placed, scale): (Transform, f32),
    pixels: &mut Pixmap,
) {
    /// Pixels to a standard deviation of the blur.
    const FINE: f32 = 3.0;
    let small = FINE / blur;
    let side = |length: f32| ((length * small).ceil() as u32).max(1);
    let Some(mut glow) = Pixmap::new(side(size.0), side(size.1)) else { return };
    let to_glow = Transform::from_scale(small, small).pre_translate(-at.0, -at.1);
    for (outline, strength) in shapes {
        if let Some(path) = path_of(outline) {
            let mut colour = colour(rgb);
            colour.set_alpha(strength.clamp(0.0, 1.0));
            let paint = Paint { shader: Shader::SolidColor(colour), ..Paint::default() };
            glow.fill_path(&path, &paint, FillRule::Winding, to_glow, None);
        }
    }
    // Three boxes one after another come near a bell: their deviation is that of one, times the root of three.
    let radius = ((12.0 * FINE * FINE / 3.0 + 1.0).sqrt() / 2.0).round() as usize;
    for _ in 0..3 {
        blur_rows(&mut glow, radius);
        blur_columns(&mut glow, radius);
    }
    let paint = PixmapPaint { quality: FilterQuality::Bilinear, ..PixmapPaint::default() };
    let large = placed.pre_translate(at.0, at.1).pre_scale(1.0 / small, 1.0 / small);
    let _ = scale;
    pixels.draw_pixmap(0, 0, glow.as_ref(), &paint, large, None);
}

fn blur_rows(pixels: &mut Pixmap, radius: usize) {
    let (width, height) = (pixels.width() as usize, pixels.height() as usize);
    for y in 0..height {
        blur_line(pixels.data_mut(), 4 * width * y, 4, width, radius);
    }
}

fn blur_columns(pixels: &mut Pixmap, radius: usize) {
    let (width, height) = (pixels.width() as usize, pixels.height() as usize);
    for x in 0..width {
        blur_line(pixels.data_mut(), 4 * x, 4 * width, height, radius);
    }
}

/// The mean of each pixel's neighbours along a line of `count` pixels, `step` bytes from one to the next.
fn blur_line(bytes: &mut [u8], first: usize, step: usize, count: usize, radius: usize) {
    let before: Vec<[u8; 4]> = (0..count)
        .map(|place| {
            let at = first + step * place;
            [bytes[at], bytes[at + 1], bytes[at + 2], bytes[at + 3]]
        })
        .collect();
    let mut sum = [0_u32; 4];
    let add = |sum: &mut [u32; 4], pixel: &[u8; 4]| {
        sum.iter_mut().zip(pixel).for_each(|(sum, value)| *sum += u32::from(*value));
    };
    before.iter().take(radius).for_each(|pixel| add(&mut sum, pixel));
    let size = 2 * radius as u32 + 1;
    for place in 0..count {
        if let Some(pixel) = before.get(place + radius) {
            add(&mut sum, pixel);
        }
        let at = first + step * place;
        for (channel, sum) in sum.iter().enumerate() {
            bytes[at + channel] = (sum / size) as u8;
        }
        if let Some(pixel) = place.checked_sub(radius).and_then(|past| before.get(past)) {
            sum.iter_mut().zip(pixel).for_each(|(sum, value)| *sum -= u32::from(*value));
        }
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

    fn pixel(canvas: &Canvas, left: u32, top: u32) -> Vec<u8> {
        canvas.cut(Area { left, top, width: 1, height: 1 })
    }

    #[test]
    fn what_differs_is_painted_and_nothing_else() {
        let mut canvas = Canvas::new(&page(&[20.0]), 2.0).unwrap();
        assert_eq!(canvas.show(&page(&[20.0, 60.0])), Some(canvas.whole()));
        assert_eq!(pixel(&canvas, 40, 50), [200, 0, 0, 255]);
        assert_eq!(canvas.show(&page(&[20.0, 60.0])), None);
        let area = canvas.show(&page(&[20.0, 80.0])).unwrap();
        assert!(area.left > 100 && area.left + area.width <= 172 && area.height < 26, "{area:?}");
        let mut anew = Canvas::new(&page(&[]), 2.0).unwrap();
        anew.show(&page(&[20.0, 80.0]));
        assert_eq!(canvas.cut(canvas.whole()), anew.cut(anew.whole()), "as if it had been painted anew");
    }

    #[test]
    fn a_glow_fades_from_its_shape_and_stays_within() {
        let mut page = page(&[]);
        let shapes = vec![(Outline::Circle((50.0, 25.0), 8.0), 1.0)];
        let within = ((30.0, 5.0), (40.0, 40.0));
        page.items.push(Item::Glow { shapes, colour: RED, blur: 6.0, within });
        let mut canvas = Canvas::new(&page, 2.0).unwrap();
        canvas.show(&page);
        let red = |x| pixel(&canvas, x, 50)[0];
        assert!(red(100) > red(118) && red(118) > red(130), "{} {} {}", red(100), red(118), red(130));
        assert_eq!(red(20), 0);
    }
}
