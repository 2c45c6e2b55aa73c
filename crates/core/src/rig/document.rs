//! A rig file as a value: read from a text or built by a program, compared, changed, laid over another, and written.

use std::fmt::{self, Display};
use std::ops::Range;

use super::finding::{Finding, Findings};
use super::reader;
use super::value::{Key, Table, Value};

/// A rig before it is [planned](crate::plan::Rig::of). Two are equal if they say the same, in whatever order.
#[derive(Debug, Clone)]
pub struct Document {
    root: Value,
    whole: Range<usize>,
}

impl Document {
    /// Reads the text of a rig file. Whether it is the rig of anything is found out by planning it.
    ///
    /// # Errors
    /// With every place that is not TOML.
    pub fn read(source: &str) -> Result<Self, Vec<Finding>> {
        let findings = Findings::default();
        Self::parse(source, &findings).ok_or_else(|| findings.in_order())
    }

    pub(crate) fn parse(source: &str, findings: &Findings) -> Option<Self> {
        reader::parse(source, findings).map(|(root, whole)| Self { root, whole })
    }

    /// The whole as a value, and its place.
    pub(crate) fn root(&self) -> (&Value, Range<usize>) {
        (&self.root, self.whole.clone())
    }

    /// The value at a path of keys, such as `face`, `desk`, `drive`, `sent`.
    #[must_use]
    pub fn get(&self, path: &[&str]) -> Option<&Value> {
        path.iter().try_fold(&self.root, |value, key| Some(value.as_table()?.get(key)?.get_ref()))
    }

    /// Sets the value at a path of keys; tables on the way are added. Returns false, and changes nothing, where a key on the way has a
    /// value that is not a table.
    pub fn set(&mut self, path: &[&str], value: impl Into<Value>) -> bool {
        let Some((key, way)) = path.split_last() else { return false };
        let Value::Table(root) = &mut self.root else { return false };
        // A value that is not a table stands below tables that are there already: none was added before it.
        let table = way.iter().try_fold(root, |table, key| table.table_mut(key));
        table.map(|table| table.set(key, value)).is_some()
    }

    /// Takes from another what this one leaves out. Tables are completed key by key, lists are taken whole; a drive of another method is
    /// taken whole too, as its keys mean other things.
    #[must_use]
    pub fn completed(mut self, base: &Self) -> Self {
        if let (Value::Table(own), Value::Table(base)) = (&mut self.root, &base.root) {
            own.complete(base, &is_another_drive);
        }
        self
    }

    /// The same with every place `by` bytes further, as if it followed another file: a place then belongs to one of the two.
    #[must_use]
    pub fn moved(mut self, by: usize) -> Self {
        self.root.shift(by);
        self.whole = self.whole.start + by..self.whole.end + by;
        self
    }

    /// The keys by which this asks for something else than another, face by face, and which say only what is sent, such as
    /// `face.desk.drive.sent`: in a file that says what receives it they do nothing.
    #[must_use]
    pub fn sent_only(&self, base: &Self) -> Vec<String> {
        let Some(faces) = self.get(&["face"]).and_then(Value::as_table) else { return Vec::new() };
        let differs = |face: &&str| {
            let path = ["face", face, "drive", SENT];
            self.get(&path).is_some_and(|said| base.get(&path) != Some(said))
        };
        let names = faces.iter().map(|(name, _)| name.get_ref().as_str());
        names.filter(differs).map(|face| format!("face.{face}.drive.{SENT}")).collect()
    }
}

/// The key of a drive that says how a controller hands out its bits: the parts that receive them know nothing of it.
const SENT: &str = "sent";

/// Returns true if both are drives, and of different methods.
fn is_another_drive(over: &Table, base: &Table) -> bool {
    over.get("method").zip(base.get("method")).is_some_and(|(over, base)| over != base)
}

impl Default for Document {
    fn default() -> Self {
        Self::from(Table::default())
    }
}

impl From<Table> for Document {
    fn from(table: Table) -> Self {
        Self { root: Value::Table(table), whole: 0..0 }
    }
}

impl PartialEq for Document {
    fn eq(&self, other: &Self) -> bool {
        self.root == other.root
    }
}

/// As a file: the controller, each face and its drive under headings, everything below them on one line.
impl Display for Document {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Value::Table(root) = &self.root else { return Ok(()) };
        write_table(f, &mut Vec::new(), root)
    }
}

fn write_table<'t>(f: &mut fmt::Formatter<'_>, path: &mut Vec<&'t str>, table: &'t Table) -> fmt::Result {
    let below = |key: &str| match path[..] {
        [] => key == "controller" || key == "face",
        ["face"] => true,
        ["face", _] => key == "drive",
        _ => false,
    };
    let (headed, inline): (Vec<_>, Vec<_>) = table
        .iter()
        .map(|(key, value)| (key.get_ref().as_str(), value.get_ref()))
        .partition(|(key, value)| below(key) && value.as_table().is_some());
    if !path.is_empty() && (!inline.is_empty() || headed.is_empty()) {
        let path: Vec<_> = path.iter().map(|key| Key(key).to_string()).collect();
        writeln!(f, "[{}]", path.join("."))?;
    }
    for (key, value) in inline {
        writeln!(f, "{} = {value}", Key(key))?;
    }
    for (key, value) in headed {
        let Value::Table(table) = value else { continue };
        path.push(key);
        write_table(f, path, table)?;
        path.pop();
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    const BASE: &str = "[face.desk]\nkind = \"dots\"\nwidth = 8\n[face.desk.drive]\nmethod = \"max7219\"\n\
                        pins = { data = 1, clock = 2 }\nmodules = { rotate = 0, flip = \"none\" }\n";

    fn document(text: &str) -> Document {
        Document::read(text).unwrap()
    }

    fn over(text: &str) -> Document {
        document(text).completed(&document(BASE))
    }

    #[test]
    fn what_is_left_out_is_taken_from_the_other() {
        let turned = over("[face.desk.drive]\nmodules = { rotate = 90 }\n");
        assert_eq!(turned, document(&BASE.replace("rotate = 0", "rotate = 90")));
        assert_eq!(over(""), document(BASE));
        assert_ne!(over(""), turned);
    }

    #[test]
    fn keys_that_say_only_what_is_sent() {
        let built = document("[face.desk.drive]\nmodules = { rotate = 90 }\nsent = \"lsb-first\"\n");
        assert_eq!(built.sent_only(&document(BASE)), ["face.desk.drive.sent"]);
        assert_eq!(built.sent_only(&built), [""; 0], "it is what the rig says too");
        let first = document("[face.desk.drive]\nfirst = \"left\"\n");
        assert_eq!(first.sent_only(&document(BASE)), [""; 0]);
    }

    #[test]
    fn a_drive_of_another_method_is_taken_whole() {
        let other = over("[face.desk.drive]\nmethod = \"scanned\"\nrows = [1]\n");
        let drive = other.get(&["face", "desk", "drive"]).and_then(Value::as_table).unwrap();
        assert_eq!(
            drive.iter().map(|(key, _)| key.get_ref().as_str()).collect::<Vec<_>>(),
            ["method", "rows"]
        );
        assert_eq!(other.get(&["face", "desk", "width"]), Some(&Value::Whole(8)));
        assert!(Document::read("[").is_err());
    }

    #[test]
    fn what_is_set_is_written_and_read_again() {
        let mut rig = Document::default();
        assert!(
            rig.set(&["face", "the desk", "drive", "pins"], Value::table([("data", 1_i64), ("clock", 2)]))
        );
        assert!(rig.set(&["face", "the desk", "digits"], 8_i64));
        assert!(rig.set(&["controller", "logic_volts"], 5.0));
        assert!(!rig.set(&["face", "the desk", "digits", "more"], "nothing"), "a number has no keys");
        let text = rig.to_string();
        let expected = "[face.\"the desk\"]\ndigits = 8\n[face.\"the desk\".drive]\n\
                        pins = { data = 1, clock = 2 }\n[controller]\nlogic_volts = 5.0\n";
        assert_eq!(text, expected);
        assert_eq!(document(&text), rig);
        assert_eq!(document(BASE).to_string(), BASE);
    }
}
