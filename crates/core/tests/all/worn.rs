//! What a fault wears while it lasts: chances, money, the why, and bad sheets.

use crate::common::{cand, candidate, family, sheet};
use rand::rngs::SmallRng;
use rand::{RngExt, SeedableRng};
use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::decision::point_result::{PointResult, WhyKind};
use ticksage_core::documents::reference::PointRef;
use ticksage_core::formats::documents::read_family;
use ticksage_core::questions::point_detail::detail;
use ticksage_core::{Assessment, Assumptions, assess};

/// A cover whose leak is lived with for years, and a belt that oil wears.
fn sheet_of(times: Option<f64>) -> Value {
    let mut s = sheet();
    let mut cover = s["points"][0].clone();
    (cover["id"], cover["name"]) = (json!("cover"), json!("Cover leaks"));
    cover["life"][0]["says"]["at"] = json!(140_000);
    cover["repair_delay"] = json!(60_000);
    if let Some(times) = times {
        cover["wears"] = json!([{"point": "belt", "times": times}]);
    }
    s["points"].as_array_mut().unwrap().push(cover);
    s
}

fn judged(s: &Value) -> Assessment {
    assess(&cand(&candidate()), &[family(s)], &Assumptions::default()).unwrap()
}

fn point<'a>(a: &'a Assessment, id: &str) -> &'a PointResult {
    a.points.iter().find(|p| p.at.point == id).unwrap()
}

#[test]
fn what_a_fault_wears_fails_sooner_and_the_why_says_so() {
    let (plain, worn, much) = (judged(&sheet_of(None)), judged(&sheet_of(Some(4.0))), judged(&sheet_of(Some(12.0))));
    assert!((judged(&sheet_of(Some(1.0))).bill.mean / plain.bill.mean - 1.0).abs() < 1e-12, "once is as it was");
    let chance = |a: &Assessment| point(a, "belt").p_plan;
    assert!(chance(&plain) + 0.01 < chance(&worn) && chance(&worn) + 0.01 < chance(&much));
    assert!(plain.bill.mean < worn.bill.mean && worn.bill.mean < much.bill.mean);
    assert_eq!(point(&plain, "cover").p_plan.to_bits(), point(&much, "cover").p_plan.to_bits());
    let why = &point(&worn, "belt").why;
    assert_eq!(why.last().unwrap().kind, WhyKind::WornBy);
    assert!((why[why.len() - 2].chance - chance(&plain)).abs() < 1e-9 && why.last().unwrap().chance > chance(&plain));
    assert!(point(&plain, "belt").why.iter().all(|w| w.kind != WhyKind::WornBy));
    // The point's own screen has the same chance.
    let at = PointRef { family: "test".to_owned(), point: "belt".to_owned() };
    let sheets = [family(&sheet_of(Some(4.0)))];
    let own = detail(&cand(&candidate()), &sheets, &at, &Assumptions::default(), &Budget::default()).unwrap();
    let by_horizon = own.ahead.iter().take_while(|x| x.usage <= 125_000.5).last().unwrap().chance;
    assert!((by_horizon - chance(&worn)).abs() < 1e-9, "{by_horizon} {}", chance(&worn));
    // The market knows it as well: nothing is beyond the reference example's bill.
    assert!(worn.bill.excess.abs() < 0.01 * worn.bill.mean, "{}", worn.bill.excess);
    let spoken = &point(&worn, "belt").sources;
    assert!(spoken.iter().all(|s| (s.chance - chance(&worn)).abs() < 1e-6), "{spoken:?}");
}

#[test]
fn drawn_one_by_one_it_comes_to_the_same() {
    // Cover and belt from the state that the sheet without wear gives, drawn; the belt's hazard four times as fast from
    // the middle of the cover's coming, or from now where it leaks and is left.
    let (plain, worn) = (judged(&sheet_of(None)), judged(&sheet_of(Some(4.0))));
    let (cover, belt) = (point(&plain, "cover"), point(&plain, "belt"));
    assert!(cover.p_now < 0.5);
    let [plan, coming] = [belt, cover].map(|p| p.trouble.plan.iter().map(|m| m / 1e4).collect::<Vec<f64>>());
    let (sum, cells) = (coming.iter().sum::<f64>(), plan.len());
    let mut so_far = 0.0;
    let middle = coming.iter().position(|m| {
        so_far += m;
        so_far >= sum / 2.0
    });
    let begins = middle.unwrap();
    let mut rng = SmallRng::seed_from_u64(7);
    let (draws, mut failed) = (200_000, 0u32);
    for _ in 0..draws {
        let state: f64 = rng.random();
        let from = if state < cover.p_now {
            Some(0)
        } else if state < cover.p_plan {
            Some(begins)
        } else {
            None
        };
        if rng.random::<f64>() < belt.p_now {
            failed += 1;
            continue;
        }
        let mut left = 1.0 - belt.p_now;
        // While the belt's own fault is lived with, 2 000 km, a leak that is there has worn it; a cell is 1 500 km.
        let rate = -(1.0 - plan[0] / left).ln() / 1500.0;
        if from == Some(0) && rng.random::<f64>() < 1.0 - (-3.0 * rate * 2000.0).exp() {
            failed += 1;
            continue;
        }
        for (k, m) in plan.iter().enumerate().take(cells) {
            let hazard = -(1.0 - m / left).ln();
            left -= m;
            let times = if from.is_some_and(|f| k >= f) { 4.0 } else { 1.0 };
            if rng.random::<f64>() < 1.0 - (-times * hazard).exp() {
                failed += 1;
                break;
            }
        }
    }
    let drawn = f64::from(failed) / f64::from(draws);
    let told = point(&worn, "belt").p_plan;
    assert!((drawn - told).abs() < 0.012, "{drawn} {told}");
}

#[test]
fn what_is_found_of_a_fault_speaks_of_what_it_wore_and_the_other_way() {
    let with_times = |times: f64, found: Value| {
        let mut s = sheet_of(Some(times));
        s["points"][0]["repair_delay"] = json!(15_000);
        let see = json!({
            "id": "see", "name": "See", "phase": "bonnet_cold", "how": "See.", "minutes": 2,
            "outcomes": [{"label": "dry"}, {"label": "wet"}], "leak": [0.98, 0.02],
            "links": [{"point": "cover", "present": [0.1, 0.9]}]
        });
        s["checks"].as_array_mut().unwrap().push(see);
        let c = crate::common::with(candidate(), "/findings", found);
        assess(&cand(&c), &[family(&s)], &Assumptions::default()).unwrap()
    };
    let outcome = |check: &str, o: usize| json!([{"family": "test", "check": check, "result": {"kind": "outcome", "outcome": o}}]);
    let now = |a: &Assessment, id: &str| point(a, id).p_now;
    let none = with_times(6.0, json!([]));
    let (dry, wet) = (with_times(6.0, outcome("see", 0)), with_times(6.0, outcome("see", 1)));
    // A leak that is found has worn the belt already, though it is put right at purchase; a dry cover has not.
    assert!(now(&dry, "belt") + 1e-4 < now(&none, "belt") && now(&none, "belt") + 0.01 < now(&wet, "belt"));
    assert!(point(&wet, "cover").p_now > 0.5 && point(&wet, "belt").p_plan > point(&none, "belt").p_plan);
    // Crumbs speak for a leak.
    let crumbs = with_times(6.0, outcome("look", 2));
    assert!(now(&crumbs, "cover") > now(&none, "cover") + 1e-3, "{} {}", now(&crumbs, "cover"), now(&none, "cover"));
    // Where nothing wears, nothing speaks of the other, but for care.
    let (apart, still) = (with_times(1.0, json!([])), with_times(1.0, outcome("see", 1)));
    assert!((now(&still, "belt") - now(&apart, "belt")).abs() < 0.3 * (now(&wet, "belt") - now(&none, "belt")));
    // In whatever order they were entered.
    let mut both = outcome("see", 1);
    both.as_array_mut().unwrap().extend(outcome("look", 2).as_array().unwrap().clone());
    let mut turned = both.clone();
    turned.as_array_mut().unwrap().reverse();
    assert_eq!(with_times(6.0, both).points, with_times(6.0, turned).points);
}

#[test]
fn bad_ones_are_refused_where_they_stand_and_a_round_of_two_ends() {
    let mut bad = sheet_of(Some(60.0));
    bad["points"][0]["wears"] = json!([{"point": "belt", "times": 2}, {"point": "mirror", "times": 2}]);
    let told = format!("{:?}", read_family(&bad.to_string()).unwrap_err());
    for at in ["/points/0/wears/0/point", "/points/0/wears/1/point", "/points/1/wears/0/times"] {
        assert!(told.contains(at), "{at} in {told}");
    }
    let mut both = sheet_of(Some(3.0));
    both["points"][0]["wears"] = json!([{"point": "cover", "times": 3}]);
    let a = judged(&both);
    assert!(a.bill.mean.is_finite() && a.points.iter().all(|p| (0.0..=1.0).contains(&p.p_plan)));
    let once = family(&both);
    assert_eq!(read_family(&serde_json::to_string(&once).unwrap()).unwrap(), once);
}
