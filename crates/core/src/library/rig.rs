//! A rig as its owner keeps it: which telescope, camera and filters belong together, in which slot
//! each filter sits and which way round, what the mount holds and what it costs. Its parts are things
//! of the shelf and are named by their ids, so that a part that is mended there is mended in every
//! rig; put together they stand in [`crate::library::kit`].

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::ToSchema;

use crate::scenario::check::{Checker, FieldRange, is_date};
use crate::scenario::defaults;
use crate::scenario::rig::{Dither, Mount};

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
