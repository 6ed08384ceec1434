//! Validates the family files and turns each into a blob that the binary embeds.
//!
//! Reading TOML takes milliseconds at every start; a blob takes microseconds, and only the blob of the part that was
//! asked for is read. There are two of each: one to compute with, which holds only the facts in doubt, and one to show.

use std::error::Error;
use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::{env, fs};

fn main() -> Result<(), Box<dyn Error>> {
    let parts = Path::new(&env::var("CARGO_MANIFEST_DIR")?).join("../../parts");
    println!("cargo::rerun-if-changed={}", parts.display());
    let out = PathBuf::from(env::var("OUT_DIR")?);
    let mut files: Vec<PathBuf> =
        fs::read_dir(&parts)?.map(|entry| entry.map(|entry| entry.path())).collect::<Result<_, _>>()?;
    files.retain(|file| file.extension().is_some_and(|extension| extension == "toml"));
    files.sort();

    let mut list = String::from("&[\n");
    for file in files {
        let name = file.file_name().unwrap_or_default().to_string_lossy().into_owned();
        let part = kairotic_formats::part_file::read(&name, &fs::read(&file)?)
            .map_err(|error| format!("\n{error}\n"))?;
        if name != format!("{}.toml", part.name) {
            return Err(format!("{name} describes {}: file and part must have one name", part.name).into());
        }
        let blobs =
            [("show", part.clone()), ("compute", part.clone().with_doubts_only())].map(|(use_, part)| {
                let file = out.join(format!("{}.{use_}", part.name));
                fs::write(&file, kairotic_formats::part_blob::write(&part)?)?;
                Ok::<_, Box<dyn Error>>(file)
            });
        let [show, compute] = blobs;
        writeln!(
            list,
            "    Family {{ name: {:?}, show: include_bytes!({:?}), compute: include_bytes!({:?}) }},",
            part.name, show?, compute?
        )?;
    }
    list.push(']');
    fs::write(out.join("families.rs"), list)?;
    Ok(())
}
