//! The walk-round over HTTP: scans with adapters of every temper, readings worked out, photos of checks.

use std::io::{Read, Write};
use std::net::SocketAddr;
use std::path::PathBuf;
use std::time::Duration;

use actix_web::http::{Method, StatusCode};
use actix_web::{App, test, web};
use serde_json::{Value, json};
use ticksage_core::formats::{base_sheets, documents};
use ticksage_server::adapter::{self, Scenario, Simulated, read_scenario, read_scenarios};
use ticksage_server::cleaner::Cleaner;
use ticksage_server::routes;
use ticksage_server::scan_session::{Adapter, Adapters};
use ticksage_store::Store;
use uuid::Uuid;

fn root(file: &str) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../..").join(file)
}

fn text(file: &str) -> String {
    std::fs::read_to_string(root(file)).unwrap()
}

struct Desk {
    store: Store,
    id: String,
    adapters: Adapters,
    _running: Vec<Simulated>,
}

fn scenario(file: &str) -> Scenario {
    read_scenario(&root(&format!("demo/scans/{file}.json"))).unwrap()
}

impl Desk {
    /// A desk with one candidate of the demo, and adapters that play these scenarios.
    async fn new(candidate: &str, scenarios: Vec<Scenario>) -> Self {
        let store = crate::common::empty().await;
        for family in ["bk4", "ferryman", "s6", "tarn22", "skerry700"] {
            let sheet = documents::read_family(&text(&format!("demo/families/{family}.json"))).unwrap();
            store.put_family(&sheet).await.unwrap();
        }
        for sheet in base_sheets::sheets().unwrap() {
            store.put_family(&sheet).await.unwrap();
        }
        let document = documents::read_candidate(&text(&format!("demo/candidates/{candidate}.json"))).unwrap();
        let id = store.create_candidate(&document).await.unwrap().to_string();
        let mut adapters = Adapters { list: Vec::new(), patience: Some(Duration::from_millis(700)) };
        let mut running = Vec::new();
        for (n, scenario) in scenarios.into_iter().enumerate() {
            let (name, suits) = (format!("{n} {}", scenario.name), Some(scenario.suits.clone()));
            let one = adapter::start(scenario, 0).await.unwrap();
            adapters.list.push(Adapter { name, address: one.address, simulated: true, suits });
            running.push(one);
        }
        Self { store, id, adapters, _running: running }
    }

    fn plug(&mut self, name: &str, address: SocketAddr) {
        self.adapters.list.push(Adapter { name: name.to_owned(), address, simulated: false, suits: None });
    }

    async fn raw(&self, method: Method, path: &str, body: impl Into<Vec<u8>>) -> (StatusCode, Vec<u8>) {
        let app = App::new()
            .app_data(web::Data::new(self.store.clone()))
            .app_data(web::Data::new(self.adapters.clone()))
            .app_data(web::Data::new(Cleaner::default()))
            .configure(routes);
        let app = test::init_service(app).await;
        let request = test::TestRequest::with_uri(&format!("/api{path}"))
            .method(method)
            .insert_header(("content-type", "application/json"))
            .set_payload(body.into())
            .to_request();
        let response = test::call_service(&app, request).await;
        (response.status(), test::read_body(response).await.to_vec())
    }

    async fn of(&self, method: Method, rest: &str, body: &Value) -> (StatusCode, Value) {
        let (status, bytes) = self.raw(method, &format!("/candidates/{}{rest}", self.id), body.to_string()).await;
        (status, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
    }

    async fn view(&self) -> Value {
        self.of(Method::GET, "", &Value::Null).await.1
    }

    /// Scans; the steps told, and what it came to.
    async fn scan(&self, adapter: usize) -> (Vec<String>, Value) {
        let name = &self.adapters.list[adapter].name;
        let path = format!("/candidates/{}/scan", self.id);
        let (status, bytes) = self.raw(Method::POST, &path, json!({"adapter": name}).to_string()).await;
        assert_eq!(status, StatusCode::OK);
        let lines: Vec<Value> =
            String::from_utf8(bytes).unwrap().lines().map(|l| serde_json::from_str(l).unwrap()).collect();
        let (last, steps) = lines.split_last().unwrap();
        assert_eq!(last["kind"], "done");
        (steps.iter().map(|s| s["item"].as_str().unwrap().to_owned()).collect(), last["answer"].clone())
    }
}

fn why(answer: &Value, what: &str) -> String {
    let missing = answer["scan"]["missing"].as_array().cloned().unwrap_or_default();
    missing.iter().find(|m| m["what"] == what).map_or_else(String::new, |m| m["why"].as_str().unwrap().to_owned())
}

fn finding<'a>(answer: &'a Value, check: &str) -> &'a Value {
    let list = answer["findings"].as_array().unwrap();
    list.iter().find(|f| f["finding"]["check"] == check).unwrap_or(&Value::Null)
}

#[actix_web::test]
async fn a_good_adapter_is_read_to_the_end_and_its_findings_move_the_verdict() {
    let desk = Desk::new("8-north-ferry", vec![scenario("8-north-ferry")]).await;
    let (_, adapters) = desk.raw(Method::GET, "/adapters", "").await;
    let adapters: Value = serde_json::from_slice(&adapters).unwrap();
    assert_eq!((&adapters[0]["simulated"], &adapters[0]["suits"]), (&json!(true), &json!("North ferry relief van")));
    let before = desk.view().await;
    let (steps, answer) = desk.scan(0).await;
    assert_eq!(steps.len(), 14);
    assert_eq!(answer["failed"], Value::Null);
    let held = serde_json::to_value(scenario("8-north-ferry").state).unwrap();
    for read in [
        "vin",
        "stored",
        "pending",
        "permanent",
        "mil",
        "warm_ups",
        "cleared_km",
        "coolant",
        "voltage",
        "monitors",
        "trims",
    ] {
        assert_eq!(answer["scan"][read], held[read], "{read}");
    }
    assert_eq!(why(&answer, "short_two"), "the control unit does not offer it");
    assert_eq!(desk.view().await, before, "reading stores nothing");
    // The family's sheet judges its own code; the base sheet has nothing to add.
    assert_eq!(
        (&finding(&answer, "codes")["outcome"], &finding(&answer, "codes")["codes"]),
        (&json!(3), &json!(["P0016", "P0341"]))
    );
    assert_eq!(finding(&answer, "scan-codes")["outcome"], json!(0));
    assert_eq!(finding(&answer, "scan-vin")["outcome"], json!(0));
    assert_eq!(finding(&answer, "scan-lamp")["outcome"], json!(1));
    // Kept: the scan among the papers, each finding in force.
    let paper = json!({"papers": [{"id": Uuid::new_v4(), "paper": {"kind": "scan", "paper": answer["scan"]}}]});
    let (status, kept) = desk.of(Method::POST, "/papers", &paper).await;
    assert_eq!(status, StatusCode::CREATED, "{kept}");
    for f in answer["findings"].as_array().unwrap() {
        let (status, said) =
            desk.of(Method::POST, "/findings", &json!({"id": Uuid::new_v4(), "finding": f["finding"]})).await;
        assert_eq!(status, StatusCode::CREATED, "{said}");
    }
    let after = desk.view().await;
    assert_eq!(after["candidate"]["scans"][0], answer["scan"]);
    let blockers = |v: &Value| v["assessment"]["blockers"].to_string().matches("commanded on").count();
    assert_eq!((blockers(&before), blockers(&after)), (0, 1));
    // And an export holds it.
    let (_, bundle) = desk.of(Method::GET, "/export", &Value::Null).await;
    assert_eq!(bundle["candidate"]["scans"][0], answer["scan"]);
}

#[actix_web::test]
async fn every_vehicle_of_the_demo_is_read_as_its_scenario_says() {
    for s in read_scenarios(&root("demo/scans")).unwrap() {
        let wrong = s.cut_at.is_some() || !s.answers.is_empty();
        let held = serde_json::to_value(&s.state).unwrap();
        let older = !s.can;
        let desk = Desk::new("6-courier-twin", vec![Scenario { delay_ms: 0, ..s.clone() }]).await;
        let (_, answer) = desk.scan(0).await;
        assert_eq!(answer["failed"].is_string(), wrong, "{}: {answer}", s.name);
        if !wrong {
            for read in ["vin", "stored", "mil", "coolant", "monitors", "trims"] {
                assert_eq!(answer["scan"][read], held[read], "{} {read}", s.name);
            }
        }
        if older {
            assert_eq!(answer["scan"]["permanent"], Value::Null);
            assert_eq!(why(&answer, "permanent"), "the control unit gives no answer to this");
        }
    }
}

#[actix_web::test]
async fn a_wiped_memory_and_another_number_become_findings() {
    let desk = Desk::new("5-repainted", vec![scenario("5-repainted"), scenario("3-blue-ferryman")]).await;
    let (_, answer) = desk.scan(0).await;
    assert_eq!(finding(&answer, "scan-vin")["label"], json!("another"));
    let (_, recently_cleared) = desk.scan(1).await;
    assert_eq!(recently_cleared["recently_cleared"], json!({"kind": "warm_ups", "count": 2}));
    assert_eq!(finding(&recently_cleared, "scan-wiped")["label"], json!("wiped lately"));
}

#[actix_web::test]
async fn however_the_link_fails_it_is_said_and_what_was_read_is_kept() {
    let good = || scenario("8-north-ferry");
    let silent = |at: &str| Scenario { silent_at: Some(at.to_owned()), ..good() };
    let says = |request: &str, lines: &[&str]| {
        let mut s = good();
        s.answers.insert(request.to_owned(), lines.iter().map(|l| (*l).to_owned()).collect());
        s
    };
    let mut desk = Desk::new(
        "8-north-ferry",
        vec![
            scenario("9-link-that-breaks"),
            scenario("7-kittiwake-engine"),
            silent("07"),
            silent("ATZ"),
            says("0101", &["41 01 83"]),
            says("0100", &["?"]),
            says("03", &["43 02 03 01 04 20", "43 01 05 00"]),
            Scenario { delay_ms: 300, ..good() },
        ],
    )
    .await;
    let failed = |a: &Value| a["failed"].as_str().unwrap_or_default().to_owned();
    // Cut half-way through an answer.
    let (steps, a) = desk.scan(0).await;
    assert!(failed(&a).contains("in the middle") && failed(&a).contains("kept"), "{a}");
    assert_eq!((steps.len(), &a["scan"]["stored"]), (14, &json!(["P0016"])));
    assert!(why(&a, "pending").contains("makes no sense") && why(&a, "voltage").contains("failed before"), "{a}");
    assert_eq!(finding(&a, "codes")["outcome"], json!(3), "what was read still counts");
    // An adapter that reaches nothing.
    let (_, a) = desk.scan(1).await;
    assert!(failed(&a).contains("ignition on") && a["findings"] == json!([]), "{a}");
    // One question is never answered, the others are.
    let (_, a) = desk.scan(2).await;
    assert!(failed(&a).is_empty() && why(&a, "pending").contains("no answer within"), "{a}");
    assert!(a["scan"]["vin"].is_string());
    // It takes the call and says nothing.
    let (_, a) = desk.scan(3).await;
    assert!(failed(&a).contains("says nothing"), "{a}");
    // Too short an answer, a list that is not known, two control units.
    let (_, a) = desk.scan(4).await;
    assert!(why(&a, "readiness").contains("broke off") && a["scan"]["coolant"].is_number(), "{a}");
    let (_, a) = desk.scan(5).await;
    assert!(why(&a, "supported_pids").contains("does not understand") && a["scan"]["coolant"].is_number(), "{a}");
    let (_, a) = desk.scan(6).await;
    assert_eq!(a["scan"]["stored"], json!(["P0301", "P0420", "P0500"]), "{a}");
    // Slow is not broken.
    let (_, a) = desk.scan(7).await;
    assert!(failed(&a).is_empty() && a["scan"]["voltage"].is_number(), "{a}");
    // Nobody there at all; an adapter that never ends its answer.
    let nobody = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap();
    desk.plug("nobody", nobody);
    let flood = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    desk.plug("flood", flood.local_addr().unwrap());
    let pouring = std::thread::spawn(move || {
        let (mut link, _) = flood.accept().unwrap();
        let mut request = [0u8; 64];
        let _ = link.read(&mut request);
        while link.write_all(&[b'4'; 4096]).is_ok() {}
    });
    let (_, a) = desk.scan(8).await;
    assert!(failed(&a).contains("cannot be reached"), "{a}");
    let (_, a) = desk.scan(9).await;
    assert!(a["scan"]["stored"].is_null() && a["findings"] == json!([]), "{a}");
    pouring.join().unwrap();
    // An adapter of another name.
    let (status, _) = desk.of(Method::POST, "/scan", &json!({"adapter": "10.0.0.1:35000"})).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[actix_web::test]
async fn a_scan_goes_out_as_a_table_and_comes_in_again() {
    let desk = Desk::new("8-north-ferry", vec![scenario("8-north-ferry")]).await;
    let (_, answer) = desk.scan(0).await;
    let (status, table) = desk.raw(Method::POST, "/scan/table", answer["scan"].to_string()).await;
    assert_eq!(status, StatusCode::OK);
    let path = format!("/candidates/{}/scan/file", desk.id);
    let (status, bytes) = desk.raw(Method::POST, &path, table).await;
    let again: Value = serde_json::from_slice(&bytes).unwrap();
    assert_eq!((status, &again["scan"]), (StatusCode::OK, &answer["scan"]));
    assert_eq!(again["findings"], answer["findings"]);
    let (status, bytes) = desk.raw(Method::POST, &path, "what,value\nstored,P9999\nlamp,dim\n").await;
    let problem: Value = serde_json::from_slice(&bytes).unwrap();
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let at: Vec<&str> = problem["faults"].as_array().unwrap().iter().map(|f| f["path"].as_str().unwrap()).collect();
    assert_eq!(at, ["line 2, value", "line 3, value"]);
    assert_eq!(desk.raw(Method::POST, &path, vec![0xff, 0xfe]).await.0, StatusCode::UNPROCESSABLE_ENTITY);
}

#[actix_web::test]
async fn codes_are_taken_apart_and_what_is_none_is_refused() {
    let desk = Desk::new("8-north-ferry", Vec::new()).await;
    let (status, bytes) = desk.raw(Method::GET, "/codes?codes=P0304,C1201,", "").await;
    let parts: Value = serde_json::from_slice(&bytes).unwrap();
    assert_eq!((status, parts.as_array().unwrap().len()), (StatusCode::OK, 2));
    assert_eq!((&parts[0]["series"], &parts[0]["cylinder"]), (&json!("misfire"), &json!(4)));
    assert_eq!(parts[1]["defined_by"], json!("maker"));
    assert_eq!(desk.raw(Method::GET, "/codes?codes=P9304", "").await.0, StatusCode::UNPROCESSABLE_ENTITY);
}

#[actix_web::test]
async fn readings_are_worked_out_and_kept_as_typed() {
    let desk = Desk::new("8-north-ferry", Vec::new()).await;
    let inputs = json!([{"text": "5", "unit": "1/32 in"}, {"text": "2", "unit": "1/32 in"}]);
    let ask = json!({"family": "base-vehicle", "check": "tread", "inputs": inputs});
    let (status, told) = desk.of(Method::POST, "/measure", &ask).await;
    assert_eq!((status, &told["reading"], &told["outcome"]), (StatusCode::OK, &json!(1.5875), &json!(2)));
    let finding = json!({"id": Uuid::new_v4(), "finding": {"family": "base-vehicle", "check": "tread",
        "result": {"kind": "measured"}, "inputs": inputs}});
    let (status, view) = desk.of(Method::POST, "/findings", &finding).await;
    assert_eq!(status, StatusCode::CREATED, "{view}");
    let kept = view["candidate"]["findings"].as_array().unwrap().last().unwrap().clone();
    assert_eq!((&kept["reading"], &kept["inputs"]), (&json!(1.5875), &inputs));
    assert_eq!(view["assessment"]["walk"]["dangerous"], json!(true));
    let entry =
        |v: &Value| v["checks"].as_array().unwrap().iter().find(|c| c["check"]["id"] == "tread").unwrap().clone();
    assert_eq!(entry(&view)["outcome"], json!(2));
    assert_eq!(entry(&view)["fields"].as_array().unwrap().len(), 4);
    let bad = json!({"family": "base-vehicle", "check": "tread", "inputs": [{"text": "deep"}]});
    let (status, problem) = desk.of(Method::POST, "/measure", &bad).await;
    assert_eq!((status, &problem["faults"][0]["path"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("/inputs/0")));
    let none = json!({"family": "base-vehicle", "check": "panels", "inputs": []});
    assert_eq!(desk.of(Method::POST, "/measure", &none).await.0, StatusCode::NOT_FOUND);
}

fn picture() -> Vec<u8> {
    let mut out = std::io::Cursor::new(Vec::new());
    let picture = image::RgbImage::from_pixel(64, 32, image::Rgb([40, 120, 200]));
    picture.write_to(&mut out, image::ImageFormat::Png).unwrap();
    out.into_inner()
}

#[actix_web::test]
async fn photos_stand_behind_their_check_once_each_and_can_be_taken_away() {
    let desk = Desk::new("8-north-ferry", Vec::new()).await;
    let path = |check: &str, id: Uuid| {
        format!("/candidates/{}/checks/base-vehicle/{check}/photos?id={id}&name=edge.png", desk.id)
    };
    let (first, second) = (Uuid::new_v4(), Uuid::new_v4());
    for id in [first, second, first] {
        let (status, _) = desk.raw(Method::POST, &path("tread", id), picture()).await;
        assert_eq!(status, StatusCode::CREATED);
    }
    let view = desk.view().await;
    let files = view["attachments"].as_array().unwrap();
    assert_eq!(files.len(), 2, "sent again by a phone that never heard the answer, it is stored once");
    assert_eq!(
        (&files[0]["family"], &files[0]["check"], &files[0]["paper"]),
        (&json!("base-vehicle"), &json!("tread"), &Value::Null)
    );
    let (status, bytes) = desk.raw(Method::GET, &format!("/candidates/{}/attachments/{first}", desk.id), "").await;
    assert_eq!((status, image::guess_format(&bytes).unwrap()), (StatusCode::OK, image::ImageFormat::Jpeg));
    let (_, gone) = desk.of(Method::PUT, &format!("/attachments/{first}/undone"), &json!({"undone": true})).await;
    assert_eq!(gone["attachments"].as_array().unwrap().len(), 1);
    let (status, _) = desk.raw(Method::POST, &path("no-such", Uuid::new_v4()), picture()).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (status, _) = desk.raw(Method::POST, &path("tread", Uuid::new_v4()), b"%PDF-1.4 no".to_vec()).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let (status, _) = desk.raw(Method::POST, &path("tread", Uuid::new_v4()), vec![0xff; 25_000_000]).await;
    assert_eq!(status, StatusCode::PAYLOAD_TOO_LARGE);
}
