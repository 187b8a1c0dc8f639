//! Each source's own view of every point.

use crate::base::weibull::CurveError;
use crate::inference::applicable_point::Subject;
use crate::inference::care_scenarios::Worlds;
use crate::inference::context::Scene;
use crate::inference::evidence_mask::Counted;
use crate::inference::setting::View;
use crate::reliability::mixture::Heard;
use crate::reliability::mixture::PointLives;
use crate::reliability::plan_grid::FutureGrid;
use crate::reliability::remaining_life::Zones;
use crate::reliability::survival_grid::Parts;
use serde::Deserialize;
use serde::Serialize;
use utoipa::ToSchema;

/// Whether a school makes a claim on this point.
fn speaks(s: &Subject<'_>, school: &str) -> bool {
    s.point.life.iter().any(|c| c.school == school) || s.point.share.iter().any(|c| c.school == school)
}

/// Whether hearing the school alone changes the point's curves: not where it says nothing, or where
/// nobody else does.
fn differs(s: &Subject<'_>, school: &str) -> bool {
    let revision = s.point.revision.iter();
    let lives = s.point.life.iter().chain(revision.clone().flat_map(|r| &r.life)).map(|c| &c.school);
    let shares = s.point.share.iter().chain(revision.flat_map(|r| &r.share)).map(|c| &c.school);
    let (mut own, mut others) = (false, false);
    for claimed in lives.chain(shares) {
        if claimed == school { own = true } else { others = true }
    }
    own && others
}

/// Each subject's chance within the plan under each school that speaks of it, findings weighed.
/// `pooled` are the worlds before findings when all are heard, for the points that the school does not
/// change.
pub(crate) fn by_school(scene: &Scene<'_>, pooled: Option<&Worlds>) -> Result<Vec<Vec<SchoolChance>>, CurveError> {
    let Scene { families, setting, subjects, answers, prior, .. } = *scene;
    let mut out: Vec<Vec<SchoolChance>> = subjects.iter().map(|_| Vec::new()).collect();
    let mut done: Vec<&str> = Vec::new();
    for school in families.iter().flat_map(|f| &f.schools) {
        if done.contains(&school.id.as_str()) {
            continue;
        }
        done.push(&school.id);
        let mut zones: Vec<[Zones; 3]> = Vec::with_capacity(subjects.len());
        for (i, subject) in subjects.iter().enumerate() {
            let grid = FutureGrid::coarse(setting.horizon, &subject.leads);
            zones.push(match pooled {
                Some(pooled) if !differs(subject, &school.id) => {
                    std::array::from_fn(|l| pooled.zones[l][i].on(grid.clone()))
                }
                _ => {
                    let lives = PointLives::pool(subject.point, Heard::One(&school.id), setting.assumptions)?;
                    let curves = setting.curves(subject, &lives);
                    let view = View { subject, lives: &lives, curves: &curves };
                    setting.worlds(&view, &mut Parts::default(), &grid, Counted::ALL, false).0
                }
            });
        }
        let worlds = Worlds::before(&zones, prior).found(answers, setting.assumptions.joint_states);
        for (i, _) in subjects.iter().enumerate().filter(|(_, s)| speaks(s, &school.id)) {
            let chance = worlds.by_horizon(i);
            out[i].push(SchoolChance { school: school.id.clone(), name: school.name.clone(), chance });
        }
    }
    Ok(out)
}

/// A school's view of one point.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SchoolChance {
    /// School id.
    pub school: String,
    /// Its name.
    pub name: String,
    /// Chance within the plan if it alone were heard.
    pub chance: f64,
}
