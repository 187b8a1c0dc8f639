//! Each source's own view of every point.

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::weibull::CurveError;
use crate::inference::applicable_point::ApplicablePoint;
use crate::inference::context::Context;
use crate::inference::evidence_mask::EvidenceMask;
use crate::inference::posterior::Posterior;
use crate::inference::setting::{Setting, View};
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

/// Each point's chance within the plan under each source that speaks of it, findings weighed. Where all are heard, what a
/// source does not change is as all have it: only the islands that it changes are weighed again.
pub(crate) fn by_source(
    context: &Context<'_>,
    posterior: &Posterior<'_>,
) -> Result<Vec<Vec<SourceChance>>, CurveError> {
    let Context { families, setting, applicable_points, .. } = *context;
    let all_heard = setting.candidate.buyer.sources.is_empty();
    let (islands, found) = (&posterior.islands, posterior.so_far());
    let grid = |(i, s): (usize, &ApplicablePoint<'_>)| {
        let grid = if worn_by::concerns(context, i) { FutureGrid::full } else { FutureGrid::coarse };
        grid(setting.horizon, &s.leads)
    };
    let grids: Vec<Arc<FutureGrid>> = applicable_points.iter().enumerate().map(grid).collect();
    let mut out: Vec<Vec<SourceChance>> = applicable_points.iter().map(|_| Vec::new()).collect();
    let mut done: Vec<&str> = Vec::new();
    for source in families.iter().flat_map(|f| &f.sources) {
        if done.contains(&source.id.as_str()) {
            continue;
        }
        done.push(&source.id);
        let changes = |i: &usize| !all_heard || differs(&applicable_points[*i], &source.id);
        let changed: Vec<usize> = (0..applicable_points.len()).filter(changes).collect();
        let followed = setting.budget.in_pieces(changed.clone(), &|budget, changed: Vec<usize>| {
            let setting = setting.for_piece(budget);
            let each = changed.into_iter().map(|i| alone(&setting, &applicable_points[i], &source.id, &grids[i]));
            each.collect()
        });
        let followed = followed.into_iter().collect::<Result<Vec<_>, CurveError>>()?;
        let own: BTreeMap<usize, [RemainingLife; 3]> = changed.iter().copied().zip(followed).collect();
        let before = |i: usize| match own.get(&i) {
            Some(own) => own.clone(),
            None => std::array::from_fn(|l| posterior.before.remaining[l][i].on(Arc::clone(&grids[i]))),
        };
        let anew = islands.anew(context, found, changed.into_iter(), before, true);
        for (i, _) in applicable_points.iter().enumerate().filter(|(_, s)| speaks(s, &source.id)) {
            let chance = islands.by_horizon(&anew, found, i);
            out[i].push(SourceChance { source: source.id.clone(), name: source.name.clone(), chance });
        }
    }
    Ok(out)
}

/// A point before findings where one source alone is heard.
fn alone(
    setting: &Setting<'_>,
    applicable_point: &ApplicablePoint<'_>,
    source: &str,
    grid: &Arc<FutureGrid>,
) -> Result<[RemainingLife; 3], CurveError> {
    let (point, sources) = (applicable_point.point, &applicable_point.family.sources);
    let lives = PointLives::pool(point, sources, SourceSelection::One(source), setting.assumptions)?;
    let curves = setting.curves(applicable_point, &lives);
    let view = View { applicable_point, lives: &lives, curves: &curves };
    Ok(setting.scenarios(&view, &mut PreparedParts::default(), grid, EvidenceMask::ALL, false).0)
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
