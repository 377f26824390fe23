//! PNG pictures with the settings that made them as text.

use png::{BitDepth, ColorType, Compression, Encoder};
use salt_lamp_core::look::Crop;

/// Writes a crop as PNG; `settings` go into it as international text, key by key.
///
/// # Errors
/// Where a key is not accepted by PNG (1 to 79 Latin letters).
pub fn write_png(crop: &Crop, settings: &[(&str, String)]) -> Result<Vec<u8>, png::EncodingError> {
    let mut bytes = Vec::new();
    let mut encoder = Encoder::new(&mut bytes, crop.size[0] as u32, crop.size[1] as u32);
    encoder.set_color(ColorType::Rgb);
    encoder.set_depth(BitDepth::Eight);
    encoder.set_compression(Compression::Fast);
    for (key, value) in settings {
        encoder.add_itxt_chunk((*key).to_owned(), value.clone())?;
    }
    let mut writer = encoder.write_header()?;
    writer.write_image_data(&crop.rgb)?;
    writer.finish()?;
    Ok(bytes)
}

/// A picture in greys, a byte a pixel, as PNG.
///
/// # Errors
/// Where the bytes are not as many as the pixels.
pub fn grey_png([columns, rows]: [usize; 2], greys: &[u8]) -> Result<Vec<u8>, png::EncodingError> {
    let mut bytes = Vec::new();
    let mut encoder = Encoder::new(&mut bytes, columns as u32, rows as u32);
    encoder.set_color(ColorType::Grayscale);
    encoder.set_depth(BitDepth::Eight);
    encoder.set_compression(Compression::Fast);
    let mut writer = encoder.write_header()?;
    writer.write_image_data(greys)?;
    writer.finish()?;
    Ok(bytes)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pixels_and_settings_come_back() {
        let crop = Crop { size: [2, 1], rgb: vec![1, 2, 3, 250, 251, 252] };
        let bytes =
            write_png(&crop, &[("Title", "IC 443, [O III] 3 nm, 5\u{2033}".into())]).unwrap();
        let mut reader = png::Decoder::new(std::io::Cursor::new(&bytes)).read_info().unwrap();
        let mut pixels = vec![0; reader.output_buffer_size().unwrap()];
        reader.next_frame(&mut pixels).unwrap();
        assert_eq!(pixels, crop.rgb);
        let text = &reader.info().utf8_text[0];
        assert_eq!(
            (text.keyword.as_str(), text.get_text().unwrap()),
            ("Title", "IC 443, [O III] 3 nm, 5\u{2033}".to_owned())
        );
    }
}
