import { eq } from "drizzle-orm";
import type { Database, Tx } from "@/db/client";
import { audit, people } from "@/db/schema";

/** What a use case works with; tests and jobs build their own. */
export interface Deps {
  database: Database;
  now: () => Date;
  /** The calendar day that prices are judged by; stands still in the demo. */
  today: string;
  /** Where uploads wait. */
  dataDir: string;
}

/** Who acts. A real sign-in will fill this in later; use cases only ever see this. */
export interface Actor {
  personId: string;
  name: string;
}

/** Leaves the trace of an action, in the transaction that carries it. */
export async function recordAudit(
  tx: Tx,
  deps: Deps,
  actor: Actor,
  entry: { action: string; subject: string; detail?: Record<string, unknown> },
): Promise<void> {
  await tx.insert(audit).values({ at: deps.now(), who: actor.personId, detail: {}, ...entry });
}

/** The people of the lab. */
export async function listPeople({ database }: Deps): Promise<{ id: string; name: string; role: string }[]> {
  return database.select().from(people).orderBy(people.name);
}

/** A person as an actor, or undefined where nobody has that id. */
export async function findActor({ database }: Deps, personId: string): Promise<Actor | undefined> {
  const [person] = await database.select().from(people).where(eq(people.id, personId));
  return person && { personId: person.id, name: person.name };
}

/** Who changed a row last, from the audit trail. */
export async function lastChange(tx: Tx, subject: string): Promise<{ who: string; at: string }> {
  const [last] = await tx
    .select({ name: people.name, at: audit.at })
    .from(audit)
    .innerJoin(people, eq(people.id, audit.who))
    .where(eq(audit.subject, subject))
    .orderBy(audit.id)
    .then((rows) => rows.slice(-1));
  return { who: last?.name ?? "Somebody", at: (last?.at ?? new Date(0)).toISOString() };
}
