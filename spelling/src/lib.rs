//! Everything that people read in this repository, held against a list of misspellings.

// A test may panic: that is how it fails.
#![cfg_attr(test, allow(clippy::unwrap_used, clippy::indexing_slicing, clippy::string_slice))]

#[cfg(test)]
mod tests {
    use std::fs;
    use std::path::{Path, PathBuf};

    use unicase::UniCase;

    /// Words that the dictionary takes for misspellings, and that are none here.
    const OURS: &[&str] = &["flate", "numer", "stps"];

    /// What is read: sources, documents, the catalogue, and what CI runs.
    const FOLDERS: &[&str] =
        &["crates", "examples", "parts", "demo", "docs", "scripts", "fuzz/fuzz_targets", ".ci"];
    const FILES: &[&str] =
        &["README.md", "CONTRIBUTING.md", "CHANGELOG.md", "Cargo.toml", "justfile", "deny.toml"];
    const ENDINGS: &[&str] = &["rs", "md", "toml", "sh", "py", "json", "txt"];

    /// The words of a line; a capital begins a new one inside a name.
    fn words(line: &str) -> impl Iterator<Item = &str> {
        let runs = line.split(|letter: char| !letter.is_alphabetic()).filter(|run| !run.is_empty());
        runs.flat_map(|run| {
            let letters = run.char_indices().zip(run.chars().skip(1));
            let begins = letters.filter(|((_, one), next)| one.is_lowercase() && next.is_uppercase());
            let cuts: Vec<usize> = begins.map(|((at, one), _)| at + one.len_utf8()).collect();
            let starts = std::iter::once(0).chain(cuts.clone());
            starts.zip(cuts.into_iter().chain([run.len()])).map(move |(from, to)| &run[from..to])
        })
    }

    /// What a word probably should be, where it is a known misspelling.
    fn meant(word: &str) -> Option<String> {
        // Register names and short codes are no words.
        let capitals = word.chars().take(2).all(char::is_uppercase);
        let is_name = word.len() < 4 || capitals;
        if is_name || OURS.contains(&word.to_lowercase().as_str()) {
            return None;
        }
        typos_dict::WORD.find(&UniCase::new(word)).map(|meant| meant.join(" or "))
    }

    fn files(path: &Path, found: &mut Vec<PathBuf>) {
        if path.is_dir() {
            let mut entries: Vec<PathBuf> =
                fs::read_dir(path).unwrap().map(|entry| entry.unwrap().path()).collect();
            entries.sort();
            entries.iter().for_each(|entry| files(entry, found));
        } else if path.extension().is_none_or(|ending| ENDINGS.iter().any(|known| ending == *known)) {
            found.push(path.to_owned());
        }
    }

    #[test]
    fn nothing_is_misspelt() {
        let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
        let mut found = Vec::new();
        FOLDERS.iter().chain(FILES).for_each(|name| files(&root.join(name), &mut found));
        let mut wrong = Vec::new();
        for file in &found {
            let Ok(text) = fs::read_to_string(file) else { continue };
            for (number, line) in (1..).zip(text.lines()) {
                for word in words(line) {
                    let meant = meant(word);
                    wrong.extend(meant.map(|meant| format!("{}:{number}: {word}: {meant}", file.display())));
                }
            }
        }
        assert!(found.len() > 400 && wrong.is_empty(), "{} files\n{}", found.len(), wrong.join("\n"));
    }

    #[test]
    fn a_slip_would_be_noticed() {
        let words: Vec<&str> = words("let recieveNow = wich_is; // TCCR1B").collect();
        assert_eq!(words, ["let", "recieve", "Now", "wich", "is", "TCCR", "B"]);
        assert_eq!((meant("adress"), meant("address")), (Some("address".to_owned()), None));
    }
}
