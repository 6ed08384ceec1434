//! The JSON views that several commands share. Keys carry their unit; exact numbers are strings, with a float beside.

use kairotic_core::explain::Line;
use kairotic_core::finding::Finding;
use kairotic_core::part::Timer;
use kairotic_core::quantity::{Frequency, Tolerance};
use kairotic_core::search::{FitOf, RankedSetting};
use kairotic_core::setting::{ClockError, Constant, FieldWrite, Output, Setting, Written};
use kairotic_core::signal::Active;
use serde::Serialize;

use super::clock::ArrangementView;
use super::pins::PinView;
use crate::arguments::routing::Routing;
use crate::fault::Result;
use crate::format::{Head, exact, exact_or_null};

/// What every answer about a timer has in common.
#[derive(Debug)]
pub struct Answer<'r> {
    /// The command.
    pub command: &'static str,
    /// The timer.
    pub timer: &'r Timer,
    /// The source clock.
    pub clock: Tolerance<Frequency>,
    /// Whether that is the part's default.
    pub default_clock: bool,
    /// What lies around the timer, as far as it was asked.
    pub around: &'r Routing,
    /// The arithmetic, where it is wanted.
    pub working: &'r [Line],
    /// What the clock's tolerance adds.
    pub clock_error: Option<&'r ClockError>,
    /// The findings.
    pub findings: &'r [Finding],
}

impl Answer<'_> {
    /// The answer as one object, with what is special about it in the middle.
    ///
    /// # Errors
    /// [`Fault::Format`](crate::fault::Fault::Format).
    pub fn with(&self, body: impl Serialize) -> Result<String> {
        let (nominal, deviation) = (self.clock.nominal.value(), self.clock.deviation.value());
        Ok(serde_json::to_string_pretty(&AnswerView {
            head: Head::of(self.command),
            part: &self.timer.part,
            timer: &self.timer.name,
            clock: ClockView {
                frequency_hz: exact(nominal),
                frequency_hz_approx: nominal.approx(),
                tolerance: exact(deviation),
                tolerance_approx: deviation.approx(),
                after_reset: self.default_clock,
            },
            clock_way: self.around.way.as_ref().map(ArrangementView::of),
            pin: self.around.pin.as_ref().map(|pin| PinView::of(&pin.output)),
            body,
            working: working(self.working),
            clock_error: self.clock_error.map(ClockErrorView::of),
            findings: self.findings.iter().map(FindingView::of).collect(),
        })?)
    }
}

#[derive(Serialize)]
struct AnswerView<'r, B> {
    #[serde(flatten)]
    head: Head,
    part: &'r str,
    timer: &'r str,
    clock: ClockView,
    #[serde(skip_serializing_if = "Option::is_none")]
    clock_way: Option<ArrangementView>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pin: Option<PinView<'r>>,
    #[serde(flatten)]
    body: B,
    #[serde(skip_serializing_if = "Option::is_none")]
    working: Option<Vec<SumView>>,
    clock_error: Option<ClockErrorView>,
    findings: Vec<FindingView>,
}

/// A source clock.
#[derive(Debug, Serialize)]
struct ClockView {
    frequency_hz: String,
    frequency_hz_approx: f64,
    tolerance: String,
    tolerance_approx: f64,
    after_reset: bool,
}

/// What the clock's tolerance adds.
#[derive(Debug, Serialize)]
struct ClockErrorView {
    frequency_hz: String,
    frequency_hz_approx: f64,
    pulse_s: Option<String>,
    pulse_s_approx: Option<f64>,
}

impl ClockErrorView {
    fn of(error: &ClockError) -> Self {
        let pulse = error.pulse.map(|pulse| pulse.value());
        Self {
            frequency_hz: exact(error.frequency.value()),
            frequency_hz_approx: error.frequency.value().approx(),
            pulse_s: exact_or_null(pulse),
            pulse_s_approx: pulse.map(|pulse| pulse.approx()),
        }
    }
}

/// One setting with what it realises.
#[derive(Debug, Serialize)]
pub struct SettingView {
    mode: String,
    mode_title: String,
    alignment: &'static str,
    divider: String,
    divider_approx: f64,
    top: u64,
    top_register: Option<String>,
    period_ticks: u64,
    dither_bits: u32,
    tick_s: String,
    tick_s_approx: f64,
    frequency_hz: String,
    frequency_hz_approx: f64,
    period_s: String,
    period_s_approx: f64,
    steps: u64,
    bits_approx: f64,
    step_s: String,
    step_s_approx: f64,
    step_duty: String,
    step_duty_approx: f64,
    lowest_duty: String,
    lowest_duty_approx: f64,
    highest_duty: String,
    highest_duty_approx: f64,
    #[serde(skip_serializing_if = "Option::is_none")]
    dead_time_s: Option<String>,
    jitter: Option<JitterView>,
    channels: Vec<ChannelView>,
    registers: Vec<FieldView>,
    #[serde(flatten)]
    fit: Option<FitView>,
}

/// The jitter of a fractional divider.
#[derive(Debug, Serialize)]
struct JitterView {
    peak_to_peak_s: String,
    peak_to_peak_s_approx: f64,
    rms_s_approx: f64,
    repeats_periods: u64,
    pulses_peak_to_peak_s: String,
}

/// One channel of a setting.
#[derive(Debug, Serialize)]
struct ChannelView {
    channel: String,
    compare: Option<u64>,
    active: &'static str,
    constant: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    start_s: Option<String>,
    active_ticks: String,
    duty: String,
    duty_approx: f64,
    pulse_s: String,
    pulse_s_approx: f64,
    #[serde(skip_serializing_if = "Option::is_none")]
    pulse_clocks: Option<[String; 2]>,
    #[serde(flatten)]
    signal: Option<SignalView>,
}

/// How a channel fits what was wanted of it.
#[derive(Debug, Serialize)]
struct SignalView {
    wanted: &'static str,
    exact: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    duty_error: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    duty_error_approx: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    start_error_s: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pulse_error_s: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pulse_error_s_approx: Option<f64>,
}

/// One register field.
#[derive(Debug, Serialize)]
pub struct FieldView {
    register: String,
    field: Option<String>,
    meant: String,
    written: Option<u64>,
    /// What lies in memory where the field points to.
    #[serde(skip_serializing_if = "Option::is_none")]
    address_of: Option<String>,
    note: String,
}

/// How a setting fits the target.
#[derive(Debug, Serialize)]
struct FitView {
    frequency_error: String,
    frequency_error_ppm_approx: f64,
    exact: bool,
    within: bool,
    signals_exact: bool,
    span: Option<SpanView>,
    score_approx: f64,
    better: Vec<&'static str>,
}

/// The span's share of a setting.
#[derive(Debug, Serialize)]
struct SpanView {
    compare_low: u64,
    compare_high: u64,
    steps: u64,
    bits_approx: f64,
}

impl SettingView {
    /// The view of a setting alone.
    ///
    /// # Errors
    /// Those of a setting of another timer.
    pub fn of(timer: &Timer, setting: &Setting) -> Result<Self> {
        Self::with(timer, setting, None)
    }

    /// The view of a setting that was chosen for a target.
    ///
    /// # Errors
    /// Those of a setting of another timer.
    pub fn chosen(timer: &Timer, choice: &RankedSetting) -> Result<Self> {
        Self::with(timer, &choice.setting, Some(choice))
    }

    fn with(timer: &Timer, setting: &Setting, choice: Option<&RankedSetting>) -> Result<Self> {
        let signals = choice.map(|choice| choice.fit.signals.as_slice()).unwrap_or_default();
        let channels = setting.outputs.iter().enumerate();
        Ok(Self {
            mode: setting.plan.mode.clone(),
            mode_title: setting.mode_title.clone(),
            alignment: setting.alignment.word(),
            divider: exact(setting.divider),
            divider_approx: setting.divider.approx(),
            top: setting.plan.top,
            top_register: setting.top_register.clone(),
            period_ticks: setting.ticks,
            dither_bits: setting.dither_bits,
            tick_s: exact(setting.tick.value()),
            tick_s_approx: setting.tick.value().approx(),
            frequency_hz: exact(setting.frequency.value()),
            frequency_hz_approx: setting.frequency.value().approx(),
            period_s: exact(setting.period.value()),
            period_s_approx: setting.period.value().approx(),
            steps: setting.steps,
            bits_approx: setting.bits(),
            step_s: exact(setting.step.value()),
            step_s_approx: setting.step.value().approx(),
            step_duty: exact(setting.step_duty.value()),
            step_duty_approx: setting.step_duty.value().approx(),
            lowest_duty: exact(setting.ends.lowest.value()),
            lowest_duty_approx: setting.ends.lowest.value().approx(),
            highest_duty: exact(setting.ends.highest.value()),
            highest_duty_approx: setting.ends.highest.value().approx(),
            dead_time_s: exact_or_null(setting.dead_time.map(|dead_time| dead_time.value())),
            jitter: setting.jitter.map(|jitter| JitterView {
                peak_to_peak_s: exact(jitter.peak_to_peak.value()),
                peak_to_peak_s_approx: jitter.peak_to_peak.value().approx(),
                rms_s_approx: jitter.rms,
                repeats_periods: jitter.repeats,
                pulses_peak_to_peak_s: exact(jitter.pulses.value()),
            }),
            channels: channels
                .map(|(index, output)| channel(setting, output, signals.get(index)))
                .collect::<Result<_>>()?,
            registers: setting.writes(timer)?.into_iter().map(FieldView::of).collect(),
            fit: choice.map(fit),
        })
    }
}

fn channel(setting: &Setting, output: &Output, signal: Option<&FitOf>) -> Result<ChannelView> {
    let clocks = if output.whole { None } else { Some(setting.pulse_clocks(output)?) };
    Ok(ChannelView {
        channel: output.channel.clone(),
        compare: output.compare,
        active: output.level.word(),
        constant: output.constant.map(|constant| match constant {
            Constant::Active => "active",
            Constant::Inactive => "inactive",
        }),
        start_s: exact_or_null(output.start.map(|start| start.value())),
        active_ticks: exact(output.ticks),
        duty: exact(output.duty.value()),
        duty_approx: output.duty.value().approx(),
        pulse_s: exact(output.pulse.value()),
        pulse_s_approx: output.pulse.value().approx(),
        pulse_clocks: clocks.map(|(fewest, most)| [fewest, most].map(|clocks| clocks.to_string())),
        signal: signal.map(|signal| {
            let (duty, pulse) = match signal.error {
                Active::Duty(error) => (Some(error.value()), None),
                Active::Pulse(error) => (None, Some(error.value())),
            };
            SignalView {
                wanted: signal.wanted.word(),
                exact: signal.exact,
                duty_error: exact_or_null(duty),
                duty_error_approx: duty.map(|error| error.approx()),
                start_error_s: exact_or_null(signal.start_error.map(|error| error.value())),
                pulse_error_s: exact_or_null(pulse),
                pulse_error_s_approx: pulse.map(|error| error.approx()),
            }
        }),
    })
}

impl FieldView {
    /// One field with what is written to it.
    pub fn of(write: FieldWrite) -> Self {
        let FieldWrite { register, field, meant, written, note } = write;
        let number = written.number();
        let address_of = match written {
            Written::Number(_) => None,
            Written::AddressOf(name) => Some(name),
        };
        Self { register, field, meant, written: number, address_of, note }
    }
}

fn fit(choice: &RankedSetting) -> FitView {
    let fit = &choice.fit;
    FitView {
        frequency_error: exact(fit.frequency_error.value()),
        frequency_error_ppm_approx: fit.frequency_error.value().approx() * 1e6,
        exact: fit.frequency_exact,
        within: fit.within,
        signals_exact: choice.signals_exact(),
        span: fit.span.as_ref().map(|span| SpanView {
            compare_low: span.low,
            compare_high: span.high,
            steps: span.steps,
            bits_approx: (span.steps as f64).log2(),
        }),
        score_approx: fit.score,
        better: choice.better.clone(),
    }
}

/// Something that is or may be wrong.
#[derive(Debug, Serialize)]
pub struct FindingView {
    name: &'static str,
    severity: &'static str,
    message: String,
    remedy: String,
}

impl FindingView {
    /// The view of a finding.
    pub fn of(finding: &Finding) -> Self {
        Self {
            name: finding.name(),
            severity: finding.severity().word(),
            message: finding.to_string(),
            remedy: crate::hints::of_finding(finding),
        }
    }
}

/// One line of arithmetic.
#[derive(Debug, Serialize)]
struct SumView {
    name: String,
    sum: String,
}

/// The views of the arithmetic, where there is any.
fn working(lines: &[Line]) -> Option<Vec<SumView>> {
    let view = |line: &Line| SumView { name: line.name.clone(), sum: line.sum.clone() };
    (!lines.is_empty()).then(|| lines.iter().map(view).collect())
}
