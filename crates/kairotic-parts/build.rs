//! Validates the family files and turns each into a blob that the crate embeds.
//!
//! Reading TOML takes milliseconds at every start; a blob takes microseconds, and only the blob of the part that was
//! asked for is read. There are two of each: one to compute with, which holds only the facts in doubt, and one to show.

use std::error::Error;
use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::{env, fs};

use kairotic_core::part::{OrderCode, Part};
use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;

fn main() -> Result<(), Box<dyn Error>> {
    let parts = Path::new(&env::var("CARGO_MANIFEST_DIR")?).join("../../parts");
    println!("cargo::rerun-if-changed={}", parts.display());
    let out = PathBuf::from(env::var("OUT_DIR")?);

    let block_files = toml_files(&parts.join("blocks"))?;
    let block_file =
        |name: &str| block_files.iter().find(|(stem, _)| stem == name).map(|(_, source)| source.clone());
    let mut families: Vec<(Part, bool)> = Vec::new();
    for (name, source) in toml_files(&parts)? {
        let part = part_file::read(&source, &block_file).map_err(|error| format!("\n{error}\n"))?;
        if name != part.name {
            return Err(
                format!("{} describes {}: file and part must have one name", source.file, part.name).into()
            );
        }
        let variants: Vec<Part> = part.variant_parts().collect();
        families.push((part, false));
        families.extend(variants.into_iter().map(|variant| (variant, true)));
    }
    families.sort_by(|(left, _), (right, _)| left.name.cmp(&right.name));
    let names: Vec<&str> = families.iter().map(|(part, _)| part.name.as_str()).collect();
    if let Some([name, _]) = names.array_windows().find(|[one, next]| one == next) {
        return Err(format!("two parts have the name {name}").into());
    }
    let mut list = format!("const NAMES: &str = {:?};\n", names.join("\n"));
    list.push_str("const FAMILIES: &[Family] = &[\n");
    for (part, variant) in families {
        let (name, codes) = (part.name.clone(), part.order_codes.clone());
        let codes: Vec<&str> = codes.iter().map(OrderCode::as_str).collect();
        let blobs = [("show", part.clone()), ("compute", part.with_doubts_only())].map(|(purpose, part)| {
            let file = out.join(format!("{name}.{purpose}"));
            fs::write(&file, kairotic_formats::part_blob::write(&part)?)?;
            Ok::<_, Box<dyn Error>>(file)
        });
        let [show, compute] = blobs;
        writeln!(
            list,
            "    Family {{ variant: {variant}, order_codes: &{codes:?}, \
             show: include_bytes!({:?}), compute: include_bytes!({:?}) }},",
            show?, compute?
        )?;
    }
    list.push_str("];\nconst BLOCK_FILES: &[(&str, &[u8])] = &[\n");
    for (name, source) in &block_files {
        let path = parts.join("blocks").join(&source.file).canonicalize()?;
        writeln!(list, "    ({name:?}, include_bytes!({path:?})),")?;
    }
    list.push_str("];\nconst UNSUPPORTED: &[(&str, &str)] = &[\n");
    let unsupported = fs::read_to_string(parts.join("unsupported/list.toml"))?;
    for entry in kairotic_formats::unsupported::read(&unsupported)? {
        writeln!(list, "    ({:?}, {:?}),", entry.what, entry.missing)?;
    }
    list.push_str("];\n");
    fs::write(out.join("families.rs"), list)?;
    Ok(())
}

/// The TOML files of a folder by the stems of their names, sorted.
fn toml_files(folder: &Path) -> Result<Vec<(String, Source)>, Box<dyn Error>> {
    let mut files = Vec::new();
    for entry in fs::read_dir(folder)? {
        let path = entry?.path();
        if path.extension().is_some_and(|extension| extension == "toml") {
            let text =
                |part: Option<&std::ffi::OsStr>| part.unwrap_or_default().to_string_lossy().into_owned();
            let source = Source { file: text(path.file_name()), bytes: fs::read(&path)? };
            files.push((text(path.file_stem()), source));
        }
    }
    files.sort_by(|(left, _), (right, _)| left.cmp(right));
    Ok(files)
}
