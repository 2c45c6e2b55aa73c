//! The timetable of a scan shown slowed down: digit by digit at first, then faster, until it fuses.

use std::time::Duration;

use crate::units::Nanos;

/// A piece of the show: its time on the screen, and the time of the scan in it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Piece {
    /// How many times slower than it is.
    pub slowed: f64,
    /// How long the piece is on the screen.
    pub shown: Duration,
    /// How much of the scan passes in it.
    pub passes: Nanos,
}

/// How many turns are shown at each speed, and for how long at least.
const TURNS: f64 = 2.0;
const LEAST: f64 = 0.8;
/// How long it is shown at full speed.
const FUSED: f64 = 2.0;

/// The pieces of a show that begins `slowed` times slower than the scan, at least 1, and doubles its speed until it is
/// the scan's own. A piece is on the screen for `piece`, the time between two pictures.
pub fn timetable(turn: Nanos, slowed: f64, piece: Duration) -> impl Iterator<Item = Piece> {
    let speeds = std::iter::successors(Some(slowed.max(1.0)), |slowed| match *slowed {
        slowed if slowed <= 1.0 => None,
        slowed => Some((slowed / 2.0).max(1.0)),
    });
    speeds.flat_map(move |slowed| {
        let turn = turn.0 as f64 / 1e9 * slowed;
        let long = if slowed > 1.0 { (TURNS * turn).max(LEAST) } else { FUSED };
        let pieces = (long / piece.as_secs_f64()).round().max(1.0) as usize;
        let passes = Nanos((piece.as_nanos() as f64 / slowed).round() as u64);
        std::iter::repeat_n(Piece { slowed, shown: piece, passes }, pieces)
    })
}

/// How long such a show is.
#[must_use]
pub fn length(turn: Nanos, slowed: f64) -> Duration {
    let turn = turn.0 as f64 / 1e9;
    let speeds = std::iter::successors(Some(slowed.max(1.0)), |slowed| {
        (*slowed > 1.0).then_some((slowed / 2.0).max(1.0))
    });
    let long = speeds.map(|slowed| if slowed > 1.0 { (TURNS * turn * slowed).max(LEAST) } else { FUSED });
    Duration::from_secs_f64(long.sum())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_begins_slow_and_ends_at_full_speed() {
        let pieces: Vec<_> = timetable(Nanos(8_000_000), 200.0, Duration::from_millis(40)).collect();
        let speeds: Vec<_> =
            pieces.chunk_by(|a, b| a.slowed == b.slowed).map(|run| (run[0].slowed, run.len())).collect();
        assert_eq!(speeds[..3], [(200.0, 80), (100.0, 40), (50.0, 20)]);
        assert_eq!(speeds.last(), Some(&(1.0, 50)));
        let shown: Duration = pieces.iter().map(|piece| piece.shown).sum();
        assert!(shown.abs_diff(length(Nanos(8_000_000), 200.0)) < Duration::from_millis(200));
        assert_eq!(pieces[0].passes, Nanos(200_000));
        assert_eq!(pieces.last().map(|piece| piece.passes), Some(Nanos(40_000_000)));
    }

    #[test]
    fn no_slower_than_it_is() {
        assert!(timetable(Nanos(1), 0.0, Duration::from_millis(40)).all(|piece| piece.slowed == 1.0));
    }
}
