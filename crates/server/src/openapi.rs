//! The OpenAPI document.

use actix_web::{get, web};
use ticksage_core::formats::papers_table::TableKind;
use utoipa::OpenApi;

use crate::routes::{archive, attachments, candidates, decide, families, history, insight, papers, scan, service};

/// The OpenAPI document.
#[derive(OpenApi)]
#[openapi(
    info(
        title = "Tick Sage",
        description = "From claims, papers and findings on a used vehicle or engine to a decision. Every result is an estimate from stated assumptions, not a warranty; local roadworthiness rules and licensed technicians take precedence."
    ),
    servers((url = "/api")),
    components(schemas(TableKind, crate::scan_session::ScanStep)),
    paths(
        service::health,
        service::assumptions,
        families::list_families,
        families::get_family,
        families::import_family,
        candidates::list_candidates,
        candidates::create_candidate,
        candidates::import_candidate,
        candidates::get_candidate,
        candidates::get_document,
        candidates::edit_candidate,
        candidates::archive_candidate,
        candidates::export_candidate,
        candidates::add_finding,
        candidates::undo_finding,
        candidates::measure_out,
        candidates::try_out,
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
    )
)]
#[derive(Debug)]
pub struct Api;

#[get("/openapi.json")]
pub(crate) async fn openapi_document() -> web::Json<utoipa::openapi::OpenApi> {
    web::Json(Api::openapi())
}
