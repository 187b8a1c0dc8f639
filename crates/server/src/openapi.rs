//! The OpenAPI document.

use std::sync::LazyLock;

use actix_web::{get, web};
use ticksage_core::formats::papers_table::TableKind;
use utoipa::openapi::path::Operation;
use utoipa::openapi::{ContentBuilder, Ref, Response, ResponseBuilder};
use utoipa::{Modify, OpenApi};

use crate::routes::{
    adverts, archive, attachments, backup, built, candidates, decide, devices, families, history, insight, links,
    papers, reports, scan, service, sheets, talk,
};

/// The OpenAPI document.
#[derive(OpenApi)]
#[openapi(
    info(
        title = "Tick Sage",
        description = "From claims, papers and findings on a used vehicle or engine to a decision. Every result is an estimate from stated assumptions, not a warranty; local roadworthiness rules and licensed technicians take precedence."
    ),
    servers((url = "/api")),
    modifiers(&Common),
    components(schemas(TableKind, crate::scan_session::ScanStep, crate::views::Part)),
    paths(
        service::health,
        service::assumptions,
        service::get_settings,
        service::set_settings,
        built::list_patterns,
        built::ask_built,
        built::make_built,
        built::change_built,
        built::look_sane,
        built::point_as_given,
        adverts::read_adverts,
        adverts::judge_adverts,
        adverts::take_advert,
        adverts::narrow,
        sheets::look_at_draft,
        sheets::draw_draft_point,
        sheets::publish_sheet,
        sheets::compare_two,
        sheets::merge_sheets,
        talk::read_talk,
        talk::write_talk,
        families::list_families,
        families::get_family,
        families::import_family,
        families::read_advert,
        families::list_quotes,
        candidates::list_candidates,
        candidates::create_candidate,
        candidates::import_candidate,
        candidates::get_candidate,
        candidates::get_points,
        candidates::get_walk,
        candidates::get_document,
        candidates::edit_candidate,
        candidates::archive_candidate,
        candidates::export_candidate,
        candidates::add_finding,
        candidates::undo_finding,
        candidates::measure_out,
        candidates::try_out,
        candidates::try_road,
        candidates::try_walk,
        candidates::try_points,
        insight::point_detail,
        insight::what_moved,
        insight::what_would_move,
        insight::bill_spread,
        decide::side_by_side,
        decide::read_comparables,
        decide::set_comparables,
        decide::get_calendar,
        decide::calendar_file,
        decide::bill_table,
        decide::findings_table,
        archive::export_archive,
        archive::import_archive,
        papers::add_papers,
        papers::undo_papers,
        papers::read_line,
        papers::try_paper,
        papers::paper_moved,
        papers::read_table,
        papers::to_ask,
        papers::compare,
        attachments::attach,
        attachments::add_photo,
        attachments::get_attachment,
        attachments::undo_attachment,
        history::ask_history,
        history::read_history,
        history::take_history,
        scan::list_adapters,
        scan::run_scan,
        scan::read_scan,
        scan::write_scan,
        scan::decode_codes,
        devices::get_access,
        devices::pair,
        devices::make_code,
        devices::list_devices,
        devices::revoke_device,
        devices::get_authority,
        reports::issue_report,
        reports::list_reports,
        reports::get_report,
        links::make_link,
        links::list_links,
        links::revoke_link,
        links::open_link,
        links::shared_file,
        backup::backup,
    )
)]
#[derive(Debug)]
pub struct Api;

/// What any route may answer beside its own: the guard at the door, the records, the body.
struct Common;

impl Modify for Common {
    fn modify(&self, api: &mut utoipa::openapi::OpenApi) {
        for item in api.paths.paths.values_mut() {
            for (operation, writes) in [(&mut item.get, false), (&mut item.put, true), (&mut item.post, true)] {
                if let Some(operation) = operation {
                    add_common(operation, writes);
                }
            }
        }
    }
}

/// Adds the answers that an operation may give beside those it names itself.
fn add_common(operation: &mut Operation, writes: bool) {
    let mut may = vec![
        ("401", "The device is not paired"),
        ("403", "It comes under a name, or from a page, that has no business here"),
        ("500", "A fault of ours"),
        ("503", "The records do not answer just now"),
    ];
    if operation.parameters.as_ref().is_some_and(|p| !p.is_empty()) {
        may.push(("404", "No such record"));
        may.push(("422", "A parameter makes no sense"));
    }
    if operation.request_body.is_some() {
        may.push(("408", "The body stopped coming"));
        may.push(("413", "The body is too large"));
        may.push(("415", "The body does not say what it is"));
        may.push(("422", "The body makes no sense"));
    }
    if writes {
        may.push(("409", "Somebody else changed it meanwhile, or the id is taken"));
        may.push(("507", "The disk of the records is full"));
    }
    for (status, about) in may {
        operation.responses.responses.entry(status.to_owned()).or_insert_with(|| problem(about).into());
    }
}

fn problem(about: &str) -> Response {
    let content = ContentBuilder::new().schema(Some(Ref::from_schema_name("Problem"))).build();
    ResponseBuilder::new().description(about).content("application/json", content).build()
}

/// The methods that a path of the API takes, by the document itself; empty where there is no such path.
pub(crate) fn methods(path: &str) -> Vec<&'static str> {
    static ROUTES: LazyLock<Vec<(Vec<String>, Vec<&'static str>)>> = LazyLock::new(|| {
        let parts = |path: &str| path.split('/').map(str::to_owned).collect();
        let api = Api::openapi();
        let items = api.paths.paths.iter();
        items
            .map(|(path, item)| {
                let known = [("GET", &item.get), ("PUT", &item.put), ("POST", &item.post), ("DELETE", &item.delete)];
                (parts(path), known.into_iter().filter(|(_, o)| o.is_some()).map(|(m, _)| m).collect())
            })
            .collect()
    });
    let asked: Vec<&str> = path.split('/').collect();
    let fits = |parts: &[String]| {
        parts.len() == asked.len() && parts.iter().zip(&asked).all(|(p, a)| p == a || p.starts_with('{'))
    };
    let found = ROUTES.iter().filter(|(parts, _)| fits(parts));
    found.flat_map(|(_, methods)| methods.iter().copied()).collect()
}

#[get("/openapi.json")]
pub(crate) async fn openapi_document() -> web::Json<utoipa::openapi::OpenApi> {
    web::Json(Api::openapi())
}
