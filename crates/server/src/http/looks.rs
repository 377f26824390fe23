//! Looks that were counted lately, so that a slider only draws noise and stretches; and pictures as
//! bytes.

use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use salt_lamp_core::Checked;
use salt_lamp_core::light::Tables;
use salt_lamp_core::look::{Crop, Look, LookView};
use salt_lamp_core::workers::Workers;

use crate::http::blocking::Threads;
use crate::http::cache::json;
use crate::{App, Problem};

/// Looks that are kept, at most.
const MOST: usize = 4;
/// Pixels of all planes that are kept, at most; the newest look is kept in any case. Eight to
/// sixteen bytes each.
const MOST_PIXELS: usize = 40_000_000;

type Slot = Arc<OnceLock<Arc<Look>>>;

/// The looks that were counted last.
#[derive(Default)]
pub(crate) struct Looks(Mutex<Vec<(String, Slot)>>);

impl Looks {
    /// The look of a scenario, counted now if it is not among the last. Looks that differ do not
    /// wait for each other.
    ///
    /// # Errors
    /// Where the scenario has no written form to know it by.
    pub fn get(
        &self,
        scenario: Checked,
        view: &LookView,
        tables: &Tables,
        threads: &Threads,
    ) -> Result<Arc<Look>, Problem> {
        let planes = view.of_planes();
        let (slot, earlier) = self.slot(json(&(scenario.scenario(), planes))?);
        let look = slot
            .get_or_init(|| Arc::new(Look::after(&earlier, scenario, planes, tables, threads)))
            .clone();
        self.forget();
        Ok(look)
    }

    /// Where a look stands or will stand, and those that are ready.
    fn slot(&self, key: String) -> (Slot, Vec<Arc<Look>>) {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let slot = match all.iter().position(|(k, _)| *k == key) {
            Some(at) => all.remove(at).1,
            None => Slot::default(),
        };
        let ready = all.iter().filter_map(|(_, s)| s.get().cloned()).collect();
        all.push((key, Arc::clone(&slot)));
        (slot, ready)
    }

    /// Lets the oldest go until what is kept fits.
    fn forget(&self) {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let pixels = |all: &[(String, Slot)]| {
            all.iter().filter_map(|(_, s)| s.get()).map(|l| l.pixels()).sum::<usize>()
        };
        while all.len() > MOST || (all.len() > 1 && pixels(&all) > MOST_PIXELS) {
            all.remove(0);
        }
    }
}

/// The scenario with its target where the catalogue has it, if it says itself neither that nor
/// where a frame stands: the stars of its look are then those that really stand there.
pub(crate) fn placed(app: &App, scenario: Checked) -> Result<Checked, Problem> {
    let s = scenario.scenario();
    let Some(object) = s.pointing().is_none().then(|| app.catalogue.get(&s.target.name)).flatten()
    else {
        return Ok(scenario);
    };
    let mut s = s.clone();
    s.target.right_ascension_deg = Some(object.ra_deg);
    s.target.declination_deg = Some(object.dec_deg);
    s.check().map_err(Problem::fields)
}

/// The view of a scenario whose target is as large as the catalogue has it, if the view does not
/// say it.
pub(crate) fn sized(app: &App, scenario: &Checked, view: LookView) -> LookView {
    let object = || app.catalogue.get(&scenario.scenario().target.name);
    let across = || object()?.major_arcmin.filter(|a| *a > 0.0).map(|a| a * 60.0);
    LookView { object_arcsec: view.object_arcsec.or_else(across), ..view }
}

/// The pictures of all contenders.
pub(crate) fn crops(look: &Look, view: &LookView, threads: &Threads) -> Vec<Crop> {
    let white = look.white(view);
    threads.each(look.contenders.len(), &|i| look.crop(i, view, white))
}
/// Pictures as bytes: their count, then width and height of each (all little-endian u32), then the
/// pixels, four bytes each: red, green, blue and 255.
pub(crate) fn packed(crops: &[Crop]) -> Vec<u8> {
    let mut out =
        Vec::with_capacity(4 + crops.iter().map(|c| 8 + c.rgb.len() / 3 * 4).sum::<usize>());
    out.extend((crops.len() as u32).to_le_bytes());
    for c in crops {
        out.extend((c.size[0] as u32).to_le_bytes());
        out.extend((c.size[1] as u32).to_le_bytes());
    }
    for c in crops {
        let from = out.len();
        out.resize(from + c.rgb.len() / 3 * 4, 255);
        out[from..]
            .chunks_exact_mut(4)
            .zip(c.rgb.chunks_exact(3))
            .for_each(|(o, p)| o[..3].copy_from_slice(p));
    }
    out
}

/// A picture of another size, so that a blind look does not give a rig away by its pixels: each
/// pixel the nearest of the old.
pub(crate) fn resized(crop: &Crop, size: [usize; 2]) -> Crop {
    let mut rgb = Vec::with_capacity(size[0] * size[1] * 3);
    for j in 0..size[1] {
        let y = j * crop.size[1] / size[1];
        for i in 0..size[0] {
            let k = (y * crop.size[0] + i * crop.size[0] / size[0]) * 3;
            rgb.extend_from_slice(&crop.rgb[k..k + 3]);
        }
    }
    Crop { size, rgb }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_resized_picture_keeps_its_corners() {
        let crop = Crop { size: [2, 2], rgb: vec![1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4] };
        let big = resized(&crop, [4, 4]);
        assert_eq!((big.rgb[0], big.rgb[9], big.rgb[36], big.rgb[45]), (1, 2, 3, 4));
        let bytes = packed(&[crop]);
        assert_eq!((bytes.len(), &bytes[12..20]), (4 + 8 + 16, &[1, 1, 1, 255, 2, 2, 2, 255][..]));
    }
}
