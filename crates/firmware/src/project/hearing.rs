//! What buttons do to acts: run a stopwatch, set a clock.

use spare_tile_core::plan::ButtonId;
use spare_tile_core::play::clock::Sets;
use spare_tile_core::play::{Act, Kind};

/// Something that a button does to what plays.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Hearing {
    pub button: ButtonId,
    /// The face on which something happens, by its place in the rig.
    pub on: usize,
    pub does: Does,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Does {
    StartStop,
    Lap,
    HourOn,
    MinuteOn,
    NearestMinute,
}

impl Does {
    /// It, as a name in the source.
    pub const fn name(self) -> &'static str {
        match self {
            Self::StartStop => "start_stop",
            Self::Lap => "lap",
            Self::HourOn => "hour_on",
            Self::MinuteOn => "minute_on",
            Self::NearestMinute => "nearest_minute",
        }
    }
}

/// What buttons do to the acts of a face.
pub(super) fn hearings(on: usize, act: &dyn Act) -> Vec<Hearing> {
    let mut found = Vec::new();
    each_act(act, &mut |kind| match kind {
        Kind::Stopwatch(watch) => {
            let start = (watch.start, Does::StartStop);
            let lap = watch.lap.map(|lap| (lap, Does::Lap));
            let heard = [Some(start), lap].into_iter().flatten();
            found.extend(heard.map(|(button, does)| Hearing { button, on, does }));
        }
        Kind::Clock(clock) => found.extend(clock.setters.iter().map(|setter| {
            let does = match setter.sets {
                Sets::Hour => Does::HourOn,
                Sets::Minute => Does::MinuteOn,
                Sets::Second => Does::NearestMinute,
            };
            Hearing { button: setter.button, on, does }
        })),
        _ => {}
    });
    found
}

/// An act, and all that it is made of.
pub(super) fn each_act<'a>(act: &'a dyn Act, take: &mut dyn FnMut(Kind<'a>)) {
    match act.kind() {
        Kind::Placed(placed) => each_act(placed.inner().0, take),
        Kind::Sequence(sequence) => sequence.parts().iter().for_each(|part| each_act(&*part.act, take)),
        kind => take(kind),
    }
}
