//! Photos that people send: read with limits, turned upright, made no larger than a screen needs, and written anew, so that nothing else of the file is
//! kept: neither the place where it was taken nor the camera.

use std::io::Cursor;

use image::codecs::jpeg::JpegEncoder;
use image::{DynamicImage, ImageDecoder, ImageReader, Limits};
use lawn::site::Invalid;

use crate::db::seen::Photo;

/// Largest file that is read, bytes.
pub const LARGEST: usize = 8 * 1024 * 1024;
/// Widest and highest that a picture may come, pixels, and the memory that reading it may take.
const MOST_PIXELS: u32 = 12_000;
const MOST_MEMORY: u64 = 256 * 1024 * 1024;
/// Longest side of what is kept, pixels.
const KEPT_PIXELS: u32 = 1600;
/// Quality of what is kept, %.
const QUALITY: u8 = 82;

/// A picture as it is kept.
///
/// # Errors
/// What is not a JPEG, PNG or WebP picture that can be read, at the field `photo`.
pub fn drawn_anew(bytes: &[u8]) -> Result<Photo, Invalid> {
    let unread = |_| {
        Invalid::new(
            "photo",
            "not a picture that can be read: JPEG, PNG or WebP, at most 12 000 pixels wide",
        )
    };
    let mut reader = ImageReader::new(Cursor::new(bytes))
        .with_guessed_format()
        .map_err(|error| unread(error.into()))?;
    let mut limits = Limits::default();
    limits.max_image_width = Some(MOST_PIXELS);
    limits.max_image_height = Some(MOST_PIXELS);
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    let mut decoder = reader.into_decoder().map_err(unread)?;
    let orientation = decoder.orientation().map_err(unread)?;
    let mut picture = DynamicImage::from_decoder(decoder).map_err(unread)?;
    picture.apply_orientation(orientation);
    if picture.width().max(picture.height()) > KEPT_PIXELS {
        picture = picture.thumbnail(KEPT_PIXELS, KEPT_PIXELS);
    }
    let picture = picture.to_rgb8();
    let mut jpeg = Vec::new();
    picture
        .write_with_encoder(JpegEncoder::new_with_quality(&mut jpeg, QUALITY))
        .map_err(unread)?;
    let pixels = |n: u32| i32::try_from(n).unwrap_or(i32::MAX);
    Ok(Photo {
        width_px: pixels(picture.width()),
        height_px: pixels(picture.height()),
        jpeg,
    })
}
