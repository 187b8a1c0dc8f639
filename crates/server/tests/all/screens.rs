//! Answers for a screen: what they hold, that they agree with the whole, and how small they are.

use std::collections::BTreeMap;
use std::io::Write;

use crate::common::{ask, get, near, post, with_demo};
use actix_web::http::{Method, StatusCode};
use flate2::Compression;
use flate2::write::GzEncoder;
use serde_json::{Value, json};

/// What an answer for the road may weigh, as it is and packed.
const ROAD_BYTES: usize = 60_000;
const ROAD_PACKED: usize = 15_000;

fn list<'a>(v: &'a Value, path: &str) -> &'a Vec<Value> {
    v.pointer(path).and_then(Value::as_array).unwrap_or_else(|| panic!("{path}"))
}

/// Bins of a strip in letters, in ten-thousandths.
fn bins(point: &Value) -> Vec<f64> {
    const LETTERS: &str = "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567";
    let top = point["top"].as_f64().unwrap();
    let letters = point["strip"].as_str().unwrap().chars().filter(|c| *c != ' ');
    letters.map(|c| LETTERS.find(c).unwrap() as f64 / 31.0 * top).collect()
}

#[actix_web::test]
async fn the_road_is_the_whole_in_lines() {
    let (store, id) = with_demo().await;
    let (_, whole) = get(&store, &format!("/candidates/{id}")).await;
    let (status, road) = get(&store, &format!("/candidates/{id}?part=road")).await;
    assert_eq!(status, StatusCode::OK, "{road}");
    for gone in ["/checks", "/finding_ids", "/walk_round"] {
        assert!(road.pointer(gone).is_none(), "{gone}");
    }
    for empty in ["/assessment/points", "/assessment/walk/actions"] {
        assert!(list(&road, empty).is_empty(), "{empty}");
    }
    // A whole answer holds every list, be it empty.
    assert!(whole["finding_ids"].is_array() && whole["checks"].is_array());
    for same in ["candidate", "version", "paper_ids", "state"] {
        assert_eq!(road[same], whole[same], "{same}");
    }
    for same in ["bill", "value", "verdict", "due", "offer", "care", "years"] {
        assert_eq!(road["assessment"][same], whole["assessment"][same], "{same}");
    }
    let (lines, points) = (list(&road, "/road/points"), list(&whole, "/assessment/points"));
    assert_eq!(lines.len(), points.len());
    for (line, point) in lines.iter().zip(points) {
        for same in ["at", "name", "system", "shows", "ends_engine", "grade", "expected_cost", "p_now", "p_plan"] {
            assert_eq!(line[same], point[same], "{same}");
        }
        // Rounded once, where it is shown: rounded twice it would be another figure.
        assert_eq!(line["cost"], point["cost"]["mean"]);
        let looked = if list(point, "/seen").is_empty() {
            if list(point, "/unseen").is_empty() { "no_check" } else { "not" }
        } else {
            "yes"
        };
        assert_eq!(line["seen"], looked);
        // A letter is the nearest of 32, and bins come in whole ten-thousandths.
        let told = bins(line);
        let drawn = ["/trouble/past", "/trouble/plan", "/trouble/beyond"].map(|p| list(point, p)).into_iter().flatten();
        let room = 0.6 + line["top"].as_f64().unwrap() / 31.0;
        assert!(drawn.zip(&told).all(|(a, b)| (a.as_f64().unwrap() - b).abs() <= room), "{line} {point}");
    }
    // Those that speak of any point, each once.
    let spoken = points.iter().flat_map(|p| list(p, "/sources"));
    let names: BTreeMap<&str, &str> =
        spoken.map(|s| (s["source"].as_str().unwrap(), s["name"].as_str().unwrap())).collect();
    let told: BTreeMap<&str, &str> =
        list(&road, "/road/sources").iter().map(|s| (s["id"].as_str().unwrap(), s["name"].as_str().unwrap())).collect();
    assert_eq!((told, names.is_empty()), (names, false));
}

#[actix_web::test]
async fn what_the_verdict_says_of_checks_can_be_looked_up_on_the_road() {
    let (store, id) = with_demo().await;
    let (_, road) = get(&store, &format!("/candidates/{id}?part=road")).await;
    let (_, walk) = get(&store, &format!("/candidates/{id}/walk-round")).await;
    let a = &road["assessment"];
    let named = list(a, "/verdict/needed").iter().chain(list(a, "/verdict/would_change"));
    let named = named.filter_map(|x| x["open_check"].as_u64()).chain(a["walk"]["next"].as_u64());
    let whole = list(&walk, "/walk_round/open_checks");
    let mut any = false;
    for i in named.map(|i| usize::try_from(i).unwrap()) {
        assert_eq!(a["open_checks"][i]["name"], whole[i]["name"]);
        any = true;
    }
    assert!(any && list(a, "/open_checks").len() <= whole.len());
}

#[actix_web::test]
async fn the_parts_of_a_state_belong_together() {
    let (store, id) = with_demo().await;
    let whole = get(&store, &format!("/candidates/{id}")).await.1;
    let walk = get(&store, &format!("/candidates/{id}/walk-round")).await.1;
    let points = get(&store, &format!("/candidates/{id}/points")).await.1;
    assert_eq!((&walk["checks"], &walk["finding_ids"]), (&whole["checks"], &whole["finding_ids"]));
    assert_eq!(walk["walk_round"]["walk"], whole["assessment"]["walk"]);
    assert_eq!(walk["walk_round"]["open_checks"], whole["assessment"]["open_checks"]);
    assert_eq!(points["points"], whole["assessment"]["points"]);
    assert!(walk["state"] == whole["state"] && points["state"] == whole["state"]);
    // A finding is answered for its screen, and makes another state.
    let check = whole["checks"].as_array().unwrap().iter().find(|c| c["check"]["measure"].is_null()).unwrap();
    let finding = json!({"id": "00000000-0000-4000-8000-0000000000aa", "finding": {"family": check["family"],
        "check": check["check"]["id"], "result": {"kind": "outcome", "outcome": 1}}});
    let (status, told) = post(&store, &format!("/candidates/{id}/findings?part=walk"), &finding).await;
    assert_eq!(status, StatusCode::CREATED, "{told}");
    assert_ne!(told["state"], whole["state"]);
    let after = get(&store, &format!("/candidates/{id}/walk-round")).await.1;
    for same in ["state", "checks", "finding_ids", "walk_round"] {
        assert_eq!(told[same], after[same], "{same}");
    }
    assert_eq!(told["road"], get(&store, &format!("/candidates/{id}?part=road")).await.1["road"]);
}

#[actix_web::test]
async fn what_is_tried_out_is_answered_in_the_same_parts() {
    let (store, id) = with_demo().await;
    let whole = get(&store, &format!("/candidates/{id}")).await.1;
    let stored = get(&store, &format!("/candidates/{id}?part=road")).await.1;
    let (_, road) = post(&store, "/assess/road", &whole["candidate"]).await;
    assert_eq!((&road["assessment"], &road["road"]), (&stored["assessment"], &stored["road"]));
    let (_, walk) = post(&store, "/assess/walk-round", &whole["candidate"]).await;
    assert_eq!(walk, get(&store, &format!("/candidates/{id}/walk-round")).await.1["walk_round"]);
    let (_, points) = post(&store, "/assess/points", &whole["candidate"]).await;
    assert_eq!(points["points"], whole["assessment"]["points"]);
    // Another price is another answer, and money stays the same on each.
    let mut dearer = whole["candidate"].clone();
    dearer["asking"] = json!(dearer["asking"].as_f64().unwrap() + 500.0);
    let (_, lean) = post(&store, "/assess/road?lean=true", &dearer).await;
    near(&lean["assessment"]["bill"]["mean"], &whole["assessment"]["bill"]["mean"]);
    assert_ne!(lean["assessment"]["value"], whole["assessment"]["value"]);
    for (line, before) in list(&lean, "/road/points").iter().zip(list(&stored, "/road/points")) {
        assert_eq!((&line["at"], &line["p_plan"]), (&before["at"], &before["p_plan"]));
    }
}

#[actix_web::test]
async fn an_unknown_part_is_refused_by_name() {
    let (store, id) = with_demo().await;
    let (status, problem) = get(&store, &format!("/candidates/{id}?part=half")).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    let said = problem["message"].as_str().unwrap();
    assert!(said.contains("part") && said.contains("half") && said.contains("walk"), "{said}");
}

#[actix_web::test]
async fn an_answer_for_the_road_stays_small() {
    let (store, id) = with_demo().await;
    let path = format!("/candidates/{id}?part=road");
    let (_, _, text) = crate::common::said(&store, Method::GET, &path, "").await;
    let mut packing = GzEncoder::new(Vec::new(), Compression::default());
    packing.write_all(text.as_bytes()).unwrap();
    let packed = packing.finish().unwrap().len();
    assert!(text.len() < ROAD_BYTES && packed < ROAD_PACKED, "{} bytes, {packed} packed", text.len());
    let whole = ask(&store, Method::GET, &format!("/candidates/{id}"), "").await.1.to_string();
    assert!(text.len() * 3 < whole.len());
}
