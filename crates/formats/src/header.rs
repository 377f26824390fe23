//! What a frame's header says of its framing: where it looked, how the camera stood, with which
//! rig. Keys are read by their meaning, in the dialects in which capture programs and plate solvers
//! write them (FITS 4.0 for the cards; the dialects are common practice, no source).

use salt_lamp_core::night::parse;
use salt_lamp_core::scenario::{FieldRig, Pointing};
use serde::Serialize;
use utoipa::ToSchema;

use crate::frame::Cards;

/// Something that was understood of a header.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Understood {
    /// What: "Middle", "Position angle".
    pub what: String,
    /// Its value, in words.
    pub value: String,
    /// From which keys.
    pub from: String,
}

/// What a header says.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct FrameHeader {
    /// Where the frame's middle lay and how its upward side was turned; null where it says no place.
    pub at: Option<Pointing>,
    /// Whether the angle is in it; north stands up where it is not.
    pub turned: bool,
    /// The rig, as far as its field; null where a part of it is missing.
    pub rig: Option<FieldRig>,
    /// What it is of.
    pub object: Option<String>,
    /// Name of the filter.
    pub filter: Option<String>,
    /// Exposure, s.
    pub exposure_s: Option<f64>,
    /// What was understood, from which key.
    pub understood: Vec<Understood>,
    /// What was assumed, in sentences.
    pub assumed: Vec<String>,
}

/// A plate solution: its matrix in degrees a pixel, and the name of the keys that hold it.
fn matrix(cards: &Cards) -> Option<([[f64; 2]; 2], &'static str)> {
    let at = |k: &str| cards.of_key(k);
    if let (Some(a), Some(d)) = (at("CD1_1"), at("CD2_2")) {
        let [b, c] = ["CD1_2", "CD2_1"].map(|k| at(k).unwrap_or(0.0));
        return Some(([[a, b], [c, d]], "CD1_1 to CD2_2"));
    }
    let (x, y) = (at("CDELT1")?, at("CDELT2")?);
    if at("PC1_1").is_some() || at("PC1_2").is_some() {
        let [a, b, c, d] = [("PC1_1", 1.0), ("PC1_2", 0.0), ("PC2_1", 0.0), ("PC2_2", 1.0)]
            .map(|(k, usual)| at(k).unwrap_or(usual));
        return Some(([[x * a, x * b], [y * c, y * d]], "PC1_1 to PC2_2, CDELT1, CDELT2"));
    }
    let (sin, cos) = at("CROTA2")?.to_radians().sin_cos();
    Some(([[x * cos, -y * sin], [x * sin, y * cos]], "CROTA2, CDELT1, CDELT2"))
}

/// What is found on the way.
#[derive(Default)]
pub(crate) struct Found {
    pub understood: Vec<Understood>,
    pub assumed: Vec<String>,
}

impl Found {
    /// The keys from which something was understood.
    pub fn keys_of(&self, what: &str) -> Option<&str> {
        self.understood.iter().find(|u| u.what == what).map(|u| u.from.as_str())
    }

    fn says(&mut self, what: &str, value: String, from: &str) {
        self.understood.push(Understood { what: what.into(), value, from: from.into() });
    }
}

/// How far above the middle a point shows where up is, pixels.
const UP_PX: f64 = 100.0;

/// The middle by a plate solution, turned as the solution says, and its scale, arcsec.
pub(crate) fn solved(cards: &Cards, found: &mut Found) -> Option<(Pointing, f64)> {
    let ([[a, b], [c, d]], from) = matrix(cards)?;
    let (ra_deg, dec_deg) = (cards.of_key("CRVAL1")?, cards.of_key("CRVAL2")?);
    let sky = Pointing { ra_deg, dec_deg, position_angle_deg: 0.0 };
    let middle = |axis: &str, at: &str| Some((cards.of_key(axis)? + 1.0) / 2.0 - cards.of_key(at)?);
    let off = middle("NAXIS1", "CRPIX1").zip(middle("NAXIS2", "CRPIX2"));
    let (x, y) = off.unwrap_or((0.0, 0.0));
    let of = |x: f64, y: f64| sky.moved((a * x + b * y) * 60.0, (c * x + d * y) * 60.0);
    let (mut at, above) = (of(x, y), of(x, y + UP_PX));
    if let Some([east, north]) = at.east_north_arcsec(above.ra_deg, above.dec_deg) {
        at.position_angle_deg = east.atan2(north).to_degrees();
    }
    found.says("Position angle", format!("{:.1}°", at.position_angle_deg), from);
    if a * d - b * c > 0.0 {
        found.assumed.push(
            "The picture is mirrored against the sky; its field is the same, its angle is that of \
             its upward side as it is stored."
                .into(),
        );
    }
    Some((at, (a * d - b * c).abs().sqrt() * 3600.0))
}

/// Keys under which an angle of the camera on the sky is written.
const ANGLES: [&str; 6] = ["POSANGLE", "POSANG", "PA", "OBJCTROT", "ROTATANG", "ROTATOR"];

/// The middle by the mount's word, and the camera's angle by the rotator's.
pub(crate) fn told(cards: &Cards, found: &mut Found) -> Result<Option<(Pointing, bool)>, String> {
    let pair = [("OBJCTRA", "OBJCTDEC"), ("RA", "DEC"), ("CRVAL1", "CRVAL2")];
    let Some((ra, dec)) =
        pair.into_iter().find(|(r, d)| cards.text(&[r]).is_some() && cards.text(&[d]).is_some())
    else {
        return Ok(None);
    };
    let [east, north] = [ra, dec].map(|k| cards.0[k].as_str());
    let sign = if north.starts_with(['+', '-']) { "" } else { "+" };
    let at = parse(&format!("{east} {sign}{north}"))
        .map_err(|e| format!("{ra} and {dec} cannot be read: {e}"))?;
    found.says("Middle", format!("{east} {north}"), &format!("{ra}, {dec}"));
    found.assumed.push(
        "The middle is where the mount said it looked; a plate solution would be surer.".into(),
    );
    let turned = cards.number(&ANGLES);
    if let Some((key, angle)) = turned {
        found.says("Position angle", format!("{angle:.1}°"), key);
        if key.starts_with("ROTAT") {
            found.assumed.push(format!("{key} is taken for the angle on the sky."));
        }
    } else {
        found.assumed.push("It says no angle: north is taken to stand up.".into());
    }
    let position_angle_deg = turned.map_or(0.0, |(_, angle)| wrapped(angle));
    Ok(Some((
        Pointing { ra_deg: at.ra_deg, dec_deg: at.dec_deg, position_angle_deg },
        turned.is_some(),
    )))
}

/// An angle between -180 and 180 degrees.
fn wrapped(angle_deg: f64) -> f64 {
    (angle_deg + 180.0).rem_euclid(360.0) - 180.0
}

/// The rig, as far as its field hangs on it.
fn rig(cards: &Cards, scale_arcsec: Option<f64>, found: &mut Found) -> Option<FieldRig> {
    let side = |k: &str| cards.of_key(k).filter(|n| (1.0..=1e5).contains(n)).map(|n| n as u32);
    let (columns, rows) = (side("NAXIS1")?, side("NAXIS2")?);
    let (key, pixel_um) = cards.number(&["XPIXSZ", "PIXSIZE1", "PIXSIZE"])?;
    let told = cards.number(&["FOCALLEN", "FOCAL"]).filter(|(_, mm)| *mm > 0.0);
    let (from, focal_length_mm) = match scale_arcsec {
        // What was solved is measured, what was typed is not.
        Some(scale) => {
            ("the plate solution's scale", FieldRig::focal_length_of_scale_mm(pixel_um, scale))
        }
        None => told?,
    };
    let parts = [cards.text(&["TELESCOP"]), cards.text(&["INSTRUME"])];
    let named: Vec<&str> = parts.into_iter().flatten().map(|(_, text)| text).collect();
    let name = if named.is_empty() { "the header's rig".into() } else { named.join(", ") };
    let rig = FieldRig { name, focal_length_mm, pixel_um, columns, rows };
    if !rig.check("rig").is_empty() {
        return None;
    }
    found.says(
        "Sensor",
        format!("{columns} × {rows} px of {pixel_um} µm"),
        &format!("NAXIS1, NAXIS2, {key}"),
    );
    found.says("Focal length", format!("{focal_length_mm:.0} mm"), from);
    Some(rig)
}

/// Reads a header as text: a card on each line, or one card after another of 80 characters, as a
/// file holds them.
///
/// # Errors
/// Where nothing in it is a card, or its coordinates cannot be read.
pub fn read_header(text: &str) -> Result<FrameHeader, String> {
    let cards = Cards::read(text);
    if cards.0.is_empty() {
        return Err("this is no header: give lines such as \"OBJCTRA = '06 17 13'\", or the \
                    beginning of a FITS file"
            .into());
    }
    let mut found = Found::default();
    let (at, turned, scale) = match solved(&cards, &mut found) {
        Some((at, scale)) => {
            found.says(
                "Middle",
                format!("{:.4}° {:+.4}°", at.ra_deg, at.dec_deg),
                "CRVAL1, CRVAL2",
            );
            (Some(at), true, Some(scale))
        }
        None => match told(&cards, &mut found)? {
            Some((at, turned)) => (Some(at), turned, None),
            None => {
                found.assumed.push("It says no place on the sky.".into());
                (None, false, None)
            }
        },
    };
    let outside = |p: &Pointing| !(-90.0..=90.0).contains(&p.dec_deg) || !p.ra_deg.is_finite();
    if at.as_ref().is_some_and(outside) {
        return Err("its declination (CRVAL2) is not between -90 and 90 degrees".into());
    }
    let at = at.map(|p| Pointing {
        ra_deg: p.ra_deg.rem_euclid(360.0),
        position_angle_deg: wrapped(p.position_angle_deg),
        ..p
    });
    let rig = rig(&cards, scale, &mut found);
    let exposure = cards.number(&["EXPTIME", "EXPOSURE"]);
    if let Some((key, s)) = exposure {
        found.says("Exposure", format!("{s} s"), key);
    }
    let said = |keys: &[&'static str]| cards.text(keys).map(|(k, text)| (k, text.to_owned()));
    let (object, filter) = (said(&["OBJECT"]), said(&["FILTER"]));
    for (what, one) in [("Object", &object), ("Filter", &filter)] {
        if let Some((key, text)) = one {
            found.says(what, text.clone(), key);
        }
    }
    Ok(FrameHeader {
        at,
        turned,
        rig,
        object: object.map(|o| o.1),
        filter: filter.map(|f| f.1),
        exposure_s: exposure.map(|e| e.1),
        understood: found.understood,
        assumed: found.assumed,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_capture_program_writes() {
        let h = read_header(
            "SIMPLE  =                    T / standard\n\
             NAXIS1  =                 6248\nNAXIS2  =                 4176\n\
             XPIXSZ  =                 3.76 / um\nFOCALLEN=                495.0\n\
             OBJCTRA = '06 17 13'           / nominal\nOBJCTDEC= '+22 31 05'\n\
             ROTATANG=               -162.5\nOBJECT  = 'IC 443  '\nEXPTIME =  300.\n\
             FILTER  = 'H-alpha, mine''s'\nEND\nRA = 3",
        )
        .expect("a header");
        let at = h.at.expect("a place");
        assert!((at.ra_deg - 94.304).abs() < 0.001 && (at.dec_deg - 22.518).abs() < 0.001);
        assert!(h.turned && (at.position_angle_deg + 162.5).abs() < 1e-9);
        let rig = h.rig.expect("a rig");
        assert_eq!((rig.columns, rig.rows, rig.focal_length_mm), (6248, 4176, 495.0));
        assert_eq!(h.object.as_deref(), Some("IC 443"));
        assert_eq!((h.filter.as_deref(), h.exposure_s), (Some("H-alpha, mine's"), Some(300.0)));
        assert!(h.assumed.iter().any(|a| a.contains("ROTATANG")));
        assert!(h.understood.iter().any(|u| u.what == "Middle" && u.from == "OBJCTRA, OBJCTDEC"));
    }

    /// Plate solutions in three dialects, some mirrored, against `astropy.wcs`: see
    /// `reference/scripts/make_headers.py`.
    #[test]
    fn plate_solutions_agree_with_astropy() {
        let table = include_str!("../../../reference/headers.csv");
        let mut seen = 0;
        for row in table.lines().skip(1) {
            let cells: Vec<&str> = row.rsplitn(4, ',').collect();
            let number = |i: usize| cells[i].parse::<f64>().expect("a number");
            let h = read_header(&cells[3].replace("; ", "\n")).expect("a header");
            let at = h.at.expect("a place");
            let there = Pointing { ra_deg: number(2), dec_deg: number(1), position_angle_deg: 0.0 };
            let [east, north] = there.east_north_arcsec(at.ra_deg, at.dec_deg).expect("near");
            assert!(east.hypot(north) < 0.05, "{row}: {at:?}");
            let off = wrapped(at.position_angle_deg - number(0));
            assert!(off.abs() < 0.01, "{row}: {at:?}");
            seen += 1;
        }
        assert_eq!(seen, 24);
    }

    /// The same cards as a file holds them: 80 characters each, no line's end between them. Degrees
    /// in RA are degrees, and what is missing is said.
    #[test]
    fn cards_of_eighty_characters_and_what_is_missing() {
        let text: String = ["RA      =    94.25", "DEC     =  -5.5 / where it looked", "END"]
            .iter()
            .map(|c| format!("{c:<80}"))
            .collect();
        let h = read_header(&text).expect("a header");
        let at = h.at.expect("a place");
        assert!((at.ra_deg - 94.25).abs() < 1e-9 && (at.dec_deg + 5.5).abs() < 1e-9);
        assert!(!h.turned && h.rig.is_none());
        assert!(h.assumed.iter().any(|a| a.contains("no angle")));
        assert!(read_header("dear diary").is_err());
        assert!(read_header("OBJCTRA = 'x'\nOBJCTDEC = 'y'").unwrap_err().contains("OBJCTRA"));
        assert!(read_header("EXPTIME = 3\nX=1").expect("a header").at.is_none());
    }
}
