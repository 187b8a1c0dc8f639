//! What comes in is held to its schema and comes out again; what cannot be taken is refused briefly.

use std::time::Duration;

use crate::common::{demo, empty, get, post, said, with_demo};
use actix_web::http::{Method, StatusCode};
use actix_web::{App, test, web};
use serde_json::{Value, json};
use ticksage_server::body::BodyPatience;
use ticksage_server::cleaner::Cleaner;
use ticksage_server::{Api, routes};
use utoipa::OpenApi;
use uuid::Uuid;

/// Texts that people and programs send.
fn texts() -> Vec<String> {
    vec![
        String::new(),
        "ordinary".to_owned(),
        " \u{2028} spaces \t and\nlines \r\n".to_owned(),
        "\u{1}\u{7f}\u{85}control".to_owned(),
        "\0".to_owned(),
        "\u{1F698}\u{202E}right to left".to_owned(),
        "=1+1".to_owned(),
        "x".repeat(3_000),
        "y".repeat(1_000_000),
    ]
}

/// Every route that takes a text, with the text in its place.
fn with_text(id: &str, text: &str) -> Vec<(Method, String, Value)> {
    let name = || Uuid::new_v4().to_string();
    let finding = |check: &str, note: &str, at: Option<&str>| {
        let mut f = json!({"family": "base-vehicle", "check": check, "result": {"kind": "skipped"}, "note": note});
        if let Some(at) = at {
            f["at"] = json!(at);
        }
        json!({"id": name(), "finding": f})
    };
    let entry = |note: &str, who: &str| {
        json!({"papers": [{"id": name(), "paper": {"kind": "entry", "paper": {"date": "2020-03-01",
            "usage": {"value": 60_000, "unit": "km"}, "evidence": "invoice", "note": note, "who": who}}}]})
    };
    let advisory = json!({"papers": [{"id": name(), "paper": {"kind": "advisory", "paper": {"date": "2020-03-01",
        "text": text, "state": "open"}}}]});
    let mut document = demo("candidates/2-harbour-office.json");
    document["title"] = json!(text);
    let mut noted = demo("candidates/2-harbour-office.json");
    noted["note"] = json!(text);
    noted["plate"] = json!(text);
    vec![
        (Method::POST, format!("/candidates/{id}/findings"), finding("coolant-hot", text, None)),
        (Method::POST, format!("/candidates/{id}/findings"), finding("coolant-hot", "", Some(text))),
        (Method::POST, format!("/candidates/{id}/findings"), finding(text, "", None)),
        (Method::POST, format!("/candidates/{id}/papers"), entry(text, "")),
        (Method::POST, format!("/candidates/{id}/papers"), entry("", text)),
        (Method::POST, format!("/candidates/{id}/papers"), advisory),
        (Method::POST, "/candidates".to_owned(), document),
        (Method::POST, "/candidates".to_owned(), noted),
        (Method::POST, format!("/candidates/{id}/papers/quick"), json!({"line": text})),
    ]
}

#[actix_web::test]
async fn whatever_is_stored_is_exported_and_comes_in_again() {
    let (store, id) = with_demo().await;
    let mut stored = 0;
    for text in texts() {
        for (method, path, body) in with_text(&id, &text) {
            let (status, answer) = crate::common::ask(&store, method, &path, body.to_string()).await;
            let named = format!("{path} with {} characters: {status}", text.chars().count());
            assert!(status.is_success() || status == StatusCode::UNPROCESSABLE_ENTITY, "{named} {answer}");
            if status == StatusCode::UNPROCESSABLE_ENTITY {
                assert!(answer["faults"].as_array().is_some_and(|f| !f.is_empty()), "{named} {answer}");
            }
            if status == StatusCode::CREATED {
                stored += 1;
                let id = answer["id"].as_str().or(answer["view"]["id"].as_str()).unwrap();
                let (status, bundle) = get(&store, &format!("/candidates/{id}/export")).await;
                assert_eq!(status, StatusCode::OK);
                let (status, again) = post(&store, "/candidates/import", &bundle).await;
                assert_eq!(status, StatusCode::CREATED, "{named}: it was stored, and is refused: {again}");
                let id = again["id"].as_str().unwrap();
                let (_, twice) = get(&store, &format!("/candidates/{id}/export")).await;
                assert_eq!(bundle, twice, "{named}");
            }
        }
    }
    assert!(stored > 20, "{stored} were stored");
}

#[actix_web::test]
async fn a_nul_character_is_refused_with_its_field() {
    let (store, id) = with_demo().await;
    let finding = json!({"id": Uuid::new_v4(), "finding": {"family": "base-vehicle", "check": "coolant-hot",
        "result": {"kind": "skipped"}, "note": "a\0b"}});
    let (status, answer) = post(&store, &format!("/candidates/{id}/findings"), &finding).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(answer["faults"][0]["path"], "/finding/note");
    assert!(answer["message"].as_str().unwrap().contains("NUL"));
}

#[actix_web::test]
async fn answers_to_refused_bodies_are_short() {
    let (store, id) = with_demo().await;
    let long = "z".repeat(500_000);
    let bodies = [
        json!({"id": long, "finding": {}}),
        json!({"id": Uuid::new_v4(), "finding": {"family": long, "check": long, "result": {"kind": long}}}),
        json!({long.clone(): 1}),
        json!(long),
    ];
    for body in bodies {
        let (status, _, text) =
            said(&store, Method::POST, &format!("/candidates/{id}/findings"), body.to_string()).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        let told: Value = serde_json::from_str(&text).unwrap();
        for part in told["faults"].as_array().unwrap().iter().flat_map(|f| [&f["path"], &f["message"]]) {
            assert!(part.as_str().unwrap().chars().count() <= 201, "{text}");
        }
        assert!(text.len() < 3_000, "{} bytes", text.len());
    }
    let (_, _, text) = said(&store, Method::POST, "/candidates", format!("{{\"{long}")).await;
    assert!(text.len() < 1_000);
}

#[actix_web::test]
async fn a_wrong_method_is_told_which_are_right() {
    let (store, id) = with_demo().await;
    for (method, path, allowed) in [
        (Method::DELETE, format!("/candidates/{id}"), "GET, PUT"),
        (Method::PATCH, "/candidates".to_owned(), "GET, POST"),
        (Method::POST, "/health".to_owned(), "GET"),
        (Method::PUT, format!("/candidates/{id}/papers/quick"), "POST"),
    ] {
        let (status, allow, _) = said(&store, method.clone(), &path, "").await;
        assert_eq!((status, allow.as_str()), (StatusCode::METHOD_NOT_ALLOWED, allowed), "{method} {path}");
    }
    assert_eq!(said(&store, Method::GET, "/nowhere", "").await.0, StatusCode::NOT_FOUND);
}

#[actix_web::test]
async fn an_id_that_is_taken_by_something_else_is_a_conflict() {
    let (store, id) = with_demo().await;
    let name = Uuid::new_v4();
    let finding = |note: &str| {
        json!({"id": name, "finding": {"family": "base-vehicle", "check": "coolant-hot", "result": {"kind": "skipped"},
            "note": note, "at": "2026-01-01T10:00:00Z"}})
    };
    let path = format!("/candidates/{id}/findings");
    assert_eq!(post(&store, &path, &finding("first")).await.0, StatusCode::CREATED);
    assert_eq!(post(&store, &path, &finding("first")).await.0, StatusCode::CREATED);
    let (status, answer) = post(&store, &path, &finding("second")).await;
    assert_eq!((status, &answer["code"]), (StatusCode::CONFLICT, &json!("conflict")));
    let paper = |note: &str| {
        json!({"papers": [{"id": name, "paper": {"kind": "entry", "paper": {"date": "2020-03-01",
            "usage": {"value": 60_000, "unit": "km"}, "evidence": "invoice", "note": note}}}]})
    };
    let path = format!("/candidates/{id}/papers");
    assert_eq!(post(&store, &path, &paper("first")).await.0, StatusCode::CREATED);
    assert_eq!(post(&store, &path, &paper("first")).await.0, StatusCode::CREATED);
    assert_eq!(post(&store, &path, &paper("second")).await.0, StatusCode::CONFLICT);
    let mut own = paper("third");
    own["corrects"] = json!(name);
    let (status, answer) = post(&store, &path, &own).await;
    assert_eq!((status, &answer["faults"][0]["path"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("/corrects")));
}

#[actix_web::test]
async fn what_is_imported_is_no_more_from_the_future_than_what_is_entered() {
    let (store, id) = with_demo().await;
    let (_, mut bundle) = get(&store, &format!("/candidates/{id}/export")).await;
    bundle["candidate"]["as_of"] = json!("2126-01-01");
    let (status, answer) = post(&store, "/candidates/import", &bundle).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(answer["faults"][0]["path"], "/candidate/as_of");
}

#[actix_web::test]
async fn looking_at_a_candidate_writes_nothing_and_a_change_keeps_its_glance() {
    let (store, id) = with_demo().await;
    let uuid: Uuid = id.parse().unwrap();
    let engine = ticksage_core::assess::judge::COMPUTATION;
    assert!(store.summary(uuid, engine).await.unwrap().is_some(), "kept when it was made");
    assert!(store.summary(uuid, ticksage_core::assess::judge::ENGINE).await.unwrap().is_none(), "for this code alone");
    let before = store.candidate(uuid).await.unwrap();
    store.archive_candidate(uuid, false).await.unwrap();
    assert_eq!(get(&store, &format!("/candidates/{id}")).await.0, StatusCode::OK);
    assert_eq!(store.candidate(uuid).await.unwrap(), before);
}

#[actix_web::test]
async fn a_body_that_stops_coming_ends() {
    let store = empty().await;
    let app = test::init_service(
        App::new()
            .app_data(web::Data::new(store))
            .app_data(web::Data::new(Cleaner::default()))
            .app_data(BodyPatience(Duration::from_millis(50)))
            .configure(routes),
    )
    .await;
    // A payload whose sender is held, and sends nothing.
    let (mut sender, payload) = actix_http::h1::Payload::create(false);
    sender.feed_data(web::Bytes::from_static(b"{\"title\":"));
    let request = test::TestRequest::post()
        .uri("/api/candidates")
        .insert_header(("content-type", "application/json"))
        .to_request();
    let (request, _) = request.replace_payload(actix_http::Payload::from(payload));
    let response = test::call_service(&app, request).await;
    assert_eq!(response.status(), StatusCode::REQUEST_TIMEOUT);
    drop(sender);
}

#[actix_web::test]
async fn every_answer_that_was_seen_here_is_documented() {
    let api = serde_json::to_value(Api::openapi()).unwrap();
    for (path, item) in api["paths"].as_object().unwrap() {
        for (method, operation) in item.as_object().unwrap() {
            let responses = operation["responses"].as_object().unwrap();
            for status in ["403", "500", "503"] {
                assert!(responses.contains_key(status), "{method} {path} does not tell of {status}");
            }
            if operation.get("requestBody").is_some() {
                for status in ["408", "413", "415", "422"] {
                    assert!(responses.contains_key(status), "{method} {path} does not tell of {status}");
                }
            }
        }
    }
}

#[actix_web::test]
async fn health_is_answered_while_every_core_computes() {
    let (store, id) = with_demo().await;
    let (_, bundle) = get(&store, &format!("/candidates/{id}/export")).await;
    let document = &bundle["candidate"];
    let heavy = futures_util::future::join_all((0..8).map(|_| post(&store, "/assess/sensitivity", document)));
    let health = async {
        // After the heavy ones were asked.
        actix_web::rt::task::yield_now().await;
        get(&store, "/health").await
    };
    let first = futures_util::future::select(Box::pin(heavy), Box::pin(health)).await;
    let futures_util::future::Either::Right(((status, _), heavy)) = first else { panic!("health came last") };
    assert_eq!(status, StatusCode::OK);
    assert!(heavy.await.iter().all(|(status, _)| *status == StatusCode::OK));
}
