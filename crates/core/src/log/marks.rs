//! What stands out in a night's course, to be marked in its charts: clouds, focus runs, the mount's
//! half turn, the moon's rise and set.

use serde::Serialize;
use utoipa::ToSchema;

use crate::log::quality::{FrameJudged, LEAST_TRANSPARENCY, NightFrame};
use crate::night::ephemeris::{Ephemeris, Place, crossings};

/// What stands out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MarkKind {
    /// Cloud took starlight from frame to frame.
    Cloud,
    /// The focuser was moved.
    Focus,
    /// The mount turned to the other side.
    Flip,
    /// The moon came up.
    Moonrise,
    /// The moon went down.
    Moonset,
}

/// A time, or a span of time, that stands out.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct NightMark {
    /// What.
    pub kind: MarkKind,
    /// When it began, seconds since 1970 UTC.
    pub from_s: f64,
    /// When it ended; the same of what takes no time.
    pub to_s: f64,
    /// In words.
    pub text: String,
}

/// Step in which the moon's height is looked at, s.
const STEP_S: f64 = 600.0;

/// A frame of the sky with its time and what it was worth.
type Seen<'a> = (f64, &'a NightFrame<'a>, &'a FrameJudged);

/// The marks of a night, in the order of time. `place` is where the moon is seen from, where that is
/// known.
pub fn night_marks(
    frames: &[NightFrame],
    judged: &[Option<FrameJudged>],
    place: Option<Place>,
) -> Vec<NightMark> {
    let seen = frames.iter().zip(judged).filter_map(|(f, j)| {
        let j = j.as_ref().filter(|j| j.hfr_px.is_some())?;
        Some((f.start_s?, f, j))
    });
    let mut seen: Vec<Seen> = seen.collect();
    seen.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut all = clouds(&seen);
    for pair in seen.windows(2) {
        all.extend(between(&pair[0], &pair[1]));
    }
    if let (Some(place), Some(first), Some(last)) = (place, seen.first(), seen.last()) {
        all.extend(moon(place, first.0, last.0));
    }
    all.sort_by(|a, b| a.from_s.total_cmp(&b.from_s));
    all
}

/// Runs of frames that cloud took.
fn clouds(seen: &[Seen]) -> Vec<NightMark> {
    let mut all: Vec<NightMark> = Vec::new();
    let mut open = false;
    for (start_s, f, j) in seen {
        let taken = j.transparency.is_some_and(|t| t < LEAST_TRANSPARENCY);
        let to_s = start_s + f.measured.read.header.exposure_s.unwrap_or(0.0);
        match all.last_mut().filter(|_| open && taken) {
            Some(last) => last.to_s = to_s,
            None if taken => all.push(NightMark {
                kind: MarkKind::Cloud,
                from_s: *start_s,
                to_s,
                text: "cloud".to_owned(),
            }),
            None => {}
        }
        open = taken;
    }
    all
}

/// What happened between two frames.
fn between((_, f, own): &Seen, (at_s, g, next): &Seen) -> Vec<NightMark> {
    let mut all = Vec::new();
    let mut say = |kind, text: String| {
        all.push(NightMark { kind, from_s: *at_s, to_s: *at_s, text });
    };
    let (a, b) = (&f.measured.read.header, &g.measured.read.header);
    if let Some((was, is)) = a.focuser_steps.zip(b.focuser_steps).filter(|(a, b)| a != b) {
        say(MarkKind::Focus, format!("focuser from {was:.0} to {is:.0}"));
    }
    let sides = a.pier_side.as_ref().zip(b.pier_side.as_ref());
    // Frames of one filter are turned against one reference; of two each against its own.
    let turned = own.turned_deg.zip(next.turned_deg).filter(|_| a.filter == b.filter);
    let is_turned = turned.is_some_and(|(a, b)| (a - b).to_radians().cos() < 0.0);
    if sides.map_or(is_turned, |(a, b)| a != b) {
        say(MarkKind::Flip, "the mount turned to the other side".to_owned());
    }
    all
}

/// Rise and set of the moon between two times.
fn moon(place: Place, from_s: f64, to_s: f64) -> Vec<NightMark> {
    let Ok(e) = Ephemeris::new(place, from_s - 60.0, to_s + 60.0) else { return Vec::new() };
    let mark = |(at_s, up): (f64, bool)| {
        let (kind, text) = if up {
            (MarkKind::Moonrise, "the moon came up")
        } else {
            (MarkKind::Moonset, "the moon went down")
        };
        NightMark { kind, from_s: at_s, to_s: at_s, text: text.to_owned() }
    };
    let found = crossings(from_s, to_s, STEP_S, |t| e.altitude_deg(&e.moon(t), t));
    found.into_iter().map(mark).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::log::quality::night_judged;
    use crate::log::quality::tests::frame_of_the_sky;
    use crate::night::ephemeris::unix_midnight;

    #[test]
    fn clouds_focus_half_turn_and_moonset_are_marked_where_they_happened() {
        let from_s = unix_midnight(2026, 11, 20).expect("a day") + 4.0 * 3600.0;
        let frames: Vec<_> = (0..30)
            .map(|i| {
                let mut f = frame_of_the_sky();
                let h = &mut f.read.header;
                (h.exposure_s, h.focuser_steps) =
                    (Some(300.0), Some(if i < 8 { 900.0 } else { 912.0 }));
                if (12..15).contains(&i) {
                    f.channels[0].brightest.iter_mut().for_each(|s| s.flux_adu *= 0.5);
                }
                if i >= 20 {
                    f.channels[0].brightest.iter_mut().for_each(|s| {
                        (s.x_px, s.y_px) = (2999.0 - s.x_px, 1999.0 - s.y_px);
                    });
                }
                f
            })
            .collect();
        let seen: Vec<NightFrame> = frames
            .iter()
            .enumerate()
            .map(|(i, measured)| NightFrame {
                measured,
                start_s: Some(from_s + 310.0 * i as f64),
                airmass: None,
                guiding_arcsec: None,
            })
            .collect();
        let judged = night_judged(&seen, &|_| 0.2);
        let place = Place { latitude_deg: 45.9, longitude_deg: -74.6, height_m: 260.0 };
        let all = night_marks(&seen, &judged, Some(place));
        let at = |i: f64| from_s + 310.0 * i;
        let told: Vec<_> = all.iter().filter(|m| m.kind != MarkKind::Moonset).collect();
        let kinds: Vec<_> = told.iter().map(|m| (m.kind, m.from_s, m.to_s)).collect();
        assert_eq!(
            kinds,
            [
                (MarkKind::Focus, at(8.0), at(8.0)),
                (MarkKind::Cloud, at(12.0), at(14.0) + 300.0),
                (MarkKind::Flip, at(20.0), at(20.0)),
            ]
        );
        // The moon of that night, four days before full, sets after midnight.
        let sets: Vec<_> = all.iter().filter(|m| m.kind == MarkKind::Moonset).collect();
        assert!(sets.len() <= 1);
        let long = moon(place, from_s, from_s + 8.0 * 3600.0);
        assert_eq!(long.iter().map(|m| m.kind).collect::<Vec<_>>(), [MarkKind::Moonset]);
        let e = Ephemeris::new(place, long[0].from_s - 60.0, long[0].from_s + 60.0).expect("there");
        assert!(e.altitude_deg(&e.moon(long[0].from_s), long[0].from_s).abs() < 0.05);
    }
}
