//! Browser tests live in `tests/`; this crate holds no code of its own.
