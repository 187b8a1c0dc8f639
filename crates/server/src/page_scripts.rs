//! The scripts that stand in the application's own page: each is allowed by its hash, and no other that stands in a page.
//!
//! What the page shows is asked for by such a script, before any file of the application has come.

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use sha2::{Digest, Sha256};

/// The sources of a policy that allow the scripts standing in a page, each with a space before it.
pub(crate) fn allowed(page: &str) -> String {
    let inner = page.split("<script>").skip(1).filter_map(|after| after.split_once("</script>"));
    inner.map(|(script, _)| format!(" 'sha256-{}'", STANDARD.encode(Sha256::digest(script)))).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_script_in_the_page_is_allowed_by_its_hash() {
        // The example of Content Security Policy Level 2, section 7.17.2.
        let page = "<head><script src=\"/a.js\"></script><script>alert('Hello, world.');</script></head>";
        assert_eq!(allowed(page), " 'sha256-qznLcsROx4GACP2dm0UCKCzCG+HiZ1guq6ZZDob/Tng='");
        assert_eq!(allowed("<script src=\"/a.js\"></script>"), "");
        assert_eq!(allowed("<script>1</script><script>2</script>").matches("sha256-").count(), 2);
    }
}
