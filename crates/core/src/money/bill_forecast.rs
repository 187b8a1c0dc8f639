//! The bill of a candidate as it may turn out under the policy its buyer follows.

use crate::documents::assumptions::Assumptions;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::inference::care_scenarios::Worlds;
use crate::inference::context::AssessError;
use crate::inference::context::with_scene;
use crate::inference::evidence_mask::Counted;
use crate::money::bill_spread::BillSpread;
use crate::money::point_cost::PointMoney;
use crate::money::point_cost::Priced;
use crate::money::purchase_decision;
use crate::money::reference_price;
use crate::money::schedule;
use crate::money::simulation::Futures;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::Zones;
use crate::reliability::survival_grid::Parts;

/// The bill as it may turn out under the school of doing that the buyer chose; `reserve` asks how often an
/// amount is enough.
///
/// # Errors
/// As [`crate::assess()`].
pub fn spread(
    candidate: &Candidate,
    families: &[Family],
    reserve: Option<f64>,
    a: &Assumptions,
) -> Result<BillSpread, AssessError> {
    with_scene(candidate, families, a, |scene| {
        let setting = scene.setting;
        let all: Vec<[Zones; 3]> = scene
            .views
            .iter()
            .map(|v| {
                let grid = FutureGrid::full(setting.horizon, &v.subject.leads);
                setting.worlds(v, &mut Parts::default(), &grid, Counted::ALL, false).0
            })
            .collect();
        let worlds = Worlds::before(&all, scene.prior).found(scene.answers, setting.assumptions.joint_states);
        let price = reference_price::reference(setting.candidate).price;
        let (due, work) = schedule::due(setting, scene.families, setting.assumptions);
        let money: Vec<PointMoney> =
            scene.views.iter().map(|v| PointMoney::new(setting, v.subject, v.curves, price)).collect();
        let mut futures = Futures::new(scene, &worlds, price, &money, &work);
        let priced: Vec<Priced> = money.iter().enumerate().map(|(i, m)| Priced::new(&worlds, i, m)).collect();
        let doing = purchase_decision::doing(scene, &worlds, &money, &priced, &due, work.total());
        for (r, p) in futures.ready.iter_mut().zip(&doing.renewed) {
            r.renewed = *p;
        }
        let expected = doing.expected;
        Ok(futures.spread(reserve, expected, doing.told))
    })
}
