//! An issued report as a file: frozen, with a fingerprint that anybody can compute again.
//!
//! The fingerprint is the SHA-256 of the document without it, written as JSON with sorted keys and no blanks.

use serde_json::Value;
use sha2::{Digest, Sha256};

/// The format mark of an issued report.
pub const FORMAT: &str = "ticksage-report/1";

/// The text of a document, with sorted keys; written and read until it stays the same, so that whoever reads it writes
/// the same text again.
fn settled(document: &Value) -> String {
    let mut text = document.to_string();
    for _ in 0..4 {
        let again = serde_json::from_str::<Value>(&text).map_or_else(|_| text.clone(), |v| v.to_string());
        if again == text {
            break;
        }
        text = again;
    }
    text
}

/// The fingerprint of a text, as hexadecimal digits.
#[must_use]
pub fn fingerprint_of(text: &[u8]) -> String {
    Sha256::digest(text).iter().fold(String::new(), |out, b| out + &format!("{b:02x}"))
}

/// Seals a document: its text with the fingerprint in it, and the fingerprint.
#[must_use]
pub fn seal(document: Value) -> (String, String) {
    let text = settled(&document);
    let fingerprint = fingerprint_of(text.as_bytes());
    let mut sealed: Value = serde_json::from_str(&text).unwrap_or(document);
    if let Value::Object(fields) = &mut sealed {
        fields.insert("fingerprint".to_owned(), Value::String(fingerprint.clone()));
    }
    (sealed.to_string(), fingerprint)
}

/// Reads a sealed document and holds it to its fingerprint: the document, and the fingerprint.
///
/// # Errors
/// What is wrong, in a sentence.
pub fn verify(text: &str) -> Result<(Value, String), String> {
    let mut document: Value = serde_json::from_str(text).map_err(|e| format!("this is no JSON: {e}"))?;
    let fields = document.as_object_mut().ok_or("this is no issued report")?;
    if fields.get("format").and_then(Value::as_str) != Some(FORMAT) {
        return Err(format!("this is no issued report: its format is not {FORMAT}"));
    }
    let told = fields.remove("fingerprint").and_then(|f| f.as_str().map(str::to_owned));
    let told = told.ok_or("this report bears no fingerprint")?;
    let found = fingerprint_of(settled(&document).as_bytes());
    if found == told {
        Ok((document, told))
    } else {
        Err(format!("this report was changed after it was issued: it bears {told}, and its content has {found}"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    fn document() -> Value {
        json!({"format": FORMAT, "number": 3, "figures": [0.1, 1e-9, 12345.678901234567, 1.0 / 3.0], "b": {"z": 1, "a": "ä"}})
    }

    #[test]
    fn what_is_sealed_is_confirmed_however_it_is_laid_out() {
        let (text, fingerprint) = seal(document());
        assert_eq!(verify(&text).unwrap().1, fingerprint);
        let pretty = serde_json::to_string_pretty(&serde_json::from_str::<Value>(&text).unwrap()).unwrap();
        assert_eq!(verify(&pretty).unwrap().1, fingerprint);
        assert_eq!(fingerprint.len(), 64);
    }

    #[test]
    fn a_changed_figure_or_word_is_found() {
        let (text, _) = seal(document());
        for (from, to) in [("12345.6789", "12345.6788"), ("ä", "a"), ("\"number\":3", "\"number\":4")] {
            assert!(text.contains(from));
            assert!(verify(&text.replace(from, to)).unwrap_err().contains("was changed"), "{from}");
        }
        assert!(verify("{}").unwrap_err().contains("no issued report"));
        assert!(verify("nonsense").unwrap_err().contains("no JSON"));
    }
}
