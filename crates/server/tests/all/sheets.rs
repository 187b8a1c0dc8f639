//! Sheets edited, published, compared and merged; lists of adverts; which builds to look for.

use crate::common::{ask, get, paths, post, with_demo};
use actix_web::http::{Method, StatusCode};
use serde_json::{Value, json};

#[actix_web::test]
async fn a_draft_is_looked_at_published_once_and_never_over_somebody_elses() {
    let (store, _) = with_demo().await;
    let (_, first) = get(&store, "/families/bk4").await;
    let from = first["version"].as_u64().unwrap();
    let mut sheet = first.clone();
    let points = sheet["points"].as_array_mut().unwrap();
    let at = points.iter().position(|p| p["id"] == "turbo-shaft").unwrap();
    points[at]["share"] = json!([{"source": "workshop", "says": {"form": "word", "word": "rare"}}]);
    let draft = |sheet: &Value, from: u64, moves: bool| json!({"from": from, "sheet": sheet, "moves": moves});
    let (status, look) = post(&store, "/families/bk4/draft", &draft(&sheet, from, true)).await;
    assert_eq!(status, StatusCode::OK, "{look}");
    assert_eq!(look["faults"], json!([]));
    assert_eq!(look["comparison"]["points"][0]["differs"], json!(["how_many"]));
    assert!(look["comparison"]["after"].as_f64() < look["comparison"]["before"].as_f64());
    // The van that it judges, with what it comes to before and after.
    let moves = look["moves"].as_array().unwrap();
    assert_eq!(moves.len(), 1, "{moves:?}");
    assert!(moves.iter().all(|m| m["after"]["bill"].as_f64() < m["before"]["bill"].as_f64()));
    // Nothing was stored.
    assert_eq!(get(&store, "/families/bk4").await.1["version"].as_u64(), Some(from));

    // Faults come with their places; publishing them is refused, and nothing is lost.
    let mut wrong = sheet.clone();
    wrong["points"][at]["job"] = json!("no-such-job");
    let (_, look) = post(&store, "/families/bk4/draft", &draft(&wrong, from, false)).await;
    assert_eq!(look["faults"][0]["path"], json!(format!("/points/{at}/job")));
    let put = |body: Value| ask(&store, Method::PUT, "/families/bk4", body.to_string());
    assert_eq!(put(draft(&wrong, from, false)).await.0, StatusCode::UNPROCESSABLE_ENTITY);

    let (status, head) = put(draft(&sheet, from, false)).await;
    assert_eq!((status, head["version"].as_u64()), (StatusCode::OK, Some(from + 1)));
    // A second editor on the same version is told.
    assert_eq!(put(draft(&first, from, false)).await.0, StatusCode::CONFLICT);
    let (_, look) = post(&store, "/families/bk4/draft", &draft(&first, from, false)).await;
    assert_eq!(look["newer"].as_u64(), Some(from + 1));
    // A point that a candidate has findings on can be taken out; what would count no more is named.
    let (_, newest) = get(&store, "/families/bk4").await;
    let mut less = newest.clone();
    less["checks"].as_array_mut().unwrap().retain(|c| c["id"] != "boost-pull");
    let (status, look) = post(&store, "/families/bk4/draft", &draft(&less, from + 1, true)).await;
    assert_eq!(status, StatusCode::OK, "{look}");
    let lost: Vec<&Value> =
        look["moves"].as_array().unwrap().iter().flat_map(|m| m["lost"].as_array().unwrap()).collect();
    assert!(lost.iter().any(|l| *l == "One hard pull in third"), "{look}");
    // What ships is not edited.
    let (_, base) = get(&store, "/families/base-vehicle").await;
    let body = json!({"from": base["version"], "sheet": base}).to_string();
    assert_eq!(ask(&store, Method::PUT, "/families/base-vehicle", body).await.0, StatusCode::UNPROCESSABLE_ENTITY);
}

#[actix_web::test]
async fn versions_are_compared_and_a_sheet_is_merged_into_a_draft() {
    let (store, _) = with_demo().await;
    let (status, none) = get(&store, "/families/s6/compare?with=s6").await;
    assert_eq!((status, none["points"].as_array().unwrap().len()), (StatusCode::OK, 0));
    let (status, two) = get(&store, "/families/bk4/compare?with=tarn22").await;
    assert_eq!(status, StatusCode::OK);
    assert!(two["points"].as_array().unwrap().iter().any(|p| p["change"] == "new"));
    assert_eq!(get(&store, "/families/base-engine/compare?with=bk4").await.0, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(get(&store, "/families/bk4/compare?with=nobody").await.0, StatusCode::NOT_FOUND);

    let (_, own) = get(&store, "/families/bk4").await;
    let (_, other) = get(&store, "/families/tarn22").await;
    let merge = |source: &str, discount: Value| json!({"from": own["version"], "sheet": other, "source": source, "discount": discount});
    let (status, both) = post(&store, "/families/bk4/merge", &merge("A friend", json!(0.5))).await;
    assert_eq!(status, StatusCode::OK, "{both}");
    assert!(both["points"].as_array().unwrap().len() > own["points"].as_array().unwrap().len());
    assert_eq!(get(&store, "/families/bk4").await.1["version"], own["version"]);
    let bad = post(&store, "/families/bk4/merge", &merge(" ", json!(null))).await;
    assert_eq!(paths(&bad.1), ["/source"]);
    let bad = post(&store, "/families/bk4/merge", &merge("A friend", json!(0))).await;
    assert_eq!(bad.0, StatusCode::UNPROCESSABLE_ENTITY);
    // What was merged can be published.
    let body = json!({"from": own["version"], "sheet": both}).to_string();
    assert_eq!(ask(&store, Method::PUT, "/families/bk4", body).await.0, StatusCode::OK);
}

#[actix_web::test]
async fn a_list_is_read_judged_in_parts_and_one_taken_to_the_yard() {
    let (store, _) = with_demo().await;
    let text = "Brannick Ferryman BK4 1.5 turbo petrol, 2016, 121 400 km, 6 800, nine seats\n\
                diesel estate automatic, 2015, 140 000 km, 5 400\n\
                diesel estate automatic, 2017, 90 000 km, 8 200\n\
                diesel estate automatic, 2017, 90 000 km, 8 200\n\
                something nice, POA\n\
                diesel estate automatic, 2015, 141 000 km, spares or repair, 900\n";
    let list = json!({"text": text, "currency": "HSC", "years": 3, "km_a_year": 15000});
    let (status, read) = post(&store, "/adverts/list", &list).await;
    assert_eq!(status, StatusCode::OK, "{read}");
    // Kind by kind, and by usage within a kind.
    assert_eq!(read["open"], json!([1, 3, 2]));
    assert_eq!(read["lines"][3]["same_as"], json!(3));
    assert_eq!(read["apart"], json!([{"line": 6, "said": "spares or repair"}]));
    let (status, judged) = post(&store, "/adverts/judge", &json!({"list": list, "lines": [1, 2, 3, 5, 6]})).await;
    assert_eq!((status, judged.as_array().unwrap().len()), (StatusCode::OK, 3), "{judged}");
    let (status, taken) = post(&store, "/adverts/take", &json!({"list": list, "line": 2})).await;
    assert_eq!(status, StatusCode::OK, "{taken}");
    let id = taken["candidate"].as_str().unwrap();
    let (_, view) = get(&store, &format!("/candidates/{id}")).await;
    assert_eq!(view["candidate"]["asking"].as_f64(), Some(5400.0));
    assert!(view["assessment"]["points"].as_array().unwrap().len() > 40);
    // The next of its kind uses the sheet that was made.
    let sheets = get(&store, "/families").await.1.as_array().unwrap().len();
    assert_eq!(post(&store, "/adverts/take", &json!({"list": list, "line": 3})).await.0, StatusCode::OK);
    assert_eq!(get(&store, "/families").await.1.as_array().unwrap().len(), sheets);

    let bad = post(&store, "/adverts/take", &json!({"list": list, "line": 5})).await;
    assert_eq!(paths(&bad.1), ["/line"]);
    let other = json!({"text": text, "currency": "EUR", "years": 3, "km_a_year": 15000});
    let (_, read) = post(&store, "/adverts/list", &other).await;
    assert_eq!(read["lines"][0]["missing"], json!(["a sheet in this currency"]));
    for wrong in [
        json!({"text": text, "currency": "hsc", "years": 3, "km_a_year": 15000}),
        json!({"text": text, "currency": "HSC", "years": 0, "km_a_year": 15000}),
        json!({"text": text, "currency": "HSC", "years": 3, "km_a_year": 1}),
        json!({"text": "a\n".repeat(30_000), "currency": "HSC", "years": 3, "km_a_year": 15000}),
    ] {
        assert_eq!(post(&store, "/adverts/list", &wrong).await.0, StatusCode::UNPROCESSABLE_ENTITY, "{wrong:.60}");
    }
    assert_eq!(
        post(&store, "/adverts/judge", &json!({"list": list, "lines": []})).await.0,
        StatusCode::UNPROCESSABLE_ENTITY
    );
}

#[actix_web::test]
async fn which_builds_to_look_for_is_said_with_its_money() {
    let (store, _) = with_demo().await;
    let wanted = json!({"years": 3.0, "usage_a_year": 15000.0});
    let (status, n) = post(&store, "/narrow", &json!({"families": ["bk4", "ferryman"], "wanted": wanted})).await;
    assert_eq!(status, StatusCode::OK, "{n}");
    assert!(n["stretches"].as_array().unwrap().len() >= 2 && n["currency"] == "HSC");
    for (families, wanted, status) in [
        (json!(["nobody"]), wanted.clone(), StatusCode::NOT_FOUND),
        (json!([]), wanted.clone(), StatusCode::UNPROCESSABLE_ENTITY),
        (json!(["bk4", "base-engine"]), wanted.clone(), StatusCode::UNPROCESSABLE_ENTITY),
        (json!(["bk4"]), json!({"years": 99.0, "usage_a_year": 15000.0}), StatusCode::UNPROCESSABLE_ENTITY),
        (json!(["bk4"]), json!({"years": 3.0, "usage_a_year": 0.0}), StatusCode::UNPROCESSABLE_ENTITY),
    ] {
        let body = json!({"families": families, "wanted": wanted});
        assert_eq!(post(&store, "/narrow", &body).await.0, status, "{body}");
    }
}

#[actix_web::test]
async fn what_an_advert_says_of_parts_goes_to_the_yard_with_it() {
    let (store, _) = with_demo().await;
    let text = "red diesel van manual 2012 - 70,700 km - 6,050 - new clutch last year\n\
                green petrol hatch manual, 2014, 120 000 km, 2 400, clutch slipping\n";
    let list = json!({"text": text, "currency": "HSC", "years": 3, "km_a_year": 15000});
    let mut said = Vec::new();
    for line in [1, 2] {
        let (status, taken) = post(&store, "/adverts/take", &json!({"list": list, "line": line})).await;
        assert_eq!(status, StatusCode::OK, "{taken}");
        let (_, view) = get(&store, &format!("/candidates/{}", taken["candidate"].as_str().unwrap())).await;
        let candidate = &view["candidate"];
        // No sheet names it: its own was made, and what is said is of that one.
        let own = candidate["families"][0]["id"].as_str().unwrap();
        let of = |list: &Value, at: &str| {
            let all = list.as_array().into_iter().flatten();
            all.filter_map(|x| Some(x.pointer(at)?.as_str()? == own)).collect::<Vec<bool>>()
        };
        said.push((of(&candidate["ledger"], "/renews/0/family"), of(&candidate["findings"], "/family")));
    }
    assert_eq!(said, [(vec![true], vec![]), (vec![], vec![true])]);
}
