//! `setup-loop`: a sketch in C++ for the board frameworks that call `setup()` and `loop()`.

use minijinja::value::{Serde, Value};
use serde::Serialize;

use super::super::error::ProjectError;
use super::super::model::Model;
use super::{File, Target, Templates, c, check_no_panel, check_one_scan};
use crate::firmware::project::names::of_file;

/// The target `setup-loop`.
pub struct SetupLoop;

/// What the templates have to know.
#[derive(Serialize)]
struct Facts {
    id: String,
    #[serde(flatten)]
    manner: c::Manner,
}

/// The name of the sketch, and so of its folder.
fn id(model: &Model) -> String {
    of_file(&model.title, "sketch")
}

/// Its files, each by its template.
const OWN: Templates = &[
    ("README.md", include_str!("README.md.j2")),
    ("sketch.ino", include_str!("sketch.ino.j2")),
    ("hw.h", include_str!("hw.h.j2")),
];

impl Target for SetupLoop {
    fn name(&self) -> &'static str {
        "setup-loop"
    }

    fn about(&self) -> &'static str {
        "C++ for the board frameworks with setup() and loop()"
    }

    fn reserved(&self) -> (&'static str, &'static str) {
        ("C", c::RESERVED)
    }

    fn check(&self, model: &Model) -> Result<(), ProjectError> {
        if let Some(line) = model.lines.iter().find(|line| line.board_pin.is_none()) {
            let why =
                format!("the usual board of an {} has no number for pin {}", model.controller, line.pin);
            return Err(ProjectError::Target { target: self.name(), why });
        }
        check_no_panel(
            model,
            self.name(),
            "the framework's calls take too long for its rows: c99 has a program for your own",
        )?;
        check_one_scan(model, self.name())
    }

    fn files(&self, model: &Model) -> Vec<File> {
        let id = id(model);
        let within = |file: File| File { path: format!("{id}/{}", file.path), ..file };
        let mut files = vec![
            File::new("README.md", "README.md"),
            within(File::new(&format!("{id}.ino"), "sketch.ino")),
            within(File::new("hw.h", "hw.h")),
        ];
        files.extend(c::sources(model).map(within));
        files
    }

    fn facts(&self, model: &Model) -> Value {
        Value::from(Serde(&Facts { id: id(model), manner: c::Manner::default() }))
    }

    fn templates(&self) -> Templates {
        OWN
    }

    fn shared(&self) -> Templates {
        c::TEMPLATES
    }
}
