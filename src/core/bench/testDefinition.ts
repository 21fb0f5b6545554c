import { z } from "zod";
import { Better, CacheState, LoadedComponent, Resolution, Slug, TestKind } from "./schema";

const optionalText = z
  .string()
  .trim()
  .max(2000)
  .transform((text) => (text === "" ? null : text))
  .nullable();
const seconds = z.number("seconds are a number").nonnegative("seconds are not negative").max(86_400, "a day at most").nullable();

/** A test's full written definition: what it takes to repeat it in two years. */
export const TestDefinition = z.object({
  id: Slug,
  workloadId: Slug,
  name: z.string().trim().min(1, "A test needs a name.").max(120),
  kind: TestKind,
  unit: z.string().trim().min(1, "A test needs a unit.").max(20),
  better: Better,
  loads: LoadedComponent.nullable(),
  scene: optionalText,
  resolution: Resolution.nullable(),
  renderResolution: Resolution.nullable(),
  preset: optionalText,
  rayTracing: optionalText,
  upscaling: optionalText,
  frameGeneration: optionalText,
  api: optionalText,
  cache: CacheState.nullable(),
  startAt: optionalText,
  stopAt: optionalText,
  loadS: seconds,
  warmupS: seconds,
  lengthS: seconds,
  resetS: seconds,
  definition: optionalText,
});
export type TestDefinition = z.infer<typeof TestDefinition>;

/** What a test definition should say and does not, in words; empty where it can be repeated as written. */
export function definitionGaps(test: TestDefinition): string[] {
  return [
    !test.scene && "which scene or data",
    !test.startAt && "when the watch starts",
    !test.stopAt && "when it stops",
    test.lengthS === null && "how long it takes",
    !test.loads && "which component it loads",
    test.kind === "frames" && !test.resolution && "at which resolution",
    test.kind === "frames" && !test.preset && "under which preset",
    test.kind === "time" && !test.cache && "cold or warm",
  ].filter((gap) => gap !== false);
}

/** Switches that a workload may be tested under, each with the values to go through. */
export interface TestVariants {
  resolutions: readonly string[];
  presets: readonly string[];
  switches: readonly { field: "rayTracing" | "upscaling" | "frameGeneration" | "api"; values: readonly string[] }[];
}

const slug = (text: string) =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "");

/**
 * Expands one definition into a test for each resolution × preset × value of each switch, in that order. A single
 * value adds nothing to the name; "off" is left out of ids and names. Empty lists keep what the base says.
 */
export function expandTests(base: TestDefinition, variants: TestVariants): TestDefinition[] {
  type Draft = { test: TestDefinition; id: string[]; name: string[] };
  let drafts: Draft[] = [{ test: base, id: [base.id], name: [base.name] }];
  const through = (values: readonly string[], apply: (draft: Draft, value: string, several: boolean) => Draft) => {
    if (values.length > 0) drafts = drafts.flatMap((draft) => values.map((value) => apply(draft, value, values.length > 1)));
  };
  through(variants.resolutions, (draft, resolution) => {
    const height = resolution.split("x")[1] as string;
    return { test: { ...draft.test, resolution, renderResolution: resolution }, id: [...draft.id, height], name: [...draft.name, height] };
  });
  through(variants.presets, (draft, preset, several) => ({
    test: { ...draft.test, preset },
    id: several ? [...draft.id, slug(preset)] : draft.id,
    name: several ? [...draft.name, preset] : draft.name,
  }));
  const words = { rayTracing: "ray tracing", upscaling: "upscaling", frameGeneration: "frame generation", api: "API" } as const;
  for (const { field, values } of variants.switches) {
    through(values, (draft, value, several) => {
      const said = several && value !== "off";
      return {
        test: { ...draft.test, [field]: value },
        id: said ? [...draft.id, slug(`${words[field]} ${value}`)] : draft.id,
        name: said ? [...draft.name, `${words[field]} ${value}`] : draft.name,
      };
    });
  }
  return drafts.map(({ test, id, name }) => ({ ...test, id: id.join("-").slice(0, 120), name: name.join(" ") }));
}
