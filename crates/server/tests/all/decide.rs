//! Comparables, side by side, what leaves as files and comes in again, against a real PostgreSQL.

use std::io::{Cursor, Read, Write};

use actix_web::http::{Method, StatusCode};
use actix_web::{App, test, web};
use serde_json::{Value, json};
use ticksage_server::cleaner::Cleaner;
use ticksage_server::routes;
use ticksage_store::Store;
use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};

struct Yard {
    store: Store,
    ids: Vec<String>,
}

fn demo(folder: &str) -> Vec<Value> {
    let dir = format!("{}/../../demo/{folder}", env!("CARGO_MANIFEST_DIR"));
    let mut files: Vec<_> = std::fs::read_dir(dir).unwrap().map(|e| e.unwrap().path()).collect();
    files.sort();
    files.iter().map(|f| serde_json::from_str(&std::fs::read_to_string(f).unwrap()).unwrap()).collect()
}

async fn yard() -> Yard {
    let store = crate::common::empty().await;
    for sheet in ticksage_core::formats::base_sheets::sheets().unwrap() {
        store.put_family(&sheet).await.unwrap();
    }
    let mut ids = Vec::new();
    for family in demo("families") {
        let (status, ..) = ask(&store, Method::POST, "/families", family.to_string()).await;
        assert_eq!(status, StatusCode::CREATED);
    }
    for candidate in demo("candidates") {
        let (status, body, _) = ask(&store, Method::POST, "/candidates", candidate.to_string()).await;
        assert_eq!(status, StatusCode::CREATED);
        ids.push(json_of(&body)["id"].as_str().unwrap().to_owned());
    }
    Yard { store, ids }
}

/// Asks the application; the status, the body and its media type.
async fn ask(store: &Store, method: Method, path: &str, body: impl Into<Vec<u8>>) -> (StatusCode, Vec<u8>, String) {
    let app = test::init_service(
        App::new()
            .app_data(web::Data::new(store.clone()))
            .app_data(web::Data::new(Cleaner::default()))
            .configure(routes),
    )
    .await;
    let request = test::TestRequest::with_uri(&format!("/api{path}"))
        .method(method)
        .insert_header(("content-type", "application/json"))
        .set_payload(body.into())
        .to_request();
    let response = test::call_service(&app, request).await;
    let (status, media) = (response.status(), response.headers().get("content-type").cloned());
    let media = media.map_or_else(String::new, |m| m.to_str().unwrap().to_owned());
    (status, test::read_body(response).await.to_vec(), media)
}

fn json_of(bytes: &[u8]) -> Value {
    serde_json::from_slice(bytes).unwrap_or(Value::Null)
}

impl Yard {
    async fn get(&self, path: &str) -> (StatusCode, Vec<u8>, String) {
        ask(&self.store, Method::GET, path, "").await
    }

    async fn view(&self, i: usize) -> Value {
        json_of(&self.get(&format!("/candidates/{}", self.ids[i])).await.1)
    }
}

#[actix_web::test]
async fn one_set_of_comparables_serves_several_or_none() {
    let y = yard().await;
    let list = json!([{"price": 5000.0, "usage": {"value": 90_000.0, "unit": "km"}, "example": "typical"},
        {"price": 5500.0, "usage": {"value": 80_000.0, "unit": "km"}, "example": "typical"}]);
    let put = async |i: usize, version: i64, body: &Value| {
        let path = format!("/candidates/{}/comparables?version={version}", y.ids[i]);
        let (status, body, _) = ask(&y.store, Method::PUT, &path, body.to_string()).await;
        (status, json_of(&body))
    };
    let given = json!({"comparables": list, "serves": [y.ids[2], y.ids[3]]});
    let (status, view) = put(1, 1, &given).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    let mut shares: Vec<&str> =
        view["shares_comparables"].as_array().unwrap().iter().map(|x| x.as_str().unwrap()).collect();
    shares.sort_unstable();
    let mut expected = vec![y.ids[2].as_str(), y.ids[3].as_str()];
    expected.sort_unstable();
    assert_eq!(shares, expected);
    for i in [1, 2, 3] {
        let v = y.view(i).await;
        assert_eq!(v["candidate"]["comparables"], list);
        assert_eq!(v["version"], 2);
        assert_eq!(v["assessment"]["value"]["reference"]["basis"], "median");
    }
    // From an old version it is a conflict, and nobody is given anything.
    let other = json!({"comparables": [], "serves": [y.ids[2]]});
    let (status, problem) = put(1, 1, &other).await;
    assert_eq!(status, StatusCode::CONFLICT, "{problem}");
    assert_eq!(y.view(2).await["candidate"]["comparables"], list);
    // An engine counted in hours cannot be served by kilometres: none is.
    let (status, problem) = put(1, 2, &json!({"comparables": list, "serves": [y.ids[6]]})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    assert!(problem["faults"][0]["message"].as_str().unwrap().contains("Kittiwake"), "{problem}");
    let zero = json!({"comparables": [{"price": 0, "usage": {"value": 1, "unit": "km"}}]});
    let (status, problem) = put(1, 2, &zero).await;
    assert_eq!(
        (status, problem["faults"][0]["path"].as_str().unwrap()),
        (StatusCode::UNPROCESSABLE_ENTITY, "/comparables/0/price")
    );
    let table = format!("/candidates/{}/comparables/table", y.ids[1]);
    let (_, read, _) = ask(&y.store, Method::POST, &table, "price,km\n7000,60000\nnone,1\n").await;
    assert_eq!(json_of(&read)["faults"][0]["line"], 3);
}

#[actix_web::test]
async fn a_currency_is_not_changed_under_amounts_that_were_entered() {
    let y = yard().await;
    // A candidate of the base sheet alone: nothing but its amounts holds it to a currency.
    let mut c = demo("candidates")[1].clone();
    c["families"] = json!([{"id": "base-vehicle", "version": 1}]);
    for list in ["findings", "ledger", "comparables", "campaigns", "scans"] {
        c[list] = json!([]);
    }
    c["facts"] = json!({});
    c["serials"] = json!({});
    let (status, body, _) = ask(&y.store, Method::POST, "/candidates", c.to_string()).await;
    let view = json_of(&body);
    assert_eq!(status, StatusCode::CREATED, "{view}");
    let path = |version: i64| format!("/candidates/{}?version={version}", view["id"].as_str().unwrap());
    let with = |currency: &str, list: Value| {
        let mut c = view["candidate"].clone();
        c["currency"] = json!(currency);
        c["comparables"] = list;
        c.to_string()
    };
    let one = json!([{"price": 5000, "usage": {"value": 90_000, "unit": "km"}}]);
    let (status, body, _) = ask(&y.store, Method::PUT, &path(1), with("EUR", one.clone())).await;
    let problem = json_of(&body);
    assert_eq!((status, problem["faults"][0]["path"].as_str()), (StatusCode::UNPROCESSABLE_ENTITY, Some("/currency")));
    assert_eq!(ask(&y.store, Method::PUT, &path(1), with("EUR", json!([]))).await.0, StatusCode::OK);
    assert_eq!(ask(&y.store, Method::PUT, &path(2), with("EUR", one)).await.0, StatusCode::OK);
}

#[actix_web::test]
async fn two_to_four_are_laid_side_by_side() {
    let y = yard().await;
    let ids = &y.ids;
    let (status, told, _) = y.get(&format!("/compare?ids={},{},{},{}", ids[0], ids[1], ids[6], ids[5])).await;
    assert_eq!(status, StatusCode::OK);
    let told = json_of(&told);
    let sides = told["comparison"]["sides"].as_array().unwrap();
    assert_eq!((sides.len(), sides[2]["unlike"]["kind"].as_str().unwrap()), (4, "bare_against_whole"));
    assert_eq!(told["titles"][1], "Harbour office Ferryman");
    for (query, status) in [
        (ids[0].clone(), StatusCode::UNPROCESSABLE_ENTITY),
        (format!("{0},{0}", ids[0]), StatusCode::UNPROCESSABLE_ENTITY),
        (ids[..5].join(","), StatusCode::UNPROCESSABLE_ENTITY),
        ("one,two".to_owned(), StatusCode::UNPROCESSABLE_ENTITY),
        (format!("{},{}", ids[0], uuid::Uuid::new_v4()), StatusCode::NOT_FOUND),
    ] {
        assert_eq!(y.get(&format!("/compare?ids={query}")).await.0, status, "{query}");
    }
}

#[actix_web::test]
async fn the_calendar_is_read_by_a_general_parser() {
    let y = yard().await;
    let plan = json_of(&y.get(&format!("/candidates/{}/calendar", y.ids[1])).await.1);
    let entries = plan["entries"].as_array().unwrap();
    let (status, text, media) = y.get(&format!("/candidates/{}/calendar.ics", y.ids[1])).await;
    assert_eq!((status, media.as_str()), (StatusCode::OK, "text/calendar; charset=utf-8"));
    // Lines end as RFC 5545 says and none is longer than 75 octets.
    let lines = String::from_utf8(text.clone()).unwrap();
    assert!(lines.split("\r\n").all(|l| l.len() <= 75 && !l.contains('\n')), "{lines}");
    let calendars: Vec<_> = ical::IcalParser::new(Cursor::new(text)).collect::<Result<_, _>>().unwrap();
    assert_eq!(calendars.len(), 1);
    let events = &calendars[0].events;
    let reminders = plan["reminders"].as_array().unwrap();
    assert!(!reminders.is_empty(), "the demo's sheets have rules that come round again");
    assert_eq!(events.len(), entries.len() + reminders.len());
    let care = events.iter().filter(|e| {
        e.properties.iter().any(|p| p.name == "SUMMARY" && p.value.as_deref().is_some_and(|v| v.starts_with("Care: ")))
    });
    assert_eq!(care.count(), reminders.len());
    let mut uids = std::collections::HashSet::new();
    for (event, entry) in events.iter().zip(entries) {
        let of = |name: &str| {
            let mut all = event.properties.iter().filter(|p| p.name == name);
            let value = all.next().unwrap_or_else(|| panic!("no {name}")).value.clone().unwrap();
            assert!(all.next().is_none(), "{name} stands twice");
            value
        };
        assert_eq!(of("DTSTART"), entry["date"].as_str().unwrap().replace('-', ""));
        assert!(of("SUMMARY").ends_with(&entry["name"].as_str().unwrap().replace(',', "\\,")));
        assert!(of("DTSTAMP").ends_with('Z') && of("DESCRIPTION").contains("estimate"));
        assert!(uids.insert(of("UID")));
    }
}

#[actix_web::test]
async fn an_event_keeps_its_name_when_the_plan_changes() {
    let y = yard().await;
    let id = &y.ids[1];
    let names = async || {
        let (_, text, _) = y.get(&format!("/candidates/{id}/calendar.ics")).await;
        let calendar = ical::IcalParser::new(Cursor::new(text)).next().unwrap().unwrap();
        let of = |e: &ical::parser::ical::component::IcalEvent, name: &str| {
            e.properties.iter().find(|p| p.name == name).and_then(|p| p.value.clone()).unwrap()
        };
        calendar.events.iter().map(|e| (of(e, "UID"), of(e, "SUMMARY"))).collect::<Vec<_>>()
    };
    let before = names().await;
    let mut view = y.view(1).await;
    view["candidate"]["plan"]["years"] = json!(view["candidate"]["plan"]["years"].as_f64().unwrap() + 2.0);
    let path = format!("/candidates/{id}?version={}", view["version"]);
    assert_eq!(ask(&y.store, Method::PUT, &path, view["candidate"].to_string()).await.0, StatusCode::OK);
    let after = names().await;
    assert!(after.len() > before.len());
    let thing = |summary: &str| summary.split_once(": ").unwrap().1.to_owned();
    let same = before.iter().filter(|(uid, summary)| after.iter().any(|(u, s)| u == uid && thing(s) == thing(summary)));
    assert_eq!(same.count(), before.len(), "{before:?} {after:?}");
}

#[actix_web::test]
async fn no_character_that_ends_a_line_gets_into_a_calendar() {
    let y = yard().await;
    let (id, mut view) = (&y.ids[1], y.view(1).await);
    view["candidate"]["title"] = json!("Ferry\r\nATTENDEE:x\u{7}\u{85} run");
    let path = format!("/candidates/{id}?version={}", view["version"]);
    let (status, ..) = ask(&y.store, Method::PUT, &path, view["candidate"].to_string()).await;
    assert_eq!(status, StatusCode::OK);
    let (_, text, _) = y.get(&format!("/candidates/{id}/calendar.ics")).await;
    let lines = String::from_utf8(text).unwrap();
    assert!(lines.contains("Ferry  ATTENDEE:x   run"), "{lines}");
    assert!(lines.split("\r\n").all(|l| !l.starts_with("ATTENDEE") && !l.contains(char::is_control)), "{lines}");
}

#[actix_web::test]
async fn tables_leave_as_csv() {
    let y = yard().await;
    for (name, first) in [("bill.csv", "kind"), ("findings.csv", "at")] {
        let (status, text, media) = y.get(&format!("/candidates/{}/{name}", y.ids[1])).await;
        assert_eq!((status, media.as_str()), (StatusCode::OK, "text/csv; charset=utf-8"));
        assert!(String::from_utf8(text).unwrap().starts_with(first));
    }
    assert_eq!(y.get(&format!("/candidates/{}/bill.csv", uuid::Uuid::new_v4())).await.0, StatusCode::NOT_FOUND);
}

fn picture() -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    let image = image::RgbImage::from_pixel(30, 20, image::Rgb([90, 120, 40]));
    image::DynamicImage::ImageRgb8(image).write_to(&mut out, image::ImageFormat::Png).unwrap();
    out.into_inner()
}

fn repacked(archive: &[u8], change: impl Fn(&str, Vec<u8>) -> Option<Vec<u8>>) -> Vec<u8> {
    let mut zip = ZipArchive::new(Cursor::new(archive)).unwrap();
    let mut out = ZipWriter::new(Cursor::new(Vec::new()));
    for i in 0..zip.len() {
        let mut file = zip.by_index(i).unwrap();
        let mut bytes = Vec::new();
        file.read_to_end(&mut bytes).unwrap();
        let name = file.name().unwrap().into_owned();
        if let Some(bytes) = change(&name, bytes) {
            out.start_file(name, SimpleFileOptions::default()).unwrap();
            out.write_all(&bytes).unwrap();
        }
    }
    out.finish().unwrap().into_inner()
}

#[actix_web::test]
async fn an_archive_comes_in_again_as_it_left_or_not_at_all() {
    let y = yard().await;
    let id = &y.ids[1];
    let view = y.view(1).await;
    let (check, paper) = (&view["checks"][0], view["paper_ids"]["ledger"][1].as_str().unwrap());
    let name = uuid::Uuid::new_v4();
    let (family, check) = (check["family"].as_str().unwrap(), check["check"]["id"].as_str().unwrap());
    let photos = format!("/candidates/{id}/checks/{family}/{check}/photos?id={name}&name=sill.png");
    assert_eq!(ask(&y.store, Method::POST, &photos, picture()).await.0, StatusCode::CREATED);
    let name = uuid::Uuid::new_v4();
    let attach = format!("/candidates/{id}/papers/{paper}/attachments?id={name}&name=invoice.png");
    assert_eq!(ask(&y.store, Method::POST, &attach, picture()).await.0, StatusCode::CREATED);
    let view = y.view(1).await;
    let (status, archive, media) = y.get(&format!("/candidates/{id}/archive.zip")).await;
    assert_eq!((status, media.as_str()), (StatusCode::OK, "application/zip"));
    let import = "/candidates/import/archive";
    let (status, again, _) = ask(&y.store, Method::POST, import, archive.clone()).await;
    let again = json_of(&again);
    assert_eq!(status, StatusCode::CREATED, "{again}");
    assert_eq!((&again["candidate"], &again["assessment"]), (&view["candidate"], &view["assessment"]));
    let files = again["attachments"].as_array().unwrap();
    assert_eq!(files.len(), 2);
    let behind = |v: &Value, name: &str| {
        v["attachments"].as_array().unwrap().iter().find(|a| a["name"] == name).unwrap().clone()
    };
    assert_eq!(behind(&again, "sill.png")["check"], check);
    assert_eq!(behind(&again, "invoice.png")["paper"], again["paper_ids"]["ledger"][1]);
    let yard_now = json_of(&y.get("/candidates").await.1).as_array().unwrap().len();
    // What is no archive, lacks a part, or names what is not there stores nothing.
    let none = |wanted: &'static str| repacked(&archive, move |n, b| (n != wanted).then_some(b));
    let elsewhere = repacked(&archive, |n, b| {
        let text = String::from_utf8(b.clone()).unwrap_or_default();
        Some(if n == "files.json" { text.replace("\"paper\": 1", "\"paper\": 999").into_bytes() } else { b })
    });
    let not_a_picture = repacked(&archive, |n, b| Some(if n.starts_with("files/") { b"text".to_vec() } else { b }));
    for bad in [
        b"PK nothing".to_vec(),
        archive[..archive.len() / 2].to_vec(),
        none("candidate.json"),
        none("files.json"),
        none("files/001.jpg"),
        elsewhere,
        not_a_picture,
    ] {
        let (status, problem, _) = ask(&y.store, Method::POST, import, bad).await;
        let problem = json_of(&problem);
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert!(problem["faults"][0]["message"].as_str().unwrap().len() > 15, "{problem}");
    }
    assert_eq!(json_of(&y.get("/candidates").await.1).as_array().unwrap().len(), yard_now);
}
