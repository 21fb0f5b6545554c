import type { ColumnUse } from "./columnUses";
import type { LabNames, PathPattern } from "./pathPattern";

/** An import that was left open, with how far it came. */
export interface OpenIntake {
  id: string;
  label: string;
  madeBy: string;
  madeAt: string;
  files: number;
  settled: number;
  refused: { path: string; reason: string }[];
}

/** An import that has ended: what it brought, what it refused and why. */
export interface PastIntake {
  id: string;
  label: string;
  madeBy: string;
  madeAt: string;
  state: "done" | "cancelled";
  stored: number;
  present: number;
  waiting: number;
  refused: { path: string; reason: string }[];
}

/** What the screen for taking in logs knows beforehand. */
export interface IntakeModel {
  names: LabNames;
  open: OpenIntake[];
  /** The newest first. */
  past: PastIntake[];
  profiles: { fingerprint: string; name: string; uses: ColumnUse[] }[];
  patterns: PathPattern[];
  /** The numbers of runs that each cell has, by `setup/test key`. */
  taken: Record<string, number[]>;
}
