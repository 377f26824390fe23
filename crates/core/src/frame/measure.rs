//! A frame measured, channel by channel.

use crate::frame::background::Background;
use crate::frame::channel::Channel;
use crate::frame::detect::{Above, peaks, told_apart};
use crate::frame::header::HeaderRead;
use crate::frame::measured::{ChannelMeasured, FORMAT, FrameMeasured, SizesOfPart, VERSION};
use crate::frame::pixels::{Layout, Pixels};
use crate::frame::stars::{Star, Stars, measure_stars};
use crate::frame::tile::middle;
use crate::scenario::cfa::CfaColour;
use crate::workers::Workers;

/// Stars above this many standard deviations tell size and shape; where fewer than
/// [`LEAST_TELLING`] are, so many of the brightest do.
const TELLING_SIGMAS: f64 = 25.0;
const LEAST_TELLING: usize = 10;
/// Stars that a part of the frame must have to be told.
const LEAST_OF_PART: usize = 5;
/// Stars in the list.
const LISTED: usize = 200;
/// So many pixels of one largest value, this many standard deviations above the background, are the
/// converter's end and no star's peak.
const PLATEAU_PX: usize = 6;
const PLATEAU_SIGMAS: f64 = 30.0;

/// Measures a frame.
///
/// # Errors
/// Where a channel holds no number at all.
pub fn measure<P: Pixels>(
    file: &str,
    read: HeaderRead,
    pixels: &P,
    workers: &impl Workers,
) -> Result<FrameMeasured, String> {
    let [columns, rows] = pixels.size();
    let mut problems = Vec::new();
    let channels = Channel::all(pixels)
        .iter()
        .map(|c| one(c, pixels, &read, &mut problems, workers))
        .collect::<Result<Vec<_>, String>>()?;
    let cfa = match pixels.layout() {
        Layout::Cfa(pattern) => Some(pattern.map(CfaColour::key).concat().to_uppercase()),
        _ => None,
    };
    Ok(FrameMeasured {
        format: FORMAT.to_owned(),
        version: VERSION,
        file: file.to_owned(),
        read,
        columns,
        rows,
        cfa,
        channels,
        problems,
    })
}

/// The value that counts as full, ADU: the header's, else one at which many pixels end, else the
/// converter's; `None` where none of these is known.
fn full_adu(background: &Background, pixels: &impl Pixels) -> Option<f64> {
    let most = background.ends[1];
    let is_end = background.at_most >= PLATEAU_PX
        && most > background.level + PLATEAU_SIGMAS * background.sigma;
    let of_converter = pixels.most_adu();
    if is_end { Some(of_converter.map_or(most, |full| full.min(most))) } else { of_converter }
}

fn one<P: Pixels>(
    channel: &Channel,
    pixels: &P,
    read: &HeaderRead,
    problems: &mut Vec<String>,
    workers: &impl Workers,
) -> Result<ChannelMeasured, String> {
    let background = Background::new(channel, pixels, workers)
        .ok_or_else(|| format!("channel {} holds no number", channel.name))?;
    let full_adu = full_adu(&background, pixels);
    let above = Above { channel, pixels, background: &background };
    let stars = if background.sigma > 0.0 {
        let found = told_apart(&above, &peaks(&above, workers));
        measure_stars(&above, &found, full_adu, workers)
    } else {
        problems
            .push(format!("Channel {} has no noise: it is no frame of a camera.", channel.name));
        Stars { count: 0, aperture_px: 0.0, all: Vec::new() }
    };
    let whole = channel.size[0] * channel.size[1] * channel.sites();
    if background.numbers < whole {
        problems.push(format!(
            "{} pixels of channel {} are no number and were left out.",
            whole - background.numbers,
            channel.name
        ));
    }
    let of = |n: usize| n as f64 / background.numbers.max(1) as f64;
    let is_full = full_adu.is_some_and(|full| background.ends[1] >= full);
    let telling = telling(&stars.all);
    let size = pixels.size();
    let sizes = sizes(&telling);
    let exposure_s = read.header.exposure_s.filter(|s| *s > 0.0);
    let electrons = |offset: f64| Some((background.level - offset) * read.header.e_per_adu?);
    let background_e_per_s =
        read.header.offset_adu.and_then(electrons).zip(exposure_s).map(|(e, s)| e / s);
    Ok(ChannelMeasured {
        channel: channel.name.to_owned(),
        level_adu: background.level,
        sigma_adu: background.sigma,
        min_adu: background.ends[0],
        max_adu: background.ends[1],
        full_adu,
        clipped_share: if is_full { of(background.at_most) } else { 0.0 },
        zero_share: of(background.zeros),
        slope_percent: background.slope.percent(),
        slope_toward_deg: background.slope.toward_deg(),
        stars: stars.count,
        depth_adu: stars.depth_adu(),
        brighter: stars.brighter(),
        stars_clipped: stars.all.iter().filter(|s| s.saturated).count(),
        hfr_px: sizes.hfr_px,
        fwhm_px: middle(telling.iter().filter_map(|s| s.fwhm_px)),
        elongation: sizes.elongation,
        elongation_toward_deg: sizes.elongation_toward_deg,
        parts: parts(&telling, size),
        aperture_px: stars.aperture_px,
        background_e_per_s,
        sky_v_mag: None,
        brightest: stars.all.iter().take(LISTED).map(Into::into).collect(),
    })
}

/// The stars that tell size and shape.
fn telling(all: &[Star]) -> Vec<&Star> {
    let whole: Vec<&Star> = all.iter().filter(|s| !s.saturated).collect();
    let bright: Vec<&Star> = whole.iter().copied().filter(|s| s.sigmas >= TELLING_SIGMAS).collect();
    if bright.len() >= LEAST_TELLING {
        bright
    } else {
        whole.into_iter().take(LEAST_TELLING).collect()
    }
}

/// Sizes of some stars as medians.
fn sizes(stars: &[&Star]) -> SizesOfPart {
    let elongation = middle(stars.iter().map(|s| s.elongation));
    // Directions are added as what they are, axes: with twice the angle.
    let (mut x, mut y) = (0.0, 0.0);
    for s in stars {
        let (sin, cos) = (2.0 * s.toward_deg.to_radians()).sin_cos();
        let weight = (s.elongation - 1.0).min(1.0);
        (x, y) = (x + weight * cos, y + weight * sin);
    }
    SizesOfPart {
        part: String::new(),
        stars: stars.len(),
        hfr_px: middle(stars.iter().map(|s| s.hfr_px)),
        elongation,
        elongation_toward_deg: elongation
            .map(|_| (0.5 * y.atan2(x)).to_degrees().rem_euclid(180.0)),
    }
}

/// The corners, each a third of the sides, and the middle.
fn parts(stars: &[&Star], [columns, rows]: [usize; 2]) -> Vec<SizesOfPart> {
    let third = |v: f64, n: usize| ((3.0 * (v + 0.5) / n as f64) as usize).min(2);
    let places = [
        ("upper left", [0, 0]),
        ("upper right", [2, 0]),
        ("middle", [1, 1]),
        ("lower left", [0, 2]),
        ("lower right", [2, 2]),
    ];
    let one = |(name, at): (&str, [usize; 2])| {
        let own: Vec<&Star> = stars
            .iter()
            .copied()
            .filter(|s| [third(s.at_px[0], columns), third(s.at_px[1], rows)] == at)
            .collect();
        let told = if own.len() >= LEAST_OF_PART { sizes(&own) } else { sizes(&[]) };
        SizesOfPart { part: name.to_owned(), stars: own.len(), ..told }
    };
    places.map(one).into()
}
