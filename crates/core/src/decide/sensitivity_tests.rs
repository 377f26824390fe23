//! Tests of [`super`].

use super::*;

#[test]
fn an_edge_is_found_where_the_winner_turns() {
    let winner = |x: f64| Some(usize::from(x > 20.6) + usize::from(x > 21.5));
    let (edge, then) = edge_between(19.0, 22.0, 0, &winner).unwrap();
    assert!((edge - 20.6).abs() < 1e-6 && then == 1, "{edge} {then}");
    // The other way nothing turns, and from beyond the edge it is the way back that counts.
    assert_eq!(edge_between(19.0, 17.0, 0, &winner), None);
    let (back, then) = edge_between(22.0, 17.0, 2, &winner).unwrap();
    assert!((back - 21.5).abs() < 1e-6 && then == 1, "{back} {then}");
}

#[test]
fn a_crossing_is_that_of_the_closed_form_and_stays_within_its_ends() {
    for root in [-2.0, -0.3, 0.0, 0.7, 2.9] {
        let falling = |x: f64| (root - x).sinh();
        assert!((crossing(-3.0, 3.0, &falling) - root).abs() < 1e-3, "{root}");
        let rising = |x: f64| -falling(x);
        assert!((crossing(3.0, -3.0, &rising) - root).abs() < 1e-3, "{root}");
    }
    assert_eq!(crossing(-3.0, 3.0, &|_| 1.0), 3.0);
    assert_eq!(crossing(-3.0, 3.0, &|_| -1.0), -3.0);
}

#[test]
fn a_sentence_says_factors_above_one_and_ranges_only_where_they_are_open() {
    let range = |low, high| Range { low, middle: (low + high) / 2.0, high };
    let names = ["B (none)".to_owned(), "A (3 nm)".to_owned()];
    let mut f = Flip {
        quantity: Some(Quantity::Ha),
        now: 0,
        then: 1,
        input: FlipInput::Target,
        edge: 0.25,
        edge_range: range(0.2, 0.5),
        turned_already: 0.0,
        text: String::new(),
    };
    assert_eq!(
        sentence(&f, "H-alpha", "fainter", &names),
        "H-alpha: on a target 4.0 times (2.0 to 5.0) fainter, B (none) is faster than A (3 nm)."
    );
    f.edge_range = range(0.25, 0.2501);
    f.turned_already = 0.1;
    let text = sentence(&f, "H-alpha", "fainter", &names);
    assert!(
        text.contains("4.0 times fainter,") && text.ends_with("already in 10 % of the draws."),
        "{text}"
    );
    f.edge_range = range(0.05, 0.4);
    assert!(
        sentence(&f, "H-alpha", "fainter", &names).contains("4.0 times (2.5 to over 20) fainter"),
        "{}",
        sentence(&f, "H-alpha", "fainter", &names)
    );
    f.edge_range = range(0.2, 2.4);
    assert!(
        sentence(&f, "H-alpha", "fainter", &names).contains("4.0 times fainter"),
        "it reaches over to brighter"
    );
    f = Flip {
        input: FlipInput::Zenith,
        edge: 20.6,
        edge_range: range(20.4, 20.9),
        turned_already: 0.0,
        ..f
    };
    assert!(
        sentence(&f, "H-alpha", "darker", &names)
            .starts_with("H-alpha: darker than 20.6 mag/arcsec² (20.4 to 20.9), B")
    );
}
