//! What the targets in C have in common: a source for each face.

use super::File;
use crate::firmware::project::making::ProjectError;
use crate::firmware::project::model::{FaceModel, Model};

/// Names that mean something in C, in its standard headers, or in every project.
pub const RESERVED: &str = "auto break case char const continue default do double else enum extern float for goto if inline \
int long register restrict return short signed sizeof static struct switch typedef union unsigned void volatile while bool \
true false main host hw flash program image due passage next send_image blank minus slots image_bytes slot_bytes asm near far \
interrupt bit data code xdata idata pdata sfr sbit using";

/// The templates.
pub const TEMPLATES: &[(&str, &str)] = &[
    ("c/face.h.j2", include_str!("face.h.j2")),
    ("c/face.c.j2", include_str!("face.c.j2")),
    ("c/bus.c.j2", include_str!("bus.c.j2")),
    ("c/fixed.c.j2", include_str!("fixed.c.j2")),
    ("c/piece.c.j2", include_str!("piece.c.j2")),
    ("c/list.c.j2", include_str!("list.c.j2")),
    ("c/putting.c.j2", include_str!("putting.c.j2")),
    ("c/passages.c.j2", include_str!("passages.c.j2")),
    ("c/film.c.j2", include_str!("film.c.j2")),
    ("c/moving.c.j2", include_str!("moving.c.j2")),
    ("c/count.c.j2", include_str!("count.c.j2")),
    ("c/clock.c.j2", include_str!("clock.c.j2")),
];

/// The source and the header of each face.
pub fn faces(model: &Model) -> impl Iterator<Item = File> {
    model.faces.iter().enumerate().flat_map(|(face, of)| {
        [("c", "c/face.c.j2"), ("h", "c/face.h.j2")].map(|(ending, template)| File {
            path: format!("{}.{ending}", of.id),
            template,
            face: Some(face),
        })
    })
}

/// Refuses greys: the pieces of their scan are not of one length.
pub fn check_no_greys(model: &Model, target: &'static str) -> Result<(), ProjectError> {
    let has_greys = |face: &&FaceModel| face.scan.as_ref().is_some_and(|scan| scan.depth > 1);
    match model.faces.iter().find(has_greys) {
        Some(face) => {
            let why = format!("face {} has greys, and its scan has one length of time", face.name);
            Err(ProjectError::Target { target, why })
        }
        None => Ok(()),
    }
}

/// Refuses a second face that the controller would scan, and greys.
pub fn check_one_scan(model: &Model, target: &'static str) -> Result<(), ProjectError> {
    let mut scanned = model.faces.iter().filter(|face| face.scan.is_some());
    if let Some(second) = scanned.nth(1) {
        let why = format!("face {} is the second one that it would have to scan", second.name);
        return Err(ProjectError::Target { target, why });
    }
    check_no_greys(model, target)
}
