//! `setup-loop`: a sketch in C++ for the board frameworks that call `setup()` and `loop()`.

use minijinja::context;
use minijinja::value::Value;

use super::super::making::ProjectError;
use super::super::model::Model;
use super::{File, Target, c};
use crate::firmware::project::names::Names;

/// The target `setup-loop`.
pub struct SetupLoop;

/// The name of the sketch, and so of its folder.
fn id(model: &Model) -> String {
    Names::of("a file", "").make("sketch", &model.title).unwrap_or_else(|_| "sketch".to_owned())
}

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
        c::check_one_scan(model, self.name())
    }

    fn files(&self, model: &Model) -> Vec<File> {
        let id = id(model);
        let within = |file: File| File { path: format!("{id}/{}", file.path), ..file };
        let mut files = vec![
            File::new("README.md", "setup_loop/README.md.j2"),
            within(File::new(&format!("{id}.ino"), "setup_loop/sketch.ino.j2")),
            within(File::new("hw.h", "setup_loop/hw.h.j2")),
        ];
        files.extend(c::faces(model).map(within));
        files
    }

    fn facts(&self, model: &Model) -> Value {
        context! {
            id => id(model),
            least_wait_ns => 0, constant => "const", clears_flag => false, has_timer => false,
            counts_slots => false,
            writes_ports => false,
            blank_interrupt => (),
            light_interrupt => (),
        }
    }

    fn templates(&self) -> &'static [(&'static str, &'static str)] {
        &[
            ("setup_loop/README.md.j2", include_str!("README.md.j2")),
            ("setup_loop/sketch.ino.j2", include_str!("sketch.ino.j2")),
            ("setup_loop/hw.h.j2", include_str!("hw.h.j2")),
        ]
    }

    fn shared(&self) -> &'static [(&'static str, &'static str)] {
        c::TEMPLATES
    }
}
