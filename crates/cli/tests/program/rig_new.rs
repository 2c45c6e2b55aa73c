//! Beginning with a rig, and the pins of its controller.

use crate::folder::Folder;

#[test]
fn without_a_kind_they_are_listed() {
    insta::assert_snapshot!(Folder::empty().answer("rig new"), @"
    kind              what lies on the bench                              usually
    bare-digit        one bare digit with ten pins, each segment at a     1 digit
                      pin
    bare-digits       several bare digits that share their segment        4 digits
                      lines; four of them have twelve pins
    latched-digit     a bare digit behind a latch, 74hc573                1 digit
    shifted-digits    bare digits behind shift registers, a 74hc595 for   2 digits
                      each
    expander-digits   bare digits behind I2C port expanders, an mcp23017  2 digits
                      for two
    expander-letters  bare letters of fourteen segments behind I2C port   2 digits
                      expanders, an mcp23017 for each
    clock-module      four digits and a colon on two wires: the chip      4 digits
                      says tm1637
    button-panel      eight digits, eight lamps and eight buttons on      8 digits
                      three wires: the chip says tm1638
    i2c-digits        digits on I2C: the chip says ht16k33                4 digits
    i2c-letters       letters of fourteen segments on I2C: the chip says  4 digits
                      ht16k33
    chain-digits      digits on three wires in a chain: the chip says     8 digits
                      max7219
    chain-dots        modules of 8x8 dots in a chain: each chip says      32x8 dots
                      max7219
    i2c-dots          8x8 or 16x8 dots on I2C, or several side by side:   8x8 dots
                      the chip says ht16k33
    bare-dots         bare 8x8 dots with sixteen pins                     8x8 dots
    colour-panel      panels of dots in all colours, fed over a           64x32 dots
                      connector with sixteen pins
    ");
}

#[test]
fn a_rig_to_begin_with() {
    let folder = Folder::empty();
    let run = folder.run("rig new clock-module --controller rp2040");
    insta::assert_snapshot!(run.err, @"
    wrote rig.toml
    see what to connect: spare-tile rig wires
    ");
    insta::assert_snapshot!(folder.read("rig.toml"), @r#"
    # Keys that are left out have the values in their comments. Check it: spare-tile rig check

    [controller]
    part = "rp2040"
    # supply.volts = 5   # of the display
    # logic_volts = 3.3   # the high level at the controller's pins

    # Four digits and a colon on two wires: the chip says tm1637.
    [face.clock]
    kind = "seven-segment"
    digits = 4
    light = { colour = "red" }
    module = true   # display and chip on one board; false if you wire the chip yourself
    colons = [{ after = 2, node = "grid2.seg8" }]   # on the point of the second digit
    # common = "anode"   # the part drives no other

    [face.clock.drive]
    method = "tm1637"
    pins = { data = "GP1", clock = "GP0" }
    bus_volts = 5.0   # through a level converter, which a part at 5 V needs here
    # clock_hz = 100000   # of the bus
    # brightness = 4   # the part's step at power-up
    # segments = "dp g f e d c b a"   # which segment is on which bit, the highest first
    # digits = ["grid1", "grid2", "grid3", "grid4"]   # from left to right
    "#);
    assert!(folder.answer("rig check").ends_with("rig.toml: sound\n"));
    assert_eq!(folder.json("show 12:34")["reads"], "12:34");
    assert_eq!(folder.answer("rig new clock-module --controller rp2040 --out -"), folder.read("rig.toml"));
}

#[test]
fn a_file_that_is_there_stays() {
    let folder = Folder::empty();
    folder.write("rig.toml", "mine");
    let run = folder.run("rig new bare-digit");
    assert_eq!(run.status, 2);
    insta::assert_snapshot!(run.err, @"
    error: rig.toml exists: nothing was written
     │
     ╰ help: name another file with --out, or write over it: --force
    ");
    assert_eq!(folder.read("rig.toml"), "mine");
    folder.answer("rig new bare-digit --force");
    assert!(folder.read("rig.toml").contains("single-10"));
}

#[test]
fn what_cannot_be_begun_is_said() {
    let folder = Folder::empty();
    let told = |line: &str| {
        let run = folder.run(&format!("rig new {line}"));
        assert_eq!(run.status, 2, "{line}");
        run.err
    };
    insta::assert_snapshot!(told("clockmodule"), @"
    error: there is no kind 'clockmodule' to begin with
     │
     ╰ help: did you mean clock-module? list them: spare-tile rig new
    ");
    insta::assert_snapshot!(told("bare-dots -c attiny85"), @"
    error: it takes 16 free pins, and the attiny85 has 5
     │
     ╰ help: take another controller, or a kind with fewer lines: shifted-digits,
             chain-digits
    ");
    insta::assert_snapshot!(told("bare-digit -c rp2041"), @"
    error: there is no controller 'rp2041'
     │
     ╰ help: did you mean rp2040? the controllers: atmega328p, atmega168,
             atmega2560, atmega32u4, attiny84, attiny85, mcs51, pic16f54, rp2040,
             rp2350, esp32, esp32s3, esp32c3, esp8266, nrf51822, nrf52833, samd21,
             stm32f103, stm32f205, linux; or leave --controller out and spell yours
             out in the rig
    ");
    insta::assert_snapshot!(told("clock-module --digits 9"), @"
    error: clock-module has 6 digits at most
     │
     ╰ help: take fewer, or split the display into two faces
    ");
    insta::assert_snapshot!(told("chain-dots --digits 9"), @"
    error: chain-dots is counted in dots
     │
     ╰ help: give --size
    ");
    insta::assert_snapshot!(told("chain-dots --size 33"), @"
    error: invalid value '33' for '--size <WxH>': write dots across and down, such as 32x8

    For more information, try '--help'.
    ");
    insta::assert_snapshot!(told("clock-module --pins strobe=GP1"), @"
    error: clock-module has no line 'strobe'; its lines are clock, data
     │
     ╰ help: such as clock=PIN
    ");
    insta::assert_snapshot!(told("clock-module -c rp2040 --pins data=GP99"), @"
    error: no rig of clock-module on the rp2040 is sound: the controller has no pin
           GP99; its pins are GP0 to GP29, or a board's GPIO0 to GPIO29
     │
     ╰ help: take another controller, or another kind: spare-tile rig new lists
             them
    ");
    assert_eq!(folder.names(), Vec::<String>::new());
}

#[test]
fn a_face_more_leaves_the_file_as_it_was() {
    let folder = Folder::landing();
    let before = folder.read("desk.toml");
    let run = folder.run("rig add i2c-digits --name tide --rig desk.toml");
    insta::assert_snapshot!(run.err, @"added tide to desk.toml: clock GPIO22, data GPIO21");
    let after = folder.read("desk.toml");
    insta::assert_snapshot!(after.strip_prefix(&before).unwrap(), @r#"
    # Digits on I2C: the chip says ht16k33.
    [face.tide]
    kind = "seven-segment"
    digits = 4
    light = { colour = "red" }
    module = true   # display and chip on one board; false if you wire the chip yourself
    # colons = [{ after = 2, node = "com4.row1" }]   # where the module has one
    # common = "cathode"   # the part drives no other

    [face.tide.drive]
    method = "ht16k33"
    pins = { data = "GPIO21", clock = "GPIO22" }
    addresses = [0x72]
    bus_volts = 5.0   # through a level converter, which a part at 5 V needs here
    # clock_hz = 400000   # of the bus
    # brightness = 8   # the part's step at power-up
    # blink_hz = 0   # 0.5, 1 or 2 blink
    # segments = "dp g f e d c b a"   # which segment is on which bit, the highest first
    # digits = ["com0", "com1", "com2", "com3"]   # from left to right
    "#);
    assert!(folder.answer("rig check --rig desk.toml").ends_with("desk.toml: sound\n"));
    // Another file, and standard output.
    folder.write("desk.toml", &before);
    assert_eq!(folder.answer("rig add i2c-digits --name tide --rig desk.toml --out -"), after);
    folder.answer("rig add i2c-digits --name tide --rig desk.toml --out both.toml");
    assert_eq!((folder.read("desk.toml"), folder.read("both.toml")), (before, after));
    let told = |line: &str| folder.run(line).err;
    insta::assert_snapshot!(told("rig add clock-module --name desk --rig desk.toml"), @"
    error: the rig has a face 'desk' already
     │
     ╰ help: give another --name, or none: then one is made
    ");
    insta::assert_snapshot!(told("rig add i2c-digits --digits 64 --rig desk.toml"), @"
    error: the bus has 6 addresses left for such parts, and i2c-digits takes 8
     │
     ╰ help: give it a bus of its own: --pins clock=PIN,data=PIN, or take fewer
             digits
    ");
    folder.write("none.toml", "[face.x]\n");
    insta::assert_snapshot!(told("rig add clock-module --rig none.toml"), @"
    error: the rig is not sound as it is: the key 'kind' is missing
     │
     ╰ help: see its errors: spare-tile rig check
    ");
}

#[test]
fn the_pins_of_a_controller() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.answer("rig pins --rig berth.toml"), @"
    atmega328p: 5 V at its pins, 20 mA a pin, 40 mA a pin at the absolute most, 200
        mA in all, 32 KiB of flash, 2 KiB of RAM

    pin  also  can be                     taken by  better not: it
    PD0  D0    port PD bit 0                        is the serial port through which
                                                    programs are uploaded
    PD1  D1    port PD bit 1                        is the serial port through which
                                                    programs are uploaded
    PD2  D2    port PD bit 2              berth a
    PD3  D3    port PD bit 3              berth b
    PD4  D4    port PD bit 4              berth c
    PD5  D5    port PD bit 5              berth d
    PD6  D6    port PD bit 6              berth e
    PD7  D7    port PD bit 7              berth f
    PB0  D8    port PB bit 0              berth g
    PB1  D9    port PB bit 1              berth dp
    PB2  D10   SPI select, port PB bit 2
    PB3  D11   SPI data, port PB bit 3
    PB4  D12   port PB bit 4
    PB5  D13   SPI clock, port PB bit 5
    PC0  A0    port PC bit 0
    PC1  A1    port PC bit 1
    PC2  A2    port PC bit 2
    PC3  A3    port PC bit 3
    PC4  A4    I2C data, port PC bit 4
    PC5  A5    I2C clock, port PC bit 5
    PB6        port PB bit 6                        carries the crystal on most
                                                    boards
    PB7        port PB bit 7                        carries the crystal on most
                                                    boards
    PC6        port PC bit 6                        resets the controller

    8 pins taken, 10 left
    ");
    let left = folder.json("rig pins --rig desk.toml --left");
    let left: Vec<_> = left.as_array().unwrap().iter().map(|pin| pin["pin"].as_str().unwrap()).collect();
    // Neither taken nor for flash, start-up or programs.
    for pin in ["GPIO25", "GPIO32", "GPIO6", "GPIO0", "GPIO1", "GPIO34"] {
        assert!(!left.contains(&pin), "{pin}");
    }
    assert!(left.contains(&"GPIO4"));
}

/// An unknown controller is described by the keys of the known ones.
#[test]
fn a_controller_of_ones_own() {
    let folder = Folder::landing();
    let own = "[controller]\npart = \"quay-board\"\nlogic_volts = 3.3\nlimits = { pin = 8, total = 60 }\n\
               pins = [{ names = \"X1-X4\", also = [\"1-4\"] }]\nspi = [{ clock = \"X1\", data = \"X2\", select = \"X3\" }]\n\
               reserved = { serial = [\"X4\"] }\n";
    let face = "[face.desk]\nkind = \"seven-segment\"\ndigits = 8\n[face.desk.drive]\nmethod = \"max7219\"\nbus_volts = 5.0\n";
    folder.write("own.toml", format!("{own}{face}pins = {{ clock = \"X1\", data = 2, select = \"X3\" }}\n"));
    insta::assert_snapshot!(folder.answer("rig pins --rig own.toml"), @"
    quay-board: 3.3 V at its pins, 8 mA a pin, 60 mA in all

    pin  also  can be      taken by     better not: it
    X1   1     SPI clock   desk clock
    X2   2     SPI data    desk data
    X3   3     SPI select  desk select
    X4   4                              is the serial port through which programs
                                        are uploaded

    3 pins taken, 0 left
    ");
    folder.write(
        "own.toml",
        format!("{own}{face}pins = {{ clock = \"X1\", data = \"X4\", select = \"X9\" }}\n"),
    );
    insta::assert_snapshot!(folder.run("rig check --rig own.toml").out, @r#"
    warning: pin X4 is the serial port through which programs are uploaded
       ╭▸ own.toml:14:31
       │
    14 │ pins = { clock = "X1", data = "X4", select = "X9" }
       │                               ━━━━
       │
       ╰ help: choose another pin, or take the wire off while a program is uploaded

    error: the controller has no pin X9; its pins are X1 to X4, or a board's 1 to 4
       ╭▸ own.toml:14:46
       │
    14 │ pins = { clock = "X1", data = "X4", select = "X9" }
       │                                              ━━━━
       │
       ╰ help: write the pin as its data sheet or its board names it

    own.toml: not sound: 1 error, 1 warning
    "#);
    let unknown = own.replace("\npins", "\n# pins");
    folder.write("own.toml", format!("{unknown}{face}pins = {{ clock = 1, data = 2, select = 3 }}\n"));
    assert!(folder.run("rig check --rig own.toml").out.contains("unknown controller 'quay-board'"));
}

#[test]
fn a_controller_with_more_pins_than_any_has_is_refused() {
    let folder = Folder::empty();
    let pins = "pins = [{ names = \"X1-X99999999999\" }]\nreserved = { flash = [\"X1-X88888888888\"] }\n";
    folder.write("own.toml", format!("[controller]\npart = \"quay-board\"\n{pins}"));
    let out = folder.run("rig check --rig own.toml").out;
    assert!(out.contains("513 pins or more; 512 is the most"), "{out}");
}

/// The pins that are chosen are pins that programs can use.
#[test]
fn a_new_rig_for_a_board_can_be_programmed() {
    let folder = Folder::empty();
    for controller in ["atmega32u4", "atmega2560", "atmega328p"] {
        for kind in
            ["bare-digits", "chain-dots", "shifted-digits", "bare-dots", "latched-digit", "button-panel"]
        {
            folder.answer(&format!("rig new {kind} -c {controller} --out n.toml --force --quiet"));
            let run = folder.run("rig check --target setup-loop --rig n.toml");
            assert_eq!(run.status, 0, "{kind} {controller}: {}{}", run.out, run.err);
        }
    }
    // All ports of the largest are known by bit.
    let source = folder.answer("rig new bare-digit -c atmega2560 --pins a=PL0,b=PL1,c=PL2 --out -");
    folder.write("l.toml", source);
    folder.answer("rig check --target avr --rig l.toml");
}
