//! The receiving side's knowledge of where lights are: which element of the face the light at each node is.
//!
//! It is worked out from how a display is built, by code that has nothing to do with the sending side's
//! [wiring](crate::wiring): modules turned as things in space, digit and segment lines by the data sheet's names, circuits
//! by what hangs on which output.

use crate::face::Element;

/// Where the lights of a display are.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Geometry {
    /// By node: the element whose light sits there; none where no light of the face does.
    elements: Vec<Option<Element>>,
}

impl Geometry {
    /// From the element at each node.
    #[must_use]
    pub const fn new(elements: Vec<Option<Element>>) -> Self {
        Self { elements }
    }

    /// A display of which no light can light: its lights are the other way round in their wires.
    #[must_use]
    pub fn dark(nodes: usize) -> Self {
        Self { elements: vec![None; nodes] }
    }

    /// How many nodes there are.
    #[must_use]
    pub fn node_count(&self) -> usize {
        self.elements.len()
    }

    /// The element at a node.
    #[must_use]
    pub fn element(&self, node: usize) -> Option<Element> {
        self.elements.get(node).copied().flatten()
    }

    /// The value at each element, from those at the nodes; elements with no light of their own are left alone.
    #[inline]
    pub fn to_elements<T: Copy>(&self, nodes: &[T], elements: &mut [T]) {
        for (value, element) in nodes.iter().zip(&self.elements) {
            if let Some(slot) = element.and_then(|element| elements.get_mut(element.0)) {
                *slot = *value;
            }
        }
    }
}
