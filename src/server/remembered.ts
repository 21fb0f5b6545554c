import { sql } from "drizzle-orm";
import type { Deps } from "./useCase";

/** Answers kept for each database: by their key, with the state of the data that they were made from. */
const kept = new WeakMap<object, Map<string, { seen: string; answer: Promise<unknown> }>>();
const MOST_KEPT = 12;

/**
 * What `load` answers, kept for as long as nothing has been written to the database since: PostgreSQL names by its snapshot
 * exactly which changes a reader sees, so that an answer of the same snapshot is the same answer. The snapshot is taken before
 * the reading: what is written meanwhile makes the next one ask anew. Within a transaction nothing is kept.
 *
 * The answer is shared: it must not be changed. Source: PostgreSQL manual, 9.26.7 (pg_current_snapshot).
 */
export async function remembered<T>(deps: Deps, key: string, load: () => Promise<T>): Promise<T> {
  if (!("$client" in deps.database)) return load();
  const { rows } = await deps.database.execute<{ seen: string }>(sql`select pg_current_snapshot()::text as seen`);
  const seen = `${deps.today} ${rows[0]?.seen}`;
  const answers = kept.get(deps.database) ?? new Map<string, { seen: string; answer: Promise<unknown> }>();
  kept.set(deps.database, answers);
  const before = answers.get(key);
  // Taken out and put back, so that the one not asked for longest stands first.
  answers.delete(key);
  if (before?.seen === seen) {
    answers.set(key, before);
    return before.answer as Promise<T>;
  }
  const answer = load();
  answers.set(key, { seen, answer });
  answer.catch(() => {
    if (answers.get(key)?.answer === answer) answers.delete(key);
  });
  for (const [oldest] of answers) {
    if (answers.size <= MOST_KEPT) break;
    answers.delete(oldest);
  }
  return answer;
}
