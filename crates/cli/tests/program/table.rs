use std::path::Path;
use std::process::Command;

use crate::folder::Folder;

#[test]
fn the_table_for_people() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.answer("table --common anode"), @"
    seven segments, common anode: a 0 lights
         dp g f e d c b a   hex
    0     1 1 0 0 0 0 0 0   C0
    1     1 1 1 1 1 0 0 1   F9
    2     1 0 1 0 0 1 0 0   A4
    3     1 0 1 1 0 0 0 0   B0
    4     1 0 0 1 1 0 0 1   99
    5     1 0 0 1 0 0 1 0   92
    6     1 0 0 0 0 0 1 0   82
    7     1 1 1 1 1 0 0 0   F8
    8     1 0 0 0 0 0 0 0   80
    9     1 0 0 1 0 0 0 0   90
    ");
    insta::assert_snapshot!(folder.answer("table --set \" |`\" --as markdown"), @r"
    | character | dp | g | f | e | d | c | b | a | hex |
    | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |
    | (blank) | 0 | 0 | 0 | 0 | 0 | 0 | 0 | 0 | 00 |
    | \| | 0 | 0 | 1 | 1 | 0 | 0 | 0 | 0 | 30 |
    | `` ` `` | 0 | 0 | 1 | 0 | 0 | 0 | 0 | 0 | 20 |
    ");
    insta::assert_snapshot!(folder.answer("table --set \"a,b\" --as csv"), @r#"
    character,dp,g,f,e,d,c,b,a,hex
    a,0,1,0,1,1,1,1,1,5F
    ",",0,0,0,0,0,1,0,0,04
    b,0,1,1,1,1,1,0,0,7C
    "#);
    insta::assert_snapshot!(folder.answer("table --set 7 --as json"), @r#"
    {
      "style": "seven",
      "common": "cathode",
      "bit_order": [
        "dp",
        "g",
        "f",
        "e",
        "d",
        "c",
        "b",
        "a"
      ],
      "entries": [
        {
          "character": "7",
          "segments": [
            "a",
            "b",
            "c"
          ],
          "bits": "00000111",
          "bytes": [
            "07"
          ]
        }
      ]
    }
    "#);
    assert_eq!(
        folder.answer("table --set all").lines().count(),
        2 + folder.json("table --set all")["entries"].as_array().unwrap().len()
    );
}

#[test]
fn the_chart_is_drawn_as_svg_and_png() {
    let folder = Folder::empty();
    let svg = folder.answer("table --set ascii --style sixteen --as svg --png chart.png");
    assert_eq!(svg.matches("<circle").count(), 95, "a point for each character");
    assert_eq!(
        svg.matches("<path").count(),
        95 + 94,
        "its bytes, and the character itself where it is no blank"
    );
    assert_eq!(&std::fs::read(folder.path("chart.png")).unwrap()[..4], b"\x89PNG");
}

#[test]
fn source_in_every_form() {
    let folder = Folder::empty();
    for form in ["c", "avr-c", "mcs51-c", "rust", "micropython", "pic-asm"] {
        let source = folder.answer(&format!("table --set \"01\\\" --name signs --as {form}"));
        insta::assert_snapshot!(format!("source-{form}"), source);
    }
}

#[test]
fn only_what_a_text_needs() {
    let csv = Folder::empty().answer("table --only-used \"tEAL tEAL\" --as csv");
    let characters: String =
        csv.lines().skip(1).filter_map(|line| line.trim_matches('"').chars().next()).collect();
    assert_eq!(characters, " AELt");
}

#[test]
fn what_cannot_be_a_table() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.complaint("table --name 7seg --as c"), @"
    error: '7seg' cannot name a table; use a letter, then letters, digits and
           underscores, but no word of the language
     │
     ╰ help: choose a name such as --name digits
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("table --set \u{20ac}"), @"
    error: seven segments cannot show '€'
     │
     ╰ help: leave the character out, or draw it in the rig's glyphs
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("table --set \"\""), @"
    error: the table has no character
     │
     ╰ help: name characters with --set or --only-used
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("table --as pic-asm --index checked"), @"
    error: pic-asm tables are indexed masked: a check costs a register that the
           table cannot know of
     │
     ╰ help: leave --index out, or write --index masked
    [status 2]
    ");
    assert_eq!(folder.run("table --as cobol").status, 2);
}

/// Every style and index of a form, written to a file each.
fn variants(folder: &Folder, form: &str, ending: &str) -> Vec<(String, String)> {
    let mut files = Vec::new();
    for style in ["seven", "fourteen", "sixteen"] {
        for index in ["masked", "checked"] {
            let name = format!("signs_{style}_{index}");
            let line = format!(
                "table --set ascii --style {style} --common anode --index {index} --name {name} --as {form}"
            );
            let file = format!("{name}.{ending}");
            folder.write(&file, folder.answer(&line));
            files.push((name, file));
        }
    }
    files
}

fn run(folder: &Folder, program: &str, arguments: &[&str]) -> String {
    let output = Command::new(program).current_dir(folder.path("")).args(arguments).output().unwrap();
    let told = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(output.status.success(), "{program} {arguments:?}: {told}");
    String::from_utf8(output.stdout).unwrap()
}

/// What each variant must give: the entry at 0x10 ('0'), and the blank past the end.
const EXPECTED: [u32; 12] = {
    const SEVEN: u32 = 0xC0;
    const FOURTEEN: u32 = !0b000_1100_0011_1111 & 0x7FFF;
    const SIXTEEN: u32 = !0b0_0011_0000_1111_1111 & 0x1_FFFF;
    [SEVEN, 0xFF, SEVEN, 0xFF, FOURTEEN, 0x7FFF, FOURTEEN, 0x7FFF, SIXTEEN, 0x1_FFFF, SIXTEEN, 0x1_FFFF]
};

fn expected() -> String {
    EXPECTED.map(|value| format!("{value}\n")).concat()
}

#[test]
fn the_c_form_compiles_without_a_warning_and_stays_in_bounds() {
    let folder = Folder::empty();
    let mut source = "#include <stdio.h>\n".to_owned();
    let files = variants(&folder, "c", "h");
    for (_, file) in &files {
        source += &format!("#include \"{file}\"\n");
    }
    source += "int main(void)\n{\n";
    for (name, _) in &files {
        source += &format!(
            "    printf(\"%lu\\n%lu\\n\", (unsigned long){name}_at(16), (unsigned long){name}_at(255));\n"
        );
    }
    folder.write("main.c", source + "    return 0;\n}\n");
    run(
        &folder,
        "gcc",
        &["-std=c99", "-Wall", "-Wextra", "-Wpedantic", "-Wconversion", "-Werror", "main.c", "-o", "main"],
    );
    assert_eq!(run(&folder, folder.path("main").to_str().unwrap(), &[]), expected());
}

#[test]
fn the_rust_form_compiles_without_std_and_stays_in_bounds() {
    let folder = Folder::empty();
    let files = variants(&folder, "rust", "rs");
    let mut library = "#![no_std]\n#![deny(warnings)]\n".to_owned();
    let mut source = "fn main() {\n".to_owned();
    for (name, file) in &files {
        library += &format!("pub mod m_{name} {{ include!(\"{file}\"); }}\n");
        source += &format!(
            "    println!(\"{{}}\\n{{}}\", signs::m_{name}::{name}_at(16), signs::m_{name}::{name}_at(255));\n"
        );
    }
    folder.write("signs.rs", library);
    folder.write("main.rs", source + "}\n");
    run(&folder, "rustc", &["--edition", "2024", "--crate-type", "rlib", "signs.rs"]);
    run(&folder, "rustc", &["--edition", "2024", "main.rs", "--extern", "signs=libsigns.rlib"]);
    assert_eq!(run(&folder, folder.path("main").to_str().unwrap(), &[]), expected());
}

#[test]
fn the_micropython_form_is_python_too() {
    if !Path::new("/usr/bin/python3").exists() && Command::new("python3").arg("--version").output().is_err() {
        eprintln!("skipped: there is no python3 on this machine");
        return;
    }
    let folder = Folder::empty();
    let mut source = String::new();
    for (name, _) in variants(&folder, "micropython", "py") {
        source += &format!("from {name} import {name}_at as at\nprint(at(16))\nprint(at(255))\n");
    }
    folder.write("main.py", source);
    assert_eq!(run(&folder, "python3", &["main.py"]), expected());
}
