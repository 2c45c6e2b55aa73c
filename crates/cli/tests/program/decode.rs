use crate::folder::Folder;

const DIGITS: &str = "3F 06 5B 4F 66 6D 7D 07 7F 6F";

#[test]
fn each_byte_with_what_it_lights_and_says() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.answer("decode 6D F9 55"), @"
    seven segments, common cathode: a 1 lights
              hex   dp g f e d c b a   lit
        _
       |_     6D     0 1 1 0 1 1 0 1   a c d f g         '5' or 'S' or '$'
        _|
        _
       |_     F9     1 1 1 1 1 0 0 1   a d e f g dp      'E' and the point
       |_ .
        _
        _     55     0 1 0 1 0 1 0 1
       | |          a c e g; no character; nearest 'K', lacks segment f
    ");
    insta::assert_snapshot!(folder.answer("decode 0xF9 --common anode --json"), @r#"
    [
      {
        "value": "F9",
        "segments": [
          "b",
          "c"
        ],
        "characters": [
          "1"
        ],
        "point": false,
        "nearest": null
      }
    ]
    "#);
    insta::assert_snapshot!(folder.answer("decode 1209 --style fourteen"), @"
    fourteen segments, common cathode: a 1 lights
                hex     dp m l k j i h g2 g1 f e d c b a   lit
        ---
         |
                12 09    0 0 1 0 0 1 0  0  0 0 0 1 0 0 1   a d i l           'I'
         |
        ---
    ");
}

#[test]
fn a_pasted_array_is_read_from_a_file() {
    let folder = Folder::empty();
    folder.write("table.h", "const uint8_t digits[2] = {\n    0x3F, /* 0 */\n    0x06, // 1\n};\n");
    assert_eq!(folder.answer("decode --file table.h"), folder.answer("decode 3F06"));
}

/// The output of `table` and `encode --plain` is read back as the same patterns, in every form and style.
#[test]
fn what_is_written_is_read_back() {
    let folder = Folder::empty();
    let segments = |answer: &serde_json::Value| -> Vec<serde_json::Value> {
        answer.as_array().unwrap().iter().map(|entry| entry["segments"].clone()).collect()
    };
    for style in ["seven", "fourteen", "sixteen"] {
        let text = "TEAL 048";
        let encoded = folder.json(&format!("encode \"{text}\" --style {style}"));
        let meant = segments(&encoded["characters"]);
        let plain = folder.answer(&format!("encode \"{text}\" --style {style} --plain"));
        assert_eq!(
            segments(&folder.json(&format!("decode {} --style {style}", plain.trim()))),
            meant,
            "{plain}"
        );
        let table = folder.json(&format!("table --set decimal --style {style}"));
        for form in ["c", "avr-c", "mcs51-c", "rust", "micropython", "pic-asm"] {
            if style != "seven" && form == "pic-asm" {
                continue;
            }
            folder.write(
                "table.txt",
                folder.answer(&format!("table --set decimal --style {style} --as {form}")),
            );
            let decoded = segments(&folder.json(&format!("decode --file table.txt --style {style}")));
            let meant = segments(&table["entries"]);
            assert_eq!(decoded[..meant.len()], meant, "{style} as {form}");
            assert!(decoded[meant.len()..].iter().all(|filled| filled == &serde_json::json!([])), "{form}");
        }
    }
}

#[test]
fn a_guess_says_which_wirings_make_sense() {
    insta::assert_snapshot!(Folder::empty().answer("decode --guess C0 F9 A4 B0 99 92 82 F8 80 90"), @"
       common   bit order         exact     readable  reads
    >  anode    dp g f e d c b a  10 of 10  10 of 10  0123456789
       anode    dp a b c d e f g  6 of 10   8 of 10   ?I5E?2a+8e
       cathode  g f e d c b a dp  5 of 10   7 of 10   ?b./c>.??b-=
       cathode  dp a b c d e f g  4 of 10   9 of 10   ~.3.%.1.>.?.`.]. .i.
       cathode  dp g f e d c b a  4 of 10   7 of 10   -.E.?.I.?.%.'.t. .?.
       anode    a b c d e f g dp  4 of 10   4 of 10   b.??.?.4?.U.?.?.H.
       anode    g f e d c b a dp  2 of 10   3 of 10   ?.??.7.??.U.?.0.?.
       cathode  a b c d e f g dp  0 of 10   3 of 10   ??.?;?.???~:
    ");
}

#[test]
fn an_expected_text_finds_any_wiring_and_wrong_entries() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.answer(&format!("decode {DIGITS} --expect 0123456789")), @"
    common cathode, bit order dp g f e d c b a
    all 10 entries show what was expected
    ");
    let run = folder.run("decode 3F 06 5B 4F 66 6D 6D 07 7F 6F --expect 0123456789");
    assert_eq!(run.status, 1);
    insta::assert_snapshot!(run.out, @"
    common cathode, bit order dp g f e d c b a
    1 of 10 entries is wrong:
        entry 6: 6D lacks segment e; 7D would be right
    ");
    insta::assert_snapshot!(folder.answer("decode 06 3F --expect 10"), @"
    common cathode, bit order dp g f e d c b a
    the text does not tell b c apart: their bits may be exchanged
    the text does not tell a d e f apart: their bits may be exchanged
    the text does not tell g dp apart: their bits may be exchanged
    all 2 entries show what was expected
    ");
}

#[test]
fn what_is_no_byte_is_told_with_its_place() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.complaint("decode 3F 065"), @"
    error: '065' has an odd number of hex digits; a byte has two
      ╭▸ bytes:1:4
      │
    1 │ 3F 065
      ╰╴   ━━━
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("decode 0x1FF"), @"
    error: 0x1FF is more than the 8 bits of an entry hold; the most is FF hex
      ╭▸ bytes:1:1
      │
    1 │ 0x1FF
      ╰╴━━━━━
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("decode zebra"), @"
    error: 'zebra' is not a number; write 3F, 0x3F, 0b00111111, $3F, 3Fh or H'3F'
      ╭▸ bytes:1:1
      │
    1 │ zebra
      ╰╴━━━━━
    [status 2]
    ");
    folder.write("empty.h", "");
    insta::assert_snapshot!(folder.complaint("decode --file empty.h"), @"
    error: there is no number in this text
      ╭▸ empty.h:1:1
      │
    1 │
      ╰╴━
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint(&format!("decode {DIGITS} --expect 012")), @"
    error: the expected text has 3 characters; the table has 10 entries
     │
     ╰ help: give as many characters as bytes
    [status 2]
    ");
    assert_eq!(folder.run("decode").status, 2);
    assert_eq!(folder.run("decode 3F --file empty.h").status, 2);
}

#[test]
fn a_guess_that_fits_nothing_is_no_answer() {
    let folder = Folder::empty();
    let run = folder.run("decode 12 34 56 78 9A BC DE F1 33 77 --guess");
    assert_eq!(run.status, 1);
    assert!(
        run.out.starts_with("none of the usual wirings fits these bytes")
            && run.out.contains("--expect TEXT"),
        "{}",
        run.out
    );
    assert!(!run.out.lines().any(|line| line.starts_with('>')), "{}", run.out);
    // Seven bits of a common anode, the eighth unused.
    let seven = folder.answer("decode 40 79 24 30 19 12 02 78 00 10 --expect 0123456789");
    assert!(
        seven.contains("common anode, bit order g f e d c b a") && seven.contains("all 10 entries"),
        "{seven}"
    );
}

/// Half the tables of this world have a 9 without segment d.
#[test]
fn other_forms_of_digits_are_known() {
    let folder = Folder::empty();
    assert!(folder.answer("decode 67").contains("'Q' or 'q' or '9'"));
    assert!(folder.answer("decode 27").contains("'7'"));
    let told = folder.run("decode 3F 06 67 --expect 019");
    assert_eq!(told.status, 0);
    insta::assert_snapshot!(told.out, @"
    common cathode, bit order dp g f e d c b a
    the text does not tell b c apart: their bits may be exchanged
    the text does not tell a d f apart: their bits may be exchanged
    all 3 entries show what was expected
    entry 2: 67 is another form of 9; ours is 6F
    ");
    let wrong = folder.run("decode 3F 06 67 --expect 016");
    assert!(wrong.status == 1 && !wrong.out.contains("another form"), "{}", wrong.out);
}
