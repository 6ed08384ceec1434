//! Prints the JSON Schema of family files, as `docs/schema/part.schema.json` holds it.

fn main() {
    print!("{}", kairotic_formats::part_file::schema());
}
