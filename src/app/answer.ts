import { randomUUID } from "node:crypto";
import type { z } from "zod";
import type { Result } from "@/core/result";
import { realDeps } from "@/server/deps";
import { explain, explainFailure, type UseCaseProblem } from "@/server/problems";
import type { Actor, Deps } from "@/server/useCase";
import { currentActor } from "./actor";

/** What an action tells its screen: done, or one sentence for the person. */
export type Answer<T> = { ok: true; value: T } | { ok: false; sentence: string };

/** Logs what only a bug or a broken machine can cause, and shows its id instead of its message. */
export function logUnexpected(error: unknown): string {
  const id = randomUUID().slice(0, 8);
  console.error(`error ${id}:`, error);
  const known = explainFailure(error);
  if (known) return known;
  return `Something went wrong here (error ${id}). What was confirmed before is kept; try again.`;
}

/** The way of every action: parse, say who acts, call one use case, answer in words. */
export async function answer<S extends z.ZodType, T>(
  schema: S,
  input: unknown,
  act: (deps: Deps, actor: Actor, input: z.output<S>) => Promise<Result<T, UseCaseProblem>>,
): Promise<Answer<T>> {
  const parsed = schema.safeParse(input);
  if (!parsed.success) return { ok: false, sentence: parsed.error.issues[0]?.message ?? "This cannot be read." };
  try {
    const actor = await currentActor();
    if (!actor) return { ok: false, sentence: explain({ kind: "nobody" }).sentence };
    const result = await act(realDeps(), actor, parsed.data);
    return result.ok ? { ok: true, value: result.value } : { ok: false, sentence: explain(result.problem).sentence };
  } catch (error) {
    return { ok: false, sentence: logUnexpected(error) };
  }
}

/** Refuses a request from another site's page: on loopback there is no sign-in that would stop it. */
export function isForeign(request: Request): boolean {
  const site = request.headers.get("sec-fetch-site");
  return site !== null && site !== "same-origin" && site !== "none";
}
