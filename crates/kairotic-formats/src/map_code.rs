//! A map's arithmetic as a function in C or Rust.
//!
//! ```
//! use kairotic_core::quantity::Rational;
//! use kairotic_core::scale::{Map, MapRequest, Word, scale};
//! use kairotic_formats::map_code::{Language, function};
//!
//! let map = Map::between(0, 1023, (1000, 2000));
//! let found = scale(MapRequest { map, word: Word::BITS_32, most: Rational::ONE })?;
//! assert!(function(Language::C, "compare_of", &found).contains("compare_of("));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

use kairotic_core::quantity::{Rational, show};
use kairotic_core::scale::{Form, Map, Proof, ScaledMap};

/// The languages.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Language {
    /// C, from C99 on.
    C,
    /// Rust, without the standard library.
    Rust,
}

/// A function of that name that makes a compare value of an input, as a file of its own.
pub fn function(language: Language, name: &str, scaled: &ScaledMap) -> String {
    match language {
        Language::C => {
            // The prototype is for who wants one before every function; a header may hold it.
            let (head, _) = c_head(name, scaled);
            format!("#include <stdint.h>\n\n{head};\n\n{}", c_function(name, scaled, ""))
        }
        Language::Rust => rust_function(name, scaled, "pub "),
    }
}

/// The same for the inside of a file that has other functions.
#[cfg(feature = "emit")]
pub(crate) fn inner_function(language: Language, name: &str, scaled: &ScaledMap) -> String {
    match language {
        Language::C => c_function(name, scaled, "static "),
        Language::Rust => rust_function(name, scaled, ""),
    }
}

/// How a function of C begins, and the word that it computes with.
fn c_head(name: &str, scaled: &ScaledMap) -> (String, String) {
    let bits = scaled.request.word.bits();
    let word = format!("uint{bits}_t");
    let input = if scaled.request.map.from < 0 { format!("int{bits}_t") } else { word.clone() };
    (format!("{word} {name}({input} input)"), word)
}

fn c_function(name: &str, scaled: &ScaledMap, before: &str) -> String {
    let bits = scaled.request.word.bits();
    let map = &scaled.request.map;
    let (head, word) = c_head(name, scaled);
    let x = match map.from {
        0 => format!("    {word} x = input;\n"),
        from => format!("    {word} x = ({word})(({word})input - ({word}){from});\n"),
    };
    let number = |number: u64| format!("UINT{bits}_C({number})");
    let body = match &scaled.form {
        Form::Table(values) => {
            let list = list(values);
            format!("    static const {word} values[] = {{ {list} }};\n{x}    return values[x];")
        }
        form => format!("{x}    return ({word})({});", sum(map, form, "x", &number)),
    };
    format!("/* {} */\n{before}{head}\n{{\n{body}\n}}\n", told(scaled).join("\n   "))
}

fn rust_function(name: &str, scaled: &ScaledMap, before: &str) -> String {
    let bits = scaled.request.word.bits();
    let map = &scaled.request.map;
    let signed = map.from < 0;
    let (word, input) = (format!("u{bits}"), if signed { format!("i{bits}") } else { format!("u{bits}") });
    let cast = if signed { format!("(input as {word})") } else { "input".to_owned() };
    let low = if signed { format!("{}_{input} as {word}", map.from) } else { map.from.to_string() };
    let (x, called) = match map.from {
        0 => (String::new(), "input"),
        _ => (format!("    let x = {cast}.wrapping_sub({low});\n"), "x"),
    };
    let number = |number: u64| number.to_string();
    let body = match &scaled.form {
        Form::Table(values) => format!(
            "    const VALUES: [{word}; {}] = [{}];\n{x}    VALUES[{called} as usize]",
            values.len(),
            list(values)
        ),
        form => format!("{x}    {}", sum(map, form, called, &number)),
    };
    let comment = told(scaled).iter().map(|line| format!("/// {line}\n")).collect::<String>();
    format!("{comment}{before}fn {name}(input: {input}) -> {word} {{\n{body}\n}}\n")
}

/// The arithmetic in one line, as it reads in either language; `x` is the input less the lowest.
pub fn arithmetic(form: &Form, map: &Map) -> String {
    sum(map, form, "x", &|number| number.to_string())
}

/// What is proved, for the comment.
fn told(scaled: &ScaledMap) -> Vec<String> {
    let map = &scaled.request.map;
    let proof = match scaled.proof {
        Proof::EveryInput(count) => format!("every one of the {count} inputs was looked at"),
        Proof::Interval => "by the line's ends and its rounding".to_owned(),
    };
    let error = show::decimal(scaled.error, 6).unwrap_or_else(|| show::significant(scaled.error.approx(), 4));
    vec![
        format!("Inputs {}..{} to compare values {}..{}.", map.from, map.to, end(map.first), end(map.last)),
        match scaled.met {
            true => format!("Largest error {error} compare steps: {proof}."),
            false => {
                let most = show::significant(scaled.request.most.approx(), 4);
                format!("Largest error {error} compare steps, larger than the {most} allowed: {proof}.")
            }
        },
        format!(
            "Largest number on the way {}, of words of {} bits.",
            scaled.widest,
            scaled.request.word.bits()
        ),
    ]
}

/// An end of a map: to a ten-thousandth of a step, where it is no whole compare value.
pub fn end(exact: Rational) -> String {
    show::decimal(exact, 4).unwrap_or_else(|| format!("{:.4}", exact.approx()))
}

fn list(values: &[u64]) -> String {
    values.iter().map(u64::to_string).collect::<Vec<_>>().join(", ")
}

/// The arithmetic, with numbers as the language writes them. It reads the same in both.
fn sum(map: &Map, form: &Form, input: &str, number: &dyn Fn(u64) -> String) -> String {
    let mut terms = Vec::new();
    let whole = |whole: u64| match whole {
        0 => None,
        1 => Some(input.to_owned()),
        whole => Some(format!("{input} * {}", number(whole))),
    };
    let times = |what: &str, factor: u64| {
        if factor == 1 { what.to_owned() } else { format!("{what} * {}", number(factor)) }
    };
    let plus = |add: u64| if add == 0 { String::new() } else { format!(" + {}", number(add)) };
    match form {
        Form::Shift { whole: part, before, factor, add, shift } => {
            terms.extend(whole(*part));
            let x = if *before == 0 { input.to_owned() } else { format!("({input} >> {before})") };
            if *factor > 0 {
                let inside = format!("{}{}", times(&x, *factor), plus(*add));
                terms.push(shifted(&inside, *shift, terms.is_empty() && map.base() == 0));
            }
        }
        Form::Halves { whole: part, low_bits, step, high_factor, low_factor, add, shift } => {
            terms.extend(whole(*part));
            let high = format!("({input} >> {low_bits})");
            if *step > 0 {
                terms.push(times(&high, *step));
            }
            let low = format!("({input} & {})", number((1 << low_bits) - 1));
            let inside =
                format!("{} + {}{}", times(&high, *high_factor), times(&low, *low_factor), plus(*add));
            terms.push(shifted(&inside, *shift, terms.is_empty() && map.base() == 0));
        }
        Form::Divide { whole: part, factor, add, divisor } => {
            terms.extend(whole(*part));
            if *factor > 0 {
                terms.push(format!("({}{}) / {}", times(input, *factor), plus(*add), number(*divisor)));
            }
        }
        Form::Remainder { whole: part, factor, add, divisor } => {
            terms.extend(whole(*part));
            let by = number(*divisor);
            terms.push(times(&format!("{input} / {by}"), *factor));
            terms.push(format!("({}{}) / {by}", times(&format!("({input} % {by})"), *factor), plus(*add)));
        }
        Form::Table(_) => {}
    }
    let sum = if terms.is_empty() { number(0) } else { terms.join(" + ") };
    match (map.falls(), map.base()) {
        // One term that stands in parentheses already, or is one word, needs none.
        (true, first) if terms.len() == 1 && is_closed(&sum) => format!("{} - {sum}", number(first)),
        (true, first) => format!("{} - ({sum})", number(first)),
        (false, 0) => sum,
        (false, first) => format!("{} + {sum}", number(first)),
    }
}

/// A sum, shifted; `alone` where nothing is added to it.
fn shifted(inside: &str, shift: u32, alone: bool) -> String {
    match (shift, alone) {
        (0, _) => inside.to_owned(),
        (shift, true) => format!("({inside}) >> {shift}"),
        (shift, false) => format!("(({inside}) >> {shift})"),
    }
}

/// Whether a text is one word, or stands in one pair of parentheses.
fn is_closed(text: &str) -> bool {
    let mut depth = 0_i32;
    let inside = text.char_indices().all(|(at, letter)| {
        depth += i32::from(letter == '(') - i32::from(letter == ')');
        depth > 0 || at + 1 == text.len()
    });
    text.starts_with('(') && inside || text.chars().all(|letter| letter.is_alphanumeric() || letter == '_')
}
