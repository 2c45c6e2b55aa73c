//! Every command in the README and in docs/ is run, and what the page shows is compared with what came back.
//!
//! A block of the kind `console` holds commands after `$ ` and their output; a line `...` stands for any lines, and
//! `[status N]` at the end for an exit status that is not 0. A block of the kind `toml NAME` is a file, whose name the text before it gives. The commands of a
//! page run one after another in a folder that is empty at first. With `SPARE_TILE_WRITE_DOCS=1` the pages are written again instead; read them then.

use std::fmt::Write;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use crate::folder::Folder;

const ANY_LINES: &str = "...";

struct Page {
    path: PathBuf,
    text: String,
}

/// The variable that asks for the pages to be written again.
pub const WRITE: &str = "SPARE_TILE_WRITE_DOCS";

pub fn project() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn pages() -> Vec<Page> {
    let mut paths = vec![project().join("README.md")];
    for folder in ["docs", "docs/guide"] {
        let entries = fs::read_dir(project().join(folder)).unwrap().map(|entry| entry.unwrap().path());
        paths.extend(entries.filter(|path| path.extension().is_some_and(|extension| extension == "md")));
    }
    paths.sort();
    paths.into_iter().map(|path| Page { text: fs::read_to_string(&path).unwrap(), path }).collect()
}

/// A shell that keeps its working folder from one command to the next.
struct Shell {
    /// The home of the shell; it goes when the shell does.
    folder: Folder,
    inside: PathBuf,
}

impl Shell {
    /// In an empty folder: a page begins with what it needs.
    fn begin() -> Self {
        let folder = Folder::empty();
        let inside = folder.path("");
        Self { folder, inside }
    }

    /// The output of a command on a terminal.
    fn run(&mut self, line: &str) -> String {
        if let Some(folder) = line.strip_prefix("cd ") {
            self.inside.push(folder);
            return String::new();
        }
        let program = Path::new(env!("CARGO_BIN_EXE_spare-tile")).parent().unwrap();
        let path = format!("{}:{}", program.display(), std::env::var("PATH").unwrap_or_default());
        let output = Command::new("sh")
            .args(["-c", &format!("{{ {line}\n}} 2>&1")])
            .current_dir(&self.inside)
            .env("PATH", path)
            .env("HOME", self.folder.path(""))
            .env_remove("NO_COLOR")
            .env_remove("SPARE_TILE_RIG")
            .output()
            .unwrap();
        let mut said = String::from_utf8(output.stdout).unwrap();
        if !output.status.success() {
            let _ = writeln!(said, "[status {}]", output.status.code().unwrap());
        }
        said.lines().fold(String::new(), |all, line| all + line.trim_end() + "\n")
    }
}

/// Returns true if lines are those that are shown, where `...` stands for any.
fn is_as_shown(shown: &[&str], found: &[&str]) -> bool {
    match shown.split_first() {
        None => found.is_empty(),
        Some((&ANY_LINES, rest)) => (0..=found.len()).any(|skipped| is_as_shown(rest, &found[skipped..])),
        Some((line, rest)) => {
            found.split_first().is_some_and(|(first, others)| first == line && is_as_shown(rest, others))
        }
    }
}

/// The lines that a page should show after a command: unchanged if they are true, and cut if they are long.
fn mended(shown: &[&str], found: &str) -> String {
    let lines: Vec<&str> = found.lines().collect();
    if is_as_shown(shown, &lines) {
        return shown.iter().fold(String::new(), |all, line| all + line + "\n");
    }
    if lines.len() <= 30 {
        return found.to_owned();
    }
    lines[..16].iter().chain(&[ANY_LINES]).fold(String::new(), |all, line| all + line + "\n")
}

impl Page {
    fn name(&self) -> String {
        self.path.strip_prefix(project()).unwrap().display().to_string()
    }

    /// The page with what its commands really answer.
    fn run(&self) -> String {
        let mut shell = Shell::begin();
        let mut written = String::new();
        let mut lines = self.text.lines().peekable();
        let mut is_console = false;
        while let Some(line) = lines.next() {
            let _ = writeln!(written, "{line}");
            if let Some(name) = ["```toml ", "```c "].iter().find_map(|fence| line.strip_prefix(fence)) {
                let before = written.rsplit("\n\n").filter(|text| !text.trim().is_empty()).nth(1);
                let is_named = before.is_some_and(|text| text.contains(&format!("`{name}`")));
                assert!(is_named, "{}: the text before {name} must say what to save it as", self.name());
                let mut file = String::new();
                while let Some(line) = lines.next_if(|line| !line.starts_with("```")) {
                    file += &format!("{line}\n");
                }
                fs::write(shell.inside.join(name), &file).unwrap();
                written += &file;
                is_console = true;
            } else if line.starts_with("```") {
                is_console = !is_console && line == "```console";
            } else if let Some(command) = line.strip_prefix("$ ").filter(|_| is_console) {
                let mut shown = Vec::new();
                while let Some(line) =
                    lines.next_if(|line| !line.starts_with("$ ") && !line.starts_with("```"))
                {
                    shown.push(line);
                }
                // An empty line before the next command is for the eye.
                let gap = shown.pop_if(|last| last.is_empty());
                written += &mended(&shown, &shell.run(command));
                written += gap.map_or("", |_| "\n");
            }
        }
        written
    }
}

#[test]
#[cfg(unix)]
fn every_page_shows_what_its_commands_answer() {
    let write = std::env::var_os(WRITE).is_some();
    let mut wrong = String::new();
    for page in pages() {
        let true_text = page.run();
        if true_text == page.text {
            continue;
        }
        if write {
            fs::write(&page.path, true_text).unwrap();
            continue;
        }
        let pairs = page.text.lines().zip(true_text.lines()).enumerate();
        let (number, (shown, found)) = pairs.into_iter().find(|(_, (shown, found))| shown != found).unwrap();
        let _ = writeln!(wrong, "{}:{}\n  shows {shown:?}\n  found {found:?}", page.name(), number + 1);
    }
    assert!(wrong.is_empty(), "{wrong}write them again with SPARE_TILE_WRITE_DOCS=1");
}

/// The schemas that editors are pointed to are the program's own.
#[test]
fn the_schema_in_docs_is_what_the_program_writes() {
    for (name, command) in [("rig", "rig schema"), ("reel", "rig schema --reel")] {
        let path = project().join(format!("docs/{name}.schema.json"));
        let schema = Folder::empty().answer(command);
        if std::env::var_os(WRITE).is_some() {
            fs::write(&path, &schema).unwrap();
        }
        let there = fs::read_to_string(path).unwrap_or_default();
        assert!(there == schema, "{name}: write it again with SPARE_TILE_WRITE_DOCS=1");
    }
}

/// A command in a line of text or in a table may lack a file; it must not lack a meaning.
#[test]
fn every_command_in_a_line_of_text_is_understood() {
    let folder = Folder::landing();
    let mut commands = 0;
    for page in pages() {
        for quoted in
            page.text.split('`').skip(1).step_by(2).filter(|quoted| quoted.starts_with("spare-tile "))
        {
            commands += 1;
            let run = folder.run(quoted.trim_start_matches("spare-tile ").trim());
            assert!(!run.err.contains("Usage:"), "{}: {quoted}\n{}", page.name(), run.err);
        }
    }
    assert!(commands > 10, "the pages have {commands} commands in their text");
}

/// From nothing to a rig, its wiring and a picture, for every kind of display that one can begin with.
#[test]
fn three_commands_lead_from_the_bench_to_a_picture() {
    let kinds = Folder::empty().json("rig new");
    let mut kinds: Vec<_> =
        kinds.as_array().unwrap().iter().map(|kind| kind["name"].as_str().unwrap()).collect();
    let page = fs::read_to_string(project().join("docs/guide/own-display.md")).unwrap();
    for row in page.lines().filter(|line| line.starts_with("| ")) {
        let commands: Vec<_> = row.split('`').skip(1).step_by(2).collect();
        let [begin, wiring, picture] = commands[..] else { continue };
        let folder = Folder::empty();
        for command in [begin, "spare-tile rig check", wiring, picture] {
            let run = folder.run(command.strip_prefix("spare-tile ").unwrap());
            assert_eq!(run.status, 0, "{command}: {}", run.err);
            assert!(!run.err.contains("warning"), "{row}\n{command}: {}", run.err);
            assert!(
                command != "spare-tile rig check" || run.out.ends_with("rig.toml: sound\n"),
                "{row}\n{}",
                run.out
            );
        }
        kinds.retain(|kind| !begin.split(' ').any(|word| word == *kind));
    }
    assert_eq!(kinds, Vec::<&str>::new(), "kinds without a row");
}

/// The first command of each task in the README works in an empty folder, as does the second: `rig check` and a picture.
#[test]
fn the_tasks_of_the_readme_begin_in_an_empty_folder() {
    let page = fs::read_to_string(project().join("README.md")).unwrap();
    let rows = page.lines().skip_while(|line| !line.starts_with("| task")).skip(2);
    let firsts: Vec<_> =
        rows.take_while(|row| row.starts_with('|')).map(|row| row.split('`').nth(1).unwrap()).collect();
    assert_eq!(firsts.len(), 7);
    for first in firsts {
        let folder = Folder::empty();
        let run = folder.run(first.strip_prefix("spare-tile ").unwrap());
        if first.contains(" capture ") {
            // The recording is the reader's own.
            assert!(run.err.contains("recording.vcd"), "{}", run.err);
            continue;
        }
        assert_eq!(run.status, 0, "{first}: {}", run.err);
        if folder.names().contains(&"rig.toml".to_owned()) {
            assert_eq!(folder.run("rig check").status, 0, "{first}");
            assert_eq!(folder.run("play test --for 1s --png-sheet test.png").status, 0, "{first}");
        }
    }
}

/// Links and pictures lead to files of the project.
#[test]
fn every_link_leads_to_a_file() {
    let mut links = 0;
    for page in pages() {
        let folder = page.path.parent().unwrap();
        let targets =
            page.text.split("](").skip(1).filter_map(|rest| rest.split_once(')')).map(|(link, _)| link);
        for link in targets.filter(|link| !link.contains("://") && !link.contains(' ')) {
            links += 1;
            let (file, heading) = link.split_once('#').unwrap_or((link, ""));
            let target = if file.is_empty() { page.path.clone() } else { folder.join(file) };
            assert!(target.exists(), "{}: {link}", page.name());
            if !heading.is_empty() {
                let text = fs::read_to_string(&target).unwrap();
                let headings = text.lines().filter(|line| line.starts_with('#'));
                let is_it = |line: &str| {
                    let words = line.trim_start_matches('#').trim().to_lowercase();
                    let kept =
                        words.chars().filter(|letter| letter.is_alphanumeric() || " -".contains(*letter));
                    kept.collect::<String>().replace(' ', "-") == heading
                };
                assert!(headings.into_iter().any(is_it), "{}: {link}", page.name());
            }
        }
    }
    assert!(links > 50, "{links} links");
}

/// The index leads to every guide. Each guide is a task that can be done in an empty folder.
#[test]
fn the_index_leads_to_every_guide() {
    let index = fs::read_to_string(project().join("docs/README.md")).unwrap();
    let guides: Vec<_> = pages().into_iter().filter(|page| page.name().starts_with("docs/guide/")).collect();
    for guide in &guides {
        let link = format!("({})", guide.name().strip_prefix("docs/").unwrap());
        assert!(index.contains(&link), "{} is not in the index", guide.name());
    }
    let tasks = guides.iter().filter(|guide| guide.text.contains("```console\n")).count();
    assert!(tasks >= 10, "{tasks} guides with commands");
}

/// A command that stands nowhere but in an indented block is run by nobody.
#[test]
fn commands_stand_where_they_are_run() {
    for page in pages() {
        for (number, line) in page.text.lines().enumerate() {
            let is_free = line.strip_prefix("    ").is_some_and(|line| line.starts_with("spare-tile "));
            assert!(!is_free, "{}:{}: put the command into a console block", page.name(), number + 1);
        }
    }
}

/// Rigs on the pages are rigs.
#[test]
fn every_whole_rig_on_a_page_is_sound() {
    let folder = Folder::empty();
    let mut rigs = 0;
    for page in pages() {
        let blocks =
            page.text.split("```toml").skip(1).filter_map(|rest| rest.split("```").next()?.split_once('\n'));
        for (_, rig) in blocks.filter(|(_, block)| block.contains("method = ") && block.contains("[face.")) {
            rigs += 1;
            folder.write("rig.toml", rig);
            let run = folder.run("rig check");
            assert_eq!(run.status, 0, "{}:\n{rig}\n{}{}", page.name(), run.out, run.err);
        }
    }
    assert!(rigs > 0);
}

#[test]
fn a_line_of_points_stands_for_any_lines() {
    let found = ["one", "two", "three"];
    assert!(
        is_as_shown(&["one", "...", "three"], &found) && is_as_shown(&["one", "two", "three", "..."], &found)
    );
    assert!(!is_as_shown(&["one", "...", "two"], &found) && !is_as_shown(&["one", "three"], &found));
}
