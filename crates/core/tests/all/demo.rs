//! The demo is sound, and its candidates lead to different verdicts.

use std::path::PathBuf;

use ticksage_core::decision::verdict::VerdictKind;
use ticksage_core::documents::applies::Applies;
use ticksage_core::documents::failure_point::FailurePoint;
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_core::{Assessment, Assumptions, Candidate, Family, assess};

fn demo(folder: &str) -> Vec<(String, String)> {
    let dir = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(folder);
    let mut files: Vec<_> = std::fs::read_dir(dir).unwrap().map(|e| e.unwrap().path()).collect();
    files.sort();
    files
        .into_iter()
        .map(|p| (p.file_stem().unwrap().to_string_lossy().into_owned(), std::fs::read_to_string(p).unwrap()))
        .collect()
}

/// The demo's own sheets.
fn own_families() -> Vec<Family> {
    demo("families").iter().map(|(n, t)| read_family(t).unwrap_or_else(|f| panic!("{n}: {f:#?}"))).collect()
}

/// Those that say something of their own; one more is made from how it is built alone.
fn written() -> impl Iterator<Item = Family> {
    own_families().into_iter().filter(|f| own(f).count() > 0)
}

/// Points that no pattern gave.
fn own(f: &Family) -> impl Iterator<Item = &FailurePoint> {
    f.points.iter().filter(|p| f.from_pattern("points", &p.id).is_none())
}

/// The same with the base sheets that ship with the application.
fn families() -> Vec<Family> {
    own_families().into_iter().chain(ticksage_core::formats::base_sheets::sheets().unwrap()).collect()
}

fn candidates() -> Vec<(String, Candidate)> {
    demo("candidates")
        .into_iter()
        .map(|(n, t)| {
            let c = read_candidate(&t).unwrap_or_else(|f| panic!("{n}: {f:#?}"));
            (n, c)
        })
        .collect()
}

fn assessed() -> Vec<(String, Assessment)> {
    let families = families();
    candidates()
        .into_iter()
        .map(|(n, c)| {
            let a = assess(&c, &families, &Assumptions::default()).unwrap_or_else(|e| panic!("{n}: {e:#?}"));
            (n, a)
        })
        .collect()
}

#[test]
fn every_family_has_ten_points_claims_of_two_sources_and_a_check_for_most() {
    for f in written() {
        assert!(own(&f).count() >= 10, "{}", f.id);
        let seen = f.points.iter().filter(|p| f.checks.iter().any(|c| c.links.iter().any(|l| l.point == p.id)));
        assert!(seen.count() * 10 >= f.points.len() * 8, "{}", f.id);
        let disputed = own(&f).filter(|p| p.life.iter().any(|c| c.source != p.life[0].source));
        assert!(disputed.count() >= 5, "{}", f.id);
    }
}

#[test]
fn what_is_common_knowledge_comes_from_patterns_and_each_part_is_known_once() {
    for f in written() {
        assert!(f.built_as.is_some() && f.points.len() > own(&f).count(), "{}", f.id);
        for p in own(&f).filter(|p| p.part.is_some() && p.applies == Applies::default()) {
            let again = f.points.iter().find(|x| x.part == p.part && x.id != p.id);
            assert!(again.is_none_or(|x| f.from_pattern("points", &x.id).is_none()), "{}: {}", f.id, p.id);
        }
        // No look is asked for twice: a pattern's check has an action of its own.
        let given = |id: &str| f.from_pattern("checks", id).is_some();
        for c in f.checks.iter().filter(|c| given(&c.id)) {
            let twice = f.checks.iter().any(|x| x.id != c.id && x.phase == c.phase && given(&x.id) && x.name == c.name);
            assert!(!twice && !c.outcomes.is_empty(), "{}: {}", f.id, c.id);
        }
    }
}

#[test]
fn six_families_of_every_kind_with_twelve_to_twenty_five_points_of_their_own() {
    use ticksage_core::base::units::UsageClock;
    use ticksage_core::documents::family::FamilyKind;
    let (made, all): (Vec<Family>, Vec<Family>) = own_families().into_iter().partition(|f| own(f).count() == 0);
    // One more is made from how it is built.
    assert_eq!((all.len(), made.len()), (6, 1));
    assert!(made[0].points.len() >= 50);
    let count = |kind| all.iter().filter(|f| f.kind == kind).count();
    assert_eq!((count(FamilyKind::Engine), count(FamilyKind::Gearbox)), (3, 1));
    assert_eq!((count(FamilyKind::Body), count(FamilyKind::Motorcycle)), (1, 1));
    assert_eq!(all.iter().filter(|f| f.clock == UsageClock::Hours).count(), 1);
    assert!(all.iter().all(|f| (12..=25).contains(&own(f).count())));
    // Engine and body together are a long road.
    let points = |id: &str| all.iter().find(|f| f.id == id).unwrap().points.len();
    assert!(points("bk4") + points("ferryman") >= 40);
    assert!(all.iter().any(|f| f.points.iter().any(|p| p.applies.serial.is_some())));
    assert!(all.iter().all(|f| f.checks.iter().any(|c| c.care_sign.is_some())));
}

#[test]
fn sources_really_disagree_and_findings_stay_exact() {
    for (n, a) in assessed().into_iter().filter(|(n, _)| !n.ends_with("estate")) {
        assert!(!a.approximate, "{n}");
        let spread = a.points.iter().map(|p| {
            let chances: Vec<f64> = p.sources.iter().map(|s| s.chance).collect();
            chances.iter().copied().fold(0.0, f64::max) - chances.iter().copied().fold(1.0, f64::min)
        });
        assert!(spread.filter(|s| *s >= 0.2).count() >= 3, "{n}");
    }
}

#[test]
fn every_form_of_claim_occurs() {
    let text: String = demo("families").into_iter().map(|f| f.1).collect();
    for form in
        ["between", "from_about", "about", "rarely_beyond", "at_least", "quantiles", "weibull", "one_in", "word"]
    {
        assert!(text.contains(&format!("\"form\": \"{form}\"")), "{form}");
    }
    assert!(text.contains("\"revision\""));
}

#[test]
fn the_demo_candidates_lead_to_different_verdicts() {
    let verdicts: Vec<(String, VerdictKind)> = assessed().into_iter().map(|(n, a)| (n, a.verdict.kind)).collect();
    for (n, a) in assessed() {
        println!(
            "{n}: {:?} asks {:.0} limit {:.0} ref {:.0} bill {:.0} (reference {:.0}) now {:.0} gates {} done {}/{} next {:?}",
            a.verdict.kind,
            a.value.asking,
            a.value.limit,
            a.value.reference.price,
            a.bill.mean,
            a.bill.reference,
            a.bill.now,
            a.blockers.len(),
            a.checks_done,
            a.checks_total,
            a.open_checks.first().map(|x| (x.name.clone(), x.value_of_information, x.cost))
        );
        for p in a.points.iter().take(7) {
            println!(
                "    {:32} now {:.2} plan {:.2} cost {:.0} exp {:.0} {:?} {:?}",
                p.name,
                p.p_now,
                p.p_plan,
                p.cost.mean,
                p.expected_cost,
                p.grade,
                p.why.iter().map(|w| (w.chance * 100.0).round()).collect::<Vec<_>>()
            );
        }
    }
    use VerdictKind::{Buy, Negotiate, NotYet, WalkAway};
    let expected = [Buy, Negotiate, NotYet, WalkAway, WalkAway, Buy, NotYet, NotYet, NotYet];
    assert_eq!(verdicts.iter().map(|v| v.1).collect::<Vec<_>>(), expected, "{verdicts:?}");
}
