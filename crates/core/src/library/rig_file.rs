//! A rig as a file of its own, with all its parts in it, so that it can be handed on or read back
//! where the shelf knows none of them.

use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;

use crate::library::gear::{FilterFits, FilterKind};
use crate::library::kit::RigParts;
use crate::library::rig::{Holder, MAX_SLOTS, Orientation, Rig, Slot};
use crate::library::shelf::{Camera, ShelfEntry, ShelfFilter, ShelfThing, Telescope};
use crate::scenario::check::Checker;
use crate::scenario::field_error::FieldError;
use crate::scenario::rig::Contender;

/// The name of the document format. There is one.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum RigFormatName {
    /// The only value.
    #[default]
    #[serde(rename = "salt-lamp-rig")]
    Rig,
}

/// A rig with its parts.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RigFile {
    /// Always `salt-lamp-rig`.
    pub format: RigFormatName,
    /// Always 1.
    #[schema(minimum = 1, maximum = 1)]
    pub version: u32,
    /// What its owner calls it.
    pub name: String,
    /// The rig; its ids are keys of `parts`.
    pub rig: Rig,
    /// Telescope, camera and filters by the ids that the rig names.
    pub parts: BTreeMap<String, ShelfEntry>,
}

impl RigFile {
    /// A rig with the parts that its ids name, as a file.
    ///
    /// # Errors
    /// Every id that names nothing.
    pub fn new<'a>(
        name: &str,
        rig: &Rig,
        find: &dyn Fn(&str) -> Option<&'a ShelfEntry>,
    ) -> Result<Self, Vec<FieldError>> {
        let parts = rig.part_ids().filter_map(|id| Some((id.clone(), find(id)?.clone())));
        let file = Self {
            format: RigFormatName::Rig,
            version: 1,
            name: name.to_owned(),
            rig: rig.clone(),
            parts: parts.collect(),
        };
        file.parts().map(drop)?;
        Ok(file)
    }

    /// A light path of a comparison as a rig: its telescope and camera under names of their own, its
    /// filters in slots. What it costs is told as a whole: the price of its parts is not known.
    pub fn of_light_path(c: &Contender) -> Self {
        let telescope = format!("{} mm f/{:.1}", c.optics.aperture_mm, c.optics.focal_ratio());
        let (kind, holder) = match c.sensor.cfa {
            Some(_) => ("colour", Holder::Drawer),
            None => ("mono", Holder::Wheel),
        };
        let name = format!("{telescope}, {kind}");
        let optics = Telescope { price: None, optics: c.optics.clone() };
        let camera = Camera {
            usual_gain: c.gain,
            usual_temperature_c: c.sensor_temperature_c,
            price: None,
            sensor: c.sensor.clone(),
        };
        let camera = part(&c.sensor.name, ShelfThing::Camera(camera));
        let telescope = part(&telescope, ShelfThing::Telescope(optics));
        let mut file = Self {
            format: RigFormatName::Rig,
            version: 1,
            name,
            rig: Rig {
                telescope: "telescope".to_owned(),
                reducer: None,
                camera: "camera".to_owned(),
                gain: None,
                temperature_c: None,
                binning: c.exposures.first().map_or(1, |e| e.binning),
                holder,
                slots: Vec::new(),
                longest_sub_s: None,
                mount: c.mount,
                overhead_s_per_sub: c.overhead_s_per_sub,
                loss_per_hour: c.loss_per_hour,
                dither: c.dither,
                extra_price: c.price,
                back_focus_mm: None,
                ghost_gaps_mm: c.ghost_gaps_mm.clone(),
            },
            parts: [("telescope".to_owned(), telescope), ("camera".to_owned(), camera)].into(),
        };
        file.take_filters(c);
        file
    }

    /// Puts those filters of a light path that the rig does not hold yet into its next slots, as
    /// far as there is room.
    pub fn take_filters(&mut self, c: &Contender) {
        for filter in c.exposures.iter().filter_map(|e| e.filter.as_ref()) {
            let held =
                |e: &ShelfEntry| matches!(&e.thing, ShelfThing::Filter(f) if f.filter == *filter);
            if self.parts.values().any(held) || self.rig.slots.len() >= MAX_SLOTS {
                continue;
            }
            let number = self.rig.slots.len() as u32 + 1;
            let id = format!("filter-{number}");
            let family = match filter.bands.as_ref().map_or(0, Vec::len) {
                0 => FilterKind::Broad,
                1 => FilterKind::SingleLine,
                _ => FilterKind::MultiBand,
            };
            let thing = ShelfFilter { family, fits: FilterFits::Any, filter: filter.clone() };
            self.parts.insert(id.clone(), part(&filter.name, ShelfThing::Filter(thing)));
            let orientation = Orientation::Unknown;
            self.rig.slots.push(Slot { number, filter: Some(id), orientation, since: None });
        }
    }

    /// The rig with its parts.
    ///
    /// # Errors
    /// Every id that names no part of the kind that belongs there.
    pub fn parts(&self) -> Result<RigParts<'_>, Vec<FieldError>> {
        self.rig.parts(&self.name, &|id| self.parts.get(id)).map_err(|errors| {
            let own = |e: FieldError| FieldError {
                path: e.path.replacen("thing.item", "rig", 1),
                message: e.message.replacen("of the shelf; choose one", "among its parts", 1),
            };
            errors.into_iter().map(own).collect()
        })
    }

    /// Checks every field, of its parts too.
    ///
    /// # Errors
    /// All fields that are wrong.
    pub fn check(self) -> Result<Self, Vec<FieldError>> {
        let mut errors = Checker::errors_of(|c| self.checked_by(c)).err().unwrap_or_default();
        errors.extend(self.parts().err().into_iter().flatten());
        if errors.is_empty() { Ok(self) } else { Err(errors) }
    }

    fn checked_by(&self, c: &mut Checker) {
        if self.version != 1 {
            let message = format!("{} is not accepted; 1 is the only version", self.version);
            c.wrong("version", message);
        }
        c.name("name", &self.name);
        c.kit_rig("rig", &self.rig);
        let used: BTreeSet<&String> = self.rig.part_ids().collect();
        for (id, part) in &self.parts {
            if !used.contains(id) {
                c.wrong(format!("parts.{id}"), "no part of this rig; leave it out");
            } else if matches!(part.thing, ShelfThing::Rig(_) | ShelfThing::Site(_)) {
                c.wrong(format!("parts.{id}.thing.kind"), "give a telescope, a camera or a filter");
            }
            for e in part.clone().check().err().into_iter().flatten() {
                c.wrong(format!("parts.{id}.{}", e.path), e.message);
            }
        }
    }
}

/// A part that comes from a comparison.
fn part(name: &str, thing: ShelfThing) -> ShelfEntry {
    let sources = [(String::new(), "from a comparison".to_owned())].into();
    ShelfEntry { name: name.to_owned(), sources, thing }
}
