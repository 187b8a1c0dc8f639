//! A scan of the control units: what was read.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::trouble_code::Code;

/// What was read from the control units at one time.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Scan {
    /// The day.
    #[schema(value_type = String, format = Date)]
    pub date: Date,
    /// What it was read with: the adapter, or the file.
    #[schema(max_length = 120)]
    pub from: String,
    /// Whether it came from a simulated adapter.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub simulated: bool,
    /// Identification number in the control unit; none where it was not read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 40)]
    pub vin: Option<String>,
    /// Whether the lamp is commanded on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mil: Option<bool>,
    /// Codes stored; none where they were not read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_items = 200)]
    pub stored: Option<Vec<Code>>,
    /// Codes pending: seen once, not yet confirmed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_items = 200)]
    pub pending: Option<Vec<Code>>,
    /// Codes permanent: no tool can clear them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_items = 200)]
    pub permanent: Option<Vec<Code>>,
    /// Monitors that the vehicle has, and whether each has run since the memory was cleared.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 20)]
    pub monitors: Vec<MonitorState>,
    /// Warm-ups since the memory was cleared; 255 stands for that many or more.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 255)]
    pub warm_ups: Option<u8>,
    /// Distance since the memory was cleared, km; 65 535 stands for that or more.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 65535)]
    pub cleared_km: Option<u16>,
    /// Coolant temperature, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 250)]
    pub coolant: Option<f64>,
    /// Voltage at the control unit, V.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 70)]
    pub voltage: Option<f64>,
    /// Fuel trims by bank.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 2)]
    pub trims: Vec<Trim>,
    /// What could not be read, and why.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 40)]
    pub missing: Vec<NotRead>,
}

/// A monitor and whether it has run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MonitorState {
    /// Which.
    pub monitor: Monitor,
    /// Whether it has run to its end since the memory was cleared.
    pub complete: bool,
}

/// Monitors of the published services.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Monitor {
    /// Misfire.
    Misfire,
    /// Fuel system.
    FuelSystem,
    /// Components.
    Components,
    /// Catalyst.
    Catalyst,
    /// Heated catalyst.
    HeatedCatalyst,
    /// Tank vapour.
    Evap,
    /// Secondary air.
    SecondaryAir,
    /// Air-conditioning refrigerant, or particulate filter of a spark engine.
    Refrigerant,
    /// Oxygen sensor.
    OxygenSensor,
    /// Oxygen sensor heater.
    OxygenHeater,
    /// Exhaust gas recirculation, or valve timing.
    Recirculation,
    /// Hydrocarbon catalyst of a diesel.
    HydrocarbonCatalyst,
    /// Nitrogen oxide aftertreatment.
    NitrogenOxides,
    /// Boost pressure.
    Boost,
    /// Exhaust gas sensor.
    ExhaustSensor,
    /// Particulate filter.
    ParticulateFilter,
}

/// Fuel trims of a bank, per cent; above 0 adds fuel.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Trim {
    /// 1 or 2.
    #[schema(minimum = 1, maximum = 2)]
    pub bank: u8,
    /// Short term.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -100, maximum = 100)]
    pub short: Option<f64>,
    /// Long term.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -100, maximum = 100)]
    pub long: Option<f64>,
}

/// Something that could not be read.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NotRead {
    /// What.
    pub what: ScanItem,
    /// Why, in words.
    #[schema(max_length = 400)]
    pub why: String,
}

/// What a scan reads, in its order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ScanItem {
    /// What the control unit offers.
    SupportedPids,
    /// Lamp and monitors.
    Readiness,
    /// Stored codes.
    Stored,
    /// Pending codes.
    Pending,
    /// Permanent codes.
    Permanent,
    /// Identification number.
    Vin,
    /// Warm-ups since clear.
    WarmUps,
    /// Distance since clear.
    ClearedKm,
    /// Coolant temperature.
    Coolant,
    /// Short trim, bank 1.
    ShortOne,
    /// Long trim, bank 1.
    LongOne,
    /// Short trim, bank 2.
    ShortTwo,
    /// Long trim, bank 2.
    LongTwo,
    /// Voltage.
    Voltage,
}

impl Scan {
    /// A scan in which nothing has been read yet.
    #[must_use]
    pub fn new(date: Date, from: &str, simulated: bool) -> Self {
        Self {
            date,
            from: from.to_owned(),
            simulated,
            vin: None,
            mil: None,
            stored: None,
            pending: None,
            permanent: None,
            monitors: Vec::new(),
            warm_ups: None,
            cleared_km: None,
            coolant: None,
            voltage: None,
            trims: Vec::new(),
            missing: Vec::new(),
        }
    }

    /// Whether anything at all was read.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        let blank = Self { missing: self.missing.clone(), ..Self::new(self.date, &self.from, self.simulated) };
        *self == blank
    }

    /// Codes of every kind, each once.
    #[must_use]
    pub fn codes(&self) -> Vec<Code> {
        let lists = [&self.stored, &self.permanent, &self.pending];
        let mut out: Vec<Code> = lists.into_iter().flatten().flatten().copied().collect();
        out.sort_unstable();
        out.dedup();
        out
    }

    /// Sets one trim of a bank.
    pub fn set_trim(&mut self, bank: u8, long: bool, value: f64) {
        let at = self.trims.iter().position(|t| t.bank == bank).unwrap_or_else(|| {
            self.trims.push(Trim { bank, short: None, long: None });
            self.trims.len() - 1
        });
        let trim = &mut self.trims[at];
        *(if long { &mut trim.long } else { &mut trim.short }) = Some(value);
        self.trims.sort_by_key(|t| t.bank);
    }

    /// The largest fuel trim of any bank, short and long together, whatever its sign.
    #[must_use]
    pub fn largest_trim(&self) -> Option<f64> {
        let sums = self.trims.iter().map(|t| t.short.unwrap_or(0.0) + t.long.unwrap_or(0.0));
        sums.map(|s| (s.abs() * 10.0).round() / 10.0).reduce(f64::max)
    }
}
