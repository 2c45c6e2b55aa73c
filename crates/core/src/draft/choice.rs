//! Pins chosen for a display: free ones that nothing else needs, those of the controller's own bus where there is one, and
//! whole ports in order where that makes one write of many.

use crate::rig::{Bus, Controller, Pin};

/// The pins of a controller, and which of them are taken.
pub struct Pins<'c> {
    controller: &'c Controller,
    taken: Vec<Pin>,
}

/// Why no pins can be chosen.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("it takes {needs} free pins, and the {controller} has {has}")]
pub struct TooFewPins {
    /// The name of the controller.
    pub controller: String,
    /// How many pins it takes.
    pub needs: usize,
    /// How many there are.
    pub has: usize,
}

impl<'c> Pins<'c> {
    /// The pins that are not taken by these.
    #[must_use]
    pub fn of(controller: &'c Controller, taken: &[Pin]) -> Self {
        Self { controller, taken: taken.to_vec() }
    }

    /// Returns true if nothing else needs a pin.
    fn is_free(&self, pin: &Pin) -> bool {
        !self.taken.contains(pin) && self.controller.reserved(pin).is_none()
    }

    /// The pins that are left, those that one takes first before the others.
    fn left(&self) -> Vec<Pin> {
        let pins = self.controller.pins().iter().map(|known| known.pin.clone());
        pins.filter(|pin| self.is_free(pin)).collect()
    }

    /// Checks that this number of pins is left.
    ///
    /// # Errors
    /// When there are too few.
    pub fn suffice_for(&self, count: usize) -> Result<(), TooFewPins> {
        let has = self.left().len();
        if self.controller.pins().is_empty() || has >= count {
            return Ok(());
        }
        Err(TooFewPins { controller: self.controller.called().to_owned(), needs: count, has })
    }

    /// Takes so many pins: of whole ports where there are as many free in one, else as they come.
    ///
    /// # Errors
    /// When there are too few.
    pub fn lines(&mut self, count: usize) -> Result<Vec<Pin>, TooFewPins> {
        let chosen = match self.controller.pins() {
            // Of a controller that is not known any number will do.
            [] => (2..)
                .filter_map(|number: usize| Pin::parse(&number.to_string()))
                .filter(|pin| self.is_free(pin))
                .take(count)
                .collect(),
            _ => self.port_first(count)?,
        };
        self.taken.extend_from_slice(&chosen);
        Ok(chosen)
    }

    fn port_first(&self, count: usize) -> Result<Vec<Pin>, TooFewPins> {
        self.suffice_for(count)?;
        let left = self.left();
        let port_of = |pin: &Pin| pin.port_bit().map(|(port, _)| port.to_owned());
        let mut ports: Vec<String> = Vec::new();
        for port in left.iter().filter_map(port_of) {
            if !ports.contains(&port) {
                ports.push(port);
            }
        }
        let of_port = |port: &String| {
            let mut pins: Vec<_> =
                left.iter().filter(|pin| port_of(pin).as_ref() == Some(port)).cloned().collect();
            pins.sort_by_key(|pin| pin.port_bit().map(|(_, bit)| bit));
            pins
        };
        // The smallest port that is large enough leaves the others whole.
        let fitting = ports.iter().map(of_port).filter(|pins| pins.len() >= count).min_by_key(Vec::len);
        Ok(fitting.unwrap_or(left).into_iter().take(count).collect())
    }

    /// Takes the pins of a bus, in the order clock, data, select: the controller's own where one is free, else any. Where its own
    /// select has another purpose, any other pin selects as well.
    ///
    /// # Errors
    /// When there are too few pins.
    pub fn bus(&mut self, bus: Bus) -> Result<Vec<Pin>, TooFewPins> {
        let facts = self.controller.facts.as_ref();
        let own = facts.map(|facts| facts.buses(bus)).unwrap_or_default().into_iter().find_map(|lines| {
            let pins: Vec<_> = lines.iter().filter_map(|(_, name)| Pin::parse(name)).collect();
            pins.iter().take(2).all(|pin| !self.taken.contains(pin)).then_some(pins)
        });
        let count = if bus == Bus::Spi { 3 } else { 2 };
        let Some(mut pins) = own else { return self.lines(count) };
        self.taken.extend(pins.iter().take(2).cloned());
        if let Some(select) = pins.get_mut(2) {
            if self.is_free(select) {
                self.taken.push(select.clone());
            } else {
                *select = self.lines(1)?.remove(0);
            }
        }
        Ok(pins)
    }
}
