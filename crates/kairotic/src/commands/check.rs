//! `check`: board files as a whole, and the code made from them.

use std::collections::BTreeMap;
use std::path::Path;

use kairotic_core::board::{self, Board, BoardPlan, ReviewProblem};
use kairotic_core::finding::{BoardFileWrong, CodeChange, CodeDiffers, Finding, Severity};
use kairotic_core::part::check::Path as KeyPath;
use kairotic_formats::board_file;
use kairotic_formats::emit::{Drift, EmitForm, EmittedFile, EmittedFrom, EmittedHead, drift, head_of};
use kairotic_formats::text_file::{FileError, Source, TextPlace, place_of};

use super::{Answer, Shown, emit};
use crate::arguments::check::CheckArgs;
use crate::exit::Exit;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;
use crate::report::check::{
    BoardProblem, CheckReport, CheckedAxis, CheckedBoard, CheckedCode, CheckedSignal, RelatedPlace,
};

pub(super) fn run(arguments: &CheckArgs, catalogue: &PartLibrary) -> Result<Answer> {
    let CheckArgs { boards, against, quiet } = arguments;
    if let Some(folder) = against.as_ref().filter(|folder| folder.exists() && !folder.is_dir()) {
        let message = format!("--against: expected a folder with code, found the file {}", folder.display());
        return Err(Fault::Usage { message, hint: "name the folder that `emit --to` made".to_owned() });
    }
    let check = |file| CheckedFile::read(file, against.as_deref(), catalogue);
    let boards = boards.iter().map(|file| check(file)).collect::<Result<Vec<_>>>()?;
    let report = CheckReport { boards };
    let exit = match () {
        () if report.boards.iter().any(|board| board.part.is_none()) => Exit::Refused,
        () if report.boards.iter().all(CheckedBoard::is_met) => Exit::Fine,
        () => Exit::Missed,
    };
    if *quiet && exit == Exit::Fine {
        return Ok(Answer::text(String::new()));
    }
    Ok(Answer { shown: Shown::Report(Box::new(report)), exit })
}

/// A board file that is looked at.
struct CheckedFile<'f> {
    file: &'f Path,
    source: Source,
    problems: Vec<BoardProblem>,
}

impl CheckedFile<'_> {
    fn read(file: &Path, against: Option<&Path>, catalogue: &PartLibrary) -> Result<CheckedBoard> {
        let source = catalogue.file(file)?;
        let mut checked = CheckedFile { file, source, problems: Vec::new() };
        let known = |name: &str| catalogue.whole_part(name);
        let board = match board_file::read_clashing(&checked.source, &known) {
            Ok(board) => board,
            Err(error) => return Ok(checked.wrong(error)),
        };
        let part = catalogue.whole_part(&board.part)?;
        let names = catalogue.names();
        let others = || names.iter().filter_map(|name| catalogue.part(name).ok());
        let review = board::review(&board, part, others);
        for problem in review.problems(&board) {
            checked.told(&board, problem);
        }
        let signals = review.signals.iter().map(CheckedSignal::of).collect();
        let axes = review.axes.iter().map(CheckedAxis::of).collect();
        let code = match (&review.plan, against) {
            (Ok(plan), Some(folder)) => checked.code((&board, plan), folder, catalogue)?,
            _ => Vec::new(),
        };
        let steps = review.plan.as_ref().map_or(0, |plan| plan.program.steps.len());
        Ok(CheckedBoard { part: Some(board.part.clone()), axes, steps, code, ..checked.done(signals) })
    }

    fn done(self, signals: Vec<CheckedSignal>) -> CheckedBoard {
        let mut problems = self.problems;
        problems.sort_by_key(|problem| problem.finding.severity());
        let (part, axes, code) = (None, Vec::new(), Vec::new());
        CheckedBoard { file: self.file.display().to_string(), part, signals, axes, steps: 0, code, problems }
    }

    /// A file that is no board.
    fn wrong(mut self, error: FileError) -> CheckedBoard {
        for problem in error.problems {
            let key = if problem.key.is_empty() { String::new() } else { format!("{}: ", problem.key) };
            let finding = BoardFileWrong { problem: format!("{key}{}", problem.message) };
            let place = TextPlace { line: problem.line, column: problem.column };
            self.report(None, place, finding);
        }
        if error.more > 0 {
            let finding = BoardFileWrong { problem: format!("and {} more", error.more) };
            self.report(None, TextPlace { line: 1, column: 1 }, finding);
        }
        self.done(Vec::new())
    }

    /// Reports a finding. A note on several signals is told once, and where else.
    fn report(&mut self, signal: Option<&str>, at: TextPlace, finding: impl Into<Finding>) {
        let finding = finding.into();
        let known = self.problems.iter_mut().find(|problem| problem.finding == finding);
        if let (Some(known), Some(signal), Severity::Note) = (known, signal, finding.severity()) {
            let says = format!("signal {signal}");
            known.related.push(RelatedPlace { line: at.line, column: at.column, says });
            return;
        }
        self.problems.push(BoardProblem {
            file: self.file.display().to_string(),
            line: at.line,
            column: at.column,
            signal: signal.map(ToOwned::to_owned),
            finding,
            related: Vec::new(),
        });
    }

    /// Where a key of a signal's table stands; the signal's name where it is not there.
    fn place(&self, signal: usize, keys: &[&str]) -> TextPlace {
        let table = KeyPath::default().key("signal").index(signal);
        let whole = place_of(&self.source, &table);
        let path = keys.iter().fold(table.clone(), |path, key| path.key(*key));
        let found = place_of(&self.source, &path);
        if found == whole { place_of(&self.source, &table.key("name")) } else { found }
    }

    /// A problem of the board, at the key of the first signal that it is about; the others are told with it.
    fn told(&mut self, board: &Board, ReviewProblem { signals, axis, keys, finding }: ReviewProblem) {
        let keys = if keys.is_empty() { vec!["name"] } else { keys };
        if let Some(axis) = axis {
            let name = board.axes.get(axis).map(|axis| axis.name.as_str());
            return self.report(name, self.place(board.table_of_axis(axis), &keys), finding);
        }
        let name = |place: &usize| board.signals.get(*place).map(|signal| signal.name.clone());
        let table = |signal: &usize| board.table_of_signal(*signal);
        let Some((first, others)) = signals.split_first() else {
            return self.report(None, self.part(), finding);
        };
        // What is about several signals is none's own.
        let own = name(first).filter(|_| others.is_empty());
        self.report(own.as_deref(), self.place(table(first), &keys), finding);
        let related: Vec<RelatedPlace> = others
            .iter()
            .filter_map(|other| {
                let TextPlace { line, column } = self.place(table(other), &keys);
                Some(RelatedPlace { line, column, says: format!("signal {}", name(other)?) })
            })
            .collect();
        if let Some(problem) = self.problems.last_mut() {
            problem.related.extend(related);
        }
    }

    /// Where the part is named: the place of what is about the board as a whole.
    fn part(&self) -> TextPlace {
        place_of(&self.source, &KeyPath::default().key("part"))
    }

    /// The code in a folder that was made from this file, against what would be made now.
    fn code(
        &mut self,
        planned: (&Board, &BoardPlan),
        folder: &Path,
        catalogue: &PartLibrary,
    ) -> Result<Vec<CheckedCode>> {
        let own = self.file.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        let texts: BTreeMap<String, String> = catalogue.texts_in(folder)?.into_iter().collect();
        let heads = texts.iter().filter_map(|(name, text)| Some((name.as_str(), head_of(text)?)));
        let heads: BTreeMap<&str, EmittedHead> = heads.filter(|(_, head)| head.file == own).collect();
        // Files that were made at different times may say different lines: each is made again by its own.
        let mut lines: Vec<String> = heads.values().map(|head| head.line.clone()).collect();
        lines.sort_unstable();
        lines.dedup();
        if lines.is_empty() {
            lines.push(emit::line(self.file, folder, &[EmitForm::C]));
        }
        let mut code = Vec::new();
        for line in &lines {
            let emitted = emit::made(self.file, planned, &forms_of(line), line, catalogue)?;
            for made in &emitted.files {
                if heads.get(made.name.as_str()).is_none_or(|head| head.line == *line) {
                    let is = texts.get(&made.name).map(String::as_str);
                    code.push(self.file_of_code(planned.0, folder, made, is));
                }
            }
        }
        Ok(code)
    }

    fn file_of_code(
        &mut self,
        board: &Board,
        folder: &Path,
        made: &EmittedFile,
        is: Option<&str>,
    ) -> CheckedCode {
        let file = folder.join(&made.name).display().to_string();
        let Some(is) = is else {
            let finding = CodeDiffers { file: file.clone(), change: CodeChange::Missing, from: Vec::new() };
            self.report(None, self.part(), finding);
            return CheckedCode { file, same: false, diff: None };
        };
        let Some(drift) = drift(is, made) else { return CheckedCode { file, same: true, diff: None } };
        let (change, Drift { line, from, diff, .. }) = (drift.change(), &drift);
        // Where the plan changed, what the lines that differ were made of is what changed it.
        let named = |from: &EmittedFrom| match from {
            EmittedFrom::Board => None,
            EmittedFrom::Clock => {
                let place = place_of(&self.source, &KeyPath::default().key("clock"));
                Some((format!("the clock ({}:{})", self.file.display(), place.line), place))
            }
            EmittedFrom::Signal(signal) => {
                let place = self.place(board.table_of_signal(*signal), &["name"]);
                let name = board.signals.get(*signal).map(|signal| signal.name.clone()).unwrap_or_default();
                Some((format!("signal {name} ({}:{})", self.file.display(), place.line), place))
            }
        };
        let named: Vec<(String, TextPlace)> = match change {
            CodeChange::Plan | CodeChange::PlanAndHand | CodeChange::Program => {
                from.iter().filter_map(named).collect()
            }
            _ => Vec::new(),
        };
        let from = named.iter().map(|(told, _)| told.clone()).collect();
        let finding = Finding::from(CodeDiffers { file: file.clone(), change, from });
        let related =
            named.into_iter().map(|(says, at)| RelatedPlace { line: at.line, column: at.column, says });
        self.problems.push(BoardProblem {
            file: file.clone(),
            line: *line,
            column: 1,
            signal: None,
            finding,
            related: related.collect(),
        });
        CheckedCode { file, same: change == CodeChange::PlanOnly, diff: diff.clone() }
    }
}

/// The forms that a line makes.
fn forms_of(line: &str) -> Vec<EmitForm> {
    let words = line.rsplit_once("--as ").map(|(_, forms)| forms).unwrap_or_default();
    let named = |form: &&EmitForm| words.split([',', ' ']).any(|word| word == form.word());
    EmitForm::ALL.iter().filter(named).copied().collect()
}
