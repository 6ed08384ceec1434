//! `emit`: files that are whole, the same each time, and that replace nobody else's.

use std::fs;

use tempfile::tempdir;

use crate::run::run_words;

const DOME: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/dome.toml");

#[test]
fn the_same_board_gives_the_same_bytes_and_leaves_other_files_alone() {
    let folder = tempdir().unwrap();
    let run = || run_words(["emit", DOME, "--to", "made/here"], folder.path(), &[]);
    let first = run();
    assert_eq!(first.code, 0, "{first:?}");
    let read = |name: &str| fs::read_to_string(folder.path().join("made/here").join(name)).unwrap();
    let (header, source) = (read("dome.h"), read("dome.c"));
    assert!(header.starts_with("/* Made by Kairotic ") && source.starts_with("/* Made by Kairotic "));
    assert!(header.contains("void dome_camera_fan_set_compare(uint32_t compare);"), "{header}");
    assert!(header.contains("#define DOME_SHUTTER_TOP 63999UL"), "{header}");
    // What the board does over time has files of its own.
    assert!(
        read("dome_opens.h").contains("uint16_t dome_opens_shutter_next(void);"),
        "{}",
        read("dome_opens.h")
    );
    assert!(read("dome_opens.c").contains("#include \"dome_opens.h\""));
    fs::write(folder.path().join("made/here/main.c"), "int main(void) { return 0; }").unwrap();
    assert_eq!(run().stdout, first.stdout);
    assert_eq!((read("dome.h"), read("dome.c")), (header, source));
    assert_eq!(fs::read_dir(folder.path().join("made/here")).unwrap().count(), 5);
}

#[test]
fn a_file_of_somebody_else_is_not_replaced_unless_that_is_asked_for() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome.c"), "/* mine */\n").unwrap();
    let refused = run_words(["emit", DOME, "--to", "."], folder.path(), &[]);
    assert_eq!(refused.code, 2, "{refused:?}");
    assert!(refused.stderr.contains("dome.c is there already"), "{}", refused.stderr);
    assert_eq!(fs::read_to_string(folder.path().join("dome.c")).unwrap(), "/* mine */\n");
    assert!(!folder.path().join("dome.h").exists(), "none or all");
    let forced = run_words(["emit", DOME, "--to", ".", "--force"], folder.path(), &[]);
    assert_eq!(forced.code, 0, "{forced:?}");
}

#[test]
fn signals_that_clash_on_their_timer_are_told() {
    let folder = tempdir().unwrap();
    let text = fs::read_to_string(DOME).unwrap();
    let text = text.replace("on = \"tim3/2\"\npin = \"PA7\"", "on = \"tim3/1\"\npin = \"PA6\"");
    fs::write(folder.path().join("dome.toml"), text).unwrap();
    let run = run_words(["emit", "dome.toml", "--to", "."], folder.path(), &[]);
    assert_eq!(run.code, 2, "{run:?}");
    assert!(run.stderr.contains("has the signal `shutter` already"), "{}", run.stderr);
}
