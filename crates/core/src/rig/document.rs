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

/// Whether both are drives, and of different methods.
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
    fn a_drive_of_another_method_is_taken_whole() {
        let other = over("[face.desk.drive]\nmethod = \"scanned\"\nrows = [1]\n");
        let drive = other["face"]["desk"]["drive"].as_table().unwrap();
        assert_eq!(drive.keys().collect::<Vec<_>>(), ["method", "rows"]);
        assert_eq!(other["face"]["desk"]["width"].as_integer(), Some(8));
        assert_eq!(completed("[", BASE), None);
    }
}
