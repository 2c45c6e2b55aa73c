//! The one-to-one map between the elements of a face and the nodes of its drive.

use crate::face::Element;

/// A place in a drive's own coordinates: a register bit, a port bit, a grid and line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Node(pub usize);

impl Node {
    /// Where an element is wired to that is not wired at all: the point of a digit that has none.
    pub const NOWHERE: Self = Self(usize::MAX);
}

/// Which node each element of a face is wired to.
///
/// A drive may have nodes with no element (a part with more outputs than the face needs); an element has a
/// node of its own, or is wired [nowhere](Node::NOWHERE) and stays dark.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Wiring {
    /// By element.
    nodes: Vec<Node>,
    node_count: usize,
}

/// Why a list of nodes is not a wiring.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
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
    pub fn new(nodes: Vec<Node>, node_count: usize) -> Result<Self, WiringError> {
        let mut owner = vec![None; node_count];
        for (element, node) in nodes.iter().copied().enumerate().filter(|(_, node)| *node != Node::NOWHERE) {
            let element = Element(element);
            let place = owner.get_mut(node.0).ok_or(WiringError::NoSuchNode { element, node, node_count })?;
            if let Some(first) = place.replace(element) {
                return Err(WiringError::Shared { first, second: element, node });
            }
        }
        Ok(Self { nodes, node_count })
    }

    /// How many nodes the drive has.
    #[must_use]
    pub const fn node_count(&self) -> usize {
        self.node_count
    }

    /// The node of an element; none where it is not wired.
    #[must_use]
    pub fn node(&self, element: Element) -> Option<Node> {
        self.nodes.get(element.0).copied().filter(|node| *node != Node::NOWHERE)
    }

    /// Whether an element is wired.
    #[must_use]
    pub fn has(&self, element: Element) -> bool {
        self.node(element).is_some()
    }

    /// Carries a value of each element to its node. Nodes with no element are left alone.
    #[inline]
    pub fn to_nodes<T: Copy>(&self, elements: &[T], nodes: &mut [T]) {
        debug_assert_eq!(elements.len(), self.nodes.len());
        for (value, node) in elements.iter().zip(&self.nodes) {
            // The check of the bounds is what leaves out an element that is wired nowhere.
            if let Some(slot) = nodes.get_mut(node.0) {
                *slot = *value;
            }
        }
    }

    /// Carries a value of each node back to its element; the inverse of [`Self::to_nodes`].
    #[inline]
    pub fn to_elements<T: Copy + Default>(&self, nodes: &[T], elements: &mut [T]) {
        debug_assert_eq!(nodes.len(), self.node_count);
        for (value, node) in elements.iter_mut().zip(&self.nodes) {
            *value = nodes.get(node.0).copied().unwrap_or_default();
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_go_out_and_come_back() {
        let wiring = Wiring::new(vec![Node(3), Node(0)], 4).unwrap();
        let mut nodes = [9; 4];
        wiring.to_nodes(&[1, 2], &mut nodes);
        assert_eq!(nodes, [2, 9, 9, 1]);
        let mut elements = [0; 2];
        wiring.to_elements(&nodes, &mut elements);
        assert_eq!(elements, [1, 2]);
    }

    #[test]
    fn a_node_serves_one_element() {
        let shared = WiringError::Shared { first: Element(0), second: Element(1), node: Node(1) };
        assert_eq!(Wiring::new(vec![Node(1), Node(1)], 2), Err(shared));
        assert!(Wiring::new(vec![Node::NOWHERE, Node::NOWHERE], 2).is_ok());
        let outside = WiringError::NoSuchNode { element: Element(0), node: Node(2), node_count: 2 };
        assert_eq!(Wiring::new(vec![Node(2)], 2), Err(outside));
    }
}
