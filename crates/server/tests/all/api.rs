//! The routes, in process, against a real PostgreSQL.

use crate::common::{ask, cluster, demo, empty, get, near, open, paths, post, with_demo};
use actix_web::http::{Method, StatusCode};
use actix_web::{App, test, web};
use serde_json::{Value, json};
use ticksage_server::body::BODY_LIMIT;
use ticksage_server::cleaner::Cleaner;
use ticksage_server::{Api, routes};
use ticksage_store::Store;
use utoipa::OpenApi;

fn set(mut v: Value, path: &str, to: Value) -> Value {
    *v.pointer_mut(path).unwrap() = to;
    v
}

#[actix_web::test]
async fn exported_and_imported_into_an_empty_database_it_is_judged_the_same_to_the_digit() {
    let (store, id) = with_demo().await;
    let (_, before) = get(&store, &format!("/candidates/{id}")).await;
    let (status, bundle) = get(&store, &format!("/candidates/{id}/export")).await;
    assert_eq!((status, bundle["format"].as_str()), (StatusCode::OK, Some("ticksage-bundle/2")));
    let other = empty().await;
    let (status, after) = post(&other, "/candidates/import", &bundle).await;
    assert_eq!(status, StatusCode::CREATED, "{after}");
    assert_eq!(before["assessment"], after["assessment"]);
    assert_eq!(before["candidate"], after["candidate"]);
    // A second import of the same file is another candidate on the same sheets.
    assert_eq!(post(&other, "/candidates/import", &bundle).await.0, StatusCode::CREATED);
    assert_eq!(get(&other, "/families").await.1.as_array().unwrap().len(), 4);
}

#[actix_web::test]
async fn a_finding_moves_the_judgement_and_taking_it_back_moves_it_back() {
    let (store, id) = with_demo().await;
    let (_, before) = get(&store, &format!("/candidates/{id}")).await;
    let name = uuid::Uuid::new_v4();
    let finding = json!({"id": name, "finding": {"family": "bk4", "check": "cold-start", "result": {"kind": "outcome", "outcome": 2}}});
    let (status, after) = post(&store, &format!("/candidates/{id}/findings"), &finding).await;
    assert_eq!(status, StatusCode::CREATED, "{after}");
    let bill = |v: &Value| v["assessment"]["bill"]["mean"].as_f64().unwrap();
    assert!(bill(&after) > bill(&before) + 50.0);
    let path = format!("/candidates/{id}/findings/{name}/undone");
    let (status, back) = ask(&store, Method::PUT, &path, json!({"undone": true}).to_string()).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(back["assessment"], before["assessment"]);
    // The yard shows what the candidate's own screen shows.
    let (_, yard) = get(&store, "/candidates").await;
    near(&yard[0]["summary"]["limit"], &back["assessment"]["value"]["limit"]);
}

#[actix_web::test]
async fn two_people_editing_one_candidate_are_told() {
    let (store, id) = with_demo().await;
    let doc = demo("candidates/2-harbour-office.json");
    let put = |version: i32, asking: u32| {
        let body = set(doc.clone(), "/asking", json!(asking)).to_string();
        let path = format!("/candidates/{id}?version={version}");
        let store = store.clone();
        async move { ask(&store, Method::PUT, &path, body).await }
    };
    assert_eq!(put(1, 8000).await.0, StatusCode::OK);
    let (status, problem) = put(1, 7000).await;
    assert_eq!(
        (status, problem["code"].as_str(), problem["current"].as_i64()),
        (StatusCode::CONFLICT, Some("conflict"), Some(2))
    );
    let (_, view) = get(&store, &format!("/candidates/{id}")).await;
    assert_eq!(view["candidate"]["asking"], json!(8000.0));
}

#[actix_web::test]
async fn nonsense_is_refused_with_the_path_to_it_and_nothing_is_stored() {
    let (store, _) = with_demo().await;
    let doc = demo("candidates/2-harbour-office.json");
    let tomorrow = "2999-01-01";
    let cases = [
        ("/usage/value", json!(-1), "/usage/value"),
        ("/usage/value", json!(3e9), "/usage/value"),
        ("/usage/unit", json!("h"), "/usage/unit"),
        ("/asking", json!(-20), "/asking"),
        ("/built", json!("2026-13-40"), "/built"),
        ("/built", json!(tomorrow), "/built"),
        ("/as_of", json!(tomorrow), "/as_of"),
        ("/families/0/id", json!("nobody"), "/families/0"),
        ("/plan/years", json!(0), "/plan/years"),
    ];
    for (at, to, path) in cases {
        for route in ["/candidates", "/assess"] {
            let (status, problem) = post(&store, route, &set(doc.clone(), at, to.clone())).await;
            assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{at} {problem}");
            assert!(paths(&problem).contains(&path), "{at}: {problem}");
        }
    }
    let mut missing = doc.clone();
    for field in ["usage", "asking", "built"] {
        missing.as_object_mut().unwrap().remove(field);
    }
    let (_, problem) = post(&store, "/candidates", &missing).await;
    for field in ["usage", "asking", "built"] {
        assert!(problem.to_string().contains(field), "{problem}");
    }
    assert_eq!(get(&store, "/candidates").await.1.as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn broken_json_and_huge_bodies_are_refused_in_a_sentence() {
    let store = empty().await;
    for route in ["/candidates", "/candidates/import", "/families", "/assess"] {
        let (status, problem) = ask(&store, Method::POST, route, "{\"format\":").await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(problem["message"].as_str().unwrap().contains("not JSON"), "{problem}");
        let (status, _) = ask(&store, Method::POST, route, vec![0xff, 0xfe, b'{']).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        let (status, problem) = ask(&store, Method::POST, route, vec![b' '; 50_000_000]).await;
        assert_eq!((status, problem["code"].as_str()), (StatusCode::PAYLOAD_TOO_LARGE, Some("too_large")));
        assert!(problem["message"].as_str().unwrap().contains(&(BODY_LIMIT / 1_000_000).to_string()));
    }
}

#[actix_web::test]
async fn unknown_names_are_not_found() {
    let (store, id) = with_demo().await;
    let nobody = uuid::Uuid::new_v4();
    for path in [
        format!("/candidates/{nobody}"),
        "/candidates/not-a-name".to_owned(),
        format!("/candidates/{nobody}/export"),
        "/families/nobody".to_owned(),
        "/families/bk4?version=99".to_owned(),
        "/nowhere".to_owned(),
    ] {
        let (status, problem) = get(&store, &path).await;
        assert_eq!((status, problem["code"].as_str()), (StatusCode::NOT_FOUND, Some("not_found")), "{path}");
    }
    let finding = |check: &str, outcome: usize| {
        let result = json!({"kind": "outcome", "outcome": outcome});
        json!({"id": uuid::Uuid::new_v4(), "finding": {"family": "bk4", "check": check, "result": result}})
    };
    let (status, problem) = post(&store, &format!("/candidates/{id}/findings"), &finding("smell", 0)).await;
    assert_eq!((status, paths(&problem)), (StatusCode::UNPROCESSABLE_ENTITY, vec!["/finding/check"]));
    let (_, problem) = post(&store, &format!("/candidates/{id}/findings"), &finding("codes", 9)).await;
    assert_eq!(paths(&problem), ["/finding/result/outcome"]);
}

#[actix_web::test]
async fn a_bad_sheet_tells_every_fault() {
    let store = empty().await;
    let mut bad = demo("families/bk4.json");
    bad["points"][0]["job"] = json!("missing");
    bad["points"][1]["share"][0]["says"] = json!({"form": "share", "share": 1.4});
    let (status, problem) = post(&store, "/families", &bad).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let mut found = paths(&problem);
    found.sort_unstable();
    assert_eq!(found, ["/points/0/job", "/points/1/share/0/says/share"]);
    assert_eq!(get(&store, "/families").await.1, json!([]));
}

#[actix_web::test]
async fn the_database_may_go_and_come_back() {
    let (mut cluster, _folder) = cluster();
    let store = open(&cluster.create_database("own").unwrap()).await;
    post(&store, "/families", &demo("families/bk4.json")).await;
    post(&store, "/families", &demo("families/ferryman.json")).await;
    for sheet in ticksage_core::formats::base_sheets::sheets().unwrap() {
        store.put_family(&sheet).await.unwrap();
    }
    let (_, view) = post(&store, "/candidates", &demo("candidates/5-repainted.json")).await;
    let path = format!("/candidates/{}", view["id"].as_str().unwrap());
    cluster.stop();
    for route in ["/health", "/candidates", &path] {
        let (status, problem) = get(&store, route).await;
        assert_eq!(
            (status, problem["code"].as_str()),
            (StatusCode::SERVICE_UNAVAILABLE, Some("unavailable")),
            "{route}"
        );
    }
    cluster.resume().unwrap();
    let (status, again) = get(&store, &path).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(again["assessment"], view["assessment"]);
}

#[actix_web::test]
async fn the_committed_openapi_document_is_the_one_served() {
    let committed: Value = serde_json::from_str(
        &std::fs::read_to_string(format!("{}/../../docs/openapi.json", env!("CARGO_MANIFEST_DIR"))).unwrap(),
    )
    .unwrap();
    assert!(committed == serde_json::to_value(Api::openapi()).unwrap(), "run `cargo run -- publish docs`");
    assert_eq!(get(&empty().await, "/openapi.json").await.1, committed);
}

#[actix_web::test]
async fn every_assumption_is_shown_with_its_reason() {
    let (_, rows) = get(&empty().await, "/assumptions").await;
    assert!(rows.as_array().unwrap().iter().all(|r| !r["reason"].as_str().unwrap().is_empty()));
}

#[actix_web::test]
async fn trying_a_question_out_stores_nothing_and_says_the_same_as_storing_it() {
    let (store, id) = with_demo().await;
    let doc = demo("candidates/2-harbour-office.json");
    let (status, tried) = post(&store, "/assess", &doc).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(tried, get(&store, &format!("/candidates/{id}")).await.1["assessment"]);
    let (_, longer) = post(&store, "/assess", &set(doc, "/plan/years", json!(6))).await;
    assert!(longer["bill"]["mean"].as_f64() > tried["bill"]["mean"].as_f64());
    assert_eq!(get(&store, "/candidates").await.1.as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn an_edit_leaves_findings_as_they_are_stored() {
    let (store, id) = with_demo().await;
    let before = get(&store, &format!("/candidates/{id}")).await.1;
    let doc = set(demo("candidates/2-harbour-office.json"), "/findings", json!([]));
    let (status, after) = ask(&store, Method::PUT, &format!("/candidates/{id}?version=1"), doc.to_string()).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(after["candidate"]["findings"], before["candidate"]["findings"]);
    assert_eq!(after["version"], json!(2));
    // Without the version it starts from, an edit is refused.
    let (status, _) = ask(&store, Method::PUT, &format!("/candidates/{id}"), doc.to_string()).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[actix_web::test]
async fn a_reading_is_banded_by_the_core_and_refused_where_nothing_is_measured() {
    let (store, id) = with_demo().await;
    let path = format!("/candidates/{id}/findings");
    let measured = |check: &str, reading: Value| {
        let mut finding = json!({"family": "bk4", "check": check, "result": {"kind": "measured"}});
        if !reading.is_null() {
            finding["reading"] = reading;
        }
        json!({"id": uuid::Uuid::new_v4(), "finding": finding})
    };
    let outcome = |view: &Value, check: &str| {
        let checks = view["checks"].as_array().unwrap();
        checks.iter().find(|c| c["check"]["id"] == check).unwrap()["outcome"].clone()
    };
    for (reading, wanted) in [(20.0, 0), (20.6, 1), (21.5, 2)] {
        let (status, view) = post(&store, &path, &measured("belt-width", json!(reading))).await;
        assert_eq!((status, outcome(&view, "belt-width")), (StatusCode::CREATED, json!(wanted)), "{reading}");
    }
    let (_, problem) = post(&store, &path, &measured("belt-width", Value::Null)).await;
    assert_eq!(paths(&problem), ["/finding/reading"]);
    let (_, problem) = post(&store, &path, &measured("codes", json!(3))).await;
    assert_eq!(paths(&problem), ["/finding/result"]);
}

#[actix_web::test]
async fn two_people_finding_at_once_both_count() {
    let (store, id) = with_demo().await;
    let path = format!("/candidates/{id}/findings");
    let done = |view: &Value| view["assessment"]["checks_done"].as_u64().unwrap();
    let before = done(&get(&store, &format!("/candidates/{id}")).await.1);
    let finding = |check: &str, outcome: usize| {
        let result = json!({"kind": "outcome", "outcome": outcome});
        json!({"id": uuid::Uuid::new_v4(), "finding": {"family": "bk4", "check": check, "result": result}})
    };
    let (one, other) = (finding("borescope", 1), finding("belt-invoice", 0));
    let (x, y) = tokio::join!(post(&store, &path, &one), post(&store, &path, &other));
    assert_eq!((x.0, y.0), (StatusCode::CREATED, StatusCode::CREATED));
    let after = get(&store, &format!("/candidates/{id}")).await.1;
    assert_eq!(done(&after), before + 2);
    // The yard's glance is not the one of the finding that came first.
    let yard = get(&store, "/candidates").await.1;
    assert_eq!(yard[0]["summary"]["checks_done"], json!(before + 2));
}

#[actix_web::test]
async fn put_away_it_leaves_the_yard_and_keeps_its_address() {
    let (store, id) = with_demo().await;
    let path = format!("/candidates/{id}/archived");
    for (archived, left) in [(true, 0), (false, 1)] {
        let (status, said) = ask(&store, Method::PUT, &path, json!({"archived": archived}).to_string()).await;
        assert_eq!((status, &said["archived"]), (StatusCode::OK, &json!(archived)));
        assert_eq!(get(&store, "/candidates").await.1.as_array().unwrap().len(), left);
        assert_eq!(get(&store, &format!("/candidates/{id}")).await.1["archived"], json!(archived));
    }
    let (status, _) = ask(&store, Method::PUT, &path, "{\"put\": \"away\"}").await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[actix_web::test]
async fn a_new_sheet_leaves_stored_candidates_on_theirs() {
    let (store, id) = with_demo().await;
    let before = get(&store, &format!("/candidates/{id}")).await.1;
    let version = demo("families/bk4.json")["version"].as_u64().unwrap();
    let mut next = set(demo("families/bk4.json"), "/version", json!(version + 1));
    next["points"][0]["life"] = json!([{"source": "workshop", "says": {"form": "about", "at": 900_000}}]);
    assert_eq!(post(&store, "/families", &next).await.0, StatusCode::CREATED);
    assert_eq!(get(&store, &format!("/candidates/{id}")).await.1["assessment"], before["assessment"]);
    assert_eq!(get(&store, "/families/bk4").await.1["version"], json!(version + 1));
    let path = format!("/families/bk4?version={version}");
    assert_eq!(get(&store, &path).await.1, demo_family_as_served());
}

/// The first sheet as the server writes it: every default spelled out.
fn demo_family_as_served() -> Value {
    let family = ticksage_core::formats::documents::read_family(&demo("families/bk4.json").to_string()).unwrap();
    serde_json::to_value(family).unwrap()
}

#[actix_web::test]
async fn a_bundle_that_contradicts_a_stored_sheet_is_refused_whole() {
    let (store, id) = with_demo().await;
    let mut bundle = get(&store, &format!("/candidates/{id}/export")).await.1;
    bundle["families"][0]["name"] = json!("Another name");
    let (status, problem) = post(&store, "/candidates/import", &bundle).await;
    assert_eq!((status, problem["code"].as_str()), (StatusCode::CONFLICT, Some("conflict")));
    assert!(problem["message"].as_str().unwrap().contains("raise the version"));
    assert_eq!(get(&store, "/candidates").await.1.as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn why_is_answered_for_the_document_as_it_stands() {
    let (store, id) = with_demo().await;
    let (_, view) = get(&store, &format!("/candidates/{id}")).await;
    let document = &view["candidate"];
    let chance = |a: &Value, point: &str| {
        let points = a["points"].as_array().unwrap();
        points.iter().find(|p| p["at"]["point"] == point).unwrap()["p_plan"].as_f64().unwrap()
    };

    let (status, detail) = post(&store, "/assess/points/bk4/wet-belt", document).await;
    assert_eq!(status, StatusCode::OK, "{detail}");
    assert_eq!(detail["clocks"].as_array().unwrap().len(), 2, "claims by usage and by age");
    let end = view["assessment"]["usage_now"].as_f64().unwrap() + view["assessment"]["horizon"].as_f64().unwrap();
    let ahead = detail["ahead"].as_array().unwrap();
    let by_end = ahead.iter().find(|a| a["usage"].as_f64().unwrap() >= end - 1e-6).unwrap();
    assert!((by_end["chance"].as_f64().unwrap() - chance(&view["assessment"], "wet-belt")).abs() < 1e-6);

    let (status, moved) = post(&store, "/assess/moves", document).await;
    assert_eq!(status, StatusCode::OK);
    let done = view["assessment"]["checks_done"].as_u64().unwrap();
    assert_eq!(moved.as_array().unwrap().len() as u64, done, "one for each finding that holds");

    let (status, inputs) = post(&store, "/assess/sensitivity", document).await;
    assert_eq!((status, inputs.as_array().unwrap().len()), (StatusCode::OK, 5));

    // A document tried out is judged as it is sent; what is stored stays.
    let tried = set(document.clone(), "/buyer", json!({"sources": {"owners": 1}}));
    let (_, other) = post(&store, "/assess/points/bk4/wet-belt", &tried).await;
    assert_ne!(other["by_care"], detail["by_care"]);
    assert_eq!(get(&store, &format!("/candidates/{id}")).await.1["candidate"], *document);
}

#[actix_web::test]
async fn questions_that_make_no_sense_are_refused() {
    let (store, id) = with_demo().await;
    let (_, view) = get(&store, &format!("/candidates/{id}")).await;
    let document = &view["candidate"];
    for path in ["/assess/points/bk4/nothing", "/assess/points/nobody/wet-belt"] {
        let (status, problem) = post(&store, path, document).await;
        assert_eq!((status, &problem["code"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("faulty")), "{path}");
    }
    let nonsense = set(document.clone(), "/buyer", json!({"sources": {"hearsay": 1}}));
    for path in ["/assess", "/assess/moves", "/assess/sensitivity", "/assess/points/bk4/wet-belt"] {
        let (status, problem) = post(&store, path, &nonsense).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
        assert_eq!(problem["faults"][0]["path"], json!("/buyer/sources/hearsay"), "{path}");
        let (status, _) = ask(&store, Method::POST, path, "{").await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{path}");
    }
}

/// A document of the demo that makes no sense, stored past every check as an earlier program could store it.
async fn store_broken(store: &Store, path: &str, to: Value) -> String {
    let broken = set(set(demo("candidates/2-harbour-office.json"), "/title", json!("Broken")), path, to);
    store.create_candidate(&serde_json::from_value(broken).unwrap()).await.unwrap().to_string()
}

#[actix_web::test]
async fn one_broken_candidate_leaves_the_yard_standing_is_shown_with_its_faults_and_can_be_put_away() {
    let (store, id) = with_demo().await;
    let broken = store_broken(&store, "/built", json!("2031-01-01")).await;
    let (status, yard) = get(&store, "/candidates").await;
    assert_eq!(status, StatusCode::OK, "{yard}");
    let entry = |id: &str| yard.as_array().unwrap().iter().find(|e| e["id"] == id).unwrap().clone();
    assert!(entry(&id)["summary"].is_object() && entry(&id)["faults"] == json!([]));
    assert_eq!((&entry(&broken)["title"], &entry(&broken)["summary"]), (&json!("Broken"), &Value::Null));
    assert!(!entry(&broken)["faults"].as_array().unwrap().is_empty());
    assert_eq!(get(&store, &format!("/candidates/{broken}")).await.0, StatusCode::UNPROCESSABLE_ENTITY);
    let (status, document) = get(&store, &format!("/candidates/{broken}/document")).await;
    assert_eq!((status, &document["candidate"]["title"]), (StatusCode::OK, &json!("Broken")));
    assert!(paths(&document).iter().any(|p| p.starts_with("/built") || p.starts_with("/as_of")), "{document}");
    let away = json!({"archived": true}).to_string();
    assert_eq!(ask(&store, Method::PUT, &format!("/candidates/{broken}/archived"), away).await.0, StatusCode::OK);
    assert_eq!(get(&store, "/candidates").await.1.as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn a_paper_that_breaks_a_document_can_be_taken_back() {
    let (store, _) = with_demo().await;
    let broken = store_broken(&store, "/readings/0/date", json!("2031-01-01")).await;
    let (_, document) = get(&store, &format!("/candidates/{broken}/document")).await;
    assert!(paths(&document).iter().all(|p| p.starts_with("/readings/0")), "{document}");
    let undo = json!({"papers": [document["paper_ids"]["readings"][0]], "undone": true}).to_string();
    let (status, answer) = ask(&store, Method::PUT, &format!("/candidates/{broken}/papers/undone"), undo).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    assert_eq!(get(&store, &format!("/candidates/{broken}")).await.0, StatusCode::OK);
}

#[actix_web::test]
async fn a_paper_is_not_put_back_into_a_document_that_it_no_longer_fits() {
    let (store, id) = with_demo().await;
    let (paper, at) = (uuid::Uuid::new_v4(), format!("/candidates/{id}"));
    let early = json!({"papers": [{"id": paper, "paper": {"kind": "reading", "paper":
        {"date": "2016-05-25", "usage": {"value": 40, "unit": "km"}, "source": "handover"}}}]});
    let (status, answer) = post(&store, &format!("{at}/papers"), &early).await;
    assert_eq!(status, StatusCode::CREATED, "{answer}");
    let undo = |undone: bool| json!({"papers": [paper], "undone": undone}).to_string();
    assert_eq!(ask(&store, Method::PUT, &format!("{at}/papers/undone"), undo(true)).await.0, StatusCode::OK);
    let (_, view) = get(&store, &at).await;
    let later = set(view["candidate"].clone(), "/built", json!("2016-06-01")).to_string();
    let edited = ask(&store, Method::PUT, &format!("{at}?version={}", view["version"]), later).await;
    assert_eq!(edited.0, StatusCode::OK, "{}", edited.1);
    let (status, refused) = ask(&store, Method::PUT, &format!("{at}/papers/undone"), undo(false)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{refused}");
    assert!(paths(&refused).iter().all(|p| p.starts_with("/readings/")), "{refused}");
    let (status, now) = get(&store, &at).await;
    assert_eq!((status, &now["candidate"]["readings"]), (StatusCode::OK, &view["candidate"]["readings"]));
}

#[actix_web::test]
async fn answers_are_for_no_cache_and_no_other_site() {
    let (store, _) = with_demo().await;
    let app = test::init_service(
        App::new().app_data(web::Data::new(store)).app_data(web::Data::new(Cleaner::default())).configure(routes),
    )
    .await;
    let response = test::call_service(&app, test::TestRequest::with_uri("/api/candidates").to_request()).await;
    let header = |name: &str| response.headers().get(name).map(|v| v.to_str().unwrap().to_owned());
    assert_eq!(header("cache-control").as_deref(), Some("no-store"));
    assert_eq!(header("cross-origin-resource-policy").as_deref(), Some("same-origin"));
}

#[actix_web::test]
async fn a_text_that_cannot_be_stored_is_refused_and_not_our_fault() {
    let (store, id) = with_demo().await;
    let finding = json!({"id": uuid::Uuid::new_v4(), "finding": {"family": "bk4", "check": "cold-start",
        "result": {"kind": "outcome", "outcome": 1}, "note": "before \u{0} after"}});
    let (status, answer) = post(&store, &format!("/candidates/{id}/findings"), &finding).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{answer}");
    assert!(answer["message"].as_str().unwrap().contains("NUL"), "{answer}");
}

#[actix_web::test]
async fn a_look_that_finds_nothing_new_is_answered_by_its_mark_alone() {
    let (store, id) = with_demo().await;
    let app = test::init_service(
        App::new()
            .app_data(web::Data::new(store.clone()))
            .app_data(web::Data::new(Cleaner::default()))
            .configure(routes),
    )
    .await;
    let path = format!("/api/candidates/{id}");
    let look = async |tag: &str| {
        let request = test::TestRequest::with_uri(&path).insert_header(("if-none-match", tag)).to_request();
        let response = test::call_service(&app, request).await;
        let tag = response.headers().get("etag").unwrap().to_str().unwrap().to_owned();
        (response.status(), tag, test::read_body(response).await.len())
    };
    let (status, tag, bytes) = look("\"another\"").await;
    assert!(status == StatusCode::OK && bytes > 1000);
    assert_eq!(look(&tag).await, (StatusCode::NOT_MODIFIED, tag.clone(), 0));
    // Whatever its view shows makes it new: a finding, and what stands in the yard beside it.
    let finding = json!({"id": uuid::Uuid::new_v4(), "finding": {"family": "bk4", "check": "cold-start",
        "result": {"kind": "outcome", "outcome": 1}}});
    assert_eq!(post(&store, &format!("/candidates/{id}/findings"), &finding).await.0, StatusCode::CREATED);
    let (status, found, _) = look(&tag).await;
    assert!(status == StatusCode::OK && found != tag);
    post(&store, "/candidates", &demo("candidates/5-repainted.json")).await;
    assert_eq!(look(&found).await.0, StatusCode::OK);
}

#[actix_web::test]
async fn a_lean_trial_says_the_same_and_less() {
    let (store, id) = with_demo().await;
    let (_, view) = get(&store, &format!("/candidates/{id}")).await;
    let (_, lean) = post(&store, "/assess?lean=true", &view["candidate"]).await;
    let whole = &view["assessment"];
    assert_eq!((&lean["value"], &lean["bill"], &lean["verdict"]), (&whole["value"], &whole["bill"], &whole["verdict"]));
    let sources = |a: &Value| a["points"].as_array().unwrap().iter().all(|p| p["sources"] == json!([]));
    assert!(sources(&lean) && !sources(whole));
}

#[actix_web::test]
async fn a_quote_is_told_to_others_of_its_family_and_currency() {
    let (store, id) = with_demo().await;
    let (_, view) = get(&store, &format!("/candidates/{id}")).await;
    let p = view["assessment"]["points"].as_array().unwrap().iter().find(|p| p["at"]["family"] == "ferryman").unwrap();
    let mut changed = view["candidate"].clone();
    let date = changed["as_of"].clone();
    changed["quotes"] =
        json!([{"family": "ferryman", "job": p["job_id"], "amount": 420.5, "date": date, "by": "Slip"}]);
    let edit = format!("/candidates/{id}?version={}", view["version"]);
    let (status, _) = ask(&store, Method::PUT, &edit, changed.to_string()).await;
    assert_eq!(status, StatusCode::OK);
    let of = |currency: &str| {
        format!("/families/ferryman/jobs/{}/quotes?currency={currency}", p["job_id"].as_str().unwrap())
    };
    let (_, told) = get(&store, &of("HSC")).await;
    assert_eq!((&told[0]["candidate"], &told[0]["quote"]["amount"]), (&json!(id), &json!(420.5)));
    assert_eq!(get(&store, &of("EUR")).await.1, json!([]));
    assert_eq!(get(&store, "/families/ferryman/jobs/none/quotes?currency=HSC").await.1, json!([]));
}
