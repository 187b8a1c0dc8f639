//! What a sheet can say beyond figures: words, ways of putting a fault right, what it takes along, builds, advice.

use crate::common::{asked, cand, candidate, family, sheet, with};
use serde_json::{Value, json};
use ticksage_core::base::budget::Budget;
use ticksage_core::decision::point_result::PointResult;
use ticksage_core::documents::family::AdviceKind;
use ticksage_core::formats::documents::read_family;
use ticksage_core::money::ways::Barred;
use ticksage_core::questions::sensitivity::sensitivity;
use ticksage_core::validation::telling::family_notices;
use ticksage_core::{Assessment, Assumptions, assess};

fn judged(s: &Value, c: &Value) -> Assessment {
    assess(&cand(c), &[family(s)], &Assumptions::default()).unwrap()
}

fn belt(a: &Assessment) -> &PointResult {
    a.points.iter().find(|p| p.at.point == "belt").unwrap()
}

fn near(told: f64, wanted: f64, what: &str) {
    assert!((told - wanted).abs() < 1e-6 * wanted.abs().max(1.0), "{what}: {told}, not {wanted}");
}

/// The bill is what points and scheduled work cost, summed over them and over the years.
fn adds_up(a: &Assessment) {
    let points: f64 = a.points.iter().map(|p| p.expected_cost).sum();
    near(points + a.bill.scheduled - a.bill.saved, a.bill.mean, "point by point");
    near(a.bill.by_year.iter().sum::<f64>() - a.bill.saved, a.bill.mean, "year by year");
}

fn without(mut v: Value, path: &str) -> Value {
    let (parent, key) = path.rsplit_once('/').unwrap();
    v.pointer_mut(parent).unwrap().as_object_mut().unwrap().remove(key);
    v
}

/// The sheet of the tests in words alone: no likelihood, no figure that nobody said.
fn in_words(says: &str, shows: &str) -> Value {
    let s = without(without(sheet(), "/checks/0/leak"), "/points/0/repair_delay");
    let s = with(s, "/points/0/lived_with", json!("weeks"));
    let signs = json!([{"point": "belt", "signs": [{"outcome": 1, "says": says, "shows": shows}]}]);
    let outcomes = json!([{"label": "quiet"}, {"label": "squeals"}]);
    with(with(s, "/checks/0/links", signs), "/checks/0/outcomes", outcomes)
}

fn found(c: Value, outcome: usize) -> Value {
    let finding = json!([{"family": "test", "check": "look", "result": {"kind": "outcome", "outcome": outcome}}]);
    with(c, "/findings", finding)
}

/// What a word means is a chance on the typical example: nothing on paper, nothing else found.
#[test]
fn a_sign_means_on_the_typical_example_what_its_word_says() {
    // Sudden: it is there or it is not, and nothing shows that it comes.
    let sudden = |s: Value| {
        let s = with(s, "/points/0/mechanism", json!("random"));
        with(s, "/points/0/life/0/says", json!({"form": "weibull", "shape": 1.0, "scale": 120_000}))
    };
    for (says, wanted) in [("sure", 0.95), ("clear", 0.75)] {
        for shows in ["mostly", "half", "seldom"] {
            let s = with(sudden(in_words(says, shows)), "/points/0/lived_with", json!("a_year"));
            let a = judged(&s, &found(candidate(), 1));
            near(belt(&a).p_now, wanted, &format!("{says} {shows}"));
        }
    }
    // What is looked at directly is believed.
    let seen = judged(&sudden(in_words("is", "mostly")), &found(candidate(), 1));
    assert!(belt(&seen).p_now > 0.9, "{}", belt(&seen).p_now);
    // A quiet outcome speaks for it, the more the oftener the sign would show.
    let quiet = |shows| belt(&judged(&sudden(in_words("clear", shows)), &found(candidate(), 0))).p_now;
    assert!(quiet("mostly") < quiet("half") && quiet("half") < quiet("seldom"));
}

/// Words and the figures that they stand for are the same, to the digit.
#[test]
fn words_and_their_figures_written_out_are_the_same() {
    let words = with(sheet(), "/points/0/notice", json!({"length": "long", "by": "most"}));
    let words = with(without(words, "/points/0/repair_delay"), "/points/0/lived_with", json!("months"));
    let words = with(without(words, "/points/0/job"), "/points/0/price", json!(500));
    let words = with(words, "/jobs", json!([]));
    let warning = json!({"sign": "crumbs", "lead": 8000, "every": 8000, "sensitivity": 0.8});
    let figures = with(with(sheet(), "/points/0/warning", warning), "/points/0/repair_delay", json!(7500));
    let price = json!([{"id": "own-belt", "name": "Belt", "sundries": {"low": 400, "likely": 500, "high": 700}}]);
    let figures = with(with(figures, "/jobs", price), "/points/0/job", json!("own-belt"));
    for outcome in 0..3 {
        let c = found(candidate(), outcome);
        // All but the name of the job that the price made.
        let told = serde_json::to_string(&judged(&words, &c)).unwrap().replace("own.belt", "own-belt");
        assert_eq!(told, serde_json::to_string(&judged(&figures, &c)).unwrap());
    }
    // A quote goes to the job that the price made, as to any other.
    let quote =
        json!([{"family": "test", "job": "own.belt", "amount": 450, "by": "Quay garage", "date": "2026-05-01"}]);
    near(belt(&judged(&words, &with(candidate(), "/quotes", quote))).cost.mean, 450.0, "quoted");
}

#[test]
fn what_is_read_is_written_again_as_it_was() {
    let s = in_words("clear", "half");
    let once = serde_json::to_value(family(&s)).unwrap();
    assert_eq!(serde_json::to_value(family(&once)).unwrap(), once);
    assert!(once["checks"][0].get("leak").is_none() && once["points"][0].get("repair_delay").is_none());
}

/// "Tensioner first, 120: in four of ten that is all", else the chain.
fn with_ways() -> Value {
    let ways = json!([
        {"name": "Tensioner first", "price": 120, "suffices": 0.4, "first": true},
        {"name": "Chain and guides", "price": [700, 1100]},
        {"name": "Engine from a breaker", "price": 3000, "lasts": 2.0}
    ]);
    with(without(sheet(), "/points/0/job"), "/points/0/routes", ways)
}

#[test]
fn ways_are_tried_in_their_order_and_the_cheapest_settles_it() {
    let a = judged(&with_ways(), &candidate());
    let p = belt(&a);
    // PERT means: 120 means 96 to 168, so 124; 700 to 1 100 means 900.
    near(p.cost.mean, 124.0 + 0.6 * 900.0, "tensioner, then the chain");
    let told: Vec<(&str, f64)> = p.ways.iter().map(|w| (w.name.as_str(), w.done)).collect();
    assert_eq!(told, [("Tensioner first", 1.0), ("Chain and guides", 0.6), ("Engine from a breaker", 0.0)]);
    assert_eq!(p.job, "Chain and guides");
    // Where trying seldom helps it is left out.
    let hopeless = with(with_ways(), "/points/0/routes/0/suffices", json!(0.05));
    near(belt(&judged(&hopeless, &candidate())).cost.mean, 900.0, "the chain at once");
    // The bill's mean is that of its chances, whichever way it turns out.
    adds_up(&a);
}

#[test]
fn what_prices_make_never_takes_each_others_place() {
    // A way of "belt" and the price of "belt-1", and a job that is written out under a like name.
    let mut s = with_ways();
    let mut p = sheet()["points"][0].clone();
    p.as_object_mut().unwrap().remove("job");
    (p["id"], p["name"], p["price"]) = (json!("belt-1"), json!("Other"), json!([50, 50]));
    s["points"].as_array_mut().unwrap().push(p);
    let mut like = s["jobs"][0].clone();
    like["id"] = json!("own-belt-1");
    s["jobs"].as_array_mut().unwrap().push(like);
    let a = judged(&s, &candidate());
    near(belt(&a).cost.mean, 124.0 + 0.6 * 900.0, "the ways");
    near(a.points.iter().find(|p| p.at.point == "belt-1").unwrap().cost.mean, 50.0, "the other");
}

#[test]
fn a_way_needs_what_it_needs_first() {
    let needs = json!({"check": "look", "worst_outcome": 1});
    let s = with(with_ways(), "/points/0/routes/1/needs", needs);
    let barred = |a: &Assessment| belt(a).ways.iter().find(|w| w.name == "Chain and guides").unwrap().barred.clone();
    let unknown = judged(&s, &candidate());
    assert_eq!(barred(&unknown), Some(Barred::NotChecked { check: "Look".to_owned() }));
    assert_eq!(barred(&judged(&s, &found(candidate(), 1))), None);
    let bad = judged(&s, &found(candidate(), 2));
    assert_eq!(barred(&bad), Some(Barred::TooBad { check: "Look".to_owned() }));
    assert_eq!(belt(&bad).job, "Engine from a breaker");
    let gone = with(with_ways(), "/points/0/routes/1/needs", json!({"until_year": 2025}));
    assert_eq!(barred(&judged(&gone, &candidate())), Some(Barred::NoParts));
}

/// Two more points, a seal and a clutch, each with a price of its own.
fn with_neighbours() -> Value {
    let mut s = sheet();
    for (id, price) in [("seal", 400), ("clutch", 900)] {
        let mut p = s["points"][0].clone();
        (p["id"], p["name"]) = (json!(id), json!(id));
        p.as_object_mut().unwrap().remove("job");
        p["price"] = json!([price, price]);
        s["points"].as_array_mut().unwrap().push(p);
    }
    s
}

#[test]
fn what_a_failure_takes_along_is_followed_three_deep() {
    let plain = belt(&judged(&with_neighbours(), &candidate())).failure_cost;
    let s = with(with_neighbours(), "/points/0/takes_along", json!([{"point": "seal", "chance": 0.5}]));
    near(belt(&judged(&s, &candidate())).failure_cost, plain + 0.5 * 400.0, "the seal");
    let s = with(s, "/points/1/takes_along", json!([{"point": "clutch", "chance": 0.4}]));
    let a = judged(&s, &candidate());
    near(belt(&a).failure_cost, plain + 0.5 * (400.0 + 0.4 * 900.0), "and the clutch");
    near(belt(&a).worst_cost, belt(&a).cost.mean + 400.0 + 0.4 * 900.0, "the worst branch");
    adds_up(&a);
    // What does not concern this variant is not taken along.
    let other = json!({"built": {"from": "2025-01-01"}});
    let s = with(s, "/points/1/applies", other);
    near(belt(&judged(&s, &candidate())).failure_cost, plain, "no such seal");
}

#[test]
fn a_fault_that_is_found_may_have_done_its_damage() {
    let jobs = json!({"id": "engine", "name": "Engine", "price": [2000, 2000]});
    let mut s = sheet();
    s["jobs"].as_array_mut().unwrap().push(jobs);
    let plain = judged(&s, &found(candidate(), 2));
    let s = with(s, "/points/0/already_done", json!({"job": "engine", "chance": 0.25}));
    let a = judged(&s, &found(candidate(), 2));
    near(belt(&a).expected_cost - belt(&plain).expected_cost, 0.25 * 2000.0 * belt(&a).p_now, "done already");
    assert_eq!(belt(&a).p_now, belt(&plain).p_now);
    let first = a.bill.by_year[0] - plain.bill.by_year[0];
    assert!((first - 0.25 * 2000.0 * belt(&a).p_now).abs() < 0.01, "paid in the first year: {first}");
    // Each worse outcome costs at least as much.
    let limits: Vec<f64> = (0..3).map(|o| judged(&s, &found(candidate(), o)).value.limit).collect();
    assert!(limits.windows(2).all(|w| w[1] <= w[0]), "{limits:?}");
}

#[test]
fn a_job_that_puts_several_points_right_is_charged_once() {
    let mut s = with_neighbours();
    for k in 1..3 {
        s["points"][k].as_object_mut().unwrap().remove("price");
        s["points"][k]["job"] = json!("set");
    }
    s["jobs"].as_array_mut().unwrap().push(json!({"id": "set", "name": "Set", "price": [1000, 1000]}));
    let s = with(s, "/points/1/lived_with", json!("for_years"));
    let s = with(without(s, "/points/1/repair_delay"), "/points/2/lived_with", json!("for_years"));
    let s = without(s, "/points/2/repair_delay");
    let old = with(candidate(), "/usage/value", json!(220_000));
    let own = |point| json!({"at": {"family": "test", "point": point}, "now": true});
    let old = with(old, "/purchase_plan", json!({"own": [own("seal"), own("clutch")]}));
    let apart = judged(&s, &old);
    let s = with(s, "/jobs/1/renews", json!(["seal", "clutch"]));
    let once = judged(&s, &old);
    near(once.bill.saved - apart.bill.saved, 1000.0, "the second time is free");
    near(apart.bill.mean - once.bill.mean, 1000.0, "and the bill says so");
}

/// Three designs of one part: about 100 000 km, from 2018 about 60 000, from 2022 about 200 000.
fn with_revisions() -> Value {
    let about = |at: u32| json!([{"source": "a", "says": {"form": "about", "at": at}}]);
    let revisions = json!([
        {"name": "second", "from": "2018-01-01", "life": about(60_000)},
        {"name": "third", "from": "2022-01-01", "life": about(200_000)}
    ]);
    with(sheet(), "/points/0/revisions", revisions)
}

#[test]
fn of_several_revisions_the_one_fitted_at_the_works_counts() {
    let chance = |s: &Value, built: &str| belt(&judged(s, &with(candidate(), "/built", json!(built)))).p_plan;
    let alone = |at: u32| with(sheet(), "/points/0/life/0/says/at", json!(at));
    for (built, at) in [("2017-06-01", 100_000), ("2019-06-01", 60_000), ("2023-06-01", 200_000)] {
        // A repair before now was of the last design where its day allows: the condition today may differ, by little.
        let (several, one) = (chance(&with_revisions(), built), chance(&alone(at), built));
        assert!((several - one).abs() < 0.12, "{built}: {several} {one}");
    }
    assert!(chance(&with_revisions(), "2019-06-01") > chance(&with_revisions(), "2017-06-01"));
    assert!(chance(&with_revisions(), "2023-06-01") < 0.25);
}

#[test]
fn conditions_hold_by_any_of_and_except() {
    let facts = json!([{"id": "power", "label": "Power", "values": [
        {"id": "low", "label": "Low", "share": 0.6}, {"id": "high", "label": "High", "share": 0.4}]}]);
    let s = with(sheet(), "/facts", facts);
    let applies = json!({
        "any": [{"built": {"to": "2019-12-31"}}, {"facts": {"power": ["high"]}}],
        "except": [{"built": {"from": "2024-01-01"}}]
    });
    let s = with(s, "/points/0/applies", applies);
    let share = |c: Value| judged(&s, &c).points.first().map(|p| p.share);
    // Built 2020: the first alternative fails, the second is not known.
    near(share(candidate()).unwrap(), 0.4, "not known");
    assert_eq!(share(with(candidate(), "/facts", json!({"power": "high"}))), Some(1.0));
    assert_eq!(share(with(candidate(), "/facts", json!({"power": "low"}))), None);
    assert_eq!(share(with(candidate(), "/built", json!("2019-06-01"))), Some(1.0));
    let late = with(candidate(), "/built", json!("2024-06-01"));
    assert_eq!(share(with(late, "/facts", json!({"power": "high"}))), None);
    let asked: Vec<String> = judged(&s, &candidate()).walk.identify.into_iter().map(|x| x.fact).collect();
    assert_eq!(asked, ["power"], "what is not known is asked for on the walk-round");
    // And it is among what could move the bill.
    let moves = sensitivity(&cand(&candidate()), &[family(&s)], &Assumptions::default(), &Budget::default()).unwrap();
    assert!(serde_json::to_string(&moves).unwrap().contains("power"), "{moves:?}");
}

#[test]
fn a_source_that_overstates_is_discounted() {
    let s = with(sheet(), "/points/0/share", json!([{"source": "b", "says": {"form": "word", "word": "most"}}]));
    near(belt(&judged(&s, &candidate())).share, 0.7, "as said");
    near(belt(&judged(&with(s, "/sources/1/discount", json!(0.5)), &candidate())).share, 0.35, "half of it");
}

#[test]
fn advice_is_told_where_it_concerns_this_one() {
    let advice = json!([
        {"id": "kind", "kind": "praise", "says": "Trouble-free to 300 if oiled", "source": "a"},
        {"id": "first-year", "kind": "avoid", "says": "Avoid the first year", "source": "b",
         "applies": {"built": {"to": "2020-12-31"}}},
        {"id": "late", "kind": "prefer", "says": "Look for the late ones", "source": "b",
         "applies": {"built": {"from": "2023-01-01"}}},
        {"id": "proof", "kind": "only_if", "says": "Only with proof of the belt", "source": "a", "proved": "belt"}
    ]);
    let rules = json!([{"id": "oil", "says": "Oil at half the book's interval", "usage": 7500, "points": ["belt"]}]);
    let s = with(with(sheet(), "/advice", advice), "/care_rules", rules);
    let a = judged(&s, &asked(candidate()));
    let kinds: Vec<AdviceKind> = a.advised.iter().map(|x| x.kind).collect();
    assert_eq!(kinds, [AdviceKind::Avoid, AdviceKind::OnlyIf, AdviceKind::Praise]);
    assert!(!a.advised[1].proof.as_ref().unwrap().given);
    assert_eq!(a.rules[0].points, ["Belt"]);
    let entry = json!([{"date": "2024-06-01", "usage": {"value": 60_000, "unit": "km"}, "note": "belt",
        "evidence": "invoice_naming_part", "renews": [{"family": "test", "point": "belt"}]}]);
    let proved = judged(&s, &with(candidate(), "/ledger", entry));
    assert!(proved.advised[1].proof.as_ref().unwrap().given);
    // Advice moves no money.
    let silent = judged(&without(without(s, "/advice"), "/care_rules"), &asked(candidate()));
    assert_eq!(a.value, silent.value);
}

#[test]
fn what_makes_no_sense_is_refused_where_it_stands() {
    let circle = with(with_neighbours(), "/points/0/takes_along", json!([{"point": "seal", "chance": 0.5}]));
    let circle = with(circle, "/points/1/takes_along", json!([{"point": "belt", "chance": 0.5}]));
    let words = in_words("clear", "mostly");
    for (s, path) in [
        (circle, "/points/0/takes_along/0/point"),
        (
            with(sheet(), "/points/0/takes_along", json!([{"point": "belt", "chance": 1}])),
            "/points/0/takes_along/0/point",
        ),
        (
            with(sheet(), "/points/0/takes_along", json!([{"point": "gone", "chance": 1}])),
            "/points/0/takes_along/0/point",
        ),
        (with(sheet(), "/points/0/takes_along", json!([{"chance": 1}])), "/points/0/takes_along/0"),
        (with(sheet(), "/points/0/already_done", json!({"job": "gone", "chance": 1})), "/points/0/already_done/job"),
        (with(sheet(), "/points/0/price", json!(300)), "/points/0/price"),
        (with(sheet(), "/points/0/lived_with", json!("weeks")), "/points/0/lived_with"),
        (without(sheet(), "/points/0/job"), "/points/0/job"),
        (with(with_ways(), "/points/0/routes/1/price", json!([900, 700])), "/points/0/routes/1/price"),
        (with(with_ways(), "/points/0/routes/1/job", json!("belt-job")), "/points/0/routes/1"),
        (without(with_ways(), "/points/0/routes/0/suffices"), "/points/0/routes/0/suffices"),
        (with(with_ways(), "/points/0/routes/1/needs", json!({"check": "gone"})), "/points/0/routes/1/needs/check"),
        (with(sheet(), "/jobs/0/renews", json!(["gone"])), "/jobs/0/renews/0"),
        (with(sheet(), "/points/0/disputed", json!([{"source": "a", "says": "the tensioner"}])), "/points/0/disputed"),
        (with(sheet(), "/points/0/applies", json!({"any": [{}]})), "/points/0/applies/any/0"),
        (with(words.clone(), "/checks/0/links/0/signs/0/outcome", json!(2)), "/checks/0/links/0/signs/0/outcome"),
        (with(words.clone(), "/checks/0/links/0/present", json!([0.5, 0.5])), "/checks/0/links/0/present"),
        (with(words, "/checks/0/links/0/signs", json!([])), "/checks/0/leak"),
        (
            with(sheet(), "/advice", json!([{"id": "x", "kind": "only_if", "says": "x", "source": "a"}])),
            "/advice/0/proved",
        ),
        (with(sheet(), "/sources/0/discount", json!(1.5)), "/sources/0/discount"),
    ] {
        let faults = read_family(&s.to_string()).expect_err(path);
        assert!(faults.iter().any(|f| f.path == path), "{path}: {faults:?}");
    }
}

#[test]
fn every_figure_knows_how_it_was_said() {
    use ticksage_core::documents::reference::PointRef;
    use ticksage_core::questions::origins::{FigureOf, SaidAs};
    use ticksage_core::questions::point_detail::detail;

    let at = PointRef { family: "test".to_owned(), point: "belt".to_owned() };
    let told = |s: &Value, of: FigureOf| {
        let d = detail(&cand(&candidate()), &[family(s)], &at, &Assumptions::default(), &Budget::default()).unwrap();
        d.figures.into_iter().find(|f| f.of == of).map(|f| (f.value, f.from))
    };
    let word = with(without(sheet(), "/points/0/repair_delay"), "/points/0/lived_with", json!("weeks"));
    assert_eq!(told(&sheet(), FigureOf::LivedWith), Some((2000.0, SaidAs::Figure)));
    assert_eq!(told(&word, FigureOf::LivedWith), Some((1500.0, SaidAs::Word)));
    let silent = without(sheet(), "/points/0/repair_delay");
    assert_eq!(told(&silent, FigureOf::LivedWith), Some((1500.0, SaidAs::Default)));
    assert_eq!(told(&sheet(), FigureOf::Share), Some((1.0, SaidAs::Default)));
    assert_eq!(told(&sheet(), FigureOf::Notice), None);
    let ways = told(&with_ways(), FigureOf::Repair).unwrap();
    assert_eq!(ways.1, SaidAs::Word);
    near(ways.0, belt(&judged(&with_ways(), &candidate())).cost.mean, "one number on every screen");
}

#[test]
fn an_upgrade_saves_what_would_come_and_no_more() {
    let of = |u: Value| judged(&with(sheet(), "/upgrades", json!([u])), &candidate());
    let cure = of(json!({"id": "u", "name": "Better belt", "price": [100, 100], "cures": ["belt"]}));
    let longer = |by: f64| {
        of(json!({"id": "u", "name": "Better belt", "price": 100, "lengthens": {"belt": by}})).upgrades[0].saves
    };
    let u = &cure.upgrades[0];
    near(u.cost, 100.0, "what it costs");
    // What is there now is paid all the same, and what follows that repair.
    assert!(u.saves > 0.0 && u.saves < belt(&cure).expected_cost, "{} {}", u.saves, belt(&cure).expected_cost);
    assert!(longer(1.5) < longer(3.0) && longer(3.0) <= u.saves + 1e-9);
    // None of it is in the bill.
    assert_eq!(cure.bill, judged(&sheet(), &candidate()).bill);
    for (u, path) in [
        (json!({"id": "u", "name": "x", "cures": ["belt"]}), "/upgrades/0"),
        (json!({"id": "u", "name": "x", "price": 1, "cures": ["gone"]}), "/upgrades/0/cures"),
        (json!({"id": "u", "name": "x", "price": 1}), "/upgrades/0"),
        (json!({"id": "u", "name": "x", "price": 1, "lengthens": {"belt": 0.5}}), "/upgrades/0/lengthens/belt"),
    ] {
        let faults = read_family(&with(sheet(), "/upgrades", json!([u])).to_string()).expect_err(path);
        assert!(faults.iter().any(|f| f.path == path), "{path}: {faults:?}");
    }
}

#[test]
fn who_pays_until_when_counts_in_every_figure() {
    let paid = |until: Value, accepted: f64| {
        let mut x = json!({"by": "The maker", "accepted": accepted, "proof": "the code stored"});
        x.as_object_mut().unwrap().extend(until.as_object().unwrap().clone());
        with(sheet(), "/points/0/paid_for", x)
    };
    let plain = judged(&sheet(), &candidate());
    // The plan goes from 80 to 125 thousand.
    let all = judged(&paid(json!({"until_usage": 200_000}), 1.0), &candidate());
    let half = judged(&paid(json!({"until_usage": 200_000}), 0.5), &candidate());
    let some = judged(&paid(json!({"until_usage": 100_000}), 1.0), &candidate());
    let over = judged(&paid(json!({"until_age": 5}), 1.0), &candidate());
    let cost = |a: &Assessment| belt(a).expected_cost;
    assert!(cost(&all) < cost(&half) && cost(&half) < cost(&plain));
    assert!(cost(&all) < cost(&some) && cost(&some) < cost(&plain));
    near(2.0 * cost(&half), cost(&all) + cost(&plain), "half of the time");
    assert_eq!(over.bill, plain.bill, "its time is over");
    assert_eq!((belt(&over).paid_for.clone(), belt(&all).paid_for.as_ref().unwrap().whole), (None, true));
    for a in [&all, &half, &some] {
        adds_up(a);
        // What is left is the failures of the part fitted later, and recovery.
        assert!(a.bill.p90 <= plain.bill.p90);
    }
    // A fault that is found is mended for nothing.
    let found_now = judged(&paid(json!({"until_usage": 200_000}), 1.0), &found(candidate(), 2));
    assert!(cost(&found_now) < cost(&judged(&sheet(), &found(candidate(), 2))));
    adds_up(&found_now);
    let faults = read_family(&paid(json!({}), 1.0).to_string()).expect_err("no end");
    assert_eq!(faults[0].path, "/points/0/paid_for");
}

/// A base sheet's point, and a family's sheet that knows its life, share and price better.
fn in_layers(adjusts: Value) -> (Value, Value) {
    let mut base = sheet();
    (base["id"], base["kind"]) = (json!("base"), json!("base_engine"));
    base["points"][0]["part"] = json!("belt");
    let mut own = sheet();
    own["points"][0]["id"] = json!("other");
    own["checks"] = json!([]);
    own["adjusts"] = adjusts;
    (base, own)
}

#[test]
fn a_family_says_of_a_base_sheets_part_what_it_knows_better_and_keeps_the_rest() {
    let base_kind = |v: &Value| {
        let v = with(v.clone(), "/kind", json!("base_engine"));
        with(v, "/checks/0/links/0/lead", json!(10_000))
    };
    let life = json!([{"source": "b", "says": {"form": "about", "at": 140_000}, "stands": {"title": "page 4"}}]);
    let share = json!([{"source": "b", "says": {"form": "word", "word": "common"}, "stands": {"title": "page 4"}}]);
    let known = json!([{"part": "belt", "life": life, "share": share, "price": [600, 600], "lived_with": "days"}]);
    let c = with(candidate(), "/families", json!([{"id": "test", "version": 1}, {"id": "base", "version": 1}]));
    let both =
        |base: &Value, own: &Value| assess(&cand(&c), &[family(own), family(base)], &Assumptions::default()).unwrap();
    let (base, own) = in_layers(known);
    let base = base_kind(&base);
    let told = both(&base, &own);
    // The same, written out in the base sheet.
    let mut whole = with(base.clone(), "/points/0/life", life);
    whole["points"][0]["share"] = share;
    whole["points"][0]["price"] = json!([600, 600]);
    whole["points"][0]["lived_with"] = json!("days");
    let whole = without(without(whole, "/points/0/job"), "/points/0/repair_delay");
    let silent = without(own.clone(), "/adjusts");
    assert_eq!(told, both(&whole, &silent));
    let belt = |a: &Assessment| a.points.iter().find(|p| p.at.family == "base").unwrap().clone();
    near(belt(&told).cost.mean, 600.0, "its price");
    let quote =
        json!([{"family": "base", "job": "own.belt", "amount": 550, "by": "Quay garage", "date": "2026-05-01"}]);
    let quoted = with(c.clone(), "/quotes", quote);
    let quoted = assess(&cand(&quoted), &[family(&own), family(&base)], &Assumptions::default()).unwrap();
    near(belt(&quoted).cost.mean, 550.0, "as quoted");
    // Of another build nothing better is known.
    let late = with(own.clone(), "/adjusts/0/applies", json!({"built": {"from": "2024-01-01"}}));
    assert_eq!(both(&base, &late), both(&base, &silent));
    for (x, path) in [
        (json!({"part": "belt"}), "/adjusts/0"),
        (
            json!({"part": "belt", "life": [{"source": "z", "says": {"form": "about", "at": 9}}]}),
            "/adjusts/0/life/0/source",
        ),
    ] {
        let faults = read_family(&with(own.clone(), "/adjusts/0", x).to_string()).expect_err(path);
        assert!(faults.iter().any(|f| f.path == path), "{path}: {faults:?}");
    }
    let mut twice = own.clone();
    twice["points"][0]["part"] = json!("belt");
    let faults = read_family(&twice.to_string()).expect_err("two of one part");
    assert_eq!(faults[0].path, "/adjusts/0/part");
}

#[test]
fn checks_and_jobs_of_a_base_sheet_are_known_better_field_by_field() {
    let (base, own) = in_layers(json!([]));
    let mut base = with(base, "/jobs/0/id", json!("base-job"));
    base["points"][0]["job"] = json!("base-job");
    base["checks"][0]["action"] = json!("look-at-belt");
    let own = without(own, "/adjusts");
    let c = with(candidate(), "/families", json!([{"id": "test", "version": 1}, {"id": "base", "version": 1}]));
    let both =
        |base: &Value, own: &Value| assess(&cand(&c), &[family(own), family(base)], &Assumptions::default()).unwrap();
    let plain = both(&base, &own);
    let hours = json!({"low": 8, "likely": 9, "high": 12});
    for (check, job, whole) in [
        (json!({"minutes": 9}), json!({"hours": hours}), {
            let whole = with(base.clone(), "/checks/0/minutes", json!(9));
            with(whole, "/jobs/0/hours", hours.clone())
        }),
        (json!({"how": "From below, with a mirror."}), json!({"price": [700, 700]}), {
            let whole = with(base.clone(), "/checks/0/how", json!("From below, with a mirror."));
            let mut whole = without(without(whole, "/jobs/0/hours"), "/jobs/0/parts");
            whole["jobs"][0]["price"] = json!([700, 700]);
            whole
        }),
    ] {
        let mut known = own.clone();
        let named = |x: Value, key: &str, id: &str| {
            let mut x = x;
            x[key] = json!(id);
            json!([x])
        };
        known["adjusts_checks"] = named(check, "action", "look-at-belt");
        known["adjusts_jobs"] = named(job, "job", "base-job");
        let told = both(&base, &known);
        assert_eq!(told, both(&whole, &own));
        assert_ne!(told, plain);
        // Of another build nothing better is known.
        let later = json!({"built": {"from": "2024-01-01"}});
        let late = with(known, "/adjusts_checks/0/applies", later.clone());
        assert_eq!(both(&base, &with(late, "/adjusts_jobs/0/applies", later)), plain);
    }
    // What nobody describes, or would not fit, is told.
    let mut odd = own.clone();
    odd["adjusts_checks"] = json!([
        {"action": "look-at-belt", "minutes": 5},
        {"action": "look-at-chain", "minutes": 5}
    ]);
    odd["adjusts_jobs"] = json!([{"job": "base-job", "price": 700}, {"job": "mirror", "price": 30}]);
    odd["adjusts"] = json!([{"part": "belt", "lived_with": "days"}, {"part": "mirror", "lived_with": "days"}]);
    let measure = |limits: Value| json!({"quantity": "tread", "unit": "mm", "limits": limits, "higher_is_worse": false, "source": "common practice"});
    let base = with(base, "/checks/0/measure", measure(json!([2, 4])));
    odd["adjusts_checks"][0]["measure"] = measure(json!([2, 3, 4]));
    let told: Vec<String> = family_notices(&family(&odd), &[family(&base)]).into_iter().map(|n| n.path).collect();
    assert_eq!(
        told,
        ["/adjusts/1/part", "/adjusts_jobs/1/job", "/adjusts_checks/0/measure/limits", "/adjusts_checks/1/action"]
    );
    let mut bad = own.clone();
    bad["adjusts_checks"] = json!([{"action": "look-at-belt"}]);
    bad["adjusts_jobs"] = json!([{"job": "belt-job", "hours": {"low": 3, "likely": 2, "high": 1}}]);
    let faults = read_family(&bad.to_string()).expect_err("bad ones");
    for path in ["/adjusts_checks/0", "/adjusts_jobs/0/job", "/adjusts_jobs/0/hours"] {
        assert!(faults.iter().any(|f| f.path == path), "{path}: {faults:?}");
    }
}
