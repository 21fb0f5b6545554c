import { createHash } from "node:crypto";
import { eq, isNotNull } from "drizzle-orm";
import { checkCells, type Finding, subjectOf } from "@/core/check";
import type { Tx } from "@/db/client";
import * as t from "@/db/schema";
import { loadChecks } from "./loadChecks";
import type { Deps } from "./useCase";

const sha256 = (text: string) => createHash("sha256").update(text).digest("hex");

/** All doubts about the cells of all reviews, each once. */
async function doubtsOf(tx: Tx, today: string): Promise<Map<string, Finding>> {
  const found = new Map<string, Finding>();
  const reviews = await tx.select().from(t.reviews).where(isNotNull(t.reviews.suiteId));
  for (const review of reviews) {
    const input = await loadChecks(tx, review.id, today);
    const findings = input ? checkCells(input) : [];
    for (const finding of findings) found.set(finding.id, finding);
  }
  return found;
}

/**
 * Runs the checks over all reviews and brings the stored findings up to date: new doubts open, doubts whose evidence
 * changed open again, decisions on unchanged evidence stay, doubts without a decision that are no longer raised go.
 */
export async function checkAllReviews(tx: Tx, { today }: Pick<Deps, "today">): Promise<void> {
  const found = await doubtsOf(tx, today);
  const stored = new Map((await tx.select().from(t.findings)).map((row) => [row.id, row]));
  const fresh: (typeof t.findings.$inferInsert)[] = [];
  for (const finding of found.values()) {
    const evidenceSha256 = sha256(`${finding.checkVersion}|${finding.evidence}`);
    const { evidence: _, id, check, checkVersion, ...shown } = finding;
    const evidence = { ...shown, raised: true };
    const row = stored.get(id);
    if (!row) {
      fresh.push({ id, check, checkVersion, subject: subjectOf(finding), state: "open", evidenceSha256, evidence });
    } else if (row.state !== "open" && row.evidenceSha256 !== evidenceSha256) {
      await tx
        .update(t.findings)
        .set({ state: "open", reason: null, who: null, at: null, evidenceSha256, evidence, checkVersion, rowVersion: row.rowVersion + 1 })
        .where(eq(t.findings.id, id));
    } else if (JSON.stringify(row.evidence) !== JSON.stringify(evidence) || row.evidenceSha256 !== evidenceSha256) {
      await tx.update(t.findings).set({ evidenceSha256, evidence, checkVersion }).where(eq(t.findings.id, id));
    }
  }
  if (fresh.length > 0) await tx.insert(t.findings).values(fresh);
  for (const row of stored.values()) {
    if (found.has(row.id)) continue;
    if (row.state === "open") await tx.delete(t.findings).where(eq(t.findings.id, row.id));
    else if (row.evidence)
      await tx
        .update(t.findings)
        .set({ evidence: { ...row.evidence, raised: false } })
        .where(eq(t.findings.id, row.id));
  }
}
