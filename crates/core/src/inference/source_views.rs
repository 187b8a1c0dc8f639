//! Each source's own view of every point.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::weibull::CurveError;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::setting::View;
use crate::inference::worn_by;
use crate::reliability::mixture::{PointLives, SourceSelection};
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::RemainingLife;
use crate::reliability::survival_grid::PreparedParts;

/// Whether a source makes a claim on this point.
fn speaks(s: &ApplicablePoint<'_>, source: &str) -> bool {
    s.point.life.iter().any(|c| c.source == source) || s.point.share.iter().any(|c| c.source == source)
}

/// Whether hearing the source alone changes the point's curves: not where it says nothing, or where
/// nobody else does.
fn differs(s: &ApplicablePoint<'_>, source: &str) -> bool {
    let revision = s.point.revision.iter();
    let lives = s.point.life.iter().chain(revision.clone().flat_map(|r| &r.life)).map(|c| &c.source);
    let shares = s.point.share.iter().chain(revision.flat_map(|r| &r.share)).map(|c| &c.source);
    let (mut own, mut others) = (false, false);
    for claimed in lives.chain(shares) {
        if claimed == source { own = true } else { others = true }
    }
    own && others
}

/// Each point's chance within the plan under each source that speaks of it, findings weighed.
/// `pooled` are the scenarios before findings when all are heard, for the points that the source does not
/// change.
pub(crate) fn by_source(
    context: &Context<'_>,
    pooled: Option<&CareScenarios>,
) -> Result<Vec<Vec<SourceChance>>, CurveError> {
    let Context { families, setting, applicable_points, answers, prior, .. } = *context;
    let mut out: Vec<Vec<SourceChance>> = applicable_points.iter().map(|_| Vec::new()).collect();
    let mut done: Vec<&str> = Vec::new();
    for source in families.iter().flat_map(|f| &f.sources) {
        if done.contains(&source.id.as_str()) {
            continue;
        }
        done.push(&source.id);
        let mut remaining: Vec<[RemainingLife; 3]> = Vec::with_capacity(applicable_points.len());
        for (i, applicable_point) in applicable_points.iter().enumerate() {
            let leads = &applicable_point.leads;
            let grid = if worn_by::concerns(context, i) {
                FutureGrid::full(setting.horizon, leads)
            } else {
                FutureGrid::coarse(setting.horizon, leads)
            };
            remaining.push(match pooled {
                Some(pooled) if !differs(applicable_point, &source.id) => {
                    std::array::from_fn(|l| pooled.remaining[l][i].on(grid.clone()))
                }
                _ => {
                    let lives = PointLives::pool(
                        applicable_point.point,
                        &applicable_point.family.sources,
                        SourceSelection::One(&source.id),
                        setting.assumptions,
                    )?;
                    let curves = setting.curves(applicable_point, &lives);
                    let view = View { applicable_point, lives: &lives, curves: &curves };
                    setting.scenarios(&view, &mut PreparedParts::default(), &grid, EvidenceMask::ALL, false).0
                }
            });
        }
        let scenarios = worn_by::found(context, CareScenarios::before(&remaining, prior), answers);
        for (i, _) in applicable_points.iter().enumerate().filter(|(_, s)| speaks(s, &source.id)) {
            let chance = scenarios.by_horizon(i);
            out[i].push(SourceChance { source: source.id.clone(), name: source.name.clone(), chance });
        }
    }
    Ok(out)
}

/// A source's view of one point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SourceChance {
    /// Source id.
    pub source: String,
    /// Its name.
    pub name: String,
    /// Chance within the plan if it alone were heard.
    pub chance: f64,
}
