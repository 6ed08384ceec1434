//! What `scale` shows of a map.

use kairotic_core::error::OrOverflow;
use kairotic_core::finding::Finding;
use kairotic_core::quantity::{Duty, LoadLevel, Rational, Time, show};
use kairotic_core::scale::{Form, MapPoint, Naive, OutputStep, Proof, ScaledMap};
use kairotic_core::search::Derivation;
use kairotic_formats::map_code::end;
use serde::Serialize;

use super::setting;
use super::words::{brief, counted};
use crate::chart::MapPlot;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, column, decimal, decimal_or_none, envelope};

/// A map, and what was asked about it.
#[derive(Debug, Serialize)]
pub struct ScaleReport {
    /// The map with its arithmetic.
    #[serde(flatten)]
    pub scaled: ScaledMap,
    /// Whether words of 32 bits would meet what these do not.
    pub wider_meets: bool,
    /// What a compare step is, where a timer is known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub step: Option<OutputStep>,
    /// What the inputs count, where they have a unit.
    pub unit: &'static str,
    /// What it makes of chosen inputs.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub points: Vec<MapPoint>,
    /// What chosen compare values stand for.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub back: Vec<MapPoint>,
    /// What shortcuts cost.
    pub naive: Vec<Naive>,
    /// What is worth knowing.
    #[serde(skip)]
    pub findings: Vec<Finding>,
    /// What the load does at the end of the map, where that has to be known.
    #[serde(skip)]
    pub note: Option<&'static str>,
    /// The arithmetic as a function, where it is wanted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub code: Option<String>,
    /// The timer's setting, where the compare values are those of one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub derivation: Option<Derivation>,
}

/// The map as a picture, by points that stand close.
pub fn figure(scaled: &ScaledMap, unit: &str, points: &[MapPoint]) -> MapPlot {
    let map = scaled.request.map;
    let title = format!(
        "{}{unit}..{}{unit} to compare {}..{}: {}",
        map.from,
        map.to,
        end(map.first),
        end(map.last),
        text(&scaled.form, &map)
    );
    MapPlot {
        title,
        inputs: if unit.is_empty() { "input".to_owned() } else { format!("input in {unit}") },
        values: points.iter().map(|point| (point.input.approx(), point.compare as f64)).collect(),
        errors: points.iter().map(|point| (point.input.approx(), point.error.approx())).collect(),
        limit: scaled.request.most.approx(),
    }
}

const POINTS: &[&str] = &["input", "compare", "pulse", "duty", "level", "error"];

impl Report for ScaleReport {
    fn page(&self) -> Result<Page> {
        let ScaledMap { request, form, error, proof, widest, met, .. } = &self.scaled;
        let map = request.map;
        let mut heading = Vec::new();
        if let Some(derivation) = &self.derivation {
            heading.push(derivation.timer.path());
        }
        heading.push(format!(
            "{}{1}..{2}{1} to compare {3}..{4}",
            map.from,
            self.unit,
            map.to,
            end(map.first),
            end(map.last)
        ));
        let mut page = Page::headed(heading);
        let fact = |figure: &str, value: String| Line::Row(vec![Cell::left(figure), Cell::left(value)]);
        let bits = request.word.bits();
        let verdict = if *met { "met" } else { "missed" };
        let how = match proof {
            Proof::EveryInput(count) => format!("proved: all {count} inputs were looked at"),
            Proof::Interval => "proved by the line's ends and its rounding".to_owned(),
        };
        let in_output = self.in_output(*error)?.filter(|_| error.is_positive());
        let (error, most) = (number(*error), number(request.most));
        let mut facts = vec![
            fact("arithmetic", format!("{}, where x is {}", text(form, &map), start(map.from))),
            fact("largest error", format!("{error} compare steps of the {most} allowed: {verdict}")),
        ];
        facts.extend(in_output.map(|found| fact("", format!("that is {}", found.told()))));
        facts.push(fact("", how));
        facts.push(fact(
            "widest",
            format!("{widest} of the {} that {bits} bits hold", request.word.largest()),
        ));
        page.push("map", &["figure", "value"], facts);
        page.table("points", POINTS, self.points.iter().map(|point| self.point(point)).collect());
        page.table("back", POINTS, self.back.iter().map(|point| self.point(point)).collect());
        page.push("naive", &["shortcut", "drift"], self.naive.iter().filter_map(shortcut).collect());
        if !met {
            let mut text = match self.scaled.is_decided() {
                true => format!(
                    "in words of {bits} bits no multiplication with a shift does better, and neither do the pairs of multiplications and the divisions that were tried"
                ),
                false => format!(
                    "of the shifts and divisions that were tried in words of {bits} bits, the one that is bounded best"
                ),
            };
            if self.wider_meets {
                text.push_str("; --word 32 meets it");
            }
            page.push("because", &[], vec![Line::Prose(text)]);
        }
        let mut watch: Vec<Line> = self.note.iter().map(|note| Line::Prose((*note).to_owned())).collect();
        watch.extend(setting::findings(&self.findings));
        page.push("findings", &[], watch);
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let level = self.points.iter().chain(&self.back).find_map(|point| point.level);
        let level = column("level", level.and_then(|level| level.reported().1));
        let header = ["input", "compare", "error_steps", "pulse_s", "duty", &level];
        let rows = self.points.iter().chain(&self.back).map(|point| {
            let output = point.output.as_ref();
            vec![
                decimal(point.input),
                point.compare.to_string(),
                decimal(point.error),
                decimal_or_none(output.map(|output| output.pulse.value())),
                decimal_or_none(output.map(|output| output.duty.value())),
                decimal_or_none(point.level.map(|level| level.reported().0)),
            ]
        });
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        #[derive(Serialize)]
        struct WithArithmetic<'r> {
            arithmetic: String,
            error_in_output: Option<InOutput>,
            #[serde(flatten)]
            report: &'r ScaleReport,
        }
        let ScaledMap { request, form, error, .. } = &self.scaled;
        let (arithmetic, error_in_output) = (text(form, &request.map), self.in_output(*error)?);
        envelope("scale", WithArithmetic { arithmetic, error_in_output, report: self }, &self.findings)
    }
}

/// An error of a map, as what the pin and the load make of it.
#[derive(Serialize)]
struct InOutput {
    pulse: Time,
    duty: Duty,
    level: Option<LoadLevel>,
}

impl InOutput {
    fn told(&self) -> String {
        let level = self.level.map(|level| level.rounded(3));
        level
            .unwrap_or_else(|| format!("{} or {} of the period", self.pulse.rounded(3), self.duty.rounded(3)))
    }
}

impl ScaleReport {
    /// So many compare steps in time, duty and the load's unit, where a timer is known.
    fn in_output(&self, steps: Rational) -> Result<Option<InOutput>> {
        let Some(step) = self.step else { return Ok(None) };
        let times = |each: Rational| each.times(steps).or_overflow("error");
        let level = step.level.map(|level| times(level.value()).map(|value| level.with(value)));
        Ok(Some(InOutput {
            pulse: Time::new(times(step.realised.pulse.value())?),
            duty: Duty::new(times(step.realised.duty.value())?),
            level: level.transpose()?,
        }))
    }

    fn point(&self, point: &MapPoint) -> Line {
        let output = point.output.as_ref();
        Line::Row(vec![
            Cell::point(format!("{}{}", number(point.input), self.unit)),
            Cell::value(point.compare),
            Cell::point(output.map(|output| brief(output.pulse)).unwrap_or_default()),
            Cell::point(output.map(|output| output.duty.rounded(5)).unwrap_or_default()),
            Cell::point(point.level.map(|level| level.rounded(5)).unwrap_or_default()),
            Cell::left(match point.error.is_zero() {
                true => "exact".to_owned(),
                false => format!("{} steps", signed(point.error)),
            }),
        ])
    }
}

/// A number exactly where that is short, else to a few digits.
fn number(value: Rational) -> String {
    show::decimal(value, 6).unwrap_or_else(|| show::significant(value.approx(), 4))
}

fn signed(value: Rational) -> String {
    let sign = if value.is_positive() { "+" } else { "" };
    format!("{sign}{}", show::significant(value.approx(), 3))
}

fn shortcut(naive: &Naive) -> Option<Line> {
    let drift = naive.drift?;
    let steps = counted(drift.unsigned_abs().try_into().ok()?, "compare step");
    let side = if drift < 0 { "too few" } else { "too many" };
    let text = format!("{steps} {side} at the highest input");
    Some(Line::Row(vec![Cell::left(naive.text.clone()), Cell::left(text)]))
}

/// What `x` is, for a lowest input.
fn start(from: i64) -> String {
    match from {
        0 => "the input".to_owned(),
        from if from < 0 => format!("the input + {}", from.unsigned_abs()),
        from => format!("the input - {from}"),
    }
}

/// The arithmetic in one line.
fn text(form: &Form, map: &kairotic_core::scale::Map) -> String {
    let sum = kairotic_formats::map_code::arithmetic(form, map);
    if matches!(form, Form::Table(_)) { "a table of all values".to_owned() } else { sum }
}
