import type { ImportProblem } from "./importPackage";

/** What use cases may answer instead of a value. */
export type UseCaseProblem =
  | { kind: "not-found"; what: string; id: string }
  | { kind: "changed-meanwhile"; what: string; who: string; at: string; now: string }
  | { kind: "invalid"; reason: string }
  | { kind: "nobody" }
  | ImportProblem;

/** Codes of PostgreSQL and of the connection to it that a person can do something about (PostgreSQL documentation, appendix A). */
const FAILURES: readonly [codes: RegExp, sentence: string][] = [
  [/^(53100|ENOSPC)$/, "The disk is full; nothing of this was stored. Make room and go on: what was stored before is kept."],
  [/^(53200|53300)$/, "The database is out of memory or connections; nothing of this was stored. Wait a moment and go on."],
  [
    /^(57P0[1-3]|08\w{3}|ECONNREFUSED|ECONNRESET|EPIPE|ETIMEDOUT)$/,
    "The database went away; nothing of this was stored. Start it again and go on: what was stored before is kept.",
  ],
];

/** What happened to the machine, in a sentence, where an error says so; undefined for what only a bug can cause. */
export function explainFailure(error: unknown): string | undefined {
  for (let one = error; one instanceof Error; one = one.cause) {
    const code = String((one as Error & { code?: unknown }).code ?? "");
    const found = FAILURES.find(([codes]) => codes.test(code));
    if (found) return found[1];
    if (/Connection terminated|Client has encountered a connection error/i.test(one.message)) return FAILURES[2]?.[1];
  }
  return undefined;
}

/** The HTTP status and the sentence for each kind of problem; no default, so that the list stays complete. */
export function explain(problem: UseCaseProblem): { status: number; sentence: string } {
  switch (problem.kind) {
    case "not-found":
      return { status: 404, sentence: `There is no ${problem.what} ${problem.id} any more; reload the page.` };
    case "changed-meanwhile":
      return {
        status: 409,
        sentence: `${problem.who} changed this ${problem.what} at ${problem.at.slice(11, 16)} UTC while you were at it; it now reads ${problem.now}. Nothing of yours was written: look, and enter it again if it still holds.`,
      };
    case "invalid":
      return { status: 422, sentence: problem.reason };
    case "nobody":
      return { status: 401, sentence: "Say who you are first: choose your name at the top right." };
    case "refused":
      return { status: 422, sentence: `The package has ${problem.total} ${problem.total === 1 ? "mistake" : "mistakes"}; nothing was imported.` };
    case "conflicts":
      return {
        status: 409,
        sentence: `${problem.conflicts.length} rows are in the lab with other content; choose for each which to keep. Nothing was imported.`,
      };
    case "cancelled":
      return { status: 499, sentence: "Cancelled; nothing was imported." };
  }
}
