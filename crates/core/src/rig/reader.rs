//! From the tree of a TOML text to the structs that state their keys.
//!
//! The tree comes from the toml crate and the structs derive serde's `Deserialize`; between them stands this
//! small deserializer, so that an error keeps its place, its found value and the allowed ones as data, and
//! so that one unknown key does not hide the next.

use std::cell::RefCell;
use std::fmt::{self, Display};
use std::ops::Range;

use serde::de::{
    DeserializeOwned, DeserializeSeed, Deserializer, EnumAccess, Error, Expected, IntoDeserializer,
    MapAccess, SeqAccess, Unexpected, VariantAccess, Visitor, value::StrDeserializer,
};
use serde::forward_to_deserialize_any;
use serde_spanned::{Spanned, de::SpannedDeserializer, de::is_spanned};
use toml::de::DeTable;
use toml_parser::Source;
use toml_parser::lexer::TokenKind;

use super::finding::{Findings, Problem};
use super::value::{Table, Value};

/// Further places with syntax errors are only counted.
const MOST_ERRORS: usize = 100;
/// The deepest nesting of lists and tables; files need less than ten.
const DEEPEST: usize = 64;

/// Parses a TOML text into its tree; what is wrong becomes findings, and then there is no tree.
pub fn parse(source: &str, findings: &Findings) -> Option<(Value, Range<usize>)> {
    if let Some(place) = too_deep(source) {
        let message = format!("lists and tables are nested more than {DEEPEST} deep");
        return findings.stop(place, Problem::Syntax { message });
    }
    let (root, errors) = DeTable::parse_recoverable(source);
    for error in errors.iter().take(MOST_ERRORS) {
        let place = error.span().unwrap_or(0..0);
        findings.error(place, Problem::Syntax { message: error.message().to_owned() });
    }
    if let Some(error) = errors.get(MOST_ERRORS) {
        let more = errors.len() - MOST_ERRORS;
        findings.error(error.span().unwrap_or(0..0), Problem::HardlyToml { more });
    }
    let whole = root.span();
    errors.is_empty().then(|| (Value::Table(Table::read(root.get_ref())), whole))
}

/// Returns the place of the first bracket that is nested too deep. The parser calls itself at each bracket, and would overflow
/// the stack.
fn too_deep(source: &str) -> Option<Range<usize>> {
    let mut open = Vec::new();
    for token in Source::new(source).lex() {
        match token.kind() {
            kind @ (TokenKind::LeftSquareBracket | TokenKind::LeftCurlyBracket) => open.push(kind),
            TokenKind::RightSquareBracket => _ = open.pop_if(|kind| *kind == TokenKind::LeftSquareBracket),
            TokenKind::RightCurlyBracket => _ = open.pop_if(|kind| *kind == TokenKind::LeftCurlyBracket),
            _ => {}
        }
        if open.len() > DEEPEST {
            return Some(token.span().start()..token.span().end());
        }
    }
    None
}

/// Reads a value; what is wrong becomes findings. Unknown keys are reported and passed over.
pub fn read<T: DeserializeOwned>(value: &Value, span: Range<usize>, findings: &Findings) -> Option<T> {
    read_value(Reader { value, span, findings, keys: KeyCheck::Strict })
}

/// Reads a table into two structs that each have some of its keys. Unknown keys are those that neither of them has.
pub fn read_both<A: DeserializeOwned, B: DeserializeOwned>(
    value: &Value,
    span: Range<usize>,
    findings: &Findings,
) -> Option<(A, B)> {
    #[derive(serde::Deserialize)]
    struct NoMore {}
    read_three::<A, B, NoMore>(value, span, findings).map(|(first, second, _)| (first, second))
}

/// The same of three.
pub fn read_three<A: DeserializeOwned, B: DeserializeOwned, C: DeserializeOwned>(
    value: &Value,
    span: Range<usize>,
    findings: &Findings,
) -> Option<(A, B, C)> {
    let stated = RefCell::default();
    let reader = Reader { value, span, findings, keys: KeyCheck::Collect(&stated) };
    let first = read_value(reader.clone());
    let second = read_value(reader.clone());
    let third = read_value(reader.clone());
    if let Value::Table(table) = value {
        reader.check_keys(table, &stated.borrow());
    }
    Some((first?, second?, third?))
}

/// The same, with unknown keys let pass: for a first look at a table that will be read again.
pub fn read_loosely<T: DeserializeOwned>(
    value: &Value,
    span: Range<usize>,
    findings: &Findings,
) -> Option<T> {
    read_value(Reader { value, span, findings, keys: KeyCheck::Loose })
}

fn read_value<T: DeserializeOwned>(reader: Reader<'_>) -> Option<T> {
    let (span, findings) = (reader.span.clone(), reader.findings);
    T::deserialize(reader).map_err(|error| findings.error(error.span.unwrap_or(span), error.problem)).ok()
}

/// A value in words, for "found ...".
pub fn describe(value: &Value) -> String {
    match value {
        Value::Text(text) => describe_unexpected(Unexpected::Str(text)),
        Value::Whole(number) => number.to_string(),
        Value::Number(number) => number.to_string(),
        Value::TooLarge(number) => number.clone(),
        Value::Truth(truth) => truth.to_string(),
        Value::Moment(moment) => format!("the date {moment}"),
        Value::List(_) => "a list".to_owned(),
        Value::Table(_) => "a table".to_owned(),
    }
}

fn describe_unexpected(found: Unexpected<'_>) -> String {
    match found {
        Unexpected::Str(text) => format!("the text {text:?}"),
        Unexpected::Signed(number) => number.to_string(),
        Unexpected::Float(number) => number.to_string(),
        Unexpected::Bool(truth) => truth.to_string(),
        Unexpected::Map => "a table".to_owned(),
        Unexpected::Seq => "a list".to_owned(),
        other => other.to_string(),
    }
}

const TEXT: &str = "a text in quotes";

/// Describes the expected type to a user who does not know its Rust name.
fn describe_expected(expected: &dyn Expected) -> String {
    let expected = expected.to_string();
    match expected.as_str() {
        "u8" => "a whole number from 0 to 255".to_owned(),
        "u32" => "a whole number from 0 to 4294967295".to_owned(),
        "i64" => "a whole number".to_owned(),
        "f64" => "a number".to_owned(),
        "a string" => TEXT.to_owned(),
        "a boolean" => "true or false".to_owned(),
        name if name.starts_with("struct ") || name == "a map" => "a table".to_owned(),
        name if name.starts_with("enum ") => "one of its words in quotes".to_owned(),
        _ => expected,
    }
}

/// The error, and its place once that is known.
#[derive(Debug)]
pub struct ReadError {
    span: Option<Range<usize>>,
    problem: Problem,
}

impl ReadError {
    fn at(mut self, span: &Range<usize>) -> Self {
        self.span.get_or_insert_with(|| span.clone());
        self
    }
}

impl From<Problem> for ReadError {
    fn from(problem: Problem) -> Self {
        Self { span: None, problem }
    }
}

impl std::error::Error for ReadError {}

impl Display for ReadError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.problem.fmt(f)
    }
}

impl Error for ReadError {
    fn custom<T: Display>(message: T) -> Self {
        Problem::Syntax { message: message.to_string() }.into()
    }

    fn invalid_type(found: Unexpected<'_>, expected: &dyn Expected) -> Self {
        let is_number = matches!(found, Unexpected::Signed(_) | Unexpected::Float(_));
        let (found, mut allowed) = (describe_unexpected(found), describe_expected(expected));
        if is_number && allowed == TEXT {
            // Most often somebody forgot a unit.
            allowed = format!("{TEXT}; a duration is one with its unit, such as \"{found}s\"");
        }
        Problem::WrongValue { found, allowed }.into()
    }

    fn invalid_value(found: Unexpected<'_>, expected: &dyn Expected) -> Self {
        Self::invalid_type(found, expected)
    }

    fn unknown_variant(found: &str, allowed: &'static [&'static str]) -> Self {
        Problem::unknown_name("value", found, allowed).into()
    }

    fn unknown_field(found: &str, allowed: &'static [&'static str]) -> Self {
        Problem::UnknownKey { found: found.to_owned(), allowed: allowed.to_vec() }.into()
    }

    fn missing_field(key: &'static str) -> Self {
        Problem::MissingKey { key }.into()
    }
}

/// A value of the tree at its place.
#[derive(Clone)]
struct Reader<'de> {
    value: &'de Value,
    span: Range<usize>,
    findings: &'de Findings,
    keys: KeyCheck<'de>,
}

/// The handling of keys that a struct does not have.
#[derive(Clone, Copy)]
enum KeyCheck<'c> {
    /// They are reported.
    Strict,
    /// They are let pass.
    Loose,
    /// The stated ones are collected here, to be checked by the caller; tables within are read strictly.
    Collect(&'c RefCell<Vec<&'static str>>),
}

impl<'de> Reader<'de> {
    fn of(&self, value: &'de Spanned<Value>) -> Self {
        let keys = match self.keys {
            KeyCheck::Collect(_) => KeyCheck::Strict,
            keys => keys,
        };
        Self { value: value.get_ref(), span: value.span(), findings: self.findings, keys }
    }

    /// Reports the keys of a table that its struct does not state.
    fn check_keys(&self, table: &Table, allowed: &[&'static str]) {
        let keys = table.iter().map(|(key, _)| key);
        for key in keys.filter(|key| !allowed.contains(&key.get_ref().as_str())) {
            let found = key.get_ref().clone();
            self.findings.error(key.span(), Problem::UnknownKey { found, allowed: allowed.to_vec() });
        }
    }
}

impl<'de> IntoDeserializer<'de, ReadError> for Reader<'de> {
    type Deserializer = Self;
    fn into_deserializer(self) -> Self {
        self
    }
}

impl<'de> Deserializer<'de> for Reader<'de> {
    type Error = ReadError;

    fn deserialize_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, ReadError> {
        match self.value {
            Value::Text(text) => visitor.visit_str(text),
            Value::Whole(number) => visitor.visit_i64(*number),
            Value::Number(number) => visitor.visit_f64(*number),
            Value::TooLarge(number) => {
                let allowed = "a number that is not too large".to_owned();
                Err(Problem::WrongValue { found: number.clone(), allowed }.into())
            }
            Value::Truth(truth) => visitor.visit_bool(*truth),
            Value::Moment(moment) => visitor.visit_str(moment),
            Value::List(list) => visitor.visit_seq(Items { items: list.iter(), list: self.clone() }),
            Value::Table(table) => visitor.visit_map(Entries::new(table, self.clone())),
        }
        .map_err(|error| error.at(&self.span))
    }

    fn deserialize_struct<V: Visitor<'de>>(
        self,
        name: &'static str,
        keys: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, ReadError> {
        if is_spanned(name) {
            let span = self.span.clone();
            return visitor.visit_map(SpannedDeserializer::new(self, span));
        }
        let table = match self.value {
            Value::Table(table) => table,
            // A struct would take a list for its fields in their order, which no file says.
            Value::List(_) => {
                let (found, allowed) = (describe(self.value), "a table".to_owned());
                return Err(ReadError::from(Problem::WrongValue { found, allowed }).at(&self.span));
            }
            _ => return self.deserialize_any(visitor),
        };
        match self.keys {
            KeyCheck::Strict => self.check_keys(table, keys),
            KeyCheck::Loose => {}
            KeyCheck::Collect(stated) => {
                let mut stated = stated.borrow_mut();
                let new = keys.iter().filter(|key| !stated.contains(key)).copied().collect::<Vec<_>>();
                stated.extend(new);
            }
        }
        let span = self.span.clone();
        visitor.visit_map(Entries::new(table, self).only(keys)).map_err(|error| error.at(&span))
    }

    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, ReadError> {
        visitor.visit_some(self)
    }

    fn deserialize_newtype_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        visitor: V,
    ) -> Result<V::Value, ReadError> {
        visitor.visit_newtype_struct(self)
    }

    fn deserialize_enum<V: Visitor<'de>>(
        self,
        _: &'static str,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, ReadError> {
        match self.value {
            Value::Text(word) => visitor.visit_enum(Word(word)).map_err(|error| error.at(&self.span)),
            _ => self.deserialize_any(visitor),
        }
    }

    forward_to_deserialize_any! {
        bool i8 i16 i32 i64 i128 u8 u16 u32 u64 u128 f32 f64 char str string bytes byte_buf unit unit_struct
        seq tuple tuple_struct map identifier ignored_any
    }
}

/// The entries of a table, in the order of the file.
struct Entries<'de> {
    entries: std::vec::IntoIter<(&'de Spanned<String>, &'de Spanned<Value>)>,
    value: Option<&'de Spanned<Value>>,
    table: Reader<'de>,
}

impl<'de> Entries<'de> {
    fn new(entries: &'de Table, table: Reader<'de>) -> Self {
        let entries: Vec<_> = entries.iter().collect();
        Self { entries: entries.into_iter(), value: None, table }
    }

    /// Just the entries of these keys.
    fn only(mut self, keys: &[&str]) -> Self {
        let known: Vec<_> = self.entries.filter(|(key, _)| keys.contains(&key.get_ref().as_str())).collect();
        self.entries = known.into_iter();
        self
    }
}

impl<'de> MapAccess<'de> for Entries<'de> {
    type Error = ReadError;

    fn next_key_seed<K: DeserializeSeed<'de>>(&mut self, seed: K) -> Result<Option<K::Value>, ReadError> {
        let Some((key, value)) = self.entries.next() else { return Ok(None) };
        self.value = Some(value);
        seed.deserialize(Key { name: key.get_ref(), span: key.span() }).map(Some)
    }

    fn next_value_seed<V: DeserializeSeed<'de>>(&mut self, seed: V) -> Result<V::Value, ReadError> {
        let value =
            self.value.take().ok_or_else(|| ReadError::custom("a value was asked for before its key"))?;
        seed.deserialize(self.table.of(value))
    }
}

/// A key at its place.
struct Key<'de> {
    name: &'de str,
    span: Range<usize>,
}

impl<'de> Deserializer<'de> for Key<'de> {
    type Error = ReadError;

    fn deserialize_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, ReadError> {
        visitor.visit_borrowed_str(self.name)
    }

    fn deserialize_struct<V: Visitor<'de>>(
        self,
        name: &'static str,
        _: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, ReadError> {
        if is_spanned(name) {
            let name: StrDeserializer<'_, ReadError> = self.name.into_deserializer();
            return visitor.visit_map(SpannedDeserializer::new(KeyText(name), self.span));
        }
        self.deserialize_any(visitor)
    }

    forward_to_deserialize_any! {
        bool i8 i16 i32 i64 i128 u8 u16 u32 u64 u128 f32 f64 char str string bytes byte_buf option unit
        unit_struct newtype_struct seq tuple tuple_struct map enum identifier ignored_any
    }
}

/// The text of a key whose place has been told.
struct KeyText<'de>(StrDeserializer<'de, ReadError>);

impl<'de> IntoDeserializer<'de, ReadError> for KeyText<'de> {
    type Deserializer = StrDeserializer<'de, ReadError>;
    fn into_deserializer(self) -> Self::Deserializer {
        self.0
    }
}

/// The items of a list.
struct Items<'de> {
    items: std::slice::Iter<'de, Spanned<Value>>,
    list: Reader<'de>,
}

impl<'de> SeqAccess<'de> for Items<'de> {
    type Error = ReadError;

    fn next_element_seed<T: DeserializeSeed<'de>>(&mut self, seed: T) -> Result<Option<T::Value>, ReadError> {
        self.items.next().map(|item| seed.deserialize(self.list.of(item))).transpose()
    }
}

/// A word that names a variant.
struct Word<'de>(&'de str);

impl<'de> EnumAccess<'de> for Word<'de> {
    type Error = ReadError;
    type Variant = Self;

    fn variant_seed<V: DeserializeSeed<'de>>(self, seed: V) -> Result<(V::Value, Self), ReadError> {
        let word: StrDeserializer<'_, ReadError> = self.0.into_deserializer();
        Ok((seed.deserialize(word)?, self))
    }
}

impl<'de> VariantAccess<'de> for Word<'de> {
    type Error = ReadError;

    fn unit_variant(self) -> Result<(), ReadError> {
        Ok(())
    }

    fn newtype_variant_seed<T: DeserializeSeed<'de>>(self, _: T) -> Result<T::Value, ReadError> {
        Err(ReadError::custom(format!("'{}' takes no value", self.0)))
    }

    fn tuple_variant<V: Visitor<'de>>(self, _: usize, _: V) -> Result<V::Value, ReadError> {
        Err(ReadError::custom(format!("'{}' takes no list", self.0)))
    }

    fn struct_variant<V: Visitor<'de>>(
        self,
        _: &'static [&'static str],
        _: V,
    ) -> Result<V::Value, ReadError> {
        Err(ReadError::custom(format!("'{}' takes no table", self.0)))
    }
}
