//! The folder of a project: the files that were written there before, and those that have changed since.

use std::collections::BTreeMap;
use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use spare_tile_firmware::project::Written;

use crate::failure::{Failure, Outcome};
use crate::files;

/// The file that tells what was written.
pub const MANIFEST: &str = "written.json";

/// The list of files that were written into a folder, to tell them from other files.
#[derive(Default, Serialize, Deserialize)]
struct Manifest {
    /// The program that wrote it.
    by: String,
    /// The SHA-256 of each file, in hex.
    files: BTreeMap<String, String>,
    /// The same of files that are being written. Where the program could not finish, they may be there or not.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    unfinished: BTreeMap<String, String>,
}

/// A file of a folder, compared with what was written.
#[derive(PartialEq, Eq)]
enum State {
    Absent,
    /// As it was written.
    Ours,
    /// Written here, and changed since.
    Changed,
    /// Not written here.
    Foreign,
}

/// The folder that a project is written into.
pub struct Folder<'p> {
    path: &'p Path,
    manifest: Manifest,
}

impl<'p> Folder<'p> {
    /// A folder, which need not be there yet.
    pub fn open(path: &'p Path) -> Self {
        let manifest = fs::read(path.join(MANIFEST)).ok();
        let manifest = manifest.and_then(|text| serde_json::from_slice::<Manifest>(&text).ok());
        Self { path, manifest: manifest.unwrap_or_default() }
    }

    /// Returns true if a file is as it was written.
    fn is_ours(&self, name: &str) -> bool {
        let Manifest { files, unfinished, .. } = &self.manifest;
        fs::read(self.place(name)).is_ok_and(|bytes| {
            let hash = Some(hash(&bytes));
            files.get(name) == hash.as_ref() || unfinished.get(name) == hash.as_ref()
        })
    }

    fn place(&self, name: &str) -> PathBuf {
        name.split('/').fold(self.path.to_owned(), |path, part| path.join(part))
    }

    /// Compares a file with what was written.
    fn state(&self, name: &str) -> State {
        if self.place(name).symlink_metadata().is_err() {
            State::Absent
        } else if self.is_ours(name) {
            State::Ours
        } else if self.manifest.files.contains_key(name) {
            State::Changed
        } else {
            State::Foreign
        }
    }

    /// Returns the files that were changed by hand and stay as they are: those for a person's own code always, others unless all are
    /// to be renewed.
    pub fn kept(&self, files: &[Written], renews: bool) -> Vec<String> {
        let is_kept = |name: &&str| (!renews || is_users(name)) && self.state(name) == State::Changed;
        files.iter().map(|file| file.path.as_str()).filter(is_kept).map(str::to_owned).collect()
    }

    /// Refuses to replace files of other origin.
    pub fn check(&self, files: &[Written]) -> Outcome {
        let mut names = files.iter().map(|file| file.path.as_str());
        let Some(name) = names.find(|name| self.state(name) == State::Foreign) else { return Ok(()) };
        let message = format!("{} was not written here: nothing was written", self.place(name).display());
        Err(Failure::unusable(message, "write into another folder, or renew it with --force"))
    }

    /// Copies each file that is about to be replaced and was not written here, or was changed. Returns the copies.
    pub fn back_up(&self, files: &[Written]) -> Result<Vec<PathBuf>, Failure> {
        let mut copies = Vec::new();
        for file in files {
            let place = self.place(&file.path);
            if !place.is_file() || self.is_ours(&file.path) {
                continue;
            }
            let copy = backup_of(&place);
            fs::copy(&place, &copy).map_err(|error| {
                let message = format!("cannot copy {} to {}: {error}", place.display(), copy.display());
                Failure::unusable(message, "nothing was replaced; write into another folder")
            })?;
            copies.push(copy);
        }
        Ok(copies)
    }

    /// Writes all files, takes away those of the project that was here before, and notes what was written. Files that are `kept`
    /// count as changed the next time too.
    pub fn write(&mut self, files: &[Written], kept: &[String], by: &str) -> Outcome {
        let cannot = |path: &Path, error: &io::Error| {
            let message = format!("cannot make the folder {}: {error}", path.display());
            Failure::unusable(message, "name another one with --out")
        };
        let stays =
            |name: &String| kept.contains(name) || is_users(name) && self.state(name) == State::Changed;
        let before = self.manifest.files.iter().filter(|(name, _)| stays(name));
        let mut hashes: BTreeMap<_, _> = before.map(|(name, hash)| (name.clone(), hash.clone())).collect();
        hashes.extend(files.iter().map(|file| (file.path.clone(), hash(file.text.as_bytes()))));
        // If the disk is full or the program is stopped, the next run recognises the files of this one.
        fs::create_dir_all(self.path).map_err(|error| cannot(self.path, &error))?;
        self.manifest.by = by.to_owned();
        self.manifest.unfinished.extend(hashes.clone());
        self.note()?;
        for file in files {
            let place = self.place(&file.path);
            let folder = place.parent().unwrap_or(self.path);
            fs::create_dir_all(folder).map_err(|error| cannot(folder, &error))?;
            files::write_whole(&place, |out| out.write_all(file.text.as_bytes()))?;
        }
        let Manifest { files: before, unfinished, .. } = &self.manifest;
        let gone = before
            .keys()
            .chain(unfinished.keys())
            .filter(|name| !files.iter().any(|file| file.path == **name));
        for name in gone.filter(|name| self.is_ours(name)) {
            // A file that cannot be removed does no harm.
            let _ = fs::remove_file(self.place(name));
        }
        self.manifest = Manifest { by: by.to_owned(), files: hashes, unfinished: BTreeMap::new() };
        self.note()
    }

    /// Writes the list of what was written.
    fn note(&self) -> Outcome {
        files::write_whole(&self.path.join(MANIFEST), |out| {
            serde_json::to_writer_pretty(&mut *out, &self.manifest)?;
            writeln!(out)
        })
    }
}

/// A free name beside a file: `gauge.c.bak`, `gauge.c.bak2`.
fn backup_of(place: &Path) -> PathBuf {
    let named = |ending: &str| {
        let mut name = place.as_os_str().to_owned();
        name.push(ending);
        PathBuf::from(name)
    };
    let (mut copy, mut number) = (named(".bak"), 1);
    while copy.symlink_metadata().is_ok() {
        number += 1;
        copy = named(&format!(".bak{number}"));
    }
    copy
}

/// Returns true if a file is for a person's own code.
pub fn is_users(path: &str) -> bool {
    let name = path.rsplit('/').next().unwrap_or(path);
    matches!(name.split_once('.'), Some(("own" | "readings", _)))
}

fn hash(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|byte| format!("{byte:02x}")).collect()
}
