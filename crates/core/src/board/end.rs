//! The receiving end of one face: the model of its parts, where their lights are, and an eye that watches them.

use super::eye::Eye;
use super::picture::Picture;
use super::seen::Sight;
use crate::bus::panel::Panel;
use crate::bus::{Edge, Protocol, Reply, Transfer};
use crate::face::Element;
use crate::geometry::Geometry;
use crate::model::{Model, Note};
use crate::plan::Mount;
use crate::units::Nanos;

/// The receiving end of a face.
pub struct End<'r> {
    mount: &'r Mount,
    eye: Eye,
    geometry: Geometry,
    /// Lights that are broken.
    dead: Vec<Element>,
    powered: bool,
}

impl<'r> End<'r> {
    /// The receiving end of a face as it is built, with power.
    #[must_use]
    pub fn new(mount: &'r Mount) -> Self {
        let geometry = mount.geometry();
        let eye = Eye::new(mount.drive.display().model(&mount.face), geometry.node_count());
        Self { mount, eye, geometry, dead: Vec::new(), powered: true }
    }

    /// The face and its drive.
    #[must_use]
    pub const fn mount(&self) -> &'r Mount {
        self.mount
    }

    /// The eye that watches it.
    #[must_use]
    pub const fn eye(&self) -> &Eye {
        &self.eye
    }

    /// The same, to be opened and shut.
    pub const fn eye_mut(&mut self) -> &mut Eye {
        &mut self.eye
    }

    /// Power comes while the lines have these levels.
    pub fn wake(&mut self, levels: &[Option<bool>]) {
        self.eye.model_mut().wake(levels);
        self.eye.look_again();
    }

    /// Takes edges of the device's lines in order of time.
    pub fn take(&mut self, edges: &[Edge]) {
        if self.powered {
            self.eye.take(edges);
        }
    }

    /// Lets the eye rest, where a picture is of the lights as they stand: where the part scans them by itself.
    pub fn rest(&mut self) {
        if self.turn().is_none() {
            self.eye.shut();
        }
    }

    /// Takes a burst in one piece, where its model does.
    pub fn take_burst(&mut self, columns: &[u8], at: Nanos, panel: &Panel) -> bool {
        !self.powered || self.eye.take_burst(columns, at, panel)
    }

    /// Takes a transfer as bytes, where its model does.
    pub fn take_whole(&mut self, protocol: &Protocol, transfer: Transfer<'_>, at: Nanos) -> Option<Reply> {
        if self.powered { self.eye.take_whole(protocol, transfer, at) } else { None }
    }

    /// Returns true if it hears transfers as bytes, or nothing at all.
    pub fn takes_bytes(&mut self) -> bool {
        !self.powered || self.eye.model_mut().bytewise().is_some()
    }

    /// Takes bytes that are for another part on its lines.
    pub fn overhear(&mut self, bytes: &[u8]) {
        if let (true, Some(part)) = (self.powered, self.eye.model_mut().bytewise()) {
            part.overheard(bytes);
        }
    }

    /// The level that the model drives on its answer line.
    #[must_use]
    pub fn answer(&self) -> Option<bool> {
        if self.powered { self.eye.model().answer() } else { None }
    }

    /// The notes of the model since the last call.
    pub fn heard(&mut self) -> Vec<Note> {
        self.eye.model_mut().heard()
    }

    /// Takes the supply away from its parts.
    pub const fn cut_supply(&mut self) {
        self.powered = false;
    }

    /// Breaks a light.
    pub fn break_light(&mut self, element: Element) {
        self.dead.push(element);
    }

    /// The model.
    pub fn model_mut(&mut self) -> &mut dyn Model {
        self.eye.model_mut()
    }

    /// Values of the nodes, at the elements whose lights sit there.
    fn at_elements<T: Copy + Default>(&self, nodes: &[T]) -> Vec<T> {
        let mut elements = vec![T::default(); self.mount.face.element_count()];
        if self.powered {
            self.geometry.to_elements(nodes, &mut elements);
        }
        for dead in &self.dead {
            if let Some(element) = elements.get_mut(dead.0) {
                *element = T::default();
            }
        }
        elements
    }

    /// The light of each element at this moment.
    #[must_use]
    pub fn light(&self) -> Vec<f32> {
        if self.eye.is_shut() {
            return self.light_of_model();
        }
        self.at_elements(self.eye.light())
    }

    /// Takes edges past the eye, which then sees nothing: for a part that scans its lights by itself and reports them as
    /// they stand, at several times the speed.
    pub fn take_unseen(&mut self, edges: &[Edge]) {
        if self.powered {
            self.eye.model_mut().take(edges);
        }
    }

    /// The light of each element as the model has it, whatever the eye has seen.
    #[must_use]
    pub fn light_of_model(&self) -> Vec<f32> {
        let mut nodes = vec![0.0; self.geometry.node_count()];
        self.eye.model().lit(&mut nodes);
        self.at_elements(&nodes)
    }

    /// Returns the perceived light of each element since the eye was opened, up to `until`.
    pub fn sights(&mut self, until: Nanos) -> Vec<Sight> {
        let nodes = self.eye.sights(until);
        self.at_elements(&nodes)
    }

    /// Returns the length of a scan cycle, if the controller scans the lights: only a whole one shows the picture.
    #[must_use]
    pub fn turn(&self) -> Option<Nanos> {
        self.mount.drive.display().scan().map(|scan| scan.turn)
    }

    /// Returns the light at `now`: the present lights or, if the controller scans them, their mean since the eye was
    /// opened.
    pub fn picture(&mut self, now: Nanos) -> Picture<'r> {
        let light = if self.turn().is_some() && now > self.eye.opened() {
            self.sights(now).iter().map(|sight| sight.light as f32).collect()
        } else {
            self.eye.pass(now);
            self.light()
        };
        self.exposed(light)
    }

    /// A picture of these lights, exposed for what the drive can make.
    #[must_use]
    pub fn exposed(&self, light: Vec<f32>) -> Picture<'r> {
        let display = self.mount.drive.display();
        Picture::exposed(&self.mount.face, light, display.full_duty(), display.grey_steps())
    }
}
