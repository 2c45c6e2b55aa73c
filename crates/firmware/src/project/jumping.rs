//! Keys that let all acts go on from another moment: how far each passage of a face has come then.

use std::time::Duration;

use super::model::{JumpModel, PassageModel, StateModel};
use super::passage::Millis;
use super::story::millis;

/// A moment to which a key jumps.
///
/// # Errors
/// With the reason, when a program does not count so far.
pub(super) fn moment(to: Duration) -> Result<Millis, &'static str> {
    millis(to).map_err(|_| "a button jumps further than three weeks")
}

/// What goes on from a moment, as a name in the source.
pub(super) fn name(to: Millis) -> String {
    format!("jump_{to}")
}

/// Why a face cannot go on from a moment.
const HEARD: &str = "buttons run or set what is shown, and a button jumps to another moment of it";
const STEADIED: &str = "a button jumps to another moment, and a reading is made of several looks";
const BAND: &str = "a button jumps to the middle of a reading that stays within a band";

/// How a face goes on from a moment, and with which brightness step. `None` where it shows the same at all moments.
///
/// # Errors
/// With the reason, when what it shows does not follow from the moment.
pub(super) fn jump(
    passages: &[PassageModel],
    to: Millis,
    brightness: Option<u8>,
) -> Result<Option<JumpModel>, &'static str> {
    if passages.iter().any(PassageModel::is_heard) {
        return Err(HEARD);
    }
    if passages.iter().any(|passage| matches!(passage, PassageModel::Value { steadied: Some(_), .. })) {
        return Err(STEADIED);
    }
    if let [only] = passages
        && only.is_timeless()
    {
        return Ok(None);
    }
    let Some((passage, into)) = passage_at(passages, to.into()) else { return Ok(None) };
    let (state, left) = passages[passage].at(into)?;
    let beginnings = passages.iter().map(|passage| passage.at(0).map(|(state, _)| state));
    let mut states = beginnings.collect::<Result<Vec<_>, _>>()?;
    states[passage] = state;
    Ok(Some(JumpModel { what: name(to), to, passage, states, left, brightness }))
}

/// Which passage is shown at a moment, and how long it has been. They begin again after the last one.
fn passage_at(passages: &[PassageModel], moment: u64) -> Option<(usize, u64)> {
    let lengths: Vec<_> = passages.iter().map(PassageModel::length).collect();
    let all: Option<u64> = lengths.iter().copied().sum();
    let mut into = all.map_or(Some(moment), |all| moment.checked_rem(all))?;
    for (passage, length) in lengths.into_iter().enumerate() {
        match length {
            Some(length) if into >= length => into -= length,
            _ => return Some((passage, into)),
        }
    }
    None
}

/// For how long it is shown, where that is not 0, for good.
fn until(lasts: u32) -> Option<u64> {
    (lasts > 0).then(|| lasts.into())
}

impl PassageModel {
    /// Whether it is the same at all moments, or does not go by them.
    fn is_timeless(&self) -> bool {
        match self {
            Self::Film { shown, .. } => shown.len() == 1 && self.rests(),
            Self::Clock { is_wall, lasts, .. } => *is_wall && *lasts == 0,
            Self::Value { .. } | Self::Chosen { .. } => self.rests(),
            _ => false,
        }
    }

    /// How long it is; `None` where it goes on for good.
    fn length(&self) -> Option<u64> {
        match self {
            Self::Film { shown, .. } => shown.iter().map(|(_, lasts, _)| until(*lasts)).sum(),
            Self::Moving { windows, step, .. } => Some(*windows as u64 * u64::from(*step)),
            Self::Count { times, .. } => until(*times).map(|times| times * self.round()),
            Self::Clock { lasts, .. } | Self::Value { lasts, .. } | Self::Chosen { lasts, .. } => {
                until(*lasts)
            }
            Self::Stopwatch { .. } => None,
        }
    }

    /// How long all numbers of a count take.
    fn round(&self) -> u64 {
        let Self::Count { from, to, step, every, hold, .. } = self else { return 0 };
        let steps = (to - from).unsigned_abs() / step.unsigned_abs().max(1);
        (steps * u64::from(*every) + u64::from(*hold)).max(1)
    }

    /// How far it has come after a time, as it is before what is shown then, and for how long that stays.
    fn at(&self, into: u64) -> Result<(StateModel, Option<u32>), &'static str> {
        let rest = |length: u64| u32::try_from(length).unwrap_or(u32::MAX);
        Ok(match self {
            Self::Film { shown, .. } => {
                let (mut at, mut into) = (0, into);
                while let Some(lasts) = until(shown[at].1).filter(|lasts| into >= *lasts)
                    && at + 1 < shown.len()
                {
                    (at, into) = (at + 1, into - lasts);
                }
                (StateModel::At { at }, until(shown[at].1).map(|lasts| rest(lasts.saturating_sub(into))))
            }
            Self::Moving { windows, to_left, step, .. } => {
                let step = u64::from(*step).max(1);
                let (passed, over) = (into / step, into % step);
                let passed = (passed as usize).min(windows - 1);
                let at = if *to_left { passed } else { windows - 1 - passed };
                (StateModel::At { at }, Some(rest(step - over)))
            }
            Self::Count { from, to, step, every, hold, .. } => {
                let (done, into) = (into / self.round(), into % self.round());
                let last = (to - from) / step;
                let passed = i64::try_from(into / u64::from(*every).max(1)).unwrap_or(last).min(last);
                let over = into - passed.unsigned_abs() * u64::from(*every);
                let lasts = if passed == last { hold } else { every };
                (
                    StateModel::Count { number: from + passed * step, done },
                    Some(rest(u64::from(*lasts) - over)),
                )
            }
            Self::Clock { .. } => self.clock_at(into),
            Self::Value { every, band, lasts, .. } => {
                if into > 0 && *band > 0 {
                    return Err(BAND);
                }
                looked_at(*every, *lasts, into)
            }
            Self::Chosen { every, lasts, .. } => looked_at(*every, *lasts, into),
            Self::Stopwatch { .. } => (StateModel::None, None),
        })
    }

    /// The same of a clock.
    fn clock_at(&self, into: u64) -> (StateModel, Option<u32>) {
        let Self::Clock {
            start,
            ticks,
            ticked,
            tick,
            first_tick,
            runs,
            seconds: shows_seconds,
            lasts,
            is_wall,
            ..
        } = self
        else {
            return (StateModel::None, None);
        };
        let (first, long) = (u64::from(*first_tick), u64::from(*tick));
        // Ticks that are over, and when the one that is not is.
        let passed = if into < first { 0 } else { 1 + (into - first) / long };
        let ends = first + passed * long;
        let all = u64::from(*ticked) + passed;
        let (seconds, tick) = (all / u64::from(*ticks), (all % u64::from(*ticks)) as u32);
        let seconds = u32::try_from(seconds).unwrap_or(u32::MAX);
        let time = match *runs {
            "day" => ((u64::from(*start) + u64::from(seconds)) % 86_400) as u32,
            "down" => start.saturating_sub(seconds),
            _ => start.saturating_add(seconds),
        };
        // Seconds that are not shown are counted up whichever way it goes.
        let second = if *runs == "down" && !*shows_seconds { 59 - time % 60 } else { time % 60 };
        let parts = [time / 3600, time / 60 % 60, second];
        let end = until(*lasts);
        // It begins with a whole first tick: what is left after this one, and that.
        let left = match end {
            // The time as it is has ticks of its own.
            Some(end) if *is_wall || into == 0 => end - into,
            Some(end) => end.saturating_sub(ends) + first,
            None => 0,
        };
        let stays = end.map_or(ends, |end| end.min(ends)) - into;
        (StateModel::Clock { time, parts, tick, left: left as u32 }, Some(stays as u32))
    }
}

/// How far what is looked at again and again, or shown as it changes, has come.
fn looked_at(every: u32, lasts: u32, into: u64) -> (StateModel, Option<u32>) {
    let into = into.min(until(lasts).unwrap_or(into)) as u32;
    if every == 0 {
        let left = until(lasts).map(|lasts| lasts as u32 - into);
        return (StateModel::Value { left: lasts, was_lit: false }, left);
    }
    let (looks, over) = (into / every, into % every);
    let left = lasts.saturating_sub(looks * every);
    let stays = if lasts == 0 { every } else { every.min(left) };
    (StateModel::Value { left, was_lit: looks % 2 == 1 }, Some(stays.saturating_sub(over)))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::super::model::SeatsModel;
    use super::*;

    fn seats() -> SeatsModel {
        SeatsModel { list: Vec::new(), pitch: None }
    }

    fn film(lengths: &[u32]) -> PassageModel {
        PassageModel::Film { shown: lengths.iter().map(|lasts| (0, *lasts, None)).collect(), dims: false }
    }

    fn count((from, step, steps): (i64, i64, i64), (every, hold): (u32, u32), times: u32) -> PassageModel {
        PassageModel::Count {
            from,
            to: from + step * steps,
            step,
            every,
            hold,
            times,
            set: 0,
            seats: seats(),
            least: 1,
            marks: Vec::new(),
            negative: true,
            bits: 32,
        }
    }

    /// A clock that begins with so many seconds, `ticked` ticks and part of another one over.
    fn clock(runs: &'static str, start: u32, (ticks, ticked): (u32, u32), first_tick: u32) -> PassageModel {
        PassageModel::Clock {
            set: 0,
            seats: seats(),
            marks: Vec::new(),
            colon: Vec::new(),
            afternoon: Vec::new(),
            twelve: false,
            runs,
            seconds: true,
            first: [(start / 3600) as u8, (start / 60 % 60) as u8, (start % 60) as u8],
            passed: 0,
            start,
            ticks,
            ticked,
            tick: 1000 / ticks,
            first_tick,
            blinks: ticks > 1,
            lasts: 0,
            is_set: false,
            is_wall: false,
            goes_on: false,
        }
    }

    /// What a program shows of a clock, tick by tick as it counts them.
    fn ticked_on(runs: &str, [hours, minutes, seconds]: [u32; 3]) -> [u32; 3] {
        let day = if runs == "day" { 24 } else { u32::MAX };
        match (runs, [hours, minutes, seconds]) {
            ("down", [0, 0, 0]) => [0, 0, 0],
            ("down", [hours, 0, 0]) => [hours - 1, 59, 59],
            ("down", [hours, minutes, 0]) => [hours, minutes - 1, 59],
            ("down", [hours, minutes, seconds]) => [hours, minutes, seconds - 1],
            (_, [hours, 59, 59]) => [(hours + 1) % day, 0, 0],
            (_, [hours, minutes, 59]) => [hours, minutes + 1, 0],
            (_, [hours, minutes, seconds]) => [hours, minutes, seconds + 1],
        }
    }

    proptest! {
        #[test]
        fn a_count_is_where_counting_leads(
            range in (-50_i64..50, prop_oneof![-7_i64..0, 1_i64..8], 0_i64..9),
            pace in (1_u32..40, 1_u32..60),
            into in 0_u64..3000,
        ) {
            let passage = count(range, pace, 0);
            let (from, step, steps) = range;
            let (mut number, mut over, mut done) = (0, into, 0);
            let lasts = |number: i64| u64::from(if number == steps { pace.1 } else { pace.0 });
            while over >= lasts(number) {
                over -= lasts(number);
                done += u64::from(number == steps);
                number = if number == steps { 0 } else { number + 1 };
            }
            let left = (lasts(number) - over) as u32;
            let expected = StateModel::Count { number: from + step * number, done };
            prop_assert_eq!(passage.at(into), Ok((expected, Some(left))));
        }

        #[test]
        fn a_clock_is_where_its_ticks_lead(
            runs in prop_oneof![Just("day"), Just("up"), Just("down")],
            start in prop_oneof![0_u32..200, 86_000_u32..86_400],
            (ticks, ticked, first) in (1_u32..5).prop_flat_map(|ticks| (Just(ticks), 0..ticks, 1..=1000 / ticks)),
            into in 0_u64..400_000,
        ) {
            let passage = clock(runs, start, (ticks, ticked), first);
            let (mut parts, mut tick) = ([start / 3600, start / 60 % 60, start % 60], ticked);
            let (mut lasts, mut over) = (u64::from(first), into);
            while over >= lasts {
                over -= lasts;
                lasts = u64::from(1000 / ticks);
                tick = (tick + 1) % ticks;
                if tick == 0 {
                    parts = ticked_on(runs, parts);
                }
            }
            let time = 3600 * parts[0] + 60 * parts[1] + parts[2];
            let expected = StateModel::Clock { time, parts, tick, left: 0 };
            prop_assert_eq!(passage.at(into), Ok((expected, Some((lasts - over) as u32))));
        }

        /// Passages that begin again are at a moment where they are a whole round later.
        #[test]
        fn a_round_later_all_is_as_before(
            lengths in prop::collection::vec(1_u32..90, 1..6),
            times in 1_u32..4,
            to in 0_u32..2000,
        ) {
            let passages = [film(&lengths), count((3, 2, 4), (20, 30), times)];
            let round = lengths.iter().sum::<u32>() + times * (4 * 20 + 30);
            let at = |to: u32| jump(&passages, to, None).unwrap().unwrap();
            let (now, later) = (at(to), at(to + round));
            prop_assert_eq!((now.passage, &now.states, now.left), (later.passage, &later.states, later.left));
            let other = 1 - now.passage;
            prop_assert_eq!(&now.states[other], &passages[other].at(0).unwrap().0, "begins anew");
        }
    }

    #[test]
    fn a_film_is_at_the_picture_of_the_moment() {
        let passage = film(&[300, 200, 0]);
        for (into, at, left) in [(0, 0, Some(300)), (299, 0, Some(1)), (300, 1, Some(200)), (9000, 2, None)] {
            assert_eq!(passage.at(into), Ok((StateModel::At { at }, left)), "{into} ms");
        }
    }

    #[test]
    fn a_window_is_where_it_has_moved_to() {
        let moving = |to_left| PassageModel::Moving { strip: 0, windows: 5, to_left, step: 60, ink: None };
        assert_eq!(moving(true).at(130), Ok((StateModel::At { at: 2 }, Some(50))));
        assert_eq!(moving(false).at(130), Ok((StateModel::At { at: 2 }, Some(50))));
        assert_eq!(moving(false).at(0), Ok((StateModel::At { at: 4 }, Some(60))));
    }

    /// A cursor's figure is lit for the first half of a second, and dark for the second.
    #[test]
    fn a_cursor_blinks_on_where_it_was() {
        let looked = |into| looked_at(500, 1700, into);
        assert_eq!(looked(0), (StateModel::Value { left: 1700, was_lit: false }, Some(500)));
        assert_eq!(looked(600), (StateModel::Value { left: 1200, was_lit: true }, Some(400)));
        assert_eq!(looked(1600), (StateModel::Value { left: 200, was_lit: true }, Some(100)));
    }
}
