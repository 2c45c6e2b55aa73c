//! Glyphs and bytes are each other's inverse.

use proptest::prelude::*;
use spare_tile_core::content::guess::{guess_expecting, read};
use spare_tile_core::content::number::{Decimal, NumberFormat, Room};
use spare_tile_core::glyph::literals::{self, BareBase};
use spare_tile_core::glyph::{BitOrder, Common, Style, glyph};

use crate::common::{common, exact, order, style_and_order};

proptest! {
    #[test]
    fn decoding_undoes_encoding_for_every_exact_glyph((style, order) in style_and_order(), common in common()) {
        let characters = exact(style);
        let bits: Vec<_> =
            characters.iter().map(|c| order.bits(glyph(style, *c).unwrap().segments, common)).collect();
        prop_assert_eq!(read(&bits, order, common).reads, characters.into_iter().collect::<String>());
    }

    #[test]
    fn bits_and_segments_are_inverse((style, order) in style_and_order(), common in common(), bits: u32) {
        let bits = bits & ((1 << order.width()) - 1);
        prop_assert_eq!(order.bits(order.segments(bits, common), common), bits);
        prop_assert_eq!(BitOrder::parse(&order.to_string(), style), Ok(order));
    }

    #[test]
    fn any_wiring_of_seven_segments_is_found_from_the_digits(
        order in order(Style::Seven),
        common in common(),
        wrong in 0..10_usize,
        segment in 0..8_usize,
    ) {
        let digits = "0123456789";
        let segments = |c| glyph(Style::Seven, c).unwrap().segments;
        let mut bits: Vec<_> = digits.chars().map(|c| order.bits(segments(c), common)).collect();
        let sound = &guess_expecting(&bits, digits, &BitOrder::usual(Style::Seven), Common::Cathode).unwrap()[0];
        prop_assert!(sound.wrong.is_empty());
        prop_assert_eq!((&sound.order, sound.common), (&order, common));

        bits[wrong] ^= 1 << order.bit_of(segment).unwrap();
        let spoilt = &guess_expecting(&bits, digits, &BitOrder::usual(Style::Seven), Common::Cathode).unwrap()[0];
        prop_assert_eq!(spoilt.wrong.len(), 1);
    }

    #[test]
    fn whatever_is_pasted_nothing_panics(text: String, bits in 1..=32_usize) {
        for base in [BareBase::Hex, BareBase::Binary, BareBase::Decimal] {
            let _ = literals::parse(&text, base, bits);
        }
    }

    #[test]
    fn a_number_is_written_whole_or_not_at_all(value: i64, places in 0..6_u32, digits in 1..12_usize) {
        let format = NumberFormat { places: Some(places), ..NumberFormat::default() };
        let room = Room { digits, points: true };
        if let Ok(text) = format.write(value.into(), room) {
            prop_assert_eq!(text.split('.').next().unwrap(), value.to_string());
            prop_assert_eq!(text.parse::<Decimal>().map(|d| format.write(d, room)), Ok(Ok(text.clone())));
        } else {
            prop_assert_eq!(format.write_live(value.into(), room), "-".repeat(digits));
        }
    }
}
