//! The shelf: a user's sites, telescopes, cameras and filters, with where each number comes from.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::library::gear::{FilterFits, FilterKind, Gear};
use crate::library::rig::{Holder, Orientation, Rig, Slot};
use crate::light::lamp::Lamp;
use crate::scenario::check::{Checker, FieldRange};
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
    /// A rig: parts of the shelf that belong together.
    Rig(Rig),
}

impl ShelfThing {
    /// The kind as its key.
    pub fn kind(&self) -> &'static str {
        match self {
            Self::Site(_) => "site",
            Self::Telescope(_) => "telescope",
            Self::Filter(_) => "filter",
            Self::Camera(_) => "camera",
            Self::Rig(_) => "rig",
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

    /// The ranges of its numbers, for whoever publishes them.
    pub fn ranges(&self) -> Vec<FieldRange> {
        Checker::ranges_of(|c| self.checked_by(c))
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
            ShelfThing::Rig(r) => c.kit_rig("thing.item", r),
        }
    }
}

fn entry(name: &str, note: &str, thing: ShelfThing) -> ShelfEntry {
    ShelfEntry { name: name.to_owned(), sources: [(String::new(), note.to_owned())].into(), thing }
}

/// The shipped gear as shelf entries, with their stable ids: what things are taken from.
pub fn shipped_entries(gear: &Gear) -> Vec<(String, ShelfEntry)> {
    let optics = gear.optics.iter().map(|o| {
        let thing = Telescope { price: o.price, optics: o.optics.clone() };
        (o.id.clone(), entry(&o.name, &o.note, ShelfThing::Telescope(thing)))
    });
    let filters = gear.filters.iter().map(|f| {
        let thing = ShelfThing::Filter(ShelfFilter {
            family: f.kind,
            fits: f.fits,
            filter: f.filter.clone(),
        });
        (f.id.clone(), entry(&f.filter.name, &f.note, thing))
    });
    let cameras = gear.cameras.iter().map(|k| {
        let camera = Camera {
            usual_gain: k.usual_gain,
            usual_temperature_c: k.usual_temperature_c,
            price: k.price,
            sensor: k.sensor.clone(),
        };
        (k.id.clone(), entry(&k.sensor.name, &k.note, ShelfThing::Camera(camera)))
    });
    optics.chain(filters).chain(cameras).collect()
}

/// A set of shipped filters to begin a rig with.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Starter {
    /// What it is called.
    pub name: &'static str,
    /// For a colour camera, or for a mono one.
    pub colour: bool,
    /// Ids of the filters, slot by slot; null for an empty slot.
    pub filters: &'static [Option<&'static str>],
}

/// Sets of filters that many begin with (common practice, no source), the commonest first.
pub const STARTERS: [Starter; 7] = [
    Starter {
        name: "UV-IR cut and dual band 7 nm",
        colour: true,
        filters: &[Some("uv-ir-cut"), Some("dual-7")],
    },
    Starter { name: "Dual band 7 nm, and none", colour: true, filters: &[Some("dual-7"), None] },
    Starter {
        name: "Two dual bands for S-H-O, and a UV-IR cut",
        colour: true,
        filters: &[Some("dual-7"), Some("sii-oiii"), Some("uv-ir-cut")],
    },
    Starter { name: "No filter", colour: true, filters: &[None] },
    Starter {
        name: "L, R, G, B and three lines of 3 nm",
        colour: false,
        filters: &[
            Some("lum"),
            Some("red"),
            Some("green"),
            Some("blue"),
            Some("ha-3"),
            Some("oiii-3"),
            Some("sii-3"),
        ],
    },
    Starter {
        name: "L, R, G, B and three lines of 7 nm",
        colour: false,
        filters: &[
            Some("lum"),
            Some("red"),
            Some("green"),
            Some("blue"),
            Some("ha-7"),
            Some("oiii-7"),
            Some("sii-7"),
        ],
    },
    Starter {
        name: "L, R, G, B",
        colour: false,
        filters: &[Some("lum"), Some("red"), Some("green"), Some("blue")],
    },
];

/// The invented kit of the demo, with stable ids: two sites, and two rigs of shipped parts.
pub fn demo_kit() -> Vec<(String, ShelfEntry)> {
    let site = |latitude_deg, longitude_deg, height_m, zenith_v_mag, lamps: &[(Lamp, f64)]| {
        ShelfThing::Site(Site {
            latitude_deg,
            longitude_deg,
            height_m,
            zenith_v_mag,
            lamps: lamps.iter().copied().collect(),
            k_v: None,
            seeing_fwhm_arcsec: None,
            nights_per_year: None,
            zone: Some("America/Toronto".to_owned()),
            horizon_deg: Vec::new(),
            glow: Vec::new(),
            by_hour: Vec::new(),
            known: BTreeMap::new(),
        })
    };
    let led = |warm, cold, sodium| {
        [(Lamp::Led3000k, warm), (Lamp::Led4000k, cold), (Lamp::HighPressureSodium, sodium)]
    };
    let larch = site(46.35, -72.55, 30.0, 19.3, &led(0.35, 0.45, 0.2));
    let heron = site(46.95, -73.55, 310.0, 21.6, &led(0.5, 0.3, 0.2));
    let rig = |telescope: &str, camera: &str, holder, filters: &[Option<&str>], extra, back| {
        let slots = (1..).zip(filters).map(|(number, filter)| Slot {
            number,
            filter: filter.map(str::to_owned),
            orientation: Orientation::NameToTelescope,
            since: Some("2026-10-03".to_owned()),
        });
        ShelfThing::Rig(Rig {
            telescope: telescope.to_owned(),
            reducer: None,
            camera: camera.to_owned(),
            gain: None,
            temperature_c: None,
            binning: 1,
            holder,
            slots: slots.collect(),
            longest_sub_s: None,
            mount: None,
            overhead_s_per_sub: 4.0,
            loss_per_hour: 0.2,
            dither: None,
            extra_price: Some(extra),
            back_focus_mm: Some(back),
            ghost_gaps_mm: Vec::new(),
        })
    };
    let wheel = ["lum", "red", "green", "blue", "ha-3", "oiii-3", "sii-3"].map(Some);
    let drawer = [Some("dual-7"), None];
    let mono = rig("refractor-90", "mono-26", Holder::Wheel, &wheel, 1400.0, 55.0);
    let colour = rig("reflector-150", "colour-26", Holder::Drawer, &drawer, 1500.0, 56.0);
    let rig_names = ["Refractor, mono", "Reflector, colour"];
    vec![
        ("larch-lane".to_owned(), entry("Larch Lane", "invented", larch)),
        ("heron-lake".to_owned(), entry("Heron Lake", "invented", heron)),
        ("refractor-mono".to_owned(), entry(rig_names[0], "invented", mono)),
        ("reflector-colour".to_owned(), entry(rig_names[1], "invented", colour)),
    ]
}
