//! A drawing as PNG.

use super::page::{Item, MARK, Page};
use super::pixels::Canvas;

/// A PNG of a drawing with `scale` pixels to each unit.
///
/// # Errors
/// When it is too large for memory, in words.
pub fn at_scale(page: &Page, scale: f32) -> Result<Vec<u8>, String> {
    let canvas = Canvas::painted(page, scale)?;
    let wrong = |error: png::EncodingError| format!("cannot form the PNG: {error}");
    let (width, height) = canvas.size();
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, width, height);
    encoder.set_color(png::ColorType::Rgb);
    if let Some(unit) = page.unit_mm {
        let a_metre = (scale * 1000.0 / unit).round() as u32;
        encoder.set_pixel_dims(Some(png::PixelDimensions {
            xppu: a_metre,
            yppu: a_metre,
            unit: png::Unit::Meter,
        }));
    }
    // Flat colours are worth the search for what repeats; the shades of a glow are not.
    let glows = page.items.iter().any(|item| matches!(item, Item::Glow { .. }));
    encoder.set_compression(if glows { png::Compression::Fastest } else { png::Compression::Balanced });
    encoder.add_text_chunk("Software".to_owned(), MARK.to_owned()).map_err(wrong)?;
    let mut writer = encoder.write_header().map_err(wrong)?;
    writer.write_image_data(canvas.cut(canvas.whole()).as_flattened()).map_err(wrong)?;
    writer.finish().map_err(wrong)?;
    Ok(bytes)
}
