//! A rig put together: its telescope, camera and filters as the shelf has them, what they cost, and
//! the light path that they make. Which light paths its filters make is said in
//! [`crate::decide::wheel`].

use serde::Serialize;
use utoipa::ToSchema;

use crate::library::rig::Rig;
use crate::library::shelf::{Camera, ShelfEntry, ShelfFilter, ShelfThing, Telescope};
use crate::scenario::exposure::Exposure;
use crate::scenario::field_error::FieldError;
use crate::scenario::rig::{Contender, Optics};

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
            total_s: None,
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

#[cfg(test)]
#[path = "kit_tests.rs"]
mod tests;
