//! The catalogue of deep-sky objects: searching it, and how an object sits on a sensor.
//!
//! The data are OpenNGC's (CC-BY-SA 4.0), kept in a file of their own, see `data/SOURCES.md`.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::scenario::rig::{Optics, Sensor};
use crate::scenario::target::TargetKind;

/// One object.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CatalogueObject {
    /// Name such as "NGC 7822"; unique.
    pub name: String,
    /// The kind whose emission presets fit.
    pub kind: TargetKind,
    /// The catalogue's own type code ("HII", "G", "SNR").
    pub code: String,
    /// Right ascension, J2000, degrees.
    pub ra_deg: f64,
    /// Declination, J2000, degrees.
    pub dec_deg: f64,
    /// Constellation, three letters.
    pub constellation: String,
    /// Longer axis, arcmin.
    pub major_arcmin: Option<f64>,
    /// Shorter axis, arcmin.
    pub minor_arcmin: Option<f64>,
    /// Position angle of the longer axis, degrees from north over east.
    pub pa_deg: Option<f64>,
    /// V magnitude of the whole.
    pub v_mag: Option<f64>,
    /// B magnitude of the whole.
    pub b_mag: Option<f64>,
    /// Mean B surface brightness, mag/arcsec^2.
    pub b_mag_arcsec2: Option<f64>,
    /// Messier number and popular names.
    pub other_names: Vec<String>,
    #[serde(skip)]
    key: String,
}

/// What to look for.
#[derive(Clone, Debug, Default, PartialEq, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct CatalogueQuery {
    /// Part of a name; blanks and case do not matter.
    pub text: String,
    /// Only this kind.
    pub kind: Option<TargetKind>,
    /// Only this constellation, three letters.
    pub constellation: Option<String>,
    /// At least this long, arcmin.
    pub at_least_arcmin: Option<f64>,
    /// At most this long, arcmin.
    pub at_most_arcmin: Option<f64>,
}

/// What was found.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct CatalogueAnswer {
    /// How many objects match.
    pub matches: usize,
    /// The first of them: names that match best first, then the largest.
    pub objects: Vec<CatalogueObject>,
}

/// The catalogue in memory.
#[derive(Clone, Debug)]
pub struct Catalogue {
    objects: Vec<CatalogueObject>,
}

const OBJECTS: &str = include_str!("../../../../data/catalogue/objects.csv");

/// Lower case without blanks: "NGC 7822" and "ngc7822" are one name.
fn key(text: &str) -> String {
    text.chars().filter(|c| !c.is_whitespace()).flat_map(char::to_lowercase).collect()
}

impl Catalogue {
    /// The shipped catalogue.
    ///
    /// # Errors
    /// The row that is damaged; a test reads them all.
    pub fn shipped() -> Result<Self, String> {
        let objects =
            OBJECTS.lines().enumerate().skip(1).map(|(i, line)| object(line).ok_or_else(|| format!("objects.csv, row {}: {line}", i + 1)));
        Ok(Self { objects: objects.collect::<Result<_, _>>()? })
    }

    /// Number of objects.
    pub fn len(&self) -> usize {
        self.objects.len()
    }

    /// All objects.
    pub fn objects(&self) -> &[CatalogueObject] {
        &self.objects
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.objects.is_empty()
    }

    /// One object by its name, blanks and case ignored.
    pub fn get(&self, name: &str) -> Option<&CatalogueObject> {
        let wanted = key(name);
        self.objects.iter().find(|o| key(&o.name) == wanted)
    }

    /// Searches; answers at most `most` objects.
    pub fn search(&self, query: &CatalogueQuery, most: usize) -> CatalogueAnswer {
        let text = key(&query.text);
        let size = |o: &CatalogueObject| o.major_arcmin.unwrap_or(0.0);
        let wanted = |o: &&CatalogueObject| {
            (text.is_empty() || o.key.contains(&text))
                && query.kind.is_none_or(|k| o.kind == k)
                && query.constellation.as_ref().is_none_or(|c| c.is_empty() || o.constellation.eq_ignore_ascii_case(c))
                && query.at_least_arcmin.is_none_or(|s| size(o) >= s)
                && query.at_most_arcmin.is_none_or(|s| size(o) <= s)
        };
        // A whole name first, then one that starts like it, then the rest; the largest first among equals.
        let rank = |o: &CatalogueObject| match () {
            () if text.is_empty() => 2,
            () if o.key.split('|').any(|k| k == text) => 0,
            () if o.key.split('|').any(|k| k.starts_with(&text)) => 1,
            () => 2,
        };
        let mut found: Vec<_> = self.objects.iter().filter(wanted).map(|o| (rank(o), o)).collect();
        found.sort_by(|(ra, a), (rb, b)| ra.cmp(rb).then(size(b).total_cmp(&size(a))));
        CatalogueAnswer { matches: found.len(), objects: found.into_iter().take(most).map(|(_, o)| o.clone()).collect() }
    }

    /// The constellations that occur, sorted.
    pub fn constellations(&self) -> Vec<String> {
        let all: std::collections::BTreeSet<_> = self.objects.iter().map(|o| o.constellation.clone()).filter(|c| !c.is_empty()).collect();
        all.into_iter().collect()
    }
}

fn object(line: &str) -> Option<CatalogueObject> {
    // Names are the last column and hold no quotes: a plain split is enough.
    let mut cells = line.splitn(13, ',');
    let mut text = || cells.next();
    let (name, kind, code) = (text()?, text()?, text()?);
    let (ra, dec, constellation) = (text()?, text()?, text()?);
    let mut number = || -> Option<Option<f64>> {
        let cell = text()?;
        if cell.is_empty() { Some(None) } else { cell.parse().ok().map(Some) }
    };
    let (major_arcmin, minor_arcmin, pa_deg) = (number()?, number()?, number()?);
    let (v_mag, b_mag, b_mag_arcsec2) = (number()?, number()?, number()?);
    let others = text()?.trim_matches('"');
    let other_names: Vec<String> = others.split("; ").filter(|n| !n.is_empty()).map(str::to_owned).collect();
    let keys: Vec<String> = std::iter::once(name).chain(other_names.iter().map(String::as_str)).map(key).collect();
    Some(CatalogueObject {
        name: name.to_owned(),
        kind: serde_json::from_value(kind.into()).ok()?,
        code: code.to_owned(),
        ra_deg: ra.parse().ok()?,
        dec_deg: dec.parse().ok()?,
        constellation: constellation.to_owned(),
        major_arcmin,
        minor_arcmin,
        pa_deg,
        v_mag,
        b_mag,
        b_mag_arcsec2,
        key: keys.join("|"),
        other_names,
    })
}

/// Share by which neighbouring panels of a mosaic overlap (common practice, no source).
const PANEL_OVERLAP: f64 = 0.15;

/// Margin around an object that a frame should leave, as a share of its size (common practice, no source).
const MARGIN: f64 = 0.1;

/// A rig's field over an object.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Framing {
    /// Width of the field, arcmin.
    pub width_arcmin: f64,
    /// Height of the field, arcmin.
    pub height_arcmin: f64,
    /// Pixel scale, arcsec.
    pub scale_arcsec: f64,
    /// Panels along the object's longer axis.
    pub panels_along: u32,
    /// Panels across it.
    pub panels_across: u32,
    /// How far the object fills the field, as a share of the field's area.
    pub fill: f64,
}

/// How an object of a size sits on a sensor turned along its longer axis.
pub fn framing(optics: &Optics, sensor: &Sensor, major_arcmin: f64, minor_arcmin: f64) -> Framing {
    let scale_arcsec = optics.pixel_scale_arcsec(sensor.pixel_um);
    let side = |pixels: u32| f64::from(pixels) * scale_arcsec / 60.0;
    let (width_arcmin, height_arcmin) = (side(sensor.columns), side(sensor.rows));
    let panels = |size: f64, field: f64| {
        let wanted = size * (1.0 + MARGIN);
        if wanted <= field { 1.0 } else { ((wanted - field) / (field * (1.0 - PANEL_OVERLAP))).ceil() + 1.0 }
    };
    let (long, short) = (width_arcmin.max(height_arcmin), width_arcmin.min(height_arcmin));
    Framing {
        width_arcmin,
        height_arcmin,
        scale_arcsec,
        panels_along: panels(major_arcmin, long) as u32,
        panels_across: panels(minor_arcmin, short) as u32,
        fill: std::f64::consts::FRAC_PI_4 * major_arcmin * minor_arcmin / (width_arcmin * height_arcmin),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library::gear::Library;

    fn shipped() -> Catalogue {
        Catalogue::shipped().unwrap()
    }

    #[test]
    fn the_catalogue_holds_thousands_and_the_demo_targets() {
        let c = shipped();
        assert!(c.len() > 5000, "{}", c.len());
        assert_eq!(c.get("ic443").unwrap().kind, TargetKind::SupernovaRemnant);
        assert_eq!(c.get("NGC 2403").unwrap().kind, TargetKind::GalaxyWithHIi);
        assert!(c.get("NGC 7129").is_some() && c.get("ngc 7822").is_some());
    }

    /// What the objects are: from memory.
    #[test]
    fn what_reflects_starlight_is_no_h_ii_region() {
        let c = shipped();
        let kind = |name: &str| c.get(name).unwrap().kind;
        for name in ["NGC 1432", "NGC 1435", "NGC 7023", "NGC 1333", "M 78", "NGC 1977", "IC 349", "IC 4604", "NGC 1909"] {
            let found = c.search(&CatalogueQuery { text: name.into(), ..Default::default() }, 1).objects.remove(0);
            assert_eq!(found.kind, TargetKind::ReflectionNebula, "{name}");
        }
        for name in ["NGC 1499", "NGC 6523", "NGC 6611", "NGC 6618", "NGC 6514", "NGC 2024", "IC 405", "NGC 2237", "NGC 7000", "IC 2177"] {
            assert_eq!(kind(name), TargetKind::HIiRegion, "{name}");
        }
        // A bare "nebula" that nobody here knows to be ionised does not count as such.
        assert!(c.objects().iter().filter(|o| o.code == "Neb" && o.kind == TargetKind::ReflectionNebula).count() > 40);
    }

    #[test]
    fn search_by_name_kind_constellation_and_size() {
        let c = shipped();
        let find = |text: &str| c.search(&CatalogueQuery { text: text.into(), ..Default::default() }, 10);
        assert_eq!(find("M 33").objects[0].name, "NGC 598");
        assert_eq!(find("m33").objects[0].name, "NGC 598");
        assert_eq!(find("north america").objects[0].name, "NGC 7000");
        assert_eq!(find("no such thing").matches, 0);
        let big = CatalogueQuery {
            kind: Some(TargetKind::HIiRegion),
            constellation: Some("Cyg".into()),
            at_least_arcmin: Some(30.0),
            ..Default::default()
        };
        let found = c.search(&big, 100);
        assert!(found.matches > 0 && found.objects.iter().all(|o| o.constellation == "Cyg" && o.major_arcmin >= Some(30.0)));
    }

    #[test]
    fn fields_and_panels() {
        let gear = Library::shipped().unwrap().gear;
        let (o, s) = (&gear.optics[0].optics, &gear.cameras[0].sensor);
        let f = framing(o, s, 50.0, 40.0);
        // 6248 pixels of 3.76 um at 495 mm: 1.567 arcsec each, 163 by 109 arcmin.
        assert!((f.width_arcmin - 163.2).abs() < 0.2 && (f.height_arcmin - 109.0).abs() < 0.2);
        assert_eq!((f.panels_along, f.panels_across), (1, 1));
        let wide = framing(o, s, 300.0, 120.0);
        assert_eq!((wide.panels_along, wide.panels_across), (3, 2));
    }
}
