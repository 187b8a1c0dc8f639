//! A failure point at several places, such as left and right, written out: each place becomes a point of its own, and a
//! check that is done at each of them a check of its own.
//!
//! docs/FORMATS.md, "Places". Claims, share and price are those of one place.

use std::collections::BTreeMap;

use crate::base::fault::Fault;
use crate::base::word::short_of;
use crate::documents::check::{Check, Link};
use crate::documents::failure_point::{FailurePoint, TakesAlong, Wears};
use crate::documents::family::Family;

/// Most letters of a short name, and of a name as shown.
const LONGEST: usize = 40;
const LONGEST_NAME: usize = 80;

/// Short names of the points and checks at places, each with those of its places in the sheet's order.
type Placed = BTreeMap<String, Vec<(String, String)>>;

/// The sheet with every place written out; one without places stays as it is.
///
/// # Errors
/// Places that cannot be told apart, and checks at places of which their points know nothing, each with its path.
pub fn with_places(mut f: Family) -> Result<Family, Vec<Fault>> {
    if f.points.iter().all(|p| p.places.is_empty()) && f.checks.iter().all(|c| c.places.is_empty()) {
        return Ok(f);
    }
    let mut faults = Vec::new();
    let points = listed(f.points.iter().map(|p| (&p.id, &p.name, &p.places)), "points", &mut faults);
    let checks = listed(f.checks.iter().map(|c| (&c.id, &c.name, &c.places)), "checks", &mut faults);
    for (i, c) in f.checks.iter().enumerate().filter(|(_, c)| !c.places.is_empty()) {
        for (k, l) in c.links.iter().enumerate() {
            let knows =
                |place: &String| points.get(&l.point).is_some_and(|of| of.iter().any(|(_, name)| name == place));
            if !c.places.iter().all(knows) {
                let message = format!("\"{}\" has not all the places at which this is checked", l.point);
                faults.push(Fault { path: format!("/checks/{i}/links/{k}/point"), message });
            }
        }
    }
    if !faults.is_empty() {
        return Err(faults);
    }
    f.points = f.points.into_iter().flat_map(|p| point_at(p, &points, &checks)).collect();
    f.checks = f.checks.into_iter().flat_map(|c| check_at(c, &points, &checks)).collect();
    elsewhere(&mut f, &points, &checks);
    Ok(f)
}

/// What has places, with the short names that its places get.
fn listed<'a>(
    all: impl Iterator<Item = (&'a String, &'a String, &'a Vec<String>)>,
    list: &str,
    faults: &mut Vec<Fault>,
) -> Placed {
    let mut out = Placed::new();
    for (i, (id, name, places)) in all.enumerate().filter(|(_, (_, _, places))| !places.is_empty()) {
        let path = format!("/{list}/{i}/places");
        let named: Vec<(String, String)> =
            places.iter().map(|p| (format!("{id}-{}", short_of(p)), p.clone())).collect();
        let mut fault = |message: String| faults.push(Fault { path: path.clone(), message });
        if named.len() < 2 {
            fault("one place is none: give two or more, or leave them out".to_owned());
        }
        for (k, (short, place)) in named.iter().enumerate() {
            if short_of(place).is_empty() {
                fault(format!("\"{place}\" has no letter or figure to tell it by"));
            } else if named[..k].iter().any(|(before, _)| before == short) {
                fault(format!("\"{place}\" stands twice"));
            } else if short.len() > LONGEST {
                fault(format!("\"{short}\" would be longer than {LONGEST} letters: shorten the short name"));
            } else if format!("{name}, {place}").chars().count() > LONGEST_NAME {
                fault(format!("\"{name}, {place}\" would be longer than {LONGEST_NAME} letters: shorten the name"));
            }
        }
        out.insert(id.clone(), named);
    }
    out
}

fn point_at(p: FailurePoint, points: &Placed, checks: &Placed) -> Vec<FailurePoint> {
    let along = |t: &TakesAlong| match t.point.as_ref().and_then(|id| points.get(id)) {
        Some(of) => of.iter().map(|(id, _)| TakesAlong { point: Some(id.clone()), ..t.clone() }).collect(),
        None => vec![t.clone()],
    };
    let takes_along: Vec<TakesAlong> = p.takes_along.iter().flat_map(along).collect();
    let worn = |w: &Wears| -> Vec<Wears> {
        ids_of(w.point.clone(), points).into_iter().map(|point| Wears { point, ..w.clone() }).collect()
    };
    let wears: Vec<Wears> = p.wears.iter().flat_map(worn).collect();
    let p = FailurePoint { wears, ..p };
    // Of a check done at each place, the one at this place decides.
    let needs = |point: &mut FailurePoint, place: Option<&String>| {
        for check in point.routes.iter_mut().filter_map(|r| r.needs.as_mut()?.check.as_mut()) {
            if let Some(of) = checks.get(check) {
                let here = of.iter().find(|(_, name)| Some(name) == place).or_else(|| of.first());
                here.iter().for_each(|(id, _)| check.clone_from(id));
            }
        }
    };
    let Some(of) = points.get(&p.id) else {
        let mut p = FailurePoint { takes_along, ..p };
        needs(&mut p, None);
        return vec![p];
    };
    let one = |(id, place): &(String, String)| {
        let name = format!("{}, {place}", p.name);
        let takes_along = takes_along.clone();
        let mut one = FailurePoint { id: id.clone(), name, takes_along, places: Vec::new(), ..p.clone() };
        needs(&mut one, Some(place));
        one
    };
    of.iter().map(one).collect()
}

fn check_at(c: Check, points: &Placed, checks: &Placed) -> Vec<Check> {
    let link_at = |l: &Link, place: Option<&String>| -> Vec<Link> {
        let Some(of) = points.get(&l.point) else { return vec![l.clone()] };
        let here = of.iter().filter(|(_, name)| place.is_none_or(|p| p == name));
        here.map(|(id, _)| Link { point: id.clone(), ..l.clone() }).collect()
    };
    let Some(of) = checks.get(&c.id) else {
        // One look that does not tell the places apart speaks of each of them.
        let links = c.links.iter().flat_map(|l| link_at(l, None)).collect();
        return vec![Check { links, ..c }];
    };
    let action = c.action.clone().or_else(|| Some(c.id.clone()));
    let one = |(id, place): &(String, String)| Check {
        id: id.clone(),
        name: format!("{}, {place}", c.name),
        links: c.links.iter().flat_map(|l| link_at(l, Some(place))).collect(),
        action: action.clone(),
        places: Vec::new(),
        ..c.clone()
    };
    of.iter().map(one).collect()
}

/// Every other mention of a point or check.
fn elsewhere(f: &mut Family, points: &Placed, checks: &Placed) {
    let each = |ids: &mut Vec<String>| {
        *ids = std::mem::take(ids).into_iter().flat_map(|id| ids_of(id, points)).collect();
    };
    f.jobs.iter_mut().for_each(|j| each(&mut j.renews));
    f.intervals.iter_mut().for_each(|i| each(&mut i.renews));
    f.campaigns.iter_mut().for_each(|c| each(&mut c.revises));
    f.care_rules.iter_mut().for_each(|r| each(&mut r.points));
    f.supply.iter_mut().for_each(|s| each(&mut s.points));
    for u in &mut f.upgrades {
        each(&mut u.cures);
        let lengthens = std::mem::take(&mut u.lengthens).into_iter();
        u.lengthens = lengthens.flat_map(|(id, by)| ids_of(id, points).into_iter().map(move |id| (id, by))).collect();
    }
    for x in &mut f.alterations {
        let shortens = std::mem::take(&mut x.shortens).into_iter();
        x.shortens = shortens.flat_map(|(id, by)| ids_of(id, points).into_iter().map(move |id| (id, by))).collect();
    }
    for id in f.advice.iter_mut().filter_map(|x| x.proved.as_mut()) {
        if let Some((first, _)) = points.get(id).and_then(|of| of.first()) {
            id.clone_from(first);
        }
    }
    for p in &mut f.patterns {
        let written = |g: String| match g.split_once('/') {
            Some(("points", id)) if points.contains_key(id) => listed_as("points", id, points),
            Some(("checks", id)) if checks.contains_key(id) => listed_as("checks", id, checks),
            _ => vec![g],
        };
        p.gives = std::mem::take(&mut p.gives).into_iter().flat_map(written).collect();
    }
}

fn ids_of(id: String, placed: &Placed) -> Vec<String> {
    placed.get(&id).map_or_else(|| vec![id], |of| of.iter().map(|(id, _)| id.clone()).collect())
}

fn listed_as(list: &str, id: &str, placed: &Placed) -> Vec<String> {
    ids_of(id.to_owned(), placed).into_iter().map(|id| format!("{list}/{id}")).collect()
}
