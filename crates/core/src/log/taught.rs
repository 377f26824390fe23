//! What a night teaches: how it came out beside what was predicted, in sentences, and the figures of
//! site and rig that it offers to mend.

use serde::Serialize;
use utoipa::ToSchema;

use crate::frame::measured::FrameMeasured;
use crate::frame::tile::middle;
use crate::log::beside::{FrameBeside, NightSub};
use crate::log::glow_taught::glow_offer;
use crate::log::offer::{Estimate, Offer};
use crate::log::rig_taught::{
    LightOf, MAG_OF_A_SHARE, dark_offer, dimmed_alike, gain_told, light, lost_mag, noise_offer,
    throughput_offer,
};
use crate::log::site_taught::{
    Step, extinction_offer, lamps_offer, seeing_offer, step, zenith_of, zenith_offer, zeniths,
};
use crate::path::sky::air::Air;
use crate::scenario::rig::Contender;
use crate::scenario::site::Site;
use crate::wording::listed;

/// A night to learn from.
#[derive(Clone, Copy, Debug)]
pub struct NightToLearn<'a> {
    /// The site.
    pub site: &'a Site,
    /// The light path.
    pub path: &'a Contender,
    /// How well the path's throughput is known, as a share of it.
    pub throughput_sd: f64,
    /// Its frames of the sky.
    pub subs: &'a [NightSub<'a>],
    /// The same beside their predictions.
    pub frames: &'a [FrameBeside],
    /// Its frames of calibration.
    pub calibration: &'a [&'a FrameMeasured],
    /// What the catalogue's stars tell through each exposure.
    pub light: &'a [LightOf],
}

/// What a night teaches.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct NightTaught {
    /// How it came out beside what was predicted, in sentences.
    pub told: Vec<String>,
    /// Figures that it would change.
    pub offers: Vec<Offer>,
}

/// Stars that lose so much more than the sky does are behind haze, mag.
const HAZE_MAG: f64 = 0.1;
/// Starlight this near to what is promised is as promised, mag.
const AS_PROMISED_MAG: f64 = 0.06;
/// Frames under the moon whose background is off by more than this, mag, are told of.
const MOON_OFF_MAG: f64 = 0.15;
/// What the beginning of a glow's line leaves uncertain of the zenith, mag (from memory).
const OF_A_GLOW_MAG: f64 = 0.05;
/// Frames that such a sentence needs.
const LEAST_FRAMES: usize = 5;

/// Learns from a night.
pub fn taught(night: &NightToLearn) -> NightTaught {
    let mut out = NightTaught::default();
    let darker = |at_s| night.site.darker_at(night.site.solar_hour(at_s));
    // The evening's brightness: what lamps that are known to go out darken is taken off.
    let all: Vec<_> =
        zeniths(night.frames).into_iter().map(|(t, e, mag)| (t, e, mag - darker(t))).collect();
    let light = light(night.light);
    let step = step(&all);
    let evening: Vec<_> =
        all.iter().filter(|z| step.is_none_or(|s: Step| z.0 <= s.at_s)).copied().collect();
    let zenith = zenith_of(&evening);
    let gain = gain_told(night.path, night.subs, night.frames);
    let hazy = haze(night, light, zenith, &mut out.told);
    let one_evening = step.is_none() && all.iter().all(|z| darker(z.0) == 0.0);
    let glow = if one_evening && !hazy && gain.is_none() {
        glow_offer(night.site, night.frames)
    } else {
        None
    };
    // Where a town's glow is otherwise than believed, the zenith is where its line begins.
    let zenith = zenith.map(|z| match &glow {
        Some(g) => Estimate { value: g.zenith_v_mag, sd: z.sd.hypot(OF_A_GLOW_MAG) },
        None => z,
    });
    if let (Some(zenith), false, None) = (zenith, hazy, &gain) {
        let of_stars = with_stars(zenith, light, night.site.zenith_v_mag);
        let filters = names(night, &evening);
        out.offers.extend(zenith_offer(night.site, of_stars, (evening.len(), &filters)));
    }
    let as_said = glow.is_none();
    out.offers.extend(glow.map(|g| g.offer));
    if let Some(s) = step {
        out.offers.extend(lamps_offer(night.site, &s));
    }
    out.offers.extend(seeing_offer(night.site, night.frames));
    let air = Air::new(night.site.height_m, night.site.k_v, 1.0);
    out.offers.extend(extinction_offer(night.site, night.frames, air.k(550.0)));
    if let (Some(light), None) = (light, &gain) {
        let dimmer = zenith.map(|z| z.value - night.site.zenith_v_mag);
        let of = (light, night.throughput_sd);
        out.offers.extend(throughput_offer(night.path, of, dimmer).filter(|_| !hazy));
    }
    out.told.extend(gain);
    out.offers.extend(noise_offer(night.path, night.calibration));
    out.offers.extend(dark_offer(night.path, night.calibration));
    out.told.extend(moonlight(night.frames));
    out.told.extend(sky_told(night, zenith, step).filter(|_| as_said));
    out
}

/// The zenith by stars that come through dimmer as the sky does, where both tell the same.
fn with_stars(zenith: Estimate, light: Option<Estimate>, site_v_mag: f64) -> Estimate {
    let Some(light) = light else { return zenith };
    let lost_mag = lost_mag(light);
    if dimmed_alike(light, zenith.value - site_v_mag) && lost_mag.abs() > AS_PROMISED_MAG {
        let sd = zenith.sd.hypot(MAG_OF_A_SHARE * light.sd);
        Estimate { value: zenith.value - lost_mag, sd }
    } else {
        zenith
    }
}

/// Whether stars came through dimmer than the sky: haze takes from the stars and gives the lamps'
/// light back.
fn haze(
    night: &NightToLearn,
    light: Option<Estimate>,
    zenith: Option<Estimate>,
    told: &mut Vec<String>,
) -> bool {
    let (Some(light), Some(zenith)) = (light, zenith) else { return false };
    let lost_mag = lost_mag(light);
    let brighter = night.site.zenith_v_mag - zenith.value;
    let hazy =
        lost_mag > HAZE_MAG.max(3.0 * MAG_OF_A_SHARE * light.sd) && brighter > -0.5 * lost_mag;
    if hazy {
        told.push(format!(
            "Haze: the stars lost {lost_mag:.2} mag more than a clear sky takes, and the sky was {} \
             than the site says. Nothing of this night is offered to the site or the telescope.",
            if brighter > 0.05 { format!("{brighter:.2} mag brighter") } else { "no darker".into() }
        ));
    }
    hazy
}

/// Names of the filters of some frames.
fn names(night: &NightToLearn, of: &[(f64, usize, f64)]) -> String {
    let mut own: Vec<usize> = of.iter().map(|z| z.1).collect();
    own.sort_unstable();
    own.dedup();
    let name = |e: &usize| {
        let filter = night.path.exposures.get(*e).and_then(|e| e.filter.as_ref());
        filter.map_or("no filter", |f| f.name.as_str())
    };
    listed(&own.iter().map(name).collect::<Vec<_>>())
}

/// What frames under the moon tell of the model of its light.
fn moonlight(frames: &[FrameBeside]) -> Option<String> {
    let off = |f: &FrameBeside| {
        let under_moon = f.kept && f.predicted.passing_share > 0.5;
        let ratio = f.background_e_per_s? / f.predicted.background_e_per_s;
        (under_moon && ratio > 0.0).then(|| 2.5 * ratio.log10())
    };
    let all: Vec<f64> = frames.iter().filter_map(off).collect();
    let usual = middle(all.iter().copied())?;
    (all.len() >= LEAST_FRAMES && usual.abs() > MOON_OFF_MAG).then(|| {
        format!(
            "Under the moon the background of {} frames is {:.2} mag {} than predicted: thin haze \
             around the moon, or an air that is {} than usual.",
            all.len(),
            usual.abs(),
            if usual > 0.0 { "brighter" } else { "darker" },
            if usual > 0.0 { "dustier" } else { "cleaner" }
        )
    })
}

/// How the sky came out, in a sentence, where nothing is offered of it.
fn sky_told(night: &NightToLearn, zenith: Option<Estimate>, step: Option<Step>) -> Option<String> {
    let zenith = zenith?;
    let off = night.site.zenith_v_mag - zenith.value;
    (off.abs() < 0.1 && step.is_none()).then(|| {
        format!(
            "The sky came out as the site says: {:.2} \u{b1} {:.2} V mag/arcsec\u{b2} at the zenith.",
            zenith.value, zenith.sd
        )
    })
}
