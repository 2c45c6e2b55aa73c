//! The characters of a fourteen-segment digit.
//!
//! The strokes lie as on the part: `-` bars (the middle one in two halves), `|` uprights, slashes for the
//! diagonals, `.` the point.

use super::sheet::{Row, Sheet, Table};

/// The glyphs by character.
pub(super) static TABLE: Table = SHEET.table();

/// Every character of the style, drawn.
pub(super) const SHEET: Sheet = Sheet { step: 7, places: PLACES, rows: ROWS };

/// Line and column of a stroke of each segment, in the order a b c d e f g1 g2 h i j k l m dp.
#[rustfmt::skip]
const PLACES: &[(usize, usize)] = &[
    (0, 2), (1, 4), (3, 4), (4, 2), (3, 0), (1, 0), (2, 1), (2, 3), (1, 1), (1, 2), (1, 3), (3, 1), (3, 2), (3, 3), (4, 5),
];

#[rustfmt::skip]
const ROWS: &[Row] = &[
    Row {
        says: "0      1      2      3      4      5      6      7      8      9      ",
        mark: "=      =      =      =      =      =      =      =      =      =      ",
        art: &[
            r" ---           ---    ---           ---    ---    ---    ---    ---   ",
            r"|  /|     /|      |      |  |   |  |      |          |  |   |  |   |  ",
            r"               - -      -    - -    -      - -           - -    - -   ",
            r"|/  |      |  |          |      |     \   |   |      |  |   |      |  ",
            r" ---           ---    ---           ---    ---           ---    ---   ",
        ],
    },
    Row {
        says: "A      B      C      D      E      F      G      H      I      J      ",
        mark: "=      =      =      =      =      =      =      =      =      =      ",
        art: &[
            " ---    ---    ---    ---    ---    ---    ---           ---          ",
            "|   |    | |  |        | |  |      |      |      |   |    |        |  ",
            " - -      -                  -      -        -    - -                 ",
            "|   |    | |  |        | |  |      |      |   |  |   |    |    |   |  ",
            "        ---    ---    ---    ---           ---           ---    ---   ",
        ],
    },
    Row {
        says: "K      L      M      N      O      P      Q      R      S      T      ",
        mark: "=      =      =      =      =      =      =      =      =      =      ",
        art: &[
            r"                             ---    ---    ---    ---    ---    ---   ",
            r"|  /   |      |\ /|  |\  |  |   |  |   |  |   |  |   |  |        |    ",
            r" -                                  - -           - -    - -          ",
            r"|  \   |      |   |  |  \|  |   |  |      |  \|  |  \       |    |    ",
            r"        ---                  ---           ---           ---          ",
        ],
    },
    Row {
        says: "U      V      W      X      Y      Z      a      b      c      d      ",
        mark: "=      =      =      =      =      =      =      =      =      =      ",
        art: &[
            r"                                    ---                               ",
            r"|   |  |  /   |   |   \ /    \ /      /          |                 |  ",
            r"                                           -      -      - -      -   ",
            r"|   |  |/     |/ \|   / \     |     /     | |    |  \   |       /  |  ",
            r" ---                                ---    ---    ---    ---    ---   ",
        ],
    },
    Row {
        says: "e      f      g      h      i      j      k      l      m      n      ",
        mark: "=      =      ~      =      =      =      =      =      =      =      ",
        art: &[
            r"               ---                                                    ",
            r"          /     | |  |                      |/   |                    ",
            r" -      - -      -    -                                  - -    - -   ",
            r"|/       |        |  |  \     |        |    |\   |      | | |  |   |  ",
            r" ---           ---                  ---                               ",
        ],
    },
    Row {
        says: "o      p      q      r      s      t      u      v      w      y      ",
        mark: "=      =      =      =      =      =      =      =      =      ~      ",
        art: &[
            r"                                                                      ",
            r"       |\        /|                |                           |   |  ",
            r" - -    -        -    -        -    -                           - -   ",
            r"|   |  |          |  |         \   |      |   |  |/     |/ \|      |  ",
            r" ---                         ---    ---    ---                  ---   ",
        ],
    },
    Row {
        says: r#"z             !      "      #      $      %      &      '      (      "#,
        mark: "=      =      ~      =      ~      =      ~      ~      =      ~      ",
        art: &[
            r"                                    ---           ---                 ",
            r"                |    |   |    | |  | |    |  /    \|      |       /   ",
            r" -                           - -    - -           -                   ",
            r" /                            | |    | |   /  |  |  \             \   ",
            r" ---               .         ---    ---           ---                 ",
        ],
    },
    Row {
        says: ")      *      +      ,      -      .      /      :      ;      <      ",
        mark: "~      =      =      =      =      =      =      ?      ~      ~      ",
        art: &[
            r"                                                  ---                 ",
            r" \      \|/     |                            /            |       /   ",
            r"        - -    - -           - -                                      ",
            r" /      /|\     |     /                    /             /        \   ",
            r"                                        .         ---                 ",
        ],
    },
    Row {
        says: r#"=      >      ?      @      [      \      ]      ^      _      `      "#,
        mark: "=      ~      =      =      ~      =      =      =      =      =      ",
        art: &[
            r"               ---    ---    ---           ---                        ",
            r"        \         |  | | |  |       \         |                 \     ",
            r" - -             -      -                                             ",
            r"        /       |    |      |         \       |   / \                 ",
            r" ---                  ---    ---           ---           ---          ",
        ],
    },
    Row {
        says: "{      |      }      ~      °      ",
        mark: "=      =      =      ?      =      ",
        art: &[
            r"                             ---   ",
            r"   /     |     \        /   |   |  ",
            r" -               -    -      - -   ",
            r"   \     |     /                   ",
            r"                                   ",
        ],
    },
];
