//! What the parser of the command line refuses, in the same look as everything else that is refused.

use std::error::Error as _;

use clap::error::{ContextKind, ContextValue, ErrorKind};
use clap::{Command, CommandFactory};
use kairotic_core::Error;

use super::Cli;
use super::typed::Refusal;

/// What is wrong with the words of a command line, and what to try. `None` where clap's answer is no refusal, but help or
/// the version.
pub fn refusal(answer: &clap::Error) -> Option<Refusal> {
    if !answer.use_stderr() || answer.kind() == ErrorKind::DisplayHelpOnMissingArgumentOrSubcommand {
        return None;
    }
    let told = |kind| text(answer.get(kind));
    let (argument, value) = (option(&told(ContextKind::InvalidArg)), told(ContextKind::InvalidValue));
    let message = match answer.kind() {
        ErrorKind::ValueValidation => {
            let source = answer.source();
            let refusal = source.and_then(|source| source.downcast_ref::<Refusal>());
            let message = source.map(ToString::to_string).unwrap_or_default();
            let message = match argument.starts_with('-') {
                true => format!("{argument}: {message}"),
                false => message,
            };
            let hint = refusal.map_or_else(help, |refusal| refusal.hint.clone());
            return Some(Refusal { message, hint });
        }
        ErrorKind::InvalidValue if value.is_empty() => format!("{argument}: a value is missing"),
        ErrorKind::InvalidValue => format!("{argument}: unknown value `{value}`"),
        ErrorKind::UnknownArgument if argument.starts_with('-') => format!("unknown option {argument}"),
        ErrorKind::UnknownArgument => format!("unexpected `{argument}`"),
        ErrorKind::InvalidSubcommand => {
            let program = Cli::command();
            let known = program.get_subcommands().map(Command::get_name);
            return Some(
                Error::unknown("command", &told(ContextKind::InvalidSubcommand), "kairotic", known).into(),
            );
        }
        ErrorKind::ArgumentConflict => {
            let others: Vec<String> =
                texts(answer.get(ContextKind::PriorArg)).iter().map(|text| option(text)).collect();
            // Of a group clap names all that are in it.
            let typed = |name: &String| std::env::args().any(|word| word.split('=').next() == Some(name));
            let given: Vec<String> = others.iter().filter(|name| typed(name)).cloned().collect();
            let others = if given.is_empty() { others } else { given };
            match others.as_slice() {
                [other] if *other == argument => format!("{argument} cannot be given twice"),
                others => format!("{argument} cannot be used with {}", others.join(", ")),
            }
        }
        ErrorKind::MissingRequiredArgument => {
            let missing: Vec<String> =
                texts(answer.get(ContextKind::InvalidArg)).iter().map(|text| missing(text)).collect();
            format!("missing {}", missing.join(", and "))
        }
        // Rare, and clap's first line says it.
        _ => {
            let rendered = answer.to_string();
            let line = rendered.lines().next().unwrap_or_default();
            line.trim_start_matches("error: ").to_owned()
        }
    };
    let meant = [ContextKind::SuggestedArg, ContextKind::SuggestedValue, ContextKind::SuggestedSubcommand];
    let meant: Vec<String> = meant.iter().flat_map(|kind| texts(answer.get(*kind))).collect();
    let known = texts(answer.get(ContextKind::ValidValue));
    let hint = match (meant.as_slice(), known.as_slice()) {
        ([meant, ..], _) => Some(format!("did you mean {}?", option(meant))),
        ([], [_, ..]) => Some(format!("one of {}", known.join(", "))),
        _ => help(),
    };
    Some(Refusal { message, hint })
}

/// Where the options are listed that were meant.
fn help() -> Option<String> {
    let program = Cli::command();
    let command = std::env::args().nth(1).filter(|word| program.find_subcommand(word).is_some());
    Some(match command {
        Some(command) => format!("`kairotic {command} --help` says what it takes"),
        None => "`kairotic --help` lists the commands".to_owned(),
    })
}

/// A context as one text.
fn text(value: Option<&ContextValue>) -> String {
    value.map(ToString::to_string).unwrap_or_default()
}

/// A context as the texts in it.
fn texts(value: Option<&ContextValue>) -> Vec<String> {
    match value {
        Some(ContextValue::String(text)) => vec![text.clone()],
        Some(ContextValue::Strings(texts)) => texts.clone(),
        _ => Vec::new(),
    }
}

/// An option by its name alone, and anything else without the brackets around it.
fn option(text: &str) -> String {
    match text.starts_with('-') {
        true => text.split(' ').next().unwrap_or(text).to_owned(),
        false => text.chars().filter(|letter| !"<>[]".contains(*letter)).collect(),
    }
}

/// Something that is missing: an option with what it takes, or one of several.
fn missing(text: &str) -> String {
    if text.contains('|') {
        let names: Vec<String> =
            text.split('|').map(|one| option(one.trim_start_matches('<')).replace("...", "")).collect();
        return format!("one of {}", names.join(", "));
    }
    text.replace(['<', '>', '[', ']'], "").trim_end_matches("...").to_owned()
}
