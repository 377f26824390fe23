//! How much starlight a frame got, against the clearest of its group.
//!
//! The same stars through the same filter, camera and length differ by the air alone: the median
//! ratio of their light, after the airmass of each frame is taken out, is its transparency. A thin
//! cloud is that falling, whether the background rises with it or not.

use crate::frame::matching::{Matched, Search, match_stars};
use crate::frame::measured::{BrightStar, ChannelMeasured};
use crate::frame::tile::middle;

/// Stars nearer to each other than this are the same, px: stars of a mosaic are measured on a
/// coarser grid.
const SAME_STAR_PX: f64 = 3.0;
/// Share of the frames that are clearer than what counts as clear: one that a chance made bright
/// does not make clouds of all others.
const CLEAR_QUANTILE: f64 = 0.9;
/// Frames that have so much of that one's light are as clear.
const AS_CLEAR: f64 = 0.95;
/// Stars that tell a ratio at least.
const LEAST_STARS: usize = 4;

/// Objects up to so many times as large as the smallest quarter are stars; what is larger is a knot
/// of a nebula or a galaxy, whose light depends on what stands around it.
const STARLIKE: f64 = 1.4;

/// Those of the brightest objects that are as small as stars; full cores, which are larger, with
/// them.
pub fn starlike(channel: &ChannelMeasured) -> Vec<BrightStar> {
    let mut sizes: Vec<f64> =
        channel.brightest.iter().filter(|s| !s.clipped).map(|s| s.hfr_px).collect();
    sizes.sort_by(f64::total_cmp);
    let most = sizes.get(sizes.len() / 4).map_or(f64::INFINITY, |small| STARLIKE * small);
    channel.brightest.iter().filter(|s| s.clipped || s.hfr_px <= most).copied().collect()
}

/// How a frame lies on its group's reference, and what came through.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct AgainstReference {
    /// Starlight against the clearest frames of the group, about 0-1; `None` where no stars match.
    pub transparency: Option<f64>,
    /// How far the middle of the frame is from the reference's, px right and down.
    pub shift_px: Option<[f64; 2]>,
    /// How far it is turned against it, degrees.
    pub turned_deg: Option<f64>,
    /// Stars that both have.
    pub matched: usize,
}

/// A frame's stars, and the air over it.
#[derive(Clone, Copy, Debug)]
pub struct FrameStars<'a> {
    /// The channel whose stars are compared.
    pub channel: &'a ChannelMeasured,
    /// Columns and rows of the frame.
    pub size: [usize; 2],
    /// Airmass, where it is known.
    pub airmass: Option<f64>,
}

fn places(stars: &[BrightStar]) -> Vec<[f64; 2]> {
    stars.iter().map(|s| [s.x_px, s.y_px]).collect()
}

/// Each frame of a group against the one of it that shows most stars. `k_mag` is the extinction
/// through the group's filter, mag to an airmass.
pub fn against_reference(frames: &[FrameStars], k_mag: f64) -> Vec<AgainstReference> {
    let stars: Vec<Vec<BrightStar>> = frames.iter().map(|f| starlike(f.channel)).collect();
    let Some(best) = (0..frames.len()).max_by_key(|i| stars[*i].len()) else { return Vec::new() };
    let reference = (&frames[best], &stars[best][..]);
    let of_reference = places(reference.1);
    let search = Search { within_px: SAME_STAR_PX, ..Search::default() };
    let mut all: Vec<AgainstReference> = frames
        .iter()
        .zip(&stars)
        .map(|(f, own)| {
            let matched = match_stars(&places(own), &of_reference, search);
            matched.map_or_else(AgainstReference::default, |m| laid((f, own), reference, &m, k_mag))
        })
        .collect();
    let mut known: Vec<f64> = all.iter().filter_map(|a| a.transparency).collect();
    known.sort_by(f64::total_cmp);
    let at = (CLEAR_QUANTILE * known.len().saturating_sub(1) as f64).ceil() as usize;
    // Of frames that are as clear but for the noise of their stars, the middle.
    let clear = known
        .get(at)
        .and_then(|most| middle(known.iter().copied().filter(|t| *t >= AS_CLEAR * most)));
    if let Some(clear) = clear.filter(|c| *c > 0.0) {
        for a in &mut all {
            a.transparency = a.transparency.map(|t| t / clear);
        }
    }
    all
}

/// A frame that lies on the reference; its transparency still against that one frame.
fn laid(
    (f, stars): (&FrameStars, &[BrightStar]),
    (reference, of_reference): (&FrameStars, &[BrightStar]),
    m: &Matched,
    k_mag: f64,
) -> AgainstReference {
    let ratios = m.pairs.iter().filter_map(|[i, k]| {
        let (own, other) = (stars[*i], of_reference[*k]);
        let whole = !own.clipped && !other.clipped && other.flux_adu > 0.0;
        whole.then(|| own.flux_adu / other.flux_adu)
    });
    let ratios: Vec<f64> = ratios.collect();
    let air = match (f.airmass, reference.airmass) {
        (Some(own), Some(other)) => 10f64.powf(0.4 * k_mag * (own - other)),
        _ => 1.0,
    };
    let enough = ratios.len() >= LEAST_STARS;
    let transparency = middle(ratios.into_iter()).filter(|_| enough).map(|r| r * air);
    let centre = f.size.map(|n| (n as f64 - 1.0) / 2.0);
    let at = m.similarity.apply(centre);
    AgainstReference {
        transparency,
        shift_px: Some([at[0] - centre[0], at[1] - centre[1]]),
        turned_deg: Some(m.similarity.turned_deg()),
        matched: m.pairs.len(),
    }
}
