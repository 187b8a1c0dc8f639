//! What an advert of a list says of parts and work, as the seller's word on a candidate.

use jiff::civil::Date;

use crate::base::memory::KeyOf;
use crate::base::units::{Usage, day_after, years_between};
use crate::documents::candidate::Candidate;
use crate::documents::check::{Check, Link};
use crate::documents::failure_point::FailurePoint;
use crate::documents::family::{Family, FamilyKind};
use crate::documents::finding::{Finding, FindingResult};
use crate::documents::job::PartGrade;
use crate::documents::paper::{DateKnown, Evidence, LedgerEntry};
use crate::documents::reference::{IntervalRef, PointRef};
use crate::documents::words::Telling;
use crate::questions::screening::Listed;
use crate::talk::promised::Promised;

/// Years since what an advert calls new was fitted, where it says no more.
const AGO: f64 = 1.0;

/// What one saying comes to on the sheets.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Wording {
    /// The name of the point or work.
    pub name: String,
    /// Whether it is amiss; else it was renewed or carried out.
    pub amiss: bool,
    said: String,
    renews: Vec<PointRef>,
    performs: Vec<IntervalRef>,
    /// The check on which one would find it, and its outcome.
    finding: Option<(String, String, usize)>,
    /// When it was done.
    date: Date,
    known: DateKnown,
    usage: f64,
}

/// What an advert says, as its sheets have it.
pub(crate) fn wordings(own: &Listed, bare: &Candidate) -> Vec<Wording> {
    own.promised.iter().filter_map(|p| Wording::new(p, &own.sheets, bare)).collect()
}

impl Wording {
    /// What a saying comes to; none where no sheet knows what it speaks of.
    pub fn new(p: &Promised, sheets: &[Family], bare: &Candidate) -> Option<Self> {
        // On a motorcycle "the chain" is the one that drives the wheel: no point of the engine.
        let rides = sheets.iter().any(|f| matches!(f.kind, FamilyKind::Motorcycle | FamilyKind::BaseMotorcycle));
        let said = p.said.to_lowercase();
        if rides && p.part.as_deref() == Some("timing-chain") && !["cam", "timing"].iter().any(|w| said.contains(w)) {
            return None;
        }
        let means =
            |id: &String, part: &Option<String>| p.part.as_ref().is_some_and(|x| x == id || Some(x) == part.as_ref());
        let of = |wanted: &dyn Fn(&FailurePoint) -> bool| -> Vec<(&Family, &FailurePoint)> {
            let each = sheets.iter().flat_map(|f| f.points.iter().map(move |x| (f, x)));
            each.filter(|(_, x)| wanted(x)).collect()
        };
        let mut points = of(&|x| means(&x.id, &x.part));
        if points.is_empty() {
            // "Two-mass flywheel and clutch" is where a clutch belongs.
            points = of(&|x| p.part.as_ref().is_some_and(|part| names(&x.name, part)));
        }
        let renewed = |f: &Family, ids: &[String]| points.iter().any(|(g, x)| g.id == f.id && ids.contains(&x.id));
        let works: Vec<_> = sheets
            .iter()
            .flat_map(|f| f.intervals.iter().map(move |i| (f, i)))
            .filter(|(f, i)| p.work.as_ref() == Some(&i.id) || renewed(f, &i.renews))
            .collect();
        let name = points.first().map(|x| &x.1.name).or(works.first().map(|x| &x.1.name))?.clone();
        let finding = if p.amiss { points.iter().find_map(|(f, x)| shown(f, &x.id)) } else { None };
        let (date, known, usage) = when(p, bare)?;
        Some(Self {
            name,
            amiss: p.amiss,
            said: p.said.clone(),
            renews: points.iter().map(|(f, x)| PointRef { family: f.id.clone(), point: x.id.clone() }).collect(),
            performs: works.iter().map(|(f, i)| IntervalRef { family: f.id.clone(), interval: i.id.clone() }).collect(),
            finding,
            date,
            known,
            usage,
        })
    }

    /// The same as long ago on another of its kind.
    pub fn at(&self, from: &Candidate, to: &Candidate) -> Self {
        let ago = years_between(self.date, from.as_of).round().max(AGO / 2.0);
        let date = day_after(to.as_of, -ago).max(to.built);
        let share = (self.usage / from.usage.value.max(1.0) * 20.0).round() / 20.0;
        Self { date, usage: (share * to.usage.value).min(to.usage.value), ..self.clone() }
    }

    /// Says it of a candidate.
    pub fn say(&self, candidate: &mut Candidate) {
        let note = format!("The advert says: {}", self.said);
        match &self.finding {
            Some((family, check, outcome)) => candidate.findings.push(Finding {
                family: family.clone(),
                check: check.clone(),
                result: FindingResult::Outcome { outcome: *outcome },
                reading: None,
                inputs: Vec::new(),
                note,
                at: None,
                undone: false,
            }),
            None if self.amiss => {}
            None => candidate.ledger.push(LedgerEntry {
                date: self.date,
                usage: Usage { value: self.usage, unit: candidate.usage.unit },
                renews: self.renews.clone(),
                performs: self.performs.clone(),
                grade: PartGrade::Unknown,
                revised: false,
                first_design: false,
                reason: None,
                evidence: Evidence::SellersWord,
                note,
                who: String::new(),
                cost: None,
                known: self.known,
            }),
        }
    }

    /// What it depends on.
    pub fn key(&self, key: &mut KeyOf) {
        key.add(&(&self.name, &self.finding, self.date, self.amiss));
        key.figure(self.usage);
    }

    /// In words.
    pub fn spoken(&self) -> String {
        let what = if self.amiss { "amiss" } else { "renewed, by the seller's word" };
        format!("{}: {what} (\u{201c}{}\u{201d})", self.name, self.said)
    }
}

/// Whether a point's name has every word of a part's short name. Behind a comma stands what belongs to it: "Cooling fan,
/// its clutch or control" is no clutch.
fn names(name: &str, part: &str) -> bool {
    let name = name.to_lowercase();
    let words = name.split([',', '(']).next().unwrap_or_default();
    let words: Vec<&str> = words.split(|c: char| !c.is_alphanumeric()).collect();
    part.split('-').all(|w| words.contains(&w))
}

/// The check that tells a fault best, with its outcome: the most telling word, then the fewest other causes.
fn shown(family: &Family, point: &str) -> Option<(String, String, usize)> {
    let links = family.checks.iter().filter(|c| c.measure.is_none());
    let links = links.flat_map(|c| c.links.iter().filter(|l| l.point == point).map(move |l| (c, l)));
    let told = links.filter_map(|(c, l)| Some((c, telling(c, l)?)));
    let best = told.max_by(|(x, (tx, _)), (y, (ty, _))| tx.total_cmp(ty).then(y.links.len().cmp(&x.links.len())));
    best.map(|(c, (_, outcome))| (family.id.clone(), c.id.clone(), outcome))
}

/// How telling a check is of a fault, and the outcome that tells it; none where no outcome does.
fn telling(check: &Check, link: &Link) -> Option<(f64, usize)> {
    let word = |t: Telling| match t {
        Telling::Is => 1000.0,
        Telling::Sure => 100.0,
        Telling::Clear => 20.0,
        Telling::Hint => 3.0,
    };
    let words = link.signs.iter().map(|s| (word(s.says), s.outcome));
    let chances = link.present.iter().zip(&check.leak).enumerate().skip(1);
    let chances = chances.map(|(k, (p, leak))| (p.get() / (leak.get() + 0.001), k));
    words.chain(chances).filter(|x| x.0 >= 2.0).max_by(|x, y| x.0.total_cmp(&y.0).then(x.1.cmp(&y.1)))
}

/// When something was done, how exactly that is known, and at what usage; none where it makes no sense.
fn when(p: &Promised, bare: &Candidate) -> Option<(Date, DateKnown, f64)> {
    let (now, age) = (bare.usage.value, years_between(bare.built, bare.as_of));
    let in_unit = |(value, unit): (f64, Option<_>)| {
        let said = Usage { value, unit: unit.unwrap_or(bare.usage.unit) };
        said.on_clock() / bare.usage.unit.in_clock()
    };
    let usage = p.usage.map(in_unit);
    let date = p.year.map(|y| Date::new(y, 7, 1).unwrap_or(bare.as_of).min(bare.as_of));
    if usage.is_some_and(|u| u > now) || date.is_some_and(|d| d.year() < bare.built.year()) {
        return None;
    }
    let along = |usage: f64| day_after(bare.built, age * usage / now.max(1.0));
    let date = match (date, usage) {
        (Some(date), _) => date,
        (None, Some(usage)) => along(usage),
        (None, None) => day_after(bare.as_of, -AGO.min(age / 2.0)),
    };
    let date = date.clamp(bare.built, bare.as_of);
    let share = years_between(bare.built, date) / age.max(1e-9);
    Some((date, DateKnown::Year, usage.unwrap_or(now * share.clamp(0.0, 1.0))))
}

#[cfg(test)]
mod tests {
    use super::names;

    #[test]
    fn what_belongs_to_a_part_is_not_the_part() {
        assert!(names("Clutch worn or slipping", "clutch") && names("Valve cover gasket leaks", "valve-cover"));
        assert!(!names("Cooling fan, its clutch or control", "clutch"));
    }
}
