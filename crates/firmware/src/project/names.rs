//! Names of the rig as names in a source: other letters are left out, and no two become the same.

use std::collections::BTreeSet;

use super::error::ProjectError;

/// The names of one source.
#[derive(Debug, Default)]
pub struct Names {
    /// How the language is called.
    language: &'static str,
    /// Words that mean something there already.
    reserved: BTreeSet<&'static str>,
    taken: BTreeSet<String>,
}

impl Names {
    /// Names in a language that has these words already, parted by blanks, in small letters.
    #[must_use]
    pub fn of(language: &'static str, reserved: &'static str) -> Self {
        Self { language, reserved: reserved.split_whitespace().collect(), taken: BTreeSet::new() }
    }

    /// A name in the source for one of the rig, in small letters: `Boat sign` becomes `boat_sign`.
    ///
    /// # Errors
    /// When nothing is left of it, or it means something already.
    pub fn make(&mut self, what: &'static str, found: &str) -> Result<String, ProjectError> {
        let letter = |c: char| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '_' };
        let letters: String = found.chars().map(letter).collect();
        let words: Vec<_> = letters.split('_').filter(|word| !word.is_empty()).collect();
        let mut name = words.join("_");
        if !name.contains(|c: char| c.is_ascii_alphabetic()) {
            let found = found.to_owned();
            return Err(ProjectError::Name { what, found, language: self.language });
        }
        if name.starts_with(|c: char| c.is_ascii_digit()) || self.reserved.contains(name.as_str()) {
            name = format!("{what}_{name}");
        }
        let mut number = 1;
        let mut free = name.clone();
        while !self.taken.insert(free.clone()) {
            number += 1;
            free = format!("{name}_{number}");
        }
        Ok(free)
    }
}

/// A name for a file out of a title; `usual` where nothing is left of it.
#[must_use]
pub fn of_file(title: &str, usual: &'static str) -> String {
    Names::default().make(usual, title).unwrap_or_else(|_| usual.to_owned())
}
