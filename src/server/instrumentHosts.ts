import { eq } from "drizzle-orm";
import { z } from "zod";
import { fail, ok, type Result } from "@/core/result";
import { instrumentHosts } from "@/db/schema";
import type { UseCaseProblem } from "./problems";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** Where instruments answer: an address of this machine or the lab's own network. */
export const HostDraft = z.object({
  address: z
    .url({ protocol: /^https?$/, error: "Write an address like http://127.0.0.1:4700." })
    .max(200)
    .transform((address) => address.replace(/\/+$/, "")),
  name: z.string().trim().min(1, "Name the instruments.").max(80),
  /** The name of a host that this one takes the place of: stand-ins change their port at every start. */
  replacing: z.string().optional(),
});
export type HostDraft = z.infer<typeof HostDraft>;

/** Tells the lab where instruments answer. */
export async function registerHost(deps: Pick<Deps, "database" | "now">, actor: Actor, input: HostDraft): Promise<Result<null, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    if (input.replacing) await tx.delete(instrumentHosts).where(eq(instrumentHosts.name, input.replacing));
    await tx.insert(instrumentHosts).values({ address: input.address, name: input.name, addedBy: actor.name, addedAt: deps.now() }).onConflictDoNothing();
    if (!input.replacing) await recordAudit(tx, deps as Deps, actor, { action: "add instruments", subject: `instruments:${input.address}`, detail: {} });
    return ok(null);
  });
}

/** Forgets a host of instruments; what it recorded stays. */
export const HostRemoval = z.object({ address: z.string() });
export async function removeHost(deps: Deps, actor: Actor, input: z.infer<typeof HostRemoval>): Promise<Result<null, UseCaseProblem>> {
  return deps.database.transaction(async (tx) => {
    const gone = await tx.delete(instrumentHosts).where(eq(instrumentHosts.address, input.address)).returning();
    if (gone.length === 0) return fail({ kind: "not-found", what: "host of instruments", id: input.address });
    await recordAudit(tx, deps, actor, { action: "remove instruments", subject: `instruments:${input.address}`, detail: {} });
    return ok(null);
  });
}

/** Switches of the stand-ins. */
export const FaultSwitch = z.object({ address: z.string(), on: z.array(z.string()).max(20) });

async function ask(deps: Deps, address: string, path: string, body: unknown): Promise<Result<Record<string, unknown>, UseCaseProblem>> {
  const [host] = await deps.database.select().from(instrumentHosts).where(eq(instrumentHosts.address, address));
  if (!host) return fail({ kind: "not-found", what: "host of instruments", id: address });
  try {
    const response = await fetch(`${host.address}${path}`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(body),
      signal: AbortSignal.timeout(3000),
    });
    const answer = (await response.json()) as Record<string, unknown>;
    return response.ok ? ok(answer) : fail({ kind: "invalid", reason: String(answer.problem ?? "The instruments refused.") });
  } catch {
    return fail({ kind: "invalid", reason: "The instruments do not answer; are they on?" });
  }
}

/** Switches faults of the stand-ins. */
export async function switchFaults(deps: Deps, actor: Actor, input: z.infer<typeof FaultSwitch>): Promise<Result<Record<string, unknown>, UseCaseProblem>> {
  const result = await ask(deps, input.address, "/faults", { on: input.on });
  if (result.ok) await recordAudit(deps.database, deps, actor, { action: "switch faults", subject: `instruments:${input.address}`, detail: { on: input.on } });
  return result;
}

/** A practice: one unknown fault is planted, or the guess is judged and the fault told. */
export const Practice = z.object({ address: z.string(), guess: z.string().nullable() });
export async function practise(deps: Deps, _actor: Actor, input: z.infer<typeof Practice>): Promise<Result<Record<string, unknown>, UseCaseProblem>> {
  return input.guess === null ? ask(deps, input.address, "/practice", {}) : ask(deps, input.address, "/practice/answer", { guess: input.guess });
}
