//! Reading documents in the open formats, with every fault reported at once.

use std::collections::BTreeMap;
use std::sync::{Arc, Mutex, PoisonError};

use jsonschema::Validator;
use serde::de::DeserializeOwned;
use serde_json::{Value, json};
use utoipa::{PartialSchema, ToSchema};

use crate::base::fault::Fault;
use crate::documents::candidate::{Bundle, Candidate};
use crate::documents::family::Family;
use crate::documents::history_report::HistoryReport;
use crate::formats::pattern_library::written_out;
use crate::formats::schema::schema;
use crate::formats::upgrade::upgrade;
use crate::validation::{candidate, family};

/// Reads a document of any type by its shape alone: its schema, and no field that it does not know.
///
/// # Errors
/// Every fault of shape, each with its path.
pub fn read_shape<T>(text: &str) -> Result<T, Vec<Fault>>
where
    T: ToSchema + PartialSchema + DeserializeOwned,
{
    read(text, |_| Vec::new())
}

/// Reads a family sheet.
///
/// # Errors
/// Every fault of shape and sense, each with its path.
pub fn read_family(text: &str) -> Result<Family, Vec<Fault>> {
    let family = read(text, |f: &Family| match written_out(f.clone()) {
        Ok(whole) => family::family_faults(&whole),
        Err(faults) => faults,
    })?;
    written_out(family)
}

/// Reads a candidate by its shape alone; its sense needs the sheets and is judged with them.
///
/// # Errors
/// Every fault of shape, each with its path.
pub fn read_candidate(text: &str) -> Result<Candidate, Vec<Fault>> {
    read(text, |_| Vec::new())
}

/// Reads a history report.
///
/// # Errors
/// Every fault of shape, each with its path.
pub fn read_history(text: &str) -> Result<HistoryReport, Vec<Fault>> {
    read(text, |_| Vec::new())
}

/// Reads a bundle: a candidate with every sheet that it names.
///
/// # Errors
/// Every fault of shape and sense, each with its path.
pub fn read_bundle(text: &str) -> Result<Bundle, Vec<Fault>> {
    let mut bundle: Bundle = read(text, |b: &Bundle| {
        let mut whole = b.clone();
        let mut faults = write_out(&mut whole);
        faults.extend(bundle_faults(&whole));
        faults
    })?;
    let faults = write_out(&mut bundle);
    if faults.is_empty() { Ok(bundle) } else { Err(faults) }
}

fn under(prefix: String) -> impl Fn(Fault) -> Fault {
    move |f: Fault| Fault { path: format!("{prefix}{}", f.path), message: f.message }
}

/// Writes out what patterns know of the families; what is wrong with their answers.
fn write_out(bundle: &mut Bundle) -> Vec<Fault> {
    let mut faults = Vec::new();
    for (i, f) in bundle.families.iter_mut().enumerate() {
        match written_out(f.clone()) {
            Ok(whole) => *f = whole,
            Err(list) => faults.extend(list.into_iter().map(under(format!("/families/{i}")))),
        }
    }
    faults
}

fn bundle_faults(b: &Bundle) -> Vec<Fault> {
    let families = b
        .families
        .iter()
        .enumerate()
        .flat_map(|(i, f)| family::family_faults(f).into_iter().map(under(format!("/families/{i}"))));
    let candidate =
        candidate::candidate_faults(&b.candidate, &b.families).into_iter().map(under("/candidate".to_owned()));
    families.chain(candidate).collect()
}

/// Reads a document already parsed, by its shape and by `sense`.
///
/// # Errors
/// Every fault, each with its path.
pub fn read_value<T>(value: &Value, sense: impl Fn(&T) -> Vec<Fault>) -> Result<T, Vec<Fault>>
where
    T: ToSchema + PartialSchema + DeserializeOwned,
{
    read_owned(value.clone(), sense)
}

fn read_owned<T>(mut value: Value, sense: impl Fn(&T) -> Vec<Fault>) -> Result<T, Vec<Fault>>
where
    T: ToSchema + PartialSchema + DeserializeOwned,
{
    let validator = validator::<T>()?;
    upgrade(&mut value);
    let mut faults = Vec::new();
    if holds_nul(&value) {
        unstorable(&value, &mut String::new(), &mut faults);
    }
    let mended = if validator.is_valid(&value) {
        value
    } else {
        let mut mended = value.clone();
        validator.iter_errors(&value).for_each(|error| shape_faults(&error, &mut faults, &mut mended));
        mended
    };
    match serde_json::from_value::<T>(mended) {
        Ok(document) => {
            // Figures out of range were put back into it, so that what else is wrong is told too.
            faults.extend(sense(&document));
            if faults.is_empty() { Ok(document) } else { Err(faults) }
        }
        Err(e) => {
            if faults.is_empty() {
                faults.push(Fault { path: String::new(), message: e.to_string() });
            }
            Err(faults)
        }
    }
}

/// Whether any text or name holds a NUL character.
fn holds_nul(value: &Value) -> bool {
    match value {
        Value::String(text) => text.contains('\0'),
        Value::Array(items) => items.iter().any(holds_nul),
        Value::Object(fields) => fields.iter().any(|(name, item)| name.contains('\0') || holds_nul(item)),
        _ => false,
    }
}

/// Texts with a character that no record can hold, each with its path.
fn unstorable(value: &Value, path: &mut String, faults: &mut Vec<Fault>) {
    let length = path.len();
    match value {
        Value::String(text) if text.contains('\0') => {
            let message = "holds a NUL character, which cannot be stored: take it out".to_owned();
            faults.push(Fault { path: path.clone(), message });
        }
        Value::Array(items) => {
            for (i, item) in items.iter().enumerate() {
                path.push_str(&format!("/{i}"));
                unstorable(item, path, faults);
                path.truncate(length);
            }
        }
        Value::Object(fields) => {
            for (name, item) in fields {
                path.push_str(&format!("/{}", name.replace('\0', "\u{FFFD}")));
                if name.contains('\0') {
                    faults.push(Fault { path: path.clone(), message: "has a NUL character in its name".to_owned() });
                }
                unstorable(item, path, faults);
                path.truncate(length);
            }
        }
        _ => {}
    }
}

/// The validator of a document type, built once: a run may read many thousand documents.
fn validator<T: ToSchema + PartialSchema>() -> Result<Arc<Validator>, Vec<Fault>> {
    static BUILT: Mutex<BTreeMap<String, Arc<Validator>>> = Mutex::new(BTreeMap::new());
    let mut built = BUILT.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(known) = built.get(T::name().as_ref()) {
        return Ok(Arc::clone(known));
    }
    let new = jsonschema::options()
        .should_validate_formats(true)
        .build(&schema::<T>())
        .map_err(|e| vec![Fault { path: String::new(), message: format!("the schema itself is faulty: {e}") }])?;
    let new = Arc::new(new);
    built.insert(T::name().into_owned(), Arc::clone(&new));
    Ok(new)
}

fn read<T>(text: &str, sense: impl Fn(&T) -> Vec<Fault>) -> Result<T, Vec<Fault>>
where
    T: ToSchema + PartialSchema + DeserializeOwned,
{
    let value: Value = serde_json::from_str(text)
        .map_err(|e| vec![Fault { path: String::new(), message: format!("this is not JSON: {e}") }])?;
    read_owned(value, sense)
}

/// Turns a schema error into faults, and mends what can be mended in the copy.
fn shape_faults(error: &jsonschema::ValidationError<'_>, faults: &mut Vec<Fault>, mended: &mut Value) {
    use jsonschema::error::ValidationErrorKind as K;
    let path = error.instance_path().to_string();
    match error.kind() {
        K::OneOfNotValid { context } | K::AnyOf { context } => {
            // The branch meant is the one whose own marks ("form", "kind") fit, with the fewest other
            // complaints.
            let meant = context.iter().filter(|b| !b.is_empty()).min_by_key(|branch| {
                let marks = branch.iter().filter(|e| matches!(e.kind(), K::Enum { .. } | K::Type { .. })).count();
                (marks, branch.len())
            });
            match meant.map(|branch| (branch, branch.iter().find(|e| matches!(e.kind(), K::Enum { .. })))) {
                Some((_, Some(mark))) => faults.push(unknown_mark(mark, context)),
                Some((branch, None)) => branch.iter().for_each(|e| shape_faults(e, faults, mended)),
                None => faults.push(Fault { path, message: error.to_string() }),
            }
        }
        K::AdditionalProperties { unexpected } => {
            for name in unexpected {
                if let Some(Value::Object(o)) = mended.pointer_mut(&path) {
                    o.remove(name);
                }
                faults.push(Fault { path: format!("{path}/{name}"), message: "is not known here".to_owned() });
            }
        }
        kind => {
            let bound = match kind {
                K::Minimum { limit } | K::Maximum { limit } => Some(limit.clone()),
                K::ExclusiveMinimum { .. } => Some(json!(1.0)),
                K::ExclusiveMaximum { .. } => Some(json!(0.5)),
                K::Format { format } if format == "date" => Some(json!("2000-01-01")),
                _ => None,
            };
            if let (Some(bound), Some(slot)) = (bound, mended.pointer_mut(&path)) {
                *slot = bound;
            }
            faults.push(Fault { path, message: error.to_string() });
        }
    }
}

/// A mark that no branch knows: every mark that one of them does.
fn unknown_mark(mark: &jsonschema::ValidationError<'_>, branches: &[Vec<jsonschema::ValidationError<'_>>]) -> Fault {
    use jsonschema::error::ValidationErrorKind as K;
    let at = mark.instance_path().to_string();
    let known: Vec<String> = branches
        .iter()
        .flatten()
        .filter(|e| e.instance_path().to_string() == at)
        .filter_map(|e| match e.kind() {
            K::Enum { options } => options.as_array().cloned(),
            _ => None,
        })
        .flatten()
        .map(|o| o.to_string())
        .collect();
    Fault { path: at, message: format!("{} is not known here: write one of {}", mark.instance(), known.join(", ")) }
}
