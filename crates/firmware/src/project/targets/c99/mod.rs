//! `c99`: portable C, which asks the controller for a handful of calls.

use minijinja::value::{Serde, Value};

use super::super::model::Model;
use super::{File, Target, Templates, Written, c};

/// The target `c99`.
pub struct C99;

/// Its files, each by its template.
const OWN: Templates = &[
    ("README.md", include_str!("README.md.j2")),
    ("Makefile", include_str!("Makefile.j2")),
    ("hw.h", include_str!("hw.h.j2")),
    ("main.c", include_str!("main.c.j2")),
    ("host.c", include_str!("host.c.j2")),
];

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

    fn takes_own(&self) -> bool {
        true
    }

    fn runtime(&self, model: &Model) -> Vec<Written> {
        c::runtime(model, "")
    }

    fn files(&self, model: &Model) -> Vec<File> {
        c::files(OWN, model)
    }

    fn facts(&self, _: &Model) -> Value {
        Value::from(Serde(&c::Manner::default()))
    }

    fn list(&self) -> Option<&'static str> {
        Some("c/sender.c.j2")
    }

    fn templates(&self) -> Templates {
        OWN
    }

    fn shared(&self) -> Templates {
        c::TEMPLATES
    }
}
