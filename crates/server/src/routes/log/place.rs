//! Where a night's frames look, by stars of the catalogue, and what those tell of rig and sky.

use salt_lamp_core::campaign::{Campaign, CampaignFraming};
use salt_lamp_core::frame::plate::{LEAST_STARS, Plate, PlateQuestion, Solved, framing_told};
use salt_lamp_core::log::{
    FrameJudged, LightOf, NightAir, Starlight, StarlightQuestion, filters_of, judged_channel,
    starlight,
};
use salt_lamp_core::scenario::Pointing;
use salt_lamp_store::LoggedFrame;
use serde::Serialize;
use utoipa::ToSchema;

use crate::App;

/// Stars of the catalogue fainter than this are of no use, V mag.
const FAINTEST_V_MAG: f64 = 10.5;
/// Plates that are remembered.
const REMEMBERED: usize = 2_000;

/// The frame by which an exposure is judged.
#[derive(Clone, Copy)]
pub(super) struct Best<'a> {
    pub(super) exposure: usize,
    pub(super) frame: &'a LoggedFrame,
    pub(super) judged: &'a FrameJudged,
}

/// What the catalogue's stars tell through one filter.
#[derive(Serialize, ToSchema)]
struct FilterStarlight {
    /// The filter, as the campaign calls it.
    filter: String,
    /// Throughput and sky; null where too few stars are whole.
    starlight: Option<Starlight>,
    /// The same in a sentence.
    told: String,
}

/// Where a night's frames look, and what their stars tell.
#[derive(Serialize, ToSchema)]
pub(super) struct NightPlace {
    /// Where the frames look; null where the catalogue's stars were not found.
    plate: Option<Plate>,
    /// The same as a campaign's framing.
    framing: Option<CampaignFraming>,
    /// Whether it differs from the campaign's.
    off: bool,
    /// In a sentence.
    told: String,
    /// Filter by filter what the stars tell.
    filters: Vec<FilterStarlight>,
}

impl NightPlace {
    /// What the stars tell through each exposure, by the names of their filters.
    pub(super) fn light(&self, filters: &[&str]) -> Vec<LightOf> {
        let one = |f: &FilterStarlight| {
            let own = f.starlight?;
            Some(LightOf {
                exposure: filters.iter().position(|name| *name == f.filter)?,
                of_promised: own.of_promised,
                scatter_mag: own.scatter_mag,
                stars: own.stars,
            })
        };
        self.filters.iter().filter_map(one).collect()
    }
}

/// Where a frame looks: as it was found before, else by the catalogue's stars near the place that
/// its header states, or the campaign wants.
pub(super) fn solved(
    app: &App,
    c: &Campaign,
    path: usize,
    frame: &LoggedFrame,
) -> (Option<Solved>, bool) {
    let h = &frame.measured.read.header;
    let near = h.ra_deg.zip(h.dec_deg).unwrap_or((c.framing.ra_deg, c.framing.dec_deg));
    let contender = &c.scenario.contenders[path];
    let of_kit = contender.optics.pixel_scale_arcsec(contender.sensor.pixel_um)
        * h.binning.unwrap_or(1.0).max(1.0);
    let Some(channel) = judged_channel(&frame.measured) else { return (None, false) };
    let question = PlateQuestion {
        stars: &channel.brightest,
        size: [frame.measured.columns, frame.measured.rows],
        near_deg: [near.0, near.1],
        scale_arcsec: h.pixel_scale_arcsec().unwrap_or(of_kit),
    };
    let around =
        |[ra, dec]: [f64; 2], radius: f64| app.stars.around(ra, dec, radius, FAINTEST_V_MAG);
    let few = around(question.near_deg, question.radius_deg()).len() < LEAST_STARS;
    let key = format!("{} {:.4}", frame.id, question.scale_arcsec);
    if let Some(known) = app.plates.get(&key) {
        return (known, few);
    }
    let found = question.solve(&around);
    app.plates.keep(key, found.clone());
    (found, few)
}

/// Where the best frames look, and what their stars tell.
pub(super) fn place_of(
    app: &App,
    (c, path): (&Campaign, usize),
    best: &[Best],
    air: &NightAir,
) -> NightPlace {
    let all: Vec<(Best, Option<Solved>, bool)> = best
        .iter()
        .map(|b| {
            let (found, few) = solved(app, c, path, b.frame);
            (*b, found, few)
        })
        .collect();
    let most = all.iter().filter_map(|(b, s, _)| Some((b, s.as_ref()?)));
    let plate = most.max_by_key(|(_, s)| s.plate.stars);
    let wanted = Pointing {
        ra_deg: c.framing.ra_deg,
        dec_deg: c.framing.dec_deg,
        position_angle_deg: c.framing.position_angle_deg,
    };
    let few = all.iter().all(|(.., few)| *few);
    let (told, off) = match plate {
        None if all.is_empty() => (String::new(), false),
        None if few => {
            let said = "Fewer than four stars of the catalogue stand on these frames: their place \
                is what their headers say, and their light is not weighed.";
            (said.to_owned(), false)
        }
        None => {
            let said = "The catalogue's stars were not found near the place in the headers: no \
                angle, no throughput.";
            (said.to_owned(), false)
        }
        Some((b, s)) => {
            placed(&s.plate, &wanted, [b.frame.measured.columns, b.frame.measured.rows])
        }
    };
    let filters = filters_of(c, path);
    let checked = c.scenario.clone().check().ok();
    let told_of = |(b, s, _): &(Best, Option<Solved>, bool)| {
        let question = StarlightQuestion {
            frame: &b.frame.measured,
            solved: s.as_ref()?,
            path: [path, b.exposure],
            airmass: b.judged.airmass,
            k_mag: air.k_mag(Some(filters[b.exposure])),
            background_e_per_s: b.judged.background_e_per_s,
        };
        let light = starlight(&question, checked.as_ref()?, &app.tables);
        let filter = filters[b.exposure];
        Some(FilterStarlight {
            told: light_told(filter, light.as_ref()),
            filter: filter.to_owned(),
            starlight: light,
        })
    };
    let told_of_each = all.iter().filter_map(told_of).collect();
    let plate = plate.map(|(_, s)| s.plate);
    let framing = plate.map(|p| CampaignFraming {
        ra_deg: p.ra_deg,
        dec_deg: p.dec_deg,
        position_angle_deg: p.position_angle_deg,
    });
    NightPlace { plate, framing, off, told, filters: told_of_each }
}

/// Where the frames look, and how that stands to what was wanted.
fn placed(p: &Plate, wanted: &Pointing, size: [usize; 2]) -> (String, bool) {
    let [ra, dec] =
        [salt_lamp_core::night::ra_text(p.ra_deg), salt_lamp_core::night::dec_text(p.dec_deg)];
    let mirrored = if p.mirrored { ", mirrored" } else { "" };
    let at = format!(
        "{} stars of the catalogue put the middle at {ra} {dec}, up at {:.1}° from north through \
         east{mirrored}, {:.3}\u{2033} a pixel",
        p.stars, p.position_angle_deg, p.scale_arcsec
    );
    match framing_told(p, wanted, size) {
        Some(off) => (format!("{at}: {off} against the campaign's framing."), true),
        None => (format!("{at}: as the campaign is framed."), false),
    }
}

fn light_told(filter: &str, light: Option<&Starlight>) -> String {
    let Some(l) = light else {
        return format!(
            "{filter}: fewer than {LEAST_STARS} of the catalogue's stars are unclipped; one sub of 1 \
             to 2 s of the same field would weigh the light."
        );
    };
    let sky = match (l.sky_by_path_v_mag, l.sky_by_stars_v_mag) {
        (Some(path), Some(stars)) => format!(
            "; sky {path:.2} V mag/arcsec² through the light path, {stars:.2} against the stars"
        ),
        _ => String::new(),
    };
    format!(
        "{filter}: {:.0} % of the light that the kit promises arrives ({} stars, ±{:.2} mag \
         each){sky}.",
        100.0 * l.of_promised,
        l.stars,
        l.scatter_mag
    )
}

/// Plates as they were found, by frame.
#[derive(Default)]
pub(crate) struct Plates(std::sync::Mutex<std::collections::HashMap<String, Option<Solved>>>);

impl Plates {
    fn lock(&self) -> std::sync::MutexGuard<'_, std::collections::HashMap<String, Option<Solved>>> {
        // What a panic left is whole: entries are only added.
        self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner)
    }

    fn get(&self, key: &str) -> Option<Option<Solved>> {
        self.lock().get(key).cloned()
    }

    fn keep(&self, key: String, found: Option<Solved>) {
        let mut all = self.lock();
        if all.len() >= REMEMBERED {
            all.clear();
        }
        all.insert(key, found);
    }
}
