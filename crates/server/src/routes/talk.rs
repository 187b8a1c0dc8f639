//! Routes of talk: lines read, and written into a sheet.

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use ticksage_core::Family;
use ticksage_core::base::units::UsageClock;
use ticksage_core::formats::documents;
use ticksage_core::formats::talk_tables::vocabulary;
use ticksage_core::talk::apply::TalkFrom;
use ticksage_core::talk::page::{AcceptedLine, LONGEST, PageReading, read_page, write_lines};
use ticksage_core::talk::said::Voice;
use ticksage_store::{Store, StoreError};
use utoipa::ToSchema;

use crate::aside::aside;
use crate::body::Document;
use crate::judging::table;
use crate::problem::Problem;
use crate::routes::built::sound;
use crate::routes::families::FamilyHead;

/// Lines of talk.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TalkText {
    /// As typed, dictated or pasted.
    #[schema(max_length = 1000000)]
    pub text: String,
    /// The sheet that they are about; none: a car.
    #[serde(default)]
    pub family: Option<String>,
    /// Whether figures without a unit are miles.
    #[serde(default)]
    pub miles: bool,
}

fn voice(family: Option<&Family>, miles: bool) -> Voice {
    Voice { hours: family.is_some_and(|f| f.clock == UsageClock::Hours), miles }
}

/// Reads lines of talk; nothing is stored.
#[utoipa::path(tag = "families", request_body = TalkText,
    responses((status = 200, body = PageReading), (status = 404, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/talk/read")]
pub async fn read_talk(
    store: web::Data<Store>,
    Document(asked): Document<TalkText>,
) -> Result<web::Json<PageReading>, Problem> {
    if asked.text.chars().count() > LONGEST {
        return Err(Problem::fault("/text", &format!("longer than {LONGEST} characters: paste it in parts")));
    }
    let family = match &asked.family {
        Some(id) => Some(store.family(id, None).await?),
        None => None,
    };
    let read = aside(move || {
        let words = vocabulary(family.as_ref());
        Ok::<_, Problem>(read_page(&asked.text, voice(family.as_ref(), asked.miles), &words))
    });
    Ok(web::Json(read.await?))
}

/// Lines to write into a sheet.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TalkLines {
    /// The version that they are added to.
    #[schema(minimum = 1)]
    pub from: u32,
    /// The lines.
    #[schema(min_items = 1, max_items = 5000)]
    pub lines: Vec<AcceptedLine>,
    /// The draft that they are written into; then nothing is stored and the answer has the draft.
    #[serde(default)]
    #[schema(value_type = Option<Family>)]
    pub sheet: Option<serde_json::Value>,
    /// Where they come from.
    #[serde(default)]
    pub source: TalkFrom,
    /// Whether figures without a unit are miles.
    #[serde(default)]
    pub miles: bool,
}

/// What writing lines came to.
#[derive(Debug, Serialize, ToSchema)]
pub struct TalkWritten {
    /// The sheet.
    pub family: FamilyHead,
    /// The draft with the lines in it, where one was given.
    pub draft: Option<Family>,
    /// Lines that changed it.
    pub changed: usize,
    /// Lines that it held already.
    pub known: usize,
    /// Lines that could not be placed, word for word.
    pub notes: Vec<String>,
}

/// Writes lines into a sheet: a new version, or none where nothing changed. Candidates stay on theirs.
#[utoipa::path(tag = "families", params(("id" = String, Path)), request_body = TalkLines,
    responses((status = 200, body = TalkWritten), (status = 404, body = Problem), (status = 409, body = Problem),
        (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/families/{id}/talk")]
pub async fn write_talk(
    store: web::Data<Store>,
    id: web::Path<String>,
    Document(told): Document<TalkLines>,
) -> Result<web::Json<TalkWritten>, Problem> {
    let mut family = store.family(&id, None).await?;
    let drafted = told.sheet.is_some();
    if let Some(sheet) = &told.sheet {
        family = documents::read_family(&sheet.to_string()).map_err(Problem::faulty)?;
    } else if family.version != told.from {
        return Err(StoreError::Conflict { current: i32::try_from(family.version).unwrap_or(i32::MAX) }.into());
    }
    if family.kind.is_base() {
        return Err(Problem::fault(
            "/lines",
            "a sheet that ships with the application is not written into: make one of your own",
        ));
    }
    let (family, written) = aside(move || {
        let words = vocabulary(Some(&family));
        let voice = voice(Some(&family), told.miles);
        let written = write_lines(&mut family, &told.lines, &told.source, voice, &words, &table());
        if written.changed > 0 && !drafted {
            family.version += 1;
        }
        Ok::<_, Problem>((sound(family)?, written))
    })
    .await?;
    if written.changed > 0 && !drafted {
        store.put_family(&family).await?;
    }
    Ok(web::Json(TalkWritten {
        draft: drafted.then(|| family.clone()),
        family: FamilyHead::from(family),
        changed: written.changed,
        known: written.known,
        notes: written.notes,
    }))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(read_talk).service(write_talk);
}
