//! Holds the catalogue against register packages that others wrote.

mod description;
mod digest;
mod planted;
mod report;
mod source;
mod statements;
#[cfg(test)]
mod tests;
mod verdict;

use std::path::PathBuf;

use anyhow::Result;
use clap::Parser;

use self::source::PackageList;

/// Holds the catalogue against register packages that others wrote.
#[derive(Debug, Parser)]
enum VerifyArguments {
    /// Fetches the packages into a folder
    Fetch {
        /// The folder
        folder: PathBuf,
    },
    /// Compares, and prints the page
    Report {
        /// The folder with the packages
        folder: PathBuf,
        /// One part only, with everything that differs or stays open
        #[arg(long)]
        part: Option<String>,
    },
}

fn main() -> Result<()> {
    let sources = PackageList::listed()?;
    match VerifyArguments::parse() {
        VerifyArguments::Fetch { folder } => sources.fetch(&folder),
        VerifyArguments::Report { folder, part } => {
            let text = match part {
                Some(part) => report::one(&sources, &folder, &part)?,
                None => report::page(&sources, &folder)?,
            };
            print!("{text}");
            Ok(())
        }
    }
}
