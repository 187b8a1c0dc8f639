//! The routes of the papers, in process, against a real PostgreSQL and services that misbehave.

use std::io::{Read, Write};
use std::net::TcpListener;
use std::sync::OnceLock;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

use crate::common::near;
use actix_web::http::{Method, StatusCode};
use actix_web::{App, test, web};
use serde_json::{Value, json};
use ticksage_core::formats::documents::read_history;
use ticksage_server::cleaner::Cleaner;
use ticksage_server::history_service::{HistoryService, start_simulated};
use ticksage_server::routes;
use ticksage_store::Store;
use ticksage_store::cluster::{Cluster, Keep};
use uuid::Uuid;

async fn empty() -> Store {
    static CLUSTER: OnceLock<(Cluster, tempfile::TempDir)> = OnceLock::new();
    static NEXT: AtomicUsize = AtomicUsize::new(0);
    let (cluster, _) = CLUSTER.get_or_init(|| {
        let folder = tempfile::Builder::new().prefix("ticksage-papers-").tempdir().unwrap();
        (Cluster::start(folder.path(), Keep::Briefly).unwrap(), folder)
    });
    let url = cluster.create_database(&format!("p{}", NEXT.fetch_add(1, Ordering::Relaxed))).unwrap();
    let store = Store::open(&url).unwrap();
    store.migrate().await.unwrap();
    store
}

fn demo(file: &str) -> Value {
    let path = format!("{}/../../demo/{file}.json", env!("CARGO_MANIFEST_DIR"));
    serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap()
}

/// An application with a candidate of the demo, and the history service it may ask.
struct Desk {
    store: Store,
    id: String,
    history: HistoryService,
}

impl Desk {
    async fn new(candidate: &str) -> Self {
        let mut desk = Self { store: empty().await, id: String::new(), history: HistoryService::default() };
        for family in ["bk4", "ferryman", "s6", "tarn22"] {
            desk.send(Method::POST, "/families", demo(&format!("families/{family}")).to_string()).await;
        }
        for sheet in ticksage_core::formats::base_sheets::sheets().unwrap() {
            desk.store.put_family(&sheet).await.unwrap();
        }
        let (status, view) =
            desk.send(Method::POST, "/candidates", demo(&format!("candidates/{candidate}")).to_string()).await;
        assert_eq!(status, StatusCode::CREATED, "{view}");
        view["id"].as_str().unwrap().clone_into(&mut desk.id);
        desk
    }

    async fn raw(
        &self,
        method: Method,
        path: &str,
        kind: &str,
        body: impl Into<Vec<u8>>,
    ) -> (StatusCode, Vec<u8>, Value) {
        let app =
            App::new().app_data(web::Data::new(self.store.clone())).app_data(web::Data::new(self.history.clone()));
        let app = test::init_service(app.app_data(web::Data::new(Cleaner::default())).configure(routes)).await;
        let request = test::TestRequest::with_uri(&format!("/api{path}"))
            .method(method)
            .insert_header(("content-type", kind))
            .set_payload(body.into())
            .to_request();
        let response = test::call_service(&app, request).await;
        let status = response.status();
        let headers = json!({
            "type": response.headers().get("content-type").map(|h| h.to_str().unwrap()),
            "policy": response.headers().get("content-security-policy").map(|h| h.to_str().unwrap()),
        });
        (status, test::read_body(response).await.to_vec(), headers)
    }

    async fn send(&self, method: Method, path: &str, body: impl Into<Vec<u8>>) -> (StatusCode, Value) {
        let (status, bytes, _) = self.raw(method, path, "application/json", body).await;
        (status, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
    }

    /// Something of the candidate's.
    async fn of(&self, method: Method, rest: &str, body: &Value) -> (StatusCode, Value) {
        self.send(method, &format!("/candidates/{}{rest}", self.id), body.to_string()).await
    }

    async fn view(&self) -> Value {
        self.send(Method::GET, &format!("/candidates/{}", self.id), "").await.1
    }
}

fn entry(km: u32, when: &str, note: &str) -> Value {
    json!({"kind": "entry", "paper": {"date": when, "usage": {"value": km, "unit": "km"}, "evidence": "invoice_naming_part",
        "renews": [{"family": "bk4", "point": "wet-belt"}], "performs": [{"family": "bk4", "interval": "belt"}], "note": note}})
}

fn one(paper: &Value) -> Value {
    json!({"papers": [{"id": Uuid::new_v4(), "paper": paper}]})
}

#[actix_web::test]
async fn a_paper_is_stored_once_moves_the_judgement_and_can_be_taken_back() {
    let desk = Desk::new("2-harbour-office").await;
    let before = desk.view().await;
    let body = one(&entry(118_000, "2026-03-01", "belt"));
    let (status, answer) = desk.of(Method::POST, "/papers", &body).await;
    assert_eq!(status, StatusCode::CREATED, "{answer}");
    let moved = &answer["moved"];
    assert_eq!(moved["points"][0]["at"]["point"], "wet-belt");
    let chance = |when: &str| moved["points"][0]["chance"][when].as_f64().unwrap();
    assert!(chance("after") < chance("before") - 0.3, "{moved}");
    assert!(moved["bill"]["by"].as_f64().unwrap() < -500.0);
    near(&moved["bill"]["after"], &answer["view"]["assessment"]["bill"]["mean"]);
    near(&moved["bill"]["before"], &before["assessment"]["bill"]["mean"]);
    // Sent again by a phone that never heard the answer: stored once.
    desk.of(Method::POST, "/papers", &body).await;
    let ledger = |v: &Value| v["candidate"]["ledger"].as_array().unwrap().len();
    assert_eq!(ledger(&desk.view().await), ledger(&before) + 1);
    // What the paper moves can be asked for later, too.
    let name = answer["stored"][0].as_str().unwrap().to_owned();
    let (_, later) = desk.of(Method::GET, &format!("/papers/{name}/moved"), &Value::Null).await;
    assert_eq!(later, *moved);
    // Taken back: the judgement is as before, to the digit, and the paper is kept.
    let undo = |undone: bool| json!({"papers": [name], "undone": undone});
    let (status, back) = desk.of(Method::PUT, "/papers/undone", &undo(true)).await;
    assert_eq!((status, &back["view"]["assessment"]), (StatusCode::OK, &before["assessment"]));
    assert_eq!(back["view"]["taken_back"][0]["id"], json!(name));
    let (status, _) = desk.of(Method::PUT, "/papers/undone", &undo(true)).await;
    assert_eq!(status, StatusCode::NOT_FOUND, "it is taken back already");
    let (_, again) = desk.of(Method::PUT, "/papers/undone", &undo(false)).await;
    assert_eq!(again["view"]["assessment"], answer["view"]["assessment"]);
}

#[actix_web::test]
async fn a_correction_takes_the_place_of_the_earlier_one_and_can_be_undone() {
    let desk = Desk::new("2-harbour-office").await;
    let before = desk.view().await;
    let said = before["paper_ids"]["ledger"][3].as_str().unwrap().to_owned();
    let mut right = before["candidate"]["ledger"][3].clone();
    right["evidence"] = json!("invoice_naming_part");
    let name = Uuid::new_v4();
    let body = json!({"papers": [{"id": name, "paper": {"kind": "entry", "paper": right}}], "corrects": said});
    let (status, answer) = desk.of(Method::POST, "/papers", &body).await;
    assert_eq!(status, StatusCode::CREATED, "{answer}");
    assert_eq!(answer["view"]["candidate"]["ledger"].as_array().unwrap().len(), 4);
    assert!(answer["view"]["taken_back"].as_array().unwrap().is_empty(), "what was put right is not taken back");
    // Somebody else corrects the same one: told, and nothing is lost.
    let other =
        json!({"papers": [{"id": Uuid::new_v4(), "paper": {"kind": "entry", "paper": right}}], "corrects": said});
    assert_eq!(desk.of(Method::POST, "/papers", &other).await.0, StatusCode::NOT_FOUND);
    let (_, back) = desk.of(Method::PUT, "/papers/undone", &json!({"papers": [name], "undone": true})).await;
    assert_eq!(back["view"]["assessment"], before["assessment"]);
    assert_eq!(back["view"]["paper_ids"]["ledger"].as_array().unwrap().len(), 4);
}

#[actix_web::test]
async fn papers_that_make_no_sense_are_refused_all_of_them() {
    let desk = Desk::new("2-harbour-office").await;
    let before = desk.view().await;
    for (paper, path) in [
        (entry(118_000, "2027-03-01", "belt"), "/papers/1/paper/date"),
        (entry(118_000, "2011-03-01", "belt"), "/papers/1/paper/date"),
        (entry(9_000_000, "2026-03-01", "belt"), "/papers/1/paper/usage/value"),
        (
            json!({"kind": "reading", "paper": {"date": "2026-03-01", "usage": {"value": 3000, "unit": "h"}}}),
            "/papers/1/paper/usage/unit",
        ),
        (
            json!({"kind": "advisory", "paper": {"date": "2026-03-01", "text": " ", "state": "open"}}),
            "/papers/1/paper/text",
        ),
        (
            json!({"kind": "campaign", "paper": {"family": "bk4", "campaign": "none", "state": "proved"}}),
            "/papers/1/paper/campaign",
        ),
    ] {
        let body = json!({"papers": [{"id": Uuid::new_v4(), "paper": entry(118_000, "2026-03-01", "belt")}, {"id": Uuid::new_v4(), "paper": paper}]});
        let (status, problem) = desk.of(Method::POST, "/papers", &body).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert_eq!(problem["faults"][0]["path"], path, "{problem}");
    }
    let (status, _) = desk
        .send(
            Method::POST,
            &format!("/candidates/{}/papers", Uuid::new_v4()),
            one(&entry(9, "2026-03-01", "x")).to_string(),
        )
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    assert_eq!(desk.view().await["assessment"], before["assessment"], "nothing was stored");
}

#[actix_web::test]
async fn an_edit_of_the_document_leaves_its_papers() {
    let desk = Desk::new("2-harbour-office").await;
    let before = desk.view().await;
    let mut document = before["candidate"].clone();
    document["ledger"] = json!([]);
    document["title"] = json!("Another name");
    document["vin"] = json!("HSBFM2K40G1N06127");
    let (status, after) = desk.of(Method::PUT, "?version=1", &document).await;
    assert_eq!(status, StatusCode::OK, "{after}");
    assert_eq!(after["candidate"]["ledger"], before["candidate"]["ledger"]);
    assert_eq!(after["candidate"]["title"], "Another name");
    let pair = json!({"before": before["candidate"], "after": after["candidate"]});
    let (status, moved) = desk.send(Method::POST, "/assess/compare", pair.to_string()).await;
    assert_eq!((status, moved["bill"]["by"].as_f64()), (StatusCode::OK, Some(0.0)));
}

#[actix_web::test]
async fn a_line_is_read_with_what_it_would_move() {
    let desk = Desk::new("2-harbour-office").await;
    let (status, answer) =
        desk.of(Method::POST, "/papers/quick", &json!({"line": "118000 2026-03 timing belt itemised"})).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    let entry = &answer["reading"]["entry"];
    let (_, stored) = desk.of(Method::POST, "/papers", &one(&json!({"kind": "entry", "paper": entry}))).await;
    assert_eq!(answer["moved"], stored["moved"], "what it said it would move is what it moved");
    let (_, short) = desk.of(Method::POST, "/papers/quick", &json!({"line": "118000 2031-03 timing belt"})).await;
    assert_eq!((&short["moved"], &short["reading"]["faults"][0]["path"]), (&Value::Null, &json!("/date")));
}

#[actix_web::test]
async fn a_table_is_stored_whole_or_not_at_all_and_known_again() {
    let desk = Desk::new("2-harbour-office").await;
    let send = |csv: String, store: bool| {
        let path = format!("/candidates/{}/papers/table?table=ledger&matching=true&store={store}", desk.id);
        let desk = &desk;
        async move {
            let (status, bytes, _) = desk.raw(Method::POST, &path, "text/csv", csv).await;
            (status, serde_json::from_slice::<Value>(&bytes).unwrap())
        }
    };
    let good =
        "date;km;what;evidence\n2024-03-01;97000;oil and filter;invoice\n2025-03-01;107000;oil and filter;invoice\n"
            .to_owned();
    let bad = good.clone() + "2025-13-01;1;oil;invoice\n";
    let (status, refused) = send(bad, true).await;
    assert_eq!((status, &refused["answer"]), (StatusCode::OK, &Value::Null));
    assert_eq!(refused["reading"]["faults"][0]["line"], 4);
    assert_eq!(desk.view().await["candidate"]["ledger"].as_array().unwrap().len(), 4, "nothing was stored");
    let (_, only_read) = send(good.clone(), false).await;
    assert_eq!((&only_read["reading"]["good"], &only_read["answer"]), (&json!(2), &Value::Null));
    let (_, stored) = send(good.clone(), true).await;
    assert_eq!(stored["answer"]["view"]["candidate"]["ledger"].as_array().unwrap().len(), 6);
    let (_, again) = send(good, true).await;
    assert_eq!((&again["reading"]["duplicates"], &again["answer"]), (&json!(2), &Value::Null));
    // More than a candidate holds.
    let many: String =
        (0..20_000).map(|i| format!("2024-03-{:02};{};oil {i};stamp\n", i % 28 + 1, 90_000 + i)).collect();
    let (status, problem) = send(format!("date;km;what;evidence\n{many}"), true).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    assert!(problem["message"].as_str().unwrap().contains("20000"), "{problem}");
}

fn report(file: &str) -> ticksage_core::documents::history_report::HistoryReport {
    read_history(&demo(&format!("history/{file}")).to_string()).unwrap()
}

#[actix_web::test]
async fn the_simulated_register_is_asked_over_http_and_its_report_taken_in_once() {
    let mut desk = Desk::new("8-north-ferry").await;
    let (server, port) = start_simulated(vec![report("quay-ferryman"), report("north-ferry")], 0).unwrap();
    let handle = server.handle();
    actix_web::rt::spawn(server);
    desk.history.url = Some(format!("http://127.0.0.1:{port}"));
    let (status, answer) = desk.of(Method::POST, "/history", &Value::Null).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    assert_eq!((&answer["report"]["simulated"], &answer["report"]["plate"]), (&json!(true), &json!("HS 4106")));
    assert_eq!(desk.view().await["candidate"]["provenance"], json!([]), "asking stores nothing");
    let (status, taken) = desk.of(Method::POST, "/history/papers", &answer["report"]).await;
    assert_eq!(status, StatusCode::CREATED, "{taken}");
    assert_eq!(taken["view"]["candidate"]["provenance"].as_array().unwrap().len(), 11);
    // Three of the four readings were typed before; the advisory is new.
    assert_eq!((taken["already"].as_u64(), taken["stored"].as_array().unwrap().len()), (Some(3), 13));
    let (_, again) = desk.of(Method::POST, "/history/papers", &answer["report"]).await;
    assert_eq!((again["already"].as_u64(), again["stored"].as_array().unwrap().len()), (Some(16), 0));
    // A vehicle it does not know, and a report of another vehicle.
    let (_, other) = desk.of(Method::POST, "/history/file", &demo("history/quay-ferryman")).await;
    assert!(other["refused"].as_str().unwrap().contains("another vehicle"));
    let (status, problem) = desk.of(Method::POST, "/history/papers", &demo("history/quay-ferryman")).await;
    assert_eq!((status, &problem["faults"][0]["path"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("/vin")));
    let unknown = Desk { history: desk.history.clone(), ..Desk::new("2-harbour-office").await };
    let (status, problem) = unknown.of(Method::POST, "/history", &Value::Null).await;
    assert_eq!((status, &problem["code"]), (StatusCode::BAD_GATEWAY, &json!("service")));
    assert!(problem["message"].as_str().unwrap().contains("knows no such vehicle"));
    handle.stop(false).await;
}

/// A service that answers each request with these bytes, or, with none, says nothing and holds the line.
fn misbehaving(answer: Option<&'static [u8]>) -> String {
    let listener = TcpListener::bind(("127.0.0.1", 0)).unwrap();
    let address = listener.local_addr().unwrap();
    std::thread::spawn(move || {
        let mut held = Vec::new();
        for stream in listener.incoming() {
            let mut stream = stream.unwrap();
            let mut buffer = [0; 2048];
            let _ = stream.read(&mut buffer);
            match answer {
                Some(bytes) => drop(stream.write_all(bytes)),
                None => held.push(stream),
            }
        }
    });
    format!("http://{address}")
}

#[actix_web::test]
async fn a_history_service_that_misbehaves_ends_in_a_sentence_and_changes_nothing() {
    let mut desk = Desk::new("8-north-ferry").await;
    let before = desk.view().await;
    let cases: [(Option<&'static [u8]>, &str); 7] = [
        (Some(b"HTTP/1.1 500 Internal Server Error\r\ncontent-length: 4\r\n\r\noops"), "error (500)"),
        (Some(b"HTTP/1.1 200 OK\r\ncontent-length: 9\r\n\r\n<html></h"), "no report"),
        (Some(b"HTTP/1.1 200 OK\r\ncontent-length: 24\r\n\r\n{\"format\":\"something/1\"} "), "no report"),
        (Some(b"HTTP/1.1 200 OK\r\ncontent-length: 4\r\n\r\n\xff\xfe\x00\x01"), "no report"),
        (Some(b"\x00\x01\x02 garbage"), "does not answer"),
        (Some(b"HTTP/1.1 200 OK\r\ncontent-length: 5000\r\n\r\n{\"for"), ""),
        (None, "within"),
    ];
    desk.history.patience = Some(Duration::from_millis(700));
    for (answer, says) in cases {
        desk.history.url = Some(misbehaving(answer));
        let (status, problem) = desk.of(Method::POST, "/history", &Value::Null).await;
        assert_eq!((status, &problem["code"]), (StatusCode::BAD_GATEWAY, &json!("service")), "{says}: {problem}");
        let message = problem["message"].as_str().unwrap();
        assert!(message.contains(says) && message.contains("Nothing was changed"), "{says}: {message}");
    }
    desk.history.url = Some("http://127.0.0.1:9".to_owned());
    assert_eq!(desk.of(Method::POST, "/history", &Value::Null).await.0, StatusCode::BAD_GATEWAY);
    desk.history.url = None;
    let (_, problem) = desk.of(Method::POST, "/history", &Value::Null).await;
    assert!(problem["message"].as_str().unwrap().contains("as a file"));
    let (status, problem) =
        desk.of(Method::POST, "/history/file", &json!({"format": "ticksage-history/2", "items": 3})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(!problem["faults"].as_array().unwrap().is_empty());
    assert_eq!(desk.view().await, before);
}

fn picture() -> Vec<u8> {
    let mut out = std::io::Cursor::new(Vec::new());
    image::RgbImage::from_pixel(64, 32, image::Rgb([200, 120, 40]))
        .write_to(&mut out, image::ImageFormat::Png)
        .unwrap();
    out.into_inner()
}

#[actix_web::test]
async fn files_stand_behind_their_papers_and_follow_a_correction() {
    let desk = Desk::new("2-harbour-office").await;
    let view = desk.view().await;
    let paper = view["paper_ids"]["ledger"][1].as_str().unwrap().to_owned();
    let path = |paper: &str, name: &str| {
        format!("/candidates/{}/papers/{paper}/attachments?id={}&name={name}", desk.id, Uuid::new_v4())
    };
    let (status, bytes, _) =
        desk.raw(Method::POST, &path(&paper, "arms.png"), "application/octet-stream", picture()).await;
    assert_eq!(status, StatusCode::CREATED);
    let view: Value = serde_json::from_slice(&bytes).unwrap();
    let file = &view["attachments"][0];
    assert_eq!(
        (&file["media"], &file["paper"], &file["name"]),
        (&json!("image/jpeg"), &json!(paper), &json!("arms.png"))
    );
    let (status, bytes, headers) = desk
        .raw(Method::GET, &format!("/candidates/{}/attachments/{}", desk.id, file["id"].as_str().unwrap()), "", "")
        .await;
    assert_eq!((status, &headers["type"]), (StatusCode::OK, &json!("image/jpeg")));
    assert!(headers["policy"].as_str().unwrap().contains("sandbox"));
    let shown = image::load_from_memory(&bytes).unwrap();
    assert_eq!((shown.width(), shown.height()), (64, 32));
    // Put right: the file stands behind the later one; undone: behind the earlier again.
    let name = Uuid::new_v4();
    let entry = json!({"kind": "entry", "paper": view["candidate"]["ledger"][1]});
    let (_, answer) =
        desk.of(Method::POST, "/papers", &json!({"papers": [{"id": name, "paper": entry}], "corrects": paper})).await;
    assert_eq!(answer["view"]["attachments"][0]["paper"], json!(name));
    let (_, back) = desk.of(Method::PUT, "/papers/undone", &json!({"papers": [name], "undone": true})).await;
    assert_eq!(back["view"]["attachments"][0]["paper"], json!(paper));
    let (_, gone) = desk
        .of(Method::PUT, &format!("/attachments/{}/undone", file["id"].as_str().unwrap()), &json!({"undone": true}))
        .await;
    assert_eq!(gone["attachments"], json!([]));
}

#[actix_web::test]
async fn files_that_are_none_or_too_large_are_refused_in_a_sentence() {
    let desk = Desk::new("2-harbour-office").await;
    let view = desk.view().await;
    let paper = view["paper_ids"]["ledger"][0].as_str().unwrap().to_owned();
    let send = |name: &'static str, paper: String, bytes: Vec<u8>| {
        let path = format!("/candidates/{}/papers/{paper}/attachments?id={}&name={name}", desk.id, Uuid::new_v4());
        let desk = &desk;
        async move {
            let (status, bytes, _) = desk.raw(Method::POST, &path, "application/octet-stream", bytes).await;
            (status, serde_json::from_slice::<Value>(&bytes).unwrap_or(Value::Null))
        }
    };
    let (status, problem) = send("bill.pdf", paper.clone(), b"this is no PDF".to_vec()).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["message"].as_str().unwrap().contains("called a PDF and is none"), "{problem}");
    let (status, problem) = send("photo.jpg", paper.clone(), vec![0xff; 30_000_000]).await;
    assert_eq!((status, &problem["code"]), (StatusCode::PAYLOAD_TOO_LARGE, &json!("too_large")));
    assert!(problem["message"].as_str().unwrap().contains("20 MB"), "{problem}");
    let (status, _) = send("photo.png", Uuid::new_v4().to_string(), picture()).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    assert_eq!(desk.view().await["attachments"], json!([]));
}

#[actix_web::test]
async fn questions_are_answered_for_what_is_stored() {
    let desk = Desk::new("3-blue-ferryman").await;
    let (status, asked) = desk.of(Method::GET, "/questions", &Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    let kinds: Vec<&str> = asked.as_array().unwrap().iter().map(|q| q["ask"]["kind"].as_str().unwrap()).collect();
    assert!(kinds.contains(&"campaign") && kinds.contains(&"provenance") && kinds.contains(&"renewal"), "{kinds:?}");
    let answer =
        json!({"kind": "campaign", "paper": {"family": "ferryman", "campaign": "bench-anchors", "state": "proved"}});
    desk.of(Method::POST, "/papers", &one(&answer)).await;
    let (_, after) = desk.of(Method::GET, "/questions", &Value::Null).await;
    assert!(after.as_array().unwrap().iter().all(|q| q["ask"]["kind"] != "campaign"));
}
