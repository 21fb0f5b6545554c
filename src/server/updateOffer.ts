import { eq } from "drizzle-orm";
import { z } from "zod";
import { fail, ok, type Result } from "@/core/result";
import { amountToDecimal, parseAmount } from "@/core/units";
import { offers } from "@/db/schema";
import { checkAllReviews } from "./checkReviews";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, lastChange, recordAudit } from "./useCase";

/** A price as seen today, for an offer that is known. `rowVersion` is the one the editor saw. */
export const OfferUpdate = z.object({ offerId: z.string(), rowVersion: z.int(), price: z.string().trim() });
export type OfferUpdate = z.infer<typeof OfferUpdate>;

/** Writes a new price of an offer, seen today. A second editor who saw the old one is told instead of overwriting. */
export async function updateOffer(deps: Deps, actor: Actor, input: OfferUpdate): Promise<Result<{ rowVersion: number; price: string }, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const [offer] = await tx.select().from(offers).where(eq(offers.id, input.offerId)).for("update");
    if (!offer) return fail({ kind: "not-found", what: "offer", id: input.offerId });
    const amount = parseAmount(input.price.replaceAll(/[\s\u2009\u00a0]/g, ""), offer.currency);
    if ("reason" in amount) return fail({ kind: "invalid", reason: `${amount.reason}.` });
    if (amount.minor <= 0) return fail({ kind: "invalid", reason: "A price of 0 is not a price; leave it as it was if the price is not known." });
    const now = `${amountToDecimal({ minor: offer.priceMinor, currency: offer.currency })} ${offer.currency}`;
    if (offer.rowVersion !== input.rowVersion) return fail({ kind: "changed-meanwhile", what: "price", ...(await lastChange(tx, `offer:${offer.id}`)), now });
    const rowVersion = offer.rowVersion + 1;
    const seenOn = offer.kind === "launch" ? offer.seenOn : deps.today;
    await tx.update(offers).set({ priceMinor: amount.minor, seenOn, rowVersion }).where(eq(offers.id, offer.id));
    const price = amountToDecimal({ minor: amount.minor, currency: offer.currency });
    await recordAudit(tx, deps, actor, {
      action: "update price",
      subject: `offer:${offer.id}`,
      detail: { from: now, to: `${price} ${offer.currency}`, seenOn },
    });
    // A price seen anew may settle the doubt that it was old.
    if (seenOn !== offer.seenOn) await checkAllReviews(tx, deps);
    return ok({ rowVersion, price });
  });
}
