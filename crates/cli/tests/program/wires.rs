use crate::folder::Folder;

#[test]
fn a_bare_display_pin_by_pin() {
    insta::assert_snapshot!(Folder::landing().answer("rig wires --rig gauge.toml"), @"
    gauge: 4 seven-segment digits, common cathode

    display pin  function    through                                     to rp2040
    1            segment e   220 ohm                                     GP6
    2            segment d   220 ohm                                     GP5
    3            segment dp  220 ohm                                     GP9
    4            segment c   220 ohm                                     GP4
    5            segment g   220 ohm                                     GP8
    6            digit 3     npn switch to ground, its base through 1.2  GP13
                             kilohm
    7            segment b   220 ohm                                     GP3
    8            digit 2     npn switch to ground, its base through 1.2  GP12
                             kilohm
    9            digit 1     npn switch to ground, its base through 1.2  GP11
                             kilohm
    10           segment f   220 ohm                                     GP7
    11           segment a   220 ohm                                     GP2
    12           digit 0     npn switch to ground, its base through 1.2  GP10
                             kilohm

    mind: a pin of the rp2040 gives 4 mA for sure after a reset, and 5.5 mA are
        needed: the program must set its drive strength
    ");
}

#[test]
fn a_display_behind_registers_with_their_control_pins() {
    insta::assert_snapshot!(Folder::landing().answer("rig wires --rig quay.toml --face minutes"), @"
    minutes: 2 seven-segment digits, common cathode

    display pin  function               through  to 74hc595
    -            digit 0 a              470 ohm  part1.QA (15)
    -            digit 0 b              470 ohm  part1.QB (1)
    -            digit 0 c              470 ohm  part1.QC (2)
    -            digit 0 d              470 ohm  part1.QD (3)
    -            digit 0 e              470 ohm  part1.QE (4)
    -            digit 0 f              470 ohm  part1.QF (5)
    -            digit 0 g              470 ohm  part1.QG (6)
    -            digit 0 dp             470 ohm  part1.QH (7)
    -            digit 1 a              470 ohm  part0.QA (15)
    -            digit 1 b              470 ohm  part0.QB (1)
    -            digit 1 c              470 ohm  part0.QC (2)
    -            digit 1 d              470 ohm  part0.QD (3)
    -            digit 1 e              470 ohm  part0.QE (4)
    -            digit 1 f              470 ohm  part0.QF (5)
    -            digit 1 g              470 ohm  part0.QG (6)
    -            digit 1 dp             470 ohm  part0.QH (7)
    -            common of every digit           ground

    line   from                        to atmega328p
    clock  SRCLK (11) of each          A1 (PC1)
    data   SER (14) of 74hc595 part 0  A0 (PC0)
    latch  RCLK (12) of each           A2 (PC2)

    and besides                  to
    each chip, VCC (16)          supply                with 100 nF close to the
                                                       part
    each chip, GND (8)           ground
    each chip, OE (13)           ground                if forgotten, the display
                                                       stays dark
    each chip, SRCLR (10)        supply                if forgotten, the register
                                                       is cleared now and then
    each chip but the last, QH'  SER (14) of the next  the chain goes on
    (9)
    ");
}

#[test]
fn every_face_of_the_demo_is_listed_and_drawn() {
    let folder = Folder::landing();
    for (rig, face, pins) in [
        ("gauge", "gauge", 12),
        ("quay", "tide", 12),
        ("quay", "crew", 25),
        ("beacon", "beacon", 16),
        ("landing", "desk", 0),
    ] {
        let json = folder.json(&format!("rig wires --rig {rig}.toml --face {face} --svg {face}.svg"));
        assert_eq!(json["display"].as_array().unwrap().len(), pins, "{face}");
        let svg = folder.read(&format!("{face}.svg"));
        assert!(svg.ends_with("</svg>\n") && !svg.contains("NaN") && !svg.contains("inf"), "{face}");
    }
}

#[test]
fn a_pin_that_nothing_is_connected_to_keeps_its_place() {
    let folder = Folder::landing();
    folder.write("pointless.toml", folder.read("gauge.toml").replace(", dp = \"GP9\"", ""));
    let drawn = |rig: &str| {
        folder.answer(&format!("rig wires --rig {rig} --svg wires.svg"));
        let svg = folder.read("wires.svg");
        let size = svg.split("viewBox=").nth(1).unwrap().split('>').next().unwrap().to_owned();
        // A thick line for each pin of the package.
        (size, svg.matches("stroke-width=\"4.00\"").count())
    };
    let (whole, pointless) = (drawn("gauge.toml"), drawn("pointless.toml"));
    assert_eq!((whole.0, whole.1), (pointless.0, pointless.1 + 1));
}

#[test]
fn the_electrical_budget() {
    insta::assert_snapshot!(Folder::landing().answer("rig check --rig gauge.toml --electrical"), @"
    gauge: 4 seven-segment digits, 12 controller pins, 4 selects scanned through npn
        switches, common cathode
        a GP2, b GP3, c GP4, d GP5, e GP6, f GP7, g GP8, dp GP9, digit 0 GP10,
        digit 1 GP11, digit 2 GP12, digit 3 GP13

    gauge: electrical budget
        3.3 V from the outputs of the rp2040
        less 1.9 V of a light and 0.2 V across switches leave 1.2 V
        over 220 ohm in the line of each segment: 5.5 mA
        at least 4.6 mA: outputs may drop 0.5 V at their rated current
        a light: 5.5 mA at its peak, 1.3 mA on average over a duty of 24.6 %
        all lights of a digit: 43.6 mA; the whole face: 43.6 mA at most
        what carries it                                   current  limit   absolute
        a light, at its peak                              5.5 mA   60 mA   -
        a light, on average                               1.3 mA   25 mA   -
        the output of a, like every line                  5.5 mA   12 mA   -
        the npn of digit 0                                43.6 mA  500 mA  -
        the output of digit 0, to the base of its switch  2.2 mA   12 mA   -
        a pin of the rp2040 gives 4 mA for sure after a reset: for 5.5 mA the
            program must set its drive strength
        for 2 mA in each light on average: 147.8 ohm
            too much: the pins of the rp2040 carry 64.9 mA together; 50 mA is the
                most
            take 220 ohm (5.5 mA peak) of E12, or 200 ohm (6 mA peak) of E24
        the brightest within every limit
            take 220 ohm (5.5 mA peak) of E12, or 200 ohm (6 mA peak) of E24

    with everything lit
        what carries it         current  limit   absolute
        the lights of gauge     43.6 mA  -       -
        all pins of the rp2040  43.6 mA  50 mA   -
        the supply              43.6 mA  500 mA  -

    gauge.toml: sound
    ");
    let json = Folder::landing().json("rig check --rig gauge.toml --electrical");
    assert_eq!(json["electrical"]["faces"][0]["peak_ma"], 5.455);
    let wanted = &json["electrical"]["faces"][0]["resistors"][0];
    assert_eq!((&wanted["e12"], &wanted["ohms"]), (&220.0.into(), &147.84.into()));
    assert!(wanted["breaks"].as_str().unwrap().contains("50 mA"));
}

#[test]
fn currents_that_break_a_part_are_answered_with_no_and_still_shown() {
    let folder = Folder::landing();
    let hot = folder.read("berth.toml").replace("330", "47");
    folder.write("hot.toml", hot);
    let run = folder.run("rig check --rig hot.toml");
    assert_eq!(run.status, 1);
    insta::assert_snapshot!(run.out, @r#"
    warning: with everything lit the faces take 511 mA together, and the rig does
             not say what the supply gives
      ╭▸ hot.toml:4:1
      │
    4 │ [controller]
      │ ━━━━━━━━━━━━
      │
      ╰ help: write supply = { volts = 5.0, amps = 1.0 } in [controller], and take
              one that gives that

    error: the output of a, like every line, carries 63.8 mA; its absolute maximum
           is 40 mA
       ╭▸ hot.toml:15:12
       │
    15 │ resistor = { ohms = 47, in = "segments" }
       │            ━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━
       │
       ╰ help: take a larger resistor, or put switches between: digit_switch or
               segment_switch, "npn" or "pnp"

    error: the group PB0-PB7, PD5-PD7 sinks 319 mA in all; its absolute maximum is
           100 mA
       ╭▸ hot.toml:15:12
       │
    15 │ resistor = { ohms = 47, in = "segments" }
       │            ━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━
       │
       ╰ help: take a larger resistor, or put switches between: digit_switch or
               segment_switch, "npn" or "pnp"

    error: the group PD0-PD4, PC6 sinks 191 mA in all; its absolute maximum is 100
           mA
       ╭▸ hot.toml:15:12
       │
    15 │ resistor = { ohms = 47, in = "segments" }
       │            ━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━
       │
       ╰ help: take a larger resistor, or put switches between: digit_switch or
               segment_switch, "npn" or "pnp"

    error: the pins of the atmega328p carry 511 mA together; the absolute maximum is
           200 mA
       ╭▸ hot.toml:15:12
       │
    15 │ resistor = { ohms = 47, in = "segments" }
       │            ━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━
       │
       ╰ help: take larger resistors, or feed the lights through switches or a
               driver part

    warning: each light carries 63.8 mA on average; the most for it is 25 mA
       ╭▸ hot.toml:15:12
       │
    15 │ resistor = { ohms = 47, in = "segments" }
       │            ━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━
       │
       ╰ help: take a larger resistor, or put switches between: digit_switch or
               segment_switch, "npn" or "pnp"

    berth: 1 seven-segment digit, 8 controller pins on ports PB and PD, static,
        common anode
        a PD2, b PD3, c PD4, d PD5, e PD6, f PD7, g PB0, dp PB1
    hot.toml: not sound: 4 errors, 2 warnings
    "#);
    // The picture is shown, and the errors are reported beside it.
    let shown = folder.run("show 2 --rig hot.toml");
    assert!(!shown.out.trim().is_empty() && shown.err.matches("error: ").count() == 4, "{}", shown.err);
    assert_eq!(shown.status, 1);
    assert_eq!(folder.run("show 2 --rig hot.toml --unsound").status, 0);
    assert_eq!(folder.run("bytes 2 --rig hot.toml").status, 1);
    // No program is written that would damage something.
    let firmware = "firmware --target c99 --app count --rig hot.toml --out hot";
    let refused = folder.run(firmware);
    assert_eq!((refused.status, folder.path("hot").exists()), (1, false));
    assert!(refused.err.contains("write the program all the same: --unsound"), "{}", refused.err);
    assert_eq!(folder.run(&format!("{firmware} --unsound")).status, 0);
}

#[test]
fn what_to_buy() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.answer("rig parts --rig desk.toml"), @"
       what             which                 note                for
    1  controller       esp32
    1  supply           5 V, 1 A              the faces take up
                                              to 717 mA, and the
                                              controller some
                                              more
    1  display          module with tm1638:   with pins VCC GND   desk
                        8 seven-segment       CLK DIO STB
                        digits, red, 8
                        lamps, 8 push
                        buttons
    1  display          module with tm1637:   with pins VCC GND   clock
                        4 seven-segment       CLK DIO
                        digits, amber
    2  display          module with ht16k33:  with pins VCC GND   sign
                        6 fourteen-segment    SCL SDA
                        digits, blue
    2  resistor         3.9 kilohm            1/8 W               sign
    1  level converter  3.3 V to 5 V, both    for 7 lines         desk, clock, sign
                        ways
    ");
    insta::assert_snapshot!(folder.answer("rig parts --rig gauge.toml --csv"), @r#"
    count,kind,what,note,faces
    1,controller,rp2040,,
    1,supply,"5 V, 0.5 A","the faces take up to 43.6 mA, and the controller some more",
    1,display,"4 seven-segment digits, red, common cathode",pins as quad-12,gauge
    4,transistor,npn,carries 43.6 mA,gauge
    8,resistor,220 ohm,1/8 W,gauge
    4,resistor,1.2 kilohm,1/8 W,gauge
    "#);
    // The three forms say the same.
    let json = folder.json("rig parts --rig quay.toml");
    let csv = folder.answer("rig parts --rig quay.toml --csv");
    assert_eq!(csv.lines().count(), 1 + json.as_array().unwrap().len());
    for item in json.as_array().unwrap() {
        let (count, what) = (item["count"].as_u64().unwrap(), item["what"].as_str().unwrap());
        let has = |line: &str| line.starts_with(&format!("{count},")) && line.contains(what);
        assert!(csv.lines().any(has), "{item}");
    }
}

#[test]
fn what_stands_between_a_low_controller_and_a_high_part() {
    let folder = Folder::landing();
    insta::assert_snapshot!(folder.answer("rig wires --rig desk.toml --face sign"), @"
    sign: 12 fourteen-segment digits, common cathode

    line   from         to esp32
    clock  SCL of each  GPIO22
    data   SDA of each  GPIO21
    in each of them: level converter 3.3 V to 5 V, both ways

    and besides              to
    each module, VCC         supply                    4.5 to 5.5 V
    each module, GND         ground
    ht16k33 module at 0x70,  open, open, open          the address; smaller
    A0, A1, A2                                         packages lack some
    ht16k33 module at 0x71,  COM0 through a diode,     the address; smaller
    A0, A1, A2               open, open                packages lack some
    bus, SCL and SDA         supply, each through 3.9  open drain: without pull-
                             kilohm                    ups nothing is ever high;
                                                       once for the bus, and
                                                       many boards have them
    ");
    let converter = |line: &str| folder.json(line)["converter"].clone();
    let both_ways = converter("rig wires --rig desk.toml --face sign");
    assert_eq!(both_ways, serde_json::json!({ "from_volts": 3.3, "to_volts": 5.0, "both_ways": true }));
    // A shift register answers nothing; at one level there is nothing to convert.
    assert_eq!(converter("rig wires --rig landing.toml --face desk")["both_ways"], false);
    assert!(converter("rig wires --rig landing.toml --face gauge").is_null());
    assert!(converter("rig wires --rig quay.toml --face crew").is_null());
}

/// The wiring list warns of a pin that keeps a program from being uploaded.
#[test]
fn the_wiring_list_has_cautions() {
    let folder = Folder::empty();
    folder.answer("rig new bare-digit -c atmega328p --pins a=PD1 --out rig.toml --quiet");
    let caution = "pin PD1 is the serial port through which programs are uploaded";
    assert!(folder.answer("rig wires").contains(&format!("mind: {caution}")));
    assert!(folder.json("rig wires")["cautions"][0].as_str().unwrap().starts_with(caution));
    folder.answer("firmware --target avr --app count --out gauge");
    let readme = folder.read("gauge/README.md").replace('\n', " ");
    assert!(readme.contains("pin PD1 is the serial port"), "{readme}");
}

/// Without a face that is named all are listed, and drawn below one another.
#[test]
fn all_faces_of_a_rig() {
    let folder = Folder::landing();
    let one = |face: &str| folder.answer(&format!("rig wires --rig landing.toml --face {face}"));
    let all = folder.answer("rig wires --rig landing.toml");
    assert_eq!(all, format!("{}\n{}", one("desk"), one("gauge")));
    let json = folder.json("rig wires --rig landing.toml");
    assert_eq!(json[1], folder.json("rig wires --rig landing.toml --face gauge"));
    let size = |line: &str, file: &str| -> (u32, u32) {
        folder.answer(&format!("rig wires --rig landing.toml {line} --svg {file}"));
        let svg = folder.read(file);
        let numbers = svg.split("viewBox=\"0 0 ").nth(1).unwrap().split('"').next().unwrap().to_owned();
        let (width, height) = numbers.split_once(' ').unwrap();
        (width.parse::<f32>().unwrap() as u32, height.parse::<f32>().unwrap() as u32)
    };
    let [desk, gauge, both] = [("--face desk", "d.svg"), ("--face gauge", "g.svg"), ("", "b.svg")]
        .map(|(line, file)| size(line, file));
    assert_eq!(both, (desk.0.max(gauge.0), desk.1 + gauge.1 + 24));
}

/// The pull-ups of a board serve its bus, and are in the way of anything else.
#[test]
fn fixed_pull_ups_of_a_board() {
    let folder = Folder::empty();
    let rig = |method: &str, digits: usize, pins: &str| {
        let rig = format!(
            "[controller]\npart = \"linux\"\n[face.sign]\nkind = \"seven-segment\"\ndigits = {digits}\n[face.sign.drive]\n\
             method = \"{method}\"\npins = {{ {pins} }}\n"
        );
        folder.write("linux.toml", rig);
        folder.run("rig wires --rig linux.toml --unsound").out
    };
    assert!(!rig("ht16k33", 4, "clock = 3, data = 2").contains("each through"));
    assert!(rig("ht16k33", 4, "clock = 5, data = 6").contains("each through"));
    let clock = rig("tm1637", 4, "clock = 3, data = 6");
    assert!(clock.contains("GPIO3 has a fixed pull-up of 1.8 kilohm to 3.3 V"), "{clock}");
}

/// A chip that is used without a board needs more than its lines.
#[test]
fn a_bare_controller_has_wires_of_its_own() {
    let folder = Folder::empty();
    folder.write(
        "tide.toml",
        "[controller]\npart = \"mcs51\"\nclock_hz = 11_059_200\n[face.tide]\nkind = \"seven-segment\"\ndigits = 4\n\
         [face.tide.drive]\nmethod = \"tm1637\"\npins = { data = \"P1.0\", clock = \"P1.1\" }\n",
    );
    let told = folder.answer("rig wires --rig tide.toml");
    let (_, own) = told.split_once("the mcs51 itself").unwrap();
    for wire in ["EA (31)", "RST (9)", "crystal of 11.0592 MHz"] {
        assert!(own.contains(wire), "{own}");
    }
    let json: serde_json::Value =
        serde_json::from_str(&folder.answer("rig wires --rig tide.toml --json")).unwrap();
    assert_eq!(json["controller"][2]["pins"], "EA (31)");
    let parts = folder.answer("rig parts --rig tide.toml");
    assert!(parts.lines().any(|line| line.starts_with("1  crystal     11.0592 MHz")), "{parts}");
    folder.answer("firmware --target mcs51 --rig tide.toml --app count --out out");
    assert!(folder.read("out/README.md").contains("the mcs51 itself"));
    // A board has all that.
    folder.write("board.toml", folder.read("tide.toml").replace("mcs51", "rp2040").replace("P1.", "GP"));
    assert!(!folder.answer("rig wires --unsound --rig board.toml").contains("itself"));
}

/// Every command that lists pins, wires or parts lists the same buttons on pins.
#[test]
fn buttons_on_pins_are_listed_everywhere() {
    let folder = Folder::landing();
    let rig = folder.read("gauge.toml");
    let buttons = "[buttons.up]\npin = \"GP20\"\n[buttons.down]\npin = \"GP21\"\nactive = \"high\"\npull = \"resistor\"\n";
    folder.write("this.toml", format!("{rig}\n{buttons}"));
    let json = |command: &str| {
        let told = folder.answer(&format!("{command} -r this.toml --json"));
        serde_json::from_str::<serde_json::Value>(&told).unwrap()
    };
    let wires = json("rig wires")["buttons"].clone();
    assert_eq!(wires, json("rig check")["buttons"]);
    let name = |of: &serde_json::Value, key: &str| of[key].as_str().unwrap().to_owned();
    let told: Vec<_> =
        wires.as_array().unwrap().iter().map(|of| (name(of, "pin"), name(of, "name"))).collect();
    assert_eq!(told, [("GP20".to_owned(), "up".to_owned()), ("GP21".to_owned(), "down".to_owned())]);
    let pins = folder.answer("rig pins -r this.toml");
    let parts = folder.answer("rig parts -r this.toml");
    let text = folder.answer("rig wires -r this.toml");
    for (pin, name) in &told {
        let has_pin = |line: &&str| line.starts_with(pin.as_str());
        assert!(pins.lines().find(has_pin).unwrap().contains(&format!("button {name}")), "{pins}");
        assert!(
            text.lines().any(|line| line.starts_with(name.as_str()) && line.contains(pin.as_str())),
            "{text}"
        );
    }
    assert!(parts.contains("2  push button"), "{parts}");
    assert!(parts.contains("at push buttons"), "{parts}");
}
