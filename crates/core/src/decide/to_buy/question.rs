//! What is asked about a purchase, and what is answered.

use serde::Serialize;
use utoipa::ToSchema;

use crate::library::gear::GearFilter;
use crate::scenario::rig::Contender;
use crate::scenario::sky::Sky;
use crate::scenario::target::Target;

/// A place at which the rig stands, with the nights that one gets there.
#[derive(Clone, Debug, PartialEq)]
pub struct BuyPlace {
    /// Its name.
    pub name: String,
    /// Its sky.
    pub sky: Sky,
    /// Stars at the zenith, arcsec.
    pub seeing_fwhm_arcsec: f64,
    /// Clear nights in a year on which one shoots there.
    pub nights_per_year: f64,
    /// Hours of exposure in each.
    pub hours_per_night: f64,
}

/// A kind of target, by one that stands for it.
#[derive(Clone, Debug, PartialEq)]
pub struct BuyKind {
    /// The kind in words.
    pub name: String,
    /// What stands for it.
    pub target: Target,
}

/// What is asked.
#[derive(Clone, Copy)]
pub struct BuyQuestion<'a> {
    /// The rig; its exposures do not count.
    pub rig: &'a Contender,
    /// Every filter, those that are owned marked so.
    pub filters: &'a [GearFilter],
    /// The places.
    pub places: &'a [BuyPlace],
    /// The kinds.
    pub kinds: &'a [BuyKind],
}

/// How long a picture of a kind takes at a place.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PictureTime {
    /// The place.
    pub place: String,
    /// The kind in words.
    pub kind: String,
    /// Clock time with what is owned until every goal that it serves is met, s; null where it
    /// serves none.
    pub now_s: Option<f64>,
    /// The goals that nothing owned serves: "[S II]".
    pub missing: Vec<String>,
    /// Clock time with every filter there is, s; null where none serves it.
    pub best_s: Option<f64>,
}

/// What one filter more would save.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct NextFilter {
    /// Id on the shelf.
    pub id: String,
    /// Its name.
    pub name: String,
    /// Its price.
    pub price: Option<f64>,
    /// Hours that it saves in a year, place by place, for the same pictures.
    pub saved_h: Vec<f64>,
    /// Together.
    pub saved_h_per_year: f64,
    /// Hours a year of pictures that gain a light which nothing owned serves.
    pub opened_h_per_year: f64,
    /// Price for each hour saved in the first year; null where no price is known or nothing is
    /// saved.
    pub price_per_hour: Option<f64>,
    /// Why, in a sentence.
    pub why: String,
}

/// A set that serves every kind at every place within a tenth of the best there is.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SmallestSet {
    /// Ids on the shelf.
    pub ids: Vec<String>,
    /// Names, those that are owned first.
    pub names: Vec<String>,
    /// How many of them are owned.
    pub owned: usize,
    /// Price of the others; null where one has none.
    pub price: Option<f64>,
    /// In a sentence.
    pub text: String,
}

/// What to buy.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct ToBuy {
    /// The places, in order.
    pub places: Vec<String>,
    /// How long pictures take now and at best.
    pub pictures: Vec<PictureTime>,
    /// Filters that are not owned, those that bring most first; those that bring nothing left out.
    pub next: Vec<NextFilter>,
    /// The smallest set that serves everything.
    pub set: SmallestSet,
}
