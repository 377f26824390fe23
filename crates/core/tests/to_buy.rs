//! What to buy next, what could be added, and a colour set as a set.

use crate::common::{bands, ic_443, read, tables, through};
use salt_lamp_core::decide::{AddOn, BuyKind, BuyPlace, BuyQuestion, Study, ToBuy, decide, to_buy};
use salt_lamp_core::library::{Gear, GearFilter, Library, moderate};
use salt_lamp_core::light::{Lamp, Quantity};
use salt_lamp_core::scenario::{
    Contender, Exposure, Goal, Known, Scenario, TargetKind, TargetPart,
};

fn shelf() -> Gear {
    Library::shipped().expect("the library").gear
}

fn place(name: &str, zenith_v_mag: f64, nights_per_year: f64) -> BuyPlace {
    let mut sky = ic_443().sky;
    sky.zenith_v_mag = zenith_v_mag;
    BuyPlace {
        name: name.to_owned(),
        sky,
        seeing_fwhm_arcsec: 2.5,
        nights_per_year,
        hours_per_night: 5.0,
    }
}

fn kinds(list: &[TargetKind]) -> Vec<BuyKind> {
    let library = Library::shipped().expect("the library");
    let one = |kind: &TargetKind| {
        let preset = moderate(&library.targets, *kind).expect("a preset");
        BuyKind { name: preset.label.to_owned(), target: preset.named("it", Known::Typical) }
    };
    list.iter().map(one).collect()
}

/// The answer for a rig that owns these filters of the shelf.
fn asked(rig: &Contender, owned: &[&str], places: &[BuyPlace], list: &[TargetKind]) -> ToBuy {
    let mut filters = shelf().filters;
    filters.iter_mut().for_each(|f| f.mine = owned.contains(&f.id.as_str()));
    let kinds = kinds(list);
    to_buy(&BuyQuestion { rig, filters: &filters, places, kinds: &kinds }, &tables())
}

/// The demo's two rigs: mono f/5.5 and colour f/2.8.
fn rigs() -> [Contender; 2] {
    let s = ic_443();
    [s.contenders[0].clone(), s.contenders[1].clone()]
}

const NEBULAE: [TargetKind; 2] = [TargetKind::HIiRegion, TargetKind::SupernovaRemnant];

#[test]
fn a_city_owner_of_a_mono_camera_with_one_line_is_told_to_buy_the_next_line() {
    let [mono, _] = rigs();
    let city = [place("City", 18.5, 40.0)];
    let answer = asked(&mono, &["ha-7"], &city, &NEBULAE);
    // Nothing owned serves oxygen or sulphur.
    assert!(answer.pictures.iter().all(|p| p.missing.iter().any(|m| m == "[S II]")));
    let first = &answer.next[0];
    assert!(first.name.starts_with("[O III]") || first.name.starts_with("[S II]"), "{first:?}");
    assert!(first.opened_h_per_year > 0.0 && first.why.contains("for"), "{first:?}");
    // The set holds each line once.
    let of = |line: &str| answer.set.names.iter().filter(|n| n.starts_with(line)).count();
    assert_eq!([of("H-alpha"), of("[O III]"), of("[S II]")], [1, 1, 1], "{:?}", answer.set);
    let price = answer.set.price.expect("prices are known");
    assert!(price > 0.0 && answer.set.text.contains("to buy"), "{}", answer.set.text);
}

#[test]
fn what_is_owned_already_is_enough_where_it_is_the_best() {
    let [mono, _] = rigs();
    let city = [place("City", 18.5, 40.0)];
    let owned = ["ha-3", "oiii-3", "sii-3"];
    let answer = asked(&mono, &owned, &city, &NEBULAE);
    assert_eq!(answer.set.owned, 3, "{:?}", answer.set);
    assert!(answer.set.text.starts_with("What you own serves all of it"), "{}", answer.set.text);
    assert!(answer.next.iter().all(|n| n.saved_h_per_year < 20.0), "{:?}", answer.next);
}

/// A galaxy from a dark place wants no filter on a colour camera but one that keeps infrared out.
#[test]
fn a_colour_camera_for_galaxies_in_the_dark_wants_a_uv_ir_cut_and_no_more() {
    let [_, colour] = rigs();
    let dark = [place("Dark", 21.6, 20.0)];
    let answer = asked(&colour, &[], &dark, &[TargetKind::Galaxy]);
    assert_eq!(answer.set.ids, ["uv-ir-cut"], "{:?}", answer.set);
    assert!(answer.next[0].id == "uv-ir-cut", "{:?}", answer.next);
}

/// A mono camera's starlight wants luminance and three colours.
#[test]
fn a_mono_camera_s_starlight_wants_its_colours() {
    let [mono, _] = rigs();
    let dark = [place("Dark", 21.6, 20.0)];
    let answer = asked(&mono, &["lum"], &dark, &[TargetKind::Galaxy]);
    assert_eq!(answer.pictures[0].missing, ["red", "green", "blue"]);
    for colour in ["red", "green", "blue"] {
        assert!(answer.set.ids.iter().any(|id| id.starts_with(colour)), "{:?}", answer.set);
    }
}

/// With one filter more, found by trying, the same pictures take what the answer says.
#[test]
fn hours_saved_are_the_year_s_hours_times_what_a_picture_is_shorter() {
    let [_, colour] = rigs();
    let city = [place("City", 18.5, 40.0)];
    let kind = [TargetKind::SupernovaRemnant];
    let before = asked(&colour, &["dual-12", "sii-oiii"], &city, &kind);
    let best = before.next.iter().find(|n| n.saved_h_per_year > 1.0).expect("a faster filter");
    let after = asked(&colour, &["dual-12", "sii-oiii", &best.id], &city, &kind);
    let (t0, t1) = (before.pictures[0].now_s.expect("t"), after.pictures[0].now_s.expect("t"));
    let expected = 200.0 * (1.0 - t1 / t0);
    assert!((best.saved_h_per_year / expected - 1.0).abs() < 1e-6, "{best:?} {expected}");
}

/// No smaller set of the shelf serves the kinds within a tenth: tried by hand over all pairs.
#[test]
fn the_smallest_set_is_no_larger_than_the_smallest_found_by_trying_all() {
    let [_, colour] = rigs();
    let city = [place("City", 18.5, 40.0)];
    let kind = [TargetKind::SupernovaRemnant];
    let answer = asked(&colour, &[], &city, &kind);
    let best = answer.pictures[0].best_s.expect("served");
    let ids: Vec<String> = shelf().filters.into_iter().map(|f| f.id).collect();
    let serves = |owned: &[&str]| {
        let p = &asked(&colour, owned, &city, &kind).pictures[0];
        p.missing.is_empty() && p.now_s.is_some_and(|t| t <= 1.1 * best)
    };
    let alone = ids.iter().any(|a| serves(&[a]));
    let pair = || ids.iter().enumerate().any(|(i, a)| ids[i + 1..].iter().any(|b| serves(&[a, b])));
    let least = if alone {
        1
    } else if pair() {
        2
    } else {
        3
    };
    assert!(answer.set.ids.len() <= least, "{:?} against {least}", answer.set.ids);
    let chosen: Vec<&str> = answer.set.ids.iter().map(String::as_str).collect();
    assert!(serves(&chosen), "{chosen:?}");
}

fn added(s: &Scenario, gear: &Gear) -> Vec<AddOn> {
    let study = Study::new(s.clone().check().expect("accepted"), &tables());
    decide(&study, gear).paths.remove(0).add_ons
}

fn line_goal() -> Goal {
    Goal {
        quantity: Quantity::Ha,
        part: TargetPart::Outskirts,
        snr: 10.0,
        detail_arcsec: 15.0,
        star_v_mag: None,
    }
}

/// H-alpha is laid over a broadband picture from a filter that is owned, where there is one.
#[test]
fn a_line_on_top_comes_from_what_is_owned_first() {
    let mut s = ic_443();
    s.contenders = vec![s.contenders[2].clone()];
    s.goals = vec![line_goal()];
    let mut gear = shelf();
    let line = |gear: &Gear| {
        added(&s, gear).into_iter().find(|a| a.name.contains("on top")).expect("it helps")
    };
    let bought = line(&gear);
    assert!(bought.text.starts_with("3 h through ") && bought.text.contains("To buy, for"));
    assert!(bought.text.contains("of the outskirts clean at"), "{}", bought.text);
    let own = |f: &mut GearFilter| f.mine = f.id == "ha-12";
    gear.filters.iter_mut().for_each(own);
    let owned = line(&gear);
    assert!(owned.text.contains("through your H-alpha 12 nm"), "{}", owned.text);
    assert!(owned.clock_s > bought.clock_s, "the best there is is faster");
    // Where nobody wants the line, none is proposed.
    s.goals = vec![Goal { quantity: Quantity::Continuum, ..line_goal() }];
    s.target.continuum = read("heron-lake-ngc-2403").target.continuum;
    assert!(added(&s, &gear).iter().all(|a| !a.name.contains("on top")));
}

fn lrgb(lum_share: f64) -> Scenario {
    let mut s = read("heron-lake-ngc-2403");
    let base = s.contenders.iter().find(|c| c.sensor.cfa.is_none()).expect("mono").clone();
    let filter =
        |id: &str| shelf().filters.into_iter().find(|f| f.id == id).expect("on the shelf").filter;
    let colour = (1.0 - lum_share) / 3.0;
    let all = [("lum", lum_share), ("red", colour), ("green", colour), ("blue", colour)];
    let mut c = through(&base, vec![None], 120.0);
    c.exposures = all
        .iter()
        .map(|(id, share)| Exposure {
            filter: Some(filter(id)),
            share: *share,
            ..c.exposures[0].clone()
        })
        .collect();
    s.contenders = vec![c];
    s.goals = vec![Goal {
        quantity: Quantity::Continuum,
        part: TargetPart::Outskirts,
        snr: 10.0,
        detail_arcsec: 10.0,
        star_v_mag: None,
    }];
    // Faint enough that seeing does not end it.
    s.target.outskirts_factor = 0.02;
    s
}

/// From memory: luminance up to three times finer than its colours, and no more.
#[test]
fn luminance_beyond_what_the_colours_can_use_is_told() {
    let told = |share: f64| {
        let list = added(&lrgb(share), &shelf());
        list.into_iter().find(|a| a.name == "luminance and colours").expect("told").text
    };
    assert!(told(0.97).contains("more than the colours can use"), "{}", told(0.97));
    assert!(told(0.5).contains("go together"), "{}", told(0.5));
}

#[test]
fn a_colour_set_is_told_as_a_set_under_the_lamps_of_the_place() {
    let mut s = lrgb(0.5);
    let told = |s: &Scenario| {
        let list = added(s, &shelf());
        list.into_iter().find(|a| a.name == "the colours as a set").expect("told").text
    };
    s.sky.lamps = [(Lamp::HighPressureSodium, 1.0)].into();
    assert!(told(&s).contains("its gap keeps sodium out, 100 % of the lamps here"), "{}", told(&s));
    assert!(told(&s).contains("share [O III]"), "{}", told(&s));
    s.sky.lamps = [(Lamp::Led4000k, 1.0)].into();
    assert!(told(&s).contains("buys nothing here"), "{}", told(&s));
    // A blue of another set ends long before its green begins.
    let mut mixed = s.clone();
    mixed.contenders[0].exposures[3].filter = Some(bands("Other blue", 80.0, &[440.0]));
    assert!(told(&mixed).contains("fall to neither"), "{}", told(&mixed));
    assert!(!told(&s).contains("fall to neither"), "{}", told(&s));
    // Two broad filters are no set.
    s.contenders[0].exposures.truncate(2);
    s.contenders[0].exposures.iter_mut().for_each(|e| e.share = 0.5);
    assert!(added(&s, &shelf()).iter().all(|a| a.name != "the colours as a set"));
}
