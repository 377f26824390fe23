//! The shelf: a user's sites, telescopes, cameras and filters, with where each number comes from.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::library::gear::{FilterFits, FilterKind, Gear};
use crate::light::lamp::Lamp;
use crate::scenario::check::Checker;
use crate::scenario::exposure::Filter;
use crate::scenario::field_error::FieldError;
use crate::scenario::rig::{Optics, Sensor};
use crate::scenario::site::Site;

/// A camera with how it is usually run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Camera {
    /// The gain setting to start from.
    pub usual_gain: f64,
    /// The set point to start from, degrees Celsius.
    pub usual_temperature_c: f64,
    /// Price in the user's currency.
    #[serde(default)]
    pub price: Option<f64>,
    /// The sensor.
    pub sensor: Sensor,
}

/// A telescope.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Telescope {
    /// Price in the user's currency.
    #[serde(default)]
    pub price: Option<f64>,
    /// The optics.
    pub optics: Optics,
}

/// A filter with the cameras it is of use on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShelfFilter {
    /// Its family.
    pub family: FilterKind,
    /// On which cameras it is of use.
    pub fits: FilterFits,
    /// The filter.
    pub filter: Filter,
}

/// What stands on the shelf.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", content = "item", rename_all = "snake_case")]
pub enum ShelfThing {
    /// A place.
    Site(Site),
    /// A telescope.
    Telescope(Telescope),
    /// A filter.
    Filter(ShelfFilter),
    /// A camera.
    Camera(Camera),
}

impl ShelfThing {
    /// The kind as its key.
    pub fn kind(&self) -> &'static str {
        match self {
            Self::Site(_) => "site",
            Self::Telescope(_) => "telescope",
            Self::Filter(_) => "filter",
            Self::Camera(_) => "camera",
        }
    }
}

/// Something on the shelf, as a user edits it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShelfEntry {
    /// Its name.
    pub name: String,
    /// Where its numbers come from: "typical, from memory", "typed", "imported from curve.csv". The
    /// key is the field's path; the empty key stands for all others.
    #[serde(default)]
    pub sources: BTreeMap<String, String>,
    /// The thing itself.
    pub thing: ShelfThing,
}

impl ShelfEntry {
    /// Checks every field.
    ///
    /// # Errors
    /// All fields that are wrong.
    pub fn check(self) -> Result<Self, Vec<FieldError>> {
        Checker::errors_of(|c| self.checked_by(c)).map(|()| self)
    }

    fn checked_by(&self, c: &mut Checker) {
        c.name("name", &self.name);
        match &self.thing {
            ShelfThing::Site(s) => c.site("thing.item", s),
            ShelfThing::Telescope(t) => {
                c.maybe_within("thing.item.price", t.price, 0.0, 1e7, "");
                c.optics("thing.item.optics", &t.optics);
            }
            ShelfThing::Filter(f) => c.filter("thing.item.filter", &f.filter),
            ShelfThing::Camera(k) => {
                c.maybe_within("thing.item.price", k.price, 0.0, 1e7, "");
                c.within("thing.item.usual_gain", k.usual_gain, 0.0, 1e6, "");
                c.within(
                    "thing.item.usual_temperature_c",
                    k.usual_temperature_c,
                    -60.0,
                    60.0,
                    "degrees Celsius",
                );
                c.sensor("thing.item.sensor", &k.sensor);
            }
        }
    }
}

/// The shipped gear and the demo's two sites as shelf entries, with their stable ids.
pub fn shipped_entries(gear: &Gear) -> Vec<(String, ShelfEntry)> {
    let entry = |name: &str, note: &str, thing| ShelfEntry {
        name: name.to_owned(),
        sources: [(String::new(), note.to_owned())].into(),
        thing,
    };
    let site = |latitude_deg, longitude_deg, height_m, zenith_v_mag, lamps: &[(Lamp, f64)]| {
        let lamps = lamps.iter().copied().collect();
        let zone = Some("America/Toronto".to_owned());
        ShelfThing::Site(Site {
            latitude_deg,
            longitude_deg,
            height_m,
            zenith_v_mag,
            lamps,
            k_v: None,
            zone,
            horizon_deg: Vec::new(),
            glow: Vec::new(),
        })
    };
    let larch = site(
        46.35,
        -72.55,
        30.0,
        19.3,
        &[(Lamp::Led3000k, 0.35), (Lamp::Led4000k, 0.45), (Lamp::HighPressureSodium, 0.2)],
    );
    let heron = site(
        46.95,
        -73.55,
        310.0,
        21.6,
        &[(Lamp::Led3000k, 0.5), (Lamp::Led4000k, 0.3), (Lamp::HighPressureSodium, 0.2)],
    );
    let mut out = vec![
        ("larch-lane".to_owned(), entry("Larch Lane", "invented", larch)),
        ("heron-lake".to_owned(), entry("Heron Lake", "invented", heron)),
    ];
    out.extend(gear.optics.iter().map(|o| {
        (
            o.id.clone(),
            entry(
                &o.name,
                &o.note,
                ShelfThing::Telescope(Telescope { price: o.price, optics: o.optics.clone() }),
            ),
        )
    }));
    out.extend(gear.filters.iter().map(|f| {
        let thing = ShelfThing::Filter(ShelfFilter {
            family: f.kind,
            fits: f.fits,
            filter: f.filter.clone(),
        });
        (f.id.clone(), entry(&f.filter.name, &f.note, thing))
    }));
    out.extend(gear.cameras.iter().map(|k| {
        let camera = Camera {
            usual_gain: k.usual_gain,
            usual_temperature_c: k.usual_temperature_c,
            price: k.price,
            sensor: k.sensor.clone(),
        };
        (k.id.clone(), entry(&k.sensor.name, &k.note, ShelfThing::Camera(camera)))
    }));
    out
}
