//! Photos that people send: read with limits, made no larger than a screen needs, turned upright, and written anew, so that nothing else of the file is kept: neither
//! the place where it was taken nor the camera.
//!
//! One picture is read at a time in at most some 170 MB: 3 bytes for each of a camera's 50 million pixels, the file twice. Other forms need more for a pixel while they are
//! read (coefficients of all scans, transparency), so fewer pixels are taken of them. A decoder that scales while it reads would need less for a camera's picture, but
//! the one there is in Rust hands rows to threads without a bound.

use std::io::Cursor;

use image::codecs::jpeg::{JpegDecoder, JpegEncoder};
use image::codecs::webp::WebPDecoder;
use image::metadata::Orientation;
use image::{DynamicImage, GrayAlphaImage, GrayImage, ImageDecoder, RgbImage, RgbaImage};
use lawn::site::Invalid;

use crate::db::seen::Photo;

/// Largest file that is read, bytes.
pub const LARGEST: usize = 8 * 1024 * 1024;
/// Most pixels of a JPEG as cameras write it, one scan from top to bottom.
const MOST_OF_CAMERA: u64 = 50_000_000;
/// Most pixels of any other picture.
const MOST_OF_OTHERS: u64 = 12_000_000;
/// Largest WebP that is lossless or transparent, bytes: its code tables may take three hundred times as much memory as they take in the file.
const LARGEST_LOSSLESS_WEBP: usize = 256 * 1024;
/// Most memory that a PNG's reader may take beside its pixels, bytes.
const BESIDE_PIXELS: usize = 16 * 1024 * 1024;
/// Longest side of what is kept, pixels.
const KEPT_PIXELS: u32 = 1600;
/// Quality of what is kept, %.
const QUALITY: u8 = 82;

/// Why a picture is not taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Refused {
    Unread,
    TooManyPixels { most: u64 },
    LosslessWebp,
    Moving,
}

impl Refused {
    fn said(self) -> Invalid {
        let message = match self {
            Self::Unread => "not a picture that can be read: JPEG, PNG or WebP".to_owned(),
            Self::TooManyPixels { most } => {
                let millions = most / 1_000_000;
                format!(
                    "the picture has more than {millions} million pixels; make it smaller, or send the JPEG as the camera wrote it, of at most {} million",
                    MOST_OF_CAMERA / 1_000_000
                )
            }
            Self::LosslessWebp => {
                "a WebP picture without loss or with transparency can have 256 kB; send it as JPEG"
                    .to_owned()
            }
            Self::Moving => "a picture that moves; send one that stands still".to_owned(),
        };
        Invalid::new("photo", message)
    }
}

/// A picture as it is kept. Takes its time, and memory: one at a time.
///
/// # Errors
/// What is not a JPEG, PNG or WebP picture that can be read, or has too many pixels, at the field `photo`.
pub fn drawn_anew(bytes: &[u8]) -> Result<Photo, Invalid> {
    let (picture, orientation) = if bytes.starts_with(&[0xff, 0xd8]) {
        jpeg(bytes)
    } else if bytes.starts_with(b"\x89PNG\r\n\x1a\n") {
        png(bytes)
    } else if bytes.starts_with(b"RIFF") && bytes.get(8..12) == Some(b"WEBP") {
        webp(bytes)
    } else {
        Err(Refused::Unread)
    }
    .map_err(Refused::said)?;
    // Made small before it is turned: turning takes a second copy.
    let mut picture = if picture.width().max(picture.height()) > KEPT_PIXELS {
        picture.thumbnail(KEPT_PIXELS, KEPT_PIXELS)
    } else {
        picture
    };
    picture.apply_orientation(orientation);
    let picture = picture.into_rgb8();
    let mut jpeg = Vec::new();
    picture
        .write_with_encoder(JpegEncoder::new_with_quality(&mut jpeg, QUALITY))
        .map_err(|_| Refused::Unread.said())?;
    let pixels = |n: u32| i32::try_from(n).unwrap_or(i32::MAX);
    Ok(Photo {
        width_px: pixels(picture.width()),
        height_px: pixels(picture.height()),
        jpeg,
    })
}

type Read = Result<(DynamicImage, Orientation), Refused>;

fn bounded((width, height): (u32, u32), most: u64) -> Result<(), Refused> {
    if u64::from(width) * u64::from(height) > most {
        return Err(Refused::TooManyPixels { most });
    }
    Ok(())
}

/// What a decoder of the library reads, of bounded size.
fn decoded(mut decoder: impl ImageDecoder, most: u64) -> Read {
    bounded(decoder.dimensions(), most)?;
    let orientation = decoder.orientation().map_err(|_| Refused::Unread)?;
    let picture = DynamicImage::from_decoder(decoder).map_err(|_| Refused::Unread)?;
    Ok((picture, orientation))
}

fn jpeg(bytes: &[u8]) -> Read {
    let decoder = JpegDecoder::new(Cursor::new(bytes)).map_err(|_| Refused::Unread)?;
    let most = match is_camera_jpeg(bytes) {
        true => MOST_OF_CAMERA,
        false => MOST_OF_OTHERS,
    };
    decoded(decoder, most)
}

/// Whether a JPEG has one frame of Huffman-coded baseline DCT, all components of which come in its first scan: then it is read row by row, and nothing is kept but pixels
/// (ITU-T T.81, B.2.2 and B.2.3).
fn is_camera_jpeg(bytes: &[u8]) -> bool {
    const START_OF_SCAN: u8 = 0xda;
    const BASELINE: u8 = 0xc0;
    let mut components = None;
    let mut rest = &bytes[2..];
    // Segments follow one another: a marker, and its length with the length's own two bytes.
    while let [0xff, marker, high, low, ..] = *rest {
        let length = usize::from(u16::from_be_bytes([high, low]));
        let Some(segment) = rest.get(4..2 + length) else {
            return false;
        };
        match marker {
            BASELINE if components.is_none() => components = segment.get(5).copied(),
            START_OF_SCAN => return components.is_some() && segment.first() == components.as_ref(),
            // Another frame, another coding; tables and applications' segments in between.
            0xc0..=0xc3 | 0xc5..=0xc7 | 0xc9..=0xcb | 0xcd..=0xcf => return false,
            _ => {}
        }
        rest = &rest[2 + length..];
    }
    false
}

fn png(bytes: &[u8]) -> Read {
    let limits = png::Limits {
        bytes: BESIDE_PIXELS,
    };
    let mut decoder = png::Decoder::new_with_limits(Cursor::new(bytes), limits);
    // Nobody reads a colour profile or texts: they stay packed.
    decoder.set_ignore_iccp_chunk(true);
    decoder.set_ignore_text_chunk(true);
    decoder.set_transformations(png::Transformations::normalize_to_color8());
    let mut reader = decoder.read_info().map_err(|_| Refused::Unread)?;
    let (width, height) = reader.info().size();
    bounded((width, height), MOST_OF_OTHERS)?;
    let mut pixels = vec![0; reader.output_buffer_size().ok_or(Refused::Unread)?];
    let frame = reader
        .next_frame(&mut pixels)
        .map_err(|_| Refused::Unread)?;
    pixels.truncate(frame.buffer_size());
    let picture = match frame.color_type {
        png::ColorType::Grayscale => {
            GrayImage::from_raw(width, height, pixels).map(DynamicImage::from)
        }
        png::ColorType::GrayscaleAlpha => {
            GrayAlphaImage::from_raw(width, height, pixels).map(DynamicImage::from)
        }
        png::ColorType::Rgb => RgbImage::from_raw(width, height, pixels).map(DynamicImage::from),
        png::ColorType::Rgba => RgbaImage::from_raw(width, height, pixels).map(DynamicImage::from),
        // Palettes are drawn by then.
        png::ColorType::Indexed => None,
    };
    let exif = reader.info().exif_metadata.as_deref();
    let orientation = exif.and_then(Orientation::from_exif_chunk);
    Ok((
        picture.ok_or(Refused::Unread)?,
        orientation.unwrap_or(Orientation::NoTransforms),
    ))
}

fn webp(bytes: &[u8]) -> Read {
    // Each part has a name of four letters and its length, and is filled up to an even one.
    let mut is_lossless = false;
    let mut rest = &bytes[12..];
    while let [a, b, c, d, l0, l1, l2, l3, ..] = *rest {
        is_lossless |= matches!(&[a, b, c, d], b"VP8L" | b"ALPH");
        if matches!(&[a, b, c, d], b"ANIM" | b"ANMF") {
            return Err(Refused::Moving);
        }
        let length = usize::try_from(u32::from_le_bytes([l0, l1, l2, l3])).unwrap_or(usize::MAX);
        let end = length.saturating_add(length % 2).saturating_add(8);
        rest = rest.get(end..).unwrap_or_default();
    }
    if is_lossless && bytes.len() > LARGEST_LOSSLESS_WEBP {
        return Err(Refused::LosslessWebp);
    }
    let decoder = WebPDecoder::new(Cursor::new(bytes)).map_err(|_| Refused::Unread)?;
    if decoder.has_animation() {
        return Err(Refused::Moving);
    }
    decoded(decoder, MOST_OF_OTHERS)
}
