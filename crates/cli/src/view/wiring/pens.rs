//! The colour of a wire, by its purpose: what has the same name has the same colour in every drawing.

use crate::view::colour::Rgb;
use crate::view::page::WIRES;

/// The colours by their names. All are dark enough for paper.
const RED: Rgb = WIRES[0];
const BLUE: Rgb = WIRES[1];
const GREEN: Rgb = WIRES[2];
const ORANGE: Rgb = WIRES[3];
const VIOLET: Rgb = WIRES[4];
const TEAL: Rgb = WIRES[5];
const CRIMSON: Rgb = WIRES[6];
const OLIVE: Rgb = WIRES[7];
const GREY: Rgb = WIRES[8];
const INDIGO: Rgb = WIRES[9];

/// The pens of segments a to g, and of the others after them.
const SEGMENTS: [Rgb; 8] = [BLUE, ORANGE, GREEN, VIOLET, TEAL, CRIMSON, OLIVE, INDIGO];

/// The colour of a connection of the display, or of a line, by its function in words.
pub fn of(function: &str) -> Rgb {
    let (word, rest) = function.split_at(function.find([' ', '_']).unwrap_or(function.len()));
    // Of digits with a package each: `digit 0 a`.
    if let ("segment", Some(name)) | ("digit", Some(name)) =
        (word, rest.split(' ').nth(if word == "digit" { 2 } else { 1 }))
    {
        return of_segment(name);
    }
    match word {
        "clock" => BLUE,
        "data" => GREEN,
        "select" | "strobe" | "latch" if !rest.trim().starts_with("enable") => VIOLET,
        "enable" | "latch" | "output" => ORANGE,
        "column" => TEAL,
        // They carry the current of many lights.
        "digit" | "row" | "common" => GREY,
        _ => of_line(function),
    }
}

/// The colour of a segment; the halves of a, d and g share one.
fn of_segment(name: &str) -> Rgb {
    let place = match name.as_bytes() {
        [letter @ b'a'..=b'g', ..] if name != "dp" => usize::from(letter - b'a'),
        [letter @ b'h'..=b'm', ..] => usize::from(letter - b'h'),
        _ => SEGMENTS.len() - 1,
    };
    SEGMENTS[place]
}

/// The colour of a line that is named by a letter and a number: `r1`, `D3`, or an address line such as `a`.
fn of_line(name: &str) -> Rgb {
    let number = name.trim_start_matches(|c: char| c.is_ascii_alphabetic());
    let letters = &name[..name.len() - number.len()];
    match (letters, number.parse::<usize>()) {
        ("r", Ok(_)) => RED,
        ("g", Ok(_)) => GREEN,
        ("b", Ok(_)) => BLUE,
        (_, Ok(number)) => SEGMENTS[number % SEGMENTS.len()],
        (_, Err(_)) => CRIMSON,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_purpose_has_a_colour() {
        assert_eq!([of("r1"), of("r2"), of("g1"), of("b2")], [RED, RED, GREEN, BLUE]);
        assert_eq!([of("select"), of("strobe"), of("latch")], [VIOLET; 3]);
        assert_eq!([of("latch enable 0"), of("enable"), of("output enable")], [ORANGE; 3]);
        assert_eq!([of("digit 0"), of("digit 7"), of("common of every digit")], [GREY; 3]);
        assert_eq!([of("segment g1"), of("digit 3 g")], [of("segment g2"); 2]);
        let seven = ["a", "b", "c", "d", "e", "f", "g", "dp"].map(|name| of(&format!("segment {name}")));
        assert!((0..8).all(|one| (one + 1..8).all(|other| seven[one] != seven[other])), "{seven:?}");
    }
}
