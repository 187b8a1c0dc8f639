//! Sheets and candidates that make sense and were made up by a die, the same in every run.

#![allow(clippy::cast_precision_loss)]

use rand::rngs::SmallRng;
use rand::seq::IndexedRandom;
use rand::{RngExt, SeedableRng};
use serde_json::{Value, json};
use ticksage_core::{Candidate, Family};

use super::{asked, cand, family};

/// A die.
pub struct Die(SmallRng);

impl Die {
    pub fn new(seed: u64) -> Self {
        Self(SmallRng::seed_from_u64(seed))
    }

    pub fn within(&mut self, from: f64, to: f64) -> f64 {
        self.0.random_range(from..to)
    }

    pub fn count(&mut self, from: usize, to: usize) -> usize {
        self.0.random_range(from..=to)
    }

    pub fn chance(&mut self, p: f64) -> bool {
        self.0.random_bool(p)
    }

    pub fn one<'a, T>(&mut self, of: &'a [T]) -> &'a T {
        of.choose(&mut self.0).unwrap()
    }

    fn round(&mut self, from: f64, to: f64, step: f64) -> f64 {
        (self.within(from, to) / step).round() * step
    }
}

const SYSTEMS: [&str; 4] = ["engine", "cooling", "brakes", "body"];

fn life(d: &mut Die) -> Value {
    let at = d.round(50_000.0, 320_000.0, 5000.0);
    let years = d.round(6.0, 22.0, 1.0);
    match d.count(0, 5) {
        0 => json!({"source": "a", "says": {"form": "between", "from": at, "to": at * d.within(1.2, 2.0)}}),
        1 => json!({"source": "a", "says": {"form": "from_about", "at": at}}),
        2 => json!({"source": "b", "says": {"form": "rarely_beyond", "at": at * 1.3}}),
        3 => json!({"source": "b", "clock": "age", "says": {"form": "about", "at": years}}),
        _ => json!({"source": "a", "says": {"form": "about", "at": at}}),
    }
}

fn point(d: &mut Die, i: usize) -> Value {
    let mut p = json!({
        "id": format!("p{i}"), "name": format!("Point {i}"), "system": d.one(&SYSTEMS), "shows": "x",
        "mechanism": d.one(&["infant", "random", "wear", "ageing", "fatigue"]), "life": [life(d)],
        "repair_delay": *d.one(&[0.0, 500.0, 1500.0, 8000.0, 20_000.0, 60_000.0]), "job": format!("j{i}"),
        "upkeep": d.chance(0.5), "can_hurt": d.chance(0.15)
    });
    if d.chance(0.3) {
        p["life"].as_array_mut().unwrap().push(life(d));
    }
    if d.chance(0.6) {
        p["share"] = json!([{"source": "a", "says": {"form": "word", "word": d.one(&["rare", "occasional", "common", "most"])}}]);
    }
    if d.chance(0.25) {
        p["escalation"] = json!({"job": "ruin", "chance": d.round(0.1, 0.7, 0.05)});
        p["ends_engine"] = json!(true);
    }
    if d.chance(0.4) {
        p["warning"] = json!({"sign": "noise", "lead": d.round(500.0, 9000.0, 500.0), "every": 500.0,
            "sensitivity": d.round(0.2, 0.9, 0.1)});
    }
    p
}

/// A distribution over outcomes whose odds against another rise from outcome to outcome.
fn telling(d: &mut Die, leak: &[f64]) -> Vec<f64> {
    let mut odds = 1.0;
    let raw: Vec<f64> = leak
        .iter()
        .map(|l| {
            odds *= d.within(2.0, 15.0);
            l * odds
        })
        .collect();
    let total: f64 = raw.iter().sum();
    raw.into_iter().map(|x| x / total).collect()
}

fn leak(d: &mut Die, outcomes: usize) -> Vec<f64> {
    let mut left = 1.0;
    let mut out: Vec<f64> = (1..outcomes)
        .map(|_| {
            let here = left * d.within(0.8, 0.97);
            left -= here;
            here
        })
        .collect();
    out.push(left);
    out
}

fn check(d: &mut Die, i: usize, points: usize) -> Value {
    let outcomes = d.count(2, 3);
    let leak = leak(d, outcomes);
    let first = d.count(0, points - 1);
    let mut speaks = vec![first];
    if d.chance(0.3) {
        speaks.push((first + 1 + d.count(0, points - 2)) % points);
    }
    let links: Vec<Value> = speaks
        .into_iter()
        .map(|p| {
            let present = telling(d, &leak);
            let mut link = json!({"point": format!("p{p}"), "present": present});
            if d.chance(0.5) {
                // What is coming shows less than what is there.
                let coming: Vec<f64> = leak.iter().zip(&present).map(|(l, p)| 0.7 * l + 0.3 * p).collect();
                link["coming"] = json!(coming);
                link["lead"] = json!(d.round(2000.0, 20_000.0, 1000.0));
            }
            link
        })
        .collect();
    json!({"id": format!("c{i}"), "name": format!("Check {i}"), "phase": "bonnet_cold", "how": "Look.",
        "minutes": d.count(1, 20), "leak": leak, "links": links,
        "outcomes": (0..outcomes).map(|o| json!({"label": format!("o{o}")})).collect::<Vec<_>>()})
}

fn care_sign(d: &mut Die, i: usize) -> Value {
    let good = leak(d, 3);
    let ordinary = telling(d, &good);
    let poor = telling(d, &ordinary);
    json!({"id": format!("s{i}"), "name": format!("Sign {i}"), "phase": "walk_round", "how": "Look.", "minutes": 1,
        "leak": ordinary, "care_sign": {"poor": poor, "ordinary": ordinary, "good": good},
        "outcomes": [{"label": "kept"}, {"label": "so so"}, {"label": "let go"}]})
}

fn job(d: &mut Die, id: &str, most: f64) -> Value {
    let (parts, hours) = (d.round(10.0, most, 5.0), d.round(0.5, most / 60.0 + 1.0, 0.5));
    json!({"id": id, "name": id,
        "parts": {"equivalent": {"low": parts * 0.8, "likely": parts, "high": parts * 1.5}},
        "hours": {"low": hours * 0.8, "likely": hours, "high": hours * 1.4}})
}

/// A sheet of six to ten points, five to eight checks, two care signs and two intervals.
pub fn sheet(d: &mut Die) -> Family {
    let points = d.count(6, 10);
    let (checks, signs) = (d.count(5, 8), 2);
    let mut v = json!({
        "format": "ticksage-family/2", "id": "test", "version": 1, "name": "Made up", "kind": "engine",
        "clock": "km", "currency": "HSC", "sources": [{"id": "a", "name": "A"}, {"id": "b", "name": "B"}],
        "points": (0..points).map(|i| point(d, i)).collect::<Vec<_>>(),
        "checks": (0..checks).map(|i| check(d, i, points)).collect::<Vec<_>>(),
        "jobs": (0..points).map(|i| job(d, &format!("j{i}"), 500.0)).collect::<Vec<_>>(),
    });
    let list = |v: &mut Value, key: &str, more: Value| v[key].as_array_mut().unwrap().push(more);
    for i in 0..signs {
        list(&mut v, "checks", care_sign(d, i));
    }
    list(&mut v, "jobs", job(d, "service", 120.0));
    list(&mut v, "jobs", json!({"id": "ruin", "name": "Ruin", "hours": {"low": 15, "likely": 25, "high": 40}}));
    // Only what wears is renewed by the calendar: the second interval renews such a point, where there is one.
    let wears = |p: &&Value| ["wear", "ageing", "fatigue"].contains(&p["mechanism"].as_str().unwrap());
    let renewed = v["points"].as_array().unwrap().iter().find(wears).map(|p| p["id"].clone());
    let job = renewed.as_ref().map_or_else(|| json!("service"), |id| json!(id.as_str().unwrap().replace('p', "j")));
    v["intervals"] = json!([
        {"id": "oil", "name": "Engine oil", "usage": 15_000, "years": 1, "job": "service"},
        {"id": "planned", "name": "Planned", "usage": d.round(60_000.0, 150_000.0, 10_000.0), "job": job,
            "renews": renewed.into_iter().collect::<Vec<_>>()},
    ]);
    rich(d, &mut v);
    family(&v)
}

/// Some of what a sheet can say in words: ways, what is taken along, damage already done, how telling a sign is.
fn rich(d: &mut Die, v: &mut Value) {
    let points = v["points"].as_array().unwrap().len();
    for i in 0..points {
        let p = &mut v["points"][i];
        if d.chance(0.2) && i + 1 < points {
            p["takes_along"] =
                json!([{"point": format!("p{}", d.count(i + 1, points - 1)), "chance": d.round(0.1, 0.9, 0.1)}]);
        }
        if d.chance(0.15) {
            p["already_done"] =
                json!({"job": format!("j{}", d.count(0, points - 1)), "chance": d.round(0.1, 0.6, 0.1)});
        }
        if d.chance(0.2) {
            let few = d.round(40.0, 200.0, 10.0);
            p["routes"] = json!([
                {"name": "Try", "price": few, "suffices": d.round(0.2, 0.8, 0.1), "first": true},
                {"name": "Used", "price": [few, few * 3.0], "lasts": 0.4},
            ]);
        }
        if d.chance(0.3) {
            p.as_object_mut().unwrap().remove("repair_delay");
            p["lived_with"] = json!(d.one(&["at_once", "days", "weeks", "months", "a_year", "for_years"]));
        }
        if p.get("warning").is_none() && d.chance(0.5) {
            p["notice"] =
                json!({"length": d.one(&["none", "short", "long"]), "by": d.one(&["most", "half", "those_who_look"])});
        }
    }
    for c in v["checks"].as_array_mut().unwrap().iter_mut().filter(|c| c.get("care_sign").is_none()) {
        if c["links"].as_array().unwrap().len() > 1 || !d.chance(0.4) {
            continue;
        }
        let mut signs = vec![json!({"outcome": 1, "says": d.one(&["hint", "clear"])})];
        if c["outcomes"].as_array().unwrap().len() > 2 {
            let (says, shows) = (d.one(&["clear", "sure"]), d.one(&["half", "seldom"]));
            signs.push(json!({"outcome": 2, "says": says, "shows": shows}));
        }
        c["links"] = json!([{"point": c["links"][0]["point"], "signs": signs}]);
        c.as_object_mut().unwrap().remove("leak");
    }
}

/// A candidate of a sheet with some checks answered and some papers, its history report asked.
pub fn candidate(d: &mut Die, f: &Family) -> Candidate {
    let age = d.count(3, 15);
    let now = (d.within(8000.0, 22_000.0) * age as f64).round();
    let mut c = asked(json!({
        "format": "ticksage-candidate/2", "title": "Made up", "families": [{"id": "test", "version": 1}],
        "as_of": "2026-06-01", "built": format!("{}-06-01", 2026 - age), "usage": {"value": now, "unit": "km"},
        "asking": d.round(3000.0, 15_000.0, 100.0), "currency": "HSC",
        "plan": {"years": d.count(1, 5), "usage_a_year": {"value": d.round(6000.0, 25_000.0, 1000.0), "unit": "km"}}
    }));
    let mut findings = Vec::new();
    for check in &f.checks {
        if d.chance(0.4) {
            let most = if d.chance(0.6) { 0 } else { check.outcomes.len() - 1 };
            let outcome = d.count(0, most);
            findings
                .push(json!({"family": "test", "check": check.id, "result": {"kind": "outcome", "outcome": outcome}}));
        }
    }
    c["findings"] = json!(findings);
    if d.chance(0.5) {
        let at = (now * d.within(0.3, 0.9)).round();
        let point = d.one(&f.points).id.clone();
        c["ledger"] = json!([{"date": format!("{}-01-15", 2026 - age.min(2)), "usage": {"value": at, "unit": "km"},
            "grade": "original", "evidence": d.one(&["invoice_naming_part", "stamp", "sellers_word"]),
            "renews": [{"family": "test", "point": point}]}]);
    }
    cand(&c)
}
