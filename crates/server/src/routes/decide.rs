//! Routes of the decision: comparables, candidates side by side, what the bill becomes after buying, and what
//! leaves the application as tables and as a calendar.

use std::collections::HashMap;

use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, get, post, put, web};
use icalendar::Component;
use icalendar::{Event, Parameter, Property};
use serde::{Deserialize, Serialize};
use ticksage_core::assess::judge::assess_within;
use ticksage_core::base::fault;
use ticksage_core::documents::candidate::Comparable;
use ticksage_core::formats::comparables_table::{self, ComparablesReading};
use ticksage_core::formats::tables;
use ticksage_core::inference::depth::Depth;
use ticksage_core::money::bill_forecast::spread;
use ticksage_core::money::purchase_plan::{JobAt, PurchasePlan};
use ticksage_core::questions::calendar::{Calendar, CalendarEntry, EntryKind, calendar};
use ticksage_core::questions::comparison::{COUNT, Comparison, compare};
use ticksage_core::validation::candidate;
use ticksage_core::{Assessment, Candidate, Family};
use ticksage_store::Store;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

use crate::aside::aside;
use crate::body::{Body, Document};
use crate::judging::{compute, table};
use crate::problem::Problem;
use crate::routes::candidates::EditQuery;
use crate::views::{CandidateView, PartQuery, changed};

/// The candidates to lay side by side.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct CompareQuery {
    /// Two to four names, with commas between.
    pub ids: String,
}

/// Candidates side by side, with their names.
#[derive(Debug, Serialize, ToSchema)]
pub struct SideBySide {
    /// Names in the store, in the order asked for.
    pub ids: Vec<Uuid>,
    /// What the buyer calls them.
    pub titles: Vec<String>,
    /// The comparison.
    pub comparison: Comparison,
}

/// Two to four candidates under the first's plan.
#[utoipa::path(tag = "decision", params(CompareQuery),
    responses((status = 200, body = SideBySide), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/compare")]
pub async fn side_by_side(
    store: web::Data<Store>,
    query: web::Query<CompareQuery>,
) -> Result<web::Json<SideBySide>, Problem> {
    let mut ids: Vec<Uuid> = Vec::new();
    for text in query.ids.split(',').filter(|t| !t.is_empty()) {
        let id = text.trim().parse().map_err(|_| Problem::fault("/ids", &format!("\"{text}\" names no candidate")))?;
        if !ids.contains(&id) {
            ids.push(id);
        }
    }
    if !COUNT.contains(&ids.len()) {
        let say = format!("lay {} to {} candidates side by side", COUNT.start(), COUNT.end());
        return Err(Problem::fault("/ids", &say));
    }
    let mut list = Vec::with_capacity(ids.len());
    for id in &ids {
        let (record, families) = store.with_families(*id).await?;
        list.push((record.candidate, families));
    }
    let titles = list.iter().map(|l| l.0.title.clone()).collect();
    let comparison = compute(move |budget| compare(&list, &table(), budget).map_err(|(_, e)| e)).await?;
    Ok(web::Json(SideBySide { ids, titles, comparison }))
}

/// Reads a table of adverts. Nothing is stored.
#[utoipa::path(tag = "decision", params(("id" = Uuid, Path)), request_body(content = String, content_type = "text/csv"),
    responses((status = 200, body = ComparablesReading), (status = 404, body = Problem), (status = 413, body = Problem)))]
#[post("/candidates/{id}/comparables/table")]
pub async fn read_comparables(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    body: Body,
) -> Result<web::Json<ComparablesReading>, Problem> {
    let taken = body?;
    let candidate = store.candidate(*id).await?.candidate;
    Ok(web::Json(aside(move || Ok::<_, Problem>(comparables_table::read(taken.text()?, &candidate))).await?))
}

/// Adverts of others, and the other candidates that they serve as well.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewComparables {
    /// The whole set.
    #[schema(max_items = 500)]
    pub comparables: Vec<Comparable>,
    /// Other candidates that are given the same set.
    #[serde(default)]
    #[schema(max_items = 200)]
    pub serves: Vec<Uuid>,
}

/// Puts a set of comparables in the place of the earlier one, for this candidate and for others: all or none.
#[utoipa::path(tag = "decision", params(PartQuery, ("id" = Uuid, Path), EditQuery), request_body = NewComparables,
    responses((status = 200, body = CandidateView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[put("/candidates/{id}/comparables")]
pub async fn set_comparables(
    store: web::Data<Store>,
    part: web::Query<PartQuery>,
    id: web::Path<Uuid>,
    query: web::Query<EditQuery>,
    Document(body): Document<NewComparables>,
) -> Result<web::Json<CandidateView>, Problem> {
    let NewComparables { comparables, serves } = body;
    if comparables.len() > comparables_table::MOST {
        let say = format!("more than {} comparables: a few dozen say as much", comparables_table::MOST);
        return Err(Problem::fault("/comparables", &say));
    }
    let (first, families) = store.with_families(*id).await?;
    refuse_faults(&first.candidate, &families, &comparables, None)?;
    for other in &serves {
        let (record, families) = store.with_families(*other).await?;
        if record.candidate.currency != first.candidate.currency {
            let say = format!("\"{}\" is asked for in {}", record.candidate.title, record.candidate.currency);
            return Err(Problem::fault("/serves", &say));
        }
        refuse_faults(&record.candidate, &families, &comparables, Some(&record.candidate.title))?;
    }
    store.set_comparables((*id, query.version), &serves, &comparables).await?;
    Ok(web::Json(changed(&store, *id, part.part).await?))
}

/// Refuses comparables that make no sense for a candidate.
fn refuse_faults(
    candidate: &Candidate,
    families: &[Family],
    comparables: &[Comparable],
    title: Option<&str>,
) -> Result<(), Problem> {
    let trial = Candidate { comparables: comparables.to_vec(), ..candidate.clone() };
    let faults: Vec<fault::Fault> = candidate::candidate_faults(&trial, families)
        .into_iter()
        .filter(|f| f.path.starts_with("/comparables"))
        .map(|f| match title {
            Some(title) => fault::Fault { message: format!("{} (for \"{title}\")", f.message), ..f },
            None => f,
        })
        .collect();
    if faults.is_empty() { Ok(()) } else { Err(Problem::faulty(faults)) }
}

/// A candidate as judged, with what is done at purchase.
struct Judged {
    candidate: Candidate,
    assessment: Assessment,
    purchase_plan: PurchasePlan,
}

async fn judged(store: &Store, id: Uuid) -> Result<Judged, Problem> {
    let (record, families) = store.with_families(id).await?;
    compute(move |budget| {
        let table = table();
        let assessment = assess_within(&record.candidate, &families, &table, Depth::Sources, budget)?;
        let purchase_plan = spread(&record.candidate, &families, None, &table, budget)?.purchase_plan;
        Ok(Judged { candidate: record.candidate, assessment, purchase_plan })
    })
    .await
}

/// What the bill becomes: the calendar from the purchase, or from today while it is not bought.
#[utoipa::path(tag = "decision", params(("id" = Uuid, Path)),
    responses((status = 200, body = Calendar), (status = 404, body = Problem)))]
#[get("/candidates/{id}/calendar")]
pub async fn get_calendar(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<web::Json<Calendar>, Problem> {
    let j = judged(&store, *id).await?;
    Ok(web::Json(calendar(&j.candidate, &j.assessment, &j.purchase_plan)))
}

fn file(name: &str, id: Uuid, ending: &str, media: &str, body: String) -> HttpResponse {
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(format!("ticksage-{name}-{id}.{ending}"))],
    };
    HttpResponse::Ok().content_type(media.to_owned()).insert_header(disposition).body(body)
}

/// The calendar after purchase, for any calendar program (RFC 5545).
#[utoipa::path(tag = "decision", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "text/calendar"), (status = 404, body = Problem)))]
#[get("/candidates/{id}/calendar.ics")]
pub async fn calendar_file(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<HttpResponse, Problem> {
    let j = judged(&store, *id).await?;
    let plan = calendar(&j.candidate, &j.assessment, &j.purchase_plan);
    let mut out = icalendar::Calendar::new();
    out.name(&line(&j.candidate.title));
    // An event keeps its name when the plan changes: what it is about, and how many there were before it.
    let mut before: HashMap<String, usize> = HashMap::new();
    for e in &plan.entries {
        let about = match &e.about {
            JobAt::Point(at) => format!("{}-{}", at.family, at.point),
            JobAt::Work(at) => format!("{}-{}", at.family, at.interval),
        };
        let nth = before.entry(about.clone()).or_default();
        let name = format!("{about}-{nth}-{id}@ticksage");
        *nth += 1;
        if e.became.is_none() {
            out.push(event(e, &name, &j));
        }
    }
    for r in &plan.reminders {
        let nth = before.entry(r.rule.clone()).or_default();
        let name = format!("care-{}-{nth}-{id}@ticksage", r.rule);
        *nth += 1;
        let about = format!("{}. {}. An estimate of when, from your plan.", j.candidate.title, r.why);
        out.push(all_day(&name, r.date, (&format!("Care: {}", r.says), &about), &j));
    }
    Ok(file("plan", *id, "ics", "text/calendar; charset=utf-8", out.to_string()))
}

/// A text for a calendar's line: what ends a line or rings a bell stays out.
fn line(text: &str) -> String {
    text.chars().map(|c| if c.is_control() { ' ' } else { c }).collect()
}

fn event(e: &CalendarEntry, name: &str, j: &Judged) -> Event {
    let unit = match j.assessment.clock {
        ticksage_core::base::units::UsageClock::Km => "km",
        ticksage_core::base::units::UsageClock::Hours => "h",
    };
    let kind = match e.kind {
        EntryKind::Baseline => "Baseline service",
        EntryKind::AtPurchase => "At purchase",
        EntryKind::Scheduled => "Scheduled",
        EntryKind::Budget => "Budget for",
        EntryKind::Watch => "Watch",
    };
    let mut about = format!("{} at about {:.0} {unit}", j.candidate.title, e.usage);
    if !e.what.is_empty() {
        about.push_str(&format!(". {}", e.what));
    }
    if e.cost > 0.0 {
        about.push_str(&format!(". About {:.0} {}", e.cost, j.assessment.currency));
    }
    about.push_str(". An estimate from stated assumptions, not a warranty.");
    all_day(name, e.date, (&format!("{kind}: {}", e.name), &about), j)
}

/// An event of a whole day, with what it says in short and at length.
fn all_day(name: &str, day: jiff::civil::Date, (short, long): (&str, &str), j: &Judged) -> Event {
    let date = |name: &str, d: jiff::civil::Date| {
        let mut p = Property::new(name, format!("{:04}{:02}{:02}", d.year(), d.month(), d.day()));
        p.append_parameter(Parameter::new("VALUE", "DATE"));
        p.done()
    };
    let stamp = j.assessment.as_of;
    let mut event = Event::new();
    event
        .uid(&line(name))
        .add_property("DTSTAMP", format!("{:04}{:02}{:02}T000000Z", stamp.year(), stamp.month(), stamp.day()))
        .summary(&line(short))
        .description(&line(long))
        .append_property(date("DTSTART", day))
        .append_property(date("DTEND", day.tomorrow().unwrap_or(day)));
    event.done()
}

/// The bill by failure point and scheduled work.
#[utoipa::path(tag = "decision", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "text/csv"), (status = 404, body = Problem)))]
#[get("/candidates/{id}/bill.csv")]
pub async fn bill_table(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<HttpResponse, Problem> {
    let j = judged(&store, *id).await?;
    Ok(file("bill", *id, "csv", "text/csv; charset=utf-8", tables::bill(&j.assessment, &j.purchase_plan)))
}

/// The findings, oldest first.
#[utoipa::path(tag = "decision", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "text/csv"), (status = 404, body = Problem)))]
#[get("/candidates/{id}/findings.csv")]
pub async fn findings_table(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<HttpResponse, Problem> {
    let (record, families) = store.with_families(*id).await?;
    Ok(file("findings", *id, "csv", "text/csv; charset=utf-8", tables::findings(&record.candidate, &families)))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config
        .service(side_by_side)
        .service(read_comparables)
        .service(set_comparables)
        .service(get_calendar)
        .service(calendar_file)
        .service(bill_table)
        .service(findings_table);
}
