//! `bytes --as`: the lines that send a list are compiled and run as they are pasted, and the display shows what was asked for.

use std::process::Command;

use serde_json::Value;

use super::runners::{self, Running};
use crate::folder::Folder;

/// The content of each face of each rig.
const SHOWN: [(&str, &str, &str); 6] = [
    ("desk.toml", "clock", "TEAL"),
    ("desk.toml", "desk", "48"),
    ("desk.toml", "sign", "DUNLIN"),
    ("board.toml", "board", "42"),
    ("quay.toml", "minutes", "48"),
    ("berth.toml", "berth", "8"),
];

/// A controller for the list in C: its calls record what the lines do.
const CONTROLLER: &str = r##"
#include <stdio.h>

static unsigned long now_ns = 1000;

static void set(uint8_t line, char level)
{
    printf("#%lu\n%cl%d\n", now_ns, level, line);
    now_ns += 200;
}

void hw_write(uint8_t line, bool high) { set(line, high ? '1' : '0'); }
void hw_release(uint8_t line);
void hw_release(uint8_t line) { set(line, 'z'); }
void hw_wait_ns(uint16_t ns);
void hw_wait_ns(uint16_t ns) { now_ns += ns; }

int main(void)
{
    printf("$timescale 1 ns $end\nWIRES$enddefinitions $end\n#0\n");
    send_NAME();
    printf("#%lu\n", now_ns + 1000000);
    return 0;
}
"##;

/// The wires of a list's lines, by what it says of them: `#define GAUGE_DATA 1 /* GP19 */`.
fn wires(source: &str) -> String {
    let defined = source.lines().filter_map(|line| line.strip_prefix("#define "));
    let wire = |line: &str| {
        let words: Vec<_> = line.split_whitespace().collect();
        format!("$var wire 1 l{} {} $end\\n", words[1], words[3])
    };
    defined.map(wire).collect()
}

/// The lights at the end of a recording, and those that are expected.
fn shown(folder: &Folder, rig: &str, face: &str, words: &str) -> (Value, Value) {
    let run = folder.run(&format!("capture trace.vcd --rig {rig} --face {face} --json"));
    let told = run.out.lines().map(|line| serde_json::from_str::<Value>(line).unwrap());
    let last = { told }.rfind(|told| told["kind"] == "picture");
    let last = last.unwrap_or_else(|| panic!("{rig}, {face}: {}{}", run.out, run.err));
    let asked = folder.json(&format!("show {words} --rig {rig} --face {face}"));
    let lit = |of: &Value| {
        let digits = of["digits"].as_array().into_iter().flatten().map(|digit| digit["lit"].clone());
        serde_json::json!([digits.collect::<Vec<_>>(), of["dots"]])
    };
    (lit(&last), lit(&asked))
}

#[test]
fn a_list_in_c_is_sent() {
    for (rig, face, words) in SHOWN {
        let folder = Folder::landing();
        let source = folder.answer(&format!("bytes {words} --rig {rig} --face {face} --as c"));
        let controller = CONTROLLER.replace("NAME", face).replace("WIRES", &wires(&source));
        // It says what is put there after it.
        folder.write("list.c", format!("{source}\n{controller}"));
        let flags = ["-std=c99", "-Wall", "-Wextra", "-Wconversion", "-Werror", "-o"];
        let mut compiler = Command::new("gcc");
        runners::must(compiler.args(flags).arg(folder.path("list")).arg(folder.path("list.c")));
        let trace = Command::new(folder.path("list")).output().unwrap().stdout;
        folder.write("trace.vcd", trace);
        let (found, asked) = shown(&folder, rig, face, words);
        assert_eq!(found, asked, "{rig}, {face}");
    }
}

#[test]
fn a_list_in_rust_compiles() {
    for (rig, face, words) in SHOWN {
        let folder = Folder::landing();
        let source = folder.answer(&format!("bytes {words} --rig {rig} --face {face} --as rust"));
        folder.write("list.rs", format!("#![no_std]\n{source}"));
        runners::rustc(folder.path(""), &["--crate-type", "lib", "list.rs"]);
    }
}

#[test]
#[ignore = "needs the interpreter: scripts/chains runs it"]
fn a_list_in_micropython_is_sent() {
    let runner = runners::RUNNERS.iter().find(|runner| runner.target == "micropython").unwrap();
    for (rig, face, words) in
        SHOWN.iter().filter(|(rig, ..)| runner.is_there() && ["desk.toml", "board.toml"].contains(rig))
    {
        let folder = Folder::landing();
        let source = folder.answer(&format!("bytes {words} --rig {rig} --face {face} --as micropython"));
        std::fs::create_dir(folder.path("out")).unwrap();
        folder.write("out/main.py", source);
        (runner.run)(&Running { folder: &folder, project: "out", ms: 10, presses: &[] });
        let (found, asked) = shown(&folder, rig, face, words);
        assert_eq!(found, asked, "{rig}, {face}");
    }
}

#[test]
fn a_list_that_cannot_be_sent_is_given_without() {
    let folder = Folder::landing();
    let run = folder.run("bytes 4 --rig gauge.toml --as c");
    assert!(run.out.ends_with("    255\n};\n"), "{}", run.out);
    insta::assert_snapshot!(run.err, @"nothing that sends the list: face gauge is scanned, and a list is sent once");
}

/// The tables for the assembler of the 8051, run on its simulator, give the pattern of an index and the blank past their end.
#[test]
#[ignore = "needs the assembler and a simulator: scripts/chains runs it"]
fn a_table_for_the_assembler_of_the_8051_is_read() {
    let runner = runners::RUNNERS.iter().find(|runner| runner.target == "mcs51").unwrap();
    if !runner.is_there() {
        return;
    }
    let folder = Folder::empty();
    for (index, past) in [("checked", "ff"), ("masked", "80")] {
        let table = folder
            .answer(&format!("table --as mcs51-asm --set ascii --common anode --index {index} --name signs"));
        // This assembler has a point before its directives.
        let table = table.replace(" DB ", " .db ");
        // At 8 and past the end: a checked index gives a blank there, and a masked one of 128 more gives the 8 again.
        let read = |index: u8, to: u8| format!("  MOV A, #{index}\n  LCALL signs\n  MOV {to}, A\n");
        let program = format!(
            "  .org 0\n{}{}  NOP\ndone: SJMP done\n  .org 100H\n{table}  .end\n",
            read(b'8' - b' ', 0x30),
            read(if index == "masked" { b'8' - b' ' + 128 } else { 255 }, 0x31)
        );
        folder.write("main.asm", program);
        let run = |command: &mut Command| {
            let output = command.current_dir(folder.path("")).output().unwrap();
            String::from_utf8_lossy(&output.stdout).into_owned()
        };
        let told = run(Command::new("as31").args(["-Fhex", "-Omain.hex", "main.asm"]));
        assert!(!told.contains("rror"), "{told}");
        folder.write("asked", "break 0x0e\nrun\ndump iram 0x30 0x31\nquit\n");
        let asked = std::fs::File::open(folder.path("asked")).unwrap();
        let told = run(Command::new("s51").args(["-t", "C51", "-q", "main.hex"]).stdin(asked));
        let seen: Vec<_> = told.lines().filter(|line| line.starts_with("0x30")).collect();
        assert!(seen[0].contains(&format!("80 {past}")), "{index}: {told}");
    }
}
