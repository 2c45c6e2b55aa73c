use crate::folder::Folder;

#[test]
fn a_row_a_character() {
    insta::assert_snapshot!(Folder::empty().answer("encode 3.14"), @"
    seven segments, common cathode: 1 lights
                   lit                dp g f e d c b a   hex
        _
        _|    '3.' a b c d g dp        1 1 0 0 1 1 1 1   CF
        _|.

         |    '1'  b c                 0 0 0 0 0 1 1 0   06
         |

       |_|    '4'  b c f g             0 1 1 0 0 1 1 0   66
         |
    ");
}

#[test]
fn the_tables_everyone_can_check_against() {
    let encode = |line: &str| Folder::empty().answer(&format!("encode --plain {line}")).trim_end().to_owned();
    assert_eq!(encode("0123456789"), "3F 06 5B 4F 66 6D 7D 07 7F 6F");
    assert_eq!(encode("0123456789 --common anode"), "C0 F9 A4 B0 99 92 82 F8 80 90");
    assert_eq!(encode("0123456789 --bit-order \"a b c d e f g dp\""), "FC 60 DA F2 66 B6 BE E0 FE F6");
    assert_eq!(encode("\"AbCdEF- \""), "77 7C 39 5E 79 71 40 00");
    assert_eq!(encode("-- -0.4"), "40 BF 66");
    assert_eq!(encode("-0.4 --base dec"), "64 191 102");
    assert_eq!(encode("8 --base bin"), "01111111");
}

#[test]
fn a_rig_gives_style_polarity_and_order() {
    let folder = Folder::landing();
    assert_eq!(folder.answer("encode 2 --plain --rig berth.toml"), "A4\n");
    assert_eq!(folder.answer("encode 2 --plain --rig berth.toml --common cathode"), "5B\n");
    assert_eq!(folder.answer("encode 2 --plain --rig landing.toml --face desk"), "6D\n");
}

#[test]
fn json_has_one_shape() {
    insta::assert_snapshot!(Folder::empty().answer("encode 7. --json --common anode"), @r#"
    {
      "style": "seven",
      "common": "anode",
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
      "characters": [
        {
          "character": "7",
          "point": true,
          "position": 0,
          "segments": [
            "a",
            "b",
            "c",
            "dp"
          ],
          "bits": "01111000",
          "bytes": [
            "78"
          ]
        }
      ]
    }
    "#);
}

#[test]
fn what_cannot_be_shown_is_named() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.complaint("encode KNOT"), @"
    error: seven segments cannot show 'K', character 1 of the text
      ╭▸ text:1:1
      │
    1 │ KNOT
      │ ━
      │
      ╰ help: see what each character lights: spare-tile encode TEXT
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("encode 2€"), @"
    error: seven segments cannot show '€', character 2 of the text
      ╭▸ text:1:2
      │
    1 │ 2€
      │  ━
      │
      ╰ help: see what each character lights: spare-tile encode TEXT
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("encode 8 --bit-order \"a b c\""), @"
    error: --bit-order: segment d is missing from the bit order; write each of a b c d e f g dp once
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("encode 8 --style eight"), @"
    error: invalid value 'eight' for '--style <STYLE>': the styles are seven

    For more information, try '--help'.
    [status 2]
    ");
}
