//! A tune as the sheets see it: its power against what standard parts bear, and what does not last as long.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::applicability::fit;
use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::reference::PointRef;
use crate::inference::applicable_point::ApplicablePoint;
use crate::reliability::tune::lasts;

/// A tune as a sheet sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Tuned {
    /// Whose sheet, by name.
    pub family: String,
    /// What is altered.
    pub name: String,
    /// Whose knowledge, by name.
    pub source: String,
    /// Power it gives, kilowatts; none where nobody measured it.
    pub power_kw: Option<f64>,
    /// Power that the maker gave it, kilowatts.
    pub standard_kw: f64,
    /// Power that its standard parts bear, kilowatts.
    pub limit_kw: f64,
    /// Whether it gives more than that, or may.
    pub beyond: Beyond,
    /// Failure points that it shortens.
    pub points: Vec<Shortened>,
    /// What must go with it, or where it is not allowed.
    pub caution: String,
}

/// Whether a power lies beyond what standard parts bear.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Beyond {
    /// It does not.
    No,
    /// Nobody measured it.
    Unknown,
    /// It does.
    Yes,
}

/// A point that does not last as long.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Shortened {
    /// Which.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// How many times as long it lasts while it is tuned.
    pub lasts: f64,
}

/// The tune of a candidate as each of its sheets sees it.
pub(crate) fn tuned(c: &Candidate, families: &[Family], points: &[ApplicablePoint<'_>], a: &Assumptions) -> Vec<Tuned> {
    let Some(tune) = &c.tune else { return Vec::new() };
    let each = families.iter().flat_map(|f| f.alterations.iter().map(move |x| (f, x)));
    each.filter(|(f, x)| fit(&x.applies, f, c, a).is_some())
        .map(|(f, x)| Tuned {
            family: f.name.clone(),
            name: x.name.clone(),
            source: f.sources.iter().find(|s| s.id == x.source).map_or_else(|| x.source.clone(), |s| s.name.clone()),
            power_kw: tune.power_kw,
            standard_kw: x.standard_kw,
            limit_kw: x.limit_kw,
            beyond: match tune.power_kw {
                None => Beyond::Unknown,
                Some(kw) if kw > x.limit_kw => Beyond::Yes,
                Some(_) => Beyond::No,
            },
            points: points
                .iter()
                .filter(|s| s.family.id == f.id && x.shortens.contains_key(&s.point.id))
                .map(|s| Shortened {
                    at: PointRef { family: f.id.clone(), point: s.point.id.clone() },
                    name: s.point.name.clone(),
                    lasts: lasts(s.point, f, c, tune, a).0,
                })
                .collect(),
            caution: x.caution.clone(),
        })
        .collect()
}
