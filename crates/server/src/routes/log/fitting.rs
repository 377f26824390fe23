//! By which light path of a campaign a night's frames were taken, and through which exposure each.

use salt_lamp_core::campaign::Campaign;
use salt_lamp_core::log::{FrameJudged, camera_meant, exposure_meant, filters_of};
use salt_lamp_store::{HeaderName, LogSession, LoggedFrame, NameKind};

use super::ground::Ground;
use super::is_kept;
use super::place::Best;

/// Frames of a night that are of one campaign, with what they were worth.
pub(super) type Night<'a> = &'a [&'a (LoggedFrame, Option<FrameJudged>)];

/// A light path that fits a night.
pub(super) struct Fitting<'a> {
    /// Its index among the campaign's.
    pub(super) path: usize,
    /// The campaign's camera that the night's means; none where it may mean several.
    pub(super) camera: Option<&'a str>,
    /// The campaign's cameras.
    pub(super) cameras: Vec<&'a str>,
    /// Names of the path's filters.
    pub(super) filters: Vec<&'a str>,
    names: &'a [HeaderName],
}

fn explained<'a>(names: &'a [HeaderName], kind: NameKind, said: &str) -> Option<&'a str> {
    let own = |n: &&HeaderName| n.kind == kind && n.said == said;
    names.iter().find(own).map(|n| n.means.as_str())
}

/// What somebody said that a frame's filter means.
pub(crate) fn frame_meaning<'a>(ground: &'a Ground, f: &LoggedFrame) -> Option<&'a str> {
    let said = f.measured.read.header.filter.as_deref().unwrap_or_default();
    explained(&ground.names, NameKind::Filter, said)
}

fn through(f: &LoggedFrame, filters: &[&str], names: &[HeaderName]) -> Option<usize> {
    let said = f.measured.read.header.filter.as_deref().unwrap_or_default();
    exposure_meant(said, explained(names, NameKind::Filter, said), filters)
}

impl<'a> Fitting<'a> {
    /// Of paths with the night's camera, where that is known, the one whose filters fit; of those
    /// that fit as well, the campaign's own. `None` where none has the camera.
    pub(super) fn new(
        c: &'a Campaign,
        session: &LogSession,
        frames: Night,
        names: &'a [HeaderName],
    ) -> Option<Self> {
        let paths = || std::iter::once(c.contender).chain(c.also.iter().copied());
        let sensor = |path: usize| c.scenario.contenders.get(path).map_or("", |c| &c.sensor.name);
        let mut cameras: Vec<&str> = paths().map(sensor).collect();
        cameras.sort_unstable();
        cameras.dedup();
        let said = explained(names, NameKind::Camera, &session.camera);
        let camera = camera_meant(&session.camera, said, &cameras);
        let fitting = |path: usize| {
            let filters = filters_of(c, path);
            frames.iter().filter(|n| through(&n.0, &filters, names).is_some()).count()
        };
        let with_camera = |p: &usize| camera.is_none_or(|name| sensor(*p) == name);
        let most = paths().filter(with_camera).map(fitting).max().unwrap_or(0);
        let path = paths().filter(with_camera).find(|p| fitting(*p) == most)?;
        Some(Self { path, camera, cameras, filters: filters_of(c, path), names })
    }

    /// The exposure of the path that a frame was taken through.
    pub(super) fn exposure(&self, f: &LoggedFrame) -> Option<usize> {
        through(f, &self.filters, self.names)
    }

    /// Of each exposure the kept frame with most stars.
    pub(super) fn best<'f>(&self, frames: Night<'f>) -> Vec<Best<'f>> {
        let mut all: Vec<Best> = Vec::new();
        for (f, j) in frames.iter().filter(|(f, j)| is_kept(f, j.as_ref())) {
            let (Some(x), Some(judged)) = (self.exposure(f), j.as_ref()) else { continue };
            let own = Best { exposure: x, frame: f, judged };
            match all.iter_mut().find(|b| b.exposure == x) {
                Some(b) if b.judged.stars < judged.stars => *b = own,
                Some(_) => {}
                None => all.push(own),
            }
        }
        all
    }
}
