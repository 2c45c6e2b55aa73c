//! The content of each face, and how long it is watched.

/// A reel on a rig of the demo.
pub struct Case {
    /// The rig.
    pub rig: &'static str,
    /// Those of its faces on which something plays.
    pub faces: &'static [&'static str],
    /// The reel.
    pub reel: &'static str,
    /// For how long it is watched.
    pub ms: u32,
    /// Keys that are pressed.
    pub presses: &'static [Press],
}

/// A key that is pressed, by its name in the rig, and when in milliseconds.
pub type Press = (&'static str, u32);

impl Case {
    /// Returns true if the controller scans the one face that shows something.
    pub fn is_scanned(&self) -> bool {
        self.rig.contains("blanking") && self.faces.len() == 1
    }

    /// Returns true if its face is a colour panel.
    pub fn has_panel(&self) -> bool {
        self.rig.contains("rgb-panel")
    }

    /// How many bits of light its faces have.
    pub fn depth(&self) -> u32 {
        let depth = self.rig.lines().find_map(|line| line.strip_prefix("depth = "));
        depth.map_or(1, |depth| depth.parse().unwrap())
    }

    /// How many steps of light its faces have above dark.
    pub fn grey_steps(&self) -> u32 {
        (1 << self.depth()) - 1
    }

    /// Returns true if the brightness is part of the picture. Of a scanned face it is as long as each controller takes to darken it.
    pub fn has_brightness(&self) -> bool {
        self.reel.contains("brightness")
    }
}

/// A part that is healed again and again.
pub const HEALED: &str = r#"
[controller]
part = "esp32"
[face.gauge]
kind = "seven-segment"
digits = 4
[face.gauge.drive]
method = "max7219"
pins = { data = "GPIO23", clock = "GPIO18", select = "GPIO17" }
bus_volts = 5.0
resend = "250ms"
"#;

/// Four digits scanned through two registers, as small as any.
pub const SHIFTED: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 4
common = "cathode"
[face.gauge.drive]
method = "shifted"
pins = { data = "GP2", clock = "GP3", latch = "GP4" }
segments = "dp g f e d c b a"
digits = ["part1.QA", "part1.QB", "part1.QC", "part1.QD"]
digit_switch = "npn"
resistor = { ohms = 680, in = "segments" }
refresh_hz = 125
blanking = "30us"
"#;

/// Dots with greys, for more lines than most controllers have.
const GREY_DOTS: &str = r#"
[controller]
part = "rp2040"
[face.beacon]
kind = "dots"
width = 8
height = 8
common = "anode"
[face.beacon.drive]
method = "scanned"
scan = "rows"
rows = ["GP0", "GP1", "GP2", "GP3", "GP4", "GP5", "GP6", "GP7"]
columns = ["GP8", "GP9", "GP10", "GP11", "GP12", "GP13", "GP14", "GP15"]
resistor = { ohms = 330, in = "segments" }
refresh_hz = 120
blanking = "10us"
depth = 3
"#;

/// Dots with a red and a green light each.
const TWO_COLOURS: &str = r#"
[controller]
part = "rp2040"
[face.board]
kind = "dots"
width = 8
height = 8
colours = ["red", "green"]
[face.board.drive]
method = "ht16k33"
pins = { data = "GP4", clock = "GP5" }
"#;

/// A small panel, of a few colours.
const PANEL: &str = r#"
[controller]
part = "rp2040"
[face.departures]
kind = "dots"
width = 32
height = 16
[face.departures.drive]
method = "rgb-panel"
panel = "32x16"
pins = { r1 = "GP0", g1 = "GP1", b1 = "GP2", r2 = "GP3", g2 = "GP4", b2 = "GP5", a = "GP6", b = "GP7", c = "GP8", clock = "GP10", latch = "GP11", enable = "GP12" }
scan = "1/8"
depth = 2
brightness = 11
clock_hz = 600_000
bus_volts = 5.0
"#;

/// Digits with greys, without blanking.
const GREY_DIGITS: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 2
common = "cathode"
[face.gauge.drive]
method = "scanned"
segments = { a = "GP2", b = "GP3", c = "GP4", d = "GP5", e = "GP6", f = "GP7", g = "GP8", dp = "GP9" }
digits = ["GP10", "GP11"]
digit_switch = "npn"
resistor = { ohms = 680, in = "segments" }
refresh_hz = 120
blanking = "0us"
depth = 2
"#;

/// Four digits behind a part that scans them, on a controller of any kind.
const DRIVEN: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 4
[face.gauge.drive]
method = "max7219"
pins = { data = "GP7", clock = "GP6", select = "GP5" }
bus_volts = 5.0
"#;

/// Three buttons on pins, and four digits whose part reads one more.
pub const CONTACTS: &str = r#"
[controller]
part = "rp2040"
[buttons.up]
pin = "GP8"
active = "low"
pull = "controller"
[buttons.down]
pin = "GP9"
active = "high"
pull = "resistor"
[buttons.hold]
pin = "GP10"
active = "low"
pull = "resistor"
[face.gauge]
kind = "seven-segment"
digits = 4
lamps = [{ name = "full", node = "grid1.seg9" }]
buttons = [{ name = "k1", node = "byte0.bit0" }]
[face.gauge.drive]
method = "tm1638"
pins = { data = "GP7", clock = "GP6", strobe = "GP5" }
bus_volts = 5.0
"#;

/// Four digits scanned through registers over long lines: the bus waits long enough to count.
const SLOW: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 4
common = "cathode"
[face.gauge.drive]
method = "shifted"
pins = { data = "GP2", clock = "GP3", latch = "GP4" }
segments = "dp g f e d c b a"
digits = ["part1.QA", "part1.QB", "part1.QC", "part1.QD"]
digit_switch = "npn"
resistor = { ohms = 680, in = "segments" }
refresh_hz = 125
blanking = "30us"
clock_hz = 40_000
"#;

/// Two digits behind latches that share their data lines.
pub const LATCHED: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 2
common = "cathode"
[face.gauge.drive]
method = "latched"
data = ["GP2", "GP3", "GP4", "GP5", "GP6", "GP7", "GP8", "GP9"]
latches = [{ latch_enable = "GP10", output_enable = "low" }, { latch_enable = "GP11", output_enable = "low" }]
segments = "dp g f e d c b a"
resistor = { ohms = 680, in = "segments" }
"#;

/// A digit behind an expander.
pub const EXPANDED: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 1
common = "anode"
[face.gauge.drive]
method = "expander"
part = "pcf8574"
pins = { data = "GP4", clock = "GP5" }
addresses = [0x20]
resistor = { ohms = 680, in = "segments" }
"#;

/// Four digits behind a part on the same bus.
pub const BUSSED: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 4
[face.gauge.drive]
method = "ht16k33"
pins = { data = "GP4", clock = "GP5" }
"#;

/// More figures than 32 bits can count.
pub const WIDE: &str = r#"
[controller]
part = "rp2040"
[face.tally]
kind = "seven-segment"
digits = 12
[face.tally.drive]
method = "max7219"
pins = { data = "GP7", clock = "GP6", select = "GP5" }
bus_volts = 5.0
"#;

/// A key on each of two parts that answer in ways of their own.
pub const KEYED: &str = r#"
[controller]
part = "rp2040"
[face.gauge]
kind = "seven-segment"
digits = 4
buttons = [{ name = "up", node = "byte0.bit3" }]
[face.gauge.drive]
method = "ht16k33"
pins = { data = "GP4", clock = "GP5" }
[face.berth]
kind = "seven-segment"
digits = 2
buttons = [{ name = "down", node = "F3" }]
[face.berth.drive]
method = "tm1637"
pins = { data = "GP6", clock = "GP7" }
bus_volts = 5.0
"#;

/// Keys beside digits and lamps, dots, and digits that the controller scans.
const MIXED: &str = r#"
[controller]
part = "rp2040"
[face.desk]
kind = "seven-segment"
digits = 8
lamps = [{ name = "berth1", node = "grid1.seg9" }, { name = "berth2", node = "grid2.seg9" }]
buttons = [
    { name = "call1", node = "byte0.bit0" }, { name = "call2", node = "byte1.bit0" },
    { name = "call3", node = "byte2.bit0" }, { name = "call4", node = "byte3.bit0" },
    { name = "call5", node = "byte0.bit4" }, { name = "call6", node = "byte1.bit4" },
]
[face.desk.drive]
method = "tm1638"
pins = { strobe = "GP8", clock = "GP9", data = "GP10" }
bus_volts = 5.0
[face.board]
kind = "dots"
width = 32
height = 8
[face.board.drive]
method = "max7219"
pins = { data = "GP7", clock = "GP6", select = "GP5" }
bus_volts = 5.0
[face.gauge]
kind = "seven-segment"
digits = 4
common = "cathode"
[face.gauge.drive]
method = "shifted"
pins = { data = "GP2", clock = "GP3", latch = "GP4" }
segments = "dp g f e d c b a"
digits = ["part1.QA", "part1.QB", "part1.QC", "part1.QD"]
digit_switch = "npn"
resistor = { ohms = 680, in = "segments" }
refresh_hz = 125
blanking = "30us"
"#;

/// The second of them alone.
const UNTOUCHED: &str = r#"
[controller]
part = "rp2040"
[face.berth]
kind = "seven-segment"
digits = 2
buttons = [{ name = "down", node = "F3" }]
[face.berth.drive]
method = "tm1637"
pins = { data = "GP6", clock = "GP7" }
bus_volts = 5.0
"#;

pub const CASES: &[Case] = &[
    Case {
        rig: include_str!("../../../demo/gauge.toml"),
        faces: &["gauge"],
        ms: 6000,
        presses: &[],
        reel: r#"
[[track]]
loop = true
[[track.act]]
count = { from = -3, to = 3, every = "200ms", hold = "500ms" }
[[track.act]]
number = { value = -0.4, places = 1, for = "700ms" }
"#,
    },
    Case {
        rig: include_str!("../../../demo/berth.toml"),
        faces: &["berth"],
        ms: 6000,
        presses: &[],
        reel: "[[track]]\n[[track.act]]\ncount = { every = \"300ms\" }\n",
    },
    Case {
        rig: include_str!("../../../demo/beacon.toml"),
        faces: &["beacon"],
        ms: 6000,
        presses: &[],
        reel: "[[track]]\nloop = true\n[[track.act]]\ntest = {}\n",
    },
    Case {
        rig: include_str!("../../../demo/board.toml"),
        faces: &["board"],
        ms: 8000,
        presses: &[],
        reel: "[[track]]\nloop = true\n[[track.act]]\ntext = { say = \"TEAL 07:58\", way = \"left\" }\n",
    },
    Case {
        rig: include_str!("../../../demo/board.toml"),
        faces: &["board"],
        ms: 4000,
        presses: &[],
        reel: "[[track]]\nloop = true\n[[track.act]]\ncount = { from = -12, to = 12, every = \"150ms\" }\n",
    },
    Case {
        rig: include_str!("../../../demo/sign.toml"),
        faces: &["sign"],
        ms: 8000,
        presses: &[],
        reel: r#"
[[track]]
loop = true
[[track.act]]
text = { say = "DUNLIN TO BERTH 4", way = "left" }
[[track.act]]
text = { say = "AVOCET", for = "1s" }
"#,
    },
    Case {
        rig: include_str!("../../../demo/quay.toml"),
        faces: &["tide"],
        ms: 6000,
        presses: &[],
        reel: "[[track]]\nface = \"tide\"\n[[track.act]]\nclock = { time = \"2026-11-28T12:59:57\" }\n",
    },
    Case {
        rig: include_str!("../../../demo/quay.toml"),
        faces: &["minutes", "crew"],
        ms: 6000,
        presses: &[],
        reel: r#"
[[track]]
face = "minutes"
[[track.act]]
count = { from = 12, to = 0, step = 1, every = "400ms" }
[[track]]
face = "crew"
loop = true
[[track.act]]
count = { from = 0.5, to = 1.4, step = 0.1, every = "350ms" }
"#,
    },
    Case {
        rig: HEALED,
        faces: &["gauge"],
        ms: 6000,
        presses: &[],
        reel: r#"
[variables]
boat = "KNOT"

[[track]]
loop = true
[[track.act]]
text = { say = "{boat}", for = "600ms" }
[[track.act]]
blank = { for = "600ms" }

[[track]]
loop = true
[[track.act]]
brightness = { from = "100%", to = "10%", over = "2s", for = "3s" }
"#,
    },
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["desk", "clock", "sign"],
        ms: 5000,
        presses: &[],
        reel: r#"
[[track]]
face = "desk"
[[track.act]]
count = { from = 99997, every = "250ms" }
[[track]]
face = "clock"
[[track.act]]
clock = { time = "2026-11-28T11:58:58.25", twelve = true }
[[track]]
face = "sign"
loop = true
[[track.act]]
text = { say = ["KNOT", "BRENT"], motion = "type" }
"#,
    },
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["clock", "desk"],
        ms: 8000,
        presses: &[],
        reel: r#"
loop = true

[[track]]
face = "clock"
[[track.act]]
clock = { time = "2026-11-28T23:59:58.5", for = "2300ms" }
[[track.act]]
clock = { time = "2026-11-28T07:59:58", until = "2026-11-28T08:01", colon = "steady", for = "2500ms" }
[[track.act]]
text = { say = "TEAL", for = "700ms" }
[[track.act]]
clock = { time = "2026-11-28T07:59", show = "day-month", for = "500ms" }

[[track]]
face = "desk"
[[track.act]]
clock = { time = "2026-11-28T07:59:58", since = "2026-11-28T07:00:00", seconds = true, for = "3s" }
[[track.act]]
count = { from = 3, to = 1, every = "150ms", times = 2 }
"#,
    },
    Case {
        rig: include_str!("../../../demo/board.toml"),
        faces: &["board"],
        ms: 4000,
        presses: &[],
        reel: r#"
[[track]]
[[track.act]]
clock = { time = "2026-11-28T14:13:58", look = { font = "board" }, for = "3s" }
[[track.act]]
count = { from = 108, to = -3000, every = "30ms", look = { font = "board" } }
"#,
    },
    Case {
        rig: SHIFTED,
        faces: &["gauge"],
        ms: 6000,
        presses: &[],
        reel: r#"
[[track]]
loop = true
[[track.act]]
count = { from = 1203, to = -99, step = -434, every = "300ms" }
[[track.act]]
text = { say = "KNOT", for = "600ms" }
"#,
    },
    Case {
        rig: DRIVEN,
        faces: &["gauge"],
        ms: 6000,
        presses: &[],
        reel: r#"
[[track]]
loop = true
[[track.act]]
text = { say = "DUNLIN", way = "left" }
[[track.act]]
count = { from = 7, to = 12, every = "150ms", zeros = true, times = 2 }
"#,
    },
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["clock"],
        ms: 5000,
        presses: &[],
        reel: r#"
[[track]]
face = "clock"
[[track.act]]
count = { from = -2.5, to = 10.0, step = 2.5, every = "350ms" }
[[track.act]]
text = { say = "TEAL" }
"#,
    },
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["desk"],
        ms: 5000,
        presses: &[],
        reel: r#"
[[track]]
face = "desk"
loop = true
[[track.act]]
count = { from = 9990, to = 10020, step = 10, every = "250ms" }
[[track.act]]
text = { say = "BRENT", for = "500ms" }
"#,
    },
    Case {
        rig: LATCHED,
        faces: &["gauge"],
        ms: 4000,
        presses: &[],
        reel: "[[track]]\nloop = true\n[[track.act]]\ncount = { from = 12, to = 0, every = \"200ms\" }\n",
    },
    Case {
        rig: EXPANDED,
        faces: &["gauge"],
        ms: 4000,
        presses: &[],
        reel: "[[track]]\nloop = true\n[[track.act]]\ncount = { from = 9, to = 0, every = \"200ms\" }\n",
    },
    Case {
        rig: BUSSED,
        faces: &["gauge"],
        ms: 4000,
        presses: &[],
        reel: "[[track]]\nloop = true\n[[track.act]]\ncount = { from = 12, to = 0, every = \"200ms\" }\n",
    },
    Case {
        rig: WIDE,
        faces: &["tally"],
        ms: 4000,
        presses: &[],
        reel: r#"
[[track]]
loop = true
[[track.act]]
count = { from = 4294967293, to = 4294967298, every = "200ms" }
[[track.act]]
count = { from = -2147483647, to = -2147483650, every = "200ms" }
"#,
    },
    Case {
        rig: SLOW,
        faces: &["gauge"],
        ms: 3000,
        presses: &[],
        reel: "[[track]]\n[[track.act]]\ncount = { from = 8, to = 99, every = \"300ms\" }\n",
    },
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["desk", "clock", "sign"],
        ms: 4500,
        presses: &[
            ("desk.call8", 350),
            ("desk.call1", 600),
            ("desk.call2", 850),
            ("desk.call4", 1100),
            ("desk.call3", 1350),
            ("desk.call4", 1600),
            ("desk.call1", 1850),
            ("desk.call5", 2100),
            ("desk.call6", 2350),
            ("desk.call6", 2600),
            ("desk.call7", 2850),
            ("desk.call8", 3100),
            ("desk.call1", 3600),
        ],
        reel: r#"
[variables]
minutes = 0
place = 0

[buttons]
"desk.call1" = { toggle = "berth1" }
"desk.call2" = { to = "minutes", add = -1, least = 0, most = 99, wrap = true }
"desk.call3" = { to = "place", add = 1, least = 0, most = 1, wrap = true }
"desk.call4" = { to = "minutes", add = 1, at = "place", least = 0, most = 99, wrap = true }

[[track]]
face = "desk"
[[track.act]]
number = { value = "{minutes}", cursor = "place" }
[[track]]
face = "clock"
[[track.act]]
clock = { time = "2026-11-28T22:58:36.25", set = { hours = "desk.call5", minutes = "desk.call6", seconds = "desk.call7" } }
[[track]]
face = "sign"
[[track.act]]
stopwatch = { start = "desk.call8", lap = "desk.call1", hundredths = false }
"#,
    },
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["desk", "clock"],
        ms: 4000,
        presses: &[
            ("desk.call1", 350),
            ("desk.call2", 600),
            ("desk.call2", 850),
            ("desk.call3", 1100),
            ("desk.call3", 2100),
            ("desk.call4", 2350),
            ("desk.call2", 2600),
            ("desk.call5", 2850),
            ("desk.call2", 3350),
        ],
        reel: r#"
[variables]
level = -9.5
fill = 9998

[buttons]
"desk.call1" = { to = "level", add = 0.3 }
"desk.call2" = { to = "level", add = -0.5 }
"desk.call3" = { pause = true }
"desk.call4" = { to = "level", set = 99.9 }
"desk.call5" = { to = "level", reset = true }

[[track]]
face = "clock"
loop = true
[[track.act]]
number = { value = "{level}", places = 1, for = "1300ms" }
[[track.act]]
text = { say = "TIDE", for = "400ms" }
[[track]]
face = "desk"
[[track.act]]
count = { from = 0, to = 99, every = "250ms" }
"#,
    },
    Case {
        rig: KEYED,
        faces: &["gauge", "berth"],
        ms: 4000,
        presses: &[
            ("gauge.up", 200),
            ("gauge.up", 400),
            ("berth.down", 600),
            ("berth.down", 1100),
            ("berth.down", 1300),
            ("gauge.up", 1800),
            ("berth.down", 2600),
        ],
        reel: r#"
[variables]
berth = 7
tide = -0.4

[buttons]
"gauge.up" = { to = "berth", add = 1, most = 8 }
"berth.down" = { to = "berth", add = -2, least = 4 }

[[track]]
face = "gauge"
loop = true
[[track.act]]
number = { value = "{berth}", zeros = true, for = "900ms" }
[[track.act]]
reading = { of = "tide", places = 1, keep = "200ms", for = "600ms" }
[[track]]
face = "berth"
[[track.act]]
number = { value = "{berth}" }
"#,
    },
    // Dots of two lights each, behind a part.
    Case {
        rig: TWO_COLOURS,
        faces: &["board"],
        ms: 3000,
        presses: &[],
        reel: r##"
[[track]]
loop = true
[[track.act]]
text = { say = "T", look = { font = "small", ink = "red" }, for = "300ms" }
[[track.act]]
text = { say = "KN", way = "left", every = "60ms", look = { font = "small", ink = "green" } }
"##,
    },
    // Figures between greys.
    Case {
        rig: GREY_DOTS,
        faces: &["beacon"],
        ms: 6000,
        presses: &[],
        reel: r#"
[variables]
tide = 1.5

[[track]]
loop = true
[[track.act]]
gauge = { value = "{tide}", from = -1, to = 3, way = "up", for = "350ms" }
[[track.act]]
text = { say = ["T", "K"], motion = "fade", look = { font = "small" }, for = "2s" }
[[track.act]]
count = { from = 3, to = 5, every = "300ms" }
"#,
    },
    Case {
        rig: GREY_DIGITS,
        faces: &["gauge"],
        ms: 4000,
        presses: &[],
        reel: r#"
[[track]]
loop = true
[[track.act]]
count = { from = 8, to = 12, every = "200ms" }
[[track.act]]
text = { say = ["AB", "CD"], motion = "fade", for = "1s" }
"#,
    },
    // A colour that is full, one that is not, and nothing.
    Case {
        rig: include_str!("../../../demo/departures.toml"),
        faces: &["departures"],
        ms: 450,
        presses: &[],
        reel: r##"
[[track]]
loop = true
[[track.act]]
text = { say = "TEAL", look = { ink = "red" }, for = "150ms" }
[[track.act]]
text = { say = "07:58", look = { ink = "#FF8000" }, for = "150ms" }
[[track.act]]
blank = { for = "100ms" }
"##,
    },
    // Figures and what moves in colours of their own.
    Case {
        rig: PANEL,
        faces: &["departures"],
        ms: 2000,
        presses: &[],
        reel: r##"
[[track]]
loop = true
[[track.act]]
count = { from = -1, to = 1, every = "150ms", look = { ink = "green" } }
[[track.act]]
clock = { time = "2026-11-28T14:59:59.5", look = { font = "small", ink = "red" }, for = "700ms" }
[[track.act]]
text = { say = "KNOT", way = "left", every = "50ms", look = { ink = "#FF8000" } }
"##,
    },
    // A panel that is dimmed while a text moves: more passages than a byte counts.
    Case {
        rig: PANEL,
        faces: &["departures"],
        ms: 2600,
        presses: &[],
        reel: r##"
[[track]]
loop = true
[[track.act]]
text = { say = "TEAL BERTH 2", way = "left", every = "50ms", look = { ink = "#FFFF00" } }

[[track]]
loop = true
[[track.act]]
brightness = { to = "50%", for = "425ms" }
[[track.act]]
brightness = { to = "100%", for = "550ms" }
[[track.act]]
brightness = { to = "25%", for = "475ms" }
"##,
    },
    // No button is pressed: a line that is not pulled low is not a button.
    Case {
        rig: UNTOUCHED,
        faces: &["berth"],
        ms: 3300,
        presses: &[],
        reel: r#"
[variables]
berth = 7
tide = -4

[buttons]
"berth.down" = { to = "berth", add = -1, least = 0, most = 9, wrap = true }

[[track]]
loop = true
[[track.act]]
number = { value = "{berth}", for = "350ms" }
[[track.act]]
reading = { of = "tide", keep = "100ms", for = "450ms" }
[[track.act]]
text = { say = "P{berth}", for = "250ms" }
"#,
    },
    // A picture for each value: beside a number of the same value, in a text that has its turn, and as a text alone.
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["desk", "clock", "sign"],
        ms: 4000,
        presses: &[
            ("desk.call1", 350),
            ("desk.call1", 650),
            ("desk.call2", 1000),
            ("desk.call2", 1150),
            ("desk.call2", 1600),
            ("desk.call2", 1850),
            ("desk.call1", 2400),
            ("desk.call3", 2800),
            ("desk.call3", 3100),
            ("desk.call3", 3400),
        ],
        reel: r#"
[variables]
berth = 2
level = 0.5

[buttons]
"desk.call1" = { to = "berth", add = 1, least = 1, most = 3, wrap = true }
"desk.call2" = { to = "berth", add = -1, least = 1, most = 3, wrap = true }
"desk.call3" = { to = "level", add = 40.5 }

[[track]]
face = "desk"
[[track.act]]
number = { value = "{berth}" }
[[track]]
face = "desk"
[[track.act]]
gauge = { value = "{berth}", from = 0, to = 8, lamps = ["berth1", "berth2", "berth3", "berth4", "berth5", "berth6", "berth7", "berth8"] }

[[track]]
face = "clock"
loop = true
[[track.act]]
text = { say = "AT {berth}", for = "1300ms" }
[[track.act]]
text = { say = "PIER", for = "500ms" }

[[track]]
face = "sign"
[[track.act]]
text = { say = "BERTH {berth}" }
"#,
    },
    Case {
        rig: MIXED,
        faces: &["desk", "board", "gauge"],
        ms: 4200,
        presses: &[
            ("desk.call1", 350),
            ("desk.call4", 650),
            ("desk.call2", 850),
            ("desk.call5", 1100),
            ("desk.call1", 1350),
            ("desk.call6", 1600),
            ("desk.call3", 2150),
            ("desk.call6", 2600),
            ("desk.call5", 2900),
            ("desk.call4", 3400),
            ("desk.call3", 3650),
        ],
        reel: r#"
[variables]
level = -0.4
place = -1
passengers = 99999990

[buttons]
"desk.call1" = { toggle = "berth1" }
"desk.call2" = { toggle = "berth2" }
"desk.call3" = { to = "level", add = 1, at = "place", least = -2, most = 99.9 }
"desk.call4" = { to = "place", add = 1, least = -1, most = 1, wrap = true }
"desk.call5" = { to = "passengers", add = 7 }
"desk.call6" = { pause = true }

[[track]]
face = "desk"
loop = true
[[track.act]]
number = { value = "{passengers}", for = "1300ms" }
[[track.act]]
text = { say = "TEAL", for = "500ms" }

[[track]]
face = "board"
[[track.act]]
stopwatch = { start = "desk.call4", lap = "desk.call3", hundredths = false, look = { font = "small" } }

[[track]]
face = "gauge"
[[track.act]]
number = { value = "{level}", places = 1, cursor = "place" }
"#,
    },
    // The time as it is goes on while something else is shown.
    Case {
        rig: include_str!("../../../demo/gauge.toml"),
        faces: &["gauge"],
        ms: 4400,
        presses: &[],
        reel: r#"
[[track]]
loop = true
[[track.act]]
text = { say = "TEAL", for = "800ms" }
[[track.act]]
clock = { for = "700ms" }
"#,
    },
    // Keys jump: into a count, a window, and a film; while what plays is held; round a loop.
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["desk", "clock", "sign"],
        ms: 4500,
        presses: &[
            ("desk.call2", 350),
            ("desk.call1", 650),
            ("desk.call3", 1000),
            ("desk.call2", 1250),
            ("desk.call3", 1500),
            ("desk.call2", 3070),
        ],
        reel: r#"
[buttons]
"desk.call1" = { jump = "0s" }
"desk.call2" = { jump = "2300ms" }
"desk.call3" = { pause = true }

[[track]]
face = "desk"
loop = true
[[track.act]]
count = { from = 0, to = 5, every = "250ms", times = 2 }
[[track.act]]
text = { say = "TEAL", for = "500ms" }

[[track]]
face = "clock"
[[track.act]]
clock = { time = "2026-11-28T07:58:58.25", for = "3s" }
[[track.act]]
text = { say = ["KNOT", "BOAT"], every = "500ms" }

[[track]]
face = "sign"
loop = true
[[track.act]]
text = { say = "DUNLIN AT PIER", way = "left", every = "500ms" }
"#,
    },
    // They leave values and the time as it is alone.
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["desk", "clock", "sign"],
        ms: 4500,
        presses: &[("desk.call2", 350), ("desk.call1", 2100), ("desk.call4", 2700), ("desk.call2", 3700)],
        reel: r#"
[variables]
berth = 2

[buttons]
"desk.call1" = { jump = "0s" }
"desk.call2" = { jump = "800ms" }
"desk.call4" = { to = "berth", add = 1, most = 5 }

[[track]]
face = "desk"
loop = true
[[track.act]]
clock = { seconds = true, for = "1300ms" }
[[track.act]]
text = { say = "KNOT", for = "500ms" }

[[track]]
face = "clock"
[[track.act]]
clock = {}

[[track]]
face = "sign"
loop = true
[[track.act]]
number = { value = "{berth}", for = "900ms" }
[[track.act]]
text = { say = "PIER", for = "600ms" }
"#,
    },
    // The time goes on while what plays is held.
    Case {
        rig: include_str!("../../../demo/desk.toml"),
        faces: &["clock", "desk"],
        ms: 3000,
        presses: &[("desk.call3", 350), ("desk.call3", 1650)],
        reel: r#"
[buttons]
"desk.call3" = { pause = true }

[[track]]
face = "clock"
[[track.act]]
clock = {}

[[track]]
face = "desk"
[[track.act]]
count = { from = 0, to = 99, every = "250ms" }
"#,
    },
    // Buttons on pins: to ground at a pull-up inside, to the high level at a resistor, and to ground at a resistor.
    Case {
        rig: CONTACTS,
        faces: &["gauge"],
        ms: 3000,
        presses: &[("up", 300), ("down", 700), ("up", 1100), ("up", 1400), ("hold", 1900), ("down", 2300)],
        reel: r#"
[variables]
level = 7

[buttons]
up = { to = "level", add = 1, least = 0, most = 9, wrap = true }
down = { to = "level", add = -1, least = 0, most = 9 }
hold = { light = "full" }

[[track]]
[[track.act]]
number = { value = "{level}" }
"#,
    },
    // A text that buttons set, beside another act.
    Case {
        rig: CONTACTS,
        faces: &["gauge"],
        ms: 3200,
        presses: &[("up", 400), ("down", 900), ("hold", 1400), ("up", 1900)],
        reel: r#"
[variables]
boat = "TEAL"

[buttons]
up = { to = "boat", set = "KNOT" }
down = { to = "boat", set = "bell" }
hold = { to = "boat", reset = true }

[[track]]
loop = true
[[track.act]]
text = { say = "{boat}", for = "2400ms" }
[[track.act]]
text = { say = "PIER", for = "300ms" }
"#,
    },
    // A stopwatch that buttons on pins run.
    Case {
        rig: CONTACTS,
        faces: &["gauge"],
        ms: 2600,
        presses: &[("up", 300), ("up", 1500), ("down", 1800)],
        reel: r#"
[[track]]
[[track.act]]
stopwatch = { start = "up", lap = "down" }
"#,
    },
    // Clocks: over noon, over midnight, and to a moment.
    Case {
        rig: include_str!("../../../demo/gauge.toml"),
        faces: &["gauge"],
        ms: 2800,
        presses: &[],
        reel: "[[track]]\n[[track.act]]\nclock = { time = \"2026-11-28T11:59:58\", twelve = true }\n",
    },
    Case {
        rig: DRIVEN,
        faces: &["gauge"],
        ms: 3900,
        presses: &[],
        reel: r#"
[[track]]
loop = true
[[track.act]]
clock = { time = "2026-11-28T23:59:59", for = "1700ms" }
[[track.act]]
clock = { time = "2026-11-28T07:59:59", until = "2026-11-28T08:02", colon = "steady", for = "1400ms" }
[[track.act]]
text = { say = "TEAL", for = "400ms" }
"#,
    },
    // A part that is dimmed, and one that is healed.
    Case {
        rig: DRIVEN,
        faces: &["gauge"],
        ms: 3000,
        presses: &[],
        reel: r#"
[[track]]
[[track.act]]
text = { say = "KNOT" }

[[track]]
loop = true
[[track.act]]
brightness = { to = "100%", for = "450ms" }
[[track.act]]
brightness = { to = "25%", for = "750ms" }
"#,
    },
    Case {
        rig: HEALED,
        faces: &["gauge"],
        ms: 1100,
        presses: &[],
        reel: "[[track]]\n[[track.act]]\ncount = { from = 8, to = 99, every = \"300ms\" }\n",
    },
];
