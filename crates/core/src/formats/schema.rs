//! The JSON Schemas of the open formats, published in `docs/schema/`.

use serde_json::{Map, Value, json};
use utoipa::{PartialSchema, ToSchema};

/// The JSON Schema (2020-12) of a document type.
#[must_use]
pub fn schema<T: ToSchema + PartialSchema>() -> Value {
    let mut parts = Vec::new();
    T::schemas(&mut parts);
    let mut defs = Map::new();
    for (name, part) in parts {
        defs.insert(name, serde_json::to_value(part).unwrap_or(Value::Null));
    }
    let mut root = serde_json::to_value(T::schema()).unwrap_or(Value::Null);
    if let Value::Object(o) = &mut root {
        o.insert("$schema".to_owned(), json!("https://json-schema.org/draft/2020-12/schema"));
        o.insert("title".to_owned(), json!(T::name()));
        o.insert("$defs".to_owned(), Value::Object(defs));
    }
    local_references(&mut root);
    root
}

fn local_references(v: &mut Value) {
    match v {
        Value::Object(o) => {
            if let Some(Value::String(r)) = o.get_mut("$ref") {
                *r = r.replace("#/components/schemas/", "#/$defs/");
            }
            o.values_mut().for_each(local_references);
        }
        Value::Array(a) => a.iter_mut().for_each(local_references),
        _ => {}
    }
}
