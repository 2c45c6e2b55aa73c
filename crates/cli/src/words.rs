//! The content to be shown: a text, or a number with its form, and its legibility.

use std::borrow::Cow;

use clap::Args;
use spare_tile_core::content::legibility::{self, Doubt};
use spare_tile_core::content::lettering::{Lettering, Look};
use spare_tile_core::content::number::{Decimal, NumberFormat, Radix, Room};
use spare_tile_core::content::text::Align;
use spare_tile_core::content::{Canvas, Content, ContentError, Region};
use spare_tile_core::dots::raster::Raster;
use spare_tile_core::face::Face;
use spare_tile_core::frame::Frame;
use spare_tile_core::plan::{Lack, Mount};
use spare_tile_core::rig::Severity;

use crate::failure::{Complaint, Exit, Failure, Outcome, first_given};
use crate::files;
use crate::lettering::LookArgs;
use crate::options::word;
use crate::rigs::GlyphFile;
use crate::session::Session;
use crate::sprites::{self, Changes};

/// The content to be shown.
#[derive(Args)]
#[command(next_help_heading = "Text")]
pub struct Words {
    /// The text; segments can be written in braces: "{a d g}", and braces doubled. On dots rows of them too: ".##./#..#". A -
    /// alone is standard input, a minus alone "{g}"
    ///
    /// Example: spare-tile encode "07:58"
    #[arg(allow_negative_numbers = true, help_heading = None::<&str>)]
    text: Option<String>,
    /// Treat stand-ins, and words that can be read as numbers, as errors
    ///
    /// Example: spare-tile show QUAY --strict
    #[arg(long)]
    strict: bool,
    /// Treat the text as a number, as any option of its form does
    ///
    /// Example: spare-tile show 0x30 --number
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
    ///
    /// Example: spare-tile show -0.4 --places 2
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(..=20))]
    places: Option<u32>,
    /// The base of a whole number
    ///
    /// Example: spare-tile show 48 --radix hex
    #[arg(long, value_name = "BASE", value_parser = word::<Radix>())]
    radix: Option<Radix>,
    /// Fill up with leading zeros
    ///
    /// Example: spare-tile show 7 --length 3 --zeros
    #[arg(long)]
    zeros: bool,
    /// Write a plus before a number that is not negative
    ///
    /// Example: spare-tile show 2.1 --plus
    #[arg(long)]
    plus: bool,
    /// Write a point after each three digits of a whole number
    ///
    /// Example: spare-tile show 12000 --thousands
    #[arg(long)]
    thousands: bool,
    /// The unit behind the number, such as m
    ///
    /// Example: spare-tile show 2.1 --unit m
    #[arg(long, value_name = "UNIT", default_value = "", hide_default_value = true)]
    unit: String,
    /// Drop places until the number fits
    ///
    /// Example: spare-tile show 3.14159 --shortest
    #[arg(long)]
    shortest: bool,
    /// From a thousand on, write three digits and k, M, G or T
    ///
    /// Example: spare-tile show 12500 --engineering
    #[arg(long)]
    engineering: bool,
    /// The lowest number that is shown; --under is shown below it
    ///
    /// Example: spare-tile show -1.2 --least -1 --under Lo
    #[arg(long, value_name = "NUMBER", allow_negative_numbers = true)]
    least: Option<Decimal>,
    /// The highest number that is shown; --over is shown above it
    ///
    /// Example: spare-tile show 9.3 --most 9 --over Hi
    #[arg(long, value_name = "NUMBER", allow_negative_numbers = true)]
    most: Option<Decimal>,
    /// The text that is shown below --least [default: dashes]
    ///
    /// Example: spare-tile show -1.2 --least -1 --under Lo
    #[arg(long, value_name = "WORDS", default_value = "", hide_default_value = true)]
    under: String,
    /// The text that is shown above --most [default: dashes]
    ///
    /// Example: spare-tile show 9.3 --most 9 --over Hi
    #[arg(long, value_name = "WORDS", default_value = "", hide_default_value = true)]
    over: String,
}

/// Where the words stand on a face that is wider.
#[derive(Args)]
#[command(next_help_heading = "Text")]
pub struct Placing {
    /// The first digit, counted from 0 at the left
    ///
    /// Example: spare-tile show 58 --start 2
    #[arg(long, value_name = "DIGIT", default_value = "0")]
    start: usize,
    /// The number of digits that may be used [default: the rest of the face]
    ///
    /// Example: spare-tile show 58 --start 2 --length 2
    #[arg(long, value_name = "N")]
    length: Option<usize>,
    /// The place of a text that is shorter than its digits, or of a text or sprite on dots [default: left, numbers right]
    ///
    /// Example: spare-tile show TEAL --align centre
    #[arg(long, value_parser = word::<Align>())]
    align: Option<Align>,
    #[command(flatten)]
    glyphs: GlyphFile,
    #[command(flatten)]
    look: LookArgs,
}

impl NumberForm {
    /// The form in the core's words.
    pub fn format(&self) -> NumberFormat {
        NumberFormat {
            places: self.places,
            radix: self.radix.unwrap_or_default(),
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
    /// Returns true if a text is given.
    pub const fn has_text(&self) -> bool {
        self.text.is_some()
    }

    /// The first option that says something of a text; none where no such option is given.
    pub fn first_option(&self) -> Option<&'static str> {
        let said = [(self.strict, "--strict"), (self.is_number(), "the form of a number")];
        first_given(&said)
    }

    /// Returns true if the text is to be taken for a number.
    fn is_number(&self) -> bool {
        self.number
            || self.form.places.is_some()
            || self.form.radix.is_some()
            || self.form.format() != NumberFormat::default()
    }

    /// Returns the content for the words on a face; on dots they need a look.
    fn content(
        &self,
        words: &str,
        align: Option<Align>,
        look: Option<&Look>,
        face: &Face,
    ) -> Result<Content, Failure> {
        let format = self.form.format();
        Content::of_words(words, self.is_number().then_some(&format), align, look, face)
            .map_err(|error| Failure::of_content(&error, &face.name))
    }

    /// The text of the command line or of standard input, if any.
    pub fn said_if_any(&self) -> Result<Option<Cow<'_, str>>, Failure> {
        self.text.as_deref().map(files::said).transpose()
    }

    fn said(&self) -> Result<Cow<'_, str>, Failure> {
        self.said_if_any()?.ok_or_else(|| {
            Failure::unusable("there is nothing to be shown", "give a text, or a sprite with --sprite FILE")
        })
    }

    /// The text, with a number in its form for the room there is.
    pub fn text(&self, face: &Face, room: Room) -> Result<String, Failure> {
        let words = self.content(&self.said()?, None, None, face)?.words(room);
        let words = words.map_err(|error| Failure::of_content(&error, &face.name))?;
        words.ok_or_else(|| Failure::unusable_plainly(format!("face {} has dots and no digits", face.name)))
    }

    /// A frame of the face with the words in their place, over what is in it already.
    pub fn frame_over(
        &self,
        frame: Frame,
        placing: &Placing,
        mount: &Mount,
        session: &mut Session<'_>,
    ) -> Result<Frame, Failure> {
        let (face, words, frame) = self.lay_out(&self.said()?, placing, &mount.face, frame)?;
        if let Some(words) = words {
            self.check_legible(&words, &face, session)?;
        }
        let lacks = mount.lacks(&frame);
        self.complain(lacks.iter().map(|lack| self.lack(lack)).collect(), session)?;
        Ok(frame)
    }

    /// The same of a text on dots with its lines mirrored, turned or moved; numbers in their form.
    pub fn changed(&self, placing: &Placing, changes: &Changes, mount: &Mount) -> Result<Frame, Failure> {
        let face = &mount.face;
        let failed = |error: ContentError| Failure::of_content(&error, &face.name);
        let look = placing.look.on(face)?;
        let content = self.content(&self.said()?, placing.align(), look.as_ref(), face)?;
        let mut frame = face.blank();
        let canvas = Canvas::whole(face, &mut frame);
        let words = content.words(content.room(&canvas)).map_err(failed)?;
        let lettering = match content {
            Content::Lettering(lettering) => lettering,
            Content::Figures { look, .. } => Lettering::of_number(words.unwrap_or_default(), &look),
            _ => {
                let message = "only a text on dots is mirrored, turned or moved, or a sprite";
                return Err(Failure::unusable(
                    message,
                    "name a sprite with --sprite FILE, or leave the option out",
                ));
            }
        };
        let strip = lettering.strip().map_err(|error| failed(error.into()))?;
        Ok(sprites::of_text(&Raster::from(&strip), changes, placing.align().unwrap_or_default(), face))
    }

    fn severity(&self) -> Severity {
        if self.strict { Severity::Error } else { Severity::Warning }
    }

    /// Returns a complaint about something that the face cannot show.
    fn lack(&self, lack: &Lack) -> Complaint {
        Complaint::plain(self.severity(), lack.to_string(), lack.fix())
    }

    /// Warns, or refuses when that is asked for.
    fn complain(&self, complaints: Vec<Complaint>, session: &mut Session<'_>) -> Outcome {
        if self.strict && !complaints.is_empty() {
            return Err(Failure { exit: Exit::Unusable, complaints });
        }
        session.warn(&complaints);
        Ok(())
    }

    /// A frame with other words in the same form and place.
    pub fn frame_of(&self, text: &str, placing: &Placing, face: &Face) -> Result<Frame, Failure> {
        self.lay_out(text, placing, face, face.blank()).map(|(_, _, frame)| frame)
    }

    /// The face with the characters of a glyph file, the words in their form where there are any, and the frame with them.
    fn lay_out(
        &self,
        text: &str,
        placing: &Placing,
        face: &Face,
        mut frame: Frame,
    ) -> Result<(Face, Option<String>, Frame), Failure> {
        let mut face = face.clone();
        placing.glyphs.add_to(&mut face)?;
        // A font is only looked for where there are dots.
        let look = placing.look.on(&face)?;
        let content = self.content(text, placing.align(), look.as_ref(), &face)?;
        let mut canvas = Canvas::new(&face, &mut frame, placing.region(&face)?);
        let room = content.room(&canvas);
        let drawn = content.words(room).and_then(|words| content.draw(&mut canvas).map(|()| words));
        let words = drawn.map_err(|error| Failure::of_content(&error, &face.name))?;
        // Only letters of segments can be misread like that, not dots.
        let words = words.filter(|_| face.dots().is_none());
        Ok((face, words, frame))
    }

    /// Warns of what may be misread, or refuses it when that is asked for.
    pub fn check_legible(&self, text: &str, face: &Face, session: &mut Session<'_>) -> Outcome {
        self.complain(doubts(text, face, self.severity()), session)
    }
}

/// Returns a complaint for each part of a text that may be misread: the first few, and how many more there are.
pub fn doubts(text: &str, face: &Face, severity: Severity) -> Vec<Complaint> {
    Complaint::of_first(&legibility::doubts(text, face), |doubt| complaint(doubt, text, severity))
}

fn complaint(doubt: &Doubt, text: &str, severity: Severity) -> Complaint {
    let help = match doubt {
        Doubt::StandIn { .. } => {
            "choose another word, or draw it yourself: {a d g} in the text, or glyphs in the rig"
        }
        Doubt::ReadsAsNumber { .. } => "choose another word, or other letter cases",
        Doubt::NoColon { .. } => {
            "leave it out, or give the face a colon in the rig: colons = [{ after = 2, ... }]"
        }
        Doubt::NoPoint { .. } => "leave it out, or wire the points",
    };
    let (position, length) = doubt.place();
    Complaint::in_text(severity, doubt.to_string(), text, position, length, help)
}

impl Placing {
    /// The first option that only a text has; none where no such option is given.
    pub fn first_option(&self) -> Option<&'static str> {
        let said = [(self.start > 0, "--start"), (self.length.is_some(), "--length")];
        first_given(&said).or_else(|| self.look.first_option())
    }

    /// Where a shorter text stands, where that is said.
    pub const fn align(&self) -> Option<Align> {
        self.align
    }

    /// The part of the face that the words may use.
    fn region(&self, face: &Face) -> Result<Region, Failure> {
        let Self { start, length, .. } = *self;
        if face.dots().is_some() {
            if start > 0 || length.is_some() {
                let message = format!("face {} has dots and no digits", face.name);
                return Err(Failure::unusable(
                    message,
                    "leave --start and --length out; move a text by --offset",
                ));
            }
            return Ok(Region::whole(face));
        }
        let digits = face.digits();
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
        Ok(Region::Digits { start, length })
    }
}
