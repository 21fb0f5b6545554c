/** What can go wrong because of a person or a log is data: a value, or a problem with a kind and the facts to mend it. */
export type Result<T, P extends { kind: string }> = { ok: true; value: T } | { ok: false; problem: P };

/** Wraps a value as a success. */
export const ok = <T>(value: T): { ok: true; value: T } => ({ ok: true, value });

/** Wraps a problem as a failure. */
export const fail = <P extends { kind: string }>(problem: P): { ok: false; problem: P } => ({ ok: false, problem });
