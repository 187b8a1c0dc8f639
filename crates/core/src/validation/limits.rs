//! How much a document may hold, and how far its figures may go: what no vehicle, sheet or plan ever needs, and
//! what would only make the computation endless.

use crate::base::units::UsageClock;
use crate::documents::candidate::Candidate;
use crate::documents::claim::LifeClock;
use crate::documents::family::Family;
use crate::validation::faults::Faults;

/// The largest usage of a vehicle or engine that is taken for a real one, by clock.
pub(crate) fn largest(clock: UsageClock) -> f64 {
    match clock {
        UsageClock::Km => 2_000_000.0,
        UsageClock::Hours => 100_000.0,
    }
}

/// The most that a plan runs in a year: a van that two drivers never leave; every hour there is.
pub(crate) fn most_a_year(clock: UsageClock) -> f64 {
    match clock {
        UsageClock::Km => 400_000.0,
        UsageClock::Hours => 8_784.0,
    }
}

/// The most that a plan runs in all.
pub(crate) fn most_planned(clock: UsageClock) -> f64 {
    match clock {
        UsageClock::Km => 1_000_000.0,
        UsageClock::Hours => 50_000.0,
    }
}

/// The shortest life that a claim may mean, by its median, and the shortest interval: below it, it is no failure
/// point but something that is topped up.
pub(crate) fn shortest(life: LifeClock, clock: UsageClock) -> (f64, &'static str) {
    match (life, clock) {
        (LifeClock::Age, _) => (0.05, "years"),
        (LifeClock::Usage, UsageClock::Km) => (250.0, "km"),
        (LifeClock::Usage, UsageClock::Hours) => (10.0, "hours"),
    }
}

/// Sheets that one candidate may name.
pub(crate) const FAMILIES: usize = 8;

/// Adverts of others that one candidate may hold: a few dozen say as much.
pub(crate) const COMPARABLES: usize = 500;

/// Failure points that the sheets of one candidate may hold together.
pub(crate) const POINTS_TOGETHER: usize = 600;

impl Faults {
    /// A list that is longer than it may be.
    pub(crate) fn at_most(&mut self, holds: usize, most: usize, path: impl Into<String>) {
        self.unless(holds <= most, path, format!("holds {holds} entries; at most {most} are taken"));
    }
}

/// The lengths of the lists of a sheet's points.
fn point_lengths(out: &mut Faults, f: &Family) {
    for (i, p) in f.points.iter().enumerate() {
        let at = format!("/points/{i}");
        out.at_most(p.life.len(), 40, format!("{at}/life"));
        out.at_most(p.share.len(), 40, format!("{at}/share"));
        for r in p.revision.iter().chain(&p.revisions) {
            out.at_most(r.life.len(), 40, format!("{at}/revision/life"));
            out.at_most(r.share.len(), 40, format!("{at}/revision/share"));
        }
        out.at_most(p.stages.len(), 5, format!("{at}/stages"));
        out.at_most(p.places.len(), 8, format!("{at}/places"));
        out.at_most(p.revisions.len(), 8, format!("{at}/revisions"));
        out.at_most(p.routes.len(), 8, format!("{at}/routes"));
        out.at_most(p.takes_along.len(), 6, format!("{at}/takes_along"));
        out.at_most(p.wears.len(), 6, format!("{at}/wears"));
        out.at_most(p.disputed.len(), 8, format!("{at}/disputed"));
    }
}

/// The lengths of a sheet's lists.
pub(crate) fn sheet_lengths(out: &mut Faults, f: &Family) {
    out.at_most(f.sources.len(), 24, "/sources");
    out.at_most(f.facts.len(), 60, "/facts");
    out.at_most(f.points.len(), 400, "/points");
    out.at_most(f.checks.len(), 400, "/checks");
    out.at_most(f.jobs.len(), 600, "/jobs");
    out.at_most(f.access.len(), 150, "/access");
    out.at_most(f.intervals.len(), 100, "/intervals");
    out.at_most(f.campaigns.len(), 200, "/campaigns");
    out.at_most(f.advice.len(), 60, "/advice");
    out.at_most(f.upgrades.len(), 60, "/upgrades");
    out.at_most(f.alterations.len(), 20, "/alterations");
    out.at_most(f.adjusts.len(), 100, "/adjusts");
    out.at_most(f.adjusts_checks.len(), 100, "/adjusts_checks");
    out.at_most(f.adjusts_jobs.len(), 100, "/adjusts_jobs");
    for (i, x) in f.adjusts.iter().enumerate() {
        out.at_most(x.life.len(), 40, format!("/adjusts/{i}/life"));
        out.at_most(x.share.len(), 40, format!("/adjusts/{i}/share"));
    }
    out.at_most(f.care_rules.len(), 60, "/care_rules");
    out.at_most(f.supply.len(), 30, "/supply");
    out.at_most(f.marks.len(), 30, "/marks");
    for (i, fact) in f.facts.iter().enumerate() {
        out.at_most(fact.values.len(), 60, format!("/facts/{i}/values"));
    }
    point_lengths(out, f);
    for (i, c) in f.checks.iter().enumerate() {
        let at = format!("/checks/{i}");
        out.at_most(c.outcomes.len(), 12, format!("{at}/outcomes"));
        out.at_most(c.links.len(), 40, format!("{at}/links"));
        out.at_most(c.places.len(), 8, format!("{at}/places"));
        c.links.iter().for_each(|l| out.at_most(l.signs.len(), 6, format!("{at}/links")));
        out.at_most(c.scan.len(), 40, format!("{at}/scan"));
        let leads = c.links.iter().filter_map(|l| l.lead);
        let endless = leads.filter(|lead| *lead > most_planned(f.clock)).count();
        out.unless(endless == 0, format!("{at}/links"), "a lead reaches further than any plan");
    }
    for (i, j) in f.jobs.iter().enumerate() {
        out.at_most(j.access.len(), 30, format!("/jobs/{i}/access"));
        out.at_most(j.renews.len(), 30, format!("/jobs/{i}/renews"));
    }
    for (i, n) in f.intervals.iter().enumerate() {
        let at = format!("/intervals/{i}");
        out.at_most(n.renews.len(), 60, format!("{at}/renews"));
        let (least, unit) = shortest(LifeClock::Usage, f.clock);
        let often = n.usage.is_some_and(|u| u < least);
        out.unless(!often, format!("{at}/usage"), format!("scheduled work comes at most every {least} {unit}"));
        let (least, unit) = shortest(LifeClock::Age, f.clock);
        let often = n.years.is_some_and(|y| y < least);
        out.unless(!often, format!("{at}/years"), format!("scheduled work comes at most every {least} {unit}"));
    }
}

/// The lengths of a candidate's lists, and of its sheets together.
pub(crate) fn candidate_lengths(out: &mut Faults, c: &Candidate, used: &[&Family]) {
    out.at_most(c.families.len(), FAMILIES, "/families");
    let points: usize = used.iter().map(|f| f.points.len()).sum();
    let message = format!("its sheets hold {points} failure points together; at most {POINTS_TOGETHER} are taken");
    out.unless(points <= POINTS_TOGETHER, "/families", message);
    let lists = [
        ("ledger", c.ledger.len(), 20_000),
        ("readings", c.readings.len(), 20_000),
        ("provenance", c.provenance.len(), 1_000),
        ("advisories", c.advisories.len(), 5_000),
        ("campaigns", c.campaigns.len(), 2_000),
        ("scans", c.scans.len(), 500),
        ("findings", c.findings.len(), 20_000),
        ("comparables", c.comparables.len(), COMPARABLES),
        ("log", c.log.len(), 20_000),
    ];
    for (list, holds, most) in lists {
        out.at_most(holds, most, format!("/{list}"));
    }
    out.at_most(c.purchase_plan.own.len(), 2_000, "/purchase_plan/own");
    out.at_most(c.purchase_plan.ways.len(), 2_000, "/purchase_plan/ways");
    plan(out, c);
}

/// How far the plan goes.
fn plan(out: &mut Faults, c: &Candidate) {
    let clock = c.plan.usage_a_year.unit.clock();
    let counted = match clock {
        UsageClock::Km => "km",
        UsageClock::Hours => "hours",
    };
    let (a_year, most) = (c.plan.usage_a_year.on_clock(), most_a_year(clock));
    let message = format!("a plan runs at most {most} {counted} a year");
    let too_far = a_year > most;
    out.unless(!too_far, "/plan/usage_a_year/value", message);
    let (whole, most) = (a_year * c.plan.years, most_planned(clock));
    let message = format!("the plan runs {whole:.0} {counted} in all; at most {most} are planned");
    out.unless(too_far || whole <= most || whole.is_nan(), "/plan/years", message);
}
