//! Tests of [`super`].

use super::*;

fn block(filter: &str, from_s: f64, flip_s: Option<f64>) -> Block {
    Block {
        exposure: 0,
        filter: filter.into(),
        from_s,
        to_s: from_s + 3600.0,
        subs: 20,
        sub_s: 150.0,
        refocuses: 1,
        flip_s,
        snr2: 4.0,
        lines_snr2: BTreeMap::new(),
        locked: false,
        why: "-1 mag darker here,\nso".into(),
    }
}

fn parts(plan: &Plan) -> [(PlanTarget, &Plan); 1] {
    let name = "=IC 443\r\nBEGIN:VALARM";
    [(
        PlanTarget {
            target: name.into(),
            ra_deg: 94.25,
            dec_deg: 22.57,
            coordinates: "06h 17m 00.0s +22\u{b0} 34\u{2032} 12\u{2033}".into(),
        },
        plan,
    )]
}

fn head() -> PlanHead {
    PlanHead {
        site: "Larch; Lane, \"here\"\nX-EVIL:1".into(),
        zone: "America/Toronto".into(),
        date: "2027-01-28".into(),
    }
}

fn plan(blocks: Vec<Block>) -> Plan {
    Plan {
        blocks,
        setup_from_s: Some(1.8e9 - 1200.0),
        last_sub_s: Some(1.8e9 + 7200.0),
        finished_s: Some(1.8e9 + 8100.0),
        flip_lasts_s: 420.0,
        ..Plan::default()
    }
}

fn lines(text: &str) -> Vec<String> {
    // Unfolded (RFC 5545, 3.1).
    text.replace("\r\n ", "").split("\r\n").map(str::to_owned).collect()
}

#[test]
fn a_flip_lasts_what_the_plan_says_and_the_product_is_ours() {
    let p = plan(vec![block("H-alpha 3 nm", 1.8e9, Some(1.8e9 + 1800.0))]);
    let text = plan_ics(&head(), &parts(&p));
    let all = lines(&text);
    let flip = all.iter().position(|l| l == "SUMMARY:Meridian flip").expect("a flip");
    let event: Vec<&String> = all[..flip]
        .iter()
        .rev()
        .take_while(|l| *l != "BEGIN:VEVENT")
        .chain(all[flip..].iter().take_while(|l| *l != "END:VEVENT"))
        .collect();
    let at = |key: &str| event.iter().find_map(|l| l.strip_prefix(key)).expect(key);
    assert_eq!((at("DTSTART:"), at("DTEND:")), ("20270115T083000Z", "20270115T083700Z"));
    assert!(
        all.contains(&format!("PRODID:{PRODID}"))
            && all.iter().filter(|l| l.starts_with("PRODID")).count() == 1
    );
}

#[test]
fn the_same_evening_planned_anew_has_the_same_identities() {
    let uids = |p: &Plan| {
        lines(&plan_ics(&head(), &parts(p)))
            .into_iter()
            .filter(|l| l.starts_with("UID:"))
            .collect::<Vec<_>>()
    };
    let a = uids(&plan(vec![
        block("H-alpha 3 nm", 1.8e9, None),
        block("[O III] 3 nm", 1.8e9 + 3600.0, None),
    ]));
    // Another order, other times, another filter's name: the same running numbers.
    let b =
        uids(&plan(vec![block("[O III]", 1.8e9 + 600.0, None), block("Ha", 1.8e9 + 4200.0, None)]));
    assert_eq!(a, b);
    assert_eq!(a[0], "UID:ic-443-begin-valarm-2027-01-28-1@salt-lamp");
    assert_eq!(a.iter().collect::<std::collections::BTreeSet<_>>().len(), a.len());
}

#[test]
fn names_neither_break_lines_nor_run() {
    let p = plan(vec![block("@filter\n,x", 1.8e9, None)]);
    let ics = lines(&plan_ics(&head(), &parts(&p)));
    assert!(
        !ics.iter().any(|l| l.starts_with("X-EVIL"))
            && ics.iter().filter(|l| *l == "BEGIN:VALARM").count() == 2,
        "{ics:?}"
    );
    let csv = plan_csv(&head(), &parts(&p));
    assert_eq!(csv.lines().count(), 2, "{csv}");
    let row = csv.lines().nth(1).expect("a row");
    assert!(
        row.starts_with("\"'=IC 443 BEGIN:VALARM\",94.250000,22.570000,")
            && row.contains(",\"'@filter ,x\",2027-01-15T08:00:00Z,"),
        "{row}"
    );
    assert!(row.ends_with(",America/Toronto,\"'-1 mag darker here, so\""), "{row}");
    assert_eq!(CSV_HEAD.split(',').count(), 14);
}
