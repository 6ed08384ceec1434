//! Prints `docs/findings.md`.

#![expect(clippy::print_stdout, reason = "printing is what it is for")]

fn main() {
    print!("{}", kairotic_core::finding::reference());
}
