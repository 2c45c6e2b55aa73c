//! The frames of a sprite, drawn dot by dot.

use std::path::Path;
use std::time::{Duration, Instant};

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers, MouseButton, MouseEvent, MouseEventKind};
use ratatui::buffer::Buffer;
use ratatui::layout::Rect;
use spare_tile_core::dots::raster::{Colour, OFF, Raster};
use spare_tile_core::dots::sprite::{self, INKS, Sprite, USUAL};
use spare_tile_core::drawing::film::{CannotDraw, Film, line};
use spare_tile_core::face::{Channels, Colour as Light};
use spare_tile_core::plan::Mount;
use spare_tile_core::units::{Nanos, counted};
use spare_tile_firmware::data::Order;

use super::{Answer, Question, Work};
use crate::failure::Failure;
use crate::files;
use crate::input;
use crate::pictures;
use crate::sprites::{self, Target};
use crate::view::easel::Pens;
use crate::view::easel::film::Sight;

/// A film and the pen over it.
pub struct Pen<'m> {
    film: Film,
    /// Where the cursor is.
    at: (usize, usize),
    ink: Colour,
    onion: bool,
    order: Order<'m>,
    light: Option<Light>,
    /// The ink of the mouse while its button is down, and the last dot below it.
    stroke: Option<(Colour, (usize, usize))>,
    play: Option<Play>,
    /// A message about the beginning.
    begun: String,
}

/// A film that plays.
struct Play {
    sprite: Sprite,
    began: Instant,
}

const KEYS: [(&str, &str); 22] = [
    ("arrows", "move"),
    ("space", "dot"),
    (". #", "dark, lit"),
    ("r g b y c m w", "colours"),
    ("f", "fill"),
    ("u U", "undo, redo"),
    ("[ ]", "frame"),
    ("n", "copy it"),
    ("N", "new one"),
    ("x", "take it out"),
    ("< >", "exchange"),
    ("t", "time"),
    ("+ -", "longer, shorter"),
    ("e", "name"),
    ("o", "onion skin"),
    ("p", "play"),
    ("i", "negative"),
    ("h v", "mirror"),
    ("T", "turn"),
    ("shift arrows", "shift"),
    ("s", "save"),
    ("q", "leave"),
];

/// How much longer or shorter a frame stays with a key.
const TIME_STEP: Duration = Duration::from_millis(10);

impl<'m> Pen<'m> {
    /// Opens a file, or a dark frame if there is no file yet.
    pub fn new(
        path: &Path,
        is_new: bool,
        size: Option<(usize, usize)>,
        mount: Option<&'m Mount>,
    ) -> Result<Self, Failure> {
        let of_face = mount.map(Target::of).transpose()?;
        let mut begun = String::new();
        let film = if is_new {
            let of_face = of_face
                .map(|Target { size, .. }| (size.0.min(sprite::MOST_WIDTH), size.1.min(sprite::MOST_HEIGHT)));
            "a new sprite".clone_into(&mut begun);
            Film::dark(size.or(of_face).unwrap_or(USUAL_SIZE), USUAL)
        } else {
            let mut film = Film::of(&load(path)?);
            if let Some(size) = size {
                let lost = film.resize(size);
                if lost > 0 {
                    begun = format!(
                        "{} cut off; u brings them back",
                        counted(lost, "lit dot was", "lit dots were")
                    );
                }
            }
            film
        };
        let light = mount
            .filter(|mount| mount.face.dots().is_some_and(|grid| grid.channels == Channels::One))
            .map(|mount| mount.face.light.colour);
        Ok(Self {
            film,
            at: (0, 0),
            ink: [255; 3],
            onion: true,
            order: Order::of(mount),
            light,
            stroke: None,
            play: None,
            begun,
        })
    }

    fn sight(&self) -> Sight<'_> {
        let playing = self.play.as_ref().map(|play| play.frame().0);
        Sight {
            film: &self.film,
            frame: playing.unwrap_or(self.film.at()),
            cursor: self.at,
            plays: playing.is_some(),
            onion: self.onion,
            order: self.order,
            light: self.light,
        }
    }

    /// Moves the cursor, as far as there are dots.
    fn go(&mut self, right: isize, down: isize) {
        let (width, height) = self.film.size();
        let moved = |at: usize, by: isize, count: usize| at.saturating_add_signed(by).min(count - 1);
        self.at = (moved(self.at.0, right, width), moved(self.at.1, down, height));
    }

    /// Moves it behind the dot that was typed, as in a text: at the end of a row to the next one.
    fn go_on(&mut self) {
        let (width, height) = self.film.size();
        if self.at.0 + 1 < width {
            self.at.0 += 1;
        } else if self.at.1 + 1 < height {
            self.at = (0, self.at.1 + 1);
        }
    }

    /// Draws the letter of a sprite file.
    fn type_dot(&mut self, colour: Colour) {
        if colour != OFF {
            self.ink = colour;
        }
        self.film.stroke([self.at], colour, false);
        self.go_on();
    }

    /// Draws a dot with the pen: a dot that has its ink already loses it.
    fn meets(&self, (x, y): (usize, usize)) -> Colour {
        if self.film.shot().raster.get(x, y) == self.ink { OFF } else { self.ink }
    }

    fn shift(&mut self, right: isize, down: isize) -> Result<(), CannotDraw> {
        self.film.change(|raster| raster.shifted(right, down, true))
    }

    fn arrow(&mut self, key: KeyEvent) -> Option<Result<(), CannotDraw>> {
        let (right, down) = match key.code {
            KeyCode::Left => (-1, 0),
            KeyCode::Right => (1, 0),
            KeyCode::Up => (0, -1),
            KeyCode::Down => (0, 1),
            _ => return None,
        };
        if key.modifiers.contains(KeyModifiers::SHIFT) {
            return Some(self.shift(right, down));
        }
        self.go(right, down);
        Some(Ok(()))
    }

    fn lengthen(&mut self, is_longer: bool) -> Result<(), CannotDraw> {
        let stays = self.film.shot().stays;
        let next = if is_longer { stays + TIME_STEP } else { stays.saturating_sub(TIME_STEP) };
        self.film.set_time(next)
    }

    /// Handles a key that is not a letter of a file.
    fn command(&mut self, key: KeyCode) -> Result<(), CannotDraw> {
        match key {
            KeyCode::Char(' ') => self.film.stroke([self.at], self.meets(self.at), false),
            KeyCode::Backspace => {
                self.go(-1, 0);
                self.film.stroke([self.at], OFF, false);
            }
            KeyCode::Enter => {
                self.go(0, 1);
                self.at.0 = 0;
            }
            KeyCode::Home => self.at.0 = 0,
            KeyCode::End => self.go(isize::MAX, 0),
            KeyCode::Char('f') => self.film.fill(self.at, self.meets(self.at)),
            KeyCode::Char('[') | KeyCode::PageUp => self.film.go_to(self.film.at().saturating_sub(1)),
            KeyCode::Char(']') | KeyCode::PageDown => self.film.go_to(self.film.at() + 1),
            KeyCode::Char('n') => self.film.insert(false)?,
            KeyCode::Char('N') => self.film.insert(true)?,
            KeyCode::Char('x') | KeyCode::Delete => self.film.remove()?,
            KeyCode::Char('<') => self.film.exchange(false),
            KeyCode::Char('>') => self.film.exchange(true),
            KeyCode::Char('+' | '=') => self.lengthen(true)?,
            KeyCode::Char('-') => self.lengthen(false)?,
            KeyCode::Char('i') => self.film.change(Raster::inverted)?,
            KeyCode::Char('h') => self.film.change(Raster::mirrored)?,
            KeyCode::Char('v') => self.film.change(Raster::upended)?,
            KeyCode::Char('T') => self.film.change(|raster| raster.turned(1))?,
            KeyCode::Char('o') => self.onion = !self.onion,
            KeyCode::Char('p') => {
                self.play = Some(Play { sprite: self.film.sprite(), began: Instant::now() })
            }
            _ => {}
        }
        Ok(())
    }
}

/// The size of a new sprite unless one is given.
const USUAL_SIZE: (usize, usize) = (8, 8);

/// A sprite file; a picture is none.
fn load(path: &Path) -> Result<Sprite, Failure> {
    let bytes = files::read_bytes(path, "sprite")?;
    if pictures::format(&bytes).is_some() {
        let name = path.display();
        let help = format!(
            "make a sprite of it first: spare-tile dots {name} --out {}",
            path.with_extension("dots").display()
        );
        return Err(Failure::unusable(format!("{name} is a picture and no sprite"), help));
    }
    sprites::parse(&input::called(path), &files::text(path, "sprite", bytes)?)
}

impl Play {
    /// The frame that is seen now, and how long it still is.
    fn frame(&self) -> (usize, Duration) {
        let length = self.sprite.length().as_nanos().max(1);
        let within = self.began.elapsed().as_nanos() % length;
        let within = Duration::from_nanos(u64::try_from(within).unwrap_or(u64::MAX));
        let (frame, ends) = self.sprite.at(within).unwrap_or((0, within));
        (frame, ends - within)
    }
}

impl Work for Pen<'_> {
    fn title(&self) -> String {
        let (width, height) = self.film.size();
        let sight = self.sight();
        let (frame, count) = (sight.frame, self.film.shots().len());
        let shot = &self.film.shots()[frame];
        let name = shot.name.as_ref().map_or_else(String::new, |name| format!(" {name}"));
        let ink = INKS.iter().find(|(_, ink)| *ink == self.ink).map_or('#', |(letter, _)| *letter);
        let doing =
            if self.play.is_some() { "plays, any key stops".to_owned() } else { format!("ink {ink}") };
        let stays = Nanos::from(shot.stays).written();
        format!("{width}x{height}   frame {frame}{name} of {count}, {stays}   {doing}")
    }

    fn keys(&self) -> &'static [(&'static str, &'static str)] {
        &KEYS
    }

    fn draw(&self, area: Rect, buffer: &mut Buffer, pens: Pens) {
        self.sight().draw(area, buffer, pens);
    }

    fn key(&mut self, key: KeyEvent) -> Answer {
        if self.play.take().is_some() {
            return Answer::Done;
        }
        self.stroke = None;
        let ink = match key.code {
            KeyCode::Char(letter) => INKS.iter().find(|(known, _)| *known == letter),
            _ => None,
        };
        let done = match key.code {
            _ if ink.is_some() => {
                ink.iter().for_each(|(_, colour)| self.type_dot(*colour));
                Ok(())
            }
            KeyCode::Char('t') => {
                return Answer::Ask(Question::Time, Nanos::from(self.film.shot().stays).written());
            }
            KeyCode::Char('e') => {
                return Answer::Ask(Question::Name, self.film.shot().name.clone().unwrap_or_default());
            }
            code => self.arrow(key).unwrap_or_else(|| self.command(code)),
        };
        // Another size or number of frames may have come.
        self.go(0, 0);
        match done {
            Ok(()) => Answer::Done,
            Err(error) => Answer::Say(error.to_string()),
        }
    }

    fn mouse(&mut self, mouse: MouseEvent, area: Rect, pens: Pens) {
        if self.play.is_some() {
            return;
        }
        let place = (mouse.column, mouse.row);
        match mouse.kind {
            MouseEventKind::Down(button) => {
                if let Some(frame) = self.sight().frame_at(area, pens, place) {
                    return self.film.go_to(frame);
                }
                let Some(dot) = self.sight().dot_at(area, pens, place, false) else { return };
                let colour = if button == MouseButton::Left { self.meets(dot) } else { OFF };
                self.film.stroke([dot], colour, false);
                (self.at, self.stroke) = (dot, Some((colour, dot)));
            }
            MouseEventKind::Drag(_) => {
                let Some((colour, last)) = self.stroke else { return };
                let Some(dot) = self.sight().dot_at(area, pens, place, true) else { return };
                self.film.stroke(line(last, dot), colour, true);
                (self.at, self.stroke) = (dot, Some((colour, dot)));
            }
            MouseEventKind::Up(_) => self.stroke = None,
            MouseEventKind::ScrollUp => self.film.go_to(self.film.at().saturating_sub(1)),
            MouseEventKind::ScrollDown => self.film.go_to(self.film.at() + 1),
            _ => {}
        }
    }

    fn take(&mut self, question: Question, answer: &str) -> Result<(), String> {
        let taken = match question {
            Question::Name => self.film.set_name(answer),
            _ => sprite::parse_time(answer)
                .map_err(CannotDraw::from)
                .and_then(|stays| self.film.set_time(stays)),
        };
        taken.map_err(|error| error.to_string())
    }

    fn rests(&self) -> Option<Duration> {
        self.play.as_ref().map(|play| play.frame().1)
    }

    fn is_playing(&self) -> bool {
        self.play.is_some()
    }

    fn undo(&mut self) -> bool {
        let was = self.film.undo();
        self.go(0, 0);
        was
    }

    fn redo(&mut self) -> bool {
        let was = self.film.redo();
        self.go(0, 0);
        was
    }

    fn is_changed(&self) -> bool {
        self.film.is_changed()
    }

    fn text(&self) -> Result<String, Failure> {
        Ok(sprite::write(&self.film.sprite()))
    }

    fn mark_saved(&mut self, _: String) {
        self.film.mark_saved();
    }

    fn greeting(&self) -> &str {
        &self.begun
    }
}
