//! Values of TOML as a tree of our own: read from a text, with a place each, or built by a program, without places.

use std::collections::BTreeMap;
use std::fmt::{self, Display};
use std::ops::Range;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// A value.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Value {
    /// A text.
    Text(String),
    /// A whole number.
    Whole(i64),
    /// A number with a point.
    Number(f64),
    /// A whole number that does not fit into 64 bits, as it is written.
    TooLarge(String),
    /// True or false.
    Truth(bool),
    /// A date, a time, or both, as it is written.
    Moment(String),
    /// A list.
    List(Vec<Spanned<Value>>),
    /// A table.
    Table(Table),
}

/// Keys and their values, in the order in which they were written. Two tables are equal if they have the same keys with equal values:
/// their order and their places do not count.
#[derive(Debug, Clone, Default)]
pub struct Table {
    entries: Vec<(Spanned<String>, Spanned<Value>)>,
}

/// No place: what a program has built does not stand in a file.
const NOWHERE: Range<usize> = 0..0;

impl Value {
    /// A list of values that a program has built.
    pub fn list<V: Into<Self>>(values: impl IntoIterator<Item = V>) -> Self {
        Self::List(values.into_iter().map(|value| Spanned::new(NOWHERE, value.into())).collect())
    }

    /// A table that a program has built.
    pub fn table<K: Into<String>, V: Into<Self>>(entries: impl IntoIterator<Item = (K, V)>) -> Self {
        Self::Table(Table::of(entries))
    }

    /// The table, if it is one.
    #[must_use]
    pub const fn as_table(&self) -> Option<&Table> {
        if let Self::Table(table) = self { Some(table) } else { None }
    }

    fn as_table_mut(&mut self) -> Option<&mut Table> {
        if let Self::Table(table) = self { Some(table) } else { None }
    }

    /// Moves the places of everything in it `by` bytes further.
    pub(super) fn shift(&mut self, by: usize) {
        match self {
            Self::List(list) => list.iter_mut().for_each(|item| shift(item, by, Self::shift)),
            Self::Table(table) => {
                for (key, value) in &mut table.entries {
                    shift(key, by, |_, _| ());
                    shift(value, by, Self::shift);
                }
            }
            _ => {}
        }
    }

    /// The value of the toml crate.
    fn read(value: &DeValue<'_>) -> Self {
        match value {
            DeValue::String(text) => Self::Text(text.to_string()),
            DeValue::Integer(number) => i64::from_str_radix(number.as_str(), number.radix())
                .map_or_else(|_| Self::TooLarge(number.to_string()), Self::Whole),
            DeValue::Float(number) => {
                number.as_str().parse().map_or_else(|_| Self::TooLarge(number.to_string()), Self::Number)
            }
            DeValue::Boolean(truth) => Self::Truth(*truth),
            DeValue::Datetime(moment) => Self::Moment(moment.to_string()),
            DeValue::Array(list) => Self::List(list.iter().map(placed).collect()),
            DeValue::Table(table) => Self::Table(Table::read(table)),
        }
    }
}

fn shift<T: Default>(value: &mut Spanned<T>, by: usize, within: impl Fn(&mut T, usize)) {
    let span = value.span();
    let mut moved = std::mem::take(value.get_mut());
    within(&mut moved, by);
    *value = Spanned::new(span.start + by..span.end + by, moved);
}

fn placed(value: &Spanned<DeValue<'_>>) -> Spanned<Value> {
    Spanned::new(value.span(), Value::read(value.get_ref()))
}

impl Default for Value {
    fn default() -> Self {
        Self::Table(Table::default())
    }
}

impl From<&str> for Value {
    fn from(text: &str) -> Self {
        Self::Text(text.to_owned())
    }
}

/// Values that one variant holds as they are.
macro_rules! values_of {
    ($($of:ty: $variant:ident)*) => { $(impl From<$of> for Value {
        fn from(value: $of) -> Self { Self::$variant(value.into()) }
    })* };
}
values_of!(String: Text  i64: Whole  u8: Whole  f64: Number  bool: Truth  Table: Table);

impl From<usize> for Value {
    fn from(number: usize) -> Self {
        i64::try_from(number).map_or_else(|_| Self::TooLarge(number.to_string()), Self::Whole)
    }
}

impl Table {
    /// A table that a program has built.
    pub fn of<K: Into<String>, V: Into<Value>>(entries: impl IntoIterator<Item = (K, V)>) -> Self {
        let placed =
            |(key, value): (K, V)| (Spanned::new(NOWHERE, key.into()), Spanned::new(NOWHERE, value.into()));
        Self { entries: entries.into_iter().map(placed).collect() }
    }

    /// The table of the toml crate, its entries in the order of the text.
    pub(super) fn read(table: &DeTable<'_>) -> Self {
        let entry = |(key, value): (&Spanned<_>, &Spanned<DeValue<'_>>)| {
            let key: &Spanned<std::borrow::Cow<'_, str>> = key;
            (Spanned::new(key.span(), key.get_ref().to_string()), placed(value))
        };
        let mut entries: Vec<_> = table.iter().map(entry).collect();
        entries.sort_by_key(|(key, _)| key.span().start);
        Self { entries }
    }

    /// The value of a key.
    #[must_use]
    pub fn get(&self, key: &str) -> Option<&Spanned<Value>> {
        self.entries.iter().find(|(known, _)| known.get_ref() == key).map(|(_, value)| value)
    }

    /// Sets the value of a key; a missing key is added at the end.
    pub fn set(&mut self, key: &str, value: impl Into<Value>) {
        *self.entry(key) = value.into();
    }

    /// The value of a key; a missing key is added with an empty table.
    fn entry(&mut self, key: &str) -> &mut Value {
        let place = self.entries.iter().position(|(known, _)| known.get_ref() == key);
        let place = place.unwrap_or_else(|| {
            let empty = Spanned::new(NOWHERE, Value::Table(Self::default()));
            self.entries.push((Spanned::new(NOWHERE, key.to_owned()), empty));
            self.entries.len() - 1
        });
        self.entries[place].1.get_mut()
    }

    /// The table of a key; a missing key is added. `None` if the key has another value.
    pub fn table_mut(&mut self, key: &str) -> Option<&mut Self> {
        self.entry(key).as_table_mut()
    }

    /// The keys and their values, in the order in which they were written.
    pub fn iter(&self) -> impl ExactSizeIterator<Item = (&Spanned<String>, &Spanned<Value>)> {
        self.entries.iter().map(|(key, value)| (key, value))
    }

    /// How many keys it has.
    #[must_use]
    pub const fn len(&self) -> usize {
        self.entries.len()
    }

    /// Returns true if it has no key.
    #[must_use]
    pub const fn is_empty(&self) -> bool {
        self.entries.is_empty()
    }

    /// Adds what only another table has, key by key; of tables that both have, what only the other has in it, unless `differs` says that
    /// they mean different things.
    pub(super) fn complete(&mut self, base: &Self, differs: &dyn Fn(&Self, &Self) -> bool) {
        let base_by_key = base.by_key();
        for (key, own) in &mut self.entries {
            if let (Some(Value::Table(base)), Value::Table(own)) =
                (base_by_key.get(key.get_ref()), own.get_mut())
                && !differs(own, base)
            {
                own.complete(base, differs);
            }
        }
        let own_by_key = self.by_key();
        let only_base = base.entries.iter().filter(|(key, _)| !own_by_key.contains_key(key.get_ref()));
        let only_base: Vec<_> = only_base.cloned().collect();
        self.entries.extend(only_base);
    }

    fn by_key(&self) -> BTreeMap<&String, &Value> {
        self.entries.iter().map(|(key, value)| (key.get_ref(), value.get_ref())).collect()
    }
}

impl PartialEq for Table {
    fn eq(&self, other: &Self) -> bool {
        self.len() == other.len() && self.by_key() == other.by_key()
    }
}

/// In TOML, on one line.
impl Display for Value {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Text(text) => quoted(text, f),
            Self::Whole(number) => number.fmt(f),
            Self::Number(number) => toml::Value::Float(*number).fmt(f),
            Self::TooLarge(text) | Self::Moment(text) => text.fmt(f),
            Self::Truth(truth) => truth.fmt(f),
            Self::List(list) => {
                let items: Vec<_> = list.iter().map(|item| item.get_ref().to_string()).collect();
                write!(f, "[{}]", items.join(", "))
            }
            Self::Table(table) if table.is_empty() => f.write_str("{}"),
            Self::Table(table) => {
                let entries =
                    table.iter().map(|(key, value)| format!("{} = {}", Key(key.get_ref()), value.get_ref()));
                write!(f, "{{ {} }}", entries.collect::<Vec<_>>().join(", "))
            }
        }
    }
}

/// A key as it is written: bare if TOML allows that, otherwise in quotes.
pub struct Key<'k>(pub &'k str);

impl Display for Key<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let is_plain = |byte: u8| byte.is_ascii_alphanumeric() || b"-_".contains(&byte);
        match self.0.is_empty() || !self.0.bytes().all(is_plain) {
            true => quoted(self.0, f),
            false => f.write_str(self.0),
        }
    }
}

/// A text in quotes, on one line whatever is in it.
fn quoted(text: &str, f: &mut fmt::Formatter<'_>) -> fmt::Result {
    f.write_str("\"")?;
    for letter in text.chars() {
        match letter {
            '"' | '\\' => write!(f, "\\{letter}")?,
            '\t' => f.write_str("\\t")?,
            '\n' => f.write_str("\\n")?,
            '\r' => f.write_str("\\r")?,
            control if control.is_ascii_control() => write!(f, "\\u{:04X}", u32::from(control))?,
            letter => write!(f, "{letter}")?,
        }
    }
    f.write_str("\"")
}
