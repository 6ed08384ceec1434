//! `completions` and `manual`: made from the definition of the command line itself.

use clap::CommandFactory;
use clap_complete::Shell;

use crate::arguments::Cli;
use crate::fault::Result;

/// The completion script for a shell.
pub(super) fn completions(shell: Shell) -> String {
    let mut script = Vec::new();
    clap_complete::generate(shell, &mut Cli::command(), "kairotic", &mut script);
    String::from_utf8_lossy(&script).into_owned()
}

/// The manual page of the program or of one of its commands.
pub(super) fn manual(name: Option<&str>) -> Result<String> {
    let mut program = Cli::command();
    program.build();
    let page = match name {
        None => program,
        Some(name) => {
            let known = program.get_subcommands().map(clap::Command::get_name);
            let unknown = kairotic_core::Error::unknown("command", name, "kairotic", known);
            let found = program.find_subcommand(name).cloned().ok_or(unknown)?;
            found.display_name(format!("kairotic-{name}"))
        }
    };
    let mut roff = Vec::new();
    clap_mangen::Man::new(page).render(&mut roff)?;
    Ok(String::from_utf8_lossy(&roff).into_owned())
}
