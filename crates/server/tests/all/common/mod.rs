//! The routes, in process, against a real PostgreSQL: one cluster for a run, a database for each test.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, missing_docs)]

use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Mutex, OnceLock};

use actix_web::http::{Method, StatusCode};
use actix_web::{App, test, web};
use serde_json::Value;
use ticksage_server::cleaner::Cleaner;
use ticksage_server::routes;
use ticksage_store::Store;
use ticksage_store::cluster::{Cluster, Keep};

pub fn cluster() -> (Cluster, tempfile::TempDir) {
    let folder = tempfile::Builder::new().prefix("ticksage-api-").tempdir().unwrap();
    (Cluster::start(folder.path(), Keep::Briefly).unwrap(), folder)
}

pub async fn empty() -> Store {
    static CLUSTER: OnceLock<Mutex<(Cluster, tempfile::TempDir)>> = OnceLock::new();
    static NEXT: AtomicUsize = AtomicUsize::new(0);
    let url = {
        let name = format!("t{}", NEXT.fetch_add(1, Ordering::Relaxed));
        CLUSTER.get_or_init(|| Mutex::new(cluster())).lock().unwrap().0.create_database(&name).unwrap()
    };
    open(&url).await
}

pub async fn open(url: &str) -> Store {
    let store = Store::open(url).unwrap();
    store.migrate().await.unwrap();
    store
}

pub fn demo(file: &str) -> Value {
    let path = format!("{}/../../demo/{file}", env!("CARGO_MANIFEST_DIR"));
    serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap()
}

/// Asks the application; the status, the methods that it allows and the text of the answer.
pub async fn said(store: &Store, method: Method, path: &str, body: impl Into<Vec<u8>>) -> (StatusCode, String, String) {
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
    let status = response.status();
    let allow = response.headers().get("allow").map_or("", |v| v.to_str().unwrap()).to_owned();
    let bytes = test::read_body(response).await;
    (status, allow, String::from_utf8_lossy(&bytes).into_owned())
}

/// Asks the application and reads the answer as JSON.
pub async fn ask(store: &Store, method: Method, path: &str, body: impl Into<Vec<u8>>) -> (StatusCode, Value) {
    let (status, _, text) = said(store, method, path, body).await;
    (status, serde_json::from_str(&text).unwrap_or(Value::Null))
}

pub async fn get(store: &Store, path: &str) -> (StatusCode, Value) {
    ask(store, Method::GET, path, "").await
}

pub async fn post(store: &Store, path: &str, body: &Value) -> (StatusCode, Value) {
    ask(store, Method::POST, path, body.to_string()).await
}

/// A yard with the demo's sheets and one candidate; its id.
pub async fn with_demo() -> (Store, String) {
    let store = empty().await;
    for family in ["bk4", "ferryman", "tarn22", "s6"] {
        let (status, _) = post(&store, "/families", &demo(&format!("families/{family}.json"))).await;
        assert_eq!(status, StatusCode::CREATED);
    }
    for sheet in ticksage_core::formats::base_sheets::sheets().unwrap() {
        store.put_family(&sheet).await.unwrap();
    }
    let (status, view) = post(&store, "/candidates", &demo("candidates/2-harbour-office.json")).await;
    assert_eq!(status, StatusCode::CREATED, "{view}");
    (store, view["id"].as_str().unwrap().to_owned())
}

/// The same figure: a view tells six of its digits.
pub fn near(x: &Value, y: &Value) {
    let (x, y) = (x.as_f64().unwrap(), y.as_f64().unwrap());
    assert!((x - y).abs() <= 1e-5 * x.abs().max(1.0), "{x} {y}");
}

/// The places of a problem's faults.
pub fn paths(problem: &Value) -> Vec<&str> {
    problem["faults"].as_array().unwrap().iter().map(|f| f["path"].as_str().unwrap()).collect()
}
