//! The picture as SVG.

use std::fmt::Write;

use spare_tile_core::picture::Picture;

use super::colour::{self, HOUSING, LENS, Rgb};
use super::scene::{self, Outline, Scene};

/// The width of the housing around the lens.
const HOUSING_WIDTH: f32 = 10.0;
/// Light below this is not worth a glow.
const GLOW_FROM: f32 = 0.002;

/// The whole face in one row.
pub fn draw(picture: &Picture<'_>) -> String {
    let scene = scene::of(picture);
    let (width, height) = (scene.width + 2.0 * HOUSING_WIDTH, scene.height + 2.0 * HOUSING_WIDTH);
    let mut svg = String::new();
    // Writing to a string cannot fail.
    let _ = write!(
        svg,
        r##"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:.1} {height:.1}" width="{width:.1}" height="{height:.1}">
<title>{}: {}</title>
<defs>
<filter id="glow" filterUnits="userSpaceOnUse" x="0" y="0" width="{:.1}" height="{:.1}" color-interpolation-filters="sRGB"><feGaussianBlur stdDeviation="6"/></filter>
<linearGradient id="lens" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="{}"/><stop offset="1" stop-color="{}"/></linearGradient>
</defs>
<rect width="{width:.1}" height="{height:.1}" rx="7" fill="{}"/>
<g transform="translate({HOUSING_WIDTH} {HOUSING_WIDTH})">
<rect width="{:.1}" height="{:.1}" rx="3" fill="url(#lens)"/>
"##,
        escape(&picture.face.name),
        escape(&picture.reading()),
        scene.width,
        scene.height,
        colour::mix(LENS, Rgb(255, 255, 255), 0.05).hex(),
        LENS.hex(),
        HOUSING.hex(),
        scene.width,
        scene.height,
    );
    draw_glow(&scene, picture, &mut svg);
    for shape in &scene.shapes {
        path(&shape.outline, &colour::shade(picture.face.light.colour, shape.light).hex(), None, &mut svg);
    }
    svg.push_str("</g>\n</svg>\n");
    svg
}

/// The light that spills over the lens: the lit shapes, blurred, beneath the sharp ones.
fn draw_glow(scene: &Scene, picture: &Picture<'_>, svg: &mut String) {
    let lit = || scene.shapes.iter().filter(|shape| shape.light > GLOW_FROM);
    if lit().next().is_none() {
        return;
    }
    svg.push_str("<g filter=\"url(#glow)\">\n");
    let colour = colour::lit(picture.face.light.colour).hex();
    for shape in lit() {
        path(&shape.outline, &colour, Some(0.6 * colour::lightness(shape.light)), svg);
    }
    svg.push_str("</g>\n");
}

/// Writes an outline.
pub(super) fn path(outline: &Outline, fill: &str, opacity: Option<f32>, svg: &mut String) {
    let opacity = opacity.map(|opacity| format!(" opacity=\"{opacity:.2}\"")).unwrap_or_default();
    let _ = match outline {
        Outline::Circle((x, y), r) => {
            writeln!(svg, "<circle cx=\"{x:.2}\" cy=\"{y:.2}\" r=\"{r:.2}\" fill=\"{fill}\"{opacity}/>")
        }
        Outline::Polygon(corners) => {
            let corners: Vec<_> = corners.iter().map(|(x, y)| format!("{x:.2},{y:.2}")).collect();
            writeln!(svg, "<polygon points=\"{}\" fill=\"{fill}\"{opacity}/>", corners.join(" "))
        }
    };
}

/// Text as XML takes it.
pub(super) fn escape(text: &str) -> String {
    text.chars().filter(|c| !c.is_control()).fold(String::new(), |mut escaped, character| {
        match character {
            '&' => escaped.push_str("&amp;"),
            '<' => escaped.push_str("&lt;"),
            '>' => escaped.push_str("&gt;"),
            _ => escaped.push(character),
        }
        escaped
    })
}
