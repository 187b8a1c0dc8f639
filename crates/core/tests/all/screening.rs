//! Adverts by the hundred: read, judged beside each other, ranked.

use std::collections::BTreeMap;

use crate::common::sense::table;
use jiff::civil::Date;
use ticksage_core::Family;
use ticksage_core::assess::judge::assess_within;
use ticksage_core::base::budget::Budget;
use ticksage_core::base::memory::Memory;
use ticksage_core::base::units::{Usage, UsageUnit};
use ticksage_core::documents::buyer::{Buyer, Plan};
use ticksage_core::documents::care_level::CareLevel;
use ticksage_core::formats::base_sheets;
use ticksage_core::formats::pattern_library::library;
use ticksage_core::formats::talk_tables::tables;
use ticksage_core::inference::depth::Depth;
use ticksage_core::questions::ranking::Ranked;
use ticksage_core::questions::screening::{CELLS, List, Screening};

pub fn screening(families: &[Family]) -> Screening<'_> {
    Screening {
        families,
        library: library(),
        tables: tables(),
        currency: "HSC".to_owned(),
        rates: BTreeMap::new(),
        plan: Plan {
            years: 3.0,
            usage_a_year: Usage { value: 15_000.0, unit: UsageUnit::Km },
            use_: BTreeMap::new(),
            care: CareLevel::default(),
        },
        buyer: Buyer::default(),
        today: Date::constant(2026, 11, 27),
    }
}

fn judged(s: &Screening<'_>, all: &List) -> Vec<Ranked> {
    let memory = Memory::default();
    let mut out: Vec<Ranked> = (0..all.len())
        .filter(|i| all[*i].missing.is_empty() && all[*i].same_as.is_none())
        .map(|i| s.judge(all, i, &table(), &Budget::default().remembering(&memory).in_cells(CELLS)).unwrap())
        .collect();
    out.sort_by(|x, y| y.surplus.total_cmp(&x.surplus));
    out
}

#[test]
fn free_lines_are_read_in_any_order_and_repeats_are_known() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    let all = s.read(
        "2016, 121 400 km, 6 800, nine seats, diesel van, one owner\n\
         Diesel van, one owner, nine seats; 121,400 km; 2016; asking 6,500\n\
         petrol hatch | 2012 | 98k miles | 2 450\n\
         £4,950 estate diesel automatic, 88 000 km, first registered 03/2015\n\
         POA petrol saloon 2014 90 000 km\n\
         lovely thing, 2013, 100 000 km, 3000\n\
         generator diesel, 2 400 hours, 2011, 3 900\n",
    );
    let of = |i: usize| (all[i].reading.asking.map(|m| m.get()), all[i].reading.usage.map(|u| u.on_clock().round()));
    assert_eq!(of(0), (Some(6800.0), Some(121_400.0)));
    assert_eq!(of(2), (Some(2450.0), Some((98_000.0f64 * 1.609_344).round())));
    assert_eq!(of(3), (Some(4950.0), Some(88_000.0)));
    assert_eq!(of(6), (Some(3900.0), Some(2400.0)));
    assert_eq!(all[4].missing, ["price"]);
    assert_eq!(all[5].missing, ["what it is"]);
    // A price in another currency waits for a rate.
    assert_eq!(all[3].missing, ["a rate for GBP"]);
    assert_eq!(all.iter().filter(|l| l.missing.is_empty()).count(), 4);
    let rated = Screening { rates: BTreeMap::from([("GBP".to_owned(), 1.2)]), ..s.clone() };
    let pounds = &rated.read("£4,950 estate diesel automatic, 88 000 km, first registered 03/2015\n")[0];
    assert_eq!((pounds.reading.asking.map(|m| m.get()), pounds.missing.len()), (Some(5940.0), 0));
    // The same list twice is the same list.
    let text = "petrol hatch, 2012, 98 000 km, 2 450, red\n";
    let twice = s.read(&text.repeat(2));
    assert_eq!(twice.iter().filter(|l| l.same_as.is_none()).count(), 1);
    let lower = s.read("petrol hatch, 2012, 98 000 km, 2 450, red\npetrol hatch, 2012, 98 000 km, 2 200, red\n");
    assert_eq!((lower[1].was, lower[0].same_as), (Some(2450.0), Some(2)));
}

#[test]
fn one_better_in_every_known_way_is_never_ranked_below() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    let mut lines = String::new();
    for (k, (year, km, price)) in [
        (2015, 120_000, 6000),
        (2015, 120_000, 5400),
        (2016, 110_000, 6000),
        (2014, 150_000, 6400),
        (2013, 160_000, 4400),
        (2016, 90_000, 7400),
        (2017, 80_000, 8600),
        (2012, 190_000, 3600),
    ]
    .into_iter()
    .enumerate()
    {
        let name = ["alder", "birch", "cedar", "dogwood", "elm", "fir", "gorse", "hazel"][k];
        lines += &format!("diesel van manual {name}, {year}, {km} km, {price}\n");
    }
    let all = s.read(&lines);
    let ranked = judged(&s, &all);
    assert_eq!(ranked.len(), 8);
    let at = |line: usize| ranked.iter().position(|r| r.line == line).unwrap();
    // Cheaper and else alike; younger, less run and no dearer; older, further run and dearer.
    assert!(at(2) < at(1) && at(3) < at(1) && at(1) < at(4), "{:?}", ranked.iter().map(|r| r.line).collect::<Vec<_>>());
    for r in &ranked {
        assert!(r.worth > 0.0 && r.bill_a_year > 0.0 && r.p90 > r.bill_a_year && !r.ask.is_empty());
        assert!((r.surplus - (r.worth - r.asking)).abs() < 1e-6);
    }
}

#[test]
fn bad_lists_do_not_make_it_fall_over() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    for text in [
        "",
        "\n\n",
        "1",
        "diesel van, 2099, 10 km, 1",
        "a,b,c,d\n".repeat(3000).as_str(),
        "£1,000,000 diesel van 2015 100 000 km",
    ] {
        let all = s.read(text);
        assert!(all.iter().all(|l| l.line >= 1));
    }
    // Ten times the price of the others, and a tenth of it: the market stands, both are named.
    let mut text: String =
        (0..9).map(|k| format!("diesel van n{k}x, 2015, {} km, {}\n", 90_000 + 5000 * k, 7000 - 200 * k)).collect();
    text += "diesel van slip, 2015, 100 000 km, 64000\ndiesel van cheap, 2015, 100 000 km, 900\n";
    let ranked = judged(&s, &s.read(&text));
    let note = |what: &str| ranked.iter().find(|r| r.title.contains(what)).map(|r| r.note.clone()).unwrap();
    assert!(note("cheap").starts_with("too cheap") && note("slip").starts_with("dear"));
    let going = ranked.iter().find(|r| r.title.contains("n4x")).unwrap().going;
    assert!((4500.0..8000.0).contains(&going), "{going}");
}

/// Kendall's tau: pairs in the same order less pairs in the other, of all.
fn tau(x: &[f64], y: &[f64]) -> f64 {
    let (mut same, mut other) = (0i32, 0i32);
    for i in 0..x.len() {
        for k in 0..i {
            match ((x[i] - x[k]) * (y[i] - y[k])).partial_cmp(&0.0) {
                Some(std::cmp::Ordering::Greater) => same += 1,
                Some(std::cmp::Ordering::Less) => other += 1,
                _ => {}
            }
        }
    }
    f64::from(same - other) / f64::from(same + other)
}

#[test]
fn adverts_are_ranked_as_full_judgements_would_rank_them() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    let words = ["alder", "birch", "cedar", "dogwood", "elm", "fir", "gorse", "hazel", "ivy", "juniper"];
    let kinds = ["diesel van manual", "petrol hatch automatic"];
    let lines: String = (0..40)
        .map(|k| {
            let (year, km) = (2010 + (k * 7) % 12, 40_000 + (k * 37) % 41 * 5_000);
            let price = 11_000 - (2021 - year) * 420 - km / 45 + (k * 29) % 23 * 110;
            format!("{} {}{k}, {year}, {km} km, {}\n", kinds[k as usize % 2], words[k as usize % 10], price.max(900))
        })
        .collect();
    let all = s.read(&lines);
    // The order of a list against each advert judged as a candidate is, by its whole sheets.
    let mut estimates = judged(&s, &all);
    estimates.sort_by_key(|r| r.line);
    assert_eq!(estimates.len(), 40);
    let full: Vec<[f64; 3]> = (0..40)
        .map(|k| {
            let (c, _) = s.candidate(&all, k).unwrap();
            let a = assess_within(&c, &*all[k].sheets, &table(), Depth::Lean, &Budget::default()).unwrap();
            [a.value.limit - a.value.asking, a.bill.mean / 3.0, a.bill.p90]
        })
        .collect();
    let estimates: Vec<[f64; 3]> = estimates.iter().map(|r| [r.surplus, r.bill_a_year, r.p90]).collect();
    for value in 0..3 {
        let of = |from: &[[f64; 3]]| from.iter().map(|x| x[value]).collect::<Vec<f64>>();
        let (x, y) = (of(&estimates), of(&full));
        assert!(tau(&x, &y) >= 0.97, "{value}: {}", tau(&x, &y));
    }
    // And each figure by itself.
    for ([_, a_year, p90], [_, full_a_year, full_p90]) in estimates.iter().zip(&full) {
        assert!((a_year / full_a_year - 1.0).abs() < 0.01, "{a_year} {full_a_year}");
        assert!((p90 / full_p90 - 1.0).abs() < 0.02, "{p90} {full_p90}");
    }
}

/// Adverts of one kind, all alike but for what `of` makes of their number.
fn alike(count: usize, of: impl Fn(usize) -> String) -> String {
    (0..count).map(|k| format!("diesel van manual n{}x, {}\n", letters(k), of(k))).collect()
}

/// A number as letters, so that no two adverts are one.
fn letters(k: usize) -> String {
    format!("{k:04}").bytes().map(|b| char::from(b - b'0' + b'a')).collect()
}

#[test]
fn what_an_advert_says_of_parts_is_taken_as_the_sellers_word() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    let said = ["two keys", "new clutch last year", "needs tyres", "clutch never changed", "clutch due", "new tyres"];
    let text = alike(6, |k| format!("2015, 150000 km, 5000, {}", said[k]));
    let all = s.read(&text);
    let of = |k: usize| {
        s.judge(&all, k, &table(), &Budget::default().in_cells(CELLS)).unwrap_or_else(|e| panic!("{}: {e}", said[k]))
    };
    let plain = of(0);
    assert!(plain.says.is_empty() && of(3).says.is_empty() && of(4).says.is_empty());
    assert_eq!((of(3).worth, of(4).worth), (plain.worth, plain.worth));
    assert!(of(1).says[0].contains("Clutch") && of(1).says[0].contains("new clutch last year"), "{:?}", of(1).says);
    assert!(of(1).worth > plain.worth && of(1).bill_a_year < plain.bill_a_year);
    assert!(of(5).worth > plain.worth, "{} {}", of(5).worth, plain.worth);
    assert!(of(2).worth < plain.worth - 100.0 && of(2).says[0].contains("amiss"), "{:?}", of(2));
    // A sheet's own point that a part's name stands in is meant.
    let families: Vec<Family> = crate::common::demo().swap_remove(0).1;
    let s = screening(&families);
    let own = s.read("Brannick Ferryman T22 2.2 diesel, 2017, 184 500 km, 7350, new clutch last year\n");
    let said = s.judge(&own, 0, &table(), &Budget::default().in_cells(CELLS)).unwrap();
    assert!(said.says[0].contains("flywheel and clutch"), "{:?}", said.says);
    // "Van" is no vane; a motorcycle's chain is not its cam chain.
    let odd =
        s.read("diesel van 2014, 250 000km new brakes 2025, 4000\nmotorcycle, 2016, 30 000 km, chain done, 3200\n");
    let says = |k: usize| s.judge(&odd, k, &table(), &Budget::default().in_cells(CELLS)).unwrap().says;
    assert!(says(0).len() == 1 && says(0)[0].starts_with("Pads and discs"), "{:?}", says(0));
    assert!(says(1).is_empty(), "{:?}", says(1));
    // The candidate that goes to the yard says the same.
    let (said, _) = s.candidate(&all, 1).unwrap();
    assert_eq!(said.ledger.len(), 1);
    let amiss = s.candidate(&all, 2).unwrap().0;
    assert!(amiss.findings.len() == 1 && amiss.findings[0].note.contains("needs tyres"));
}

#[test]
fn a_long_list_on_its_grid_agrees_with_each_judged_by_itself() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    let says = ["two keys", "new clutch", "clutch slipping"];
    let line = |k: usize| {
        let (year, km) = (2014 + k % 3, 90_000 + (k * 37) % 41 * 2_000);
        let built = if k.is_multiple_of(2) { format!("{year}") } else { format!("0{}/{year}", 1 + k % 9) };
        format!("{built}, {km} km, {}, {}", 12_000 - km / 30 + (k * 29) % 23 * 90, says[k % 3])
    };
    let (long, short) = (s.read(&alike(400, line)), s.read(&alike(60, line)));
    let memory = Memory::default();
    let (mut own, mut grid) = (Vec::new(), Vec::new());
    for k in (0..60).step_by(4) {
        let budget = || Budget::default().remembering(&memory).in_cells(CELLS);
        own.push(s.judge(&short, k, &table(), &budget()).unwrap());
        grid.push(s.judge(&long, k, &table(), &budget()).unwrap());
    }
    // Where the least risk tips from waiting to renewing, the mean moves by more: seldom, and by no more than 6 %.
    let off = |x: &Ranked, y: &Ranked| (x.bill_a_year / y.bill_a_year - 1.0).abs().max((x.p90 / y.p90 - 1.0).abs());
    let tipped = own.iter().zip(&grid).filter(|(x, y)| off(x, y) > 0.03).count();
    assert!(tipped <= 2, "{tipped} of {}", own.len());
    for (x, y) in own.iter().zip(&grid) {
        assert!(off(x, y) < 0.06 && (x.blow - y.blow).abs() < 0.02, "{x:?} {y:?}");
        assert_eq!(x.says, y.says);
    }
    // What the words change is the same to a fifth of it.
    let beyond = |r: &Ranked| r.worth - r.going;
    for (x, y) in own.iter().zip(&grid) {
        let (bx, by) = (beyond(x), beyond(y));
        assert!((bx - by).abs() < 60.0 + 0.2 * bx.abs(), "{bx} {by} {:?}", x.says);
    }
}

#[test]
fn where_nothing_is_known_no_change_of_plan_betters_the_risk() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    let kinds = ["diesel van manual", "petrol hatch automatic", "diesel estate"];
    let text: String = (0..12)
        .map(|k| format!("{} {}, {}, {} km, 5000\n", kinds[k % 3], letters(k), 2010 + k, 60_000 + 14_000 * k))
        .collect();
    let all = s.read(&text);
    for (k, l) in all.iter().enumerate() {
        let short = s.judge(&all, k, &table(), &Budget::default().in_cells(CELLS)).unwrap();
        let (c, _) = s.candidate(&all, k).unwrap();
        let budget = Budget::default().in_cells(CELLS);
        // Checks that nobody did tell nothing; their warnings only cut the plan where the estimate does not.
        let unchecked: Vec<Family> = l.sheets.iter().map(|f| Family { checks: Vec::new(), ..f.clone() }).collect();
        let whole = assess_within(&c, &unchecked, &table(), Depth::Lean, &budget).unwrap();
        let same = |x: f64, y: f64| (x - y).abs() <= 1e-9 * y.abs().max(1.0);
        assert!(same(short.bill_a_year * 3.0, whole.bill.mean) && same(short.p90, whole.bill.p90), "{short:?}");
        assert!(same(short.worth, whole.value.limit) && same(short.blow, whole.blow()));
    }
}

#[test]
fn a_word_that_adverts_use_of_anything_names_no_family() {
    let families: Vec<Family> = crate::common::demo().swap_remove(0).1;
    let s = screening(&families);
    let kind = |line: &str| judged(&s, &s.read(line)).remove(0).sheets.join(" and ");
    assert!(families.iter().any(|f| f.name.contains("two-litre")));
    let built = kind("petrol hatch manual, black, 2017, 104 900 km, 4450, one key\n");
    assert_eq!(kind("petrol hatch manual, black, 2017, 104 900 km, 4450, two keys\n"), built);
    assert!(kind("pilot estate 2017, 104 900 km, 4450\n").contains("two-litre"));
}

#[test]
fn a_kind_of_few_looks_at_those_that_may_be_the_same_and_near() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    let vans = |price: f64| {
        (0..6)
            .map(|k| format!("diesel van 2016; {} 000 km; {}\n", 118 + k, price + 100.0 * f64::from(k)))
            .collect::<String>()
    };
    // Whether it burns petrol or diesel is not said: what vans of its age and run go for is known all the same.
    let going = |text: &str, words: &str| {
        judged(&s, &s.read(text)).into_iter().find(|r| r.title.contains(words)).unwrap().going
    };
    let alone = "tall white van 2016, 120 000 km, 4 000\n";
    assert!((going(alone, "tall") - 4000.0).abs() < 1.0);
    let beside = going(&(vans(8000.0) + alone), "tall");
    assert!((7500.0..9000.0).contains(&beside), "{beside}");
    // Neither one of half its age nor a small car says anything of it.
    let old = "tall white van 2007, 290 000 km, 1 900\n";
    assert!((going(&(vans(8000.0) + old), "tall") - 1900.0).abs() < 1.0);
    // Two of a kind do not set each other's price; a third that has run as far does.
    let two = "diesel van minibus 2015, 160 000 km, 11 500\ndiesel van camper 2012, 225 000 km, 15 500\n";
    assert!((going(two, "minibus") - 11_500.0).abs() < 1.0 && (going(two, "camper") - 15_500.0).abs() < 1.0);
    let others = "diesel van red 2015, 150 000 km, 9 000\ndiesel van green 2015, 165 000 km, 8 600\n";
    let of_three = going(&(two.to_owned() + others), "minibus");
    assert!((8_000.0..11_000.0).contains(&of_three), "{of_three}");
    let small = "small hatch 2016, 120 000 km, 4 000\n";
    assert!((going(&(vans(8000.0) + small), "hatch") - 4000.0).abs() < 1.0);
}

#[test]
fn a_figure_without_a_unit_counts_what_most_of_the_list_counts() {
    let families = base_sheets::sheets().unwrap();
    let s = screening(&families);
    let units = |text: &str| -> Vec<UsageUnit> {
        s.read(text).iter().filter_map(|l| l.reading.usage).map(|u| u.unit).collect()
    };
    let (km, mi) = (UsageUnit::Km, UsageUnit::Miles);
    let bare = "van 2015, 96 000, £6400\n";
    assert_eq!(units(bare), [km], "the plan's, where nobody says");
    assert_eq!(
        units(&format!("van 2014 diesel, 88k miles, £5200\nvan 2016, 70,000 miles, £8100\n{bare}")),
        [mi, mi, mi]
    );
    assert_eq!(units(&format!("van 2014 diesel, 88k miles, £5200\nKombi 2016, 150tkm, 6100 €\n{bare}")), [mi, km, km]);
}
