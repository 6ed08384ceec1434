//! What all makers of tables in C and Rust share.

use kairotic_core::motion::TableWord;

/// The most numbers in a line of a table.
const IN_LINE: usize = 12;

/// The numbers of a table, some in each line.
pub(crate) fn list<N: ToString>(numbers: impl Iterator<Item = N>) -> String {
    let numbers: Vec<String> = numbers.map(|number| number.to_string()).collect();
    let lines = numbers.chunks(IN_LINE).map(|line| format!("    {},\n", line.join(", ")));
    lines.collect()
}

/// A type of C99.
pub(crate) fn c_type(word: TableWord) -> String {
    format!("{}int{}_t", if word.signed { "" } else { "u" }, word.bits)
}

/// A type of Rust.
pub(crate) fn rust_type(word: TableWord) -> String {
    format!("{}{}", if word.signed { 'i' } else { 'u' }, word.bits)
}

/// A name as types of Rust have it: `slit_opens` is `SlitOpens`.
pub(crate) fn camel(name: &str) -> String {
    let mut made = String::new();
    for part in name.split('_') {
        let mut letters = part.chars();
        made.extend(letters.next().map(|first| first.to_ascii_uppercase()));
        made.extend(letters);
    }
    made
}
