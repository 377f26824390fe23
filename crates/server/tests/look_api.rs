//! Looks through the API: pictures that repeat to the byte, boxes that are measured, files that
//! carry their settings, and blind looks that tell nothing before their reveal.

use crate::help::{Api, changed, demo};
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

async fn bytes(api: &Api, path: &str, q: &Value) -> (String, Vec<u8>) {
    let request = Request::post(path)
        .header("content-type", "application/json")
        .body(Body::from(q.to_string()))
        .expect("a request");
    let (status, kind, bytes) = api.send(request).await;
    assert_eq!(
        status,
        StatusCode::OK,
        "{path}: {}",
        String::from_utf8_lossy(&bytes[..bytes.len().min(300)])
    );
    (kind, bytes)
}

fn ask(view: Value) -> Value {
    json!({"scenario": demo(), "view": view})
}

/// The pictures of an answer as rows of four bytes a pixel.
fn unpacked(bytes: &[u8]) -> Vec<([usize; 2], Vec<[u8; 4]>)> {
    let word = |i: usize| {
        u32::from_le_bytes(bytes[i * 4..i * 4 + 4].try_into().expect("four bytes")) as usize
    };
    let mut at = 4 + 8 * word(0);
    (0..word(0))
        .map(|i| {
            let size = [word(1 + 2 * i), word(2 + 2 * i)];
            let end = at + size[0] * size[1] * 4;
            let pixels = bytes[at..end].chunks(4).map(|p| [p[0], p[1], p[2], p[3]]).collect();
            at = end;
            (size, pixels)
        })
        .collect()
}

/// Spread of brightness between neighbours: noise, whatever the structure.
fn roughness(pixels: &[[u8; 4]]) -> f64 {
    let light = |p: &[u8; 4]| f64::from(p[0]) + f64::from(p[1]) + f64::from(p[2]);
    pixels.windows(2).map(|w| (light(&w[0]) - light(&w[1])).abs()).sum::<f64>()
        / pixels.len() as f64
}

#[tokio::test]
async fn the_same_question_gives_the_same_picture_and_another_seed_another() {
    let (one, two) = (Api::new().await, Api::new().await);
    let view = json!({"field_arcsec": 120, "seed": 5});
    let (_, a) = bytes(&one, "/api/v1/look/frames", &ask(view.clone())).await;
    // Another stretch in between, so that the second answer comes from what was kept.
    bytes(
        &one,
        "/api/v1/look/frames",
        &ask(json!({"field_arcsec": 120, "seed": 5, "strength": 0.2})),
    )
    .await;
    assert!(
        a == bytes(&one, "/api/v1/look/frames", &ask(view.clone())).await.1,
        "kept and rendered anew are alike"
    );
    assert!(
        a == bytes(&two, "/api/v1/look/frames", &ask(view)).await.1,
        "another server renders the same"
    );
    assert!(
        a != bytes(&one, "/api/v1/look/frames", &ask(json!({"field_arcsec": 120, "seed": 6})))
            .await
            .1
    );
}

#[tokio::test]
async fn more_time_cleans_the_picture_and_the_truth_has_no_noise() {
    let api = Api::new().await;
    let with = |time: f64, truth: bool| {
        ask(json!({"field_arcsec": 150, "flat": true, "time_fraction": time, "truth": truth,
                "match": "exposure"}))
    };
    let rough = async |q: Value| {
        unpacked(&bytes(&api, "/api/v1/look/frames", &q).await.1)
            .iter()
            .map(|p| roughness(&p.1))
            .collect::<Vec<_>>()
    };
    let (short, long, truth) = (
        rough(with(0.0, false)).await,
        rough(with(1.0, false)).await,
        rough(with(1.0, true)).await,
    );
    for i in 0..3 {
        assert!(long[i] < short[i], "path {i}: {} after all, {} after one sub", long[i], short[i]);
        assert!(truth[i] < 0.5 * long[i], "path {i}: the truth is smooth: {}", truth[i]);
    }
}

#[tokio::test]
async fn a_box_measures_what_the_evaluation_says() {
    let api = Api::new().await;
    let q = json!({"scenario": demo(), "view": {"field_arcsec": 300, "flat": true},
        "box": [-100, -100, 100, 100]});
    let (status, all) = api.call("POST", "/api/v1/look/measure", &[], Some(&q)).await;
    assert_eq!(status, StatusCode::OK);
    let (_, answer) = api.call("POST", "/api/v1/evaluate", &[], Some(&demo())).await;
    let planes = all[0]["planes"].as_array().expect("planes");
    let text = all[0]["text"].as_str().expect("words");
    assert!(text.contains("e- a pixel in 300 s") && text.contains("times as much"), "{text}");
    assert_eq!(planes.len(), 2, "two filters on a mono camera: {planes:?}");
    for (i, line) in ["ha", "oiii"].iter().enumerate() {
        let measured = planes[i]["snr"].as_f64().expect("a figure");
        // The evaluation judges a square of 5 arcsec, the box is forty of them on a side: its sum
        // has forty times the ratio.
        let analytic =
            40.0 * answer["contenders"][0]["quantities"][line]["snr"].as_f64().expect("a figure");
        assert!((measured / analytic - 1.0).abs() < 0.06, "{line}: {measured} against {analytic}");
        assert_eq!(planes[i]["quantity"], *line);
    }
    for bad in [json!([0, 0, 0.5, 100]), json!([0, 0, 100, 0])] {
        let mut q = q.clone();
        q["box"] = bad;
        let (status, problem) = api.call("POST", "/api/v1/look/measure", &[], Some(&q)).await;
        assert_eq!(
            (status, &problem["errors"][0]["path"]),
            (StatusCode::UNPROCESSABLE_ENTITY, &json!("box"))
        );
    }
}

#[tokio::test]
async fn words_name_casts_ghosts_and_slopes_of_every_path() {
    let api = Api::new().await;
    let with_moon = changed(|s| {
        s["sky"]["moon"] = json!({"phase_angle_deg": 30, "altitude_deg": 40, "separation_deg": 50})
    });
    let (status, words) = api
        .call(
            "POST",
            "/api/v1/look",
            &[],
            Some(&json!({"scenario": with_moon, "view": {"field_arcsec": 200}})),
        )
        .await;
    assert_eq!(status, StatusCode::OK);
    let list = words.as_array().expect("words");
    assert_eq!(list.len(), 3);
    let text = words.to_string();
    assert!(text.contains("ackground") && text.contains("slopes by"), "{text}");
    // The unfiltered path has no filter, and still a window before its sensor.
    let ghosts = list[2]["ghosts"][0].as_array().expect("ghosts");
    assert_eq!((ghosts.len(), &ghosts[0]["between"]), (1, &json!("window_and_sensor")));
    // The catalogue knows where IC 443 stands: no star bright enough is invented there.
    let halos = list[0]["halos"]["text"].as_str().expect("words");
    assert!(!halos.contains("is not known"), "{halos}");
}

#[tokio::test]
async fn every_limit_of_a_view_is_named() {
    let api = Api::new().await;
    for (view, path) in [
        (json!({"field_arcsec": 29}), "view.field_arcsec"),
        (json!({"field_arcsec": 3601}), "view.field_arcsec"),
        (json!({"time_fraction": 1.01}), "view.time_fraction"),
        (json!({"strength": -0.1}), "view.strength"),
        (json!({"guiding_rms_arcsec": 11}), "view.guiding_rms_arcsec"),
        (json!({"gap_mm": 0.5}), "view.gap_mm"),
        (json!({"moon_direction_deg": 361}), "view.moon_direction_deg"),
    ] {
        let (status, problem) = api.call("POST", "/api/v1/look", &[], Some(&ask(view))).await;
        assert_eq!(
            (status, &problem["errors"][0]["path"]),
            (StatusCode::UNPROCESSABLE_ENTITY, &json!(path))
        );
    }
    let (status, problem) =
        api.call("POST", "/api/v1/look", &[], Some(&ask(json!({"palette": "sepia"})))).await;
    assert!(status.is_client_error() && problem.to_string().contains("palette"), "{problem}");
}

#[tokio::test]
async fn a_png_carries_the_scenario_that_made_it() {
    let api = Api::new().await;
    let q = json!({"scenario": demo(), "view": {"field_arcsec": 60, "seed": 77}, "contender": 1});
    let (kind, png) = bytes(&api, "/api/v1/look/picture", &q).await;
    assert_eq!(kind, "image/png");
    let text = String::from_utf8_lossy(&png);
    assert!(
        text.contains("Colour, dual band 7 nm")
            && text.contains("\"seed\":77")
            && text.contains("\"salt-lamp-scenario\"")
    );
}

/// Cards of a FITS header, by keyword.
fn cards(fits: &[u8]) -> std::collections::BTreeMap<String, String> {
    let text = |i: usize| String::from_utf8_lossy(&fits[i * 80..(i + 1) * 80]).into_owned();
    let end = (0..fits.len() / 80).find(|&i| text(i).starts_with("END ")).expect("an end");
    (0..end)
        .map(text)
        .filter(|c| c.as_bytes().get(8) == Some(&b'='))
        .map(|c| {
            (
                c[..8].trim().to_owned(),
                c[10..]
                    .split(" /")
                    .next()
                    .unwrap_or("")
                    .trim()
                    .trim_matches('\'')
                    .trim()
                    .to_owned(),
            )
        })
        .collect()
}

#[tokio::test]
async fn a_fits_crop_has_a_header_that_says_how_it_was_made() {
    let api = Api::new().await;
    let centre = json!({"ra_deg": 94.25, "dec_deg": -22.57, "position_angle_deg": 30});
    let q = json!({"scenario": demo(), "view": {"field_arcsec": 60}, "contender": 0, "exposure": 1,
        "centre": centre});
    let (kind, fits) = bytes(&api, "/api/v1/look/fits", &q).await;
    assert_eq!((kind.as_str(), fits.len() % 2880), ("application/fits", 0));
    let all = hdus(&fits);
    assert_eq!((all.len(), all[0]["SIMPLE"].as_str(), all[0]["NAXIS"].as_str()), (2, "T", "0"));
    assert!(all[0]["OBJCTDEC"].starts_with("-22"), "{:?}", all[0]);
    let c = &all[1];
    let number = |key: &str| c[key].parse::<f64>().unwrap_or_else(|_| panic!("{key}: {}", c[key]));
    assert_eq!((c["EXTNAME"].as_str(), number("BITPIX"), number("NAXIS")), ("MONO", -32.0, 2.0));
    assert_eq!(
        (number("EXPTIME"), number("GAIN"), c["FILTER"].as_str(), c["OBJECT"].as_str()),
        (300.0, 100.0, "[O III] 3 nm", "IC 443")
    );
    assert_eq!((number("CCD-TEMP"), c["BUNIT"].as_str()), (-10.0, "electron"));
    assert_eq!((number("CRVAL1"), number("CRVAL2")), (94.25, -22.57));
    assert!(c["OBJCTDEC"].starts_with("-22") && c["OBJCTRA"].starts_with("06"), "{c:?}");
    // One pixel is 206.265 × 3.76 / 495 arcsec, and the axes are turned by the position angle.
    let scale = number("CD1_1").hypot(number("CD2_1")) * 3600.0;
    assert!((scale - 206.265 * 3.76 / 495.0).abs() < 1e-4, "{scale}");
    for (centre, path) in [
        (json!({"ra_deg": 360, "dec_deg": 0}), "centre.ra_deg"),
        (json!({"ra_deg": 0, "dec_deg": 91}), "centre.dec_deg"),
    ] {
        let mut q = q.clone();
        q["centre"] = centre;
        let (status, problem) = api.call("POST", "/api/v1/look/fits", &[], Some(&q)).await;
        assert_eq!(
            (status, &problem["errors"][0]["path"]),
            (StatusCode::UNPROCESSABLE_ENTITY, &json!(path))
        );
    }
    let mut unknown = q.clone();
    unknown["exposure"] = json!(2);
    let (_, problem) = api.call("POST", "/api/v1/look/fits", &[], Some(&unknown)).await;
    assert_eq!(problem["errors"][0]["path"], "exposure");
}

/// The HDUs of a FITS file, each with its cards.
fn hdus(fits: &[u8]) -> Vec<std::collections::BTreeMap<String, String>> {
    let (mut at, mut out) = (0, Vec::new());
    let blocks = |bytes: usize| bytes.div_ceil(2880) * 2880;
    while at < fits.len() {
        let c = cards(&fits[at..]);
        let header =
            ((0..).find(|i| fits[at + i * 80..].starts_with(b"END ")).expect("an end") + 1) * 80;
        let number = |key: &str| c.get(key).map_or(0, |v| v.parse::<i64>().expect(key));
        let data = if number("NAXIS") == 2 {
            number("NAXIS1") * number("NAXIS2") * number("BITPIX").abs() / 8
        } else {
            0
        };
        at += blocks(header) + blocks(data as usize);
        out.push(c);
    }
    assert_eq!(at, fits.len());
    out
}

#[tokio::test]
async fn a_colour_crop_has_an_extension_a_channel_and_a_sub_is_unsigned() {
    let api = Api::new().await;
    let small = changed(|s| {
        s["contenders"][1]["sensor"]["columns"] = json!(64);
        s["contenders"][1]["sensor"]["rows"] = json!(48);
    });
    let q = |kind: &str| {
        json!({"scenario": small, "view": {"field_arcsec": 60}, "contender": 1,
        "kind": kind})
    };
    let all = hdus(&bytes(&api, "/api/v1/look/fits", &q("crop")).await.1);
    assert_eq!(all[0]["NAXIS"], "0");
    let names: Vec<&str> = all[1..].iter().map(|h| h["EXTNAME"].as_str()).collect();
    assert_eq!(names, ["R", "G", "B"]);
    let (_, answer) = api.call("POST", "/api/v1/evaluate", &[], Some(&small)).await;
    let subs = answer["contenders"][1]["exposures"][0]["subs_kept"].as_f64().expect("a number");
    for (h, share) in all[1..].iter().zip([0.25, 0.5, 0.25]) {
        assert_eq!(
            (h["XTENSION"].as_str(), h["BITPIX"].as_str(), h["ROWORDER"].as_str()),
            ("IMAGE", "-32", "BOTTOM-UP")
        );
        assert_eq!(h["NCOMBINE"].parse::<i64>().expect("whole") as f64, subs.round());
        assert_eq!(h["PIXSHARE"].parse::<f64>().expect("a share"), share);
        assert_eq!(h["DATE"].len(), 19, "{}", h["DATE"]);
    }
    let sub = &hdus(&bytes(&api, "/api/v1/look/fits", &q("sub")).await.1)[0];
    assert_eq!(
        (sub["BITPIX"].as_str(), sub["BZERO"].as_str(), sub["BUNIT"].as_str()),
        ("16", "32768", "adu")
    );
    assert_eq!((sub["NAXIS1"].as_str(), sub["ROWORDER"].as_str()), ("64", "BOTTOM-UP"));
}

#[tokio::test]
async fn a_target_that_the_catalogue_does_not_hold_leaves_without_coordinates() {
    let api = Api::new().await;
    let unnamed = changed(|s| s["target"]["name"] = json!("Somebody's cloud"));
    let (_, fits) = bytes(
        &api,
        "/api/v1/look/fits",
        &json!({"scenario": unnamed, "view": {"field_arcsec": 60}}),
    )
    .await;
    let c = cards(&fits);
    assert!(!c.contains_key("CRVAL1") && c["OBJECT"].starts_with("Somebody"), "{c:?}");
}

#[tokio::test]
async fn a_blind_look_tells_nothing_until_it_is_revealed() {
    let api = Api::new().await;
    let (_, begun) =
        api.call("POST", "/api/v1/look/blind", &[], Some(&ask(json!({"field_arcsec": 60})))).await;
    let at = format!("/api/v1/look/blind/{}", begun["id"].as_str().expect("an id"));
    let names: Vec<String> = demo()["contenders"]
        .as_array()
        .expect("paths")
        .iter()
        .map(|c| c["name"].as_str().expect("a name").into())
        .collect();
    let mut seen = begun.to_string();
    let mut rounds = Vec::new();
    for round in 0..2 {
        let request =
            Request::get(format!("{at}/frames/{round}")).body(Body::empty()).expect("a request");
        let (status, kind, frames) = api.send(request).await;
        assert_eq!((status, kind.as_str()), (StatusCode::OK, "application/octet-stream"));
        let pictures = unpacked(&frames);
        assert!(
            pictures.len() == 3 && pictures.iter().all(|p| p.0 == pictures[0].0),
            "a size would tell which camera it was"
        );
        seen += &String::from_utf8_lossy(&frames);
        rounds.push(frames);
    }
    assert!(rounds[0] != rounds[1], "the same noise would be recognised");
    seen += &api.call("GET", "/api/v1/look/blind", &[], None).await.1.to_string();
    assert!(names.iter().all(|n| !seen.contains(n.as_str())), "a name leaked");
    let request = Request::get(format!("{at}/frames/12")).body(Body::empty()).expect("a request");
    assert_eq!(api.send(request).await.0, StatusCode::NOT_FOUND);
    // Nothing is revealed before a round is judged; then ties are taken, and chance has its level.
    let reveal = async || api.call("POST", &format!("{at}/reveal"), &[], None).await;
    assert_eq!(reveal().await.0, StatusCode::UNPROCESSABLE_ENTITY);
    let choose = async |round: usize, places: Value| {
        let chosen = json!({"round": round, "places": places});
        api.call("POST", &format!("{at}/choice"), &[], Some(&chosen)).await
    };
    for wrong in [json!([0, 1]), json!([0, 1, 3])] {
        let (status, problem) = choose(0, wrong).await;
        assert_eq!(
            (status, &problem["errors"][0]["path"]),
            (StatusCode::UNPROCESSABLE_ENTITY, &json!("places"))
        );
    }
    for round in 0..3 {
        assert_eq!(choose(round, json!([0, 1, 1])).await.0, StatusCode::NO_CONTENT);
    }
    let (status, answer) = reveal().await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    let result = &answer["result"];
    let (judged, tied) = (result["pairs"].as_u64(), result["tied"].as_u64());
    let alike = result["alike"].as_u64().expect("a count");
    assert_eq!(judged.zip(tied).map(|(j, t)| j + t), Some(3 * (3 - alike)), "{result}");
    assert!(result["text"].as_str().expect("words").contains("by chance"), "{result}");
    assert_eq!(result["eye_places"].as_array().map(Vec::len), Some(3));
    // One path alone cannot be compared with itself.
    let alone = changed(|s| {
        s["contenders"].as_array_mut().expect("paths").truncate(1);
    });
    let (status, problem) =
        api.call("POST", "/api/v1/look/blind", &[], Some(&json!({"scenario": alone}))).await;
    assert_eq!(
        (status, &problem["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("scenario.contenders"))
    );
}

/// A scenario that was posted is named by its id: every answer is that of the scenario itself.
#[tokio::test]
async fn a_posted_scenario_is_named_afterwards() {
    let api = Api::new().await;
    let post = async |doc: &Value| api.call("POST", "/api/v1/look/scenario", &[], Some(doc)).await;
    let (status, first) = post(&demo()).await;
    assert_eq!(status, StatusCode::CREATED);
    let id = &first["look"];
    assert_eq!(&post(&demo()).await.1["look"], id, "the same content has the same id");
    assert_ne!(&post(&changed(|doc| doc["total_s"] = json!(3600))).await.1["look"], id);
    let view = json!({"field_arcsec": 120, "seed": 5});
    let named = json!({"look": id, "view": view});
    let (_, by_scenario) = bytes(&api, "/api/v1/look/frames", &ask(view.clone())).await;
    assert!(by_scenario == bytes(&api, "/api/v1/look/frames", &named).await.1);
    let (_, words) = api.call("POST", "/api/v1/look", &[], Some(&named)).await;
    assert_eq!(words, api.call("POST", "/api/v1/look", &[], Some(&ask(view.clone()))).await.1);
    let measured = api
        .call(
            "POST",
            "/api/v1/look/measure",
            &[],
            Some(&json!({"look": id, "box": [-40, -40, 40, 40]})),
        )
        .await;
    assert_eq!(measured.0, StatusCode::OK);
    bytes(&api, "/api/v1/look/fits", &json!({"look": id, "view": {"field_arcsec": 60}})).await;
    // What is not known, named twice, or not named at all is told.
    let refused = async |q: Value| {
        let (status, problem) = api.call("POST", "/api/v1/look", &[], Some(&q)).await;
        (status, problem["errors"][0]["path"].clone())
    };
    assert_eq!(refused(json!({"look": "0123", "view": view})).await.0, StatusCode::NOT_FOUND);
    assert_eq!(
        refused(json!({"look": id, "scenario": demo()})).await,
        (StatusCode::UNPROCESSABLE_ENTITY, json!("look"))
    );
    assert_eq!(
        refused(json!({"view": view})).await,
        (StatusCode::UNPROCESSABLE_ENTITY, json!("scenario"))
    );
}
