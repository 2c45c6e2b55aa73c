//! The wiring behind a table of bytes: which bit is which segment, and which level lights.

use super::text;
use crate::glyph::{BitOrder, Common, Grade, OwnGlyphs, Segments, Style, glyph, other_forms, readings};

/// An entry of a table that is not what was expected.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WrongEntry {
    /// Its place in the table, from 0.
    pub entry: usize,
    /// The segments that it should light and does not.
    pub lacks: Segments,
    /// The segments that it lights and should not.
    pub extra: Segments,
    /// The entry.
    pub found: u32,
    /// The right value.
    pub right: u32,
}

/// A way to read a table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Guess {
    /// Which segment sits on which bit.
    pub order: BitOrder,
    /// Which level lights.
    pub common: Common,
    /// The character of each entry; `?` if it is not a character.
    pub reads: String,
    /// How many entries the table has.
    pub count: usize,
    /// How many entries are read as an exact glyph.
    pub exact: usize,
    /// How many are read as any character.
    pub read: usize,
    /// The entries that differ from what was expected; empty when nothing was.
    pub wrong: Vec<WrongEntry>,
    /// Segments that the table cannot tell apart: their bits could be exchanged.
    pub untold: Vec<Segments>,
}

/// Why a table cannot be compared with a text.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum GuessError {
    /// The text and the table differ in length.
    #[error("the expected text has {expected} characters; the table has {entries} entries")]
    Length {
        /// Characters of the text.
        expected: usize,
        /// Entries of the table.
        entries: usize,
    },
    /// The text has a character that the style cannot show.
    #[error(transparent)]
    Text(#[from] text::TextError),
}

/// Both polarities.
const COMMONS: [Common; 2] = [Common::Cathode, Common::Anode];

/// The orders that people use: in both directions, the point first or last.
fn usual_orders(style: Style) -> Vec<BitOrder> {
    let segments: Vec<usize> = (0..style.point_index()).collect();
    let point = [style.point_index()];
    let (up, down) = (segments.clone(), segments.into_iter().rev().collect::<Vec<_>>());
    let orders = [[&point[..], &down], [&point[..], &up], [&up[..], &point], [&down[..], &point]];
    orders.iter().filter_map(|order| BitOrder::of_indices(style, order.concat())).collect()
}

/// Reads a table in both polarities and all usual orders, the most sensible first.
#[must_use]
pub fn guess(values: &[u32], style: Style) -> Vec<Guess> {
    let orders = usual_orders(style);
    let ways = orders.into_iter().flat_map(|order| COMMONS.map(|common| (order.clone(), common)));
    let mut guesses: Vec<_> = ways.map(|(order, common)| read(values, order, common)).collect();
    guesses.sort_by_key(|guess| std::cmp::Reverse((guess.exact, guess.read)));
    guesses
}

/// Reads a table in one way.
#[must_use]
pub fn read(values: &[u32], order: BitOrder, common: Common) -> Guess {
    let style = order.style();
    // A digit in another form is meant where the table has it in none else: 67 is a Q beside 6F, and else a 9.
    let is_meant = |(digit, _): &&(char, Segments)| {
        let usual = glyph(style, *digit).map(|glyph| glyph.segments);
        !values.iter().any(|value| Some(order.segments(*value, common).less(style.point())) == usual)
    };
    let meant: Vec<_> = other_forms(style).iter().filter(is_meant).collect();
    let (mut reads, mut exact, mut read) = (String::new(), 0, 0);
    for value in values {
        let segments = order.segments(*value, common);
        let (point, bare) = (segments.has(style.point()), segments.less(style.point()));
        let usual = readings(style, bare).first().copied();
        let exact_one = usual.filter(|(_, grade)| *grade == Grade::Exact);
        let digit =
            || meant.iter().find(|(_, form)| *form == bare).map(|(digit, _)| (*digit, Grade::InContext));
        match exact_one.or_else(digit).or(usual) {
            Some((character, grade)) => {
                reads.push(character);
                read += 1;
                exact += usize::from(grade == Grade::Exact && character != ' ');
            }
            None => reads.push('?'),
        }
        if point {
            reads.push('.');
        }
    }
    Guess { order, common, reads, count: values.len(), exact, read, wrong: Vec::new(), untold: Vec::new() }
}

/// Finds the wiring under which a table shows a text, over all orders and both polarities: the one in which
/// the fewest bits are wrong. Gives one guess for each polarity, the better first; before them the wiring that is thought
/// to be there, or a usual one, where no other is better.
///
/// # Errors
/// When the text is not as long as the table, or the style cannot show it.
pub fn guess_expecting(
    values: &[u32],
    expected: &str,
    order: &BitOrder,
    common: Common,
) -> Result<Vec<Guess>, GuessError> {
    let style = order.style();
    let own = OwnGlyphs::default();
    let wanted = text::cells(expected, true).map(|cell| cell.segments(style, &own));
    let wanted: Vec<_> = wanted.collect::<Result<_, _>>()?;
    if wanted.len() != values.len() {
        return Err(GuessError::Length { expected: wanted.len(), entries: values.len() });
    }
    let mut guesses: Vec<_> =
        COMMONS.iter().filter_map(|common| best_order(values, &wanted, *common, style)).collect();
    guesses.sort_by_key(|guess| wrong_bits(&guess.wrong));
    let fewest = guesses.first().map_or(u32::MAX, |best| wrong_bits(&best.wrong));
    let usual =
        usual_orders(style).into_iter().flat_map(|order| COMMONS.map(|common| (order.clone(), common)));
    let known = std::iter::once((order.clone(), common)).chain(usual);
    let mut known = known.map(|(order, common)| judge(values, &wanted, order, common));
    if let Some(known) = known.find(|guess| wrong_bits(&guess.wrong) <= fewest) {
        guesses.insert(0, known);
    }
    Ok(guesses)
}

/// Reads a table in one way and compares it with what was expected.
fn judge(values: &[u32], wanted: &[Segments], order: BitOrder, common: Common) -> Guess {
    let wrong = values.iter().zip(wanted).enumerate().filter_map(|(entry, (found, wanted))| {
        let shown = order.segments(*found, common);
        (shown != *wanted).then(|| WrongEntry {
            entry,
            lacks: wanted.less(shown),
            extra: shown.less(*wanted),
            found: *found,
            right: order.bits(*wanted, common),
        })
    });
    let (wrong, untold) = (wrong.collect(), untold(wanted, order.style().segment_count()));
    Guess { wrong, untold, ..read(values, order, common) }
}

/// How many bits of a table are wrong.
#[must_use]
pub fn wrong_bits(wrong: &[WrongEntry]) -> u32 {
    wrong.iter().map(|entry| (entry.lacks.0 | entry.extra.0).count_ones()).sum()
}

/// The order with the fewest wrong bits.
///
/// An order assigns each bit a segment, or nothing where there are more bits than segments; the point may have no bit. An
/// assignment costs the entries in which the bit is not what the segment should be; a bit with nothing on it costs the entries
/// in which it differs from the others. The cheapest assignment is found over sets of segments: the cheapest way to give the
/// first bits to a set of segments, with a number of bits left out, is the cheapest over its last step (the exact method for the
/// assignment problem of this size).
fn best_order(values: &[u32], wanted: &[Segments], common: Common, style: Style) -> Option<Guess> {
    let segments = style.segment_count();
    let sets = 1_usize << segments;
    let bits = segments.next_multiple_of(8);
    // One more where the point has no bit.
    let most_skipped = bits - segments + 1;
    let cost = costs(values, wanted, common, (bits, segments));
    let at = |skipped: usize, set: usize| skipped * sets + set;
    let mut cheapest = vec![u32::MAX; (most_skipped + 1) * sets];
    // The segment that was given away last; `segments` for a bit with nothing on it.
    let mut last = vec![0_u8; cheapest.len()];
    cheapest[0] = 0;
    for skipped in 0..=most_skipped {
        for set in 0..sets {
            let Some(bit) = (set.count_ones() as usize + skipped).checked_sub(1).filter(|bit| *bit < bits)
            else {
                continue;
            };
            let mut best = (u32::MAX, 0);
            let mut members = set;
            while members != 0 {
                let segment = members.trailing_zeros() as usize;
                members &= members - 1;
                let before = cheapest[at(skipped, set & !(1 << segment))];
                best = best.min((before.saturating_add(cost[bit * (segments + 1) + segment]), segment));
            }
            if skipped > 0 {
                let before = cheapest[at(skipped - 1, set)];
                best = best.min((before.saturating_add(cost[bit * (segments + 1) + segments]), segments));
            }
            (cheapest[at(skipped, set)], last[at(skipped, set)]) = (best.0, best.1 as u8);
        }
    }
    let all = sets - 1;
    let pointless = all & !(1 << style.point_index());
    // Where both explain the table as well, the point has its bit.
    let ends = [(bits - segments, all), (bits - segments + 1, pointless)];
    let (mut skipped, mut set) =
        ends.into_iter().min_by_key(|(skipped, set)| cheapest[at(*skipped, *set)])?;
    // Most significant first: the last bit was given away last.
    let mut names = Vec::with_capacity(bits);
    while set != 0 || skipped > 0 {
        let given = usize::from(last[at(skipped, set)]);
        if given == segments {
            names.push("-");
            skipped -= 1;
        } else {
            names.push(style.segment_names()[given]);
            set &= !(1 << given);
        }
    }
    // Unused bits at the top need not be written.
    let used = names.iter().position(|name| *name != "-").unwrap_or(0);
    let order = BitOrder::parse(&names[used..].join(" "), style).ok()?;
    Some(judge(values, wanted, order, common))
}

/// How many entries speak against each bit being each segment, and against it being nothing: bit `b`, segment `s` at
/// `b * (count + 1) + s`, and nothing behind the segments.
fn costs(values: &[u32], wanted: &[Segments], common: Common, (bits, count): (usize, usize)) -> Vec<u32> {
    let mut cost = vec![0; bits * (count + 1)];
    for bit in 0..bits {
        let cost = &mut cost[bit * (count + 1)..][..=count];
        let mut high = 0;
        for (value, wanted) in values.iter().zip(wanted) {
            let is_high = value >> bit & 1 == 1;
            high += u32::from(is_high);
            for (segment, cost) in cost[..count].iter_mut().enumerate() {
                *cost += u32::from((is_high == common.lit_level()) != wanted.has_index(segment));
            }
        }
        cost[count] = high.min(values.len() as u32 - high);
    }
    cost
}

/// Groups of segments that every expected character lights together or not at all.
fn untold(wanted: &[Segments], count: usize) -> Vec<Segments> {
    let same = |one: usize, other: usize| wanted.iter().all(|set| set.has_index(one) == set.has_index(other));
    let mut groups: Vec<Segments> = (0..count)
        .map(|one| (0..count).filter(|other| same(one, *other)).collect::<Segments>())
        .filter(|group| group.0.count_ones() > 1)
        .collect();
    groups.sort_unstable();
    groups.dedup();
    groups
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_nine_without_its_tail_is_one_unless_the_table_has_another() {
        let first = |values: &[u32]| guess(values, Style::Seven)[0].reads.clone();
        let digits = [0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x27, 0x7F];
        assert_eq!(first(&[&digits[..], &[0x67]].concat()), "0123456789");
        assert_eq!(first(&[&digits[..], &[0x67, 0x6F]].concat()), "012345678Q9");
        assert_eq!(first(&[0x77, 0x7C, 0x39, 0x5E, 0x79]), "AbCdE", "what is a letter's alone stays one");
    }

    fn expecting(values: &[u32], text: &str, style: Style) -> Result<Vec<Guess>, GuessError> {
        guess_expecting(values, text, &BitOrder::usual(style), Common::Cathode)
    }

    /// If several wirings explain a table, the most likely one is reported.
    #[test]
    fn what_is_thought_is_kept_where_it_may_be() {
        let mine = BitOrder::parse("a b c d e f g dp", Style::Seven).unwrap();
        let best = guess_expecting(&[0x60, 0xFC], "10", &mine, Common::Cathode).unwrap().remove(0);
        assert_eq!((best.order, best.wrong), (mine, vec![]));
        let usual = expecting(&[0x3F], "0", Style::Seven).unwrap().remove(0);
        assert_eq!((usual.order, usual.common), (BitOrder::usual(Style::Seven), Common::Cathode));
    }

    const DIGITS: [u32; 10] = [0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F];

    #[test]
    fn the_usual_orders_and_polarities_are_told_apart() {
        let first = |values: &[u32]| {
            let best = guess(values, Style::Seven).remove(0);
            (best.order.to_string(), best.common, best.reads, best.exact)
        };
        let digits = || "0123456789".to_owned();
        assert_eq!(first(&DIGITS), ("dp g f e d c b a".into(), Common::Cathode, digits(), 10));
        let anode = DIGITS.map(|value| !value & 0xFF);
        assert_eq!(first(&anode), ("dp g f e d c b a".into(), Common::Anode, digits(), 10));
        let turned = DIGITS.map(|value| u32::from((value as u8).reverse_bits()));
        assert_eq!(first(&turned), ("a b c d e f g dp".into(), Common::Cathode, digits(), 10));
    }

    /// A table of seven bits has nothing on the eighth, whatever that is.
    #[test]
    fn a_bit_may_have_nothing_on_it() {
        let seven = BitOrder::parse("- g f e d c b a", Style::Seven).unwrap();
        for constant in [0, 0x80] {
            for common in [Common::Cathode, Common::Anode] {
                let values = DIGITS
                    .map(|value| if common == Common::Anode { !value & 0x7F } else { value } | constant);
                let best = expecting(&values, "0123456789", Style::Seven).unwrap().remove(0);
                assert!(best.wrong.is_empty(), "{constant:02X} {common:?}: {} {:?}", best.order, best.wrong);
                let read: Vec<_> =
                    values.iter().map(|value| best.order.segments(*value, best.common)).collect();
                let wanted = DIGITS.map(|value| seven.segments(value, Common::Cathode));
                assert_eq!(read, wanted, "{}", best.order);
            }
        }
        // Of sixteen bits any one is free for fourteen segments with their point.
        let text = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ-+*/";
        let names = ["h", "i", "-", "j", "k", "l", "m", "g1", "g2", "dp", "f", "e", "d", "c", "b", "a"];
        let order = BitOrder::parse(&names.join(" "), Style::Fourteen).unwrap();
        let own = OwnGlyphs::default();
        let cells = text::cells(text, true).map(|cell| cell.segments(Style::Fourteen, &own).unwrap());
        let values: Vec<_> = cells.map(|segments| order.bits(segments, Common::Cathode)).collect();
        let best = expecting(&values, text, Style::Fourteen).unwrap().remove(0);
        assert!(best.wrong.is_empty(), "{}: {:?}", best.order, best.wrong);
    }

    #[test]
    fn any_wiring_is_found_when_the_text_is_known() {
        let order = BitOrder::parse("c g dp a f b e d", Style::Seven).unwrap();
        let usual = BitOrder::usual(Style::Seven);
        let scrambled = DIGITS.map(|value| order.bits(usual.segments(value, Common::Cathode), Common::Anode));
        let best = expecting(&scrambled, "0123456789", Style::Seven).unwrap().remove(0);
        assert_eq!(
            (best.order, best.common, best.wrong, best.untold),
            (order, Common::Anode, vec![], vec![])
        );
    }

    #[test]
    fn one_wrong_entry_is_named() {
        let mut table = DIGITS;
        table[6] = 0x6D; // 6 without its segment e
        let best = expecting(&table, "0123456789", Style::Seven).unwrap().remove(0);
        let e = Segments(1 << 4);
        assert_eq!(best.order, BitOrder::usual(Style::Seven));
        assert_eq!(
            best.wrong,
            [WrongEntry { entry: 6, lacks: e, extra: Segments::NONE, found: 0x6D, right: 0x7D }]
        );
    }

    #[test]
    fn what_a_short_text_cannot_tell_is_said() {
        let best = expecting(&[0x06, 0x3F], "10", Style::Seven).unwrap().remove(0);
        let names = |group: &Segments| group.names(Style::Seven).collect::<String>();
        assert_eq!(best.untold.iter().map(names).collect::<Vec<_>>(), ["bc", "adef", "gdp"]);
    }

    #[test]
    fn sixteen_segments_are_searched_too() {
        let style = Style::Sixteen;
        let plain = |character: &char| !"{}.".contains(*character);
        let text: String = crate::glyph::characters(style).filter(plain).collect();
        let mut indices: Vec<usize> = (0..17).rev().collect();
        indices.swap(3, 11);
        let order = BitOrder::of_indices(style, indices).unwrap();
        let bits = |character| order.bits(glyph(style, character).unwrap().segments, Common::Cathode);
        let values: Vec<_> = text.chars().map(bits).collect();
        let best = expecting(&values, &text, style).unwrap().remove(0);
        assert_eq!((wrong_bits(&best.wrong), best.order), (0, order));
    }

    #[test]
    fn a_text_of_another_length_is_refused() {
        let error = GuessError::Length { expected: 2, entries: 10 };
        assert_eq!(expecting(&DIGITS, "01", Style::Seven), Err(error));
    }
}
