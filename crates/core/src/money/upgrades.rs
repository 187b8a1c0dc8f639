//! What may be fitted to cure a failure point or to make it last, with what it costs and saves within the plan.
//!
//! docs/METHOD.md, section 8.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::base::pert::pert_mean;
use crate::documents::applicability::fit;
use crate::documents::family::{Family, Upgrade};
use crate::documents::reference::PointRef;
use crate::documents::spelled::range;
use crate::inference::care_scenarios::CareScenarios;
use crate::inference::context::Context;
use crate::money::job_cost::{self, money};
use crate::money::priced_points::PricedPoints;
use crate::reliability::care;

/// An upgrade on this one.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct UpgradeResult {
    /// Whose sheet, by name.
    pub family: String,
    /// What is fitted or done.
    pub name: String,
    /// What it costs.
    pub cost: f64,
    /// Expected money that it saves within the plan.
    pub saves: f64,
    /// The failure points that it cures or makes last, each with what it saves there.
    pub points: Vec<Saved>,
    /// Where it may not be allowed, or what it does to the rest.
    pub caution: String,
    /// Facts that would settle whether it fits this variant.
    pub identify: Vec<String>,
}

/// What an upgrade saves on one point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Saved {
    /// Which.
    pub at: PointRef,
    /// Its name.
    pub name: String,
    /// Expected money saved within the plan.
    pub saves: f64,
}

/// The upgrades that fit this one, those that leave most first.
pub(crate) fn upgrades(
    context: &Context<'_>,
    after: &CareScenarios,
    priced: &PricedPoints,
    renewed: &[bool],
) -> Vec<UpgradeResult> {
    let all = context.families.iter().flat_map(|f| f.upgrades.iter().map(move |u| (f, u)));
    let mut out: Vec<UpgradeResult> = all
        .filter_map(|(f, u)| {
            let fit = fit(&u.applies, f, context.setting.candidate, context.setting.assumptions)?;
            let points = points(context, after, priced, renewed, f, u);
            (!points.is_empty()).then(|| UpgradeResult {
                family: f.name.clone(),
                name: u.name.clone(),
                cost: cost(context, f, u),
                saves: points.iter().map(|p| p.saves).sum(),
                points,
                caution: u.caution.clone(),
                identify: fit.identify,
            })
        })
        .collect();
    out.sort_by(|x, y| (y.saves - y.cost).total_cmp(&(x.saves - x.cost)));
    out
}

fn cost(context: &Context<'_>, family: &Family, u: &Upgrade) -> f64 {
    let (a, buyer) = (context.setting.assumptions, &context.setting.candidate.buyer);
    let job = u.job.as_deref().and_then(|id| family.job(id));
    let done = job.map(|j| job_cost::cost(family, j, buyer.parts, buyer.labour, a).mean);
    let priced = || {
        let [low, likely, high] = money(&range(u.price?, a)?);
        Some(pert_mean(low, likely, high))
    };
    done.or_else(priced).unwrap_or(0.0)
}

fn points(
    context: &Context<'_>,
    after: &CareScenarios,
    priced: &PricedPoints,
    renewed: &[bool],
    family: &Family,
    u: &Upgrade,
) -> Vec<Saved> {
    let each = u.cures.iter().map(|id| (id, f64::INFINITY)).chain(u.lengthens.iter().map(|(id, f)| (id, *f)));
    each.filter_map(|(id, factor)| {
        let i = context.applicable_points.iter().position(|s| s.family.id == family.id && &s.point.id == id)?;
        let at = PointRef { family: family.id.clone(), point: id.clone() };
        let saves = saves(after, priced, i, renewed[i], factor);
        Some(Saved { at, name: context.applicable_points[i].point.name.clone(), saves })
    })
    .collect()
}

/// What is saved on a point that lasts so many times as long from now on. What is there now is paid all the same; what
/// would come within the plan comes only if it would have come within so much less of it.
fn saves(after: &CareScenarios, priced: &PricedPoints, i: usize, renewed: bool, factor: f64) -> f64 {
    let (cost, money) = (&priced.expected[i], &priced.costs[i]);
    care::mix(&after.weights, |l| {
        let z = &after.remaining[l][i];
        let reach = z.grid.horizon() / factor;
        if renewed {
            // The part fitted now is the better one: of its failures those remain that come so much sooner.
            return money.failure * (money.expected_renewals(1.0) - money.expected_renewals(1.0 / factor));
        }
        let later = |k: &usize| z.grid.in_plan(*k) && z.grid.middle(*k) > reach;
        (0..z.grid.cells()).filter(later).map(|k| z.cells[k] * cost.run_on[l].cells[k]).sum()
    })
}
