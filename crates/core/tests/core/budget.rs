//! Currents and voltages, each worked out by hand from the circuit in the comment above it.

use proptest::prelude::*;
use spare_tile_core::plan::Rig;
use spare_tile_core::plan::budget::{self, Budget, Carrier, Goal};
use spare_tile_core::rig::Severity;

use crate::common::rig;
use crate::rig_findings::findings;

/// A face of this many digits with this common side behind this drive.
fn bare(controller: &str, digits: usize, common: &str, drive: &str) -> String {
    format!(
        "[controller]\n{controller}\n[face.gauge]\nkind = \"seven-segment\"\ndigits = {digits}\ncommon = \"{common}\"\n\
         light = {{ forward_volts = 2.0 }}\n[face.gauge.drive]\n{drive}\n"
    )
}

fn budget_of(source: &str) -> Budget {
    let rig = rig(source);
    budget::of(&rig.faces[0], &rig.controller).unwrap()
}

/// The current of a group of outputs.
fn group(budget: &Budget, name: &str, sinks: bool) -> Option<f64> {
    let wanted = Carrier::Group { name: name.to_owned(), sinks };
    let load = budget.flow.as_ref().unwrap().loads.iter().find(|load| load.carrier == wanted);
    load.map(|load| (load.current.0 * 10.0).round() / 10.0)
}

fn peak(budget: &Budget) -> f64 {
    (budget.flow.as_ref().unwrap().peak.0 * 100.0).round() / 100.0
}

const REGISTER: &str = "method = \"shifted\"\npins = { data = 1, clock = 2, latch = 3 }\n";

#[test]
fn lights_that_share_a_resistor_share_its_current() {
    // (5 - 2) V / 220 ohm = 13.64 mA for all eight segments together; each with its own resistor takes as much.
    let shared = bare("", 1, "cathode", &format!("{REGISTER}resistor = {{ ohms = 220, in = \"digits\" }}"));
    let shared = budget_of(&shared);
    assert_eq!((peak(&shared), group(&shared, "74hc595 part 0", false)), (13.64, Some(13.6)));
    let own = bare("", 1, "cathode", &format!("{REGISTER}resistor = {{ ohms = 220, in = \"segments\" }}"));
    let own = budget_of(&own);
    assert_eq!((peak(&own), group(&own, "74hc595 part 0", false)), (13.64, Some(109.1)));
    assert_eq!(group(&own, "74hc595 part 0", true), None, "with a common cathode nothing is sunk");
}

#[test]
fn a_port_with_one_resistor_for_a_digit() {
    // (5 - 2 - 0.2) V / 220 ohm = 12.73 mA through the pnp; whatever is lit, the port sinks no more than that.
    let drive = "method = \"scanned\"\nsegments = \"P1: dp g f e d c b a\"\ndigits = [\"P3.2\", \"P3.3\"]\n\
                 digit_switch = \"pnp\"\nresistor = { ohms = 220, in = \"digits\" }";
    let budget = budget_of(&bare("part = \"mcs51\"", 2, "anode", drive));
    assert_eq!((peak(&budget), group(&budget, "port P1", true)), (12.73, Some(12.7)));
}

#[test]
fn an_expander_sinks_more_than_it_sources() {
    // Sixteen lights at (5 - 2) V / 330 ohm = 9.09 mA make 145.5 mA: VSS takes 150, VDD gives 125.
    let drive = "method = \"expander\"\npart = \"mcp23017\"\npins = { data = 1, clock = 2 }\naddresses = [0x20]\n\
                 resistor = { ohms = 330, in = \"segments\" }";
    assert_eq!(findings(&bare("", 2, "anode", drive), Severity::Warning), "");
    insta::assert_snapshot!(findings(&bare("", 2, "cathode", drive), Severity::Warning), @r#"
    error at `{ ohms = 330, in = "segments" }`: mcp23017 at 0x20 sources 145 mA in all; its absolute maximum is 125 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    "#);
}

/// Two digits with common anode on a controller of 3.3 V, scanned through these switches.
fn switched(switch: &str) -> String {
    let drive = format!(
        "method = \"scanned\"\nsegments = {{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }}\ndigits = [10, 11]\n\
         digit_switch = {switch}\nresistor = {{ ohms = 330, in = \"segments\" }}"
    );
    bare("part = \"rp2040\"", 2, "anode", &drive)
}

#[test]
fn a_transistor_with_the_lights_at_its_emitter_follows_its_base() {
    // (3.3 - 0.7 - 2.0) V / 330 ohm = 1.82 mA: the supply of 5 V does not matter.
    assert_eq!(peak(&budget_of(&switched("\"npn\""))), 1.82);
    // An inverter before it brings its base to the supply: (5 - 0.7 - 2.0) V / 330 ohm = 6.97 mA.
    assert_eq!(peak(&budget_of(&switched("{ kind = \"npn\", active = \"low\" }"))), 6.97);
    // A pnp shorts its rail: (5 - 0.2 - 2.0) V / 330 ohm = 8.48 mA.
    assert_eq!(peak(&budget_of(&switched("{ kind = \"pnp\", active = \"high\" }"))), 8.48);
}

#[test]
fn switches_on_the_wrong_side_for_their_gate() {
    insta::assert_snapshot!(findings(&switched("\"nmos\""), Severity::Warning), @r#"
    warning at `[10, 11]`: an nmos switch between the supply and the lights needs its gate well above the lights' anodes, and gets 3.3 V: it hardly conducts
        put a pmos or pnp between the supply and the lights, or an npn, which follows its base
    "#);
}

#[test]
fn outputs_that_are_only_pulled_up_do_not_feed_a_base() {
    let with = |switch: &str| {
        let drive = format!(
            "method = \"expander\"\npart = \"pcf8574\"\npins = {{ data = 1, clock = 2 }}\naddresses = [0x20]\n\
             segment_switch = \"{switch}\"\nresistor = {{ ohms = 1000, in = \"segments\" }}"
        );
        bare("", 1, "anode", &drive)
    };
    insta::assert_snapshot!(findings(&with("npn"), Severity::Warning), @"
    warning at `[face.gauge.drive]`: the pcf8574 gives 0.1 mA at a high level, too little for the base of an npn or darlington switch: it hardly conducts
        take pnp or pmos switches, which the outputs pull low, or an nmos, whose gate takes no current
    ");
    assert_eq!(findings(&with("nmos"), Severity::Warning), "");
    // And the picture agrees.
    for (switch, is_lit) in [("npn", false), ("nmos", true)] {
        let rig = rig(&with(switch));
        let mut powered = crate::common::Powered::new(&rig);
        powered.say("8", spare_tile_core::content::text::Align::Left).unwrap();
        let picture = crate::common::lit(&powered.picture());
        assert_eq!(picture[..7], [is_lit; 7], "{switch}");
    }
}

#[test]
fn driver_parts_count_on_the_supply() {
    // RSET of 28 kilohm gives 20 mA at 2.0 V: 64 lights, an eighth of the time each, (2 x 8 + 1) / 32 of that, are
    // 85 mA; 8 mA for the part itself.
    let one = "[controller]\nsupply = { volts = 5.0, amps = 0.2 }\n[face.desk]\nkind = \"seven-segment\"\ndigits = 8\n\
               light = { forward_volts = 2.0 }\n[face.desk.drive]\nmethod = \"max7219\"\n\
               pins = { data = 1, clock = 2, select = 3 }\nrset_ohms = 28_000\n";
    let mount = rig(one).faces[0].clone();
    assert!((mount.drive.display().draws(64).unwrap().0 - 93.0).abs() < 0.1);
    assert_eq!(findings(one, Severity::Warning), "");
    let many = one.replace("\"seven-segment\"\ndigits = 8", "\"dots\"\nwidth = 256\nheight = 8");
    insta::assert_snapshot!(findings(&many, Severity::Warning), @"
    warning at `{ volts = 5.0, amps = 0.2 }`: with everything lit the faces take 2.98 A together; the supply gives 200 mA
        take a supply that gives more, larger resistors, or a lower brightness
    ");
}

#[test]
fn rset_within_the_data_sheet() {
    let with = |ohms: &str| {
        let source = "[controller]\nsupply = { volts = 5.0, amps = 2.0 }\n[face.desk]\nkind = \"seven-segment\"\ndigits = 8\nlight = { forward_volts = 2.0 }\n\
                      [face.desk.drive]\nmethod = \"max7219\"\npins = { data = 1, clock = 2, select = 3 }\nrset_ohms = ";
        findings(&format!("{source}{ohms}\n"), Severity::Warning)
    };
    insta::assert_snapshot!(with("1000"), @"
    error at `1000`: RSET 1 kilohm is outside the data sheet's table: 9.53 kilohm, which gives a segment 40 mA, its maximum, to 63.7 kilohm for 10 mA
        take a larger resistor; most modules carry 10 kilohm
    ");
    assert!(with("-5").contains("error at `-5`") && with("nan").contains("error at `nan`"));
    assert_eq!(with("9530") + &with("10000") + &with("63700"), "");
    assert!(with("100000").starts_with("error"));
}

proptest! {
    /// With a resistor that is advised, the check has nothing to say of currents.
    #[test]
    fn advice_keeps_every_limit(
        controller in prop::sample::select(vec!["rp2040", "atmega328p", "esp32", "pic16f54"]),
        digits in 1_usize..5,
        common in prop::sample::select(vec!["anode", "cathode"]),
        switch in prop::sample::select(vec!["none", "npn", "pnp"]),
        place in prop::sample::select(vec!["segments", "digits"]),
        (ohms, wanted, amps) in (1_u32..2_000, 1_u32..40, 1_u32..100),
    ) {
        let numbered = |first: usize, count: usize| (first..first + count).map(|pin| match controller {
            "pic16f54" if pin < 8 => format!("\"RB{pin}\""),
            "pic16f54" => format!("\"RA{}\"", pin - 8),
            "atmega328p" if pin < 6 => format!("\"PD{}\"", pin + 2),
            "atmega328p" => format!("\"PB{}\"", pin - 6),
            "esp32" => ["16", "17", "18", "19", "21", "22", "23", "25", "26", "27", "32", "33"][pin].to_owned(),
            _ => format!("\"GP{pin}\""),
        }).collect::<Vec<_>>();
        let segments: Vec<_> = ["a", "b", "c", "d", "e", "f", "g", "dp"]
            .iter().zip(numbered(0, 8)).map(|(name, pin)| format!("{name} = {pin}")).collect();
        let source = |ohms: f64| format!(
            "[controller]\npart = \"{controller}\"\nsupply = {{ volts = 5.0, amps = {} }}\n[face.gauge]\n\
             kind = \"seven-segment\"\ndigits = {digits}\ncommon = \"{common}\"\n\
             light = {{ forward_volts = 1.9, milliamps = {wanted} }}\n[face.gauge.drive]\nmethod = \"scanned\"\n\
             segments = {{ {} }}\ndigits = [{}]\ndigit_switch = \"{switch}\"\n\
             resistor = {{ ohms = {ohms}, in = \"{place}\" }}\n",
            f64::from(amps) / 100.0, segments.join(", "), numbered(8, digits).join(", "),
        );
        let Some(rig) = Rig::read(&source(ohms.into())).rig else { return Ok(()) };
        for advice in budget::advise(&rig, 0) {
            let Some(choice) = advice.choice else { continue };
            for (ohms, current) in [choice.e12, choice.e24] {
                let overloads: Vec<_> = Rig::read(&source(ohms.0)).findings.iter()
                    .map(|finding| finding.trouble.to_string())
                    .filter(|words| words.contains("the most for it") || words.contains("absolute")
                        || words.contains("together"))
                    .collect();
                prop_assert!(overloads.is_empty(), "{ohms} at {current}: {overloads:?}");
                if let (Goal::Average(wanted), None) = (advice.goal, &advice.breaks) {
                    let duty = budget::of(&rig.faces[0], &rig.controller).unwrap().duty;
                    prop_assert!((current.0 * duty / wanted.0 - 1.0).abs() < 0.2, "{current} for {wanted}");
                }
            }
        }
    }
}

/// Four digits with common cathode on a 5 V controller, an npn on each digit, this resistor and these lights.
fn four(light: &str, ohms: u32) -> String {
    let drive = format!(
        "method = \"scanned\"\nsegments = {{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }}\n\
         digits = [10, 11, 12, 13]\ndigit_switch = \"npn\"\nresistor = {{ ohms = {ohms}, in = \"segments\" }}"
    );
    bare("part = \"atmega328p\"", 4, "cathode", &drive)
        .replace("forward_volts = 2.0", &format!("forward_volts = 2.0{light}"))
}

#[test]
fn a_peak_that_the_rig_tells_is_an_absolute_maximum() {
    // (5 - 2 - 0.2) V / 180 ohm = 15.6 mA, under the 20 mA of a pin; the data sheet of these lights allows 15 in a pulse.
    assert_eq!(findings(&four("", 180), Severity::Warning), "");
    assert_eq!(findings(&four(", peak_milliamps = 16", 180), Severity::Warning), "");
    insta::assert_snapshot!(findings(&four(", peak_milliamps = 15", 180), Severity::Warning), @r#"
    error at `{ ohms = 180, in = "segments" }`: each light carries 15.6 mA at its peak; its absolute maximum is 15 mA
        take a larger resistor, or put switches between: digit_switch or segment_switch, "npn" or "pnp"
    "#);
    // Where it says nothing 60 mA are only what is sensible: (5 - 2 - 0.2) V / 45 ohm = 62.2 mA.
    let hot = findings(&four("", 45), Severity::Warning);
    assert!(
        hot.contains("warning at `{ ohms = 45, in = \"segments\" }`: each light carries 62.2 mA at its peak")
    );
    // The advice keeps to it: 2.8 V / 15 mA = 186.7 ohm, so 220 of E12.
    let rig = rig(&four(", peak_milliamps = 15", 180));
    let advice = budget::advise(&rig, 0).pop().unwrap();
    assert_eq!(advice.choice.unwrap().e12.0.0, 220.0);
}

#[test]
fn what_all_pins_carry_together() {
    // Seven segments at (5 - 2) V / 100 ohm = 30 mA are 210 mA: more than the 200 mA through VCC.
    let drive = |ohms: u32| {
        format!(
            "method = \"static\"\nsegments = {{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }}\n\
             resistor = {{ ohms = {ohms}, in = \"segments\" }}"
        )
    };
    let one = |ohms| bare("part = \"atmega328p\"", 1, "cathode", &drive(ohms));
    insta::assert_snapshot!(findings(&one(100), Severity::Error), @r#"
    error at `{ ohms = 100, in = "segments" }`: the pins of the atmega328p carry 210 mA together; the absolute maximum is 200 mA
        take larger resistors, or feed the lights through switches or a driver part
    "#);
    // At 105 ohm they are 28.57 mA and 200 mA: just that.
    assert_eq!(findings(&one(105), Severity::Error), "");
    let words = |source: &str| -> Vec<String> {
        let totals = budget::totals(&rig(source));
        totals.iter().map(|load| format!("{}: {}, {:?}", load.carrier, load.current, load.limit)).collect()
    };
    insta::assert_debug_snapshot!(words(&one(105)), @r#"
    [
        "the lights of gauge: 200 mA, None",
        "all pins of the atmega328p: 200 mA, Some(Milliamps(200.0))",
        "the supply: 200 mA, None",
    ]
    "#);
    // Eight digits on a part: 64 lights at 20 mA (28 kilohm at 2.0 V), an eighth of the time each, 17/32 of that: 85 mA and
    // 8 for the part; four such parts on 32 digits, 341 mA and 32.
    let parts = |digits: usize| {
        bare(
            "",
            digits,
            "cathode",
            "method = \"max7219\"\npins = { data = 1, clock = 2, select = 3 }\nrset_ohms = 28_000",
        )
    };
    insta::assert_debug_snapshot!((words(&parts(8)), words(&parts(32))), @r#"
    (
        [
            "the max7219 of gauge, on average: 93 mA, None",
            "the supply: 93 mA, None",
        ],
        [
            "each of the 4 max7219 of gauge, on average: 93 mA, None",
            "the supply: 372 mA, None",
        ],
    )
    "#);
}

#[test]
fn a_supply_that_is_not_told_of_is_asked_for_over_four_tenths_of_an_ampere() {
    // With 40 digits there are five parts: 5 x (85 + 8) mA = 465 mA; a fifth more is 558 mA, so take 1 A.
    let parts = |controller: &str, digits: usize| {
        let drive = "method = \"max7219\"\npins = { data = 1, clock = 2, select = 3 }\nrset_ohms = 28_000";
        bare(controller, digits, "cathode", drive)
    };
    assert_eq!(findings(&parts("", 32), Severity::Warning), "");
    insta::assert_snapshot!(findings(&parts("", 40), Severity::Warning), @"
    warning at `[controller]`: with everything lit the faces take 465 mA together, and the rig does not say what the supply gives
        write supply = { volts = 5.0, amps = 1.0 } in [controller], and take one that gives that
    ");
    assert_eq!(findings(&parts("supply = { volts = 5.0, amps = 0.5 }", 40), Severity::Warning), "");
    let less = findings(&parts("supply = { volts = 5.0, amps = 0.4 }", 40), Severity::Warning);
    assert!(less.contains("the supply gives 400 mA"), "{less}");
}

#[test]
fn pins_that_do_not_stand_what_comes_through_dark_lights() {
    // From 9 V through a light that begins at 2.0 - 0.4 V a pin sees 7.4 V; of 3.3 V parts it stands 3.6, of tolerant ones 5.5.
    let from = |controller: &str, volts: f64| {
        let drive = "method = \"static\"\nsegments = { a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }\n\
                     resistor = { ohms = 2_200, in = \"segments\" }";
        let drive = if controller.contains("stm32") {
            drive
                .replace("= 2,", "= \"PA8\",")
                .replace("= 3,", "= \"PA9\",")
                .replace("= 4,", "= \"PA10\",")
                .replace("= 5,", "= \"PB6\",")
                .replace("= 6,", "= \"PB7\",")
                .replace("= 7,", "= \"PB8\",")
                .replace("= 8 ", "= \"PB9\" ")
        } else {
            drive.to_owned()
        };
        let controller = format!("{controller}\nsupply = {{ volts = {volts:.1}, amps = 1.0 }}");
        findings(&bare(&controller, 1, "anode", &drive), Severity::Error)
    };
    insta::assert_snapshot!(from("part = \"rp2040\"", 9.0), @"
    error at `[face.gauge.drive]`: through dark lights a pin of the rp2040 sees up to 7.4 V before the program has set it; it stands 3.6 V
        feed the common side from the controller's own supply, or put switches or a register between
    ");
    // 5 V: 3.4 V, which it stands; 6 V: 4.4 V, which only a tolerant one does.
    assert_eq!(from("part = \"rp2040\"", 5.0), "");
    assert!(from("part = \"rp2040\"", 6.0).contains("sees up to 4.4 V"));
    assert_eq!(from("part = \"stm32f103\"", 6.0), "");
}

/// Of a tolerant controller some pins do not stand 5 V.
#[test]
fn a_pin_that_does_not_stand_five_volts_is_told_from_its_neighbours() {
    let from = |pins: [&str; 7]| {
        let segments = ["a", "b", "c", "d", "e", "f", "g"];
        let segments: Vec<_> =
            segments.iter().zip(pins).map(|(name, pin)| format!("{name} = \"{pin}\"")).collect();
        let drive = format!(
            "method = \"static\"\nsegments = {{ {} }}\nresistor = {{ ohms = 2200 }}",
            segments.join(", ")
        );
        let controller = "part = \"stm32f103\"\nsupply = { volts = 6.0, amps = 1.0 }";
        findings(&bare(controller, 1, "anode", &drive), Severity::Error)
    };
    assert_eq!(from(["PB6", "PB7", "PB8", "PB9", "PB10", "PB11", "PB12"]), "");
    assert!(from(["PB6", "PB7", "PB8", "PB9", "PB10", "PB11", "PB5"]).contains("it stands 3.6 V"));
}

/// A switch has a limit for the current of a digit, and its output one for the base.
#[test]
fn switches_and_their_bases_have_limits() {
    let with = |part: &str, switch: &str, ohms: u32| {
        let drive = format!(
            "method = \"scanned\"\nsegments = {{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8, dp = 9 }}\n\
             digits = [10, 11]\ndigit_switch = {switch}\nsegment_switch = \"pnp\"\n\
             resistor = {{ ohms = {ohms}, in = \"segments\" }}"
        );
        let controller = format!("part = \"{part}\"\nsupply = {{ volts = 3.3, amps = 3.0 }}");
        findings(&bare(&controller, 2, "cathode", &drive), Severity::Warning)
    };
    // (3.3 - 2.0 - 0.4) / 12 = 75 mA in each of eight lights: 600 mA, a twentieth of which is 30 mA.
    let hot = with("rp2040", "\"npn\"", 12);
    assert!(hot.contains("the npn of digit 0 switches 600 mA; the most for it is 500 mA"), "{hot}");
    assert!(hot.contains("to the base of its switch, carries 30 mA; the most for it is 12 mA"), "{hot}");
    let stout = with("rp2040", "{ kind = \"nmos\", most_ma = 2000 }", 12);
    assert!(!stout.contains("of digit 0"), "{stout}");
    assert_eq!(with("rp2040", "\"npn\"", 100), "");
}

/// Groups of pins have limits besides those of a pin and of all.
#[test]
fn groups_of_pins_have_absolute_limits() {
    let found = |ohms: u32, pins: [&str; 7]| {
        let segments = ["a", "b", "c", "d", "e", "f", "g"];
        let segments: Vec<_> =
            segments.iter().zip(pins).map(|(name, pin)| format!("{name} = \"{pin}\"")).collect();
        let drive = format!(
            "method = \"static\"\nsegments = {{ {} }}\nresistor = {{ ohms = {ohms} }}",
            segments.join(", ")
        );
        findings(&bare("part = \"atmega328p\"", 1, "anode", &drive), Severity::Error)
    };
    // 3 V / 180 = 16.7 mA a pin: seven of one group sink 117 mA, four and three of two groups 67 and 50.
    let of_one = found(180, ["PB0", "PB1", "PB2", "PB3", "PB4", "PB5", "PD5"]);
    assert!(
        of_one.contains("the group PB0-PB7, PD5-PD7 sinks 117 mA in all; its absolute maximum is 100 mA"),
        "{of_one}"
    );
    assert_eq!(found(180, ["PB0", "PB1", "PB2", "PB3", "PC0", "PC1", "PC2"]), "");
}

#[test]
fn where_no_resistor_helps_it_is_said_what_does() {
    // An 8051 sources 0.1 mA at most: shared over four digits that is 0.025 mA in a light, which is invisible.
    let drive = "method = \"scanned\"\nsegments = \"P1: dp g f e d c b a\"\ndigits = [\"P3.2\", \"P3.3\", \"P3.4\", \"P3.5\"]\n\
                 digit_switch = \"npn\"\nresistor = { ohms = 330, in = \"segments\" }";
    let rig = rig(&bare("part = \"mcs51\"", 4, "cathode", drive));
    let advice = budget::advise(&rig, 0).pop().unwrap();
    assert_eq!(advice.choice, None);
    insta::assert_snapshot!(advice.breaks.unwrap().instead(), @"put switches between the outputs and the segments: segment_switch; or a register or a driver part");
}

/// Pins of port 0 of an 8051 drive no high level: where one is needed it takes a pull-up.
#[test]
fn open_drain_pins_need_pull_ups_where_something_must_be_high() {
    let found =
        |common: &str, drive: &str| findings(&bare("part = \"mcs51\"", 1, common, drive), Severity::Warning);
    let segments = "segments = \"P0: dp g f e d c b a\"\nresistor = { ohms = 1500 }";
    assert_eq!(found("anode", &format!("method = \"static\"\n{segments}")), "");
    let shifted = "method = \"shifted\"\npins = { data = \"P0.0\", clock = \"P1.1\", latch = \"P0.2\" }\nresistor = { ohms = 1500 }";
    let told = found("cathode", shifted);
    assert!(
        told.contains("P0.2, P0.0 cannot drive a high level")
            || told.contains("P0.0, P0.2 cannot drive a high level"),
        "{told}"
    );
}

/// A current that needs a drive strength is reported, with the current that the pins give without it.
#[test]
fn pins_have_less_strength_after_a_reset() {
    let strength = |part: &str, ohms: u32| {
        let drive = format!(
            "method = \"static\"\nsegments = {{ a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }}\nresistor = {{ ohms = {ohms} }}"
        );
        let rig = Rig::read(&bare(&format!("part = \"{part}\""), 1, "cathode", &drive)).rig.unwrap();
        budget::drive_strength(&rig.faces[0], &rig.controller)
            .map(|(most, after_reset)| (most.0.round(), after_reset.0))
    };
    // 1.3 V / 220 = 5.9 mA, more than the 4 mA after a reset; over 680 ohm it is 1.9 mA.
    assert_eq!(strength("rp2040", 220), Some((6.0, 4.0)));
    assert_eq!(strength("rp2040", 680), None);
    assert_eq!(strength("atmega328p", 220), None);
}

/// The least current includes the drop of outputs: 0.5 V at 12 mA is 42 ohm in series.
#[test]
fn outputs_that_drop_what_they_may() {
    let flow = |face: &str| {
        Rig::read(face).rig.and_then(|rig| budget::of(&rig.faces[0], &rig.controller)?.flow).unwrap()
    };
    let drive = "method = \"static\"\nsegments = { a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }\nresistor = { ohms = 220 }";
    let straight = flow(&bare("part = \"rp2040\"", 1, "cathode", drive));
    let least = straight.least.unwrap();
    // 1.3 V over 220 ohm, and over 262 ohm.
    assert_eq!((straight.peak.0 * 100.0).round(), 591.0);
    assert_eq!((least.0 * 100.0).round(), 497.0);
    let switched =
        flow(&bare("part = \"rp2040\"", 1, "anode", &format!("{drive}\nsegment_switch = \"npn\"")));
    assert_eq!(switched.least, None);
}

/// A channel of a darlington array drops a volt, takes no base resistor, and cannot connect to the supply.
#[test]
fn a_darlington_array_is_a_kind_of_switch() {
    let drive = "method = \"scanned\"\nsegments = { a = 2, b = 3, c = 4, d = 5, e = 6, f = 7, g = 8 }\ndigits = [10, 11]\n\
                 digit_switch = \"darlington\"\nresistor = { ohms = 47 }";
    let cathode = bare("part = \"rp2040\"", 2, "cathode", drive);
    let rig = Rig::read(&cathode).rig.unwrap();
    let budget = budget::of(&rig.faces[0], &rig.controller).unwrap();
    assert_eq!(budget.drops.0, 1.0);
    let inputs = budget.flow.unwrap().loads;
    assert!(inputs.iter().any(|load| load.current.0 == 1.35), "{inputs:?}");
    let through = spare_tile_core::plan::wires::list(&rig, &rig.faces[0]);
    let through: Vec<_> =
        through.display.iter().flat_map(|pin| &pin.through).map(ToString::to_string).collect();
    assert!(through.iter().any(|part| part == "darlington switch to ground"), "{through:?}");
    assert!(!through.iter().any(|part| part.contains("base")), "{through:?}");
    let anode = findings(&bare("part = \"rp2040\"", 2, "anode", drive), Severity::Error);
    assert!(anode.contains("only pulls low"), "{anode}");
}
