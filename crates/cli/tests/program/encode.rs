use crate::folder::Folder;

#[test]
fn a_row_a_character() {
    insta::assert_snapshot!(Folder::empty().answer("encode 3.14"), @"
    seven segments, common cathode: a 1 lights
                   lit               dp g f e d c b a   hex   read
        _
        _|    '3.' a b c d g dp       1 1 0 0 1 1 1 1   CF    exact
        _|.

         |    '1'  b c                0 0 0 0 0 1 1 0   06    exact; like I i l |
         |

       |_|    '4'  b c f g            0 1 1 0 0 1 1 0   66    exact; like Y
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
    // A 1 in the memory of a tm1637 lights, though its digits have a common anode.
    for (rig, face, byte) in [
        ("landing", "desk", "6D"),
        ("desk", "clock", "5B"),
        ("desk", "desk", "5B"),
        ("quay", "minutes", "5B"),
        ("quay", "crew", "A4"),
        ("quay", "tide", "A4"),
    ] {
        let encoded = folder.answer(&format!("encode 2 --plain --rig {rig}.toml --face {face}"));
        assert_eq!(encoded, format!("{byte}\n"), "{rig} {face}");
        // That byte is what goes out for it, and what comes back from decoding it.
        let sent = folder.answer(&format!("bytes 2 --rig {rig}.toml --face {face}"));
        assert!(sent.contains(byte), "{sent}");
        let decoded = folder.answer(&format!("decode {byte} --rig {rig}.toml --face {face}"));
        assert!(decoded.contains("'2'"), "{decoded}");
    }
    assert_eq!(folder.answer("encode 2 --plain --rig quay.toml --face crew --common cathode"), "5B\n");
}

/// Segments on two ports make a word, written as it is sent: the first port first.
#[test]
fn segments_on_two_ports_have_a_byte_each() {
    let folder = Folder::landing();
    for digit in '0'..='9' {
        let sent = folder.json(&format!("bytes {digit} --rig berth.toml"));
        let sent = sent.as_array().unwrap().iter().find(|sent| sent["role"] == "frame").unwrap();
        let sent: Vec<_> =
            sent["bytes"].as_array().unwrap().iter().map(|byte| byte.as_str().unwrap()).collect();
        let encoded = folder.answer(&format!("encode {digit} --plain --rig berth.toml"));
        assert_eq!((sent.len(), sent.join(" ")), (2, encoded.trim().to_owned()), "{digit}");
    }
}

#[test]
fn a_wiring_without_a_byte_is_refused_with_the_reason() {
    let folder = Folder::landing();
    // Digits whose segments stand in one another's bytes.
    let ports = |digit: [&str; 2]| {
        let names = ["a", "b", "c", "d", "e", "f", "g"].iter().zip(0..);
        let pin =
            |bit: usize| format!("P{}{}", digit[bit / 4], bit % 4 + if digit[0] == "B" { 0 } else { 4 });
        names.map(|(name, bit)| format!("{name} = \"{}\"", pin(bit))).collect::<Vec<_>>().join(", ")
    };
    let crossed = format!(
        "[controller]\npart = \"atmega2560\"\n[face.crossed]\nkind = \"seven-segment\"\ndigits = 2\ncommon = \"cathode\"\n\
         [face.crossed.drive]\nmethod = \"static\"\nsegments = [{{ {} }}, {{ {} }}]\n",
        ports(["B", "C"]),
        ports(["C", "B"])
    );
    folder.write("crossed.toml", crossed);
    insta::assert_snapshot!(folder.complaint("encode 2 --rig crossed.toml"), @"
    error: face crossed has no byte for a digit: its segments are spread over the
           bits of several bytes, which have other lights too, or are too many
     │
     ╰ help: see what is sent: spare-tile bytes TEXT; or give --bit-order and
             --common yourself
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("table --rig gauge.toml"), @"
    error: face gauge has no byte for a digit: its segments are at single pins,
           which are bits of no byte
     │
     ╰ help: see what is sent: spare-tile bytes TEXT; or give --bit-order and
             --common yourself
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("decode 3F --rig beacon.toml"), @"
    error: face beacon has no byte for a digit: it has dots and no digits
     │
     ╰ help: pick a face with digits
    [status 2]
    ");
    let own = "encode 2 --plain --rig berth.toml --common anode --bit-order \"dp g f e d c b a\"";
    assert_eq!(folder.answer(own), "A4\n");
}

#[test]
fn digits_that_are_wired_differently_are_asked_for_singly() {
    let folder = Folder::landing();
    let crossed = "[face.pair]\nkind = \"seven-segment\"\ndigits = 2\ncommon = \"anode\"\n[face.pair.drive]\n\
                   method = \"static\"\nsegments = [{ a = \"P1.0\", b = \"P1.1\", c = \"P1.2\", d = \"P1.3\", \
                   e = \"P1.4\", f = \"P1.5\", g = \"P1.6\", dp = \"P1.7\" }, { a = \"P2.7\", b = \"P2.6\", \
                   c = \"P2.5\", d = \"P2.4\", e = \"P2.3\", f = \"P2.2\", g = \"P2.1\", dp = \"P2.0\" }]\n";
    folder.write("pair.toml", crossed);
    insta::assert_snapshot!(folder.complaint("encode 2 --rig pair.toml"), @"
    error: the digits of face pair are wired differently: 0 and 1
     │
     ╰ help: pick one, such as --of-digit 0
    [status 2]
    ");
    assert_eq!(folder.answer("encode 2 --plain --rig pair.toml --of-digit 0"), "A4\n");
    assert_eq!(folder.answer("encode 2 --plain --rig pair.toml --of-digit 1"), "25\n");
    assert!(folder.answer("bytes 22 --rig pair.toml").contains("A4 25"));
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
          ],
          "grade": "exact",
          "mistaken_for": []
        }
      ]
    }
    "#);
}

#[test]
fn what_may_be_misread_is_said_and_refused_when_strict() {
    let folder = Folder::empty();
    let run = folder.run("encode --plain \"KNOT SOS\"");
    assert_eq!((run.status, run.out.as_str()), (0, "75 54 3F 78 00 6D 3F 6D\n"));
    insta::assert_snapshot!(run.err, @"
    warning: seven segments have no form for 'K'; a stand-in is shown
      ╭▸ text:1:1
      │
    1 │ KNOT SOS
      │ ━
      │
      ╰ help: choose another word, or draw it yourself: {a d g} in the text, or
              glyphs in the rig
    warning: 'SOS' can be read as the number 505
      ╭▸ text:1:6
      │
    1 │ KNOT SOS
      │      ━━━
      │
      ╰ help: choose another word, or other letter cases
    ");
    insta::assert_snapshot!(folder.complaint("encode SOS --strict"), @"
    error: 'SOS' can be read as the number 505
      ╭▸ text:1:1
      │
    1 │ SOS
      │ ━━━
      │
      ╰ help: choose another word, or other letter cases
    [status 2]
    ");
    assert_eq!(folder.run("encode SOS --strict --style fourteen").status, 0, "these differ there");
}

#[test]
fn numbers_get_their_form() {
    let encode =
        |line: &str| Folder::empty().answer(&format!("encode --plain --number {line}")).trim_end().to_owned();
    let text = |line: &str| Folder::empty().answer(&format!("encode --plain {line}")).trim_end().to_owned();
    assert_eq!(encode("-0.04 --places 1"), text("0.0"));
    assert_eq!(encode("4.25 --places 1 --unit m"), text("4.3m"));
    assert_eq!(encode("31 --radix hex --zeros --digits 4"), text("001F"));
    assert_eq!(encode("12345 --engineering --plus"), text("+12.3k"));
    assert_eq!(encode("9.91 --most 9.9 --over HI"), text("HI"));
    assert_eq!(encode("9.91 --most 9.9 --digits 3"), text("-- ---"));
    // No place is dropped that was given, unless --places says so.
    assert_eq!(encode("3.7"), text("3.7"));
    assert_eq!(text("3.7 --radix decimal"), text("3.7"));
    assert_eq!(encode("999.5 --engineering --places 2"), text("999.50"));
    assert_eq!(encode("0xBEEF --radix hex"), text("BEEF"));
    assert_eq!(encode("1234 --thousands --zeros --digits 8"), text("00.001.234"));
    insta::assert_snapshot!(Folder::empty().complaint("encode 31 --radix hex --places 1"), @"
    error: only a decimal number has places; a base other than ten has none
     │
     ╰ help: leave out --places, or write it in decimal
    [status 2]
    ");
    insta::assert_snapshot!(Folder::empty().complaint("encode --number 12345 --digits 4"), @"
    error: 12345 takes 5 digits; there are 4
     │
     ╰ help: give it more digits, or --engineering
    [status 2]
    ");
    insta::assert_snapshot!(Folder::empty().complaint("encode --number tEAL"), @"
    error: 'tEAL' is not a number; write digits with at most one point, such as 48,
           -0.4 or 0x1F, 27 digits at most
    [status 2]
    ");
}

#[test]
fn wide_styles_and_patterns_in_braces() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.answer("encode \"K{h m}.\" --style fourteen"), @r"
    fourteen segments, common cathode: a 1 lights
                     dp m l k j i h g2 g1 f e d c b a   hex

       |  /
        -       'K'   0 1 0 0 1 0 0  0  1 1 1 0 0 0 0   24 70
       |  \          e f g1 j m; exact


        \
                      1 1 0 0 0 0 1  0  0 0 0 0 0 0 0   61 00
          \          h m dp; as written
            o
    ");
    insta::assert_snapshot!(folder.answer("encode 0 --style sixteen --plain"), @"00 30 FF");
}

#[test]
fn what_cannot_be_shown_is_named() {
    let folder = Folder::empty();
    insta::assert_snapshot!(folder.complaint("encode \"tEAL {a x}\""), @"
    error: there is no segment 'x'; seven segments are a b c d e f g dp
      ╭▸ text:1:6
      │
    1 │ tEAL {a x}
      │      ━━━
      │
      ╰ help: write segments between braces, such as {a d g}, and {{ or }} for a
              brace itself
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
    error: --bit-order: segment d is missing from the bit order; write each of a b c
           d e f g dp once
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("encode 8 --style eight"), @"
    error: invalid value 'eight' for '--style <STYLE>': the styles are seven, fourteen, sixteen

    For more information, try '--help'.
    [status 2]
    ");
}

/// The byte that is printed for a rig is the byte that is sent for it, whatever drives the digit and however it is wired.
#[test]
fn the_byte_that_is_printed_is_the_byte_that_is_sent() {
    let folder = Folder::empty();
    let drives = [
        ("max7219", "cathode", "pins = { data = 11, clock = 13, select = 10 }"),
        ("tm1637", "anode", "pins = { data = 11, clock = 13 }"),
        ("tm1638", "cathode", "pins = { data = 11, clock = 13, strobe = 10 }"),
        ("shifted", "anode", "pins = { data = 11, clock = 13, latch = 10 }"),
        ("shifted", "cathode", "pins = { data = 11, clock = 13, latch = 10 }"),
        ("shifted", "cathode", "pins = { data = 11, clock = 13, latch = 10 }\nsegment_switch = \"pnp\""),
        (
            "latched",
            "anode",
            "data = [2, 3, 4, 5, 6, 7, 8, 9]\nlatches = [{ latch_enable = 10, output_enable = \"low\" }]",
        ),
        (
            "expander",
            "anode",
            "part = \"pcf8574\"\npins = { data = \"A4\", clock = \"A5\" }\naddresses = [0x20]",
        ),
    ];
    for (method, common, drive) in drives {
        for order in ["dp g f e d c b a", "a b c d e f g dp", "c g dp a f b e d"] {
            folder.write(
                "rig.toml",
                format!(
                    "[controller]\npart = \"atmega328p\"\n[face.wait]\nkind = \"seven-segment\"\ndigits = 1\n\
                     common = \"{common}\"\n[face.wait.drive]\nmethod = \"{method}\"\n{drive}\nsegments = \"{order}\"\n"
                ),
            );
            for text in ["2", "5.", "F"] {
                let printed = folder.answer(&format!("encode {text} --rig rig.toml --plain"));
                let ops = folder.json(&format!("bytes {text} --rig rig.toml"));
                let frame = ops.as_array().unwrap().iter().rfind(|op| op["role"] == "frame").unwrap();
                let last = frame["bytes"].as_array().unwrap().last().unwrap().as_str().unwrap();
                // The data of a latch is on pins of several ports, whose values the bytes are.
                let data =
                    frame["note"].as_str().unwrap().strip_prefix("data ").and_then(|note| note.get(..2));
                let sent = data.unwrap_or(last);
                assert_eq!(printed.trim(), sent, "{text} on {method}, {common} {order}: {frame}");
            }
        }
    }
}
