//! Cleaning of files that come in. Whatever comes in is read whole and written anew: a picture as JPEG,
//! turned the right way, without what the camera wrote into it; a PDF without its description, scripts and files
//! inside it.

use std::borrow::Cow;
use std::io::{Cursor, Read};

use flate2::read::ZlibDecoder;
use image::ImageDecoder;
use image::codecs::jpeg::JpegEncoder;
use image::{DynamicImage, ImageFormat, ImageReader, Limits};
use ticksage_store::papers::Attachment;

/// Largest file taken, bytes.
pub const ATTACHMENT_LIMIT: usize = 20_000_000;

/// Attachments of one candidate at most.
pub const ATTACHMENTS: usize = 300;

/// Longest side of a stored picture, pixels.
const SIDE: u32 = 2400;

/// Longest side of a picture taken, pixels: a small file may hold a vast picture.
const SIDE_TAKEN: u32 = 20_000;

/// Pixels of a picture taken: more than any telephone makes.
const PIXELS_TAKEN: u64 = 50_000_000;

/// Bytes that one packed part of a PDF may unpack to, and all of them together.
const PDF_UNPACKED: (u64, u64) = (64_000_000, 200_000_000);

/// A file's name without what may not stand in one.
pub(crate) fn file_name(name: &str) -> String {
    let stem: String = name.chars().filter(|c| !c.is_control() && !"/\\\"".contains(*c)).take(120).collect();
    if stem.trim().is_empty() { "file".to_owned() } else { stem }
}

/// Cleans a file.
///
/// # Errors
/// What is wrong with it, in words.
pub fn clean(name: &str, bytes: &[u8]) -> Result<Attachment, String> {
    let stem = file_name(name);
    if bytes.starts_with(b"%PDF-") {
        return Ok(Attachment { name: stem, media: "application/pdf".to_owned(), bytes: clean_pdf(bytes)? });
    }
    match image::guess_format(bytes) {
        Ok(format @ (ImageFormat::Jpeg | ImageFormat::Png | ImageFormat::WebP)) => {
            Ok(Attachment { name: stem, media: "image/jpeg".to_owned(), bytes: clean_picture(bytes, format)? })
        }
        _ if name.to_lowercase().ends_with(".pdf") => {
            Err(format!("\"{stem}\" is called a PDF and is none: open it, and save it as PDF again"))
        }
        _ => Err(format!("\"{stem}\" is no picture (JPEG, PNG, WebP) and no PDF: send it as one of these")),
    }
}

fn clean_picture(bytes: &[u8], format: ImageFormat) -> Result<Vec<u8>, String> {
    let broken = |e: image::ImageError| format!("the picture cannot be read: {e}");
    let mut reader = ImageReader::with_format(Cursor::new(bytes), format);
    let mut limits = Limits::default();
    (limits.max_image_width, limits.max_image_height) = (Some(SIDE_TAKEN), Some(SIDE_TAKEN));
    limits.max_alloc = Some(600_000_000);
    reader.limits(limits);
    let mut decoder = reader.into_decoder().map_err(broken)?;
    let (width, height) = decoder.dimensions();
    if u64::from(width) * u64::from(height) > PIXELS_TAKEN {
        let most = PIXELS_TAKEN / 1_000_000;
        return Err(format!("the picture has {width} × {height} pixels; at most {most} million are taken"));
    }
    let turned = decoder.orientation().map_err(broken)?;
    let mut picture = DynamicImage::from_decoder(decoder).map_err(broken)?;
    if picture.width().max(picture.height()) > SIDE {
        picture = picture.resize(SIDE, SIDE, image::imageops::FilterType::Triangle);
    }
    picture.apply_orientation(turned);
    let mut out = Vec::new();
    picture.to_rgb8().write_with_encoder(JpegEncoder::new_with_quality(&mut out, 85)).map_err(broken)?;
    Ok(out)
}

/// Entries of a PDF that tell of its maker, run something, ask for something, or hold files; wherever they lie.
const PDF_REMOVED: [&[u8]; 17] = [
    b"Metadata",
    b"OpenAction",
    b"AA",
    b"A",
    b"PA",
    b"JavaScript",
    b"JS",
    b"Launch",
    b"EmbeddedFiles",
    b"EF",
    b"AF",
    b"AcroForm",
    b"XFA",
    b"RichMediaContent",
    b"RichMediaSettings",
    b"PieceInfo",
    b"Collection",
];

/// Takes those entries out of an object and everything in it.
fn strip(object: &mut lopdf::Object) {
    let dictionary = match object {
        lopdf::Object::Array(items) => return items.iter_mut().for_each(strip),
        lopdf::Object::Dictionary(d) => d,
        lopdf::Object::Stream(s) => &mut s.dict,
        _ => return,
    };
    for key in PDF_REMOVED {
        dictionary.remove(key);
    }
    dictionary.iter_mut().for_each(|(_, value)| strip(value));
}

/// Deepest nesting of lists and dictionaries in a PDF: an honest one stays far below.
const PDF_NESTING: usize = 32;

/// How deep lists and dictionaries of a PDF lie in each other, streams and strings left out.
fn nesting(bytes: &[u8]) -> usize {
    let (mut depth, mut deepest, mut at) = (0_usize, 0, 0);
    while let Some(byte) = bytes.get(at) {
        let rest = &bytes[at..];
        at += 1;
        match byte {
            b'(' => at += string_length(&bytes[at..]),
            b'%' => at += rest.iter().take_while(|b| **b != b'\n' && **b != b'\r').count() - 1,
            b's' if rest.starts_with(b"stream") => {
                at += rest.windows(9).position(|w| w == b"endstream").map_or(rest.len(), |end| end + 8);
            }
            b'<' if rest.starts_with(b"<<") => (at, depth) = (at + 1, depth + 1),
            b'>' if rest.starts_with(b">>") => (at, depth) = (at + 1, depth.saturating_sub(1)),
            b'[' => depth += 1,
            b']' => depth = depth.saturating_sub(1),
            _ => {}
        }
        deepest = deepest.max(depth);
    }
    deepest
}

/// Length of a string after its opening bracket, its closing one included; brackets within lie in pairs.
fn string_length(bytes: &[u8]) -> usize {
    let (mut open, mut at) = (1, 0);
    while let Some(byte) = bytes.get(at) {
        at += 1;
        match byte {
            b'\\' => at += 1,
            b'(' => open += 1,
            b')' => open -= 1,
            _ => {}
        }
        if open == 0 {
            break;
        }
    }
    at
}

/// Whether the packed parts of a PDF unpack to more than any honest one does. What is packed several times over is
/// unpacked as often.
fn unpacks_too_far(bytes: &[u8]) -> bool {
    let (each, all) = PDF_UNPACKED;
    let (mut at, mut sum) = (0, 0_u64);
    while let Some(found) = bytes.get(at..).and_then(|rest| rest.windows(6).position(|w| w == b"stream")) {
        at += found + 6;
        let start = at + bytes[at..].iter().take_while(|b| matches!(b, b'\r' | b'\n')).count();
        // A packed part ends where it says so itself, not where the file does.
        let mut part = Cow::Borrowed(&bytes[start.min(bytes.len())..]);
        for _ in 0..PACKED_TIMES {
            if part.first().is_none_or(|b| b & 0x0f != 8) {
                break;
            }
            let mut out = Vec::new();
            // What breaks off in the middle counts as far as it went.
            _ = ZlibDecoder::new(&*part).take(each + 1).read_to_end(&mut out);
            sum += out.len() as u64;
            if out.len() as u64 > each || sum > all {
                return true;
            }
            part = Cow::Owned(out);
        }
    }
    false
}

/// How often over a part of a PDF is unpacked to see how large it is.
const PACKED_TIMES: usize = 4;

fn clean_pdf(bytes: &[u8]) -> Result<Vec<u8>, String> {
    if unpacks_too_far(bytes) {
        return Err(
            "the PDF unpacks to far more than its pages can need: print it to a new PDF, or send a picture".to_owned()
        );
    }
    if nesting(bytes) > PDF_NESTING {
        return Err("the PDF is nested deeper than any honest one: print it to a new PDF, or send a picture".to_owned());
    }
    let mut pdf = lopdf::Document::load_mem(bytes)
        .map_err(|e| format!("the PDF cannot be read ({e}): open it, and save it as PDF again"))?;
    if pdf.is_encrypted() {
        return Err("the PDF is locked with a password: save it without one".to_owned());
    }
    if pdf.get_pages().is_empty() {
        return Err("the PDF has no page".to_owned());
    }
    pdf.trailer.remove(b"Info");
    pdf.objects.values_mut().for_each(strip);
    pdf.prune_objects();
    let mut out = Vec::new();
    pdf.save_to(&mut out).map_err(|e| format!("the PDF cannot be written anew: {e}"))?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use lopdf::{Dictionary, Document, Object, dictionary};

    fn jpeg(width: u32, height: u32) -> Vec<u8> {
        let mut out = Vec::new();
        let picture =
            image::RgbImage::from_fn(width, height, |x, _| image::Rgb([u8::try_from(x % 250).unwrap(), 90, 40]));
        picture.write_with_encoder(JpegEncoder::new(&mut out)).unwrap();
        out
    }

    /// The picture with an EXIF block that turns it by 90° and names a place.
    fn with_exif(jpeg: &[u8]) -> Vec<u8> {
        let mut tiff = b"II*\0\x08\0\0\0\x02\0".to_vec();
        tiff.extend(b"\x12\x01\x03\0\x01\0\0\0\x06\0\0\0");
        tiff.extend(b"\x0e\x01\x02\0\x0d\0\0\0\x26\0\0\0");
        tiff.extend(b"\0\0\0\0Hollin quay\0\0");
        let mut block = b"Exif\0\0".to_vec();
        block.extend(tiff);
        let mut out = jpeg[..2].to_vec();
        out.extend([0xff, 0xe1]);
        out.extend(u16::try_from(block.len() + 2).unwrap().to_be_bytes());
        out.extend(block);
        out.extend(&jpeg[2..]);
        out
    }

    fn holds(bytes: &[u8], text: &[u8]) -> bool {
        bytes.windows(text.len()).any(|w| w == text)
    }

    #[test]
    fn a_picture_loses_what_the_camera_wrote_and_stands_upright() {
        let taken = with_exif(&jpeg(40, 20));
        assert!(holds(&taken, b"Hollin quay"));
        let cleaned = clean("invoice.jpg", &taken).unwrap();
        assert!(!holds(&cleaned.bytes, b"Hollin quay") && !holds(&cleaned.bytes, b"Exif"));
        let picture = image::load_from_memory(&cleaned.bytes).unwrap();
        assert_eq!((picture.width(), picture.height()), (20, 40));
    }

    #[test]
    fn a_large_picture_is_made_smaller() {
        let picture = image::load_from_memory(&clean("wide.jpg", &jpeg(3000, 300)).unwrap().bytes).unwrap();
        assert_eq!((picture.width(), picture.height()), (SIDE, 240));
    }

    #[test]
    fn a_small_file_that_holds_a_vast_picture_is_refused() {
        // One colour packs well: 8 000 × 7 000 pixels in a few hundred kilobytes.
        let picture = image::GrayImage::new(8_000, 7_000);
        let mut bytes = Vec::new();
        picture.write_to(&mut Cursor::new(&mut bytes), ImageFormat::Png).unwrap();
        assert!(bytes.len() < 1_000_000);
        let refused = clean("vast.png", &bytes).unwrap_err();
        assert!(refused.contains("8000 × 7000"), "{refused}");
    }

    #[test]
    fn a_pdf_that_unpacks_without_end_is_refused() {
        let pack = |bytes: &[u8]| {
            let mut packed = flate2::write::ZlibEncoder::new(Vec::new(), flate2::Compression::best());
            std::io::Write::write_all(&mut packed, bytes).unwrap();
            packed.finish().unwrap()
        };
        let once = pack(&vec![0; 70_000_000]);
        let within = |part: &[u8]| [b"%PDF-1.5\n1 0 obj << /Type /ObjStm >> stream\n", part, b"\nendstream"].concat();
        assert!(once.len() < 100_000);
        assert!(unpacks_too_far(&within(&once)));
        assert!(unpacks_too_far(&within(&pack(&once))));
        assert!(!unpacks_too_far(&within(&pack(b"q 1 0 0 1 0 0 cm Q"))));
        let many: Vec<u8> = (0..5).flat_map(|_| within(&pack(&vec![0; 50_000_000]))).collect();
        assert!(unpacks_too_far(&many));
    }

    #[test]
    fn a_pdf_loses_its_description_and_its_scripts() {
        let mut pdf = Document::with_version("1.5");
        let pages = pdf.new_object_id();
        let page = pdf.add_object(dictionary! { "Type" => "Page", "Parent" => pages, "MediaBox" => vec![0.into(), 0.into(), 200.into(), 100.into()] });
        pdf.objects.insert(
            pages,
            Object::Dictionary(dictionary! { "Type" => "Pages", "Kids" => vec![page.into()], "Count" => 1 }),
        );
        let script = dictionary! { "S" => "JavaScript", "JS" => Object::string_literal("app.alert('quay')") };
        let catalog = pdf.add_object(dictionary! { "Type" => "Catalog", "Pages" => pages, "OpenAction" => script });
        pdf.trailer.set("Root", catalog);
        let info: Dictionary = dictionary! { "Author" => Object::string_literal("the seller's name") };
        let info = pdf.add_object(info);
        pdf.trailer.set("Info", info);
        let mut bytes = Vec::new();
        pdf.save_to(&mut bytes).unwrap();
        assert!(holds(&bytes, b"the seller's name") && holds(&bytes, b"app.alert"));
        let cleaned = clean("bill.pdf", &bytes).unwrap().bytes;
        assert!(!holds(&cleaned, b"the seller's name") && !holds(&cleaned, b"app.alert"));
        assert_eq!(Document::load_mem(&cleaned).unwrap().get_pages().len(), 1);
    }

    #[test]
    fn a_pdf_loses_what_runs_asks_or_hides_wherever_it_lies() {
        let mut pdf = Document::with_version("1.5");
        let pages = pdf.new_object_id();
        let launch = dictionary! { "S" => "Launch", "F" => Object::string_literal("marker-launch") };
        let field =
            dictionary! { "Subtype" => "Widget", "Next" => vec![Object::Dictionary(dictionary! { "A" => launch })] };
        let page = pdf.add_object(dictionary! { "Type" => "Page", "Parent" => pages, "Annots" => vec![field.into()],
        "MediaBox" => vec![0.into(), 0.into(), 200.into(), 100.into()] });
        pdf.objects.insert(
            pages,
            Object::Dictionary(dictionary! { "Type" => "Pages", "Kids" => vec![page.into()], "Count" => 1 }),
        );
        let hidden = pdf.add_object(lopdf::Stream::new(dictionary! {}, b"marker-file".to_vec()));
        let spec = dictionary! { "Type" => "Filespec", "EF" => dictionary! { "F" => hidden } };
        let names = dictionary! { "Kids" => vec![Object::Dictionary(dictionary! { "Names" => vec![spec.into()] })] };
        let form = dictionary! { "XFA" => Object::string_literal("marker-form") };
        let catalog =
            pdf.add_object(dictionary! { "Type" => "Catalog", "Pages" => pages, "AcroForm" => form, "Names" => names });
        pdf.trailer.set("Root", catalog);
        let mut bytes = Vec::new();
        pdf.save_to(&mut bytes).unwrap();
        let markers = ["marker-launch", "marker-file", "marker-form"];
        assert!(markers.iter().all(|m| holds(&bytes, m.as_bytes())));
        let cleaned = clean("bill.pdf", &bytes).unwrap().bytes;
        for m in markers {
            assert!(!holds(&cleaned, m.as_bytes()), "{m} is still there");
        }
        assert_eq!(Document::load_mem(&cleaned).unwrap().get_pages().len(), 1);
    }

    #[test]
    fn nesting_is_counted_outside_strings_and_streams() {
        assert_eq!(nesting(b"<< /A [ [ 1 ] << >> ] >>"), 3);
        assert_eq!(nesting(b"( [[[[ (nested) \\) [[ ) [ ]"), 1);
        assert_eq!(nesting(b"% [[[[\n[ ]"), 1);
        assert_eq!(nesting(b"<< >> stream [[[[[[ endstream [ [ ] ]"), 2);
        assert_eq!(nesting(b"stream [[[ that never ends"), 0);
        assert_eq!(nesting(&b"[".repeat(1_000)), 1_000);
    }

    #[test]
    fn what_is_neither_is_refused_by_name() {
        for (name, bytes) in [
            ("bill.pdf", b"hello".as_slice()),
            ("bill.pdf", b"%PDF-1.7 and nothing more"),
            ("photo.jpg", b"\xff\xd8\xff\xe0 broken"),
            ("notes.txt", b"120500 2021-03 belt"),
            ("empty.png", b""),
        ] {
            let refused = clean(name, bytes).unwrap_err();
            assert!(refused.len() > 20, "{name}: {refused}");
        }
    }
}
