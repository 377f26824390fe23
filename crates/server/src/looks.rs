//! Looks that were counted lately, so that a slider only draws noise and stretches.

use std::sync::{Arc, Mutex};

use salt_lamp_core::Checked;
use salt_lamp_core::light::Tables;
use salt_lamp_core::look::{Crop, Look, LookView};
use salt_lamp_core::workers::Crew;

/// Looks that are kept, at most.
const KEPT: usize = 4;
/// Pixels of all planes that are kept, at most; the newest look is kept in any case. Eight to sixteen bytes each.
const KEPT_PIXELS: usize = 60_000_000;

/// Two threads that share the tasks out by turns.
pub(crate) struct Pair;

impl Crew for Pair {
    fn each<T: Send>(&self, count: usize, task: &(dyn Fn(usize) -> T + Sync)) -> Vec<T> {
        std::thread::scope(|scope| {
            let odd = scope.spawn(move || (1..count).step_by(2).map(task).collect::<Vec<_>>());
            let even: Vec<T> = (0..count).step_by(2).map(task).collect();
            // A panic of a task goes on in the caller, who answers it.
            let odd = odd.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic));
            let mut odd = odd.into_iter();
            even.into_iter().flat_map(|e| std::iter::once(e).chain(odd.next())).collect()
        })
    }
}

/// The looks that were counted last.
#[derive(Default)]
pub(crate) struct Looks {
    kept: Mutex<Vec<(String, Arc<Look>)>>,
}

impl Looks {
    /// The look of a scenario, counted now if it is not among the last.
    ///
    /// # Errors
    /// Where the scenario has no written form to know it by.
    pub fn get(&self, scenario: Checked, view: &LookView, tables: &Tables) -> Result<Arc<Look>, serde_json::Error> {
        let planes = view.of_planes();
        let key = serde_json::to_string(&(scenario.scenario(), planes))?;
        let mut kept = self.kept.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        if let Some(at) = kept.iter().position(|(k, _)| *k == key) {
            let hit = kept.remove(at);
            kept.push(hit);
        } else {
            let earlier: Vec<Arc<Look>> = kept.iter().map(|(_, look)| Arc::clone(look)).collect();
            let look = Arc::new(Look::after(&earlier, scenario, planes, tables, &Pair));
            kept.push((key, look));
            while kept.len() > KEPT || (kept.len() > 1 && kept.iter().map(|(_, l)| l.pixels()).sum::<usize>() > KEPT_PIXELS) {
                kept.remove(0);
            }
        }
        Ok(Arc::clone(&kept[kept.len() - 1].1))
    }
}

/// The pictures of all contenders.
pub(crate) fn crops(look: &Look, view: &LookView) -> Vec<Crop> {
    let white = look.white(view);
    Pair.each(look.contenders.len(), &|i| look.crop(i, view, white))
}

/// Pictures as bytes: their count, then width and height of each (all little-endian u32), then the pixels, four bytes
/// each: red, green, blue and 255.
pub(crate) fn packed(crops: &[Crop]) -> Vec<u8> {
    let mut out = Vec::with_capacity(4 + crops.iter().map(|c| 8 + c.rgb.len() / 3 * 4).sum::<usize>());
    out.extend((crops.len() as u32).to_le_bytes());
    for c in crops {
        out.extend((c.size[0] as u32).to_le_bytes());
        out.extend((c.size[1] as u32).to_le_bytes());
    }
    for c in crops {
        let from = out.len();
        out.resize(from + c.rgb.len() / 3 * 4, 255);
        out[from..].chunks_exact_mut(4).zip(c.rgb.chunks_exact(3)).for_each(|(o, p)| o[..3].copy_from_slice(p));
    }
    out
}

/// A picture of another size, so that a blind look does not give a rig away by its pixels: each pixel the nearest of the old.
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
    fn two_threads_give_what_one_gives() {
        for n in [0, 1, 2, 7, 8] {
            assert_eq!(Pair.each(n, &|i| i * i), (0..n).map(|i| i * i).collect::<Vec<_>>());
        }
    }

    #[test]
    fn a_resized_picture_keeps_its_corners() {
        let crop = Crop { size: [2, 2], rgb: vec![1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4] };
        let big = resized(&crop, [4, 4]);
        assert_eq!((big.rgb[0], big.rgb[9], big.rgb[36], big.rgb[45]), (1, 2, 3, 4));
        let bytes = packed(&[crop]);
        assert_eq!((bytes.len(), &bytes[12..20]), (4 + 8 + 16, &[1, 1, 1, 255, 2, 2, 2, 255][..]));
    }
}
