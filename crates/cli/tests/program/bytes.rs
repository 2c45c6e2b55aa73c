use crate::folder::Folder;

#[test]
fn power_up_and_frame_in_words() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.answer("bytes -0.4 --rig landing.toml --face gauge"), @"
    gauge: 1 max7219, clock 1 MHz; clock GP10, data GP11, select GP9
            at     role      bytes  says
           0.0 us  power-up  0F 00  display test: off
          17.0 us  power-up  0C 00  shutdown: on, the display is dark
          34.0 us  power-up  09 00  decode mode: none, data bits are segments
          51.0 us  power-up  0B 03  scan limit: digits 0-3
          68.0 us  power-up  0A 08  intensity: 8, lit 17/32 of the time
          85.0 us  power-up  01 00  digit 0: blank
         102.0 us  power-up  02 00  digit 1: blank
         119.0 us  power-up  03 00  digit 2: blank
         136.0 us  power-up  04 00  digit 3: blank
         153.0 us  power-up  05 00  digit 4: blank
         170.0 us  power-up  06 00  digit 5: blank
         187.0 us  power-up  07 00  digit 6: blank
         204.0 us  power-up  08 00  digit 7: blank
         221.0 us  power-up  0C 01  shutdown: off, the part runs
         238.0 us  frame     01 00  digit 0: blank
         255.0 us  frame     02 33  digit 1: b c f g
         272.0 us  frame     03 FE  digit 2: dp a b c d e f
         289.0 us  frame     04 01  digit 3: g
    ");
    insta::assert_snapshot!(folder.answer("bytes 2 --rig berth.toml --base bin"), @"
    berth: 8 controller pins on ports PB and PD, static, common anode; a PD2, b PD3, c PD4, d PD5, e PD6, f PD7, g PB0, dp PB1
            at     role      bytes              says
           0.0 us  power-up  11111111 11111111  all dark
           2.0 us  frame     11111110 10010011  lit: a b d e g
    ");
}

#[test]
fn a_chain_says_which_part_gets_what() {
    let folder = Folder::empty();
    folder.write(
        "rig.toml",
        include_str!("../../../../demo/landing.toml").replace("digits = 4", "digits = 10"),
    );
    let answer = folder.answer("bytes \"bErtH 2 48\" --face gauge");
    let last: Vec<_> = answer.lines().rev().take(2).collect();
    insta::assert_snapshot!(last.join("\n"), @"
    693.0 us  frame     08 00 08 05  part 0: digit 7: e g; part 1: digit 7: blank
    660.0 us  frame     07 00 07 0F  part 0: digit 6: d e f g; part 1: digit 6: blank
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
