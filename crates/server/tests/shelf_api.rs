//! The shelf, curves and the catalogue through the API: every kind of thing, every field by its
//! name, and curves as people have them.

use crate::help::Api;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use serde_json::{Value, json};

async fn entry(api: &Api, id: &str) -> Value {
    let (_, shelf) = api.call("GET", "/api/v1/shelf?archived=true", &[], None).await;
    shelf
        .as_array()
        .expect("a list")
        .iter()
        .find(|s| s["id"] == id)
        .unwrap_or_else(|| panic!("{id} is on the shelf"))["entry"]
        .clone()
}

/// A JSON pointer from a field's path: `thing.item.sensor.gains[0].setting`.
fn pointer(path: &str) -> String {
    format!("/{}", path.replace(['[', '.'], "/").replace(']', ""))
}

/// The paths that are refused when a field of an entry is set.
async fn refused(api: &Api, id: &str, path: &str, value: Value) -> Vec<String> {
    let mut e = entry(api, id).await;
    *e.pointer_mut(&pointer(path)).unwrap_or_else(|| panic!("{id} has {path}")) = value;
    api.refused("/api/v1/shelf", &e).await
}

#[tokio::test]
async fn every_kind_of_thing_refuses_a_wrong_number_by_its_path() {
    let api = Api::new().await;
    for (id, path, value) in [
        ("larch-lane", "name", json!("")),
        ("larch-lane", "thing.item.latitude_deg", json!(91)),
        ("larch-lane", "thing.item.longitude_deg", json!(-181)),
        ("larch-lane", "thing.item.height_m", json!(20000)),
        ("larch-lane", "thing.item.zenith_v_mag", json!(30)),
        ("larch-lane", "thing.item.k_v", json!(3)),
        ("larch-lane", "thing.item.zone", json!("Nowhere/Town")),
        ("refractor-90", "thing.item.optics.aperture_mm", json!(0)),
        ("refractor-90", "thing.item.optics.focal_length_mm", json!(-500)),
        ("refractor-90", "thing.item.optics.throughput", json!(1.2)),
        ("refractor-90", "thing.item.price", json!(-1)),
        ("mono-26", "thing.item.sensor.pixel_um", json!(0)),
        ("mono-26", "thing.item.sensor.columns", json!(0)),
        ("mono-26", "thing.item.sensor.bits", json!(40)),
        ("mono-26", "thing.item.sensor.gains[1].read_noise_e", json!(-1)),
        ("mono-26", "thing.item.sensor.dark.doubling_k", json!(0)),
        ("mono-26", "thing.item.usual_temperature_c", json!(-200)),
        ("dual-7", "thing.item.filter.n_eff", json!(0.5)),
        ("dual-7", "thing.item.filter.off_band_od", json!(-1)),
        ("dual-7", "thing.item.filter.bands[0].fwhm_nm", json!(0)),
        ("dual-7", "thing.item.filter.bands[1].peak", json!(1.4)),
    ] {
        assert_eq!(refused(&api, id, path, value.clone()).await, [path], "{value}");
    }
}

#[tokio::test]
async fn what_must_fit_together_on_the_shelf_is_checked_together() {
    let api = Api::new().await;
    assert_eq!(
        refused(&api, "reflector-150", "thing.item.optics.obstruction_mm", json!(150)).await,
        ["thing.item.optics.obstruction_mm"]
    );
    let lamps = refused(&api, "larch-lane", "thing.item.lamps", json!({"led_3000k": 0.5})).await;
    assert_eq!(lamps, ["thing.item.lamps"]);
    let horizon =
        refused(&api, "larch-lane", "thing.item.horizon_deg", json!([[100, 10], [90, 10]])).await;
    assert_eq!(horizon, ["thing.item.horizon_deg[1]"]);
    let settings = refused(&api, "mono-26", "thing.item.sensor.gains[1].setting", json!(0)).await;
    assert!(settings.iter().all(|p| p.starts_with("thing.item.sensor.gains")), "{settings:?}");
    let none = refused(&api, "dual-7", "thing.item.filter.bands", json!(null)).await;
    assert!(
        none.iter().any(|p| p.starts_with("thing.item.filter")),
        "a filter has bands or a curve: {none:?}"
    );
}

#[tokio::test]
async fn a_copy_of_anything_is_a_thing_of_its_own() {
    let api = Api::new().await;
    for id in ["larch-lane", "refractor-90", "mono-26", "dual-7"] {
        let mut e = entry(&api, id).await;
        e["name"] = json!(format!("Copy of {id}"));
        e["sources"] = json!({"": "typed"});
        let (status, made) = api.call("POST", "/api/v1/shelf", &[], Some(&e)).await;
        assert_eq!((status, &made["entry"]), (StatusCode::CREATED, &e));
        let new = made["id"].as_str().expect("an id").to_owned();
        assert_ne!(new, id);
        let (_, removed) = api.call("DELETE", &format!("/api/v1/shelf/{new}"), &[], None).await;
        assert_eq!(removed["removed"], "deleted");
        assert_ne!(entry(&api, id).await["name"], e["name"], "the original stays");
    }
}

#[tokio::test]
async fn a_save_needs_the_revision_it_started_from() {
    let api = Api::new().await;
    let e = entry(&api, "dual-7").await;
    let (status, problem) = api.call("PUT", "/api/v1/shelf/dual-7", &[], Some(&e)).await;
    assert!(
        status.is_client_error() && problem["detail"].as_str().expect("words").contains("If-Match"),
        "{problem}"
    );
    let (status, _) =
        api.call("PUT", "/api/v1/shelf/dual-7", &[("if-match", "\"one\"")], Some(&e)).await;
    assert!(status.is_client_error());
    let (status, problem) =
        api.call("PUT", "/api/v1/shelf/dual-7", &[("if-match", "\"7\"")], Some(&e)).await;
    assert_eq!(status, StatusCode::PRECONDITION_FAILED);
    // The current state comes with the refusal, so that nothing typed is lost against it.
    assert_eq!(problem["current"]["entry"], e, "{problem}");
}

#[tokio::test]
async fn gear_in_use_is_put_away_and_comes_back() {
    let api = Api::new().await;
    let (_, _) = api.call("POST", "/api/v1/scenarios", &[], Some(&crate::help::demo())).await;
    let (_, removed) = api.call("DELETE", "/api/v1/shelf/dual-7", &[], None).await;
    assert_eq!(removed["removed"], "archived");
    let (_, shown) = api.call("GET", "/api/v1/shelf", &[], None).await;
    assert!(shown.as_array().expect("a list").iter().all(|s| s["id"] != "dual-7"));
    assert!(entry(&api, "dual-7").await["name"].is_string(), "it is there with what was put away");
    assert_eq!(api.call("POST", "/api/v1/shelf/dual-7/restore", &[], None).await.0, StatusCode::OK);
    let (_, shown) = api.call("GET", "/api/v1/shelf", &[], None).await;
    assert!(shown.as_array().expect("a list").iter().any(|s| s["id"] == "dual-7"));
}

async fn read(api: &Api, text: &str) -> Value {
    let (status, read) =
        api.call("POST", "/api/v1/curves/read", &[], Some(&json!({"text": text}))).await;
    assert_eq!(status, StatusCode::OK, "{text}: {read}");
    read
}

#[tokio::test]
async fn curves_are_understood_as_people_have_them() {
    let api = Api::new().await;
    let same = json!([[500.0, 0.1], [501.0, 0.9], [502.5, 0.2]]);
    for text in [
        "500,0.1\n501,0.9\n502.5,0.2",
        "wavelength_nm,transmission\r\n500,0.1\r\n501,0.9\r\n502.5,0.2\r\n",
        "Wellenlänge;T\n500;10\n501;90\n502,5;20\n",
        "5000\t0.1\n5010\t0.9\n5025\t0.2",
        "# from a spectrometer\n\n500 10\n501 90\n502.5 20\n",
        "502.5,0.2\n501,0.9\n500,0.1",
        "\u{feff}500,0.1\n501,0.9\n502.5,0.2",
        "nm,blocking,T %\n500,1,10\n501,2,90\n502.5,3,20",
    ] {
        let r = read(&api, text).await;
        let curve = &r["curve"];
        let close =
            curve.as_array().expect("a curve").iter().zip(same.as_array().expect("three")).all(
                |(a, b)| {
                    (0..2).all(|i| {
                        (a[i].as_f64().expect("a number") - b[i].as_f64().expect("a number")).abs()
                            < 1e-9
                    })
                },
            );
        assert!(close && curve.as_array().expect("a curve").len() == 3, "{text}: {r}");
        // The last has a third column: which one was taken, and which was not, is for the user to
        // see.
        let third = text.contains("blocking");
        assert_eq!(r["value_column"], if third { 2 } else { 1 }, "{text}: {r}");
        assert_eq!(r["understood"].to_string().contains("not read: blocking"), third, "{r}");
        assert!(
            !r["understood"].as_array().is_none_or(Vec::is_empty),
            "what was understood is said: {r}"
        );
    }
}

#[tokio::test]
async fn an_ecsv_that_was_exported_is_read_back() {
    let api = Api::new().await;
    for id in ["dual-7", "uhc", "mono-26"] {
        let request = Request::get(format!("/api/v1/shelf/{id}/curve.ecsv"))
            .body(Body::empty())
            .expect("a request");
        let (status, kind, text) = api.send(request).await;
        assert!(status == StatusCode::OK && kind.starts_with("text/plain"));
        let text = String::from_utf8(text).expect("text");
        assert!(text.starts_with("# %ECSV 1.0") && text.contains("unit: nm"), "{}", &text[..200]);
        let back = read(&api, &text).await;
        let drawn =
            api.call("POST", "/api/v1/curves/draw", &[], Some(&entry(&api, id).await)).await.1;
        let (a, b) = (
            back["curve"].as_array().expect("a curve").len(),
            drawn.as_array().expect("a curve").len(),
        );
        assert!(a.abs_diff(b) <= 2, "{id}: {a} and {b} points");
    }
    let (status, problem) =
        api.call("POST", "/api/v1/curves/draw", &[], Some(&entry(&api, "larch-lane").await)).await;
    assert_eq!(
        (status, &problem["errors"][0]["path"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("thing.kind"))
    );
}

#[tokio::test]
async fn a_curve_of_two_hundred_thousand_rows_is_told_its_limit() {
    let api = Api::new().await;
    let text: String =
        (0..200_000).map(|i| format!("{},0.5\n", 300.0 + f64::from(i) * 0.004)).collect();
    let (status, problem) =
        api.call("POST", "/api/v1/curves/read", &[], Some(&json!({"text": text}))).await;
    assert!(status.is_client_error(), "{status}");
    assert!(
        problem.to_string().contains("rows") || problem.to_string().contains("large"),
        "{problem}"
    );
}

#[tokio::test]
async fn the_catalogue_is_searched_by_all_that_it_knows() {
    let api = Api::new().await;
    let find = async |query: &str| {
        let (status, found) = api.call("GET", &format!("/api/v1/targets?{query}"), &[], None).await;
        assert_eq!(status, StatusCode::OK, "{query}: {found}");
        found
    };
    for (text, name) in [
        ("ngc7822", "NGC 7822"),
        ("NGC%20%207822", "NGC 7822"),
        ("veil", "Sh2-103"),
        ("western%20veil", "NGC 6960"),
        ("sharpless%20190", "IC 1805"),
        ("m31", "NGC 224"),
        ("M%2031", "NGC 224"),
    ] {
        assert_eq!(find(&format!("text={text}")).await["objects"][0]["name"], name, "{text}");
    }
    let all = find("").await;
    assert!(all["matches"].as_u64() >= Some(14_000), "{}", all["matches"]);
    for o in find("constellation=Cep&kind=planetary_nebula").await["objects"]
        .as_array()
        .expect("objects")
    {
        assert!(o["constellation"] == "Cep" && o["kind"] == "planetary_nebula", "{o}");
    }
    assert!(
        find("text=no%20such%20thing").await["objects"].as_array().expect("objects").is_empty()
    );
}

#[tokio::test]
async fn columns_of_a_curve_are_chosen_by_heading_or_by_hand_and_a_camera_s_colours_leave_with_it()
{
    let api = Api::new().await;
    let text = "wavelength (nm),red,transmission\n450,0.1,0.9\n460,0.2,0.8\n470,0.3,0.7\n";
    let read = async |body: Value| api.call("POST", "/api/v1/curves/read", &[], Some(&body)).await;
    let (_, own) = read(json!({"text": text})).await;
    assert_eq!((own["value_column"].clone(), own["curve"][0][1].clone()), (json!(2), json!(0.9)));
    assert!(own["understood"].to_string().contains("not read: red"), "{own}");
    let (status, by_hand) =
        read(json!({"text": text, "wavelength_column": 0, "value_column": 1})).await;
    assert_eq!((status, by_hand["curve"][0][1].clone()), (StatusCode::OK, json!(0.1)));
    let (status, problem) = read(json!({"text": text, "value_column": 7})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    // The colour camera of the shelf carries its three colours; each can be read back by hand.
    let (_, shelf) = api.call("GET", "/api/v1/shelf", &[], None).await;
    let colour = shelf
        .as_array()
        .expect("a shelf")
        .iter()
        .find(|e| !e["entry"]["thing"]["item"]["sensor"]["cfa_curves"].is_null());
    let id = colour.expect("a colour camera")["id"].as_str().expect("an id").to_owned();
    let asked = Request::get(format!("/api/v1/shelf/{id}/curve.ecsv"))
        .body(Body::empty())
        .expect("a request");
    let file = String::from_utf8(api.send(asked).await.2).expect("text");
    let heading = file.lines().find(|l| !l.starts_with('#')).expect("a heading").to_owned();
    assert!([" r", " g", " b"].iter().all(|c| heading.replace(',', " ").contains(c)), "{heading}");
    let (status, again) = read(json!({"text": file, "value_column": 2})).await;
    assert_eq!((status, again["value_column"].clone()), (StatusCode::OK, json!(2)), "{again}");
}
