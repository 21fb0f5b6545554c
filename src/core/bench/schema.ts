import { z } from "zod";

/** The words of the laboratory. Every table, file and screen uses these values. */
export const PartKind = z.enum(["cpu", "gpu", "cooler", "board", "memory", "psu", "storage", "system"]);
export type PartKind = z.infer<typeof PartKind>;

export const TestKind = z.enum(["frames", "time", "score", "rate", "soak", "sound"]);
export type TestKind = z.infer<typeof TestKind>;

export const Better = z.enum(["higher", "lower", "none"]);
export type Better = z.infer<typeof Better>;

export const LoadedComponent = z.enum(["cpu", "gpu", "memory", "storage", "mixed"]);
export const CacheState = z.enum(["cold", "warm"]);
export const SetupRole = z.enum(["subject", "peer", "owned"]);
export type SetupRole = z.infer<typeof SetupRole>;

export const RunStatus = z.enum(["valid", "discarded", "failed"]);
export type RunStatus = z.infer<typeof RunStatus>;

export const LowSchool = z.enum(["percentile", "tail_mean", "time_share"]);
export type LowSchool = z.infer<typeof LowSchool>;

export const OfferKind = z.enum(["launch", "street", "used_sold"]);
export type OfferKind = z.infer<typeof OfferKind>;
export const OfferCondition = z.enum(["new", "refurbished", "used"]);
export const RebateKind = z.enum(["instant", "mail_in"]);

export const PowerAt = z.enum(["device", "package", "wall"]);
export type PowerAt = z.infer<typeof PowerAt>;

export const FindingState = z.enum(["open", "accepted", "dismissed"]);
export type FindingState = z.infer<typeof FindingState>;

/** A short id of the author's own: lower-case letters, digits, `.`, `_` and `-`, unique in the lab. */
export const Slug = z
  .string()
  .max(120, "an id has at most 120 characters")
  .regex(/^[a-z0-9][a-z0-9._-]*$/, "an id is made of a–z, 0–9, . _ - and begins with a letter or digit");

/** `2560x1440`: width and height in pixels. */
export const Resolution = z.string().regex(/^[1-9]\d{1,4}x[1-9]\d{1,4}$/, "a resolution reads like 2560x1440");
