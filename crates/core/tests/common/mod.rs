//! Scenarios and tables for the tests of behaviour.
#![allow(dead_code)]

use salt_lamp_core::campaign::{CLEAR_SHARE, Campaign, CampaignFraming, CampaignGoal};
use salt_lamp_core::evaluate::Evaluation;
use salt_lamp_core::light::Tables;
use salt_lamp_core::scenario::{Contender, Exposure, Filter, Passband, Scenario, TargetKind};

/// The demo scenario at the bright site: two mono line filters, a dual band, no filter.
pub fn ic_443() -> Scenario {
    read("larch-lane-ic-443")
}

/// A campaign of it with the light path of two mono line filters.
pub fn campaign_of_ic_443() -> Campaign {
    let scenario = ic_443();
    let two = |c: &Contender| c.exposures.len() == 2;
    Campaign {
        title: "IC 443".into(),
        contender: scenario.contenders.iter().position(two).expect("two filters"),
        scenario,
        also: Vec::new(),
        site: String::new(),
        framing: CampaignFraming { ra_deg: 94.25, dec_deg: 22.57, position_angle_deg: 0.0 },
        goals: vec![CampaignGoal { exposure: 0, quantity: None, snr: 20.0 }],
        clear_share: CLEAR_SHARE,
        nights: Vec::new(),
    }
}

/// A shipped demo scenario by its file name.
pub fn read(name: &str) -> Scenario {
    let path = format!("{}/../../data/demo/{name}.json", env!("CARGO_MANIFEST_DIR"));
    serde_json::from_str(&std::fs::read_to_string(&path).expect(&path)).expect(&path)
}

pub fn tables() -> Tables {
    Tables::shipped().expect("shipped tables parse")
}

pub fn evaluate(scenario: &Scenario) -> Evaluation {
    salt_lamp_core::evaluate(&scenario.clone().check().expect("accepted"), &tables())
}

/// A filter of flat-topped bands of one width.
pub fn bands(name: &str, width_nm: f64, centres: &[f64]) -> Filter {
    let band = |&centre_nm: &f64| Passband { centre_nm, fwhm_nm: width_nm, peak: 0.92, order: 3.0 };
    Filter::of_bands(name, centres.iter().map(band).collect())
}

/// A contender with one exposure after another through these filters, equal shares of the clock.
pub fn through(base: &Contender, filters: Vec<Option<Filter>>, sub_s: f64) -> Contender {
    let share = 1.0 / filters.len() as f64;
    let exposures = filters
        .into_iter()
        .map(|filter| Exposure { filter, sub_s, share, weight: 1.0, test_frame: None, binning: 1 })
        .collect();
    Contender { exposures, ..base.clone() }
}

/// Rows of a table in reference/, as text cells.
pub fn reference(name: &str) -> Vec<Vec<String>> {
    let path = format!("{}/../../reference/{name}", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(&path).expect(&path);
    let rows: Vec<Vec<String>> =
        text.lines().skip(1).map(|l| l.split(',').map(str::to_owned).collect()).collect();
    assert!(!rows.is_empty(), "{path} is empty");
    rows
}

pub fn number(cell: &str) -> f64 {
    cell.parse().expect(cell)
}

/// Every kind of target.
pub const KINDS: [TargetKind; 8] = [
    TargetKind::HIiRegion,
    TargetKind::PlanetaryNebula,
    TargetKind::SupernovaRemnant,
    TargetKind::ReflectionNebula,
    TargetKind::Galaxy,
    TargetKind::GalaxyWithHIi,
    TargetKind::DarkNebula,
    TargetKind::Cluster,
];

/// The demo's colour camera alone, behind one filter (or none) at a sub.
pub fn colour_behind(filter: Option<Filter>, sub_s: f64) -> Scenario {
    let mut s = ic_443();
    s.contenders = vec![through(&s.contenders[2], vec![filter], sub_s)];
    s
}
