//! Labels in drawings: a stroke font of our own, so that a picture needs no font from anywhere.
//!
//! A character is drawn on a grid of 5 by 9 points, x from 0 to 4 and y from 0 (the top of a capital) over 6 (the
//! line that it stands on) to 8 (the foot of a g). Each group of digits is a stroke: x and y of its points by turns.

use super::scene::Point;

/// Which point of a label is at its place.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Anchor {
    /// The left end of its line.
    Left,
    /// The middle of its line.
    Middle,
    /// The right end of its line.
    Right,
}

/// From one character to the next, and the height of a capital, in units of the grid.
const ADVANCE: f32 = 6.0;
const CAPITAL: f32 = 6.0;
/// The width of a stroke.
const STROKE: f32 = 0.85;

const fn strokes(character: char) -> &'static str {
    match character {
        ' ' => "",
        'A' => "0602204246 0444",
        'B' => "0006 003041423303 3344453606",
        'C' => "4130100105163645",
        'D' => "00204244260600",
        'E' => "40000646 0333",
        'F' => "400006 0333",
        'G' => "41301001051636454323",
        'H' => "0006 4046 0343",
        'I' => "1030 2026 1636",
        'J' => "2040 3035261605",
        'K' => "0006 400346",
        'L' => "000646",
        'M' => "0600234046",
        'N' => "06004640",
        'O' => "103041453616050110",
        'P' => "06003041423303",
        'Q' => "103041453616050110 2446",
        'R' => "06003041423303 2346",
        'S' => "413010010213334445361605",
        'T' => "0040 2026",
        'U' => "000516364540",
        'V' => "002640",
        'W' => "0016233640",
        'X' => "0046 4006",
        'Y' => "002340 2326",
        'Z' => "00400646",
        'a' => "12324346 441405163645",
        'b' => "0006 0312324345361605",
        'c' => "4332120305163645",
        'd' => "4046 4332120305163645",
        'e' => "04444332120305163645",
        'f' => "40302126 1232",
        'g' => "4247381807 4332120305163645",
        'h' => "0006 0312324346",
        'i' => "2226 2021",
        'j' => "222718 2021",
        'k' => "0006 320436",
        'l' => "202536",
        'm' => "0602 03122326 23324346",
        'n' => "0602 0312324346",
        'o' => "123243453616050312",
        'p' => "0208 0312324345361605",
        'q' => "4248 4332120305163645",
        'r' => "0602 03123243",
        's' => "4212031434453606",
        't' => "20253645 0242",
        'u' => "0205163645 4246",
        'v' => "022642",
        'w' => "0216233642",
        'x' => "0246 4206",
        'y' => "0226 4208",
        'z' => "02420646",
        '0' => "103041453616050110 1531",
        '1' => "112026 1636",
        '2' => "01103041420646",
        '3' => "004022334445361605",
        '4' => "36300444",
        '5' => "400003334445361605",
        '6' => "30100105163645443303",
        '7' => "004016",
        '8' => "103041423313020110 1304051636454433",
        '9' => "16364541301001021343",
        '.' => "2626",
        ',' => "2618",
        ':' => "2323 2626",
        ';' => "2323 2618",
        '-' => "1333",
        '_' => "0646",
        '+' => "1333 2224",
        '=' => "0242 0444",
        '/' => "0640",
        '\\' => "0046",
        '|' => "2027",
        '(' => "30111536",
        ')' => "10313516",
        '[' => "30101636",
        ']' => "10303616",
        '<' => "420446",
        '>' => "024406",
        '%' => "0640 0101 4545",
        '\'' => "2022",
        '"' => "1012 3032",
        '!' => "2024 2626",
        '?' => "01103041322324 2626",
        '*' => "0343 2125 1531 1135",
        '$' => "413010010213334445361605 2027",
        '@' => "46160501103041443424233234",
        '^' => "022042",
        '`' => "1021",
        '{' => "30202213242636",
        '}' => "10202233242616",
        '~' => "03123342",
        '#' => "1016 3036 0242 0444",
        '&' => "46130110211203051634",
        '\u{b0}' => "1030321210",
        _ => "0040460600",
    }
}

/// How wide a text is whose capitals are `height` high.
pub fn width(text: &str, height: f32) -> f32 {
    let characters = text.chars().count() as f32;
    (characters * ADVANCE - (ADVANCE - 4.0)).max(0.0) * height / CAPITAL
}

/// How wide the pen is for capitals of this height.
pub const fn pen(height: f32) -> f32 {
    STROKE * height / CAPITAL
}

/// The strokes of a text whose capitals are `height` high and stand at `y`.
pub fn strokes_of(text: &str, (x, y): Point, height: f32, anchor: Anchor) -> Vec<Vec<Point>> {
    let scale = height / CAPITAL;
    let left = match anchor {
        Anchor::Left => x,
        Anchor::Middle => x - width(text, height) / 2.0,
        Anchor::Right => x - width(text, height),
    };
    let mut all = Vec::new();
    for (place, character) in text.chars().enumerate() {
        let origin = left + place as f32 * ADVANCE * scale;
        for stroke in strokes(character).split_whitespace() {
            let on_grid = |digit: u8| f32::from(digit.saturating_sub(b'0')) * scale;
            let point = |point: &[u8]| (origin + on_grid(point[0]), y - height + on_grid(point[1]));
            all.push(stroke.as_bytes().chunks_exact(2).map(point).collect());
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn every_printable_character_has_strokes_of_its_own_on_the_grid() {
        let unknown = strokes('\u{1F600}');
        let drawn: Vec<_> =
            ('!'..='~').map(strokes).filter(|drawn| *drawn != unknown && !drawn.is_empty()).collect();
        assert_eq!(drawn.iter().collect::<HashSet<_>>().len(), drawn.len(), "two look alike");
        assert_eq!(drawn.len(), 94);
        for stroke in drawn.iter().flat_map(|drawn| drawn.split(' ')) {
            let points = stroke.as_bytes().chunks(2);
            assert!(points.clone().count() > 1, "{stroke}");
            let mut points = points;
            assert!(points.all(|point| point.len() == 2 && point[0] <= b'4' && point[1] <= b'8'), "{stroke}");
        }
    }
}
