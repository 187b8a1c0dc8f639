//! The condition of a point, kept apart from the tables that it was read off.

use crate::reliability::condition::{Alive, Condition, Overdue};
use crate::reliability::survival_table::{Cycle, PointCurves};

/// A cycle alive now, as [`Alive`], its part told by which of the point's tables it runs on.
#[derive(Debug, Clone, Copy)]
struct KeptAlive {
    at: f64,
    first: bool,
    life_factor: f64,
    mass: f64,
    survived: f64,
    overdue: f64,
}

/// A [`Condition`] without its tables.
#[derive(Debug, Clone)]
pub struct KeptCondition {
    present: f64,
    immune: f64,
    overdue: Overdue,
    alive: Vec<KeptAlive>,
    offered: f64,
    past: Vec<f64>,
}

impl Condition<'_> {
    /// The same to be kept; it was read off these tables.
    #[must_use]
    pub fn keep(&self, curves: &PointCurves<'_>) -> KeptCondition {
        let alive = |a: &Alive<'_>| KeptAlive {
            at: a.at,
            first: std::ptr::eq(a.cycle.curves, curves.first()),
            life_factor: a.cycle.life_factor,
            mass: a.mass,
            survived: a.survived,
            overdue: a.overdue,
        };
        KeptCondition {
            present: self.present,
            immune: self.immune,
            overdue: self.overdue,
            alive: self.alive.iter().map(alive).collect(),
            offered: self.offered,
            past: self.past.clone(),
        }
    }
}

impl KeptCondition {
    /// The condition on its tables again.
    #[must_use]
    pub fn on<'c>(self, curves: &'c PointCurves<'_>) -> Condition<'c> {
        let alive = |a: KeptAlive| Alive {
            at: a.at,
            cycle: Cycle {
                curves: if a.first { curves.first() } else { curves.revised() },
                life_factor: a.life_factor,
            },
            mass: a.mass,
            survived: a.survived,
            overdue: a.overdue,
        };
        Condition {
            present: self.present,
            immune: self.immune,
            overdue: self.overdue,
            alive: self.alive.into_iter().map(alive).collect(),
            offered: self.offered,
            past: self.past,
        }
    }

    /// About how many bytes it takes.
    #[must_use]
    pub fn bytes(&self) -> usize {
        size_of::<KeptAlive>() * self.alive.len() + 8 * self.past.len() + size_of::<Self>()
    }
}
