//! `c99`: portable C, which asks the controller for a handful of calls.

use minijinja::context;
use minijinja::value::Value;

use super::super::making::ProjectError;
use super::super::model::Model;
use super::{File, Target, c};

/// The target `c99`.
pub struct C99;

impl Target for C99 {
    fn name(&self) -> &'static str {
        "c99"
    }

    fn about(&self) -> &'static str {
        "portable C: the hardware through a few small calls, which you write"
    }

    fn reserved(&self) -> (&'static str, &'static str) {
        ("C", c::RESERVED)
    }

    fn check(&self, model: &Model) -> Result<(), ProjectError> {
        c::check_no_greys(model, self.name())
    }

    fn files(&self, model: &Model) -> Vec<File> {
        let mut files = vec![
            File::new("README.md", "c99/README.md.j2"),
            File::new("Makefile", "c99/Makefile.j2"),
            File::new("hw.h", "c99/hw.h.j2"),
            File::new("main.c", "c99/main.c.j2"),
            File::new("host.c", "c99/host.c.j2"),
        ];
        files.extend(c::faces(model));
        files
    }

    fn facts(&self, _: &Model) -> Value {
        // Interrupts are the board's.
        context! { least_wait_ns => 0, constant => "const", clears_flag => false, has_timer => false, counts_slots => false, writes_ports => false, blank_interrupt => (), light_interrupt => () }
    }

    fn templates(&self) -> &'static [(&'static str, &'static str)] {
        &[
            ("c99/README.md.j2", include_str!("README.md.j2")),
            ("c99/Makefile.j2", include_str!("Makefile.j2")),
            ("c99/hw.h.j2", include_str!("hw.h.j2")),
            ("c99/main.c.j2", include_str!("main.c.j2")),
            ("c99/host.c.j2", include_str!("host.c.j2")),
        ]
    }

    fn shared(&self) -> &'static [(&'static str, &'static str)] {
        c::TEMPLATES
    }
}
