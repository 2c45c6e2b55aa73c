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
        "its bytes, and the character itself unless it is a blank"
    );
    assert_eq!(&std::fs::read(folder.path("chart.png")).unwrap()[..4], b"\x89PNG");
}

#[test]
fn source_in_every_form() {
    let folder = Folder::empty();
    for form in ["c", "avr-c", "mcs51-c", "mcs51-asm", "rust", "micropython", "pic-asm"] {
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

/// The entries that each variant must give: the entry at 0x10 ('0'), and the blank past the end.
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

/// A font in a form, by its file.
fn font(folder: &Folder, form: &str, ending: &str) -> String {
    let line = format!("table --font board --only-used \"TEAL 07:58\" --name teal --as {form}");
    let file = format!("teal.{ending}");
    folder.write(&file, folder.answer(&line));
    file
}

/// The columns of a T and of a character that is not there, and what is past the ends.
const OF_FONT: &str = "1 1 127 1 1 0 |0|0 0 0\n";

#[test]
fn a_font_in_c_is_found_by_its_code_and_never_read_past_its_end() {
    let folder = Folder::empty();
    font(&folder, "c", "h");
    folder.write(
        "main.c",
        "#include <stdio.h>\n#include \"teal.h\"\nint main(void)\n{\n    unsigned at = teal_find(0x54), end = teal_find(0x7E), i;\n\
         \x20   for (i = teal_starts_at(at); i < teal_starts_at(at + 1); i++)\n        printf(\"%u \", (unsigned)teal_dots_at(i));\n\
         \x20   printf(\"|%d|\", teal_starts_at(end + 1) - teal_starts_at(end));\n\
         \x20   printf(\"%u %u %u\\n\", (unsigned)teal_dots_at(65535), (unsigned)teal_starts_at(999), (unsigned)teal_codes_at(99));\n    return 0;\n}\n",
    );
    let flags =
        ["-std=c99", "-Wall", "-Wextra", "-Wpedantic", "-Wconversion", "-Werror", "main.c", "-o", "main"];
    run(&folder, "gcc", &flags);
    assert_eq!(run(&folder, folder.path("main").to_str().unwrap(), &[]), OF_FONT);
}

#[test]
fn a_font_in_rust_is_the_same() {
    let folder = Folder::empty();
    font(&folder, "rust", "rs");
    folder.write(
        "main.rs",
        "#![deny(warnings)]\n#[allow(dead_code)]\nmod teal { include!(\"teal.rs\"); }\nuse teal::*;\nfn main() {\n\
         let (at, end) = (teal_find(0x54), teal_find(0x7E));\n\
         for i in teal_starts_at(at)..teal_starts_at(at + 1) { print!(\"{} \", teal_dots_at(i.into())); }\n\
         print!(\"|{}|\", teal_starts_at(end + 1) - teal_starts_at(end));\n\
         println!(\"{} {} {}\", teal_dots_at(65535), teal_starts_at(999), teal_codes_at(99));\n}\n",
    );
    run(&folder, "rustc", &["--edition", "2024", "main.rs"]);
    assert_eq!(run(&folder, folder.path("main").to_str().unwrap(), &[]), OF_FONT);
}

#[test]
fn a_font_in_micropython_is_the_same() {
    if Command::new("python3").arg("--version").output().is_err() {
        eprintln!("skipped: there is no python3 on this machine");
        return;
    }
    let folder = Folder::empty();
    font(&folder, "micropython", "py");
    folder.write(
        "main.py",
        "from teal import *\nat, end = teal_find(0x54), teal_find(0x7E)\n\
         for i in range(teal_starts_at(at), teal_starts_at(at + 1)):\n    print(teal_dots_at(i), end=' ')\n\
         print('|%d|' % (teal_starts_at(end + 1) - teal_starts_at(end)), end='')\n\
         print(teal_dots_at(65535), teal_starts_at(999), teal_codes_at(99))\n",
    );
    assert_eq!(run(&folder, "python3", &["main.py"]), OF_FONT);
}

#[test]
fn dots_in_a_table_want_a_form_and_a_font_with_the_characters() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.complaint("table --font board"), @"
    error: fonts and sprites are written as source
     │
     ╰ help: write --as c, avr-c, mcs51-c, mcs51-asm, rust, micropython or pic-asm;
             to look at a font: spare-tile fonts FONT
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("table --font clock --only-used TEAL --as c"), @"
    error: the font clock has no 'A' that a table could hold
     │
     ╰ help: see what it has: spare-tile fonts FONT; or leave the character out
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("table --by rows --as c"), @"
    error: --by and --bit-0 are for fonts and sprites
     │
     ╰ help: name one with --font or --sprite
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("table --font board --as pic-asm"), @"
    error: pic-asm tables have at most 128 entries; this one has 1024
     │
     ╰ help: take fewer characters: --only-used TEXT
    [status 2]
    ");
    insta::assert_snapshot!(folder.answer("table --font small --set 7 --as avr-c --by rows --bit-0 last --name seven"), @"
    /* Font small, 7 rows high: 1 character.
       Each byte is a row, from the top; bit 7 is at the left.
       A character is the rows from its start to the next one's, each of whole bytes for its width. */
    #ifndef SEVEN_H
    #define SEVEN_H

    #include <avr/pgmspace.h>
    #include <stdint.h>

    /* The code points, rising. */
    static const uint16_t seven_codes[1] PROGMEM = {
        0x0037, /* '7' */
    };

    static inline uint16_t seven_codes_at(uint16_t index)
    {
        return index < 1u ? pgm_read_word(&seven_codes[index]) : 0;
    }

    /* Where the dots of each begin. */
    static const uint16_t seven_starts[3] PROGMEM = {
        0x0000, /* '7' */
        0x0007, 0x0007, /* the end, twice: what is not there is empty */
    };

    static inline uint16_t seven_starts_at(uint16_t index)
    {
        return index < 3u ? pgm_read_word(&seven_starts[index]) : 0;
    }

    /* How many columns each has. */
    static const uint8_t seven_widths[2] PROGMEM = {
        0x04, /* '7' */
        0x00, /* what is not there */
    };

    static inline uint8_t seven_widths_at(uint16_t index)
    {
        return index < 2u ? pgm_read_byte(&seven_widths[index]) : 0;
    }

    /* The dots. */
    static const uint8_t seven_dots[7] PROGMEM = {
        0x00, 0xE0, 0x20, 0x40, 0x40, 0x40, 0x00, /* '7' */
    };

    static inline uint8_t seven_dots_at(uint16_t index)
    {
        return index < 7u ? pgm_read_byte(&seven_dots[index]) : 0;
    }

    /* The place of a character among the codes, or their number if it is missing. */
    static inline uint16_t seven_find(uint16_t code)
    {
        uint16_t place = 0;

        while (place < 1u && seven_codes_at(place) != code)
            place++;
        return place;
    }

    #endif
    ");
    insta::assert_snapshot!(folder.answer("table --font small --set 7 --rig board.toml --as pic-asm --name seven"), @r#"
    ; Font small, 7 rows high: 1 character.
    ; Each byte is a row, from the top; bit 7 is at the left.
    ; A character is the rows from its start to the next one's, each of whole bytes for its width.
    ; In: the index in W. Out: the value in W. Call it from anywhere in its page.

    ; The code points, rising.

    seven_codes_1
            ANDLW   H'00'
            ADDWF   PCL, F
            RETLW   H'00'   ; '7'
    seven_codes_1_end
            IF (seven_codes_1 & H'100') != 0 || ((seven_codes_1_end - 1) & H'100') != 0
              ERROR "seven_codes_1 must lie in the lower half of a page"
            ENDIF
            IF (seven_codes_1 & H'E00') != ((seven_codes_1_end - 1) & H'E00')
              ERROR "seven_codes_1 must not run over the end of a page"
            ENDIF

    seven_codes_0
            ANDLW   H'00'
            ADDWF   PCL, F
            RETLW   H'37'   ; '7'
    seven_codes_0_end
            IF (seven_codes_0 & H'100') != 0 || ((seven_codes_0_end - 1) & H'100') != 0
              ERROR "seven_codes_0 must lie in the lower half of a page"
            ENDIF
            IF (seven_codes_0 & H'E00') != ((seven_codes_0_end - 1) & H'E00')
              ERROR "seven_codes_0 must not run over the end of a page"
            ENDIF

    ; Where the dots of each begin.

    seven_starts_1
            ANDLW   H'03'
            ADDWF   PCL, F
            RETLW   H'00'   ; '7'
            RETLW   H'00'   ; the end, twice: what is not there is empty
            RETLW   H'00'   ; the end, twice: what is not there is empty
            RETLW   H'00'   ; past the end
    seven_starts_1_end
            IF (seven_starts_1 & H'100') != 0 || ((seven_starts_1_end - 1) & H'100') != 0
              ERROR "seven_starts_1 must lie in the lower half of a page"
            ENDIF
            IF (seven_starts_1 & H'E00') != ((seven_starts_1_end - 1) & H'E00')
              ERROR "seven_starts_1 must not run over the end of a page"
            ENDIF

    seven_starts_0
            ANDLW   H'03'
            ADDWF   PCL, F
            RETLW   H'00'   ; '7'
            RETLW   H'07'   ; the end, twice: what is not there is empty
            RETLW   H'07'   ; the end, twice: what is not there is empty
            RETLW   H'00'   ; past the end
    seven_starts_0_end
            IF (seven_starts_0 & H'100') != 0 || ((seven_starts_0_end - 1) & H'100') != 0
              ERROR "seven_starts_0 must lie in the lower half of a page"
            ENDIF
            IF (seven_starts_0 & H'E00') != ((seven_starts_0_end - 1) & H'E00')
              ERROR "seven_starts_0 must not run over the end of a page"
            ENDIF

    ; How many columns each has.

    seven_widths
            ANDLW   H'01'
            ADDWF   PCL, F
            RETLW   H'04'   ; '7'
            RETLW   H'00'   ; what is not there
    seven_widths_end
            IF (seven_widths & H'100') != 0 || ((seven_widths_end - 1) & H'100') != 0
              ERROR "seven_widths must lie in the lower half of a page"
            ENDIF
            IF (seven_widths & H'E00') != ((seven_widths_end - 1) & H'E00')
              ERROR "seven_widths must not run over the end of a page"
            ENDIF

    ; The dots.

    seven_dots
            ANDLW   H'07'
            ADDWF   PCL, F
            RETLW   H'00'   ; '7'
            RETLW   H'E0'   ; '7'
            RETLW   H'20'   ; '7'
            RETLW   H'40'   ; '7'
            RETLW   H'40'   ; '7'
            RETLW   H'40'   ; '7'
            RETLW   H'00'   ; '7'
            RETLW   H'00'   ; past the end
    seven_dots_end
            IF (seven_dots & H'100') != 0 || ((seven_dots_end - 1) & H'100') != 0
              ERROR "seven_dots must lie in the lower half of a page"
            ENDIF
            IF (seven_dots & H'E00') != ((seven_dots_end - 1) & H'E00')
              ERROR "seven_dots must not run over the end of a page"
            ENDIF
    "#);
}
