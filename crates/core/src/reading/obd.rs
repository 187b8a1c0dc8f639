//! The published diagnostic services (SAE J1979: 01, 03, 07, 09, 0A) as serial adapters speak them: a
//! request in hexadecimal, an answer of lines in hexadecimal, ended by a prompt.
//!
//! Only decoding: the link itself belongs to whoever holds it.

use crate::base::trouble_code::Code;
use crate::documents::scan::{Monitor, MonitorState, Scan, ScanItem};

/// The prompt that ends an answer.
pub const PROMPT: u8 = b'>';

/// Why an answer could not be used.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum AnswerFault {
    /// The control unit has nothing to say.
    #[error("the control unit gives no answer to this")]
    NoData,
    /// The adapter cannot reach the control unit.
    #[error("the adapter cannot reach the control unit ({0}): is the ignition on, and the plug home?")]
    NoLink(String),
    /// The adapter does not understand.
    #[error("the adapter does not understand the request")]
    NotUnderstood,
    /// The control unit refuses.
    #[error("the control unit refuses it")]
    Refused,
    /// What came is no answer to what was asked.
    #[error("what came back makes no sense: \"{0}\"")]
    Garbage(String),
    /// The answer is shorter than it says.
    #[error("the answer broke off in the middle")]
    BrokenOff,
}

/// What is asked, in order; what the control unit does not offer is passed over.
pub const REQUESTS: [(ScanItem, &str); 14] = [
    (ScanItem::SupportedPids, "0100"),
    (ScanItem::Readiness, "0101"),
    (ScanItem::Stored, "03"),
    (ScanItem::Pending, "07"),
    (ScanItem::Permanent, "0A"),
    (ScanItem::Vin, "0902"),
    (ScanItem::Coolant, "0105"),
    (ScanItem::ShortOne, "0106"),
    (ScanItem::LongOne, "0107"),
    (ScanItem::ShortTwo, "0108"),
    (ScanItem::LongTwo, "0109"),
    (ScanItem::WarmUps, "0130"),
    (ScanItem::ClearedKm, "0131"),
    (ScanItem::Voltage, "0142"),
];

/// Requests for which parameters are offered: 01 to 20, 21 to 40, 41 to 60.
pub const OFFERED: [&str; 3] = ["0100", "0120", "0140"];

/// Answers that say that the link failed.
const LINK_FAILED: [&str; 10] = [
    "UNABLE TO CONNECT",
    "CAN ERROR",
    "BUS ERROR",
    "BUS BUSY",
    "BUS INIT: ERROR",
    "BUS INIT: ...ERROR",
    "FB ERROR",
    "LV RESET",
    "STOPPED",
    "BUFFER FULL",
];

/// The messages in an answer, each from its service byte on.
///
/// # Errors
/// [`AnswerFault`], by what the adapter or the control unit said.
pub fn messages(answer: &str, request: &str) -> Result<Vec<Vec<u8>>, AnswerFault> {
    let mut out: Vec<Vec<u8>> = Vec::new();
    // A message in several frames: the bytes that are still to come.
    let mut open: Option<(usize, Vec<u8>)> = None;
    let lines = answer.split(['\r', '\n', '>']).map(str::trim).filter(|l| !l.is_empty());
    for line in lines {
        let upper = line.to_uppercase();
        let text = upper.strip_prefix("SEARCHING...").unwrap_or(&upper).trim();
        let compact: String = text.chars().filter(|c| !c.is_whitespace()).collect();
        if compact.is_empty() || compact == request || text.starts_with("BUS INIT") && text.ends_with("OK") {
            continue;
        }
        if text == "?" {
            return Err(AnswerFault::NotUnderstood);
        }
        if compact == "NODATA" {
            return if out.is_empty() { Err(AnswerFault::NoData) } else { Ok(out) };
        }
        if LINK_FAILED.iter().any(|e| text.starts_with(e)) || text.ends_with("ERROR") {
            return Err(AnswerFault::NoLink(text.to_lowercase()));
        }
        if let Some((number, rest)) = compact.split_once(':') {
            let (Some((length, bytes)), true) = (open.as_mut(), number.len() == 1) else {
                return Err(AnswerFault::Garbage(line.to_owned()));
            };
            bytes.extend(hex(rest).ok_or_else(|| AnswerFault::Garbage(line.to_owned()))?);
            if bytes.len() >= *length {
                bytes.truncate(*length);
                out.extend(open.take().map(|o| o.1));
            }
        } else if compact.len() == 3 && usize::from_str_radix(&compact, 16).is_ok() {
            open = usize::from_str_radix(&compact, 16).ok().map(|n| (n, Vec::new()));
        } else {
            out.push(hex(&compact).ok_or_else(|| AnswerFault::Garbage(line.to_owned()))?);
        }
    }
    if open.is_some() {
        return Err(AnswerFault::BrokenOff);
    }
    let asked = hex(request).unwrap_or_default();
    let service = asked.first().copied().unwrap_or(0);
    if out.iter().any(|m| m.first() == Some(&0x7f) && m.get(1) == Some(&service)) {
        return Err(AnswerFault::Refused);
    }
    let answers =
        |m: &Vec<u8>| m.first() == Some(&(service + 0x40)) && asked.get(1).is_none_or(|pid| m.get(1) == Some(pid));
    let (good, other): (Vec<_>, Vec<_>) = out.into_iter().partition(answers);
    match (good.is_empty(), other.first()) {
        (false, _) => Ok(good),
        (true, Some(m)) => {
            Err(AnswerFault::Garbage(m.iter().map(|b| format!("{b:02X} ")).collect::<String>().trim().to_owned()))
        }
        (true, None) => Err(AnswerFault::Garbage("nothing".to_owned())),
    }
}

fn hex(text: &str) -> Option<Vec<u8>> {
    let even = text.len().is_multiple_of(2) && !text.is_empty() && text.is_ascii();
    let bytes = even.then(|| (0..text.len()).step_by(2).map(|i| u8::from_str_radix(&text[i..i + 2], 16).ok()));
    bytes?.collect()
}

/// Parameters that an answer to 0100, 0120 or 0140 says are offered.
#[must_use]
pub fn offered(messages: &[Vec<u8>]) -> Vec<u8> {
    let mut out = Vec::new();
    for m in messages.iter().filter(|m| m.len() >= 6) {
        for (k, byte) in (0u8..).zip(&m[2..6]) {
            out.extend((0..8u8).filter(|bit| byte & (0x80 >> bit) != 0).map(|bit| m[1] + 8 * k + bit + 1));
        }
    }
    out
}

/// Takes what an answer says into the scan.
///
/// # Errors
/// [`AnswerFault`]; the scan is left as it was.
pub fn take(scan: &mut Scan, item: ScanItem, answer: &str) -> Result<(), AnswerFault> {
    let request = REQUESTS.iter().find(|r| r.0 == item).map_or("", |r| r.1);
    let all = messages(answer, request)?;
    // Several control units may answer; the figures of the first, the engine's, are taken.
    let data = |n: usize| match all.iter().find(|m| m.len() >= 2 + n) {
        Some(m) => Ok(m[2..2 + n].to_vec()),
        None => Err(AnswerFault::BrokenOff),
    };
    match item {
        ScanItem::SupportedPids => {}
        ScanItem::Stored => scan.stored = Some(codes(&all)?),
        ScanItem::Pending => scan.pending = Some(codes(&all)?),
        ScanItem::Permanent => scan.permanent = Some(codes(&all)?),
        ScanItem::Vin => scan.vin = Some(number(&all)?),
        ScanItem::Readiness => {
            let bytes = data(4)?;
            scan.mil = Some(all.iter().any(|m| m.len() >= 6 && m[2] & 0x80 != 0));
            scan.monitors = monitors(&bytes);
        }
        ScanItem::Coolant => scan.coolant = Some(f64::from(data(1)?[0]) - 40.0),
        ScanItem::ShortOne => scan.set_trim(1, false, trim(data(1)?[0])),
        ScanItem::LongOne => scan.set_trim(1, true, trim(data(1)?[0])),
        ScanItem::ShortTwo => scan.set_trim(2, false, trim(data(1)?[0])),
        ScanItem::LongTwo => scan.set_trim(2, true, trim(data(1)?[0])),
        ScanItem::WarmUps => scan.warm_ups = Some(data(1)?[0]),
        ScanItem::ClearedKm => scan.cleared_km = Some(word(&data(2)?)),
        ScanItem::Voltage => scan.voltage = Some(f64::from(word(&data(2)?)) / 1000.0),
    }
    Ok(())
}

fn word(bytes: &[u8]) -> u16 {
    u16::from_be_bytes([bytes[0], bytes[1]])
}

/// Fuel trim of a byte, per cent: (A − 128) · 100 / 128, to a tenth.
fn trim(byte: u8) -> f64 {
    ((f64::from(byte) - 128.0) * 1000.0 / 128.0).round() / 10.0
}

/// Codes of every message. On a CAN bus a count stands before them, so that the rest is odd in length;
/// older links send three at a time, padded with zeros.
fn codes(messages: &[Vec<u8>]) -> Result<Vec<Code>, AnswerFault> {
    let mut out = Vec::new();
    for m in messages {
        let rest = &m[1..];
        let pairs = if rest.len() % 2 == 1 {
            let count = usize::from(rest[0]);
            if rest.len() < 1 + 2 * count {
                return Err(AnswerFault::BrokenOff);
            }
            &rest[1..=2 * count]
        } else {
            rest
        };
        out.extend(pairs.chunks_exact(2).filter_map(|p| Code::from_bytes(p[0], p[1])));
    }
    out.sort_unstable();
    out.dedup();
    Ok(out)
}

/// The identification number: on a CAN bus one message, else five numbered ones of four characters.
fn number(messages: &[Vec<u8>]) -> Result<String, AnswerFault> {
    let mut parts: Vec<&Vec<u8>> = messages.iter().filter(|m| m.len() > 3).collect();
    if parts.len() > 1 && parts.iter().all(|m| m.len() == 7) {
        parts.sort_by_key(|m| m[2]);
    } else {
        parts.truncate(1);
    }
    let characters: Vec<u8> = parts.iter().flat_map(|m| &m[3..]).copied().filter(|b| *b != 0).collect();
    let readable = characters.iter().all(u8::is_ascii_alphanumeric);
    let text: String = characters.iter().map(|b| char::from(*b)).collect();
    match (readable, text.len()) {
        (true, 17) => Ok(text),
        (true, n) if n < 17 => Err(AnswerFault::BrokenOff),
        _ => Err(AnswerFault::Garbage(text)),
    }
}

const SPARK: [Monitor; 8] = [
    Monitor::Catalyst,
    Monitor::HeatedCatalyst,
    Monitor::Evap,
    Monitor::SecondaryAir,
    Monitor::Refrigerant,
    Monitor::OxygenSensor,
    Monitor::OxygenHeater,
    Monitor::Recirculation,
];

/// The same bits of a compression ignition engine; two of them are kept free.
const COMPRESSION: [Option<Monitor>; 8] = [
    Some(Monitor::HydrocarbonCatalyst),
    Some(Monitor::NitrogenOxides),
    None,
    Some(Monitor::Boost),
    None,
    Some(Monitor::ExhaustSensor),
    Some(Monitor::ParticulateFilter),
    Some(Monitor::Recirculation),
];

/// Monitors of the bytes B, C and D that follow the lamp's.
fn monitors(bytes: &[u8]) -> Vec<MonitorState> {
    let (b, c, d) = (bytes[1], bytes[2], bytes[3]);
    let mut out = Vec::new();
    for (bit, monitor) in [Monitor::Misfire, Monitor::FuelSystem, Monitor::Components].into_iter().enumerate() {
        if b & (1 << bit) != 0 {
            out.push(MonitorState { monitor, complete: b & (0x10 << bit) == 0 });
        }
    }
    let compression = b & 0x08 != 0;
    for bit in 0..8 {
        let monitor = if compression { COMPRESSION[bit] } else { Some(SPARK[bit]) };
        if let Some(monitor) = monitor.filter(|_| c & (1 << bit) != 0) {
            out.push(MonitorState { monitor, complete: d & (1 << bit) == 0 });
        }
    }
    out
}

/// What a control unit in a certain state answers: the other direction of [`take`], for adapters that are
/// simulated. Lines without prompt; `can` is the bus of newer vehicles.
#[must_use]
pub fn answer(scan: &Scan, request: &str, can: bool) -> Vec<String> {
    let none = || vec!["NO DATA".to_owned()];
    let item = REQUESTS.iter().find(|r| r.1 == request).map(|r| r.0);
    let line = |bytes: &[u8]| vec![spaced(bytes)];
    let pid = hex(request).and_then(|b| b.get(1).copied()).unwrap_or(0);
    let one = |value: Option<u8>| value.map_or_else(none, |v| line(&[0x41, pid, v]));
    let two = |value: Option<u16>| {
        value.map_or_else(none, |v| {
            let [high, low] = v.to_be_bytes();
            line(&[0x41, pid, high, low])
        })
    };
    let trims = |bank: u8, long: bool| {
        let trim = scan.trims.iter().find(|t| t.bank == bank).and_then(|t| if long { t.long } else { t.short });
        one(trim.map(trim_byte))
    };
    match item {
        _ if OFFERED.contains(&request) => line(&offers(scan, pid)),
        Some(ScanItem::Readiness) => line(&status(scan)),
        Some(ScanItem::Stored) => scan.stored.as_ref().map_or_else(none, |c| code_lines(0x43, c, can)),
        Some(ScanItem::Pending) => scan.pending.as_ref().map_or_else(none, |c| code_lines(0x47, c, can)),
        Some(ScanItem::Permanent) => scan.permanent.as_ref().map_or_else(none, |c| code_lines(0x4a, c, can)),
        Some(ScanItem::Vin) => scan.vin.as_ref().map_or_else(none, |v| number_lines(v, can)),
        Some(ScanItem::Coolant) => one(scan.coolant.map(|c| byte(c + 40.0))),
        Some(ScanItem::ShortOne) => trims(1, false),
        Some(ScanItem::LongOne) => trims(1, true),
        Some(ScanItem::ShortTwo) => trims(2, false),
        Some(ScanItem::LongTwo) => trims(2, true),
        Some(ScanItem::WarmUps) => one(scan.warm_ups),
        Some(ScanItem::ClearedKm) => two(scan.cleared_km),
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
        Some(ScanItem::Voltage) => two(scan.voltage.map(|v| (v * 1000.0).round().clamp(0.0, 65_535.0) as u16)),
        Some(ScanItem::SupportedPids) | None => vec!["?".to_owned()],
    }
}

#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
fn byte(value: f64) -> u8 {
    value.round().clamp(0.0, 255.0) as u8
}

fn trim_byte(percent: f64) -> u8 {
    byte(percent * 128.0 / 100.0 + 128.0)
}

fn spaced(bytes: &[u8]) -> String {
    bytes.iter().map(|b| format!("{b:02X}")).collect::<Vec<_>>().join(" ")
}

/// A message of more than seven bytes goes out in frames: the first carries six, the others seven.
fn framed(bytes: &[u8]) -> Vec<String> {
    if bytes.len() <= 7 {
        return vec![spaced(bytes)];
    }
    let mut out = vec![format!("{:03X}", bytes.len()), format!("0: {}", spaced(&bytes[..6]))];
    for (k, chunk) in bytes[6..].chunks(7).enumerate() {
        let mut padded = chunk.to_vec();
        padded.resize(7, 0);
        out.push(format!("{:X}: {}", (k + 1) % 16, spaced(&padded)));
    }
    out
}

#[allow(clippy::cast_possible_truncation)]
fn code_lines(service: u8, codes: &[Code], can: bool) -> Vec<String> {
    if can {
        let mut bytes = vec![service, codes.len() as u8];
        bytes.extend(codes.iter().flat_map(|c| c.bytes()));
        return framed(&bytes);
    }
    let mut lines: Vec<String> = codes
        .chunks(3)
        .map(|three| {
            let mut bytes = vec![service];
            bytes.extend(three.iter().flat_map(|c| c.bytes()));
            bytes.resize(7, 0);
            spaced(&bytes)
        })
        .collect();
    if lines.is_empty() {
        lines.push(spaced(&[service, 0, 0, 0, 0, 0, 0]));
    }
    lines
}

fn number_lines(vin: &str, can: bool) -> Vec<String> {
    if can {
        let mut bytes = vec![0x49, 0x02, 0x01];
        bytes.extend(vin.bytes());
        return framed(&bytes);
    }
    let mut padded = vec![0u8; 20usize.saturating_sub(vin.len())];
    padded.extend(vin.bytes());
    (1u8..)
        .zip(padded.chunks(4))
        .map(|(n, four)| {
            let mut bytes = vec![0x49, 0x02, n];
            bytes.extend(four);
            spaced(&bytes)
        })
        .collect()
}

fn offers(scan: &Scan, base: u8) -> Vec<u8> {
    let trim = |bank: u8, long: bool| {
        scan.trims.iter().any(|t| t.bank == bank && if long { t.long.is_some() } else { t.short.is_some() })
    };
    let has = |pid: u8| match pid {
        0x01 => scan.mil.is_some(),
        0x05 => scan.coolant.is_some(),
        0x06 => trim(1, false),
        0x07 => trim(1, true),
        0x08 => trim(2, false),
        0x09 => trim(2, true),
        // The next list is itself offered.
        0x20 | 0x40 => true,
        0x30 => scan.warm_ups.is_some(),
        0x31 => scan.cleared_km.is_some(),
        0x42 => scan.voltage.is_some(),
        _ => false,
    };
    let mut out = vec![0x41, base, 0, 0, 0, 0];
    for n in 0..32u8 {
        if has(base + n + 1) {
            out[2 + usize::from(n / 8)] |= 0x80 >> (n % 8);
        }
    }
    out
}

#[allow(clippy::cast_possible_truncation)]
fn status(scan: &Scan) -> Vec<u8> {
    let held = scan.stored.as_ref().map_or(0, |c| c.len().min(127)) as u8;
    let diesel = scan
        .monitors
        .iter()
        .any(|m| COMPRESSION.iter().flatten().any(|x| *x == m.monitor) && !SPARK.contains(&m.monitor));
    let mut out =
        vec![0x41, 0x01, held | if scan.mil == Some(true) { 0x80 } else { 0 }, if diesel { 0x08 } else { 0 }, 0, 0];
    for m in &scan.monitors {
        let front = [Monitor::Misfire, Monitor::FuelSystem, Monitor::Components].iter().position(|x| *x == m.monitor);
        let back = if diesel {
            COMPRESSION.iter().position(|x| *x == Some(m.monitor))
        } else {
            SPARK.iter().position(|x| *x == m.monitor)
        };
        if let Some(bit) = front {
            out[3] |= 1 << bit | if m.complete { 0 } else { 0x10 << bit };
        } else if let Some(bit) = back {
            out[4] |= 1 << bit;
            out[5] |= if m.complete { 0 } else { 1 << bit };
        }
    }
    out
}
