//! Moving pictures as GIF.

use std::time::Duration;

use gif::{Encoder, Frame, Repeat};
use resvg::{tiny_skia, usvg};

/// The longest side of a picture in pixels.
const MAX_SIDE: f32 = 640.0;

/// A GIF of SVG drawings, all of one size, each with the time that it stays. It plays again and again.
///
/// # Errors
/// When there is none, or a drawing cannot be made, in words.
pub fn encode(drawings: &[(String, Duration)]) -> Result<Vec<u8>, String> {
    let wrong = |error: gif::EncodingError| format!("cannot form the GIF: {error}");
    let (first, _) = drawings.first().ok_or("there is nothing to be shown")?;
    let (width, height, _) = pixels(first)?;
    let mut bytes = Vec::new();
    let mut encoder = Encoder::new(&mut bytes, width, height, &[]).map_err(wrong)?;
    encoder.set_repeat(Repeat::Infinite).map_err(wrong)?;
    let mut before: Option<Vec<u8>> = None;
    for (svg, stays) in drawings {
        let (.., pixels) = pixels(svg)?;
        // What stays as it was need not be told again.
        let part = Part::changed(before.as_deref(), &pixels, width, height);
        let mut frame = Frame::from_rgba_speed(part.width, part.height, &mut part.cut(&pixels, width), 10);
        (frame.left, frame.top) = (part.left, part.top);
        before = Some(pixels);
        frame.delay = u16::try_from(stays.as_millis() / 10).unwrap_or(u16::MAX);
        encoder.write_frame(&frame).map_err(wrong)?;
    }
    drop(encoder);
    Ok(bytes)
}

/// A part of a picture.
struct Part {
    left: u16,
    top: u16,
    width: u16,
    height: u16,
}

impl Part {
    /// The smallest that holds every changed pixel, or one pixel when none is; the whole when there was nothing
    /// before.
    fn changed(before: Option<&[u8]>, now: &[u8], width: u16, height: u16) -> Self {
        let Some(before) = before else { return Self { left: 0, top: 0, width, height } };
        let row = 4 * usize::from(width);
        let differs = |x: u16, y: u16| {
            let at = row * usize::from(y) + 4 * usize::from(x);
            before[at..at + 4] != now[at..at + 4]
        };
        let row_differs = |y: &u16| {
            let rows = row * usize::from(*y)..row * (usize::from(*y) + 1);
            before[rows.clone()] != now[rows]
        };
        let (Some(top), Some(foot)) = ((0..height).find(row_differs), (0..height).rev().find(row_differs))
        else {
            return Self { left: 0, top: 0, width: 1, height: 1 };
        };
        let column_differs = |x: &u16| (top..=foot).any(|y| differs(*x, y));
        let left = (0..width).find(column_differs).unwrap_or(0);
        let right = (0..width).rev().find(column_differs).unwrap_or(0);
        Self { left, top, width: right - left + 1, height: foot - top + 1 }
    }

    /// Its pixels.
    fn cut(&self, pixels: &[u8], width: u16) -> Vec<u8> {
        let rows = (self.top..self.top + self.height).map(usize::from);
        let begin = |y: usize| 4 * (usize::from(width) * y + usize::from(self.left));
        rows.flat_map(|y| &pixels[begin(y)..begin(y) + 4 * usize::from(self.width)]).copied().collect()
    }
}

/// Width, height, and red, green, blue and opacity of each pixel.
fn pixels(svg: &str) -> Result<(u16, u16, Vec<u8>), String> {
    let tree = usvg::Tree::from_str(svg, &usvg::Options::default())
        .map_err(|error| format!("cannot read the drawing: {error}"))?;
    let size = tree.size();
    let scale = MAX_SIDE / size.width().max(size.height());
    let length = |side: f32| (side * scale).round().clamp(1.0, MAX_SIDE) as u16;
    let (width, height) = (length(size.width()), length(size.height()));
    let mut canvas = tiny_skia::Pixmap::new(width.into(), height.into()).ok_or("the drawing has no size")?;
    resvg::render(&tree, tiny_skia::Transform::from_scale(scale, scale), &mut canvas.as_mut());
    Ok((width, height, canvas.take()))
}
