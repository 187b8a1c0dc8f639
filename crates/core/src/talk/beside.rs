//! What lines say beside failure points, written into a sheet: scheduled work, advice, rules of care, campaigns and
//! upgrades.

use crate::documents::failure_point::{FailurePoint, Wears};
use crate::documents::family::{Advice, AdviceKind, Campaign, CareRule, Family, Upgrade};
use crate::documents::job::{Interval, Job};
use crate::documents::stage::Stage;
use crate::documents::supply::Supply;
use crate::talk::apply::Writer;
use crate::talk::said::{SupplySaid, UpgradeSaid, price_of};
use crate::talk::says::short_name;
use crate::talk::usual::{capital, free};

impl Writer<'_> {
    /// Something better to fit, for a part that the sheet has a point of.
    pub(super) fn upgrade(&self, family: &mut Family, said: &UpgradeSaid) {
        let of_part =
            |p: &&FailurePoint| self.told.said.part.as_ref().is_some_and(|s| p.part.as_ref() == Some(s) || p.id == *s);
        let Some(point) = family.points.iter().find(of_part) else { return };
        let (point, job) = (point.id.clone(), point.job.clone());
        let usual = || price_of(self.a.rate_independent * self.a.unsaid_job_hours, None);
        let price = self.told.said.price.or_else(|| if job.is_empty() { usual() } else { None });
        let id = short_name(&said.name);
        let upgrade = Upgrade {
            id: id.clone(),
            name: said.name.chars().take(80).collect(),
            job: price.is_none().then_some(job),
            price,
            cures: if said.times.is_none() { vec![point.clone()] } else { Vec::new() },
            lengthens: said.times.iter().map(|t| (point.clone(), *t)).collect(),
            caution: String::new(),
            applies: self.told.said.applies.clone(),
        };
        match family.upgrades.iter().position(|u| u.id == id) {
            Some(before) => family.upgrades[before] = upgrade,
            None => family.upgrades.push(upgrade),
        }
    }

    /// How parts and hands are to be had for an old one.
    pub(super) fn supply(&self, family: &mut Family, said: &SupplySaid) {
        let says: String = self.told.text.chars().take(160).collect();
        if family.supply.iter().any(|x| x.says == says) || family.supply.len() >= 30 {
            return;
        }
        let part = self.told.said.part.as_ref();
        let of_part = |p: &&FailurePoint| part.is_some_and(|s| p.part.as_ref() == Some(s) || p.id == *s);
        let points: Vec<String> = family.points.iter().filter(of_part).map(|p| p.id.clone()).collect();
        // Of a part that the sheet does not have nothing can be said.
        if part.is_some() && points.is_empty() {
            return;
        }
        family.supply.push(Supply {
            id: free(&short_name(&says), |id| family.supply.iter().any(|x| x.id == id)),
            says,
            from_age: said.from_age,
            parts: said.parts,
            hours: said.hours,
            grades: said.grades.clone(),
            points,
            applies: self.told.said.applies.clone(),
        });
    }

    /// What wears faster while it lasts, where the sheet has a point of it.
    pub(super) fn wears(&self, family: &Family, at: usize) -> Vec<Wears> {
        let own = &family.points[at].id;
        let of = |part: &String| {
            family.points.iter().find(|p| (p.part.as_ref() == Some(part) || p.id == *part) && p.id != *own)
        };
        let each = self.told.said.wears.iter();
        each.filter_map(|w| Some(Wears { point: of(&w.part)?.id.clone(), times: w.times })).collect()
    }

    /// The stages of a fault that grows: the first is put right by the point's own job.
    pub(super) fn stages(&self, tolerable: f64) -> Vec<Stage> {
        let each = self.told.said.stages.iter().enumerate();
        each.map(|(k, s)| Stage {
            name: s.name.clone(),
            tolerable: s.tolerable.unwrap_or(tolerable).max(1.0),
            job: String::new(),
            price: s.price.filter(|_| k > 0),
        })
        .collect()
    }

    pub(super) fn interval(&self, family: &mut Family) {
        let Some(said) = &self.told.said.interval else { return };
        let part = |p: &&FailurePoint| p.part.as_deref() == Some(&said.work) || p.id == said.work;
        let points: Vec<(String, String)> =
            family.points.iter().filter(part).map(|p| (p.id.clone(), p.job.clone())).collect();
        let name = self.told.said.name.clone().unwrap_or_else(|| said.work.replace('-', " "));
        let before = family.intervals.iter().position(|i| i.id == said.work);
        if let Some(i) = before {
            let key = format!("intervals/{}", said.work);
            family.patterns.iter_mut().for_each(|p| p.gives.retain(|g| *g != key));
            (family.intervals[i].usage, family.intervals[i].years) = (said.usage, said.years);
            if self.told.said.price.is_some() {
                family.intervals[i].job = self.work(family, &said.work, &name);
            }
            return;
        }
        let job = points.iter().map(|p| &p.1).find(|j| !j.is_empty()).cloned();
        let job = match (self.told.said.price, job) {
            (None, Some(job)) => job,
            _ => self.work(family, &said.work, &name),
        };
        family.intervals.push(Interval {
            id: said.work.clone(),
            name: capital(&name),
            usage: said.usage,
            years: said.years,
            job,
            renews: points.into_iter().map(|p| p.0).collect(),
            applies: self.told.said.applies.clone(),
        });
    }

    /// The job of scheduled work, at the price that was said or the usual one.
    fn work(&self, family: &mut Family, work: &str, name: &str) -> String {
        let id = short_name(&format!("{work}-work"));
        let usual = || price_of(self.a.rate_independent * self.a.unsaid_work_hours, None);
        let price = self.told.said.price.or_else(usual);
        match family.jobs.iter_mut().find(|j| j.id == id) {
            Some(before) if self.told.said.price.is_some() => before.price = price,
            Some(_) => {}
            None => family.jobs.push(Job { id: id.clone(), name: capital(name), price, ..Job::default() }),
        }
        id
    }

    pub(super) fn advice(&self, family: &mut Family, kind: AdviceKind) {
        let says: String = self.told.text.chars().take(240).collect();
        if family.advice.iter().any(|x| x.says == says) || family.advice.len() >= 60 {
            return;
        }
        let part = self.told.said.part.as_ref();
        let proved = part.and_then(|part| family.points.iter().find(|p| p.part.as_ref() == Some(part)));
        let proved = proved.map(|p| p.id.clone());
        // "Only if" names a point that is proved; without one it is a preference.
        let kind = if kind == AdviceKind::OnlyIf && proved.is_none() { AdviceKind::Prefer } else { kind };
        let id = free(&short_name(&says), |id| family.advice.iter().any(|x| x.id == id));
        family.advice.push(Advice {
            id,
            kind,
            says,
            source: self.source.to_owned(),
            applies: self.told.said.applies.clone(),
            proved: proved.filter(|_| kind == AdviceKind::OnlyIf),
            for_whom: None,
            stands: Some(self.stands.clone()),
        });
    }

    pub(super) fn care_rule(&self, family: &mut Family) {
        let says: String = self.told.text.chars().take(160).collect();
        if family.care_rules.iter().any(|x| x.says == says) || family.care_rules.len() >= 60 {
            return;
        }
        let id = free(&short_name(&says), |id| family.care_rules.iter().any(|x| x.id == id));
        family.care_rules.push(CareRule {
            id,
            says,
            why: String::new(),
            usage: None,
            years: None,
            points: Vec::new(),
            applies: self.told.said.applies.clone(),
        });
    }

    pub(super) fn campaign(&self, family: &mut Family) {
        let about: String = self.told.text.chars().take(240).collect();
        if family.campaigns.iter().any(|x| x.about == about) {
            return;
        }
        let part = self.told.said.name.as_deref().unwrap_or("part");
        let id = free(&short_name(&format!("campaign-{part}")), |id| family.campaigns.iter().any(|x| x.id == id));
        family.campaigns.push(Campaign {
            id,
            name: format!("Campaign: {part}").chars().take(80).collect(),
            about,
            exposes: format!("{} as it was", capital(part)),
            proof: String::new(),
            safety: false,
            revises: Vec::new(),
            applies: self.told.said.applies.clone(),
        });
    }
}
