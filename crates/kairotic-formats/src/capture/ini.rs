//! The few lines of `key=value` that a session archive says of itself.

/// The values of a key, in the order of the lines; sections are not told apart, since none has a key of another.
pub(super) fn values<'t>(text: &'t str, key: &'t str) -> impl Iterator<Item = &'t str> {
    text.lines().filter_map(move |line| {
        let (name, value) = line.split_once('=')?;
        (name.trim() == key).then(|| value.trim())
    })
}

/// The values of keys that are a word with a number behind it, by that number.
pub(super) fn numbered<'t>(text: &'t str, word: &str) -> Vec<(usize, &'t str)> {
    let one = |line: &'t str| {
        let (name, value) = line.split_once('=')?;
        Some((name.trim().strip_prefix(word)?.parse().ok()?, value.trim()))
    };
    text.lines().filter_map(one).collect()
}
