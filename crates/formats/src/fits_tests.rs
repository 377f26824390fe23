//! Tests of [`super`].

use super::*;

#[test]
fn blocks_are_whole_and_both_ways_write_the_same() {
    let header = Header::image(7, 131, Pixels::Float);
    let row = |j: usize, out: &mut [f32]| {
        out.iter_mut().enumerate().for_each(|(i, o)| *o = (j * 7 + i) as f32)
    };
    let (mut a, mut b) = (Vec::new(), Vec::new());
    write_image(&mut a, &header, 7, 131, row).unwrap();
    write_image_in_bands(
        &mut b,
        &header,
        Shape { columns: 7, rows: 131, pixels: Pixels::Float },
        2,
        row,
    )
    .unwrap();
    assert_eq!(a.len() % BLOCK, 0);
    assert!(a == b);
    // The first value in the file is the lowest row's.
    assert_eq!(f32::from_be_bytes(a[BLOCK..BLOCK + 4].try_into().unwrap()), (130 * 7) as f32);
}

#[test]
fn unsigned_numbers_keep_their_range() {
    for (pixels, most) in [(Pixels::Unsigned16, 65_535.0), (Pixels::Unsigned32, 16_777_215.0)] {
        let shape = Shape { columns: 3, rows: 1, pixels };
        let mut out = Vec::new();
        let row = |_: usize, v: &mut [f32]| v.copy_from_slice(&[0.0, 40_000.0, most]);
        write_image_in_bands(&mut out, &Header::image(3, 1, pixels), shape, 2, row).unwrap();
        assert_eq!(out.len(), 2 * BLOCK);
        let data = &out[BLOCK..];
        let read = |i: usize| match pixels {
            Pixels::Unsigned16 => {
                f64::from(i16::from_be_bytes(data[i * 2..][..2].try_into().unwrap())) + 32_768.0
            }
            _ => {
                f64::from(i32::from_be_bytes(data[i * 4..][..4].try_into().unwrap()))
                    + 2_147_483_648.0
            }
        };
        assert_eq!([read(0), read(1), read(2)], [0.0, 40_000.0, f64::from(most)]);
    }
}

#[test]
fn cards_are_eighty_characters_and_quotes_are_doubled() {
    let mut h = Header::default();
    h.set(
        "OBJECT",
        Value::Text(format!("it's \u{3b1} {}", "x".repeat(100))),
        "a comment that is far too long to fit",
    );
    assert_eq!(h.cards[0].len(), 80);
    assert!(h.cards[0].starts_with("OBJECT  = 'it''s ? xxx"), "{}", h.cards[0]);
    assert_eq!(real(300.0), "300.0");
    assert_eq!(real(1.5e-5), "1.500000000000E-5");
}

#[test]
fn sexagesimal_carries() {
    assert_eq!(sexagesimal(6.287, 2, false), "06 17 13.20");
    assert_eq!(sexagesimal(-0.5, 1, true), "-00 30 00.0");
    assert_eq!(sexagesimal(23.999_999_999, 2, false), "00 00 00.00");
    assert_eq!(sexagesimal(22.518, 1, true), "+22 31 04.8");
}
