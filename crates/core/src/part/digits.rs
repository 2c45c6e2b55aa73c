//! Code for the sending sides of parts: digits at their nodes, with colons and lamps that may take a digit's point.

use crate::face::Face;
use crate::rig::{DriveTable, Place, Problem};
use crate::wiring::{Node, Wiring, WiringError};

/// The wiring of a face onto `count` nodes, from the node of each segment of each digit and of each colon and lamp. What is
/// wired twice is reported.
pub fn wire(
    face: &Face,
    segment_node: impl Fn(usize, usize) -> Option<Node>,
    extras: Vec<Option<Node>>,
    count: usize,
    table: &DriveTable<'_>,
) -> Option<Wiring> {
    let mut nodes = Vec::with_capacity(face.element_count());
    for digit in 0..face.digits() {
        for (segment, name) in face.style().segment_names().iter().enumerate() {
            let node = segment_node(digit, segment);
            match node.and_then(|_| extras.iter().position(|extra| *extra == node)) {
                None => nodes.push(node),
                // A colon on a digit's point: that digit has none.
                Some(_) if segment == face.style().point_index() => nodes.push(None),
                Some(extra) => {
                    let taken = table.extras()[extra];
                    let node = taken.get_ref().clone();
                    table.error(taken.span(), Problem::NodeTaken { node, segment: name });
                    return None;
                }
            }
        }
    }
    let first_extra = nodes.len();
    nodes.extend(extras);
    let wiring = Wiring::new(nodes, count);
    if let Err(WiringError::Shared { second, .. }) = wiring {
        match second.0.checked_sub(first_extra).and_then(|extra| table.extras().get(extra)) {
            Some(name) => table.error(name.span(), Problem::NodeTwice { node: name.get_ref().clone() }),
            None => table.error(Place::Drive("digits"), Problem::NameTwice { name: "a grid".into() }),
        }
    }
    wiring.ok()
}
