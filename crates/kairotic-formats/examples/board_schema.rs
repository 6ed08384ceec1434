//! Prints the JSON Schema of board files, as `docs/board-file.schema.json` holds it.

fn main() {
    print!("{}", kairotic_formats::board_file::schema());
}
