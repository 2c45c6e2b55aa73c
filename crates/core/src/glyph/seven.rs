//! The characters of a seven-segment digit.
//!
//! An upright is `|`, a bar is `_` at the foot of its line, the point is `.`.

use super::segments::Segments;
use super::sheet::{Row, Sheet, Table};

/// The glyphs by character.
pub(super) static TABLE: Table = SHEET.table();

/// Every character of the style, drawn.
pub(super) const SHEET: Sheet = Sheet { step: 4, places: PLACES, rows: ROWS };

/// Other forms in which digits are often drawn: a 6 without segment a, a 7 with f, a 9 without d.
pub(super) const OTHER_FORMS: [(char, Segments); 3] =
    [('6', Segments(0b0111_1100)), ('7', Segments(0b0010_0111)), ('9', Segments(0b0110_0111))];

/// Line and column of a stroke of each segment, in the order a to g, dp.
#[rustfmt::skip]
const PLACES: &[(usize, usize)] = &[
    (0, 1), (1, 2), (2, 2), (2, 1), (2, 0), (1, 0), (1, 1), (2, 3),
];

#[rustfmt::skip]
const ROWS: &[Row] = &[
    Row {
        says: "0   1   2   3   4   5   6   7   8   9   ",
        mark: "=   =   =   =   =   =   =   =   =   =   ",
        art: &[
            " _       _   _       _   _   _   _   _  ",
            "| |   |  _|  _| |_| |_  |_    | |_| |_| ",
            "|_|   | |_   _|   |  _| |_|   | |_|  _| ",
        ],
    },
    Row {
        says: "A   C   E   F   G   H   I   J   K   L   ",
        mark: "=   =   =   =   =   =   ~   =   ?   =   ",
        art: &[
            " _   _   _   _   _               _      ",
            "|_| |   |_  |_  |   |_| |     | |_  |   ",
            "| | |_  |_  |   |_| | | |   |_| | | |_  ",
        ],
    },
    Row {
        says: "M   O   P   Q   S   U   V   W   X   Y   ",
        mark: "?   ~   =   ~   ~   =   ?   ?   ?   ~   ",
        art: &[
            " _   _   _   _   _                      ",
            "    | | |_| |_| |_  | | | | | | |_| |_| ",
            "| | |_| |     |  _| |_| |    _  | |  _| ",
        ],
    },
    Row {
        says: "Z   a   b   c   d   e   g   h   i   j   ",
        mark: "~   =   =   =   =   =   ~   =   ~   ~   ",
        art: &[
            " _   _               _   _              ",
            " _|  _| |_   _   _| |_| |_| |_          ",
            "|_  |_| |_| |_  |_| |_   _| | |   |  _| ",
        ],
    },
    Row {
        says: "l   n   o   q   r   t   u   y       !   ",
        mark: "~   =   =   ~   =   =   =   ~   =   ?   ",
        art: &[
            "             _                          ",
            "|    _   _  |_|  _  |_      |_|       | ",
            "|   | | |_|   | |   |_  |_|  _|        .",
        ],
    },
    Row {
        says: r#""   #   $   %   &   '   (   )   *   +   "#,
        mark: "=   ?   ?   ?   ?   =   ~   ~   ?   ?   ",
        art: &[
            "         _       _       _   _          ",
            "| |  _| |_    |  _    | |     | |_| |_  ",
            "     _|  _| |   |_|     |_   _|     |   ",
        ],
    },
    Row {
        says: ",   -   .   /   :   ;   <   =   >   ?   ",
        mark: "~   =   =   ~   ?   ?   ?   =   ?   =   ",
        art: &[
            "                 _   _               _  ",
            "     _       _|          _   _   _   _| ",
            "  |        .|    _   _| |_   _   _| |   ",
        ],
    },
    Row {
        says: r#"@   [   \   ]   ^   _   `   {   |   }   "#,
        mark: "?   ~   ~   =   =   =   =   ?   ~   ?   ",
        art: &[
            " _   _       _   _                      ",
            " _| |   |_    | | |     |    _| |   |_  ",
            "|_| |_    |  _|      _        | |   |   ",
        ],
    },
    Row {
        says: "~   °   ",
        mark: "?   =   ",
        art: &[
            " _   _  ",
            "    |_| ",
            "        ",
        ],
    },
];
