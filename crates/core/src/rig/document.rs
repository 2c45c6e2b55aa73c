//! Rig files as texts that can be laid over one another.

use toml::{Table, Value};

/// The text of a rig file whose entries are those of `over`, and, where it says nothing, those of `base`. Tables are
/// completed entry by entry, lists are taken whole; a drive of another method is taken whole too, as its entries mean other
/// things. Where either is not TOML there is nothing to complete, and none is the answer.
#[must_use]
pub fn completed(over: &str, base: &str) -> Option<String> {
    let (mut over, base): (Table, Table) = (over.parse().ok()?, base.parse().ok()?);
    complete(&mut over, &base);
    toml::to_string(&over).ok()
}

fn complete(over: &mut Table, base: &Table) {
    for (key, value) in base {
        match (over.get_mut(key), value) {
            (None, value) => {
                over.insert(key.clone(), value.clone());
            }
            (Some(Value::Table(over)), Value::Table(base)) if !is_another_drive(over, base) => {
                complete(over, base);
            }
            _ => {}
        }
    }
}

/// The key of a drive that says how a controller hands out its bits: the parts that receive them know nothing of it.
const SENT: &str = "sent";

/// The keys by which `over` asks for something else than `base`, face by face, and which say only what is sent, such as
/// `face.desk.drive.sent`: in a file that says what receives it they do nothing.
#[must_use]
pub fn sent_only(over: &str, base: &str) -> Vec<String> {
    let (Ok(over), Ok(base)) = (over.parse::<Table>(), base.parse::<Table>()) else { return Vec::new() };
    let sent = |rig: &Table, face: &str| rig.get("face")?.get(face)?.get("drive")?.get(SENT).cloned();
    let Some(faces) = over.get("face").and_then(Value::as_table) else { return Vec::new() };
    let differs = |face: &&String| sent(&over, face).is_some_and(|said| Some(said) != sent(&base, face));
    faces.keys().filter(differs).map(|face| format!("face.{face}.drive.{SENT}")).collect()
}

/// Returns true if both are drives, and of different methods.
fn is_another_drive(over: &Table, base: &Table) -> bool {
    let method = |table: &Table| table.get("method").cloned();
    method(over).is_some_and(|named| method(base).is_some_and(|other| other != named))
}

#[cfg(test)]
mod tests {
    use super::*;

    const BASE: &str = "[face.desk]\nkind = \"dots\"\nwidth = 8\n[face.desk.drive]\nmethod = \"max7219\"\n\
                        pins = { data = 1, clock = 2 }\nmodules = { rotate = 0, flip = \"none\" }\n";

    fn over(text: &str) -> Table {
        completed(text, BASE).unwrap().parse().unwrap()
    }

    #[test]
    fn what_is_left_out_is_taken_from_the_other() {
        let turned = over("[face.desk.drive]\nmodules = { rotate = 90 }\n");
        let expected: Table = BASE.replace("rotate = 0", "rotate = 90").parse().unwrap();
        assert_eq!(turned, expected);
        assert_eq!(over(""), BASE.parse().unwrap());
    }

    #[test]
    fn keys_that_say_only_what_is_sent() {
        let built = "[face.desk.drive]\nmodules = { rotate = 90 }\nsent = \"lsb-first\"\n";
        assert_eq!(sent_only(built, BASE), ["face.desk.drive.sent"]);
        assert_eq!(sent_only(built, built), [""; 0], "it is what the rig says too");
        assert_eq!(sent_only("[face.desk.drive]\nfirst = \"left\"\n", BASE), [""; 0]);
    }

    #[test]
    fn a_drive_of_another_method_is_taken_whole() {
        let other = over("[face.desk.drive]\nmethod = \"scanned\"\nrows = [1]\n");
        let drive = other["face"]["desk"]["drive"].as_table().unwrap();
        assert_eq!(drive.keys().collect::<Vec<_>>(), ["method", "rows"]);
        assert_eq!(other["face"]["desk"]["width"].as_integer(), Some(8));
        assert_eq!(completed("[", BASE), None);
    }
}
