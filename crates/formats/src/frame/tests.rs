use salt_lamp_core::frame::{FrameKind, Layout, Pixels};
use salt_lamp_core::workers::SingleThread;

use super::*;

fn bytes_of(name: &str) -> Vec<u8> {
    let at = format!("{}/../../reference/frames/{name}", env!("CARGO_MANIFEST_DIR"));
    std::fs::read(&at).unwrap_or_else(|e| panic!("{at}: {e}"))
}

fn frame(name: &str) -> FrameFile {
    read_frame(name, bytes_of(name)).unwrap_or_else(|e| panic!("{e}"))
}

fn all(picture: &Picture, plane: usize) -> Vec<Vec<f32>> {
    let [columns, rows] = picture.size();
    (0..rows)
        .map(|row| {
            let mut out = vec![0.0; columns];
            picture.piece(plane, row, 0, &mut out);
            // A piece is a part of its row.
            let mut part = vec![0.0; columns - 3];
            picture.piece(plane, row, 2, &mut part[..columns - 4]);
            assert_eq!(part[..columns - 4], out[2..columns - 2]);
            out
        })
        .collect()
}

/// Files of every type that `astropy` wrote (`reference/scripts/make_frames.py`): the value at
/// column x of the file's row y is 100 x + y, and FITS counts rows from below.
#[test]
fn every_type_of_number_is_read_compressed_or_not() {
    let value = |x: usize, y: usize| (100 * x + y) as f32;
    type Wanted = fn(f32) -> f32;
    let kinds: [(&str, Wanted, f32); 11] = [
        ("type8", |v| v % 200.0, 0.0),
        ("type16", |v| v, 0.0),
        ("type32", |v| v, 0.0),
        ("type64", |v| v, 0.0),
        ("type-32", |v| v, 0.0),
        ("type-64", |v| v, 0.0),
        ("type-unsigned", |v| v + 40_000.0, 0.0),
        ("type-scaled", |v| v, 0.51),
        ("type-extension", |v| v, 0.0),
        ("type-rice_1", |v| v + 40_000.0, 0.0),
        ("type-gzip_1", |v| v + 40_000.0, 0.0),
    ];
    for (name, of, within) in kinds {
        let file = frame(&format!("{name}.fits"));
        assert_eq!(file.picture.size(), [20, 12], "{name}");
        for (row, line) in all(&file.picture, 0).iter().enumerate() {
            for (x, v) in line.iter().enumerate() {
                let wanted = of(value(x, 11 - row));
                assert!((v - wanted).abs() <= within, "{name} at {x}, {row}: {v}, not {wanted}");
            }
        }
    }
    let file = frame("type-gzip_2.fits");
    assert_eq!(all(&file.picture, 0)[11][19], 41_900.0);
    assert_eq!(frame("type-extension.fits").read.header.object.as_deref(), Some("in an extension"));
    let planes = frame("type-planes.fits").picture;
    assert_eq!(planes.layout(), Layout::Rgb);
    for (plane, more) in [0.0, 5000.0, 9000.0].into_iter().enumerate() {
        assert_eq!(all(&planes, plane)[11][7], 700.0 + more);
    }
    let [whole, real] = ["type16", "type-32"].map(|n| frame(&format!("{n}.fits")).picture);
    assert!(whole.whole_numbers() && !real.whole_numbers());
    assert_eq!(frame("type-unsigned.fits").picture.most_adu(), Some(65_535.0));
}

/// A raw file by the specification of its format, written by the same script.
#[test]
fn a_stock_camera_s_raw_file_is_read() {
    let file = frame("stock.dng");
    let picture = &file.picture;
    assert_eq!(picture.size(), [48, 32]);
    use salt_lamp_core::scenario::CfaColour::{B, G, R};
    assert_eq!(picture.layout(), Layout::Cfa([R, G, G, B]));
    for (y, line) in all(picture, 0).iter().enumerate() {
        for (x, v) in line.iter().enumerate() {
            assert_eq!(*v, (600 + 10 * (y % 2) + 5 * (x % 2) + x + y) as f32, "at {x}, {y}");
        }
    }
    let h = &file.read.header;
    assert_eq!((h.exposure_s, h.gain, h.offset_adu), (Some(30.0), Some(800.0), Some(512.0)));
    assert_eq!(h.start.as_deref(), Some("2027-01-28T18:40:00"));
    assert_eq!(picture.most_adu(), Some(16_383.0));
    assert!(file.read.assumed.iter().any(|a| a.contains("zone")));
}

#[test]
fn a_tiff_of_sixteen_bits_is_read() {
    let mut out = std::io::Cursor::new(Vec::new());
    let values: Vec<u16> = (0..64 * 48).map(|i| 1000 + i as u16).collect();
    let mut encoder = tiff::encoder::TiffEncoder::new(&mut out).expect("an encoder");
    encoder.write_image::<tiff::encoder::colortype::Gray16>(64, 48, &values).expect("written");
    let file = read_frame("a.TIF", out.into_inner()).expect("read");
    assert_eq!(all(&file.picture, 0)[1][3], 1000.0 + 64.0 + 3.0);
    let mut out = std::io::Cursor::new(Vec::new());
    let values: Vec<u16> = (0..3 * 8 * 4).collect();
    let mut encoder = tiff::encoder::TiffEncoder::new(&mut out).expect("an encoder");
    encoder.write_image::<tiff::encoder::colortype::RGB16>(8, 4, &values).expect("written");
    let file = read_frame("b.tiff", out.into_inner()).expect("read");
    assert_eq!(file.picture.layout(), Layout::Rgb);
    assert_eq!(all(&file.picture, 2)[1][2], (3 * 8 + 3 * 2 + 2) as f32);
}

/// Damage of every kind: an error with the file's name, no panic, no memory without bounds.
#[test]
fn damaged_files_are_errors_with_their_name() {
    for name in
        ["round.fits", "type-rice_1.fits", "type-extension.fits", "type64.fits", "stock.dng"]
    {
        let whole = bytes_of(name);
        let step = if whole.len() > 100_000 { 28_800 } else { 2880 };
        for end in (0..whole.len()).step_by(step).chain([1, 79, 80, 2879]) {
            let Err(e) = read_frame(name, whole[..end].to_vec()).map(drop) else {
                // What is missing may fill a block alone, or hold no pixel.
                assert!(whole.len() - end <= 2880, "{name} is read from {end} bytes");
                continue;
            };
            assert!(e.to_string().contains(name), "{e}");
        }
    }
    let cut = read_frame("round.fits", bytes_of("round.fits")[..100_800].to_vec()).map(drop);
    assert!(cut.expect_err("cut off").may_grow());
}

/// A FITS file of these cards, and so many bytes of nothing after them.
fn of_cards(cards: &[&str], bytes: usize) -> Vec<u8> {
    let mut out: Vec<u8> = cards.iter().flat_map(|c| format!("{c:<80}").into_bytes()).collect();
    out.extend(format!("{:<80}", "END").into_bytes());
    out.resize(out.len().div_ceil(2880) * 2880, b' ');
    out.resize(out.len() + bytes, 0);
    out
}

#[test]
fn headers_that_lie_are_refused() {
    let start = ["SIMPLE  =                    T", "BITPIX  =                   16"];
    for (cards, said) in [
        (vec!["NAXIS   = 2", "NAXIS1  = 50000", "NAXIS2  = 42949"], "MP are read"),
        (vec!["NAXIS   = 2", "NAXIS1  = 0", "NAXIS2  = 10"], "nothing in it"),
        (vec!["NAXIS   = 2", "NAXIS1  = -4", "NAXIS2  = 10"], "NAXIS1 is missing or no count"),
        (vec!["NAXIS   = 2", "NAXIS1  = 10"], "NAXIS2 is missing"),
        (vec!["NAXIS   = 1000"], "NAXIS is 1000"),
        (
            vec!["NAXIS   = 2", "NAXIS1  = 99999999999", "NAXIS2  = 99999999999"],
            "beyond all bounds",
        ),
        (vec!["NAXIS   = 3", "NAXIS1  = 4", "NAXIS2  = 4", "NAXIS3  = 7"], "7 planes"),
        (vec!["NAXIS   = 0"], "no image in it"),
        (vec!["NAXIS   = 2", "NAXIS1  = 20000", "NAXIS2  = 20000"], "cut off"),
    ] {
        let all: Vec<&str> = start.iter().copied().chain(cards).collect();
        let e = read_frame("lies.fits", of_cards(&all, 1024)).map(drop).expect_err("refused");
        assert!(e.to_string().contains(said) && e.to_string().contains("lies.fits"), "{e}");
    }
    let e = read_frame(
        "x.fits",
        of_cards(&["SIMPLE  =                    T", "BITPIX  = 17", "NAXIS = 2"], 0),
    );
    assert!(e.map(drop).expect_err("refused").to_string().contains("BITPIX is 17"));
    // Compressed tiles that announce four thousand million pixels in a kilobyte.
    let table = [
        "XTENSION= 'BINTABLE'",
        "BITPIX  = 8",
        "NAXIS   = 2",
        "NAXIS1  = 8",
        "NAXIS2  = 1",
        "PCOUNT  = 0",
        "GCOUNT  = 1",
        "TFIELDS = 1",
        "ZIMAGE  = T",
        "ZCMPTYPE= 'RICE_1  '",
        "ZBITPIX = 16",
        "ZNAXIS  = 2",
        "ZNAXIS1 = 19000",
        "ZNAXIS2 = 19000",
    ];
    let mut bytes = of_cards(&["SIMPLE  =                    T", "BITPIX  = 8", "NAXIS   = 0"], 0);
    bytes.extend(of_cards(&table, 2880));
    let e = read_frame("small.fits", bytes).map(drop).expect_err("refused");
    assert!(e.to_string().contains("announces 19000 x 19000 pixels"), "{e}");
    for (name, bytes) in [
        ("notes.txt", b"dear diary".to_vec()),
        ("a.tif", vec![7; 500]),
        ("b.cr2", b"II*\0\x08\0\0\0\0\0\0\0\0\0".to_vec()),
        ("empty.fits", Vec::new()),
    ] {
        let e = read_frame(name, bytes).map(drop).expect_err("refused");
        assert!(e.to_string().contains(name), "{e}");
    }
    assert!(
        open_frame(Path::new("nowhere/at-all.fits"))
            .map(drop)
            .expect_err("missing")
            .to_string()
            .contains("at-all.fits")
    );
}

/// Any byte of a header or a table may be anything.
#[test]
fn fuzzed_cards_break_nothing() {
    let mut state = 7u64;
    let mut next = || {
        state =
            state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as usize
    };
    for name in ["type16.fits", "type-rice_1.fits", "type-gzip_2.fits", "stock.dng"] {
        let whole = bytes_of(name);
        for _ in 0..150 {
            let mut bytes = whole.clone();
            for _ in 0..1 + next() % 6 {
                let at = next() % bytes.len().min(8640);
                bytes[at] = [b'9', b'-', b' ', b'=', b'\'', 0, 255, b'1'][next() % 8];
            }
            if let Ok(file) = read_frame(name, bytes) {
                let _ = file.measure(&SingleThread);
            }
        }
    }
}

/// Pixels that are no number are left out, and said.
#[test]
fn pixels_that_are_no_number_are_left_out() {
    let mut bytes = of_cards(
        &[
            "SIMPLE  =                    T",
            "BITPIX  = -32",
            "NAXIS   = 2",
            "NAXIS1  = 64",
            "NAXIS2  = 64",
        ],
        0,
    );
    for i in 0..64 * 64u32 {
        let v = if i % 64 == 9 {
            f32::NAN
        } else {
            100.0 + (i.wrapping_mul(2_654_435_761) >> 28) as f32
        };
        bytes.extend(v.to_be_bytes());
    }
    let measured =
        read_frame("nan.fits", bytes).expect("read").measure(&SingleThread).expect("measured");
    assert!(
        measured.problems.iter().any(|p| p.starts_with("64 pixels")),
        "{:?}",
        measured.problems
    );
    assert!((100.0..116.0).contains(&measured.channels[0].level_adu));
    let text = serde_json::to_string(&measured).expect("written");
    assert!(!text.contains("null,\"sigma") && !text.contains("NaN"));
}

/// The pattern counts from the file's first pixel, whichever way its rows go.
#[test]
fn a_mosaic_is_the_same_picture_from_above_and_from_below() {
    use salt_lamp_core::scenario::CfaColour::{B, G, R};
    let cards = |more: &'static str, pattern: &'static str| {
        let cards = [
            "SIMPLE  =                    T",
            "BITPIX  = 8",
            "NAXIS   = 2",
            "NAXIS1  = 4",
            "NAXIS2  = 6",
            more,
            pattern,
        ];
        read_frame("m.fits", of_cards(&cards, 24)).expect("read").picture.layout()
    };
    assert_eq!(cards("ROWORDER= 'TOP-DOWN'", "BAYERPAT= 'RGGB'"), Layout::Cfa([R, G, G, B]));
    // Six rows: the top one is the second of its pair from below.
    assert_eq!(cards("ROWORDER= 'BOTTOM-UP'", "BAYERPAT= 'GBRG'"), Layout::Cfa([R, G, G, B]));
    assert_eq!(cards("YBAYROFF= 1", "BAYERPAT= 'RGGB'"), Layout::Cfa([R, G, G, B]));
    assert_eq!(cards("ROWORDER= 'TOP-DOWN'", "BAYERPAT= 'XYZ'"), Layout::Mono);
    let known = read_frame("m.fits", bytes_of("mosaic.fits")).expect("read");
    assert_eq!(known.read.understood["cfa"], "BAYERPAT");
    assert_eq!(known.read.header.kind, Some(FrameKind::Light));
}

/// A night's frames are drawn at one stretch: a frame under twice the sky is drawn brighter, and at
/// its own stretch as dark as any.
#[test]
fn a_small_picture_is_drawn_by_the_level_that_it_is_given() {
    let mean = |shown: Option<[f64; 2]>| {
        let file = frame("round.fits");
        let (measured, png, by) =
            file.measure_and_draw(|_| shown, &SingleThread).unwrap_or_else(|e| panic!("{e}"));
        let own = &measured.channels[0];
        assert_eq!(by, shown.unwrap_or([own.level_adu, own.sigma_adu]));
        let mut reader = png::Decoder::new(std::io::Cursor::new(&png)).read_info().expect("a PNG");
        let mut grey = vec![0; reader.output_buffer_size().expect("a size")];
        let size = reader.next_frame(&mut grey).expect("read");
        assert_eq!((size.width, size.height), (256, 224));
        grey.sort_unstable();
        f64::from(grey[grey.len() / 2])
    };
    let own = mean(None);
    let [level, sigma] = [811.8, 36.1];
    let under_less_sky = mean(Some([level - 20.0 * sigma, sigma]));
    assert!(own > 5.0 && own < 60.0, "{own}");
    assert!(under_less_sky > own + 60.0, "{own} {under_less_sky}");
    assert_eq!(mean(Some([level + 20.0 * sigma, sigma])), 0.0);
}
