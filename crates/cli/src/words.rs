//! What is to be shown: a text, or a number with its form, and what may be misread in it.

use clap::{Args, ValueEnum};
use spare_tile_core::dots;
use spare_tile_core::face::Face;
use spare_tile_core::frame::Frame;
use spare_tile_core::glyph::legibility::{self, Doubt};
use spare_tile_core::glyph::number::{Decimal, NumberFormat, Radix, Room};
use spare_tile_core::glyph::text::{self, Align, Field};
use spare_tile_core::rig::Severity;

use crate::failure::{Complaint, Exit, Failure, Outcome};
use crate::rigs::GlyphFile;
use crate::session::Session;

/// What is to be shown.
#[derive(Args)]
pub struct Words {
    /// The text; segments can be written in braces: "{a d g}", and braces doubled. For dots their rows: ".##./#..#"
    #[arg(allow_negative_numbers = true)]
    text: String,
    /// Take stand-ins, and words that can be read as numbers, for errors
    #[arg(long)]
    strict: bool,
    /// Take the text for a number, as any option of its form does
    #[arg(long, help_heading = "Numbers")]
    number: bool,
    #[command(flatten)]
    form: NumberForm,
}

/// The form of a number.
#[derive(Args)]
#[command(next_help_heading = "Numbers")]
pub struct NumberForm {
    /// Places after the point; ties are rounded away from zero
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(..=20))]
    places: Option<u32>,
    /// The base of a whole number
    #[arg(long, value_enum, value_name = "BASE")]
    radix: Option<RadixArg>,
    /// Fill up with leading zeros
    #[arg(long)]
    zeros: bool,
    /// Write a plus before what is not negative
    #[arg(long)]
    plus: bool,
    /// A point after each three digits of a whole number
    #[arg(long)]
    thousands: bool,
    /// Written after the number, such as m
    #[arg(long, value_name = "UNIT", default_value = "", hide_default_value = true)]
    unit: String,
    /// Drop places until the number fits
    #[arg(long)]
    shortest: bool,
    /// From a thousand on, three digits and k, M, G or T
    #[arg(long)]
    engineering: bool,
    /// Below this the words of --under are shown
    #[arg(long, value_name = "NUMBER", allow_negative_numbers = true)]
    least: Option<Decimal>,
    /// Above this the words of --over are shown
    #[arg(long, value_name = "NUMBER", allow_negative_numbers = true)]
    most: Option<Decimal>,
    /// What is shown below --least [default: dashes]
    #[arg(long, value_name = "WORDS", default_value = "", hide_default_value = true)]
    under: String,
    /// What is shown above --most [default: dashes]
    #[arg(long, value_name = "WORDS", default_value = "", hide_default_value = true)]
    over: String,
}

/// The base of a whole number, on the command line.
#[derive(ValueEnum, Clone, Copy)]
pub enum RadixArg {
    Decimal,
    Hex,
    Octal,
    Binary,
}

/// Where the words stand on a face that is wider.
#[derive(Args)]
pub struct Placing {
    /// The first digit, counted from 0 at the left
    #[arg(long, value_name = "DIGIT", default_value = "0")]
    start: usize,
    /// How many digits may be used [default: the rest of the face]
    #[arg(long, value_name = "N")]
    length: Option<usize>,
    /// Where in those digits a shorter text stands [default: left, numbers right]
    #[arg(long, value_enum)]
    align: Option<AlignArg>,
    #[command(flatten)]
    glyphs: GlyphFile,
}

/// Where a text stands, on the command line.
#[derive(ValueEnum, Clone, Copy)]
pub enum AlignArg {
    Left,
    Right,
    Centre,
}

impl NumberForm {
    /// The form in the core's words.
    pub fn format(&self) -> NumberFormat {
        NumberFormat {
            places: self.places.unwrap_or(0),
            radix: match self.radix {
                None | Some(RadixArg::Decimal) => Radix::Decimal,
                Some(RadixArg::Hex) => Radix::Hex,
                Some(RadixArg::Octal) => Radix::Octal,
                Some(RadixArg::Binary) => Radix::Binary,
            },
            zeros: self.zeros,
            plus: self.plus,
            thousands: self.thousands,
            unit: self.unit.clone(),
            shortest: self.shortest,
            engineering: self.engineering,
            least: self.least,
            most: self.most,
            under: self.under.clone(),
            over: self.over.clone(),
        }
    }
}

impl Words {
    /// Whether the text is to be taken for a number.
    fn is_number(&self) -> bool {
        self.number || self.form.places.is_some() || self.form.format() != NumberFormat::default()
    }

    /// The text, with a number in its form for the room there is.
    pub fn text(&self, room: Room) -> Result<String, Failure> {
        self.text_of(&self.text, room)
    }

    fn text_of(&self, text: &str, room: Room) -> Result<String, Failure> {
        if !self.is_number() {
            return Ok(text.to_owned());
        }
        let value: Decimal = text.parse().map_err(|error| Failure::unusable_plainly(format!("{error}")))?;
        self.form.format().write(value, room).map_err(|error| {
            Failure::unusable(
                error.to_string(),
                "give it more digits, fewer places, --shortest or --engineering",
            )
        })
    }

    /// A frame of the face with the words in their place.
    pub fn frame(&self, placing: &Placing, face: &Face, session: &mut Session<'_>) -> Result<Frame, Failure> {
        if face.dots.width > 0 {
            return frame_of_dots(&self.text, face);
        }
        let (face, words, frame) = self.lay_out(&self.text, placing, face)?;
        self.check_legible(&words, &face, session)?;
        Ok(frame)
    }

    /// A frame with other words in the same form and place.
    pub fn frame_of(&self, text: &str, placing: &Placing, face: &Face) -> Result<Frame, Failure> {
        if face.dots.width > 0 {
            return frame_of_dots(text, face);
        }
        self.lay_out(text, placing, face).map(|(_, _, frame)| frame)
    }

    /// The face with the characters of a glyph file, the words in their form, and the frame that they make.
    fn lay_out(&self, text: &str, placing: &Placing, face: &Face) -> Result<(Face, String, Frame), Failure> {
        let mut face = face.clone();
        placing.glyphs.add_to(&mut face)?;
        let field = placing.field(&face, self)?;
        let words = self.text_of(text, Room { digits: field.length, points: face.points })?;
        let mut frame = face.blank();
        text::write(&words, &face, field, &mut frame).map_err(|error| Failure::of_text(&error, &words))?;
        Ok((face, words, frame))
    }

    /// Warns of what may be misread, or refuses it when that is asked for.
    pub fn check_legible(&self, text: &str, face: &Face, session: &mut Session<'_>) -> Outcome {
        let doubts = legibility::doubts(text, face);
        let severity = if self.strict { Severity::Error } else { Severity::Warning };
        let complaints: Vec<_> = doubts.iter().map(|doubt| complaint(doubt, text, severity)).collect();
        if self.strict && !complaints.is_empty() {
            return Err(Failure { exit: Exit::Unusable, complaints });
        }
        session.warn(&complaints);
        Ok(())
    }
}

/// A frame of dots from their rows.
fn frame_of_dots(rows: &str, face: &Face) -> Result<Frame, Failure> {
    let mut frame = face.blank();
    dots::write(rows, face, &mut frame).map_err(|error| {
        let help = "write the dots in rows: \".##./#..#\"";
        Failure::unusable(format!("these are no dots for face {}: {error}", face.name), help)
    })?;
    Ok(frame)
}

fn complaint(doubt: &Doubt, text: &str, severity: Severity) -> Complaint {
    let help = match doubt {
        Doubt::StandIn { .. } => {
            "choose another word, or draw it yourself: {a d g} in the text, or glyphs in the rig"
        }
        Doubt::ReadsAsNumber { .. } => "choose another word, or other letter cases",
    };
    let (position, length) = doubt.place();
    Complaint::in_text(severity, doubt.to_string(), text, position, length, help)
}

impl Placing {
    /// The digits that the words may use.
    pub fn field(&self, face: &Face, words: &Words) -> Result<Field, Failure> {
        let Self { start, length, .. } = *self;
        let digits = face.digits;
        let rest = digits.checked_sub(start).filter(|rest| *rest > 0).ok_or_else(|| {
            let message = format!("--start {start} is beyond the face, which has {digits} digits");
            Failure::unusable(message, format!("use 0 to {}", digits - 1))
        })?;
        let length = length.unwrap_or(rest);
        if length > rest {
            let message =
                format!("--length {length} from digit {start} goes beyond the face of {digits} digits");
            return Err(Failure::unusable(message, format!("use at most {rest}")));
        }
        let align = match self.align {
            Some(AlignArg::Left) => Align::Left,
            Some(AlignArg::Right) => Align::Right,
            Some(AlignArg::Centre) => Align::Centre,
            None if words.is_number() => Align::Right,
            None => Align::Left,
        };
        Ok(Field { start, length, align })
    }
}
