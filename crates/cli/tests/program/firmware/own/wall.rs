//! The time of the day in a person's own program: it is what the zone's own rules say.

use std::fmt::Write as _;
use std::process::{Command, Stdio};

use jiff::civil::DateTime;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};

use super::super::runners::{must, rustc};
use super::{RUNNERS, Running};
use crate::folder::Folder;

/// East and west of UTC, changes of an hour and of half an hour, quarters of an hour, none.
const ZONES: [&str; 5] =
    ["Europe/Lisbon", "America/St_Johns", "Australia/Lord_Howe", "Asia/Kathmandu", "UTC"];

/// When the projects are written.
const WRITTEN: &str = "2026-12-02T07:58:00Z";

/// Reads a moment in seconds, or a local time behind an `l`, from each line; answers with the other.
const IN_C: &str = r#"
#include <stdio.h>
#include "hw.h"
#include "wall.h"

static uint32_t ms;

uint16_t hw_now_ms(void) { return (uint16_t)ms; }

int main(void)
{
    char line[80];
    unsigned year, month, day, hours, minutes, seconds;
    wall_time time;

    while (fgets(line, sizeof line, stdin) != 0) {
        if (sscanf(line, "l %u %u %u %u %u %u", &year, &month, &day, &hours, &minutes, &seconds) == 6) {
            time.year = (uint16_t)year;
            time.month = (uint8_t)month;
            time.day = (uint8_t)day;
            time.hours = (uint8_t)hours;
            time.minutes = (uint8_t)minutes;
            time.seconds = (uint8_t)seconds;
            wall_set_local(&time);
            printf("%u\n", (unsigned)wall_seconds());
        } else if (sscanf(line, "%u", &seconds) == 1) {
            /* Half a minute before, and half a minute later in the controller's time. */
            wall_set(seconds - 30);
            ms += 30999;
            wall_read(&time);
            printf("%u %u %u %u %u %u %u\n", time.year, time.month, time.day, time.weekday, time.hours, time.minutes, time.seconds);
        }
    }
    return 0;
}
"#;

/// The same in Rust.
const IN_RUST: &str = r#"
#![allow(dead_code)]
mod wall;
mod zone;

use wall::{Time, Wall};

fn main() {
    let (mut wall, mut now) = (Wall::new(), u32::MAX - 50_000_000);
    for line in std::io::stdin().lines() {
        let line = line.unwrap();
        let numbers: Vec<u32> = line.trim_start_matches('l').split_whitespace().map(|word| word.parse().unwrap()).collect();
        if let [seconds] = numbers[..] {
            wall.set(seconds - 30, now);
            now = now.wrapping_add(30_999);
            let Time { year, month, day, weekday, hours, minutes, seconds } = wall.read(now);
            println!("{year} {month} {day} {weekday} {hours} {minutes} {seconds}");
        } else {
            let [month, day, hours, minutes, seconds] = [1, 2, 3, 4, 5].map(|place| numbers[place] as u8);
            wall.set_local(Time { year: numbers[0] as u16, month, day, weekday: 0, hours, minutes, seconds }, now);
            println!("{}", wall.seconds(now));
        }
    }
}
"#;

/// Moments of ten years: about one in a week at all times of the day, and each quarter of an hour around each change of the clocks.
fn moments(zone: &TimeZone) -> Vec<Timestamp> {
    let begin: Timestamp = WRITTEN.parse().unwrap();
    let strides = (0..3600).map(|stride| begin + (stride * 87_211_i64).seconds());
    let changes =
        zone.following(begin).take_while(|change| zone.to_datetime(change.timestamp()).year() <= 2036);
    let around = changes
        .flat_map(|change| (-20..=20_i64).map(move |quarter| change.timestamp() + (quarter * 900).seconds()));
    strides.chain(around.collect::<Vec<_>>()).collect()
}

/// Questions and their answers by the rules of a zone.
fn questions(zone: &TimeZone) -> (String, String) {
    let (mut asked, mut wanted) = (String::new(), String::new());
    for moment in moments(zone) {
        let local = zone.to_datetime(moment);
        let numbers = |local: DateTime| {
            let [month, day, hours, minutes, seconds] =
                [local.month(), local.day(), local.hour(), local.minute(), local.second()];
            (format!("{} {month} {day}", local.year()), format!("{hours} {minutes} {seconds}"))
        };
        let (date, time) = numbers(local);
        writeln!(asked, "{}", moment.as_second()).unwrap();
        writeln!(wanted, "{date} {} {time}", local.weekday().to_monday_one_offset()).unwrap();
        // The same figures in UTC are a local time too, which may not be there, or come twice.
        for local in [local, TimeZone::UTC.to_datetime(moment) + 7.minutes()] {
            let (date, time) = numbers(local);
            writeln!(asked, "l {date} {time}").unwrap();
            writeln!(wanted, "{}", zone.to_timestamp(local).unwrap().as_second()).unwrap();
        }
    }
    (asked, wanted)
}

/// The answers of a program.
fn answers(folder: &Folder, program: &str, asked: &str) -> String {
    folder.write("asked.txt", asked);
    let asked = std::fs::File::open(folder.path("asked.txt")).unwrap();
    let run = Command::new(folder.path(program)).stdin(Stdio::from(asked)).output().unwrap();
    String::from_utf8(run.stdout).unwrap()
}

/// Writes a project for a target.
fn project(folder: &Folder, target: &str, zone: &str) {
    let asked = format!(
        "firmware --app own --target {target} --rig gauge.toml --time {WRITTEN} --zone {zone} --out {target}"
    );
    folder.answer(&asked);
}

#[test]
fn the_time_follows_the_rules_of_its_zone() {
    let folder = Folder::landing();
    for name in ZONES {
        let zone = TimeZone::get(name).unwrap();
        let (asked, wanted) = questions(&zone);
        project(&folder, "c99", name);
        folder.write("c99/check.c", IN_C);
        let mut cc = Command::new("cc");
        cc.args(["-std=c99", "-Wall", "-Wextra", "-Werror", "-o", "check", "check.c", "wall.c"]);
        must(cc.current_dir(folder.path("c99")));
        assert_eq!(first_difference(&wanted, &answers(&folder, "c99/check", &asked)), None, "C, {name}");
        project(&folder, "rust", name);
        folder.write("rust/src/check.rs", IN_RUST);
        rustc(folder.path("rust"), &["--crate-type", "bin", "--crate-name", "check", "src/check.rs"]);
        assert_eq!(first_difference(&wanted, &answers(&folder, "rust/check", &asked)), None, "Rust, {name}");
    }
}

/// The first lines that differ.
fn first_difference(wanted: &str, seen: &str) -> Option<String> {
    assert_eq!(wanted.lines().count(), seen.lines().count());
    let different = wanted.lines().zip(seen.lines()).enumerate().find(|(_, (wanted, seen))| wanted != seen);
    different.map(|(line, (wanted, seen))| format!("line {line}: {wanted} wanted, {seen} seen"))
}

#[test]
fn the_time_in_python_follows_the_rules_of_its_zone() {
    // Before and after the change of the clocks, and set to a time that is left out.
    const PROGRAM: &str = "import wall\nfrom gauge import face\nimport time\n\
        MOMENTS = (lambda: wall.set(1806195599 - 3), lambda: wall.set(1806195600), lambda: wall.set_local(2027, 3, 28, 1, 20), \
        lambda: wall.set_local(2036, 2, 29, 23, 59))\n\
        begun = time.ticks_ms()\nplace = 0\n\n\
        def begin():\n    MOMENTS[0]()\n    show()\n\n\
        def show():\n    now = wall.read()\n    face.number(100 * now.hours + now.minutes)\n\n\
        def step():\n    global place\n    place_now = time.ticks_diff(time.ticks_ms(), begun) // 500\n    \
        if place_now != place and place_now < 4:\n        place = place_now\n        MOMENTS[place]()\n        show()\n";
    let Some(runner) = RUNNERS.iter().find(|runner| runner.target == "micropython" && runner.is_there())
    else {
        return;
    };
    let folder = Folder::landing();
    folder.write("this.toml", folder.read("gauge.toml"));
    project(&folder, "micropython", "Europe/Lisbon");
    folder.write("micropython/own.py", PROGRAM);
    (runner.run)(&Running { folder: &folder, project: "micropython", ms: 2000, presses: &[] });
    for (at, wanted) in [("400ms", "  59"), ("900ms", " 200"), ("1400ms", " 220"), ("1900ms", "2359")] {
        let told = folder.answer(&format!("capture trace.vcd --rig this.toml --at {at}"));
        assert!(told.contains(&format!("\"{wanted}\"")), "{told}");
    }
}
