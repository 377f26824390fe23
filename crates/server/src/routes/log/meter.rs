//! Files of a sky meter and a cloud watcher: what they make of a site, and what they read last.

use std::io::{Read, Seek, SeekFrom};
use std::path::Path;

use axum::Json;
use axum::extract::State;
use salt_lamp_core::library::ShelfThing;
use salt_lamp_core::log::{MeterTaught, meter_taught};
use salt_lamp_formats::readings::{Instrument, Reading, read_readings};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

use crate::http::extract::Body;
use crate::{App, Problem};

pub(super) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(of_meter))
}

/// A sky meter's file, and the site that it stood at.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct MeterFile {
    /// Id of the site on the shelf.
    site: String,
    /// The file: JSON lines or comma-separated values.
    text: String,
}

/// What a sky meter's readings make of a site: its zenith, and hours at which lamps go out. Nothing
/// is changed.
#[utoipa::path(post, operation_id = "log_meter", path = "/log/meter", request_body = MeterFile,
    responses((status = 200, body = MeterTaught), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
async fn of_meter(
    State(app): State<App>,
    Body(q): Body<MeterFile>,
) -> Result<Json<MeterTaught>, Problem> {
    let ShelfThing::Site(site) = app.store.shelf_entry(&q.site).await?.entry.thing else {
        return Err(Problem::field("site", "this is no site; give the id of one"));
    };
    let work = app.heavy(move |_, _| {
        let all = read_readings(Instrument::SkyMeter, &q.text)
            .map_err(|why| Problem::field("text", why))?;
        let pairs: Vec<(f64, f64)> = all.iter().map(|r| (r.at_s, r.value)).collect();
        meter_taught(&site, &pairs)?.ok_or_else(|| {
            Problem::field(
                "text",
                "less than half an hour of it is dark, moonless and clear: nothing is \
                 learned",
            )
        })
    });
    Ok(Json(work.await??))
}

/// What instruments beside the frames read last.
#[derive(Clone, Copy, Debug, Default, Serialize, ToSchema)]
pub(super) struct SeenNow {
    /// Brightness of the zenith, V mag/arcsec^2; null where no meter's file lies beside the frames.
    sky_v_mag: Option<f64>,
    /// Share of the sky that is clouded, 0-1.
    cover: Option<f64>,
    /// When the later of both was read, seconds since 1970 UTC.
    at_s: Option<f64>,
}

/// Readings older than this say nothing of now, s.
const STALE_S: f64 = 1800.0;
/// Bytes at a file's end that hold its last readings.
const TAIL_BYTES: u64 = 65_536;

/// The last readings until a moment of the instruments whose files (`sky-meter.jsonl` or `.csv`,
/// `clouds.jsonl` or `.csv`) lie in a folder.
pub(super) fn seen_now(folder: &Path, at_s: f64) -> SeenNow {
    let of = |what, name: &str| {
        ["jsonl", "csv"]
            .iter()
            .find_map(|kind| last(what, &folder.join(format!("{name}.{kind}")), at_s))
    };
    let (sky, cover) =
        (of(Instrument::SkyMeter, "sky-meter"), of(Instrument::CloudWatcher, "clouds"));
    SeenNow {
        sky_v_mag: sky.map(|r| r.value),
        cover: cover.map(|r| r.value),
        at_s: sky.into_iter().chain(cover).map(|r| r.at_s).reduce(f64::max),
    }
}

fn last(what: Instrument, file: &Path, at_s: f64) -> Option<Reading> {
    let text = tail(file).ok()?;
    let all = read_readings(what, &text).ok()?;
    let own = all.into_iter().rfind(|r| r.at_s <= at_s)?;
    (at_s - own.at_s < STALE_S).then_some(own)
}

/// A file's head line, where it is a table, and its end.
fn tail(file: &Path) -> std::io::Result<String> {
    let mut f = std::fs::File::open(file)?;
    let length = f.metadata()?.len();
    let mut text = String::new();
    if length > 2 * TAIL_BYTES {
        let mut head = vec![0; 4096];
        let n = f.read(&mut head)?;
        let head = String::from_utf8_lossy(&head[..n]).into_owned();
        let first = head.lines().next().unwrap_or_default();
        if !first.starts_with('{') {
            text = format!("{first}\n");
        }
        f.seek(SeekFrom::End(-(TAIL_BYTES as i64)))?;
        let mut end = Vec::new();
        f.read_to_end(&mut end)?;
        let end = String::from_utf8_lossy(&end);
        // The first line of it is cut.
        text.push_str(end.split_once('\n').map_or("", |(_, rest)| rest));
    } else {
        f.read_to_string(&mut text)?;
    }
    Ok(text)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_reading_until_a_moment_counts_while_it_is_fresh() {
        let dir = tempfile::tempdir().expect("a folder");
        let line = |i: u32| {
            format!("{},{:.2}\n", 1_801_167_300 + 60 * i, 18.0 + f64::from(i % 500) * 1e-2)
        };
        // Longer than what is read of its end.
        let table: String = (0..8000).map(line).collect();
        std::fs::write(dir.path().join("sky-meter.csv"), format!("time,mag\n{table}"))
            .expect("written");
        let at = |i: f64| 1_801_167_300.0 + 60.0 * i;
        let seen = seen_now(dir.path(), at(7990.4));
        assert_eq!((seen.sky_v_mag, seen.cover), (Some(22.9), None));
        assert_eq!(seen.at_s, Some(at(7990.0)));
        assert_eq!(seen_now(dir.path(), at(8100.0)).sky_v_mag, None);
        assert_eq!(seen_now(&dir.path().join("nowhere"), at(1.0)).at_s, None);
        std::fs::write(
            dir.path().join("clouds.jsonl"),
            "{\"at\": \"2027-01-28T20:15:00Z\", \"cover\": 0.4}\n{\"at\": \"2027-01-2",
        )
        .expect("written");
        assert_eq!(seen_now(dir.path(), at(1.0)).cover, Some(0.4));
    }
}
