//! Enums whose values people write as words, in rigs, in reels and on the command line.
//!
//! `words!` states each value with its word and its meaning once; reading it from a file, its JSON Schema and the help of an
//! option follow from that.

/// An enum whose values are written as words.
pub trait Word: Copy + 'static {
    /// All values, in the order in which they are listed.
    const ALL: &'static [Self];

    /// Returns the word, without quotes.
    fn word(self) -> &'static str;

    /// Returns the meaning in a few words, without a full stop.
    fn about(self) -> &'static str;

    /// Returns the value for a word, if there is one.
    #[must_use]
    fn of_word(word: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|value| value.word() == word)
    }
}

/// Defines an enum whose values are written as words: each with a doc comment of one line, and its word.
macro_rules! words {
    (
        $(#[$outer:meta])*
        $visible:vis enum $name:ident {
            $(#[doc = $about:literal] $(#[$mark:ident])? $value:ident = $word:literal,)+
        }
    ) => {
        $(#[$outer])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        $visible enum $name {
            $(#[doc = $about] $(#[$mark])? #[serde(rename = $word)] $value,)+
        }

        impl $crate::words::Word for $name {
            const ALL: &'static [Self] = &[$(Self::$value),+];

            fn word(self) -> &'static str {
                match self {
                    $(Self::$value => $word,)+
                }
            }

            fn about(self) -> &'static str {
                let about = match self {
                    $(Self::$value => $about,)+
                };
                about.trim().trim_end_matches('.')
            }
        }
    };
}
pub(crate) use words;

#[cfg(test)]
mod tests {
    use super::*;

    words! {
        /// A side of the landing.
        enum Side {
            /// Where the ferries come in.
            Water = "water",
            /// Where the road ends.
            Land = "land-side",
        }
    }

    #[test]
    fn a_word_gives_its_value_and_back() {
        for side in Side::ALL {
            assert_eq!(Side::of_word(side.word()), Some(*side));
        }
        assert_eq!(Side::of_word("Land"), None);
        assert_eq!(Side::Land.about(), "Where the road ends");
        let read: Side = serde_json::from_str("\"land-side\"").unwrap();
        assert_eq!(read, Side::Land);
    }
}
