//! Is a check consistent: its chances, links, measure and scan rules?

use std::collections::HashSet;

use crate::base::trouble_code::Code;
use crate::base::units::Probability;
use crate::documents::check::{Check, Link, ScanRule};
use crate::documents::family::Family;
use crate::documents::measure::Calculation;
use crate::validation::applies::applies;
use crate::validation::faults::Faults;

fn distribution(out: &mut Faults, dist: &[Probability], outcomes: usize, path: &str) {
    if dist.len() != outcomes {
        out.add(path, format!("{} chances for {outcomes} outcomes", dist.len()));
        return;
    }
    let total: f64 = dist.iter().map(|p| p.get()).sum();
    out.unless((total - 1.0).abs() < 1e-6, path, format!("the chances sum to {total}, not to 1"));
}

pub(crate) fn check(out: &mut Faults, f: &Family, c: &Check, at: &str) {
    applies(out, f, &c.applies, &format!("{at}/applies"));
    let n = c.outcomes.len();
    let in_words = c.leak.is_empty() && c.links.iter().any(|l| !l.signs.is_empty());
    let by_care = c.leak.is_empty() && c.care_sign.is_some();
    if !(in_words || by_care) {
        distribution(out, &c.leak, n, &format!("{at}/leak"));
    }
    let mut seen = HashSet::new();
    for (k, l) in c.links.iter().enumerate() {
        let at = format!("{at}/links/{k}");
        out.unless(
            f.point(&l.point).is_some(),
            format!("{at}/point"),
            format!("no failure point \"{}\" in this sheet", l.point),
        );
        out.unless(seen.insert(&l.point), format!("{at}/point"), format!("\"{}\" is linked twice", l.point));
        if l.signs.is_empty() {
            distribution(out, &l.present, n, &format!("{at}/present"));
        } else {
            signs(out, l, n, &at);
        }
        if let Some(coming) = &l.coming {
            distribution(out, coming, n, &format!("{at}/coming"));
        }
        let grows = f.point(&l.point).map_or(0, |p| p.stages.len());
        let told = l.stages.is_empty()
            || (l.stages.len() == n && l.stages[0] == 0 && l.stages.iter().all(|s| *s <= grows) && grows > 0);
        let say = format!("one stage for each of {n} outcomes, from 0 (none, as of the quiet one) to {grows}");
        out.unless(told, format!("{at}/stages"), say);
        let both = l.coming.is_some() == l.lead.is_some() || (l.coming.is_none() && !l.signs.is_empty());
        out.unless(both, &at, "\"coming\" and \"lead\" are given together or not at all");
    }
    if let Some(s) = &c.care_sign {
        distribution(out, &s.poor, n, &format!("{at}/care_sign/poor"));
        distribution(out, &s.ordinary, n, &format!("{at}/care_sign/ordinary"));
        distribution(out, &s.good, n, &format!("{at}/care_sign/good"));
    }
    if let Some(m) = &c.measure {
        let limits = format!("{at}/measure/limits");
        out.unless(
            m.limits.len() + 1 == n,
            &limits,
            format!("{} limits for {n} outcomes: one fewer is needed", m.limits.len()),
        );
        out.unless(m.limits.windows(2).all(|w| w[0] < w[1]), &limits, "the limits must rise");
        if let Calculation::Outside { from, to } = &m.by {
            out.unless(from < to, format!("{at}/measure/by"), "the range must rise");
        }
    }
    for (k, rule) in c.scan.iter().enumerate() {
        scan_rule(out, rule, c, &format!("{at}/scan/{k}"));
    }
}

/// What is said in words of one point: of outcomes that there are, each once.
fn signs(out: &mut Faults, l: &Link, outcomes: usize, at: &str) {
    out.unless(l.present.is_empty(), format!("{at}/present"), "chances and words say it twice: keep one of them");
    let mut seen = HashSet::new();
    for (k, s) in l.signs.iter().enumerate() {
        let path = format!("{at}/signs/{k}/outcome");
        let good = (1..outcomes).contains(&s.outcome);
        out.unless(good, &path, format!("words speak of the worse outcomes, 1 to {}", outcomes.saturating_sub(1)));
        out.unless(seen.insert(s.outcome), path, format!("outcome {} is spoken of twice", s.outcome));
    }
}

fn scan_rule(out: &mut Faults, rule: &ScanRule, c: &Check, at: &str) {
    let outcomes: Vec<usize> = match rule {
        ScanRule::Codes { find } => {
            for (k, pattern) in find.iter().enumerate().flat_map(|(k, f)| f.codes.iter().map(move |p| (k, p))) {
                let any = pattern.to_uppercase().replace('X', "0").replacen("P0000", "P0001", 1);
                let good = pattern.len() == 5 && any.parse::<Code>().is_ok();
                out.unless(
                    good,
                    format!("{at}/find/{k}/codes"),
                    format!("\"{pattern}\" is no code and no pattern of one"),
                );
            }
            find.iter().map(|f| f.outcome).collect()
        }
        ScanRule::AnyCode { pending, stored } => vec![*pending, *stored],
        ScanRule::Mil { on } => vec![*on],
        ScanRule::RecentlyCleared { outcome } => vec![*outcome],
        ScanRule::Vin { differs } => vec![*differs],
        ScanRule::Trims | ScanRule::Coolant | ScanRule::Voltage => {
            out.unless(c.measure.is_some(), at, "a rule that gives a reading needs a measure");
            Vec::new()
        }
    };
    let good = outcomes.iter().all(|o| *o < c.outcomes.len());
    out.unless(good, at, format!("the check has outcomes 0 to {}", c.outcomes.len() - 1));
}
