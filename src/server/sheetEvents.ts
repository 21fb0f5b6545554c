import { and, eq } from "drizzle-orm";
import { actualTimes, type Sheet, type SheetEvent } from "@/core/plan";
import type { SheetModel } from "@/core/report";
import type { Tx } from "@/db/client";
import { sheetEvents, stepTimes } from "@/db/schema";

/** Writes one event behind those that are there, in the transaction that carries what it brings. */
export async function appendEvent(tx: Tx, model: SheetModel, event: Omit<SheetEvent, "sequence">, sequence: number): Promise<SheetEvent> {
  const { atMs, ...rest } = event;
  await tx
    .insert(sheetEvents)
    .values({ reviewId: model.review.id, planNumber: model.planNumber, benchId: model.bench.id, sequence, at: new Date(atMs), ...rest });
  return { ...event, sequence };
}

/** Brings the lab's observed times up to date with a sheet. */
export async function learnFromSheet(tx: Tx, model: SheetModel, sheet: Sheet): Promise<void> {
  const at = { reviewId: model.review.id, planNumber: model.planNumber, benchId: model.bench.id };
  await tx.delete(stepTimes).where(and(eq(stepTimes.reviewId, at.reviewId), eq(stepTimes.planNumber, at.planNumber), eq(stepTimes.benchId, at.benchId)));
  const observations = actualTimes(sheet);
  if (observations.length > 0) await tx.insert(stepTimes).values(observations.map((one) => ({ ...at, ...one })));
}

/** Whether a write failed because another screen wrote the same number first. */
export function isTaken(error: unknown): boolean {
  const causes = [error, (error as { cause?: unknown } | undefined)?.cause];
  return causes.some((one) => (one as { code?: string } | undefined)?.code === "23505");
}
