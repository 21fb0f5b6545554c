import type { OfferKind } from "@/core/bench";
import { fail, ok, type Result } from "@/core/result";
import { addMoney, daysBetween, type Money } from "@/core/units";

/** A place with its currency and its custom of showing prices. */
export interface Region {
  code: string;
  name: string | null;
  currency: string;
  taxIncluded: boolean;
  /** Sales tax or VAT as a share of the price before tax; null where not known. */
  taxRate: number | null;
  tariffPerKwh: number | null;
}

/** One observed price of one part. */
export interface Offer {
  id: string;
  partId: string;
  region: string;
  kind: OfferKind;
  condition: "new" | "refurbished" | "used" | null;
  price: Money;
  taxIncluded: boolean | null;
  rebate: Money | null;
  rebateKind: "instant" | "mail_in" | null;
  shipping: Money | null;
  inStock: boolean | null;
  shop: string | null;
  seenOn: string;
  rowVersion: number;
}

/** How a price is chosen from the offers: the lowest new street price in stock, or the launch price. */
export type PriceRule = "street_lowest" | "launch";

/** Older prices than this are stale. */
export const STALE_PRICE_DAYS = 14;

/** What a buyer pays, and how that came about. */
export interface EffectivePrice {
  money: Money;
  offer: Offer;
  ageDays: number;
  stale: boolean;
  /** What was added, taken off or assumed, in words. */
  notes: string[];
}

export type PriceProblem =
  | { kind: "no-offer"; partId: string; region: string }
  | { kind: "other-currency"; offerId: string; currency: string; wanted: string }
  | { kind: "tax-basis-unknown"; offerId: string; region: string }
  | { kind: "no-price"; offerId: string };

/**
 * What one offer costs a buyer in its region: instant rebates come off, known shipping is added, tax is brought to the
 * region's custom. A mail-in rebate is not taken off (many are never paid) but named.
 *
 * Errors: another currency (converting is a step of its own), an unknown tax basis, a price that is not above 0.
 * Source: common practice.
 */
export function effectivePrice(offer: Offer, region: Region, todayIsoDate: string): Result<EffectivePrice, PriceProblem> {
  if (offer.price.currency !== region.currency) {
    return fail({ kind: "other-currency", offerId: offer.id, currency: offer.price.currency, wanted: region.currency });
  }
  if (!(offer.price.minor > 0)) return fail({ kind: "no-price", offerId: offer.id });
  const notes: string[] = [];
  let minor = offer.price.minor;
  const basis = offer.taxIncluded ?? region.taxIncluded;
  if (offer.taxIncluded === null) notes.push(`tax basis not recorded, taken as the region's (${basis ? "included" : "not included"})`);
  if (basis !== region.taxIncluded) {
    if (region.taxRate === null) return fail({ kind: "tax-basis-unknown", offerId: offer.id, region: region.code });
    minor = Math.round(region.taxIncluded ? minor * (1 + region.taxRate) : minor / (1 + region.taxRate));
    notes.push(region.taxIncluded ? "tax added" : "tax taken off");
  }
  let money: Money = { minor, currency: region.currency };
  if (offer.rebate && offer.rebateKind === "instant") {
    money = addMoney(money, { ...offer.rebate, minor: -offer.rebate.minor });
    notes.push("instant rebate taken off");
  } else if (offer.rebate) {
    notes.push("mail-in rebate not taken off");
  }
  if (offer.shipping) {
    money = addMoney(money, offer.shipping);
    if (offer.shipping.minor > 0) notes.push("shipping added");
  } else {
    notes.push("shipping not known");
  }
  if (!(money.minor > 0)) return fail({ kind: "no-price", offerId: offer.id });
  const ageDays = daysBetween(offer.seenOn, todayIsoDate);
  return ok({ money, offer, ageDays, stale: offer.kind !== "launch" && ageDays > STALE_PRICE_DAYS, notes });
}

/**
 * The price of a part in a region under a rule, from the newest observation of each shop.
 *
 * `street_lowest`: the lowest of new, in-stock street offers; where stock is unknown an offer counts, and where nothing is
 * in stock there is no price. `launch`: the launch price.
 * Errors: `no-offer` where none fits; otherwise why the only fitting ones cannot be used. Unknown is never 0.
 */
export function priceOf(partId: string, offers: readonly Offer[], region: Region, rule: PriceRule, todayIsoDate: string): Result<EffectivePrice, PriceProblem> {
  const kind = rule === "launch" ? "launch" : "street";
  const fitting = offers.filter(
    (offer) =>
      offer.partId === partId && offer.region === region.code && offer.kind === kind && (offer.condition ?? "new") === "new" && offer.seenOn <= todayIsoDate,
  );
  const newest = new Map<string, Offer>();
  for (const offer of fitting) {
    const key = offer.shop ?? offer.id;
    const held = newest.get(key);
    if (!held || offer.seenOn > held.seenOn || (offer.seenOn === held.seenOn && offer.id > held.id)) newest.set(key, offer);
  }
  const usable = [...newest.values()].filter((offer) => kind === "launch" || offer.inStock !== false);
  const priced = usable.map((offer) => effectivePrice(offer, region, todayIsoDate));
  const good = priced.flatMap((price) => (price.ok ? [price.value] : []));
  good.sort((a, b) => a.money.minor - b.money.minor || (a.offer.id < b.offer.id ? -1 : 1));
  const [best] = good;
  if (best) return ok(best);
  const refused = priced.find((price) => !price.ok);
  return refused && !refused.ok ? refused : fail({ kind: "no-offer", partId, region: region.code });
}

/** A problem with a price, for people. */
export function priceProblemText(problem: PriceProblem): string {
  switch (problem.kind) {
    case "no-offer":
      return "no offer in stock";
    case "other-currency":
      return `priced in ${problem.currency}, not ${problem.wanted}`;
    case "tax-basis-unknown":
      return "tax rate not known";
    case "no-price":
      return "price not above 0";
  }
}
