//! `fonts`: the fonts for dots, a specimen of one, and what it has of a text.

use clap::Args;
use serde::Serialize;
use spare_tile_core::dots::Bitmap;
use spare_tile_core::dots::font::{Fitting, Font, Setting};
use spare_tile_core::dots::own::{FONTS, Own};
use spare_tile_core::units::counted;

use crate::exports::DrawingFiles;
use crate::failure::{Failure, Outcome};
use crate::lettering;
use crate::session::Session;
use crate::view::columns::Columns;
use crate::view::specimen;

/// List the fonts for dots, or draw a specimen of one
///
/// Any BDF file can be named in place of one of ours; what is wrong with it is said with its line.
///
/// Example: spare-tile fonts board
#[derive(Args)]
pub struct Fonts {
    /// One of our fonts, or a BDF file
    ///
    /// Example: spare-tile fonts board
    font: Option<String>,
    /// The text to set, instead of all its characters
    ///
    /// Example: spare-tile fonts board --say "TEAL 07:58"
    #[arg(long, value_name = "TEXT")]
    say: Option<String>,
    /// Check that it has every character of this text; the exit status is 1 if it does not
    ///
    /// Example: spare-tile fonts board --covers "DÜNE 7°"
    #[arg(long, value_name = "TEXT", conflicts_with = "say")]
    covers: Option<String>,
    #[command(flatten)]
    drawing: DrawingFiles,
}

#[derive(Serialize)]
struct OwnAnswer {
    name: &'static str,
    about: &'static str,
    height: usize,
    characters: usize,
}

#[derive(Serialize)]
struct CoverAnswer<'a> {
    font: &'a str,
    text: &'a str,
    missing: Vec<char>,
}

#[derive(Serialize)]
struct FontAnswer<'a> {
    font: &'a str,
    ascent: usize,
    descent: usize,
    characters: String,
    /// The lines that are drawn, each as its rows.
    lines: Vec<Vec<String>>,
}

/// The longest text of a specimen: more takes too much memory to draw.
const MOST_SAID: usize = 4_000;

/// Runs `fonts`.
pub fn run(args: &Fonts, session: &mut Session<'_>) -> Outcome {
    let Some(name) = &args.font else {
        if args.drawing.any() || args.say.is_some() || args.covers.is_some() {
            let help = "such as spare-tile fonts board --svg board.svg; spare-tile fonts lists them";
            return Err(Failure::unusable("no font was named", help));
        }
        return list(session);
    };
    let font = lettering::font(name)?;
    if let Some(text) = &args.covers {
        return cover(&font, text, session);
    }
    let length = args.say.as_ref().map_or(0, |text| text.chars().count());
    if length > MOST_SAID {
        let message = format!("the text has {length} characters; a specimen has {MOST_SAID} at most");
        return Err(Failure::unusable(message, "give a shorter text with --say"));
    }
    let lines = lines(&font, args.say.as_deref())?;
    let cells = cells(&font);
    if session.json {
        let rows = |line: &Bitmap| line.to_string().lines().map(str::to_owned).collect();
        session.write_json(&FontAnswer {
            font: &font.name,
            ascent: font.ascent,
            descent: font.descent,
            characters: font.characters().collect(),
            lines: lines.iter().map(rows).collect(),
        })?;
    } else {
        let count = font.characters().count();
        let about = format!(
            "{} above the line, {} below, {}",
            counted(font.ascent, "row", "rows"),
            font.descent,
            counted(count, "character", "characters")
        );
        session.write_named(&font.name, &about)?;
        if args.say.is_none() {
            writeln!(session.out, "\n{}", specimen::cells(&cells, session))?;
        } else {
            for line in &lines {
                writeln!(session.out, "\n{}", specimen::terminal(line, session))?;
            }
        }
    }
    let draw = || match &args.say {
        Some(_) => specimen::draw(&font.name, &lines),
        None => specimen::draw_cells(&font.name, &cells),
    };
    args.drawing.write(draw, session)
}

/// Each character of a font in a cell as wide as the pen goes on.
fn cells(font: &Font) -> Vec<specimen::Cell> {
    let cell = |character: char| {
        let glyph = font.glyph(character)?;
        let mut dots = Bitmap::dark(glyph.advance.max(1), font.height());
        dots.add(&glyph.bitmap, glyph.left.max(0), font.ascent as isize - glyph.rise);
        Some((character, dots))
    };
    font.characters().filter_map(cell).collect()
}

fn list(session: &mut Session<'_>) -> Outcome {
    let loaded = FONTS.iter().filter_map(|own| Some((own, own.load()?)));
    let answer = |(own, font): (&Own, Font)| OwnAnswer {
        name: own.name,
        about: own.about,
        height: font.height(),
        characters: font.characters().count(),
    };
    let answers: Vec<_> = loaded.map(answer).collect();
    if session.json {
        return session.write_json(&answers);
    }
    let mut table = Columns::new(&["font", "what it is for", "rows", "characters"]);
    for OwnAnswer { name, about, height, characters } in answers {
        table.row([name.to_owned(), about.to_owned(), height.to_string(), characters.to_string()]);
    }
    write!(session.out, "{}", table.text(0, session))?;
    session.say_aside("see one: spare-tile fonts board; any BDF file can be named in its place");
    Ok(())
}

fn cover(font: &Font, text: &str, session: &mut Session<'_>) -> Outcome {
    let missing = font.missing(text);
    if session.json {
        session.write_json(&CoverAnswer { font: &font.name, text, missing: missing.clone() })?;
    } else if missing.is_empty() {
        writeln!(session.out, "{}: has every character of the text", font.name)?;
    } else {
        let names: Vec<_> =
            missing.iter().map(|found| format!("{found} (U+{:04X})", u32::from(*found))).collect();
        session.write_named(&font.name, &format!("lacks {}", names.join(", ")))?;
    }
    if missing.is_empty() { Ok(()) } else { Err(Failure::no()) }
}

/// The text, or all characters of the font, in lines that fit on a page.
fn lines(font: &Font, text: Option<&str>) -> Result<Vec<Bitmap>, Failure> {
    const COLUMNS: usize = 76;
    let fitting = if text.is_some() { Fitting::Kerned } else { Fitting::Plain };
    let setting = Setting { spacing: 0, fitting };
    let set = |line: &str| {
        font.set(line, setting).map_err(|error| {
            Failure::unusable(error.to_string(), "choose other words, or a font that has them: --covers TEXT")
        })
    };
    if let Some(text) = text {
        return text.lines().map(set).collect();
    }
    let mut lines = Vec::new();
    let (mut begun, mut width) = (String::new(), 0);
    for character in font.characters().filter(|character| font.set(&character.to_string(), setting).is_ok()) {
        let advance = font.glyph(character).map_or(0, |glyph| glyph.advance);
        if width + advance > COLUMNS && !begun.is_empty() {
            lines.push(set(&begun)?);
            (begun, width) = (String::new(), 0);
        }
        begun.push(character);
        width += advance;
    }
    lines.push(set(&begun)?);
    Ok(lines)
}
