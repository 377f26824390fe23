import { expect, test } from "vitest";
import { csv, harmless, tsv } from "./cells";

test("formulas and line breaks in names are text, numbers stay numbers", () => {
  expect(harmless("=1+1")).toBe("'=1+1");
  expect(harmless("@SUM(A1)")).toBe("'@SUM(A1)");
  expect(harmless("-5 C")).toBe("'-5 C");
  expect(harmless("-5.25")).toBe("-5.25");
  expect(harmless("+3e-2")).toBe("+3e-2");
  expect(harmless(" \t=x")).toBe("'=x");
  expect(harmless("a\r\nb\u2028c")).toBe("a b c");
});

test("a table is CSV with quotes where they are needed", () => {
  expect(
    csv(
      ["Filter", "Sub (s)"],
      [
        ['7 nm, "mine"', 5],
        ["=x", ""],
      ],
    ),
  ).toBe('Filter,"Sub (s)"\r\n"7 nm, ""mine""",5\r\n\'=x,\r\n');
  expect(tsv(["a", "b"], [["=x", "1\t2"]])).toBe("a\tb\n'=x\t1 2");
});
