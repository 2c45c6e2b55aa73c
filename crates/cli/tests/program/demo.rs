use crate::folder::Folder;

/// The same stills come of the files that it writes.
#[test]
fn off_a_terminal_it_prints_stills_of_the_morning() {
    let folder = Folder::empty();
    let written = folder.run("demo --out quillmoor");
    assert_eq!((written.status, written.out.as_str()), (0, ""), "it only writes");
    assert!(written.err.ends_with("play with them: cd quillmoor\n"), "{}", written.err);
    let demo = folder.answer("demo");
    insta::assert_snapshot!("morning", demo);
    let (_, typed) = demo.split_once("$ spare-tile ").unwrap();
    let (typed, stills) = typed.split_once('\n').unwrap();
    let typed = typed.replace("quillmoor.", "quillmoor/quillmoor.");
    assert_eq!(folder.answer(&typed), stills);
    assert_eq!(folder.names(), ["quillmoor"], "demo alone writes no file");
}

#[test]
fn off_a_terminal_it_prints_every_step_without_waiting() {
    let folder = Folder::empty();
    insta::assert_snapshot!("demo", folder.answer("demo --tour"));
    assert!(folder.names().is_empty(), "without --out it writes no file");
}

#[test]
fn every_command_of_the_demo_has_a_json_answer() {
    let steps = Folder::empty().json("demo --tour");
    let steps = steps.as_array().unwrap();
    assert_eq!(steps.len(), 12);
    for step in steps {
        for command in step["commands"].as_array().unwrap() {
            assert!(!command["answers"].as_array().unwrap().is_empty(), "{}", command["command"]);
        }
    }
}

#[test]
fn its_commands_work_on_the_rigs_that_it_writes() {
    let folder = Folder::empty();
    let demo = folder.answer("demo --tour --out rigs");
    let typed: Vec<_> = demo.lines().filter_map(|line| line.strip_prefix("$ spare-tile ")).collect();
    assert!(typed.len() >= 6, "{typed:?}");
    for line in typed {
        let run = folder.run(&line.replace("--rig ", "--rig rigs/").replace(" captures/", " rigs/captures/"));
        // In the recording of a dark display something is odd.
        let status = i32::from(line.contains("gauge-dark"));
        assert_eq!(run.status, status, "{line}: {}", run.err);
    }
}
