//! Sheets from how a thing is built, and talk written into them, against a real PostgreSQL.

use crate::common::{ask, empty, get, paths, post, with_demo};
use actix_web::http::{Method, StatusCode};
use serde_json::{Value, json};

#[actix_web::test]
async fn a_sheet_is_made_from_answers_and_changed_in_all_of_them() {
    let store = empty().await;
    let (status, library) = get(&store, "/patterns").await;
    assert_eq!(status, StatusCode::OK);
    assert!(library["patterns"].as_array().unwrap().len() > 60);

    // Before anybody has said what it is, that is the one question.
    let (status, view) = post(&store, "/built", &json!({"answers": {}, "currency": "EUR"})).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!((view["open"].as_array().unwrap().len(), view["open"][0]["id"].as_str()), (1, Some("thing")));
    assert_eq!(view["bill"], Value::Null);

    // Each answer settles something; what moves most is asked first; what is certain is not asked.
    let car = json!({"answers": {"thing": "car", "power": "electric"}, "currency": "EUR"});
    let (_, view) = post(&store, "/built", &car).await;
    let open: Vec<&str> = view["open"].as_array().unwrap().iter().map(|q| q["id"].as_str().unwrap()).collect();
    assert!(!open.contains(&"timing") && !open.contains(&"gearbox"), "{open:?}");
    let moves: Vec<f64> = view["open"].as_array().unwrap().iter().map(|q| q["moves"].as_f64().unwrap()).collect();
    assert!(moves.windows(2).all(|w| w[0] >= w[1]));
    assert!(view["settled"].as_array().unwrap().iter().any(|s| s["id"] == "gearbox" && s["follows"] == true));

    let bad = json!({"answers": {"thing": "car", "power": "electric", "timing": "belt"}, "currency": "EUR"});
    let (status, problem) = post(&store, "/built", &bad).await;
    assert_eq!((status, paths(&problem)), (StatusCode::UNPROCESSABLE_ENTITY, vec!["/built_as/answers/timing"]));

    let new = json!({"name": "Harbour runabout", "currency": "EUR", "answers": {"thing": "car", "power": "petrol", "gearbox": "manual"}});
    let (status, head) = post(&store, "/families/built", &new).await;
    assert_eq!((status, head["id"].as_str()), (StatusCode::CREATED, Some("harbour-runabout")));
    assert!(head["points"].as_u64().unwrap() >= 25 && head["points"] == head["points_from_patterns"]);
    // A second of the same name is another sheet; no name is none.
    assert_eq!(post(&store, "/families/built", &new).await.1["id"], "harbour-runabout-2");
    let unnamed = json!({"name": "  ", "currency": "EUR", "answers": {"thing": "car"}});
    assert_eq!(paths(&post(&store, "/families/built", &unnamed).await.1), ["/name"]);

    let change = json!({"answers": {"thing": "car", "power": "petrol", "gearbox": "automatic"}, "from": 1});
    let (status, changed) = ask(&store, Method::PUT, "/families/harbour-runabout/built", change.to_string()).await;
    assert_eq!((status, changed["version"].as_u64()), (StatusCode::OK, Some(2)));
    let (_, sheet) = get(&store, "/families/harbour-runabout").await;
    let has = |id: &str| sheet["points"].as_array().unwrap().iter().any(|p| p["id"] == id);
    assert!(has("auto-clutches") && !has("clutch"));
    // Somebody else was faster.
    let (status, _) = ask(&store, Method::PUT, "/families/harbour-runabout/built", change.to_string()).await;
    assert_eq!(status, StatusCode::CONFLICT);
    // A point that was made the sheet's own is still known as its pattern has it.
    let (_, sheet) = get(&store, "/families/harbour-runabout").await;
    let before = sheet["points"].as_array().unwrap().iter().find(|p| p["id"] == "auto-clutches").unwrap().clone();
    let lines = json!({"from": 2, "source": {"title": "Slipway talk"}, "lines": [
        {"text": "automatic gearbox: common, between 120k and 180k km, slips, 1900", "mode": "add"}]});
    let (status, _) = post(&store, "/families/harbour-runabout/talk", &lines).await;
    assert_eq!(status, StatusCode::OK);
    let (_, own) = get(&store, "/families/harbour-runabout").await;
    let now = own["points"].as_array().unwrap().iter().find(|p| p["id"] == "auto-clutches").unwrap();
    assert_ne!(now, &before);
    let (status, given) = get(&store, "/families/harbour-runabout/points/auto-clutches/pattern").await;
    assert_eq!((status, &given["point"]), (StatusCode::OK, &before));
    assert!(given["pattern"]["gives"].as_array().unwrap().iter().any(|g| g == "points/auto-clutches"));
    assert_eq!(given["jobs"][0]["id"], before["job"]);
    let (status, _) = get(&store, "/families/harbour-runabout/points/nothing-like-it/pattern").await;
    assert_eq!(status, StatusCode::NOT_FOUND);

    let (status, sane) = get(&store, "/families/harbour-runabout/sanity?currency=EUR").await;
    assert_eq!((status, sane["within"].as_bool()), (StatusCode::OK, Some(true)), "{sane}");
    assert_eq!(sane["examples"].as_array().unwrap().len(), 3);
}

#[actix_web::test]
async fn talk_is_read_kept_and_written_once() {
    let (store, _) = with_demo().await;
    let text = "turbo: common from 160k km, whines, 1400\nwhat a fine day\n<script>alert(1)</script>\nturbo from 300k, rarely past 100k";
    let (status, page) = post(&store, "/talk/read", &json!({"text": text, "family": "bk4"})).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!((page["placed"].as_u64(), page["asked"].as_u64(), page["notes"].as_u64()), (Some(1), Some(1), Some(2)));
    assert_eq!(page["lines"][3]["question"], "which_holds");
    assert_eq!(post(&store, "/talk/read", &json!({"text": text, "family": "nobody"})).await.0, StatusCode::NOT_FOUND);
    let long = "turbo ".repeat(300_000);
    let (status, _) = post(&store, "/talk/read", &json!({"text": long})).await;
    assert!(status == StatusCode::PAYLOAD_TOO_LARGE || status == StatusCode::UNPROCESSABLE_ENTITY, "{status}");

    let version = get(&store, "/families/bk4").await.1["version"].as_u64().unwrap();
    let write = |from: u64| {
        json!({"from": from, "source": {"title": "Slipway talk"}, "lines": [
        {"text": "oil filter housing: leaks, common from 110k km, 260", "place": "12:30"}, {"text": "what a fine day"}]})
    };
    let (status, told) = post(&store, "/families/bk4/talk", &write(version)).await;
    assert_eq!(status, StatusCode::OK, "{told}");
    assert_eq!((told["changed"].as_u64(), told["notes"][0].as_str()), (Some(1), Some("what a fine day")));
    assert_eq!(told["family"]["version"].as_u64(), Some(version + 1));
    let (_, sheet) = get(&store, "/families/bk4").await;
    let point = sheet["points"].as_array().unwrap().iter().find(|p| p["part"] == "sump").unwrap();
    let at = |c: &serde_json::Value| c["stands"]["time"] == "12:30";
    assert!(point["life"].as_array().unwrap().iter().any(at), "{point}");
    // Once more: nothing changes, and no version is made.
    let (_, again) = post(&store, "/families/bk4/talk", &write(version + 1)).await;
    assert_eq!((again["known"].as_u64(), again["family"]["version"].as_u64()), (Some(1), Some(version + 1)));
    assert_eq!(post(&store, "/families/bk4/talk", &write(version)).await.0, StatusCode::CONFLICT);
    // What ships is not written into; nothing is no line.
    let base = json!({"from": 1, "lines": [{"text": "tyres about 9 years"}]});
    assert_eq!(paths(&post(&store, "/families/base-vehicle/talk", &base).await.1), ["/lines"]);
    let none = json!({"from": version + 1, "lines": []});
    assert_eq!(post(&store, "/families/bk4/talk", &none).await.0, StatusCode::UNPROCESSABLE_ENTITY);
}
