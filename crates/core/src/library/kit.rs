//! A rig as it stands in the garden: which telescope, camera and filters belong together, in which
//! slot each filter sits and which way round, what the mount holds and what it all costs. Its parts
//! are things of the shelf and are named by their ids, so that a part that is mended there is mended
//! in every rig. Which light paths its filters make is said in [`crate::decide::wheel`].

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::library::shelf::{Camera, ShelfEntry, ShelfFilter, ShelfThing, Telescope};
use crate::scenario::check::{Checker, FieldRange};
use crate::scenario::defaults;
use crate::scenario::exposure::Exposure;
use crate::scenario::field_error::FieldError;
use crate::scenario::rig::{Contender, Dither, Mount, Optics};

/// Most slots of a wheel or drawer.
pub const MAX_SLOTS: usize = 12;

/// What holds the filters.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Holder {
    /// A wheel: every filter is at hand within a night.
    #[default]
    Wheel,
    /// A drawer: one filter at a time, changed by hand.
    Drawer,
}

/// Which way round a filter sits.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Orientation {
    /// The side with its name looks at the telescope.
    NameToTelescope,
    /// The side with its name looks at the camera.
    NameToCamera,
    /// Nobody has looked.
    #[default]
    Unknown,
}

/// A place for a filter.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Slot {
    /// Its number, as the wheel counts.
    pub number: u32,
    /// Id of the filter in it; null for an empty one.
    #[serde(default)]
    pub filter: Option<String>,
    /// Which way round the filter sits.
    #[serde(default)]
    pub orientation: Orientation,
    /// Since which date it sits so, as in "2026-11-08"; flats from before belong to another light
    /// path. Null where that is not known.
    #[serde(default)]
    pub since: Option<String>,
}

/// A rig: parts of the shelf by their ids, and what only they together have.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Rig {
    /// Id of the telescope.
    pub telescope: String,
    /// Factor of the reducer or extender in use; null for the telescope's own.
    #[serde(default)]
    pub reducer: Option<f64>,
    /// Id of the camera.
    pub camera: String,
    /// Gain setting to start from; null for the camera's usual one.
    #[serde(default)]
    pub gain: Option<f64>,
    /// Set point of the cooling, degrees Celsius; null for the camera's usual one.
    #[serde(default)]
    pub temperature_c: Option<f64>,
    /// Pixels on a side that are put together into one, 1 to 4.
    #[serde(default = "defaults::unbinned")]
    #[schema(default = 1)]
    pub binning: u32,
    /// What holds the filters.
    #[serde(default)]
    pub holder: Holder,
    /// Its slots.
    #[serde(default)]
    pub slots: Vec<Slot>,
    /// Longest sub that stays round on this mount, s; null for the telescope's own limit.
    #[serde(default)]
    pub longest_sub_s: Option<f64>,
    /// How the mount follows the sky; null for one that follows it and turns with it.
    #[serde(default)]
    pub mount: Option<Mount>,
    /// Time lost after each sub besides readout (download, settling), s.
    #[serde(default = "defaults::rig_overhead_s")]
    #[schema(default = 4.0)]
    pub overhead_s_per_sub: f64,
    /// How often something spoils a sub, per hour.
    #[serde(default = "defaults::rig_loss_per_hour")]
    #[schema(default = 0.2)]
    pub loss_per_hour: f64,
    /// How often the field is moved between subs, and what a move costs.
    #[serde(default)]
    pub dither: Option<Dither>,
    /// What mount, adapters and the rest cost together, in the user's currency; comes on top of the
    /// prices of the parts.
    #[serde(default)]
    pub extra_price: Option<f64>,
    /// Distance from the corrector's or reducer's shoulder to the sensor that it wants without any
    /// glass between, mm; null where it is not known.
    #[serde(default)]
    pub back_focus_mm: Option<f64>,
    /// Distances between faces that throw light to and fro before the sensor (filter to sensor,
    /// window to sensor), mm: each makes a halo of its own size.
    #[serde(default)]
    pub ghost_gaps_mm: Vec<f64>,
}

/// A rig with the parts that its ids name.
#[derive(Clone, Debug)]
pub struct RigParts<'a> {
    /// What its owner calls it.
    pub name: &'a str,
    /// The rig.
    pub rig: &'a Rig,
    /// Its telescope with its name.
    pub telescope: (&'a str, &'a Telescope),
    /// Its camera.
    pub camera: &'a Camera,
    /// The filter of every slot, in their order.
    pub filters: Vec<Option<&'a ShelfFilter>>,
}

/// What a rig costs.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct RigPrice {
    /// Telescope and camera, as far as their prices are known.
    pub parts: f64,
    /// The filters in its slots, as far as their prices are known.
    pub filters: f64,
    /// What was typed on top.
    pub extra: f64,
    /// All of it.
    pub total: f64,
    /// How many parts have no price.
    pub unknown: usize,
}

impl Rig {
    /// Every id that it names: telescope, camera, filters.
    pub fn part_ids(&self) -> impl Iterator<Item = &String> {
        [&self.telescope, &self.camera]
            .into_iter()
            .chain(self.slots.iter().filter_map(|s| s.filter.as_ref()))
    }

    /// The same rig with other ids for its parts; an id that `ids` does not know stays.
    #[must_use]
    pub fn with_ids(mut self, ids: &BTreeMap<String, String>) -> Self {
        let other = |id: &mut String| {
            if let Some(new) = ids.get(id) {
                new.clone_into(id);
            }
        };
        other(&mut self.telescope);
        other(&mut self.camera);
        self.slots.iter_mut().filter_map(|s| s.filter.as_mut()).for_each(other);
        self
    }

    /// The rig with the parts that its ids name.
    ///
    /// # Errors
    /// Every id that names nothing of the kind that belongs there.
    pub fn parts<'a>(
        &'a self,
        name: &'a str,
        find: &dyn Fn(&str) -> Option<&'a ShelfEntry>,
    ) -> Result<RigParts<'a>, Vec<FieldError>> {
        let mut errors = Vec::new();
        let mut lacks = |path: String, kind: &str| {
            errors
                .push(FieldError { path, message: format!("no {kind} of the shelf; choose one") });
        };
        let telescope = match find(&self.telescope) {
            Some(ShelfEntry { name, thing: ShelfThing::Telescope(t), .. }) => Some((&**name, t)),
            _ => {
                lacks("thing.item.telescope".to_owned(), "telescope");
                None
            }
        };
        let camera = match find(&self.camera) {
            Some(ShelfEntry { thing: ShelfThing::Camera(k), .. }) => Some(k),
            _ => {
                lacks("thing.item.camera".to_owned(), "camera");
                None
            }
        };
        let filters = self.slots.iter().enumerate().map(|(i, slot)| {
            let id = slot.filter.as_ref()?;
            match find(id) {
                Some(ShelfEntry { thing: ShelfThing::Filter(f), .. }) => Some(f),
                _ => {
                    lacks(format!("thing.item.slots[{i}].filter"), "filter");
                    None
                }
            }
        });
        let filters = filters.collect();
        match (telescope, camera) {
            (Some(telescope), Some(camera)) if errors.is_empty() => {
                Ok(RigParts { name, rig: self, telescope, camera, filters })
            }
            _ => Err(errors),
        }
    }

    /// The ranges of a rig's numbers, for whoever publishes them.
    pub fn ranges() -> Vec<FieldRange> {
        let rig = Self {
            telescope: "t".to_owned(),
            reducer: Some(1.0),
            camera: "k".to_owned(),
            gain: Some(0.0),
            temperature_c: Some(0.0),
            binning: 1,
            holder: Holder::Wheel,
            slots: vec![Slot {
                number: 1,
                filter: None,
                orientation: Orientation::Unknown,
                since: None,
            }],
            longest_sub_s: Some(300.0),
            mount: None,
            overhead_s_per_sub: 0.0,
            loss_per_hour: 0.0,
            dither: None,
            extra_price: Some(0.0),
            back_focus_mm: Some(55.0),
            ghost_gaps_mm: vec![2.0],
        };
        Checker::ranges_of(|c| c.kit_rig("rig", &rig))
    }
}

impl RigParts<'_> {
    /// The telescope as it stands in this rig: with its reducer and this mount's limit.
    pub fn optics(&self) -> Optics {
        let mut optics = self.telescope.1.optics.clone();
        optics.reducer = self.rig.reducer.unwrap_or(optics.reducer);
        optics.longest_sub_s = self.rig.longest_sub_s.or(optics.longest_sub_s);
        optics
    }

    /// The light path that exposes this, under this name. Its price is the rig's without filters,
    /// which carry their own.
    pub fn light_path(&self, name: String, exposures: Vec<Exposure>) -> Contender {
        let (rig, price) = (self.rig, self.price());
        let known = price.total - price.filters;
        Contender {
            name,
            optics: self.optics(),
            sensor: self.camera.sensor.clone(),
            gain: rig.gain.unwrap_or(self.camera.usual_gain),
            sensor_temperature_c: rig.temperature_c.unwrap_or(self.camera.usual_temperature_c),
            overhead_s_per_sub: rig.overhead_s_per_sub,
            loss_per_hour: rig.loss_per_hour,
            mount: rig.mount,
            dither: rig.dither,
            price: (known > 0.0).then_some(known),
            ghost_gaps_mm: rig.ghost_gaps_mm.clone(),
            exposures,
        }
    }

    /// What it costs: the sum of its parts and what was typed on top.
    pub fn price(&self) -> RigPrice {
        let bodies = [self.telescope.1.price, self.camera.price];
        let filters: Vec<Option<f64>> =
            self.filters.iter().flatten().map(|f| f.filter.price).collect();
        let parts: f64 = bodies.iter().flatten().sum();
        let of_filters: f64 = filters.iter().flatten().sum();
        let extra = self.rig.extra_price.unwrap_or(0.0);
        RigPrice {
            parts,
            filters: of_filters,
            extra,
            total: parts + of_filters + extra,
            unknown: bodies.iter().chain(&filters).filter(|p| p.is_none()).count(),
        }
    }
}

/// Whether a text is a date such as "2026-11-08".
fn is_date(text: &str) -> bool {
    let parts: Vec<&str> = text.split('-').collect();
    let number = |s: &str, n: usize| {
        (s.len() == n && s.bytes().all(|b| b.is_ascii_digit())).then(|| s.parse::<u32>().ok())?
    };
    match parts[..] {
        [y, m, d] => matches!(
            (number(y, 4), number(m, 2), number(d, 2)),
            (Some(_), Some(1..=12), Some(1..=31))
        ),
        _ => false,
    }
}

impl Checker {
    pub(crate) fn kit_rig(&mut self, at: &str, r: &Rig) {
        for (key, id) in [("telescope", &r.telescope), ("camera", &r.camera)] {
            if id.is_empty() {
                self.wrong(format!("{at}.{key}"), format!("missing; choose a {key} of the shelf"));
            }
        }
        self.maybe_within(format_args!("{at}.reducer"), r.reducer, 0.1, 5.0, "");
        self.maybe_within(format_args!("{at}.gain"), r.gain, 0.0, 1e6, "");
        let degrees = "degrees Celsius";
        self.maybe_within(
            format_args!("{at}.temperature_c"),
            r.temperature_c,
            -60.0,
            60.0,
            degrees,
        );
        self.within(format_args!("{at}.binning"), f64::from(r.binning), 1.0, 4.0, "pixels");
        self.maybe_within(format_args!("{at}.longest_sub_s"), r.longest_sub_s, 0.001, 7200.0, "s");
        self.following(at, r.mount, r.dither);
        let overhead_s = r.overhead_s_per_sub;
        self.within(format_args!("{at}.overhead_s_per_sub"), overhead_s, 0.0, 3600.0, "s");
        self.within(format_args!("{at}.loss_per_hour"), r.loss_per_hour, 0.0, 60.0, "per hour");
        self.maybe_within(format_args!("{at}.extra_price"), r.extra_price, 0.0, 1e7, "");
        self.maybe_within(format_args!("{at}.back_focus_mm"), r.back_focus_mm, 1.0, 1000.0, "mm");
        self.ghost_gaps(at, &r.ghost_gaps_mm);
        if r.slots.len() > MAX_SLOTS {
            let message = format!("{} slots; at most {MAX_SLOTS} are accepted", r.slots.len());
            self.wrong(format!("{at}.slots"), message);
        }
        for (i, slot) in r.slots.iter().enumerate() {
            let at = format!("{at}.slots[{i}]");
            self.within(format_args!("{at}.number"), f64::from(slot.number), 1.0, 99.0, "");
            if r.slots[..i].iter().any(|s| s.number == slot.number) {
                self.wrong(format!("{at}.number"), "there are two slots of this number");
            }
            if let Some(since) = &slot.since
                && !is_date(since)
            {
                self.wrong(
                    format!("{at}.since"),
                    format!("\"{since}\" is no date; write it as in 2026-11-08"),
                );
            }
        }
    }
}

#[cfg(test)]
#[path = "kit_tests.rs"]
mod tests;
