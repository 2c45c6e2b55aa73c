//! The options that all commands share.

use clap::{Args, ValueEnum};

/// How the answer is given.
#[derive(Args, Clone, Copy)]
#[command(next_help_heading = "Output")]
pub struct Manners {
    /// Answer in JSON
    ///
    /// Example: spare-tile rig check --json
    #[arg(long, global = true)]
    pub json: bool,
    /// Draw with plain ASCII characters
    ///
    /// Example: spare-tile show 7 --ascii
    #[arg(long, global = true)]
    pub ascii: bool,
    /// On a terminal, draw only what is lit, without the dark segments and dots
    ///
    /// Example: spare-tile show 7 --lit-only
    #[arg(long, global = true)]
    pub lit_only: bool,
    /// Say nothing besides the answer, warnings and errors
    ///
    /// Example: spare-tile rig new clock-module --quiet
    #[arg(short, long, global = true)]
    pub quiet: bool,
    /// Replace existing files, even if Spare Tile did not write them or someone changed them
    ///
    /// Example: spare-tile show 7 --svg seven.svg --force
    #[arg(long, global = true)]
    pub force: bool,
    /// The number of columns that lines may take [default: those of the terminal, otherwise 80]
    ///
    /// Example: spare-tile rig check --width 120
    #[arg(long, global = true, value_name = "COLUMNS", value_parser = clap::value_parser!(u16).range(20..=1000))]
    pub width: Option<u16>,
    /// When to use colour
    ///
    /// `auto` uses it on a terminal, unless the environment variable NO_COLOR is set. How many colours it uses follows from
    /// COLORTERM and TERM: all with `truecolor`, 16 with names such as `linux` and `xterm-16color`, otherwise 256. With 16 only what
    /// is lit is drawn.
    ///
    /// Example: spare-tile show 7 --color always
    #[arg(long, global = true, value_name = "WHEN", default_value = "auto")]
    pub color: When,
}

/// When to use colour.
#[derive(ValueEnum, Clone, Copy, PartialEq, Eq)]
pub enum When {
    Auto,
    Always,
    Never,
}
