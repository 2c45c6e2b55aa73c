use crate::folder::Folder;

#[test]
fn power_up_and_frame_in_words() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.answer("bytes -0.4 --rig landing.toml --face gauge"), @"
    gauge: 1 max7219, clock 1 MHz; clock GP10, data GP11, select GP9
            at     role        bytes  says
           0.0 us  power-up    0F 00  display test: off
          17.0 us  power-up    0C 00  shutdown: on, the display is dark
          34.0 us  power-up    09 00  decode mode: none, data bits are segments
          51.0 us  power-up    0B 03  scan limit: digit lines 0-3
          68.0 us  power-up    0A 08  intensity: 8, lit 17/32 of the time
          85.0 us  power-up    01 00  digit 3: blank
         102.0 us  power-up    02 00  digit 2: blank
         119.0 us  power-up    03 00  digit 1: blank
         136.0 us  power-up    04 00  digit 0: blank
         153.0 us  power-up    05 00  digit line 4: blank
         170.0 us  power-up    06 00  digit line 5: blank
         187.0 us  power-up    07 00  digit line 6: blank
         204.0 us  power-up    08 00  digit line 7: blank
         221.0 us  power-up    0C 01  shutdown: off, the part runs
         238.0 us  frame       02 33  digit 2: 4, b c f g
         255.0 us  frame       03 FE  digit 1: 0., a b c d e f dp
         272.0 us  frame       04 01  digit 0: -, g
    ");
    insta::assert_snapshot!(folder.answer("bytes 2 --rig berth.toml --base bin"), @"
    berth: 8 controller pins on ports PB and PD, static, common anode; a PD2, b PD3,
        c PD4, d PD5, e PD6, f PD7, g PB0, dp PB1
            at     role        bytes              says
           0.0 us  power-up    11111111 11111111  all dark
           2.0 us  frame       11111110 10010011  lit: a b d e g
    ");
}

#[test]
fn a_chain_says_which_part_gets_what() {
    let folder = Folder::empty();
    folder.write("rig.toml", include_str!("../../demo/landing.toml").replace("digits = 4", "digits = 10"));
    let answer = folder.answer("bytes \"bErtH 2 48\" --face gauge");
    let last: Vec<_> = answer.lines().rev().take(2).collect();
    insta::assert_snapshot!(last.join("\n"), @"
    627.0 us  frame       08 00 08 05  digit 2: r, e g
    594.0 us  frame       07 00 07 0F  digit 3: t, d e f g
    ");
}

#[test]
fn json_is_a_list_of_operations() {
    let json = Folder::landing().json("bytes 2 --rig berth.toml");
    insta::assert_snapshot!(serde_json::to_string_pretty(&json).unwrap(), @r#"
    [
      {
        "at_us": 0.0,
        "bus": "pins",
        "bytes": [
          "FF",
          "FF"
        ],
        "face": "berth",
        "note": "all dark",
        "role": "power-up"
      },
      {
        "at_us": 2.0,
        "bus": "pins",
        "bytes": [
          "FE",
          "93"
        ],
        "face": "berth",
        "note": "lit: a b d e g",
        "role": "frame"
      }
    ]
    "#);
}

#[test]
fn the_dump_has_a_scope_for_the_face_and_a_wire_for_each_role() {
    let folder = Folder::landing();
    folder.answer("bytes 48 --rig landing.toml --face desk --vcd desk.vcd");
    let dump = folder.read("desk.vcd");
    let head: Vec<_> = dump.lines().skip(1).take_while(|line| !line.starts_with("#1")).collect();
    insta::assert_snapshot!(head.join("\n"), @r#"
    $timescale 1ns $end
    $scope module desk $end
    $var wire 1 ! clock $end
    $var wire 1 " data $end
    $var wire 1 # select $end
    $upscope $end
    $enddefinitions $end
    #0
    $dumpvars
    0!
    0"
    1#
    $end
    0#
    #500
    1!
    "#);
}

#[test]
fn an_update_is_as_short_as_the_part_allows() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.answer("bytes 08:00 --from 07:59 --rig desk.toml --face clock"), @"
    clock: 1 tm1637, clock 100 kHz; clock GPIO32, data GPIO33
            at     role        bytes        says
           0.0 us  frame       C1 FF 3F 3F  digit 1: 8, a b c d e f g; digit 2: 0, a
                                            b c d e f; digit 3: 0, a b c d e f;
                                            colon2 on
    4 bytes in 1 transfer
    ");
    insta::assert_snapshot!(folder.answer("bytes 48 --from 48 --rig desk.toml --face desk"), @"
    desk: 1 tm1638, clock 500 kHz; clock GPIO26, data GPIO27, strobe GPIO25
            at     role        bytes  says
    0 bytes in 0 transfers
    ");
    let bits = folder.answer("bytes 9 --from 8 --rig desk.toml --face clock --bits");
    insta::assert_snapshot!(bits.lines().take(8).collect::<Vec<_>>().join("\n"), @"
    clock: 1 tm1637, clock 100 kHz; clock GPIO32, data GPIO33
            at     role        bytes  says
           0.0 us  frame       C0 6F  digit 0: 9, a b c d f g
          0.00 us      clock 1  data 0
          5.00 us      clock 0  data 0
         10.00 us      clock 1  data 0  C0 bit 0
         15.00 us      clock 0  data 0
         20.00 us      clock 1  data 0  C0 bit 1
    ");
}

#[test]
fn every_step_of_every_part_is_explained() {
    let folder = Folder::landing();
    for (face, count) in [("desk", 8), ("clock", 6), ("sign", 16)] {
        let list = folder.json(&format!(
            "bytes 8 --rig desk.toml --face {face} --then brightness,off,on,refresh,buttons,test --at-brightness 50%"
        ));
        let list = list.as_array().unwrap();
        assert!(list.len() >= count, "{face}");
        for op in list {
            let note = op["note"].as_str().unwrap();
            assert!(!note.is_empty() && !note.contains("no command") && note != "nothing", "{face}: {note}");
        }
    }
    insta::assert_snapshot!(folder.answer("bytes 8 --from 8 --rig desk.toml --face desk --then brightness,off,on,refresh,buttons"), @"
    desk: 1 tm1638, clock 500 kHz; clock GPIO26, data GPIO27, strobe GPIO25
            at     role        bytes                     says
           0.0 us  brightness  8F                        display on, brightness 7: a
                                                         pulse of 14/16
          18.0 us  off         80                        display off
          36.0 us  on          8F                        display on, brightness 7: a
                                                         pulse of 14/16
          54.0 us  refresh     40                        write, the address counts
                                                         up
          72.0 us  refresh     C0 7F 00 00 00 00 00 00   digit 0: 8, a b c d e f g;
                               00 00 00 00 00 00 00 00   digits 1-7: blank
                               00
         346.0 us  refresh     8F                        display on, brightness 7: a
                                                         pulse of 14/16
         364.0 us  buttons     42 > 00 00 00 00          read the buttons
         446.0 us  buttons     40                        write, the address counts
                                                         up
    24 bytes in 8 transfers
    no button is down
    ");
}

#[test]
fn the_list_as_source() {
    let folder = Folder::landing();
    for language in ["c", "rust", "micropython"] {
        let source = folder
            .answer(&format!("bytes 07:58 --rig desk.toml --face clock --then buttons --as {language}"));
        insta::assert_snapshot!(format!("ops-{language}"), source);
    }
    let json = folder.answer("bytes 9 --from 8 --rig desk.toml --face clock --as json");
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    assert_eq!(json[0]["bytes"], serde_json::json!([0xC0, 0x6F]));
    insta::assert_snapshot!(folder.complaint("bytes 8 --rig desk.toml --face clock --at-brightness 9"), @"
    error: brightness 9 is beyond the steps of the tm1637
     │
     ╰ help: use 0 to 7
    [status 2]
    ");
    insta::assert_snapshot!(folder.complaint("bytes 8 --rig desk.toml --face clock --at-brightness 150%"), @"
    error: invalid value '150%' for '--at-brightness <N>': a share of light is from 0% to 100%

    For more information, try '--help'.
    [status 2]
    ");
}

#[test]
fn keys_that_are_pressed_are_read() {
    let folder = Folder::landing();
    let desk = "bytes 8 --from 8 --rig desk.toml --face desk --then buttons";
    let answer = folder.answer(&format!("{desk} --press call2,call7"));
    assert!(answer.ends_with("down: call2, call7\n"), "{answer}");
    assert!(folder.answer(desk).ends_with("no button is down\n"));
    insta::assert_snapshot!(folder.complaint(&format!("{desk} --press call9")), @"
    error: face desk has no button 'call9'
     │
     ╰ help: its buttons: call1, call2, call3, call4, call5, call6, call7, call8
    [status 2]
    ");
}
