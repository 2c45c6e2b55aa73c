//! The frames of a sprite that is being drawn.

use std::sync::Arc;
use std::time::Duration;

use super::history::History;
use crate::dots::places;
use crate::dots::raster::{Colour, OFF, Raster, Shot};
use crate::dots::sprite::{MOST_DOTS, MOST_FRAMES, Sprite, SpriteProblem, parse_name};

/// A sprite that is being drawn, and the frame that is looked at.
///
/// Frames are shared between the states of its history: a change costs no more than the frame that it changes.
#[derive(Debug, Clone)]
pub struct Film {
    history: History<Vec<Arc<Shot>>, usize>,
    at: usize,
    saved: Vec<Arc<Shot>>,
}

/// The action that is not possible.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum CannotDraw {
    /// A sprite without frames is none.
    #[error("a sprite has one frame at least")]
    LastFrame,
    /// Frames have all one size.
    #[error("a frame that is not square cannot be turned alone; spare-tile dots --turn turns all of them")]
    NotSquare,
    /// No such file could be read.
    #[error(transparent)]
    Sprite(#[from] SpriteProblem),
}

impl Film {
    /// One dark frame.
    #[must_use]
    pub fn dark((width, height): (usize, usize), stays: Duration) -> Self {
        Self::of(&Sprite { shots: vec![Shot::of(Raster::dark(width, height), stays)] })
    }

    /// The frames of a sprite, as they were saved.
    #[must_use]
    pub fn of(sprite: &Sprite) -> Self {
        let shots: Vec<_> = sprite.shots.iter().cloned().map(Arc::new).collect();
        Self { history: History::new(shots.clone()), at: 0, saved: shots }
    }

    /// The frames as a sprite.
    #[must_use]
    pub fn sprite(&self) -> Sprite {
        Sprite { shots: self.shots().iter().map(|shot| Shot::clone(shot)).collect() }
    }

    /// All frames; at least one.
    #[must_use]
    pub fn shots(&self) -> &[Arc<Shot>] {
        self.history.now()
    }

    /// The frame that is looked at.
    #[must_use]
    pub fn shot(&self) -> &Shot {
        &self.shots()[self.at]
    }

    /// The frame before that one, if there is one.
    #[must_use]
    pub fn shot_before(&self) -> Option<&Shot> {
        self.at.checked_sub(1).map(|before| &*self.shots()[before])
    }

    /// Its place, from 0.
    #[must_use]
    pub const fn at(&self) -> usize {
        self.at
    }

    /// How many columns and rows a frame has.
    #[must_use]
    pub fn size(&self) -> (usize, usize) {
        let raster = &self.shot().raster;
        (raster.width(), raster.height())
    }

    /// Looks at another frame, the last one where there are not so many.
    pub fn go_to(&mut self, at: usize) {
        self.at = at.min(self.shots().len() - 1);
    }

    /// Returns true if something was changed since it was saved.
    #[must_use]
    pub fn is_changed(&self) -> bool {
        *self.shots() != self.saved[..]
    }

    /// Takes note that it was saved as it is.
    pub fn mark_saved(&mut self) {
        self.saved = self.shots().to_vec();
    }

    /// Gives dots a colour: a stroke of the pen, or another part of the last one, which is undone with it.
    pub fn stroke(
        &mut self,
        dots: impl IntoIterator<Item = (usize, usize)>,
        colour: Colour,
        is_part_of_last: bool,
    ) {
        let mut raster = self.shot().raster.clone();
        dots.into_iter().for_each(|(x, y)| raster.set(x, y, colour));
        let next = self.with_raster(raster);
        if is_part_of_last {
            self.history.amend(next, self.at);
        } else {
            self.history.change(next, self.at);
        }
    }

    /// Gives a colour to a dot and to all that hang together with it, side by side, and have the same.
    pub fn fill(&mut self, (x, y): (usize, usize), colour: Colour) {
        let mut raster = self.shot().raster.clone();
        let (width, height) = (raster.width(), raster.height());
        let old = raster.get(x, y);
        if x >= width || y >= height || old == colour {
            return;
        }
        let mut left = vec![(x, y)];
        while let Some((x, y)) = left.pop() {
            if raster.get(x, y) != old {
                continue;
            }
            raster.set(x, y, colour);
            // A place that wraps around below 0 is beyond the edge too.
            let beside = [(x.wrapping_sub(1), y), (x + 1, y), (x, y.wrapping_sub(1)), (x, y + 1)];
            left.extend(beside.into_iter().filter(|(x, y)| *x < width && *y < height));
        }
        let next = self.with_raster(raster);
        self.history.change(next, self.at);
    }

    /// Changes the picture of the frame as a whole.
    ///
    /// # Errors
    /// When it would then have another size.
    pub fn change(&mut self, change: impl FnOnce(&Raster) -> Raster) -> Result<(), CannotDraw> {
        let raster = change(&self.shot().raster);
        if (raster.width(), raster.height()) != self.size() {
            return Err(CannotDraw::NotSquare);
        }
        let next = self.with_raster(raster);
        self.history.change(next, self.at);
        Ok(())
    }

    /// Puts a frame behind this one, dark or with the same picture, and looks at it.
    ///
    /// # Errors
    /// When there are as many as a sprite may have.
    pub fn insert(&mut self, is_dark: bool) -> Result<(), CannotDraw> {
        if self.shots().len() >= MOST_FRAMES {
            return Err(SpriteProblem::TooMany.into());
        }
        let (width, height) = self.size();
        if (self.shots().len() + 1) * width * height > MOST_DOTS {
            return Err(SpriteProblem::TooManyDots.into());
        }
        let raster = if is_dark { Raster::dark(width, height) } else { self.shot().raster.clone() };
        let shot = Shot::of(raster, self.shot().stays);
        let mut next = self.shots().to_vec();
        next.insert(self.at + 1, Arc::new(shot));
        self.at += 1;
        self.history.change(next, self.at);
        Ok(())
    }

    /// Takes the frame out.
    ///
    /// # Errors
    /// When it is the only one.
    pub fn remove(&mut self) -> Result<(), CannotDraw> {
        if self.shots().len() == 1 {
            return Err(CannotDraw::LastFrame);
        }
        let mut next = self.shots().to_vec();
        next.remove(self.at);
        self.history.change(next, self.at);
        self.go_to(self.at);
        Ok(())
    }

    /// Exchanges the frame with the next one, or with the one before, and goes along with it.
    pub fn exchange(&mut self, with_next: bool) {
        let other = if with_next { Some(self.at + 1) } else { self.at.checked_sub(1) };
        if let Some(other) = other.filter(|other| *other < self.shots().len()) {
            let mut next = self.shots().to_vec();
            next.swap(self.at, other);
            self.at = other;
            // Exchanging two equal frames changes nothing.
            self.history.change(next, other);
        }
    }

    /// Lets the frame stay for a time, which is not none.
    ///
    /// # Errors
    /// When it is.
    pub fn set_time(&mut self, stays: Duration) -> Result<(), CannotDraw> {
        if stays == Duration::ZERO {
            return Err(SpriteProblem::NoTime.into());
        }
        self.replace(Shot { stays, ..self.shot().clone() });
        Ok(())
    }

    /// Calls the frame by a name; by none where that is empty.
    ///
    /// # Errors
    /// If it is not a name, or another frame has it.
    pub fn set_name(&mut self, name: &str) -> Result<(), CannotDraw> {
        let name = if name.is_empty() { None } else { Some(parse_name(name)?) };
        let others = self.shots().iter().enumerate().filter(|(at, _)| *at != self.at);
        if let Some(name) = name.clone()
            && others.into_iter().any(|(_, shot)| shot.name.as_ref() == Some(&name))
        {
            return Err(SpriteProblem::NameTwice { name }.into());
        }
        self.replace(Shot { name, ..self.shot().clone() });
        Ok(())
    }

    /// Gives all frames another size; the upper left corner stays. How many lit dots are lost with what is cut off.
    pub fn resize(&mut self, (width, height): (usize, usize)) -> usize {
        let mut lost = 0;
        let resized = |shot: &Arc<Shot>| {
            let mut raster = Raster::dark(width, height);
            let old = &shot.raster;
            for (x, y) in places(old.width(), old.height()) {
                if x < width && y < height {
                    raster.set(x, y, old.get(x, y));
                } else if old.get(x, y) != OFF {
                    lost += 1;
                }
            }
            Arc::new(shot.showing(raster))
        };
        let next = self.shots().iter().map(resized).collect();
        self.history.change(next, self.at);
        lost
    }

    /// Takes the last change back, and looks at where it was. Whether there was one.
    pub fn undo(&mut self) -> bool {
        let place = self.history.undo();
        self.look_at(place)
    }

    /// Makes again what was undone, and looks at it. Whether there was something.
    pub fn redo(&mut self) -> bool {
        let place = self.history.redo();
        self.look_at(place)
    }

    fn look_at(&mut self, place: Option<usize>) -> bool {
        self.go_to(place.unwrap_or(self.at));
        place.is_some()
    }

    fn replace(&mut self, shot: Shot) {
        let mut next = self.shots().to_vec();
        next[self.at] = Arc::new(shot);
        self.history.change(next, self.at);
    }

    /// All frames, this one with another picture.
    fn with_raster(&self, raster: Raster) -> Vec<Arc<Shot>> {
        let mut next = self.shots().to_vec();
        next[self.at] = Arc::new(self.shot().showing(raster));
        next
    }
}

/// The dots on the straight way from one to another, both included: as many as the longer side has, without a gap.
pub fn line(
    (from_x, from_y): (usize, usize),
    (to_x, to_y): (usize, usize),
) -> impl Iterator<Item = (usize, usize)> {
    let steps = from_x.abs_diff(to_x).max(from_y.abs_diff(to_y)).max(1);
    // Rounded to the nearest; both ends weigh in whole steps, so none is missed.
    let between =
        move |from: usize, to: usize, step: usize| (from * (steps - step) + to * step + steps / 2) / steps;
    (0..=steps).map(move |step| (between(from_x, to_x, step), between(from_y, to_y, step)))
}
