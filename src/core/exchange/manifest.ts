import { z } from "zod";

/** What Parvex needs of a `datapackage.json`; anything else in it is the author's. */
export const Manifest = z.object({
  name: z.string().optional(),
  parvex_format: z.literal(1, "parvex_format must be 1; this version of Parvex reads format 1 only"),
  resources: z.array(z.object({ name: z.string(), path: z.string() })),
});
export type Manifest = z.infer<typeof Manifest>;
