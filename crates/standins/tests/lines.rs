//! Lines of a patch on rendered frames, held against what was really rendered.

use crate::help::{LARCH_LANE, site};
use salt_lamp_core::campaign::{CLEAR_SHARE, Campaign, CampaignFraming};
use salt_lamp_core::frame::{FrameBox, measure_box};
use salt_lamp_core::light::{Quantity, Tables};
use salt_lamp_core::log::{
    BoxedFrame, CopyQuestion, CopySeen, Estimate, LinesMeasured, PatchSub, copy_told, lines_of,
};
use salt_lamp_core::path::filter::Cone;
use salt_lamp_core::path::sky::Air;
use salt_lamp_core::scenario::{Exposure, Filter, Passband, Pointing, Scenario, TargetKind};
use salt_lamp_core::workers::SingleThread;
use salt_lamp_formats::frame::{FrameFile, open_frame, start_unix_s};
use salt_lamp_standins::{Camera, Kind, Shot};
use std::path::Path;

/// The demo's colour camera on the fast reflector, behind a dual band.
const PATH: usize = 1;
const SIZE: [usize; 2] = [480, 360];
const SUB_S: f64 = 300.0;
/// The lines are so many times brighter where the truth of a patch is asked for.
const BRIGHT: f64 = 20.0;

fn demo() -> Scenario {
    let text = include_str!("../../../data/demo/larch-lane-ic-443.json");
    let mut s: Scenario = serde_json::from_str(text).expect("the demo");
    s.target.continuum = None;
    // Its parts are wide: a patch of it is even.
    s.target.kind = TargetKind::HIiRegion;
    let sensor = &mut s.contenders[PATH].sensor;
    (sensor.columns, sensor.rows) = (SIZE[0] as u32, SIZE[1] as u32);
    // Half a degree, so that the target's parts are apart, and bright: what is uncertain of a line is
    // then not noise alone.
    sensor.pixel_um = 7.5;
    let l = &mut s.target.lines_rayleigh;
    (l.ha, l.nii, l.oiii, l.sii) = (300.0, 180.0, 220.0, 250.0);
    s
}

/// A frame that was taken: its file, and when it began.
struct Taken(FrameFile, f64);

impl Taken {
    /// Electrons a second that a box holds over another, channel by channel.
    fn over(&self, boxes: [FrameBox; 2]) -> Vec<PatchSub> {
        let [on, beside] = boxes.map(|b| measure_box(&self.0.picture, &b));
        let h = &self.0.read.header;
        let [[x, y], [bx, by]] = boxes.map(|b| b.middle());
        let apart_deg = (x - bx).hypot(y - by) * h.pixel_scale_arcsec().expect("a scale") / 3600.0;
        let of = BoxedFrame { exposure: 0, start_s: self.1, transparency: 1.0, apart_deg };
        PatchSub::of_boxes(h, [&on, &beside], of)
    }
}

fn taken(s: &Scenario, (number, seed): (u32, u32), to: &Path, tables: &Tables) -> Taken {
    let checked = s.clone().check().expect("accepted");
    let place = (&site(s, LARCH_LANE)).into();
    let camera = Camera::new(&checked, PATH, (Some(place), None, seed), tables).expect("a camera");
    let at = Pointing { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 0.0 };
    let shot = Shot {
        kind: Kind::Light,
        exposure: 0,
        exposure_s: SUB_S,
        // About its transit on 2027-01-10.
        start_s: start_unix_s("2027-01-10T03:30:00Z").expect("a time") + 310.0 * f64::from(number),
        at: Some(at),
        framed: Some(at),
        object: "IC 443".into(),
        number,
    };
    let truth = camera.take(&shot, to, &SingleThread).expect("taken");
    Taken(open_frame(&to.join(&truth.file)).expect("read"), shot.start_s)
}

/// A line: which, its brightness and standard deviation as measured, and as it was rendered, rayleigh.
type Line = (Quantity, f64, f64, f64);

/// Lines of a patch on a few frames of a seed.
fn measured(seed: u32, tables: &Tables) -> Vec<Line> {
    let s = demo();
    let dir = tempfile::tempdir().expect("a folder");
    // Of some pairs of boxes the one that differs most, by a frame whose lines drown all else.
    let mut bright = s.clone();
    let l = &mut bright.target.lines_rayleigh;
    for line in [&mut l.ha, &mut l.nii, &mut l.oiii, &mut l.sii, &mut l.hb] {
        *line *= BRIGHT;
    }
    for g in &mut bright.contenders[PATH].sensor.gains {
        g.e_per_adu *= 100.0;
        g.full_well_e *= 100.0;
    }
    let at = |x, y| FrameBox { x, y, width: 60, height: 60 };
    let places = [at(20, 20), at(210, 150), at(380, 20), at(20, 270), at(380, 270)];
    let mut best: Option<([FrameBox; 2], LinesMeasured, f64)> = None;
    let campaign = |s: &Scenario| Campaign {
        title: "IC 443".into(),
        scenario: s.clone(),
        contender: PATH,
        also: Vec::new(),
        site: String::new(),
        framing: CampaignFraming { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 0.0 },
        goals: Vec::new(),
        clear_share: CLEAR_SHARE,
        nights: Vec::new(),
    };
    let line = |l: &LinesMeasured, q| l.lines.iter().find(|l| l.quantity == q).copied();
    let drowned = taken(&bright, (900, seed), dir.path(), tables);
    for i in 0..places.len() {
        for j in 0..i {
            let boxes = [places[i], places[j]];
            let own = (&campaign(&bright), PATH);
            let found = lines_of(&drowned.over(boxes), own, &site(&s, LARCH_LANE), tables)
                .expect("accepted")
                .expect("lines");
            let ha = line(&found, Quantity::Ha).expect("H-alpha").rayleigh;
            if best.as_ref().is_none_or(|(.., most)| ha.abs() > *most) {
                let boxes = if ha > 0.0 { boxes } else { [boxes[1], boxes[0]] };
                best = Some((boxes, found, ha.abs()));
            }
        }
    }
    let (boxes, truth, _) = best.expect("a pair");
    let subs: Vec<PatchSub> =
        (0..4).flat_map(|n| taken(&s, (n, seed), dir.path(), tables).over(boxes)).collect();
    let own = (&campaign(&s), PATH);
    let found =
        lines_of(&subs, own, &site(&s, LARCH_LANE), tables).expect("accepted").expect("lines");
    let one = |q| {
        let (own, truth) = (line(&found, q)?, line(&truth, q)?);
        Some((q, own.rayleigh, own.sd_rayleigh, truth.rayleigh.abs() / BRIGHT))
    };
    [Quantity::Ha, Quantity::Oiii].into_iter().filter_map(one).collect()
}

/// Seeds: `cargo xtask soak --nights` takes many.
fn seeds() -> u32 {
    let many = std::env::var("SALT_LAMP_NIGHTS").ok().and_then(|n| n.parse::<u32>().ok());
    many.map_or(6, |n| n.min(60))
}

#[test]
fn lines_of_rendered_frames_lie_within_their_errors() {
    let tables = Tables::shipped().expect("tables");
    let (mut all, mut one, mut two) = (0, 0, 0);
    for seed in 1..=seeds() {
        for (quantity, rayleigh, sd, truth) in measured(seed, &tables) {
            let off = (rayleigh - truth).abs() / sd;
            println!("seed {seed} {quantity:?}: {rayleigh:.1} +- {sd:.1} R for {truth:.1}");
            all += 1;
            one += u32::from(off < 1.0);
            two += u32::from(off < 2.0);
        }
    }
    assert!(all >= 2 * seeds(), "{all} lines");
    // Two thirds within one standard deviation, nineteen of twenty within two: as many as would be
    // missed once in a hundred times.
    let least = |p: f64| {
        let n = f64::from(all);
        p * n - 2.33 * (n * p * (1.0 - p)).sqrt()
    };
    assert!(
        f64::from(one) >= least(0.683) && f64::from(two) >= least(0.954),
        "{one}, {two} of {all}"
    );
}

/// A dual band of a width, its bands moved.
fn dual(fwhm_nm: f64, off_nm: f64) -> Filter {
    let band = |nm: f64| Passband { centre_nm: nm + off_nm, fwhm_nm, peak: 0.9, order: 3.0 };
    Filter::of_bands(&format!("dual band {fwhm_nm} nm"), vec![band(500.7), band(656.3)])
}

/// The band of a copy of 5 nm on an f/2 telescope comes out within two tenths of a nanometre of where
/// it really lies, by pixels, with the same copy on an f/5.5 telescope beside it; so the limit was
/// before figures were seen. (Beside a filter of 12 nm on the f/2 telescope itself it is known to 0.3,
/// and says so: that filter's own place and index are not known better.)
#[test]
fn a_copy_s_band_is_found_on_rendered_frames() {
    let tables = Tables::shipped().expect("tables");
    for (seed, off_nm) in (1..).zip([-1.4, 0.3, 1.9]).take(seeds().min(3) as usize) {
        let at_ratio = |ratio: f64, off_nm: f64| {
            let mut s = demo();
            let c = &mut s.contenders[PATH];
            (c.optics.aperture_mm, c.optics.obstruction_mm) =
                (c.optics.focal_length_mm / ratio, 0.0);
            c.exposures = vec![Exposure {
                share: 1.0,
                filter: Some(dual(5.0, off_nm)),
                ..c.exposures[0].clone()
            }];
            s
        };
        let ratios = [2.0, 5.5];
        let as_promised = ratios.map(|ratio| at_ratio(ratio, 0.0));
        let boxes = [(210, 150), (20, 20)].map(|(x, y)| FrameBox { x, y, width: 60, height: 60 });
        let dir = tempfile::tempdir().expect("a folder");
        let seen = |i: usize| {
            let path = &as_promised[i].contenders[PATH];
            let sky = &as_promised[i].sky;
            let air = Air::new(sky.site_height_m, sky.k_v, 1.1);
            let real = at_ratio(ratios[i], off_nm);
            CopySeen {
                contender: path,
                filter: path.exposures[0].filter.as_ref().expect("a filter"),
                light: Some(Estimate { value: 1.0, sd: 0.01 }),
                held: (0..4)
                    .map(|n| taken(&real, (n, seed), dir.path(), &tables))
                    .flat_map(|t| t.over(boxes))
                    .map(|sub| (sub, air))
                    .collect(),
            }
        };
        let believed = as_promised[0].target.lines_rayleigh;
        let question = CopyQuestion { seen: [seen(0), seen(1)], same_copy: true, believed };
        let told = copy_told(&question, &[]).expect("lines");
        let line = told.at[0].lines.iter().find(|l| l.quantity == Quantity::Ha).expect("H-alpha");
        let centre = line.centre_nm.expect("bands");
        let truth = (656.3 + off_nm) * Cone::new(2.0, 0.0, 1.9, 1.0).mean_factor();
        println!("{off_nm}: {:.2} +- {:.2} nm for {truth:.2}", centre.value, centre.sd);
        assert!((centre.value - truth).abs() < 0.2, "{off_nm}: {:?} {truth}", told.told);
    }
}
