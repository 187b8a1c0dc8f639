//! What stands on a point's lane when a sheet is drawn on the road: when those that have it fail, all sources heard, and
//! what it comes to at a typical middling example.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::assess::estimate::Costs;
use crate::base::weibull::CurveError;
use crate::decision::grade::Grade;
use crate::documents::assumptions::Assumptions;
use crate::documents::claim::LifeClock;
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::Family;
use crate::reliability::mixture::{PointLives, SourceSelection, WeibullMixture};

/// Steps of a curve.
const STEPS: u32 = 24;

/// The share that has failed where a curve ends.
const ENDS: f64 = 0.99;

/// A point's lane.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PointLane {
    /// The point.
    pub point: String,
    /// When those that have it in them fail, by clock; empty where nothing is claimed.
    pub curves: Vec<LaneCurve>,
    /// What it comes to at a middling example; none where it does not concern that one.
    pub at_middling: Option<LaneEnd>,
}

/// When those that have a point in them fail, all sources pooled.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LaneCurve {
    /// The clock.
    pub clock: LifeClock,
    /// Where the curve ends: usage on the sheet's clock, or years.
    pub to: f64,
    /// Of those that have it in them, the share that fails in each equal step from 0 to there.
    pub fails: Vec<f64>,
}

/// What a point comes to at a typical middling example of its sheet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LaneEnd {
    /// What its job costs alone, expected, units of the currency.
    pub cost: f64,
    /// Chance that it is there or comes within three years, 0 to 1.
    pub p_plan: f64,
    /// Its grade.
    pub grade: Grade,
}

/// The lanes of a sheet whose typical middling example was estimated.
///
/// # Errors
/// A claim that no curve can be laid through.
pub(crate) fn lanes(family: &Family, middling: &Costs, a: &Assumptions) -> Result<Vec<PointLane>, CurveError> {
    let end = |point: &FailurePoint| {
        let found = middling.points.iter().find(|p| p.id == point.id)?;
        Some(LaneEnd { cost: found.job, p_plan: found.p_plan, grade: found.grade })
    };
    let lane = |point: &FailurePoint| {
        let first = PointLives::pool(point, &family.sources, SourceSelection::All, a)?.first;
        let on = |clock, pool: &WeibullMixture| (!pool.is_empty()).then(|| curve(clock, pool));
        let curves = [on(LifeClock::Usage, &first.usage), on(LifeClock::Age, &first.age)];
        let curves = curves.into_iter().flatten().collect();
        Ok(PointLane { point: point.id.clone(), curves, at_middling: end(point) })
    };
    family.points.iter().map(lane).collect()
}

fn curve(clock: LifeClock, pool: &WeibullMixture) -> LaneCurve {
    let to = pool.curves().iter().map(|(_, w)| w.quantile(ENDS)).fold(0.0, f64::max);
    let alive = |i: u32| pool.survival(to * f64::from(i) / f64::from(STEPS));
    // Drawn, not computed with: ten-thousandths.
    let fails = (0..STEPS).map(|i| ((alive(i) - alive(i + 1)) * 1e4).round() / 1e4).collect();
    LaneCurve { clock, to, fails }
}
