//! The compare matrix: every path by every quantity as one table, with ratios to the first path.

use serde::Serialize;
use utoipa::ToSchema;

use crate::decide::decisions::DecisionsAnswer;
use crate::decide::differences::recorded;
use crate::decide::study::Study;
use crate::light::lines::Quantity;

/// A column of a table.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Column {
    /// Name in a file: lower case, unit in the name.
    pub key: String,
    /// What several columns are about, such as a line; empty for none.
    pub group: String,
    /// Heading on a page, under its group.
    pub label: String,
    /// Unit as astropy writes it; null for text and plain numbers.
    pub unit: Option<&'static str>,
    /// Whether its cells are text.
    pub is_text: bool,
}

/// A cell: text, a number, or nothing.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
#[serde(untagged)]
pub enum Cell {
    /// Words.
    Text(String),
    /// A number in the column's unit.
    Number(f64),
    /// Not recorded, or out of reach.
    None,
}

/// A table of numbers and words.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Matrix {
    /// What it is about.
    pub title: String,
    /// The columns.
    pub columns: Vec<Column>,
    /// One row a light path, in the scenario's order.
    pub rows: Vec<Vec<Cell>>,
}

/// Makes the matrix of a study and what was decided about it.
pub fn matrix(study: &Study, decisions: &DecisionsAnswer) -> Matrix {
    let (s, evaluation) = (study.scenario(), &study.evaluation);
    let text = |key: &str, label: &str| Column {
        key: key.into(),
        group: String::new(),
        label: label.into(),
        unit: None,
        is_text: true,
    };
    let number = |key: String, group: &str, label: &str, unit| Column {
        key,
        group: group.into(),
        label: label.into(),
        unit,
        is_text: false,
    };
    let mut columns = vec![
        text("path", "Path"),
        text("name", "Name"),
        text("filters", "Filters"),
        number("focal_ratio".into(), "", "f/", None),
        number("pixel_scale_arcsec".into(), "", "Scale", Some("arcsec")),
        number("gain".into(), "", "Gain", None),
    ];
    let judged: Vec<Quantity> = s
        .target
        .judged()
        .filter(|q| evaluation.contenders.iter().any(|c| recorded(c).any(|(other, _)| other == *q)))
        .collect();
    for q in &judged {
        let (key, label) = (q.key(), s.target.name_of(*q));
        columns.push(number(format!("snr_{key}"), label, "SNR", None));
        columns.push(number(format!("clean_{key}_arcsec"), label, "Clean", Some("arcsec")));
        columns.push(number(format!("time_{key}_h"), label, "Time", Some("h")));
        columns.push(number(format!("time_low_{key}_h"), label, "from", Some("h")));
        columns.push(number(format!("time_high_{key}_h"), label, "to", Some("h")));
        columns.push(number(format!("time_ratio_{key}"), label, "× A", None));
        columns.push(number(format!("contrast_{key}"), label, "Contrast", None));
    }
    columns.push(number("price".into(), "", "Price", None));
    let rows = evaluation.contenders.iter().zip(&decisions.paths).enumerate().map(|(i, (c, d))| {
        let filters: Vec<&str> =
            c.exposures.iter().map(|e| e.filter.as_deref().unwrap_or("no filter")).collect();
        let mut row = vec![
            Cell::Text(char::from(b'A' + i as u8).to_string()),
            Cell::Text(c.name.clone()),
            Cell::Text(filters.join(" + ")),
            Cell::Number(c.focal_ratio),
            Cell::Number(c.pixel_scale_arcsec),
            Cell::Number(s.contenders[i].gain),
        ];
        let maybe = |x: Option<f64>| x.map_or(Cell::None, Cell::Number);
        for q in &judged {
            let own = recorded(c).find(|(other, _)| other == q).map(|(_, a)| a);
            let ratio = d.differences.iter().find(|d| d.quantity == *q).and_then(|d| d.time_ratio);
            row.push(maybe(own.map(|a| a.snr)));
            row.push(maybe(own.and_then(|a| a.clean_arcsec)));
            row.push(maybe(own.and_then(|a| a.time_to_goal_s).map(|t| t / 3600.0)));
            let range = d
                .ranges
                .get(q)
                .and_then(|r| r.time_to_goal_s)
                .filter(|_| own.is_some_and(|a| a.time_to_goal_s.is_some()));
            row.push(maybe(range.map(|r| r.low / 3600.0)));
            row.push(maybe(range.map(|r| r.high / 3600.0)));
            row.push(maybe(if i == 0 {
                own.and_then(|a| a.time_to_goal_s).map(|_| 1.0)
            } else {
                ratio
            }));
            row.push(maybe(own.and_then(|a| a.contrast)));
        }
        row.push(maybe(d.worth.first().and_then(|w| w.price)));
        row
    });
    Matrix { title: s.title.clone(), rows: rows.collect(), columns }
}
