//! The sending side's map from the elements of a face to the nodes of what drives it.
//!
//! It goes forward only: what sits at a node is the [geometry](crate::geometry)'s affair, which knows it from code of its
//! own.

use crate::face::Element;

/// A place in a drive's own coordinates: a register bit, a port bit, a grid and line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Node(pub usize);

/// Which node each element of a face is wired to.
///
/// A drive may have nodes with no element (a part with more outputs than the face needs); an element has a node of its
/// own, or none and stays dark.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Wiring {
    /// By element; [`NOWHERE`] for one that is not wired.
    nodes: Vec<Node>,
    node_count: usize,
}

/// Half the size of an option, and the check of the bounds leaves it out: a frame is carried twice as fast.
const NOWHERE: Node = Node(usize::MAX);

/// Why a list of nodes is not a wiring.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum WiringError {
    /// Two elements at one node.
    #[error("elements {} and {} are both wired to node {}", first.0, second.0, node.0)]
    Shared {
        /// The element that has the node.
        first: Element,
        /// The element that wants it too.
        second: Element,
        /// The node.
        node: Node,
    },
    /// A node that the drive has not.
    #[error("element {} is wired to node {}; the drive has nodes 0 to {}", element.0, node.0, node_count - 1)]
    NoSuchNode {
        /// The element.
        element: Element,
        /// The node it names.
        node: Node,
        /// How many nodes there are.
        node_count: usize,
    },
}

impl Wiring {
    /// A wiring from the node of each element, in the elements' order, onto a drive of `node_count` nodes.
    ///
    /// # Errors
    /// When two elements share a node or a node does not exist.
    pub fn new(nodes: Vec<Option<Node>>, node_count: usize) -> Result<Self, WiringError> {
        let mut owner = vec![None; node_count];
        for (element, node) in nodes.iter().enumerate() {
            let (element, Some(node)) = (Element(element), *node) else { continue };
            let place = owner.get_mut(node.0).ok_or(WiringError::NoSuchNode { element, node, node_count })?;
            if let Some(first) = place.replace(element) {
                return Err(WiringError::Shared { first, second: element, node });
            }
        }
        let nodes = nodes.into_iter().map(|node| node.unwrap_or(NOWHERE)).collect();
        Ok(Self { nodes, node_count })
    }

    /// How many nodes the drive has.
    #[must_use]
    pub const fn node_count(&self) -> usize {
        self.node_count
    }

    /// The number of elements, wired or not.
    #[must_use]
    pub const fn element_count(&self) -> usize {
        self.nodes.len()
    }

    /// The node of an element; `None` if it is not wired.
    #[must_use]
    pub fn node(&self, element: Element) -> Option<Node> {
        self.nodes.get(element.0).copied().filter(|node| *node != NOWHERE)
    }

    /// Returns true if an element is wired.
    #[must_use]
    pub fn has(&self, element: Element) -> bool {
        self.node(element).is_some()
    }

    /// How many elements are wired.
    #[must_use]
    pub fn wired(&self) -> usize {
        self.nodes.iter().filter(|node| **node != NOWHERE).count()
    }

    /// Carries a value of each element to its node. Nodes with no element are left alone.
    #[inline]
    pub fn to_nodes<T: Copy>(&self, elements: &[T], nodes: &mut [T]) {
        debug_assert_eq!(elements.len(), self.nodes.len());
        for (value, node) in elements.iter().zip(&self.nodes) {
            if let Some(slot) = nodes.get_mut(node.0) {
                *slot = *value;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_go_to_their_nodes() {
        let wiring = Wiring::new(vec![Some(Node(3)), None, Some(Node(0))], 4).unwrap();
        let mut nodes = [9; 4];
        wiring.to_nodes(&[1, 5, 2], &mut nodes);
        assert_eq!(nodes, [2, 9, 9, 1]);
    }

    #[test]
    fn a_node_serves_one_element() {
        let shared = WiringError::Shared { first: Element(0), second: Element(1), node: Node(1) };
        assert_eq!(Wiring::new(vec![Some(Node(1)), Some(Node(1))], 2), Err(shared));
        assert!(Wiring::new(vec![None, None], 2).is_ok());
        let outside = WiringError::NoSuchNode { element: Element(0), node: Node(2), node_count: 2 };
        assert_eq!(Wiring::new(vec![Some(Node(2))], 2), Err(outside));
    }
}
