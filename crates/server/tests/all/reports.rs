//! Reports that stand up, adverts read, the first price asked, and what a yard counts in.

use crate::common::{ask, empty, get, post, said, with_demo};
use actix_web::http::{Method, StatusCode};
use serde_json::{Value, json};
use ticksage_server::report_file::verify;

async fn issue(store: &ticksage_store::Store, id: &str, why: &str) -> (StatusCode, Value) {
    let asked = json!({"place": "Hollin Quay", "inspector": "M. Ferrow", "why": why});
    post(store, &format!("/candidates/{id}/reports"), &asked).await
}

#[actix_web::test]
async fn a_report_is_frozen_and_the_next_one_names_it() {
    let (store, id) = with_demo().await;
    let (status, first) = issue(&store, &id, "").await;
    assert_eq!((status, first["number"].as_i64()), (StatusCode::CREATED, Some(1)), "{first}");
    let path = format!("/candidates/{id}/reports/{}", first["id"].as_str().unwrap());
    let (_, _, text) = said(&store, Method::GET, &path, "").await;
    let (report, fingerprint) = verify(&text).unwrap();
    assert_eq!(fingerprint, first["fingerprint"].as_str().unwrap());
    assert_eq!((report["place"].as_str(), report["inspector"].as_str()), (Some("Hollin Quay"), Some("M. Ferrow")));
    assert!(!report["not_checked"].as_array().unwrap().is_empty() && report["sheets"].as_array().unwrap().len() >= 3);
    // What belongs to the yard alone is not in it.
    assert_eq!(report["view"]["candidate"]["note"], "");

    // The price changes: the report does not; a new one has the new price and names the old one.
    let (_, view) = get(&store, &format!("/candidates/{id}")).await;
    let mut candidate = view["candidate"].clone();
    candidate["asking"] = json!(7100);
    let edit = format!("/candidates/{id}?version={}", view["version"]);
    let (status, edited) = ask(&store, Method::PUT, &edit, candidate.to_string()).await;
    assert_eq!(status, StatusCode::OK, "{edited}");
    // Asking more makes nothing worth more: what was asked first stays on record.
    assert_eq!(edited["candidate"]["asked_first"], 6800.0);
    let (_, _, again) = said(&store, Method::GET, &path, "").await;
    assert_eq!(again, text);
    let (_, second) = issue(&store, &id, "the price was changed").await;
    let path = format!("/candidates/{id}/reports/{}", second["id"].as_str().unwrap());
    let (_, report) = get(&store, &path).await;
    assert_eq!(report["replaces"], json!({"number": 1, "fingerprint": fingerprint}));
    assert_eq!((report["number"].as_i64(), report["view"]["candidate"]["asking"].as_f64()), (Some(2), Some(7100.0)));
    let (_, list) = get(&store, &format!("/candidates/{id}/reports")).await;
    assert_eq!(list.as_array().unwrap().iter().map(|r| r["number"].as_i64().unwrap()).collect::<Vec<_>>(), [2, 1]);

    // Nobody and nowhere do not stand up.
    let (status, refused) =
        post(&store, &format!("/candidates/{id}/reports"), &json!({"place": " ", "inspector": "M. Ferrow"})).await;
    assert_eq!((status, refused["faults"][0]["path"].as_str()), (StatusCode::UNPROCESSABLE_ENTITY, Some("/place")));
}

#[actix_web::test]
async fn a_customers_link_opens_the_issued_report_and_no_later_one() {
    let (store, id) = with_demo().await;
    let link = json!({"audience": "customer", "days": 3});
    let (status, refused) = post(&store, &format!("/candidates/{id}/links"), &link).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{refused}");
    let (_, first) = issue(&store, &id, "").await;
    let (status, made) = post(&store, &format!("/candidates/{id}/links"), &link).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    issue(&store, &id, "again").await;
    let (_, shared) = get(&store, made["path"].as_str().unwrap()).await;
    assert_eq!(shared["audience"], "customer");
    assert_eq!(shared["report"]["fingerprint"], first["fingerprint"]);
    let (status, seller) =
        post(&store, &format!("/candidates/{id}/links"), &json!({"audience": "seller", "days": 3})).await;
    assert_eq!(status, StatusCode::CREATED, "{seller}");
}

#[actix_web::test]
async fn an_advert_is_read_into_figures_families_and_names() {
    let (store, _) = with_demo().await;
    let text = "Ferryman van with the BK4 and the S6 gearbox. 2017, 96 500 km, asking 6 900 HSC.\nCollect from Sound End. \
        Clutch and two-mass flywheel done, invoices here. Turbo whistles a little.";
    let (status, read) = post(&store, "/adverts/read", &json!({"text": text})).await;
    assert_eq!(status, StatusCode::OK, "{read}");
    assert_eq!((read["asking"].as_f64(), read["usage"]["value"].as_f64()), (Some(6900.0), Some(96_500.0)), "{read}");
    assert_eq!((read["currency"].as_str(), read["place"].as_str()), (Some("HSC"), Some("Sound End")), "{read}");
    let families: Vec<&str> = read["families"].as_array().unwrap().iter().map(|f| f.as_str().unwrap()).collect();
    assert!(families.contains(&"ferryman") && families.contains(&"bk4"), "{families:?}");
    let about: Vec<&str> = read["named"].as_array().unwrap().iter().map(|n| n["about"].as_str().unwrap()).collect();
    assert!(about.contains(&"invoices") && about.iter().any(|a| a.to_lowercase().contains("flywheel")), "{about:?}");
    assert!(read["rest"].as_str().unwrap().contains("Turbo whistles a little."), "{read}");
    let long = json!({"text": "x".repeat(20_001)});
    assert_eq!(post(&store, "/adverts/read", &long).await.0, StatusCode::UNPROCESSABLE_ENTITY);
}

#[actix_web::test]
async fn a_yard_is_asked_once_what_it_counts_in() {
    let store = empty().await;
    assert_eq!(get(&store, "/settings").await, (StatusCode::OK, Value::Null));
    let told = json!({"currency": "EUR", "unit": "km", "rates": {"independent": 95.0, "self": 0.0}});
    let put = |body: Value| ask(&store, Method::PUT, "/settings", body.to_string());
    assert_eq!(put(told.clone()).await, (StatusCode::OK, told.clone()));
    assert_eq!(get(&store, "/settings").await.1, told);
    for wrong in [
        json!({"currency": "euro", "unit": "km"}),
        json!({"currency": "EUR", "unit": "leagues"}),
        json!({"currency": "EUR", "unit": "km", "rates": {"independent": -1}}),
        json!({"currency": "EUR", "unit": "km", "colour": "red"}),
    ] {
        assert_eq!(put(wrong.clone()).await.0, StatusCode::UNPROCESSABLE_ENTITY, "{wrong}");
    }
    assert_eq!(get(&store, "/settings").await.1, told);
}
