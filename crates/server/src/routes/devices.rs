//! Pairing of phones and other machines, and who is paired.

use actix_web::{HttpRequest, HttpResponse, get, post, put, web};
use qrcode::{EcLevel, QrCode};
use serde::{Deserialize, Serialize};
use ticksage_store::Store;
use ticksage_store::devices::{CODE_MINUTES, Session};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::access::{Access, new_code, new_token, paired, plain_code};
use crate::body::Document;
use crate::problem::Problem;

/// Whether this device is let in.
#[derive(Debug, Serialize, ToSchema)]
pub struct AccessView {
    /// Whether the API is answered to this device as it is.
    pub open: bool,
    /// Whether it is paired.
    pub paired: bool,
    /// Whether a certificate of the yard's own authority can be fetched, to be trusted once.
    pub authority: bool,
}

/// Whether this device is let in.
#[utoipa::path(tag = "devices", responses((status = 200, body = AccessView)))]
#[get("/access")]
pub async fn get_access(
    (access, store): (web::Data<Access>, web::Data<Store>),
    req: HttpRequest,
) -> Result<web::Json<AccessView>, Problem> {
    let paired = paired(&store, &req).await?.is_some();
    Ok(web::Json(AccessView { open: paired || access.trusts(&req), paired, authority: access.authority.is_some() }))
}

/// A device that wants in.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pairing {
    /// The short code, however it is typed.
    #[schema(min_length = 1, max_length = 80)]
    pub code: String,
    /// What the device is to be called.
    #[schema(min_length = 1, max_length = 60)]
    pub name: String,
}

/// Pairs the device that asks; its session comes as a cookie.
#[utoipa::path(tag = "devices", request_body = Pairing,
    responses((status = 204, description = "Paired"), (status = 403, body = Problem)))]
#[post("/pair")]
pub async fn pair(
    (access, store): (web::Data<Access>, web::Data<Store>),
    req: HttpRequest,
    Document(Pairing { code, name }): Document<Pairing>,
) -> Result<HttpResponse, Problem> {
    let (code, name, token) = (plain_code(&code), name.trim(), new_token());
    if name.is_empty() {
        return Err(Problem::fault("/name", "say what this device is called, so that you know it in the list"));
    }
    if access.is_key(&code) {
        store.add_session(&token, name).await?;
    } else if let Err(e) = store.pair(&code, &token, name).await {
        return Err(match e {
            ticksage_store::StoreError::NotFound(_) => Problem::forbidden(
                "This code does not open anything: it may be mistyped, used, or older than ten minutes. Ask for a new one.",
            ),
            e => e.into(),
        });
    }
    Ok(HttpResponse::NoContent().cookie(access.cookie(&req, token)).finish())
}

/// A code that pairs one device.
#[derive(Debug, Serialize, ToSchema)]
pub struct PairingCode {
    /// The code, to be typed.
    pub code: String,
    /// Minutes for which it is valid.
    pub minutes: i32,
    /// The address to open on the device; none where other machines cannot reach this one.
    pub address: Option<String>,
    /// The address with the code in it, to be photographed.
    pub qr: Option<QrPicture>,
}

/// A QR code as a picture.
#[derive(Debug, Serialize, ToSchema)]
pub struct QrPicture {
    /// Its side, in modules.
    pub side: usize,
    /// Its dark modules as an SVG path of unit squares.
    pub path: String,
}

/// Makes a code that pairs one device within ten minutes.
#[utoipa::path(tag = "devices", responses((status = 201, body = PairingCode)))]
#[post("/pairing-codes")]
pub async fn make_code(
    (access, store): (web::Data<Access>, web::Data<Store>),
    req: HttpRequest,
) -> Result<HttpResponse, Problem> {
    let code = new_code();
    store.add_pairing_code(&code).await?;
    let address = access.address.as_ref().map(|a| a.on(req.app_config().local_addr().port()));
    // The part after # stays on the device: no server and no proxy on the way sees it.
    let qr = address.as_ref().map(|a| picture(&format!("{a}/pair#{code}"))).transpose()?;
    let shown = format!("{}-{}", &code[..4], &code[4..]);
    Ok(HttpResponse::Created().json(PairingCode { code: shown, minutes: CODE_MINUTES, address, qr }))
}

fn picture(text: &str) -> Result<QrPicture, Problem> {
    let made = QrCode::with_error_correction_level(text, EcLevel::M).map_err(|e| Problem::internal(&e.to_string()))?;
    let side = made.width();
    let dark = made.to_colors().into_iter().enumerate().filter(|(_, c)| *c == qrcode::Color::Dark);
    let path = dark.map(|(i, _)| format!("M{} {}h1v1h-1z", i % side, i / side)).collect();
    Ok(QrPicture { side, path })
}

/// A paired device.
#[derive(Debug, Serialize, ToSchema)]
pub struct DeviceView {
    /// Its id.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// When it was paired, UTC.
    pub made_at: String,
    /// When it was used last, UTC.
    pub used_at: String,
    /// Whether it is the one that asks.
    pub this_one: bool,
}

/// Every paired device, the last used first.
#[utoipa::path(tag = "devices", responses((status = 200, body = Vec<DeviceView>)))]
#[get("/devices")]
pub async fn list_devices(store: web::Data<Store>, req: HttpRequest) -> Result<web::Json<Vec<DeviceView>>, Problem> {
    let own = paired(&store, &req).await?;
    let view =
        |Session { id, name, made_at, used_at }| DeviceView { id, name, made_at, used_at, this_one: own == Some(id) };
    Ok(web::Json(store.sessions().await?.into_iter().map(view).collect()))
}

/// Shuts a device out.
#[utoipa::path(tag = "devices", params(("id" = Uuid, Path)), responses((status = 204, description = "Shut out")))]
#[put("/devices/{id}/revoked")]
pub async fn revoke_device(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<HttpResponse, Problem> {
    store.revoke_session(*id).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// The certificate of the yard's own authority, for a phone to trust.
#[utoipa::path(tag = "devices", responses((status = 200, content_type = "application/x-x509-ca-cert"), (status = 404, body = Problem)))]
#[get("/authority")]
pub async fn get_authority(access: web::Data<Access>) -> Result<HttpResponse, Problem> {
    let pem = access.authority.clone().ok_or_else(|| Problem::not_found("authority"))?;
    Ok(HttpResponse::Ok().content_type("application/x-x509-ca-cert").body(pem))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config
        .service(get_access)
        .service(pair)
        .service(make_code)
        .service(list_devices)
        .service(revoke_device)
        .service(get_authority);
}
