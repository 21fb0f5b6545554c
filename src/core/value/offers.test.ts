import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { addMoney, amountToDecimal, currencyExponent, daysBetween, parseAmount } from "@/core/units";
import { valueRows } from "./costPerFrame";
import { effectivePrice, type Offer, priceOf, type Region } from "./offers";

const NORWAY: Region = { code: "NO", name: "Norway", currency: "NOK", taxIncluded: true, taxRate: 0.25, tariffPerKwh: null };
const TODAY = "2026-11-20";
const offer = (change: Partial<Offer> = {}): Offer => ({
  id: "o1",
  partId: "p",
  region: "NO",
  kind: "street",
  condition: "new",
  price: { minor: 500_000, currency: "NOK" },
  taxIncluded: true,
  rebate: null,
  rebateKind: null,
  shipping: { minor: 0, currency: "NOK" },
  inStock: true,
  shop: "one",
  seenOn: "2026-11-18",
  rowVersion: 1,
  ...change,
});
const price = (...offers: Offer[]) => priceOf("p", offers, NORWAY, "street_lowest", TODAY);

describe("effectivePrice", () => {
  it("takes an instant rebate off, adds shipping, and only names a mail-in rebate", () => {
    const money = (minor: number) => ({ minor, currency: "NOK" });
    const instant = effectivePrice(offer({ rebate: money(30_000), rebateKind: "instant", shipping: money(9_900) }), NORWAY, TODAY);
    expect(instant.ok && instant.value.money.minor).toBe(479_900);
    const mailIn = effectivePrice(offer({ rebate: money(30_000), rebateKind: "mail_in" }), NORWAY, TODAY);
    expect(mailIn.ok && [mailIn.value.money.minor, mailIn.value.notes]).toEqual([500_000, ["mail-in rebate not taken off"]]);
  });

  it("brings a price before tax to the region's custom, and refuses where the rate is not known", () => {
    const before = effectivePrice(offer({ taxIncluded: false }), NORWAY, TODAY);
    expect(before.ok && before.value.money.minor).toBe(625_000);
    const unknown = effectivePrice(offer({ taxIncluded: false }), { ...NORWAY, taxRate: null }, TODAY);
    expect(!unknown.ok && unknown.problem.kind).toBe("tax-basis-unknown");
  });

  it("refuses another currency: converting is a step of its own", () => {
    const other = effectivePrice(offer({ price: { minor: 100, currency: "JPY" } }), NORWAY, TODAY);
    expect(!other.ok && other.problem.kind).toBe("other-currency");
  });

  it("calls a street price stale after 14 days, a launch price never", () => {
    const staleOn = (seenOn: string, kind: Offer["kind"]) => {
      const found = effectivePrice(offer({ seenOn, kind }), NORWAY, TODAY);
      return found.ok && found.value.stale;
    };
    expect([staleOn("2026-11-06", "street"), staleOn("2026-11-05", "street"), staleOn("2026-01-05", "launch")]).toEqual([false, true, false]);
  });
});

describe("priceOf", () => {
  it("takes each shop's newest price, then the lowest in stock", () => {
    const found = price(
      offer({ id: "a", price: { minor: 400_000, currency: "NOK" }, seenOn: "2026-11-01" }),
      offer({ id: "b", price: { minor: 520_000, currency: "NOK" }, seenOn: "2026-11-19" }),
      offer({ id: "c", shop: "two", price: { minor: 510_000, currency: "NOK" } }),
      offer({ id: "d", shop: "three", price: { minor: 300_000, currency: "NOK" }, inStock: false }),
      offer({ id: "e", shop: "four", price: { minor: 200_000, currency: "NOK" }, condition: "used" }),
    );
    expect(found.ok && found.value.offer.id).toBe("c");
  });

  it("has no price where nothing fits, which is not a price of 0", () => {
    const none = price(offer({ kind: "used_sold", condition: "used" }));
    expect(!none.ok && none.problem.kind).toBe("no-offer");
  });
});

describe("valueRows", () => {
  it("knows the rules of the trade: 41 % dearer for 17 % more speed costs 20.5 % more a frame, at 17.0 % worse value", () => {
    // Product definitions: + 20.5 % and − 17.0 %; at 21 % more speed + 16.5 % and − 14.2 %.
    for (const [speed, cost, worth] of [
      [117, 20.5, -17.0],
      [121, 16.5, -14.2],
    ] as const) {
      const [base, dear] = valueRows(
        [
          { id: "a", price: 100, performance: 100 },
          { id: "b", price: 141, performance: speed },
        ],
        "a",
      );
      expect(100 * ((dear?.costPerFrame as number) / (base?.costPerFrame as number) - 1)).toBeCloseTo(cost, 1);
      expect(Math.abs(100 * ((dear?.relativeValue as number) - 1) - worth)).toBeLessThan(0.1);
    }
  });

  it("gives no value for an unknown or zero price, never 0", () => {
    for (const unknown of [undefined, 0, Number.NaN]) {
      const [row] = valueRows(
        [
          { id: "a", price: unknown, performance: 100 },
          { id: "b", price: 10, performance: 10 },
        ],
        "b",
      );
      expect(row).toMatchObject({ costPerFrame: undefined, relativeValue: undefined, onFrontier: undefined, breakEvenPrice: 100 });
    }
  });

  it("scales: prices k times as high cost k times as much a frame and change no relative value", () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ price: fc.integer({ min: 1, max: 9999 }), performance: fc.integer({ min: 1, max: 500 }) }), { minLength: 2, maxLength: 8 }),
        fc.integer({ min: 2, max: 150 }),
        (parts, k) => {
          const rows = (factor: number) =>
            valueRows(
              parts.map(({ price: p, performance }, i) => ({ id: String(i), price: p * factor, performance })),
              "0",
            );
          rows(1).forEach((row, i) => {
            const scaled = rows(k)[i];
            expect((scaled?.costPerFrame as number) / (row.costPerFrame as number)).toBeCloseTo(k, 9);
            expect(scaled?.relativeValue).toBeCloseTo(row.relativeValue as number, 9);
            expect(scaled?.onFrontier).toBe(row.onFrontier);
          });
        },
      ),
    );
  });
});

describe("money", () => {
  it("keeps ISO 4217 decimals: JPY 0, NOK 2, HUF 2, KWD 3", () => {
    expect(["JPY", "NOK", "HUF", "KWD"].map(currencyExponent)).toEqual([0, 2, 2, 3]);
  });

  it("reads and writes amounts exactly, at every size and currency", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 ** 50 }), fc.constantFrom("JPY", "NOK", "KWD"), (minor, currency) => {
        expect(parseAmount(amountToDecimal({ minor, currency }), currency)).toEqual({ minor });
      }),
    );
  });

  it("refuses more decimals than the currency has, a decimal comma, and words", () => {
    expect(parseAmount("100.5", "JPY")).toEqual({ reason: 'JPY has 0 decimal places, "100.5" has more' });
    expect(parseAmount("100,50", "NOK")).toEqual({ reason: '"100,50" is not an amount (a decimal comma? write a point)' });
    expect("reason" in parseAmount("free", "NOK")).toBe(true);
  });

  it("never adds two currencies", () => {
    expect(() => addMoney({ minor: 1, currency: "NOK" }, { minor: 1, currency: "PLN" })).toThrow("NOK and PLN");
  });

  it("counts days over months, leap days and years", () => {
    expect([
      daysBetween("2026-11-06", "2026-11-20"),
      daysBetween("2024-02-28", "2024-03-01"),
      daysBetween("2025-12-31", "2026-01-01"),
      daysBetween("2026-01-02", "2026-01-01"),
    ]).toEqual([14, 2, 1, -1]);
  });
});
